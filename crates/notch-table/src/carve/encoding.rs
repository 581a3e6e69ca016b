//! How rows are written as text: what no cut replaces comes out byte for byte.

use notch_core::{BatchResult, Plan};

use super::{OutColumn, Row};
use crate::csv::{write_cell, write_open_cell};
use crate::table::Table;

/// How rows become text. Made once for a table, then shared by all who write rows.
#[derive(Debug, Clone, Default)]
pub struct Encoding {
    /// Nothing is written at all.
    nothing: bool,
    separator: u8,
    /// Fields can be copied as they stand.
    same_separator: bool,
    /// How many columns of the table stand unchanged and in order at the left, the new ones in order behind them: the former are written in
    /// one piece.
    whole: Option<usize>,
    guard_formulas: bool,
}

impl Encoding {
    /// For rows that are looked at and not written.
    pub fn nothing() -> Self {
        Self { nothing: true, ..Self::default() }
    }

    /// For the rows of a table, divided by what divides its own unless another separator is wanted.
    pub(super) fn new(table: &Table, columns: &[OutColumn], wanted: Option<u8>, guard_formulas: bool) -> Self {
        let separator = wanted.unwrap_or(table.separator());
        let same_separator = separator == table.separator();
        let width = table.columns().len();
        let unchanged = columns.len() >= width && (0..width).all(|n| columns[n] == OutColumn::Source(n));
        let new_in_order = columns.iter().skip(width).enumerate().all(|(n, column)| *column == OutColumn::New(n));
        // Cells that are looked at one by one are written one by one.
        let whole = (unchanged && new_in_order && !guard_formulas && same_separator).then_some(width);
        Self { nothing: false, separator, same_separator, whole, guard_formulas }
    }

    /// Writes the header; gives how many of its cells were guarded.
    pub(super) fn header(&self, table: &Table, plan: &Plan, columns: &[OutColumn], into: &mut Vec<u8>) -> u64 {
        let Some(header) = table.header() else { return 0 };
        let rest = match self.whole {
            Some(width) => {
                into.extend_from_slice(&header.raw);
                &columns[width..]
            }
            None => columns,
        };
        let guarded = self.push(rest, into, |column, into| match column {
            OutColumn::Source(n) if self.same_separator => into.extend_from_slice(&header.raw[header.fields().at(n)]),
            OutColumn::Source(n) => write_cell(&table.columns()[n], self.separator, into),
            OutColumn::New(n) => write_cell(&plan.outputs()[n].name, self.separator, into),
        });
        into.extend_from_slice(&header.line_end);
        guarded
    }

    /// Writes a row; gives how many of its cells were guarded.
    pub(super) fn row(&self, row: &Row<'_>, columns: &[OutColumn], into: &mut Vec<u8>) -> u64 {
        if self.nothing {
            return 0;
        }
        let rest = match self.whole {
            Some(width) => {
                into.extend_from_slice(row.record.raw);
                &columns[width..]
            }
            None => columns,
        };
        let guarded = self.push(rest, into, |column, into| match column {
            OutColumn::Source(n) if self.same_separator => into.extend_from_slice(row.raw_field(n).as_bytes()),
            OutColumn::Source(n) => write_cell(&row.source_cell(n), self.separator, into),
            OutColumn::New(n) => {
                write_cell(row.new_cell(n), self.separator, into);
            }
        });
        into.extend_from_slice(row.record.line_end);
        guarded
    }

    /// Writes a row of a batch with nothing unusual in it.
    #[inline]
    pub(super) fn usual_row(&self, row: &Row<'_>, batch: &BatchResult<'_>, at: usize, columns: &[OutColumn], into: &mut Vec<u8>) -> u64 {
        let Some(width) = self.whole.filter(|_| !self.nothing) else { return self.row(row, columns, into) };
        into.extend_from_slice(row.record.raw);
        for cell in batch.cells(at).take(columns.len() - width) {
            into.push(self.separator);
            // A piece of a record without quotes holds nothing that would have to be quoted.
            write_open_cell(cell.open, cell.length, (!(row.record.unquoted && cell.is_cut)).then_some(self.separator), into);
        }
        into.extend_from_slice(row.record.line_end);
        0
    }

    /// Writes columns behind what stands there already.
    #[inline]
    fn push(&self, columns: &[OutColumn], into: &mut Vec<u8>, cell: impl Fn(OutColumn, &mut Vec<u8>)) -> u64 {
        let (from, mut guarded) = (into.len(), 0);
        for (n, column) in columns.iter().enumerate() {
            if n > 0 || self.whole.is_some() {
                into.push(self.separator);
            }
            let cell_from = into.len();
            cell(*column, into);
            if self.guard_formulas {
                guarded += guard(into, cell_from);
            }
        }
        // A line with nothing in it would be no row to most readers.
        if columns.len() == 1 && self.whole.is_none() && into.len() == from {
            into.extend_from_slice(b"\"\"");
        }
        guarded
    }
}

/// Guards the cell that the line ends in, from `from` on; gives 1 when it had to be.
fn guard(line: &mut Vec<u8>, from: usize) -> u64 {
    let cell = &line[from..];
    let inside = cell.strip_prefix(b"\"").unwrap_or(cell);
    if !inside.first().is_some_and(|first| matches!(first, b'=' | b'+' | b'-' | b'@' | b'\t' | b'\r')) {
        return 0;
    }
    if inside.len() == cell.len() {
        line.insert(from, b'"');
        line.push(b'"');
    }
    line.insert(from + 1, b'\'');
    1
}
