//! Objects of texts, numbers and truth values alone, which most are: where their fields lie is
//! found in one pass, without anything being allocated.
//!
//! Whatever else is met (an object or a list in it, a sign of white space beside blanks, a number
//! with an exponent, anything that is no JSON) is given up, and read by `serde_json`, which says
//! what is wrong. 2 million objects of 170 bytes took 9.1 s when all went that way.

use std::ops::Range;

use wide::u8x16;

use crate::cells::Kind;
use crate::formats::special_bytes::any_chunk;

/// A field of an object: where its name and its value lie, from the first byte of the object on.
#[derive(Debug, Clone)]
pub(super) struct FlatField {
    pub name: Range<usize>,
    /// Of a text what stands between its quotes.
    pub value: Range<usize>,
    /// What it holds; of `null` and an empty text nothing is known.
    pub kind: Option<Kind>,
    /// It is a text with characters that are written as escapes.
    pub has_escapes: bool,
    /// Its name is the one that is expected at its place.
    pub is_expected: bool,
}

/// The fields of an object, in their order.
#[derive(Debug, Default)]
pub(super) struct FlatObject {
    pub fields: Vec<FlatField>,
}

impl FlatObject {
    /// Reads the object that the bytes begin with; returns how long it is, or `None` where it is to
    /// be read otherwise. `names` are those that are expected, in their order, without quotes and
    /// backslashes. The bytes may be no UTF-8.
    pub(super) fn read(&mut self, bytes: &[u8], names: &[String]) -> Option<usize> {
        self.fields.clear();
        let mut at = 1;
        loop {
            at = past_blanks(bytes, at);
            let (name, is_expected) = Self::name(bytes, at, names.get(self.fields.len()))?;
            at = past_blanks(bytes, name.end + 1);
            if bytes.get(at) != Some(&b':') {
                return None;
            }
            at = past_blanks(bytes, at + 1);
            let (field, end) = value(bytes, at, name)?;
            self.fields.push(FlatField { is_expected, ..field });
            at = past_blanks(bytes, end);
            match bytes.get(at)? {
                b',' => at += 1,
                b'}' => return Some(at + 1),
                _ => return None,
            }
        }
    }

    /// Where the name lies whose quote stands at a place, and whether it is the one expected.
    fn name(bytes: &[u8], at: usize, expected: Option<&String>) -> Option<(Range<usize>, bool)> {
        if bytes.get(at) != Some(&b'"') {
            return None;
        }
        let from = at + 1;
        if let Some(name) = expected
            && bytes[from..].starts_with(name.as_bytes())
            && bytes.get(from + name.len()) == Some(&b'"')
        {
            return Some((from..from + name.len(), true));
        }
        match text(bytes, from)? {
            (to, false) => Some((from..to, false)),
            (_, true) => None,
        }
    }
}

/// The value that begins at a place, and where it ends.
fn value(bytes: &[u8], at: usize, name: Range<usize>) -> Option<(FlatField, usize)> {
    let field = |value: Range<usize>, kind| FlatField {
        name,
        value,
        kind,
        has_escapes: false,
        is_expected: false,
    };
    let word = |word: &[u8]| bytes[at..].starts_with(word).then_some(at + word.len());
    Some(match bytes.get(at)? {
        b'"' => {
            let (to, has_escapes) = text(bytes, at + 1)?;
            let kind = (to > at + 1).then_some(Kind::Text);
            (FlatField { has_escapes, ..field(at + 1..to, kind) }, to + 1)
        }
        b'-' | b'0'..=b'9' => {
            let (to, kind) = number(bytes, at)?;
            (field(at..to, Some(kind)), to)
        }
        b't' => word(b"true").map(|to| (field(at..to, Some(Kind::Truth)), to))?,
        b'f' => word(b"false").map(|to| (field(at..to, Some(Kind::Truth)), to))?,
        b'n' => word(b"null").map(|to| (field(at..at, None), to))?,
        _ => return None,
    })
}

/// Where the text ends that begins at a place, and whether there are escapes in it. One with
/// control characters, which must be escapes, is given up.
fn text(bytes: &[u8], from: usize) -> Option<(usize, bool)> {
    let (mut at, mut has_escapes) = (from, false);
    loop {
        at += next_special(bytes.get(at..)?)?;
        match bytes[at] {
            b'"' => return Some((at, has_escapes)),
            b'\\' => (at, has_escapes) = (at + 2, true),
            _ => return None,
        }
    }
}

/// Where the first quote, backslash or control character stands: what is written as an escape (RFC
/// 8259, section 7). Most texts are short, so that a
/// call of memchr costs more than it looks through.
#[inline]
pub(super) fn next_special(bytes: &[u8]) -> Option<usize> {
    let (chunks, rest) = bytes.as_chunks::<16>();
    for (chunk, at) in chunks.iter().zip((0..).step_by(16)) {
        let found = specials(*chunk);
        if found != 0 {
            return Some(at + found.trailing_zeros() as usize);
        }
    }
    let at = bytes.len() - rest.len();
    rest.iter().position(|byte| is_special(*byte)).map(|place| at + place)
}

fn is_special(byte: u8) -> bool {
    byte < b' ' || matches!(byte, b'"' | b'\\')
}

