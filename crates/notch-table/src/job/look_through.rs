//! A pass over a table that writes nothing: what must be known before the first row is written.

use std::borrow::Cow;
use std::sync::Arc;

use keen_notch_core::{AllRows, Fate, Gathered, Plan, Scratch};

use super::row::stopped;
use crate::blocks::{BLOCK, RowAt, each_row};
use crate::error::TableError;
use crate::input::source::Source;
use crate::options::ReadOptions;
use crate::table::Table;
use crate::unreadable::Unreadable;

/// What a first pass over a table is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FirstPass {
    /// To stop at a row that cannot be read; otherwise such rows are passed over.
    pub readable: bool,
    /// To stop at a finding that is to stop the work.
    pub findings: bool,
}

/// Reads a table from beginning to end without writing anything; gathers what the plan must know of
/// all rows, unless it is `known`.
///
/// # Errors
/// The first row that is to stop the work, or the table cannot be opened.
pub fn look_through(
    source: &Source,
    options: &ReadOptions,
    plan: &Plan,
    known: Option<Arc<AllRows>>,
    pass: FirstPass,
) -> Result<Option<Arc<AllRows>>, TableError> {
    let mut gathered = Gathered::default();
    let gathers = plan.needs_all_rows() && known.is_none();
    if gathers || pass.readable {
        let mut scratch = Scratch::default();
        look(source, options, plan, |row, name, cells| {
            match cells {
                Ok(cells) if gathers => plan.gather(
                    cells.iter().map(AsRef::as_ref),
                    row.number,
                    &mut scratch,
                    &mut gathered,
                ),
                Err(reason) if pass.readable => {
                    return Err(TableError::Row {
                        name: name.to_owned(),
                        line: row.line,
                        reason,
                        rows_gone: false,
                    });
                }
                _ => {}
            }
            Ok(())
        })?;
    }
    let all_rows = if gathers { Some(Arc::new(gathered.finish())) } else { known };
    if pass.findings {
        let mut scratch = Scratch::with_all_rows(all_rows.clone());
        look(source, options, plan, |row, name, cells| {
            let Ok(cells) = cells else { return Ok(()) };
            scratch.at_row(row.number);
            let result = plan.evaluate(cells.iter().map(AsRef::as_ref), &mut scratch);
            match result.fate {
                Fate::Stop(n) => Err(stopped(name, row.line, plan, &result.findings[n], false)),
                _ => Ok(()),
            }
        })?;
    }
    Ok(all_rows)
}

/// Calls `take` with the texts of a table that must be unique, each with the number of what asks
/// for it ([`Plan::unique_texts`]). Rows that cannot be read are passed over.
///
/// # Errors
/// The table cannot be read, or `take` fails.
pub fn unique_texts(
    source: &Source,
    options: &ReadOptions,
    plan: &Plan,
    mut take: impl FnMut(usize, &str) -> Result<(), TableError>,
) -> Result<(), TableError> {
    let mut scratch = Scratch::default();
    look(source, options, plan, |_, _, cells| {
        let Ok(cells) = cells else { return Ok(()) };
        let mut taken = Ok(());
        plan.unique_texts(cells.iter().map(AsRef::as_ref), &mut scratch, |place, text| {
            if taken.is_ok() {
                taken = take(place, text);
            }
        });
        taken
    })
}

/// Calls `look` with each row, the name of the table and the cells of the plan's sources, or why
/// the row cannot be read.
fn look(
    source: &Source,
    options: &ReadOptions,
    plan: &Plan,
    mut look: impl FnMut(RowAt, &str, Result<&[Cow<'_, str>], Unreadable>) -> Result<(), TableError>,
) -> Result<(), TableError> {
    let table = Table::open(source, options)?;
    let (in_file, name, width) = (table.in_file(), table.name().to_owned(), table.columns().len());
    let seen =
        each_row(
            table.into_blocks(BLOCK),
            &name,
            width,
            |row, rows, text, readable| match readable {
                Ok(()) => {
                    let cells: Vec<_> = plan
                        .sources()
                        .iter()
                        .map(|source| rows.cell(row.place, source.index, text))
                        .collect();
                    look(row, &name, Ok(&cells))
                }
                Err(reason) => look(row, &name, Err(reason)),
            },
        );
    seen.map_err(in_file)
}
