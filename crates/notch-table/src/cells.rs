//! Rows of cells into files whose format knows cells, and perhaps types, rather than lines.

use std::borrow::Cow;
use std::path::Path;
use std::sync::Arc;

use notch_core::{OutputType, Plan};

use crate::carve::{Encoding, OutColumn, Row, RowSink, WhichCells, WrittenRow};
use crate::columnar::{ArrowOut, Batches};
use crate::databases::DatabaseTable;
use crate::drawn::Drawn;
use crate::error::TableError;
use crate::json::ObjectsFile;
use crate::output::{Format, NewFile};
use crate::table::Table;
use crate::workbook::CellsBook;

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
    /// Exact decimals with so many digits behind the point.
    Decimal(usize),
    /// Dates.
    Date,
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

    /// Whether its texts are numbers or truth values, to be written as such where a format knows them.
    pub(crate) fn is_bare(self) -> bool {
        !matches!(self, Kind::Text | Kind::Date)
    }
}

/// A column of a file of cells.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct CellColumn {
    pub name: String,
    pub kind: Kind,
    /// A cut asked for the kind: what does not fit it is missing then. Else the kind is what the column has held so far.
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

    /// A column of a table as it is.
    pub(crate) fn of(table: &Table, place: usize) -> Self {
        Self { name: table.columns()[place].clone(), kind: table.kind(place), is_asked: false, source: Some(place) }
    }
}

/// A cell to be written: its text; `None` where there is none.
pub(crate) type OutCell<'c> = Option<Cow<'c, str>>;

/// The cell of a text, for formats in which nothing and an empty text are told apart: what is blank is nothing.
pub(crate) fn cell(text: Cow<'_, str>) -> OutCell<'_> {
    Some(text).filter(|text| !text.is_empty())
}

/// A file of rows of cells.
pub(crate) trait CellsFile: Send {
    /// Takes the columns, before any row, and the rows of the table as they were where they had types.
    fn begin(&mut self, columns: Vec<CellColumn>, batches: Option<Arc<Batches>>) -> Result<(), TableError>;

    /// Takes a row: its number in the table, from 1, and its cells.
    fn row<'c>(&mut self, number: u64, cells: &mut dyn Iterator<Item = OutCell<'c>>) -> Result<(), TableError>;

    /// Whether it takes the columns of the table from the rows as they were, where they have types.
    fn takes_batches(&self) -> bool {
        false
    }

    /// Whether some of it has gone where it cannot be taken back from.
    fn has_let_go(&self) -> bool {
        false
    }

    /// Makes it whole; gives what is worth saying, one sentence each.
    fn finish(self: Box<Self>) -> Result<Vec<String>, TableError>;
}

/// Where a file of cells goes.
#[derive(Debug, Clone, Copy)]
pub enum To<'p> {
    /// A file.
    File(&'p Path),
    /// Standard output.
    Standard,
}

impl To<'_> {
    pub(crate) fn create(self) -> Result<NewFile, TableError> {
        match self {
            To::File(path) => NewFile::create(path),
            To::Standard => Ok(NewFile::standard_output()),
        }
    }
}

/// A file of cells in a format; `None` of separated text, which has its own way. `what` is what its rows are: the name of its sheet or table;
/// `replace` allows for a table of that name in a database.
pub(crate) fn cells_file(to: To<'_>, format: Format, what: &str, replace: bool) -> Result<Option<Box<dyn CellsFile>>, TableError> {
    Ok(Some(match format {
        Format::Text(_) => return Ok(None),
        Format::Workbook => match to {
            To::File(path) => Box::new(CellsBook::create(path, what)?),
            To::Standard => return Err(TableError::no_table("a workbook", "cannot go to standard output.", "Name a file: -o FILE.xlsx.")),
        },
        Format::Database => match to {
            To::File(path) => Box::new(DatabaseTable::create(path, what, replace)?),
            To::Standard => return Err(TableError::no_table("a database", "cannot go to standard output.", "Name a file: -o FILE.db.")),
        },
        Format::Json { in_array } => Box::new(ObjectsFile::new(to.create()?, in_array)),
        Format::Columnar(kind) => Box::new(ArrowOut::new(to, kind)?),
        Format::Drawn { bars } => Box::new(Drawn::new(to.create()?, bars)),
    }))
}

/// Rows as cells of a file.
pub struct CellsOut {
    file: Box<dyn CellsFile>,
    /// Which cells the file asks for, and for each column whether it is among them.
    which: WhichCells,
    wanted: Vec<bool>,
}

impl CellsOut {
    /// In a format; `None` of separated text. In a database the table is called `table`, and may replace another if `replace` says so.
    ///
    /// # Errors
    /// It cannot be written, or not to there.
    pub fn create(to: To<'_>, format: Format, table: &str, replace: bool) -> Result<Option<Self>, TableError> {
        Ok(cells_file(to, format, table, replace)?.map(|file| Self { file, which: WhichCells::All, wanted: Vec::new() }))
    }
}

impl RowSink for CellsOut {
    fn begin(&mut self, table: &Table, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        let column = |column: &OutColumn| match column {
            OutColumn::Source(n) => CellColumn::of(table, *n),
            OutColumn::New(n) => {
                let output = &plan.outputs()[*n];
                CellColumn { kind: Kind::asked(output.output_type), is_asked: true, ..CellColumn::text(&output.name) }
            }
        };
        let batches = table.batches();
        self.which = if batches.is_some() && self.file.takes_batches() { WhichCells::New } else { WhichCells::All };
        self.wanted = columns.iter().map(|column| self.which == WhichCells::All || matches!(column, OutColumn::New(_))).collect();
        self.file.begin(columns.iter().map(column).collect(), batches)
    }

    fn row(&mut self, row: &Row<'_>, _plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        let mut cells = columns.iter().map(|column| match column {
            OutColumn::Source(n) => cell(row.source_cell(*n)),
            OutColumn::New(n) => cell(row.new_cell(*n).into()),
        });
        self.file.row(row.number(), &mut cells)
    }

    fn encoding(&self) -> Option<Encoding> {
        Some(Encoding::cells(self.which))
    }

    fn text(&mut self, mut rows: &[u8], _guarded: u64) -> Result<(), TableError> {
        while let Some(mut row) = WrittenRow::first(rows) {
            let number = row.number;
            let mut cells = self.wanted.iter().map(|wanted| if *wanted { cell(row.next_cell().into()) } else { None });
            self.file.row(number, &mut cells)?;
            // Whatever the file has not asked for stands before the next row.
            cells.for_each(drop);
            rows = row.behind();
        }
        Ok(())
    }

    fn has_let_go(&self) -> bool {
        self.file.has_let_go()
    }

    fn finish(self: Box<Self>) -> Result<Vec<String>, TableError> {
        self.file.finish()
    }
}
