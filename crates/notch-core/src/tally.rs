//! Counts over all rows, for the summary after a run.

use std::collections::BTreeMap;

use crate::evaluate::RowResult;
use crate::finding::{About, FindingKind};
use crate::plan::Plan;
use crate::shape::ShapeCounts;

/// How many different findings are told apart; reasons may hold figures of the data.
const MOST_FINDINGS: usize = 1000;

/// What a run has counted.
#[derive(Debug, Default)]
pub struct Tally {
    /// For each of [`Plan::outputs`].
    pub outputs: Vec<OutputTally>,
    /// For each cut.
    pub cuts: Vec<CutTally>,
    /// The findings and notes by what they are about, kind and reason, in that order.
    findings: BTreeMap<(About, FindingKind), BTreeMap<Box<str>, FindingTally>>,
    /// How many different reasons are told apart so far.
    reasons: usize,
    /// Rows with at least one finding that is not a note.
    pub rows_with_findings: u64,
}

/// Counts of one new column.
#[derive(Debug, Default, Clone)]
pub struct OutputTally {
    /// Rows in which it has a text.
    pub filled: u64,
    /// Rows in which it is blank.
    pub blank: u64,
    /// The shapes of its texts.
    pub shapes: ShapeCounts,
}

/// Counts of one cut.
#[derive(Debug, Default, Clone)]
pub struct CutTally {
    /// How many rows each chain has yielded the value of.
    pub branches: Vec<u64>,
    /// In how many rows the condition of each chain did not hold.
    pub unmet: Vec<u64>,
    /// Rows in which no chain did.
    pub none: u64,
}

/// Counts of one finding.
#[derive(Debug, Default, Clone)]
pub struct FindingTally {
    /// How often it was made.
    pub count: u64,
    /// The line of the first row that has it.
    pub first_line: u64,
}

impl Tally {
    /// An empty tally for a plan.
    pub fn new(plan: &Plan) -> Self {
        Self {
            outputs: vec![OutputTally::default(); plan.outputs().len()],
            cuts: (0..plan.len())
                .map(|cut| CutTally { branches: vec![0; plan.branches(cut).len()], unmet: vec![0; plan.branches(cut).len()], none: 0 })
                .collect(),
            ..Self::default()
        }
    }

    /// Counts a row that begins in line `line` of the input.
    pub fn add(&mut self, result: &RowResult<'_>, line: u64) {
        for (output, cell) in self.outputs.iter_mut().zip(result.cells) {
            if cell.text.is_empty() {
                output.blank += 1;
            } else {
                output.filled += 1;
                output.shapes.add(cell.text);
            }
        }
        for (cut, branch) in self.cuts.iter_mut().zip(result.branches) {
            match branch.taken {
                Some(taken) => cut.branches[taken] += 1,
                None => cut.none += 1,
            }
            if branch.unmet != 0 {
                cut.unmet.iter_mut().enumerate().take(64).filter(|(n, _)| branch.unmet & (1 << n) != 0).for_each(|(_, unmet)| *unmet += 1);
            }
        }
        self.rows_with_findings += u64::from(result.has_finding());
        for finding in result.findings {
            self.find(finding.about, finding.kind, finding.reason, line);
        }
    }

    /// Counts a row that could not be read.
    pub fn unreadable(&mut self, reason: &str, line: u64) {
        self.rows_with_findings += 1;
        self.find(About::Row, FindingKind::Row, reason, line);
    }

    fn find(&mut self, about: About, kind: FindingKind, reason: &str, line: u64) {
        let reasons = self.findings.entry((about, kind)).or_default();
        if !reasons.contains_key(reason) {
            if self.reasons >= MOST_FINDINGS {
                let others = reasons.entry("other reasons".into()).or_insert(FindingTally { count: 0, first_line: line });
                others.count += 1;
                return;
            }
            self.reasons += 1;
            reasons.insert(reason.into(), FindingTally { count: 0, first_line: line });
        }
        if let Some(tally) = reasons.get_mut(reason) {
            tally.count += 1;
        }
    }

    /// How many findings of a kind there are about something.
    pub fn count(&self, about: About, kind: FindingKind) -> u64 {
        self.findings.get(&(about, kind)).map_or(0, |reasons| reasons.values().map(|tally| tally.count).sum())
    }

    /// All findings and notes: what about, kind, reason, counts; in the order of the cuts, each with the commonest reason first.
    pub fn findings(&self) -> Vec<(About, FindingKind, &str, &FindingTally)> {
        let mut all = Vec::new();
        for ((about, kind), reasons) in &self.findings {
            let from = all.len();
            all.extend(reasons.iter().map(|(reason, tally)| (*about, *kind, &**reason, tally)));
            all[from..].sort_by_key(|(.., tally)| std::cmp::Reverse(tally.count));
        }
        // What is said of a cut as a whole stands beside what is said of its names.
        all.sort_by_key(|(about, ..)| (about.cut().is_none(), about.cut()));
        all
    }
}
