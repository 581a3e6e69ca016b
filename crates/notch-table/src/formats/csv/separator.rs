//! Which character divides the columns, found by looking at the beginning of a table.

use super::records::Records;

/// What a separator may be when it is found by looking, the likeliest first.
const CANDIDATES: [u8; 4] = [b',', b'\t', b';', b'|'];

/// How many rows are looked at.
const ROWS: usize = 200;

/// The separator that divides the header and most rows into the same number of columns; a comma
/// when none divides the header.
pub(crate) fn find_separator(beginning: &[u8]) -> u8 {
    // The last record read may be cut off in the middle.
    let score = |separator: u8| {
        let mut records = Records::new(beginning);
        records.separate_by(separator);
        let mut widths = Vec::new();
        while widths.len() < ROWS
            && let Ok(Some(record)) = records.next()
        {
            if !record.raw.is_empty() {
                widths.push(record.fields.len());
            }
        }
        if widths.len() > 2 {
            widths.pop();
        }
        let header = widths.first().copied().unwrap_or(1);
        let alike = widths.iter().filter(|width| **width == header).count();
        // A header that is one column says nothing for a separator.
        (header > 1).then_some((alike * 1000 / widths.len().max(1), header))
    };
    CANDIDATES
        .into_iter()
        .filter_map(|separator| Some((score(separator)?, separator)))
        // Of equals the likelier separator: `max_by_key` takes the last.
        .rev()
        .max_by_key(|(score, _)| *score)
        .map_or(b',', |(_, separator)| separator)
}
