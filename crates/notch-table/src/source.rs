//! Where the bytes of a table come from: a file, or standard input.

use std::fs::File;
use std::io::{self, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;

use tempfile::TempPath;

use crate::error::TableError;

/// A file or standard input.
#[derive(Debug, Clone)]
pub enum Source {
    /// A file.
    File(PathBuf),
    /// Standard input.
    Standard,
    /// A copy of something that can be read only once, in a file that goes away with the last of its users.
    Copy {
        /// What was copied, as it is called in messages.
        name: String,
        /// The copy.
        path: Arc<TempPath>,
    },
}

impl Source {
    /// `-` is standard input, everything else a path.
    pub fn from_argument(argument: &Path) -> Self {
        if argument == Path::new("-") { Source::Standard } else { Source::File(argument.to_owned()) }
    }

    /// What it is called in messages.
    pub fn name(&self) -> String {
        match self {
            Source::File(path) => path.display().to_string(),
            Source::Standard => "standard input".to_owned(),
            Source::Copy { name, .. } => name.clone(),
        }
    }

    /// The file's path; standard input has none.
    pub fn path(&self) -> Option<&Path> {
        match self {
            Source::File(path) => Some(path),
            Source::Standard | Source::Copy { .. } => None,
        }
    }

    /// Whether it can be read a second time from the start: a regular file can, a pipe cannot.
    pub fn can_be_read_again(&self) -> bool {
        match self {
            Source::File(path) => path.metadata().is_ok_and(|metadata| metadata.is_file()),
            Source::Standard => false,
            Source::Copy { .. } => true,
        }
    }

    /// The source itself when it can be read again, else a copy of it in the folder for temporary files.
    ///
    /// # Errors
    /// It cannot be read, or there is no room for the copy.
    pub fn to_be_read_again(&self) -> Result<Source, TableError> {
        if self.can_be_read_again() {
            return Ok(self.clone());
        }
        let name = self.name();
        let no_copy = |cause| TableError::io(&name, "must be read twice and cannot be copied to a temporary file", cause);
        let mut file = tempfile::Builder::new().prefix(".notch-").tempfile().map_err(no_copy)?;
        let mut reader = self.open()?;
        let mut buffer = vec![0; 256 * 1024];
        loop {
            match reader.read(&mut buffer) {
                Ok(0) => break,
                Ok(n) => file.write_all(&buffer[..n]).map_err(no_copy)?,
                Err(cause) if cause.kind() == io::ErrorKind::Interrupted => {}
                Err(cause) => return Err(TableError::io(&name, "cannot be read", cause)),
            }
        }
        Ok(Source::Copy { name, path: Arc::new(file.into_temp_path()) })
    }

    /// The file behind it, opened; `None` for standard input and pipes, which have no beginning to go back to.
    pub(crate) fn file(&self) -> Result<Option<File>, TableError> {
        let path = match self {
            Source::File(path) if self.can_be_read_again() => path.as_path(),
            Source::Copy { path, .. } => path,
            _ => return Ok(None),
        };
        File::open(path).map(Some).map_err(|cause| TableError::io(&self.name(), "cannot be opened", cause))
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
        };
        let name = self.name();
        let file = File::open(path).map_err(|cause| TableError::io(&name, "cannot be opened", cause))?;
        if file.metadata().is_ok_and(|metadata| metadata.is_dir()) {
            return Err(TableError::no_table(&name, "is a folder, not a table.", "Name a file in it."));
        }
        Ok(Box::new(file))
    }
}
