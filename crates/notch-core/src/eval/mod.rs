//! Compiled cuts over rows: cells in, new cells and findings out.
//!
//! [`row`] evaluates one row and is the authority. [`batch`] evaluates many together: each cut by
//! its fast path ([`fast_path`]), which is made of the kernels of its words
//! ([`crate::program::kernel`]), and by row where something is unusual.

mod batch;
mod batch_result;
mod columns;
mod condition;
mod fast_path;
mod names;
mod result;
mod row;
mod scratch;
mod source;

pub use batch::Batch;
pub use batch_result::{BatchResult, NewCell};
pub(crate) use columns::Absent;
pub use result::{Branch, Cell, Fate, RowResult};
pub use scratch::Scratch;
