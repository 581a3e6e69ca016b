//! Typed columns → comma-separated text.

use std::fmt::Write;
use std::fs::File;
use std::io::{self, Read};
use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::types::{Float32Type, Float64Type};
use arrow_array::{Array, ArrayRef, RecordBatch, StringViewArray};
use arrow_cast::display::{ArrayFormatter, FormatOptions};
use arrow_schema::{ArrowError, DataType, SchemaRef};
use parquet::arrow::arrow_reader::ParquetRecordBatchReaderBuilder;

use super::Batches;
use crate::cells::Kind;
use crate::csv::write_cell;
use crate::error::TableError;
use crate::pieces::Pieces;

/// How Parquet files begin (Apache Parquet, File Format).
pub(crate) const PARQUET: &[u8] = b"PAR1";
/// How Arrow files begin (Arrow Columnar Format, IPC File Format).
pub(crate) const ARROW_FILE: &[u8] = b"ARROW1\0\0";
/// How Arrow streams begin: the mark before the length of a message (Arrow Columnar Format, Encapsulated message format).
pub(crate) const ARROW_STREAM: &[u8] = b"\xFF\xFF\xFF\xFF";

/// How many rows are made text together.
const TOGETHER: usize = 4096;

type Found = Box<dyn Iterator<Item = Result<RecordBatch, ArrowError>> + Send>;

/// Rows of typed columns as comma-separated text.
pub(crate) struct ArrowText {
    schema: SchemaRef,
    found: Found,
    batches: Arc<Batches>,
    /// The number of the next row, from 1.
    row: u64,
}

/// Opens a Parquet or an Arrow file.
///
/// # Errors
/// It is broken, or is none.
pub(crate) fn open(file: File, name: &str, is_parquet: bool) -> Result<ArrowText, TableError> {
    if is_parquet {
        let builder = ParquetRecordBatchReaderBuilder::try_new(file).map_err(|cause| broken(name, "a Parquet file", &cause))?;
        let schema = builder.schema().clone();
        let reader = builder.with_batch_size(TOGETHER).build().map_err(|cause| broken(name, "a Parquet file", &cause))?;
        return Ok(ArrowText::new(schema, Box::new(reader)));
    }
    let reader = arrow_ipc::reader::FileReader::try_new_buffered(file, None).map_err(|cause| broken(name, "an Arrow file", &cause))?;
    Ok(ArrowText::new(reader.schema(), Box::new(reader)))
}

/// Opens an Arrow stream.
///
/// # Errors
/// It is broken, or is none.
pub(crate) fn arrow_stream(reader: Box<dyn Read + Send>, name: &str) -> Result<ArrowText, TableError> {
    let reader = arrow_ipc::reader::StreamReader::try_new(reader, None).map_err(|cause| broken(name, "an Arrow stream", &cause))?;
    Ok(ArrowText::new(reader.schema(), Box::new(reader)))
}

fn broken(name: &str, what: &str, cause: &dyn std::fmt::Display) -> TableError {
    TableError::no_table(name, format!("is {what} that cannot be read: {}.", said(cause)), "It may have been cut short: get it anew.")
}

/// What a library says, as a clause.
pub(super) fn said(cause: &dyn std::fmt::Display) -> String {
    let text = cause.to_string();
    let known = ["Parquet error: ", "Parquet argument error: ", "Ipc error: ", "External: ", "Io error: ", "EOF: "];
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
        DataType::Decimal32(_, scale) | DataType::Decimal64(_, scale) | DataType::Decimal128(_, scale) | DataType::Decimal256(_, scale) => {
            usize::try_from(*scale).map_or(Kind::Text, Kind::Decimal)
        }
        DataType::Date32 => Kind::Date,
        DataType::Boolean => Kind::Truth,
        DataType::Dictionary(_, values) => kind_of(values),
        _ => Kind::Text,
    }
}

