//! What finds a notch: marks and separators.

use memchr::memmem::Finder;
use regex::Regex;

use super::Span;
use super::characters::is_notch;

/// What is looked for.
#[derive(Debug)]
pub(crate) enum What {
    Text(Box<Finder<'static>>),
    /// A text ignoring case, by Unicode simple folding.
    Folded(Box<Regex>),
    /// A text with no letter, digit or `_` beside it.
    Word(Box<What>),
}

impl What {
    /// Looks for a text that is not empty.
    pub(crate) fn text(text: &str) -> Self {
        What::Text(Box::new(Finder::new(text).into_owned()))
    }

    /// The same, ignoring case.
    pub(crate) fn ignoring_case(self) -> Self {
        match self {
            What::Text(finder) => {
                let text = String::from_utf8_lossy(finder.needle());
                // An escaped text is always a regular expression; its size is the text's.
                match Regex::new(&format!("(?i){}", regex::escape(&text))) {
                    Ok(regex) => What::Folded(Box::new(regex)),
                    Err(_) => What::Text(finder),
                }
            }
            What::Word(what) => What::Word(Box::new(what.ignoring_case())),
            folded @ What::Folded(_) => folded,
        }
    }

    /// The first occurrence that begins at byte `from` or later and splits no character.
    pub(crate) fn next(&self, text: &str, from: usize) -> Option<Span> {
        let mut from = from;
        loop {
            let found = self.next_bytes(text, from)?;
            let whole = is_notch(text, found.start) && is_notch(text, found.end);
            if whole && self.stands_alone(text, &found) {
                return Some(found);
            }
            from = found.start + text[found.start..].chars().next().map_or(1, char::len_utf8);
        }
    }

    fn next_bytes(&self, text: &str, from: usize) -> Option<Span> {
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
            What::Folded(regex) => regex.find_at(text, from).map(|found| found.range()),
            What::Word(what) => what.next_bytes(text, from),
        }
    }

    fn stands_alone(&self, text: &str, found: &Span) -> bool {
        let continues = |c: char| c.is_alphanumeric() || c == '_';
        match self {
            What::Word(_) => {
                // Behind a combining mark stands the letter it belongs to: the character before is asked by its first code point.
                let before = super::characters::each(&text[..found.start]).next_back().and_then(|c| c.chars().next());
                !before.is_some_and(continues) && !text[found.end..].chars().next().is_some_and(continues)
            }
            _ => true,
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
}

/// A mark: what, and which of its occurrences.
#[derive(Debug)]
pub(crate) struct Mark {
    pub what: What,
    /// 1 the first, -1 the last.
    pub which: i64,
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
            return ends.find(|at| is_notch(text, *at) && is_notch(text, at + 1)).map(|at| at..at + 1);
        }
        // Occurrences count from the left, so the last ones are known only when all are.
        let wanted = self.what.all(text).count().checked_sub(nth)?;
        self.what.all(text).nth(wanted)
    }

    /// Why there is nothing: `no 2nd "-"`.
    pub(crate) fn absent(&self) -> String {
        format!("no {}", self.spelled)
    }
}

/// What stands between two parts.
#[derive(Debug)]
pub(crate) enum Separator {
    What(What),
}

impl Separator {
    /// The parts of a text, in order; a text without the separator is one part.
    pub(crate) fn parts<'t>(&'t self, text: &'t str) -> impl Iterator<Item = Span> + 't {
        let Separator::What(what) = self;
        let mut start = Some(0);
        std::iter::from_fn(move || {
            let from = start?;
            match what.next(text, from) {
                Some(found) => {
                    start = Some(found.end);
                    Some(from..found.start)
                }
                None => {
                    start = None;
                    Some(from..text.len())
                }
            }
        })
    }
}
