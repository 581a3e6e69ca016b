//! Cells → typed columns.

use std::fs::File;
use std::io;
use std::sync::Arc;

use arrow_array::builder::StringBuilder;
use arrow_array::{
    Array, ArrayRef, BooleanArray, Date32Array, Decimal128Array, Float64Array, Int64Array, RecordBatch, StringArray, UInt32Array,
};
use arrow_cast::parse::Parser;
use arrow_ipc::writer::{FileWriter, StreamWriter};
use arrow_schema::{ArrowError, DataType, Field, Schema, SchemaRef};
use parquet::arrow::ArrowWriter;
use parquet::arrow::arrow_reader::ParquetRecordBatchReaderBuilder;
use parquet::basic::{Compression, ZstdLevel};
use parquet::file::properties::{EnabledStatistics, WriterProperties};

use super::read::said;
use super::{Batches, Columnar};
use crate::cells::{CellColumn, CellsFile, Kind, OutCell};
use crate::error::TableError;
use crate::output::{NewFile, To};

/// How many rows are made columns together.
const TOGETHER: usize = 4096;
/// How many rows a row group of Parquet has: they are held until it is written.
const ROW_GROUP: usize = 128 * 1024;
/// How many digits a decimal has at most.
const MOST_DIGITS: u8 = 38;

/// What a column that is made of texts holds in the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Held {
    Text,
    Integer,
    /// Whole numbers of up to 38 digits.
    Long,
    Number,
    Decimal(i8),
    Date,
    Truth,
}

impl Held {
    fn of(kind: Kind) -> Self {
        match kind {
            Kind::Integer => Held::Integer,
            Kind::Number => Held::Number,
            Kind::Decimal(places) => {
                i8::try_from(places).ok().filter(|places| *places <= MOST_DIGITS as i8).map_or(Held::Text, Held::Decimal)
            }
            Kind::Date => Held::Date,
            Kind::Truth => Held::Truth,
            Kind::Text | Kind::Mixed => Held::Text,
        }
    }

    fn data_type(self) -> DataType {
        match self {
            Held::Text => DataType::Utf8,
            Held::Integer => DataType::Int64,
            Held::Long => DataType::Decimal128(MOST_DIGITS, 0),
            Held::Number => DataType::Float64,
            Held::Decimal(places) => DataType::Decimal128(MOST_DIGITS, places),
            Held::Date => DataType::Date32,
            Held::Truth => DataType::Boolean,
        }
    }

    /// What a column holds instead when a text does not fit it: the next wider one; `None` when what is asked for is to stay.
    fn wider(self, text: &str, is_asked: bool) -> Option<Self> {
        match self {
            Held::Integer if decimal(text, 0).is_some() => Some(Held::Long),
            _ if is_asked => None,
            Held::Text => None,
            _ => Some(Held::Text),
        }
    }

    /// The texts as what is held; the first one that does not fit where `is_strict`, else those are missing.
    fn array(self, texts: &StringArray, is_strict: bool) -> Result<ArrayRef, usize> {
        fn each<T, A: FromIterator<Option<T>>>(texts: &StringArray, is_strict: bool, read: impl Fn(&str) -> Option<T>) -> Result<A, usize> {
            let cell = |(n, text): (usize, Option<&str>)| match text.map(&read) {
                Some(None) if is_strict => Err(n),
                found => Ok(found.flatten()),
            };
            texts.iter().enumerate().map(cell).collect()
        }
        Ok(match self {
            Held::Text => Arc::new(texts.clone()),
            Held::Integer => Arc::new(each::<i64, Int64Array>(texts, is_strict, |text| text.parse().ok())?),
            Held::Number => Arc::new(each::<f64, Float64Array>(texts, is_strict, |text| float(text, is_strict))?),
            Held::Date => Arc::new(each::<i32, Date32Array>(texts, is_strict, arrow_array::types::Date32Type::parse)?),
            Held::Truth => Arc::new(each::<bool, BooleanArray>(texts, is_strict, |text| text.parse().ok())?),
            Held::Long | Held::Decimal(_) => {
                let places = if let Held::Decimal(places) = self { places.unsigned_abs() } else { 0 };
                let array: Decimal128Array = each::<i128, _>(texts, is_strict, |text| decimal(text, places))?;
                Arc::new(array.with_data_type(self.data_type()))
            }
        })
    }
}

