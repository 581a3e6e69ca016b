//! What the entries of a jig's file add to a jig, section by section. What is wrong with an entry
//! is kept, and the next one is read: everything is told at once.

use std::fs;
use std::ops::Range;
use std::path::Path;
use std::sync::Arc;

use indexmap::IndexMap;
use keen_notch_core::{
    ColumnRule, CutError, OutputType, Rule, parse_assignment, parse_column_rule,
    parse_row_condition, parse_row_rule,
};
use keen_notch_table::TableError;
use toml::Spanned;

use super::allowance::{self, Allowance};
use super::examples::CutExample;
use super::file::{
    AllowanceEntry, ColumnEntry, CutEntry, ExampleEntry, JigFile, ListEntry, ListFile, Remembered,
};
use super::mistakes::{line_of, not_a_jig};
use super::place::{BETWEEN, JigPlace, JigText, Place};
use super::{Jig, ReadAllowance, ReadColumn, ReadCut, ReadRule, UnreadCut, lists, read_rule};
use crate::show::Problem;

/// A file whose entries are added to a jig.
struct Entries<'e> {
    jig: &'e mut Jig,
    file: Arc<JigText>,
    /// What is wrong with them.
    wrong: &'e mut Vec<Problem>,
}

impl Jig {
    /// Adds what a jig says; what is wrong with an entry goes to `wrong`, and the next one is read.
    ///
    /// # Errors
    /// The file is no jig at all.
    pub(super) fn add(&mut self, path: &Path, wrong: &mut Vec<Problem>) -> Result<(), Problem> {
        let name = path.display().to_string();
        self.files.push(("the jig", path.to_owned()));
        let text = fs::read_to_string(path).map_err(|cause| TableError::Io {
            name: format!("the jig {name}"),
            what: "cannot be read",
            cause,
        })?;
        let folder = path.parent().unwrap_or(Path::new(""));
        self.add_text(name, text, folder, wrong)
    }

    /// The same of the text of a jig of that name, whose list files are sought in `folder`.
    pub(super) fn add_text(
        &mut self,
        name: String,
        text: String,
        folder: &Path,
        wrong: &mut Vec<Problem>,
    ) -> Result<(), Problem> {
        let file: JigFile =
            toml::from_str(&text).map_err(|error| not_a_jig(&name, &text, &error))?;
        self.title = file.title.or(self.title.take());
        self.column = file.column.map(Spanned::into_inner).or(self.column.take());
        self.separator = file.separator.or(self.separator.take());
        self.header = file.header.or(self.header);
        self.write = file.write.or(self.write.take());
        self.on_finding = file.on_finding.or(self.on_finding);
        let mut entries = Entries { jig: self, file: Arc::new(JigText { name, text }), wrong };
        if let Some(text) = &file.only_rows {
            entries.jig.only_rows = entries
                .rule(text, "condition", parse_row_condition)
                .or(entries.jig.only_rows.take());
        }
        entries.lists(file.lists, folder);
        entries.columns(file.columns);
        entries.cuts(file.cuts);
        entries.checks(file.checks);
        entries.allow(file.allow);
        if let Some(remembered) = file.remembered {
            entries.remembered(remembered);
        }
        Ok(())
    }
}

/// A text of the file with its place.
fn value(value: &Spanned<String>) -> (Range<usize>, String) {
    (value.span(), value.get_ref().clone())
}

