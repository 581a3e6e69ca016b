//! `notch tally`: what `carve`, `check` or `survey` has counted in the parts of a table, put
//! together.
//!
//! A tally is a file of counts, with the part that it is of. It holds texts of findings as a report
//! does, and of a survey some of the texts; nothing of the lists.

use std::fs;
use std::path::Path;
use std::process::ExitCode;

use keen_notch_core::{
    ColumnOverview, Glance, LINES_OF_PART, OverviewPart, Plan, Tally, TallyPart,
};
use keen_notch_table::{NewFile, Summary, TableError, Whereabouts};
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::session::shown;
use crate::cli::{TallyArgs, TallyOptions};
use crate::jig::{Jig, save};
use crate::show::{
    Outcome, Problem, WentTo, counted, glance_json, overview, print, print_json, report,
    report_json, summary, visible,
};

/// The version of the form of tallies.
const VERSION: u32 = 2;

/// What was counted of a part of a table, as it is kept in a file.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct TallyFile {
    version: u32,
    /// The version of the program that has counted.
    program: String,
    /// The part, which is told from others by its name.
    part: String,
    /// The columns of the table.
    columns: Vec<String>,
    counted: Counted,
}

#[derive(Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Counted {
    Carve(Box<Run>),
    Check(Box<Run>),
    Survey(Surveyed),
}

/// What a run over all rows has counted.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Run {
    /// The jig, as far as reports want it.
    jig: String,
    read: u64,
    written: u64,
    rejected: u64,
    left_out: u64,
    unreadable: u64,
    empty_lines: u64,
    counts: TallyPart,
}

#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Surveyed {
    unreadable: u64,
    /// Each column at a glance.
    columns: Vec<OverviewPart>,
}

/// Which command has counted a part.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum RunOf {
    Carve,
    Check,
}

/// Writes what a run has counted of a part, where a file is given for it; the part is called as the
/// options say, else as the table.
///
/// # Errors
/// The file cannot be written.
pub fn write_run(
    options: &TallyOptions,
    table: &str,
    (of, jig, columns): (RunOf, &Jig, &[String]),
    done: &Summary,
) -> Result<(), Problem> {
    let Some(counts) = done.part.clone() else { return Ok(()) };
    let run = Box::new(Run {
        jig: save::text(&jig.for_reports(), Path::new("")),
        read: done.read,
        written: done.written,
        rejected: done.rejected,
        left_out: done.left_out,
        unreadable: done.unreadable,
        empty_lines: done.empty_lines,
        counts,
    });
    let counted = match of {
        RunOf::Carve => Counted::Carve(run),
        RunOf::Check => Counted::Check(run),
    };
    write(options, table, columns, counted)
}

/// Writes what the columns of a part are at a glance, as [`write_run`] does.
///
/// # Errors
/// The file cannot be written.
pub fn write_survey(
    options: &TallyOptions,
    table: &str,
    columns: &[String],
    (seen, unreadable): (Vec<OverviewPart>, u64),
) -> Result<(), Problem> {
    write(options, table, columns, Counted::Survey(Surveyed { unreadable, columns: seen }))
}

