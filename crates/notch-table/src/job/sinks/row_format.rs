//! How rows are written as text: what no cut replaces comes out byte for byte.

use std::sync::Arc;

use keen_notch_core::{BatchResult, NewCell, Plan};

use crate::cells::RowText;
use crate::formats::csv::{RawRecord, asks_for_quotes, has_special, write_cell, write_cell_bytes};
use crate::job::row::{OutColumn, Row};
use crate::table::Table;
use crate::text_out::TextOut;

/// How rows become text. Made once for a table, then shared by all who write rows.
#[derive(Debug, Clone, Default)]
pub struct RowFormat {
    /// Nothing is written at all.
    nothing: bool,
    /// Cells are written for a file of cells rather than for a person, see [`RowFormat::cells`].
    cells: Option<WhichCells>,
    /// Rows become text otherwise than with separators, see [`RowFormat::texts`].
    text: Option<Arc<RowText>>,
    separator: u8,
    /// Fields can be copied verbatim.
    same_separator: bool,
    /// How many columns of the table stand unchanged and in order at the left, the new ones in
    /// order after them: the former are written in one piece.
    whole: Option<usize>,
    guard_formulas: bool,
}

/// Which cells a file of cells needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WhichCells {
    /// Those of all columns.
    All,
    /// The new ones: the others it takes from where they were read.
    New,
}

impl RowFormat {
    /// For files of cells: rows are put together column by column and passed on as
    /// [`RowSink::cells`](super::RowSink::cells).
    pub fn cells(which: WhichCells) -> Self {
        Self { cells: Some(which), ..Self::default() }
    }

    /// For files whose rows are texts made of cells, passed on as
    /// [`RowSink::text`](super::RowSink::text).
    pub(crate) fn texts(text: Arc<RowText>) -> Self {
        Self { text: Some(text), ..Self::default() }
    }

    /// Which cells are put together column by column.
    pub(crate) fn wanted_cells(&self) -> Option<WhichCells> {
        self.cells
    }

    /// Which cells it asks for; `None` when it asks for records.
    pub(crate) fn needed_cells(&self) -> Option<WhichCells> {
        match (self.nothing, &self.text) {
            (true, _) => Some(WhichCells::New),
            (false, Some(_)) => Some(WhichCells::All),
            (false, None) => self.cells,
        }
    }

    /// For rows that are looked at and not written.
    pub fn nothing() -> Self {
        Self { nothing: true, ..Self::default() }
    }

    /// For the rows of a table with that many new columns, divided by what divides its own unless
    /// another separator is wanted.
    pub(crate) fn new(
        table: &Table,
        columns: &[OutColumn],
        new: usize,
        wanted: Option<u8>,
        guard_formulas: bool,
    ) -> Self {
        let separator = wanted.unwrap_or(table.separator());
        let same_separator = separator == table.separator();
        let width = table.columns().len();
        let unchanged =
            columns.len() >= width && (0..width).all(|n| columns[n] == OutColumn::Source(n));
        let new_in_order =
            columns.iter().skip(width).enumerate().all(|(n, column)| *column == OutColumn::New(n));
        // Cells that are looked at one by one are written one by one.
        let all_new = columns.len() == width + new;
        let whole = (unchanged && new_in_order && all_new && !guard_formulas && same_separator)
            .then_some(width);
        Self { separator, same_separator, whole, guard_formulas, ..Self::default() }
    }

    /// Writes the header; returns how many of its cells were guarded.
    pub(crate) fn header(
        &self,
        table: &Table,
        plan: &Plan,
        columns: &[OutColumn],
        into: &mut Vec<u8>,
    ) -> u64 {
        let Some(header) = table.header() else { return 0 };
        let rest = match self.whole {
            Some(width) => {
                into.extend_from_slice(&header.raw);
                &columns[width..]
            }
            None => columns,
        };
        let guarded = self.push(rest, into, |column, into| match column {
            OutColumn::Source(n) if self.same_separator => {
                into.extend_from_slice(&header.raw[header.fields().at(n)])
            }
            OutColumn::Source(n) => write_cell(&table.columns()[n], self.separator, into),
            OutColumn::New(n) => write_cell(&plan.outputs()[n].name, self.separator, into),
        });
        into.extend_from_slice(&header.line_end);
        guarded
    }

    /// How rows become texts otherwise than with separators.
    #[inline]
    pub(crate) fn text(&self) -> Option<&RowText> {
        self.text.as_deref()
    }

