//! The columns of objects, which are the names that any of them has: the first reading of a file.

use std::collections::HashMap;
use std::fmt;
use std::io::{self, Read};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, PoisonError};
use std::thread;

use memchr::{memchr, memrchr};
use serde::de::{DeserializeSeed, IgnoredAny, MapAccess, SeqAccess, Visitor};

use super::expected::Expected;
use super::flat::{FlatObject, Value, is_white_space};
use super::key_ends::{KeyEnd, KeyEnds, kind_of_value};
use super::values::{Next, Values, no_json};
use crate::activity::during;
use crate::cells::Kind;
use crate::formats::csv::LONGEST_RECORD;

/// How many bytes of lines a thread takes at a time.
const LINES: usize = 512 * 1024;

/// The columns of objects, in the order in which they come.
#[derive(Debug, PartialEq)]
pub(crate) struct Columns {
    pub(super) places: HashMap<String, usize>,
    /// Their names and what they hold.
    pub(crate) columns: Vec<(String, Kind)>,
}

/// What has been found of the columns.
#[derive(Default)]
pub(super) struct Found {
    places: HashMap<String, usize>,
    columns: Vec<Column>,
    /// The number of the block of lines that is read.
    block: u64,
}

/// A column that was found.
#[derive(Debug, Clone, PartialEq)]
struct Column {
    name: String,
    /// What it holds, as far as anything in it says so.
    kind: Option<Kind>,
    /// The block that it was first met in, and how many columns had been met before.
    first: (u64, usize),
}

impl Found {
    /// Takes a field; a blank says nothing of its column.
    pub(super) fn add(&mut self, name: &str, kind: Option<Kind>) {
        let place = match self.places.get(name) {
            Some(place) => *place,
            None => self.add_column(name.to_owned(), (self.block, self.columns.len())),
        };
        self.add_to(place, kind);
    }

    fn add_column(&mut self, name: String, first: (u64, usize)) -> usize {
        self.places.insert(name.clone(), self.columns.len());
        self.columns.push(Column { name, kind: None, first });
        self.columns.len() - 1
    }

    #[inline]
    fn add_to(&mut self, place: usize, kind: Option<Kind>) {
        let known = &mut self.columns[place].kind;
        if kind != *known {
            *known = kind.map(|kind| known.map_or(kind, |known| both(known, kind))).or(*known);
        }
    }

    /// Takes the fields of a flat object; names that are no text are met again, and told, when it
    /// is read.
    pub(super) fn add_flat(&mut self, object: &[u8], flat: &FlatObject) {
        for (place, field) in flat.fields.iter().enumerate() {
            match field.is_expected {
                true => self.add_to(place, field.value.kind),
                false => self
                    .add(&String::from_utf8_lossy(&object[field.name.clone()]), field.value.kind),
            }
        }
    }

    /// The same for an object of any kind.
    ///
    /// # Errors
    /// The bytes are no object, or more than one.
    pub(super) fn add_other(&mut self, object: &[u8]) -> serde_json::Result<()> {
        let names = Names { name: &mut String::new(), found: self };
        let mut deserializer = serde_json::Deserializer::from_slice(object);
        names.deserialize(&mut deserializer)?;
        deserializer.end()
    }

    /// Takes what was found in other blocks of the same lines.
    fn add_found(&mut self, other: Found) {
        for column in other.columns {
            let place = match self.places.get(&column.name) {
                Some(place) => *place,
                None => self.add_column(column.name, column.first),
            };
            self.add_to(place, column.kind);
            let first = &mut self.columns[place].first;
            *first = column.first.min(*first);
        }
    }

    fn expected(&self) -> Expected {
        Expected::of(self.columns.iter().map(|column| &*column.name))
    }

    pub(super) fn columns(mut self) -> Columns {
        self.columns.sort_by_key(|column| column.first);
        let names = self.columns.iter().map(|column| column.name.clone());
        Columns {
            places: names.zip(0..).collect(),
            columns: self
                .columns
                .into_iter()
                .map(|column| (column.name, column.kind.unwrap_or_default()))
                .collect(),
        }
    }
}

