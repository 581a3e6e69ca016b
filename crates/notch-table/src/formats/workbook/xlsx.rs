//! Sheets of XLSX workbooks.

use std::fs::File;
use std::io::BufReader;

use calamine::{DataRef, Reader, SheetType, SheetVisible, Xlsx, XlsxError};

use super::sheet::{SheetBuilder, Shown};
use super::sheets::{Listed, chosen};
use super::{Book, BookProblem, shown};
use crate::formats::csv::Typed;
use crate::options::SheetOptions;

impl From<XlsxError> for BookProblem {
    fn from(cause: XlsxError) -> Self {
        match cause {
            XlsxError::Password => BookProblem::Password,
            cause => BookProblem::broken(cause),
        }
    }
}

/// Reads the sheets that are asked for.
pub(super) fn read(file: File, options: &SheetOptions, unpacked: u64) -> Result<Book, BookProblem> {
    let mut book: Xlsx<_> = Xlsx::new(BufReader::new(file))?;
    let mut sheets: Vec<Listed> = book
        .sheets_metadata()
        .iter()
        .filter(|sheet| sheet.typ == SheetType::WorkSheet)
        .map(|sheet| Listed {
            name: sheet.name.clone(),
            is_visible: sheet.visible == SheetVisible::Visible,
            is_filled: false,
        })
        .collect();
    for sheet in &mut sheets {
        sheet.is_filled = book.worksheet_cells_reader(&sheet.name).is_ok_and(|mut cells| {
            std::iter::from_fn(|| cells.next_cell().ok().flatten())
                .any(|cell| !matches!(cell.get_value(), DataRef::Empty))
        });
    }
    let (names, others) = chosen(options, &sheets)?;
    let mut taken = Vec::new();
    for name in names {
        let mut builder = SheetBuilder::new(options, unpacked);
        read_rows(&mut book, &name, &mut builder)?;
        taken.push((name, builder));
    }
    Ok(Book { taken, others })
}

/// Passes the rows of a sheet to its builder.
fn read_rows(
    book: &mut Xlsx<BufReader<File>>,
    sheet: &str,
    builder: &mut SheetBuilder,
) -> Result<(), BookProblem> {
    let mut cells = book.worksheet_cells_reader(sheet)?;
    let formats: Vec<Option<String>> = cells
        .styles()
        .iter()
        .map(|style| style.number_format.as_ref().map(|format| format.format_code.clone()))
        .collect();
    let mut row: (u32, Vec<(u32, Shown)>) = (0, Vec::new());
    while let Some((cell, style)) = cells.next_cell_with_style_id()? {
        let (at, column) = cell.get_position();
        if at != row.0 {
            builder.row(u64::from(row.0) + 1, &row.1);
            row.1.clear();
            row.0 = at;
        }
        let format = formats.get(style).and_then(Option::as_deref);
        row.1.extend(seen(cell.get_value(), format).map(|cell| (column, cell)));
    }
    builder.row(u64::from(row.0) + 1, &row.1);
    Ok(())
}

/// A cell as a person sees it; nothing for a blank one.
fn seen(value: &DataRef<'_>, format: Option<&str>) -> Option<Shown> {
    let number = |value: f64| match format.and_then(|format| shown::coded(value, format)) {
        Some(code) => Shown::text(code),
        None => Shown::typed(Typed::Number, shown::number(value)),
    };
    let cell = match value {
        DataRef::Empty => return None,
        DataRef::Int(value) => {
            match format.and_then(|format| shown::coded(*value as f64, format)) {
                Some(code) => Shown::text(code),
                None => Shown::typed(Typed::Number, value.to_string()),
            }
        }
        DataRef::Float(value) => number(*value),
        DataRef::String(text) => Shown::text(text.clone()),
        DataRef::SharedString(text) => Shown::text(*text),
        DataRef::Bool(value) => {
            Shown::typed(Typed::Bool, if *value { "TRUE" } else { "FALSE" }.to_owned())
        }
        DataRef::DateTime(value) if value.is_duration() => {
            Shown::text(shown::duration(value.as_f64()))
        }
        DataRef::DateTime(value) => {
            Shown::typed(Typed::Date, shown::date(value.to_ymd_hms_milli(), value.as_f64()))
        }
        DataRef::DateTimeIso(text) => Shown::typed(Typed::Date, text.clone()),
        DataRef::DurationIso(text) => Shown::text(text.clone()),
        DataRef::Error(error) => Shown::error(error.to_string()),
    };
    (!cell.text.is_empty()).then_some(cell)
}
