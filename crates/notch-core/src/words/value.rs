//! The condition `value`: whether the number that a text is lies between limits, or compares with
//! another cell's. Numbers are compared digit by digit, short whole ones as they are.

use std::ops::RangeInclusive;

use crate::language::{Comparison, CutError, Limits, Operand};
use crate::program::{RowContext, Test};
use crate::text::{Decimal, SureTexts, short_whole};

use super::{Args, number_style};

/// The test for the arguments of `value`.
pub(super) fn value(args: &mut Args<'_>) -> Result<Test, CutError> {
    let limits = args.limits()?;
    let style = number_style(args)?;
    let decimal = |args: &Args<'_>, text: &str| {
        Decimal::plain(text).ok_or_else(|| args.refuse(format!("{text} is not a number")))
    };
    match limits {
        Limits::Between(first, last) => {
            let first = first.as_deref().map(|text| decimal(args, text)).transpose()?;
            let last = last.as_deref().map(|text| decimal(args, text)).transpose()?;
            let whole = WholeNumbers::between(first.as_ref(), last.as_ref());
            let surely = whole.texts();
            let test = Test::new(false, move |text| {
                if let Some(holds) = whole.has(text) {
                    return holds;
                }
                Decimal::of_text(text, style).is_some_and(|n| {
                    first.as_ref().is_none_or(|first| n >= *first)
                        && last.as_ref().is_none_or(|last| n <= *last)
                })
            });
            Ok(test.true_of(surely))
        }
        Limits::Compared(comparison, Operand::Text(text)) => {
            let (comparison, limit) = (*comparison, decimal(args, text)?);
            let whole = WholeNumbers::compared(comparison, &limit);
            let surely = whole.texts();
            let test = Test::new(false, move |text| {
                whole.has(text).unwrap_or_else(|| {
                    Decimal::of_text(text, style).is_some_and(|n| compares(&n, comparison, &limit))
                })
            });
            Ok(test.true_of(surely))
        }
        Limits::Compared(comparison, Operand::Column(column)) => {
            let (comparison, column) = (*comparison, args.resolve(column)?);
            Ok(Test::in_row(false, move |text, context: &mut RowContext<'_>| {
                let other =
                    context.quiet_text(&column).and_then(|text| Decimal::of_text(text, style));
                let numbers = other.and_then(|other| Some((Decimal::of_text(text, style)?, other)));
                numbers.is_some_and(|(n, other)| compares(&n, comparison, &other))
            }))
        }
    }
}

fn compares(number: &Decimal, comparison: Comparison, limit: &Decimal) -> bool {
    match comparison {
        Comparison::Less => number < limit,
        Comparison::AtMost => number <= limit,
        Comparison::More => number > limit,
        Comparison::AtLeast => number >= limit,
    }
}

/// The whole numbers that limits let through, the first and the last; `None` where the limits are
/// too large. Most numbers are whole and short, and are compared without their digits being copied
/// (some 200 ns a text).
struct WholeNumbers(Option<RangeInclusive<i64>>);

impl WholeNumbers {
    fn between(first: Option<&Decimal>, last: Option<&Decimal>) -> Self {
        // Without a limit any number is let through.
        let around = |limit: Option<&Decimal>| match limit {
            None => Some((i64::MAX, i64::MIN)),
            Some(limit) => limit.whole_around(),
        };
        Self(around(last).zip(around(first)).map(|((last, _), (_, first))| first..=last))
    }

    fn compared(comparison: Comparison, limit: &Decimal) -> Self {
        Self(limit.whole_around().map(|(below, above)| match comparison {
            Comparison::Less => i64::MIN..=above - 1,
            Comparison::AtMost => i64::MIN..=below,
            Comparison::More => below + 1..=i64::MAX,
            Comparison::AtLeast => above..=i64::MAX,
        }))
    }

    /// The texts that are a few digits and let through.
    fn texts(&self) -> Option<SureTexts> {
        self.0.clone().map(SureTexts::of_numbers)
    }

    /// Whether the number that a text is lies between them; `None` of texts other than a few
    /// digits.
    fn has(&self, text: &str) -> Option<bool> {
        Some(self.0.as_ref()?.contains(&short_whole(text)?))
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::text::NumberStyle;

    proptest! {
        /// Short whole numbers are let through as the same numbers are digit by digit.
        #[test]
        fn whole_numbers_are_compared_like_all(
            text in "[0-9]{1,16}|[0-9]{1,2}",
            limit in "-?[0-9]{1,3}(\\.[0-9]{1,2})?|[0-9]{1,17}",
            other in "[0-9]{1,2}",
        ) {
            let style = NumberStyle::PLAIN;
            let number = Decimal::of_text(&text, style).unwrap();
            let [limit, other] = [limit, other].map(|limit| Decimal::plain(&limit).unwrap());
            use Comparison::*;
            for comparison in [Less, AtMost, More, AtLeast] {
                let holds = WholeNumbers::compared(comparison, &limit).has(&text);
                prop_assert!(holds.is_none_or(|holds| holds == compares(&number, comparison, &limit)));
            }
            let holds = WholeNumbers::between(Some(&other), Some(&limit)).has(&text);
            prop_assert!(holds.is_none_or(|holds| holds == (number >= other && number <= limit)));
            prop_assert_eq!(WholeNumbers::between(None, Some(&other)).has(&text).is_some(), text.len() < 16);
        }
    }
}
