//! A Parquet file, row group by row group: new columns are encoded, side by side; those that stay
//! as they were are copied verbatim in the file they were read from, where all rows of a row
//! group stay.

use std::ops::Range;
use std::sync::{Arc, Mutex, PoisonError};

use arrow_array::cast::AsArray;
use arrow_array::{ArrayRef, RecordBatch};
use arrow_schema::{DataType, Field, SchemaRef};
use parquet::arrow::ArrowWriter;
use parquet::arrow::arrow_writer::{
    ArrowColumnChunk, ArrowColumnWriter, ArrowRowGroupWriterFactory, compute_leaves,
};
use parquet::basic::{Compression, ZstdLevel};
use parquet::errors::Result;
use parquet::file::properties::{EnabledStatistics, WriterProperties};
use parquet::schema::types::{ColumnPath, SchemaDescriptor};

use super::extremes::Extremes;
use super::row_groups::{Column, RowGroup, RowGroups};
use super::source_parquet::SourceParquet;
use crate::output::NewFile;

/// How many rows a row group has: their encoded columns are held until it is written.
const ROW_GROUP: usize = 128 * 1024;
/// A dictionary of more bytes is given up: its column has that many different texts that they take
/// less room, and less time, one by one.
const DICTIONARY: usize = 128 * 1024;
/// A row group of the original that has more rows is not written as one.
const MOST_ROWS: usize = 2 * 1024 * 1024;

/// A Parquet file that is being written.
pub(super) struct ParquetOut {
    file: RowGroups,
    schema: SchemaRef,
    /// The same as Parquet has it.
    described: SchemaDescriptor,
    factory: ArrowRowGroupWriterFactory,
    threads: usize,
    /// The columns of the current row group.
    columns: Vec<OpenColumn>,
    /// How many rows it has.
    rows: usize,
    /// How many row groups there are before it.
    before: usize,
    stay: Option<Stay>,
}

/// A column of the current row group.
struct OpenColumn {
    /// A writer for each of its leaves.
    leaves: Vec<ArrowColumnWriter>,
    /// Of a text column its least and greatest text, which the library does not compute then.
    extremes: Option<Extremes>,
}

impl OpenColumn {
    fn write(&mut self, field: &Field, array: &ArrayRef) -> Result<()> {
        if let Some((extremes, texts)) = self.extremes.as_mut().zip(array.as_string_opt()) {
            extremes.add(texts);
        }
        let leaves = compute_leaves(field, array)?;
        leaves.iter().zip(&mut self.leaves).try_for_each(|(leaf, writer)| writer.write(leaf))
    }

    fn close(self) -> Result<Vec<ArrowColumnChunk>> {
        let chunks = self.leaves.into_iter().map(ArrowColumnWriter::close);
        let mut chunks = chunks.collect::<Result<Vec<_>>>()?;
        if let Some((extremes, chunk)) = self.extremes.zip(chunks.first_mut()) {
            extremes.write(&mut chunk.close_mut().metadata)?;
        }
        Ok(chunks)
    }
}

/// Columns that stay as they were in the file they were read from.
pub(super) struct Stay {
    original: Arc<SourceParquet>,
    /// For each column which one of the original it is.
    sources: Vec<Option<usize>>,
    /// The rows of the original, from 0, that the current row group has and of which these columns
    /// have not been encoded.
    rows: Vec<Range<u64>>,
}

impl Stay {
    pub(super) fn new(original: Arc<SourceParquet>, sources: Vec<Option<usize>>) -> Self {
        Self { original, sources, rows: Vec::new() }
    }
}

