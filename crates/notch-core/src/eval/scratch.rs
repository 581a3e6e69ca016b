//! The memory of evaluation, used again from row to row.

use std::sync::Arc;

use bumpalo::Bump;

use super::columns::Columns;
use crate::unique::AllRows;

/// The memory a row's evaluation uses, reused from row to row. Each thread has its own.
#[derive(Debug, Default)]
pub struct Scratch {
    pub(super) arena: Bump,
    pub(super) columns: Columns,
    pub(super) all_rows: Option<Arc<AllRows>>,
    pub(super) row: u64,
}

impl Scratch {
    /// Memory for a plan that [`Plan::needs_all_rows`](crate::Plan::needs_all_rows).
    pub fn with_all_rows(all_rows: Option<Arc<AllRows>>) -> Self {
        Self { all_rows, ..Self::default() }
    }

    /// The number of the row that is evaluated next, from 1: the one it had when all rows were
    /// gathered.
    pub fn at_row(&mut self, row: u64) {
        self.row = row;
    }
}
