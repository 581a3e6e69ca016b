//! A column at a glance: what can be counted of every row at little cost, and what the column looks
//! like by some of them.

use std::cmp::Reverse;
use std::mem::take;

use super::texts::{Distinct, Hashes};
use super::{ColumnSurvey, LONGEST, MOST_SHAPES, is_looked_at, trim};
use crate::shape::{ShapeCount, ShapeCounts};
use crate::text::characters;

/// All rows up to this one are looked at closely, and one in 64 after it.
const FIRST_ROWS: u64 = 4096;

/// What a column is at a glance.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Glance {
    /// Rows, blank ones included.
    pub rows: u64,
    /// Rows with nothing or only white space.
    pub blank: u64,
    /// The lengths of the shortest and the longest text, in characters; at most 1,000.
    pub lengths: Option<(usize, usize)>,
    /// How many different texts there are.
    pub distinct: Distinct,
    /// The commonest shape, and how many texts have it; of several, the one that comes first.
    pub shape: Option<ShapeCount>,
    /// What it holds, in a few words.
    pub looks_like: String,
    /// Sampled rows; all other counts use all rows.
    pub looked_at: u64,
}

impl Glance {
    /// How many rows have a text.
    pub fn filled(&self) -> u64 {
        self.rows - self.blank
    }
}

fn commonest(shapes: &ShapeCounts) -> Option<ShapeCount> {
    shapes.in_order().iter().max_by_key(|shape| (shape.count, Reverse(shape.first_line))).cloned()
}

/// Gathers what a column is at a glance: what it looks like by some of its rows, all else by all.
pub struct ColumnOverview {
    rows: u64,
    blank: u64,
    lengths: Option<(usize, usize)>,
    texts: Hashes,
    shapes: ShapeCounts,
    /// The rows that are looked at closely; in a part those that are to be: the text, the row and
    /// the line of each.
    looked_at: ColumnSurvey,
    to_look_at: Vec<(String, u64, u64)>,
}

impl Default for ColumnOverview {
    fn default() -> Self {
        Self::counting(ShapeCounts::keeping(MOST_SHAPES))
    }
}

impl ColumnOverview {
    fn counting(shapes: ShapeCounts) -> Self {
        let looked_at = ColumnSurvey::default();
        Self {
            rows: 0,
            blank: 0,
            lengths: None,
            texts: Hashes::default(),
            shapes,
            looked_at,
            to_look_at: Vec::new(),
        }
    }

    /// The overview of a part of a column, to be merged.
    pub fn part() -> Self {
        Self::counting(ShapeCounts::part())
    }

    /// Takes a cell of that row and line of a part.
    pub fn add(&mut self, text: &str, row: u64, line: u64) {
        self.rows += 1;
        if is_looked_at(row, FIRST_ROWS, 6) {
            self.to_look_at.push((text.to_owned(), row, line));
        }
        if trim(text).is_empty() {
            self.blank += 1;
            return;
        }
        self.texts.add(text);
        let is_plain = self.shapes.add_telling_plain(text, line);
        let length = if is_plain { text.len() } else { characters::count(text) }.min(LONGEST);
        let (least, most) = self.lengths.unwrap_or((length, length));
        self.lengths = Some((least.min(length), most.max(length)));
    }

    /// Adds the overview of the part that comes next, and empties it.
    pub fn merge(&mut self, part: &mut ColumnOverview) {
        self.rows += take(&mut part.rows);
        self.blank += take(&mut part.blank);
        let both = |(a, b): (usize, usize), (c, d): (usize, usize)| (a.min(c), b.max(d));
        self.lengths = match (self.lengths, part.lengths.take()) {
            (Some(ours), Some(theirs)) => Some(both(ours, theirs)),
            (ours, theirs) => ours.or(theirs),
        };
        self.texts.merge(&mut part.texts);
        self.shapes.merge(&mut part.shapes);
        part.to_look_at
            .drain(..)
            .for_each(|(text, row, line)| self.looked_at.add_closely(&text, row, line));
    }

    /// What it is.
    pub fn glance(&self) -> Glance {
        Glance {
            rows: self.rows,
            blank: self.blank,
            lengths: self.lengths,
            distinct: self.texts.distinct(),
            shape: commonest(&self.shapes),
            looks_like: self.looked_at.looks_like(&self.looked_at.likely_layouts()),
            looked_at: self.looked_at.rows,
        }
    }
}

impl ColumnSurvey {
    /// What a column is at a glance, all of its rows having been looked at closely.
    pub fn glance(&self) -> Glance {
        Glance {
            rows: self.rows,
            blank: self.blank,
            lengths: self
                .lengths
                .iter()
                .position(|texts| *texts > 0)
                .zip(self.lengths.iter().rposition(|texts| *texts > 0)),
            distinct: self.texts.distinct(),
            shape: commonest(&self.shapes),
            looks_like: self.looks_like(&self.likely_layouts()),
            looked_at: self.rows,
        }
    }
}
