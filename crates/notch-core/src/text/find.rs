//! What finds a notch: marks and separators.

use memchr::memmem::Finder;
use regex::Regex;

use super::characters::{self, is_notch};
use super::masks::count_in_plain;
use super::{Kind, Span, is_word};

/// What is looked for.
#[derive(Debug)]
pub(crate) enum What {
    Text(Box<Finder<'static>>),
    /// A text ignoring case, by Unicode simple folding: the regex; and where nothing but ASCII
    /// folds to it, its bytes in lower case, which are found without the regex.
    Folded(Box<Regex>, Option<Box<[u8]>>),
    /// A text with no letter, digit or `_` beside it.
    Word(Box<What>),
    /// A regular expression, which sees code points; it counts only where it is not empty.
    Regex(Box<Regex>),
    /// One of these characters.
    AnyOf(Vec<Box<str>>),
    Kind(Kind),
}

impl What {
    /// Looks for a text that is not empty.
    pub(crate) fn text(text: &str) -> Self {
        What::Text(Box::new(Finder::new(text).into_owned()))
    }

    /// The one byte it looks for, when it is a text of one.
    pub(crate) fn plain_byte(&self) -> Option<u8> {
        match self {
            What::Text(finder) => std::str::from_utf8(finder.needle()).ok().and_then(plain_byte),
            _ => None,
        }
    }

    /// The bytes it looks for, when it is any of some characters of one.
    pub(crate) fn plain_bytes(&self) -> Option<Vec<u8>> {
        match self {
            What::AnyOf(characters) => characters.iter().map(|text| plain_byte(text)).collect(),
            what => what.plain_byte().map(|byte| vec![byte]),
        }
    }

    /// Looks for one of the characters of a text.
    pub(crate) fn any_of(text: &str) -> Self {
        What::AnyOf(characters::each(text).map(Box::from).collect())
    }

    /// The same, ignoring case.
    pub(crate) fn ignoring_case(self) -> Self {
        // Escaped texts are always regular expressions, and so is a group around one; their size is
        // bounded by what was typed.
        let folded = |pattern: &str| Regex::new(&format!("(?i)(?:{pattern})")).ok().map(Box::new);
        match self {
            What::Text(finder) => {
                let needle = finder.needle();
                let lower = needle.to_ascii_lowercase();
                // The Kelvin sign and the long s fold to k and s (Unicode, CaseFolding.txt); no
                // other letter of ASCII has one beyond it.
                let is_plain = needle.is_ascii() && !lower.iter().any(|b| matches!(b, b'k' | b's'));
                let plain = is_plain.then(|| lower.into());
                match folded(&regex::escape(&String::from_utf8_lossy(needle))) {
                    Some(regex) => What::Folded(regex, plain),
                    None => What::Text(finder),
                }
            }
            What::AnyOf(characters) => {
                let pattern: Vec<String> =
                    characters.iter().map(|character| regex::escape(character)).collect();
                match folded(&pattern.join("|")) {
                    Some(regex) => What::Folded(regex, None),
                    None => What::AnyOf(characters),
                }
            }
            What::Word(what) => What::Word(Box::new(what.ignoring_case())),
            What::Regex(regex) => What::Regex(folded(regex.as_str()).unwrap_or(regex)),
            same @ (What::Folded(..) | What::Kind(_)) => same,
        }
    }

    /// The first occurrence that begins at byte `from` or later.
    pub(crate) fn next(&self, text: &str, from: usize) -> Option<Span> {
        let mut from = from;
        loop {
            let found = self.candidate(text, from)?;
            if self.holds(text, &found) {
                return Some(found);
            }
            from = found.start + text[found.start..].chars().next()?.len_utf8();
        }
    }

