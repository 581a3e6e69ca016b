//! What may stand next in a cut that is still being written, and which word stands at a place.
//!
//! The parser keeps what it expected at the farthest place it reached ([`Parser::expect`]); where
//! that is the end of the text, those are the words that may follow.

use super::error::CutError;
use super::form::Slot;
use super::parser::Parser;
use super::token::{TokenKind, is_name_character};
use super::words::{Entry, Group, Word, entries, words};

/// What may stand after a text that is the beginning of a cut.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Next {
    /// Fixed words and signs, each once, in the order of the table of words; those that go on with
    /// the current word first.
    pub words: Vec<String>,
    /// What takes more than one fixed word, in the order in which it was looked for.
    pub slots: Vec<Slot>,
    /// The text is a whole cut already.
    pub is_whole: bool,
}

/// The signs a cut or a template begins with.
const STARTS: [&str; 3] = ["{", "\"", "("];
/// What a further character can close, or go on with.
const CLOSING: [&str; 6] = ["\"", "'", "}", "/", ")", "9"];

/// What may stand after `text`, a cut with names where `has_names` says so; `None` where no text
/// typed after it would make it a cut, or it ends within a quoted text.
pub fn what_follows(text: &str, has_names: bool) -> Option<Next> {
    let mut parser = Parser::new(text).ok()?;
    let end = parser.tokens.len() - 1;
    if has_names && let Err(error) = parser.names() {
        let is_at_end = error.span.start >= text.trim_end().len() && !text.trim().is_empty();
        let words = if is_at_end { vec!["=".to_owned()] } else { Vec::new() };
        return is_at_end.then_some(Next { words, ..Next::default() });
    }
    let read = parser.cut(None);
    let is_whole = read.is_ok() && parser.peek().kind == TokenKind::End;
    if !is_whole && !parser.wants_step && parser.farthest.max(parser.at) < end {
        return None;
    }
    if let Err(error) = &read
        && error.span.start < text.trim_end().len()
    {
        return None;
    }
    let mut next = Next { is_whole, ..Next::default() };
    if parser.wants_step {
        let is_head = parser.at == 0 || parser.written(&parser.tokens[parser.at - 1]) != "|";
        let starts = STARTS.iter().filter(|sign| is_head || **sign != "{");
        next.words = step_heads().map(str::to_owned).collect();
        next.words.extend(starts.map(|sign| (*sign).to_owned()));
        return Some(next);
    }
    if parser.farthest == end {
        // The readers of a slot look for others, which it stands for.
        let is_expected = |slot: &&Slot| {
            parser.expected.iter().any(|item| {
                item.strip_prefix(slot.name()).is_some_and(|rest| rest.starts_with(" ("))
            })
        };
        next.slots = Slot::ALL.iter().filter(is_expected).copied().collect();
        let literals =
            parser.expected.iter().filter_map(|item| item.strip_prefix('`')?.strip_suffix('`'));
        next.words = literals.map(str::to_owned).collect();
        // What a slot may begin with.
        for slot in &next.slots {
            let group = match slot {
                Slot::Mark => Group::Mark,
                Slot::Separator => Group::Separator,
                Slot::Condition => Group::Test,
                Slot::Column | Slot::When => {
                    next.words.push("{".to_owned());
                    continue;
                }
                Slot::Texts => {
                    next.words.push("(".to_owned());
                    continue;
                }
                _ => continue,
            };
            let heads = entries(|of| of == group).flat_map(|entry| entry.form.heads());
            next.words.extend(heads.map(str::to_owned));
        }
    }
    next.words.sort_by_key(|word| rank(word));
    let mut known: Vec<String> = Vec::new();
    next.words.retain(|word| {
        !known.contains(word) && {
            known.push(word.clone());
            true
        }
    });
    Some(next)
}

/// The words that steps begin with, each once, in the order of the table of words.
fn step_heads() -> impl Iterator<Item = &'static str> {
    let mut heads: Vec<&'static str> = Vec::new();
    for head in in_order(Group::is_step).flat_map(|entry| entry.form.heads()) {
        if !heads.contains(&head) && head.starts_with(is_name_character) {
            heads.push(head);
        }
    }
    heads.into_iter()
}

