//! Layouts: what the texts of one way of writing have in common.
//!
//! A layout is a pattern that `is shape` takes: literal words and signs, and slots for what varies
//! (`Reference [d4..5] - [w] reseeded, [n] % germination (kp: [w+])`). They are found in a sample
//! of the column, whose memory is bounded and which is the same for any number of workers:
//!
//! 1. `tokens.rs` reads each text as a person does: words, numbers, signs.
//! 2. `lines.rs` puts texts with the same signs together.
//! 3. `steady.rs` parts these by words that stand in one part only.
//! 4. `pattern.rs` writes for each part what is the same in nearly all of its texts, and slots.
//! 5. `gather.rs` puts those together that differ in the signs of one slot alone.
//!
//! Then each text belongs to the first pattern that it fits, by [`ShapePattern`] alone: how a
//! pattern was found plays no part in what it takes.

mod counts;
mod gather;
mod labels;
mod lines;
mod of_shapes;
mod pattern;
mod sample;
mod steady;
mod tokens;

use std::cmp::Reverse;

use crate::first_row::FirstRow;
use crate::shape::{ShapePattern, pattern_parts};
use crate::text::{Span, is_currency};
pub use counts::{LayoutCounts, MOST_ODD};
pub use labels::{Label, LabelCounts};
use lines::Line;
pub use sample::TextSample;
pub(crate) use sample::{SAMPLE, Sampled};

/// The largest number of layouts that are told.
const MOST: usize = 64;
/// The fewest texts of a layout.
const FEWEST: usize = 3;

/// A way of writing, as a pattern.
#[derive(Debug, Clone)]
pub struct Layout {
    /// The pattern, as `is shape` takes it.
    pub pattern: String,
    /// Its letters may be of either case.
    pub ignoring_case: bool,
    /// How many texts have it and no layout before it.
    pub texts: u64,
    /// The first of them.
    pub first: FirstRow,
    compiled: ShapePattern,
}

impl Layout {
    /// Where the slots lie in a text of this layout, in bytes; `None` of any other text.
    pub fn slots(&self, text: &str) -> Option<Vec<Span>> {
        self.compiled.slots(text)
    }

    /// Whether a text has this layout.
    pub fn fits(&self, text: &str) -> bool {
        self.compiled.matches(text)
    }
}

/// The layouts of a column: each text belongs to the first that it fits.
#[derive(Debug, Clone, Default)]
pub struct Layouts {
    /// The commonest first; one that takes all that another takes stands after it.
    pub layouts: Vec<Layout>,
    /// How many texts that is told by.
    pub of: u64,
    /// How many texts have none of them.
    pub odd_texts: u64,
    /// The first of these, at most 20.
    pub odd: Vec<FirstRow>,
    /// What stands before numbers and codes, the commonest first.
    pub labels: Vec<Label>,
    /// How many texts the largest group of texts of equal signs has, where there are no layouts;
    /// and of how many.
    pub largest: Option<(u64, u64)>,
}

impl Layouts {
    /// Finds the layouts of some texts, which stand in the order of their rows.
    pub(crate) fn of(sample: &[Sampled]) -> Self {
        let least = sample.len().div_ceil(200).max(FEWEST);
        let mut lines: Vec<Line<'_>> = Vec::new();
        let mut rows: Vec<usize> = Vec::new();
        for (row, sampled) in sample.iter().enumerate() {
            if let Some(line) = Line::of(&sampled.text) {
                lines.push(line);
                rows.push(row);
            }
        }
        let mut found = Vec::new();
        for group in lines::groups(&mut lines) {
            found.extend(pattern::patterns(&lines, &group, least));
        }
        // The largest first; what it was made of is looked at no more.
        found.sort_by_key(|found| (Reverse(found.members.len()), found.members[0]));
        found.truncate(MOST);
        let mut patterns: Vec<(String, bool)> = Vec::new();
        for pattern::Found { pattern, ignoring_case, .. } in found {
            if patterns.iter().all(|(known, _)| *known != pattern) {
                patterns.push((pattern, ignoring_case));
            }
        }
        let patterns = gather::gathered(patterns, sample, least);
        let patterns = patterns.iter().map(|(pattern, case)| (pattern.as_str(), *case));
        let mut found = Self::of_patterns(patterns).in_order(sample, least);
        found.labels = labels::labels(sample, &found.layouts);
        found
    }

