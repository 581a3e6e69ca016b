//! Steps that take numbers.

use super::{Args, Step, sections};
use crate::evaluate::{Item, Missing, Nothing, Piece, Plain, Run, Value};
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Reach, Word};
use crate::text::masks::first_digit;
use crate::text::{Number, NumberStyle, next_number, numbers};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "number",
        group: Group::Number,
        form: "number [PLACE] [decimal TEXT]",
        meaning: "the first number, or the one with that place, in plain form: no grouping, no zeros in front, decimals as they stood behind a point; `decimal \",\"` for texts with a decimal comma",
        examples: &[
            Example { cell: "EUR 1,250.50 for 3 trays", cut: "number", gives: "1250.50" },
            Example { cell: "EUR 1,250.50 for 3 trays", cut: "number 2", gives: "3" },
            Example { cell: "EUR 1.250,50", cut: "number decimal \",\"", gives: "1250.50" },
            Example { cell: "at -12 °C in AB-7", cut: "number last", gives: "7" },
            Example { cell: "at -12 °C", cut: "number", gives: "-12" },
            Example { cell: "no. 007", cut: "number", gives: "7 (doubtful: zeros in front were dropped)" },
            Example { cell: "12,34", cut: "number 2", gives: "34 (doubtful: a comma or point touches it)" },
            Example { cell: "none", cut: "number", gives: "(missing: no number)" },
        ],
        build: Build::Step(|args| {
            let reach = if args.given()? { args.place()? } else { Reach::one(1) };
            let style = style(args)?;
            let plain = (reach == Reach::one(1) && style == NumberStyle::Point).then_some(Plain::Number);
            Ok(Step::text(move |piece, run| number(piece, reach, style, run)).plainly(plain).lacking([NO_NUMBER.to_owned()]))
        }),
    },
    Word {
        name: "number next",
        group: Group::Number,
        form: "number next [decimal TEXT]",
        meaning: "the number that comes next: nothing but white space and `: = # .` may stand before it",
        examples: &[
            Example {
                cell: "REF: 00417 of 3",
                cut: "after word \"ref\" ignoring case | number next",
                gives: "417 (doubtful: zeros in front were dropped)",
            },
            Example { cell: "Ref pending, 12 trays", cut: "after word \"Ref\" | number next", gives: "(missing: no number next)" },
        ],
        build: Build::Step(|args| {
            let style = style(args)?;
            Ok(Step::text(move |piece, run| match next_number(piece.text(), piece.char_before(), style) {
                Some(found) => taken(piece, &found, run),
                None => run.missing(Nothing::Absent, "no number next"),
            }))
        }),
    },
    Word {
        name: "numbers",
        group: Group::Number,
        form: "numbers [decimal TEXT]",
        meaning: "all numbers, as a list",
        examples: &[
            Example { cell: "3 trays at 1,250.50", cut: "numbers", gives: "3; 1250.50" },
            Example { cell: "3 trays at 1,250.50", cut: "trays, price = numbers", gives: "trays: 3, price: 1250.50" },
        ],
        build: Build::Step(|args| {
            let style = style(args)?;
            Ok(Step::list(move |piece, run| {
                let mut items = run.items();
                for found in numbers(piece.text(), piece.char_before(), style) {
                    items.push(taken(piece, &found, run));
                }
                if items.is_empty() {
                    return Value::Missing(Missing::new(Nothing::Empty, NO_NUMBER));
                }
                Value::List(items.into_bump_slice())
            }))
        }),
    },
];

/// `[decimal TEXT]`.
fn style(args: &mut Args<'_>) -> Result<NumberStyle, CutError> {
    if !args.given()? {
        return Ok(NumberStyle::Point);
    }
    match args.text()? {
        "." => Ok(NumberStyle::Point),
        "," => Ok(NumberStyle::Comma),
        _ => Err(args.refuse("A decimal sign is \",\" or \".\"")),
    }
}

/// The reason of a text without numbers.
const NO_NUMBER: &str = "no number";

fn number<'a>(piece: Piece<'a>, reach: Reach, style: NumberStyle, run: &mut Run<'a>) -> Item<'a> {
    // Many texts have no number in them, and no digit.
    if first_digit(piece.text().as_bytes(), 0, piece.text().len()).is_none() {
        return run.missing(Nothing::Empty, NO_NUMBER);
    }
    let all = || numbers(piece.text(), piece.char_before(), style);
    let found = match reach.first {
        Some(n @ 1..) => all().nth(usize::try_from(n - 1).unwrap_or(usize::MAX)),
        _ => sections::places(reach, all().count()).and_then(|(place, _)| all().nth(place - 1)),
    };
    match found {
        Some(found) => taken(piece, &found, run),
        None => match all().count() {
            0 => run.missing(Nothing::Empty, NO_NUMBER),
            1 => run.missing(Nothing::Absent, "1 number"),
            n => run.missing(Nothing::Absent, &format!("{n} numbers")),
        },
    }
}

/// A number in plain form; with a note when the text leaves doubt.
fn taken<'a>(piece: Piece<'a>, found: &Number, run: &mut Run<'a>) -> Item<'a> {
    let text = piece.text();
    if let Some(doubt) = found.doubt {
        run.note_once(FindingKind::Doubtful, doubt, &text[found.span.clone()]);
    }
    match found.as_it_stands(text) {
        Some(span) => Ok(piece.narrow(span)),
        None => Ok(piece.changed(run.keep(&found.written(text)))),
    }
}
