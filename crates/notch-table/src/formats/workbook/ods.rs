//! Sheets of ODS workbooks (OASIS OpenDocument 1.3, part 3, section 9), read with the text each
//! cell shows.

use std::fs::File;
use std::io::{BufReader, Read};

use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use zip::ZipArchive;

use super::sheet::{MOST_COLUMNS, SheetBuilder, Shown, TOO_MANY};
use super::sheets::{Listed, chosen};
use super::{Book, BookProblem, shown};
use crate::formats::csv::Typed;
use crate::options::SheetOptions;

/// How many bytes equal cells of a row may have together.
const MOST_TEXT: usize = 64 * 1024 * 1024;
/// A row or cell may stand for many equal ones; those with something in them are never this many.
const MOST_REPEATED: u32 = 1_048_576;

/// Reads the sheets that are asked for.
pub(super) fn read(
    archive: &mut ZipArchive<&mut File>,
    options: &SheetOptions,
    unpacked: u64,
) -> Result<Book, BookProblem> {
    let mut manifest = String::new();
    if let Ok(mut part) = archive.by_name("META-INF/manifest.xml")
        && part.read_to_string(&mut manifest).is_ok()
        && manifest.contains("encryption-data")
    {
        return Err(BookProblem::Password);
    }
    // Which sheets there are and have something in them is known only when all have gone by.
    let sheets = each_table(archive, |_, _| Ok(()))?;
    let sheets: Vec<Listed> = sheets
        .into_iter()
        .map(|(name, is_filled)| Listed { name, is_visible: true, is_filled })
        .collect();
    let (names, others) = chosen(options, &sheets)?;
    let mut taken: Vec<(String, SheetBuilder)> =
        names.into_iter().map(|name| (name, SheetBuilder::new(options, unpacked))).collect();
    each_table(archive, |sheet, row| {
        if let Some((_, builder)) = taken.iter_mut().find(|(name, _)| name == sheet)
            && let Some((number, cells)) = row
        {
            builder.row(number, cells);
        }
        Ok(())
    })?;
    Ok(Book { taken, others })
}

/// A row's number from 1 and its cells, with their columns from 0.
type RowCells<'c> = Option<(u64, &'c [(u32, Shown)])>;