/// The entries of some groups in the order of the documentation.
fn in_order(wanted: impl Fn(Group) -> bool + Copy) -> impl Iterator<Item = &'static Entry> {
    Group::ALL
        .into_iter()
        .filter(move |group| wanted(*group))
        .flat_map(|group| entries(move |of| of == group))
}

/// Where a word or sign stands among what may follow: first what goes on with the current word,
/// then what joins chains, in the order of the table of words.
fn rank(word: &str) -> usize {
    let joining = words().filter(|entry| entry.group == Group::Joining);
    joining.map(|entry| entry.name).position(|name| name == word).map_or(0, |place| place + 1)
}

/// Whether some further text typed at its end could make a cut of `text`, whose error this is.
pub fn is_unfinished(text: &str, has_names: bool, error: &CutError) -> bool {
    let trimmed = text.trim_end().len();
    if error.span.start >= trimmed || text.trim().is_empty() {
        return true;
    }
    let goes_on = |more: &str| {
        let longer = format!("{text}{more}");
        match parse(&longer, has_names) {
            None => true,
            Some(error) => error.span.start >= longer.len(),
        }
    };
    CLOSING.into_iter().any(goes_on)
        || goes_on_with_word(text, has_names)
        || is_name(text, has_names)
        || ends_in_template(text)
}

/// Whether a text ends within the braces of a template that is not closed.
fn ends_in_template(text: &str) -> bool {
    let open = Parser::new(text).err().map_or(text.len(), |error| error.span.start);
    let is_quoted = text[open.min(text.len())..].starts_with(['"', '\'', '{']);
    is_quoted && text[open..].rfind('{').is_some_and(|at| !text[open + at..].contains('}'))
}

/// Whether the letters at the end are the beginning of a word that may stand there.
fn goes_on_with_word(text: &str, has_names: bool) -> bool {
    let before = text.trim_end_matches(is_name_character);
    let word = &text[before.len()..];
    !word.is_empty()
        && what_follows(before, has_names).is_some_and(|next| {
            next.words.iter().any(|known| known.len() > word.len() && known.starts_with(word))
        })
}

/// Whether a text without `=` is the beginning of the names of a cut.
fn is_name(text: &str, has_names: bool) -> bool {
    let Ok(mut parser) = Parser::new(text) else { return false };
    !has_names && parser.names().is_err_and(|error| error.span.start >= text.trim_end().len())
}

/// What is wrong with a text as a cut.
fn parse(text: &str, has_names: bool) -> Option<CutError> {
    match has_names {
        true => super::parse_assignment(text).err(),
        false => super::parse_cut(text).err(),
    }
}

/// The word of the table that stands at byte `at` of a text, else the nearest one left of it;
/// `None` where there is none, or within a quoted text that is not closed.
pub fn word_at(text: &str, at: usize) -> Option<&'static Word> {
    let mut parser = Parser::new(text)
        .or_else(|error| Parser::new(&text[..error.span.start.min(text.len())]))
        .ok()?;
    let tokens = parser.tokens.clone();
    for (n, token) in tokens.iter().enumerate().rev() {
        if token.span.start > at || !matches!(token.kind, TokenKind::Word | TokenKind::Symbol) {
            continue;
        }
        let head = parser.written(token);
        let before = n.checked_sub(1).map_or("", |before| parser.written(&tokens[before]));
        let is_step_place = matches!(before, "" | "|" | "=" | "else" | "then" | "(");
        let is_here = |entry: &&Entry| {
            entry.form.heads().contains(&head) && (is_step_place || !entry.word.group.is_step())
        };
        let candidates: Vec<&'static Entry> = in_order(|_| true).filter(is_here).collect();
        let joining = words().find(|word| word.group == Group::Joining && word.name == head);
        if let Some(word) = joining {
            return Some(word);
        }
        // Of several the one that reads most of what follows.
        let mut best: Option<(usize, &'static Word)> = None;
        for entry in candidates {
            (parser.farthest, parser.depth) = (0, 0);
            parser.return_to(n);
            let read = parser.form(&entry.form, &mut Vec::new());
            let reached = if matches!(read, Ok(true)) { parser.at + 1 } else { parser.farthest };
            if best.is_none_or(|(most, _)| reached > most) {
                best = Some((reached, entry.word));
            }
        }
        if let Some((_, word)) = best {
            return Some(word);
        }
    }
    None
}

