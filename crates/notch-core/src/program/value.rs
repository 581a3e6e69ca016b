//! What a step passes on: a piece of text, a list of pieces, or nothing and why.

use crate::text::Span;

/// A piece of a text that lives as long as the row: a slice of a cell, or of a text a step has
/// made.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Piece<'a> {
    base: &'a str,
    start: usize,
    end: usize,
    /// The character that stood before the base in its cell, when the base is a text a step has
    /// made.
    before: Option<char>,
    /// What is to be said of the cell that it ends up in.
    caveat: Option<&'a Caveat<'a>>,
}

/// What is to be said of a cell that a piece ends up in.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Caveat<'a> {
    /// Why the piece may not be what was meant, and what that is counted as where the reason is of
    /// this one row.
    pub doubt: Option<(&'a str, Option<&'static str>)>,
    /// What was dropped of it, which is a mere note.
    pub note: Option<&'static str>,
    /// What is counted of its column.
    pub event: Option<Event<'a>>,
}

/// Something in a row that is counted over all rows, for a hint at the end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Event<'a> {
    /// What is counted, by its place among the plan's.
    pub id: usize,
    /// The text in which it is seen.
    pub text: &'a str,
}

impl Caveat<'_> {
    /// Both: of each kind what the first one says, or else the second one.
    pub(crate) fn and(self, other: Self) -> Self {
        Self {
            doubt: self.doubt.or(other.doubt),
            note: self.note.or(other.note),
            event: self.event.or(other.event),
        }
    }

    /// Whether there is nothing to be said.
    pub(crate) fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

impl<'a> Piece<'a> {
    /// The whole of a text.
    pub(crate) fn whole(base: &'a str) -> Self {
        Self { base, start: 0, end: base.len(), before: None, caveat: None }
    }

    /// A part of a text, and what stood before that text in its cell.
    pub(crate) fn part(base: &'a str, span: Span, before: Option<char>) -> Self {
        Self { base, start: span.start, end: span.end, before, caveat: None }
    }

    /// A text made of this piece, which stands where the piece stood.
    pub(crate) fn changed(&self, made: &'a str) -> Self {
        Self { before: self.char_before(), caveat: self.caveat, ..Self::whole(made) }
    }

    /// The same with this to be said of the cell it ends up in.
    pub(crate) fn with_caveat(self, caveat: Option<&'a Caveat<'a>>) -> Self {
        Self { caveat, ..self }
    }

    /// What is to be said of the cell it ends up in.
    pub(crate) fn caveat(&self) -> Option<&'a Caveat<'a>> {
        self.caveat
    }

    /// The character that stands before the piece in its cell; `None` when the piece begins where
    /// the cell begins.
    pub(crate) fn char_before(&self) -> Option<char> {
        self.base[..self.start].chars().next_back().or(self.before)
    }

    /// The text this is a piece of, and where.
    pub(crate) fn place(&self) -> (&'a str, Span) {
        (self.base, self.start..self.end)
    }

    pub(crate) fn text(&self) -> &'a str {
        &self.base[self.start..self.end]
    }

    /// The part of this piece at the bytes `span` of its text.
    pub(crate) fn narrow(&self, span: Span) -> Self {
        Self { start: self.start + span.start, end: self.start + span.end, ..*self }
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
    /// The condition after `if` does not hold.
    Unmet,
    /// The source `missing`: no later `else` is tried.
    Final,
    /// The text would have been too long; no later `else` is tried.
    TooLong,
}

impl Nothing {
    /// Whether it ends the cut, whatever stands after `else`.
    pub(crate) fn is_final(self) -> bool {
        matches!(self, Nothing::Final | Nothing::TooLong)
    }
}

#[derive(Debug, Clone, Copy)]
pub(crate) struct Missing<'a> {
    pub nothing: Nothing,
    pub reason: &'a str,
    /// The cut or field that the reason begins with, where it names one.
    pub named: Option<&'a str>,
    /// Another cut has said so already.
    pub told: bool,
}

impl<'a> Missing<'a> {
    pub(crate) fn new(nothing: Nothing, reason: &'a str) -> Self {
        Self { nothing, reason, named: None, told: false }
    }

    /// Whether a count of it is 0: the source is blank, or nothing was found or left.
    pub(crate) fn counts_as_none(&self) -> bool {
        matches!(self.nothing, Nothing::Blank | Nothing::Empty)
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
