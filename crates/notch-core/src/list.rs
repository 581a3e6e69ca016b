//! Lists that cuts may name: values, or keys with what they stand for.

use std::hash::BuildHasher;
use std::sync::Arc;

use hashbrown::{DefaultHashBuilder, HashTable};

use crate::text::{ShortTexts, folded};

/// A list of values, or of two columns: keys and what each stands for. All texts stand in one
/// piece, so that a list of millions is quickly made.
#[derive(Debug, Default)]
pub struct List {
    text: String,
    entries: HashTable<Entry>,
    hasher: DefaultHashBuilder,
    has_answers: bool,
}

/// Where a key and after it its answer stand in the text of their list.
#[derive(Debug, Clone, Copy)]
struct Entry {
    start: usize,
    key: usize,
    answer: usize,
}

impl Entry {
    fn key(self, text: &str) -> &str {
        &text[self.start..self.start + self.key]
    }

    fn answer(self, text: &str) -> &str {
        &text[self.start + self.key..self.start + self.key + self.answer]
    }
}

/// A key that stands twice in a two-column list with different answers.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TwoAnswers {
    /// The key.
    pub key: String,
    /// What it stands for at first.
    pub first: String,
    /// What it stands for later.
    pub second: String,
}

impl std::fmt::Display for TwoAnswers {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} stands for {} and for {}", self.key, self.first, self.second)
    }
}

impl List {
    /// A list of values; one that stands twice counts once.
    pub fn of_values(values: impl IntoIterator<Item = impl AsRef<str>>) -> Self {
        let mut list = Self::default();
        values.into_iter().for_each(|value| list.add_value(value.as_ref()));
        list
    }

    /// A list of keys and what they stand for.
    ///
    /// # Errors
    /// A key that stands twice with different answers.
    pub fn of_pairs(
        pairs: impl IntoIterator<Item = (impl AsRef<str>, impl AsRef<str>)>,
    ) -> Result<Self, TwoAnswers> {
        let mut list = Self { has_answers: true, ..Self::default() };
        pairs
            .into_iter()
            .try_for_each(|(key, answer)| list.add_pair(key.as_ref(), answer.as_ref()))?;
        Ok(list)
    }

    /// Adds a value.
    pub fn add_value(&mut self, value: &str) {
        // Values have no answers that could differ.
        let _ = self.add(value, "");
    }

    /// Adds a key and what it stands for.
    ///
    /// # Errors
    /// The key is there already and stands for something else.
    pub fn add_pair(&mut self, key: &str, answer: &str) -> Result<(), TwoAnswers> {
        self.has_answers = true;
        self.add(key, answer)
    }

    fn add(&mut self, key: &str, answer: &str) -> Result<(), TwoAnswers> {
        match self.find(key) {
            Some(known) if known.answer(&self.text) == answer => {}
            Some(known) => {
                let first = known.answer(&self.text).to_owned();
                return Err(TwoAnswers { key: key.to_owned(), first, second: answer.to_owned() });
            }
            None => {
                let entry = Entry { start: self.text.len(), key: key.len(), answer: answer.len() };
                self.text.push_str(key);
                self.text.push_str(answer);
                let (text, hasher) = (&self.text, &self.hasher);
                self.entries.insert_unique(hasher.hash_one(key), entry, |entry| {
                    hasher.hash_one(entry.key(text))
                });
            }
        }
        Ok(())
    }

    fn find(&self, key: &str) -> Option<Entry> {
        self.entries.find(self.hasher.hash_one(key), |entry| entry.key(&self.text) == key).copied()
    }

    /// How many different values or keys there are.
    pub fn len(&self) -> usize {
        self.entries.len()
    }

    /// Whether there is nothing in it.
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }

    /// Whether keys stand for something.
    pub fn has_answers(&self) -> bool {
        self.has_answers
    }

    /// The list asked ignoring case (Unicode simple folding).
    ///
    /// # Errors
    /// Two keys that differ in case only have different answers.
    pub(crate) fn ignoring_case(&self) -> Result<FoldedList, String> {
        let mut list = Self { has_answers: self.has_answers, ..Self::default() };
        for entry in &self.entries {
            list.add(&folded(entry.key(&self.text)), entry.answer(&self.text))
                .map_err(|two| format!("Ignoring case, {two}"))?;
        }
        Ok(FoldedList(list))
    }

    /// The values or keys that are short, in one piece; `None` where they are none or many.
    pub(crate) fn short_texts(&self) -> Option<ShortTexts> {
        ShortTexts::of(self.entries.iter().map(|entry| entry.key(&self.text)))
    }

    /// Whether a text is one of the values or keys.
    pub(crate) fn has(&self, text: &str) -> bool {
        self.find(text).is_some()
    }

    /// What a text stands for.
    pub(crate) fn answer(&self, text: &str) -> Option<&str> {
        self.find(text).map(|entry| entry.answer(&self.text))
    }
}

/// A list that does not tell upper from lower case.
pub(crate) struct FoldedList(List);

impl FoldedList {
    pub(crate) fn has(&self, text: &str) -> bool {
        self.0.has(&folded(text))
    }

    pub(crate) fn answer(&self, text: &str) -> Option<&str> {
        self.0.answer(&folded(text))
    }
}

/// Lists as the compiler of cuts is given them: by name, shared.
pub type Lists = std::collections::BTreeMap<String, Arc<List>>;