/// A number as the nearest of 64 bits; `None` where digits would be lost that a text may not lose.
fn float(text: &str, is_strict: bool) -> Option<f64> {
    let number: f64 = text.parse().ok()?;
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    (!is_strict || digits <= 17).then_some(number)
}

/// A number as so many units of its last place; `None` when it is none, has more digits behind its point than there are places, or more
/// than 38 in all.
fn decimal(text: &str, places: u8) -> Option<i128> {
    let (is_below, figures) = match text.strip_prefix('-') {
        Some(figures) => (true, figures),
        None => (false, text),
    };
    let (whole, behind) = figures.split_once('.').unwrap_or((figures, ""));
    let is_number = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    if whole.is_empty() || !is_number(whole) || !is_number(behind) || behind.len() > usize::from(places) {
        return None;
    }
    let mut units: i128 = format!("{whole}{behind}").parse().ok()?;
    units = units.checked_mul(10_i128.checked_pow(u32::from(places) - behind.len() as u32)?)?;
    (units < 10_i128.pow(u32::from(MOST_DIGITS))).then_some(if is_below { -units } else { units })
}

/// The file in its format.
enum Writer {
    Parquet(Box<ArrowWriter<NewFile>>),
    File(Box<FileWriter<NewFile>>),
    Stream(Box<StreamWriter<NewFile>>),
}

impl Writer {
    fn new(file: NewFile, columnar: Columnar, schema: &SchemaRef) -> Result<Self, String> {
        let failed = |cause: &dyn std::fmt::Display| said(cause);
        Ok(match columnar {
            Columnar::Parquet => {
                let properties = WriterProperties::builder()
                    .set_statistics_enabled(EnabledStatistics::Chunk)
                    .set_compression(Compression::ZSTD(ZstdLevel::default()))
                    .set_max_row_group_row_count(Some(ROW_GROUP))
                    .set_created_by(concat!("Keen Notch ", env!("CARGO_PKG_VERSION")).to_owned());
                Writer::Parquet(Box::new(
                    ArrowWriter::try_new(file, Arc::clone(schema), Some(properties.build())).map_err(|cause| failed(&cause))?,
                ))
            }
            Columnar::File => Writer::File(Box::new(FileWriter::try_new(file, schema).map_err(|cause| failed(&cause))?)),
            Columnar::Stream => Writer::Stream(Box::new(StreamWriter::try_new(file, schema).map_err(|cause| failed(&cause))?)),
        })
    }

    fn write(&mut self, batch: &RecordBatch) -> Result<(), String> {
        match self {
            Writer::Parquet(writer) => writer.write(batch).map_err(|cause| said(&cause)),
            Writer::File(writer) => writer.write(batch).map_err(|cause| said(&cause)),
            Writer::Stream(writer) => writer.write(batch).map_err(|cause| said(&cause)),
        }
    }

    /// Writes what is left; gives the file.
    fn finish(self) -> Result<NewFile, String> {
        match self {
            Writer::Parquet(writer) => writer.into_inner().map_err(|cause| said(&cause)),
            Writer::File(mut writer) => writer.finish().and_then(|()| writer.into_inner()).map_err(|cause| said(&cause)),
            Writer::Stream(mut writer) => writer.finish().and_then(|()| writer.into_inner()).map_err(|cause| said(&cause)),
        }
    }
}

/// Reads a file again that has just been written.
fn again(file: File, columnar: Columnar) -> Result<Box<dyn Iterator<Item = Result<RecordBatch, ArrowError>>>, String> {
    Ok(match columnar {
        Columnar::Parquet => {
            let reader = ParquetRecordBatchReaderBuilder::try_new(file).and_then(|builder| builder.with_batch_size(TOGETHER).build());
            Box::new(reader.map_err(|cause| said(&cause))?)
        }
        Columnar::File => Box::new(arrow_ipc::reader::FileReader::try_new_buffered(file, None).map_err(|cause| said(&cause))?),
        Columnar::Stream => {
            Box::new(arrow_ipc::reader::StreamReader::try_new(io::BufReader::new(file), None).map_err(|cause| said(&cause))?)
        }
    })
}

