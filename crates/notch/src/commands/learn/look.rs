//! The first pass over the table: a sample of the column, the cells of the examples, and what was
//! filled in by hand.

use std::collections::HashMap;
use std::sync::atomic::AtomicBool;

use keen_notch_core::characters::is_blank;
use keen_notch_core::{FirstRow, LEARNING_ROWS, Layouts, Lesson, TextSample};
use keen_notch_table::{Table, each_row_of, gather_rows};

use crate::show::Problem;

/// The largest number of examples that are taken of a column that was filled in by hand.
const MOST_LIKE: usize = 200;

/// More rows than this that were filled in by hand are not looked at.
const MOST_FILLED: usize = 100_000;

/// What one pass over the table has seen.
#[derive(Clone, Default)]
pub struct Seen {
    pub sample: Option<TextSample>,
    pub rows: u64,
    pub filled: u64,
    /// The first row with a text.
    pub first: Option<FirstRow>,
    /// For each example whether its cell is there as typed, and a cell that is the same but for
    /// white space at its ends.
    pub exact: Vec<bool>,
    pub trimmed: Vec<Option<String>>,
    /// The rows that were filled in by hand, by their numbers: the line, the cell, the piece.
    pub like: Vec<LikeRow>,
    /// Those of the current part whose cells are to come.
    pub pieces: HashMap<u64, String>,
}

/// A row that was filled in by hand.
#[derive(Clone)]
pub struct LikeRow {
    pub row: u64,
    pub line: u64,
    pub cell: String,
    pub piece: String,
}

/// One pass over the table: a sample of the column, the cells of the examples, what was filled in
/// by hand.
pub fn look(
    table: Table,
    column: usize,
    like: Option<usize>,
    cells: &[String],
    stop: &AtomicBool,
) -> Result<Seen, Problem> {
    let none = || Seen {
        sample: Some(TextSample::of(LEARNING_ROWS)),
        exact: vec![false; cells.len()],
        trimmed: vec![None; cells.len()],
        ..Seen::default()
    };
    // The cells of a part come column by column: first what was filled in.
    let columns: Vec<usize> = like.into_iter().chain([column]).collect();
    let last = columns.len() - 1;
    let seen = gather_rows(
        table,
        &columns,
        Some(stop),
        none(),
        none,
        |seen, place, row, line, cell| {
            let cell = cell.text();
            let is_filled = !is_blank(cell);
            if place < last {
                if is_filled {
                    seen.pieces.insert(row, cell.to_owned());
                }
                return;
            }
            seen.rows += 1;
            if let Some(piece) = seen.pieces.remove(&row) {
                seen.like.push(LikeRow { row, line, cell: cell.to_owned(), piece });
            }
            if !is_filled {
                return;
            }
            seen.filled += 1;
            seen.first.get_or_insert_with(|| FirstRow { row, line, text: cell.to_owned() });
            if let Some(sample) = &mut seen.sample {
                sample.add(cell, row, line);
            }
            for (n, wanted) in cells.iter().enumerate() {
                if cell == wanted {
                    seen.exact[n] = true;
                } else if seen.trimmed[n].is_none() && cell.trim() == wanted.trim() {
                    seen.trimmed[n] = Some(cell.to_owned());
                }
            }
        },
        |seen, part| {
            seen.rows += std::mem::take(&mut part.rows);
            seen.filled += std::mem::take(&mut part.filled);
            let first = part.first.take();
            seen.first = seen.first.take().or(first);
            if let (Some(sample), Some(part)) = (&mut seen.sample, &mut part.sample) {
                sample.merge(part);
            }
            for (n, exact) in part.exact.iter_mut().enumerate() {
                seen.exact[n] |= std::mem::take(exact);
            }
            for (n, trimmed) in part.trimmed.iter_mut().enumerate() {
                let trimmed = trimmed.take();
                seen.trimmed[n] = seen.trimmed[n].take().or(trimmed);
            }
            let room = MOST_FILLED.saturating_sub(seen.like.len());
            seen.like.extend(part.like.drain(..).take(room));
            Ok(())
        },
    )?;
    Ok(seen)
}

/// Examples of what was filled in by hand, spread over the layouts.
pub fn spread(like: &[LikeRow], layouts: &Layouts) -> Vec<Lesson> {
    let mut by_layout: Vec<Vec<&LikeRow>> = vec![Vec::new(); layouts.layouts.len() + 1];
    for row in like.iter().filter(|row| !is_blank(&row.cell)) {
        by_layout[layouts.place(&row.cell).unwrap_or(layouts.layouts.len())].push(row);
    }
    let longest = by_layout.iter().map(Vec::len).max().unwrap_or_default();
    (0..longest)
        .flat_map(|n| by_layout.iter().filter_map(move |rows| rows.get(n)))
        .take(MOST_LIKE)
        .map(|row| Lesson { cell: row.cell.clone(), piece: row.piece.clone(), binds: false })
        .collect()
}

/// The first row of the commonest layout of which no cell is an example, else the first odd one.
pub fn other_row(layouts: &Layouts, first: &Option<FirstRow>, cells: &[&str]) -> Option<FirstRow> {
    let other = layouts.layouts.iter().find(|layout| !cells.iter().any(|cell| layout.fits(cell)));
    let rows = other.map(|layout| &layout.first).into_iter().chain(&layouts.odd).chain(first);
    rows.into_iter().find(|row| !cells.contains(&row.text.as_str())).cloned()
}

/// The column, beside the one that is learnt from, in which a piece stands in the row of its cell.
pub fn elsewhere(
    table: Table,
    column: usize,
    names: &[String],
    lesson: &Lesson,
) -> Result<Option<String>, Problem> {
    let places: Vec<usize> = (0..names.len()).collect();
    let mut found = None;
    each_row_of(table, &places, |_, _, cells| {
        let Ok(cells) = cells else { return Ok(()) };
        if found.is_none() && cells[column] == lesson.cell.as_str() {
            found = (0..cells.len())
                .find(|n| *n != column && cells[*n].contains(&lesson.piece))
                .map(|n| names[n].clone());
        }
        Ok(())
    })?;
    Ok(found)
}
