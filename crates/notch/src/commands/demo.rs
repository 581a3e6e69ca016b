//! `notch demo`.
use crate::cli::Demo;
use crate::show::Problem;
use std::process::ExitCode;
pub fn run(_args: &Demo) -> Result<ExitCode, Problem> {
    Ok(ExitCode::SUCCESS)
}
