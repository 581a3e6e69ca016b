//! The kernel of `number`.

use std::sync::Arc;

use super::items::COUNTED;
use super::number_rule::NumberRule;
use crate::program::kernel::{Grouped, Kernel, KernelRows};
use crate::program::span::{CellSpan, Change, change};
use crate::text::masks::{WIDE, digits_from, equal, first_digit, lowest, wide};
use crate::text::{Evidence, Marks, is_harmless_before, is_harmless_behind};

/// The kernel of `number`; numbers whose mark groups are counted by `event`.
pub(super) struct NumberKernel {
    pub rule: Arc<NumberRule>,
    pub event: usize,
}

impl Kernel for NumberKernel {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let KernelRows { spans: places, text, reasons, cells, grouped, .. } = rows;
        let (rule, event, reasons) = (&*self.rule, self.event, *reasons);
        let mut rest = Vec::new();
        if let Some(n) = rule.plain_place() {
            let mut with_groups = Vec::new();
            let (bytes, lists) = (text.as_bytes(), (&mut with_groups, &mut rest));
            // Two loops: the commonest has nothing to ask.
            match rule.style.marks {
                Marks::Either => plain_numbers::<true>(n, places, bytes, reasons, lists),
                _ => plain_numbers::<false>(n, places, bytes, reasons, lists),
            }
            for row in with_groups {
                let (start, end) = places[row].span();
                let number = &text.as_bytes()[start..end];
                let groups = number.iter().filter(|b| **b == b',').count();
                if groups == 1 && !number.contains(&b'.') {
                    grouped.push(Grouped { row, event, place: places[row] });
                }
                change(&mut places[row..=row], text, without_groups);
            }
        } else {
            rest.extend((0..places.len()).filter(|row| !places[*row].is_none()));
        }
        for row in rest {
            let (from, to) = places[row].span();
            let is_cell_start = cells.is_some_and(|cells| cells[row].span().0 == from);
            let groups = |stands| grouped.push(Grouped { row, event, place: stands });
            places[row] = match first_digit(text.as_bytes(), from, to) {
                None => absent(rule, text, (from, to), 0, reasons),
                Some(_) => scanned(rule, text, (from, to), is_cell_start, reasons, groups),
            };
        }
    }
}

/// Takes the first numbers of all pieces where nothing beside them needs a second look. Returns the
/// rows whose numbers have groups, and those that are left to the scanner. A function of its own,
/// because the loop over the steps has no registers left for it: 54 million instructions for
/// 200,000 notes instead of 66.
#[inline(never)]
fn plain_numbers<const EITHER: bool>(
    n: usize,
    places: &mut [CellSpan],
    text: &[u8],
    reasons: usize,
    (with_groups, rest): (&mut Vec<usize>, &mut Vec<usize>),
) {
    for (row, place) in places.iter_mut().enumerate() {
        if place.is_none() {
            continue;
        }
        let (from, to) = place.span();
        let Some(digit) = first_digit(text, from, to) else {
            *place = CellSpan::absent(reasons);
            continue;
        };
        let mut has_groups = false;
        let mut taken = plain::<EITHER>(text, from, to, digit, &mut has_groups);
        let mut has_fewer = false;
        for count in 1..n {
            if taken.is_none() {
                break;
            }
            // The next one, as long as nothing about those before it needs a second look.
            let Some(digit) = first_digit(text, taken.span().1, to) else {
                has_fewer = count <= COUNTED;
                taken = CellSpan::absent(reasons + count);
                break;
            };
            has_groups = false;
            taken = plain::<EITHER>(text, from, to, digit, &mut has_groups);
        }
        if taken.is_none() && !has_fewer {
            rest.push(row);
            continue;
        }
        *place = taken;
        if has_groups && !has_fewer {
            with_groups.push(row);
        }
    }
}

/// A piece that has no such number but that many, for one of the rule's reasons.
fn absent(
    rule: &NumberRule,
    text: &str,
    (from, to): (usize, usize),
    count: usize,
    reasons: usize,
) -> CellSpan {
    let reason = text.get(from..to).and_then(|piece| rule.absence(piece, count));
    reason.map_or(CellSpan::NONE, |reason| CellSpan::absent(reasons + reason))
}

