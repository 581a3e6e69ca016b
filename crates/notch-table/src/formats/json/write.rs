//! JSON out: JSON Lines, or an array of objects.

use std::sync::Arc;

use super::flat::{has_special, has_special_open};
use crate::cells::{CellColumn, CellWriter, OpenCell, OutCell, RowText, TypedRows};
use crate::error::TableError;
use crate::output::{Finished, NewFile};
use crate::text_out::TextOut;

/// A file of JSON objects that all have the same fields, a line each; in an array when they are to
/// be one value.
pub(crate) struct ObjectsFile {
    file: NewFile,
    objects: Arc<Objects>,
    line: TextOut,
    is_empty: bool,
}

/// How rows become objects.
#[derive(Debug)]
struct Objects {
    /// Each object stands on a line of its own behind a comma; else before a line end.
    in_array: bool,
    fields: Vec<Field>,
}

/// A field of all objects.
#[derive(Debug)]
struct Field {
    /// What stands before its value: a comma but for the first one, its name, a colon.
    name: String,
    /// The same and a quote, before a text; and more, so that it may be added in one copy.
    before_text: Vec<u8>,
    /// Whether numbers and truth values in it are written as such.
    is_bare: bool,
}

impl ObjectsFile {
    pub(crate) fn new(file: NewFile, in_array: bool) -> Self {
        let objects = Arc::new(Objects { in_array, fields: Vec::new() });
        Self { file, objects, line: TextOut::default(), is_empty: true }
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
            let before_text = format!("{name}\"{}", " ".repeat(TextOut::WIDE)).into_bytes();
            Field { before_text, name, is_bare: column.kind.is_bare() }
        };
        let fields = columns.iter().enumerate().map(field).collect();
        let in_array = self.objects.in_array;
        self.objects = Arc::new(Objects { in_array, fields });
        if in_array { self.file.write(b"[") } else { Ok(()) }
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

    fn row_text(&self) -> Option<Arc<dyn RowText>> {
        Some(Arc::clone(&self.objects) as Arc<dyn RowText>)
    }

    fn text(&mut self, rows: &[u8]) -> Result<(), TableError> {
        if rows.is_empty() {
            return Ok(());
        }
        // No comma stands before the first object.
        let is_first = self.objects.in_array && std::mem::take(&mut self.is_empty);
        self.file.write(if is_first { rows.strip_prefix(b",").unwrap_or(rows) } else { rows })
    }

    fn has_let_go(&self) -> bool {
        self.file.has_let_go()
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        if self.objects.in_array {
            self.file.write(if self.is_empty { b"]\n" } else { b"\n]\n" })?;
        }
        Finished::file(self.file)
    }
}

impl RowText for Objects {
    fn begin(&self, into: &mut TextOut) {
        into.push(if self.in_array { b",\n{" } else { b"{" });
    }

    fn is_verbatim(&self, bytes: &[u8]) -> bool {
        !has_special(bytes)
    }

    fn cell(&self, column: usize, cell: OpenCell<'_>, into: &mut TextOut) {
        let Some(field) = self.fields.get(column) else { return };
        let OpenCell { open, length, is_verbatim } = cell;
        if length == 0 || field.is_bare || !(is_verbatim || is_verbatim_open(open, length)) {
            return field.push_other(&open[..length], into);
        }
        let before = field.name.len() + 1;
        let mut room = into.room(before + length + 2 * TextOut::WIDE);
        room.push_open(&field.before_text, before);
        room.push_open(open, length);
        room.push_end(b"\"");
        let written = room.at;
        into.end(written);
    }

    fn end(&self, into: &mut TextOut) {
        into.push(if self.in_array { b"}" } else { b"}\n" });
    }
}

/// Whether a text, that many of the bytes, stands in JSON as it is.
#[inline(never)]
fn is_verbatim_open(open: &[u8], length: usize) -> bool {
    !has_special_open(open, length)
}

impl Field {
    /// Adds a value that is not written as a text that stands as it is. A function of its own, so
    /// that the way of most cells is short.
    #[inline(never)]
    fn push_other(&self, bytes: &[u8], into: &mut TextOut) {
        let text = &*String::from_utf8_lossy(bytes);
        into.push(self.name.as_bytes());
        // JSON knows fewer forms of numbers than people do: what is none of its own stays text.
        let is_value = || {
            matches!(text, "true" | "false")
                || serde_json::from_str::<serde_json::Number>(text).is_ok()
        };
        match text {
            "" => into.push(b"null"),
            text if self.is_bare && is_value() => into.push(text.as_bytes()),
            // Nothing can be wrong with a text in memory.
            text => drop(serde_json::to_writer(into, text)),
        }
    }
}
