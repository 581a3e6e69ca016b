//! The program `notch`: takes fixed positions, sections and numbers out of a column of codes, and
//! says which rows did not fit.
//!
//! It is a library only so that its readers can be tested apart; `main.rs` calls [`run`].

mod bench;
mod cli;
mod commands;
mod ends;
mod jig;
mod memory;
mod pages;
mod show;

use std::io::{ErrorKind, IsTerminal, stderr};
use std::path::Path;
use std::process::ExitCode;

use clap::Parser;
use keen_notch_table::{standard_output_is_closed, visible};

use crate::cli::{Cli, Command};
use crate::show::Problem;

/// Does what the command line says, and returns the exit status.
pub fn run() -> ExitCode {
    ends::watch();
    let cli = match Cli::try_parse_from(cli::arguments()) {
        Ok(cli) => cli,
        Err(said) => return told(&said),
    };
    cli.color.apply();
    memory::set_budget(cli.memory);
    match run_command(&cli) {
        Ok(status) => status,
        // Who reads our output has seen enough.
        Err(problem) if problem.is_closed_pipe() || standard_output_is_closed() => {
            ExitCode::SUCCESS
        }
        Err(problem) => {
            show::say(&problem);
            if let Command::Carve(args) = &cli.command
                && problem.is_of_typed_cut()
                && stderr().is_terminal()
            {
                show::say(format_args!(
                    "Or type it and see: {}\n",
                    commands::carve::bench_of(args)
                ));
            }
            ExitCode::from(problem.status())
        }
    }
}

/// Does what the command line says.
fn run_command(cli: &Cli) -> Result<ExitCode, Problem> {
    match &cli.command {
        Command::Bench(args) => bench::run(args, cli.color.is_wanted()),
        Command::Carve(args) => commands::carve::run(args),
        Command::Check(args) => commands::check::run(args),
        Command::Tally(args) => commands::tally::run(args),
        Command::Compare(args) => commands::compare::run(args),
        Command::Completions(args) => commands::completions::completions(args),
        Command::ColumnNames { words } => commands::completions::column_names(words),
        Command::Manual(args) => commands::completions::manual(args),
        Command::Jig(args) => commands::jig::run(args),
        Command::Learn(args) => commands::learn::run(args),
        Command::Survey(args) => commands::survey::run(args),
        Command::Trace(args) => commands::trace::run(args),
        Command::Words(args) => commands::words::run(args),
        Command::Demo(args) => commands::demo::run(args, run_command),
    }
}

/// Returns whether a file can be read as a jig; for tests of the reader with broken files.
pub fn is_jig(path: &Path) -> bool {
    jig::Jig::read(&[path.to_owned()]).is_ok()
}

/// Prints help, the version, or what is wrong with the command line.
fn told(said: &clap::Error) -> ExitCode {
    let status = ExitCode::from(u8::try_from(said.exit_code()).unwrap_or(2));
    // Where an argument holds control or format characters they are drawn, and then there are no
    // colours.
    if std::env::args_os()
        .any(|argument| visible(&argument.to_string_lossy()) != argument.to_string_lossy())
    {
        let shown: Vec<String> = said.to_string().split('\n').map(visible).collect();
        show::say(shown.join("\n"));
        return status;
    }
    match said.print() {
        Err(cause) if cause.kind() != ErrorKind::BrokenPipe => {
            show::say(format_args!("Stopped: standard output cannot be written: {cause}.\n"));
            ExitCode::from(2)
        }
        _ => status,
    }
}
