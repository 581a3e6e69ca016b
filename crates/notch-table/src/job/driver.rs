//! The one loop over the rows of a job: blocks of rows → what becomes of each → the outputs, in
//! order.
//!
//! [`settle`] decides what becomes of a row that can be read and [`settle_unreadable`] of one that
//! cannot, for every format. There are two ways to them. Where the outputs take text or cells
//! ([`RowFormat`]), blocks are evaluated and encoded side by side, by columns (`Batch`), and only
//! what was encoded is written in order. Where an output looks at each row itself (a workbook
//! with its notes, the preview, findings in a workbook), the rows are evaluated one by one when it
//! is their block's turn.
//!
//! What comes out does not depend on how many workers there are or how large a block is.

use std::sync::Arc;

use keen_notch_core::{Fate, Finding, FindingKind, Plan, Scratch, Tally};

use super::carving::{Carving, Progress, Summary};
use super::findings::FindingsFile;
use super::rejects::Rejects;
use super::row::{NewCells, Row, stopped};
use super::sinks::{RowFormat, RowSink};
use super::too_long::too_long;
use crate::blocks::{Block, Blocks, Contents, RowAt, RowCursor, SideBySide};
use crate::cells::OutputColumns;
use crate::error::TableError;
use crate::formats::csv::Record;
use crate::input::line_map::LineMap;
use crate::text_out::TextOut;
use crate::unreadable::Unreadable;

/// What the workers share.
pub(super) struct Job<'r> {
    pub carving: &'r Carving<'r>,
    /// The name of the table.
    pub name: &'r str,
    /// How many columns it has.
    pub width: usize,
    pub way: Way,
    /// How many threads work side by side.
    pub threads: usize,
    pub has_rejects: bool,
    /// Where the rows stood, when they come of several files.
    pub places: Option<Arc<LineMap>>,
}

/// How rows come to the outputs.
pub(super) enum Way {
    /// As text or cells; `findings` is what divides the columns of the findings file, when there is
    /// one.
    Encoded { row_format: RowFormat, findings: Option<u8> },
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
pub(super) fn run<'o>(
    job: &Job<'_>,
    blocks: Blocks,
    outputs: Outputs<'o>,
) -> Result<Outputs<'o>, TableError> {
    let Job { carving, name, .. } = job;
    let threads = match job.way {
        Way::Encoded { .. } => job.threads,
        Way::OneByOne { .. } => 1,
    };
    SideBySide { threads, name, interrupt: carving.interrupt }.run(
        blocks,
        outputs,
        || Part::new(carving),
        || Scratch::with_all_rows(carving.all_rows.clone()),
        |scratch, block, part| match &job.way {
            Way::Encoded { row_format, findings } => {
                part.encode(job, row_format, *findings, block, scratch)
            }
            Way::OneByOne { .. } => std::mem::swap(block, &mut part.block),
        },
        |outputs, part| outputs.take(job, part),
    )
}

/// How many rows there were, and what became of them.
#[derive(Default)]
pub(super) struct Counts {
    pub read: u64,
    pub written: u64,
    pub rejected: u64,
    pub left_out: u64,
    pub unreadable: u64,
}

/// What has become of a block.
pub(super) struct Part {
    pub counts: Counts,
    pub tally: Tally,
    /// Lines with nothing in them that are no rows.
    pub empty: u64,
    /// How many bytes the block has.
    pub bytes: u64,
    pub encoded: Encoded,
    pub error: Option<TableError>,
    /// The block itself, where its rows are taken one by one.
    pub block: Block,
}

/// The rows of a block as the outputs take them.
#[derive(Default)]
pub(super) struct Encoded {
    pub rows: TextOut,
    pub cells: OutputColumns,
    /// Memory to put a row together in.
    pub line: Vec<u8>,
    pub guarded: u64,
    pub rejects: Vec<u8>,
    pub findings: Vec<u8>,
}

