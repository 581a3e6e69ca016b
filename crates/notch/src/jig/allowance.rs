//! How many rows with findings are put up with, and whether a run stayed within it.

use std::fmt;

use indexmap::IndexSet;
use keen_notch_core::{About, Plan, Tally, nearest};

use super::file::AllowanceEntry;
use super::{Jig, Place, ReadAllowance};
use crate::show::Problem;

/// How many rows with findings are put up with.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Allowance {
    /// That many of a hundred rows read.
    Percent(f64),
    /// That many rows.
    Rows(u64),
}

/// What to write where an allowance cannot be read.
pub const REMEDY: &str = "Write a share of the rows, \"0.5%\", or a number of rows, 3.";

impl Allowance {
    fn parse(text: &str) -> Result<Self, String> {
        let wrong = || format!("{text} is no share and no number of rows");
        match text.trim().strip_suffix('%') {
            Some(figure) => {
                let percent: f64 = figure.trim().parse().map_err(|_| wrong())?;
                if (0.0..=100.0).contains(&percent) {
                    Ok(Allowance::Percent(percent))
                } else {
                    Err(wrong())
                }
            }
            None => text.trim().parse().map(Allowance::Rows).map_err(|_| wrong()),
        }
    }

    /// Of a jig.
    ///
    /// # Errors
    /// A clause on what it is not.
    pub fn of_entry(entry: &AllowanceEntry) -> Result<Self, String> {
        match entry {
            AllowanceEntry::Text(text) => Self::parse(text),
            AllowanceEntry::Rows(rows) => Ok(Allowance::Rows(*rows)),
        }
    }

    /// How many rows with findings are put up with when that many are read.
    pub fn most(self, rows: u64) -> u64 {
        match self {
            Allowance::Rows(most) => most,
            // Rows are far fewer than a 64-bit float can tell apart.
            Allowance::Percent(percent) => (rows as f64 * percent / 100.0 + 1e-9).floor() as u64,
        }
    }
}

impl fmt::Display for Allowance {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Allowance::Percent(percent) => write!(f, "{percent}%"),
            Allowance::Rows(rows) => write!(f, "{rows}"),
        }
    }
}

impl ReadAllowance {
    /// Reads `serial 0.5%` of the command line.
    ///
    /// # Errors
    /// There is no name, or no share or number after it.
    pub fn typed(text: &str) -> Result<Self, Problem> {
        let remedy = "Write a name and what is put up with, in quotes: --allow 'serial 0.5%' or \
            --allow 'serial 3'.";
        let (name, figure) = text.trim().rsplit_once(char::is_whitespace).ok_or_else(|| {
            Problem::said(format!("--allow {text}: a name and a figure are wanted."), remedy)
        })?;
        let allowance = Allowance::parse(figure)
            .map_err(|problem| Problem::said(format!("--allow: {problem}."), remedy))?;
        Ok(Self {
            name: name.trim().trim_matches('"').to_owned(),
            allowance,
            place: Place::CommandLine,
        })
    }
}

/// How many rows have findings about one thing, and whether that many are put up with.
#[derive(Debug, Clone)]
pub struct Judged {
    /// What the findings are about.
    pub about: About,
    /// Rows with findings of it.
    pub rows: u64,
    /// What is put up with, where it is said.
    pub allowance: Option<Allowance>,
    /// Whether there are no more than that.
    pub within: bool,
}

impl Jig {
    /// Every allowance must be about something there is.
    ///
    /// # Errors
    /// It is about nothing.
    pub fn check_allowances(&self, plan: &Plan) -> Result<(), Problem> {
        let cuts = (0..plan.len())
            .flat_map(|cut| plan.names(cut).chain([plan.left_side(cut)]))
            .filter(|name| *name != "_");
        let columns = self.columns.iter().map(|column| column.rule.column.as_str());
        let known: IndexSet<&str> = cuts.chain(plan.checks()).chain(columns).collect();
        let Some(unknown) =
            self.allow.iter().find(|allowance| !known.contains(allowance.name.as_str()))
        else {
            return Ok(());
        };
        let near = nearest(&unknown.name, known.iter().copied())
            .map_or(String::new(), |near| format!("The nearest is {near}. "));
        let place = match &unknown.place {
            Place::CommandLine => "--allow".to_owned(),
            Place::Jig(place) => format!("in {}, [allow]", place.jig.name),
        };
        Err(Problem::said(
            format!("{place}: no cut, check or column of the jig is called {}.", unknown.name),
            format!("{near}There are: {}.", known.into_iter().collect::<Vec<_>>().join(", ")),
        ))
    }

    /// Everything that has findings, each held against what is put up with.
    pub fn judge(&self, plan: &Plan, tally: &Tally, rows: u64) -> Vec<Judged> {
        let judged = tally.rows().map(|(about, with)| {
            let called = match about {
                About::Column(source) => {
                    plan.sources().get(source).map_or("", |source| &source.name)
                }
                about => plan.called(about),
            };
            let names = match about {
                About::Name { cut, .. } => vec![called, plan.left_side(cut)],
                About::Cut(cut) => plan.names(cut).chain([called]).collect(),
                _ => vec![called],
            };
            let allowance = self
                .allow
                .iter()
                .find(|allowance| names.contains(&allowance.name.as_str()))
                .map(|allowance| allowance.allowance);
            Judged {
                about,
                rows: with,
                allowance,
                within: allowance.is_some_and(|allowance| with <= allowance.most(rows)),
            }
        });
        judged.collect()
    }
}
