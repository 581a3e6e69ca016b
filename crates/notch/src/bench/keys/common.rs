//! What the keys of all parts of the screen have in common.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use crate::bench::field::{Edit, Field};
use crate::bench::state::{Ask, Focus, State};

/// What a row shows that a piece may be marked in: its number, line, text, and what is taken of it.
pub type MarkableRow = (u64, u64, String, Option<std::ops::Range<usize>>);

/// Reads a row, by its number, for the ruler.
pub type RowAt<'r> = &'r mut dyn FnMut(&State, u64) -> Option<MarkableRow>;

/// Gives the keys to another part of the screen.
pub fn go_to(state: &mut State, focus: Focus) {
    state.end_run();
    match focus {
        Focus::Rows => state.tally_shown = false,
        Focus::Tally => state.tally_shown = true,
        Focus::Line | Focus::Cuts => {}
    }
    state.focus = focus;
}

/// What a change of the cuts asks for.
pub fn changed(state: &mut State) -> Vec<Ask> {
    if state.judge() { vec![Ask::Count] } else { Vec::new() }
}

/// The way of the keys that edit a text.
pub fn edit_of(key: KeyEvent) -> Option<Edit> {
    let control = key.modifiers.contains(KeyModifiers::CONTROL);
    Some(match key.code {
        KeyCode::Left if control => Edit::WordLeft,
        KeyCode::Right if control => Edit::WordRight,
        KeyCode::Left => Edit::Left,
        KeyCode::Right => Edit::Right,
        KeyCode::Home => Edit::Home,
        KeyCode::End => Edit::End,
        KeyCode::Backspace => Edit::Back,
        KeyCode::Delete => Edit::Delete,
        KeyCode::Char('h') if control => Edit::Back,
        KeyCode::Char('w') if control => Edit::BackWord,
        KeyCode::Char('u') if control => Edit::BackAll,
        _ => return None,
    })
}

/// The character that a key types.
pub(super) fn typed(key: KeyEvent) -> Option<char> {
    let modified = key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
    match key.code {
        KeyCode::Char(c) if !modified => Some(c),
        _ => None,
    }
}

/// Where a key goes in a list of `count` lines of which `page` are drawn; `None` for other keys.
pub(super) fn moved(code: KeyCode, at: usize, count: usize, page: usize) -> Option<usize> {
    let last = count.saturating_sub(1);
    Some(match code {
        KeyCode::Up => at.saturating_sub(1),
        KeyCode::Down => (at + 1).min(last),
        KeyCode::PageUp => at.saturating_sub(page.max(1)),
        KeyCode::PageDown => (at + page.max(1)).min(last),
        KeyCode::Home => 0,
        KeyCode::End => last,
        _ => return None,
    })
}

pub(super) fn edit_field(field: &mut Field, key: KeyEvent) {
    match (edit_of(key), typed(key)) {
        (Some(edit), _) => drop(field.edit(edit)),
        (None, Some(c)) => field.insert(c.encode_utf8(&mut [0; 4])),
        (None, None) => {}
    }
}
