//! Rows that are in memory, as a table that SQLite reads: one statement copies all of them (SQLite,
//! The Virtual Table Mechanism).
//!
//! Cells that were bound to a statement of one row took 7,300 instructions a row of eleven cells,
//! so copied they take 5,000.
#![allow(
    unsafe_code,
    reason = "SQLite must be able to take its tables and cursors for structs of C"
)]

use std::borrow::Cow;
use std::ffi::CStr;
use std::fmt::Write;
use std::marker::PhantomData;
use std::ops::Range;
use std::os::raw::c_int;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use rusqlite::vtab::{
    Context, CreateVTab, Filters, IndexInfo, Module, VTab, VTabConnection, VTabCursor, VTabKind,
    sqlite3_vtab, sqlite3_vtab_cursor,
};
use rusqlite::{Connection, Result};

use crate::cells::OutputColumns;

/// What the table is called in SQL.
pub(super) const NAME: &str = "temp.rows_at_hand";
const MODULE: Module<'_, Table> = Module::read_only_module();

/// Rows that SQLite reads while a statement runs.
#[derive(Clone, Default)]
pub(super) struct RowsAtHand(Arc<Mutex<AtHand>>);

#[derive(Default)]
struct AtHand {
    rows: OutputColumns,
    /// Which of them are to be read.
    range: Range<usize>,
    /// For each column whether it holds truth values; empty only while a cursor has the rows.
    are_truths: Vec<bool>,
}

impl RowsAtHand {
    /// Makes the table; `are_truths` says for each of its columns whether it holds truth values.
    pub(super) fn make(database: &Connection, are_truths: Vec<bool>) -> Result<Self> {
        let rows = Self::default();
        rows.lock().are_truths = are_truths;
        database.create_module(c"rows_at_hand", &MODULE, Some(rows.clone()))?;
        database.execute_batch(&format!("CREATE VIRTUAL TABLE {NAME} USING rows_at_hand"))?;
        Ok(rows)
    }

    /// Does something while the table holds some of these rows.
    pub(super) fn holding<T>(
        &self,
        rows: &mut OutputColumns,
        range: Range<usize>,
        act: impl FnOnce() -> T,
    ) -> T {
        let swap = |rows: &mut OutputColumns, range| {
            let mut at_hand = self.lock();
            std::mem::swap(&mut at_hand.rows, rows);
            at_hand.range = range;
        };
        swap(rows, range);
        let done = act();
        swap(rows, 0..0);
        done
    }

    fn lock(&self) -> MutexGuard<'_, AtHand> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// The table as SQLite knows it.
#[repr(C)]
struct Table {
    base: sqlite3_vtab,
    rows: RowsAtHand,
}

/// Goes through its rows, which it has to itself meanwhile.
#[repr(C)]
struct Cursor<'t> {
    base: sqlite3_vtab_cursor,
    rows: RowsAtHand,
    /// Those of the table, from the first to the last row that is read.
    taken: AtHand,
    row: usize,
    table: PhantomData<&'t Table>,
}

impl Cursor<'_> {
    /// Takes the rows from the table, or gives them back.
    fn swap(&mut self) {
        std::mem::swap(&mut *self.rows.lock(), &mut self.taken);
    }
}

impl Drop for Cursor<'_> {
    fn drop(&mut self) {
        if !self.taken.are_truths.is_empty() {
            self.swap();
        }
    }
}

// SAFETY: the struct of C stands first in it.
unsafe impl<'t> VTab<'t> for Table {
    type Aux = RowsAtHand;
    type Cursor = Cursor<'t>;

    fn connect(
        _: &mut VTabConnection,
        rows: Option<&RowsAtHand>,
        _: &[u8],
        _: &[u8],
        _: &[u8],
        _: &[&[u8]],
    ) -> Result<(Cow<'static, CStr>, Self)> {
        let rows = rows.cloned().unwrap_or_default();
        let mut made = "CREATE TABLE rows (c0".to_owned();
        for column in 1..rows.lock().are_truths.len() {
            let _ = write!(made, ", c{column}");
        }
        let made = std::ffi::CString::new(made + ")")?;
        Ok((made.into(), Self { base: sqlite3_vtab::default(), rows }))
    }

    fn best_index(&self, _: &mut IndexInfo) -> Result<bool> {
        Ok(true)
    }

    fn open(&'t mut self) -> Result<Cursor<'t>> {
        Ok(Cursor {
            base: sqlite3_vtab_cursor::default(),
            rows: self.rows.clone(),
            taken: AtHand::default(),
            row: 0,
            table: PhantomData,
        })
    }
}

impl CreateVTab<'_> for Table {
    const KIND: VTabKind = VTabKind::Default;
}

// SAFETY: the struct of C stands first in it.
unsafe impl VTabCursor for Cursor<'_> {
    fn filter(&mut self, _: c_int, _: Option<&str>, _: &Filters<'_>) -> Result<()> {
        if self.taken.are_truths.is_empty() {
            self.swap();
        }
        self.row = self.taken.range.start;
        Ok(())
    }

    fn next(&mut self) -> Result<()> {
        self.row += 1;
        Ok(())
    }

    fn eof(&self) -> bool {
        self.row >= self.taken.range.end
    }

    fn column(&self, context: &mut Context, column: c_int) -> Result<()> {
        let column = usize::try_from(column).unwrap_or_default();
        let cell = match (self.taken.rows.cell(self.row, column), self.taken.are_truths[column]) {
            ("", _) => None,
            ("true", true) => Some("1"),
            ("false", true) => Some("0"),
            (text, _) => Some(text),
        };
        context.set_result(cell)
    }

    fn rowid(&self) -> Result<i64> {
        Ok(i64::try_from(self.row).unwrap_or_default())
    }
}
