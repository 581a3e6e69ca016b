//! The quick pass over a block, which counts its quotes.

use super::marks::Marks;
use super::quotes::Quotes;
use crate::formats::chunk_marks::{CHUNK, Take, make_room, write_places};

/// What a quick pass over a block has found.
#[derive(Default)]
pub(super) struct Found {
    /// How many of the ends count.
    pub(super) fields: usize,
    /// The line ends that end a record, of which that many count.
    pub(super) line_ends: Vec<u32>,
    pub(super) lines: usize,
    /// The line feeds inside quotes.
    pub(super) inner_feeds: Vec<u32>,
    /// The quotes of each chunk.
    pub(super) quotes: Vec<u64>,
}

impl Found {
    pub(super) fn begin(&mut self) {
        (self.fields, self.lines) = (0, 0);
        self.inner_feeds.clear();
        self.quotes.clear();
    }
}

/// A quick pass: it takes the quotes to be regular, and is told when they are not.
pub(super) struct Quick<'i> {
    found: &'i mut Found,
    ends: &'i mut Vec<u32>,
    pub(super) quotes: Quotes,
    /// The lowest bit where a carriage return stands before the chunk.
    returned: u64,
}

impl<'i> Quick<'i> {
    /// At the beginning of a block: where its fields end is added to `ends`.
    pub(super) fn new(found: &'i mut Found, ends: &'i mut Vec<u32>) -> Self {
        Self { found, ends, quotes: Quotes::new(), returned: 0 }
    }
}

impl Take for Quick<'_> {
    type Marks = Marks;

    #[inline(always)]
    fn take(&mut self, base: usize, marks: &[Marks]) {
        let found = &mut *self.found;
        make_room(self.ends, found.fields + marks.len() * CHUNK);
        make_room(&mut found.line_ends, found.lines + marks.len() * CHUNK);
        found.quotes.extend(marks.iter().map(|marks| marks.quotes));
        // Copies of what changes with each chunk stay in registers (30 instructions a row less).
        let (ends, line_ends) = (&mut self.ends[..], &mut found.line_ends[..]);
        let (mut fields, mut lines) = (found.fields, found.lines);
        let (mut quotes, mut returned) = (self.quotes, self.returned);
        for (base, marks) in (base as u32..).step_by(CHUNK).zip(marks) {
            let inside = quotes.inside(marks);
            let mut inner = marks.feeds & inside;
            while inner != 0 {
                found.inner_feeds.push(base + inner.trailing_zeros());
                inner &= inner - 1;
            }
            let mut at_end = marks.line_ends() & !inside;
            if marks.returns | returned != 0 {
                // A line feed after a carriage return belongs to it.
                at_end &= !(marks.feeds & (marks.returns << 1 | returned));
                returned = marks.returns >> 63;
            }
            fields +=
                write_places(&mut ends[fields..], base, marks.separators & !inside | at_end, 4);
            lines += write_places(&mut line_ends[lines..], base, at_end, 1);
        }
        (found.fields, found.lines) = (fields, lines);
        (self.quotes, self.returned) = (quotes, returned);
    }
}
