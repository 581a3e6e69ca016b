//! What the texts of a column look like: which occur more than once, their lengths and shapes, what
//! stands at each position and between their sections, and what does not meet the eye.

use keen_notch_core::{ColumnSurvey, FirstRow, Position, Trouble};
use keen_notch_table::Whereabouts;

use super::super::columns::{Align, aligned};
use super::super::trace::ruler;
use super::super::width::{clipped, counted, share, visible, width, window};
use super::column::{WIDEST, row_of, section};

/// How many shapes are shown from either end.
const HEAD: usize = 8;
const TAIL: usize = 8;
/// How many shapes that occur once are shown at most.
const ONCE: usize = 200;
/// How wide a bar is at most, in terminal columns.
const BAR: usize = 40;
/// How many lengths have a bar.
const LENGTHS: usize = 12;

pub(super) fn duplicates(survey: &ColumnSurvey, text: &mut String) {
    let Some(repeated) = survey.repeated().filter(|repeated| !repeated.is_empty()) else { return };
    // A column of few values repeats them all, which says nothing.
    if (repeated.len() as u64) * 2 > survey.filled() {
        return;
    }
    section(&format!("Texts that stand in more than one row: {}", repeated.len()), text);
    let rows: Vec<Vec<String>> = repeated
        .iter()
        .take(3)
        .map(|(text, count, row)| {
            vec![count.to_string(), clipped(&visible(text), WIDEST), format!("first in row {row}")]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Left, Align::Left]));
}

pub(super) fn lengths(survey: &ColumnSurvey, text: &mut String) {
    section("Lengths in characters", text);
    // Many lengths are shown in steps.
    let lengths = survey.lengths();
    let (least, longest) = (
        lengths.keys().next().copied().unwrap_or(0),
        lengths.keys().next_back().copied().unwrap_or(0),
    );
    let step = (longest - least) / LENGTHS + 1;
    let mut bins: Vec<(usize, u64)> = Vec::new();
    for (length, count) in &lengths {
        let from = least + (length - least) / step * step;
        match bins.last_mut().filter(|(known, _)| *known == from) {
            Some((_, sum)) => *sum += count,
            None => bins.push((from, *count)),
        }
    }
    let most = bins.iter().map(|(_, count)| *count).max().unwrap_or(1);
    let rows: Vec<Vec<String>> = bins
        .iter()
        .map(|(from, count)| {
            let label =
                if step == 1 { from.to_string() } else { format!("{from}–{}", from + step - 1) };
            let bar = "█".repeat(((*count as f64 / most as f64) * BAR as f64).round() as usize);
            vec![label, count.to_string(), if bar.is_empty() { "▏".to_owned() } else { bar }]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Right, Align::Left]));
}

pub(super) fn shapes(survey: &ColumnSurvey, places: &Whereabouts, text: &mut String) {
    let (shapes, more) = survey.shapes();
    let mut families: std::collections::BTreeMap<String, (u64, usize)> =
        std::collections::BTreeMap::new();
    for (shape, count, _) in &shapes {
        let (texts, of) = families.entry(family(shape)).or_default();
        (*texts, *of) = (*texts + count, *of + 1);
    }
    section(
        &format!(
            "Shapes: {}, of {} but for the lengths of their runs",
            shapes.len(),
            counted(families.len() as u64, "kind")
        ),
        text,
    );
    let row = |(shape, count, first): &(&str, u64, &FirstRow)| {
        let example = clipped(&visible(&first.text).replace(' ', "␣"), WIDEST);
        vec![
            count.to_string(),
            share(*count, survey.filled()),
            clipped(&visible(shape), WIDEST),
            format!("“{example}”"),
            row_of(first, places),
        ]
    };
    let align = [Align::Right, Align::Right, Align::Left, Align::Left, Align::Left];
    // Among codes each shape that occurs once may be a mistake; where most texts have a shape of
    // their own it is none.
    let once = shapes.iter().filter(|(_, count, _)| *count == 1).count();
    let tail = if once as u64 * 10 <= survey.filled() { once.clamp(TAIL, ONCE) } else { TAIL };
    if shapes.len() <= HEAD + tail {
        text.push_str(&aligned(&shapes.iter().map(row).collect::<Vec<_>>(), &align));
        return kinds(families, survey.filled(), text);
    }
    let mut rows: Vec<Vec<String>> = shapes[..HEAD].iter().map(row).collect();
    rows.push(vec![
        "…".to_owned(),
        String::new(),
        format!("{} more shapes, all of them with --json", shapes.len() - HEAD - tail),
        String::new(),
        String::new(),
    ]);
    rows.extend(shapes[shapes.len() - tail..].iter().map(row));
    text.push_str(&aligned(&rows, &align));
    kinds(families, survey.filled(), text);
    if more > 0 {
        text.push_str(&format!(
            "  {more} texts have a shape beyond the ten thousand that are told apart.\n"
        ));
    }
}

