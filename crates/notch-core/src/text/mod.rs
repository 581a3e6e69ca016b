//! Texts and the places in them: characters as a person counts them, and what finds a notch.

pub(crate) mod characters;
mod find;
mod kind;

pub(crate) use find::{Mark, Separator, What};
pub(crate) use kind::Kind;

/// A piece of a text, by its first byte and the byte behind its last.
pub(crate) type Span = std::ops::Range<usize>;
