//! The cells of a sheet → its header and rows, kept as comma-separated text.
//!
//! A sheet is held in memory whole: its rows do not lie in their order in the file. Without
//! `--header-row` the header is the first row that is nearly as well filled as the best filled one
//! of those looked at. A cell that holds an error of the workbook (`#REF!`) makes its row
//! unreadable, which is reported when the row is read.

use std::collections::HashMap;
use std::ops::Range;

use crate::formats::csv::{Fields, Record, Typed, write_cell};
use crate::input::decompress::FOLD;
use crate::input::line_map::LineMap;
use crate::options::SheetOptions;

/// A cell as a person sees it.
#[derive(Debug, Default, Clone)]
pub(super) struct Shown {
    pub text: String,
    pub typed: Option<Typed>,
    /// It holds an error, such as `#N/A`, which is its text.
    pub is_error: bool,
}

impl Shown {
    pub(super) fn text(text: impl Into<String>) -> Self {
        Self { text: text.into(), ..Self::default() }
    }

    pub(super) fn typed(typed: Typed, text: String) -> Self {
        Self { text, typed: Some(typed), is_error: false }
    }

    /// Whether it is a number of more digits than a workbook keeps.
    fn is_long_number(&self) -> bool {
        self.typed == Some(Typed::Number)
            && self.text.trim_matches(['-', '0', '.']).bytes().filter(u8::is_ascii_digit).count()
                > 15
    }

    pub(super) fn error(text: String) -> Self {
        Self { text, typed: None, is_error: true }
    }
}

/// The rows of a sheet, from the one below the header on.
#[derive(Debug, Default)]
pub(crate) struct Sheet {
    /// The rows as comma-separated text, without line ends.
    bytes: Vec<u8>,
    /// Where each field ends, counted from its row's beginning.
    ends: Vec<u32>,
    /// The cells that are no text: column from 0, and what it holds.
    typed: Vec<(u32, Typed)>,
    rows: Vec<Row>,
    next: usize,
    /// The header as comma-separated text, and where its fields end.
    pub header: (Vec<u8>, Vec<u32>),
}

#[derive(Debug)]
struct Row {
    bytes: Range<usize>,
    fields: Range<usize>,
    typed: Range<usize>,
    /// Its number in the sheet, from 1.
    number: u64,
    problem: Option<Box<str>>,
}

impl Sheet {
    /// How many bytes it takes in memory.
    fn held(&self) -> usize {
        self.bytes.len() + self.ends.len() * size_of::<u32>() + self.rows.len() * size_of::<Row>()
    }

