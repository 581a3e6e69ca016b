//! What is known of a column, and what all that is printed of it shares.

use keen_notch_core::{
    ColumnHolds, ColumnSurvey, Distinct, FirstRow, Layouts, Proposal, Trouble, in_braces,
};
use keen_notch_table::Whereabouts;

use super::super::style::{self, set};

/// How wide a text is shown at most, in terminal columns.
pub(super) const WIDEST: usize = 44;

/// What is known of a column.
pub struct Surveyed {
    /// Its name.
    pub name: String,
    /// Its place in the table, from 1, where its name cannot be written in a cut or is that of
    /// several columns.
    pub only_place: Option<usize>,
    /// What it looks like.
    pub survey: ColumnSurvey,
    /// The cuts that suit it.
    pub proposals: Vec<Proposal>,
    /// The rules that nearly all rows keep.
    pub holds: Vec<ColumnHolds>,
    /// The ways in which its texts are written.
    pub layouts: Layouts,
    /// On how many texts the cuts were tried.
    pub tried: u64,
    /// What does not meet the eye.
    pub troubles: Vec<Trouble>,
}

impl Surveyed {
    /// The column as a cut names it.
    pub fn source(&self) -> String {
        self.only_place.map_or_else(|| in_braces(&self.name), |place| format!("{{column {place}}}"))
    }
}

/// How many distinct texts there are, as pages have it.
pub(super) fn told(distinct: Distinct) -> String {
    match distinct {
        Distinct::Exactly(n) => n.to_string(),
        Distinct::About(n) => format!("about {n}"),
    }
}

/// The row, and where it stood if the table has several files.
pub(super) fn row_of(first: &FirstRow, places: &Whereabouts) -> String {
    if places.has_files() {
        format!("row {}, {}", first.row, places.line(first.line))
    } else {
        format!("row {}", first.row)
    }
}

/// Begins a section of the page.
pub(super) fn section(title: &str, text: &mut String) {
    text.push_str(&format!("\n{}\n", set(style::FINDING, title)));
}
