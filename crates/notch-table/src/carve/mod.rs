//! Compiled cuts over a table: each record in, one record out, findings and rejects beside it.

mod cell_block;
mod cells_out;
mod encoding;
mod findings;
mod parallel;
mod rejects;
mod rows;
mod rows_out;
mod text_out;

use std::borrow::Cow;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use notch_core::{About, AllRows, BatchResult, Cell, Fate, Finding, FindingKind, Gathered, Plan, Scratch, Tally};

pub use self::cell_block::CellBlock;
pub(crate) use self::cell_block::TextColumn;
pub use self::cells_out::CellsOut;
pub use self::encoding::{Encoding, WhichCells};
use self::findings::FindingsFile;
pub use self::findings::FindingsOut;
pub(crate) use self::findings::{finding_cells, finding_columns};
use self::parallel::Outputs;
use self::rejects::Rejects;
use self::rows::each_row;
pub use self::rows_out::{OutColumn, RowsOut};
use crate::column_cells::ColumnCells;
use crate::csv::{Record, Typed, cell_text};
use crate::error::TableError;
use crate::options::ReadOptions;
use crate::output::{Finished, Whole};
use crate::places::{Places, Whereabouts};
use crate::side_by_side::usual_threads;
use crate::source::Source;
use crate::table::Table;

/// Where the rows go.
pub trait RowSink: Send {
    /// Takes the header and the layout of the table, before any row.
    ///
    /// # Errors
    /// It cannot be written.
    fn begin(&mut self, table: &Table, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError>;

    /// Takes one row.
    ///
    /// # Errors
    /// It cannot be written.
    fn row(&mut self, row: &Row<'_>, plan: &Plan, columns: &[OutColumn]) -> Result<(), TableError>;

    /// Takes notice of a row that is kept out for a finding.
    ///
    /// # Errors
    /// That cannot be written.
    fn rejected(&mut self, _row: &Row<'_>, _plan: &Plan) -> Result<(), TableError> {
        Ok(())
    }

    /// How rows become text, or cells column by column, when that is all there is to them: rows may then be encoded side by side and handed
    /// on as [`RowSink::text`] or [`RowSink::cells`]. Asked behind [`RowSink::begin`].
    fn encoding(&self) -> Option<Encoding> {
        None
    }

    /// Takes rows that were encoded elsewhere, and how many of their cells were guarded.
    ///
    /// # Errors
    /// They cannot be written.
    fn text(&mut self, _rows: &[u8], _guarded: u64) -> Result<(), TableError> {
        Ok(())
    }

    /// Takes rows of cells that were put together elsewhere.
    ///
    /// # Errors
    /// They cannot be written.
    fn cells(&mut self, _rows: &CellBlock) -> Result<(), TableError> {
        Ok(())
    }

    /// Takes notice of how many threads may work side by side on it, before any row.
    fn on_threads(&mut self, _threads: usize) {}

    /// How long the text of a cell may be, counted as UTF-16 does; `None` for any length.
    fn longest_text(&self) -> Option<usize> {
        None
    }

    /// Whether rows have been handed on that cannot be taken back.
    fn has_let_go(&self) -> bool {
        false
    }

    /// Takes notice that this was all; what was written becomes whole now.
    ///
    /// # Errors
    /// It cannot be written.
    fn finish(self: Box<Self>) -> Result<Finished, TableError>;
}

/// The new cells of a row.
#[derive(Clone, Copy)]
enum NewCells<'r> {
    /// Of one that was evaluated by itself.
    Row(&'r [Cell<'r>]),
    /// Of one among others: its place in the batch.
    Batch(&'r BatchResult<'r>, usize),
}

/// A row on its way out.
pub struct Row<'r> {
    /// Its number from 1, the header not counted.
    number: u64,
    record: Record<'r>,
    /// The text of its record; of a row that was no text, that of all cells.
    text: &'r str,
    /// Where the cells of a row lie that was no text, and which row it is.
    columns: Option<(&'r ColumnCells, usize)>,
    cells: NewCells<'r>,
    /// Its findings and notes.
    pub(crate) findings: &'r [Finding<'r>],
    /// Where it stood, if it comes of several files.
    places: Option<&'r Places>,
}

impl<'r> Row<'r> {
    /// Its number from 1, the header not counted.
    pub fn number(&self) -> u64 {
        self.number
    }

    /// The line it begins in, from 1.
    pub fn line(&self) -> u64 {
        self.record.line
    }

