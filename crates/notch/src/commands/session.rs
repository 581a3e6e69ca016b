//! What `carve` and `check` have in common: jigs and the command line → one jig → the plan for a
//! table.
//!
//! [`Session::begin`] opens the table and compiles the plan, and whatever can be refused is refused
//! there, before any output is begun.

use std::path::Path;

use keen_notch_core::Plan;
use keen_notch_table::{ReadOptions, Source, Summary, Table, shown_path};

use crate::cli::{Making, Reading, separator};
use crate::jig::{Called, Jig, ReadAllowance, ReadCut};
use crate::show::{Problem, hints, say, visible};

/// A table opened, and the plan made for it.
pub struct Session {
    /// What is to be done and expected.
    pub jig: Jig,
    /// Where the table can be read from, again if need be.
    pub source: Source,
    /// How it is read.
    pub options: ReadOptions,
    /// The table at its first row.
    pub table: Table,
    /// Its columns as the jig calls them.
    pub called: Called,
    /// The jig compiled for its columns.
    pub plan: Plan,
}

impl Making {
    /// The jigs, then what the command line says.
    ///
    /// # Errors
    /// What is wrong with a jig, a cut or an allowance.
    pub fn read(&self) -> Result<Jig, Problem> {
        let mut jig = Jig::read(&self.jig)?;
        for text in &self.cuts {
            jig.cuts.push(ReadCut::typed(text).map_err(|problem| unfinished(text, problem))?);
        }
        jig.column = self.column.clone().or(jig.column);
        for text in &self.allow {
            let read = ReadAllowance::typed(text)?;
            jig.allow.retain(|known| known.name != read.name);
            jig.allow.push(read);
        }
        if let Some(byte) = self.reading.separator {
            jig.separator =
                Some(if byte == b'\t' { "tab".to_owned() } else { char::from(byte).to_string() });
        }
        if self.reading.no_header {
            jig.header = Some(false);
        }
        for name in &self.replace {
            // What the jig cannot say of one cut is an error the plan names.
            jig.cuts
                .iter_mut()
                .filter(|cut| cut.assignment.names.iter().any(|made| made.text == *name))
                .for_each(|cut| cut.replace = true);
        }
        Ok(jig)
    }
}

impl Session {
    /// Opens the table and compiles the jig for it.
    ///
    /// # Errors
    /// The table cannot be read, or the jig does not suit it.
    pub fn begin(mut source: Source, making: &Making, jig: Jig) -> Result<Self, Problem> {
        let options = ReadOptions {
            separator: jig.separator.as_deref().map(separator).transpose().map_err(|problem| {
                Problem::said(
                    format!("the jig's separator cannot be used: {problem}."),
                    "Take it out to have the separator found by looking.",
                )
            })?,
            no_header: jig.header == Some(false),
            ..making.reading.options()
        };
        if jig.asks_unique() && making.twice.is_none() {
            source = source.to_be_read_again()?;
        }
        let mut table = Table::open(&source, &options)?;
        let called = jig.called(table.columns())?;
        for column in &jig.columns {
            let place = called.columns.iter().position(|name| *name == column.rule.column);
            if let (Some(place), Some(output_type)) = (place, column.rule.output_type) {
                table.write_as(place, output_type);
            }
        }
        let mut plan_options = jig.plan_options(&called.columns);
        plan_options.byte_width = table.byte_width();
        plan_options.cell_limit = making.cell_limit.map(|mebibytes| usize::from(mebibytes) << 20);
        plan_options.replace.extend(
            making
                .replace
                .iter()
                .filter(|name| !plan_options.replace.contains(name))
                .cloned()
                .collect::<Vec<_>>(),
        );
        let plan = jig
            .compile(&called.columns, &plan_options)
            .map_err(|problem| divided(problem, &table))?;
        jig.check_allowances(&plan)?;
        Ok(Self { jig, source, options, table, called, plan })
    }

