//! Zip archives: what they hold, and one file of them unpacked.

use std::fs::File;
use std::io::{self, Read, Write};

use zip::ZipArchive;
use zip::result::ZipError;

use super::decompress::too_much;
use crate::error::TableError;
use crate::parts::Part;

/// The part of an ODS workbook that holds its sheets.
pub(crate) const ODS_CONTENT: &str = "content.xml";

/// What an archive holds.
pub(crate) enum Archive {
    /// A workbook, or what is broken like one.
    Book,
    /// Files, by their names; those that a Mac adds to every archive are left out.
    Files(Vec<String>),
}

/// What a file that is an archive holds, by its content.
pub(crate) fn archive(file: &File) -> Archive {
    let Ok(archive) = ZipArchive::new(file) else { return Archive::Book };
    let names = archive.file_names().filter_map(|known| known.ok().map(|known| known.to_string()));
    let names: Vec<String> = names.filter(|known| !known.ends_with('/')).collect();
    // A workbook may hold nothing else.
    if names.iter().any(|known| known == ODS_CONTENT || known.starts_with("xl/")) {
        return Archive::Book;
    }
    let is_added = |known: &String| {
        known.starts_with("__MACOSX/") || known.rsplit('/').next() == Some(".DS_Store")
    };
    Archive::Files(names.into_iter().filter(|known| !is_added(known)).collect())
}

/// Unpacks a file of an archive into a temporary one.
///
/// # Errors
/// It is broken, or unpacks to more than `limit` bytes.
pub(crate) fn unpacked(
    archive: &File,
    member: &str,
    name: &str,
    limit: u64,
) -> Result<Part, TableError> {
    let broken = |cause: &dyn std::fmt::Display| {
        let problem = format!("cannot be unpacked: {}.", cause.to_string().trim_end_matches('.'));
        TableError::no_table(
            name,
            problem,
            "Unpack it with another program, and give the file that was in it.",
        )
    };
    let no_copy = |cause| TableError::io(name, "cannot be copied to a temporary file", cause);
    let mut archive = ZipArchive::new(archive).map_err(|cause| broken(&said(&cause)))?;
    let mut packed =
        archive.by_name(member).map_err(|cause| broken(&said(&cause)))?.take(limit + 1);
    let (mut file, path) = Part::temporary().map_err(no_copy)?;
    let (mut buffer, mut unpacked) = (vec![0; 256 * 1024], 0);
    loop {
        let read = packed.read(&mut buffer).map_err(|cause| broken(&cause))?;
        if read == 0 {
            break;
        }
        unpacked += read as u64;
        file.write_all(&buffer[..read]).map_err(no_copy)?;
    }
    if unpacked > limit {
        return Err(TableError::io(name, "cannot be unpacked", too_much(limit)));
    }
    Ok(path)
}

/// The reason of the zip library as a clause.
pub(crate) fn said(cause: &ZipError) -> String {
    match cause {
        ZipError::Io(cause) if cause.kind() == io::ErrorKind::UnexpectedEof => {
            "it ends too early".to_owned()
        }
        // What the library looks for stands at the end of every archive.
        cause if cause.to_string().to_lowercase().contains("eocd") => {
            "its end is missing".to_owned()
        }
        cause => cause.to_string().to_lowercase().trim_end_matches('.').to_owned(),
    }
}
