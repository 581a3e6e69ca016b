//! What can be written on the command line.

mod jig;
mod options;

use std::ffi::OsString;
use std::path::PathBuf;

use clap::builder::{PossibleValuesParser, TypedValueParser};
use clap::{Args, Parser, Subcommand, ValueEnum};
use keen_notch_table::Format;

use self::jig::SHORT_JIG;
pub use self::jig::{JigCommand, NewJig};
pub use self::options::{Making, PageOptions, Reading, TallyOptions, separator};
use self::options::{PARTS, file_or_descriptor};
use crate::jig::Action;

/// Keen Notch takes fixed positions, sections and numbers out of a column of codes, and says which
/// rows did not fit.
#[derive(Debug, Parser)]
#[command(
    name = "notch",
    version,
    arg_required_else_help = true,
    disable_help_subcommand = true,
    max_term_width = 110
)]
pub struct Cli {
    /// Colour in what is printed.
    #[arg(long, global = true, value_enum, default_value_t = Color::Auto, value_name = "WHEN")]
    pub color: Color,
    /// How much memory may be taken, in MB; a quarter of the machine's, at least 512, when not
    /// given.
    #[arg(long, global = true, value_name = "MB", value_parser = clap::value_parser!(u64).range(64..))]
    pub memory: Option<u64>,
    /// What to do.
    #[command(subcommand)]
    pub command: Command,
}

/// The command line. An example may begin with a minus, as numbers below zero do: it comes after
/// `--`, where it is no option.
pub fn arguments() -> Vec<OsString> {
    let is_example = |word: &OsString| {
        word.to_str().is_some_and(|word| word.starts_with('-') && word.contains("=>"))
    };
    let mut words: Vec<OsString> = std::env::args_os().collect();
    if words.iter().any(|word| word == "--") {
        return words;
    }
    let examples: Vec<OsString> = words.extract_if(1.., |word| is_example(word)).collect();
    if !examples.is_empty() {
        words.push("--".into());
        words.extend(examples);
    }
    words
}

/// When to print in colour.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Color {
    /// On a terminal, unless NO_COLOR is set.
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

impl Color {
    /// Whether colours are wanted on a terminal (NO_COLOR as <https://no-color.org> has it).
    pub fn is_wanted(self) -> bool {
        let is_refused = std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty());
        self != Color::Never && (self == Color::Always || !is_refused)
    }

    /// Makes it hold for everything printed from now on.
    pub fn apply(self) {
        match self {
            Color::Auto => anstream::ColorChoice::Auto,
            Color::Always => anstream::ColorChoice::Always,
            Color::Never => anstream::ColorChoice::Never,
        }
        .write_global();
    }
}

/// The commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Look before cutting: what the columns hold, what is odd, and which cuts suit them.
    #[command(after_help = "  notch survey lots.csv
  notch survey lots.csv -c lot
  notch survey lots.csv -c lot --save-jig lots.toml")]
    Survey(Survey),
    /// Cut new columns out of a table and write it.
    #[command(after_help = "A cut is NAME = STEPS, or NAME = {COLUMN} | STEPS:
  notch carve lots.csv -c lot 'year = part 2 by \"-\"' 'serial = part 4 by \"-\" | pad left 8 with \"0\"'
  notch carve keepers.csv 'domain = {email} | after last \"@\" | lower' -o keepers-cut.csv

Put each cut in single quotes, so that the shell leaves the quotes inside alone. `notch words` lists the steps.
Data goes to standard output, the summary to standard error. Exit status: 0 done, 1 findings with --strict, 2 when something stopped the work.")]
    Carve(Carve),
    /// Is every row as the jig expects? The findings by cut and kind, and no table written.
    #[command(after_help = "  notch check lots.csv -j lots.toml
  notch check lots-may.csv -j lots.toml --allow 'serial 0.5%' --findings odd.csv
