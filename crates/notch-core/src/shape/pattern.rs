//! Patterns of shapes: what `is shape` asks of a text, and how layouts are written.
//!
//! A pattern is literal text with slots in brackets. Runs of one kind have a length: `[d4]`,
//! `[d3..5]`, `[d+]`. The other slots take what a person sees as one thing:
//!
//! | slot | takes |
//! | --- | --- |
//! | `[w]` | a word: letters of any script with their marks, a `-`, `'` or `’` between two |
//! | `[w+]` | words with one U+0020 between them |
//! | `[n]` | a number as `decimal either` takes it |
//! | `[x]` | letters and digits in any mix |
//! | `[*]` | anything, also nothing |
//!
//! A text is matched item by item with the set of all places reached so far: no place is tried
//! twice for one item, so the work grows with the square of the text's length at worst, never with
//! the number of ways in which the items may share it.

use unicode_normalization::char::is_combining_mark;

use super::automaton::{Automaton, First};
use super::ends::{each_word_end, kind_at, mixed_length, number_end};
use super::fixed::FixedShape;
use super::item::Item;
use crate::text::{Span, characters};

/// A shape to compare texts with.
#[derive(Debug, Clone)]
pub(crate) struct ShapePattern {
    items: Vec<Item>,
    ignoring_case: bool,
    /// The same as ranges of bytes, where it is of one length.
    fixed: Option<FixedShape>,
    /// The same as an automaton, where it is not.
    automaton: Option<Automaton>,
}

impl ShapePattern {
    /// Reads a pattern: `FH-[d4]-[U+]-[d3..5]`.
    ///
    /// # Errors
    /// One sentence on what is no slot, or stands where it cannot.
    pub(crate) fn read(pattern: &str) -> Result<Self, String> {
        let mut items: Vec<Item> = Vec::new();
        let literal = |items: &mut Vec<Item>, text: &str| match items.last_mut() {
            Some(Item::Literal(before)) => before.push_str(text),
            _ => items.push(Item::Literal(text.to_owned())),
        };
        let mut rest = pattern;
        while let Some(character) = characters::each(rest).next() {
            if !character.starts_with('[') {
                literal(&mut items, character);
                rest = &rest[character.len()..];
                continue;
            }
            if let Some(after) = rest.strip_prefix("[[]") {
                literal(&mut items, "[");
                rest = after;
                continue;
            }
            let Some(end) = rest.find(']') else {
                return Err(
                    "A [ in a shape is not closed; one that is text is written [[]".to_owned()
                );
            };
            items.push(slot(&rest[1..end]).ok_or_else(|| {
                format!(
                    "{} is no slot of a shape; slots are [d], [d4], [d3..5], [d+], of the kinds U \
                    l L c d s, and [w], [w+], [n], [x], [*]",
                    &rest[..=end]
                )
            })?);
            rest = &rest[end + 1..];
        }
        if items.iter().filter(|item| **item == Item::Anything).count() > 1 {
            return Err("[*] takes anything and may stand once in a shape".to_owned());
        }
        let are_beside =
            |pair: &[Item]| pair.contains(&Item::Anything) && pair.contains(&Item::Words);
        if items.windows(2).any(are_beside) {
            return Err("[*] beside [w+] leaves open where the words end; leave one out".to_owned());
        }
        Ok(Self::of(items, false))
    }

    /// The same for texts whose letters may be of either case: those that stand for themselves,
    /// and the kinds U and l.
    pub(crate) fn ignoring_case(self, ignoring_case: bool) -> Self {
        if ignoring_case == self.ignoring_case { self } else { Self::of(self.items, ignoring_case) }
    }

    fn of(items: Vec<Item>, ignoring_case: bool) -> Self {
        let fixed = if ignoring_case { None } else { FixedShape::of(&items) };
        let automaton = if fixed.is_none() {
            Automaton::of([(&items[..], ignoring_case)].into_iter())
        } else {
            None
        };
        Self { items, ignoring_case, fixed, automaton }
    }

