//! What `notch compare` prints.

use std::collections::HashMap;

use keen_notch_table::Whereabouts;
use serde_json::{Value, json};
use unicode_segmentation::UnicodeSegmentation;

use super::places::at;
use super::style::{self, set};
use super::width::{clipped, counted, share, visible, width};

/// How many shapes are shown.
const MOST_SHAPES: usize = 12;
/// How many shapes are told apart.
const KEPT_SHAPES: usize = 1000;
/// How wide a text is shown at most, in terminal columns.
const WIDEST: usize = 70;

/// What the rows had to say about two cuts.
#[derive(Debug, Default)]
pub struct Comparison {
    /// Rows in which both give the same text.
    pub same: u64,
    /// Rows in which they do not.
    pub differ: u64,
    /// Rows in which the first, or the second, alone returns nothing.
    pub blank: [u64; 2],
    /// Rows that could not be read.
    pub unreadable: u64,
    /// The rows that differ by the shape of what they were cut from.
    groups: HashMap<String, Group>,
}

/// Rows of one shape.
#[derive(Debug, Default)]
struct Group {
    rows: u64,
    examples: Vec<Differing>,
}

/// A row in which they differ.
#[derive(Debug)]
pub struct Differing {
    /// Its number, from 1.
    pub row: u64,
    /// The line it begins in, from 1.
    pub line: u64,
    /// What it was cut from, and what the two give.
    pub texts: [String; 3],
}

impl Comparison {
    /// Counts a row.
    pub fn count(&mut self, first: &str, second: &str) {
        if first == second {
            self.same += 1;
            return;
        }
        self.differ += 1;
        self.blank[0] += u64::from(first.is_empty());
        self.blank[1] += u64::from(second.is_empty());
    }

    /// Keeps a row that differs.
    pub fn differs(&mut self, shape: String, most: usize, example: impl FnOnce() -> Differing) {
        let key = if self.groups.contains_key(&shape) || self.groups.len() < KEPT_SHAPES {
            shape
        } else {
            "others".to_owned()
        };
        let group = self.groups.entry(key).or_default();
        group.rows += 1;
        if group.examples.len() < most {
            group.examples.push(example());
        }
    }

    /// The groups, the commonest first.
    fn ranked(&self) -> Vec<(&str, &Group)> {
        let mut ranked: Vec<(&str, &Group)> =
            self.groups.iter().map(|(shape, group)| (shape.as_str(), group)).collect();
        ranked.sort_by(|a, b| b.1.rows.cmp(&a.1.rows).then(a.0.cmp(b.0)));
        ranked
    }
}

/// In how many rows they are the same, in one sentence.
pub fn compared_in_words(seen: &Comparison, table: &str) -> String {
    let rows = seen.same + seen.differ;
    match seen.differ {
        0 => format!("The same in all {} of {table}.", counted(rows, "row")),
        n => format!(
            "{} of {table}: the same in {}, different in {n} ({}).",
            counted(rows, "row"),
            seen.same,
            share(n, rows)
        ),
    }
}

/// The comparison as text.
pub fn comparison(seen: &Comparison, cuts: [&str; 2], table: &str, places: &Whereabouts) -> String {
    let head = compared_in_words(seen, table);
    let mut text = format!(
        "{}\n  first   {}\n  second  {}\n",
        set(style::STRONG, visible(&head)),
        visible(cuts[0]),
        visible(cuts[1])
    );
    if seen.unreadable > 0 {
        text.push_str(&format!(
            "{} could not be read and was not compared.\n",
            counted(seen.unreadable, "row")
        ));
    }
    for (name, blank) in ["first", "second"].iter().zip(seen.blank).filter(|(_, blank)| *blank > 0)
    {
        text.push_str(&format!("The {name} alone is blank in {}.\n", counted(blank, "row")));
    }
    let ranked = seen.ranked();
    for (shape, group) in ranked.iter().take(MOST_SHAPES) {
        let shape = if shape.is_empty() { "(blank)".to_owned() } else { visible(shape) };
        text.push_str(&format!(
            "\n{}\n",
            set(style::FINDING, format!("{} like {shape}", counted(group.rows, "row")))
        ));
        for Differing { row, line, texts: [cell, first, second] } in &group.examples {
            text.push_str(&format!("  row {row}  {}  {}\n", places.line(*line), shown(cell)));
            text.push_str(&side_by_side(first, second));
        }
    }
    if ranked.len() > MOST_SHAPES {
        text.push_str(&format!(
            "\n{} more kinds of rows; every row that differs: --all-to FILE.\n",
            ranked.len() - MOST_SHAPES
        ));
    }
    text
}

/// A text whose blanks can be seen.
fn shown(text: &str) -> String {
    if text.is_empty() {
        "(blank)".to_owned()
    } else {
        clipped(&visible(text).replace(' ', "␣"), WIDEST)
    }
}

/// Two texts below each other, with strokes under what only one of them has.
fn side_by_side(first: &str, second: &str) -> String {
    let characters: [Vec<&str>; 2] = [first, second].map(|text| text.graphemes(true).collect());
    let same =
        |pairs: &mut dyn Iterator<Item = (&&str, &&str)>| pairs.take_while(|(a, b)| a == b).count();
    let front = same(&mut characters[0].iter().zip(&characters[1]));
    let shorter = characters[0].len().min(characters[1].len());
    let back =
        same(&mut characters[0].iter().rev().zip(characters[1].iter().rev())).min(shorter - front);
    let mut text = String::new();
    for ((name, whole), characters) in
        [("first", first), ("second", second)].into_iter().zip(&characters)
    {
        text.push_str(&format!("    {name:<6}  {}\n", shown(whole)));
        let wide = |part: &[&str]| width(&visible(&part.concat()));
        let (before, odd) =
            (wide(&characters[..front]), wide(&characters[front..characters.len() - back]));
        if odd > 0 && before + odd <= WIDEST {
            text.push_str(&format!(
                "            {}{}\n",
                " ".repeat(before),
                set(style::WRONG, "‾".repeat(odd))
            ));
        }
    }
    text
}

/// The comparison as JSON, documented in docs/json.md.
pub fn comparison_json(
    seen: &Comparison,
    cuts: [&str; 2],
    table: &str,
    places: &Whereabouts,
) -> Value {
    let groups = seen.ranked().into_iter().map(|(shape, group)| {
        let examples =
            group.examples.iter().map(|Differing { row, line, texts: [cell, first, second] }| {
                at(
                    places,
                    "line",
                    *line,
                    json!({ "row": row, "cell": cell, "first": first, "second": second }),
                )
            });
        json!({ "shape": shape, "rows": group.rows, "examples": examples.collect::<Vec<_>>() })
    });
    json!({
        "version": 1,
        "table": table,
        "first": cuts[0],
        "second": cuts[1],
        "rows": seen.same + seen.differ,
        "same": seen.same,
        "different": seen.differ,
        "first_alone_blank": seen.blank[0],
        "second_alone_blank": seen.blank[1],
        "unreadable": seen.unreadable,
        "shapes": groups.collect::<Vec<_>>(),
    })
}
