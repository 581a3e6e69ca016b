//! `notch survey`: look before cutting.

use std::process::ExitCode;

use notch_core::{ColumnOverview, ColumnSurvey, Glance, characters, parse_assignment};
use notch_table::{Source, Table, TableError, gather_rows};
use serde_json::json;

use super::second_pass::second_pass;
use super::work::{files_differ, say_notices, shown};
use crate::cli::Survey;
use crate::jig::{Jig, ReadCut, save};
use crate::show::{Problem, Surveyed, overview, page, print, say, survey_json, watch_for_interrupts};

pub fn run(args: &Survey) -> Result<ExitCode, Problem> {
    let files = [("the jig to be saved", &args.save_jig), ("the findings file", &args.findings)];
    let files: Vec<(&str, &std::path::Path)> = files.iter().filter_map(|(what, path)| Some((*what, path.as_deref()?))).collect();
    files_differ(&args.table, &files)?;
    let mut source = Source::from_argument(&args.table);
    // What a column is like must be known before its odd rows are, and before the cuts that suit it are tried.
    let is_read_twice = args.column.is_some() || args.json || args.findings.is_some();
    if is_read_twice {
        source = source.to_be_read_again()?;
    }
    let table = Table::open(&source, &args.reading.options())?;
    say_notices(&table);
    let (name, names, whereabouts) = (table.name().to_owned(), table.columns().to_vec(), table.whereabouts());
    let places = match &args.column {
        Some(column) => vec![place(column, &names)?],
        None => (0..names.len()).collect(),
    };
    let step = args.sample.map_or(1, |wanted| sample_step(&args.table, wanted));
    let name_of = |place: &usize| names[*place].clone();
    if !is_read_twice && args.save_jig.is_none() && step == 1 {
        let how = Gathering {
            whole: ColumnOverview::default,
            part: ColumnOverview::part,
            add: ColumnOverview::add,
            merge: ColumnOverview::merge,
        };
        let (seen, unreadable) = gather(table, &places, step, &how)?;
        let seen: Vec<(String, Glance)> = places.iter().map(name_of).zip(seen.iter().map(ColumnOverview::glance)).collect();
        print(overview(&seen, &name, unreadable))?;
        return Ok(ExitCode::SUCCESS);
    }
    // Of a sample all rows can be looked at closely.
    let add = if step == 1 { ColumnSurvey::add } else { ColumnSurvey::add_closely };
    let how = Gathering { whole: ColumnSurvey::default, part: ColumnSurvey::part, add, merge: ColumnSurvey::merge };
    let (surveys, unreadable) = gather(table, &places, step, &how)?;
    if step > 1 {
        say(format_args!("Every {step}th row was looked at; the figures are those of the sample.\n"));
    }
    let surveyed = |(name, survey): (String, ColumnSurvey)| Surveyed {
        name,
        troubles: survey.troubles(),
        proposals: survey.proposals(&names),
        survey,
    };
    let mut columns: Vec<Surveyed> = places.iter().map(name_of).zip(surveys).map(surveyed).collect();
    let mut listed = 0;
    if is_read_twice {
        let table = Table::open(&source, &args.reading.options())?;
        listed = second_pass(table, &places, step, &mut columns, args.findings.as_deref())?;
    }
    let has_cuts = columns.iter().any(|column| !column.proposals.is_empty());
    if let Some(path) = args.save_jig.as_ref().filter(|_| has_cuts) {
        let column = args.column.as_ref().map(|_| columns[0].name.clone());
        save::save(&jig(&columns, column)?, path)?;
    }
    if args.json {
        let columns: Vec<_> = columns.iter().map(|column| survey_json(column, &whereabouts)).collect();
        print(format_args!("{:#}\n", json!({ "version": 1, "table": name, "unreadable": unreadable, "columns": columns })))?;
    } else if args.column.is_some() {
        print(page(&columns[0], &name, &whereabouts, unreadable))?;
    } else {
        let seen: Vec<(String, Glance)> = columns.iter().map(|column| (column.name.clone(), column.survey.glance())).collect();
        print(overview(&seen, &name, unreadable))?;
    }
    if let Some(path) = &args.findings {
        let texts = if listed == 1 { "text is" } else { "texts are" };
        say(format_args!("{listed} odd {texts} listed in {}.\n", shown(path)));
    }
    match &args.save_jig {
        Some(path) if has_cuts => say(format_args!("The cuts are in {0}: notch carve TABLE -j {0}\n", shown(path))),
        Some(path) => say(format_args!("No cut is proposed, so {} was not written.\n", shown(path))),
        None => {}
    }
    Ok(ExitCode::SUCCESS)
}

