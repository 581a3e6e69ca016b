//! A sample of the texts of a column, spread evenly over its rows.

use std::borrow::Borrow;

use super::Layouts;
use crate::hash;

/// How many texts a sample has at most; a column of no more is in it whole.
pub(crate) const SAMPLE: usize = 4096;
/// Longer texts, in bytes, are not sampled: they are prose.
const LONGEST: usize = 600;

/// A text of a sample.
#[derive(Debug, Clone)]
pub(crate) struct Sampled {
    hash: u64,
    /// The number of its row, from 1.
    pub row: u64,
    /// The line it begins in, from 1.
    pub line: u64,
    pub text: Box<str>,
}

/// The texts of the rows whose hashes are least. Which rows these are depends on nothing but how
/// many there are, so a sample is the same for any number of workers and size of block.
#[derive(Debug, Clone)]
pub struct TextSample {
    texts: Vec<Sampled>,
    /// How many texts it has at most.
    most: usize,
}

impl Default for TextSample {
    fn default() -> Self {
        Self::of(SAMPLE)
    }
}

impl TextSample {
    /// An empty sample that will have that many texts at most.
    pub fn of(most: usize) -> Self {
        Self { texts: Vec::new(), most }
    }

    /// Takes the text of a row, which is not blank.
    #[inline]
    pub fn add(&mut self, text: &str, row: u64, line: u64) {
        // A row that is not among the least of its predecessors will not be among those of all;
        // twice as many as needed are taken, for hashes are spread evenly on average only.
        let most = 2 * self.most as u64;
        let hash = hash::of_row(row);
        // The place of the hash among that many of even distance.
        let rank = ((u128::from(hash) * u128::from(row)) >> u64::BITS) as u64;
        if rank <= most && text.len() <= LONGEST {
            self.push(Sampled { hash, row, line, text: text.into() });
        }
    }

    #[inline(never)]
    fn push(&mut self, text: Sampled) {
        self.texts.push(text);
        if self.texts.len() > 2 * self.most {
            keep_least(&mut self.texts, self.most);
        }
    }

    /// Takes the sample of the part that comes next, and empties it.
    pub fn merge(&mut self, part: &mut TextSample) {
        self.texts.append(&mut part.texts);
        if self.texts.len() > 2 * self.most {
            keep_least(&mut self.texts, self.most);
        }
    }

    /// The layouts of the sample.
    pub fn layouts(&self) -> Layouts {
        Layouts::of(&self.texts(SAMPLE))
    }

    /// At most that many texts of the sample, in the order of their rows.
    pub(crate) fn texts(&self, most: usize) -> Vec<Sampled> {
        let mut texts: Vec<&Sampled> = self.texts.iter().collect();
        keep_least(&mut texts, most);
        texts.sort_unstable_by_key(|text| text.row);
        texts.into_iter().cloned().collect()
    }
}

/// Keeps that many of some texts: those whose hashes are least.
fn keep_least<T: Borrow<Sampled>>(texts: &mut Vec<T>, most: usize) {
    if texts.len() > most {
        texts.select_nth_unstable_by_key(most, |text| text.borrow().hash);
        texts.truncate(most);
    }
}
