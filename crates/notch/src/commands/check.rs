//! `notch check`: is every row as the jig expects?

use std::process::ExitCode;

use keen_notch_core::{Layouts, Plan};
use keen_notch_table::{
    Carving, Finished, FirstPass, OutColumn, Part, Row, RowFormat, RowSink, Source, Table,
    TableError, carve, look_through,
};

use super::files::files_differ;
use super::session::{Session, say_hints, shown, with_column};
use crate::cli::Check;
use crate::ends::interrupted;
use crate::jig::runs::PastRun;
use crate::jig::{Action, baseline, column_layouts, runs};
use crate::pages::{FindingsList, PageHead, check_page, findings_of, save_page};
use crate::show::{
    Bar, Outcome, Problem, counts_in_words, print, print_json, report, report_json, say, verdict,
};

pub fn run(args: &Check) -> Result<ExitCode, Problem> {
    let mut jig = args
        .making
        .read()
        .map_err(|problem| with_column(problem, &args.table, &args.making.reading))?;
    if jig.cuts.is_empty() && jig.columns.is_empty() && jig.checks.is_empty() {
        return Err(Problem::said(
            "there is nothing to check.",
            "Give a jig with cuts, columns or checks: notch check lots.csv -j lots.toml. A first one is written from what the table looks like \
             by notch jig new lots.csv -o lots.toml; notch jig --help shows a short one.",
        ));
    }
    let remembered = match (args.remember, args.making.jig.as_slice()) {
        (false, _) => None,
        (true, [jig]) => Some(jig),
        (true, jigs) => {
            return Err(Problem::said(
                format!("--remember writes into the jig, and there are {}.", jigs.len()),
                "Give one jig: -j FILE. What the command line says can be kept in one with notch carve --save-jig FILE.",
            ));
        }
    };
    let outputs = [
        ("the findings file", args.making.findings.as_ref()),
        ("the page", args.page.file.as_ref()),
    ];
    files_differ(&args.table, &jig, &outputs)?;
    // All findings are wanted: none takes its row away or ends the work. A blank is what later cuts
    // are to see.
    let listed = |action: Option<Action>| action.filter(|action| *action == Action::Blank);
    jig.on_finding = listed(jig.on_finding);
    jig.cuts.iter_mut().for_each(|cut| {
        cut.on_finding = cut.on_finding.map(|action| listed(Some(action)).unwrap_or(Action::Keep))
    });
    jig.only_rows = None;

    let work = Session::begin(Source::from_argument(&args.table), &args.making, jig)?;
    if !args.json {
        work.notices();
    }
    let name = work.table.name().to_owned();
    let all_rows = look_through(
        &work.source,
        &work.options,
        &work.plan,
        FirstPass { readable: false, findings: false },
    )?;
    // A page lists every finding as the findings file does; where none is wanted it is a part.
    let part = match (&args.page.file, &args.making.findings) {
        (Some(_), None) => Some(Part::temporary().map_err(no_room)?.1),
        _ => None,
    };
    let list = part.as_ref().map(|part| part.to_path_buf()).or(args.making.findings.clone());
    let bar = Bar::new(&work.source, &work.table, args.json);
    let carving = Carving {
        findings: list.clone(),
        lists_unreadable: true,
        tells_texts: true,
        all_rows,
        how: args.making.how(),
        progress: Some(&|done| bar.moved(done)),
        interrupt: Some(interrupted()),
        ..Carving::new(&work.plan, Vec::new())
    };
    let done = carve(work.table, &carving, Box::new(Nowhere));
    bar.clear();
    let done = done?;
    let mut outcome = Outcome::of(&work.jig, &work.plan, &done, args.drift);
    let columns = column_layouts::sources(&work.plan);
    let table = (&work.source, &work.options);
    if remembered.is_none()
        && let Some(known) = work.jig.remembered.as_ref().filter(|known| !known.layouts.is_empty())
        && work.source.can_be_read_again()
    {
        let (columns, layouts): (Vec<_>, Vec<Layouts>) = columns
            .iter()
            .filter_map(|column| Some((column.clone(), known.layouts_of(&column.0)?)))
            .unzip();
        let counted = column_layouts::count(table, &columns, &layouts)?;
        let points = outcome.points;
        outcome.drifts.extend(known.layout_drift(&counted, done.read, points));
    }
    let values = report_json(&done, &work.plan, &name, &outcome);
    if let Some(path) = &args.page.file {
        let head = PageHead {
            title: format!("Is every row of {name} as expected?"),
            table: &name,
            jigs: args.making.jig.iter().map(|path| path.display().to_string()).collect(),
            day: args.page.day.as_deref(),
            shows_texts: !args.page.no_texts,
        };
        let said = counts_in_words(&done, &name);
        let verdict = verdict(&outcome, done.tally.rows_with_findings, true);
        let (all, count) = list.as_deref().map_or(Ok((Vec::new(), 0)), findings_of)?;
        let file = args.making.findings.as_ref().map(|path| path.display().to_string());
        let runs = match args.making.jig.as_slice() {
            [jig] => runs::read(jig)?,
            _ => Vec::new(),
        };
        let list = FindingsList { all: &all, count, file: file.as_deref() };
        let text = check_page(&head, &values, (&said, verdict), &list, &runs);
        save_page(path, &text)?;
        say(format_args!("The page {} shows this to people without a terminal.\n", shown(path)));
    }
    if args.json {
        print_json(&values)?;
    } else {
        say_hints(&work.plan, &done);
        print(report(&done, &work.plan, &name, &outcome, args.making.findings.is_some()))?;
    }
    if let Some(path) = remembered {
        let layouts = match work.source.can_be_read_again() {
            true => {
                column_layouts::count(table, &columns, &column_layouts::find(table, &columns)?)?
            }
            false => Vec::new(),
        };
        baseline::remember(path, &work.plan, (&done.tally, done.read), &layouts)?;
        runs::add(path, PastRun::of(&values, args.page.day.as_deref()))?;
        say(format_args!("What the columns look like now is remembered in {}.\n", shown(path)));
    }
    // What is remembered anew is no longer compared with what it was.
    let drifted = !outcome.drifts.is_empty() && remembered.is_none();
    Ok(if outcome.has_findings || drifted { ExitCode::from(1) } else { ExitCode::SUCCESS })
}

/// There is no room for the list of findings that a page shows.
fn no_room(cause: std::io::Error) -> TableError {
    let name = "the list of findings for the page".to_owned();
    TableError::Io { name, what: "cannot be written to a temporary file", cause }
}

/// Rows that are only looked at.
struct Nowhere;

impl RowSink for Nowhere {
    fn begin(&mut self, _: &Table, _: &Plan, _: &[OutColumn]) -> Result<(), TableError> {
        Ok(())
    }

    fn row(&mut self, _: &Row<'_>, _: &Plan, _: &[OutColumn]) -> Result<(), TableError> {
        Ok(())
    }

    fn row_format(&self) -> Option<RowFormat> {
        Some(RowFormat::nothing())
    }

    fn finish(self: Box<Self>) -> Result<Finished, TableError> {
        Ok(Finished::default())
    }
}
