//! JSON in and out: JSON Lines, or an array of objects (RFC 8259).
//!
//! Objects come in as comma-separated text, so that everything after knows only rows: one object
//! is one row, the value of a nested one is called by a dotted name, `null` is blank, numbers and
//! arrays stay as they are written.

use std::collections::HashMap;
use std::fmt;
use std::io::{self, Read};
use std::ops::Range;

use serde::Deserialize;
use serde::de::{DeserializeSeed, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::value::RawValue;

use crate::cells::{CellColumn, CellWriter, Kind, OutCell, TypedRows};
use crate::chunks::ChunkSource;
use crate::error::TableError;
use crate::formats::csv::{LONGEST_RECORD, write_cell};
use crate::output::{Finished, NewFile};

/// Objects as comma-separated text.
pub(crate) struct JsonText {
    values: Values,
    columns: HashMap<String, usize>,
    number: u64,
}

/// The fields of an object with their dotted names, nested objects taken apart.
struct Object(Vec<Field>);

struct Field {
    name: String,
    text: String,
}

/// The columns of objects, in the order in which they come.
#[derive(Default)]
struct Found {
    places: HashMap<String, usize>,
    /// What each holds, as far as anything in it says so.
    columns: Vec<(String, Option<Kind>)>,
}

impl Found {
    /// Takes a field; a blank says nothing of its column.
    fn add(&mut self, name: &str, kind: Option<Kind>) {
        let place = match self.places.get(name) {
            Some(place) => *place,
            None => {
                self.places.insert(name.to_owned(), self.columns.len());
                self.columns.push((name.to_owned(), None));
                self.columns.len() - 1
            }
        };
        let known = &mut self.columns[place].1;
        *known = kind.map(|kind| known.map_or(kind, |known| both(known, kind))).or(*known);
    }

    fn columns(self) -> (HashMap<String, usize>, Vec<(String, Kind)>) {
        (
            self.places,
            self.columns.into_iter().map(|(name, kind)| (name, kind.unwrap_or_default())).collect(),
        )
    }
}

impl JsonText {
    /// Objects of a reader, with their columns: the names that any object has. `again` returns the
    /// same once more.
    ///
    /// # Errors
    /// The source cannot be read, or holds something else than objects before the first one with a
    /// field.
    pub(crate) fn new(
        reader: Box<dyn Read + Send>,
        again: Box<dyn Read + Send>,
    ) -> io::Result<(Self, Vec<(String, Kind)>)> {
        let (mut values, mut found, mut number) = (Values::new(again), Found::default(), 1);
        loop {
            let named = values.next_value(number).and_then(|object| {
                let Some(object) = object else { return Ok(false) };
                let mut deserializer = serde_json::Deserializer::from_slice(&values.bytes[object]);
                let names = Names { name: &mut String::new(), found: &mut found };
                names
                    .deserialize(&mut deserializer)
                    .map(|()| true)
                    .map_err(|error| wrong(number, &error.to_string()))
            });
            match named {
                Ok(true) => number += 1,
                Ok(false) => break,
                Err(cause) if found.columns.is_empty() => return Err(cause),
                // What is wrong with an object is said when its turn comes.
                Err(_) => break,
            }
        }
        let (places, columns) = found.columns();
        Ok((Self { values: Values::new(reader), columns: places, number: 0 }, columns))
    }
}

/// Takes the names of a value's fields without its texts.
struct Names<'n> {
    /// The dotted name of the value.
    name: &'n mut String,
    found: &'n mut Found,
}

