//! Candidates: the cuts that may have made a piece of a cell, put together from what the words
//! guess. None of them is believed before it has been run.

use std::collections::BTreeMap;

use crate::language::{Guess, Guessed, Guesses, nearest, words};
use crate::text::{Span, characters, is_word};

/// A cut that may be meant, and how much it says.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Candidate {
    pub cost: u32,
    pub steps: Vec<String>,
}

impl Candidate {
    /// As it is written.
    pub(super) fn cut(&self) -> String {
        self.steps.join(" | ")
    }
}

/// What one more step says.
pub(super) const BAR: u32 = 8;
/// The largest number of candidates of an example that are tried, the cheapest.
const MOST: usize = 600;
/// Texts of more sections are looked at in shorter runs of these.
const MANY_SECTIONS: usize = 26;
/// Frames and spans that are tried at most.
const MOST_SPANS: usize = 260;
/// A step that says more than this is no frame for another.
const DEAR: u32 = 66;
/// Longer cells, in bytes, are looked at around the piece only.
pub(super) const LONGEST: usize = 2000;

/// What is collected of one example.
struct Search<'s> {
    cell: &'s str,
    found: BTreeMap<Vec<String>, u32>,
}

/// The candidates of an example that are no templates, the cheapest first.
pub(super) fn candidates(cell: &str, piece: &str) -> Vec<Candidate> {
    let mut search = Search { cell, found: BTreeMap::new() };
    search.targets(piece);
    search.finish(MOST)
}

/// The cheapest ways to take the text at a place of a cell: by one step, or first a wider piece
/// and then a piece of that.
pub(super) fn ways_to(cell: &str, place: &Span, most: usize) -> Vec<Candidate> {
    let takes = |text: &str, place: Span| {
        let mut found = Guesses::at(text, place);
        all(&mut found, |guess| matches!(guess, Guess::Takes(_)));
        in_order(found)
    };
    let mut ways: Vec<Candidate> = takes(cell, place.clone())
        .into_iter()
        .map(|one| Candidate { cost: one.cost, steps: vec![one.step] })
        .collect();
    for frame in frames(cell) {
        let is_wider = frame.start <= place.start && place.end <= frame.end && frame != *place;
        if !is_wider {
            continue;
        }
        let inside = place.start - frame.start..place.end - frame.start;
        let first = takes(cell, frame.clone()).into_iter().find(|first| first.cost < DEAR);
        let then = takes(&cell[frame], inside).into_iter().next();
        if let (Some(first), Some(then)) = (first, then) {
            let cost = first.cost + then.cost + BAR;
            ways.push(Candidate { cost, steps: vec![first.step, then.step] });
        }
    }
    ways.sort();
    ways.truncate(most);
    ways
}

/// The cheapest steps that make a piece of a text, which is another.
pub(super) fn made_of(text: &str, piece: &str) -> Option<Guessed> {
    let finished = guesses(text, piece, |guess| !matches!(guess, Guess::None));
    let mut made = makes(text, piece);
    made.extend(finished.into_iter().filter(|guessed| guessed.of.as_deref() == Some(text)));
    made.into_iter().min_by_key(|guessed| guessed.cost)
}

/// What the words of a kind guess, the cheapest first.
fn guesses(text: &str, piece: &str, wanted: impl Fn(&Guess) -> bool) -> Vec<Guessed> {
    let mut found = Guesses::new(text, piece);
    all(&mut found, wanted);
    in_order(found)
}

/// Asks the words of a kind.
fn all(found: &mut Guesses<'_>, wanted: impl Fn(&Guess) -> bool) {
    for word in words().filter(|word| wanted(&word.guess)) {
        match word.guess {
            Guess::Takes(guess) | Guess::Makes(guess) | Guess::Finishes(guess) => guess(found),
            Guess::None => {}
        }
    }
}

fn in_order(found: Guesses<'_>) -> Vec<Guessed> {
    let mut found = found.found();
    found.sort_by(|a, b| a.cost.cmp(&b.cost).then_with(|| a.step.cmp(&b.step)));
    found
}

fn takes(text: &str, piece: &str) -> Vec<Guessed> {
    guesses(text, piece, |guess| matches!(guess, Guess::Takes(_)))
}

fn makes(text: &str, piece: &str) -> Vec<Guessed> {
    let mut made = guesses(text, piece, |guess| matches!(guess, Guess::Makes(_)));
    made.retain(|guessed| guessed.of.is_none());
    made
}

