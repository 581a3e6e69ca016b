//! `notch carve`: cut new columns out of a table and write it.

use std::io::{IsTerminal, stdout};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::atomic::AtomicBool;

use keen_notch_core::{OnFinding, Plan, TextsTold, nearest};
use keen_notch_table::{
    Carving, CellsOut, FirstPass, Format, OutColumn, RowSink, RowsOut, Source, Summary, Table, To,
    book_rows, carve, do_not_sync, foreign_ending, format_of, look_through, same_file,
};

use super::files::{DATABASE, files_differ};
use super::session::{Session, say_hints, shown, with_column};
use super::survey::{kind_of, layouts_of};
use super::tally::{self, RunOf};
use super::unique;
use crate::cli::{Carve, PreviewBy};
use crate::ends::interrupted;
use crate::jig::file::Write;
use crate::jig::{Action, Jig, save, typed_condition};
use crate::show::{
    Bar, Outcome, Preview, Problem, Shown, WentTo, say, shell_word, summary, visible,
};

/// How many rows a terminal is shown.
const PREVIEW_ROWS: usize = 10;

pub fn run(args: &Carve) -> Result<ExitCode, Problem> {
    let jig =
        read(args).map_err(|problem| with_column(problem, &args.table, &args.making.reading))?;
    if jig.cuts.is_empty() {
        return Err(Problem::said(
            "there is no cut, so there is nothing to carve.",
            "Give one or more after the table: notch carve lots.csv -c lot 'year = part 2 by \
            \"-\"'",
        ));
    }
    let (done, work) = carve_jig(args, jig, Source::from_argument(&args.table), interrupted())?;
    let outcome = Outcome::of(&work.jig, &work.plan, &done, None);
    if !args.quiet {
        say_hints(&work.plan, &done);
        let went_to = went_to(args);
        let lists_findings = args.making.findings.is_some();
        say(summary(&done, &work.plan, &work.name, &went_to, &outcome, lists_findings));
        if preview_rows(args).is_some() && stdout().is_terminal() {
            say(format_args!("Mend the cuts and see every row: {}\n", bench_of(args)));
        }
        if let Some(path) = &args.save_jig {
            say(format_args!(
                "The jig {0} does the same again: notch carve TABLE -j {0}\n",
                shown(path)
            ));
        }
    }
    Ok(if args.strict && outcome.has_findings { ExitCode::from(1) } else { ExitCode::SUCCESS })
}

/// The command that opens the workbench with the same table and cuts.
pub fn bench_of(args: &Carve) -> String {
    let making = &args.making;
    let mut words = vec!["notch".to_owned(), "bench".to_owned(), args.table.display().to_string()];
    words.extend(making.reading.words());
    if let Some(column) = &making.column {
        words.extend(["-c".to_owned(), column.clone()]);
    }
    if let [jig] = making.jig.as_slice() {
        words.extend(["-j".to_owned(), jig.display().to_string()]);
    }
    words.extend(making.cuts.iter().cloned());
    visible(&words.iter().map(|word| shell_word(word)).collect::<Vec<_>>().join(" "))
}

/// What a table was cut by.
pub struct Carved {
    /// The jig.
    pub jig: Jig,
    /// It compiled for the table.
    pub plan: Plan,
    /// What the table is called.
    pub name: String,
}

/// Whether the first rows are shown instead of writing all: how many.
fn preview_rows(args: &Carve) -> Option<usize> {
    let asks_nothing = args.output.is_none() && args.to.is_none();
    let is_asked = args.preview_by.is_some() || asks_nothing && stdout().is_terminal();
    args.preview.or_else(|| is_asked.then_some(PREVIEW_ROWS))
}

/// The file that is written; `None` for standard output.
fn output_file(args: &Carve) -> Option<&PathBuf> {
    args.output.as_ref().filter(|path| path.as_path() != Path::new("-"))
}

fn went_to(args: &Carve) -> WentTo {
    match (output_file(args), preview_rows(args)) {
        (Some(path), _) => WentTo::File(path.display().to_string()),
        (None, Some(_)) => WentTo::Preview,
        (None, None) => WentTo::Standard,
    }
}

