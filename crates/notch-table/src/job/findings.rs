//! The findings file: one line for each finding and note.

use std::path::Path;

use keen_notch_core::Plan;

use super::carving::Carving;
use super::finding_lines::{FindingLine, finding_columns};
use super::row::Row;
use super::sinks::cells_file;
use crate::cells::{CellColumn, CellWriter, cell};
use crate::error::TableError;
use crate::format::format_of;
use crate::input::line_map::{LineMap, Whereabouts};
use crate::output::{Finished, NewFile, To};
use crate::table::Table;

/// The kind of what is odd about a cell without any cut or check having found it.
const ODD: &str = "odd";

/// A file of findings, in the format that its ending says; comma-separated unless it says another.
pub struct FindingsOut {
    to: Target,
    line: Vec<u8>,
    guard_formulas: bool,
}

enum Target {
    Text { file: NewFile, separator: u8 },
    Cells(Box<dyn CellWriter>),
}

impl FindingsOut {
    /// Begins one, with a column for the file where rows come of several; `replace` allows for a
    /// table of findings in a database.
    ///
    /// # Errors
    /// It cannot be written there.
    pub fn create(path: &Path, of_several_files: bool, replace: bool) -> Result<Self, TableError> {
        let (format, columns) = (format_of(path), finding_columns(of_several_files));
        let to = match cells_file(To::File(path), format, "Findings", replace)? {
            Some(mut cells) => {
                // The first two are the numbers of the row and the line.
                let columns = columns.iter().enumerate();
                let columns = columns.map(|(n, name)| {
                    if n < 2 { CellColumn::integer(name) } else { CellColumn::text(name) }
                });
                cells.begin(columns.collect(), None)?;
                Target::Cells(cells)
            }
            None => {
                let separator = format.separator().unwrap_or(b',');
                let mut file = NewFile::create(path)?;
                let heads = columns.join(&*char::from(separator).to_string()) + "\n";
                file.write(heads.as_bytes())?;
                Target::Text { file, separator }
            }
        };
        Ok(Self { to, line: Vec::new(), guard_formulas: false })
    }

    /// Lists what is odd about the cell of a column, as it was found without any cut.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn odd(
        &mut self,
        (row, line): (u64, u64),
        (column, cell): (&str, &str),
        reason: &str,
        places: &Whereabouts,
    ) -> Result<(), TableError> {
        let said = [column, ODD, reason, cell];
        self.write(&FindingLine::of_place((row, line), said, places.0.as_deref()))
    }

    /// Lists a row that cannot be read.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn unreadable(
        &mut self,
        (row, line): (u64, u64),
        reason: &str,
        places: &Whereabouts,
    ) -> Result<(), TableError> {
        self.write(&FindingLine::unreadable((row, line), reason, places.0.as_deref()))
    }

    fn write(&mut self, line: &FindingLine<'_>) -> Result<(), TableError> {
        match &mut self.to {
            Target::Cells(file) => file.row(line.row(), &mut line.cells().map(cell)),
            Target::Text { file, separator } => {
                self.line.clear();
                line.write(*separator, self.guard_formulas, &mut self.line);
                file.write(&self.line)
            }
        }
    }

    /// Makes it whole.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn finish(self) -> Result<Finished, TableError> {
        match self.to {
            Target::Text { file, .. } => Finished::file(file),
            Target::Cells(cells) => cells.finish(),
        }
    }
}

/// The findings of a plan's rows as a file.
pub(super) struct FindingsFile<'p> {
    out: FindingsOut,
    plan: &'p Plan,
    places: Whereabouts,
}

impl<'p> FindingsFile<'p> {
    pub(super) fn create(
        path: &Path,
        plan: &'p Plan,
        table: &Table,
        carving: &Carving<'_>,
    ) -> Result<Self, TableError> {
        let places = table.whereabouts();
        let mut out = FindingsOut::create(path, places.has_files(), carving.replace_table)?;
        out.guard_formulas = carving.guard_formulas;
        Ok(Self { out, plan, places })
    }

    /// Lists what a row did.
    pub(super) fn row(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        row.findings
            .iter()
            .try_for_each(|finding| self.out.write(&FindingLine::new(self.plan, row, finding)))
    }

    /// Lists a row that could not be read.
    pub(super) fn unreadable(
        &mut self,
        number: u64,
        line: u64,
        reason: &str,
    ) -> Result<(), TableError> {
        self.out.unreadable((number, line), reason, &self.places)
    }

    /// What divides its columns; `None` for what is no separated text.
    pub(super) fn separator(&self) -> Option<u8> {
        match &self.out.to {
            Target::Text { separator, .. } => Some(*separator),
            Target::Cells(_) => None,
        }
    }

    /// Takes lines that were encoded elsewhere.
    pub(super) fn text(&mut self, lines: &[u8]) -> Result<(), TableError> {
        match &mut self.out.to {
            Target::Text { file, .. } => file.write(lines),
            Target::Cells(_) => Ok(()),
        }
    }

    pub(super) fn finish(self) -> Result<Finished, TableError> {
        self.out.finish()
    }
}

/// Writes the findings of a row as lines of a findings file.
pub(super) fn encode(plan: &Plan, row: &Row<'_>, separator: u8, into: &mut Vec<u8>) {
    let lines = row.findings.iter().map(|finding| FindingLine::new(plan, row, finding));
    lines.for_each(|line| line.write(separator, false, into));
}

/// Writes a row that could not be read as a line of a findings file.
pub(super) fn encode_unreadable(
    place: (u64, u64),
    reason: &str,
    places: Option<&LineMap>,
    separator: u8,
    into: &mut Vec<u8>,
) {
    FindingLine::unreadable(place, reason, places).write(separator, false, into);
}
