//! A first jig for a table, with comments, from what a survey has seen of its columns.

use std::fmt::Write as _;

use indexmap::IndexMap;
use keen_notch_core::{ColumnHolds, Held, Proposal, characters};

use super::save::{array, key, plain, table};
use crate::show::{Surveyed, visible};

/// A rule is written where this number of a thousand rows keep it; others are comments.
const HOLDS: u64 = 995;

/// The jig as TOML, for the table `name`, to be written to `path`.
pub fn draft(name: &str, columns: &[Surveyed], path: &str) -> String {
    // The cuts of a single column start from it by themselves.
    let only_one = columns.len() == 1 && columns[0].only_place.is_none();
    let mut lists: IndexMap<String, Vec<String>> = IndexMap::new();
    let mut rules = String::new();
    for column in columns {
        rules.push_str(&rules_of(column, &mut lists));
    }
    let (mut cuts, mut checks) = (String::new(), String::new());
    for column in columns {
        for proposal in &column.proposals {
            // What is demanded of whole texts is no piece of them.
            let whole = column
                .survey
                .scheme()
                .filter(|(scheme, _)| proposal.cut.ends_with(&format!("check is {scheme}")));
            match whole {
                Some((scheme, _)) => checks.push_str(&check_digit(column, proposal, scheme)),
                None => cuts.push_str(&cut(column, proposal, only_one, &mut lists)),
            }
        }
    }
    let (name, path) = (visible(name), visible(path));
    let rows = columns.first().map_or(0, |column| column.survey.rows);
    let mut text = format!(
        "# A jig for {name}, written from what its {rows} rows look like. Rename the pieces and \
        take out what is not meant.\n# Whether every row is as it says here, and the table with \
        the new columns:\n#   notch check {name} -j {path}\n#   notch carve {name} -j {path} -o \
        cut.csv\n# The steps of a cut and all conditions: notch words --all\n\ntitle = {}\n",
        plain(&name)
    );
    if only_one && let Some(column) = columns.first() {
        let _ = writeln!(
            text,
            "column = {}    # where a cut starts that names no column",
            plain(&column.name)
        );
    }
    let lists: String =
        lists.iter().map(|(name, values)| format!("{} = {}\n", key(name), array(values))).collect();
    for (section, meaning, entries, example) in [
        ("lists", "values that checks and cuts may name", &lists, "houses = [\"FH\", \"GR\"]"),
        (
            "columns",
            "what the table itself must be like, before any cut",
            &rules,
            "lot = { required = true }",
        ),
        (
            "cuts",
            "new columns, made and written in this order",
            &cuts,
            "year = '{lot} | part 2 by \"-\" | check is digits'",
        ),
        (
            "checks",
            "what must hold for a row as a whole",
            &checks,
            "\"sent after sown\" = '{sent} later than {sown}'",
        ),
    ] {
        let entries = if entries.is_empty() { format!("# {example}\n") } else { entries.clone() };
        let _ = write!(text, "\n[{section}]    # {meaning}\n{entries}");
    }
    text.push_str(
        "\n# [allow]    # in how many rows findings of something are put up with\n# year = \
        \"0.5%\"\n",
    );
    text
}

/// What is demanded of a column, and in comments what nearly holds.
fn rules_of(column: &Surveyed, lists: &mut IndexMap<String, Vec<String>>) -> String {
    let name = &column.name;
    if column.only_place.is_some() {
        return String::new();
    }
    let (mut held, mut odd_ones, mut comments) = (Vec::new(), Vec::new(), String::new());
    for ColumnHolds { what, rows, of } in column.holds.clone() {
        let holds = match what {
            Held::Filled | Held::Unique => rows == of,
            _ => rows * 1000 >= of * HOLDS,
        };
        let rule = match what {
            Held::Filled => "required = true".to_owned(),
            Held::Unique => "unique = true".to_owned(),
            Held::Check(check) => format!("check = {}", plain(&check)),
            Held::OneOf(values) => format!(
                "check = {}",
                plain(&format!("is in {}", list(&values_of(name), values, lists)))
            ),
        };
        let odd = of - rows;
        match holds {
            true if odd == 0 => held.push(rule),
            true => {
                odd_ones.push(format!("{odd} of {of} rows"));
                held.push(rule);
            }
            false => {
                let _ =
                    writeln!(comments, "# {name}: {rule} would hold but for {odd} of {of} rows");
            }
        }
    }
    if held.is_empty() {
        return comments;
    }
    let odd = if odd_ones.is_empty() {
        String::new()
    } else {
        format!("    # not so in {}", odd_ones.join(", "))
    };
    format!("{comments}{} = {}{odd}\n", key(name), table(held.into_iter().map(Some)))
}

