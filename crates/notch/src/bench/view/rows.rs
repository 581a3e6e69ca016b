//! The rows: the text each starts from, with what is taken of it, and the pieces.

use std::ops::Range;

use unicode_segmentation::UnicodeSegmentation;

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Scene, Under};
use crate::bench::rows::MadeRow;
use crate::bench::state::{Focus, ListedRow, MOST_LISTED, State};
use crate::bench::tally::Which;
use crate::show::visible;

/// What stands before the text: the sign of the chosen row, that of a mark, the number.
const BEFORE: usize = 3;
/// No text is looked at beyond that many characters left of its window or in it.
const LONGEST: usize = 100_000;

/// The title of the rows.
pub fn title(state: &State) -> String {
    let of_line = |which: &Which| {
        state
            .lines
            .iter()
            .find(|line| line.which.as_ref() == Some(which))
            .map(|line| line.label.clone())
    };
    let mut title = match &state.which {
        Which::All => "rows: all".to_owned(),
        Which::OneOfEach if state.looked.is_some() => {
            "rows: one of each layout, and the odd".to_owned()
        }
        Which::OneOfEach => "rows: the first ones".to_owned(),
        which => format!("rows: {}", of_line(which).unwrap_or_default().trim()),
    };
    let count = state.lines.iter().find(|line| line.which.as_ref() == Some(&state.which));
    if count.and_then(|line| line.count).is_some_and(|count| count > MOST_LISTED)
        && state.which != Which::OneOfEach
    {
        title.push_str(&format!(", the first {MOST_LISTED}"));
    }
    if let Some((text, _)) = &state.find {
        title.push_str(&format!(", with \"{}\"", visible(text)));
    }
    title
}

/// A text in a window of so many terminal columns: the characters in it with their looks.
struct Window {
    characters: Vec<(String, usize, bool)>,
    cut_left: bool,
    cut_right: bool,
}

impl Window {
    /// The window that shows what is taken, moved right by so many characters.
    fn of(canvas: &Canvas<'_>, text: &str, taken: &[Range<usize>], wide: usize, by: usize) -> Self {
        let shown: Vec<(usize, String, usize)> = text
            .grapheme_indices(true)
            .take(LONGEST)
            .map(|(at, character)| {
                let (shown, wide) = canvas.character(character);
                (at, shown, wide)
            })
            .collect();
        let all: usize = shown.iter().map(|(.., wide)| wide).sum();
        let is_taken = |at: usize| taken.iter().any(|span| span.contains(&at));
        let first = shown.iter().position(|(at, ..)| is_taken(*at)).unwrap_or(0);
        let last = shown.iter().rposition(|(at, ..)| is_taken(*at)).unwrap_or(0);
        // What is taken stands in the window, with some of what is before it.
        let end: usize = shown[..(last + 1).min(shown.len())].iter().map(|(.., wide)| wide).sum();
        let base = if all <= wide || end + 1 < wide { 0 } else { first.saturating_sub(wide / 4) };
        let from = if all <= wide { 0 } else { (base + by).min(shown.len().saturating_sub(1)) };
        let mut characters = Vec::new();
        let dots = canvas.wide("…");
        let mut used = if from > 0 { dots } else { 0 };
        let mut cut_right = false;
        for (n, (at, shown_as, width)) in shown.iter().enumerate().skip(from) {
            let is_last = n + 1 == shown.len();
            if used + width + if is_last { 0 } else { dots } > wide {
                cut_right = true;
                break;
            }
            characters.push((shown_as.clone(), *width, is_taken(*at)));
            used += width;
        }
        Self { characters, cut_left: from > 0, cut_right }
    }
}

/// How wide a text is when it is drawn, up to a width.
fn wide_as_drawn(canvas: &Canvas<'_>, text: &str, most: usize) -> usize {
    let mut used = 0;
    for character in text.graphemes(true) {
        used += canvas.character(character).1;
        if used >= most {
            return most;
        }
    }
    used
}

/// A piece as it is drawn, blanks visible.
fn drawn_piece(canvas: &Canvas<'_>, text: &str) -> String {
    text.graphemes(true).take(LONGEST).map(|character| canvas.character(character).0).collect()
}

/// What is shown of a row as its piece: the piece, the reason in round brackets, or both.
fn piece(canvas: &Canvas<'_>, row: &MadeRow) -> Vec<(String, Look)> {
    if let Some(reason) = &row.unreadable {
        return vec![(format!("({})", visible(reason)), Look::Finding)];
    }
    let mut said = Vec::new();
    if let Some(piece) = &row.piece {
        said.push((drawn_piece(canvas, piece), Look::Plain));
    }
    if !row.reasons.is_empty() {
        let gap = if said.is_empty() { "" } else { " " };
        said.push((format!("{gap}({})", visible(&row.reasons.join("; "))), Look::Finding));
    }
    said
}

