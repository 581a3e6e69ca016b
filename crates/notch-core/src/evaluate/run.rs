//! One row on its way through the cuts: its cells, what the cuts have given so far, the findings.

use bumpalo::Bump;
use bumpalo::collections::Vec as RowVec;

use super::value::{Item, Missing, Nothing, Piece, Value};
use crate::finding::{About, Finding, FindingKind};
use crate::text::Span;

pub(crate) struct Run<'a> {
    arena: &'a Bump,
    /// The cells of the plan's sources, in their order.
    pub cells: &'a [&'a str],
    /// What the cuts so far have given, one value a name.
    pub values: RowVec<'a, Value<'a>>,
    pub findings: RowVec<'a, Finding<'a>>,
    /// The sources noted as blank already.
    pub blank: RowVec<'a, usize>,
    /// What findings of the moment are about.
    pub about: About,
}

impl<'a> Run<'a> {
    pub(crate) fn new(arena: &'a Bump, cells: impl IntoIterator<Item = &'a str>) -> Self {
        Self {
            arena,
            cells: RowVec::from_iter_in(cells, arena).into_bump_slice(),
            values: RowVec::new_in(arena),
            findings: RowVec::new_in(arena),
            blank: RowVec::new_in(arena),
            about: About::Cut(0),
        }
    }

    /// A copy of a text that lives as long as the row.
    pub(crate) fn keep(&self, text: &str) -> &'a str {
        self.arena.alloc_str(text)
    }

    /// A text made of formatted values that lives as long as the row.
    pub(crate) fn say(&self, arguments: std::fmt::Arguments<'_>) -> &'a str {
        match arguments.as_str() {
            Some(text) => self.keep(text),
            None => bumpalo::format!(in self.arena, "{}", arguments).into_bump_str(),
        }
    }

    /// A growing list that lives as long as the row.
    pub(crate) fn items(&self) -> RowVec<'a, Item<'a>> {
        RowVec::new_in(self.arena)
    }

    /// A growing text for a step that changes what it is given.
    pub(crate) fn buffer(&self, capacity: usize) -> bumpalo::collections::String<'a> {
        bumpalo::collections::String::with_capacity_in(capacity, self.arena)
    }

    pub(crate) fn find(&mut self, kind: FindingKind, reason: &'a str, value: &'a str) {
        self.findings.push(Finding { about: self.about, kind, reason, value });
    }

    /// A missing with a reason known when the cut was read.
    pub(crate) fn missing<T>(&self, nothing: Nothing, reason: &str) -> Result<T, Missing<'a>> {
        Err(Missing::new(nothing, self.keep(reason)))
    }

    /// The piece of a text at `span`, or missing when there is nothing in it.
    pub(crate) fn narrow(&self, piece: Piece<'a>, span: Span) -> Item<'a> {
        if span.is_empty() {
            return Err(Missing::new(Nothing::Empty, "nothing left"));
        }
        Ok(piece.narrow(span))
    }
}
