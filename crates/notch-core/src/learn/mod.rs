//! Learning a cut from examples: a cell, and the piece that is to come out of it.
//!
//! 1. `search.rs` puts together what the words guess for an example: each word says, beside its
//!    entry, how it could have made a piece of a text.
//! 2. `trial.rs` runs them: a cut that does not give every example is dropped.
//! 3. `rank.rs` runs what is left over a sample of the column, and puts first what is probably
//!    meant. Cuts that give the same in all rows are one.
//!
//! `judge.rs` then runs the best of them over all rows, and finds the row to ask about.
//!
//! Everything is bounded by work, not by time, so that every run gives the same.

mod judge;
mod lesson;
mod rank;
mod search;
mod trial;

use std::collections::BTreeMap;

use crate::Scratch;
use crate::layouts::{Layouts, TextSample};
pub use judge::{Judge, Judged};
pub use lesson::{Lesson, read_lesson, write_lesson};
use rank::{Ranked, Row, classes, ranked};
use search::{Candidate, LONGEST, candidates};
pub use trial::{Trial, Tried};

/// How many rows of a column are looked at for the order of cuts.
pub const LEARNING_ROWS: usize = 20_000;
/// By so many of them the candidates are chosen that are run on all.
const FIRST_ROWS: usize = 256;
/// At most that many candidates are run on all of them.
const CHOSEN: usize = 64;
/// From so many examples candidates are made; all others only test them.
const SEARCHED: usize = 3;
/// What the trimming of white space says.
const TRIM: u32 = 6;
/// How much it weighs that a cut gives none of the examples that may be mistakes, in what steps
/// cost.
const WRONG: f64 = 600.0;
/// Cuts whose score is no further from the best are asked about.
const NEAR: f64 = 70.0;
/// At most that many different cuts are told.
const MOST: usize = 8;

/// What was learnt.
#[derive(Debug, Clone, Default)]
pub struct Learned {
    /// The cuts that give every example, the best first; no two of them give the same in all rows
    /// of the sample.
    pub cuts: Vec<String>,
    /// Where there is none: the example, by its place, that the best cut does not give, and what
    /// that gives for how many examples.
    pub stopped: Option<Stopped>,
}

/// Why nothing was learnt.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Stopped {
    /// The first example, by its place, that no cut gives together with those that `most` gives.
    pub lesson: usize,
    /// The cut that gives the most examples, and how many; `None` where none gives any.
    pub most: Option<(String, usize)>,
}

