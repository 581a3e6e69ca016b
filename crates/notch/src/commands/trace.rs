//! `notch trace`: a ruler over sample texts, and where every notch of a cut falls.

use std::process::ExitCode;

use notch_core::{Assignment, ByteWidth, Plan, PlanOptions, Scratch, Tally, parse_assignment, parse_cut};
use notch_table::{Sample, Source, Table, samples};

use super::work::say_hint;
use crate::cli::Trace;
use crate::jig::{Jig, Place, ReadCut};
use crate::show::{Problem, drawn, hints, print, ruler, say, trace_json};

/// What the column of texts on the command line is called when nothing names it.
const TEXT: &str = "text";

pub fn run(args: &Trace) -> Result<ExitCode, Problem> {
    let cut = if args.cut.trim().is_empty() { None } else { Some(read(&args.cut)?) };
    let mut jig = Jig::read(&args.jig)?;
    let Samples { columns, start, rows, more, byte_width } = rows(args, cut.as_ref(), jig.column.clone())?;
    // Texts alone have none of the columns that the cuts of a jig start from; its lists they have.
    let (jig_cuts, lists) = (std::mem::take(&mut jig.cuts), jig.lists);
    let mut jig = Jig { column: Some(start.clone()), lists, ..Jig::default() };
    if args.table.is_some() && cut.is_some() {
        jig.cuts = jig_cuts;
    }
    jig.cuts.extend(cut.clone());
    let options = PlanOptions { byte_width, ..jig.plan_options(&columns) };
    let plan = Plan::compile(&jig.assignments(), &columns, &options).map_err(|error| jig.problem(error))?;
    for hint in cut.iter().flat_map(|cut| &cut.assignment.hints) {
        say_hint(hint);
    }
    let start = columns.iter().position(|column| *column == start).unwrap_or(0);
    let mut scratch = Scratch::default();
    let mut as_json = Vec::new();
    let mut tally = Tally::new(&plan);
    let is_of_table = args.table.is_some();
    for (sample, n) in rows.into_iter().zip(1..) {
        let cells: Vec<&str> = plan.sources().iter().map(|source| sample.cells.get(source.index).map_or("", String::as_str)).collect();
        tally.add(&plan, &plan.evaluate(cells.iter().copied(), &mut scratch), n, if is_of_table { sample.line } else { n });
        let trace = plan.trace(&cells, &mut scratch);
        let text = sample.cells.get(start).map_or("", String::as_str);
        if args.json {
            as_json.push(trace_json(text, (sample.line > 0).then_some(&sample), trace.as_ref()));
            continue;
        }
        if sample.line > 0 {
            let rows = if sample.rows == 1 { "1 row".to_owned() } else { format!("{} rows", sample.rows) };
            print(format_args!("{rows} like line {}, {}\n", sample.line, if sample.shape.is_empty() { "blank" } else { &sample.shape }))?;
        }
        match trace {
            Some(trace) => print(drawn(&trace))?,
            None => print(ruler(text))?,
        }
        print("\n")?;
    }
    if more > 0 {
        let shapes = if more == 1 { "1 further shape is".to_owned() } else { format!("{more} further shapes are") };
        say(format_args!("{shapes} not drawn; ask for more with --samples N.\n"));
    }
    if args.json {
        print(format_args!("{:#}\n", serde_json::json!({ "version": 1, "samples": as_json })))?;
    } else {
        let place = |line| format!("{} {line}", if is_of_table { "line" } else { "text" });
        hints(&plan, &tally, place).iter().for_each(|hint| say_hint(hint));
    }
    Ok(ExitCode::SUCCESS)
}

/// A cut with a name or without.
///
/// # Errors
/// It cannot be read.
pub fn read(text: &str) -> Result<ReadCut, Problem> {
    let named =
        text.find('=').is_some_and(|at| !text[..at].contains(['|', '"', '\'', '/', '(', '<', '>']) && !text[at..].starts_with("=="));
    let parse: fn(&str) -> Result<Assignment, _> = if named { parse_assignment } else { parse_cut };
    let assignment = parse(text).map_err(|error| Place::CommandLine.problem("cut", text, error))?;
    let (left, cut) = (String::new(), text.to_owned());
    // What is only drawn replaces nothing.
    Ok(ReadCut { assignment, left, cut, place: Place::CommandLine, about: None, replace: true, on_finding: None })
}

/// What is drawn.
struct Samples {
    columns: Vec<String>,
    /// The column a cut starts from when it names none.
    start: String,
    rows: Vec<Sample>,
    /// How many further shapes there are.
    more: usize,
    /// How many bytes a text takes in the file, where that is not UTF-8.
    byte_width: Option<ByteWidth>,
}

/// The texts of the command line, or rows of a table.
fn rows(args: &Trace, cut: Option<&ReadCut>, of_jig: Option<String>) -> Result<Samples, Problem> {
    let named = || cut.and_then(|cut| cut.assignment.first_column()).map(str::to_owned).or(of_jig);
    let Some(path) = &args.table else {
        if args.texts.is_empty() {
            return Err(Problem::said(
                "there is no text to draw.",
                "Give texts behind the cut, or a table: notch trace 'part 2 by \"-\"' FH-2019-BRA, notch trace 'part 2 by \"-\"' -t lots.csv -c lot",
            ));
        }
        let column = args.column.clone().or_else(named).unwrap_or_else(|| TEXT.to_owned());
        let sample = |text: &String| Sample { shape: String::new(), rows: 1, line: 0, cells: vec![text.clone()] };
        return Ok(Samples {
            columns: vec![column.clone()],
            start: column,
            rows: args.texts.iter().map(sample).collect(),
            more: 0,
            byte_width: None,
        });
    };
    let source = Source::from_argument(path);
    let table = Table::open(&source, &args.reading.options())?;
    let (columns, byte_width) = (table.columns().to_vec(), table.byte_width());
    let wanted = args.column.clone().or_else(named);
    let column = match wanted {
        Some(column) => column,
        None if columns.len() == 1 => columns[0].clone(),
        None => {
            return Err(Problem::said("the samples need a column.", format!("Give one with -c. The columns are: {}.", columns.join(", "))));
        }
    };
    // The plan says best what is wrong with a column that is not there.
    let start = Jig { column: Some(column.clone()), ..Jig::default() };
    Plan::compile(&[], &columns, &start.plan_options(&columns)).map_err(|error| start.problem(error))?;
    let inside = column.trim_start_matches('{').trim_end_matches('}');
    let place = inside.strip_prefix("column ").and_then(|figure| figure.parse::<usize>().ok()).map(|place| place - 1);
    let index = columns.iter().position(|name| name == inside).or(place).unwrap_or(0);
    let mut found = samples(table, index)?;
    let more = found.len().saturating_sub(args.samples);
    found.truncate(args.samples);
    Ok(Samples { start: columns[index].clone(), columns, rows: found, more, byte_width })
}
