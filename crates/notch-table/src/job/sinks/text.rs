//! Rows out as separated text, to a file or standard output.

use keen_notch_core::Plan;

use super::row_format::RowFormat;
use super::sink::RowSink;
use crate::error::TableError;
use crate::job::row::{OutColumn, Row};
use crate::output::{Finished, NewFile};
use crate::table::Table;

/// Writes rows as they stood, with the new cells in their places.
pub struct RowsOut {
    to: NewFile,
    /// What divides the columns, when it is said; else it is what divides those of the table.
    separator: Option<u8>,
    guard_formulas: bool,
    /// The encoding of the text, when it is said; else it is that of the table.
    text_encoding: Option<&'static encoding_rs::Encoding>,
    row_format: RowFormat,
    line: Vec<u8>,
    /// Cells that a spreadsheet program would have run.
    guarded: u64,
}

impl RowsOut {
    /// To a file.
    pub fn new(to: NewFile) -> Self {
        Self {
            to,
            separator: None,
            guard_formulas: false,
            text_encoding: None,
            row_format: RowFormat::default(),
            line: Vec::new(),
            guarded: 0,
        }
    }

    /// Writes cells that begin like a formula so that a spreadsheet program shows them instead of
    /// running them: with a single quote before the text, in double quotes (OWASP, CSV injection).
    pub fn guarding_formulas(self, guard: bool) -> Self {
        Self { guard_formulas: guard, ..self }
    }

    /// Writes text of this encoding, whatever that of the table is.
    pub fn encoded_as(self, text_encoding: Option<&'static encoding_rs::Encoding>) -> Self {
        Self { text_encoding, ..self }
    }

    /// Divides columns by this byte, whatever divides those of the table.
    pub fn separated_by(self, separator: Option<u8>) -> Self {
        Self { separator, ..self }
    }
}

impl RowSink for RowsOut {
    fn begin(
        &mut self,
        table: &Table,
        plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError> {
        self.row_format = RowFormat::new(
            table,
            columns,
            plan.outputs().len(),
            self.separator,
            self.guard_formulas,
        );
        let encoding = self.text_encoding.unwrap_or(table.encoding());
        self.to.encode(encoding);
        let mut header = table.mark_for(encoding).to_vec();
        let guarded = self.row_format.header(table, plan, columns, &mut header);
        self.text(&header, guarded)
    }

    fn row(
        &mut self,
        row: &Row<'_>,
        _plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError> {
        let mut line = std::mem::take(&mut self.line);
        line.clear();
        let guarded = self.row_format.row(row, columns, &mut line);
        let written = self.text(&line, guarded);
        self.line = line;
        written
    }

    fn row_format(&self) -> Option<RowFormat> {
        Some(self.row_format.clone())
    }

    fn text(&mut self, rows: &[u8], guarded: u64) -> Result<(), TableError> {
        self.guarded += guarded;
        self.to.write(rows)
    }

    fn has_let_go(&self) -> bool {
        self.to.has_let_go()
    }

    fn finish(self: Box<Self>) -> Result<Finished, TableError> {
        let said = match self.guarded {
            0 => Vec::new(),
            n => {
                vec![format!("{n} cells begin like a formula and were written with ' before them.")]
            }
        };
        Ok(Finished { said, whole: Some(self.to.whole()?) })
    }
}
