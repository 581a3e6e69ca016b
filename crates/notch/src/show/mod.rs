//! What is printed: messages, aligned columns, the preview, the summary.

mod columns;
mod jig;
mod preview;
mod print;
mod problem;
mod report;
pub mod style;
mod summary;
mod trace;
mod width;

pub use columns::{Align, aligned};
pub use jig::jig_page;
pub use preview::Preview;
pub use print::{print, say};
pub use problem::Problem;
pub use report::{report, report_json};
pub use summary::{Outcome, WentTo, summary};
pub use trace::{drawn, ruler, trace_json};
pub use width::{fold, width};
