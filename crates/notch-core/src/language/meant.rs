//! What was probably meant where a word stands that cannot stand there.

use super::error::nearest;
use super::form::Slot;
use super::parser::Parser;
use super::token::{Token, TokenKind};
use super::words::{Group, entries};
use crate::schemes::Scheme;

/// Signs that are called by their names: the name, and the sign.
const SIGNS: &[(&str, &str)] = &[
    ("dash", "-"),
    ("hyphen", "-"),
    ("minus", "-"),
    ("comma", ","),
    ("point", "."),
    ("dot", "."),
    ("period", "."),
    ("slash", "/"),
    ("underscore", "_"),
    ("colon", ":"),
    ("semicolon", ";"),
    ("pipe", "|"),
    ("bar", "|"),
    ("hash", "#"),
    ("plus", "+"),
    ("star", "*"),
    ("zero", "0"),
    ("zeros", "0"),
    ("space", " "),
    ("blank", " "),
    ("blanks", " "),
];

/// Numbers in words, from 1.
const NUMBERS: [&str; 10] =
    ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];

/// Words of other programs for kinds, types and tests: what is typed, and ours.
const OTHERS: &[(&str, &str)] = &[
    ("int", "integer"),
    ("whole", "integer"),
    ("string", "text"),
    ("str", "text"),
    ("float", "number"),
    ("double", "number"),
    ("numeric", "digits"),
    ("numbers", "digits"),
    ("numerals", "digits"),
    ("alpha", "letters"),
    ("alphabetic", "letters"),
    ("uppercase", "upper"),
    ("lowercase", "lower"),
    ("whitespace", "spaces"),
    ("punctuation", "symbols"),
    ("alphanumeric", "letters digits"),
    ("alnum", "letters digits"),
    ("valid", "is"),
];

/// Words that link the arguments of a step, and what is typed for them.
const LINKS: [&str; 4] = ["with", "by", "and", "in"];
const OTHER_LINKS: [&str; 7] = ["to", "for", "into", "from", "using", "at", ","];

/// What `keep` and `remove` know.
const KINDS: [&str; 4] = ["digits", "letters", "spaces", "symbols"];

