//! Rows into a table of an SQLite file, in one transaction: whole or not at all.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use rusqlite::{Connection, OpenFlags, params_from_iter};

use super::quoted;
use super::sqlite::{SQLITE, said};
use crate::cells::{CellColumn, CellsFile, Kind, OutCell};
use crate::columnar::Batches;
use crate::error::TableError;
use crate::output::NewFile;

/// A table that is written.
pub(crate) struct DatabaseTable {
    database: Connection,
    /// A file that was not there before.
    new: Option<NewFile>,
    name: String,
    table: String,
    replace: bool,
    columns: Vec<CellColumn>,
    insert: String,
}

impl DatabaseTable {
    /// In a file, which is made if it is not there. `replace` allows for a table of this name that is there already.
    pub(crate) fn create(path: &Path, table: &str, replace: bool) -> Result<Self, TableError> {
        let name = path.display().to_string();
        let no_file = |cause: &rusqlite::Error| failed(&name, cause);
        let is_there = path.metadata().is_ok_and(|metadata| metadata.len() > 0);
        let (new, place): (Option<NewFile>, PathBuf) = if is_there {
            let begins = std::fs::File::open(path).and_then(|mut file| {
                let mut first = [0; SQLITE.len()];
                std::io::Read::read_exact(&mut file, &mut first).map(|()| first)
            });
            if begins.is_ok_and(|first| first == SQLITE) {
                (None, path.to_owned())
            } else {
                return Err(TableError::no_table(&name, "is there and is no SQLite file.", "Name another file. It was left as it is."));
            }
        } else {
            let file = NewFile::create(path)?;
            let place = file.temporary().map(Path::to_owned);
            let place = place.ok_or_else(|| TableError::no_table(&name, "is no file that a table can be written to.", "Name a file."))?;
            (Some(file), place)
        };
        let database = Connection::open_with_flags(place, OpenFlags::SQLITE_OPEN_READ_WRITE).map_err(|cause| no_file(&cause))?;
        // What is there already is kept safe while it is written to; a new file takes its name when it is whole.
        let begin = if new.is_some() { "PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF; BEGIN" } else { "BEGIN IMMEDIATE" };
        database.execute_batch(begin).map_err(|cause| no_file(&cause))?;
        Ok(Self { database, new, name, table: table.to_owned(), replace, columns: Vec::new(), insert: String::new() })
    }

    /// Makes a table with the columns as they are now.
    fn make(&mut self, table: &str) -> rusqlite::Result<()> {
        let declared = |column: &CellColumn| format!("{} {}", quoted(&column.name), declared(column.kind));
        let columns: Vec<String> = self.columns.iter().map(declared).collect();
        self.database.execute_batch(&format!("CREATE TABLE {} ({})", quoted(table), columns.join(", ")))?;
        let marks = vec!["?"; self.columns.len()];
        self.insert = format!("INSERT INTO {} VALUES ({})", quoted(&self.table), marks.join(", "));
        Ok(())
    }

    /// Makes a column of numbers one of text, since a number has come that has no room in 64 bits.
    fn widen(&mut self, column: usize) -> rusqlite::Result<()> {
        self.columns[column].kind = Kind::Text;
        let (table, before) = (self.table.clone(), format!("{} before", self.table));
        self.database.execute_batch(&format!("ALTER TABLE {} RENAME TO {}", quoted(&table), quoted(&before)))?;
        self.make(&table)?;
        self.database.execute_batch(&format!("INSERT INTO {0} SELECT * FROM {1}; DROP TABLE {1}", quoted(&table), quoted(&before)))
    }
}

/// The type a column is declared with: none that would change what is written into it.
fn declared(kind: Kind) -> &'static str {
    match kind {
        Kind::Integer => "INTEGER",
        Kind::Number => "REAL",
        Kind::Truth => "BOOLEAN",
        Kind::Text | Kind::Decimal(_) | Kind::Date | Kind::Mixed => "TEXT",
    }
}

fn failed(name: &str, cause: &rusqlite::Error) -> TableError {
    TableError::no_table(name, format!("cannot be written: {}.", said(cause)), "Nothing was written.")
}

impl CellsFile for DatabaseTable {
    fn begin(&mut self, columns: Vec<CellColumn>, _batches: Option<Arc<Batches>>) -> Result<(), TableError> {
        self.columns = columns;
        let is_there = self.database.table_exists(None, self.table.as_str()).map_err(|cause| failed(&self.name, &cause))?;
        if is_there && !self.replace {
            let problem = format!("has a table {} already.", self.table);
            return Err(TableError::no_table(&self.name, problem, "Name another with --to-table, or replace it: --replace-table."));
        }
        let drop = if is_there { self.database.execute_batch(&format!("DROP TABLE {}", quoted(&self.table))) } else { Ok(()) };
        let table = self.table.clone();
        drop.and_then(|()| self.make(&table)).map_err(|cause| failed(&self.name, &cause))
    }

    fn row<'c>(&mut self, _number: u64, cells: &mut dyn Iterator<Item = OutCell<'c>>) -> Result<(), TableError> {
        let cells: Vec<OutCell<'c>> = (0..self.columns.len()).map(|_| cells.next().flatten()).collect();
        // SQLite would make a number of it that has lost digits.
        let too_long = |n: usize, cell: &OutCell<'_>| {
            let text = cell.as_deref().unwrap_or_default();
            let column = &self.columns[n];
            match column.kind {
                Kind::Integer => text.len() > 15 && text.parse::<i64>().is_err(),
                Kind::Number => !column.is_asked && text.bytes().filter(u8::is_ascii_digit).count() > 17,
                _ => false,
            }
        };
        let wider: Vec<usize> = cells.iter().enumerate().filter(|(n, cell)| too_long(*n, cell)).map(|(n, _)| n).collect();
        for column in wider {
            self.widen(column).map_err(|cause| failed(&self.name, &cause))?;
        }
        let values = cells.iter().zip(&self.columns).map(|(cell, column)| match (cell.as_deref(), column.kind) {
            (Some("true"), Kind::Truth) => Some("1"),
            (Some("false"), Kind::Truth) => Some("0"),
            (text, _) => text,
        });
        let inserted = self.database.prepare_cached(&self.insert).and_then(|mut insert| insert.execute(params_from_iter(values)));
        inserted.map(drop).map_err(|cause| failed(&self.name, &cause))
    }

    fn finish(self: Box<Self>) -> Result<Vec<String>, TableError> {
        let Self { database, new, name, .. } = *self;
        database.execute_batch("COMMIT").map_err(|cause| failed(&name, &cause))?;
        database.close().map_err(|(_, cause)| failed(&name, &cause))?;
        new.map(NewFile::finish).transpose()?;
        Ok(Vec::new())
    }
}
