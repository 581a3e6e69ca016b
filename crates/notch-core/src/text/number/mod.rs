//! Numbers buried in text.
//!
//! A number is digits, or digits grouped in threes, then at most one decimal mark with digits
//! after it. What looks like more than that (`12,34`, `12.05.2031`) is several numbers, and each
//! is marked as doubtful. Which marks group and which one is the decimal mark is the
//! [`NumberStyle`]; with [`Marks::Either`] each number says it by its own marks.
//!
//! The rule of this module: a reading that may be wrong carries a [`Doubt`]. The value is read all
//! the same.
//!
//! - `scan` finds a number and takes what belongs to it: digits, marks, sign, brackets.
//! - `harmless` tells in a few bytes where nothing around it needs a look, and `judge` looks where
//!   something may; `doubt` says what it has found.
//! - `currency` knows the signs and codes of currencies.

mod currency;
mod doubt;
mod harmless;
mod judge;
mod scan;

pub(crate) use doubt::Doubt;
pub(crate) use harmless::{is_harmless_before, is_harmless_behind};
pub(crate) use scan::Numbers;

use super::Span;

/// How numbers are written in a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct NumberStyle {
    pub marks: Marks,
    /// A minus after a number, and round brackets around it, make it negative.
    pub accounting: bool,
}

impl NumberStyle {
    /// `1,250.50`.
    pub(crate) const PLAIN: Self = Self { marks: Marks::Point, accounting: false };
}

/// What points and commas mean.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Marks {
    /// `1,250.50`.
    Point,
    /// `1.250,50` or `1 250,50`.
    Comma,
    /// Each number by its own marks.
    Either,
}

impl Marks {
    /// The decimal mark; of [`Marks::Either`] the point, which is one of the two.
    fn decimal(self) -> char {
        if self == Marks::Comma { ',' } else { '.' }
    }

    fn is_decimal(self, c: char) -> bool {
        match self {
            Marks::Point => c == '.',
            Marks::Comma => c == ',',
            Marks::Either => matches!(c, '.' | ','),
        }
    }

    fn groups(self, c: char) -> bool {
        match self {
            Marks::Point => c == ',',
            Marks::Comma => matches!(c, '.' | ' ' | '\u{a0}' | '\u{202f}'),
            Marks::Either => false,
        }
    }
}

/// A number found in a text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Number {
    /// Where it stands, its sign included, in bytes.
    pub span: Span,
    negative: bool,
    /// Its digits before the decimal mark, with their grouping, in bytes; empty for `.5`.
    whole: Span,
    /// Its digits after the decimal mark.
    fraction: Span,
    /// Why it may not be what was meant.
    pub doubt: Option<Doubt>,
    /// Zeros in front of it are not written.
    pub drops_zeros: bool,
    /// What it says of the column's decimal mark.
    pub evidence: Option<Evidence>,
}

/// What one number says of the decimal mark of its column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Evidence {
    /// `7,134`, read as 7134 because a point is the decimal mark: it would be 7.134 if a comma
    /// were.
    Grouped,
    /// `0,348` where a point is the decimal mark: it cannot be; where that text stands, in bytes.
    OtherMark(Span),
}

impl Number {
    /// The number in plain form: `-` or nothing, digits without grouping and zeros in front, a
    /// point and decimals as they stood.
    pub(crate) fn written(&self, text: &str) -> String {
        let mut written = String::with_capacity(self.span.len() + 1);
        self.write(text, |piece| written.push_str(piece));
        written
    }

    /// The plain form, piece by piece.
    pub(crate) fn write(&self, text: &str, mut push: impl FnMut(&str)) {
        if self.negative {
            push("-");
        }
        let whole = &text[self.whole.clone()];
        let significant = whole.trim_start_matches(|c: char| c == '0' || !c.is_ascii_digit());
        if significant.is_empty() {
            push("0");
        }
        significant.split(|c: char| !c.is_ascii_digit()).for_each(&mut push);
        if !self.fraction.is_empty() {
            push(".");
            push(&text[self.fraction.clone()]);
        }
    }

