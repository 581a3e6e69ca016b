//! `notch trace`: a ruler over sample texts, and where every notch of a cut falls.

use std::process::ExitCode;

use keen_notch_core::{
    Assignment, ByteWidth, Plan, PlanOptions, Scratch, Tally, Trace as CutTrace, has_names,
    parse_assignment, parse_cut,
};
use keen_notch_table::{Sample, Source, Table, samples};

use super::session::{say_called, say_hint};
use super::survey::{kind_of, layouts_of};
use crate::cli::Trace;
use crate::jig::{Jig, Place, ReadCut};
use crate::show::{
    Problem, counted, drawn, hints, print, print_json, ruler, say, trace_json, visible,
};

/// What the column of texts on the command line is called when nothing names it.
const TEXT: &str = "text";

pub fn run(args: &Trace) -> Result<ExitCode, Problem> {
    let cut = if args.cut.trim().is_empty() { None } else { Some(read(&args.cut)?) };
    let mut jig = Jig::read(&args.jig)?;
    let Samples { columns, start, rows, more, byte_width } = rows(args, cut.as_ref(), &jig)?;
    // Texts alone have none of the columns that the cuts of a jig start from; its lists they have.
    let (jig_cuts, lists) = (std::mem::take(&mut jig.cuts), jig.lists);
    let mut jig = Jig { column: Some(start.clone()), lists, ..Jig::default() };
    if args.table.is_some() {
        jig.cuts = jig_cuts;
    }
    // Without a cut all those of the jig are drawn.
    let drawn_from = if cut.is_some() { jig.cuts.len() } else { 0 };
    jig.cuts.extend(cut.clone());
    let options = PlanOptions { byte_width, ..jig.plan_options(&columns) };
    let plan = jig.compile(&columns, &options)?;
    for hint in cut.iter().flat_map(|cut| &cut.assignment.hints) {
        say_hint(hint);
    }
    let start = columns.iter().position(|column| *column == start).unwrap_or(0);
    let mut scratch = Scratch::default();
    let mut as_json = Vec::new();
    let mut tally = Tally::new(&plan);
    let is_of_table = args.table.is_some();
    for (sample, n) in rows.into_iter().zip(1..) {
        let cells: Vec<&str> = plan
            .sources()
            .iter()
            .map(|source| sample.cells.get(source.index).map_or("", String::as_str))
            .collect();
        tally.add(
            &plan,
            &plan.evaluate(cells.iter().copied(), &mut scratch),
            n,
            if is_of_table { sample.line } else { n },
        );
        let traces: Vec<_> = (drawn_from..plan.len())
            .filter_map(|n| plan.trace_cut(n, &cells, &mut scratch))
            .collect();
        let text = sample.cells.get(start).map_or("", String::as_str);
        if args.json {
            let place = (sample.line > 0).then_some(&sample);
            match traces.as_slice() {
                [] => as_json.push(trace_json(text, place, None)),
                traces => {
                    as_json.extend(traces.iter().map(|trace| trace_json(text, place, Some(trace))))
                }
            }
            continue;
        }
        print(sample_drawn(&sample, text, &traces))?;
    }
    if more > 0 {
        let kinds = if more == 1 {
            "1 further kind is".to_owned()
        } else {
            format!("{more} further kinds are")
        };
        say(format_args!("{kinds} not drawn; ask for more with --samples N.\n"));
    }
    if args.json {
        print_json(&serde_json::json!({ "version": 1, "samples": as_json }))?;
    } else {
        let place = |line| format!("{} {line}", if is_of_table { "line" } else { "text" });
        hints(&plan, &tally, place).iter().for_each(|hint| say_hint(hint));
    }
    Ok(ExitCode::SUCCESS)
}

/// A text with the traces of cuts over it, and of a table how many rows are like it.
fn sample_drawn(sample: &Sample, text: &str, traces: &[CutTrace]) -> String {
    let mut shown = String::new();
    if sample.line > 0 {
        let rows = counted(sample.rows, "row");
        let kind = if sample.kind.is_empty() { "blank".to_owned() } else { visible(&sample.kind) };
        shown.push_str(&format!("{rows} like line {}, {kind}\n", sample.line));
    }
    if traces.is_empty() {
        shown.push_str(&ruler(text));
    }
    let drawn: Vec<String> = traces.iter().map(drawn).collect();
    shown + &drawn.join("\n") + "\n"
}

