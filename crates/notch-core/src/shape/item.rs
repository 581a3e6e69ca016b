//! What a pattern of a shape is made of.

/// One thing of a pattern: literal text, or a slot.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Item {
    Literal(String),
    /// That many characters of a kind, or of either of two.
    Run(&'static [char], usize, usize),
    Word,
    Words,
    Number,
    Mixed,
    Anything,
}
