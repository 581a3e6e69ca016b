//! How often each shape occurs, counted for every new cell: most texts are told by their bytes
//! alone.
//!
//! At most [`MOST_SHAPES`] shapes are kept, those that came first in the order of the rows; the
//! texts of all others are counted together. That makes the counts the same however the rows are
//! parted.
//!
//! Counting was half of the time of a run before it was done by patterns: a text whose bytes are of
//! the kinds of one seen before is counted without its shape being spelled (some 250 instructions
//! a row for six columns).

use std::collections::BTreeMap;
use std::hash::BuildHasher;

use hashbrown::HashTable;
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::xxh3_64;

use super::looks::{LONGEST_PATTERN, LONGEST_SHAPE, Pattern, Spelling};
use super::sentences::{in_words, is_sentence};
use super::shape_into;
use crate::text::masks::{WIDE, wide};
use crate::text::{OpenText, characters};

/// How many different shapes are kept; a column of free text has as many as rows.
pub const MOST_SHAPES: usize = 1000;

/// A part of a run that has seen more shapes forgets them when it is over.
const MOST_KNOWN: usize = 4 * MOST_SHAPES;

/// How often a shape occurs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ShapeCount {
    /// The shape.
    pub shape: Box<str>,
    /// How many texts have it.
    pub count: u64,
    /// The line of the first of them.
    pub first_line: u64,
}

impl ShapeCount {
    #[inline]
    fn count(&mut self, times: u64, line: u64) {
        self.first_line = if self.count == 0 { line } else { self.first_line.min(line) };
        self.count += times;
    }
}

/// How often each shape occurs, at most `MOST_SHAPES` of them.
#[derive(Debug, Default, Clone)]
pub struct ShapeCounts {
    counts: Vec<ShapeCount>,
    /// The places in `counts`, by the hash of the shape.
    places: HashTable<usize>,
    hasher: hashbrown::DefaultHashBuilder,
    buffer: String,
    /// How many texts had a shape that was not kept.
    beyond: u64,
    /// In a part, the place in the whole of each shape that is known there, by its place here.
    in_whole: Vec<Option<usize>>,
    /// How many shapes are kept; [`MOST_SHAPES`] when not given.
    most: Option<usize>,
    /// Patterns of shapes that were counted, by the length of the text: most texts of a column look
    /// like one before.
    patterns: Vec<[Pattern; WAYS]>,
    /// How many texts there were of which no pattern was free to be kept; starts again after 255.
    passed: u8,
    /// How texts look whose shapes were counted, each byte of ASCII by its kind: the hash, of which
    /// ten thousand have two alike once in a hundred thousand million columns, and the place among
    /// the counts.
    spelled: HashTable<(u64, usize)>,
    /// Where a text is spelled so.
    spelling: Spelling,
}

/// How many patterns are kept for texts of one length.
const WAYS: usize = 4;
/// Where there are more shapes of a length, the last pattern is replaced by that of one text in
/// this number: one that is soon replaced costs more than it saves.
const PASSED: u8 = 16;

/// What is known of a text that was counted.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Counted {
    /// The place of its shape among the counts, if it is kept.
    pub place: Option<usize>,
    /// Each of its bytes is surely a character; of one that fits a pattern, none is a control
    /// character.
    pub is_plain: bool,
}

/// The counts of a part of a table: shapes in the order in which they came, how many texts have
/// each, the line of the first of them; and how many texts had a shape that was not kept.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct ShapesPart {
    shapes: Vec<(Box<str>, u64, u64)>,
    beyond: u64,
}

impl ShapesPart {
    /// Its counts and lines.
    pub(crate) fn figures(&self) -> impl Iterator<Item = u64> {
        self.shapes.iter().flat_map(|(_, count, line)| [*count, *line]).chain([self.beyond])
    }
}

