//! The values of a typed column as texts.

use std::fmt::Write;

use arrow_array::cast::AsArray;
use arrow_array::types::{Float32Type, Float64Type};
use arrow_array::{
    Array, ArrayRef, Float32Array, Float64Array, LargeStringArray, StringArray, StringViewArray,
};
use arrow_buffer::NullBuffer;
use arrow_cast::display::{ArrayFormatter, FormatOptions};
use arrow_schema::{ArrowError, DataType};

/// Values that become texts.
pub(super) struct Values<'a> {
    /// Which of them are there, where some are missing.
    nulls: Option<&'a NullBuffer>,
    texts: Texts<'a>,
}

/// A column with its texts themselves where it has them in a dictionary.
///
/// # Errors
/// The dictionary is broken.
pub(super) fn without_dictionary(column: &ArrayRef) -> Result<ArrayRef, ArrowError> {
    match column.data_type() {
        DataType::Dictionary(_, values) if values.is_string() => {
            arrow_cast::cast(column, &DataType::Utf8View)
        }
        _ => Ok(ArrayRef::clone(column)),
    }
}

/// How they become texts.
enum Texts<'a> {
    /// They are texts.
    Are(&'a StringArray),
    Long(&'a LargeStringArray),
    Views(&'a StringViewArray),
    Short(&'a Float32Array),
    Float(&'a Float64Array),
    Formatted(ArrayFormatter<'a>),
}

const FORM: FormatOptions<'_> = FormatOptions::new().with_display_error(false);

impl<'a> Values<'a> {
    /// Those of a column.
    ///
    /// # Errors
    /// Their type has no text.
    pub(super) fn of(column: &'a ArrayRef) -> Result<Self, ArrowError> {
        let texts = match column.data_type() {
            DataType::Utf8 => Texts::Are(column.as_string()),
            DataType::LargeUtf8 => Texts::Long(column.as_string()),
            DataType::Utf8View => Texts::Views(column.as_string_view()),
            DataType::Float32 => Texts::Short(column.as_primitive::<Float32Type>()),
            DataType::Float64 => Texts::Float(column.as_primitive::<Float64Type>()),
            _ => Texts::Formatted(ArrayFormatter::try_new(column.as_ref(), &FORM)?),
        };
        Ok(Self { nulls: column.nulls().filter(|nulls| nulls.null_count() > 0), texts })
    }

    /// The texts one after the other and where each ends, if they are stored so and none is
    /// missing.
    pub(super) fn as_they_lie(&self) -> Option<(&'a [u8], impl Iterator<Item = usize> + 'a)> {
        let Texts::Are(texts) = &self.texts else { return None };
        let offsets = texts.value_offsets();
        let from = *offsets.first()? as usize;
        let bytes = texts.value_data().get(from..*offsets.last()? as usize)?;
        self.nulls
            .is_none()
            .then(|| (bytes, offsets[1..].iter().map(move |end| *end as usize - from)))
    }

    /// The text of a row, empty where the value is missing; `memory` is to make it in.
    ///
    /// # Errors
    /// A value has no text.
    #[inline(always)]
    pub(super) fn text<'t>(
        &'t self,
        row: usize,
        memory: &'t mut String,
    ) -> Result<&'t str, ArrowError> {
        if self.nulls.is_some_and(|nulls| nulls.is_null(row)) {
            return Ok("");
        }
        match &self.texts {
            Texts::Are(texts) => Ok(texts.value(row)),
            Texts::Long(texts) => Ok(texts.value(row)),
            Texts::Views(texts) => Ok(texts.value(row)),
            other => other.write(row, memory),
        }
    }
}

impl Texts<'_> {
    /// Writes the text of a row.
    fn write<'t>(&self, row: usize, memory: &'t mut String) -> Result<&'t str, ArrowError> {
        memory.clear();
        let written = match self {
            Texts::Are(_) | Texts::Long(_) | Texts::Views(_) => Ok(()),
            // The shortest form that is exact, without an exponent.
            Texts::Short(numbers) => write!(memory, "{}", numbers.value(row)),
            Texts::Float(numbers) => write!(memory, "{}", numbers.value(row)),
            Texts::Formatted(values) => {
                values.value(row).write(memory).map_err(|_| std::fmt::Error)
            }
        };
        written.map_err(|_| {
            ArrowError::CastError(format!("row {}: a value that has no text", row + 1))
        })?;
        Ok(memory)
    }
}
