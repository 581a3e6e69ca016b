//! Regular expressions that are runs of characters one after the other, such as `^[A-Z]+-([0-9]{4})-`.
//!
//! One of several texts may stand between them. Where the characters of a run of any length are none that what follows can begin with,
//! nothing is ever to be tried twice from one place: each run takes as many characters as it can. Most expressions that take something out
//! of a code are such.

use regex_syntax::hir::{Class, Hir, HirKind, Look};

use super::regexes::TRIES;

/// An expression for texts of ASCII.
pub(super) struct Runs {
    /// A match begins where the text does.
    at_start: bool,
    /// For each byte the runs it can be in, a bit each.
    within: Box<[u64; 256]>,
    /// The runs a match can begin with.
    first: u64,
    /// The run that comes first, where it may be of any length: a match that fails from its beginning fails from every place in it.
    endless: u64,
    steps: Vec<Step>,
}

enum Step {
    /// So many bytes of the run whose bit this is.
    Run {
        bit: u64,
        least: usize,
        most: usize,
    },
    /// One of these texts, of which none begins another; the bit is that of their first bytes.
    Either {
        bit: u64,
        texts: Vec<Box<[u8]>>,
    },
    /// A group begins or ends.
    Open(u32),
    Close(u32),
    /// The text ends.
    End,
}

impl Step {
    /// The bit of the bytes it begins with, if it takes any.
    fn bit(&self) -> u64 {
        match self {
            Step::Run { bit, .. } | Step::Either { bit, .. } => *bit,
            Step::Open(_) | Step::Close(_) | Step::End => 0,
        }
    }
}

impl Runs {
    /// `None` where the expression is none of these, or may match nothing at all.
    pub(super) fn new(expression: &Hir) -> Option<Self> {
        let mut runs = Self { at_start: false, within: Box::new([0; 256]), first: 0, endless: 0, steps: Vec::new() };
        runs.add(expression)?;
        runs.first = runs.beginning(0)?;
        if let Some(Step::Run { bit, most: usize::MAX, .. }) = runs.steps.iter().find(|step| step.bit() != 0) {
            runs.endless = *bit;
        }
        for n in 0..runs.steps.len() {
            let Step::Run { bit, least, most } = runs.steps[n] else { continue };
            let next = runs.beginning(n + 1).unwrap_or_else(|| runs.bits(n + 1));
            if least < most && runs.within.iter().any(|within| within & bit != 0 && within & next != 0) {
                return None;
            }
        }
        Some(runs)
    }

    fn add(&mut self, expression: &Hir) -> Option<()> {
        match expression.kind() {
            HirKind::Empty => {}
            HirKind::Literal(literal) => {
                for byte in &literal.0 {
                    self.run(std::iter::once((*byte, *byte)), 1, 1)?;
                }
            }
            HirKind::Class(_) => self.repeat(expression, 1, 1)?,
            HirKind::Repetition(repeated) => {
                let (least, most) = (repeated.min as usize, repeated.max.map_or(usize::MAX, |most| most as usize));
                if !repeated.greedy && least < most {
                    return None;
                }
                self.repeat(&repeated.sub, least, most)?;
            }
            HirKind::Capture(group) => {
                self.steps.push(Step::Open(group.index));
                self.add(&group.sub)?;
                self.steps.push(Step::Close(group.index));
            }
            HirKind::Concat(parts) => parts.iter().try_for_each(|part| self.add(part))?,
            HirKind::Look(Look::Start) if self.steps.is_empty() => self.at_start = true,
            HirKind::Look(Look::End) => self.steps.push(Step::End),
            HirKind::Alternation(parts) => self.either(parts)?,
            HirKind::Look(_) => return None,
        }
        Some(())
    }

    fn repeat(&mut self, one: &Hir, least: usize, most: usize) -> Option<()> {
        match one.kind() {
            HirKind::Class(Class::Bytes(class)) => self.run(class.iter().map(|range| (range.start(), range.end())), least, most),
            HirKind::Literal(literal) => match literal.0[..] {
                [byte] => self.run(std::iter::once((byte, byte)), least, most),
                _ => None,
            },
            _ => None,
        }
    }

