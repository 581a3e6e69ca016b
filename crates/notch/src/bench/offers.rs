//! What may stand next in the cut line: the words of the language, columns, lists, cuts above.

use std::ops::Range;

use keen_notch_core::{Next, Slot, has_names, in_braces, what_follows};

use super::cuts::{Fault, Verdict};

/// Something that can be put into the cut line.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Offer {
    /// What is put there, without the blank after it.
    pub text: String,
    /// A whole cut.
    pub is_cut: bool,
}

/// What is offered at the cursor.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Offers {
    /// What the text taken is put in the place of, in bytes of the line.
    pub place: Range<usize>,
    /// What is offered, in the order of the table of words.
    pub offers: Vec<Offer>,
    /// What may stand there and is no fixed word: `COUNT`.
    pub slots: Vec<&'static str>,
    /// The one that Tab takes.
    pub marked: Option<usize>,
}

/// What offers are made of beside the language.
pub struct Known<'k> {
    /// The columns of the table, and then the cuts above.
    pub columns: Vec<&'k str>,
    /// The lists of the jig.
    pub lists: Vec<&'k str>,
}

impl Offers {
    /// What is offered in a line with the cursor at that byte.
    pub fn at(text: &str, cursor: usize, verdict: &Verdict, known: &Known<'_>) -> Self {
        if let Verdict::Wrong(Fault { place, instead: Some(instead), .. }) = verdict {
            let offers = vec![Offer { text: instead.clone(), is_cut: false }];
            return Self { place: place.clone(), offers, slots: Vec::new(), marked: Some(0) };
        }
        let before = &text[..cursor];
        let open = before.rfind('{').filter(|at| !before[*at..].contains('}'));
        if let Some(open) =
            open.filter(|open| before[..*open].matches('"').count().is_multiple_of(2))
        {
            return Self::columns(before, open, text, known);
        }
        let (word, typed) = without_word(before);
        let start = word.len();
        let has_names = has_names(text) && before.contains('=') || has_names(before);
        let next = what_follows(word, has_names).unwrap_or_default();
        let mut offers: Vec<Offer> = next
            .words
            .iter()
            .filter(|word| word.starts_with(typed))
            .map(|word| Offer { text: word.clone(), is_cut: false })
            .collect();
        if next.slots.contains(&Slot::List) {
            let lists = known.lists.iter().filter(|list| list.starts_with(typed));
            offers.extend(lists.map(|list| Offer { text: (*list).to_owned(), is_cut: false }));
        }
        // The whole word itself first.
        offers.sort_by_key(|offer| offer.text != typed);
        // A whole word with more after it has nothing to be put.
        let is_done = text[cursor..].starts_with(' ')
            && offers.first().is_some_and(|offer| offer.text == typed);
        let marked = (!typed.is_empty() && !offers.is_empty() && !is_done).then_some(0);
        let slots = if typed.is_empty() { names_of(&next) } else { Vec::new() };
        Self { place: start..cursor, offers, slots, marked }
    }

    /// The columns that go on with what stands after an open brace.
    fn columns(before: &str, open: usize, text: &str, known: &Known<'_>) -> Self {
        let typed = &before[open + 1..];
        let columns = known.columns.iter().filter(|name| name.starts_with(typed));
        let mut names: Vec<&str> = columns.copied().collect();
        names.sort_by_key(|name| *name != typed);
        let offers: Vec<Offer> =
            names.into_iter().map(|name| Offer { text: in_braces(name), is_cut: false }).collect();
        let end = before.len() + usize::from(text[before.len()..].starts_with('}'));
        let marked = (!typed.is_empty() && !offers.is_empty()).then_some(0);
        Self { place: open..end, offers, slots: Vec::new(), marked }
    }

    /// Those of a line in which nothing stands: the cuts that a survey proposes, then how a cut
    /// begins.
    pub fn of_empty_line(proposals: &[String]) -> Self {
        let cuts = proposals.iter().map(|cut| Offer { text: cut.clone(), is_cut: true });
        let begins = what_follows("", false).unwrap_or_default().words.into_iter();
        let words = begins.map(|text| Offer { text, is_cut: false });
        Self { offers: cuts.chain(words).collect(), ..Self::default() }
    }

    /// What taking an offer puts into the line: a word gets a blank after it.
    pub fn taken(&self, n: usize, text: &str) -> Option<(Range<usize>, String)> {
        let offer = self.offers.get(n)?;
        let rest = &text[self.place.end..];
        let opens = matches!(offer.text.as_str(), "{" | "\"" | "(") || offer.text.starts_with('{');
        let blank = if offer.is_cut || opens || rest.starts_with(' ') { "" } else { " " };
        // Two words do not run into each other.
        let before = &text[..self.place.start];
        let is_word = |c: char| c.is_alphanumeric() || "\"'}/)".contains(c);
        let gap = if self.place.is_empty() && before.ends_with(is_word) { " " } else { "" };
        Some((self.place.clone(), format!("{gap}{}{blank}", offer.text)))
    }
}

/// The columns, by their places, whose names hold what was typed, in any case.
pub fn columns_like(columns: &[String], typed: &str) -> Vec<usize> {
    let typed = typed.to_lowercase();
    (0..columns.len()).filter(|n| columns[*n].to_lowercase().contains(&typed)).collect()
}

/// A text without the word at its end, and that word; figures are none.
fn without_word(text: &str) -> (&str, &str) {
    let before = text.trim_end_matches(|c: char| c.is_alphanumeric() || c == '_');
    let word = &text[before.len()..];
    let is_word = word.starts_with(|c: char| c.is_alphabetic() || c == '_');
    if is_word { (before, word) } else { (text, "") }
}

/// The names of what may stand next and is no fixed word.
fn names_of(next: &Next) -> Vec<&'static str> {
    next.slots.iter().map(|slot| slot.name()).collect()
}

/// What an unfinished text wants at its end.
pub fn wanted(text: &str) -> String {
    let (word, _) = without_word(text);
    let named = has_names(text);
    let next = match what_follows(text, named) {
        Some(next) if !next.words.is_empty() || !next.slots.is_empty() => next,
        _ => what_follows(word, named).unwrap_or_default(),
    };
    let slots = names_of(&next);
    match (slots.as_slice(), next.words.as_slice()) {
        // Every step may stand there: their list is long, and stands beside it.
        ([], words) if words.len() > MOST_WANTED => "a step".to_owned(),
        ([], []) => closing(text).to_owned(),
        ([], words) => words.join("   "),
        (slots, _) => slots.join("   "),
    }
}

/// The number of words that are told one by one.
const MOST_WANTED: usize = 8;

/// What closes a text that ends within quotes, braces or slashes.
fn closing(text: &str) -> &'static str {
    let mut open = None;
    let mut characters = text.chars();
    while let Some(c) = characters.next() {
        match (open, c) {
            (Some(_), '\\') => drop(characters.next()),
            (Some(quote), c) if c == quote => open = None,
            (None, '"' | '\'' | '/') => open = Some(c),
            (None, '{') => open = Some('}'),
            _ => {}
        }
    }
    match open {
        Some('"') => "a closing \"",
        Some('\'') => "a closing '",
        Some('/') => "a closing /",
        Some('}') => "a closing }",
        _ => "more",
    }
}
