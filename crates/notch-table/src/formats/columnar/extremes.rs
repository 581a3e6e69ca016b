//! The least and the greatest text of a column in a row group, which readers use to pass over row
//! groups. The library finds them by comparing whole texts; here eight bytes as a number tell
//! nearly all (some 1,100 and 500 instructions a row of eleven columns).

use arrow_array::{Array, StringArray};
use parquet::data_type::ByteArray;
use parquet::errors::Result;
use parquet::file::metadata::ColumnChunkMetaData;
use parquet::file::statistics::ValueStatistics;

/// A longer text is cut to this number of bytes, as by the library.
const LONGEST: usize = 64;

/// The least and the greatest text of a column so far, and how many cells are null.
#[derive(Debug, Default, Clone)]
pub(super) struct Extremes {
    least: Option<String>,
    greatest: Option<String>,
    nulls: u64,
}

impl Extremes {
    /// Takes more texts.
    pub(super) fn add(&mut self, texts: &StringArray) {
        self.nulls += texts.null_count() as u64;
        let (bytes, bounds) = (texts.value_data(), texts.value_offsets());
        let nulls = texts.nulls().filter(|_| texts.null_count() > 0);
        let (mut least, mut greatest) = ((u64::MAX, None), (0, None));
        for (n, bound) in bounds.windows(2).enumerate() {
            if nulls.is_some_and(|nulls| nulls.is_null(n)) {
                continue;
            }
            let (from, to) = (bound[0] as usize, bound[1] as usize);
            let prefix = prefix(&bytes[from..], to - from);
            if prefix <= least.0 && least.1.is_none_or(|known| texts.value(n) < known) {
                least = (prefix, Some(texts.value(n)));
            }
            if prefix >= greatest.0 && greatest.1.is_none_or(|known| texts.value(n) > known) {
                greatest = (prefix, Some(texts.value(n)));
            }
        }
        let [least, greatest] = [least.1, greatest.1].map(|text| text.map(str::to_owned));
        self.least = self.least.take().into_iter().chain(least).min();
        self.greatest = self.greatest.take().max(greatest);
    }

    /// Writes them into what the file says of the column.
    ///
    /// # Errors
    /// What it says is not whole.
    pub(super) fn write(self, column: &mut ColumnChunkMetaData) -> Result<()> {
        let least = self.least.as_deref().map(beginning);
        let greatest = self.greatest.as_deref().and_then(not_below);
        let are_whole = [(&self.least, least), (&self.greatest, greatest.as_deref())]
            .map(|(text, said)| text.as_deref() == said);
        let [least, greatest] = [least, greatest.as_deref()].map(|text| text.map(ByteArray::from));
        let said = ValueStatistics::new(least, greatest, None, Some(self.nulls), false)
            .with_min_is_exact(are_whole[0])
            .with_max_is_exact(are_whole[1]);
        *column = column.clone().into_builder().set_statistics(said.into()).build()?;
        Ok(())
    }
}

/// The first characters of a text, at most [`LONGEST`] bytes.
fn beginning(text: &str) -> &str {
    let mut end = text.len().min(LONGEST);
    while !text.is_char_boundary(end) {
        end -= 1;
    }
    &text[..end]
}

/// A text that is not less than this one and not longer than [`LONGEST`] by much: itself, or its
/// beginning with a greater last character. `None` where no character is greater.
fn not_below(text: &str) -> Option<String> {
    let mut said = beginning(text).to_owned();
    if said.len() == text.len() {
        return Some(said);
    }
    while let Some(last) = said.pop() {
        if let Some(next) = char::from_u32(u32::from(last) + 1) {
            said.push(next);
            return Some(said);
        }
    }
    None
}

/// The first eight bytes of the text of the first `length` bytes, as a number that sorts as the
/// text does; a shorter text is filled with zeros.
#[inline(always)]
fn prefix(open: &[u8], length: usize) -> u64 {
    let first = match open.first_chunk() {
        Some(first) => u64::from_be_bytes(*first),
        None => {
            let mut first = [0; 8];
            first[..open.len()].copy_from_slice(open);
            u64::from_be_bytes(first)
        }
    };
    match length {
        0..8 => first & !(u64::MAX >> (8 * length)),
        _ => first,
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// They are what a plain comparison of all texts finds.
        #[test]
        fn the_plain_way_finds_the_same(
            blocks in prop::collection::vec(
                prop::collection::vec(prop::option::of("[ab\u{0}é]{0,10}|abcdefgh[ab]?"), 0..6), 0..4,
            ),
        ) {
            let mut extremes = Extremes::default();
            blocks.iter().for_each(|texts| extremes.add(&StringArray::from(texts.clone())));
            let all = || blocks.iter().flatten().flatten();
            prop_assert_eq!(extremes.least.as_ref(), all().min());
            prop_assert_eq!(extremes.greatest.as_ref(), all().max());
            let nulls = blocks.iter().flatten().filter(|text| text.is_none()).count();
            prop_assert_eq!(extremes.nulls, nulls as u64);
        }

        /// What is said of a long text is short, and not less.
        #[test]
        fn a_greater_text_is_said_of_a_long_one(text in "[aé\u{10ffff}]{0,80}|\u{10ffff}{14,20}") {
            let said = not_below(&text);
            prop_assert_eq!(said.is_none(), text.len() > LONGEST && text.starts_with(&"\u{10ffff}".repeat(16)));
            if let Some(said) = said {
                prop_assert!(said.len() <= LONGEST + 3 && said >= text, "{}", said);
                prop_assert!(text.len() > LONGEST || said == text);
            }
        }
    }
}
