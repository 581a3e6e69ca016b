//! Shapes: what a text looks like, runs of one kind of character in brackets: `FH-2019` is
//! `[U2]-[d4]`.
//!
//! `d` is a digit 0–9, `U` a letter A–Z, `l` a letter a–z, `c` another letter (Unicode Standard,
//! section 4.5, General_Category), `s` white space; all else stands for itself. [`shape`] spells
//! the shape of a text, [`ShapePattern`] is what `is shape` asks of one: there a run may be of
//! several lengths (`[d4..5]`, `[d+]`).

mod automaton;
mod counts;
pub(crate) mod ends;
mod fixed;
mod item;
mod looks;
pub(crate) mod pattern;
mod sentences;

pub(crate) use automaton::{Automaton, First};
pub(crate) use counts::ShapesPart;
pub use counts::{ShapeCount, ShapeCounts};
pub(crate) use pattern::{ShapePattern, pattern_parts};

use crate::text::characters;

/// What a character is in a shape; `None` for one that stands for itself.
fn kind(character: &str) -> Option<char> {
    let mut points = character.chars();
    let first = points.next()?;
    // A letter with a combining mark on it is no plain letter.
    if first.is_ascii() && points.next().is_none() {
        return byte_kind(first as u8);
    }
    match first {
        _ if first.is_whitespace() => Some('s'),
        _ if first.is_alphabetic() && !first.is_numeric() => Some('c'),
        _ => None,
    }
}

/// The same for a byte that is a character.
const fn byte_kind(byte: u8) -> Option<char> {
    match byte {
        b'A'..=b'Z' => Some('U'),
        b'a'..=b'z' => Some('l'),
        b'0'..=b'9' => Some('d'),
        b' ' | b'\t'..=b'\r' => Some('s'),
        _ => None,
    }
}

/// The shape of a text: `U` A–Z, `l` a–z, `c` any other letter, `d` 0–9, `s` white space,
/// everything else verbatim, a `[` as `[[]`.
pub fn shape(text: &str) -> String {
    let mut shape = String::new();
    shape_into(text, &mut shape);
    shape
}

/// The shape of a text in words and numbers: `[w+] [n]`.
pub(crate) fn words_of(text: &str) -> String {
    sentences::in_words(&shape(text))
}

/// Writes the shape of a text after what `into` holds already.
pub(crate) fn shape_into(text: &str, into: &mut String) {
    if characters::is_plain(text) {
        // Every new cell has a shape, and nearly every one is plain.
        let mut run = None;
        for byte in text.bytes() {
            match (KINDS[usize::from(byte)], &mut run) {
                (Some(kind), Some((of, length))) if kind == *of => *length += 1,
                (kind, _) => {
                    close_run(run, into);
                    run = kind.map(|kind| (kind, 1));
                    if kind.is_none() {
                        push_literal(char::from(byte).encode_utf8(&mut [0; 4]), into);
                    }
                }
            }
        }
        close_run(run, into);
        return;
    }
    let mut run = None;
    characters::each(text).for_each(|character| step(&mut run, kind(character), character, into));
    close_run(run, into);
}

/// [`byte_kind`] of every byte.
const KINDS: [Option<char>; 256] = {
    let mut kinds = [None; 256];
    let mut byte = 0;
    while byte < kinds.len() {
        kinds[byte] = byte_kind(byte as u8);
        byte += 1;
    }
    kinds
};

fn push_literal(character: &str, into: &mut String) {
    into.push_str(if character == "[" { "[[]" } else { character });
}

/// One character more: it continues the run, or the run is written and another begins.
fn step(run: &mut Option<(char, usize)>, kind: Option<char>, character: &str, into: &mut String) {
    match (run.as_mut(), kind) {
        (Some((of, length)), Some(kind)) if *of == kind => *length += 1,
        _ => {
            close_run(run.take(), into);
            match kind {
                Some(kind) => *run = Some((kind, 1)),
                None => push_literal(character, into),
            }
        }
    }
}

fn close_run(run: Option<(char, usize)>, into: &mut String) {
    let Some((kind, length)) = run else { return };
    into.push('[');
    into.push(kind);
    match u8::try_from(length) {
        Ok(1) => {}
        Ok(length @ ..10) => into.push(char::from(b'0' + length)),
        _ => into.push_str(itoa(length, &mut [0; 20])),
    }
    into.push(']');
}

/// The figures of a number, without the machinery of formatting: shapes are made for every new
/// cell.
fn itoa(mut n: usize, buffer: &mut [u8; 20]) -> &str {
    let mut at = buffer.len();
    while at > 0 {
        at -= 1;
        buffer[at] = b'0' + (n % 10) as u8;
        n /= 10;
        if n == 0 {
            break;
        }
    }
    std::str::from_utf8(&buffer[at..]).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shapes() {
        for (text, wanted) in [
            ("FH-2019-BRA-00417-7", "[U2]-[d4]-[U3]-[d5]-[d]"),
            ("Brassica", "[U][l7]"),
            ("a\tb  c", "[l][s][l][s2][l]"),
            ("[x]", "[[][l]]"),
            ("Łódź", "[c2][l][c]"),
            ("E\u{301}A", "[c][U]"),
            ("ＡА", "[c2]"),
            ("٣ Ⅷ", "٣[s]Ⅷ"),
            ("", ""),
        ] {
            assert_eq!(shape(text), wanted, "{text:?}");
        }
    }
}
