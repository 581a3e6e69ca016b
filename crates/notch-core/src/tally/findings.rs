//! Findings, counted: which rows have them, their reasons, and a few to be shown.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::hash;
use crate::shape::ShapeCounts;

/// Rows that something was found in: how many, and enough to tell them from other rows.
#[derive(Debug, Default, Clone, Copy, Serialize, Deserialize)]
pub struct RowSet {
    pub(super) rows: u64,
    /// The sum of a hash of each row.
    sum: u64,
    last: u64,
}

impl RowSet {
    /// Takes a row, by its number from 1; the same row again counts once when it comes next.
    pub(super) fn add(&mut self, row: u64) {
        if self.last != row {
            *self = Self {
                rows: self.rows + 1,
                sum: self.sum.wrapping_add(hash::of_row(row)),
                last: row,
            };
        }
    }

    /// Takes the rows of the part that comes next.
    pub(super) fn merge(&mut self, part: RowSet) {
        *self = Self {
            rows: self.rows + part.rows,
            sum: self.sum.wrapping_add(part.sum),
            last: self.last.max(part.last),
        };
    }

    /// The same rows as those of another part, which is told from others by an odd number.
    pub(super) fn scattered(self, odd: u64) -> Self {
        Self { sum: self.sum.wrapping_mul(odd), ..self }
    }

    /// How many they are.
    pub fn count(&self) -> u64 {
        self.rows
    }

    /// Whether they are the same rows; other rows are taken for the same once in 2^64.
    pub fn is_same(&self, other: &RowSet) -> bool {
        (self.rows, self.sum) == (other.rows, other.sum)
    }
}

/// Findings of one kind about one thing.
#[derive(Debug, Default, Clone)]
pub struct FindingGroup {
    /// The rows with such a finding.
    pub rows: RowSet,
    pub(super) reasons: BTreeMap<Box<str>, FindingTally>,
    /// The shapes of the texts that gave rise to them, where they are asked for: the value, or the
    /// cell where there is no value.
    pub shapes: ShapeCounts,
    /// The first few of them, where the texts are asked for.
    pub examples: Vec<FindingExample>,
    /// It is about the column as a whole and no row of it.
    pub is_of_column: bool,
}

impl FindingGroup {
    /// How many there are.
    pub fn count(&self) -> u64 {
        self.reasons.values().map(|tally| tally.count).sum()
    }

    /// Counts a reason, among others where there is no room for a new one; returns whether it is
    /// new.
    pub(super) fn count_reason(
        &mut self,
        reason: &str,
        more: FindingTally,
        has_room: bool,
    ) -> bool {
        if let Some(tally) = self.reasons.get_mut(reason) {
            tally.merge(more);
            return false;
        }
        let reason = if has_room { reason } else { "other reasons" };
        let known = self.reasons.entry(reason.into());
        known.and_modify(|tally| tally.merge(more)).or_insert(more);
        has_room
    }

    /// Their reasons with their counts, the commonest first.
    pub fn reasons(&self) -> Vec<(&str, &FindingTally)> {
        let mut reasons: Vec<(&str, &FindingTally)> =
            self.reasons.iter().map(|(reason, tally)| (&**reason, tally)).collect();
        reasons.sort_by_key(|(_, tally)| std::cmp::Reverse(tally.count));
        reasons
    }
}

/// A row with a finding, to be shown.
#[derive(Debug, Default, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FindingExample {
    /// Its number, from 1, the header not counted.
    pub row: u64,
    /// The line it begins in, from 1.
    pub line: u64,
    /// The cell the cut started from; empty for a row as a whole.
    pub cell: String,
    /// The text that gave rise to the finding; empty when there is none.
    pub value: String,
    /// Why.
    pub reason: String,
}

/// How many rows are kept as examples of a group.
pub(super) const EXAMPLES: usize = 3;

/// Counts of one finding.
#[derive(Debug, Default, Clone, Copy, Serialize, Deserialize)]
pub struct FindingTally {
    /// How often it was made.
    pub count: u64,
    /// The line of the first row that has it.
    pub first_line: u64,
    /// The rows that have it.
    pub rows: RowSet,
}

impl FindingTally {
    /// Adds what comes next.
    pub(super) fn merge(&mut self, next: FindingTally) {
        self.count += next.count;
        self.rows.merge(next.rows);
    }
}
