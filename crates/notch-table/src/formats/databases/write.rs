//! Rows into a table of an SQLite file, in one transaction: whole or not at all.

use std::path::{Path, PathBuf};
use std::time::Duration;

use rusqlite::{Connection, OpenFlags};

use super::quoted;
use super::rows_at_hand::{self, RowsAtHand};
use super::sqlite::{opened, said};
use crate::beginnings::SQLITE;
use crate::cells::{CellColumn, CellWriter, Kind, OutCell, OutputColumns, TypedRows};
use crate::error::TableError;
use crate::output::{Ended, Finished, NewFile, Whole};
use crate::parts::{Part, Published};

/// A table that is written.
struct DatabaseTable {
    database: Connection,
    place: Place,
    what: Made,
    /// What inserts the rows that are in memory.
    statement: String,
    at_hand: RowsAtHand,
    /// A row that comes by itself.
    one: OutputColumns,
}

/// What is made in a file.
struct Made {
    /// The file as the user called it.
    name: String,
    table: String,
    replace: bool,
    columns: Vec<CellColumn>,
}

/// Where the table is written.
enum Place {
    /// In a file that was not there before.
    New(NewFile),
    /// Aside, until it is whole: the file it is for may be read meanwhile, by the caller for its
    /// rows as well.
    Aside { part: Part, into: PathBuf },
}

/// A new table of an SQLite file, which is made if it is not there; `replace` allows for a table of
/// that name in it.
///
/// # Errors
/// It cannot be begun.
pub(crate) fn writer(
    path: &Path,
    table: &str,
    replace: bool,
) -> Result<Box<dyn CellWriter>, TableError> {
    Ok(Box::new(DatabaseTable::create(path, table, replace)?))
}

impl DatabaseTable {
    /// In a file, which is made if it is not there. `replace` allows for a table of this name that
    /// is there already.
    fn create(path: &Path, table: &str, replace: bool) -> Result<Self, TableError> {
        let name = path.display().to_string();
        let no_file = |cause: &rusqlite::Error| failed(&name, cause);
        let is_there = path.metadata().is_ok_and(|metadata| metadata.len() > 0);
        let (place, lies): (Place, PathBuf) = if is_there {
            let begins = std::fs::File::open(path).and_then(|mut file| {
                let mut first = [0; SQLITE.len()];
                std::io::Read::read_exact(&mut file, &mut first).map(|()| first)
            });
            if !begins.is_ok_and(|first| first == SQLITE) {
                return Err(TableError::no_table(
                    &name,
                    "is there and is no SQLite file.",
                    "Name another file. It was left as it is.",
                ));
            }
            // After a link it is the file meant, whose folder SQLite writes to as well.
            let into = path.canonicalize().unwrap_or_else(|_| path.to_owned());
            let folder = into.parent().unwrap_or(Path::new("."));
            let (_, part) = Part::create_in(folder, None)
                .map_err(|cause| TableError::io(&name, "cannot be written", cause))?;
            let lies = part.to_path_buf();
            (Place::Aside { part, into }, lies)
        } else {
            let file = NewFile::create(path)?;
            let lies = file.temporary().map(Path::to_owned);
            let lies = lies.ok_or_else(|| {
                TableError::no_table(
                    &name,
                    "is no file that a table can be written to.",
                    "Name a file.",
                )
            })?;
            (Place::New(file), lies)
        };
        // One thread uses the connection: its locks were an eighth of the time.
        let flags = OpenFlags::SQLITE_OPEN_READ_WRITE | OpenFlags::SQLITE_OPEN_NO_MUTEX;
        let database = Connection::open_with_flags(lies, flags).map_err(|cause| no_file(&cause))?;
        // It is used only when it is whole. A new one has pages of 32 KB, with which SQLite writes
        // a table in four fifths of the time that its usual 4 KB take.
        let begin = "PRAGMA page_size = 32768; PRAGMA journal_mode = OFF; \
            PRAGMA synchronous = OFF; BEGIN";
        database.execute_batch(begin).map_err(|cause| no_file(&cause))?;
        let what = Made { name, table: table.to_owned(), replace, columns: Vec::new() };
        Ok(Self {
            database,
            place,
            what,
            statement: String::new(),
            at_hand: RowsAtHand::default(),
            one: OutputColumns::default(),
        })
    }

