//! Bytes → records, in memory that does not grow with their number.

use std::fmt::Display;
use std::io::{self, Read};

use memchr::{memchr, memchr_iter, memchr3};

use super::Fields;
use crate::charset::kept_byte;
use crate::unreadable::Unreadable;

/// What is read at a time, in bytes.
const CHUNK: usize = 256 * 1024;

/// One record verbatim.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Record<'b> {
    /// Its bytes, without the line end.
    pub raw: &'b [u8],
    /// Its line end; empty at the end of a file without one.
    pub line_end: &'b [u8],
    /// Where its fields are in `raw`, their quotes included.
    pub fields: Fields<'b>,
    /// The line it begins in, from 1.
    pub line: u64,
    /// A quote is open at its end, which is the end of the file.
    pub unclosed: bool,
    /// Why it cannot be read, when that was known before.
    pub problem: Option<&'b str>,
    /// The cells that hold something else than text: column from 0, and what.
    pub typed: &'b [(u32, Typed)],
}

/// What a cell holds beside its text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Typed {
    /// A number, which its text gives exactly.
    Number,
    /// A truth value.
    Bool,
    /// A date, a time, or both, in ISO 8601.
    Date,
}

/// Reads records one after the other.
pub(crate) struct Records<R> {
    source: R,
    separator: u8,
    buffer: Vec<u8>,
    /// What has been read and not returned: `buffer[start..end]`.
    start: usize,
    end: usize,
    at_end: bool,
    /// How many bytes were returned or passed over.
    passed: u64,
    line: u64,
    /// Each record is one line, whatever line ends are in it.
    rows_are_lines: bool,
    /// Where the fields of the current record end.
    ends: Vec<u32>,
    peeked: Option<Scanned>,
}

/// How a record lies in the buffer, from `start` on.
#[derive(Debug, Clone, Copy)]
struct Scanned {
    length: usize,
    line_end: usize,
    unclosed: bool,
}

impl<R: Read> Records<R> {
    pub(crate) fn new(source: R) -> Self {
        Self {
            source,
            separator: b',',
            buffer: vec![0; CHUNK],
            start: 0,
            end: 0,
            at_end: false,
            passed: 0,
            line: 1,
            rows_are_lines: false,
            ends: Vec::new(),
            peeked: None,
        }
    }

    /// What has not been returned yet, byte for byte.
    pub(crate) fn into_rest(self) -> impl Read + use<R> {
        io::Cursor::new(self.buffer[self.start..self.end].to_vec()).chain(self.source)
    }

    /// The byte of the source that the next record begins at, from 0.
    pub(crate) fn passed(&self) -> u64 {
        self.passed
    }

    /// The line the next record begins in, from 1.
    pub(crate) fn line(&self) -> u64 {
        self.line
    }

    /// Divides fields at this byte from now on.
    pub(crate) fn separate_by(&mut self, separator: u8) {
        self.separator = separator;
        self.peeked = None;
    }

    /// The first bytes that are left, as many as one read gives.
    ///
    /// # Errors
    /// The source cannot be read.
    pub(crate) fn beginning(&mut self) -> io::Result<&[u8]> {
        while self.end - self.start < CHUNK / 4 && !self.at_end {
            self.fill()?;
        }
        Ok(&self.buffer[self.start..self.end])
    }

    /// Passes over bytes that belong to no record.
    pub(crate) fn skip(&mut self, bytes: usize) {
        self.passed += bytes.min(self.end - self.start) as u64;
        self.start = (self.start + bytes).min(self.end);
        self.peeked = None;
    }

    /// From now on each record is one line, whatever line ends are in it.
    pub(crate) fn count_rows_as_lines(&mut self) {
        self.rows_are_lines = true;
    }

