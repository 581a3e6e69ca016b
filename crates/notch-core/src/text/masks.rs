//! Sixteen bytes at a time: a bit for each byte that is what is looked for, the first byte's the
//! lowest.

use wide::u8x16;

/// How many bytes are looked at together.
pub(crate) const WIDE: usize = 16;

/// That many bytes.
pub(crate) type Wide = [u8; WIDE];

/// The bytes of a text from a place on; zero after its end.
#[inline(always)]
pub(crate) fn wide(text: &[u8], at: usize) -> Wide {
    match text.get(at..at.wrapping_add(WIDE)).and_then(|wide| wide.first_chunk()) {
        Some(bytes) => *bytes,
        None => last(text, at).to_le_bytes(),
    }
}

/// The same where fewer are left.
#[inline(never)]
fn last(text: &[u8], at: usize) -> u128 {
    let rest = text.get(at..).unwrap_or_default();
    // Of a longer text its last bytes, moved down: most tails are those of one.
    if let (Some(end), false) = (text.last_chunk::<WIDE>(), rest.is_empty()) {
        return u128::from_le_bytes(*end) >> (8 * (WIDE - rest.len()));
    }
    // Two halves that may overlap, put together: quicker than a copy of any length.
    match (rest.first_chunk(), rest.last_chunk()) {
        (Some(first), Some(last)) => {
            let (first, last) = (u64::from_le_bytes(*first), u64::from_le_bytes(*last));
            u128::from(first) | u128::from(last) << (8 * (rest.len() - 8))
        }
        _ => match (rest.first_chunk(), rest.last_chunk()) {
            (Some(first), Some(last)) => {
                let (first, last) = (u32::from_le_bytes(*first), u32::from_le_bytes(*last));
                u128::from(first) | u128::from(last) << (8 * (rest.len() - 4))
            }
            _ => rest.iter().rev().fold(0, |bytes, byte| bytes << 8 | u128::from(*byte)),
        },
    }
}

/// The lowest bits, that many of them; all where there are more than fit.
#[inline(always)]
pub(crate) fn lowest(count: usize) -> u64 {
    if count >= 64 { u64::MAX } else { (1 << count) - 1 }
}

/// The bytes that are this one.
#[inline(always)]
pub(crate) fn equal(bytes: &Wide, byte: u8) -> u64 {
    u64::from(u8x16::new(*bytes).simd_eq(u8x16::splat(byte)).to_bitmask())
}

/// The bytes that are one of some.
#[inline(always)]
pub(crate) fn equal_any<const N: usize>(bytes: &Wide, some: [u8; N]) -> u64 {
    let bytes = u8x16::new(*bytes);
    let any = |found, byte| found | bytes.simd_eq(u8x16::splat(byte));
    u64::from(some.into_iter().fold(u8x16::splat(0), any).to_bitmask())
}

/// The bytes that are digits.
#[inline(always)]
pub(crate) fn digits(bytes: &Wide) -> u64 {
    let moved = u8x16::new(*bytes) - u8x16::splat(b'0');
    u64::from(moved.simd_eq(moved.min(u8x16::splat(9))).to_bitmask())
}

/// The bytes that are letters of ASCII.
#[inline(always)]
pub(crate) fn letters(bytes: &Wide) -> u64 {
    let moved = (u8x16::new(*bytes) | u8x16::splat(0x20)) - u8x16::splat(b'a');
    u64::from(moved.simd_eq(moved.min(u8x16::splat(25))).to_bitmask())
}

/// The bytes that are capitals of ASCII.
#[inline(always)]
pub(crate) fn capitals(bytes: &Wide) -> u64 {
    let moved = u8x16::new(*bytes) - u8x16::splat(b'A');
    u64::from(moved.simd_eq(moved.min(u8x16::splat(25))).to_bitmask())
}

/// The bytes beyond ASCII.
#[inline(always)]
pub(crate) fn beyond_ascii(bytes: &Wide) -> u64 {
    u64::from(u8x16::new(*bytes).to_bitmask())
}

/// What kind of character each byte is in a shape: itself where it stands for itself; and those
/// that may be no character of their own.
#[inline(always)]
pub(crate) fn kinds(bytes: &Wide) -> (Wide, u64) {
    let bytes = u8x16::new(*bytes);
    let within = |least: u8, most: u8| {
        let moved = bytes - u8x16::splat(least);
        moved.simd_eq(moved.min(u8x16::splat(most - least)))
    };
    let blank = bytes.simd_eq(u8x16::splat(b' ')) | within(b'\t', b'\r');
    let kinds = blank.select(u8x16::splat(b's'), bytes);
    let kinds = within(b'0', b'9').select(u8x16::splat(b'd'), kinds);
    let kinds = within(b'a', b'z').select(u8x16::splat(b'l'), kinds);
    let kinds = within(b'A', b'Z').select(u8x16::splat(b'U'), kinds);
    (kinds.to_array(), u64::from((bytes | bytes.simd_eq(u8x16::splat(b'\r'))).to_bitmask()))
}

