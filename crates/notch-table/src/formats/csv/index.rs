//! A block of bytes → where each record and each of its fields lies.
//!
//! Of rows that were no text there are no records: where their cells lie was known when the block
//! was made.
//!
//! Whether a line end lies inside quotes is known only from what stands before it. Where quotes are
//! regular, counting them is enough; that they are is verified as they are counted
//! ([`Quotes`](super::quotes::Quotes)). In a block where they are not they are followed one by one.

use std::ops::Range;

use memchr::memchr;

use super::made::MadeRows;
use super::quick::{Found, Quick};
use super::{Fields, Record, Typed};
use crate::cells::ColumnBlock;
use crate::formats::chunk_marks::{CHUNK, Finder};

/// Where the records of a block lie; reused from block to block.
#[derive(Default)]
pub(crate) struct Index {
    /// The cells of rows that were no text; then there are no records.
    pub cells: ColumnBlock,
    pub(super) finder: Finder,
    pub(super) records: Vec<Place>,
    /// Where the fields of all records end. What stands after those is of no meaning: it is
    /// written over.
    pub(super) ends: Vec<u32>,
    found: Found,
    /// How many lines the block has.
    pub lines: u64,
    /// What a sheet says of some of the records: what is wrong with them, and the cells that are no
    /// text.
    problems: Vec<(u32, Box<str>)>,
    typed: Vec<(u32, Typed)>,
    /// Where the typed cells of each record of a sheet end.
    typed_ends: Vec<u32>,
}

/// A record of a block, verbatim.
#[derive(Debug, Clone, Copy)]
pub(crate) struct RawRecord<'b> {
    /// The block from the record's beginning on, and how many bytes of that are the record without
    /// its line end.
    pub open: &'b [u8],
    pub length: usize,
    pub line_end: &'b [u8],
    /// The byte of the block before which no quote stands in it; 0 where its bytes are not those of
    /// the block's text.
    pub bare_to: usize,
}

/// Where a record lies in its block.
#[derive(Debug, Clone, Copy)]
pub(super) struct Place {
    pub(super) from: u32,
    pub(super) to: u32,
    /// The end of its line end.
    pub(super) end: u32,
    /// Its first field among the ends, and the one after its last.
    pub(super) fields: (u32, u32),
    /// The line it begins in, from 0.
    pub(super) line: u32,
    /// Its first quote, or its end.
    pub(super) bare_to: u32,
    pub(super) unclosed: bool,
    /// Its sheet has found something wrong with it.
    pub(super) has_problem: bool,
}

impl Place {
    /// Whether it is closed and has that many fields.
    #[inline(always)]
    fn is_row_of(&self, width: usize) -> bool {
        (self.fields.1 - self.fields.0) as usize == width && !(self.unclosed | self.has_problem)
    }

    /// That of a row that was no text.
    fn nowhere(line: u32) -> Self {
        Self {
            from: 0,
            to: 0,
            end: 0,
            fields: (0, 0),
            line,
            bare_to: 0,
            unclosed: false,
            has_problem: false,
        }
    }
}

impl Index {
    /// How many records there are, or rows that were no text.
    pub(crate) fn len(&self) -> usize {
        self.records.len() + self.cells.rows()
    }

    /// The lines that some records begin in, from 0 for the first of the block.
    #[inline]
    pub(crate) fn lines_of(&self, records: Range<usize>) -> impl ExactSizeIterator<Item = u64> {
        records.map(|n| self.line(n))
    }

    /// Whether a record has nothing in it.
    #[inline]
    pub(crate) fn is_blank(&self, n: usize) -> bool {
        self.records.get(n).is_some_and(|place| place.from == place.to)
    }

    /// How many of them have nothing in them.
    pub(crate) fn empty(&self) -> usize {
        self.records.iter().filter(|place| place.from == place.to).count()
    }