Exit status: 0 all as expected, 1 findings, 2 when something stopped the work.")]
    Check(Check),
    /// Put together what carve, check or survey have counted in the parts of a table, each with
    /// --tally: what one run over all of them would have said.
    #[command(after_help = "  notch check lots-1.csv -j lots.toml --tally 1.json
  notch check lots-2.csv -j lots.toml --tally 2.json
  notch tally 1.json 2.json
Exit status: 0 all as expected, 1 findings, 2 when something stopped the work.")]
    Tally(TallyArgs),
    /// Do two cuts give the same? The rows where they differ, by the shape of what they were cut
    /// from.
    #[command(after_help = "  notch compare lots.csv -c lot 'part 4 by \"-\"' 'chars 13..17'
  notch compare parcels.csv 'number = {note} | number' '{qty_old}'
Exit status: 0 the same in every row, 1 they differ, 2 when something stopped the work.")]
    Compare(Compare),
    /// Show what is to come out of a cell or two, and get the cut that does it.
    #[command(
        after_help = "An example is 'CELL => PIECE'; nothing behind the arrow: blank on purpose.
  notch learn lots.csv -c lot 'GR-2026-TIL-43546-7 => 00043546'
  notch learn lots.csv -c lot 'GR-2026-TIL-43546-7 => GR | 2026' --names house,year
  notch learn parcels.csv -c note --like ref       a column in which somebody has filled in a few by hand
  notch learn 'AB-12 => 12' 'CD-7 => 7'            without a table: the simplest cut
Exit status: 0 found, 1 no cut gives all examples, 2 when the question is wrong."
    )]
    Learn(Learn),
    /// The workbench: type a cut or mark a piece, and see at once what comes out of every row.
    #[command(after_help = "  notch bench lots.csv
  notch bench lots.csv -c lot 'year = part 2 by \"-\"'
  notch bench lots.csv -j lots.toml
F1 shows everything that can be done there. On leaving, the command that does the same is printed.
Exit status: 0 left, 2 when it could not be opened.")]
    Bench(Bench),
    /// Write and read jigs: files of cuts, lists and checks.
    #[command(subcommand, after_help = SHORT_JIG)]
    Jig(JigCommand),
    /// Print what a shell needs to complete the commands and options of notch, and the columns
    /// after -c.
    #[command(
        after_help = "  bash:        notch completions bash > ~/.local/share/bash-completion/completions/notch
  zsh:         notch completions zsh > ~/.zfunc/_notch          (with ~/.zfunc in fpath)
  fish:        notch completions fish > ~/.config/fish/completions/notch.fish
  PowerShell:  notch completions powershell >> $PROFILE"
    )]
    Completions(Completions),
    /// Write the manual pages, one for each command.
    #[command(after_help = "  notch manual ~/.local/share/man/man1")]
    Manual(Manual),
    /// The names of the columns of the first of these words that is a table, one a line; shells ask
    /// for them.
    #[command(hide = true)]
    ColumnNames {
        /// The words of a command line.
        #[arg(trailing_var_arg = true, allow_hyphen_values = true)]
        words: Vec<std::ffi::OsString>,
    },
    /// Draw a ruler over sample texts and show where every notch of a cut falls, step by step.
    #[command(
        after_help = "Samples are texts, or rows of a table: the first row of every layout or shape its column has.
  notch trace 'part 4 by \"-\" | pad left 8 with \"0\"' FH-2019-BRA-00417-7
  notch trace 'part 4 by \"-\"' -t lots.csv -c lot
Without steps the ruler alone is drawn: notch trace '' FH-2019-BRA-00417-7"
    )]
    Trace(Trace),
    /// The language of cuts, word by word, with examples.
    Words(Words),
    /// Write the demo tables of the Fernhollow Seed Bank and run an example on them.
    Demo(Demo),
}

/// The options of what is written.
const WRITING: &str = "Writing the result";

