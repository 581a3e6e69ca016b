//! Cells, and files that take them row by row: formats that know cells, and perhaps types, rather
//! than lines.

use std::any::Any;
use std::borrow::Cow;
use std::sync::Arc;

use keen_notch_core::OutputType;

use super::{OutputColumns, RowText};
use crate::error::TableError;
use crate::output::Finished;

/// What the cells of a column hold, in formats that tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Kind {
    /// Text, and whatever has no kind of its own.
    #[default]
    Text,
    /// Whole numbers.
    Integer,
    /// Numbers that may have decimals.
    Number,
    /// Exact decimals with that many digits after the point.
    Decimal(usize),
    /// Dates.
    Date,
    /// Dates with a time of day, without a time zone.
    DateTime,
    /// `true` and `false`.
    Truth,
    /// Numbers and truth values, one or the other.
    Mixed,
}

impl Kind {
    /// What a cut's `as` makes of its column.
    pub(crate) fn asked(output_type: OutputType) -> Self {
        match output_type {
            OutputType::Text => Kind::Text,
            OutputType::Number => Kind::Number,
            OutputType::Integer => Kind::Integer,
            OutputType::Decimal(places) => Kind::Decimal(places),
            OutputType::Date => Kind::Date,
        }
    }

    /// Whether its texts are numbers or truth values, to be written as such where a format knows
    /// them.
    pub(crate) fn is_bare(self) -> bool {
        !matches!(self, Kind::Text | Kind::Date | Kind::DateTime)
    }
}

/// A column of a file of cells.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct CellColumn {
    pub name: String,
    pub kind: Kind,
    /// A cut asked for the kind: what does not fit it is missing then. Else the kind is what the
    /// column has held so far.
    pub is_asked: bool,
    /// The column of the table that it is, by its place from 0.
    pub source: Option<usize>,
}

impl CellColumn {
    /// A column of text.
    pub(crate) fn text(name: &str) -> Self {
        Self { name: name.to_owned(), kind: Kind::Text, is_asked: false, source: None }
    }

    /// A column of whole numbers.
    pub(crate) fn integer(name: &str) -> Self {
        Self { kind: Kind::Integer, ..Self::text(name) }
    }
}

/// A cell to be written: its text; `None` where there is none.
pub(crate) type OutCell<'c> = Option<Cow<'c, str>>;

/// The cell of a text, for formats in which nothing and an empty text are told apart: what is blank
/// is nothing.
pub(crate) fn cell(text: Cow<'_, str>) -> OutCell<'_> {
    Some(text).filter(|text| !text.is_empty())
}

/// The rows of a table as they were read, with their types, in what their format keeps them in:
/// writers of the same format take them unchanged.
pub(crate) type TypedRows = Arc<dyn Any + Send + Sync>;

/// A file of rows of cells.
pub(crate) trait CellWriter: Send {
    /// Takes the columns, before any row, and the rows of the table as they were where they had
    /// types.
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        batches: Option<TypedRows>,
    ) -> Result<(), TableError>;

    /// Takes a row: its number in the table, from 1, and its cells.
    fn row<'c>(
        &mut self,
        number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError>;

    /// Takes rows that were put together column by column; `wanted` says of each column whether it
    /// is among them.
    fn block(&mut self, rows: &mut OutputColumns, wanted: &[bool]) -> Result<(), TableError> {
        for row in 0..rows.len() {
            let mut place = 0..;
            let next = |wanted: &bool| {
                if *wanted { cell(rows.cell(row, place.next()?).into()) } else { None }
            };
            self.row(rows.place(row).0, &mut wanted.iter().map(next))?;
        }
        Ok(())
    }

    /// How its rows become text, when that is all there is to them: they may then be made into text
    /// elsewhere and passed on as [`CellWriter::text`]. Asked after [`CellWriter::begin`].
    fn row_text(&self) -> Option<Arc<RowText>> {
        None
    }

    /// Takes rows that were made into text elsewhere.
    fn text(&mut self, _rows: &[u8]) -> Result<(), TableError> {
        Ok(())
    }

    /// Whether it takes the columns of the table from the rows as they were, where they have types.
    fn takes_batches(&self) -> bool {
        false
    }

    /// Sets how many threads may work side by side on it. To be said before anything
    /// else.
    fn on_threads(&mut self, _threads: usize) {}

    /// Whether some of it has gone where it cannot be taken back from.
    fn has_let_go(&self) -> bool {
        false
    }

    /// Makes it whole.
    fn finish(self: Box<Self>) -> Result<Finished, TableError>;
}
