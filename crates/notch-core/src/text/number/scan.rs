//! Where numbers stand in a text, and which characters of it are theirs.
//!
//! A number is digits with their grouping, a fraction, and what belongs to it on both sides: a sign
//! (over a currency sign too), a minus after it or brackets around it where the style allows them.
//!
//! What it returns is certain about its bytes and not about their meaning: whether something else
//! may have been meant is judged in `judge.rs`. The rules stand in docs/language.md.

use std::cell::Cell;
use std::ops::Range;

use super::currency::is_currency_sign;
use super::doubt::{Brackets, Doubt};
use super::harmless::{is_harmless_before, is_harmless_behind};
use super::{Evidence, Marks, Number, NumberStyle, OPENING, is_blank, is_format, is_minus};
use crate::text::Span;

/// The numbers of a text from left to right.
pub(crate) struct Numbers<'t> {
    pub(super) text: &'t str,
    /// The character that stands before the text in its cell.
    before: Option<char>,
    pub(super) style: NumberStyle,
    /// The byte after the number found last.
    at: usize,
    /// Up to here digits are not grouped: their grouping is none.
    no_groups_until: usize,
    /// Up to here a decimal mark separates: there are two or more.
    no_decimal_until: usize,
    /// Something depends on what stands before the text.
    asked_before: Cell<bool>,
}

/// What was read of a number, in bytes.
#[derive(Debug)]
pub(super) struct Read {
    /// Digits before the decimal mark, with their grouping; empty for `.5`.
    pub whole: Span,
    /// Digits after the decimal mark.
    pub fraction: Span,
    /// The byte after the last digit.
    pub end: usize,
    /// A sign stands before it.
    pub is_signed: bool,
    /// A minus after it belongs to it.
    pub has_minus_behind: bool,
    pub brackets: Option<Brackets>,
    /// The brackets say that it is below zero.
    pub is_in_account_brackets: bool,
}

impl Read {
    /// The byte of its first digit, or of the decimal mark that it begins with.
    pub(super) fn digits_start(&self) -> usize {
        if self.whole.is_empty() { self.fraction.start - 1 } else { self.whole.start }
    }
}

impl<'t> Numbers<'t> {
    pub(super) fn new(text: &'t str, before: Option<char>, style: NumberStyle) -> Self {
        Self {
            text,
            before,
            style,
            at: 0,
            no_groups_until: 0,
            no_decimal_until: 0,
            asked_before: Cell::new(false),
        }
    }

    /// Whether what was found so far depends on the character before the text.
    pub(crate) fn depends_on_before(&self) -> bool {
        self.asked_before.get()
    }

    // ---- what stands where; characters that cannot be seen, as direction marks, are passed over

    /// The character that stands before byte `at`, in the text or before it.
    pub(super) fn context(&self, at: usize) -> Option<char> {
        match self.prev_char(at) {
            Some((c, _)) => Some(c),
            None => {
                self.asked_before.set(true);
                self.before
            }
        }
    }

    /// The character of the text before byte `at`, and where.
    #[inline]
    pub(super) fn prev_char(&self, at: usize) -> Option<(char, usize)> {
        if let Some(byte) = self.text.as_bytes()[..at].last().filter(|byte| byte.is_ascii()) {
            return Some((char::from(*byte), at - 1));
        }
        self.text[..at].char_indices().rev().find(|(_, c)| !is_format(*c)).map(|(at, c)| (c, at))
    }

    /// The character of the text at byte `at`, and where.
    #[inline]
    pub(super) fn next_char(&self, at: usize) -> Option<(char, usize)> {
        if let Some(byte) = self.text.as_bytes()[at..].first().filter(|byte| byte.is_ascii()) {
            return Some((char::from(*byte), at));
        }
        self.text[at..].char_indices().find(|(_, c)| !is_format(*c)).map(|(n, c)| (c, at + n))
    }

    fn char_at(&self, at: usize) -> Option<char> {
        self.text[at..].chars().next()
    }

    /// The end of the digits that begin here.
    pub(super) fn digits(&self, at: usize) -> usize {
        at + self.text.as_bytes()[at..].iter().take_while(|b| b.is_ascii_digit()).count()
    }

    fn is_digit(&self, at: usize) -> bool {
        self.text.as_bytes().get(at).is_some_and(u8::is_ascii_digit)
    }

    /// Where the blanks begin that end at byte `end`; `end` where there are none.
    pub(super) fn without_blanks(&self, end: usize) -> usize {
        self.text[..end].trim_end_matches(|c: char| is_blank(c) || is_format(c)).len()
    }

