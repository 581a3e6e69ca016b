//! Typed columns → comma-separated text, or the texts of their cells column by column.
//!
//! A Parquet file is not read until it is known which columns are asked for; what no cut reads is
//! not decoded ([`Batches::only_as_text`]). Rows that are to be written again unchanged are kept
//! beside their text until the writer has taken them ([`Batches`]).
//!
//! The libraries trust what a file says of itself: lengths are looked at before memory is taken,
//! and what panics inside them is caught and told as a broken file.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::sync::Arc;

use arrow_array::{Array, ArrayRef, RecordBatch};
use arrow_schema::{ArrowError, DataType, SchemaRef};
use parquet::arrow::arrow_reader::{ArrowReaderMetadata, ArrowReaderOptions};

use super::Batches;
use super::parquet_in::ParquetIn;
use super::source_parquet::{SourceParquet, TOGETHER};
use super::values::{Values, without_dictionary};
use crate::cells::Kind;
use crate::cells::{ColumnBlock, ColumnBlockSource};
use crate::chunks::ChunkSource;
use crate::error::TableError;
use crate::formats::csv::{LONGEST_RECORD, too_long, write_cell};
use crate::parts::guarded;

type Found = Box<dyn Iterator<Item = Result<RecordBatch, ArrowError>> + Send>;

/// Where the rows come from.
enum Rows {
    /// A Parquet file that has not been read yet, for it is not known of which columns; and the
    /// limit in bytes to what it unpacks to, if one is given.
    Parquet { unpack_limit: Option<u64> },
    /// All columns, or those that are made text alone.
    Found { batches: Found, only_texts: bool },
}

/// Rows of typed columns as comma-separated text or as cells.
pub(crate) struct ArrowText {
    schema: SchemaRef,
    rows: Rows,
    batches: Arc<Batches>,
    /// The number of the next row to be read, from 1.
    row: u64,
    at_hand: Columns,
    /// How many rows make a block of cells.
    together: usize,
}

/// Rows as columns, of which those that are not made text are left out.
#[derive(Default)]
struct Columns {
    columns: Vec<Option<ArrayRef>>,
    rows: usize,
    /// How many rows have been passed on as cells.
    done: usize,
}

/// Opens a Parquet or an Arrow file. `unpack_limit` is in bytes.
///
/// # Errors
/// It is broken, or is none.
pub(crate) fn open(
    file: File,
    name: &str,
    is_parquet: bool,
    unpack_limit: Option<u64>,
) -> Result<ArrowText, TableError> {
    if is_parquet {
        let broken = |cause: &dyn std::fmt::Display| broken(name, "a Parquet file", cause);
        let metadata = held(|| Ok(ArrowReaderMetadata::load(&file, ArrowReaderOptions::new())?))
            .map_err(|cause| broken(&cause))?;
        let original = SourceParquet::new(&file, &metadata).map_err(|cause| broken(&cause))?;
        return Ok(ArrowText::new(
            SchemaRef::clone(metadata.schema()),
            Rows::Parquet { unpack_limit },
            Some(original),
        ));
    }
    let broken = |cause: &dyn std::fmt::Display| broken(name, "an Arrow file", cause);
    blocks_are_in_the_file(&file).map_err(|cause| broken(&cause))?;
    let reader = held(|| arrow_ipc::reader::FileReader::try_new_buffered(file, None))
        .map_err(|cause| broken(&cause))?;
    Ok(ArrowText::new(reader.schema(), Rows::all(reader), None))
}

/// Opens an Arrow stream.
///
/// # Errors
/// It is broken, or is none.
pub(crate) fn arrow_stream(
    reader: Box<dyn Read + Send>,
    name: &str,
) -> Result<ArrowText, TableError> {
    let reader = held(|| arrow_ipc::reader::StreamReader::try_new(reader, None));
    let reader = reader.map_err(|cause| broken(name, "an Arrow stream", &cause))?;
    Ok(ArrowText::new(reader.schema(), Rows::all(reader), None))
}

/// Reads with a library, which panics at some broken files.
fn held<T>(read: impl FnOnce() -> Result<T, ArrowError>) -> Result<T, ArrowError> {
    guarded(read).unwrap_or_else(|said| Err(ArrowError::IpcError(format!("it is broken ({said})"))))
}

