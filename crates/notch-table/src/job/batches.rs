//! Rows of a block as a batch, for evaluation; and the pass that evaluates all rows of a table and
//! writes nothing.

use std::sync::Arc;
use std::sync::atomic::AtomicBool;

use keen_notch_core::{AllRows, Batch, BatchResult, Plan, Scratch};

use crate::blocks::{BLOCK, Contents, RowAt, RowCursor, SideBySide};
use crate::error::TableError;
use crate::formats::csv::{bare_cell, cell_text, write_text_of};
use crate::table::Table;
use crate::unreadable::Unreadable;

/// Rows evaluated together: their cells stay in a core's nearest cache.
pub(super) const TOGETHER: usize = 128;

/// A row that cannot be read.
pub(super) struct UnreadableRow {
    pub row: RowAt,
    pub reason: Unreadable,
}

/// The next rows of a block as a batch, as many as are taken together, up to one that cannot be
/// read, which is returned as well. `places` gets the place of each among the records of the block;
/// `before` columns stand before those that the plan was compiled for.
pub(super) fn next_batch<'a>(
    plan: &'a Plan,
    rows: &mut RowCursor<'_>,
    text: &'a mut String,
    scratch: &'a mut Scratch,
    places: &mut [u32; TOGETHER],
    before: usize,
) -> (Batch<'a>, Option<UnreadableRow>) {
    let mut batch = Batch::new(plan, text, scratch);
    let mut unreadable = None;
    while batch.len() < TOGETHER {
        let (run, number, line) = rows.next_run(TOGETHER - batch.len());
        if !run.is_empty() {
            places[batch.len()..].iter_mut().zip(run.clone()).for_each(|(to, n)| *to = n as u32);
            batch.rows(number, rows.index.lines_of(run.clone()).map(|below| line + below));
            continue;
        }
        match rows.next(batch.block()) {
            Some((row, Ok(()))) => {
                places[batch.len()] = row.place as u32;
                batch.rows(row.number, std::iter::once(row.line));
            }
            Some((row, Err(reason))) => {
                unreadable = Some(UnreadableRow { row, reason });
                break;
            }
            None => break,
        }
    }
    add_cells(plan, rows, &places[..batch.len()], &mut batch, before);
    (batch, unreadable)
}

/// Adds the cells of the rows to a batch: their places in the block, if they stand there
/// verbatim.
fn add_cells(
    plan: &Plan,
    rows: &RowCursor<'_>,
    places: &[u32],
    batch: &mut Batch<'_>,
    before: usize,
) {
    let (index, invalid, width) = (rows.index, rows.invalid(), rows.width());
    // Nearly always the records of the rows follow each other.
    let ends = places.first().zip(places.last());
    let run = ends.map(|(first, last)| *first as usize..*last as usize + 1);
    let run = run.filter(|run| run.len() == places.len() && invalid.is_none());
    for (source, column) in plan.sources().iter().enumerate() {
        let column = column.index + before;
        if let Some(bounds) = index.cells.bounds(column) {
            let cells = places.iter().map(|n| (bounds[*n as usize], bounds[*n as usize + 1]));
            batch.cells(source, cells, |_, cell| Some(cell));
            continue;
        }
        let all = match &run {
            Some(run) if column == 0 => {
                batch.cells(source, index.first_fields_of(run.clone(), width), bare_cell)
            }
            Some(run) => {
                batch.cells(source, index.fields_of(run.clone(), width, column), bare_cell)
            }
            None => {
                let fields = places.iter().map(|n| index.field(*n as usize, column));
                let bare_cell = |text: &[u8], field| match invalid {
                    None => bare_cell(text, field),
                    Some(_) => None,
                };
                batch.cells(source, fields, bare_cell)
            }
        };
        if all {
            continue;
        }
        for (row, n) in places.iter().enumerate() {
            if !batch.is_unset(source, row) {
                continue;
            }
            if invalid.is_none() {
                let (from, to) = index.field(*n as usize, column);
                batch.set_cell(source, row, |text| write_text_of(text, from as usize..to as usize));
            } else {
                let record = rows.record(*n as usize, batch.block());
                let field = &record.raw[record.fields.at(column)];
                // The row is UTF-8: that was checked when it was read.
                let cell =
                    std::str::from_utf8(field).map(cell_text).unwrap_or_default().into_owned();
                batch.set_cell(source, row, |text| text.push_str(&cell));
            }
        }
    }
}

/// What a pass that evaluates all rows takes of a part of the table.
pub trait TakesRows {
    /// Takes rows that were evaluated together.
    fn rows(&mut self, plan: &Plan, result: &BatchResult<'_>);
    /// Takes a row that cannot be read: its number, the line it begins in, and why.
    fn unreadable(&mut self, row: u64, line: u64, reason: &Unreadable);
    /// A block is done; its size in bytes.
    fn block(&mut self, bytes: u64);
}

/// How a table is evaluated.
pub struct Evaluating<'e> {
    /// The cuts.
    pub plan: &'e Plan,
    /// How many columns stand before those that the plan was compiled for.
    pub before: usize,
    /// What must be known of all rows before one can be judged.
    pub all_rows: Option<Arc<AllRows>>,
    /// Becomes true when the work is to stop.
    pub interrupt: &'e AtomicBool,
}

/// Evaluates all rows of a table side by side. Each part of it fills a part of what is wanted, and
/// `take` is given the parts in their order and empties them.
///
/// # Errors
/// The table cannot be read, or what `take` returns.
pub fn evaluate_rows<P: TakesRows + Send, T: Send>(
    table: Table,
    how: &Evaluating<'_>,
    taker: T,
    part: impl Fn() -> P,
    take: impl Fn(&mut T, &mut P) -> Result<(), TableError> + Sync,
) -> Result<T, TableError> {
    let (name, width) = (table.name().to_owned(), table.columns().len());
    SideBySide { threads: table.workers(), name: &name, interrupt: Some(how.interrupt) }.run(
        table.into_blocks(BLOCK),
        taker,
        part,
        || Scratch::with_all_rows(how.all_rows.clone()),
        |scratch, block, part| {
            let bytes = block.len() as u64;
            let mut contents = Contents::of(block);
            let length = contents.text.len();
            let mut rows = RowCursor::new(block, contents.invalid.as_deref(), width);
            let mut places = [0; TOGETHER];
            loop {
                let text = &mut contents.text;
                let (batch, unreadable) =
                    next_batch(how.plan, &mut rows, text, scratch, &mut places, how.before);
                if !batch.is_empty() {
                    part.rows(how.plan, &batch.evaluate());
                }
                contents.text.truncate(length);
                match unreadable {
                    Some(UnreadableRow { row, reason }) => {
                        part.unreadable(row.number, row.line, &reason);
                    }
                    None if rows.is_at_end() => break,
                    None => {}
                }
            }
            part.block(bytes);
            contents.give_back(block);
        },
        take,
    )
}
