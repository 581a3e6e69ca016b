//! The run over separated text: blocks of whole rows, worked on side by side, written in their order.
//!
//! Each worker takes the next block, finds its records, learns which row and line it begins with as soon as the block before has
//! been counted, evaluates and encodes its rows, and writes them when it is its turn. What comes out does not depend on how many
//! workers there are or how large a block is.

use std::borrow::Cow;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Condvar, Mutex, PoisonError};
use std::thread;

use notch_core::{Batch, Fate, Plan, Scratch, Tally};

use super::findings::{FindingsFile, encode, encode_unreadable};
use super::rejects::Rejects;
use super::rows::ReadRow;
use super::{Carving, Encoding, NewCells, Progress, Row, RowSink, Summary};
use crate::csv::{Blocks, Index, Record, cell_text};
use crate::error::TableError;

/// What the workers share.
pub(super) struct Run<'r> {
    pub carving: &'r Carving<'r>,
    /// The name of the table.
    pub name: &'r str,
    /// How many columns it has.
    pub width: usize,
    pub separator: u8,
    pub encoding: Encoding,
    /// What divides the columns of the findings file, when there is one.
    pub findings: Option<u8>,
    pub has_rejects: bool,
}

/// Where the results go, in the order of the blocks.
pub(super) struct Outputs<'o> {
    pub sink: Box<dyn RowSink + 'o>,
    pub findings: Option<FindingsFile<'o>>,
    pub rejects: Option<Rejects>,
    pub summary: Summary,
}

/// Something that is done for one block after the other.
struct Turns<T> {
    state: Mutex<(u64, T)>,
    moved: Condvar,
}

impl<T> Turns<T> {
    fn new(state: T) -> Self {
        Self { state: Mutex::new((0, state)), moved: Condvar::new() }
    }

    /// Waits until it is the turn of block `n`; `None` when the work has stopped.
    fn take<R>(&self, n: u64, stopped: &AtomicBool, work: impl FnOnce(&mut T) -> R) -> Option<R> {
        let mut state = self.state.lock().unwrap_or_else(PoisonError::into_inner);
        while state.0 != n {
            if stopped.load(Ordering::Acquire) {
                return None;
            }
            state = self.moved.wait(state).unwrap_or_else(PoisonError::into_inner);
        }
        let done = work(&mut state.1);
        state.0 += 1;
        drop(state);
        self.moved.notify_all();
        Some(done)
    }

    fn wake(&self) {
        // Whoever waits holds the lock while it looks, so nobody misses the call.
        drop(self.state.lock().unwrap_or_else(PoisonError::into_inner));
        self.moved.notify_all();
    }

    fn into_inner(self) -> T {
        self.state.into_inner().unwrap_or_else(PoisonError::into_inner).1
    }
}

struct Shared<'o> {
    blocks: Mutex<(Blocks, u64)>,
    /// The row and the line the next block begins with.
    begins: Turns<(u64, u64)>,
    outputs: Turns<Outputs<'o>>,
    /// The first thing that went wrong, in the order of the blocks.
    error: Mutex<Option<TableError>>,
    stopped: AtomicBool,
}

impl Shared<'_> {
    fn stop(&self, error: TableError) {
        self.error.lock().unwrap_or_else(PoisonError::into_inner).get_or_insert(error);
        self.stopped.store(true, Ordering::Release);
        self.begins.wake();
        self.outputs.wake();
    }
}

/// Stops all workers when one of them panics: the others would wait for its block.
struct StopOnPanic<'s, 'o>(&'s Shared<'o>);

impl Drop for StopOnPanic<'_, '_> {
    fn drop(&mut self) {
        if thread::panicking() {
            self.0.stop(TableError::Interrupted);
        }
    }
}

/// Works through all blocks; `line` is the line the first row begins in.
///
/// # Errors
/// As [`super::carve`].
pub(super) fn run<'o>(run: &Run<'_>, blocks: Blocks, line: u64, threads: usize, outputs: Outputs<'o>) -> Result<Outputs<'o>, TableError> {
    let shared = Shared {
        blocks: Mutex::new((blocks, 0)),
        begins: Turns::new((1, line)),
        outputs: Turns::new(outputs),
        error: Mutex::new(None),
        stopped: AtomicBool::new(false),
    };
    thread::scope(|scope| {
        let work = || {
            let _stop = StopOnPanic(&shared);
            work(run, &shared);
        };
        for _ in 1..threads {
            scope.spawn(work);
        }
        work();
    });
    match shared.error.into_inner().unwrap_or_else(PoisonError::into_inner) {
        Some(error) => Err(error),
        None => Ok(shared.outputs.into_inner()),
    }
}

