//! Most numbers stand among words: a few bytes on either side tell that nothing there can be a
//! sign, a bracket or another number's mark.
//!
//! What these functions take for harmless, [`super::doubt`] has nothing to say of; they may be
//! wrong the other way, for the slow path then decides.

use super::currency::is_currency_code;

/// Whether what stands before a number that begins at `start`, in a text from `from` on, is no
/// sign, cannot be meant as one and does not belong to the number.
#[inline(always)]
pub(crate) fn is_harmless_before(text: &[u8], from: usize, start: usize) -> bool {
    let [.., before, first] = text[from..start] else {
        return text[from..start].iter().all(|b| b.is_ascii_alphanumeric());
    };
    match first {
        // A hyphen within a code, and no code of a currency before it.
        b'-' => before.is_ascii_alphanumeric() && !currency_may_end(text, from, start - 1),
        b' ' if matches!(before, b' ' | b'0'..=b'9') => false,
        b'.' | b',' | b'+' | b'$' | b'\'' | b'0'..=b'9' => false,
        _ => match text[..start].last_chunk::<MINUS_REACHES>() {
            Some(near) => {
                // What stands before the piece is none of its own.
                let others = MINUS_REACHES.saturating_sub(start - from);
                !has_hyphen_or_more(u64::from_le_bytes(*near) & u64::MAX << (8 * others))
            }
            None => false,
        },
    }
}

/// Whether one of eight bytes is a hyphen or not ASCII.
#[inline(always)]
fn has_hyphen_or_more(bytes: u64) -> bool {
    let hyphens = bytes ^ (EACH * b'-' as u64);
    ((hyphens.wrapping_sub(EACH) & !hyphens) | bytes) & (EACH * 0x80) != 0
}

/// One in each of eight bytes.
const EACH: u64 = 0x0101_0101_0101_0101;

/// A minus reaches over a currency sign with three letters before it, two after it and a blank, or
/// over a word of six letters and a blank: how many bytes before a number it may stand.
const MINUS_REACHES: usize = 8;

/// Whether what stands after a number that ends at byte `end` of a text belongs to it in no way.
#[inline(always)]
pub(crate) fn is_harmless_behind(text: &[u8], end: usize) -> bool {
    let behind = text.get(end..).unwrap_or_default();
    // A word, a blank before it or none: told from eight bytes in registers, for it is so after
    // nearly every number.
    if let Some(bytes) = behind.first_chunk::<8>() {
        let bytes = u64::from_le_bytes(*bytes);
        let is_blank = bytes as u8 == b' ';
        let word = bytes >> (8 * u32::from(is_blank));
        let length = letters(word as u32);
        let is_exponent = !is_blank && (word as u8 | 0x20) == b'e';
        let (after, next) = ((word >> (8 * length)) as u8, (word >> (8 * length + 8)) as u8);
        let ends_well = length > LONGEST_CURRENCY
            || (length > 0 && after == b' ' && next.is_ascii_alphanumeric());
        if ends_well && !is_exponent {
            return true;
        }
    }
    looked_at_closely(behind)
}

/// How many of four bytes are letters of ASCII up to the first one that is none.
#[inline(always)]
fn letters(bytes: u32) -> u32 {
    let each: u32 = 0x0101_0101;
    let small = bytes | (each * 0x20);
    // A byte from `a` on reaches the highest bit with the first sum, one after `z` with the
    // second.
    let letters = small.wrapping_add(each * (0x80 - b'a' as u32))
        & !small.wrapping_add(each * (0x7F - b'z' as u32))
        & !bytes;
    (!letters & (each * 0x80)).trailing_zeros() / 8
}

/// Whether what stands after a number is harmless where a few letters at most follow: they may
/// name a currency, in brackets with the number.
fn looked_at_closely(behind: &[u8]) -> bool {
    let closes = |b: u8| matches!(b, b')' | b']' | b'}' | b'>') || !b.is_ascii();
    let word = match *behind {
        [] => return true,
        // A degree sign, with a blank before it or none, belongs to no number and names no
        // currency.
        [0xC2, 0xB0, ..] | [b' ', 0xC2, 0xB0, ..] => return true,
        // `5-kr`
        [b'-', ref word @ ..] => {
            let length = word.iter().take(4).take_while(|b| b.is_ascii_alphanumeric()).count();
            return length > LONGEST_CURRENCY as usize || (length > 0 && word[0].is_ascii_digit());
        }
        [b',' | b'.', next, ..] => return next.is_ascii() && !next.is_ascii_digit(),
        [b'\'' | b'$' | b'e' | b'E', ..] => return false,
        [b' ', next, ..] if !next.is_ascii_alphabetic() => {
            return !(next.is_ascii_digit() || matches!(next, b' ' | b'$' | b'-') || closes(next));
        }
        [b' ', ref word @ ..] => word,
        [first, ..] if !first.is_ascii_alphabetic() => return !closes(first),
        _ => behind,
    };
    let length = word.iter().take(4).take_while(|b| b.is_ascii_alphabetic()).count();
    match word[length..] {
        _ if length > LONGEST_CURRENCY as usize => true,
        [b' ', next, ..] => next != b' ' && !closes(next),
        // `5 EUR-`
        [next, ..] => next != b'-' && !closes(next),
        [] => true,
    }
}

/// How many letters the longest word for a currency has.
const LONGEST_CURRENCY: u32 = 3;

/// Whether the word that ends at `end` may name a currency: three capitals that are a code, or two
/// letters of which the last one is small. It may be the end of a longer word.
#[inline(always)]
fn currency_may_end(text: &[u8], from: usize, end: usize) -> bool {
    match text[from..end] {
        [.., last] if last.is_ascii_lowercase() => true,
        [.., a, b, c] => is_currency_code([a, b, c]),
        _ => false,
    }
}
