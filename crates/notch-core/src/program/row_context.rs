//! One row that the cuts are run on: its cells, what the cuts have returned so far, the
//! findings.
//!
//! It is made for a row and dropped after it. All that is made of the row lies in one arena, which
//! the caller's [`Scratch`](crate::Scratch) owns and empties, not frees, between rows. Steps report
//! through it ([`RowContext::report`]) and make texts in it ([`RowContext::alloc`]); it keeps count
//! of the bytes that were made, so that no cut can make more of a cell than the limit allows.

use std::cell::Cell;

use bumpalo::Bump;
use bumpalo::collections::Vec as RowVec;

use super::value::{Caveat, Event, Item, Missing, Nothing, Piece, Value};
use crate::finding::{About, Finding, FindingKind};
use crate::program::CompiledSource;
use crate::text::Span;
use crate::text::characters::is_blank;
use crate::unique::AllRows;

pub(crate) struct RowContext<'a> {
    arena: &'a Bump,
    /// The cells of the plan's sources, in their order.
    pub cells: &'a [&'a str],
    /// What the cuts so far have returned, one value a name.
    pub values: RowVec<'a, Value<'a>>,
    pub findings: RowVec<'a, Finding<'a>>,
    /// The sources noted as blank already.
    pub blank: RowVec<'a, usize>,
    /// The sources that are not what is demanded of them.
    pub odd: RowVec<'a, usize>,
    /// The number of the row, and what is known of all rows.
    pub all_rows: Option<(u64, &'a AllRows)>,
    /// What is asked whether it is unique.
    pub uniques: &'a [CompiledSource],
    /// What is counted over all rows.
    pub events: RowVec<'a, Event<'a>>,
    /// Findings of cuts that are not written, for those that read them.
    pub of_helpers: RowVec<'a, HelperFinding<'a>>,
    /// A condition asks: what it reads goes into no cell.
    pub is_asking: bool,
    /// A doubt about what conditions of the current cut have asked about.
    pub asked: Caveat<'a>,
    /// The text that steps in brackets or in a template start from.
    pub reached: Value<'a>,
    /// What a step in brackets of the current cut was passed over for: a missing that its own last
    /// `else` was probably meant for.
    pub passed_over: Option<usize>,
    /// Where the findings of the current cut begin.
    pub cut_from: usize,
    /// What findings of the moment are about.
    pub about: About,
    /// How many bytes of text have been made of the row, by steps that may make a text longer.
    made: Cell<usize>,
    /// How many bytes a text that is made may have.
    cell_limit: usize,
}

/// A finding of a cut that is not written.
pub(crate) struct HelperFinding<'a> {
    /// The values of the cut, by the first and the one after the last.
    pub slots: (usize, usize),
    pub finding: Finding<'a>,
    /// The source that the cut starts from in the end.
    pub origin: Option<usize>,
    pub is_read: bool,
}

/// The number of cells and values that there is room for at first.
const SOME: usize = 8;

impl<'a> RowContext<'a> {
    pub(crate) fn new(
        arena: &'a Bump,
        cell_limit: usize,
        cells: impl IntoIterator<Item = &'a str>,
    ) -> Self {
        Self {
            arena,
            cells: {
                let mut row = RowVec::with_capacity_in(SOME, arena);
                row.extend(cells);
                row.into_bump_slice()
            },
            values: RowVec::with_capacity_in(SOME, arena),
            findings: RowVec::new_in(arena),
            blank: RowVec::new_in(arena),
            odd: RowVec::new_in(arena),
            all_rows: None,
            uniques: &[],
            events: RowVec::new_in(arena),
            of_helpers: RowVec::new_in(arena),
            is_asking: false,
            asked: Caveat::default(),
            reached: Value::Intended,
            passed_over: None,
            cut_from: 0,
            about: About::Cut(0),
            made: Cell::new(0),
            cell_limit,
        }
    }

