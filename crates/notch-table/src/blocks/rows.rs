//! The rows of a block: the one place that says which records are rows, and which of them can be
//! read.
//!
//! A line with nothing in it is no row where the table has several columns. A row can be read when
//! it is UTF-8, closed, of as many fields as the header, and its format has found nothing wrong
//! with it.

use std::borrow::Cow;
use std::ops::Range;

use super::reader::{Block, Blocks};
use crate::error::TableError;
use crate::formats::csv::{Index, Record, cell_text};
use crate::unreadable::Unreadable;
use crate::utf8;

/// The bytes of a block.
pub(crate) struct Contents {
    /// All of it where it is UTF-8, as nearly every block is; else nothing.
    pub text: String,
    /// Its bytes where they are not: then each row is looked at by itself.
    pub invalid: Option<Vec<u8>>,
}

impl Contents {
    /// Takes the bytes out of a block; [`Contents::give_back`] puts them back, so that their memory
    /// is used again.
    pub(crate) fn of(block: &mut Block) -> Self {
        match utf8::text_of(block.take()) {
            Ok(text) => Self { text, invalid: None },
            Err(bytes) => Self { text: String::new(), invalid: Some(bytes) },
        }
    }

    pub(crate) fn give_back(self, block: &mut Block) {
        block.give_back(self.invalid.unwrap_or(self.text.into_bytes()));
    }
}

/// Where a row stands.
#[derive(Debug, Clone, Copy)]
pub(crate) struct RowAt {
    /// Its place among the records of the block, from 0.
    pub place: usize,
    /// Its number in the table, from 1, the header not counted.
    pub number: u64,
    /// The line it begins in, from 1.
    pub line: u64,
}

/// The rows of a block, one after the other.
pub(crate) struct RowCursor<'b> {
    pub index: &'b Index,
    invalid: Option<&'b [u8]>,
    /// The line that the block begins in.
    line: u64,
    /// How many columns the table has.
    width: usize,
    place: usize,
    number: u64,
}

impl<'b> RowCursor<'b> {
    /// At the first row of a block whose contents were taken.
    pub(crate) fn new(block: &'b Block, contents: Option<&'b [u8]>, width: usize) -> Self {
        Self {
            index: &block.index,
            invalid: contents,
            line: block.line,
            width,
            place: 0,
            number: block.row,
        }
    }

    /// The next rows, at most that many, one record after the other, up to one that cannot be read
    /// for certain or may be no row: that is for [`RowCursor::next`] to tell. Returns their places
    /// among the records, the number of the first one and the line that the block begins in.
    #[inline]
    pub(crate) fn next_run(&mut self, most: usize) -> (Range<usize>, u64, u64) {
        let run = match self.invalid {
            Some(_) => 0,
            None => self.index.run_of_rows(self.place, most, self.width),
        };
        let (place, number) = (self.place, self.number);
        (self.place, self.number) = (place + run, number + run as u64);
        (place..place + run, number, self.line)
    }

    /// The next row, and why it cannot be read where it cannot; `None` after the last one. `text`
    /// is that of the block; it may have grown at its end.
    #[inline]
    pub(crate) fn next(&mut self, text: &str) -> Option<(RowAt, Result<(), Unreadable>)> {
        while self.place < self.index.len() {
            let place = self.place;
            self.place += 1;
            if self.index.is_blank(place) && self.width > 1 {
                continue;
            }
            let row =
                RowAt { place, number: self.number, line: self.line + self.index.line(place) };
            self.number += 1;
            let is_plain = self.invalid.is_none() && self.index.is_row_of(place, self.width);
            let readable = if is_plain {
                Ok(())
            } else {
                self.record(place, text).readable(self.width).map(|_| ())
            };
            return Some((row, readable));
        }
        None
    }

    /// Whether there is no record left.
    pub(crate) fn is_at_end(&self) -> bool {
        self.place >= self.index.len()
    }

    /// How many columns the table has.
    #[inline]
    pub(crate) fn width(&self) -> usize {
        self.width
    }

    /// The bytes of the block where they are no UTF-8 as a whole.
    #[inline]
    pub(crate) fn invalid(&self) -> Option<&'b [u8]> {
        self.invalid
    }

    /// The record at a place.
    #[inline]
    pub(crate) fn record<'t>(&'t self, place: usize, text: &'t str) -> Record<'t> {
        self.index.record(place, self.invalid.unwrap_or(text.as_bytes()), self.line)
    }

    /// Whether the cells stand in the text of the block, each where the index has its field.
    pub(crate) fn are_in(&self, text: &str) -> bool {
        self.index.cells.rows() == 0 && self.invalid.is_none() && !text.is_empty()
    }

    /// The text of a cell of a row that can be read.
    pub(crate) fn cell<'t>(&'t self, place: usize, column: usize, text: &'t str) -> Cow<'t, str> {
        if self.index.cells.rows() > 0 {
            return text[self.index.cells.cell(place, column)].into();
        }
        let (from, to) = self.index.field(place, column);
        let (from, to) = (from as usize, to as usize);
        match self.invalid {
            None => cell_text(&text[from..to]),
            // The row is UTF-8, though the block as a whole is not.
            Some(bytes) => cell_text(std::str::from_utf8(&bytes[from..to]).unwrap_or_default()),
        }
    }
}

/// Calls `work` with every row of a table, in order: where it stands, the cursor with its cells,
/// the text of its block, and why it cannot be read where it cannot.
///
/// # Errors
/// The table, called `name`, cannot be read, or what `work` returns.
pub(crate) fn each_row(
    mut blocks: Blocks,
    name: &str,
    width: usize,
    mut work: impl FnMut(RowAt, &RowCursor<'_>, &str, Result<(), Unreadable>) -> Result<(), TableError>,
) -> Result<(), TableError> {
    let mut block = Block::default();
    while blocks.next(&mut block).map_err(|cause| TableError::io(name, "cannot be read", cause))? {
        let contents = Contents::of(&mut block);
        let mut cursor = RowCursor::new(&block, contents.invalid.as_deref(), width);
        while let Some((row, readable)) = cursor.next(&contents.text) {
            work(row, &cursor, &contents.text, readable)?;
        }
        contents.give_back(&mut block);
    }
    Ok(())
}
