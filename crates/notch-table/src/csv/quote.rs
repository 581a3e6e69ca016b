//! A field's bytes ↔ a cell's text.

use std::borrow::Cow;

use memchr::memchr;
use wide::u8x16;

/// The text of a field as it stands in the file: without its quotes, doubled ones single.
///
/// Text behind the closing quote belongs to the cell as it stands: `"a"b` is `ab`.
pub fn cell_text(field: &str) -> Cow<'_, str> {
    let Some(inside) = field.strip_prefix('"') else {
        return Cow::Borrowed(field);
    };
    match memchr(b'"', inside.as_bytes()) {
        Some(end) if end + 1 == inside.len() => Cow::Borrowed(&inside[..end]),
        _ => {
            let mut text = String::with_capacity(inside.len());
            let mut rest = inside;
            while let Some(at) = memchr(b'"', rest.as_bytes()) {
                text.push_str(&rest[..at]);
                rest = &rest[at + 1..];
                match rest.strip_prefix('"') {
                    Some(behind) => {
                        text.push('"');
                        rest = behind;
                    }
                    // The closing quote: the rest is as it stands.
                    None => break,
                }
            }
            text.push_str(rest);
            Cow::Owned(text)
        }
    }
}

/// Writes the cell that so many of the bytes are; others may follow. It is put in quotes only where it needs them, and never where no
/// separator is given.
#[inline]
pub(crate) fn write_open_cell(open: &[u8], length: usize, separator: Option<u8>, into: &mut Vec<u8>) {
    const WIDE: usize = 16;
    match open.first_chunk::<WIDE>() {
        // One copy of fixed length, of which what is too much is dropped, is quicker than one of any length.
        Some(wide) if length <= WIDE && !separator.is_some_and(|separator| has_special(wide, length, separator)) => {
            let end = into.len() + length;
            into.extend_from_slice(wide);
            into.truncate(end);
        }
        _ => {
            let cell = open.get(..length).unwrap_or_default();
            match separator {
                Some(separator) => write_bytes(cell, separator, into),
                None => into.extend_from_slice(cell),
            }
        }
    }
}

/// Whether one of the first `length` bytes asks for quotes.
#[inline]
fn has_special(wide: &[u8; 16], length: usize, separator: u8) -> bool {
    let bytes = u8x16::new(*wide);
    let special = [separator, b'"', b'\n', b'\r'].map(|byte| bytes.simd_eq(u8x16::splat(byte)));
    let [a, b, c, d] = special;
    u64::from((a | b | c | d).to_bitmask()) & ((1 << length) - 1) != 0
}

/// Writes a cell as a field, in quotes only where it needs them.
pub fn write_cell(text: &str, separator: u8, into: &mut Vec<u8>) {
    write_bytes(text.as_bytes(), separator, into);
}

fn write_bytes(bytes: &[u8], separator: u8, into: &mut Vec<u8>) {
    // A quote inside a bare field would be text to this program, but not to every other.
    let is_special = |byte: u8| byte == separator || matches!(byte, b'"' | b'\n' | b'\r');
    // Without stopping at the first one, many bytes are looked at together.
    if !bytes.iter().fold(false, |special, byte| special | is_special(*byte)) {
        into.extend_from_slice(bytes);
        return;
    }
    into.push(b'"');
    for piece in bytes.split_inclusive(|byte| *byte == b'"') {
        into.extend_from_slice(piece);
        if piece.ends_with(b"\"") {
            into.push(b'"');
        }
    }
    into.push(b'"');
}