/// A cut with a name or without.
///
/// # Errors
/// It cannot be read.
pub fn read(text: &str) -> Result<ReadCut, Problem> {
    let parse: fn(&str) -> Result<Assignment, _> =
        if has_names(text) { parse_assignment } else { parse_cut };
    let assignment = parse(text).map_err(|error| Place::CommandLine.problem("cut", text, error))?;
    let (left, cut) = (String::new(), text.to_owned());
    // What is only drawn replaces nothing.
    Ok(ReadCut {
        assignment,
        left,
        cut,
        place: Place::CommandLine,
        about: None,
        replace: true,
        on_finding: None,
        examples: Vec::new(),
    })
}

/// What is drawn.
struct Samples {
    columns: Vec<String>,
    /// The column a cut starts from when it names none.
    start: String,
    rows: Vec<Sample>,
    /// How many further kinds of rows there are.
    more: usize,
    /// How many bytes a text takes in the file, where that is not UTF-8.
    byte_width: Option<ByteWidth>,
}

/// The texts of the command line, or rows of a table.
fn rows(args: &Trace, cut: Option<&ReadCut>, jig: &Jig) -> Result<Samples, Problem> {
    let of_jig_cuts: Vec<String> = jig
        .cuts
        .iter()
        .flat_map(|cut| &cut.assignment.names)
        .map(|name| name.text.clone())
        .collect();
    let of_jig_column = jig.column.clone().or_else(|| {
        jig.cuts.iter().find_map(|cut| Some(cut.assignment.first_column()?.to_owned()))
    });
    let named = || cut.and_then(|cut| cut.assignment.first_column()).map(str::to_owned);
    let Some(path) = &args.table else {
        if args.texts.is_empty() {
            return Err(Problem::said(
                "there is no text to draw.",
                "Give texts after the cut, or a table: notch trace 'part 2 by \"-\"' FH-2019-BRA, \
                notch trace 'part 2 by \"-\"' -t lots.csv -c lot",
            ));
        }
        let column =
            args.column.clone().or_else(named).or(of_jig_column).unwrap_or_else(|| TEXT.to_owned());
        let sample = |text: &String| Sample {
            kind: String::new(),
            rows: 1,
            line: 0,
            cells: vec![text.clone()],
        };
        return Ok(Samples {
            columns: vec![column.clone()],
            start: column,
            rows: args.texts.iter().map(sample).collect(),
            more: 0,
            byte_width: None,
        });
    };
    let source = Source::from_argument(path).to_be_read_again()?;
    let table = Table::open(&source, &args.reading.options())?;
    let called = jig.called(table.columns())?;
    say_called(&called);
    let (columns, byte_width) = (called.columns, table.byte_width());
    // A cut may start from a cut of the jig; the texts are those of a column of the table.
    let is_column = |name: &String| {
        columns.contains(name)
            || name.starts_with("column ")
            || of_jig_cuts.is_empty()
            || !of_jig_cuts.contains(name)
    };
    let wanted = args.column.clone().or_else(|| named().filter(is_column)).or(of_jig_column);
    let column = match wanted {
        Some(column) => column,
        None if columns.len() == 1 => columns[0].clone(),
        None => {
            return Err(Problem::said(
                "the samples need a column.",
                format!("Give one with -c. The columns are: {}.", columns.join(", ")),
            ));
        }
    };
    // The plan says best what is wrong with a column that is not there.
    let start = Jig { column: Some(column.clone()), ..Jig::default() };
    Plan::compile(&[], &columns, &start.plan_options(&columns))
        .map_err(|error| start.problem(error))?;
    let inside = column.trim_start_matches('{').trim_end_matches('}');
    let place = inside
        .strip_prefix("column ")
        .and_then(|figure| figure.parse::<usize>().ok())
        .map(|place| place - 1);
    let index = columns.iter().position(|name| name == inside).or(place).unwrap_or(0);
    let layouts = layouts_of(table, index)?;
    let table = Table::open(&source, &args.reading.options())?;
    let mut found = samples(table, index, |text| kind_of(&layouts, text))?;
    let more = found.len().saturating_sub(args.samples);
    found.truncate(args.samples);
    Ok(Samples { start: columns[index].clone(), columns, rows: found, more, byte_width })
}
