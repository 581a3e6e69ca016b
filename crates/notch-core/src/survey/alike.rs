//! Texts that are alike in all that a second look at a column asks: one of them tells it of all,
//! and the rows need not be read again.
//!
//! Where the different texts are few enough to be counted one by one, the rows of one text are
//! alike. Where they are more, the texts of one shape are, if nothing is asked that texts of one
//! shape may answer differently: letters and digits of a layout stand where all of them are the
//! same, and no text may have a letter that was meant for a digit.

use super::ColumnSurvey;
use super::bytes::{BEYOND, CONTROL, DIGIT, LIKE_DIGIT, Look, has_like_digit, has_lone_like_digit};
use super::odd::Oddities;
use super::rows::RowSample;
use super::rules::{ColumnHolds, Held};
use crate::first_row::FirstRow;
use crate::layouts::Layouts;
use crate::text::OpenText;

/// Rows of a column that are alike in what is asked of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Alike<'s> {
    /// The text of the first of them.
    pub text: &'s str,
    /// How many they are.
    pub rows: u64,
    /// The number of the first, from 1.
    pub row: u64,
    /// The line it begins in, from 1.
    pub line: u64,
}

impl Alike<'_> {
    /// The first of them.
    pub fn first(&self) -> FirstRow {
        FirstRow { row: self.row, line: self.line, text: self.text.to_owned() }
    }
}

/// All rows of a column that are not blank.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct AlikeTexts<'s> {
    /// The rows that are alike in what layouts, rules and oddities ask, in the order of the first
    /// of each.
    pub groups: Vec<Alike<'s>>,
    /// The rows of a [`RowSample`], where cuts are to be run on these and not on all.
    sampled: Option<Vec<Alike<'s>>>,
}

impl<'s> AlikeTexts<'s> {
    /// The rows on which cuts are to be run.
    pub fn to_cut(&self) -> &[Alike<'s>] {
        self.sampled.as_ref().unwrap_or(&self.groups)
    }
}

/// What is known of the texts of a shape.
#[derive(Clone)]
pub(super) struct OfShape {
    pub first: FirstRow,
    /// How many bytes all texts begin with.
    same: usize,
    /// A text has a control character or one beyond ASCII; in others these may be others.
    not_plain: bool,
    /// A text has a letter that may be meant for a digit, or that was not looked for.
    like_digit: bool,
    /// What the bytes of one of its texts tell, where those of all others that have no character
    /// beyond ASCII and no control character tell the same.
    pub look: Option<Look>,
}

impl OfShape {
    /// Of the shape of a text.
    pub(super) fn of(first: FirstRow) -> Self {
        Self { same: first.text.len(), first, not_plain: false, like_digit: false, look: None }
    }

    /// Takes a text; `seen` is what kinds of bytes it has, or may have of letters like digits.
    /// These are looked at one by one only in texts with digits that are no sentences: in all that
    /// took 280 instructions an address.
    #[inline]
    pub(super) fn add(&mut self, text: OpenText<'_>, seen: u32, is_prose: bool) {
        self.not_plain |= seen & (CONTROL | BEYOND) != 0;
        self.begins_with(text.text());
        if seen & LIKE_DIGIT != 0 && !self.like_digit {
            self.like_digit = if is_prose || seen & DIGIT == 0 {
                has_like_digit(text)
            } else {
                has_lone_like_digit(text)
            };
        }
    }

    /// Compares the beginning of the texts with that of another one.
    #[inline]
    fn begins_with(&mut self, text: &str) {
        let beginning = &self.first.text.as_bytes()[..self.same];
        // Most texts of a column of codes have nothing in common.
        if self.same > 0 && !text.as_bytes().starts_with(beginning) {
            let each = beginning.iter().zip(text.as_bytes());
            self.same = each.take_while(|(ours, theirs)| ours == theirs).count();
        }
    }

    /// Adds what is known of more texts.
    pub(super) fn merge(&mut self, others: &OfShape) {
        self.begins_with(&others.first.text);
        self.same = self.same.min(others.same);
        self.not_plain |= others.not_plain;
        self.like_digit |= others.like_digit;
    }
}

impl ColumnSurvey {
    /// The rows by what the second look at the column asks, which is whether a text has a letter
    /// that was meant for a digit, its layout and label, and whether it keeps the rules; `None`
    /// where that cannot be told without reading the rows again.
    pub fn alike(
        &self,
        layouts: &Layouts,
        rules: &[ColumnHolds],
        oddities: &Oddities,
    ) -> Option<AlikeTexts<'_>> {
        let mut alike = match self.texts.each() {
            Some(each) => AlikeTexts { groups: each.collect(), sampled: None },
            None => AlikeTexts {
                groups: self.alike_by_shape(layouts, rules, oddities)?,
                sampled: Some(self.sampled_texts()?),
            },
        };
        alike.groups.sort_unstable_by_key(|of| of.row);
        Some(alike)
    }

    fn alike_by_shape(
        &self,
        layouts: &Layouts,
        rules: &[ColumnHolds],
        oddities: &Oddities,
    ) -> Option<Vec<Alike<'_>>> {
        let asks_for_shapes = |rule: &ColumnHolds| match &rule.what {
            Held::Check(check) => check.starts_with("is shape ") || check.starts_with("length "),
            Held::Filled | Held::Unique | Held::OneOf(_) => true,
        };
        let asks_for_more = self.is_prose()
            || self.shapes.beyond() > 0
            || !rules.iter().all(asks_for_shapes)
            || layouts.layouts.is_empty() && !layouts.labels.is_empty();
        if asks_for_more {
            return None;
        }
        let of_shapes = layouts.of_shapes()?;
        let each = self.shapes.in_order().iter().zip(&self.of_shapes);
        each.map(|(shape, of)| {
            let FirstRow { row, line, text } = &of.first;
            let have_a_layout = || {
                layouts.layouts.is_empty()
                    || matches!(of_shapes.place(text, of.same), Some(Some(_)))
            };
            // Of texts without layout each one is listed.
            let are_alike = shape.count == 1
                || !of.not_plain
                    && shape.shape.is_ascii()
                    && (of.same == text.len()
                        || !(of.like_digit && oddities.have_digits()) && have_a_layout());
            let alike = Alike { text, rows: shape.count, row: *row, line: *line };
            are_alike.then_some(alike)
        })
        .collect()
    }

    /// The rows on which cuts are run where there are too many different texts to know.
    fn sampled_texts(&self) -> Option<Vec<Alike<'_>>> {
        let alike = |(text, row)| Alike { text, rows: 1, row, line: row };
        Some(self.to_cut.as_ref()?.texts(RowSample::of(self.rows))?.map(alike).collect())
    }
}
