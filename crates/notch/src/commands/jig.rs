//! `notch jig`: jigs to read, and their schema.

use std::process::ExitCode;

use super::files::files_differ;
use super::session::shown;
use super::survey::look;
use crate::cli::{JigCommand, NewJig};
use crate::jig::Jig;
use crate::jig::file;
use crate::show::{Problem, jig_page, print};

pub fn run(command: &JigCommand) -> Result<ExitCode, Problem> {
    match command {
        JigCommand::Show { files } => {
            let jig = Jig::read(files)?;
            let names: Vec<String> = files.iter().map(|file| file.display().to_string()).collect();
            print(jig_page(&jig, &names.join(", ")))?;
        }
        JigCommand::New(args) => new(args)?,
        JigCommand::Schema => print(format_args!("{}\n", schema()))?,
    }
    Ok(ExitCode::SUCCESS)
}

/// Writes a first jig for a table.
fn new(args: &NewJig) -> Result<(), Problem> {
    // A jig is written by hand, sooner or later.
    if let Some(path) = args.output.as_ref().filter(|path| path.exists()) {
        let remedy = "Name another file, and take over from it what you want.";
        return Err(Problem::said(format!("{} is there already.", shown(path)), remedy));
    }
    files_differ(&args.table, &Jig::default(), &[("the jig", args.output.as_ref())])?;
    let look = look(&args.table, &args.reading, &args.column, 1, None)?;
    match &args.output {
        Some(path) => look.save_draft(path),
        None => Ok(print(look.draft("FILE.toml"))?),
    }
}

/// What editors know the schema of jigs by (JSON Schema 2020-12, Core, section 8.2.1); it changes
/// with what a jig may hold.
const SCHEMA_ID: &str = "urn:keen-notch:jig:1";

/// The JSON Schema of jigs.
fn schema() -> String {
    let mut schema = file::schema();
    schema["$id"] = SCHEMA_ID.into();
    format!("{schema:#}")
}
