//! Keys in the tally and in the cuts.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::common::{changed, go_to, moved};
use super::line::{begin_cut, other_character};
use crate::bench::cuts::BenchCut;
use crate::bench::state::{Ask, Document, Focus, State};
use crate::bench::tally::Which;

pub(super) fn tally_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let lines: Vec<usize> =
        (0..state.lines.len()).filter(|n| state.lines[*n].which.is_some()).collect();
    let at = lines.iter().position(|n| state.lines[*n].which.as_ref() == Some(&state.which));
    if let Some(to) = moved(key.code, at.unwrap_or(0), lines.len(), state.heights.1)
        && let Some(which) = lines.get(to).and_then(|n| state.lines[*n].which.clone())
    {
        choose_rows(state, which);
        return Vec::new();
    }
    match key.code {
        KeyCode::Enter => go_to(state, Focus::Rows),
        _ => return other_character(state, key),
    }
    Vec::new()
}

/// Shows the rows of another line of the tally.
pub fn choose_rows(state: &mut State, which: Which) {
    if state.which != which {
        (state.which, state.row, state.top, state.find) = (which, 0, 0, None);
    }
}

pub(super) fn cuts_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let alt = key.modifiers.contains(KeyModifiers::ALT);
    match key.code {
        KeyCode::Left if alt => return move_cut(state, true),
        KeyCode::Right if alt => return move_cut(state, false),
        KeyCode::Left => {
            let to = state.document.at.saturating_sub(1);
            state.go_to_cut(to);
            return changed(state);
        }
        KeyCode::Right if state.document.at + 1 >= state.document.cuts.len() => {
            if !state.cut().is_empty() {
                let asks = begin_cut(state, "");
                state.focus = Focus::Cuts;
                return asks;
            }
        }
        KeyCode::Right => {
            let to = state.document.at + 1;
            state.go_to_cut(to);
            return changed(state);
        }
        KeyCode::Home => {
            state.go_to_cut(0);
            return changed(state);
        }
        KeyCode::End => {
            state.go_to_cut(usize::MAX);
            return changed(state);
        }
        KeyCode::Enter => go_to(state, Focus::Line),
        KeyCode::Delete => return delete_cut(state),
        _ => return other_character(state, key),
    }
    Vec::new()
}

/// Moves the cut in the line to the left or the right of its neighbour.
pub(super) fn move_cut(state: &mut State, back: bool) -> Vec<Ask> {
    let (at, last) = (state.document.at, state.document.cuts.len() - 1);
    let to = if back { at.checked_sub(1) } else { (at < last).then_some(at + 1) };
    let Some(to) = to else { return Vec::new() };
    state.remember(None);
    state.document.cuts.swap(at, to);
    state.document.at = to;
    changed(state)
}

pub(super) fn delete_cut(state: &mut State) -> Vec<Ask> {
    if state.cut().is_empty() && state.document.cuts.len() == 1 {
        return Vec::new();
    }
    state.remember(None);
    let name = state.judged.names.get(state.document.at).cloned().unwrap_or_default();
    let Document { cuts, at } = &mut state.document;
    cuts.remove(*at);
    if cuts.is_empty() {
        cuts.push(BenchCut::default());
    }
    *at = (*at).min(cuts.len() - 1);
    state.message = Some(format!("{name} deleted; Ctrl-Z brings it back"));
    let asks = changed(state);
    state.go_to_cut(state.document.at);
    asks
}
