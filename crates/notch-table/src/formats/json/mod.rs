//! JSON in and out: JSON Lines, or an array of objects (RFC 8259).
//!
//! Objects come in as comma-separated text, so that everything after knows only rows: one object
//! is one row, the value of a nested one is called by a dotted name, `null` is blank, numbers and
//! arrays stay as they are written.

mod columns;
mod expected;
mod flat;
mod key_ends;
#[cfg(test)]
mod tests;
mod values;
mod write;

use std::borrow::Cow;
use std::collections::HashMap;
use std::fmt;
use std::io::{self, Read};
use std::ops::Range;

use serde::Deserialize;
use serde::de::{MapAccess, Visitor};
use serde_json::value::RawValue;

use crate::formats::csv::{MadeRows, RowMaker, push_short, write_cell};
pub(crate) use columns::{Columns, columns, columns_of_lines};
use expected::Expected;
use flat::FlatObject;
use values::{Next, Values, no_json, no_text, wrong};
pub(crate) use write::ObjectsFile;

/// Objects as comma-separated text.
pub(crate) struct JsonText {
    values: Values,
    columns: HashMap<String, usize>,
    expected: Expected,
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

impl JsonText {
    /// Objects of a reader that have these columns.
    pub(crate) fn new(reader: Box<dyn Read + Send>, columns: Columns) -> Self {
        Self {
            values: Values::new(reader),
            cells: vec![(0..0, false); columns.columns.len()],
            expected: Expected::of(columns.columns.iter().map(|(name, _)| &**name)),
            columns: columns.places,
            number: 0,
            flat: FlatObject::default(),
        }
    }

    /// The column of a field of the next object.
    fn column(&self, name: &str) -> io::Result<usize> {
        self.columns.get(name).copied().ok_or_else(|| {
            let new =
                format!("it has a field {name} that was not there when the file was read first");
            wrong(self.number, &new)
        })
    }

    /// Writes the row of the object that begins there, if it has the expected fields; returns
    /// whether it has.
    fn push_expected(&mut self, from: usize, made: &mut MadeRows) -> io::Result<bool> {
        let bytes = &self.values.bytes()[from..];
        let (mut is_ascii, mut is_right) = (true, true);
        let read = self.expected.read(bytes, |_, value| {
            is_ascii &= value.is_ascii;
            made.add_field(|row| {
                if value.has_escapes {
                    let text = &bytes[value.at.start - 1..value.end];
                    match serde_json::from_slice::<Cow<'_, str>>(text) {
                        Ok(text) => write_cell(&text, b',', row),
                        Err(_) => is_right = false,
                    }
                } else if value.has_commas {
                    // No quote is in it.
                    row.push(b'"');
                    row.extend_from_slice(&bytes[value.at.clone()]);
                    row.push(b'"');
                } else {
                    push_short(&bytes[value.at.start..], value.at.len(), row);
                }
            });
        });
        match read {
            Some(length) if is_right => {
                if !is_ascii {
                    std::str::from_utf8(&bytes[..length])
                        .map_err(|error| no_text(self.number, &error))?;
                }
                self.values.done_to(from + length);
                Ok(true)
            }
            _ => {
                made.take_back();
                Ok(false)
            }
        }
    }

    /// Writes the row of an object that lies there.
    fn push_other(&mut self, object: Range<usize>, made: &mut MadeRows) -> io::Result<()> {
        let mut cells = vec![String::new(); self.columns.len()];
        let object =
            parsed(&self.values.bytes()[object]).map_err(|error| no_json(self.number, &error))?;
        for field in object.0 {
            cells[self.column(&field.name)?] = field.text;
        }
        push_row(cells.iter().map(|cell| Ok(cell.into())), made)
    }

    /// Writes the row of a flat object that lies there.
    fn push_flat(&mut self, object: Range<usize>, made: &mut MadeRows) -> io::Result<()> {
        let text = std::str::from_utf8(&self.values.bytes()[object])
            .map_err(|error| no_text(self.number, &error))?;
        let mut cells = std::mem::take(&mut self.cells);
        cells.fill((0..0, false));
        for (place, field) in self.flat.fields.iter().enumerate() {
            let column = match field.is_expected {
                true => place,
                false => self.column(&text[field.name.clone()])?,
            };
            cells[column] = (field.value.at.clone(), field.value.has_escapes);
        }
        let texts = cells.iter().map(|(cell, has_escapes)| match has_escapes {
            false => Ok(text[cell.clone()].into()),
            // What is wrong is said of the whole object.
            true => {
                serde_json::from_str(&text[cell.start - 1..cell.end + 1]).map(Cow::Owned).map_err(
                    |error| no_json(self.number, &parsed(text.as_bytes()).err().unwrap_or(error)),
                )
            }
        });
        push_row(texts, made)?;
        self.cells = cells;
        Ok(())
    }
}

/// The fields of an object.
fn parsed(object: &[u8]) -> serde_json::Result<Object> {
    let mut fields = Vec::new();
    take_apart("", serde_json::from_slice(object)?, &mut fields)?;
    Ok(Object(fields))
}

/// Adds the cells of a row, divided by commas.
fn push_row<'c>(
    cells: impl Iterator<Item = io::Result<Cow<'c, str>>>,
    made: &mut MadeRows,
) -> io::Result<()> {
    for cell in cells {
        let cell = cell?;
        made.add_field(|row| write_cell(&cell, b',', row));
    }
    Ok(())
}

impl RowMaker for JsonText {
    fn next_rows(&mut self, size: usize, made: &mut MadeRows) -> io::Result<()> {
        while made.bytes.len() < size {
            self.number += 1;
            let Some(from) = self.values.next(self.number)? else { return Ok(()) };
            if !self.push_expected(from, made)? {
                let names = self.expected.names();
                match self.values.object(from, self.number, &mut self.flat, names)? {
                    Next::Flat(object) => self.push_flat(object, made)?,
                    Next::Other(object) => self.push_other(object, made)?,
                }
            }
            made.end_row();
        }
        Ok(())
    }
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