/// What has become of a block.
struct Part {
    rows: Vec<u8>,
    guarded: u64,
    rejects: Vec<u8>,
    findings: Vec<u8>,
    read: u64,
    written: u64,
    rejected: u64,
    left_out: u64,
    unreadable: u64,
    tally: Tally,
    error: Option<TableError>,
}

fn work(run: &Run<'_>, shared: &Shared<'_>) {
    let plan = run.carving.plan;
    let mut block = Vec::new();
    let mut index = Index::new();
    let mut scratch = Scratch::with_all_rows(run.carving.all_rows.clone());
    let mut part = Part {
        rows: Vec::new(),
        guarded: 0,
        rejects: Vec::new(),
        findings: Vec::new(),
        read: 0,
        written: 0,
        rejected: 0,
        left_out: 0,
        unreadable: 0,
        tally: Tally::part(plan),
        error: None,
    };
    while !shared.stopped.load(Ordering::Acquire) {
        let (n, length) = {
            let mut blocks = shared.blocks.lock().unwrap_or_else(PoisonError::into_inner);
            if run.carving.interrupted() {
                drop(blocks);
                return shared.stop(TableError::Interrupted);
            }
            let length = match blocks.0.next(&mut block) {
                Ok(Some(length)) => length,
                Ok(None) => return,
                Err(cause) => {
                    // Blocks before this one may hold an error that comes first.
                    let n = blocks.1;
                    blocks.1 += 1;
                    drop(blocks);
                    let error = TableError::io(run.name, "cannot be read", cause);
                    shared.begins.take(n, &shared.stopped, |_| ());
                    shared.outputs.take(n, &shared.stopped, |_| ());
                    return shared.stop(error);
                }
            };
            blocks.1 += 1;
            (blocks.1 - 1, length)
        };
        let block = &block[..length];
        index.build(block, run.separator);
        let empty = if run.width > 1 { index.empty() as u64 } else { 0 };
        let rows = index.len() as u64 - empty;
        let lines = index.lines;
        let begin = shared.begins.take(n, &shared.stopped, |begin| std::mem::replace(begin, (begin.0 + rows, begin.1 + lines)));
        let Some((row, line)) = begin else { return };
        each_row(run, block, &index, (row, line), &mut scratch, &mut part);
        let bytes = block.len() as u64;
        let written = shared.outputs.take(n, &shared.stopped, |outputs| hand_on(run, outputs, &mut part, empty, bytes));
        match written {
            Some(Ok(())) => {}
            Some(Err(error)) => return shared.stop(error),
            None => return,
        }
    }
}

/// Writes what has become of a block, and counts it.
fn hand_on(run: &Run<'_>, outputs: &mut Outputs<'_>, part: &mut Part, empty: u64, bytes: u64) -> Result<(), TableError> {
    if let Some(error) = part.error.take() {
        return Err(error.with_rows_gone(outputs.sink.has_let_go()));
    }
    outputs.sink.text(&part.rows, part.guarded)?;
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
    summary.empty_lines += empty;
    summary.tally.merge(&mut part.tally);
    (part.read, part.written, part.rejected, part.left_out, part.unreadable, part.guarded) = (0, 0, 0, 0, 0, 0);
    part.rows.clear();
    part.rejects.clear();
    part.findings.clear();
    if let Some(progress) = run.carving.progress {
        progress(Progress { rows: summary.read, bytes });
    }
    Ok(())
}

/// So many rows are evaluated together: their cells stay in a core's nearest cache.
const TOGETHER: usize = 128;

/// Evaluates and encodes the rows of a block, which begins with that row in that line.
fn each_row(run: &Run<'_>, block: &[u8], index: &Index, (mut number, line): (u64, u64), scratch: &mut Scratch, part: &mut Part) {
    // Nearly every block is text as a whole; in others each row is looked at by itself.
    let block = Block { run, bytes: block, text: std::str::from_utf8(block).ok(), index, line };
    let mut next = 0;
    while next < index.len() && part.error.is_none() {
        let unreadable = block.batch(&mut next, &mut number, scratch, part);
        if let Some((record, reason)) = unreadable.filter(|_| part.error.is_none()) {
            block.unreadable(&record, reason, number, part);
            number += 1;
        }
    }
}

/// A block whose records have been found.
struct Block<'b> {
    run: &'b Run<'b>,
    bytes: &'b [u8],
    text: Option<&'b str>,
    index: &'b Index,
    /// The line it begins in.
    line: u64,
}

