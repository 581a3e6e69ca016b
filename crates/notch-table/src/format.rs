//! The formats that are written, by their names and by the endings of files ([`FORMATS`]).

use std::path::Path;

/// The ending of a file, in lower case.
pub(crate) fn ending(path: &Path) -> Option<String> {
    path.extension().map(|ending| ending.to_string_lossy().to_lowercase())
}

/// The format of a file that is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// Separated text; the separator, where the ending says it.
    Text(Option<u8>),
    /// An XLSX workbook.
    Workbook,
    /// JSON objects: an array of them, or a line each.
    Json {
        /// Whether they are one array.
        in_array: bool,
    },
    /// Typed columns.
    Columnar(Columnar),
    /// A table of an SQLite file.
    Database,
    /// A table drawn for people.
    Drawn {
        /// With the bars of Markdown, or aligned by blanks alone.
        bars: bool,
    },
}

/// The formats of typed columns.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Columnar {
    /// Apache Parquet.
    Parquet,
    /// The file format of Arrow IPC.
    File,
    /// The streaming format of Arrow IPC.
    Stream,
}

/// The formats by name, each with the ending of its files where there is one.
const FORMATS: [(&str, &[&str], Format); 11] = [
    ("csv", &["csv"], Format::Text(Some(b','))),
    ("tsv", &["tsv", "tab"], Format::Text(Some(b'\t'))),
    ("jsonl", &["jsonl", "ndjson"], Format::Json { in_array: false }),
    ("json", &["json"], Format::Json { in_array: true }),
    ("xlsx", &["xlsx"], Format::Workbook),
    ("parquet", &["parquet"], Format::Columnar(Columnar::Parquet)),
    ("arrow", &["arrow"], Format::Columnar(Columnar::File)),
    ("arrows", &["arrows"], Format::Columnar(Columnar::Stream)),
    ("sqlite", &["sqlite", "sqlite3", "db"], Format::Database),
    ("markdown", &["md"], Format::Drawn { bars: true }),
    ("aligned", &[], Format::Drawn { bars: false }),
];

impl Format {
    /// The names by which formats are asked for.
    pub fn names() -> impl Iterator<Item = &'static str> {
        FORMATS.iter().map(|(name, ..)| *name)
    }

    /// The format of a name.
    pub fn of_name(name: &str) -> Option<Self> {
        FORMATS.iter().find(|(known, ..)| *known == name).map(|(.., format)| *format)
    }

    /// What divides the columns of separated text, where that is said.
    pub fn separator(self) -> Option<u8> {
        match self {
            Format::Text(separator) => separator,
            _ => None,
        }
    }

    /// Whether it can be read on a terminal.
    pub fn is_legible(self) -> bool {
        !matches!(self, Format::Workbook | Format::Columnar(_) | Format::Database)
    }
}

/// The endings of files that other programs would take for what is not written here.
const FOREIGN: [&str; 14] = [
    "ods", "xls", "xlsb", "xlsm", "numbers", "zip", "7z", "bz2", "xz", "feather", "orc", "avro",
    "html", "pdf",
];

/// The ending of a file that promises a format in which nothing is written.
pub fn foreign_ending(path: &Path) -> Option<String> {
    ending(path).filter(|ending| FOREIGN.contains(&ending.as_str()))
}

/// The format that a file's ending says; of a compressed file the ending before that one.
pub fn format_of(path: &Path) -> Format {
    match ending(path).as_deref() {
        Some("gz" | "zst") => format_of(&path.with_extension("")),
        // What divides the columns of the table divides those of its copy.
        Some("csv") | None => Format::Text(None),
        Some(ending) => FORMATS
            .iter()
            .find(|(_, endings, _)| endings.contains(&ending))
            .map_or(Format::Text(None), |(.., format)| *format),
    }
}