/// Goes through all sheets; returns their names, and whether they have anything in them.
fn each_table(
    archive: &mut ZipArchive<&mut File>,
    mut work: impl FnMut(&str, RowCells<'_>) -> Result<(), BookProblem>,
) -> Result<Vec<(String, bool)>, BookProblem> {
    let part = archive.by_name("content.xml").map_err(BookProblem::broken)?;
    let mut reader = Reader::from_reader(BufReader::new(part));
    reader.config_mut().expand_empty_elements = true;
    let mut buffer = Vec::new();
    let mut sheets: Vec<(String, bool)> = Vec::new();
    let (mut row, mut column, mut repeated_row) = (0_u64, 0_u32, 1_u32);
    let mut cells: Vec<(u32, Shown)> = Vec::new();
    let mut cell: Option<OpenCell> = None;
    // Inside a comment or a drawing, text is not the cell's.
    let mut aside = 0_usize;
    loop {
        buffer.clear();
        match reader.read_event_into(&mut buffer).map_err(BookProblem::broken)? {
            Event::Start(element) => match local(element.name().as_ref()) {
                "table" => {
                    sheets.push((attribute(&element, "table:name")?.unwrap_or_default(), false));
                    row = 0;
                }
                "table-row" => {
                    (column, repeated_row) = (0, repeats(&element, "table:number-rows-repeated")?);
                    cells.clear();
                }
                "table-cell" | "covered-table-cell" => cell = Some(OpenCell::begin(&element)?),
                "annotation" | "frame" | "shapes" => aside += 1,
                "p" if aside == 0 => cell.iter_mut().for_each(OpenCell::paragraph),
                "s" if aside == 0 => {
                    let blanks = attribute(&element, "text:c")?
                        .and_then(|count| count.parse().ok())
                        .unwrap_or(1_usize);
                    cell.iter_mut()
                        .for_each(|cell| cell.text.push_str(&" ".repeat(blanks.min(10_000))));
                }
                "tab" if aside == 0 => cell.iter_mut().for_each(|cell| cell.text.push('\t')),
                "line-break" if aside == 0 => cell.iter_mut().for_each(|cell| cell.text.push('\n')),
                _ => {}
            },
            Event::Text(text) if aside == 0 => {
                if let Some(cell) = cell.as_mut().filter(|cell| cell.paragraphs > 0) {
                    cell.text.push_str(&text.xml_content(quick_xml::XmlVersion::default()));
                }
            }
            Event::GeneralRef(reference) if aside == 0 => {
                let Some(cell) = cell.as_mut().filter(|cell| cell.paragraphs > 0) else { continue };
                if let Some(c) = reference.resolve_char_ref().map_err(BookProblem::broken)? {
                    cell.text.push(c);
                } else if let Some(text) = quick_xml::escape::resolve_predefined_entity(&reference)
                {
                    cell.text.push_str(text);
                }
            }
            Event::End(element) => match local(element.name().as_ref()) {
                "annotation" | "frame" | "shapes" => aside = aside.saturating_sub(1),
                "table-cell" | "covered-table-cell" => {
                    let Some(open) = cell.take() else { continue };
                    let repeated = open.repeated;
                    if let Some(shown) = open.finish() {
                        // One beyond the last column says that there are too many.
                        let room = MOST_TEXT / shown.text.len().max(1);
                        let most = (MOST_COLUMNS + 1).saturating_sub(column).min(repeated);
                        match usize::try_from(most).is_ok_and(|most| most <= room) {
                            true => cells.extend((0..most).map(|n| (column + n, shown.clone()))),
                            false => cells.push((TOO_MANY, Shown::default())),
                        }
                    }
                    column = column.saturating_add(repeated);
                }
                "table-row" => {
                    if let Some(sheet) = sheets.last_mut().filter(|_| !cells.is_empty()) {
                        sheet.1 = true;
                        for n in 0..u64::from(repeated_row) {
                            work(&sheet.0, Some((row + n + 1, &cells)))?;
                        }
                    }
                    row += u64::from(repeated_row);
                }
                _ => {}
            },
            Event::Eof => return Ok(sheets),
            _ => {}
        }
    }
}

/// An element's name without its namespace.
fn local(name: &str) -> &str {
    name.rsplit(':').next().unwrap_or(name)
}

fn attribute(element: &BytesStart<'_>, name: &str) -> Result<Option<String>, BookProblem> {
    let found = element.try_get_attribute(name).map_err(BookProblem::broken)?;
    found
        .map(|found| {
            found
                .normalized_value(quick_xml::XmlVersion::default())
                .map(|value| value.into_owned())
                .map_err(BookProblem::broken)
        })
        .transpose()
}

fn repeats(element: &BytesStart<'_>, name: &str) -> Result<u32, BookProblem> {
    Ok(attribute(element, name)?
        .and_then(|count| count.parse().ok())
        .unwrap_or(1)
        .min(MOST_REPEATED))
}

/// A cell while its text goes by.
struct OpenCell {
    repeated: u32,
    kind: String,
    /// The value in the attribute that its kind has.
    value: Option<String>,
    is_error: bool,
    text: String,
    paragraphs: usize,
}

impl OpenCell {
    fn begin(element: &BytesStart<'_>) -> Result<Self, BookProblem> {
        let kind = attribute(element, "office:value-type")?.unwrap_or_default();
        let named = match kind.as_str() {
            "date" => "office:date-value",
            "time" => "office:time-value",
            "boolean" => "office:boolean-value",
            "string" => "office:string-value",
            _ => "office:value",
        };
        Ok(Self {
            repeated: repeats(element, "table:number-columns-repeated")?,
            value: attribute(element, named)?,
            is_error: attribute(element, "calcext:value-type")?.as_deref() == Some("error"),
            kind,
            text: String::new(),
            paragraphs: 0,
        })
    }

    fn paragraph(&mut self) {
        self.paragraphs += 1;
        if self.paragraphs > 1 {
            self.text.push('\n');
        }
    }

    /// The cell as a person sees it; nothing for a blank one.
    fn finish(self) -> Option<Shown> {
        let value = self.value.as_deref().unwrap_or_default();
        let cell = match self.kind.as_str() {
            _ if self.is_error => Shown::error(self.text),
            "float" | "percentage" | "currency" => match value.parse::<f64>() {
                // A truth value that was computed comes as a number with a name.
                Ok(_) if matches!(self.text.as_str(), "TRUE" | "FALSE") => {
                    Shown::typed(Typed::Bool, self.text)
                }
                Ok(number) if shown::shown_code(number, &self.text) => Shown::text(self.text),
                Ok(number) => Shown::typed(Typed::Number, shown::number(number)),
                Err(_) => Shown::text(self.text),
            },
            "date" => Shown::typed(
                Typed::Date,
                value.strip_suffix("T00:00:00").unwrap_or(value).to_owned(),
            ),
            "time" => Shown::text(time(value).unwrap_or(self.text)),
            "boolean" => Shown::typed(Typed::Bool, value.to_uppercase()),
            "string" if self.paragraphs == 0 => Shown::text(value),
            _ => Shown::text(self.text),
        };
        (!cell.text.is_empty()).then_some(cell)
    }
}

/// A length of time such as `PT14H30M00S` as `14:30:00`.
fn time(value: &str) -> Option<String> {
    let (hours, rest) = value.strip_prefix("PT")?.split_once('H')?;
    let (minutes, rest) = rest.split_once('M')?;
    let seconds = rest.strip_suffix('S')?;
    let seconds = seconds.split(['.', ',']).next()?;
    Some(format!(
        "{:02}:{:02}:{:02}",
        hours.parse::<u32>().ok()?,
        minutes.parse::<u32>().ok()?,
        seconds.parse::<u32>().ok()?
    ))
}
