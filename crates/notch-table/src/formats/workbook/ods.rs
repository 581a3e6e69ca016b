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
    // Which sheets there are and have something in them is known only when all have been read.
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
    let (mut buffer, mut sheets) = (Vec::new(), Sheets::default());
    loop {
        buffer.clear();
        match reader.read_event_into(&mut buffer).map_err(BookProblem::broken)? {
            Event::Start(element) => sheets.begin(&element)?,
            Event::Text(text) => {
                if let Some(cell) = sheets.open_paragraph() {
                    cell.text.push_str(&text.xml_content(quick_xml::XmlVersion::default()));
                }
            }
            Event::GeneralRef(reference) => {
                let Some(cell) = sheets.open_paragraph() else { continue };
                if let Some(c) = reference.resolve_char_ref().map_err(BookProblem::broken)? {
                    cell.text.push(c);
                } else if let Some(text) = quick_xml::escape::resolve_predefined_entity(&reference)
                {
                    cell.text.push_str(text);
                }
            }
            Event::End(element) => sheets.end(local(element.name().as_ref()), &mut work)?,
            Event::Eof => return Ok(sheets.all),
            _ => {}
        }
    }
}

/// The sheets that have been read, and what is open of the current one.
#[derive(Default)]
struct Sheets {
    /// The name of each, and whether anything is in it.
    all: Vec<(String, bool)>,
    /// How many rows of the sheet were before this one.
    row: u64,
    /// How many columns of the row were before this cell.
    column: u32,
    /// How many equal rows this one stands for.
    repeated: u32,
    cells: Vec<(u32, Shown)>,
    cell: Option<OpenCell>,
    /// How many comments and drawings are open: text in them is not the cell's.
    aside: usize,
}

impl Sheets {
    /// The cell whose text comes.
    fn open_paragraph(&mut self) -> Option<&mut OpenCell> {
        let is_aside = self.aside > 0;
        self.cell.as_mut().filter(|cell| !is_aside && cell.paragraphs > 0)
    }

    fn begin(&mut self, element: &BytesStart<'_>) -> Result<(), BookProblem> {
        let cell = self.cell.as_mut().filter(|_| self.aside == 0);
        match (local(element.name().as_ref()), cell) {
            ("table", _) => {
                self.all.push((attribute(element, "table:name")?.unwrap_or_default(), false));
                self.row = 0;
            }
            ("table-row", _) => {
                self.column = 0;
                self.repeated = repeats(element, "table:number-rows-repeated")?;
                self.cells.clear();
            }
            ("table-cell" | "covered-table-cell", _) => {
                self.cell = Some(OpenCell::begin(element)?);
            }
            ("annotation" | "frame" | "shapes", _) => self.aside += 1,
            ("p", Some(cell)) => cell.paragraph(),
            ("s", Some(cell)) => {
                let blanks = attribute(element, "text:c")?
                    .and_then(|count| count.parse().ok())
                    .unwrap_or(1_usize);
                cell.text.push_str(&" ".repeat(blanks.min(10_000)));
            }
            ("tab", Some(cell)) => cell.text.push('\t'),
            ("line-break", Some(cell)) => cell.text.push('\n'),
            _ => {}
        }
        Ok(())
    }

    fn end(
        &mut self,
        name: &str,
        work: &mut impl FnMut(&str, RowCells<'_>) -> Result<(), BookProblem>,
    ) -> Result<(), BookProblem> {
        match name {
            "annotation" | "frame" | "shapes" => self.aside = self.aside.saturating_sub(1),
            "table-cell" | "covered-table-cell" => {
                let Some(open) = self.cell.take() else { return Ok(()) };
                let (column, repeated) = (self.column, open.repeated);
                self.column = column.saturating_add(repeated);
                let Some(shown) = open.finish() else { return Ok(()) };
                // One beyond the last column says that there are too many.
                let room = MOST_TEXT / shown.text.len().max(1);
                let most = (MOST_COLUMNS + 1).saturating_sub(column).min(repeated);
                match usize::try_from(most).is_ok_and(|most| most <= room) {
                    true => self.cells.extend((0..most).map(|n| (column + n, shown.clone()))),
                    false => self.cells.push((TOO_MANY, Shown::default())),
                }
            }
            "table-row" => {
                if let Some(sheet) = self.all.last_mut().filter(|_| !self.cells.is_empty()) {
                    sheet.1 = true;
                    for n in 0..u64::from(self.repeated) {
                        work(&sheet.0, Some((self.row + n + 1, &self.cells)))?;
                    }
                }
                self.row += u64::from(self.repeated);
            }
            _ => {}
        }
        Ok(())
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

/// A cell whose text is being read.
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
