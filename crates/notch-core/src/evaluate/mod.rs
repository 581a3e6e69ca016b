//! Compiled cuts, row by row: cells in, new cells and findings out.

mod row;
mod run;
mod value;

pub use row::{Branch, Cell, RowResult, Scratch};
pub(crate) use run::Run;
pub(crate) use value::{Item, Missing, Nothing, Piece, Value};
