//! JSON out: JSON Lines, or an array of objects.

use std::sync::Arc;

use super::flat::{has_special, has_special_open};
use crate::cells::{CellColumn, CellWriter, Field, OutCell, RowText, TypedRows};
use crate::error::TableError;
use crate::output::{Finished, NewFile};
use crate::text_out::TextOut;

/// A file of JSON objects that all have the same fields, a line each; in an array when they are to
/// be one value.
pub(crate) struct ObjectsFile {
    file: NewFile,
    objects: Arc<RowText>,
    /// Each object stands on a line of its own behind a comma; else before a line end.
    in_array: bool,
    line: TextOut,
    is_empty: bool,
}

impl ObjectsFile {
    pub(crate) fn new(file: NewFile, in_array: bool) -> Self {
        let objects = Arc::new(objects(in_array, Vec::new()));
        Self { file, objects, in_array, line: TextOut::default(), is_empty: true }
    }
}

impl CellWriter for ObjectsFile {
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        _batches: Option<TypedRows>,
    ) -> Result<(), TableError> {
        let field = |(n, column): (usize, &CellColumn)| {
            let comma = if n > 0 { "," } else { "" };
            let name = format!("{comma}{}:", serde_json::Value::from(&*column.name));
            Field::new(name, QUOTE, column.kind.is_bare())
        };
        let fields = columns.iter().enumerate().map(field).collect();
        self.objects = Arc::new(objects(self.in_array, fields));
        if self.in_array { self.file.write(b"[") } else { Ok(()) }
    }

    fn row<'c>(
        &mut self,
        _number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError> {
        let mut line = std::mem::take(&mut self.line);
        line.clear();
        self.objects.row(cells, &mut line);
        let written = self.text(line.bytes());
        self.line = line;
        written
    }

    fn row_text(&self) -> Option<Arc<RowText>> {
        Some(Arc::clone(&self.objects))
    }

    fn text(&mut self, rows: &[u8]) -> Result<(), TableError> {
        if rows.is_empty() {
            return Ok(());
        }
        // No comma stands before the first object.
        let is_first = self.in_array && std::mem::take(&mut self.is_empty);
        self.file.write(if is_first { rows.strip_prefix(b",").unwrap_or(rows) } else { rows })
    }

    fn has_let_go(&self) -> bool {
        self.file.has_let_go()
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        if self.in_array {
            self.file.write(if self.is_empty { b"]\n" } else { b"\n]\n" })?;
        }
        Finished::file(self.file)
    }
}

/// What stands before a text and behind it.
const QUOTE: u8 = b'"';

/// How rows become objects. In fields that may hold them, numbers and truth values are written as
/// such.
fn objects(in_array: bool, fields: Vec<Field>) -> RowText {
    let (begin, end): (&[u8], &[u8]) = if in_array { (b",\n{", b"}") } else { (b"{", b"}\n") };
    RowText {
        begin,
        end,
        fields,
        quote: QUOTE,
        is_verbatim: |bytes| !has_special(bytes),
        is_verbatim_open: |open, length| !has_special_open(open, length),
        push_other,
    }
}

/// Adds a value that is not written as a text that stands as it is.
fn push_other(field: &Field, bytes: &[u8], into: &mut TextOut) {
    let text = &*String::from_utf8_lossy(bytes);
    into.push(field.name.as_bytes());
    // JSON knows fewer forms of numbers than people do: what is none of its own stays text.
    let is_value = || {
        matches!(text, "true" | "false") || serde_json::from_str::<serde_json::Number>(text).is_ok()
    };
    match text {
        "" => into.push(b"null"),
        text if field.is_bare && is_value() => into.push(text.as_bytes()),
        // Nothing can be wrong with a text in memory.
        text => drop(serde_json::to_writer(into, text)),
    }
}
