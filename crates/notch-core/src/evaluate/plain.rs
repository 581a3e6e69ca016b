//! The short way of cells through a cut: what steps do to texts with nothing special about them.
//!
//! Most cells of most columns are plain: ASCII around the places that matter, nothing missing, nothing to report. Many of those are
//! taken together and go through a cut step by step: each step narrows the pieces of all rows, or makes new texts of them, without lists,
//! reasons or findings. Where a text is not plain a step gives the piece up, and the row is evaluated the long way from the start, which
//! alone decides what is unusual and what to say.

use memchr::memchr_iter;

use super::place::{Change, Making, Place};
use super::regexes::OwnRegex;
use crate::text::masks::{WIDE, beyond_ascii, digits_from, each_its_own, equal, first_digit, lowest, wide};

/// The short way of a cut: where it starts, and its steps.
pub(crate) struct ShortWay {
    pub start: Start,
    /// The search that its first step needs, by its place among those of the plan.
    pub search: Option<usize>,
    pub steps: Vec<Plain>,
}

/// What the pieces of a cut are pieces of at first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Start {
    /// A source.
    Source(usize),
    /// What a cut above has given, which goes a short way itself.
    Cut(usize),
}

/// A byte that is looked for in all cells of a source, once for all cuts that want to know.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Search {
    pub source: usize,
    pub byte: u8,
}

/// What a step does to a plain text.
#[derive(Clone)]
pub(crate) enum Plain {
    /// Leaves it as it is.
    Nothing,
    First(usize),
    Last(usize),
    DropFirst(usize),
    DropLast(usize),
    /// From the character at that place, counted from 0, so many.
    Chars(usize, usize),
    /// The part of that number, from 1, between separators of one byte; with exactly so many parts where that is asked.
    Part {
        n: usize,
        of: Option<usize>,
        separator: u8,
    },
    /// Before or after a mark of one byte.
    Beside {
        byte: u8,
        last: bool,
        before: bool,
    },
    Trim,
    Lower,
    Upper,
    PadLeft {
        width: usize,
        fill: u8,
    },
    /// The first number.
    Number,
    /// The group of a regular expression's first match.
    Match(OwnRegex, usize),
}

/// Whether a text of one byte can be looked for without asking what stands beside it, but for letters with marks on them.
pub(crate) fn plain_byte(text: &str) -> Option<u8> {
    match text.as_bytes() {
        [byte @ 0x20..0x7F] => Some(*byte),
        _ => None,
    }
}

/// Where a byte stands in a span of at most 64 bytes, one bit each.
type Found = u64;

/// Of a span that is longer, or in which it stands beside something that may belong to it.
const NOT_TOLD: Found = u64::MAX;

/// Looks for a byte in a span of a text.
#[inline(always)]
pub(crate) fn search(text: &[u8], from: usize, to: usize, byte: u8) -> Found {
    let length = to - from;
    if length > 64 {
        return NOT_TOLD;
    }
    let (mut found, mut odd) = (0, 0);
    for at in (0..length).step_by(WIDE) {
        let bytes = wide(text, from + at);
        found |= equal(&bytes, byte) << at;
        odd |= beyond_ascii(&bytes) << at;
    }
    found &= lowest(length);
    if (odd & lowest(length)) & (found << 1 | found >> 1) == 0 { found } else { NOT_TOLD }
}

/// Whether the byte at a place is a character of its own, whatever stands beside it.
fn alone(bytes: &[u8], at: usize) -> bool {
    let is_plain = |byte: Option<&u8>| byte.is_none_or(u8::is_ascii);
    is_plain(bytes.get(at + 1)) && is_plain(at.checked_sub(1).and_then(|before| bytes.get(before)))
}

impl Plain {
    /// The byte that is to be looked for before the step can be done.
    pub(crate) fn searched(&self) -> Option<u8> {
        match self {
            Plain::Part { separator, .. } => Some(*separator),
            Plain::Beside { byte, .. } => Some(*byte),
            _ => None,
        }
    }

    /// The piece of a span in which the step's byte was found at these places.
    #[inline(always)]
    fn beside(&self, text: &[u8], from: usize, to: usize, found: Found) -> Option<(usize, usize)> {
        match self {
            Plain::Part { n, of, separator } if found == NOT_TOLD => {
                long_part(&text[from..to], *n, *of, *separator).map(|(a, b)| (from + a, from + b))
            }
            Plain::Part { n, of, .. } => {
                if of.is_some_and(|of| of != found.count_ones() as usize + 1) {
                    return None;
                }
                let (mut rest, mut start) = (found, from);
                for _ in 1..*n {
                    start = from + (rest != 0).then(|| rest.trailing_zeros() as usize + 1)?;
                    rest &= rest - 1;
                }
                Some((start, if rest == 0 { to } else { from + rest.trailing_zeros() as usize }))
            }
            Plain::Beside { byte, last, before } => {
                let at = match found {
                    0 => return None,
                    NOT_TOLD => {
                        let bytes = &text[from..to];
                        let at = if *last { memchr::memrchr(*byte, bytes) } else { memchr::memchr(*byte, bytes) };
                        from + at.filter(|at| alone(bytes, *at))?
                    }
                    _ if *last => from + 63 - found.leading_zeros() as usize,
                    _ => from + found.trailing_zeros() as usize,
                };
                Some(if *before { (from, at) } else { (at + 1, to) })
            }
            _ => None,
        }
    }
}

