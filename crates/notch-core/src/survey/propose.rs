//! From what a column looks like to cuts that suit it.

use std::collections::BTreeMap;
use std::ops::Range;

use super::by_layout;
use super::kinds;
use super::layout::{LAYOUT, What};
use super::parts::Divider;
use super::proposal::{Names, Proposal};
use super::runs::{Figures, runs_of};
use super::section::{HOLDS, day, is_constant, is_there, is_usual, listed, section};
use super::{ALIKE, ColumnSurvey, PartSurvey};
use crate::Scratch;
use crate::first_row::FirstRow;
use crate::layouts::Layouts;
use crate::schemes::SCHEMES;
use crate::text::DATES;

/// A column of a record that has this number of characters may hold names of several words.
const NAME: usize = 5;
/// The number of shapes that a proposed cut is tried on.
const TRIED: usize = 200;
/// A check-digit scheme is proposed when it holds for that many of a thousand texts.
const PRACTICALLY_ALL: u64 = 970;

/// One cut for columns of these names.
fn one(names: &mut Names, wanted: &[&str], cut: String, fits: u64) -> Vec<Proposal> {
    let own: Vec<String> = wanted.iter().map(|name| names.unused(name)).collect();
    vec![Proposal { names: own.join(", "), cut, fits }]
}

impl ColumnSurvey {
    /// What the column holds, in a few words; `layouts` are its own.
    pub fn looks_like(&self, layouts: &Layouts) -> String {
        let filled = self.filled();
        if filled == 0 {
            return "nothing".to_owned();
        }
        let most = |count: u64| count * 1000 >= filled * 950;
        if let Some((pattern, other, _)) = self.day() {
            let other = other.map_or(String::new(), |other| format!("; {other} fits as well"));
            return format!("date {pattern}{other}");
        }
        if most(self.emails) {
            return "e-mail address".to_owned();
        }
        if let Some((length, _)) = self.steady_digits() {
            return format!("code of {length} digits");
        }
        if most(self.numbers) {
            return "number".to_owned();
        }
        if let Some(kind) = kinds::looks_like(&self.sample()) {
            return kind.to_owned();
        }
        if let Some(unit) = layouts.unit() {
            return unit.to_owned();
        }
        if self.day_and_time().is_some() && !self.is_prose() {
            return "date and time".to_owned();
        }
        if let Some(columns) = self.columns_of_a_record() {
            return format!("record of {} columns", columns.len());
        }
        if self.is_prose() && !self.is_list() && layouts.are_several() {
            return format!("{} layouts", layouts.layouts.len());
        }
        if let Some(mixed) = self.better_mixed() {
            return format!(
                "code of {} sections by any of \"{}\"",
                mixed.parts.len(),
                mixed.characters
            );
        }
        if let Some(divider) = self.divider() {
            let what = if self.is_prose() { "text" } else { "code" };
            return format!(
                "{what} of {} sections by \"{}\"",
                divider.parts.len(),
                divider.character
            );
        }
        if let Some(sign) = layouts.list_sign() {
            return format!("list by \"{sign}\"");
        }
        if layouts.are_several() {
            return format!("{} layouts", layouts.layouts.len());
        }
        if self.is_prose() {
            return "free text".to_owned();
        }
        match self.shapes().0.first() {
            Some((shape, count, _)) if count * 1000 >= filled * LAYOUT => {
                format!("steady code {shape}")
            }
            _ => "text".to_owned(),
        }
    }

    /// How nearly all texts are written as dates, and how else they may be meant; with how many
    /// are.
    pub(super) fn day(&self) -> Option<(&'static str, Option<&'static str>, u64)> {
        let most = |count: u64| count > 0 && count * 1000 >= self.filled() * 950;
        let fits = |pattern: &str| {
            DATES.iter().zip(self.dates).any(|(known, count)| *known == pattern && most(count))
        };
        let (pattern, count) = DATES.iter().zip(self.dates).find(|(_, count)| most(*count))?;
        let other = ALIKE.iter().find(|(of, other)| of == pattern && fits(other));
        Some((pattern, other.map(|(_, other)| *other), count))
    }

