//! A table opened for reading: its header, how its columns are divided, its rows.
//!
//! [`Table::open`] has read the header and nothing more. The columns are known then, so cuts can be
//! compiled; [`Table::into_blocks`] turns what follows into blocks of rows for a job. Cells of
//! typed formats have become text by then, and [`Table::kind`] says what they were, so that an
//! output with types can write them back as they were.

mod open;
mod told;
mod union;

use std::collections::HashMap;
use std::io::{self, Read};
use std::sync::Arc;

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};
use keen_notch_core::{ByteWidth, OutputType, characters, shape};

use crate::blocks::{BlockOptions, Blocks, RowSource};
use crate::cells::{CellColumn, Kind, TypedRows};
use crate::chunks::{ChunkReader, ChunkSource};
use crate::error::TableError;
use crate::formats::columnar::{ArrowText, Batches};
use crate::formats::csv::{Fields, MadeRows, MadeText, Record, Records, RowMaker, cell_text};
use crate::formats::workbook::Sheet;
use crate::input::line_map::{LineMap, Whereabouts};

/// A table whose header has been read.
pub struct Table {
    records: Rows,
    name: String,
    columns: Vec<String>,
    separator: u8,
    /// The bytes before the first record: a byte order mark or nothing.
    prelude: &'static [u8],
    /// The header, verbatim; `None` without one.
    header: Option<Header>,
    notices: Vec<String>,
    /// The sheets of the workbook beside the one that is read.
    other_sheets: Vec<String>,
    /// What the columns hold, where the format tells.
    kinds: Vec<Kind>,
    /// The types that columns, by their places, are to be written with.
    asked_types: Vec<(usize, OutputType)>,
    /// Each row is one line, whatever line ends are in it: there were no lines.
    rows_are_lines: bool,
    /// Its bytes are those of its file.
    as_it_lies: bool,
    /// What its file is text of, where it is text.
    encoding: &'static Encoding,
    /// The rows with their types, where they have any.
    batches: Option<Arc<Batches>>,
    /// Where its rows stood, when they come of several files.
    places: Option<Arc<LineMap>>,
    /// Cells are asked for, but no records.
    only_cells: bool,
    /// How many threads may work side by side on its rows.
    threads: usize,
    /// A thread of its own reads it.
    has_reading_thread: bool,
    /// A sign that may divide the columns of a table that came out as one, and how often it stands
    /// in a line.
    likely_separator: Option<(char, usize)>,
}

/// Where the rows come from.
enum Rows {
    Text(Records<Box<dyn Read + Send>>),
    /// Rows that a format makes.
    Made(Option<Box<dyn RowMaker + Send>>),
    Sheet(Box<Sheet>),
    /// Typed columns, of which records are made when one is asked for.
    Columns(Option<Box<ArrowText>>),
}

impl Rows {
    /// Rows that were no text and have become comma-separated text, a line each.
    fn of_text(text: impl ChunkSource + Send + 'static) -> Self {
        let mut records = Records::new(Box::new(ChunkReader::new(text)) as Box<dyn Read + Send>);
        records.separate_by(b',');
        records.count_rows_as_lines();
        Rows::Text(records)
    }

    /// The same rows as records.
    fn as_records(&mut self) -> &mut Self {
        match self {
            Rows::Columns(columns) => {
                if let Some(columns) = columns.take() {
                    *self = Self::of_text(*columns);
                }
            }
            Rows::Made(maker) => {
                if let Some(maker) = maker.take() {
                    *self = Self::of_text(MadeText::new(maker));
                }
            }
            Rows::Text(_) | Rows::Sheet(_) => {}
        }
        self
    }

    fn peek(&mut self) -> io::Result<Option<Record<'_>>> {
        match self.as_records() {
            Rows::Text(records) => records.peek(),
            Rows::Sheet(sheet) => Ok(sheet.peek()),
            Rows::Columns(_) | Rows::Made(_) => Ok(None),
        }
    }

    fn next(&mut self) -> io::Result<Option<Record<'_>>> {
        match self.as_records() {
            Rows::Text(records) => records.next(),
            Rows::Sheet(sheet) => Ok(sheet.next()),
            Rows::Columns(_) | Rows::Made(_) => Ok(None),
        }
    }
}

