//! What the column looks like: its layouts with a row of each, the odd texts, and the cuts that a
//! survey proposes.

use std::collections::HashMap;
use std::sync::atomic::AtomicBool;

use keen_notch_core::characters::is_blank;
use keen_notch_core::{ColumnOverview, ColumnSurvey, Layouts, Oddities, shape};
use keen_notch_table::{Table, TableError, gather_rows};

use crate::show::visible;

/// The largest number of odd texts that are shown, one of each shape.
const MOST_ODD: usize = 200;
/// The number of shapes that are told apart where a column has no layouts.
const MOST_SHAPES: usize = 1000;

/// A row that stands for others.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ShownRow {
    /// Its number, from 1.
    pub row: u64,
    /// How many rows it stands for; `None` for an odd text.
    pub like: Option<u64>,
}

/// What is known of the column.
#[derive(Debug, Clone, Default)]
pub struct Looked {
    /// One row of each layout, or of each shape where there are none, the commonest first; then
    /// the odd texts, one of each shape.
    pub rows: Vec<ShownRow>,
    /// The cuts that suit it, with their names.
    pub proposals: Vec<String>,
}

/// The most columns that are glanced at: each takes up to a megabyte meanwhile.
const MOST_COLUMNS: usize = 250;

/// What a survey tells of each column, in a few words: how many rows are filled, and what they look
/// like; `before` columns stand before those of the table.
///
/// # Errors
/// As [`look`].
pub fn glance(
    table: Table,
    before: usize,
    columns: usize,
    stop: &AtomicBool,
) -> Result<Vec<String>, TableError> {
    let places: Vec<usize> = (before..before + columns.min(MOST_COLUMNS)).collect();
    let all = |one: fn() -> ColumnOverview| -> Vec<ColumnOverview> {
        places.iter().map(|_| one()).collect()
    };
    let seen = gather_rows(
        table,
        &places,
        Some(stop),
        all(ColumnOverview::default),
        || all(ColumnOverview::part),
        |part: &mut Vec<ColumnOverview>, place, row, line, cell| {
            part[place].add(cell, row, line);
        },
        |all, part| {
            all.iter_mut().zip(part).for_each(|(all, part)| all.merge(part));
            Ok(())
        },
    )?;
    let said = |of: ColumnOverview| {
        let glance = of.glance();
        format!("{} filled   {}", glance.filled(), visible(&glance.looks_like))
    };
    Ok(seen.into_iter().map(said).collect())
}

/// What a part of the column has of each kind: how many rows, and the first.
#[derive(Default)]
struct Kinds {
    kinds: HashMap<Kind, (u64, u64)>,
}

#[derive(Debug, Clone, PartialEq, Eq, Hash)]
enum Kind {
    Layout(usize),
    Shape(String),
    Odd(String),
}

impl Kinds {
    fn add(&mut self, kind: Kind, row: u64) {
        if self.kinds.len() < MOST_SHAPES + MOST_ODD || self.kinds.contains_key(&kind) {
            self.kinds.entry(kind).or_insert((0, row)).0 += 1;
        }
    }

    fn merge(&mut self, part: &mut Kinds) {
        let mut parts: Vec<_> = part.kinds.drain().collect();
        parts.sort_by_key(|(_, (_, row))| *row);
        for (kind, (rows, first)) in parts {
            if self.kinds.len() < MOST_SHAPES + MOST_ODD || self.kinds.contains_key(&kind) {
                self.kinds.entry(kind).or_insert((0, first)).0 += rows;
            }
        }
    }
}

/// Looks at the column at a place in two passes: its layouts must be known before its odd texts are
/// told.
///
/// # Errors
/// The table cannot be read, or the look is broken off.
pub fn look(
    (first, second): (Table, Table),
    column: usize,
    names: &[String],
    stop: &AtomicBool,
) -> Result<Looked, TableError> {
    let survey = gather_rows(
        first,
        &[column],
        Some(stop),
        ColumnSurvey::default(),
        ColumnSurvey::part,
        |part: &mut ColumnSurvey, _, row, line, cell| part.add(cell, row, line),
        |all, part| {
            all.merge(part);
            Ok(())
        },
    )?;
    let layouts = survey.layouts();
    let oddities = survey.oddities();
    let kinds = gather_rows(
        second,
        &[column],
        Some(stop),
        Kinds::default(),
        Kinds::default,
        |part: &mut Kinds, _, row, _, cell| {
            if !is_blank(&cell) {
                part.add(kind(&layouts, &oddities, &cell, row), row);
            }
        },
        |all, part| {
            all.merge(part);
            Ok(())
        },
    )?;
    let proposals = survey.proposals(names, &layouts);
    let proposals = proposals.into_iter().map(|of| format!("{} = {}", of.names, of.cut)).collect();
    Ok(Looked { rows: rows(kinds), proposals })
}

fn kind(layouts: &Layouts, oddities: &Oddities, cell: &str, row: u64) -> Kind {
    let layout = layouts.place(cell);
    let is_odd = !oddities.of(cell, row).is_empty();
    match layout {
        Some(n) if !is_odd => Kind::Layout(n),
        None if !is_odd && layouts.layouts.is_empty() => Kind::Shape(shape(cell)),
        _ => Kind::Odd(shape(cell)),
    }
}

/// The rows that are shown: the commonest kinds first, then the odd ones in their order.
fn rows(kinds: Kinds) -> Vec<ShownRow> {
    let is_odd = |kind: &Kind| matches!(kind, Kind::Odd(_));
    let all = kinds.kinds.into_iter();
    let (odd, usual): (Vec<_>, Vec<_>) = all.partition(|(kind, _)| is_odd(kind));
    let mut usual: Vec<(u64, u64)> = usual.into_iter().map(|(_, of)| of).collect();
    usual.sort_by_key(|(rows, first)| (std::cmp::Reverse(*rows), *first));
    let mut odd: Vec<u64> = odd.into_iter().map(|(_, (_, first))| first).collect();
    odd.sort_unstable();
    odd.truncate(MOST_ODD);
    let usual = usual.into_iter().map(|(rows, row)| ShownRow { row, like: Some(rows) });
    usual.chain(odd.into_iter().map(|row| ShownRow { row, like: None })).collect()
}
