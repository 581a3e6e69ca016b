//! Regular expressions that are runs of characters one after the other, such as
//! `^[A-Z]+-([0-9]{4})-`.
//!
//! One of several texts may stand between them, and some may be left out. Where the characters of a
//! run are none that what follows can begin with, nothing is ever to be tried twice from one place:
//! the run takes as many characters as it can. Else other lengths are tried, as the expression
//! prefers them, up to a limit. Most expressions that take something out of a code are such.

use regex_syntax::hir::{Class, Hir, HirKind, Look};

/// From how many places a match is tried in a text; then the expression as a whole goes on, whose
/// time does not grow with the tries.
pub(super) const TRIES: usize = 16;

/// An expression for texts of ASCII.
pub(super) struct ClassRuns {
    /// A match begins where the text does.
    at_start: bool,
    /// For each byte the runs it can be in, a bit each.
    within: Box<[u64; 256]>,
    /// The runs a match can begin with.
    first: u64,
    /// The run that comes first, where it may be of any length: a match that fails from its
    /// beginning fails from every place in it.
    endless: u64,
    steps: Vec<Step>,
}

enum Step {
    /// That many bytes of the run whose bit this is.
    Run {
        bit: u64,
        least: usize,
        most: usize,
        choice: Choice,
    },
    /// One byte of the run whose bit this is.
    One(u64),
    /// One of these texts, the first that leads on; the bit is that of their first bytes.
    Either {
        bit: u64,
        texts: Vec<Box<[u8]>>,
    },
    /// What stands up to the step of that number, or nothing, where that leads on.
    Maybe(usize),
    /// A group begins or ends.
    Open(u32),
    Close(u32),
    /// The text ends.
    End,
    /// A word begins or ends.
    Edge,
}

/// How many bytes a run takes.
#[derive(Clone, Copy)]
enum Choice {
    /// As many as there are.
    All,
    /// As many or as few as there are, where the runs that come next go on after them; where
    /// nothing must come, anywhere.
    Most(Option<u64>),
    Fewest(Option<u64>),
}

impl Step {
    /// The bit of the bytes it begins with, if it takes any.
    fn bit(&self) -> u64 {
        match self {
            Step::Run { bit, .. } | Step::Either { bit, .. } | Step::One(bit) => *bit,
            Step::Maybe(_) | Step::Open(_) | Step::Close(_) | Step::End | Step::Edge => 0,
        }
    }
}

/// A search in a text.
struct Search<'t> {
    text: &'t [u8],
    /// The group that is wanted, and its place.
    group: u32,
    found: (usize, usize),
    /// How many more ways may be tried.
    tries: usize,
}

impl Search<'_> {
    /// Whether one more way may be tried.
    fn try_one(&mut self) -> bool {
        self.tries = self.tries.saturating_sub(1);
        self.tries > 0
    }
}

impl ClassRuns {
    /// `None` where the expression is none of these, or may match nothing at all.
    pub(super) fn new(expression: &Hir) -> Option<Self> {
        let mut runs = Self {
            at_start: false,
            within: Box::new([0; 256]),
            first: 0,
            endless: 0,
            steps: Vec::new(),
        };
        runs.add(expression)?;
        runs.first = runs.beginning(0)?;
        let mut begin = runs.steps.iter().filter(|step| !matches!(step, Step::Open(_)));
        if let Some(Step::Run { bit, most: usize::MAX, .. }) = begin.next() {
            runs.endless = *bit;
        }
        for n in 0..runs.steps.len() {
            let Step::Run { bit, least, most, .. } = runs.steps[n] else { continue };
            let beginning = runs.beginning(n + 1);
            let next = beginning.unwrap_or_else(|| runs.bits(n + 1));
            let goes_on = runs.within.iter().any(|within| within & bit != 0 && within & next != 0);
            let is_open = goes_on || runs.steps[n..].iter().any(|step| matches!(step, Step::Edge));
            if let Step::Run { choice, .. } = &mut runs.steps[n] {
                *choice = match *choice {
                    _ if least == most => Choice::All,
                    Choice::Fewest(_) => Choice::Fewest(beginning),
                    _ if is_open => Choice::Most(beginning),
                    _ => Choice::All,
                };
            }
        }
        Some(runs)
    }

