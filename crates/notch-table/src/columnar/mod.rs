//! Tables of typed columns: Parquet, and the files and streams of Arrow.
//!
//! Their rows come in as comma-separated text, so that everything behind knows only rows. What is written again unchanged is not made of
//! that text but taken from the columns themselves, with their types.

mod read;
mod write;

use std::collections::VecDeque;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};

use arrow_array::RecordBatch;
use arrow_schema::SchemaRef;

pub(crate) use read::{ARROW_FILE, ARROW_STREAM, ArrowText, PARQUET, arrow_stream, open};
pub(crate) use write::ArrowOut;

/// The formats of typed columns.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Columnar {
    /// Apache Parquet.
    Parquet,
    /// The file format of Arrow IPC.
    File,
    /// The streaming format of Arrow IPC.
    Stream,
}

/// Rows that have been read and may be written still, with their types.
#[derive(Debug)]
pub(crate) struct Batches {
    schema: SchemaRef,
    is_wanted: AtomicBool,
    /// The number of the first row of each, from 1.
    kept: Mutex<VecDeque<(u64, RecordBatch)>>,
}

impl Batches {
    fn new(schema: SchemaRef) -> Self {
        Self { schema, is_wanted: AtomicBool::new(false), kept: Mutex::default() }
    }

    /// Their columns.
    fn schema(&self) -> SchemaRef {
        SchemaRef::clone(&self.schema)
    }

    /// Keeps what is read from now on until it has been asked for.
    fn keep(&self) {
        self.is_wanted.store(true, Ordering::Relaxed);
    }

    /// Takes rows that have been read.
    fn push(&self, first: u64, batch: &RecordBatch) {
        if self.is_wanted.load(Ordering::Relaxed) {
            self.kept.lock().unwrap_or_else(PoisonError::into_inner).push_back((first, batch.clone()));
        }
    }

    /// The rows that a row is among, and the number of their first one. Rows are asked for in their order: those before are given up.
    fn of(&self, row: u64) -> Option<(u64, RecordBatch)> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        while kept.front().is_some_and(|(first, batch)| row >= first + batch.num_rows() as u64) {
            kept.pop_front();
        }
        kept.front().cloned()
    }
}
