//! Compiled cuts, row by row: cells in, new cells and findings out.

mod batch;
mod plain;
mod row;
mod run;
mod value;

pub use batch::{Batch, BatchResult};
pub(crate) use plain::{OwnRegex, Plain, ShortWay, plain_byte};
pub(crate) use row::SAME_AS;
pub use row::{Branch, Cell, Fate, RowResult, Scratch};
pub(crate) use run::Run;
pub(crate) use value::{Item, Missing, Nothing, Piece, Value};
