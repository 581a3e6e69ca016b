//! What takes the rows of a job: separated text, and all formats that know cells.

mod cells;
mod row_format;
mod sink;
mod text;
#[cfg(not(feature = "workbooks"))]
#[path = "no_workbook.rs"]
mod workbook;
#[cfg(feature = "workbooks")]
mod workbook;

pub use cells::CellsOut;
pub(crate) use cells::cells_file;
pub(crate) use row_format::guard;
pub use row_format::{RowFormat, WhichCells};
pub use sink::RowSink;
pub use text::RowsOut;
pub use workbook::book_rows;
