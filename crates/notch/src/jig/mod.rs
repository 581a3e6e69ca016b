//! Jigs: TOML files of cuts, lists and checks, to use again on new data.
//!
//! | module | holds |
//! | --- | --- |
//! | [`mod@file`] | the keys of a file |
//! | `entries` | what the entries of a file add to a jig, each mistake told at its line |
//! | `place` | where what was read stands |
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
mod entries;
mod examples;
pub mod file;
mod lists;
mod mistakes;
mod names;
mod place;
pub mod runs;
pub mod save;

use std::path::{Path, PathBuf};

use indexmap::IndexMap;
use keen_notch_core::{
    Assignment, ColumnRule, CutError, Lists, OnFinding, Plan, PlanError, PlanOptions, Rule,
    RulePlace, parse_assignment, parse_row_condition,
};

use self::allowance::Allowance;
pub use self::examples::{CutExample, given};
pub use self::file::Action;
use self::file::{ListEntry, Remembered, Write};
pub use self::names::Called;
pub use self::place::Place;
use crate::show::Problem;

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

/// The value of a list that is there by its name alone.
const ONE: &str = "-";

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

    /// The jig for reports on what was counted by it elsewhere: its lists have one value each, for
    /// what is in them travels nowhere, and examples were tried there.
    pub fn for_reports(&self) -> Self {
        let mut jig = self.clone();
        for (name, entry) in &mut jig.list_entries {
            let has_answers = self.lists.get(name).is_some_and(|list| list.has_answers());
            *entry = match has_answers {
                true => ListEntry::Pairs([(ONE.to_owned(), ONE.to_owned())].into()),
                false => ListEntry::Values(vec![ONE.to_owned()]),
            };
        }
        jig.cuts.iter_mut().for_each(|cut| cut.examples.clear());
        jig
    }

    /// Reads the text of a jig of that name.
    ///
    /// # Errors
    /// Everything that is wrong with it.
    pub fn of_text(name: &str, text: String) -> Result<Self, Problem> {
        let (mut jig, mut wrong) = (Jig::default(), Vec::new());
        jig.add_text(name.to_owned(), text, Path::new(""), &mut wrong)?;
        if wrong.is_empty() { Ok(jig) } else { Err(Problem::of_all(wrong)) }
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
