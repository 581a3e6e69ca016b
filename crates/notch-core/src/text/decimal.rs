//! Numbers of any size, compared exactly.

use std::cmp::Ordering;

use super::number::{NumberStyle, numbers};

/// A number as its digits: never rounded.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Decimal {
    negative: bool,
    /// Digits before the point, without zeros in front.
    whole: String,
    /// Digits after the point, without zeros at the end.
    fraction: String,
}

impl Decimal {
    /// Reads a number as `number` writes it: a sign or none, digits, perhaps a point and digits.
    pub(crate) fn plain(text: &str) -> Option<Self> {
        let (negative, whole, fraction) = Self::plain_parts(text)?;
        let whole = whole.trim_start_matches('0').to_owned();
        let fraction = fraction.trim_end_matches('0').to_owned();
        Some(Self {
            negative: negative && !(whole.is_empty() && fraction.is_empty()),
            whole,
            fraction,
        })
    }

    /// Whether there is a minus sign, and the digits before and after the point.
    fn plain_parts(text: &str) -> Option<(bool, &str, &str)> {
        let (negative, digits) = match text.strip_prefix('-') {
            Some(digits) => (true, digits),
            None => (false, text),
        };
        let (whole, fraction) = digits.split_once('.').unwrap_or((digits, ""));
        let all_digits = |text: &str| text.bytes().all(|b| b.is_ascii_digit());
        let is_plain = !digits.is_empty() && all_digits(whole) && all_digits(fraction);
        is_plain.then_some((negative, whole, fraction))
    }

    /// A plain number written with that many decimals, rounded half away from zero, and whether
    /// digits other than 0 were lost.
    pub(crate) fn rounded(text: &str, decimals: usize) -> Option<(String, bool)> {
        let number = Self::plain(text)?;
        let kept = number.fraction.len().min(decimals);
        let lost = &number.fraction[kept..];
        let mut digits: Vec<u8> =
            number.whole.bytes().chain(number.fraction[..kept].bytes()).collect();
        digits.resize(number.whole.len() + decimals, b'0');
        if lost.as_bytes().first().is_some_and(|digit| *digit >= b'5') {
            match digits.iter().rposition(|digit| *digit != b'9') {
                Some(at) => {
                    digits[at] += 1;
                    digits[at + 1..].fill(b'0');
                }
                None => {
                    digits.fill(b'0');
                    digits.insert(0, b'1');
                }
            }
        }
        let whole = digits.len() - decimals;
        let is_below_zero = number.negative && digits.iter().any(|digit| *digit != b'0');
        let digits: String = digits.into_iter().map(char::from).collect();
        let mut written = String::from(if is_below_zero { "-" } else { "" });
        written.push_str(if whole == 0 { "0" } else { &digits[..whole] });
        if decimals > 0 {
            written.push('.');
            written.push_str(&digits[whole..]);
        }
        Some((written, !lost.is_empty()))
    }

    /// The nearest whole numbers at or below it and at or above it; `None` where it has more than
    /// 15 digits before the point.
    pub(crate) fn whole_around(&self) -> Option<(i64, i64)> {
        if self.whole.len() > 15 {
            return None;
        }
        let size = self.whole.bytes().fold(0, |size, digit| 10 * size + i64::from(digit - b'0'));
        let more = i64::from(!self.fraction.is_empty());
        Some(match self.negative {
            true => (-size - more, -size),
            false => (size, size + more),
        })
    }

    /// Reads a text that is one number as a whole, as `number` takes it; zeros in front are no
    /// hindrance.
    pub(crate) fn of_text(text: &str, style: NumberStyle) -> Option<Self> {
        // Digits alone are a number in every style.
        if are_digits(text) {
            return Self::plain(text);
        }
        let found = numbers(text, None, style).next()?;
        if found.span != (0..text.len()) {
            return None;
        }
        Self::plain(&found.written(text))
    }

    /// Whether a text as a whole is a number ([`Decimal::of_text`]).
    pub(crate) fn is_text(text: &str, style: NumberStyle) -> bool {
        are_digits(text) || Self::of_text(text, style).is_some()
    }
}

fn are_digits(text: &str) -> bool {
    !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit())
}

impl Ord for Decimal {
    fn cmp(&self, other: &Self) -> Ordering {
        let size = |number: &Decimal, than: &Decimal| {
            let whole = number
                .whole
                .len()
                .cmp(&than.whole.len())
                .then_with(|| number.whole.cmp(&than.whole));
            whole.then_with(|| number.fraction.cmp(&than.fraction))
        };
        match (self.negative, other.negative) {
            (false, false) => size(self, other),
            (true, true) => size(other, self),
            (true, false) => Ordering::Less,
            (false, true) => Ordering::Greater,
        }
    }
}

impl PartialOrd for Decimal {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Scaled to whole numbers, decimals are ordered as whole numbers are.
        #[test]
        fn decimals_are_ordered_as_numbers(a in -10_000_000i64..10_000_000, b in -10_000_000i64..10_000_000, zeros in 0usize..4) {
            let written = |n: i64| {
                let sign = if n < 0 { "-" } else { "" };
                let (whole, fraction) = (n.unsigned_abs() / 1000, n.unsigned_abs() % 1000);
                format!("{sign}{}{whole}.{fraction:03}{}", "0".repeat(zeros), "0".repeat(zeros))
            };
            let (x, y) = (Decimal::plain(&written(a)).unwrap(), Decimal::plain(&written(b)).unwrap());
            prop_assert_eq!(x.cmp(&y), a.cmp(&b), "{} {}", written(a), written(b));
        }
    }

    #[test]
    fn texts_that_are_numbers_and_texts_that_are_not() {
        for (text, same) in [
            ("007", "7"),
            ("7.0", "7"),
            ("7.", ""),
            (".5", "0.5"),
            ("-0", "0"),
            ("-0.00", "0"),
            ("+3", "3"),
            ("1,250.50", "1250.5"),
            ("−5", "-5"),
            ("€5", ""),
            ("5 kg", ""),
            (" 5", ""),
            ("12,34", ""),
            ("1.2.3", ""),
            ("", ""),
            ("-", ""),
            ("1e5", ""),
            ("٣", ""),
        ] {
            assert_eq!(
                Decimal::of_text(text, NumberStyle::PLAIN),
                if same.is_empty() { None } else { Decimal::plain(same) },
                "{text}"
            );
        }
    }
}
