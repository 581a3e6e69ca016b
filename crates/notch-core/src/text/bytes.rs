//! Bytes looked at eight at a time in plain arithmetic: in short texts that is quicker than a call to a search.
//!
//! The way to tell a byte of a word without borrowing from its neighbours is that of Henry S. Warren, Hacker's Delight, section 6-1.

/// How many bytes make a word.
const WORD: usize = 8;
/// A word of such bytes.
const fn each(byte: u8) -> u64 {
    u64::from_ne_bytes([byte; WORD])
}
const LOW: u64 = each(0x7F);
const HIGH: u64 = each(0x80);

/// Longer texts are searched by a call.
const SHORT: usize = 32;

/// The words of a text with the place each begins at; what is missing from the last one is zero.
#[inline]
pub(crate) fn words(bytes: &[u8]) -> impl Iterator<Item = (usize, u64)> {
    let (chunks, rest) = bytes.as_chunks::<WORD>();
    let last = (!rest.is_empty()).then(|| (bytes.len() - rest.len(), rest_word(bytes, rest)));
    chunks.iter().enumerate().map(|(n, chunk)| (n * WORD, u64::from_le_bytes(*chunk))).chain(last)
}

/// The last bytes of a text, fewer than make a word, as a word.
#[inline]
fn rest_word(bytes: &[u8], rest: &[u8]) -> u64 {
    match bytes.last_chunk::<WORD>() {
        Some(last) => u64::from_le_bytes(*last) >> (8 * (WORD - rest.len())),
        None => rest.iter().rev().fold(0, |word, byte| word << 8 | u64::from(*byte)),
    }
}

/// Whether a word holds ASCII alone.
#[inline]
pub(crate) fn is_ascii(word: u64) -> bool {
    word & HIGH == 0
}

/// The highest bit of each byte of a word that is this one, which is not zero.
#[inline]
pub(crate) fn equal(word: u64, byte: u8) -> u64 {
    let other = word ^ each(byte);
    !(((other & LOW) + LOW) | other | LOW)
}

/// The highest bit of each byte of a word that is a digit.
#[inline]
pub(crate) fn digits(word: u64) -> u64 {
    let low = word & LOW;
    (low + each(0x80 - b'0')) & !(low + each(0x80 - b'9' - 1)) & !word & HIGH
}

/// The places of the bytes marked in a word that begins at `base`.
#[inline]
pub(crate) fn places(base: usize, mut marks: u64) -> impl Iterator<Item = usize> {
    std::iter::from_fn(move || {
        let at = (marks != 0).then(|| base + marks.trailing_zeros() as usize / 8)?;
        marks &= marks - 1;
        Some(at)
    })
}

/// Where a byte stands first.
#[inline]
pub(crate) fn first(byte: u8, bytes: &[u8]) -> Option<usize> {
    if bytes.len() > SHORT {
        return memchr::memchr(byte, bytes);
    }
    words(bytes).find_map(|(base, word)| places(base, equal(word, byte)).next())
}

/// Where a byte stands last.
#[inline]
pub(crate) fn last(byte: u8, bytes: &[u8]) -> Option<usize> {
    if bytes.len() > SHORT {
        return memchr::memrchr(byte, bytes);
    }
    let mut last = None;
    for (base, word) in words(bytes) {
        let marks = equal(word, byte);
        if marks != 0 {
            last = Some(base + 7 - marks.leading_zeros() as usize / 8);
        }
    }
    last
}

/// Where the first digit is. Texts are often long and without one: sixteen bytes are passed over at a time.
#[inline]
pub(crate) fn first_digit(bytes: &[u8]) -> Option<usize> {
    let (chunks, _) = bytes.as_chunks::<16>();
    let has_none = |chunk: &&[u8; 16]| !chunk.iter().fold(false, |has, byte| has | byte.is_ascii_digit());
    let from = 16 * chunks.iter().take_while(has_none).count();
    words(&bytes[from..]).find_map(|(base, word)| places(from + base, digits(word)).next())
}

/// How many digits a text begins with.
#[inline]
pub(crate) fn leading_digits(bytes: &[u8]) -> usize {
    let other = words(bytes).find_map(|(base, word)| places(base, digits(word) ^ HIGH).next());
    other.map_or(bytes.len(), |at| at.min(bytes.len()))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn found_where_the_obvious_search_finds(bytes in prop::collection::vec(prop_oneof![any::<u8>(), Just(b'-'), Just(b'7')], 0..70)) {
            prop_assert_eq!(first(b'-', &bytes), bytes.iter().position(|byte| *byte == b'-'));
            prop_assert_eq!(last(b'-', &bytes), bytes.iter().rposition(|byte| *byte == b'-'));
            prop_assert_eq!(first_digit(&bytes), bytes.iter().position(u8::is_ascii_digit));
            prop_assert_eq!(leading_digits(&bytes), bytes.iter().take_while(|byte| byte.is_ascii_digit()).count());
            let all: Vec<usize> = words(&bytes).flat_map(|(base, word)| places(base, equal(word, b'-'))).collect();
            prop_assert_eq!(all, memchr::memchr_iter(b'-', &bytes).collect::<Vec<_>>());
        }
    }
}
