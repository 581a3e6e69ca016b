//! How the texts of a column are laid out: what divides them, in which widths, where in them a date
//! stands.

use std::collections::BTreeMap;
use std::ops::Range;

use super::parts::{Divider, Mixed, is_a_century, is_a_point, share, start_of_column};
use super::runs::{
    BRACKETS, DAYS, Figures, divided_shape, ends_in_digits, figures_of, has_open_brackets,
    is_decimal, runs_of, written,
};
use super::{ColumnSurvey, DIVIDERS, PartSurvey, Position};

/// A layout is proposed when that many of a thousand texts have it.
pub(super) const LAYOUT: u64 = 850;

/// How many digits a year, a month and a day have.
const DAY: usize = 8;

/// What a piece of a text of a steady shape is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum What {
    Letters,
    Digits,
    /// Eight digits that are a day in this way.
    Day(&'static str),
    /// Four digits.
    Year,
    Other,
}

impl ColumnSurvey {
    /// The characters that divide the texts where they are several and tell more apart than one of
    /// them.
    pub(super) fn better_mixed(&self) -> Option<Mixed> {
        let mixed = self.mixed_dividers()?;
        let single = self.divider();
        // What is nothing but numbers is not to be divided further.
        if single.as_ref().is_some_and(|single| are_decimals(single.parts)) {
            return None;
        }
        let of_single = single.as_ref().map_or(0, |single| used(single.parts));
        // One of the others may be left at the end of a part: in "Frost, Edith" the comma.
        let is_left =
            |shape: &str| shape.ends_with(|end| end != ']' && mixed.characters.contains(end));
        let has_left = |part: &PartSurvey| part.of_shape(is_left) * 1000 >= part.texts * LAYOUT;
        let least = if single.is_some_and(|single| single.parts.iter().any(has_left)) {
            of_single
        } else {
            of_single + 1
        };
        (used(&mixed.parts) >= least.max(2)).then_some(mixed)
    }

