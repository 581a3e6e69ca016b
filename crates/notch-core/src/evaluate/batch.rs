//! Many rows together: the short ways cut by cut, then what is left row by row.
//!
//! One cut over many rows does the same few operations again and again, which is what processors are quickest at. The rows in which
//! every cut can go its short way are done then; each of the others goes the long way, which takes over what is known already.

use std::borrow::Cow;

use bumpalo::Bump;
use bumpalo::collections::Vec as RowVec;

use super::row::{Branch, Cell, Fate, RowResult, Scratch};
use crate::plan::Plan;

/// Rows that are evaluated together.
pub struct Batch<'a> {
    plan: &'a Plan,
    scratch: &'a Scratch,
    /// Row by row, the cells of the plan's sources; blank for the rows that are still to come.
    cells: &'a mut [&'a str],
    rows: RowVec<'a, RowPlace>,
}

#[derive(Clone, Copy)]
struct RowPlace {
    number: u64,
    line: u64,
}

/// What the cuts make of the rows of a batch.
pub struct BatchResult<'a> {
    plan: &'a Plan,
    rows: &'a [RowPlace],
    /// Row by row, the cells of the plan's sources.
    sources: &'a [&'a str],
    /// Row by row, the new cells.
    cells: &'a [Cell<'a>],
    /// The rows that went the long way, by their place in the batch.
    long: &'a [(usize, RowResult<'a>)],
    /// What all cuts of the other rows have fared like.
    branches: &'a [Branch],
}

impl<'a> Batch<'a> {
    /// An empty batch for so many rows; what was in the scratch before is gone.
    pub fn new(plan: &'a Plan, scratch: &'a mut Scratch, rows: usize) -> Self {
        scratch.arena.reset();
        let scratch: &'a Scratch = scratch;
        Self {
            plan,
            scratch,
            cells: scratch.arena.alloc_slice_fill_copy(rows * plan.sources().len(), ""),
            rows: RowVec::with_capacity_in(rows, &scratch.arena),
        }
    }

    /// What makes texts live as long as the batch.
    pub fn keeper(&self) -> impl Fn(Cow<'a, str>) -> &'a str + use<'a> {
        let arena: &'a Bump = &self.scratch.arena;
        |text| match text {
            Cow::Borrowed(text) => text,
            Cow::Owned(text) => arena.alloc_str(&text),
        }
    }

    /// Adds a row: its number from 1, the line it begins in, the cells of [`Plan::sources`] in their order; one that is not given counts
    /// as blank, and rows for which there is no room do not count.
    pub fn push(&mut self, number: u64, line: u64, cells: impl IntoIterator<Item = &'a str>) {
        let from = self.rows.len() * self.plan.sources().len();
        self.rows.push(RowPlace { number, line });
        self.cells.iter_mut().skip(from).take(self.plan.sources().len()).zip(cells).for_each(|(to, cell)| *to = cell);
    }

    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// Evaluates all cuts for all rows.
    pub fn evaluate(self) -> BatchResult<'a> {
        let Self { plan, scratch, cells: sources, rows } = self;
        let arena: &'a Bump = &scratch.arena;
        let (width, outputs) = (plan.sources().len(), plan.outputs().len());
        let (rows, sources): (&[RowPlace], &[&str]) = (rows.into_bump_slice(), sources);
        let cells = arena.alloc_slice_fill_copy(rows.len() * outputs, Cell { text: "" });
        // Where something is asked of rows as a whole they go the long way throughout.
        let is_long = arena.alloc_slice_fill_copy(rows.len(), plan.looks_at_rows());
        let mut any_long = plan.looks_at_rows();
        for cut in &plan.cuts {
            let Some(way) = &cut.short else {
                is_long.fill(true);
                any_long = true;
                continue;
            };
            let column = sources.chunks_exact(width.max(1)).map(|row| row[way.column]).zip(is_long.iter_mut());
            match cut.output {
                Some(output) => {
                    for ((cell, is_long), row) in column.zip(cells.chunks_exact_mut(outputs)) {
                        match way.text(cell, arena) {
                            Some(text) => row[output].text = text,
                            None => (*is_long, any_long) = (true, true),
                        }
                    }
                }
                None => {
                    column.filter(|(cell, _)| way.text(cell, arena).is_none()).for_each(|(_, is_long)| (*is_long, any_long) = (true, true))
                }
            }
        }
        let mut long = RowVec::new_in(arena);
        if any_long {
            for (row, place) in rows.iter().enumerate().filter(|(row, _)| is_long[*row]) {
                let from = row * outputs;
                let (known, given) = (&cells[from..from + outputs], sources[row * width..].iter().take(width).copied());
                let result = plan.evaluate_in(given, Some(known), scratch, place.number);
                cells[from..from + outputs].copy_from_slice(result.cells);
                long.push((row, result));
            }
        }
        let usual = arena.alloc_slice_fill_copy(plan.cuts.len(), Branch { taken: Some(0), unmet: 0 });
        BatchResult { plan, rows, sources, cells, long: long.into_bump_slice(), branches: usual }
    }
}

impl<'a> BatchResult<'a> {
    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// What the cuts make of each row, in order.
    pub fn results(&self) -> impl Iterator<Item = RowResult<'a>> {
        let mut long = self.long.iter().peekable();
        let (width, outputs) = (self.plan.sources().len(), self.plan.outputs().len());
        (0..self.rows.len()).map(move |row| match long.next_if(|(at, _)| *at == row) {
            Some((_, result)) => *result,
            None => RowResult {
                cells: &self.cells[row * outputs..(row + 1) * outputs],
                findings: &[],
                branches: self.branches,
                checked: &[],
                sources: &self.sources[row * width..(row + 1) * width],
                fate: Fate::Write,
            },
        })
    }

    /// The texts of a new column, by its place among [`Plan::outputs`], each with the line its row begins in.
    pub(crate) fn column(&self, output: usize) -> impl Iterator<Item = (&'a str, u64)> {
        let texts = self.cells.chunks_exact(self.plan.outputs().len().max(1)).map(move |row| row[output].text);
        texts.zip(self.rows.iter().map(|row| row.line))
    }

    /// The rows in which something was unusual: the number of each, the line it begins in, and the result.
    pub(crate) fn unusual(&self) -> impl ExactSizeIterator<Item = (u64, u64, &RowResult<'a>)> {
        self.long.iter().map(|(row, result)| (self.rows[*row].number, self.rows[*row].line, result))
    }
}
