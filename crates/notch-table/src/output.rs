//! Files written beside their place and renamed when they are whole.
//!
//! [`NewFile`] is written under a name of its own in the folder of its place; [`Whole`] is such a
//! file, finished and synced, and gets its name when all files of the run are whole. Until then
//! what was there before is untouched, whatever happens (docs/reliability.md). Devices and pipes
//! are written directly; of standard output the first [`STANDARD_BUFFER`] bytes are held back.

use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

use crate::charset::Encoded;
use crate::early_sync::EarlySync;
use crate::error::TableError;
use crate::format::ending;
use crate::parts::{self, Part};
use crate::shown::shown_path;
use encoding_rs::{Encoding, UTF_8};

/// What is written at a time, in bytes.
const BUFFER: usize = 32 * 1024;
/// What is held back of standard output, in bytes, so that a short table appears whole or not at
/// all.
const STANDARD_BUFFER: usize = 1024 * 1024;

/// A file that appears under its name only when [`NewFile::finish`] is called; before, nothing of
/// that name is touched.
pub struct NewFile {
    name: String,
    writer: Writer,
    /// Where it is written until then, and where it goes. A device or pipe is written directly.
    place: Option<(Part, PathBuf)>,
    /// Text of another encoding than UTF-8 is made of what is written.
    encoded: Option<Encoded>,
}

impl NewFile {
    /// Begins a file.
    ///
    /// # Errors
    /// The folder is missing or may not be written to, or a folder has this name.
    pub fn create(path: &Path) -> Result<NewFile, TableError> {
        let name = shown_path(path);
        let failed = |cause| TableError::io(&name, "cannot be written", cause);
        let existing = fs::metadata(path).ok();
        if existing.as_ref().is_some_and(fs::Metadata::is_dir) {
            return Err(failed(io::Error::from(io::ErrorKind::IsADirectory)));
        }
        if existing.as_ref().is_some_and(|metadata| !metadata.is_file()) {
            let file = File::options().write(true).open(path).map_err(failed)?;
            return Ok(NewFile {
                writer: Writer::new(EarlySync::new(file, false), path).map_err(failed)?,
                place: None,
                name,
                encoded: None,
            });
        }
        // After a link it is the file meant that is replaced, not the link.
        let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
        let folder = match target.parent() {
            Some(folder) if !folder.as_os_str().is_empty() => folder,
            _ => Path::new("."),
        };
        if !folder.is_dir() {
            let problem = format!("cannot be written: there is no folder {}.", shown_path(folder));
            return Err(TableError::no_table(
                &name,
                problem,
                "Make the folder first, or name another.",
            ));
        }
        #[cfg(unix)]
        let permissions = {
            // What the umask leaves of it, as for any new file; a file that is replaced keeps its
            // own.
            use std::os::unix::fs::PermissionsExt;
            Some(existing.map_or_else(
                || fs::Permissions::from_mode(0o666),
                |metadata| metadata.permissions(),
            ))
        };
        #[cfg(not(unix))]
        let permissions = None;
        let (file, part) = Part::create_in(folder, permissions).map_err(failed)?;
        Ok(NewFile {
            writer: Writer::new(EarlySync::new(file, true), path).map_err(failed)?,
            place: Some((part, target)),
            name,
            encoded: None,
        })
    }

    /// Writes what is left and returns the file its name.
    ///
    /// # Errors
    /// The disk is full, or the name cannot be taken.
    pub fn finish(self) -> Result<(), TableError> {
        self.whole()?.publish()
    }

    /// Writes what is left, until it is on the disk; the file has its name when it is published.
    ///
    /// # Errors
    /// The disk is full, for instance.
    pub fn whole(self) -> Result<Whole, TableError> {
        let name = self.name.clone();
        Ok(match self.into_part()? {
            Ended::Part(part, target) => Whole::new(name.clone(), move || {
                part.publish(&target, true)
                    .map(drop)
                    .map_err(|cause| TableError::io(&name, "cannot be written", cause))
            }),
            // The last of it is still in memory where it was written in small pieces.
            Ended::Standard(held) => Whole::new(name.clone(), move || {
                let mut out = io::stdout().lock();
                let written = out.write_all(&held).and_then(|()| out.flush());
                written.map_err(|cause| standard_failed(&name, cause))
            }),
            Ended::Device => Whole::new(name, || Ok(())),
        })
    }

