//! The lists of a jig, from the jig itself or from files beside it.

use std::fs;
use std::path::Path;

use notch_core::{List, nearest};
use notch_table::{ReadOptions, Source, Table, TableError, each_row_of};

use super::file::{ListEntry, ListFile};
use crate::show::Problem;

/// Makes a list of what the jig says of it; files are sought in `folder`.
///
/// # Errors
/// A file that is missing, empty or without the column, or a key with two answers.
pub fn list(name: &str, entry: &ListEntry, folder: &Path) -> Result<List, Problem> {
    match entry {
        ListEntry::Values(values) => Ok(List::of_values(values)),
        ListEntry::Pairs(pairs) => List::of_pairs(pairs).map_err(|two| two_answers(name, "", &two)),
        ListEntry::File(file) => from_file(name, file, folder),
    }
}

fn two_answers(name: &str, place: &str, two: &notch_core::TwoAnswers) -> Problem {
    Problem::said(
        format!("the list {name} says two things of one key{place}: {two}."),
        "Each key stands for one thing. Take one of the two out.",
    )
}

fn from_file(name: &str, file: &ListFile, folder: &Path) -> Result<List, Problem> {
    let path = folder.join(&file.file);
    let empty =
        || Problem::said(format!("the list {name} is empty: there is no value in {}.", path.display()), "A list has at least one value.");
    let Some(column) = &file.column else {
        if file.gives.is_some() {
            return Err(Problem::said(
                format!("the list {name} has the key gives without column."),
                "Say which column holds the keys as well: column = \"…\".",
            ));
        }
        let list = lines(&path)?;
        return if list.is_empty() { Err(empty()) } else { Ok(list) };
    };
    let source = Source::File(path.clone());
    let table = Table::open(&source, &ReadOptions::default())?;
    let place = |wanted: &str| {
        let known = table.columns();
        known.iter().position(|column| column == wanted).ok_or_else(|| {
            let near = nearest(wanted, known.iter().map(String::as_str)).map_or(String::new(), |near| format!("The nearest is {near}. "));
            Problem::said(
                format!("the list {name} wants the column {wanted} of {}, which is not there.", path.display()),
                format!("{near}The columns are: {}.", known.join(", ")),
            )
        })
    };
    let key = place(column)?;
    let answer = file.gives.as_deref().map(place).transpose()?;
    let columns = [key, answer.unwrap_or(key)];
    let (mut list, mut added) = (List::default(), Ok(()));
    let name_of_table = table.name().to_owned();
    each_row_of(table, &columns, |_, line, cells| {
        let cells = cells.map_err(|reason| TableError::Row { name: name_of_table.clone(), line, reason, rows_gone: false })?;
        let [key, stands_for] = cells else { return Ok(()) };
        match (key.trim(), answer) {
            ("", _) => {}
            (key, None) => list.add_value(key),
            (key, Some(_)) if added.is_ok() => added = list.add_pair(key, stands_for.trim()),
            (_, Some(_)) => {}
        }
        Ok(())
    })?;
    added.map_err(|two| two_answers(name, &format!(" in {}", path.display()), &two))?;
    if list.is_empty() { Err(empty()) } else { Ok(list) }
}

/// One value a line, without the white space around it; lines with nothing in them are passed over.
fn lines(path: &Path) -> Result<List, Problem> {
    let name = path.display().to_string();
    let bytes = fs::read(path).map_err(|cause| TableError::Io { name: name.clone(), what: "cannot be read", cause })?;
    let text = std::str::from_utf8(&bytes).map_err(|error| {
        let line = bytes[..error.valid_up_to()].iter().filter(|byte| **byte == b'\n').count() + 1;
        Problem::said(format!("{name}, line {line}: the bytes are not UTF-8 text."), "Save the list as UTF-8 text.")
    })?;
    let values = text.trim_start_matches('\u{feff}').lines().map(str::trim).filter(|value| !value.is_empty());
    Ok(List::of_values(values))
}
