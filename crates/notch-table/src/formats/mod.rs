//! The formats of tables, each in and out. None of them knows of cuts: readers return records or
//! columns of text, writers take cells ([`crate::cells`]).

#[cfg(feature = "parquet")]
pub(crate) mod columnar;
pub(crate) mod csv;
pub(crate) mod databases;
pub(crate) mod json;
pub(crate) mod lines;
#[cfg(not(all(
    feature = "parquet",
    feature = "workbooks",
    feature = "sqlite",
    feature = "postgres"
)))]
mod not_built;
pub(crate) mod text_table;
#[cfg(feature = "workbooks")]
pub(crate) mod workbook;

#[cfg(not(feature = "parquet"))]
pub(crate) use not_built::columnar;
#[cfg(not(feature = "workbooks"))]
pub(crate) use not_built::{not_built, workbook};

/// How files of the formats begin that are told by that.
pub(crate) mod beginnings {
    /// Parquet (Apache Parquet, File Format).
    pub(crate) const PARQUET: &[u8] = b"PAR1";
    /// Files of Arrow (Arrow Columnar Format, IPC File Format).
    pub(crate) const ARROW_FILE: &[u8] = b"ARROW1\0\0";
    /// Streams of Arrow (Arrow Columnar Format, Encapsulated message format).
    pub(crate) const ARROW_STREAM: &[u8] = b"\xFF\xFF\xFF\xFF";
    /// SQLite (SQLite, Database File Format, section 1.3).
    pub(crate) const SQLITE: &[u8] = b"SQLite format 3\0";
    /// An archive that has nothing in it.
    pub(crate) const EMPTY_ZIP: &[u8] = b"PK\x05\x06";
    /// An old workbook, or a new one with a password.
    pub(crate) const OLD_WORKBOOK: &[u8] = b"\xD0\xCF\x11\xE0";
}
