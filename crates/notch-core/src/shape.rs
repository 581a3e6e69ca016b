//! Shapes: what a text looks like, runs of one kind of character in brackets: `FH-2019` is `[U2]-[d4]`.

use std::hash::BuildHasher;

use hashbrown::HashTable;

use crate::text::characters;
use crate::text::masks::{WIDE, Wide, all_between, wide};

/// What a character is in a shape; `None` for one that stands for itself.
fn kind(character: &str) -> Option<char> {
    let mut points = character.chars();
    let first = points.next()?;
    // A letter with a combining mark on it is no plain letter.
    if first.is_ascii() && points.next().is_none() {
        return byte_kind(first as u8);
    }
    match first {
        _ if first.is_whitespace() => Some('s'),
        _ if first.is_alphabetic() && !first.is_numeric() => Some('c'),
        _ => None,
    }
}

/// The same for a byte that is a character.
const fn byte_kind(byte: u8) -> Option<char> {
    match byte {
        b'A'..=b'Z' => Some('U'),
        b'a'..=b'z' => Some('l'),
        b'0'..=b'9' => Some('d'),
        b' ' | b'\t'..=b'\r' => Some('s'),
        _ => None,
    }
}

/// The shape of a text: `U` A–Z, `l` a–z, `c` any other letter, `d` 0–9, `s` white space, everything else as it stands, a `[` as `[[]`.
pub fn shape(text: &str) -> String {
    let mut shape = String::new();
    shape_into(text, &mut shape);
    shape
}

/// Writes the shape of a text behind what `into` holds already.
pub(crate) fn shape_into(text: &str, into: &mut String) {
    if characters::is_plain(text) {
        // Every new cell has a shape, and nearly every one is plain.
        let mut run = None;
        for byte in text.bytes() {
            match (KINDS[usize::from(byte)], &mut run) {
                (Some(kind), Some((of, length))) if kind == *of => *length += 1,
                (kind, _) => {
                    close_run(run, into);
                    run = kind.map(|kind| (kind, 1));
                    if kind.is_none() {
                        push_literal(char::from(byte).encode_utf8(&mut [0; 4]), into);
                    }
                }
            }
        }
        close_run(run, into);
        return;
    }
    let mut run = None;
    characters::each(text).for_each(|character| step(&mut run, kind(character), character, into));
    close_run(run, into);
}

/// [`byte_kind`] of every byte.
const KINDS: [Option<char>; 256] = {
    let mut kinds = [None; 256];
    let mut byte = 0;
    while byte < kinds.len() {
        kinds[byte] = byte_kind(byte as u8);
        byte += 1;
    }
    kinds
};

fn push_literal(character: &str, into: &mut String) {
    into.push_str(if character == "[" { "[[]" } else { character });
}

/// One character more: the run goes on, or is written and another begins.
fn step(run: &mut Option<(char, usize)>, kind: Option<char>, character: &str, into: &mut String) {
    match (run.as_mut(), kind) {
        (Some((of, length)), Some(kind)) if *of == kind => *length += 1,
        _ => {
            close_run(run.take(), into);
            match kind {
                Some(kind) => *run = Some((kind, 1)),
                None => push_literal(character, into),
            }
        }
    }
}

fn close_run(run: Option<(char, usize)>, into: &mut String) {
    let Some((kind, length)) = run else { return };
    into.push('[');
    into.push(kind);
    match u8::try_from(length) {
        Ok(1) => {}
        Ok(length @ ..10) => into.push(char::from(b'0' + length)),
        _ => into.push_str(itoa(length, &mut [0; 20])),
    }
    into.push(']');
}

/// The figures of a number, without the machinery of formatting: shapes are made for every new cell.
fn itoa(mut n: usize, buffer: &mut [u8; 20]) -> &str {
    let mut at = buffer.len();
    while at > 0 {
        at -= 1;
        buffer[at] = b'0' + (n % 10) as u8;
        n /= 10;
        if n == 0 {
            break;
        }
    }
    std::str::from_utf8(&buffer[at..]).unwrap_or_default()
}

