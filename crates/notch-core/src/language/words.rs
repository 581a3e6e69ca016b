//! The table of words: every word of the language, described once.
//!
//! The entries stand beside the functions that do their work, in `words/`; this is what an
//! entry consists of and the table as a whole.

use std::sync::LazyLock;

use super::error::CutError;
use super::form::Form;
use super::guess::Guess;
use crate::program::Step;
use crate::program::Test;
use crate::text::{Separator, What};
use crate::words::{Args, WORDS};

/// What kind of word it is, and where in the documentation it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Group {
    /// Where a cut starts.
    Source,
    /// How chains of steps are put together.
    Joining,
    /// Steps that count characters.
    Position,
    /// Steps that look for a mark.
    Find,
    /// Steps that divide a text.
    Section,
    /// Steps that take numbers.
    Number,
    /// Steps that choose by kind of character.
    Kind,
    /// Steps that use a regular expression.
    Regex,
    /// Steps that work on lists.
    List,
    /// Steps that tidy the text without choosing a piece.
    Tidy,
    /// Checks.
    Check,
    /// Marks.
    Mark,
    /// Separators.
    Separator,
    /// Tests in conditions.
    Test,
}

impl Group {
    /// Every group, in the order of the documentation.
    pub const ALL: [Group; 14] = [
        Group::Source,
        Group::Joining,
        Group::Position,
        Group::Find,
        Group::Section,
        Group::Number,
        Group::Kind,
        Group::Regex,
        Group::List,
        Group::Tidy,
        Group::Check,
        Group::Mark,
        Group::Separator,
        Group::Test,
    ];

    /// Its heading in the documentation.
    pub fn title(self) -> &'static str {
        match self {
            Group::Source => "Where a cut starts",
            Group::Joining => "Putting chains together",
            Group::Position => "By position",
            Group::Find => "By a mark",
            Group::Section => "Sections between separators",
            Group::Number => "Numbers",
            Group::Kind => "By kind of character",
            Group::Regex => "Regular expressions",
            Group::List => "Lists",
            Group::Tidy => "Tidying, padding, changing",
            Group::Check => "Checks",
            Group::Mark => "Marks",
            Group::Separator => "Separators",
            Group::Test => "Conditions",
        }
    }

    /// Whether its words are steps.
    pub fn is_step(self) -> bool {
        !matches!(
            self,
            Group::Source | Group::Joining | Group::Mark | Group::Separator | Group::Test
        )
    }
}

/// An example: what a cut makes of a text.
#[derive(Debug, Clone, Copy)]
pub struct Example {
    /// The cell, of a column called `code`.
    pub cell: &'static str,
    /// Steps that start from it, or a whole cut with its names.
    pub cut: &'static str,
    /// The result as `evaluate_example` writes it.
    pub gives: &'static str,
}

/// One entry of the table of words.
pub struct Word {
    /// What it is called in the documentation: its fixed words up to the first slot.
    pub name: &'static str,
    /// What kind of word it is.
    pub group: Group,
    /// How it is written, in the notation of forms.
    pub form: &'static str,
    /// What it gives, in one line.
    pub meaning: &'static str,
    /// Examples with their results, each of which a test runs.
    pub examples: &'static [Example],
    pub(crate) guess: Guess,
    pub(crate) build: Build,
}

impl std::fmt::Debug for Word {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "Word({})", self.form)
    }
}

/// The function that makes a compiled thing of what stood in a word's slots.
pub(crate) enum Build {
    Step(fn(&mut Args<'_>) -> Result<Step, CutError>),
    Mark(fn(&mut Args<'_>) -> Result<What, CutError>),
    Separator(fn(&mut Args<'_>) -> Result<Separator, CutError>),
    Test(fn(&mut Args<'_>) -> Result<Test, CutError>),
    /// Read by the parser itself: it joins other things.
    Frame,
}

pub(crate) struct Entry {
    pub word: &'static Word,
    pub form: Form,
}

static TABLE: LazyLock<Vec<Entry>> = LazyLock::new(|| {
    WORDS
        .iter()
        .flat_map(|words| words.iter())
        .filter_map(|word| Some(Entry { word, form: Form::read(word.form).ok()? }))
        .collect()
});

/// The words with their forms read, in the order of the documentation.
pub(crate) fn entries(wanted: impl Fn(Group) -> bool) -> impl Iterator<Item = &'static Entry> {
    TABLE.iter().filter(move |entry| wanted(entry.word.group))
}

/// Every word of the language, grouped as in the documentation.
pub fn words() -> impl Iterator<Item = &'static Word> {
    Group::ALL.into_iter().flat_map(|group| {
        WORDS.iter().flat_map(|words| words.iter()).filter(move |word| word.group == group)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_form_can_be_read_and_begins_with_its_name() {
        for word in words().filter(|word| !matches!(word.build, Build::Frame)) {
            let form =
                Form::read(word.form).unwrap_or_else(|problem| panic!("{}: {problem}", word.name));
            let head = word.name.split(' ').next().unwrap_or_default();
            assert!(
                form.heads().is_empty() || form.heads().contains(&head),
                "{} is not the head of {}",
                word.name,
                word.form
            );
        }
    }
}
