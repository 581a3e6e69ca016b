//! Keys in the cut line and in its list of offers.

use crossterm::event::{KeyCode, KeyEvent};

use super::common::{changed, edit_of, go_to, moved, typed};
use crate::bench::cuts::{BenchCut, Verdict};
use crate::bench::field::{Edit, Field};
use crate::bench::offers::Offers;
use crate::bench::state::{Ask, Focus, Open, Run, State};

pub(super) fn line_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    match key.code {
        KeyCode::Down => {
            let offers = state.offers();
            if !offers.offers.is_empty() {
                state.open = Open::Offers(0);
            }
            Vec::new()
        }
        KeyCode::Enter => end_cut(state),
        _ => match (edit_of(key), typed(key)) {
            (Some(edit), _) => edit_line(state, edit),
            (None, Some(c)) => type_into_line(state, c),
            (None, None) => Vec::new(),
        },
    }
}

pub(super) fn type_into_line(state: &mut State, c: char) -> Vec<Ask> {
    if state.focus != Focus::Line {
        go_to(state, Focus::Line);
    }
    state.remember(Some(Run::Typed));
    state.cut_mut().line.insert(c.encode_utf8(&mut [0; 4]));
    changed(state)
}

/// A printable character where no text is typed: `?` is for help, others go to the cut line.
pub(super) fn other_character(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    match typed(key) {
        Some('?') => {
            state.open = Open::Help(Field::default(), 0);
            Vec::new()
        }
        Some(c) => type_into_line(state, c),
        None => Vec::new(),
    }
}

pub(super) fn edit_line(state: &mut State, edit: Edit) -> Vec<Ask> {
    if !edit.deletes() {
        state.end_run();
        state.cut_mut().line.edit(edit);
        return Vec::new();
    }
    let mut tried = state.cut().line.clone();
    if !tried.edit(edit) {
        return Vec::new();
    }
    state.remember(Some(Run::Deleted));
    state.cut_mut().line = tried;
    changed(state)
}

/// Enter in the cut line: the next cut, or the cursor at what is wrong with this one.
pub(super) fn end_cut(state: &mut State) -> Vec<Ask> {
    match state.verdict().clone() {
        Verdict::Empty => Vec::new(),
        Verdict::Good => begin_cut(state, ""),
        Verdict::Unfinished => {
            state.cut_mut().line.edit(Edit::End);
            Vec::new()
        }
        Verdict::Wrong(fault) => {
            state.cut_mut().line.move_to(fault.place.start);
            Vec::new()
        }
    }
}

/// Begins a cut after the last one.
pub fn begin_cut(state: &mut State, text: &str) -> Vec<Ask> {
    let last = state.document.cuts.len() - 1;
    if !state.document.cuts[last].is_empty() {
        state.remember(None);
        state.document.cuts.push(BenchCut::default());
    }
    state.go_to_cut(usize::MAX);
    if !text.is_empty() {
        state.cut_mut().line = Field::of(text);
    }
    go_to(state, Focus::Line);
    changed(state)
}

/// Takes an offer: the one of that place, else the marked one.
pub fn take_offer(state: &mut State, n: Option<usize>) -> Vec<Ask> {
    let offers: Offers = state.offers();
    state.open = Open::Nothing;
    let Some(n) = n.or(offers.marked) else { return Vec::new() };
    let Some((place, text)) = offers.taken(n, state.cut().line.text()) else { return Vec::new() };
    state.remember(None);
    let line = &mut state.cut_mut().line;
    line.replace(place, &text);
    if line.text()[line.cursor()..].starts_with(' ') {
        line.edit(Edit::Right);
    }
    go_to(state, Focus::Line);
    changed(state)
}

pub(super) fn offers_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Offers(chosen) = state.open else { return Vec::new() };
    let count = state.offers().offers.len();
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter | KeyCode::Tab => return take_offer(state, Some(chosen)),
        KeyCode::Up if chosen == 0 => state.open = Open::Nothing,
        code => {
            if let Some(to) = moved(code, chosen, count, state.heights.2) {
                state.open = Open::Offers(to);
                return Vec::new();
            }
            let asks = line_key(state, key);
            // Typing narrows the list, as long as there is a word to go on with.
            state.open = match state.offers().marked {
                None => Open::Nothing,
                Some(marked) => Open::Offers(marked),
            };
            return asks;
        }
    }
    Vec::new()
}

/// Takes a change back, or makes it again.
pub fn undo(state: &mut State, again: bool) -> Vec<Ask> {
    if !state.undo(again) {
        return Vec::new();
    }
    state.open = Open::Nothing;
    go_to(state, Focus::Line);
    changed(state)
}
