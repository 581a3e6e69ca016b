//! Jigs: TOML files of cuts, lists and checks, to use again on new data.
//!
//! | module | holds |
//! | --- | --- |
//! | [`mod@file`] | the keys as they stand in a file |
//! | [`lists`] | lists, from the jig or from files beside it |
//! | [`allowance`] | how many rows with findings are put up with |
//! | [`mistakes`] | what is wrong with a jig as TOML |
//! | [`examples`] | cells of a cut with the pieces that must come out of them |
//! | [`draft`] | a first jig for a table, from a survey of it |
//! | [`names`] | columns that a table may have under another name |
//! | [`save`] | a jig written to a file |
//! | [`runs`] | what earlier runs found, kept beside the jig |
//! | [`baseline`] | what the new columns looked like, kept in the jig and compared |

pub mod allowance;
pub mod baseline;
pub mod column_layouts;
pub mod draft;
mod examples;
pub mod file;
mod lists;
mod mistakes;
mod names;
pub mod runs;
pub mod save;

use std::fs;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use indexmap::IndexMap;
use keen_notch_core::{
    Assignment, ColumnRule, CutError, Lists, OnFinding, Plan, PlanError, PlanOptions, Rule,
    RulePlace, parse_assignment, parse_column_rule, parse_row_condition, parse_row_rule,
};
use keen_notch_table::TableError;
use toml::Spanned;

use self::allowance::Allowance;
pub use self::examples::{CutExample, given};
pub use self::file::Action;
use self::file::{CutEntry, ExampleEntry, JigFile, ListEntry, ListFile, Remembered, Write};
use self::mistakes::{line_of, not_a_jig};
pub use self::names::Called;
use crate::show::Problem;

/// The text of a jig's file.
#[derive(Debug)]
struct JigText {
    name: String,
    text: String,
}

/// Where a cut, a check or a condition stands.
#[derive(Debug, Clone)]
pub enum Place {
    /// On the command line.
    CommandLine,
    /// In a jig: the key on the left, if it is part of the text, and the value.
    Jig(JigPlace),
}

/// A place in a jig.
#[derive(Debug, Clone)]
pub struct JigPlace {
    jig: Arc<JigText>,
    /// The key that is the beginning of what was read, with the text it stands for.
    key: Option<(Range<usize>, String)>,
    value: (Range<usize>, String),
}

impl Place {
    /// What is wrong with a text that stands here, shown where it stands.
    pub fn problem(&self, what: &'static str, text: &str, error: CutError) -> Problem {
        match self {
            Place::CommandLine => {
                Problem::Cut { what, text: text.to_owned(), place: None, error: Box::new(error) }
            }
            Place::Jig(place) => {
                let span = place.in_file(error.span.clone());
                let line =
                    place.jig.text[..span.start.min(place.jig.text.len())].matches('\n').count()
                        + 1;
                let named = format!("{}, line {line}", place.jig.name);
                Problem::Cut {
                    what,
                    text: place.jig.text.clone(),
                    place: Some(named),
                    error: Box::new(CutError { span, ..error }),
                }
            }
        }
    }
}

impl JigPlace {
    /// Where a place of what was read stands in the file; the whole key or value where escapes make
    /// it impossible to say.
    fn in_file(&self, span: Range<usize>) -> Range<usize> {
        let within = |(place, read): &(Range<usize>, String), span: Range<usize>| {
            let raw = self.jig.text.get(place.clone()).unwrap_or_default();
            match raw.find(read.as_str()) {
                Some(at) => place.start + at + span.start..place.start + at + span.end,
                None => place.clone(),
            }
        };
        match &self.key {
            Some(key) if span.end <= key.1.len() => within(key, span),
            Some(key) => {
                let shift = key.1.len() + BETWEEN.len();
                within(
                    &self.value,
                    span.start.saturating_sub(shift)..span.end.saturating_sub(shift),
                )
            }
            None => within(&self.value, span),
        }
    }
}

/// What stands between the names of a cut and the cut.
const BETWEEN: &str = " = ";

