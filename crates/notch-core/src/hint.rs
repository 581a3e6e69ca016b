//! What is worth saying about cuts that work all the same, once all rows are known.
//!
//! A cut may be right for every row that was looked at when it was written and wrong for the column. While rows are evaluated, events are
//! counted ([`crate::eval::Event`]): a number whose mark groups, a `has` that a whole word would answer otherwise. When the rows are
//! done, [`Plan::hints`] makes sentences of those counts that mean something together.

use crate::finding::About;
use crate::plan::Plan;
use crate::tally::Tally;
use crate::text::Marks;

/// What is watched while rows are evaluated.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Watch {
    /// Numbers read with this decimal mark. Two events: the mark that is none groups three digits; it cannot be grouping.
    Marks(Marks),
    /// A test of `it`, as written, whose chain starts from a column. Two events: the piece fits; only the whole text does.
    Piece { test: String, column: String },
    /// `digits` before a step of this name. One event: there are several runs of digits.
    Digits { next: String },
    /// `has "ref"`. One event: it holds, and `has word "ref"` does not.
    Word { text: String },
    /// Brackets that end in this text, behind a step. One event: the step found nothing, which passes the brackets over.
    PassedOver { text: String },
}

impl Watch {
    fn events(&self) -> usize {
        match self {
            Watch::Marks(_) | Watch::Piece { .. } => 2,
            Watch::Digits { .. } | Watch::Word { .. } | Watch::PassedOver { .. } => 1,
        }
    }
}

/// Everything that is watched for a plan, with the places of its events.
#[derive(Debug, Default)]
pub(crate) struct Watches {
    list: Vec<Watched>,
    /// How many events there are.
    events: usize,
}

#[derive(Debug)]
struct Watched {
    /// The cut, from 0.
    cut: usize,
    watch: Watch,
    first_event: usize,
}

impl Watches {
    /// Adds something to be watched in a cut; returns the place of its first event.
    pub(crate) fn add(&mut self, cut: usize, watch: Watch) -> usize {
        let first_event = self.events;
        self.events += watch.events();
        self.list.push(Watched { cut, watch, first_event });
        first_event
    }
}

/// A hint, and what it is about.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Hint {
    /// The cut; where it is not written the first one that reads it, or else the column it starts from.
    pub about: About,
    /// One sentence or two.
    pub text: String,
    /// It is a finding as well: what has been read is probably wrong. Its reason, in a few words, and the line of the row that shows it.
    pub finding: Option<(String, u64)>,
}

impl Plan {
    /// What the rows counted so far show of the cuts. `line` says a line as it is said elsewhere: `line 12`.
    pub fn hints(&self, tally: &Tally, line: impl Fn(u64) -> String) -> Vec<Hint> {
        self.watches.list.iter().filter_map(|watched| self.hint(watched, tally, &line)).collect()
    }

    fn hint(&self, watched: &Watched, tally: &Tally, line: &impl Fn(u64) -> String) -> Option<Hint> {
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
                    "{} like {} ({}) {} read with a {is} that groups, but in {} the {is} is the decimal mark ({}, {}). If it always is, \
                     add decimal \"{other}\"; if each number shows it by its own marks, decimal either.",
                    counted(grouped.count, "number"),
                    grouped.text,
                    line(grouped.first_line),
                    if grouped.count == 1 { "was" } else { "were" },
                    rows(shown.count),
                    shown.text,
                    line(shown.first_line),
                );
                let reason =
                    format!("{} read with a {is} that groups, which is the decimal mark elsewhere", counted(grouped.count, "number"));
                return Some(Hint { about: self.seen_as(watched.cut), text, finding: Some((reason, shown.first_line)) });
            }
            Watch::Piece { test, column } => {
                let whole = seen(1).filter(|_| seen(0).is_none())?;
                format!(
                    "`it` is the piece that the steps before `if` have reached; `it {test}` never holds, and of the whole text it would in {} \
                     (first in {}). Name the column to ask about that: if {{{column}}} {test}.",
                    rows(whole.count),
                    line(whole.first_line)
                )
            }
            Watch::Digits { next } => {
                let several = seen(0)?;
                format!(
                    "`digits` joins all digits of a text, which stand in several places in {} (first in {}). \
                     For one run of them: block 1 of digits | {next} ….",
                    rows(several.count),
                    line(several.first_line)
                )
            }
            Watch::Word { text } => {
                let other = seen(0)?;
                format!(
                    "has {text} holds in {} where it is part of a longer word (first in {}). For the word alone: has word {text}.",
                    rows(other.count),
                    line(other.first_line)
                )
            }
            Watch::PassedOver { text } => {
                let missing = seen(0)?;
                format!(
                    "The brackets that end in else {text} are passed over where the step before them finds nothing: {} (first in {}). \
                     Behind the brackets it holds for those as well: … ) else {text}.",
                    rows(missing.count),
                    line(missing.first_line)
                )
            }
        };
        Some(Hint { about: self.seen_as(watched.cut), text, finding: None })
    }

    /// What is seen of a cut: itself, or the first written cut that reads it, or else the column it starts from.
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
