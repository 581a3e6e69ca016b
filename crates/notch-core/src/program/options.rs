//! What cuts are compiled for, and what may be wrong with them.

use std::collections::BTreeMap;
use std::ops::Range;

use super::output_type::OutputType;
use crate::language::{CutError, Rule};
use crate::list::Lists;
use crate::text::ByteWidth;

/// What the cuts are compiled for, beside the table's columns.
#[derive(Debug, Clone, Default)]
pub struct PlanOptions {
    /// The column a cut starts from when it names none.
    pub start: Option<String>,
    /// The columns that new ones of the same name may replace.
    pub replace: Vec<String>,
    /// The lists that cuts may name.
    pub lists: Lists,
    /// What the table itself must be like, before any cut.
    pub columns: Vec<ColumnRule>,
    /// What must hold for every row, after all cuts: title and rule.
    pub checks: Vec<(String, Rule)>,
    /// Which rows are written; all when not given.
    pub only_rows: Option<Rule>,
    /// What a finding does to its row.
    pub on_finding: OnFinding,
    /// What a finding of a cut does, where that is said of the cut itself, by the cut's place from
    /// 0.
    pub on_finding_of: BTreeMap<usize, OnFinding>,
    /// How many bytes a text takes where the table comes from, when that is not UTF-8.
    pub byte_width: Option<ByteWidth>,
    /// How many bytes a text that a cut makes may have; [`CELL_LIMIT`] when not given.
    pub cell_limit: Option<usize>,
}

/// How many bytes a text that a cut makes may have: 16 MiB.
pub const CELL_LIMIT: usize = 16 << 20;

/// What is demanded of a column of the table.
#[derive(Debug, Clone, Default)]
pub struct ColumnRule {
    /// The column.
    pub column: String,
    /// It must be filled in every row.
    pub required: bool,
    /// No text may stand in it twice.
    pub unique: bool,
    /// What must hold for its text where it is filled.
    pub check: Option<Rule>,
    /// The type that it is written with, where outputs have types: its texts must fit it.
    pub output_type: Option<OutputType>,
}

/// What a finding does to its row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum OnFinding {
    /// The row is written as it is.
    #[default]
    Keep,
    /// The new cells with a finding are blank, and later cuts see them so.
    Blank,
    /// The row is kept out of the output.
    Reject,
    /// The work stops.
    Stop,
}

/// Which rule a [`PlanError`] is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RulePlace {
    /// The name of one of [`PlanOptions::columns`], from 0.
    ColumnName(usize),
    /// The check of one of [`PlanOptions::columns`], from 0.
    ColumnCheck(usize),
    /// One of [`PlanOptions::checks`], from 0.
    Check(usize),
    /// [`PlanOptions::only_rows`].
    OnlyRows,
}

/// Cuts that do not suit the table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PlanError {
    /// One of the cuts is wrong: its place, from 0, and the error in its text.
    Cut(usize, CutError),
    /// A rule is wrong: which, and the error in its text.
    Rule(RulePlace, CutError),
    /// An option is wrong: the option and what is wrong with it.
    Option {
        /// Which of [`PlanOptions`]: `start` or `replace`.
        option: &'static str,
        /// One sentence.
        message: String,
        /// What to write instead, one sentence each.
        remedies: Vec<String>,
    },
}

impl std::fmt::Display for PlanError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            PlanError::Cut(n, error) => write!(f, "cut {}: {error}", n + 1),
            PlanError::Rule(_, error) => write!(f, "{error}"),
            PlanError::Option { message, .. } => f.write_str(message),
        }
    }
}

impl std::error::Error for PlanError {}

/// A span that lies in no text the user wrote.
pub(crate) const NOWHERE: Range<usize> = 0..0;