    /// Says what is odd about the table and the cuts.
    pub fn notices(&self) {
        say_notices(&self.table);
        say_called(&self.called);
        self.jig.cuts.iter().flat_map(|cut| &cut.assignment.hints).for_each(|hint| say_hint(hint));
    }
}

impl Reading {
    /// What the command line says, for the reader of tables.
    pub fn options(&self) -> ReadOptions {
        ReadOptions {
            separator: self.separator,
            no_header: self.no_header,
            sheets: self.sheet.clone(),
            sheet_column: self.sheet_column.clone(),
            header_row: self.header_row,
            unpack_limit: self.unpack_limit.map(|megabytes| megabytes.saturating_mul(1_000_000)),
            encoding: self.encoding,
            from: self.from,
            query: self.query.clone(),
            table_name: self.table_name.clone(),
            timeout: self.timeout,
            file_column: self.file_column.clone(),
            threads: self.threads.map(usize::from),
        }
    }
}

/// Says what is odd about a table.
pub fn say_notices(table: &Table) {
    table.notices().iter().for_each(|notice| say(format_args!("{}\n", visible(notice))));
}

/// Says which columns the table calls otherwise than the jig.
pub fn say_called(called: &Called) {
    called.said.iter().for_each(|said| say(format_args!("{}\n", visible(said))));
}

/// The path of a file, to be shown.
pub fn shown(path: &Path) -> String {
    visible(&shown_path(path))
}

/// Says what the rows have shown of the cuts.
pub fn say_hints(plan: &Plan, done: &Summary) {
    hints(plan, &done.tally, |line| done.places.line(line)).iter().for_each(|hint| say_hint(hint));
}

/// Says what is worth saying of a cut that works all the same; in one line, so that a cut in it can
/// be copied.
pub fn say_hint(hint: &str) {
    say(format_args!("Hint: {}\n", visible(hint)));
}

/// A problem with a table that came out as one column: the sign that may divide it is said.
fn divided(mut problem: Problem, table: &Table) -> Problem {
    if let Some((sign, times)) = table.likely_separator() {
        let times = if times == 1 { "once".to_owned() } else { format!("{times} times") };
        let remedy = format!(
            "The table came out as one column, and each line has “{sign}” {times}: --separator \
            '{sign}'."
        );
        match &mut problem {
            Problem::Cut { error, .. } => error.remedies.push(remedy),
            Problem::Said { remedies, .. } => remedies.push(remedy),
            Problem::Several(problems) => {
                problems.push(Problem::said("all of these may have one cause.", remedy))
            }
            Problem::Table(_) => {}
        }
    }
    problem
}

/// A problem with a word that is no step: when the table has a column of that name, that is said,
/// too.
pub fn with_column(problem: Problem, table: &Path, reading: &Reading) -> Problem {
    problem.map(&mut |problem| with_column_of(problem, table, reading))
}

fn with_column_of(problem: Problem, table: &Path, reading: &Reading) -> Problem {
    let Problem::Cut { what, text, place, mut error } = problem else { return problem };
    if let Some(word) = error.perhaps_column.take() {
        let opened = Table::open(&Source::from_argument(table), &reading.options());
        let is_column = table != Path::new("-")
            && opened.is_ok_and(|table| table.columns().iter().any(|name| **name == *word));
        let remedy = format!("The column of that name stands in braces: {{{word}}}.");
        if is_column {
            error.remedies.push(remedy);
        }
    }
    Problem::Cut { what, text, place, error }
}

/// A file that stands where a cut is wanted.
fn unfinished(text: &str, problem: Problem) -> Problem {
    match problem {
        Problem::Cut { .. } if !text.contains('=') && Path::new(text).exists() => Problem::said(
            format!("{text} is a file, and a cut was expected there."),
            "A table stands first, then the cuts: notch carve TABLE 'NAME = CUT'. A jig is given \
            with -j.",
        ),
        problem => problem,
    }
}
