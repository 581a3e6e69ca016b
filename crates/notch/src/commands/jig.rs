//! `notch jig`: jigs to read, and their schema.

use std::process::ExitCode;

use crate::cli::JigCommand;
use crate::jig::Jig;
use crate::jig::file::JigFile;
use crate::show::{Problem, jig_page, print};

pub fn run(command: &JigCommand) -> Result<ExitCode, Problem> {
    match command {
        JigCommand::Show { files } => {
            let jig = Jig::read(files)?;
            let names: Vec<String> = files.iter().map(|file| file.display().to_string()).collect();
            print(jig_page(&jig, &names.join(", ")))?;
        }
        JigCommand::Schema => print(format_args!("{}\n", schema()))?,
    }
    Ok(ExitCode::SUCCESS)
}

/// The JSON Schema of jigs.
fn schema() -> String {
    format!("{:#}", schemars::schema_for!(JigFile).as_value())
}
