//! The page of one column.

use keen_notch_core::{Distinct, FirstRow};
use keen_notch_table::Whereabouts;

use super::super::shell::shell_word;
use super::super::style::{self, set};
use super::super::width::{clipped, counted, share, visible, width, window};
use super::column::{Surveyed, section, told};
use super::{layouts, texts};

/// The page of one column; of each proposal how many of the rows it fits.
pub fn page(column: &Surveyed, table: &str, places: &Whereabouts, unreadable: u64) -> String {
    let Surveyed { name, survey, troubles, .. } = column;
    let filled = survey.filled();
    let head = format!(
        "{name} of {table}: {}, {} filled, {} blank, {} distinct.",
        counted(survey.rows, "row"),
        filled,
        survey.blank,
        told(survey.distinct())
    );
    let mut text = format!(
        "{}\nIt looks like: {}.\n",
        set(style::STRONG, visible(&head)),
        visible(&survey.looks_like(&column.layouts).to_string())
    );
    if unreadable > 0 {
        text.push_str(&format!(
            "{} could not be read and was passed over.\n",
            counted(unreadable, "row")
        ));
    }
    if matches!(survey.distinct(), Distinct::About(_)) {
        text.push_str(
            "The number of distinct texts is an estimate, right within two in a hundred nearly \
            always.\n",
        );
    }
    if filled == 0 {
        return text;
    }
    layouts::layouts(column, places, &mut text);
    layouts::labels(column, places, &mut text);
    texts::duplicates(survey, &mut text);
    texts::lengths(survey, &mut text);
    if !is_free_text(column) {
        texts::shapes(survey, places, &mut text);
        texts::map(survey, &mut text);
        texts::dividers(survey, &mut text);
    }
    texts::troubles(troubles, places, &mut text);
    cuts(column, &mut text);
    let place = column.only_place.map(|place| format!("{{column {place}}}"));
    let column = shell_word(&visible(&place.unwrap_or_else(|| name.clone())));
    let table = shell_word(&visible(table));
    for (said, command) in [
        ("Show what else you want", format!("notch learn {table} -c {column} 'CELL => PIECE'")),
        ("Type cuts and see what comes out", format!("notch bench {table} -c {column}")),
    ] {
        text.push_str(&format!("  {said}: {}\n", set(style::COMMAND, command)));
    }
    text
}

/// The cuts proposed, each with the share of texts that it fits.
fn cuts(column: &Surveyed, text: &mut String) {
    let Surveyed { survey, proposals, tried, .. } = column;
    let filled = survey.filled();
    section("Cuts that suit it", text);
    if proposals.is_empty() {
        text.push_str("  None by its looks alone.\n");
    }
    let rests: Vec<String> = survey.rests(proposals).iter().map(|shapes| rest(shapes)).collect();
    if (1..filled).contains(tried) {
        text.push_str(&format!(
            "  Their shares are told by {} of the texts, on which they were run.\n",
            tried
        ));
    }
    for (n, proposal) in proposals.iter().enumerate() {
        let cut = format!("'{} = {}'", proposal.names, proposal.cut_of(&column.source()));
        let cut = visible(&cut);
        let mut lines = broken(&cut, window().saturating_sub(12).max(40)).into_iter();
        let first = lines.next().unwrap_or_default();
        text.push_str(&format!(
            "  {:>6}  {}\n",
            share(proposal.fits, filled),
            set(style::COMMAND, first)
        ));
        lines.for_each(|line| {
            text.push_str(&format!("            {}\n", set(style::COMMAND, line)))
        });
        // Said once of all that leave the same.
        if !rests[n].is_empty() && rests.get(n + 1) != Some(&rests[n]) {
            text.push_str(&format!("    the rest: {}\n", rests[n]));
        }
    }
}

/// A cut as one line, or where it is wider than the window in lines that begin with `else` or `if`:
/// it may be copied so.
fn broken(cut: &str, wide: usize) -> Vec<String> {
    let mut breaks = vec![0];
    let (mut is_text, mut is_escaped) = (false, false);
    for (at, c) in cut.char_indices() {
        match c {
            '"' if !is_escaped => is_text = !is_text,
            ' ' if !is_text => {
                let starts =
                    ["else ", "if ", "or {"].iter().any(|word| cut[at + 1..].starts_with(word));
                breaks.extend(starts.then_some(at));
            }
            _ => {}
        }
        is_escaped = c == '\\' && !is_escaped;
    }
    breaks.push(cut.len());
    let mut lines = vec![String::new()];
    for piece in breaks.windows(2).map(|pair| &cut[pair[0]..pair[1]]) {
        match lines.last_mut() {
            Some(line) if line.is_empty() || width(line) + width(piece) <= wide => {
                line.push_str(piece)
            }
            _ => lines.push(piece.trim_start().to_owned()),
        }
    }
    lines
}

/// The shapes that a cut does not fit.
fn rest(shapes: &[(&str, u64, &FirstRow)]) -> String {
    let mut said: Vec<String> = shapes
        .iter()
        .take(3)
        .map(|(shape, texts, _)| format!("{} {texts}", clipped(&visible(shape), 24)))
        .collect();
    if shapes.len() > said.len() {
        said.push(format!("… {} more", shapes.len() - said.len()));
    }
    said.join(" · ")
}

/// Whether most texts are sentences, whose shapes tell nothing that their layouts do not.
fn is_free_text(column: &Surveyed) -> bool {
    column.survey.is_prose()
}
