//! The run over separated text: each block's rows are evaluated and encoded side by side with others, and written in their order.
//!
//! What comes out does not depend on how many workers there are or how large a block is.

use std::sync::Arc;

use notch_core::{Batch, Fate, Plan, Scratch, Tally};

use super::findings::{FindingsFile, encode, encode_unreadable};
use super::rejects::Rejects;
use super::rows::ReadRow;
use super::text_out::TextOut;
use super::{Carving, CellBlock, Encoding, NewCells, OutColumn, Progress, Row, RowSink, Summary, WhichCells};
use crate::csv::{Block, Blocks, Index, Record, bare_cell, cell_text, write_text_of};
use crate::error::TableError;
use crate::places::Places;
use crate::side_by_side::{SideBySide, usual_threads};

/// What the workers share.
pub(super) struct Run<'r> {
    pub carving: &'r Carving<'r>,
    /// The name of the table.
    pub name: &'r str,
    /// How many columns it has.
    pub width: usize,
    pub encoding: Encoding,
    /// What divides the columns of the findings file, when there is one.
    pub findings: Option<u8>,
    pub has_rejects: bool,
    /// Where the rows stood, when they come of several files.
    pub places: Option<Arc<Places>>,
}

/// Where the results go, in the order of the blocks.
pub(super) struct Outputs<'o> {
    pub sink: Box<dyn RowSink + 'o>,
    pub findings: Option<FindingsFile<'o>>,
    pub rejects: Option<Rejects>,
    pub summary: Summary,
}

/// Works through all blocks.
///
/// # Errors
/// As [`super::carve`].
pub(super) fn run<'o>(run: &Run<'_>, blocks: Blocks, outputs: Outputs<'o>) -> Result<Outputs<'o>, TableError> {
    let Run { carving, name, .. } = run;
    let threads = carving.how.threads.unwrap_or_else(usual_threads).max(1);
    SideBySide { threads, name, interrupt: carving.interrupt }.run(
        blocks,
        outputs,
        || Part::new(carving),
        || Scratch::with_all_rows(carving.all_rows.clone()),
        |scratch, block, part| each_row(run, block, scratch, part),
        |outputs, part| hand_on(run, outputs, part),
    )
}

/// What has become of a block.
struct Part {
    rows: TextOut,
    cells: CellBlock,
    /// Memory to put a row together in.
    line: Vec<u8>,
    guarded: u64,
    rejects: Vec<u8>,
    findings: Vec<u8>,
    read: u64,
    written: u64,
    rejected: u64,
    left_out: u64,
    unreadable: u64,
    /// Lines with nothing in them that are no rows.
    empty: u64,
    /// How many bytes the block has.
    bytes: u64,
    tally: Tally,
    error: Option<TableError>,
}

/// Writes what has become of a block, and counts it.
fn hand_on(run: &Run<'_>, outputs: &mut Outputs<'_>, part: &mut Part) -> Result<(), TableError> {
    if let Some(error) = part.error.take() {
        return Err(error.with_rows_gone(outputs.sink.has_let_go()));
    }
    match run.encoding.wanted_cells() {
        None => outputs.sink.text(part.rows.bytes(), part.guarded)?,
        Some(_) => outputs.sink.cells(&part.cells)?,
    }
    if let Some(rejects) = &mut outputs.rejects {
        rejects.text(&part.rejects)?;
    }
    if let Some(findings) = &mut outputs.findings {
        findings.text(&part.findings)?;
    }
    let summary = &mut outputs.summary;
    summary.read += part.read;
    summary.written += part.written;
    summary.rejected += part.rejected;
    summary.left_out += part.left_out;
    summary.unreadable += part.unreadable;
    summary.empty_lines += part.empty;
    summary.tally.merge(&mut part.tally);
    (part.read, part.written, part.rejected, part.left_out, part.unreadable, part.guarded) = (0, 0, 0, 0, 0, 0);
    part.rows.clear();
    part.cells.clear();
    part.rejects.clear();
    part.findings.clear();
    if let Some(progress) = run.carving.progress {
        progress(Progress { rows: summary.read, bytes: part.bytes });
    }
    Ok(())
}

/// So many rows are evaluated together: their cells stay in a core's nearest cache.
const TOGETHER: usize = 128;

