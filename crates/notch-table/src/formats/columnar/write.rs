//! Cells → typed columns.
//!
//! New cells are gathered as text and made values of their column's type one batch at a time.
//! Columns that no cut replaces come as they were read ([`TypedRows`]) or are copied from the
//! Parquet file without being decoded (`source_parquet.rs`).
//!
//! Row groups are encoded column by column side by side and written in order, so the bytes are the
//! same for any number of threads.

use std::sync::Arc;

use arrow_array::{Array, ArrayRef, RecordBatch, UInt32Array};
use arrow_schema::{ArrowError, Field, Schema, SchemaRef};

use super::Batches;
use super::arrow_target::ArrowTarget;
use super::parquet_out::Stay;
use super::read::said;
use super::texts::Texts;
use super::typed_file::{TOGETHER, Writer, again};
use crate::cells::OutputColumns;
use crate::cells::{CellColumn, CellWriter, OutCell, TypedRows};
use crate::error::TableError;
use crate::format::Columnar;
use crate::output::{Finished, NewFile, To};

/// How many bytes of text in a column are made one: an array has no room for more than 2 GiB.
const MOST_BYTES: usize = 64 * 1024 * 1024;

/// A column of the file.
struct Column {
    what: CellColumn,
    held: ArrowTarget,
    texts: Texts,
    /// The rows whose text did not fit what was asked for: how many, and the number of the first.
    lost: Option<(u64, u64)>,
}

impl Column {
    /// The texts of these rows as an array, and whether the column was made wider for them, which
    /// it may be only where `may_widen`.
    ///
    /// # Errors
    /// A text does not fit, and no cell is lost in silence: only one that does not fit a type that
    /// was asked for is left blank, and counted.
    fn array_of_texts(
        &mut self,
        rows: &[u64],
        may_widen: bool,
        name: &str,
    ) -> Result<(ArrayRef, bool), TableError> {
        let texts = self.texts.finish().map_err(|cause| failed(name, &said(&cause)))?;
        let mut is_wider = false;
        loop {
            let unfit = match self.held.array(&texts, true) {
                Ok(array) => return Ok((array, is_wider)),
                Err(unfit) => unfit,
            };
            // After a text that is null as it is there may be one that only a wider column holds.
            let wider = (unfit..texts.len())
                .filter(|n| !texts.is_null(*n))
                .find_map(|n| Some((n, self.held.wider(texts.value(n), self.what.is_asked)?)));
            match wider {
                Some((_, wider)) if may_widen => (self.held, is_wider) = (wider, true),
                None if self.what.is_asked => break,
                // What has gone to standard output cannot be widened.
                other => {
                    let n = other.map_or(unfit, |(n, _)| n);
                    return Err(no_room(name, self, texts.value(n), rows[n]));
                }
            }
        }
        let array = self.held.array(&texts, false).unwrap_or_else(|_| Arc::new(texts.clone()));
        let mut lost = (0..texts.len()).filter(|n| array.is_null(*n) && !texts.is_null(*n));
        if let Some(first) = lost.next() {
            let (count, first) = self.lost.unwrap_or((0, rows[first]));
            self.lost = Some((count + 1 + lost.count() as u64, first));
        }
        Ok((array, is_wider))
    }
}

fn failed(name: &str, cause: &str) -> TableError {
    TableError::not_written(name, cause, "Nothing was written.")
}

/// A file of typed columns.
struct ArrowOut {
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
    /// The rows of the table with their types, the current ones, and which of them are to be
    /// written.
    batches: Option<Arc<Batches>>,
    current: Option<(u64, RecordBatch)>,
    taken: Vec<u32>,
    /// Columns that stay are copied from where they are.
    stays: bool,
    /// The row, from 1, that no row before it can be taken together with.
    behind: u64,
    /// How many threads may encode side by side.
    threads: usize,
}

/// A file or stream of typed columns.
///
/// # Errors
/// It cannot be begun.
pub(crate) fn writer(to: To<'_>, columnar: Columnar) -> Result<Box<dyn CellWriter>, TableError> {
    Ok(Box::new(ArrowOut::new(to, columnar)?))
}