/// Finds the cuts that give every lesson, for a column of that name whose texts are sampled, and
/// that is written in these layouts.
pub fn learn(lessons: &[Lesson], column: &str, sample: &TextSample, layouts: &Layouts) -> Learned {
    let mut scratch = Scratch::default();
    let is_filled = |lesson: &&Lesson| !lesson.piece.is_empty() && lesson.cell.len() <= LONGEST;
    let mut found: BTreeMap<Vec<String>, u32> = BTreeMap::new();
    // Any of those that do not bind may be a mistake.
    let searched = if lessons.iter().all(|lesson| lesson.binds) { SEARCHED } else { 2 * SEARCHED };
    for lesson in lessons.iter().filter(is_filled).take(searched) {
        for Candidate { cost, steps } in candidates(&lesson.cell, &lesson.piece, column) {
            let known = found.entry(steps).or_insert(cost);
            *known = cost.min(*known);
        }
    }
    let mut most: Option<(usize, Candidate, usize)> = None;
    let mut right: Vec<Candidate> = Vec::new();
    for (steps, cost) in found {
        let candidate = Candidate { cost, steps };
        let Some(given) = given(&candidate.cut(), column, lessons, &mut scratch) else { continue };
        let count = given.iter().filter(|given| **given).count();
        match stop(lessons, &given) {
            None => {
                let wrong = (lessons.len() - count) as f64 / lessons.len() as f64;
                right.push(Candidate {
                    cost: candidate.cost + (WRONG * wrong) as u32,
                    steps: candidate.steps,
                });
            }
            Some(stop) => {
                let is_more = most.as_ref().is_none_or(|(known, best, _)| {
                    (count, std::cmp::Reverse(candidate.cost))
                        > (*known, std::cmp::Reverse(best.cost))
                });
                if is_more {
                    most = Some((count, candidate, stop));
                }
            }
        }
    }
    if right.is_empty() {
        let lesson = most.as_ref().map_or(0, |(.., stop)| *stop);
        let most =
            most.filter(|(count, ..)| *count > 0).map(|(count, best, _)| (best.cut(), count));
        return Learned { cuts: Vec::new(), stopped: Some(Stopped { lesson, most }) };
    }
    let places: Vec<Option<usize>> = lessons
        .iter()
        .filter(|lesson| !lesson.piece.is_empty())
        .map(|lesson| layouts.place(&lesson.cell))
        .collect();
    let all_rows = layouts.layouts.is_empty() || places.iter().all(Option::is_none);
    let texts = sample.texts(LEARNING_ROWS);
    let rows: Vec<Row<'_>> = texts
        .iter()
        .map(|text| {
            let place = || layouts.place(&text.text);
            Row::of(text, all_rows || place().is_some_and(|place| places.contains(&Some(place))))
        })
        .collect();
    let has_space = lessons.iter().any(|lesson| lesson.piece.trim() != lesson.piece);
    let blank = lessons.iter().any(|lesson| lesson.piece.is_empty());
    let mut run = |candidates: &[Candidate], rows: &[Row<'_>]| -> Vec<Ranked> {
        candidates.iter().filter_map(|one| ranked(one, column, rows, &mut scratch)).collect()
    };
    // White space that no example has at its ends is trimmed off.
    right.sort();
    let step = rows.len().div_ceil(FIRST_ROWS).max(1);
    let some: Vec<Row<'_>> = rows
        .iter()
        .step_by(step)
        .map(|row| Row { text: row.text, is_like_examples: row.is_like_examples })
        .collect();
    let mut first = run(&right, &some);
    if !has_space {
        // As early as it serves: behind the step that takes the piece, before it is filled up.
        let spaced: Vec<Candidate> =
            first.iter().filter(|one| one.has_space).map(|one| one.candidate.clone()).collect();
        first.retain(|one| !one.has_space);
        for candidate in spaced {
            let trimmed = (1..=candidate.steps.len()).map(|at| {
                let mut steps = candidate.steps.clone();
                steps.insert(at, "trim".to_owned());
                Candidate { cost: candidate.cost + TRIM, steps }
            });
            let mut kept = trimmed.filter_map(|one| run(&[one], &some).pop());
            first.extend(kept.find(|one| !one.has_space));
        }
    }
    first.sort_by(|a, b| a.score.total_cmp(&b.score).then_with(|| a.candidate.cmp(&b.candidate)));
    first.truncate(CHOSEN);
    let chosen: Vec<Candidate> = first.into_iter().map(|one| one.candidate).collect();
    let mut all = run(&chosen, &rows);
    prefer_any_case(&mut all);
    let classes = classes(all);
    let best = classes.first().map_or(0.0, |best| best.score);
    let ending = if blank { " else \"\"" } else { "" };
    Learned {
        cuts: classes
            .into_iter()
            .take_while(|one| one.score <= best + NEAR)
            .take(MOST)
            .map(|one| format!("{}{ending}", one.candidate.cut()))
            .collect(),
        stopped: None,
    }
}

/// Where a mark in any case finds more than the same mark as it stands, it is the one that is meant.
fn prefer_any_case(ranked: &mut [Ranked]) {
    let known: BTreeMap<String, (f64, u32)> =
        ranked.iter().map(|one| (one.candidate.cut(), (one.score, one.found))).collect();
    for one in ranked {
        let cut = one.candidate.cut();
        let exact = cut.replace(" ignoring case", "");
        match known.get(&exact) {
            Some((score, found)) if exact != cut && one.found > *found => {
                one.score = one.score.min(score - 1.0);
            }
            _ => {}
        }
    }
}

/// The first lesson that rules a cut out: one that binds; of the others, which may be mistakes, at
/// least three and two thirds are to be given.
fn stop(lessons: &[Lesson], given: &[bool]) -> Option<usize> {
    let wrong = |binds: bool| {
        let missed = lessons.iter().zip(given).enumerate();
        missed.filter(move |(_, (lesson, given))| lesson.binds == binds && !**given).map(|(n, _)| n)
    };
    let others = lessons.iter().filter(|lesson| !lesson.binds).count();
    let right = others - wrong(false).count();
    let agree = others == 0 || right >= 3 && right * 3 >= others * 2;
    wrong(true).next().or_else(|| if agree { None } else { wrong(false).next() })
}

/// Which of the lessons a cut gives; `None` where it cannot be used.
fn given(cut: &str, column: &str, lessons: &[Lesson], scratch: &mut Scratch) -> Option<Vec<bool>> {
    let trial = Trial::new(column, [cut])?;
    let mut given = vec![false; lessons.len()];
    trial.run(lessons.iter().map(|lesson| lesson.cell.as_str()), scratch, |n, _, tried| {
        given[n] = tried.piece == lessons[n].piece;
    });
    Some(given)
}
