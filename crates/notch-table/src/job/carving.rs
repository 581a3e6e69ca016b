//! What is to be done with a table, and what was done.

use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use keen_notch_core::{AllRows, Plan, Tally, TallyPart, TextsTold};

use super::row::OutColumn;
use crate::input::line_map::Whereabouts;

/// What is to be done with a table.
pub struct Carving<'c> {
    /// The cuts.
    pub plan: &'c Plan,
    /// What is written, in order.
    pub columns: Vec<OutColumn>,
    /// The file the findings are listed in.
    pub findings: Option<PathBuf>,
    /// The file that takes the rows that are rejected and the rows that cannot be read.
    pub rejects: Option<PathBuf>,
    /// Tables of these files may be replaced where they are databases and have them already.
    pub replace_table: bool,
    /// Cells of separated text that a spreadsheet program would run are written so that it shows
    /// them, in findings and rejects too.
    pub guard_formulas: bool,
    /// Rows that cannot be read are findings like others, even without a file that takes them.
    pub lists_unreadable: bool,
    /// What is told of texts.
    pub texts: TextsTold,
    /// What was counted is kept for tallies of several parts as well.
    pub keeps_part: bool,
    /// What the first pass has gathered, for a plan that needs it.
    pub all_rows: Option<Arc<AllRows>>,
    /// How many bytes are worked on at a time, where it is not for this program to say; what comes
    /// of it is the same.
    pub block: Option<usize>,
    /// Is told how far the work has come, now and then.
    pub progress: Option<&'c (dyn Fn(Progress) + Sync)>,
    /// Becomes true when the work is to stop.
    pub interrupt: Option<&'c AtomicBool>,
}

/// How far the work has come.
#[derive(Debug, Clone, Copy)]
pub struct Progress {
    /// Rows so far.
    pub rows: u64,
    /// Bytes of the input since the last time.
    pub bytes: u64,
}

impl<'c> Carving<'c> {
    /// The cuts over all rows, these columns written, and nothing else asked for.
    pub fn new(plan: &'c Plan, columns: Vec<OutColumn>) -> Self {
        Self {
            plan,
            columns,
            findings: None,
            rejects: None,
            replace_table: false,
            guard_formulas: false,
            lists_unreadable: false,
            texts: TextsTold::default(),
            keeps_part: false,
            all_rows: None,
            block: None,
            progress: None,
            interrupt: None,
        }
    }
}

/// What a run has done.
#[derive(Debug, Default)]
pub struct Summary {
    /// Rows read, those that could not be read included.
    pub read: u64,
    /// Rows written.
    pub written: u64,
    /// Rows put into the rejects file.
    pub rejected: u64,
    /// Rows that were not asked for.
    pub left_out: u64,
    /// Rows that could not be read.
    pub unreadable: u64,
    /// Lines with nothing in them, passed over.
    pub empty_lines: u64,
    /// Counts of the cuts.
    pub tally: Tally,
    /// The same to be put together with that of other parts of a table, where that was asked for.
    pub part: Option<TallyPart>,
    /// What the output says of itself, one sentence each.
    pub said: Vec<String>,
    /// Where the lines that were counted stood.
    pub places: Whereabouts,
}
