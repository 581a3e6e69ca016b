//! Compiled cuts over rows: cells in, new cells and findings out.
//!
//! [`row`] evaluates one row and is the authority. [`batch`] evaluates many together: each cut by its fast path ([`fast_path`]), which is
//! made of the kernels of its words ([`kernel`]), and by row where something is unusual.

mod batch;
mod class_runs;
pub(crate) mod condition;
mod fast_path;
pub(crate) mod kernel;
mod names;
mod regexes;
mod row;
mod row_context;
mod source;
pub(crate) mod span;
mod value;

pub(crate) use batch::Absent;
pub use batch::{Batch, BatchResult, NewCell};
pub(crate) use fast_path::{FastPath, KernelStep, Search, Start};
pub(crate) use regexes::OwnRegex;
pub use row::{Branch, Cell, Fate, RowResult, Scratch};
pub(crate) use row_context::{NOTHING_LEFT, RowContext};
pub use value::Event;
pub(crate) use value::{Caveat, Item, Missing, Nothing, Piece, Value};
