//! `notch tally`: what `check` has counted in the parts of a table, put together.
//!
//! A tally is a file of counts, with the part that it is of, the jig and the columns. It holds
//! texts of findings as a report does, but nothing of the lists.

use std::fs;
use std::path::Path;
use std::process::ExitCode;

use keen_notch_core::{LINES_OF_PART, Tally, TallyPart};
use keen_notch_table::{NewFile, Summary, TableError, Whereabouts};
use serde::{Deserialize, Serialize};

use super::session::shown;
use crate::cli::TallyArgs;
use crate::jig::{Jig, save};
use crate::show::{Outcome, Problem, counted, print, print_json, report, report_json, visible};

/// The version of the form of tallies.
const VERSION: u32 = 1;

/// The counts of a part of a table, as they are kept in a file.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct TallyFile {
    version: u32,
    /// The version of the program that has counted.
    program: String,
    /// The part, which is told from others by its name.
    part: String,
    /// The jig, as far as reports want it.
    jig: String,
    /// The columns of the table.
    columns: Vec<String>,
    read: u64,
    unreadable: u64,
    empty_lines: u64,
    counts: TallyPart,
}

/// Whether a jig can be asked of parts.
///
/// # Errors
/// It asks what all rows must be known for.
pub fn can_be_parted(jig: &Jig) -> Result<(), Problem> {
    match jig.asks_unique() {
        false => Ok(()),
        true => Err(Problem::said(
            "whether texts are unique is known of all rows only, and a tally is of a part of them.",
            "Take is unique and unique = true out of the jig for the parts, and ask the whole table, or what it is a part of.",
        )),
    }
}

/// Writes what was counted of a part.
///
/// # Errors
/// The file cannot be written.
pub fn write(
    path: &Path,
    part: String,
    (jig, columns): (&Jig, &[String]),
    done: &Summary,
) -> Result<(), Problem> {
    let Some(counts) = done.part.clone() else { return Ok(()) };
    let tally = TallyFile {
        version: VERSION,
        program: env!("CARGO_PKG_VERSION").to_owned(),
        part,
        jig: save::text(&jig.for_reports(), Path::new("")),
        columns: columns.to_vec(),
        read: done.read,
        unreadable: done.unreadable,
        empty_lines: done.empty_lines,
        counts,
    };
    let text = serde_json::to_string(&tally).map_err(|error| {
        Problem::said(format!("the tally cannot be written: {error}."), "Leave --tally out.")
    })?;
    let mut file = NewFile::create(path)?;
    file.write(text.as_bytes())?;
    Ok(file.finish()?)
}

pub fn run(args: &TallyArgs) -> Result<ExitCode, Problem> {
    let mut parts = args.parts.iter().map(|path| read(path)).collect::<Result<Vec<_>, _>>()?;
    parts.sort_by(|(_, one), (_, other)| one.part.cmp(&other.part));
    for pair in parts.windows(2) {
        let [(file, one), (other_file, other)] = pair else { continue };
        if one.part == other.part {
            return Err(Problem::said(
                format!("{file} and {other_file} are both of the part {}.", visible(&one.part)),
                "Each part counts once. Parts of one name are told apart by check --part NAME.",
            ));
        }
        if (&one.jig, &one.columns) != (&other.jig, &other.columns) {
            return Err(Problem::said(
                format!(
                    "{file} and {other_file} were counted by different jigs, or of tables with different columns."
                ),
                "Put together what one jig has counted.",
            ));
        }
    }
    let Some((file, first)) = parts.first() else { return Ok(ExitCode::SUCCESS) };
    let jig = Jig::of_text(file, first.jig.clone())?;
    let plan = jig.compile(&first.columns, &jig.plan_options(&first.columns))?;
    let name = match parts.len() {
        1 => first.part.clone(),
        several => counted(several as u64, "part"),
    };
    let total = |count: fn(&TallyFile) -> u64| parts.iter().map(|(_, part)| count(part)).sum();
    let mut done = Summary {
        read: total(|part| part.read),
        unreadable: total(|part| part.unreadable),
        empty_lines: total(|part| part.empty_lines),
        places: Whereabouts::of_parts(
            parts.iter().map(|(_, part)| part.part.as_str()),
            LINES_OF_PART,
        ),
        ..Summary::default()
    };
    let counts = parts.iter().map(|(_, part)| part.counts.clone());
    let Some(tally) = Tally::of_parts(&plan, counts) else {
        return Err(not_a_tally(file, "its counts are not those of its jig"));
    };
    done.tally = tally;
    done.tally.conclude(&plan);
    let outcome = Outcome::of(&jig, &plan, &done, args.drift);
    if args.json {
        print_json(&report_json(&done, &plan, &name, &outcome))?;
    } else {
        print(report(&done, &plan, &name, &outcome, true))?;
    }
    let is_other = outcome.has_findings || !outcome.drifts.is_empty();
    Ok(if is_other { ExitCode::from(1) } else { ExitCode::SUCCESS })
}

/// A tally with the name of its file.
fn read(path: &Path) -> Result<(String, TallyFile), Problem> {
    let name = shown(path);
    let text = fs::read_to_string(path).map_err(|cause| TableError::Io {
        name: name.clone(),
        what: "cannot be read",
        cause,
    })?;
    // A newer form may have other keys, so its version is looked at first.
    #[derive(Deserialize)]
    struct Versioned {
        version: u32,
        program: String,
    }
    let versioned: Versioned =
        serde_json::from_str(&text).map_err(|error| not_a_tally(&name, &error.to_string()))?;
    if versioned.version != VERSION {
        return Err(Problem::said(
            format!(
                "{name} was written by notch {}, in a form that this one does not know.",
                visible(&versioned.program)
            ),
            "Count the parts and put them together with one version.",
        ));
    }
    let tally: TallyFile =
        serde_json::from_str(&text).map_err(|error| not_a_tally(&name, &error.to_string()))?;
    let figures = [tally.read, tally.unreadable, tally.empty_lines];
    if figures.iter().any(|figure| *figure >= LINES_OF_PART) {
        return Err(not_a_tally(&name, "no table has so many rows"));
    }
    Ok((name, tally))
}

fn not_a_tally(name: &str, why: &str) -> Problem {
    Problem::said(
        format!("{name} is no tally: {why}."),
        "Tallies are written by notch check --tally FILE.",
    )
}
