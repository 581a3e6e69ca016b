//! `notch jig`.

use std::path::PathBuf;

use clap::{Args, Subcommand};

use super::Reading;

/// A jig that shows what one may hold.
pub(super) const SHORT_JIG: &str = r#"A short one:

  title = "Seed lots"
  column = "lot"                  # where a cut starts that names no column

  [lists]                         # values that checks and cuts may name
  houses = ["FH", "GR", "ML", "TS"]

  [columns]                       # what the table itself must be like
  lot = { required = true, unique = true }

  [cuts]                          # new columns, made and written in this order
  house = 'part 1 by "-" | check is in houses'
  serial = { cut = 'part 4 by "-" | pad left 8 with "0"', about = "running number of the year" }
  first_sown = '{dates} | before "/" or end'

  [checks]                        # what must hold for a row as a whole
  "no empty lots" = '{seeds} value > 0'

Written for a table of yours by: notch jig new TABLE -o FILE.toml"#;

/// `notch jig`.
#[derive(Debug, Subcommand)]
pub enum JigCommand {
    /// Print jigs as a page to read: each cut, what it starts from, its steps in words, its checks.
    Show {
        /// The jigs.
        #[arg(required = true, value_name = "FILE")]
        files: Vec<PathBuf>,
    },
    /// Write a first jig for a table, with comments, from what nearly all of its rows have in
    /// common.
    #[command(
        after_help = "  notch jig new lots.csv -c lot -o lots.toml\n  notch check lots.csv -j lots.toml"
    )]
    New(Box<NewJig>),
    /// Print the JSON Schema of jigs, for editors.
    Schema,
}

/// `notch jig new`.
#[derive(Debug, Args)]
pub struct NewJig {
    /// The table: CSV, JSON, Parquet, Arrow, a workbook, an SQLite file, postgres://…; a folder or
    /// a 'pattern*'; - is standard input.
    pub table: PathBuf,
    /// The columns to look at; all when none is given.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Vec<String>,
    /// Write the jig into this file, which must not be there yet; standard output when not given.
    #[arg(short, long, value_name = "FILE")]
    pub output: Option<PathBuf>,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}
