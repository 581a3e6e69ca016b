//! `notch compare`: two cuts side by side, and the rows where they differ.

use std::process::ExitCode;
use std::sync::{Arc, Mutex, PoisonError};

use keen_notch_core::{Layouts, Plan, PlanOptions};
use keen_notch_table::{
    Carving, Finished, NewFile, OutColumn, OutputColumns, Row, RowFormat, RowSink, Source, Table,
    TableError, Whereabouts, WhichCells, carve, write_cell,
};

use super::files::files_differ;
use super::session::{say_called, say_hint, say_hints, say_notices, shown};
use super::survey::{kind_of, layouts_of};
use super::trace;
use crate::cli::Compare;
use crate::ends::interrupted;
use crate::jig::Jig;
use crate::pages::{PageHead, compare_page, save_page};
use crate::show::{
    Comparison, Differing, Problem, compared_in_words, comparison, comparison_json, print,
    print_json, say, shell_word, visible,
};

/// What the columns compared are called inside.
const NAMES: [&str; 2] = ["first", "second"];

pub fn run(args: &Compare) -> Result<ExitCode, Problem> {
    let mut jig = jig_to_compare(args)?;
    let above = jig.cuts.len() - NAMES.len();
    let outputs =
        [("the file of differences", args.all_to.as_ref()), ("the page", args.page.file.as_ref())];
    files_differ(&args.table, &jig, &outputs)?;
    let source = Source::from_argument(&args.table);
    let table = Table::open(&source, &args.reading.options())?;
    let called = jig.called(table.columns())?;
    let (mut checks, mut columns) = (Vec::new(), Vec::new());
    std::mem::swap(&mut jig.checks, &mut checks);
    std::mem::swap(&mut jig.columns, &mut columns);
    let options =
        PlanOptions { byte_width: table.byte_width(), ..jig.plan_options(&called.columns) };
    let plan = jig.compile(&called.columns, &options)?;
    say_notices(&table);
    say_called(&called);
    let name = table.name().to_owned();

    let seen = Arc::new(Mutex::new(Comparison::default()));
    let origin = plan
        .origin(above)
        .or(plan.origin(above + 1))
        .map(|origin| OutColumn::Source(plan.sources()[origin].index));
    // Rows are grouped by layout where these say more than shapes, in a pass of their own.
    let layouts = match origin {
        Some(OutColumn::Source(place)) if source.can_be_read_again() => {
            layouts_of(Table::open(&source, &args.reading.options())?, place)?
        }
        _ => Layouts::default(),
    };
    let sink = Sink {
        layouts,
        has_origin: origin.is_some(),
        examples: args.examples,
        seen: Arc::clone(&seen),
        all_to: args.all_to.as_deref().map(NewFile::create).transpose()?,
        line: Vec::new(),
        places: Whereabouts::default(),
    };
    let outputs = plan.outputs().len();
    let carving = Carving {
        lists_unreadable: true,
        interrupt: Some(interrupted()),
        ..Carving::new(
            &plan,
            [OutColumn::New(outputs - 2), OutColumn::New(outputs - 1)]
                .into_iter()
                .chain(origin)
                .collect(),
        )
    };
    let done = carve(table, &carving, Box::new(sink))?;
    let mut seen = std::mem::take(&mut *seen.lock().unwrap_or_else(PoisonError::into_inner));
    seen.unreadable = done.unreadable;
    let origin = origin.and_then(|column| match column {
        OutColumn::Source(place) => Some(called.columns[place].as_str()),
        OutColumn::New(_) => None,
    });
    if !args.json {
        jig.cuts.iter().flat_map(|cut| &cut.assignment.hints).for_each(|hint| say_hint(hint));
        say_hints(&plan, &done);
    }
    show(args, &seen, &name, (&done.places, origin))?;
    Ok(if seen.differ == 0 { ExitCode::SUCCESS } else { ExitCode::from(1) })
}

