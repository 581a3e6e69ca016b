//! Cells apart from any format: what takes them, row by row or column by column.

mod column_block;
mod matching;
mod output_columns;
mod row_text;
mod writer;

pub(crate) use column_block::{ColumnBlock, ColumnBlockSource};
pub(crate) use matching::matching;
pub use output_columns::OutputColumns;
pub(crate) use output_columns::{OldCell, TextColumn};
pub(crate) use row_text::{Field, OpenCell, RowText};
pub use writer::Kind;
pub(crate) use writer::{CellColumn, CellWriter, OutCell, TypedRows, cell};
