//! Check-digit schemes by their published standards: is a number whole, and which check digit
//! belongs to one.

mod iban;
mod modulus;
mod tables;

/// A scheme: what its numbers look like and how their check digit is made.
#[derive(Debug)]
pub struct Scheme {
    /// What the language calls it.
    pub name: &'static str,
    /// Which standard it is of, with the section where it has several schemes.
    pub standard: &'static str,
    /// What its check digit is computed of, for the reason when a text is none such.
    pub payload: &'static str,
    /// The characters between two others that do not count, because the numbers are printed with
    /// them.
    pub printed_with: &'static [char],
    /// Whether a number without printed characters is whole, its check digit included.
    holds: fn(&str) -> bool,
    /// The check digit of a text without one.
    digit: fn(&str) -> Option<String>,
}

const BLANKS_AND_HYPHENS: &[char] = &[' ', '-'];

/// Every scheme, in the order of the documentation.
pub const SCHEMES: [Scheme; 9] = [
    Scheme {
        name: "luhn",
        standard: "ISO/IEC 7812-1, Annex B",
        payload: "digits",
        printed_with: BLANKS_AND_HYPHENS,
        holds: modulus::luhn,
        digit: modulus::luhn_digit,
    },
    Scheme {
        name: "gtin",
        standard: "GS1 General Specifications, section 7.9 (GTIN-8, -12, -13 and -14)",
        payload: "7, 11, 12 or 13 digits",
        printed_with: BLANKS_AND_HYPHENS,
        holds: modulus::gtin,
        digit: modulus::gtin_digit,
    },
    Scheme {
        name: "isbn",
        standard: "ISO 2108 (ISBN-10 and ISBN-13; X stands for 10)",
        payload: "9 digits, or 12 that begin with 978 or 979",
        printed_with: BLANKS_AND_HYPHENS,
        holds: modulus::isbn,
        digit: modulus::isbn_digit,
    },
    Scheme {
        name: "issn",
        standard: "ISO 3297 (X stands for 10)",
        payload: "7 digits",
        printed_with: BLANKS_AND_HYPHENS,
        holds: modulus::issn,
        digit: modulus::issn_digit,
    },
    Scheme {
        name: "iban",
        standard: "ISO 13616-1, with the lengths by country of its registry",
        payload: "a country, 00 in the two places of the check digits and an account number of \
            that country's length",
        printed_with: &[' '],
        holds: iban::holds,
        digit: iban::digits,
    },
    Scheme {
        name: "mod97",
        standard: "ISO/IEC 7064, MOD 97-10 (letters count A = 10 to Z = 35, as ISO 17442 has it)",
        payload: "digits and capital letters",
        printed_with: BLANKS_AND_HYPHENS,
        holds: modulus::mod97,
        digit: modulus::mod97_digits,
    },
    Scheme {
        name: "mod11-2",
        standard: "ISO/IEC 7064, MOD 11-2 (X stands for 10)",
        payload: "digits",
        printed_with: BLANKS_AND_HYPHENS,
        holds: modulus::mod11_2,
        digit: modulus::mod11_2_digit,
    },
    Scheme {
        name: "damm",
        standard: "H. M. Damm, Total anti-symmetrische Quasigruppen (2004), the table of order 10",
        payload: "digits",
        printed_with: &[],
        holds: tables::damm,
        digit: tables::damm_digit,
    },
    Scheme {
        name: "verhoeff",
        standard: "J. Verhoeff, Error Detecting Decimal Codes (1969), the dihedral group of order \
            10",
        payload: "digits",
        printed_with: &[],
        holds: tables::verhoeff,
        digit: tables::verhoeff_digit,
    },
];

impl Scheme {
    /// The scheme of this name.
    pub(crate) fn named(name: &str) -> Option<&'static Scheme> {
        SCHEMES.iter().find(|scheme| scheme.name == name)
    }

    /// The names of all.
    pub(crate) fn names() -> impl Iterator<Item = &'static str> {
        SCHEMES.iter().map(|scheme| scheme.name)
    }

    /// Whether a text is a number of this scheme with the right check digit.
    pub(crate) fn holds(&self, text: &str) -> bool {
        self.bare(text).is_some_and(|bare| (self.holds)(&bare))
    }

    /// The check digit (for some schemes two) that belongs to a text; `None` when it is not what
    /// the scheme takes.
    pub(crate) fn digit(&self, text: &str) -> Option<String> {
        self.bare(text).and_then(|bare| (self.digit)(&bare))
    }

    /// The text without what is only printed: one blank or hyphen at a time, between two other
    /// characters.
    fn bare<'t>(&self, text: &'t str) -> Option<std::borrow::Cow<'t, str>> {
        if !text.contains(self.printed_with) {
            return Some(text.into());
        }
        let mut groups = text.split(self.printed_with);
        groups.all(|group| !group.is_empty()).then(|| text.replace(self.printed_with, "").into())
    }
}

/// The digits of a text, when it is nothing but digits 0–9 and at least one.
fn digits(text: &str) -> Option<impl DoubleEndedIterator<Item = u32> + ExactSizeIterator + '_> {
    (!text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit()))
        .then(|| text.bytes().map(|byte| u32::from(byte - b'0')))
}