    /// Layouts of these patterns, in this order, each with whether its letters may be of either
    /// case; a text that is no pattern is left out.
    pub fn of_patterns<'p>(patterns: impl Iterator<Item = (&'p str, bool)>) -> Self {
        let layout = |(pattern, ignoring_case): (&str, bool)| {
            let compiled = ShapePattern::read(pattern).ok()?.ignoring_case(ignoring_case);
            let (pattern, first) = (pattern.to_owned(), FirstRow::default());
            Some(Layout { pattern, ignoring_case, texts: 0, first, compiled })
        };
        Self { layouts: patterns.filter_map(layout).collect(), ..Self::default() }
    }

    /// Puts a layout that takes all texts of another after it, and leaves out those of too few
    /// texts.
    fn in_order(mut self, sample: &[Sampled], least: usize) -> Self {
        let fits: Vec<Vec<bool>> = self
            .layouts
            .iter()
            .map(|layout| sample.iter().map(|text| layout.fits(&text.text)).collect())
            .collect();
        let count = |n: usize| fits[n].iter().filter(|fits| **fits).count();
        let takes = |n: usize, other: usize| {
            fits[other].iter().zip(&fits[n]).all(|(theirs, ours)| !theirs || *ours)
        };
        let mut order: Vec<usize> = (0..self.layouts.len()).collect();
        order.sort_by_key(|n| Reverse(count(*n)));
        // Stable: a wider pattern moves after the last one that it takes all of.
        let mut sorted: Vec<usize> = Vec::new();
        for n in order {
            let before = sorted.iter().position(|other| takes(*other, n) && !takes(n, *other));
            sorted.insert(before.unwrap_or(sorted.len()), n);
        }
        let mut open = vec![true; sample.len()];
        let mut kept = Vec::new();
        for n in sorted {
            let own: Vec<usize> =
                (0..sample.len()).filter(|text| open[*text] && fits[n][*text]).collect();
            if own.len() < least {
                continue;
            }
            own.iter().for_each(|text| open[*text] = false);
            let first = &sample[own[0]];
            self.layouts[n].texts = own.len() as u64;
            self.layouts[n].first =
                FirstRow { row: first.row, line: first.line, text: first.text.to_string() };
            kept.push(self.layouts[n].clone());
        }
        let odd: Vec<usize> = (0..sample.len()).filter(|text| open[*text]).collect();
        // Where most texts have no layout, or one of their own, they are prose.
        if odd.len() * 2 > sample.len() {
            let largest = kept.iter().map(|layout| layout.texts).max().unwrap_or(0);
            return Self { largest: Some((largest, sample.len() as u64)), ..Self::default() };
        }
        let first = |text: &usize| {
            let Sampled { row, line, text, .. } = &sample[*text];
            FirstRow { row: *row, line: *line, text: text.to_string() }
        };
        Self {
            layouts: kept,
            of: sample.len() as u64,
            odd_texts: odd.len() as u64,
            odd: odd.iter().take(20).map(first).collect(),
            labels: Vec::new(),
            largest: None,
        }
    }

    /// Whether they say more than the shapes of the texts do: they have words or numbers that
    /// shapes tell apart by their lengths.
    pub fn say_more_than_shapes(&self) -> bool {
        let has_words = |layout: &Layout| {
            ["[w]", "[w+]", "[n]", "[x]", "[*]"].iter().any(|slot| layout.pattern.contains(slot))
        };
        self.layouts.iter().any(has_words)
    }

    /// Whether there are several, none of which nearly all texts have.
    pub(crate) fn are_several(&self) -> bool {
        let is_one = |layout: &Layout| layout.texts * 100 >= self.of * 85;
        self.layouts.len() > 1 && !self.layouts.iter().any(is_one)
    }

    /// What all texts are, where each is one number with nothing beside it but signs and a currency
    /// or a percent sign.
    pub(crate) fn unit(&self) -> Option<&'static str> {
        let is_sign = |c: char| matches!(c, ' ' | '-' | '−' | '+' | '(' | ')' | '\u{a0}');
        let mut units: Vec<bool> = Vec::new();
        for layout in &self.layouts {
            let parts = pattern_parts(&layout.pattern);
            let mut slots = parts.iter().filter(|(is_slot, _)| *is_slot);
            let is_number =
                slots.next().is_some_and(|(_, slot)| slot == "[n]" || slot.starts_with("[d"));
            if !is_number || slots.next().is_some() {
                return None;
            }
            let literals = parts.iter().filter(|(is_slot, _)| !is_slot);
            for word in literals.flat_map(|(_, text)| text.split(is_sign)) {
                match word {
                    "" => {}
                    "%" => units.push(true),
                    word if is_currency(word) => units.push(false),
                    _ => return None,
                }
            }
        }
        let are_percent = units.first()?;
        Some(if *are_percent { "percentage" } else { "amount" })
    }

    /// What divides the texts, where they are lists: the same slot several times in each.
    pub(crate) fn list_sign(&self) -> Option<&'static str> {
        let (mut sign, mut kind, mut longest) = (None, None, 0);
        for layout in &self.layouts {
            let parts = pattern_parts(&layout.pattern);
            longest = longest.max(parts.len());
            for (is_slot, part) in parts {
                let known = if is_slot { &mut kind } else { &mut sign };
                if known.get_or_insert_with(|| part.clone()) != &part {
                    return None;
                }
            }
        }
        let found =
            [",", ";", "|"].into_iter().find(|of| sign.as_deref().map(str::trim) == Some(of));
        found.filter(|_| self.are_several() && longest > 3)
    }

    /// The place of the first layout that a text fits.
    pub fn place(&self, text: &str) -> Option<usize> {
        self.layouts.iter().position(|layout| layout.fits(text))
    }
}