    fn candidate(&self, text: &str, from: usize) -> Option<Span> {
        match self {
            What::Text(finder) => {
                let needle = finder.needle();
                let rest = &text.as_bytes()[from..];
                let at = match needle {
                    [byte] => memchr::memchr(*byte, rest)?,
                    _ => finder.find(rest)?,
                };
                Some(from + at..from + at + needle.len())
            }
            What::Folded(_, Some(needle)) => {
                let at = find_folded(&text.as_bytes()[from..], needle)?;
                Some(from + at..from + at + needle.len())
            }
            What::Folded(regex, _) | What::Regex(regex) => {
                regex.find_at(text, from).map(|found| found.range())
            }
            What::Word(what) => what.candidate(text, from),
            What::AnyOf(_) | What::Kind(_) => characters::with_places(&text[from..])
                .find(|(_, character)| self.is_one(character))
                .map(|(at, character)| from + at..from + at + character.len()),
        }
    }

    fn is_one(&self, character: &str) -> bool {
        match self {
            What::AnyOf(characters) => characters.iter().any(|one| **one == *character),
            What::Kind(kind) => kind.holds(character),
            _ => false,
        }
    }

    /// Whether a candidate counts: it splits no character, a word stands alone, a regular
    /// expression is not empty.
    fn holds(&self, text: &str, found: &Span) -> bool {
        match self {
            What::Regex(_) => !found.is_empty(),
            What::AnyOf(_) | What::Kind(_) => true,
            What::Text(_) | What::Folded(..) => {
                is_notch(text, found.start) && is_notch(text, found.end)
            }
            What::Word(what) => {
                // After a combining mark stands the letter it belongs to: the character before is
                // asked by its first code point.
                let before = characters::each(&text[..found.start])
                    .next_back()
                    .and_then(|c| c.chars().next());
                let behind = text[found.end..].chars().next();
                what.holds(text, found)
                    && !before.is_some_and(is_word)
                    && !behind.is_some_and(is_word)
            }
        }
    }

    /// The occurrence the text begins with.
    pub(crate) fn at_start(&self, text: &str) -> Option<Span> {
        self.next(text, 0).filter(|found| found.start == 0)
    }

    /// The occurrence the text ends with.
    pub(crate) fn at_end(&self, text: &str) -> Option<Span> {
        match self {
            What::Text(finder) => {
                let start = text.len().checked_sub(finder.needle().len())?;
                let found = start..text.len();
                (text.as_bytes()[start..] == *finder.needle() && self.holds(text, &found))
                    .then_some(found)
            }
            What::AnyOf(_) | What::Kind(_) => {
                let (at, character) = characters::with_places(text).next_back()?;
                self.is_one(character).then_some(at..text.len())
            }
            // What may be of several lengths is tried from each place on; the first that reaches
            // the end is the longest.
            What::Folded(..) | What::Regex(_) | What::Word(_) => {
                let mut from = 0;
                while let Some(found) = self.next(text, from) {
                    if found.end == text.len() {
                        return Some(found);
                    }
                    from = found.start + text[found.start..].chars().next()?.len_utf8();
                }
                None
            }
        }
    }

    /// Every occurrence from left to right, none overlapping the one before.
    pub(crate) fn all<'t>(&'t self, text: &'t str) -> impl Iterator<Item = Span> + 't {
        let mut from = 0;
        std::iter::from_fn(move || {
            let found = self.next(text, from)?;
            from = found.end;
            Some(found)
        })
    }

