//! Many rows together: the fast paths cut by cut, then what is left row by row.
//!
//! One cut over many rows does the same few operations again and again, which is what processors
//! are quickest at. The rows in which every cut can go its fast path are done then; each of the
//! others goes the slow path, which takes over what is known already.

use bumpalo::Bump;
use bumpalo::collections::Vec as RowVec;

use super::batch_result::BatchResult;
use super::columns::{Absent, Columns, Known, RowPlace};
use super::fast_path::FastRows;
use super::scratch::Scratch;
use crate::program::Event;
use crate::program::kernel::{Grouped, search};
use crate::program::span::CellSpan;
use crate::program::{CompiledCheck, CompiledColumn, CompiledSource, Demand, Joined, Plan, Start};
use crate::text::characters::is_blank;

/// Rows that are evaluated together: cells of one block of text.
///
/// What is called in this order: [`Batch::rows`]; for each of [`Plan::sources`]
/// [`Batch::cells`], and [`Batch::set_cell`] for those that do not lie in the block; then
/// [`Batch::evaluate`]. Afterwards the block is cut back to its length, for new texts stand after
/// it.
///
/// ```
/// # use keen_notch_core::{Batch, Plan, PlanOptions, Scratch, parse_assignment};
/// let cut = parse_assignment(r#"year = {lot} | part 2 by "-""#)?;
/// let plan = Plan::compile(&[cut], &["lot".to_owned()], &PlanOptions::default())?;
/// let mut block = "FH-2019\nGR-2020\n".to_owned();
/// let mut scratch = Scratch::default();
/// let mut batch = Batch::new(&plan, &mut block, &mut scratch);
/// batch.rows(1, [2, 3].into_iter());
/// batch.cells(0, [(0, 7), (8, 15)].into_iter(), |_, place| Some(place));
/// let rows = batch.evaluate();
/// assert_eq!([rows.text(0, 0), rows.text(1, 0)], ["2019", "2020"]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct Batch<'a> {
    plan: &'a Plan,
    /// The block, and after it what is made of it.
    text: &'a mut String,
    scratch: &'a mut Scratch,
    /// How long the block is, in bytes.
    block: usize,
}

impl<'a> Batch<'a> {
    /// An empty batch for rows of a block. What is made will stand after the block: it is to be
    /// cut off again before the next batch. What was in the scratch before is gone.
    pub fn new(plan: &'a Plan, block: &'a mut String, scratch: &'a mut Scratch) -> Self {
        scratch.arena.reset();
        let columns = &mut scratch.columns;
        columns.sources.resize_with(plan.sources().len(), Vec::new);
        columns.found.resize_with(plan.searches.len(), Vec::new);
        let values = plan.cuts.iter().map(|cut| cut.names.len()).sum();
        columns.values.resize_with(values, Vec::new);
        columns.rows.clear();
        columns.sources.iter_mut().for_each(Vec::clear);
        Self { plan, block: block.len(), text: block, scratch }
    }

    /// Adds rows one after the other: the number of the first one, from 1, and the lines they begin
    /// in. Cells are added when all rows are.
    #[inline]
    pub fn rows(&mut self, first: u64, lines: impl Iterator<Item = u64>) {
        let rows = (first..).zip(lines).map(|(number, line)| RowPlace { number, line });
        self.scratch.columns.rows.extend(rows);
    }

    /// Adds the cells of one of [`Plan::sources`], one for each row: from which byte of the block
    /// up to which its field lies. `cell` tells where in the field its text stands, if it does;
    /// returns whether all do. The others are to be set.
    #[inline]
    pub fn cells(
        &mut self,
        source: usize,
        fields: impl Iterator<Item = (u32, u32)>,
        cell: impl Fn(&[u8], (u32, u32)) -> Option<(u32, u32)>,
    ) -> bool {
        let (mut all, text) = (true, self.text.as_bytes());
        let spans = &mut self.scratch.columns.sources[source];
        // Two loops: a plain one takes a third fewer instructions.
        spans.extend(fields.map(CellSpan::from));
        for span in spans {
            let (from, to) = span.span();
            let cell = cell(text, (from as u32, to as u32));
            all &= cell.is_some();
            *span = cell.map_or(CellSpan::NONE, CellSpan::from);
        }
        all
    }

    /// Whether a cell is to be set.
    #[inline]
    pub fn is_unset(&self, source: usize, row: usize) -> bool {
        self.scratch.columns.sources[source][row] == CellSpan::NONE
    }

    /// Sets a cell that does not stand in the block as it is: `write` is given the block, and
    /// writes the text after what stands there.
    pub fn set_cell(&mut self, source: usize, row: usize, write: impl FnOnce(&mut String)) {
        let from = self.text.len();
        write(self.text);
        self.scratch.columns.sources[source][row] = CellSpan::new(from, self.text.len());
    }

