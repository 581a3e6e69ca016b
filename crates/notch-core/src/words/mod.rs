//! The words of the language by topic: for each an entry in the table of words and, beside it, the function that does its work.

mod args;
mod checks;
mod conditions;
mod find;
mod frame;
mod kinds;
mod lists;
mod marks;
mod number_kernel;
mod numbers;
mod pad_kernel;
mod position;
mod regexes;
mod sections;
mod tidy;
mod types;

pub(crate) use args::{Args, Resolve};
pub(crate) use checks::Demand;
pub(crate) use conditions::UNIQUE;
pub(crate) use frame::{BRACKETS, TEMPLATE};
pub(crate) use kinds::digits;
pub(crate) use numbers::style as number_style;

use std::sync::Arc;

use crate::eval::kernel::{Kernel, Unchanged};
use crate::eval::{Item, Missing, Nothing, Piece, RowContext, Value};
use crate::language::{Reach, Word};
pub use types::OutputType;

use crate::text::Span;

/// The entries of the table, topic by topic, in the order of the documentation.
pub(crate) const WORDS: &[&[Word]] = &[
    frame::WORDS,
    position::WORDS,
    find::WORDS,
    sections::WORDS,
    numbers::WORDS,
    kinds::WORDS,
    regexes::WORDS,
    lists::WORDS,
    tidy::WORDS,
    types::WORDS,
    checks::WORDS,
    marks::WORDS,
    conditions::WORDS,
];

type TextWork = dyn for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Item<'a> + Send + Sync;
type ListWork = dyn for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Value<'a> + Send + Sync;
type WholeWork = dyn for<'a> Fn(Value<'a>, &mut RowContext<'a>) -> Value<'a> + Send + Sync;

/// A compiled step: immutable, shared between threads.
#[derive(Clone)]
pub(crate) struct Step {
    work: Work,
    /// What does the same for many plain texts at once.
    pub kernel: Option<Arc<dyn Kernel>>,
    /// It looks at the character that stands before the piece in its cell.
    pub reads_before: bool,
    /// What it gives is a day with a time of day.
    pub writes_time: bool,
    /// Why it gives nothing, where its kernel can tell: in the order in which that counts them.
    pub reasons: Vec<Arc<str>>,
}

#[derive(Clone)]
enum Work {
    /// Makes a text of a text; works on a list item by item.
    Text(Arc<TextWork>),
    /// Makes a list of a text.
    List(Arc<ListWork>),
    /// Works on whatever there is, a list as a whole or something missing.
    Whole(Arc<WholeWork>),
    /// Counts in a text; nothing at all counts as 0.
    Count(Arc<TextWork>),
    /// Says of which type the column is, where outputs have types.
    Type(OutputType),
}

impl Step {
    fn new(work: Work) -> Self {
        Self { work, kernel: None, reads_before: false, writes_time: false, reasons: Vec::new() }
    }

    pub(crate) fn text(work: impl for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Item<'a> + Send + Sync + 'static) -> Self {
        Step::new(Work::Text(Arc::new(work)))
    }

    pub(crate) fn list(work: impl for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Value<'a> + Send + Sync + 'static) -> Self {
        Step::new(Work::List(Arc::new(work)))
    }

    pub(crate) fn whole(work: impl for<'a> Fn(Value<'a>, &mut RowContext<'a>) -> Value<'a> + Send + Sync + 'static) -> Self {
        Step::new(Work::Whole(Arc::new(work)))
    }

    pub(crate) fn count(work: impl for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Item<'a> + Send + Sync + 'static) -> Self {
        Step::new(Work::Count(Arc::new(work)))
    }

    pub(crate) fn of_type(output_type: OutputType) -> Self {
        Step::new(Work::Type(output_type)).with_kernel(Some(Arc::new(Unchanged)))
    }

    /// The same step, with its kernel.
    pub(crate) fn with_kernel(self, kernel: Option<Arc<dyn Kernel>>) -> Self {
        Step { kernel, ..self }
    }

