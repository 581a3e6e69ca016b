//! What can stop the work on a table, each with its place and the remedy.

use std::borrow::Cow;
use std::io;

use thiserror::Error;

use crate::unreadable::Unreadable;

/// What to do about text that is not UTF-8.
macro_rules! other_encoding {
    () => {
        "If the text is of another encoding than UTF-8, say which: --encoding windows-1252."
    };
}
pub(crate) use other_encoding;

/// What stopped the work.
#[derive(Debug, Error)]
pub enum TableError {
    /// A file cannot be opened, read or written.
    #[error("{name} {what}: {cause}.", cause = said(cause))]
    Io {
        /// The file as the user called it.
        name: String,
        /// What could not be done: `cannot be read`.
        what: &'static str,
        /// Why.
        cause: io::Error,
    },
    /// What is given as a table is none.
    #[error("{name} {problem}")]
    NoTable {
        /// The file as the user called it.
        name: String,
        /// The problem as a predicate, with its full stop.
        problem: String,
        /// What to do.
        remedy: Cow<'static, str>,
    },
    /// A row cannot be read.
    #[error("{name}, line {line}: {reason}.")]
    Row {
        /// The file as the user called it.
        name: String,
        /// The line in which the row begins, from 1.
        line: u64,
        /// Why.
        reason: Unreadable,
        /// Rows before it have been passed on already and cannot be taken back.
        rows_gone: bool,
    },
    /// A finding in a row was to stop the work.
    #[error("{name}, line {line}: {said}.")]
    Finding {
        /// The file as the user called it.
        name: String,
        /// The line in which the row begins, from 1.
        line: u64,
        /// What the finding is about, its kind and reason: `serial, check: fails: is digits`.
        said: String,
        /// Rows before it have been passed on already and cannot be taken back.
        rows_gone: bool,
    },
    /// Files of one run were given their names one after the other, and this one could not.
    #[error("{error}")]
    Partly {
        /// What went wrong.
        error: Box<TableError>,
        /// The files that have their names already.
        done: Vec<String>,
        /// What to do.
        remedy: String,
    },
    /// The user asked to stop.
    #[error("the work was interrupted.")]
    Interrupted,
    /// Two files of one run are the same.
    #[error("{first} and {second} are the same file.")]
    SameFile {
        /// The one, as a phrase: `the output lots.csv`.
        first: String,
        /// The other.
        second: String,
    },
}

impl TableError {
    pub(crate) fn io(name: &str, what: &'static str, cause: io::Error) -> Self {
        TableError::Io { name: name.to_owned(), what, cause }
    }

    pub(crate) fn no_table(
        name: &str,
        problem: impl Into<String>,
        remedy: impl Into<Cow<'static, str>>,
    ) -> Self {
        TableError::NoTable {
            name: name.to_owned(),
            problem: problem.into(),
            remedy: remedy.into(),
        }
    }

    /// A library could not write, for this reason, which may be the system's.
    pub(crate) fn not_written(name: &str, cause: &str, remedy: &'static str) -> Self {
        if ["os error 28", "StorageFull", "disk is full"].iter().any(|full| cause.contains(full)) {
            return Self::io(
                name,
                "cannot be written",
                io::Error::from(io::ErrorKind::StorageFull),
            );
        }
        let cause = cause.split(" (os error").next().unwrap_or(cause).trim_end_matches('.');
        Self::no_table(name, format!("cannot be written: {cause}."), remedy)
    }

    /// What to do, in one or two sentences.
    pub fn remedy(&self) -> &str {
        match self {
            TableError::Io { cause, .. } => match cause.kind() {
                io::ErrorKind::NotFound => {
                    "Is the name right, and the folder? The path is taken from the folder you are \
                    in."
                }
                io::ErrorKind::PermissionDenied => {
                    "Ask for the right to use it, or work on a copy."
                }
                io::ErrorKind::StorageFull => {
                    "Make room, or write to another disk. Nothing half-written was left behind."
                }
                _ => "",
            },
            TableError::NoTable { remedy, .. } => remedy,
            TableError::Partly { remedy, .. } => remedy,
            TableError::Row { rows_gone: true, .. } => {
                "Rows before this one have been written already. Read from a file instead of a \
                pipe to have the whole table looked through first, or put the rows that cannot be \
                read into a file of their own: --rejects FILE."
            }
            TableError::Row { reason: Unreadable::NotUtf8 { .. }, .. } => {
                concat!(
                    "Nothing was written. ",
                    other_encoding!(),
                    " Rows that cannot be read go into a file of their own with --rejects FILE."
                )
            }
            TableError::Row { .. } => {
                "Nothing was written. Mend the row, or put the rows that cannot be read into a \
                file of their own: --rejects FILE. If the columns are divided otherwise than was \
                found by looking, say how: --separator."
            }
            TableError::Finding { rows_gone: true, .. } => {
                "A finding was to stop the work. Rows before this one have been written already; \
                with -o FILE nothing would have been."
            }
            TableError::Finding { .. } => {
                "A finding was to stop the work, so nothing was written. Mend the row, or ask for \
                something else: --on-finding."
            }
            TableError::Interrupted => {
                "No output was left behind, and what was there before is as it was."
            }
            TableError::SameFile { .. } => {
                "Nothing is ever written over the input or two outputs into one file. Choose \
                another name."
            }
        }
    }

    /// The same error of a file that was to come after these, which have their names.
    pub(crate) fn behind(self, done: &[String]) -> Self {
        if done.is_empty() || self.is_closed_pipe() {
            return self;
        }
        let remedy = format!("{} Already written: {}.", self.remedy(), done.join(", "))
            .trim_start()
            .to_owned();
        TableError::Partly { error: Box::new(self), done: done.to_vec(), remedy }
    }

    /// The same error, when it is known whether rows have been passed on before.
    pub(crate) fn with_rows_gone(mut self, gone: bool) -> Self {
        if let TableError::Row { rows_gone, .. } | TableError::Finding { rows_gone, .. } = &mut self
        {
            *rows_gone = gone;
        }
        self
    }

    /// Whether the reader of our output has gone away, which is no error of ours.
    pub fn is_closed_pipe(&self) -> bool {
        matches!(self, TableError::Io { cause, .. } if cause.kind() == io::ErrorKind::BrokenPipe)
    }
}

/// The operating system's reason in words; its number says nothing to an analyst.
fn said(cause: &io::Error) -> String {
    match cause.kind() {
        io::ErrorKind::NotFound => "there is no such file".to_owned(),
        io::ErrorKind::PermissionDenied => "permission is denied".to_owned(),
        io::ErrorKind::IsADirectory => "it is a folder".to_owned(),
        io::ErrorKind::NotADirectory => "a part of its path is no folder".to_owned(),
        io::ErrorKind::StorageFull => "the disk is full".to_owned(),
        _ => {
            let text = cause.to_string();
            let text = text.split(" (os error").next().unwrap_or(&text).trim_end_matches('.');
            let mut letters = text.chars();
            match (letters.next(), letters.clone().next()) {
                // An abbreviation stays one.
                (Some(first), Some(second)) if second.is_uppercase() => {
                    std::iter::once(first).chain(letters).collect()
                }
                (Some(first), _) => first.to_lowercase().chain(letters).collect(),
                (None, _) => String::new(),
            }
        }
    }
}
