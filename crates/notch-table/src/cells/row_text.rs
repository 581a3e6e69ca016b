//! How rows of cells become text, as a format says it: what stands before and behind each cell.

use super::OutCell;
use crate::text_out::{Room, TextOut};

/// How rows of cells become text, each by itself and cell by cell.
#[derive(Debug)]
pub(crate) struct RowText {
    /// What stands before the cells of a row, and behind them.
    pub begin: &'static [u8],
    pub end: &'static [u8],
    pub fields: Vec<Field>,
    /// What stands before a text and behind it.
    pub quote: u8,
    /// Whether all cells of these bytes are texts that are written verbatim, wherever they are
    /// divided.
    pub is_verbatim: fn(&[u8]) -> bool,
    /// The same of that many of the bytes; others may follow.
    pub is_verbatim_open: fn(&[u8], usize) -> bool,
    /// Writes any other cell, and what stands before and behind it.
    pub push_other: fn(&Field, &[u8], &mut TextOut),
}

/// How the cells of a column are written.
#[derive(Debug)]
pub(crate) struct Field {
    /// What stands before the value.
    pub name: String,
    /// The same and what stands between it and a text, where that is short; how long it is.
    before_text: [u8; TextOut::WIDE],
    before: usize,
    /// Whether not all cells with something in them are texts.
    pub is_bare: bool,
}

impl Field {
    /// A field with this before each value, and `quote` between that and a text.
    pub(crate) fn new(name: String, quote: u8, is_bare: bool) -> Self {
        let (mut before_text, before) = ([0; TextOut::WIDE], name.len() + 1);
        if let Some(room) = before_text.get_mut(..before) {
            room[..name.len()].copy_from_slice(name.as_bytes());
            room[name.len()] = quote;
        }
        Self { name, before_text, before, is_bare }
    }
}

impl RowText {
    /// How much room a row of short cells needs, in bytes.
    pub(crate) fn short_row(&self) -> usize {
        self.fields.len() * Room::BETWEEN + self.begin.len() + self.end.len()
    }

    /// Adds the cell of a column where it is a short text; returns whether it is. It is compiled
    /// into the loop over all rows: that takes 27 instructions a cell less than a call.
    #[inline(always)]
    pub(crate) fn short_cell(
        &self,
        field: &Field,
        cell: OpenCell<'_>,
        room: &mut Room<'_>,
    ) -> bool {
        self.is_plain_text(field, cell)
            && room.push_between(
                (&field.before_text, field.before),
                (cell.open, cell.length),
                self.quote,
            )
    }

    /// Adds the cell of a column.
    pub(crate) fn cell(&self, field: &Field, cell: OpenCell<'_>, into: &mut TextOut) {
        let text = &cell.open[..cell.length];
        if self.is_plain_text(field, cell) {
            into.push(field.name.as_bytes());
            into.push(&[self.quote]);
            into.push(text);
            into.push(&[self.quote]);
        } else {
            (self.push_other)(field, text, into);
        }
    }

    /// Whether a cell is written as a text that stands as it is.
    #[inline(always)]
    fn is_plain_text(&self, field: &Field, cell: OpenCell<'_>) -> bool {
        let OpenCell { open, length, is_verbatim } = cell;
        length > 0 && !field.is_bare && (is_verbatim || (self.is_verbatim_open)(open, length))
    }

    /// Adds a row of these cells.
    pub(crate) fn row<'c>(&self, cells: impl Iterator<Item = OutCell<'c>>, into: &mut TextOut) {
        into.push(self.begin);
        for (field, cell) in self.fields.iter().zip(cells) {
            let cell = cell.unwrap_or_default();
            self.cell(field, OpenCell::of(cell.as_bytes()), into);
        }
        into.push(self.end);
    }
}

/// A cell, blank where it has no bytes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct OpenCell<'c> {
    /// Its text, with what stands after it in memory, which is read with it.
    pub open: &'c [u8],
    /// How many bytes of that are its text.
    pub length: usize,
    /// It is known that [`RowText::is_verbatim`] is true of it.
    pub is_verbatim: bool,
}

impl<'c> OpenCell<'c> {
    /// A cell of these bytes, of which nothing is known.
    pub(crate) fn of(bytes: &'c [u8]) -> Self {
        Self { open: bytes, length: bytes.len(), is_verbatim: false }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// A short cell is added as any cell is, whatever follows it in memory.
        #[test]
        fn short_cells_are_written_like_others(
            name in "[a-z]{0,33}", cells in prop::collection::vec("[a-z]{0,34}", 0..5), follows in "[a-z]{0,40}",
        ) {
            let text = RowText {
                begin: b"{",
                end: b"}\n",
                fields: cells.iter().map(|_| Field::new(name.clone(), b'\'', false)).collect(),
                quote: b'\'',
                is_verbatim: |_| true,
                is_verbatim_open: |_, _| true,
                push_other: |field, bytes, into| {
                    assert_eq!(bytes, b"");
                    into.push(field.name.as_bytes());
                },
            };
            let (mut one_by_one, mut wanted) = (TextOut::default(), TextOut::default());
            text.row(cells.iter().map(|cell| Some(cell.into())), &mut wanted);
            one_by_one.push(text.begin);
            for (field, cell) in text.fields.iter().zip(&cells) {
                let open = format!("{cell}{follows}");
                let cell = OpenCell { open: open.as_bytes(), length: cell.len(), is_verbatim: true };
                let mut room = one_by_one.room(text.short_row());
                let is_short = text.short_cell(field, cell, &mut room);
                room.close();
                prop_assert_eq!(is_short, cell.length > 0 && cell.length <= 32 && name.len() < 32 && open.len() >= 32);
                if !is_short {
                    text.cell(field, cell, &mut one_by_one);
                }
            }
            one_by_one.push(text.end);
            prop_assert_eq!(one_by_one.bytes(), wanted.bytes());
        }
    }
}
