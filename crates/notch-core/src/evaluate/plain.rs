//! The short way of cells through a cut: what steps do to texts with nothing special about them.
//!
//! Most cells of most columns are plain: ASCII around the places that matter, nothing missing, nothing to report. Many of those are
//! taken together and go through a cut step by step: each step narrows the pieces of all rows, or makes new texts of them, without lists,
//! reasons or findings. Where a text is not plain a step gives the piece up, and the row is evaluated the long way from the start, which
//! alone decides what is unusual and what to say.

use std::sync::Arc;

use memchr::memchr_iter;

use super::number::{self, Grouped};
use super::pad::pad_left;
use super::place::{Change, Place, change, narrow, narrow_with};
use super::regexes::OwnRegex;
use crate::steps::{Demand, NumberRule};
use crate::text::masks::{WIDE, beyond_ascii, each_its_own, equal, lowest, wide};

/// The short way of a cut: where it starts, and its steps.
pub(crate) struct ShortWay {
    pub start: Start,
    /// The search that its first step needs, by its place among those of the plan.
    pub search: Option<usize>,
    pub steps: Vec<PlainStep>,
    /// Why steps certainly give nothing.
    pub reasons: Vec<Arc<str>>,
    /// Nothing depends on the cut, so that a row in which it certainly gives nothing need not go the long way.
    pub may_lack: bool,
}

