//! The types of columns in outputs that have types.

use std::fmt;
use std::str::FromStr;

use crate::text::{DatePattern, Decimal};

/// The type of a new column in outputs that have types.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum OutputType {
    /// Text, so that zeros in front survive.
    #[default]
    Text,
    /// A 64-bit floating-point number.
    Number,
    /// A whole number.
    Integer,
    /// A date.
    Date,
    /// An exact decimal with that many digits after the point.
    Decimal(usize),
}

/// How many digits the outputs with the widest numbers have room for (decimals of 128 bits).
const MOST_DIGITS: usize = 38;

impl OutputType {
    /// Whether every output that knows the type has room for the text as such: a number as `number`
    /// writes it, a day of ISO 8601.
    pub(crate) fn holds(self, text: &str) -> bool {
        let (whole, fraction) = text.split_once('.').unwrap_or((text, ""));
        let digits = whole.trim_start_matches(['-', '0']).len();
        let is_number = || {
            whole.ends_with(|c: char| c.is_ascii_digit())
                && !text.ends_with('.')
                && Decimal::plain(text).is_some()
        };
        match self {
            OutputType::Text => true,
            OutputType::Number => is_number(),
            OutputType::Integer => is_number() && digits <= MOST_DIGITS && !text.contains('.'),
            OutputType::Decimal(places) => {
                is_number() && fraction.len() <= places && digits + places <= MOST_DIGITS
            }
            OutputType::Date => {
                text.len() == "YYYY-MM-DD".len() && DatePattern::iso().parse(text).is_some()
            }
        }
    }

    /// What a text that it holds is, in words: `a decimal with at most 2 digits behind the point`.
    pub(crate) fn said(self) -> String {
        match self {
            OutputType::Text => "text".to_owned(),
            OutputType::Number => "number".to_owned(),
            OutputType::Integer => format!("whole number of at most {MOST_DIGITS} digits"),
            OutputType::Decimal(places) => format!(
                "decimal with at most {places} digits behind the point and {MOST_DIGITS} in all"
            ),
            OutputType::Date => "date written YYYY-MM-DD".to_owned(),
        }
    }
}

impl fmt::Display for OutputType {
    /// As it stands after `as`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            OutputType::Text => f.write_str("text"),
            OutputType::Number => f.write_str("number"),
            OutputType::Integer => f.write_str("integer"),
            OutputType::Date => f.write_str("date"),
            OutputType::Decimal(places) => write!(f, "decimal {places}"),
        }
    }
}

impl FromStr for OutputType {
    type Err = String;

    /// Reads what stands after `as`.
    ///
    /// # Errors
    /// What is expected, as a sentence.
    fn from_str(text: &str) -> Result<Self, String> {
        match text.split_whitespace().collect::<Vec<_>>().as_slice() {
            ["text"] => Ok(OutputType::Text),
            ["number"] => Ok(OutputType::Number),
            ["integer"] => Ok(OutputType::Integer),
            ["date"] => Ok(OutputType::Date),
            ["decimal", places] => match places.parse() {
                Ok(places) if places < MOST_DIGITS => Ok(OutputType::Decimal(places)),
                _ => Err(format!(
                    "A decimal has 0 to {} digits after its point, such as decimal 2.",
                    MOST_DIGITS - 1
                )),
            },
            _ => {
                Err("It is one of text, number, integer, date and decimal 2, with any figure for \
                    the 2."
                    .to_owned())
            }
        }
    }
}