impl ArrowOut {
    fn new(to: To<'_>, columnar: Columnar) -> Result<Self, TableError> {
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
            stays: false,
            behind: 0,
            threads: 1,
        })
    }

    /// The columns that may stay verbatim in the Parquet file they are read from.
    fn stay(&self) -> Option<Stay> {
        let original = self.batches.as_ref()?.original()?;
        Some(Stay::new(original, self.columns.iter().map(|column| column.what.source).collect()))
    }

    /// The schema as the columns are now.
    fn schema(&self) -> SchemaRef {
        let from = self.batches.as_ref().map(|batches| batches.schema());
        let field = |column: &Column| match (column.what.source, &from) {
            (Some(source), Some(schema)) => {
                schema.field(source).clone().with_name(&column.what.name)
            }
            _ => Field::new(&column.what.name, column.held.data_type(), true),
        };
        Arc::new(Schema::new(self.columns.iter().map(field).collect::<Vec<_>>()))
    }

    /// Takes the numbers of rows that come next, of which one or more can be taken together;
    /// returns how many.
    fn begin_rows(&mut self, numbers: &[u64]) -> Result<usize, TableError> {
        let first = numbers[0];
        if first >= self.behind {
            self.flush()?;
            self.behind = u64::MAX;
            if self.stays
                && let Some(writer) = self.writer.as_mut().and_then(Writer::with_some_that_stay)
            {
                writer.next_group().map_err(|cause| failed(&self.name, &said(&cause)))?;
                self.behind = writer.end_of_group(first).unwrap_or(u64::MAX);
            } else if let Some(batches) = &self.batches {
                self.current = batches.of(first);
                self.behind = self
                    .current
                    .as_ref()
                    .map_or(first + 1, |(from, batch)| from + batch.num_rows() as u64);
            }
        }
        let room = TOGETHER - self.rows.len();
        let count = numbers.iter().take(room).take_while(|number| **number < self.behind).count();
        if !self.stays && self.batches.is_some() {
            let from = self.current.as_ref().map_or(first, |(from, _)| *from);
            self.taken.extend(numbers[..count].iter().map(|number| (number - from) as u32));
        }
        self.rows.extend_from_slice(&numbers[..count]);
        Ok(count)
    }

    /// Writes the rows that are waiting if they are many.
    fn end_rows(&mut self) -> Result<(), TableError> {
        let is_much = |column: &Column| column.texts.len() >= MOST_BYTES;
        if self.rows.len() >= TOGETHER || self.columns.iter().any(is_much) {
            self.flush()
        } else {
            Ok(())
        }
    }

    /// Writes the rows that are waiting.
    fn flush(&mut self) -> Result<(), TableError> {
        if self.rows.is_empty() {
            return Ok(());
        }
        let mut arrays: Vec<Option<ArrayRef>> = Vec::with_capacity(self.columns.len());
        let mut is_wider = false;
        let taken = std::mem::take(&mut self.taken);
        // Rows of which none was left out need not be picked one by one.
        let span = taken
            .first()
            .zip(taken.last())
            .map(|(first, last)| (*first as usize, (*last - *first) as usize + 1));
        let span = span.filter(|(_, length)| *length == taken.len());
        let taken = UInt32Array::from(taken);
        for column in &mut self.columns {
            if column.what.source.is_some() && self.stays {
                arrays.push(None);
                continue;
            }
            if let (Some(source), Some((_, batch))) = (column.what.source, &self.current) {
                let array = match span {
                    Some((first, length)) => Ok(batch.column(source).slice(first, length)),
                    None => arrow_select::take::take(batch.column(source), &taken, None),
                };
                arrays.push(Some(array.map_err(|cause| failed(&self.name, &said(&cause)))?));
                continue;
            }
            let (array, was_widened) =
                column.array_of_texts(&self.rows, self.path.is_some(), &self.name)?;
            is_wider |= was_widened;
            arrays.push(Some(array));
        }
        let schema = self.schema();
        if is_wider {
            self.widen(&schema)?;
        }
        let rows = std::mem::take(&mut self.rows);
        let written = match &mut self.writer {
            Some(writer) => match writer.with_some_that_stay() {
                Some(writer) => writer.write(&arrays, &rows).map_err(|cause| said(&cause)),
                None => writer.write(&schema, arrays.into_iter().flatten().collect()),
            },
            None => Ok(()),
        };
        written.map_err(|cause| failed(&self.name, &cause))
    }

    /// Begins the file anew with wider columns, and writes into it what was written before.
    fn widen(&mut self, schema: &SchemaRef) -> Result<(), TableError> {
        let (Some(writer), Some(path)) = (self.writer.take(), self.path.clone()) else {
            return Ok(());
        };
        let (columnar, threads, stay) = (self.columnar, self.threads, self.stay());
        let widened = || -> Result<Result<Writer, String>, TableError> {
            let into = NewFile::create(&path)?;
            Ok(writer.finish().and_then(|mut written| {
                let file = written.again().map_err(|cause| said(&cause))?;
                let mut writer = Writer::new(into, columnar, schema, threads, stay)?;
                for batch in again(file, columnar)? {
                    let batch = batch.map_err(|cause| said(&cause))?;
                    let cast = |(array, field): (&ArrayRef, &Arc<Field>)| {
                        arrow_cast::cast(array, field.data_type())
                    };
                    let arrays: Result<Vec<ArrayRef>, ArrowError> =
                        batch.columns().iter().zip(schema.fields()).map(cast).collect();
                    writer.write(schema, arrays.map_err(|cause| said(&cause))?)?;
                }
                Ok(writer)
            }))
        };
        self.writer = Some(widened()?.map_err(|cause| failed(&self.name, &cause))?);
        Ok(())
    }
}