impl Parser<'_> {
    /// What to write for the token at `at`, where these slots or these fixed words were expected.
    pub(super) fn meant(&self, at: usize, slots: &[Slot], fixed: &[&str]) -> Option<String> {
        let token = &self.tokens[at];
        if token.kind == TokenKind::End {
            return None;
        }
        let before = at.checked_sub(1).map_or("", |before| self.written(&self.tokens[before]));
        if let Some(remedy) = self.link_meant(at, fixed) {
            return Some(remedy);
        }
        let typed = self.written(token).to_lowercase();
        let name = if OTHERS.iter().any(|(name, _)| *name == typed) {
            Some(&*typed)
        } else {
            nearest(&typed, OTHERS.iter().map(|(name, _)| *name))
        };
        let mut other =
            OTHERS.iter().filter(|(other, _)| Some(*other) == name).map(|(_, ours)| *ours);
        let can_stand = |ours: &&str| {
            fixed.contains(ours)
                || (slots.contains(&Slot::Kinds)
                    && ours.split(' ').all(|kind| KINDS.contains(&kind)))
        };
        slots
            .iter()
            .find_map(|slot| self.meant_for(*slot, token, &typed, before))
            .or_else(|| {
                let ours = other.find(can_stand)?;
                Some(format!("Here it is written `{ours}`."))
            })
            .or_else(|| match token.kind {
                TokenKind::Symbol | TokenKind::Stray if slots == [Slot::Regex] => {
                    let rest = &self.source()[token.span.start..];
                    let end =
                        rest.find(" | ").or_else(|| rest.find(" else ")).unwrap_or(rest.len());
                    Some(format!(
                        "Write it between slashes: /{}/.",
                        rest[..end].trim().replace('/', "\\/")
                    ))
                }
                TokenKind::Number(_) if fixed.contains(&"both") => {
                    Some("Say on which side first: left, right or both.".to_owned())
                }
                // The step before it could end there.
                _ if fixed.contains(&"|") => Some(
                    "The step before it is complete; another one stands after a bar: … | …"
                        .to_owned(),
                ),
                _ => None,
            })
    }

    /// The word that links two arguments of a step, where it is the only one that can stand and is
    /// not there.
    fn link_meant(&self, at: usize, fixed: &[&str]) -> Option<String> {
        // Beside it may stand `ignoring case` alone.
        if fixed.iter().any(|word| !LINKS.contains(word) && *word != "ignoring") {
            return None;
        }
        let mut links = fixed.iter().filter(|word| LINKS.contains(word));
        let (Some(link), None) = (links.next(), links.next()) else { return None };
        let written = self.written(&self.tokens[at]);
        match LINKS.contains(&written) || OTHER_LINKS.contains(&written) {
            true => Some(format!("Write `{link}` instead of `{written}`.")),
            false => Some(format!("Write `{link}` before it: {link} {written}")),
        }
    }

    /// A column without braces, which what follows asks something about.
    pub(super) fn asked_column(&self, at: usize, fixed: &[&str]) -> Option<String> {
        let (token, next) = (self.tokens.get(at)?, self.tokens.get(at + 1)?);
        let is_asked = ["=", "==", "is", "has", "starts", "ends", ">", "<", "!=", "contains", "in"]
            .contains(&self.written(next));
        let is_condition =
            fixed.contains(&"is") && fixed.contains(&"has") && token.kind == TokenKind::Word;
        (is_condition && is_asked && self.written(token) != "not")
            .then(|| format!("A column stands in braces: {{{}}}.", self.written(token)))
    }

    fn meant_for(&self, slot: Slot, token: &Token, typed: &str, before: &str) -> Option<String> {
        let near = |known: &[&str]| {
            nearest(typed, known.iter().copied()).map(|near| format!("The nearest is `{near}`."))
        };
        let heads = |group: Group| {
            entries(move |of| of == group).flat_map(|entry| entry.form.heads()).collect::<Vec<_>>()
        };
        match (slot, &token.kind) {
            (Slot::Count, TokenKind::Text(_)) if before == "of" => {
                Some(format!("What divides is said with `by`: by {}.", self.written(token)))
            }
            (Slot::Count, TokenKind::Text(_)) if matches!(before, "left" | "right" | "both") => {
                Some(format!(
                    "The length comes first, the character after it: {before} 8 with {}.",
                    self.written(token)
                ))
            }
            (Slot::Regex, TokenKind::Text(text)) => {
                Some(format!("Write it between slashes: /{}/.", text.replace('/', "\\/")))
            }
            (Slot::Count | Slot::Pick | Slot::Place | Slot::Decimals, TokenKind::Word) => {
                let number = NUMBERS
                    .iter()
                    .zip(1..)
                    .find(|(name, _)| **name == typed)
                    .map(|(_, number)| format!("Write {number}."));
                let word = || match before {
                    "first" if typed == "word" => Some("The first word is `word 1`.".to_owned()),
                    "last" if typed == "word" => Some("The last word is `word last`.".to_owned()),
                    _ => None,
                };
                number.or_else(word)
            }
            (Slot::Range, TokenKind::Word) if matches!(typed, "first" | "last") => {
                Some(format!("The {typed} ones stand without {before}: {typed} 3."))
            }
            (Slot::Kinds, TokenKind::Word) => near(&KINDS),
            (Slot::Scheme, TokenKind::Word) => {
                nearest(typed, Scheme::names()).map(|near| format!("The nearest is `{near}`."))
            }
            (Slot::Mark | Slot::Separator | Slot::Text | Slot::Character, TokenKind::Word) => {
                let of_group = match slot {
                    Slot::Mark => near(&heads(Group::Mark)),
                    Slot::Separator => near(&heads(Group::Separator)),
                    _ => None,
                };
                // After `is` any text may be meant.
                let is_sign = |name: &str| name == typed && !matches!(before, "is" | "not");
                let sign = || {
                    SIGNS
                        .iter()
                        .find(|(name, _)| is_sign(name))
                        .map(|(_, sign)| format!("Write \"{sign}\"."))
                };
                let other = || match (before, typed) {
                    ("between", "brackets" | "parentheses" | "parens") => {
                        Some("Write between \"(\" and \")\".".to_owned())
                    }
                    ("date" | "to", "iso") => Some("Write \"YYYY-MM-DD\".".to_owned()),
                    _ => None,
                };
                of_group.or_else(sign).or_else(other)
            }
            _ => None,
        }
    }
}