    /// What tells which of several patterns is the first that a text is of.
    pub(crate) fn together<'p>(patterns: impl Iterator<Item = &'p Self>) -> Option<Automaton> {
        Automaton::of(patterns.map(|pattern| (&pattern.items[..], pattern.ignoring_case)))
    }

    /// Whether a text is of this shape as can be told by ranges of bytes: others may be too.
    pub(crate) fn fits_at_a_glance(&self, text: &str) -> bool {
        self.fixed.as_ref().and_then(|fixed| fixed.matches(text)) == Some(true)
    }

    /// Whether a text as a whole is of this shape.
    pub(crate) fn matches(&self, text: &str) -> bool {
        if let Some(matches) = self.fixed.as_ref().and_then(|fixed| fixed.matches(text)) {
            return matches;
        }
        // Most texts of another shape are told from it by their ends.
        let bytes = text.as_bytes();
        if !self.ignoring_case {
            if let Some(Item::Literal(first)) = self.items.first()
                && !bytes.starts_with(first.as_bytes())
            {
                return false;
            }
            if let Some(Item::Literal(last)) = self.items.last()
                && !bytes.ends_with(last.as_bytes())
            {
                return false;
            }
        }
        match self.automaton.as_ref().and_then(|automaton| automaton.first(text)) {
            Some(First::OfNone) => return false,
            Some(First::Surely(_)) => return true,
            Some(First::Perhaps(_)) | None => {}
        }
        // As long as there is one place only, nothing has to be kept of it.
        let mut only = 0;
        let mut reached = Vec::new();
        let mut items = self.items.iter();
        while let Some(item) = items.next() {
            // A place that the literal text after the item does not follow leads nowhere.
            let leads_on = |end: usize| match items.as_slice().first() {
                Some(Item::Literal(next)) if !self.ignoring_case => {
                    bytes[end..].starts_with(next.as_bytes())
                }
                _ => true,
            };
            let (mut first, mut others) = (None, 0);
            self.each_end(item, text, only, |end| match first {
                _ if !leads_on(end) => {}
                None => first = Some(end),
                Some(_) => others += 1,
            });
            match first {
                None => return false,
                Some(end) if others == 0 => only = end,
                Some(_) => {
                    self.each_end(item, text, only, |end| reached.push(end));
                    break;
                }
            }
        }
        if reached.is_empty() {
            return only == text.len();
        }
        let mut next = Vec::new();
        for item in items {
            next.clear();
            for from in reached.iter().copied() {
                self.each_end(item, text, from, |end| next.push(end));
            }
            if next.len() > 1 {
                next.sort_unstable();
                next.dedup();
            }
            if next.is_empty() {
                return false;
            }
            std::mem::swap(&mut reached, &mut next);
        }
        reached.contains(&text.len())
    }

    /// Where each slot of a text of this shape lies, in bytes; `None` of a text of another shape.
    /// Where a slot could end sooner or later, it ends as late as it can.
    pub(crate) fn slots(&self, text: &str) -> Option<Vec<Span>> {
        let mut all = vec![vec![0]];
        for item in &self.items {
            let mut next = Vec::new();
            for from in all.last()?.iter().copied() {
                self.each_end(item, text, from, |end| next.push(end));
            }
            next.sort_unstable();
            next.dedup();
            all.push(next);
        }
        let mut end = text.len();
        all.pop()?.contains(&end).then_some(())?;
        let mut slots = Vec::new();
        for (item, starts) in self.items.iter().zip(&all).rev() {
            let reaches = |from: &&usize| {
                let mut reaches = false;
                self.each_end(item, text, **from, |found| reaches |= found == end);
                reaches
            };
            let from = *starts.iter().rev().find(reaches)?;
            if !matches!(item, Item::Literal(_)) {
                slots.push(from..end);
            }
            end = from;
        }
        slots.reverse();
        Some(slots)
    }

    /// Tells every place where an item may end that begins at a place, all in bytes.
    fn each_end(&self, item: &Item, text: &str, from: usize, mut end: impl FnMut(usize)) {
        match item {
            Item::Literal(literal) => {
                if let Some(length) = self.literal_end(literal, &text[from..]) {
                    end(from + length);
                }
            }
            Item::Run(kinds, least, most) => {
                let mut ends = Ends { least: *least, count: 0 };
                if *least == 0 {
                    end(from);
                }
                let mut at = from;
                while ends.count < *most
                    && let Some((kind, length)) = kind_at(text, at)
                    && self.is_among(kinds, kind)
                {
                    at += length;
                    if ends.next() {
                        end(at);
                    }
                }
            }
            Item::Word => each_word_end(text, from, &mut end),
            Item::Words => {
                let mut at = from;
                loop {
                    let mut last = at;
                    each_word_end(text, at, |found| {
                        end(found);
                        last = last.max(found);
                    });
                    if last == at || !text[last..].starts_with(' ') {
                        return;
                    }
                    at = last + 1;
                }
            }
            Item::Number => {
                if let Some(found) = number_end(text, from) {
                    end(found);
                }
            }
            Item::Mixed => {
                let length = mixed_length(&text[from..]);
                if length > 0 {
                    end(from + length);
                }
            }
            Item::Anything => {
                text[from..].char_indices().for_each(|(at, _)| end(from + at));
                end(text.len());
            }
        }
    }

    fn is_among(&self, kinds: &[char], kind: char) -> bool {
        kinds.contains(&kind)
            || self.ignoring_case && matches!(kind, 'U' | 'l') && {
                kinds.contains(&'U') || kinds.contains(&'l')
            }
    }

    /// How many bytes of a text a literal takes, if the text begins with it.
    fn literal_end(&self, literal: &str, text: &str) -> Option<usize> {
        let length = match text.get(..literal.len()) {
            Some(beginning) if beginning == literal => literal.len(),
            _ if !self.ignoring_case => return None,
            Some(beginning) if beginning.is_ascii() => {
                beginning.eq_ignore_ascii_case(literal).then_some(literal.len())?
            }
            _ => {
                let mut theirs = characters::with_places(text);
                let are_same = characters::each(literal).all(|ours| {
                    theirs
                        .next()
                        .is_some_and(|(_, theirs)| theirs.to_lowercase() == ours.to_lowercase())
                });
                are_same.then(|| theirs.next().map_or(text.len(), |(at, _)| at))?
            }
        };
        // A mark after the last letter would make another character of it.
        let goes_on = text.as_bytes().get(length).is_some_and(|byte| !byte.is_ascii())
            && text[length..].chars().next().is_some_and(is_combining_mark);
        (!goes_on).then_some(length)
    }
}

