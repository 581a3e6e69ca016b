//! What a source holds, by its content and its ending → the reader of its format → a table.
//!
//! The content decides; the ending only where the content leaves it open (text), and where both
//! contradict each other the table is refused instead of read wrongly. The order: a server or
//! several files, compression, `--from`, then the first bytes
//! ([`beginnings`](crate::beginnings)): archive or workbook, old workbook, SQLite, Parquet
//! and Arrow, JSON, and what is left is separated text, whose separator is found by looking.
//!
//! A format is one branch of [`Table::open_within`] and a folder of `formats/`. An option that has
//! no meaning for the format found is refused by name, never ignored.

use std::fs::File;
use std::io::Read;
use std::path::PathBuf;
use std::sync::Arc;

use encoding_rs::{Encoding, UTF_8};

use super::told::{
    MOST_ARCHIVES, ending_is_true, inner_ending, is_packed, likely_separator, names_itself,
    no_database, says_book, says_text, whole_file,
};
use super::union;
use super::{BYTE_ORDER_MARK, Header, Rows, Table};
use crate::activity::during;
use crate::beginnings::{ARROW_FILE, ARROW_STREAM, EMPTY_ZIP, OLD_WORKBOOK, PARQUET, SQLITE, ZIP};
use crate::blocks::usual_threads;
use crate::cells::Kind;
use crate::chunks::ChunkSource;
use crate::error::TableError;
use crate::formats::columnar::{self, ArrowText, arrow_stream};
use crate::formats::csv::{Records, find_separator, write_cell};
use crate::formats::databases;
use crate::formats::json::{self, JsonText, looks_like_json};
use crate::formats::lines::Lines;
use crate::formats::workbook;
use crate::input::archive::{self, Archive};
use crate::input::decompress::{Plain, UNPACK_LIMIT, plain};
use crate::input::source::Source;
use crate::options::{From, ReadOptions, SheetOptions};
use crate::shown::listed;

impl Table {
    /// Opens a table and reads its header.
    ///
    /// # Errors
    /// The source cannot be read, is empty, is no text, or its header cannot be read.
    pub fn open(source: &Source, options: &ReadOptions) -> Result<Table, TableError> {
        let table = during("reading the table", || Self::open_within(source, options, 0))?;
        Ok(Table { threads: threads(options), ..table })
    }

    /// The same for what was found within that many archives.
    fn open_within(
        source: &Source,
        options: &ReadOptions,
        archives: usize,
    ) -> Result<Table, TableError> {
        let name = source.name();
        match source {
            Source::Many { files, .. } => return Self::open_many(files, name, options),
            Source::File(path) if options.file_column.is_some() => {
                return Self::open_many(std::slice::from_ref(path), name, options);
            }
            Source::Server(_) => return Self::open_database(source, name, options),
            _ if options.file_column.is_some() => {
                return Err(TableError::no_table(
                    &name,
                    "is no file that a row could come from.",
                    "Leave --file-column out.",
                ));
            }
            _ => {}
        }
        let limit = options.unpack_limit.unwrap_or(UNPACK_LIMIT);
        if let Some(copy) = source.unpacked(limit)? {
            return Self::open_within(&copy, options, archives + 1);
        }
        Self::open_by_content(source, name, options, archives)
    }

