//! How a word could have made a piece of a text: what learning from examples asks of each word.
//!
//! A word answers with steps, as they are written. They need not be right: each is run before it is
//! believed. What a step costs tells how little it says: of two that do the same the cheaper one is
//! what a colleague would rather read.

use crate::language::ordinal_suffix;
use crate::language::token::{ColumnRef, column_ref};
use crate::text::{Span, characters, is_word};

/// How a word is guessed.
pub(crate) enum Guess {
    /// Not at all.
    None,
    /// It keeps a piece of the text verbatim.
    Takes(fn(&mut Guesses<'_>)),
    /// It makes a new text of a text.
    Makes(fn(&mut Guesses<'_>)),
    /// The piece alone tells what it was made of: see [`Guesses::add_of`].
    Finishes(fn(&mut Guesses<'_>)),
}

/// A text, the piece that is to be made of it, and the steps that words have guessed.
pub(crate) struct Guesses<'g> {
    pub text: &'g str,
    pub piece: &'g str,
    /// The one place of the piece that is meant, where it is known.
    only: Option<Span>,
    found: Vec<Guessed>,
}

/// A step that could have made the piece.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Guessed {
    /// As it is written.
    pub step: String,
    /// How much it says: some 40 for a usual step.
    pub cost: u32,
    /// What it makes the piece of, where that is not the text.
    pub of: Option<String>,
}

/// A piece may stand in a text several times; the number of places that are looked at.
const PLACES: usize = 6;
/// The longest mark, in characters, that is guessed.
const LONGEST_MARK: usize = 24;

impl<'g> Guesses<'g> {
    pub(crate) fn new(text: &'g str, piece: &'g str) -> Self {
        Self { text, piece, only: None, found: Vec::new() }
    }

    /// For the piece that lies at this place of the text.
    pub(crate) fn at(text: &'g str, place: Span) -> Self {
        let piece = text.get(place.clone()).unwrap_or_default();
        Self { text, piece, only: Some(place), found: Vec::new() }
    }

    /// What was guessed.
    pub(crate) fn found(self) -> Vec<Guessed> {
        self.found
    }

    /// A step that may make the piece of the text.
    pub(crate) fn add(&mut self, cost: u32, step: impl Into<String>) {
        self.found.push(Guessed { step: step.into(), cost, of: None });
    }

    /// A step that makes the piece of another text.
    pub(crate) fn add_of(&mut self, cost: u32, step: impl Into<String>, of: impl Into<String>) {
        self.found.push(Guessed { step: step.into(), cost, of: Some(of.into()) });
    }

    /// Where the piece stands in the text, but for all of it.
    pub(crate) fn places(&self) -> Vec<Span> {
        if self.piece.is_empty() || self.piece.len() == self.text.len() {
            return Vec::new();
        }
        if let Some(only) = &self.only {
            return vec![only.clone()];
        }
        let is_whole = |at: &usize| {
            characters::is_notch(self.text, *at)
                && characters::is_notch(self.text, at + self.piece.len())
        };
        let text = self.text.as_bytes();
        memchr::memmem::find_iter(text, self.piece.as_bytes())
            .filter(is_whole)
            .take(PLACES)
            .map(|at| at..at + self.piece.len())
            .collect()
    }

    /// The marks that may end where a place begins, as they are written, each with how much it says
    /// and the text it stands for.
    pub(crate) fn marks_before(&self, at: usize) -> Vec<GuessedMark> {
        let before = &self.text[..at];
        let signs = before.trim_end_matches(is_word);
        let mut texts: Vec<&str> = Vec::new();
        if signs.len() == before.len() {
            // Signs stand before it: all of them, the last one, and with the word before them.
            let run = before.trim_end_matches(|c: char| !is_word(c)).len();
            texts.push(&before[run..]);
            texts.extend(characters::each(before).next_back());
            let word = before[..run].trim_end_matches(is_word).len();
            texts.push(&before[word..]);
        } else {
            texts.push(&before[signs.len()..]);
        }
        marks(texts)
    }

    /// The marks that may begin where a place ends.
    pub(crate) fn marks_after(&self, at: usize) -> Vec<GuessedMark> {
        let after = &self.text[at..];
        let mut texts: Vec<&str> = Vec::new();
        let run = after.len() - after.trim_start_matches(|c: char| !is_word(c)).len();
        if run > 0 {
            texts.push(&after[..run]);
            texts.extend(characters::each(after).next());
        } else {
            let word = after.len() - after.trim_start_matches(is_word).len();
            texts.push(&after[..word]);
        }
        marks(texts)
    }
}

/// A mark that is guessed.
pub(crate) struct GuessedMark {
    /// The text it stands for.
    pub text: String,
    /// As it is written, in quotes.
    pub written: String,
    pub cost: u32,
}

fn marks(texts: Vec<&str>) -> Vec<GuessedMark> {
    let mut marks: Vec<GuessedMark> = Vec::new();
    for text in texts {
        let length = characters::count(text);
        if length == 0
            || length > LONGEST_MARK
            || text.bytes().any(|b| b.is_ascii_digit())
            || marks.iter().any(|mark| mark.text == text)
        {
            continue;
        }
        let Some(written) = quoted(text) else { continue };
        let words = text.chars().filter(|c| is_word(*c)).count() as u32;
        // A bracket tells better than a blank where something ends.
        let is_bracket = text.contains(['(', '[', '{', ')', ']', '}']);
        let blanks = if text.trim().is_empty() { 3 } else { 0 };
        let cost = 4 + 3 * (length as u32 - 1) + 4 * words.min(4) + blanks;
        let cost = if is_bracket { cost.saturating_sub(4) } else { cost };
        marks.push(GuessedMark { text: text.to_owned(), written, cost });
    }
    marks
}

/// A text in quotes as the language writes it; `None` where that is not possible on one line.
pub(crate) fn quoted(text: &str) -> Option<String> {
    if text.chars().any(char::is_control) {
        return None;
    }
    let mut quoted = String::from("\"");
    for c in text.chars() {
        match c {
            '"' => quoted.push_str("\\\""),
            '\\' => quoted.push_str("\\\\"),
            // Blanks that look like another are spelled out.
            c if c.is_whitespace() && c != ' ' => {
                quoted.push_str(&format!("\\u{{{:X}}}", c as u32))
            }
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    Some(quoted)
}

/// A column as a cut names it: `{name}`, or `{"odd | name"}` where the name itself would be read as
/// something else.
pub fn in_braces(name: &str) -> String {
    let read = column_ref(name, 0..name.len());
    let is_plain = matches!(read, Ok(ColumnRef::Name(read)) if &*read == name)
        && !name.starts_with('\'')
        && !name.contains(['{', '}', '|', '"']);
    match quoted(name).filter(|_| !is_plain) {
        Some(quoted) => format!("{{{quoted}}}"),
        None => format!("{{{name}}}"),
    }
}

/// Which occurrence of a mark, as it is written before it: nothing for the first, `2nd `, `last `.
pub(crate) fn which(n: usize, of: usize) -> Vec<(String, u32)> {
    let said = |n: usize| format!("{n}{}", ordinal_suffix(n as i64));
    let mut ways = vec![match n {
        1 => (String::new(), 0),
        n => (format!("{} ", said(n)), 4 + 4 * n as u32),
    }];
    if of > 1 {
        ways.push(match of + 1 - n {
            1 => ("last ".to_owned(), 6),
            n => (format!("{} last ", said(n)), 8 + 4 * n as u32),
        });
    }
    ways
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::language::token::{TokenKind, tokens};

    #[test]
    fn a_column_in_braces_is_read_as_that_column() {
        for (name, written) in [
            ("lot", "{lot}"),
            ("lot no.", "{lot no.}"),
            ("année", "{année}"),
            ("", r#"{""}"#),
            (" lot", r#"{" lot"}"#),
            ("lot | bin", r#"{"lot | bin"}"#),
            ("a}b{c", r#"{"a}b{c"}"#),
            (r#"2" pots"#, r#"{"2\" pots"}"#),
            (r#"a\|b"#, r#"{"a\\|b"}"#),
            (r"a\b", r"{a\b}"),
            ("'lot'", r#"{"'lot'"}"#),
            ("column 3", r#"{"column 3"}"#),
            ("column 0", r#"{"column 0"}"#),
        ] {
            assert_eq!(in_braces(name), written);
            let read = tokens(written).unwrap().remove(0).kind;
            assert_eq!(read, TokenKind::Column(ColumnRef::Name(name.to_owned())), "{written}");
        }
    }
}
