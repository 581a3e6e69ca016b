//! The findings file: one line for each finding and note.

use std::borrow::Cow;
use std::path::Path;

use notch_core::{About, Finding, FindingKind, Plan};

use super::Row;
use crate::csv::write_cell;
use crate::error::TableError;
use crate::output::{Format, NewFile, format_of};
use crate::workbook::CellsBook;

/// The columns of a list of findings.
pub const FINDING_COLUMNS: [&str; 8] = ["row", "line", "column", "cut", "kind", "reason", "cell", "value"];

/// A finding of a row as cells of a list of findings.
pub fn finding_cells<'r>(plan: &'r Plan, row: &Row<'r>, finding: &Finding<'r>) -> [Cow<'r, str>; 8] {
    let (origin, output) = match finding.about {
        About::Name { cut, name } => {
            (plan.origin(cut), plan.outputs().iter().position(|output| (output.cut, output.name_place) == (cut, name)))
        }
        About::Cut(cut) => (plan.origin(cut), None),
        About::Column(source) => (Some(source), None),
        About::Check(_) | About::Row => (None, None),
    };
    let source = origin.and_then(|origin| plan.sources().get(origin));
    // What was taken back for a finding is told all the same.
    let value = output.map(|output| row.new_cell(output)).filter(|value| !value.is_empty()).unwrap_or(finding.value);
    [
        row.number.to_string().into(),
        row.record.line.to_string().into(),
        source.map_or("", |source| &source.name).into(),
        plan.called(finding.about).into(),
        finding.kind.name().into(),
        finding.reason.into(),
        source.map(|source| row.source_cell(source.index)).unwrap_or_default(),
        value.into(),
    ]
}

pub(super) struct FindingsFile<'p> {
    to: Target,
    plan: &'p Plan,
    line: Vec<u8>,
}

enum Target {
    Text { file: NewFile, separator: u8 },
    Book(Box<CellsBook>),
}

impl<'p> FindingsFile<'p> {
    /// In the format that the file's ending says; comma-separated unless it says another.
    pub(super) fn create(path: &Path, plan: &'p Plan) -> Result<Self, TableError> {
        let to = match format_of(path) {
            Format::Workbook => Target::Book(Box::new(CellsBook::create(path, "Findings", &FINDING_COLUMNS)?)),
            Format::Text(separator) => Target::Text { file: NewFile::create(path)?, separator: separator.unwrap_or(b',') },
        };
        let is_text = matches!(to, Target::Text { .. });
        let mut file = Self { to, plan, line: Vec::new() };
        if is_text {
            file.write(&FINDING_COLUMNS.map(Cow::from))?;
        }
        Ok(file)
    }

    fn write(&mut self, cells: &[Cow<'_, str>; 8]) -> Result<(), TableError> {
        match &mut self.to {
            Target::Book(book) => book.write(cells.iter().map(|cell| Cow::from(&**cell))),
            Target::Text { file, separator } => {
                self.line.clear();
                for (n, cell) in cells.iter().enumerate() {
                    if n > 0 {
                        self.line.push(*separator);
                    }
                    write_cell(cell, *separator, &mut self.line);
                }
                self.line.push(b'\n');
                file.write(&self.line)
            }
        }
    }

    /// Lists what a row did.
    pub(super) fn row(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        row.findings.iter().try_for_each(|finding| self.write(&finding_cells(self.plan, row, finding)))
    }

    /// Lists a row that could not be read.
    pub(super) fn unreadable(&mut self, number: u64, line: u64, reason: &str) -> Result<(), TableError> {
        let (number, line) = (number.to_string(), line.to_string());
        self.write(&[&number, &line, "", "", FindingKind::Row.name(), reason, "", ""].map(Cow::from))
    }

    pub(super) fn finish(self) -> Result<(), TableError> {
        match self.to {
            Target::Text { file, .. } => file.finish(),
            Target::Book(book) => book.finish(),
        }
    }
}
