//! Rows to look at: the first of every kind a column has.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;
use std::sync::atomic::AtomicBool;

use keen_notch_core::OpenText;

use crate::blocks::{BLOCK, Contents, RowCursor, SideBySide, each_row};
use crate::error::TableError;
use crate::formats::csv::{bare_cell, cell_text};
use crate::table::Table;
use crate::unreadable::Unreadable;

/// The first row of a kind: those of one shape, or of one layout.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sample {
    /// What kind the column's cells are of; empty for blank ones.
    pub kind: String,
    /// How many rows have it.
    pub rows: u64,
    /// The line the first of them begins in.
    pub line: u64,
    /// All cells of that row.
    pub cells: Vec<String>,
}

/// How many different kinds are told apart.
const MOST: usize = 1000;

/// The first row of every kind that `kind_of` says the cells of the column at `index` are of, the
/// commonest first; rows that cannot be read are passed over.
///
/// # Errors
/// The table cannot be read.
pub fn samples(
    table: Table,
    index: usize,
    kind_of: impl Fn(&str) -> String,
) -> Result<Vec<Sample>, TableError> {
    let mut found: Vec<Sample> = Vec::new();
    let mut known: HashMap<String, usize> = HashMap::new();
    let (name, width) = (table.name().to_owned(), table.columns().len());
    each_row(table.into_blocks(BLOCK), &name, width, |row, rows, text, readable| {
        if readable.is_err() {
            return Ok(());
        }
        let cell = |column| rows.cell(row.place, column, text);
        let kind = kind_of(&cell(index));
        match known.get(&kind) {
            Some(place) => found[*place].rows += 1,
            None if found.len() < MOST => {
                known.insert(kind.clone(), found.len());
                let cells = (0..width).map(|column| cell(column).into_owned()).collect();
                found.push(Sample { kind, rows: 1, line: row.line, cells });
            }
            None => {}
        }
        Ok(())
    })?;
    found.sort_by_key(|sample| std::cmp::Reverse(sample.rows));
    Ok(found)
}

/// Hands the cells of some columns, by their places, with the number and the line of their row to
/// `work`, or the reason why the row cannot be read.
///
/// # Errors
/// The table cannot be read, or what `work` gives.
pub fn each_row_of(
    table: Table,
    columns: &[usize],
    mut work: impl FnMut(u64, u64, Result<&[Cow<'_, str>], Unreadable>) -> Result<(), TableError>,
) -> Result<(), TableError> {
    let (name, width) = (table.name().to_owned(), table.columns().len());
    each_row(table.into_blocks(BLOCK), &name, width, |row, rows, text, readable| match readable {
        Ok(()) => {
            let cells: Vec<_> =
                columns.iter().map(|column| rows.cell(row.place, *column, text)).collect();
            work(row.number, row.line, Ok(&cells))
        }
        Err(reason) => work(row.number, row.line, Err(reason)),
    })
}

/// Rows that can be read, one record after the other.
struct Run {
    /// Their places among the records of the block.
    places: Range<usize>,
    /// The number of the first one.
    number: u64,
    /// The line that the block begins in.
    block_line: u64,
}

/// Hands the cells of some columns, by their places, to `work`, many rows side by side: each part
/// of the table fills a part of what is wanted, and `take` is given the parts in their order and
/// empties them. In a part the cells of one column come after those of another: the column's place
/// among those asked for, the number of the row, the line it begins in, the text; of a row that
/// cannot be read there comes one `None`, before the others.
///
/// # Errors
/// The table cannot be read, or what `take` gives.
pub fn gather_rows<P: Send, T: Send>(
    mut table: Table,
    columns: &[usize],
    interrupt: Option<&AtomicBool>,
    taker: T,
    part: impl Fn() -> P,
    work: impl Fn(&mut P, usize, u64, u64, Option<OpenText<'_>>) + Sync,
    take: impl Fn(&mut T, &mut P) -> Result<(), TableError> + Sync,
) -> Result<T, TableError> {
    let (name, width) = (table.name().to_owned(), table.columns().len());
    table.needs_only(columns.to_vec());
    SideBySide { threads: table.workers(), name: &name, interrupt }.run(
        table.into_blocks(BLOCK),
        taker,
        part,
        Vec::new,
        |runs: &mut Vec<Run>, block, part| {
            let contents = Contents::of(block);
            let text = &contents.text;
            let mut rows = RowCursor::new(block, contents.invalid.as_deref(), width);
            runs.clear();
            while !rows.is_at_end() {
                let (places, number, block_line) = rows.next_run(usize::MAX);
                if !places.is_empty() {
                    runs.push(Run { places, number, block_line });
                    continue;
                }
                match rows.next(text) {
                    Some((row, Ok(()))) => {
                        let (places, number) = (row.place..row.place + 1, row.number);
                        runs.push(Run { places, number, block_line });
                    }
                    Some((row, Err(_))) => work(part, 0, row.number, row.line, None),
                    None => {}
                }
            }
            // What is known of one column stays in a core's nearest cache while its cells come.
            for (place, column) in columns.iter().enumerate() {
                for Run { places, number, block_line } in &*runs {
                    let lines = rows.index.lines_of(places.clone()).map(|below| block_line + below);
                    let each = (*number..).zip(lines);
                    let mut take = |(number, line), cell: OpenText<'_>| {
                        work(part, place, number, line, Some(cell));
                    };
                    if rows.are_in(text) {
                        let take_field = |(at, field)| {
                            let cell = bare_cell(text.as_bytes(), field).and_then(|(from, to)| {
                                OpenText::of(text, from as usize, to as usize)
                            });
                            match cell {
                                Some(cell) => take(at, cell),
                                None => {
                                    let (from, to) = field;
                                    let cell = cell_text(&text[from as usize..to as usize]);
                                    take(at, (&*cell).into());
                                }
                            }
                        };
                        let (index, places) = (rows.index, places.clone());
                        match *column {
                            0 => {
                                each.zip(index.first_fields_of(places, width)).for_each(take_field)
                            }
                            n => each.zip(index.fields_of(places, width, n)).for_each(take_field),
                        }
                    } else {
                        for (at, place) in each.zip(places.clone()) {
                            take(at, (&*rows.cell(place, *column, text)).into());
                        }
                    }
                }
            }
            contents.give_back(block);
        },
        take,
    )
}