/// A cut as it was read.
#[derive(Debug, Clone)]
pub struct ReadCut {
    /// Its tree.
    pub assignment: Assignment,
    /// The names on the left as written.
    pub left: String,
    /// The cut as written.
    pub cut: String,
    /// Where it stands.
    pub place: Place,
    /// What it is for.
    pub about: Option<String>,
    /// It may replace a column of the same name.
    pub replace: bool,
    /// What a finding of it does to its row.
    pub on_finding: Option<Action>,
    /// Its examples.
    pub examples: Vec<CutExample>,
}

impl ReadCut {
    /// Reads `names = cut` of the command line.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn typed(text: &str) -> Result<Self, Problem> {
        let read = parse_assignment(text);
        read.map(Self::of).map_err(|error| Place::CommandLine.problem("cut", text, error))
    }

    /// A cut that was typed and parsed.
    pub fn of(assignment: Assignment) -> Self {
        let (left, cut) = assignment.text.split_once('=').unwrap_or((&assignment.text, ""));
        let (left, cut) = (left.trim().to_owned(), cut.trim().to_owned());
        Self {
            assignment,
            left,
            cut,
            place: Place::CommandLine,
            about: None,
            replace: false,
            on_finding: None,
            examples: Vec::new(),
        }
    }
}

/// A check or condition as it was read.
#[derive(Debug, Clone)]
pub struct ReadRule {
    /// Its tree.
    pub rule: Rule,
    /// Where it stands.
    pub place: Place,
}

/// What is demanded of a column, as it was read.
#[derive(Debug, Clone)]
pub struct ReadColumn {
    /// The demand.
    pub rule: ColumnRule,
    /// Other names that a table may have for it.
    pub also: Vec<String>,
    /// Where the column's name stands.
    name: Place,
    /// Where its check stands.
    check: Place,
}

/// How many rows with findings of something are put up with.
#[derive(Debug, Clone)]
pub struct ReadAllowance {
    /// What about: a cut's name, a check's title, a column.
    pub name: String,
    /// How many.
    pub allowance: Allowance,
    /// Where it is said.
    pub place: Place,
}

/// What several jigs and the command line say together.
#[derive(Debug, Default, Clone)]
pub struct Jig {
    /// What it is for.
    pub title: Option<String>,
    /// The column a cut starts from when it names none.
    pub column: Option<String>,
    /// What divides the columns of the table, as written.
    pub separator: Option<String>,
    /// Whether the first row names the columns.
    pub header: Option<bool>,
    /// Which columns are written.
    pub write: Option<Write>,
    /// What a finding does to its row.
    pub on_finding: Option<Action>,
    /// Which rows are written.
    pub only_rows: Option<ReadRule>,
    /// The lists that cuts may name.
    pub lists: Lists,
    /// The files that were read for it, each with what it is.
    pub files: Vec<(&'static str, PathBuf)>,
    /// What the jigs say of the lists; files by their path from here.
    pub list_entries: IndexMap<String, ListEntry>,
    /// What the table must be like.
    pub columns: Vec<ReadColumn>,
    /// The cuts, in order.
    pub cuts: Vec<ReadCut>,
    /// The checks of whole rows, with their titles.
    pub checks: Vec<(String, ReadRule)>,
    /// What is put up with.
    pub allow: Vec<ReadAllowance>,
    /// What the new columns looked like once.
    pub remembered: Option<Remembered>,
    /// The cuts that cannot be read.
    pub unread: Vec<UnreadCut>,
}

/// A cut of a jig that cannot be read.
#[derive(Debug, Clone)]
pub struct UnreadCut {
    /// Before how many of the cuts that can it stands.
    pub before: usize,
    /// Its text, names first.
    pub text: String,
}

impl Jig {
    /// Reads several jigs, each after the one before.
    ///
    /// # Errors
    /// Everything that is wrong with them, with its line and the remedy; examples that do not come
    /// out.
    pub fn read(paths: &[PathBuf]) -> Result<Self, Problem> {
        let (jig, problem) = Self::read_as_far_as_possible(paths);
        problem.map_or(Ok(jig), Err)
    }

