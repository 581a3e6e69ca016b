//! The language of cuts and its evaluation: no files, no terminal, no threads.
//!
//! The way of a cut: its text → tokens → syntax tree ([`parse_assignment`]) → compiled against the
//! table's columns ([`Plan::compile`]) → evaluated row by row into reused memory
//! ([`Plan::evaluate`] with a [`Scratch`]). A compiled [`Plan`] is immutable and may be shared
//! between threads; what changes is in the [`Scratch`] of each thread.
//!
//! ```
//! use keen_notch_core::{Plan, PlanOptions, Scratch, parse_assignment};
//!
//! let columns = ["lot".to_owned()];
//! let cuts = [parse_assignment(r#"year = {lot} | part 2 by "-""#)?];
//! let plan = Plan::compile(&cuts, &columns, &PlanOptions::default())?;
//! let mut scratch = Scratch::default();
//! assert_eq!(plan.evaluate(["FH-2019-BRA"], &mut scratch).cells[0].text, "2019");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! | what | where |
//! | --- | --- |
//! | read a cut, a rule, a condition | [`parse_assignment`], [`parse_column_rule`], [`parse_row_condition`] |
//! | compile for the columns of a table | [`Plan::compile`] with [`PlanOptions`] |
//! | one row; many rows together | [`Plan::evaluate`]; [`Batch`] |
//! | what all rows did | [`Tally`] |
//! | what each step did with one row | [`Plan::trace`] |
//! | what a column looks like, and the cuts that suit it | [`ColumnSurvey`] |
//! | the cut that makes given pieces of given cells | [`learn()`] |
//!
//! Every error has the place in the text that was typed and what to write instead ([`CutError`]).
//! Nothing here panics on any text; `examples/` has a cut over an iterator of texts and rules over
//! the records of a CSV file.

mod compile;
mod eval;
mod example;
mod finding;
mod first_row;
mod hash;
mod hint;
mod language;
mod layouts;
mod learn;
mod list;
mod program;
mod schemes;
mod shape;
mod survey;
mod tally;
mod text;
mod trace;
mod unique;
mod words;

pub use eval::{Batch, BatchResult, Branch, Cell, Fate, NewCell, RowResult, Scratch};
pub use example::{EXAMPLE_LISTS, evaluate_example};
pub use finding::{About, Finding, FindingKind};
pub use first_row::FirstRow;
pub use hint::Hint;
pub use language::{
    Assignment, ChainOutline, Cut, CutError, Example, Group, HABITS, Habit, Name, Next, Outline,
    Rule, Slot, StepOutline, Word, habits, has_names, in_braces, is_unfinished, nearest,
    parse_assignment, parse_column_rule, parse_cut, parse_row_condition, parse_row_rule,
    what_follows, word_at, words,
};
pub use layouts::{Label, LabelCounts, Layout, LayoutCounts, Layouts, MOST_ODD, TextSample};
pub use learn::{
    Judge, Judged, LEARNING_ROWS, Learned, Lesson, Stopped, Trial, Tried, learn, read_lesson,
    write_lesson,
};
pub use list::{List, Lists, TwoAnswers};
pub use program::{
    CELL_LIMIT, ColumnRule, Event, OnFinding, Output, OutputType, Plan, PlanError, PlanOptions,
    RulePlace, SourceColumn,
};
pub use schemes::{SCHEMES, Scheme};
pub use shape::{ShapeCount, ShapeCounts, shape};
pub use survey::{
    Alike, AlikeTexts, ColumnHolds, ColumnOverview, ColumnSurvey, Distinct, Glance, Held,
    LIKE_DIGITS, Oddities, OverviewPart, Position, Proposal, RowSample, Trouble,
};
pub use tally::{
    CutTally, FindingExample, FindingGroup, FindingTally, LINES_OF_PART, OutputTally, Tally,
    TallyPart, TextsTold,
};
pub use text::{ByteWidth, OpenText};
pub use text::{characters, is_format};
pub use trace::{ChainTrace, StepTrace, Trace, TracePiece, TraceValue};
pub use unique::{AllRows, Gathered};
