//! Tables written as XLSX workbooks.

use std::path::Path;

use rust_xlsxwriter::{Color, ExcelDateTime, Format, IgnoreError, Workbook, Worksheet, XlsxError};

use crate::cells::{CellColumn, CellWriter, Kind, OutCell, TypedRows};
use crate::error::TableError;
use crate::output::{Finished, NewFile};
use crate::parts::guarded;

/// How many characters the text of a cell may have at most, counted as UTF-16 does.
pub(crate) const LONGEST_TEXT: usize = 32_767;
/// How many rows a sheet may have, the header included.
pub(crate) const MOST_ROWS: u32 = 1_048_576;
/// How many columns a sheet may have.
pub(crate) const MOST_COLUMNS: usize = 16_384;
/// How many significant digits a number of a cell keeps.
pub(crate) const MOST_DIGITS: usize = 15;
/// The widest column, in characters.
const WIDEST: usize = 60;
/// How hard the file is compressed, from 1 to 9. The usual 6 takes a third more time for the whole
/// of a table, to make it a sixth smaller.
const COMPRESSION: u8 = 2;

/// A workbook with nothing in it.
pub(crate) fn new_book() -> Workbook {
    let mut book = Workbook::new();
    book.set_zip_compression_level(COMPRESSION);
    book
}

/// Works on a book; the library panics where the folder for temporary files is full.
pub(crate) fn in_book<T>(
    name: &str,
    work: impl FnOnce() -> Result<T, XlsxError>,
) -> Result<T, TableError> {
    let failed =
        |cause: &str| TableError::not_written(name, cause, "Write CSV instead: -o FILE.csv.");
    guarded(work).map_err(|said| failed(&said))?.map_err(|cause| failed(&cause.to_string()))
}

pub(crate) fn too_many_rows(name: &str) -> TableError {
    let problem =
        format!("cannot be written: a sheet has room for {MOST_ROWS} rows, its header included.");
    TableError::no_table(
        name,
        problem,
        "Write CSV instead: -o FILE.csv, or fewer rows: --where. Nothing was written.",
    )
}

/// One sheet, written row by row.
pub(crate) struct SheetOut {
    pub index: usize,
    pub row: u32,
    /// The widest text of each column so far, in characters.
    pub widths: Vec<usize>,
}

impl SheetOut {
    pub(crate) fn add(
        book: &mut Workbook,
        index: usize,
        name: &str,
        header: &[&str],
    ) -> Result<Self, XlsxError> {
        let bold = Format::new().set_bold();
        let sheet = book.add_worksheet_with_constant_memory()?.set_name(name)?;
        for (column, name) in (0..).zip(header) {
            sheet.write_string_with_format(0, column, *name, &bold)?;
        }
        sheet.set_freeze_panes(1, 0)?;
        Ok(Self { index, row: 1, widths: header.iter().map(|name| name.chars().count()).collect() })
    }

    pub(crate) fn sheet<'b>(&self, book: &'b mut Workbook) -> Result<&'b mut Worksheet, XlsxError> {
        book.worksheet_from_index(self.index)
    }

    #[inline]
    pub(crate) fn widen(&mut self, column: usize, text: &str) {
        // A text has no more characters than bytes: the longest one seen spares most a count.
        if text.len() <= self.widths[column] || self.widths[column] >= WIDEST {
            return;
        }
        let width = text.lines().map(|line| line.chars().count()).max().unwrap_or(0);
        self.widths[column] = self.widths[column].max(width);
    }

    pub(crate) fn finish(&self, book: &mut Workbook) -> Result<(), XlsxError> {
        let sheet = self.sheet(book)?;
        let last = u16::try_from(self.widths.len().saturating_sub(1)).unwrap_or(u16::MAX);
        for (column, width) in (0..).zip(&self.widths) {
            // Room for the arrow of the filter.
            sheet.set_column_width(column, ((*width).min(WIDEST) + 3) as f64)?;
        }
        if !self.widths.is_empty() {
            sheet.autofilter(0, 0, self.row.saturating_sub(1), last)?;
            sheet.ignore_error_range(
                0,
                0,
                self.row.saturating_sub(1),
                last,
                IgnoreError::NumberStoredAsText,
            )?;
        }
        Ok(())
    }
}

/// As much of a text as a cell holds.
pub(crate) fn fitting(text: &str) -> &str {
    // A text has no more units than bytes.
    if text.len() <= LONGEST_TEXT {
        return text;
    }
    let mut units = 0;
    let end = text.char_indices().find(|(_, c)| {
        units += c.len_utf16();
        units > LONGEST_TEXT
    });
    end.map_or(text, |(at, _)| &text[..at])
}

/// A workbook of one sheet, every cell a text.
struct XlsxCellWriter {
    book: Workbook,
    sheet: SheetOut,
    what: String,
    /// How the cells of each column are written.
    looks: Vec<Look>,
    file: NewFile,
    name: String,
}