    /// Whether it comes of one of several files.
    pub(crate) fn is_of_several_files(&self) -> bool {
        self.places.is_some()
    }

    /// The text of a column of the table, by its place from 0.
    pub fn source_cell(&self, index: usize) -> Cow<'r, str> {
        match self.columns {
            Some((columns, row)) => self.text[columns.cell(row, index)].into(),
            None => cell_text(self.raw_field(index)),
        }
    }

    /// What a column of the table holds in this row beside text, by its place from 0.
    pub(crate) fn typed(&self, index: usize) -> Option<Typed> {
        self.record.typed.iter().find(|(column, _)| *column as usize == index).map(|(_, typed)| *typed)
    }

    /// A field as it stands in the file.
    pub fn raw_field(&self, index: usize) -> &'r str {
        &self.text[self.record.fields.at(index)]
    }

    /// The text of a new column, by its place among the plan's outputs.
    pub fn new_cell(&self, index: usize) -> &'r str {
        match self.cells {
            NewCells::Row(cells) => cells.get(index).map_or("", |cell| cell.text),
            NewCells::Batch(batch, row) => batch.text(row, index),
        }
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
    /// The file that takes the rows that are rejected and the rows that cannot be read.
    pub rejects: Option<PathBuf>,
    /// Tables of these files may be replaced where they are databases and have them already.
    pub replace_table: bool,
    /// Cells of separated text that a spreadsheet program would run are written so that it shows them, in findings and rejects too.
    pub guard_formulas: bool,
    /// Rows that cannot be read are findings like others, even without a file that takes them.
    pub lists_unreadable: bool,
    /// The texts behind findings are told as well: their shapes, and a few examples.
    pub tells_texts: bool,
    /// What the first pass has gathered, for a plan that needs it.
    pub all_rows: Option<Arc<AllRows>>,
    /// How the work is done.
    pub how: How,
    /// Is told how far the work has come, now and then.
    pub progress: Option<&'c (dyn Fn(Progress) + Sync)>,
    /// Becomes true when the work is to stop.
    pub interrupt: Option<&'c AtomicBool>,
}

/// How the work is done; what comes of it is the same.
#[derive(Debug, Clone, Copy, Default)]
pub struct How {
    /// How many threads work side by side; one for each core when unsaid.
    pub threads: Option<usize>,
    /// How many bytes are worked on at a time.
    pub block: Option<usize>,
}

/// How far the work has come.
#[derive(Debug, Clone, Copy)]
pub struct Progress {
    /// Rows so far.
    pub rows: u64,
    /// Bytes of the input since the last time.
    pub bytes: u64,
}

impl<'c> Carving<'c> {
    /// The cuts over all rows, these columns written, and nothing else asked for.
    pub fn new(plan: &'c Plan, columns: Vec<OutColumn>) -> Self {
        Self {
            plan,
            columns,
            findings: None,
            rejects: None,
            replace_table: false,
            guard_formulas: false,
            lists_unreadable: false,
            tells_texts: false,
            all_rows: None,
            how: How::default(),
            progress: None,
            interrupt: None,
        }
    }

    fn interrupted(&self) -> bool {
        self.interrupt.is_some_and(|interrupt| interrupt.load(Ordering::Relaxed))
    }
}

/// How many bytes are worked on at a time when nothing is said: so many stay in a core's cache.
pub(crate) const BLOCK: usize = 512 * 1024;

/// What a run has done.
#[derive(Debug)]
pub struct Summary {
    /// Rows read, those that could not be read included.
    pub read: u64,
    /// Rows written.
    pub written: u64,
    /// Rows put into the rejects file.
    pub rejected: u64,
    /// Rows that were not asked for.
    pub left_out: u64,
    /// Rows that could not be read.
    pub unreadable: u64,
    /// Lines with nothing in them, passed over.
    pub empty_lines: u64,
    /// Counts of the cuts.
    pub tally: Tally,
    /// What the output says of itself, one sentence each.
    pub said: Vec<String>,
    /// Where the lines that were counted stood.
    pub places: Whereabouts,
}

/// What a first pass over a table is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FirstPass {
    /// To stop at a row that cannot be read; otherwise such rows are passed over.
    pub readable: bool,
    /// To stop at a finding that is to stop the work.
    pub findings: bool,
}

