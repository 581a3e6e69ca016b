//! The rejects file: the header, and the rows kept out of the output, exactly as they stand.

use std::borrow::Cow;
use std::path::Path;

use crate::csv::{Record, cell_text};
use crate::error::TableError;
use crate::output::{Format, NewFile, format_of};
use crate::table::Table;
use crate::workbook::CellsBook;

pub(super) enum Rejects {
    Text(NewFile),
    Book(Box<CellsBook>),
}

impl Rejects {
    pub(super) fn create(path: &Path, table: &Table) -> Result<Self, TableError> {
        if format_of(path) == Format::Workbook {
            let columns: Vec<&str> = table.columns().iter().map(String::as_str).collect();
            return Ok(Rejects::Book(Box::new(CellsBook::create(path, "Rejects", &columns)?)));
        }
        let mut file = NewFile::create(path)?;
        file.write(table.prelude())?;
        if let Some(header) = table.header() {
            file.write(&header.raw)?;
            file.write(&header.line_end)?;
        }
        Ok(Rejects::Text(file))
    }

    pub(super) fn is_text(&self) -> bool {
        matches!(self, Rejects::Text(_))
    }

    /// Takes rows as they stand.
    pub(super) fn text(&mut self, rows: &[u8]) -> Result<(), TableError> {
        match self {
            Rejects::Text(file) => file.write(rows),
            Rejects::Book(_) => Ok(()),
        }
    }

    pub(super) fn row(&mut self, record: &Record<'_>) -> Result<(), TableError> {
        match self {
            Rejects::Text(file) => {
                file.write(record.raw)?;
                file.write(record.line_end)
            }
            Rejects::Book(book) => match std::str::from_utf8(record.raw) {
                Ok(text) => book.write(record.fields.iter().map(|field| cell_text(&text[field]))),
                Err(_) => book.write(std::iter::once(Cow::from(String::from_utf8_lossy(record.raw).into_owned()))),
            },
        }
    }

    pub(super) fn finish(self) -> Result<(), TableError> {
        match self {
            Rejects::Text(file) => file.finish(),
            Rejects::Book(book) => book.finish(),
        }
    }
}
