//! `notch bench`: the workbench.
//!
//! | module | holds |
//! | --- | --- |
//! | `state` | all that the bench knows |
//! | `keys`, `mouse` | what follows from a key or a click: a plain function from a state to the next |
//! | `cuts`, `field`, `offers`, `ruler`, `save`, `actions` | the parts of the state |
//! | `rows`, `count`, `tally`, `look`, `learn` | what the cuts make of rows; all of it comes from the core |
//! | `app`, `settle`, `saving` | the bench at work: keys and reports in, the state on and what follows from it, the screen out; the jig and the table written |
//! | `jobs` | what goes on beside the keys |
//! | `view` | the screen, drawn from the state |
//! | `screen` | the terminal, taken and given back |
//! | `parting` | what is printed on leaving |

mod actions;
mod app;
mod count;
mod cuts;
mod field;
mod jobs;
mod keys;
mod learn;
mod look;
mod mouse;
mod offers;
mod parting;
mod rows;
mod ruler;
mod save;
mod saving;
mod screen;
mod settle;
mod state;
mod tally;
mod view;

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use keen_notch_table::{AnyRow, ReadOptions, Source, remove_parts};

use self::app::App;
use self::cuts::{BenchCut, first_sentence};
use self::keys::take_column;
use self::state::{Ask, Open, OpenTable, State};
use crate::cli::{Bench, separator};
use crate::commands::survey::place;
use crate::jig::Jig;
use crate::show::{Problem, print, say};

/// Opens the bench, and returns when it is left.
///
/// # Errors
/// There is no terminal, or the table cannot be opened.
pub fn run(args: &Bench, colors: bool) -> Result<ExitCode, Problem> {
    let is_standard_input = args.table == Path::new("-");
    if !screen::is_there(is_standard_input) {
        return Err(Problem::said(
            "bench needs a terminal; use notch carve --preview or notch trace.",
            "Both show what cuts make of rows, and need none.",
        ));
    }
    let OpenJig { mut jig, mut message, file: jig_file } = OpenJig::read(args.jig.as_deref());
    // The command line comes after the jig.
    let options = ReadOptions {
        separator: args.reading.separator.or_else(|| separator(jig.separator.as_deref()?).ok()),
        no_header: args.reading.no_header || jig.header == Some(false),
        ..args.reading.options()
    };
    let source = Source::from_argument(&args.table).to_be_read_again()?;
    let (any_row, finder) = AnyRow::open(&source, &options)?;
    let mut columns = any_row.columns().to_vec();
    match jig.called(&columns) {
        Ok(called) => {
            columns = called.columns;
            message = message.or_else(|| called.said.into_iter().next());
        }
        Err(problem) => message = message.or_else(|| Some(first_sentence(&problem))),
    }
    if let Some(column) = &args.column {
        jig.column = Some(column.clone());
    }
    let column = match &jig.column {
        Some(column) => match place(column, &columns) {
            Ok(place) => Some(place),
            Err(problem) if args.column.is_some() => return Err(problem),
            Err(problem) => {
                message.get_or_insert(first_sentence(&problem));
                None
            }
        },
        None => (columns.len() == 1).then_some(0),
    };
    let mut cuts = take_cuts(&mut jig);
    cuts.extend(args.cuts.iter().map(|text| BenchCut::of(text.as_str())));
    let table = OpenTable {
        path: args.table.clone(),
        name: source.name(),
        columns,
        column,
        rows: 0,
        is_whole: false,
    };
    let mut state = State::of(table, jig, cuts);
    state.jig_file = jig_file.or_else(|| {
        let path = args.jig.clone().filter(|path| !path.exists())?;
        Some((path, Vec::new()))
    });
    state.message = message.or_else(|| state.judged.problem.clone());
    if state.table.column.is_none() {
        state.open = Open::Columns { typed: field::Field::default(), chosen: 0, begins_cut: false };
    }
    let mut asks = take_column(&mut state, column);
    if column.is_none() {
        asks.push(Ask::Glance);
    }
    let mut app = App::new(state, any_row, (source, options), args, colors);
    let done = app.run(finder, asks);
    screen::give_back();
    crate::ends::before_the_end(None);
    // Jobs that still run may hold a copy of the table.
    remove_parts();
    let status = done?;
    let (command, said) = app.parting().finish(status != 0);
    say(said);
    print(command)?;
    Ok(ExitCode::from(status))
}

/// The jig that the bench opens with.
#[derive(Default)]
struct OpenJig {
    jig: Jig,
    /// What is wrong with it.
    message: Option<String>,
    /// Its file, and the bytes that were read of it.
    file: Option<(PathBuf, Vec<u8>)>,
}

impl OpenJig {
    /// Reads what can be read of a file that is there.
    fn read(path: Option<&Path>) -> Self {
        let Some(path) = path.filter(|path| path.exists()) else { return Self::default() };
        let (jig, problem) = Jig::read_as_far_as_possible(&[path.to_owned()]);
        let message = problem.map(|problem| first_sentence(&problem));
        // One that is no jig at all is not written over without a question.
        let is_read = !jig.cuts.is_empty() || message.is_none() || !jig.unread.is_empty();
        let bytes = std::fs::read(path).ok().filter(|_| is_read);
        Self { jig, message, file: bytes.map(|bytes| (path.to_owned(), bytes)) }
    }
}

/// The cuts of a jig in their order, those that cannot be read among them.
fn take_cuts(jig: &mut Jig) -> Vec<BenchCut> {
    let mut cuts: Vec<BenchCut> =
        std::mem::take(&mut jig.cuts).into_iter().map(BenchCut::of_jig).collect();
    for unread in std::mem::take(&mut jig.unread).into_iter().rev() {
        cuts.insert(unread.before.min(cuts.len()), BenchCut::of(unread.text));
    }
    cuts
}
