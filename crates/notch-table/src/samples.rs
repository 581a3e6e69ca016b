//! Rows to look at: the first of every shape a column has.

use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::atomic::AtomicBool;

use notch_core::shape;

use crate::carve::BLOCK;
use crate::csv::cell_text;
use crate::error::TableError;
use crate::side_by_side::{SideBySide, usual_threads};
use crate::table::Table;

/// The first row of a shape.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sample {
    /// The shape of the column's cells.
    pub shape: String,
    /// How many rows have it.
    pub rows: u64,
    /// The line the first of them begins in.
    pub line: u64,
    /// All cells of that row.
    pub cells: Vec<String>,
}

/// How many different shapes are told apart.
const MOST: usize = 1000;

/// The first row of every shape the column at `index` has, the commonest shape first; rows that cannot be read are passed over.
///
/// # Errors
/// The table cannot be read.
pub fn samples(mut table: Table, index: usize) -> Result<Vec<Sample>, TableError> {
    let mut found: Vec<Sample> = Vec::new();
    let mut known: HashMap<String, usize> = HashMap::new();
    let width = table.columns().len();
    while let Some(record) = table.next_record()? {
        let Ok(text) = record.readable(width) else { continue };
        if record.raw.is_empty() && width > 1 {
            continue;
        }
        let cell = |field: std::ops::Range<usize>| cell_text(&text[field]);
        let shape = shape(&cell(record.fields.at(index)));
        match known.get(&shape) {
            Some(place) => found[*place].rows += 1,
            None if found.len() < MOST => {
                known.insert(shape.clone(), found.len());
                let cells = record.fields.iter().map(|field| cell(field).into_owned()).collect();
                found.push(Sample { shape, rows: 1, line: record.line, cells });
            }
            None => {}
        }
    }
    found.sort_by_key(|sample| std::cmp::Reverse(sample.rows));
    Ok(found)
}

/// Hands the cells of some columns, by their places, with the number and the line of their row to `work`, or the reason why the row
/// cannot be read.
///
/// # Errors
/// The table cannot be read, or what `work` gives.
pub fn each_row_of(
    mut table: Table,
    columns: &[usize],
    mut work: impl FnMut(u64, u64, Result<&[Cow<'_, str>], String>) -> Result<(), TableError>,
) -> Result<(), TableError> {
    let width = table.columns().len();
    let mut number = 0;
    while let Some(record) = table.next_record()? {
        if record.raw.is_empty() && width > 1 {
            continue;
        }
        number += 1;
        match record.readable(width) {
            Ok(text) => {
                let cells: Vec<Cow<'_, str>> = columns.iter().map(|column| cell_text(&text[record.fields.at(*column)])).collect();
                work(number, record.line, Ok(&cells))?;
            }
            Err(reason) => work(number, record.line, Err(reason))?,
        }
    }
    Ok(())
}

/// Hands the cells of some columns, by their places, to `work`, many rows side by side: each part of the table fills a part of what is
/// wanted, and `take` is given the parts in their order and empties them. In a part the cells of one column come behind those of another: the
/// column's place among those asked for, the number of the row, the line it begins in, the text; of a row that cannot be read there comes
/// one `None`, before the others.
///
/// # Errors
/// The table cannot be read, or what `take` gives.
pub fn gather_rows<P: Send, T: Send>(
    mut table: Table,
    columns: &[usize],
    interrupt: Option<&AtomicBool>,
    mut taker: T,
    part: impl Fn() -> P,
    work: impl Fn(&mut P, usize, u64, u64, Option<&str>) + Sync,
    take: impl Fn(&mut T, &mut P) -> Result<(), TableError> + Sync,
) -> Result<T, TableError> {
    let (name, width) = (table.name().to_owned(), table.columns().len());
    table.needs_only(columns.to_vec());
    let blocks = match table.into_blocks(BLOCK) {
        Ok(blocks) => blocks,
        Err(table) => {
            let (mut part, mut rows) = (part(), 0);
            each_row_of(*table, columns, |row, line, cells| {
                match cells {
                    Ok(cells) => cells.iter().enumerate().for_each(|(place, cell)| work(&mut part, place, row, line, Some(cell))),
                    Err(_) => work(&mut part, 0, row, line, None),
                }
                rows += 1;
                if rows % ROWS_OF_A_PART == 0 { take(&mut taker, &mut part) } else { Ok(()) }
            })?;
            return take(&mut taker, &mut part).map(|()| taker);
        }
    };
    SideBySide { threads: usual_threads(), name: &name, interrupt }.run(
        blocks,
        taker,
        part,
        Vec::new,
        |rows: &mut Vec<(usize, u64, u64)>, block, part| {
            let bytes = block.take();
            let text = std::str::from_utf8(&bytes).ok();
            let index = &block.index;
            // The rows that can be read: where each is in the index, its number and its line.
            rows.clear();
            let is_row = |n: &usize| width == 1 || !index.is_blank(*n);
            for (n, number) in (0..index.len()).filter(is_row).zip(block.row..) {
                let line = block.line + index.line(n);
                if (text.is_some() && index.is_row_of(n, width)) || index.record(n, &bytes, block.line).readable(width).is_ok() {
                    rows.push((n, number, line));
                } else {
                    work(part, 0, number, line, None);
                }
            }
            // What is known of one column stays in a core's nearest cache while its cells come.
            for (place, column) in columns.iter().enumerate() {
                for (n, number, line) in &*rows {
                    if let Some(text) = text.filter(|_| index.cells.rows() > 0) {
                        work(part, place, *number, *line, Some(&text[index.cells.cell(*n, *column)]));
                        continue;
                    }
                    let (from, to) = index.field(*n, *column);
                    let (from, to) = (from as usize, to as usize);
                    // That a row is text has been seen, should the block as a whole be none.
                    let field = text.map_or_else(|| std::str::from_utf8(&bytes[from..to]).unwrap_or_default(), |text| &text[from..to]);
                    work(part, place, *number, *line, Some(&cell_text(field)));
                }
            }
            block.give_back(bytes);
        },
        take,
    )
}

/// How many rows of what is no text make a part.
const ROWS_OF_A_PART: u64 = 4096;