/// Reads a table from beginning to end without writing anything; gathers what the plan must know of all rows.
///
/// # Errors
/// The first row that is to stop the work, or the table cannot be opened.
pub fn look_through(source: &Source, options: &ReadOptions, plan: &Plan, pass: FirstPass) -> Result<Option<Arc<AllRows>>, TableError> {
    let mut gathered = Gathered::default();
    if plan.needs_all_rows() || pass.readable {
        let mut scratch = Scratch::default();
        let table = Table::open(source, options)?;
        let in_file = table.in_file();
        let seen = each_row(table, plan, |row, cells| {
            match cells {
                Ok(cells) if plan.needs_all_rows() => plan.gather(cells.iter(), row.number, &mut scratch, &mut gathered),
                Err(reason) if pass.readable => return Err(row.unreadable(reason, false)),
                _ => {}
            }
            Ok(())
        });
        seen.map_err(in_file)?;
    }
    let all_rows = plan.needs_all_rows().then(|| Arc::new(gathered.finish()));
    if pass.findings {
        let mut scratch = Scratch::with_all_rows(all_rows.clone());
        let table = Table::open(source, options)?;
        let in_file = table.in_file();
        let seen = each_row(table, plan, |row, cells| {
            let Ok(cells) = cells else { return Ok(()) };
            scratch.at_row(row.number);
            let result = plan.evaluate(cells.iter(), &mut scratch);
            match result.fate {
                Fate::Stop(n) => Err(row.stopped(plan, &result.findings[n], false)),
                _ => Ok(()),
            }
        });
        seen.map_err(in_file)?;
    }
    Ok(all_rows)
}

/// Runs the cuts over all rows of the table.
///
/// # Errors
/// A row that cannot be read when there is no rejects file, or an output that cannot be written; files are then left as they were.
pub fn carve(table: Table, carving: &Carving<'_>, sink: Box<dyn RowSink + '_>) -> Result<Summary, TableError> {
    let in_file = table.in_file();
    let mut summary = carve_rows(table, carving, sink).map_err(in_file)?;
    summary.tally.conclude(carving.plan);
    Ok(summary)
}

