//! Characters as a person counts them: extended grapheme clusters (Unicode UAX #29).
//!
//! Every function has a path for text in which each byte is a character, which never asks for clusters.

use unicode_segmentation::{GraphemeCursor, GraphemeIndices, UnicodeSegmentation};

use super::Span;

/// Whether each byte of the text is one character: ASCII without a carriage return, which with a line feed makes one character.
pub(crate) fn is_plain(text: &str) -> bool {
    text.bytes().fold(true, |plain, b| plain & (b < 0x80) & (b != b'\r'))
}

/// How many characters the text has.
pub fn count(text: &str) -> usize {
    if is_plain(text) { text.len() } else { text.graphemes(true).count() }
}

/// The characters of a text, one after the other.
pub fn each(text: &str) -> impl DoubleEndedIterator<Item = &str> {
    with_places(text).map(|(_, character)| character)
}

/// The characters of a text with the byte each begins at.
pub(crate) fn with_places(text: &str) -> Characters<'_> {
    if is_plain(text) { Characters::Plain(text, 0..text.len()) } else { Characters::Clusters(text.grapheme_indices(true)) }
}

/// The characters of a text with their places, from either end.
pub(crate) enum Characters<'t> {
    /// Each byte is one.
    Plain(&'t str, Span),
    Clusters(GraphemeIndices<'t>),
}

impl<'t> Iterator for Characters<'t> {
    type Item = (usize, &'t str);

    fn next(&mut self) -> Option<Self::Item> {
        match self {
            Characters::Plain(text, rest) => rest.next().map(|at| (at, &text[at..at + 1])),
            Characters::Clusters(clusters) => clusters.next(),
        }
    }
}

impl DoubleEndedIterator for Characters<'_> {
    fn next_back(&mut self) -> Option<Self::Item> {
        match self {
            Characters::Plain(text, rest) => rest.next_back().map(|at| (at, &text[at..at + 1])),
            Characters::Clusters(clusters) => clusters.next_back(),
        }
    }
}

/// The byte behind the first `n` characters; `None` when there are fewer.
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
    // The whole text is at hand, so the cursor never wants more of it.
    text.is_char_boundary(at) && GraphemeCursor::new(at, text.len(), true).is_boundary(text, 0).unwrap_or(true)
}
