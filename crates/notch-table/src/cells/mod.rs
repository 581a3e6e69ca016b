//! Cells apart from any format: what takes them, row by row or column by column.

mod column_block;
mod matching;
mod output_columns;
mod writer;

pub(crate) use column_block::{CellBlocks, ColumnCells};
pub(crate) use matching::matching;
pub use output_columns::CellBlock;
pub(crate) use output_columns::TextColumn;
pub use writer::Kind;
pub(crate) use writer::{CellColumn, CellsFile, OutCell, TypedRows, cell};
