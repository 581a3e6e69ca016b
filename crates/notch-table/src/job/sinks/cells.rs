//! Rows out as cells, in all formats that know them.

use keen_notch_core::Plan;

use super::row_format::{RowFormat, WhichCells};
use super::sink::RowSink;
use crate::cells::{CellColumn, CellWriter, Kind, OutputColumns};
use crate::error::TableError;
use crate::format::Format;
use crate::formats::json::ObjectsFile;
use crate::formats::text_table::Drawn;
use crate::formats::{columnar, databases, workbook};
use crate::job::row::{OutColumn, Row};
use crate::output::{Finished, To};
use crate::table::Table;

/// A file of cells in a format; `None` of separated text, which has its own way. `what` is what its
/// rows are: the name of its sheet or table; `replace` allows for a table of that name in a
/// database.
pub(crate) fn cells_file(
    to: To<'_>,
    format: Format,
    what: &str,
    replace: bool,
) -> Result<Option<Box<dyn CellWriter>>, TableError> {
    Ok(Some(match format {
        Format::Text(_) => return Ok(None),
        Format::Workbook => match to {
            To::File(path) => workbook::writer(path, what)?,
            To::Standard => {
                return Err(TableError::no_table(
                    "a workbook",
                    "cannot go to standard output.",
                    "Name a file: -o FILE.xlsx.",
                ));
            }
        },
        Format::Database => match to {
            To::File(path) => databases::writer(path, what, replace)?,
            To::Standard => {
                return Err(TableError::no_table(
                    "a database",
                    "cannot go to standard output.",
                    "Name a file: -o FILE.db.",
                ));
            }
        },
        Format::Json { in_array } => Box::new(ObjectsFile::new(to.create()?, in_array)),
        Format::Columnar(kind) => columnar::writer(to, kind)?,
        Format::Drawn { bars } => Box::new(Drawn::new(to.create()?, bars)),
    }))
}

/// Rows as cells of a file.
pub struct CellsOut {
    file: Box<dyn CellWriter>,
    /// Which cells the file asks for, and for each column whether it is among them.
    which: WhichCells,
    wanted: Vec<bool>,
}

impl CellsOut {
    /// In a format; `None` of separated text. In a database the table is called `table`, and may
    /// replace another if `replace` says so.
    ///
    /// # Errors
    /// It cannot be written, or not to there.
    pub fn create(
        to: To<'_>,
        format: Format,
        table: &str,
        replace: bool,
    ) -> Result<Option<Self>, TableError> {
        Ok(cells_file(to, format, table, replace)?.map(|file| Self {
            file,
            which: WhichCells::All,
            wanted: Vec::new(),
        }))
    }
}

impl RowSink for CellsOut {
    fn begin(
        &mut self,
        table: &Table,
        plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError> {
        let column = |column: &OutColumn| match column {
            OutColumn::Source(n) => table.cell_column(*n),
            OutColumn::New(n) => {
                let output = &plan.outputs()[*n];
                CellColumn {
                    kind: Kind::asked(output.output_type),
                    is_asked: true,
                    ..CellColumn::text(&output.name)
                }
            }
        };
        let batches = table.batches();
        // A column that is given another type is made of its text.
        let all_stay = !columns
            .iter()
            .any(|column| matches!(column, OutColumn::Source(n) if table.asked_type(*n).is_some()));
        self.which = if batches.is_some() && self.file.takes_batches() && all_stay {
            WhichCells::New
        } else {
            WhichCells::All
        };
        self.wanted = columns
            .iter()
            .map(|column| self.which == WhichCells::All || matches!(column, OutColumn::New(_)))
            .collect();
        self.file.begin(columns.iter().map(column).collect(), batches)
    }

    fn row(
        &mut self,
        row: &Row<'_>,
        _plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError> {
        self.file.row(row.number(), &mut columns.iter().map(|column| row.out_cell(*column)))
    }

    fn row_format(&self) -> Option<RowFormat> {
        Some(match self.file.row_text() {
            Some(text) => RowFormat::texts(text),
            None => RowFormat::cells(self.which),
        })
    }

    fn text(&mut self, rows: &[u8], _guarded: u64) -> Result<(), TableError> {
        self.file.text(rows)
    }

    fn cells(&mut self, rows: &mut OutputColumns) -> Result<(), TableError> {
        self.file.block(rows, &self.wanted)
    }

    fn on_threads(&mut self, threads: usize) {
        self.file.on_threads(threads);
    }

    fn has_let_go(&self) -> bool {
        self.file.has_let_go()
    }

    fn finish(self: Box<Self>) -> Result<Finished, TableError> {
        self.file.finish()
    }
}