/// What takes the rows that were decided about.
pub(super) trait Taker {
    /// Lists the findings of a row.
    fn list(&mut self, row: &Row<'_>) -> Result<(), TableError>;
    /// Writes a row.
    fn write(&mut self, row: &Row<'_>) -> Result<(), TableError>;
    /// Puts a row with a finding among the rejects.
    fn reject(&mut self, row: &Row<'_>) -> Result<(), TableError>;
    /// Lists a row that cannot be read, and puts it among the rejects where there are any.
    fn unreadable(
        &mut self,
        row: RowAt,
        record: &Record<'_>,
        reason: &Unreadable,
    ) -> Result<(), TableError>;
    /// Whether rows have been written that cannot be taken back.
    fn has_let_go(&self) -> bool;
}

/// Decides what becomes of a row that can be read.
pub(super) fn settle(
    job: &Job<'_>,
    row: &Row<'_>,
    fate: Fate,
    counts: &mut Counts,
    to: &mut impl Taker,
) -> Result<(), TableError> {
    to.list(row)?;
    match fate {
        Fate::Stop(n) => {
            return Err(stopped(
                job.name,
                row.line(),
                job.carving.plan,
                &row.findings[n],
                to.has_let_go(),
            ));
        }
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
pub(super) fn settle_unreadable(
    job: &Job<'_>,
    row: RowAt,
    record: &Record<'_>,
    reason: Unreadable,
    (counts, tally): (&mut Counts, &mut Tally),
    to: &mut impl Taker,
) -> Result<(), TableError> {
    counts.read += 1;
    if !job.has_rejects && !job.carving.lists_unreadable {
        return Err(TableError::Row {
            name: job.name.to_owned(),
            line: row.line,
            reason,
            rows_gone: to.has_let_go(),
        });
    }
    counts.unreadable += 1;
    counts.rejected += u64::from(job.has_rejects);
    to.unreadable(row, record, &reason)?;
    tally.unreadable(&reason.to_string(), row.number, row.line);
    Ok(())
}

impl Outputs<'_> {
    /// Takes what has become of a block, and counts it.
    fn take(&mut self, job: &Job<'_>, part: &mut Part) -> Result<(), TableError> {
        match &job.way {
            Way::Encoded { row_format, .. } => self.take_encoded(row_format, part)?,
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

    fn take_encoded(&mut self, row_format: &RowFormat, part: &mut Part) -> Result<(), TableError> {
        if let Some(error) = part.error.take() {
            return Err(error.with_rows_gone(self.sink.has_let_go()));
        }
        let encoded = &mut part.encoded;
        match row_format.wanted_cells() {
            None => self.sink.text(encoded.rows.bytes(), encoded.guarded)?,
            Some(_) => self.sink.cells(&mut encoded.cells)?,
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

    /// Evaluates the rows of a block one by one, and passes each on.
    fn take_one_by_one(
        &mut self,
        job: &Job<'_>,
        longest: Option<usize>,
        part: &mut Part,
    ) -> Result<(), TableError> {
        (part.empty, part.bytes) = (part.block.empty, part.block.len() as u64);
        let (plan, Part { counts, tally, block, .. }) = (job.carving.plan, part);
        let contents = Contents::of(block);
        let text = &contents.text;
        let mut rows = RowCursor::new(block, contents.invalid.as_deref(), job.width);
        let mut scratch = std::mem::take(&mut self.scratch);
        while let Some((at, readable)) = rows.next(text) {
            let record = rows.record(at.place, text);
            if let Err(reason) = readable {
                settle_unreadable(
                    job,
                    at,
                    &record,
                    reason,
                    (counts, tally),
                    &mut OneByOne { outputs: self, job },
                )?;
                continue;
            }
            counts.read += 1;
            let cells: Vec<_> = plan
                .sources()
                .iter()
                .map(|source| rows.cell(at.place, source.index, text))
                .collect();
            scratch.at_row(at.number);
            let mut result = plan.evaluate(cells.iter().map(AsRef::as_ref), &mut scratch);
            let columns = (rows.index.cells.rows() > 0).then_some((&rows.index.cells, at.place));
            let text = if columns.is_some() {
                text
            } else {
                std::str::from_utf8(record.raw).unwrap_or_default()
            };
            let (cells, places) = (NewCells::Row(result.cells), job.places.as_deref());
            let mut row = Row {
                number: at.number,
                record,
                text,
                columns,
                cells,
                findings: result.findings,
                places,
            };
            let found = longest
                .and_then(|most| too_long(&row, plan, &job.carving.columns, most))
                .unwrap_or_default();
            let over = found.iter().map(|(about, reason)| Finding {
                about: *about,
                kind: FindingKind::Over,
                reason,
                counted_as: None,
                value: "",
            });
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
        self.outputs
            .rejects
            .iter_mut()
            .try_for_each(|rejects| rejects.row(row.number, &row.record))?;
        self.outputs.sink.rejected(row, self.job.carving.plan)
    }

    fn unreadable(
        &mut self,
        row: RowAt,
        record: &Record<'_>,
        reason: &Unreadable,
    ) -> Result<(), TableError> {
        self.outputs.rejects.iter_mut().try_for_each(|rejects| rejects.row(row.number, record))?;
        self.outputs
            .findings
            .iter_mut()
            .try_for_each(|findings| findings.unreadable(row.number, row.line, &reason.to_string()))
    }

    fn has_let_go(&self) -> bool {
        self.outputs.sink.has_let_go()
    }
}

impl Part {
    fn new(carving: &Carving<'_>) -> Self {
        Self {
            counts: Counts::default(),
            tally: Tally::part(carving.plan, carving.texts),
            empty: 0,
            bytes: 0,
            encoded: Encoded::default(),
            error: None,
            block: Block::default(),
        }
    }
}

/// A plan is shared by all workers.
const _: fn() = || {
    fn shared<T: Send + Sync>() {}
    shared::<Plan>();
};
