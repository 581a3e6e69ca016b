//! Learning a cut from examples: a cell, and the piece that is to come out of it.
//!
//! 1. `search.rs` puts together what the words guess for an example: each word says, beside its
//!    entry, how it could have made a piece of a text.
//! 2. `trial.rs` runs them: a cut that does not give every example is dropped.
//! 3. `rank.rs` runs what is left over a sample of the column, and puts first what is probably
//!    meant. Cuts that give the same in all rows are one.
//!
//! Where no one chain gives all examples, `chains.rs` joins one for each layout. `judge.rs` then
//! runs the best of them over all rows, and finds the row to ask about.
//!
//! Everything is bounded by work, not by time, so that every run gives the same.

mod chains;
mod judge;
mod lesson;
mod rank;
mod search;
mod templates;
mod trial;

use std::cmp::Reverse;
use std::collections::BTreeMap;

use crate::Scratch;
use crate::language::in_braces;
use crate::layouts::{Layouts, Sampled, TextSample};
pub use judge::{Judge, Judged};
pub use lesson::{Lesson, read_lesson, write_lesson};
use rank::{Ranked, Row, classes, ranked};
use search::{Candidate, LONGEST, candidates, nearest_piece};
use templates::templates;
pub use trial::{Trial, Tried};

/// How many rows of a column are looked at for the order of cuts.
pub const LEARNING_ROWS: usize = 20_000;
/// The number of them by which the candidates are chosen that are run on all.
const FIRST_ROWS: usize = 128;
/// At most that many candidates that give all examples, the cheapest, are run on those.
const RANKED: usize = 240;
/// The largest number of candidates that are run on all of them.
const CHOSEN: usize = 64;
/// The number of examples that candidates are made from; all others only test them.
const SEARCHED: usize = 3;
/// What the trimming of white space says.
const TRIM: u32 = 6;
/// How much it weighs that a cut gives none of the examples that may be mistakes, in what steps
/// cost.
const WRONG: f64 = 600.0;
/// Where the best single chain says more than this, a chain for each layout is tried as well.
const DEAR: u32 = 78;
/// Cuts whose score is no further from the best are asked about.
const NEAR: f64 = 70.0;
/// The largest number of different cuts that are told.
const MOST: usize = 8;

/// What was learnt.
#[derive(Debug, Clone, Default)]
pub struct Learned {
    /// The cuts that give every example, the best first; no two of them give the same in all rows
    /// of the sample.
    pub cuts: Vec<String>,
    /// Where there is none: why.
    pub stopped: Option<Stopped>,
    /// It was not broken off.
    pub complete: bool,
}

/// Why nothing was learnt.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Stopped {
    /// The first example, by its place, that no cut gives together with those that `most` gives.
    pub lesson: usize,
    /// The cut that gives the most examples, and how many; `None` where none gives any.
    pub most: Option<(String, usize)>,
    /// The piece of that example's cell that is most like the one that was wanted.
    pub nearest: Option<String>,
}

