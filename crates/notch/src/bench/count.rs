//! What all rows make of the cuts in force: the counts that a run prints, and for each line of the
//! tally the rows that it counts.

use std::collections::HashMap;
use std::sync::Arc;

use keen_notch_core::{About, BatchResult, FindingKind, Plan, Tally, TextsTold, shape};
use keen_notch_table::{TableError, TakesRows, Unreadable};

/// The number of rows that are kept of each line of the tally, the first ones.
pub const MOST_ROWS: usize = 100_000;

/// The rows that each line of the tally counts, by their numbers, in order.
#[derive(Debug, Default, Clone)]
pub struct RowLists {
    /// For each cut of the plan.
    pub cuts: Vec<CutRows>,
    /// The rows with a finding of any cut, check or column.
    pub with_finding: Vec<u32>,
}

/// The rows that the lines of one cut count.
#[derive(Debug, Default, Clone)]
pub struct CutRows {
    pub filled: Vec<u32>,
    pub blank: Vec<u32>,
    /// Those with a finding of it.
    pub findings: Vec<u32>,
    /// By kind and reason.
    pub reasons: HashMap<(FindingKind, String), Vec<u32>>,
    /// By the chain that gave the piece, from 0.
    pub chains: Vec<Vec<u32>>,
    /// By the shape of the piece.
    pub shapes: HashMap<Box<str>, Vec<u32>>,
}

/// Adds a row once, as long as there is room.
fn add(list: &mut Vec<u32>, row: u64) {
    let row = u32::try_from(row).unwrap_or(u32::MAX);
    if list.len() < MOST_ROWS && list.last() != Some(&row) {
        list.push(row);
    }
}

/// Adds the rows of the part that comes next.
fn extend(list: &mut Vec<u32>, part: &mut Vec<u32>) {
    let room = MOST_ROWS.saturating_sub(list.len());
    list.extend(part.drain(..).take(room));
}

impl RowLists {
    fn of(plan: &Plan) -> Self {
        let cut =
            |n| CutRows { chains: vec![Vec::new(); plan.branches(n).len()], ..CutRows::default() };
        Self { cuts: (0..plan.len()).map(cut).collect(), with_finding: Vec::new() }
    }

    fn merge(&mut self, part: &mut RowLists) {
        extend(&mut self.with_finding, &mut part.with_finding);
        for (ours, theirs) in self.cuts.iter_mut().zip(&mut part.cuts) {
            extend(&mut ours.filled, &mut theirs.filled);
            extend(&mut ours.blank, &mut theirs.blank);
            extend(&mut ours.findings, &mut theirs.findings);
            for (reason, rows) in &mut theirs.reasons {
                match ours.reasons.get_mut(reason) {
                    Some(known) => extend(known, rows),
                    None => drop(ours.reasons.insert(reason.clone(), std::mem::take(rows))),
                }
            }
            ours.chains
                .iter_mut()
                .zip(&mut theirs.chains)
                .for_each(|(ours, rows)| extend(ours, rows));
            for (shape, rows) in &mut theirs.shapes {
                match ours.shapes.get_mut(shape) {
                    Some(known) => extend(known, rows),
                    None => drop(ours.shapes.insert(shape.clone(), std::mem::take(rows))),
                }
            }
        }
    }
}

/// What has been counted so far.
#[derive(Debug, Default)]
pub struct Counted {
    pub tally: Tally,
    pub lists: RowLists,
    /// How many rows and bytes that is.
    pub rows: u64,
    pub bytes: u64,
    /// All rows are in it.
    pub is_whole: bool,
}

/// What is counted of a part of the table.
pub struct CountedPart {
    tally: Tally,
    lists: RowLists,
    rows: u64,
    bytes: u64,
    /// For each cut the columns that it makes.
    outputs: Vec<Vec<usize>>,
}

impl Counted {
    pub fn of(plan: &Plan) -> Self {
        Self { tally: Tally::new(plan), lists: RowLists::of(plan), ..Self::default() }
    }

