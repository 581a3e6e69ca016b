//! Labels: what stands right before numbers and codes in texts with words.
//!
//! In a sample it is seen which labels there are (`Labels::of`), in a pass over all texts how many
//! texts have each (`LabelCounts`).

use std::cell::LazyCell;
use std::collections::BTreeMap;

use super::counts::merge;
use super::lines::{Line, groups};
use super::pattern::patterns;
use super::sample::Sampled;
use super::{Layout, Layouts};
use crate::first_row::FirstRow;
use crate::survey::Alike;
use crate::text::characters;

/// A label is in at least one in this number of texts.
const RARE: usize = 50;
/// The largest number of labels that are told.
const MOST: usize = 12;
/// What follows is told where this number of a hundred have it.
const ONE_PATTERN: usize = 80;

/// A word or sign that stands right before numbers or codes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Label {
    /// The word, in lower case, or the sign.
    pub label: String,
    /// How many texts have it, before a number or code.
    pub texts: u64,
    /// What follows, as a shape; `[*]` where that is of several kinds.
    pub followed_by: String,
    /// The first text that has it.
    pub first: FirstRow,
    /// It is a word, and no sign.
    pub is_word: bool,
    /// What follows has a zero in front in some text.
    pub zeros_in_front: bool,
}

/// What follows a label, and which label it is; both are pieces of the text.
struct Labelled<'t> {
    label: &'t str,
    is_word: bool,
    code: &'t str,
}

/// The labels of a text with what follows each. A number or code is what stands between blanks and
/// has a digit, brackets and closing signs aside; `: = # .` and blanks may stand before it.
fn labelled(text: &str) -> impl Iterator<Item = Labelled<'_>> {
    // The piece before, and before that the last one that may be a label though signs follow it.
    let mut before = "";
    pieces(text).filter_map(move |piece| {
        let word = before;
        // What may stand between a label and its code does not change the label.
        if !piece.is_empty() && !piece.chars().all(is_passed_over) {
            before = piece;
        }
        if piece.bytes().any(|byte| byte.is_ascii_digit()) { label_of(piece, word) } else { None }
    })
}

/// The pieces of a text between its blanks.
fn pieces(text: &str) -> impl Iterator<Item = &str> {
    let is_ascii = text.is_ascii();
    text.split(
        move |c: char| {
            if is_ascii { matches!(c, ' ' | '\t'..='\r') } else { c.is_whitespace() }
        },
    )
}

/// The label of a piece with a digit in it, and what it stands before; `word` is the piece before.
fn label_of<'t>(piece: &'t str, word: &'t str) -> Option<Labelled<'t>> {
    let opening = ['(', '[', '{', '<', '"', '\'', '“', '-'];
    let closing = |c: char| {
        matches!(
            c,
            ')' | ']' | '}' | '>' | '"' | '\'' | '”' | ',' | ';' | '.' | ':' | '!' | '?' | '%'
        )
    };
    let own = piece.trim_start_matches(opening).trim_end_matches(closing);
    let letters = own.find(|c: char| !c.is_alphabetic()).unwrap_or(own.len());
    let rest = own[letters..].trim_start_matches(is_passed_over);
    let starts_with_digit = |text: &str| text.starts_with(|c: char| c.is_ascii_digit());
    if letters > 0 && rest.len() < own.len() - letters && starts_with_digit(rest) {
        return Some(Labelled { label: &own[..letters], is_word: true, code: rest });
    }
    let code = own.trim_start_matches(is_passed_over);
    // A sign that touches it, such as that of a currency.
    if let Some(sign) = characters::each(code).next().filter(|sign| is_label_sign(sign)) {
        let code = &code[sign.len()..];
        return starts_with_digit(code).then_some(Labelled { label: sign, is_word: false, code });
    }
    let word = word.trim_start_matches(opening).trim_end_matches(is_passed_over);
    is_word(word).then_some(Labelled { label: word, is_word: true, code })
}

fn is_passed_over(c: char) -> bool {
    matches!(c, ':' | '=' | '#' | '.')
}

fn is_word(text: &str) -> bool {
    !text.is_empty() && text.chars().all(|c| c.is_alphabetic() || matches!(c, '-' | '\'' | '’'))
}

fn is_label_sign(sign: &str) -> bool {
    sign.chars()
        .all(|c| !c.is_alphanumeric() && (!c.is_ascii_punctuation() || matches!(c, '$' | '§')))
        && !matches!(sign, "−" | "–" | "—")
}

