//! What is printed: messages, aligned columns, the preview, the summary.

mod columns;
mod preview;
mod print;
mod problem;
pub mod style;
mod summary;
mod trace;
mod width;

pub use columns::{Align, aligned};
pub use preview::Preview;
pub use print::{print, say};
pub use problem::Problem;
pub use summary::{WentTo, summary};
pub use trace::{drawn, ruler, trace_json};
pub use width::{fold, width};
