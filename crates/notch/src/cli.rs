//! What can be written on the command line.

use std::ffi::OsString;
use std::path::PathBuf;

use clap::builder::{PossibleValuesParser, TypedValueParser};
use clap::{Args, Parser, Subcommand, ValueEnum};
use keen_notch_table::{Format, From};

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

/// Which cuts are made, and what is expected of the table.
#[derive(Debug, Args)]
pub struct Making {
    /// The cuts: 'NAME = CUT'.
    #[arg(value_name = "NAME = CUT")]
    pub cuts: Vec<String>,
    /// The column a cut starts from when it names none.
    #[arg(short, long, value_name = "COLUMN")]
    pub column: Option<String>,
    /// Take cuts, lists and checks from this jig; several are taken in order, and cuts of the
    /// command line come after them.
    #[arg(short, long, value_name = "FILE")]
    pub jig: Vec<PathBuf>,
    /// Let a new column take the place of the old one of the same name.
    #[arg(long, value_name = "NAME")]
    pub replace: Vec<String>,
    /// Put up with findings of a cut, check or column in that many rows: 'serial 0.5%' or 'serial
    /// 3'.
    #[arg(long, value_name = "NAME SHARE")]
    pub allow: Vec<String>,
    /// List every finding in this file: row, line, column, cut, kind, reason, cell, value. fd:3 is
    /// what the shell has opened as 3.
    #[arg(long, value_name = "FILE", value_parser = file_or_descriptor())]
    pub findings: Option<PathBuf>,
    /// How long a cell that a cut makes may become, in MiB; 16 when not given.
    #[arg(long, value_name = "MIB", value_parser = clap::value_parser!(u16).range(1..=256))]
    pub cell_limit: Option<u16>,
    /// How many bytes are worked on at a time; for tests.
    #[arg(long, value_name = "BYTES", hide = true)]
    pub block: Option<usize>,
    /// The texts that stand more than once in what --gather has written of all parts: so a part is
    /// asked for what is unique in all of them.
    #[arg(help_heading = PARTS, long, value_name = "FILE")]
    pub twice: Option<PathBuf>,
    /// How the table is read.
    #[command(flatten)]
    pub reading: Reading,
}

/// The options of a table in parts.
const PARTS: &str = "A table in parts";

/// What a run over a part of a table keeps for `notch tally`.
#[derive(Debug, Args)]
#[command(next_help_heading = PARTS)]
pub struct TallyOptions {
    /// Write what was counted into this file, to be put together with that of other parts of the
    /// table by notch tally.
    #[arg(id = "tally", long = "tally", value_name = "FILE")]
    pub file: Option<PathBuf>,
    /// What the part is called in the tally; as the table when not given.
    #[arg(long, value_name = "NAME", requires = "tally")]
    pub part: Option<String>,
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

/// A jig that shows what one may hold.
const SHORT_JIG: &str = r#"A short one:

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

/// The page for people without a terminal.
#[derive(Debug, Args)]
#[command(next_help_heading = "A page to hand on")]
pub struct PageOptions {
    /// Write what is found as a page for people without a terminal: one HTML file that needs no
    /// network.
    #[arg(long = "page", value_name = "FILE.html")]
    pub file: Option<PathBuf>,
    /// In the page, show the shapes of cells and not the cells.
    #[arg(long, requires = "file")]
    pub no_texts: bool,
    /// What the page says as its day; without it the page names none, so that equal tables give
    /// equal pages.
    #[arg(long, value_name = "DAY", requires = "file")]
    pub day: Option<String>,
}

/// How a table is read.
#[derive(Debug, Args)]
#[command(next_help_heading = "Reading the table")]
pub struct Reading {
    /// What divides the columns: comma, tab, semicolon, bar or one character; found by looking when
    /// not given.
    #[arg(long, value_name = "CHAR", value_parser = separator)]
    pub separator: Option<u8>,
    /// The first row is data; the columns are called 1, 2, 3, ….
    #[arg(long)]
    pub no_header: bool,
    /// The sheet of a workbook; the first one when not given. Given several times, or as a pattern
    /// ('*'), the sheets are one table.
    #[arg(long, value_name = "NAME")]
    pub sheet: Vec<String>,
    /// Add a column of this name that says which sheet a row came from.
    #[arg(long, value_name = "NAME")]
    pub sheet_column: Option<String>,
    /// The row of a sheet that names the columns; found by looking when not given.
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..), conflicts_with = "no_header")]
    pub header_row: Option<u32>,
    /// What the table is, where its content and ending do not tell.
    #[arg(long, value_name = "FORMAT", value_parser = PossibleValuesParser::new(From::NAMES.map(|(name, _)| name)).try_map(|name| From::of_name(&name).ok_or("no format")))]
    pub from: Option<From>,
    /// What to ask of a database, in SQL.
    #[arg(long, value_name = "SQL", conflicts_with = "table_name")]
    pub query: Option<String>,
    /// The table of a database to read.
    #[arg(long, value_name = "NAME")]
    pub table_name: Option<String>,
    /// For how many seconds a database server may be silent; 10 when not given.
    #[arg(long, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..))]
    pub timeout: Option<u64>,
    /// Add a column of this name that says which file a row came from.
    #[arg(long, value_name = "NAME")]
    pub file_column: Option<String>,
    /// The encoding of the text: windows-1252, Shift_JIS, UTF-16LE …; UTF-8, or what the file's
    /// first bytes say, when not given.
    #[arg(long, value_name = "NAME", value_parser = keen_notch_table::encoding_of)]
    pub encoding: Option<&'static encoding_rs::Encoding>,
    /// How much a workbook, a Parquet or a compressed file may unpack to, in MB; 4000 when not
    /// given.
    #[arg(long, value_name = "MB")]
    pub unpack_limit: Option<u64>,
    /// How many threads work side by side; one for each core when not given.
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub threads: Option<u16>,
}

