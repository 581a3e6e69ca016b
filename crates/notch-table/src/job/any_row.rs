//! Any row of a table at once, without the table in memory.
//!
//! Of a text file that is read in place, places are kept at which blocks of rows begin: some 24
//! bytes for each 64 KB. A row is then read with its block. What cannot be read from any place
//! (standard input, what is compressed, a workbook, a database) is copied once, as comma-separated
//! text with the line of each row before its cells, into a temporary file that goes away with the
//! last of its users.

use std::collections::VecDeque;
use std::fs::File;
use std::io::{BufWriter, Cursor, Read, Seek, SeekFrom, Write};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::{Arc, PoisonError, RwLock};

use crate::blocks::{BLOCK, Block, BlockOptions, Blocks, Contents, RowCursor, RowSource, each_row};
use crate::error::TableError;
use crate::formats::csv::write_cell;
use crate::input::line_map::Whereabouts;
use crate::input::source::Source;
use crate::options::{From, ReadOptions};
use crate::parts::Part;
use crate::table::Table;
use crate::unreadable::Unreadable;

/// How many bytes lie between two places that are kept, or somewhat more.
const BETWEEN: usize = 64 * 1024;

/// The number of blocks that are kept: the rows on a screen may all lie in different ones.
const KNOWN: usize = 64;

/// A row as it was read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RowThere {
    /// Its number, from 1, the header not counted.
    pub number: u64,
    /// The line it begins in, from 1.
    pub line: u64,
    /// Its cells, or why it cannot be read.
    pub cells: Result<Vec<String>, Unreadable>,
}

/// Where a block of rows begins.
#[derive(Debug, Clone, Copy)]
struct RowMark {
    row: u64,
    line: u64,
    byte: u64,
}

/// What is known so far of where rows lie.
#[derive(Default)]
struct RowMarks {
    marks: RwLock<Vec<RowMark>>,
    rows: AtomicU64,
    /// Where the last block that is known ends.
    end: AtomicU64,
    is_whole: AtomicBool,
}

/// Reads any row whose place is known.
pub struct AnyRow {
    file: Option<File>,
    marks: Arc<RowMarks>,
    name: String,
    columns: Vec<String>,
    places: Whereabouts,
    separator: u8,
    /// The line of a row stands before its cells: it is a copy.
    has_lines: bool,
    /// Where other passes read the same rows, and how.
    source: Source,
    read: ReadOptions,
    /// The blocks that were read last, the last one first.
    known: VecDeque<KnownBlock>,
}

/// The rows of a table for passes over all of them.
#[derive(Clone)]
pub struct AllRowsAgain {
    source: Source,
    read: ReadOptions,
    marks: Arc<RowMarks>,
    /// How many columns stand before those of the table.
    pub before: usize,
}

/// A block with its rows.
struct KnownBlock {
    /// The number of the first of them.
    first: u64,
    block: Block,
    contents: Contents,
}

/// Goes once through a table and keeps where its rows lie.
pub struct RowFinder {
    table: Table,
    marks: Arc<RowMarks>,
    copy: Option<File>,
    begin: u64,
}

impl AnyRow {
    /// Opens a table that can be read again, for its rows and for the pass that finds them.
    ///
    /// # Errors
    /// It cannot be opened, or there is no room for a copy.
    pub fn open(source: &Source, options: &ReadOptions) -> Result<(AnyRow, RowFinder), TableError> {
        let table = Table::open(source, options)?;
        let marks = Arc::<RowMarks>::default();
        let lies = table.begins_at().zip(source.file()?);
        let mut any_row = AnyRow {
            file: None,
            marks: Arc::clone(&marks),
            name: table.name().to_owned(),
            columns: table.columns().to_vec(),
            places: table.whereabouts(),
            separator: table.separator(),
            has_lines: false,
            source: source.clone(),
            read: options.clone(),
            known: VecDeque::new(),
        };
        let mut finder = RowFinder { table, marks, copy: None, begin: 0 };
        if let Some((begin, file)) = lies {
            (any_row.file, finder.begin) = (Some(file), begin);
            return Ok((any_row, finder));
        }
        let no_copy =
            |cause| TableError::io(&any_row.name, "cannot be copied to a temporary file", cause);
        let (file, path) = Part::temporary().map_err(no_copy)?;
        any_row.file = Some(File::open(&*path).map_err(no_copy)?);
        finder.copy = Some(file);
        any_row.source = Source::Copy { name: any_row.name.clone(), path: Arc::new(path) };
        any_row.read = ReadOptions {
            separator: Some(b','),
            no_header: true,
            from: Some(From::Text(Some(b','))),
            ..ReadOptions::default()
        };
        (any_row.separator, any_row.has_lines) = (b',', true);
        Ok((any_row, finder))
    }

