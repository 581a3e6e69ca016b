//! Conditions: the tests of the language and what they are about. Whatever asks a question of a text asks it here.

mod words;

pub(crate) use words::{UNIQUE, WORDS, is_email};

use crate::evaluate::{Run, Value};
use crate::plan::CompiledSource;

type Holds = dyn for<'a> Fn(&str, &mut Run<'a>) -> bool + Send + Sync;

/// A compiled test of one text.
pub(crate) struct Test {
    negated: bool,
    /// What it says of something missing, before it is negated.
    of_missing: bool,
    holds: Box<Holds>,
}

impl Test {
    /// A test that is false of something missing; `negated` turns it round.
    pub(crate) fn new(negated: bool, holds: impl for<'a> Fn(&str, &mut Run<'a>) -> bool + Send + Sync + 'static) -> Self {
        Self { negated, of_missing: false, holds: Box::new(holds) }
    }

    /// The test that is true of something missing.
    pub(crate) fn blank(negated: bool) -> Self {
        Self { of_missing: true, ..Self::new(negated, |text, _| text.trim_start().is_empty()) }
    }

    fn ask(&self, text: Option<&str>, run: &mut Run<'_>) -> bool {
        let answer = match text {
            Some(text) => (self.holds)(text, run),
            None => self.of_missing,
        };
        answer != self.negated
    }
}

/// A compiled condition.
pub(crate) enum Condition {
    Any(Vec<Condition>),
    All(Vec<Condition>),
    Not(Box<Condition>),
    Test(Subject, Test),
    /// Whether no other row has the text of the plan's unique source of that place.
    Unique {
        place: usize,
        negated: bool,
    },
}

/// What a test is about.
pub(crate) enum Subject {
    /// The text the chain has reached.
    It,
    Source(CompiledSource),
}

impl Condition {
    /// Whether the condition holds in this row, given what the chain has reached.
    pub(crate) fn holds<'a>(&self, it: Value<'a>, run: &mut Run<'a>) -> bool {
        match self {
            Condition::Any(conditions) => conditions.iter().any(|condition| condition.holds(it, run)),
            Condition::All(conditions) => conditions.iter().all(|condition| condition.holds(it, run)),
            Condition::Not(condition) => !condition.holds(it, run),
            Condition::Test(subject, test) => {
                let value = match subject {
                    Subject::It => it,
                    Subject::Source(source) => run.quietly(source),
                };
                let text = run.text_of(value);
                test.ask(text, run)
            }
            Condition::Unique { place, negated } => run.same_as(*place).is_none() != *negated,
        }
    }

    /// Whether it asks about the text the chain has reached.
    pub(crate) fn asks_it(&self) -> bool {
        match self {
            Condition::Any(conditions) | Condition::All(conditions) => conditions.iter().any(Condition::asks_it),
            Condition::Not(condition) => condition.asks_it(),
            Condition::Test(subject, _) => matches!(subject, Subject::It),
            Condition::Unique { .. } => false,
        }
    }
}
