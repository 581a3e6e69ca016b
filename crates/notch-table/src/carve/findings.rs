//! The findings file: one line for each finding and note.

use std::borrow::Cow;
use std::path::Path;
use std::sync::Arc;

use notch_core::{About, Finding, FindingKind, Plan};

use super::Row;
use super::cells_out::cells_file;
use crate::cells::{CellColumn, CellsFile, cell};
use crate::csv::write_cell;
use crate::error::TableError;
use crate::output::{NewFile, To, format_of};
use crate::places::{Places, stood};
use crate::table::Table;

/// The columns of a list of findings; one for the file is there only where rows come of several.
pub(crate) fn finding_columns(of_several_files: bool) -> &'static [&'static str] {
    if of_several_files {
        &["row", "line", "column", "cut", "kind", "reason", "cell", "value", "file", "note"]
    } else {
        &["row", "line", "column", "cut", "kind", "reason", "cell", "value", "note"]
    }
}

/// A finding of a row as cells of a list of findings.
pub(crate) fn finding_cells<'r>(plan: &'r Plan, row: &Row<'r>, finding: &Finding<'r>) -> impl Iterator<Item = Cow<'r, str>> {
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
    let (line, file) = stood(row.places, row.record.line);
    let cells = [
        row.number.to_string().into(),
        line.to_string().into(),
        source.map_or("", |source| &source.name).into(),
        plan.called(finding.about).into(),
        finding.kind.name().into(),
        finding.reason.into(),
        source.map(|source| row.source_cell(source.index)).unwrap_or_default(),
        value.into(),
    ];
    let note = if finding.kind.is_note() { "yes" } else { "" };
    cells.into_iter().chain(file.map(Cow::from)).chain([note.into()])
}

pub(super) struct FindingsFile<'p> {
    to: Target,
    plan: &'p Plan,
    places: Option<Arc<Places>>,
    line: Vec<u8>,
}

enum Target {
    Text { file: NewFile, separator: u8 },
    Cells(Box<dyn CellsFile>),
}

impl<'p> FindingsFile<'p> {
    /// In the format that the file's ending says; comma-separated unless it says another.
    pub(super) fn create(path: &Path, plan: &'p Plan, table: &Table, replace: bool) -> Result<Self, TableError> {
        let (format, places) = (format_of(path), table.places());
        let columns = finding_columns(places.is_some());
        let to = match cells_file(To::File(path), format, "Findings", replace)? {
            Some(mut cells) => {
                // The first two are the numbers of the row and the line.
                let columns = columns.iter().enumerate();
                let columns = columns.map(|(n, name)| if n < 2 { CellColumn::integer(name) } else { CellColumn::text(name) });
                cells.begin(columns.collect(), None)?;
                Target::Cells(cells)
            }
            None => Target::Text { file: NewFile::create(path)?, separator: format.separator().unwrap_or(b',') },
        };
        let is_text = matches!(to, Target::Text { .. });
        let mut file = Self { to, plan, places, line: Vec::new() };
        if is_text {
            file.write(0, columns.iter().map(|name| Cow::from(*name)))?;
        }
        Ok(file)
    }

    fn write<'c>(&mut self, row: u64, cells: impl Iterator<Item = Cow<'c, str>>) -> Result<(), TableError> {
        match &mut self.to {
            Target::Cells(file) => file.row(row, &mut cells.map(cell)),
            Target::Text { file, separator } => {
                self.line.clear();
                write_line(cells, *separator, &mut self.line);
                file.write(&self.line)
            }
        }
    }

    /// Lists what a row did.
    pub(super) fn row(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        row.findings.iter().try_for_each(|finding| self.write(row.number, finding_cells(self.plan, row, finding)))
    }

    /// Lists a row that could not be read.
    pub(super) fn unreadable(&mut self, number: u64, line: u64, reason: &str) -> Result<(), TableError> {
        let places = self.places.clone();
        self.write(number, unreadable_cells(number, line, reason, places.as_deref()))
    }

    /// What divides its columns; `None` for what is no separated text.
    pub(super) fn separator(&self) -> Option<u8> {
        match &self.to {
            Target::Text { separator, .. } => Some(*separator),
            Target::Cells(_) => None,
        }
    }

    /// Takes lines that were encoded elsewhere.
    pub(super) fn text(&mut self, lines: &[u8]) -> Result<(), TableError> {
        match &mut self.to {
            Target::Text { file, .. } => file.write(lines),
            Target::Cells(_) => Ok(()),
        }
    }

    pub(super) fn finish(self) -> Result<(), TableError> {
        match self.to {
            Target::Text { file, .. } => file.finish(),
            Target::Cells(cells) => cells.finish().map(drop),
        }
    }
}

/// Writes the findings of a row as lines of a findings file.
pub(super) fn encode(plan: &Plan, row: &Row<'_>, separator: u8, into: &mut Vec<u8>) {
    row.findings.iter().for_each(|finding| write_line(finding_cells(plan, row, finding), separator, into));
}

/// Writes a row that could not be read as a line of a findings file.
pub(super) fn encode_unreadable((number, line): (u64, u64), reason: &str, places: Option<&Places>, separator: u8, into: &mut Vec<u8>) {
    write_line(unreadable_cells(number, line, reason, places), separator, into);
}

fn unreadable_cells<'r>(number: u64, line: u64, reason: &'r str, places: Option<&Places>) -> impl Iterator<Item = Cow<'r, str>> + use<'r> {
    let blank = || Cow::from("");
    let kind = FindingKind::Row.name().into();
    let (line, file) = stood(places, line);
    let cells = [number.to_string().into(), line.to_string().into(), blank(), blank(), kind, reason.into(), blank(), blank()];
    cells.into_iter().chain(file.map(Cow::from)).chain([blank()])
}

fn write_line<'c>(cells: impl Iterator<Item = Cow<'c, str>>, separator: u8, into: &mut Vec<u8>) {
    for (n, cell) in cells.enumerate() {
        if n > 0 {
            into.push(separator);
        }
        write_cell(&cell, separator, into);
    }
    into.push(b'\n');
}
