//! A text together with what stands after it in memory.

use std::ops::Deref;

/// A text, and bytes that begin with it: sixteen of them can be looked at together though fewer are
/// left of the text, without a copy.
#[derive(Debug, Clone, Copy)]
pub struct OpenText<'t> {
    text: &'t str,
    open: &'t [u8],
}

impl<'t> OpenText<'t> {
    /// The text from one byte of another up to another; `None` where it does not lie in it between
    /// characters.
    #[inline]
    pub fn of(whole: &'t str, from: usize, to: usize) -> Option<Self> {
        Some(Self { text: whole.get(from..to)?, open: &whole.as_bytes()[from..] })
    }

    /// The text.
    #[inline]
    pub fn text(&self) -> &'t str {
        self.text
    }

    /// Bytes that begin with it.
    #[inline]
    pub(crate) fn open(&self) -> &'t [u8] {
        self.open
    }
}

impl<'t, T: AsRef<str> + ?Sized> From<&'t T> for OpenText<'t> {
    fn from(text: &'t T) -> Self {
        let text = text.as_ref();
        Self { text, open: text.as_bytes() }
    }
}

impl Deref for OpenText<'_> {
    type Target = str;

    fn deref(&self) -> &str {
        self.text
    }
}