impl Search<'_> {
    /// The candidates, the cheapest first.
    fn finish(self, most: usize) -> Vec<Candidate> {
        let candidate = |(steps, cost)| Candidate { cost, steps };
        let mut candidates: Vec<Candidate> = self.found.into_iter().map(candidate).collect();
        candidates.sort();
        candidates.truncate(most);
        candidates
    }

    /// The piece, and what it may be made of by a last step.
    fn targets(&mut self, piece: &str) {
        self.target(piece, "", 0);
        let last = guesses(self.cell, piece, |guess| !matches!(guess, Guess::None));
        for Guessed { step, cost, of } in last {
            if let Some(of) = of {
                self.target(&of, &step, cost + BAR);
            }
        }
    }

    fn add(&mut self, cost: u32, steps: &[&str]) {
        let filled = steps.iter().filter(|step| !step.is_empty());
        let steps: Vec<String> = filled.map(|step| (*step).to_owned()).collect();
        let cost = cost + BAR * (steps.len() as u32).saturating_sub(1);
        let known = self.found.entry(steps).or_insert(cost);
        *known = cost.min(*known);
    }

    /// Steps that make `target` of the cell, and `tail` after them.
    fn target(&mut self, target: &str, tail: &str, cost: u32) {
        let cell = self.cell;
        if target == cell && !tail.is_empty() {
            self.add(cost, &[tail]);
        }
        for one in takes(cell, target).into_iter().chain(makes(cell, target)) {
            self.add(cost + one.cost, &[&one.step, tail]);
        }
        // First a piece of the cell, then what is made of it.
        for span in spans(cell) {
            let source = &cell[span.clone()];
            let made = makes(source, target);
            if made.is_empty() {
                continue;
            }
            for take in takes(cell, source).into_iter().take(4) {
                for make in made.iter().take(4) {
                    self.add(cost + take.cost + make.cost, &[&take.step, &make.step, tail]);
                }
            }
        }
        // First a wider piece, then a piece of that.
        for frame in frames(cell) {
            let inside = &cell[frame.clone()];
            if inside == target || !inside.contains(target) {
                continue;
            }
            let then = takes(inside, target);
            let outer = takes(cell, inside);
            for first in outer.iter().filter(|first| first.cost < DEAR).take(3) {
                for second in then.iter().filter(|second| second.cost < DEAR).take(5) {
                    self.add(cost + first.cost + second.cost, &[&first.step, &second.step, tail]);
                }
            }
        }
    }
}

/// What kind a character is of: sections begin and end where it changes.
pub(super) fn kind_of(c: char) -> u8 {
    match c {
        c if c.is_ascii_digit() => 0,
        c if c.is_alphabetic() => 1,
        c if c.is_whitespace() => 2,
        _ => 3,
    }
}

/// Where sections of a text begin and end.
pub(super) fn edges(text: &str) -> Vec<usize> {
    let mut edges = vec![0];
    let mut before = None;
    for (at, c) in text.char_indices() {
        let is_one = before.is_some_and(|before| kind_of(before) == kind_of(c) && kind_of(c) < 2);
        if at > 0 && !is_one && characters::is_notch(text, at) {
            edges.push(at);
        }
        before = Some(c);
    }
    edges.push(text.len());
    edges
}

/// Runs of sections of a text, but for all of it.
pub(super) fn spans(text: &str) -> Vec<Span> {
    let edges = edges(text);
    let longest = if edges.len() > MANY_SECTIONS { 5 } else { edges.len() };
    let mut spans: Vec<Span> = Vec::new();
    for (n, from) in edges.iter().enumerate() {
        for to in edges.iter().skip(n + 1).take(longest) {
            let inside = &text[*from..*to];
            if inside.len() < text.len() && inside.chars().any(is_word) && spans.len() < MOST_SPANS
            {
                spans.push(*from..*to);
            }
        }
    }
    spans
}

/// Wider pieces in which a piece may be looked for: from a section on, up to one, between brackets
/// and between signs.
fn frames(text: &str) -> Vec<Span> {
    let edges = edges(text);
    let mut frames: Vec<Span> = Vec::new();
    let mut add = |span: Span| {
        if span.len() < text.len()
            && span.len() > 1
            && !frames.contains(&span)
            && frames.len() < MOST_SPANS
        {
            frames.push(span);
        }
    };
    for edge in edges.iter().take(80) {
        add(*edge..text.len());
        add(0..*edge);
    }
    let mut signs: Vec<char> = text.chars().filter(|c| !is_word(*c)).collect();
    signs.sort_unstable();
    signs.dedup();
    for sign in signs.into_iter().take(12) {
        let mut from = 0;
        for part in text.split(sign).take(24) {
            add(from..from + part.len());
            from += part.len() + sign.len_utf8();
        }
    }
    let opening = ['(', '[', '{', '<', '"', '\''];
    let closing = [')', ']', '}', '>', '"', '\''];
    for (open, close) in opening.into_iter().zip(closing) {
        if let Some(from) = text.find(open).map(|at| at + 1)
            && let Some(length) = text[from..].find(close)
        {
            add(from..from + length);
        }
    }
    frames
}

/// The run of sections of a cell that is most like a piece.
pub(super) fn nearest_piece(cell: &str, piece: &str) -> Option<String> {
    let spans = spans(cell);
    nearest(piece, spans.into_iter().map(|span| &cell[span])).map(str::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A word that says how it is guessed is guessed from an example of its own.
    #[test]
    fn words_are_guessed_from_their_examples() {
        let mut missed = Vec::new();
        for word in words().filter(|word| !matches!(word.guess, Guess::None)) {
            let is_guessed = word.examples.iter().any(|example| {
                let found =
                    guesses(example.cell, example.gives, |guess| std::ptr::eq(guess, &word.guess));
                found.iter().any(|guessed| guessed.step == example.cut)
                    || found.iter().any(|guessed| {
                        let first = word.name.split(' ').next().unwrap_or_default();
                        guessed.step.starts_with(first)
                    })
            });
            if !is_guessed {
                missed.push(word.name);
            }
        }
        assert_eq!(missed, Vec::<&str>::new());
    }

    #[test]
    fn sections_begin_and_end_where_the_kind_changes() {
        let spans = |text: &'static str| -> Vec<&str> {
            spans(text).into_iter().map(|span| &text[span]).collect()
        };
        assert_eq!(spans("GR-26"), ["GR", "GR-", "-26", "26"]);
        assert_eq!(edges("a  12"), [0, 1, 2, 3, 5]);
        assert_eq!(nearest_piece("GR-2026-TIL", "2062").as_deref(), Some("2026"));
    }
}