    /// Opens what bytes are read from, by what they begin with.
    fn open_by_content(
        source: &Source,
        name: String,
        options: &ReadOptions,
        archives: usize,
    ) -> Result<Table, TableError> {
        let unreadable = |cause| TableError::io(&name, "cannot be read", cause);
        let Plain { reader, notices, as_it_lies, encoding } =
            plain(source.open()?, &name, options)?;
        if options.from == Some(From::Lines) {
            return Ok(Table { encoding, ..Self::open_lines(reader, name, options, notices)? });
        }
        let mut records = Records::new(reader);
        let beginning = records.beginning().map_err(unreadable)?;
        match options.from {
            Some(from @ From::Known(beginnings))
                if !beginnings.iter().any(|known| beginning.starts_with(known)) =>
            {
                let problem = format!("does not begin as {} does.", from.name());
                let remedy = "Leave --from out: its content says what it is.";
                return Err(TableError::no_table(&name, problem, remedy));
            }
            Some(From::Known(_)) | None => {}
            Some(_) if options.is_for_databases() => return Err(no_database(&name)),
            Some(From::Json) => {
                return Self::open_json(source, records, name, options, notices);
            }
            Some(_) => {
                return Self::open_text(records, name, options, notices, (as_it_lies, encoding));
            }
        }
        if beginning.starts_with(ZIP) {
            return Self::open_archive(source, records, name, options, archives);
        }
        if beginning.starts_with(EMPTY_ZIP) {
            let remedy = "An archive of one file is read as that file.";
            return Err(TableError::no_table(&name, "is an archive with nothing in it.", remedy));
        }
        ending_is_true(source, beginning.starts_with(OLD_WORKBOOK))?;
        if beginning.starts_with(OLD_WORKBOOK) {
            return Err(workbook::old_workbook(&name, records.into_rest()));
        }
        if options.is_for_workbooks() {
            let remedy = "Leave --sheet, --sheet-column and --header-row out.";
            return Err(TableError::no_table(
                &name,
                "is no workbook, so it has no sheets.",
                remedy,
            ));
        }
        if beginning.starts_with(SQLITE) {
            let is_file = matches!(source, Source::File(_) | Source::Copy { .. });
            if is_file && source.file()?.is_some_and(|file| !is_packed(&file)) {
                return Self::open_database(source, name, options);
            }
            let copy = Source::copied(name.clone(), records.into_rest())?;
            return Self::open_database(&copy, name, options);
        }
        if options.is_for_databases() {
            return Err(no_database(&name));
        }
        if [PARQUET, ARROW_FILE, ARROW_STREAM].iter().any(|start| beginning.starts_with(start))
            && !says_text(source)
        {
            let beginning = beginning[..4].to_vec();
            return Self::open_columnar(source, records, name, options, notices, &beginning);
        }
        let says_json =
            matches!(inner_ending(source).as_deref(), Some("json" | "jsonl" | "ndjson"));
        if says_json || (looks_like_json(beginning) && !says_text(source)) {
            return Self::open_json(source, records, name, options, notices);
        }
        Self::open_text(records, name, options, notices, (as_it_lies, encoding))
    }

    fn open_lines(
        reader: Box<dyn Read + Send>,
        name: String,
        options: &ReadOptions,
        notices: Vec<String>,
    ) -> Result<Table, TableError> {
        if options.no_header {
            let remedy = "Its one column is called line and has no header: leave --no-header out, \
                and take pieces from {line}.";
            return Err(TableError::no_table(&name, "is read as lines.", remedy));
        }
        names_itself(&name, "is read as lines", options)?;
        let columns = vec![("line".to_owned(), Kind::Text)];
        Ok(Self::of_text(Lines::new(reader), name, columns, notices))
    }

    fn open_text(
        mut records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
        notices: Vec<String>,
        (as_it_lies, encoding): (bool, &'static Encoding),
    ) -> Result<Table, TableError> {
        let beginning =
            records.beginning().map_err(|cause| TableError::io(&name, "cannot be read", cause))?;
        let prelude = if beginning.starts_with(BYTE_ORDER_MARK) { BYTE_ORDER_MARK } else { b"" };
        let beginning = &beginning[prelude.len()..];
        if beginning.iter().all(|byte| byte.is_ascii_whitespace() && *byte != b'\t') {
            return Err(TableError::no_table(
                &name,
                "is empty.",
                "A table has a header and rows below it.",
            ));
        }
        let said = match options.from {
            Some(From::Text(separator)) => separator,
            _ => None,
        };
        let separator = options.separator.or(said).unwrap_or_else(|| find_separator(beginning));
        let likely = likely_separator(beginning);
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
            asked_types: Vec::new(),
            rows_are_lines: false,
            as_it_lies,
            encoding,
            batches: None,
            places: None,
            only_cells: false,
            threads: 1,
            has_reading_thread: false,
            likely_separator: None,
        };
        table.read_header(options.no_header)?;
        if table.columns.len() == 1 && options.separator.is_none() {
            table.likely_separator = likely;
        }
        Ok(table)
    }