    /// A record of the block that was indexed; `line` is the line the block begins in. One with
    /// nothing in it for a row that was no text.
    #[inline]
    pub(crate) fn record<'b>(&'b self, n: usize, block: &'b [u8], line: u64) -> Record<'b> {
        let nowhere = Place::nowhere(n as u32);
        let place = self.records.get(n).unwrap_or(&nowhere);
        let [from, to, end, first, behind] =
            [place.from, place.to, place.end, place.fields.0, place.fields.1].map(|at| at as usize);
        Record {
            raw: &block[from..to],
            line_end: &block[to..end],
            fields: Fields::new(&self.ends[first..behind], place.from),
            line: line + u64::from(place.line),
            unclosed: place.unclosed,
            problem: if place.has_problem { self.problem(n) } else { None },
            typed: self.typed(n),
        }
    }

    /// Where a record lies in the block, without its line end.
    #[inline]
    pub(crate) fn range(&self, n: usize) -> Range<usize> {
        self.records.get(n).map_or(0..0, |place| place.from as usize..place.to as usize)
    }

    /// The line a record begins in, from 0 for the first of the block.
    #[inline]
    pub(crate) fn line(&self, n: usize) -> u64 {
        self.records.get(n).map_or(n as u64, |place| u64::from(place.line))
    }

    /// Whether a record is closed and has that many fields.
    #[inline]
    pub(crate) fn is_row_of(&self, n: usize, width: usize) -> bool {
        self.records.get(n).is_none_or(|place| place.is_row_of(width))
    }

    /// How many records from `first` on, at most that many, are rows of `width` fields for certain,
    /// with something in them; all rows that were no text are.
    #[inline]
    pub(crate) fn run_of_rows(&self, first: usize, most: usize, width: usize) -> usize {
        if self.cells.rows() > 0 {
            return most.min(self.cells.rows() - first);
        }
        let is_row = |place: &&Place| place.from < place.to && place.is_row_of(width);
        self.records.iter().skip(first).take(most).take_while(is_row).count()
    }

    /// Where the first field of each of some records lies, as [`Index::field`] tells it: records
    /// one after the other, each of `width` fields.
    #[inline(always)]
    pub(crate) fn first_fields_of(
        &self,
        records: Range<usize>,
        width: usize,
    ) -> impl Iterator<Item = (u32, u32)> {
        let (places, ends) = self.ends_of(records, width);
        places.iter().zip(ends.iter().step_by(width)).map(|(place, end)| (place.from, *end))
    }

    /// The same of another field than the first.
    #[inline(always)]
    pub(crate) fn fields_of(
        &self,
        records: Range<usize>,
        width: usize,
        column: usize,
    ) -> impl Iterator<Item = (u32, u32)> {
        let (_, ends) = self.ends_of(records, width);
        let [before, own] =
            [column - 1, column].map(|n| ends.get(n..).unwrap_or_default().iter().step_by(width));
        before.zip(own).map(|(before, end)| (before + 1, *end))
    }

    /// Adds where a field of each of some records lies, as [`Index::first_fields_of`] and
    /// [`Index::fields_of`] tell it.
    pub(crate) fn add_fields_of(
        &self,
        records: Range<usize>,
        width: usize,
        column: usize,
        to: &mut Vec<(u32, u32)>,
    ) {
        match column {
            0 => to.extend(self.first_fields_of(records, width)),
            _ => to.extend(self.fields_of(records, width, column)),
        }
    }

    /// Some records, one after the other, and where each of their fields ends: each has `width` of
    /// them.
    #[inline(always)]
    fn ends_of(&self, records: Range<usize>, width: usize) -> (&[Place], &[u32]) {
        let places = &self.records[records];
        let first = places.first().map_or(0, |place| place.fields.0 as usize);
        (places, &self.ends[first..first + places.len() * width])
    }

    /// From where to where in the block a field of a record lies, its quotes included.
    #[inline]
    pub(crate) fn field(&self, n: usize, column: usize) -> (u32, u32) {
        let place = &self.records[n];
        let at = place.fields.0 as usize + column;
        let from = if column == 0 { place.from } else { self.ends[at - 1] + 1 };
        (from, self.ends[at])
    }

    /// Where the bytes of a record lie in the block up to its first quote.
    #[inline]
    pub(crate) fn bare(&self, n: usize) -> Range<usize> {
        let place = &self.records[n];
        place.from as usize..place.bare_to as usize
    }

