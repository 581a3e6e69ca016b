//! JSON in and out: JSON Lines, or an array of objects (RFC 8259).
//!
//! Objects come in as comma-separated text, so that everything after knows only rows: one object
//! is one row, the value of a nested one is called by a dotted name, `null` is blank, numbers and
//! arrays stay as they are written.

mod flat;
mod write;

use std::borrow::Cow;
use std::collections::HashMap;
use std::fmt;
use std::io::{self, Read};
use std::ops::Range;

use serde::Deserialize;
use serde::de::{DeserializeSeed, IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde_json::value::RawValue;

use crate::cells::Kind;
use crate::chunks::ChunkSource;
use crate::formats::csv::{LONGEST_RECORD, write_cell};
use flat::FlatObject;
pub(crate) use write::ObjectsFile;

/// Objects as comma-separated text.
pub(crate) struct JsonText {
    values: Values,
    columns: HashMap<String, usize>,
    /// The names of the columns in their order, where objects are likely to have them so.
    names: Vec<String>,
    number: u64,
    flat: FlatObject,
    /// Where the cell of each column lies in a flat object, and whether there are escapes in it.
    cells: Vec<(Range<usize>, bool)>,
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
        self.add_to(place, kind);
    }

    fn add_to(&mut self, place: usize, kind: Option<Kind>) {
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
        let (mut flat, mut names, mut known) = (FlatObject::default(), Vec::new(), 0);
        loop {
            let named = values.next(number, &mut flat, &names).and_then(|object| {
                let object = match object {
                    None => return Ok(false),
                    Some(Next::Flat(object)) => {
                        add_flat(&values.bytes[object], &flat, &mut found);
                        if found.columns.len() > known {
                            (known, names) = (found.columns.len(), expected(&found.columns));
                        }
                        return Ok(true);
                    }
                    Some(Next::Other(object)) => object,
                };
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
        let names = expected(&found.columns);
        let (places, columns) = found.columns();
        let json = Self {
            values: Values::new(reader),
            cells: vec![(0..0, false); columns.len()],
            columns: places,
            names,
            number: 0,
            flat,
        };
        Ok((json, columns))
    }

    /// The column of a field of the next object.
    fn column(&self, name: &str) -> io::Result<usize> {
        self.columns.get(name).copied().ok_or_else(|| {
            let new =
                format!("it has a field {name} that was not there when the file was read first");
            wrong(self.number, &new)
        })
    }

    /// Writes the row of an object that lies there.
    fn push_other(&mut self, object: Range<usize>, piece: &mut Vec<u8>) -> io::Result<()> {
        let mut cells = vec![String::new(); self.columns.len()];
        let object = self.values.object(object, self.number)?;
        for field in object.0 {
            cells[self.column(&field.name)?] = field.text;
        }
        push_row(cells.iter().map(|cell| Ok(cell.into())), piece)
    }

    /// Writes the row of a flat object that lies there.
    fn push_flat(&mut self, object: Range<usize>, piece: &mut Vec<u8>) -> io::Result<()> {
        let text = std::str::from_utf8(&self.values.bytes[object])
            .map_err(|error| wrong(self.number, &error.to_string()))?;
        let mut cells = std::mem::take(&mut self.cells);
        cells.fill((0..0, false));
        for (place, field) in self.flat.fields.iter().enumerate() {
            let column = match field.is_expected {
                true => place,
                false => self.column(&text[field.name.clone()])?,
            };
            cells[column] = (field.value.clone(), field.has_escapes);
        }
        let texts = cells.iter().map(|(cell, has_escapes)| match has_escapes {
            false => Ok(text[cell.clone()].into()),
            true => serde_json::from_str(&text[cell.start - 1..cell.end + 1])
                .map(Cow::Owned)
                .map_err(|error| wrong(self.number, &error.to_string())),
        });
        push_row(texts, piece)?;
        self.cells = cells;
        Ok(())
    }
}

/// Adds the cells of a row, divided by commas.
fn push_row<'c>(
    cells: impl Iterator<Item = io::Result<Cow<'c, str>>>,
    piece: &mut Vec<u8>,
) -> io::Result<()> {
    for (n, cell) in cells.enumerate() {
        if n > 0 {
            piece.push(b',');
        }
        write_cell(&cell?, b',', piece);
    }
    Ok(())
}

/// The names of columns, for whom to expect in this order; none where one is not written as it is.
fn expected(columns: &[(String, Option<Kind>)]) -> Vec<String> {
    let is_plain = |name: &str| !name.contains(['"', '\\']);
    match columns.iter().all(|(name, _)| is_plain(name)) {
        true => columns.iter().map(|(name, _)| name.clone()).collect(),
        false => Vec::new(),
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
        while piece.len() < PIECE {
            self.number += 1;
            match self.values.next(self.number, &mut self.flat, &self.names)? {
                None => return Ok(()),
                Some(Next::Flat(object)) => self.push_flat(object, piece)?,
                Some(Next::Other(object)) => self.push_other(object, piece)?,
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

    /// The object that lies there; `number` is what it is called in messages.
    fn object(&self, object: Range<usize>, number: u64) -> io::Result<Object> {
        let mut fields = Vec::new();
        serde_json::from_slice::<Fields>(&self.bytes[object])
            .and_then(|object| take_apart("", object, &mut fields))
            .map(|()| Object(fields))
            .map_err(|error| wrong(number, &error.to_string()))
    }

    /// Where the next object lies in the bytes, and where its fields do when it is a flat one, with
    /// these names perhaps; `number` is what it is called in messages.
    fn next(
        &mut self,
        number: u64,
        flat: &mut FlatObject,
        names: &[String],
    ) -> io::Result<Option<Next>> {
        let Some(from) = self.next_brace(number)? else { return Ok(None) };
        if let Some(length) = flat.read(&self.bytes[from..], names)
            && length <= LONGEST_RECORD
        {
            self.at = from + length;
            return Ok(Some(Next::Flat(from..self.at)));
        }
        Ok(Some(Next::Other(from..self.end_of_value(from, number)?)))
    }

    /// Where the next object begins in the bytes.
    fn next_brace(&mut self, number: u64) -> io::Result<Option<usize>> {
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
        Ok(Some(at))
    }

    /// Where the object ends that begins there.
    fn end_of_value(&mut self, from: usize, number: u64) -> io::Result<usize> {
        let wrong = |what: String| Err(wrong(number, &what));
        let (mut at, mut depth, mut in_text) = (from, 0_usize, false);
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
        Ok(at)
    }
}

/// Takes the fields of a flat object; names that are no text are met again, and told, when it is
/// read.
fn add_flat(object: &[u8], flat: &FlatObject, found: &mut Found) {
    for (place, field) in flat.fields.iter().enumerate() {
        match field.is_expected {
            true => found.add_to(place, field.kind),
            false => found.add(&String::from_utf8_lossy(&object[field.name.clone()]), field.kind),
        }
    }
}

/// An object, by where it lies.
enum Next {
    /// One whose fields are known.
    Flat(Range<usize>),
    /// Any other.
    Other(Range<usize>),
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

/// Whether text begins as JSON objects do: a brace before a quote or another brace, or a bracket
/// before a brace or another bracket.
pub(crate) fn looks_like_json(beginning: &[u8]) -> bool {
    let mut marks = beginning.iter().copied().filter(|byte| !byte.is_ascii_whitespace());
    matches!(
        (marks.next(), marks.next()),
        (Some(b'{'), Some(b'"' | b'}')) | (Some(b'['), Some(b'{' | b']'))
    )
}
