//! What does not meet the eye: texts that are written unlike nearly all others of their column.

use std::collections::{BTreeMap, HashMap, HashSet};

use super::bytes::{BEYOND, BYTES, CONTROL, LETTER, lone_like_digits};
use super::runs::runs_of;
use super::{ColumnSurvey, DIVIDERS, LONGEST, PartSurvey, Position};
use crate::first_row::FirstRow;
use crate::shape::shape;
use crate::text::characters::is_blank;
use crate::text::{characters, masks};

/// Something that does not meet the eye.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Trouble {
    /// What, in a few words.
    pub what: &'static str,
    /// In how many texts.
    pub texts: u64,
    /// The first of them.
    pub first: FirstRow,
}

/// What is said of a dash or minus sign in a column of hyphens.
const OTHER_DASH: &str = "another dash where nearly all have a hyphen";
/// What is said of a text that has capitals, or small letters, where nearly all have only the
/// others.
const OTHER_CASE: [&str; 2] = [
    "capitals where nearly all have only small letters",
    "small letters where nearly all have only capitals",
];
/// What is said of a letter that was probably to be a digit.
pub const LIKE_DIGITS: &str = "O, I or l where nearly all have a digit";

/// A kind of character is usual in a section when at least this percentage of the texts have it
/// there.
const USUAL: u64 = 90;
/// A shape that at most one in this number of texts has is rare.
const RARE: u64 = 200;
/// The most lengths that are not rare in a code of the usual kinds of characters.
const USUAL_LENGTHS: usize = 4;