    pub(crate) fn peek(&self) -> Option<Record<'_>> {
        self.record(self.next)
    }

    pub(crate) fn next(&mut self) -> Option<Record<'_>> {
        self.next += 1;
        self.record(self.next - 1)
    }

    fn record(&self, n: usize) -> Option<Record<'_>> {
        let row = self.rows.get(n)?;
        Some(Record {
            raw: &self.bytes[row.bytes.clone()],
            line_end: b"\n",
            fields: Fields::new(&self.ends[row.fields.clone()], 0),
            line: row.number,
            unclosed: false,
            problem: row.problem.as_deref(),
            typed: &self.typed[row.typed.clone()],
        })
    }

    /// Takes the rows of another sheet too: its columns in this order, and a last cell for all of
    /// them where one is given. `places` is told how the rows are numbered from here on, and what
    /// the other sheet is called.
    pub(super) fn append(
        &mut self,
        other: &Sheet,
        order: &[usize],
        last_cell: Option<&str>,
        (places, called): (&LineMap, &str),
    ) {
        let before = self.rows.last().map_or(0, |row| row.number);
        let in_order = order.iter().copied().eq(0..order.len());
        for (row, record) in other.rows.iter().zip((0..).map_while(|n| other.record(n))) {
            let (bytes, fields, typed) = (self.bytes.len(), self.ends.len(), self.typed.len());
            // A row that is too long keeps what it has too much.
            let places_in_row = order.iter().copied().chain(order.len()..record.fields.len());
            for (n, place) in places_in_row.enumerate().take(record.fields.len()) {
                if n > 0 {
                    self.bytes.push(b',');
                }
                self.bytes.extend_from_slice(&record.raw[record.fields.at(place)]);
                self.ends.push((self.bytes.len() - bytes) as u32);
            }
            let placed = |column: u32| {
                order
                    .iter()
                    .position(|place| *place == column as usize)
                    .map_or(column, |n| n as u32)
            };
            self.typed.extend(
                record.typed.iter().map(|(column, typed)| {
                    (if in_order { *column } else { placed(*column) }, *typed)
                }),
            );
            if let Some(cell) = last_cell.filter(|_| record.fields.len() > 0) {
                self.bytes.push(b',');
                write_cell(cell, b',', &mut self.bytes);
                self.ends.push((self.bytes.len() - bytes) as u32);
            }
            self.rows.push(Row {
                bytes: bytes..self.bytes.len(),
                fields: fields..self.ends.len(),
                typed: typed..self.typed.len(),
                number: before + row.number,
                problem: row.problem.clone(),
            });
            places.push(before + row.number, called, row.number);
        }
    }

    /// Puts one more column after the others.
    pub(super) fn add_to_header(&mut self, name: &str) {
        let (bytes, ends) = &mut self.header;
        bytes.push(b',');
        write_cell(name, b',', bytes);
        ends.push(bytes.len() as u32);
    }

    fn push(
        &mut self,
        number: u64,
        cells: &[(u32, Shown)],
        columns: &Range<u32>,
        names: &[String],
    ) {
        let (bytes, fields, typed) = (self.bytes.len(), self.ends.len(), self.typed.len());
        let last = cells.last().map_or(0, |(column, _)| column + 1);
        let mut problem = None;
        // A row with nothing in it is a line with nothing in it.
        if !cells.is_empty() {
            let mut cells = cells.iter().filter(|(column, _)| *column >= columns.start).peekable();
            for column in columns.start..columns.end.max(last) {
                if column > columns.start {
                    self.bytes.push(b',');
                }
                if let Some((_, cell)) = cells.next_if(|(of, _)| *of == column) {
                    write_cell(&cell.text, b',', &mut self.bytes);
                    let place = column - columns.start;
                    self.typed.extend(cell.typed.map(|typed| (place, typed)));
                    if cell.is_error && problem.is_none() {
                        let name = names.get(place as usize).filter(|name| !name.is_empty());
                        let name =
                            name.map_or_else(|| format!("column {}", place + 1), String::clone);
                        problem = Some(
                            format!("the cell of {name} holds the error {}", cell.text).into(),
                        );
                    }
                }
                self.ends.push((self.bytes.len() - bytes) as u32);
            }
        }
        self.rows.push(Row {
            bytes: bytes..self.bytes.len(),
            fields: fields..self.ends.len(),
            typed: typed..self.typed.len(),
            number,
            problem,
        });
    }
}

/// How many rows are looked at to find the header.
const LOOKED_AT: usize = 50;

/// Takes the rows of a sheet one after the other.
pub(super) struct SheetBuilder {
    header_row: Option<u32>,
    no_header: bool,
    /// Rows kept back until it is clear which one is the header: number from 1, cells with their
    /// columns from 0.
    kept: Vec<(u64, Vec<(u32, Shown)>)>,
    kept_bytes: usize,
    begun: Option<Range<u32>>,
    names: Vec<String>,
    notices: Vec<String>,
    sheet: Sheet,
    last: u64,
    long_numbers: usize,
    /// How many bytes its workbook unpacks to.
    unpacked: u64,
    /// Why no more of it is read.
    refused: Option<&'static str>,
}

/// A sheet that was read.
pub(super) struct SheetRead {
    pub sheet: Sheet,
    /// The names of its columns.
    pub columns: Vec<String>,
    /// What is worth saying of it, one sentence each.
    pub notices: Vec<String>,
}

/// A sheet of more bytes in memory is held against what its workbook unpacks to.
const MUCH: usize = 256 * 1024 * 1024;
/// How many columns a sheet has (ECMA-376, part 1, section 18.3.1.73).
pub(super) const MOST_COLUMNS: u32 = 16_384;
/// The column of a cell that stands for more cells than are made of it.
pub(super) const TOO_MANY: u32 = u32::MAX;

/// What is refused.
const TOO_MUCH: &str = "would fill the memory: what stands in it is repeated too often, or a cell \
    stands far off to the right";
const TOO_WIDE: &str = "has a cell behind column XFD, where no sheet has one";

impl SheetBuilder {
    pub(super) fn new(options: &SheetOptions, unpacked: u64) -> Self {
        Self {
            header_row: options.header_row,
            no_header: options.no_header,
            kept: Vec::new(),
            kept_bytes: 0,
            begun: None,
            names: Vec::new(),
            notices: Vec::new(),
            sheet: Sheet::default(),
            last: 0,
            long_numbers: 0,
            unpacked,
            refused: None,
        }
    }

    /// Reads no more, for this reason.
    fn refuse(&mut self, reason: &'static str) {
        self.refused.get_or_insert(reason);
    }

