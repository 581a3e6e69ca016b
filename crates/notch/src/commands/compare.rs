//! `notch compare`: two cuts side by side, and the rows where they differ.

use std::path::Path;
use std::process::ExitCode;
use std::sync::{Arc, Mutex, PoisonError};

use notch_core::{Plan, shape};
use notch_table::{Carving, How, NewFile, OutColumn, Row, RowSink, Source, Table, TableError, carve, write_cell};

use super::trace;
use super::work::files_differ;
use crate::cli::Compare;
use crate::jig::Jig;
use crate::show::{Comparison, Problem, comparison, comparison_json, print, say, watch_for_interrupts};

/// What the columns compared are called inside.
const NAMES: [&str; 2] = ["first", "second"];

pub fn run(args: &Compare) -> Result<ExitCode, Problem> {
    let mut jig = Jig::read(&args.jig)?;
    jig.column = args.column.clone().or(jig.column);
    let above = jig.cuts.len();
    for (text, name) in [&args.first, &args.second].into_iter().zip(NAMES) {
        let mut read = trace::read(text)?;
        if read.assignment.names.len() != 1 {
            return Err(Problem::said(
                format!("{text} makes several columns, and two are compared at a time."),
                "Compare one piece with one: part 2 by \"-\".",
            ));
        }
        // What it is called makes no difference, and must be no name there is already.
        read.assignment.names[0].text = format!("({name})");
        read.replace = false;
        jig.cuts.push(read);
    }
    let files: Vec<(&str, &Path)> = args.all_to.iter().map(|path| ("the file of differences", path.as_path())).collect();
    files_differ(&args.table, &files)?;
    let source = Source::from_argument(&args.table);
    let table = Table::open(&source, &args.reading.options())?;
    let (mut checks, mut columns) = (Vec::new(), Vec::new());
    std::mem::swap(&mut jig.checks, &mut checks);
    std::mem::swap(&mut jig.columns, &mut columns);
    let plan =
        Plan::compile(&jig.assignments(), table.columns(), &jig.plan_options(table.columns())).map_err(|error| jig.problem(error))?;
    table.notices().iter().for_each(|notice| say(format_args!("{notice}\n")));
    let name = table.name().to_owned();

    let seen = Arc::new(Mutex::new(Comparison::default()));
    let sink = Sink {
        places: [plan.outputs().len() - 2, plan.outputs().len() - 1],
        origin: plan.origin(above).or(plan.origin(above + 1)).map(|origin| plan.sources()[origin].index),
        examples: args.examples,
        seen: Arc::clone(&seen),
        all_to: args.all_to.as_deref().map(NewFile::create).transpose()?,
        line: Vec::new(),
    };
    let carving = Carving {
        plan: &plan,
        columns: Vec::new(),
        findings: None,
        rejects: None,
        replace_table: false,
        lists_unreadable: true,
        all_rows: None,
        how: How::default(),
        progress: None,
        interrupt: Some(watch_for_interrupts()),
    };
    let done = carve(table, &carving, Box::new(sink))?;
    let mut seen = std::mem::take(&mut *seen.lock().unwrap_or_else(PoisonError::into_inner));
    seen.unreadable = done.unreadable;
    if args.json {
        print(format_args!("{:#}\n", comparison_json(&seen, [&args.first, &args.second], &name)))?;
    } else {
        print(comparison(&seen, [&args.first, &args.second], &name))?;
    }
    Ok(if seen.differ == 0 { ExitCode::SUCCESS } else { ExitCode::from(1) })
}

/// Looks at each row, and writes those that differ to a file if one is wanted.
struct Sink {
    /// The places of the two among the new columns.
    places: [usize; 2],
    /// The column they start from.
    origin: Option<usize>,
    examples: usize,
    seen: Arc<Mutex<Comparison>>,
    all_to: Option<NewFile>,
    line: Vec<u8>,
}

impl Sink {
    fn write(&mut self, cells: [&str; 5]) -> Result<(), TableError> {
        let Some(file) = &mut self.all_to else { return Ok(()) };
        self.line.clear();
        for (n, cell) in cells.iter().enumerate() {
            if n > 0 {
                self.line.push(b',');
            }
            write_cell(cell, b',', &mut self.line);
        }
        self.line.push(b'\n');
        file.write(&self.line)
    }
}

impl RowSink for Sink {
    fn begin(&mut self, _: &Table, _: &Plan, _: &[OutColumn]) -> Result<(), TableError> {
        self.write(["row", "line", "cell", "first", "second"])
    }

    fn row(&mut self, row: &Row<'_>, _: &Plan, _: &[OutColumn]) -> Result<(), TableError> {
        let [first, second] = self.places.map(|place| row.new_cell(place));
        let same = first == second;
        let cell = self.origin.map(|origin| row.source_cell(origin)).unwrap_or_default();
        {
            let mut seen = self.seen.lock().unwrap_or_else(PoisonError::into_inner);
            seen.count(first, second);
            if !same {
                let shape = shape(&cell);
                seen.differs(shape, self.examples, || {
                    [row.number().to_string(), row.line().to_string(), cell.to_string(), first.to_owned(), second.to_owned()]
                });
            }
        }
        if same {
            return Ok(());
        }
        self.write([&row.number().to_string(), &row.line().to_string(), &cell, first, second])
    }

    fn finish(self: Box<Self>) -> Result<Vec<String>, TableError> {
        self.all_to.map(NewFile::finish).transpose()?;
        Ok(Vec::new())
    }
}
