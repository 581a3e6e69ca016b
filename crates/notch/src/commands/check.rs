//! `notch check`: is every row as the jig expects?

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use keen_notch_core::{Layouts, Plan, TextsTold};
use keen_notch_table::{
    Carving, Finished, FirstPass, OutColumn, Part, ReadOptions, Row, RowFormat, RowSink, Source,
    Table, TableError, carve, look_through,
};

use super::files::files_differ;
use super::session::{Session, say_hints, shown, with_column};
use super::tally::{self, RunOf};
use super::unique;
use crate::cli::Check;
use crate::ends::interrupted;
use crate::jig::baseline::Drift;
use crate::jig::column_layouts::ColumnLayouts;
use crate::jig::file::Remembered;
use crate::jig::runs::PastRun;
use crate::jig::{Action, Jig, baseline, column_layouts, runs};
use crate::pages::{FindingsList, PageHead, check_page, findings_of, save_page};
use crate::show::{
    Bar, Outcome, Problem, counts_in_words, print, print_json, report, report_json, say, verdict,
};
use serde_json::Value;

pub fn run(args: &Check) -> Result<ExitCode, Problem> {
    let jig = jig_to_check(args)?;
    let remembered = jig_that_remembers(args)?;
    let outputs = [
        ("the findings file", args.making.findings.as_ref()),
        ("the page", args.page.file.as_ref()),
        ("the tally", args.tally.file.as_ref()),
        ("the texts gathered", args.gather.as_ref()),
    ];
    if args.tally.file.is_some() {
        unique::can_be_parted(&jig, args.making.twice.as_deref())?;
    }
    files_differ(&args.table, &jig, &outputs)?;
    let source = Source::from_argument(&args.table);
    let work = Session::begin(source, &args.making, jig)?;
    if let Some(path) = &args.gather {
        unique::gather(work, path)?;
        return Ok(ExitCode::SUCCESS);
    }
    if !args.json {
        work.notices();
    }
    let name = work.table.name().to_owned();
    let all_rows = look_through(
        &work.source,
        &work.options,
        &work.plan,
        unique::known(args.making.twice.as_deref(), &work.plan)?,
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
        texts: TextsTold::Examples,
        keeps_part: args.tally.file.is_some(),
        all_rows,
        block: args.making.block,
        progress: Some(&|done| bar.moved(done)),
        interrupt: Some(interrupted()),
        ..Carving::new(&work.plan, Vec::new())
    };
    let done = carve(work.table, &carving, Box::new(Nowhere));
    bar.clear();
    let done = done?;
    let mut outcome = Outcome::of(&work.jig, &work.plan, &done, args.drift);
    let columns = ColumnsCutFrom { table: (&work.source, &work.options), plan: &work.plan };
    if remembered.is_none()
        && let Some(known) = &work.jig.remembered
    {
        outcome.drifts.extend(columns.drift(known, done.read, outcome.points)?);
    }
    let values = report_json(&done, &work.plan, &name, &outcome);
    if let Some(path) = &args.page.file {
        let said = (
            &*counts_in_words(&done, &name),
            verdict(&outcome, done.tally.rows_with_findings, true),
        );
        write_page(args, path, (&name, &values), said, list.as_deref())?;
    }
    let by = (RunOf::Check, &work.jig, &*work.called.columns);
    tally::write_run(&args.tally, &name, by, &done)?;
    if args.json {
        print_json(&values)?;
    } else {
        say_hints(&work.plan, &done);
        print(report(&done, &work.plan, &name, &outcome, args.making.findings.is_some()))?;
    }
    if let Some(path) = remembered {
        baseline::remember(path, &work.plan, (&done.tally, done.read), &columns.layouts()?)?;
        runs::add(path, PastRun::of(&values, args.page.day.as_deref()))?;
        say(format_args!("What the columns look like now is remembered in {}.\n", shown(path)));
    }
    // What is remembered anew is no longer compared with what it was.
    let drifted = !outcome.drifts.is_empty() && remembered.is_none();
    Ok(if outcome.has_findings || drifted { ExitCode::from(1) } else { ExitCode::SUCCESS })
}

