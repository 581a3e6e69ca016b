//! Text that is put together in memory, to be written in one piece.

use std::io;

/// A text that grows. What stands after it in memory is of no meaning: a copy of fixed length may
/// reach into it, and will be written over.
#[derive(Debug, Default)]
pub(crate) struct TextOut {
    bytes: Vec<u8>,
    length: usize,
}

impl TextOut {
    pub(crate) fn bytes(&self) -> &[u8] {
        &self.bytes[..self.length]
    }

    pub(crate) fn clear(&mut self) {
        self.length = 0;
    }

    /// Makes room for that many bytes more.
    #[inline]
    fn reserve(&mut self, bytes: usize) {
        if self.bytes.len() < self.length + bytes {
            self.grow(bytes);
        }
    }

    #[cold]
    fn grow(&mut self, bytes: usize) {
        self.bytes.resize(2 * self.length + bytes, 0);
    }

    #[inline]
    pub(crate) fn push(&mut self, bytes: &[u8]) {
        self.reserve(bytes.len());
        self.bytes[self.length..self.length + bytes.len()].copy_from_slice(bytes);
        self.length += bytes.len();
    }

    /// Room for that many bytes more, to write into; what was written counts when the room is
    /// closed ([`Room::close`]).
    #[inline(always)]
    pub(crate) fn room(&mut self, bytes: usize) -> Room<'_> {
        self.reserve(bytes);
        let Self { bytes, length } = self;
        Room { bytes: &mut bytes[*length..], at: 0, length }
    }

    /// Most records are no longer than this, in bytes: a copy of fixed length is quicker than one
    /// of any.
    pub(crate) const RECORD: usize = 192;

    /// How many bytes of a short cell are copied at once.
    pub(crate) const WIDE: usize = 32;

    /// How much room a short cell asks for, in bytes.
    pub(crate) const SHORT: usize = 1 + TextOut::WIDE;
}

impl io::Write for TextOut {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.push(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Room at the end of a text.
pub(crate) struct Room<'t> {
    bytes: &'t mut [u8],
    /// How much of it is written.
    at: usize,
    /// How long the text is without it.
    length: &'t mut usize,
}

impl Room<'_> {
    /// Adds what was written to the text.
    #[inline(always)]
    pub(crate) fn close(self) {
        *self.length += self.at;
    }

    /// Adds a record of that many of the bytes; others may follow. There must be room for
    /// [`TextOut::RECORD`] bytes more.
    #[inline(always)]
    pub(crate) fn push_record(&mut self, open: &[u8], length: usize) {
        let room = self
            .bytes
            .get_mut(self.at..)
            .and_then(|rest| rest.first_chunk_mut::<{ TextOut::RECORD }>());
        match (room, open.first_chunk::<{ TextOut::RECORD }>()) {
            (Some(room), Some(record)) if length <= TextOut::RECORD => *room = *record,
            _ => self.bytes[self.at..self.at + length].copy_from_slice(&open[..length]),
        }
        self.at += length;
    }

    /// Adds a byte and as many as `length` of the bytes; returns whether that could be done in one
    /// copy, else nothing is added.
    #[inline(always)]
    pub(crate) fn push_short(&mut self, before: u8, open: &[u8], length: usize) -> bool {
        let room = self
            .bytes
            .get_mut(self.at..)
            .and_then(|rest| rest.first_chunk_mut::<{ TextOut::SHORT }>());
        match (room, open.first_chunk::<{ TextOut::WIDE }>()) {
            (Some(room), Some(wide)) if length <= TextOut::WIDE => {
                room[0] = before;
                room[1..].copy_from_slice(wide);
                self.at += 1 + length;
                true
            }
            _ => false,
        }
    }

    /// How much room [`Room::push_between`] asks for, in bytes.
    pub(crate) const BETWEEN: usize = 2 * TextOut::WIDE + 1;

    /// Adds a text that is that many of the bytes, others may follow, with another text
    /// before it and a byte behind it; returns whether that could be done in two copies, else
    /// nothing is added.
    #[inline(always)]
    pub(crate) fn push_between(
        &mut self,
        (before, before_length): (&[u8; TextOut::WIDE], usize),
        (open, length): (&[u8], usize),
        behind: u8,
    ) -> bool {
        let room = self
            .bytes
            .get_mut(self.at..)
            .and_then(|rest| rest.first_chunk_mut::<{ Room::BETWEEN }>());
        let (Some(room), Some(wide)) = (room, open.first_chunk::<{ TextOut::WIDE }>()) else {
            return false;
        };
        if before_length > TextOut::WIDE || length > TextOut::WIDE {
            return false;
        }
        room[..TextOut::WIDE].copy_from_slice(before);
        room[before_length..before_length + TextOut::WIDE].copy_from_slice(wide);
        room[before_length + length] = behind;
        self.at += before_length + length + 1;
        true
    }

    /// Adds what begins or ends a line.
    #[inline(always)]
    pub(crate) fn push_end(&mut self, line_end: &[u8]) {
        // The commonest by far, without asking how long it is.
        if let [one] = line_end {
            self.bytes[self.at] = *one;
        } else {
            self.bytes[self.at..self.at + line_end.len()].copy_from_slice(line_end);
        }
        self.at += line_end.len();
    }
}