    /// The character that divides the texts into one number of parts most steadily.
    pub(super) fn divider(&self) -> Option<Divider<'_>> {
        let filled = self.filled();
        // What divides sentences divides them nearly all.
        let is_prose = self.is_prose();
        let least = if is_prose { 950 } else { LAYOUT };
        let mut best: Option<(u64, usize, Divider<'_>)> = None;
        for (divider, divided) in DIVIDERS
            .iter()
            .zip(&self.divided)
            .filter(|(divider, _)| !is_prose || super::DIVIDERS_OF_PROSE.contains(divider))
        {
            let Some((parts, texts)) = divided
                .counts
                .iter()
                .filter(|(parts, _)| (2..=super::PARTS).contains(*parts))
                .max_by_key(|(_, texts)| **texts)
            else {
                continue;
            };
            let of = |parts: usize| {
                if parts == 1 {
                    divided.undivided(filled)
                } else {
                    divided.counts.get(&parts).copied().unwrap_or(0)
                }
            };
            // Texts with one part more: the last one is there in some of them only.
            let days = || divided.parts.get(..*parts).is_some_and(are_days);
            let suffix = || *parts == 2 && self.begins_like_undivided(*divider, &divided.parts);
            let (parts, fits, optional) = match (of(parts + 1), of(parts - 1)) {
                (more, _) if more * 20 >= filled => (parts + 1, texts + more, true),
                (_, fewer) if fewer * 20 >= filled && (*parts > 2 || days() || suffix()) => {
                    (*parts, texts + fewer, true)
                }
                _ => (*parts, *texts, false),
            };
            // Of texts in too many parts these were only counted.
            let Some(parts) =
                divided.parts.get(..parts).filter(|parts| !self.is_in_a_number(*divider, parts))
            else {
                continue;
            };
            if fits * 1000 < filled * least {
                continue;
            }
            // A part that is nearly always blank is none: the divider only begins or ends the text.
            // A few texts more or less decide nothing. Days and numbers are whole, though more
            // characters divide them.
            let used =
                if are_days(parts) || are_decimals(parts) { super::PARTS } else { used(parts) };
            // What cuts through brackets is better than nothing.
            let cuts_through = parts
                .iter()
                .any(|part| part.of_shape(has_open_brackets) * 1000 >= part.texts * LAYOUT);
            let rank = if cuts_through { 1 } else { used };
            let is_better = |known: u64, known_rank| match known.abs_diff(fits) * 50 <= filled {
                true => (rank, fits) > (known_rank, known),
                false => fits > known,
            };
            if used > 1
                && best.as_ref().is_none_or(|(known, known_rank, _)| is_better(*known, *known_rank))
            {
                best = Some((
                    fits,
                    rank,
                    Divider { character: *divider, parts, optional, undivided: of(1) },
                ));
            }
        }
        let best = best.map(|(.., divider)| divider);
        // Where each part has its number, the words beside them are labels.
        let has_labels = |divider: &Divider<'_>| {
            is_prose
                && self
                    .numbers_in_each()
                    .is_some_and(|(figures, ..)| figures.len() == divider.parts.len())
        };
        best.filter(|divider| !has_labels(divider))
    }

    /// Whether the texts that a character does not divide are, nearly all, such as stand before it
    /// in the others: then the rest is a suffix.
    fn begins_like_undivided(&self, divider: char, parts: &[PartSurvey]) -> bool {
        let (shapes, _) = self.shapes();
        let Some(usual) = shapes.iter().find(|(shape, ..)| !shape.contains(divider)) else {
            return false;
        };
        let undivided = shapes
            .iter()
            .filter(|(shape, ..)| !shape.contains(divider))
            .map(|(_, count, _)| count)
            .sum::<u64>();
        let before = parts.first().map_or(0, |before| {
            before.of_shape(|shape| shape == usual.0) * 1000 / before.texts.max(1)
        });
        usual.1 * 1000 >= undivided * LAYOUT && before >= LAYOUT && usual.0.contains("[d")
    }

    /// Whether a point or comma belongs to numbers: figures before it, at most three after it, and
    /// not as many everywhere as in a code; or another character divides off what is nothing but a
    /// number with it.
    fn is_in_a_number(&self, divider: char, parts: &[PartSurvey]) -> bool {
        let [before, behind, ..] = parts else { return false };
        let most = |count: u64, of: &PartSurvey| count * 1000 >= of.texts * LAYOUT;
        let is_code = || {
            before.is_code_of_figures()
                && most(before.of_shape(|shape| matches!(runs_of(shape)[..], [('d', _)])), before)
        };
        if !matches!(divider, '.' | ',') || is_code() {
            return false;
        }
        let figures =
            |shape: &str| ["[d]", "[d2]", "[d3]"].iter().any(|start| shape.starts_with(start));
        let is_steady = before
            .shapes
            .ranked()
            .first()
            .is_some_and(|known| most(known.count, before) && !known.shape.contains(','));
        let groups =
            || divider == ',' && most(behind.of_shape(|shape| shape.starts_with("[d3].")), behind);
        let is_short = most(before.of_shape(ends_in_digits), before)
            && most(behind.of_shape(figures), behind)
            && (!is_steady || groups());
        let is_decimal = |part: &PartSurvey| {
            part.texts * 1000 >= self.filled() * LAYOUT
                && most(part.of_shape(|shape| is_decimal(shape, divider)), part)
        };
        let others = || DIVIDERS.iter().zip(&self.divided).filter(|(other, _)| **other != divider);
        is_short || others().any(|(_, divided)| divided.parts.iter().any(is_decimal))
    }

    /// Several characters that divide nearly all texts, in one and the same order; `None` where one
    /// character divides them.
    fn mixed_dividers(&self) -> Option<Mixed> {
        let filled = self.filled();
        if self.is_prose() {
            return None;
        }
        let (shapes, _) = self.shapes();
        // A point or comma that divides all alike, as in 123.456.789-01, stands in no number.
        let divides = |point: &char| {
            let divided = DIVIDERS
                .iter()
                .zip(&self.divided)
                .find(|(divider, _)| *divider == point)
                .map(|(_, divided)| divided)?;
            let (parts, _) = divided
                .counts
                .iter()
                .find(|(parts, texts)| **parts > 1 && **texts * 1000 >= filled * LAYOUT)?;
            Some(!self.is_in_a_number(*point, divided.parts.get(..*parts)?))
        };
        let points: String =
            ['.', ','].iter().filter(|point| divides(point) == Some(true)).collect();
        let mut found: BTreeMap<String, (u64, Vec<PartSurvey>)> = BTreeMap::new();
        for (shape, count, _) in shapes {
            let Some((dividers, of_parts)) = divided_shape(shape, &points) else { continue };
            let (texts, parts) = found.entry(dividers).or_default();
            *texts += count;
            parts
                .resize_with(of_parts.len(), || PartSurvey { many: true, ..PartSurvey::default() });
            for (part, shape) in parts.iter_mut().zip(&of_parts) {
                part.texts += count;
                part.shapes.count(shape, count, 0);
            }
        }
        let (dividers, (fits, parts)) = found.into_iter().max_by_key(|(_, (texts, _))| *texts)?;
        let mut characters: Vec<char> = dividers.chars().collect();
        characters.sort_unstable();
        characters.dedup();
        let is_one_layout = fits * 1000 >= filled * LAYOUT && characters.len() > 1;
        is_one_layout.then(|| Mixed {
            characters: characters.into_iter().collect::<String>().replace('\\', "\\\\"),
            parts,
            fits,
        })
    }

    /// The numbers and days that nearly all texts have, in their order, with how many have them;
    /// and whether they have no letters.
    pub(super) fn numbers_in_each(&self) -> Option<(Vec<Figures>, u64, bool)> {
        let (shapes, _) = self.shapes();
        let days =
            DAYS.map(|(shape, pattern, regex)| (runs_of(shape), Figures::Day(pattern, regex)));
        let mut found: BTreeMap<Vec<Figures>, u64> = BTreeMap::new();
        let mut with_letters = 0;
        for (shape, count, _) in &shapes {
            let runs = runs_of(shape);
            *found.entry(figures_of(&runs, &days)).or_default() += count;
            with_letters +=
                if runs.iter().any(|(kind, _)| "Ulc".contains(*kind)) { *count } else { 0 };
        }
        let (figures, fits) = found.into_iter().max_by_key(|(_, texts)| *texts)?;
        (!figures.is_empty() && fits * 1000 >= self.filled() * LAYOUT).then_some((
            figures,
            fits,
            with_letters * 20 < self.filled(),
        ))
    }

    /// The brackets that nearly all texts have once, with what stands in them.
    pub(super) fn in_brackets(&self) -> Option<(&'static str, &'static str, PartSurvey)> {
        let (shapes, _) = self.shapes();
        let each = BRACKETS.iter().map(|(open, close)| {
            let mut inside = PartSurvey { many: true, ..PartSurvey::default() };
            for (shape, count, first) in &shapes {
                let runs = runs_of(shape);
                let places = |of: &str| -> Vec<usize> {
                    (0..runs.len()).filter(|n| of.starts_with(runs[*n].0)).collect()
                };
                if let ([from], [to]) = (&places(open)[..], &places(close)[..])
                    && from + 1 < *to
                {
                    inside.texts += count;
                    inside.shapes.count(&written(&runs[from + 1..*to]), *count, first.line);
                }
            }
            (*open, *close, inside)
        });
        each.max_by_key(|(.., inside)| inside.texts)
            .filter(|(.., inside)| inside.texts * 1000 >= self.filled() * 950)
    }

    /// How many digits the texts have, when they are nothing but digits and nearly always as many.
    pub(super) fn steady_digits(&self) -> Option<(usize, u64)> {
        let (shapes, _) = self.shapes();
        let (shape, count, _) = shapes.first()?;
        match runs_of(shape).as_slice() {
            [('d', length)] if *length > 3 && count * 1000 >= self.filled() * 950 => {
                Some((*length, *count))
            }
            _ => None,
        }
    }

    /// The columns of a fixed-width record, by the positions in each: new ones begin where letters
    /// or digits follow blanks in every text, where the kind of character changes in all, and where
    /// a date begins or ends.
    pub(super) fn columns_of_a_record(&self) -> Option<Vec<Range<usize>>> {
        let filled = self.filled();
        let (length, same) = self.lengths.iter().enumerate().max_by_key(|(_, texts)| **texts)?;
        if !(16..=super::POSITIONS).contains(&length) || same * 1000 < filled * LAYOUT {
            return None;
        }
        let positions = self.left.get(..length)?;
        // Blanks that fill a column stand beside others, or where other texts have none.
        let is_filled = |n: usize| {
            let blank = share(&positions[n], 's');
            blank > 0.5
                && ((blank < 0.95)
                    || positions.get(n + 1).is_some_and(|next| share(next, 's') > 0.5))
        };
        // Where not all texts are as long, words would do as much by chance.
        let are_blank = |pair: &[Position]| pair.iter().all(|position| share(position, 's') > 0.5);
        let may_be_words = same * 100 < filled * 97 && !positions.windows(2).any(are_blank);
        if may_be_words || !(0..positions.len()).any(is_filled) {
            return None;
        }
        // Blanks after a day belong to its column.
        let behind = |n: usize| {
            Some(n + DAY)
                .filter(|n| positions.get(*n).is_some_and(|position| share(position, 's') < 0.6))
        };
        let days = (0..positions.len()).filter(|n| self.day_at(*n).is_some());
        let days: Vec<usize> = days.flat_map(|n| [Some(n), behind(n)]).flatten().collect();
        let mut starts = vec![0];
        for n in 1..positions.len() {
            let (before, here) = (&positions[n - 1], &positions[n]);
            let leaves_blanks = share(before, 's') > 0.9 && share(here, 's') < 0.6;
            let changes = ['d', 'U'].iter().any(|kind| {
                share(before, *kind) > 0.95 && share(here, *kind) < 0.05 && share(here, 's') < 0.5
            });
            let is_initial =
                share(before, 'l') + share(before, 's') > 0.95 && share(here, 'U') > 0.95;
            // A point before decimals is in the number.
            let is_point = is_a_point(here)
                && positions.get(n + 1).is_some_and(|next| share(next, 'd') > 0.95);
            // A capital and the letters after it are one word.
            let goes_on = starts.last() == Some(&(n - 1))
                && share(before, 'U') > 0.95
                && share(here, 'l') > 0.95;
            if leaves_blanks {
                starts.push(start_of_column(positions, n));
            } else if (changes && !goes_on && !is_point) || is_initial || days.contains(&n) {
                starts.push(n);
            }
        }
        if starts.len() < 3 {
            return None;
        }
        let ends = starts.iter().skip(1).copied().chain([length]);
        Some(starts.iter().zip(ends).map(|(start, end)| *start..end).collect())
    }

    /// Whether nearly all positions of a column of a record, blanks and a point aside, hold digits.
    pub(super) fn are_digits(&self, positions: Range<usize>) -> bool {
        let kinds = |position: &super::Position| position.kinds();
        let digits = |kinds: [u64; 6]| (kinds[3], kinds.iter().sum::<u64>() - kinds[4]);
        let counted = self
            .left
            .get(positions)
            .unwrap_or_default()
            .iter()
            .filter(|position| !is_a_point(position));
        let counted = counted.map(|position| digits(kinds(position)));
        let (digits, all) =
            counted.fold((0, 0), |(digits, all), (more, of)| (digits + more, all + of));
        all > 0 && digits * 100 >= all * 98
    }

    /// How a day is written that positions, counted from 0, hold with nothing else but blanks.
    pub(super) fn day_in(&self, positions: &Range<usize>) -> Option<&'static str> {
        let behind = self.left.get(positions.start + DAY..positions.end);
        let is_blank = |position: &Position| position.kinds()[4] * 10 > position.texts() * 9;
        self.day_at(positions.start)
            .filter(|_| behind.is_some_and(|behind| behind.iter().all(is_blank)))
    }

    /// How the eight digits from a position on, counted from 0, are a year, a month and a day in
    /// nearly all texts.
    fn day_at(&self, n: usize) -> Option<&'static str> {
        let Some([a, b, c, d, e, f, g, h]) = self.left.get(n..n + DAY) else { return None };
        let is_so = |[millennium, century, decade, year, month, months, day, days]: [&Position;
                         DAY]| {
            let are_digits =
                [decade, year, months, days].iter().all(|position| position.is_within(b'0'..=b'9'));
            // Figures that hardly change are no days.
            let do_change = [month, months, day, days]
                .iter()
                .filter(|position| position.different_digits() > 1)
                .count()
                > 2;
            is_a_century(millennium, century)
                && are_digits
                && do_change
                && month.is_within(b'0'..=b'1')
                && day.is_within(b'0'..=b'3')
        };
        match () {
            () if is_so([a, b, c, d, e, f, g, h]) => Some("YYYYMMDD"),
            () if is_so([e, f, g, h, c, d, a, b]) => Some("DDMMYYYY"),
            () => None,
        }
    }

    /// Whether the four digits from a position on, counted from 0, are a year in nearly all texts.
    fn is_a_year_at(&self, n: usize) -> bool {
        let Some([millennium, century, decade, year]) = self.left.get(n..n + 4) else {
            return false;
        };
        is_a_century(millennium, century)
            && year.different_digits() > 1
            && [decade, year].iter().all(|place| place.is_within(b'0'..=b'9'))
    }

    /// What stands in texts of a steady shape, piece by piece with their positions from 0; runs of
    /// digits may hold a day or be a year.
    pub(super) fn pieces(&self, shape: &str) -> Vec<(What, Range<usize>)> {
        let mut at = 0;
        let mut pieces = Vec::new();
        for (kind, length) in runs_of(shape) {
            let run = at..at + length;
            at = run.end;
            match kind {
                'U' | 'l' => pieces.push((What::Letters, run)),
                'd' if length == 4 && self.is_a_year_at(run.start) => {
                    pieces.push((What::Year, run))
                }
                'd' => match (run.start..(run.end + 1).saturating_sub(DAY))
                    .find_map(|n| Some((n, self.day_at(n)?)))
                {
                    Some((n, pattern)) => {
                        let around = [
                            (What::Digits, run.start..n),
                            (What::Day(pattern), n..n + DAY),
                            (What::Digits, n + DAY..run.end),
                        ];
                        pieces.extend(around.into_iter().filter(|(_, piece)| !piece.is_empty()));
                    }
                    None => pieces.push((What::Digits, run)),
                },
                _ => pieces.push((What::Other, run)),
            }
        }
        pieces
    }

    /// How a day and a time of that day are written one after the other, where they are: the
    /// length and the pattern of the day.
    pub(super) fn day_and_time(&self) -> Option<(usize, &'static str, u64)> {
        let (shapes, _) = self.shapes();
        let found = DAYS.iter().map(|(shape, pattern, _)| {
            let is_so = |of: &str| {
                of.strip_prefix(shape).is_some_and(|rest| {
                    ["[s][d2]:[d2]", "[U][d2]:[d2]"].iter().any(|time| rest.starts_with(time))
                })
            };
            (
                pattern.len(),
                *pattern,
                shapes.iter().filter(|(of, ..)| is_so(of)).map(|(_, count, _)| count).sum::<u64>(),
            )
        });
        found
            .max_by_key(|(.., fits)| *fits)
            .filter(|(.., fits)| fits * 1000 >= self.filled() * LAYOUT)
    }
}

/// How many of the parts are there in at least half of the texts.
fn used(parts: &[PartSurvey]) -> usize {
    parts.iter().filter(|part| part.blank() * 2 < part.texts).count()
}

/// Whether nearly all parts are days.
fn are_days(parts: &[PartSurvey]) -> bool {
    parts.iter().all(|part| {
        part.texts > 0
            && part.of_shape(|shape| DAYS.iter().any(|(day, ..)| *day == shape)) * 1000
                >= part.texts * LAYOUT
    })
}

/// Whether nearly all parts are numbers with decimals.
fn are_decimals(parts: &[PartSurvey]) -> bool {
    let is_decimal = |shape: &str| is_decimal(shape, '.') || is_decimal(shape, ',');
    parts
        .iter()
        .all(|part| part.texts > 0 && part.of_shape(is_decimal) * 1000 >= part.texts * LAYOUT)
}
