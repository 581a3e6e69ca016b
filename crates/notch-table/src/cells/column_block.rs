//! Blocks of rows that were no text: where the cells of each column lie.

use std::io;
use std::ops::Range;

/// What makes blocks of cells.
pub(crate) trait ColumnBlockSource {
    /// Writes the texts of the next rows into `bytes` and their places into `cells`, both of
    /// which are empty; leaves them so at the end. The texts have some `size` bytes, more where one
    /// row has more.
    ///
    /// # Errors
    /// There are more rows, and they cannot be read.
    fn next_cells(
        &mut self,
        size: usize,
        bytes: &mut Vec<u8>,
        cells: &mut ColumnBlock,
    ) -> io::Result<()>;
}

/// Where the cells of some rows lie in a block: those of a column one after the other.
#[derive(Default)]
pub(crate) struct ColumnBlock {
    rows: usize,
    /// For each column where its cells begin and, after the last, where that ends.
    bounds: Vec<Vec<u32>>,
}

impl ColumnBlock {
    /// How many rows there are.
    #[inline]
    pub(crate) fn rows(&self) -> usize {
        self.rows
    }

    /// Begins anew with that many rows and columns, whose bounds are to be filled.
    pub(crate) fn begin(&mut self, rows: usize, columns: usize) {
        self.rows = rows;
        self.bounds.resize_with(columns, Vec::new);
        self.bounds.iter_mut().for_each(Vec::clear);
    }

    /// The bounds of a column, to be filled: one more than there are rows.
    pub(crate) fn column(&mut self, column: usize) -> &mut Vec<u32> {
        &mut self.bounds[column]
    }

    /// Where the cell of a row lies, by the place of its column.
    pub(crate) fn cell(&self, row: usize, column: usize) -> Range<usize> {
        let bounds = &self.bounds[column];
        bounds[row] as usize..bounds[row + 1] as usize
    }

    /// The bounds of a column; `None` where there are no rows.
    #[inline]
    pub(crate) fn bounds(&self, column: usize) -> Option<&[u32]> {
        self.bounds.get(column).filter(|_| self.rows > 0).map(Vec::as_slice)
    }
}