    /// Whether a sign divides the texts into parts of a few words each.
    fn is_list(&self) -> bool {
        let is_short = |part: &PartSurvey| {
            part.of_shape(|shape| shape.matches("[s").count() > 3) * 2 < part.texts
        };
        self.divider().is_some_and(|divider| divider.parts.iter().all(is_short))
    }

    /// The check-digit scheme that practically all texts satisfy, with how many do.
    pub fn scheme(&self) -> Option<(&'static str, u64)> {
        let found = SCHEMES
            .iter()
            .zip(self.schemes)
            .filter(|(_, count)| *count * 1000 >= self.filled() * PRACTICALLY_ALL);
        found.max_by_key(|(_, count)| *count).map(|(scheme, count)| (scheme.name, count))
    }

    /// Cuts that suit the column, with the number of texts they fit; their names are none of those
    /// taken.
    pub fn proposals(&self, taken: &[String], layouts: &Layouts) -> Vec<Proposal> {
        let mut proposals =
            self.by_looks(layouts, Names(taken.iter().map(|name| (name.clone(), 1)).collect()));
        if let Some((scheme, fits)) = self.scheme().filter(|_| self.filled() > 20) {
            let mut names = Names(taken.iter().map(|name| (name.clone(), 1)).collect());
            let what = if matches!(scheme, "iban" | "mod97") { "trim" } else { "digits" };
            proposals.push(Proposal {
                names: names.unused("whole"),
                cut: format!("{what} | check is {scheme}"),
                fits,
            });
        }
        proposals
    }

    /// For each proposed cut the shapes that it does not fit, with their counts and first rows, the
    /// commonest first; it is tried on the first text of each of the commonest shapes.
    pub fn rests(&self, proposals: &[Proposal]) -> Vec<Vec<(&str, u64, &FirstRow)>> {
        let (mut shapes, _) = self.shapes();
        shapes.truncate(TRIED);
        let mut scratch = Scratch::default();
        let mut rest = |proposal: &Proposal| {
            let plan = Proposal::plan(std::slice::from_ref(proposal))?;
            let mut is_odd = |text: &str| plan.evaluate([text], &mut scratch).has_finding();
            Some(shapes.iter().filter(|(.., first)| is_odd(&first.text)).copied().collect())
        };
        proposals.iter().map(|proposal| rest(proposal).unwrap_or_default()).collect()
    }

    fn by_looks(&self, layouts: &Layouts, mut names: Names) -> Vec<Proposal> {
        if self.filled() == 0 {
            return Vec::new();
        }
        self.of_one_kind(&mut names)
            .or_else(|| self.of_known_parts(layouts, &mut names))
            .or_else(|| self.of_sections(layouts, &mut names))
            .unwrap_or_else(|| self.of_numbers_and_runs(layouts, &mut names))
    }

    /// Cuts by layout, where there are any.
    fn of_layouts(&self, layouts: &Layouts, names: &mut Names) -> Option<Vec<Proposal>> {
        let found = by_layout::proposals(layouts, &self.sample(), self.is_prose(), names);
        (!found.is_empty()).then_some(found)
    }

    /// Of a column of days, addresses, digits or numbers.
    fn of_one_kind(&self, names: &mut Names) -> Option<Vec<Proposal>> {
        let most = |count: u64| count * 1000 >= self.filled() * 950;
        // Which figure is the day and which the month is not to be taken for sure.
        if let Some((pattern, None, count)) = self.day() {
            let cut = format!("trim | date \"{pattern}\" | as date");
            return Some(one(names, &["date"], cut, count));
        }
        if most(self.emails) {
            let cut = "trim | check is email | halves at last \"@\" | lower";
            return Some(one(names, &["user", "domain"], cut.to_owned(), self.emails));
        }
        if let Some((length, count)) = self.steady_digits() {
            let (shapes, _) = self.shapes();
            if shapes.first().is_some_and(|(shape, ..)| self.pieces(shape).len() > 1) {
                return Some(self.by_position(count, names));
            }
            let cut = format!("trim | check is digits and length {length}");
            return Some(one(names, &["number"], cut, count));
        }
        most(self.numbers).then(|| one(names, &["number"], "number".to_owned(), self.numbers))
    }

