//! The lists of a jig, from the jig itself or from files beside it. What is in a file is never
//! shown: a jig may name any.

use std::fs::File;
use std::io::Read;
use std::path::Path;

use keen_notch_core::List;
use keen_notch_table::{ReadOptions, Source, Table, TableError, Unreadable, each_row_of};

use super::file::{ListEntry, ListFile};
use crate::show::Problem;

/// Makes a list of what the jig says of it; files are sought in `folder`.
///
/// # Errors
/// A file that is missing, empty or without the column, or a key with two answers.
pub fn list(name: &str, entry: &ListEntry, folder: &Path) -> Result<List, Problem> {
    match entry {
        ListEntry::Values(values) => Ok(List::of_values(values)),
        ListEntry::Pairs(pairs) => List::of_pairs(pairs).map_err(|two| {
            Problem::said(
                format!("the list {name} says two things of one key: {two}."),
                TWO_ANSWERS,
            )
        }),
        ListEntry::File(file) => from_file(name, file, folder),
    }
}

const TWO_ANSWERS: &str = "Each key stands for one thing. Take one of the two out.";
/// How many bytes a list of lines may have.
const LONGEST: u64 = 64 * 1024 * 1024;

fn from_file(name: &str, file: &ListFile, folder: &Path) -> Result<List, Problem> {
    let path = folder.join(&file.file);
    let empty = || {
        Problem::said(
            format!("the list {name} is empty: there is no value in {}.", path.display()),
            "A list has at least one value.",
        )
    };
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
            Problem::said(
                format!(
                    "the list {name} wants the column {wanted} of {}, which is not there.",
                    path.display()
                ),
                "Look at the header of the file: notch survey FILE.",
            )
        })
    };
    let key = place(column)?;
    let answer = file.gives.as_deref().map(place).transpose()?;
    let columns = [key, answer.unwrap_or(key)];
    let (mut list, mut added) = (List::default(), Ok(()));
    let name_of_table = table.name().to_owned();
    each_row_of(table, &columns, |_, line, cells| {
        let reason = Unreadable::OfList;
        let cells = cells.map_err(|_| TableError::Row {
            name: name_of_table.clone(),
            line,
            reason,
            rows_gone: false,
        })?;
        let [key, stands_for] = cells else { return Ok(()) };
        match (key.trim(), answer) {
            ("", _) => {}
            (key, None) => list.add_value(key),
            (key, Some(_)) if added.is_ok() => {
                added = list.add_pair(key, stands_for.trim()).map_err(|_| line)
            }
            (_, Some(_)) => {}
        }
        Ok(())
    })?;
    added.map_err(|line| {
        let message = format!(
            "the list {name} says two things of one key in {}, the second in line {line}.",
            path.display()
        );
        Problem::said(message, TWO_ANSWERS)
    })?;
    if list.is_empty() { Err(empty()) } else { Ok(list) }
}

/// One value a line, without the white space around it; lines with nothing in them are passed over.
fn lines(path: &Path) -> Result<List, Problem> {
    let name = path.display().to_string();
    let mut bytes = Vec::new();
    let read = File::open(path).and_then(|file| file.take(LONGEST + 1).read_to_end(&mut bytes));
    read.map_err(|cause| TableError::Io { name: name.clone(), what: "cannot be read", cause })?;
    if bytes.len() as u64 > LONGEST {
        let remedy =
            "A list has one value a line; a table of that size is read with column and gives.";
        return Err(Problem::said(
            format!("{name} has more than {} MiB, which is more than a list has.", LONGEST >> 20),
            remedy,
        ));
    }
    let text = std::str::from_utf8(&bytes).map_err(|error| {
        let line = bytes[..error.valid_up_to()].iter().filter(|byte| **byte == b'\n').count() + 1;
        Problem::said(
            format!("{name}, line {line}: the bytes are not UTF-8 text."),
            "Save the list as UTF-8 text.",
        )
    })?;
    let values = text
        .trim_start_matches('\u{feff}')
        .lines()
        .map(str::trim)
        .filter(|value| !value.is_empty());
    Ok(List::of_values(values))
}
