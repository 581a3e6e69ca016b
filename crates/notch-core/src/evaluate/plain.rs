//! The short way of a cell through a cut: what steps do to texts with nothing special about them.
//!
//! Most cells of most columns are plain: ASCII around the places that matter, nothing missing, nothing to report. For those the steps
//! of a cut are done one after the other on a slice of the cell, without lists, reasons or findings. Wherever a text is not plain a
//! step here gives up, and the cut is evaluated the long way from the start, which alone decides what is unusual and what to say.

use std::cell::RefCell;
use std::sync::atomic::{AtomicUsize, Ordering};

use bumpalo::Bump;
use bumpalo::collections::String as RowString;
use memchr::memchr_iter;
use regex::{CaptureLocations, Regex};

use super::value::Piece;
use crate::text::bytes;

/// The short way of a cut: the source it starts from, and its steps.
pub(crate) struct ShortWay {
    pub column: usize,
    pub steps: Vec<Plain>,
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

/// A regular expression of which each thread has its own, with the memory it needs: one shared by all would make them wait.
#[derive(Clone)]
pub(crate) struct OwnRegex {
    regex: Regex,
    id: usize,
}

thread_local! {
    static OWN: RefCell<Vec<Option<(Regex, CaptureLocations)>>> = RefCell::default();
}

impl OwnRegex {
    pub(crate) fn new(regex: &Regex) -> Self {
        static NEXT: AtomicUsize = AtomicUsize::new(0);
        Self { regex: regex.clone(), id: NEXT.fetch_add(1, Ordering::Relaxed) }
    }

    /// Where the group of the first match lies.
    fn find(&self, text: &str, group: usize) -> Option<std::ops::Range<usize>> {
        OWN.with_borrow_mut(|own| {
            if own.len() <= self.id {
                own.resize_with(self.id + 1, || None);
            }
            let (regex, places) = own[self.id].get_or_insert_with(|| (self.regex.clone(), self.regex.capture_locations()));
            if group == 0 {
                return regex.find(text).map(|found| found.range());
            }
            regex.captures_read(places, text)?;
            places.get(group).map(|(from, to)| from..to)
        })
    }
}

/// Whether a text of one byte can be looked for without asking what stands beside it, but for letters with marks on them.
pub(crate) fn plain_byte(text: &str) -> Option<u8> {
    match text.as_bytes() {
        [byte @ 0x20..0x7F] => Some(*byte),
        _ => None,
    }
}

/// Whether these bytes are characters of their own.
fn each_its_own(bytes: &[u8]) -> bool {
    bytes::words(bytes).all(|(_, word)| bytes::is_ascii(word) && bytes::equal(word, b'\r') == 0)
}

/// Whether the byte at a place is a character of its own, whatever stands beside it.
fn alone(bytes: &[u8], at: usize) -> bool {
    let is_plain = |byte: Option<&u8>| byte.is_none_or(u8::is_ascii);
    is_plain(bytes.get(at + 1)) && is_plain(at.checked_sub(1).and_then(|before| bytes.get(before)))
}

impl Plain {
    /// Does the step's work; `None` when the text is not plain, nothing is there, or there is something to report. What is given is a
    /// slice of the text, or a text made anew.
    #[inline]
    fn run<'a>(&self, text: &'a str, arena: &'a Bump) -> Option<&'a str> {
        let bytes = text.as_bytes();
        let span = match self {
            Plain::Nothing => return Some(text),
            Plain::First(n) => {
                // The character behind the last one may still belong to it.
                let seen = bytes.get(..*n + 1).or_else(|| bytes.get(..*n))?;
                each_its_own(seen).then_some(0..*n)?
            }
            Plain::Last(n) => {
                let from = bytes.len().checked_sub(*n)?;
                each_its_own(&bytes[from.saturating_sub(1)..]).then_some(from..bytes.len())?
            }
            Plain::DropFirst(n) => {
                let seen = bytes.get(..*n + 1)?;
                each_its_own(seen).then_some(*n..bytes.len())?
            }
            Plain::DropLast(n) => {
                let to = bytes.len().checked_sub(*n).filter(|to| *to > 0)?;
                each_its_own(&bytes[to - 1..]).then_some(0..to)?
            }
            Plain::Chars(from, count) => {
                let seen = bytes.get(..from + count + 1).or_else(|| bytes.get(..from + count))?;
                each_its_own(seen).then_some(*from..from + count)?
            }
            Plain::Part { n, of, separator } => part(bytes, *n, *of, *separator)?,
            Plain::Beside { byte, last, before } => {
                let at = if *last { bytes::last(*byte, bytes) } else { bytes::first(*byte, bytes) }.filter(|at| alone(bytes, *at))?;
                if *before { 0..at } else { at + 1..bytes.len() }
            }
            Plain::Trim => {
                let is_blank = |byte: &u8| matches!(byte, b' ' | b'\t'..=b'\r');
                let from = bytes.iter().position(|byte| !is_blank(byte))?;
                let to = bytes.iter().rposition(|byte| !is_blank(byte))?;
                // White space beyond ASCII may stand there, or a mark on a blank.
                (bytes[from].is_ascii() && bytes[to].is_ascii()).then_some(from..to + 1)?
            }
            Plain::Lower | Plain::Upper if !bytes.is_ascii() => return None,
            Plain::Lower if !bytes.iter().any(u8::is_ascii_uppercase) => return Some(text),
            Plain::Upper if !bytes.iter().any(u8::is_ascii_lowercase) => return Some(text),
            Plain::Lower | Plain::Upper => {
                let mut made = RowString::with_capacity_in(text.len(), arena);
                made.push_str(text);
                if matches!(self, Plain::Lower) {
                    made.make_ascii_lowercase()
                } else {
                    made.make_ascii_uppercase()
                }
                return Some(made.into_bump_str());
            }
            Plain::PadLeft { width, fill } => {
                if bytes.len() > *width || !each_its_own(bytes) {
                    return None;
                }
                let mut made = RowString::with_capacity_in(*width, arena);
                (bytes.len()..*width).for_each(|_| made.push(char::from(*fill)));
                made.push_str(text);
                return Some(made.into_bump_str());
            }
            Plain::Number => {
                let (span, grouped) = number(bytes)?;
                if grouped {
                    let mut made = RowString::with_capacity_in(span.len(), arena);
                    text[span].split(',').for_each(|group| made.push_str(group));
                    return Some(made.into_bump_str());
                }
                span
            }
            Plain::Match(regex, group) => regex.find(text, *group)?,
        };
        if span.is_empty() { None } else { text.get(span) }
    }
}

/// Whether a text is plain at its beginning and not blank.
fn starts_plain(text: &str) -> bool {
    text.as_bytes().first().is_some_and(u8::is_ascii_graphic) || !text.trim_start().is_empty()
}

impl ShortWay {
    /// What the cut makes of a cell; `None` when that is for the long way to say.
    #[inline]
    pub(crate) fn text<'a>(&self, cell: &'a str, arena: &'a Bump) -> Option<&'a str> {
        let plain = Some(cell).filter(|cell| starts_plain(cell))?;
        let text = self.steps.iter().try_fold(plain, |text, step| step.run(text, arena))?;
        starts_plain(text).then_some(text)
    }