    fn open_json(
        source: &Source,
        records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
        notices: Vec<String>,
    ) -> Result<Table, TableError> {
        names_itself(&name, "holds JSON objects", options)?;
        let (copy, reader): (_, Box<dyn Read + Send>) = match source.can_be_read_again() {
            true => (None, Box::new(records.into_rest())),
            false => {
                let copy = Source::copied(name.clone(), records.into_rest())?;
                let reader = copy.open()?;
                (Some(copy), reader)
            }
        };
        let again = || match &copy {
            Some(copy) => copy.open(),
            None => plain(source.open()?, &name, options).map(|plain| plain.reader),
        };
        let columns = match json::columns_of_lines(again()?, threads(options)) {
            Some(columns) => columns,
            None => json::columns(again()?)
                .map_err(|cause| TableError::io(&name, "cannot be read", cause))?,
        };
        let names = columns.columns.clone();
        if names.is_empty() {
            return Err(TableError::no_table(
                &name,
                "holds no object with a field.",
                "A table is an object for each row.",
            ));
        }
        let maker = Box::new(JsonText::new(reader, columns));
        Ok(Self::of_rows(Rows::Made(Some(maker)), name, names, notices))
    }

    /// A table of rows that were no text and have become comma-separated text, a line each.
    fn of_text(
        text: impl ChunkSource + Send + 'static,
        name: String,
        columns: Vec<(String, Kind)>,
        notices: Vec<String>,
    ) -> Table {
        Self::of_rows(Rows::of_text(text), name, columns, notices)
    }

    /// A table of rows that were no text.
    fn of_rows(
        rows: Rows,
        name: String,
        columns: Vec<(String, Kind)>,
        notices: Vec<String>,
    ) -> Table {
        let (mut raw, mut ends) = (Vec::new(), Vec::new());
        for (n, (column, _)) in columns.iter().enumerate() {
            if n > 0 {
                raw.push(b',');
            }
            write_cell(column, b',', &mut raw);
            ends.push(raw.len() as u32);
        }
        let (columns, kinds) = columns.into_iter().unzip();
        Table {
            records: rows,
            name,
            columns,
            separator: b',',
            prelude: b"",
            header: Some(Header { raw, line_end: b"\n".to_vec(), ends }),
            notices,
            other_sheets: Vec::new(),
            kinds,
            asked_types: Vec::new(),
            rows_are_lines: true,
            as_it_lies: false,
            encoding: UTF_8,
            batches: None,
            places: None,
            only_cells: false,
            threads: 1,
            has_reading_thread: false,
            likely_separator: None,
        }
    }

    /// What is asked of a database.
    fn open_database(
        source: &Source,
        name: String,
        options: &ReadOptions,
    ) -> Result<Table, TableError> {
        names_itself(&name, "is a database", options)?;
        let (queried, columns) = databases::open(source, options)?;
        let rows = match source {
            Source::Server(_) => Rows::of_text(queried),
            _ => Rows::Made(Some(Box::new(queried))),
        };
        let mut table = Self::of_rows(rows, name, columns, Vec::new());
        table.has_reading_thread = true;
        table.say_odd_names();
        Ok(table)
    }

    /// Several tables of one header.
    fn open_many(
        files: &[PathBuf],
        name: String,
        options: &ReadOptions,
    ) -> Result<Table, TableError> {
        if files.is_empty() {
            return Err(TableError::no_table(
                &name,
                "stands for no file.",
                "Put a pattern in quotes: 'lots-*.csv', or name a folder with tables.",
            ));
        }
        let (text, columns) = union::open(files, options)?;
        let notice = if files.len() == 1 {
            Vec::new()
        } else {
            vec![format!("{name} stands for {} files.", files.len())]
        };
        let places = text.places();
        let mut table =
            Table { places: Some(places), ..Self::of_text(text, name, columns, notice) };
        if options.no_header {
            table.header = None;
        }
        Ok(table)
    }

