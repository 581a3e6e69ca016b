//! The rows of a table one after the other, with the cells that a plan asks for.

use std::borrow::Cow;

use notch_core::{About, Finding, Plan};

use crate::csv::{Record, cell_text};
use crate::error::TableError;
use crate::table::Table;

/// A row as it was read.
pub(super) struct ReadRow<'r> {
    /// Its number from 1, the header not counted.
    pub number: u64,
    pub record: Record<'r>,
    /// The name of its table.
    pub table: &'r str,
}

/// The cells of a row that can be read.
pub(super) struct Cells<'r> {
    pub text: &'r str,
    pub plan: &'r Plan,
    pub record: Record<'r>,
    /// Cells that do not stand in the text as they are, because of quotes inside.
    pub unquoted: &'r [Option<String>],
}

impl<'r> Cells<'r> {
    /// The cells of the plan's sources, in their order.
    pub(super) fn iter(&self) -> impl Iterator<Item = &'r str> + use<'r> {
        let (record, text) = (self.record, self.text);
        self.plan.sources().iter().zip(self.unquoted).map(move |(source, buffer)| {
            let field = &text[record.fields.at(source.index)];
            match buffer {
                _ if record.unquoted => field,
                Some(text) => text.as_str(),
                // Quotes stand at its ends or nowhere.
                None => field.strip_prefix('"').and_then(|rest| rest.strip_suffix('"')).unwrap_or(field),
            }
        })
    }
}

impl ReadRow<'_> {
    /// The error of a row that cannot be read.
    pub(super) fn unreadable(&self, reason: String, rows_gone: bool) -> TableError {
        TableError::Row { name: self.table.to_owned(), line: self.record.line, reason, rows_gone }
    }

    /// The error of a finding that is to stop the work.
    pub(super) fn stopped(&self, plan: &Plan, finding: &Finding<'_>, rows_gone: bool) -> TableError {
        let about = match finding.about {
            About::Column(source) => plan.sources().get(source).map_or("", |source| &source.name),
            about => plan.called(about),
        };
        let said = format!("{about}, {}: {}", finding.kind.name(), finding.reason);
        TableError::Finding { name: self.table.to_owned(), line: self.record.line, said, rows_gone }
    }
}

/// Hands every row to `work`, with its cells or the reason why it cannot be read; gives how many lines had nothing in them.
pub(super) fn each_row(
    mut table: Table,
    plan: &Plan,
    mut work: impl FnMut(&ReadRow<'_>, Result<Cells<'_>, String>) -> Result<(), TableError>,
) -> Result<u64, TableError> {
    let (name, width) = (table.name().to_owned(), table.columns().len());
    let mut unquoted = vec![None; plan.sources().len()];
    let (mut number, mut empty_lines) = (0, 0);
    while let Some(record) = table.next_record()? {
        if record.raw.is_empty() && width > 1 {
            empty_lines += 1;
            continue;
        }
        number += 1;
        let row = ReadRow { number, record, table: &name };
        let cells = record.readable(width).map(|text| {
            unquote(plan, &record, text, &mut unquoted);
            Cells { text, plan, record, unquoted: &unquoted }
        });
        work(&row, cells)?;
    }
    Ok(empty_lines)
}

/// Writes out the cells of the plan's sources that do not stand in the text as they are; of a record without quotes there are none.
pub(super) fn unquote(plan: &Plan, record: &Record<'_>, text: &str, unquoted: &mut [Option<String>]) {
    if record.unquoted {
        return;
    }
    for (source, buffer) in plan.sources().iter().zip(unquoted) {
        *buffer = match cell_text(&text[record.fields.at(source.index)]) {
            Cow::Borrowed(_) => None,
            Cow::Owned(text) => Some(text),
        };
    }
}
