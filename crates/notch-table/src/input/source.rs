//! Where a table comes from: a file, several files, standard input, a database server.

use std::fs::File;
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use super::archive::{self, Archive};
use crate::beginnings::ZIP;
use crate::error::TableError;
use crate::parts::Part;
use crate::shown::{listed, shown_path, without_password};

/// What a table is read from.
#[derive(Debug, Clone)]
pub enum Source {
    /// A file.
    File(PathBuf),
    /// Standard input.
    Standard,
    /// A database server, by its address.
    Server(String),
    /// Several files of one header.
    Many {
        /// What they were called by: a pattern or a folder.
        name: String,
        /// The files, in their order.
        files: Vec<PathBuf>,
    },
    /// A copy of something that can be read only once, in a file that goes away with the last of
    /// its users.
    Copy {
        /// What was copied, as it is called in messages.
        name: String,
        /// The copy.
        path: Arc<Part>,
    },
}

impl Source {
    /// `-` is standard input, `postgres://…` a server, a folder or a pattern such as `2024-*.csv`
    /// all files in it or of it, and everything else a file.
    pub fn from_argument(argument: &Path) -> Self {
        if argument == Path::new("-") {
            return Source::Standard;
        }
        let name = argument.display().to_string();
        if ["postgres://", "postgresql://"].iter().any(|scheme| name.starts_with(scheme)) {
            return Source::Server(name);
        }
        if argument.is_dir() {
            let entries = argument.read_dir().into_iter().flatten().filter_map(Result::ok);
            let is_hidden = |path: &Path| {
                path.file_name().is_some_and(|name| name.to_string_lossy().starts_with('.'))
            };
            let mut files: Vec<PathBuf> = entries
                .map(|entry| entry.path())
                .filter(|path| path.is_file() && !is_hidden(path))
                .collect();
            files.sort();
            return Source::Many { name, files };
        }
        if name.contains(['*', '?', '[']) && !argument.exists() {
            let files = glob::glob(&name)
                .into_iter()
                .flatten()
                .filter_map(Result::ok)
                .filter(|path| path.is_file())
                .collect();
            return Source::Many { name, files };
        }
        Source::File(argument.to_owned())
    }

    /// What it is called in messages.
    pub fn name(&self) -> String {
        match self {
            Source::File(path) => shown_path(path),
            Source::Standard => "standard input".to_owned(),
            Source::Server(address) => without_password(address),
            Source::Many { name, .. } => name.clone(),
            Source::Copy { name, .. } => name.clone(),
        }
    }

    /// The file's path, if it is one file that has a name.
    pub fn path(&self) -> Option<&Path> {
        match self {
            Source::File(path) => Some(path),
            Source::Standard | Source::Server(_) | Source::Many { .. } | Source::Copy { .. } => {
                None
            }
        }
    }

    /// All files that are read, by their names; an archive where a file in it is named.
    pub fn files(&self) -> Vec<&Path> {
        match self {
            Source::File(path) => {
                vec![within_archive(path).map_or(path.as_path(), |(archive, _)| archive)]
            }
            Source::Many { files, .. } => files.iter().map(PathBuf::as_path).collect(),
            Source::Standard | Source::Server(_) | Source::Copy { .. } => Vec::new(),
        }
    }

    /// Whether it is standard input.
    pub fn is_standard_input(&self) -> bool {
        matches!(self, Source::Standard)
    }

    /// Whether it can be read a second time from the start: a regular file can, a pipe cannot.
    pub fn can_be_read_again(&self) -> bool {
        match self {
            Source::File(path) => {
                path.metadata().is_ok_and(|metadata| metadata.is_file())
                    || within_archive(path).is_some()
            }
            Source::Standard => false,
            Source::Many { files, .. } => {
                files.iter().all(|path| path.metadata().is_ok_and(|metadata| metadata.is_file()))
            }
            Source::Copy { .. } | Source::Server(_) => true,
        }
    }

    /// The source itself when it can be read again, else a copy of it in the folder for temporary
    /// files.
    ///
    /// # Errors
    /// It cannot be read, or there is no room for the copy.
    pub fn to_be_read_again(&self) -> Result<Source, TableError> {
        if self.can_be_read_again() {
            return Ok(self.clone());
        }
        Self::copied(self.name(), self.open()?)
    }

