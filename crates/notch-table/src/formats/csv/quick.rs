//! The quick pass over a block, which counts its quotes.

use super::find::{CHUNK, Marks, Take};
use super::quotes::Quotes;

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
    #[inline(always)]
    fn take(&mut self, base: usize, marks: Marks) {
        let inside = self.quotes.inside(&marks);
        self.found.quotes.push(marks.quotes);
        if marks.feeds & inside != 0 {
            let mut inner = marks.feeds & inside;
            while inner != 0 {
                self.found.inner_feeds.push(base as u32 + inner.trailing_zeros());
                inner &= inner - 1;
            }
        }
        let mut lines = marks.line_ends() & !inside;
        if marks.returns | self.returned != 0 {
            // A line feed after a carriage return belongs to it.
            lines &= !(marks.feeds & (marks.returns << 1 | self.returned));
            self.returned = marks.returns >> 63;
        }
        let fields = marks.separators & !inside | lines;
        write_places(self.ends, &mut self.found.fields, base, fields, 4);
        write_places(&mut self.found.line_ends, &mut self.found.lines, base, lines, 1);
    }
}

/// Writes the places of bits after the first `count` numbers of a list. As many as are `usual` are
/// written without asking whether there are that many; those that are not will be written over.
#[inline(always)]
fn write_places(list: &mut Vec<u32>, count: &mut usize, base: usize, mut bits: u64, usual: usize) {
    if list.len() < *count + CHUNK {
        list.resize(2 * *count + CHUNK, 0);
    }
    let to = &mut list[*count..*count + CHUNK];
    *count += bits.count_ones() as usize;
    let mut next = 0;
    let mut one = |bits: &mut u64| {
        to[next % CHUNK] = base as u32 + bits.trailing_zeros();
        *bits &= bits.wrapping_sub(1);
        next += 1;
    };
    (0..usual).for_each(|_| one(&mut bits));
    while bits != 0 {
        one(&mut bits);
    }
}
