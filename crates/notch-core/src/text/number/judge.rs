//! Whether a number that was read may not be what was meant: what stands beside it.
//!
//! Each function looks at one side of the number and returns the first reason for doubt. The number
//! is returned all the same; the doubt travels with every piece made of it (`Caveat`) and becomes a
//! finding of the cell. A doubt that is raised where the reading is plain teaches people to ignore
//! doubts, so each has the cases in which it stays silent next to it, and
//! `tests/language/numbers.rs` has both.

use super::currency::is_currency_word;
use super::doubt::{Brackets, Doubt};
use super::scan::{Numbers, Read};
use super::{CLOSING, Marks, OPENING, is_blank, is_dash, is_format, is_minus};

/// A closing bracket farther after a number, in bytes, has nothing to do with it.
const MOST_BEFORE_BRACKET: usize = 24;

/// A comma or point, in whatever script.
fn is_joint(c: char) -> bool {
    matches!(c, '.' | ',' | '٫' | '٬' | '，' | '．')
}

fn is_apostrophe(c: char) -> bool {
    matches!(c, '\'' | '’')
}

/// A figure that is no digit 0–9; raised and lowered ones are notes and units.
fn is_other_figure(c: char) -> bool {
    c.is_numeric() && !c.is_ascii() && !matches!(c, '²' | '³' | '¹' | '\u{2070}'..='\u{2089}')
}