impl ParquetOut {
    pub(super) fn new(file: NewFile, schema: &SchemaRef, threads: usize) -> Result<Self> {
        let mut properties = WriterProperties::builder()
            .set_statistics_enabled(EnabledStatistics::Chunk)
            .set_dictionary_page_size_limit(DICTIONARY)
            .set_compression(Compression::ZSTD(ZstdLevel::default()))
            .set_created_by(concat!("Keen Notch ", env!("CARGO_PKG_VERSION")).to_owned());
        for column in schema.fields().iter().filter(|column| is_text(column)) {
            let path = ColumnPath::from(column.name().as_str());
            properties = properties.set_column_statistics_enabled(path, EnabledStatistics::None);
        }
        let writer = ArrowWriter::try_new(file, Arc::clone(schema), Some(properties.build()))?;
        let (file, factory) = writer.into_serialized_writer()?;
        let described = file.schema_descr().clone();
        let (file, schema) = (RowGroups::new(file), Arc::clone(schema));
        Ok(Self {
            file,
            schema,
            described,
            factory,
            threads,
            columns: Vec::new(),
            rows: 0,
            before: 0,
            stay: None,
        })
    }

    /// The same with columns that stay; without them where the file would not hold them as the
    /// original does.
    pub(super) fn with(mut self, stay: Stay) -> Self {
        let fields = self.described.root_schema().get_fields();
        let is_same = |(source, field): (&Option<usize>, &Arc<_>)| {
            source.is_none_or(|source| stay.original.column(source) == Some(&**field))
        };
        self.stay = stay.sources.iter().zip(fields).all(is_same).then_some(stay);
        self
    }

    /// Whether there are columns that stay: they are not to be given.
    pub(super) fn has_some_that_stay(&self) -> bool {
        self.stay.is_some()
    }

    /// The row, from 1, after the row group of the original that a row lies in.
    pub(super) fn end_of_group(&self, row: u64) -> Option<u64> {
        let original = &self.stay.as_ref()?.original;
        Some(original.rows_of(original.group_of(row - 1)).end + 1)
    }

    /// Takes rows with all their columns.
    pub(super) fn write_all(&mut self, rows: &RecordBatch) -> Result<()> {
        self.encode(&rows.columns().iter().cloned().map(Some).collect::<Vec<_>>())?;
        self.rows += rows.num_rows();
        if self.rows >= ROW_GROUP { self.close_group() } else { Ok(()) }
    }

    /// Takes rows: their columns but those that stay, and the numbers of the rows, from 1, which
    /// all lie in one row group of the original.
    pub(super) fn write(&mut self, columns: &[Option<ArrayRef>], rows: &[u64]) -> Result<()> {
        self.encode(columns)?;
        self.rows += rows.len();
        let Some(stay) = &mut self.stay else { return Ok(()) };
        for row in rows {
            match stay.rows.last_mut() {
                Some(last) if last.end == row - 1 => last.end = *row,
                _ => stay.rows.push(row - 1..*row),
            }
        }
        if self.rows >= MOST_ROWS { self.close_group() } else { Ok(()) }
    }

    /// Is told that the next rows lie in another row group of the original.
    pub(super) fn next_group(&mut self) -> Result<()> {
        if self.rows >= ROW_GROUP || self.whole_group().is_some() {
            self.close_group()
        } else {
            Ok(())
        }
    }

    /// The row group of the original whose rows are those of the current row group.
    fn whole_group(&self) -> Option<usize> {
        let stay = self.stay.as_ref()?;
        let [rows] = &stay.rows[..] else { return None };
        let group = stay.original.group_of(rows.start);
        (stay.original.rows_of(group) == *rows && (rows.end - rows.start) as usize == self.rows)
            .then_some(group)
    }

    fn encode(&mut self, columns: &[Option<ArrayRef>]) -> Result<()> {
        if self.columns.is_empty() {
            let mut writers = self.factory.create_column_writers(self.before)?.into_iter();
            let schema = &self.described;
            let leaves = |column| {
                (0..schema.num_columns())
                    .filter(|leaf| schema.get_column_root_idx(*leaf) == column)
                    .count()
            };
            let fields = self.schema.fields().iter().enumerate();
            self.columns = fields
                .map(|(column, field)| OpenColumn {
                    leaves: writers.by_ref().take(leaves(column)).collect(),
                    extremes: is_text(field).then(Extremes::default),
                })
                .collect();
        }
        let given = self.schema.fields().iter().zip(columns).zip(&mut self.columns);
        let mut given: Vec<_> = given
            .filter_map(|((field, array), column)| Some((&**field, array.as_ref()?, column)))
            .collect();
        // The largest first, so that no thread works on one while the others wait.
        given.sort_by_key(|(_, array, _)| std::cmp::Reverse(array.get_buffer_memory_size()));
        let encoded = side_by_side(
            self.threads,
            given,
            |(field, array, column): (&Field, &ArrayRef, &mut OpenColumn)| {
                column.write(field, array)
            },
        );
        encoded.into_iter().collect()
    }