/// A column on its way into the file.
struct Column {
    what: CellColumn,
    held: Held,
    texts: StringBuilder,
    /// The rows whose text did not fit what was asked for: how many, and the number of the first.
    lost: Option<(u64, u64)>,
}

fn failed(name: &str, cause: &str) -> TableError {
    TableError::no_table(name, format!("cannot be written: {cause}."), "Nothing was written.")
}

/// A file of typed columns.
pub(crate) struct ArrowOut {
    columnar: Columnar,
    name: String,
    /// The file, before its columns are known.
    file: Option<NewFile>,
    /// Where a wider one is begun; standard output is written but once.
    path: Option<std::path::PathBuf>,
    writer: Option<Writer>,
    columns: Vec<Column>,
    /// The numbers of the rows that have not been written.
    rows: Vec<u64>,
    /// The rows of the table with their types, those at hand, and which of them are to be written.
    batches: Option<Arc<Batches>>,
    current: Option<(u64, RecordBatch)>,
    taken: Vec<u32>,
}

impl ArrowOut {
    pub(crate) fn new(to: To<'_>, columnar: Columnar) -> Result<Self, TableError> {
        let path = match to {
            To::File(path) => Some(path.to_owned()),
            To::Standard => None,
        };
        let file = to.create()?;
        Ok(Self {
            columnar,
            name: file.name().to_owned(),
            file: Some(file),
            path,
            writer: None,
            columns: Vec::new(),
            rows: Vec::new(),
            batches: None,
            current: None,
            taken: Vec::new(),
        })
    }

    /// The schema as the columns are now.
    fn schema(&self) -> SchemaRef {
        let from = self.batches.as_ref().map(|batches| batches.schema());
        let field = |column: &Column| match (column.what.source, &from) {
            (Some(source), Some(schema)) => schema.field(source).clone().with_name(&column.what.name),
            _ => Field::new(&column.what.name, column.held.data_type(), true),
        };
        Arc::new(Schema::new(self.columns.iter().map(field).collect::<Vec<_>>()))
    }

    /// Writes the rows that are waiting.
    fn flush(&mut self) -> Result<(), TableError> {
        if self.rows.is_empty() {
            return Ok(());
        }
        let mut arrays: Vec<ArrayRef> = Vec::with_capacity(self.columns.len());
        let mut is_wider = false;
        let taken = std::mem::take(&mut self.taken);
        // Rows of which none was left out need not be picked one by one.
        let span = taken.first().zip(taken.last()).map(|(first, last)| (*first as usize, (*last - *first) as usize + 1));
        let span = span.filter(|(_, length)| *length == taken.len());
        let taken = UInt32Array::from(taken);
        for column in &mut self.columns {
            if let (Some(source), Some((_, batch))) = (column.what.source, &self.current) {
                let array = match span {
                    Some((first, length)) => Ok(batch.column(source).slice(first, length)),
                    None => arrow_select::take::take(batch.column(source), &taken, None),
                };
                arrays.push(array.map_err(|cause| failed(&self.name, &said(&cause)))?);
                continue;
            }
            let texts = column.texts.finish();
            let array = loop {
                match column.held.array(&texts, true) {
                    Ok(array) => break array,
                    // What has gone to standard output cannot be widened.
                    Err(n) => match column.held.wider(texts.value(n), column.what.is_asked).filter(|_| self.path.is_some()) {
                        Some(wider) => (column.held, is_wider) = (wider, true),
                        None => {
                            let array = column.held.array(&texts, false).unwrap_or_else(|_| Arc::new(texts.clone()));
                            let lost = (0..texts.len()).filter(|n| array.is_null(*n) && !texts.is_null(*n));
                            let (count, first) = column.lost.unwrap_or((0, self.rows[n]));
                            column.lost = Some((count + lost.count() as u64, first));
                            break array;
                        }
                    },
                }
            };
            arrays.push(array);
        }
        self.rows.clear();
        let schema = self.schema();
        if is_wider {
            self.widen(&schema)?;
        }
        let batch = RecordBatch::try_new(schema, arrays).map_err(|cause| failed(&self.name, &said(&cause)))?;
        let written = match &mut self.writer {
            Some(writer) => writer.write(&batch),
            None => Ok(()),
        };
        written.map_err(|cause| failed(&self.name, &cause))
    }

