//! A jig written to a file: what several jigs and the command line say together, to use again.

use std::fmt::Write as _;
use std::fs;
use std::path::{Path, PathBuf};

use indexmap::IndexMap;
use keen_notch_table::NewFile;
use toml_edit::{DocumentMut, Item, Key, Table, Value};

use super::file::{ListEntry, Remembered, Write};
use super::{CutExample, Jig, ReadAllowance, ReadColumn, ReadCut};
use crate::show::Problem;

/// Writes a jig; the comments of one that is there already stay beside what they are about.
///
/// # Errors
/// The file cannot be written.
pub fn save(jig: &Jig, path: &Path) -> Result<(), Problem> {
    let text = text(jig, path.parent().unwrap_or(Path::new("")));
    let text = fs::read_to_string(path)
        .ok()
        .and_then(|before| with_comments(&before, &text))
        .unwrap_or(text);
    let mut file = NewFile::create(path)?;
    file.write(text.as_bytes())?;
    Ok(file.finish()?)
}

/// A jig with the comments that an earlier one has; `None` where that is no TOML.
fn with_comments(before: &str, text: &str) -> Option<String> {
    let (mut merged, new): (DocumentMut, DocumentMut) = (before.parse().ok()?, text.parse().ok()?);
    take_over(merged.as_table_mut(), new.as_table());
    let merged = merged.to_string();
    // What stands above everything is about the jig as a whole, and not about a key that may be
    // gone.
    let is_head = |line: &&str| line.starts_with('#') || line.trim().is_empty();
    let head: String = before.split_inclusive('\n').take_while(is_head).collect();
    let merged = if merged.starts_with(&head) { merged } else { head + merged.trim_start() };
    let same: (toml::Table, toml::Table) = (merged.parse().ok()?, text.parse().ok()?);
    (same.0 == same.1).then_some(merged)
}

/// Makes a table say what another says, in its order; entries that say the same already stay as
/// they are written.
fn take_over(table: &mut Table, new: &Table) {
    table.retain(|key, _| new.contains_key(key));
    for (key, item) in new {
        match (table.get_mut(key), item) {
            (Some(Item::Table(table)), Item::Table(new)) => take_over(table, new),
            (Some(Item::Value(known)), Item::Value(value)) => {
                let is_same_text = known.as_str().is_some() && known.as_str() == value.as_str();
                if !is_same_text && known.to_string().trim() != value.to_string().trim() {
                    let decor = known.decor().clone();
                    *known = value.clone();
                    *known.decor_mut() = decor;
                }
            }
            _ => drop(table.insert(key, item.clone())),
        }
    }
    let places: Vec<&str> = new.iter().map(|(key, _)| key).collect();
    let place = |key: &str| places.iter().position(|known| *known == key);
    table.sort_values_by(|one, _, other, _| place(one.get()).cmp(&place(other.get())));
}

/// The jig as TOML, for a file in `folder`.
pub fn text(jig: &Jig, folder: &Path) -> String {
    let mut text = String::new();
    settings(&mut text, jig);
    let lists = jig.list_entries.iter().map(|(name, entry)| (key(name), list(entry, folder)));
    section(&mut text, "lists", lists);
    section(&mut text, "columns", jig.columns.iter().map(column));
    section(&mut text, "cuts", jig.cuts.iter().map(cut));
    let checks = jig.checks.iter().map(|(title, check)| (key(title), plain(&check.rule.text)));
    section(&mut text, "checks", checks);
    let allowed = |allow: &ReadAllowance| (key(&allow.name), plain(&allow.allowance.to_string()));
    section(&mut text, "allow", jig.allow.iter().map(allowed));
    if let Some(known) = &jig.remembered {
        remembered(&mut text, known);
    }
    text
}

/// What is said of the jig as a whole, above its sections.
fn settings(text: &mut String, jig: &Jig) {
    let write = |write: &Write| match write {
        Write::Word(word) => plain(word),
        Write::Columns(columns) => array(columns),
    };
    for (key, value) in [
        ("title", jig.title.as_deref().map(plain)),
        ("column", jig.column.as_deref().map(plain)),
        ("separator", jig.separator.as_deref().map(plain)),
        ("header", jig.header.map(|header| header.to_string())),
        ("where", jig.only_rows.as_ref().map(|rule| plain(&rule.rule.text))),
        ("write", jig.write.as_ref().map(write)),
        ("on_finding", jig.on_finding.map(|action| plain(action.name()))),
    ] {
        if let Some(value) = value {
            let _ = writeln!(text, "{key} = {value}");
        }
    }
}

