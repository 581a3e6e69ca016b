//! The one loop over the rows of a job: blocks of rows → what becomes of each → the outputs, in order.
//!
//! [`settle`] decides what becomes of a row that can be read and [`settle_unreadable`] of one that cannot, for every format. There are two
//! ways to them. Where the outputs take text or cells ([`Encoding`]), blocks are evaluated and encoded side by side, by columns
//! ([`Batch`]), and only what was encoded is handed over in order. Where an output looks at each row itself (a workbook with its notes, the
//! preview, findings in a workbook), the rows are evaluated one by one when it is their block's turn.
//!
//! What comes out does not depend on how many workers there are or how large a block is.

use std::sync::Arc;

use notch_core::{Batch, Fate, Finding, FindingKind, Plan, Scratch, Tally};

use super::carving::{Carving, Progress, Summary};
use super::findings::{FindingsFile, encode, encode_unreadable};
use super::rejects::Rejects;
use super::row::{NewCells, OutColumn, Row, stopped};
use super::sinks::{Encoding, RowSink, TextOut, WhichCells};
use super::too_long::too_long;
use crate::blocks::{Block, Blocks, Contents, RowAt, RowCursor, SideBySide, usual_threads};
use crate::cells::CellBlock;
use crate::error::TableError;
use crate::formats::csv::{Record, bare_cell, cell_text, write_text_of};
use crate::input::line_map::Places;

/// What the workers share.
pub(super) struct Job<'r> {
    pub carving: &'r Carving<'r>,
    /// The name of the table.
    pub name: &'r str,
    /// How many columns it has.
    pub width: usize,
    pub way: Way,
    pub has_rejects: bool,
    /// Where the rows stood, when they come of several files.
    pub places: Option<Arc<Places>>,
}

/// How rows come to the outputs.
pub(super) enum Way {
    /// As text or cells; `findings` is what divides the columns of the findings file, when there is one.
    Encoded { encoding: Encoding, findings: Option<u8> },
    /// One by one. `longest` is how long the text of a cell may be, in UTF-16 units.
    OneByOne { longest: Option<usize> },
}

/// Where the results go, in the order of the blocks.
pub(super) struct Outputs<'o> {
    pub sink: Box<dyn RowSink + 'o>,
    pub findings: Option<FindingsFile<'o>>,
    pub rejects: Option<Rejects>,
    pub summary: Summary,
    /// What rows are evaluated with one by one.
    pub scratch: Scratch,
}

/// Works through all blocks.
///
/// # Errors
/// As [`super::carve`].
pub(super) fn run<'o>(job: &Job<'_>, blocks: Blocks, outputs: Outputs<'o>) -> Result<Outputs<'o>, TableError> {
    let Job { carving, name, .. } = job;
    let threads = match job.way {
        Way::Encoded { .. } => carving.how.threads.unwrap_or_else(usual_threads).max(1),
        Way::OneByOne { .. } => 1,
    };
    SideBySide { threads, name, interrupt: carving.interrupt }.run(
        blocks,
        outputs,
        || Part::new(carving),
        || Scratch::with_all_rows(carving.all_rows.clone()),
        |scratch, block, part| match &job.way {
            Way::Encoded { encoding, findings } => part.encode(job, encoding, *findings, block, scratch),
            Way::OneByOne { .. } => std::mem::swap(block, &mut part.block),
        },
        |outputs, part| outputs.take(job, part),
    )
}

/// How many rows there were, and what became of them.
#[derive(Default)]
struct Counts {
    read: u64,
    written: u64,
    rejected: u64,
    left_out: u64,
    unreadable: u64,
}

/// What has become of a block.
struct Part {
    counts: Counts,
    tally: Tally,
    /// Lines with nothing in them that are no rows.
    empty: u64,
    /// How many bytes the block has.
    bytes: u64,
    encoded: Encoded,
    error: Option<TableError>,
    /// The block itself, where its rows are taken one by one.
    block: Block,
}

/// The rows of a block as the outputs take them.
#[derive(Default)]
struct Encoded {
    rows: TextOut,
    cells: CellBlock,
    /// Memory to put a row together in.
    line: Vec<u8>,
    guarded: u64,
    rejects: Vec<u8>,
    findings: Vec<u8>,
}