/// Tells where a byte stands in a text, from the first place on.
#[inline(always)]
pub(crate) fn each_equal(text: &[u8], byte: u8, mut tell: impl FnMut(usize)) {
    for at in (0..text.len()).step_by(WIDE) {
        let mut found = equal(&wide(text, at), byte) & lowest(text.len() - at);
        while found != 0 {
            tell(at + found.trailing_zeros() as usize);
            found &= found - 1;
        }
    }
}

/// How often a byte stands in a text of which each byte is a character of its own, as
/// [`each_its_own`] has it; `None` where one is not.
#[inline]
pub(crate) fn count_in_plain(text: &[u8], byte: u8) -> Option<usize> {
    if text.len() > 64 {
        let count = || text.iter().filter(|one| **one == byte).count();
        return each_its_own(text, 0, text.len()).then(count);
    }
    let (mut found, mut odd) = (0, 0);
    for at in (0..text.len()).step_by(WIDE) {
        let bytes = wide(text, at);
        found |= equal(&bytes, byte) << at;
        odd |= beyond_ascii(&bytes) | equal(&bytes, b'\r');
    }
    // Zeros are read behind the text.
    (odd == 0).then(|| (found & lowest(text.len())).count_ones() as usize)
}

/// How often a byte other than zero stands in a text.
#[inline]
pub(crate) fn count_equal(text: &[u8], byte: u8) -> usize {
    // Of most texts a bit for each byte tells.
    if text.len() <= 64 {
        let places = (0..text.len()).step_by(WIDE);
        let found = places.fold(0, |found, at| found | equal(&wide(text, at), byte) << at);
        return found.count_ones() as usize;
    }
    // As many are counted in each of sixteen bytes as fit in one.
    let count_in = |text: &[u8]| -> usize {
        let places = (0..text.len()).step_by(WIDE);
        let counts = places.fold(u8x16::splat(0), |counts, at| {
            counts - u8x16::new(wide(text, at)).simd_eq(u8x16::splat(byte))
        });
        counts.to_array().iter().map(|count| usize::from(*count)).sum()
    };
    text.chunks(usize::from(u8::MAX) * WIDE).map(count_in).sum()
}

/// The places at which one of some bytes other than zero stands.
#[inline]
pub(crate) fn each_of<const N: usize>(text: &[u8], bytes: [u8; N]) -> impl Iterator<Item = usize> {
    (0..text.len()).step_by(WIDE).flat_map(move |at| {
        let mut found = equal_any(&wide(text, at), bytes);
        std::iter::from_fn(move || {
            let place = (found != 0).then(|| at + found.trailing_zeros() as usize)?;
            found &= found - 1;
            Some(place)
        })
    })
}

/// How many words a text has, divided by blanks, and whether two blanks stand together in it: that
/// many of the bytes, others may follow.
#[inline]
pub(crate) fn words(open: &[u8], length: usize) -> (usize, bool) {
    let text = &open[..length];
    let ends = [text.first(), text.last()].iter().filter(|end| **end == Some(&b' ')).count();
    let divided_by = |blanks: usize| (blanks + 1).saturating_sub(ends + usize::from(length == 0));
    let (blanks, are_doubled) = if length <= 64 {
        // Of most texts a bit for each byte tells.
        let places = (0..length).step_by(WIDE);
        let found = places.fold(0, |found, at| found | equal(&wide(open, at), b' ') << at);
        let found = found & lowest(length);
        (found.count_ones() as usize, found & found << 1 != 0)
    } else {
        (count_equal(text, b' '), text.windows(2).any(|two| two == b"  "))
    };
    if are_doubled {
        return (text.split(|byte| *byte == b' ').filter(|word| !word.is_empty()).count(), true);
    }
    (divided_by(blanks), false)
}

/// Whether each byte lies between the two at its place.
#[inline(always)]
pub(crate) fn all_between(bytes: &Wide, least: &Wide, greatest: &Wide) -> bool {
    let bytes = u8x16::new(*bytes);
    bytes.simd_eq(bytes.max(u8x16::new(*least)).min(u8x16::new(*greatest))).all()
}

/// Where the first digit of a span is.
#[inline]
pub(crate) fn first_digit(text: &[u8], from: usize, to: usize) -> Option<usize> {
    let mut at = from;
    while at < to {
        let found = digits(&wide(text, at));
        if found != 0 {
            return Some(at + found.trailing_zeros() as usize).filter(|at| *at < to);
        }
        at += WIDE;
    }
    None
}

/// How many digits a span begins with.
#[inline]
pub(crate) fn digits_from(text: &[u8], from: usize, to: usize) -> usize {
    let mut at = from;
    loop {
        let run = (!digits(&wide(text, at))).trailing_zeros() as usize;
        at += run;
        if run < WIDE || at >= to {
            return at.min(to) - from;
        }
    }
}

