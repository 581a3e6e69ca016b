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
#[derive(Debug, Clone, Copy)]
pub struct RowSample {
    /// One row in 2 to the power of these.
    bits: u32,
}

impl RowSample {
    /// Those of a table of that many rows.
    pub fn of(rows: u64) -> Self {
        Self { bits: rows.div_ceil(SAMPLED_ROWS).next_power_of_two().trailing_zeros() }
    }

    /// Whether a row is among them.
    pub fn has(self, row: u64) -> bool {
        self.bits == 0 || is_looked_at(row, 0, self.bits)
    }
}
