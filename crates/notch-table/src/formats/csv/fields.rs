//! Where the fields of a record lie.

use std::ops::Range;

/// Where the fields of a record lie in its bytes, their quotes included: each but the last ends
/// where a separator stands.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Fields<'b> {
    ends: &'b [u32],
    /// Where the record begins, counted as the ends are.
    start: u32,
}

impl<'b> Fields<'b> {
    /// Fields that end at these places, in a record that begins at `start`.
    #[inline]
    pub(crate) fn new(ends: &'b [u32], start: u32) -> Self {
        Self { ends, start }
    }

    /// How many there are.
    #[inline]
    pub(crate) fn len(&self) -> usize {
        self.ends.len()
    }

    /// Where a field lies; nowhere at the record's beginning when there is none of that number.
    #[inline]
    pub(crate) fn at(&self, n: usize) -> Range<usize> {
        let Some(end) = self.ends.get(n) else { return 0..0 };
        let from = n.checked_sub(1).map_or(self.start, |before| self.ends[before] + 1);
        (from - self.start) as usize..(end - self.start) as usize
    }

    /// Where each field lies.
    pub(crate) fn iter(self) -> impl Iterator<Item = Range<usize>> {
        (0..self.len()).map(move |n| self.at(n))
    }
}
