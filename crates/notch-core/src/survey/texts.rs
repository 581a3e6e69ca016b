//! How many different texts there are: counted one by one while they are few, then estimated.

use std::mem::take;
use std::ops::Range;

use hashbrown::HashTable;
use hashbrown::hash_table::Entry;
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::xxh3_64;

use super::Alike;

/// How many different texts are counted one by one; of more, their number is estimated.
const MOST_TEXTS: usize = 50_000;
/// A part of a survey that has seen more texts forgets them when it is over.
const MOST_KNOWN: usize = 8192;
/// How many bits the estimate has.
const SKETCH: usize = 1 << 20;

/// How many different texts there are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Distinct {
    /// Exactly that many.
    Exactly(u64),
    /// About that many, within two in a hundred nearly always.
    About(u64),
}

/// The texts of a column.
#[derive(Default)]
pub(super) struct Texts {
    /// Those that are counted, one after the other: to allocate each took 800 instructions more.
    text: String,
    counted: Vec<Counted>,
    /// Where each of them is, by its hash.
    places: HashTable<usize>,
    /// A bit for each hash seen, when there are too many texts to count.
    sketch: Vec<u64>,
    /// The hashes of the texts, in a part of a survey in which there are too many to count.
    hashes: Option<Vec<u64>>,
}

/// A text that is counted.
struct Counted {
    /// Where it lies in [`Texts::text`].
    span: Range<usize>,
    hash: u64,
    count: u64,
    /// The number and the line of the first row it stands in.
    first: (u64, u64),
    /// In a part, its place in the whole, once it is there.
    in_whole: Option<usize>,
}

impl Texts {
    /// Takes the text of a row, of which the number and the line are given.
    pub(super) fn add(&mut self, text: &str, row: (u64, u64)) {
        let hash = xxh3_64(text.as_bytes());
        if let Some(hashes) = &mut self.hashes {
            hashes.push(hash);
        } else if self.are_many() || self.count(text, hash, 1, row).is_none() {
            self.go_over_to_a_sketch();
            mark(&mut self.sketch, hash);
        }
    }

    /// Counts a text that number of times, first in that row; returns its place, or `None` where
    /// there is no room for another one.
    fn count(&mut self, text: &str, hash: u64, count: u64, first: (u64, u64)) -> Option<usize> {
        let is_it = |place: &usize| self.text[self.counted[*place].span.clone()] == *text;
        if let Some(place) = self.places.find(hash, is_it) {
            self.counted[*place].add(count, first);
            return Some(*place);
        }
        let place = self.counted.len();
        if place == MOST_TEXTS {
            return None;
        }
        let from = self.text.len();
        self.text.push_str(text);
        let span = from..self.text.len();
        self.counted.push(Counted { span, hash, count, first, in_whole: None });
        self.places.insert_unique(hash, place, |place| self.counted[*place].hash);
        Some(place)
    }

    /// From now on texts are not counted one by one.
    fn go_over_to_a_sketch(&mut self) {
        self.sketch.resize(SKETCH / 64, 0);
        self.places.clear();
        self.text = String::new();
        let known = take(&mut self.counted);
        known
            .iter()
            .filter(|known| known.count > 0)
            .for_each(|known| mark(&mut self.sketch, known.hash));
    }

    /// Whether there are too many to count.
    fn are_many(&self) -> bool {
        !self.sketch.is_empty()
    }

    /// Adds the texts of the part that comes next, and empties it. Few of them it still knows: the
    /// next part will mostly have the same.
    pub(super) fn merge(&mut self, part: &mut Texts) {
        if !self.are_many() && !part.are_many() && part.hashes.is_none() {
            for theirs in part.counted.iter_mut().filter(|theirs| theirs.count > 0) {
                match theirs.in_whole {
                    Some(place) => self.counted[place].add(theirs.count, theirs.first),
                    None => {
                        let text = &part.text[theirs.span.clone()];
                        theirs.in_whole = self.count(text, theirs.hash, theirs.count, theirs.first)
                    }
                }
                if theirs.in_whole.is_none() {
                    break;
                }
                theirs.count = 0;
            }
            if part.counted.iter().all(|theirs| theirs.count == 0) {
                if part.counted.len() > MOST_KNOWN {
                    part.text.clear();
                    part.counted.clear();
                    part.places.clear();
                }
                return;
            }
        }
        self.go_over_to_a_sketch();
        part.go_over_to_a_sketch();
        part.hashes.take().into_iter().flatten().for_each(|hash| mark(&mut self.sketch, hash));
        self.sketch
            .iter_mut()
            .zip(take(&mut part.sketch))
            .for_each(|(ours, theirs)| *ours |= theirs);
        // From now on no part of it counts them one by one.
        part.hashes = Some(Vec::new());
    }

    fn text_of(&self, counted: &Counted) -> &str {
        &self.text[counted.span.clone()]
    }

    /// How many there are.
    pub(super) fn distinct(&self) -> Distinct {
        if self.are_many() {
            estimate(&self.sketch)
        } else {
            Distinct::Exactly(self.counted.len() as u64)
        }
    }

