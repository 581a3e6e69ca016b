//! Everything that can be done at the bench, with its key: the list behind F1.

use super::state::Focus;

/// Something that can be done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Action {
    NextCut,
    Offers,
    Go(Focus),
    Mark,
    Unmark,
    /// Another column: begins a cut.
    Column,
    /// To the left, or to the right.
    MoveCut(bool),
    DeleteCut,
    Find,
    /// Takes back, or makes again.
    Undo(bool),
    Save,
    /// The whole command, to copy.
    Command,
    Mouse,
    Leave,
}

/// A line of the list.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ActionLine {
    pub action: Action,
    /// Its key; empty where it has none.
    pub key: &'static str,
    pub what: &'static str,
}

/// All lines, in their order.
pub const fn actions() -> &'static [ActionLine] {
    const fn line(action: Action, key: &'static str, what: &'static str) -> ActionLine {
        ActionLine { action, key, what }
    }
    const ALL: &[ActionLine] = &[
        line(Action::NextCut, "Enter", "in the cut line: this cut is done, the next one"),
        line(Action::Offers, "Down", "in the cut line: the list of what may stand next"),
        line(
            Action::Go(Focus::Rows),
            "Tab",
            "take what is offered, else to the rows, the tally, the cuts, the cut line",
        ),
        line(Action::Go(Focus::Cuts), "Shift-Tab", "the same way back: to the cuts"),
        line(Action::Go(Focus::Tally), "", "to the tally: choose which rows are shown"),
        line(
            Action::Mark,
            "Enter in rows",
            "mark a piece in the chosen row, and have the cut learnt",
        ),
        line(Action::Unmark, "Delete in rows", "take the mark off the chosen row"),
        line(Action::Column, "", "another column: begin a cut that starts from it"),
        line(Action::MoveCut(true), "Alt-Left", "in the cuts: move the cut to the left"),
        line(Action::MoveCut(false), "Alt-Right", "in the cuts: move the cut to the right"),
        line(Action::DeleteCut, "Delete in cuts", "delete the cut"),
        line(Action::Find, "Ctrl-F", "find rows by a text"),
        line(Action::Undo(false), "Ctrl-Z", "undo"),
        line(Action::Undo(true), "Ctrl-Y", "redo"),
        line(Action::Save, "Ctrl-S", "save the cuts as a jig, write the table"),
        line(Action::Command, "", "the whole command, to copy"),
        line(Action::Mouse, "", "mouse off or on: when it is off, texts are selected with it"),
        line(Action::Leave, "Ctrl-Q", "leave"),
    ];
    ALL
}

/// The lines that hold what was typed, in any case.
pub fn narrowed(typed: &str) -> Vec<&'static ActionLine> {
    let typed = typed.to_lowercase();
    let holds = |line: &&ActionLine| {
        line.what.to_lowercase().contains(&typed) || line.key.to_lowercase().contains(&typed)
    };
    actions().iter().filter(holds).collect()
}