    /// A table of typed columns.
    fn of_columns(text: ArrowText, name: String, notices: Vec<String>) -> Table {
        let (columns, batches) = (text.columns(), text.batches());
        let mut table = Self::of_rows(Rows::Columns(Some(Box::new(text))), name, columns, notices);
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
        names_itself(
            &name,
            if is_parquet { "is a Parquet file" } else { "is an Arrow file" },
            options,
        )?;
        let file = whole_file(source, records, &name)?;
        let text = columnar::open(file, &name, is_parquet, options.unpack_limit)?;
        Ok(Self::of_columns(text, name, notices))
    }

    /// A workbook, or the one file in an archive; its content tells, whatever it is called.
    fn open_archive(
        source: &Source,
        records: Records<Box<dyn Read + Send>>,
        name: String,
        options: &ReadOptions,
        archives: usize,
    ) -> Result<Table, TableError> {
        let file = whole_file(source, records, &name)?;
        let limit = options.unpack_limit.unwrap_or(UNPACK_LIMIT);
        match archive::archive(&file) {
            Archive::Book => {
                ending_is_true(source, true)?;
                Self::open_workbook(file, name, options)
            }
            Archive::Files(_) if says_book(source) => Err(TableError::no_table(
                &name,
                "is a zip archive and no workbook.",
                "If it holds a table, call it so: FILE.zip.",
            )),
            // An archive may hold itself.
            Archive::Files(_) if archives == MOST_ARCHIVES => {
                let problem = format!("is an archive within {archives} others.");
                Err(TableError::no_table(
                    &name,
                    problem,
                    "Unpack it, and give the file that is meant.",
                ))
            }
            Archive::Files(files) => match files.as_slice() {
                [] => Err(TableError::no_table(
                    &name,
                    "is an archive with no file in it.",
                    "An archive of one file is read as that file.",
                )),
                [only] => {
                    let path = archive::unpacked(&file, only, &name, limit)?;
                    Self::open_within(
                        &Source::Copy { name, path: Arc::new(path) },
                        options,
                        archives + 1,
                    )
                }
                [first, ..] => {
                    let problem =
                        format!("is an archive of {} files: {}.", files.len(), listed(&files));
                    let remedy = match source {
                        Source::File(_) => format!(
                            "Take one by its name after that of the archive: {name}/{first}."
                        ),
                        _ => "Unpack it, and give the file that is meant.".to_owned(),
                    };
                    Err(TableError::no_table(&name, problem, remedy))
                }
            },
        }
    }

    fn open_workbook(file: File, name: String, options: &ReadOptions) -> Result<Table, TableError> {
        let sheet_options = SheetOptions {
            names: options.sheets.clone(),
            column: options.sheet_column.clone(),
            header_row: options.header_row,
            no_header: options.no_header,
            unpack_limit: options.unpack_limit,
        };
        let opened = workbook::open(file, &name, &sheet_options)?;
        let (raw, ends) = opened.sheet.header.clone();
        let header = (!options.no_header).then(|| Header { raw, line_end: b"\n".to_vec(), ends });
        let mut table = Table {
            records: Rows::Sheet(Box::new(opened.sheet)),
            name,
            columns: opened.columns,
            separator: b',',
            prelude: b"",
            header,
            notices: opened.notices,
            other_sheets: opened.others,
            kinds: Vec::new(),
            asked_types: Vec::new(),
            rows_are_lines: false,
            as_it_lies: false,
            encoding: UTF_8,
            batches: None,
            places: opened.places.map(Arc::new),
            only_cells: false,
            threads: 1,
            has_reading_thread: false,
            likely_separator: None,
        };
        if !options.no_header {
            table.say_odd_names();
        }
        Ok(table)
    }
}

/// How many threads may work side by side on a table.
fn threads(options: &ReadOptions) -> usize {
    options.threads.unwrap_or_else(usual_threads).max(1)
}
