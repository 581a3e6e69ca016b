//! Options that several commands have.

use std::path::PathBuf;

use clap::Args;
use clap::builder::{PossibleValuesParser, TypedValueParser};
use keen_notch_table::From;

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
pub(super) const PARTS: &str = "A table in parts";

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
pub(super) fn file_or_descriptor() -> impl clap::builder::TypedValueParser<Value = PathBuf> {
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
