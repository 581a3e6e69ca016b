//! Which texts of a column have which layout, counted in a pass over all of them.

use std::mem::take;

use regex_automata::hybrid::dfa::Cache;

use super::{Layout, Layouts};
use crate::first_row::FirstRow;
use crate::shape::{Automaton, First, ShapePattern};
use crate::survey::Alike;

/// How many different texts of no layout are kept.
pub const MOST_ODD: usize = 20;

/// How many texts have each layout, and those that have none. Parts are merged in the order of
/// their rows.
#[derive(Debug, Clone)]
pub struct LayoutCounts {
    layouts: Vec<Layout>,
    /// The same layouts as one automaton, with what was met of it.
    together: Option<(Automaton, Cache)>,
    /// How many texts have each layout and none before it.
    pub texts: Vec<u64>,
    /// The first of each.
    pub first: Vec<Option<FirstRow>>,
    /// How many texts have no layout.
    pub odd_texts: u64,
    /// The first of them that are different, at most [`MOST_ODD`].
    pub odd: Vec<FirstRow>,
}

impl LayoutCounts {
    /// Nothing counted yet of these layouts.
    pub fn of(layouts: &Layouts) -> Self {
        let layouts = layouts.layouts.clone();
        let count = layouts.len();
        Self {
            together: ShapePattern::together(layouts.iter().map(|layout| &layout.compiled))
                .map(|together| (together.clone(), together.cache())),
            layouts,
            texts: vec![0; count],
            first: vec![None; count],
            odd_texts: 0,
            odd: Vec::new(),
        }
    }

    /// Takes the text of a row, which is not blank. Returns whether it has a layout.
    pub fn add(&mut self, text: &str, row: u64, line: u64) -> bool {
        self.add_rows(Alike { text, rows: 1, row, line })
    }

    /// Takes rows of the same text or layout. Returns whether they have one.
    pub fn add_rows(&mut self, alike: Alike<'_>) -> bool {
        match self.place(alike.text) {
            Some(n) => {
                self.texts[n] += alike.rows;
                self.first[n].get_or_insert_with(|| alike.first());
                true
            }
            None => {
                self.odd_texts += alike.rows;
                if self.has_room_for(alike.text) {
                    self.odd.push(alike.first());
                }
                false
            }
        }
    }

    /// The place of the first layout that a text fits ([`Layouts::place`]).
    fn place(&mut self, text: &str) -> Option<usize> {
        // Most texts of a code are of the first.
        if self.layouts.first().is_some_and(|layout| layout.compiled.fits_at_a_glance(text)) {
            return Some(0);
        }
        let found = self.together.as_mut().and_then(|(all, cache)| all.first_with(cache, text));
        // The automaton may name one too early: that and those after it are asked.
        let open = match found {
            Some(First::OfNone) => return None,
            Some(First::Surely(place)) => return Some(place),
            Some(First::Perhaps(place)) => place,
            None => 0,
        };
        let fits = |layout: &Layout| layout.fits(text);
        self.layouts[open..].iter().position(fits).map(|place| open + place)
    }

    /// Adds the counts of the part that comes next, and empties it.
    pub fn merge(&mut self, part: &mut LayoutCounts) {
        merge((&mut self.texts, &mut self.first), (&mut part.texts, &mut part.first));
        self.odd_texts += take(&mut part.odd_texts);
        for odd in take(&mut part.odd) {
            if self.has_room_for(&odd.text) {
                self.odd.push(odd);
            }
        }
    }

    /// Whether an odd text is to be kept: another one is, and it is not there yet.
    fn has_room_for(&self, text: &str) -> bool {
        self.odd.len() < MOST_ODD && self.odd.iter().all(|known| known.text != text)
    }
}

/// How many texts are of each of some kinds, and the first of each.
type Counted<'c> = (&'c mut Vec<u64>, &'c mut Vec<Option<FirstRow>>);

/// Adds the counts of the part that comes next, and empties them.
pub(super) fn merge((texts, first): Counted<'_>, (part_texts, part_first): Counted<'_>) {
    let length = texts.len().max(part_texts.len());
    texts.resize(length, 0);
    first.resize(length, None);
    texts.iter_mut().zip(part_texts).for_each(|(ours, theirs)| *ours += take(theirs));
    first
        .iter_mut()
        .zip(part_first)
        .for_each(|(ours, theirs)| *ours = ours.take().or(theirs.take()));
}

impl Layouts {
    /// Takes the counts of all texts in place of those of the sample; layouts that no text has but
    /// those of others are left out.
    pub fn counted(&mut self, counts: &LayoutCounts) {
        for ((layout, texts), first) in
            self.layouts.iter_mut().zip(&counts.texts).zip(&counts.first)
        {
            layout.texts = *texts;
            if let Some(first) = first {
                layout.first = first.clone();
            }
        }
        self.layouts.retain(|layout| layout.texts > 0);
        self.of = counts.texts.iter().sum::<u64>() + counts.odd_texts;
        self.odd_texts = counts.odd_texts;
        self.odd = counts.odd.clone();
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const PATTERNS: [&str; 11] = [
        "[d4]",
        "[d+]",
        "[n]",
        "[n] kg",
        "[w] [n]",
        "[w+]",
        "Lot [x]-[d1..3]",
        "[*] kg",
        "é[d]",
        "[U2]-[d1..3]",
        "[L1..70][d+]",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]
        /// All layouts together name the one that is found by asking one after the other.
        #[test]
        fn the_first_layout_is_found(
            order in Just(PATTERNS.to_vec()).prop_shuffle(),
            ignoring_case: bool,
            text in "([a-bA]{1,2}|[0-9]{1,4}|[ .,-]|kg| kg|é|1,234|Lot |AB-){0,5}",
        ) {
            let patterns = order.iter().map(|pattern| (*pattern, ignoring_case));
            let layouts = Layouts::of_patterns(patterns);
            prop_assert_eq!(LayoutCounts::of(&layouts).place(&text), layouts.place(&text));
        }
    }
}
