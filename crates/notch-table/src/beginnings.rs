//! How files of the formats begin that are told by that.

/// Parquet (Apache Parquet, File Format).
pub(crate) const PARQUET: &[u8] = b"PAR1";
/// Files of Arrow (Arrow Columnar Format, IPC File Format).
pub(crate) const ARROW_FILE: &[u8] = b"ARROW1\0\0";
/// Streams of Arrow (Arrow Columnar Format, Encapsulated message format).
pub(crate) const ARROW_STREAM: &[u8] = b"\xFF\xFF\xFF\xFF";
/// SQLite (SQLite, Database File Format, section 1.3).
pub(crate) const SQLITE: &[u8] = b"SQLite format 3\0";
/// Archives, as workbooks are (PKWARE, .ZIP File Format Specification, section 4.3.7).
pub(crate) const ZIP: &[u8] = b"PK\x03\x04";
/// An archive that has nothing in it (section 4.3.16).
pub(crate) const EMPTY_ZIP: &[u8] = b"PK\x05\x06";
/// An old workbook, or a new one with a password.
pub(crate) const OLD_WORKBOOK: &[u8] = b"\xD0\xCF\x11\xE0";
