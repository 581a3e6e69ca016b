//! A text as a person reads it: words, numbers, chunks of letters and digits, signs.

use std::ops::Range;

use crate::shape::ends::{joins_digits, joins_letters, letters_length, mixed_length};
use crate::text::characters;

/// What a token is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Class {
    Word,
    Number,
    /// Letters and digits side by side.
    Mixed,
    /// One character that is none of these.
    Sign,
}

/// A piece of a text: its class, and its place, in bytes.
#[derive(Debug, Clone)]
pub(super) struct Token {
    pub class: Class,
    pub span: Range<usize>,
}

/// Texts of more tokens have no layout.
const MOST: usize = 120;

/// The tokens of a text; `None` when there are too many.
pub(super) fn tokens(text: &str) -> Option<Vec<Token>> {
    let mut tokens = Vec::with_capacity(16);
    let mut at = 0;
    while at < text.len() {
        let (class, end) = token(text, at);
        tokens.push(Token { class, span: at..end });
        if tokens.len() > MOST {
            return None;
        }
        at = end;
    }
    Some(tokens)
}

/// What begins at a byte, and where it ends.
fn token(text: &str, at: usize) -> (Class, usize) {
    let rest = &text[at..];
    let chunk = mixed_length(rest);
    let letters = letters_length(rest);
    let digits = digits_length(rest);
    match chunk {
        _ if letters > 0 && letters == chunk => (Class::Word, at + word_length(text, at)),
        _ if digits > 0 && digits == chunk => (Class::Number, number_end(text, at + digits)),
        1.. if letters > 0 || digits > 0 => (Class::Mixed, at + chunk),
        _ => {
            let sign = characters::each(rest).next().unwrap_or(rest);
            let after = at + sign.len();
            let first = digits_length(&text[after..]);
            // A sign where a number may begin belongs to it.
            let may_begin = text[..at]
                .chars()
                .next_back()
                .is_none_or(|c| c.is_whitespace() || matches!(c, '(' | '[' | '=' | ':'));
            let is_number = matches!(sign, "-" | "+" | "−")
                && may_begin
                && first > 0
                && first == mixed_length(&text[after..]);
            match is_number {
                true => (Class::Number, number_end(text, after + first)),
                false => (Class::Sign, after),
            }
        }
    }
}

fn digits_length(text: &str) -> usize {
    text.bytes().take_while(u8::is_ascii_digit).count()
}

/// How many bytes the word has that begins at a byte. A hyphen between two capitals divides a code,
/// `GR-TIL-2026`, unless nothing but letters stands between blanks, `ANNA-LENA`.
fn word_length(text: &str, at: usize) -> usize {
    let rest = &text[at..];
    let mut length = letters_length(rest);
    loop {
        let mut after = rest[length..].chars();
        let Some(joint) = after.next().filter(|c| joins_letters(*c)) else { return length };
        let next = after.as_str();
        let more = letters_length(next);
        let is_capital = joint == '-'
            && !rest[..length].chars().next_back().is_some_and(char::is_lowercase)
            && !next.chars().next().is_some_and(char::is_lowercase);
        if more == 0 || more != mixed_length(next) || is_capital && !is_of_letters(text, at) {
            return length;
        }
        length += joint.len_utf8() + more;
    }
}

/// Whether nothing but letters and what joins them stands between the blanks around a byte.
fn is_of_letters(text: &str, at: usize) -> bool {
    let end = text[at..].find(char::is_whitespace).map_or(text.len(), |end| at + end);
    let start = text[..at].rfind(char::is_whitespace).map_or(0, |start| start + 1);
    text.get(start..end)
        .is_some_and(|piece| piece.chars().all(|c| c.is_alphabetic() || joins_letters(c)))
}

/// Where a number ends whose first digits end at a byte.
fn number_end(text: &str, mut at: usize) -> usize {
    while let Some(joint) = text[at..].chars().next().filter(|c| joins_digits(*c)) {
        let after = &text[at + joint.len_utf8()..];
        let more = digits_length(after);
        if more == 0 || more != mixed_length(after) {
            break;
        }
        at += joint.len_utf8() + more;
    }
    at
}

/// Writes a word in lower case in place of what a buffer holds.
pub(super) fn write_in_lower_case(word: &str, lower: &mut String) {
    lower.clear();
    if word.is_ascii() {
        lower.push_str(word);
        lower.make_ascii_lowercase();
    } else {
        lower.push_str(&word.to_lowercase());
    }
}

/// The kind of a character of a chunk.
pub(super) fn kind(c: char) -> char {
    match c {
        'A'..='Z' => 'U',
        'a'..='z' => 'l',
        '0'..='9' => 'd',
        _ => 'c',
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_are_read_as_a_person_reads_them() {
        for (text, wanted) in [
            ("GR-2026-TIL-43546-7", "w:GR -:- n:2026 -:- w:TIL -:- n:43546 -:- n:7"),
            ("GR-TIL-5", "w:GR -:- w:TIL -:- n:5"),
            ("ANNA-LENA 5", "w:ANNA-LENA -:  n:5"),
            ("Anna-Lena O’Larkin", "w:Anna-Lena -:  w:O’Larkin"),
            ("-5.20 €", "n:-5.20 -:  -:€"),
            ("1.234,50, 12kg", "n:1.234,50 -:, -:  x:12kg"),
            ("A320_B", "x:A320 -:_ w:B"),
            ("12-34", "n:12 -:- n:34"),
            ("e\u{301}a", "w:e\u{301}a"),
        ] {
            let read: Vec<String> = tokens(text)
                .unwrap()
                .iter()
                .map(|token| {
                    let class = match token.class {
                        Class::Word => 'w',
                        Class::Number => 'n',
                        Class::Mixed => 'x',
                        Class::Sign => '-',
                    };
                    format!("{class}:{}", &text[token.span.clone()])
                })
                .collect();
            assert_eq!(read.join(" "), wanted, "{text:?}");
        }
    }
}
