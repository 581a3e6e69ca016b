//! What is worth saying about cuts that work all the same, once all rows are known.
//!
//! A cut may be right for every row that was looked at when it was written and wrong for the
//! column. While rows are evaluated, events are counted (`Event`): a number whose
//! mark groups, a `has` that a whole word would answer otherwise. When the rows are done,
//! [`Plan::hints`] makes sentences of those counts that mean something together.

use crate::finding::About;
use crate::program::Plan;
use crate::program::{Watch, WatchedCut};
use crate::tally::Tally;
use crate::text::Marks;

/// A hint, and what it is about.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hint {
    /// The cut; where it is not written the first one that reads it, or else the column it starts
    /// from.
    pub about: About,
    /// One sentence or two.
    pub text: String,
    /// It is a finding as well: what has been read is probably wrong. Its reason, in a few words,
    /// and the line of the row that shows it.
    pub finding: Option<(String, u64)>,
}

impl Plan {
    /// What the rows counted so far show of the cuts. `line` says a line as it is said elsewhere:
    /// `line 12`.
    pub fn hints(&self, tally: &Tally, line: impl Fn(u64) -> String) -> Vec<Hint> {
        self.watches.list.iter().filter_map(|watched| self.hint(watched, tally, &line)).collect()
    }

    fn hint(
        &self,
        watched: &WatchedCut,
        tally: &Tally,
        line: &impl Fn(u64) -> String,
    ) -> Option<Hint> {
        let seen = |n: usize| tally.event(watched.first_event + n);
        let rows = |count: u64| format!("{count} row{}", if count == 1 { "" } else { "s" });
        let text = match &watched.watch {
            Watch::Marks(marks) => {
                let (grouped, shown) = (seen(0)?, seen(1)?);
                let (other, is) = match marks {
                    Marks::Comma => (".", "point"),
                    _ => (",", "comma"),
                };
                let text = format!(
                    "{} like {} ({}) {} read with a {is} that groups, but in {} the {is} is the \
                    decimal mark ({}, {}). If it always is, add decimal \"{other}\"; if each \
                    number shows it by its own marks, decimal either.",
                    counted(grouped.count, "number"),
                    grouped.text,
                    line(grouped.first_line),
                    if grouped.count == 1 { "was" } else { "were" },
                    rows(shown.count),
                    shown.text,
                    line(shown.first_line),
                );
                let reason = format!(
                    "{} read with a {is} that groups, which is the decimal mark elsewhere",
                    counted(grouped.count, "number")
                );
                return Some(Hint {
                    about: self.seen_as(watched.cut),
                    text,
                    finding: Some((reason, shown.first_line)),
                });
            }
            Watch::Piece { test, column } => {
                let whole = seen(1).filter(|_| seen(0).is_none())?;
                format!(
                    "`it` is the piece that the steps before `if` have reached; `it {test}` never \
                    holds, and of the whole text it would in {} (first in {}). Name the column to \
                    ask about that: if {{{column}}} {test}.",
                    rows(whole.count),
                    line(whole.first_line)
                )
            }
            Watch::Digits { next } => {
                let several = seen(0)?;
                format!(
                    "`digits` joins all digits of a text, which stand in several places in {} \
                    (first in {}). For one run of them: block 1 of digits | {next} ….",
                    rows(several.count),
                    line(several.first_line)
                )
            }
            Watch::Word { text } => {
                let other = seen(0)?;
                format!(
                    "has {text} holds in {} where it is part of a longer word (first in {}). For \
                    the word alone: has word {text}.",
                    rows(other.count),
                    line(other.first_line)
                )
            }
            Watch::PassedOver { text } => {
                let missing = seen(0)?;
                format!(
                    "The brackets that end in else {text} are passed over where the step before \
                    them finds nothing: {} (first in {}). Behind the brackets it holds for those \
                    as well: … ) else {text}.",
                    rows(missing.count),
                    line(missing.first_line)
                )
            }
        };
        Some(Hint { about: self.seen_as(watched.cut), text, finding: None })
    }

    /// What is seen of a cut: itself, or the first written cut that reads it, or else the column it
    /// starts from.
    fn seen_as(&self, cut: usize) -> About {
        match (self.cuts[cut].seen_in, self.origin(cut)) {
            (None, Some(source)) => About::Column(source),
            (seen, _) => About::Cut(seen.unwrap_or(cut)),
        }
    }
}

fn counted(count: u64, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}
