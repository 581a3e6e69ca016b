//! Which bytes lie inside quotes, told from how many quotes stand before them.
//!
//! Where every quote opens or closes a field, or is one of two, a byte lies inside quotes when the
//! number of quotes before it is odd. A quote in a bare field makes that wrong from there on; but
//! then one that should open stands where none can, and that is noticed: the guess is verified as
//! it is made.

use super::marks::Marks;

/// How far the quotes of a block, which begins where a record does, have been followed.
#[derive(Debug, Clone, Copy)]
pub(super) struct Quotes {
    /// All bits where the current chunk begins inside quotes, else none.
    inside: u64,
    /// The lowest bit where a quote may open at the chunk's first byte.
    before: u64,
    /// The quotes that seem to open and cannot.
    odd: u64,
}

impl Quotes {
    pub(super) fn new() -> Self {
        Self { inside: 0, before: 1, odd: 0 }
    }

    /// The bytes of the next chunk that lie inside quotes, opening ones included and closing ones
    /// not.
    #[inline(always)]
    pub(super) fn inside(&mut self, marks: &Marks) -> u64 {
        let before = marks.separators | marks.line_ends() | marks.quotes;
        let inside = self.inside ^ marks.after_odd;
        self.odd |= marks.quotes & inside & !(before << 1 | self.before);
        self.inside = (inside.cast_signed() >> 63).cast_unsigned();
        self.before = before >> 63;
        inside
    }

    /// Whether the guess has been right so far.
    pub(super) fn are_regular(&self) -> bool {
        self.odd == 0
    }

    /// Whether what follows lies inside quotes.
    pub(super) fn are_open(&self) -> bool {
        self.inside != 0
    }
}
