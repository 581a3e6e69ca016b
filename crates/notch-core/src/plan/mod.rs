//! Syntax trees + the table's columns → compiled cuts.

mod columns;
mod compile;
mod rules;
mod templates;
mod watched;

pub(crate) use compile::{Branches, CompiledChain, CompiledCut, CompiledPiece, CompiledSource, Written};
pub(crate) use rules::{CompiledCheck, CompiledColumn};

use std::collections::BTreeMap;
use std::ops::Range;

use crate::eval::Search;
use crate::eval::condition::Condition;
use crate::finding::About;
use crate::hint::Watches;
use crate::language::{Assignment, CutError, Rule};
use crate::list::Lists;
use crate::text::ByteWidth;
use crate::words::OutputType;

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
    /// What must hold for every row, behind all cuts: title and rule.
    pub checks: Vec<(String, Rule)>,
    /// Which rows are written; all when unsaid.
    pub only_rows: Option<Rule>,
    /// What a finding does to its row.
    pub on_finding: OnFinding,
    /// What a finding of a cut does, where that is said of the cut itself, by the cut's place from 0.
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

/// A column of the table that cuts start from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourceColumn {
    /// Its place in the table, from 0.
    pub index: usize,
    /// Its name in the header.
    pub name: String,
}

/// A column that is written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Output {
    /// Its name.
    pub name: String,
    /// The cut it comes from, from 0.
    pub cut: usize,
    /// Its place among the cut's names, from 0.
    pub name_place: usize,
    /// The place in the table, from 0, of the column it replaces.
    pub replaces: Option<usize>,
    /// Its type where the output has types.
    pub output_type: OutputType,
}

/// Cuts compiled against the columns of a table: immutable, to be shared between threads.
pub struct Plan {
    pub(crate) cuts: Vec<CompiledCut>,
    /// What is looked for in all cells of a source before any cut.
    pub(crate) searches: Vec<Search>,
    sources: Vec<SourceColumn>,
    outputs: Vec<Output>,
    pub(crate) columns: Vec<CompiledColumn>,
    pub(crate) checks: Vec<CompiledCheck>,
    pub(crate) only_rows: Option<Condition>,
    /// What is asked whether it is unique.
    pub(crate) uniques: Vec<CompiledSource>,
    /// What is counted over all rows for hints.
    pub(crate) watches: Watches,
    on_finding: OnFinding,
    on_finding_of: BTreeMap<usize, OnFinding>,
    pub(crate) cell_limit: usize,
}

impl Plan {
    /// Compiles cuts for a table with these columns, in the order of the table.
    ///
    /// # Errors
    /// The first cut or option that does not suit the table, with the place and the remedy.
    pub fn compile(cuts: &[Assignment], columns: &[String], options: &PlanOptions) -> Result<Plan, PlanError> {
        compile::compile(cuts, columns, options)
    }

    /// The columns of the table that [`Plan::evaluate`] wants the cells of, in this order.
    pub fn sources(&self) -> &[SourceColumn] {
        &self.sources
    }

    /// The columns that are written, in the order of the cuts.
    pub fn outputs(&self) -> &[Output] {
        &self.outputs
    }

    /// The left side of a cut as written, without the question marks.
    pub fn left_side(&self, cut: usize) -> &str {
        &self.cuts[cut].left
    }

    /// The names on the left of a cut.
    pub fn names(&self, cut: usize) -> impl ExactSizeIterator<Item = &str> {
        self.cuts[cut].names.iter().map(|name| name.text.as_str())
    }

    /// The texts of a cut's chains, in order: more than one when the cut has an `else`.
    pub fn branches(&self, cut: usize) -> impl ExactSizeIterator<Item = &str> {
        self.cuts[cut].branches.chains.iter().map(|chain| chain.label.as_str())
    }

    /// The source a cut starts from, as its place in [`Plan::sources`], when its first chain starts from a column, be it by way of
    /// cuts above.
    pub fn origin(&self, cut: usize) -> Option<usize> {
        self.cuts[cut].first_origin
    }

    /// The source that a finding is about: the column itself, or the one that its cut starts from.
    pub fn origin_of(&self, about: About) -> Option<usize> {
        match about {
            About::Column(source) => Some(source),
            about => about.cut().and_then(|cut| self.origin(cut)),
        }
    }

    /// What findings call what they are about; the empty text for a column of the table and a row as a whole.
    pub fn called(&self, about: About) -> &str {
        match about {
            About::Name { cut, name } => self.names(cut).nth(name).unwrap_or_default(),
            About::Cut(cut) => &self.cuts[cut].called,
            About::Check(check) => self.checks().nth(check).unwrap_or_default(),
            About::Column(_) | About::Row => "",
        }
    }

    /// The titles of the checks of whole rows, in order.
    pub fn checks(&self) -> impl ExactSizeIterator<Item = &str> {
        self.checks.iter().map(|check| check.title.as_str())
    }

    /// What a finding does to its row.
    pub fn on_finding(&self, about: About) -> OnFinding {
        about.cut().and_then(|cut| self.on_finding_of.get(&cut)).copied().unwrap_or(self.on_finding)
    }

    /// Whether any finding does this to its row.
    pub fn ever(&self, action: OnFinding) -> bool {
        self.on_finding == action || self.on_finding_of.values().any(|of_cut| *of_cut == action)
    }

    /// Whether rows can be evaluated only after [`Plan::gather`] has seen them all.
    pub fn needs_all_rows(&self) -> bool {
        !self.uniques.is_empty()
    }

    /// Whether nothing is to be said of a row with these cells of the sources, apart from what its cuts make of them: all columns are as
    /// demanded, all checks of the row can be made and are met. `false` also where that cannot be told from the cells.
    pub(crate) fn is_usual<'c>(&self, cell: &impl Fn(usize) -> Option<&'c str>) -> bool {
        let is_filled = |source: usize| cell(source).is_some_and(|text| !text.trim_start().is_empty());
        let column_is = |column: &CompiledColumn| match is_filled(column.source) {
            true => column.checks.iter().all(|check| check.is_met_by(cell(column.source), cell)),
            false => !column.required,
        };
        let is_there = |source: &CompiledSource| matches!(source, CompiledSource::Column(n) if is_filled(*n));
        self.only_rows.is_none()
            && self.uniques.is_empty()
            && self.columns.iter().all(column_is)
            && self.checks.iter().all(|check| check.needs.iter().all(is_there) && check.demand.is_met_by(None, cell))
    }

    /// Whether something is asked of rows beside what each cut makes of its cell.
    pub(crate) fn looks_at_rows(&self) -> bool {
        !(self.columns.is_empty() && self.checks.is_empty() && self.only_rows.is_none() && self.uniques.is_empty())
    }

    /// How many cuts there are.
    pub fn len(&self) -> usize {
        self.cuts.len()
    }

    /// Whether there are no cuts.
    pub fn is_empty(&self) -> bool {
        self.cuts.is_empty()
    }
}

/// A span that lies in no text the user wrote.
pub(crate) const NOWHERE: Range<usize> = 0..0;
