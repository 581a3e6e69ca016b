//! Where rows of several files stood.

use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};

use crate::error::TableError;
use crate::shown::visible;

/// Where the rows of several tables stood in their files.
#[derive(Debug, Default)]
pub(crate) struct LineMap {
    /// From which line of all on: the file, and by how much its own lines are ahead.
    list: Mutex<VecDeque<(u64, String, i64)>>,
}

impl LineMap {
    /// Takes note of a line of all that is this one of its file.
    pub(crate) fn push(&self, line: u64, file: &str, own: u64) {
        let ahead = own as i64 - line as i64;
        let mut list = self.list.lock().unwrap_or_else(PoisonError::into_inner);
        if list.back().is_none_or(|(_, known, by)| known != file || *by != ahead) {
            list.push_back((line, file.to_owned(), ahead));
            // The caller asks of what was read a short while ago.
            if list.len() > MOST_PLACES {
                list.pop_front();
            }
        }
    }

    /// The file and the line in it of a line of all that was read a short while ago.
    pub(crate) fn of(&self, line: u64) -> Option<(String, u64)> {
        let list = self.list.lock().unwrap_or_else(PoisonError::into_inner);
        // They stand in the order of their lines.
        let (_, file, by) =
            &list[list.partition_point(|(from, ..)| *from <= line).checked_sub(1)?];
        Some((file.clone(), (line as i64 + by) as u64))
    }

    /// An error with its file and the line in it.
    pub(crate) fn in_file(&self, error: TableError) -> TableError {
        match error {
            TableError::Row { line, name, reason, rows_gone } => {
                let (name, line) = self.of(line).unwrap_or((name, line));
                TableError::Row { name, line, reason, rows_gone }
            }
            TableError::Finding { line, name, said, rows_gone } => {
                let (name, line) = self.of(line).unwrap_or((name, line));
                TableError::Finding { name, line, said, rows_gone }
            }
            error => error,
        }
    }
}

/// Where a line stands: the line in its file, and the file where it is one of several; blank when
/// that is no longer known.
pub(crate) fn stood(places: Option<&LineMap>, line: u64) -> (u64, Option<String>) {
    match places.map(|places| places.of(line)) {
        None => (line, None),
        Some(None) => (line, Some(String::new())),
        Some(Some((file, line))) => (line, Some(file)),
    }
}

/// Tells where lines of a table stood, should it be put together of several files.
#[derive(Debug, Clone, Default)]
pub struct Whereabouts(pub(crate) Option<Arc<LineMap>>);

impl Whereabouts {
    /// Of parts of a table, each by its name; the lines of each are that many ahead of those of the
    /// one before.
    pub fn of_parts<'p>(names: impl IntoIterator<Item = &'p str>, lines: u64) -> Self {
        let places = LineMap::default();
        (0..).zip(names).for_each(|(n, name)| places.push(n * lines, name, 0));
        Self(Some(Arc::new(places)))
    }

    /// Whether there are several files.
    pub fn has_files(&self) -> bool {
        self.0.is_some()
    }

    /// The line in its file, and the file where it is one of several; blank when that is no longer
    /// known.
    pub fn stood(&self, line: u64) -> (u64, Option<String>) {
        stood(self.0.as_deref(), line)
    }

    /// The same in words, to be shown: `line 17`, or `line 17 of FILE`.
    pub fn line(&self, line: u64) -> String {
        match self.stood(line) {
            (line, Some(file)) if !file.is_empty() => format!("line {line} of {}", visible(&file)),
            (line, _) => format!("line {line}"),
        }
    }
}

/// How many changes of place are remembered.
const MOST_PLACES: usize = 100_000;