/// Cuts a table by a jig, as the options say; the rows come from `source`.
///
/// # Errors
/// Whatever stops the work; it was interrupted.
pub fn carve_jig(
    args: &Carve,
    jig: Jig,
    source: Source,
    interrupt: &AtomicBool,
) -> Result<(Summary, Carved), Problem> {
    let file = output_file(args);
    if args.tally.file.is_some() {
        unique::can_be_parted(&jig, args.making.twice.as_deref())?;
    }
    outputs_can_be_written(args, &jig)?;
    if args.no_sync {
        do_not_sync();
    }
    let work = Session::begin(source, &args.making, jig)?;
    if !args.quiet {
        work.notices();
    }
    let name = work.table.name().to_owned();
    let preview = preview_rows(args);
    // A preview writes nothing, so no row is lost in it.
    if args.rejects.is_none() && preview.is_none() && work.plan.ever(OnFinding::Reject) {
        return Err(Problem::said(
            "rows with a finding are to be rejected, and no file takes them.",
            "Name one: --rejects FILE. Or leave their new cells blank: --on-finding blank.",
        ));
    }
    let columns = out_columns(&work.jig, &work.called.columns, &work.plan)?;
    let to_standard = file.is_none() && preview.is_none();
    // What was written into a pipe cannot be taken back, so the whole table is checked first.
    let first = to_standard && work.source.can_be_read_again();
    let pass = FirstPass {
        readable: first && args.rejects.is_none(),
        findings: first && work.plan.ever(OnFinding::Stop),
    };
    let known = unique::known(args.making.twice.as_deref(), &work.plan)?;
    let all_rows = look_through(&work.source, &work.options, &work.plan, known, pass)?;
    let sink: Box<dyn RowSink> = match (file, preview) {
        (Some(path), _) => sink(args, To::File(path), &work)?,
        (None, Some(rows)) => Box::new(Preview::of(rows, rows_shown(args, &work)?)),
        (None, None) => sink(args, To::Standard, &work)?,
    };
    let bar = Bar::new(&work.source, &work.table, args.quiet);
    let carving = Carving {
        plan: &work.plan,
        columns,
        findings: args.making.findings.clone(),
        rejects: args.rejects.clone(),
        replace_table: args.replace_table,
        guard_formulas: args.guard_formulas,
        lists_unreadable: false,
        texts: texts_told(args),
        keeps_part: args.tally.file.is_some(),
        all_rows,
        block: args.making.block,
        progress: Some(&|done| bar.moved(done)),
        interrupt: Some(interrupt),
    };
    let done = carve(work.table, &carving, sink);
    bar.clear();
    let done = done?;
    let by = (RunOf::Carve, &work.jig, &*work.called.columns);
    tally::write_run(&args.tally, &name, by, &done)?;
    // A jig is kept once it has done what it should.
    if let Some(path) = &args.save_jig {
        save::save(&work.jig, path)?;
    }
    Ok((done, Carved { jig: work.jig, plan: work.plan, name }))
}

/// What is told of texts: a report of the parts has examples of findings, and a
/// run with --quiet shows no shapes. They are a tenth of the work.
fn texts_told(args: &Carve) -> TextsTold {
    match (&args.tally.file, args.quiet) {
        (Some(_), _) => TextsTold::Examples,
        (None, true) => TextsTold::Nothing,
        (None, false) => TextsTold::Shapes,
    }
}

