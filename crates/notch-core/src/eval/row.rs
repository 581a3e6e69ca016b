//! A row through all cuts: the evaluation that decides everything.
//!
//! First what is demanded of columns, then each cut in order, then checks of cells, then checks of
//! whole rows. A cut tries its chains until one returns something; what it found on the way is
//! dropped with the chain that found it. [`Plan::fate`] says what becomes of the row by what was
//! found.
//!
//! `batch.rs` must return the same for every row it takes on a fast path. What is slow here is slow
//! for rows with findings, accents and conditions only.

use bumpalo::Bump;
use bumpalo::collections::Vec;

use super::columns::Known;
use super::result::{Branch, Cell, Fate, RowResult, USUAL};
use super::scratch::Scratch;
use crate::finding::{About, Finding, FindingKind};
use crate::program::{BETWEEN_ITEMS, BLANK, RowContext};
use crate::program::{
    Branches, CompiledChain, CompiledCheck, CompiledColumn, CompiledCut, CompiledSource, OnFinding,
    Plan,
};
use crate::program::{Caveat, Event, Missing, Nothing, Piece, Value};
use crate::text::characters::is_blank;
use crate::unique::Gathered;

/// The reason of what reads a column that is not what is demanded of it.
pub(super) const ODD: &str = "layout";

impl Plan {
    /// Evaluates all cuts for one row, given the cells of [`Plan::sources`] in their order; a cell
    /// that is not given counts as blank. What is returned borrows from the scratch until that is
    /// used again: one row at a time.
    ///
    /// ```
    /// # use keen_notch_core::{Plan, PlanOptions, Scratch, parse_assignment};
    /// let cut = parse_assignment("year = {lot} | last 4")?;
    /// let plan = Plan::compile(&[cut], &["lot".to_owned()], &PlanOptions::default())?;
    /// let mut scratch = Scratch::default();
    /// let row = plan.evaluate(["19"], &mut scratch);
    /// assert_eq!(row.cells[0].text, "19");
    /// assert_eq!(row.findings[0].reason, "2 characters, not 4");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn evaluate<'a>(
        &'a self,
        cells: impl IntoIterator<Item = &'a str>,
        scratch: &'a mut Scratch,
    ) -> RowResult<'a> {
        scratch.arena.reset();
        let row = scratch.row;
        self.evaluate_in(cells, None, scratch, row)
    }

    /// The same beside what is in the scratch already. What fast paths have returned is `known`, by
    /// the cut.
    pub(super) fn evaluate_in<'a>(
        &'a self,
        cells: impl IntoIterator<Item = &'a str>,
        known: Option<Known<'a>>,
        scratch: &'a Scratch,
        row: u64,
    ) -> RowResult<'a> {
        let arena: &'a Bump = &scratch.arena;
        let mut context = RowContext::new(arena, self.cell_limit, cells);
        context.all_rows = scratch.all_rows.as_deref().map(|all_rows| (row, all_rows));
        context.uniques = &self.uniques;
        context.columns(&self.columns);
        let mut written = Vec::with_capacity_in(self.outputs().len(), arena);
        let mut branches = Vec::with_capacity_in(self.cuts.len(), arena);
        for (n, cut) in self.cuts.iter().enumerate() {
            let from = context.values.len();
            let known_place = known.filter(|_| cut.names.len() == 1);
            let place = known_place.and_then(|known| Some((known.place(cut.slot)?, known.text)));
            if let Some((place, text)) = place.filter(|_| context.odd.is_empty()) {
                let cell = cut.origin.and_then(|origin| context.cells.get(origin));
                let value = match place.piece(text, cell.copied().unwrap_or_default()) {
                    Some(piece) => Some(Value::Text(piece)),
                    // A value that is not read again need not be kept, nor its place.
                    None => (!cut.is_read).then_some(Value::Intended),
                };
                if let Some(value) = value {
                    context.values.push(value);
                    branches.push(known.map_or(USUAL, |known| known.branch(n)));
                    if !cut.names[0].hidden {
                        written.push(Cell { text: place.of(text) });
                    }
                    continue;
                }
            }
            branches.push(context.cut(n, cut));
            if self.on_finding(About::Cut(n)) == OnFinding::Blank {
                context.blank_found(from);
            }
            if cut.names.iter().all(|name| name.hidden) {
                context.keep_for_readers(from, cut.first_origin);
            }
            let named = cut.names.iter().zip(&context.values[from..]);
            written.extend(named.filter(|(name, _)| !name.hidden).map(|(_, value)| match value {
                Value::Text(piece) => Cell { text: piece.text() },
                _ => Cell { text: "" },
            }));
        }
        let checked = context.checks(&self.checks);
        let only_rows = self.only_rows.as_ref();
        let wanted =
            only_rows.is_none_or(|condition| condition.holds(Value::Intended, &mut context));
        context.report_unread_helpers();
        context.note_blanks();
        context.tell_events_once();
        let events = std::mem::replace(&mut context.events, Vec::new_in(arena)).into_bump_slice();
        let findings =
            std::mem::replace(&mut context.findings, Vec::new_in(arena)).into_bump_slice();
        RowResult {
            cells: written.into_bump_slice(),
            branches: branches.into_bump_slice(),
            checked,
            sources: context.cells,
            fate: self.fate(findings, wanted),
            findings,
            events,
        }
    }

    /// What is to become of a row with these findings; `wanted` when it is among the rows asked
    /// for.
    pub fn fate(&self, findings: &[Finding<'_>], wanted: bool) -> Fate {
        let mut fate = if wanted { Fate::Write } else { Fate::LeaveOut };
        for (n, finding) in
            findings.iter().enumerate().filter(|(_, finding)| !finding.kind.is_note())
        {
            match self.on_finding(finding.about) {
                OnFinding::Stop => return Fate::Stop(n),
                OnFinding::Reject => fate = Fate::Reject,
                OnFinding::Keep | OnFinding::Blank => {}
            }
        }
        fate
    }

    /// Gathers from a row, by its number from 1, what [`Plan::evaluate`] must know of all rows;
    /// cells as there.
    pub fn gather<'a>(
        &self,
        cells: impl IntoIterator<Item = &'a str>,
        row: u64,
        scratch: &'a mut Scratch,
        gathered: &mut Gathered,
    ) {
        gathered.seen.resize_with(self.uniques.len(), Default::default);
        self.unique_texts(cells, scratch, |place, text| gathered.seen[place].add(text, row));
    }

    /// Calls `take` with the texts of a row that must be unique, each with the number from 0 of
    /// what asks for it; blank ones are passed over.
    pub fn unique_texts<'a>(
        &self,
        cells: impl IntoIterator<Item = &'a str>,
        scratch: &'a mut Scratch,
        mut take: impl FnMut(usize, &str),
    ) {
        scratch.arena.reset();
        let mut context = RowContext::new(&scratch.arena, self.cell_limit, cells);
        if self.uniques.iter().any(|source| !matches!(source, CompiledSource::Column(_))) {
            context.columns(&self.columns);
            for (n, cut) in self.cuts.iter().enumerate() {
                let from = context.values.len();
                context.cut(n, cut);
                if self.on_finding(About::Cut(n)) == OnFinding::Blank {
                    context.blank_found(from);
                }
            }
        }
        for (place, source) in self.uniques.iter().enumerate() {
            // What is not as demanded is a text all the same, and another row may have it.
            let text = match source {
                CompiledSource::Column(n) => context.cells.get(*n).copied(),
                source => context.quiet_text(source),
            };
            if let Some(text) = text.filter(|text| !is_blank(text)) {
                take(place, text);
            }
        }
    }
}

