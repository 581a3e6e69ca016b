//! Syntax trees + the table's columns → compiled cuts.

mod columns;
mod compile;

pub(crate) use compile::{Branches, CompiledChain, CompiledCut, CompiledPiece, CompiledSource, Written};

use std::collections::BTreeMap;
use std::ops::Range;

use crate::language::{Assignment, CutError};
use crate::steps::OutputType;

/// What the cuts are compiled for, beside the table's columns.
#[derive(Debug, Clone, Default)]
pub struct PlanOptions {
    /// The column a cut starts from when it names none.
    pub start: Option<String>,
    /// The columns that new ones of the same name may replace.
    pub replace: Vec<String>,
    /// The lists that cuts may name.
    pub lists: BTreeMap<String, Vec<String>>,
}

/// Cuts that do not suit the table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PlanError {
    /// One of the cuts is wrong: its place, from 0, and the error in its text.
    Cut(usize, CutError),
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
    sources: Vec<SourceColumn>,
    outputs: Vec<Output>,
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

    /// What findings call a cut: its left side as written, without the question marks.
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

    /// The source a cut starts from, as its place in [`Plan::sources`], when its first chain starts from a column.
    pub fn origin(&self, cut: usize) -> Option<usize> {
        self.cuts[cut].origin
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
