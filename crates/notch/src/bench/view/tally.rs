//! The tally: what all rows make of the cut in the line.

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Under};
use crate::bench::state::{Focus, State};
use crate::bench::tally::Which;
use crate::show::{counted, visible};

pub fn draw(canvas: &mut Canvas<'_>, drawn: &mut Drawn, state: &State, places: Places) {
    let (top, height) = places.rows;
    let is_alone = places.split == 0;
    let from = if is_alone { 0 } else { places.split + 1 };
    let end = canvas.width();
    if !is_alone {
        canvas.put((places.split, top - 1), "┬", Look::Quiet, 1);
        for n in 0..height {
            canvas.put((places.split, top + n), "│", Look::Quiet, 1);
        }
    }
    let name = state.judged.names.get(state.document.at).map_or("", String::as_str);
    let of = if state.place().is_some() { format!(": {}", visible(name)) } else { String::new() };
    let title = match state.counting {
        Some(percent) => format!("counting {percent}%{of}"),
        None => match state.table.rows {
            0 => format!("no rows{of}"),
            1 => format!("1 row{of}"),
            rows => format!("all {}{of}", counted(rows, "row")),
        },
    };
    canvas.rule(top - 1, from, end, &title, state.focus == Focus::Tally);
    for n in 0..height {
        let place = state.tally_top + n;
        let Some(line) = state.lines.get(place) else { break };
        let y = top + n;
        let is_chosen = line.which.as_ref() == Some(&state.which);
        if is_chosen {
            canvas.put((from, y), "›", Look::Strong, 1);
        }
        let count = line.count.map(|count| count.to_string()).unwrap_or_default();
        let count_at = canvas.put_right((end - 1, y), &count, Look::Plain);
        let x = from + 2 + line.indent;
        let is_finding = matches!(line.which, Some(Which::Reason(kind, _)) if !kind.is_note());
        let look = match (is_chosen, is_finding) {
            (true, _) => Look::Strong,
            (_, true) => Look::Finding,
            _ => Look::Plain,
        };
        canvas.put((x, y), &line.label, look, count_at.saturating_sub(x + 1));
        let under = if line.which.is_some() { Under::Tally(place) } else { Under::TallyPane };
        drawn.area((from, y), end - from, under);
    }
}
