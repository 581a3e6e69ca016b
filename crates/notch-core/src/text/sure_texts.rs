//! Texts of which a condition surely holds: told by the kinds of their bytes, their length, the
//! number they are, a list of short ones they stand in or how often a byte stands in them, before
//! the condition is asked.

use std::ops::RangeInclusive;
use std::sync::Arc;

use super::masks::{
    WIDE, Wide, beyond_ascii, capitals, count_equal, digits, equal, letters, lowest, wide,
};

/// What a byte may be, one bit each.
pub(crate) const UPPER: u8 = 1;
pub(crate) const LOWER: u8 = 2;
pub(crate) const DIGIT: u8 = 4;
/// Any other character of one byte; a carriage return may be half of one.
const OTHER: u8 = 8;
const NOT_PLAIN: u8 = 16;
const PLAIN: u8 = UPPER | LOWER | DIGIT | OTHER;
const ANY: u8 = PLAIN | NOT_PLAIN;

/// Whole numbers of no more digits are compared as numbers of 64 bits.
const MOST_DIGITS: usize = 15;

/// What each of sixteen bytes may be: a bit for each that is of one of these kinds.
#[inline(always)]
fn of_kinds(bytes: &Wide, kinds: u8) -> u64 {
    let not_plain = beyond_ascii(bytes) | equal(bytes, b'\r');
    // Most ask for one kind.
    let (digits, capitals) = (digits(bytes), capitals(bytes));
    match kinds {
        PLAIN => return !not_plain,
        DIGIT => return digits,
        UPPER => return capitals,
        _ => {}
    }
    let letters = letters(bytes);
    let each = [
        (UPPER, capitals),
        (LOWER, letters & !capitals),
        (DIGIT, digits),
        (OTHER, !(letters | digits | not_plain)),
        (NOT_PLAIN, not_plain),
    ];
    each.into_iter().filter(|(kind, _)| kinds & kind != 0).fold(0, |found, (_, of)| found | of)
}

/// Texts of certain kinds of bytes and certain lengths; where given, only numbers within limits,
/// texts of a list, or those in which a byte occurs a given number of times.
#[derive(Debug, Clone)]
pub(crate) struct SureTexts {
    kinds: u8,
    least: usize,
    most: usize,
    /// The numbers they are; then they are digits, at most [`MOST_DIGITS`].
    numbers: Option<RangeInclusive<i64>>,
    list: Option<Arc<ShortTexts>>,
    /// How often a byte stands in them.
    holds: Option<(u8, usize)>,
}

impl SureTexts {
    fn new(kinds: u8, lengths: RangeInclusive<usize>) -> Self {
        let (least, most) = (*lengths.start(), *lengths.end());
        Self { kinds, least, most, numbers: None, list: None, holds: None }
    }

    /// Those of one byte or more, all of these kinds.
    pub(crate) fn of(kinds: u8) -> Self {
        Self::new(kinds, 1..=usize::MAX)
    }

    /// Those of these lengths, in characters, of which each is a byte.
    pub(crate) fn of_length(lengths: RangeInclusive<usize>) -> Self {
        Self::new(PLAIN, lengths)
    }

    /// Those that are such a whole number, written in digits and nothing else.
    pub(crate) fn of_numbers(numbers: RangeInclusive<i64>) -> Self {
        Self { numbers: Some(numbers), ..Self::new(DIGIT, 1..=MOST_DIGITS) }
    }

    /// Those that stand in a list.
    pub(crate) fn of_list(list: ShortTexts) -> Self {
        Self { list: Some(Arc::new(list)), ..Self::new(ANY, 0..=ShortTexts::LONGEST) }
    }

    /// Those in which a byte of ASCII stands that number of times and each byte is a character.
    pub(crate) fn holding(byte: u8, times: usize) -> Self {
        Self { holds: Some((byte, times)), ..Self::new(PLAIN, 0..=usize::MAX) }
    }

    /// Those that are among the others too; `None` where that takes two lists or counts.
    pub(crate) fn and(self, others: Self) -> Option<Self> {
        if (self.list.is_some() && others.list.is_some())
            || (self.holds.is_some() && others.holds.is_some())
        {
            return None;
        }
        Some(Self {
            kinds: self.kinds & others.kinds,
            least: self.least.max(others.least),
            most: self.most.min(others.most),
            numbers: match (self.numbers, others.numbers) {
                (Some(one), Some(other)) => {
                    Some(*one.start().max(other.start())..=*one.end().min(other.end()))
                }
                (one, other) => one.or(other),
            },
            list: self.list.or(others.list),
            holds: self.holds.or(others.holds),
        })
    }