impl ShapeCounts {
    /// What was counted, to be put together with that of other parts of a table.
    pub(crate) fn to_part(&self) -> ShapesPart {
        let shape = |of: &ShapeCount| (of.shape.clone(), of.count, of.first_line);
        ShapesPart { shapes: self.counts.iter().map(shape).collect(), beyond: self.beyond }
    }

    /// The same as counts of a part of a run, its lines that many ahead.
    pub(crate) fn of_part(part: ShapesPart, by: u64) -> Self {
        let mut counts = Self::part();
        for (shape, count, first_line) in part.shapes {
            counts.count(&shape, count, first_line + by);
        }
        Self { beyond: part.beyond, ..counts }
    }

    /// Counts of a part of a run, to be merged: all shapes are kept, a part is bounded itself.
    pub(crate) fn part() -> Self {
        Self::keeping(usize::MAX)
    }

    /// Counts of which that many shapes are kept.
    pub(crate) fn keeping(most: usize) -> Self {
        Self { most: Some(most), ..Self::default() }
    }

    /// The counts in the order in which the shapes came.
    pub(crate) fn in_order(&self) -> &[ShapeCount] {
        &self.counts
    }

    /// Counts a text that fits a pattern, if it does: none that is blank, and as many characters as
    /// others that fit it. Those that come later stand in later lines.
    #[inline(always)]
    pub(crate) fn add_fitting(&mut self, text: OpenText<'_>) -> Option<Counted> {
        self.add_known(text.open(), text.len())
            .map(|known| Counted { place: Some(known.place), is_plain: known.is_plain })
    }

