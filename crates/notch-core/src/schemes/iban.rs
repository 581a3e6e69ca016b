//! The international bank account number, ISO 13616-1.

use super::modulus::remainder_97;

/// How many characters the number of each country has, by the registry that ISO 13616-2 provides
/// for.
const LENGTHS: &[(usize, &str)] = &[
    (15, "NO"),
    (16, "BE"),
    (18, "DK FK FI FO GL NL SD"),
    (19, "MK SI"),
    (20, "AT BA EE KZ LT LU MN XK"),
    (21, "CH HR LI LV"),
    (22, "BG BH CR DE GB GE IE ME RS VA"),
    (23, "AE GI IL IQ OM SO TL"),
    (24, "AD CZ ES MD PK RO SA SE SK TN VG"),
    (25, "LY PT ST"),
    (26, "IS TR"),
    (27, "BI DJ FR GR IT MC MR SM"),
    (28, "AL AZ BY CY DO GT HN HU LB NI PL SV"),
    (29, "BR EG PS QA UA"),
    (30, "JO KW MU YE"),
    (31, "MT SC"),
    (32, "LC"),
    (33, "RU"),
];

/// Whether a text is a country, two digits and letters or digits, of that country's length.
fn is_formed(text: &str) -> bool {
    let (country, rest) = text.split_at_checked(2).unwrap_or_default();
    let known = LENGTHS.iter().any(|(length, countries)| {
        *length == text.len() && countries.split(' ').any(|known| known == country)
    });
    known
        && rest.bytes().take(2).all(|byte| byte.is_ascii_digit())
        && rest.bytes().all(|byte| byte.is_ascii_digit() || byte.is_ascii_uppercase())
}

/// The country and the check digits stand after the account number for the division by 97 (ISO/IEC
/// 7064, MOD 97-10).
fn remainder(text: &str) -> Option<u32> {
    remainder_97(text.bytes().skip(4).chain(text.bytes().take(4)))
}

pub(super) fn holds(text: &str) -> bool {
    // Check digits run from 02 to 98; 00, 01 and 99 would leave the same remainder as three of
    // those.
    is_formed(text) && !matches!(&text[2..4], "00" | "01" | "99") && remainder(text) == Some(1)
}

/// Both check digits of a number that has 00 in their places.
pub(super) fn digits(text: &str) -> Option<String> {
    let rest = remainder(text).filter(|_| is_formed(text) && &text[2..4] == "00")?;
    Some(format!("{:02}", 98 - rest))
}