    /// Reads several jigs, and of each what can be read; what is wrong comes with it.
    pub fn read_as_far_as_possible(paths: &[PathBuf]) -> (Self, Option<Problem>) {
        let mut jig = Jig::default();
        let mut wrong = Vec::new();
        for path in paths {
            if let Err(problem) = jig.add(path, &mut wrong) {
                return (jig, Some(problem));
            }
        }
        let problem = match wrong.is_empty() {
            true => jig.try_examples().err(),
            false => Some(Problem::of_all(wrong)),
        };
        (jig, problem)
    }

    /// Leaves out a rule that does not suit a table; returns whether there is such a rule.
    pub fn leave_out(&mut self, rule: Option<RulePlace>) -> bool {
        match rule {
            Some(RulePlace::ColumnName(n) | RulePlace::ColumnCheck(n))
                if n < self.columns.len() =>
            {
                drop(self.columns.remove(n));
            }
            Some(RulePlace::Check(n)) if n < self.checks.len() => drop(self.checks.remove(n)),
            Some(RulePlace::OnlyRows) => self.only_rows = None,
            _ => return false,
        }
        true
    }

    /// Adds what a jig says; what is wrong with an entry goes to `wrong`, and the next one is read.
    ///
    /// # Errors
    /// The file is no jig at all.
    fn add(&mut self, path: &Path, wrong: &mut Vec<Problem>) -> Result<(), Problem> {
        let name = path.display().to_string();
        self.files.push(("the jig", path.to_owned()));
        let text = fs::read_to_string(path).map_err(|cause| TableError::Io {
            name: format!("the jig {name}"),
            what: "cannot be read",
            cause,
        })?;
        let file: JigFile =
            toml::from_str(&text).map_err(|error| not_a_jig(&name, &text, &error))?;
        let jig = Arc::new(JigText { name, text });
        let value = |value: &Spanned<String>| (value.span(), value.get_ref().clone());
        let alone = |text: &Spanned<String>| {
            Place::Jig(JigPlace { jig: Arc::clone(&jig), key: None, value: value(text) })
        };

        self.title = file.title.or(self.title.take());
        self.column = file.column.map(Spanned::into_inner).or(self.column.take());
        self.separator = file.separator.or(self.separator.take());
        self.header = file.header.or(self.header);
        self.write = file.write.or(self.write.take());
        self.on_finding = file.on_finding.or(self.on_finding);
        if let Some(text) = &file.only_rows {
            match read_rule(text.get_ref(), alone(text), "condition", parse_row_condition) {
                Ok(rule) => self.only_rows = Some(rule),
                Err(problem) => wrong.push(problem),
            }
        }
        let folder = path.parent().unwrap_or(Path::new(""));
        for (name, entry) in file.lists {
            if let Err(problem) = self.add_list(name.get_ref(), entry.into_inner(), folder) {
                let place =
                    format!("in {}, line {}", jig.name, line_of(&jig.text, name.span().start));
                wrong.push(match problem {
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
        for (column, entry) in file.columns {
            let check = entry
                .check
                .as_ref()
                .map(|text| read_rule(text.get_ref(), alone(text), "check", parse_column_rule));
            let check = check.transpose().unwrap_or_else(|problem| {
                wrong.push(problem);
                None
            });
            let output_type =
                entry.output_type.as_ref().and_then(|text| match text.get_ref().parse() {
                    Ok(output_type) => Some(output_type),
                    Err(expected) => {
                        let line = line_of(&jig.text, text.span().start);
                        let message = format!(
                            "in {}, line {line}: {} is no type of a column.",
                            jig.name,
                            text.get_ref()
                        );
                        wrong.push(Problem::said(message, expected));
                        None
                    }
                });
            let name = alone(&column);
            let place = check.as_ref().map_or_else(|| name.clone(), |check| check.place.clone());
            let rule = ColumnRule {
                column: column.into_inner(),
                required: entry.required,
                unique: entry.unique,
                check: check.map(|check| check.rule),
                output_type,
            };
            self.columns.push(ReadColumn { rule, also: entry.also, name, check: place });
        }
        for (left, entry) in file.cuts {
            let span = entry.span();
            let mut examples = IndexMap::new();
            let (cut, about, replace, on_finding) = match entry.into_inner() {
                CutEntry::Text(cut) => ((span, cut), None, false, None),
                CutEntry::Table(table) => {
                    examples = table.examples;
                    (value(&table.cut), table.about, table.replace, table.on_finding)
                }
            };
            let example = |(cell, entry): (Spanned<String>, ExampleEntry)| CutExample {
                place: format!("{}, line {}", jig.name, line_of(&jig.text, cell.span().start)),
                cell: cell.into_inner(),
                pieces: match entry {
                    ExampleEntry::Piece(piece) => vec![piece],
                    ExampleEntry::Pieces(pieces) => pieces,
                },
            };
            let examples = examples.into_iter().map(example).collect();
            let text = format!("{}{BETWEEN}{}", left.get_ref(), cut.1);
            let place = Place::Jig(JigPlace {
                jig: Arc::clone(&jig),
                key: Some(value(&left)),
                value: cut.clone(),
            });
            let assignment = match parse_assignment(&text) {
                Ok(assignment) => assignment,
                Err(error) => {
                    wrong.push(place.problem("cut", &text, left_with_blank(&left, error)));
                    self.unread.push(UnreadCut { before: self.cuts.len(), text });
                    continue;
                }
            };
            self.cuts.push(ReadCut {
                assignment,
                left: left.into_inner(),
                cut: cut.1,
                place,
                about,
                replace,
                on_finding,
                examples,
            });
        }
        for (title, text) in file.checks {
            if self.checks.iter().any(|(earlier, _)| earlier == title.get_ref()) {
                wrong.push(Problem::said(
                    format!(
                        "in {}, line {}: there is a check {} already.",
                        jig.name,
                        line_of(&jig.text, title.span().start),
                        title.get_ref()
                    ),
                    "Give one of the two another title.",
                ));
                continue;
            }
            match read_rule(text.get_ref(), alone(&text), "check", parse_row_rule) {
                Ok(read) => self.checks.push((title.into_inner(), read)),
                Err(problem) => wrong.push(problem),
            }
        }
        for (name, entry) in file.allow {
            let allowance = match Allowance::of_entry(entry.get_ref()) {
                Ok(allowance) => allowance,
                Err(problem) => {
                    let line = line_of(&jig.text, entry.span().start);
                    wrong.push(Problem::said(
                        format!("in {}, line {line}: {problem}.", jig.name),
                        allowance::REMEDY,
                    ));
                    continue;
                }
            };
            self.allow.retain(|earlier| earlier.name != *name.get_ref());
            self.allow.push(ReadAllowance {
                place: alone(&name),
                name: name.into_inner(),
                allowance,
            });
        }
        if let Some(remembered) = file.remembered {
            let known = self.remembered.get_or_insert_default();
            (known.rows, known.drift) = (remembered.rows, remembered.drift.or(known.drift));
            known.shapes.extend(remembered.shapes);
            known.layouts.extend(remembered.layouts);
        }
        Ok(())
    }

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

    /// Whether all rows must be read before any can be judged.
    pub fn asks_unique(&self) -> bool {
        let of_column = |column: &ReadColumn| {
            column.rule.unique || column.rule.check.as_ref().is_some_and(Rule::asks_unique)
        };
        self.columns.iter().any(of_column)
            || self.checks.iter().any(|(_, check)| check.rule.asks_unique())
    }

    /// What the compiler of cuts is told, for a table with these columns.
    pub fn plan_options(&self, columns: &[String]) -> PlanOptions {
        let replaced =
            self.cuts.iter().filter(|cut| cut.replace).flat_map(|cut| &cut.assignment.names);
        let of_cut = |(n, cut): (usize, &ReadCut)| Some((n, OnFinding::from(cut.on_finding?)));
        PlanOptions {
            start: self.column.clone(),
            replace: replaced
                .map(|name| name.text.clone())
                .filter(|name| columns.contains(name))
                .collect(),
            lists: self.lists.clone(),
            columns: self.columns.iter().map(|column| column.rule.clone()).collect(),
            checks: self
                .checks
                .iter()
                .map(|(title, check)| (title.clone(), check.rule.clone()))
                .collect(),
            only_rows: self.only_rows.as_ref().map(|read| read.rule.clone()),
            on_finding: self.on_finding.map(OnFinding::from).unwrap_or_default(),
            on_finding_of: self.cuts.iter().enumerate().filter_map(of_cut).collect(),
            byte_width: None,
            cell_limit: None,
        }
    }

    /// The trees of the cuts, in order.
    pub fn assignments(&self) -> Vec<Assignment> {
        self.cuts.iter().map(|cut| cut.assignment.clone()).collect()
    }

    /// The plan for a table with these columns.
    ///
    /// # Errors
    /// Every cut that does not suit the table, or the first other thing that does not.
    pub fn compile(&self, columns: &[String], options: &PlanOptions) -> Result<Plan, Problem> {
        let mut assignments = self.assignments();
        let (mut wrong, mut aside) = (Vec::new(), Vec::new());
        loop {
            let error = match Plan::compile(&assignments, columns, options) {
                Ok(plan) if wrong.is_empty() => return Ok(plan),
                Ok(_) => break,
                Err(error) => error,
            };
            let cut = match &error {
                PlanError::Cut(n, _) => Some(*n),
                _ => None,
            };
            // What stands for a cut that was complained of is not complained of.
            if cut.is_some_and(|n| aside.contains(&n)) {
                break;
            }
            wrong.push(self.problem(error));
            let Some((n, other)) = cut.and_then(|n| Some((n, stand_in(assignments.get(n)?)?)))
            else {
                break;
            };
            assignments[n] = other;
            aside.push(n);
        }
        Err(Problem::of_all(wrong))
    }

    /// What does not suit the table, shown where it stands.
    pub fn problem(&self, error: PlanError) -> Problem {
        let of = |place: Option<&Place>, what, text: &str, error: CutError| match place {
            Some(place) => place.problem(what, text, error),
            None => Problem::said(error.message, error.remedies.join(" ")),
        };
        match error {
            PlanError::Cut(n, error) => {
                let cut = self.cuts.get(n);
                let text = cut.map_or(String::new(), |cut| cut.assignment.text.clone());
                of(cut.map(|cut| &cut.place), "cut", &text, error)
            }
            PlanError::Rule(place, error) => match place {
                RulePlace::ColumnName(n) => {
                    let column = self.columns.get(n);
                    let name = column.map_or("", |column| &column.rule.column);
                    of(
                        column.map(|column| &column.name),
                        "column",
                        name,
                        CutError { span: 0..name.len(), ..error },
                    )
                }
                RulePlace::ColumnCheck(n) => {
                    of(self.columns.get(n).map(|column| &column.check), "check", "", error)
                }
                RulePlace::Check(n) => {
                    of(self.checks.get(n).map(|(_, check)| &check.place), "check", "", error)
                }
                RulePlace::OnlyRows => {
                    let rule = self.only_rows.as_ref();
                    let text = rule.map_or(String::new(), |rule| rule.rule.text.clone());
                    of(rule.map(|rule| &rule.place), "condition", &text, error)
                }
            },
            PlanError::Option { message, remedies, .. } => {
                Problem::Said { message: format!("{message}."), remedies }
            }
        }
    }
}

/// A cut that returns the same columns and suits every table, so that the other cuts can be looked
/// at.
fn stand_in(cut: &Assignment) -> Option<Assignment> {
    let names: Vec<String> = cut.names.iter().map(|name| format!("\"{}\"", name.text)).collect();
    let parts = if names.len() == 1 { "" } else { " | parts by \"-\"" };
    parse_assignment(&format!("{} = \"\"{parts}", names.join(", "))).ok()
}

fn read_rule(
    text: &str,
    place: Place,
    what: &'static str,
    parse: fn(&str) -> Result<Rule, CutError>,
) -> Result<ReadRule, Problem> {
    let rule = parse(text).map_err(|error| place.problem(what, text, error))?;
    Ok(ReadRule { rule, place })
}

/// Reads the condition of `--where`.
///
/// # Errors
/// What is wrong with it.
pub fn typed_condition(text: &str) -> Result<ReadRule, Problem> {
    read_rule(text, Place::CommandLine, "condition", parse_row_condition)
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