fn write(
    options: &TallyOptions,
    table: &str,
    columns: &[String],
    counted: Counted,
) -> Result<(), Problem> {
    let Some(path) = &options.file else { return Ok(()) };
    let tally = TallyFile {
        version: VERSION,
        program: env!("CARGO_PKG_VERSION").to_owned(),
        part: options.part.clone().unwrap_or_else(|| table.to_owned()),
        columns: columns.to_vec(),
        counted,
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
    are_of_one_table(&parts)?;
    let Some((file, first)) = parts.first() else { return Ok(ExitCode::SUCCESS) };
    let name = match parts.len() {
        1 => first.part.clone(),
        several => counted(several as u64, "part"),
    };
    let places =
        Whereabouts::of_parts(parts.iter().map(|(_, part)| part.part.as_str()), LINES_OF_PART);
    let (file, columns, jig) = (file.clone(), first.columns.clone(), first.counted.jig());
    let Some(jig) = jig.map(|text| Jig::of_text(&file, text.to_owned())).transpose()? else {
        return surveyed(args, &name, &columns, parts);
    };
    let is_carved = matches!(first.counted, Counted::Carve(_));
    let plan = jig.compile(&columns, &jig.plan_options(&columns))?;
    let runs = parts.into_iter().filter_map(|(_, part)| part.counted.run());
    let Some(done) = put_together(&plan, runs, places) else {
        return Err(not_a_tally(&file, "its counts are not those of its jig"));
    };
    let outcome = Outcome::of(&jig, &plan, &done, args.drift);
    let mut values = report_json(&done, &plan, &name, &outcome);
    if is_carved {
        values["written"] = done.written.into();
        values["rejected"] = done.rejected.into();
        values["left_out"] = done.left_out.into();
    }
    match (args.json, is_carved) {
        (true, _) => print_json(&values)?,
        (false, true) => {
            print(summary(&done, &plan, &name, &WentTo::Standard, &outcome, true))?;
        }
        (false, false) => print(report(&done, &plan, &name, &outcome, true))?,
    }
    let is_other = outcome.has_findings || !outcome.drifts.is_empty();
    Ok(if is_other { ExitCode::from(1) } else { ExitCode::SUCCESS })
}

/// Whether tallies, in the order of their parts, are of one table, each of another part.
fn are_of_one_table(parts: &[(String, TallyFile)]) -> Result<(), Problem> {
    for pair in parts.windows(2) {
        let [(file, one), (other_file, other)] = pair else { continue };
        if one.part == other.part {
            return Err(Problem::said(
                format!("{file} and {other_file} are both of the part {}.", visible(&one.part)),
                "Each part counts once. Parts of one name are told apart by --part NAME.",
            ));
        }
        if one.counted.command() != other.counted.command() {
            return Err(Problem::said(
                format!(
                    "{file} is of notch {}, {other_file} of notch {}.",
                    one.counted.command(),
                    other.counted.command()
                ),
                "Put together what one command has counted.",
            ));
        }
        if (one.counted.jig(), &one.columns) != (other.counted.jig(), &other.columns) {
            return Err(Problem::said(
                format!(
                    "{file} and {other_file} were counted by different jigs, or of tables with \
                    different columns."
                ),
                "Put together what one jig has counted of parts with the same columns.",
            ));
        }
    }
    Ok(())
}

/// What one run over all parts would have counted; `None` where the counts of one are not those of
/// the plan.
fn put_together(
    plan: &Plan,
    runs: impl Iterator<Item = Run>,
    places: Whereabouts,
) -> Option<Summary> {
    let mut done = Summary { places, ..Summary::default() };
    let mut counts = Vec::new();
    for run in runs {
        done.read += run.read;
        done.written += run.written;
        done.rejected += run.rejected;
        done.left_out += run.left_out;
        done.unreadable += run.unreadable;
        done.empty_lines += run.empty_lines;
        counts.push(run.counts);
    }
    done.tally = Tally::of_parts(plan, counts)?;
    done.tally.conclude(plan);
    Some(done)
}

/// Prints what the columns of all parts are at a glance.
fn surveyed(
    args: &TallyArgs,
    name: &str,
    columns: &[String],
    parts: Vec<(String, TallyFile)>,
) -> Result<ExitCode, Problem> {
    if args.drift.is_some() {
        return Err(Problem::said(
            "--drift is about what a jig remembers, and these are tallies of a survey.",
            "Leave it out.",
        ));
    }
    let mut unreadable = 0;
    let mut of_columns: Vec<Vec<OverviewPart>> = columns.iter().map(|_| Vec::new()).collect();
    for (file, part) in parts {
        let Counted::Survey(survey) = part.counted else { continue };
        if survey.columns.len() != columns.len()
            || !survey.columns.iter().all(OverviewPart::is_sound)
        {
            return Err(not_a_tally(&file, "its counts are not those of its columns"));
        }
        unreadable += survey.unreadable;
        of_columns.iter_mut().zip(survey.columns).for_each(|(all, part)| all.push(part));
    }
    let glance = |parts| ColumnOverview::of_parts(parts).glance();
    let seen: Vec<(String, Glance)> =
        columns.iter().cloned().zip(of_columns.into_iter().map(glance)).collect();
    if args.json {
        let columns: Vec<_> = seen.iter().map(|(name, seen)| glance_json(name, seen)).collect();
        print_json(&json!({
            "version": 1,
            "table": name,
            "unreadable": unreadable,
            "columns": columns,
        }))?;
    } else {
        print(overview(&seen, name, unreadable))?;
    }
    Ok(ExitCode::SUCCESS)
}

impl Counted {
    fn command(&self) -> &'static str {
        match self {
            Counted::Carve(_) => "carve",
            Counted::Check(_) => "check",
            Counted::Survey(_) => "survey",
        }
    }

    /// The jig of a run.
    fn jig(&self) -> Option<&str> {
        match self {
            Counted::Carve(run) | Counted::Check(run) => Some(&run.jig),
            Counted::Survey(_) => None,
        }
    }

    fn run(self) -> Option<Run> {
        match self {
            Counted::Carve(run) | Counted::Check(run) => Some(*run),
            Counted::Survey(_) => None,
        }
    }

    /// Its counts of rows.
    fn figures(&self) -> Vec<u64> {
        match self {
            Counted::Carve(run) | Counted::Check(run) => vec![
                run.read,
                run.written,
                run.rejected,
                run.left_out,
                run.unreadable,
                run.empty_lines,
            ],
            Counted::Survey(survey) => vec![survey.unreadable],
        }
    }
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
    if tally.counted.figures().iter().any(|figure| *figure >= LINES_OF_PART) {
        return Err(not_a_tally(&name, "no table has that many rows"));
    }
    Ok((name, tally))
}

fn not_a_tally(name: &str, why: &str) -> Problem {
    Problem::said(
        format!("{name} is no tally: {why}."),
        "Tallies are written by notch carve, check and survey, with --tally FILE.",
    )
}
