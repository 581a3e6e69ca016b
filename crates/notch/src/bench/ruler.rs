//! Marking a piece: a ruler over the text of a row with two notches, begin and end.

use std::ops::Range;

use keen_notch_core::characters;

use super::field::{Edit, Field};

/// What the keys move.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Hand {
    Begin,
    End,
    Piece,
}

/// What learning has answered.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Answer {
    /// The cuts that give all marked pieces, the best first.
    pub cuts: Vec<AnsweredCut>,
    /// What is said below them, or why there are none.
    pub said: String,
    /// The row in which they part.
    pub next_row: Option<u64>,
}

/// A cut that was learnt.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AnsweredCut {
    /// How many rows it suits, as it is shown.
    pub share: String,
    /// The cut, without a name.
    pub cut: String,
    /// The shapes of its pieces.
    pub shapes: String,
}

/// A ruler over the text of a row.
#[derive(Debug, Clone)]
pub struct Ruler {
    /// The number of the row, and the line it begins in.
    pub row: u64,
    pub line: u64,
    pub text: String,
    /// The two notches, in characters from 0: the piece is `begin..end`.
    pub begin: usize,
    pub end: usize,
    pub hand: Hand,
    /// What should come out.
    pub piece: Field,
    /// It was typed, and is not what stands between the notches.
    pub is_typed: bool,
    /// Learning has been asked and has not answered.
    pub is_asked: bool,
    pub answer: Option<Answer>,
    /// The cut of the answer that is chosen.
    pub chosen: usize,
}

impl Ruler {
    /// A ruler over a text; the notches stand around what the cut takes of it, else around the
    /// first run of letters or digits.
    pub fn over(row: u64, line: u64, text: String, taken: Option<Range<usize>>) -> Self {
        let each: Vec<&str> = characters::each(&text).collect();
        let place = |byte: usize| {
            let mut at = 0;
            each.iter()
                .take_while(|character| {
                    let is_before = at < byte;
                    at += character.len();
                    is_before
                })
                .count()
        };
        let runs = runs(&each);
        let first = runs.iter().find(|run| is_word(each[run.start])).cloned();
        let span = match taken.filter(|taken| !taken.is_empty()) {
            Some(taken) => place(taken.start)..place(taken.end),
            None => first.unwrap_or(0..each.len().min(1)),
        };
        let mut ruler = Self {
            row,
            line,
            begin: span.start,
            end: span.end.max(span.start + 1).min(each.len().max(1)),
            hand: Hand::Begin,
            piece: Field::default(),
            is_typed: false,
            is_asked: false,
            answer: None,
            chosen: 0,
            text: text.clone(),
        };
        ruler.take_between();
        ruler
    }

    /// The text between the notches.
    pub fn between(&self) -> String {
        characters::each(&self.text).skip(self.begin).take(self.end - self.begin).collect()
    }

    fn take_between(&mut self) {
        if !self.is_typed {
            self.piece = Field::of(self.between());
        }
    }

    /// Whether letters go into the field of the piece.
    pub fn is_typing(&self) -> bool {
        self.hand == Hand::Piece && self.answer.is_none()
    }

    /// Moves the chosen notch.
    pub fn shift(&mut self, edit: Edit) {
        let each: Vec<&str> = characters::each(&self.text).collect();
        let bounds: Vec<usize> =
            std::iter::once(0).chain(runs(&each).iter().map(|run| run.end)).collect();
        let (least, most) = match self.hand {
            Hand::Begin => (0, self.end.saturating_sub(1)),
            Hand::End => (self.begin + 1, each.len()),
            Hand::Piece => {
                self.is_typed |= self.piece.edit(edit);
                return;
            }
        };
        let at = if self.hand == Hand::Begin { self.begin } else { self.end };
        let to = match edit {
            Edit::Left => at.saturating_sub(1),
            Edit::Right => at + 1,
            Edit::WordLeft => bounds.iter().rfind(|bound| **bound < at).copied().unwrap_or(0),
            Edit::WordRight => {
                bounds.iter().find(|bound| **bound > at).copied().unwrap_or(each.len())
            }
            Edit::Home => least,
            Edit::End => most,
            _ => at,
        };
        self.set(self.hand, to.clamp(least.min(most), most));
    }

