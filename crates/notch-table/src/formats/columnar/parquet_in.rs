//! The rows of a Parquet file, some row groups at a time, in batches whose bytes have a bound.

use std::ops::Range;
use std::sync::Arc;

use arrow_array::RecordBatch;
use arrow_schema::ArrowError;
use parquet::arrow::arrow_reader::ParquetRecordBatchReader;

use super::source_parquet::{SourceParquet, TOGETHER};
use crate::input::decompress::{FOLD, UNPACK_LIMIT, too_much};

/// Row groups with fewer rows than these are read together.
const GROUP_ROWS: u64 = 16 * TOGETHER as u64;

/// The rows of some columns, batch by batch.
pub(super) struct ParquetIn {
    original: Arc<SourceParquet>,
    columns: Vec<usize>,
    /// The row groups that are still to be read.
    groups: Range<usize>,
    reader: Option<ParquetRecordBatchReader>,
    /// How many bytes the values so far take in memory.
    taken: u64,
    limit: u64,
}

impl ParquetIn {
    /// The columns in the file's order. What they unpack to is held against the limit in bytes if
    /// one is given, else against the usual one where it is out of proportion to the file.
    pub(super) fn new(
        original: Arc<SourceParquet>,
        columns: Vec<usize>,
        limit: Option<u64>,
    ) -> Self {
        let limit = limit.unwrap_or_else(|| UNPACK_LIMIT.max(FOLD.saturating_mul(original.size())));
        let groups = 0..original.groups();
        Self { original, columns, groups, reader: None, taken: 0, limit }
    }

    /// The next row groups: one, or some that have few rows.
    fn next_groups(&mut self) -> Vec<usize> {
        let mut rows = 0;
        let mut taken = Vec::new();
        while rows < GROUP_ROWS
            && let Some(group) = self.groups.next()
        {
            let of_group = self.original.rows_of(group);
            rows += of_group.end - of_group.start;
            taken.push(group);
        }
        taken
    }

    fn next_batch(&mut self) -> Result<Option<RecordBatch>, ArrowError> {
        loop {
            if let Some(batch) = self.reader.as_mut().and_then(Iterator::next) {
                let batch = batch?;
                self.taken += batch.get_array_memory_size() as u64;
                if self.taken > self.limit {
                    return Err(ArrowError::from(too_much(self.limit)));
                }
                return Ok(Some(batch));
            }
            let groups = self.next_groups();
            if groups.is_empty() {
                return Ok(None);
            }
            self.reader = Some(self.original.reader(&self.columns, groups, None)?);
        }
    }
}

impl Iterator for ParquetIn {
    type Item = Result<RecordBatch, ArrowError>;

    fn next(&mut self) -> Option<Self::Item> {
        self.next_batch().transpose()
    }
}
