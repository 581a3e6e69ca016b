//! Characters as a person counts them: extended grapheme clusters (Unicode UAX #29).
//!
//! Every function has a path for text in which each byte is a character, which never asks for
//! clusters.

use unicode_segmentation::{GraphemeCursor, UnicodeSegmentation};

use super::{Span, masks};

/// Whether each byte of the text is one character: ASCII without a carriage return, which with a
/// line feed makes one character.
pub(crate) fn is_plain(text: &str) -> bool {
    masks::each_its_own(text.as_bytes(), 0, text.len())
}

/// Whether a text has nothing in it, or only white space.
#[inline]
pub fn is_blank(text: &str) -> bool {
    // Nearly every text begins with something to see.
    !text.as_bytes().first().is_some_and(u8::is_ascii_graphic) && text.trim_start().is_empty()
}

/// How many characters the text has.
pub fn count(text: &str) -> usize {
    // Each code point is a character of its own where all are simple; those are told by the bytes
    // they begin with.
    let (beginning, simple) = text.bytes().fold((0, true), |(beginning, simple), byte| {
        (beginning + usize::from(byte & 0xC0 != 0x80), simple & (byte < COMPLEX) & (byte != b'\r'))
    });
    if simple { beginning } else { text.graphemes(true).count() }
}

/// The least byte that a code point from U+0300 on begins with. Those below make no character
/// together, but for a carriage return and a line feed (Unicode UAX #29, section 3.1.1, rules GB3
/// and GB999: none of them extends another).
const COMPLEX: u8 = 0xCC;

/// The length of the code point that bytes begin with, if it is a simple one.
#[inline]
fn simple(bytes: &[u8]) -> Option<usize> {
    match bytes {
        [0..0x80, ..] => Some(1),
        [0x80..COMPLEX, ..] => Some(2),
        bytes if is_punctuation(bytes) => Some(3),
        _ => None,
    }
}

/// Whether bytes begin with a dash, a quotation mark or dots (U+2010 to U+2027) or a currency sign
/// (U+20A0 to U+20BF): these make no character together with others either, but for marks on them.
#[inline]
fn is_punctuation(bytes: &[u8]) -> bool {
    matches!(bytes, [0xE2, 0x80, 0x90..=0xA7, ..] | [0xE2, 0x82, 0xA0..=0xBF, ..])
}

/// The length of the code point that bytes end with, if it is a simple one.
#[inline]
fn simple_at_end(bytes: &[u8]) -> Option<usize> {
    match bytes {
        [.., 0..0x80] => Some(1),
        [.., 0xC0..COMPLEX, _] => Some(2),
        _ => None,
    }
}

/// The characters of a text, one after the other.
pub fn each(text: &str) -> impl DoubleEndedIterator<Item = &str> {
    with_places(text).map(|(_, character)| character)
}

/// The characters of a text with the byte each begins at.
pub(crate) fn with_places(text: &str) -> Characters<'_> {
    Characters { text, rest: 0..text.len() }
}

/// The characters of a text with their places, from either end. Nothing is looked at before it is
/// asked for, so that what begins anew after every find stays linear.
pub(crate) struct Characters<'t> {
    text: &'t str,
    /// What has not been returned; it begins and ends between characters.
    rest: Span,
}

impl<'t> Iterator for Characters<'t> {
    type Item = (usize, &'t str);

    fn next(&mut self) -> Option<Self::Item> {
        let at = self.rest.start;
        let bytes = &self.text.as_bytes()[self.rest.clone()];
        let is_alone = |length: &usize| {
            let rest = &bytes[*length..];
            let is_simple = rest.first().is_none_or(|next| *next < COMPLEX) || is_punctuation(rest);
            is_simple && bytes[0] != b'\r'
        };
        let length = match simple(bytes).filter(is_alone) {
            Some(length) => length,
            // Where a character begins, what stood before it says nothing about its end.
            None => self.text[self.rest.clone()].graphemes(true).next()?.len(),
        };
        self.rest.start += length;
        Some((at, &self.text[at..at + length]))
    }
}

impl DoubleEndedIterator for Characters<'_> {
    fn next_back(&mut self) -> Option<Self::Item> {
        let end = self.rest.end;
        let bytes = &self.text.as_bytes()[self.rest.clone()];
        let is_alone = |length: &usize| {
            let before = &bytes[..bytes.len() - length];
            (before.is_empty() || simple_at_end(before).is_some()) && bytes.last() != Some(&b'\n')
        };
        let length = match simple_at_end(bytes).filter(is_alone) {
            Some(length) => length,
            None => self.text[self.rest.clone()].graphemes(true).next_back()?.len(),
        };
        self.rest.end -= length;
        Some((end - length, &self.text[end - length..end]))
    }
}

/// The byte after the first `n` characters; `None` when there are fewer.
pub(crate) fn notch_after(text: &str, n: usize) -> Option<usize> {
    if is_plain(text) {
        return (n <= text.len()).then_some(n);
    }
    if n == 0 {
        return Some(0);
    }
    text.grapheme_indices(true).nth(n - 1).map(|(at, character)| at + character.len())
}

/// The byte before the last `n` characters; `None` when there are fewer.
pub(crate) fn notch_before_last(text: &str, n: usize) -> Option<usize> {
    if is_plain(text) {
        return text.len().checked_sub(n);
    }
    if n == 0 {
        return Some(text.len());
    }
    text.grapheme_indices(true).rev().nth(n - 1).map(|(at, _)| at)
}

/// Whether no character is split at this byte.
pub(crate) fn is_notch(text: &str, at: usize) -> bool {
    let bytes = text.as_bytes();
    if at == 0 || at >= bytes.len() {
        return at <= bytes.len();
    }
    let (before, behind) = (bytes[at - 1], bytes[at]);
    if before < 0x80 && behind < 0x80 {
        return (before, behind) != (b'\r', b'\n');
    }
    // The whole text is in memory, so the cursor never wants more of it.
    text.is_char_boundary(at)
        && GraphemeCursor::new(at, text.len(), true).is_boundary(text, 0).unwrap_or(true)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Taken from either end in any order, the characters are those of the whole text.
        #[test]
        fn characters_are_those_of_the_whole_text(
            text in "([ab\r\n\u{301}\u{200d}]|é|©|\u{ad}|\u{2ff}|Ω|🇨🇿|🇩|👩|🔬|क्|षि|\u{600}|한|…|–|€|’|\u{2028}|⁉|₠){0,12}", from_back in prop::collection::vec(any::<bool>(), 24),
        ) {
            let whole: Vec<(usize, &str)> = text.grapheme_indices(true).collect();
            prop_assert_eq!(count(&text), whole.len());
            let mut characters = with_places(&text);
            let (mut front, mut back) = (Vec::new(), Vec::new());
            for take_back in from_back.into_iter().chain(std::iter::repeat(false)) {
                match if take_back { characters.next_back() } else { characters.next() } {
                    Some(found) if take_back => back.push(found),
                    Some(found) => front.push(found),
                    None => break,
                }
            }
            front.extend(back.into_iter().rev());
            prop_assert_eq!(front, whole);
        }
    }
}
