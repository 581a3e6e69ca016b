//! What leaves doubt about a number, and how that is said.

/// What leaves doubt about a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Doubt {
    /// `1,918.52` where a comma is the decimal mark.
    Joint,
    /// `5-`.
    MinusBehind,
    /// `51.5,-0.1`.
    NoSign,
    /// `(5)`.
    Brackets,
    /// `434'659`.
    Apostrophe,
    /// `88 722,07`.
    Blank,
    /// `–5`.
    Dash,
    /// `CHF-850`.
    CurrencyMinus,
    /// `- 5`.
    MinusAndBlank,
    /// `-kr 5`.
    MinusAndWord,
    /// `5½`.
    OtherFigure,
    /// `1.5E+05`.
    Exponent,
    /// Digits with a zero-width character between them.
    Unseen,
    /// `-(5)`.
    TwoSigns,
    /// `1,2345.6`.
    NotThrees,
    /// `31.12.2031`, all of it one number.
    Date,
    /// `1,234.567,89`.
    Alternate,
    /// `1,234`: the two ways to read it differ in the place of the point.
    TwoReadings,
}

impl Doubt {
    /// In a few words; of [`Doubt::TwoReadings`] what all of them have in common.
    pub(crate) fn reason(self) -> &'static str {
        match self {
            Doubt::Joint => "a comma or point touches it",
            Doubt::MinusBehind => "a minus stands behind it",
            Doubt::NoSign => "a minus before it is no sign there",
            Doubt::Brackets => "brackets close around it",
            Doubt::Apostrophe => "an apostrophe touches it",
            Doubt::Blank => "a blank may divide it",
            Doubt::Dash => "a dash stands where a sign could",
            Doubt::CurrencyMinus => "a minus stands between a currency and it",
            Doubt::MinusAndBlank => "a minus and a blank stand before it",
            Doubt::MinusAndWord => "a minus and a word stand before it",
            Doubt::OtherFigure => "a figure other than 0-9 touches it",
            Doubt::Exponent => "an exponent stands behind it",
            Doubt::Unseen => "a character that cannot be seen divides it",
            Doubt::TwoSigns => "two signs",
            Doubt::NotThrees => "not grouped in threes",
            Doubt::Date => "not grouped in threes; a date is read with `date`",
            Doubt::Alternate => "its marks alternate",
            Doubt::TwoReadings => "one mark and three digits: grouped or decimal",
        }
    }
}

/// Brackets around a number.
#[derive(Debug, Clone, Copy)]
pub(super) struct Brackets {
    /// Where the opening one stands; `None` when it stands before the piece.
    pub open: Option<usize>,
    /// The byte after the closing one.
    pub close: usize,
    pub is_round: bool,
    /// A currency code stands inside.
    pub has_code: bool,
}

impl Brackets {
    /// Whether they say in accounts that an amount is below zero.
    pub(super) fn is_below_zero(&self) -> bool {
        self.is_round && !self.has_code && self.open.is_some()
    }
}