    /// Adds the part that comes next, and empties it.
    pub fn merge(&mut self, part: &mut CountedPart) -> Result<(), TableError> {
        self.tally.merge(&mut part.tally);
        self.lists.merge(&mut part.lists);
        self.rows += std::mem::take(&mut part.rows);
        self.bytes += std::mem::take(&mut part.bytes);
        Ok(())
    }
}

impl CountedPart {
    pub fn of(plan: &Arc<Plan>) -> Self {
        let of_cut = |n: usize| {
            let places = plan.outputs().iter().enumerate().filter(|(_, output)| output.cut == n);
            places.map(|(place, _)| place).collect()
        };
        Self {
            tally: Tally::part(plan, TextsTold::Shapes),
            lists: RowLists::of(plan),
            rows: 0,
            bytes: 0,
            outputs: (0..plan.len()).map(of_cut).collect(),
        }
    }

    /// Takes the cells that a cut has made in a row.
    fn cells<'c>(rows: &mut CutRows, row: u64, cells: impl Iterator<Item = &'c str>) {
        let mut is_filled = false;
        for cell in cells.filter(|cell| !cell.is_empty()) {
            is_filled = true;
            let shape = shape(cell);
            match rows.shapes.get_mut(shape.as_str()) {
                Some(known) => add(known, row),
                None => drop(rows.shapes.insert(shape.into_boxed_str(), vec![row as u32])),
            }
        }
        add(if is_filled { &mut rows.filled } else { &mut rows.blank }, row);
    }
}

impl TakesRows for CountedPart {
    fn rows(&mut self, plan: &Plan, result: &BatchResult<'_>) {
        self.tally.add_batch(plan, result);
        self.rows += result.len() as u64;
        let mut unusual = result.unusual().iter().peekable();
        for row in 0..result.len() {
            let number = result.number(row);
            let long = unusual.next_if(|(of, _)| *of == row).map(|(_, long)| long);
            for (rows, outputs) in self.lists.cuts.iter_mut().zip(&self.outputs) {
                match long {
                    Some(long) => {
                        Self::cells(rows, number, outputs.iter().map(|n| long.cells[*n].text));
                    }
                    None => Self::cells(rows, number, outputs.iter().map(|n| result.text(row, *n))),
                }
            }
        }
        let mut found: Vec<(u64, About, FindingKind, String)> = Vec::new();
        result.each_finding(|row, finding| {
            let reason = finding.counted_as.unwrap_or(finding.reason).to_owned();
            found.push((result.number(row), finding.about, finding.kind, reason));
        });
        found.sort_by_key(|(row, ..)| *row);
        for (row, about, kind, reason) in found {
            if !kind.is_note() {
                add(&mut self.lists.with_finding, row);
            }
            for (n, rows) in self.lists.cuts.iter_mut().enumerate() {
                if !is_about(plan, n, about) {
                    continue;
                }
                if !kind.is_note() {
                    add(&mut rows.findings, row);
                }
                add(rows.reasons.entry((kind, reason.clone())).or_default(), row);
            }
        }
        for (n, rows) in
            self.lists.cuts.iter_mut().enumerate().filter(|(_, of)| of.chains.len() > 1)
        {
            let others: HashMap<usize, Option<usize>> =
                result.other_chains(n).into_iter().collect();
            for row in 0..result.len() {
                if let Some(chain) = others.get(&row).copied().unwrap_or(Some(0)) {
                    add(&mut rows.chains[chain], result.number(row));
                }
            }
        }
    }

    fn unreadable(&mut self, row: u64, line: u64, reason: &Unreadable) {
        self.tally.unreadable(&reason.to_string(), row, line);
        self.rows += 1;
        add(&mut self.lists.with_finding, row);
    }

    fn block(&mut self, bytes: u64) {
        self.bytes += bytes;
    }
}

/// Whether a finding belongs to the lines of a cut: it is about it, or about the column that it
/// starts from.
pub fn is_about(plan: &Plan, cut: usize, about: About) -> bool {
    match about {
        About::Column(source) => plan.origin(cut) == Some(source),
        about => about.cut() == Some(cut),
    }
}
