//! What the bytes of a text are, seen in one look.

use super::DIVIDERS;

/// What a byte may be, one bit each: first the dividers in their order, then these.
pub(super) const DIGIT: u32 = 1 << 16;
pub(super) const LIKE_DIGIT: u32 = 1 << 17;
pub(super) const SPACE: u32 = 1 << 18;
pub(super) const CONTROL: u32 = 1 << 19;
pub(super) const BEYOND: u32 = 1 << 20;
pub(super) const AT: u32 = 1 << 21;
pub(super) const LETTER: u32 = 1 << 22;
pub(super) const RETURN: u32 = 1 << 23;

/// Letters that are mistaken for digits.
pub(super) const LOOK_LIKE_DIGITS: [u8; 4] = *b"OoIl";

/// What each byte is.
pub(super) const BYTES: [u32; 256] = {
    let mut bytes = [0; 256];
    let mut n = 0;
    while n < bytes.len() {
        let byte = n as u8;
        let mut is = match byte {
            b'0'..=b'9' => DIGIT,
            b'A'..=b'Z' | b'a'..=b'z' => LETTER,
            b'\r' => SPACE | CONTROL | RETURN,
            b'\t'..=b'\r' => SPACE | CONTROL,
            b' ' => SPACE,
            0..0x20 | 0x7F => CONTROL,
            b'@' => AT,
            0x80.. => BEYOND,
            _ => 0,
        };
        let mut divider = 0;
        while divider < DIVIDERS.len() {
            if DIVIDERS[divider] as u32 == n as u32 {
                is |= 1 << divider;
            }
            divider += 1;
        }
        let mut like = 0;
        while like < LOOK_LIKE_DIGITS.len() {
            if LOOK_LIKE_DIGITS[like] == byte {
                is |= LIKE_DIGIT;
            }
            like += 1;
        }
        bytes[n] = is;
        n += 1;
    }
    bytes
};

/// Whether the letter at a place of a text, which looks like a digit, stands in a word: beside a
/// letter that does not, and no digit.
pub(super) fn is_in_a_word(text: &[u8], place: usize) -> bool {
    let is = |at: Option<usize>| {
        at.and_then(|at| text.get(at)).map_or(0, |byte| BYTES[usize::from(*byte)])
    };
    let beside = [is(place.checked_sub(1)), is(Some(place + 1))];
    beside.iter().any(|byte| byte & (LETTER | LIKE_DIGIT) == LETTER)
        && beside.iter().all(|byte| byte & DIGIT == 0)
}
