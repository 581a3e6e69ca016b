//! Which texts of a column have which layout, counted in a pass over all of them.

use std::mem::take;

use super::Layouts;
use crate::first_row::FirstRow;

/// How many odd texts are kept.
const MOST_ODD: usize = 20;

/// How many texts have each layout, and those that have none. Parts are merged in the order of
/// their rows.
#[derive(Debug, Clone, Default)]
pub struct LayoutCounts {
    /// How many texts have each layout and none before it.
    pub texts: Vec<u64>,
    /// The first of each.
    pub first: Vec<Option<FirstRow>>,
    /// How many texts have no layout.
    pub odd_texts: u64,
    /// The first 20 of them.
    pub odd: Vec<FirstRow>,
}

impl LayoutCounts {
    /// Takes a text, which is not blank. Returns whether it has a layout.
    pub fn add(&mut self, layouts: &Layouts, text: &str, row: u64, line: u64) -> bool {
        self.texts.resize(layouts.layouts.len(), 0);
        self.first.resize(layouts.layouts.len(), None);
        let first = || FirstRow { row, line, text: text.to_owned() };
        match layouts.place(text) {
            Some(n) => {
                self.texts[n] += 1;
                self.first[n].get_or_insert_with(first);
                true
            }
            None => {
                self.odd_texts += 1;
                if self.odd.len() < MOST_ODD {
                    self.odd.push(first());
                }
                false
            }
        }
    }

    /// Adds the counts of the part that comes next, and empties it.
    pub fn merge(&mut self, part: &mut LayoutCounts) {
        merge((&mut self.texts, &mut self.first), (&mut part.texts, &mut part.first));
        self.odd_texts += take(&mut part.odd_texts);
        self.odd.append(&mut part.odd);
        self.odd.truncate(MOST_ODD);
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