/// What is gathered of a column: an empty whole, an empty part, how a cell is added to one, and a part to the whole.
struct Gathering<G> {
    whole: fn() -> G,
    part: fn() -> G,
    add: fn(&mut G, &str, u64, u64),
    merge: fn(&mut G, &mut G),
}

/// Gathers what is to be known of the columns at these places, of every `step`th row; gives how many rows cannot be read.
fn gather<G: Send>(table: Table, places: &[usize], step: u64, how: &Gathering<G>) -> Result<(Vec<G>, u64), TableError> {
    let each = |begin: fn() -> G| (places.iter().map(|_| begin()).collect::<Vec<G>>(), 0);
    gather_rows(
        table,
        places,
        Some(watch_for_interrupts()),
        each(how.whole),
        || each(how.part),
        |(columns, unreadable), place, row, line, cell| match cell {
            // Divisions are dear, and mostly there is no sample.
            Some(cell) if step == 1 || (row - 1) % step == 0 => (how.add)(&mut columns[place], cell, row, line),
            Some(_) => {}
            None => *unreadable += 1,
        },
        |(all, all_unreadable), (columns, unreadable)| {
            *all_unreadable += std::mem::take(unreadable);
            all.iter_mut().zip(columns).for_each(|(column, part)| (how.merge)(column, part));
            Ok(())
        },
    )
}

/// The column of this name, or of this place.
fn place(column: &str, names: &[String]) -> Result<usize, Problem> {
    let inside = column.trim_start_matches('{').trim_end_matches('}');
    let by_place = inside.strip_prefix("column ").and_then(|figure| figure.trim().parse::<usize>().ok()).map(|place| place.wrapping_sub(1));
    names.iter().position(|name| name == inside).or(by_place.filter(|place| *place < names.len())).ok_or_else(|| {
        let near =
            notch_core::nearest(inside, names.iter().map(String::as_str)).map_or(String::new(), |near| format!("The nearest is {near}. "));
        Problem::said(format!("there is no column {inside}."), format!("{near}The columns are: {}.", names.join(", ")))
    })
}

/// Every how many rows one is looked at, so that about as many as wanted are; a file says its size, a row is taken to have a hundred bytes.
fn sample_step(path: &std::path::Path, wanted: u64) -> u64 {
    let bytes = path.metadata().map_or(0, |metadata| metadata.len());
    (bytes / 100 / wanted.max(1)).max(1)
}

/// The proposals as a jig; cuts of several columns are named after theirs.
fn jig(columns: &[Surveyed], column: Option<String>) -> Result<Jig, Problem> {
    let mut jig = Jig { title: Some("Proposed by notch survey".to_owned()), column: column.clone(), ..Jig::default() };
    for Surveyed { name, proposals, .. } in columns {
        for proposal in proposals {
            let own: Vec<String> =
                proposal.names.split(", ").map(|piece| if column.is_some() { piece.to_owned() } else { named(name, piece) }).collect();
            let source = if column.is_some() { String::new() } else { format!("{{{name}}} | ") };
            let cut = format!("{source}{}", proposal.cut);
            // A name that the table has is taken by the table.
            let left = own.join(", ");
            let assignment = parse_assignment(&format!("{left} = {cut}")).map_err(|error| {
                Problem::said(format!("the proposed cut {left} = {cut} cannot be read: {error}."), "This is a mistake in notch survey.")
            })?;
            jig.cuts.push(ReadCut {
                assignment,
                left,
                cut,
                place: crate::jig::Place::CommandLine,
                about: None,
                replace: false,
                on_finding: None,
            });
        }
    }
    Ok(jig)
}

/// The name of a piece together with that of its column.
fn named(column: &str, piece: &str) -> String {
    let plain: String = column.chars().map(|c| if c.is_alphanumeric() { c } else { '_' }).collect();
    let plain = if characters::count(&plain) == 0 { "column".to_owned() } else { plain };
    format!("{plain}_{piece}")
}
