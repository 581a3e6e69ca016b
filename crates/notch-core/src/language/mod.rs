//! The language of cuts: text → tokens → syntax tree. What the words mean is in `words/`.

mod condition;
mod diagnostics;
mod error;
mod follow;
mod form;
mod guess;
mod habits;
mod meant;
mod parse;
mod parser;
mod slots;
mod syntax;
mod template;
mod token;
mod words;

pub use error::{CutError, nearest};
pub use follow::{Next, has_names, is_unfinished, what_follows, word_at};
pub use form::Slot;
pub use guess::in_braces;
pub use habits::{HABITS, Habit, habits};
pub use parse::{
    parse_assignment, parse_column_rule, parse_cut, parse_row_condition, parse_row_rule,
};
pub use syntax::{Assignment, ChainOutline, Cut, Name, Outline, Rule, StepOutline};
pub use words::{Example, Group, Word, words};

pub(crate) use error::either;
pub(crate) use guess::{Guess, Guessed, GuessedMark, Guesses, quoted, which};
pub(crate) use syntax::{
    Arg, ArgValue, Chain, Comparison, ConditionNode, KindItem, Limits, MarkNode, Operand, Reach,
    Source, StepNode, SubjectNode, TemplatePiece, WordNode,
};
pub(crate) use template::IT;
pub(crate) use token::{ColumnRef, column_ref, ordinal_suffix, string};
pub(crate) use words::{Build, entries};
