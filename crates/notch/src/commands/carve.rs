//! `notch carve`: cut new columns out of a table and write it.

use std::io::{IsTerminal, stdout};
use std::path::Path;
use std::process::ExitCode;

use notch_core::{Assignment, Plan, PlanOptions, nearest};
use notch_table::{Carving, NewFile, OutColumn, ReadOptions, RowSink, RowsOut, Source, Table, carve, check_readable, same_file};

use crate::cli::{Carve, Reading};
use crate::jig::{Jig, ReadCut};
use crate::show::{Preview, Problem, WentTo, say, summary};

/// How many rows a terminal is shown.
const PREVIEW_ROWS: usize = 10;

pub fn run(args: &Carve) -> Result<ExitCode, Problem> {
    let jig = args.jig.as_deref().map(Jig::read).transpose()?.unwrap_or_default();
    let cuts = read_cuts(args, jig.cuts)?;
    let source = Source::from_argument(&args.table);
    files_differ(args, &source)?;
    let options = args.reading.options();
    let table = Table::open(&source, &options)?;
    let plan_options =
        PlanOptions { start: args.column.clone().or(jig.column), replace: replaced(args, &cuts, table.columns()), lists: jig.lists };
    let assignments: Vec<Assignment> = cuts.iter().map(|cut| cut.assignment.clone()).collect();
    let plan = Plan::compile(&assignments, table.columns(), &plan_options).map_err(|error| Problem::plan(error, &cuts))?;
    if !args.quiet {
        table.notices().iter().for_each(|notice| say(format_args!("{notice}\n")));
        assignments.iter().flat_map(|cut| &cut.hints).for_each(|hint| say(format_args!("Hint: {hint}\n")));
    }
    let columns = out_columns(args, &table, &plan)?;
    let name = table.name().to_owned();

    let preview = args.preview.or_else(|| (args.output.is_none() && stdout().is_terminal()).then_some(PREVIEW_ROWS));
    let (sink, went_to): (Box<dyn RowSink>, _) = match (&args.output, preview) {
        (Some(path), _) => (Box::new(RowsOut::to_file(NewFile::create(path)?)), WentTo::File(path.display().to_string())),
        (None, Some(rows)) => (Box::new(Preview::of(rows)), WentTo::Preview),
        (None, None) => {
            // What is on its way through a pipe cannot be taken back, so the whole table is looked through first.
            if args.rejects.is_none() && source.can_be_read_again() {
                check_readable(&source, &options)?;
            }
            (Box::new(RowsOut::to_standard_output()), WentTo::Standard)
        }
    };
    let carving = Carving { plan: &plan, columns, findings: args.findings.clone(), rejects: args.rejects.clone() };
    let done = carve(table, &carving, sink)?;
    let lists_findings = args.findings.is_some();
    if !args.quiet {
        say(summary(&done, &plan, &name, &went_to, lists_findings));
    }
    Ok(ExitCode::SUCCESS)
}

impl Reading {
    /// What the command line says, for the reader of tables.
    pub fn options(&self) -> ReadOptions {
        ReadOptions { separator: self.separator, no_header: self.no_header }
    }
}

/// The cuts of the jig, then those of the command line.
fn read_cuts(args: &Carve, of_jig: Vec<ReadCut>) -> Result<Vec<ReadCut>, Problem> {
    let mut cuts = of_jig;
    for text in &args.cuts {
        cuts.push(ReadCut::read(text.clone(), None).map_err(|problem| unfinished(text, problem))?);
    }
    if cuts.is_empty() {
        return Err(Problem::said(
            "there is no cut, so there is nothing to carve.",
            "Give one or more behind the table: notch carve lots.csv -c lot 'year = part 2 by \"-\"'",
        ));
    }
    Ok(cuts)
}

/// The columns that may be replaced: those of the command line, and of cuts that say so in the jig.
fn replaced(args: &Carve, cuts: &[ReadCut], columns: &[String]) -> Vec<String> {
    let names = cuts.iter().filter(|cut| cut.replace).flat_map(|cut| &cut.assignment.names);
    let there = names.map(|name| name.text.clone()).filter(|name| columns.contains(name));
    args.replace.iter().cloned().chain(there).collect()
}