    /// The next record, which is not taken.
    ///
    /// # Errors
    /// The source cannot be read, or a record is longer than any should be.
    pub(crate) fn peek(&mut self) -> io::Result<Option<Record<'_>>> {
        if self.peeked.is_none() {
            self.peeked = self.scan_next()?;
        }
        Ok(self.peeked.map(|scanned| self.record(scanned, self.start, self.line)))
    }

    /// Takes the next record.
    ///
    /// # Errors
    /// As [`Records::peek`].
    pub(crate) fn next(&mut self) -> io::Result<Option<Record<'_>>> {
        let scanned = match self.peeked.take() {
            Some(scanned) => scanned,
            None => match self.scan_next()? {
                Some(scanned) => scanned,
                None => return Ok(None),
            },
        };
        let (start, line) = (self.start, self.line);
        let raw = &self.buffer[start..start + scanned.length];
        let inner = if self.rows_are_lines { 0 } else { memchr_iter(b'\n', raw).count() as u64 };
        self.line += inner + u64::from(scanned.line_end > 0);
        self.start += scanned.length + scanned.line_end;
        self.passed += (scanned.length + scanned.line_end) as u64;
        Ok(Some(self.record(scanned, start, line)))
    }

    fn record(&self, scanned: Scanned, start: usize, line: u64) -> Record<'_> {
        let end = start + scanned.length;
        Record {
            raw: &self.buffer[start..end],
            line_end: &self.buffer[end..end + scanned.line_end],
            fields: Fields::new(&self.ends, 0),
            line,
            unclosed: scanned.unclosed,
            problem: None,
            typed: &[],
        }
    }

    fn scan_next(&mut self) -> io::Result<Option<Scanned>> {
        loop {
            let bytes = &self.buffer[self.start..self.end];
            if bytes.is_empty() && self.at_end {
                return Ok(None);
            }
            if let Some(scanned) = scan(bytes, self.separator, self.at_end, &mut self.ends) {
                return Ok(Some(scanned));
            }
            if bytes.len() > LONGEST_RECORD {
                return Err(too_long(
                    format_args!("the row that begins in line {}", self.line),
                    UNCLOSED,
                ));
            }
            self.fill()?;
        }
    }

    /// Reads more, after what is there.
    fn fill(&mut self) -> io::Result<()> {
        if self.start > 0 {
            self.buffer.copy_within(self.start..self.end, 0);
            self.end -= self.start;
            self.start = 0;
        }
        if self.end == self.buffer.len() {
            let more = (self.buffer.len() * 2).min(LONGEST_RECORD + 1).max(self.buffer.len() + 1);
            self.buffer.resize(more, 0);
        }
        loop {
            match self.source.read(&mut self.buffer[self.end..]) {
                Ok(0) => self.at_end = true,
                Ok(n) => self.end += n,
                Err(error) if error.kind() == io::ErrorKind::Interrupted => continue,
                Err(error) => return Err(error),
            }
            return Ok(());
        }
    }
}

/// Finds the end of the record at the head of `bytes` and its fields; `None` when more bytes are
/// needed to tell.
fn scan(bytes: &[u8], separator: u8, at_end: bool, ends: &mut Vec<u32>) -> Option<Scanned> {
    ends.clear();
    let mut start = 0;
    loop {
        let mut at = start;
        if bytes.get(at) == Some(&b'"') {
            match closing_quote(bytes, at + 1, at_end)? {
                Some(behind) => at = behind,
                None => {
                    ends.push(bytes.len() as u32);
                    return Some(Scanned { length: bytes.len(), line_end: 0, unclosed: true });
                }
            }
        }
        let Some(found) = memchr3(separator, b'\n', b'\r', &bytes[at..]) else {
            if !at_end {
                return None;
            }
            ends.push(bytes.len() as u32);
            return Some(Scanned { length: bytes.len(), line_end: 0, unclosed: false });
        };
        let end = at + found;
        ends.push(end as u32);
        let line_end = match bytes[end] {
            byte if byte == separator => {
                start = end + 1;
                continue;
            }
            b'\r' if bytes.get(end + 1) == Some(&b'\n') => 2,
            // Whether a line feed follows is not known yet.
            b'\r' if end + 1 == bytes.len() && !at_end => return None,
            _ => 1,
        };
        return Some(Scanned { length: end, line_end, unclosed: false });
    }
}

/// The place after the quote that closes a field; `Some(None)` when there is none, `None` when
/// more bytes are needed to tell.
fn closing_quote(bytes: &[u8], from: usize, at_end: bool) -> Option<Option<usize>> {
    let mut at = from;
    loop {
        let Some(found) = memchr(b'"', &bytes[at..]) else {
            return at_end.then_some(None);
        };
        at += found + 1;
        match bytes.get(at) {
            Some(b'"') => at += 1,
            None if !at_end => return None,
            _ => return Some(Some(at)),
        }
    }
}

