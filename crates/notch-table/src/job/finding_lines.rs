//! Findings as lines of a list.

use std::borrow::Cow;

use keen_notch_core::{About, Finding, FindingKind, Plan};

use super::row::Row;
use super::sinks::guard;
use crate::formats::csv::write_cell;
use crate::input::line_map::{LineMap, stood};

/// The columns of a list of findings; one for the file is there only where rows come of several.
pub(crate) fn finding_columns(of_several_files: bool) -> &'static [&'static str] {
    if of_several_files {
        &["row", "line", "column", "cut", "kind", "reason", "cell", "value", "file", "note"]
    } else {
        &["row", "line", "column", "cut", "kind", "reason", "cell", "value", "note"]
    }
}

/// A line of a list of findings.
pub(crate) struct FindingLine<'r> {
    row: u64,
    line: u64,
    /// The column, the cut, the kind, the reason, the cell and the value.
    texts: [Cow<'r, str>; 6],
    /// Where rows come of several files the one it stands in.
    file: Option<String>,
    is_note: bool,
}

impl<'r> FindingLine<'r> {
    /// The line of a finding of a row.
    pub(crate) fn new(plan: &'r Plan, row: &Row<'r>, finding: &Finding<'r>) -> Self {
        let output = match finding.about {
            About::Name { cut, name } => plan
                .outputs()
                .iter()
                .position(|output| (output.cut, output.name_place) == (cut, name)),
            _ => None,
        };
        let source = plan.origin_of(finding.about).and_then(|origin| plan.sources().get(origin));
        // What was taken back for a finding is told all the same.
        let value = output
            .map(|output| row.new_cell(output))
            .filter(|value| !value.is_empty())
            .unwrap_or(finding.value);
        let (line, file) = stood(row.places, row.record.line);
        let texts = [
            source.map_or("", |source| &source.name).into(),
            plan.called(finding.about).into(),
            finding.kind.name().into(),
            finding.reason.into(),
            source.map(|source| row.source_cell(source.index)).unwrap_or_default(),
            value.into(),
        ];
        Self { row: row.number, line, texts, file, is_note: finding.kind.is_note() }
    }

    /// The line of what is said of a place, given by its row and line, and of nothing that a cut
    /// has made: the column, the kind, the reason and the cell.
    pub(super) fn of_place(
        (row, line): (u64, u64),
        [column, kind, reason, cell]: [&'r str; 4],
        places: Option<&LineMap>,
    ) -> Self {
        let (line, file) = stood(places, line);
        let texts = [column, "", kind, reason, cell, ""].map(Cow::from);
        Self { row, line, texts, file, is_note: false }
    }

    /// The line of a row that cannot be read.
    pub(super) fn unreadable(place: (u64, u64), reason: &'r str, places: Option<&LineMap>) -> Self {
        Self::of_place(place, ["", FindingKind::Row.name(), reason, ""], places)
    }

    /// The number of the row, from 1.
    pub(super) fn row(&self) -> u64 {
        self.row
    }

    fn note(&self) -> &'static str {
        if self.is_note { "yes" } else { "" }
    }

    /// Its cells.
    pub(crate) fn cells(&self) -> impl Iterator<Item = Cow<'_, str>> {
        let numbers = [self.row, self.line].map(|number| Cow::from(number.to_string()));
        let texts = self.texts.iter().map(|text| Cow::from(&**text));
        let file = self.file.iter().map(Cow::from);
        numbers.into_iter().chain(texts).chain(file).chain([self.note().into()])
    }

    /// Writes it as separated text, with its line end. Without going through its cells: a table in
    /// which all rows fail has as many of these lines as rows.
    pub(super) fn write(&self, separator: u8, guards_formulas: bool, into: &mut Vec<u8>) {
        let mut number = itoa::Buffer::new();
        into.extend_from_slice(number.format(self.row).as_bytes());
        into.push(separator);
        into.extend_from_slice(number.format(self.line).as_bytes());
        let texts = self.texts.iter().map(|text| &**text);
        for text in texts.chain(self.file.as_deref()).chain([self.note()]) {
            into.push(separator);
            if text.is_empty() {
                continue;
            }
            let from = into.len();
            write_cell(text, separator, into);
            if guards_formulas {
                guard(into, from);
            }
        }
        into.push(b'\n');
    }
}
