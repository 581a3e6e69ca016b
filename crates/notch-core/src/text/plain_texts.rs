//! Texts that are told by the kinds of their bytes and by their length alone.

use std::ops::RangeInclusive;

/// What a byte may be, one bit each.
pub(crate) const UPPER: u8 = 1;
pub(crate) const LOWER: u8 = 2;
pub(crate) const DIGIT: u8 = 4;
/// Any other character of one byte; a carriage return may be half of one.
const OTHER: u8 = 8;
const NOT_PLAIN: u8 = 16;

const KINDS: [u8; 256] = {
    let mut kinds = [NOT_PLAIN; 256];
    let mut byte = 0;
    while byte < 0x80 {
        kinds[byte] = match byte as u8 {
            b'A'..=b'Z' => UPPER,
            b'a'..=b'z' => LOWER,
            b'0'..=b'9' => DIGIT,
            b'\r' => NOT_PLAIN,
            _ => OTHER,
        };
        byte += 1;
    }
    kinds
};

/// The plain texts of some kinds of bytes and some lengths.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct PlainTexts {
    kinds: u8,
    least: usize,
    most: usize,
}

impl PlainTexts {
    /// Those of one byte or more, all of these kinds.
    pub(crate) const fn of(kinds: u8) -> Self {
        Self { kinds, least: 1, most: usize::MAX }
    }

    /// Those of these lengths.
    pub(crate) const fn of_length(lengths: RangeInclusive<usize>) -> Self {
        let kinds = UPPER | LOWER | DIGIT | OTHER;
        Self { kinds, least: *lengths.start(), most: *lengths.end() }
    }

    /// Those that are among the others too.
    pub(crate) fn and(self, others: Self) -> Self {
        Self {
            kinds: self.kinds & others.kinds,
            least: self.least.max(others.least),
            most: self.most.min(others.most),
        }
    }

    /// Whether a text is one of them.
    #[inline]
    pub(crate) fn has(&self, text: &str) -> bool {
        let kinds = || text.bytes().fold(0, |seen, byte| seen | KINDS[usize::from(byte)]);
        (self.least..=self.most).contains(&text.len()) && kinds() & !self.kinds == 0
    }
}