/// A shape to compare texts with, in which runs may be of several lengths.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct ShapePattern(Vec<ShapeItem>);

#[derive(Debug, Clone, PartialEq, Eq)]
enum ShapeItem {
    Literal(String),
    /// So many characters of a kind, or of either of two.
    Run(&'static [char], usize, usize),
}

impl ShapePattern {
    /// Reads a pattern: `FH-[d4]-[U+]-[d3..5]`.
    ///
    /// # Errors
    /// One sentence on what is no run.
    pub(crate) fn read(pattern: &str) -> Result<Self, String> {
        let mut items = Vec::new();
        let mut rest = pattern;
        while let Some(character) = characters::each(rest).next() {
            if !character.starts_with('[') {
                items.push(ShapeItem::Literal(character.to_owned()));
                rest = &rest[character.len()..];
                continue;
            }
            if let Some(behind) = rest.strip_prefix("[[]") {
                items.push(ShapeItem::Literal("[".to_owned()));
                rest = behind;
                continue;
            }
            let Some(end) = rest.find(']') else {
                return Err("A [ in a shape is not closed; one that is text is written [[]".to_owned());
            };
            items.push(shape_run(&rest[1..end]).ok_or_else(|| {
                format!("{} is no run of a shape; runs are [d], [d4], [d3..5], [d+], of the kinds U l L c d s", &rest[..=end])
            })?);
            rest = &rest[end + 1..];
        }
        Ok(Self(items))
    }

    /// Whether a text as a whole is of this shape.
    pub(crate) fn matches(&self, text: &str) -> bool {
        let characters: Vec<&str> = characters::each(text).collect();
        // All places that can be reached so far, item by item.
        let mut reached = vec![0];
        for item in &self.0 {
            let mut next = Vec::new();
            for from in reached {
                match item {
                    ShapeItem::Literal(literal) => next.extend((characters.get(from) == Some(&literal.as_str())).then_some(from + 1)),
                    ShapeItem::Run(kinds, least, most) => {
                        let fits = |character: &&&str| kind(character).is_some_and(|kind| kinds.contains(&kind));
                        let run = characters[from..].iter().take_while(fits).count().min(*most);
                        next.extend((*least..=run).map(|length| from + length));
                    }
                }
            }
            next.sort_unstable();
            next.dedup();
            reached = next;
        }
        reached.contains(&characters.len())
    }
}

/// What stands between the brackets of a run: `d`, `d4`, `d3..5`, `d+`.
fn shape_run(inside: &str) -> Option<ShapeItem> {
    let kinds: &'static [char] = match inside.chars().next()? {
        'U' => &['U'],
        'l' => &['l'],
        'L' => &['U', 'l'],
        'c' => &['c'],
        'd' => &['d'],
        's' => &['s'],
        _ => return None,
    };
    let length = &inside[1..];
    let number = |text: &str| text.parse::<usize>().ok().filter(|n| *n > 0 && text.bytes().all(|b| b.is_ascii_digit()));
    let (least, most) = match (length, length.split_once("..")) {
        ("", _) => (1, 1),
        ("+", _) => (1, usize::MAX),
        (_, Some((least, most))) => (number(least)?, number(most)?),
        _ => (number(length)?, number(length)?),
    };
    (least <= most).then_some(ShapeItem::Run(kinds, least, most))
}

/// How many different shapes are kept; a column of free text has as many as rows.
pub const MOST_SHAPES: usize = 1000;

/// A part of a run that has seen more shapes forgets them when it is over.
const MOST_KNOWN: usize = 4 * MOST_SHAPES;

/// Longer shapes are counted under their beginning.
const LONGEST_SHAPE: usize = 200;

/// How often a shape occurs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ShapeCount {
    /// The shape.
    pub shape: Box<str>,
    /// How many texts have it.
    pub count: u64,
    /// The line of the first of them.
    pub first_line: u64,
}

impl ShapeCount {
    #[inline]
    fn count(&mut self, times: u64, line: u64) {
        self.first_line = if self.count == 0 { line } else { self.first_line.min(line) };
        self.count += times;
    }
}

