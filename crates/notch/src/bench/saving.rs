//! Saving the jig and writing the table: what is refused, what is asked first, and what is said.

use std::path::Path;
use std::sync::atomic::AtomicBool;

use clap::Parser;
use keen_notch_table::{Source, same_file};

use super::app::App;
use super::cuts::{Verdict, first_sentence};
use super::parting::whole_jig;
use super::save::{Asking, SaveDialogue, SaveLine};
use super::state::{Open, Written};
use crate::cli::{Cli, Command};
use crate::commands::carve::carve_jig;
use crate::commands::files::files_differ;
use crate::jig::file::Write;
use crate::jig::save::save;
use crate::jig::{Action, Jig};
use crate::show::{Problem, counted};

impl App<'_> {
    /// Saves what the dialogue says, or says why not, or asks.
    pub(super) fn save(&mut self) {
        let Open::Save(dialogue) = &mut self.state.open else { return };
        let dialogue = dialogue.clone();
        match self.checked(&dialogue) {
            Err(refused) => self.refuse(refused),
            Ok(Some(asking)) => {
                if let Open::Save(dialogue) = &mut self.state.open {
                    dialogue.asking = Some(asking);
                }
            }
            Ok(None) => {
                if let Err(problem) = self.save_all(&dialogue) {
                    self.refuse(first_sentence(&problem));
                }
            }
        }
    }

    fn refuse(&mut self, why: String) {
        if let Open::Save(dialogue) = &mut self.state.open {
            dialogue.refused = Some(why);
        }
    }

    /// Whether what the dialogue says can be done: a question where something is written over.
    fn checked(&self, dialogue: &SaveDialogue) -> Result<Option<Asking>, String> {
        let state = &self.state;
        for (n, cut) in state.document.cuts.iter().enumerate().filter(|(_, cut)| !cut.is_empty()) {
            let name = state.judged.names.get(n).map_or("", String::as_str);
            let name = if name.is_empty() { cut.line.text() } else { name };
            match state.judged.verdicts.get(n) {
                Some(Verdict::Wrong(fault)) => {
                    return Err(format!("{name} is wrong: {}", fault.said));
                }
                Some(Verdict::Unfinished) => return Err(format!("{name} is not finished.")),
                _ => {}
            }
            if let Some(Some(said)) = state.judged.not_given.get(n) {
                return Err(format!("{name}: {said}"));
            }
        }
        if state.plan().is_none() {
            return Err("There is no cut to save yet.".to_owned());
        }
        let (jig, table, rejects) = (
            dialogue.path(SaveLine::Jig),
            dialogue.path(SaveLine::Table),
            dialogue.path(SaveLine::Rejects),
        );
        if jig.is_none() && table.is_none() {
            return Err("Nothing is filled in that could be saved.".to_owned());
        }
        if rejects.is_some() && table.is_none() {
            return Err("Rejects are written with the table; name a table.".to_owned());
        }
        // What is read is not written over; the jig that was opened may be.
        let own = state.jig_file.as_ref().map(|(path, _)| path);
        let mut read = state.jig.clone();
        read.files.retain(|(_, path)| own.is_none_or(|own| !same_file(path, own)));
        let outputs = [
            ("the output", table.as_ref()),
            ("the rejects file", rejects.as_ref()),
            ("the jig to be saved", jig.as_ref()),
        ];
        files_differ(&self.args.table, &read, &outputs)
            .map_err(|problem| first_sentence(&problem))?;
        for path in [&jig, &table, &rejects].into_iter().flatten() {
            let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
            if let Some(folder) = folder.filter(|folder| !folder.is_dir()) {
                return Err(format!("There is no folder {}.", folder.display()));
            }
            if path.is_dir() {
                return Err(format!("{} is a folder.", path.display()));
            }
        }
        for path in [jig.as_ref(), table.as_ref(), rejects.as_ref()].into_iter().flatten() {
            if dialogue.agreed.contains(path) || !path.exists() {
                continue;
            }
            let shown = path.display();
            match state.jig_file.as_ref().filter(|(own, _)| own == path) {
                Some((_, bytes)) if std::fs::read(path).is_ok_and(|now| now == *bytes) => {}
                Some(_) => return Ok(Some(asking(path, format!("{shown} has changed")))),
                None if state.own_files.contains(path) => {}
                None => return Ok(Some(asking(path, format!("{shown} exists")))),
            }
        }
        Ok(None)
    }

    /// Saves the jig, and has the table written.
    fn save_all(&mut self, dialogue: &SaveDialogue) -> Result<(), Problem> {
        let mut said = Vec::new();
        let whole = whole_jig(&self.state);
        if let Some(path) = dialogue.path(SaveLine::Jig) {
            save(&whole, &path)?;
            let bytes = std::fs::read(&path).unwrap_or_default();
            let cuts = counted(whole.cuts.len() as u64, "cut");
            said.push(format!("Saved {}: {cuts}.", path.display()));
            self.state.own_files.insert(path.clone());
            self.state.jig_file = Some((path, bytes));
            self.state.saved = self.state.in_force();
        }
        self.state.kept = self.state.in_force();
        let leaves = dialogue.leaves;
        self.state.told.extend(said.iter().cloned());
        self.state.open = Open::Nothing;
        let Some(table) = dialogue.path(SaveLine::Table) else {
            self.state.message = Some(said.join(" "));
            if leaves {
                self.status = Some(0);
            }
            return Ok(());
        };
        let rejects = dialogue.path(SaveLine::Rejects);
        self.state.written =
            Written { table: Some(table.clone()), only: dialogue.only, rejects: rejects.clone() };
        self.state.own_files.extend([Some(table.clone()), rejects.clone()].into_iter().flatten());
        self.state.leaves_when_written = leaves;
        self.state.message =
            Some([said.join(" "), "writing…".to_owned()].join(" ").trim().to_owned());
        let (reading, source, only) =
            (self.args.reading.words(), self.source.clone(), dialogue.only);
        let from = self.args.table.clone();
        let threads = self.args.reading.threads;
        self.jobs.write(move |stop| {
            write(&from, &reading, source, whole, (&table, rejects.as_deref(), only), threads, stop)
        });
        Ok(())
    }

    /// Says that the table was written, or why not.
    pub(super) fn wrote(&mut self, done: Result<String, String>) {
        match done {
            Ok(said) => {
                let saved =
                    self.state.told.last().filter(|told| told.starts_with("Saved ")).cloned();
                self.state.message =
                    Some(saved.into_iter().chain([said.clone()]).collect::<Vec<_>>().join(" "));
                self.state.told.push(said);
                if self.state.leaves_when_written {
                    self.status = Some(0);
                }
            }
            Err(problem) => {
                self.state.written = Written::default();
                self.state.message = Some(problem);
            }
        }
        self.state.leaves_when_written = false;
    }
}

