//! Typed columns → comma-separated text.

use std::fmt::Write;
use std::fs::File;
use std::io::{self, Read};
use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::types::{Float32Type, Float64Type};
use arrow_array::{Array, ArrayRef, LargeStringArray, RecordBatch, StringArray, StringViewArray};
use arrow_buffer::NullBuffer;
use arrow_cast::display::{ArrayFormatter, FormatOptions};
use arrow_schema::{ArrowError, DataType, SchemaRef};
use parquet::arrow::ProjectionMask;
use parquet::arrow::arrow_reader::{ArrowReaderMetadata, ArrowReaderOptions, ParquetRecordBatchReaderBuilder};

use super::Batches;
use super::original::Original;
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

/// Where the rows come from.
enum Rows {
    /// A Parquet file that has not been read yet, for it is not known of which columns.
    Parquet(Box<ParquetRecordBatchReaderBuilder<File>>),
    /// All columns, or those that are made text alone.
    Found { batches: Found, only_texts: bool },
}

/// Rows of typed columns as comma-separated text.
pub(crate) struct ArrowText {
    schema: SchemaRef,
    rows: Rows,
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
        let broken = |cause: &dyn std::fmt::Display| broken(name, "a Parquet file", cause);
        let metadata = ArrowReaderMetadata::load(&file, ArrowReaderOptions::new()).map_err(|cause| broken(&cause))?;
        let original = Original::new(&file, &metadata).map_err(|cause| broken(&cause))?;
        let builder = ParquetRecordBatchReaderBuilder::new_with_metadata(file, metadata).with_batch_size(TOGETHER);
        return Ok(ArrowText::new(builder.schema().clone(), Rows::Parquet(Box::new(builder)), Some(original)));
    }
    let reader = arrow_ipc::reader::FileReader::try_new_buffered(file, None).map_err(|cause| broken(name, "an Arrow file", &cause))?;
    Ok(ArrowText::new(reader.schema(), Rows::all(reader), None))
}

/// Opens an Arrow stream.
///
/// # Errors
/// It is broken, or is none.
pub(crate) fn arrow_stream(reader: Box<dyn Read + Send>, name: &str) -> Result<ArrowText, TableError> {
    let reader = arrow_ipc::reader::StreamReader::try_new(reader, None).map_err(|cause| broken(name, "an Arrow stream", &cause))?;
    Ok(ArrowText::new(reader.schema(), Rows::all(reader), None))
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

impl Rows {
    fn all(batches: impl Iterator<Item = Result<RecordBatch, ArrowError>> + Send + 'static) -> Self {
        Rows::Found { batches: Box::new(batches), only_texts: false }
    }
}

impl ArrowText {
    fn new(schema: SchemaRef, rows: Rows, original: Option<Original>) -> Self {
        let batches = Arc::new(Batches::new(SchemaRef::clone(&schema), original));
        Self { schema, rows, batches, row: 1 }
    }

    /// The columns: their names and what they hold.
    pub(crate) fn columns(&self) -> Vec<(String, Kind)> {
        self.schema.fields().iter().map(|field| (field.name().clone(), kind_of(field.data_type()))).collect()
    }

    /// The next rows, and whether they have only the columns that are made text.
    fn next_batch(&mut self) -> Result<Option<(RecordBatch, bool)>, ArrowError> {
        if let Rows::Parquet(_) = self.rows
            && let Rows::Parquet(builder) = std::mem::replace(&mut self.rows, Rows::all(std::iter::empty()))
        {
            let only_texts = !self.batches.are_kept();
            let wanted = (0..self.schema.fields().len()).filter(|column| !only_texts || self.batches.is_as_text(*column));
            let mask = ProjectionMask::roots(builder.parquet_schema(), wanted);
            self.rows = Rows::Found { batches: Box::new(builder.with_projection(mask).build()?), only_texts };
        }
        match &mut self.rows {
            Rows::Found { batches, only_texts } => Ok(batches.next().transpose()?.map(|batch| (batch, *only_texts))),
            Rows::Parquet(_) => Ok(None),
        }
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
            && let Some((batch, only_texts)) = self.next_batch().map_err(|cause| broken(&cause))?
        {
            self.batches.push(self.row, &batch);
            self.row += batch.num_rows() as u64;
            let mut columns = batch.columns().iter();
            // A column that is not made text is passed over, if it was read at all.
            let columns = (0..self.schema.fields().len()).map(|column| {
                let is_text = self.batches.is_as_text(column);
                let array = if is_text || !only_texts { columns.next() } else { None };
                array.filter(|_| is_text)
            });
            write_rows(&columns.collect::<Vec<_>>(), batch.num_rows(), piece).map_err(|cause| broken(&cause))?;
        }
        Ok(())
    }
}

/// How the values of a column become texts.
enum Texts<'a> {
    /// They are texts.
    Are(&'a StringArray),
    Long(&'a LargeStringArray),
    /// They have become texts.
    Became(StringViewArray),
    Short(&'a arrow_array::Float32Array),
    Float(&'a arrow_array::Float64Array),
    Formatted(ArrayFormatter<'a>),
}

fn write_rows(arrays: &[Option<&ArrayRef>], rows: usize, into: &mut Vec<u8>) -> Result<(), ArrowError> {
    let options = FormatOptions::new().with_display_error(false);
    let mut columns: Vec<Option<(Option<&NullBuffer>, Texts<'_>)>> = Vec::with_capacity(arrays.len());
    for array in arrays {
        let nulls = array.and_then(|array| array.nulls()).filter(|nulls| nulls.null_count() > 0);
        columns.push(array.map(|array| texts_of(array, &options).map(|texts| (nulls, texts))).transpose()?);
    }
    let mut text = String::new();
    for row in 0..rows {
        let from = into.len();
        for (n, column) in columns.iter().enumerate() {
            if n > 0 {
                into.push(b',');
            }
            let Some((_, texts)) = column.as_ref().filter(|(nulls, _)| nulls.is_none_or(|nulls| nulls.is_valid(row))) else { continue };
            let text = match texts {
                Texts::Are(texts) => texts.value(row),
                Texts::Long(texts) => texts.value(row),
                // The text behind a key may be missing as well.
                Texts::Became(texts) if texts.is_null(row) => continue,
                Texts::Became(texts) => texts.value(row),
                other => {
                    text.clear();
                    let written = match other {
                        // The shortest form that is exact, without an exponent.
                        Texts::Short(numbers) => write!(text, "{}", numbers.value(row)),
                        Texts::Float(numbers) => write!(text, "{}", numbers.value(row)),
                        Texts::Formatted(values) => values.value(row).write(&mut text).map_err(|_| std::fmt::Error),
                        Texts::Are(_) | Texts::Long(_) | Texts::Became(_) => Ok(()),
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
    let as_texts = || arrow_cast::cast(array, &DataType::Utf8View).map(|texts| Texts::Became(texts.as_string_view().clone()));
    Ok(match array.data_type() {
        DataType::Utf8 => Texts::Are(array.as_string()),
        DataType::LargeUtf8 => Texts::Long(array.as_string()),
        DataType::Utf8View => as_texts()?,
        DataType::Dictionary(_, values) if is_text(values) => as_texts()?,
        DataType::Float32 => Texts::Short(array.as_primitive::<Float32Type>()),
        DataType::Float64 => Texts::Float(array.as_primitive::<Float64Type>()),
        _ => Texts::Formatted(ArrayFormatter::try_new(array.as_ref(), options)?),
    })
}
