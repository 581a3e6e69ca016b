//! The layouts of a column, its odd texts, and its labels.

use keen_notch_core::{Layout, MOST_ODD};
use keen_notch_table::Whereabouts;

use super::super::columns::{Align, aligned};
use super::super::style::{self, set};
use super::super::width::{clipped, share, visible, width, window};
use super::column::{Surveyed, WIDEST, row_of, section};

/// In fewer texts nothing is said of layouts that are not there.
const FEWEST: u64 = 20;

/// The layouts, each with its commonest texts' example and its slots underlined, and the odd texts.
pub(super) fn layouts(column: &Surveyed, places: &Whereabouts, text: &mut String) {
    let Surveyed { survey, layouts, .. } = column;
    let filled = survey.filled();
    if layouts.layouts.is_empty() {
        // In few rows nothing is told from chance.
        let Some((largest, of)) = layouts.largest.filter(|(_, of)| *of >= FEWEST) else { return };
        section("Layouts: none", text);
        text.push_str(&format!(
            "  No layout holds more than {} of 100 rows.\n",
            (largest * 100).div_ceil(of.max(1))
        ));
        return;
    }
    let title = match layouts.layouts.len() {
        1 => "Layout: one".to_owned(),
        n => format!("Layouts: {n}"),
    };
    let odd = match layouts.odd_texts {
        0 => "which all texts have".to_owned(),
        odd => format!("which {} of {filled} texts have", filled - odd),
    };
    section(&format!("{title}, {odd}"), text);
    let wide = window().saturating_sub(4).max(40);
    let counts: Vec<Vec<String>> = layouts
        .layouts
        .iter()
        .map(|layout| vec![layout.texts.to_string(), share(layout.texts, filled)])
        .collect();
    let counts = aligned(&counts, &[Align::Right, Align::Right]);
    for (layout, count) in layouts.layouts.iter().zip(counts.lines()) {
        let case = if layout.ignoring_case { "  ignoring case" } else { "" };
        text.push_str(&format!(
            "{count}  {}{case}\n",
            set(style::STRONG, visible(&layout.pattern))
        ));
        let indent = " ".repeat(width(count) + 2);
        let (example, marks) = underlined(layout, wide.saturating_sub(indent.len() + 12));
        text.push_str(&format!("{indent}{example}  {}\n", row_of(&layout.first, places)));
        if !marks.trim().is_empty() {
            text.push_str(&format!("{indent}{}\n", set(style::FINDING, marks.trim_end())));
        }
    }
    if layouts.odd_texts > 0 {
        let shown = layouts.odd.len();
        let title = match layouts.odd_texts {
            1 => "One text has no layout".to_owned(),
            n => format!("{n} texts have no layout"),
        };
        section(&title, text);
        let rows: Vec<Vec<String>> = layouts
            .odd
            .iter()
            .map(|odd| {
                let example = clipped(&visible(&odd.text).replace(' ', "␣"), wide - 14);
                vec![row_of(odd, places), format!("“{example}”")]
            })
            .collect();
        text.push_str(&aligned(&rows, &[Align::Left, Align::Left]));
        let more = layouts.odd_texts - shown as u64;
        if more > 0 {
            // Where there is room for another one, all different ones are there.
            let said = match (shown < MOST_ODD, more) {
                (false, _) => format!("{more} more"),
                (true, 1) => "1 more is like one of these".to_owned(),
                (true, _) => format!("{more} more are like one of these"),
            };
            text.push_str(&format!("  … {said}; all of them: --findings FILE.\n"));
        }
    }
}

/// What stands before numbers and codes in texts with words.
pub(super) fn labels(column: &Surveyed, places: &Whereabouts, text: &mut String) {
    let Surveyed { survey, layouts, .. } = column;
    if layouts.labels.is_empty() {
        return;
    }
    section("What stands before numbers and codes", text);
    let rows: Vec<Vec<String>> = layouts
        .labels
        .iter()
        .map(|label| {
            vec![
                label.texts.to_string(),
                share(label.texts, survey.filled()),
                visible(&label.label),
                clipped(&visible(&label.followed_by), WIDEST),
                format!("“{}”", clipped(&visible(&label.first.text), WIDEST)),
                row_of(&label.first, places),
            ]
        })
        .collect();
    let align = [Align::Right, Align::Right, Align::Left, Align::Left, Align::Left, Align::Left];
    text.push_str(&aligned(&rows, &align));
}

/// The example of a layout, clipped, and marks under its slots.
fn underlined(layout: &Layout, wide: usize) -> (String, String) {
    let text = &layout.first.text;
    let slots = layout.slots(text).unwrap_or_default();
    let (mut line, mut marks, mut at) = (String::new(), String::new(), 0);
    for slot in slots {
        let before = visible(&text[at..slot.start]);
        let inside = visible(&text[slot.clone()]);
        marks.push_str(&" ".repeat(width(&before)));
        marks.push_str(&"‾".repeat(width(&inside)));
        line.push_str(&before);
        line.push_str(&inside);
        at = slot.end;
    }
    line.push_str(&visible(&text[at..]));
    let line = clipped(&line, wide);
    let marks = marks.chars().take(width(&line)).collect();
    (line, marks)
}
