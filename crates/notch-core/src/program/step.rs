//! A compiled step: what it does to one text or list, and its kernel for many.

use std::sync::Arc;

use super::kernel::{Kernel, Unchanged};
use super::output_type::OutputType;
use super::row_context::RowContext;
use super::value::{Item, Piece, Value};

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
    /// The items of the list it returns, for steps that take one.
    pub items: Option<Items>,
    /// The number, from 1, of the one item that it takes of a list.
    pub picks: Option<usize>,
    /// Why it returns nothing, where its kernel can tell: in the order in which that counts them.
    pub reasons: Vec<Arc<str>>,
}

/// The items of a list, for kernels that take one of them.
#[derive(Clone)]
pub(crate) struct Items {
    /// Why there are none.
    pub none: String,
    /// Makes the kernel that returns the item of a number, from 1, of a list of exactly that many
    /// where that is given. Its reasons are those of `words/items.rs`.
    pub kernel: Arc<ItemKernel>,
}

type ItemKernel = dyn Fn(usize, Option<usize>) -> Arc<dyn Kernel> + Send + Sync;

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
        Self {
            work,
            kernel: None,
            reads_before: false,
            writes_time: false,
            items: None,
            picks: None,
            reasons: Vec::new(),
        }
    }

    pub(crate) fn text(
        work: impl for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Item<'a> + Send + Sync + 'static,
    ) -> Self {
        Step::new(Work::Text(Arc::new(work)))
    }

    pub(crate) fn list(
        work: impl for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Value<'a> + Send + Sync + 'static,
    ) -> Self {
        Step::new(Work::List(Arc::new(work)))
    }

    pub(crate) fn whole(
        work: impl for<'a> Fn(Value<'a>, &mut RowContext<'a>) -> Value<'a> + Send + Sync + 'static,
    ) -> Self {
        Step::new(Work::Whole(Arc::new(work)))
    }

    pub(crate) fn count(
        work: impl for<'a> Fn(Piece<'a>, &mut RowContext<'a>) -> Item<'a> + Send + Sync + 'static,
    ) -> Self {
        Step::new(Work::Count(Arc::new(work)))
    }

    pub(crate) fn of_type(output_type: OutputType) -> Self {
        Step::new(Work::Type(output_type)).with_kernel(Some(Arc::new(Unchanged)))
    }

    /// The same step, with its kernel.
    pub(crate) fn with_kernel(self, kernel: Option<Arc<dyn Kernel>>) -> Self {
        Step { kernel, ..self }
    }

    /// The same step, whose items kernels can take.
    pub(crate) fn with_items(self, items: Items) -> Self {
        Step { items: Some(items), ..self }
    }

    /// The same step, which takes the item of that number, from 1, of a list.
    pub(crate) fn picking(self, n: usize) -> Self {
        Step { picks: Some(n), ..self }
    }

    /// The same step, which writes days with a time of day where that is so.
    pub(crate) fn writing_time(self, writes_time: bool) -> Self {
        Step { writes_time, ..self }
    }

    /// The same step, which looks at what stands before the piece.
    pub(crate) fn reading_before(self) -> Self {
        Step { reads_before: true, ..self }
    }

    /// The same step, with the reasons for which it returns nothing.
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

    /// Does the step's work on what the step before it passed on. A missing goes on as it is, but
    /// for steps that count.
    pub(crate) fn run<'a>(&self, value: Value<'a>, context: &mut RowContext<'a>) -> Value<'a> {
        match (&self.work, value) {
            (Work::Type(_), _) | (_, Value::Intended) => value,
            (Work::Whole(work), _) => work(value, context),
            (Work::Count(_), Value::Missing(missing)) if missing.counts_as_none() => {
                Value::Text(Piece::whole("0"))
            }
            (_, Value::Missing(_)) => value,
            (Work::Text(work) | Work::Count(work), Value::Text(piece)) => {
                work(piece, context).into()
            }
            (Work::Text(work) | Work::Count(work), Value::List(items)) => {
                let mut worked = context.items();
                for item in items {
                    worked.push(match item {
                        // An empty item is nothing to work on, and nothing to complain of either.
                        Ok(piece) if !piece.text().is_empty() => work(*piece, context),
                        other => *other,
                    });
                }
                Value::List(worked.into_bump_slice())
            }
            (Work::List(work), Value::Text(piece)) => work(piece, context),
            (Work::List(work), Value::List(items)) => {
                let mut flat = context.items();
                for item in items {
                    match item.map(|piece| work(piece, context)) {
                        Ok(Value::List(inner)) => {
                            let added =
                                inner.iter().try_for_each(|item| context.push(&mut flat, *item));
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