/// Tells `found` what a text has that cannot be seen or is not what it seems; `seen` is what kinds
/// of bytes it has.
pub(super) fn each_trouble(
    text: &str,
    has_two_blanks: bool,
    seen: u32,
    mut found: impl FnMut(&'static str),
) {
    let mut found = |what, is: bool| {
        if is {
            found(what);
        }
    };
    found("white space in front", text.starts_with(char::is_whitespace));
    found("white space at the end", text.ends_with(char::is_whitespace));
    found("two blanks together", has_two_blanks);
    if seen & BEYOND == 0 {
        found("a tab, line end or other control character", seen & CONTROL != 0);
        return;
    }
    // What is beyond ASCII is looked at once: six looks took 1,200 instructions a text.
    let (mut has_control, mut has_blank, mut has_unseen) = (seen & CONTROL != 0, false, false);
    let (mut has_dash, mut has_letter, has_plain) = (false, false, seen & LETTER != 0);
    for c in text.chars().filter(|c| !c.is_ascii()) {
        has_control |= c.is_control();
        has_blank |= c.is_whitespace();
        has_unseen |= is_unseen(c);
        has_dash |= is_other_dash(c);
        // Looking a letter up is slow.
        has_letter = has_letter || has_plain && looks_plain(c);
    }
    found("a tab, line end or other control character", has_control);
    found("a no-break or other unusual blank", has_blank);
    found("a character that cannot be seen", has_unseen);
    found("a letter that is not composed (NFC)", !unicode_normalization::is_nfc(text));
    found(OTHER_DASH, has_dash);
    // A letter of another alphabet in a code of plain ones.
    found("a letter of another alphabet that looks like a plain one", has_letter);
}

impl ColumnSurvey {
    /// What does not meet the eye, in the order in which it was met; of letters that look like
    /// digits [`Oddities`] tells.
    pub fn troubles(&self) -> Vec<Trouble> {
        let mut troubles = self.troubles.clone();
        // Among sentences a dash is a dash.
        let with_hyphen = DIVIDERS
            .iter()
            .zip(&self.divided)
            .find(|(divider, _)| **divider == '-')
            .map_or(0, |(_, divided)| divided.texts);
        if with_hyphen * 10 < self.filled() * 9 {
            troubles.retain(|trouble| trouble.what != OTHER_DASH);
        }
        troubles.extend(self.other_case());
        troubles
    }

    /// The texts with capitals or small letters where nearly all have only the other ones.
    fn other_case(&self) -> Option<Trouble> {
        let (shapes, _) = self.shapes();
        let cases = shapes.into_iter().map(|(shape, texts, first)| (cases(shape), texts, first));
        let lettered: Vec<([bool; 2], u64, &FirstRow)> =
            cases.filter(|(cases, ..)| *cases != [false; 2]).collect();
        let of_all: u64 = lettered.iter().map(|(_, texts, _)| texts).sum();
        OTHER_CASE.into_iter().enumerate().find_map(|(case, what)| {
            let others = || lettered.iter().filter(|(cases, ..)| cases[case]);
            let texts: u64 = others().map(|(_, texts, _)| texts).sum();
            let (.., first) = others().min_by_key(|(.., first)| first.row)?;
            (texts * 20 <= of_all).then(|| Trouble { what, texts, first: (*first).clone() })
        })
    }

    /// What tells the odd texts of the column from the others, for a second look at its rows.
    pub fn oddities(&self) -> Oddities {
        let is_digit = |position: &Position| {
            position.texts() > 0 && position.kinds()[3] * 100 >= position.texts() * 95
        };
        let divider = self.divider();
        // Where no digits are usual, no letter can be meant for one.
        let with_digits = |usual: Option<String>| usual.filter(|kinds| kinds.contains('d'));
        let of_section = |part: &PartSurvey| {
            let shapes = part.shapes.ranked().into_iter();
            with_digits(usual_kinds(shapes.map(|known| (&*known.shape, known.count))))
        };
        let sections: Option<Vec<Option<String>>> =
            divider.as_ref().map(|divider| divider.parts.iter().map(of_section).collect());
        let sections = sections.unwrap_or_default();
        let (shapes, _) = self.shapes();
        let whole = usual_kinds(shapes.iter().map(|(shape, count, _)| (*shape, *count)));
        let whole = with_digits(whole);
        let digits: Vec<bool> = self.left.iter().map(is_digit).collect();
        // What most texts have is not odd.
        let is_rare = |trouble: &Trouble| trouble.texts * 10 <= self.filled();
        Oddities {
            has_digits: digits.contains(&true)
                || sections.iter().chain([&whole]).any(Option::is_some),
            digits,
            divider: divider.map(|divider| divider.character),
            sections,
            troubles: self
                .troubles()
                .into_iter()
                .filter(is_rare)
                .map(|trouble| trouble.what)
                .collect(),
            rare: self.rare_shapes(),
            whole,
            repeated: self.rarely_repeated(),
            is_blank_odd: self.blank * RARE <= self.rows,
            length: (0..)
                .zip(&self.lengths)
                .find(|(_, texts)| **texts * 100 >= self.filled() * 95)
                .map(|(length, _)| length),
        }
    }

    /// The shapes that hardly a text has; none where many texts have a shape of their own.
    fn rare_shapes(&self) -> HashSet<String> {
        let (shapes, beyond) = self.shapes();
        let is_rare = |count: u64| count == 1 || count * RARE <= self.filled();
        // Shapes that differ in lengths alone, for the most part: how many texts, and which shapes
        // are not rare.
        let mut families: BTreeMap<String, (u64, usize)> = BTreeMap::new();
        for (shape, count, _) in &shapes {
            let (texts, common) = families.entry(family(shape)).or_default();
            (*texts, *common) = (*texts + count, *common + usize::from(!is_rare(*count)));
        }
        let is_number =
            self.numbers * 1000 >= self.filled() * 950 && self.steady_digits().is_none();
        // In a family of many lengths, as names and numbers have, no length is odd.
        let is_odd = |(shape, count, _): &&(&str, u64, &FirstRow)| {
            let (texts, common) = families[&family(shape)];
            is_rare(texts) || !is_number && is_rare(*count) && (1..=USUAL_LENGTHS).contains(&common)
        };
        let odd: Vec<_> = shapes.iter().filter(is_odd).collect();
        let are_few = odd.iter().map(|(_, count, _)| count).sum::<u64>() * 10 <= self.filled();
        let tells = are_few && beyond == 0 && !self.is_prose();
        odd.into_iter().filter(|_| tells).map(|(shape, ..)| (*shape).to_owned()).collect()
    }

    /// The texts that stand in several rows, each with the first of them, where hardly one does.
    fn rarely_repeated(&self) -> HashMap<String, u64> {
        let repeated = self.repeated().unwrap_or_default();
        let rows: u64 = repeated.iter().map(|(_, rows, _)| rows).sum();
        let is_rare = (rows * 100 <= self.filled()
            || repeated.len() == 1 && rows * 10 <= self.filled())
            && !self.is_prose();
        repeated
            .into_iter()
            .filter(|_| is_rare)
            .map(|(text, _, first)| (text.to_owned(), first))
            .collect()
    }
}

/// Tells the odd texts of a column from the others.
#[derive(Debug)]
pub struct Oddities {
    /// Whether nearly all texts have a digit at a position from the left.
    digits: Vec<bool>,
    /// Nearly all texts have a digit somewhere; else no letter can be meant for one.
    has_digits: bool,
    /// What divides the texts, and the kinds of characters that nearly all have in each section,
    /// where they are the same and digits are among them.
    divider: Option<char>,
    sections: Vec<Option<String>>,
    /// The same of the whole texts.
    whole: Option<String>,
    troubles: Vec<&'static str>,
    /// Shapes that hardly a text has.
    rare: HashSet<String>,
    /// Texts that stand in several rows, with the first of them, where hardly one does.
    repeated: HashMap<String, u64>,
    /// Hardly a row is blank.
    is_blank_odd: bool,
    /// How many characters nearly all texts have.
    length: Option<usize>,
}

impl Oddities {
    /// Whether nearly all texts have a digit somewhere; else no letter can be meant for one.
    pub(super) fn have_digits(&self) -> bool {
        self.has_digits
    }

    /// What is odd about the text of a row, in a few words each.
    pub fn of(&self, text: &str, row: u64) -> Vec<String> {
        let mut odd = Vec::new();
        if is_blank(text) {
            return if self.is_blank_odd {
                vec!["blank where nearly all are filled".to_owned()]
            } else {
                odd
            };
        }
        let seen = text.bytes().fold(0, |seen, byte| seen | BYTES[usize::from(byte)]);
        let (_, has_two_blanks) = masks::words(text.as_bytes(), text.len());
        each_trouble(text, has_two_blanks, seen, |what| {
            odd.extend(self.troubles.contains(&what).then(|| what.to_owned()))
        });
        if self.has_like_digits(text) {
            odd.push(LIKE_DIGITS.to_owned());
        }
        let shape = shape(text);
        let cases = OTHER_CASE
            .iter()
            .zip(cases(&shape))
            .filter(|(what, has)| *has && self.troubles.contains(what));
        odd.extend(cases.map(|(what, _)| (*what).to_owned()));
        if self.rare.contains(&shape) {
            odd.push(format!("a rare shape: {shape}"));
        }
        if let Some(usual) =
            self.length.filter(|usual| characters::count(text).min(LONGEST) != *usual)
        {
            odd.push(format!(
                "{} characters where nearly all have {usual}",
                characters::count(text)
            ));
        }
        match self.repeated.get(text) {
            Some(first) if *first == row => {
                odd.push("the same text stands in another row".to_owned())
            }
            Some(first) => odd.push(format!("the same text stands in row {first}")),
            None => {}
        }
        odd
    }

    /// Whether a text has a letter that looks like a digit where nearly all have a digit: at that
    /// position, or in that section, which would then be written as in nearly all others.
    pub fn has_like_digits(&self, text: &str) -> bool {
        let bytes = text.as_bytes();
        if !self.has_digits {
            return false;
        }
        let places: Vec<usize> = lone_like_digits(bytes).collect();
        if places.is_empty() {
            return false;
        }
        let position = |place: usize| characters::count(&text[..place]);
        if places.iter().any(|place| self.digits.get(position(*place)) == Some(&true)) {
            return true;
        }
        let mut meant = text.to_owned();
        for place in places {
            meant.replace_range(
                place..=place,
                if matches!(bytes[place], b'O' | b'o') { "0" } else { "1" },
            );
        }
        let is_usual = |written: &str, meant: &str, usual: &Option<String>| {
            written != meant
                && usual.as_deref().is_some_and(|usual| {
                    kinds(&shape(written)) != usual && kinds(&shape(meant)) == usual
                })
        };
        if is_usual(text, &meant, &self.whole) {
            return true;
        }
        let Some(divider) = self.divider else { return false };
        let mut sections = text.split(divider).zip(meant.split(divider)).zip(&self.sections);
        sections.any(|((written, meant), usual)| is_usual(written.trim(), meant.trim(), usual))
    }
}

/// The kinds of characters that nearly all texts of these shapes have one after the other,
/// whatever the lengths of their runs; blank texts do not count.
fn usual_kinds<'s>(shapes: impl Iterator<Item = (&'s str, u64)>) -> Option<String> {
    let mut found: BTreeMap<String, u64> = BTreeMap::new();
    for (shape, count) in shapes.filter(|(shape, _)| !shape.is_empty()) {
        *found.entry(kinds(shape)).or_default() += count;
    }
    let filled: u64 = found.values().sum();
    found.into_iter().find(|(_, count)| count * 100 >= filled * USUAL).map(|(kinds, _)| kinds)
}

