//! What the cuts make of a row.

use crate::finding::Finding;
use crate::program::Event;

/// A new cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cell<'a> {
    /// Its text, empty when there is none.
    pub text: &'a str,
}

/// What the cuts make of a row. It lives until the scratch is used again.
#[derive(Debug, Clone, Copy)]
pub struct RowResult<'a> {
    /// The new cells, one for each of [`Plan::outputs`](crate::Plan::outputs), in that order.
    pub cells: &'a [Cell<'a>],
    /// Findings, in the order of the cuts, then notes.
    pub findings: &'a [Finding<'a>],
    /// For each cut how its chains fared.
    pub branches: &'a [Branch],
    /// For each of [`Plan::checks`](crate::Plan::checks) whether it was made; it is not where what
    /// it asks about is blank or missing.
    pub checked: &'a [bool],
    /// The cells the row was evaluated for, one for each of
    /// [`Plan::sources`](crate::Plan::sources).
    pub sources: &'a [&'a str],
    /// What is counted for the hints of [`Plan::hints`](crate::Plan::hints).
    pub events: &'a [Event<'a>],
    /// What is to become of the row.
    pub fate: Fate,
}

/// What is to become of a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fate {
    /// It is written.
    Write,
    /// It is kept out of the output for one of its findings.
    Reject,
    /// It is not among the rows asked for.
    LeaveOut,
    /// The work stops at this one of its findings, from 0.
    Stop(usize),
}

/// How the chains of a cut fared in a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Branch {
    /// The chain that yielded the value, from 0; `None` when none did.
    pub taken: Option<usize>,
    /// The chains whose `if` did not hold, one bit each; of the first 64.
    pub unmet: u64,
}

/// How the chains of a cut fare mostly: the first one returns the piece.
pub(super) const USUAL: Branch = Branch { taken: Some(0), unmet: 0 };

impl RowResult<'_> {
    /// Whether there is a finding that is not a mere note.
    pub fn has_finding(&self) -> bool {
        self.findings.iter().any(|finding| !finding.kind.is_note())
    }
}
