//! Texts taken apart for finding layouts: their elements, and which texts have the same signs.

use std::collections::BTreeMap;
use std::ops::Range;

use super::tokens::{Class, tokens};

/// An element of a text: words with one blank between them, or any other token.
#[derive(Debug, Clone)]
pub(super) enum Element {
    Words(Vec<Range<usize>>),
    Number(Range<usize>),
    Mixed(Range<usize>),
    Sign(Range<usize>),
}

/// A text and its elements, by their places in bytes.
#[derive(Debug)]
pub(super) struct Line<'t> {
    pub text: &'t str,
    pub elements: Vec<Element>,
}

/// What stands for the elements that are no signs in a key; no text has them.
const WORDS: char = '\u{F0001}';
const NUMBER: char = '\u{F0002}';
const MIXED: char = '\u{F0003}';
const ANY: char = '\u{F0004}';

impl<'t> Line<'t> {
    /// Takes a text apart; `None` when it has too many tokens.
    pub(super) fn of(text: &'t str) -> Option<Self> {
        let tokens = tokens(text)?;
        let mut elements: Vec<Element> = Vec::with_capacity(tokens.len());
        let is_blank =
            |element: &Element| matches!(element, Element::Sign(at) if text[at.clone()] == *" ");
        for token in tokens {
            let span = token.span;
            match token.class {
                Class::Word => match elements.as_mut_slice() {
                    [.., Element::Words(words), blank] if is_blank(blank) => {
                        words.push(span);
                        elements.pop();
                    }
                    _ => elements.push(Element::Words(vec![span])),
                },
                Class::Number => elements.push(Element::Number(span)),
                Class::Mixed => elements.push(Element::Mixed(span)),
                Class::Sign => elements.push(Element::Sign(span)),
            }
        }
        Some(Self { text, elements })
    }

    /// Its signs, and of what kind its other elements are.
    fn key(&self, key: &mut String) {
        self.key_with(key, |element| match element {
            Element::Words(_) => WORDS,
            Element::Number(_) => NUMBER,
            Element::Mixed(_) | Element::Sign(_) => MIXED,
        })
    }

    /// Its signs, with all single words, numbers and mixed chunks alike.
    fn family(&self, key: &mut String) {
        self.key_with(key, |element| match element {
            Element::Words(words) if words.len() > 1 => WORDS,
            _ => ANY,
        })
    }

    fn key_with(&self, key: &mut String, kind: impl Fn(&Element) -> char) {
        key.clear();
        for element in &self.elements {
            match element {
                Element::Sign(at) => key.push_str(&self.text[at.clone()]),
                element => key.push(kind(element)),
            }
        }
    }

    /// The place of a chunk: a single word, a number or a mixed one.
    fn chunk(&self, element: usize) -> Option<&Range<usize>> {
        match &self.elements[element] {
            Element::Words(words) if words.len() == 1 => words.first(),
            Element::Number(at) | Element::Mixed(at) => Some(at),
            _ => None,
        }
    }
}

/// Texts, by their places, that have the same signs and the same kinds of elements between them, in
/// the order of the first of each.
pub(super) fn groups(lines: &mut [Line<'_>]) -> Vec<Vec<usize>> {
    by_key(lines, Line::family).iter().for_each(|members| mix(lines, members));
    let mut groups = by_key(lines, Line::key);
    groups.sort_unstable_by_key(|members| members[0]);
    groups
}

/// Texts, by their places, that have the same key.
fn by_key<'t>(lines: &[Line<'t>], write: fn(&Line<'t>, &mut String)) -> Vec<Vec<usize>> {
    let mut groups: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    let mut key = String::new();
    for (n, line) in lines.iter().enumerate() {
        write(line, &mut key);
        match groups.get_mut(&key) {
            Some(members) => members.push(n),
            None => {
                groups.insert(key.clone(), vec![n]);
            }
        }
    }
    groups.into_values().collect()
}

/// In texts of one family: where some chunks have letters and digits, those that happen to have
/// only digits, or only letters of the same length, are mixed as well.
fn mix(lines: &mut [Line<'_>], members: &[usize]) {
    let elements = lines[members[0]].elements.len();
    for n in 0..elements {
        let (mut mixed, mut numbers, mut words) = (0, 0, 0);
        let mut lengths: BTreeMap<usize, usize> = BTreeMap::new();
        let mut kinds: BTreeMap<String, usize> = BTreeMap::new();
        for line in members.iter().map(|member| &lines[*member]) {
            let Some(chunk) = line.chunk(n) else { continue };
            *lengths.entry(chunk.len()).or_default() += 1;
            match &line.elements[n] {
                Element::Mixed(at) => {
                    mixed += 1;
                    *kinds.entry(runs(&line.text[at.clone()])).or_default() += 1;
                }
                Element::Number(at)
                    if line.text[at.clone()].bytes().all(|b| b.is_ascii_digit()) =>
                {
                    numbers += 1
                }
                Element::Number(_) => {}
                _ => words += 1,
            }
        }
        let all = mixed + numbers + words;
        let is_steady = lengths.values().max().is_some_and(|most| most * 100 >= all * 95);
        // Chunks that are all built alike are no numbers with letters in them by chance.
        let is_built = kinds.values().max().is_some_and(|most| most * 100 >= mixed * 95);
        let take_numbers = mixed * 5 >= mixed + numbers && numbers > 0 && (is_steady || !is_built);
        let take_words = is_steady && mixed * 10 >= all && words > 0;
        if mixed == 0 || !(take_numbers || take_words) {
            continue;
        }
        for line in members {
            let line = &mut lines[*line];
            let Some(chunk) = line.chunk(n).cloned() else { continue };
            let is_plain =
                line.text[chunk.clone()].bytes().all(|byte| byte.is_ascii_alphanumeric());
            let is_taken = match line.elements[n] {
                Element::Number(_) => (take_numbers || is_steady) && is_plain,
                Element::Words(_) => take_words && is_plain,
                _ => false,
            };
            if is_taken {
                line.elements[n] = Element::Mixed(chunk);
            }
        }
    }
}

/// The kinds of the runs of a chunk.
fn runs(chunk: &str) -> String {
    let mut kinds: Vec<char> = chunk.chars().map(super::tokens::kind).collect();
    kinds.dedup();
    kinds.into_iter().collect()
}
