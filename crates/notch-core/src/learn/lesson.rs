//! Examples as they are typed: `CELL => PIECE`.

use crate::language::{CutError, quoted, string};
use crate::text::Span;

/// An example.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Lesson {
    /// The text of the cell.
    pub cell: String,
    /// What is to come out of it; empty where that is nothing, on purpose.
    pub piece: String,
    /// It was typed: every cut that is shown gives it exactly. One that was found in a table may be
    /// a mistake.
    pub binds: bool,
}

/// What stands between a cell and its piece.
const ARROW: &str = "=>";

/// Reads `CELL => PIECE`, or with several names `CELL => PIECE | PIECE`: the cell and its pieces.
///
/// # Errors
/// There is no `=>`, there are two, or a quote is left open; there are more or fewer pieces than
/// names.
pub fn read_lesson(text: &str, names: usize) -> Result<(String, Vec<String>), CutError> {
    let at = arrow(text)?;
    let right = at + ARROW.len()..text.len();
    let cell = side(text, 0..at)?;
    let pieces = match names {
        0 | 1 => vec![right],
        _ => divided(text, right),
    };
    if names > 1 && pieces.len() != names {
        let (have, bars) = (pieces.len(), "Divide them by bars: 'GR-2026 => GR | 2026'.");
        return Err(CutError::new(
            at..text.len(),
            match have {
                1 => format!("There is one piece for {names} names"),
                _ => format!("There are {have} pieces for {names} names"),
            },
        )
        .remedy(format!("{bars} A bar that is text stands in quotes.")));
    }
    let pieces = pieces.into_iter().map(|piece| side(text, piece));
    Ok((cell, pieces.collect::<Result<_, _>>()?))
}

/// Where the arrow stands that divides the cell from its piece.
fn arrow(text: &str) -> Result<usize, CutError> {
    let arrows: Vec<usize> = text.match_indices(ARROW).map(|(at, _)| at).collect();
    let how = "An example is 'CELL => PIECE', for instance 'GR-2026-TIL => 2026'.";
    let Some(first) = arrows.first().copied() else {
        return Err(CutError::new(0..text.len(), "There is no `=>` in this example").remedy(how));
    };
    // An arrow within a text in quotes is a part of it.
    let is_end = |at: &usize| !is_open(text[..*at].trim());
    let at = match open_quote(text) {
        true => arrows.iter().copied().find(is_end).unwrap_or(first),
        false => first,
    };
    let rest = &text[at + ARROW.len()..];
    if let Some(second) = rest.find(ARROW).filter(|_| !open_quote(rest)) {
        let second = at + ARROW.len() + second;
        return Err(CutError::new(
            second..second + ARROW.len(),
            "There are two `=>` in this example, so it is not clear what the cell is",
        )
        .remedy("Put the side that holds one in quotes: '\"a => b\" => a'."));
    }
    Ok(at)
}

fn open_quote(text: &str) -> bool {
    text.trim_start().starts_with(['"', '\''])
}

/// Whether a text begins with a quote that it does not end with.
fn is_open(text: &str) -> bool {
    let quote = text.chars().next().filter(|c| matches!(c, '"' | '\''));
    quote.is_some_and(|quote| {
        text.len() < 2 || !text.ends_with(quote) || is_escaped(text, text.len() - 1)
    })
}

/// Whether a quote at a place within a text in quotes belongs to it.
fn is_escaped(text: &str, at: usize) -> bool {
    text[..at].bytes().rev().take_while(|byte| *byte == b'\\').count() % 2 == 1
}

/// The places of pieces between bars, those in quotes whole.
fn divided(text: &str, within: Span) -> Vec<Span> {
    let mut pieces = Vec::new();
    let (mut from, mut quote) = (within.start, None);
    for (at, c) in text[within.clone()].char_indices() {
        let at = within.start + at;
        match (quote, c) {
            (None, '|') => {
                pieces.push(from..at);
                from = at + 1;
            }
            (None, '"' | '\'') if text[from..at].trim().is_empty() => quote = Some(c),
            (Some(open), c) if c == open && !is_escaped(text, at) => quote = None,
            _ => {}
        }
    }
    pieces.push(from..within.end);
    pieces
}