    /// Of texts whose parts are known: by their kind, by layout, a day with its time, a record of
    /// fixed columns.
    fn of_known_parts(&self, layouts: &Layouts, names: &mut Names) -> Option<Vec<Proposal>> {
        let found = kinds::proposals(&self.sample(), names);
        if !found.is_empty() {
            return Some(found);
        }
        let day_and_time = self.day_and_time();
        if layouts.unit().is_some() || self.is_prose() && day_and_time.is_some() {
            let found = self.of_layouts(layouts, names);
            if found.is_some() {
                return found;
            }
        }
        if let Some((length, pattern, fits)) = day_and_time {
            let day = format!("trim | chars 1..{length} | date \"{pattern}\" | as date");
            let time = format!("trim | chars {}.. | check has \":\"", length + 2);
            let day = one(names, &["date"], day, fits);
            return Some([day, one(names, &["time"], time, fits)].concat());
        }
        let columns = self.columns_of_a_record()?;
        let of_column = |(n, place): (usize, &Range<usize>)| {
            let is_last = n + 1 == columns.len();
            let (name, rest) = self.column_of_a_record(place);
            // What is left over belongs to the last column, however long it is.
            let places = match (is_last, place.len()) {
                (true, _) => format!("{}..", place.start + 1),
                (false, 1) => place.end.to_string(),
                (false, _) => format!("{}..{}", place.start + 1, place.end),
            };
            Proposal {
                names: names.unused(name),
                cut: format!("chars {places} | trim{rest}"),
                fits: self.filled(),
            }
        };
        Some(columns.iter().enumerate().map(of_column).collect())
    }

    /// Of texts that are divided: sentences by layout, others by signs.
    fn of_sections(&self, layouts: &Layouts, names: &mut Names) -> Option<Vec<Proposal>> {
        // No piece is cut out of a sentence at its commas.
        if self.is_prose() && !self.is_list() && !layouts.layouts.is_empty() {
            let found = self.of_layouts(layouts, names);
            if found.is_some() {
                return found;
            }
        }
        if let Some(mixed) = self.better_mixed() {
            let of = mixed.parts.len();
            let is_told = |part: &PartSurvey| is_there(part) && !is_constant(part);
            let parts = mixed.parts.iter().enumerate().filter(|(_, part)| is_told(part)).map(
                |(n, part)| {
                    let of_part =
                        format!("part {} of {of} by any of \"{}\" | trim", n + 1, mixed.characters);
                    let (name, cut) = section(part, n + 1 == of, of_part, names);
                    Proposal { names: name, cut, fits: mixed.fits }
                },
            );
            return Some(parts.collect());
        }
        if let Some(divider) = self.divider() {
            return Some(sections(&divider, names));
        }
        if let Some(sign) = layouts.list_sign() {
            let (first, rest) = (names.unused("first"), names.unused("rest"));
            let cut = |step: &str| format!("{step} \"{sign}\" | trim");
            let fits = self.filled();
            return Some(vec![
                Proposal { names: first, cut: cut("part 1 by"), fits },
                Proposal { names: format!("{rest}?"), cut: cut("after"), fits },
            ]);
        }
        layouts.are_several().then(|| self.of_layouts(layouts, names))?
    }