/// Splits the check digits, that many ASCII characters, off the end; there must be something before
/// them.
fn split(text: &str, check: usize) -> Option<(&str, &str)> {
    let at = text.len().checked_sub(check).filter(|at| *at > 0)?;
    text.is_ascii().then(|| text.split_at(at))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Numbers from the standards themselves or from what their publishers print as examples.
    #[test]
    fn published_examples() {
        for (name, whole, broken) in [
            (
                "luhn",
                &["79927398713", "4539 1488 0343 6467", "17893729974"][..],
                &["79927398710", "4539  1488", "7992739871a", "0", "", "-0"][..],
            ),
            (
                "gtin",
                &["6291041500213", "73513537", "036000291452", "10614141000415", "4 006381 333931"],
                &["6291041500214", "735135370", "036000291453", "6291041500213x"],
            ),
            (
                "isbn",
                &[
                    "0-306-40615-2",
                    "978-0-306-40615-7",
                    "080442957X",
                    "9791090636071",
                    "0 8044 2957 X",
                ],
                &[
                    "0-306-40615-3",
                    "978-0-306-40615-0",
                    "9770306406157",
                    "X804429570",
                    "080442957x",
                ],
            ),
            (
                "issn",
                &["0378-5955", "2434-561X", "03178471"],
                &["0378-5954", "2434-5610", "X434561X", "0378--5955"],
            ),
            (
                "iban",
                &[
                    "GB82 WEST 1234 5698 7654 32",
                    "DE89370400440532013000",
                    "NO9386011117947",
                    "MT84MALT011000012345MTLCAST001S",
                ],
                &[
                    "GB82 WEST 1234 5698 7654 33",
                    "DE8937040044053201300",
                    "ZZ9386011117947",
                    "gb82west12345698765432",
                    "GB82-WEST-1234-5698-7654-32",
                ],
            ),
            (
                "mod97",
                &["79444", "5493001KJTIIGC8Y1R12"],
                &["79445", "5493001KJTIIGC8Y1R13", "79-", "é44"],
            ),
            (
                "mod11-2",
                &["07940", "079X", "0000000121032683", "0000 0002 1825 0097"],
                &["07950", "0000000121032684", "X"],
            ),
            ("damm", &["5724"], &["5727", "57 24", "5724-"]),
            ("verhoeff", &["2363", "1428570", "123451"], &["2364", "236 3"]),
        ] {
            let scheme = Scheme::named(name).unwrap();
            for text in whole {
                assert!(scheme.holds(text), "{name} {text}");
            }
            for text in broken {
                assert!(!scheme.holds(text), "{name} {text}");
            }
        }
    }

    #[test]
    fn check_digits_are_those_that_hold() {
        for (name, payload, wanted) in [
            ("luhn", "7992739871", Some("3")),
            ("gtin", "629104150021", Some("3")),
            ("gtin", "7351353", Some("7")),
            ("gtin", "73513", None),
            ("isbn", "0-306-40615", Some("2")),
            ("isbn", "080442957", Some("X")),
            ("isbn", "978-0-306-40615", Some("7")),
            ("isbn", "977030640615", None),
            ("issn", "2434-561", Some("X")),
            ("iban", "GB00WEST12345698765432", Some("82")),
            ("iban", "GB99WEST12345698765432", None),
            ("mod97", "794", Some("44")),
            ("mod11-2", "079", Some("X")),
            ("damm", "572", Some("4")),
            ("verhoeff", "236", Some("3")),
            ("verhoeff", "23a", None),
        ] {
            assert_eq!(
                Scheme::named(name).unwrap().digit(payload).as_deref(),
                wanted,
                "{name} {payload}"
            );
        }
        // Whatever a scheme computes holds, and no other last digit does; neither does any one
        // digit changed.
        for scheme in SCHEMES.iter().filter(|scheme| scheme.name != "iban") {
            for n in 0..500_u64 {
                let width = if scheme.name == "issn" { 7 } else { 9 };
                let width = if scheme.name == "gtin" { 12 } else { width };
                let payload = format!(
                    "{:0width$}",
                    n.wrapping_mul(2_654_435_761_987) % 10_u64.pow(u32::try_from(width).unwrap())
                );
                let digit = scheme.digit(&payload).unwrap();
                assert!(scheme.holds(&format!("{payload}{digit}")), "{} {payload}", scheme.name);
                let others = ('0'..='9')
                    .map(String::from)
                    .filter(|other| digit.len() == 1 && *other != digit);
                for other in others {
                    assert!(
                        !scheme.holds(&format!("{payload}{other}")),
                        "{} {payload} {other}",
                        scheme.name
                    );
                }
                let place = usize::try_from(n).unwrap() % payload.len();
                let changed = (payload.as_bytes()[place] - b'0' + 1) % 10;
                let changed =
                    format!("{}{changed}{}{digit}", &payload[..place], &payload[place + 1..]);
                assert!(!scheme.holds(&changed), "{} {changed}", scheme.name);
            }
        }
    }
}