/// What takes the rows that were decided about.
trait Taker {
    /// Lists the findings of a row.
    fn list(&mut self, row: &Row<'_>) -> Result<(), TableError>;
    /// Writes a row.
    fn write(&mut self, row: &Row<'_>) -> Result<(), TableError>;
    /// Puts a row with a finding among the rejects.
    fn reject(&mut self, row: &Row<'_>) -> Result<(), TableError>;
    /// Lists a row that cannot be read, and puts it among the rejects where there are any.
    fn unreadable(&mut self, row: RowAt, record: &Record<'_>, reason: &str) -> Result<(), TableError>;
    /// Whether rows have been handed over that cannot be taken back.
    fn has_let_go(&self) -> bool;
}

/// Decides what becomes of a row that can be read.
fn settle(job: &Job<'_>, row: &Row<'_>, fate: Fate, counts: &mut Counts, to: &mut impl Taker) -> Result<(), TableError> {
    to.list(row)?;
    match fate {
        Fate::Stop(n) => return Err(stopped(job.name, row.line(), job.carving.plan, &row.findings[n], to.has_let_go())),
        Fate::Reject if job.has_rejects => {
            counts.rejected += 1;
            to.reject(row)?;
        }
        Fate::LeaveOut => counts.left_out += 1,
        Fate::Write | Fate::Reject => {
            counts.written += 1;
            to.write(row)?;
        }
    }
    Ok(())
}

/// Decides what becomes of a row that cannot be read.
fn settle_unreadable(
    job: &Job<'_>,
    row: RowAt,
    record: &Record<'_>,
    reason: String,
    (counts, tally): (&mut Counts, &mut Tally),
    to: &mut impl Taker,
) -> Result<(), TableError> {
    counts.read += 1;
    if !job.has_rejects && !job.carving.lists_unreadable {
        return Err(TableError::Row { name: job.name.to_owned(), line: row.line, reason, rows_gone: to.has_let_go() });
    }
    counts.unreadable += 1;
    counts.rejected += u64::from(job.has_rejects);
    to.unreadable(row, record, &reason)?;
    tally.unreadable(&reason, row.number, row.line);
    Ok(())
}

impl Outputs<'_> {
    /// Takes what has become of a block, and counts it.
    fn take(&mut self, job: &Job<'_>, part: &mut Part) -> Result<(), TableError> {
        match &job.way {
            Way::Encoded { encoding, .. } => self.take_encoded(encoding, part)?,
            Way::OneByOne { longest } => self.take_one_by_one(job, *longest, part)?,
        }
        let (summary, counts) = (&mut self.summary, std::mem::take(&mut part.counts));
        summary.read += counts.read;
        summary.written += counts.written;
        summary.rejected += counts.rejected;
        summary.left_out += counts.left_out;
        summary.unreadable += counts.unreadable;
        summary.empty_lines += part.empty;
        summary.tally.merge(&mut part.tally);
        if let Some(progress) = job.carving.progress {
            progress(Progress { rows: summary.read, bytes: part.bytes });
        }
        Ok(())
    }

    fn take_encoded(&mut self, encoding: &Encoding, part: &mut Part) -> Result<(), TableError> {
        if let Some(error) = part.error.take() {
            return Err(error.with_rows_gone(self.sink.has_let_go()));
        }
        let encoded = &mut part.encoded;
        match encoding.wanted_cells() {
            None => self.sink.text(encoded.rows.bytes(), encoded.guarded)?,
            Some(_) => self.sink.cells(&encoded.cells)?,
        }
        if let Some(rejects) = &mut self.rejects {
            rejects.text(&encoded.rejects)?;
        }
        if let Some(findings) = &mut self.findings {
            findings.text(&encoded.findings)?;
        }
        encoded.clear();
        Ok(())
    }

    /// Evaluates the rows of a block one by one, and hands each over.
    fn take_one_by_one(&mut self, job: &Job<'_>, longest: Option<usize>, part: &mut Part) -> Result<(), TableError> {
        (part.empty, part.bytes) = (part.block.empty, part.block.len() as u64);
        let (plan, Part { counts, tally, block, .. }) = (job.carving.plan, part);
        let contents = Contents::of(block);
        let text = &contents.text;
        let mut rows = RowCursor::new(block, contents.invalid.as_deref(), job.width);
        let mut scratch = std::mem::take(&mut self.scratch);
        while let Some((at, readable)) = rows.next(text) {
            let record = rows.record(at.place, text);
            if let Err(reason) = readable {
                settle_unreadable(job, at, &record, reason, (counts, tally), &mut OneByOne { outputs: self, job })?;
                continue;
            }
            counts.read += 1;
            let cells: Vec<_> = plan.sources().iter().map(|source| rows.cell(at.place, source.index, text)).collect();
            scratch.at_row(at.number);
            let mut result = plan.evaluate(cells.iter().map(AsRef::as_ref), &mut scratch);
            let columns = (rows.index.cells.rows() > 0).then_some((&rows.index.cells, at.place));
            let text = if columns.is_some() { text } else { std::str::from_utf8(record.raw).unwrap_or_default() };
            let (cells, places) = (NewCells::Row(result.cells), job.places.as_deref());
            let mut row = Row { number: at.number, record, text, columns, cells, findings: result.findings, places };
            let found = longest.and_then(|most| too_long(&row, plan, &job.carving.columns, most)).unwrap_or_default();
            let over =
                found.iter().map(|(about, reason)| Finding { about: *about, kind: FindingKind::Over, reason, counted_as: None, value: "" });
            let with_too_long: Vec<_> = result.findings.iter().copied().chain(over).collect();
            if !found.is_empty() {
                result.findings = &with_too_long;
                result.fate = plan.fate(result.findings, result.fate != Fate::LeaveOut);
                row.findings = &with_too_long;
            }
            tally.add(plan, &result, at.number, at.line);
            settle(job, &row, result.fate, counts, &mut OneByOne { outputs: self, job })?;
        }
        self.scratch = scratch;
        contents.give_back(block);
        Ok(())
    }
}

/// Hands rows over one by one.
struct OneByOne<'j, 'o, 'r> {
    outputs: &'j mut Outputs<'o>,
    job: &'j Job<'r>,
}

impl Taker for OneByOne<'_, '_, '_> {
    fn list(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        self.outputs.findings.iter_mut().try_for_each(|findings| findings.row(row))
    }

    fn write(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        self.outputs.sink.row(row, self.job.carving.plan, &self.job.carving.columns)
    }

    fn reject(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        self.outputs.rejects.iter_mut().try_for_each(|rejects| rejects.row(row.number, &row.record))?;
        self.outputs.sink.rejected(row, self.job.carving.plan)
    }

    fn unreadable(&mut self, row: RowAt, record: &Record<'_>, reason: &str) -> Result<(), TableError> {
        self.outputs.rejects.iter_mut().try_for_each(|rejects| rejects.row(row.number, record))?;
        self.outputs.findings.iter_mut().try_for_each(|findings| findings.unreadable(row.number, row.line, reason))
    }

    fn has_let_go(&self) -> bool {
        self.outputs.sink.has_let_go()
    }
}

/// Rows evaluated together: their cells stay in a core's nearest cache.
const TOGETHER: usize = 128;

impl Part {
    fn new(carving: &Carving<'_>) -> Self {
        Self {
            counts: Counts::default(),
            tally: Tally::part(carving.plan, carving.tells_texts),
            empty: 0,
            bytes: 0,
            encoded: Encoded::default(),
            error: None,
            block: Block::default(),
        }
    }

