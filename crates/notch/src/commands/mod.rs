//! The commands.

pub(crate) mod carve;
mod check;
mod compare;
mod completions;
mod demo;
pub(crate) mod files;
mod jig;
pub(crate) mod learn;
mod second_pass;
mod session;
pub(crate) mod survey;
mod trace;
mod words;

use std::process::ExitCode;

use crate::bench;
use crate::cli::{Cli, Command};
use crate::show::Problem;

/// Does what the command line says.
pub fn run(cli: &Cli) -> Result<ExitCode, Problem> {
    match &cli.command {
        Command::Bench(args) => bench::run(args, cli.color.is_wanted()),
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