    /// Those that stand in more than one row, with their counts and first rows, the commonest
    /// first; `None` when there are too many to know.
    pub(super) fn repeated(&self) -> Option<Vec<(&str, u64, u64)>> {
        if self.are_many() {
            return None;
        }
        let several = self.counted.iter().filter(|known| known.count > 1);
        let mut repeated: Vec<(&str, u64, u64)> =
            several.map(|known| (self.text_of(known), known.count, known.first.0)).collect();
        repeated.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(b.0)));
        Some(repeated)
    }

    /// Each of the texts with its rows; `None` when there are too many to know.
    pub(super) fn each(&self) -> Option<impl Iterator<Item = Alike<'_>>> {
        let each = self.counted.iter().map(|known| {
            let (row, line) = known.first;
            Alike { text: self.text_of(known), rows: known.count, row, line }
        });
        (!self.are_many()).then_some(each)
    }
}

impl Counted {
    fn add(&mut self, count: u64, first: (u64, u64)) {
        self.first = if self.count == 0 { first } else { self.first.min(first) };
        self.count += count;
    }
}

/// The hashes of the texts of a part of a table, in rising order; or the estimate's bits, where
/// there are too many to count.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(super) enum HashesPart {
    Known(Vec<u64>),
    Sketch(Vec<u64>),
}

impl HashesPart {
    /// Whether a run may have written it.
    pub(super) fn is_sound(&self) -> bool {
        match self {
            HashesPart::Known(known) => known.len() <= MOST_TEXTS,
            HashesPart::Sketch(sketch) => sketch.len() == SKETCH / 64,
        }
    }
}

/// How many different texts a column has, without the texts: they are told apart by their hashes,
/// of which 50,000 have two alike once in ten thousand million columns.
#[derive(Default)]
pub(super) struct Hashes {
    known: HashTable<u64>,
    /// In a part, those that the whole may not know yet.
    new: Vec<u64>,
    /// A bit for each hash seen, when there are too many to count.
    sketch: Vec<u64>,
    /// It is known of the whole that there are too many: a part counts none.
    are_many: bool,
}

impl Hashes {
    /// Takes a text of the part.
    #[inline]
    pub(super) fn add(&mut self, text: &str) {
        let hash = xxh3_64(text.as_bytes());
        if self.are_many || self.learn(hash) {
            self.new.push(hash);
        }
    }

    /// Whether a hash was not known.
    fn learn(&mut self, hash: u64) -> bool {
        match self.known.entry(hash, |known| *known == hash, |known| *known) {
            Entry::Occupied(_) => false,
            Entry::Vacant(place) => {
                place.insert(hash);
                true
            }
        }
    }

    /// Adds the texts of the part that comes next.
    pub(super) fn merge(&mut self, part: &mut Hashes) {
        for hash in part.new.drain(..) {
            if self.sketch.is_empty() && self.learn(hash) && self.known.len() > MOST_TEXTS {
                self.go_over_to_a_sketch();
            }
            if !self.sketch.is_empty() {
                mark(&mut self.sketch, hash);
            }
        }
        if !self.sketch.is_empty() && !part.are_many {
            (part.are_many, part.known) = (true, HashTable::new());
        }
    }

    /// What the whole knows, to be put together with that of other parts of a table.
    pub(super) fn to_part(&self) -> HashesPart {
        if !self.sketch.is_empty() {
            return HashesPart::Sketch(self.sketch.clone());
        }
        let mut known: Vec<u64> = self.known.iter().copied().collect();
        known.sort_unstable();
        HashesPart::Known(known)
    }

    /// Adds what is known of the part that comes next.
    pub(super) fn merge_part(&mut self, part: HashesPart) {
        match part {
            HashesPart::Known(known) => self.merge(&mut Hashes { new: known, ..Self::default() }),
            HashesPart::Sketch(sketch) => {
                self.go_over_to_a_sketch();
                self.sketch.iter_mut().zip(sketch).for_each(|(ours, theirs)| *ours |= theirs);
            }
        }
    }

    /// From now on hashes are not kept one by one.
    fn go_over_to_a_sketch(&mut self) {
        self.sketch.resize(SKETCH / 64, 0);
        take(&mut self.known).into_iter().for_each(|hash| mark(&mut self.sketch, hash));
    }

    /// How many there are in the whole.
    pub(super) fn distinct(&self) -> Distinct {
        if self.sketch.is_empty() {
            Distinct::Exactly(self.known.len() as u64)
        } else {
            estimate(&self.sketch)
        }
    }
}

fn mark(sketch: &mut [u64], hash: u64) {
    let bit = hash as usize % SKETCH;
    sketch[bit / 64] |= 1 << (bit % 64);
}

/// Linear counting: from the share of bits that no text has set (Whang, Vander-Zanden and Taylor,
/// 1990).
fn estimate(sketch: &[u64]) -> Distinct {
    let unset = sketch.iter().map(|word| u64::from(word.count_zeros())).sum::<u64>().max(1);
    let bits = SKETCH as f64;
    Distinct::About((-bits * (unset as f64 / bits).ln()).round() as u64)
}
