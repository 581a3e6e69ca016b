//! What the new columns looked like once, kept in the jig; a later run is compared with it.

use std::fs;
use std::path::Path;

use indexmap::IndexMap;
use keen_notch_core::{Layout, Layouts, OutputTally, Plan, Tally};
use keen_notch_table::{NewFile, TableError};
use toml_edit::{DocumentMut, InlineTable, Item, Table, Value};

use super::column_layouts::ColumnLayouts;
use super::file::Remembered;
use crate::show::Problem;

/// How many shapes of a column are remembered one by one.
const MOST: usize = 40;
/// The key of all further shapes, and of the texts of no layout.
pub const FURTHER: &str = "…";
/// How far a share may move, in points of a hundred, when nothing says so.
pub const USUAL_DRIFT: f64 = 10.0;

/// What follows a layout whose letters may be of either case.
const IGNORING_CASE: &str = " ignoring case";
/// A column of more layouts is remembered by them no more than by its texts.
const MOST_LAYOUTS: usize = 20;

/// Something that no longer looks as it did.
#[derive(Debug, Clone, PartialEq)]
pub struct Drift {
    /// The new column, or the column that cuts start from.
    pub column: String,
    /// The shape of the one, the layout of the other; empty for blank cells, `…` for the texts of
    /// no layout.
    pub shape: String,
    /// Its share of the rows then, in percent; `None` when it was never seen.
    pub before: Option<f64>,
    /// Its share now.
    pub now: f64,
    /// How many rows have it now.
    pub rows: u64,
    /// The line of the first of them.
    pub first_line: Option<u64>,
}

/// The shapes of a column: text, rows, first line. Blank cells come as the empty shape.
fn shapes(tally: &OutputTally) -> Vec<(&str, u64, Option<u64>)> {
    let mut shapes: Vec<(&str, u64, Option<u64>)> = tally
        .shapes
        .ranked()
        .into_iter()
        .map(|known| (&*known.shape, known.count, Some(known.first_line)))
        .collect();
    if tally.blank > 0 {
        shapes.push(("", tally.blank, None));
    }
    shapes
}

fn percent(rows: u64, of: u64) -> f64 {
    // Rounded so that the figure in the file is the figure compared with.
    if of == 0 { 0.0 } else { (rows as f64 * 1_000_000.0 / of as f64).round() / 10_000.0 }
}

/// What a run has seen, to be remembered.
pub fn seen(plan: &Plan, tally: &Tally, rows: u64) -> IndexMap<String, IndexMap<String, f64>> {
    let columns = plan.outputs().iter().zip(&tally.outputs).map(|(output, tally)| {
        let mut shares: IndexMap<String, f64> = IndexMap::new();
        for (n, (shape, count, _)) in shapes(tally).into_iter().enumerate() {
            let key = if n < MOST || shape.is_empty() { shape } else { FURTHER };
            *shares.entry(key.to_owned()).or_default() += percent(count, rows);
        }
        if tally.shapes.beyond() > 0 {
            *shares.entry(FURTHER.to_owned()).or_default() += percent(tally.shapes.beyond(), rows);
        }
        (output.name.clone(), shares)
    });
    columns.collect()
}

impl Remembered {
    /// Shapes never seen before, and shares that have moved by more than `points` of a hundred.
    pub fn drift(&self, plan: &Plan, tally: &Tally, rows: u64, points: f64) -> Vec<Drift> {
        let mut drifts = Vec::new();
        if rows == 0 {
            return drifts;
        }
        for (output, tally) in plan.outputs().iter().zip(&tally.outputs) {
            let Some(known) = self.shapes.get(&output.name) else { continue };
            let now = shapes(tally);
            let of =
                |shape: &str, before: Option<f64>, found: Option<&(&str, u64, Option<u64>)>| {
                    let (rows_now, first_line) =
                        found.map_or((0, None), |(_, count, line)| (*count, *line));
                    let (column, shape) = (output.name.clone(), shape.to_owned());
                    Drift {
                        column,
                        shape,
                        before,
                        now: percent(rows_now, rows),
                        rows: rows_now,
                        first_line,
                    }
                };
            for (shape, before) in known.iter().filter(|(shape, _)| *shape != FURTHER) {
                let drift = of(shape, Some(*before), now.iter().find(|(known, ..)| known == shape));
                if (drift.now - before).abs() > points {
                    drifts.push(drift);
                }
            }
            if !known.contains_key(FURTHER) {
                let new = now.iter().filter(|(shape, ..)| !known.contains_key(*shape));
                drifts.extend(new.map(|found| of(found.0, None, Some(found))));
            }
        }
        drifts
    }
}

