//! The kernels of `part`.

use std::sync::Arc;

use super::items::{COUNTED, EMPTY_ITEM, places};
use crate::language::Reach;
use crate::program::kernel::{Found, Kernel, KernelRows, NOT_TOLD, UNTOLD, alone, nth_bit, search};
use crate::program::span::{CellSpan, narrow_with};
use crate::text::{Separator, Span};

/// The kernel of `part N by "x"`: the part of that number, from 1, between separators of one byte;
/// of exactly `of` parts where that is given.
pub(super) struct NthPart {
    pub n: usize,
    pub of: Option<usize>,
    pub separator: u8,
}

/// The kernel of the other forms of `part` between separators of one byte: parts counted from the
/// end, several of them, between any of some separators.
pub(super) struct ReachedParts {
    pub reach: Reach,
    pub of: Option<usize>,
    /// The separators, one at least.
    pub bytes: Vec<u8>,
    /// The same for texts in which they are not found together.
    pub separator: Arc<Separator>,
}

impl Kernel for ReachedParts {
    fn search_byte(&self) -> Option<u8> {
        self.bytes.first().copied()
    }

    fn run(&self, rows: &mut KernelRows<'_>) {
        let (reasons, found) = (rows.reasons, rows.found.iter().copied());
        narrow_with(rows.spans, rows.text, found, |text, from, to, found| {
            let others = self.bytes.iter().skip(1);
            let found = others.fold(found, |found, byte| found | search(text, from, to, *byte));
            if found == NOT_TOLD {
                let inside = std::str::from_utf8(&text[from..to]).unwrap_or_default();
                return match kept(inside, &self.separator, self.reach, self.of) {
                    Ok(part) => CellSpan::new(from + part.start, from + part.end),
                    Err(UNTOLD) => CellSpan::NONE,
                    Err(reason) => CellSpan::absent(reasons + reason),
                };
            }
            let total = found.count_ones() as usize + 1;
            if self.of.is_some_and(|of| of != total) {
                return CellSpan::NONE;
            }
            let Some((first, last)) = places(self.reach, total) else {
                return if total <= COUNTED {
                    CellSpan::absent(reasons + total - 1)
                } else {
                    CellSpan::NONE
                };
            };
            let start = nth_bit(found, first - 1).map_or(from, |at| from + at + 1);
            let end = nth_bit(found, last).map_or(to, |at| from + at);
            match start == end {
                true if self.reach.single => CellSpan::absent(reasons + EMPTY_ITEM),
                true => CellSpan::NONE,
                false => CellSpan::at(start, end),
            }
        });
    }
}

impl Kernel for NthPart {
    fn search_byte(&self) -> Option<u8> {
        Some(self.separator)
    }

    fn run(&self, rows: &mut KernelRows<'_>) {
        let (reasons, found) = (rows.reasons, rows.found.iter().copied());
        let wanted = (self.n, self.of, self.separator);
        narrow_with(rows.spans, rows.text, found, |text, from, to, found| {
            nth_part(text, from, to, found, wanted, reasons)
        });
    }
}

/// The part of a number, of that many parts, of a span in which its separator was found at these
/// places.
#[inline(always)]
fn nth_part(
    text: &[u8],
    from: usize,
    to: usize,
    found: Found,
    (n, of, separator): (usize, Option<usize>, u8),
    reasons: usize,
) -> CellSpan {
    if found == NOT_TOLD {
        return long_part(&text[from..to], n, of, separator)
            .map_or(CellSpan::NONE, |(a, b)| CellSpan::new(from + a, from + b));
    }
    if of.is_some_and(|of| of != found.count_ones() as usize + 1) {
        return CellSpan::NONE;
    }
    let (mut rest, mut start) = (found, from);
    if n > 1 {
        for _ in 2..n {
            rest &= rest.wrapping_sub(1);
        }
        if rest == 0 {
            let parts = found.count_ones() as usize + 1;
            return if of.is_none() && parts <= COUNTED {
                CellSpan::absent(reasons + parts - 1)
            } else {
                CellSpan::NONE
            };
        }
        start = from + rest.trailing_zeros() as usize + 1;
        rest &= rest - 1;
    }
    let end = if rest == 0 { to } else { from + rest.trailing_zeros() as usize };
    if start == end { CellSpan::absent(reasons + EMPTY_ITEM) } else { CellSpan::at(start, end) }
}

/// The part of a number among the parts of a text of any length.
#[cold]
fn long_part(bytes: &[u8], n: usize, of: Option<usize>, separator: u8) -> Option<(usize, usize)> {
    let (mut start, mut found, mut count) = (0, None, 1);
    for at in memchr::memchr_iter(separator, bytes).chain([bytes.len()]) {
        if at < bytes.len() && !alone(bytes, at) {
            return None;
        }
        if count == n {
            found = Some((start, at));
            if of.is_none() {
                break;
            }
        }
        if at < bytes.len() {
            (count, start) = (count + 1, at + 1);
        }
    }
    found.filter(|_| of.is_none_or(|of| of == count))
}

/// What `part` keeps of a text.
///
/// # Errors
/// Which of its reasons it is that there is nothing.
pub(super) fn kept(
    text: &str,
    separator: &Separator,
    reach: Reach,
    of: Option<usize>,
) -> Result<Span, usize> {
    let parts = || separator.parts(text);
    let too_few = |total| if (1..=COUNTED).contains(&total) { total - 1 } else { UNTOLD };
    let span = match (reach.first, of) {
        (Some(n @ 1..), None) if reach.single => {
            let n = usize::try_from(n).unwrap_or(usize::MAX);
            parts().nth(n - 1).ok_or_else(|| too_few(parts().count()))?
        }
        _ => {
            let total = parts().count();
            if of.is_some_and(|of| of != total) {
                return Err(UNTOLD);
            }
            let (first, last) = places(reach, total).ok_or_else(|| too_few(total))?;
            span_of(parts(), first, last)
        }
    };
    match span.is_empty() {
        false => Ok(span),
        true if reach.single => Err(EMPTY_ITEM),
        true => Err(UNTOLD),
    }
}

pub(super) fn span_of(mut parts: impl Iterator<Item = Span>, first: usize, last: usize) -> Span {
    let start = parts.nth(first - 1).unwrap_or_default();
    let end =
        if last > first { parts.nth(last - first - 1).unwrap_or_default() } else { start.clone() };
    start.start..end.end
}
