//! What a step hands on: a piece of text, a list of pieces, or nothing and why.

use crate::text::Span;

/// A piece of a text that lives as long as the row: a slice of a cell, or of a text a step has made.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Piece<'a> {
    base: &'a str,
    start: usize,
    end: usize,
}

impl<'a> Piece<'a> {
    /// The whole of a text.
    pub(crate) fn whole(base: &'a str) -> Self {
        Self { base, start: 0, end: base.len() }
    }

    pub(crate) fn text(&self) -> &'a str {
        &self.base[self.start..self.end]
    }

    /// The part of this piece at the bytes `span` of its text.
    pub(crate) fn narrow(&self, span: Span) -> Self {
        Self { base: self.base, start: self.start + span.start, end: self.start + span.end }
    }
}

/// Why there is nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Nothing {
    /// The source cell is blank.
    Blank,
    /// What was looked for, or what is left, is empty: a count of it is 0.
    Empty,
    /// A mark or a part that is not there.
    Absent,
}

#[derive(Debug, Clone, Copy)]
pub(crate) struct Missing<'a> {
    pub nothing: Nothing,
    pub reason: &'a str,
    /// Another cut has said so already.
    pub told: bool,
}

impl<'a> Missing<'a> {
    pub(crate) fn new(nothing: Nothing, reason: &'a str) -> Self {
        Self { nothing, reason, told: false }
    }
}

/// One item of a list.
pub(crate) type Item<'a> = Result<Piece<'a>, Missing<'a>>;

#[derive(Debug, Clone, Copy)]
pub(crate) enum Value<'a> {
    Text(Piece<'a>),
    List(&'a [Item<'a>]),
    Missing(Missing<'a>),
    /// A literal `""`: blank on purpose.
    Intended,
}

impl<'a> From<Item<'a>> for Value<'a> {
    fn from(item: Item<'a>) -> Self {
        match item {
            Ok(piece) => Value::Text(piece),
            Err(missing) => Value::Missing(missing),
        }
    }
}