/// A bit for each special byte.
#[inline]
fn specials(chunk: [u8; 16]) -> u32 {
    let wide = u8x16::new(chunk);
    let [quote, backslash] = [b'"', b'\\'].map(|byte| wide.simd_eq(u8x16::splat(byte)));
    let control = wide.min(u8x16::splat(b' ' - 1)).simd_eq(wide);
    (quote | backslash | control).to_bitmask()
}

/// Whether there is one at all.
#[inline]
pub(super) fn has_special(bytes: &[u8]) -> bool {
    any_chunk(bytes, |chunk| specials(*chunk) != 0, is_special)
}

/// Where the number ends that begins at a place: digits, perhaps with a sign and a point, no more
/// of them than are exact in any reader (RFC 8259, section 6).
fn number(bytes: &[u8], from: usize) -> Option<(usize, Kind)> {
    const EXACT: usize = 15;
    let digits = |at: usize| bytes[at..].iter().take_while(|byte| byte.is_ascii_digit()).count();
    let first = from + usize::from(bytes[from] == b'-');
    let whole = digits(first);
    let is_whole =
        (1..=EXACT).contains(&whole) && (bytes[first] != b'0' || whole == 1 && first == from);
    let end = first + whole;
    match bytes.get(end)? {
        _ if !is_whole => None,
        b'.' => {
            let decimals = digits(end + 1);
            let end = end + 1 + decimals;
            let is_over = matches!(bytes.get(end)?, b'e' | b'E' | b'.' | b'+' | b'-');
            ((1..=EXACT).contains(&decimals) && !is_over).then_some((end, Kind::Number))
        }
        b'e' | b'E' => None,
        _ => Some((end, Kind::Integer)),
    }
}

#[inline]
fn past_blanks(bytes: &[u8], mut at: usize) -> usize {
    while bytes.get(at) == Some(&b' ') {
        at += 1;
    }
    at
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use serde::de::DeserializeSeed;

    use super::super::{Fields, Found, Names, add_flat, take_apart};
    use super::*;

    /// Texts that look like JSON objects, most of which are.
    fn objects() -> impl Strategy<Value = String> {
        let blanks = "( {0,2}|\t|\n)?";
        let string = prop_oneof![
            8 => "\"[a-cé ,:{}\\[\\]0-9]{0,20}\"",
            2 => "\"[a-c]{0,18}(\\\\n|\\\\\"|\\\\u00e9|\\\\ud83d\\\\ude00|\\\\x|\t)[a-c]{0,3}\"",
        ];
        let value = prop_oneof![
            string.clone(),
            "-?[0-9]{1,18}(\\.[0-9]{0,17})?([eE][+-]?[0-9])?",
            "true|false|null|nul|tru",
            "\\{\"[ab]\": *[0-9]\\}|\\[[0-9],\"x\"\\]",
        ];
        let name = prop_oneof![8 => "\"[a-d]\"", 1 => string];
        let field = (blanks, name, blanks, blanks, value, blanks)
            .prop_map(|(a, name, b, c, value, d)| format!("{a}{name}{b}:{c}{value}{d}"));
        let fields = prop::collection::vec(field, 0..5);
        (fields, "\\}|\\}|\\}|,\\}|", ".{0,3}")
            .prop_map(|(fields, end, rest)| format!("{{{}{end}{rest}", fields.join(",")))
    }

    proptest! {
        #[test]
        fn specials_are_met_wherever_they_stand(
            bytes in "[a-zé ]{0,40}|[a-z]{0,20}[\"\\\\\t][a-z]{0,20}|[ -~é]{0,40}",
        ) {
            let bytes = bytes.as_bytes();
            let first = bytes.iter().position(|byte| is_special(*byte));
            prop_assert_eq!(next_special(bytes), first);
            prop_assert_eq!(has_special(bytes), first.is_some());
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(2000))]
        /// Whatever is read here reads the same as by `serde_json`.
        #[test]
        fn flat_objects_are_read_like_all(text in objects()) {
            let names = ["a", "b", "c"].map(str::to_owned);
            let mut flat = FlatObject::default();
            let Some(length) = flat.read(text.as_bytes(), &names) else { return Ok(()) };
            let object = &text[..length];
            let parsed = serde_json::from_str::<Fields>(object)
                .and_then(|fields| {
                    let mut all = Vec::new();
                    take_apart("", fields, &mut all).map(|()| all)
                });
            // An escape that is none is met when the text is taken.
            let texts: Result<Vec<String>, _> = flat.fields.iter().map(|field| match field.has_escapes {
                true => serde_json::from_str(&object[field.value.start - 1..field.value.end + 1]),
                false => Ok(object[field.value.clone()].to_owned()),
            }).collect();
            prop_assert_eq!(texts.is_ok(), parsed.is_ok(), "{}", object);
            let (Ok(texts), Ok(parsed)) = (texts, parsed) else { return Ok(()) };
            let read = flat.fields.iter().map(|field| &object[field.name.clone()]).zip(&texts);
            let parsed = parsed.iter().map(|field| (&*field.name, &field.text));
            prop_assert!(read.eq(parsed), "{}", object);
            let [mut found, mut wanted] = [&names; 2].map(|names| {
                let mut found = Found::default();
                names.iter().for_each(|name| found.add(name, None));
                found
            });
            add_flat(object.as_bytes(), &flat, &mut found);
            let seed = Names { name: &mut String::new(), found: &mut wanted };
            seed.deserialize(&mut serde_json::Deserializer::from_str(object)).unwrap();
            prop_assert_eq!(found.columns, wanted.columns, "{}", object);
        }
    }
}
