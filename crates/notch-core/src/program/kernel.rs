//! Kernels: what a step does to the plain texts of many rows at once.
//!
//! Most cells of most columns are plain: ASCII around the places that matter, nothing missing,
//! nothing to report. A kernel narrows the spans of many such rows, or writes new texts after them,
//! without lists, reasons or findings. Where a text is not plain the kernel returns the row up
//! ([`CellSpan::NONE`]), and it is evaluated by row from the start: that alone decides what is
//! unusual and what is said of it.
//!
//! A kernel stands beside the word whose work it does. A word without one is evaluated by value
//! (`eval/fast_path.rs`), which costs about a tenth of a microsecond a row more.

use super::span::{CellSpan, narrow_with};
use crate::text::Span;
use crate::text::masks::{WIDE, beyond_ascii, equal, lowest, wide};

/// What a step does to the plain texts of many rows.
pub(crate) trait Kernel: Send + Sync {
    /// A byte whose places in every span are searched for [`KernelRows::found`]. One search serves
    /// all cuts that want the same of a column.
    fn search_byte(&self) -> Option<u8> {
        None
    }

    /// Does the step's work on all rows.
    fn run(&self, rows: &mut KernelRows<'_>);
}

/// The rows that a kernel works on, up to 128: they stay in a core's nearest cache.
pub(crate) struct KernelRows<'k> {
    /// What each row has reached; those that are none are passed over.
    pub spans: &'k mut [CellSpan],
    /// What the spans lie in: a block of rows, and after it what steps have made.
    pub text: &'k mut String,
    /// The number of the step's first reason among those of its cut, for [`CellSpan::absent`].
    pub reasons: usize,
    /// Where [`Kernel::search_byte`] stands in each span; empty without one.
    pub found: &'k [Found],
    /// The cells that the spans are pieces of, where the cut starts from a column.
    pub cells: Option<&'k [CellSpan]>,
    /// Takes the numbers whose mark groups.
    pub grouped: &'k mut Vec<Grouped>,
}

/// A number whose mark groups: its row, by its place in the batch, its event, and where it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Grouped {
    pub row: usize,
    pub event: usize,
    pub place: CellSpan,
}

/// The kernel of a step that leaves every text as it is.
pub(crate) struct Unchanged;

impl Kernel for Unchanged {
    fn run(&self, _rows: &mut KernelRows<'_>) {}
}

/// The kernel of a step that keeps one piece of a text: made of the function that finds it, which
/// looks at nothing but the text. It returns the piece, or which of the step's reasons it is that
/// there is none.
pub(crate) struct OnePiece<F>(pub F);

/// What such a function returns where none of the step's reasons can be told.
pub(crate) const UNTOLD: usize = usize::MAX;

impl<F: Fn(&str) -> Result<Span, usize> + Send + Sync> Kernel for OnePiece<F> {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let (reasons, text) = (rows.reasons, &**rows.text);
        narrow_with(rows.spans, text, std::iter::repeat(()), |_, from, to, ()| {
            match text.get(from..to).map(&self.0) {
                Some(Ok(piece)) => CellSpan::new(from + piece.start, from + piece.end),
                Some(Err(reason)) if reason != UNTOLD => CellSpan::absent(reasons + reason),
                _ => CellSpan::NONE,
            }
        });
    }
}

/// Where a byte stands in a span of at most 64 bytes, one bit each.
pub(crate) type Found = u64;

/// Of a span that is longer, or in which the byte stands beside something that may belong to it.
pub(crate) const NOT_TOLD: Found = u64::MAX;

/// A byte, and the bytes beyond ASCII, among those from a place on that are compared together.
#[inline(always)]
fn marks(text: &[u8], at: usize, byte: u8) -> (Found, Found) {
    let bytes = wide(text, at);
    (equal(&bytes, byte), beyond_ascii(&bytes))
}

/// Where a byte stands in a span of a text, or [`NOT_TOLD`].
#[inline(always)]
pub(crate) fn search(text: &[u8], from: usize, to: usize, byte: u8) -> Found {
    let length = to - from;
    let (mut found, mut odd) = marks(text, from, byte);
    if length > WIDE {
        let (next_found, next_odd) = marks(text, from + WIDE, byte);
        (found, odd) = (found | next_found << WIDE, odd | next_odd << WIDE);
        if length > 2 * WIDE {
            if length > 64 {
                return NOT_TOLD;
            }
            for at in [2 * WIDE, 3 * WIDE] {
                let (next_found, next_odd) = marks(text, from + at, byte);
                (found, odd) = (found | next_found << at, odd | next_odd << at);
            }
        }
    }
    found &= lowest(length);
    if odd & lowest(length) & (found << 1 | found >> 1) == 0 { found } else { NOT_TOLD }
}

/// Whether the byte at a place is a character of its own, whatever stands beside it.
pub(crate) fn alone(bytes: &[u8], at: usize) -> bool {
    let is_plain = |byte: Option<&u8>| byte.is_none_or(u8::is_ascii);
    is_plain(bytes.get(at + 1)) && is_plain(at.checked_sub(1).and_then(|before| bytes.get(before)))
}

/// The place of a bit that is set, by its number from 1; `None` of number 0 and where there are not
/// that many.
pub(crate) fn nth_bit(mut bits: Found, n: usize) -> Option<usize> {
    for _ in 1..n {
        bits &= bits.wrapping_sub(1);
    }
    (n > 0 && bits != 0).then(|| bits.trailing_zeros() as usize)
}
