//! What nearly all texts of a column are, as rules for the tables of next month.

use crate::first_row::FirstRow;
use crate::language::quoted;
use crate::layouts::{Layout, Layouts};
use std::collections::BTreeMap;

use super::runs::runs_of;
use super::{ColumnSurvey, Distinct};
use crate::text::DATES;

/// A rule that all or nearly all rows of a column keep.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ColumnHolds {
    /// The rule.
    pub what: Held,
    /// How many rows keep it.
    pub rows: u64,
    /// Of how many: all rows for one about blank cells, else those that are filled.
    pub of: u64,
}

/// What a rule is about.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Held {
    /// The cell is filled.
    Filled,
    /// No other row has the same text.
    Unique,
    /// The text is one of these.
    OneOf(Vec<String>),
    /// A condition of the language holds for the text.
    Check(String),
}

impl ColumnHolds {
    /// Whether enough rows keep it to be called a rule: 90 of 100.
    pub fn is_rule(&self) -> bool {
        self.of >= FEWEST && self.rows * 100 >= self.of * LEAST
    }

    /// The condition that the text of each row is to meet; `None` of what is about several rows or
    /// blank ones.
    pub fn condition(&self) -> Option<String> {
        match &self.what {
            Held::Check(check) => Some(check.clone()),
            Held::Filled | Held::Unique | Held::OneOf(_) => None,
        }
    }
}

/// Rules that fewer of a hundred rows keep are no rules.
const LEAST: u64 = 90;
/// A column in which fewer of a hundred texts stand in one row alone is not meant to be unique.
const UNIQUE: u64 = 98;
/// In fewer rows than these nothing is told from chance.
const FEWEST: u64 = 20;
/// The most values of a list, each in two rows or more.
const VALUES: usize = 20;
/// Runs of one place whose lengths differ by more are of any length.
const SPREAD: usize = 4;

/// The ways of writing of a column of more layouts are no rule.
const MOST_LAYOUTS: usize = 6;

/// Texts whose runs are of the same kinds, one after the other.
#[derive(Default)]
struct Family {
    texts: u64,
    /// How short and how long each run is.
    lengths: Vec<(usize, usize)>,
}

impl ColumnSurvey {
    /// The rules that at least 90 of 100 rows keep by their looks, those about blank cells first.
    /// How many meet a condition must be counted by asking it.
    pub fn holds(&self, layouts: &Layouts) -> Vec<ColumnHolds> {
        let filled = self.filled();
        let mut holds = vec![ColumnHolds { what: Held::Filled, rows: filled, of: self.rows }];
        if let (Distinct::Exactly(_), Some(repeated)) = (self.distinct(), self.repeated()) {
            let rows = filled - repeated.iter().map(|(_, rows, _)| rows).sum::<u64>();
            // Numbers and days are different by chance.
            let is_number = self.numbers * 2 > filled && self.steady_digits().is_none();
            let by_chance = is_number
                || layouts.unit().is_some()
                || self.is_prose()
                || self.dates.iter().any(|rows| rows * 2 > filled);
            let is_likely = !by_chance && rows * 100 >= filled * UNIQUE;
            holds.extend(is_likely.then_some(ColumnHolds { what: Held::Unique, rows, of: filled }));
        }
        holds.extend(self.one_of().or_else(|| self.check(layouts)));
        holds.retain(ColumnHolds::is_rule);
        holds
    }

    /// The few values that nearly all texts have.
    fn one_of(&self) -> Option<ColumnHolds> {
        let repeated = self.repeated()?;
        let rows = repeated.iter().map(|(_, rows, _)| rows).sum();
        let is_value = |text: &str| {
            text.chars().any(char::is_alphabetic)
                && text.trim() == text
                && !text.chars().any(char::is_control)
        };
        let are_few = repeated.len() > 1
            && repeated.len() <= VALUES
            && repeated.len() as u64 * 5 <= self.filled();
        if !are_few
            || !repeated.iter().all(|(text, ..)| is_value(text))
            || rows * 100 < self.filled() * LEAST
        {
            return None;
        }
        let mut values: Vec<String> =
            repeated.into_iter().map(|(text, ..)| text.to_owned()).collect();
        values.sort_unstable();
        Some(ColumnHolds { what: Held::OneOf(values), rows, of: self.filled() })
    }

