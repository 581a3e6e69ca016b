//! Files written beside their place and renamed when they are whole.

use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use encoding_rs::{Encoding, UTF_8};
use tempfile::{NamedTempFile, TempPath};

use crate::columnar::Columnar;
use crate::encodings::Encoded;
use crate::error::TableError;

/// What is written at a time, in bytes.
const BUFFER: usize = 32 * 1024;
/// What is held back of standard output, in bytes, so that a short table appears whole or not at all.
const STANDARD_BUFFER: usize = 1024 * 1024;

/// A file that appears under its name only when [`NewFile::finish`] is called; before, nothing of that name is touched.
pub struct NewFile {
    name: String,
    writer: Writer,
    /// Where it is written until then, and where it goes. A device or pipe is written directly.
    place: Option<(TempPath, PathBuf)>,
    /// Text of another encoding than UTF-8 is made of what is written.
    encoded: Option<Encoded>,
}

impl NewFile {
    /// Begins a file.
    ///
    /// # Errors
    /// The folder is missing or may not be written to, or a folder has this name.
    pub fn create(path: &Path) -> Result<NewFile, TableError> {
        let name = path.display().to_string();
        let failed = |cause| TableError::io(&name, "cannot be written", cause);
        let existing = fs::metadata(path).ok();
        if existing.as_ref().is_some_and(fs::Metadata::is_dir) {
            return Err(failed(io::Error::from(io::ErrorKind::IsADirectory)));
        }
        if existing.as_ref().is_some_and(|metadata| !metadata.is_file()) {
            let file = File::options().write(true).open(path).map_err(failed)?;
            return Ok(NewFile { writer: Writer::new(file, path).map_err(failed)?, place: None, name, encoded: None });
        }
        // Behind a link it is the file meant that is replaced, not the link.
        let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
        let folder = match target.parent() {
            Some(folder) if !folder.as_os_str().is_empty() => folder,
            _ => Path::new("."),
        };
        if !folder.is_dir() {
            let problem = format!("cannot be written: there is no folder {}.", folder.display());
            return Err(TableError::no_table(&name, problem, "Make the folder first, or name another."));
        }
        let mut builder = tempfile::Builder::new();
        builder.prefix(".notch-").suffix(".part");
        #[cfg(unix)]
        {
            // What the umask leaves of it, as for any new file; a file that is replaced keeps its own.
            use std::os::unix::fs::PermissionsExt;
            builder.permissions(existing.map_or_else(|| fs::Permissions::from_mode(0o666), |metadata| metadata.permissions()));
        }
        let (file, temporary) = builder.tempfile_in(folder).map(NamedTempFile::into_parts).map_err(failed)?;
        Ok(NewFile { writer: Writer::new(file, path).map_err(failed)?, place: Some((temporary, target)), name, encoded: None })
    }

    /// Writes what is left and gives the file its name.
    ///
    /// # Errors
    /// The disk is full, or the name cannot be taken.
    pub fn finish(mut self) -> Result<(), TableError> {
        let name = self.name.clone();
        let failed = |cause| TableError::io(&name, "cannot be written", cause);
        if let Some(encoded) = &mut self.encoded {
            let mut last = Vec::new();
            encoded.encode(b"", true, &mut last).and_then(|()| self.write_all(&last)).map_err(failed)?;
        }
        self.writer.finish().map_err(failed)?;
        match self.place {
            Some((temporary, target)) => temporary.persist(target).map_err(|error| failed(error.error)),
            None => Ok(()),
        }
    }

    /// Standard output, of which the first MiB is held back until there is more or all is there.
    pub fn standard_output() -> NewFile {
        NewFile {
            writer: Writer::Standard { held: Vec::new(), let_go: false },
            place: None,
            name: "standard output".to_owned(),
            encoded: None,
        }
    }

    /// Whether something has been written that cannot be taken back.
    pub fn has_let_go(&self) -> bool {
        matches!(self.writer, Writer::Standard { let_go: true, .. })
    }

    /// The error of something that cannot be written to it.
    pub(crate) fn failed(&self, cause: io::Error) -> TableError {
        TableError::io(&self.name, "cannot be written", cause)
    }

    /// What it is called in messages.
    pub(crate) fn name(&self) -> &str {
        &self.name
    }

    /// Makes text of an encoding of all that is written from now on, which is UTF-8.
    pub(crate) fn encode(&mut self, encoding: &'static Encoding) {
        self.encoded = (encoding != UTF_8).then(|| Encoded::new(encoding));
    }

    /// Where it is written before it has its name; `None` of a device or a pipe.
    pub(crate) fn temporary(&self) -> Option<&Path> {
        self.place.as_ref().map(|(temporary, _)| &**temporary)
    }