/// A cell that the column, as it was begun on standard output, has no room for.
fn no_room(name: &str, column: &Column, text: &str, row: u64) -> TableError {
    let called = &column.what.name;
    if column.held == ArrowTarget::Integer && column.what.is_asked {
        let problem = format!(
            "cannot hold “{text}” of row {row}: the column {called} was begun with whole numbers \
            of 64 bits."
        );
        return TableError::no_table(
            name,
            problem,
            "Write into a file with -o FILE, where the column is widened, or ask for decimal 0.",
        );
    }
    let what = said_type(column.held);
    let problem = format!(
        "cannot hold “{text}” of row {row}: the column {called} has a type, and that is no {what}."
    );
    let remedy = format!(
        "Write into a file with -o FILE, where the column becomes text, or make it text: '{called} \
        = {{{called}}}' --replace {called}."
    );
    TableError::no_table(name, problem, remedy)
}

/// What a value of a type is, in words.
fn said_type(held: ArrowTarget) -> String {
    match held {
        ArrowTarget::Integer | ArrowTarget::Long => "whole number of at most 38 digits".to_owned(),
        ArrowTarget::Decimal(places) => {
            format!("decimal with at most {places} digits behind the point")
        }
        ArrowTarget::Date => "date".to_owned(),
        ArrowTarget::Truth => "truth value".to_owned(),
        ArrowTarget::Number | ArrowTarget::Text => "number".to_owned(),
    }
}

impl CellWriter for ArrowOut {
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        batches: Option<TypedRows>,
    ) -> Result<(), TableError> {
        // Rows that another format has read are of no use here.
        self.batches = batches.and_then(|rows| rows.downcast().ok());
        let column = |what: CellColumn| Column {
            held: ArrowTarget::of(what.kind),
            what,
            texts: Texts::default(),
            lost: None,
        };
        self.columns = columns.into_iter().map(column).collect();
        let schema = self.schema();
        if let Some(file) = self.file.take() {
            let writer = Writer::new(file, self.columnar, &schema, self.threads, self.stay());
            let mut writer = writer.map_err(|cause| failed(&self.name, &cause))?;
            self.stays = writer.with_some_that_stay().is_some();
            self.writer = Some(writer);
        }
        // Rows must be kept when they are read, where they are not read once more.
        self.batches.iter().filter(|_| !self.stays).for_each(|batches| batches.keep());
        Ok(())
    }

    fn takes_batches(&self) -> bool {
        true
    }

    fn on_threads(&mut self, threads: usize) {
        self.threads = threads;
    }

    fn row<'c>(
        &mut self,
        number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError> {
        self.begin_rows(&[number])?;
        let has_types = self.batches.is_some();
        // A row that could not be read may have fewer.
        for column in &mut self.columns {
            let cell = cells.next().flatten();
            if !(has_types && column.what.source.is_some()) {
                column.texts.push(cell.as_deref());
            }
        }
        self.end_rows()
    }

    fn block(&mut self, rows: &mut OutputColumns, wanted: &[bool]) -> Result<(), TableError> {
        let mut from = 0;
        while from < rows.len() {
            let count = self.begin_rows(&rows.numbers()[from..])?;
            let taken = from..from + count;
            let has_types = self.batches.is_some();
            let given = self
                .columns
                .iter_mut()
                .zip(wanted)
                .filter(|(_, wanted)| **wanted)
                .zip(rows.columns());
            let are_texts =
                given.filter(|((column, _), _)| !(has_types && column.what.source.is_some()));
            are_texts.for_each(|((column, _), texts)| column.texts.extend(texts, &taken));
            self.end_rows()?;
            from += count;
        }
        Ok(())
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        self.flush()?;
        let whole = match self.writer.take() {
            Some(writer) => {
                Some(writer.finish().map_err(|cause| failed(&self.name, &cause))?.whole()?)
            }
            None => None,
        };
        let lost = self.columns.iter().filter_map(|column| Some((column, column.lost?)));
        let said = lost
            .map(|(column, (count, first))| {
                let (name, what) = (&column.what.name, said_type(column.held));
                let cells = if count == 1 { "1 cell" } else { &format!("{count} cells") };
                format!(
                    "Of {name}, {cells} held no {what}, first in row {first}: null was written \
                    there."
                )
            })
            .collect();
        Ok(Finished { said, whole })
    }
}