impl ArrowText {
    fn new(schema: SchemaRef, found: Found) -> Self {
        let batches = Arc::new(Batches::new(SchemaRef::clone(&schema)));
        Self { schema, found, batches, row: 1 }
    }

    /// The columns: their names and what they hold.
    pub(crate) fn columns(&self) -> Vec<(String, Kind)> {
        self.schema.fields().iter().map(|field| (field.name().clone(), kind_of(field.data_type()))).collect()
    }

    /// The rows with their types, as they are read.
    pub(crate) fn batches(&self) -> Arc<Batches> {
        Arc::clone(&self.batches)
    }
}

impl Pieces for ArrowText {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        let broken = |cause: &dyn std::fmt::Display| io::Error::new(io::ErrorKind::InvalidData, said(cause));
        while piece.is_empty()
            && let Some(batch) = self.found.next()
        {
            let batch = batch.map_err(|cause| broken(&cause))?;
            self.batches.push(self.row, &batch);
            self.row += batch.num_rows() as u64;
            write_rows(&batch, piece).map_err(|cause| broken(&cause))?;
        }
        Ok(())
    }
}

/// How the values of a column become texts.
enum Texts<'a> {
    /// They are texts.
    Are(StringViewArray),
    Short(&'a arrow_array::Float32Array),
    Float(&'a arrow_array::Float64Array),
    Formatted(ArrayFormatter<'a>),
}

fn write_rows(batch: &RecordBatch, into: &mut Vec<u8>) -> Result<(), ArrowError> {
    let options = FormatOptions::new().with_display_error(false);
    let mut columns: Vec<(&ArrayRef, Texts<'_>)> = Vec::with_capacity(batch.num_columns());
    for array in batch.columns() {
        columns.push((array, texts_of(array, &options)?));
    }
    let mut text = String::new();
    for row in 0..batch.num_rows() {
        let from = into.len();
        for (n, (array, texts)) in columns.iter().enumerate() {
            if n > 0 {
                into.push(b',');
            }
            if array.is_null(row) {
                continue;
            }
            let text = match texts {
                // The text behind a key may be missing as well.
                Texts::Are(texts) if texts.is_null(row) => continue,
                Texts::Are(texts) => texts.value(row),
                other => {
                    text.clear();
                    let written = match other {
                        // The shortest form that is exact, without an exponent.
                        Texts::Short(numbers) => write!(text, "{}", numbers.value(row)),
                        Texts::Float(numbers) => write!(text, "{}", numbers.value(row)),
                        Texts::Formatted(values) => values.value(row).write(&mut text).map_err(|_| std::fmt::Error),
                        Texts::Are(_) => Ok(()),
                    };
                    written.map_err(|_| ArrowError::CastError(format!("row {}: a value that has no text", row + 1)))?;
                    &text
                }
            };
            write_cell(text, b',', into);
        }
        // A line with nothing in it would be no row.
        if into.len() == from {
            into.extend_from_slice(b"\"\"");
        }
        into.push(b'\n');
    }
    Ok(())
}

fn texts_of<'a>(array: &'a ArrayRef, options: &FormatOptions<'a>) -> Result<Texts<'a>, ArrowError> {
    let is_text = |data_type: &DataType| matches!(data_type, DataType::Utf8 | DataType::LargeUtf8 | DataType::Utf8View);
    Ok(match array.data_type() {
        data_type if is_text(data_type) => Texts::Are(as_texts(array)?),
        DataType::Dictionary(_, values) if is_text(values) => Texts::Are(as_texts(array)?),
        DataType::Float32 => Texts::Short(array.as_primitive::<Float32Type>()),
        DataType::Float64 => Texts::Float(array.as_primitive::<Float64Type>()),
        _ => Texts::Formatted(ArrayFormatter::try_new(array.as_ref(), options)?),
    })
}

fn as_texts(array: &ArrayRef) -> Result<StringViewArray, ArrowError> {
    Ok(arrow_cast::cast(array, &DataType::Utf8View)?.as_string_view().clone())
}