    /// Takes a row: its number from 1, and its cells, in the order of their columns from 0; cells
    /// without text are left out.
    pub(super) fn row(&mut self, number: u64, cells: &[(u32, Shown)]) {
        match cells.last() {
            Some((TOO_MANY, _)) => self.refuse(TOO_MUCH),
            Some((MOST_COLUMNS.., _)) => self.refuse(TOO_WIDE),
            _ => {}
        }
        let held = self.sheet.held() + self.kept_bytes;
        if held > MUCH && held as u64 > FOLD * self.unpacked {
            self.refuse(TOO_MUCH);
        }
        if self.refused.is_some()
            || cells.is_empty()
            || self.header_row.is_some_and(|header| number < u64::from(header))
        {
            return;
        }
        self.long_numbers += cells.iter().filter(|(_, cell)| cell.is_long_number()).count();
        match &self.begun {
            Some(columns) => {
                let columns = columns.clone();
                self.push(number, cells, &columns);
            }
            None => {
                self.kept_bytes += cells
                    .iter()
                    .map(|(_, cell)| cell.text.len() + size_of::<Shown>())
                    .sum::<usize>();
                self.kept.push((number, cells.to_vec()));
                if self.kept.len() >= LOOKED_AT {
                    self.begin();
                }
            }
        }
    }

    /// Rows that were passed over on the way are lines with nothing in them.
    fn push(&mut self, number: u64, cells: &[(u32, Shown)], columns: &Range<u32>) {
        if columns.len() > 1 && self.last > 0 {
            // A gap of a million rows is a slip, and no reason to count a million lines.
            for empty in (self.last + 1..number).take(10_000) {
                self.sheet.push(empty, &[], columns, &self.names);
            }
        }
        self.last = number;
        self.sheet.push(number, cells, columns, &self.names);
    }

    /// Finds the header among the rows kept back: the first that is nearly as well filled as the
    /// best filled one.
    fn begin(&mut self) {
        let kept = std::mem::take(&mut self.kept);
        self.kept_bytes = 0;
        let most = kept.iter().map(|(_, cells)| cells.len()).max().unwrap_or(0);
        let found = match self.header_row {
            Some(_) => 0,
            None => kept.iter().position(|(_, cells)| cells.len() * 10 >= most * 7).unwrap_or(0),
        };
        let (number, header) = &kept[found];
        let columns = |cells: &[(u32, Shown)]| {
            cells.first().map_or(0, |(first, _)| *first)
                ..cells.last().map_or(0, |(last, _)| last + 1)
        };
        let mut range = columns(header);
        for (_, cells) in &kept[found..] {
            let of = columns(cells);
            range = range.start.min(of.start)..range.end.max(of.end);
        }
        let named: HashMap<u32, &str> =
            header.iter().map(|(column, cell)| (*column, cell.text.as_str())).collect();
        let name =
            |column: u32| named.get(&column).map_or(String::new(), |name| (*name).to_owned());
        if self.no_header {
            self.names = (1..=range.len()).map(|n| n.to_string()).collect();
        } else {
            self.names = range.clone().map(name).collect();
            if found > 0 {
                self.notices.push(format!(
                    "Row {number} was taken for the header; take another with --header-row N."
                ));
            }
        }
        let (mut bytes, mut ends) = (Vec::new(), Vec::new());
        for (n, name) in self.names.iter().enumerate() {
            if n > 0 {
                bytes.push(b',');
            }
            write_cell(name, b',', &mut bytes);
            ends.push(bytes.len() as u32);
        }
        self.sheet.header = (bytes, ends);
        self.begun = Some(range.clone());
        let first_row = if self.no_header { found } else { found + 1 };
        self.last = if self.no_header { 0 } else { *number };
        for (number, cells) in &kept[first_row..] {
            self.push(*number, cells, &range);
        }
    }

    /// What was read; `None` when there is nothing.
    ///
    /// # Errors
    /// Why it was not read, as a predicate.
    pub(super) fn finish(mut self) -> Result<Option<SheetRead>, &'static str> {
        if let Some(reason) = self.refused {
            return Err(reason);
        }
        if self.begun.is_none() {
            if self.kept.is_empty() {
                return Ok(None);
            }
            self.begin();
        }
        if self.long_numbers > 0 {
            let said = "numbers have more than 15 digits, which workbooks do not keep as numbers; \
                codes belong into cells of text.";
            self.notices.push(format!("{} {said}", self.long_numbers));
        }
        Ok(Some(SheetRead { sheet: self.sheet, columns: self.names, notices: self.notices }))
    }
}
