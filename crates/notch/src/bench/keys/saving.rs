//! Keys in the dialogues that save and leave.

use crossterm::event::{KeyCode, KeyEvent};

use super::common::{edit_of, typed};
use crate::bench::field::Field;
use crate::bench::save::SaveDialogue;
use crate::bench::state::{Ask, Open, State};

/// Leaves, or asks first where something good would be lost.
pub fn leave(state: &mut State) -> Vec<Ask> {
    if !state.is_unsaved() {
        return vec![Ask::Leave];
    }
    state.open = Open::Leave(0);
    Vec::new()
}

/// Opens the dialogue that saves.
pub fn open_save(state: &mut State, leaves: bool) {
    let proposed = format!("{}-cuts.toml", state.table.stem());
    let jig = state.jig_file.as_ref().map_or(proposed, |(path, _)| path.display().to_string());
    let shown = |path: &Option<std::path::PathBuf>| {
        Field::of(path.as_ref().map_or(String::new(), |path| path.display().to_string()))
    };
    state.open = Open::Save(Box::new(SaveDialogue {
        jig: Field::of(jig),
        table: shown(&state.written.table),
        rejects: shown(&state.written.rejects),
        only: state.written.only,
        leaves,
        ..SaveDialogue::default()
    }));
}

pub(super) fn save_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Save(save) = &mut state.open else { return Vec::new() };
    if let Some(asking) = &mut save.asking {
        match key.code {
            KeyCode::Left | KeyCode::Right | KeyCode::Tab | KeyCode::BackTab => {
                asking.overwrite = !asking.overwrite;
            }
            KeyCode::Enter if asking.overwrite => {
                save.agreed.insert(asking.path.clone());
                save.asking = None;
                return vec![Ask::Save];
            }
            KeyCode::Enter | KeyCode::Esc => save.asking = None,
            _ => {}
        }
        return Vec::new();
    }
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Up | KeyCode::BackTab => save.step(true),
        KeyCode::Down | KeyCode::Tab => save.step(false),
        KeyCode::Enter => return vec![Ask::Save],
        _ => match (edit_of(key), typed(key)) {
            (Some(edit), _) => save.edit(edit),
            (None, Some(c)) => save.insert(c.encode_utf8(&mut [0; 4])),
            (None, None) => {}
        },
    }
    Vec::new()
}

pub(super) fn leave_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Leave(chosen) = &mut state.open else { return Vec::new() };
    match key.code {
        KeyCode::Left | KeyCode::Up | KeyCode::BackTab => *chosen = chosen.saturating_sub(1),
        KeyCode::Right | KeyCode::Down | KeyCode::Tab => *chosen = (*chosen + 1).min(2),
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter => match chosen {
            0 => return vec![Ask::Leave],
            1 => open_save(state, true),
            _ => state.open = Open::Nothing,
        },
        _ => {}
    }
    Vec::new()
}