/// The jig, as it is checked: all findings are wanted, none takes its row away or ends the work. A
/// blank is what later cuts are to see.
fn jig_to_check(args: &Check) -> Result<Jig, Problem> {
    let read = args.making.read();
    let mut jig =
        read.map_err(|problem| with_column(problem, &args.table, &args.making.reading))?;
    if jig.cuts.is_empty() && jig.columns.is_empty() && jig.checks.is_empty() {
        return Err(Problem::said(
            "there is nothing to check.",
            "Give a jig with cuts, columns or checks: notch check lots.csv -j lots.toml. A first \
            one is written from what the table looks like by notch jig new lots.csv -o lots.toml; \
            notch jig --help shows a short one.",
        ));
    }
    let listed = |action: Option<Action>| action.filter(|action| *action == Action::Blank);
    jig.on_finding = listed(jig.on_finding);
    jig.cuts.iter_mut().for_each(|cut| {
        cut.on_finding = cut.on_finding.map(|action| listed(Some(action)).unwrap_or(Action::Keep))
    });
    jig.only_rows = None;
    Ok(jig)
}

/// The jig into which is written what the columns look like, where that is wanted.
fn jig_that_remembers(args: &Check) -> Result<Option<&PathBuf>, Problem> {
    match (args.remember, args.making.jig.as_slice()) {
        (false, _) => Ok(None),
        (true, [jig]) => Ok(Some(jig)),
        (true, jigs) => Err(Problem::said(
            format!("--remember writes into the jig, and there are {}.", jigs.len()),
            "Give one jig: -j FILE. What the command line says can be kept in one with notch carve \
            --save-jig FILE.",
        )),
    }
}

/// The columns of a table that cuts start from, whose layouts are remembered.
struct ColumnsCutFrom<'c> {
    table: (&'c Source, &'c ReadOptions),
    plan: &'c Plan,
}

impl ColumnsCutFrom<'_> {
    /// What has moved since their layouts were remembered; nothing of a table that cannot be read
    /// again.
    fn drift(&self, known: &Remembered, rows: u64, points: f64) -> Result<Vec<Drift>, TableError> {
        if known.layouts.is_empty() || !self.table.0.can_be_read_again() {
            return Ok(Vec::new());
        }
        let (columns, layouts): (Vec<_>, Vec<Layouts>) = column_layouts::sources(self.plan)
            .into_iter()
            .filter_map(|column| {
                let layouts = known.layouts_of(&column.0)?;
                Some((column, layouts))
            })
            .unzip();
        let counted = column_layouts::count(self.table, &columns, &layouts)?;
        Ok(known.layout_drift(&counted, rows, points))
    }

    /// Their layouts now; none of a table that cannot be read again.
    fn layouts(&self) -> Result<Vec<ColumnLayouts>, TableError> {
        if !self.table.0.can_be_read_again() {
            return Ok(Vec::new());
        }
        let columns = column_layouts::sources(self.plan);
        let found = column_layouts::find(self.table, &columns)?;
        column_layouts::count(self.table, &columns, &found)
    }
}

/// Writes the page of a report on a table, with the findings of `list`; `said` are its counts and
/// the verdict in words.
fn write_page(
    args: &Check,
    path: &Path,
    (table, report): (&str, &Value),
    said: (&str, &str),
    list: Option<&Path>,
) -> Result<(), Problem> {
    let head = PageHead {
        title: format!("Is every row of {table} as expected?"),
        table,
        jigs: args.making.jig.iter().map(|path| path.display().to_string()).collect(),
        day: args.page.day.as_deref(),
        shows_texts: !args.page.no_texts,
    };
    let (all, count) = list.map_or(Ok((Vec::new(), 0)), findings_of)?;
    let file = args.making.findings.as_ref().map(|path| path.display().to_string());
    let runs = match args.making.jig.as_slice() {
        [jig] => runs::read(jig)?,
        _ => Vec::new(),
    };
    let list = FindingsList { all: &all, count, file: file.as_deref() };
    save_page(path, &check_page(&head, report, said, &list, &runs))?;
    say(format_args!("The page {} shows this to people without a terminal.\n", shown(path)));
    Ok(())
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
