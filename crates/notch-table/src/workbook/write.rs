//! Tables written as XLSX workbooks.

use std::collections::BTreeMap;
use std::path::Path;
use std::sync::Arc;

use notch_core::{About, Plan};
use rust_xlsxwriter::{Color, ExcelDateTime, Format, IgnoreError, Note, Workbook, Worksheet, XlsxError};

use crate::carve::{OutColumn, Row, RowSink, finding_cells, finding_columns};
use crate::cells::{CellColumn, CellsFile, Kind, OutCell};
use crate::columnar::Batches;
use crate::csv::Typed;
use crate::error::TableError;
use crate::output::{Finished, NewFile};
use crate::parts::guarded;
use crate::table::Table;

/// How many characters the text of a cell may have at most, counted as UTF-16 does.
pub const LONGEST_TEXT: usize = 32_767;
/// How many rows a sheet may have, the header included.
const MOST_ROWS: u32 = 1_048_576;
/// How many columns a sheet may have.
const MOST_COLUMNS: usize = 16_384;
/// How many significant digits a number of a cell keeps.
const MOST_DIGITS: usize = 15;
/// How many notes are put on cells; every finding stands in the second sheet.
const MOST_NOTES: usize = 20_000;
/// The widest column, in characters.
const WIDEST: usize = 60;

/// Works on a book; the library panics where the folder for temporary files is full.
fn in_book<T>(name: &str, work: impl FnOnce() -> Result<T, XlsxError>) -> Result<T, TableError> {
    let failed = |cause: &str| TableError::not_written(name, cause, "Write CSV instead: -o FILE.csv.");
    guarded(work).map_err(|said| failed(&said))?.map_err(|cause| failed(&cause.to_string()))
}

fn too_many_rows(name: &str) -> TableError {
    let problem = format!("cannot be written: a sheet has room for {MOST_ROWS} rows, its header included.");
    TableError::no_table(name, problem, "Write CSV instead: -o FILE.csv, or fewer rows: --where. Nothing was written.")
}

/// One sheet, written row by row.
struct SheetOut {
    index: usize,
    row: u32,
    /// The widest text of each column so far, in characters.
    widths: Vec<usize>,
}

impl SheetOut {
    fn add(book: &mut Workbook, index: usize, name: &str, header: &[&str]) -> Result<Self, XlsxError> {
        let bold = Format::new().set_bold();
        let sheet = book.add_worksheet_with_constant_memory()?.set_name(name)?;
        for (column, name) in (0..).zip(header) {
            sheet.write_string_with_format(0, column, *name, &bold)?;
        }
        sheet.set_freeze_panes(1, 0)?;
        Ok(Self { index, row: 1, widths: header.iter().map(|name| name.chars().count()).collect() })
    }

    fn sheet<'b>(&self, book: &'b mut Workbook) -> Result<&'b mut Worksheet, XlsxError> {
        book.worksheet_from_index(self.index)
    }

    fn widen(&mut self, column: usize, text: &str) {
        let width = text.lines().map(|line| line.chars().count()).max().unwrap_or(0);
        self.widths[column] = self.widths[column].max(width);
    }

    fn finish(&self, book: &mut Workbook) -> Result<(), XlsxError> {
        let sheet = self.sheet(book)?;
        let last = u16::try_from(self.widths.len().saturating_sub(1)).unwrap_or(u16::MAX);
        for (column, width) in (0..).zip(&self.widths) {
            // Room for the arrow of the filter.
            sheet.set_column_width(column, ((*width).min(WIDEST) + 3) as f64)?;
        }
        if !self.widths.is_empty() {
            sheet.autofilter(0, 0, self.row.saturating_sub(1), last)?;
            sheet.ignore_error_range(0, 0, self.row.saturating_sub(1), last, IgnoreError::NumberStoredAsText)?;
        }
        Ok(())
    }
}

/// As much of a text as a cell holds.
fn fitting(text: &str) -> &str {
    let mut units = 0;
    let end = text.char_indices().find(|(_, c)| {
        units += c.len_utf16();
        units > LONGEST_TEXT
    });
    end.map_or(text, |(at, _)| &text[..at])
}

/// A workbook of one sheet, every cell a text.
pub(crate) struct CellsBook {
    book: Workbook,
    sheet: SheetOut,
    what: String,
    /// How the cells of each column are written.
    looks: Vec<Look>,
    file: NewFile,
    name: String,
}

