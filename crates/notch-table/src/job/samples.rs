//! Rows to look at: the first of every kind a column has.

use std::borrow::Cow;
use std::collections::HashMap;
use std::ops::Range;
use std::sync::atomic::AtomicBool;

use keen_notch_core::OpenText;

use crate::blocks::{BLOCK, Contents, RowCursor, SideBySide, each_row};
use crate::error::TableError;
use crate::formats::csv::bare_cell;
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

/// The field of a cell that does not stand in the text of its block.
const NOT_IN_TEXT: (u32, u32) = (u32::MAX, u32::MAX);

/// Rows that can be read, one record after the other.
struct Run {
    /// Their places among the records of the block.
    places: Range<usize>,
    /// The number of the first one.
    number: u64,
    /// The line that the block begins in.
    block_line: u64,
}

/// The cells of a column of some rows.
pub struct Cells<'c> {
    /// The column's place among those asked for.
    pub column: usize,
    /// Its place in the table.
    in_table: usize,
    run: &'c Run,
    /// Where they lie in the text of the block, with their quotes.
    fields: &'c [(u32, u32)],
    rows: &'c RowCursor<'c>,
    text: &'c str,
}

impl Cells<'_> {
    /// Gives each of them to `take`, with the number of its row and the line that begins in. The
    /// loop is compiled into its caller: calls from one crate into the other and back took 30
    /// instructions a cell.
    #[inline(always)]
    pub fn each(self, mut take: impl FnMut(u64, u64, OpenText<'_>)) {
        let Self { in_table, run, fields, rows, text, .. } = self;
        let Run { places, number, block_line } = run;
        let lines = rows.index.lines_of(places.clone());
        for (((row, at), line), field) in (*number..).zip(places.clone()).zip(lines).zip(fields) {
            let in_text = |(from, to): (u32, u32)| OpenText::of(text, from as usize, to as usize);
            let made;
            let cell = match bare_cell(text.as_bytes(), *field).and_then(in_text) {
                Some(cell) => cell,
                None => {
                    made = rows.cell(at, in_table, text);
                    (&*made).into()
                }
            };
            take(row, block_line + line, cell);
        }
    }
}

/// Gives the cells of some columns, by their places, to `work`, many rows side by side: each part
/// of the table fills a part of what is wanted, and `take` is given the parts in their order and
/// empties them. In a part the cells of one column come after those of another: the column's place
/// among those asked for, the number of the row, the line it begins in, the text. Rows that cannot
/// be read are passed over.
///
/// # Errors
/// The table cannot be read, or what `take` gives.
pub fn gather_rows<P: Send, T: Send>(
    table: Table,
    columns: &[usize],
    interrupt: Option<&AtomicBool>,
    taker: T,
    part: impl Fn() -> P,
    work: impl Fn(&mut P, usize, u64, u64, OpenText<'_>) + Sync,
    take: impl Fn(&mut T, &mut P) -> Result<(), TableError> + Sync,
) -> Result<T, TableError> {
    let each = |part: &mut P, cells: Cells<'_>| {
        let column = cells.column;
        cells.each(|row, line, cell| work(part, column, row, line, cell));
    };
    gather_columns((table, columns), interrupt, taker, part, each, |_, _, _| {}, take)
}

/// The same, but that `work` is given the cells of a column of many rows together, and `unreadable`
/// the number and the line of each row that cannot be read, before the cells of its part.
///
/// # Errors
/// As [`gather_rows`].
pub fn gather_columns<P: Send, T: Send>(
    (mut table, columns): (Table, &[usize]),
    interrupt: Option<&AtomicBool>,
    taker: T,
    part: impl Fn() -> P,
    work: impl Fn(&mut P, Cells<'_>) + Sync,
    unreadable: impl Fn(&mut P, u64, u64) + Sync,
    take: impl Fn(&mut T, &mut P) -> Result<(), TableError> + Sync,
) -> Result<T, TableError> {
    let (name, width) = (table.name().to_owned(), table.columns().len());
    table.needs_only(columns.to_vec());
    SideBySide { threads: table.workers(), name: &name, interrupt }.run(
        table.into_blocks(BLOCK),
        taker,
        part,
        || (Vec::new(), Vec::new()),
        |(runs, fields): &mut (Vec<Run>, Vec<(u32, u32)>), block, part| {
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
                    Some((row, Err(_))) => unreadable(part, row.number, row.line),
                    None => {}
                }
            }
            // What is known of one column stays in a core's nearest cache while its cells come.
            for (column, in_table) in columns.iter().enumerate() {
                for run in &*runs {
                    let places = run.places.clone();
                    fields.clear();
                    if rows.are_in(text) {
                        rows.index.add_fields_of(places, width, *in_table, fields);
                    } else {
                        fields.resize(places.len(), NOT_IN_TEXT);
                    }
                    work(
                        part,
                        Cells { column, in_table: *in_table, run, fields, rows: &rows, text },
                    );
                }
            }
            contents.give_back(block);
        },
        take,
    )
}