fn asking(path: &Path, said: String) -> Asking {
    Asking { path: path.to_owned(), said, overwrite: false }
}

/// Writes the table as `carve` does, and returns what is said of it.
fn write(
    from: &Path,
    reading: &[String],
    source: Source,
    mut jig: Jig,
    (to, rejects, only): (&Path, Option<&Path>, bool),
    threads: Option<u16>,
    stop: &AtomicBool,
) -> Result<String, Problem> {
    let mut words: Vec<std::ffi::OsString> = vec!["notch".into(), "carve".into(), from.into()];
    words.extend(reading.iter().map(Into::into));
    words.extend(["-q".into(), "-o".into(), to.into()]);
    if let Some(rejects) = rejects {
        words.extend(["--rejects".into(), rejects.into()]);
        jig.on_finding = Some(Action::Reject);
    }
    if let Some(threads) = threads {
        words.extend(["--threads".into(), threads.to_string().into()]);
    }
    if only {
        jig.write = Some(Write::Word("new".to_owned()));
    }
    let cli = Cli::try_parse_from(words)
        .map_err(|error| Problem::said(error.to_string(), "Give the file another name."))?;
    let Command::Carve(args) = cli.command else {
        return Err(Problem::said("the table cannot be written.", "Leave, and use notch carve."));
    };
    let (done, _) = carve_jig(&args, jig, source, stop)?;
    let found: u64 = done
        .tally
        .findings()
        .iter()
        .filter(|(_, kind, ..)| !kind.is_note())
        .map(|(.., of)| of.count)
        .sum();
    let findings = match found {
        0 => "no findings".to_owned(),
        found => format!(
            "{} in {}",
            counted(found, "finding"),
            counted(done.tally.rows_with_findings, "row")
        ),
    };
    let rows = counted(done.written, "row");
    let rejected = match done.rejected {
        0 => String::new(),
        rejected => format!(", {rejected} rejected"),
    };
    Ok(format!("Wrote {}: {rows}{rejected}, {findings}.", to.display()))
}
