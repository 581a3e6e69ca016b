//! SQLite files: one table, or what a query gives.

use std::fmt;
use std::io::Write;
use std::path::Path;
use std::sync::mpsc::SyncSender;

use rusqlite::types::ValueRef;
use rusqlite::{Connection, Error, ErrorCode, OpenFlags, Statement};

use super::{Cells, Message, PIECE, Wanted, quoted};
use crate::cells::Kind;
use crate::error::TableError;

/// SQLite is part of this build.
#[allow(clippy::unnecessary_wraps, reason = "where it is not part of it, this is an error")]
pub(super) fn is_built(_name: &str) -> Result<(), TableError> {
    Ok(())
}

/// Runs what is wanted and passes on its rows.
///
/// # Errors
/// Why not, as a clause.
pub(super) fn run(
    path: &Path,
    wanted: &Wanted,
    sender: &SyncSender<Message>,
) -> Result<(), String> {
    let database = opened(path).map_err(|cause| said(&cause))?;
    let mut statement = prepared(&database, wanted)?;
    let declared =
        |column: rusqlite::Column<'_>| (column.name().to_owned(), column.decl_type().map(kind_of));
    let columns: Vec<(String, Option<Kind>)> = statement.columns().map(declared).collect();
    let width = columns.len();
    let mut rows = statement.raw_query();
    let mut next = rows.next().map_err(|cause| said(&cause))?;
    // What was declared as nothing, as a sum is, is taken to be what the first row holds.
    let held = |n: usize| match next.and_then(|row| row.get_ref(n).ok()) {
        Some(ValueRef::Integer(_)) => Kind::Integer,
        Some(ValueRef::Real(_)) => Kind::Number,
        _ => Kind::Text,
    };
    let columns = columns
        .into_iter()
        .enumerate()
        .map(|(n, (name, kind))| (name, kind.unwrap_or_else(|| held(n))))
        .collect();
    // The receiver may be gone: then there is nothing to do.
    if sender.send(Message::Columns(columns)).is_err() {
        return Ok(());
    }
    let mut cells = Cells { text: Vec::new(), ends: Vec::new(), width: width.max(1) };
    while let Some(row) = next {
        for n in 0..width {
            let (value, text) = (row.get_ref(n).map_err(|cause| said(&cause))?, &mut cells.text);
            match value {
                ValueRef::Null => {}
                // What is no UTF-8 makes its row one that cannot be read.
                ValueRef::Text(bytes) => text.extend_from_slice(bytes),
                ValueRef::Integer(integer) => put(text, format_args!("{integer}")),
                ValueRef::Real(real) => put(text, format_args!("{real}")),
                ValueRef::Blob(bytes) => {
                    bytes.iter().for_each(|byte| put(text, format_args!("{byte:02x}")));
                }
            }
            cells.ends.push(text.len() as u32);
        }
        // Cells without text fill it as well.
        if cells.text.len() + cells.ends.len() >= PIECE {
            let next = Cells {
                text: Vec::with_capacity(cells.text.len()),
                ends: Vec::with_capacity(cells.ends.len()),
                width: cells.width,
            };
            if sender.send(Message::Rows(std::mem::replace(&mut cells, next))).is_err() {
                return Ok(());
            }
        }
        next = rows.next().map_err(|cause| said(&cause))?;
    }
    let _ = sender.send(Message::Rows(cells));
    Ok(())
}

/// Opens a file for reading. What a killed program had begun to write into it is rolled back first,
/// which only a connection that may write can do (SQLite, Atomic Commit, section 4.2).
///
/// # Errors
/// It is no database, or cannot be rolled back.
pub(super) fn opened(path: &Path) -> Result<Connection, Error> {
    let open = |flags| Connection::open_with_flags(path, flags | OpenFlags::SQLITE_OPEN_NO_MUTEX);
    let look = |database: &Connection| {
        database.query_row("SELECT count(*) FROM sqlite_schema", [], |_| Ok(()))
    };
    let database = open(OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    match look(&database) {
        Err(Error::SqliteFailure(cause, _))
            if matches!(cause.code, ErrorCode::ReadOnly | ErrorCode::CannotOpen) =>
        {
            look(&open(OpenFlags::SQLITE_OPEN_READ_WRITE)?).map_err(|_| cut_off())?;
            Ok(database)
        }
        _ => Ok(database),
    }
}

/// The error of a file that cannot be rolled back without the right to write to it.
fn cut_off() -> Error {
    let text = "a program was ended while it wrote into it, and here it cannot be rolled back: \
        open it once where you may write to it";
    Error::SqliteFailure(
        rusqlite::ffi::Error::new(rusqlite::ffi::SQLITE_READONLY),
        Some(text.to_owned()),
    )
}

/// Writes after a text, which always has room.
fn put(text: &mut Vec<u8>, what: fmt::Arguments<'_>) {
    let _ = text.write_fmt(what);
}

/// What is wanted as a statement that gives rows and changes nothing.
fn prepared<'d>(database: &'d Connection, wanted: &Wanted) -> Result<Statement<'d>, String> {
    let query = wanted.query(|| tables(database), quoted)?;
    let statement = database.prepare(&query).map_err(|cause| match cause {
        Error::MultipleStatement => "the query is several statements, and one is run".to_owned(),
        cause => said(&cause),
    })?;
    if statement.column_count() == 0 || !statement.readonly() {
        return Err("the query gives no rows or would write; tables are only read".to_owned());
    }
    Ok(statement)
}

fn tables(database: &Connection) -> Result<Vec<String>, String> {
    let names = "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') AND name NOT LIKE \
        'sqlite\\_%' ESCAPE '\\' ORDER BY rowid";
    let mut statement = database.prepare(names).map_err(|cause| said(&cause))?;
    let names = statement.query_map([], |row| row.get(0)).and_then(Iterator::collect);
    names.map_err(|cause| said(&cause))
}

/// What a column holds for the most part, by what it was declared as (SQLite, Datatypes, section
/// 3.1).
fn kind_of(declared: &str) -> Kind {
    let declared = declared.to_ascii_uppercase();
    let has = |part: &str| declared.contains(part);
    if has("INT") {
        Kind::Integer
    } else if has("CHAR") || has("CLOB") || has("TEXT") {
        Kind::Text
    } else if has("REAL") || has("FLOA") || has("DOUB") {
        Kind::Number
    } else {
        Kind::Text
    }
}

/// What SQLite says, as a clause.
pub(super) fn said(cause: &Error) -> String {
    let text = match cause {
        Error::SqliteFailure(_, Some(text)) | Error::SqlInputError { msg: text, .. } => {
            text.clone()
        }
        cause => cause.to_string(),
    };
    text.trim_end_matches('.').to_owned()
}
