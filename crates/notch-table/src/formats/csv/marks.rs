//! The bytes that structure separated text.

use crate::formats::chunk_marks::{self, Chunk};

/// A bit for each byte of a chunk that is what its name says, the first byte's the lowest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Marks {
    pub separators: u64,
    pub quotes: u64,
    pub feeds: u64,
    pub returns: u64,
    /// The bytes up to which, themselves included, the number of quotes in the chunk is odd.
    pub after_odd: u64,
}

impl Marks {
    /// The bytes that are a line end.
    #[inline(always)]
    pub(super) fn line_ends(&self) -> u64 {
        self.feeds | self.returns
    }
}

impl chunk_marks::Marks for Marks {
    #[inline(always)]
    fn find<C: Chunk>(chunk: C, separator: u8, within: u64) -> Self {
        let quotes = chunk.equal(b'"') & within;
        Self {
            separators: chunk.equal(separator) & within,
            quotes,
            feeds: chunk.equal(b'\n') & within,
            returns: chunk.equal(b'\r') & within,
            after_odd: C::odd_so_far(quotes),
        }
    }
}