impl<'de> DeserializeSeed<'de> for Names<'_> {
    type Value = ();

    fn deserialize<D: serde::Deserializer<'de>>(self, deserializer: D) -> Result<(), D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for Names<'_> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a value")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        let length = self.name.len();
        while let Some(key) = map.next_key::<String>()? {
            if length > 0 {
                self.name.push('.');
            }
            self.name.push_str(&key);
            map.next_value_seed(Names { name: self.name, found: self.found })?;
            self.name.truncate(length);
        }
        Ok(())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<(), A::Error> {
        self.found.add(self.name, Some(Kind::Text));
        while seq.next_element::<IgnoredAny>()?.is_some() {}
        Ok(())
    }

    fn visit_str<E>(self, text: &str) -> Result<(), E> {
        self.found.add(self.name, Some(Kind::Text).filter(|_| !text.is_empty()));
        Ok(())
    }

    fn visit_bool<E>(self, _: bool) -> Result<(), E> {
        self.found.add(self.name, Some(Kind::Truth));
        Ok(())
    }

    fn visit_u64<E>(self, _: u64) -> Result<(), E> {
        self.found.add(self.name, Some(Kind::Integer));
        Ok(())
    }

    fn visit_i64<E>(self, _: i64) -> Result<(), E> {
        self.found.add(self.name, Some(Kind::Integer));
        Ok(())
    }

    fn visit_f64<E>(self, number: f64) -> Result<(), E> {
        // A whole number beyond 64 bits comes as one as well.
        let kind =
            if number.fract() == 0.0 && number.abs() > 1e18 { Kind::Integer } else { Kind::Number };
        self.found.add(self.name, Some(kind));
        Ok(())
    }

    fn visit_unit<E>(self) -> Result<(), E> {
        self.found.add(self.name, None);
        Ok(())
    }
}

