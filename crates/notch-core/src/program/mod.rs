//! Compiled cuts: a plan, its cuts and steps, and what runs over a row.
//!
//! | module | holds |
//! | --- | --- |
//! | `plan`, `options` | a plan, and what it is compiled for |
//! | `cut` | compiled cuts, checks and conditions |
//! | `step`, `value`, `row_context` | a step, what it is given and returns, and the row it belongs to |
//! | `kernel`, `span` | the same for many rows at once |
//! | `output_type`, `watch` | types of columns, what is counted for hints |

pub(crate) mod cut;
pub(crate) mod kernel;
mod options;
mod output_type;
mod plan;
mod row_context;
pub(crate) mod span;
mod step;
mod value;
mod watch;

pub(crate) use cut::{
    Branches, CompiledChain, CompiledCheck, CompiledColumn, CompiledCut, CompiledName,
    CompiledPiece, CompiledSource, Condition, Demand, FastPath, Holds, Joined, KernelStep,
    OtherChain, Search, Start, Subject, Test, Watched, Written,
};
pub(crate) use options::NOWHERE;
pub use options::{CELL_LIMIT, ColumnRule, OnFinding, PlanError, PlanOptions, RulePlace};
pub use output_type::OutputType;
pub use plan::{Output, Plan, SourceColumn};
pub(crate) use row_context::{BETWEEN_ITEMS, BLANK, HelperFinding, NOTHING_LEFT, RowContext};
pub(crate) use step::{Items, Step};
pub use value::Event;
pub(crate) use value::{Caveat, Item, Missing, Nothing, Piece, Value};
pub(crate) use watch::{Watch, WatchedCut, Watches};