/// Whether each byte of a span is a character of its own: ASCII, and no carriage return, which with
/// a line feed makes one character.
#[inline]
pub(crate) fn each_its_own(text: &[u8], from: usize, to: usize) -> bool {
    let odd = |at: usize| {
        let bytes = wide(text, at);
        beyond_ascii(&bytes) | equal(&bytes, b'\r')
    };
    // Most spans are short.
    let length = to - from;
    if length <= WIDE {
        return odd(from) & ((1 << length) - 1) == 0;
    }
    (from..to).step_by(WIDE).all(|at| odd(at) & lowest(to - at) == 0)
}

/// Whether a span is of ASCII that can be seen, with single blanks between and none at its ends.
#[inline]
pub(crate) fn is_neat(text: &[u8], from: usize, to: usize) -> bool {
    let mut blank_before = 1;
    for at in (from..to).step_by(WIDE) {
        let bytes = wide(text, at);
        let within = lowest(to - at);
        let blanks = equal(&bytes, b' ') & within;
        let moved = u8x16::new(bytes) - u8x16::splat(b' ');
        let seen = u64::from(moved.simd_eq(moved.min(u8x16::splat(b'~' - b' '))).to_bitmask());
        if !seen & within & lowest(WIDE) != 0 || blanks & (blanks << 1 | blank_before) != 0 {
            return false;
        }
        blank_before = blanks >> (WIDE - 1);
    }
    to > from && text.get(to - 1) != Some(&b' ')
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// The slow, obvious twin.
    fn plain(bytes: &Wide, is: impl Fn(u8) -> bool) -> u64 {
        bytes.iter().enumerate().fold(0, |bits, (n, byte)| bits | u64::from(is(*byte)) << n)
    }

    proptest! {
        #[test]
        fn found_where_the_obvious_search_finds(
            bytes in prop::collection::vec(prop_oneof![any::<u8>(), Just(b'-'), Just(b'7'), Just(b'\r'), Just(b'l')], 0..70), from in 0_usize..70, length in 0_usize..70, follows in "[ a]{0,20}",
        ) {
            let from = from.min(bytes.len());
            let to = (from + length).min(bytes.len());
            let chunk = wide(&bytes, from);
            let there = WIDE.min(bytes.len() - from);
            prop_assert_eq!(&chunk[..there], &bytes[from..from + there]);
            prop_assert_eq!(&chunk[there..], &[0; WIDE][there..]);
            prop_assert_eq!(equal(&chunk, b'-'), plain(&chunk, |byte| byte == b'-'));
            prop_assert_eq!(letters(&chunk), plain(&chunk, |byte| byte.is_ascii_alphabetic()));
            prop_assert_eq!(capitals(&chunk), plain(&chunk, |byte| byte.is_ascii_uppercase()));
            prop_assert_eq!(digits(&chunk), plain(&chunk, |byte| byte.is_ascii_digit()));
            prop_assert_eq!(beyond_ascii(&chunk), plain(&chunk, |byte| !byte.is_ascii()));
            prop_assert_eq!(first_digit(&bytes, from, to), bytes[from..to].iter().position(u8::is_ascii_digit).map(|at| from + at));
            prop_assert_eq!(digits_from(&bytes, from, to), bytes[from..to].iter().take_while(|byte| byte.is_ascii_digit()).count());
            let kind = |byte: u8| match byte {
                b'A'..=b'Z' => b'U',
                b'a'..=b'z' => b'l',
                b'0'..=b'9' => b'd',
                b' ' | b'\t'..=b'\r' => b's',
                other => other,
            };
            prop_assert_eq!(kinds(&chunk), (chunk.map(kind), plain(&chunk, |byte| !byte.is_ascii() || byte == b'\r')));
            let mut places = Vec::new();
            each_equal(&bytes[from..to], b'-', |at| places.push(at));
            prop_assert_eq!(count_equal(&bytes[from..to], b'-'), places.len());
            let is_one = |place: &usize| b"-7".contains(&bytes[from + *place]);
            let found: Vec<usize> = (0..to - from).filter(is_one).collect();
            prop_assert_eq!(each_of(&bytes[from..to], *b"-7").collect::<Vec<_>>(), found);
            for byte in [b'-', 0] {
                let count = bytes[from..to].iter().filter(|one| **one == byte).count();
                let told = each_its_own(&bytes, from, to).then_some(count);
                prop_assert_eq!(count_in_plain(&bytes[from..to], byte), told);
            }
            prop_assert!(places.iter().copied().eq(memchr::memchr_iter(b'-', &bytes[from..to])));
            let text: String = bytes[from..to].iter().map(|byte| if byte % 3 == 0 { ' ' } else { 'x' }).collect();
            let open = format!("{text}{follows}");
            prop_assert_eq!(words(open.as_bytes(), text.len()), (text.split_ascii_whitespace().count(), text.contains("  ")), "{:?}", text);
            prop_assert_eq!(each_its_own(&bytes, from, to), bytes[from..to].iter().all(|byte| byte.is_ascii() && *byte != b'\r'));
        }
    }
}