/// The parts of a pattern, as they are written: whether each is a slot, and its text; a `[` that is
/// text stands for itself.
pub(crate) fn pattern_parts(pattern: &str) -> Vec<(bool, String)> {
    let mut parts: Vec<(bool, String)> = Vec::new();
    let mut rest = pattern;
    while let Some(c) = rest.chars().next() {
        let (is_slot, part, length) = match rest.find(']').filter(|_| c == '[') {
            _ if rest.starts_with("[[]") => (false, "[", 3),
            Some(end) => (true, &rest[..=end], end + 1),
            None => (false, &rest[..c.len_utf8()], c.len_utf8()),
        };
        match parts.last_mut().filter(|(before, _)| !*before && !is_slot) {
            Some((_, literal)) => literal.push_str(part),
            None => parts.push((is_slot, part.to_owned())),
        }
        rest = &rest[length..];
    }
    parts
}

/// Counts the characters of a run.
struct Ends {
    least: usize,
    count: usize,
}

impl Ends {
    /// One character more; whether the run may end after it.
    fn next(&mut self) -> bool {
        self.count += 1;
        self.count >= self.least
    }
}

/// What stands between the brackets of a slot: `d`, `d4`, `d3..5`, `d+`, `w+`.
fn slot(inside: &str) -> Option<Item> {
    match inside {
        "w" => return Some(Item::Word),
        "w+" => return Some(Item::Words),
        "n" => return Some(Item::Number),
        "x" => return Some(Item::Mixed),
        "*" => return Some(Item::Anything),
        _ => {}
    }
    let kinds: &'static [char] = match inside.chars().next()? {
        'U' => &['U'],
        'l' => &['l'],
        'L' => &['U', 'l'],
        'c' => &['c'],
        'd' => &['d'],
        's' => &['s'],
        _ => return None,
    };
    let length = &inside[1..];
    let number = |text: &str| {
        text.parse::<usize>().ok().filter(|n| *n > 0 && text.bytes().all(|b| b.is_ascii_digit()))
    };
    let (least, most) = match (length, length.split_once("..")) {
        ("", _) => (1, 1),
        ("+", _) => (1, usize::MAX),
        (_, Some((least, most))) => (number(least)?, number(most)?),
        _ => (number(length)?, number(length)?),
    };
    (least <= most).then_some(Item::Run(kinds, least, most))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// The slots of a text by a pattern, divided by bars; `-` where it does not match.
    fn slots(pattern: &str, text: &str) -> String {
        let (pattern, ignoring_case) = match pattern.strip_suffix(" ignoring case") {
            Some(pattern) => (pattern, true),
            None => (pattern, false),
        };
        let pattern = ShapePattern::read(pattern).unwrap().ignoring_case(ignoring_case);
        let found = pattern.slots(text);
        assert_eq!(found.is_some(), pattern.matches(text), "{text:?}");
        found.map_or("-".to_owned(), |slots| {
            slots.into_iter().map(|slot| &text[slot]).collect::<Vec<_>>().join("|")
        })
    }

    proptest! {
        /// A shape of one length takes the same texts item by item.
        #[test]
        fn fixed_shapes_take_the_same(
            pattern in "([A-Ca -]{0,2}|\\[[dUl][1-9]?\\]){0,5}",
            text in "[A-Ca0-3 -]{0,24}|[A-Ca0é\r\n-]{0,8}",
            n in 0..1000_usize,
        ) {
            let pattern = ShapePattern::read(&pattern).unwrap();
            prop_assert!(pattern.fixed.is_some());
            // Also texts that are of it, nearly all.
            let fitting: String = pattern.items.iter().map(|item| match item {
                Item::Literal(literal) => literal.clone(),
                Item::Run(['d'], most, _) => "7".repeat(*most),
                Item::Run(['U'], most, _) => "Q".repeat(*most),
                _ => "q".repeat(8).chars().take(1 + n % 8).collect(),
            }).collect();
            let asked = ShapePattern { fixed: None, automaton: None, ..pattern.clone() };
            for text in [&text, &fitting] {
                prop_assert_eq!(pattern.matches(text), asked.matches(text), "{:?}", text);
            }
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4000))]
        /// A text is of a pattern by its automaton when it is item by item.
        #[test]
        fn automata_take_the_same(
            pattern in "([ab1 .,'_-]{0,2}|\\[(w|w\\+|n|x|[dUlLs](\\+|[1-3]|1\\.\\.3)?)\\]){0,5}(\\[\\*\\])?",
            pieces in prop::collection::vec("[abAB]{1,3}|[0-9]{1,3}|[ .,'_+-]|1,234|5\\.5|a-b|é|\r\n", 0..9),
            ignoring_case: bool,
            n in 0..1000_usize,
        ) {
            // Beside words, `[*]` is refused.
            let Ok(pattern) = ShapePattern::read(&pattern) else { return Ok(()) };
            let pattern = pattern.ignoring_case(ignoring_case);
            let asked = ShapePattern { fixed: None, automaton: None, ..pattern.clone() };
            // Also texts that are of it, nearly all.
            let fitting = pattern.items.iter().zip(n..).map(|(item, n)| match item {
                Item::Literal(literal) => literal.clone(),
                Item::Run(kinds, least, _) => match kinds[0] {
                    'd' => "7",
                    'U' => "Q",
                    'l' => "q",
                    _ => " ",
                }.repeat(*least + n % 2),
                Item::Word => ["Ann", "Ann-Lea"][n % 2].to_owned(),
                Item::Words => ["Ann", "Ann Moran", "Ann Lea-Moran"][n % 3].to_owned(),
                Item::Number => ["5", "-5", "1,234", "0.5", ".5", "1.2.3"][n % 6].to_owned(),
                Item::Mixed => ["3f2", "Q", "7"][n % 3].to_owned(),
                Item::Anything => pieces.concat(),
            });
            let fitting: String = fitting.collect();
            for text in [&pieces.concat(), &fitting] {
                prop_assert_eq!(pattern.matches(text), asked.matches(text), "{:?}", text);
            }
        }
    }

    #[test]
    fn slots_take_what_a_person_sees_as_one_thing() {
        for (pattern, text, wanted) in [
            ("[w]", "Brassica", "Brassica"),
            ("[w]", "O’Larkin", "O’Larkin"),
            ("[w]", "Anna-Lena", "Anna-Lena"),
            ("[w]", "Anna--Lena", "-"),
            ("[w]", "E\u{301}va", "E\u{301}va"),
            ("[w]", "два", "два"),
            ("[w]", "B12", "-"),
            ("[w]", "a_b", "-"),
            ("[w]", "", "-"),
            ("[w]-[w]", "Til-Bra", "Til|Bra"),
            ("[w+]", "Iris Moran", "Iris Moran"),
            ("[w+]", "Iris  Moran", "-"),
            ("[w+]", "Iris ", "-"),
            ("[w+] sown", "two beds sown", "two beds"),
            ("[w] [w+]", "two beds sown", "two|beds sown"),
            ("[n]", "1,234.50", "1,234.50"),
            ("[n]", "-5", "-5"),
            ("[n] %", "84 %", "84"),
            ("[n]", "1.2.3", "1.2.3"),
            ("[n]", "5.", "-"),
            ("[n]-[n]", "5-6", "5|6"),
            ("[x]-[x]", "3f2a-1234", "3f2a|1234"),
            ("https://[*] ([w+])", "https://a.example/x (Iris Moran)", "a.example/x|Iris Moran"),
            ("lot [*]", "lot ", ""),
            ("Ref [d4] ignoring case", "REF 1234", "1234"),
            ("[U2]-[d] ignoring case", "gr-1", "gr|1"),
            ("Straße ignoring case", "STRAßE", ""),
            ("Ref [d4]", "REF 1234", "-"),
            ("e", "e\u{301}", "-"),
            ("[d+][d+]", "12345", "1234|5"),
            ("[[][d]]", "[5]", "5"),
        ] {
            assert_eq!(slots(pattern, text), wanted, "{pattern} of {text:?}");
        }
    }
}
