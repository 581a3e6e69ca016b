//! Tables in and out: a file or standard input → records → compiled cuts over each → written records, rejects, findings.
//!
//! | module | holds |
//! | --- | --- |
//! | [`mod@source`] | where the bytes come from |
//! | `activity` | what a thread is at, for messages about memory |
//! | `column_cells` | blocks of rows that were no text |
//! | `pieces` | readers whose bytes are made piece by piece |
//! | `options` | how a table is to be read |
//! | `places` | where rows of several files stood |
//! | `plain` | compressed bytes unpacked |
//! | `encodings` | text of other encodings as UTF-8, and back |
//! | `json` | objects as rows, and rows as objects |
//! | `columnar` | Parquet and Arrow, in and out |
//! | `databases` | queries of SQLite files and PostgreSQL servers as rows, and rows into SQLite tables |
//! | `lines` | plain lines as rows of one column |
//! | `many` | several tables of one header as one |
//! | `cells` | rows of cells into files whose format knows cells, by format |
//! | `drawn` | tables drawn for people |
//! | `csv` | bytes → records and their fields, and cells → bytes |
//! | [`mod@table`] | a table opened: its header, its layout, its rows |
//! | [`mod@carve`] | the run of compiled cuts over a table |
//! | [`mod@samples`] | rows to look at: the first of every shape |
//! | [`mod@workbook`] | sheets of workbooks as tables, and tables written as workbooks |
//! | `side_by_side` | blocks worked on by several threads, taken in order |
//! | `output` | files written beside and renamed |

mod activity;
pub mod carve;
mod cells;
mod column_cells;
mod columnar;
mod csv;
mod databases;
mod drawn;
mod encodings;
mod error;
mod json;
mod lines;
mod many;
mod options;
mod output;
mod parts;
mod pieces;
mod places;
mod plain;
pub mod samples;
mod side_by_side;
pub mod source;
pub mod table;
pub mod workbook;

pub use activity::activity;
pub use carve::{
    Carving, CellBlock, CellsOut, Encoding, FindingsOut, FirstPass, How, OutColumn, Progress, Row, RowSink, RowsOut, Summary, WhichCells,
    carve, look_through,
};
pub use cells::Kind;
pub use columnar::Columnar;
pub use csv::{cell_text, write_cell};
pub use drawn::visible;
pub use encodings::encoding_of;
pub use error::TableError;
pub use output::{
    Finished, Format, NewFile, To, Whole, foreign_ending, format_of, is_standard_input, is_standard_output, same_file,
    standard_output_is_closed,
};
pub use parts::{do_not_sync, is_guarded, remove_parts, sweep};

pub use options::{From, ReadOptions};
pub use places::Whereabouts;
pub use samples::{Sample, each_row_of, gather_rows, samples};
pub use source::{Source, shown_path};
pub use table::Table;
pub use workbook::BookRows;
