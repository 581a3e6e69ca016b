//! Numbers buried in text.
//!
//! A number is digits, or digits grouped in threes, then at most one decimal point with digits behind it. What looks like more
//! than that (`12,34`, `12.05.2031`) is several numbers, and each is marked as doubtful.

use super::Span;

/// Which characters stand in numbers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum NumberStyle {
    /// `1,250.50`.
    Point,
    /// `1.250,50` or `1 250,50`.
    Comma,
}

impl NumberStyle {
    fn decimal(self) -> char {
        match self {
            NumberStyle::Point => '.',
            NumberStyle::Comma => ',',
        }
    }

    fn groups(self, c: char) -> bool {
        match self {
            NumberStyle::Point => c == ',',
            NumberStyle::Comma => matches!(c, '.' | ' ' | '\u{a0}' | '\u{202f}'),
        }
    }
}

/// A number found in a text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Number {
    /// Where it stands, its sign included, in bytes.
    pub span: Span,
    negative: bool,
    /// Its digits before the decimal point, with their grouping, in bytes; empty for `.5`.
    whole: Span,
    /// Its digits behind the decimal point.
    fraction: Span,
    /// Why it may not be what was meant.
    pub doubt: Option<&'static str>,
}

impl Number {
    /// The number in plain form: `-` or nothing, digits without grouping and zeros in front, a point and decimals as they stood.
    pub(crate) fn written(&self, text: &str) -> String {
        let mut written = String::with_capacity(self.span.len() + 1);
        if self.negative {
            written.push('-');
        }
        let from = written.len();
        written.extend(text[self.whole.clone()].chars().filter(char::is_ascii_digit).skip_while(|c| *c == '0'));
        if written.len() == from {
            written.push('0');
        }
        if !self.fraction.is_empty() {
            written.push('.');
            written.push_str(&text[self.fraction.clone()]);
        }
        written
    }

    /// The plain form when it is a piece of the text as it stands.
    pub(crate) fn as_it_stands(&self, text: &str) -> Option<Span> {
        let whole = &text[self.whole.clone()];
        let plain = !whole.is_empty()
            && (whole == "0" || !whole.starts_with('0'))
            && whole.bytes().all(|b| b.is_ascii_digit())
            && (self.fraction.is_empty() || text[self.whole.end..self.fraction.start] == *".");
        let end = self.span.end;
        match (plain, self.negative) {
            (false, _) => None,
            (true, false) => Some(self.whole.start..end),
            (true, true) => (text[..self.whole.start].ends_with('-')).then(|| self.whole.start - 1..end),
        }
    }
}

/// The numbers of a text from left to right. `before` is the character that stands before the text in its cell.
pub(crate) fn numbers(text: &str, before: Option<char>, style: NumberStyle) -> Numbers<'_> {
    Numbers { text, before, style, at: 0, no_groups_until: 0, no_decimal_until: 0 }
}

/// The number at the head of the text: nothing but white space and `: = # .` may stand before it.
pub(crate) fn next_number(text: &str, before: Option<char>, style: NumberStyle) -> Option<Number> {
    let found = numbers(text, before, style).next()?;
    let allowed = |c: char| c.is_whitespace() || matches!(c, ':' | '=' | '#' | '.');
    text[..found.span.start].chars().all(allowed).then_some(found)
}

pub(crate) struct Numbers<'t> {
    text: &'t str,
    before: Option<char>,
    style: NumberStyle,
    at: usize,
    /// Up to here digits are not grouped: their grouping is none.
    no_groups_until: usize,
    /// Up to here a decimal point separates: there are two or more.
    no_decimal_until: usize,
}

