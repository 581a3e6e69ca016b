//! Many rows together: the fast paths cut by cut, then what is left row by row.
//!
//! One cut over many rows does the same few operations again and again, which is what processors
//! are quickest at. The rows in which every cut can go its fast path are done then; each of the
//! others goes the slow path, which takes over what is known already.

use std::ops::Range;

use bumpalo::Bump;
use bumpalo::collections::Vec as RowVec;

use super::columns::{Absent, Columns, Known, RowPlace};
use super::fast_path::FastRows;
use super::result::{Branch, RowResult};
use super::scratch::Scratch;
use crate::finding::{About, Finding, FindingKind};
use crate::program::BLANK;
use crate::program::Event;
use crate::program::Plan;
use crate::program::kernel::{Grouped, search};
use crate::program::span::{CellSpan, Why};
use crate::program::{Joined, Start};
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

/// What the cuts make of the rows of a batch.
pub struct BatchResult<'a> {
    plan: &'a Plan,
    text: &'a str,
    block: usize,
    columns: &'a Columns,
    /// What has been made for each of the plan's outputs.
    outputs: &'a [&'a [CellSpan]],
    /// The rows that went the slow path, by their place in the batch.
    long: &'a [(usize, RowResult<'a>)],
    /// What is counted of the rows beside what their results say: the row, by its place in the
    /// batch, and the event.
    events: &'a [(usize, Event<'a>)],
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
    /// up to which each lies; returns whether all do. The others are to be set.
    #[inline]
    pub fn cells<T>(
        &mut self,
        source: usize,
        rows: impl Iterator<Item = T>,
        place: impl Fn(&[u8], T) -> Option<(u32, u32)>,
    ) -> bool {
        let (mut all, text) = (true, self.text.as_bytes());
        self.scratch.columns.sources[source].extend(rows.map(|row| {
            let cell = place(text, row);
            all &= cell.is_some();
            cell.map_or(CellSpan::NONE, CellSpan::from)
        }));
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
        {
            let Scratch { columns, arena, .. } = &mut *scratch;
            columns.run_fast(plan, text, arena);
        }
        // Whoever copies more than a text at once may go on after the last one.
        text.push_str(BEHIND);
        let (scratch, text): (&'a Scratch, &'a str) = (scratch, text);
        let columns = &scratch.columns;
        let mut long = RowVec::new_in(&scratch.arena);
        for row in (0..columns.rows.len()).filter(|row| columns.is_slow[*row]) {
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
        if plan.looks_at_rows() {
            for (row, is_slow) in is_slow.iter_mut().enumerate() {
                *is_slow = !plan
                    .is_usual(&|source| sources.get(source).map(|column| column[row].of(text)));
            }
        }
        self.run_cuts(plan, text, arena);
        let Self { is_slow, usual, .. } = self;
        usual.clear();
        usual.extend((0..).zip(&*is_slow).filter(|(_, is_slow)| !**is_slow).map(|(row, _)| row));
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
                    let blank = |cell: &CellSpan| cell.is_none().then_some(CellSpan::BLANK);
                    let all = &sources[*source];
                    places.extend(all.iter().map(|cell| blank(cell).unwrap_or(*cell)));
                    cells = Some(&**all);
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

/// A new cell of a batch.
#[derive(Debug, Clone, Copy)]
pub struct NewCell<'a> {
    /// Its text, with what stands after it in memory: that many bytes may be copied at once as one
    /// likes.
    pub open: &'a [u8],
    /// How many bytes of that are its text.
    pub length: usize,
    /// It is a piece of the block.
    pub is_cut: bool,
}

impl<'a> BatchResult<'a> {
    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.columns.rows.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The block.
    #[inline]
    pub fn block(&self) -> &'a str {
        &self.text[..self.block]
    }

    /// The number of a row, from 1.
    pub fn number(&self, row: usize) -> u64 {
        self.columns.rows[row].number
    }

    /// The rows in which something was unusual, by their place in the batch, and the result of
    /// each. All others are to be written, and there is nothing to be said of them but
    /// [`BatchResult::findings`].
    pub fn unusual(&self) -> &'a [(usize, RowResult<'a>)] {
        self.long
    }

    /// What is to be said of a row that is not unusual: that a cut has returned nothing. In the
    /// order of the cuts, then notes.
    pub fn findings(&self, row: usize) -> Vec<Finding<'a>> {
        let absent = &self.columns.absent;
        let from = absent.partition_point(|absent| absent.row < row);
        let absent = absent[from..].iter().take_while(|absent| absent.row == row);
        let mut findings: Vec<Finding<'a>> =
            absent.filter_map(|absent| self.finding(*absent)).collect();
        findings.sort_by_key(|finding| finding.kind.is_note());
        findings
    }

    /// Returns every finding and note, with its row by its place in the batch: those of the unusual
    /// rows first, those of a row together.
    pub fn each_finding(&self, mut take: impl FnMut(usize, &Finding<'a>)) {
        self.long.iter().for_each(|(row, result)| {
            result.findings.iter().for_each(|finding| take(*row, finding))
        });
        for absent in self.absent() {
            if let Some(finding) = self.finding(*absent) {
                take(absent.row, &finding);
            }
        }
    }

    /// What is counted of the rows beside what the results of unusual ones say.
    pub(crate) fn events(&self) -> &'a [(usize, Event<'a>)] {
        self.events
    }

    /// The cuts in rows that are not unusual whose piece another chain than the first one has
    /// given, and how their chains fared.
    pub(crate) fn branches(&self) -> impl Iterator<Item = (usize, Branch)> {
        let columns = self.columns;
        columns
            .branches
            .iter()
            .filter(|(_, row, _)| !columns.is_slow[*row])
            .map(|(cut, _, branch)| (*cut, *branch))
    }

    /// The cuts that certainly return nothing in rows that are not unusual, row by row.
    pub(crate) fn absent(&self) -> &'a [Absent] {
        &self.columns.absent
    }

    /// What is to be said of one; `None` when nothing is.
    pub(crate) fn finding(&self, absent: Absent) -> Option<Finding<'a>> {
        let cut = &self.plan.cuts[absent.cut];
        let way = cut.fast.as_ref()?;
        match self.columns.values[cut.slot][absent.row].why()? {
            Why::Blank if absent.is_said => None,
            Why::Blank => cut.origin.map(|origin| Finding {
                about: About::Column(origin),
                kind: FindingKind::Blank,
                reason: BLANK,
                counted_as: None,
                value: "",
            }),
            Why::Reason(reason) => {
                let is_said = cut.names.iter().any(|name| !name.optional && !name.hidden);
                let about = About::Name { cut: absent.cut, name: 0 };
                is_said.then(|| Finding {
                    about,
                    kind: FindingKind::Missing,
                    reason: way.reasons.get(reason).map_or("", |reason| reason),
                    counted_as: None,
                    value: "",
                })
            }
        }
    }

    /// The rows, by their place in the batch, in which another chain of a cut than the first one
    /// has given the piece, or none has: the chain, from 0.
    pub fn other_chains(&self, cut: usize) -> Vec<(usize, Option<usize>)> {
        let columns = self.columns;
        let usual =
            columns.branches.iter().filter(|(of, row, _)| *of == cut && !columns.is_slow[*row]);
        let mut others: Vec<_> = usual.map(|(_, row, branch)| (*row, branch.taken)).collect();
        let absent = self.absent().iter().filter(|absent| absent.cut == cut);
        others.extend(absent.map(|absent| (absent.row, None)));
        let unusual = self.long.iter().map(|(row, result)| (*row, result.branches[cut].taken));
        others.extend(unusual.filter(|(_, taken)| *taken != Some(0)));
        others
    }

    /// The cell of a source in a row.
    pub(crate) fn source(&self, row: usize, source: usize) -> &'a str {
        self.columns.sources[source][row].of(self.text)
    }

    /// The new cells of a row that is not unusual, in the order of [`Plan::outputs`].
    #[inline(always)]
    pub fn cells(&self, row: usize) -> impl ExactSizeIterator<Item = NewCell<'a>> {
        let new_cell = self.new_cell();
        self.outputs.iter().map(move |column| new_cell(column[row]))
    }

    /// A new cell of a row that is not unusual, by its place among [`Plan::outputs`].
    #[inline]
    pub fn cell(&self, row: usize, output: usize) -> NewCell<'a> {
        self.new_cell()(self.outputs[output][row])
    }

    /// The cells of a new column, by its place among [`Plan::outputs`], in some rows none of which
    /// is unusual.
    #[inline(always)]
    pub fn new_cells(
        &self,
        output: usize,
        rows: Range<usize>,
    ) -> impl ExactSizeIterator<Item = NewCell<'a>> {
        self.outputs[output][rows].iter().copied().map(self.new_cell())
    }

    /// What makes the cell at a place.
    #[inline(always)]
    fn new_cell(&self) -> impl Fn(CellSpan) -> NewCell<'a> + use<'a> {
        let (text, block) = (self.text.as_bytes(), self.block);
        move |place| {
            let (from, to) = place.span();
            NewCell { open: &text[from..], length: to - from, is_cut: from < block }
        }
    }

    /// The text of such a cell, by its place among the outputs.
    pub fn text(&self, row: usize, output: usize) -> &'a str {
        self.outputs[output][row].of(self.text)
    }

    /// How many cells of a new column, by its place among [`Plan::outputs`], are blank without a
    /// finding of their cut that is no note.
    pub fn blank(&self, output: usize) -> usize {
        let column = self.outputs[output];
        let is_usual = |row: &&u32| column[**row as usize].is_none();
        let cut = self.plan.outputs()[output].cut;
        let is_blank = |(_, row): &&(usize, RowResult<'_>)| {
            let has_finding = row
                .findings
                .iter()
                .any(|finding| !finding.kind.is_note() && finding.about.cut() == Some(cut));
            row.cells.get(output).is_none_or(|cell| cell.text.is_empty()) && !has_finding
        };
        self.columns.usual.iter().filter(is_usual).count()
            + self.long.iter().filter(is_blank).count()
    }

    /// The texts of a new column, by its place among [`Plan::outputs`]: each with what stands
    /// after it, how many bytes of that are its text, and its row's place in the batch; of the
    /// rows that are not unusual. Some may be empty.
    #[inline(always)]
    pub(crate) fn column(&self, output: usize) -> impl Iterator<Item = (&'a [u8], usize, usize)> {
        let (text, column) = (self.text.as_bytes(), self.outputs[output]);
        self.columns.usual.iter().map(move |row| {
            let (from, to) = column[*row as usize].span();
            (&text[from..], to - from, *row as usize)
        })
    }

    /// How many texts of such a column are empty.
    pub(crate) fn lacking(&self, output: usize) -> usize {
        let cut = self.plan.outputs()[output].cut;
        if self.columns.lacking.contains(&cut) {
            self.absent().iter().filter(|absent| absent.cut == cut).count()
        } else {
            0
        }
    }

    /// The line a row begins in.
    pub fn line(&self, row: usize) -> u64 {
        self.columns.rows[row].line
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
