//! Texts and the places in them: characters as a person counts them, what finds a notch, numbers,
//! dates.

mod byte_width;
pub mod characters;
mod date;
mod decimal;
mod email;
mod find;
mod fold;
mod kind;
pub(crate) mod masks;
mod number;
mod open_text;
mod sure_texts;
mod words;

pub use byte_width::ByteWidth;
pub(crate) use date::{DATES, DatePattern};
pub(crate) use decimal::Decimal;
pub(crate) use email::{is_email, is_plain_email};
pub(crate) use find::{Mark, Separator, What, plain_byte};
pub(crate) use fold::{folded, same_ignoring_case};
pub(crate) use kind::{Kind, is_word};
pub use number::is_format;
pub(crate) use number::{
    CLOSING, Evidence, Marks, Number, NumberStyle, OPENING, is_currency, is_harmless_before,
    is_harmless_behind, numbers, stands_next,
};
pub use open_text::OpenText;
pub(crate) use sure_texts::{DIGIT, LOWER, ShortTexts, SureTexts, UPPER, short_whole};
pub(crate) use words::{blocks, is_letters, words};

/// A piece of a text, by its first byte and the byte after its last.
pub(crate) type Span = std::ops::Range<usize>;