    fn add(&mut self, expression: &Hir) -> Option<()> {
        match expression.kind() {
            HirKind::Empty => {}
            HirKind::Literal(literal) => {
                for byte in &literal.0 {
                    self.run(std::iter::once((*byte, *byte)), (1, 1), true)?;
                }
            }
            HirKind::Class(_) => self.repeat(expression, (1, 1), true)?,
            HirKind::Repetition(repeated) => {
                let (least, most) =
                    (repeated.min as usize, repeated.max.map_or(usize::MAX, |most| most as usize));
                if self.repeat(&repeated.sub, (least, most), repeated.greedy).is_some() {
                    return Some(());
                }
                // A group that takes no part is for others to tell.
                if (least, most, repeated.greedy) != (0, 1, true)
                    || repeated.sub.properties().explicit_captures_len() > 0
                {
                    return None;
                }
                let n = self.steps.len();
                self.steps.push(Step::Maybe(0));
                self.add(&repeated.sub)?;
                self.steps[n] = Step::Maybe(self.steps.len());
            }
            HirKind::Capture(group) => {
                self.steps.push(Step::Open(group.index));
                self.add(&group.sub)?;
                self.steps.push(Step::Close(group.index));
            }
            HirKind::Concat(parts) => parts.iter().try_for_each(|part| self.add(part))?,
            HirKind::Look(Look::Start) if self.steps.is_empty() => self.at_start = true,
            HirKind::Look(Look::End) => self.steps.push(Step::End),
            HirKind::Look(Look::WordAscii) => self.steps.push(Step::Edge),
            HirKind::Alternation(parts) => self.either(parts)?,
            HirKind::Look(_) => return None,
        }
        Some(())
    }

    fn repeat(&mut self, one: &Hir, times: (usize, usize), as_many: bool) -> Option<()> {
        match one.kind() {
            HirKind::Class(Class::Bytes(class)) => {
                self.run(class.iter().map(|range| (range.start(), range.end())), times, as_many)
            }
            HirKind::Literal(literal) => match literal.0[..] {
                [byte] => self.run(std::iter::once((byte, byte)), times, as_many),
                _ => None,
            },
            _ => None,
        }
    }

    fn run(
        &mut self,
        ranges: impl Iterator<Item = (u8, u8)>,
        (least, most): (usize, usize),
        as_many: bool,
    ) -> Option<()> {
        let bit = self.bit(ranges)?;
        let choice = if as_many { Choice::Most(None) } else { Choice::Fewest(None) };
        self.steps.push(match (least, most) {
            (1, 1) => Step::One(bit),
            _ => Step::Run { bit, least, most, choice },
        });
        Some(())
    }

    fn either(&mut self, parts: &[Hir]) -> Option<()> {
        let text = |part: &Hir| match part.kind() {
            HirKind::Literal(literal) => Some(literal.0.clone()),
            _ => None,
        };
        let texts: Vec<Box<[u8]>> = parts.iter().map(text).collect::<Option<_>>()?;
        let bit = self.bit(texts.iter().map(|text| (text[0], text[0])))?;
        self.steps.push(Step::Either { bit, texts });
        Some(())
    }

    /// A bit for what may be one of these bytes.
    fn bit(&mut self, ranges: impl Iterator<Item = (u8, u8)>) -> Option<u64> {
        let count = self.steps.iter().filter(|step| step.bit() != 0).count();
        let bit = 1_u64.checked_shl(count as u32)?;
        for (from, to) in ranges {
            (from..=to).for_each(|byte| self.within[usize::from(byte)] |= bit);
        }
        Some(bit)
    }

