//! Cuts of several chains: one for the examples of each layout, joined by `else`, with a guard
//! where a chain would take something else from the texts of another.

use std::collections::BTreeMap;

use super::rank::Ranked;
use super::search::Candidate;
use super::{FIRST_ROWS, Lesson, Search, stop};
use crate::language::{in_braces, quoted};
use crate::shape::words_of;
use crate::text::is_word;

/// What a guard says.
const GUARD: u32 = 30;
/// Cuts of more chains are not learnt.
const MOST_CHAINS: usize = 4;
/// The number of the best cuts of each layout that are put together.
const WAYS: usize = 3;

/// The layout of a text, or what it looks like where it has none.
type Key = (Option<usize>, String);

impl Search<'_> {
    /// Cuts of several chains: one for the examples of each layout, with a guard where it would
    /// take something else from the others.
    pub(super) fn several_chains(&mut self, lessons: &[&Lesson]) -> Vec<Ranked> {
        let mut groups: BTreeMap<Key, Vec<&Lesson>> = BTreeMap::new();
        for lesson in lessons.iter().filter(|lesson| !lesson.piece.is_empty()) {
            groups.entry(self.key(&lesson.cell)).or_default().push(lesson);
        }
        if !(2..=MOST_CHAINS).contains(&groups.len()) {
            return Vec::new();
        }
        let mut chains: Vec<(Vec<Candidate>, Vec<String>)> = Vec::new();
        let keys: Vec<Key> = groups.keys().cloned().collect();
        for (key, of) in &groups {
            let (found, _) = self.one_chain(of);
            if found.is_empty() {
                return Vec::new();
            }
            let best = found.into_iter().take(WAYS).map(|one| one.candidate).collect();
            chains.push((best, self.guards(key, &keys)));
        }
        let mut right: Vec<Candidate> = Vec::new();
        for n in 0..WAYS.pow(chains.len() as u32) {
            let mut ways = n;
            let mut picked: Vec<(&Candidate, &[String])> = Vec::new();
            for (of, guards) in &chains {
                picked.extend(of.get(ways % WAYS).map(|one| (one, guards.as_slice())));
                ways /= WAYS;
            }
            if picked.len() == chains.len() {
                right.extend(self.joined(&picked, lessons));
            }
        }
        right.sort();
        right.dedup();
        if right.is_empty() { Vec::new() } else { self.ranked(right, lessons) }
    }

    /// Chains joined by `else`, in the order and with the guards that make them give every lesson.
    fn joined(
        &mut self,
        chains: &[(&Candidate, &[String])],
        lessons: &[&Lesson],
    ) -> Option<Candidate> {
        let mut orders = vec![chains.to_vec()];
        orders.push(chains.iter().rev().copied().collect());
        let guards = chains.iter().map(|(_, guards)| guards.len()).max().unwrap_or_default();
        // Without guards, then with the one that says least, and so on.
        for guard in 0..=guards {
            for order in &orders {
                let mut cost = 0;
                let said: Vec<String> = order
                    .iter()
                    .enumerate()
                    .map(|(n, (chain, guards))| {
                        cost += chain.cost;
                        let is_last = n + 1 == order.len();
                        match guard.checked_sub(1).and_then(|guard| guards.get(guard)) {
                            Some(guard) if !is_last => {
                                cost += GUARD;
                                format!("{} if {guard}", chain.cut())
                            }
                            _ => chain.cut(),
                        }
                    })
                    .collect();
                let cut = said.join(" else ");
                let given = self.given(&cut, lessons);
                if given.is_some_and(|given| stop(lessons, &given).is_none()) {
                    return Some(Candidate { cost, steps: vec![cut] });
                }
            }
        }
        None
    }

    /// A cut that ends in the whole cell, guarded where it would take something of the cells that
    /// are to stay whole; `None` where no guard helps.
    pub(super) fn beside_whole(
        &mut self,
        cut: String,
        all: &[&Lesson],
        whole: &[&Lesson],
    ) -> Option<String> {
        let gives_all = |search: &mut Self, cut: &str| {
            let given = [all, whole].map(|lessons| (search.given(cut, lessons), lessons));
            given.iter().all(|(given, lessons)| {
                given.as_ref().is_some_and(|given| stop(lessons, given).is_none())
            })
        };
        if gives_all(self, &cut) {
            return Some(cut);
        }
        let ending = format!(" else {}", in_braces(self.column));
        let chain = cut.strip_suffix(&ending)?.to_owned();
        let keys: Vec<Key> = all.iter().chain(whole).map(|lesson| self.key(&lesson.cell)).collect();
        self.guards(keys.first()?, &keys)
            .into_iter()
            .map(|guard| format!("{chain} if {guard}{ending}"))
            .find(|cut| gives_all(self, cut))
    }

    /// What tells a text from others: its layout, or what it looks like where it has none.
    fn key(&self, cell: &str) -> Key {
        let place = self.layouts.place(cell);
        (place, place.map_or_else(|| words_of(cell), |_| String::new()))
    }

    /// Conditions that hold for the texts of a layout and for those of no other one that has
    /// examples, the shortest first.
    fn guards(&self, (place, looks): &Key, keys: &[Key]) -> Vec<String> {
        let column = in_braces(self.column);
        let Some(layout) = place.and_then(|place| self.layouts.layouts.get(place)) else {
            // A text of no layout is told by what it looks like.
            let written = quoted(looks).map(|looks| format!("{column} is shape {looks}"));
            return written.into_iter().collect();
        };
        let texts = |place: &Option<usize>| {
            let of = self.texts.iter().zip(&self.places).filter(|(_, of)| *of == place);
            of.map(|(text, _)| &*text.text).take(FIRST_ROWS).collect::<Vec<_>>()
        };
        let own = texts(&Some(place.unwrap_or_default()));
        let others: Vec<&str> =
            keys.iter().filter(|(of, _)| of != place).flat_map(|(of, _)| texts(of)).collect();
        let mut guards = Vec::new();
        let mut signs: Vec<char> =
            layout.pattern.chars().filter(|c| !is_word(*c) && !" []+".contains(*c)).collect();
        signs.dedup();
        let tells = signs.into_iter().find(|sign| {
            own.iter().all(|text| text.contains(*sign))
                && !others.iter().any(|text| text.contains(*sign))
        });
        if let Some(written) = tells.and_then(|sign| quoted(sign.encode_utf8(&mut [0; 4]))) {
            guards.push(format!("{column} has {written}"));
        }
        if let Some(pattern) = quoted(&layout.pattern) {
            let case = if layout.ignoring_case { " ignoring case" } else { "" };
            guards.push(format!("{column} is shape {pattern}{case}"));
        }
        guards
    }
}
