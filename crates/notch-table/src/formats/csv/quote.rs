//! A field's bytes ↔ a cell's text.

use std::borrow::Cow;
use std::ops::Range;

use memchr::memchr;
use wide::u8x16;

use crate::formats::special_bytes::any_chunk;

/// The text of a field verbatim: without its quotes, doubled ones single.
///
/// Text after the closing quote belongs to the cell verbatim: `"a"b` is `ab`.
pub fn cell_text(field: &str) -> Cow<'_, str> {
    let Some(inside) = field.strip_prefix('"') else {
        return Cow::Borrowed(field);
    };
    match find_quote(inside.as_bytes(), 0, inside.len()) {
        Some(end) if end + 1 == inside.len() => Cow::Borrowed(&inside[..end]),
        _ => {
            // With room for all of it: a text that grew took 3,300 instructions where this takes
            // 400.
            let mut text = String::with_capacity(field.len());
            let mut pieces = Pieces::of(0..field.len());
            while let Some(piece) = pieces.next(field.as_bytes()) {
                text.push_str(&field[piece]);
            }
            Cow::Owned(text)
        }
    }
}

/// Writes the text of a field, which lies in a text, after what stands there.
pub(crate) fn write_text_of(text: &mut String, field: Range<usize>) {
    if text.as_bytes()[field.clone()].first() != Some(&b'"') {
        return text.extend_from_within(field);
    }
    let mut pieces = Pieces::of(field);
    while let Some(piece) = pieces.next(text.as_bytes()) {
        // The last one is mostly empty.
        if !piece.is_empty() {
            text.extend_from_within(piece);
        }
    }
}

/// The place of the first quote among the bytes from one place to another. Not inlined: most fields
/// are in no quotes, and the loops over them are shorter without it.
#[inline(never)]
fn find_quote(bytes: &[u8], from: usize, to: usize) -> Option<usize> {
    // Most fields are short: this is done before `memchr` would have begun.
    if let Some(first) = bytes[from..].first_chunk::<32>() {
        let found = quotes(first);
        if found != 0 {
            return Some(from + found.trailing_zeros() as usize).filter(|at| *at < to);
        }
        if to - from <= 32 {
            return None;
        }
    }
    memchr(b'"', &bytes[from..to]).map(|at| from + at)
}

/// The bytes that are quotes, a bit each.
#[inline(always)]
fn quotes(bytes: &[u8; 32]) -> u32 {
    let bits = |half: &[u8; 16]| u8x16::new(*half).simd_eq(u8x16::splat(b'"')).to_bitmask();
    let (halves, _) = bytes.as_chunks::<16>();
    bits(&halves[0]) | bits(&halves[1]) << 16
}

/// The pieces of a field that begins with a quote which, one after the other, are its text.
struct Pieces {
    /// Where the field goes on.
    rest: Range<usize>,
    is_in_quotes: bool,
}

impl Pieces {
    fn of(field: Range<usize>) -> Self {
        Self { rest: field.start + 1..field.end, is_in_quotes: true }
    }

    /// The next piece of the field, which lies in these bytes; it may be empty.
    fn next(&mut self, bytes: &[u8]) -> Option<Range<usize>> {
        let Range { start, end } = self.rest;
        if start >= end {
            return None;
        }
        let quote = if self.is_in_quotes { find_quote(bytes, start, end) } else { None };
        let Some(quote) = quote else {
            self.rest.start = end;
            return Some(start..end);
        };
        // Of two quotes one is text; at the closing one the rest is taken verbatim.
        self.is_in_quotes = quote + 1 < end && bytes[quote + 1] == b'"';
        let text_end = quote + usize::from(self.is_in_quotes);
        self.rest.start = text_end + 1;
        Some(start..text_end)
    }
}

/// Where the text of a field lies, from one place to another, when it stands in the bytes as it is:
/// in quotes without any inside, or bare.
#[inline]
pub(crate) fn bare_cell(bytes: &[u8], (from, to): (u32, u32)) -> Option<(u32, u32)> {
    if bytes.get(from as usize) != Some(&b'"') || from == to {
        return Some((from, to));
    }
    let end = find_quote(bytes, from as usize + 1, to as usize)? as u32;
    (end + 1 == to).then_some((from + 1, end))
}

/// Whether the cell that that many of the bytes are, others may follow, is to be looked at more
/// closely before it is written without quotes.
#[inline(always)]
pub(crate) fn asks_for_quotes(open: &[u8], length: usize, separator: u8) -> bool {
    let Some((halves, _)) = open.first_chunk::<32>().map(|wide| wide.as_chunks::<16>()) else {
        return true;
    };
    match length {
        0..=16 => special(&halves[0], separator) & ((1 << length) - 1) != 0,
        17..=32 => {
            (special(&halves[0], separator) | special(&halves[1], separator) << 16)
                & ((1 << length) - 1)
                != 0
        }
        _ => true,
    }
}

