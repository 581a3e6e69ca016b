//! The pieces that can be taken out of the layouts of a column: what stands in their slots, with a
//! name that the texts bear out.

use std::collections::BTreeMap;
use std::ops::Range;

use crate::layouts::{Layout, Layouts, Sampled};
use crate::shape::pattern_parts;
use crate::text::{DatePattern, Marks, NumberStyle, Span, is_currency, numbers};

/// How many texts of each layout are looked at.
const LOOKED_AT: usize = 60;

/// What a piece is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum What {
    /// A number in any form: its value counts.
    Number,
    /// Digits verbatim.
    Digits,
    Date(&'static str),
    /// Letters, digits and signs without a blank.
    Code,
    Words,
}

/// A piece of some layouts.
#[derive(Debug)]
pub(super) struct Piece {
    pub name: String,
    pub what: What,
    /// For each layout where it stands in it, if it has it.
    pub of: Vec<Option<Place>>,
}

/// A piece of one layout.
#[derive(Debug, Clone)]
pub(super) struct Place {
    /// Its first slot and the one after its last.
    slots: Range<usize>,
    /// The literal text up to the slot before, and up to the one after.
    pub left: String,
    pub right: String,
    /// It stands at the start of the text, at its end.
    pub at_start: bool,
    pub at_end: bool,
    /// It is below zero where brackets or a minus after it say so.
    is_below_zero: bool,
    /// What precedes it as a label, in lower case.
    pub label: Option<String>,
    /// Its own pattern.
    pub pattern: String,
    what: What,
}

/// The texts of a sample that have a layout, with where its slots lie.
pub(super) struct LayoutTexts<'t> {
    pub texts: Vec<(&'t str, Vec<Span>)>,
}

impl Place {
    /// Where it stands in a text of its layout.
    pub(super) fn of<'t>(&self, (text, slots): &(&'t str, Vec<Span>)) -> &'t str {
        &text[slots[self.slots.start].start..slots[self.slots.end - 1].end]
    }

    /// What a cut is to return for it.
    pub(super) fn wanted(&self, text: &(&str, Vec<Span>)) -> String {
        let piece = self.of(text);
        match self.what {
            What::Number => {
                let style = NumberStyle { marks: Marks::Either, accounting: false };
                let written = numbers(piece, None, style).next().map(|found| found.written(piece));
                let written = written.unwrap_or_default();
                if self.is_below_zero { format!("-{written}") } else { written }
            }
            What::Date(pattern) => DatePattern::read(pattern)
                .ok()
                .and_then(|pattern| pattern.parse(piece))
                .map_or(String::new(), |day| day.date().to_string()),
            _ => piece.to_owned(),
        }
    }
}

/// The texts of each layout, and some of none.
pub(super) fn texts_of<'t>(
    layouts: &Layouts,
    sample: &'t [Sampled],
) -> (Vec<LayoutTexts<'t>>, Vec<&'t str>) {
    let mut of: Vec<LayoutTexts<'t>> =
        layouts.layouts.iter().map(|_| LayoutTexts { texts: Vec::new() }).collect();
    let mut odd = Vec::new();
    for sampled in sample {
        match layouts.place(&sampled.text) {
            Some(n) if of[n].texts.len() < LOOKED_AT => {
                if let Some(slots) = layouts.layouts[n].slots(&sampled.text) {
                    of[n].texts.push((&sampled.text, slots));
                }
            }
            Some(_) => {}
            None if odd.len() < LOOKED_AT => odd.push(&*sampled.text),
            None => {}
        }
    }
    (of, odd)
}

