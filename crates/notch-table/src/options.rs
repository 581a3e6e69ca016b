//! How a table is to be read.

use encoding_rs::Encoding;

use crate::beginnings::{ARROW_FILE, ARROW_STREAM, PARQUET, SQLITE, ZIP};

/// A format to read, where a table's content and ending are not to say it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum From {
    /// Separated text; the separator, where the format says it.
    Text(Option<u8>),
    /// Plain lines, each a cell of one column.
    Lines,
    /// JSON objects.
    Json,
    /// A format that is told by its content: the beginnings that it may have.
    Known(&'static [&'static [u8]]),
}

impl From {
    /// The names by which formats are asked for.
    pub const NAMES: [(&'static str, From); 11] = [
        ("csv", From::Text(None)),
        ("tsv", From::Text(Some(b'\t'))),
        ("lines", From::Lines),
        ("json", From::Json),
        ("jsonl", From::Json),
        ("parquet", From::Known(&[PARQUET])),
        ("arrow", From::Known(&[ARROW_FILE])),
        ("arrows", From::Known(&[ARROW_STREAM])),
        ("sqlite", From::Known(&[SQLITE])),
        ("xlsx", From::Known(&[ZIP])),
        ("ods", From::Known(&[ZIP])),
    ];

    /// The format of a name.
    pub fn of_name(name: &str) -> Option<Self> {
        Self::NAMES.iter().find(|(known, _)| *known == name).map(|(_, from)| *from)
    }

    /// The name of a format, the first one where it has several.
    pub fn name(self) -> &'static str {
        Self::NAMES.iter().find(|(_, known)| *known == self).map_or("", |(name, _)| name)
    }
}

/// How a table is to be read.
#[derive(Debug, Clone, Default)]
pub struct ReadOptions {
    /// The byte between columns; found by looking when not given.
    pub separator: Option<u8>,
    /// The first row is data; the columns are called `1`, `2`, ….
    pub no_header: bool,
    /// The sheets of a workbook that are read as one table, by name or by a pattern with `*` or
    /// `?`; the first visible one when empty.
    pub sheets: Vec<String>,
    /// A column of this name is added that holds the name of the sheet a row came from.
    pub sheet_column: Option<String>,
    /// The row of a sheet that names the columns, from 1; found by looking when not given.
    pub header_row: Option<u32>,
    /// How many bytes a workbook or a compressed file may unpack to; 4 GiB when not given.
    pub unpack_limit: Option<u64>,
    /// What it is taken to be, whatever it looks like; text formats alone need it, others are told
    /// by their content.
    pub from: Option<From>,
    /// What is asked of a database, in SQL.
    pub query: Option<String>,
    /// The table of a database.
    pub table_name: Option<String>,
    /// For how many seconds a server may be silent; 10 when not given.
    pub timeout: Option<u64>,
    /// A column of this name is added that says which file a row came from.
    pub file_column: Option<String>,
    /// The encoding of text; UTF-8, or what a byte order mark says, when not given.
    pub encoding: Option<&'static Encoding>,
    /// How many threads may work side by side on the table; one for each core when not given.
    pub threads: Option<usize>,
}

impl ReadOptions {
    /// Whether something is said that only a database has.
    pub(crate) fn is_for_databases(&self) -> bool {
        self.query.is_some() || self.table_name.is_some() || self.timeout.is_some()
    }

    /// Whether something is asked that only workbooks have.
    pub(crate) fn is_for_workbooks(&self) -> bool {
        !self.sheets.is_empty() || self.sheet_column.is_some() || self.header_row.is_some()
    }
}

/// How a sheet is to be found and read.
#[derive(Debug, Clone, Default)]
pub(crate) struct SheetOptions {
    /// The sheets that are read as one, by name or pattern; the first visible one when empty.
    pub names: Vec<String>,
    /// The name of an added column that holds the name of each row's sheet.
    pub column: Option<String>,
    /// The row that names the columns, from 1; found by looking when not given.
    pub header_row: Option<u32>,
    /// The first row of data is no header.
    pub no_header: bool,
    /// How many bytes the parts of a workbook may have when they are unpacked; 4 GiB when not
    /// given.
    pub unpack_limit: Option<u64>,
}