/// The labels of the texts of a sample, the commonest first.
pub(super) fn labels(sample: &[Sampled], layouts: &[Layout]) -> Vec<Label> {
    struct Seen<'s> {
        texts: usize,
        /// In how many of them the word is what varies in a layout.
        in_slots: usize,
        first: &'s Sampled,
        is_word: bool,
        codes: Vec<&'s str>,
    }
    let mut seen: BTreeMap<String, Seen<'_>> = BTreeMap::new();
    for sampled in sample {
        let mut own: Vec<String> = Vec::new();
        let slots = LazyCell::new(|| {
            let layout = layouts.iter().find(|layout| layout.fits(&sampled.text));
            layout.and_then(|layout| layout.slots(&sampled.text)).unwrap_or_default()
        });
        for Labelled { label: place, is_word, code } in labelled(&sampled.text) {
            let label = place.to_lowercase();
            if own.contains(&label) {
                continue;
            }
            let seen = seen.entry(label.clone()).or_insert_with(|| Seen {
                texts: 0,
                in_slots: 0,
                first: sampled,
                is_word,
                codes: Vec::new(),
            });
            seen.texts += 1;
            seen.codes.push(code);
            let at = place.as_ptr() as usize - sampled.text.as_ptr() as usize;
            seen.in_slots += usize::from(slots.iter().any(|slot| slot.contains(&at)));
            own.push(label);
        }
    }
    let least = sample.len().div_ceil(RARE).max(3);
    let mut labels: Vec<Label> = seen
        .into_iter()
        .filter(|(_, seen)| seen.texts >= least && seen.in_slots * 10 < seen.texts * 9)
        .map(|(label, seen)| Label {
            label,
            texts: seen.texts as u64,
            followed_by: followed_by(&seen.codes),
            first: FirstRow {
                row: seen.first.row,
                line: seen.first.line,
                text: seen.first.text.to_string(),
            },
            is_word: seen.is_word,
            zeros_in_front: seen.codes.iter().any(|code| {
                code.len() > 1 && code.starts_with('0') && code.bytes().all(|b| b.is_ascii_digit())
            }),
        })
        .collect();
    labels.sort_by(|a, b| b.texts.cmp(&a.texts).then_with(|| a.label.cmp(&b.label)));
    labels.truncate(MOST);
    labels
}

/// The pattern that nearly all of some codes have.
fn followed_by(codes: &[&str]) -> String {
    let mut lines: Vec<Line<'_>> = codes.iter().filter_map(|code| Line::of(code)).collect();
    let found = groups(&mut lines)
        .into_iter()
        .flat_map(|group| patterns(&lines, &group, 1))
        .max_by_key(|found| found.members.len());
    match found {
        Some(found) if found.members.len() * 100 >= codes.len() * ONE_PATTERN => found.pattern,
        _ => "[*]".to_owned(),
    }
}

/// How many texts have each of some labels. Parts are merged in the order of their rows.
#[derive(Debug, Clone, Default)]
pub struct LabelCounts {
    texts: Vec<u64>,
    first: Vec<Option<FirstRow>>,
}

impl LabelCounts {
    /// Takes rows of the same text.
    pub fn add(&mut self, labels: &[Label], alike: Alike<'_>) {
        let Alike { text, rows, .. } = alike;
        if labels.is_empty() || !text.bytes().any(|byte| byte.is_ascii_digit()) {
            return;
        }
        self.texts.resize(labels.len(), 0);
        self.first.resize(labels.len(), None);
        let mut seen = 0_u64;
        for Labelled { label, .. } in labelled(text) {
            let is_it = |known: &Label| {
                known.label.eq_ignore_ascii_case(label)
                    || !label.is_ascii() && known.label == label.to_lowercase()
            };
            if let Some(n) = labels.iter().position(is_it).filter(|n| seen >> n & 1 == 0) {
                seen |= 1 << n;
                self.texts[n] += rows;
                self.first[n].get_or_insert_with(|| alike.first());
            }
        }
    }

    /// Adds the counts of the part that comes next, and empties it.
    pub fn merge(&mut self, part: &mut LabelCounts) {
        merge((&mut self.texts, &mut self.first), (&mut part.texts, &mut part.first));
    }

    /// Puts these counts in the place of those of a sample, where `layouts` have been counted: the
    /// texts of a layout have the labels that its first text has outside its slots.
    pub fn put(mut self, layouts: &mut Layouts) {
        let Layouts { layouts, labels, of, .. } = layouts;
        self.texts.resize(labels.len(), 0);
        self.first.resize(labels.len(), None);
        for ((label, texts), first) in labels.iter_mut().zip(self.texts).zip(self.first) {
            let own = layouts.iter().filter(|layout| layout.has_label(&label.label));
            let mut firsts: Vec<&FirstRow> = first.iter().collect();
            label.texts = texts;
            for layout in own {
                label.texts += layout.texts;
                firsts.push(&layout.first);
            }
            if let Some(first) = firsts.into_iter().min_by_key(|first| first.row) {
                label.first = first.clone();
            }
        }
        labels.retain(|label| label.texts * RARE as u64 >= *of);
    }
}

impl Layout {
    /// Whether its texts have a label.
    fn has_label(&self, label: &str) -> bool {
        let text = &self.first.text;
        let slots = self.slots(text).unwrap_or_default();
        labelled(text).any(|found| {
            let at = found.label.as_ptr() as usize - text.as_ptr() as usize;
            found.label.to_lowercase() == *label && !slots.iter().any(|slot| slot.contains(&at))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn labels_stand_right_before_numbers_and_codes() {
        for (text, wanted) in [
            ("Ref 118 and ref: 119, betula", "Ref=118 ref=119"),
            ("REF:4411 left", "REF=4411"),
            ("no.7", "no=7"),
            ("lot = # GR-2026-512)", "lot=GR-2026-512"),
            ("paid €12.50, preferred", "€=12.50"),
            ("in 2026", "in=2026"),
            ("12 kg", ""),
            ("B12 C13", ""),
        ] {
            let found: Vec<String> =
                labelled(text).map(|found| format!("{}={}", found.label, found.code)).collect();
            assert_eq!(found.join(" "), wanted, "{text:?}");
        }
    }
}
