//! `as …`: the type of a column, where outputs have types.

use super::Step;
use crate::language::{Build, Example, Group, Word};

/// The type of a new column in outputs that have types.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum OutputType {
    /// Text, so that zeros in front survive.
    #[default]
    Text,
    /// A 64-bit floating-point number.
    Number,
    /// A whole number.
    Integer,
    /// A date.
    Date,
    /// An exact decimal with that many digits behind the point.
    Decimal(usize),
}

pub(super) const WORDS: &[Word] = &[Word {
    name: "as",
    group: Group::Tidy,
    form: "as (text | number | integer | date | decimal COUNT)",
    meaning: "the type of the column in outputs that have types; text unless said. The text itself stays as it is; a day with a time of day is text",
    examples: &[Example { cell: "007", cut: "trim | as integer", gives: "007" }],
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