impl CellsBook {
    /// A workbook with a sheet of this name.
    pub(crate) fn create(path: &Path, what: &str) -> Result<Self, TableError> {
        let sheet = SheetOut { index: 0, row: 0, widths: Vec::new() };
        let (what, looks) = (what.to_owned(), Vec::new());
        Ok(Self { book: Workbook::new(), sheet, what, looks, file: NewFile::create(path)?, name: path.display().to_string() })
    }
}

impl CellsFile for CellsBook {
    fn begin(&mut self, columns: Vec<CellColumn>, _batches: Option<Arc<Batches>>) -> Result<(), TableError> {
        let header: Vec<&str> = columns.iter().map(|column| column.name.as_str()).collect();
        self.looks = columns.iter().map(|column| Look::of(column.kind)).collect();
        self.sheet = in_book(&self.name, || SheetOut::add(&mut self.book, 0, &self.what, &header))?;
        Ok(())
    }

    fn row<'c>(&mut self, _number: u64, cells: &mut dyn Iterator<Item = OutCell<'c>>) -> Result<(), TableError> {
        if self.sheet.row >= MOST_ROWS {
            return Err(too_many_rows(&self.name));
        }
        let cells = cells.map(Option::unwrap_or_default);
        in_book(&self.name, || write_cells(&mut self.book, &mut self.sheet, cells, &self.looks))
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        let bytes = in_book(&self.name, || self.sheet.finish(&mut self.book).and_then(|()| self.book.save_to_buffer()))?;
        self.file.write(&bytes)?;
        Finished::file(self.file)
    }
}

/// Writes a row of cells, each as its column's look says; text where there is none.
fn write_cells<'c>(
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
        let (column, look) = (u16::try_from(n).unwrap_or(u16::MAX), looks.get(n).copied().unwrap_or(Look::Text));
        match Value::of(&text, look) {
            Some(Value::Number(number)) => out.sheet(book)?.write_number_with_format(row, column, number, &look.format(false))?,
            Some(Value::Date(date)) => out.sheet(book)?.write_datetime_with_format(row, column, &date, &look.format(false))?,
            None if text.is_empty() => continue,
            None => out.sheet(book)?.write_string(row, column, fitting(&text))?,
        };
    }
    out.row += 1;
    Ok(())
}

/// What a cell is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Look {
    Text,
    Number,
    Integer,
    Decimal(usize),
    Date,
    DateTime,
    Time,
}

impl Look {
    fn of(kind: Kind) -> Self {
        match kind {
            Kind::Text | Kind::Truth => Look::Text,
            Kind::Number | Kind::Mixed => Look::Number,
            Kind::Integer => Look::Integer,
            Kind::Decimal(places) => Look::Decimal(places),
            Kind::Date => Look::Date,
            Kind::DateTime => Look::DateTime,
        }
    }

    fn format(self, tinted: bool) -> Format {
        let format = match self {
            Look::Text | Look::Number => Format::new(),
            Look::Integer => Format::new().set_num_format("0"),
            Look::Decimal(places) => Format::new().set_num_format(format!("0.{}", "0".repeat(places)).trim_end_matches('.')),
            Look::Date => Format::new().set_num_format("yyyy-mm-dd"),
            Look::DateTime => Format::new().set_num_format("yyyy-mm-dd hh:mm:ss"),
            Look::Time => Format::new().set_num_format("hh:mm:ss"),
        };
        if tinted { format.set_background_color(Color::RGB(0x00FF_E9B3)) } else { format }
    }
}

/// Rows as a workbook: a sheet of rows, and one of findings when there are any.
pub struct BookRows {
    book: Workbook,
    file: NewFile,
    name: String,
    rows: SheetOut,
    findings: Option<SheetOut>,
    formats: BTreeMap<(Look, bool), Format>,
    notes: usize,
    /// For each column written how many numbers have too many digits.
    long_numbers: Vec<u64>,
    headers: Vec<String>,
    /// What the columns of the table hold, and whether that was asked for.
    kinds: Vec<Kind>,
    are_asked: Vec<bool>,
    not_copied: Vec<String>,
}

