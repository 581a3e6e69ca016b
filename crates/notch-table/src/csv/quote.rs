//! A field's bytes ↔ a cell's text.

use std::borrow::Cow;

use memchr::memchr;

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

/// Writes a cell as a field, in quotes only where it needs them.
pub fn write_cell(text: &str, separator: u8, into: &mut Vec<u8>) {
    let bytes = text.as_bytes();
    // A quote inside a bare field would be text to this program, but not to every other.
    let is_special = |byte: u8| byte == separator || matches!(byte, b'"' | b'\n' | b'\r');
    // Without stopping at the first one, many bytes are looked at together.
    if !bytes.iter().fold(false, |special, byte| special | is_special(*byte)) {
        into.extend_from_slice(bytes);
        return;
    }
    into.push(b'"');
    for piece in text.split_inclusive('"') {
        into.extend_from_slice(piece.as_bytes());
        if piece.ends_with('"') {
            into.push(b'"');
        }
    }
    into.push(b'"');
}
