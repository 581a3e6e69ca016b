//! Where words, numbers and runs of letters end that begin at a place of a text.

use unicode_normalization::char::is_combining_mark;

use super::{byte_kind, kind};
use crate::text::{Marks, NumberStyle, characters, numbers};

/// How `[n]` reads numbers.
const EITHER: NumberStyle = NumberStyle { marks: Marks::Either, accounting: false };

/// The kind of the character at a place, if it has one, and its length in bytes.
#[inline]
pub(super) fn kind_at(text: &str, at: usize) -> Option<(char, usize)> {
    let bytes = &text.as_bytes()[at..];
    match bytes {
        [byte @ ..0x80, rest @ ..] if *byte != b'\r' && rest.first().is_none_or(u8::is_ascii) => {
            byte_kind(*byte).map(|kind| (kind, 1))
        }
        _ => {
            let character = characters::each(&text[at..]).next()?;
            kind(character).map(|kind| (kind, character.len()))
        }
    }
}

/// Whether a character may stand in a word.
fn is_letter(c: char) -> bool {
    c.is_alphabetic() && !c.is_numeric() || !c.is_ascii() && is_combining_mark(c)
}

/// Whether a character joins two letters to one word.
pub(crate) fn joins_letters(c: char) -> bool {
    matches!(c, '-' | '\'' | '’')
}

/// How many bytes of letters a text begins with; none where it begins with a mark.
pub(crate) fn letters_length(text: &str) -> usize {
    let plain = text.bytes().take_while(u8::is_ascii_alphabetic).count();
    if text.as_bytes().get(plain).is_none_or(u8::is_ascii) {
        return plain;
    }
    if plain == 0 && text.chars().next().is_none_or(is_combining_mark) {
        return 0;
    }
    plain + text[plain..].find(|c| !is_letter(c)).unwrap_or(text.len() - plain)
}

/// Tells where a word that begins at a place may end: after its last letter, and before each sign
/// that joins two of its letters. It is no word where a digit or a `_` touches it.
pub(super) fn each_word_end(text: &str, from: usize, mut end: impl FnMut(usize)) {
    let mut at = from;
    loop {
        let length = letters_length(&text[at..]);
        if length == 0 {
            return;
        }
        at += length;
        let mut after = text[at..].chars();
        match after.next() {
            Some(c) if c.is_alphanumeric() || c == '_' => return,
            Some(c) => {
                end(at);
                if !joins_letters(c) {
                    return;
                }
                at += c.len_utf8();
            }
            None => return end(at),
        }
    }
}

/// Where the number ends that begins at a place.
pub(super) fn number_end(text: &str, from: usize) -> Option<usize> {
    let bytes = text.as_bytes();
    let digits = |at: usize| bytes[at..].iter().take_while(|byte| byte.is_ascii_digit()).count();
    let sign = text[from..].chars().next().filter(|c| matches!(c, '-' | '+' | '−'));
    let start = from + sign.map_or(0, char::len_utf8);
    let first = digits(start);
    let mut at = start + first;
    let mut marks = 0;
    while let Some(mark) = text[at..].chars().next().filter(|c| joins_digits(*c)) {
        let after = at + mark.len_utf8();
        let more = digits(after);
        if more == 0 {
            break;
        }
        at = after + more;
        marks += 1;
    }
    if first > 0 && marks == 0 {
        return Some(at);
    }
    let found = numbers(&text[from..at], None, EITHER).next()?;
    (found.span == (0..at - from)).then_some(at)
}

/// Whether a character may stand between two digits of a number.
pub(crate) fn joins_digits(c: char) -> bool {
    matches!(c, '.' | ',' | '\'' | '’' | '\u{a0}' | '\u{202f}')
}

/// How many bytes of letters and digits a text begins with.
pub(crate) fn mixed_length(text: &str) -> usize {
    let plain = text.bytes().take_while(u8::is_ascii_alphanumeric).count();
    if text.as_bytes().get(plain).is_none_or(u8::is_ascii) {
        return plain;
    }
    let is_end = |c: char| !c.is_ascii_digit() && !is_letter(c);
    plain + text[plain..].find(is_end).unwrap_or(text.len() - plain)
}
