//! Which rows of a large table are looked at, where not all can be.

/// Whether a row is among those that are looked at: all up to `first`, and of those after one in 2
/// to the power of `bits`, scattered, so that nothing that comes back every that many rows is
/// missed. Which ones they are does not depend on how the rows are divided.
pub(super) fn is_looked_at(row: u64, first: u64, bits: u32) -> bool {
    // 2^64 divided by the golden ratio: its multiples are spread evenly (Knuth, The Art of Computer
    // Programming, vol. 3, section 6.4).
    row <= first || row.wrapping_mul(0x9E37_79B9_7F4A_7C15) >> (u64::BITS - bits) == 0
}

/// Of that many rows, and no fewer than half of them, what costs much is asked.
const SAMPLED_ROWS: u64 = 32_768;

/// The rows of a table of which is asked what costs much: all of a small one, some of a large one,
/// each part of it as likely as any other.
#[derive(Debug, Clone, Copy, Default)]
pub struct RowSample {
    /// One row in 2 to the power of these.
    bits: u32,
}

impl RowSample {
    /// Those of a table of that many rows.
    pub fn of(rows: u64) -> Self {
        Self { bits: rows.div_ceil(SAMPLED_ROWS).next_power_of_two().trailing_zeros() }
    }

    /// The largest number of rows of a table of which these are the sample.
    fn most_rows(self) -> u64 {
        SAMPLED_ROWS << self.bits
    }

    /// Whether a row is among them.
    pub fn has(self, row: u64) -> bool {
        self.bits == 0 || is_looked_at(row, 0, self.bits)
    }
}

/// More bytes of texts are not kept.
const MOST_BYTES: usize = 4 << 20;

/// The texts of the rows of a [`RowSample`], kept before it is known how many rows there are.
#[derive(Default)]
pub(super) struct RowTexts {
    /// One after the other.
    text: String,
    /// The number of the row of each, and the byte it ends before.
    ends: Vec<(u64, u32)>,
    /// The sample of the rows so far, of which that of all rows is a part.
    sample: RowSample,
    /// The texts are too long to be kept: there are none.
    are_too_long: bool,
}

impl RowTexts {
    /// Takes the text of the row that comes next, if it may be one of the sample.
    #[inline]
    pub(super) fn add(&mut self, text: &str, row: u64) {
        if row > self.sample.most_rows() {
            self.keep(RowSample::of(row));
        }
        if self.sample.has(row) {
            self.push(text, row);
        }
    }

    fn push(&mut self, text: &str, row: u64) {
        self.are_too_long |= self.text.len() + text.len() > MOST_BYTES;
        if !self.are_too_long {
            self.text.push_str(text);
            self.ends.push((row, self.text.len() as u32));
        }
    }

    /// Adds those of the part that comes next, and empties it.
    pub(super) fn merge(&mut self, part: &mut RowTexts) {
        self.are_too_long |= part.are_too_long;
        self.keep(part.sample);
        part.each().for_each(|(text, row)| self.push(text, row));
        part.text.clear();
        part.ends.clear();
    }

    /// Forgets the texts of rows that are not in the sample of more rows.
    fn keep(&mut self, sample: RowSample) {
        if sample.bits <= self.sample.bits {
            return;
        }
        let mut kept = Self { sample, are_too_long: self.are_too_long, ..Self::default() };
        let in_sample = self.each().filter(|(_, row)| sample.has(*row));
        in_sample.for_each(|(text, row)| kept.push(text, row));
        *self = kept;
    }

    /// The texts of the rows in a sample, in their order; `None` where they are too long.
    pub(super) fn texts(&self, sample: RowSample) -> Option<impl Iterator<Item = (&str, u64)>> {
        (!self.are_too_long).then(|| self.each().filter(move |(_, row)| sample.has(*row)))
    }

    fn each(&self) -> impl Iterator<Item = (&str, u64)> {
        let mut from = 0;
        self.ends.iter().map(move |(row, end)| {
            let end = *end as usize;
            (&self.text[std::mem::replace(&mut from, end)..end], *row)
        })
    }
}
