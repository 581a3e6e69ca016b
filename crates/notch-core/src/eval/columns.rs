//! The memory of a batch, column by column.

use super::result::{Branch, USUAL};
use crate::program::kernel::Grouped;
use crate::program::span::CellSpan;

/// The memory of a batch, column by column.
#[derive(Debug, Default)]
pub(super) struct Columns {
    pub(super) rows: Vec<RowPlace>,
    /// The cells of each of the plan's sources.
    pub(super) sources: Vec<Vec<CellSpan>>,
    /// What each of the plan's searches has found.
    pub(super) found: Vec<Vec<u64>>,
    /// What cuts with a fast path have made, by the place of the value among those of the plan.
    pub(super) values: Vec<Vec<CellSpan>>,
    /// The rows that go the slow path, and the others.
    pub(super) is_slow: Vec<bool>,
    pub(super) usual: Vec<u32>,
    /// The cuts that certainly return nothing in some of the others, and where they do.
    pub(super) lacking: Vec<usize>,
    pub(super) absent: Vec<Absent>,
    /// Numbers whose mark groups.
    pub(super) grouped: Vec<Grouped>,
    /// The cuts and rows, by their place in the batch, in which another chain of the cut than the
    /// first has returned its piece; in their order.
    pub(super) branches: Vec<(usize, usize, Branch)>,
    /// Those of the current cut.
    pub(super) fared: Vec<(usize, Branch)>,
}

/// A cut that certainly returns nothing in a row that is not unusual.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Absent {
    /// The row, by its place in the batch.
    pub row: usize,
    pub cut: usize,
    /// A cut above has the same reason in the row: the cell of both is blank.
    pub(super) is_said: bool,
}

#[derive(Debug, Clone, Copy)]
pub(super) struct RowPlace {
    pub number: u64,
    pub line: u64,
}

/// What is known of a row that goes the slow path.
#[derive(Clone, Copy)]
pub(super) struct Known<'a> {
    pub(super) columns: &'a Columns,
    /// The text of the batch.
    pub text: &'a str,
    pub(super) row: usize,
}

impl Known<'_> {
    /// How the chains of a cut have fared on its fast path.
    pub(super) fn branch(self, cut: usize) -> Branch {
        let branches = &self.columns.branches;
        let found = branches.binary_search_by_key(&(cut, self.row), |(cut, row, _)| (*cut, *row));
        found.map_or(USUAL, |found| branches[found].2)
    }

    /// What the fast path of a cut of one name has returned, by the place of its value.
    pub(super) fn place(self, slot: usize) -> Option<CellSpan> {
        self.columns.values[slot].get(self.row).copied().filter(|place| !place.is_none())
    }
}
