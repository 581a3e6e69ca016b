//! Schemes that weigh the digits and look at what is left over by a division.

use super::{digits, split};

/// The figure of a value from 0 to 10, `X` for 10.
fn figure(value: u32) -> String {
    if value == 10 { "X".to_owned() } else { value.to_string() }
}

/// Whether the last `check` characters of a text are what `digit` makes of those before them.
fn ends_in(text: &str, check: usize, digit: impl Fn(&str) -> Option<String>) -> bool {
    split(text, check)
        .is_some_and(|(payload, end)| digit(payload).is_some_and(|digit| digit == end))
}

pub(super) fn luhn(text: &str) -> bool {
    ends_in(text, 1, luhn_digit)
}

/// Every second digit from the right counts double, the digits of a double added up; the sum is
/// filled up to a ten.
pub(super) fn luhn_digit(payload: &str) -> Option<String> {
    let sum: u32 = digits(payload)?
        .rev()
        .enumerate()
        .map(|(place, digit)| match (place % 2, digit * 2) {
            (0, double) if double > 9 => double - 9,
            (0, double) => double,
            _ => digit,
        })
        .sum();
    Some(figure((10 - sum % 10) % 10))
}

pub(super) fn gtin(text: &str) -> bool {
    ends_in(text, 1, gtin_digit)
}

pub(super) fn gtin_digit(payload: &str) -> Option<String> {
    matches!(payload.len(), 7 | 11 | 12 | 13).then(|| threes(payload)).flatten()
}

/// From the right the digits count three times and once in turn; the sum is filled up to a ten.
fn threes(payload: &str) -> Option<String> {
    let sum: u32 = digits(payload)?
        .rev()
        .enumerate()
        .map(|(place, digit)| if place % 2 == 0 { 3 * digit } else { digit })
        .sum();
    Some(figure((10 - sum % 10) % 10))
}

pub(super) fn isbn(text: &str) -> bool {
    ends_in(text, 1, isbn_digit)
}

pub(super) fn isbn_digit(payload: &str) -> Option<String> {
    match payload.len() {
        9 => elevens(payload),
        12 if payload.starts_with("978") || payload.starts_with("979") => threes(payload),
        _ => None,
    }
}

pub(super) fn issn(text: &str) -> bool {
    ends_in(text, 1, issn_digit)
}

pub(super) fn issn_digit(payload: &str) -> Option<String> {
    (payload.len() == 7).then(|| elevens(payload)).flatten()
}

/// The digit beside the check digit counts twice, the next three times and so on; the sum is filled
/// up to an eleven.
fn elevens(payload: &str) -> Option<String> {
    let sum: u32 = digits(payload)?.rev().zip(2..).map(|(digit, weight)| digit * weight).sum();
    Some(figure((11 - sum % 11) % 11))
}

/// What is left of a text of digits and capital letters, read as one number, divided by 97; letters
/// count 10 to 35.
pub(super) fn remainder_97(text: impl Iterator<Item = u8>) -> Option<u32> {
    let mut rest = 0;
    for byte in text {
        rest = match byte {
            b'0'..=b'9' => (rest * 10 + u32::from(byte - b'0')) % 97,
            b'A'..=b'Z' => (rest * 100 + u32::from(byte - b'A') + 10) % 97,
            _ => return None,
        };
    }
    Some(rest)
}

pub(super) fn mod97(text: &str) -> bool {
    let ends_in_digits = split(text, 2).is_some_and(|(_, end)| digits(end).is_some());
    ends_in_digits && remainder_97(text.bytes()) == Some(1)
}

pub(super) fn mod97_digits(payload: &str) -> Option<String> {
    let rest = remainder_97(payload.bytes().chain(*b"00")).filter(|_| !payload.is_empty())?;
    Some(format!("{:02}", 98 - rest))
}

pub(super) fn mod11_2(text: &str) -> bool {
    ends_in(text, 1, mod11_2_digit)
}

/// Digit by digit: added and doubled, modulo 11; the check character brings the sum to 1.
pub(super) fn mod11_2_digit(payload: &str) -> Option<String> {
    let product = digits(payload)?.fold(0, |product, digit| (product + digit) * 2 % 11);
    Some(figure((12 - product) % 11))
}