/// The pieces of the layouts: those of one name and kind are one.
pub(super) fn pieces(layouts: &Layouts, texts: &[LayoutTexts<'_>]) -> Vec<Piece> {
    let mut pieces: Vec<Piece> = Vec::new();
    for (n, (layout, texts)) in layouts.layouts.iter().zip(texts).enumerate() {
        let mut seen: BTreeMap<(String, &'static str), usize> = BTreeMap::new();
        for place in places(layout, texts) {
            let name = name(&place, texts);
            let times = seen.entry((name.clone(), kind(place.what))).or_default();
            *times += 1;
            let numbered = if *times == 1 { name.clone() } else { format!("{name}{times}") };
            let is_it = |known: &&mut Piece| {
                known.of[n].is_none()
                    && kind(known.what) == kind(place.what)
                    && is_same_name(&known.name, &numbered)
                    && known.of.iter().flatten().all(|other| is_alike(other, &place))
            };
            match pieces.iter_mut().find(is_it) {
                Some(known) => {
                    if known.what == What::Digits {
                        known.what = place.what;
                    }
                    known.of[n] = Some(place);
                }
                None => {
                    let mut of = vec![None; layouts.layouts.len()];
                    let what = place.what;
                    of[n] = Some(place);
                    pieces.push(Piece { name: numbered, what, of });
                }
            }
        }
    }
    pieces
}

/// Numbers and digits may stand for each other.
fn kind(what: What) -> &'static str {
    match what {
        What::Number | What::Digits => "figures",
        What::Date(_) => "date",
        What::Code => "code",
        What::Words => "words",
    }
}

/// Whether places of one name hold the same: what no label names must look alike.
fn is_alike(a: &Place, b: &Place) -> bool {
    let are_labelled = a.label.is_some() && b.label.is_some();
    let are_numbers = (a.what, b.what) == (What::Number, What::Number);
    are_labelled || are_numbers || a.what == b.what && a.pattern == b.pattern
}

/// `ref` and `reference` name the same.
fn is_same_name(a: &str, b: &str) -> bool {
    let (short, long) = if a.len() < b.len() { (a, b) } else { (b, a) };
    short == long
        || short.len() >= 3
            && long.starts_with(short)
            && short.chars().all(char::is_alphabetic)
            && long.chars().all(char::is_alphabetic)
}

/// The pieces of one layout, from left to right.
fn places(layout: &Layout, texts: &LayoutTexts<'_>) -> Vec<Place> {
    let parts = pattern_parts(&layout.pattern);
    let is_sentence =
        parts.iter().any(|(is_slot, part)| !is_slot && part.contains(' ') || part == "[w+]");
    let mut places: Vec<Place> = Vec::new();
    let (mut left, mut slot) = (String::new(), 0);
    for (is_slot, part) in parts {
        if !is_slot {
            left.push_str(&part);
            continue;
        }
        let joins = match places.last() {
            None => false,
            Some(before) => {
                let is_sign =
                    matches!(left.as_str(), "-" | "/" | "." | ":" | "_") || left.is_empty();
                let is_initial = left == ". " && before.pattern.ends_with("[U]");
                let are_words = part == "[w+]" || before.pattern.ends_with("[w+]");
                (is_sentence || left.is_empty()) && is_sign && !are_words || is_initial
            }
        };
        match places.last_mut().filter(|_| joins) {
            Some(before) => {
                before.slots.end = slot + 1;
                before.pattern.push_str(&left);
                before.pattern.push_str(&part);
            }
            None => {
                if let Some(before) = places.last_mut() {
                    before.right = left.clone();
                    before.at_end = false;
                }
                places.push(Place {
                    slots: slot..slot + 1,
                    at_start: places.is_empty() && left.is_empty(),
                    left: left.clone(),
                    right: String::new(),
                    at_end: true,
                    is_below_zero: false,
                    label: None,
                    pattern: part,
                    what: What::Code,
                });
            }
        }
        left.clear();
        slot += 1;
    }
    if let Some(last) = places.last_mut() {
        last.at_end = left.is_empty();
        last.right = left;
    }
    if !is_sentence {
        join_days(&mut places, texts);
    }
    for place in &mut places {
        place.what = what(place, texts, is_sentence);
        place.label = if is_sentence { label(&place.left) } else { None };
        let opens = place.left.trim_end_matches(|c: char| is_currency(c.encode_utf8(&mut [0; 4])));
        let is_signed = place.left == "-" || place.left.ends_with(" -");
        place.is_below_zero = place.what == What::Number
            && (opens.ends_with('(') && place.right.starts_with(')')
                || place.right.starts_with('-')
                || is_signed);
        if place.is_below_zero {
            place.label = None;
        }
    }
    places
}

/// The ways of writing a day that are looked for among digits.
const DAYS: [&str; 9] = [
    "YYYY-MM-DD",
    "DD.MM.YYYY",
    "D.M.YYYY",
    "DD/MM/YYYY",
    "MM/DD/YYYY",
    "D/M/YYYY",
    "YYYY/MM/DD",
    "YYYYMMDD",
    "DD-MM-YYYY",
];

/// How a place is written as a day in all of the texts, if it is.
fn day(place: &Place, texts: &LayoutTexts<'_>) -> Option<&'static str> {
    let is_so = |pattern: &&&str| {
        DatePattern::read(pattern).is_ok_and(|pattern| {
            texts.texts.iter().all(|text| pattern.parse(place.of(text)).is_some())
        })
    };
    DAYS.iter().find(is_so).filter(|_| texts.texts.len() > 2).copied()
}

/// In a code, three places of digits that are a day together are one.
fn join_days(places: &mut Vec<Place>, texts: &LayoutTexts<'_>) {
    let mut n = 0;
    while n + 2 < places.len() {
        let [first, second, third] = &places[n..n + 3] else { return };
        let mut joined = first.clone();
        joined.slots.end = third.slots.end;
        joined.pattern =
            [&first.pattern, &second.left, &second.pattern, &third.left, &third.pattern]
                .map(String::as_str)
                .concat();
        (joined.right, joined.at_end) = (third.right.clone(), third.at_end);
        if [first, second, third].iter().all(|place| place.pattern.starts_with("[d"))
            && day(&joined, texts).is_some()
        {
            places.splice(n..n + 3, [joined]);
        }
        n += 1;
    }
}

fn what(place: &Place, texts: &LayoutTexts<'_>, is_sentence: bool) -> What {
    match place.pattern.as_str() {
        "[n]" => return What::Number,
        "[w]" | "[w+]" | "[U]. [w]" => return What::Words,
        _ => {}
    }
    if place.pattern.starts_with("[d")
        && let Some(pattern) = day(place, texts)
    {
        return What::Date(pattern);
    }
    let is_one_run = place.pattern.matches('[').count() == 1;
    if !place.pattern.starts_with("[d") || !is_one_run {
        return What::Code;
    }
    // A quantity has no zeros in front, and few digits.
    let are_quantities = texts
        .texts
        .iter()
        .map(|text| place.of(text))
        .all(|of| of == "0" || of.len() < 4 && !of.starts_with('0'));
    let may_be = place.pattern.contains("1..") || is_sentence;
    if may_be && are_quantities { What::Number } else { What::Digits }
}

/// The word right before a piece, in lower case: `: = #` and brackets may stand between.
fn label(left: &str) -> Option<String> {
    // `INV-62264`
    let left = match left.strip_suffix('-') {
        Some(before) if before.ends_with(char::is_alphabetic) => before,
        _ => left,
    };
    let left =
        left.trim_end_matches(|c: char| c.is_whitespace() || matches!(c, ':' | '=' | '#' | '.'));
    let start = left
        .rfind(|c: char| !c.is_alphabetic())
        .map_or(0, |at| at + left[at..].chars().next().map_or(1, char::len_utf8));
    let word = &left[start..];
    if is_currency(word) {
        return label(&left[..start]);
    }
    (!word.is_empty()).then(|| word.to_lowercase())
}

/// The first word after a piece, which says what it counts.
fn unit(right: &str) -> Option<String> {
    let right = right.trim_start_matches([' ', '%']);
    let end = right.find(|c: char| !c.is_alphabetic()).unwrap_or(right.len());
    let word = &right[..end];
    (word.len() > 1 && !is_currency(word)).then(|| word.to_lowercase())
}

/// What a piece is called.
fn name(place: &Place, texts: &LayoutTexts<'_>) -> String {
    let are = |holds: fn(&str) -> bool| texts.texts.iter().all(|text| holds(place.of(text)));
    let is_year =
        |text: &str| text.len() == 4 && (text.starts_with("19") || text.starts_with("20"));
    // What is counted, and a day, say more than a small word before them.
    let small =
        ["at", "in", "of", "to", "by", "on", "for", "from", "over", "and", "the", "a", "an"];
    let articles = &small[10..];
    let label = place.label.as_deref().filter(|label| !articles.contains(label));
    let by_content = match place.what {
        What::Date(_) => "date",
        What::Number => "number",
        What::Digits if are(is_year) => "year",
        What::Digits => "number",
        What::Code if place.pattern.starts_with("[d2]:[d2]") => "time",
        What::Code => "code",
        What::Words => "words",
    };
    let says = |label: &&str| place.what == What::Words || !small.contains(label);
    if let Some(label) = label.filter(says) {
        return label.to_owned();
    }
    if matches!(place.what, What::Date(_)) {
        return "date".to_owned();
    }
    if place.what == What::Number && place.right.trim_start() == "%" {
        return "percent".to_owned();
    }
    if place.what == What::Number && is_amount(place) {
        return "amount".to_owned();
    }
    let closed = ["()", "[]", "{}", "\"\""];
    if closed.iter().any(|of| place.left.ends_with(&of[..1]) && place.right.starts_with(&of[1..])) {
        return if place.left.ends_with('"') { "in_quotes" } else { "in_brackets" }.to_owned();
    }
    match place.what {
        What::Number | What::Digits => unit(&place.right).unwrap_or_else(|| by_content.to_owned()),
        _ => label.unwrap_or(by_content).to_owned(),
    }
}

/// Whether a currency stands right before or after a place.
fn is_amount(place: &Place) -> bool {
    let signs = ['(', ')', '-', ';', ',', ' '];
    let last = place.left.trim_end_matches(signs).rsplit(char::is_whitespace).next();
    let first = place.right.trim_start_matches(signs).split(char::is_whitespace).next();
    let touches = |c: Option<char>| c.is_some_and(|c| is_currency(c.encode_utf8(&mut [0; 4])));
    let is_it = |word: Option<&str>| word.is_some_and(|word| is_currency(word.trim_matches(signs)));
    is_it(last)
        || is_it(first) && !place.right.starts_with([',', ';'])
        || touches(place.left.trim_end().chars().next_back())
        || touches(place.right.trim_start().chars().next())
}