    /// The block.
    #[inline]
    pub fn block(&self) -> &str {
        &self.text[..self.block]
    }

    /// How many rows there are.
    #[inline]
    pub fn len(&self) -> usize {
        self.scratch.columns.rows.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Evaluates all cuts for all rows.
    pub fn evaluate(self) -> BatchResult<'a> {
        let Self { plan, text, scratch, block } = self;
        let made_from = text.len();
        {
            let Scratch { columns, arena, .. } = &mut *scratch;
            columns.run_fast(plan, text, arena);
        }
        // A copy of fixed length may go on after the last text.
        text.push_str(BEHIND);
        let (scratch, text): (&'a Scratch, &'a str) = (scratch, text);
        let columns = &scratch.columns;
        let mut long = RowVec::new_in(&scratch.arena);
        let (rows, slow) = (columns.rows.len(), columns.rows.len() - columns.usual.len());
        // None is looked at where none is slow, as in most batches.
        for row in (0..rows).filter(|row| columns.is_slow[*row]).take(slow) {
            let cells = columns.sources.iter().map(|column| column[row].of(text));
            let known = Known { columns, text, row };
            long.push((
                row,
                plan.evaluate_in(cells, Some(known), scratch, columns.rows[row].number),
            ));
        }
        let long = long.into_bump_slice();
        // What a row's result counts is counted there.
        let is_counted = |seen: &Grouped| {
            let result =
                long.binary_search_by_key(&seen.row, |(row, _)| *row).ok().map(|n| &long[n].1);
            result.is_some_and(|result| result.events.iter().any(|event| event.id == seen.event))
        };
        let mut events = RowVec::new_in(&scratch.arena);
        events.extend(
            columns
                .grouped
                .iter()
                .filter(|seen| !is_counted(seen))
                .map(|seen| (seen.row, Event { id: seen.event, text: seen.place.of(text) })),
        );
        let made = plan.outputs().iter().map(|output| {
            let slot = plan.cuts[output.cut].slot + output.name_place;
            &*columns.values[slot]
        });
        BatchResult {
            plan,
            text,
            block,
            made_from,
            columns,
            outputs: scratch.arena.alloc_slice_fill_iter(made),
            long,
            events: events.into_bump_slice(),
        }
    }
}

impl Columns {
    /// Takes the rows through all cuts that have a fast path.
    fn run_fast(&mut self, plan: &Plan, text: &mut String, arena: &Bump) {
        for (searched, found) in plan.searches.iter().zip(&mut self.found) {
            let (text, byte) = (text.as_bytes(), searched.byte);
            let places = self.sources[searched.source].iter().map(|place| place.span());
            found.clear();
            found.extend(places.map(|(from, to)| search(text, from, to, byte)));
        }
        let Self { rows, sources, is_slow, .. } = self;
        is_slow.clear();
        is_slow.resize(rows.len(), false);
        find_unusual(plan, sources, text, is_slow);
        self.run_cuts(plan, text, arena);
        let Self { is_slow, usual, .. } = self;
        usual.clear();
        if is_slow.contains(&true) {
            usual
                .extend((0..).zip(&*is_slow).filter(|(_, is_slow)| !**is_slow).map(|(row, _)| row));
        } else {
            usual.extend(0..is_slow.len() as u32);
        }
        self.find_absent(plan, text);
    }

    /// Takes the rows through the fast path of each cut; where a cut has none all rows are slow.
    fn run_cuts(&mut self, plan: &Plan, text: &mut String, arena: &Bump) {
        let Self {
            rows, sources, found, values, is_slow, lacking, grouped, fared, branches, ..
        } = self;
        lacking.clear();
        grouped.clear();
        branches.clear();
        for (n, cut) in plan.cuts.iter().enumerate() {
            let (before, here) = values.split_at_mut(cut.slot);
            let [places, others @ ..] = &mut here[..cut.names.len()] else { continue };
            places.clear();
            let Some(path) = &cut.fast else {
                is_slow.fill(true);
                continue;
            };
            let mut cells = None;
            match &path.start {
                Start::Row => places.resize(rows.len(), CellSpan::NONE),
                Start::Source(source) => {
                    let all = &*sources[*source];
                    places.extend_from_slice(all);
                    // All are asked, which takes fewer instructions than to stop at the first.
                    if all.iter().fold(false, |any, cell| any | cell.is_none()) {
                        let blank = places.iter_mut().filter(|cell| cell.is_none());
                        blank.for_each(|cell| *cell = CellSpan::BLANK);
                    }
                    cells = Some(all);
                }
                Start::Value(slot) => places.extend_from_slice(&before[*slot]),
                Start::Template(pieces) => {
                    places.extend((0..rows.len()).map(|row| join(pieces, sources, row, text)));
                }
            }
            let seen_before = grouped.len();
            let mut fast = FastRows {
                spans: places,
                others,
                is_slow,
                text,
                found: path.search.map(|search| &*found[search]),
                cells,
                grouped,
                sources,
                arena,
                cell_limit: plan.cell_limit,
                branches: fared,
            };
            if path.run(&cut.branches, &mut fast) {
                lacking.push(n);
            }
            branches.extend(fared.drain(..).map(|(row, branch)| (n, row, branch)));
            if cut.names[0].hidden && !cut.is_read {
                grouped.truncate(seen_before);
            }
        }
    }