impl BookRows {
    /// To a file.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn create(path: &Path) -> Result<Self, TableError> {
        Ok(Self {
            book: Workbook::new(),
            file: NewFile::create(path)?,
            name: path.display().to_string(),
            rows: SheetOut { index: 0, row: 0, widths: Vec::new() },
            findings: None,
            formats: BTreeMap::new(),
            notes: 0,
            long_numbers: Vec::new(),
            headers: Vec::new(),
            kinds: Vec::new(),
            are_asked: Vec::new(),
            not_copied: Vec::new(),
        })
    }

    /// Writes a text as what it is; what is not that, or would lose digits, stays text.
    fn write_cell(&mut self, n: usize, text: &str, look: Look, tinted: bool) -> Result<(), XlsxError> {
        self.rows.widen(n, text);
        if text.is_empty() && !tinted {
            return Ok(());
        }
        let value = Value::of(text, look);
        let is_number = matches!(look, Look::Number | Look::Integer | Look::Decimal(_));
        self.long_numbers[n] += u64::from(is_number && value.is_none() && digits_of_number(text).is_some());
        let look = match value {
            None => Look::Text,
            Some(Value::Date(_)) if text.contains('T') => Look::DateTime,
            Some(Value::Date(_)) if !text.contains('-') => Look::Time,
            Some(_) => look,
        };
        let format = self.formats.entry((look, tinted)).or_insert_with(|| look.format(tinted));
        let (row, column) = (self.rows.row, u16::try_from(n).unwrap_or(u16::MAX));
        let sheet = self.book.worksheet_from_index(0)?;
        match value {
            Some(Value::Number(number)) => sheet.write_number_with_format(row, column, number, format)?,
            Some(Value::Date(date)) => sheet.write_datetime_with_format(row, column, &date, format)?,
            None if text.is_empty() => sheet.write_blank(row, column, format)?,
            None if tinted => sheet.write_string_with_format(row, column, fitting(text), format)?,
            None => sheet.write_string(row, column, fitting(text))?,
        };
        Ok(())
    }

    fn write_row(&mut self, row: &Row<'_>, plan: &Plan, columns: &[OutColumn]) -> Result<(), XlsxError> {
        let mut said: BTreeMap<usize, String> = BTreeMap::new();
        for finding in row.findings.iter().filter(|finding| !finding.kind.is_note()) {
            let text = format!("{}: {}", finding.kind.name(), finding.reason);
            for n in marked(finding.about, plan, columns) {
                let note = said.entry(n).or_default();
                note.push_str(if note.is_empty() { "" } else { "\n" });
                note.push_str(&text);
            }
        }
        for (n, column) in columns.iter().enumerate() {
            let tinted = said.contains_key(&n);
            match column {
                OutColumn::Source(source) => {
                    let typed = row.typed(*source).filter(|_| !self.are_asked[*source]);
                    let look = match typed {
                        None => Look::of(self.kinds[*source]),
                        Some(Typed::Number) => Look::Number,
                        Some(Typed::Date) => Look::Date,
                        Some(Typed::Bool) => Look::Text,
                    };
                    let text = row.source_cell(*source);
                    let is_truth = self.kinds[*source] == Kind::Truth && !text.is_empty();
                    if is_truth || typed == Some(Typed::Bool) {
                        let (row, column) = (self.rows.row, u16::try_from(n).unwrap_or(u16::MAX));
                        self.book.worksheet_from_index(0)?.write_boolean(row, column, text.eq_ignore_ascii_case("true"))?;
                        continue;
                    }
                    self.write_cell(n, &text, look, tinted)?;
                }
                OutColumn::New(place) => {
                    let look = Look::of(Kind::asked(plan.outputs()[*place].output_type));
                    self.write_cell(n, row.new_cell(*place), look, tinted)?;
                }
            }
        }
        for (n, text) in said {
            if self.notes < MOST_NOTES {
                let note = Note::new(fitting(&text)).add_author_prefix(false);
                self.book.worksheet_from_index(0)?.insert_note(self.rows.row, u16::try_from(n).unwrap_or(u16::MAX), &note)?;
            }
            self.notes += 1;
        }
        self.rows.row += 1;
        Ok(())
    }

    fn list_findings(&mut self, row: &Row<'_>, plan: &Plan) -> Result<(), XlsxError> {
        for finding in row.findings {
            if self.findings.is_none() {
                self.findings = Some(SheetOut::add(&mut self.book, 1, "Findings", finding_columns(row.is_of_several_files()))?);
            }
            if let Some(sheet) = self.findings.as_mut().filter(|sheet| sheet.row < MOST_ROWS) {
                // The first two are the numbers of the row and the line.
                write_cells(&mut self.book, sheet, finding_cells(plan, row, finding), &[Look::Integer; 2])?;
            }
        }
        Ok(())
    }
}

/// A cell that is no text.
enum Value {
    Number(f64),
    Date(ExcelDateTime),
}

