//! From texts of equal signs to the pattern that they have in common.

use std::collections::{BTreeMap, BTreeSet};

use super::lines::{Element, Line};
use super::steady::{nearly_all, parts};
use super::tokens::{kind, write_in_lower_case};
use crate::shape::{ShapePattern, shape};

/// A pattern found, and the texts it was made of, by their places.
pub(super) struct Found {
    pub pattern: String,
    pub ignoring_case: bool,
    pub members: Vec<usize>,
}

/// How often texts of equal signs are parted further.
const DEEPEST: usize = 4;
/// A run of more lengths than this has no usual ones.
const USUAL_LENGTHS: usize = 4;

/// The patterns of texts of equal signs, each of at least `least` of them.
pub(super) fn patterns(lines: &[Line<'_>], members: &[usize], least: usize) -> Vec<Found> {
    let mut found = Vec::new();
    part(lines, members, least, DEEPEST, &mut found);
    found
}

fn part(lines: &[Line<'_>], members: &[usize], least: usize, depth: usize, found: &mut Vec<Found>) {
    if members.len() < least {
        return;
    }
    if depth > 0
        && let Some(parts) = parts(lines, members, least)
    {
        parts.iter().for_each(|members| part(lines, members, least, depth - 1, found));
        return;
    }
    match of_group(lines, members, depth > 0) {
        Ok(pattern) => found.push(pattern),
        Err(parts) => {
            parts.iter().for_each(|members| part(lines, members, least, depth - 1, found))
        }
    }
}

/// The pattern of texts of equal signs, or the parts of them that have something that others lack.
fn of_group(
    lines: &[Line<'_>],
    members: &[usize],
    may_part: bool,
) -> Result<Found, Vec<Vec<usize>>> {
    let mut written = Written::default();
    for n in 0..lines[members[0]].elements.len() {
        match &lines[members[0]].elements[n] {
            Element::Sign(at) => written.literal(&lines[members[0]].text[at.clone()]),
            Element::Words(_) => words(lines, members, n, may_part, &mut written)?,
            Element::Number(_) => numbers(lines, members, n, may_part, &mut written)?,
            Element::Mixed(_) => mixed(&texts(lines, members, n), &mut written),
        }
    }
    let Written { pattern, ignoring_case } = written;
    Ok(Found { pattern, ignoring_case, members: members.to_vec() })
}

/// A pattern as far as it is written.
#[derive(Default)]
struct Written {
    pattern: String,
    ignoring_case: bool,
}

impl Written {
    fn literal(&mut self, text: &str) {
        self.pattern.push_str(&text.replace('[', "[[]"));
    }

    /// A literal word in its commonest spelling; whether there are others is noted.
    fn word(&mut self, spellings: &BTreeMap<&str, usize>) {
        let commonest = spellings.iter().max_by_key(|(word, texts)| (**texts, word.len()));
        if let Some((word, _)) = commonest {
            self.literal(word);
        }
        // A rare spelling is odd.
        let all: usize = spellings.values().sum();
        let others = all - commonest.map_or(0, |(_, texts)| *texts);
        self.ignoring_case |= others > 1 && others * 200 > all;
    }

    fn slot(&mut self, slot: &str) {
        self.pattern.push_str(slot);
    }

    /// A run of one kind with the lengths that it has in these texts.
    fn run(&mut self, kind: char, lengths: impl Iterator<Item = usize>) {
        let (least, most) = match usual_lengths(lengths) {
            Some(lengths) => lengths,
            None => return self.pattern.push_str(&format!("[{kind}+]")),
        };
        self.pattern.push_str(&match (least, most) {
            (1, 1) => format!("[{kind}]"),
            _ if least == most => format!("[{kind}{most}]"),
            _ => format!("[{kind}{least}..{most}]"),
        });
    }
}

/// The shortest and the longest of some lengths, rare ones aside where there are few others; `None`
/// where there are too many to be usual.
fn usual_lengths(lengths: impl Iterator<Item = usize>) -> Option<(usize, usize)> {
    let mut counts: BTreeMap<usize, usize> = BTreeMap::new();
    lengths.for_each(|length| *counts.entry(length).or_default() += 1);
    let all: usize = counts.values().sum();
    let usual = |least: usize| -> BTreeSet<usize> {
        counts.iter().filter(|(_, texts)| **texts >= least).map(|(length, _)| *length).collect()
    };
    // Half of 100 texts; a single one among forty says nothing either.
    let least = (all / 200 + 1).max(if all > 40 { 2 } else { 1 });
    let mut lengths = usual(least);
    if lengths.len() > 2 {
        lengths = usual(1);
    }
    (lengths.len() <= USUAL_LENGTHS).then_some((*lengths.first()?, *lengths.last()?))
}

/// The texts of an element that is a number or a mixed chunk.
fn texts<'t>(lines: &[Line<'t>], members: &[usize], n: usize) -> Vec<&'t str> {
    let text = |member: &usize| match &lines[*member].elements[n] {
        Element::Number(at) | Element::Mixed(at) => &lines[*member].text[at.clone()],
        _ => "",
    };
    members.iter().map(text).collect()
}