/// The header's record, kept while the rows go by.
pub(crate) struct Header {
    pub raw: Vec<u8>,
    pub line_end: Vec<u8>,
    /// Where each of its fields ends.
    pub ends: Vec<u32>,
}

impl Header {
    /// Where its fields lie.
    pub(crate) fn fields(&self) -> Fields<'_> {
        Fields::new(&self.ends, 0)
    }
}

const BYTE_ORDER_MARK: &[u8] = b"\xEF\xBB\xBF";

impl Table {
    fn read_header(&mut self, no_header: bool) -> Result<(), TableError> {
        let name = self.name.clone();
        let unreadable = |cause| TableError::io(&name, "cannot be read", cause);
        // Lines with nothing in them may stand above the header.
        while self.records.peek().map_err(unreadable)?.is_some_and(|record| record.raw.is_empty()) {
            self.records.next().map_err(unreadable)?;
        }
        let Some(record) = self.records.peek().map_err(unreadable)? else {
            return Ok(());
        };
        let text = record.text().map_err(|reason| TableError::Row {
            name: name.clone(),
            line: record.line,
            reason,
            rows_gone: false,
        })?;
        if record.unclosed && !no_header {
            // The rows after it are in it, so that no file of rejects can help.
            return Err(TableError::no_table(
                &name,
                format!(
                    "has a quote in its header, in line {}, that is not closed up to the end of \
                    the file.",
                    record.line
                ),
                "Nothing was written. Close the quote or take it out; without a header nothing can \
                be read.",
            ));
        }
        if no_header {
            self.columns = (1..=record.fields.len()).map(|n| n.to_string()).collect();
            return Ok(());
        }
        self.columns =
            record.fields.iter().map(|field| cell_text(&text[field]).trim().to_owned()).collect();
        let header = Header {
            raw: record.raw.to_vec(),
            line_end: record.line_end.to_vec(),
            ends: record.fields.iter().map(|field| field.end as u32).collect(),
        };
        self.records.next().map_err(unreadable)?;
        self.header = Some(header);
        self.say_odd_names();
        self.end_separators()?;
        self.say_if_header_is_a_row()
    }

    /// A header with figures in it that looks like the row after it, column by column, may be a
    /// row.
    fn say_if_header_is_a_row(&mut self) -> Result<(), TableError> {
        let first = self
            .records
            .peek()
            .map_err(|cause| TableError::io(&self.name, "cannot be read", cause))?;
        let Some((row, text)) = first.and_then(|row| Some((row, row.text().ok()?))) else {
            return Ok(());
        };
        let cells: Vec<String> =
            row.fields.iter().map(|field| cell_text(&text[field]).trim().to_owned()).collect();
        let has_digits = |cell: &str| cell.contains(|c: char| c.is_ascii_digit());
        // Of a record of fixed width that it has as many characters says enough.
        let is_record = |cell: &str| has_digits(cell) && cell.len() > 15;
        let is_same = |name: &str, cell: &str| {
            has_digits(name) && shape(name) == shape(cell)
                || is_record(name)
                    && is_record(cell)
                    && characters::count(name) == characters::count(cell)
        };
        // The same kinds of characters in the same order, however many.
        let kinds = |cell: &str| shape(cell).replace(|c: char| c.is_ascii_digit(), "");
        let is_alike = |name: &str, cell: &str| is_same(name, cell) || kinds(name) == kinds(cell);
        let both = || self.columns.iter().zip(&cells);
        let is_row = cells.len() == self.columns.len()
            && both().any(|(name, cell)| is_same(name, cell))
            && both().all(|(name, cell)| is_alike(name, cell));
        if is_row {
            self.notices.push(
                "The first line looks like the row after it. If it is no header: --no-header."
                    .to_owned(),
            );
        }
        Ok(())
    }