    /// Evaluates and encodes the rows of a block.
    fn encode(&mut self, job: &Job<'_>, encoding: &Encoding, findings: Option<u8>, block: &mut Block, scratch: &mut Scratch) {
        (self.empty, self.bytes) = (block.empty, block.len() as u64);
        let mut contents = Contents::of(block);
        let length = contents.text.len();
        let rows = RowCursor::new(block, contents.invalid.as_deref(), job.width);
        let mut encoder = Encoder { job, encoding, findings, has_new_in_order: has_new_in_order(job, encoding), rows };
        let done = loop {
            let batch = encoder.batch(&mut contents.text, scratch, self);
            contents.text.truncate(length);
            match batch {
                Ok(Some(Unreadable { row, reason })) => {
                    let record = encoder.rows.record(row.place, &contents.text);
                    let (tally, mut to) = (&mut self.tally, ToEncoded { job, encoding, findings, into: &mut self.encoded });
                    if let Err(error) = settle_unreadable(job, row, &record, reason, (&mut self.counts, tally), &mut to) {
                        break Err(error);
                    }
                }
                Ok(None) if encoder.rows.is_at_end() => break Ok(()),
                Ok(None) => {}
                Err(error) => break Err(error),
            }
        };
        self.error = done.err();
        self.encoded.cells.close();
        contents.give_back(block);
    }
}

impl Encoded {
    fn clear(&mut self) {
        self.guarded = 0;
        self.rows.clear();
        self.cells.clear();
        self.rejects.clear();
        self.findings.clear();
    }
}

/// Encodes what was decided about.
struct ToEncoded<'e, 'r> {
    job: &'e Job<'r>,
    encoding: &'e Encoding,
    findings: Option<u8>,
    into: &'e mut Encoded,
}

impl Taker for ToEncoded<'_, '_> {
    fn list(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        if let Some(separator) = self.findings.filter(|_| !row.findings.is_empty()) {
            encode(self.job.carving.plan, row, separator, &mut self.into.findings);
        }
        Ok(())
    }

