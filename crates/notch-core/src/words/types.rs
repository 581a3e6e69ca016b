//! `as …`: the type of a column, where outputs have types.

use crate::language::{Build, Example, Group, Guess, Word};
use crate::program::{OutputType, Step};

pub(super) const WORDS: &[Word] = &[Word {
    name: "as",
    group: Group::Tidy,
    form: "as (text | number | integer | date | decimal COUNT)",
    meaning: "the type of the column in outputs that have types; text unless said. The text itself \
        stays as it is; a day with a time of day is text",
    examples: &[Example { cell: "007", cut: "trim | as integer", gives: "007" }],
    guess: Guess::None,
    build: Build::Step(|args| {
        Ok(Step::of_type(match args.chosen()? {
            0 => OutputType::Text,
            1 => OutputType::Number,
            2 => OutputType::Integer,
            3 => OutputType::Date,
            _ => OutputType::Decimal(args.count()?),
        }))
    }),
}];
