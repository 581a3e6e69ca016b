//! The words of the language by topic: for each an entry in the table of words and, beside it, the function that does its work.

mod args;
mod find;
mod frame;
mod kinds;
mod marks;
mod position;
mod sections;
mod tidy;

pub(crate) use args::Args;

use crate::evaluate::{Item, Piece, Run, Value};
use crate::language::Word;

/// The entries of the table, topic by topic, in the order of the documentation.
pub(crate) const WORDS: &[&[Word]] =
    &[frame::WORDS, position::WORDS, find::WORDS, sections::WORDS, kinds::WORDS, tidy::WORDS, marks::WORDS];

type TextWork = dyn for<'a> Fn(Piece<'a>, &mut Run<'a>) -> Item<'a> + Send + Sync;
type ListWork = dyn for<'a> Fn(Piece<'a>, &mut Run<'a>) -> Value<'a> + Send + Sync;

/// A compiled step: immutable, shared between threads.
pub(crate) enum Step {
    /// Makes a text of a text; works on a list item by item.
    Text(Box<TextWork>),
    /// Makes a list of a text.
    List(Box<ListWork>),
}

impl Step {
    pub(crate) fn text(work: impl for<'a> Fn(Piece<'a>, &mut Run<'a>) -> Item<'a> + Send + Sync + 'static) -> Self {
        Step::Text(Box::new(work))
    }

    pub(crate) fn list(work: impl for<'a> Fn(Piece<'a>, &mut Run<'a>) -> Value<'a> + Send + Sync + 'static) -> Self {
        Step::List(Box::new(work))
    }

    /// Does the step's work on what the step before it handed on. A missing goes on as it is.
    pub(crate) fn run<'a>(&self, value: Value<'a>, run: &mut Run<'a>) -> Value<'a> {
        match (self, value) {
            (_, Value::Missing(_) | Value::Intended) => value,
            (Step::Text(work), Value::Text(piece)) => work(piece, run).into(),
            (Step::Text(work), Value::List(items)) => {
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
            (Step::List(work), Value::Text(piece)) => work(piece, run),
            (Step::List(work), Value::List(items)) => {
                let mut flat = run.items();
                for item in items {
                    match item.map(|piece| work(piece, run)) {
                        Ok(Value::List(inner)) => flat.extend_from_slice(inner),
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