    fn write(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        let (into, columns) = (&mut *self.into, &self.job.carving.columns);
        if let Some(which) = self.encoding.wanted_cells() {
            push_cells(&mut into.cells, row, columns, which);
            return Ok(());
        }
        into.line.clear();
        into.guarded += self.encoding.row(row, columns, &mut into.line);
        into.rows.push(&into.line);
        Ok(())
    }

    fn reject(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        self.into.rejects.extend_from_slice(row.record.raw);
        self.into.rejects.extend_from_slice(row.record.line_end);
        Ok(())
    }

    fn unreadable(&mut self, row: RowAt, record: &Record<'_>, reason: &str) -> Result<(), TableError> {
        if self.job.has_rejects {
            self.into.rejects.extend_from_slice(record.raw);
            self.into.rejects.extend_from_slice(record.line_end);
        }
        if let Some(separator) = self.findings {
            encode_unreadable((row.number, row.line), reason, self.job.places.as_deref(), separator, &mut self.into.findings);
        }
        Ok(())
    }

    /// Not known before it is the block's turn; [`Outputs::take_encoded`] adds it then.
    fn has_let_go(&self) -> bool {
        false
    }
}

/// Adds a row to cells that are put together column by column: its cells in these columns, or the new ones of them.
fn push_cells(into: &mut CellBlock, row: &Row<'_>, columns: &[OutColumn], which: WhichCells) {
    into.begin_row(row.number, row.line(), columns.len());
    let wanted = columns.iter().filter(|column| which == WhichCells::All || matches!(column, OutColumn::New(_)));
    for (place, column) in wanted.enumerate() {
        match column {
            OutColumn::Source(n) => into.add(place, &row.source_cell(*n)),
            OutColumn::New(n) => into.add(place, row.new_cell(*n)),
        }
    }
}

/// Evaluates the rows of a block, many together, and encodes them.
struct Encoder<'b> {
    job: &'b Job<'b>,
    encoding: &'b Encoding,
    findings: Option<u8>,
    /// What is wanted of each row is its new cells, all of them in their order.
    has_new_in_order: bool,
    rows: RowCursor<'b>,
}

/// A row that cannot be read.
struct Unreadable {
    row: RowAt,
    reason: String,
}

fn has_new_in_order(job: &Job<'_>, encoding: &Encoding) -> bool {
    let new = job.carving.columns.iter().filter(|column| matches!(column, OutColumn::New(_)));
    let all = (0..job.carving.plan.outputs().len()).map(OutColumn::New);
    encoding.wanted_cells() == Some(WhichCells::New) && new.copied().eq(all)
}