/// Whether what is to be written can be.
///
/// # Errors
/// Two outputs are one file, or an input; an ending that nothing is written as; a table without a
/// name for the database that is read.
fn outputs_can_be_written(args: &Carve, jig: &Jig) -> Result<(), Problem> {
    let is_database =
        |path: &PathBuf| args.to.unwrap_or_else(|| format_of(path)) == Format::Database;
    let file = output_file(args);
    let output = if file.is_some_and(is_database) { DATABASE } else { "the output" };
    let outputs = [
        (output, file),
        ("the findings file", args.making.findings.as_ref()),
        ("the rejects file", args.rejects.as_ref()),
        ("the jig to be saved", args.save_jig.as_ref()),
        ("the tally", args.tally.file.as_ref()),
    ];
    files_differ(&args.table, jig, &outputs)?;
    let by_ending =
        [file.filter(|_| args.to.is_none()), args.making.findings.as_ref(), args.rejects.as_ref()];
    for path in by_ending.into_iter().flatten() {
        if let Some(ending) = foreign_ending(path) {
            return Err(Problem::said(
                format!("nothing is written as {ending}, which is the ending of {}.", shown(path)),
                "Give it another ending: csv, tsv, jsonl, json, xlsx, parquet, arrow, db; or gz or \
                zst after one of text.",
            ));
        }
    }
    if output == DATABASE
        && args.to_table.is_none()
        && file.is_some_and(|path| same_file(path, &args.table))
    {
        return Err(Problem::said(
            "a table is to be added to the database that is read, and it has no name.",
            "Say what it is called: --to-table NAME. To write over the table that is read, name \
            that one with --replace-table.",
        ));
    }
    Ok(())
}

/// What takes the rows, in the format that was asked for or that the file's ending says.
fn sink(args: &Carve, to: To<'_>, work: &Session) -> Result<Box<dyn RowSink>, Problem> {
    let format = match (args.to, to) {
        (Some(format), _) => format,
        (None, To::File(path)) => format_of(path),
        (None, To::Standard) => Format::Text(None),
    };
    if matches!(to, To::Standard) && !format.is_legible() && stdout().is_terminal() {
        return Err(Problem::said(
            "this format cannot be read on a terminal.",
            "Name a file: -o FILE.",
        ));
    }
    if args.guard_formulas && !matches!(format, Format::Text(_)) {
        let remedy = "Leave it out: no cell of another format is run as a formula because of what \
            it begins with.";
        return Err(Problem::said("--guard-formulas is for separated text.", remedy));
    }
    if args.to_encoding.is_some() && !matches!(format, Format::Text(_)) {
        return Err(Problem::said(
            "--to-encoding is for separated text.",
            "Leave it out: other formats have an encoding of their own.",
        ));
    }
    if (args.to_table.is_some() || args.replace_table)
        && format != Format::Database
        && !args.lists_to_database()
    {
        return Err(Problem::said(
            "--to-table and --replace-table are for databases.",
            "Leave them out, or write one: -o FILE.db.",
        ));
    }
    Ok(match (format, to) {
        (Format::Workbook, To::File(path)) => book_rows(path)?,
        _ => match CellsOut::create(to, format, &table_name(args, work), args.replace_table)? {
            Some(cells) => Box::new(cells),
            None => Box::new(
                RowsOut::new(to.create()?)
                    .guarding_formulas(args.guard_formulas)
                    .separated_by(format.separator())
                    .encoded_as(args.to_encoding),
            ),
        },
    })
}

/// Which rows the preview shows.
fn rows_shown(args: &Carve, work: &Session) -> Result<Shown, Problem> {
    match args.preview_by {
        None => Ok(Shown::First),
        Some(PreviewBy::Finding) => Ok(Shown::WithFinding),
        Some(PreviewBy::Layout) => {
            let Some(column) = work.plan.sources().first().map(|source| source.index) else {
                return Err(Problem::said(
                    "no cut starts from a column, so there are no layouts to show.",
                    "Leave --preview-by out, or cut a column.",
                ));
            };
            if !work.source.can_be_read_again() {
                return Err(Problem::said(
                    "layouts are found in a pass of their own, and this table cannot be read \
                    twice.",
                    "Name a file instead of a pipe, or leave --preview-by out.",
                ));
            }
            let layouts = layouts_of(Table::open(&work.source, &work.options)?, column)?;
            Ok(Shown::OfEachKind(column, Box::new(move |text| kind_of(&layouts, text))))
        }
    }
}

impl Carve {
    /// Whether findings or rejects go into a database.
    fn lists_to_database(&self) -> bool {
        [&self.making.findings, &self.rejects]
            .into_iter()
            .flatten()
            .any(|path| format_of(path) == Format::Database)
    }
}

