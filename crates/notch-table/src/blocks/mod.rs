//! Blocks of whole rows, and workers that take them side by side.

mod ordered_workers;
mod reader;
mod rows;

pub(crate) use ordered_workers::{SideBySide, usual_threads};
pub(crate) use reader::{BLOCK, Block, BlockOptions, Blocks, RowSource};
pub(crate) use rows::{Contents, RowAt, RowCursor, each_row};
