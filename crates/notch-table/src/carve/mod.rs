//! Compiled cuts over a table: each record in, one record out, findings and rejects beside it.

mod findings;
mod rows_out;

use std::borrow::Cow;
use std::path::PathBuf;

use notch_core::{Cell, Plan, RowResult, Scratch, Tally};

use self::findings::FindingsFile;
pub use self::rows_out::{OutColumn, RowsOut};
use crate::csv::{Record, cell_text};
use crate::error::TableError;
use crate::output::NewFile;
use crate::source::Source;
use crate::table::{ReadOptions, Table};

/// Where the rows go.
pub trait RowSink {
    /// Takes the header and the layout of the table, before any row.
    ///
    /// # Errors
    /// It cannot be written.
    fn begin(&mut self, table: &Table, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError>;

    /// Takes one row.
    ///
    /// # Errors
    /// It cannot be written.
    fn row(&mut self, row: &Row<'_>, columns: &[OutColumn]) -> Result<(), TableError>;

    /// Whether rows have been handed on that cannot be taken back.
    fn has_let_go(&self) -> bool {
        false
    }

    /// Takes notice that this was all; what was written becomes whole now.
    ///
    /// # Errors
    /// It cannot be written.
    fn finish(self: Box<Self>) -> Result<(), TableError>;
}

/// A row on its way out.
pub struct Row<'r> {
    record: Record<'r>,
    text: &'r str,
    cells: &'r [Cell<'r>],
}

impl<'r> Row<'r> {
    /// The text of a column of the table, by its place from 0.
    pub fn source_cell(&self, index: usize) -> Cow<'r, str> {
        cell_text(self.raw_field(index))
    }

    /// A field as it stands in the file.
    pub fn raw_field(&self, index: usize) -> &'r str {
        self.record.fields.get(index).map_or("", |field| &self.text[field.clone()])
    }

    /// The text of a new column, by its place among the plan's outputs.
    pub fn new_cell(&self, index: usize) -> &'r str {
        self.cells.get(index).map_or("", |cell| cell.text)
    }
}

/// What is to be done with a table.
pub struct Carving<'c> {
    /// The cuts.
    pub plan: &'c Plan,
    /// What is written, in order.
    pub columns: Vec<OutColumn>,
    /// The file the findings are listed in.
    pub findings: Option<PathBuf>,
    /// The file that takes the rows with a finding and the rows that cannot be read.
    pub rejects: Option<PathBuf>,
}

/// What a run has done.
#[derive(Debug)]
pub struct Summary {
    /// Rows read, those that could not be read included.
    pub read: u64,
    /// Rows written.
    pub written: u64,
    /// Rows put into the rejects file.
    pub rejected: u64,
    /// Rows that could not be read.
    pub unreadable: u64,
    /// Lines with nothing in them, passed over.
    pub empty_lines: u64,
    /// Counts of the cuts.
    pub tally: Tally,
}

/// Makes sure that every row of a table can be read, without keeping any.
///
/// # Errors
/// The first row that cannot be read, or the table cannot be opened.
pub fn check_readable(source: &Source, options: &ReadOptions) -> Result<(), TableError> {
    let mut table = Table::open(source, options)?;
    let (name, width) = (table.name().to_owned(), table.columns().len());
    while let Some(record) = table.next_record()? {
        if record.raw.is_empty() && width > 1 {
            continue;
        }
        if let Err(reason) = record.readable(width) {
            return Err(TableError::Row { name, line: record.line, reason, rows_gone: false });
        }
    }
    Ok(())
}

/// Runs the cuts over all rows of the table.
///
/// # Errors
/// A row that cannot be read when there is no rejects file, or an output that cannot be written; files are then left as they were.
pub fn carve(mut table: Table, carving: &Carving<'_>, mut sink: Box<dyn RowSink + '_>) -> Result<Summary, TableError> {
    let plan = carving.plan;
    let mut findings = carving.findings.as_deref().map(|path| FindingsFile::create(path, plan)).transpose()?;
    let mut rejects = carving.rejects.as_deref().map(|path| start_rejects(path, &table)).transpose()?;
    sink.begin(&table, plan, &carving.columns)?;

    let (name, width) = (table.name().to_owned(), table.columns().len());
    let mut summary = Summary { read: 0, written: 0, rejected: 0, unreadable: 0, empty_lines: 0, tally: Tally::new(plan) };
    let mut scratch = Scratch::default();
    let mut unquoted = vec![None; plan.sources().len()];
    while let Some(record) = table.next_record()? {
        if record.raw.is_empty() && width > 1 {
            summary.empty_lines += 1;
            continue;
        }
        summary.read += 1;
        let text = match (record.readable(width), &mut rejects) {
            (Ok(text), _) => text,
            (Err(reason), None) => {
                return Err(TableError::Row { name, line: record.line, reason, rows_gone: sink.has_let_go() });
            }
            (Err(reason), Some(rejects)) => {
                summary.unreadable += 1;
                summary.rejected += 1;
                rejects.write(record.raw)?;
                rejects.write(record.line_end)?;
                if let Some(findings) = &mut findings {
                    findings.unreadable(summary.read, record.line, &reason)?;
                }
                summary.tally.unreadable(&reason, record.line);
                continue;
            }
        };
        let result = evaluate(plan, &record, text, &mut unquoted, &mut scratch);
        let rejected = rejects.as_mut().filter(|_| result.has_finding());
        summary.tally.add(&result, record.line);
        let row = Row { record, text, cells: result.cells };
        if let Some(findings) = &mut findings {
            findings.row(summary.read, &row, result.findings)?;
        }
        if let Some(rejects) = rejected {
            summary.rejected += 1;
            rejects.write(record.raw)?;
            rejects.write(record.line_end)?;
        } else {
            summary.written += 1;
            sink.row(&row, &carving.columns)?;
        }
    }
    sink.finish()?;
    rejects.map(NewFile::finish).transpose()?;
    findings.map(FindingsFile::finish).transpose()?;
    Ok(summary)
}

/// Evaluates the cuts for one record. Fields in quotes with quotes inside are written out into `unquoted`.
fn evaluate<'a>(
    plan: &Plan,
    record: &Record<'a>,
    text: &'a str,
    unquoted: &'a mut [Option<String>],
    scratch: &'a mut Scratch,
) -> RowResult<'a> {
    let field = |index: usize| cell_text(&text[record.fields[index].clone()]);
    for (source, buffer) in plan.sources().iter().zip(unquoted.iter_mut()) {
        *buffer = match field(source.index) {
            Cow::Borrowed(_) => None,
            Cow::Owned(text) => Some(text),
        };
    }
    let cells = plan.sources().iter().zip(unquoted.iter()).map(|(source, buffer)| match (buffer, field(source.index)) {
        (Some(text), _) => text.as_str(),
        (None, Cow::Borrowed(text)) => text,
        (None, Cow::Owned(_)) => "",
    });
    plan.evaluate(cells, scratch)
}

fn start_rejects(path: &std::path::Path, table: &Table) -> Result<NewFile, TableError> {
    let mut rejects = NewFile::create(path)?;
    rejects.write(table.prelude())?;
    if let Some(header) = table.header() {
        rejects.write(&header.raw)?;
        rejects.write(&header.line_end)?;
    }
    Ok(rejects)
}