/// A number: digits where nearly all are nothing else, what divides them where that is steady, else
/// a number in any form.
fn numbers(
    lines: &[Line<'_>],
    members: &[usize],
    n: usize,
    may_part: bool,
    written: &mut Written,
) -> Result<(), Vec<Vec<usize>>> {
    let texts = texts(lines, members, n);
    let form = |text: &str| -> String { text.chars().filter(|c| !c.is_ascii_digit()).collect() };
    let mut forms: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    for (text, member) in texts.iter().zip(members) {
        forms.entry(form(text)).or_default().push(*member);
    }
    let is_number = ShapePattern::read("[n]").map(|pattern| {
        nearly_all(texts.iter().filter(|text| pattern.matches(text)).count(), texts.len())
    });
    let is_number = is_number == Ok(true);
    let steady = forms.iter().find(|(_, of)| nearly_all(of.len(), members.len()));
    match steady {
        // Digits alone, or with a sign before them.
        Some((marks, _)) if marks.chars().all(|mark| matches!(mark, '-' | '+' | '−')) => {
            written.literal(marks);
            let own = texts.iter().filter(|text| form(text) == *marks);
            written.run('d', own.map(|text| text.len() - marks.len()));
        }
        // A point and a comma are marks of a number, two points divide a day or a version.
        Some((marks, _))
            if !is_number
                || marks.chars().count() > 1 && !(marks.contains('.') && marks.contains(',')) =>
        {
            let own: Vec<&&str> = texts.iter().filter(|text| form(text) == *marks).collect();
            let part = |n: usize| {
                let length = move |text: &&&str| {
                    text.split(|c: char| !c.is_ascii_digit()).nth(n).map_or(0, str::len)
                };
                own.iter().map(length).collect::<Vec<usize>>()
            };
            for (n, mark) in marks.chars().enumerate() {
                if part(n).iter().any(|length| *length > 0) {
                    written.run('d', part(n).into_iter());
                }
                written.literal(mark.encode_utf8(&mut [0; 4]));
            }
            written.run('d', part(marks.chars().count()).into_iter());
        }
        None if !is_number && may_part => return Err(forms.into_values().collect()),
        _ => written.slot("[n]"),
    }
    Ok(())
}

/// A chunk of letters and digits: its runs where they are the same in nearly all texts.
fn mixed(texts: &[&str], written: &mut Written) {
    let runs = |text: &str| -> Vec<(char, usize)> {
        let mut runs: Vec<(char, usize)> = Vec::new();
        for kind in text.chars().map(kind) {
            match runs.last_mut() {
                Some((of, length)) if *of == kind => *length += 1,
                _ => runs.push((kind, 1)),
            }
        }
        runs
    };
    let mut kinds: BTreeMap<String, Vec<Vec<(char, usize)>>> = BTreeMap::new();
    for text in texts {
        let runs = runs(text);
        kinds.entry(runs.iter().map(|(kind, _)| *kind).collect()).or_default().push(runs);
    }
    match kinds.into_iter().find(|(_, of)| nearly_all(of.len(), texts.len())) {
        Some((kinds, of)) if !kinds.contains('c') => {
            for (n, kind) in kinds.chars().enumerate() {
                written.run(kind, of.iter().map(|runs| runs[n].1));
            }
        }
        _ => written.slot("[x]"),
    }
}

/// Words: literal where nearly all texts have the same, slots between.
fn words(
    lines: &[Line<'_>],
    members: &[usize],
    n: usize,
    may_part: bool,
    written: &mut Written,
) -> Result<(), Vec<Vec<usize>>> {
    let words: Vec<Vec<&str>> = members
        .iter()
        .map(|member| match &lines[*member].elements[n] {
            Element::Words(spans) => {
                spans.iter().map(|span| &lines[*member].text[span.clone()]).collect()
            }
            _ => Vec::new(),
        })
        .collect();
    let steady = steady(&words);
    // Where the steady words stand in each text, in their order.
    let places: Vec<Option<Vec<usize>>> =
        words.iter().map(|words| places(words, &steady)).collect();
    let mut pieces: Vec<Piece<'_, '_>> = Vec::new();
    for gap in 0..=steady.len() {
        let between = |words: &[&str], places: &[usize]| {
            let from = if gap == 0 { 0 } else { places[gap - 1] + 1 };
            from..places.get(gap).copied().unwrap_or(words.len())
        };
        let each: Vec<(usize, std::ops::Range<usize>)> = places
            .iter()
            .enumerate()
            .filter_map(|(text, places)| Some((text, between(&words[text], places.as_ref()?))))
            .collect();
        let (without, with): (Vec<_>, Vec<_>) =
            each.iter().partition(|(_, between)| between.is_empty());
        if !without.is_empty() && !with.is_empty() && may_part {
            let is_odd =
                nearly_all(without.len(), each.len()) || nearly_all(with.len(), each.len());
            if !is_odd {
                let of =
                    |texts: &[&(usize, _)]| texts.iter().map(|(text, _)| members[*text]).collect();
                return Err(vec![of(&without), of(&with)]);
            }
        }
        if with.len() * 20 > each.len() {
            let values = with.iter().map(|(text, between)| &words[*text][between.clone()]);
            pieces.push(Piece::Slot(values.collect()));
        }
        if let Some(word) = steady.get(gap) {
            let spellings = words.iter().flatten().filter(|other| is_in_lower_case(word, other));
            let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
            spellings.for_each(|spelling| *counts.entry(spelling).or_default() += 1);
            pieces.push(Piece::Literal(counts));
        }
    }
    for (n, piece) in pieces.iter().enumerate() {
        if n > 0 {
            written.literal(" ");
        }
        match piece {
            Piece::Literal(spellings) => written.word(spellings),
            Piece::Slot(values) => slot_of_words(values, written),
        }
    }
    Ok(())
}

enum Piece<'t, 'w> {
    /// A word with how often it is spelled in which way.
    Literal(BTreeMap<&'t str, usize>),
    /// What stands in the slot in each text.
    Slot(Vec<&'w [&'t str]>),
}

/// The words, in lower case, that nearly all texts have, in the order in which they stand.
fn steady(words: &[Vec<&str>]) -> Vec<String> {
    // In how many texts each stands, the sum of its places in them, and the last of them.
    let mut seen: BTreeMap<String, (usize, usize, usize)> = BTreeMap::new();
    let mut lower = String::new();
    for (text, words) in words.iter().enumerate() {
        for (place, word) in words.iter().enumerate() {
            write_in_lower_case(word, &mut lower);
            match seen.get_mut(&lower) {
                Some((.., last)) if *last == text => {}
                Some((texts, places, last)) => {
                    (*texts, *places, *last) = (*texts + 1, *places + place, text);
                }
                None => {
                    seen.insert(lower.clone(), (1, place, text));
                }
            }
        }
    }
    let steady = seen.into_iter().filter(|(_, (texts, ..))| nearly_all(*texts, words.len()));
    let mut steady: Vec<(String, (usize, usize))> =
        steady.map(|(word, (texts, places, _))| (word, (texts, places))).collect();
    // By the mean of their places.
    steady.sort_by(|(_, (a, of_a)), (_, (b, of_b))| (of_a * b).cmp(&(of_b * a)));
    let mut steady: Vec<String> = steady.into_iter().map(|(word, _)| word).collect();
    // Words that stand in another order in many texts are not steady.
    while !steady.is_empty() {
        let fit = words.iter().filter(|words| places(words, &steady).is_some()).count();
        if nearly_all(fit, words.len()) {
            break;
        }
        steady.pop();
    }
    steady
}

/// Whether a word is another one in lower case.
fn is_in_lower_case(word: &str, other: &str) -> bool {
    if other.is_ascii() { other.eq_ignore_ascii_case(word) } else { other.to_lowercase() == word }
}

/// Where steady words stand among the words of a text, one after the other.
fn places(words: &[&str], steady: &[String]) -> Option<Vec<usize>> {
    let mut from = 0;
    steady
        .iter()
        .map(|word| {
            let place =
                from + words[from..].iter().position(|other| is_in_lower_case(word, other))?;
            from = place + 1;
            Some(place)
        })
        .collect()
}

/// A slot of words: `[w+]` where their number varies, runs of letters where they are codes.
fn slot_of_words(values: &[&[&str]], written: &mut Written) {
    let single: Vec<&str> =
        values.iter().filter(|words| words.len() == 1).map(|words| words[0]).collect();
    if !nearly_all(single.len(), values.len()) {
        return written.slot("[w+]");
    }
    if single.len() < values.len() && single.len() * 200 < values.len() * 199 {
        return written.slot("[w+]");
    }
    // Codes of letters alone: `GR-TIL`.
    let divided =
        |word: &str| word.split('-').map(|part| shape(part).starts_with("[U")).collect::<Vec<_>>();
    let usual = divided(single[0]);
    if usual.len() > 1
        && usual.iter().all(|is_upper| *is_upper)
        && single.iter().all(|word| divided(word) == usual && word.is_ascii())
    {
        for n in 0..usual.len() {
            if n > 0 {
                written.literal("-");
            }
            written.run('U', single.iter().filter_map(|word| word.split('-').nth(n)).map(str::len));
        }
        return;
    }
    let are = |of: char| {
        let own = single.iter().filter(|word| word.chars().all(|c| kind(c) == of));
        nearly_all(own.count(), single.len())
    };
    let lengths = || single.iter().map(|word| word.len());
    let is_of_one_length =
        usual_lengths(lengths()).is_some_and(|(least, most)| least == most && most < 5);
    if are('U') {
        written.run('U', single.iter().filter(|word| word.is_ascii()).map(|word| word.len()));
    } else if are('l') && is_of_one_length {
        written.run('l', lengths());
    } else {
        written.slot("[w]");
    }
}