impl Entries<'_> {
    /// The line of a place, with the name of the file: `in lots.toml, line 3`.
    fn line(&self, span: Range<usize>) -> String {
        format!("in {}, line {}", self.file.name, line_of(&self.file.text, span.start))
    }

    /// The place of a text that is read by itself.
    fn place(&self, text: &Spanned<String>) -> Place {
        Place::Jig(JigPlace { jig: Arc::clone(&self.file), key: None, value: value(text) })
    }

    /// A rule; `None` of one that cannot be read.
    fn rule(
        &mut self,
        text: &Spanned<String>,
        what: &'static str,
        parse: fn(&str) -> Result<Rule, CutError>,
    ) -> Option<ReadRule> {
        let read = read_rule(text.get_ref(), self.place(text), what, parse);
        read.map_err(|problem| self.wrong.push(problem)).ok()
    }

    fn lists(&mut self, entries: IndexMap<Spanned<String>, Spanned<ListEntry>>, folder: &Path) {
        for (name, entry) in entries {
            let Err(problem) = self.jig.add_list(name.get_ref(), entry.into_inner(), folder) else {
                continue;
            };
            let place = self.line(name.span());
            self.wrong.push(match problem {
                Problem::Said { message, remedies } => {
                    Problem::Said { message: format!("{place}, {message}"), remedies }
                }
                Problem::Table(error) => Problem::said(
                    format!("{place}, the list {}: {error}", name.get_ref()),
                    error.remedy(),
                ),
                other => other,
            });
        }
    }

    fn columns(&mut self, entries: IndexMap<Spanned<String>, ColumnEntry>) {
        for (column, entry) in entries {
            let check =
                entry.check.as_ref().and_then(|text| self.rule(text, "check", parse_column_rule));
            let output_type = entry.output_type.as_ref().and_then(|text| self.output_type(text));
            let name = self.place(&column);
            let place = check.as_ref().map_or_else(|| name.clone(), |check| check.place.clone());
            let rule = ColumnRule {
                column: column.into_inner(),
                required: entry.required,
                unique: entry.unique,
                check: check.map(|check| check.rule),
                output_type,
            };
            self.jig.columns.push(ReadColumn { rule, also: entry.also, name, check: place });
        }
    }

    fn output_type(&mut self, text: &Spanned<String>) -> Option<OutputType> {
        let said = text.get_ref();
        let read = said.parse().map_err(|expected| {
            let message = format!("{}: {said} is no type of a column.", self.line(text.span()));
            self.wrong.push(Problem::said(message, expected));
        });
        read.ok()
    }

    fn cuts(&mut self, entries: IndexMap<Spanned<String>, Spanned<CutEntry>>) {
        for (left, entry) in entries {
            let span = entry.span();
            let mut examples = IndexMap::new();
            let (cut, about, replace, on_finding) = match entry.into_inner() {
                CutEntry::Text(cut) => ((span, cut), None, false, None),
                CutEntry::Table(table) => {
                    examples = table.examples;
                    (value(&table.cut), table.about, table.replace, table.on_finding)
                }
            };
            let examples = examples.into_iter().map(|example| self.example(example)).collect();
            let text = format!("{}{BETWEEN}{}", left.get_ref(), cut.1);
            let place = Place::Jig(JigPlace {
                jig: Arc::clone(&self.file),
                key: Some(value(&left)),
                value: cut.clone(),
            });
            match parse_assignment(&text) {
                Ok(assignment) => self.jig.cuts.push(ReadCut {
                    assignment,
                    left: left.into_inner(),
                    cut: cut.1,
                    place,
                    about,
                    replace,
                    on_finding,
                    examples,
                }),
                Err(error) => {
                    self.wrong.push(place.problem("cut", &text, left_with_blank(&left, error)));
                    self.jig.unread.push(UnreadCut { before: self.jig.cuts.len(), text });
                }
            }
        }
    }

    fn example(&self, (cell, entry): (Spanned<String>, ExampleEntry)) -> CutExample {
        CutExample {
            place: format!(
                "{}, line {}",
                self.file.name,
                line_of(&self.file.text, cell.span().start)
            ),
            cell: cell.into_inner(),
            pieces: match entry {
                ExampleEntry::Piece(piece) => vec![piece],
                ExampleEntry::Pieces(pieces) => pieces,
            },
        }
    }

    fn checks(&mut self, entries: IndexMap<Spanned<String>, Spanned<String>>) {
        for (title, text) in entries {
            if self.jig.checks.iter().any(|(earlier, _)| earlier == title.get_ref()) {
                let line = self.line(title.span());
                let message = format!("{line}: there is a check {} already.", title.get_ref());
                self.wrong.push(Problem::said(message, "Give one of the two another title."));
                continue;
            }
            if let Some(read) = self.rule(&text, "check", parse_row_rule) {
                self.jig.checks.push((title.into_inner(), read));
            }
        }
    }

    fn allow(&mut self, entries: IndexMap<Spanned<String>, Spanned<AllowanceEntry>>) {
        for (name, entry) in entries {
            match Allowance::of_entry(entry.get_ref()) {
                Ok(allowance) => {
                    let place = self.place(&name);
                    let name = name.into_inner();
                    self.jig.allow.retain(|earlier| earlier.name != name);
                    self.jig.allow.push(ReadAllowance { place, name, allowance });
                }
                Err(problem) => {
                    let message = format!("{}: {problem}.", self.line(entry.span()));
                    self.wrong.push(Problem::said(message, allowance::REMEDY));
                }
            }
        }
    }

    fn remembered(&mut self, remembered: Remembered) {
        let known = self.jig.remembered.get_or_insert_default();
        (known.rows, known.drift) = (remembered.rows, remembered.drift.or(known.drift));
        known.shapes.extend(remembered.shapes);
        known.layouts.extend(remembered.layouts);
    }
}

impl Jig {
    fn add_list(&mut self, name: &str, entry: ListEntry, folder: &Path) -> Result<(), Problem> {
        let list = lists::list(name, &entry, folder)?;
        let entry = match entry {
            ListEntry::File(file) => {
                let path = folder.join(&file.file);
                self.files.push(("the list file", path.clone()));
                ListEntry::File(ListFile { file: path.display().to_string(), ..file })
            }
            inline => inline,
        };
        let same = |a: &ListEntry, b: &ListEntry| match (a, b) {
            (ListEntry::Values(a), ListEntry::Values(b)) => a == b,
            (ListEntry::Pairs(a), ListEntry::Pairs(b)) => a == b,
            (ListEntry::File(a), ListEntry::File(b)) => a == b,
            _ => false,
        };
        if self.list_entries.get(name).is_some_and(|known| !same(known, &entry)) {
            return Err(Problem::said(
                format!("there is another list {name} in a jig before this one."),
                "Give one of the two another name.",
            ));
        }
        self.list_entries.insert(name.to_owned(), entry);
        self.lists.insert(name.to_owned(), Arc::new(list));
        Ok(())
    }
}

/// A key of `[cuts]` with a blank in it must have quotes of its own.
fn left_with_blank(left: &Spanned<String>, error: CutError) -> CutError {
    let left = left.get_ref();
    if left.contains(' ') && !left.contains([',', '"', '?']) && error.span.start <= left.len() {
        return CutError {
            remedies: vec![format!("In a jig a name with a blank is written: '\"{left}\"' = …")],
            ..error
        };
    }
    error
}
