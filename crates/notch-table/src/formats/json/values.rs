//! The bytes of one object after the other, from lines or from an array.

use std::io::{self, Read};
use std::ops::Range;

use super::flat::{FlatObject, is_white_space};
use crate::error::other_encoding;
use crate::formats::csv::LONGEST_RECORD;

/// How deep values may stand one in the other, so that no text can exhaust the stack.
const DEEPEST: usize = 128;
/// How much is read at a time, in bytes.
const READ: usize = 256 * 1024;

/// Objects as they are read, one after the other.
pub(super) struct Values {
    reader: Box<dyn Read + Send>,
    bytes: Vec<u8>,
    /// How many of them have been done with.
    at: usize,
    at_end: bool,
    /// Whether all lies in an array; not known before the first byte.
    in_array: Option<bool>,
}

/// An object, by its place.
pub(super) enum Next {
    /// One whose fields are known.
    Flat(Range<usize>),
    /// Any other.
    Other(Range<usize>),
}

impl Values {
    pub(super) fn new(reader: Box<dyn Read + Send>) -> Self {
        Self { reader, bytes: Vec::new(), at: 0, at_end: false, in_array: None }
    }

    /// What has been read; where objects lie is told from its first byte on.
    pub(super) fn bytes(&self) -> &[u8] {
        &self.bytes
    }

    /// Is told that everything before a place has been done with.
    pub(super) fn done_to(&mut self, at: usize) {
        self.at = at;
    }

    /// The byte at a place; `None` at the end.
    #[inline]
    fn byte(&mut self, at: usize) -> io::Result<Option<u8>> {
        while at >= self.bytes.len() && !self.at_end {
            self.at_end = self.reader.by_ref().take(READ as u64).read_to_end(&mut self.bytes)? == 0;
        }
        Ok(self.bytes.get(at).copied())
    }

    /// Where the next object begins in the bytes; `number` is what it is called in messages.
    ///
    /// # Errors
    /// The source cannot be read, or something else stands there.
    pub(super) fn next(&mut self, number: u64) -> io::Result<Option<usize>> {
        let wrong = |what: String| Err(wrong(number, &what));
        if self.at >= READ {
            self.bytes.drain(..self.at);
            self.at = 0;
        }
        // Nearly always it begins the next line.
        if self.in_array == Some(false) && self.bytes[self.at..].starts_with(b"\n{") {
            return Ok(Some(self.at + 1));
        }
        let mut at = self.at;
        loop {
            match (self.byte(at)?, self.in_array) {
                (Some(byte), _) if is_white_space(byte) => at += 1,
                (Some(b','), Some(true)) => at += 1,
                (Some(b'['), None) => (at, self.in_array) = (at + 1, Some(true)),
                (Some(b'{'), _) => break,
                (None, Some(true)) => {
                    return wrong("the file ends before the array is closed".to_owned());
                }
                (Some(b']'), Some(true)) => {
                    return self.end_of_array(at + 1, number).map(|()| None);
                }
                (None, _) => return Ok(None),
                (Some(byte), _) => {
                    return wrong(format!("there is no object, but {:?}", char::from(byte)));
                }
            }
        }
        self.in_array.get_or_insert(false);
        Ok(Some(at))
    }

    /// Reads on from the end of the array.
    ///
    /// # Errors
    /// The source cannot be read, or anything but white space follows.
    fn end_of_array(&mut self, mut at: usize, number: u64) -> io::Result<()> {
        while let Some(byte) = self.byte(at)? {
            if !is_white_space(byte) {
                return Err(wrong(number, "something stands behind the array"));
            }
            at += 1;
        }
        Ok(())
    }

    /// Where the object ends that begins at a place, and where its fields lie when it is a flat
    /// one, with these names perhaps. All of it has been done with then.
    ///
    /// # Errors
    /// It does not end, is nested too deep or too long.
    pub(super) fn object(
        &mut self,
        from: usize,
        number: u64,
        flat: &mut FlatObject,
        names: &[String],
    ) -> io::Result<Next> {
        if let Some(length) = flat.read(&self.bytes[from..], names)
            && length <= LONGEST_RECORD
        {
            self.at = from + length;
            return Ok(Next::Flat(from..self.at));
        }
        self.at = self.end_of_value(from, number)?;
        Ok(Next::Other(from..self.at))
    }

    /// Where the object ends that begins there.
    fn end_of_value(&mut self, from: usize, number: u64) -> io::Result<usize> {
        let wrong = |what: String| Err(wrong(number, &what));
        let (mut at, mut depth, mut in_text) = (from, 0_usize, false);
        loop {
            match self.byte(at)? {
                None => return wrong("the file ends in the middle of it".to_owned()),
                Some(b'\\') if in_text => at += 1,
                Some(b'"') => in_text = !in_text,
                Some(b'{' | b'[') if !in_text && depth == DEEPEST => {
                    return wrong(format!("it is nested more than {DEEPEST} deep"));
                }
                Some(b'{' | b'[') if !in_text => depth += 1,
                Some(b'}' | b']') if !in_text => depth -= 1,
                Some(_) => {}
            }
            at += 1;
            if depth == 0 {
                return Ok(at);
            }
            if at - from > LONGEST_RECORD {
                return wrong(format!("it is longer than {} MiB", LONGEST_RECORD >> 20));
            }
        }
    }
}

/// That an object is no JSON, and where.
pub(super) fn no_json(number: u64, error: &serde_json::Error) -> io::Error {
    let said = error.to_string();
    let what = match said.split(" at line ").next().unwrap_or_default() {
        "expected ident" => "a word that is neither true nor false nor null",
        what => what,
    };
    let line = if error.line() > 1 { format!("line {}, ", error.line()) } else { String::new() };
    wrong(number, &format!("it is no JSON at its {line}byte {}: {what}", error.column()))
}

/// That an object is no UTF-8, and where.
pub(super) fn no_text(number: u64, error: &std::str::Utf8Error) -> io::Error {
    let byte = error.valid_up_to() + 1;
    let remedy = other_encoding!().trim_end_matches('.');
    wrong(number, &format!("it is not UTF-8 text at its byte {byte}. {remedy}"))
}

/// What is wrong with an object.
pub(super) fn wrong(number: u64, what: &str) -> io::Error {
    io::Error::new(io::ErrorKind::InvalidData, format!("object {number}: {what}"))
}