    /// How many occurrences there are.
    pub(crate) fn count(&self, text: &str) -> usize {
        let told = match self {
            // In a plain text each byte is a character.
            What::Text(finder) => match finder.needle() {
                [byte] => count_in_plain(text.as_bytes(), *byte),
                _ => None,
            },
            _ => None,
        };
        told.unwrap_or_else(|| self.all(text).count())
    }
}

/// Where a text has a needle of ASCII in lower case, whatever the case of its letters.
fn find_folded(text: &[u8], needle: &[u8]) -> Option<usize> {
    let (first, rest) = needle.split_first()?;
    let upper = first.to_ascii_uppercase();
    memchr::memchr2_iter(*first, upper, text).find(|at| {
        let after = text.get(at + 1..at + needle.len());
        after.is_some_and(|after| after.eq_ignore_ascii_case(rest))
    })
}

/// A mark: what, and which of its occurrences.
#[derive(Debug)]
pub(crate) struct Mark {
    pub what: What,
    /// 1 the first, -1 the last.
    pub which: i64,
    /// Whether the cut says which one.
    pub which_said: bool,
    /// As it was written: `2nd "-"`.
    pub spelled: String,
}

impl Mark {
    /// Where the mark is in the text.
    pub(crate) fn find(&self, text: &str) -> Option<Span> {
        let nth = usize::try_from(self.which.unsigned_abs()).ok()?;
        if self.which > 0 {
            return self.what.all(text).nth(nth - 1);
        }
        if let (1, What::Text(finder)) = (nth, &self.what)
            && let [byte] = *finder.needle()
        {
            // One byte cannot overlap itself: the last is found from the right.
            let mut ends = memchr::memrchr_iter(byte, text.as_bytes());
            return ends
                .find(|at| is_notch(text, *at) && is_notch(text, at + 1))
                .map(|at| at..at + 1);
        }
        // Occurrences count from the left, so the last ones are known only when all are.
        let wanted = self.what.count(text).checked_sub(nth)?;
        self.what.all(text).nth(wanted)
    }

    /// Why there is nothing: `no 2nd "-"`.
    pub(crate) fn absent(&self) -> String {
        format!("no {}", self.spelled)
    }
}

/// What divides a text into parts.
#[derive(Debug)]
pub(crate) enum Separator {
    /// What stands between two parts.
    What(What),
    /// ClassRuns of white space, none at the ends.
    Spaces,
    /// Parts are the runs of letters and the runs of digits.
    Kind,
    /// Parts of these numbers of characters, and one more of what is left.
    Widths(Vec<usize>),
}

impl Separator {
    /// The one byte that separates, when it is one.
    pub(crate) fn plain_byte(&self) -> Option<u8> {
        match self {
            Separator::What(what) => what.plain_byte(),
            _ => None,
        }
    }

    /// The bytes that separate, when it is any of some.
    pub(crate) fn plain_bytes(&self) -> Option<Vec<u8>> {
        match self {
            Separator::What(what) => what.plain_bytes(),
            _ => None,
        }
    }

    /// The parts of a text, in order; a text without the separator is one part.
    pub(crate) fn parts<'t>(&'t self, text: &'t str) -> Parts<'t> {
        Parts { separator: self, text, from: Some(0), taken: 0 }
    }

    /// How many characters the part counted from 0 should have.
    pub(crate) fn width(&self, part: usize) -> Option<usize> {
        match self {
            Separator::Widths(widths) => widths.get(part).copied(),
            _ => None,
        }
    }
}

/// The parts of a text, one after the other.
pub(crate) struct Parts<'t> {
    separator: &'t Separator,
    text: &'t str,
    /// Where the next part begins; `None` after the last.
    from: Option<usize>,
    taken: usize,
}

impl Iterator for Parts<'_> {
    type Item = Span;

    fn next(&mut self) -> Option<Span> {
        let from = self.from?;
        let text = self.text;
        let (part, next) = match self.separator {
            Separator::What(what) => match what.next(text, from) {
                Some(found) => (from..found.start, Some(found.end)),
                None => (from..text.len(), None),
            },
            Separator::Spaces => {
                let start = from + text[from..].find(|c: char| !c.is_whitespace())?;
                let end =
                    start + text[start..].find(char::is_whitespace).unwrap_or(text.len() - start);
                (start..end, Some(end))
            }
            Separator::Kind => {
                let rest = &text[from..];
                let kind = |character: &str| {
                    [Kind::Digit, Kind::Letter].into_iter().find(|kind| kind.holds(character))
                };
                let (start, of) = characters::with_places(rest)
                    .find_map(|(at, character)| Some((at, kind(character)?)))?;
                let end = characters::with_places(&rest[start..])
                    .find(|(_, character)| !of.holds(character))
                    .map_or(rest.len(), |(at, _)| start + at);
                (from + start..from + end, Some(from + end))
            }
            Separator::Widths(widths) => {
                if from == text.len() {
                    return None;
                }
                let end = widths
                    .get(self.taken)
                    .and_then(|width| characters::notch_after(&text[from..], *width))
                    .map_or(text.len(), |n| from + n);
                (from..end, Some(end))
            }
        };
        self.taken += 1;
        self.from = next;
        Some(part)
    }
}

