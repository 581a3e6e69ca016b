//! Bytes → blocks of whole records.
//!
//! A [`Block`] is some 512 KiB of text that ends with a record, with an index of where its records
//! and fields lie; it knows its number and the row and line it begins with. Blocks are reused: a
//! worker gives its memory back when the block is done, so a run has as many blocks as workers and
//! a few more. A record longer than a block makes that block longer, up to [`LONGEST_RECORD`].

use std::io::{self, Read};

use crate::cells::ColumnBlockSource;
use crate::formats::csv::{Index, LONGEST_RECORD, MadeRows, RowMaker, UNCLOSED, too_long};
use crate::formats::workbook::Sheet;

/// How many bytes are worked on at a time when nothing is said: that many stay in a core's cache.
pub(crate) const BLOCK: usize = 512 * 1024;

/// Whole records, and where each lies; the memory is used again for the next block.
#[derive(Default)]
pub(crate) struct Block {
    /// Its bytes; what stands after them is of no meaning and will be written over.
    bytes: Vec<u8>,
    length: usize,
    pub index: Index,
    /// Its number, from 0.
    pub number: u64,
    /// The number of its first row, from 1.
    pub row: u64,
    /// The line it begins in, from 1.
    pub line: u64,
    /// How many of its lines have nothing in them and are no rows.
    pub empty: u64,
}

impl Block {
    /// How many bytes it has.
    pub(crate) fn len(&self) -> usize {
        self.length
    }

    /// Returns its bytes.
    pub(crate) fn take(&mut self) -> Vec<u8> {
        let mut bytes = std::mem::take(&mut self.bytes);
        bytes.truncate(self.length);
        bytes
    }

    /// Fills it with rows that were no text; returns whether there were any left.
    fn fill_with(&mut self, cells: &mut dyn ColumnBlockSource, size: usize) -> io::Result<bool> {
        self.bytes.clear();
        self.index.cells.begin(0, 0);
        cells.next_cells(size, &mut self.bytes, &mut self.index.cells)?;
        (self.length, self.empty) = (self.bytes.len(), 0);
        self.index.lines = self.index.cells.rows() as u64;
        Ok(self.index.lines > 0)
    }

    /// Fills it with rows of a sheet; returns whether there were any left.
    fn fill_from_sheet(&mut self, sheet: &mut Sheet, options: &BlockOptions) -> bool {
        self.bytes.clear();
        self.index.begin();
        while self.bytes.len() < options.size
            && let Some(record) = sheet.next()
        {
            if self.index.len() == 0 {
                self.line = record.line;
            }
            self.index.push(&record, self.bytes.len(), record.line - self.line);
            self.bytes.extend_from_slice(record.raw);
            self.bytes.extend_from_slice(record.line_end);
        }
        self.length = self.bytes.len();
        self.empty = if options.width > 1 { self.index.empty() as u64 } else { 0 };
        self.index.len() > 0
    }

    /// Fills it with rows that a format makes; returns whether there were any left.
    fn fill_with_made(
        &mut self,
        maker: &mut dyn RowMaker,
        made: &mut MadeRows,
        size: usize,
    ) -> io::Result<bool> {
        self.bytes.clear();
        self.index.begin();
        while self.bytes.len() < size {
            made.clear();
            maker.next_rows(size - self.bytes.len(), made)?;
            if made.bytes.is_empty() {
                break;
            }
            if made.bytes.len() > LONGEST_RECORD + size {
                let row = self.row + (self.index.len() + made.len()) as u64 - 1;
                return Err(too_long(format_args!("row {row}"), ""));
            }
            self.index.add_made(made, self.bytes.len());
            if self.bytes.is_empty() {
                std::mem::swap(&mut self.bytes, &mut made.bytes);
            } else {
                self.bytes.extend_from_slice(&made.bytes);
            }
        }
        (self.length, self.empty) = (self.bytes.len(), 0);
        Ok(self.length > 0)
    }

    /// Takes back memory that it has returned.
    pub(crate) fn give_back(&mut self, bytes: Vec<u8>) {
        self.bytes = bytes;
    }
}

/// How what is read is cut into blocks.
pub(crate) struct BlockOptions {
    pub separator: u8,
    /// How many columns the table has: where there are several, a line with nothing in it is no
    /// row.
    pub width: usize,
    /// The line the first record begins in, from 1.
    pub line: u64,
    /// Each row is one line, whatever line ends are in it.
    pub rows_are_lines: bool,
    /// How many bytes a block should have.
    pub size: usize,
}

/// Where blocks come from.
pub(crate) enum RowSource {
    /// Separated text.
    Text(Box<dyn Read + Send>),
    /// Rows that a format makes, and memory for them.
    Made(Box<dyn RowMaker + Send>, MadeRows),
    /// The rows of a sheet.
    Sheet(Box<Sheet>),
    /// What never was text.
    Cells(Box<dyn ColumnBlockSource + Send>),
}

/// Cuts what is read into blocks.
pub(crate) struct Blocks {
    rows: RowSource,
    options: BlockOptions,
    /// What was read after the last block.
    rest: Vec<u8>,
    at_end: bool,
    /// It could not be read: no caller gets anything more.
    failed: bool,
    /// The number, the first row and the line of the next block.
    next: (u64, u64, u64),
}

