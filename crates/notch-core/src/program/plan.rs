//! A plan: cuts compiled against the columns of a table.

use std::collections::BTreeMap;

use super::cut::{CompiledCheck, CompiledColumn, CompiledCut, CompiledSource, Condition, Search};
use super::options::OnFinding;
use super::output_type::OutputType;
use super::watch::Watches;
use crate::finding::About;

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
    pub(crate) sources: Vec<SourceColumn>,
    pub(crate) outputs: Vec<Output>,
    pub(crate) columns: Vec<CompiledColumn>,
    pub(crate) checks: Vec<CompiledCheck>,
    pub(crate) only_rows: Option<Condition>,
    /// What is asked whether it is unique.
    pub(crate) uniques: Vec<CompiledSource>,
    /// What is counted over all rows for hints.
    pub(crate) watches: Watches,
    pub(crate) on_finding: OnFinding,
    pub(crate) on_finding_of: BTreeMap<usize, OnFinding>,
    pub(crate) cell_limit: usize,
}

impl Plan {
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

    /// The source a cut starts from, as its place in [`Plan::sources`], when its first chain starts
    /// from a column, be it by way of cuts above.
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

    /// What findings call what they are about; the empty text for a column of the table and a row
    /// as a whole.
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

    /// How many cuts there are.
    pub fn len(&self) -> usize {
        self.cuts.len()
    }

    /// Whether there are no cuts.
    pub fn is_empty(&self) -> bool {
        self.cuts.is_empty()
    }
}