/// The kinds of the runs of a shape.
fn kinds(shape: &str) -> String {
    runs_of(shape).iter().map(|(kind, _)| *kind).collect()
}

/// The kinds of the runs of a shape, letters with accents in a word counted as small ones: texts
/// that are written alike.
fn family(shape: &str) -> String {
    let mut family = kinds(shape).replace('c', "l");
    while family.contains("ll") {
        family = family.replace("ll", "l");
    }
    family
}

/// Whether a shape has capitals, and whether it has small letters.
fn cases(shape: &str) -> [bool; 2] {
    let runs = runs_of(shape);
    ['U', 'l'].map(|of| runs.iter().any(|(kind, _)| *kind == of))
}

/// Characters without width or ink: the soft hyphen, joiners, marks of direction, the byte order
/// mark.
fn is_unseen(c: char) -> bool {
    matches!(
        c,
        '\u{ad}'
            | '\u{200b}'..='\u{200f}'
            | '\u{202a}'..='\u{202e}'
            | '\u{2060}'..='\u{2064}'
            | '\u{feff}'
    )
}

/// The hyphens and dashes of Unicode (general category Pd) that look like `-`, and the minus sign.
fn is_other_dash(c: char) -> bool {
    matches!(
        c,
        '\u{2010}'
            ..='\u{2015}'
                | '\u{2212}'
                | '\u{2e3a}'
                | '\u{2e3b}'
                | '\u{fe58}'
                | '\u{fe63}'
                | '\u{ff0d}'
    )
}

/// Whether a letter is no plain one and looks like one (Unicode TR 39, section 4: its skeleton is a
/// letter A–Z).
fn looks_plain(c: char) -> bool {
    if c.is_ascii() || !c.is_alphabetic() {
        return false;
    }
    let mut buffer = [0; 4];
    let mut skeleton = unicode_security::skeleton(c.encode_utf8(&mut buffer));
    matches!((skeleton.next(), skeleton.next()), (Some(alike), None) if alike.is_ascii_alphabetic())
}