    /// Counts the shape of a text, which stands in that line of the input; returns its place among
    /// the counts, if it is kept.
    #[inline]
    pub(crate) fn add<'t>(&mut self, text: impl Into<OpenText<'t>>, line: u64) -> Option<usize> {
        let text = text.into();
        let known = self.add_known(text.open(), text.len()).map(|known| known.place);
        let place = known.or_else(|| self.add_unseen(text, line).place)?;
        // Rows that went the slow path are counted after others of their batch.
        self.counts[place].first_line = self.counts[place].first_line.min(line);
        Some(place)
    }

    /// The same for many texts, each that many of its bytes, others may follow, with what tells its
    /// line. They are UTF-8, and empty ones are not counted. Those that come later stand in later
    /// lines.
    #[inline]
    pub(crate) fn add_all<'t, T>(
        &mut self,
        texts: impl Iterator<Item = (&'t [u8], usize, T)>,
        line: impl Fn(T) -> u64,
    ) {
        for (open, length, row) in texts {
            if self.add_known(open, length).is_none() && length > 0 {
                let text = open.get(..length).and_then(|text| std::str::from_utf8(text).ok());
                self.add_unseen(text.unwrap_or_default().into(), line(row));
            }
        }
    }

    /// Counts a text that fits a pattern; returns that.
    #[inline(always)]
    fn add_known(&mut self, open: &[u8], length: usize) -> Option<&Pattern> {
        let patterns = self.patterns.get(length)?;
        let first = wide(open, 0);
        for pattern in patterns {
            if pattern.fits(0, &first)
                && (length <= WIDE || pattern.fits(1, &wide(open, WIDE)))
                && let Some(known) = self.counts.get_mut(pattern.place)
            {
                known.count += 1;
                return Some(pattern);
            }
        }
        None
    }

    /// Counts any other text, which is not blank.
    #[inline(never)]
    pub(crate) fn add_unseen(&mut self, text: OpenText<'_>, line: u64) -> Counted {
        let spelling = self.spelling.of(text);
        let is_plain = spelling.is_some_and(|(_, is_plain)| is_plain);
        let hash = spelling.map(|(spelling, _)| xxh3_64(spelling));
        let known = hash
            .and_then(|hash| self.spelled.find(hash, |(known, _)| *known == hash))
            .map(|(_, place)| *place);
        if let Some(place) = known {
            self.counts[place].count(1, line);
            self.remember(&text, place);
            return Counted { place: Some(place), is_plain };
        }
        let place = self.add_unspelled(&text, line);
        // Texts beyond ASCII may be spelled in more ways than there are shapes.
        if let Some((hash, place)) = hash.zip(place)
            && self.spelled.len() < MOST_KNOWN
        {
            self.spelled.insert_unique(hash, (hash, place), |(hash, _)| *hash);
        }
        Counted { place, is_plain }
    }

    fn add_unspelled(&mut self, text: &str, line: u64) -> Option<usize> {
        let mut buffer = std::mem::take(&mut self.buffer);
        buffer.clear();
        // Texts of any length have shapes of bounded length: what follows does not show anyway.
        let end = if text.len() <= LONGEST_SHAPE {
            None
        } else {
            characters::notch_after(text, LONGEST_SHAPE)
        };
        let end = end.filter(|end| *end < text.len());
        shape_into(&text[..end.unwrap_or(text.len())], &mut buffer);
        if end.is_some() {
            buffer.push('…');
        }
        let place = self.count(&buffer, 1, line);
        self.buffer = buffer;
        if let Some(place) = place {
            self.remember(text, place);
        }
        place
    }

    /// Makes a pattern of a text whose shape stands at that place.
    fn remember(&mut self, text: &str, place: usize) {
        let Some(way) = self.way_for(text.len()) else { return };
        let Some(pattern) = Pattern::of(text, place) else { return };
        self.patterns[text.len()][way] = pattern;
    }

    /// The place among the patterns of that length, in bytes, in which the next one is kept; `None`
    /// where it is not. The shapes that come first are mostly the commonest: their patterns stay.
    fn way_for(&mut self, length: usize) -> Option<usize> {
        if !(1..=LONGEST_PATTERN).contains(&length) {
            return None;
        }
        self.patterns.resize_with(LONGEST_PATTERN + 1, Default::default);
        let free = self.patterns[length].iter().position(|way| way.place == usize::MAX);
        if free.is_none() {
            self.passed = self.passed.wrapping_add(1);
        }
        free.or(self.passed.is_multiple_of(PASSED).then_some(WAYS - 1))
    }

    /// Counts a shape; returns its place among the counts.
    pub(crate) fn count(&mut self, shape: &str, times: u64, line: u64) -> Option<usize> {
        let hash = self.hasher.hash_one(shape);
        if let Some(place) = self.places.find(hash, |place| *self.counts[*place].shape == *shape) {
            self.counts[*place].count(times, line);
            return Some(*place);
        }
        if self.counts.len() >= self.most.unwrap_or(MOST_SHAPES) {
            self.beyond += times;
            return None;
        }
        self.counts.push(ShapeCount { shape: shape.into(), count: times, first_line: line });
        let (counts, hasher) = (&self.counts, &self.hasher);
        self.places
            .insert_unique(hash, counts.len() - 1, |place| hasher.hash_one(&*counts[*place].shape));
        Some(counts.len() - 1)
    }

    /// Adds the counts of the part of a run that comes next, and empties them. The part still knows
    /// its shapes: the next one will mostly have the same.
    pub(crate) fn merge(&mut self, part: &mut ShapeCounts) {
        self.merge_and_tell(part, |_, _| {});
    }

    /// The same; tells for each shape of which the part had texts its place in the part and its
    /// place here, if it is kept: those that are new here come last, in the order of their places.
    pub(crate) fn merge_and_tell(
        &mut self,
        part: &mut ShapeCounts,
        mut tell: impl FnMut(usize, usize),
    ) {
        part.in_whole.resize(part.counts.len(), None);
        let mut new = Vec::new();
        for (place, (shape, in_whole)) in part
            .counts
            .iter_mut()
            .zip(&part.in_whole)
            .enumerate()
            .filter(|(_, (shape, _))| shape.count > 0)
        {
            match in_whole {
                Some(known) => {
                    self.counts[*known].count(std::mem::take(&mut shape.count), shape.first_line);
                    tell(place, *known);
                }
                None => new.push(place),
            }
        }
        // In the order in which they came, so that the first ones are kept as in a run of one
        // piece.
        new.sort_by_key(|place| part.counts[*place].first_line);
        for place in new {
            let shape = &mut part.counts[place];
            part.in_whole[place] =
                self.count(&shape.shape, std::mem::take(&mut shape.count), shape.first_line);
            if let Some(known) = part.in_whole[place] {
                tell(place, known);
            }
        }
        self.beyond += std::mem::take(&mut part.beyond);
        if part.counts.len() > MOST_KNOWN {
            part.counts.clear();
            part.places.clear();
            part.patterns.clear();
            part.spelled.clear();
            part.in_whole.clear();
        }
    }

    /// The shapes, most frequent first, those of equal count in the order of their text.
    pub fn ranked(&self) -> Vec<&ShapeCount> {
        let mut ranked: Vec<&ShapeCount> =
            self.counts.iter().filter(|shape| shape.count > 0).collect();
        ranked.sort_by(|a, b| b.count.cmp(&a.count).then(a.shape.cmp(&b.shape)));
        ranked
    }

    /// The shapes in words and numbers (`[w+], [n]: [w+]`), most frequent first, where most texts
    /// are sentences: their shapes are as many as they are. `None` where they are not.
    pub fn in_words(&self) -> Option<Vec<(String, u64)>> {
        let texts = |shapes: &[&ShapeCount]| shapes.iter().map(|shape| shape.count).sum::<u64>();
        let ranked = self.ranked();
        let sentences: Vec<&ShapeCount> =
            ranked.iter().copied().filter(|shape| is_sentence(&shape.shape)).collect();
        if texts(&sentences) * 2 <= texts(&ranked) {
            return None;
        }
        let mut counts: BTreeMap<String, u64> = BTreeMap::new();
        for shape in ranked {
            *counts.entry(in_words(&shape.shape)).or_default() += shape.count;
        }
        let mut counts: Vec<(String, u64)> = counts.into_iter().collect();
        counts.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        Some(counts)
    }

    /// How many texts had a shape that was not kept.
    pub fn beyond(&self) -> u64 {
        self.beyond
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shape::shape;

    /// The slow, obvious twin counts every shape as it is written.
    #[test]
    fn patterns_count_like_shapes() {
        let texts = [
            "",
            "a",
            "ab",
            "A1",
            "1A",
            "a1b",
            "abc",
            "A-1",
            "AB-12",
            "ab-12",
            "FH-2019",
            "FH-2019-BRA-00417-7",
            "é",
            "é1",
            "\u{301}",
            "\t",
            "\u{200d}1…",
            "a\rb",
            "a\tb",
            "a b",
            "2\u{fe0f}\u{20e3}",
            "\u{600}",
            "Ł",
        ];
        let (mut counts, mut together) = (ShapeCounts::default(), ShapeCounts::default());
        let mut twin = BTreeMap::<String, u64>::new();
        assert_eq!(texts.len(), 23);
        let all: Vec<String> = (0..2000_usize)
            .map(|n| format!("{}{}", texts[n * 7 % 23], texts[n * n % 23]))
            .filter(|text| !text.is_empty())
            // Many of one shape stand together in most columns.
            .chain((0..2000).map(|n| format!("{:03}{}", n % 7, texts[n / 50 % 23])))
            .collect();
        for text in &all {
            counts.add(text, 1);
            *twin.entry(shape(text)).or_default() += 1;
        }
        for texts in all.chunks(128) {
            together
                .add_all(texts.iter().map(|text| (text.as_bytes(), text.len(), 1)), |line| line);
        }
        for counts in [counts, together] {
            let counts = counts.ranked().into_iter();
            let counts = counts.map(|count| (count.shape.to_string(), count.count));
            assert_eq!(counts.collect::<BTreeMap<_, _>>(), twin);
        }
    }
}