/// An entry of `[columns]`.
fn column(column: &ReadColumn) -> (String, String) {
    let rule = &column.rule;
    let parts = [
        (!column.also.is_empty()).then(|| format!("also = {}", array(&column.also))),
        rule.required.then(|| "required = true".to_owned()),
        rule.unique.then(|| "unique = true".to_owned()),
        rule.output_type.map(|output_type| format!("as = {}", plain(&output_type.to_string()))),
        rule.check.as_ref().map(|check| format!("check = {}", plain(&check.text))),
    ];
    (key(&rule.column), table(parts))
}

/// An entry of `[cuts]`.
fn cut(cut: &ReadCut) -> (String, String) {
    let more = [
        cut.about.as_ref().map(|about| format!("about = {}", plain(about))),
        cut.replace.then(|| "replace = true".to_owned()),
        cut.on_finding.map(|action| format!("on_finding = {}", plain(action.name()))),
        (!cut.examples.is_empty()).then(|| examples(&cut.examples)),
    ];
    let value = match more.iter().all(Option::is_none) {
        true => plain(&cut.cut),
        false => table([Some(format!("cut = {}", plain(&cut.cut)))].into_iter().chain(more)),
    };
    (key(&cut.left), value)
}

/// `[remembered]` and the sections below it.
fn remembered(text: &mut String, known: &Remembered) {
    let rows = ("rows".to_owned(), known.rows.to_string());
    let drift = known.drift.map(|drift| ("drift".to_owned(), drift.to_string()));
    section(text, "remembered", [rows].into_iter().chain(drift));
    let share =
        |(shape, share): (&String, &f64)| Some(format!("{} = {}", key(shape), Value::from(*share)));
    for (name, columns) in
        [("remembered.shapes", &known.shapes), ("remembered.layouts", &known.layouts)]
    {
        let entry = |(column, shares): (&String, &IndexMap<String, f64>)| {
            (key(column), table(shares.iter().map(share)))
        };
        section(text, name, columns.iter().map(entry));
    }
}

fn section(text: &mut String, name: &str, entries: impl Iterator<Item = (String, String)>) {
    for (n, (key, value)) in entries.enumerate() {
        if n == 0 {
            let between = if text.is_empty() { "" } else { "\n" };
            let _ = writeln!(text, "{between}[{name}]");
        }
        let _ = writeln!(text, "{key} = {value}");
    }
}

/// A name as a key of TOML, in quotes where it must be.
pub(super) fn key(name: &str) -> String {
    Key::new(name).to_string()
}

/// A text, in single quotes where that is possible: cuts are full of double ones.
pub(super) fn plain(text: &str) -> String {
    if text.contains('"')
        && !text.contains(['\'', '\n', '\r', '\t'])
        && !text.contains(char::is_control)
    {
        return format!("'{text}'");
    }
    Value::from(text).to_string()
}

/// Texts in square brackets.
pub(super) fn array(values: &[String]) -> String {
    format!("[{}]", values.iter().map(|value| plain(value)).collect::<Vec<_>>().join(", "))
}

/// Pairs of keys and values in braces.
pub(super) fn table(parts: impl IntoIterator<Item = Option<String>>) -> String {
    format!("{{ {} }}", parts.into_iter().flatten().collect::<Vec<_>>().join(", "))
}

fn list(entry: &ListEntry, folder: &Path) -> String {
    match entry {
        ListEntry::Values(values) => array(values),
        ListEntry::Pairs(pairs) => table(
            pairs.iter().map(|(name, answer)| Some(format!("{} = {}", key(name), plain(answer)))),
        ),
        ListEntry::File(file) => table([
            Some(format!(
                "file = {}",
                plain(&from_folder(Path::new(&file.file), folder).display().to_string())
            )),
            file.column.as_ref().map(|column| format!("column = {}", plain(column))),
            file.gives.as_ref().map(|gives| format!("gives = {}", plain(gives))),
        ]),
    }
}

/// A path as it is called from a folder: the rest of it below the folder, or the whole path from
/// the root.
fn from_folder(path: &Path, folder: &Path) -> PathBuf {
    let whole = |path: &Path| path.canonicalize().unwrap_or_else(|_| path.to_owned());
    let folder = whole(if folder.as_os_str().is_empty() { Path::new(".") } else { folder });
    let path = whole(path);
    path.strip_prefix(&folder).map_or(path.clone(), Path::to_owned)
}

/// The examples of a cut, on one line.
fn examples(examples: &[CutExample]) -> String {
    let example = |example: &CutExample| {
        let pieces = match example.pieces.as_slice() {
            [piece] => plain(piece),
            pieces => array(pieces),
        };
        Some(format!("{} = {pieces}", key(&example.cell)))
    };
    format!("examples = {}", table(examples.iter().map(example)))
}
