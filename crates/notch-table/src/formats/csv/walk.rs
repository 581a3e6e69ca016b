//! The slow pass over a block: byte by byte from mark to mark, whatever its quotes are like.

use super::index::{Index, Place, is_open_end};
use super::marks::Marks;
use crate::formats::chunk_marks::{CHUNK, Take};

impl Index {
    /// Finds the records byte by byte, whatever the quotes are like.
    #[cold]
    pub(super) fn build_slowly(&mut self, block: &[u8], separator: u8, at_end: bool) {
        self.ends.clear();
        let finder = self.finder;
        let mut walk = Walk::new(self, block, separator);
        finder.each_chunk(block, separator, &mut walk);
        if at_end && walk.start < block.len() {
            let unclosed = walk.quoted;
            walk.end_record(block.len(), block.len(), unclosed);
        }
        // After the last record lies nothing, or one that is not over yet.
        self.lines = u64::from(walk.record_line);
        if !at_end && let Some(last) = self.records.pop_if(|last| is_open_end(block, last.to)) {
            self.lines = u64::from(last.line);
        }
    }
}

/// A pass byte by byte: how far it has come.
struct Walk<'i> {
    index: &'i mut Index,
    block: &'i [u8],
    separator: u8,
    /// Where the record begins.
    start: usize,
    /// Where the field begins.
    field: usize,
    /// The first field of the record.
    first_field: usize,
    quoted: bool,
    /// The first quote in the record.
    quote: Option<usize>,
    /// Lines so far.
    line: u32,
    /// The line the record begins in.
    record_line: u32,
    /// Bytes before this place belong to something that was seen already.
    passed: usize,
}

impl Take for Walk<'_> {
    type Marks = Marks;

    fn take(&mut self, base: usize, marks: &[Marks]) {
        for (base, marks) in (base..).step_by(CHUNK).zip(marks) {
            self.take_chunk(base, marks);
        }
    }
}

impl<'i> Walk<'i> {
    /// At the beginning of a block.
    fn new(index: &'i mut Index, block: &'i [u8], separator: u8) -> Self {
        Self {
            index,
            block,
            separator,
            start: 0,
            field: 0,
            first_field: 0,
            quoted: false,
            quote: None,
            line: 0,
            record_line: 0,
            passed: 0,
        }
    }

    /// Follows the marks of a chunk.
    fn take_chunk(&mut self, base: usize, marks: &Marks) {
        let mut found = marks.separators | marks.quotes | marks.line_ends();
        while found != 0 {
            let at = base + found.trailing_zeros() as usize;
            found &= found - 1;
            if at < self.passed {
                continue;
            }
            let byte = self.block[at];
            if self.quoted {
                match byte {
                    b'"' if self.block.get(at + 1) == Some(&b'"') => self.passed = at + 2,
                    b'"' => self.quoted = false,
                    b'\n' => self.line += 1,
                    _ => {}
                }
                continue;
            }
            if byte == self.separator {
                self.index.ends.push(at as u32);
                self.field = at + 1;
                continue;
            }
            match byte {
                // A quote opens a field only at its beginning.
                b'"' => {
                    self.quoted = at == self.field;
                    self.quote.get_or_insert(at);
                }
                b'\r' if self.block.get(at + 1) == Some(&b'\n') => {
                    self.end_record(at, at + 2, false);
                    self.passed = at + 2;
                }
                _ => self.end_record(at, at + 1, false),
            }
        }
    }

    fn end_record(&mut self, at: usize, end: usize, unclosed: bool) {
        self.index.ends.push(at as u32);
        let behind = self.index.ends.len();
        self.index.records.push(Place {
            from: self.start as u32,
            to: at as u32,
            end: end as u32,
            fields: (self.first_field as u32, behind as u32),
            line: self.record_line,
            bare_to: self.quote.take().unwrap_or(at) as u32,
            unclosed,
            has_problem: false,
        });
        self.line += u32::from(end > at);
        (self.start, self.field, self.first_field, self.record_line) =
            (end, end, behind, self.line);
    }
}