/// Finds the cuts that give every lesson, for a column of that name whose texts are sampled, and
/// that is written in these layouts. It is broken off as soon as `is_late`; what was found by then
/// is returned.
pub fn learn(
    lessons: &[Lesson],
    column: &str,
    sample: &TextSample,
    layouts: &Layouts,
    is_late: &dyn Fn() -> bool,
) -> Learned {
    let texts = sample.texts(LEARNING_ROWS);
    let mut search = Search {
        column,
        texts: &texts,
        places: texts.iter().map(|text| layouts.place(&text.text)).collect(),
        layouts,
        scratch: Scratch::default(),
        is_late,
        complete: true,
    };
    // A whole cell as the piece says nothing of what is to be taken: it is what is left where
    // nothing is found.
    let is_whole = |lesson: &&Lesson| lesson.piece == lesson.cell;
    let (whole, all): (Vec<&Lesson>, Vec<&Lesson>) = lessons.iter().partition(is_whole);
    let (mut classes, most) = search.one_chain(&all);
    if classes.first().is_none_or(|best| best.candidate.cost > DEAR) {
        classes.extend(search.several_chains(&all));
        classes = rank::classes(classes);
    }
    // What is nothing on purpose is no finding.
    let is_blank = lessons.iter().any(|lesson| lesson.piece.is_empty());
    let ending = match (is_blank, whole.is_empty()) {
        (_, false) => format!(" else {}", in_braces(column)),
        (true, true) => " else \"\"".to_owned(),
        (false, true) => String::new(),
    };
    let best = classes.first().map_or(0.0, |best| best.score);
    let mut cuts: Vec<String> = classes
        .into_iter()
        .take_while(|one| one.score <= best + NEAR)
        .take(MOST)
        .map(|one| format!("{}{ending}", one.candidate.cut()))
        .collect();
    if !whole.is_empty() {
        cuts = cuts.into_iter().filter_map(|cut| search.beside_whole(cut, &all, &whole)).collect();
    }
    if !ending.is_empty() {
        search.keep_different(&mut cuts);
    }
    let stopped = cuts.is_empty().then(|| {
        let at = most.as_ref().map_or(0, |(_, _, stop)| *stop);
        let at = all.get(at).map_or(0, |stop| {
            lessons.iter().position(|lesson| std::ptr::eq(lesson, *stop)).unwrap_or_default()
        });
        Stopped {
            lesson: at,
            most: most.filter(|(count, ..)| *count > 0).map(|(count, best, _)| (best.cut(), count)),
            nearest: lessons.get(at).and_then(|lesson| nearest_piece(&lesson.cell, &lesson.piece)),
        }
    });
    Learned { cuts, stopped, complete: search.complete }
}

/// What cuts are learnt for.
struct Search<'s> {
    column: &'s str,
    texts: &'s [Sampled],
    /// The layout of each of the texts.
    places: Vec<Option<usize>>,
    layouts: &'s Layouts,
    scratch: Scratch,
    is_late: &'s dyn Fn() -> bool,
    complete: bool,
}

/// A cut that gives many lessons though not all: how many, and the first that it does not give.
type Most = Option<(usize, Candidate, usize)>;

