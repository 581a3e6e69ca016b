//! Plain lines as rows of one column: nothing divides them, and no quote means anything.

use std::io::{self, Read};

use crate::chunks::ChunkSource;
use crate::formats::csv::{LONGEST_RECORD, too_long, write_cell_bytes};

/// How much is read at a time, in bytes.
const PIECE: usize = 64 * 1024;

/// Lines as comma-separated text of one column.
pub(crate) struct Lines {
    reader: Box<dyn Read + Send>,
    /// What has been read of lines that have not ended.
    raw: Vec<u8>,
    /// How many bytes of it have been searched for a line end.
    looked: usize,
    /// How many lines have ended.
    ended: u64,
    at_end: bool,
}

impl Lines {
    pub(crate) fn new(reader: Box<dyn Read + Send>) -> Self {
        Self { reader, raw: Vec::new(), looked: 0, ended: 0, at_end: false }
    }
}

impl ChunkSource for Lines {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        while piece.is_empty() && !self.at_end {
            self.at_end = self.reader.by_ref().take(PIECE as u64).read_to_end(&mut self.raw)? == 0;
            let mut from = 0;
            for end in memchr::memchr_iter(b'\n', &self.raw[self.looked..]) {
                let end = self.looked + end;
                write_line(&self.raw[from..end], piece);
                from = end + 1;
                self.ended += 1;
            }
            if self.at_end && from < self.raw.len() {
                write_line(&self.raw[from..], piece);
                from = self.raw.len();
            }
            self.raw.drain(..from);
            self.looked = self.raw.len();
            if self.looked > LONGEST_RECORD {
                return Err(too_long(format_args!("line {}", self.ended + 1), ""));
            }
        }
        Ok(())
    }
}

fn write_line(line: &[u8], into: &mut Vec<u8>) {
    write_cell_bytes(line.strip_suffix(b"\r").unwrap_or(line), b',', into);
    into.push(b'\n');
}
