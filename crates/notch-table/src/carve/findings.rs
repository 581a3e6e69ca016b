//! The findings file: one line for each finding and note.

use std::borrow::Cow;
use std::path::Path;

use notch_core::{About, Finding, FindingKind, Plan};

use super::Row;
use crate::csv::write_cell;
use crate::error::TableError;
use crate::json::ObjectsFile;
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
    Objects(Box<ObjectsFile>),
}

impl<'p> FindingsFile<'p> {
    /// In the format that the file's ending says; comma-separated unless it says another.
    pub(super) fn create(path: &Path, plan: &'p Plan) -> Result<Self, TableError> {
        let to = match format_of(path) {
            Format::Workbook => Target::Book(Box::new(CellsBook::create(path, "Findings", &FINDING_COLUMNS)?)),
            Format::Json { in_array } => {
                let mut objects = ObjectsFile::new(NewFile::create(path)?, in_array);
                objects.begin(FINDING_COLUMNS.iter().copied())?;
                Target::Objects(Box::new(objects))
            }
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
            // The first two are the numbers of the row and the line.
            Target::Objects(objects) => objects.write(cells.iter().enumerate().map(|(n, cell)| (Cow::from(&**cell), n < 2))),
            Target::Text { file, separator } => {
                self.line.clear();
                write_line(cells, *separator, &mut self.line);
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
        self.write(&unreadable_cells(number, line, reason))
    }

    /// What divides its columns; `None` for what is no separated text.
    pub(super) fn separator(&self) -> Option<u8> {
        match &self.to {
            Target::Text { separator, .. } => Some(*separator),
            Target::Book(_) | Target::Objects(_) => None,
        }
    }

    /// Takes lines that were encoded elsewhere.
    pub(super) fn text(&mut self, lines: &[u8]) -> Result<(), TableError> {
        match &mut self.to {
            Target::Text { file, .. } => file.write(lines),
            Target::Book(_) | Target::Objects(_) => Ok(()),
        }
    }

    pub(super) fn finish(self) -> Result<(), TableError> {
        match self.to {
            Target::Text { file, .. } => file.finish(),
            Target::Book(book) => book.finish(),
            Target::Objects(objects) => objects.finish(),
        }
    }
}

/// Writes the findings of a row as lines of a findings file.
pub(super) fn encode(plan: &Plan, row: &Row<'_>, separator: u8, into: &mut Vec<u8>) {
    row.findings.iter().for_each(|finding| write_line(&finding_cells(plan, row, finding), separator, into));
}

/// Writes a row that could not be read as a line of a findings file.
pub(super) fn encode_unreadable(number: u64, line: u64, reason: &str, separator: u8, into: &mut Vec<u8>) {
    write_line(&unreadable_cells(number, line, reason), separator, into);
}

fn unreadable_cells(number: u64, line: u64, reason: &str) -> [Cow<'_, str>; 8] {
    let blank = || Cow::from("");
    let kind = FindingKind::Row.name().into();
    [number.to_string().into(), line.to_string().into(), blank(), blank(), kind, reason.into(), blank(), blank()]
}

fn write_line(cells: &[Cow<'_, str>; 8], separator: u8, into: &mut Vec<u8>) {
    for (n, cell) in cells.iter().enumerate() {
        if n > 0 {
            into.push(separator);
        }
        write_cell(cell, separator, into);
    }
    into.push(b'\n');
}