    /// Of all others: what stands in brackets, numbers, one of a few values, runs of characters.
    fn of_numbers_and_runs(&self, layouts: &Layouts, names: &mut Names) -> Vec<Proposal> {
        let (is_prose, mut found) = (self.is_prose(), Vec::new());
        if is_prose && let Some((open, close, inside)) = self.in_brackets() {
            let between = format!("between \"{open}\" and \"{close}\"");
            let (name, cut) = section(&inside, false, between, names);
            found.push(Proposal { names: name, cut, fits: inside.texts });
        }
        match self.numbers_in_each() {
            // A sign or a currency beside it.
            Some((figures, fits, true)) if figures == [Figures::Number] => {
                return one(names, &["number"], "number".to_owned(), fits);
            }
            Some((figures, fits, _)) if is_prose && figures != [Figures::Number] => {
                found.extend(self.figures(&figures, fits, names));
                return found;
            }
            _ => {}
        }
        if is_prose {
            let (shapes, _) = self.shapes();
            let with_digits = shapes.iter().filter(|(shape, ..)| shape.contains("[d"));
            if with_digits.map(|(_, count, _)| count).sum::<u64>() * 20 >= self.filled() {
                let name = format!("{}?", names.unused("first_number"));
                let fits = self.filled();
                found.push(Proposal { names: name, cut: "number".to_owned(), fits });
            }
            return found;
        }
        if let Some((values, fits)) = self.few_values() {
            return one(names, &["group"], format!("trim | check is in ({values})"), fits);
        }
        let found = self.runs(names);
        if found.is_empty() { self.of_layouts(layouts, names).unwrap_or_default() } else { found }
    }

    /// What a column of a record, by its positions from 0, is called, and what follows where its
    /// blanks have been trimmed off.
    fn column_of_a_record(&self, place: &Range<usize>) -> (&'static str, String) {
        if let Some(pattern) = self.day_in(place) {
            return ("date", format!(" | {}", day(pattern)));
        }
        let positions = self.left.get(place.clone()).unwrap_or_default();
        // Page headings and records that are shifted are among them.
        let all_are =
            |kinds: &[char]| positions.iter().all(|position| position.share_of(kinds) >= 0.98);
        // A column that is never shorter has no blanks beside what is in it.
        let length = |kinds: &[char]| {
            if all_are(kinds) { format!(" and length {}", place.len()) } else { String::new() }
        };
        if self.are_digits(place.clone()) && all_are(&['d', 's']) {
            return ("number", format!(" | check is digits{}", length(&['d'])));
        }
        if all_are(&['U', 's']) {
            return ("code", format!(" | check is letters and is upper{}", length(&['U'])));
        }
        if self.are_digits(place.clone()) {
            return ("number", " | number".to_owned());
        }
        if all_are(&['U', 'l', 's']) && place.len() < NAME {
            return ("code", format!(" | check is letters{}", length(&['U', 'l'])));
        }
        ("piece", String::new())
    }

    /// The numbers and days of texts of many words.
    fn figures(&self, figures: &[Figures], fits: u64, names: &mut Names) -> Vec<Proposal> {
        let (mut numbers, mut days) = (0, BTreeMap::<&str, usize>::new());
        let cuts = figures.iter().map(|is| match is {
            Figures::Number => {
                numbers += 1;
                (
                    names.unused("number"),
                    if numbers == 1 { "number".to_owned() } else { format!("number {numbers}") },
                )
            }
            Figures::Day(pattern, regex) => {
                // To the step `number` it is three.
                numbers += 3;
                let of_these = days.entry(pattern).and_modify(|days| *days += 1).or_insert(1);
                let found = if *of_these == 1 {
                    format!("match {regex}")
                } else {
                    format!("matches {regex} | pick {of_these}")
                };
                (names.unused("date"), format!("{found} | {}", day(pattern)))
            }
        });
        cuts.take(super::PARTS).map(|(name, cut)| Proposal { names: name, cut, fits }).collect()
    }

    /// The texts of a column that has only a few words, as a list has them, and how many rows
    /// have one of them.
    fn few_values(&self) -> Option<(String, u64)> {
        let is_word = |text: &str| {
            !text.is_empty()
                && text.chars().all(|c| c.is_alphabetic() || matches!(c, ' ' | '-' | '_'))
        };
        let mut usual: Vec<(&str, u64)> =
            self.texts.repeated()?.into_iter().map(|(text, rows, _)| (text, rows)).collect();
        usual.retain(|(text, rows)| is_usual(*rows, self.filled()) && is_word(text));
        let fits = usual.iter().map(|(_, rows)| rows).sum::<u64>();
        let are_all = self.filled() > 40
            && (2..super::PART_TEXTS).contains(&usual.len())
            && fits * 1000 >= self.filled() * HOLDS;
        are_all.then(|| (listed(usual.iter().map(|(text, _)| *text)), fits))
    }

