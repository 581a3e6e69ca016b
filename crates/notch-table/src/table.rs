//! A table opened for reading: its header, how its columns are divided, its rows.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

use notch_core::ByteWidth;

use crate::cells::Kind;
use crate::columnar::{self, ARROW_FILE, ARROW_STREAM, ArrowText, Batches, PARQUET, arrow_stream};
use crate::csv::{Fields, Record, Records, cell_text, find_separator, write_cell};
use crate::databases::{self, SQLITE};
use crate::encodings::kept_byte;
use crate::error::{NO_TEXT, TableError};
use crate::json::{JsonText, looks_like_json};
use crate::lines::Lines;
use crate::many::{self, Places};
use crate::plain::{self, Plain, UNPACK_LIMIT, plain};
use crate::source::Source;
use crate::workbook::{self, OLD, Sheet, SheetOptions, ZIP};

/// A format to read, where a table's content and ending are not to say it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum From {
    /// Separated text; the separator, where the format says it.
    Text(Option<u8>),
    /// Plain lines, each a cell of one column.
    Lines,
    /// JSON objects.
    Json,
}

impl From {
    /// The names by which formats are asked for.
    pub const NAMES: [(&'static str, From); 5] =
        [("csv", From::Text(None)), ("tsv", From::Text(Some(b'\t'))), ("lines", From::Lines), ("json", From::Json), ("jsonl", From::Json)];

    /// The format of a name.
    pub fn of_name(name: &str) -> Option<Self> {
        Self::NAMES.iter().find(|(known, _)| *known == name).map(|(_, from)| *from)
    }
}

/// How a table is to be read.
#[derive(Debug, Clone, Default)]
pub struct ReadOptions {
    /// The byte between columns; found by looking when unsaid.
    pub separator: Option<u8>,
    /// The first row is data; the columns are called `1`, `2`, ….
    pub no_header: bool,
    /// The sheet of a workbook; the first that can be seen when unsaid.
    pub sheet: Option<String>,
    /// The row of a sheet that names the columns, from 1; found by looking when unsaid.
    pub header_row: Option<u32>,
    /// How many bytes a workbook or a compressed file may unpack to; 4 GiB when unsaid.
    pub unpack_limit: Option<u64>,
    /// What it is taken to be, whatever it looks like; text formats alone need it, others are told by their content.
    pub from: Option<From>,
    /// What is asked of a database, in SQL.
    pub query: Option<String>,
    /// The table of a database.
    pub table_name: Option<String>,
    /// For how many seconds a server may be silent; 10 when unsaid.
    pub timeout: Option<u64>,
    /// A column of this name is added that says which file a row came from.
    pub file_column: Option<String>,
    /// The encoding of text; UTF-8, or what a byte order mark says, when unsaid.
    pub encoding: Option<&'static Encoding>,
}

/// A table whose header has been read.
pub struct Table {
    records: Rows,
    name: String,
    columns: Vec<String>,
    separator: u8,
    /// The bytes before the first record: a byte order mark or nothing.
    prelude: &'static [u8],
    /// The header as it stands; `None` without one.
    header: Option<Header>,
    notices: Vec<String>,
    /// The sheets of the workbook beside the one that is read.
    other_sheets: Vec<String>,
    /// What the columns hold, where the format tells.
    kinds: Vec<Kind>,
    /// Each row is one line, whatever line ends are in it: there were no lines.
    rows_are_lines: bool,
    /// Its bytes are those of its file.
    as_it_lies: bool,
    /// What its file is text of, where it is text.
    encoding: &'static Encoding,
    /// The rows with their types, where they have any.
    batches: Option<Arc<Batches>>,
    /// Where its rows stood, when they come of several files.
    places: Option<Arc<Places>>,
}

/// Where the rows come from.
enum Rows {
    Text(Records<Box<dyn Read + Send>>),
    Sheet(Box<Sheet>),
}

impl Rows {
    fn peek(&mut self) -> io::Result<Option<Record<'_>>> {
        match self {
            Rows::Text(records) => records.peek(),
            Rows::Sheet(sheet) => Ok(sheet.peek()),
        }
    }

    fn next(&mut self) -> io::Result<Option<Record<'_>>> {
        match self {
            Rows::Text(records) => records.next(),
            Rows::Sheet(sheet) => Ok(sheet.next()),
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
    /// Opens a table and reads its header.
    ///
    /// # Errors
    /// The source cannot be read, is empty, is no text, or its header cannot be read.
    pub fn open(source: &Source, options: &ReadOptions) -> Result<Table, TableError> {
        let name = source.name();
        match source {
            Source::Many { files, .. } => return Self::open_many(files, name, options),
            Source::File(path) if options.file_column.is_some() => return Self::open_many(std::slice::from_ref(path), name, options),
            Source::Server(_) => return Self::open_database(source, name, options),
            _ if options.file_column.is_some() => {
                return Err(TableError::no_table(&name, "is no file that a row could come from.", "Leave --file-column out."));
            }
            _ => {}
        }
        let unreadable = |cause| TableError::io(&name, "cannot be read", cause);
        let Plain { reader, notices, as_it_lies, encoding } = plain(source.open()?, &name, options)?;
        if options.from == Some(From::Lines) {
            names_itself(&name, "is read as lines", options)?;
            let columns = vec![("line".to_owned(), Kind::Text)];
            return Ok(Table { encoding, ..Self::of_text(Box::new(Lines::new(reader)), name, columns, notices) });
        }
        let mut records = Records::new(reader);
        let beginning = records.beginning().map_err(unreadable)?;
        if let Some(from) = options.from {
            return match from {
                From::Json => Self::open_json(records, name, options, notices),
                _ => Self::open_text(records, name, options, notices, (as_it_lies, encoding)),
            };
        }
        let is_book = beginning.starts_with(ZIP);
        ending_is_true(source, is_book || beginning.starts_with(OLD))?;
        if beginning.starts_with(OLD) {
            return Err(workbook::old_workbook(&name, records.into_rest()));
        }
        if is_book {
            return Self::open_workbook(source, records, name, options);
        }
        if options.sheet.is_some() || options.header_row.is_some() {
            return Err(TableError::no_table(&name, "is no workbook, so it has no sheets.", "Leave --sheet and --header-row out."));
        }
        if beginning.starts_with(SQLITE) {
            if matches!(source, Source::File(_) | Source::Copy { .. }) && source.file()?.is_some_and(|file| !is_packed(&file)) {
                return Self::open_database(source, name, options);
            }
            return Self::open_database(&Source::copied(name.clone(), records.into_rest())?, name, options);
        }
        if options.query.is_some() || options.table_name.is_some() || options.timeout.is_some() {
            return Err(TableError::no_table(&name, "is no database.", "Leave --query, --table-name and --timeout out."));
        }
        if [PARQUET, ARROW_FILE, ARROW_STREAM].iter().any(|start| beginning.starts_with(start)) && !says_text(source) {
            let beginning = beginning[..4].to_vec();
            return Self::open_columnar(source, records, name, options, notices, &beginning);
        }
        let says_json = matches!(inner_ending(source).as_deref(), Some("json" | "jsonl" | "ndjson"));
        if says_json || (looks_like_json(beginning) && !says_text(source)) {
            return Self::open_json(records, name, options, notices);
        }
        Self::open_text(records, name, options, notices, (as_it_lies, encoding))
    }

    fn open_text(
        mut records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
        notices: Vec<String>,
        (as_it_lies, encoding): (bool, &'static Encoding),
    ) -> Result<Table, TableError> {
        let beginning = records.beginning().map_err(|cause| TableError::io(&name, "cannot be read", cause))?;
        let prelude = if beginning.starts_with(BYTE_ORDER_MARK) { BYTE_ORDER_MARK } else { b"" };
        let beginning = &beginning[prelude.len()..];
        if beginning.iter().all(|byte| byte.is_ascii_whitespace() && *byte != b'\t') {
            return Err(TableError::no_table(&name, "is empty.", "A table has a header and rows below it."));
        }
        let said = match options.from {
            Some(From::Text(separator)) => separator,
            _ => None,
        };
        let separator = options.separator.or(said).unwrap_or_else(|| find_separator(beginning));
        records.skip(prelude.len());
        records.separate_by(separator);
        let mut table = Table {
            records: Rows::Text(records),
            name,
            columns: Vec::new(),
            separator,
            prelude,
            header: None,
            notices,
            other_sheets: Vec::new(),
            kinds: Vec::new(),
            rows_are_lines: false,
            as_it_lies,
            encoding,
            batches: None,
            places: None,
        };
        table.read_header(options.no_header)?;
        Ok(table)
    }

    fn open_json(
        records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
        notices: Vec<String>,
    ) -> Result<Table, TableError> {
        names_itself(&name, "holds JSON objects", options)?;
        let opened = JsonText::new(Box::new(records.into_rest()));
        let (text, columns) = opened.map_err(|cause| TableError::io(&name, "cannot be read", cause))?;
        if columns.is_empty() {
            return Err(TableError::no_table(&name, "holds no object with a field.", "A table is an object for each row."));
        }
        Ok(Self::of_text(Box::new(text), name, columns, notices))
    }

    /// A table of rows that were no text and have become comma-separated text, a line each.
    fn of_text(text: Box<dyn Read + Send>, name: String, columns: Vec<(String, Kind)>, notices: Vec<String>) -> Table {
        let (mut raw, mut ends) = (Vec::new(), Vec::new());
        for (n, (column, _)) in columns.iter().enumerate() {
            if n > 0 {
                raw.push(b',');
            }
            write_cell(column, b',', &mut raw);
            ends.push(raw.len() as u32);
        }
        let mut records = Records::new(text);
        records.separate_by(b',');
        records.count_rows_as_lines();
        let (columns, kinds) = columns.into_iter().unzip();
        Table {
            records: Rows::Text(records),
            name,
            columns,
            separator: b',',
            prelude: b"",
            header: Some(Header { raw, line_end: b"\n".to_vec(), ends }),
            notices,
            other_sheets: Vec::new(),
            kinds,
            rows_are_lines: true,
            as_it_lies: false,
            encoding: UTF_8,
            batches: None,
            places: None,
        }
    }

    /// What is asked of a database.
    fn open_database(source: &Source, name: String, options: &ReadOptions) -> Result<Table, TableError> {
        names_itself(&name, "is a database", options)?;
        let (text, columns) = databases::open(source, options)?;
        let mut table = Self::of_text(Box::new(text), name, columns, Vec::new());
        table.say_odd_names();
        Ok(table)
    }

    /// Several tables of one header.
    fn open_many(files: &[PathBuf], name: String, options: &ReadOptions) -> Result<Table, TableError> {
        if files.is_empty() {
            return Err(TableError::no_table(
                &name,
                "stands for no file.",
                "Put a pattern in quotes: 'lots-*.csv', or name a folder with tables.",
            ));
        }
        let (text, columns) = many::open(files, options)?;
        let notice = if files.len() == 1 { Vec::new() } else { vec![format!("{name} stands for {} files.", files.len())] };
        let places = text.places();
        let mut table = Table { places: Some(places), ..Self::of_text(Box::new(text), name, columns, notice) };
        if options.no_header {
            table.header = None;
        }
        Ok(table)
    }

    /// A table of typed columns.
    fn of_columns(text: ArrowText, name: String, notices: Vec<String>) -> Table {
        let (columns, batches) = (text.columns(), text.batches());
        let mut table = Self::of_text(Box::new(text), name, columns, notices);
        table.batches = Some(batches);
        table.say_odd_names();
        table
    }

    fn open_columnar(
        source: &Source,
        records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
        notices: Vec<String>,
        beginning: &[u8],
    ) -> Result<Table, TableError> {
        if beginning.starts_with(ARROW_STREAM) {
            names_itself(&name, "is an Arrow stream", options)?;
            let text = arrow_stream(Box::new(records.into_rest()), &name)?;
            return Ok(Self::of_columns(text, name, notices));
        }
        let is_parquet = beginning.starts_with(PARQUET);
        names_itself(&name, if is_parquet { "is a Parquet file" } else { "is an Arrow file" }, options)?;
        let file = whole_file(source, records, &name)?;
        let text = columnar::open(file, &name, is_parquet)?;
        Ok(Self::of_columns(text, name, notices))
    }

    fn open_workbook(
        source: &Source,
        records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
    ) -> Result<Table, TableError> {
        let sheet_options = SheetOptions {
            name: options.sheet.clone(),
            header_row: options.header_row,
            no_header: options.no_header,
            unpack_limit: options.unpack_limit,
        };
        let file = whole_file(source, records, &name)?;
        let limit = options.unpack_limit.unwrap_or(UNPACK_LIMIT);
        // What is called a workbook is to be one.
        if !says_book(source)
            && let Some(path) = workbook::only_file(&file, &name, limit)?
        {
            return Self::open(&Source::Copy { name, path: Arc::new(path) }, options);
        }
        let opened = workbook::open(file, &name, &sheet_options)?;
        let (raw, ends) = opened.sheet.header.clone();
        let header = (!options.no_header).then(|| Header { raw, line_end: b"\n".to_vec(), ends });
        let mut table = Table {
            records: Rows::Sheet(Box::new(opened.sheet)),
            name,
            columns: opened.columns.iter().map(|name| name.trim().to_owned()).collect(),
            separator: b',',
            prelude: b"",
            header,
            notices: opened.notices,
            other_sheets: opened.others,
            kinds: Vec::new(),
            rows_are_lines: false,
            as_it_lies: false,
            encoding: UTF_8,
            batches: None,
            places: None,
        };
        if !options.no_header {
            table.say_odd_names();
        }
        Ok(table)
    }

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
        let text = record.text().map_err(|reason| TableError::Row { name: name.clone(), line: record.line, reason, rows_gone: false })?;
        if no_header {
            self.columns = (1..=record.fields.len()).map(|n| n.to_string()).collect();
            return Ok(());
        }
        self.columns = record.fields.iter().map(|field| cell_text(&text[field]).trim().to_owned()).collect();
        let header = Header {
            raw: record.raw.to_vec(),
            line_end: record.line_end.to_vec(),
            ends: record.fields.iter().map(|field| field.end as u32).collect(),
        };
        self.records.next().map_err(unreadable)?;
        self.header = Some(header);
        self.say_odd_names();
        self.end_separators()?;
        Ok(())
    }

    /// A separator at the end of every row makes one more column than the header names.
    fn end_separators(&mut self) -> Result<(), TableError> {
        let first = self.records.peek().map_err(|cause| TableError::io(&self.name, "cannot be read", cause))?;
        let ends_so = first.is_some_and(|row| {
            row.fields.len() == self.columns.len() + 1 && row.fields.at(row.fields.len() - 1).is_empty() && !row.raw.is_empty()
        });
        if ends_so && let Some(header) = &mut self.header {
            header.raw.push(self.separator);
            header.ends.push(header.raw.len() as u32);
            self.columns.push(String::new());
            self.notices.push("Rows end in a separator; the header is taken to end in a column without a name.".to_owned());
        }
        Ok(())
    }

    fn say_odd_names(&mut self) {
        for (place, name) in self.columns.iter().enumerate() {
            if name.is_empty() {
                self.notices.push(format!("Column {} has no name; it is {{column {}}}.", place + 1, place + 1));
            } else if let Some(first) = self.columns[..place].iter().position(|earlier| earlier == name) {
                self.notices.push(format!(
                    "Columns {} and {} are both called {name}; they are {{column {}}} and {{column {}}}.",
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

    /// The rows with their types, where they have any.
    pub(crate) fn batches(&self) -> Option<Arc<Batches>> {
        self.batches.clone()
    }

    /// Whether each row is one line, whatever line ends are in it.
    pub(crate) fn rows_are_lines(&self) -> bool {
        self.rows_are_lines
    }

    /// The encoding of the file that it was read from.
    pub(crate) fn encoding(&self) -> &'static Encoding {
        self.encoding
    }

    /// Gives an error the place in the file that a row stood in, when the rows come of several files.
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
            encoding if encoding == UTF_16LE || encoding == UTF_16BE => Some(ByteWidth(Arc::new(|text| 2 * text.encode_utf16().count()))),
            _ => Some(ByteWidth(Arc::new(|text| encoding.encode(text).0.len()))),
        }
    }

    /// The byte order mark, in UTF-8, that text of an encoding begins with: in UTF-8 as the table has it, in UTF-16 always, elsewhere never
    /// (Unicode, section 23.8).
    pub(crate) fn mark_for(&self, encoding: &'static Encoding) -> &'static [u8] {
        match encoding {
            encoding if encoding == UTF_8 => self.prelude,
            encoding if encoding == UTF_16LE || encoding == UTF_16BE => BYTE_ORDER_MARK,
            _ => b"",
        }
    }

    pub(crate) fn header(&self) -> Option<&Header> {
        self.header.as_ref()
    }

    /// What follows as bytes, and the line it begins in; the table itself when its rows are no text.
    pub(crate) fn into_text(self) -> Result<(Box<dyn Read + Send>, u64), Box<Table>> {
        match self.records {
            Rows::Text(records) => {
                let line = records.line();
                Ok((Box::new(records.into_rest()), line))
            }
            Rows::Sheet(_) => Err(Box::new(self)),
        }
    }

    /// The next record; lines with nothing in them come as records without bytes.
    pub(crate) fn next_record(&mut self) -> Result<Option<Record<'_>>, TableError> {
        let name = &self.name;
        self.records.next().map_err(|cause| TableError::io(name, "cannot be read", cause))
    }
}

/// What is read from any place: the file itself where it lies as it is, else a copy of what has been unpacked or piped.
fn whole_file(source: &Source, records: Records<Box<dyn Read + Send>>, name: &str) -> Result<File, TableError> {
    if let Some(file) = source.file()?
        && !is_packed(&file)
    {
        return Ok(file);
    }
    let copy = tempfile::tempfile().and_then(|mut copy| {
        io::copy(&mut records.into_rest(), &mut copy)?;
        copy.seek(SeekFrom::Start(0)).map(|_| copy)
    });
    copy.map_err(|cause| TableError::io(name, "cannot be copied to a temporary file", cause))
}

/// Whether what lies in a file is compressed as a whole.
fn is_packed(mut file: &File) -> bool {
    let mut first = [0; 4];
    let is_packed = file.read_exact(&mut first).is_ok() && plain::is_packed(&first);
    let _ = file.seek(SeekFrom::Start(0));
    is_packed
}

/// What names its columns itself is read without the options that say where a header is.
fn names_itself(name: &str, what: &str, options: &ReadOptions) -> Result<(), TableError> {
    if options.sheet.is_some() || options.header_row.is_some() || options.no_header || options.separator.is_some() {
        let remedy = "Its columns have names: leave --sheet, --header-row, --no-header and --separator out.";
        return Err(TableError::no_table(name, format!("{what}."), remedy));
    }
    Ok(())
}

/// The last few characters of what is text.
fn last_of(text: &[u8]) -> String {
    let text = String::from_utf8_lossy(text);
    text.chars().rev().take(12).collect::<Vec<_>>().into_iter().rev().collect()
}

/// The ending of a file in lower case; of a compressed one the ending before that of its compression.
fn inner_ending(source: &Source) -> Option<String> {
    let ending = |path: &Path| path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    let path = source.path()?;
    match ending(path).as_deref() {
        Some("gz" | "zst" | "bz2") => ending(&path.with_extension("")),
        _ => ending(path),
    }
}

/// Whether a file's ending says that it is separated text.
fn says_text(source: &Source) -> bool {
    matches!(inner_ending(source).as_deref(), Some("csv" | "tsv" | "txt" | "tab"))
}

/// Whether a file's ending says that it is a workbook.
fn says_book(source: &Source) -> bool {
    matches!(inner_ending(source).as_deref(), Some("xlsx" | "xlsm" | "ods" | "xls" | "xlsb"))
}

/// A file whose ending says something else than its content would be read by the next program as what it is not.
fn ending_is_true(source: &Source, is_book: bool) -> Result<(), TableError> {
    let (says_book, says_text) = (says_book(source), says_text(source));
    if !says_book && !says_text {
        return Ok(());
    }
    let name = source.name();
    match (says_book, is_book) {
        (true, false) => {
            Err(TableError::no_table(&name, "is called a workbook and is none.", "If it is a text table, call it so: FILE.csv."))
        }
        (false, true) => {
            Err(TableError::no_table(&name, "is called a text table and is a workbook.", "Call it what it is: FILE.xlsx or FILE.ods."))
        }
        _ => Ok(()),
    }
}

impl<'b> Record<'b> {
    /// The record as text.
    ///
    /// # Errors
    /// A sentence on the bytes that are none.
    pub(crate) fn text(&self) -> Result<&'b str, String> {
        std::str::from_utf8(self.raw).map_err(|error| {
            let at = error.valid_up_to();
            match kept_byte(&self.raw[at..]) {
                Some(byte) => format!("the bytes are no text of the encoding behind {:?} (0x{byte:02X})", last_of(&self.raw[..at])),
                None => format!("{NO_TEXT} at byte {} of the row (0x{:02X})", at + 1, self.raw.get(at).copied().unwrap_or_default()),
            }
        })
    }

    /// The record as text with as many fields as the table has columns.
    ///
    /// # Errors
    /// Why it cannot be read, as a clause.
    pub(crate) fn readable(&self, columns: usize) -> Result<&'b str, String> {
        self.well_formed(columns)?;
        self.text()
    }

    /// Whether the record is closed and has as many fields as the table has columns.
    ///
    /// # Errors
    /// Why not, as a clause.
    pub(crate) fn well_formed(&self, columns: usize) -> Result<(), String> {
        if self.unclosed {
            return Err("a quote is opened in this row and not closed up to the end of the file".to_owned());
        }
        if let Some(problem) = self.problem {
            return Err(problem.to_owned());
        }
        let fields = self.fields.len();
        if fields != columns {
            let few = if fields < columns { "too few" } else { "too many" };
            let plural = if fields == 1 { "" } else { "s" };
            return Err(format!("{few} fields: the row has {fields} field{plural}, the header {columns}"));
        }
        Ok(())
    }
}
