//! Why a row cannot be read.

use thiserror::Error;

/// Why a row cannot be read; shown as a clause.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Unreadable {
    /// It is not UTF-8.
    #[error("the bytes are not UTF-8 text at byte {at} of the row (0x{byte:02X})")]
    NotUtf8 {
        /// The first byte that is not, from 1.
        at: usize,
        /// That byte.
        byte: u8,
    },
    /// It is no text of the encoding that was asked for.
    #[error("the bytes are no text of the encoding behind {before:?} (0x{byte:02X})")]
    OtherEncoding {
        /// The characters before the first byte that is none.
        before: String,
        /// That byte.
        byte: u8,
    },
    /// A quote is opened in it and never closed.
    #[error("a quote is opened in this row and not closed up to the end of the file")]
    Unclosed,
    /// It has more or fewer fields than the header.
    #[error("too {} fields: the row has {fields} field{}, the header \
        {columns}", if fields < columns { "few" } else { "many" }, if *fields == 1 { "" } else { "s" })]
    Fields {
        /// How many it has.
        fields: usize,
        /// How many the header has.
        columns: usize,
    },
    /// It is a row of a list, of whose content nothing is said.
    #[error("this row of the list cannot be read")]
    OfList,
    /// Its sheet holds an error or the like.
    #[error("{0}")]
    Sheet(Box<str>),
}