    /// A code without separators: its runs of one kind, by position where its shape is steady.
    fn runs(&self, names: &mut Names) -> Vec<Proposal> {
        let (shapes, _) = self.shapes();
        let Some((shape, count, _)) = shapes.first() else { return Vec::new() };
        let runs = runs_of(shape);
        if runs.len() < 2 {
            return Vec::new();
        }
        // The same runs in other widths: whatever changes kind divides.
        let letters =
            |shape: &str| runs_of(shape).iter().map(|(kind, _)| *kind).collect::<Vec<_>>();
        let alike: u64 = shapes
            .iter()
            .filter(|(other, ..)| letters(other) == letters(shape))
            .map(|(_, count, _)| count)
            .sum();
        // Capitals and small letters side by side are of one kind.
        let is_letter = |(kind, _): &(char, usize)| "Ul".contains(*kind);
        let has_one_kind = runs.iter().all(|run| run.0 == 'd' || is_letter(run))
            && !runs.windows(2).any(|pair| pair.iter().all(is_letter));
        let (filled, is_steady) = (self.filled(), count * 1000 >= self.filled() * LAYOUT);
        if has_one_kind
            && alike * 1000 >= filled * LAYOUT
            && (!is_steady || (alike - count) * 50 > filled)
        {
            let names: Vec<String> = runs
                .iter()
                .map(|(kind, _)| names.unused(if *kind == 'd' { "number" } else { "letters" }))
                .collect();
            return vec![Proposal {
                names: names.join(", "),
                cut: "trim | parts by kind".to_owned(),
                fits: alike,
            }];
        }
        if !is_steady {
            return Vec::new();
        }
        // A letter in front of digits is of the code, and no piece.
        if let [('U' | 'l', 1), ('d', digits)] = runs.as_slice()
            && *digits > 1
        {
            let cut = format!("trim | check is shape \"{shape}\"");
            return vec![Proposal { names: names.unused("code"), cut, fits: *count }];
        }
        self.by_position(*count, names)
    }

    /// The pieces of texts of a steady shape.
    fn by_position(&self, fits: u64, names: &mut Names) -> Vec<Proposal> {
        let (shapes, _) = self.shapes();
        let Some((shape, ..)) = shapes.first() else { return Vec::new() };
        let pieces = self.pieces(shape).into_iter().filter_map(|(what, place)| {
            let length = place.len();
            let places = if length == 1 {
                place.end.to_string()
            } else {
                format!("{}..{}", place.start + 1, place.end)
            };
            let (name, rest) = match what {
                What::Digits => ("number", format!("check is digits and length {length}")),
                What::Year => ("year", format!("check is digits and length {length}")),
                What::Letters => ("letters", format!("check is letters and length {length}")),
                What::Day(pattern) => ("date", day(pattern)),
                What::Other => return None,
            };
            Some(Proposal {
                names: names.unused(name),
                cut: format!("chars {places} | {rest}"),
                fits,
            })
        });
        pieces.collect()
    }
}

/// The parts between a character.
fn sections(divider: &Divider<'_>, names: &mut Names) -> Vec<Proposal> {
    let Divider { character, parts, optional, undivided } = divider;
    // What only some have tells them from the others.
    let all = parts.iter().map(|part| part.texts).max().unwrap_or(0);
    let is_told = |part: &PartSurvey| is_there(part) && !(part.texts == all && is_constant(part));
    let each = parts.iter().enumerate().filter(|(_, part)| is_told(part)).map(|(n, part)| {
        let last = n + 1 == parts.len();
        let exact = if *optional { String::new() } else { format!(" of {}", parts.len()) };
        let may_lack = if *optional && last { "?" } else { "" };
        let of_part = format!("part {}{exact} by \"{character}\" | trim", n + 1);
        let (name, cut) = section(part, last, of_part, names);
        // A text of one part is its first.
        let whole = if *optional && parts.len() == 2 && n == 0 { *undivided } else { 0 };
        Proposal { names: format!("{name}{may_lack}"), cut, fits: part.texts + whole }
    });
    each.collect()
}