    /// Makes a table with the columns as they are now.
    fn make(&mut self, table: &str) -> rusqlite::Result<()> {
        self.database.execute_batch(&self.what.made(table))?;
        let (into, from) = (quoted(&self.what.table), rows_at_hand::NAME);
        self.statement = format!("INSERT INTO {into} SELECT * FROM {from}");
        Ok(())
    }

    /// Inserts rows.
    fn insert(&mut self, rows: &mut OutputColumns) -> rusqlite::Result<()> {
        let mut from = 0;
        while from < rows.len() {
            for n in 0..self.what.columns.len() {
                if self.what.columns[n].has_no_room(rows.cell(from, n)) {
                    self.widen(n)?;
                }
            }
            // One statement serves all rows up to the next one that widens a column.
            let columns = self.what.columns.iter().enumerate();
            let may_widen: Vec<(usize, &CellColumn)> =
                columns.filter(|(_, column)| column.may_widen()).collect();
            let widens = |row: &usize| {
                may_widen.iter().any(|(n, column)| column.has_no_room(rows.cell(*row, *n)))
            };
            let to = (from + 1..rows.len()).find(widens).unwrap_or(rows.len());
            let mut insert = self.database.prepare_cached(&self.statement)?;
            let inserted = self.at_hand.holding(rows, from..to, || insert.raw_execute())?;
            if inserted != to - from {
                return Err(rusqlite::Error::StatementChangedRows(inserted));
            }
            from = to;
        }
        Ok(())
    }

    /// Makes a column of numbers one of text, since a number has come that has no room in 64 bits.
    fn widen(&mut self, column: usize) -> rusqlite::Result<()> {
        self.what.columns[column].kind = Kind::Text;
        let (table, before) = (self.what.table.clone(), format!("{} before", self.what.table));
        self.database.execute_batch(&format!(
            "ALTER TABLE {} RENAME TO {}",
            quoted(&table),
            quoted(&before)
        ))?;
        self.make(&table)?;
        self.database.execute_batch(&format!(
            "INSERT INTO {0} SELECT * FROM {1}; DROP TABLE {1}",
            quoted(&table),
            quoted(&before)
        ))
    }
}

impl CellColumn {
    /// Whether there are texts that it has no room for.
    fn may_widen(&self) -> bool {
        self.kind == Kind::Integer || self.kind == Kind::Number && !self.is_asked
    }

    /// Whether SQLite would make a number of the text that has lost digits.
    fn has_no_room(&self, text: &str) -> bool {
        match self.kind {
            Kind::Integer => text.len() > 15 && text.parse::<i64>().is_err(),
            Kind::Number => {
                !self.is_asked
                    && text.len() > 17
                    && text.bytes().filter(u8::is_ascii_digit).count() > 17
            }
            _ => false,
        }
    }
}

impl Made {
    /// Whether the file has a table of the name already, as far as that is allowed.
    fn may_be_replaced(&self, file: &Connection) -> Result<bool, TableError> {
        let is_there = file
            .table_exists(Some("main"), self.table.as_str())
            .map_err(|cause| failed(&self.name, &cause))?;
        if is_there && !self.replace {
            let problem = format!("has a table {} already.", self.table);
            return Err(TableError::no_table(
                &self.name,
                problem,
                "Name another with --to-table, or replace it: --replace-table.",
            ));
        }
        Ok(is_there)
    }

    /// How the table is made.
    fn made(&self, table: &str) -> String {
        let declared =
            |column: &CellColumn| format!("{} {}", quoted(&column.name), declared(column.kind));
        let columns: Vec<String> = self.columns.iter().map(declared).collect();
        format!("CREATE TABLE {} ({})", quoted(table), columns.join(", "))
    }

    /// Returns a new file its name; where another run was quicker, the table is added to what is
    /// there by then.
    fn place_new(&self, part: Part, into: &Path) -> Result<(), TableError> {
        let failed = |cause| TableError::io(&self.name, "cannot be written", cause);
        match part.publish(into, false).map_err(failed)? {
            Published::Yes => Ok(()),
            Published::NameIsTaken(part) => self.copy(&part, into),
        }
    }

