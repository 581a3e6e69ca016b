//! The dialogue that saves the jig and writes the table.

use std::collections::BTreeSet;
use std::path::PathBuf;

use super::field::{Edit, Field};

/// The lines of the dialogue.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SaveLine {
    Jig,
    Table,
    Columns,
    Rejects,
}

impl SaveLine {
    /// In their order, with their names.
    pub const ALL: [(SaveLine, &'static str); 4] = [
        (SaveLine::Jig, "jig"),
        (SaveLine::Table, "table"),
        (SaveLine::Columns, "columns"),
        (SaveLine::Rejects, "rejects"),
    ];
}

/// A question before something is written over.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Asking {
    /// The file.
    pub path: PathBuf,
    /// What is said of it.
    pub said: String,
    /// `Overwrite` is chosen, not `Back`.
    pub overwrite: bool,
}

/// The dialogue in its present state.
#[derive(Debug, Clone, Default)]
pub struct SaveDialogue {
    /// Which line keys go to, by its place.
    pub line: usize,
    pub jig: Field,
    pub table: Field,
    /// The new columns alone are written.
    pub only: bool,
    pub rejects: Field,
    /// Why it was refused.
    pub refused: Option<String>,
    pub asking: Option<Asking>,
    /// What may be written over.
    pub agreed: BTreeSet<PathBuf>,
    /// It is open because one leaves: the bench ends when it has saved.
    pub leaves: bool,
}

impl SaveDialogue {
    /// The line that keys go to.
    pub fn at(&self) -> SaveLine {
        SaveLine::ALL[self.line].0
    }

    /// The field of a line, where it has one.
    pub fn field(&self, line: SaveLine) -> Option<&Field> {
        match line {
            SaveLine::Jig => Some(&self.jig),
            SaveLine::Table => Some(&self.table),
            SaveLine::Rejects => Some(&self.rejects),
            SaveLine::Columns => None,
        }
    }

    fn field_mut(&mut self) -> Option<&mut Field> {
        match self.at() {
            SaveLine::Jig => Some(&mut self.jig),
            SaveLine::Table => Some(&mut self.table),
            SaveLine::Rejects => Some(&mut self.rejects),
            SaveLine::Columns => None,
        }
    }

    /// Goes to another line.
    pub fn step(&mut self, back: bool) {
        let lines = SaveLine::ALL.len();
        self.line = (self.line + if back { lines - 1 } else { 1 }) % lines;
    }

    /// Edits the line.
    pub fn edit(&mut self, edit: Edit) {
        self.refused = None;
        match self.field_mut() {
            Some(field) => drop(field.edit(edit)),
            None if matches!(edit, Edit::Left | Edit::Right) => self.only = !self.only,
            None => {}
        }
    }

    /// Types into the line.
    pub fn insert(&mut self, typed: &str) {
        self.refused = None;
        if let Some(field) = self.field_mut() {
            field.insert(typed);
        }
    }

    /// The path in a line; `None` where it is empty.
    pub fn path(&self, line: SaveLine) -> Option<PathBuf> {
        let text = self.field(line)?.text().trim();
        (!text.is_empty()).then(|| PathBuf::from(text))
    }
}
