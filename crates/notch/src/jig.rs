//! Jigs: TOML files of cuts and lists, to use again on new data.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use indexmap::IndexMap;
use notch_core::{Assignment, nearest, parse_assignment};
use notch_table::TableError;
use serde::Deserialize;

use crate::show::Problem;

/// A cut as it was read: its tree, its text and where it stands.
#[derive(Debug, Clone)]
pub struct ReadCut {
    /// The tree.
    pub assignment: Assignment,
    /// `name = cut`.
    pub text: String,
    /// The jig it stands in; `None` for the command line.
    pub jig: Option<String>,
    /// It may replace a column of the same name.
    pub replace: bool,
}

impl ReadCut {
    /// Reads a cut.
    pub fn read(text: String, jig: Option<String>) -> Result<Self, Problem> {
        match parse_assignment(&text) {
            Ok(assignment) => Ok(Self { assignment, text, jig, replace: false }),
            Err(error) => Err(Problem::Cut { text, jig, error }),
        }
    }
}

/// A jig as it was read.
#[derive(Debug, Default)]
pub struct Jig {
    /// The column a cut starts from when it names none.
    pub column: Option<String>,
    /// The lists that cuts may name.
    pub lists: BTreeMap<String, Vec<String>>,
    /// The cuts, in the order of the file.
    pub cuts: Vec<ReadCut>,
}

/// The file as it stands.
#[derive(Debug, Deserialize)]
struct File {
    #[serde(rename = "title")]
    _title: Option<String>,
    column: Option<String>,
    #[serde(default)]
    lists: IndexMap<String, List>,
    #[serde(default)]
    cuts: IndexMap<String, Cut>,
    #[serde(flatten)]
    others: IndexMap<String, toml::Value>,
}

#[derive(Debug, Deserialize)]
#[serde(untagged)]
enum List {
    Values(Vec<String>),
    Pairs(IndexMap<String, String>),
}

#[derive(Debug, Deserialize)]
#[serde(untagged)]
enum Cut {
    Text(String),
    Table(CutTable),
}

#[derive(Debug, Deserialize)]
struct CutTable {
    cut: String,
    #[serde(rename = "about")]
    _about: Option<String>,
    #[serde(default)]
    replace: bool,
    #[serde(flatten)]
    others: IndexMap<String, toml::Value>,
}

const KEYS: [&str; 4] = ["title", "column", "lists", "cuts"];
const CUT_KEYS: [&str; 3] = ["cut", "about", "replace"];

impl Jig {
    /// Reads a jig.
    pub fn read(path: &Path) -> Result<Self, Problem> {
        let name = path.display().to_string();
        let text =
            fs::read_to_string(path).map_err(|cause| TableError::Io { name: format!("the jig {name}"), what: "cannot be read", cause })?;
        let file: File = toml::from_str(&text).map_err(|error| not_a_jig(&name, &text, &error))?;
        unknown_key(&name, "the jig", &file.others, &KEYS)?;
        let mut jig = Jig { column: file.column, ..Self::default() };
        for (list, values) in file.lists {
            let values = match values {
                List::Values(values) => values,
                List::Pairs(pairs) => pairs.into_keys().collect(),
            };
            jig.lists.insert(list, values);
        }
        for (left, cut) in file.cuts {
            let (cut, replace) = match cut {
                Cut::Text(cut) => (cut, false),
                Cut::Table(table) => {
                    unknown_key(&name, &format!("the cut {left}"), &table.others, &CUT_KEYS)?;
                    (table.cut, table.replace)
                }
            };
            let read = ReadCut::read(format!("{left} = {cut}"), Some(name.clone()))?;
            jig.cuts.push(ReadCut { replace, ..read });
        }
        Ok(jig)
    }
}

fn unknown_key(name: &str, place: &str, others: &IndexMap<String, toml::Value>, known: &[&str]) -> Result<(), Problem> {
    let Some(unknown) = others.keys().next() else {
        return Ok(());
    };
    let near = nearest(unknown, known.iter().copied()).map_or(String::new(), |near| format!("The nearest is {near}. "));
    Err(Problem::said(
        format!("in {name}, {place} has the key {unknown}, which means nothing."),
        format!("{near}The keys are: {}.", known.join(", ")),
    ))
}

fn not_a_jig(name: &str, text: &str, error: &toml::de::Error) -> Problem {
    let line = error.span().map(|span| text[..span.start.min(text.len())].matches('\n').count() + 1);
    let place = line.map_or(String::new(), |line| format!(", line {line}"));
    let reason = error.message().trim_end_matches('.').lines().next().unwrap_or_default().to_owned();
    Problem::said(
        format!("{name}{place}: this is no jig: {reason}."),
        "Cuts stand under [cuts], each as name = 'cut'; lists under [lists], as name = [\"A\", \"B\"] or name = { A = \"…\" }.",
    )
}