/// Evaluates and encodes the rows of a block.
fn each_row(run: &Run<'_>, block: &mut Block, scratch: &mut Scratch, part: &mut Part) {
    (part.empty, part.bytes) = (block.empty, block.len() as u64);
    // Nearly every block is text as a whole; in others each row is looked at by itself.
    let (mut text, odd) = match String::from_utf8(block.take()) {
        Ok(text) => (text, None),
        Err(error) => (String::new(), Some(error.into_bytes())),
    };
    let length = text.len();
    let rows = Rows { run, odd: odd.as_deref(), index: &block.index, line: block.line, has_new_in_order: has_new_in_order(run) };
    let (mut next, mut number) = (0, block.row);
    while next < block.index.len() && part.error.is_none() {
        let unreadable = rows.batch(&mut next, &mut number, &mut text, scratch, part);
        text.truncate(length);
        if let Some((n, reason)) = unreadable.filter(|_| part.error.is_none()) {
            rows.unreadable(&rows.record(n, &text), reason, number, part);
            number += 1;
        }
    }
    part.cells.close();
    block.give_back(odd.unwrap_or(text.into_bytes()));
}

/// The rows of a block.
struct Rows<'b> {
    run: &'b Run<'b>,
    /// The bytes of the block where they are no text.
    odd: Option<&'b [u8]>,
    index: &'b Index,
    /// The line it begins in.
    line: u64,
    /// What is wanted of each row is its new cells, all of them in their order.
    has_new_in_order: bool,
}

fn has_new_in_order(run: &Run<'_>) -> bool {
    let new = run.carving.columns.iter().filter(|column| matches!(column, OutColumn::New(_)));
    let all = (0..run.carving.plan.outputs().len()).map(OutColumn::New);
    run.encoding.wanted_cells() == Some(WhichCells::New) && new.copied().eq(all)
}

impl<'b> Rows<'b> {
    /// The bytes of the block, given its text.
    #[inline(always)]
    fn bytes<'t>(&'t self, text: &'t str) -> &'t [u8] {
        self.odd.unwrap_or(text.as_bytes())
    }

    /// Record `n` of the block, given its text.
    fn record<'t>(&'t self, n: usize, text: &'t str) -> Record<'t> {
        self.index.record(n, self.bytes(text), self.line)
    }

    /// Adds the cells of the rows to a batch: where they lie in the block, if they stand there as they are.
    fn add_cells(&self, rows: &[u32], batch: &mut Batch<'_>) {
        for (source, column) in self.run.carving.plan.sources().iter().enumerate() {
            if let Some(bounds) = self.index.cells.bounds(column.index) {
                batch.cells(source, rows.iter().map(|n| *n as usize), |_, n| Some((bounds[n], bounds[n + 1])));
                continue;
            }
            let place = |text: &[u8], n: u32| match self.odd {
                None => bare_cell(text, self.index.field(n as usize, column.index)),
                Some(_) => None,
            };
            if batch.cells(source, rows.iter().copied(), place) {
                continue;
            }
            for (row, n) in rows.iter().enumerate() {
                if !batch.is_unset(source, row) {
                    continue;
                }
                if self.odd.is_none() {
                    let (from, to) = self.index.field(*n as usize, column.index);
                    batch.set_cell(source, row, |text| write_text_of(text, from as usize..to as usize));
                } else {
                    let record = self.record(*n as usize, batch.block());
                    let field = &record.raw[record.fields.at(column.index)];
                    // That it is text has been seen.
                    let cell = std::str::from_utf8(field).map(cell_text).unwrap_or_default().into_owned();
                    batch.set_cell(source, row, |text| text.push_str(&cell));
                }
            }
        }
    }