/// Whether a text has the names of a cut: an `=` stands before anything that only the cut itself
/// may hold.
pub fn has_names(text: &str) -> bool {
    let mut in_quotes = false;
    let end = text.find(|c| {
        in_quotes ^= c == '"';
        !in_quotes && "=|'/(<>{".contains(c)
    });
    end.is_some_and(|end| text[end..].starts_with('=') && !text[end..].starts_with("=="))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_may_stand_next() {
        for (text, named, expected) in [
            ("serial = part 4 of 5 by \"-\"", true, "ignoring | else if then"),
            ("year = part 2", true, ".. of by"),
            ("year = part 2 by", true, "any spaces kind widths; SEPARATOR"),
            ("year", true, "="),
            ("x = first", true, "; COUNT"),
            ("pad left 8 ", false, "with | else if then"),
            ("check is in", false, "(; TEXTS LIST"),
            ("first 2 | before ", false, "/; MARK"),
            ("first 2 if {x} ", false, "/; "),
            ("part 2 by \"", false, "nothing"),
            ("pd left", false, "nothing"),
            ("x = frist 2", true, "nothing"),
        ] {
            let next = what_follows(text, named);
            let said = next.map_or("nothing".to_owned(), |next| {
                let slots: Vec<&str> = next.slots.iter().map(|slot| slot.name()).collect();
                let divided = if slots.is_empty() { "" } else { "; " };
                format!("{}{divided}{}", next.words.join(" "), slots.join(" "))
            });
            // Of long lists of words the slots are enough.
            match expected.strip_prefix('/') {
                Some(rest) => {
                    let slots = rest.trim_start_matches("; ");
                    assert!(said != "nothing" && said.ends_with(slots), "{text}: {said}");
                }
                None => assert_eq!(said, expected, "{text}"),
            }
        }
        let starts = what_follows("", false).unwrap();
        assert!(
            ["first", "part", "{", "\""]
                .iter()
                .all(|word| starts.words.contains(&(*word).to_owned()))
        );
    }

    #[test]
    fn unfinished_is_not_wrong() {
        for (text, is_unfinished_one) in [
            ("", true),
            ("ye", true),
            ("year", true),
            ("year =", true),
            ("year = pa", true),
            ("year = part 2 b", true),
            ("year = part 2 by \"-", true),
            ("year = \"{lo", true),
            ("year = {lot", true),
            ("year = chars 5..3", true),
            ("year = ( first 2", true),
            ("year = matches /[0-9", true),
            ("x = first 2 |", true),
            ("x = first 2 else", true),
            ("pd left 8", false),
            ("year = pd", false),
            ("year = part 2 by \"-\" | pd left", false),
            ("year = part 2 xy", false),
            ("year = first 0 ", false),
            ("pd left 8 with \"0", false),
            ("year = first 2)", false),
        ] {
            let named = has_names(text);
            let error = parse(text, named);
            let unfinished = error.is_some_and(|error| is_unfinished(text, named, &error));
            assert_eq!(unfinished, is_unfinished_one, "{text}");
        }
    }

    #[test]
    fn the_word_at_a_place() {
        let text =
            "serial = part 4 of 5 by \"-\" | pad left 8 with \"0\" else drop first 2 if is digits";
        for (left_of, name) in [
            ("ser", None),
            ("serial = pa", Some("part")),
            ("serial = part 4 of 5 by", Some("part")),
            ("serial = part 4 of 5 by \"-\" | pad left 8", Some("pad")),
            ("serial = part 4 of 5 by \"-\" | pad left 8 with \"0\" else", Some("else")),
            (
                "serial = part 4 of 5 by \"-\" | pad left 8 with \"0\" else drop first",
                Some("drop first"),
            ),
            (text, Some("is digits")),
        ] {
            let word = word_at(text, left_of.len()).map(|word| word.name);
            match name {
                Some("is digits") => assert!(word.is_some_and(|word| word.starts_with("is"))),
                name => assert_eq!(word, name, "{left_of}"),
            }
        }
    }
}
