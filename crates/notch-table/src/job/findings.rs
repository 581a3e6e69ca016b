//! The findings file: one line for each finding and note.

use std::borrow::Cow;
use std::path::Path;

use keen_notch_core::Plan;

use super::carving::Carving;
use super::finding_cells::{finding_cells, finding_columns, unreadable_cells};
use super::row::Row;
use super::sinks::{cells_file, guard};
use crate::cells::{CellColumn, CellWriter, cell};
use crate::error::TableError;
use crate::format::format_of;
use crate::formats::csv::write_cell;
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
            None => Target::Text {
                file: NewFile::create(path)?,
                separator: format.separator().unwrap_or(b','),
            },
        };
        let is_text = matches!(to, Target::Text { .. });
        let mut file = Self { to, line: Vec::new(), guard_formulas: false };
        if is_text {
            file.write(0, columns.iter().map(|name| Cow::from(*name)))?;
        }
        Ok(file)
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
        let (line, file) = places.stood(line);
        let (row, line) = (row.to_string(), line.to_string());
        let cells = [&row, &line, column, "", ODD, reason, cell, ""].map(Cow::from);
        self.write(0, cells.into_iter().chain(file.map(Cow::from)).chain(["".into()]))
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
        self.write(row, unreadable_cells(row, line, reason, places.0.as_deref()))
    }

    fn write<'c>(
        &mut self,
        row: u64,
        cells: impl Iterator<Item = Cow<'c, str>>,
    ) -> Result<(), TableError> {
        match &mut self.to {
            Target::Cells(file) => file.row(row, &mut cells.map(cell)),
            Target::Text { file, separator } => {
                self.line.clear();
                write_line(cells, *separator, self.guard_formulas, &mut self.line);
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
        row.findings.iter().try_for_each(|finding| {
            self.out.write(row.number, finding_cells(self.plan, row, finding))
        })
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
    row.findings
        .iter()
        .for_each(|finding| write_line(finding_cells(plan, row, finding), separator, false, into));
}

/// Writes a row that could not be read as a line of a findings file.
pub(super) fn encode_unreadable(
    (number, line): (u64, u64),
    reason: &str,
    places: Option<&LineMap>,
    separator: u8,
    into: &mut Vec<u8>,
) {
    write_line(unreadable_cells(number, line, reason, places), separator, false, into);
}

fn write_line<'c>(
    cells: impl Iterator<Item = Cow<'c, str>>,
    separator: u8,
    guard_formulas: bool,
    into: &mut Vec<u8>,
) {
    for (n, cell) in cells.enumerate() {
        if n > 0 {
            into.push(separator);
        }
        let from = into.len();
        write_cell(&cell, separator, into);
        if guard_formulas {
            guard(into, from);
        }
    }
    into.push(b'\n');
}