/// `notch carve`.
#[derive(Debug, Args)]
pub struct Carve {
    /// The table: CSV, JSON, Parquet, Arrow, a workbook, an SQLite file, postgres://…; a folder or
    /// a 'pattern*'; - is standard input.
    pub table: PathBuf,
    /// The cuts.
    #[command(flatten)]
    pub making: Making,
    /// Write the table to this file instead of standard output (-), in the format its ending says.
    /// Never over the input.
    #[arg(help_heading = WRITING, short, long, value_name = "FILE")]
    pub output: Option<PathBuf>,
    /// Write in this format, whatever the ending of the output says.
    #[arg(help_heading = WRITING, long, value_name = "FORMAT", value_parser = PossibleValuesParser::new(Format::names()).try_map(|name| Format::of_name(&name).ok_or("no format")))]
    pub to: Option<Format>,
    /// The encoding of the text that is written; that of the table when not given.
    #[arg(help_heading = WRITING, long, value_name = "NAME", value_parser = keen_notch_table::encoding_of)]
    pub to_encoding: Option<&'static encoding_rs::Encoding>,
    /// What to call the table in a database that is written; as the table that is read when not
    /// given.
    #[arg(help_heading = WRITING, long, value_name = "NAME")]
    pub to_table: Option<String>,
    /// In a database, put the new table in the place of an old one of the same name.
    #[arg(help_heading = WRITING, long)]
    pub replace_table: bool,
    /// Write the new columns alone.
    #[arg(help_heading = WRITING, long, conflicts_with = "columns")]
    pub only: bool,
    /// Write these columns, old and new, in this order.
    #[arg(help_heading = WRITING, long, value_name = "A,B,C")]
    pub columns: Option<String>,
    /// Write only the rows for which this holds: '{house} is "FH"'.
    #[arg(help_heading = WRITING, long = "where", value_name = "CONDITION")]
    pub only_rows: Option<String>,
    /// Put the rows with a finding, and those that cannot be read, into this file instead of the
    /// output; fd:3 is what the shell has opened as 3.
    #[arg(help_heading = WRITING, long, value_name = "FILE", value_parser = file_or_descriptor())]
    pub rejects: Option<PathBuf>,
    /// What a finding does to its row; with --rejects FILE it is rejected.
    #[arg(help_heading = WRITING, long, value_enum, value_name = "WHAT")]
    pub on_finding: Option<Action>,
    /// End with exit status 1 when there are findings.
    #[arg(help_heading = WRITING, long)]
    pub strict: bool,
    /// Do not wait until the outputs are on the disk before they are given their names.
    #[arg(help_heading = WRITING, long)]
    pub no_sync: bool,
    /// In CSV, write cells that begin with = + - @ so that a spreadsheet program shows them instead
    /// of running them.
    #[arg(help_heading = WRITING, long)]
    pub guard_formulas: bool,
    /// Write a jig to this file that does what this command does.
    #[arg(help_heading = WRITING, long, value_name = "FILE")]
    pub save_jig: Option<PathBuf>,
    /// Show the first rows aligned, as on a terminal, instead of writing CSV.
    #[arg(help_heading = WRITING, long, value_name = "ROWS", num_args = 0..=1, default_missing_value = "10", conflicts_with_all = ["output", "to"])]
    pub preview: Option<usize>,
    /// Which rows a preview shows: one of each layout or shape of the column with -c, or those with
    /// a finding.
    #[arg(help_heading = WRITING, long, value_name = "WHICH", conflicts_with_all = ["output", "to"])]
    pub preview_by: Option<PreviewBy>,
    /// Say nothing about the work: no notices, no hints, no summary.
    #[arg(help_heading = WRITING, short, long)]
    pub quiet: bool,
    /// What is kept for notch tally.
    #[command(flatten)]
    pub tally: TallyOptions,
}

/// The rows of a preview.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum PreviewBy {
    /// The first of each layout, or of each shape where there are none, the commonest first.
    Layout,
    /// Those with a finding.
    Finding,
}

/// `notch tally`.
#[derive(Debug, Args)]
pub struct TallyArgs {
    /// What was written of each part with --tally.
    #[arg(required = true, value_name = "FILE")]
    pub parts: Vec<PathBuf>,
    /// How far the share of a shape may move from what is remembered, in points of a hundred.
    #[arg(long, value_name = "POINTS")]
    pub drift: Option<f64>,
    /// Print the report as JSON.
    #[arg(long)]
    pub json: bool,
}