    /// The same rows for another reader, at a place of its own.
    pub fn another(&self) -> AnyRow {
        AnyRow {
            file: self.source.file().ok().flatten(),
            marks: Arc::clone(&self.marks),
            name: self.name.clone(),
            columns: self.columns.clone(),
            places: self.places.clone(),
            separator: self.separator,
            has_lines: self.has_lines,
            source: self.source.clone(),
            read: self.read.clone(),
            known: VecDeque::new(),
        }
    }

    /// How many rows have been found so far.
    pub fn rows(&self) -> u64 {
        self.marks.rows.load(Ordering::Acquire)
    }

    /// Whether all rows have been found.
    pub fn is_whole(&self) -> bool {
        self.marks.is_whole.load(Ordering::Acquire)
    }

    /// The columns of the table.
    pub fn columns(&self) -> &[String] {
        &self.columns
    }

    /// Tells where lines stood, should the rows come of several files.
    pub fn places(&self) -> &Whereabouts {
        &self.places
    }

    /// The same rows, for passes over all of them.
    pub fn all(&self) -> AllRowsAgain {
        AllRowsAgain {
            source: self.source.clone(),
            read: self.read.clone(),
            marks: Arc::clone(&self.marks),
            before: usize::from(self.has_lines),
        }
    }

    /// The row of a number, from 1; `None` where there is none or it has not been found yet.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn row(&mut self, number: u64) -> Result<Option<RowThere>, TableError> {
        if number == 0 || number > self.rows() {
            return Ok(None);
        }
        let name = &self.name;
        let unreadable = |cause| TableError::io(name, "cannot be read", cause);
        let (mark, end) = {
            let marks = self.marks.marks.read().unwrap_or_else(PoisonError::into_inner);
            let next = marks.partition_point(|mark| mark.row <= number);
            let Some(mark) = next.checked_sub(1).map(|place| marks[place]) else { return Ok(None) };
            (mark, marks.get(next).map_or(self.marks.end.load(Ordering::Acquire), |next| next.byte))
        };
        if let Some(place) = self.known.iter().position(|block| block.first == mark.row) {
            // What was read last stands first.
            self.known.make_contiguous()[..=place].rotate_right(1);
            return Ok(self.row_of(&self.known[0], number));
        }
        let Some(file) = &mut self.file else { return Ok(None) };
        let mut bytes = Vec::new();
        file.seek(SeekFrom::Start(mark.byte)).map_err(unreadable)?;
        file.take(end.saturating_sub(mark.byte)).read_to_end(&mut bytes).map_err(unreadable)?;
        let options = BlockOptions {
            separator: self.separator,
            width: self.columns.len() + usize::from(self.has_lines),
            line: mark.line,
            rows_are_lines: self.has_lines,
            size: bytes.len() + 1,
        };
        let mut block = Block::default();
        let mut blocks = Blocks::new(RowSource::Text(Box::new(Cursor::new(bytes))), options);
        if !blocks.next(&mut block).map_err(unreadable)? {
            return Ok(None);
        }
        let contents = Contents::of(&mut block);
        self.known.truncate(KNOWN - 1);
        self.known.push_front(KnownBlock { first: mark.row, block, contents });
        Ok(self.row_of(&self.known[0], number))
    }

    /// The row of a number out of its block.
    fn row_of(&self, known: &KnownBlock, number: u64) -> Option<RowThere> {
        let own = usize::from(self.has_lines);
        let width = self.columns.len() + own;
        let text = &known.contents.text;
        let mut cursor = RowCursor::new(&known.block, known.contents.invalid.as_deref(), width);
        // In its block rows are counted from 1.
        let wanted = number - known.first + 1;
        loop {
            let (at, readable) = cursor.next(text)?;
            if at.number != wanted {
                continue;
            }
            let cell = |column: usize| cursor.cell(at.place, column, text).into_owned();
            let line = match self.has_lines {
                true => cell(0).parse().unwrap_or_default(),
                false => at.line,
            };
            let cells = readable.map(|()| (own..width).map(cell).collect());
            return Some(RowThere { number, line, cells });
        }
    }
}

