//! Most numbers stand among words: a few bytes on either side tell that nothing there can be a sign, a bracket or another number's mark.
//!
//! What these functions take for harmless, [`super::doubt`] has nothing to say of; they may be wrong the other way, for the slow path then
//! decides.

use super::currency::is_currency_code;

/// Whether what stands before a number that begins at `start`, in a text from `from` on, is no sign, cannot be meant as one and does not
/// belong to the number.
#[inline(always)]
pub(crate) fn is_harmless_before(text: &[u8], from: usize, start: usize) -> bool {
    let Some(near) = text[from..start].last_chunk::<MINUS_REACHES>() else {
        return near_start(text, from, start);
    };
    let [.., before, first] = *near;
    match first {
        // A hyphen within a code, and no code of a currency before it.
        b'-' => before.is_ascii_alphanumeric() && !currency_may_end(text, from, start - 1),
        b' ' if matches!(before, b' ' | b'0'..=b'9') => false,
        b'.' | b',' | b'+' | b'$' | b'\'' | b'0'..=b'9' => false,
        _ => !has_hyphen_or_more(u64::from_le_bytes(*near)),
    }
}

/// The same where fewer bytes stand before the number.
fn near_start(text: &[u8], from: usize, start: usize) -> bool {
    let near = &text[from..start];
    match near {
        [.., before, b'-'] => before.is_ascii_alphanumeric() && !currency_may_end(text, from, start - 1),
        [.., b' ' | b'0'..=b'9', b' '] | [.., b'.' | b',' | b'+' | b'$' | b'\'' | b'0'..=b'9'] => false,
        near => near.iter().all(|b| b.is_ascii() && *b != b'-'),
    }
}

/// Whether one of eight bytes is a hyphen or not ASCII.
#[inline(always)]
fn has_hyphen_or_more(bytes: u64) -> bool {
    let hyphens = bytes ^ EACH * b'-' as u64;
    (hyphens.wrapping_sub(EACH) & !hyphens | bytes) & EACH * 0x80 != 0
}

/// One in each of eight bytes.
const EACH: u64 = 0x0101_0101_0101_0101;

/// A minus reaches over a currency sign with three letters before it, two behind it and a blank, or over a word of six letters and a blank:
/// from so many bytes before a number.
const MINUS_REACHES: usize = 8;

/// Whether what stands behind a number that ends at `end`, in a text up to `to`, belongs to it in no way.
#[inline(always)]
pub(crate) fn is_harmless_behind(text: &[u8], end: usize, to: usize) -> bool {
    match text[end..to] {
        [] => true,
        [b' ', a, b, c, d, ..] if are_letters([a, b, c, d]) => true,
        [a, b, c, d, ..] if are_letters([a, b, c, d]) && !matches!(a, b'e' | b'E') => true,
        [b'-', next, ..] => next.is_ascii_alphanumeric(),
        [b',' | b'.', next, ..] => next.is_ascii() && !next.is_ascii_digit(),
        _ => looked_at_closely(&text[end..to]),
    }
}

#[inline(always)]
fn are_letters(bytes: [u8; 4]) -> bool {
    let each: u32 = 0x0101_0101;
    let bytes = u32::from_le_bytes(bytes);
    let small = bytes | each * 0x20;
    // A byte from `a` on reaches the highest bit with the first sum, one behind `z` with the second.
    let letters = small.wrapping_add(each * (0x80 - b'a' as u32)) & !small.wrapping_add(each * (0x7F - b'z' as u32));
    letters & !bytes & each * 0x80 == each * 0x80
}

/// Whether what stands behind a number is harmless where a few letters at most follow: they may name a currency, in brackets with the number.
fn looked_at_closely(behind: &[u8]) -> bool {
    let closes = |b: u8| matches!(b, b')' | b']' | b'}' | b'>') || !b.is_ascii();
    let word = match *behind {
        [b'\'' | b'$' | b'e' | b'E' | b'-', ..] => return false,
        [b' ', next, ..] if !next.is_ascii_alphabetic() => {
            return !(next.is_ascii_digit() || matches!(next, b' ' | b'$' | b'-') || closes(next));
        }
        [b' ', ref word @ ..] => word,
        [first, ..] if !first.is_ascii_alphabetic() => return !closes(first),
        _ => behind,
    };
    let length = word.iter().take(LONGEST_CURRENCY + 1).take_while(|b| b.is_ascii_alphabetic()).count();
    match word[length..] {
        _ if length > LONGEST_CURRENCY => true,
        [b' ', next, ..] => next != b' ' && !closes(next),
        [next, ..] => !closes(next),
        [] => true,
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
