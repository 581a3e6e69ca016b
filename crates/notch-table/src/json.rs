//! JSON in and out: JSON Lines, or an array of objects (RFC 8259).
//!
//! Objects come in as comma-separated text, so that everything behind knows only rows: one object is one row, the value of a nested one is
//! called by a dotted name, `null` is blank, numbers and arrays stay as they are written.

use std::collections::HashMap;
use std::fmt;
use std::io::{self, Read};
use std::sync::Arc;

use serde::Deserialize;
use serde::de::{MapAccess, Visitor};
use serde_json::value::RawValue;

use crate::cells::{CellColumn, CellsFile, Kind, OutCell};
use crate::columnar::Batches;
use crate::csv::write_cell;
use crate::error::TableError;
use crate::output::NewFile;
use crate::pieces::Pieces;

/// The columns are the names that so many objects have at first.
const LOOKED_AT: usize = 1000;

/// Objects as comma-separated text.
pub(crate) struct JsonText {
    values: Values,
    columns: HashMap<String, usize>,
    /// Objects that were looked at for their names.
    ahead: std::vec::IntoIter<Object>,
    number: u64,
}

/// The fields of an object with their dotted names, nested objects taken apart.
struct Object(Vec<Field>);

struct Field {
    name: String,
    text: String,
    kind: Kind,
}

impl JsonText {
    /// Reads the first objects; gives the columns with it, in the order in which they come.
    ///
    /// # Errors
    /// The source cannot be read, or holds something else than objects.
    pub(crate) fn new(reader: Box<dyn Read + Send>) -> io::Result<(Self, Vec<(String, Kind)>)> {
        let mut values = Values { reader, bytes: Vec::new(), at: 0, in_array: None };
        let (mut ahead, mut found, mut columns) = (Vec::new(), Vec::new(), HashMap::new());
        while ahead.len() < LOOKED_AT
            && let Some(object) = values.next_object(ahead.len() as u64 + 1)?
        {
            for Field { name, text, kind } in &object.0 {
                let place = *columns.entry(name.clone()).or_insert(found.len());
                if place == found.len() {
                    found.push((name.clone(), None));
                }
                // A blank says nothing of its column.
                if !text.is_empty() {
                    found[place].1 = Some(found[place].1.map_or(*kind, |so_far| both(so_far, *kind)));
                }
            }
            ahead.push(object);
        }
        let found = found.into_iter().map(|(name, kind)| (name, kind.unwrap_or_default())).collect();
        Ok((Self { values, columns, ahead: ahead.into_iter(), number: 0 }, found))
    }
}

impl Pieces for JsonText {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        const PIECE: usize = 64 * 1024;
        let mut cells = vec![String::new(); self.columns.len()];
        while piece.len() < PIECE {
            self.number += 1;
            let object = match self.ahead.next() {
                Some(object) => object,
                None => match self.values.next_object(self.number)? {
                    Some(object) => object,
                    None => return Ok(()),
                },
            };
            cells.iter_mut().for_each(String::clear);
            for field in object.0 {
                let Some(column) = self.columns.get(&field.name) else {
                    let message = format!("object {} has a field {}, and none of the first {LOOKED_AT} has one", self.number, field.name);
                    return Err(io::Error::new(io::ErrorKind::InvalidData, message));
                };
                cells[*column] = field.text;
            }
            for (n, cell) in cells.iter().enumerate() {
                if n > 0 {
                    piece.push(b',');
                }
                write_cell(cell, b',', piece);
            }
            // A line with nothing in it would be no row.
            if piece.last().is_none_or(|last| *last == b'\n') {
                piece.extend_from_slice(b"\"\"");
            }
            piece.push(b'\n');
        }
        Ok(())
    }
}

/// What a column holds in which there is the one and the other.
fn both(a: Kind, b: Kind) -> Kind {
    match (a, b) {
        _ if a == b => a,
        (Kind::Integer | Kind::Number, Kind::Integer | Kind::Number) => Kind::Number,
        (Kind::Text, _) | (_, Kind::Text) => Kind::Text,
        _ => Kind::Mixed,
    }
}

/// The bytes of one value after the other, from lines or from an array.
struct Values {
    reader: Box<dyn Read + Send>,
    bytes: Vec<u8>,
    at: usize,
    /// Whether all lies in an array; not known before the first byte.
    in_array: Option<bool>,
}

impl Values {
    /// The byte at a place; `None` at the end.
    fn byte(&mut self, at: usize) -> io::Result<Option<u8>> {
        while at >= self.bytes.len() {
            if self.at > 0 && self.at == self.bytes.len() {
                return Ok(None);
            }
            let read = self.reader.by_ref().take(256 * 1024).read_to_end(&mut self.bytes)?;
            if read == 0 {
                return Ok(None);
            }
        }
        Ok(self.bytes.get(at).copied())
    }