    /// Where a currency sign begins that ends at byte `end`, with up to three letters before it,
    /// two after it and perhaps a blank after those: `R$ `, `€`.
    pub(super) fn currency_before(&self, end: usize) -> Option<usize> {
        let step = |at: usize, wanted: fn(char) -> bool| {
            self.prev_char(at).filter(|(c, _)| wanted(*c)).map(|(_, at)| at)
        };
        let letters = |at: usize, most: usize| {
            let mut from = at;
            for _ in 0..most {
                match step(from, char::is_alphabetic) {
                    Some(letter) => from = letter,
                    None => return from,
                }
            }
            // A longer word is none of the sign's.
            if step(from, char::is_alphabetic).is_some() { at } else { from }
        };
        let sign = letters(step(end, is_blank).unwrap_or(end), 2);
        step(sign, is_currency_sign).map(|at| letters(at, 3))
    }

    /// The byte after a currency sign that begins at byte `from`, perhaps with a blank before it.
    pub(super) fn currency_behind(&self, from: usize) -> Option<usize> {
        let (first, at) = self.next_char(from)?;
        let (sign, at) =
            if is_blank(first) { self.next_char(at + first.len_utf8())? } else { (first, at) };
        is_currency_sign(sign).then(|| at + sign.len_utf8())
    }

    /// Whether a sign may stand after this character; a currency sign may, too.
    pub(super) fn sign_may_follow(before: Option<char>) -> bool {
        before.is_none_or(|c| {
            c.is_whitespace()
                || OPENING.contains(&c)
                || matches!(c, '=' | ':')
                || is_currency_sign(c)
        })
    }

    // ---- the digits of a number

    /// The end of digits grouped from `at` on, `first` being the end of the first group. When what
    /// looks like grouping is none, no digits are grouped up to its end.
    fn grouped(&mut self, at: usize, first: usize) -> usize {
        if first < self.no_groups_until {
            return first;
        }
        let Some(joint) = self.char_at(first).filter(|c| self.style.marks.groups(*c)) else {
            return first;
        };
        let mut end = first;
        let mut threes = true;
        while self.char_at(end) == Some(joint) {
            let start = end + joint.len_utf8();
            let next = self.digits(start);
            if next == start {
                break;
            }
            threes &= next - start == 3;
            end = next;
        }
        if end == first {
            return first;
        }
        if threes && (1..=3).contains(&(first - at)) && self.text[at..first] != *"0" {
            return end;
        }
        self.no_groups_until = end;
        first
    }

    /// The digits after a decimal mark at `at`, if it is one.
    fn fraction(&mut self, at: usize, mark: char) -> Span {
        let none = at..at;
        if at < self.no_decimal_until || self.char_at(at) != Some(mark) {
            return none;
        }
        let end = self.digits(at + 1);
        if end == at + 1 {
            return none;
        }
        let mut joined = end;
        while self.char_at(joined) == Some(mark) && self.is_digit(joined + 1) {
            joined = self.digits(joined + 1);
        }
        if joined > end {
            self.no_decimal_until = joined;
            return none;
        }
        at + 1..end
    }

    /// The digits of a number that begin with a decimal mark before `first_digit`, where a sign
    /// could stand before it: `.5`.
    fn bare_fraction(&self, first_digit: usize) -> Option<Range<usize>> {
        let at = first_digit.checked_sub(1).filter(|at| *at >= self.at)?;
        let mark = char::from(self.text.as_bytes()[at]);
        if !self.style.marks.is_decimal(mark) {
            return None;
        }
        // A sign before the piece is none of its own.
        let sign = self.prev_char(at).filter(|(c, sign)| is_sign(*c) && *sign >= self.at);
        let may_stand = Self::sign_may_follow(self.context(at))
            || sign.is_some_and(|(_, at)| Self::sign_may_follow(self.context(at)));
        let end = self.digits(first_digit);
        let goes_on = self.char_at(end).is_some_and(|c| self.style.marks.is_decimal(c))
            && self.is_digit(end + 1);
        (may_stand && !goes_on).then_some(first_digit..end)
    }