impl Encoder<'_> {
    /// Evaluates and encodes the next rows, as many as are taken together, up to one that cannot be read, which is returned.
    ///
    /// # Errors
    /// A finding that is to stop the work.
    fn batch(&mut self, text: &mut String, scratch: &mut Scratch, part: &mut Part) -> Result<Option<Unreadable>, TableError> {
        let (plan, job) = (self.job.carving.plan, self.job);
        let mut batch = Batch::new(plan, text, scratch);
        let mut places = [0; TOGETHER];
        let mut unreadable = None;
        while batch.len() < TOGETHER
            && let Some((row, readable)) = self.rows.next(batch.block())
        {
            if let Err(reason) = readable {
                unreadable = Some(Unreadable { row, reason });
                break;
            }
            places[batch.len()] = row.place as u32;
            batch.row(row.number, row.line);
        }
        let places = &places[..batch.len()];
        self.add_cells(places, &mut batch);
        let evaluated = batch.evaluate();
        part.tally.add_batch(plan, &evaluated);
        part.counts.read += evaluated.len() as u64;
        let (index, encoded) = (self.rows.index, &mut part.encoded);
        let mut unusual = evaluated.unusual();
        let mut next = 0;
        while let Some(place) = places.get(next) {
            let (at, place) = (next, *place as usize);
            next += 1;
            let result = match unusual {
                [(of, result), rest @ ..] if *of == at => {
                    unusual = rest;
                    Some(result)
                }
                _ => None,
            };
            // Of rows with nothing unusual in them it may still be listed that a cut gave nothing.
            let absent = if result.is_none() && self.findings.is_some() { evaluated.findings(at) } else { Vec::new() };
            if result.is_none() && absent.is_empty() {
                if self.encoding.is_whole() {
                    let block = self.rows.invalid().unwrap_or(evaluated.block().as_bytes());
                    self.encoding.whole_row(&index.raw(place, block), &evaluated, at, &mut encoded.line, &mut encoded.rows);
                    part.counts.written += 1;
                    continue;
                }
                if self.has_new_in_order {
                    // All rows up to the next unusual one, unless something may be said of one of them.
                    if self.findings.is_none() {
                        next = unusual.first().map_or(places.len(), |(of, _)| *of);
                    }
                    encoded.cells.extend(&evaluated, at..next, plan.outputs().len());
                    part.counts.written += (next - at) as u64;
                    continue;
                }
            }
            let (cells, findings, fate) = match result {
                Some(result) => (NewCells::Row(result.cells), result.findings, result.fate),
                None => (NewCells::Batch(&evaluated, at), &*absent, Fate::Write),
            };
            let record = self.rows.record(place, evaluated.block());
            let columns = (index.cells.rows() > 0).then_some((&index.cells, place));
            let text = match self.rows.invalid() {
                None if columns.is_some() => evaluated.block(),
                None => &evaluated.block()[index.range(place)],
                Some(_) => std::str::from_utf8(record.raw).unwrap_or_default(),
            };
            let places = job.places.as_deref();
            let row = Row { number: evaluated.number(at), record, text, columns, cells, findings, places };
            let mut to = ToEncoded { job, encoding: self.encoding, findings: self.findings, into: encoded };
            settle(job, &row, fate, &mut part.counts, &mut to)?;
        }
        Ok(unreadable)
    }

    /// Adds the cells of the rows to a batch: where they lie in the block, if they stand there verbatim.
    fn add_cells(&self, places: &[u32], batch: &mut Batch<'_>) {
        let (index, invalid) = (self.rows.index, self.rows.invalid());
        for (source, column) in self.job.carving.plan.sources().iter().enumerate() {
            if let Some(bounds) = index.cells.bounds(column.index) {
                batch.cells(source, places.iter().map(|n| *n as usize), |_, n| Some((bounds[n], bounds[n + 1])));
                continue;
            }
            let place = |text: &[u8], n: u32| match invalid {
                None => bare_cell(text, index.field(n as usize, column.index)),
                Some(_) => None,
            };
            if batch.cells(source, places.iter().copied(), place) {
                continue;
            }
            for (row, n) in places.iter().enumerate() {
                if !batch.is_unset(source, row) {
                    continue;
                }
                if invalid.is_none() {
                    let (from, to) = index.field(*n as usize, column.index);
                    batch.set_cell(source, row, |text| write_text_of(text, from as usize..to as usize));
                } else {
                    let record = self.rows.record(*n as usize, batch.block());
                    let field = &record.raw[record.fields.at(column.index)];
                    // The row is UTF-8: that was checked when it was read.
                    let cell = std::str::from_utf8(field).map(cell_text).unwrap_or_default().into_owned();
                    batch.set_cell(source, row, |text| text.push_str(&cell));
                }
            }
        }
    }
}

/// A plan is shared by all workers.
const _: fn() = || {
    fn shared<T: Send + Sync>() {}
    shared::<Plan>();
};