    /// Writes a row with separators; returns how many of its cells were guarded.
    pub(crate) fn row(&self, row: &Row<'_>, columns: &[OutColumn], into: &mut Vec<u8>) -> u64 {
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
            OutColumn::Source(n) if self.same_separator => {
                into.extend_from_slice(row.raw_field(n).as_bytes())
            }
            OutColumn::Source(n) => write_cell(&row.source_cell(n), self.separator, into),
            OutColumn::New(n) => {
                write_cell(row.new_cell(n), self.separator, into);
            }
        });
        into.extend_from_slice(row.record.line_end);
        guarded
    }

    /// Whether old columns are copied in one piece, the new ones after them.
    pub(crate) fn is_whole(&self) -> bool {
        self.whole.is_some()
    }

    /// From which byte of a batch's text on its new cells are known to be written verbatim:
    /// what steps have made, where that is so of all of it.
    pub(crate) fn verbatim_from(&self, batch: &BatchResult<'_>) -> usize {
        let made = batch.made().as_bytes();
        let is_verbatim = match &self.text {
            Some(text) => (text.is_verbatim)(made),
            None => self.is_whole() && !has_special(made, self.separator),
        };
        if is_verbatim { batch.made_from() } else { usize::MAX }
    }

    /// Writes records verbatim, and after each the new cells of its row, by its place in the
    /// batch. Nothing is unusual in the rows. `memory` is to work with.
    #[inline(never)]
    pub(crate) fn whole_rows<'b>(
        &self,
        rows: impl Iterator<Item = (usize, RawRecord<'b>)>,
        (batch, verbatim_from): (&BatchResult<'_>, usize),
        memory: &mut Vec<u8>,
        into: &mut TextOut,
    ) {
        for (at, record) in rows {
            self.whole_row(&record, batch.cells(at), verbatim_from, memory, into);
        }
    }

    #[inline(always)]
    fn whole_row<'b>(
        &self,
        record: &RawRecord<'_>,
        cells: impl ExactSizeIterator<Item = NewCell<'b>>,
        verbatim_from: usize,
        memory: &mut Vec<u8>,
        into: &mut TextOut,
    ) {
        let short = TextOut::SHORT * cells.len() + record.line_end.len();
        let mut room = into.room(record.length + TextOut::RECORD + short);
        room.push_record(record.open, record.length);
        for cell in cells {
            // A piece that lies before all quotes of its record holds nothing that asks for them.
            // Both are asked, without a branch that is hard to foresee.
            let is_bare = (cell.from + cell.length <= record.bare_to)
                | (cell.from >= verbatim_from)
                || !asks_for_quotes(cell.open, cell.length, self.separator);
            if !(is_bare && room.push_short(self.separator, cell.open, cell.length)) {
                room.close();
                memory.clear();
                memory.push(self.separator);
                write_cell_bytes(
                    cell.open.get(..cell.length).unwrap_or_default(),
                    self.separator,
                    memory,
                );
                into.push(memory);
                // The cells that follow need their room still.
                room = into.room(short);
            }
        }
        room.push_end(record.line_end);
        room.close();
    }

    /// Writes columns after what stands there already.
    #[inline]
    fn push(
        &self,
        columns: &[OutColumn],
        into: &mut Vec<u8>,
        cell: impl Fn(OutColumn, &mut Vec<u8>),
    ) -> u64 {
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

/// Guards the cell that the line ends in, from `from` on; returns 1 when it had to be.
pub(crate) fn guard(line: &mut Vec<u8>, from: usize) -> u64 {
    let cell = &line[from..];
    let inside = cell.strip_prefix(b"\"").unwrap_or(cell);
    // After line ends at its beginning a cell is run as well, and so is one that begins with a
    // sign of full width.
    let shown = inside.trim_ascii_start();
    let is_run = inside.starts_with(b"\t")
        || inside.starts_with(b"\r")
        || (shown.len() == inside.len() || inside.starts_with(b"\n"))
            && ["=", "+", "-", "@", "＝", "＋", "－", "＠"]
                .iter()
                .any(|sign| shown.starts_with(sign.as_bytes()));
    if !is_run {
        return 0;
    }
    if inside.len() == cell.len() {
        line.insert(from, b'"');
        line.push(b'"');
    }
    line.insert(from + 1, b'\'');
    1
}