/// A layout as it is remembered.
fn layout_key(layout: &Layout) -> String {
    let case = if layout.ignoring_case { IGNORING_CASE } else { "" };
    format!("{}{case}", layout.pattern)
}

/// What stands of a column's layouts: each, with how many rows have it and the line of the first.
fn layout_rows(of: &ColumnLayouts) -> Vec<(String, u64, Option<u64>)> {
    let counts = of.counts.texts.iter().zip(&of.counts.first);
    let each = of.layouts.layouts.iter().zip(counts);
    let mut rows: Vec<(String, u64, Option<u64>)> = each
        .map(|(layout, (texts, first))| {
            (layout_key(layout), *texts, first.as_ref().map(|first| first.line))
        })
        .collect();
    if of.counts.odd_texts > 0 {
        let first = of.counts.odd.first().map(|first| first.line);
        rows.push((FURTHER.to_owned(), of.counts.odd_texts, first));
    }
    if of.blank > 0 {
        rows.push((String::new(), of.blank, None));
    }
    rows
}

impl Remembered {
    /// The layouts of a column that are remembered.
    pub fn layouts_of(&self, column: &str) -> Option<Layouts> {
        let known = self.layouts.get(column)?;
        let patterns = known.keys().filter(|key| !key.is_empty() && *key != FURTHER).map(|key| {
            match key.strip_suffix(IGNORING_CASE) {
                Some(pattern) => (pattern, true),
                None => (key.as_str(), false),
            }
        });
        Some(Layouts::of_patterns(patterns))
    }

    /// Layouts that were never seen before in the columns that cuts start from, and shares that
    /// have moved by more than `points` of a hundred.
    pub fn layout_drift(&self, columns: &[ColumnLayouts], rows: u64, points: f64) -> Vec<Drift> {
        let mut drifts = Vec::new();
        for of in columns {
            let Some(known) = self.layouts.get(&of.column) else { continue };
            let now = layout_rows(of);
            let drift = |(shape, rows_now, first_line): (&str, u64, Option<u64>), before| Drift {
                column: of.column.clone(),
                shape: shape.to_owned(),
                before,
                now: percent(rows_now, rows),
                rows: rows_now,
                first_line,
            };
            for (key, before) in known {
                let found = now.iter().find(|(layout, ..)| layout == key);
                let (count, line) = found.map_or((0, None), |(_, count, line)| (*count, *line));
                let moved = drift((key, count, line), Some(*before));
                if (moved.now - before).abs() > points {
                    drifts.push(moved);
                }
            }
            for layout in of.new_ones().layouts {
                let line = Some(layout.first.line);
                drifts.push(drift((&layout_key(&layout), layout.texts, line), None));
            }
        }
        drifts
    }
}

/// Writes what a run has seen into a jig, whose comments and layout stay.
///
/// # Errors
/// The jig cannot be read or written.
pub fn remember(
    path: &Path,
    plan: &Plan,
    (tally, rows): (&Tally, u64),
    layouts: &[ColumnLayouts],
) -> Result<(), Problem> {
    let name = format!("the jig {}", path.display());
    let text = fs::read_to_string(path).map_err(|cause| TableError::Io {
        name,
        what: "cannot be read",
        cause,
    })?;
    let mut jig: DocumentMut = text.parse().map_err(|error| {
        Problem::said(
            format!("{} is no TOML any more: {error}.", path.display()),
            "Read it with notch jig show.",
        )
    })?;
    let mut columns = Table::new();
    for (column, shares) in seen(plan, tally, rows) {
        let shares: InlineTable =
            shares.into_iter().map(|(shape, share)| (shape, Value::from(share))).collect();
        columns.insert(&column, Item::Value(shares.into()));
    }
    let remembered = jig.entry("remembered").or_insert_with(|| Item::Table(Table::new()));
    let Some(remembered) = remembered.as_table_mut() else {
        return Err(Problem::said(
            format!("{}: remembered is no table.", path.display()),
            "Take it out; it is written anew.",
        ));
    };
    remembered.insert("rows", Item::Value(Value::from(i64::try_from(rows).unwrap_or(i64::MAX))));
    remembered.insert("shapes", Item::Table(columns));
    let mut columns = Table::new();
    for of in layouts.iter().filter(|of| (1..=MOST_LAYOUTS).contains(&of.layouts.layouts.len())) {
        let each = layout_rows(of).into_iter();
        let shares: InlineTable =
            each.map(|(layout, texts, _)| (layout, Value::from(percent(texts, rows)))).collect();
        columns.insert(&of.column, Item::Value(shares.into()));
    }
    remembered.insert("layouts", Item::Table(columns));
    let mut file = NewFile::create(path)?;
    file.write(jig.to_string().as_bytes())?;
    Ok(file.finish()?)
}
