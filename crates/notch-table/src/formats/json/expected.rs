//! Objects that have the expected fields in their order and nothing else, as nearly all of a file
//! do: read in one pass in which no name is looked up.

use super::flat::{Value, past_blanks, value};
use crate::formats::csv::LONGEST_RECORD;

/// The fields that are expected, in their order.
#[derive(Default)]
pub(super) struct Expected {
    names: Vec<String>,
    keys: Vec<Key>,
}

/// A name as it is written before its value.
struct Key {
    /// In quotes, a colon behind.
    bare: Beginning,
    /// The same with the comma in front that stands after the value before it.
    after_comma: Option<Beginning>,
}

impl Key {
    fn of((n, name): (usize, &str)) -> Self {
        let bare = format!("\"{name}\":");
        let after_comma = (n > 0).then(|| Beginning::new(&format!(",{bare}")));
        Self { bare: Beginning::new(&bare), after_comma }
    }

    /// Where it ends that begins at a place, perhaps with blanks before the comma and the quote;
    /// `None` where something else does.
    #[inline(always)]
    fn end(&self, bytes: &[u8], mut at: usize) -> Option<usize> {
        if let Some(after_comma) = &self.after_comma {
            // Most programs write no blanks.
            if after_comma.begins(bytes.get(at..)?) {
                return Some(at + after_comma.text.len());
            }
            at = past_blanks(bytes, at);
            if bytes.get(at) != Some(&b',') {
                return None;
            }
            at += 1;
        }
        at = past_blanks(bytes, at);
        self.bare.begins(bytes.get(at..)?).then_some(at + self.bare.text.len())
    }
}

/// Up to sixteen bytes, compared at once: a call for a few bytes takes longer than they do.
pub(super) struct Sixteen {
    bytes: u128,
    /// All bits of those that count.
    counting: u128,
}

impl Sixteen {
    /// Those at these places, below sixteen.
    pub(super) fn of(bytes: impl Iterator<Item = (usize, u8)>) -> Self {
        let [mut all, mut counting] = [[0; 16]; 2];
        for (at, byte) in bytes {
            (all[at], counting[at]) = (byte, 0xFF);
        }
        let [bytes, counting] = [all, counting].map(u128::from_le_bytes);
        Self { bytes, counting }
    }

    #[inline(always)]
    pub(super) fn are_in(&self, chunk: &[u8; 16]) -> bool {
        u128::from_le_bytes(*chunk) & self.counting == self.bytes
    }
}

/// What a text may begin with.
struct Beginning {
    text: Vec<u8>,
    first: Sixteen,
}

impl Beginning {
    fn new(text: &str) -> Self {
        let first = Sixteen::of((0..16).zip(text.bytes()));
        Self { text: text.as_bytes().to_vec(), first }
    }

    /// Whether bytes begin with it.
    #[inline(always)]
    fn begins(&self, bytes: &[u8]) -> bool {
        match bytes.first_chunk::<16>() {
            Some(chunk) if !self.first.are_in(chunk) => false,
            Some(_) if self.text.len() <= 16 => true,
            _ => bytes.starts_with(&self.text),
        }
    }
}

impl Expected {
    /// Expects columns in this order; nothing where one is not written as it is called.
    pub(super) fn of<'n>(names: impl Iterator<Item = &'n str> + Clone) -> Self {
        if names.clone().any(|name| name.contains(['"', '\\']) || name.contains(char::is_control)) {
            return Self::default();
        }
        Self {
            names: names.clone().map(str::to_owned).collect(),
            keys: names.enumerate().map(Key::of).collect(),
        }
    }

    /// The names of the fields.
    pub(super) fn names(&self) -> &[String] {
        &self.names
    }

    /// Calls `each` with the value of each field, by its place, of the object that bytes begin
    /// with, and returns how long it is; `None` where it is to be read otherwise, some values may
    /// have been told then. The bytes may be no UTF-8.
    #[inline(always)]
    pub(super) fn read(&self, bytes: &[u8], mut each: impl FnMut(usize, &Value)) -> Option<usize> {
        let mut at = 1;
        for (n, key) in self.keys.iter().enumerate() {
            at = key.end(bytes, at)?;
            let value = value(bytes, past_blanks(bytes, at))?;
            each(n, &value);
            at = value.end;
        }
        at = past_blanks(bytes, at);
        (at > 1 && at < LONGEST_RECORD && bytes.get(at) == Some(&b'}')).then_some(at + 1)
    }
}