    /// Whether the first `length` bytes are one of them.
    #[inline]
    pub(crate) fn has(&self, open: &[u8], length: usize) -> bool {
        if length > WIDE {
            return self.has_long(open, length);
        }
        let (bytes, within) = (wide(open, 0), lowest(length));
        (self.least..=self.most).contains(&length)
            && (self.kinds == ANY || !of_kinds(&bytes, self.kinds) & within == 0)
            && self.numbers.as_ref().is_none_or(|all| all.contains(&number(&bytes, length)))
            && self.list.as_ref().is_none_or(|list| list.has(&bytes, length))
            && self.holds.is_none_or(|(byte, times)| {
                (equal(&bytes, byte) & within).count_ones() as usize == times
            })
    }

    /// Calls `other` with each of some texts, the first `length` bytes, that is none of them. What
    /// is asked most often is settled before any text is looked at.
    #[inline(always)]
    pub(crate) fn find_others<'t, T>(
        &self,
        texts: impl Iterator<Item = (T, &'t [u8], usize)>,
        other: impl FnMut(T),
    ) {
        let is_short = |length: usize| (self.least..=self.most).contains(&length) && length <= WIDE;
        let are =
            |bytes: &Wide, kinds: u8, length: usize| !of_kinds(bytes, kinds) & lowest(length) == 0;
        match (self.kinds, &self.numbers, &self.list, self.holds) {
            (DIGIT, Some(all), None, None) => others(texts, other, |open, length| {
                let bytes = wide(open, 0);
                is_short(length)
                    && are(&bytes, DIGIT, length)
                    && all.contains(&number(&bytes, length))
            }),
            (ANY, None, Some(list), None) => others(texts, other, |open, length| {
                is_short(length) && list.has(&wide(open, 0), length)
            }),
            (DIGIT, None, None, None) => others(texts, other, |open, length| {
                is_short(length) && are(&wide(open, 0), DIGIT, length) || self.has(open, length)
            }),
            (UPPER, None, None, None) => others(texts, other, |open, length| {
                is_short(length) && are(&wide(open, 0), UPPER, length) || self.has(open, length)
            }),
            (PLAIN, None, None, holds) => others(texts, other, |open, length| {
                if length > 2 * WIDE {
                    return self.has(open, length);
                }
                let [first, second] = [0, WIDE].map(|at| wide(open, at));
                (self.least..=self.most).contains(&length)
                    && are(&first, PLAIN, length.min(WIDE))
                    && are(&second, PLAIN, length.saturating_sub(WIDE))
                    && holds.is_none_or(|(byte, times)| {
                        let found = equal(&first, byte) | equal(&second, byte) << WIDE;
                        (found & lowest(length)).count_ones() as usize == times
                    })
            }),
            _ => others(texts, other, |open, length| self.has(open, length)),
        }
    }

    /// The same for texts of more than sixteen bytes, which no numbers and no lists have. A
    /// function of its own: short texts need none of its registers.
    #[inline(never)]
    fn has_long(&self, open: &[u8], length: usize) -> bool {
        let are_of_kinds = |at: usize| {
            let within = lowest(length - at) & lowest(WIDE);
            !of_kinds(&wide(open, at), self.kinds) & within == 0
        };
        (self.least..=self.most).contains(&length)
            && self.numbers.is_none()
            && self.list.is_none()
            && (0..length).step_by(WIDE).all(are_of_kinds)
            && self.holds.is_none_or(|(byte, times)| count_equal(&open[..length], byte) == times)
    }
}

/// Calls `other` with each of some texts that is not one of those.
#[inline(always)]
fn others<'t, T>(
    texts: impl Iterator<Item = (T, &'t [u8], usize)>,
    mut other: impl FnMut(T),
    is_one: impl Fn(&[u8], usize) -> bool,
) {
    for (what, open, length) in texts {
        if !is_one(open, length) {
            other(what);
        }
    }
}

/// The value of the first `length` bytes, at most [`MOST_DIGITS`] digits.
#[inline(always)]
fn number(digits: &Wide, length: usize) -> i64 {
    if length > 8 {
        let add = |number, digit: &u8| 10 * number + i64::from(digit - b'0');
        return digits[..length].iter().fold(0, add);
    }
    // The digits as numbers in the highest bytes, zeros before them; then neighbours are put
    // together: those of one digit, of two and of four.
    let ones = (first_eight(digits) ^ 0x3030_3030_3030_3030) << (64 - 8 * length as u32);
    let twos = (ones.wrapping_mul(10) + (ones >> 8)) & 0x00FF_00FF_00FF_00FF;
    let fours = (twos.wrapping_mul(100) + (twos >> 16)) & 0x0000_FFFF_0000_FFFF;
    (fours.wrapping_mul(10_000).wrapping_add(fours >> 32) & 0xFFFF_FFFF) as i64
}

/// The first eight bytes as a number, the first one the lowest.
#[inline(always)]
fn first_eight(bytes: &Wide) -> u64 {
    u128::from_le_bytes(*bytes) as u64
}

