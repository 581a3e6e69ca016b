//! Steady words: those that part texts of equal signs into layouts.

use std::collections::{BTreeMap, BTreeSet};

use super::lines::{Element, Line};
use super::tokens::write_in_lower_case;

/// That many of the commonest words are looked at.
const MOST_WORDS: usize = 200;

/// More pairs of words than this that stand at one place are the values of a slot.
const MOST_PAIRS: usize = 3;

/// Whether a count is nearly all of another: 95 of 100.
pub(super) fn nearly_all(count: usize, of: usize) -> bool {
    count * 100 >= of * 95
}

/// A word of a group of texts.
struct Word {
    word: String,
    /// The texts that have it, by their places in the group, in rising order.
    texts: Vec<usize>,
    /// In how many of them it begins with a capital, not at the beginning of the text.
    capitals: usize,
    /// Where it stands mostly: which element, which word of it.
    place: (usize, usize),
}

/// Parts texts of equal signs by words that always stand together, where each part has two words
/// that the others have not; `None` where they are of one layout. A part is not smaller than
/// `least`; what is left over is in none.
pub(super) fn parts(
    lines: &[Line<'_>],
    members: &[usize],
    least: usize,
) -> Option<Vec<Vec<usize>>> {
    let words = words_of(lines, members);
    let common: Vec<&Word> = words
        .iter()
        .filter(|word| word.texts.len() >= least && !nearly_all(word.texts.len(), members.len()))
        .take(MOST_WORDS)
        .collect();
    let mut bound = bound(&common);
    // The two words of a value, such as a name, always stand together as well.
    let adjacent = |words: &[&Word]| {
        let [first, second] = words else { return None };
        let (first, second) =
            if first.place < second.place { (*first, *second) } else { (*second, *first) };
        let are_adjacent = first.place.0 == second.place.0 && first.place.1 + 1 == second.place.1;
        are_adjacent.then(|| (first.place, first.capitals * 10 >= first.texts.len() * 9))
    };
    let mut at_place: BTreeMap<(usize, usize), usize> = BTreeMap::new();
    for (place, _) in bound.iter().filter_map(|words| adjacent(words)) {
        *at_place.entry(place).or_default() += 1;
    }
    // A name and the address made of it are one word.
    bound.iter_mut().for_each(|words| {
        let mut seen: BTreeSet<&str> = BTreeSet::new();
        words.retain(|word| seen.insert(word.word.as_str()));
    });
    bound.retain(|words| words.len() > 1);
    bound.retain(|words| {
        adjacent(words).is_none_or(|(place, is_name)| !is_name && at_place[&place] <= MOST_PAIRS)
    });
    let mut taken: BTreeSet<usize> = BTreeSet::new();
    let mut parts: Vec<(Vec<usize>, &Vec<&Word>)> = Vec::new();
    for words in &bound {
        let mut texts = words[0].texts.clone();
        words[1..].iter().for_each(|word| texts = in_both(&texts, &word.texts).collect());
        let own: Vec<usize> = texts.iter().copied().filter(|text| !taken.contains(text)).collect();
        if own.len() >= least && nearly_all(own.len(), texts.len()) {
            taken.extend(&own);
            parts.push((own, words));
        }
    }
    let rest: Vec<usize> = (0..members.len()).filter(|text| !taken.contains(text)).collect();
    let is_rest_small = rest.len() < least || nearly_all(taken.len(), members.len());
    if parts.is_empty() || is_rest_small && parts.len() == 1 {
        return None;
    }
    let mut found: Vec<Vec<usize>> = parts.iter().map(|(texts, _)| texts.clone()).collect();
    if !is_rest_small {
        let steady: Vec<&Word> = words
            .iter()
            .filter(|word| nearly_all(in_both(&word.texts, &rest).count(), rest.len()))
            .collect();
        let is_parted = |texts: &[usize]| {
            let own = steady
                .iter()
                .filter(|word| in_both(&word.texts, texts).count() * 20 <= texts.len());
            own.count() >= 2
        };
        if !found.iter().all(|texts| is_parted(texts)) {
            return None;
        }
        found.push(rest);
    }
    let members_of = |texts: Vec<usize>| texts.into_iter().map(|text| members[text]).collect();
    Some(found.into_iter().map(members_of).collect())
}

/// The numbers that are in both of two lists, each in rising order.
fn in_both<'n>(some: &'n [usize], others: &'n [usize]) -> impl Iterator<Item = usize> + 'n {
    let mut others = others.iter().copied().peekable();
    some.iter().copied().filter(move |n| {
        while others.next_if(|other| other < n).is_some() {}
        others.next_if_eq(n).is_some()
    })
}

/// The words of the texts, the commonest first.
fn words_of(lines: &[Line<'_>], members: &[usize]) -> Vec<Word> {
    // A word before a number is another one than the same word after it.
    let mut words: Vec<BTreeMap<String, Word>> = Vec::new();
    let mut lower = String::new();
    for (n, line) in members.iter().map(|member| &lines[*member]).enumerate() {
        words.resize_with(words.len().max(line.elements.len()), BTreeMap::new);
        for (element, of) in line.elements.iter().enumerate() {
            let Element::Words(spans) = of else { continue };
            for (place, span) in spans.iter().enumerate() {
                let written = &line.text[span.clone()];
                write_in_lower_case(written, &mut lower);
                let is_capital = span.start > 0 && written.starts_with(char::is_uppercase);
                let capitals = usize::from(is_capital);
                match words[element].get_mut(&lower) {
                    Some(word) if word.texts.last() == Some(&n) => {}
                    Some(word) => {
                        word.texts.push(n);
                        word.capitals += capitals;
                    }
                    None => {
                        let (word, texts) = (lower.clone(), vec![n]);
                        let word = Word { word, texts, capitals, place: (element, place) };
                        words[element].insert(lower.clone(), word);
                    }
                }
            }
        }
    }
    let mut words: Vec<Word> = words.into_iter().flat_map(BTreeMap::into_values).collect();
    words.sort_by(|a, b| b.texts.len().cmp(&a.texts.len()).then_with(|| a.word.cmp(&b.word)));
    words
}

/// Words that stand together in nearly all texts that have one of them, at least two each; those
/// of most texts first.
fn bound<'w>(words: &[&'w Word]) -> Vec<Vec<&'w Word>> {
    let mut bound: Vec<Vec<&'w Word>> = Vec::new();
    for word in words {
        let is_bound = |to: &&mut Vec<&Word>| {
            let other = &to[0].texts;
            let together = in_both(other, &word.texts).count();
            nearly_all(together, other.len().max(word.texts.len()))
        };
        match bound.iter_mut().find(is_bound) {
            Some(to) => to.push(word),
            None => bound.push(vec![word]),
        }
    }
    bound.retain(|words| words.len() > 1);
    bound
}
