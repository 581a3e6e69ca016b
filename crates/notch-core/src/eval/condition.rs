//! Conditions: the tests of the language and what they are about. Whatever asks a question of a text asks it here.

use crate::eval::{Event, RowContext, Value};
use crate::plan::CompiledSource;
use crate::text::What;

type HoldsOfText = dyn Fn(&str) -> bool + Send + Sync;
type HoldsInRow = dyn for<'a> Fn(&str, &mut RowContext<'a>) -> bool + Send + Sync;

/// A compiled test of one text.
pub(crate) struct Test {
    negated: bool,
    /// What it says of something missing, before it is negated.
    of_missing: bool,
    holds: Holds,
}

enum Holds {
    /// It looks at nothing but the text.
    OfText(Box<HoldsOfText>),
    /// It looks at other cells of the row as well.
    InRow(Box<HoldsInRow>),
}

impl Test {
    /// A test that is false of something missing; `negated` turns it round.
    pub(crate) fn new(negated: bool, holds: impl Fn(&str) -> bool + Send + Sync + 'static) -> Self {
        Self { negated, of_missing: false, holds: Holds::OfText(Box::new(holds)) }
    }

    /// A test that looks at other cells of the row as well.
    pub(crate) fn in_row(negated: bool, holds: impl for<'a> Fn(&str, &mut RowContext<'a>) -> bool + Send + Sync + 'static) -> Self {
        Self { negated, of_missing: false, holds: Holds::InRow(Box::new(holds)) }
    }

    /// The test that is true of something missing.
    pub(crate) fn blank(negated: bool) -> Self {
        Self { of_missing: true, ..Self::new(negated, |text| text.trim_start().is_empty()) }
    }

    fn ask(&self, text: Option<&str>, run: &mut RowContext<'_>) -> bool {
        let answer = match (text, &self.holds) {
            (None, _) => self.of_missing,
            (Some(text), Holds::OfText(holds)) => holds(text),
            (Some(text), Holds::InRow(holds)) => holds(text, run),
        };
        answer != self.negated
    }

    /// The same without a row; a test that wants one has no answer.
    fn ask_alone(&self, text: Option<&str>) -> Option<bool> {
        let answer = match (text, &self.holds) {
            (None, _) => self.of_missing,
            (Some(text), Holds::OfText(holds)) => holds(text),
            (Some(_), Holds::InRow(_)) => return None,
        };
        Some(answer != self.negated)
    }
}

/// A compiled condition.
pub(crate) enum Condition {
    Any(Vec<Condition>),
    All(Vec<Condition>),
    Not(Box<Condition>),
    Test(Subject, Test, Vec<Watched>),
    /// Whether no other row has the text of the plan's unique source of that place.
    Unique {
        place: usize,
        negated: bool,
    },
}

/// What is counted of the answers of a test, for a hint.
pub(crate) enum Watched {
    /// In how many rows it holds of the piece, and in how many of the whole cell alone.
    Piece { source: usize, event: usize },
    /// In how many rows it holds where the mark as a word of its own does not occur.
    Word { word: What, event: usize },
}

/// What a test is about.
pub(crate) enum Subject {
    /// The text the chain has reached.
    It,
    Source(CompiledSource),
}

impl Watched {
    fn count<'a>(&self, text: &'a str, answer: bool, test: &Test, run: &mut RowContext<'a>) {
        let event = match self {
            Watched::Piece { event, .. } if answer => Some(*event),
            Watched::Piece { source, event } => {
                let cell = run.cells.get(*source).copied().unwrap_or_default();
                (text != cell && test.ask_alone(Some(cell)) == Some(true)).then_some(event + 1)
            }
            Watched::Word { word, event } => (answer != test.negated && word.next(text, 0).is_none()).then_some(*event),
        };
        run.events.extend(event.map(|id| Event { id, text }));
    }
}

impl Condition {
    /// Whether the condition holds in this row, given what the chain has reached.
    pub(crate) fn holds<'a>(&self, it: Value<'a>, run: &mut RowContext<'a>) -> bool {
        match self {
            Condition::Any(conditions) => conditions.iter().any(|condition| condition.holds(it, run)),
            Condition::All(conditions) => conditions.iter().all(|condition| condition.holds(it, run)),
            Condition::Not(condition) => !condition.holds(it, run),
            Condition::Test(subject, test, watched) => {
                let value = match subject {
                    Subject::It => it,
                    Subject::Source(source) => run.quietly(source),
                };
                if !test.of_missing {
                    // An answer about a doubtful number is doubtful itself.
                    let doubt = RowContext::caveat_of(value).doubt;
                    run.asked.doubt = run.asked.doubt.or(doubt);
                }
                let text = run.text_of(value);
                let answer = test.ask(text, run);
                if let Some(text) = text {
                    watched.iter().for_each(|watched| watched.count(text, answer, test, run));
                }
                answer
            }
            Condition::Unique { place, negated } => run.same_as(*place).is_none() != *negated,
        }
    }

    /// Whether the condition holds, given the text the chain has reached and the cells of the plan's sources, of which none is missing but
    /// for being blank; `None` where it asks about something else.
    pub(crate) fn holds_of<'c>(&self, it: Option<&str>, cell: &impl Fn(usize) -> Option<&'c str>) -> Option<bool> {
        match self {
            Condition::Any(conditions) => conditions.iter().try_fold(false, |any, condition| Some(any | condition.holds_of(it, cell)?)),
            Condition::All(conditions) => conditions.iter().try_fold(true, |all, condition| Some(all & condition.holds_of(it, cell)?)),
            Condition::Not(condition) => condition.holds_of(it, cell).map(|holds| !holds),
            Condition::Test(Subject::It, test, _) => test.ask_alone(Some(it?)),
            Condition::Test(Subject::Source(CompiledSource::Column(n)), test, _) => {
                test.ask_alone(Some(cell(*n)?).filter(|text| !text.trim_start().is_empty()))
            }
            Condition::Test(..) | Condition::Unique { .. } => None,
        }
    }

    /// Whether it asks about the text the chain has reached.
    pub(crate) fn asks_it(&self) -> bool {
        match self {
            Condition::Any(conditions) | Condition::All(conditions) => conditions.iter().any(Condition::asks_it),
            Condition::Not(condition) => condition.asks_it(),
            Condition::Test(subject, ..) => matches!(subject, Subject::It),
            Condition::Unique { .. } => false,
        }
    }
}