impl ChunkSource for JsonText {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        const PIECE: usize = 64 * 1024;
        let mut cells = vec![String::new(); self.columns.len()];
        while piece.len() < PIECE {
            self.number += 1;
            let Some(object) = self.values.next_object(self.number)? else { return Ok(()) };
            cells.iter_mut().for_each(String::clear);
            for field in object.0 {
                let Some(column) = self.columns.get(&field.name) else {
                    return Err(wrong(
                        self.number,
                        &format!(
                            "it has a field {} that was not there when the file was read first",
                            field.name
                        ),
                    ));
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
    /// How many of them have been done with.
    at: usize,
    at_end: bool,
    /// Whether all lies in an array; not known before the first byte.
    in_array: Option<bool>,
}

/// How deep values may stand one in the other, so that no text can exhaust the stack.
const DEEPEST: usize = 128;
/// How much is read at a time, in bytes.
const READ: usize = 256 * 1024;

impl Values {
    fn new(reader: Box<dyn Read + Send>) -> Self {
        Self { reader, bytes: Vec::new(), at: 0, at_end: false, in_array: None }
    }

    /// The byte at a place; `None` at the end.
    #[inline]
    fn byte(&mut self, at: usize) -> io::Result<Option<u8>> {
        while at >= self.bytes.len() && !self.at_end {
            self.at_end = self.reader.by_ref().take(READ as u64).read_to_end(&mut self.bytes)? == 0;
        }
        Ok(self.bytes.get(at).copied())
    }

    /// The next object; `number` is what it is called in messages.
    fn next_object(&mut self, number: u64) -> io::Result<Option<Object>> {
        let Some(value) = self.next_value(number)? else { return Ok(None) };
        let mut fields = Vec::new();
        match serde_json::from_slice::<Fields>(&self.bytes[value])
            .and_then(|object| take_apart("", object, &mut fields))
        {
            Ok(()) => Ok(Some(Object(fields))),
            Err(error) => Err(wrong(number, &error.to_string())),
        }
    }

    /// Where the next object lies in the bytes.
    fn next_value(&mut self, number: u64) -> io::Result<Option<Range<usize>>> {
        let wrong = |what: String| Err(wrong(number, &what));
        if self.at >= READ {
            self.bytes.drain(..self.at);
            self.at = 0;
        }
        let mut at = self.at;
        loop {
            match (self.byte(at)?, self.in_array) {
                (Some(b' ' | b'\t' | b'\n' | b'\r'), _) | (Some(b','), Some(true)) => at += 1,
                (Some(b'['), None) => (at, self.in_array) = (at + 1, Some(true)),
                (Some(b'{'), _) => break,
                (None, Some(true)) => {
                    return wrong("the file ends before the array is closed".to_owned());
                }
                (None, _) | (Some(b']'), Some(true)) => return Ok(None),
                (Some(byte), _) => {
                    return wrong(format!("there is no object, but {:?}", char::from(byte)));
                }
            }
        }
        self.in_array.get_or_insert(false);
        let (from, mut depth, mut in_text) = (at, 0_usize, false);
        loop {
            match self.byte(at)? {
                None => return wrong("the file ends in the middle of it".to_owned()),
                Some(b'\\') if in_text => at += 1,
                Some(b'"') => in_text = !in_text,
                Some(b'{' | b'[') if !in_text && depth == DEEPEST => {
                    return wrong(format!("it is nested more than {DEEPEST} deep"));
                }
                Some(b'{' | b'[') if !in_text => depth += 1,
                Some(b'}' | b']') if !in_text => depth -= 1,
                Some(_) => {}
            }
            at += 1;
            if depth == 0 {
                break;
            }
            if at - from > LONGEST_RECORD {
                return wrong(format!("it is longer than {} MiB", LONGEST_RECORD >> 20));
            }
        }
        self.at = at;
        Ok(Some(from..at))
    }
}

fn wrong(number: u64, what: &str) -> io::Error {
    io::Error::new(io::ErrorKind::InvalidData, format!("object {number}: {what}"))
}

/// Returns each field its dotted name and its text.
fn take_apart(before: &str, object: Fields, into: &mut Vec<Field>) -> serde_json::Result<()> {
    for (name, value) in object.0 {
        let name = if before.is_empty() { name } else { format!("{before}.{name}") };
        let text = value.get();
        let text = match text.as_bytes().first() {
            Some(b'{') => {
                take_apart(&name, serde_json::from_str(text)?, into)?;
                continue;
            }
            Some(b'"') => serde_json::from_str(text)?,
            Some(b'n') => String::new(),
            _ => text.to_owned(),
        };
        into.push(Field { name, text });
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

/// A file of JSON objects that all have the same fields, a line each; in an array when they are to
/// be one value.
pub(crate) struct ObjectsFile {
    file: NewFile,
    in_array: bool,
    /// The names of the fields as they are written, with a colon, and whether numbers and truth
    /// values in them are written as such.
    fields: Vec<(String, bool)>,
    line: Vec<u8>,
    rows: u64,
}

impl ObjectsFile {
    pub(crate) fn new(file: NewFile, in_array: bool) -> Self {
        Self { file, in_array, fields: Vec::new(), line: Vec::new(), rows: 0 }
    }
}

impl CellWriter for ObjectsFile {
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        _batches: Option<TypedRows>,
    ) -> Result<(), TableError> {
        self.fields = columns
            .iter()
            .map(|column| (format!("{}:", quoted(&column.name)), column.kind.is_bare()))
            .collect();
        if self.in_array { self.file.write(b"[") } else { Ok(()) }
    }

    fn row<'c>(
        &mut self,
        _number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError> {
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
            let is_value = |cell: &str| {
                matches!(cell, "true" | "false")
                    || serde_json::from_str::<serde_json::Number>(cell).is_ok()
            };
            match cell.as_deref() {
                None => self.line.extend_from_slice(b"null"),
                Some(cell) if *is_bare && is_value(cell) => {
                    self.line.extend_from_slice(cell.as_bytes())
                }
                Some(text) => serde_json::to_writer(&mut self.line, text)
                    .map_err(|cause| self.file.failed(cause.into()))?,
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

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        if self.in_array {
            self.file.write(if self.rows == 0 { b"]\n" } else { b"\n]\n" })?;
        }
        Finished::file(self.file)
    }
}

/// A text as JSON writes it.
fn quoted(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}

/// Whether text begins as JSON objects do: a brace before a quote or another brace, or a bracket
/// before a brace or another bracket.
pub(crate) fn looks_like_json(beginning: &[u8]) -> bool {
    let mut marks = beginning.iter().copied().filter(|byte| !byte.is_ascii_whitespace());
    matches!(
        (marks.next(), marks.next()),
        (Some(b'{'), Some(b'"' | b'}')) | (Some(b'['), Some(b'{' | b']'))
    )
}