impl Blocks {
    pub(crate) fn new(rows: RowSource, options: BlockOptions) -> Self {
        let next = (0, 1, options.line);
        Self { rows, options, rest: Vec::new(), at_end: false, failed: false, next }
    }

    /// Fills a block; returns whether there was anything left.
    ///
    /// # Errors
    /// The source cannot be read, or a record is longer than any should be.
    pub(crate) fn next(&mut self, block: &mut Block) -> io::Result<bool> {
        if self.failed {
            return Ok(false);
        }
        (block.number, block.row, block.line) = self.next;
        let read = self.read(block);
        if let Ok(true) = read {
            let rows = block.index.len() as u64 - block.empty;
            self.next = (block.number + 1, block.row + rows, block.line + block.index.lines);
        }
        self.failed = read.is_err();
        read
    }

    fn read(&mut self, block: &mut Block) -> io::Result<bool> {
        let text = match &mut self.rows {
            RowSource::Text(text) => text,
            RowSource::Made(maker, made) => {
                return block.fill_with_made(&mut **maker, made, self.options.size);
            }
            RowSource::Cells(cells) => return block.fill_with(&mut **cells, self.options.size),
            RowSource::Sheet(sheet) => return Ok(block.fill_from_sheet(sheet, &self.options)),
        };
        let mut length = self.rest.len();
        if block.bytes.len() < length {
            block.bytes.resize(length, 0);
        }
        block.bytes[..length].copy_from_slice(&self.rest);
        self.rest.clear();
        loop {
            // A block's worth more, after what is there, or up to the end.
            let wanted = if length < self.options.size {
                self.options.size
            } else {
                (length * 2).min(LONGEST_RECORD + 1)
            }
            .max(1);
            self.at_end = self.at_end || fill(text, &mut block.bytes, &mut length, wanted)?;
            let read = &block.bytes[..length];
            let end = block.index.build(read, self.options.separator, self.at_end);
            if end > 0 {
                if self.options.rows_are_lines {
                    block.index.count_rows_as_lines();
                }
                self.rest.extend_from_slice(&read[end..]);
                block.length = end;
                block.empty = if self.options.width > 1 { block.index.empty() as u64 } else { 0 };
                return Ok(true);
            }
            if self.at_end {
                return Ok(false);
            }
            if length > LONGEST_RECORD {
                return Err(too_long(
                    format_args!("the row that begins in line {}", self.next.2),
                    UNCLOSED,
                ));
            }
        }
    }
}

/// Reads after the bytes there are, `length` of them, up to as many as are wanted; returns whether
/// that was the end.
fn fill(
    text: &mut dyn Read,
    bytes: &mut Vec<u8>,
    length: &mut usize,
    wanted: usize,
) -> io::Result<bool> {
    if bytes.len() < wanted {
        bytes.resize(wanted, 0);
    }
    while *length < wanted {
        match text.read(&mut bytes[*length..wanted]) {
            Ok(0) => return Ok(true),
            Ok(n) => *length += n,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
    Ok(false)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::formats::csv::Records;
    use proptest::prelude::*;

    /// A source that fails returns nothing afterwards, even if it would go on: another worker
    /// may ask for the next block before the error is known to all.
    #[test]
    fn nothing_comes_behind_an_error() {
        struct Failing(u32);
        impl Read for Failing {
            fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
                self.0 += 1;
                into[..2].copy_from_slice(b"a\n");
                if self.0 == 3 { Err(io::Error::other("gone")) } else { Ok(2) }
            }
        }
        let options =
            BlockOptions { separator: b',', width: 1, line: 1, rows_are_lines: false, size: 2 };
        let (mut blocks, mut block) =
            (Blocks::new(RowSource::Text(Box::new(Failing(0))), options), Block::default());
        let read: Vec<Option<bool>> = (0..5).map(|_| blocks.next(&mut block).ok()).collect();
        assert_eq!(read, [Some(true), Some(true), None, Some(false), Some(false)]);
    }

    proptest! {
        /// Blocks of any size end where records of the slow, obvious twin end, and no byte is lost.
        #[test]
        fn blocks_end_where_records_end(text in "([ab,\"\n\r]|é|\"\"){0,60}", size in 1usize..40) {
            let mut ends = vec![0];
            let mut records = Records::new(text.as_bytes());
            while let Some(record) = records.next().unwrap() {
                ends.push(ends.last().unwrap() + record.raw.len() + record.line_end.len());
            }
            let source = Box::new(std::io::Cursor::new(text.clone().into_bytes()));
            let mut blocks = Blocks::new(RowSource::Text(source), BlockOptions { separator: b',', width: 1, line: 1, rows_are_lines: false, size });
            let (mut block, mut all, mut line) = (Block::default(), Vec::new(), 1);
            while blocks.next(&mut block).unwrap() {
                let bytes = block.take();
                prop_assert!(block.len() > 0 && bytes.len() == block.len());
                prop_assert_eq!((block.row, block.line), (1 + ends.iter().position(|end| *end == all.len()).unwrap() as u64, line));
                line += block.index.lines;
                all.extend_from_slice(&bytes);
                block.give_back(bytes);
                prop_assert!(ends.contains(&all.len()), "{} is no end of {:?}", all.len(), ends);
            }
            prop_assert_eq!(all, text.into_bytes());
        }
    }
}