    /// What kind of text nearly all are, or how nearly all look.
    fn check(&self, layouts: &Layouts) -> Option<ColumnHolds> {
        let filled = self.filled();
        let nearly_all = |rows: u64| rows * 100 >= filled * LEAST;
        let check = |what: String, rows: u64| {
            Some(ColumnHolds { what: Held::Check(what), rows, of: filled })
        };
        if nearly_all(self.emails) {
            return check("is email".to_owned(), self.emails);
        }
        if let Some((pattern, rows)) =
            DATES.iter().zip(self.dates).find(|(_, rows)| nearly_all(*rows))
            && self.day().is_none_or(|(_, other, _)| other.is_none())
        {
            return check(format!("is date \"{pattern}\""), rows);
        }
        if nearly_all(self.numbers) && self.steady_digits().is_none() {
            return check("is number".to_owned(), self.numbers);
        }
        if self.columns_of_a_record().is_some() {
            let (length, rows) = self.lengths.iter().enumerate().max_by_key(|(_, rows)| **rows)?;
            return check(format!("length {length}"), *rows);
        }
        if layouts.are_several() && layouts.layouts.len() <= MOST_LAYOUTS && !self.is_prose() {
            let shape = |layout: &Layout| {
                let case = if layout.ignoring_case { " ignoring case" } else { "" };
                Some(format!("is shape {}{case}", quoted(&layout.pattern)?))
            };
            let shapes: Option<Vec<String>> = layouts.layouts.iter().map(shape).collect();
            return check(shapes?.join(" or "), filled - layouts.odd_texts.min(filled));
        }
        let (shape, rows) = self.usual_shape().filter(|_| !self.is_prose())?;
        check(format!("is shape \"{shape}\""), rows)
    }

    /// How most texts look, whatever the lengths of their runs, as the pattern of `is shape`, and
    /// how many do.
    fn usual_shape(&self) -> Option<(String, u64)> {
        let (shapes, _) = self.shapes();
        let mut families: BTreeMap<Vec<char>, Family> = BTreeMap::new();
        // What a few texts alone have is no part of what is usual.
        let is_rare = |count: u64| count * 200 < self.filled();
        for (shape, count, _) in
            shapes.iter().filter(|(_, count, _): &&(&str, u64, &FirstRow)| !is_rare(*count))
        {
            let runs = runs_of(shape);
            let family = families.entry(runs.iter().map(|(kind, _)| *kind).collect()).or_default();
            family.texts += count;
            family.lengths.resize(runs.len(), (usize::MAX, 0));
            for ((least, most), (_, length)) in family.lengths.iter_mut().zip(&runs) {
                (*least, *most) = ((*least).min(*length), (*most).max(*length));
            }
        }
        let (kinds, Family { texts, lengths }) =
            families.into_iter().max_by_key(|(_, family)| family.texts)?;
        let is_told = kinds.len() > 1 || lengths.iter().all(|(least, most)| least == most);
        let can_be_written =
            is_told && !kinds.iter().any(|kind| matches!(kind, '"' | '\\') || kind.is_control());
        let mut pattern = String::new();
        for (kind, (least, most)) in kinds.into_iter().zip(lengths) {
            match kind {
                // Words of other lengths may come; figures and capitals are of a code.
                'l' | 'c' if most > least => pattern.push_str(&format!("[{kind}+]")),
                'U' | 'd' | 's' if most - least >= SPREAD => {
                    pattern.push_str(&format!("[{kind}+]"))
                }
                'U' | 'd' | 's' if most > least => {
                    pattern.push_str(&format!("[{kind}{least}..{most}]"))
                }
                'U' | 'l' | 'c' | 'd' | 's' if most > 1 => {
                    pattern.push_str(&format!("[{kind}{most}]"))
                }
                'U' | 'l' | 'c' | 'd' | 's' => pattern.push_str(&format!("[{kind}]")),
                '[' => pattern.push_str("[[]"),
                sign => pattern.push(sign),
            }
        }
        can_be_written.then_some((pattern, texts))
    }
}
