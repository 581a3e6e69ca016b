//! The Parquet file that a table is read from, to be read a second time.

use std::fs::File;
use std::io::{self, BufReader, Read};
use std::ops::Range;
use std::sync::Arc;

use arrow_array::RecordBatch;
use arrow_schema::ArrowError;
use bytes::Bytes;
use parquet::arrow::ProjectionMask;
use parquet::arrow::arrow_reader::{
    ArrowReaderMetadata, ParquetRecordBatchReader, ParquetRecordBatchReaderBuilder, RowSelection,
    RowSelector,
};
use parquet::basic::{Encoding, Type as Physical};
use parquet::column::page::{Page, PageReader};
use parquet::errors::Result;
use parquet::file::metadata::ColumnChunkMetaData;
use parquet::file::reader::{ChunkReader, Length};
use parquet::file::serialized_reader::SerializedPageReader;
use parquet::schema::types::Type;

/// How many rows are made text together.
pub(super) const TOGETHER: usize = 4096;

/// A Parquet file and what it says of itself.
#[derive(Debug)]
pub(super) struct SourceParquet {
    file: AnyPlace,
    metadata: ArrowReaderMetadata,
    /// The rows of each row group, counted from 0.
    groups: Vec<Range<u64>>,
}

impl SourceParquet {
    pub(super) fn new(file: &File, metadata: &ArrowReaderMetadata) -> io::Result<Self> {
        let mut rows = 0;
        let groups = metadata.metadata().row_groups().iter().map(|group| {
            let first = rows;
            rows += u64::try_from(group.num_rows()).unwrap_or_default();
            first..rows
        });
        let groups = groups.collect();
        Ok(Self { file: AnyPlace(Arc::new(file.try_clone()?)), metadata: metadata.clone(), groups })
    }

    /// The row group that a row lies in, counted from 0 as the row is.
    pub(super) fn group_of(&self, row: u64) -> usize {
        self.groups.partition_point(|rows| rows.end <= row)
    }

    /// The rows of a row group.
    pub(super) fn rows_of(&self, group: usize) -> Range<u64> {
        self.groups.get(group).cloned().unwrap_or_default()
    }

    /// How many row groups it has.
    pub(super) fn groups(&self) -> usize {
        self.groups.len()
    }

    /// The length of the file in bytes.
    pub(super) fn size(&self) -> u64 {
        self.file.len()
    }

    /// What a column is in the file.
    pub(super) fn column(&self, column: usize) -> Option<&Type> {
        self.metadata
            .parquet_schema()
            .root_schema()
            .get_fields()
            .get(column)
            .map(|column| &**column)
    }

    /// Where a column lies in a row group: a chunk for each of its leaves.
    pub(super) fn chunks(
        &self,
        group: usize,
        column: usize,
    ) -> impl Iterator<Item = &ColumnChunkMetaData> {
        let schema = self.metadata.parquet_schema();
        let chunks = self
            .metadata
            .metadata()
            .row_groups()
            .get(group)
            .map(|group| group.columns())
            .unwrap_or_default();
        chunks
            .iter()
            .enumerate()
            .filter(move |(leaf, _)| schema.get_column_root_idx(*leaf) == column)
            .map(|(_, chunk)| chunk)
    }

    /// The bytes of the file.
    pub(super) fn bytes(&self) -> &impl ChunkReader {
        &self.file
    }

    /// Reads some rows, in their order, of some columns, in theirs.
    pub(super) fn read(
        &self,
        columns: &[usize],
        rows: &[Range<u64>],
    ) -> Result<impl Iterator<Item = std::result::Result<RecordBatch, ArrowError>>> {
        let (first, last) =
            (rows.first().map_or(0, |rows| rows.start), rows.last().map_or(0, |rows| rows.end));
        let groups: Vec<usize> = (self.group_of(first)..self.groups.len())
            .take_while(|group| self.groups[*group].start < last)
            .collect();
        let mut at = groups.first().map_or(0, |group| self.groups[*group].start);
        let mut selectors = Vec::with_capacity(2 * rows.len());
        for rows in rows {
            selectors.push(RowSelector::skip((rows.start - at) as usize));
            selectors.push(RowSelector::select((rows.end - rows.start) as usize));
            at = rows.end;
        }
        self.reader(columns, groups, Some(RowSelection::from(selectors)))
    }

