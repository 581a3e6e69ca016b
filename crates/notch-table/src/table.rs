//! A table opened for reading: its header, how its columns are divided, its rows.

use std::io::Read;
use std::ops::Range;

use crate::csv::{Record, Records, cell_text, find_separator};
use crate::error::TableError;
use crate::source::Source;

/// How a table is to be read.
#[derive(Debug, Clone, Default)]
pub struct ReadOptions {
    /// The byte between columns; found by looking when unsaid.
    pub separator: Option<u8>,
    /// The first row is data; the columns are called `1`, `2`, ….
    pub no_header: bool,
}

/// A table whose header has been read.
pub struct Table {
    records: Records<Box<dyn Read + Send>>,
    name: String,
    columns: Vec<String>,
    separator: u8,
    /// The bytes before the first record: a byte order mark or nothing.
    prelude: &'static [u8],
    /// The header as it stands; `None` without one.
    header: Option<Header>,
    notices: Vec<String>,
}

/// The header's record, kept while the rows go by.
pub(crate) struct Header {
    pub raw: Vec<u8>,
    pub line_end: Vec<u8>,
    pub fields: Vec<Range<usize>>,
}

const BYTE_ORDER_MARK: &[u8] = b"\xEF\xBB\xBF";

/// Beginnings of files that are no text, and what they are.
const NO_TEXT: [(&[u8], &str, &str); 6] = [
    (b"\xFF\xFE", "is UTF-16 text, not UTF-8.", "Save it as CSV UTF-8."),
    (b"\xFE\xFF", "is UTF-16 text, not UTF-8.", "Save it as CSV UTF-8."),
    (b"PK\x03\x04", "is a zip archive or a workbook, not a text table.", "Save the sheet as CSV UTF-8."),
    (b"\x1F\x8B", "is compressed (gzip).", "Unpack it and hand it over: gunzip -c FILE | notch carve - …"),
    (b"\x28\xB5\x2F\xFD", "is compressed (zstd).", "Unpack it and hand it over: zstd -dc FILE | notch carve - …"),
    (b"\xD0\xCF\x11\xE0", "is an old workbook, not a text table.", "Save the sheet as CSV UTF-8."),
];

impl Table {
    /// Opens a table and reads its header.
    ///
    /// # Errors
    /// The source cannot be read, is empty, is no text, or its header cannot be read.
    pub fn open(source: &Source, options: &ReadOptions) -> Result<Table, TableError> {
        let name = source.name();
        let unreadable = |cause| TableError::io(&name, "cannot be read", cause);
        let mut records = Records::new(source.open()?);
        let beginning = records.beginning().map_err(unreadable)?;
        if let Some((_, problem, remedy)) = NO_TEXT.iter().find(|(magic, ..)| beginning.starts_with(magic)) {
            return Err(TableError::no_table(&name, *problem, remedy));
        }
        let prelude = if beginning.starts_with(BYTE_ORDER_MARK) { BYTE_ORDER_MARK } else { b"" };
        let beginning = &beginning[prelude.len()..];
        if beginning.iter().all(|byte| byte.is_ascii_whitespace() && *byte != b'\t') {
            return Err(TableError::no_table(&name, "is empty.", "A table has a header and rows below it."));
        }
        let separator = options.separator.unwrap_or_else(|| find_separator(beginning));
        records.skip(prelude.len());
        records.separate_by(separator);
        let mut table = Table { records, name, columns: Vec::new(), separator, prelude, header: None, notices: Vec::new() };
        table.read_header(options.no_header)?;
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
        self.columns = record.fields.iter().map(|field| cell_text(&text[field.clone()]).trim().to_owned()).collect();
        let header = Header { raw: record.raw.to_vec(), line_end: record.line_end.to_vec(), fields: record.fields.to_vec() };
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
            row.fields.len() == self.columns.len() + 1 && row.fields.last().is_some_and(|last| last.is_empty()) && !row.raw.is_empty()
        });
        if ends_so && let Some(header) = &mut self.header {
            header.raw.push(self.separator);
            header.fields.push(header.raw.len()..header.raw.len());
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

    /// What is odd about the table and worth saying, one sentence each.
    pub fn notices(&self) -> &[String] {
        &self.notices
    }

    pub(crate) fn prelude(&self) -> &'static [u8] {
        self.prelude
    }

    pub(crate) fn header(&self) -> Option<&Header> {
        self.header.as_ref()
    }

    /// The next record; lines with nothing in them come as records without bytes.
    pub(crate) fn next_record(&mut self) -> Result<Option<Record<'_>>, TableError> {
        let name = &self.name;
        self.records.next().map_err(|cause| TableError::io(name, "cannot be read", cause))
    }
}

impl Record<'_> {
    /// The record as text.
    ///
    /// # Errors
    /// A sentence on the bytes that are none.
    pub(crate) fn text(&self) -> Result<&str, String> {
        std::str::from_utf8(self.raw).map_err(|error| {
            let at = error.valid_up_to();
            format!("the bytes are not UTF-8 text at byte {} of the row (0x{:02X})", at + 1, self.raw.get(at).copied().unwrap_or_default())
        })
    }

    /// The record as text with as many fields as the table has columns.
    ///
    /// # Errors
    /// Why it cannot be read, as a clause.
    pub(crate) fn readable(&self, columns: usize) -> Result<&str, String> {
        if self.unclosed {
            return Err("a quote is opened in this row and not closed up to the end of the file".to_owned());
        }
        let fields = self.fields.len();
        if fields != columns {
            let few = if fields < columns { "too few" } else { "too many" };
            let plural = if fields == 1 { "" } else { "s" };
            return Err(format!("{few} fields: the row has {fields} field{plural}, the header {columns}"));
        }
        self.text()
    }
}
