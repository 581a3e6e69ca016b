//! Keys pressed without a terminal.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that fails says so by panicking")]

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::{LEAVES, key};
use crate::bench::actions::actions;
use crate::bench::cuts::{BenchCut, Verdict};
use crate::bench::state::OpenTable;
use crate::bench::state::{Ask, State};

fn bench() -> State {
    let columns = vec!["lot".to_owned(), "dates".to_owned()];
    let table = OpenTable { columns, column: Some(0), ..OpenTable::default() };
    State::of(table, crate::jig::Jig::default(), Vec::new())
}

/// Presses keys and types what is no name of one; returns what is asked of the jobs.
fn press(state: &mut State, keys: &[&str]) -> Vec<Ask> {
    let mut asked = Vec::new();
    let mut row_at = |_: &State, number| Some((number, number + 1, "GR-2026-TIL".to_owned(), None));
    for keys in keys {
        let code = match *keys {
            "Enter" => KeyCode::Enter,
            "Tab" => KeyCode::Tab,
            "Shift-Tab" => KeyCode::BackTab,
            "Esc" => KeyCode::Esc,
            "Left" => KeyCode::Left,
            "Right" => KeyCode::Right,
            "Down" => KeyCode::Down,
            "Back" => KeyCode::Backspace,
            "Delete" => KeyCode::Delete,
            "End" => KeyCode::End,
            _ => KeyCode::Null,
        };
        let plain = |code| KeyEvent::new(code, KeyModifiers::NONE);
        match keys.strip_prefix("Ctrl-") {
            Some(letter) => {
                let code = KeyCode::Char(letter.chars().next().unwrap_or_default());
                let event = KeyEvent::new(code, KeyModifiers::CONTROL);
                asked.extend(key(state, event, &mut row_at));
            }
            None if code != KeyCode::Null => asked.extend(key(state, plain(code), &mut row_at)),
            None => keys.chars().for_each(|c| {
                asked.extend(key(state, plain(KeyCode::Char(c)), &mut row_at));
            }),
        }
    }
    asked
}

/// The cuts, the one in the line with a bar where the cursor is.
fn shown(state: &State) -> String {
    let cut = |(n, cut): (usize, &BenchCut)| {
        let (text, cursor) = (cut.line.text(), cut.line.cursor());
        match n == state.document.at {
            true => format!("{}|{}", &text[..cursor], &text[cursor..]),
            false => text.to_owned(),
        }
    };
    state.document.cuts.iter().enumerate().map(cut).collect::<Vec<_>>().join(" ; ")
}

#[test]
fn what_follows_from_keys() {
    for (keys, then) in [
        (&["house = first 2"][..], "house = first 2|"),
        (&["house = first 2", "Enter"], "house = first 2 ; |"),
        (&["house = first 2", "Enter", "Enter"], "house = first 2 ; |"),
        // Enter goes to what is wrong, and to the end of what is not finished.
        (&["house = frist 2", "Enter"], "house = |frist 2"),
        (&["house = part 2", "Left", "Left", "Enter"], "house = part 2|"),
        // Tab takes a word that is begun, a remedy, a column; else it goes on.
        (&["house = fir", "Tab"], "house = first |"),
        (&["house = frist 2", "Tab"], "house = first |2"),
        (&["{da", "Tab"], "{dates}|"),
        (&["house = first 2 ", "Tab"], "house = first 2 |"),
        // The list of offers: down, narrowed by typing, taken.
        (&["house = ", "Down", "Down", "Enter"], "house = last |"),
        (&["house = ", "Down", "dr", "Enter"], "house = drop |"),
        (&["house = ", "Down", "Esc"], "house = |"),
        // A run of typed characters is one step, and so is one of deleted ones.
        (&["house = first 2", "Back", "Back", "Ctrl-z"], "house = first 2|"),
        (&["house = first 2", "Back", "Ctrl-z", "Ctrl-z"], "|"),
        (&["house = first 2", "Ctrl-z", "Ctrl-y"], "house = first 2|"),
        (&["a = first 2", "Enter", "b = last 2", "Ctrl-z", "Ctrl-z"], "a = first 2|"),
        // Cuts are chosen, moved, deleted, and an empty one is not kept.
        (&["a = first 2", "Enter", "b = last 2", "Shift-Tab", "Left"], "a = first 2| ; b = last 2"),
        (&["a = first 2", "Enter", "Shift-Tab", "Left"], "a = first 2|"),
        (&["a = first 2", "Enter", "b = last 2", "Shift-Tab", "Delete"], "a = first 2|"),
        (
            &["a = first 2", "Enter", "b = last 2", "Shift-Tab", "Delete", "Ctrl-z"],
            "a = first 2 ; b = last 2|",
        ),
        // Elsewhere letters go to the cut line; `?` is for help.
        (&["a = first ", "Tab", "2"], "a = first 2|"),
        (&["a = first 2 ", "Tab", "?", "Esc"], "a = first 2 |"),
    ] {
        let mut state = bench();
        press(&mut state, keys);
        assert_eq!(shown(&state), then, "{keys:?}");
    }
}

#[test]
fn only_what_is_in_force_is_counted_and_saved() {
    let mut state = bench();
    assert_eq!(press(&mut state, &["house = firs"]), []);
    assert_eq!(press(&mut state, &["t 2"]), [Ask::Count]);
    // A wrong word leaves the last good text in force.
    assert_eq!(press(&mut state, &[" | xx"]), []);
    assert_eq!(state.judged.in_force, [Some("house = first 2".to_owned())]);
    assert!(matches!(state.verdict(), Verdict::Wrong(_)) && state.is_unsaved());
    assert_eq!(press(&mut state, &["Ctrl-q", "Ctrl-q"]), [Ask::Leave]);
    let mut state = bench();
    assert_eq!(press(&mut state, &["Ctrl-c"]), [Ask::Leave]);
    assert_eq!(press(&mut state, &["Esc"]), []);
    assert_eq!(state.message.as_deref(), Some(LEAVES));
    assert_eq!(press(&mut state, &["Ctrl-z"]), []);
    assert_eq!(state.message.as_deref(), Some("Nothing to undo"));
}

/// Names are made up where none is given, and two of one name are wrong in the words of `carve`.
#[test]
fn names() {
    let mut state = bench();
    press(&mut state, &["first 2", "Enter", "last 2", "Enter", "lot = first 3"]);
    assert_eq!(state.judged.names, ["piece", "piece2", "lot"]);
    let Verdict::Wrong(fault) = state.verdict() else { panic!("lot is a column") };
    assert!(fault.said.contains("lot"), "{}", fault.said);
}

#[test]
fn what_can_be_done_is_told_once() {
    let told = actions().iter().map(|line| line.key).filter(|key| !key.is_empty());
    let mut keys: Vec<&str> = told.collect();
    let all = keys.len();
    keys.sort_unstable();
    keys.dedup();
    assert_eq!(keys.len(), all);
}