    /// A record of the block, verbatim; `is_text` where that is UTF-8.
    #[inline]
    pub(crate) fn raw<'b>(&self, n: usize, block: &'b [u8], is_text: bool) -> RawRecord<'b> {
        let place = &self.records[n];
        RawRecord {
            open: &block[place.from as usize..],
            length: (place.to - place.from) as usize,
            line_end: &block[place.to as usize..place.end as usize],
            bare_to: if is_text { place.bare_to as usize } else { 0 },
        }
    }

    /// Forgets all records.
    pub(crate) fn begin(&mut self) {
        self.cells.begin(0, 0);
        self.records.clear();
        self.ends.clear();
        self.problems.clear();
        self.typed.clear();
        self.typed_ends.clear();
    }

    /// Adds a record of a sheet that stands in the block from `from` on, that many lines below the
    /// one the block begins in.
    pub(crate) fn push(&mut self, record: &Record<'_>, from: usize, line: u64) {
        let (first, to) = (self.ends.len() as u32, from + record.raw.len());
        self.ends.extend(record.fields.iter().map(|field| (from + field.end) as u32));
        if let Some(problem) = record.problem {
            self.problems.push((self.records.len() as u32, problem.into()));
        }
        self.typed.extend_from_slice(record.typed);
        self.typed_ends.push(self.typed.len() as u32);
        self.records.push(Place {
            from: from as u32,
            to: to as u32,
            end: (to + record.line_end.len()) as u32,
            fields: (first, self.ends.len() as u32),
            line: u32::try_from(line).unwrap_or(u32::MAX),
            bare_to: memchr(b'"', record.raw).map_or(to, |quote| from + quote) as u32,
            unclosed: record.unclosed,
            has_problem: record.problem.is_some(),
        });
    }

    /// Adds rows that were made, which are to stand in the block from `from` on, a line each.
    pub(crate) fn add_made(&mut self, made: &MadeRows, from: usize) {
        let (before, from) = (self.ends.len() as u32, from as u32);
        self.ends.extend(made.ends.iter().map(|end| from + end));
        let (mut start, mut first) = (0, 0);
        self.records.reserve(made.rows.len());
        for (behind, bare_to) in &made.rows {
            let to = made.ends[*behind as usize - 1];
            self.records.push(Place {
                from: from + start,
                to: from + to,
                end: from + to + 1,
                fields: (before + first, before + behind),
                line: self.records.len() as u32,
                bare_to: from + bare_to,
                unclosed: false,
                has_problem: false,
            });
            (start, first) = (to + 1, *behind);
        }
        self.lines = self.records.len() as u64;
    }

    /// What is wrong with a record of a sheet.
    #[cold]
    fn problem(&self, n: usize) -> Option<&str> {
        let found = self.problems.binary_search_by_key(&(n as u32), |(record, _)| *record).ok()?;
        Some(&self.problems[found].1)
    }

    /// The cells of a record of a sheet that are no text.
    fn typed(&self, n: usize) -> &[(u32, Typed)] {
        let Some(end) = self.typed_ends.get(n) else { return &[] };
        let from = n.checked_sub(1).map_or(0, |before| self.typed_ends[before]);
        &self.typed[from as usize..*end as usize]
    }

    /// Finds the records of a block; returns the end of the last one. `at_end` when the input ends
    /// with the block: then so does the last record. Else the last one is the last of which the end
    /// is sure.
    pub(crate) fn build(&mut self, block: &[u8], separator: u8, at_end: bool) -> usize {
        self.cells.begin(0, 0);
        self.records.clear();
        self.found.begin();
        let mut quick = Quick::new(&mut self.found, &mut self.ends);
        self.finder.each_chunk(block, separator, &mut quick);
        let (is_regular, unclosed) = (quick.quotes.are_regular(), quick.quotes.are_open());
        if is_regular {
            self.collect(block, at_end, unclosed);
        } else {
            self.build_slowly(block, separator, at_end);
        }
        self.records.last().map_or(0, |place| place.end as usize)
    }

    /// Takes each record for one line, whatever line ends are in it.
    pub(crate) fn count_rows_as_lines(&mut self) {
        (0..).zip(&mut self.records).for_each(|(line, place)| place.line = line);
        self.lines = self.records.len() as u64;
    }

    /// Makes records of what was found in a block whose quotes are regular.
    fn collect(&mut self, block: &[u8], at_end: bool, unclosed: bool) {
        let Self { records, ends, found, .. } = self;
        // Where the last record has no line end, its last field ends with the block.
        ends.resize(ends.len().max(found.fields + 1), 0);
        ends[found.fields] = block.len() as u32;
        let ends = &ends[..=found.fields];
        let mut inner = found.inner_feeds.iter().peekable();
        let (mut start, mut first, mut line, mut width) = (0_u32, 0_usize, 0_u32, 1_usize);
        let length = block.len() as u32;
        let bare_to = |from: u32, to: u32| first_bit(&found.quotes, from, to);
        let mut lines = &found.line_ends[..found.lines];
        if !at_end && lines.last().is_some_and(|last| is_open_end(block, *last)) {
            lines = &lines[..lines.len() - 1];
        }
        records.extend(lines.iter().map(|to| {
            // Nearly every record has as many fields as the one before.
            if ends.get(first + width - 1) != Some(to) {
                width = 1 + ends[first..].iter().take_while(|end| *end < to).count();
            }
            let is_two =
                block[*to as usize] == b'\r' && block.get(*to as usize + 1) == Some(&b'\n');
            let end = to + 1 + u32::from(is_two);
            let fields = (first as u32, (first + width) as u32);
            let place = Place {
                from: start,
                to: *to,
                end,
                fields,
                line,
                bare_to: bare_to(start, *to),
                unclosed: false,
                has_problem: false,
            };
            while inner.next_if(|feed| *feed < to).is_some() {
                line += 1;
            }
            (start, first, line) = (end, first + width, line + 1);
            place
        }));
        if at_end && start < length {
            let fields = (first as u32, ends.len() as u32);
            records.push(Place {
                from: start,
                to: length,
                end: length,
                fields,
                line,
                bare_to: bare_to(start, length),
                unclosed,
                has_problem: false,
            });
            line += inner.count() as u32;
        }
        self.lines = u64::from(line);
    }
}