/// A file that stands where a cut is wanted.
fn unfinished(text: &str, problem: Problem) -> Problem {
    match problem {
        Problem::Cut { .. } if !text.contains('=') && Path::new(text).exists() => Problem::said(
            format!("{text} is a file, and a cut was expected there."),
            "A table stands first, then the cuts: notch carve TABLE 'NAME = CUT'.",
        ),
        problem => problem,
    }
}

/// Nothing is written over the input, and no two outputs into one file.
fn files_differ(args: &Carve, source: &Source) -> Result<(), Problem> {
    let named = [
        ("the table", source.path()),
        ("the jig", args.jig.as_deref()),
        ("the output", args.output.as_deref()),
        ("the findings file", args.findings.as_deref()),
        ("the rejects file", args.rejects.as_deref()),
    ];
    for (n, (first, a)) in named.iter().enumerate() {
        for (second, b) in &named[n + 1..] {
            if let (Some(a), Some(b)) = (a, b)
                && same_file(a, b)
                && !is_device(b)
            {
                let name = |what: &str, path: &Path| format!("{what} {}", path.display());
                return Err(notch_table::TableError::SameFile { first: name(first, a), second: name(second, b) }.into());
            }
        }
    }
    Ok(())
}

fn is_device(path: &Path) -> bool {
    path.metadata().is_ok_and(|metadata| !metadata.is_file() && !metadata.is_dir())
}

/// What is written, in order.
fn out_columns(args: &Carve, table: &Table, plan: &Plan) -> Result<Vec<OutColumn>, Problem> {
    let new = || (0..plan.outputs().len()).map(OutColumn::New);
    if args.only {
        if plan.outputs().is_empty() {
            return Err(Problem::said(
                "every cut makes a helper column, so --only leaves nothing to write.",
                "A name that begins with _ is not written.",
            ));
        }
        return Ok(new().collect());
    }
    let replaced = |place: usize| plan.outputs().iter().position(|output| output.replaces == Some(place));
    let old = |place: usize| replaced(place).map_or(OutColumn::Source(place), OutColumn::New);
    if let Some(list) = &args.columns {
        return names(list).iter().map(|name| chosen(name, table, plan, old)).collect();
    }
    let added = new().filter(|column| !matches!(column, OutColumn::New(n) if plan.outputs()[*n].replaces.is_some()));
    Ok((0..table.columns().len()).map(old).chain(added).collect())
}

/// `a,"b, c",d`: names divided by commas, one with a comma in quotes.
fn names(list: &str) -> Vec<String> {
    let mut names = vec![String::new()];
    let mut quoted = false;
    for c in list.chars() {
        match (c, names.last_mut()) {
            ('"', _) => quoted = !quoted,
            (',', _) if !quoted => names.push(String::new()),
            (c, Some(name)) => name.push(c),
            (_, None) => {}
        }
    }
    names.into_iter().map(|name| name.trim().to_owned()).collect()
}

fn chosen(name: &str, table: &Table, plan: &Plan, old: impl Fn(usize) -> OutColumn) -> Result<OutColumn, Problem> {
    if let Some(place) = plan.outputs().iter().position(|output| output.name == name) {
        return Ok(OutColumn::New(place));
    }
    let inside = name.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')).unwrap_or(name);
    let places: Vec<usize> = (0..table.columns().len()).filter(|place| table.columns()[*place] == inside).collect();
    if let [place] = places.as_slice() {
        return Ok(old(*place));
    }
    let by_place = inside.strip_prefix("column ").and_then(|figure| figure.trim().parse::<usize>().ok());
    if let Some(place) = by_place.filter(|place| (1..=table.columns().len()).contains(place)) {
        return Ok(old(place - 1));
    }
    if places.len() > 1 {
        return Err(Problem::said(
            format!("--columns: {} columns are called {name}.", places.len()),
            format!("Take one by its place: column {}.", places[0] + 1),
        ));
    }
    let known: Vec<&str> =
        table.columns().iter().map(String::as_str).chain(plan.outputs().iter().map(|output| output.name.as_str())).collect();
    let near = nearest(name, known.iter().copied()).map_or(String::new(), |near| format!("The nearest is {near}. "));
    Err(Problem::said(format!("--columns: there is no column {name}."), format!("{near}The columns are: {}.", known.join(", "))))
}
