//! Tables of databases: a query's rows as comma-separated text, in pieces as they come, and rows
//! into a new table.
//!
//! A query runs on a thread of its own, which waits while its rows are not taken. Nothing is ever
//! written by it.

#[cfg(feature = "postgres")]
mod postgres;
#[cfg(feature = "sqlite")]
mod rows_at_hand;
#[cfg(feature = "postgres")]
mod server;
#[cfg(feature = "sqlite")]
mod sqlite;
#[cfg(feature = "sqlite")]
mod write;

use std::io;
use std::sync::mpsc::{Receiver, RecvTimeoutError, SyncSender, sync_channel};
use std::thread;
use std::time::Duration;

use keen_notch_core::nearest;

#[cfg(feature = "sqlite")]
pub(crate) use self::write::writer;
#[cfg(not(feature = "postgres"))]
use super::not_built::postgres;
#[cfg(not(feature = "sqlite"))]
use super::not_built::sqlite;
#[cfg(not(feature = "sqlite"))]
pub(crate) use super::not_built::sqlite::writer;
use crate::cells::Kind;
use crate::chunks::ChunkSource;
use crate::error::TableError;
use crate::formats::csv::{MadeRows, RowMaker, write_open_cell};
use crate::input::source::Source;
use crate::options::ReadOptions;

/// For how many seconds a server may be silent when nothing is said.
const USUAL_TIMEOUT: u64 = 10;
/// What is passed on at a time, in bytes.
const PIECE: usize = 64 * 1024;
/// How many pieces may wait: as many as a few blocks have, so that the database is asked for more
/// while all others work (1.56 and 1.41 of the time of a copy with 4 and 32).
const AHEAD: usize = 32;

/// What a query's thread passes on.
enum Message {
    /// The database has been reached.
    Reached,
    /// The names of the columns and what they hold, before any rows.
    Columns(Vec<(String, Kind)>),
    /// The cells of whole rows.
    Rows(Cells),
    /// The text of rows, a piece after the other.
    Text(Vec<u8>),
    /// Why it cannot go on, as a clause.
    Failed(String),
    /// All is said.
    Done,
}

/// The cells of rows, one after the other as they are. They become fields only where they are
/// taken: the thread that asks the database for them is what all others wait for.
struct Cells {
    text: Vec<u8>,
    /// Where each ends, in bytes.
    ends: Vec<u32>,
    /// How many a row has.
    width: usize,
}

impl Cells {
    /// Adds the rows with their fields.
    fn add_to(&self, made: &mut MadeRows) {
        let mut from = 0;
        for row in self.ends.chunks(self.width) {
            for end in row {
                let (open, length) = (&self.text[from..], *end as usize - from);
                made.add_field(|text| write_open_cell(open, length, b',', text));
                from = *end as usize;
            }
            made.end_row();
        }
    }
}

/// The rows of a query as comma-separated text.
pub(crate) struct Queried {
    messages: Receiver<Message>,
    /// How long it may be silent.
    timeout: Option<Duration>,
    at_end: bool,
}

/// Runs what was asked for, and waits for the names of its columns.
///
/// # Errors
/// The database cannot be reached or read, or what is asked for is no single query that reads.
pub(crate) fn open(
    source: &Source,
    options: &ReadOptions,
) -> Result<(Queried, Vec<(String, Kind)>), TableError> {
    let name = source.name();
    match source {
        Source::Server(_) => postgres::is_built(&name)?,
        _ => sqlite::is_built(&name)?,
    }
    let (sender, messages) = sync_channel(AHEAD);
    let wanted = Wanted { query: options.query.clone(), table: options.table_name.clone() };
    let mut queried = Queried { messages, timeout: None, at_end: false };
    match source {
        Source::Server(url) => {
            let timeout = Duration::from_secs(options.timeout.unwrap_or(USUAL_TIMEOUT));
            queried.timeout = Some(timeout);
            let url = url.clone();
            thread::spawn(move || {
                answer(&sender, |sender| postgres::run(&url, &wanted, timeout, sender))
            });
        }
        Source::File(path) => {
            let path = path.clone();
            thread::spawn(move || answer(&sender, |sender| sqlite::run(&path, &wanted, sender)));
        }
        Source::Copy { path, .. } => {
            let path = path.clone();
            thread::spawn(move || answer(&sender, |sender| sqlite::run(&path, &wanted, sender)));
        }
        Source::Standard | Source::Many { .. } => {
            return Err(TableError::no_table(
                &name,
                "is a database that cannot be read from here.",
                "Name its file.",
            ));
        }
    }
    let mut reached = false;
    loop {
        match queried.next() {
            Ok(Message::Reached) => reached = true,
            Ok(Message::Columns(columns)) => return Ok((queried, columns)),
            Ok(Message::Failed(why)) | Err(why) => {
                let remedy = match source {
                    Source::Server(_) if !reached => {
                        "A server is called postgres://USER@HOST/DATABASE; the password may stand \
                        in PGPASSWORD or in the password file."
                    }
                    _ if options.query.is_none() && options.table_name.is_none() => {
                        "Ask for what is to be read: --query or --table-name."
                    }
                    _ => "Is the query right, or the name of the table?",
                };
                return Err(TableError::no_table(&name, format!("cannot be read: {why}."), remedy));
            }
            Ok(Message::Rows(_) | Message::Text(_) | Message::Done) => {
                return Err(TableError::no_table(
                    &name,
                    "gave no columns.",
                    "Ask for a query that has some: --query.",
                ));
            }
        }
    }
}

