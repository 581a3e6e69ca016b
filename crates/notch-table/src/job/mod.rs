//! The job: compiled cuts over a table, each row in, one row out, findings and rejects beside it;
//! and the passes that only look.
//!
//! | module | holds |
//! | --- | --- |
//! | `carving` | what is to be done, and what was done |
//! | `run` | a job from its outputs' beginning to their names |
//! | `driver` | the one loop over rows, and what becomes of each |
//! | `encoder` | many rows at once, as the text or cells that the outputs take |
//! | `row` | a row that is written |
//! | `sinks` | what takes the rows |
//! | `findings`, `finding_lines`, `rejects` | the files beside the output |
//! | `too_long` | texts that are longer than a cell of a workbook |
//! | `batches` | rows of a block as a batch, and all rows evaluated without an output |
//! | `any_row` | any row at once, without the table in memory |
//! | `look_through`, `samples` | passes that write nothing |

mod any_row;
mod batches;
mod carving;
mod driver;
mod encoder;
mod finding_lines;
mod findings;
mod look_through;
mod rejects;
mod row;
mod run;
mod samples;
mod sinks;
mod too_long;

pub use any_row::{AllRowsAgain, AnyRow, RowFinder, RowThere};
pub use batches::{Evaluating, TakesRows, evaluate_rows};
pub use carving::{Carving, Progress, Summary};
pub use findings::FindingsOut;
pub use look_through::{FirstPass, look_through, unique_texts};
pub use row::{OutColumn, Row};
pub use run::carve;
pub use samples::{Cells, Sample, each_row_of, gather_columns, gather_rows, samples};
pub use sinks::{CellsOut, RowFormat, RowSink, RowsOut, WhichCells, book_rows};
