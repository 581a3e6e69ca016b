//! Bytes → blocks of whole records, cut where a record surely ends.
//!
//! Whether a line end lies inside quotes is known only from what stands before it. Where quotes are regular, counting them is enough;
//! that they are is verified in the same pass ([`Quotes`]). Where they are not they are followed one by one. So every cut is right, and
//! nothing has to be taken back.

use std::io::{self, Read};

use memchr::{memchr, memrchr2, memrchr3};

use super::find::Finder;
use super::quotes::Quotes;

/// A record longer than this is taken for an unclosed quote, in bytes.
pub(super) const LONGEST_RECORD: usize = 256 * 1024 * 1024;

/// Cuts what is read into blocks.
pub(crate) struct Blocks {
    source: Box<dyn Read + Send>,
    separator: u8,
    finder: Finder,
    /// How many bytes a block should have.
    size: usize,
    /// What was read behind the last cut.
    rest: Vec<u8>,
    at_end: bool,
}

impl Blocks {
    pub(crate) fn new(source: Box<dyn Read + Send>, separator: u8, size: usize) -> Self {
        Self { source, separator, finder: Finder::fastest(), size: size.max(1), rest: Vec::new(), at_end: false }
    }

    /// Fills a block; gives how many bytes at its beginning are the block, `None` when nothing was left. What stands behind them is of no
    /// meaning: it is not cleared, to be written over.
    ///
    /// # Errors
    /// The source cannot be read, or a record is longer than any should be.
    pub(crate) fn next(&mut self, block: &mut Vec<u8>) -> io::Result<Option<usize>> {
        let mut length = self.rest.len();
        if block.len() < length {
            block.resize(length, 0);
        }
        block[..length].copy_from_slice(&self.rest);
        self.rest.clear();
        loop {
            self.fill(block, &mut length)?;
            if self.at_end {
                return Ok((length > 0).then_some(length));
            }
            if let Some(end) = self.last_end(&block[..length]) {
                self.rest.extend_from_slice(&block[end..length]);
                return Ok(Some(end));
            }
            if length > LONGEST_RECORD {
                return Err(io::Error::new(
                    io::ErrorKind::InvalidData,
                    "a row is longer than 256 MiB; a quote in it is probably not closed",
                ));
            }
        }
    }

    /// The end of the last record that surely ends in the block.
    fn last_end(&self, block: &[u8]) -> Option<usize> {
        let mut quotes = Quotes::new();
        self.finder.each_chunk(block, self.separator, &mut quotes);
        if !quotes.are_regular() {
            let mut seen = Seen::default();
            seen.go_on(block, self.separator);
            return seen.last_end(block);
        }
        let mut is_inside = quotes.are_open();
        // After a carriage return at the very end a line feed may follow.
        let mut rest = block.strip_suffix(b"\r").unwrap_or(block);
        loop {
            let at = memrchr3(b'\n', b'\r', b'"', rest)?;
            match rest[at] {
                b'"' => is_inside = !is_inside,
                _ if !is_inside => return Some(at + 1),
                _ => {}
            }
            rest = &rest[..at];
        }
    }

    /// Reads a block's worth more, behind what is there, or up to the end.
    fn fill(&mut self, block: &mut Vec<u8>, length: &mut usize) -> io::Result<()> {
        let wanted = if *length < self.size { self.size } else { *length * 2 };
        if block.len() < wanted {
            block.resize(wanted, 0);
        }
        while *length < wanted {
            match self.source.read(&mut block[*length..wanted]) {
                Ok(0) => {
                    self.at_end = true;
                    break;
                }
                Ok(n) => *length += n,
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
        }
        Ok(())
    }
}

/// Which parts of a block lie outside quotes, whatever the quotes are like.
#[derive(Default)]
struct Seen {
    /// How far the block has been looked at.
    to: usize,
    quoted: bool,
    /// Where the part outside quotes begins that is not over yet.
    outside: usize,
    /// The parts outside quotes that are over.
    parts: Vec<(usize, usize)>,
}

impl Seen {
    fn go_on(&mut self, block: &[u8], separator: u8) {
        while let Some(found) = memchr(b'"', &block[self.to..]) {
            let at = self.to + found;
            self.to = at + 1;
            if !self.quoted {
                let before = at.checked_sub(1).map(|before| block[before]);
                let opens = before.is_none_or(|before| before == separator || matches!(before, b'\n' | b'\r'));
                if opens {
                    self.parts.push((self.outside, at));
                    self.quoted = true;
                }
            } else if block.get(at + 1) == Some(&b'"') {
                self.to = at + 2;
            } else if at + 1 < block.len() {
                self.quoted = false;
                self.outside = at + 1;
            } else {
                // Whether it closes is known when the next byte is.
                self.to = at;
                return;
            }
        }
        self.to = block.len();
    }

    /// The end of the last record that surely ends in the block.
    fn last_end(&self, block: &[u8]) -> Option<usize> {
        let open = (!self.quoted).then_some((self.outside, block.len()));
        open.into_iter().chain(self.parts.iter().rev().copied()).find_map(|(from, mut to)| {
            // After a carriage return at the very end a line feed may follow.
            if to == block.len() && block.last() == Some(&b'\r') {
                to -= 1;
            }
            memrchr2(b'\n', b'\r', block.get(from..to)?).map(|at| from + at + 1)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::super::Records;
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Blocks of any size end where records of the slow, obvious twin end, and no byte is lost.
        #[test]
        fn blocks_end_where_records_end(text in "([ab,\"\n\r]|é|\"\"){0,60}", size in 1usize..40) {
            let mut ends = vec![0];
            let mut records = Records::new(text.as_bytes());
            while let Some(record) = records.next().unwrap() {
                ends.push(ends.last().unwrap() + record.raw.len() + record.line_end.len());
            }
            let mut blocks = Blocks::new(Box::new(std::io::Cursor::new(text.clone().into_bytes())), b',', size);
            let (mut block, mut all) = (Vec::new(), Vec::new());
            while let Some(length) = blocks.next(&mut block).unwrap() {
                prop_assert!(length > 0);
                all.extend_from_slice(&block[..length]);
                prop_assert!(ends.contains(&all.len()), "{} is no end of {:?}", all.len(), ends);
            }
            prop_assert_eq!(all, text.into_bytes());
        }
    }
}
