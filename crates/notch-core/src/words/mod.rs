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
mod items;
mod kinds;
mod letters;
mod lists;
mod mark_kernels;
mod marks;
mod number_kernel;
mod number_rule;
mod numbers;
mod pad;
mod part_kernels;
mod position;
mod regex_search;
mod regexes;
mod sections;
mod tidy;
mod types;
mod value;

pub(crate) use args::{Args, Resolve};
pub(crate) use conditions::UNIQUE;
pub(crate) use frame::{BRACKETS, TEMPLATE};
pub(crate) use items::item_reasons;
pub(crate) use kinds::digits;
pub(crate) use numbers::style as number_style;

use crate::language::Word;

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