pub fn draw(canvas: &mut Canvas<'_>, drawn: &mut Drawn, scene: &Scene<'_>, places: Places) {
    let state = scene.state;
    let (top, height) = places.rows;
    let end = places.split;
    canvas.rule(top - 1, 0, end, &title(state), state.focus == Focus::Rows);
    let figures = (0..height)
        .filter_map(|n| state.list.get(state.top + n))
        .map(|listed| label(state, listed, scene.rows, state.top).chars().count())
        .max()
        .unwrap_or(0)
        .max(3);
    let text_at = BEFORE + figures;
    let has_cut = state.place().is_some();
    // The piece begins in one column in all rows; the text may take half of the room.
    let room = end.saturating_sub(text_at + 1);
    let most = if has_cut { room.div_ceil(2) } else { room };
    let longest = scene.rows.iter().map(|row| wide_as_drawn(canvas, &row.source, most)).max();
    let wide = longest.unwrap_or(0).max(8).min(most);
    let piece_at = text_at + wide + 3;
    let pieces: Vec<Vec<(String, Look)>> =
        scene.rows.iter().map(|row| piece(canvas, row)).collect();
    let piece_wide = scene
        .rows
        .iter()
        .map(|row| row.piece.as_ref().map_or(0, |piece| wide_as_drawn(canvas, piece, end)))
        .max()
        .unwrap_or(0)
        .max(12);
    for n in 0..height {
        let y = top + n;
        let Some(listed) = state.list.get(state.top + n) else { break };
        let Some(row) = scene.rows.get(n) else { break };
        let is_chosen = state.top + n == state.row;
        if is_chosen {
            canvas.put((0, y), "›", Look::Strong, 1);
        }
        if state.mark_of(&row.source).is_some() {
            canvas.put((1, y), "◆", Look::Strong, 1);
        }
        let label = label(state, listed, scene.rows, state.top);
        canvas.put_right(
            (2 + figures, y),
            &label,
            if is_chosen { Look::Strong } else { Look::Quiet },
        );
        let window = Window::of(canvas, &row.source, &row.taken, wide, state.scroll);
        let mut x = text_at;
        if window.cut_left {
            x += canvas.put((x, y), "…", Look::Quiet, 3);
        }
        for (shown, width, is_taken) in &window.characters {
            let look = if *is_taken { Look::Taken } else { Look::Plain };
            canvas.put((x, y), shown, look, *width);
            x += width;
        }
        if window.cut_right {
            canvas.put((x, y), "…", Look::Quiet, 3);
        }
        if has_cut || row.unreadable.is_some() {
            canvas.put((piece_at - 2, y), "│", Look::Quiet, 1);
            let mut x = piece_at;
            for (said, look) in &pieces[n] {
                x += canvas.put((x, y), said, *look, end.saturating_sub(x + 1));
            }
            let others: Vec<String> =
                row.others.iter().map(|piece| drawn_piece(canvas, piece)).collect();
            let others = others.join("  ");
            let at = piece_at + piece_wide + 1;
            if !others.trim().is_empty() && x < at + 1 && at + 6 < end {
                canvas.put((at, y), "│", Look::Quiet, 1);
                canvas.put((at + 2, y), &others, Look::Quiet, end.saturating_sub(at + 3));
            }
        }
        drawn.area((0, y), end, Under::Row(state.top + n));
    }
    for n in 0..height {
        drawn.areas.insert(
            0,
            (ratatui::layout::Rect::new(0, (top + n) as u16, end as u16, 1), Under::Rows),
        );
    }
    if state.list.len() == 0 {
        let said = match (&state.which, state.table.rows, state.table.is_whole) {
            (_, 0, true) => "no rows",
            (Which::All | Which::OneOfEach, ..) => "",
            _ if state.counting.is_some() => "",
            _ => "no row has it",
        };
        canvas.put((text_at, top), said, Look::Quiet, room);
    }
}

/// What stands before a row: how many it stands for, `odd`, or its line.
fn label(state: &State, listed: ListedRow, rows: &[MadeRow], top: usize) -> String {
    let _ = state;
    match listed {
        ListedRow::Kind(shown) => shown.like.map_or("odd".to_owned(), |rows| rows.to_string()),
        ListedRow::Plain(number) => {
            let known = rows.iter().find(|row| row.number == number);
            let _ = top;
            known.map_or(String::new(), |row| row.line.to_string())
        }
    }
}