/// How often each shape occurs, at most [`MOST_SHAPES`] of them.
#[derive(Debug, Default, Clone)]
pub struct ShapeCounts {
    counts: Vec<ShapeCount>,
    /// The places in `counts`, by the hash of the shape.
    places: HashTable<usize>,
    hasher: hashbrown::DefaultHashBuilder,
    buffer: String,
    /// How many texts had a shape that was not kept.
    beyond: u64,
    /// How many shapes are kept; [`MOST_SHAPES`] when unsaid.
    most: Option<usize>,
    /// Patterns of shapes that were counted, by the length of the text: most texts of a column look like one before.
    patterns: Vec<[Pattern; WAYS]>,
    /// How the shapes of plain texts are spelled with one byte for each character, each with its place among the counts.
    spelled: HashTable<(Box<[u8]>, usize)>,
    /// Where a text is spelled so.
    spelling: Spelling,
}

/// A shape spelled with one byte for each character.
#[derive(Debug, Clone)]
struct Spelling([u8; LONGEST_SHAPE]);

impl Default for Spelling {
    fn default() -> Self {
        Self([0; LONGEST_SHAPE])
    }
}

impl Spelling {
    /// Spells the shape of a text; `None` of one that is too long, or in which a character may be more than a byte.
    fn of(&mut self, text: &[u8]) -> Option<&[u8]> {
        let spelling = self.0.get_mut(..text.len())?;
        let mut odd = false;
        // Without a branch, so that many bytes are done together.
        for (byte, spelled) in text.iter().zip(&mut *spelling) {
            let kind = if byte.wrapping_sub(b'0') < 10 { b'd' } else { *byte };
            let kind = if byte.wrapping_sub(b'a') < 26 { b'l' } else { kind };
            let kind = if byte.wrapping_sub(b'A') < 26 { b'U' } else { kind };
            let kind = if (*byte == b' ') | (byte.wrapping_sub(b'\t') < 5) { b's' } else { kind };
            *spelled = kind;
            odd |= (*byte >= 0x80) | (*byte == b'\r');
        }
        (!odd).then_some(spelling)
    }
}

/// Longer texts are not compared with patterns.
const LONGEST_PATTERN: usize = 2 * WIDE;

/// How many patterns are kept for texts of one length.
const WAYS: usize = 4;

/// What texts of a shape and length look like byte by byte: the least and the greatest byte that may stand at each place.
#[derive(Debug, Clone)]
struct Pattern {
    least: [Wide; 2],
    greatest: [Wide; 2],
    /// The place of the shape among the counts; beyond all of them in a pattern that is none.
    place: usize,
}

impl Default for Pattern {
    fn default() -> Self {
        Self { least: [[u8::MAX; WIDE]; 2], greatest: [[0; WIDE]; 2], place: usize::MAX }
    }
}

impl Pattern {
    /// The pattern of a text of the shape at `place`; `None` where a byte may not be a character of its own, and for control characters,
    /// which are rare.
    fn of(text: &[u8], place: usize) -> Option<Self> {
        let (mut least, mut greatest) = ([[0; WIDE]; 2], [[u8::MAX; WIDE]; 2]);
        for (n, byte) in text.iter().enumerate() {
            let (low, high) = match byte {
                b'A'..=b'Z' => (b'A', b'Z'),
                b'a'..=b'z' => (b'a', b'z'),
                b'0'..=b'9' => (b'0', b'9'),
                0x20..0x7F => (*byte, *byte),
                _ => return None,
            };
            (least[n / WIDE][n % WIDE], greatest[n / WIDE][n % WIDE]) = (low, high);
        }
        Some(Self { least, greatest, place })
    }

    /// Whether bytes fit one half of the pattern.
    #[inline(always)]
    fn fits(&self, half: usize, bytes: &Wide) -> bool {
        all_between(bytes, &self.least[half], &self.greatest[half])
    }
}

impl ShapeCounts {
    /// Counts of a part of a run, to be merged: all shapes are kept, a part is bounded itself.
    pub(crate) fn part() -> Self {
        Self::keeping(usize::MAX)
    }