/// A step of a short way.
pub(crate) struct PlainStep {
    pub plain: Plain,
    /// Where its reasons begin among those of the way.
    pub reasons: usize,
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
    /// Before or after a mark of one byte; all of a text without it where that is asked.
    Beside {
        byte: u8,
        last: bool,
        before: bool,
        or_all: bool,
    },
    Trim,
    Lower,
    Upper,
    PadLeft {
        fill: u8,
        /// How many characters the text is to have.
        width: usize,
    },
    /// The number of a rule; events of numbers whose mark groups are counted by that place.
    Number(Arc<NumberRule>, usize),
    /// The group of a regular expression's first match.
    Match(OwnRegex, usize),
    /// Leaves it as it is, where what is demanded of it can be told from the text and is met.
    Check(Arc<Demand>),
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

/// Up to so many parts are told from a search.
pub(crate) const PARTS: usize = 16;

/// Of a span that is longer, or in which it stands beside something that may belong to it.
const NOT_TOLD: Found = u64::MAX;

/// A byte, and what lies beyond ASCII, among the bytes from a place on that are looked at together.
#[inline(always)]
fn marks(text: &[u8], at: usize, byte: u8) -> (Found, Found) {
    let bytes = wide(text, at);
    (equal(&bytes, byte), beyond_ascii(&bytes))
}

/// Looks for a byte in a span of a text.
#[inline(always)]
pub(crate) fn search(text: &[u8], from: usize, to: usize, byte: u8) -> Found {
    let length = to - from;
    let (mut found, mut odd) = marks(text, from, byte);
    if length > WIDE {
        let (next_found, next_odd) = marks(text, from + WIDE, byte);
        (found, odd) = (found | next_found << WIDE, odd | next_odd << WIDE);
        if length > 2 * WIDE {
            if length > 64 {
                return NOT_TOLD;
            }
            for at in [2 * WIDE, 3 * WIDE] {
                let (next_found, next_odd) = marks(text, from + at, byte);
                (found, odd) = (found | next_found << at, odd | next_odd << at);
            }
        }
    }
    found &= lowest(length);
    if odd & lowest(length) & (found << 1 | found >> 1) == 0 { found } else { NOT_TOLD }
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

    /// Does the work of a step whose byte was found at these places.
    #[inline(always)]
    fn run_found(&self, places: &mut [Place], text: &str, reasons: usize, found: &[Found]) {
        let found = found.iter().copied();
        match *self {
            Plain::Part { n, of, separator } => {
                narrow_with(places, text, found, |text, from, to, found| nth_part(text, from, to, found, (n, of, separator), reasons))
            }
            Plain::Beside { byte, last, before, or_all } => narrow_with(places, text, found, |text, from, to, found| {
                beside(text, from, to, found, (byte, last, before, or_all), reasons)
            }),
            _ => {}
        }
    }
}

/// The part of a number, of so many parts, of a span in which its separator was found at these places.
#[inline(always)]
fn nth_part(text: &[u8], from: usize, to: usize, found: Found, (n, of, separator): (usize, Option<usize>, u8), reasons: usize) -> Place {
    if found == NOT_TOLD {
        return long_part(&text[from..to], n, of, separator).map_or(Place::NONE, |(a, b)| Place::new(from + a, from + b));
    }
    if of.is_some_and(|of| of != found.count_ones() as usize + 1) {
        return Place::NONE;
    }
    let (mut rest, mut start) = (found, from);
    for _ in 1..n {
        if rest == 0 {
            let parts = found.count_ones() as usize + 1;
            return if of.is_none() && parts <= PARTS { Place::absent(reasons + parts - 1) } else { Place::NONE };
        }
        start = from + rest.trailing_zeros() as usize + 1;
        rest &= rest - 1;
    }
    let end = if rest == 0 { to } else { from + rest.trailing_zeros() as usize };
    if start == end { Place::absent(reasons + PARTS) } else { Place::at(start, end) }
}

/// What stands before or behind a byte that was found at these places of a span.
#[inline(always)]
fn beside(
    text: &[u8],
    from: usize,
    to: usize,
    found: Found,
    (byte, last, before, or_all): (u8, bool, bool, bool),
    reasons: usize,
) -> Place {
    let at = match found {
        0 if or_all => return Place::at(from, to),
        0 => return Place::absent(reasons),
        NOT_TOLD => {
            let bytes = &text[from..to];
            let at = if last { memchr::memrchr(byte, bytes) } else { memchr::memchr(byte, bytes) };
            let Some(at) = at.filter(|at| alone(bytes, *at)) else { return Place::NONE };
            from + at
        }
        _ if last => from + 63 - found.leading_zeros() as usize,
        _ => from + found.trailing_zeros() as usize,
    };
    let (from, to) = if before { (from, at) } else { (at + 1, to) };
    if from == to { Place::absent(reasons + 1) } else { Place::at(from, to) }
}

impl ShortWay {
    /// Takes the pieces of all rows through the steps, and says which rows must go the long way; `found` is what the search for the first
    /// step has found.
    /// Gives whether some of them may go without, though they give nothing.
    /// `cells` are the cells that the pieces are pieces of, where they start from cells; `grouped` takes the numbers whose mark groups.
    pub(crate) fn go(
        &self,
        places: &mut [Place],
        is_long: &mut [bool],
        text: &mut String,
        found: Option<&[Found]>,
        (cells, grouped): (Option<&[Place]>, &mut Vec<Grouped>),
    ) -> bool {
        let seen_before = grouped.len();
        let mut known = found;
        let mut searched = Vec::new();
        for step in &self.steps {
            let Some(byte) = step.plain.searched() else {
                match &step.plain {
                    Plain::Number(rule, event) => number::take((rule, *event), places, text, step.reasons, cells, grouped),
                    plain => plain.run(places, text, step.reasons),
                }
                continue;
            };
            let found = known.take().unwrap_or_else(|| {
                searched.clear();
                searched.extend(places.iter().map(|place| search(text.as_bytes(), place.span().0, place.span().1, byte)));
                &searched
            });
            step.plain.run_found(places, text, step.reasons, found);
        }
        let mut lacks = false;
        let bytes = text.as_bytes();
        for (place, is_long) in places.iter_mut().zip(is_long) {
            let (from, to) = place.span();
            if from != to && bytes[from].is_ascii_graphic() {
                continue;
            }
            if from == to && self.may_lack && place.why().is_some() {
                lacks = true;
            // What is of white space only is for the long way to say.
            } else if from == to || !is_filled(&bytes[from..to]) {
                (*place, *is_long) = (Place::NONE, true);
            }
        }
        // A number that no cell is made of says nothing of its column.
        let mut n = 0;
        grouped.retain(|seen| {
            n += 1;
            n <= seen_before || !places[seen.row].is_none()
        });
        lacks
    }
}

#[cold]
fn is_filled(text: &[u8]) -> bool {
    std::str::from_utf8(text).is_ok_and(|text| !text.trim_start().is_empty())
}

impl Plain {
    /// Does the step's work on the pieces of all rows.
    fn run(&self, places: &mut [Place], text: &mut String, reasons: usize) {
        match self {
            // The others are done when their byte has been searched.
            Plain::Nothing | Plain::Part { .. } | Plain::Beside { .. } | Plain::Number(..) => {}
            // The character behind the last one taken may still belong to it, and the one before the first one.
            Plain::First(n) => narrow(places, text, |text, from, to| {
                (to - from >= *n && each_its_own(text, from, to.min(from + n + 1))).then_some((from, from + n))
            }),
            Plain::Last(n) => narrow(places, text, |text, from, to| {
                let start = to.checked_sub(*n).filter(|start| *start >= from)?;
                each_its_own(text, from.max(start.saturating_sub(1)), to).then_some((start, to))
            }),
            Plain::DropFirst(n) => {
                narrow(places, text, |text, from, to| (to - from > *n && each_its_own(text, from, from + n + 1)).then_some((from + n, to)))
            }
            Plain::DropLast(n) => narrow(places, text, |text, from, to| {
                let end = to.checked_sub(*n).filter(|end| *end > from)?;
                each_its_own(text, end - 1, to).then_some((from, end))
            }),
            Plain::Chars(before, count) => narrow(places, text, |text, from, to| {
                let end = from.checked_add(*before)?.checked_add(*count).filter(|end| *end <= to)?;
                each_its_own(text, from, to.min(end + 1)).then_some((from + before, end))
            }),
            Plain::Trim => narrow(places, text, |text, from, to| {
                let is_blank = |byte: &u8| matches!(byte, b' ' | b'\t'..=b'\r');
                let start = from + text[from..to].iter().position(|byte| !is_blank(byte))?;
                let end = from + text[from..to].iter().rposition(|byte| !is_blank(byte))? + 1;
                // White space beyond ASCII may stand there, or a mark on a blank.
                (text[start].is_ascii() && text[end - 1].is_ascii()).then_some((start, end))
            }),
            Plain::Upper => change(places, text, |text, from, to| cased(text, from, to, u8::is_ascii_lowercase, str::make_ascii_uppercase)),
            Plain::Lower => change(places, text, |text, from, to| cased(text, from, to, u8::is_ascii_uppercase, str::make_ascii_lowercase)),
            Plain::PadLeft { fill, width } => pad_left(places, text, *fill, *width),
            Plain::Check(demand) => {
                for place in places.iter_mut().filter(|place| !place.is_none()) {
                    if !demand.is_met_by(Some(place.of(text)), &|_| None) {
                        *place = Place::NONE;
                    }
                }
            }
            Plain::Match(regex, group) => regex.find(places, text, reasons, *group),
        }
    }
}

fn cased(text: &mut String, from: usize, to: usize, is_other: fn(&u8) -> bool, change: fn(&mut str)) -> Change {
    let bytes = &text.as_bytes()[from..to];
    if !bytes.is_ascii() {
        return Change::Unusual;
    }
    if !bytes.iter().any(is_other) {
        return Change::Same;
    }
    let made = text.len();
    text.extend_from_within(from..to);
    change(&mut text[made..]);
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

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::evaluate::Value;
    use crate::evaluate::place::Why;
    use crate::{Plan, PlanOptions, Scratch, parse_assignment};

    const STEPS: [&str; 45] = [
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
        "number decimal \",\"",
        "number decimal either",
        "number accounting",
        "number decimal either accounting",
        "number 2",
        "number last decimal \",\" accounting",
        "number next",
        "number next decimal either accounting",
        "number after \"b\"",
        "number after word \"a\" decimal either",
        "match /[a-z]+/",
        "match /-(.*?)(\\d)?/ group 2",
        "check is digits",
        "check length 1..3 and it has no \"-\"",
        "check is upper when it has \"1\" saying \"no\"",
        "check value < {a}",
        "match /\\b[^K]\\w/i",
        "match /(\u{17f}|\\x{e9})./i",
        "as number",
        "after 1st \" \"",
        "before \" \" or end",
        "match /([a-z])1?-+A/ group 1",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]

        /// The slow, obvious twin is the long way: where the short way gives a piece, the long way gives the same and finds nothing.
        #[test]
        fn the_short_way_ends_where_the_long_one_does(
            text in "([abA019E]|-| |,|\\.|\\(|\\)|'|\\+|:|é|e\u{301}|\r\n|\u{a0}|00|1,250|250|1.250,50|€|\\$|R\\$|EUR|TL|kr\\.|kr|–|−|½|\u{200d}|\u{200f}|[a-]{60}){0,9}",
            steps in prop::collection::vec(prop::sample::select(&STEPS[..]), 1..4),
            then in prop::option::of(prop::sample::select(&STEPS[..])),
        ) {
            let then = then.map_or(String::new(), |then| format!(" else \"x\" then {then}"));
            let cut = format!("c = {{a}} | {}{then}", steps.join(" | "));
            let plan = Plan::compile(&[parse_assignment(&cut).unwrap()], &["a".to_owned()], &PlanOptions::default()).unwrap();
            plan.with_run(&[&text], 0, &mut Scratch::default(), |run| {
                let way = plan.cuts[0].short.as_ref().unwrap();
                let found = plan.searches.first().map(|searched| [search(text.as_bytes(), 0, text.len(), searched.byte)]);
                let (mut places, mut is_long, mut made) = ([Place::new(0, text.len())], [false], text.clone());
                let cells = [Place::new(0, text.len())];
                way.go(&mut places, &mut is_long, &mut made, found.as_ref().map(|found| &found[..]), (Some(&cells), &mut Vec::new()));
                if is_long[0] {
                    prop_assert_eq!(places[0], Place::NONE);
                    return Ok(());
                }
                let short = places[0].of(&made);
                let (long, branch) = run.branches(&plan.cuts[0].branches);
                if let (true, Some(Why::Reason(reason))) = (places[0].is_none(), places[0].why()) {
                    // That a cell is blank has been seen before.
                    prop_assume!(!text.trim_start().is_empty());
                    let Value::Missing(missing) = long else { return Err(TestCaseError::fail(format!("{cut} of {text:?}: {long:?}"))) };
                    prop_assert_eq!(missing.reason, &*way.reasons[reason], "{} of {:?}", cut, text);
                    prop_assert_eq!((run.findings.len(), branch.taken), (0, None), "{} of {:?}", cut, text);
                    return Ok(());
                }
                let Value::Text(long) = long else { return Err(TestCaseError::fail(format!("{cut} of {text:?}: {short:?}, not {long:?}"))) };
                let caveat = long.caveat().copied().unwrap_or_default();
                prop_assert!(caveat.doubt.is_none() && caveat.note.is_none(), "{} of {:?}: {:?}", cut, text, caveat);
                prop_assert_eq!(short, long.text(), "{} of {:?}", cut, text);
                prop_assert_eq!((run.findings.len(), branch.taken), (0, Some(0)), "{} of {:?}", cut, text);
                Ok(())
            })?;
        }
    }
}
