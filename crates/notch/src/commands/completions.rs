//! `notch completions` and `notch manual`: made of the same definition as the command line itself.

use std::io;
use std::process::ExitCode;

use clap::CommandFactory;
use notch_table::TableError;

use crate::cli::{Cli, Completions, Manual};
use crate::show::{Problem, print, say};

pub fn completions(args: &Completions) -> Result<ExitCode, Problem> {
    let mut script = Vec::new();
    clap_complete::generate(args.shell, &mut Cli::command(), "notch", &mut script);
    print(String::from_utf8_lossy(&script))?;
    Ok(ExitCode::SUCCESS)
}

pub fn manual(args: &Manual) -> Result<ExitCode, Problem> {
    let failed = |cause: io::Error| TableError::Io { name: args.folder.display().to_string(), what: "cannot be written", cause };
    std::fs::create_dir_all(&args.folder).map_err(failed)?;
    clap_mangen::generate_to(Cli::command(), &args.folder).map_err(failed)?;
    say(format_args!("The manual pages are in {}.\n", args.folder.display()));
    Ok(ExitCode::SUCCESS)
}