    /// The same step, which looks at what stands before the piece.
    pub(crate) fn reading_before(self) -> Self {
        Step { reads_before: true, ..self }
    }

    /// The same step, with the reasons for which it gives nothing.
    pub(crate) fn lacking(self, reasons: impl IntoIterator<Item = String>) -> Self {
        Step { reasons: reasons.into_iter().map(Arc::from).collect(), ..self }
    }

    /// The type it says the column is of.
    pub(crate) fn output_type(&self) -> Option<OutputType> {
        match self.work {
            Work::Type(said) => Some(said),
            _ => None,
        }
    }

    /// Does the step's work on what the step before it handed on. A missing goes on as it is, but for steps that count.
    pub(crate) fn run<'a>(&self, value: Value<'a>, run: &mut RowContext<'a>) -> Value<'a> {
        match (&self.work, value) {
            (Work::Type(_), _) | (_, Value::Intended) => value,
            (Work::Whole(work), _) => work(value, run),
            (Work::Count(_), Value::Missing(missing)) if missing.counts_as_none() => Value::Text(Piece::whole("0")),
            (_, Value::Missing(_)) => value,
            (Work::Text(work) | Work::Count(work), Value::Text(piece)) => work(piece, run).into(),
            (Work::Text(work) | Work::Count(work), Value::List(items)) => {
                let mut worked = run.items();
                for item in items {
                    worked.push(match item {
                        // An empty item is nothing to work on, and nothing to complain of either.
                        Ok(piece) if !piece.text().is_empty() => work(*piece, run),
                        other => *other,
                    });
                }
                Value::List(worked.into_bump_slice())
            }
            (Work::List(work), Value::Text(piece)) => work(piece, run),
            (Work::List(work), Value::List(items)) => {
                let mut flat = run.items();
                for item in items {
                    match item.map(|piece| work(piece, run)) {
                        Ok(Value::List(inner)) => {
                            let added = inner.iter().try_for_each(|item| run.push(&mut flat, *item));
                            if let Err(too_long) = added {
                                return Value::Missing(too_long);
                            }
                        }
                        Ok(Value::Text(piece)) => flat.push(Ok(piece)),
                        Ok(Value::Missing(missing)) | Err(missing) => flat.push(Err(missing)),
                        Ok(Value::Intended) => {}
                    }
                }
                Value::List(flat.into_bump_slice())
            }
        }
    }
}

/// A list of pieces of a text, or missing with a reason when there are none.
fn pieces<'a>(piece: Piece<'a>, spans: impl Iterator<Item = Span>, none: &str, run: &mut RowContext<'a>) -> Value<'a> {
    let mut items = run.items();
    for span in spans {
        if let Err(too_long) = run.push(&mut items, Ok(piece.narrow(span))) {
            return Value::Missing(too_long);
        }
    }
    if items.is_empty() {
        return Value::Missing(Missing::new(Nothing::Empty, run.keep(none)));
    }
    Value::List(items.into_bump_slice())
}

/// The piece a reach of one place picks among spans; when it is not there, a missing that says how many there are.
fn picked<'a, I: Iterator<Item = Span>>(
    piece: Piece<'a>,
    reach: Reach,
    spans: impl Fn() -> I,
    (none, one, many): (&str, &str, &str),
    run: &mut RowContext<'a>,
) -> Item<'a> {
    let found = match reach.first {
        Some(n @ 1..) => spans().nth(usize::try_from(n - 1).unwrap_or(usize::MAX)),
        _ => sections::places(reach, spans().count()).and_then(|(place, _)| spans().nth(place - 1)),
    };
    match (found, || spans().count()) {
        (Some(span), _) => run.narrow(piece, span),
        (None, count) => match count() {
            0 => run.missing(Nothing::Empty, none),
            1 => run.missing(Nothing::Absent, &format!("1 {one}")),
            n => run.missing(Nothing::Absent, &format!("{n} {many}")),
        },
    }
}