    /// The runs that the steps from `n` on can begin with; `None` where they can be nothing.
    fn beginning(&self, n: usize) -> Option<u64> {
        let (mut n, mut bits) = (n, 0);
        while let Some(step) = self.steps.get(n) {
            n += 1;
            if let Step::Maybe(behind) = step {
                bits |= self.beginning(n)?;
                n = *behind;
            }
            bits |= step.bit();
            if matches!(step, Step::Run { least: 1.., .. } | Step::One(_) | Step::Either { .. }) {
                return Some(bits);
            }
        }
        None
    }

    /// All runs of the steps from `n` on.
    fn bits(&self, n: usize) -> u64 {
        self.steps[n..].iter().fold(0, |bits, step| bits | step.bit())
    }

    /// Where a group of the first match lies, or that there is no match; `None` when that was not
    /// found out.
    pub(super) fn search(&self, text: &[u8], group: u32) -> Option<Option<(usize, usize)>> {
        let mut search = Search { text, group, found: (0, 0), tries: TRIES * TRIES };
        if self.at_start {
            let found = self.match_at(0, &mut search);
            return (found.is_some() || search.tries > 0).then_some(found);
        }
        let (mut at, mut begun) = (0, 0);
        let is_in = |at: usize, runs: u64| {
            text.get(at).is_some_and(|byte| self.within[usize::from(*byte)] & runs != 0)
        };
        while at < text.len() {
            if !is_in(at, self.first) {
                at += 1;
                continue;
            }
            if begun == TRIES {
                return None;
            }
            begun += 1;
            if let Some(found) = self.match_at(at, &mut search) {
                return Some(Some(found));
            }
            if search.tries == 0 {
                return None;
            }
            let was_in = is_in(at, self.endless);
            at += 1;
            while was_in && is_in(at, self.endless) {
                at += 1;
            }
        }
        Some(None)
    }

    /// The group of a match that begins at a place.
    #[inline]
    fn match_at(&self, start: usize, search: &mut Search<'_>) -> Option<(usize, usize)> {
        search.found = (start, start);
        let end = self.follow(0, start, search)?;
        Some(if search.group == 0 { (start, end) } else { search.found })
    }

