//! Keys in the rows, and in the ruler over one of them.

use crossterm::event::{KeyCode, KeyEvent};

use super::common::{RowAt, changed, edit_of, moved, typed};
use super::line::other_character;
use crate::bench::cuts::BenchCut;
use crate::bench::field::Field;
use crate::bench::learn::{column, mark, show_row, with_source};
use crate::bench::ruler::Ruler;
use crate::bench::state::{Ask, Focus, Open, State};

pub(super) fn rows_key(state: &mut State, key: KeyEvent, row_at: RowAt<'_>) -> Vec<Ask> {
    if let Some(to) = moved(key.code, state.row, state.list.len(), state.heights.0) {
        state.row = to;
        return Vec::new();
    }
    match key.code {
        KeyCode::Left => state.scroll -= STEP,
        KeyCode::Right => state.scroll += STEP,
        KeyCode::Enter => return open_ruler(state, row_at),
        KeyCode::Delete => return unmark(state, row_at),
        _ => return other_character(state, key),
    }
    Vec::new()
}

/// What is said where a piece is to be marked for a cut of several names.
const SEVERAL: &str =
    "This cut has several names; a piece is marked for a cut of one. Begin another one.";

/// How many characters a long text is scrolled by.
const STEP: isize = 8;

pub(super) fn open_ruler(state: &mut State, row_at: RowAt<'_>) -> Vec<Ask> {
    let Some(row) = state.chosen() else { return Vec::new() };
    if BenchCut::left(state.cut().line.text()).is_some_and(|left| left.contains(',')) {
        state.message = Some(SEVERAL.to_owned());
        return Vec::new();
    }
    if column(state).is_none() {
        // Without a column there is no text that a piece could be taken of.
        state.open = Open::Columns { typed: Field::default(), chosen: 0, begins_cut: false };
        return if state.glances.is_none() { vec![Ask::Glance] } else { Vec::new() };
    }
    if let Some((number, line, text, taken)) = row_at(state, row.number()) {
        let mut ruler = Ruler::over(number, line, text.clone(), taken);
        if let Some(mark) = state.mark_of(&text) {
            let piece = mark.piece.clone();
            match text.find(&piece).filter(|_| !piece.is_empty()) {
                Some(at) => {
                    ruler = Ruler::over(number, line, text.clone(), Some(at..at + piece.len()));
                }
                None => {
                    ruler.empty_piece();
                    ruler.piece.insert(&piece);
                }
            }
        }
        state.focus = Focus::Rows;
        state.open = Open::Ruler(Box::new(ruler));
    }
    Vec::new()
}

pub(super) fn unmark(state: &mut State, row_at: RowAt<'_>) -> Vec<Ask> {
    let Some((.., text, _)) = state.chosen().and_then(|row| row_at(state, row.number())) else {
        return Vec::new();
    };
    if state.mark_of(&text).is_some() {
        state.remember(None);
        state.cut_mut().marks.retain(|mark| mark.cell != text);
    }
    Vec::new()
}

pub(super) fn ruler_key(state: &mut State, key: KeyEvent, row_at: RowAt<'_>) -> Vec<Ask> {
    let rows = state.list.len();
    let Open::Ruler(ruler) = &mut state.open else { return Vec::new() };
    if let Some(answer) = &ruler.answer
        && !answer.cuts.is_empty()
    {
        match key.code {
            KeyCode::Up => ruler.chosen = ruler.chosen.saturating_sub(1),
            KeyCode::Down => ruler.chosen = (ruler.chosen + 1).min(answer.cuts.len() - 1),
            KeyCode::Esc => ruler.answer = None,
            KeyCode::Enter => return take_answer(state),
            _ => {}
        }
        return Vec::new();
    }
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Tab => ruler.next_hand(false),
        KeyCode::BackTab => ruler.next_hand(true),
        KeyCode::Enter if ruler.is_asked => {}
        KeyCode::Enter => {
            ruler.is_asked = true;
            return vec![Ask::Learn];
        }
        KeyCode::Up | KeyCode::Down => {
            if let Some(to) = moved(key.code, state.row, rows, 1) {
                state.row = to;
                return open_ruler(state, row_at);
            }
        }
        KeyCode::Delete => ruler.empty_piece(),
        _ => match (edit_of(key), typed(key)) {
            (Some(edit), _) => ruler.shift(edit),
            (None, Some(c)) => ruler.type_piece(c.encode_utf8(&mut [0; 4])),
            (None, None) => {}
        },
    }
    Vec::new()
}

/// Takes the cut that learning has answered with; the piece stays marked, and the row that the
/// question is about is next.
pub(super) fn take_answer(state: &mut State) -> Vec<Ask> {
    let Open::Ruler(ruler) = std::mem::take(&mut state.open) else { return Vec::new() };
    let Some(answer) = ruler.answer.clone() else { return Vec::new() };
    let Some(taken) = answer.cuts.get(ruler.chosen) else { return Vec::new() };
    state.remember(None);
    let mark = mark(&ruler);
    let left = BenchCut::left(state.cut().line.text()).map(str::to_owned);
    let named = left.filter(|left| !left.is_empty());
    let cut = with_source(state, &taken.cut);
    let text = named.map_or(cut.clone(), |left| format!("{left} = {cut}"));
    let line = state.cut_mut();
    line.line = Field::of(text);
    line.marks.retain(|known| known.cell != mark.cell);
    line.marks.push(mark);
    if let Some(row) = answer.next_row {
        show_row(state, row);
    }
    changed(state)
}
