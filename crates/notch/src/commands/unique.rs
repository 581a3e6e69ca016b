//! What is unique in a table in parts: `--gather` writes the texts that must be, one a line, and
//! those that stand there more than once in all parts together are given to `--twice`.
//!
//! A line is a JSON list of what asks for the text, by its number from 0, and the text. Lines are
//! the same where the texts are, so any program that sorts can find them: `sort | uniq -d`.

use std::fs::File;
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::sync::Arc;

use keen_notch_core::{AllRows, Plan};
use keen_notch_table::{NewFile, TableError, unique_texts};
use serde_json::json;

use super::session::{Session, shown};
use crate::jig::Jig;
use crate::show::{Problem, counted, say, visible};

/// Writes the texts of a table that its jig wants to be unique.
///
/// # Errors
/// The jig asks for none, the table cannot be read, or the file not be written.
pub fn gather(work: Session, path: &Path) -> Result<(), Problem> {
    if !work.plan.needs_all_rows() {
        return Err(asks_for_none());
    }
    let name = work.table.name().to_owned();
    drop(work.table);
    let mut file = NewFile::create(path)?;
    let mut texts = 0;
    unique_texts(&work.source, &work.options, &work.plan, |place, text| {
        texts += 1;
        file.write(format!("{}\n", json!([place, text])).as_bytes())
    })?;
    file.finish()?;
    say(format_args!(
        "{} of {} that must be unique, in {}. Those that all parts together have twice: sort FILES \
        | uniq -d > twice.txt\n",
        counted(texts, "text"),
        visible(&name),
        shown(path)
    ));
    Ok(())
}

/// What is known of all parts of a table by the texts that they have twice, where a file has them.
///
/// # Errors
/// The jig asks for nothing that is unique, the file cannot be read, or a line was not written by
/// [`gather`] for this jig.
pub fn known(path: Option<&Path>, plan: &Plan) -> Result<Option<Arc<AllRows>>, Problem> {
    let Some(path) = path else { return Ok(None) };
    if !plan.needs_all_rows() {
        return Err(asks_for_none());
    }
    let name = shown(path);
    let failed = |cause| TableError::Io { name: name.clone(), what: "cannot be read", cause };
    let mut texts: Vec<(usize, String)> = Vec::new();
    for (line, n) in BufReader::new(File::open(path).map_err(failed)?).lines().zip(1_u64..) {
        let line = line.map_err(failed)?;
        texts.push(serde_json::from_str(&line).map_err(|_| not_gathered(&name, n))?);
    }
    AllRows::of_texts(plan, texts)
        .map(|all_rows| Some(Arc::new(all_rows)))
        .map_err(|line| not_gathered(&name, line))
}

/// Whether a jig can be asked of a part of a table.
///
/// # Errors
/// It asks what all rows must be known for, and no file says it.
pub fn can_be_parted(jig: &Jig, twice: Option<&Path>) -> Result<(), Problem> {
    if !jig.asks_unique() || twice.is_some() {
        return Ok(());
    }
    Err(Problem::said(
        "whether texts are unique is known of all rows only, and a tally is of a part of them.",
        "First gather the texts of each part: notch check PART --gather FILE. What stands there \
        twice, by sort FILES | uniq -d, goes to --twice FILE.",
    ))
}

fn asks_for_none() -> Problem {
    Problem::said(
        "the jig asks nowhere whether a text is unique.",
        "Leave --gather and --twice out.",
    )
}

fn not_gathered(name: &str, line: u64) -> Problem {
    Problem::said(
        format!("line {line} of {name} was not written by --gather for this jig."),
        "Gather the texts of all parts with the jig that they are checked by.",
    )
}