    /// Counts of which so many shapes are kept.
    pub(crate) fn keeping(most: usize) -> Self {
        Self { most: Some(most), ..Self::default() }
    }

    /// The counts in the order in which the shapes came.
    pub(crate) fn in_order(&self) -> &[ShapeCount] {
        &self.counts
    }

    /// Counts the shape of a text, which stands in that line of the input; gives its place among the counts, if it is kept.
    #[inline]
    pub(crate) fn add(&mut self, text: &str, line: u64) -> Option<usize> {
        let place = self.add_known(text.as_bytes(), text.len()).or_else(|| self.add_unseen(text, line))?;
        // Rows that went the long way are counted behind others of their batch.
        self.counts[place].first_line = self.counts[place].first_line.min(line);
        Some(place)
    }

    /// The same for the text that so many of the bytes are; others may follow. It is all of it UTF-8, and an empty one is not counted. Those
    /// that come later stand in later lines.
    #[inline]
    pub(crate) fn add_open(&mut self, open: &[u8], length: usize, line: impl FnOnce() -> u64) {
        if self.add_known(open, length).is_none() && length > 0 {
            let text = open.get(..length).and_then(|text| std::str::from_utf8(text).ok());
            self.add_unseen(text.unwrap_or_default(), line());
        }
    }

    /// Counts a text that fits a pattern; gives the place of its shape.
    #[inline]
    fn add_known(&mut self, open: &[u8], length: usize) -> Option<usize> {
        let patterns = self.patterns.get(length)?;
        let first = wide(open, 0);
        for pattern in patterns {
            if pattern.fits(0, &first)
                && (length <= WIDE || pattern.fits(1, &wide(open, WIDE)))
                && let Some(known) = self.counts.get_mut(pattern.place)
            {
                known.count += 1;
                return Some(pattern.place);
            }
        }
        None
    }

    fn add_unseen(&mut self, text: &str, line: u64) -> Option<usize> {
        let spelling = self.spelling.of(text.as_bytes());
        let hash = self.hasher.hash_one(spelling);
        if let Some((_, place)) = self.spelled.find(hash, |(known, _)| spelling == Some(known))
            && let Some(known) = self.counts.get_mut(*place)
        {
            known.count(1, line);
            let place = *place;
            self.remember(text, place);
            return Some(place);
        }
        let spelling = spelling.map(Box::from);
        let place = self.add_unspelled(text, line);
        if let (Some(spelling), Some(place)) = (spelling, place) {
            let hasher = &self.hasher;
            self.spelled.insert_unique(hash, (spelling, place), |(spelling, _)| hasher.hash_one(Some(spelling)));
        }
        place
    }

    fn add_unspelled(&mut self, text: &str, line: u64) -> Option<usize> {
        let mut buffer = std::mem::take(&mut self.buffer);
        buffer.clear();
        // Texts of any length have shapes of bounded length: what follows does not show anyway.
        let end = if text.len() <= LONGEST_SHAPE { None } else { characters::notch_after(text, LONGEST_SHAPE) };
        let end = end.filter(|end| *end < text.len());
        shape_into(&text[..end.unwrap_or(text.len())], &mut buffer);
        if end.is_some() {
            buffer.push('…');
        }
        let place = self.count(&buffer, 1, line);
        self.buffer = buffer;
        if let Some(place) = place {
            self.remember(text, place);
        }
        place
    }

    /// Makes a pattern of a text whose shape stands at that place.
    fn remember(&mut self, text: &str, place: usize) {
        let is_short = (1..=LONGEST_PATTERN).contains(&text.len());
        let Some(pattern) = Some(text.as_bytes()).filter(|_| is_short).and_then(|text| Pattern::of(text, place)) else { return };
        self.patterns.resize_with(LONGEST_PATTERN + 1, Default::default);
        // The shapes that come first are the commonest, mostly: they stay, and others take turns.
        let ways = &mut self.patterns[text.len()];
        let free = ways.iter().position(|way| way.place == usize::MAX);
        ways[free.unwrap_or(WAYS - 1)] = pattern;
    }