    /// Reads some columns of some row groups, all rows or those of a selection, in batches of at
    /// most `TOGETHER` rows.
    pub(super) fn reader(
        &self,
        columns: &[usize],
        groups: Vec<usize>,
        rows: Option<RowSelection>,
    ) -> Result<ParquetRecordBatchReader> {
        let mask = ProjectionMask::roots(self.metadata.parquet_schema(), columns.iter().copied());
        let together = self.together(columns, &groups)?;
        let builder = ParquetRecordBatchReaderBuilder::new_with_metadata(
            self.file.clone(),
            self.metadata.clone(),
        );
        let builder =
            builder.with_projection(mask).with_row_groups(groups).with_batch_size(together);
        match rows {
            Some(rows) => builder.with_row_selection(rows).build(),
            None => builder.build(),
        }
    }

    /// How many rows may be read together so that their values take some 64 MiB at most.
    fn together(&self, columns: &[usize], groups: &[usize]) -> Result<usize> {
        let mut longest = 1;
        for group in groups {
            let rows = self.rows_of(*group);
            let rows = (rows.end - rows.start).max(1);
            let mut row: u64 = 0;
            for column in columns {
                for chunk in self.chunks(*group, *column) {
                    let values = u64::try_from(chunk.num_values()).unwrap_or_default();
                    row = row.saturating_add(
                        self.longest(chunk, rows)?.saturating_mul(values.div_ceil(rows)),
                    );
                }
            }
            longest = row.max(longest);
        }
        Ok(usize::try_from(BATCH_BYTES / longest).unwrap_or(TOGETHER).clamp(1, TOGETHER))
    }

    /// The bytes of the longest value of a chunk, as far as it can make a batch large: of those in
    /// its dictionary the longest, for many rows may name it; of others what a row has in the mean.
    fn longest(&self, chunk: &ColumnChunkMetaData, rows: u64) -> Result<u64> {
        match chunk.column_type() {
            Physical::BYTE_ARRAY => {}
            Physical::FIXED_LEN_BYTE_ARRAY => {
                return Ok(u64::try_from(chunk.column_descr().type_length()).unwrap_or_default());
            }
            _ => return Ok(16),
        }
        let size = u64::try_from(chunk.uncompressed_size()).unwrap_or_default();
        let mean = size / rows;
        // Not all writers say where the dictionary lies.
        let is_of_dictionary =
            |encoding| matches!(encoding, Encoding::RLE_DICTIONARY | Encoding::PLAIN_DICTIONARY);
        let has_dictionary =
            chunk.dictionary_page_offset().is_some() || chunk.encodings().any(is_of_dictionary);
        if size <= BATCH_BYTES / TOGETHER as u64 || !has_dictionary {
            return Ok(mean);
        }
        let mut pages =
            SerializedPageReader::new(Arc::new(self.file.clone()), chunk, rows as usize, None)?;
        let Some(Page::DictionaryPage { buf, .. }) = pages.get_next_page()? else {
            return Ok(mean);
        };
        // Each value is its length in four bytes and then its bytes (Apache Parquet, Encodings,
        // Plain).
        let (mut rest, mut longest) = (&buf[..], 0);
        while let Some((length, values)) = rest.split_first_chunk() {
            let length = u32::from_le_bytes(*length);
            longest = longest.max(length);
            rest = values.get(length as usize..).unwrap_or_default();
        }
        Ok(mean.max(longest.into()))
    }
}

/// How many bytes of values are read together: a batch of usual rows takes one, a text of 300 kB
/// that every row names takes all.
const BATCH_BYTES: u64 = 64 * 1024 * 1024;

/// A file that several readers read at any place.
#[derive(Debug, Clone)]
struct AnyPlace(Arc<File>);

/// The bytes of it from a place on.
struct From {
    file: Arc<File>,
    at: u64,
}

impl Length for AnyPlace {
    fn len(&self) -> u64 {
        self.0.metadata().map_or(0, |metadata| metadata.len())
    }
}

impl ChunkReader for AnyPlace {
    type T = BufReader<From>;

    fn get_read(&self, start: u64) -> Result<Self::T> {
        Ok(BufReader::new(From { file: Arc::clone(&self.0), at: start }))
    }

    fn get_bytes(&self, start: u64, length: usize) -> Result<Bytes> {
        let mut bytes = vec![0; length];
        From { file: Arc::clone(&self.0), at: start }.read_exact(&mut bytes)?;
        Ok(bytes.into())
    }
}

impl Read for From {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        #[cfg(unix)]
        let count = std::os::unix::fs::FileExt::read_at(&*self.file, into, self.at)?;
        #[cfg(windows)]
        let count = std::os::windows::fs::FileExt::seek_read(&*self.file, into, self.at)?;
        self.at += count as u64;
        Ok(count)
    }
}
