//! Rows of cells that have been put together column by column.

use std::ops::Range;

use notch_core::BatchResult;

use super::{OutColumn, Row, WhichCells};

/// The texts of a column, one behind the other: first bytes, then, when all are there, text.
#[derive(Debug, Default)]
pub(crate) struct TextColumn {
    bytes: Vec<u8>,
    text: String,
    /// Where each ends, in bytes.
    ends: Vec<usize>,
}

impl TextColumn {
    /// Adds a text: so many of the bytes, others may follow.
    #[inline(always)]
    fn push(&mut self, open: &[u8], length: usize) {
        // A copy of fixed length is quicker than one of any.
        match open.first_chunk::<32>() {
            Some(wide) if length <= wide.len() => {
                let from = self.bytes.len();
                self.bytes.extend_from_slice(wide);
                self.bytes.truncate(from + length);
            }
            _ => self.bytes.extend_from_slice(&open[..length]),
        }
        self.ends.push(self.bytes.len());
    }

    /// Takes notice that all are there. That they are text is looked at once for all of them.
    fn close(&mut self) {
        self.text = String::from_utf8(std::mem::take(&mut self.bytes)).unwrap_or_default();
    }

    /// Where the texts of some rows lie.
    pub(crate) fn span(&self, rows: &Range<usize>) -> Range<usize> {
        let end = |rows: usize| rows.checked_sub(1).map_or(0, |last| self.ends[last]);
        end(rows.start)..end(rows.end)
    }

    /// The texts of some rows, one behind the other, and where each ends, counted from the beginning of the column.
    pub(crate) fn texts(&self, rows: &Range<usize>) -> (&str, &[usize]) {
        (self.text.get(self.span(rows)).unwrap_or_default(), &self.ends[rows.clone()])
    }

    fn clear(&mut self) {
        self.bytes = std::mem::take(&mut self.text).into_bytes();
        self.bytes.clear();
        self.ends.clear();
    }
}

/// Rows of cells, column by column.
#[derive(Debug, Default)]
pub struct CellBlock {
    numbers: Vec<u64>,
    lines: Vec<u64>,
    columns: Vec<TextColumn>,
}

impl CellBlock {
    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.numbers.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.numbers.is_empty()
    }

    /// The number of a row in the table, from 1, and the line it begins in, from 1.
    pub fn place(&self, row: usize) -> (u64, u64) {
        (self.numbers[row], self.lines[row])
    }

    /// The numbers of all rows.
    pub(crate) fn numbers(&self) -> &[u64] {
        &self.numbers
    }

    /// Its columns: those that were asked for.
    pub(crate) fn columns(&self) -> &[TextColumn] {
        &self.columns
    }

    /// The cell of a row, by the place of its column among those that were asked for.
    pub fn cell(&self, row: usize, column: usize) -> &str {
        self.columns[column].texts(&(row..row + 1)).0
    }

    /// Adds a row that is like most others of its batch: its new cells.
    #[inline]
    pub(super) fn push_new(&mut self, batch: &BatchResult<'_>, at: usize) {
        let cells = batch.cells(at);
        self.begin_row(batch.number(at), batch.line(at), cells.len());
        cells.zip(&mut self.columns).for_each(|(cell, column)| column.push(cell.open, cell.length));
    }

    /// Adds a row: its cells in these columns, or the new ones of them.
    pub(super) fn push(&mut self, row: &Row<'_>, columns: &[OutColumn], which: WhichCells) {
        self.begin_row(row.number, row.record.line, columns.len());
        let mut into = self.columns.iter_mut();
        for column in columns {
            let cell = match column {
                OutColumn::Source(_) if which == WhichCells::New => continue,
                OutColumn::Source(n) => row.source_cell(*n),
                OutColumn::New(n) => row.new_cell(*n).into(),
            };
            into.by_ref().take(1).for_each(|into| into.push(cell.as_bytes(), cell.len()));
        }
    }

    #[inline(always)]
    fn begin_row(&mut self, number: u64, line: u64, columns: usize) {
        if self.columns.len() < columns {
            self.columns.resize_with(columns, TextColumn::default);
        }
        self.numbers.push(number);
        self.lines.push(line);
    }

    /// Takes notice that all rows are there.
    pub(super) fn close(&mut self) {
        self.columns.iter_mut().for_each(TextColumn::close);
    }

    pub(super) fn clear(&mut self) {
        self.numbers.clear();
        self.lines.clear();
        self.columns.iter_mut().for_each(TextColumn::clear);
    }
}