/// A record longer than this is taken for an unclosed quote, in bytes.
pub(crate) const LONGEST_RECORD: usize = 128 * 1024 * 1024;

/// What the length of a row most often comes of.
pub(crate) const UNCLOSED: &str = "; a quote in it is probably not closed";

/// The error of a row that is longer than any should be.
pub(crate) fn too_long(row: impl Display, cause: &str) -> io::Error {
    io::Error::new(
        io::ErrorKind::InvalidData,
        format!("{row} is longer than {} MiB{cause}", LONGEST_RECORD >> 20),
    )
}

/// The last few characters of what is text.
fn last_of(text: &[u8]) -> String {
    let text = String::from_utf8_lossy(text);
    text.chars().rev().take(12).collect::<Vec<_>>().into_iter().rev().collect()
}

impl<'b> Record<'b> {
    /// The record as text.
    ///
    /// # Errors
    /// The first byte that is none.
    pub(crate) fn text(&self) -> Result<&'b str, Unreadable> {
        std::str::from_utf8(self.raw).map_err(|error| {
            let at = error.valid_up_to();
            match kept_byte(&self.raw[at..]) {
                Some(byte) => Unreadable::OtherEncoding { before: last_of(&self.raw[..at]), byte },
                None => Unreadable::NotUtf8 {
                    at: at + 1,
                    byte: self.raw.get(at).copied().unwrap_or_default(),
                },
            }
        })
    }

    /// The record as text with as many fields as the table has columns.
    ///
    /// # Errors
    /// Why it cannot be read.
    pub(crate) fn readable(&self, columns: usize) -> Result<&'b str, Unreadable> {
        self.well_formed(columns)?;
        self.text()
    }

    /// Whether the record is closed and has as many fields as the table has columns.
    ///
    /// # Errors
    /// Why not.
    pub(crate) fn well_formed(&self, columns: usize) -> Result<(), Unreadable> {
        if self.unclosed {
            return Err(Unreadable::Unclosed);
        }
        if let Some(problem) = self.problem {
            return Err(Unreadable::Sheet(problem.into()));
        }
        let fields = self.fields.len();
        if fields != columns {
            return Err(Unreadable::Fields { fields, columns });
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::cell_text;
    use super::*;

    /// Reads a few bytes at a time, so that records span reads.
    struct Dribble<'b>(&'b [u8], usize);

    impl Read for Dribble<'_> {
        fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
            let n = self.1.min(self.0.len()).min(into.len());
            into[..n].copy_from_slice(&self.0[..n]);
            self.0 = &self.0[n..];
            Ok(n)
        }
    }

    fn ours(text: &str, step: usize) -> (Vec<Vec<String>>, String) {
        let mut records = Records::new(Dribble(text.as_bytes(), step));
        records.buffer = vec![0; 4];
        let (mut rows, mut again) = (Vec::new(), String::new());
        while let Some(record) = records.next().unwrap() {
            let raw = std::str::from_utf8(record.raw).unwrap();
            again.push_str(raw);
            again.push_str(std::str::from_utf8(record.line_end).unwrap());
            if !record.raw.is_empty() {
                rows.push(
                    record.fields.iter().map(|field| cell_text(&raw[field]).into_owned()).collect(),
                );
            }
        }
        (rows, again)
    }

    /// The slow, obvious twin: a well-known library.
    fn twin(text: &str) -> Vec<Vec<String>> {
        let mut reader = csv::ReaderBuilder::new()
            .has_headers(false)
            .flexible(true)
            .from_reader(text.as_bytes());
        reader.records().map(|record| record.unwrap().iter().map(str::to_owned).collect()).collect()
    }

    proptest! {
        #[test]
        fn records_are_those_of_the_twin_and_every_byte_comes_back(text in "([ab,\"\n\r]|é){0,40}", step in 1usize..5) {
            let (rows, again) = ours(&text, step);
            prop_assert_eq!(&again, &text);
            prop_assert_eq!(rows, twin(&text));
        }
    }
}