impl AllRowsAgain {
    /// Opens the rows for a pass over all of them; `None` where there are none, or where they are
    /// a copy that is not whole yet.
    ///
    /// # Errors
    /// The source cannot be opened.
    pub fn open(&self) -> Result<Option<Table>, TableError> {
        let is_whole = self.marks.is_whole.load(Ordering::Acquire);
        let is_empty = self.marks.rows.load(Ordering::Acquire) == 0;
        if self.before > 0 && !is_whole || is_whole && is_empty {
            return Ok(None);
        }
        Table::open(&self.source, &self.read).map(Some)
    }

    /// Whether a pass must wait until all rows were found: they are a copy that is not whole yet.
    pub fn must_wait(&self) -> bool {
        self.before > 0 && !self.marks.is_whole.load(Ordering::Acquire)
    }

    /// How many bytes the rows have that were found so far.
    pub fn bytes(&self) -> u64 {
        self.marks.end.load(Ordering::Acquire)
    }
}

impl RowFinder {
    /// Finds all rows.
    ///
    /// # Errors
    /// The table cannot be read, or there is no room for the copy; it was interrupted.
    pub fn run(self, interrupt: &AtomicBool) -> Result<(), TableError> {
        let marks = Arc::clone(&self.marks);
        match self.copy {
            None => Self::find(self.table, &marks, self.begin, interrupt)?,
            Some(copy) => Self::copy(self.table, &marks, copy, interrupt)?,
        }
        marks.is_whole.store(true, Ordering::Release);
        Ok(())
    }

    /// Keeps where the blocks of a file begin.
    fn find(
        table: Table,
        marks: &RowMarks,
        begin: u64,
        interrupt: &AtomicBool,
    ) -> Result<(), TableError> {
        let name = table.name().to_owned();
        let (mut blocks, mut block, mut byte) =
            (table.into_blocks(BETWEEN), Block::default(), begin);
        while blocks
            .next(&mut block)
            .map_err(|cause| TableError::io(&name, "cannot be read", cause))?
        {
            if interrupt.load(Ordering::Relaxed) {
                return Err(TableError::Interrupted);
            }
            let rows = block.index.len() as u64 - block.empty;
            let mark = RowMark { row: block.row, line: block.line, byte };
            byte += block.len() as u64;
            marks.found((rows > 0).then_some(mark), block.row + rows - 1, byte);
        }
        Ok(())
    }

