//! The names of fields told by where they end, so that values need not be followed: in JSON as most
//! programs write it a quote before a colon ends a name, or begins a text whose first character is
//! a colon (`"note":": see back"`), which no name has in front.

use super::expected::Sixteen;
use super::flat::{past_blanks, value};
use crate::cells::Kind;
use crate::formats::chunk_marks::{self, CHUNK, Chunk, Finder, Take, make_room, write_places};

/// The places in some bytes at which a colon, a blank or a control character follows a quote.
#[derive(Default)]
pub(super) struct KeyEnds {
    finder: Finder,
    /// In their order, and how many there are; what stands behind those is of no meaning.
    places: Vec<u32>,
    count: usize,
    /// The lowest bit where a quote stands before the chunk.
    before: u64,
}

/// What is sought in a chunk: quotes, and colons, blanks and control characters.
#[derive(Clone, Copy, Default)]
pub(super) struct Marks {
    quotes: u64,
    followers: u64,
}

impl chunk_marks::Marks for Marks {
    #[inline(always)]
    fn find<C: Chunk>(chunk: C, quote: u8, within: u64) -> Self {
        let followers = chunk.equal_or_at_most(b':', b' ') & within;
        Self { quotes: chunk.equal(quote) & within, followers }
    }
}

impl Take for KeyEnds {
    type Marks = Marks;

    #[inline(always)]
    fn take(&mut self, base: usize, marks: &[Marks]) {
        make_room(&mut self.places, self.count + marks.len() * CHUNK);
        let (places, mut count, mut before) = (&mut self.places[..], self.count, self.before);
        for (base, marks) in (base as u32..).step_by(CHUNK).zip(marks) {
            let found = marks.followers & (marks.quotes << 1 | before);
            before = marks.quotes >> 63;
            count += write_places(&mut places[count..], base, found, 2);
        }
        (self.count, self.before) = (count, before);
    }
}

impl KeyEnds {
    /// Finds those of some bytes.
    pub(super) fn find(&mut self, bytes: &[u8]) -> &[u32] {
        (self.count, self.before) = (0, 0);
        let finder = self.finder;
        finder.each_chunk(bytes, b'"', self);
        &self.places[..self.count]
    }
}

/// A name as most programs write it: behind the brace of its object or the comma after the value
/// before it, which a blank may follow.
pub(super) struct KeyEnd {
    usual: Ending,
    with_blank: Ending,
}

impl KeyEnd {
    /// That of a field by its place.
    pub(super) fn of((n, name): (usize, &String)) -> Self {
        let before = if n == 0 { '{' } else { ',' };
        Self {
            usual: Ending::new(format!("{before}\"{name}\"")),
            with_blank: Ending::new(format!("{before} \"{name}\"")),
        }
    }

    /// Where it begins that ends before a place; `None` where something else does.
    #[inline(always)]
    pub(super) fn begin(&self, bytes: &[u8], to: usize) -> Option<usize> {
        let bytes = bytes.get(..to)?;
        if self.usual.ends(bytes) {
            return Some(to - self.usual.text.len());
        }
        self.with_blank.ends(bytes).then(|| to - self.with_blank.text.len())
    }
}

/// What a text may end with.
struct Ending {
    text: Vec<u8>,
    last: Sixteen,
}

impl Ending {
    fn new(text: String) -> Self {
        let last = Sixteen::of((0..16).rev().zip(text.bytes().rev()));
        Self { text: text.into_bytes(), last }
    }

    /// Whether bytes end with it.
    #[inline(always)]
    fn ends(&self, bytes: &[u8]) -> bool {
        match bytes.last_chunk::<16>() {
            Some(chunk) if !self.last.are_in(chunk) => false,
            Some(_) if self.text.len() <= 16 => true,
            _ => bytes.ends_with(&self.text),
        }
    }
}

/// What the value holds that begins behind a colon, perhaps with blanks; nothing of `null` and an
/// empty text. `None` where it is no text, number or truth value, or is to be read otherwise.
#[inline(always)]
pub(super) fn kind_of_value(bytes: &[u8], colon: usize) -> Option<Option<Kind>> {
    let kind_of_text = |second| if second == b'"' { None } else { Some(Kind::Text) };
    match bytes.get(colon + 1..)? {
        [b'"', second, ..] | [b' ', b'"', second, ..] => Some(kind_of_text(*second)),
        _ => Some(value(bytes, past_blanks(bytes, colon + 1))?.kind),
    }
}
