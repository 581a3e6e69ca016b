//! The row groups of a Parquet file: written on a thread of their own while the next one
//! is encoded.

use std::sync::Arc;
use std::sync::mpsc::{SyncSender, sync_channel};
use std::thread::{self, JoinHandle};

use parquet::arrow::arrow_writer::ArrowColumnChunk;
use parquet::column::writer::ColumnCloseResult;
use parquet::errors::{ParquetError, Result};
use parquet::file::metadata::ColumnChunkMetaData;
use parquet::file::writer::SerializedFileWriter;

use super::source_parquet::SourceParquet;
use crate::output::NewFile;

/// A row group whose columns are encoded.
pub(super) struct RowGroup {
    /// How many rows it has.
    pub rows: usize,
    pub columns: Vec<Column>,
}

/// A column of a row group: a chunk for each of its leaves.
pub(super) enum Column {
    Encoded(Vec<ArrowColumnChunk>),
    /// A column, by its place, verbatim in a row group of the file it is read from.
    Copied {
        original: Arc<SourceParquet>,
        group: usize,
        column: usize,
    },
}

/// The file that they are written to.
pub(super) struct RowGroups {
    next: Option<SyncSender<RowGroup>>,
    thread: Option<JoinHandle<Result<NewFile>>>,
}

impl RowGroups {
    pub(super) fn new(mut file: SerializedFileWriter<NewFile>) -> Self {
        // There is room for none: one is written while another is encoded, and no third waits in
        // memory.
        let (next, groups) = sync_channel::<RowGroup>(0);
        let thread = thread::spawn(move || {
            for group in groups {
                group.write(&mut file)?;
            }
            file.into_inner()
        });
        Self { next: Some(next), thread: Some(thread) }
    }

    /// Has a row group written when the one before it is.
    ///
    /// # Errors
    /// One before it could not be written.
    pub(super) fn push(&mut self, group: RowGroup) -> Result<()> {
        match &self.next {
            Some(next) if next.send(group).is_ok() => Ok(()),
            _ => self.finish().and(Err(over())),
        }
    }

    /// Waits until all are written; returns the file.
    ///
    /// # Errors
    /// One of them could not be written.
    pub(super) fn finish(&mut self) -> Result<NewFile> {
        self.next = None;
        match self.thread.take().map(JoinHandle::join) {
            Some(Ok(written)) => written,
            Some(Err(panic)) => std::panic::resume_unwind(panic),
            None => Err(over()),
        }
    }
}

fn over() -> ParquetError {
    ParquetError::General("it is written already".to_owned())
}

/// Who gives up waits until nothing is written any more: the file is to be gone then.
impl Drop for RowGroups {
    fn drop(&mut self) {
        self.next = None;
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

impl RowGroup {
    fn write(self, file: &mut SerializedFileWriter<NewFile>) -> Result<()> {
        let mut into = file.next_row_group()?;
        for column in self.columns {
            match column {
                Column::Encoded(chunks) => {
                    chunks.into_iter().try_for_each(|chunk| chunk.append_to_row_group(&mut into))?
                }
                Column::Copied { original, group, column } => {
                    for chunk in original.chunks(group, column) {
                        into.append_column(original.bytes(), as_it_lies(chunk, self.rows)?)?;
                    }
                }
            }
        }
        into.close()?;
        Ok(())
    }
}

/// A column chunk that is taken verbatim, with that many rows.
fn as_it_lies(chunk: &ColumnChunkMetaData, rows: usize) -> Result<ColumnCloseResult> {
    let mut metadata = chunk.clone();
    // Old programs took the least and the greatest of a column by an order that was not agreed
    // on.
    if metadata.statistics().is_some_and(|statistics| statistics.is_min_max_deprecated()) {
        metadata = metadata.into_builder().clear_statistics().build()?;
    }
    Ok(ColumnCloseResult {
        bytes_written: u64::try_from(chunk.compressed_size()).unwrap_or_default(),
        rows_written: rows as u64,
        metadata,
        bloom_filter: None,
        column_index: None,
        offset_index: None,
    })
}
