//! What stands at one position of a column's texts, and what the parts are like that a character
//! divides them into.

use std::collections::BTreeMap;
use std::mem::take;

use super::runs::written;
use super::trim;
use crate::shape::{ShapeCounts, shape};
use crate::text::OpenText;
use crate::text::masks::{count_equal, each_equal};

/// How many different characters of a position are told apart.
const CHARACTERS: usize = 80;
/// How many parts of a text are looked at.
pub(crate) const PARTS: usize = 12;
/// Texts of more words are sentences, whose words are no parts.
pub(crate) const WORDS: usize = 6;
/// How many different texts of a part are told apart.
pub(crate) const PART_TEXTS: usize = 16;

/// What stands at one position.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Position {
    /// How many of each plain character, by its code; not more than 32 bits hold, so that those of
    /// all positions stay in the nearest cache.
    plain: Box<[u32; 0x80]>,
    /// How many of each other character, while there are few.
    others: BTreeMap<String, u64>,
    /// How many of the others are of each kind.
    kinds_of_others: [u64; 6],
}

/// The letters of [`Position::kinds`].
const KINDS: [char; 6] = ['U', 'l', 'c', 'd', 's', '.'];

impl Default for Position {
    fn default() -> Self {
        Self { plain: Box::new([0; 0x80]), others: BTreeMap::new(), kinds_of_others: [0; 6] }
    }
}

impl Position {
    /// Counts a plain character.
    #[inline(always)]
    pub(super) fn add_plain(&mut self, byte: u8) {
        self.plain[usize::from(byte & 0x7F)] += 1;
    }

    pub(super) fn add(&mut self, character: &str) {
        if let [byte @ 0..0x80] = character.as_bytes() {
            return self.add_plain(*byte);
        }
        if let Some(count) = self.others.get_mut(character) {
            *count += 1;
        } else if self.others.len() < CHARACTERS {
            self.others.insert(character.to_owned(), 1);
        }
        let of = shape(character);
        let place = if of.starts_with("[c") {
            2
        } else if of.starts_with("[s") {
            4
        } else {
            5
        };
        self.kinds_of_others[place] += 1;
    }

    /// How many of the texts that were looked at reach it.
    pub fn texts(&self) -> u64 {
        self.kinds().iter().sum()
    }

    /// How many characters of each kind stand there: U, l, c, d, s and `.` for everything else.
    pub fn kinds(&self) -> [u64; 6] {
        let mut kinds = self.kinds_of_others;
        for (byte, count) in (0_u8..).zip(&*self.plain) {
            let place = match byte {
                b'A'..=b'Z' => 0,
                b'a'..=b'z' => 1,
                b'0'..=b'9' => 3,
                b' ' | b'\t'..=b'\r' => 4,
                _ => 5,
            };
            kinds[place] += u64::from(*count);
        }
        kinds
    }

    /// The share of texts that have a character of one of these kinds there, of those that reach
    /// it.
    pub(super) fn share_of(&self, kinds: &[char]) -> f64 {
        let of_kinds = KINDS
            .iter()
            .zip(self.kinds())
            .filter(|(kind, _)| kinds.contains(kind))
            .map(|(_, texts)| texts);
        of_kinds.sum::<u64>() as f64 / self.texts().max(1) as f64
    }

    /// Whether nearly all texts that reach it have one of these characters there.
    pub(super) fn is_within(&self, characters: std::ops::RangeInclusive<u8>) -> bool {
        let within =
            characters.map(|byte| u64::from(self.plain[usize::from(byte & 0x7F)])).sum::<u64>();
        within > 0 && within * 100 >= self.texts() * 99
    }

    /// How many different digits stand there, those aside that are rare.
    pub(super) fn different_digits(&self) -> usize {
        (b'0'..=b'9')
            .filter(|digit| u64::from(self.plain[usize::from(*digit)]) * 100 > self.texts())
            .count()
    }

    /// Adds what stands there in the part that comes next, and empties that.
    pub(super) fn merge(&mut self, part: &mut Position) {
        self.plain
            .iter_mut()
            .zip(&mut *part.plain)
            .for_each(|(ours, theirs)| *ours = ours.saturating_add(take(theirs)));
        for (character, count) in take(&mut part.others) {
            if self.others.len() < CHARACTERS || self.others.contains_key(&character) {
                *self.others.entry(character).or_default() += count;
            }
        }
        self.kinds_of_others
            .iter_mut()
            .zip(&mut part.kinds_of_others)
            .for_each(|(ours, theirs)| *ours += take(theirs));
    }

    /// What stands there in at least 95 of 100 texts: `=` one and the same character, else the
    /// letter of its kind; `?` when kinds are mixed.
    pub fn letter(&self) -> char {
        let texts = self.texts();
        let nearly_all = |count: u64| count * 100 >= texts * 95;
        if self
            .plain
            .iter()
            .map(|count| u64::from(*count))
            .chain(self.others.values().copied())
            .any(nearly_all)
        {
            return '=';
        }
        KINDS
            .iter()
            .zip(self.kinds())
            .find(|(_, count)| nearly_all(*count))
            .map_or('?', |(kind, _)| *kind)
    }
}

