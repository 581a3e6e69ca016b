//! What words have in common that find several pieces in a text: the one of a number is kept
//! ([`picking`]), or all of them are a list ([`list_of`]), of which `pick` and names on the left
//! take items by their number ([`Items`]).

use std::sync::Arc;

use crate::language::Reach;
use crate::program::kernel::{Kernel, KernelRows, OnePiece, UNTOLD};
use crate::program::span::{CellSpan, narrow_with};
use crate::program::{Items, Missing, Nothing, Step, Value};
use crate::text::Span;

/// Kernels tell why there is no such piece in texts that have up to this many.
pub(super) const COUNTED: usize = 16;

/// The span that a reach of one place picks among spans.
///
/// # Errors
/// It is not there: how many there are.
pub(super) fn picked<I: Iterator<Item = Span>>(
    reach: Reach,
    spans: impl Fn() -> I,
) -> Result<Span, usize> {
    let found = match reach.first {
        Some(n @ 1..) => spans().nth(usize::try_from(n - 1).unwrap_or(usize::MAX)),
        Some(-1) => spans().last(),
        _ => places(reach, spans().count()).and_then(|(place, _)| spans().nth(place - 1)),
    };
    found.ok_or_else(|| spans().count())
}

/// A step that keeps the span that `find` returns; where that is not there, a missing that says how
/// many there are, as `none`, `1 one` or `2 many`.
pub(super) fn picking(
    find: impl Fn(&str) -> Result<Span, usize> + Copy + Send + Sync + 'static,
    (none, one, many): (&str, &str, &str),
) -> Step {
    let names = [none, one, many].map(str::to_owned);
    let said = move |count: usize| match (count, &names) {
        (0, [none, ..]) => none.clone(),
        (1, [_, one, _]) => format!("1 {one}"),
        (n, [.., many]) => format!("{n} {many}"),
    };
    let reasons: Vec<String> = (0..=COUNTED).map(&said).collect();
    let kernel = OnePiece(move |text: &str| {
        find(text).map_err(|count| if count <= COUNTED { count } else { UNTOLD })
    });
    Step::text(move |piece, context| match find(piece.text()) {
        Ok(span) => context.narrow(piece, span),
        Err(0) => context.missing(Nothing::Empty, &said(0)),
        Err(count) => context.missing(Nothing::Absent, &said(count)),
    })
    .with_kernel(Some(Arc::new(kernel)))
    .lacking(reasons)
}

/// A step that makes a list of pieces of a text; a missing of the reason `none` where there are
/// none. `find` calls its function with each piece until that returns `false`, and returns whether
/// it never did.
pub(super) fn list_of(
    find: impl Fn(&str, &mut dyn FnMut(Span) -> bool) -> bool + Send + Sync + 'static,
    none: &str,
) -> Step {
    let (find, reason) = (Arc::new(find), none.to_owned());
    let items = items_of(Arc::clone(&find), none);
    Step::list(move |piece, context| {
        let (mut items, mut room) = (context.items(), Ok(()));
        find(piece.text(), &mut |span| {
            room = context.push(&mut items, Ok(piece.narrow(span)));
            room.is_ok()
        });
        match room {
            Err(too_long) => Value::Missing(too_long),
            Ok(()) if items.is_empty() => {
                Value::Missing(Missing::new(Nothing::Empty, context.alloc(&reason)))
            }
            Ok(()) => Value::List(items.into_bump_slice()),
        }
    })
    .with_items(items)
}

/// The items of a list as kernels, by the function that finds them. It returns `false` also where
/// it is not certain of them.
pub(super) fn items_of(
    find: Arc<impl Fn(&str, &mut dyn FnMut(Span) -> bool) -> bool + Send + Sync + 'static>,
    none: &str,
) -> Items {
    Items {
        none: none.to_owned(),
        kernel: Arc::new(move |n, of| Arc::new(NthItem { find: Arc::clone(&find), n, of })),
    }
}

/// The kernel of an item of a list.
struct NthItem<F> {
    find: Arc<F>,
    /// Its number, from 1.
    n: usize,
    /// How many items the list must have.
    of: Option<usize>,
}

impl<F> Kernel for NthItem<F>
where
    F: Fn(&str, &mut dyn FnMut(Span) -> bool) -> bool + Send + Sync,
{
    fn run(&self, rows: &mut KernelRows<'_>) {
        let (reasons, text) = (rows.reasons, &**rows.text);
        narrow_with(rows.spans, text, std::iter::repeat(()), |_, from, to, ()| {
            let (mut count, mut item) = (0, None);
            let is_told = (self.find)(text.get(from..to).unwrap_or_default(), &mut |span| {
                count += 1;
                if count == self.n {
                    item = Some(span);
                }
                self.of.map_or(count < self.n, |of| count <= of)
            });
            match item {
                Some(_) if self.of.is_some_and(|of| !is_told || of != count) => CellSpan::NONE,
                Some(item) if item.is_empty() => CellSpan::absent(reasons + EMPTY_ITEM),
                Some(item) => CellSpan::new(from + item.start, from + item.end),
                None => reason_of(count)
                    .filter(|_| is_told && self.of.is_none())
                    .map_or(CellSpan::NONE, |reason| CellSpan::absent(reasons + reason)),
            }
        });
    }
}

/// Which of [`item_reasons`] it is that a list with that many items has no such one.
fn reason_of(count: usize) -> Option<usize> {
    match count {
        0 => Some(NO_ITEMS),
        1..=COUNTED => Some(count - 1),
        _ => None,
    }
}

/// Where the reasons of an item that is empty, and of a list without any, stand among
/// [`item_reasons`]: after those of as many items as are counted.
pub(super) const EMPTY_ITEM: usize = COUNTED;
const NO_ITEMS: usize = COUNTED + 1;

/// Why `pick` returns nothing, as kernels of items tell it.
pub(crate) fn item_reasons(n: usize, none: &str) -> Vec<String> {
    let counted = (1..=COUNTED).map(|count| counted(count, "item"));
    counted.chain([format!("item {n} is empty"), none.to_owned()]).collect()
}

/// The first and last place, from 1, that a reach means among `total`; `None` when one of them is
/// not there or nothing lies between.
pub(super) fn places(reach: Reach, total: usize) -> Option<(usize, usize)> {
    let total = i64::try_from(total).ok()?;
    let place = |n: i64| if n < 0 { total + 1 + n } else { n };
    let first = reach.first.map_or(1, place);
    let last = reach.last.map_or(total, place);
    if first < 1 || last > total || first > last {
        return None;
    }
    Some((usize::try_from(first).ok()?, usize::try_from(last).ok()?))
}

/// A count with what is counted, as reasons have it.
pub(super) fn counted(count: usize, name: &str) -> String {
    format!("{count} {name}{}", if count == 1 { "" } else { "s" })
}