    /// A copy of a text that lives as long as the row.
    pub(crate) fn alloc(&self, text: &str) -> &'a str {
        self.arena.alloc_str(text)
    }

    /// A text made of formatted values that lives as long as the row.
    pub(crate) fn alloc_fmt(&self, arguments: std::fmt::Arguments<'_>) -> &'a str {
        match arguments.as_str() {
            Some(text) => self.alloc(text),
            None => bumpalo::format!(in self.arena, "{}", arguments).into_bump_str(),
        }
    }

    /// A growing list that lives as long as the row.
    pub(crate) fn items(&self) -> RowVec<'a, Item<'a>> {
        RowVec::new_in(self.arena)
    }

    /// A growing text for a step that changes what it is given.
    pub(crate) fn buffer(&self, capacity: usize) -> bumpalo::collections::String<'a> {
        bumpalo::collections::String::with_capacity_in(capacity, self.arena)
    }

    pub(crate) fn report(&mut self, kind: FindingKind, reason: &'a str, value: &'a str) {
        self.report_as(kind, (reason, None), value);
    }

    /// The same with a reason of this one row, and what it is counted as.
    pub(crate) fn report_as(
        &mut self,
        kind: FindingKind,
        (reason, counted_as): (&'a str, Option<&'static str>),
        value: &'a str,
    ) {
        self.findings.push(Finding { about: self.about, kind, reason, counted_as, value });
    }

    /// A caveat that lives as long as the row; `None` when it says nothing.
    pub(crate) fn caveat(&self, caveat: Caveat<'a>) -> Option<&'a Caveat<'a>> {
        (!caveat.is_empty()).then(|| &*self.arena.alloc(caveat))
    }

    /// What is to be said of the cell that a value ends up in.
    pub(crate) fn caveat_of(value: Value<'a>) -> Caveat<'a> {
        let of_piece = |piece: &Piece<'a>| piece.caveat().copied().unwrap_or_default();
        match value {
            Value::Text(piece) => of_piece(&piece),
            Value::List(items) => {
                items.iter().flatten().map(of_piece).fold(Caveat::default(), Caveat::and)
            }
            Value::Missing(_) | Value::Intended => Caveat::default(),
        }
    }

    /// Findings of a helper, when a cell is made of what it has returned.
    pub(crate) fn read_helper(&mut self, slot: usize) {
        if self.is_asking {
            return;
        }
        let of_helpers = std::mem::replace(&mut self.of_helpers, RowVec::new_in(self.arena));
        for mut held in of_helpers {
            if (held.slots.0..held.slots.1).contains(&slot) {
                held.is_read = true;
                let finding = Finding { about: self.about, ..held.finding };
                let same = |known: &Finding<'_>| {
                    known.kind == finding.kind && known.reason == finding.reason
                };
                if !self.findings[self.cut_from..].iter().any(same) {
                    self.findings.push(finding);
                }
            }
            self.of_helpers.push(held);
        }
    }

    /// A missing with a reason known when the cut was read.
    pub(crate) fn missing<T>(&self, nothing: Nothing, reason: &str) -> Result<T, Missing<'a>> {
        Err(Missing::new(nothing, self.alloc(reason)))
    }

    /// The piece of a text at `span`, or missing when there is nothing in it.
    pub(crate) fn narrow(&self, piece: Piece<'a>, span: Span) -> Item<'a> {
        if span.is_empty() {
            return Err(Missing::new(Nothing::Empty, NOTHING_LEFT));
        }
        Ok(piece.narrow(span))
    }

    /// One finding for the items of a list that went missing.
    pub(crate) fn report_lost(&mut self, items: &[Item<'a>]) {
        let mut lost =
            items.iter().enumerate().filter_map(|(n, item)| Some((n + 1, item.as_ref().err()?)));
        if let Some((n, missing)) = lost.next() {
            let more = lost.count();
            let reason = match more {
                0 => self.alloc_fmt(format_args!("item {n}: {}", missing.reason)),
                _ => self.alloc_fmt(format_args!("item {n}: {} (and {more} more)", missing.reason)),
            };
            self.report(FindingKind::Missing, reason, "");
        }
    }

    /// Whether a text may grow by `more` bytes to `bytes`.
    ///
    /// # Errors
    /// It would be longer than any cell may be, or the texts made of the row would be too long
    /// together.
    pub(crate) fn may_make(&self, bytes: usize, more: usize) -> Result<(), Missing<'a>> {
        let made = self.made.get() + more;
        self.made.set(made);
        match () {
            () if bytes > self.cell_limit => {
                let reason = self.alloc_fmt(format_args!(
                    "more than {} MiB, which is more than a cell may have",
                    self.cell_limit >> 20
                ));
                Err(Missing::new(Nothing::TooLong, reason))
            }
            () if made > self.cell_limit.saturating_mul(CELLS_OF_A_ROW) => {
                let reason = self.alloc_fmt(format_args!(
                    "more than {} MiB for one row",
                    (self.cell_limit >> 20) * CELLS_OF_A_ROW
                ));
                Err(Missing::new(Nothing::TooLong, reason))
            }
            () => Ok(()),
        }
    }

    /// Adds an item to a list.
    ///
    /// # Errors
    /// It would have more than [`LONGEST_LIST`] items.
    pub(crate) fn push(
        &self,
        list: &mut RowVec<'a, Item<'a>>,
        item: Item<'a>,
    ) -> Result<(), Missing<'a>> {
        if list.len() == LONGEST_LIST {
            return Err(Missing::new(Nothing::TooLong, LIST_TOO_LONG));
        }
        list.push(item);
        Ok(())
    }

    /// How many bytes have been made of the row so far.
    pub(crate) fn made(&self) -> usize {
        self.made.get()
    }

    /// The items of a list as one text; those that are missing are blank.
    ///
    /// # Errors
    /// It would be too long.
    pub(crate) fn joined(&self, items: &[Item<'a>], between: &str) -> Result<&'a str, Missing<'a>> {
        let texts = items.iter().flatten().map(|piece| piece.text().len()).sum::<usize>();
        let length = texts + between.len() * items.len().saturating_sub(1);
        self.may_make(length, length)?;
        let mut text = self.buffer(length);
        for (n, item) in items.iter().enumerate() {
            if n > 0 {
                text.push_str(between);
            }
            if let Ok(piece) = item {
                text.push_str(piece.text());
            }
        }
        Ok(text.into_bump_str())
    }

    /// The same as a piece, with what is to be said of its items.
    ///
    /// # Errors
    /// It would be too long.
    pub(crate) fn joined_piece(&self, items: &'a [Item<'a>], between: &str) -> Item<'a> {
        Ok(Piece::whole(self.joined(items, between)?)
            .with_caveat(self.caveat(Self::caveat_of(Value::List(items)))))
    }

    /// A value as the text it would be in a cell; `None` when it is missing.
    pub(crate) fn text_of(&self, value: Value<'a>) -> Option<&'a str> {
        match value {
            Value::Text(piece) => Some(piece.text()),
            // What is too long is told where it goes into a cell.
            Value::List(items) => self.joined(items, BETWEEN_ITEMS).ok(),
            Value::Intended => Some(""),
            Value::Missing(_) => None,
        }
    }

    /// What a source gives, without findings and notes.
    pub(crate) fn quietly(&mut self, source: &CompiledSource) -> Value<'a> {
        let (findings, blanks) = (self.findings.len(), self.blank.len());
        let was_asking = std::mem::replace(&mut self.is_asking, true);
        let value = self.source(source);
        self.is_asking = was_asking;
        self.findings.truncate(findings);
        self.blank.truncate(blanks);
        value
    }

    /// Another row, by its number, with the same text of the unique source at `place`; blank texts
    /// are the same as no other.
    pub(crate) fn same_as(&mut self, place: usize) -> Option<u64> {
        let source = self.uniques.get(place)?;
        let text = match source {
            CompiledSource::Column(n) => self.cells.get(*n).copied(),
            source => self.quiet_text(source),
        };
        self.duplicate_row(place, text.filter(|text| !is_blank(text))?)
    }

    /// Another row, by its number, that has this text for the unique source at `place`.
    pub(crate) fn duplicate_row(&self, place: usize, text: &str) -> Option<u64> {
        let (row, all_rows) = self.all_rows?;
        all_rows.doubles.get(place)?.other(text, row)
    }

    /// The text a source gives, without findings and notes.
    pub(crate) fn quiet_text(&mut self, source: &CompiledSource) -> Option<&'a str> {
        let value = self.quietly(source);
        self.text_of(value)
    }
}

/// How many items a list may have: each takes some 50 bytes.
const LONGEST_LIST: usize = 1_000_000;
/// The reason of a list that is not made.
const LIST_TOO_LONG: &str = "more than 1,000,000 items";
/// All that is made of a row may take as many bytes as this number of the longest cells.
const CELLS_OF_A_ROW: usize = 8;

/// The reason of a blank cell.
pub(crate) const BLANK: &str = "blank";

/// The reason of a narrowing that leaves nothing.
pub(crate) const NOTHING_LEFT: &str = "nothing left";

/// What stands between the items of a list that ends as one text.
pub(crate) const BETWEEN_ITEMS: &str = "; ";