/// The columns of the objects of a reader, one object after the other.
///
/// # Errors
/// The source cannot be read, or holds something else than objects before the first one with a
/// field.
pub(crate) fn columns(reader: Box<dyn Read + Send>) -> io::Result<Columns> {
    let (mut values, mut found) = (Values::new(reader), Found::default());
    let (mut flat, mut expected) = (FlatObject::default(), Expected::default());
    for number in 1.. {
        let mut next = || {
            let Some(from) = values.next(number)? else { return Ok(false) };
            if let Some(length) =
                expected.read(&values.bytes()[from..], |n, value| found.add_to(n, value.kind))
            {
                values.done_to(from + length);
                return Ok(true);
            }
            let known = found.columns.len();
            match values.object(from, number, &mut flat, expected.names())? {
                Next::Flat(object) => found.add_flat(&values.bytes()[object], &flat),
                Next::Other(object) => found
                    .add_other(&values.bytes()[object])
                    .map_err(|error| no_json(number, &error))?,
            }
            if found.columns.len() > known {
                expected = found.expected();
            }
            Ok(true)
        };
        match next() {
            Ok(true) => {}
            Ok(false) => break,
            Err(cause) if found.columns.is_empty() => return Err(cause),
            // What is wrong with an object is said when its turn comes.
            Err(_) => break,
        }
    }
    Ok(found.columns())
}

/// The columns of the objects of a reader in which every line holds whole objects, blocks of lines
/// read side by side; `None` where a line holds anything else or cannot be read. That is
/// then for [`columns`] to tell.
pub(crate) fn columns_of_lines(reader: Box<dyn Read + Send>, threads: usize) -> Option<Columns> {
    of_lines(reader, threads, LINES)
}

/// The same, that many bytes at a time.
pub(super) fn of_lines(
    reader: Box<dyn Read + Send>,
    threads: usize,
    size: usize,
) -> Option<Columns> {
    let lines = Mutex::new(Lines { reader, size, rest: Vec::new(), blocks: 0 });
    let stopped = AtomicBool::new(false);
    let look_through = || {
        during("reading the table", || {
            let (mut found, mut block) = (Found::default(), Vec::new());
            let (mut objects, mut key_ends) = (Objects::default(), KeyEnds::default());
            while !stopped.load(Ordering::Relaxed) {
                let read = lines.lock().unwrap_or_else(PoisonError::into_inner).next(&mut block);
                match read {
                    Ok(Some(number)) => {
                        found.block = number;
                        if objects.add_all(&block, key_ends.find(&block), &mut found).is_some() {
                            continue;
                        }
                    }
                    Ok(None) => return Some(found),
                    Err(_) => {}
                }
                stopped.store(true, Ordering::Relaxed);
            }
            None
        })
    };
    let mut all = Some(Found::default());
    thread::scope(|scope| {
        let others: Vec<_> = (1..threads).map(|_| scope.spawn(look_through)).collect();
        let mut add = |found: Option<Found>| match (&mut all, found) {
            (Some(all), Some(found)) => all.add_found(found),
            _ => all = None,
        };
        add(look_through());
        others.into_iter().for_each(|other| add(other.join().ok().flatten()));
    });
    all.map(Found::columns)
}

/// Blocks of whole lines.
struct Lines {
    reader: Box<dyn Read + Send>,
    /// How many bytes are read at a time.
    size: usize,
    /// What was read of a line that has not ended.
    rest: Vec<u8>,
    blocks: u64,
}

impl Lines {
    /// Reads the next block; returns its number, `None` at the end.
    ///
    /// # Errors
    /// The source cannot be read, or a line is longer than any should be.
    fn next(&mut self, block: &mut Vec<u8>) -> io::Result<Option<u64>> {
        block.clear();
        block.append(&mut self.rest);
        loop {
            let looked = block.len();
            let read = self.reader.by_ref().take(self.size as u64).read_to_end(block)?;
            // An array may be one line.
            if self.blocks == 0
                && block.trim_ascii_start().first().is_some_and(|byte| *byte != b'{')
            {
                return Err(io::ErrorKind::InvalidData.into());
            }
            if let Some(end) = memrchr(b'\n', &block[looked..]) {
                self.rest.extend_from_slice(&block[looked + end + 1..]);
                block.truncate(looked + end + 1);
            } else if read > 0 {
                if block.len() > LONGEST_RECORD {
                    return Err(io::ErrorKind::InvalidData.into());
                }
                continue;
            }
            self.blocks += 1;
            return Ok((!block.is_empty()).then_some(self.blocks));
        }
    }
}

