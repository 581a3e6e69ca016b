//! The findings file: one line for each finding and note.

use std::path::Path;

use notch_core::{About, Finding, FindingKind, Plan};

use super::Row;
use crate::csv::write_cell;
use crate::error::TableError;
use crate::output::NewFile;

const COLUMNS: [&str; 8] = ["row", "line", "column", "cut", "kind", "reason", "cell", "value"];

pub(super) struct FindingsFile<'p> {
    file: NewFile,
    plan: &'p Plan,
    separator: u8,
    /// For each name of each cut its place among the outputs.
    outputs: Vec<Vec<Option<usize>>>,
    line: Vec<u8>,
}

impl<'p> FindingsFile<'p> {
    /// Comma-separated, unless the file's ending says tabs.
    pub(super) fn create(path: &Path, plan: &'p Plan) -> Result<Self, TableError> {
        let tabs = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("tsv"));
        let mut outputs: Vec<Vec<Option<usize>>> = (0..plan.len()).map(|cut| vec![None; plan.names(cut).len()]).collect();
        for (place, output) in plan.outputs().iter().enumerate() {
            outputs[output.cut][output.name_place] = Some(place);
        }
        let mut file = Self { file: NewFile::create(path)?, plan, separator: if tabs { b'\t' } else { b',' }, outputs, line: Vec::new() };
        file.write(COLUMNS)?;
        Ok(file)
    }

    fn write(&mut self, cells: [&str; 8]) -> Result<(), TableError> {
        self.line.clear();
        for (n, cell) in cells.iter().enumerate() {
            if n > 0 {
                self.line.push(self.separator);
            }
            write_cell(cell, self.separator, &mut self.line);
        }
        self.line.push(b'\n');
        self.file.write(&self.line)
    }

    /// Lists what a row did.
    pub(super) fn row(&mut self, number: u64, row: &Row<'_>, findings: &[Finding<'_>]) -> Result<(), TableError> {
        for finding in findings {
            let plan = self.plan;
            let (origin, output) = match finding.about {
                About::Name { cut, name } => (plan.origin(cut), self.outputs[cut][name]),
                About::Cut(cut) => (plan.origin(cut), None),
                About::Column(source) => (Some(source), None),
                About::Check(_) | About::Row => (None, None),
            };
            let source = origin.and_then(|origin| plan.sources().get(origin));
            let cell = source.map(|source| row.source_cell(source.index)).unwrap_or_default();
            // What was taken back for a finding is told all the same.
            let value = output.map(|output| row.new_cell(output)).filter(|value| !value.is_empty()).unwrap_or(finding.value);
            self.write([
                &number.to_string(),
                &row.record.line.to_string(),
                source.map_or("", |source| &source.name),
                plan.called(finding.about),
                finding.kind.name(),
                finding.reason,
                &cell,
                value,
            ])?;
        }
        Ok(())
    }

    /// Lists a row that could not be read.
    pub(super) fn unreadable(&mut self, number: u64, line: u64, reason: &str) -> Result<(), TableError> {
        self.write([&number.to_string(), &line.to_string(), "", "", FindingKind::Row.name(), reason, "", ""])
    }

    pub(super) fn finish(self) -> Result<(), TableError> {
        self.file.finish()
    }
}