    /// Begins the file anew with wider columns, and writes into it what was written before.
    fn widen(&mut self, schema: &SchemaRef) -> Result<(), TableError> {
        let (Some(writer), Some(path)) = (self.writer.take(), self.path.clone()) else { return Ok(()) };
        let columnar = self.columnar;
        let widened = || -> Result<Result<Writer, String>, TableError> {
            let into = NewFile::create(&path)?;
            Ok(writer.finish().and_then(|mut written| {
                let file = written.again().map_err(|cause| said(&cause))?;
                let mut writer = Writer::new(into, columnar, schema)?;
                for batch in again(file, columnar)? {
                    let batch = batch.map_err(|cause| said(&cause))?;
                    let cast = |(array, field): (&ArrayRef, &Arc<Field>)| arrow_cast::cast(array, field.data_type());
                    let arrays: Result<Vec<ArrayRef>, ArrowError> = batch.columns().iter().zip(schema.fields()).map(cast).collect();
                    let batch = arrays.and_then(|arrays| RecordBatch::try_new(Arc::clone(schema), arrays));
                    writer.write(&batch.map_err(|cause| said(&cause))?)?;
                }
                Ok(writer)
            }))
        };
        self.writer = Some(widened()?.map_err(|cause| failed(&self.name, &cause))?);
        Ok(())
    }
}

impl CellsFile for ArrowOut {
    fn begin(&mut self, columns: Vec<CellColumn>, batches: Option<Arc<Batches>>) -> Result<(), TableError> {
        if let Some(batches) = &batches {
            batches.keep();
        }
        self.batches = batches;
        let column = |what: CellColumn| Column { held: Held::of(what.kind), what, texts: StringBuilder::new(), lost: None };
        self.columns = columns.into_iter().map(column).collect();
        let schema = self.schema();
        if let Some(file) = self.file.take() {
            self.writer = Some(Writer::new(file, self.columnar, &schema).map_err(|cause| failed(&self.name, &cause))?);
        }
        Ok(())
    }

    fn takes_batches(&self) -> bool {
        true
    }

    fn row<'c>(&mut self, number: u64, cells: &mut dyn Iterator<Item = OutCell<'c>>) -> Result<(), TableError> {
        if self.batches.is_some() {
            let is_among = |(first, batch): &(u64, RecordBatch)| (*first..first + batch.num_rows() as u64).contains(&number);
            if !self.current.as_ref().is_some_and(is_among) {
                self.flush()?;
                self.current = self.batches.as_ref().and_then(|batches| batches.of(number));
            }
            let first = self.current.as_ref().map_or(number, |(first, _)| *first);
            self.taken.push((number - first) as u32);
        }
        self.rows.push(number);
        let has_types = self.batches.is_some();
        // A row that could not be read may have fewer.
        for column in &mut self.columns {
            let cell = cells.next().flatten();
            if !(has_types && column.what.source.is_some()) {
                column.texts.append_option(cell);
            }
        }
        if self.rows.len() >= TOGETHER { self.flush() } else { Ok(()) }
    }

    fn finish(mut self: Box<Self>) -> Result<Vec<String>, TableError> {
        self.flush()?;
        if let Some(writer) = self.writer.take() {
            writer.finish().map_err(|cause| failed(&self.name, &cause))?.finish()?;
        }
        let what = |held: Held| match held {
            Held::Integer | Held::Long => "whole number of at most 38 digits".to_owned(),
            Held::Decimal(places) => format!("decimal with at most {places} digits behind the point"),
            Held::Date => "date".to_owned(),
            _ => "number".to_owned(),
        };
        let lost = self.columns.iter().filter_map(|column| Some((column, column.lost?)));
        Ok(lost
            .map(|(column, (count, first))| {
                let (name, what) = (&column.what.name, what(column.held));
                let cells = if count == 1 { "1 cell" } else { &format!("{count} cells") };
                format!("Of {name}, {cells} held no {what}, first in row {first}: null was written there.")
            })
            .collect())
    }
}
