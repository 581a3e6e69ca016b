//! What stands in the place of `workbook.rs` in a build without workbooks.

use std::path::Path;

use super::sink::RowSink;
use crate::error::TableError;
use crate::formats::not_built;

/// Returns an error.
///
/// # Errors
/// Always: this build writes no workbooks.
pub fn book_rows(path: &Path) -> Result<Box<dyn RowSink>, TableError> {
    not_built(&path.display().to_string(), "a workbook", "workbooks")
}