impl Numbers<'_> {
    /// What leaves doubt about a number, by what stands around it.
    pub(super) fn doubt(&self, read: &Read) -> Option<Doubt> {
        self.doubt_on_the_right(read).or_else(|| self.doubt_on_the_left(read)).or_else(|| {
            (read.brackets.is_some() && !read.is_in_account_brackets).then_some(Doubt::Brackets)
        })
    }

    fn doubt_on_the_right(&self, read: &Read) -> Option<Doubt> {
        let is_digit = |c: Option<(char, usize)>| c.is_some_and(|(c, _)| c.is_ascii_digit());
        let (behind, at) = self.next_char(read.end)?;
        let beyond = self.next_char(at + behind.len_utf8());
        let ends_there = !beyond.is_some_and(|(c, _)| c.is_alphanumeric());
        match behind {
            '0'..='9' => return Some(Doubt::Unseen),
            c if is_joint(c) && is_digit(beyond) => return Some(Doubt::Joint),
            c if is_apostrophe(c) && is_digit(beyond) => return Some(Doubt::Apostrophe),
            c if is_other_figure(c) => return Some(Doubt::OtherFigure),
            // `12E-05` may be a code; a number with decimals, or a plus after the E, is none.
            'e' | 'E' => {
                let (sign, at) = beyond?;
                let digits_follow = is_digit(self.next_char(at + sign.len_utf8()));
                let has_fraction = !read.fraction.is_empty();
                let is_exponent = match sign {
                    '+' => digits_follow,
                    '-' | '−' => digits_follow && has_fraction,
                    c => c.is_ascii_digit() && has_fraction,
                };
                return is_exponent.then_some(Doubt::Exponent);
            }
            c if is_minus(c) => {
                // `5-kr`
                let (unit, _) = self.unit_behind(at + c.len_utf8());
                let before_unit = unit > at + c.len_utf8()
                    && !self.next_char(unit).is_some_and(|(c, _)| c.is_alphanumeric());
                return ((ends_there || before_unit) && !read.has_minus_behind)
                    .then_some(Doubt::MinusBehind);
            }
            c if is_blank(c) && self.blank_divides(read, c, at) => return Some(Doubt::Blank),
            _ => {}
        }
        if self.style.accounting && self.ends_in_minus(read.end) {
            return Some(Doubt::MinusBehind);
        }
        // `5 €-`, `5 EUR-`: a minus after the currency.
        let (unit, _) = self.unit_behind(read.end);
        if unit == read.end {
            return None;
        }
        let (minus, at) = self.next_char(unit).filter(|(c, _)| is_minus(*c))?;
        let beyond = self.next_char(at + minus.len_utf8());
        (!beyond.is_some_and(|(c, _)| c.is_alphanumeric())).then_some(Doubt::MinusBehind)
    }

    /// Whether nothing but blanks and one minus stand after the number: `5 -`.
    fn ends_in_minus(&self, digits_end: usize) -> bool {
        let rest = self.text[digits_end..].trim_matches(|c: char| is_blank(c) || is_format(c));
        rest.len() < self.text.len() - digits_end
            && rest.chars().count() == 1
            && rest.chars().all(is_minus)
    }

    /// Whether a blank at `at`, which stands after a number, seems to divide a larger one: three
    /// digits follow, and after a plain blank a decimal mark somewhere after them.
    fn blank_divides(&self, read: &Read, blank: char, at: usize) -> bool {
        let from = at + blank.len_utf8();
        if self.digits(from) != from + 3 {
            return false;
        }
        if blank != ' ' {
            return true;
        }
        let is_group = read.fraction.is_empty()
            && (1..=3).contains(&read.whole.len())
            && self.text[read.whole.clone()] != *"0";
        is_group && (self.style.marks == Marks::Either || self.goes_on_in_threes(from))
    }

    /// Whether three digits begin here, perhaps more threes after plain blanks, and then a decimal
    /// mark with a digit.
    pub(super) fn is_decimal_behind(&self, from: usize) -> bool {
        let mut end = from + 3;
        while self.text[end..].starts_with(' ') && self.digits(end + 1) == end + 4 {
            end += 4;
        }
        matches!(self.text.as_bytes().get(end), Some(b'.' | b',')) && self.digits(end + 1) > end + 1
    }

    fn doubt_on_the_left(&self, read: &Read) -> Option<Doubt> {
        let start = read.digits_start();
        if let Some((before, at)) = self.prev_char(start) {
            let digit_before = self.prev_char(at).filter(|(c, _)| c.is_ascii_digit());
            match before {
                c if is_joint(c) && !read.whole.is_empty() && digit_before.is_some() => {
                    return Some(Doubt::Joint);
                }
                c if is_apostrophe(c) && digit_before.is_some() => return Some(Doubt::Apostrophe),
                '0'..='9' => return Some(Doubt::Unseen),
                c if is_other_figure(c) => return Some(Doubt::OtherFigure),
                c if is_blank(c)
                    && self.style.marks != Marks::Either
                    && digit_before
                        .is_some_and(|(_, last)| self.blank_divided(last + 1, c, start)) =>
                {
                    return Some(Doubt::Blank);
                }
                _ => {}
            }
        }
        if read.is_signed { None } else { self.minus_without_effect(start) }
    }

    /// Whether a blank between digits that end at `end` and others that begin at `start` seems to
    /// divide a number.
    fn blank_divided(&self, end: usize, blank: char, start: usize) -> bool {
        if self.digits(start) != start + 3 {
            return false;
        }
        let first = end - self.text[..end].bytes().rev().take_while(u8::is_ascii_digit).count();
        let is_group = end - first <= 3
            && self.text[first..end] != *"0"
            && !self.text[..first].ends_with(['.', ',']);
        let group_before = end - first == 3
            && self.text[..first]
                .strip_suffix(' ')
                .is_some_and(|text| text.ends_with(|c: char| c.is_ascii_digit()));
        blank != ' ' || (is_group && (group_before || self.goes_on_in_threes(start)))
    }

    /// Whether three digits begin here, and a decimal mark or three more stand after them.
    fn goes_on_in_threes(&self, from: usize) -> bool {
        let more = self.text[from + 3..].starts_with(' ') && self.digits(from + 4) == from + 7;
        more || self.is_decimal_behind(from)
    }

    /// A minus before a number without a sign, whose first digit is at `start`: it may have been
    /// meant as one.
    fn minus_without_effect(&self, start: usize) -> Option<Doubt> {
        let unit = self.currency_before(start).unwrap_or(start);
        let (before, at) = self.prev_char(unit)?;
        if is_minus(before) || is_dash(before) {
            let letter_and_point = || {
                let (_, point) = self.prev_char(at)?;
                self.prev_char(point).filter(|(c, _)| c.is_alphabetic())
            };
            return match self.context(at) {
                Some(',' | ';' | '|') => Some(Doubt::NoSign),
                // `kr.-5`
                Some('.') if letter_and_point().is_some() => Some(Doubt::NoSign),
                // `CHF-850`; two capitals are a code of something else.
                _ if self.is_currency_word_before(at) && !self.two_capitals_before(at) => {
                    Some(Doubt::CurrencyMinus)
                }
                context => {
                    (is_dash(before) && Self::sign_may_follow(context)).then_some(Doubt::Dash)
                }
            };
        }
        // `- 5`, `CHF - 5`
        let is_sign = |found: Option<(char, usize)>| {
            found.filter(|(c, _)| is_minus(*c) || is_dash(*c)).map(|(_, at)| at)
        };
        let gap = self.without_blanks(unit);
        if let Some(at) = is_sign(self.prev_char(gap)).filter(|_| gap < unit) {
            if self.is_currency_word_before(self.without_blanks(at)) {
                return Some(Doubt::CurrencyMinus);
            }
            return self.is_opened_before(at).then_some(Doubt::MinusAndBlank);
        }
        // `-kr 5`, `–Rs. 5`; with a blank between only before a currency: `- USD 5`.
        let blank =
            |at: usize| self.prev_char(at).filter(|(c, _)| is_blank(*c)).map_or(at, |(_, at)| at);
        let word_end = blank(unit);
        let word = self.word_before(word_end)?;
        let at = match is_sign(self.prev_char(word)) {
            Some(at) => at,
            None if self.is_currency_word_before(word_end) => is_sign(self.prev_char(blank(word)))?,
            None => return None,
        };
        self.is_opened_before(at).then_some(Doubt::MinusAndWord)
    }

    fn two_capitals_before(&self, end: usize) -> bool {
        self.word_before(end).is_some_and(|start| {
            end - start == 2 && self.text[start..end].bytes().all(|b| b.is_ascii_uppercase())
        })
    }

    /// Where a word of at most six letters and points begins that ends at byte `end`; characters
    /// that cannot be seen are passed over.
    fn word_before(&self, end: usize) -> Option<usize> {
        let characters =
            self.text[..end].char_indices().rev().filter(|(_, c)| !is_format(*c)).take(6);
        let word = characters
            .take_while(|(_, c)| c.is_alphabetic() || *c == '.')
            .map(|(at, _)| at)
            .last()?;
        self.text[word..end].contains(char::is_alphabetic).then_some(word)
    }

    /// Whether a word that names a currency ends at byte `end`.
    fn is_currency_word_before(&self, end: usize) -> bool {
        let end = self.text[..end].trim_end_matches(is_format).len();
        self.word_before(end).is_some_and(|start| {
            let is_whole =
                !self.text[..start].chars().next_back().is_some_and(char::is_alphanumeric);
            is_whole && is_currency_word(&self.text[start..end])
        })
    }

    /// Whether nothing stands before byte `at`, or a bracket, a currency sign, `=` or `:`; blanks
    /// are passed over.
    fn is_opened_before(&self, at: usize) -> bool {
        let context = self.context(self.without_blanks(at));
        context.is_none_or(|c| {
            c.is_whitespace()
                || OPENING.contains(&c)
                || matches!(c, '=' | ':')
                || super::currency::is_currency_sign(c)
        })
    }

    /// The brackets that close around what stands from byte `start` up to `end`; blanks and a
    /// currency inside make no difference.
    pub(super) fn brackets(&self, start: usize, end: usize) -> Option<Brackets> {
        // Most numbers stand in none.
        let close_by = &self.text.as_bytes()[end..self.text.len().min(end + MOST_BEFORE_BRACKET)];
        if !close_by.iter().any(|b| matches!(b, b')' | b']' | b'}' | b'>' | 0xC2)) {
            return None;
        }
        let (left, code_left) = self.unit_before(start);
        let open_at = self.without_blanks(left);
        let open = self.context(open_at)?;
        let n = OPENING.iter().position(|bracket| *bracket == open)?;
        let (right, code_right) = self.unit_behind(end);
        let rest = self.text[right..].trim_start_matches(|c: char| is_blank(c) || is_format(c));
        if !rest.starts_with(CLOSING[n]) {
            return None;
        }
        let open = self.prev_char(open_at).map(|(_, at)| at);
        let close = self.text.len() - rest.len() + CLOSING[n].len_utf8();
        Some(Brackets { open, close, is_round: n == 0, has_code: code_left || code_right })
    }

    /// Where a currency before byte `end` begins, a code as well as a sign; and whether it is a
    /// code. `end` without the blanks before it where there is none.
    fn unit_before(&self, end: usize) -> (usize, bool) {
        if let Some(unit) = self.currency_before(end) {
            return (unit, false);
        }
        let inner = self.without_blanks(end);
        match self.word_before(inner).filter(|_| self.is_currency_word_before(inner)) {
            Some(word) => (word, true),
            None => (inner, false),
        }
    }

    fn unit_behind(&self, from: usize) -> (usize, bool) {
        if let Some(unit) = self.currency_behind(from) {
            return (unit, false);
        }
        let rest = self.text[from..].trim_start_matches(is_blank);
        let word = rest.find(|c: char| !(c.is_alphanumeric() || c == '.')).unwrap_or(rest.len());
        let at = self.text.len() - rest.len();
        if is_currency_word(&rest[..word]) { (at + word, true) } else { (from, false) }
    }
}
