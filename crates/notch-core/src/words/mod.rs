//! The words of the language by topic: for each an entry in the table of words and, beside it, the
//! function that does its work.

mod args;
mod checks;
mod class_runs;
mod conditions;
mod dates;
mod edit;
mod find;
mod frame;
mod kinds;
mod letters;
mod lists;
mod marks;
mod number_kernel;
mod number_rule;
mod numbers;
mod pad;
mod position;
mod regex_search;
mod regexes;
mod sections;
mod tidy;
mod types;

pub(crate) use args::{Args, Resolve};
pub(crate) use conditions::UNIQUE;
pub(crate) use frame::{BRACKETS, TEMPLATE};
pub(crate) use kinds::digits;
pub(crate) use numbers::style as number_style;

use crate::language::{Reach, Word};
use crate::program::{Item, Missing, Nothing, Piece, RowContext, Value};

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
    letters::WORDS,
    edit::WORDS,
    pad::WORDS,
    dates::WORDS,
    types::WORDS,
    checks::WORDS,
    marks::WORDS,
    conditions::WORDS,
];

/// A list of pieces of a text, or missing with a reason when there are none.
fn pieces<'a>(
    piece: Piece<'a>,
    spans: impl Iterator<Item = Span>,
    none: &str,
    context: &mut RowContext<'a>,
) -> Value<'a> {
    let mut items = context.items();
    for span in spans {
        if let Err(too_long) = context.push(&mut items, Ok(piece.narrow(span))) {
            return Value::Missing(too_long);
        }
    }
    if items.is_empty() {
        return Value::Missing(Missing::new(Nothing::Empty, context.alloc(none)));
    }
    Value::List(items.into_bump_slice())
}

/// The piece a reach of one place picks among spans; when it is not there, a missing that says how
/// many there are.
fn picked<'a, I: Iterator<Item = Span>>(
    piece: Piece<'a>,
    reach: Reach,
    spans: impl Fn() -> I,
    (none, one, many): (&str, &str, &str),
    context: &mut RowContext<'a>,
) -> Item<'a> {
    let found = match reach.first {
        Some(n @ 1..) => spans().nth(usize::try_from(n - 1).unwrap_or(usize::MAX)),
        Some(-1) => spans().last(),
        _ => sections::places(reach, spans().count()).and_then(|(place, _)| spans().nth(place - 1)),
    };
    match (found, || spans().count()) {
        (Some(span), _) => context.narrow(piece, span),
        (None, count) => match count() {
            0 => context.missing(Nothing::Empty, none),
            1 => context.missing(Nothing::Absent, &format!("1 {one}")),
            n => context.missing(Nothing::Absent, &format!("{n} {many}")),
        },
    }
}