/// A text of one byte that can be searched without regard to what stands beside it, but for letters
/// with marks on them.
pub(crate) fn plain_byte(text: &str) -> Option<u8> {
    match text.as_bytes() {
        [byte @ 0x20..0x7F] => Some(*byte),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::text::words;

    /// All occurrences, by the slow and obvious search: at every place the text is compared as it
    /// stands, and whole characters count alone.
    fn slow(what: &str, text: &str, fold: bool, alone: bool) -> Vec<Span> {
        let notches: Vec<usize> =
            characters::with_places(text).map(|(at, _)| at).chain([text.len()]).collect();
        let same =
            |a: &str, b: &str| if fold { super::super::same_ignoring_case(a, b) } else { a == b };
        let lonely = |span: &Span| {
            let before = characters::each(&text[..span.start])
                .last()
                .is_some_and(|c| c.chars().next().is_some_and(is_word));
            !before && !text[span.end..].chars().next().is_some_and(is_word)
        };
        let mut found: Vec<Span> = Vec::new();
        for start in &notches {
            let end = notches.iter().find(|end| *end > start && same(&text[*start..**end], what));
            let free = found.last().is_none_or(|last| last.end <= *start);
            if let Some(span) =
                end.map(|end| *start..*end).filter(|span| free && (!alone || lonely(span)))
            {
                found.push(span);
            }
        }
        found
    }

    proptest! {
        #[test]
        fn words_of_ascii_are_those_of_any_text(text in "([aB1_'-]|[ -~]){0,12}") {
            let other = format!("{text} é");
            let mut of_other: Vec<Span> = words(&other).collect();
            of_other.pop();
            prop_assert_eq!(words(&text).collect::<Vec<_>>(), of_other, "{}", text);
        }

        #[test]
        fn occurrences_are_those_of_the_slow_way(
            what in "([aAb-]|é|e|\u{301}){1,3}", text in "([aAb_-]|é|É|e|\u{301}| ){0,14}", which in prop::sample::select(vec![1i64, 2, -1, -2]),
        ) {
            for (fold, alone) in [(false, false), (true, false), (false, true), (true, true)] {
                let mut mark = What::text(&what);
                if alone {
                    mark = What::Word(Box::new(mark));
                }
                if fold {
                    mark = mark.ignoring_case();
                }
                let wanted = slow(&what, &text, fold, alone);
                prop_assert_eq!(mark.all(&text).collect::<Vec<_>>(), wanted.clone());
                prop_assert_eq!(mark.count(&text), wanted.len());
                let place = if which > 0 { Some(which as usize - 1) } else { wanted.len().checked_sub(which.unsigned_abs() as usize) };
                let mark = Mark { what: mark, which, which_said: true, spelled: String::new() };
                prop_assert_eq!(mark.find(&text), place.and_then(|place| wanted.get(place).cloned()));
                prop_assert_eq!(mark.what.at_start(&text), wanted.first().filter(|span| span.start == 0).cloned());
                if !alone {
                    let ends = characters::with_places(&text).map(|(at, _)| at).find(|at| slow(&what, &text[*at..], fold, false).iter().any(|span| *span == (0..text.len() - at)));
                    prop_assert_eq!(mark.what.at_end(&text).map(|span| span.start), ends);
                }
            }
        }
    }
}