/// What is to be read of a database.
struct Wanted {
    query: Option<String>,
    table: Option<String>,
}

impl Wanted {
    /// The query, or one of all of the table that was named, or of the only one there is.
    fn query(
        &self,
        tables: impl FnOnce() -> Result<Vec<String>, String>,
        called: impl Fn(&str) -> String,
    ) -> Result<String, String> {
        if let Some(query) = &self.query {
            return Ok(query.clone());
        }
        let tables = tables()?;
        let table = match (&self.table, tables.as_slice()) {
            (Some(table), _) if tables.contains(table) => table,
            (Some(table), _) => {
                let near = nearest(table, tables.iter().map(String::as_str))
                    .map_or(String::new(), |near| format!(", the nearest is {near}"));
                return Err(format!(
                    "there is no table {table}{near}; the tables are: {}",
                    tables.join(", ")
                ));
            }
            (None, [only]) => only,
            (None, []) => return Err("there is no table in it".to_owned()),
            (None, _) => return Err(format!("it has several tables: {}", tables.join(", "))),
        };
        Ok(format!("SELECT * FROM {}", called(table)))
    }
}

/// Runs a query and says how it ended.
fn answer(
    sender: &SyncSender<Message>,
    run: impl FnOnce(&SyncSender<Message>) -> Result<(), String>,
) {
    // The receiver may be gone.
    let _ = sender.send(match run(sender) {
        Ok(()) => Message::Done,
        Err(why) => Message::Failed(why),
    });
}

/// A name as SQL writes it when it may hold anything.
fn quoted(name: &str) -> String {
    format!("\"{}\"", name.replace('"', "\"\""))
}

impl Queried {
    fn next(&self) -> Result<Message, String> {
        match self.timeout {
            None => self.messages.recv().map_err(|_| "it stopped without a word".to_owned()),
            Some(timeout) => self.messages.recv_timeout(timeout).map_err(|error| match error {
                RecvTimeoutError::Timeout => {
                    format!(
                        "the server has been silent for {} s; give it longer with --timeout \
                        SECONDS",
                        timeout.as_secs()
                    )
                }
                RecvTimeoutError::Disconnected => "it stopped without a word".to_owned(),
            }),
        }
    }
}

impl Queried {
    /// The next message with rows; `None` at the end.
    fn next_rows(&mut self) -> io::Result<Option<Message>> {
        while !self.at_end {
            match self.next() {
                Ok(Message::Columns(_) | Message::Reached) => {}
                Ok(Message::Rows(rows)) if rows.ends.is_empty() => {}
                Ok(Message::Text(text)) if text.is_empty() => {}
                Ok(rows @ (Message::Rows(_) | Message::Text(_))) => return Ok(Some(rows)),
                Ok(Message::Done) => self.at_end = true,
                Ok(Message::Failed(why)) | Err(why) => return Err(io::Error::other(why)),
            }
        }
        Ok(None)
    }
}

/// Rows of a server, as text.
impl ChunkSource for Queried {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        if let Some(Message::Text(text)) = self.next_rows()? {
            *piece = text;
        }
        Ok(())
    }
}

/// Rows of a file.
impl RowMaker for Queried {
    fn next_rows(&mut self, _size: usize, made: &mut MadeRows) -> io::Result<()> {
        if let Some(Message::Rows(rows)) = Self::next_rows(self)? {
            rows.add_to(made);
        }
        Ok(())
    }
}
