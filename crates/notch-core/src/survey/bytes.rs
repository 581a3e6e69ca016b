//! What the bytes of a text are, seen in one look.

use super::{DIVIDERS, LONGEST_TO_DIVIDE};
use crate::text::masks::{self, WIDE, digits, equal_any, letters, lowest, wide};
use crate::text::{OpenText, is_plain_email};

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

/// What the bytes of a text tell of it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Look {
    /// What kinds of bytes it has.
    pub seen: u32,
    /// How many words, divided by white space of ASCII.
    pub words: usize,
    /// Two blanks stand together in it.
    pub has_two_blanks: bool,
    /// It is surely an e-mail address.
    pub is_email: bool,
}

impl Look {
    /// Looks at a text; whether it is an address is not asked.
    pub(super) fn at(text: OpenText<'_>) -> Self {
        let seen = text.bytes().fold(0, |seen, byte| seen | BYTES[usize::from(byte)]);
        let (words, has_two_blanks) = if seen & (SPACE | BEYOND) != 0 {
            masks::words(text.open(), text.len())
        } else {
            (1, false)
        };
        Self { seen, words, has_two_blanks, is_email: false }
    }

    /// The same for all texts of the shape of this one that have neither control characters nor
    /// any beyond ASCII, but that they may have letters like digits; `None` where it has some.
    pub(super) fn of_shape(self, text: &str) -> Option<Self> {
        let may_have = if self.seen & LETTER != 0 { LIKE_DIGIT } else { 0 };
        // Of a longer shape only the beginning is known.
        let is_whole = text.len() <= LONGEST_TO_DIVIDE;
        (is_whole && self.seen & (CONTROL | BEYOND) == 0).then(|| Self {
            seen: self.seen | may_have,
            is_email: self.seen & AT != 0 && is_plain_email(text),
            ..self
        })
    }
}

/// Whether a text has a letter that looks like a digit.
pub(super) fn has_like_digit(text: OpenText<'_>) -> bool {
    (0..text.len()).step_by(WIDE).any(|at| {
        equal_any(&wide(text.open(), at), LOOK_LIKE_DIGITS) & lowest(text.len() - at) != 0
    })
}

/// Whether a text has one that stands in no word, as [`is_in_a_word`] has it.
pub(super) fn has_lone_like_digit(text: OpenText<'_>) -> bool {
    if text.len() > 64 {
        return lone_like_digits(text.as_bytes()).next().is_some();
    }
    // Of most texts a bit for each byte tells.
    let (mut like, mut other, mut figures) = (0, 0, 0);
    for at in (0..text.len()).step_by(WIDE) {
        let bytes = wide(text.open(), at);
        like |= equal_any(&bytes, LOOK_LIKE_DIGITS) << at;
        other |= letters(&bytes) << at;
        figures |= digits(&bytes) << at;
    }
    let whole = lowest(text.len());
    let beside = |places: u64| (places & whole) << 1 | (places & whole) >> 1;
    like & whole & !(beside(other & !like) & !beside(figures)) != 0
}

/// The places of letters that look like digits and stand in no word.
pub(super) fn lone_like_digits(text: &[u8]) -> impl Iterator<Item = usize> {
    masks::each_of(text, LOOK_LIKE_DIGITS).filter(|place| !is_in_a_word(text, *place))
}

/// Whether the letter at a place of a text, which looks like a digit, stands in a word: beside a
/// letter that does not, and no digit.
fn is_in_a_word(text: &[u8], place: usize) -> bool {
    let is = |at: Option<usize>| {
        at.and_then(|at| text.get(at)).map_or(0, |byte| BYTES[usize::from(*byte)])
    };
    let beside = [is(place.checked_sub(1)), is(Some(place + 1))];
    beside.iter().any(|byte| byte & (LETTER | LIKE_DIGIT) == LETTER)
        && beside.iter().all(|byte| byte & DIGIT == 0)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// What follows a text in memory does not count.
        #[test]
        fn letters_like_digits_are_found_as_one_by_one(
            text in "[OoIla70é-]{0,20}|[a-z0Il-]{60,70}", follows in "[Oo0a]{0,20}",
        ) {
            let whole = format!("{text}{follows}");
            let open = OpenText::of(&whole, 0, text.len()).unwrap();
            let has = text.bytes().any(|byte| LOOK_LIKE_DIGITS.contains(&byte));
            prop_assert_eq!(has_like_digit(open), has);
            let lone = lone_like_digits(text.as_bytes()).next().is_some();
            prop_assert_eq!(has_lone_like_digit(open), lone);
        }
    }
}