    /// A separator at the end of every row makes one more column than the header names.
    fn end_separators(&mut self) -> Result<(), TableError> {
        let first = self
            .records
            .peek()
            .map_err(|cause| TableError::io(&self.name, "cannot be read", cause))?;
        let ends_so = first.is_some_and(|row| {
            row.fields.len() == self.columns.len() + 1
                && row.fields.at(row.fields.len() - 1).is_empty()
                && !row.raw.is_empty()
        });
        if ends_so && let Some(header) = &mut self.header {
            header.raw.push(self.separator);
            header.ends.push(header.raw.len() as u32);
            self.columns.push(String::new());
            self.notices.push(
                "Rows end in a separator; the header is taken to end in a column without a name."
                    .to_owned(),
            );
        }
        Ok(())
    }

    fn say_odd_names(&mut self) {
        let mut firsts: HashMap<&str, usize> = HashMap::new();
        for (place, name) in self.columns.iter().enumerate() {
            let first = *firsts.entry(name).or_insert(place);
            if name.is_empty() {
                self.notices.push(format!(
                    "Column {} has no name; it is {{column {}}}.",
                    place + 1,
                    place + 1
                ));
            } else if first < place {
                self.notices.push(format!(
                    "Columns {} and {} are both called {name}; they are {{column {}}} and {{column \
                    {}}}.",
                    first + 1,
                    place + 1,
                    first + 1,
                    place + 1
                ));
            }
        }
    }

    /// What the table is called in messages.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The names of the columns, without blanks around them.
    pub fn columns(&self) -> &[String] {
        &self.columns
    }

    /// The byte between columns.
    pub fn separator(&self) -> u8 {
        self.separator
    }

    /// Whether its bytes are those of its file, neither unpacked nor made of something else.
    pub fn is_as_it_lies(&self) -> bool {
        self.as_it_lies
    }

    /// The byte of its file that its first row begins at, where it is UTF-8 text that is read as it
    /// lies.
    pub(crate) fn begins_at(&self) -> Option<u64> {
        match &self.records {
            Rows::Text(records) if self.as_it_lies && self.encoding == UTF_8 => {
                Some(records.passed())
            }
            _ => None,
        }
    }

    /// A sign that may divide the columns of a table that came out as one, and how often it stands
    /// in each line.
    pub fn likely_separator(&self) -> Option<(char, usize)> {
        self.likely_separator
    }

    /// What is odd about the table and worth saying, one sentence each.
    pub fn notices(&self) -> &[String] {
        &self.notices
    }

    /// The sheets of the table's workbook that are not read, those with something in them.
    pub fn other_sheets(&self) -> &[String] {
        &self.other_sheets
    }

    /// What a column holds, as far as the format tells.
    pub(crate) fn kind(&self, column: usize) -> Kind {
        self.kinds.get(column).copied().unwrap_or_default()
    }

    /// A column as it is to be written unchanged, by its place from 0.
    pub(crate) fn cell_column(&self, place: usize) -> CellColumn {
        match self.asked_type(place) {
            Some(output_type) => CellColumn {
                kind: Kind::asked(output_type),
                is_asked: true,
                ..CellColumn::text(&self.columns[place])
            },
            None => CellColumn {
                kind: self.kind(place),
                source: Some(place),
                ..CellColumn::text(&self.columns[place])
            },
        }
    }

    /// Has a column, by its place from 0, written with this type in outputs that have types,
    /// whatever it has here.
    pub fn write_as(&mut self, place: usize, output_type: OutputType) {
        self.asked_types.push((place, output_type));
    }

    /// The type that was asked for a column.
    pub(crate) fn asked_type(&self, place: usize) -> Option<OutputType> {
        self.asked_types.iter().find(|(of, _)| *of == place).map(|(_, output_type)| *output_type)
    }

