//! The texts of a column, gathered for an array.

use std::ops::Range;

use arrow_array::StringArray;
use arrow_buffer::{BooleanBuffer, Buffer, NullBuffer, OffsetBuffer, ScalarBuffer};
use arrow_schema::ArrowError;

use crate::cells::TextColumn;

/// Texts one after the other; an empty one is none.
pub(super) struct Texts {
    bytes: Vec<u8>,
    /// Where the first begins and where each ends, in bytes; of no meaning beyond what an array has
    /// room for.
    bounds: Vec<i32>,
}

impl Default for Texts {
    fn default() -> Self {
        Self { bytes: Vec::new(), bounds: vec![0] }
    }
}

impl Texts {
    /// How many bytes they have.
    pub(super) fn len(&self) -> usize {
        self.bytes.len()
    }

    /// Adds one.
    pub(super) fn push(&mut self, text: Option<&str>) {
        self.bytes.extend_from_slice(text.unwrap_or_default().as_bytes());
        self.bounds.push(self.bytes.len() as i32);
    }

    /// Adds those of some rows.
    pub(super) fn extend(&mut self, column: &TextColumn, rows: &Range<usize>) {
        let (before, from) = (self.bytes.len(), column.span(rows).start);
        let (texts, ends) = column.texts(rows);
        self.bytes.extend_from_slice(texts.as_bytes());
        self.bounds.extend(ends.iter().map(|end| (end - from + before) as i32));
    }

    /// Makes an array of them; then there are none.
    ///
    /// # Errors
    /// They are more than 2 GiB.
    pub(super) fn finish(&mut self) -> Result<StringArray, ArrowError> {
        if i32::try_from(self.bytes.len()).is_err() {
            return Err(ArrowError::CastError("a text of more than 2 GiB".to_owned()));
        }
        // Those that follow will be about as many and as long.
        let mut next = Self {
            bytes: Vec::with_capacity(self.bytes.len()),
            bounds: Vec::with_capacity(self.bounds.len()),
        };
        next.bounds.push(0);
        let Self { bytes, bounds: offsets } = std::mem::replace(self, next);
        // To look at all of them is quicker than to ask after each whether to go on.
        let is_any_missing =
            offsets.windows(2).fold(false, |found, ends| found | (ends[0] == ends[1]));
        let nulls = is_any_missing.then(|| {
            let is_there =
                BooleanBuffer::collect_bool(offsets.len() - 1, |n| offsets[n] < offsets[n + 1]);
            NullBuffer::new(is_there)
        });
        StringArray::try_new(
            OffsetBuffer::new(ScalarBuffer::from(offsets)),
            Buffer::from_vec(bytes),
            nulls,
        )
    }
}