    /// Copies the rows, and keeps where blocks of them begin.
    fn copy(
        table: Table,
        marks: &RowMarks,
        copy: File,
        interrupt: &AtomicBool,
    ) -> Result<(), TableError> {
        let (name, width) = (table.name().to_owned(), table.columns().len());
        let no_copy = |cause| TableError::io(&name, "cannot be copied to a temporary file", cause);
        let mut out = BufWriter::with_capacity(BETWEEN, copy);
        let (mut record, mut byte, mut rows) = (Vec::new(), 0, 0);
        let mut mark = RowMark { row: 1, line: 1, byte: 0 };
        each_row(table.into_blocks(BLOCK), &name, width, |at, cursor, text, readable| {
            if interrupt.load(Ordering::Relaxed) {
                return Err(TableError::Interrupted);
            }
            record.clear();
            record.extend_from_slice(at.line.to_string().as_bytes());
            // A row that cannot be read has too few fields in the copy as well.
            if readable.is_ok() {
                for column in 0..width {
                    record.push(b',');
                    write_cell(&cursor.cell(at.place, column, text), b',', &mut record);
                }
            }
            record.push(b'\n');
            out.write_all(&record).map_err(no_copy)?;
            (byte, rows) = (byte + record.len() as u64, at.number);
            if byte - mark.byte >= BETWEEN as u64 {
                out.flush().map_err(no_copy)?;
                marks.found(Some(mark), rows, byte);
                mark = RowMark { row: rows + 1, line: rows + 1, byte };
            }
            Ok(())
        })?;
        out.flush().map_err(no_copy)?;
        marks.found((byte > mark.byte).then_some(mark), rows, byte);
        Ok(())
    }
}

impl RowMarks {
    /// Takes a further block: its mark, the number of rows up to its end, the byte it ends at.
    fn found(&self, mark: Option<RowMark>, rows: u64, end: u64) {
        self.marks.write().unwrap_or_else(PoisonError::into_inner).extend(mark);
        self.end.store(end, Ordering::Release);
        self.rows.store(rows, Ordering::Release);
    }
}

#[cfg(test)]
mod tests {
    use std::io::Write as _;

    use super::*;
    use crate::job::each_row_of;

    /// Rows of all lengths, some over several lines, some that cannot be read; read in any order,
    /// from the file itself and from a copy, they are those of one pass.
    #[test]
    fn any_row_is_the_one_of_a_pass() {
        let folder = tempfile::tempdir().unwrap();
        let mut text = String::from("\u{feff}lot,note\n");
        for n in 0..4000usize {
            match n % 97 {
                0 => text.push('\n'),
                1 => text.push_str("too few\n"),
                n => text.push_str(&format!("GR-{n},\"{}\n\"\"{n}\"\"\"\r\n", "é".repeat(n))),
            }
        }
        let plain = folder.path().join("t.csv");
        std::fs::write(&plain, &text).unwrap();
        let packed = folder.path().join("t.csv.gz");
        let mut out = flate2::write::GzEncoder::new(
            File::create(&packed).unwrap(),
            flate2::Compression::fast(),
        );
        out.write_all(text.as_bytes()).unwrap();
        out.finish().unwrap();
        for path in [plain, packed] {
            let (source, options) = (Source::File(path), ReadOptions::default());
            let mut wanted = Vec::new();
            each_row_of(Table::open(&source, &options).unwrap(), &[0, 1], |number, line, cells| {
                let cells = cells
                    .ok()
                    .map(|cells| cells.iter().map(|cell| cell.to_string()).collect::<Vec<_>>());
                wanted.push((number, line, cells));
                Ok(())
            })
            .unwrap();
            let (mut rows, finder) = AnyRow::open(&source, &options).unwrap();
            assert_eq!((rows.rows(), rows.row(1).unwrap()), (0, None));
            finder.run(&AtomicBool::new(false)).unwrap();
            assert_eq!((rows.rows(), rows.is_whole()), (wanted.len() as u64, true));
            for n in (0..wanted.len()).step_by(11) {
                let (number, line, cells) = &wanted[n * 1009 % wanted.len()];
                let row = rows.row(*number).unwrap().unwrap();
                assert_eq!((row.number, row.line, row.cells.ok()), (*number, *line, cells.clone()));
            }
            assert_eq!(rows.row(wanted.len() as u64 + 1).unwrap(), None);
            assert!(matches!(
                AnyRow::open(&source, &options).unwrap().1.run(&AtomicBool::new(true)),
                Err(TableError::Interrupted)
            ));
        }
    }
}
