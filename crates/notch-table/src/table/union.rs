//! Several tables of one header as one: their rows one file after the other, columns matched by
//! name.

use std::collections::VecDeque;
use std::io;
use std::path::PathBuf;
use std::sync::Arc;

use crate::cells::{Kind, matching};
use crate::chunks::ChunkSource;
use crate::error::TableError;
use crate::formats::csv::{cell_text, write_cell, write_cell_bytes};
use crate::input::line_map::{LineMap, stood};
use crate::input::source::Source;
use crate::options::ReadOptions;
use crate::table::Table;
use crate::unreadable::Unreadable;

/// How much is made ready at a time, in bytes.
const PIECE: usize = 64 * 1024;

/// The rows of several tables as comma-separated text.
pub(crate) struct Many {
    /// The files that come yet, each with the places of the columns in it.
    files: VecDeque<(PathBuf, Vec<usize>)>,
    current: Option<(Table, Vec<usize>, String)>,
    options: ReadOptions,
    /// How many lines have been made.
    lines: u64,
    places: Arc<LineMap>,
}

/// Opens all tables, and gives their columns.
///
/// # Errors
/// One of them cannot be read, or has other columns than the first.
pub(crate) fn open(
    files: &[PathBuf],
    options: &ReadOptions,
) -> Result<(Many, Vec<(String, Kind)>), TableError> {
    let (mut columns, mut all): (Vec<(String, Kind)>, _) = (Vec::new(), VecDeque::new());
    let single = ReadOptions { file_column: None, ..options.clone() };
    for (n, file) in files.iter().enumerate() {
        let table = Table::open(&Source::File(file.clone()), &single)?;
        if n == 0 {
            columns = (0..table.columns().len())
                .map(|place| (table.columns()[place].clone(), table.kind(place)))
                .collect();
        }
        let places = matching(columns.iter().map(|(name, _)| name.as_str()), table.columns())
            .map_err(|said| {
                let problem = format!("has other columns than {}: {said}.", files[0].display());
                TableError::no_table(
                    table.name(),
                    problem,
                    "Tables that are read together have one header, in any order.",
                )
            })?;
        all.push_back((file.clone(), places));
        // A kind holds where it does in all.
        for (place, (_, kind)) in
            all.back().into_iter().flat_map(|(_, places)| places).zip(&mut columns)
        {
            *kind = if table.kind(*place) == *kind { *kind } else { Kind::Text };
        }
    }
    if let Some(name) = &options.file_column {
        if columns.iter().any(|(column, _)| column == name) {
            let problem = format!("has a column {name} already.");
            return Err(TableError::no_table(
                &files[0].display().to_string(),
                problem,
                "Call the column of file names otherwise: --file-column.",
            ));
        }
        columns.push((name.clone(), Kind::Text));
    }
    Ok((
        Many {
            files: all,
            current: None,
            options: options.clone(),
            lines: 0,
            places: Arc::default(),
        },
        columns,
    ))
}

impl Many {
    /// Where its rows stood.
    pub(crate) fn places(&self) -> Arc<LineMap> {
        Arc::clone(&self.places)
    }

    fn write_rows(&mut self, piece: &mut Vec<u8>) -> Result<(), TableError> {
        while piece.len() < PIECE {
            let Some((table, places, name)) = &mut self.current else {
                let Some((file, places)) = self.files.pop_front() else { return Ok(()) };
                let single = ReadOptions { file_column: None, ..self.options.clone() };
                let name = file.display().to_string();
                self.current = Some((Table::open(&Source::File(file), &single)?, places, name));
                continue;
            };
            let (width, separator, own_places) =
                (table.columns().len(), table.separator(), table.places());
            let Some(record) = table.next_record()? else {
                self.current = None;
                continue;
            };
            self.lines += 1;
            // A workbook's rows may come of several sheets.
            match stood(own_places.as_deref(), record.line) {
                (line, Some(sheet)) if !sheet.is_empty() => {
                    self.places.push(self.lines, &sheet, line)
                }
                (line, _) => self.places.push(self.lines, name, line),
            }
            if record.raw.is_empty() && width > 1 {
                piece.push(b'\n');
                continue;
            }
            if record.unclosed {
                let reason = Unreadable::Unclosed;
                return Err(TableError::Row {
                    name: name.clone(),
                    line: record.line,
                    reason,
                    rows_gone: false,
                });
            }
            let from = piece.len();
            let in_order =
                separator == b',' && places.iter().enumerate().all(|(n, place)| n == *place);
            match record.readable(width) {
                Ok(text) if !in_order => {
                    for (n, place) in places.iter().enumerate() {
                        if n > 0 {
                            piece.push(b',');
                        }
                        write_cell(&cell_text(&text[record.fields.at(*place)]), b',', piece);
                    }
                }
                // A row that cannot be read keeps its fields, so that the same is found wrong with
                // it later.
                Err(_) if separator != b',' => {
                    for (n, field) in record.fields.iter().enumerate() {
                        if n > 0 {
                            piece.push(b',');
                        }
                        write_cell_bytes(&record.raw[field], b',', piece);
                    }
                }
                _ => piece.extend_from_slice(record.raw),
            }
            if self.options.file_column.is_some() {
                piece.push(b',');
                write_cell(name, b',', piece);
            }
            if piece.len() == from {
                piece.extend_from_slice(b"\"\"");
            }
            piece.push(b'\n');
        }
        Ok(())
    }
}

impl ChunkSource for Many {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        self.write_rows(piece).map_err(io::Error::other)
    }
}
