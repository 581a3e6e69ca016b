//! What a source says of itself beside its content: its name, its ending, its first lines.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::path::Path;

use crate::error::TableError;
use crate::formats::csv::Records;
use crate::input::decompress;
use crate::input::source::Source;
use crate::options::ReadOptions;

pub(super) fn no_database(name: &str) -> TableError {
    let remedy = "Leave --query, --table-name and --timeout out.";
    TableError::no_table(name, "is no database.", remedy)
}

/// A sign that stands equally often in each of the first lines of a text, header included, and how
/// often: it may divide columns.
pub(super) fn likely_separator(beginning: &[u8]) -> Option<(char, usize)> {
    let text = String::from_utf8_lossy(beginning);
    let lines: Vec<&str> = text.lines().filter(|line| !line.is_empty()).take(LOOKED_AT).collect();
    // The last line may be cut off.
    let whole = if lines.len() == LOOKED_AT || text.ends_with('\n') {
        &lines[..]
    } else {
        &lines[..lines.len().saturating_sub(1)]
    };
    let count = |sign: char| {
        let counts: Vec<usize> = whole.iter().map(|line| line.matches(sign).count()).collect();
        let first = *counts.first()?;
        (counts.len() > 1 && first > 0 && counts.iter().all(|count| *count == first))
            .then_some((sign, first))
    };
    // The likeliest first; `.`, `-`, `_` and blanks stand in names, dates and codes.
    "^~#|;\t,!*%&$=+:/\\".chars().find_map(count)
}

/// How many archives may stand one within the other.
pub(super) const MOST_ARCHIVES: usize = 8;

/// How many lines are looked at for a separator.
pub(super) const LOOKED_AT: usize = 20;

/// A file that can be read from any place: the source itself where it is a plain file, else a copy
/// of what was unpacked or piped.
pub(super) fn whole_file(
    source: &Source,
    records: Records<Box<dyn Read + Send>>,
    name: &str,
) -> Result<File, TableError> {
    if let Some(file) = source.file()?
        && !is_packed(&file)
    {
        return Ok(file);
    }
    let copy = tempfile::tempfile().and_then(|mut copy| {
        io::copy(&mut records.into_rest(), &mut copy)?;
        copy.seek(SeekFrom::Start(0)).map(|_| copy)
    });
    copy.map_err(|cause| TableError::io(name, "cannot be copied to a temporary file", cause))
}

/// Whether a file is compressed as a whole.
pub(super) fn is_packed(mut file: &File) -> bool {
    let mut first = [0; 4];
    let is_packed = file.read_exact(&mut first).is_ok() && decompress::is_packed(&first);
    let _ = file.seek(SeekFrom::Start(0));
    is_packed
}

/// What names its columns itself is read without the options that say where a header is.
pub(super) fn names_itself(
    name: &str,
    what: &str,
    options: &ReadOptions,
) -> Result<(), TableError> {
    if options.is_for_workbooks() || options.no_header || options.separator.is_some() {
        let remedy = "Its columns have names: leave --sheet, --sheet-column, --header-row, \
            --no-header and --separator out.";
        return Err(TableError::no_table(name, format!("{what}."), remedy));
    }
    Ok(())
}

/// The ending of a file in lower case; of a compressed one the ending before that of its
/// compression.
pub(super) fn inner_ending(source: &Source) -> Option<String> {
    let ending =
        |path: &Path| path.extension().map(|ending| ending.to_string_lossy().to_lowercase());
    let path = source.path()?;
    match ending(path).as_deref() {
        Some("gz" | "zst" | "bz2") => ending(&path.with_extension("")),
        _ => ending(path),
    }
}

/// Whether a file's ending says that it is separated text.
pub(super) fn says_text(source: &Source) -> bool {
    matches!(inner_ending(source).as_deref(), Some("csv" | "tsv" | "txt" | "tab"))
}

/// Whether a file's ending says that it is a workbook.
pub(super) fn says_book(source: &Source) -> bool {
    matches!(inner_ending(source).as_deref(), Some("xlsx" | "xlsm" | "ods" | "xls" | "xlsb"))
}

/// A file whose ending says something else than its content would be read by the next program as
/// what it is not.
pub(super) fn ending_is_true(source: &Source, is_book: bool) -> Result<(), TableError> {
    let (says_book, says_text) = (says_book(source), says_text(source));
    if !says_book && !says_text {
        return Ok(());
    }
    let name = source.name();
    match (says_book, is_book) {
        (true, false) => Err(TableError::no_table(
            &name,
            "is called a workbook and is none.",
            "If it is a text table, call it so: FILE.csv.",
        )),
        (false, true) => Err(TableError::no_table(
            &name,
            "is called a text table and is a workbook.",
            "Call it what it is: FILE.xlsx or FILE.ods.",
        )),
        _ => Ok(()),
    }
}