impl<'b> Block<'b> {
    /// Record `n` and its text, or why it cannot be read.
    #[inline]
    fn record(&self, n: usize) -> (Record<'b>, Result<&'b str, String>) {
        let record = self.index.record(n, self.bytes, self.line);
        let from = self.index.start(n);
        let text = match self.text {
            Some(text) => record.well_formed(self.run.width).map(|()| &text[from..from + record.raw.len()]),
            None => record.readable(self.run.width),
        };
        (record, text)
    }

    /// Adds a record to a batch, its cells where they lie in the block.
    #[inline]
    fn add(&self, n: usize, record: &Record<'_>, text: &str, batch: &mut Batch<'_>) {
        let from = self.index.start(n);
        for (source, column) in self.run.carving.plan.sources().iter().enumerate() {
            let field = record.fields.at(column.index);
            if self.text.is_some() && (record.unquoted || record.raw.get(field.start) != Some(&b'"')) {
                batch.cell(source, from + field.start, from + field.end);
                continue;
            }
            match cell_text(&text[field.clone()]) {
                Cow::Borrowed(cell) if self.text.is_some() => {
                    batch.cell(source, from + field.start + 1, from + field.start + 1 + cell.len())
                }
                cell => batch.cell_of(source, &cell),
            }
        }
    }

    /// Evaluates and encodes the rows from record `next` on, as many as are taken together, up to one that cannot be read, which it
    /// gives with the reason; `number` is the number of the next row.
    fn batch(&self, next: &mut usize, number: &mut u64, scratch: &mut Scratch, part: &mut Part) -> Option<(Record<'b>, String)> {
        let (plan, run) = (self.run.carving.plan, self.run);
        let mut batch = Batch::new(plan, self.text.unwrap_or_default(), scratch);
        let mut records = [(0, ""); TOGETHER];
        let mut unreadable = None;
        while *next < self.index.len() && batch.len() < TOGETHER {
            let (record, text) = self.record(*next);
            *next += 1;
            if record.raw.is_empty() && run.width > 1 {
                continue;
            }
            match text {
                Ok(text) => {
                    records[batch.len()] = (*next - 1, text);
                    self.add(*next - 1, &record, text, &mut batch);
                    batch.row(*number, record.line);
                    *number += 1;
                }
                Err(reason) => {
                    unreadable = Some((record, reason));
                    break;
                }
            }
        }
        let evaluated = batch.evaluate();
        part.tally.add_batch(plan, &evaluated);
        part.read += evaluated.len() as u64;
        let mut unusual = evaluated.unusual().iter().peekable();
        for (at, (n, text)) in records.iter().enumerate().take(evaluated.len()) {
            let (number, record) = (evaluated.number(at), self.index.record(*n, self.bytes, self.line));
            let Some((_, result)) = unusual.next_if(|(of, _)| *of == at) else {
                let row = Row { number, record, text, cells: NewCells::Batch(&evaluated, at), findings: &[] };
                part.written += 1;
                part.guarded += run.encoding.usual_row(&row, &evaluated, at, &run.carving.columns, &mut part.rows);
                continue;
            };
            let row = Row { number, record, text, cells: NewCells::Row(result.cells), findings: result.findings };
            if let Some(separator) = run.findings.filter(|_| !result.findings.is_empty()) {
                encode(plan, &row, separator, &mut part.findings);
            }
            match result.fate {
                Fate::Stop(finding) => {
                    let read = ReadRow { number, record, table: run.name };
                    part.error = Some(read.stopped(plan, &result.findings[finding], false));
                    return None;
                }
                Fate::Reject if run.has_rejects => part.reject(&record),
                Fate::LeaveOut => part.left_out += 1,
                Fate::Write | Fate::Reject => {
                    part.written += 1;
                    part.guarded += run.encoding.row(&row, &run.carving.columns, &mut part.rows);
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
            encode_unreadable(number, record.line, &reason, separator, &mut part.findings);
        }
        part.tally.unreadable(&reason, number, record.line);
    }
}

impl Part {
    fn reject(&mut self, record: &Record<'_>) {
        self.rejected += 1;
        self.rejects.extend_from_slice(record.raw);
        self.rejects.extend_from_slice(record.line_end);
    }
}

/// How many workers there are when nothing is said: one for each core.
pub(super) fn usual_threads() -> usize {
    thread::available_parallelism().map_or(1, std::num::NonZero::get)
}

/// A plan is shared by all workers.
const _: fn() = || {
    fn shared<T: Send + Sync>() {}
    shared::<Plan>();
};