/// The number that a text of at most [`MOST_DIGITS`] digits is; `None` of any other.
pub(crate) fn short_whole(text: &str) -> Option<i64> {
    let text = text.as_bytes();
    let is_short = (1..=MOST_DIGITS).contains(&text.len()) && text.iter().all(u8::is_ascii_digit);
    is_short.then(|| number(&wide(text, 0), text.len()))
}

/// A list of short texts, each one number: found in a few steps where a table of hashes takes some
/// 140 instructions.
#[derive(Debug)]
pub(crate) struct ShortTexts(Vec<u64>);

impl ShortTexts {
    /// The length of the longest, in bytes.
    const LONGEST: usize = 7;
    /// A list of more texts is not searched so quickly any more.
    const MOST: usize = 1024;

    /// Those of these texts that are short; `None` where they are none or too many.
    pub(crate) fn of<'t>(texts: impl Iterator<Item = &'t str>) -> Option<Self> {
        let short = texts.map(str::as_bytes).filter(|text| text.len() <= Self::LONGEST);
        let mut numbers: Vec<u64> = short
            .take(Self::MOST + 1)
            .map(|text| Self::number(&wide(text, 0), text.len()))
            .collect();
        numbers.sort_unstable();
        (1..=Self::MOST).contains(&numbers.len()).then_some(Self(numbers))
    }

    /// The first `length` bytes and, in the highest byte, their number.
    #[inline(always)]
    fn number(bytes: &Wide, length: usize) -> u64 {
        first_eight(bytes) & lowest(8 * length) | (length as u64) << (8 * Self::LONGEST)
    }

    #[inline(always)]
    fn has(&self, bytes: &Wide, length: usize) -> bool {
        length <= Self::LONGEST && self.0.binary_search(&Self::number(bytes, length)).is_ok()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// The same as the text itself says, checked character by character.
        #[test]
        fn texts_are_told_as_the_plain_way_tells_them(
            list in prop::collection::vec("[aB1\u{0}é-]{0,9}", 0..6),
            (text, digits) in ("[aB1\u{0}\ré-]{0,9}|[1-]{0,40}|[aBé-]{0,40}", "[0-9]{0,16}"),
            (least, most) in (0_usize..9, 0_usize..9),
            (first, last) in (0_i64..200, 0_i64..200),
        ) {
            for text in [&text, &digits].into_iter().chain(&list) {
                let open = format!("{text}{digits}");
                let has = |texts: &SureTexts| {
                    let alone = texts.has(text.as_bytes(), text.len());
                    assert_eq!(alone, texts.has(open.as_bytes(), text.len()), "{text:?}");
                    let both = [text.as_bytes(), open.as_bytes()].map(|open| ((), open, text.len()));
                    let mut others = 0;
                    texts.find_others(both.into_iter(), |()| others += 1);
                    assert_eq!(others, if alone { 0 } else { 2 }, "{text:?}");
                    alone
                };
                let is_plain = text.is_ascii() && !text.contains('\r');
                let length = SureTexts::of_length(least..=most);
                prop_assert_eq!(has(&length), is_plain && (least..=most).contains(&text.len()));
                let kinds = SureTexts::of(DIGIT | UPPER);
                let is_kind = |c: char| c.is_ascii_digit() || c.is_ascii_uppercase();
                prop_assert_eq!(has(&kinds), !text.is_empty() && text.chars().all(is_kind));
                let holding = SureTexts::holding(b'-', least);
                prop_assert_eq!(has(&holding), is_plain && text.matches('-').count() == least);
                let number = short_whole(text);
                let told = text.parse::<i64>().ok().filter(|_| text.len() < 16 && text.bytes().all(|b| b.is_ascii_digit()));
                prop_assert_eq!(number, told);
                let numbers = SureTexts::of_numbers(first..=last);
                prop_assert_eq!(has(&numbers), number.is_some_and(|n| (first..=last).contains(&n)));
                let both = numbers.clone().and(length.clone()).unwrap();
                prop_assert_eq!(has(&both), has(&numbers) && has(&length));
                let both = holding.clone().and(kinds.clone()).unwrap();
                prop_assert_eq!(has(&both), has(&holding) && has(&kinds));
                prop_assert!(holding.clone().and(holding).is_none());
                if let Some(short) = ShortTexts::of(list.iter().map(String::as_str)) {
                    let listed = SureTexts::of_list(short);
                    prop_assert_eq!(has(&listed), list.contains(text) && text.len() <= 7);
                    let both = listed.clone().and(kinds.clone()).unwrap();
                    prop_assert_eq!(has(&both), has(&listed) && has(&kinds));
                    prop_assert!(listed.clone().and(listed).is_none());
                } else {
                    prop_assert!(list.iter().all(|text| text.len() > 7));
                }
            }
        }
    }
}
