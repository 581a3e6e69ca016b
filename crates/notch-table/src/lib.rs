//! Tables in and out: a file or standard input → blocks of rows → compiled cuts over each → written
//! rows, rejects, findings.
//!
//! From the bottom up; nothing uses what stands below it in this list:
//!
//! | module | holds |
//! | --- | --- |
//! | `error`, `beginnings`, `options`, `activity`, `shown` | what went wrong, how files begin, how a table is to be read, what messages show |
//! | `chunks`, `charset`, `parts`, `early_sync`, `output` | bytes piece by piece, encodings, files written beside their place, sent to the disk, and renamed |
//! | `input` | where the bytes come from: files, archives, compression, several files |
//! | `cells` | cells apart from any format, and what takes them |
//! | `formats` | CSV, JSON, lines, Parquet and Arrow, workbooks, databases, tables drawn for people; none of them knows of cuts |
//! | `blocks` | blocks of whole rows, which records are rows, workers side by side |
//! | `table` | a table opened: its header, its layout, its rows |
//! | `job` | compiled cuts over a table: the one loop over rows, and what takes the results |

// What only a switched-off format uses is not worth a condition at each of its places.
#![cfg_attr(
    not(all(
        feature = "parquet",
        feature = "workbooks",
        feature = "sqlite",
        feature = "postgres"
    )),
    allow(dead_code, unused_imports)
)]

mod activity;
mod beginnings;
mod blocks;
mod cells;
mod charset;
mod chunks;
mod early_sync;
mod error;
mod format;
mod formats;
mod input;
mod job;
mod options;
mod output;
mod parts;
mod shown;
mod table;
mod text_out;
mod unreadable;
mod utf8;

pub use activity::activity;
pub use cells::{Kind, OutputColumns};
pub use charset::encoding_of;
pub use error::TableError;
pub use format::{Columnar, Format, foreign_ending, format_of};
pub use formats::csv::{cell_text, write_cell};
pub use input::line_map::Whereabouts;
pub use input::source::Source;
pub use job::{
    AllRowsAgain, AnyRow, Carving, Cells, CellsOut, Evaluating, FindingsOut, FirstPass, OutColumn,
    Progress, Row, RowFinder, RowFormat, RowSink, RowThere, RowsOut, Sample, Summary, TakesRows,
    WhichCells, book_rows, carve, each_row_of, evaluate_rows, gather_columns, gather_rows,
    look_through, samples, unique_texts,
};
pub use options::{From, ReadOptions};
pub use output::{
    Finished, NewFile, To, Whole, is_standard_input, is_standard_output, same_file,
    standard_output_is_closed,
};
pub use parts::{Part, do_not_sync, is_guarded, remove_parts, sweep};
pub use shown::{shown_path, visible};
pub use table::Table;
pub use unreadable::Unreadable;