    /// The same with the place the text has in the cell.
    pub(crate) fn piece<'a>(&self, cell: &'a str, arena: &'a Bump) -> Option<Piece<'a>> {
        let mut plain = Some(PlainPiece::whole(cell)).filter(|_| starts_plain(cell))?;
        for step in &self.steps {
            plain.step(step.run(plain.text, arena)?);
        }
        starts_plain(plain.text).then(|| plain.piece())
    }
}

/// A text on its way through plain steps, as a piece of the cell or of the text made last.
struct PlainPiece<'a> {
    base: &'a str,
    before: Option<char>,
    text: &'a str,
}

impl<'a> PlainPiece<'a> {
    fn whole(cell: &'a str) -> Self {
        Self { base: cell, before: None, text: cell }
    }

    /// Where the text begins in its base; `None` when it is no part of it.
    fn start(&self, text: &str) -> Option<usize> {
        let start = (text.as_ptr() as usize).checked_sub(self.base.as_ptr() as usize)?;
        (start + text.len() <= self.base.len()).then_some(start)
    }

    /// The text a step has given.
    #[inline]
    fn step(&mut self, given: &'a str) {
        if self.start(given).is_none() {
            // It stands where the text before it stood.
            self.before = self.piece().char_before();
            self.base = given;
        }
        self.text = given;
    }

    fn piece(&self) -> Piece<'a> {
        let start = self.start(self.text).unwrap_or(0);
        Piece::part(self.base, start..start + self.text.len(), self.before)
    }
}

fn part(bytes: &[u8], n: usize, of: Option<usize>, separator: u8) -> Option<std::ops::Range<usize>> {
    let mut parts = Parts { n, of, start: 0, found: None, count: 1 };
    for (base, word) in bytes::words(bytes) {
        if !bytes::is_ascii(word) {
            return marked_part(bytes, n, of, separator);
        }
        for at in bytes::places(base, bytes::equal(word, separator)) {
            // What stands before it has been seen to be ASCII.
            if !bytes.get(at + 1).is_none_or(u8::is_ascii) {
                return None;
            }
            if parts.ends(at) {
                return parts.found;
            }
        }
    }
    parts.last(bytes.len())
}

