//! Rows as a workbook: typed cells, findings as notes on them and in a sheet of their own.

use std::collections::BTreeMap;
use std::path::Path;

use keen_notch_core::{About, Plan};
use rust_xlsxwriter::{Format, Note, Workbook, XlsxError};

use super::sink::RowSink;
use crate::cells::Kind;
use crate::error::TableError;
use crate::formats::csv::Typed;
use crate::formats::workbook::write::{
    LONGEST_TEXT, Look, MOST_COLUMNS, MOST_DIGITS, MOST_ROWS, SheetOut, Value, digits_of_number,
    fitting, in_book, new_book, too_many_rows, write_cells,
};
use crate::job::finding_lines::{FindingLine, finding_columns};
use crate::job::row::{OutColumn, Row};
use crate::output::{Finished, NewFile};
use crate::table::Table;

/// How many notes are put on cells; every finding stands in the second sheet.
const MOST_NOTES: usize = 20_000;

/// Rows as a workbook: a sheet of rows, and one of findings when there are any.
struct BookRows {
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

/// Rows as a workbook at a path.
///
/// # Errors
/// It cannot be written.
pub fn book_rows(path: &Path) -> Result<Box<dyn RowSink>, TableError> {
    Ok(Box::new(BookRows::create(path)?))
}

impl BookRows {
    fn create(path: &Path) -> Result<Self, TableError> {
        Ok(Self {
            book: new_book(),
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
    fn write_cell(
        &mut self,
        n: usize,
        text: &str,
        look: Look,
        tinted: bool,
    ) -> Result<(), XlsxError> {
        self.rows.widen(n, text);
        if text.is_empty() && !tinted {
            return Ok(());
        }
        let value = Value::of(text, look);
        let is_number = matches!(look, Look::Number | Look::Integer | Look::Decimal(_));
        self.long_numbers[n] +=
            u64::from(is_number && value.is_none() && digits_of_number(text).is_some());
        let look = match value {
            None => Look::Text,
            Some(Value::Date(_)) if text.contains('T') => Look::DateTime,
            Some(Value::Date(_)) if !text.contains('-') => Look::Time,
            Some(_) => look,
        };
        let (row, column) = (self.rows.row, u16::try_from(n).unwrap_or(u16::MAX));
        let sheet = self.book.worksheet_from_index(0)?;
        if value.is_none() && !tinted {
            sheet.write_string(row, column, fitting(text))?;
            return Ok(());
        }
        let format = self.formats.entry((look, tinted)).or_insert_with(|| look.format(tinted));
        match value {
            Some(Value::Number(number)) => {
                sheet.write_number_with_format(row, column, number, format)?
            }
            Some(Value::Date(date)) => {
                sheet.write_datetime_with_format(row, column, &date, format)?
            }
            None if text.is_empty() => sheet.write_blank(row, column, format)?,
            None => sheet.write_string_with_format(row, column, fitting(text), format)?,
        };
        Ok(())
    }

    fn write_row(
        &mut self,
        row: &Row<'_>,
        plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), XlsxError> {
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
                        self.book.worksheet_from_index(0)?.write_boolean(
                            row,
                            column,
                            text.eq_ignore_ascii_case("true"),
                        )?;
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
                self.book.worksheet_from_index(0)?.insert_note(
                    self.rows.row,
                    u16::try_from(n).unwrap_or(u16::MAX),
                    &note,
                )?;
            }
            self.notes += 1;
        }
        self.rows.row += 1;
        Ok(())
    }

    fn list_findings(&mut self, row: &Row<'_>, plan: &Plan) -> Result<(), XlsxError> {
        for finding in row.findings {
            if self.findings.is_none() {
                self.findings = Some(SheetOut::add(
                    &mut self.book,
                    1,
                    "Findings",
                    finding_columns(row.is_of_several_files()),
                )?);
            }
            if let Some(sheet) = self.findings.as_mut().filter(|sheet| sheet.row < MOST_ROWS) {
                // The first two are the numbers of the row and the line.
                write_cells(
                    &mut self.book,
                    sheet,
                    FindingLine::new(plan, row, finding).cells(),
                    &[Look::Integer; 2],
                )?;
            }
        }
        Ok(())
    }
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
    fn begin(
        &mut self,
        table: &Table,
        plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError> {
        if columns.len() > MOST_COLUMNS {
            let problem =
                format!("cannot be written: a sheet has room for {MOST_COLUMNS} columns.");
            return Err(TableError::no_table(
                &self.name,
                problem,
                "Write CSV instead, or fewer columns: --columns.",
            ));
        }
        let name = |column: &OutColumn| match column {
            OutColumn::Source(n) => table.columns()[*n].clone(),
            OutColumn::New(n) => plan.outputs()[*n].name.clone(),
        };
        self.headers = columns.iter().map(name).collect();
        self.long_numbers = vec![0; columns.len()];
        (self.kinds, self.are_asked) = (0..table.columns().len())
            .map(|place| table.cell_column(place))
            .map(|column| (column.kind, column.is_asked))
            .unzip();
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
        in_book(&name, || {
            self.write_row(row, plan, columns).and_then(|()| self.list_findings(row, plan))
        })
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
        for (name, long) in
            self.headers.iter().zip(&self.long_numbers).filter(|(_, long)| **long > 0)
        {
            said.push(format!(
                "Numbers of {name} with more than {MOST_DIGITS} digits were written as text, so \
                that none is lost: {long}."
            ));
        }
        if self.notes > MOST_NOTES {
            said.push(format!(
                "{MOST_NOTES} of {} cells with a finding have a note; the sheet Findings lists \
                all.",
                self.notes
            ));
        }
        if self.findings.as_ref().is_some_and(|sheet| sheet.row >= MOST_ROWS) {
            said.push(
                "The sheet Findings is full; list all findings in a CSV file: --findings FILE.csv."
                    .to_owned(),
            );
        }
        if !self.not_copied.is_empty() {
            said.push(format!(
                "Not copied: the sheets {} of the table's workbook.",
                self.not_copied.join(", ")
            ));
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
