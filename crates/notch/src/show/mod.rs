//! What is printed: messages, aligned columns, the preview, the summary.

mod columns;
mod compare;
mod jig;
mod learn;
mod places;
mod preview;
mod print;
mod problem;
mod progress;
mod report;
mod shell;
pub mod style;
mod summary;
mod survey;
mod trace;
mod width;

pub use columns::{Align, aligned};
pub use compare::{Comparison, Differing, compared_in_words, comparison, comparison_json};
pub use jig::jig_page;
pub use learn::{
    Answer, Differs, LearntPiece, Lessons, Question, TEACHES_NOTHING, learnt_json, learnt_page,
    stopped,
};
pub use preview::{Preview, Shown};
pub use print::{print, print_json, say};
pub use problem::Problem;
pub use progress::Bar;
pub use report::{counts_in_words, report, report_json, verdict};
pub use shell::{GOES_ON, shell_word};
pub use style::plain;
pub use summary::{Outcome, WentTo, hints, shapes, summary};
pub use survey::{MORE_OF_A_COLUMN, Surveyed, glance_json, overview, page, survey_json};
pub use trace::{drawn, drawn_character, drawn_within, ruler, ruler_within, trace_json};
pub use width::{counted, fold, share, visible, width};