/// The number of a piece, by the scanner of texts; nowhere when there is none, when it leaves doubt
/// or drops zeros, and when it depends on what stands before a piece that does not begin where its
/// cell does.
fn scanned(
    rule: &NumberRule,
    text: &mut String,
    (from, to): (usize, usize),
    is_cell_start: bool,
    reasons: usize,
    mut groups: impl FnMut(CellSpan),
) -> CellSpan {
    let Some(piece) = text.get(from..to) else { return CellSpan::NONE };
    let sought = rule.find(piece, None);
    if sought.depends_on_before && !is_cell_start {
        return CellSpan::NONE;
    }
    let Some(found) = sought.found else {
        return absent(rule, text, (from, to), sought.count, reasons);
    };
    if found.doubt.is_some() || found.drops_zeros {
        return CellSpan::NONE;
    }
    let from = from + sought.from;
    if found.evidence == Some(Evidence::Grouped) {
        groups(CellSpan::new(from + found.span.start, from + found.span.end));
    }
    let piece = &text[from..to];
    if let Some(span) = found.verbatim(piece) {
        return CellSpan::new(from + span.start, from + span.end);
    }
    // The number is short, and the text it is written after may move.
    let mut written = [0u8; LONGEST];
    let mut length = 0;
    let mut fits = true;
    found.write(piece, |part| {
        let end = length + part.len();
        fits &= end <= LONGEST;
        if fits {
            written[length..end].copy_from_slice(part.as_bytes());
            length = end;
        }
    });
    let made = text.len();
    match std::str::from_utf8(&written[..length]) {
        Ok(written) if fits => text.push_str(written),
        _ => return CellSpan::NONE,
    }
    CellSpan::new(made, text.len())
}

/// Longer numbers, in bytes, go the slow path.
const LONGEST: usize = 48;

/// The first number of a span, whose first digit is at `start`, where nothing beside it needs a
/// second look; and whether commas group it. Nowhere where that is not certain: the scanner takes
/// some fifteen times as long. With `EITHER` it may have no mark but a point without three digits
/// after it, which is decimal.
#[inline(always)]
fn plain<const EITHER: bool>(
    text: &[u8],
    from: usize,
    to: usize,
    start: usize,
    has_groups: &mut bool,
) -> CellSpan {
    if start > from && !is_harmless_before(text, from, start) {
        return CellSpan::NONE;
    }
    let count = digits_from(text, start, to);
    let Some(piece) = text.get(..to) else { return CellSpan::NONE };
    let byte = |at: usize| piece.get(at).copied().unwrap_or_default();
    let first = byte(start);
    if count > 1 && first == b'0' {
        return CellSpan::NONE;
    }
    let mut end = start + count;
    while byte(end) == b',' && byte(end + 1).is_ascii_digit() {
        if EITHER || count > 3 || first == b'0' || digits_from(text, end + 1, to) != 3 {
            return CellSpan::NONE;
        }
        (end, *has_groups) = (end + 4, true);
    }
    if byte(end) == b'.' && byte(end + 1).is_ascii_digit() {
        let decimals = digits_from(text, end + 1, to);
        if EITHER && decimals == 3 {
            return CellSpan::NONE;
        }
        end += 1 + decimals;
        if matches!(byte(end), b'.' | b',') && byte(end + 1).is_ascii_digit() {
            return CellSpan::NONE;
        }
    }
    if is_harmless_behind(piece, end) { CellSpan::at(start, end) } else { CellSpan::NONE }
}

/// A number without the commas that group it.
pub(super) fn without_groups(text: &mut String, from: usize, to: usize) -> Change {
    let commas =
        |text: &String, from: usize| equal(&wide(text.as_bytes(), from), b',') & lowest(to - from);
    let (mut from, mut is_same) = (from, true);
    while from < to {
        let length = match commas(text, from) {
            0 if is_same && to - from <= WIDE => return Change::Same,
            0 => WIDE.min(to - from),
            found => found.trailing_zeros() as usize,
        };
        is_same = false;
        text.extend_from_within(from..from + length);
        from += length + usize::from(text.as_bytes().get(from + length) == Some(&b','));
    }
    Change::Made
}
