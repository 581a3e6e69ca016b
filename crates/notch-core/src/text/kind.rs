//! Kinds of character.

/// A kind of character, as marks and steps know it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Kind {
    /// 0–9.
    Digit,
    /// A letter of any script, with the combining marks on it.
    Letter,
}

impl Kind {
    /// Whether a character (one cluster) is of this kind.
    pub(crate) fn holds(self, character: &str) -> bool {
        match self {
            Kind::Digit => matches!(character.as_bytes(), [b'0'..=b'9']),
            Kind::Letter => character.chars().next().is_some_and(is_letter),
        }
    }

    /// What texts without one are said to lack.
    pub(crate) fn plural(self) -> &'static str {
        match self {
            Kind::Digit => "digits",
            Kind::Letter => "letters",
        }
    }
}

/// Whether a code point is a letter. Unicode's `Alphabetic` also holds letters used as figures (Ⅷ), which are none.
fn is_letter(c: char) -> bool {
    c.is_alphabetic() && !c.is_numeric()
}
