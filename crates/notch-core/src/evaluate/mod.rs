//! Compiled cuts, row by row: cells in, new cells and findings out.

mod batch;
mod names;
mod number;
mod pad;
mod place;
mod plain;
mod regexes;
mod row;
mod run;
mod runs;
mod source;
mod value;

pub(crate) use batch::Absent;
pub use batch::{Batch, BatchResult, NewCell};
pub(crate) use plain::{PARTS, Plain, PlainStep, Search, ShortWay, Start, plain_byte};
pub(crate) use regexes::OwnRegex;
pub use row::{Branch, Cell, Fate, RowResult, Scratch};
pub(crate) use run::{NOTHING_LEFT, Run};
pub use value::Event;
pub(crate) use value::{Caveat, Item, Missing, Nothing, Piece, Value};