impl Search<'_> {
    /// The cuts of one chain that give every lesson, the best first; or where there is none, the
    /// one that gives most.
    fn one_chain(&mut self, lessons: &[&Lesson]) -> (Vec<Ranked>, Most) {
        let is_filled =
            |lesson: &&&Lesson| !lesson.piece.is_empty() && lesson.cell.len() <= LONGEST;
        let mut found: BTreeMap<Vec<String>, u32> = BTreeMap::new();
        // Any of those that do not bind may be a mistake.
        let binds = lessons.iter().all(|lesson| lesson.binds);
        let searched = if binds { SEARCHED } else { 2 * SEARCHED };
        for lesson in lessons.iter().filter(is_filled).take(searched) {
            let simple = candidates(&lesson.cell, &lesson.piece);
            let templates = templates(&lesson.cell, &lesson.piece, self.column);
            let templates =
                templates.into_iter().map(|(cost, cut)| Candidate { cost, steps: vec![cut] });
            for Candidate { cost, steps } in simple.into_iter().chain(templates) {
                let known = found.entry(steps).or_insert(cost);
                *known = cost.min(*known);
            }
        }
        let mut most: Most = None;
        let mut right: Vec<Candidate> = Vec::new();
        for (steps, cost) in found {
            if (self.is_late)() {
                self.complete = false;
                break;
            }
            let candidate = Candidate { cost, steps };
            let Some(given) = self.given(&candidate.cut(), lessons) else { continue };
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
                        (count, Reverse(candidate.cost)) > (*known, Reverse(best.cost))
                    });
                    if is_more {
                        most = Some((count, candidate, stop));
                    }
                }
            }
        }
        if right.is_empty() {
            return (Vec::new(), most);
        }
        right.sort();
        right.truncate(RANKED);
        (self.ranked(right, lessons), None)
    }

    /// Candidates that give every lesson in the order in which they are probably meant; of those
    /// that give the same in all rows one.
    fn ranked(&mut self, right: Vec<Candidate>, lessons: &[&Lesson]) -> Vec<Ranked> {
        let filled = || lessons.iter().filter(|lesson| !lesson.piece.is_empty());
        let places: Vec<Option<usize>> =
            filled().map(|lesson| self.layouts.place(&lesson.cell)).collect();
        let all_rows = self.layouts.layouts.is_empty() || places.iter().all(Option::is_none);
        let rows: Vec<Row<'_>> = self
            .texts
            .iter()
            .zip(&self.places)
            .map(|(text, place)| Row {
                text: &text.text,
                is_like_examples: all_rows || place.is_some() && places.contains(place),
            })
            .collect();
        let some: Vec<Row<'_>> =
            rows.iter().step_by(rows.len().div_ceil(FIRST_ROWS).max(1)).copied().collect();
        let (column, scratch, is_late) = (self.column, &mut self.scratch, self.is_late);
        let complete = &mut self.complete;
        let mut run = |candidates: &[Candidate], rows: &[Row<'_>]| -> Vec<Ranked> {
            let on_time = |n: usize| {
                let is_on_time = n == 0 || !is_late();
                *complete &= is_on_time;
                is_on_time
            };
            let mut on_time = on_time;
            let some = candidates.iter().enumerate().take_while(|(n, _)| on_time(*n));
            some.filter_map(|(_, one)| ranked(one, column, rows, scratch)).collect()
        };
        let mut first = run(&right, &some);
        // White space that no example has at its ends is trimmed off, as early as it serves: after
        // the step that takes the piece, before that is filled up.
        if filled().all(|lesson| lesson.piece.trim() == lesson.piece) {
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
        first.sort_by(|a, b| {
            a.score.total_cmp(&b.score).then_with(|| a.candidate.cmp(&b.candidate))
        });
        first.truncate(CHOSEN);
        let chosen: Vec<Candidate> = first.into_iter().map(|one| one.candidate).collect();
        let mut all = run(&chosen, &rows);
        prefer_any_case(&mut all);
        classes(all)
    }

    /// Of cuts that give the same in all rows the first one stays.
    fn keep_different(&mut self, cuts: &mut Vec<String>) {
        let rows: Vec<Row<'_>> = self
            .texts
            .iter()
            .map(|text| Row { text: &text.text, is_like_examples: true })
            .collect();
        let mut seen = Vec::new();
        cuts.retain(|cut| {
            let candidate = Candidate { cost: 0, steps: vec![cut.clone()] };
            let same = ranked(&candidate, self.column, &rows, &mut self.scratch);
            same.is_some_and(|one| {
                let is_new = !seen.contains(&one.same);
                seen.push(one.same);
                is_new
            })
        });
    }

    /// Which of the lessons a cut gives; `None` where it cannot be used.
    fn given(&mut self, cut: &str, lessons: &[&Lesson]) -> Option<Vec<bool>> {
        let trial = Trial::new(self.column, [cut])?;
        let mut given = vec![false; lessons.len()];
        let cells = lessons.iter().map(|lesson| lesson.cell.as_str());
        trial.run(cells, &mut self.scratch, |n, _, tried| {
            given[n] = tried.piece == lessons[n].piece;
        });
        Some(given)
    }
}

/// Where a mark in any case finds more than the same mark verbatim, it is the one that is
/// meant.
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
fn stop(lessons: &[&Lesson], given: &[bool]) -> Option<usize> {
    let wrong = |binds: bool| {
        let missed = lessons.iter().zip(given).enumerate();
        missed.filter(move |(_, (lesson, given))| lesson.binds == binds && !**given).map(|(n, _)| n)
    };
    let others = lessons.iter().filter(|lesson| !lesson.binds).count();
    let right = others - wrong(false).count();
    let agree = others == 0 || right >= 3 && right * 3 >= others * 2;
    wrong(true).next().or_else(|| if agree { None } else { wrong(false).next() })
}
