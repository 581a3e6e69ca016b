//! Which number of a text is taken, for the word and for its kernel.

use super::items::{self, COUNTED};
use crate::language::Reach;
use crate::program::Nothing;
use crate::text::{Mark, Marks, Number, NumberStyle, numbers, stands_next};

/// The reason of a text without numbers.
pub(super) const NO_NUMBER: &str = "no number";
/// The reason of a text that does not begin with one.
const NO_NEXT: &str = "no number next";

fn none_after(mark: &Mark) -> String {
    format!("no number after {}", mark.spelled)
}

/// Which number of a text is taken, and how numbers are written there.
pub(super) struct NumberRule {
    pub which: Which,
    pub style: NumberStyle,
}

pub(super) enum Which {
    Place(Reach),
    Next,
    After(Box<Mark>),
}

/// A number that was looked for.
pub(super) struct Sought {
    /// The number, its places counted from `from`.
    pub found: Option<Number>,
    /// Where the text begins that it was found in, in bytes of the piece.
    pub from: usize,
    /// Something depends on the character before the piece.
    pub depends_on_before: bool,
    /// How many numbers the text has, where a place was looked for that is not there.
    pub count: usize,
}

impl NumberRule {
    /// Which number of a text it takes, counted from the left from 1, where its numbers have
    /// decimal points or show by their own marks which they have; `None` of other rules.
    pub(crate) fn plain_place(&self) -> Option<usize> {
        let is_plain = !self.style.accounting && self.style.marks != Marks::Comma;
        match self.which {
            Which::Place(reach) if is_plain && reach.single => {
                usize::try_from(reach.first?).ok().filter(|n| *n > 0)
            }
            _ => None,
        }
    }

    /// Looks for the number in a text; `before` is the character before it in its cell.
    pub(crate) fn find(&self, text: &str, before: Option<char>) -> Sought {
        let mut count = 0;
        let mut all = numbers(text, before, self.style);
        let found = match &self.which {
            Which::Place(reach) => match reach.first {
                Some(n @ 1..) => {
                    let n = usize::try_from(n).unwrap_or(usize::MAX);
                    all.find(|_| {
                        count += 1;
                        count == n
                    })
                }
                Some(-1) => all.by_ref().last(),
                _ => {
                    count = all.by_ref().count();
                    items::places(*reach, count)
                        .and_then(|(place, _)| numbers(text, before, self.style).nth(place - 1))
                }
            },
            Which::Next => all.next().filter(|found| stands_next(found, text, self.style)),
            Which::After(mark) => {
                let behind = |at: usize| {
                    let rest = &text[at..];
                    let found = numbers(rest, text[..at].chars().next_back(), self.style).next()?;
                    stands_next(&found, rest, self.style).then_some((found, at))
                };
                let found = match mark.which_said {
                    true => mark.find(text).and_then(|span| behind(span.end)),
                    false => mark.what.all(text).find_map(|span| behind(span.end)),
                };
                let (found, from) = found.map_or((None, 0), |(found, from)| (Some(found), from));
                return Sought { found, from, depends_on_before: false, count };
            }
        };
        Sought { found, from: 0, depends_on_before: all.depends_on_before(), count }
    }

    /// The reasons for which a text certainly has no such number, as [`NumberRule::absence`] counts
    /// them.
    pub(super) fn reasons(&self) -> Vec<String> {
        match &self.which {
            Which::Place(_) => {
                let counted = (1..=COUNTED).map(|count| items::counted(count, "number"));
                [NO_NUMBER.to_owned()].into_iter().chain(counted).collect()
            }
            Which::Next => vec![NO_NEXT.to_owned()],
            Which::After(mark) => vec![mark.absent(), none_after(mark)],
        }
    }

    /// Which of the reasons it is that a text, of that many numbers where a place is looked for,
    /// has no such number; `None` where it is none of them.
    pub(crate) fn absence(&self, text: &str, count: usize) -> Option<usize> {
        match &self.which {
            Which::Place(_) => (count <= COUNTED).then_some(count),
            Which::Next => Some(0),
            Which::After(mark) => Some(usize::from(mark.find(text).is_some())),
        }
    }

    /// Why there is no such number in a text.
    pub(super) fn absent(&self, text: &str) -> (Nothing, String) {
        match &self.which {
            Which::Place(_) => match numbers(text, None, self.style).count() {
                0 => (Nothing::Empty, NO_NUMBER.to_owned()),
                n => (Nothing::Absent, items::counted(n, "number")),
            },
            Which::Next => (Nothing::Absent, NO_NEXT.to_owned()),
            Which::After(mark) if mark.find(text).is_none() => (Nothing::Absent, mark.absent()),
            Which::After(mark) => (Nothing::Absent, none_after(mark)),
        }
    }
}