    /// The plain form when it is a piece of the text verbatim.
    pub(crate) fn verbatim(&self, text: &str) -> Option<Span> {
        let whole = &text[self.whole.clone()];
        let plain = !whole.is_empty()
            && (whole == "0" || !whole.starts_with('0'))
            && whole.bytes().all(|b| b.is_ascii_digit())
            && (self.fraction.is_empty() || text[self.whole.end..self.fraction.start] == *".");
        let end = self.fraction.end.max(self.whole.end);
        match (plain, self.negative) {
            (false, _) => None,
            (true, false) => Some(self.whole.start..end),
            (true, true) => {
                (text[..self.whole.start].ends_with('-')).then(|| self.whole.start - 1..end)
            }
        }
    }

    /// Why it may not be what was meant; the two ways to read it where there are two.
    pub(crate) fn reason(&self, text: &str) -> Option<std::borrow::Cow<'static, str>> {
        let doubt = self.doubt?;
        if doubt != Doubt::TwoReadings {
            return Some(doubt.reason().into());
        }
        // Its one mark is either left out or the decimal mark.
        let (start, end) = (self.whole.start, self.fraction.end.max(self.whole.end));
        let mark = start + text[start..end].find(['.', ','])?;
        let grouped = Self { whole: start..end, fraction: end..end, ..self.clone() };
        let decimal = Self { whole: start..mark, fraction: mark + 1..end, ..self.clone() };
        let (first, second) =
            if self.fraction.is_empty() { (grouped, decimal) } else { (decimal, grouped) };
        Some(format!("{} or {}", first.written(text), second.written(text)).into())
    }
}

/// The numbers of a text from left to right. `before` is the character that stands before the text
/// in its cell.
pub(crate) fn numbers(text: &str, before: Option<char>, style: NumberStyle) -> Numbers<'_> {
    Numbers::new(text, before, style)
}

/// Whether a number stands at the head of the text it was found in: nothing but white space and `:
/// = # .` before it. In accounts a bracket or a currency sign may touch it.
pub(crate) fn stands_next(found: &Number, text: &str, style: NumberStyle) -> bool {
    let allowed = |c: char| c.is_whitespace() || is_format(c) || matches!(c, ':' | '=' | '#' | '.');
    let mut before = &text[..found.span.start];
    if style.accounting {
        before = before.trim_end_matches(|c: char| {
            OPENING.contains(&c) || currency::is_currency_sign(c) || is_format(c)
        });
    }
    before.chars().all(allowed)
}

/// Whether a text is a currency sign, or a word that names a currency.
pub(crate) fn is_currency(text: &str) -> bool {
    let mut characters = text.chars();
    match (characters.next(), characters.next()) {
        (Some(sign), None) => currency::is_currency_sign(sign),
        _ => currency::is_currency_word(text),
    }
}

/// Brackets, and those that close them, in the same order.
pub(crate) const OPENING: [char; 5] = ['(', '[', '{', '<', '«'];
pub(crate) const CLOSING: [char; 5] = [')', ']', '}', '>', '»'];

fn is_minus(c: char) -> bool {
    matches!(c, '-' | '−')
}

/// A dash that is no sign but may stand for one.
fn is_dash(c: char) -> bool {
    matches!(c, '‐' | '‑' | '‒' | '–' | '—' | '―' | '﹣' | '－' | '▲' | '△')
}

/// A blank within a line.
fn is_blank(c: char) -> bool {
    matches!(c, ' ' | '\u{a0}' | '\u{2000}'..='\u{200a}' | '\u{202f}' | '\u{205f}' | '\u{3000}')
}

/// Whether a character has no width of its own, as direction marks: of Unicode's general category
/// Cf.
pub fn is_format(c: char) -> bool {
    c >= '\u{ad}' && is_format_beyond_ascii(c)
}

fn is_format_beyond_ascii(c: char) -> bool {
    matches!(c,
        '\u{ad}' | '\u{600}'..='\u{605}' | '\u{61c}' | '\u{6dd}' | '\u{70f}' | '\u{890}' | '\u{891}' | '\u{8e2}' | '\u{180e}'
        | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{2064}' | '\u{2066}'..='\u{206f}' | '\u{feff}'
        | '\u{fff9}'..='\u{fffb}' | '\u{110bd}' | '\u{110cd}' | '\u{13430}'..='\u{1343f}' | '\u{1bca0}'..='\u{1bca3}'
        | '\u{1d173}'..='\u{1d17a}' | '\u{e0001}' | '\u{e0020}'..='\u{e007f}')
}
