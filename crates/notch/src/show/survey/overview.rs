//! One line for each column of a table.

use keen_notch_core::{Distinct, Glance};

use super::super::columns::{Align, aligned};
use super::super::style::{self, set};
use super::super::width::{clipped, counted, share, visible};
use super::column::told;

/// All columns, one line each.
pub fn overview(columns: &[(String, Glance)], table: &str, unreadable: u64) -> String {
    let rows = columns.first().map_or(0, |(_, seen)| seen.rows);
    let mut text = format!(
        "{}\n",
        set(
            style::STRONG,
            visible(&format!(
                "{} of {table}, {}.",
                counted(rows, "row"),
                counted(columns.len() as u64, "column")
            ))
        )
    );
    if unreadable > 0 {
        text.push_str(&format!(
            "{} could not be read and was passed over.\n",
            counted(unreadable, "row")
        ));
    }
    let head =
        ["column", "filled", "blank", "distinct", "lengths", "commonest shape", "", "looks like"]
            .map(str::to_owned)
            .to_vec();
    let mut lines = vec![head];
    for (name, seen) in columns {
        let unique = seen.distinct == Distinct::Exactly(seen.filled()) && seen.filled() > 1;
        let lengths = match seen.lengths {
            Some((least, most)) if least != most => format!("{least}–{most}"),
            Some((only, _)) => only.to_string(),
            None => String::new(),
        };
        let (shape, of) = seen.shape.as_ref().map_or((String::new(), String::new()), |shape| {
            (clipped(&visible(&shape.shape), 30), share(shape.count, seen.filled()))
        });
        let mut looks = visible(&seen.looks_like);
        if unique {
            looks.push_str(", unique");
        }
        let name =
            if name.is_empty() { "(no name)".to_owned() } else { clipped(&visible(name), 40) };
        lines.push(vec![
            name,
            seen.filled().to_string(),
            seen.blank.to_string(),
            told(seen.distinct),
            lengths,
            shape,
            of,
            looks,
        ]);
    }
    text.push_str(&aligned(
        &lines,
        &[
            Align::Left,
            Align::Right,
            Align::Right,
            Align::Right,
            Align::Right,
            Align::Left,
            Align::Right,
            Align::Left,
        ],
    ));
    let looked_at = columns.first().map_or(0, |(_, seen)| seen.looked_at);
    if looked_at < rows {
        text.push_str(&format!(
            "\nWhat a column looks like is told by {looked_at} of its rows, everything else by \
            all.\n"
        ));
    }
    text
}

/// How to go on from an overview of a table that can be read again.
pub const MORE_OF_A_COLUMN: &str = "\nMore about a column, and cuts that suit it: -c COLUMN.\n";