/// Prints what was seen, and writes the page; `origin` is the column that both cuts start from.
fn show(
    args: &Compare,
    seen: &Comparison,
    name: &str,
    (places, origin): (&Whereabouts, Option<&str>),
) -> Result<(), Problem> {
    let cuts = [args.first.as_str(), args.second.as_str()];
    let values = comparison_json(seen, cuts, name, places);
    if let Some(path) = &args.page.file {
        let head = PageHead {
            title: format!("Do two cuts give the same in {name}?"),
            table: name,
            jigs: args.jig.iter().map(|path| path.display().to_string()).collect(),
            day: args.page.day.as_deref(),
            shows_texts: !args.page.no_texts,
        };
        save_page(path, &compare_page(&head, &values, &compared_in_words(seen, name)))?;
        say(format_args!("The page {} shows this to people without a terminal.\n", shown(path)));
    }
    if args.json {
        return Ok(print_json(&values)?);
    }
    print(comparison(seen, cuts, name, places))?;
    if let Some(column) = origin.filter(|_| seen.differ > 0) {
        let (table, column) = (shell_word(&visible(name)), shell_word(&visible(column)));
        print(format_args!(
            "\nNeither? Show what you want: notch learn {table} -c {column} 'CELL => PIECE'\n"
        ))?;
    }
    Ok(())
}

/// The jig with the two cuts below its own.
fn jig_to_compare(args: &Compare) -> Result<Jig, Problem> {
    let mut jig = Jig::read(&args.jig)?;
    jig.column = args.column.clone().or(jig.column);
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
    Ok(jig)
}

/// Looks at each row, and writes those that differ to a file if one is wanted. The columns are what
/// the two cuts give, and what they start from.
struct Sink {
    layouts: Layouts,
    /// There is a column they start from.
    has_origin: bool,
    examples: usize,
    seen: Arc<Mutex<Comparison>>,
    all_to: Option<NewFile>,
    line: Vec<u8>,
    places: Whereabouts,
}

impl Sink {
    /// Writes the cells of a row; the last one, the file, where there are several.
    fn write(&mut self, cells: [&str; 6]) -> Result<(), TableError> {
        let Some(out) = &mut self.all_to else { return Ok(()) };
        self.line.clear();
        for (n, cell) in cells.iter().take(if self.places.has_files() { 6 } else { 5 }).enumerate()
        {
            if n > 0 {
                self.line.push(b',');
            }
            write_cell(cell, b',', &mut self.line);
        }
        self.line.push(b'\n');
        out.write(&self.line)
    }

    fn compare(
        &mut self,
        number: u64,
        line: u64,
        [first, second, cell]: [&str; 3],
    ) -> Result<(), TableError> {
        let same = first == second;
        {
            let mut seen = self.seen.lock().unwrap_or_else(PoisonError::into_inner);
            seen.count(first, second);
            if !same {
                let texts = || [cell, first, second].map(str::to_owned);
                seen.differs(kind_of(&self.layouts, cell), self.examples, || Differing {
                    row: number,
                    line,
                    texts: texts(),
                });
            }
        }
        if same || self.all_to.is_none() {
            return Ok(());
        }
        let (line, file) = self.places.stood(line);
        self.write([
            &number.to_string(),
            &line.to_string(),
            cell,
            first,
            second,
            file.as_deref().unwrap_or_default(),
        ])
    }
}

impl RowSink for Sink {
    fn begin(&mut self, table: &Table, _: &Plan, _: &[OutColumn]) -> Result<(), TableError> {
        self.places = table.whereabouts();
        self.write(["row", "line", "cell", "first", "second", "file"])
    }

    fn row(&mut self, row: &Row<'_>, _: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        let cell = |n: usize| match columns.get(n) {
            Some(OutColumn::Source(place)) => row.source_cell(*place),
            Some(OutColumn::New(place)) => row.new_cell(*place).into(),
            None => "".into(),
        };
        self.compare(row.number(), row.line(), [&cell(0), &cell(1), &cell(2)])
    }

    fn row_format(&self) -> Option<RowFormat> {
        Some(RowFormat::cells(WhichCells::All))
    }

    fn cells(&mut self, rows: &mut OutputColumns) -> Result<(), TableError> {
        for row in 0..rows.len() {
            let (number, line) = rows.place(row);
            let cell = if self.has_origin { rows.cell(row, 2) } else { "" };
            self.compare(number, line, [rows.cell(row, 0), rows.cell(row, 1), cell])?;
        }
        Ok(())
    }

    fn finish(self: Box<Self>) -> Result<Finished, TableError> {
        self.all_to.map_or_else(|| Ok(Finished::default()), Finished::file)
    }
}