/// Whether a line end is a carriage return at the very end of a block, after which a line feed may
/// follow.
pub(super) fn is_open_end(block: &[u8], at: u32) -> bool {
    at as usize + 1 == block.len() && block.last() == Some(&b'\r')
}

/// The first bit from one place on before another, `to` where there is none; 64 are in each number.
#[inline]
fn first_bit(bits: &[u64], from: u32, to: u32) -> u32 {
    let mut at = from - from % 64;
    let mut low = u64::MAX << (from % 64);
    while at < to {
        let found = bits[at as usize / CHUNK] & low;
        if found != 0 {
            return to.min(at + found.trailing_zeros());
        }
        (at, low) = (at + 64, u64::MAX);
    }
    to
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
            let mut index = Index::default();
            // What was found before does not show.
            index.build(b"\"a\nb\",c\r\n\r\n1,2,3\n4", separator, true);
            prop_assert_eq!(index.build(text.as_bytes(), separator, true), text.len());
            let mut n = 0;
            while let Some(twin) = records.next().unwrap() {
                let ours = index.record(n, text.as_bytes(), 1);
                prop_assert_eq!((ours.raw, ours.line_end, ours.line), (twin.raw, twin.line_end, twin.line));
                prop_assert_eq!(ours.fields.iter().collect::<Vec<_>>(), twin.fields.iter().collect::<Vec<_>>());
                let bare = index.raw(n, text.as_bytes(), true).bare_to - index.range(n).start;
                prop_assert_eq!((ours.unclosed, bare), (twin.unclosed, twin.raw.iter().take_while(|byte| **byte != b'"').count()));
                n += 1;
            }
            prop_assert_eq!(n, index.len());
        }
    }
}