/// A file, or `fd:N`: the descriptor of that number, which is a file where descriptors have names.
fn file_or_descriptor() -> impl clap::builder::TypedValueParser<Value = PathBuf> {
    clap::builder::OsStringValueParser::new().map(|text| {
        let number = text.to_str().and_then(|text| text.strip_prefix("fd:"));
        match number.filter(|number| number.parse::<u32>().is_ok()) {
            Some(number) if cfg!(unix) => PathBuf::from(format!("/dev/fd/{number}")),
            _ => PathBuf::from(text),
        }
    })
}

impl Reading {
    /// The options as they are typed, for commands that are to read the same table.
    pub fn words(&self) -> Vec<String> {
        let separator = self.separator.map(|byte| match byte {
            b'\t' => "tab".to_owned(),
            byte => char::from(byte).to_string(),
        });
        let options = [
            ("--separator", separator),
            ("--sheet-column", self.sheet_column.clone()),
            ("--header-row", self.header_row.map(|row| row.to_string())),
            ("--from", self.from.map(|from| from.name().to_owned())),
            ("--query", self.query.clone()),
            ("--table-name", self.table_name.clone()),
            ("--timeout", self.timeout.map(|seconds| seconds.to_string())),
            ("--file-column", self.file_column.clone()),
            ("--encoding", self.encoding.map(|encoding| encoding.name().to_owned())),
            ("--unpack-limit", self.unpack_limit.map(|megabytes| megabytes.to_string())),
        ];
        let sheets = self.sheet.iter().map(|sheet| ("--sheet", Some(sheet.clone())));
        let mut words = Vec::new();
        if self.no_header {
            words.push("--no-header".to_owned());
        }
        for (option, value) in sheets.chain(options) {
            if let Some(value) = value {
                words.extend([option.to_owned(), value]);
            }
        }
        words
    }
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

/// Reads what divides the columns.
///
/// # Errors
/// It is no single ASCII character and none of the words for one.
pub fn separator(text: &str) -> Result<u8, String> {
    match (text, text.as_bytes()) {
        ("comma", _) => Ok(b','),
        ("tab" | "\\t", _) => Ok(b'\t'),
        ("semicolon", _) => Ok(b';'),
        ("bar", _) => Ok(b'|'),
        (_, [b'"' | b'\n' | b'\r']) => {
            Err("a quote or a line end cannot divide columns".to_owned())
        }
        (_, [byte]) if byte.is_ascii() => Ok(*byte),
        _ => Err("write comma, tab, semicolon, bar or one ASCII character".to_owned()),
    }
}
