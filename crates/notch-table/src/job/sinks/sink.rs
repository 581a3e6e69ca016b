//! What a job needs of whatever takes its rows.

use keen_notch_core::Plan;

use super::row_format::RowFormat;
use crate::cells::OutputColumns;
use crate::error::TableError;
use crate::job::row::{OutColumn, Row};
use crate::output::Finished;
use crate::table::Table;

/// Where the rows go.
pub trait RowSink: Send {
    /// Takes the header and the layout of the table, before any row.
    ///
    /// # Errors
    /// It cannot be written.
    fn begin(
        &mut self,
        table: &Table,
        plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError>;

    /// Takes one row.
    ///
    /// # Errors
    /// It cannot be written.
    fn row(&mut self, row: &Row<'_>, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError>;

    /// Notes a row that is kept out for a finding.
    ///
    /// # Errors
    /// That cannot be written.
    fn rejected(&mut self, _row: &Row<'_>, _plan: &Plan) -> Result<(), TableError> {
        Ok(())
    }

    /// How rows become text, or cells column by column, when that is all there is to them: rows may
    /// then be encoded side by side and passed on as [`RowSink::text`] or [`RowSink::cells`]. Asked
    /// after [`RowSink::begin`].
    fn row_format(&self) -> Option<RowFormat> {
        None
    }

    /// Takes rows that were encoded elsewhere, and how many of their cells were guarded.
    ///
    /// # Errors
    /// They cannot be written.
    fn text(&mut self, _rows: &[u8], _guarded: u64) -> Result<(), TableError> {
        Ok(())
    }

    /// Takes rows of cells that were put together elsewhere.
    ///
    /// # Errors
    /// They cannot be written.
    fn cells(&mut self, _rows: &mut OutputColumns) -> Result<(), TableError> {
        Ok(())
    }

    /// Sets how many threads may work side by side on it, before any row.
    fn on_threads(&mut self, _threads: usize) {}

    /// How long the text of a cell may be, counted as UTF-16 does; `None` for any length.
    fn longest_text(&self) -> Option<usize> {
        None
    }

    /// Whether rows have been passed on that cannot be taken back.
    fn has_let_go(&self) -> bool {
        false
    }

    /// Is told that this was all; what was written becomes whole now.
    ///
    /// # Errors
    /// It cannot be written.
    fn finish(self: Box<Self>) -> Result<Finished, TableError>;
}
