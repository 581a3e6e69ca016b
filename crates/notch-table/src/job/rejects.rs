//! The rejects file: the header, and the rows kept out of the output, verbatim.

use std::borrow::Cow;
use std::path::Path;

use super::carving::Carving;
use super::sinks::{cells_file, guard};
use crate::cells::{CellWriter, cell};
use crate::error::TableError;
use crate::format::format_of;
use crate::formats::csv::{Record, cell_text};
use crate::output::{Finished, NewFile, To};
use crate::table::Table;

pub(super) enum Rejects {
    /// Separated text; the separator, where cells that a spreadsheet program would run are guarded.
    Text(NewFile, Option<u8>),
    Cells(Box<dyn CellWriter>),
}

impl Rejects {
    pub(super) fn create(
        path: &Path,
        table: &Table,
        carving: &Carving<'_>,
    ) -> Result<Self, TableError> {
        if let Some(mut cells) =
            cells_file(To::File(path), format_of(path), "Rejects", carving.replace_table)?
        {
            cells.begin(
                (0..table.columns().len()).map(|place| table.cell_column(place)).collect(),
                table.batches(),
            )?;
            return Ok(Rejects::Cells(cells));
        }
        let mut file = NewFile::create(path)?;
        file.encode(table.encoding());
        file.write(table.mark_for(table.encoding()))?;
        if let Some(header) = table.header() {
            file.write(&header.raw)?;
            file.write(&header.line_end)?;
        }
        Ok(Rejects::Text(file, carving.guard_formulas.then(|| table.separator())))
    }

    pub(super) fn is_text(&self) -> bool {
        matches!(self, Rejects::Text(..))
    }

    /// Takes rows verbatim.
    pub(super) fn text(&mut self, rows: &[u8]) -> Result<(), TableError> {
        match self {
            Rejects::Text(file, _) => file.write(rows),
            Rejects::Cells(_) => Ok(()),
        }
    }

    /// Takes a row, whose number in the table is `number`.
    pub(super) fn row(&mut self, number: u64, record: &Record<'_>) -> Result<(), TableError> {
        match self {
            Rejects::Text(file, None) => {
                file.write(record.raw)?;
                file.write(record.line_end)
            }
            Rejects::Text(file, Some(separator)) => {
                let mut line = Vec::with_capacity(record.raw.len());
                for (n, field) in record.fields.iter().enumerate() {
                    if n > 0 {
                        line.push(*separator);
                    }
                    let from = line.len();
                    line.extend_from_slice(&record.raw[field]);
                    guard(&mut line, from);
                }
                line.extend_from_slice(record.line_end);
                file.write(&line)
            }
            Rejects::Cells(file) => match String::from_utf8_lossy(record.raw) {
                Cow::Borrowed(text) => file.row(
                    number,
                    &mut record.fields.iter().map(|field| cell(cell_text(&text[field]))),
                ),
                // A row that is no text has no fields: what can be read of it is in the
                // first.
                Cow::Owned(text) => file.row(number, &mut std::iter::once(cell(text.into()))),
            },
        }
    }

    pub(super) fn finish(self) -> Result<Finished, TableError> {
        match self {
            Rejects::Text(file, _) => Finished::file(file),
            Rejects::Cells(cells) => cells.finish(),
        }
    }
}
