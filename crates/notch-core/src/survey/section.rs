//! A section of texts: its name, and a cut that takes it out and checks it.

use std::collections::BTreeMap;

use super::layout::LAYOUT;
use super::proposal::Names;
use super::runs::{BRACKETS, DAYS, runs_of};
use super::{PART_TEXTS, PartSurvey};
use crate::shape::ShapeCounts;

/// A check is proposed when it holds for that many of a thousand texts.
pub(super) const HOLDS: u64 = 995;

/// Whether nearly all texts have the same there: no piece of it tells anything.
pub(super) fn is_constant(part: &PartSurvey) -> bool {
    part.looked_at > 40
        && part.values.iter().any(|(_, texts)| part.are_of_a_thousand(*texts, HOLDS))
}

/// Whether nearly all texts have something there.
pub(super) fn is_there(part: &PartSurvey) -> bool {
    part.blank() * 1000 < part.texts * (1000 - LAYOUT)
}

/// What makes a date of a year, a month and a day.
pub(super) fn day(pattern: &str) -> String {
    format!("date \"{pattern}\" | as date")
}

/// A section's name and cut, given the cut that takes it out: brackets around it are left, days and
/// numbers are read as such.
pub(super) fn section(
    part: &PartSurvey,
    is_last: bool,
    cut: String,
    names: &mut Names,
) -> (String, String) {
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
pub(super) fn is_usual(count: u64, texts: u64) -> bool {
    count > 2 && count * 200 > texts
}

/// Values as a list of them is written, in the order of the alphabet.
pub(super) fn listed<'v>(values: impl Iterator<Item = &'v str>) -> String {
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

pub(super) fn is_figures(shapes: &ShapeCounts) -> bool {
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
    let few = !part.many && part.values.len() < PART_TEXTS && part.looked_at > 40;
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