    /// Evaluates and encodes the rows from record `next` on, as many as are taken together, up to one that cannot be read, which it
    /// gives with the reason; `number` is the number of the next row.
    fn batch(
        &self,
        next: &mut usize,
        number: &mut u64,
        text: &mut String,
        scratch: &mut Scratch,
        part: &mut Part,
    ) -> Option<(usize, String)> {
        let (plan, run) = (self.run.carving.plan, self.run);
        let mut batch = Batch::new(plan, text, scratch);
        let mut rows = [0; TOGETHER];
        let mut unreadable = None;
        while *next < self.index.len() && batch.len() < TOGETHER {
            let n = *next;
            *next += 1;
            if self.index.is_blank(n) && run.width > 1 {
                continue;
            }
            let is_plain = self.odd.is_none() && self.index.is_row_of(n, run.width);
            if !is_plain && let Err(reason) = self.record(n, batch.block()).readable(run.width) {
                unreadable = Some((n, reason));
                break;
            }
            rows[batch.len()] = n as u32;
            batch.row(*number, self.line + self.index.line(n));
            *number += 1;
        }
        let rows = &rows[..batch.len()];
        self.add_cells(rows, &mut batch);
        let evaluated = batch.evaluate();
        part.tally.add_batch(plan, &evaluated);
        part.read += evaluated.len() as u64;
        let mut unusual = evaluated.unusual();
        let mut behind = 0;
        while let Some(n) = rows.get(behind) {
            let (at, n) = (behind, *n as usize);
            behind += 1;
            let result = match unusual {
                [(of, result), rest @ ..] if *of == at => {
                    unusual = rest;
                    Some(result)
                }
                _ => None,
            };
            // Of rows with nothing unusual in them it may still be listed that a cut gave nothing.
            let absent = if result.is_none() && run.findings.is_some() { evaluated.findings(at) } else { Vec::new() };
            if result.is_none() && absent.is_empty() {
                if run.encoding.is_whole() {
                    let record = self.index.raw(n, self.bytes(evaluated.block()));
                    run.encoding.whole_row(&record, &evaluated, at, &mut part.line, &mut part.rows);
                    part.written += 1;
                    continue;
                }
                if self.has_new_in_order {
                    // All rows up to the next unusual one, unless something may be said of one of them.
                    if run.findings.is_none() {
                        behind = unusual.first().map_or(rows.len(), |(of, _)| *of);
                    }
                    part.cells.extend(&evaluated, at..behind, plan.outputs().len());
                    part.written += (behind - at) as u64;
                    continue;
                }
            }
            let (number, record) = (evaluated.number(at), self.record(n, evaluated.block()));
            let (cells, findings, fate) = match result {
                Some(result) => (NewCells::Row(result.cells), result.findings, result.fate),
                None => (NewCells::Batch(&evaluated, at), &*absent, Fate::Write),
            };
            let columns = (self.index.cells.rows() > 0).then_some((&self.index.cells, n));
            let text = match self.odd {
                None if columns.is_some() => evaluated.block(),
                None => &evaluated.block()[self.index.range(n)],
                Some(_) => std::str::from_utf8(record.raw).unwrap_or_default(),
            };
            let row = Row { number, record, text, columns, cells, findings, places: run.places.as_deref() };
            if let Some(separator) = run.findings.filter(|_| !findings.is_empty()) {
                encode(plan, &row, separator, &mut part.findings);
            }
            match fate {
                Fate::Stop(finding) => {
                    let read = ReadRow { number, record, table: run.name };
                    part.error = Some(read.stopped(plan, &findings[finding], false));
                    return None;
                }
                Fate::Reject if run.has_rejects => part.reject(&record),
                Fate::LeaveOut => part.left_out += 1,
                Fate::Write | Fate::Reject => {
                    part.written += 1;
                    if let Some(which) = run.encoding.wanted_cells() {
                        part.cells.push(&row, &run.carving.columns, which);
                        continue;
                    }
                    part.line.clear();
                    part.guarded += run.encoding.row(&row, &run.carving.columns, &mut part.line);
                    part.rows.push(&part.line);
                }
            }
        }
        unreadable
    }

    /// Puts a row that cannot be read where it belongs.
    fn unreadable(&self, record: &Record<'_>, reason: String, number: u64, part: &mut Part) {
        let run = self.run;
        part.read += 1;
        if !run.has_rejects && !run.carving.lists_unreadable {
            part.error = Some(ReadRow { number, record: *record, table: run.name }.unreadable(reason, false));
            return;
        }
        part.unreadable += 1;
        if run.has_rejects {
            part.reject(record);
        }
        if let Some(separator) = run.findings {
            encode_unreadable((number, record.line), &reason, run.places.as_deref(), separator, &mut part.findings);
        }
        part.tally.unreadable(&reason, number, record.line);
    }
}

impl Part {
    fn new(carving: &Carving<'_>) -> Self {
        Self {
            rows: TextOut::default(),
            cells: CellBlock::default(),
            line: Vec::new(),
            guarded: 0,
            rejects: Vec::new(),
            findings: Vec::new(),
            read: 0,
            written: 0,
            rejected: 0,
            left_out: 0,
            unreadable: 0,
            empty: 0,
            bytes: 0,
            tally: Tally::part(carving.plan, carving.tells_texts),
            error: None,
        }
    }

    fn reject(&mut self, record: &Record<'_>) {
        self.rejected += 1;
        self.rejects.extend_from_slice(record.raw);
        self.rejects.extend_from_slice(record.line_end);
    }
}

/// A plan is shared by all workers.
const _: fn() = || {
    fn shared<T: Send + Sync>() {}
    shared::<Plan>();
};
