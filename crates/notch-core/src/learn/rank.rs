//! Which of the cuts that give every example is probably meant: one that finds its piece in all
//! rows written like the examples, finds the same kind of thing there, and says little.

use std::collections::BTreeMap;
use std::hash::Hasher;

use xxhash_rust::xxh3::Xxh3;

use super::search::{Candidate, kind_of};
use super::trial::{Trial, Tried};
use crate::Scratch;
use crate::shape::words_of;
use crate::text::characters;

/// How much it weighs that a cut finds nothing in any row, in what steps cost.
const UNREACHED: f64 = 400.0;
/// How much it weighs that what it finds is of as many kinds as there are rows.
const UNEVEN: f64 = 120.0;

/// How much it weighs that a cut finds something in all rows that are written unlike the examples:
/// of two cuts that do the same for the examples the one that says what it looks for is the safer
/// one.
const ELSEWHERE: f64 = 15.0;

/// How much it weighs that a cut says how many parts there are where many rows have others.
const MISCOUNTED: f64 = 14.0;

/// How much it weighs that a position lies within a run in some rows and at its end in others.
const SHIFTING: f64 = 60.0;

/// A row of the sample.
#[derive(Clone, Copy)]
pub(super) struct Row<'s> {
    pub text: &'s str,
    /// It is written like an example.
    pub is_like_examples: bool,
}

/// A cut with what it does to the rows of a sample.
#[derive(Debug, Clone)]
pub(super) struct Ranked {
    pub candidate: Candidate,
    /// The lower the better.
    pub score: f64,
    /// In how many rows it finds its piece.
    pub found: u32,
    /// A hash of all its pieces: cuts that give the same in all rows have the same.
    pub same: u64,
    /// A piece of a row written like an example begins or ends with white space.
    pub has_space: bool,
}

/// Runs a cut over some rows; `None` where it cannot be used.
pub(super) fn ranked(
    candidate: &Candidate,
    column: &str,
    rows: &[Row<'_>],
    scratch: &mut Scratch,
) -> Option<Ranked> {
    let trial = Trial::new(column, [candidate.cut().as_str()])?;
    let (mut like, mut found, mut has_space) = (0_u32, 0_u32, false);
    let (mut others, mut found_in_others) = (0_u32, 0_u32);
    let mut kinds: BTreeMap<String, u32> = BTreeMap::new();
    let mut same = Xxh3::new();
    // Without rows every cut is one of its own.
    if rows.is_empty() {
        same.write(candidate.cut().as_bytes());
    }
    trial.run(rows.iter().map(|row| row.text), scratch, |row, _, Tried { piece, is_found }| {
        same.write(piece.as_bytes());
        same.write_u8(0xFF);
        if !rows[row].is_like_examples {
            others += 1;
            found_in_others += u32::from(is_found);
        } else {
            has_space |= piece.trim() != piece;
            like += 1;
            if is_found {
                found += 1;
                // A sign belongs to its number.
                let kind = words_of(piece.strip_prefix('-').unwrap_or(piece));
                *kinds.entry(kind).or_default() += 1;
            }
        }
    });
    let of = |count: u32, all: u32| f64::from(count) / f64::from(all.max(1));
    let commonest = kinds.iter().max_by_key(|(_, count)| **count);
    // Words are of any number and length.
    let is_words = commonest.is_some_and(|(kind, _)| kind.contains("[w+]"));
    let even = match commonest {
        Some((_, count)) if !is_words => of(*count, found),
        _ => 1.0,
    };
    let reach = if like == 0 { 1.0 } else { of(found, like) };
    // How many parts there are is said where nearly all rows have as many.
    let says_count =
        candidate.steps.iter().any(|step| step.starts_with("part ") && step.contains(" of "));
    let is_false = says_count && found + found_in_others < (like + others) / 20 * 19;
    let miscounted = if is_false { MISCOUNTED } else { 0.0 };
    let looks_at_all = ["number", "block ", "word ", "digits", "letters", "keep "];
    let first = candidate.steps.first().map_or("", String::as_str);
    let is_wide = looks_at_all.iter().any(|word| first.starts_with(word))
        && !first.starts_with("number after");
    let elsewhere = if is_wide { ELSEWHERE * of(found_in_others, others) } else { 0.0 };
    let shifts = if shifts(first, rows) { SHIFTING } else { 0.0 };
    let elsewhere = elsewhere + miscounted + shifts;
    let score =
        f64::from(candidate.cost) + UNREACHED * (1.0 - reach) + UNEVEN * (1.0 - even) + elsewhere;
    Some(Ranked {
        candidate: candidate.clone(),
        score,
        found: found + found_in_others,
        same: same.finish(),
        has_space,
    })
}

/// The best first; of those that give the same in all rows the one that is read most easily.
pub(super) fn classes(mut ranked: Vec<Ranked>) -> Vec<Ranked> {
    let better = |a: &Ranked, b: &Ranked| {
        a.score.total_cmp(&b.score).then_with(|| a.candidate.cmp(&b.candidate))
    };
    ranked.sort_by(better);
    let mut classes: Vec<Ranked> = Vec::new();
    for one in ranked {
        if classes.iter().all(|known| known.same != one.same) {
            classes.push(one);
        }
    }
    classes
}

/// Whether a step counts characters up to a place that is not of one kind in nearly all rows: the
/// end of a run in some of them, the middle of one in others.
fn shifts(step: &str, rows: &[Row<'_>]) -> bool {
    let mut words = step.split(' ');
    let (from_end, places): (bool, Vec<usize>) = match (words.next(), words.next(), words.next()) {
        (Some("first"), Some(count), None) => (false, numbers_of(count)),
        (Some("last"), Some(count), None) => (true, numbers_of(count)),
        (Some("drop"), Some(side), Some(count)) => (side == "last", numbers_of(count)),
        (Some("chars"), Some(range), None) => {
            let places = numbers_of(range);
            match (range.starts_with('-'), places.as_slice()) {
                (false, [first, last]) => (false, vec![first - 1, *last]),
                (true, [first, last]) => (true, vec![*first, last - 1]),
                (from_end, [one]) => (from_end, vec![one - 1, *one]),
                _ => return false,
            }
        }
        _ => return false,
    };
    places.into_iter().filter(|place| *place > 0).any(|place| {
        let mut kinds: BTreeMap<(u8, u8), usize> = BTreeMap::new();
        let like = rows.iter().filter(|row| row.is_like_examples).take(MOST_ROWS);
        for row in like {
            let at = match from_end {
                true => characters::notch_before_last(row.text, place),
                false => characters::notch_after(row.text, place),
            };
            let kind = |c: Option<char>| c.map_or(u8::MAX, kind_of);
            if let Some(at) = at {
                let (before, after) = row.text.split_at(at);
                let pair = (kind(before.chars().next_back()), kind(after.chars().next()));
                *kinds.entry(pair).or_default() += 1;
            }
        }
        let all: usize = kinds.values().sum();
        kinds.values().max().is_some_and(|most| most * 200 < all * 199)
    })
}

/// The number of rows that tell whether a position shifts.
const MOST_ROWS: usize = 1000;

/// The numbers of a range, without their signs.
fn numbers_of(range: &str) -> Vec<usize> {
    range.split("..").filter_map(|n| n.trim_start_matches('-').parse().ok()).collect()
}
