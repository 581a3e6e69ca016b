//! A column at a glance: what can be counted of every row at little cost, and what the column looks
//! like by some of them.

use std::cmp::Reverse;
use std::mem::take;

use serde::{Deserialize, Serialize};

use super::texts::{Distinct, Hashes, HashesPart};
use super::{ColumnSurvey, LONGEST, MOST_SHAPES, is_looked_at};
use crate::shape::{ShapeCount, ShapeCounts, ShapesPart};
use crate::tally::LINES_OF_PART;
use crate::text::{OpenText, characters};

/// All rows up to this one are looked at closely, and some after it.
const FIRST_ROWS: u64 = 4096;
/// One row in 64, 2 to the power of these.
const SOME_ROWS: u32 = 6;
/// After this one it is one in 512: of a million rows a sample tells no more for being larger.
const MANY_ROWS: u64 = 262_144;
const FEW_ROWS: u32 = 9;

/// Of how many rows a part of a table keeps the texts, beside the first ones.
const MOST_KEPT: usize = 16_384;

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
    lengths: Lengths,
    texts: Hashes,
    shapes: ShapeCounts,
    /// The rows that are looked at closely; in a part those that are to be: the text, the row and
    /// the line of each.
    looked_at: ColumnSurvey,
    to_look_at: Vec<(String, u64, u64)>,
    /// Those that were looked at, where they are kept for a tally.
    kept: Option<Kept>,
}

/// The lengths of the shortest and the longest text, in characters; the shortest is longer where
/// there is none.
#[derive(Clone, Copy)]
struct Lengths {
    least: usize,
    most: usize,
}

impl Default for Lengths {
    fn default() -> Self {
        Self { least: usize::MAX, most: 0 }
    }
}

impl Lengths {
    fn of((least, most): (usize, usize)) -> Self {
        Self { least, most }
    }

    fn and(self, other: Self) -> Self {
        Self { least: self.least.min(other.least), most: self.most.max(other.most) }
    }

    fn found(self) -> Option<(usize, usize)> {
        (self.least <= self.most).then_some((self.least, self.most))
    }
}

/// The texts of some rows, the same ones however the rows are divided.
struct Kept {
    texts: Vec<(String, u64, u64)>,
    /// One row in 2 to the power of these is kept of those after the first.
    bits: u32,
}

impl Kept {
    fn add(&mut self, text: &str, row: u64, line: u64) {
        if !is_looked_at(row, FIRST_ROWS, self.bits) {
            return;
        }
        self.texts.push((text.to_owned(), row, line));
        while self.texts.len() > MOST_KEPT {
            self.bits += 1;
            self.texts.retain(|(_, row, _)| is_looked_at(*row, FIRST_ROWS, self.bits));
        }
    }
}

/// What a column of a part of a table is at a glance ([`ColumnOverview::to_part`]).
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OverviewPart {
    rows: u64,
    blank: u64,
    lengths: Option<(usize, usize)>,
    texts: HashesPart,
    shapes: ShapesPart,
    /// The text, row and line of those that are looked at closely.
    looked_at: Vec<(String, u64, u64)>,
}

impl OverviewPart {
    /// Whether a run may have written it: a file of counts may be damaged.
    pub fn is_sound(&self) -> bool {
        let places = self.looked_at.iter().flat_map(|(_, row, line)| [*row, *line]);
        let figures = self.shapes.figures().chain(places).chain([self.rows, self.blank]);
        self.texts.is_sound()
            && self.blank <= self.rows
            && figures.max() < Some(LINES_OF_PART)
            && self.lengths.is_none_or(|(least, most)| least <= most && most <= LONGEST)
    }
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
            lengths: Lengths::default(),
            texts: Hashes::default(),
            shapes,
            looked_at,
            to_look_at: Vec::new(),
            kept: None,
        }
    }

    /// The overview of a column of a part of a table, which can be written down.
    pub fn keeping() -> Self {
        Self { kept: Some(Kept { texts: Vec::new(), bits: SOME_ROWS }), ..Self::default() }
    }

    /// The overview of a part of a column, to be merged.
    pub fn part() -> Self {
        Self::counting(ShapeCounts::part())
    }

    /// Takes a cell of that row and line of a part.
    #[inline(always)]
    pub fn add<'t>(&mut self, text: impl Into<OpenText<'t>>, row: u64, line: u64) {
        let text = text.into();
        self.rows += 1;
        let bits = if row <= MANY_ROWS { SOME_ROWS } else { FEW_ROWS };
        if is_looked_at(row, FIRST_ROWS, bits) {
            self.to_look_at.push((text.text().to_owned(), row, line));
        }
        if self.shapes.add_fitting(text).is_some() || self.add_unseen(text, line) {
            self.texts.add(&text);
        }
    }

    /// Counts a text that fits no pattern; returns whether it is not blank. Those that fit one are
    /// as long as the text of which the pattern was made.
    #[inline(never)]
    fn add_unseen(&mut self, text: OpenText<'_>, line: u64) -> bool {
        if characters::is_blank(&text) {
            self.blank += 1;
            return false;
        }
        let is_plain = self.shapes.add_unseen(text, line).is_plain || characters::is_plain(&text);
        let length = if is_plain { text.len() } else { characters::count(&text) }.min(LONGEST);
        self.lengths = self.lengths.and(Lengths::of((length, length)));
        true
    }

    /// Adds the overview of the part that comes next, and empties it, but of what it has learned of
    /// the shapes of texts and their lengths.
    pub fn merge(&mut self, part: &mut ColumnOverview) {
        self.rows += take(&mut part.rows);
        self.blank += take(&mut part.blank);
        self.lengths = self.lengths.and(part.lengths);
        self.texts.merge(&mut part.texts);
        self.shapes.merge(&mut part.shapes);
        for (text, row, line) in part.to_look_at.drain(..) {
            self.looked_at.add_closely(&*text, row, line);
            if let Some(kept) = &mut self.kept {
                kept.add(&text, row, line);
            }
        }
    }

    /// What is known, to be written down and put together with that of other parts of a table; of
    /// an overview that keeps what it has looked at ([`ColumnOverview::keeping`]).
    pub fn to_part(&self) -> OverviewPart {
        OverviewPart {
            rows: self.rows,
            blank: self.blank,
            lengths: self.lengths.found(),
            texts: self.texts.to_part(),
            shapes: self.shapes.to_part(),
            looked_at: self.kept.as_ref().map(|kept| kept.texts.clone()).unwrap_or_default(),
        }
    }

    /// The overview of a column of all parts of a table, in their order: that of one run, but that
    /// of parts of over 4,096 rows others are looked at closely.
    pub fn of_parts(parts: impl IntoIterator<Item = OverviewPart>) -> Self {
        let mut whole = Self::default();
        let mut rows_before = 0;
        for (part, n) in parts.into_iter().zip(0..) {
            let lines_before = n * LINES_OF_PART;
            let OverviewPart { rows, blank, lengths, texts, shapes, looked_at } = part;
            whole.texts.merge_part(texts);
            let moved = |(text, row, line)| (text, row + rows_before, line + lines_before);
            whole.merge(&mut Self {
                rows,
                blank,
                lengths: lengths.map(Lengths::of).unwrap_or_default(),
                to_look_at: looked_at.into_iter().map(moved).collect(),
                ..Self::counting(ShapeCounts::of_part(shapes, lines_before))
            });
            rows_before += rows;
        }
        whole
    }

    /// What it is.
    pub fn glance(&self) -> Glance {
        Glance {
            rows: self.rows,
            blank: self.blank,
            lengths: self.lengths.found(),
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