impl ShortWay {
    /// Takes the pieces of all rows through the steps; `found` is what the search for the first one has found.
    pub(crate) fn go(&self, places: &mut [Place], found: Option<&[Found]>, making: &mut Making<'_>) {
        making.texts().narrow(places, starts_plain);
        let steps = match (found, self.steps.split_first()) {
            (Some(found), Some((first, rest))) => {
                let found = places.iter_mut().zip(found.iter().copied());
                making.texts().narrow_with(found, |text, from, to, found| first.beside(text, from, to, found));
                rest
            }
            _ => &self.steps,
        };
        steps.iter().for_each(|step| step.run(places, making));
        making.texts().narrow(places, starts_plain);
    }
}

/// The span itself where it is plain at its beginning and not blank; what is blank is for the long way to say.
#[inline(always)]
fn starts_plain(text: &[u8], from: usize, to: usize) -> Option<(usize, usize)> {
    let is_filled = |text: &[u8]| std::str::from_utf8(text).is_ok_and(|text| !text.trim_start().is_empty());
    (text[from].is_ascii_graphic() || is_filled(&text[from..to])).then_some((from, to))
}

impl Plain {
    /// Does the step's work on the pieces of all rows.
    fn run(&self, places: &mut [Place], making: &mut Making<'_>) {
        let texts = making.texts();
        match self {
            Plain::Nothing => {}
            // The character behind the last one taken may still belong to it, and the one before the first one.
            Plain::First(n) => texts.narrow(places, |text, from, to| {
                (to - from >= *n && each_its_own(text, from, to.min(from + n + 1))).then_some((from, from + n))
            }),
            Plain::Last(n) => texts.narrow(places, |text, from, to| {
                let start = to.checked_sub(*n).filter(|start| *start >= from)?;
                each_its_own(text, from.max(start.saturating_sub(1)), to).then_some((start, to))
            }),
            Plain::DropFirst(n) => {
                texts.narrow(places, |text, from, to| (to - from > *n && each_its_own(text, from, from + n + 1)).then_some((from + n, to)))
            }
            Plain::DropLast(n) => texts.narrow(places, |text, from, to| {
                let end = to.checked_sub(*n).filter(|end| *end > from)?;
                each_its_own(text, end - 1, to).then_some((from, end))
            }),
            Plain::Chars(before, count) => texts.narrow(places, |text, from, to| {
                let end = from.checked_add(*before)?.checked_add(*count).filter(|end| *end <= to)?;
                each_its_own(text, from, to.min(end + 1)).then_some((from + before, end))
            }),
            Plain::Part { separator: byte, .. } | Plain::Beside { byte, .. } => {
                texts.narrow(places, |text, from, to| self.beside(text, from, to, search(text, from, to, *byte)))
            }
            Plain::Trim => texts.narrow(places, |text, from, to| {
                let is_blank = |byte: &u8| matches!(byte, b' ' | b'\t'..=b'\r');
                let start = from + text[from..to].iter().position(|byte| !is_blank(byte))?;
                let end = from + text[from..to].iter().rposition(|byte| !is_blank(byte))? + 1;
                // White space beyond ASCII may stand there, or a mark on a blank.
                (text[start].is_ascii() && text[end - 1].is_ascii()).then_some((start, end))
            }),
            Plain::Upper => making.change(places, |text, made| cased(text, made, u8::is_ascii_lowercase, u8::to_ascii_uppercase)),
            Plain::Lower => making.change(places, |text, made| cased(text, made, u8::is_ascii_uppercase, u8::to_ascii_lowercase)),
            Plain::PadLeft { width, fill } => making.change(places, |text, made| {
                if text.len() > *width || !each_its_own(text.as_bytes(), 0, text.len()) {
                    return Change::Unusual;
                }
                (text.len()..*width).for_each(|_| made.push(char::from(*fill)));
                made.push_str(text);
                Change::Made
            }),
            Plain::Number => {
                let mut grouped = false;
                texts.narrow(places, |text, from, to| {
                    let (span, has_groups) = number(text, from, to)?;
                    grouped |= has_groups;
                    Some(span)
                });
                if grouped {
                    making.change(places, |text, made| {
                        let mut groups = text.split(',');
                        made.push_str(groups.next().unwrap_or_default());
                        let plain = made.len();
                        groups.for_each(|group| made.push_str(group));
                        if made.len() > plain { Change::Made } else { Change::Same }
                    });
                }
            }
            Plain::Match(regex, group) => regex.find(texts, places, *group),
        }
    }
}

fn cased(text: &str, made: &mut String, is_other: fn(&u8) -> bool, change: fn(&u8) -> u8) -> Change {
    if !text.is_ascii() {
        return Change::Unusual;
    }
    if !text.as_bytes().iter().any(is_other) {
        return Change::Same;
    }
    made.extend(text.bytes().map(|byte| char::from(change(&byte))));
    Change::Made
}

