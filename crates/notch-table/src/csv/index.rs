//! A block of whole records → where each record and each of its fields lies.

use std::ops::Range;

use super::Record;
use super::find::{CHUNK, Finder, finder};

/// Where the records of a block lie; reused from block to block.
pub(crate) struct Index {
    finder: Finder,
    records: Vec<Place>,
    fields: Vec<Range<usize>>,
    /// How many lines the block has.
    pub lines: u64,
}

/// Where a record lies in its block.
struct Place {
    bytes: Range<usize>,
    /// The end of its line end.
    end: usize,
    fields: Range<usize>,
    /// The line it begins in, from 0.
    line: u64,
    unclosed: bool,
    unquoted: bool,
}

impl Index {
    pub(crate) fn new() -> Self {
        Self { finder: finder(), records: Vec::new(), fields: Vec::new(), lines: 0 }
    }

    /// How many records there are.
    pub(crate) fn len(&self) -> usize {
        self.records.len()
    }

    /// How many of them have nothing in them.
    pub(crate) fn empty(&self) -> usize {
        self.records.iter().filter(|place| place.bytes.is_empty()).count()
    }

    /// A record of the block that was indexed; `line` is the line the block begins in.
    pub(crate) fn record<'b>(&'b self, n: usize, block: &'b [u8], line: u64) -> Record<'b> {
        let place = &self.records[n];
        Record {
            raw: &block[place.bytes.clone()],
            line_end: &block[place.bytes.end..place.end],
            fields: &self.fields[place.fields.clone()],
            line: line + place.line,
            unclosed: place.unclosed,
            unquoted: place.unquoted,
            problem: None,
            typed: &[],
        }
    }

    /// Where a record lies in the block, without its line end.
    pub(crate) fn range(&self, n: usize) -> Range<usize> {
        self.records[n].bytes.clone()
    }

    /// Finds the records of a block, which ends where a record ends or where the input does.
    pub(crate) fn build(&mut self, block: &[u8], separator: u8) {
        self.records.clear();
        self.fields.clear();
        let mut walk = Walk { start: 0, field: 0, first_field: 0, quoted: false, has_quotes: false, line: 0, record_line: 0, passed: 0 };
        let (chunks, rest) = block.as_chunks::<CHUNK>();
        for (n, chunk) in chunks.iter().enumerate() {
            let found = (self.finder)(chunk, separator);
            self.walk(&mut walk, block, separator, n * CHUNK, found);
        }
        let mut last = [0; CHUNK];
        last[..rest.len()].copy_from_slice(rest);
        let behind = u64::MAX.checked_shl(rest.len() as u32).unwrap_or(0);
        let found = (self.finder)(&last, separator) & !behind;
        self.walk(&mut walk, block, separator, chunks.len() * CHUNK, found);
        if walk.start < block.len() {
            let unclosed = walk.quoted;
            self.end_record(&mut walk, block.len(), block.len(), unclosed);
        }
        self.lines = walk.line;
    }

    /// Goes through the bytes that were found in a chunk, one bit each, which begins at `base`.
    fn walk(&mut self, walk: &mut Walk, block: &[u8], separator: u8, base: usize, mut found: u64) {
        while found != 0 {
            let at = base + found.trailing_zeros() as usize;
            found &= found - 1;
            if at < walk.passed {
                continue;
            }
            let byte = block[at];
            if walk.quoted {
                match byte {
                    b'"' if block.get(at + 1) == Some(&b'"') => walk.passed = at + 2,
                    b'"' => walk.quoted = false,
                    b'\n' => walk.line += 1,
                    _ => {}
                }
                continue;
            }
            if byte == separator {
                self.fields.push(walk.field - walk.start..at - walk.start);
                walk.field = at + 1;
                continue;
            }
            match byte {
                // A quote opens a field only at its beginning.
                b'"' => (walk.quoted, walk.has_quotes) = (at == walk.field, true),
                b'\r' if block.get(at + 1) == Some(&b'\n') => {
                    self.end_record(walk, at, at + 2, false);
                    walk.passed = at + 2;
                }
                _ => self.end_record(walk, at, at + 1, false),
            }
        }
    }

    fn end_record(&mut self, walk: &mut Walk, at: usize, end: usize, unclosed: bool) {
        self.fields.push(walk.field - walk.start..at - walk.start);
        let fields = walk.first_field..self.fields.len();
        self.records.push(Place { bytes: walk.start..at, end, fields, line: walk.record_line, unclosed, unquoted: !walk.has_quotes });
        walk.has_quotes = false;
        walk.line += u64::from(end > at);
        (walk.start, walk.field, walk.first_field, walk.record_line) = (end, end, self.fields.len(), walk.line);
    }
}

/// How far an index has come.
struct Walk {
    /// Where the record begins.
    start: usize,
    /// Where the field begins.
    field: usize,
    /// The first field of the record.
    first_field: usize,
    quoted: bool,
    /// There is a quote in the record.
    has_quotes: bool,
    /// Lines so far.
    line: u64,
    /// The line the record begins in.
    record_line: u64,
    /// Bytes before this place belong to something that was seen already.
    passed: usize,
}

#[cfg(test)]
mod tests {
    use super::super::Records;
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// The slow, obvious twin: the reader that takes one record after the other.
        #[test]
        fn an_index_has_the_records_of_the_twin(text in "([ab,\"\n\r]|é|\"\"|a{60}){0,90}", separator in prop_oneof![Just(b','), Just(b'a')]) {
            let mut records = Records::new(text.as_bytes());
            records.separate_by(separator);
            let mut index = Index::new();
            index.build(text.as_bytes(), separator);
            let mut n = 0;
            while let Some(twin) = records.next().unwrap() {
                let ours = index.record(n, text.as_bytes(), 1);
                prop_assert_eq!((ours.raw, ours.line_end, ours.fields, ours.line), (twin.raw, twin.line_end, twin.fields, twin.line));
                prop_assert_eq!(ours.unclosed, twin.unclosed);
                n += 1;
            }
            prop_assert_eq!(n, index.len());
        }
    }
}
