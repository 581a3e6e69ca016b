//! What texts of a shape look like, so that the shape of most is known from their bytes: spelled by
//! kinds of bytes, or as a pattern of a least and a greatest byte for each place.

use crate::text::masks::{WIDE, Wide, all_between, kinds, lowest, wide};
use crate::text::{OpenText, characters};

/// Longer texts, in bytes, are not spelled; longer shapes are counted under their beginning.
pub(super) const LONGEST_SHAPE: usize = 200;

/// A text with its bytes of ASCII replaced by their kinds, but for digits before other bytes: what
/// follows may be a mark on them. Texts that are spelled alike have the same shape; of texts of
/// ASCII those of one shape are spelled alike.
#[derive(Debug, Clone)]
pub(super) struct Spelling([u8; LONGEST_SHAPE.next_multiple_of(WIDE)]);

impl Default for Spelling {
    fn default() -> Self {
        Self([0; LONGEST_SHAPE.next_multiple_of(WIDE)])
    }
}

impl Spelling {
    /// Spells a text; `None` of one that is too long, and where what follows a control character,
    /// or one that may join the next, may make one character with it or not. Says also whether each
    /// byte is surely a character.
    pub(super) fn of(&mut self, text: OpenText<'_>) -> Option<(&[u8], bool)> {
        let (open, length) = (text.open(), text.len());
        if length > LONGEST_SHAPE {
            return None;
        }
        let (mut odd, mut last, mut rest) = (0, 0, 0);
        for (at, spelled) in (0..length).step_by(WIDE).zip(self.0.as_chunks_mut::<WIDE>().0) {
            odd |= last;
            (*spelled, last) = kinds(&wide(open, at));
            rest = length - at;
        }
        // What stands after the text does not count.
        odd |= last & lowest(rest);
        if odd != 0 {
            if text.bytes().any(|byte| byte.is_ascii_control()) {
                return None;
            }
            for (at, pair) in text.as_bytes().windows(2).enumerate() {
                if pair[0].is_ascii_digit() && !pair[1].is_ascii() {
                    self.0[at] = pair[0];
                }
                let may_join = pair[1].is_ascii_alphanumeric() && !pair[0].is_ascii();
                if may_join && joins_next(&text[..=at]) {
                    return None;
                }
            }
        }
        Some((&self.0[..length], odd == 0))
    }
}

/// Whether the last character of a text may be one with what follows: those that are stand here
/// (Unicode Standard Annex 29, Grapheme_Cluster_Break=Prepend), though most others do not.
fn joins_next(text: &str) -> bool {
    matches!(text.chars().next_back(), Some('\u{600}'..='\u{DFF}' | '\u{10000}'..))
}

/// Longer texts are not compared with patterns.
pub(super) const LONGEST_PATTERN: usize = 2 * WIDE;

/// What texts of a shape and length look like byte by byte: the least and the greatest byte that
/// may stand at each place.
#[derive(Debug, Clone)]
pub(super) struct Pattern {
    least: [Wide; 2],
    greatest: [Wide; 2],
    /// The place of the shape among the counts; beyond all of them in a pattern that is none.
    pub(super) place: usize,
    /// Whether each byte of such texts is a character.
    pub(super) is_plain: bool,
}

impl Default for Pattern {
    fn default() -> Self {
        let (least, greatest) = ([[u8::MAX; WIDE]; 2], [[0; WIDE]; 2]);
        Self { least, greatest, place: usize::MAX, is_plain: false }
    }
}

impl Pattern {
    /// The pattern of a text of the shape at `place`; `None` for control characters, which are
    /// rare. Characters beyond ASCII have to be the same, and so have digits with a mark on them,
    /// which stand for themselves in a shape, and what is joined to a character before it.
    pub(super) fn of(text: &str, place: usize) -> Option<Self> {
        let (mut least, mut greatest) = ([[0; WIDE]; 2], [[u8::MAX; WIDE]; 2]);
        let mut from = 0;
        for character in characters::each(text) {
            for (n, byte) in (from..).zip(character.bytes()) {
                let (low, high) = match byte {
                    b'A'..=b'Z' if n == from => (b'A', b'Z'),
                    b'a'..=b'z' if n == from => (b'a', b'z'),
                    b'0'..=b'9' if character.len() == 1 => (b'0', b'9'),
                    _ if byte.is_ascii_control() => return None,
                    _ => (byte, byte),
                };
                (least[n / WIDE][n % WIDE], greatest[n / WIDE][n % WIDE]) = (low, high);
            }
            from += character.len();
        }
        Some(Self { least, greatest, place, is_plain: text.is_ascii() })
    }

    /// Whether bytes fit one half of the pattern.
    #[inline(always)]
    pub(super) fn fits(&self, half: usize, bytes: &Wide) -> bool {
        all_between(bytes, &self.least[half], &self.greatest[half])
    }
}
