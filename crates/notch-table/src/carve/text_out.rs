//! Text that is put together in memory, to be written in one piece.

/// How many bytes of a short cell are copied at once.
const WIDE: usize = 32;

/// A text that grows. What stands behind it in memory is of no meaning: a copy of fixed length may reach into it, and will be written over.
#[derive(Debug, Default)]
pub(super) struct TextOut {
    bytes: Vec<u8>,
    length: usize,
}

impl TextOut {
    pub(super) fn bytes(&self) -> &[u8] {
        &self.bytes[..self.length]
    }

    pub(super) fn clear(&mut self) {
        self.length = 0;
    }

    /// Makes room for so many bytes more.
    #[inline]
    pub(super) fn reserve(&mut self, bytes: usize) {
        if self.bytes.len() < self.length + bytes {
            self.bytes.resize(2 * self.length + bytes, 0);
        }
    }

    #[inline]
    pub(super) fn push(&mut self, bytes: &[u8]) {
        self.reserve(bytes.len());
        self.bytes[self.length..self.length + bytes.len()].copy_from_slice(bytes);
        self.length += bytes.len();
    }

    /// Adds so many of the bytes; others may follow. There must be room for [`TextOut::RECORD`] bytes more.
    #[inline]
    pub(super) fn push_open(&mut self, open: &[u8], length: usize) {
        let room = self.bytes.get_mut(self.length..).and_then(|rest| rest.first_chunk_mut::<{ Self::RECORD }>());
        match (room, open.first_chunk::<{ Self::RECORD }>()) {
            (Some(room), Some(record)) if length <= Self::RECORD => {
                *room = *record;
                self.length += length;
            }
            _ => self.push(&open[..length]),
        }
    }

    /// Most records are no longer than this, in bytes: a copy of fixed length is quicker than one of any.
    pub(super) const RECORD: usize = 192;

    /// Adds a byte and as many as `length` of the bytes; gives whether that could be done in one copy, else nothing is added. There must be
    /// room for [`TextOut::SHORT`] bytes.
    #[inline(always)]
    pub(super) fn push_short(&mut self, before: u8, open: &[u8], length: usize) -> bool {
        let room = self.bytes.get_mut(self.length..).and_then(|rest| rest.first_chunk_mut::<{ Self::SHORT }>());
        match (room, open.first_chunk::<WIDE>()) {
            (Some(room), Some(wide)) if length <= WIDE => {
                room[0] = before;
                room[1..].copy_from_slice(wide);
                self.length += 1 + length;
                true
            }
            _ => false,
        }
    }

    /// Adds a line end.
    #[inline(always)]
    pub(super) fn push_line_end(&mut self, line_end: &[u8]) {
        match (line_end, self.bytes.get_mut(self.length)) {
            // The commonest by far, without asking how long it is.
            ([one], Some(room)) => {
                *room = *one;
                self.length += 1;
            }
            _ => self.push(line_end),
        }
    }

    /// How much room a short cell asks for, in bytes.
    pub(super) const SHORT: usize = 1 + WIDE;
}
