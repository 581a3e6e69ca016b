//! What several cuts make of all rows of a column: in how many each finds its piece, what its
//! pieces look like, and where they part.

use std::collections::{BTreeMap, HashSet};

use super::trial::Trial;
use crate::layouts::Layouts;
use crate::shape::ShapeCounts;
use crate::text::characters::is_blank;
use crate::{FirstRow, Scratch};

/// Cuts that are to be judged by the rows of a column.
pub struct Judge {
    trial: Trial,
    cuts: usize,
    layouts: Layouts,
    /// Cells that are answered already.
    answered: HashSet<String>,
}

/// What they make of some rows.
#[derive(Debug, Clone, Default)]
pub struct Judged {
    /// Rows with a text.
    pub filled: u64,
    /// For each cut the rows in which it finds its piece, without a finding.
    pub fits: Vec<u64>,
    /// For each cut the shapes of its pieces.
    pub shapes: Vec<ShapeCounts>,
    /// For each layout, and for odd texts, the rows, those in which the best cut gives nothing, and
    /// the first of these.
    lacking: Vec<(u64, u64, Option<FirstRow>)>,
    /// The rows in which not all give the same, by which of them do.
    partings: BTreeMap<Vec<u8>, Parting>,
    /// The texts that wait to be tried.
    waiting: Vec<FirstRow>,
}

/// Rows in which cuts part in the same way.
#[derive(Debug, Clone)]
struct Parting {
    rows: u64,
    /// How common the layout of `first` is: 0 for the commonest.
    layout: usize,
    first: FirstRow,
}

/// The number of texts that are tried together.
const TOGETHER: usize = 128;
/// The largest number of ways of parting that are kept apart.
const MOST_PARTINGS: usize = 1000;

impl Judge {
    /// Cuts for a column of that name, which is written in these layouts; no cell of `answered` is
    /// asked about. `None` where a cut cannot be used.
    pub fn new(
        column: &str,
        cuts: &[String],
        layouts: &Layouts,
        answered: impl Iterator<Item = String>,
    ) -> Option<Self> {
        Some(Self {
            trial: Trial::new(column, cuts.iter().map(String::as_str))?,
            cuts: cuts.len(),
            layouts: layouts.clone(),
            answered: answered.collect(),
        })
    }

    /// What is judged of no rows.
    pub fn none(&self) -> Judged {
        Judged {
            fits: vec![0; self.cuts],
            shapes: vec![ShapeCounts::default(); self.cuts],
            lacking: vec![(0, 0, None); self.layouts.layouts.len() + 1],
            ..Judged::default()
        }
    }

    /// Takes the text of a row.
    pub fn add(
        &self,
        judged: &mut Judged,
        text: &str,
        (row, line): (u64, u64),
        scratch: &mut Scratch,
    ) {
        if is_blank(text) {
            return;
        }
        judged.waiting.push(FirstRow { row, line, text: text.to_owned() });
        if judged.waiting.len() == TOGETHER {
            self.finish(judged, scratch);
        }
    }

    /// Tries the texts that wait.
    pub fn finish(&self, judged: &mut Judged, scratch: &mut Scratch) {
        let waiting = std::mem::take(&mut judged.waiting);
        judged.filled += waiting.len() as u64;
        // The pieces of a row, each with its end, and which are the same.
        let (mut pieces, mut ends): (String, Vec<usize>) = (String::new(), Vec::new());
        self.trial.run(waiting.iter().map(|row| row.text.as_str()), scratch, |n, cut, tried| {
            judged.fits[cut] += u64::from(tried.is_found);
            if cut == 0 {
                self.lacks(judged, &waiting[n], tried.piece.is_empty());
            }
            if !tried.piece.is_empty() {
                judged.shapes[cut].add(tried.piece, waiting[n].line);
            }
            pieces.push_str(tried.piece);
            ends.push(pieces.len());
            if ends.len() == self.cuts {
                let pattern = pattern(&pieces, &ends);
                if pattern.iter().any(|group| *group > 0) {
                    self.parts(judged, pattern, &waiting[n]);
                }
                pieces.clear();
                ends.clear();
            }
        });
        judged.waiting = waiting;
        judged.waiting.clear();
    }

    /// Counts a row of its layout, and whether the best cut gives nothing there.
    fn lacks(&self, judged: &mut Judged, row: &FirstRow, is_lacking: bool) {
        let layout = self.layouts.place(&row.text).unwrap_or(self.layouts.layouts.len());
        let (rows, lacking, first) = &mut judged.lacking[layout];
        *rows += 1;
        if is_lacking {
            *lacking += 1;
            first.get_or_insert_with(|| row.clone());
        }
    }

