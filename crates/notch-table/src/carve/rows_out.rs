//! Rows out as separated text, to a file or standard output.

use std::io::{self, Write};

use notch_core::Plan;

use super::{Encoding, Row, RowSink};
use crate::error::TableError;
use crate::output::NewFile;
use crate::table::Table;

/// A column of the output.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum OutColumn {
    /// A column of the table, by its place from 0.
    Source(usize),
    /// A new column, by its place among the plan's outputs.
    New(usize),
}

/// Writes rows as they stood, with the new cells in their places.
pub struct RowsOut {
    to: Target,
    /// What divides the columns, when it is said; else it is what divides those of the table.
    separator: Option<u8>,
    guard_formulas: bool,
    encoding: Encoding,
    line: Vec<u8>,
    /// Cells that a spreadsheet program would have run.
    guarded: u64,
}

enum Target {
    File(NewFile),
    /// What has not been handed on yet, and whether anything has.
    Standard {
        held: Vec<u8>,
        let_go: bool,
    },
}

/// Standard output is written in pieces of this many bytes, so that a short table appears whole or not at all.
const STANDARD_BUFFER: usize = 1024 * 1024;

impl RowsOut {
    /// To a file.
    pub fn to_file(file: NewFile) -> Self {
        Self::new(Target::File(file))
    }

    /// To standard output.
    pub fn to_standard_output() -> Self {
        Self::new(Target::Standard { held: Vec::new(), let_go: false })
    }

    fn new(to: Target) -> Self {
        Self { to, separator: None, guard_formulas: false, encoding: Encoding::default(), line: Vec::new(), guarded: 0 }
    }

    /// Writes cells that begin like a formula so that a spreadsheet program shows them instead of running them: with a single quote
    /// before the text, in double quotes (OWASP, CSV injection).
    pub fn guarding_formulas(self, guard: bool) -> Self {
        Self { guard_formulas: guard, ..self }
    }

    /// Divides columns by this byte, whatever divides those of the table.
    pub fn separated_by(self, separator: Option<u8>) -> Self {
        Self { separator, ..self }
    }
}

fn standard_output(cause: io::Error) -> TableError {
    TableError::io("standard output", "cannot be written", cause)
}

impl RowSink for RowsOut {
    fn begin(&mut self, table: &Table, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        self.encoding = Encoding::new(table, columns, plan.outputs().len(), self.separator, self.guard_formulas);
        let mut header = table.prelude().to_vec();
        let guarded = self.encoding.header(table, plan, columns, &mut header);
        self.text(&header, guarded)
    }

    fn row(&mut self, row: &Row<'_>, _plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        let mut line = std::mem::take(&mut self.line);
        line.clear();
        let guarded = self.encoding.row(row, columns, &mut line);
        let written = self.text(&line, guarded);
        self.line = line;
        written
    }

    fn encoding(&self) -> Option<Encoding> {
        Some(self.encoding.clone())
    }

    fn text(&mut self, rows: &[u8], guarded: u64) -> Result<(), TableError> {
        self.guarded += guarded;
        match &mut self.to {
            Target::File(file) => file.write(rows),
            Target::Standard { held, let_go } => {
                held.extend_from_slice(rows);
                if held.len() >= STANDARD_BUFFER {
                    *let_go = true;
                    io::stdout().write_all(held).map_err(standard_output)?;
                    held.clear();
                }
                Ok(())
            }
        }
    }

    fn has_let_go(&self) -> bool {
        matches!(self.to, Target::Standard { let_go: true, .. })
    }

    fn finish(self: Box<Self>) -> Result<Vec<String>, TableError> {
        match self.to {
            Target::File(file) => file.finish()?,
            Target::Standard { held, .. } => {
                let mut out = io::stdout().lock();
                out.write_all(&held).and_then(|()| out.flush()).map_err(standard_output)?;
            }
        }
        Ok(match self.guarded {
            0 => Vec::new(),
            n => vec![format!("{n} cells begin like a formula and were written with ' before them.")],
        })
    }
}
