//! The layouts of the columns that cuts start from, as `check --remember` keeps them and a later
//! `check` compares them: a supplier who begins to write otherwise is told even where every cut
//! still finds something.

use keen_notch_core::characters::is_blank;
use keen_notch_core::{LayoutCounts, Layouts, Plan, TextSample};
use keen_notch_table::{ReadOptions, Source, Table, TableError, gather_rows};

use crate::ends::interrupted;

/// A column with the layouts that are looked for, and what was counted.
pub struct ColumnLayouts {
    /// Its name.
    pub column: String,
    /// The layouts that were looked for.
    pub layouts: Layouts,
    /// How many texts have each, and how many have none.
    pub counts: LayoutCounts,
    /// How many rows have no text.
    pub blank: u64,
    /// A sample of the texts that have none.
    odd: TextSample,
}

impl ColumnLayouts {
    fn of(column: &str, layouts: Layouts) -> Self {
        Self {
            column: column.to_owned(),
            counts: LayoutCounts::of(&layouts),
            layouts,
            blank: 0,
            odd: TextSample::default(),
        }
    }

    /// The layouts that texts have which were not looked for.
    pub fn new_ones(&self) -> Layouts {
        self.odd.layouts()
    }
}

/// The columns that the cuts of a plan start from, each once, with their places in the table.
pub fn sources(plan: &Plan) -> Vec<(String, usize)> {
    let mut columns: Vec<(String, usize)> = Vec::new();
    for source in plan.sources() {
        if columns.iter().all(|(_, place)| *place != source.index) {
            columns.push((source.name.clone(), source.index));
        }
    }
    columns
}

/// Finds the layouts of columns, in one pass over the table.
///
/// # Errors
/// The table cannot be read.
pub fn find(
    (source, options): (&Source, &ReadOptions),
    columns: &[(String, usize)],
) -> Result<Vec<Layouts>, TableError> {
    let places: Vec<usize> = columns.iter().map(|(_, place)| *place).collect();
    let none = || vec![TextSample::default(); places.len()];
    let samples = gather_rows(
        Table::open(source, options)?,
        &places,
        Some(interrupted()),
        none(),
        none,
        |part: &mut Vec<TextSample>, column, row, line, cell| {
            if !is_blank(&cell) {
                part[column].add(&cell, row, line);
            }
        },
        |all, part| {
            all.iter_mut().zip(part).for_each(|(all, part)| all.merge(part));
            Ok(())
        },
    )?;
    Ok(samples.iter().map(TextSample::layouts).collect())
}

/// Counts in one pass over the table which texts of columns have which of some layouts.
///
/// # Errors
/// The table cannot be read.
pub fn count(
    (source, options): (&Source, &ReadOptions),
    columns: &[(String, usize)],
    layouts: &[Layouts],
) -> Result<Vec<ColumnLayouts>, TableError> {
    let places: Vec<usize> = columns.iter().map(|(_, place)| *place).collect();
    let none = || -> Vec<ColumnLayouts> {
        let each = columns.iter().zip(layouts);
        each.map(|((name, _), layouts)| ColumnLayouts::of(name, layouts.clone())).collect()
    };
    gather_rows(
        Table::open(source, options)?,
        &places,
        Some(interrupted()),
        none(),
        none,
        |part: &mut Vec<ColumnLayouts>, column, row, line, cell| {
            let of = &mut part[column];
            if is_blank(&cell) {
                of.blank += 1;
            } else if !of.counts.add(&cell, row, line) {
                of.odd.add(&cell, row, line);
            }
        },
        |all, part| {
            for (all, part) in all.iter_mut().zip(part) {
                all.blank += std::mem::take(&mut part.blank);
                all.counts.merge(&mut part.counts);
                all.odd.merge(&mut part.odd);
            }
            Ok(())
        },
    )
}