/// A proposed cut, with its share of the texts.
fn cut(
    column: &Surveyed,
    proposal: &Proposal,
    only_one: bool,
    lists: &mut IndexMap<String, Vec<String>>,
) -> String {
    let (left, mut cut) = named_cut(column, proposal, only_one);
    // Values that a check lists stand where others can name them.
    if let Some((before, values)) =
        cut.split_once("is in (").and_then(|(before, rest)| Some((before, rest.strip_suffix(')')?)))
    {
        let values: Vec<String> =
            values.split(", ").map(|value| value.trim_matches('"').to_owned()).collect();
        cut = format!("{before}is in {}", list(&format!("{}s", plain_name(&left)), values, lists));
    }
    let filled = column.survey.filled();
    let fits = match filled - proposal.fits {
        0 => String::new(),
        _ if proposal.is_optional() => {
            format!("    # in {} of {filled} rows", proposal.fits)
        }
        odd => format!("    # a finding in {odd} of {filled} rows"),
    };
    format!("{} = {}{fits}\n", key(&left), plain(&cut))
}

/// A scheme that the check digits of a column keep, as a check of the row.
fn check_digit(column: &Surveyed, proposal: &Proposal, scheme: &str) -> String {
    let filled = column.survey.filled();
    let source = column.source();
    let text =
        if proposal.cut.starts_with("digits") { format!("({source} | digits)") } else { source };
    let rule = format!(
        "{} = {}",
        key(&format!("check digit of {}", column.name)),
        plain(&format!("{text} is {scheme}"))
    );
    match filled - proposal.fits {
        0 => format!("{rule}\n"),
        odd if proposal.fits * 1000 >= filled * HOLDS => {
            format!("{rule}    # a finding in {odd} of {filled} rows\n")
        }
        odd => format!("# would hold but for {odd} of {filled} rows:\n# {rule}\n"),
    }
}

/// Puts values into the lists under this name, or another where it is taken by others; returns the
/// name.
fn list(wanted: &str, values: Vec<String>, lists: &mut IndexMap<String, Vec<String>>) -> String {
    if let Some((name, _)) = lists.iter().find(|(_, known)| **known == values) {
        return name.clone();
    }
    let names = std::iter::once(wanted.to_owned()).chain((2..).map(|n| format!("{wanted}{n}")));
    let name = names.into_iter().find(|name| !lists.contains_key(name)).unwrap_or_default();
    lists.insert(name.clone(), values);
    name
}

/// What a list of a column's values is called.
fn values_of(column: &str) -> String {
    format!("{}_values", plain_name(column))
}

/// A proposed cut's left side and its cut: it starts from the column by itself where there is
/// `only_one`, else it names it and its pieces are named after it.
fn named_cut(column: &Surveyed, proposal: &Proposal, only_one: bool) -> (String, String) {
    if only_one {
        return (proposal.names.clone(), proposal.cut_of(&column.source()));
    }
    let beginning = match column.only_place {
        Some(place) => format!("column{place}"),
        None => plain_name(&column.name),
    };
    // A piece that is called after its column would bear that name twice.
    let own = format!("{beginning}2");
    let name = |piece: &str| {
        format!("{beginning}_{}", if piece.trim_end_matches('?') == own { "value" } else { piece })
    };
    let names: Vec<String> = proposal.names.split(", ").map(name).collect();
    (names.join(", "), format!("{0} | {1}", column.source(), proposal.cut_of(&column.source())))
}

/// A name of letters, digits and `_` alone.
fn plain_name(name: &str) -> String {
    let plain: String = name.chars().map(|c| if c.is_alphanumeric() { c } else { '_' }).collect();
    if characters::count(&plain) == 0 { "column".to_owned() } else { plain }
}