    /// Writes what is left; returns the part, which is on the disk then, and where it goes.
    ///
    /// # Errors
    /// The disk is full, for instance.
    pub(crate) fn into_part(mut self) -> Result<Ended, TableError> {
        let name = self.name.clone();
        let failed = |cause| TableError::io(&name, "cannot be written", cause);
        if let Some(encoded) = &mut self.encoded {
            let mut last = Vec::new();
            encoded
                .encode(b"", true, &mut last)
                .and_then(|()| self.write_all(&last))
                .map_err(failed)?;
        }
        let file = match self.writer {
            Writer::Standard { held, .. } => return Ok(Ended::Standard(held)),
            writer => writer.finish().map_err(failed)?,
        };
        match self.place {
            Some((part, target)) => {
                parts::sync(&file).map_err(failed)?;
                Ok(Ended::Part(part, target))
            }
            None => Ok(Ended::Device),
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
        self.place.as_ref().map(|(part, _)| &**part)
    }

    /// What has been written, to be read from its beginning.
    ///
    /// # Errors
    /// It cannot be, as a device or a pipe.
    pub(crate) fn again(&mut self) -> io::Result<File> {
        self.flush()?;
        match &self.place {
            Some((part, _)) => File::open(&**part),
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
                    io::stdout().write_all(held).inspect_err(note_if_closed)?;
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
    Plain(BufWriter<EarlySync>),
    Gzip(Box<flate2::write::GzEncoder<BufWriter<EarlySync>>>),
    Zstd(Box<zstd::stream::write::Encoder<'static, BufWriter<EarlySync>>>),
    /// What has not been passed on yet, and whether anything has.
    Standard {
        held: Vec<u8>,
        let_go: bool,
    },
}

impl Writer {
    fn new(file: EarlySync, path: &Path) -> io::Result<Self> {
        let file = BufWriter::with_capacity(BUFFER, file);
        Ok(match ending(path).as_deref() {
            Some("gz") => Writer::Gzip(Box::new(flate2::write::GzEncoder::new(
                file,
                flate2::Compression::default(),
            ))),
            Some("zst") => Writer::Zstd(Box::new(zstd::stream::write::Encoder::new(file, 0)?)),
            _ => Writer::Plain(file),
        })
    }

    /// Writes what is left; returns the file. Not to be asked of standard output.
    fn finish(self) -> io::Result<File> {
        let writer = match self {
            Writer::Plain(writer) => writer,
            Writer::Gzip(writer) => writer.finish()?,
            Writer::Zstd(writer) => writer.finish()?,
            Writer::Standard { .. } => return Err(io::Error::from(io::ErrorKind::Unsupported)),
        };
        Ok(writer.into_inner().map_err(io::IntoInnerError::into_error)?.into_file())
    }
}

/// What a file has become that was written.
pub(crate) enum Ended {
    /// A part, and where it goes.
    Part(Part, PathBuf),
    /// What is left for standard output.
    Standard(Vec<u8>),
    /// A device or a pipe, which has everything.
    Device,
}

/// Something that is whole and on the disk, and is not under its name yet.
pub struct Whole {
    name: String,
    publish: Box<dyn FnOnce() -> Result<(), TableError> + Send>,
}

impl Whole {
    pub(crate) fn new(
        name: String,
        publish: impl FnOnce() -> Result<(), TableError> + Send + 'static,
    ) -> Self {
        Self { name, publish: Box::new(publish) }
    }

    /// Returns it its name.
    ///
    /// # Errors
    /// The name cannot be taken, or standard output is closed.
    pub fn publish(self) -> Result<(), TableError> {
        let _publishing = parts::publishing();
        (self.publish)()
    }

    /// Returns several their names, one after the other: none of them when one could not be written
    /// before.
    ///
    /// # Errors
    /// As [`Whole::publish`]; those before it are told then, since they have their names.
    pub(crate) fn publish_all(all: impl IntoIterator<Item = Whole>) -> Result<(), TableError> {
        let _publishing = parts::publishing();
        let mut done = Vec::new();
        for whole in all {
            (whole.publish)().map_err(|error| error.behind(&done))?;
            done.push(whole.name);
        }
        parts::all_published();
        Ok(())
    }
}

/// What has become of rows that were written.
#[derive(Default)]
pub struct Finished {
    /// What is worth saying, one sentence each.
    pub said: Vec<String>,
    /// The file that is to be given its name.
    pub whole: Option<Whole>,
}

impl Finished {
    /// A file to which nothing more is written.
    ///
    /// # Errors
    /// The disk is full, for instance.
    pub fn file(file: NewFile) -> Result<Self, TableError> {
        Ok(Self { said: Vec::new(), whole: Some(file.whole()?) })
    }
}

static CLOSED: AtomicBool = AtomicBool::new(false);

/// Whether who read our standard output has gone away: whatever was said of that is no error of
/// ours.
pub fn standard_output_is_closed() -> bool {
    CLOSED.load(Ordering::Relaxed)
}

/// Takes note of a standard output that is closed.
fn note_if_closed(cause: &io::Error) {
    if cause.kind() == io::ErrorKind::BrokenPipe {
        CLOSED.store(true, Ordering::Relaxed);
    }
}

fn standard_failed(name: &str, cause: io::Error) -> TableError {
    note_if_closed(&cause);
    TableError::io(name, "cannot be written", cause)
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

/// Whether two paths name one file, through links or not; a file that is not there yet is known by
/// its path.
pub fn same_file(a: &Path, b: &Path) -> bool {
    let absolute = |path: &Path| {
        let folder =
            path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        Some(folder.canonicalize().ok()?.join(path.file_name()?))
    };
    let by_path = || a == b || (absolute(a).is_some() && absolute(a) == absolute(b));
    if is_regular(a) && is_regular(b) {
        same_file::is_same_file(a, b).unwrap_or_else(|_| by_path())
    } else {
        by_path()
    }
}

/// Whether a path names the file that standard input is read from.
pub fn is_standard_input(path: &Path) -> bool {
    is_regular(path)
        && same_file::Handle::stdin()
            .is_ok_and(|input| same_file::Handle::from_path(path).is_ok_and(|file| file == input))
}

/// Whether a path names the file that standard output goes to.
pub fn is_standard_output(path: &Path) -> bool {
    is_regular(path)
        && same_file::Handle::stdout()
            .is_ok_and(|output| same_file::Handle::from_path(path).is_ok_and(|file| file == output))
}

/// To be compared a file is opened, which would wait for ever at a pipe without a writer.
fn is_regular(path: &Path) -> bool {
    fs::metadata(path).is_ok_and(|metadata| metadata.is_file())
}
