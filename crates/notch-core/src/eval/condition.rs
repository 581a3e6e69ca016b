//! Conditions: the tests of the language and what they are about. Whatever asks a question of a
//! text asks it here.

use crate::program::CompiledSource;
use crate::program::span::CellSpan;
use crate::program::{Condition, Demand, Event, Holds, RowContext, Subject, Test, Value, Watched};
use crate::text::SureTexts;
use crate::text::characters::is_blank;

impl Test {
    fn ask(&self, text: Option<&str>, context: &mut RowContext<'_>) -> bool {
        let answer = match (text, &self.holds) {
            (None, _) => self.of_missing,
            (Some(text), Holds::OfText(holds)) => holds(text),
            (Some(text), Holds::InRow(holds)) => holds(text, context),
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

impl Watched {
    fn count<'a>(&self, text: &'a str, answer: bool, test: &Test, context: &mut RowContext<'a>) {
        let event = match self {
            Watched::Piece { event, .. } if answer => Some(*event),
            Watched::Piece { source, event } => {
                let cell = context.cells.get(*source).copied().unwrap_or_default();
                (text != cell && test.ask_alone(Some(cell)) == Some(true)).then_some(event + 1)
            }
            Watched::Word { word, event } => {
                (answer != test.negated && word.next(text, 0).is_none()).then_some(*event)
            }
        };
        context.events.extend(event.map(|id| Event { id, text }));
    }
}

impl Condition {
    /// Whether the condition holds in this row, given what the chain has reached.
    pub(crate) fn holds<'a>(&self, it: Value<'a>, context: &mut RowContext<'a>) -> bool {
        match self {
            Condition::Any(conditions) => {
                conditions.iter().any(|condition| condition.holds(it, context))
            }
            Condition::All(conditions) => {
                conditions.iter().all(|condition| condition.holds(it, context))
            }
            Condition::Not(condition) => !condition.holds(it, context),
            Condition::Test(subject, test, watched) => {
                let value = match subject {
                    Subject::It => it,
                    Subject::Source(source) => context.quietly(source),
                };
                if !test.of_missing {
                    // An answer about a doubtful number is doubtful itself.
                    let doubt = RowContext::caveat_of(value).doubt;
                    context.asked.doubt = context.asked.doubt.or(doubt);
                }
                let text = context.text_of(value);
                let answer = test.ask(text, context);
                if let Some(text) = text {
                    watched.iter().for_each(|watched| watched.count(text, answer, test, context));
                }
                answer
            }
            Condition::Unique { place, negated } => context.same_as(*place).is_none() != *negated,
        }
    }

    /// Whether the condition holds, given the text the chain has reached and the cells of the
    /// plan's sources, of which none is missing but for being blank; `None` where it asks about
    /// something else.
    pub(crate) fn holds_of<'c>(
        &self,
        it: Option<&str>,
        cell: &impl Fn(usize) -> Option<&'c str>,
    ) -> Option<bool> {
        match self {
            Condition::Any(conditions) => conditions
                .iter()
                .try_fold(false, |any, condition| Some(any | condition.holds_of(it, cell)?)),
            Condition::All(conditions) => conditions
                .iter()
                .try_fold(true, |all, condition| Some(all & condition.holds_of(it, cell)?)),
            Condition::Not(condition) => condition.holds_of(it, cell).map(|holds| !holds),
            Condition::Test(Subject::It, test, _) => test.ask_alone(Some(it?)),
            Condition::Test(Subject::Source(CompiledSource::Column(n)), test, _) => {
                test.ask_alone(Some(cell(*n)?).filter(|text| !is_blank(text)))
            }
            Condition::Test(..) | Condition::Unique { .. } => None,
        }
    }

    /// Texts the chain may have reached of which it holds, whatever else their row has.
    pub(crate) fn surely(&self) -> Option<SureTexts> {
        match self {
            Condition::Any(conditions) => conditions.iter().find_map(Condition::surely),
            Condition::All(conditions) => conditions
                .iter()
                .map(Condition::surely)
                .reduce(|all, texts| all?.and(texts?))
                .flatten(),
            Condition::Test(Subject::It, test, _) => test.surely.clone().filter(|_| !test.negated),
            Condition::Test(..) | Condition::Not(_) | Condition::Unique { .. } => None,
        }
    }

    /// Whether it asks about the text the chain has reached.
    pub(crate) fn asks_it(&self) -> bool {
        match self {
            Condition::Any(conditions) | Condition::All(conditions) => {
                conditions.iter().any(Condition::asks_it)
            }
            Condition::Not(condition) => condition.asks_it(),
            Condition::Test(subject, ..) => matches!(subject, Subject::It),
            Condition::Unique { .. } => false,
        }
    }
}

impl Demand {
    /// Calls `unsure` for some pieces of a text that may not meet it: those of which the bytes
    /// alone do not tell that they do, whatever their rows.
    #[inline]
    pub(crate) fn find_unsure<T>(
        &self,
        text: &str,
        pieces: impl Iterator<Item = (CellSpan, T)>,
        unsure: impl FnMut(T),
    ) {
        match &self.surely {
            Some(texts) => {
                let texts_of = pieces.map(|(span, what)| {
                    let (from, to) = span.span();
                    (what, &text.as_bytes()[from..], to - from)
                });
                texts.find_others(texts_of, unsure);
            }
            None => pieces.map(|(_, what)| what).for_each(unsure),
        }
    }

    /// Whether it is met, as far as that can be told without the row.
    pub(crate) fn is_met_by<'c>(
        &self,
        it: Option<&str>,
        cell: &impl Fn(usize) -> Option<&'c str>,
    ) -> bool {
        if let Some((text, sure)) = it.zip(self.surely.as_ref())
            && sure.has(text.as_bytes(), text.len())
        {
            return true;
        }
        let asked = self.when.as_ref().map_or(Some(true), |when| when.holds_of(it, cell));
        match asked {
            Some(false) => true,
            Some(true) => self.condition.holds_of(it, cell) == Some(true),
            None => false,
        }
    }

    /// The reason, when it does not hold for a value in this row though it should.
    pub(crate) fn broken<'a>(&self, it: Value<'a>, context: &mut RowContext<'a>) -> Option<&str> {
        let asked = self.when.as_ref().is_none_or(|when| when.holds(it, context));
        (asked && !self.condition.holds(it, context)).then_some(&self.reason)
    }
}