/// `notch check`.
#[derive(Debug, Args)]
pub struct Check {
    /// The table: CSV, JSON, Parquet, Arrow, a workbook, an SQLite file, postgres://…; a folder or
    /// a 'pattern*'; - is standard input.
    pub table: PathBuf,
    /// The cuts.
    #[command(flatten)]
    pub making: Making,
    /// Write into the jig what its columns look like now; later runs report what no longer does.
    /// What was found is kept beside the jig, in NAME.runs.jsonl.
    #[arg(help_heading = None, long)]
    pub remember: bool,
    /// The page for people without a terminal.
    #[command(flatten)]
    pub page: PageOptions,
    /// How far the share of a remembered shape may move, in points of a hundred; 10 unless the jig
    /// says otherwise.
    #[arg(help_heading = None, long, value_name = "POINTS")]
    pub drift: Option<f64>,
    /// What is kept for notch tally.
    #[command(flatten)]
    pub tally: TallyOptions,
    /// Write the texts that must be unique into this file, one a line, and check nothing.
    #[arg(help_heading = PARTS, long, value_name = "FILE", conflicts_with_all = ["tally", "twice", "remember", "file", "findings", "json"])]
    pub gather: Option<PathBuf>,
    /// Print as JSON.
    #[arg(help_heading = None, long)]
    pub json: bool,
}

/// `notch survey`.
#[derive(Debug, Args)]
pub struct Survey {
    /// The table: CSV, JSON, Parquet, Arrow, a workbook, an SQLite file, postgres://…; a folder or
    /// a 'pattern*'; - is standard input.
    pub table: PathBuf,
    /// The page of this column; may be given several times.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Vec<String>,
    /// Look at about that many rows, spread over the file.
    #[arg(long, value_name = "ROWS")]
    pub sample: Option<u64>,
    /// List every odd text in this file, of all columns without -c: row, line, column, reason,
    /// cell.
    #[arg(long, value_name = "FILE")]
    pub findings: Option<PathBuf>,
    /// Write the cuts that suit into this file, as a jig.
    #[arg(long, value_name = "FILE")]
    pub save_jig: Option<PathBuf>,
    /// The page for people without a terminal.
    #[command(flatten)]
    pub page: PageOptions,
    /// What is kept for notch tally: all columns at a glance.
    #[command(flatten)]
    pub tally: TallyOptions,
    /// Print as JSON.
    #[arg(help_heading = None, long)]
    pub json: bool,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}

/// `notch compare`.
#[derive(Debug, Args)]
pub struct Compare {
    /// The table: CSV, JSON, Parquet, Arrow, a workbook, an SQLite file, postgres://…; a folder or
    /// a 'pattern*'; - is standard input.
    pub table: PathBuf,
    /// The one cut; a column alone is a cut, too: '{qty_old}'.
    #[arg(value_name = "CUT")]
    pub first: String,
    /// The other cut.
    #[arg(value_name = "CUT")]
    pub second: String,
    /// The column a cut starts from when it names none.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Option<String>,
    /// Take lists, the column and the cuts above from this jig; without a cut, draw those.
    #[arg(short, long, value_name = "FILE")]
    pub jig: Vec<PathBuf>,
    /// Write every row that differs to this file: row, line, cell, first, second.
    #[arg(long, value_name = "FILE")]
    pub all_to: Option<PathBuf>,
    /// How many rows to show of each shape.
    #[arg(long, value_name = "N", default_value_t = 3)]
    pub examples: usize,
    /// The page for people without a terminal.
    #[command(flatten)]
    pub page: PageOptions,
    /// Print as JSON.
    #[arg(long)]
    pub json: bool,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}