    fn parts(&self, judged: &mut Judged, pattern: Vec<u8>, row: &FirstRow) {
        if self.answered.contains(&row.text)
            || judged.partings.len() >= MOST_PARTINGS && !judged.partings.contains_key(&pattern)
        {
            return;
        }
        let layout = self.layouts.place(&row.text).unwrap_or(self.layouts.layouts.len());
        let parting = judged.partings.entry(pattern).or_insert_with(|| Parting {
            rows: 0,
            layout,
            first: row.clone(),
        });
        parting.rows += 1;
        if (layout, row.row) < (parting.layout, parting.first.row) {
            (parting.layout, parting.first) = (layout, row.clone());
        }
    }

    /// The row that divides the cuts best: weighted by rows, odd texts last, the commonest layout
    /// first. `None` where all give the same in all rows that are not answered,
    /// and the best gives something in every layout.
    pub fn question<'j>(&self, judged: &'j Judged) -> Option<&'j FirstRow> {
        let odd = self.layouts.layouts.len();
        let weight = |(pattern, parting): &(&Vec<u8>, &Parting)| {
            let mut groups: BTreeMap<u8, usize> = BTreeMap::new();
            pattern.iter().for_each(|group| *groups.entry(*group).or_default() += 1);
            let largest = groups.values().copied().max().unwrap_or_default();
            parting.rows * (pattern.len() - largest) as u64
        };
        let is_odd = |parting: &Parting| odd > 0 && parting.layout == odd;
        let partings: Vec<(&Vec<u8>, &Parting)> = judged.partings.iter().collect();
        let best = partings.iter().min_by(|a, b| {
            (is_odd(a.1), std::cmp::Reverse(weight(a)), a.1.layout, a.1.first.row).cmp(&(
                is_odd(b.1),
                std::cmp::Reverse(weight(b)),
                b.1.layout,
                b.1.first.row,
            ))
        });
        best.map(|(_, parting)| &parting.first).or_else(|| self.unanswered(judged))
    }

    /// The first row of the commonest layout in which the best cut gives nothing and of which no
    /// cell is answered.
    fn unanswered<'j>(&self, judged: &'j Judged) -> Option<&'j FirstRow> {
        let is_answered = |layout: usize| {
            self.answered.iter().any(|cell| self.layouts.place(cell) == Some(layout))
        };
        let layouts = judged.lacking.iter().take(self.layouts.layouts.len()).enumerate();
        let found = layouts.filter(|(layout, (rows, lacking, _))| {
            *rows * 50 >= judged.filled && *lacking * 10 >= *rows * 9 && !is_answered(*layout)
        });
        found.max_by_key(|(_, (rows, ..))| *rows).and_then(|(_, (_, _, first))| first.as_ref())
    }

    /// What the cuts make of a text, in their order.
    pub fn pieces(&self, text: &str) -> Vec<String> {
        let mut pieces = Vec::new();
        self.trial.run([text], &mut Scratch::default(), |_, _, tried| {
            pieces.push(tried.piece.to_owned());
        });
        pieces
    }
}

/// Which of the pieces are the same: each has the number of the first that it is like.
fn pattern(pieces: &str, ends: &[usize]) -> Vec<u8> {
    let piece = |n: usize| &pieces[if n == 0 { 0 } else { ends[n - 1] }..ends[n]];
    (0..ends.len())
        .map(|n| (0..n).find(|other| piece(*other) == piece(n)).unwrap_or(n) as u8)
        .collect()
}

impl Judged {
    /// The cuts, by their places, that give otherwise than each one before them in some row.
    pub fn different(&self) -> Vec<usize> {
        let is_like = |n: usize, other: usize| {
            self.partings.keys().all(|pattern| pattern.get(n) == pattern.get(other))
        };
        (0..self.fits.len()).filter(|n| !(0..*n).any(|other| is_like(*n, other))).collect()
    }

    /// Takes what was judged of the rows that come next, and empties it.
    pub fn merge(&mut self, part: &mut Judged) {
        self.filled += std::mem::take(&mut part.filled);
        for (ours, theirs) in self.fits.iter_mut().zip(&mut part.fits) {
            *ours += std::mem::take(theirs);
        }
        for (ours, theirs) in self.shapes.iter_mut().zip(&mut part.shapes) {
            ours.merge(theirs);
        }
        for (ours, theirs) in self.lacking.iter_mut().zip(&mut part.lacking) {
            ours.0 += std::mem::take(&mut theirs.0);
            ours.1 += std::mem::take(&mut theirs.1);
            let first = theirs.2.take();
            ours.2 = ours.2.take().or(first);
        }
        for (pattern, parting) in std::mem::take(&mut part.partings) {
            let has_room = self.partings.len() < MOST_PARTINGS;
            match self.partings.get_mut(&pattern) {
                Some(known) => {
                    known.rows += parting.rows;
                    if (parting.layout, parting.first.row) < (known.layout, known.first.row) {
                        (known.layout, known.first) = (parting.layout, parting.first);
                    }
                }
                None if has_room => {
                    self.partings.insert(pattern, parting);
                }
                None => {}
            }
        }
    }
}