impl Numbers<'_> {
    fn char_before(&self, at: usize) -> Option<char> {
        self.text[..at].chars().next_back().or(self.before)
    }

    fn char_at(&self, at: usize) -> Option<char> {
        self.text[at..].chars().next()
    }

    /// The end of the digits that begin here.
    fn digits(&self, at: usize) -> usize {
        at + self.text.as_bytes()[at..].iter().take_while(|b| b.is_ascii_digit()).count()
    }

    /// Whether a sign may stand behind this character; a currency sign may, too.
    fn sign_may_follow(before: Option<char>) -> bool {
        before.is_none_or(|c| c.is_whitespace() || OPENING.contains(&c) || matches!(c, '=' | ':') || is_currency(c))
    }

    /// The end of digits grouped from `at` on, `first` being the end of the first group. When what looks like grouping is none, no
    /// digits are grouped up to its end.
    fn grouped(&mut self, at: usize, first: usize) -> usize {
        if first < self.no_groups_until {
            return first;
        }
        let Some(joint) = self.char_at(first).filter(|c| self.style.groups(*c)) else {
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

    /// The digits behind a decimal point at `at`, if it is one.
    fn fraction(&mut self, at: usize) -> Span {
        let point = self.style.decimal();
        let none = at..at;
        if at < self.no_decimal_until || self.char_at(at) != Some(point) {
            return none;
        }
        let end = self.digits(at + 1);
        if end == at + 1 {
            return none;
        }
        let mut joined = end;
        while self.char_at(joined) == Some(point) && self.digits(joined + 1) > joined + 1 {
            joined = self.digits(joined + 1);
        }
        if joined > end {
            self.no_decimal_until = joined;
            return none;
        }
        at + 1..end
    }

    fn number(&mut self, first_digit: usize) -> Number {
        let point = self.style.decimal();
        // `.5`, where a sign could stand before the point.
        let bare_point = first_digit.checked_sub(1).filter(|at| self.text.as_bytes()[*at] == point as u8 && *at >= self.at);
        let mut start = first_digit;
        let (whole, fraction);
        let bare = bare_point.filter(|at| {
            let before = self.char_before(*at);
            // A sign before the piece is none of its own.
            let sign = self.text[self.at..*at].chars().next_back().filter(|c| is_sign(*c));
            let signed = sign.is_some_and(|sign| Self::sign_may_follow(self.char_before(at - sign.len_utf8())));
            let alone = self.char_at(self.digits(first_digit)) != Some(point)
                || self.digits(self.digits(first_digit) + 1) == self.digits(first_digit) + 1;
            (Self::sign_may_follow(before) || signed) && alone
        });
        if let Some(at) = bare {
            start = at;
            whole = at..at;
            fraction = first_digit..self.digits(first_digit);
        } else {
            let first = self.digits(first_digit);
            let end = self.grouped(first_digit, first);
            whole = first_digit..end;
            fraction = self.fraction(end);
        }
        let end = fraction.end.max(whole.end).max(first_digit);
        let (negative, start) = self.sign(start);
        let mut number = Number { span: start..end, negative, whole, fraction, doubt: None };
        number.doubt = self.doubt(&number, first_digit);
        number
    }

    /// The sign before a number that begins at `start`: whether it is negative, and where the number begins with it.
    fn sign(&self, start: usize) -> (bool, usize) {
        let step_back = |at: usize| self.text[..at].chars().next_back().map(|c| (c, at - c.len_utf8())).filter(|(_, at)| *at >= self.at);
        let Some((c, at)) = step_back(start) else {
            return (false, start);
        };
        // A currency sign may stand between sign and digit.
        let (sign, at) = match is_currency(c).then(|| step_back(at)).flatten() {
            Some(found) => found,
            None => (c, at),
        };
        if is_sign(sign) && Self::sign_may_follow(self.char_before(at)) { (sign != '+', at) } else { (false, start) }
    }

    fn doubt(&self, number: &Number, first_digit: usize) -> Option<&'static str> {
        let is_joint = |c: Option<char>| matches!(c, Some('.' | ','));
        let is_digit = |c: Option<char>| c.is_some_and(|c| c.is_ascii_digit());
        let start = number.whole.start.min(first_digit);
        let (before, behind) = (self.char_before(start), self.char_at(number.span.end));
        let left = start > 0
            && is_joint(before)
            && number.whole.start == start
            && !number.whole.is_empty()
            && is_digit(self.text[..start - 1].chars().next_back());
        let right = is_joint(behind) && is_digit(self.char_at(number.span.end + 1));
        if left || right {
            return Some("a comma or point touches it");
        }
        if let Some(dash @ ('-' | '−')) = behind
            && !self.char_at(number.span.end + dash.len_utf8()).is_some_and(char::is_alphanumeric)
        {
            return Some("a minus stands behind it");
        }
        let dash = self.text[..number.span.start].chars().next_back().filter(|c| matches!(c, '-' | '−'));
        if dash.is_some_and(|dash| matches!(self.char_before(number.span.start - dash.len_utf8()), Some(',' | ';' | '|'))) {
            return Some("a minus before it is no sign there");
        }
        let opening = self.char_before(number.span.start).and_then(|c| OPENING.iter().position(|open| *open == c));
        if opening.is_some_and(|n| behind == Some(CLOSING[n])) {
            return Some("brackets close around it");
        }
        let digits = &self.text[number.whole.clone()];
        if digits.len() > 1 && digits.starts_with('0') {
            return Some("zeros in front were dropped");
        }
        None
    }
}

impl Iterator for Numbers<'_> {
    type Item = Number;

    fn next(&mut self) -> Option<Number> {
        let digit = self.text.as_bytes()[self.at..].iter().position(u8::is_ascii_digit)?;
        let found = self.number(self.at + digit);
        self.at = found.span.end;
        Some(found)
    }
}

/// Brackets, and those that close them, in the same order.
pub(crate) const OPENING: [char; 5] = ['(', '[', '{', '<', '«'];
pub(crate) const CLOSING: [char; 5] = [')', ']', '}', '>', '»'];

fn is_sign(c: char) -> bool {
    matches!(c, '-' | '−' | '+')
}

/// Unicode's general category Sc.
fn is_currency(c: char) -> bool {
    matches!(c, '$' | '¢'..='¥' | '֏' | '؋' | '߾' | '߿' | '৲' | '৳' | '৻' | '૱' | '௹' | '฿' | '៛' | '₠'..='⃀' | '꠸' | '﷼' | '﹩' | '＄' | '￠' | '￡' | '￥' | '￦')
}
