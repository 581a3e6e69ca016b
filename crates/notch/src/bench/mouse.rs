//! What follows from a click, the wheel, and a notch that is dragged.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};

use super::keys::{MarkableRow, begin_cut, changed, choose_rows, go_to, key};
use super::state::{Ask, Focus, Open, State};
use super::view::{Drawn, Under};

/// How many lines a turn of the wheel is.
const WHEEL: usize = 3;

/// Does what the mouse says.
pub fn mouse(
    state: &mut State,
    event: MouseEvent,
    drawn: &Drawn,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    let under = drawn.under(event.column, event.row);
    let mut press =
        |state: &mut State, code| key(state, KeyEvent::new(code, KeyModifiers::NONE), row_at);
    match event.kind {
        MouseEventKind::Down(MouseButton::Left) => {
            state.message = None;
            clicked(state, under, press)
        }
        MouseEventKind::Drag(MouseButton::Left) => {
            if let (Open::Ruler(ruler), Some(Under::Notch(at))) = (&mut state.open, under) {
                // The chosen notch follows: the end stands after the character.
                let hand = ruler.hand;
                ruler.set(hand, if hand == super::ruler::Hand::End { at + 1 } else { at });
            }
            Vec::new()
        }
        MouseEventKind::ScrollUp | MouseEventKind::ScrollDown => {
            let code = match event.kind {
                MouseEventKind::ScrollUp => KeyCode::Up,
                _ => KeyCode::Down,
            };
            match (&state.open, under) {
                (Open::Nothing, Some(Under::Row(_) | Under::Rows)) => {
                    let last = state.list.len().saturating_sub(1);
                    state.row = match code {
                        KeyCode::Up => state.row.saturating_sub(WHEEL),
                        _ => (state.row + WHEEL).min(last),
                    };
                    Vec::new()
                }
                (Open::Nothing, Some(Under::Tally(_) | Under::TallyPane)) => {
                    let most = state.lines.len().saturating_sub(state.heights.1);
                    state.tally_top = match code {
                        KeyCode::Up => state.tally_top.saturating_sub(WHEEL),
                        _ => (state.tally_top + WHEEL).min(most),
                    };
                    Vec::new()
                }
                (Open::Nothing, _) => Vec::new(),
                (Open::Ruler(_) | Open::Save(_) | Open::Leave(_) | Open::Find(_), _) => Vec::new(),
                _ => press(state, code),
            }
        }
        _ => Vec::new(),
    }
}

fn clicked(
    state: &mut State,
    under: Option<Under>,
    mut press: impl FnMut(&mut State, KeyCode) -> Vec<Ask>,
) -> Vec<Ask> {
    match (&mut state.open, under) {
        (
            Open::Offers(chosen) | Open::Help(_, chosen) | Open::Columns { chosen, .. },
            Some(Under::Item(n)),
        ) => {
            *chosen = n;
            press(state, KeyCode::Enter)
        }
        (Open::Ruler(ruler), Some(Under::Item(n))) => {
            ruler.chosen = n;
            Vec::new()
        }
        (Open::Ruler(ruler), Some(Under::Notches(hand))) => {
            ruler.hand = hand;
            Vec::new()
        }
        (Open::Ruler(ruler), Some(Under::Notch(at))) => {
            // The nearer notch is taken.
            let is_end = at.abs_diff(ruler.end.saturating_sub(1)) < at.abs_diff(ruler.begin);
            ruler.hand = if is_end { super::ruler::Hand::End } else { super::ruler::Hand::Begin };
            ruler.set(ruler.hand, if is_end { at + 1 } else { at });
            Vec::new()
        }
        (Open::Save(save), Some(Under::SaveLine(n))) => {
            save.line = n;
            Vec::new()
        }
        (Open::Save(save), Some(Under::Choice(n))) => {
            if let Some(asking) = &mut save.asking {
                asking.overwrite = n == 1;
            }
            press(state, KeyCode::Enter)
        }
        (Open::Leave(chosen), Some(Under::Choice(n))) => {
            *chosen = n;
            press(state, KeyCode::Enter)
        }
        (Open::Nothing | Open::Offers(_), Some(under)) => {
            state.open = Open::Nothing;
            on_bench(state, under)
        }
        _ => Vec::new(),
    }
}

fn on_bench(state: &mut State, under: Under) -> Vec<Ask> {
    match under {
        Under::Line(byte) => {
            go_to(state, Focus::Line);
            state.cut_mut().line.move_to(byte);
        }
        Under::Cut(n) => {
            state.go_to_cut(n);
            go_to(state, Focus::Cuts);
            return changed(state);
        }
        Under::NewCut => return begin_cut(state, ""),
        Under::Row(n) => {
            state.row = n;
            go_to(state, Focus::Rows);
        }
        Under::Rows => go_to(state, Focus::Rows),
        Under::Tally(n) => {
            if let Some(which) = state.lines.get(n).and_then(|line| line.which.clone()) {
                choose_rows(state, which);
            }
            go_to(state, Focus::Tally);
        }
        Under::TallyPane => go_to(state, Focus::Tally),
        _ => {}
    }
    Vec::new()
}
