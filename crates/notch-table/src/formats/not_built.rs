//! What stands in the place of a format that this build does without (a feature of Cargo that is
//! switched off): opening one and writing one say so, with the remedy, and nothing else is there.
//!
//! Each module has the names that the rest of the crate uses of the real one. Its types have no
//! values, so that what follows the opening compiles and is never reached.

use crate::error::TableError;

/// Returns an error that names the format and the feature it needs.
pub(crate) fn not_built<T>(name: &str, what: &str, feature: &str) -> Result<T, TableError> {
    Err(TableError::no_table(
        name,
        format!("is {what}, which this notch was built without."),
        format!("Use a notch built with the feature `{feature}`, or another format: CSV, say."),
    ))
}

/// Parquet and Arrow.
#[cfg(not(feature = "parquet"))]
pub(crate) mod columnar {
    use std::fs::File;
    use std::io::{self, Read};
    use std::sync::Arc;

    use super::not_built;
    use crate::cells::{CellWriter, ColumnBlock, ColumnBlockSource, Kind};
    use crate::chunks::ChunkSource;
    use crate::error::TableError;
    use crate::format::Columnar;
    use crate::output::To;

    pub(crate) enum ArrowText {}
    pub(crate) enum Batches {}

    impl Batches {
        pub(crate) fn only_as_text(&self, _columns: Vec<usize>) {
            match *self {}
        }
    }

    impl ArrowText {
        pub(crate) fn columns(&self) -> Vec<(String, Kind)> {
            match *self {}
        }

        pub(crate) fn batches(&self) -> Arc<Batches> {
            match *self {}
        }
    }

    impl ChunkSource for ArrowText {
        fn next_piece(&mut self, _piece: &mut Vec<u8>) -> io::Result<()> {
            match *self {}
        }
    }

    impl ColumnBlockSource for ArrowText {
        fn next_cells(
            &mut self,
            _size: usize,
            _bytes: &mut Vec<u8>,
            _cells: &mut ColumnBlock,
        ) -> io::Result<()> {
            match *self {}
        }
    }

    pub(crate) fn open(
        _file: File,
        name: &str,
        is_parquet: bool,
        _unpack_limit: Option<u64>,
    ) -> Result<ArrowText, TableError> {
        not_built(name, if is_parquet { "a Parquet file" } else { "an Arrow file" }, "parquet")
    }

    pub(crate) fn arrow_stream(
        _reader: Box<dyn Read + Send>,
        name: &str,
    ) -> Result<ArrowText, TableError> {
        not_built(name, "an Arrow stream", "parquet")
    }

    pub(crate) fn writer(
        to: To<'_>,
        columnar: Columnar,
    ) -> Result<Box<dyn CellWriter>, TableError> {
        let name = match to {
            To::File(path) => path.display().to_string(),
            To::Standard => "standard output".to_owned(),
        };
        let what = match columnar {
            Columnar::Parquet => "a Parquet file",
            Columnar::File => "an Arrow file",
            Columnar::Stream => "an Arrow stream",
        };
        not_built(&name, what, "parquet")
    }
}

/// Workbooks.
#[cfg(not(feature = "workbooks"))]
pub(crate) mod workbook {
    use std::fs::File;
    use std::io::Read;
    use std::path::Path;

    use super::not_built;
    use crate::cells::CellWriter;
    use crate::error::TableError;
    use crate::formats::csv::Record;
    use crate::input::line_map::LineMap;
    use crate::options::SheetOptions;

    /// A sheet; there is none.
    pub(crate) struct Sheet {
        pub header: (Vec<u8>, Vec<u32>),
        none: std::convert::Infallible,
    }

    impl Sheet {
        pub(crate) fn peek(&self) -> Option<Record<'_>> {
            match self.none {}
        }

        pub(crate) fn next(&mut self) -> Option<Record<'_>> {
            match self.none {}
        }
    }

    pub(crate) struct Opened {
        pub sheet: Sheet,
        pub columns: Vec<String>,
        pub notices: Vec<String>,
        pub places: Option<LineMap>,
        pub others: Vec<String>,
    }

    pub(crate) fn open(
        _file: File,
        name: &str,
        _options: &SheetOptions,
    ) -> Result<Opened, TableError> {
        not_built(name, "a workbook", "workbooks")
    }

    pub(crate) fn old_workbook(name: &str, _file: impl Read) -> TableError {
        TableError::no_table(
            name,
            "is a workbook that cannot be read.",
            "Save it as CSV UTF-8 in the program that made it.",
        )
    }

    pub(crate) fn writer(path: &Path, _what: &str) -> Result<Box<dyn CellWriter>, TableError> {
        not_built(&path.display().to_string(), "a workbook", "workbooks")
    }
}

/// SQLite files.
#[cfg(not(feature = "sqlite"))]
pub(crate) mod sqlite {
    use std::path::Path;

    use super::not_built;
    use crate::cells::CellWriter;
    use crate::error::TableError;

    pub(crate) fn is_built(name: &str) -> Result<(), TableError> {
        not_built(name, "an SQLite file", "sqlite")
    }

    /// Is never reached: [`is_built`] comes first. What it is given is of no matter.
    pub(crate) fn run<W, S>(_path: &Path, _wanted: &W, _sender: &S) -> Result<(), String> {
        Ok(())
    }

    pub(crate) fn writer(
        path: &Path,
        _table: &str,
        _replace: bool,
    ) -> Result<Box<dyn CellWriter>, TableError> {
        not_built(&path.display().to_string(), "an SQLite file", "sqlite")
    }
}

/// PostgreSQL servers.
#[cfg(not(feature = "postgres"))]
pub(crate) mod postgres {
    use std::time::Duration;

    use super::not_built;
    use crate::error::TableError;

    pub(crate) fn is_built(name: &str) -> Result<(), TableError> {
        not_built(name, "a table of a PostgreSQL server", "postgres")
    }

    /// Is never reached: [`is_built`] comes first. What it is given is of no matter.
    pub(crate) fn run<W, S>(
        _url: &str,
        _wanted: &W,
        _timeout: Duration,
        _sender: &S,
    ) -> Result<(), String> {
        Ok(())
    }
}