    /// The digits before and after the decimal mark of a number whose first digit is at `at`, each
    /// mark taken for what it is in this number; and what leaves doubt about that.
    fn either(&self, at: usize) -> (Span, Span, Option<Doubt>) {
        let first = self.digits(at);
        let is_group = (1..=3).contains(&(first - at)) && self.text[at..first] != *"0";
        // Blanks and apostrophes group threes.
        let mut end = first;
        while let Some(joint) = self.char_at(end) {
            let next = end + joint.len_utf8();
            let may_group = match joint {
                '\'' | '’' | '\u{a0}' | '\u{202f}' | '\u{2009}' => true,
                ' ' => {
                    is_group
                        && self.is_digit(next)
                        && self.digits(next) == next + 3
                        && self.is_decimal_behind(next)
                }
                _ => false,
            };
            if !may_group || !self.is_digit(next) || self.digits(next) != next + 3 {
                break;
            }
            end = next + 3;
        }
        let gaps_end = end;
        // Then points and commas, each with digits after it.
        let (mut points, mut commas, mut last, mut threes) = (0, 0, end, true);
        while let Some(mark @ ('.' | ',')) = self.char_at(end)
            && self.is_digit(end + 1)
        {
            if points + commas > 0 {
                threes &= end - last == 4;
            }
            *(if mark == '.' { &mut points } else { &mut commas }) += 1;
            (last, end) = (end, self.digits(end + 1));
        }
        let has_gaps = gaps_end > first;
        let in_groups =
            |threes: bool| if threes && is_group { None } else { Some(Doubt::NotThrees) };
        let gaps_doubt = if has_gaps { in_groups(true) } else { None };
        let (whole, decimal) = (at..end, (at..last, last + 1..end));
        match (points, commas) {
            (0, 0) => (whole, end..end, gaps_doubt),
            (1, 0) | (0, 1) if has_gaps => (decimal.0, decimal.1, gaps_doubt),
            (1, 0) | (0, 1) => {
                let is_lone_zero = self.text[at..first] == *"0";
                match (end - last == 4, first - at) {
                    (false, _) => (decimal.0, decimal.1, None),
                    (true, _) if is_lone_zero => (decimal.0, decimal.1, None),
                    (true, 1..=3) => (whole, end..end, Some(Doubt::TwoReadings)),
                    (true, _) => (decimal.0, decimal.1, Some(Doubt::TwoReadings)),
                }
            }
            (_, 0) | (0, _) => {
                let is_grouped = threes && end - last == 4;
                let doubt = if has_gaps { Some(Doubt::Alternate) } else { in_groups(is_grouped) };
                let is_day = || !is_grouped && points + commas == 2 && is_day(&self.text[at..end]);
                (whole, end..end, doubt.map(|doubt| if is_day() { Doubt::Date } else { doubt }))
            }
            (_, _) => {
                let repeats =
                    if self.text.as_bytes()[last] == b'.' { points > 1 } else { commas > 1 };
                let alternates = repeats || has_gaps;
                (
                    decimal.0,
                    decimal.1,
                    if alternates { Some(Doubt::Alternate) } else { in_groups(threes) },
                )
            }
        }
    }

    fn number(&mut self, first_digit: usize) -> Number {
        let mut own_doubt = None;
        let (whole, fraction) = match (self.bare_fraction(first_digit), self.style.marks) {
            (Some(fraction), _) => (first_digit - 1..first_digit - 1, fraction),
            (None, Marks::Either) => {
                let (whole, fraction, doubt) = self.either(first_digit);
                own_doubt = doubt;
                (whole, fraction)
            }
            (None, marks) => {
                let end = self.grouped(first_digit, self.digits(first_digit));
                (first_digit..end, self.fraction(end, marks.decimal()))
            }
        };
        let end = fraction.end.max(whole.end);
        if own_doubt.is_none() && self.is_harmless_around(whole.start, end) {
            let digits = &self.text[whole.clone()];
            let other = if self.style.marks == Marks::Comma { '.' } else { ',' };
            let is_grouped = self.style.marks != Marks::Either
                && fraction.is_empty()
                && digits.matches(other).count() == 1;
            return Number {
                drops_zeros: digits.len() > 1 && digits.starts_with('0'),
                evidence: is_grouped.then_some(Evidence::Grouped),
                span: whole.start..end,
                negative: false,
                whole,
                fraction,
                doubt: None,
            };
        }
        let mut read = Read {
            whole,
            fraction,
            end,
            is_signed: false,
            has_minus_behind: false,
            brackets: None,
            is_in_account_brackets: false,
        };
        let (mut negative, mut start) = self.sign(read.digits_start());
        read.is_signed = start < read.digits_start();
        read.brackets = self.brackets(start, end);
        let mut span_end = end;
        let mut signs = usize::from(read.is_signed);
        if self.style.accounting {
            if let Some(minus_end) = self.minus_behind(end) {
                (span_end, negative, read.has_minus_behind) = (minus_end, true, true);
                signs += 1;
            }
            if let Some(brackets) = read.brackets.filter(Brackets::is_below_zero)
                && let Some(open) = brackets.open
            {
                (start, span_end, negative, read.is_in_account_brackets) =
                    (open, brackets.close, true, true);
                signs += 1;
                // `-(5)`, `-€(5)`: a sign before the brackets.
                let (_, before) = self.sign(open);
                signs += usize::from(before < open);
                start = start.min(before);
            }
            negative &= self.text[read.whole.clone()]
                .bytes()
                .chain(self.text[read.fraction.clone()].bytes())
                .any(|b| (b'1'..=b'9').contains(&b));
        }
        let doubt =
            if signs > 1 { Some(Doubt::TwoSigns) } else { own_doubt.or_else(|| self.doubt(&read)) };
        let digits = &self.text[read.whole.clone()];
        Number {
            drops_zeros: digits.len() > 1 && digits.starts_with('0'),
            evidence: self.evidence(&read, doubt),
            span: start..span_end,
            negative,
            whole: read.whole,
            fraction: read.fraction,
            doubt,
        }
    }

