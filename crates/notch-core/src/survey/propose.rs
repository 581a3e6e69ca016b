//! From what a column looks like to cuts that suit it.

use std::collections::BTreeMap;
use std::ops::Range;

use super::by_layout;
use super::kinds;
use super::layout::{Divider, LAYOUT, What};
use super::proposal::{Names, Proposal};
use super::runs::{BRACKETS, DAYS, Figures, runs_of};
use super::{ALIKE, ColumnSurvey, PartSurvey};
use crate::Scratch;
use crate::first_row::FirstRow;
use crate::layouts::Layouts;
use crate::schemes::SCHEMES;
use crate::shape::ShapeCounts;
use crate::text::DATES;

/// A check is proposed when it holds for that many of a thousand texts.
const HOLDS: u64 = 995;
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

    /// The texts of a column that has only a few words, as they stand in a list, and how many rows
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

/// Whether nearly all texts have the same there: no piece of it tells anything.
fn is_constant(part: &PartSurvey) -> bool {
    part.looked_at > 40
        && part.values.iter().any(|(_, texts)| part.are_of_a_thousand(*texts, HOLDS))
}

/// Whether nearly all texts have something there.
fn is_there(part: &PartSurvey) -> bool {
    part.blank() * 1000 < part.texts * (1000 - LAYOUT)
}

/// What makes a date of a year, a month and a day.
fn day(pattern: &str) -> String {
    format!("date \"{pattern}\" | as date")
}

/// A section's name and cut, given the cut that takes it out: brackets around it are left, days and
/// numbers are read as such.
fn section(part: &PartSurvey, is_last: bool, cut: String, names: &mut Names) -> (String, String) {
    let nearly_all = |count: u64| count * 1000 >= part.texts * 950;
    let wrapped = BRACKETS.iter().find(|(open, close)| {
        nearly_all(part.of_shape(|shape| inside(shape, open, close).is_some()))
    });
    if let Some((open, close)) = wrapped {
        let mut within = PartSurvey { texts: part.texts, many: true, ..PartSurvey::default() };
        for known in part.shapes.ranked() {
            within.shapes.count(
                inside(&known.shape, open, close).unwrap_or_default(),
                known.count,
                known.first_line,
            );
        }
        return section(
            &within,
            false,
            format!("{cut} | between \"{open}\" and \"{close}\""),
            names,
        );
    }
    if part.are_of_a_thousand(part.days, 950) {
        return (names.unused("date"), format!("{cut} | {}", day("YYYYMMDD")));
    }
    if let Some((_, pattern, _)) =
        DAYS.iter().find(|(is_day, ..)| nearly_all(part.of_shape(|shape| shape == *is_day)))
    {
        return (names.unused("date"), format!("{cut} | {}", day(pattern)));
    }
    let is_figures = |shape: &str| {
        let shape = shape.trim_start_matches('-');
        runs_of(shape).iter().all(|(kind, _)| matches!(kind, 'd' | ',' | '.'))
            && shape.starts_with("[d")
    };
    // Four figures after a point are as often a year or a number of their own, where nothing is
    // below zero.
    let is_whole = |shape: &str| runs_of(shape).len() == 1 || shape.contains(".[d4]");
    let are_signed = part.of_shape(|shape| shape.starts_with('-')) * 20 > part.texts;
    if are_signed && nearly_all(part.of_shape(is_figures)) {
        return (names.unused("number"), format!("{cut} | as number"));
    }
    if nearly_all(part.of_shape(is_figures))
        && !nearly_all(part.of_shape(is_whole))
        && !part.is_code_of_figures()
    {
        return (names.unused("number"), format!("{cut} | number"));
    }
    // Figures with letters between them, as in 30x40.
    let kinds = |shape: &str| runs_of(shape).iter().map(|(kind, _)| *kind).collect::<String>();
    let first = part.shapes.ranked().first().map(|known| kinds(&known.shape)).unwrap_or_default();
    let is_mixed = first.len() > 2
        && first.starts_with('d')
        && first.ends_with('d')
        && first.chars().all(|kind| "Uld".contains(kind));
    if is_mixed && nearly_all(part.of_shape(|shape| kinds(shape) == first)) {
        let pieces: Vec<String> = first
            .chars()
            .map(|kind| names.unused(if kind == 'd' { "number" } else { "letters" }))
            .collect();
        return (pieces.join(", "), format!("{cut} | parts by kind"));
    }
    let is_digit =
        is_last && part.shapes.ranked().first().is_some_and(|shape| &*shape.shape == "[d]");
    let name = if is_digit { names.unused("digit") } else { name_of(part, names) };
    let check = checks(part).map_or(String::new(), |check| format!(" | check {check}"));
    (name, format!("{cut}{check}"))
}

