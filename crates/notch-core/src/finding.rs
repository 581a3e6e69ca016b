//! Findings and notes: what a row did that its cut did not expect.

use serde::{Deserialize, Serialize};

/// What kind of finding it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FindingKind {
    /// A cut found nothing where something was wanted.
    Missing,
    /// A piece has fewer characters than were asked for.
    Short,
    /// A text is longer than the width it was padded to.
    Over,
    /// More or fewer parts than names.
    Parts,
    /// A check that failed; the value stays.
    Check,
    /// A text would have become longer than any cell may be, so it was not made.
    TooLong,
    /// A column of the table is not what the jig demands of it.
    Layout,
    /// A row that could not be read.
    Row,
    /// A note: the cell a cut starts from is blank.
    Blank,
    /// A piece of a text that may not be what was meant: the value is written all the same.
    Doubtful,
    /// A note: zeros in front of a number were dropped. It goes by the name of
    /// [`FindingKind::Doubtful`].
    ZerosDropped,
}

impl FindingKind {
    /// Its name in findings files and summaries.
    pub fn name(self) -> &'static str {
        match self {
            FindingKind::Missing => "missing",
            FindingKind::Short => "short",
            FindingKind::Over => "over",
            FindingKind::Parts => "parts",
            FindingKind::Check => "check",
            FindingKind::TooLong => "too long",
            FindingKind::Layout => "layout",
            FindingKind::Row => "row",
            FindingKind::Blank => "blank",
            FindingKind::Doubtful | FindingKind::ZerosDropped => "doubtful",
        }
    }

    /// Whether it is a note: counted and listed, but no reason to reject the row.
    pub fn is_note(self) -> bool {
        matches!(self, FindingKind::Blank | FindingKind::ZerosDropped)
    }
}

/// One finding in one row.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Finding<'a> {
    /// What it is about.
    pub about: About,
    /// Its kind.
    pub kind: FindingKind,
    /// Why, in a few words: `no 2nd "-"`.
    pub reason: &'a str,
    /// What it is counted as, where the reason itself says something of this one row.
    pub counted_as: Option<&'static str>,
    /// The text the step that found it was given, or the cut's value; empty when there is none.
    pub value: &'a str,
}

/// What a finding is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum About {
    /// One new column: the cut's place among the cuts, the name's among its names.
    Name {
        /// The cut, from 0.
        cut: usize,
        /// The name, from 0.
        name: usize,
    },
    /// A cut as a whole.
    Cut(usize),
    /// A column cuts start from, as its place among [`crate::Plan::sources`].
    Column(usize),
    /// A check of whole rows, as its place among [`crate::Plan::checks`].
    Check(usize),
    /// A row as a whole.
    Row,
}

impl About {
    /// The cut it is about, from 0.
    pub fn cut(self) -> Option<usize> {
        match self {
            About::Name { cut, .. } | About::Cut(cut) => Some(cut),
            About::Column(_) | About::Check(_) | About::Row => None,
        }
    }
}