/// Looks through the objects of lines.
#[derive(Default)]
struct Objects {
    expected: Expected,
    /// Where the expected names end.
    key_ends: Vec<KeyEnd>,
    flat: FlatObject,
}

impl Objects {
    /// Adds the columns of all objects of some lines, whose names end at some places; `None` where
    /// there is anything else in them.
    fn add_all(&mut self, lines: &[u8], places: &[u32], found: &mut Found) -> Option<()> {
        // Where the last object begins whose first name was met, and how many places are done with.
        let (mut begin, mut done) = (0, 0);
        loop {
            (begin, done) = self.add_usual(lines, begin, (places, done), found);
            let Some(odd) = places.get(done) else { break };
            while begin <= *odd as usize {
                begin = self.add_next(lines, begin, found)?;
            }
            done += places[done..].iter().take_while(|place| (**place as usize) < begin).count();
        }
        // What stands behind the last name is not known.
        while begin < lines.len() {
            begin = self.add_next(lines, begin, found)?;
        }
        Some(())
    }

    /// Adds the columns of objects with the expected fields, told by their names alone, up to a
    /// place at which something else ends; returns where the object begins in which that is, or one
    /// before it, and how many places are done with.
    #[inline]
    fn add_usual(
        &self,
        lines: &[u8],
        mut begin: usize,
        (places, mut done): (&[u32], usize),
        found: &mut Found,
    ) -> (usize, usize) {
        while let Some(places) = places.get(done..done + self.key_ends.len())
            && !places.is_empty()
        {
            let mut next = begin;
            for (n, (key, place)) in self.key_ends.iter().zip(places).enumerate() {
                let place = *place as usize;
                let Some(from) = key.begin(lines, place) else { return (next, done + n) };
                if n == 0 {
                    next = from;
                }
                let Some(kind) = kind_of_value(lines, place) else { return (next, done + n) };
                found.add_to(n, kind);
            }
            (begin, done) = (next, done + places.len());
        }
        (begin, done)
    }

    /// Adds the columns of the next object, which may begin there; returns where it ends, or the
    /// next byte if that is white space.
    fn add_next(&mut self, lines: &[u8], at: usize, found: &mut Found) -> Option<usize> {
        match lines.get(at)? {
            b'{' => Some(at + self.add(&lines[at..], found)?),
            byte => is_white_space(*byte).then_some(at + 1),
        }
    }

    /// Adds the columns of the object that lines begin with; returns its length, `None` where it is
    /// none that ends in its line.
    fn add(&mut self, lines: &[u8], found: &mut Found) -> Option<usize> {
        let kinds = |n: usize, value: &Value| found.add_to(n, value.kind);
        if let Some(length) = self.expected.read(lines, kinds) {
            return Some(length);
        }
        let known = found.columns.len();
        let length = if let Some(length) = self.flat.read(lines, self.expected.names()) {
            found.add_flat(lines, &self.flat);
            length
        } else {
            let length = memchr(b'\n', lines).unwrap_or(lines.len());
            found.add_other(&lines[..length]).ok()?;
            length
        };
        if found.columns.len() > known {
            self.expected = found.expected();
            self.key_ends = self.expected.names().iter().enumerate().map(KeyEnd::of).collect();
        }
        (length <= LONGEST_RECORD).then_some(length)
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

/// What a column holds in which there is the one and the other.
fn both(a: Kind, b: Kind) -> Kind {
    match (a, b) {
        _ if a == b => a,
        (Kind::Integer | Kind::Number, Kind::Integer | Kind::Number) => Kind::Number,
        (Kind::Text, _) | (_, Kind::Text) => Kind::Text,
        _ => Kind::Mixed,
    }
}