/// Makes room for that many positions.
pub(super) fn reach(positions: &mut Vec<Position>, count: usize) {
    if positions.len() < count {
        positions.resize_with(count, Position::default);
    }
}

/// Counts characters at their positions.
pub(super) fn positions<'t>(
    positions: &mut Vec<Position>,
    characters: impl Iterator<Item = &'t str>,
) {
    for (n, character) in characters.take(super::POSITIONS).enumerate() {
        if positions.len() == n {
            positions.push(Position::default());
        }
        positions[n].add(character);
    }
}

/// One part of the texts that a divider divides.
#[derive(Debug, Clone, Default)]
pub(crate) struct PartSurvey {
    pub texts: u64,
    pub shapes: ShapeCounts,
    /// How many of the texts were looked at closely: what follows is about these.
    pub looked_at: u64,
    /// The texts, while there are few.
    pub values: Vec<(String, u64)>,
    pub many: bool,
    /// Years, that is four digits from 1900 to 2099.
    pub years: u64,
    /// Days, that is such a year, a month and a day, eight digits in all.
    pub days: u64,
    /// Texts that begin with a zero and another digit, as numbers do not.
    pub zeros: u64,
}

/// The number that two digits are.
fn two(digits: &[u8]) -> u8 {
    digits.iter().take(2).fold(0, |number, digit| number * 10 + (digit - b'0'))
}

/// A character that divides texts.
pub(super) struct Divider<'s> {
    pub character: char,
    /// What stands between it.
    pub parts: &'s [PartSurvey],
    /// The last part is often absent.
    pub optional: bool,
    /// How many texts it does not divide.
    pub undivided: u64,
}

/// Texts that several characters divide in one order.
pub(super) struct Mixed {
    /// These characters, each once, as a cut has them in quotes.
    pub characters: String,
    /// What stands between them.
    pub parts: Vec<PartSurvey>,
    /// How many texts are so.
    pub fits: u64,
}

/// The runs without the blanks at both ends.
fn trimmed(mut runs: &[(char, usize)]) -> &[(char, usize)] {
    while let [('s', _), inner @ ..] | [inner @ .., ('s', _)] = runs {
        runs = inner;
    }
    runs
}

impl PartSurvey {
    /// Takes one of its texts.
    fn add(&mut self, text: OpenText<'_>, line: u64) {
        self.texts += 1;
        self.looked_at += 1;
        self.shapes.add(text, line);
        self.zeros += u64::from(matches!(text.as_bytes(), [b'0', b'0'..=b'9', ..]));
        if let [b'1', b'9', rest @ ..] | [b'2', b'0', rest @ ..] = text.as_bytes() {
            self.years += u64::from(matches!(rest, [b'0'..=b'9', b'0'..=b'9']));
            self.days += u64::from(
                matches!(
                    rest,
                    [b'0'..=b'9', b'0'..=b'9', b'0'..=b'1', b'0'..=b'9', b'0'..=b'3', b'0'..=b'9']
                ) && (1..=12).contains(&two(&rest[2..]))
                    && (1..=31).contains(&two(&rest[4..])),
            );
        }
        if self.many {
            return;
        }
        self.count(&text, 1);
    }

    fn count(&mut self, text: &str, count: u64) {
        if let Some(place) = self.values.iter().position(|(known, _)| known == text) {
            self.values[place].1 += count;
            // What is common moves to the front, where it is soon found.
            self.values.swap(place, place.saturating_sub(1));
        } else if self.values.len() < PART_TEXTS {
            self.values.push((text.to_owned(), count));
        } else {
            self.many = true;
        }
    }
}

impl PartSurvey {
    /// How many texts have nothing there.
    pub(super) fn blank(&self) -> u64 {
        self.shapes
            .ranked()
            .iter()
            .find(|known| known.shape.is_empty())
            .map_or(0, |known| known.count)
    }

    /// Whether figures there are no numbers: one in fifty or more has zeros in front.
    pub(super) fn is_code_of_figures(&self) -> bool {
        self.zeros * 50 > self.looked_at
    }

    /// Whether `count` of the texts that were looked at are at least `least` of a thousand.
    pub(super) fn are_of_a_thousand(&self, count: u64, least: u64) -> bool {
        self.looked_at > 0 && count * 1000 >= self.looked_at * least
    }

    /// How many of the texts have a shape there of which this is so.
    pub(super) fn of_shape(&self, is_so: impl Fn(&str) -> bool) -> u64 {
        self.shapes
            .ranked()
            .iter()
            .filter(|known| is_so(&known.shape))
            .map(|known| known.count)
            .sum()
    }

    /// Adds what the part that comes next has seen of it, and empties that.
    pub(super) fn merge(&mut self, part: &mut PartSurvey) {
        self.texts += take(&mut part.texts);
        self.looked_at += take(&mut part.looked_at);
        self.years += take(&mut part.years);
        self.days += take(&mut part.days);
        self.zeros += take(&mut part.zeros);
        self.shapes.merge(&mut part.shapes);
        self.many |= part.many;
        part.values.drain(..).for_each(|(text, count)| self.count(&text, count));
    }
}