/// A workbook with a sheet of this name.
///
/// # Errors
/// It cannot be begun.
pub(crate) fn writer(path: &Path, what: &str) -> Result<Box<dyn CellWriter>, TableError> {
    Ok(Box::new(XlsxCellWriter {
        book: new_book(),
        sheet: SheetOut { index: 0, row: 0, widths: Vec::new() },
        what: what.to_owned(),
        looks: Vec::new(),
        file: NewFile::create(path)?,
        name: path.display().to_string(),
    }))
}

impl CellWriter for XlsxCellWriter {
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        _batches: Option<TypedRows>,
    ) -> Result<(), TableError> {
        let header: Vec<&str> = columns.iter().map(|column| column.name.as_str()).collect();
        self.looks = columns.iter().map(|column| Look::of(column.kind)).collect();
        self.sheet = in_book(&self.name, || SheetOut::add(&mut self.book, 0, &self.what, &header))?;
        Ok(())
    }

    fn row<'c>(
        &mut self,
        _number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError> {
        if self.sheet.row >= MOST_ROWS {
            return Err(too_many_rows(&self.name));
        }
        let cells = cells.map(Option::unwrap_or_default);
        in_book(&self.name, || write_cells(&mut self.book, &mut self.sheet, cells, &self.looks))
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        let bytes = in_book(&self.name, || {
            self.sheet.finish(&mut self.book).and_then(|()| self.book.save_to_buffer())
        })?;
        self.file.write(&bytes)?;
        Finished::file(self.file)
    }
}

/// Writes a row of cells, each as its column's look says; text where there is none.
pub(crate) fn write_cells<'c>(
    book: &mut Workbook,
    out: &mut SheetOut,
    cells: impl Iterator<Item = std::borrow::Cow<'c, str>>,
    looks: &[Look],
) -> Result<(), XlsxError> {
    let row = out.row;
    for (n, text) in cells.enumerate() {
        if out.widths.len() == n {
            out.widths.push(0);
        }
        out.widen(n, &text);
        let (column, look) =
            (u16::try_from(n).unwrap_or(u16::MAX), looks.get(n).copied().unwrap_or(Look::Text));
        match Value::of(&text, look) {
            Some(Value::Number(number)) => out.sheet(book)?.write_number_with_format(
                row,
                column,
                number,
                &look.format(false),
            )?,
            Some(Value::Date(date)) => out.sheet(book)?.write_datetime_with_format(
                row,
                column,
                &date,
                &look.format(false),
            )?,
            None if text.is_empty() => continue,
            None => out.sheet(book)?.write_string(row, column, fitting(&text))?,
        };
    }
    out.row += 1;
    Ok(())
}

/// What a cell is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Look {
    Text,
    Number,
    Integer,
    Decimal(usize),
    Date,
    DateTime,
    Time,
}

impl Look {
    pub(crate) fn of(kind: Kind) -> Self {
        match kind {
            Kind::Text | Kind::Truth => Look::Text,
            Kind::Number | Kind::Mixed => Look::Number,
            Kind::Integer => Look::Integer,
            Kind::Decimal(places) => Look::Decimal(places),
            Kind::Date => Look::Date,
            Kind::DateTime => Look::DateTime,
        }
    }

    pub(crate) fn format(self, tinted: bool) -> Format {
        let format = match self {
            Look::Text | Look::Number => Format::new(),
            Look::Integer => Format::new().set_num_format("0"),
            Look::Decimal(places) => Format::new()
                .set_num_format(format!("0.{}", "0".repeat(places)).trim_end_matches('.')),
            Look::Date => Format::new().set_num_format("yyyy-mm-dd"),
            Look::DateTime => Format::new().set_num_format("yyyy-mm-dd hh:mm:ss"),
            Look::Time => Format::new().set_num_format("hh:mm:ss"),
        };
        if tinted { format.set_background_color(Color::RGB(0x00FF_E9B3)) } else { format }
    }
}

/// A cell that is no text.
pub(crate) enum Value {
    Number(f64),
    Date(ExcelDateTime),
}

impl Value {
    /// A text as what its look says; `None` where it is no such thing, or would lose digits.
    pub(crate) fn of(text: &str, look: Look) -> Option<Self> {
        match look {
            Look::Text => None,
            Look::Number | Look::Integer | Look::Decimal(_) => {
                let fits = digits_of_number(text).is_some_and(|digits| digits <= MOST_DIGITS);
                if fits { text.parse().ok().map(Value::Number) } else { None }
            }
            // A workbook keeps times to the millisecond.
            Look::Date | Look::DateTime | Look::Time
                if text.split_once('.').is_some_and(|(_, behind)| behind.len() > 3) =>
            {
                None
            }
            Look::Date | Look::DateTime | Look::Time => {
                ExcelDateTime::parse_from_str(text).ok().map(Value::Date)
            }
        }
    }
}

/// How many digits of a plain number count; `None` of what is none.
pub(crate) fn digits_of_number(text: &str) -> Option<usize> {
    let is_plain = !text.is_empty()
        && text.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'-' | b'.'));
    let ends = if text.contains('.') { text } else { text.trim_end_matches('0') };
    is_plain.then(|| {
        ends.trim_start_matches(['-', '0', '.']).bytes().filter(u8::is_ascii_digit).count()
    })
}