    /// A copy of what a reader gives, in the folder for temporary files.
    ///
    /// # Errors
    /// It cannot be read, or there is no room for the copy.
    pub(crate) fn copied(name: String, mut reader: impl Read) -> Result<Source, TableError> {
        let no_copy = |cause| {
            TableError::io(
                &name,
                "must be read twice and cannot be copied to a temporary file",
                cause,
            )
        };
        let (mut file, path) = Part::temporary().map_err(no_copy)?;
        let mut buffer = vec![0; 256 * 1024];
        loop {
            match reader.read(&mut buffer) {
                Ok(0) => break,
                Ok(n) => file.write_all(&buffer[..n]).map_err(no_copy)?,
                Err(cause) if cause.kind() == io::ErrorKind::Interrupted => {}
                Err(cause) => return Err(TableError::io(&name, "cannot be read", cause)),
            }
        }
        Ok(Source::Copy { name, path: Arc::new(path) })
    }

    /// The file after it, opened; `None` for standard input and pipes, which have no beginning to
    /// go back to.
    pub(crate) fn file(&self) -> Result<Option<File>, TableError> {
        let path = match self {
            Source::File(path) if self.can_be_read_again() => path.as_path(),
            Source::Copy { path, .. } => path,
            _ => return Ok(None),
        };
        File::open(path)
            .map(Some)
            .map_err(|cause| TableError::io(&self.name(), "cannot be opened", cause))
    }

    /// Opens it.
    ///
    /// # Errors
    /// There is no such file, it is a folder, or it may not be read.
    pub fn open(&self) -> Result<Box<dyn Read + Send>, TableError> {
        let path = match self {
            Source::File(path) => path.as_path(),
            Source::Standard => return Ok(Box::new(io::stdin())),
            Source::Copy { path, .. } => path,
            Source::Server(_) | Source::Many { .. } => {
                return Err(TableError::no_table(&self.name(), "is no file.", "Name a file."));
            }
        };
        let name = self.name();
        let file =
            File::open(path).map_err(|cause| TableError::io(&name, "cannot be opened", cause))?;
        if file.metadata().is_ok_and(|metadata| metadata.is_dir()) {
            return Err(TableError::no_table(
                &name,
                "is a folder, not a table.",
                "Name a file in it.",
            ));
        }
        Ok(Box::new(file))
    }
}

impl Source {
    /// The file of an archive that is called after the archive's name, as a temporary file; `None`
    /// where it is no such file.
    ///
    /// # Errors
    /// The archive has no such file, cannot be read, or unpacks to more than `limit` bytes.
    pub(crate) fn unpacked(&self, limit: u64) -> Result<Option<Source>, TableError> {
        let Source::File(path) = self else { return Ok(None) };
        let Some((archive, member)) = within_archive(path) else { return Ok(None) };
        let name = self.name();
        let archive = File::open(archive)
            .map_err(|cause| TableError::io(&name, "cannot be opened", cause))?;
        if let Archive::Files(files) = archive::archive(&archive)
            && !files.contains(&member)
        {
            let problem = format!("is not in its archive, which has {}.", listed(&files));
            return Err(TableError::no_table(
                &name,
                problem,
                "Name one of them after the archive.",
            ));
        }
        let file = archive::unpacked(&archive, &member, &name, limit)?;
        Ok(Some(Source::Copy { name, path: Arc::new(file) }))
    }
}

/// `lots.zip/may.csv`: an archive, and a file in it, where there is no file of the whole name.
fn within_archive(path: &Path) -> Option<(&Path, String)> {
    if path.exists() {
        return None;
    }
    let archive = path.ancestors().skip(1).find(|above| above.is_file())?;
    let mut first = [0; 4];
    File::open(archive).and_then(|mut file| file.read_exact(&mut first)).ok()?;
    let member = path.strip_prefix(archive).ok()?.to_str()?.replace('\\', "/");
    (first == ZIP).then_some((archive, member))
}
