//! What follows from a key: a plain function from a state to the next, and what is asked of the
//! jobs.

mod common;
mod cuts;
mod line;
mod lists;
mod rows;
mod saving;
#[cfg(test)]
mod tests;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

pub use self::common::{MarkableRow, RowAt, changed, go_to};
pub use self::cuts::choose_rows;
use self::cuts::{cuts_key, tally_key};
pub use self::line::begin_cut;
use self::line::{line_key, offers_key, take_offer, undo};
pub use self::lists::take_column;
use self::lists::{columns_key, find_key, help_key};
use self::rows::{rows_key, ruler_key};
use self::saving::{leave, leave_key, open_save, save_key};
use super::field::Field;
use super::state::{Ask, Focus, Open, State};

/// The message where Esc has nothing to close.
const LEAVES: &str = "Ctrl-Q leaves";

/// Does what a key says. `row_at` reads a row, by its number, for the ruler.
pub fn key(state: &mut State, key: KeyEvent, row_at: RowAt<'_>) -> Vec<Ask> {
    state.message = None;
    let control = key.modifiers.contains(KeyModifiers::CONTROL);
    if control && let Some(asks) = everywhere(state, key.code) {
        return asks;
    }
    if key.code == KeyCode::F(1) {
        state.open = Open::Help(Field::default(), 0);
        return Vec::new();
    }
    match &state.open {
        Open::Nothing => {}
        Open::Offers(_) => return offers_key(state, key),
        Open::Find(_) => return find_key(state, key),
        Open::Help(..) => return help_key(state, key, row_at),
        Open::Columns { .. } => return columns_key(state, key),
        Open::Ruler(_) => return ruler_key(state, key, row_at),
        Open::Save(_) => return save_key(state, key),
        Open::Leave(_) => return leave_key(state, key),
    }
    match key.code {
        KeyCode::Esc if state.focus == Focus::Rows && state.find.take().is_some() => {
            state.row = 0;
            return Vec::new();
        }
        KeyCode::Esc if state.focus == Focus::Line => {
            state.message = Some(LEAVES.to_owned());
            return Vec::new();
        }
        KeyCode::Esc => {
            go_to(state, Focus::Line);
            return Vec::new();
        }
        KeyCode::BackTab => {
            let next = state.focus.next(true);
            go_to(state, next);
            return Vec::new();
        }
        KeyCode::Tab => {
            if state.focus == Focus::Line && state.offers().marked.is_some() {
                return take_offer(state, None);
            }
            let next = state.focus.next(false);
            go_to(state, next);
            return Vec::new();
        }
        _ => {}
    }
    match state.focus {
        Focus::Line => line_key(state, key),
        Focus::Rows => rows_key(state, key, row_at),
        Focus::Tally => tally_key(state, key),
        Focus::Cuts => cuts_key(state, key),
    }
}

/// Keys with Ctrl that mean the same wherever one is; `None` for others.
fn everywhere(state: &mut State, code: KeyCode) -> Option<Vec<Ask>> {
    let is_leaving = matches!(state.open, Open::Leave(_));
    Some(match code {
        KeyCode::Char('q' | 'c') if is_leaving => vec![Ask::Leave],
        KeyCode::Char('q' | 'c') => return Some(leave(state)),
        KeyCode::Char('z') => undo(state, false),
        KeyCode::Char('y') => undo(state, true),
        KeyCode::Char('s') => {
            open_save(state, false);
            Vec::new()
        }
        KeyCode::Char('f') => {
            state.open = Open::Find(Field::default());
            Vec::new()
        }
        _ => return None,
    })
}

/// Types a text where texts are typed.
pub fn paste(state: &mut State, text: &str) -> Vec<Ask> {
    state.message = None;
    match &mut state.open {
        Open::Find(field) | Open::Help(field, _) | Open::Columns { typed: field, .. } => {
            field.insert(text);
            Vec::new()
        }
        Open::Save(save) => {
            save.insert(text);
            Vec::new()
        }
        Open::Ruler(ruler) => {
            ruler.type_piece(text);
            Vec::new()
        }
        Open::Leave(_) => Vec::new(),
        Open::Nothing | Open::Offers(_) => {
            go_to(state, Focus::Line);
            state.remember(None);
            state.cut_mut().line.insert(text);
            changed(state)
        }
    }
}
