//! What `notch survey` prints: one line a column (`overview`), the page of one column (`page`: its
//! layouts, its texts, the cuts that suit it), and a column as JSON.

mod column;
mod json;
mod layouts;
mod overview;
mod page;
mod texts;

pub use column::Surveyed;
pub use json::{glance_json, survey_json};
pub use overview::{MORE_OF_A_COLUMN, overview};
pub use page::page;
