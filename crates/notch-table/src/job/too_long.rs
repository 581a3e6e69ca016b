//! Texts that are longer than a cell of a workbook may be.

use std::borrow::Cow;

use keen_notch_core::{About, Plan};

use super::row::{OutColumn, Row};

/// The texts that are too long for a cell of the output: what about, and the reason.
pub(super) fn too_long(
    row: &Row<'_>,
    plan: &Plan,
    columns: &[OutColumn],
    most: usize,
) -> Option<Vec<(About, String)>> {
    let mut found = Vec::new();
    for column in columns {
        let (about, name, text) = match column {
            OutColumn::New(n) => {
                let output = &plan.outputs()[*n];
                let about = About::Name { cut: output.cut, name: output.name_place };
                (about, String::new(), Cow::from(row.new_cell(*n)))
            }
            // Shorter in bytes, quotes included, is shorter in any way of counting.
            OutColumn::Source(n) if row.raw_field(*n).len() <= most => continue,
            OutColumn::Source(n) => {
                let source = plan.sources().iter().position(|source| source.index == *n);
                (
                    source.map_or(About::Row, About::Column),
                    format!("column {}: ", n + 1),
                    row.source_cell(*n),
                )
            }
        };
        if text.len() > most {
            let length = text.encode_utf16().count();
            if length > most {
                found.push((
                    about,
                    format!(
                        "{name}{length} characters, of which a cell of a workbook holds {most}"
                    ),
                ));
            }
        }
    }
    (!found.is_empty()).then_some(found)
}
