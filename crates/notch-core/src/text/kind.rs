//! Kinds of character.

/// A kind of character, as marks and steps know it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Kind {
    /// 0–9.
    Digit,
    /// A letter of any script, with the combining marks on it.
    Letter,
    /// A letter of upper case.
    Upper,
    /// A letter of lower case.
    Lower,
    /// Unicode white space.
    Space,
    /// Neither digit nor letter nor white space.
    Symbol,
    /// Any.
    Character,
}

impl Kind {
    /// Whether a character (one cluster) is of this kind.
    pub(crate) fn holds(self, character: &str) -> bool {
        let first = || character.chars().next();
        match self {
            Kind::Digit => matches!(character.as_bytes(), [b'0'..=b'9']),
            Kind::Letter => first().is_some_and(is_letter),
            Kind::Upper => first().is_some_and(char::is_uppercase),
            Kind::Lower => first().is_some_and(char::is_lowercase),
            Kind::Space => first().is_some_and(char::is_whitespace),
            Kind::Symbol => {
                ![Kind::Digit, Kind::Letter, Kind::Space].iter().any(|kind| kind.holds(character))
            }
            Kind::Character => true,
        }
    }

    /// What texts without one are said to lack.
    pub(crate) fn plural(self) -> &'static str {
        match self {
            Kind::Digit => "digits",
            Kind::Letter => "letters",
            Kind::Upper => "upper-case letters",
            Kind::Lower => "lower-case letters",
            Kind::Space => "white space",
            Kind::Symbol => "symbols",
            Kind::Character => "characters",
        }
    }
}

/// Whether a code point is a letter. Unicode's `Alphabetic` also holds letters used as figures (Ⅷ),
/// which are none.
pub(crate) fn is_letter(c: char) -> bool {
    c.is_alphabetic() && !c.is_numeric()
}

/// Whether a code point is part of a word: a letter, a figure or `_`.
pub(crate) fn is_word(c: char) -> bool {
    c.is_alphanumeric() || c == '_'
}