impl Value {
    /// A text as what its look says; `None` where it is no such thing, or would lose digits.
    fn of(text: &str, look: Look) -> Option<Self> {
        match look {
            Look::Text => None,
            Look::Number | Look::Integer | Look::Decimal(_) => {
                let fits = digits_of_number(text).is_some_and(|digits| digits <= MOST_DIGITS);
                if fits { text.parse().ok().map(Value::Number) } else { None }
            }
            // A workbook keeps times to the millisecond.
            Look::Date | Look::DateTime | Look::Time if text.split_once('.').is_some_and(|(_, behind)| behind.len() > 3) => None,
            Look::Date | Look::DateTime | Look::Time => ExcelDateTime::parse_from_str(text).ok().map(Value::Date),
        }
    }
}

/// How many digits of a plain number count; `None` of what is none.
fn digits_of_number(text: &str) -> Option<usize> {
    let is_plain = !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'-' | b'.'));
    let ends = if text.contains('.') { text } else { text.trim_end_matches('0') };
    is_plain.then(|| ends.trim_start_matches(['-', '0', '.']).bytes().filter(u8::is_ascii_digit).count())
}

/// The columns written that show what a finding is about; the first one for a row as a whole.
fn marked(about: About, plan: &Plan, columns: &[OutColumn]) -> Vec<usize> {
    let shows = |column: &OutColumn| match (about, column) {
        (About::Name { cut, name }, OutColumn::New(place)) => {
            (plan.outputs()[*place].cut, plan.outputs()[*place].name_place) == (cut, name)
        }
        (About::Cut(cut), OutColumn::New(place)) => plan.outputs()[*place].cut == cut,
        (About::Column(source), OutColumn::Source(index)) => plan.sources()[source].index == *index,
        _ => false,
    };
    let found: Vec<usize> = (0..columns.len()).filter(|n| shows(&columns[*n])).collect();
    if found.is_empty() && matches!(about, About::Check(_) | About::Row) { vec![0] } else { found }
}

impl RowSink for BookRows {
    fn begin(&mut self, table: &Table, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        if columns.len() > MOST_COLUMNS {
            let problem = format!("cannot be written: a sheet has room for {MOST_COLUMNS} columns.");
            return Err(TableError::no_table(&self.name, problem, "Write CSV instead, or fewer columns: --columns."));
        }
        let name = |column: &OutColumn| match column {
            OutColumn::Source(n) => table.columns()[*n].clone(),
            OutColumn::New(n) => plan.outputs()[*n].name.clone(),
        };
        self.headers = columns.iter().map(name).collect();
        self.long_numbers = vec![0; columns.len()];
        (self.kinds, self.are_asked) =
            (0..table.columns().len()).map(|place| table.cell_column(place)).map(|column| (column.kind, column.is_asked)).unzip();
        self.not_copied = table.other_sheets().to_vec();
        let headers: Vec<&str> = self.headers.iter().map(String::as_str).collect();
        self.rows = in_book(&self.name, || SheetOut::add(&mut self.book, 0, "Rows", &headers))?;
        Ok(())
    }

    fn row(&mut self, row: &Row<'_>, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        if self.rows.row >= MOST_ROWS {
            return Err(too_many_rows(&self.name));
        }
        let name = self.name.clone();
        in_book(&name, || self.write_row(row, plan, columns).and_then(|()| self.list_findings(row, plan)))
    }

    fn rejected(&mut self, row: &Row<'_>, plan: &Plan) -> Result<(), TableError> {
        let name = self.name.clone();
        in_book(&name, || self.list_findings(row, plan))
    }

    fn longest_text(&self) -> Option<usize> {
        Some(LONGEST_TEXT)
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        let mut said = Vec::new();
        for (name, long) in self.headers.iter().zip(&self.long_numbers).filter(|(_, long)| **long > 0) {
            said.push(format!("Numbers of {name} with more than {MOST_DIGITS} digits were written as text, so that none is lost: {long}."));
        }
        if self.notes > MOST_NOTES {
            said.push(format!("{MOST_NOTES} of {} cells with a finding have a note; the sheet Findings lists all.", self.notes));
        }
        if self.findings.as_ref().is_some_and(|sheet| sheet.row >= MOST_ROWS) {
            said.push("The sheet Findings is full; list all findings in a CSV file: --findings FILE.csv.".to_owned());
        }
        if !self.not_copied.is_empty() {
            said.push(format!("Not copied: the sheets {} of the table's workbook.", self.not_copied.join(", ")));
        }
        let sheets = std::iter::once(&self.rows).chain(&self.findings);
        let bytes = in_book(&self.name, || {
            sheets.into_iter().try_for_each(|sheet| sheet.finish(&mut self.book))?;
            self.book.save_to_buffer()
        })?;
        self.file.write(&bytes)?;
        Ok(Finished { said, whole: Some(self.file.whole()?) })
    }
}
