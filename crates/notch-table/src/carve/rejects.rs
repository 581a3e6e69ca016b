//! The rejects file: the header, and the rows kept out of the output, exactly as they stand.

use std::borrow::Cow;
use std::path::Path;

use crate::csv::{Record, cell_text};
use crate::error::TableError;
use crate::json::ObjectsFile;
use crate::output::{Format, NewFile, format_of};
use crate::table::Table;
use crate::workbook::CellsBook;

pub(super) enum Rejects {
    Text(NewFile),
    Book(Box<CellsBook>),
    /// Objects, and for each field whether numbers and truth values in it are written as such.
    Objects(Box<ObjectsFile>, Vec<bool>),
}

impl Rejects {
    pub(super) fn create(path: &Path, table: &Table) -> Result<Self, TableError> {
        let columns: Vec<&str> = table.columns().iter().map(String::as_str).collect();
        match format_of(path) {
            Format::Workbook => return Ok(Rejects::Book(Box::new(CellsBook::create(path, "Rejects", &columns)?))),
            Format::Json { in_array } => {
                let mut objects = ObjectsFile::new(NewFile::create(path)?, in_array);
                objects.begin(columns.into_iter())?;
                return Ok(Rejects::Objects(Box::new(objects), (0..table.columns().len()).map(|column| table.is_bare(column)).collect()));
            }
            Format::Text(_) => {}
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
            Rejects::Book(_) | Rejects::Objects(..) => Ok(()),
        }
    }

    pub(super) fn row(&mut self, record: &Record<'_>) -> Result<(), TableError> {
        match self {
            Rejects::Text(file) => {
                file.write(record.raw)?;
                file.write(record.line_end)
            }
            Rejects::Objects(objects, bare) => {
                // A row that is no text has no fields to speak of: what can be read of it is in the first.
                let text = String::from_utf8_lossy(record.raw);
                match &text {
                    Cow::Borrowed(text) => {
                        objects.write(record.fields.iter().map(|field| cell_text(&text[field])).zip(bare.iter().copied()))
                    }
                    Cow::Owned(text) => objects.write(std::iter::once((Cow::from(text), false))),
                }
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
            Rejects::Objects(objects, _) => objects.finish(),
        }
    }
}
