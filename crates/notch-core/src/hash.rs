//! Hashes of row numbers: the same for every way in which rows are divided among workers.

/// A hash of the number of a row: the last step of SplitMix64 (Steele, Lea and Flood, 2014).
pub(crate) fn of_row(row: u64) -> u64 {
    let mut hash = (row ^ (row >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    hash = (hash ^ (hash >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    hash ^ (hash >> 31)
}
