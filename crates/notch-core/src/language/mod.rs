//! The language of cuts: text → tokens → syntax tree. What the words mean is in [`crate::steps`].

mod condition;
mod error;
mod form;
mod parse;
mod slots;
mod syntax;
mod template;
mod token;
mod words;

pub use error::{CutError, nearest};
pub use form::Slot;
pub use parse::{parse_assignment, parse_cut};
pub use syntax::{Assignment, Cut, Name};
pub use words::{Example, Group, Word, words};

pub(crate) use error::either;
pub(crate) use syntax::{
    Arg, ArgValue, Chain, Comparison, ConditionNode, KindItem, Limits, MarkNode, Operand, Reach, Source, StepNode, SubjectNode,
    TemplatePiece, WordNode,
};
pub(crate) use token::{ColumnRef, column_ref};
pub(crate) use words::Build;
