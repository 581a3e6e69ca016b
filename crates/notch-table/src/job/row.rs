//! A row that is written: its record, its new cells, its findings.

use std::borrow::Cow;

use keen_notch_core::{About, BatchResult, Cell, Finding, Plan};

use crate::cells::{ColumnBlock, OutCell, cell};
use crate::error::TableError;
use crate::formats::csv::{Record, Typed, cell_text};
use crate::input::line_map::LineMap;

/// A column of the output.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum OutColumn {
    /// A column of the table, by its place from 0.
    Source(usize),
    /// A new column, by its place among the plan's outputs.
    New(usize),
}

/// The new cells of a row.
#[derive(Clone, Copy)]
pub(super) enum NewCells<'r> {
    /// Of one that was evaluated by itself.
    Row(&'r [Cell<'r>]),
    /// Of one among others: its place in the batch.
    Batch(&'r BatchResult<'r>, usize),
}

/// A row that is written.
pub struct Row<'r> {
    /// Its number from 1, the header not counted.
    pub(super) number: u64,
    pub(super) record: Record<'r>,
    /// The text of its record; of a row that was no text, that of all cells.
    pub(super) text: &'r str,
    /// Where the cells of a row lie that was no text, and which row it is.
    pub(super) columns: Option<(&'r ColumnBlock, usize)>,
    pub(super) cells: NewCells<'r>,
    /// Its findings and notes.
    pub(crate) findings: &'r [Finding<'r>],
    /// Where it stood, if it comes of several files.
    pub(super) places: Option<&'r LineMap>,
}

impl<'r> Row<'r> {
    /// Its number from 1, the header not counted.
    pub fn number(&self) -> u64 {
        self.number
    }

    /// The line it begins in, from 1.
    pub fn line(&self) -> u64 {
        self.record.line
    }

    /// Whether it comes of one of several files.
    pub(crate) fn is_of_several_files(&self) -> bool {
        self.places.is_some()
    }

    /// The text of a column of the table, by its place from 0.
    pub fn source_cell(&self, index: usize) -> Cow<'r, str> {
        match self.columns {
            Some((columns, row)) => self.text[columns.cell(row, index)].into(),
            None => cell_text(self.raw_field(index)),
        }
    }

    /// A cell of the output, for formats that know cells.
    pub(crate) fn out_cell(&self, column: OutColumn) -> OutCell<'r> {
        cell(match column {
            OutColumn::Source(n) => self.source_cell(n),
            OutColumn::New(n) => self.new_cell(n).into(),
        })
    }

    /// What a column of the table holds in this row beside text, by its place from 0.
    pub(crate) fn typed(&self, index: usize) -> Option<Typed> {
        self.record
            .typed
            .iter()
            .find(|(column, _)| *column as usize == index)
            .map(|(_, typed)| *typed)
    }

    /// A field verbatim.
    pub fn raw_field(&self, index: usize) -> &'r str {
        &self.text[self.record.fields.at(index)]
    }

    /// Whether it has a finding that is no note.
    pub fn has_finding(&self) -> bool {
        self.findings.iter().any(|finding| !finding.kind.is_note())
    }

    /// The text of a new column, by its place among the plan's outputs.
    pub fn new_cell(&self, index: usize) -> &'r str {
        match self.cells {
            NewCells::Row(cells) => cells.get(index).map_or("", |cell| cell.text),
            NewCells::Batch(batch, row) => batch.text(row, index),
        }
    }
}

/// A finding that stopped the work, in the row that begins in `line`.
pub(super) fn stopped(
    name: &str,
    line: u64,
    plan: &Plan,
    finding: &Finding<'_>,
    rows_gone: bool,
) -> TableError {
    let about = match finding.about {
        About::Column(source) => plan.sources().get(source).map_or("", |source| &source.name),
        about => plan.called(about),
    };
    let said = format!("{about}, {}: {}", finding.kind.name(), finding.reason);
    TableError::Finding { name: name.to_owned(), line, said, rows_gone }
}