    /// Writes the current row group.
    fn close_group(&mut self) -> Result<()> {
        let whole = self.whole_group();
        if whole.is_none() {
            self.encode_what_stays()?;
        }
        if self.rows == 0 {
            return Ok(());
        }
        let copied = self.stay.as_mut().map(|stay| {
            stay.rows.clear();
            &*stay
        });
        let copied = copied.and_then(|stay| Some((stay, whole?)));
        let source = |column: usize| {
            copied.and_then(|(stay, group)| Some((&stay.original, group, stay.sources[column]?)))
        };
        let columns: Vec<(usize, OpenColumn)> =
            std::mem::take(&mut self.columns).into_iter().enumerate().collect();
        let columns = side_by_side(self.threads, columns, |(column, open)| match source(column) {
            Some((original, group, column)) => {
                Ok(Column::Copied { original: Arc::clone(original), group, column })
            }
            None => open.close().map(Column::Encoded),
        });
        self.file.push(RowGroup {
            rows: self.rows,
            columns: columns.into_iter().collect::<Result<_>>()?,
        })?;
        (self.rows, self.before) = (0, self.before + 1);
        Ok(())
    }

    /// Encodes the columns that stay, of rows that are not a row group of the original.
    fn encode_what_stays(&mut self) -> Result<()> {
        let Some(stay) = &mut self.stay else { return Ok(()) };
        let rows = std::mem::take(&mut stay.rows);
        if rows.is_empty() {
            return Ok(());
        }
        let sources = stay.sources.clone();
        let mut wanted: Vec<usize> = sources.iter().flatten().copied().collect();
        wanted.sort_unstable();
        wanted.dedup();
        let place = |source: Option<usize>| wanted.binary_search(&source?).ok();
        for batch in Arc::clone(&stay.original).read(&wanted, &rows)? {
            let batch = batch?;
            let columns: Vec<Option<ArrayRef>> = sources
                .iter()
                .map(|source| Some(Arc::clone(batch.column(place(*source)?))))
                .collect();
            self.encode(&columns)?;
        }
        Ok(())
    }

    /// Writes what is left; returns the file.
    pub(super) fn finish(mut self) -> Result<NewFile> {
        self.close_group()?;
        self.file.finish()
    }
}

/// Whether a column has nothing but texts.
fn is_text(column: &Field) -> bool {
    column.data_type() == &DataType::Utf8
}

/// Does the same to several things, side by side; returns what comes of each, in their order.
fn side_by_side<T: Send, R: Send>(
    threads: usize,
    things: Vec<T>,
    work: impl Fn(T) -> R + Sync,
) -> Vec<R> {
    if threads < 2 || things.len() < 2 {
        return things.into_iter().map(work).collect();
    }
    let threads = threads.min(things.len());
    let mut done: Vec<(usize, R)> = Vec::with_capacity(things.len());
    let things = Mutex::new(things.into_iter().enumerate());
    let next = || things.lock().unwrap_or_else(PoisonError::into_inner).next();
    let each = || std::iter::from_fn(next).map(|(n, thing)| (n, work(thing))).collect::<Vec<_>>();
    std::thread::scope(|scope| {
        let others: Vec<_> = (1..threads).map(|_| scope.spawn(each)).collect();
        done.extend(each());
        for other in others {
            match other.join() {
                Ok(results) => done.extend(results),
                Err(panic) => std::panic::resume_unwind(panic),
            }
        }
    });
    done.sort_by_key(|(n, _)| *n);
    done.into_iter().map(|(_, result)| result).collect()
}
