//! What the texts of a new column become in a file of typed columns.

use std::sync::Arc;

use arrow_array::{
    ArrayRef, BooleanArray, Date32Array, Decimal128Array, Float64Array, Int64Array, StringArray,
};
use arrow_cast::parse::Parser;
use arrow_schema::DataType;

use crate::cells::Kind;

/// How many digits a decimal has at most.
const MOST_DIGITS: u8 = 38;

/// What a column that is made of texts holds in the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum ArrowTarget {
    Text,
    Integer,
    /// Whole numbers of up to 38 digits.
    Long,
    Number,
    Decimal(i8),
    Date,
    Truth,
}

impl ArrowTarget {
    pub(super) fn of(kind: Kind) -> Self {
        match kind {
            Kind::Integer => ArrowTarget::Integer,
            Kind::Number => ArrowTarget::Number,
            Kind::Decimal(places) => i8::try_from(places)
                .ok()
                .filter(|places| *places <= MOST_DIGITS as i8)
                .map_or(ArrowTarget::Text, ArrowTarget::Decimal),
            Kind::Date => ArrowTarget::Date,
            Kind::Truth => ArrowTarget::Truth,
            Kind::Text | Kind::DateTime | Kind::Mixed => ArrowTarget::Text,
        }
    }

    pub(super) fn data_type(self) -> DataType {
        match self {
            ArrowTarget::Text => DataType::Utf8,
            ArrowTarget::Integer => DataType::Int64,
            ArrowTarget::Long => DataType::Decimal128(MOST_DIGITS, 0),
            ArrowTarget::Number => DataType::Float64,
            ArrowTarget::Decimal(places) => DataType::Decimal128(MOST_DIGITS, places),
            ArrowTarget::Date => DataType::Date32,
            ArrowTarget::Truth => DataType::Boolean,
        }
    }

    /// What a column must hold instead for a text that does not fit it: the next wider one; `None`
    /// when what is asked for is to stay.
    pub(super) fn wider(self, text: &str, is_asked: bool) -> Option<Self> {
        match self {
            ArrowTarget::Integer if text.parse::<i64>().is_err() && decimal(text, 0).is_some() => {
                Some(ArrowTarget::Long)
            }
            _ if is_asked => None,
            ArrowTarget::Text => None,
            _ => Some(ArrowTarget::Text),
        }
    }

    /// The texts as what is held; the first one that does not fit where `is_strict`, else those are
    /// missing.
    pub(super) fn array(self, texts: &StringArray, is_strict: bool) -> Result<ArrayRef, usize> {
        fn each<T, A: FromIterator<Option<T>>>(
            texts: &StringArray,
            is_strict: bool,
            read: impl Fn(&str) -> Option<T>,
        ) -> Result<A, usize> {
            let cell = |(n, text): (usize, Option<&str>)| match text.map(&read) {
                Some(None) if is_strict => Err(n),
                found => Ok(found.flatten()),
            };
            texts.iter().enumerate().map(cell).collect()
        }
        Ok(match self {
            ArrowTarget::Text => Arc::new(texts.clone()),
            ArrowTarget::Integer => {
                Arc::new(each::<i64, Int64Array>(texts, is_strict, |text| text.parse().ok())?)
            }
            ArrowTarget::Number => Arc::new(each::<f64, Float64Array>(texts, is_strict, |text| {
                float(text, is_strict)
            })?),
            ArrowTarget::Date => Arc::new(each::<i32, Date32Array>(
                texts,
                is_strict,
                arrow_array::types::Date32Type::parse,
            )?),
            ArrowTarget::Truth => {
                Arc::new(each::<bool, BooleanArray>(texts, is_strict, |text| text.parse().ok())?)
            }
            ArrowTarget::Long | ArrowTarget::Decimal(_) => {
                let places =
                    if let ArrowTarget::Decimal(places) = self { places.unsigned_abs() } else { 0 };
                let array: Decimal128Array =
                    each::<i128, _>(texts, is_strict, |text| decimal(text, places))?;
                Arc::new(array.with_data_type(self.data_type()))
            }
        })
    }
}

/// A number as the nearest of 64 bits; `None` where digits would be lost that a text may not lose.
fn float(text: &str, is_strict: bool) -> Option<f64> {
    let number: f64 = text.parse().ok()?;
    let digits = text.bytes().filter(u8::is_ascii_digit).count();
    (!is_strict || digits <= 17).then_some(number)
}

/// A number as that many units of its last place; `None` when it is none, has more digits after its
/// point than there are places, or more than 38 in all.
fn decimal(text: &str, places: u8) -> Option<i128> {
    let (is_below, figures) = match text.strip_prefix('-') {
        Some(figures) => (true, figures),
        None => (false, text),
    };
    let (whole, behind) = figures.split_once('.').unwrap_or((figures, ""));
    let is_number = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    if whole.is_empty()
        || !is_number(whole)
        || !is_number(behind)
        || behind.len() > usize::from(places)
    {
        return None;
    }
    let mut units: i128 = format!("{whole}{behind}").parse().ok()?;
    units = units.checked_mul(10_i128.checked_pow(u32::from(places) - behind.len() as u32)?)?;
    (units < 10_i128.pow(u32::from(MOST_DIGITS))).then_some(if is_below { -units } else { units })
}
