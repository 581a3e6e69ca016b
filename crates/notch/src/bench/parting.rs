//! What is left of a session: the command that does the same, and what could not be saved.

use std::fs;
use std::path::{Path, PathBuf};

use super::cuts::Verdict;
use super::state::State;
use crate::jig::save::text;
use crate::jig::{CutExample, Jig, ReadCut};
use crate::show::{GOES_ON, shell_word, visible};

/// What is printed on leaving, made while all is well so that it is ready when it is not.
#[derive(Debug, Clone, Default)]
pub struct Parting {
    /// The command before its jig and cuts.
    head: Vec<String>,
    /// The jig that has the cuts, where it is saved.
    jig: Option<PathBuf>,
    /// The cuts in force.
    cuts: Vec<String>,
    tail: Vec<String>,
    /// The jig as it would be saved, where something is not saved.
    unsaved: Option<String>,
    /// The jig that it was opened with, or that was saved last.
    own_jig: Option<PathBuf>,
    stem: String,
    said: Vec<String>,
}

/// The jig with the cuts in force; pieces that were marked are their examples.
pub fn whole_jig(state: &State) -> Jig {
    let mut jig = state.jig.clone();
    for (n, cut) in state.document.cuts.iter().enumerate() {
        let Some(text) = state.judged.in_force.get(n).and_then(Option::as_ref) else { continue };
        let Ok(mut read) = ReadCut::typed(text) else { continue };
        if let Some(of_jig) = &cut.of_jig {
            read.about.clone_from(&of_jig.about);
            (read.replace, read.on_finding) = (of_jig.replace, of_jig.on_finding);
            let several = of_jig.examples.iter().filter(|example| example.pieces.len() > 1);
            read.examples = several.cloned().collect();
        }
        read.examples.extend(cut.marks.iter().map(|mark| CutExample {
            cell: mark.cell.clone(),
            pieces: vec![mark.piece.clone()],
            place: String::new(),
        }));
        jig.cuts.push(read);
    }
    jig
}

impl Parting {
    /// Of a bench in its present state; `reading` is how its table is read, as typed.
    pub fn of(state: &State, reading: &[String]) -> Self {
        let mut head = vec!["notch".to_owned(), "carve".to_owned()];
        head.push(shell_word(&state.table.path.display().to_string()));
        head.extend(reading.iter().map(|word| shell_word(word)));
        if let Some(column) = state.column_name() {
            head.extend(["-c".to_owned(), shell_word(column)]);
        }
        let mut tail = Vec::new();
        let written = &state.written;
        if written.only {
            tail.push("--only".to_owned());
        }
        for (option, path) in [("-o", &written.table), ("--rejects", &written.rejects)] {
            if let Some(path) = path {
                tail.extend([option.to_owned(), shell_word(&path.display().to_string())]);
            }
        }
        let jig = state.jig_file.as_ref().map(|(path, _)| path.clone());
        let is_unsaved = state.in_force() != state.saved;
        let folder = Path::new("");
        let wrong = state.document.cuts.iter().enumerate().filter(|(n, cut)| {
            !cut.is_empty() && state.judged.verdicts.get(*n) != Some(&Verdict::Good)
        });
        let left_out = wrong.map(|(n, cut)| {
            let typed = visible(cut.line.text());
            match state.judged.in_force.get(n).and_then(Option::as_ref) {
                Some(good) => format!(
                    "Left out, because it is wrong: {typed}\nIn its place stands what was good \
                    before: {}",
                    visible(good)
                ),
                None => format!("Left out, because it is wrong: {typed}"),
            }
        });
        Self {
            head,
            own_jig: jig.clone(),
            jig: jig.filter(|_| !is_unsaved),
            cuts: state.judged.in_force.iter().flatten().cloned().collect(),
            tail,
            unsaved: (is_unsaved && state.plan().is_some())
                .then(|| text(&whole_jig(state), folder)),
            stem: state.table.stem(),
            said: state.told.iter().cloned().chain(left_out).collect(),
        }
    }

    /// The command on one line, as it is shown while the bench is open: with its jig, saved or not.
    pub fn shown(&self) -> String {
        self.command(self.own_jig.as_deref(), " ")
    }

    /// The command, `between` before each cut; empty where no cut is in force.
    fn command(&self, jig: Option<&Path>, between: &str) -> String {
        if self.cuts.is_empty() {
            return String::new();
        }
        let mut words = self.head.join(" ");
        match jig.or(self.jig.as_deref()) {
            Some(jig) => words.push_str(&format!(" -j {}", shell_word(&jig.display().to_string()))),
            None => self.cuts.iter().for_each(|cut| {
                words.push_str(between);
                words.push_str(&shell_word(cut));
            }),
        }
        if !self.tail.is_empty() {
            words.push_str(if self.jig.is_some() || jig.is_some() { " " } else { between });
            words.push_str(&self.tail.join(" "));
        }
        words
    }

    /// Keeps what is not saved where that must be, and returns what is printed: the command, and
    /// what is said beside it. `by_signal` is whether the bench was ended from outside.
    pub fn finish(self, by_signal: bool) -> (String, String) {
        let mut said = self.said.clone();
        let mut jig = None;
        if let Some(text) = self.unsaved.as_ref().filter(|_| by_signal || self.own_jig.is_some()) {
            match keep(&self.stem, text) {
                Ok(path) => {
                    said.push(format!(
                        "The cuts were not saved; they are in {}.",
                        visible(&path.display().to_string())
                    ));
                    jig = Some(path);
                }
                Err(cause) => {
                    said.push(format!(
                        "The cuts were not saved, and cannot be kept here: {cause}."
                    ));
                }
            }
        }
        let command = self.command(jig.as_deref(), GOES_ON);
        let lines = |lines: &[String]| lines.iter().map(|line| format!("{line}\n")).collect();
        let command = if command.is_empty() { command } else { command + "\n" };
        (command, lines(&said))
    }
}

/// Writes a jig into a file of a name that is free.
fn keep(stem: &str, text: &str) -> std::io::Result<PathBuf> {
    let mut n = 1;
    loop {
        let number = if n == 1 { String::new() } else { format!("-{n}") };
        let path = PathBuf::from(format!("{stem}.unsaved{number}.toml"));
        match fs::OpenOptions::new().write(true).create_new(true).open(&path) {
            Ok(mut file) => {
                std::io::Write::write_all(&mut file, text.as_bytes())?;
                return Ok(path);
            }
            Err(cause) if cause.kind() == std::io::ErrorKind::AlreadyExists => n += 1,
            Err(cause) => return Err(cause),
        }
    }
}