/// What a table is called that is written into a database: as asked, else as the one that is read.
fn table_name(args: &Carve, work: &Session) -> String {
    let read = || {
        work.options
            .table_name
            .clone()
            .or_else(|| Some(work.source.path()?.file_stem()?.to_string_lossy().into_owned()))
    };
    args.to_table.clone().or_else(read).unwrap_or_else(|| "rows".to_owned())
}

/// The jigs and the command line, for a table that is written.
fn read(args: &Carve) -> Result<Jig, Problem> {
    let mut jig = args.making.read()?;
    if let Some(condition) = &args.only_rows {
        jig.only_rows = Some(typed_condition(condition)?);
    }
    if args.only {
        jig.write = Some(Write::Word("new".to_owned()));
    }
    if let Some(list) = &args.columns {
        jig.write = Some(Write::Columns(names(list)));
    }
    match (args.on_finding, &args.rejects) {
        (Some(action), Some(_)) if action != Action::Reject => {
            return Err(Problem::said(
                format!(
                    "--rejects takes rows with a finding out of the output, and --on-finding {} \
                    does not.",
                    action.name()
                ),
                "Leave one of the two out.",
            ));
        }
        (None, Some(_)) => jig.on_finding = Some(Action::Reject),
        (said, _) => jig.on_finding = said.or(jig.on_finding),
    }
    Ok(jig)
}

/// What is written, in order.
fn out_columns(jig: &Jig, columns: &[String], plan: &Plan) -> Result<Vec<OutColumn>, Problem> {
    let new = || (0..plan.outputs().len()).map(OutColumn::New);
    let replaced =
        |place: usize| plan.outputs().iter().position(|output| output.replaces == Some(place));
    let old = |place: usize| replaced(place).map_or(OutColumn::Source(place), OutColumn::New);
    match &jig.write {
        Some(Write::Word(_)) if plan.outputs().is_empty() => Err(Problem::said(
            "every cut makes a helper column, so there is no new column to write.",
            "A name that begins with _ is not written.",
        )),
        Some(Write::Word(_)) => Ok(new().collect()),
        Some(Write::Columns(names)) => {
            names.iter().map(|name| chosen(name, columns, plan, old)).collect()
        }
        None => {
            let replaces = |column: &OutColumn| match column {
                OutColumn::New(n) => plan.outputs()[*n].replaces.is_some(),
                OutColumn::Source(_) => false,
            };
            let added = new().filter(|column| !replaces(column));
            Ok((0..columns.len()).map(old).chain(added).collect())
        }
    }
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

fn chosen(
    name: &str,
    columns: &[String],
    plan: &Plan,
    old: impl Fn(usize) -> OutColumn,
) -> Result<OutColumn, Problem> {
    if let Some(place) = plan.outputs().iter().position(|output| output.name == name) {
        return Ok(OutColumn::New(place));
    }
    let inside = name.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')).unwrap_or(name);
    let places: Vec<usize> = (0..columns.len()).filter(|place| columns[*place] == inside).collect();
    if let [place] = places.as_slice() {
        return Ok(old(*place));
    }
    let by_place =
        inside.strip_prefix("column ").and_then(|figure| figure.trim().parse::<usize>().ok());
    if let Some(place) = by_place.filter(|place| (1..=columns.len()).contains(place)) {
        return Ok(old(place - 1));
    }
    if places.len() > 1 {
        return Err(Problem::said(
            format!("--columns: {} columns are called {name}.", places.len()),
            format!("Take one by its place: column {}.", places[0] + 1),
        ));
    }
    let known: Vec<&str> = columns
        .iter()
        .map(String::as_str)
        .chain(plan.outputs().iter().map(|output| output.name.as_str()))
        .collect();
    let near = nearest(name, known.iter().copied())
        .map_or(String::new(), |near| format!("The nearest is {near}. "));
    Err(Problem::said(
        format!("--columns: there is no column {name}."),
        format!("{near}The columns are: {}.", known.join(", ")),
    ))
}
