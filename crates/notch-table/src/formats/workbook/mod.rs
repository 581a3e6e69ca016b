//! Workbooks: a sheet as a table, its cells read as a person sees them, and tables written as
//! workbooks.
//!
//! | module | holds |
//! | --- | --- |
//! | [`shown`] | values and number formats → the text a person sees |
//! | [`sheet`] | the cells of a sheet → header and rows, kept as comma-separated text |
//! | [`sheets`] | which sheets are read, and several of them as one |
//! | [`xlsx`], [`ods`] | the two formats |
//! | [`mod@write`] | a table written as XLSX |

mod ods;
mod sheet;
mod sheets;
mod shown;
pub(crate) mod write;
mod xlsx;

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom, Write};

use zip::ZipArchive;

use crate::error::TableError;
use crate::formats::csv::LONGEST_RECORD;
use crate::input::archive::{ODS_CONTENT, said};
use crate::input::decompress::UNPACK_LIMIT;
use crate::input::line_map::LineMap;
use crate::options::SheetOptions;
use crate::parts::guarded;
pub(crate) use sheet::Sheet;
use sheet::SheetBuilder;
pub(crate) use write::writer;

/// A sheet read, or several as one, and what is worth saying about them.
pub(crate) struct Opened {
    pub sheet: Sheet,
    pub columns: Vec<String>,
    pub notices: Vec<String>,
    /// Where the rows stood, when they come of several sheets.
    pub places: Option<LineMap>,
    /// The other sheets with something in them.
    pub others: Vec<String>,
}

/// What a file that begins as an old workbook is.
pub(crate) fn old_workbook(name: &str, mut file: impl Read) -> TableError {
    let mut bytes = Vec::new();
    // The name of the part that holds an encrypted workbook, in UTF-16.
    let encrypted: Vec<u8> = "EncryptedPackage".encode_utf16().flat_map(u16::to_le_bytes).collect();
    let _ = file.by_ref().take(64 * 1024 * 1024).read_to_end(&mut bytes);
    if memchr::memmem::find(&bytes, &encrypted).is_some() {
        TableError::no_table(
            name,
            "is a workbook with a password.",
            "Open it, take the password off and save it anew.",
        )
    } else {
        TableError::no_table(
            name,
            "is a workbook in the old format (XLS).",
            "Save it as XLSX, ODS or CSV UTF-8.",
        )
    }
}

/// Reads a sheet of a workbook, or several as one.
///
/// # Errors
/// It is no workbook, it is broken, has a password, unpacks to too much, or a sheet is not there,
/// empty, or has other columns than the first.
pub(crate) fn open(
    mut file: File,
    name: &str,
    options: &SheetOptions,
) -> Result<Opened, TableError> {
    let broken = |cause: &dyn std::fmt::Display| {
        TableError::no_table(
            name,
            format!("is a workbook that cannot be read: {cause}."),
            "Open it in the program that made it and save it anew.",
        )
    };
    let mut archive = ZipArchive::new(&mut file).map_err(|cause| broken(&said(&cause)))?;
    let has = |archive: &ZipArchive<&mut File>, part: &str| {
        archive.file_names().any(|known| known.is_ok_and(|known| known == part))
    };
    let (is_xlsx, is_ods) = (has(&archive, "xl/workbook.xml"), has(&archive, ODS_CONTENT));
    if !is_xlsx && !is_ods {
        let what = if has(&archive, "xl/workbook.bin") {
            "is a workbook in the binary format (XLSB)."
        } else {
            "is a zip archive and no workbook."
        };
        return Err(TableError::no_table(
            name,
            what,
            "Workbooks are read as XLSX and ODS, and an archive of one file as that file.",
        ));
    }
    let unpacked = check_size(&mut archive, name, options.unpack_limit.unwrap_or(UNPACK_LIMIT))?;
    let book = if is_xlsx {
        drop(archive);
        file.seek(SeekFrom::Start(0))
            .map_err(|cause| TableError::io(name, "cannot be read", cause))?;
        // The library panics at cells of impossible names.
        guarded(|| xlsx::read(file, options, unpacked))
            .unwrap_or_else(|said| Err(BookProblem::broken(said)))
    } else {
        ods::read(&mut archive, options, unpacked)
    };
    let book = book.map_err(|problem| match problem {
        BookProblem::Broken(cause) => broken(&cause),
        BookProblem::Password => TableError::no_table(
            name,
            "is a workbook with a password.",
            "Open it, take the password off and save it anew.",
        ),
        BookProblem::NoSheet { wanted, there } => {
            let problem = match &wanted {
                Some(wanted) if sheets::is_pattern(wanted) => {
                    format!(
                        "has no visible sheet with something in it whose name fits {wanted}. Its \
                        sheets are: {}.",
                        there.join(", ")
                    )
                }
                Some(wanted) => {
                    format!("has no sheet {wanted}. Its sheets are: {}.", there.join(", "))
                }
                None => "has no visible sheet.".to_owned(),
            };
            TableError::no_table(name, problem, "Name one of its sheets: --sheet NAME.")
        }
    })?;
    sheets::joined(book, name, options)
}

/// What was read of a workbook.
struct Book {
    /// The sheets that were read, by name.
    taken: Vec<(String, SheetBuilder)>,
    /// The other sheets with something in them.
    others: Vec<String>,
}

/// What is wrong with a workbook.
enum BookProblem {
    Broken(String),
    Password,
    NoSheet { wanted: Option<String>, there: Vec<String> },
}

impl BookProblem {
    fn broken(cause: impl std::fmt::Display) -> Self {
        BookProblem::Broken(cause.to_string().trim_end_matches('.').to_owned())
    }
}

/// Unpacks every part once and throws it away, so that no archive can fill the memory with what it
/// claims to be small; returns how many bytes they have.
fn check_size(
    archive: &mut ZipArchive<&mut File>,
    name: &str,
    limit: u64,
) -> Result<u64, TableError> {
    let (mut left, mut longest) = (limit, LongestText::default());
    for part in 0..archive.len() {
        let unpacked = archive
            .by_index(part)
            .map_err(io::Error::from)
            .and_then(|part| io::copy(&mut part.take(left + 1), &mut longest));
        let unpacked = unpacked.map_err(|cause| {
            TableError::no_table(
                name,
                format!("is a broken archive: {cause}."),
                "Open it in the program that made it and save it anew.",
            )
        })?;
        let Some(rest) = left.checked_sub(unpacked) else {
            return Err(TableError::no_table(
                name,
                format!(
                    "unpacks to more than {} MB, which is more than a workbook should have.",
                    limit / 1_000_000
                ),
                "If it is what it should be, raise the limit, in MB: --unpack-limit 10000.",
            ));
        };
        if longest.bytes > LONGEST_RECORD {
            return Err(TableError::no_table(
                name,
                format!(
                    "has a cell of more than {} MiB, which is more than a row may have.",
                    LONGEST_RECORD >> 20
                ),
                "Open it in the program that made it and take that cell out.",
            ));
        }
        left = rest;
    }
    Ok(limit - left)
}

/// Takes the bytes of an XML document, and measures the longest text in it.
#[derive(Default)]
struct LongestText {
    /// The bytes of the longest text that was seen.
    bytes: usize,
    /// The bytes since the last tag began.
    text: usize,
}

impl Write for LongestText {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let mut last = 0;
        for tag in memchr::memchr_iter(b'<', bytes) {
            self.bytes = self.bytes.max(self.text + tag - last);
            (self.text, last) = (0, tag);
        }
        self.text += bytes.len() - last;
        self.bytes = self.bytes.max(self.text);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}