/// Shapes that differ in the lengths of their runs alone, taken together, where that says more than
/// the shapes do.
fn kinds(
    families: std::collections::BTreeMap<String, (u64, usize)>,
    filled: u64,
    text: &mut String,
) {
    let mut together: Vec<(String, (u64, usize))> =
        families.into_iter().filter(|(_, (_, shapes))| *shapes > 1).collect();
    together.sort_by(|a, b| b.1.0.cmp(&a.1.0).then(a.0.cmp(&b.0)));
    if together.is_empty() {
        return;
    }
    text.push_str("  Taken together, whatever the lengths:\n");
    let rows: Vec<Vec<String>> = together
        .iter()
        .take(HEAD)
        .map(|(family, (texts, shapes))| {
            vec![
                texts.to_string(),
                share(*texts, filled),
                clipped(&visible(family), WIDEST),
                counted(*shapes as u64, "shape"),
            ]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Right, Align::Left, Align::Left]));
}

/// A shape without the lengths of its runs.
fn family(shape: &str) -> String {
    let mut inside = false;
    shape
        .chars()
        .filter(|c| {
            match c {
                '[' => inside = true,
                ']' => inside = false,
                _ => {}
            }
            !(inside && c.is_ascii_digit())
        })
        .collect()
}

pub(super) fn map(survey: &ColumnSurvey, text: &mut String) {
    let (shapes, _) = survey.shapes();
    let Some((_, _, typical)) = shapes.first() else { return };
    let wide = window().saturating_sub(12).max(40);
    let typical = clipped(&visible(&typical.text), wide);
    let length = keen_notch_core::characters::count(&typical);
    section("What stands at each position, under a typical text", text);
    text.push_str(&ruler(&typical));
    let letters = |positions: &[Position]| -> String {
        positions.iter().take(length).map(Position::letter).collect()
    };
    let from_right: String = letters(&survey.right).chars().rev().collect();
    let fill = " ".repeat(length.saturating_sub(width(&from_right)));
    text.push_str(&format!("  {}  from the left\n", letters(&survey.left)));
    // Of texts of many words it is not known.
    let is_known =
        survey.right.first().is_some_and(|position| position.texts() * 100 >= survey.placed() * 95);
    if survey.lengths().len() > 1 && is_known {
        text.push_str(&format!("  {fill}{from_right}  from the right\n"));
    }
    text.push_str(
        "  In 95 of 100 texts or more: = the same character; U, l, c, d, s, . one kind (. is any \
        other sign); ? kinds are mixed.\n",
    );
    if survey.placed() < survey.filled() {
        text.push_str(&format!(
            "  This is told by {} of the texts; layouts, lengths and shapes by all.\n",
            survey.placed()
        ));
    }
}

pub(super) fn dividers(survey: &ColumnSurvey, text: &mut String) {
    let dividers = survey.dividers();
    if dividers.is_empty() {
        return;
    }
    section("What divides it", text);
    for (divider, counts, parts) in dividers {
        let mut counts: Vec<(&usize, &u64)> = counts.iter().collect();
        counts.sort_by(|a, b| b.1.cmp(a.1));
        let said: Vec<String> =
            counts.iter().take(4).map(|(parts, texts)| format!("{parts} in {texts}")).collect();
        let divider = if divider == ' ' { "a blank".to_owned() } else { format!("\"{divider}\"") };
        text.push_str(&format!("  by {divider}: parts {}\n", said.join(", ")));
        let usual = counts.iter().map(|(parts, _)| **parts).find(|parts| *parts > 1).unwrap_or(0);
        let rows: Vec<Vec<String>> = parts
            .iter()
            .take(usual)
            .enumerate()
            .map(|(n, shapes)| {
                let ranked = shapes.ranked();
                let said: Vec<String> = ranked
                    .iter()
                    .take(4)
                    .map(|known| {
                        format!(
                            "{} {}",
                            if known.shape.is_empty() {
                                "(blank)".to_owned()
                            } else {
                                visible(&known.shape)
                            },
                            known.count
                        )
                    })
                    .collect();
                let more = if ranked.len() > 4 {
                    format!(" · … {} more", ranked.len() - 4)
                } else {
                    String::new()
                };
                vec![format!("  part {}", n + 1), format!("{}{more}", said.join(" · "))]
            })
            .collect();
        text.push_str(&aligned(&rows, &[Align::Left, Align::Left]));
    }
}

/// What does not meet the eye.
pub(super) fn troubles(troubles: &[Trouble], places: &Whereabouts, text: &mut String) {
    if troubles.is_empty() {
        return;
    }
    section("What does not meet the eye", text);
    let rows: Vec<Vec<String>> = troubles
        .iter()
        .map(|trouble| {
            let example = clipped(&visible(&trouble.first.text).replace(' ', "␣"), WIDEST);
            vec![
                trouble.texts.to_string(),
                trouble.what.to_owned(),
                format!("“{example}”"),
                row_of(&trouble.first, places),
            ]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Left, Align::Left, Align::Left]));
    text.push_str("  Every odd text with its row: --findings FILE.\n");
}
