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
/// The number of characters of a text that are looked at for drawing.
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

/// A text in a window: the characters in it, how wide each is, and whether it is taken.
struct Window {
    characters: Vec<(String, usize, bool)>,
    cut_left: bool,
    cut_right: bool,
}

impl Window {
    /// The window, `wide` terminal columns, that shows what is taken; moved by characters.
    fn of(canvas: &Canvas<'_>, text: &str, taken: &[Range<usize>], wide: usize, by: isize) -> Self {
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
        let last_start = shown.len().saturating_sub(1);
        let from = if all <= wide { 0 } else { base.saturating_add_signed(by).min(last_start) };
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

/// Pieces as they are drawn, the blanks in them visible, and two blanks between them.
fn drawn_pieces(canvas: &Canvas<'_>, pieces: &[String]) -> String {
    let drawn = |text: &String| -> String {
        text.graphemes(true).take(LONGEST).map(|character| canvas.character(character).0).collect()
    };
    pieces.iter().map(drawn).collect::<Vec<_>>().join("  ")
}

/// What is shown of a row as its piece: the piece, the reason in round brackets, or both.
fn piece(canvas: &Canvas<'_>, row: &MadeRow) -> Vec<(String, Look)> {
    if let Some(reason) = &row.unreadable {
        return vec![(format!("({})", visible(reason)), Look::Finding)];
    }
    let mut said = Vec::new();
    if !row.pieces.is_empty() {
        said.push((drawn_pieces(canvas, &row.pieces), Look::Plain));
    }
    if !row.reasons.is_empty() {
        let gap = if said.is_empty() { "" } else { " " };
        said.push((format!("{gap}({})", visible(&row.reasons.join("; "))), Look::Finding));
    }
    said
}

/// Where the parts of a row stand, in terminal columns.
struct Columns {
    /// The most figures before a text.
    figures: usize,
    /// Where texts begin, and how wide they are.
    text: usize,
    wide: usize,
    /// Where pieces begin, and those of the other cuts.
    piece: usize,
    others: usize,
    /// Where it all ends.
    end: usize,
}

impl Columns {
    /// For the rows on the screen: the piece begins in one column in all of them, and the text may
    /// take half of the room.
    fn of(canvas: &Canvas<'_>, scene: &Scene<'_>, height: usize, end: usize) -> Self {
        let state = scene.state;
        let listed = (0..height).filter_map(|n| state.list.get(state.top + n));
        let figures =
            listed.map(|listed| label(listed, scene.rows).len()).max().unwrap_or(0).max(3);
        let text = BEFORE + figures;
        let room = end.saturating_sub(text + 1);
        let most = if state.place().is_some() { room.div_ceil(2) } else { room };
        let widest = |texts: &mut dyn Iterator<Item = &str>, most| {
            texts.map(|text| wide_as_drawn(canvas, text, most)).max().unwrap_or(0)
        };
        let mut sources = scene.rows.iter().map(|row| row.source.as_str());
        let wide = widest(&mut sources, most).max(8).min(most);
        let pieces = scene.rows.iter().map(|row| canvas.wide(&drawn_pieces(canvas, &row.pieces)));
        let piece = text + wide + 3;
        let others = piece + pieces.max().unwrap_or(0).max(12) + 1;
        Self { figures, text, wide, piece, others, end }
    }
}

pub fn draw(canvas: &mut Canvas<'_>, drawn: &mut Drawn, scene: &Scene<'_>, places: Places) {
    let state = scene.state;
    let ((top, height), end) = (places.rows, places.split);
    canvas.rule(top - 1, 0, end, &title(state), state.focus == Focus::Rows);
    let area = ratatui::layout::Rect::new(0, top as u16, end as u16, height as u16);
    drawn.areas.insert(0, (area, Under::Rows));
    let columns = Columns::of(canvas, scene, height, end);
    for (n, row) in scene.rows.iter().enumerate().take(height) {
        let Some(listed) = state.list.get(state.top + n) else { break };
        draw_row(canvas, scene, &columns, (top + n, state.top + n), listed, row);
        drawn.area((0, top + n), end, Under::Row(state.top + n));
    }
    if state.list.len() == 0 {
        let said = match (&state.which, state.table.rows, state.table.is_whole) {
            (_, 0, true) => "no rows",
            (Which::All | Which::OneOfEach, ..) => "",
            _ if state.counting.is_some() => "",
            _ => "no row has it",
        };
        canvas.put((columns.text, top), said, Look::Quiet, end);
    }
}

/// Draws a row on a line of the screen; `place` is its place in the list.
fn draw_row(
    canvas: &mut Canvas<'_>,
    scene: &Scene<'_>,
    columns: &Columns,
    (y, place): (usize, usize),
    listed: ListedRow,
    row: &MadeRow,
) {
    let state = scene.state;
    let is_chosen = place == state.row;
    if is_chosen {
        canvas.put((0, y), "›", Look::Strong, 1);
    }
    if state.mark_of(&row.source).is_some() {
        canvas.put((1, y), "◆", Look::Strong, 1);
    }
    let look = if is_chosen { Look::Strong } else { Look::Quiet };
    canvas.put_right((2 + columns.figures, y), &label(listed, scene.rows), look);
    let window = Window::of(canvas, &row.source, &row.taken, columns.wide, state.scroll);
    let mut x = columns.text;
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
    if state.place().is_none() && row.unreadable.is_none() {
        return;
    }
    canvas.put((columns.piece - 2, y), "│", Look::Quiet, 1);
    let mut x = columns.piece;
    for (said, look) in piece(canvas, row) {
        x += canvas.put((x, y), &said, look, columns.end.saturating_sub(x + 1));
    }
    let (others, at) = (drawn_pieces(canvas, &row.others), columns.others);
    // They give way to a piece or a reason that is longer.
    if !others.trim().is_empty() && x <= at && at + 6 < columns.end {
        canvas.put((at, y), "│", Look::Quiet, 1);
        canvas.put((at + 2, y), &others, Look::Quiet, columns.end.saturating_sub(at + 3));
    }
}

/// What stands before a row: how many it stands for, `odd`, or its line.
fn label(listed: ListedRow, rows: &[MadeRow]) -> String {
    match listed {
        ListedRow::Kind(shown) => shown.like.map_or("odd".to_owned(), |rows| rows.to_string()),
        ListedRow::Plain(number) => {
            let known = rows.iter().find(|row| row.number == number);
            known.map_or(String::new(), |row| row.line.to_string())
        }
    }
}
