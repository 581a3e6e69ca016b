//! From what a column looks like to cuts that suit it.

use std::collections::BTreeMap;

use super::{ColumnSurvey, DATES, DIVIDERS, PartSurvey};
use crate::schemes::SCHEMES;
use crate::shape::ShapeCounts;

/// A cut that suits a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Proposal {
    /// Its names, as they stand on the left.
    pub names: String,
    /// The cut, which starts from the column.
    pub cut: String,
    /// How many texts it fits.
    pub fits: u64,
}

/// A check is proposed when it holds for so many of a thousand texts.
const HOLDS: u64 = 995;
/// A check-digit scheme is proposed when it holds for so many of a thousand texts.
const PRACTICALLY_ALL: u64 = 970;
/// A layout is proposed when so many of a thousand texts have it.
const LAYOUT: u64 = 850;

impl ColumnSurvey {
    /// What the column holds, in a few words.
    pub fn looks_like(&self) -> String {
        let filled = self.filled();
        if filled == 0 {
            return "nothing".to_owned();
        }
        let most = |count: u64| count * 1000 >= filled * 950;
        if let Some((pattern, _)) = DATES.iter().zip(self.dates).find(|(_, count)| most(*count)) {
            return format!("date {pattern}");
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
        if let Some(widths) = self.columns_of_a_record() {
            return format!("record of {} columns", widths.len());
        }
        if let Some((divider, parts, _)) = self.divider() {
            return format!("code of {parts} sections by \"{divider}\"");
        }
        if self.sentences * 2 > filled {
            return "free text".to_owned();
        }
        match self.shapes().0.first() {
            Some((shape, count, _)) if count * 1000 >= filled * LAYOUT => format!("steady code {shape}"),
            _ => "text".to_owned(),
        }
    }

    /// The character that divides the texts into one number of parts most steadily, the parts, and whether the last one is often absent.
    fn divider(&self) -> Option<(char, usize, bool)> {
        let filled = self.filled();
        if self.sentences * 2 > filled {
            return None;
        }
        let mut best: Option<(u64, char, usize, bool)> = None;
        for (divider, divided) in DIVIDERS.iter().zip(&self.divided) {
            let Some((parts, texts)) =
                divided.counts.iter().filter(|(parts, _)| (2..=super::PARTS).contains(*parts)).max_by_key(|(_, texts)| **texts)
            else {
                continue;
            };
            let of = |parts: usize| if parts == 1 { divided.undivided } else { divided.counts.get(&parts).copied().unwrap_or(0) };
            // Texts with one part more: the last one is there in some of them only.
            let (parts, fits, optional) = match (of(parts + 1), of(parts - 1)) {
                (more, _) if more * 20 >= filled => (parts + 1, texts + more, true),
                (_, fewer) if fewer * 20 >= filled && *parts > 2 => (*parts, texts + fewer, true),
                _ => (*parts, *texts, false),
            };
            if fits * 1000 >= filled * LAYOUT && best.is_none_or(|(known, _, count, _)| (fits, parts) > (known, count)) {
                best = Some((fits, *divider, parts, optional));
            }
        }
        best.map(|(_, divider, parts, optional)| (divider, parts, optional))
    }

    /// The check-digit scheme that practically all texts satisfy, with how many do.
    fn scheme(&self) -> Option<(&'static str, u64)> {
        let found = SCHEMES.iter().zip(self.schemes).filter(|(_, count)| *count * 1000 >= self.filled() * PRACTICALLY_ALL);
        found.max_by_key(|(_, count)| *count).map(|(scheme, count)| (scheme.name, count))
    }

    /// How many digits the texts have, when they are nothing but digits and nearly always as many.
    fn steady_digits(&self) -> Option<(usize, u64)> {
        let (shapes, _) = self.shapes();
        let (shape, count, _) = shapes.first()?;
        match runs_of(shape).as_slice() {
            [('d', length)] if *length > 3 && count * 1000 >= self.filled() * 950 => Some((*length, *count)),
            _ => None,
        }
    }

    /// Cuts that suit the column, with the number of texts they fit; their names are none of those taken.
    pub fn proposals(&self, taken: &[String]) -> Vec<Proposal> {
        let mut proposals = self.by_looks(Names(taken.iter().map(|name| (name.clone(), 1)).collect()));
        if let Some((scheme, fits)) = self.scheme().filter(|_| self.filled() > 20) {
            let mut names = Names(taken.iter().map(|name| (name.clone(), 1)).collect());
            let what = if matches!(scheme, "iban" | "mod97") { "trim" } else { "digits" };
            proposals.push(Proposal { names: names.unused("whole"), cut: format!("{what} | check is {scheme}"), fits });
        }
        proposals
    }

    fn by_looks(&self, mut names: Names) -> Vec<Proposal> {
        let filled = self.filled();
        let most = |count: u64| count * 1000 >= filled * 950;
        let mut one = |wanted: &[&str], cut: String, fits: u64| {
            let own: Vec<String> = wanted.iter().map(|name| names.unused(name)).collect();
            vec![Proposal { names: own.join(", "), cut, fits }]
        };
        if filled == 0 {
            return Vec::new();
        }
        if let Some((pattern, count)) = DATES.iter().zip(self.dates).find(|(_, count)| most(*count)) {
            return one(&["date"], format!("trim | date \"{pattern}\" | as date"), count);
        }
        if most(self.emails) {
            return one(&["user", "domain"], "trim | halves at last \"@\" | lower".to_owned(), self.emails);
        }
        if let Some((length, count)) = self.steady_digits() {
            return one(&["number"], format!("trim | check is digits and length {length}"), count);
        }
        if most(self.numbers) {
            return one(&["number"], "number".to_owned(), self.numbers);
        }
        if let Some(widths) = self.columns_of_a_record() {
            let pieces: Vec<String> = widths.iter().map(|_| format!("{}?", names.unused("piece"))).collect();
            // What is left over is the last part, however long it is.
            let widths: Vec<String> = widths.iter().take(widths.len() - 1).map(usize::to_string).collect();
            let cut = format!("parts by widths {} | trim", widths.join(","));
            return vec![Proposal { names: pieces.join(", "), cut, fits: filled }];
        }
        if let Some((divider, parts, optional)) = self.divider() {
            return self.sections(divider, parts, optional, names);
        }
        if self.sentences * 2 > filled {
            let name = format!("{}?", names.unused("first_number"));
            return vec![Proposal { names: name, cut: "number".to_owned(), fits: filled }];
        }
        self.runs(names)
    }

    fn sections(&self, divider: char, parts: usize, optional: bool, mut names: Names) -> Vec<Proposal> {
        let Some(divided) = DIVIDERS.iter().position(|known| *known == divider).map(|place| &self.divided[place]) else {
            return Vec::new();
        };
        let each = divided.parts.iter().take(parts).enumerate().map(|(n, part)| {
            let last = n + 1 == parts;
            let is_digit = last && part.shapes.ranked().first().is_some_and(|shape| &*shape.shape == "[d]");
            let name = if is_digit { names.unused("digit") } else { names.of(part) };
            let exact = if optional { String::new() } else { format!(" of {parts}") };
            let check = checks(part).map_or(String::new(), |check| format!(" | check {check}"));
            let may_lack = if optional && last { "?" } else { "" };
            Proposal {
                names: format!("{name}{may_lack}"),
                cut: format!("part {}{exact} by \"{divider}\" | trim{check}", n + 1),
                fits: part.texts,
            }
        });
        each.collect()
    }

    /// A code without separators: its runs of one kind, by position where its shape is steady.
    fn runs(&self, mut names: Names) -> Vec<Proposal> {
        let (shapes, _) = self.shapes();
        let Some((shape, count, _)) = shapes.first() else { return Vec::new() };
        let runs = runs_of(shape);
        if runs.len() < 2 {
            return Vec::new();
        }
        if count * 1000 < self.filled() * LAYOUT {
            // The same runs in other widths: whatever changes kind divides.
            let letters = |shape: &str| runs_of(shape).iter().map(|(kind, _)| *kind).collect::<Vec<_>>();
            let alike: u64 = shapes.iter().filter(|(other, ..)| letters(other) == letters(shape)).map(|(_, count, _)| count).sum();
            if alike * 1000 < self.filled() * LAYOUT || runs.iter().any(|(kind, _)| !"Uld".contains(*kind)) {
                return Vec::new();
            }
            let names: Vec<String> = runs.iter().map(|(kind, _)| names.unused(if *kind == 'd' { "number" } else { "letters" })).collect();
            return vec![Proposal { names: names.join(", "), cut: "trim | parts by kind".to_owned(), fits: alike }];
        }
        let mut at = 1;
        let mut proposals = Vec::new();
        for (kind, length) in runs {
            let place = if length == 1 { at.to_string() } else { format!("{at}..{}", at + length - 1) };
            at += length;
            let (name, check) = match kind {
                'd' => ("number", format!("is digits and length {length}")),
                'U' | 'l' => ("letters", format!("is letters and length {length}")),
                _ => continue,
            };
            proposals.push(Proposal { names: names.unused(name), cut: format!("chars {place} | check {check}"), fits: *count });
        }
        proposals
    }

    /// The widths of the columns of a fixed-width record: new ones begin where letters or digits follow blanks in every text, or
    /// where the kind of character changes in all.
    fn columns_of_a_record(&self) -> Option<Vec<usize>> {
        let filled = self.filled();
        let (length, same) = self.lengths.iter().max_by_key(|(_, texts)| **texts)?;
        if *length < 16 || *length > super::POSITIONS || same * 1000 < filled * LAYOUT {
            return None;
        }
        let share = |position: &super::Position, kind: char| {
            let place = super::KINDS.iter().position(|known| *known == kind).unwrap_or(0);
            position.kinds()[place] as f64 / position.texts().max(1) as f64
        };
        let positions = &self.left[..*length];
        let mut starts = vec![0];
        for n in 1..positions.len() {
            let (before, here) = (&positions[n - 1], &positions[n]);
            let leaves_blanks = share(before, 's') > 0.9 && share(here, 's') < 0.6;
            let changes = ['d', 'U'].iter().any(|kind| share(before, *kind) > 0.95 && share(here, *kind) < 0.05 && share(here, 's') < 0.5);
            if leaves_blanks || changes {
                starts.push(n);
            }
        }
        if starts.len() < 3 || !positions.iter().any(|position| share(position, 's') > 0.5) {
            return None;
        }
        let ends = starts.iter().skip(1).copied().chain([*length]);
        Some(starts.iter().zip(ends).map(|(start, end)| end - start).collect())
    }
}

/// The kinds and lengths of the runs of a shape; what stands for itself comes with its own character.
fn runs_of(shape: &str) -> Vec<(char, usize)> {
    let mut runs = Vec::new();
    let mut rest = shape;
    while let Some(c) = rest.chars().next() {
        if let Some(behind) = rest.strip_prefix("[[]") {
            runs.push((c, 1));
            rest = behind;
        } else if let Some((inside, behind)) = rest.strip_prefix('[').and_then(|inside| inside.split_once(']')) {
            let kind = inside.chars().next().unwrap_or('?');
            runs.push((kind, inside[kind.len_utf8()..].parse().unwrap_or(1)));
            rest = behind;
        } else {
            runs.push((c, 1));
            rest = &rest[c.len_utf8()..];
        }
    }
    runs
}

/// Conditions that hold for nearly all texts of a part.
fn checks(part: &PartSurvey) -> Option<String> {
    let holds = |count: u64| count * 1000 >= part.texts * HOLDS;
    // A value that stands only once or twice may be a slip.
    let usual: Vec<(&String, u64)> = part.values.iter().map(|(value, count)| (value, *count)).filter(|(_, count)| *count > 2).collect();
    let in_usual: u64 = usual.iter().map(|(_, count)| count).sum();
    let plain = |value: &str| value.chars().all(|c| c.is_alphanumeric());
    if !part.many
        && usual.len() > 1
        && holds(in_usual)
        && part.texts > 40
        && usual.iter().all(|(value, _)| plain(value))
        && !is_figures(&part.shapes)
    {
        let values: Vec<String> = usual.iter().map(|(value, _)| format!("\"{value}\"")).collect();
        return Some(format!("is in ({})", values.join(", ")));
    }
    let mut kinds: BTreeMap<&str, u64> = BTreeMap::new();
    let mut lengths: BTreeMap<usize, u64> = BTreeMap::new();
    for known in part.shapes.ranked() {
        let runs = runs_of(&known.shape);
        let kind = match runs.as_slice() {
            [('d', _)] => "is digits",
            [('U', _)] => "is letters and is upper",
            [('U' | 'l' | 'c', _), ..] if runs.iter().all(|(kind, _)| matches!(kind, 'U' | 'l' | 'c')) => "is letters",
            _ => "",
        };
        *kinds.entry(kind).or_default() += known.count;
        *lengths.entry(runs.iter().map(|(_, length)| length).sum()).or_default() += known.count;
    }
    let letters = ["is letters", "is letters and is upper"].iter().filter_map(|kind| kinds.get(kind)).sum::<u64>();
    let kind = kinds.iter().find(|(kind, count)| !kind.is_empty() && holds(**count)).map(|(kind, _)| *kind);
    let kind = kind.or_else(|| holds(letters).then_some("is letters"));
    let length = lengths.iter().find(|(_, count)| holds(**count)).map(|(length, _)| format!("length {length}"));
    match (kind, length) {
        (Some(kind), Some(length)) => Some(format!("{kind} and {length}")),
        (Some(only), None) => Some(only.to_owned()),
        (None, length) => length,
    }
}

fn is_figures(shapes: &ShapeCounts) -> bool {
    shapes.ranked().first().is_some_and(|first| first.shape.starts_with("[d"))
}

/// Names that say what pieces hold, none of them twice.
struct Names(BTreeMap<String, usize>);

impl Names {
    fn of(&mut self, part: &PartSurvey) -> String {
        let is_year = part.years * 1000 >= part.texts * 950;
        let figures = is_figures(&part.shapes);
        let few = !part.many && part.values.len() < super::PART_TEXTS && part.texts > 40;
        self.unused(match (is_year, figures, few) {
            (true, ..) => "year",
            (_, true, _) => "number",
            (_, _, true) => "group",
            _ => "code",
        })
    }

    fn unused(&mut self, name: &str) -> String {
        let known = self.0.entry(name.to_owned()).or_default();
        *known += 1;
        let numbered = if *known == 1 { return name.to_owned() } else { format!("{name}{known}") };
        // What is numbered may be taken as well.
        if self.0.contains_key(&numbered) { self.unused(name) } else { numbered }
    }
}