    /// Copies what was written aside into the file it is for, in one transaction.
    fn copy(&self, aside: &Path, into: &Path) -> Result<(), TableError> {
        let no_file = |cause: rusqlite::Error| failed(&self.name, &cause);
        let database = Connection::open_with_flags(into, OpenFlags::SQLITE_OPEN_READ_WRITE)
            .map_err(no_file)?;
        database.busy_timeout(PATIENCE).map_err(no_file)?;
        database.execute("ATTACH ?1 AS aside", [aside.to_string_lossy()]).map_err(no_file)?;
        database.execute_batch("BEGIN IMMEDIATE").map_err(no_file)?;
        let table = quoted(&self.table);
        if self.may_be_replaced(&database)? {
            database.execute_batch(&format!("DROP TABLE main.{table}")).map_err(no_file)?;
        }
        let copied = format!(
            "{}; INSERT INTO main.{table} SELECT * FROM aside.{table}; COMMIT",
            self.made(&self.table)
        );
        database.execute_batch(&copied).map_err(no_file)?;
        database.close().map_err(|(_, cause)| no_file(cause))
    }
}

/// So long another program may keep the file to itself.
const PATIENCE: Duration = Duration::from_secs(10);

/// The type a column is declared with: none that would change what is written into it.
fn declared(kind: Kind) -> &'static str {
    match kind {
        Kind::Integer => "INTEGER",
        Kind::Number => "REAL",
        Kind::Truth => "BOOLEAN",
        Kind::Text | Kind::Decimal(_) | Kind::Date | Kind::DateTime | Kind::Mixed => "TEXT",
    }
}

fn failed(name: &str, cause: &rusqlite::Error) -> TableError {
    TableError::not_written(name, &said(cause), "Nothing was written.")
}

impl CellWriter for DatabaseTable {
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        _batches: Option<TypedRows>,
    ) -> Result<(), TableError> {
        self.what.columns = columns;
        if let Place::Aside { into, .. } = &self.place {
            let file = opened(into).map_err(|cause| failed(&self.what.name, &cause))?;
            self.what.may_be_replaced(&file)?;
        }
        let table = self.what.table.clone();
        let are_truths =
            self.what.columns.iter().map(|column| column.kind == Kind::Truth).collect();
        let made = self.make(&table).and_then(|()| RowsAtHand::make(&self.database, are_truths));
        self.at_hand = made.map_err(|cause| failed(&self.what.name, &cause))?;
        Ok(())
    }

    fn row<'c>(
        &mut self,
        number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError> {
        let (mut row, width) = (std::mem::take(&mut self.one), self.what.columns.len());
        row.clear();
        row.begin_row(number, number, width);
        for column in 0..width {
            row.add(column, cells.next().flatten().as_deref().unwrap_or_default());
        }
        row.close();
        let inserted = self.insert(&mut row);
        self.one = row;
        inserted.map_err(|cause| failed(&self.what.name, &cause))
    }

    fn block(&mut self, rows: &mut OutputColumns, _wanted: &[bool]) -> Result<(), TableError> {
        self.insert(rows).map_err(|cause| failed(&self.what.name, &cause))
    }

    fn finish(self: Box<Self>) -> Result<Finished, TableError> {
        let Self { database, place, what, .. } = *self;
        database.execute_batch("COMMIT").map_err(|cause| failed(&what.name, &cause))?;
        database.close().map_err(|(_, cause)| failed(&what.name, &cause))?;
        let whole = match place {
            Place::Aside { part, into } => {
                Whole::new(what.name.clone(), move || what.copy(&part, &into))
            }
            Place::New(file) => match file.into_part()? {
                Ended::Part(part, into) => {
                    Whole::new(what.name.clone(), move || what.place_new(part, &into))
                }
                Ended::Standard(_) | Ended::Device => return Ok(Finished::default()),
            },
        };
        Ok(Finished { said: Vec::new(), whole: Some(whole) })
    }
}
