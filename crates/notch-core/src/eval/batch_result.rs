//! What the cuts make of rows that are evaluated together.

use std::ops::Range;

use super::columns::{Absent, Columns};
use super::result::{Branch, RowResult};
use crate::finding::{About, Finding, FindingKind};
use crate::program::span::{CellSpan, Why};
use crate::program::{BLANK, Event, Plan};
use crate::shape::ShapeCounts;

/// What the cuts make of the rows of a batch.
pub struct BatchResult<'a> {
    pub(super) plan: &'a Plan,
    pub(super) text: &'a str,
    pub(super) block: usize,
    pub(super) made_from: usize,
    pub(super) columns: &'a Columns,
    /// What has been made for each of the plan's outputs.
    pub(super) outputs: &'a [&'a [CellSpan]],
    /// The rows that went the slow path, by their place in the batch.
    pub(super) long: &'a [(usize, RowResult<'a>)],
    /// What is counted of the rows beside what their results say: the row, by its place in the
    /// batch, and the event.
    pub(super) events: &'a [(usize, Event<'a>)],
}

/// A new cell of a batch.
#[derive(Debug, Clone, Copy)]
pub struct NewCell<'a> {
    /// Its text, with what stands after it in memory: that many bytes may be copied at once as one
    /// likes.
    pub open: &'a [u8],
    /// How many bytes of that are its text.
    pub length: usize,
    /// Where it begins, in bytes from the beginning of the block. What a step has made stands after
    /// the block, from [`BatchResult::made_from`] on.
    pub from: usize,
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

    /// How many bytes stand before what steps have made: the block, and cells that are not pieces
    /// of it.
    #[inline]
    pub fn made_from(&self) -> usize {
        self.made_from
    }

    /// What steps have made, one text after the other.
    pub fn made(&self) -> &'a str {
        &self.text[self.made_from..]
    }

    /// The first row, from that one on, that is unusual or comes after the last one. With
    /// `or_said`, also one of which may be said that a cut has returned nothing.
    pub fn usual_up_to(&self, from: usize, or_said: bool) -> usize {
        let unusual = self.long.partition_point(|(row, _)| *row < from);
        let end = self.long.get(unusual).map_or(self.len(), |(row, _)| *row);
        let absent = self.columns.absent.partition_point(|absent| absent.row < from);
        let said = self.columns.absent.get(absent).filter(|_| or_said);
        said.map_or(end, |absent| absent.row.min(end))
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
        let text = self.text.as_bytes();
        move |place| {
            let (from, to) = place.span();
            NewCell { open: &text[from..], length: to - from, from }
        }
    }

    /// The text of such a cell, by its place among the outputs.
    pub fn text(&self, row: usize, output: usize) -> &'a str {
        self.outputs[output][row].of(self.text)
    }

    /// How many cells of a new column, by its place among [`Plan::outputs`], are blank without a
    /// finding of their cut that is no note.
    pub fn blank(&self, output: usize) -> usize {
        self.blank_rows(output).count()
    }

    /// The rows in which they are.
    pub fn blank_rows(&self, output: usize) -> impl Iterator<Item = usize> {
        let column = self.outputs[output];
        let cut = self.plan.outputs()[output].cut;
        let is_blank = move |(_, row): &&(usize, RowResult<'_>)| {
            let has_finding = row
                .findings
                .iter()
                .any(|finding| !finding.kind.is_note() && finding.about.cut() == Some(cut));
            row.cells.get(output).is_none_or(|cell| cell.text.is_empty()) && !has_finding
        };
        let usual = self.columns.usual.iter().map(|row| *row as usize);
        let usual = usual.filter(|row| column[*row].is_none());
        usual.chain(self.long.iter().filter(is_blank).map(|(row, _)| *row))
    }

    /// Counts the shapes of the texts of a new column, by its place among [`Plan::outputs`], in the
    /// rows that are not unusual.
    pub(crate) fn count_shapes(&self, output: usize, shapes: &mut ShapeCounts) {
        let (text, column) = (self.text.as_bytes(), self.outputs[output]);
        let open = |(row, span): (usize, &CellSpan)| {
            let (from, to) = span.span();
            (&text[from..], to - from, row)
        };
        let usual = &self.columns.usual;
        let line = |row| self.line(row);
        // Nearly always no row is unusual.
        if usual.len() == column.len() {
            shapes.add_all(column.iter().enumerate().map(open), line);
        } else {
            let rows = usual.iter().map(|row| (*row as usize, &column[*row as usize]));
            shapes.add_all(rows.map(open), line);
        }
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