/// Texts divided by one character.
#[derive(Debug, Clone, Default)]
pub(crate) struct Divided {
    /// How many texts it divides.
    pub texts: u64,
    /// How many texts have that many parts, of those that have two or more.
    pub counts: BTreeMap<usize, u64>,
    pub parts: Vec<PartSurvey>,
    /// It is about a part of the rows, to be merged.
    pub is_part: bool,
}

impl Divided {
    /// How many of that many texts it does not divide.
    pub(super) fn undivided(&self, texts: u64) -> u64 {
        texts - self.texts
    }

    /// Takes a text in which the divider occurs, and its parts if they are of interest.
    pub(super) fn add(
        &mut self,
        text: &str,
        divider: u8,
        has_space: bool,
        has_parts: bool,
        line: u64,
    ) {
        self.texts += 1;
        if !has_parts || divider == b' ' {
            let parts = count_equal(text.as_bytes(), divider) + 1;
            if !has_parts || parts > WORDS {
                *self.counts.entry(parts).or_default() += 1;
                return;
            }
        }
        let (mut parts, mut from) = (0, 0);
        let mut end_part = |end: usize| {
            if parts < PARTS {
                self.reach(parts);
                let part = &text[from..end];
                let part = if has_space { trim(part) } else { part };
                let at = part.as_ptr() as usize - text.as_ptr() as usize;
                let part = OpenText::of(text, at, at + part.len()).unwrap_or(part.into());
                self.parts[parts].add(part, line);
            }
            (parts, from) = (parts + 1, end + 1);
        };
        each_equal(text.as_bytes(), divider, &mut end_part);
        end_part(text.len());
        *self.counts.entry(parts).or_default() += 1;
    }

    /// Takes `times` texts of one shape, by its runs, in which the divider occurs, the first of
    /// them in that line. All white space in them is blanks.
    pub(super) fn add_shape(
        &mut self,
        runs: &[(char, usize)],
        divider: char,
        (times, line): (u64, u64),
    ) {
        let kind = if divider == ' ' { 's' } else { divider };
        let dividers = runs.iter().filter(|(of, _)| *of == kind).map(|(_, length)| length);
        let parts = dividers.sum::<usize>() + 1;
        self.texts += times;
        *self.counts.entry(parts).or_default() += times;
        // The words of sentences are no parts.
        if divider == ' ' && parts > WORDS {
            return;
        }
        let (mut place, mut from) = (0, 0);
        let mut end_part = |runs: &[(char, usize)]| {
            if place < PARTS {
                self.reach(place);
                let part = &mut self.parts[place];
                part.texts += times;
                part.shapes.count(&written(trimmed(runs)), times, line);
            }
            place += 1;
        };
        for (at, (_, length)) in runs.iter().enumerate().filter(|(_, (of, _))| *of == kind) {
            end_part(&runs[from..at]);
            (1..*length).for_each(|_| end_part(&[]));
            from = at + 1;
        }
        end_part(&runs[from..]);
    }

    /// Makes room for the part at a place.
    fn reach(&mut self, place: usize) {
        if self.parts.len() == place {
            let shapes = if self.is_part { ShapeCounts::part() } else { ShapeCounts::default() };
            self.parts.push(PartSurvey { shapes, ..PartSurvey::default() });
        }
    }

    pub(super) fn merge(&mut self, part: &mut Divided) {
        self.texts += take(&mut part.texts);
        take(&mut part.counts)
            .into_iter()
            .for_each(|(parts, texts)| *self.counts.entry(parts).or_default() += texts);
        self.parts.resize_with(self.parts.len().max(part.parts.len()), PartSurvey::default);
        self.parts.iter_mut().zip(&mut part.parts).for_each(|(ours, theirs)| ours.merge(theirs));
    }
}

/// The share of a kind of character at a position.
pub(super) fn share(position: &Position, kind: char) -> f64 {
    position.share_of(&[kind])
}

/// Where the column of a record begins of which `n` is the first position with something in it,
/// mostly: the blanks before it are its own where it is filled from the right and the column before
/// it is full.
pub(super) fn start_of_column(positions: &[Position], n: usize) -> usize {
    let before =
        positions[..n].iter().rev().take_while(|position| share(position, 's') > 0.9).count();
    let is_full = positions[..n - before].last().is_some_and(|last| share(last, 's') < 0.02);
    if is_full && share(&positions[n], 's') > 0.02 { n - before } else { n }
}

/// Whether nearly all texts have a point or comma there.
pub(super) fn is_a_point(position: &Position) -> bool {
    position.is_within(b'.'..=b'.') || position.is_within(b','..=b',')
}

/// Whether two digits are the first ones of a year that is likely.
pub(super) fn is_a_century(millennium: &Position, century: &Position) -> bool {
    (millennium.is_within(b'2'..=b'2') && century.is_within(b'0'..=b'0'))
        || (millennium.is_within(b'1'..=b'2')
            && (century.is_within(b'9'..=b'9') || century.different_digits() == 2))
}