    /// Whether nothing around a number, from one byte up to another, can belong to it.
    #[inline]
    fn is_harmless_around(&self, start: usize, end: usize) -> bool {
        let bytes = self.text.as_bytes();
        (start == 0 || is_harmless_before(bytes, 0, start)) && is_harmless_behind(bytes, end)
    }

    /// What a number says of the decimal mark that its column has.
    fn evidence(&self, read: &Read, doubt: Option<Doubt>) -> Option<Evidence> {
        let other = match self.style.marks {
            Marks::Point => ',',
            Marks::Comma => '.',
            Marks::Either => return None,
        };
        if doubt.is_none() && read.fraction.is_empty() {
            return (self.text[read.whole.clone()].matches(other).count() == 1)
                .then_some(Evidence::Grouped);
        }
        if doubt != Some(Doubt::Joint) {
            return None;
        }
        // All digits and marks around it, read by their own marks: is the other mark decimal beyond
        // doubt?
        let is_part = |b: &u8| b.is_ascii_digit() || matches!(b, b'.' | b',');
        let (before, behind) = self.text.as_bytes().split_at(read.digits_start());
        let start = before.len() - before.iter().rev().take_while(|b| is_part(b)).count();
        let end = before.len() + behind.iter().take_while(|b| is_part(b)).count();
        let around = self.text[start..end].trim_matches(['.', ',']);
        let start = start
            + (self.text[start..end].len()
                - self.text[start..end].trim_start_matches(['.', ',']).len());
        let (whole, fraction, doubt) =
            Numbers::new(around, None, NumberStyle { marks: Marks::Either, accounting: false })
                .either(0);
        let is_proof = doubt.is_none()
            && !fraction.is_empty()
            && around[whole.end..fraction.start] == *other.encode_utf8(&mut [0; 4]);
        is_proof.then(|| Evidence::OtherMark(start..start + around.len()))
    }

    /// The sign before a number that begins at `start`: whether it is negative, and where the
    /// number begins with it.
    fn sign(&self, start: usize) -> (bool, usize) {
        let own =
            |at: usize| self.prev_char(at).filter(|(c, sign)| is_sign(*c) && *sign >= self.at);
        // A currency sign may stand between sign and digit.
        let found = own(start).or_else(|| self.currency_before(start).and_then(own));
        match found {
            Some((sign, at)) if Self::sign_may_follow(self.context(at)) => (sign != '+', at),
            _ => (false, start),
        }
    }

    /// The byte after a minus that touches a number's end and has no letter or digit after it.
    fn minus_behind(&self, end: usize) -> Option<usize> {
        let (minus, at) = self.next_char(end).filter(|(c, _)| is_minus(*c))?;
        let past = at + minus.len_utf8();
        (!self.next_char(past).is_some_and(|(c, _)| c.is_alphanumeric())).then_some(past)
    }
}

impl Iterator for Numbers<'_> {
    type Item = Number;

    fn next(&mut self) -> Option<Number> {
        let digit =
            crate::text::masks::first_digit(self.text.as_bytes(), self.at, self.text.len())?;
        let found = self.number(digit);
        self.at = found.span.end;
        Some(found)
    }
}

fn is_sign(c: char) -> bool {
    c == '+' || is_minus(c)
}

/// Whether digits with two marks between them look like a day: `31.12.2031`, `2031.12.31`,
/// `1.2.31`.
fn is_day(text: &str) -> bool {
    let lengths: Vec<usize> = text.split(['.', ',']).map(str::len).collect();
    matches!(lengths[..], [1..=2, 1..=2, 2 | 4] | [4, 1..=2, 1..=2])
}