/// The shape of what stands in brackets as a whole; `None` of a shape that is not so.
fn inside<'s>(shape: &'s str, open: &str, close: &str) -> Option<&'s str> {
    let open = if open == "[" { "[[]" } else { open };
    let inside = shape.strip_prefix(open)?.strip_suffix(close)?;
    (!inside.is_empty() && !inside.contains(open)).then_some(inside)
}

/// Whether a value that stands in that many of the texts is one of theirs: once or twice, or in one
/// of 200 texts, it may be a slip.
fn is_usual(count: u64, texts: u64) -> bool {
    count > 2 && count * 200 > texts
}

/// Values as a list of them is written, in the order of the alphabet.
fn listed<'v>(values: impl Iterator<Item = &'v str>) -> String {
    let mut values: Vec<String> = values.map(|value| format!("\"{value}\"")).collect();
    values.sort_unstable();
    values.join(", ")
}

/// Conditions that hold for nearly all texts of a part.
fn checks(part: &PartSurvey) -> Option<String> {
    // One text may be a slip, in a small table too.
    let holds_of = |count: u64, of: u64| count * 1000 >= of * HOLDS || of > 40 && count + 1 >= of;
    let holds = |count: u64| holds_of(count, part.texts);
    let has_at = part.of_shape(|shape| shape.contains('@'));
    if has_at > 0 && holds(has_at) {
        return Some("is email".to_owned());
    }
    let each = part.values.iter().map(|(value, count)| (value, *count));
    let usual: Vec<(&String, u64)> =
        each.filter(|(_, count)| is_usual(*count, part.looked_at)).collect();
    let in_usual: u64 = usual.iter().map(|(_, count)| count).sum();
    let plain = |value: &str| value.chars().all(|c| c.is_alphanumeric());
    if !part.many
        && usual.len() > 1
        && holds_of(in_usual, part.looked_at)
        && part.looked_at > 40
        && usual.iter().all(|(value, _)| plain(value))
        && !is_figures(&part.shapes)
    {
        return Some(format!("is in ({})", listed(usual.iter().map(|(value, _)| value.as_str()))));
    }
    let mut kinds: BTreeMap<&str, u64> = BTreeMap::new();
    let mut lengths: BTreeMap<usize, u64> = BTreeMap::new();
    for known in part.shapes.ranked() {
        let runs = runs_of(&known.shape);
        let kind = match runs.as_slice() {
            [('d', _)] => "is digits",
            [('U', _)] => "is letters and is upper",
            [('U' | 'l' | 'c', _), ..]
                if runs.iter().all(|(kind, _)| matches!(kind, 'U' | 'l' | 'c')) =>
            {
                "is letters"
            }
            _ => "",
        };
        *kinds.entry(kind).or_default() += known.count;
        *lengths.entry(runs.iter().map(|(_, length)| length).sum()).or_default() += known.count;
    }
    let letters = ["is letters", "is letters and is upper"]
        .iter()
        .filter_map(|kind| kinds.get(kind))
        .sum::<u64>();
    let kind = kinds
        .iter()
        .find(|(kind, count)| !kind.is_empty() && holds(**count))
        .map(|(kind, _)| *kind);
    let kind = kind.or_else(|| holds(letters).then_some("is letters"));
    let length = lengths
        .iter()
        .find(|(_, count)| holds(**count))
        .map(|(length, _)| format!("length {length}"));
    match (kind, length) {
        (Some(kind), Some(length)) => Some(format!("{kind} and {length}")),
        (Some(only), None) => Some(only.to_owned()),
        (None, length) => length,
    }
}

fn is_figures(shapes: &ShapeCounts) -> bool {
    shapes.ranked().first().is_some_and(|first| first.shape.starts_with("[d"))
}

/// What a part is called by what it holds.
fn name_of(part: &PartSurvey, names: &mut Names) -> String {
    let is_year = part.are_of_a_thousand(part.years, 950);
    // A house number before a street is no number.
    let are_digits = |shape: &str| runs_of(shape).iter().all(|(kind, _)| !"Ulc".contains(*kind));
    let figures = is_figures(&part.shapes)
        && part.of_shape(are_digits) * 10 >= part.texts * 9
        && part.of_shape(|shape| shape.contains("[s")) * 2 < part.texts;
    let has_at = part.of_shape(|shape| shape.contains('@')) * 100 >= part.texts * 95;
    let few = !part.many && part.values.len() < super::PART_TEXTS && part.looked_at > 40;
    let what = if is_year {
        "year"
    } else if figures {
        "number"
    } else if has_at {
        "email"
    } else if few {
        "group"
    } else {
        "code"
    };
    names.unused(what)
}
