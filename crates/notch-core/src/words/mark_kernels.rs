//! The kernels of the steps that look for a mark.

use crate::program::kernel::{Found, Kernel, KernelRows, NOT_TOLD, alone, nth_bit};
use crate::program::span::{CellSpan, narrow_with};
use crate::text::Span;

/// What is kept of a text that has a mark.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kept {
    Before,
    /// What stands before the mark, and the mark.
    Through,
    /// The mark, and what stands after it.
    From,
    After,
}

impl Kept {
    /// Its place in a text that ends at `end`.
    #[inline(always)]
    pub(super) fn span(self, mark: Span, start: usize, end: usize) -> Span {
        match self {
            Kept::Before => start..mark.start,
            Kept::Through => start..mark.end,
            Kept::From => mark.start..end,
            Kept::After => mark.end..end,
        }
    }
}

/// The kernel of `before`, `through`, `from` and `after` a mark of one byte, the first, the last,
/// or the one of a number from either end; all of a text without it where `or_all`.
#[derive(Clone, Copy)]
pub(super) struct Beside {
    pub byte: u8,
    /// Which occurrence, from 1; below zero counted from the end.
    pub which: i64,
    pub kept: Kept,
    pub or_all: bool,
}

impl Kernel for Beside {
    fn search_byte(&self) -> Option<u8> {
        Some(self.byte)
    }

    fn run(&self, rows: &mut KernelRows<'_>) {
        let (reasons, found, wanted) = (rows.reasons, rows.found.iter().copied(), *self);
        narrow_with(rows.spans, rows.text, found, |text, from, to, found| {
            beside_byte(text, from, to, found, wanted, reasons)
        });
    }
}

/// What stands before or after a byte that was found at these places of a span.
#[inline(always)]
fn beside_byte(
    text: &[u8],
    from: usize,
    to: usize,
    found: Found,
    Beside { byte, which, kept, or_all }: Beside,
    reasons: usize,
) -> CellSpan {
    let at = match (found, which) {
        (0, _) if or_all => return CellSpan::at(from, to),
        (0, _) => return CellSpan::absent(reasons),
        (NOT_TOLD, 1 | -1) => {
            let bytes = &text[from..to];
            let at =
                if which < 0 { memchr::memrchr(byte, bytes) } else { memchr::memchr(byte, bytes) };
            let Some(at) = at.filter(|at| alone(bytes, *at)) else { return CellSpan::NONE };
            from + at
        }
        (NOT_TOLD, _) => return CellSpan::NONE,
        (_, -1) => from + 63 - found.leading_zeros() as usize,
        (_, 1) => from + found.trailing_zeros() as usize,
        _ => {
            let total = i64::from(found.count_ones());
            let n = if which < 0 { total + 1 + which } else { which };
            match nth_bit(found, usize::try_from(n).unwrap_or_default()) {
                Some(at) => from + at,
                None if or_all => return CellSpan::at(from, to),
                None => return CellSpan::absent(reasons),
            }
        }
    };
    let Span { start: from, end: to } = kept.span(at..at + 1, from, to);
    if from == to { CellSpan::absent(reasons + 1) } else { CellSpan::at(from, to) }
}

/// The kernel of `between` two marks of one byte, the first one and the first one after it.
pub(super) struct Between {
    pub first: u8,
    pub second: u8,
}

impl Kernel for Between {
    fn search_byte(&self) -> Option<u8> {
        Some(self.first)
    }

    fn run(&self, rows: &mut KernelRows<'_>) {
        let (reasons, found) = (rows.reasons, rows.found.iter().copied());
        narrow_with(rows.spans, rows.text, found, |text, from, to, found| {
            match found {
                0 => return CellSpan::absent(reasons),
                NOT_TOLD => return CellSpan::NONE,
                _ => {}
            }
            let start = from + found.trailing_zeros() as usize + 1;
            let rest = &text[start..to];
            match memchr::memchr(self.second, rest) {
                None => CellSpan::absent(reasons + 1),
                Some(0) if alone(rest, 0) => CellSpan::absent(reasons + 2),
                Some(at) if alone(rest, at) => CellSpan::at(start, start + at),
                Some(_) => CellSpan::NONE,
            }
        });
    }
}