/// One side: a text in quotes is a string of the language, any other stands for itself.
fn side(text: &str, span: Span) -> Result<String, CutError> {
    let inside = &text[span.clone()];
    let trimmed = inside.trim();
    if !open_quote(trimmed) {
        return Ok(trimmed.to_owned());
    }
    let start = span.start + (inside.len() - inside.trim_start().len());
    if is_open(trimmed) {
        let quote = &trimmed[..1];
        return Err(CutError::new(start..start + 1, format!("The quote {quote} is left open"))
            .remedy(
                "Close it; a quote that belongs to the text is written within the other kind, or \
                as \\\".",
            ));
    }
    string(trimmed).map_err(|error| error.moved(start))
}

/// An example as it can be typed and read again.
pub fn write_lesson(cell: &str, pieces: &[String]) -> String {
    let several = pieces.len() > 1;
    let pieces: Vec<String> = pieces.iter().map(|piece| written(piece, several)).collect();
    format!("{} {ARROW} {}", written(cell, false), pieces.join(" | "))
}

fn written(text: &str, has_bars: bool) -> String {
    let needs_quotes = text.trim() != text
        || open_quote(text)
        || text.contains(ARROW)
        || has_bars && text.contains('|')
        || text.chars().any(char::is_control);
    if !needs_quotes {
        return text.to_owned();
    }
    quoted(text).unwrap_or_else(|| {
        let inside: String = text
            .chars()
            .map(|c| match c {
                '"' => "\\\"".to_owned(),
                '\\' => "\\\\".to_owned(),
                c if c.is_control() => format!("\\u{{{:X}}}", c as u32),
                c => c.to_string(),
            })
            .collect();
        format!("\"{inside}\"")
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn examples_are_read_as_they_are_meant() {
        for (text, names, wanted) in [
            ("GR-2026-TIL => 2026", 0, Ok(("GR-2026-TIL", vec!["2026"]))),
            ("GR=>G", 0, Ok(("GR", vec!["G"]))),
            ("bad => ", 0, Ok(("bad", vec![""]))),
            ("\" GR \" => GR", 0, Ok((" GR ", vec!["GR"]))),
            ("\"a => b\" => a", 0, Ok(("a => b", vec!["a"]))),
            ("a => \"x => y\"", 0, Ok(("a", vec!["x => y"]))),
            ("5\" pot => 5", 0, Ok(("5\" pot", vec!["5"]))),
            ("a | b => a | b", 0, Ok(("a | b", vec!["a | b"]))),
            ("GR-26 => GR | 26", 2, Ok(("GR-26", vec!["GR", "26"]))),
            ("a|b-c => \"a|b\" | c", 2, Ok(("a|b-c", vec!["a|b", "c"]))),
            (r#""a \"b\" => c | d" => "c""#, 0, Ok(("a \"b\" => c | d", vec!["c"]))),
            (r#"ab => "a \"|\" b" | "\\" "#, 2, Ok(("ab", vec!["a \"|\" b", "\\"]))),
            ("GR-26", 0, Err("There is no `=>` in this example")),
            (
                "a => b => c",
                0,
                Err("There are two `=>` in this example, so it is not clear what the cell is"),
            ),
            ("\"a => b", 0, Err("The quote \" is left open")),
            ("GR-26 => GR", 2, Err("There is one piece for 2 names")),
        ] {
            let read = read_lesson(text, names);
            match wanted {
                Ok((cell, pieces)) => {
                    let read = read.unwrap();
                    assert_eq!(
                        (read.0.as_str(), read.1.clone()),
                        (cell, pieces.iter().map(|piece| (*piece).to_owned()).collect()),
                        "{text}"
                    );
                    assert_eq!(
                        read_lesson(&write_lesson(&read.0, &read.1), names).unwrap(),
                        read,
                        "{text}"
                    );
                }
                Err(message) => assert_eq!(read.unwrap_err().message, message, "{text}"),
            }
        }
    }
}
