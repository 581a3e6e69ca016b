//! Layouts gathered into one, where what stands in a slot has signs of its own: names with
//! initials, paths of several depths. That slot becomes `[*]`.

use std::cmp::Reverse;
use std::collections::BTreeSet;

use super::sample::Sampled;
use crate::shape::{ShapePattern, pattern_parts};

/// How many layouts are tried, and on how many texts each.
const MOST_TRIED: usize = 8;
const MOST_TEXTS: usize = 400;
/// How often layouts are gathered.
const ROUNDS: usize = 4;

/// A pattern, and whether its letters may be of either case.
pub(super) type Pattern = (String, bool);

/// A pattern with what it takes of the texts.
struct Taking {
    pattern: Pattern,
    texts: BTreeSet<usize>,
    words: BTreeSet<String>,
}

impl Taking {
    fn of((pattern, ignoring_case): Pattern, texts: &[&str]) -> Option<Self> {
        let compiled = ShapePattern::read(&pattern).ok()?.ignoring_case(ignoring_case);
        let taken = (0..texts.len()).filter(|n| compiled.matches(texts[*n])).collect();
        let words = words(&pattern);
        Some(Self { pattern: (pattern, ignoring_case), texts: taken, words })
    }
}

/// The literal words of a pattern, in lower case.
fn words(pattern: &str) -> BTreeSet<String> {
    let literals = pattern_parts(pattern).into_iter().filter(|(is_slot, _)| !is_slot);
    literals
        .flat_map(|(_, text)| {
            text.split(|c: char| !c.is_alphabetic()).map(str::to_lowercase).collect::<Vec<_>>()
        })
        .filter(|word| !word.is_empty())
        .collect()
}

/// Gathers patterns, the commonest first, of which each may take all of some others and texts of
/// none, once one of its slots takes anything.
pub(super) fn gathered(patterns: Vec<Pattern>, sample: &[Sampled], least: usize) -> Vec<Pattern> {
    // Every nth text, in the order of their rows.
    let step = sample.len().div_ceil(MOST_TEXTS).max(1);
    let texts: Vec<&str> = sample.iter().step_by(step).map(|sampled| &*sampled.text).collect();
    let least = least.div_ceil(step).max(1);
    let mut all: Vec<Taking> =
        patterns.into_iter().filter_map(|pattern| Taking::of(pattern, &texts)).collect();
    let taken: BTreeSet<usize> = all.iter().flat_map(|of| of.texts.iter().copied()).collect();
    if all.len() < 4 && (texts.len() - taken.len()) * 50 <= texts.len() {
        return all.into_iter().map(|of| of.pattern).collect();
    }
    for _ in 0..ROUNDS {
        // The first of those that take most.
        let best = (0..all.len().min(MOST_TRIED))
            .flat_map(|n| wider(&all[n].pattern).into_iter().map(move |wide| (n, wide)))
            .filter_map(|(n, wide)| Some((n, Taking::of(wide, &texts)?)))
            .filter(|(n, wide)| is_gain(wide, &all[*n], &all, least))
            .enumerate()
            .max_by_key(|(place, (_, wide))| (wide.texts.len(), Reverse(*place)))
            .map(|(_, best)| best);
        let Some((n, wide)) = best else { break };
        let is_taken =
            |other: &Taking| other.texts.is_subset(&wide.texts) && !other.texts.is_empty();
        let place = all.iter().position(is_taken).unwrap_or(n);
        all.retain(|other| !is_taken(other));
        all.insert(place.min(all.len()), wide);
    }
    all.into_iter().map(|of| of.pattern).collect()
}

/// A pattern with its slots, one or several beside each other, in turn as `[*]`; enough has
/// to be left to tell its texts from others.
fn wider((pattern, ignoring_case): &Pattern) -> Vec<Pattern> {
    let parts = pattern_parts(pattern);
    let slots: Vec<usize> = (0..parts.len()).filter(|n| parts[*n].0).collect();
    if pattern.contains("[*]") {
        return Vec::new();
    }
    let mut wider = Vec::new();
    for (n, from) in slots.iter().enumerate() {
        for to in &slots[n..] {
            let written = |parts: &[(bool, String)]| -> String {
                let part = |(is_slot, text): &(bool, String)| {
                    if *is_slot { text.clone() } else { text.replace('[', "[[]") }
                };
                parts.iter().map(part).collect()
            };
            let (left, right) = (&parts[..*from], &parts[to + 1..]);
            let literal: String = left
                .iter()
                .chain(right)
                .filter(|part| !part.0)
                .map(|part| part.1.as_str())
                .collect();
            let signs =
                literal.chars().filter(|c| !c.is_whitespace() && !c.is_alphanumeric()).count();
            let is_held = |parts: &[(bool, String)]| {
                parts.iter().any(|part| !part.0 && !part.1.trim().is_empty())
            };
            let words = words(&written(left)).len() + words(&written(right)).len();
            let is_between = is_held(left) && is_held(right) && words + signs / 3 > 0;
            if is_between || words > 1 {
                wider.push((format!("{}[*]{}", written(left), written(right)), *ignoring_case));
            }
        }
    }
    wider
}

/// Whether a wider pattern takes more than its own, and of each other layout all or nothing; those
/// with words of their own only where they are scraps.
fn is_gain(wide: &Taking, own: &Taking, all: &[Taking], least: usize) -> bool {
    let gain = wide.texts.len() - own.texts.intersection(&wide.texts).count();
    let is_all_or_nothing = |other: &Taking| {
        let both = other.texts.intersection(&wide.texts).count();
        let has_words = !other.words.is_subset(&wide.words);
        both == 0
            || other.texts.is_subset(&own.texts)
            || both == other.texts.len() && (!has_words || both * 10 <= wide.texts.len())
    };
    gain >= least.max(own.texts.len() / 10) && all.iter().all(is_all_or_nothing)
}