    /// What has been written, to be read from its beginning.
    ///
    /// # Errors
    /// It cannot be, as a device or a pipe.
    pub(crate) fn again(&mut self) -> io::Result<File> {
        self.flush()?;
        match &self.place {
            Some((temporary, _)) => File::open(temporary),
            None => Err(io::Error::from(io::ErrorKind::Unsupported)),
        }
    }

    /// Writes bytes.
    ///
    /// # Errors
    /// The disk is full, for instance.
    pub fn write(&mut self, bytes: &[u8]) -> Result<(), TableError> {
        let written = match &mut self.encoded {
            None => self.write_all(bytes),
            Some(encoded) => {
                let mut into = Vec::with_capacity(bytes.len());
                encoded.encode(bytes, false, &mut into).and_then(|()| self.write_all(&into))
            }
        };
        written.map_err(|cause| self.failed(cause))
    }
}

impl Write for NewFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match &mut self.writer {
            Writer::Plain(writer) => writer.write(bytes),
            Writer::Gzip(writer) => writer.write(bytes),
            Writer::Zstd(writer) => writer.write(bytes),
            Writer::Standard { held, let_go } => {
                held.extend_from_slice(bytes);
                if held.len() >= STANDARD_BUFFER {
                    *let_go = true;
                    io::stdout().write_all(held)?;
                    held.clear();
                }
                Ok(bytes.len())
            }
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match &mut self.writer {
            Writer::Plain(writer) => writer.flush(),
            Writer::Gzip(writer) => writer.flush(),
            Writer::Zstd(writer) => writer.flush(),
            // All of it at once, or nothing: at the end.
            Writer::Standard { .. } => Ok(()),
        }
    }
}

/// Writes bytes as they are, or compressed where the file's ending says so.
enum Writer {
    Plain(BufWriter<File>),
    Gzip(Box<flate2::write::GzEncoder<BufWriter<File>>>),
    Zstd(Box<zstd::stream::write::Encoder<'static, BufWriter<File>>>),
    /// What has not been handed on yet, and whether anything has.
    Standard {
        held: Vec<u8>,
        let_go: bool,
    },
}

impl Writer {
    fn new(file: File, path: &Path) -> io::Result<Self> {
        let file = BufWriter::with_capacity(BUFFER, file);
        Ok(match ending(path).as_deref() {
            Some("gz") => Writer::Gzip(Box::new(flate2::write::GzEncoder::new(file, flate2::Compression::default()))),
            Some("zst") => Writer::Zstd(Box::new(zstd::stream::write::Encoder::new(file, 0)?)),
            _ => Writer::Plain(file),
        })
    }

    /// Writes what is left.
    fn finish(self) -> io::Result<()> {
        match self {
            Writer::Plain(writer) => Ok(writer),
            Writer::Gzip(writer) => writer.finish(),
            Writer::Zstd(writer) => writer.finish(),
            Writer::Standard { held, .. } => {
                let mut out = io::stdout().lock();
                return out.write_all(&held).and_then(|()| out.flush());
            }
        }?
        .flush()
    }
}

/// The ending of a file, in lower case.
fn ending(path: &Path) -> Option<String> {
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

/// The format that a file's ending says; of a compressed file the ending before that one.
pub fn format_of(path: &Path) -> Format {
    match ending(path).as_deref() {
        Some("gz" | "zst") => format_of(&path.with_extension("")),
        // What divides the columns of the table divides those of its copy.
        Some("csv") | None => Format::Text(None),
        Some(ending) => FORMATS.iter().find(|(_, endings, _)| endings.contains(&ending)).map_or(Format::Text(None), |(.., format)| *format),
    }
}

/// Where what is written goes.
#[derive(Debug, Clone, Copy)]
pub enum To<'p> {
    /// A file.
    File(&'p Path),
    /// Standard output.
    Standard,
}

impl To<'_> {
    /// Begins it.
    ///
    /// # Errors
    /// As [`NewFile::create`].
    pub fn create(self) -> Result<NewFile, TableError> {
        match self {
            To::File(path) => NewFile::create(path),
            To::Standard => Ok(NewFile::standard_output()),
        }
    }
}

/// Whether two paths name one file, through links or not; a file that is not there yet is known by its path.
pub fn same_file(a: &Path, b: &Path) -> bool {
    let absolute = |path: &Path| {
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        Some(folder.canonicalize().ok()?.join(path.file_name()?))
    };
    let by_path = || a == b || (absolute(a).is_some() && absolute(a) == absolute(b));
    // To be compared a file is opened, which would wait for ever at a pipe that nobody writes to yet.
    let opens = |path: &Path| fs::metadata(path).is_ok_and(|metadata| metadata.is_file());
    if opens(a) && opens(b) { same_file::is_same_file(a, b).unwrap_or_else(|_| by_path()) } else { by_path() }
}