impl Plan {
    /// Evaluates the cuts before the one at `cut`, then calls `work` with the row, ready for that cut.
    pub(crate) fn with_run<T>(
        &self,
        cells: &[&str],
        cut: usize,
        scratch: &mut Scratch,
        work: impl FnOnce(&mut RowContext<'_>) -> T,
    ) -> T {
        scratch.arena.reset();
        let arena = &scratch.arena;
        let mut context = RowContext::new(
            arena,
            self.cell_limit,
            cells.iter().map(|cell| &*arena.alloc_str(cell)),
        );
        context.columns(&self.columns);
        for (n, before) in self.cuts[..cut].iter().enumerate() {
            context.cut(n, before);
        }
        context.begin(cut, &self.cuts[cut]);
        work(&mut context)
    }
}

impl<'a> RowContext<'a> {
    /// A cut through all its chains to its names.
    fn cut(&mut self, n: usize, cut: &CompiledCut) -> Branch {
        self.begin(n, cut);
        if cut.origin.is_some_and(|origin| self.odd.contains(&origin)) {
            // The column's own finding says it all.
            let nothing =
                Value::Missing(Missing { told: true, ..Missing::new(Nothing::Absent, ODD) });
            self.values.extend(cut.names.iter().map(|_| nothing));
            return Branch::default();
        }
        let (value, branch) = self.branches(&cut.branches);
        if let (Value::Missing(_), Some(id)) = (value, self.passed_over) {
            self.events.push(Event { id, text: "" });
        }
        self.give_out(n, cut, value);
        branch
    }