/// `notch learn`.
#[derive(Debug, Args)]
pub struct Learn {
    /// The table, unless only examples are given, and the examples: 'CELL => PIECE'.
    #[arg(value_name = "TABLE | CELL => PIECE", required = true)]
    pub words: Vec<String>,
    /// The column the cells stand in.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Option<String>,
    /// Learn from this column, in which pieces were filled in by hand; blank is not filled in.
    #[arg(long, value_name = "COLUMN", conflicts_with = "names")]
    pub like: Option<String>,
    /// Several pieces, divided by bars in each example; _ passes one over, a ? lets it be blank.
    #[arg(long, value_name = "NAME,NAME", value_delimiter = ',')]
    pub names: Vec<String>,
    /// What the piece is to be called.
    #[arg(long, value_name = "NAME", conflicts_with = "names")]
    pub name: Option<String>,
    /// Write the best cut and its examples into this file, as a jig.
    #[arg(long, value_name = "FILE")]
    pub save_jig: Option<PathBuf>,
    /// For how many seconds to look at most; what is found by then is told. On a slow machine the
    /// environment may say it for all runs.
    #[arg(long, value_name = "SECONDS", env = "NOTCH_SECONDS", hide_env_values = true, default_value_t = 2, value_parser = clap::value_parser!(u64).range(1..))]
    pub seconds: u64,
    /// Print as JSON.
    #[arg(long)]
    pub json: bool,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}

/// `notch bench`.
#[derive(Debug, Args)]
pub struct Bench {
    /// The table: CSV, JSON, Parquet, Arrow, a workbook, an SQLite file, postgres://…; a folder or
    /// a 'pattern*'; - is standard input.
    pub table: PathBuf,
    /// The cuts to begin with: 'NAME = CUT'.
    #[arg(value_name = "NAME = CUT")]
    pub cuts: Vec<String>,
    /// The column a cut starts from when it names none.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Option<String>,
    /// Take cuts, lists and checks from this jig, and save into it; it need not be there yet.
    #[arg(short, long, value_name = "FILE")]
    pub jig: Option<PathBuf>,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}

/// `notch trace`.
#[derive(Debug, Args)]
pub struct Trace {
    /// The cut, with or without a name; without one all cuts of the jig are drawn, or the ruler
    /// alone.
    #[arg(value_name = "CUT", default_value = "", hide_default_value = true)]
    pub cut: String,
    /// Texts to draw.
    #[arg(value_name = "TEXT", allow_negative_numbers = true)]
    pub texts: Vec<String>,
    /// Take samples from this table.
    #[arg(short, long, value_name = "TABLE")]
    pub table: Option<PathBuf>,
    /// The column the cut starts from when it names none.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Option<String>,
    /// Take lists, the column and the cuts above from this jig.
    #[arg(short, long, value_name = "FILE")]
    pub jig: Vec<PathBuf>,
    /// How many rows of the table to draw at most, one of each shape, the commonest first.
    #[arg(long, value_name = "N", default_value_t = 10, requires = "table")]
    pub samples: usize,
    /// Print as JSON.
    #[arg(long)]
    pub json: bool,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}

/// `notch words`.
#[derive(Debug, Args)]
pub struct Words {
    /// A word, of the language or of another program: everything about it.
    #[arg(conflicts_with = "all")]
    pub word: Vec<String>,
    /// Every word of the language, not the most used ones alone.
    #[arg(long)]
    pub all: bool,
    /// Print as JSON.
    #[arg(long)]
    pub json: bool,
    /// Print the page docs/language.md.
    #[arg(long, hide = true)]
    pub page: bool,
}

/// `notch completions`.
#[derive(Debug, Args)]
pub struct Completions {
    /// The shell.
    pub shell: clap_complete::Shell,
}

/// `notch manual`.
#[derive(Debug, Args)]
pub struct Manual {
    /// The folder to write the pages into; it is made if it is not there.
    #[arg(value_name = "DIR")]
    pub folder: PathBuf,
}

/// `notch demo`.
#[derive(Debug, Args)]
pub struct Demo {
    /// The folder to write into.
    #[arg(default_value = "fernhollow-demo", value_name = "DIR")]
    pub folder: PathBuf,
    /// Overwrite demo files that have been changed.
    #[arg(long)]
    pub force: bool,
}