    /// Follows the steps from `n` on; returns where they end.
    fn follow(&self, n: usize, start: usize, search: &mut Search<'_>) -> Option<usize> {
        let (text, mut n, mut at) = (search.text, n, start);
        let is_in = |at: usize, runs: u64| {
            text.get(at).is_some_and(|byte| self.within[usize::from(*byte)] & runs != 0)
        };
        while let Some(step) = self.steps.get(n) {
            n += 1;
            match *step {
                Step::One(bit) => {
                    if !is_in(at, bit) {
                        return None;
                    }
                    at += 1;
                }
                Step::Either { ref texts, .. } => {
                    for way in texts.iter().filter(|way| text[at..].starts_with(way)) {
                        let end = self.follow(n, at + way.len(), search);
                        if end.is_some() || !search.try_one() {
                            return end;
                        }
                    }
                    return None;
                }
                Step::Maybe(behind) => {
                    let end = self.follow(n, at, search);
                    if end.is_some() || !search.try_one() {
                        return end;
                    }
                    n = behind;
                }
                Step::Run { bit, least, most, choice } => {
                    let behind = text.len().min(at.saturating_add(most));
                    let mut end = at;
                    while end < behind && self.within[usize::from(text[end])] & bit != 0 {
                        end += 1;
                    }
                    let taken = end - at;
                    if taken < least {
                        return None;
                    }
                    let (next, as_many) = match choice {
                        Choice::All => {
                            at += taken;
                            continue;
                        }
                        Choice::Most(next) => (next, true),
                        Choice::Fewest(next) => (next, false),
                    };
                    for other in 0..=taken - least {
                        let end = at + if as_many { taken - other } else { least + other };
                        if next.is_some_and(|next| !is_in(end, next)) {
                            continue;
                        }
                        let end = self.follow(n, end, search);
                        if end.is_some() || !search.try_one() {
                            return end;
                        }
                    }
                    return None;
                }
                Step::Open(of) if of == search.group => search.found.0 = at,
                Step::Close(of) if of == search.group => search.found.1 = at,
                Step::Open(_) | Step::Close(_) => {}
                Step::End if at < text.len() => return None,
                Step::End => {}
                Step::Edge => {
                    let is_word = |byte: Option<&u8>| {
                        byte.is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_')
                    };
                    if is_word(at.checked_sub(1).and_then(|before| text.get(before)))
                        == is_word(text.get(at))
                    {
                        return None;
                    }
                }
            }
        }
        Some(at)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use regex_automata::util::syntax;

    use super::*;

    const CHARACTERS: &[&str] = &[
        "a",
        "b",
        "-",
        "[ab]",
        "[^a]",
        r"\d",
        "[-1]",
        r"\.",
        ".",
        "(?:ab|b1|-)",
        "(?:a|ab|b)",
        r"(?:-\d+)",
        r"(?:ab?)",
        r"\b",
    ];
    const TIMES: &[&str] = &["", "+", "*", "?", "{2}", "{1,2}", "+?", "*?", "??"];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(20_000))]

        /// The slow, obvious twin: the expression as the library follows it.
        #[test]
        fn runs_find_what_the_expression_finds(
            parts in prop::collection::vec((prop::sample::select(CHARACTERS), prop::sample::select(TIMES)), 1..5),
            (group, from) in (0_u32..2, 0_usize..4),
            (start, end) in (any::<bool>(), any::<bool>()),
            text in "[ab1.-]{0,9}|[ab]{0,9}[1.-]{0,9}[ab1-]{0,60}",
        ) {
            let from = from.min(parts.len() - 1);
            let mut pattern = if start { "^".to_owned() } else { String::new() };
            for (n, (one, times)) in parts.iter().enumerate() {
                let open = if n == from { "(" } else { "" };
                let close = if n == parts.len() - 1 { ")" } else { "" };
                pattern += &format!("{open}{one}{times}{close}");
            }
            pattern += if end { "$" } else { "" };
            let syntax = syntax::Config::new().unicode(false).utf8(false);
            if let Some(found) = ClassRuns::new(&syntax::parse_with(&pattern, &syntax).unwrap()).and_then(|runs| runs.search(text.as_bytes(), group)) {
                let twin = regex::Regex::new(&pattern).unwrap().captures(&text);
                let twin = twin.map(|groups| groups.get(group as usize).map_or((0, 0), |found| (found.start(), found.end())));
                prop_assert_eq!(found, twin, "{} in {}", pattern, text);
            }
        }
    }

    #[test]
    fn the_usual_ones_are_runs() {
        for (pattern, is_runs) in [
            ("^[A-Z]+-([0-9]{4})-", true),
            (r"(\d+) seeds", true),
            (r"^(\w+)@", true),
            (r"-(\d*)$", true),
            (r"(\d{2,4})x?", true),
            (r"(\d+)\d", true),
            (r"@([\w.-]+)\.example", true),
            (r"(\d+(?:\.\d+)?) ?(g|kg)\b", true),
            (r"(?:(a)b)?c", false),
            (r"(?:ab)+c", false),
            ("a*", false),
            ("(a|bc)d", true),
            (r"(\d+) (?:seeds|%|d)", true),
            ("(a|ab)d", true),
            (r"\b\d", true),
            ("(.+?)-", true),
        ] {
            let syntax = syntax::Config::new().unicode(false).utf8(false);
            assert_eq!(
                ClassRuns::new(&syntax::parse_with(pattern, &syntax).unwrap()).is_some(),
                is_runs,
                "{pattern}"
            );
        }
    }
}
