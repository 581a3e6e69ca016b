//! Most numbers stand among words: a few bytes on either side tell that nothing there can be a sign, a bracket or another number's mark.
//!
//! What these functions take for harmless, [`super::doubt`] has nothing to say of; they may be wrong the other way, for the slow path then
//! decides.

use super::currency::is_currency_code;
use crate::text::masks::{WIDE, beyond_ascii, equal, letters, lowest, wide};

/// Whether what stands before a number that begins at `start`, in a text from `from` on, is no sign, cannot be meant as one and does not
/// belong to the number.
#[inline]
pub(crate) fn is_harmless_before(text: &[u8], from: usize, start: usize) -> bool {
    let second = if start - from > 1 { text[start - 2] } else { b'x' };
    match text[start - 1] {
        // A hyphen within a code, and no code of a currency before it.
        b'-' => start - from > 1 && second.is_ascii_alphanumeric() && !currency_may_end(text, from, start - 1),
        b'.' | b',' | b'+' | b'$' | b'\'' => false,
        b' ' if second == b' ' || second.is_ascii_digit() => false,
        b'0'..=b'9' => false,
        _ if start >= WIDE => {
            let before = wide(text, start - WIDE);
            let lanes = lowest(WIDE) & !lowest(WIDE - MINUS_REACHES.min(start - from));
            (equal(&before, b'-') | beyond_ascii(&before)) & lanes == 0
        }
        _ => text[from.max(start.saturating_sub(MINUS_REACHES))..start].iter().all(|b| b.is_ascii() && *b != b'-'),
    }
}

/// A minus reaches over a currency sign with three letters on either side of it and a blank, or over a word of seven letters: from so many
/// bytes before a number.
const MINUS_REACHES: usize = 9;

/// Whether what stands behind a number, up to `to`, belongs to it in no way; `first` and `second` are the next bytes.
#[inline]
pub(crate) fn is_harmless_behind(text: &[u8], end: usize, to: usize, first: u8, second: Option<u8>) -> bool {
    let closes = |b: u8| matches!(b, b')' | b']' | b'}' | b'>') || !b.is_ascii();
    let is_word = |b: u8| b.is_ascii_alphabetic();
    match (first, second) {
        (b'\'' | b'$' | b'e' | b'E', _) => false,
        (b'-', Some(next)) => next.is_ascii_alphanumeric(),
        (b'-', None) => false,
        (b',' | b'.', Some(next)) => next.is_ascii() && !next.is_ascii_digit(),
        (b' ', Some(next)) if !is_word(next) => !(next.is_ascii_digit() || matches!(next, b' ' | b'$' | b'-') || closes(next)),
        (b' ', None) => true,
        // A currency perhaps, in brackets with the number.
        (first, _) if first == b' ' || is_word(first) => {
            let word = end + usize::from(first == b' ');
            let length = letters(&wide(text, word)).trailing_ones() as usize;
            let behind = word + length;
            match (behind < to).then(|| text[behind]) {
                _ if length > LONGEST_CURRENCY => true,
                Some(b' ') => behind + 1 >= to || !(text[behind + 1] == b' ' || closes(text[behind + 1])),
                Some(next) => !closes(next),
                None => true,
            }
        }
        (first, _) => !closes(first),
    }
}

/// So many letters has the longest word that names a currency.
const LONGEST_CURRENCY: usize = 3;

/// Whether the word that ends at `end` may name a currency: two or three letters and no more.
#[inline]
fn currency_may_end(text: &[u8], from: usize, end: usize) -> bool {
    let letters = text[from..end].iter().rev().take(4).take_while(|b| b.is_ascii_alphabetic()).count();
    match letters {
        2 => text[end - 1].is_ascii_lowercase(),
        3 => is_currency_code([text[end - 3], text[end - 2], text[end - 1]]),
        _ => false,
    }
}