fn carve_rows(mut table: Table, carving: &Carving<'_>, mut sink: Box<dyn RowSink + '_>) -> Result<Summary, TableError> {
    let plan = carving.plan;
    let mut findings = carving.findings.as_deref().map(|path| FindingsFile::create(path, plan, &table, carving)).transpose()?;
    let mut rejects = carving.rejects.as_deref().map(|path| Rejects::create(path, &table, carving)).transpose()?;
    sink.on_threads(carving.how.threads.unwrap_or_else(usual_threads));
    sink.begin(&table, plan, &carving.columns)?;
    if let Some(which) = sink.encoding().filter(|_| rejects.is_none()).and_then(|encoding| encoding.needed_cells()) {
        let written = carving.columns.iter().filter_map(|column| match column {
            OutColumn::Source(n) if which == WhichCells::All => Some(*n),
            _ => None,
        });
        table.needs_only(plan.sources().iter().map(|source| source.index).chain(written).collect());
    }

    let mut summary = Summary {
        read: 0,
        written: 0,
        rejected: 0,
        left_out: 0,
        unreadable: 0,
        empty_lines: 0,
        tally: if carving.tells_texts { Tally::with_texts(plan) } else { Tally::new(plan) },
        said: Vec::new(),
        places: table.whereabouts(),
    };
    let side_by_side = |sink: &dyn RowSink| {
        let findings = findings.as_ref().map(FindingsFile::separator);
        // Cells that are looked at one by one are written one by one.
        let is_guarded = carving.guard_formulas && (findings.is_some() || rejects.is_some());
        let text_only = !is_guarded && findings != Some(None) && rejects.as_ref().is_none_or(Rejects::is_text);
        Some((sink.encoding()?, findings.flatten())).filter(|_| text_only)
    };
    let (name, width, places) = (table.name().to_owned(), table.columns().len(), table.places());
    let table = match side_by_side(&*sink) {
        None => table,
        Some((encoding, separator_of_findings)) => match table.into_blocks(carving.how.block.unwrap_or(BLOCK)) {
            Err(table) => *table,
            Ok(blocks) => {
                let run = parallel::Run {
                    carving,
                    name: &name,
                    width,
                    encoding,
                    findings: separator_of_findings,
                    has_rejects: rejects.is_some(),
                    places,
                };
                let outputs = parallel::run(&run, blocks, Outputs { sink, findings, rejects, summary })?;
                return outputs.finish();
            }
        },
    };
    let mut scratch = Scratch::with_all_rows(carving.all_rows.clone());
    summary.empty_lines = each_row(table, plan, |read, cells| {
        summary.read += 1;
        if carving.interrupted() {
            return Err(TableError::Interrupted);
        }
        let cells = match cells {
            Ok(cells) => cells,
            Err(reason) if rejects.is_none() && !carving.lists_unreadable => return Err(read.unreadable(reason, sink.has_let_go())),
            Err(reason) => {
                summary.unreadable += 1;
                if let Some(rejects) = &mut rejects {
                    summary.rejected += 1;
                    rejects.row(read.number, &read.record)?;
                }
                if let Some(findings) = &mut findings {
                    findings.unreadable(read.number, read.record.line, &reason)?;
                }
                summary.tally.unreadable(&reason, read.number, read.record.line);
                return Ok(());
            }
        };
        scratch.at_row(read.number);
        let mut result = plan.evaluate(cells.iter(), &mut scratch);
        let mut row = Row {
            number: read.number,
            record: read.record,
            text: cells.text,
            columns: None,
            cells: NewCells::Row(result.cells),
            findings: result.findings,
            places: places.as_deref(),
        };
        let too_long = sink.longest_text().and_then(|most| too_long(&row, plan, &carving.columns, most));
        let with_too_long;
        if let Some(reasons) = &too_long {
            let over = reasons.iter().map(|(about, reason)| Finding {
                about: *about,
                kind: FindingKind::Over,
                reason,
                counted_as: None,
                value: "",
            });
            with_too_long = result.findings.iter().copied().chain(over).collect::<Vec<_>>();
            result.findings = &with_too_long;
            result.fate = plan.fate(result.findings, result.fate != Fate::LeaveOut);
            row.findings = &with_too_long;
        }
        summary.tally.add(plan, &result, read.number, read.record.line);
        if let Some(findings) = &mut findings {
            findings.row(&row)?;
        }
        match (result.fate, &mut rejects) {
            (Fate::Stop(n), _) => return Err(read.stopped(plan, &result.findings[n], sink.has_let_go())),
            (Fate::Reject, Some(rejects)) => {
                summary.rejected += 1;
                rejects.row(read.number, &read.record)?;
                sink.rejected(&row, plan)?;
            }
            (Fate::LeaveOut, _) => summary.left_out += 1,
            (Fate::Write | Fate::Reject, _) => {
                summary.written += 1;
                sink.row(&row, plan, &carving.columns)?;
            }
        }
        Ok(())
    })?;
    Outputs { sink, findings, rejects, summary }.finish()
}

impl Outputs<'_> {
    /// Makes whole what was written, and gives it its names: nothing is seen of any of it before all of it is whole.
    fn finish(mut self) -> Result<Summary, TableError> {
        let table = self.sink.finish()?;
        let rejects = self.rejects.map(Rejects::finish).transpose()?;
        let findings = self.findings.map(FindingsFile::finish).transpose()?;
        self.summary.said = table.said;
        // The table last: who waits for it finds the others.
        let others = [findings, rejects].into_iter().flatten().filter_map(|finished| finished.whole);
        Whole::publish_all(others.chain(table.whole))?;
        Ok(self.summary)
    }
}

/// The texts that are too long for a cell of the output: what about, and the reason.
fn too_long(row: &Row<'_>, plan: &Plan, columns: &[OutColumn], most: usize) -> Option<Vec<(About, String)>> {
    let mut found = Vec::new();
    for column in columns {
        let (about, name, text) = match column {
            OutColumn::New(n) => {
                let output = &plan.outputs()[*n];
                let about = About::Name { cut: output.cut, name: output.name_place };
                (about, String::new(), Cow::from(row.new_cell(*n)))
            }
            // Shorter in bytes, quotes included, is shorter in any way of counting.
            OutColumn::Source(n) if row.raw_field(*n).len() <= most => continue,
            OutColumn::Source(n) => {
                let source = plan.sources().iter().position(|source| source.index == *n);
                (source.map_or(About::Row, About::Column), format!("column {}: ", n + 1), row.source_cell(*n))
            }
        };
        if text.len() > most {
            let length = text.encode_utf16().count();
            if length > most {
                found.push((about, format!("{name}{length} characters, of which a cell of a workbook holds {most}")));
            }
        }
    }
    (!found.is_empty()).then_some(found)
}
