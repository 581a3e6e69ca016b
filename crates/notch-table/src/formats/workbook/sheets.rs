//! Which sheets of a workbook are read, and several of them as one: columns matched by name, one
//! sheet's rows after the other's.

use glob::Pattern;

use super::sheet::{Sheet, SheetBuilder, SheetRead};
use super::{Book, BookProblem, Opened};
use crate::cells::matching;
use crate::error::TableError;
use crate::input::line_map::LineMap;
use crate::options::SheetOptions;

/// A sheet of a workbook.
pub(super) struct Listed {
    pub name: String,
    pub is_visible: bool,
    /// Something stands in it.
    pub is_filled: bool,
}

/// Whether a name stands for all sheets that fit it; no sheet of an XLSX workbook can have such a
/// name.
pub(super) fn is_pattern(name: &str) -> bool {
    name.contains(['*', '?'])
}

/// The names of the sheets that are read, in the order in which they are asked for, each once; then
/// those of the other visible sheets with something in them. A pattern stands for the visible
/// sheets with something in them, in the order of the workbook.
pub(super) fn chosen(
    options: &SheetOptions,
    sheets: &[Listed],
) -> Result<(Vec<String>, Vec<String>), BookProblem> {
    let mut taken: Vec<&Listed> = Vec::new();
    let missing = |wanted: Option<&String>| BookProblem::NoSheet {
        wanted: wanted.cloned(),
        there: sheets.iter().map(|sheet| sheet.name.clone()).collect(),
    };
    for wanted in &options.names {
        let named = sheets.iter().find(|sheet| sheet.name == *wanted);
        let pattern = Pattern::new(wanted).ok().filter(|_| named.is_none() && is_pattern(wanted));
        let matches = |sheet: &&Listed| {
            pattern.as_ref().is_some_and(|like| {
                sheet.is_visible && sheet.is_filled && like.matches(&sheet.name)
            })
        };
        let found: Vec<&Listed> = named.into_iter().chain(sheets.iter().filter(matches)).collect();
        if found.is_empty() {
            return Err(missing(Some(wanted)));
        }
        for sheet in found {
            if !taken.iter().any(|known| known.name == sheet.name) {
                taken.push(sheet);
            }
        }
    }
    if options.names.is_empty() {
        taken.push(sheets.iter().find(|sheet| sheet.is_visible).ok_or_else(|| missing(None))?);
    }
    let is_other = |sheet: &&Listed| {
        sheet.is_visible && sheet.is_filled && !taken.iter().any(|known| known.name == sheet.name)
    };
    let others = sheets.iter().filter(is_other).map(|sheet| sheet.name.clone()).collect();
    Ok((taken.into_iter().map(|sheet| sheet.name.clone()).collect(), others))
}

/// What was read of a sheet of a workbook; `has_others` says whether that has other sheets.
///
/// # Errors
/// It has nothing in it, or more than can be read.
fn finished(
    builder: SheetBuilder,
    (name, sheet): (&str, &str),
    has_others: bool,
) -> Result<SheetRead, TableError> {
    let read = builder.finish().map_err(|reason| {
        let problem = format!("cannot be read: its sheet {sheet} {reason}.");
        let remedy = "Open it in the program that made it and save the table as CSV.";
        TableError::no_table(name, problem, remedy)
    })?;
    read.ok_or_else(|| {
        let remedy = match has_others {
            false => "A table has a header and rows below it.",
            true => "Name another of its sheets: --sheet NAME.",
        };
        TableError::no_table(name, format!("has nothing in the sheet {sheet}."), remedy)
    })
}

/// The sheets that were read of the workbook `name` as one.
///
/// # Errors
/// One has nothing in it, or other columns than the first.
pub(super) fn joined(book: Book, name: &str, options: &SheetOptions) -> Result<Opened, TableError> {
    let Book { taken, others } = book;
    let (several, by_default) = (taken.len() > 1, options.names.is_empty());
    let first = taken.first().map(|(sheet, _)| sheet.clone()).unwrap_or_default();
    let mut notices = Vec::new();
    if !others.is_empty() && by_default {
        notices.push(format!(
            "The sheet {first} was taken; there are also {}. Take another with --sheet NAME, or \
            all with --sheet '*'.",
            others.join(", ")
        ));
    }
    if several {
        let names: Vec<&str> = taken.iter().map(|(sheet, _)| sheet.as_str()).collect();
        notices.push(format!(
            "{name}: {} sheets are read as one table: {}.",
            names.len(),
            names.join(", ")
        ));
    }
    let mut all = Sheet::default();
    let mut columns: Vec<String> = Vec::new();
    let places = LineMap::default();
    for (sheet, builder) in taken {
        let SheetRead { sheet: read, columns: names, notices: said } =
            finished(builder, (name, &sheet), !others.is_empty())?;
        let names: Vec<String> = names.iter().map(|name| name.trim().to_owned()).collect();
        notices.extend(
            said.into_iter()
                .map(|said| if several { format!("Sheet {sheet}: {said}") } else { said }),
        );
        if sheet == first {
            (all.header, columns) = (read.header.clone(), names.clone());
        }
        if !several && options.column.is_none() {
            all = read;
            break;
        }
        let order = matching(columns.iter().map(String::as_str), &names).map_err(|said| {
            let problem =
                format!("has other columns in the sheet {sheet} than in {first}: {said}.");
            TableError::no_table(
                name,
                problem,
                "Sheets that are read together have one header, in any order. Name those that do: \
                --sheet NAME.",
            )
        })?;
        all.append(
            &read,
            &order,
            options.column.as_ref().map(|_| sheet.as_str()),
            (&places, &format!("{name}, sheet {sheet}")),
        );
    }
    if let Some(column) = &options.column {
        if columns.contains(column) {
            let remedy = "Call the column of sheet names otherwise: --sheet-column.";
            return Err(TableError::no_table(
                name,
                format!("has a column {column} already."),
                remedy,
            ));
        }
        all.add_to_header(column);
        columns.push(column.clone());
    }
    Ok(Opened { sheet: all, columns, notices, places: several.then_some(places), others })
}