    /// The next object; `number` is what it is called in messages.
    fn next_object(&mut self, number: u64) -> io::Result<Option<Object>> {
        let wrong = |what: String| Err(io::Error::new(io::ErrorKind::InvalidData, format!("object {number}: {what}")));
        self.bytes.drain(..self.at);
        self.at = 0;
        let mut at = 0;
        loop {
            match (self.byte(at)?, self.in_array) {
                (Some(b' ' | b'\t' | b'\n' | b'\r'), _) | (Some(b','), Some(true)) => at += 1,
                (Some(b'['), None) => (at, self.in_array) = (at + 1, Some(true)),
                (Some(b'{'), _) => break,
                (None, Some(true)) => return wrong("the file ends before the array is closed".to_owned()),
                (None, _) | (Some(b']'), Some(true)) => return Ok(None),
                (Some(byte), _) => return wrong(format!("there is no object, but {:?}", char::from(byte))),
            }
        }
        self.in_array.get_or_insert(false);
        let (from, mut depth, mut in_text) = (at, 0_usize, false);
        loop {
            match self.byte(at)? {
                None => return wrong("the file ends in the middle of it".to_owned()),
                Some(b'\\') if in_text => at += 1,
                Some(b'"') => in_text = !in_text,
                Some(b'{' | b'[') if !in_text => depth += 1,
                Some(b'}' | b']') if !in_text => depth -= 1,
                Some(_) => {}
            }
            at += 1;
            if depth == 0 {
                break;
            }
        }
        self.at = at;
        let mut fields = Vec::new();
        match serde_json::from_slice::<Fields>(&self.bytes[from..at]).and_then(|object| take_apart("", object, &mut fields)) {
            Ok(()) => Ok(Some(Object(fields))),
            Err(error) => wrong(error.to_string()),
        }
    }
}

/// Gives each field its dotted name and its text.
fn take_apart(before: &str, object: Fields, into: &mut Vec<Field>) -> serde_json::Result<()> {
    for (name, value) in object.0 {
        let name = if before.is_empty() { name } else { format!("{before}.{name}") };
        let text = value.get();
        let (text, kind) = match text.as_bytes().first() {
            Some(b'{') => {
                take_apart(&name, serde_json::from_str(text)?, into)?;
                continue;
            }
            Some(b'"') => (serde_json::from_str(text)?, Kind::Text),
            Some(b'[') => (text.to_owned(), Kind::Text),
            Some(b'n') => (String::new(), Kind::Text),
            Some(b't' | b'f') => (text.to_owned(), Kind::Truth),
            _ => (text.to_owned(), if text.contains(['.', 'e', 'E']) { Kind::Number } else { Kind::Integer }),
        };
        into.push(Field { name, text, kind });
    }
    Ok(())
}

/// The fields of an object in their order, their values as they are written.
struct Fields(Vec<(String, Box<RawValue>)>);

impl<'de> Deserialize<'de> for Fields {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Each;
        impl<'de> Visitor<'de> for Each {
            type Value = Fields;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("an object")
            }

            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Fields, A::Error> {
                let mut fields = Vec::new();
                while let Some(field) = map.next_entry()? {
                    fields.push(field);
                }
                Ok(Fields(fields))
            }
        }
        deserializer.deserialize_map(Each)
    }
}

/// A file of JSON objects that all have the same fields, a line each; in an array when they are to be one value.
pub(crate) struct ObjectsFile {
    file: NewFile,
    in_array: bool,
    /// The names of the fields as they are written, with a colon, and whether numbers and truth values in them are written as such.
    fields: Vec<(String, bool)>,
    line: Vec<u8>,
    rows: u64,
}

impl ObjectsFile {
    pub(crate) fn new(file: NewFile, in_array: bool) -> Self {
        Self { file, in_array, fields: Vec::new(), line: Vec::new(), rows: 0 }
    }
}

impl CellsFile for ObjectsFile {
    fn begin(&mut self, columns: Vec<CellColumn>, _batches: Option<Arc<Batches>>) -> Result<(), TableError> {
        self.fields = columns.iter().map(|column| (format!("{}:", quoted(&column.name)), column.kind.is_bare())).collect();
        if self.in_array { self.file.write(b"[") } else { Ok(()) }
    }

    fn row<'c>(&mut self, _number: u64, cells: &mut dyn Iterator<Item = OutCell<'c>>) -> Result<(), TableError> {
        self.line.clear();
        if self.in_array {
            self.line.extend_from_slice(if self.rows == 0 { b"\n" } else { b",\n" });
        }
        self.line.push(b'{');
        for (n, ((name, is_bare), cell)) in self.fields.iter().zip(cells).enumerate() {
            if n > 0 {
                self.line.push(b',');
            }
            self.line.extend_from_slice(name.as_bytes());
            // JSON knows fewer forms of numbers than people do: what is none of its own stays text.
            let is_value = |cell: &str| matches!(cell, "true" | "false") || serde_json::from_str::<serde_json::Number>(cell).is_ok();
            match cell.as_deref() {
                None => self.line.extend_from_slice(b"null"),
                Some(cell) if *is_bare && is_value(cell) => self.line.extend_from_slice(cell.as_bytes()),
                Some(text) => serde_json::to_writer(&mut self.line, text).map_err(|cause| self.file.failed(cause.into()))?,
            }
        }
        self.line.push(b'}');
        if !self.in_array {
            self.line.push(b'\n');
        }
        self.rows += 1;
        self.file.write(&self.line)
    }

    fn has_let_go(&self) -> bool {
        self.file.has_let_go()
    }

    fn finish(mut self: Box<Self>) -> Result<Vec<String>, TableError> {
        if self.in_array {
            self.file.write(if self.rows == 0 { b"]\n" } else { b"\n]\n" })?;
        }
        self.file.finish().map(|()| Vec::new())
    }
}

/// A text as JSON writes it.
fn quoted(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}

/// Whether text begins as JSON objects do: a brace before a quote or another brace, or a bracket before a brace or another bracket.
pub(crate) fn looks_like_json(beginning: &[u8]) -> bool {
    let mut marks = beginning.iter().copied().filter(|byte| !byte.is_ascii_whitespace());
    matches!((marks.next(), marks.next()), (Some(b'{'), Some(b'"' | b'}')) | (Some(b'['), Some(b'{' | b']')))
}
