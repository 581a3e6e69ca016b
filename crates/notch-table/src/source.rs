//! Where the bytes of a table come from: a file, or standard input.

use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};

use crate::error::TableError;

/// A file or standard input.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Source {
    /// A file.
    File(PathBuf),
    /// Standard input.
    Standard,
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
        }
    }

    /// The file's path; standard input has none.
    pub fn path(&self) -> Option<&Path> {
        match self {
            Source::File(path) => Some(path),
            Source::Standard => None,
        }
    }

    /// Whether it can be read a second time from the start: a regular file can, a pipe cannot.
    pub fn can_be_read_again(&self) -> bool {
        self.path().and_then(|path| path.metadata().ok()).is_some_and(|metadata| metadata.is_file())
    }

    /// Opens it.
    ///
    /// # Errors
    /// There is no such file, it is a folder, or it may not be read.
    pub fn open(&self) -> Result<Box<dyn Read + Send>, TableError> {
        let Source::File(path) = self else {
            return Ok(Box::new(io::stdin()));
        };
        let name = self.name();
        let file = File::open(path).map_err(|cause| TableError::io(&name, "cannot be opened", cause))?;
        if file.metadata().is_ok_and(|metadata| metadata.is_dir()) {
            return Err(TableError::no_table(&name, "is a folder, not a table.", "Name a file in it."));
        }
        Ok(Box::new(file))
    }
}