/// Sees to it that all that an Arrow file says it holds lies in it, before memory is asked for to
/// hold it.
fn blocks_are_in_the_file(mut file: &File) -> Result<(), ArrowError> {
    let length = file.metadata()?.len();
    let broken = || ArrowError::IpcError("its end is missing or broken".to_owned());
    // The length of the footer, and the mark (Arrow Columnar Format, IPC File Format).
    let mut end = [0; 10];
    file.seek(SeekFrom::Start(length.checked_sub(10).ok_or_else(broken)?))?;
    file.read_exact(&mut end)?;
    let footer = u32::from_le_bytes([end[0], end[1], end[2], end[3]]).into();
    let start = (length - 10).checked_sub(footer).ok_or_else(broken)?;
    let mut bytes = vec![0; usize::try_from(footer).map_err(|_| broken())?];
    file.seek(SeekFrom::Start(start))?;
    file.read_exact(&mut bytes)?;
    let footer = arrow_ipc::root_as_footer(&bytes).map_err(|_| broken())?;
    let blocks = footer.recordBatches().into_iter().chain(footer.dictionaries()).flatten();
    let is_within = |offset: i64, metadata: i32, body: i64| {
        let end = offset.checked_add(metadata.into())?.checked_add(body)?;
        Some(offset >= 0 && metadata >= 0 && body >= 0 && u64::try_from(end).ok()? <= length)
    };
    for block in blocks {
        if is_within(block.offset(), block.metaDataLength(), block.bodyLength()) != Some(true) {
            return Err(broken());
        }
    }
    file.seek(SeekFrom::Start(0))?;
    Ok(())
}

fn broken(name: &str, what: &str, cause: &dyn std::fmt::Display) -> TableError {
    TableError::no_table(
        name,
        format!("is {what} that cannot be read: {}.", said(cause)),
        "It may have been cut short: get it anew.",
    )
}

/// What a library says, as a clause.
pub(super) fn said(cause: &dyn std::fmt::Display) -> String {
    let text = cause.to_string();
    let known = [
        "Parquet error: ",
        "Parquet argument error: ",
        "Ipc error: ",
        "External: ",
        "Io error: ",
        "EOF: ",
    ];
    let mut text = text.as_str();
    while let Some(rest) = known.iter().find_map(|label| text.strip_prefix(label)) {
        text = rest;
    }
    text.trim_end_matches('.').to_owned()
}

/// What the values of a type are to other formats.
fn kind_of(data_type: &DataType) -> Kind {
    match data_type {
        data_type if data_type.is_integer() => Kind::Integer,
        DataType::Float16 | DataType::Float32 | DataType::Float64 => Kind::Number,
        DataType::Decimal32(_, scale)
        | DataType::Decimal64(_, scale)
        | DataType::Decimal128(_, scale)
        | DataType::Decimal256(_, scale) => {
            usize::try_from(*scale).map_or(Kind::Text, Kind::Decimal)
        }
        DataType::Date32 => Kind::Date,
        DataType::Timestamp(_, None) => Kind::DateTime,
        DataType::Boolean => Kind::Truth,
        DataType::Dictionary(_, values) => kind_of(values),
        _ => Kind::Text,
    }
}

impl Rows {
    fn all(
        batches: impl Iterator<Item = Result<RecordBatch, ArrowError>> + Send + 'static,
    ) -> Self {
        Rows::Found { batches: Box::new(batches), only_texts: false }
    }
}

impl ArrowText {
    fn new(schema: SchemaRef, rows: Rows, original: Option<SourceParquet>) -> Self {
        let batches = Arc::new(Batches::new(SchemaRef::clone(&schema), original));
        Self { schema, rows, batches, row: 1, at_hand: Columns::default(), together: TOGETHER }
    }

    /// The columns: their names and what they hold.
    pub(crate) fn columns(&self) -> Vec<(String, Kind)> {
        self.schema
            .fields()
            .iter()
            .map(|field| (field.name().clone(), kind_of(field.data_type())))
            .collect()
    }

    /// The next rows, at least one.
    fn next_columns(&mut self) -> Result<Option<Columns>, ArrowError> {
        while let Some((batch, only_texts)) = self.next_batch()? {
            self.batches.push(self.row, &batch);
            self.row += batch.num_rows() as u64;
            if batch.num_rows() == 0 {
                continue;
            }
            let mut columns = batch.columns().iter();
            let columns = (0..self.schema.fields().len()).map(|column| {
                let is_text = self.batches.is_as_text(column);
                let array = if is_text || !only_texts { columns.next() } else { None };
                array.filter(|_| is_text).map(without_dictionary).transpose()
            });
            return Ok(Some(Columns {
                columns: columns.collect::<Result<_, _>>()?,
                rows: batch.num_rows(),
                done: 0,
            }));
        }
        Ok(None)
    }

