//! How many texts of a column each proposed cut fits, counted by running them.

use notch_core::{Batch, Plan, Proposal, Scratch};
use notch_table::{Table, TableError, gather_rows};

use crate::show::watch_for_interrupts;

/// How many texts one batch holds: they stay in a core's nearest cache.
const TOGETHER: usize = 128;

/// What is counted of a part of the table.
struct Part {
    /// For each column and each of its proposals the texts that are cut without a finding.
    fits: Vec<Vec<u64>>,
    /// The texts that wait to be cut, one behind the other, all of one column.
    text: String,
    /// From which byte up to which each of them lies.
    cells: Vec<(u32, u32)>,
    /// Their column, by its place among those that are surveyed.
    column: usize,
    scratch: Scratch,
    /// For each proposal the last text with a finding, by its place among those cut together.
    last_odd: Vec<usize>,
}

impl Part {
    fn add(&mut self, column: usize, cell: &str, plans: &[Option<Plan>]) {
        if self.column != column || self.cells.len() == TOGETHER {
            self.cut(plans);
            self.column = column;
        }
        // A text of 4 GB and more is not cut, and so does not count as one that fits.
        let (Ok(from), Ok(to)) = (u32::try_from(self.text.len()), u32::try_from(self.text.len() + cell.len())) else { return };
        self.text.push_str(cell);
        self.cells.push((from, to));
    }

    /// Cuts the texts that wait.
    fn cut(&mut self, plans: &[Option<Plan>]) {
        let Self { fits, text, cells, column, scratch, last_odd } = self;
        if let Some(plan) = &plans[*column] {
            let fits = &mut fits[*column];
            fits.iter_mut().for_each(|fits| *fits += cells.len() as u64);
            last_odd.clear();
            last_odd.resize(fits.len(), usize::MAX);
            let mut batch = Batch::new(plan, text, scratch);
            (1..=cells.len() as u64).for_each(|row| batch.row(row, row));
            batch.cells(0, cells.iter(), |_, cell| Some(*cell));
            batch.evaluate().each_finding(|row, finding| {
                if let Some(cut) = finding.about.cut().filter(|cut| !finding.kind.is_note() && last_odd[*cut] != row) {
                    last_odd[cut] = row;
                    fits[cut] -= 1;
                }
            });
        }
        text.clear();
        cells.clear();
    }
}

/// Counts for each proposed cut the texts that it cuts without a finding, of every `step`th row; the columns are those at these places.
///
/// # Errors
/// The table cannot be read.
pub fn count_fits(table: Table, places: &[usize], step: u64, proposals: &mut [Vec<Proposal>]) -> Result<(), TableError> {
    let plan = |of_column: &Vec<Proposal>| if of_column.is_empty() { None } else { Proposal::plan(of_column) };
    let plans: Vec<Option<Plan>> = proposals.iter().map(plan).collect();
    let none = || proposals.iter().map(|of_column| vec![0; of_column.len()]).collect::<Vec<Vec<u64>>>();
    let part =
        || Part { fits: none(), text: String::new(), cells: Vec::new(), column: 0, scratch: Scratch::default(), last_odd: Vec::new() };
    let fits = gather_rows(
        table,
        places,
        Some(watch_for_interrupts()),
        none(),
        part,
        |part, column, row, _, cell| {
            let is_sampled = step == 1 || (row - 1) % step == 0;
            if let Some(cell) = cell.filter(|cell| is_sampled && !cell.trim().is_empty()) {
                part.add(column, cell, &plans);
            }
        },
        |all, part| {
            part.cut(&plans);
            all.iter_mut().flatten().zip(part.fits.iter_mut().flatten()).for_each(|(all, part)| *all += std::mem::take(part));
            Ok(())
        },
    )?;
    for ((of_column, fits), _) in proposals.iter_mut().zip(fits).zip(&plans).filter(|(_, plan)| plan.is_some()) {
        of_column.iter_mut().zip(fits).for_each(|(proposal, fits)| proposal.fits = fits);
    }
    Ok(())
}