/// The part of a number among the parts of a text of any length.
#[cold]
fn long_part(bytes: &[u8], n: usize, of: Option<usize>, separator: u8) -> Option<(usize, usize)> {
    let (mut start, mut found, mut count) = (0, None, 1);
    for at in memchr_iter(separator, bytes).chain([bytes.len()]) {
        if at < bytes.len() && !alone(bytes, at) {
            return None;
        }
        if count == n {
            found = Some((start, at));
            if of.is_none() {
                break;
            }
        }
        if at < bytes.len() {
            (count, start) = (count + 1, at + 1);
        }
    }
    found.filter(|_| of.is_none_or(|of| of == count))
}

/// The first number of a span where it leaves no doubt, and whether commas group it: no sign, bracket or letter beyond ASCII beside it, no
/// other comma or point that could belong to it.
#[inline]
fn number(text: &[u8], from: usize, to: usize) -> Option<((usize, usize), bool)> {
    let start = first_digit(text, from, to)?;
    let byte = |at: usize| (at < to).then(|| text[at]);
    let digits = |at: usize| digits_from(text, at, to);
    let is_open = |byte: u8| byte.is_ascii_alphanumeric() || matches!(byte, b' ' | b'/' | b'_' | b'#' | b'=');
    if start > from && !is_open(text[start - 1]) {
        return None;
    }
    let count = digits(start);
    if count > 1 && text[start] == b'0' {
        return None;
    }
    let (mut end, mut grouped, mut pointed) = (start + count, false, false);
    loop {
        match (byte(end), byte(end + 1)) {
            (Some(b','), Some(b'0'..=b'9')) => {
                let fits = count <= 3 && text[start] != b'0' && digits(end + 1) == 3 && !pointed;
                if !fits {
                    return None;
                }
                (end, grouped) = (end + 4, true);
            }
            (Some(b'.'), Some(b'0'..=b'9')) => {
                if pointed {
                    return None;
                }
                (end, pointed) = (end + 1 + digits(end + 1), true);
            }
            (None, _) | (Some(b',' | b';' | b':' | b'.'), None | Some(b' ')) => break,
            (Some(after), _) if is_open(after) => break,
            _ => return None,
        }
    }
    Some(((start, end), grouped))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::evaluate::Value;
    use crate::{Plan, PlanOptions, Scratch, parse_assignment};

    const STEPS: [&str; 28] = [
        "first 2",
        "first 1",
        "last 2",
        "last 1",
        "drop first 1",
        "drop last 1",
        "drop first 3",
        "chars 2..3",
        "chars 1..2",
        "chars 2 for 2",
        "part 1 by \"-\"",
        "part 2 by \"-\"",
        "part 2 of 3 by \"-\"",
        "part 1 of 1 by \",\"",
        "before \"-\"",
        "after \"-\"",
        "before last \"-\"",
        "after last \"-\"",
        "trim",
        "upper",
        "lower",
        "pad left 4 with \"0\"",
        "number",
        "match /[a-z]+/",
        "match /-(.*?)(\\d)?/ group 2",
        "as number",
        "after 1st \" \"",
        "before \" \" or end",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]

        /// The slow, obvious twin is the long way: where the short way gives a piece, the long way gives the same and finds nothing.
        #[test]
        fn the_short_way_ends_where_the_long_one_does(
            text in "([abA019]|-| |,|\\.|\\(|\\)|é|e\u{301}|\r\n|\u{a0}|00|1,250|\u{200d}|[a-]{60}){0,9}",
            steps in prop::collection::vec(prop::sample::select(&STEPS[..]), 1..4),
            then in prop::option::of(prop::sample::select(&STEPS[..])),
        ) {
            let then = then.map_or(String::new(), |then| format!(" else \"x\" then {then}"));
            let cut = format!("c = {{a}} | {}{then}", steps.join(" | "));
            let plan = Plan::compile(&[parse_assignment(&cut).unwrap()], &["a".to_owned()], &PlanOptions::default()).unwrap();
            plan.with_run(&[&text], 0, &mut Scratch::default(), |run| {
                let way = plan.cuts[0].short.as_ref().unwrap();
                let found = plan.searches.first().map(|searched| [search(text.as_bytes(), 0, text.len(), searched.byte)]);
                let (mut made, mut copy, mut places) = (String::new(), String::new(), [Place::new(0, text.len())]);
                let mut making = Making { block: &text, made: &mut made, copy: &mut copy };
                way.go(&mut places, found.as_ref().map(|found| &found[..]), &mut making);
                if places[0].is_none() {
                    return Ok(());
                }
                let short = making.texts().get(places[0]);
                let (long, branch) = run.branches(&plan.cuts[0].branches);
                let Value::Text(long) = long else { return Err(TestCaseError::fail(format!("{cut} of {text:?}: {short:?}, not {long:?}"))) };
                prop_assert_eq!(short, long.text(), "{} of {:?}", cut, text);
                prop_assert_eq!((run.findings.len(), branch.taken), (0, Some(0)), "{} of {:?}", cut, text);
                Ok(())
            })?;
        }
    }
}
