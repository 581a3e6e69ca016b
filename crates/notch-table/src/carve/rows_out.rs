//! Rows out as separated text: what no cut replaces comes out byte for byte.

use std::io::{self, Write};

use notch_core::Plan;

use super::{Row, RowSink};
use crate::csv::write_cell;
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
    wanted_separator: Option<u8>,
    separator: u8,
    /// Fields can be copied as they stand.
    same_separator: bool,
    /// How many columns of the table stand unchanged and in order at the left: they are written in one piece.
    whole: Option<usize>,
    line: Vec<u8>,
    /// Cells that a spreadsheet program would run are written so that it shows them.
    guard_formulas: bool,
    /// How many were.
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
        Self {
            to,
            wanted_separator: None,
            separator: b',',
            same_separator: true,
            whole: None,
            line: Vec::new(),
            guard_formulas: false,
            guarded: 0,
        }
    }

    /// Writes cells that begin like a formula so that a spreadsheet program shows them instead of running them: with a single quote
    /// before the text, in double quotes (OWASP, CSV injection).
    pub fn guarding_formulas(self, guard: bool) -> Self {
        Self { guard_formulas: guard, ..self }
    }

    /// Divides columns by this byte, whatever divides those of the table.
    pub fn separated_by(self, separator: Option<u8>) -> Self {
        Self { wanted_separator: separator, ..self }
    }

    /// Guards the cell that the line ends in, from `from` on.
    fn guard(&mut self, from: usize) {
        let cell = &self.line[from..];
        let inside = cell.strip_prefix(b"\"").unwrap_or(cell);
        if !inside.first().is_some_and(|first| matches!(first, b'=' | b'+' | b'-' | b'@' | b'\t' | b'\r')) {
            return;
        }
        self.guarded += 1;
        if inside.len() == cell.len() {
            self.line.insert(from, b'"');
            self.line.push(b'"');
        }
        self.line.insert(from + 1, b'\'');
    }

    fn write_line(&mut self) -> Result<(), TableError> {
        match &mut self.to {
            Target::File(file) => file.write(&self.line),
            Target::Standard { held, let_go } => {
                held.extend_from_slice(&self.line);
                if held.len() >= STANDARD_BUFFER {
                    *let_go = true;
                    io::stdout().write_all(held).map_err(standard_output)?;
                    held.clear();
                }
                Ok(())
            }
        }
    }

    /// Writes the columns from `rest` on behind what the line holds already.
    fn push_columns(&mut self, columns: &[OutColumn], mut push: impl FnMut(OutColumn, &mut Vec<u8>)) {
        let from = self.line.len();
        for (n, column) in columns.iter().enumerate() {
            if n > 0 || self.whole.is_some() {
                self.line.push(self.separator);
            }
            let cell_from = self.line.len();
            push(*column, &mut self.line);
            if self.guard_formulas {
                self.guard(cell_from);
            }
        }
        // A line with nothing in it would be no row to most readers.
        if columns.len() == 1 && self.whole.is_none() && self.line.len() == from {
            self.line.extend_from_slice(b"\"\"");
        }
    }
}

fn standard_output(cause: io::Error) -> TableError {
    TableError::io("standard output", "cannot be written", cause)
}

impl RowSink for RowsOut {
    fn begin(&mut self, table: &Table, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        self.separator = self.wanted_separator.unwrap_or(table.separator());
        self.same_separator = self.separator == table.separator();
        let width = table.columns().len();
        let unchanged = columns.len() >= width && (0..width).all(|n| columns[n] == OutColumn::Source(n));
        let has_new_only = columns.iter().skip(width).all(|column| matches!(column, OutColumn::New(_)));
        // Cells that are looked at one by one are written one by one.
        self.whole = (unchanged && has_new_only && !self.guard_formulas && self.same_separator).then_some(width);
        self.line.clear();
        self.line.extend_from_slice(table.prelude());
        if let Some(header) = table.header() {
            let rest = match self.whole {
                Some(width) => {
                    self.line.extend_from_slice(&header.raw);
                    &columns[width..]
                }
                None => columns,
            };
            let (separator, same) = (self.separator, self.same_separator);
            self.push_columns(rest, |column, line| match column {
                OutColumn::Source(n) if same => line.extend_from_slice(&header.raw[header.fields[n].clone()]),
                OutColumn::Source(n) => write_cell(&table.columns()[n], separator, line),
                OutColumn::New(n) => write_cell(&plan.outputs()[n].name, separator, line),
            });
            self.line.extend_from_slice(&header.line_end);
        }
        self.write_line()
    }

    fn row(&mut self, row: &Row<'_>, _plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        self.line.clear();
        let rest = match self.whole {
            Some(width) => {
                self.line.extend_from_slice(row.record.raw);
                &columns[width..]
            }
            None => columns,
        };
        let (separator, same) = (self.separator, self.same_separator);
        self.push_columns(rest, |column, line| match column {
            OutColumn::Source(n) if same => line.extend_from_slice(row.raw_field(n).as_bytes()),
            OutColumn::Source(n) => write_cell(&row.source_cell(n), separator, line),
            OutColumn::New(n) => write_cell(row.new_cell(n), separator, line),
        });
        self.line.extend_from_slice(row.record.line_end);
        self.write_line()
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