    fn run(&mut self, ranges: impl Iterator<Item = (u8, u8)>, least: usize, most: usize) -> Option<()> {
        let bit = self.bit(ranges)?;
        self.steps.push(Step::Run { bit, least, most });
        Some(())
    }

    fn either(&mut self, parts: &[Hir]) -> Option<()> {
        let text = |part: &Hir| match part.kind() {
            HirKind::Literal(literal) => Some(literal.0.clone()),
            _ => None,
        };
        let texts: Vec<Box<[u8]>> = parts.iter().map(text).collect::<Option<_>>()?;
        let begins_another = |n: usize| texts.iter().enumerate().any(|(m, other)| m != n && other.starts_with(&texts[n]));
        if (0..texts.len()).any(begins_another) {
            return None;
        }
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
        let mut bits = 0;
        for step in &self.steps[n..] {
            bits |= step.bit();
            if matches!(step, Step::Run { least: 1.., .. } | Step::Either { .. }) {
                return Some(bits);
            }
        }
        None
    }

    /// All runs of the steps from `n` on.
    fn bits(&self, n: usize) -> u64 {
        self.steps[n..].iter().fold(0, |bits, step| bits | step.bit())
    }

    /// Where a group of the first match lies, or that there is no match; `None` when that was not found out.
    pub(super) fn search(&self, text: &[u8], group: u32) -> Option<Option<(usize, usize)>> {
        if self.at_start {
            return Some(self.follow(text, 0, group));
        }
        let (mut at, mut tries) = (0, 0);
        let is_in = |at: usize, runs: u64| text.get(at).is_some_and(|byte| self.within[usize::from(*byte)] & runs != 0);
        while at < text.len() {
            if !is_in(at, self.first) {
                at += 1;
                continue;
            }
            if tries == TRIES {
                return None;
            }
            tries += 1;
            if let Some(found) = self.follow(text, at, group) {
                return Some(Some(found));
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
    fn follow(&self, text: &[u8], start: usize, group: u32) -> Option<(usize, usize)> {
        let (mut at, mut found) = (start, (start, start));
        for step in &self.steps {
            match *step {
                Step::Either { ref texts, .. } => {
                    let rest = &text[at..];
                    at += texts.iter().find(|text| rest.starts_with(text))?.len();
                }
                Step::Run { bit, least, most } => {
                    let rest = &text[at..];
                    let rest = &rest[..rest.len().min(most)];
                    let taken = rest.iter().position(|byte| self.within[usize::from(*byte)] & bit == 0).unwrap_or(rest.len());
                    if taken < least {
                        return None;
                    }
                    at += taken;
                }
                Step::Open(of) if of == group => found.0 = at,
                Step::Close(of) if of == group => found.1 = at,
                Step::Open(_) | Step::Close(_) => {}
                Step::End if at < text.len() => return None,
                Step::End => {}
            }
        }
        Some(if group == 0 { (start, at) } else { found })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use regex_automata::util::syntax;

    use super::*;

    const CHARACTERS: &[&str] = &["a", "b", "-", "[ab]", "[^a]", r"\d", "[-1]", r"\.", ".", "(?:ab|b1|-)"];
    const TIMES: &[&str] = &["", "+", "*", "?", "{2}", "{1,2}", "+?"];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(20_000))]

        /// The slow, obvious twin: the expression as the library follows it.
        #[test]
        fn runs_find_what_the_expression_finds(
            parts in prop::collection::vec((prop::sample::select(CHARACTERS), prop::sample::select(TIMES)), 1..5),
            (group, from) in (0_u32..2, 0_usize..4),
            (start, end) in (any::<bool>(), any::<bool>()),
            text in "[ab1.-]{0,9}",
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
            if let Some(found) = Runs::new(&syntax::parse_with(&pattern, &syntax).unwrap()).and_then(|runs| runs.search(text.as_bytes(), group)) {
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
            (r"(\d+)\d", false),
            ("a*", false),
            ("(a|bc)d", true),
            (r"(\d+) (?:seeds|%|d)", true),
            ("(a|ab)d", false),
            (r"\b\d", false),
            ("(.+?)-", false),
        ] {
            let syntax = syntax::Config::new().unicode(false).utf8(false);
            assert_eq!(Runs::new(&syntax::parse_with(pattern, &syntax).unwrap()).is_some(), is_runs, "{pattern}");
        }
    }
}