    /// Lists where cuts certainly return nothing in rows that are not slow.
    fn find_absent(&mut self, plan: &Plan, text: &str) {
        let Self { sources, values, is_slow, lacking, absent, .. } = self;
        absent.clear();
        for cut in &*lacking {
            let cells = plan.cuts[*cut].origin.map(|origin| &sources[origin]);
            let places = values[plan.cuts[*cut].slot].iter_mut().enumerate();
            for (row, place) in places.filter(|(row, place)| place.is_none() && !is_slow[*row]) {
                absent.push(Absent { row, cut: *cut, is_said: false });
                // A cell of white space has gone through the steps.
                if cells.is_some_and(|cells| is_blank(cells[row].of(text))) {
                    *place = CellSpan::BLANK;
                }
            }
        }
        absent.sort_unstable();
        let blank = |absent: &Absent| {
            let cut = &plan.cuts[absent.cut];
            cut.origin.filter(|_| values[cut.slot][absent.row] == CellSpan::BLANK)
        };
        for n in 1..absent.len() {
            if let Some(origin) = blank(&absent[n]) {
                let before =
                    absent[..n].iter().rev().take_while(|before| before.row == absent[n].row);
                absent[n].is_said = before.map(blank).any(|before| before == Some(origin));
            }
        }
    }
}

/// Marks the rows that may not have what is demanded of columns and rows, column by column.
fn find_unusual(plan: &Plan, sources: &[Vec<CellSpan>], text: &str, is_slow: &mut [bool]) {
    if plan.only_rows.is_some() || !plan.uniques.is_empty() {
        is_slow.fill(true);
        return;
    }
    let cell = |source: usize, row: usize| Some(sources.get(source)?.get(row)?.of(text));
    for CompiledColumn { source, required, checks, .. } in &plan.columns {
        let mut look_closely = |row: usize| {
            let filled = cell(*source, row).filter(|text| !is_blank(text));
            let is_met =
                |check: &Demand| check.is_met_by(filled, &|source: usize| cell(source, row));
            is_slow[row] |= if filled.is_some() { !checks.iter().all(is_met) } else { *required };
        };
        // Most cells are as they should be, and told from their bytes.
        let spans = || sources[*source].iter().copied().zip(0..);
        let is_filled = |span: CellSpan| {
            let (from, to) = span.span();
            from < to && text.as_bytes()[from].is_ascii_graphic()
        };
        spans().filter(|(span, _)| !is_filled(*span)).for_each(|(_, row)| look_closely(row));
        for check in checks {
            check.find_unsure(text, spans(), &mut look_closely);
        }
    }
    for CompiledCheck { needs, demand, .. } in &plan.checks {
        for (row, is_slow) in is_slow.iter_mut().enumerate() {
            let is_there = |source: &CompiledSource| match source {
                CompiledSource::Column(n) => cell(*n, row).is_some_and(|text| !is_blank(text)),
                _ => false,
            };
            *is_slow |= !(needs.iter().all(is_there)
                && demand.is_met_by(None, &|source: usize| cell(source, row)));
        }
    }
}

/// What stands after all texts that were made.
const BEHIND: &str = "                                ";

/// Writes the pieces of a template after the text of the batch; none where a field is blank.
fn join(pieces: &[Joined], sources: &[Vec<CellSpan>], row: usize, text: &mut String) -> CellSpan {
    let from = text.len();
    for piece in pieces {
        match piece {
            Joined::Text(literal) => text.push_str(literal),
            Joined::Source(source) => {
                let cell = sources[*source][row];
                if is_blank(cell.of(text)) {
                    text.truncate(from);
                    return CellSpan::NONE;
                }
                let (from, to) = cell.span();
                text.extend_from_within(from..to);
            }
        }
    }
    CellSpan::new(from, text.len())
}
