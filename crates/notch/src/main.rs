//! `notch`: takes fixed positions, sections and numbers out of a column of codes, and says which rows did not fit.

mod cli;
mod commands;
mod jig;
mod show;

use std::process::ExitCode;

use clap::Parser;

use crate::cli::Cli;

fn main() -> ExitCode {
    let cli = Cli::parse();
    cli.color.apply();
    match commands::run(&cli.command) {
        Ok(status) => status,
        Err(problem) if problem.is_closed_pipe() => ExitCode::SUCCESS,
        Err(problem) => {
            show::say(&problem);
            ExitCode::from(problem.status())
        }
    }
}