/// The same in a text that is not ASCII throughout.
#[cold]
fn marked_part(bytes: &[u8], n: usize, of: Option<usize>, separator: u8) -> Option<std::ops::Range<usize>> {
    let mut parts = Parts { n, of, start: 0, found: None, count: 1 };
    for at in memchr_iter(separator, bytes) {
        if !alone(bytes, at) {
            return None;
        }
        if parts.ends(at) {
            return parts.found;
        }
    }
    parts.last(bytes.len())
}

/// The search for the part of a number among the parts of a text.
struct Parts {
    n: usize,
    of: Option<usize>,
    start: usize,
    found: Option<std::ops::Range<usize>>,
    /// The part that is not over yet.
    count: usize,
}

impl Parts {
    /// A part ends there; gives whether that is all there is to know.
    #[inline]
    fn ends(&mut self, at: usize) -> bool {
        if self.count == self.n {
            self.found = Some(self.start..at);
            if self.of.is_none() {
                return true;
            }
        }
        (self.count, self.start) = (self.count + 1, at + 1);
        false
    }

    /// The last part ends where the text does.
    fn last(mut self, end: usize) -> Option<std::ops::Range<usize>> {
        if self.count == self.n {
            self.found = Some(self.start..end);
        }
        self.found.filter(|_| self.of.is_none_or(|of| of == self.count))
    }
}

/// The first number where it leaves no doubt, and whether commas group it: no sign, bracket or letter beyond ASCII beside it, no
/// other comma or point that could belong to it.
fn number(bytes: &[u8]) -> Option<(std::ops::Range<usize>, bool)> {
    let from = bytes::first_digit(bytes)?;
    let digits = |from: usize| bytes::leading_digits(&bytes[from..]);
    let is_open =
        |byte: Option<&u8>| byte.is_none_or(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b' ' | b'/' | b'_' | b'#' | b'='));
    if !is_open(from.checked_sub(1).map(|before| &bytes[before])) {
        return None;
    }
    let count = digits(from);
    if count > 1 && bytes[from] == b'0' {
        return None;
    }
    let (mut to, mut grouped, mut pointed) = (from + count, false, false);
    loop {
        match (bytes.get(to), bytes.get(to + 1)) {
            (Some(b','), Some(next)) if next.is_ascii_digit() => {
                let fits = (1..=3).contains(&count) && bytes[from] != b'0' && digits(to + 1) == 3 && !pointed;
                if !fits {
                    return None;
                }
                (to, grouped) = (to + 4, true);
            }
            (Some(b'.'), Some(next)) if next.is_ascii_digit() => {
                if pointed {
                    return None;
                }
                (to, pointed) = (to + 1 + digits(to + 1), true);
            }
            (Some(b',' | b';' | b':' | b'.'), None | Some(b' ')) => break,
            (after, _) => {
                if !is_open(after) {
                    return None;
                }
                break;
            }
        }
    }
    Some((from..to, grouped))
}

#[cfg(test)]
mod tests {
    use bumpalo::Bump;
    use proptest::prelude::*;

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
            text in "([abA019]|-| |,|\\.|\\(|\\)|é|e\u{301}|\r\n|\u{a0}|00|1,250|\u{200d}){0,9}",
            steps in prop::collection::vec(prop::sample::select(&STEPS[..]), 1..4),
            then in prop::option::of(prop::sample::select(&STEPS[..])),
        ) {
            let then = then.map_or(String::new(), |then| format!(" else \"x\" then {then}"));
            let cut = format!("c = {{a}} | {}{then}", steps.join(" | "));
            let plan = Plan::compile(&[parse_assignment(&cut).unwrap()], &["a".to_owned()], &PlanOptions::default()).unwrap();
            plan.with_run(&[&text], 0, &mut Scratch::default(), |run| {
                let way = plan.cuts[0].short.as_ref().unwrap();
                let arena = Bump::new();
                let Some(short) = way.piece(&text, &arena) else {
                    prop_assert_eq!(way.text(&text, &arena), None);
                    return Ok(());
                };
                prop_assert_eq!(way.text(&text, &arena), Some(short.text()));
                let (long, branch) = run.branches(&plan.cuts[0].branches);
                let Value::Text(long) = long else { return Err(TestCaseError::fail(format!("{cut} of {text:?}: {:?}, not {long:?}", short.text()))) };
                prop_assert_eq!((short.text(), short.char_before()), (long.text(), long.char_before()), "{} of {:?}", cut, text);
                prop_assert_eq!((run.findings.len(), branch.taken), (0, Some(0)), "{} of {:?}", cut, text);
                Ok(())
            })?;
        }
    }
}
