//! Rows of cells that have been put together column by column.

use std::borrow::Cow;
use std::ops::Range;

use keen_notch_core::{BatchResult, NewCell};

use crate::formats::csv::push_short;
use crate::utf8;

/// A text of no more bytes is short.
const SHORT: usize = 32;

/// A cell of the table that is added to a column.
pub(crate) enum OldCell<'b> {
    /// It stands in its block verbatim, from one byte to another.
    Place((u32, u32)),
    /// Its text, which is written otherwise there.
    Text(Cow<'b, str>),
}

/// The texts of a column, one after the other: first bytes, then, when all are there, text.
#[derive(Debug, Default)]
pub(crate) struct TextColumn {
    bytes: Vec<u8>,
    text: String,
    /// Where each ends, in bytes.
    ends: Vec<usize>,
}

impl TextColumn {
    /// Adds a text.
    fn push(&mut self, text: &str) {
        self.bytes.extend_from_slice(text.as_bytes());
        self.ends.push(self.bytes.len());
    }

    /// Adds several texts: that many of the bytes of each, others may follow.
    #[inline(always)]
    fn extend<'c>(&mut self, texts: impl ExactSizeIterator<Item = NewCell<'c>>) {
        let mut at = self.bytes.len();
        // Room for texts that are short.
        let mut room = at + SHORT * texts.len();
        self.bytes.resize(room, 0);
        self.ends.extend(texts.map(|text| {
            let (from, length) = (at, text.length);
            at += length;
            // A copy of fixed length is quicker than one of any.
            match (text.open.first_chunk::<SHORT>(), self.bytes[from..].first_chunk_mut::<SHORT>())
            {
                (Some(wide), Some(into)) if length <= SHORT => *into = *wide,
                _ => {
                    room += length;
                    self.bytes.resize(room, 0);
                    self.bytes[from..at].copy_from_slice(&text.open[..length]);
                }
            }
            at
        }));
        self.bytes.truncate(at);
    }

    /// Adds cells of a block.
    fn extend_from_block<'b>(&mut self, block: &'b str, cells: impl Iterator<Item = OldCell<'b>>) {
        for cell in cells {
            match cell {
                OldCell::Place((from, to)) => {
                    let open = &block.as_bytes()[from as usize..];
                    push_short(open, (to - from) as usize, &mut self.bytes);
                    self.ends.push(self.bytes.len());
                }
                OldCell::Text(text) => self.push(&text),
            }
        }
    }

    /// Ends the column. That its bytes are UTF-8 is checked once for all texts.
    fn close(&mut self) {
        self.text = utf8::text_of(std::mem::take(&mut self.bytes)).unwrap_or_default();
    }

    /// Where the texts of some rows lie.
    pub(crate) fn span(&self, rows: &Range<usize>) -> Range<usize> {
        let end = |rows: usize| rows.checked_sub(1).map_or(0, |last| self.ends[last]);
        end(rows.start)..end(rows.end)
    }

    /// The texts of some rows, one after the other, and where each ends, counted from the
    /// beginning of the column.
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
pub struct OutputColumns {
    numbers: Vec<u64>,
    lines: Vec<u64>,
    columns: Vec<TextColumn>,
}

impl OutputColumns {
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
    #[inline]
    pub fn cell(&self, row: usize, column: usize) -> &str {
        let TextColumn { text, ends, .. } = &self.columns[column];
        let from = if row == 0 { 0 } else { ends[row - 1] };
        text.get(from..ends[row]).unwrap_or_default()
    }

    /// Begins rows of a batch that are like most others, of that many cells each, to be added by
    /// [`OutputColumns::add_new`] and [`OutputColumns::add_old`] column by column.
    pub(crate) fn begin_rows(
        &mut self,
        batch: &BatchResult<'_>,
        rows: Range<usize>,
        columns: usize,
    ) {
        self.make_columns(columns);
        self.numbers.extend(rows.clone().map(|row| batch.number(row)));
        self.lines.extend(rows.map(|row| batch.line(row)));
    }

    /// Adds new cells to a column.
    #[inline]
    pub(crate) fn add_new<'c>(
        &mut self,
        column: usize,
        cells: impl ExactSizeIterator<Item = NewCell<'c>>,
    ) {
        self.columns[column].extend(cells);
    }

    /// Adds cells of the table, which lie in a block, to a column.
    #[inline]
    pub(crate) fn add_old<'b>(
        &mut self,
        column: usize,
        block: &'b str,
        cells: impl Iterator<Item = OldCell<'b>>,
    ) {
        self.columns[column].extend_from_block(block, cells);
    }

    /// Begins a row, by its number and line, of at most that many cells, each to be added by
    /// [`OutputColumns::add`] in the order of the columns.
    pub(crate) fn begin_row(&mut self, number: u64, line: u64, columns: usize) {
        self.make_columns(columns);
        self.numbers.push(number);
        self.lines.push(line);
    }

    /// Adds the cell of the row begun last to a column.
    pub(crate) fn add(&mut self, column: usize, cell: &str) {
        self.columns[column].push(cell);
    }

    /// Sees to it that there are that many columns.
    #[inline(always)]
    fn make_columns(&mut self, columns: usize) {
        if self.columns.len() < columns {
            self.columns.resize_with(columns, TextColumn::default);
        }
    }

    /// Ends all columns.
    pub(crate) fn close(&mut self) {
        self.columns.iter_mut().for_each(TextColumn::close);
    }

    pub(crate) fn clear(&mut self) {
        self.numbers.clear();
        self.lines.clear();
        self.columns.iter_mut().for_each(TextColumn::clear);
    }
}
