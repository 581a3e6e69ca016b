//! Blocks that are evaluated and encoded side by side: the rows of a block as the text or cells
//! that the outputs take.
//!
//! This runs on workers, one block at a time each. Rows go through the cuts 128 together, and what
//! the driver settled of each (`settle`) is appended to the bytes of each output; the driver writes
//! those in the order of the blocks. Nothing here decides what becomes of a row.

use std::ops::Range;

use keen_notch_core::{BatchResult, Fate, Finding, NewCell, Scratch};

use super::batches::{TOGETHER, UnreadableRow, next_batch};
use super::driver::{Encoded, Job, Part, Taker, settle, settle_unreadable};
use super::findings::{encode, encode_unreadable};
use super::row::{NewCells, OutColumn, Row};
use super::sinks::{RowFormat, WhichCells};
use crate::blocks::{Block, Contents, RowAt, RowCursor};
use crate::cells::{OldCell, OpenCell, OutputColumns, RowText};
use crate::error::TableError;
use crate::formats::csv::{Index, Record, bare_cell, cell_text};
use crate::text_out::TextOut;
use crate::unreadable::Unreadable;

impl Part {
    /// Evaluates and encodes the rows of a block.
    pub(super) fn encode(
        &mut self,
        job: &Job<'_>,
        row_format: &RowFormat,
        findings: Option<u8>,
        block: &mut Block,
        scratch: &mut Scratch,
    ) {
        (self.empty, self.bytes) = (block.empty, block.len() as u64);
        let mut contents = Contents::of(block);
        let length = contents.text.len();
        let rows = RowCursor::new(block, contents.invalid.as_deref(), job.width);
        let mut encoder =
            Encoder { job, row_format, findings, by_column: wanted_columns(job, row_format), rows };
        let done = loop {
            let batch = encoder.batch(&mut contents.text, scratch, self);
            contents.text.truncate(length);
            match batch {
                Ok(Some(UnreadableRow { row, reason })) => {
                    let record = encoder.rows.record(row.place, &contents.text);
                    let (tally, mut to) = (
                        &mut self.tally,
                        ToEncoded {
                            job,
                            row_format,
                            by_column: encoder.by_column.as_deref(),
                            findings,
                            into: &mut self.encoded,
                        },
                    );
                    if let Err(error) = settle_unreadable(
                        job,
                        row,
                        &record,
                        reason,
                        (&mut self.counts, tally),
                        &mut to,
                    ) {
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
    pub(super) fn clear(&mut self) {
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
    row_format: &'e RowFormat,
    /// As in [`Encoder`].
    by_column: Option<&'e [OutColumn]>,
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
        if let Some(columns) = self.by_column {
            into.cells.begin_row(row.number, row.line(), columns.len());
            for (place, column) in columns.iter().enumerate() {
                match column {
                    OutColumn::Source(n) => into.cells.add(place, &row.source_cell(*n)),
                    OutColumn::New(n) => into.cells.add(place, row.new_cell(*n)),
                }
            }
            return Ok(());
        }
        if let Some(text) = self.row_format.text() {
            text.row(columns.iter().map(|column| row.out_cell(*column)), &mut into.rows);
            return Ok(());
        }
        into.line.clear();
        into.guarded += self.row_format.row(row, columns, &mut into.line);
        into.rows.push(&into.line);
        Ok(())
    }

    fn reject(&mut self, row: &Row<'_>) -> Result<(), TableError> {
        self.into.rejects.extend_from_slice(row.record.raw);
        self.into.rejects.extend_from_slice(row.record.line_end);
        Ok(())
    }

    fn unreadable(
        &mut self,
        row: RowAt,
        record: &Record<'_>,
        reason: &Unreadable,
    ) -> Result<(), TableError> {
        if self.job.has_rejects {
            self.into.rejects.extend_from_slice(record.raw);
            self.into.rejects.extend_from_slice(record.line_end);
        }
        if let Some(separator) = self.findings {
            encode_unreadable(
                (row.number, row.line),
                &reason.to_string(),
                self.job.places.as_deref(),
                separator,
                &mut self.into.findings,
            );
        }
        Ok(())
    }

    /// Not known before it is the block's turn; the driver adds it then.
    fn has_let_go(&self) -> bool {
        false
    }
}

/// Evaluates the rows of a block, many together, and encodes them.
struct Encoder<'b> {
    job: &'b Job<'b>,
    row_format: &'b RowFormat,
    findings: Option<u8>,
    /// The columns that are put together column by column, where the outputs take them so.
    by_column: Option<Vec<OutColumn>>,
    rows: RowCursor<'b>,
}

/// A cell of a row of the block, by the place of its record and its column.
#[inline]
fn old_cell<'b>(index: &Index, place: usize, column: usize, block: &'b str) -> OldCell<'b> {
    if let Some(bounds) = index.cells.bounds(column) {
        return OldCell::Place((bounds[place], bounds[place + 1]));
    }
    let (from, to) = index.field(place, column);
    match bare_cell(block.as_bytes(), (from, to)) {
        Some(cell) => OldCell::Place(cell),
        None => OldCell::Text(cell_text(&block[from as usize..to as usize])),
    }
}

/// Adds these columns of rows in which nothing is unusual: the rows by their places in the batch,
/// and the places of their records in the block.
fn gather(
    into: &mut OutputColumns,
    columns: &[OutColumn],
    batch: &BatchResult<'_>,
    (rows, places): (Range<usize>, &[u32]),
    index: &Index,
) {
    let block = batch.block();
    into.begin_rows(batch, rows.clone(), columns.len());
    for (place, column) in columns.iter().enumerate() {
        match column {
            OutColumn::New(n) => into.add_new(place, batch.new_cells(*n, rows.clone())),
            OutColumn::Source(n) => {
                let cells = places.iter().map(|row| old_cell(index, *row as usize, *n, block));
                into.add_old(place, block, cells);
            }
        }
    }
}

/// Adds the texts of rows in which nothing is unusual: their places in the batch, and those of
/// their records in the block. What steps have made is written verbatim from `made_from` on.
fn push_texts(
    text: &RowText,
    columns: &[OutColumn],
    (batch, made_from): (&BatchResult<'_>, usize),
    (rows, places): (Range<usize>, &[u32]),
    index: &Index,
    into: &mut TextOut,
) {
    let (block, has_records) = (batch.block(), index.cells.rows() == 0);
    let open = |(from, to): (u32, u32), verbatim_to: usize| {
        let (from, to) = (from as usize, to as usize);
        OpenCell {
            open: &block.as_bytes()[from..],
            length: to - from,
            is_verbatim: to <= verbatim_to,
        }
    };
    let bare_field = |place: usize, column: usize, bare_to: u32| {
        let field = has_records.then(|| index.field(place, column));
        field.filter(|(_, to)| *to <= bare_to)
    };
    for (at, place) in rows.zip(places) {
        let place = *place as usize;
        // Asked once of the record up to its first quote, not of each cell.
        let (bare_to, verbatim_to) = if has_records {
            let bare = index.bare(place);
            let is_verbatim = (text.is_verbatim)(&block.as_bytes()[bare.clone()]);
            (bare.end as u32, if is_verbatim { bare.end } else { 0 })
        } else {
            (0, 0)
        };
        let mut room = into.room(text.short_row());
        room.push_end(text.begin);
        for (field, column) in text.fields.iter().zip(columns) {
            let text_of_quotes;
            let cell = match column {
                OutColumn::New(output) => {
                    let NewCell { open, length, from } = batch.cell(at, *output);
                    let is_verbatim = from + length <= verbatim_to || from >= made_from;
                    OpenCell { open, length, is_verbatim }
                }
                OutColumn::Source(column) => match bare_field(place, *column, bare_to) {
                    Some(field) => open(field, verbatim_to),
                    None => match old_cell(index, place, *column, block) {
                        OldCell::Place(cell) => open(cell, 0),
                        OldCell::Text(text) => {
                            text_of_quotes = text;
                            OpenCell::of(text_of_quotes.as_bytes())
                        }
                    },
                },
            };
            if !text.short_cell(field, cell, &mut room) {
                room.close();
                text.cell(field, cell, into);
                // The cells that follow need their room still.
                room = into.room(text.short_row());
            }
        }
        room.push_end(text.end);
        room.close();
    }
}

/// The columns that outputs which take cells ask for.
fn wanted_columns(job: &Job<'_>, row_format: &RowFormat) -> Option<Vec<OutColumn>> {
    let which = row_format.wanted_cells()?;
    let is_wanted =
        |column: &&OutColumn| which == WhichCells::All || matches!(column, OutColumn::New(_));
    Some(job.carving.columns.iter().filter(is_wanted).copied().collect())
}

impl Encoder<'_> {
    /// A row by itself: its place in the batch and in the block, its new cells and its findings.
    fn row<'r>(
        &'r self,
        (at, place): (usize, usize),
        evaluated: &'r BatchResult<'_>,
        cells: NewCells<'r>,
        findings: &'r [Finding<'r>],
    ) -> Row<'r> {
        let index = self.rows.index;
        let record = self.rows.record(place, evaluated.block());
        let columns = (index.cells.rows() > 0).then_some((&index.cells, place));
        let text = match self.rows.invalid() {
            None if columns.is_some() => evaluated.block(),
            None => &evaluated.block()[index.range(place)],
            Some(_) => std::str::from_utf8(record.raw).unwrap_or_default(),
        };
        let (number, places) = (evaluated.number(at), self.job.places.as_deref());
        Row { number, record, text, columns, cells, findings, places }
    }

    /// Encodes rows in which nothing is unusual: their places in the batch, and those of their
    /// records in the block. Returns whether that could be done; else each is to be settled by
    /// itself.
    fn add_usual(
        &self,
        (rows, places): (Range<usize>, &[u32]),
        (batch, verbatim_from): (&BatchResult<'_>, usize),
        into: &mut Encoded,
    ) -> bool {
        let (index, invalid) = (self.rows.index, self.rows.invalid());
        if self.row_format.is_whole() {
            let block = invalid.unwrap_or(batch.block().as_bytes());
            let is_text = invalid.is_none();
            let records = places.iter().map(|place| index.raw(*place as usize, block, is_text));
            let records = rows.zip(records);
            self.row_format.whole_rows(
                records,
                (batch, verbatim_from),
                &mut into.line,
                &mut into.rows,
            );
            return true;
        }
        if invalid.is_some() {
            return false;
        }
        if let Some(text) = self.row_format.text() {
            let columns = &self.job.carving.columns;
            let batch = (batch, verbatim_from);
            push_texts(text, columns, batch, (rows, places), index, &mut into.rows);
            return true;
        }
        let Some(columns) = &self.by_column else { return false };
        gather(&mut into.cells, columns, batch, (rows, places), index);
        true
    }

    /// Evaluates and encodes the next rows, as many as are taken together, up to one that cannot be
    /// read, which is returned.
    ///
    /// # Errors
    /// A finding that is to stop the work.
    fn batch(
        &mut self,
        text: &mut String,
        scratch: &mut Scratch,
        part: &mut Part,
    ) -> Result<Option<UnreadableRow>, TableError> {
        let (plan, job) = (self.job.carving.plan, self.job);
        let mut places = [0; TOGETHER];
        let (batch, unreadable) = next_batch(plan, &mut self.rows, text, scratch, &mut places, 0);
        let places = &places[..batch.len()];
        let evaluated = batch.evaluate();
        part.tally.add_batch(plan, &evaluated);
        part.counts.read += evaluated.len() as u64;
        let encoded = &mut part.encoded;
        let verbatim_from = self.row_format.verbatim_from(&evaluated);
        let is_listed = self.findings.is_some();
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
            let absent =
                if result.is_none() && is_listed { evaluated.findings(at) } else { Vec::new() };
            if result.is_none() && absent.is_empty() {
                // And so are those that follow up to the next unusual one.
                let end = evaluated.usual_up_to(next, is_listed);
                let rows = (at..end, &places[at..end]);
                if self.add_usual(rows, (&evaluated, verbatim_from), encoded) {
                    part.counts.written += (end - at) as u64;
                    next = end;
                    continue;
                }
            }
            let (cells, findings, fate) = match result {
                Some(result) => (NewCells::Row(result.cells), result.findings, result.fate),
                None => (NewCells::Batch(&evaluated, at), &*absent, Fate::Write),
            };
            let row = self.row((at, place), &evaluated, cells, findings);
            let (row_format, by_column) = (self.row_format, self.by_column.as_deref());
            let mut to =
                ToEncoded { job, row_format, by_column, findings: self.findings, into: encoded };
            settle(job, &row, fate, &mut part.counts, &mut to)?;
        }
        Ok(unreadable)
    }
}