    /// Sets a notch; the two keep a character between them.
    pub fn set(&mut self, hand: Hand, to: usize) {
        let length = characters::count(&self.text);
        match hand {
            Hand::Begin => self.begin = to.min(self.end.saturating_sub(1)),
            Hand::End => self.end = to.max(self.begin + 1).min(length.max(1)),
            Hand::Piece => {}
        }
        (self.is_typed, self.answer) = (false, None);
        self.take_between();
    }

    /// Types into the field of the piece.
    pub fn type_piece(&mut self, typed: &str) {
        if self.hand != Hand::Piece {
            (self.hand, self.piece) = (Hand::Piece, Field::default());
        }
        self.piece.insert(typed);
        (self.is_typed, self.answer) = (true, None);
    }

    /// Empties the piece: a blank on purpose.
    pub fn empty_piece(&mut self) {
        self.piece = Field::default();
        (self.is_typed, self.answer) = (true, None);
    }

    /// Chooses what Tab comes to next.
    pub fn next_hand(&mut self, back: bool) {
        self.hand = match (self.hand, back) {
            (Hand::Begin, false) | (Hand::Piece, true) => Hand::End,
            (Hand::End, false) | (Hand::Begin, true) => Hand::Piece,
            (Hand::Piece, false) | (Hand::End, true) => Hand::Begin,
        };
    }
}

fn is_word(character: &str) -> bool {
    character.chars().all(char::is_alphanumeric)
}

/// The runs of a text: letters, digits, and every other character alone.
fn runs(each: &[&str]) -> Vec<Range<usize>> {
    let kind = |character: &str| match character.chars().next() {
        Some(c) if c.is_alphabetic() => 1,
        Some(c) if c.is_numeric() => 2,
        Some(c) if c.is_whitespace() => 3,
        _ => 0,
    };
    let mut runs: Vec<Range<usize>> = Vec::new();
    for (n, character) in each.iter().enumerate() {
        match runs.last_mut() {
            Some(run) if kind(character) != 0 && kind(each[run.start]) == kind(character) => {
                run.end = n + 1;
            }
            _ => runs.push(n..n + 1),
        }
    }
    runs
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn notches_move_by_characters_and_runs_and_never_meet() {
        use Edit::*;
        let text = "GR-2026-TIL-43546-7";
        for (hand, edits, between) in [
            (Hand::Begin, &[][..], "GR"),
            (Hand::Begin, &[Right, Right, Right], "R"),
            (Hand::End, &[Right, Right, Left], "GR-"),
            (Hand::End, &[WordRight, WordRight], "GR-2026"),
            (Hand::End, &[End], text),
            (Hand::End, &[Home], "G"),
            (Hand::Begin, &[WordRight], "R"),
        ] {
            let mut ruler = Ruler::over(1, 2, text.to_owned(), None);
            ruler.hand = hand;
            edits.iter().for_each(|edit| ruler.shift(*edit));
            assert_eq!(ruler.between(), between, "{hand:?} {edits:?}");
            assert_eq!(ruler.piece.text(), between);
        }
        let mut ruler = Ruler::over(1, 2, text.to_owned(), Some(12..17));
        assert_eq!((ruler.begin, ruler.end, ruler.between().as_str()), (12, 17, "43546"));
        ruler.type_piece("000");
        ruler.type_piece("43546");
        assert_eq!((ruler.piece.text(), ruler.is_typed), ("00043546", true));
        ruler.set(Hand::End, 16);
        assert_eq!((ruler.piece.text(), ruler.is_typed), ("4354", false));
        ruler.empty_piece();
        assert_eq!((ruler.piece.text(), ruler.is_typed), ("", true));
        assert_eq!(Ruler::over(1, 2, String::new(), None).between(), "");
    }
}
