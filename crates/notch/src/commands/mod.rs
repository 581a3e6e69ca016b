//! The commands.

mod carve;
mod check;
mod compare;
mod completions;
mod demo;
mod files;
mod jig;
mod learn;
mod second_pass;
mod session;
mod survey;
mod trace;
mod words;

use std::process::ExitCode;

use crate::cli::Command;
use crate::show::Problem;

/// Does what the command line says.
pub fn run(command: &Command) -> Result<ExitCode, Problem> {
    match command {
        Command::Carve(args) => carve::run(args),
        Command::Check(args) => check::run(args),
        Command::Compare(args) => compare::run(args),
        Command::Completions(args) => completions::completions(args),
        Command::ColumnNames { words } => completions::column_names(words),
        Command::Manual(args) => completions::manual(args),
        Command::Jig(args) => jig::run(args),
        Command::Learn(args) => learn::run(args),
        Command::Survey(args) => survey::run(args),
        Command::Trace(args) => trace::run(args),
        Command::Words(args) => words::run(args),
        Command::Demo(args) => demo::run(args),
    }
}
