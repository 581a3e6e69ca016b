//! Tables of typed columns: Parquet, and the files and streams of Arrow.
//!
//! Their rows come in as comma-separated text, so that everything after knows only rows. What is
//! written again unchanged is not made of that text but taken from the columns themselves, with
//! their types.

mod arrow_target;
mod dictionaries;
mod extremes;
mod parquet_in;
mod parquet_out;
mod read;
mod row_groups;
mod source_parquet;
mod texts;
mod typed_file;
mod values;
mod write;

use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use arrow_array::RecordBatch;
use arrow_schema::SchemaRef;

pub(crate) use read::{ArrowText, arrow_stream, open};
use source_parquet::SourceParquet;
pub(crate) use write::writer;

/// Rows that have been read and may be written still, with their types.
#[derive(Debug)]
pub(crate) struct Batches {
    schema: SchemaRef,
    /// The file they are read from, where more can be read in it.
    original: Option<Arc<SourceParquet>>,
    is_wanted: AtomicBool,
    /// The columns that are to be made text; all when it was not said.
    as_text: OnceLock<Vec<usize>>,
    /// The number of the first row of each, from 1.
    kept: Mutex<VecDeque<(u64, RecordBatch)>>,
}

impl Batches {
    fn new(schema: SchemaRef, original: Option<SourceParquet>) -> Self {
        let original = original.map(Arc::new);
        Self {
            schema,
            original,
            is_wanted: AtomicBool::new(false),
            as_text: OnceLock::new(),
            kept: Mutex::default(),
        }
    }

    /// Their columns.
    fn schema(&self) -> SchemaRef {
        SchemaRef::clone(&self.schema)
    }

    /// The Parquet file they are read from.
    fn original(&self) -> Option<Arc<SourceParquet>> {
        self.original.clone()
    }

    /// Makes text of these columns only; the others are left blank. To be said before the first row
    /// is read.
    pub(crate) fn only_as_text(&self, columns: Vec<usize>) {
        // Said twice, the first one stands.
        let _ = self.as_text.set(columns);
    }

    /// Whether a column is to be made text.
    fn is_as_text(&self, column: usize) -> bool {
        self.as_text.get().is_none_or(|columns| columns.contains(&column))
    }

    /// Keeps what is read from now on until it has been asked for.
    fn keep(&self) {
        self.is_wanted.store(true, Ordering::Relaxed);
    }

    /// Whether what is read is kept.
    fn are_kept(&self) -> bool {
        self.is_wanted.load(Ordering::Relaxed)
    }

    /// Takes rows that have been read.
    fn push(&self, first: u64, batch: &RecordBatch) {
        if self.are_kept() {
            self.kept
                .lock()
                .unwrap_or_else(PoisonError::into_inner)
                .push_back((first, batch.clone()));
        }
    }

    /// The rows that a row is among, and the number of their first one. Rows are asked for in their
    /// order: those before are given up.
    fn of(&self, row: u64) -> Option<(u64, RecordBatch)> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        while kept.front().is_some_and(|(first, batch)| row >= first + batch.num_rows() as u64) {
            kept.pop_front();
        }
        kept.front().cloned()
    }
}
