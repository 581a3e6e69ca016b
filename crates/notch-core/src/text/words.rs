//! The words of a text, and its runs of one kind of character.

use super::kind::{Kind, is_letter, is_word};
use super::{Span, characters};

/// The words of a text: runs of letters, digits and `_`; an apostrophe or hyphen inside one stays.
pub(crate) fn words(text: &str) -> impl Iterator<Item = Span> + '_ {
    let is_part = |character: &str| character.chars().next().is_some_and(is_word);
    let joins = |character: &str| matches!(character, "'" | "’" | "-" | "‐" | "‑");
    let mut from = 0;
    // Of ASCII every byte is a character, and told five times as fast.
    let is_ascii = text.is_ascii();
    std::iter::from_fn(move || {
        if is_ascii {
            return next_of_ascii(text.as_bytes(), &mut from);
        }
        let rest = &text[from..];
        let mut characters = characters::with_places(rest)
            .skip_while(|(_, character)| !is_part(character))
            .peekable();
        let start = characters.peek()?.0;
        let mut end = start;
        while let Some((at, character)) = characters.next() {
            let inside =
                joins(character) && characters.peek().is_some_and(|(_, next)| is_part(next));
            if !is_part(character) && !inside {
                break;
            }
            end = at + character.len();
        }
        let word = from + start..from + end;
        from = word.end;
        Some(word)
    })
}

/// The next word of a text of ASCII; `from` is then where it ends.
fn next_of_ascii(text: &[u8], from: &mut usize) -> Option<Span> {
    let is_part = |byte: &u8| byte.is_ascii_alphanumeric() || *byte == b'_';
    let start = *from + text[*from..].iter().position(is_part)?;
    let mut end = start + 1;
    while let Some(byte) = text.get(end) {
        let joins = matches!(byte, b'\'' | b'-') && text.get(end + 1).is_some_and(is_part);
        if !joins && !is_part(byte) {
            break;
        }
        end += 1;
    }
    *from = end;
    Some(start..end)
}

/// The runs of one kind of character.
pub(crate) fn blocks(text: &str, kind: Kind) -> impl Iterator<Item = Span> + '_ {
    let mut from = 0;
    // Bytes of ASCII are characters of their own, and told four times as fast.
    let is_ascii = text.is_ascii() && matches!(kind, Kind::Digit | Kind::Letter);
    let is_of = move |byte: &u8| {
        if kind == Kind::Digit { byte.is_ascii_digit() } else { byte.is_ascii_alphabetic() }
    };
    std::iter::from_fn(move || {
        let rest = &text[from..];
        if is_ascii {
            let start = from + rest.bytes().position(|byte| is_of(&byte))?;
            from = text.as_bytes()[start..]
                .iter()
                .position(|byte| !is_of(byte))
                .map_or(text.len(), |length| start + length);
            return Some(start..from);
        }
        let start = characters::with_places(rest).find(|(_, character)| kind.holds(character))?.0;
        let end = characters::with_places(&rest[start..])
            .find(|(_, character)| !kind.holds(character))
            .map_or(rest.len(), |(at, _)| start + at);
        let block = from + start..from + end;
        from = block.end;
        Some(block)
    })
}

/// Whether a text is one letter or more and nothing else.
pub(crate) fn is_letters(text: &str) -> bool {
    // Where every letter is a byte, no characters are looked for: a fifth of the instructions.
    if text.is_ascii() {
        return !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_alphabetic());
    }
    characters::each(text).all(|character| character.chars().next().is_some_and(is_letter))
}