    /// The next rows, and whether they have only the columns that are made text.
    fn next_batch(&mut self) -> Result<Option<(RecordBatch, bool)>, ArrowError> {
        if let (Rows::Parquet { unpack_limit }, Some(original)) =
            (&self.rows, self.batches.original())
        {
            let only_texts = !self.batches.are_kept();
            let wanted = (0..self.schema.fields().len())
                .filter(|column| !only_texts || self.batches.is_as_text(*column));
            let batches = Box::new(ParquetIn::new(original, wanted.collect(), *unpack_limit));
            self.rows = Rows::Found { batches, only_texts };
        }
        match &mut self.rows {
            Rows::Found { batches, only_texts } => {
                Ok(held(|| batches.next().transpose())?.map(|batch| (batch, *only_texts)))
            }
            Rows::Parquet { .. } => Ok(None),
        }
    }

    /// The rows with their types, as they are read.
    pub(crate) fn batches(&self) -> Arc<Batches> {
        Arc::clone(&self.batches)
    }
}

impl ChunkSource for ArrowText {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        if let Some(Columns { columns, rows, .. }) = self.next_columns().map_err(unreadable)? {
            write_rows(&columns, rows, piece).map_err(unreadable)?;
        }
        Ok(())
    }
}

impl ColumnBlockSource for ArrowText {
    fn next_cells(
        &mut self,
        size: usize,
        bytes: &mut Vec<u8>,
        cells: &mut ColumnBlock,
    ) -> io::Result<()> {
        if self.at_hand.done == self.at_hand.rows {
            let Some(columns) = self.next_columns().map_err(unreadable)? else { return Ok(()) };
            self.at_hand = columns;
        }
        let Columns { columns, rows, done } = &mut self.at_hand;
        loop {
            let taken = self.together.min(*rows - *done);
            bytes.clear();
            cells.begin(taken, columns.len());
            for (n, column) in columns.iter().enumerate() {
                let column = column.as_ref().map(|column| column.slice(*done, taken));
                write_cells(column, taken, bytes, cells.column(n)).map_err(unreadable)?;
            }
            if bytes.len() <= size || taken == 1 {
                *done += taken;
                break;
            }
            self.together = taken / 2;
        }
        if bytes.len() > LONGEST_RECORD.max(size) {
            let row = self.row - (self.at_hand.rows - self.at_hand.done) as u64 - 1;
            return Err(too_long(format_args!("row {row}"), ""));
        }
        if bytes.len() < size / 4 {
            self.together = (2 * self.together).min(TOGETHER);
        }
        Ok(())
    }
}

fn unreadable(cause: ArrowError) -> io::Error {
    io::Error::new(io::ErrorKind::InvalidData, said(&cause))
}

/// Writes rows as lines of comma-separated text.
fn write_rows(
    columns: &[Option<ArrayRef>],
    rows: usize,
    into: &mut Vec<u8>,
) -> Result<(), ArrowError> {
    let columns: Vec<Option<Values<'_>>> = columns
        .iter()
        .map(|column| column.as_ref().map(Values::of).transpose())
        .collect::<Result<_, _>>()?;
    let mut memory = String::new();
    for row in 0..rows {
        let from = into.len();
        for (n, column) in columns.iter().enumerate() {
            if n > 0 {
                into.push(b',');
            }
            if let Some(values) = column {
                write_cell(values.text(row, &mut memory)?, b',', into);
            }
        }
        // A line with nothing in it would be no row.
        if into.len() == from {
            into.extend_from_slice(b"\"\"");
        }
        into.push(b'\n');
    }
    Ok(())
}

/// Writes the texts of a column's rows one after the other, and their bounds; empty ones for a
/// column that is left out.
fn write_cells(
    column: Option<ArrayRef>,
    rows: usize,
    bytes: &mut Vec<u8>,
    bounds: &mut Vec<u32>,
) -> Result<(), ArrowError> {
    bounds.push(bytes.len() as u32);
    let Some(column) = column else {
        bounds.resize(rows + 1, bytes.len() as u32);
        return Ok(());
    };
    let values = Values::of(&column)?;
    if let Some((texts, ends)) = values.as_they_lie() {
        let before = bytes.len();
        bytes.extend_from_slice(texts);
        bounds.extend(ends.map(|end| (before + end) as u32));
        return Ok(());
    }
    let mut memory = String::new();
    for row in 0..rows {
        bytes.extend_from_slice(values.text(row, &mut memory)?.as_bytes());
        bounds.push(bytes.len() as u32);
    }
    Ok(())
}