/// The bytes for which a cell is put in quotes, a bit each. A quote inside a bare field would be
/// text to this program, but not to every other.
#[inline(always)]
fn special(bytes: &[u8; 16], separator: u8) -> u64 {
    let bytes = u8x16::new(*bytes);
    let [a, b, c, d] =
        [separator, b'"', b'\n', b'\r'].map(|byte| bytes.simd_eq(u8x16::splat(byte)));
    u64::from((a | b | c | d).to_bitmask())
}

/// Whether a cell holds one of them.
#[inline]
pub(crate) fn has_special(bytes: &[u8], separator: u8) -> bool {
    any_chunk(
        bytes,
        |chunk| special(chunk, separator) != 0,
        |byte| byte == separator || matches!(byte, b'"' | b'\n' | b'\r'),
    )
}

/// Writes a cell as a field, in quotes only where it needs them.
pub fn write_cell(text: &str, separator: u8, into: &mut Vec<u8>) {
    write_cell_bytes(text.as_bytes(), separator, into);
}

/// The same for the bytes of a cell.
pub(crate) fn write_cell_bytes(bytes: &[u8], separator: u8, into: &mut Vec<u8>) {
    let from = into.len();
    into.extend_from_slice(bytes);
    // A short cell is looked at where it stands now, together with what stands before it.
    let is_special = match into.last_chunk::<16>() {
        Some(end) if bytes.len() <= 16 => special(end, separator) >> (16 - bytes.len()) != 0,
        _ => has_special(bytes, separator),
    };
    if is_special {
        into.truncate(from);
        write_in_quotes(bytes, into);
    }
}

/// The same for the cell of the first `length` bytes.
#[inline]
pub(crate) fn write_open_cell(open: &[u8], length: usize, separator: u8, into: &mut Vec<u8>) {
    if asks_for_quotes(open, length, separator) {
        write_cell_bytes(&open[..length], separator, into);
    } else {
        push_short(open, length, into);
    }
}

/// Adds the first `length` bytes, short ones in a copy of fixed length, which is quicker than one
/// of any.
#[inline(always)]
pub(crate) fn push_short(open: &[u8], length: usize, into: &mut Vec<u8>) {
    match open.first_chunk::<32>() {
        Some(wide) if length <= 32 => {
            let end = into.len() + length;
            into.extend_from_slice(wide);
            into.truncate(end);
        }
        _ => into.extend_from_slice(&open[..length]),
    }
}

fn write_in_quotes(mut bytes: &[u8], into: &mut Vec<u8>) {
    into.push(b'"');
    while let Some(at) = memchr(b'"', bytes) {
        into.extend_from_slice(&bytes[..=at]);
        into.push(b'"');
        bytes = &bytes[at + 1..];
    }
    into.extend_from_slice(bytes);
    into.push(b'"');
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Whatever stands before and behind it, a cell is written as the plain way writes it.
        #[test]
        fn cells_are_quoted_where_they_need_it(
            (before, behind) in ("[ab,\"\n]{0,20}", "[a;]{0,40}"), cell in "[ab;\"\n\r]{0,4}|[a-z;é]{7,18}|[a-zé]{0,20}[a-z;\n]{0,20}",
        ) {
            let [mut written, mut open] = [before.clone().into_bytes(), before.clone().into_bytes()];
            write_cell(&cell, b';', &mut written);
            write_open_cell(format!("{cell}{behind}").as_bytes(), cell.len(), b';', &mut open);
            prop_assert_eq!(&written, &open);
            let wanted = if cell.contains([';', '"', '\n', '\r']) {
                format!("{before}\"{}\"", cell.replace('"', "\"\""))
            } else {
                format!("{before}{cell}")
            };
            prop_assert_eq!(written, wanted.into_bytes());
        }

        /// Whatever stands behind it, a field in quotes is the text that it was written from.
        #[test]
        fn fields_are_the_texts_they_were_written_from(
            text in "[ab\"\n;é]{0,6}|[a-z\"é]{20,80}", behind in "[\"a,]{0,40}",
        ) {
            let field = format!("\"{}\"", text.replace('"', "\"\""));
            let mut block = format!("x,{field}{behind}");
            let (from, to, end) = (2, 2 + field.len(), block.len());
            let span = match bare_cell(block.as_bytes(), (from as u32, to as u32)) {
                Some((from, to)) => from as usize..to as usize,
                None => {
                    write_text_of(&mut block, from..to);
                    end..block.len()
                }
            };
            prop_assert_eq!(&block[span], &text);
            prop_assert_eq!(cell_text(&field), text);
        }
    }
}
