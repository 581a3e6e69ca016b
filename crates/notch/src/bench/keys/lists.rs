//! Keys in the lists of everything that can be done and of columns, and in the field that finds
//! rows.

use crossterm::event::{KeyCode, KeyEvent};
use keen_notch_core::in_braces;

use super::common::{RowAt, changed, edit_field, go_to, moved};
use super::cuts::{delete_cut, move_cut};
use super::line::{begin_cut, end_cut, undo};
use super::rows::{open_ruler, unmark};
use super::saving::{leave, open_save};
use crate::bench::actions::{Action, narrowed};
use crate::bench::field::Field;
use crate::bench::offers::columns_like;
use crate::bench::state::{Ask, Focus, Open, State};

pub(super) fn find_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Find(field) = &mut state.open else { return Vec::new() };
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter => {
            let text = field.text().to_owned();
            state.open = Open::Nothing;
            if !text.is_empty() {
                go_to(state, Focus::Rows);
                return vec![Ask::Find(text)];
            }
            state.find = None;
        }
        _ => edit_field(field, key),
    }
    Vec::new()
}

pub(super) fn help_key(state: &mut State, key: KeyEvent, row_at: RowAt<'_>) -> Vec<Ask> {
    let page = state.heights.2;
    let Open::Help(field, chosen) = &mut state.open else { return Vec::new() };
    let list = narrowed(field.text());
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter => {
            let action = list.get(*chosen).map(|item| item.action);
            state.open = Open::Nothing;
            return action.map(|action| act(state, action, row_at)).unwrap_or_default();
        }
        KeyCode::Home | KeyCode::End => edit_field(field, key),
        code => match moved(code, *chosen, list.len(), page) {
            Some(to) => *chosen = to,
            None => {
                edit_field(field, key);
                *chosen = 0;
            }
        },
    }
    Vec::new()
}

/// Does what was chosen from the list of everything that can be done.
pub(super) fn act(state: &mut State, action: Action, row_at: RowAt<'_>) -> Vec<Ask> {
    match action {
        Action::NextCut => end_cut(state),
        Action::Offers => {
            go_to(state, Focus::Line);
            state.open = Open::Offers(0);
            Vec::new()
        }
        Action::Go(focus) => {
            go_to(state, focus);
            Vec::new()
        }
        Action::Mark => open_ruler(state, row_at),
        Action::Unmark => unmark(state, row_at),
        Action::Column => {
            state.open = Open::Columns { typed: Field::default(), chosen: 0, begins_cut: true };
            if state.glances.is_none() { vec![Ask::Glance] } else { Vec::new() }
        }
        Action::MoveCut(back) => move_cut(state, back),
        Action::DeleteCut => delete_cut(state),
        Action::Find => {
            state.open = Open::Find(Field::default());
            Vec::new()
        }
        Action::Undo(again) => undo(state, again),
        Action::Save => {
            open_save(state, false);
            Vec::new()
        }
        Action::Command => vec![Ask::Command],
        Action::Mouse => {
            state.no_mouse = !state.no_mouse;
            vec![Ask::Mouse(!state.no_mouse)]
        }
        Action::Leave => leave(state),
    }
}

pub(super) fn columns_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let page = state.heights.2;
    let columns = state.table.columns.clone();
    let Open::Columns { typed, chosen, begins_cut } = &mut state.open else { return Vec::new() };
    let fits = columns_like(&columns, typed.text());
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter | KeyCode::Tab => {
            let Some(place) = fits.get(*chosen).copied() else { return Vec::new() };
            let begins_cut = *begins_cut;
            state.open = Open::Nothing;
            if begins_cut {
                return begin_cut(state, &format!("{} | ", in_braces(&columns[place])));
            }
            return take_column(state, Some(place));
        }
        KeyCode::Home | KeyCode::End => edit_field(typed, key),
        code => match moved(code, *chosen, fits.len(), page) {
            Some(to) => *chosen = to,
            None => {
                edit_field(typed, key);
                *chosen = 0;
            }
        },
    }
    Vec::new()
}

/// Takes a column, by its place, as the one that cuts start from.
pub fn take_column(state: &mut State, place: Option<usize>) -> Vec<Ask> {
    state.table.column = place;
    state.jig.column = state.column_name().map(str::to_owned);
    state.looked = None;
    let mut asks = changed(state);
    asks.push(Ask::Look);
    asks
}
