//! Rows that were no text and become comma-separated text, with the places of their fields, so that
//! these need not be looked for: finding them took 360 instructions a row.

use std::io;

use crate::chunks::ChunkSource;

/// Rows of comma-separated text, a line each, and where each of their fields ends.
#[derive(Debug, Default, PartialEq)]
pub(crate) struct MadeRows {
    pub bytes: Vec<u8>,
    /// Where the fields of all rows end, in bytes.
    pub(super) ends: Vec<u32>,
    /// How many fields there are up to the end of each row, and where its first quote is, or its
    /// end.
    pub(super) rows: Vec<(u32, u32)>,
    /// The first quote of the row that has not ended.
    quote: Option<u32>,
}

impl MadeRows {
    /// Adds a field to the row; `write` adds its text to the bytes, in quotes where it needs them.
    #[inline(always)]
    pub(crate) fn add_field(&mut self, write: impl FnOnce(&mut Vec<u8>)) {
        if self.ends.len() > self.fields() {
            self.bytes.push(b',');
        }
        let from = self.bytes.len();
        write(&mut self.bytes);
        // A field that has a quote in it begins with one.
        if self.bytes.get(from) == Some(&b'"') {
            self.quote.get_or_insert(from as u32);
        }
        self.ends.push(self.bytes.len() as u32);
    }

    /// Ends the row.
    #[inline]
    pub(crate) fn end_row(&mut self) {
        // A line with nothing in it would be no row.
        if self.bytes.last().is_none_or(|last| *last == b'\n') {
            self.ends.truncate(self.fields());
            self.add_field(|bytes| bytes.extend_from_slice(b"\"\""));
        }
        let bare_to = self.quote.take().unwrap_or(self.bytes.len() as u32);
        self.bytes.push(b'\n');
        self.rows.push((self.ends.len() as u32, bare_to));
    }

    /// Takes back the row that has not ended.
    pub(crate) fn take_back(&mut self) {
        self.ends.truncate(self.fields());
        // A line end stands after the last field of each row.
        let before = self.ends.last().map_or(0, |end| *end as usize + 1);
        self.bytes.truncate(before);
        self.quote = None;
    }

    /// How many rows there are.
    pub(crate) fn len(&self) -> usize {
        self.rows.len()
    }

    /// How many fields the rows have that have ended.
    #[inline(always)]
    fn fields(&self) -> usize {
        self.rows.last().map_or(0, |(fields, _)| *fields as usize)
    }

    /// Forgets all rows; their memory is used again.
    pub(crate) fn clear(&mut self) {
        self.bytes.clear();
        self.ends.clear();
        self.rows.clear();
        self.quote = None;
    }
}

/// What makes rows, some at a time.
pub(crate) trait RowMaker {
    /// Adds rows to `made`, which is empty, of about `size` bytes together, one at least; leaves it
    /// empty at the end.
    ///
    /// # Errors
    /// There is more, and it cannot be made.
    fn next_rows(&mut self, size: usize, made: &mut MadeRows) -> io::Result<()>;
}

/// Made rows as a stream of text, for readers that take records one by one.
pub(crate) struct MadeText(Box<dyn RowMaker + Send>, MadeRows);

impl MadeText {
    pub(crate) fn new(maker: Box<dyn RowMaker + Send>) -> Self {
        Self(maker, MadeRows::default())
    }
}

impl ChunkSource for MadeText {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        const PIECE: usize = 64 * 1024;
        let Self(maker, made) = self;
        made.clear();
        maker.next_rows(PIECE, made)?;
        std::mem::swap(piece, &mut made.bytes);
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::{Index, write_cell};
    use super::*;

    /// What an index knows of its records.
    fn records(index: &Index, block: &[u8]) -> Vec<String> {
        let record = |n| {
            let (record, raw) = (index.record(n, block, 1), index.raw(n, block, true));
            let fields: Vec<_> = record.fields.iter().collect();
            let end = record.line_end.len();
            format!("{:?} {end} {fields:?} {} {}", record.raw, record.line, raw.bare_to)
        };
        (0..index.len()).map(record).collect()
    }

    proptest! {
        /// Rows that were made, in one block and in two, are those that are found in their bytes.
        #[test]
        fn made_rows_are_what_is_found(
            rows in (1..4_usize).prop_flat_map(|width| {
                prop::collection::vec(prop::collection::vec("[ab,\"\n\r]{0,3}|é", width), 0..6)
            }),
            parted in 0..6_usize,
        ) {
            let (first, second) = rows.split_at(parted.min(rows.len()));
            let (mut made, mut bytes) = (Index::default(), Vec::new());
            for part in [first, second] {
                let mut some = MadeRows::default();
                for row in part {
                    // What was begun and taken back leaves no trace.
                    some.add_field(|bytes| bytes.extend_from_slice(b"\"x"));
                    some.take_back();
                    for cell in row {
                        some.add_field(|bytes| write_cell(cell, b',', bytes));
                    }
                    some.end_row();
                }
                made.add_made(&some, bytes.len());
                bytes.extend_from_slice(&some.bytes);
            }
            let mut found = Index::default();
            prop_assert_eq!(found.build(&bytes, b',', true), bytes.len());
            found.count_rows_as_lines();
            prop_assert_eq!(records(&made, &bytes), records(&found, &bytes));
            prop_assert_eq!((made.len(), made.lines), (rows.len(), found.lines));
        }
    }
}
