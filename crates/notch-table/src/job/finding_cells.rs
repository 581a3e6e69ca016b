//! Findings as cells of a list.

use std::borrow::Cow;

use keen_notch_core::{About, Finding, FindingKind, Plan};

use super::row::Row;
use crate::input::line_map::{LineMap, stood};

/// The columns of a list of findings; one for the file is there only where rows come of several.
pub(crate) fn finding_columns(of_several_files: bool) -> &'static [&'static str] {
    if of_several_files {
        &["row", "line", "column", "cut", "kind", "reason", "cell", "value", "file", "note"]
    } else {
        &["row", "line", "column", "cut", "kind", "reason", "cell", "value", "note"]
    }
}

/// A finding of a row as cells of a list of findings.
pub(crate) fn finding_cells<'r>(
    plan: &'r Plan,
    row: &Row<'r>,
    finding: &Finding<'r>,
) -> impl Iterator<Item = Cow<'r, str>> {
    let output = match finding.about {
        About::Name { cut, name } => {
            plan.outputs().iter().position(|output| (output.cut, output.name_place) == (cut, name))
        }
        _ => None,
    };
    let source = plan.origin_of(finding.about).and_then(|origin| plan.sources().get(origin));
    // What was taken back for a finding is told all the same.
    let value = output
        .map(|output| row.new_cell(output))
        .filter(|value| !value.is_empty())
        .unwrap_or(finding.value);
    let (line, file) = stood(row.places, row.record.line);
    let cells = [
        row.number.to_string().into(),
        line.to_string().into(),
        source.map_or("", |source| &source.name).into(),
        plan.called(finding.about).into(),
        finding.kind.name().into(),
        finding.reason.into(),
        source.map(|source| row.source_cell(source.index)).unwrap_or_default(),
        value.into(),
    ];
    let note = if finding.kind.is_note() { "yes" } else { "" };
    cells.into_iter().chain(file.map(Cow::from)).chain([note.into()])
}

/// A row that cannot be read as cells of a list of findings.
pub(super) fn unreadable_cells<'r>(
    number: u64,
    line: u64,
    reason: &'r str,
    places: Option<&LineMap>,
) -> impl Iterator<Item = Cow<'r, str>> + use<'r> {
    let blank = || Cow::from("");
    let kind = FindingKind::Row.name().into();
    let (line, file) = stood(places, line);
    let cells = [
        number.to_string().into(),
        line.to_string().into(),
        blank(),
        blank(),
        kind,
        reason.into(),
        blank(),
        blank(),
    ];
    cells.into_iter().chain(file.map(Cow::from)).chain([blank()])
}