    /// Only the cells of these columns are asked for, and no records. To be said before the first
    /// row is read.
    pub(crate) fn needs_only(&mut self, columns: Vec<usize>) {
        self.only_cells = true;
        self.batches.iter().for_each(|batches| batches.only_as_text(columns.clone()));
    }

    /// The rows with their types, where they have any.
    pub(crate) fn batches(&self) -> Option<TypedRows> {
        self.batches.clone().map(|batches| batches as TypedRows)
    }

    /// The encoding of the file that it was read from.
    pub(crate) fn encoding(&self) -> &'static Encoding {
        self.encoding
    }

    /// Where its rows stood, when they come of several files.
    pub(crate) fn places(&self) -> Option<Arc<LineMap>> {
        self.places.clone()
    }

    /// The same, for messages.
    pub fn whereabouts(&self) -> Whereabouts {
        Whereabouts(self.places())
    }

    /// Returns an error the place in the file that a row stood in, when the rows come of several
    /// files.
    pub(crate) fn in_file(&self) -> impl Fn(TableError) -> TableError + use<> {
        let places = self.places.clone();
        move |error| match &places {
            Some(places) => places.in_file(error),
            None => error,
        }
    }

    /// How many bytes a text takes in its file; `None` where that is UTF-8.
    pub fn byte_width(&self) -> Option<ByteWidth> {
        let encoding = self.encoding;
        match encoding {
            encoding if encoding == UTF_8 => None,
            encoding if encoding == UTF_16LE || encoding == UTF_16BE => {
                Some(ByteWidth(Arc::new(|text| 2 * text.encode_utf16().count())))
            }
            _ => Some(ByteWidth(Arc::new(|text| encoding.encode(text).0.len()))),
        }
    }

    /// The byte order mark, in UTF-8, that text of an encoding begins with: in UTF-8 as the table
    /// has it, in UTF-16 always, elsewhere never (Unicode, section 23.8).
    pub(crate) fn mark_for(&self, encoding: &'static Encoding) -> &'static [u8] {
        match encoding {
            encoding if encoding == UTF_8 => self.prelude,
            encoding if encoding == UTF_16LE || encoding == UTF_16BE => BYTE_ORDER_MARK,
            _ => b"",
        }
    }

    /// How many threads may work side by side on its rows, at least one.
    pub fn threads(&self) -> usize {
        self.threads
    }

    /// How many of them take its rows: one less where one does nothing but read, which would be
    /// kept waiting with one more than there are cores (SQLite on two: 1.41 and 1.25 of a copy's
    /// time).
    pub(crate) fn workers(&self) -> usize {
        (self.threads - usize::from(self.has_reading_thread)).max(1)
    }

    pub(crate) fn header(&self) -> Option<&Header> {
        self.header.as_ref()
    }

    /// What follows as blocks of some `size` bytes.
    pub(crate) fn into_blocks(mut self, size: usize) -> Blocks {
        let (separator, width, rows_are_lines) =
            (self.separator, self.columns.len(), self.rows_are_lines);
        if !self.only_cells && matches!(self.records, Rows::Columns(_)) {
            self.records.as_records();
        }
        let (rows, line) = match self.records {
            Rows::Text(records) => {
                let line = records.line();
                (RowSource::Text(Box::new(records.into_rest())), line)
            }
            Rows::Columns(Some(columns)) => (RowSource::Cells(columns), 1),
            Rows::Sheet(sheet) => (RowSource::Sheet(sheet), 1),
            Rows::Made(Some(maker)) => (RowSource::Made(maker, MadeRows::default()), 1),
            Rows::Columns(None) | Rows::Made(None) => (RowSource::Text(Box::new(io::empty())), 1),
        };
        Blocks::new(rows, BlockOptions { separator, width, line, rows_are_lines, size })
    }

    /// The next record; lines with nothing in them come as records without bytes.
    pub(crate) fn next_record(&mut self) -> Result<Option<Record<'_>>, TableError> {
        let name = &self.name;
        self.records.next().map_err(|cause| TableError::io(name, "cannot be read", cause))
    }
}
