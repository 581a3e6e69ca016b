//! The files of a run: none that is read is written over, no two outputs are one file, and what
//! killed runs have left is taken away.

use std::path::{Path, PathBuf};

use keen_notch_table::{
    Source, TableError, is_standard_input, is_standard_output, same_file, shown_path, sweep,
};

use super::session::shown;
use crate::jig::Jig;
use crate::show::{Problem, say};

/// What an output into a database is called: its table may be added to the database that is read.
pub const DATABASE: &str = "the database";

/// Sees to it that no output is a file that is read or another output, by what they are and not by
/// their names; then takes away the parts that killed runs have left where something is to be
/// written. Each output comes with what it is.
///
/// # Errors
/// Two of them are the same file.
pub fn files_differ(
    table: &Path,
    jig: &Jig,
    outputs: &[(&'static str, Option<&PathBuf>)],
) -> Result<(), Problem> {
    let source = Source::from_argument(table);
    let tables = source.files().into_iter().map(|path| ("the table", path));
    let read: Vec<(&str, &Path)> =
        tables.chain(jig.files.iter().map(|(what, path)| (*what, path.as_path()))).collect();
    let outputs: Vec<(&str, &Path)> =
        outputs.iter().filter_map(|(what, path)| Some((*what, path.as_ref()?.as_path()))).collect();
    let name = |(what, path): &(&str, &Path)| format!("{what} {}", shown_path(path));
    let same = |first: String, second: String| Err(TableError::SameFile { first, second }.into());
    if let Some(file) = read.iter().find(|(_, path)| is_standard_output(path)) {
        return same(name(file), "standard output".to_owned());
    }
    for (n, output) in outputs.iter().enumerate().filter(|(_, (_, path))| !is_device(path)) {
        if source.is_standard_input() && is_standard_input(output.1) {
            return same("standard input".to_owned(), name(output));
        }
        let is_added = |(what, _): &&(&str, &Path)| *what == "the table" && output.0 == DATABASE;
        let before = read.iter().filter(|file| !is_added(file)).chain(&outputs[..n]);
        if let Some(file) = before.into_iter().find(|(_, path)| same_file(path, output.1)) {
            return same(name(file), name(output));
        }
    }
    let mut folders: Vec<&Path> = outputs.iter().filter_map(|(_, path)| path.parent()).collect();
    folders.sort_unstable();
    folders.dedup();
    for folder in folders {
        let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
        for part in sweep(folder) {
            say(format_args!(
                "{} was left by a run that was killed, and is taken away.\n",
                shown(&part)
            ));
        }
    }
    Ok(())
}

fn is_device(path: &Path) -> bool {
    path.metadata().is_ok_and(|metadata| !metadata.is_file() && !metadata.is_dir())
}
