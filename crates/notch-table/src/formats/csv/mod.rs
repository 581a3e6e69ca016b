//! Separated text: bytes → records → fields, and cells → bytes.
//!
//! A field is quoted when it begins with `"`; inside, `""` is a quote, and separators and line ends
//! are text. A quote in a field that does not begin with one is text too. A record ends at LF, CR
//! LF or CR.

mod fields;
mod index;
mod made;
mod marks;
mod quick;
mod quote;
mod quotes;
mod records;
mod separator;
mod walk;

pub(crate) use fields::Fields;
pub(crate) use index::{Index, RawRecord};
pub(crate) use made::{MadeRows, MadeText, RowMaker};
pub(crate) use quote::{
    asks_for_quotes, bare_cell, has_special, push_short, write_cell_bytes, write_open_cell,
    write_text_of,
};
pub use quote::{cell_text, write_cell};
pub(crate) use records::{LONGEST_RECORD, Record, Records, Typed, UNCLOSED, too_long};
pub(crate) use separator::find_separator;