    /// What is demanded of the table's columns: a finding for each that is not so.
    fn columns(&mut self, columns: &[CompiledColumn]) {
        for column in columns {
            self.about = About::Column(column.source);
            let cell = self.cells.get(column.source).copied().unwrap_or_default();
            let is_blank = is_blank(cell);
            let wrong = match is_blank {
                true => column.required.then_some(BLANK),
                false => column
                    .checks
                    .iter()
                    .find_map(|check| check.broken(Value::Text(Piece::whole(cell)), self)),
            };
            if let Some(reason) = wrong {
                self.report(FindingKind::Layout, self.alloc(reason), cell);
                self.odd.push(column.source);
            }
            if let Some(row) = column.unique.and_then(|place| self.duplicate_row(place, cell)) {
                const OTHER: &str = "same as another row";
                // Of another part of the table the number of the row is not known.
                let reason = match row {
                    0 => OTHER,
                    row => self.alloc_fmt(format_args!("same as row {row}")),
                };
                self.report_as(FindingKind::Layout, (reason, Some(OTHER)), cell);
            }
        }
    }

    /// The checks of the row as a whole; for each whether it was made.
    fn checks(&mut self, checks: &[CompiledCheck]) -> &'a [bool] {
        let mut made = Vec::with_capacity_in(checks.len(), self.findings.bump());
        for (n, check) in checks.iter().enumerate() {
            let there = check
                .needs
                .iter()
                .all(|source| self.quiet_text(source).is_some_and(|text| !is_blank(text)));
            made.push(there);
            self.about = About::Check(n);
            self.asked = Caveat::default();
            if there && let Some(reason) = check.demand.broken(Value::Intended, self) {
                let mut asked = self.items();
                for source in &check.needs {
                    asked.extend(self.quiet_text(source).map(|text| Ok(Piece::whole(text))));
                }
                let asked = self.joined(&asked, BETWEEN_ITEMS).unwrap_or_default();
                self.report(FindingKind::Check, self.alloc(reason), asked);
            }
            // What a doubtful number is compared with says little.
            if let Some(doubt) = self.asked.doubt.filter(|_| there) {
                self.report_as(FindingKind::Doubtful, doubt, "");
            }
        }
        made.into_bump_slice()
    }

    /// From now on findings are about this cut.
    fn begin(&mut self, n: usize, cut: &CompiledCut) {
        self.about =
            if cut.names.len() == 1 { About::Name { cut: n, name: 0 } } else { About::Cut(n) };
        self.cut_from = self.findings.len();
        (self.asked, self.passed_over) = (Caveat::default(), None);
    }

    /// The first chain that is not missing, then the steps after `then`; and how the chains fared.
    pub(crate) fn branches(&mut self, branches: &Branches) -> (Value<'a>, Branch) {
        let mut value = Value::Intended;
        let mut fared = Branch::default();
        for (n, chain) in branches.chains.iter().enumerate() {
            let before = self.findings.len();
            value = self.chain(chain);
            let Value::Missing(missing) = value else {
                fared.taken = Some(n);
                break;
            };
            if missing.nothing == Nothing::Unmet && n < 64 {
                fared.unmet |= 1 << n;
            }
            if missing.nothing.is_final() {
                break;
            }
            if n + 1 < branches.chains.len() {
                // Only the chain that yields the value reports.
                self.findings.truncate(before);
            }
        }
        (branches.then.iter().fold(value, |value, step| step.run(value, self)), fared)
    }

    fn chain(&mut self, chain: &CompiledChain) -> Value<'a> {
        let source = self.source(&chain.source);
        let value = chain.steps.iter().fold(source, |value, step| step.run(value, self));
        self.conditioned(chain, value)
    }

    /// What a chain has reached, or missing when the condition after its `if` does not hold.
    pub(crate) fn conditioned(&mut self, chain: &CompiledChain, value: Value<'a>) -> Value<'a> {
        let Some(condition) = &chain.condition else {
            return value;
        };
        if condition.holds(value, self) {
            return value;
        }
        match value {
            // What was not there in the first place says so itself, where the condition asks about
            // it.
            Value::Missing(missing)
                if matches!(missing.nothing, Nothing::Blank | Nothing::TooLong)
                    || (condition.asks_it() && !missing.nothing.is_final()) =>
            {
                value
            }
            _ => Value::Missing(Missing::new(Nothing::Unmet, "condition not met")),
        }
    }
}
