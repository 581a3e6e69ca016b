//! JSON out: JSON Lines, or an array of objects.

use std::io;
use std::sync::Arc;

use super::flat::has_special;
use crate::cells::{CellColumn, CellWriter, OutCell, RowText, TypedRows};
use crate::error::TableError;
use crate::output::{Finished, NewFile};

/// A file of JSON objects that all have the same fields, a line each; in an array when they are to
/// be one value.
pub(crate) struct ObjectsFile {
    file: NewFile,
    objects: Arc<Objects>,
    line: Vec<u8>,
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
    /// The same and a quote, before a text.
    before_text: String,
    /// Whether numbers and truth values in it are written as such.
    is_bare: bool,
}

impl ObjectsFile {
    pub(crate) fn new(file: NewFile, in_array: bool) -> Self {
        let objects = Arc::new(Objects { in_array, fields: Vec::new() });
        Self { file, objects, line: Vec::new(), is_empty: true }
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
            Field { before_text: format!("{name}\""), name, is_bare: column.kind.is_bare() }
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
        self.objects.push(cells, &mut line).map_err(|cause| self.file.failed(cause))?;
        let written = self.text(&line);
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
    fn push<'c>(
        &self,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
        into: &mut Vec<u8>,
    ) -> io::Result<()> {
        into.extend_from_slice(if self.in_array { b",\n{" } else { b"{" });
        for (field, cell) in self.fields.iter().zip(cells) {
            // JSON knows fewer forms of numbers than people do: what is none of its own stays text.
            let is_value = |cell: &str| {
                matches!(cell, "true" | "false")
                    || serde_json::from_str::<serde_json::Number>(cell).is_ok()
            };
            let bare = match cell.as_deref() {
                None => "null",
                Some(cell) if field.is_bare && is_value(cell) => cell,
                Some(text) if has_special(text.as_bytes()) => {
                    into.extend_from_slice(field.name.as_bytes());
                    serde_json::to_writer(&mut *into, text)?;
                    continue;
                }
                Some(text) => {
                    into.reserve(field.before_text.len() + text.len() + 1);
                    into.extend_from_slice(field.before_text.as_bytes());
                    into.extend_from_slice(text.as_bytes());
                    into.push(b'"');
                    continue;
                }
            };
            into.extend_from_slice(field.name.as_bytes());
            into.extend_from_slice(bare.as_bytes());
        }
        into.extend_from_slice(if self.in_array { b"}" } else { b"}\n" });
        Ok(())
    }
}
