//! The first row of its kind.

/// The first row of its kind.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct FirstRow {
    /// Its number, from 1.
    pub row: u64,
    /// The line it begins in, from 1.
    pub line: u64,
    /// The text.
    pub text: String,
}