    /// Counts a shape; gives its place among the counts.
    pub(crate) fn count(&mut self, shape: &str, times: u64, line: u64) -> Option<usize> {
        let hash = self.hasher.hash_one(shape);
        if let Some(place) = self.places.find(hash, |place| *self.counts[*place].shape == *shape) {
            self.counts[*place].count(times, line);
            return Some(*place);
        }
        if self.counts.len() >= self.most.unwrap_or(MOST_SHAPES) {
            self.beyond += times;
            return None;
        }
        self.counts.push(ShapeCount { shape: shape.into(), count: times, first_line: line });
        let (counts, hasher) = (&self.counts, &self.hasher);
        self.places.insert_unique(hash, counts.len() - 1, |place| hasher.hash_one(&*counts[*place].shape));
        Some(counts.len() - 1)
    }

    /// Adds the counts of the part of a run that comes next, and empties them. The part still knows its shapes: the next one will mostly have
    /// the same.
    pub(crate) fn merge(&mut self, part: &mut ShapeCounts) {
        // In the order in which they came, so that the first ones are kept as in a run of one piece.
        let mut seen: Vec<usize> = (0..part.counts.len()).filter(|place| part.counts[*place].count > 0).collect();
        seen.sort_by_key(|place| part.counts[*place].first_line);
        for place in seen {
            let shape = &mut part.counts[place];
            self.count(&shape.shape, std::mem::take(&mut shape.count), shape.first_line);
        }
        self.beyond += std::mem::take(&mut part.beyond);
        // Who fits a pattern is not asked for its line.
        part.patterns.clear();
        if part.counts.len() > MOST_KNOWN {
            part.counts.clear();
            part.places.clear();
            part.spelled.clear();
        }
    }

    /// The shapes, most frequent first, those of equal count in the order of their text.
    pub fn ranked(&self) -> Vec<&ShapeCount> {
        let mut ranked: Vec<&ShapeCount> = self.counts.iter().filter(|shape| shape.count > 0).collect();
        ranked.sort_by(|a, b| b.count.cmp(&a.count).then(a.shape.cmp(&b.shape)));
        ranked
    }

    /// Counts texts of shapes that were not kept elsewhere.
    pub(crate) fn count_beyond(&mut self, texts: u64) {
        self.beyond += texts;
    }

    /// How many texts had a shape that was not kept.
    pub fn beyond(&self) -> u64 {
        self.beyond
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The slow, obvious twin counts every shape as it is written.
    #[test]
    fn patterns_count_like_shapes() {
        let texts = [
            "",
            "a",
            "ab",
            "A1",
            "1A",
            "a1b",
            "abc",
            "A-1",
            "AB-12",
            "ab-12",
            "FH-2019",
            "FH-2019-BRA-00417-7",
            "é",
            "é1",
            "a\rb",
            "a\tb",
            "a b",
        ];
        let (mut counts, mut twin) = (ShapeCounts::default(), std::collections::BTreeMap::<String, u64>::new());
        for n in 0..2000_usize {
            let text = format!("{}{}", texts[n * 7 % 17], texts[n * n % 17]);
            counts.add(&text, 1);
            *twin.entry(shape(&text)).or_default() += 1;
        }
        assert_eq!(
            counts.ranked().iter().map(|count| (count.shape.to_string(), count.count)).collect::<std::collections::BTreeMap<_, _>>(),
            twin
        );
    }

    #[test]
    fn shapes() {
        for (text, wanted) in [
            ("FH-2019-BRA-00417-7", "[U2]-[d4]-[U3]-[d5]-[d]"),
            ("Brassica", "[U][l7]"),
            ("a\tb  c", "[l][s][l][s2][l]"),
            ("[x]", "[[][l]]"),
            ("Łódź", "[c2][l][c]"),
            ("E\u{301}A", "[c][U]"),
            ("ＡА", "[c2]"),
            ("٣ Ⅷ", "٣[s]Ⅷ"),
            ("", ""),
        ] {
            assert_eq!(shape(text), wanted, "{text:?}");
        }
    }
}
