//! Counts over all rows, for the summary after a run.
//!
//! A [`Tally`] takes the result of each row: how many cells of each new column are filled, which
//! chain returned the value, findings by what they are about, and their shapes. Its memory is
//! bounded by what is told apart (shapes, reasons), never by the number of rows.
//!
//! Workers count parts. [`Tally::part`] begins one, [`Tally::merge`] puts parts together; they must
//! come in the order of the rows, for the first line of everything is kept. Then the result is the
//! same for any number of workers and any size of part.

mod findings;
mod part;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use self::findings::EXAMPLES;
pub use self::findings::{FindingExample, FindingGroup, FindingTally, RowSet};
pub use self::part::{LINES_OF_PART, TallyPart};
use crate::eval::{Absent, BatchResult, Branch, RowResult};
use crate::finding::{About, Finding, FindingKind};
use crate::program::{Event, Plan};
use crate::shape::ShapeCounts;

/// How many different findings are told apart; reasons may hold figures of the data.
const MOST_FINDINGS: usize = 1000;

/// What a run has counted.
#[derive(Debug, Default)]
pub struct Tally {
    /// For each of [`Plan::outputs`].
    pub outputs: Vec<OutputTally>,
    /// For each cut.
    pub cuts: Vec<CutTally>,
    /// For each check of whole rows in how many rows it was not made.
    pub unchecked: Vec<u64>,
    /// The findings and notes by what they are about and kind, in that order.
    groups: BTreeMap<(About, FindingKind), FindingGroup>,
    /// The rows with findings that are no notes, by what they are about.
    rows: BTreeMap<About, RowSet>,
    /// How many different reasons are told apart so far.
    reasons: usize,
    /// It counts a part of a run, which is bounded itself: all reasons are told apart.
    is_part: bool,
    texts: TextsTold,
    /// Rows with at least one finding that is not a note.
    pub rows_with_findings: u64,
    /// What was counted for hints, by the place of the event.
    events: BTreeMap<usize, EventTally>,
    /// Findings of columns as a whole, which are those of no row.
    pub column_findings: u64,
}

/// What a tally tells of texts, beside how many there are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default)]
pub enum TextsTold {
    /// Nothing.
    Nothing,
    /// The shapes of what is cut.
    #[default]
    Shapes,
    /// The shapes of what findings are about as well, and a few examples.
    Examples,
}

/// Counts of one event.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct EventTally {
    /// In how many rows it was seen.
    pub count: u64,
    /// The line of the first of them.
    pub first_line: u64,
    /// The text in which it was seen there.
    pub text: String,
}

/// Counts of one new column.
#[derive(Debug, Default, Clone)]
pub struct OutputTally {
    /// Rows in which it has a text.
    pub filled: u64,
    /// Rows in which it is blank.
    pub blank: u64,
    /// Rows in which a check of it failed.
    pub failed: u64,
    /// The shapes of its texts.
    pub shapes: ShapeCounts,
}

impl OutputTally {
    #[inline]
    fn add(&mut self, text: &str, line: u64, tells: TextsTold) {
        if text.is_empty() {
            self.blank += 1;
        } else {
            self.filled += 1;
            if tells >= TextsTold::Shapes {
                self.shapes.add(text, line);
            }
        }
    }
}

/// Counts of one cut.
#[derive(Debug, Default, Clone, Serialize, Deserialize)]
pub struct CutTally {
    /// How many rows each chain has yielded the value of.
    pub branches: Vec<u64>,
    /// In how many rows the condition of each chain did not hold.
    pub unmet: Vec<u64>,
    /// Rows in which no chain did.
    pub none: u64,
}

impl CutTally {
    /// Counts a row.
    fn add(&mut self, branch: Branch) {
        match branch.taken {
            Some(taken) => self.branches[taken] += 1,
            None => self.none += 1,
        }
        if branch.unmet != 0 {
            self.unmet
                .iter_mut()
                .enumerate()
                .take(64)
                .filter(|(n, _)| branch.unmet & (1 << n) != 0)
                .for_each(|(_, unmet)| *unmet += 1);
        }
    }
}

impl Tally {
    /// An empty tally for a plan.
    pub fn new(plan: &Plan) -> Self {
        Self {
            outputs: vec![OutputTally::default(); plan.outputs().len()],
            unchecked: vec![0; plan.checks().len()],
            cuts: (0..plan.len())
                .map(|cut| CutTally {
                    branches: vec![0; plan.branches(cut).len()],
                    unmet: vec![0; plan.branches(cut).len()],
                    none: 0,
                })
                .collect(),
            ..Self::default()
        }
    }

    /// One that tells more or less of texts than their shapes.
    pub fn telling(plan: &Plan, texts: TextsTold) -> Self {
        Self { texts, ..Self::new(plan) }
    }

    /// An empty tally for a part of a run, to be merged into that of the run, which tells as much
    /// of texts.
    pub fn part(plan: &Plan, texts: TextsTold) -> Self {
        let mut tally = Self { is_part: true, texts, ..Self::new(plan) };
        tally.outputs.iter_mut().for_each(|output| output.shapes = ShapeCounts::part());
        tally
    }

    /// Adds the counts of the part of a run that comes next, and empties them.
    pub fn merge(&mut self, part: &mut Tally) {
        let take = |from: &mut u64| std::mem::take(from);
        for (ours, theirs) in self.outputs.iter_mut().zip(&mut part.outputs) {
            ours.filled += take(&mut theirs.filled);
            ours.blank += take(&mut theirs.blank);
            ours.failed += take(&mut theirs.failed);
            ours.shapes.merge(&mut theirs.shapes);
        }
        for (ours, theirs) in self.cuts.iter_mut().zip(&mut part.cuts) {
            let counts = ours
                .branches
                .iter_mut()
                .chain(&mut ours.unmet)
                .zip(theirs.branches.iter_mut().chain(&mut theirs.unmet));
            counts.for_each(|(ours, theirs)| *ours += take(theirs));
            ours.none += take(&mut theirs.none);
        }
        self.unchecked
            .iter_mut()
            .zip(&mut part.unchecked)
            .for_each(|(ours, theirs)| *ours += take(theirs));
        self.rows_with_findings += take(&mut part.rows_with_findings);
        for (about, rows) in std::mem::take(&mut part.rows) {
            self.rows.entry(about).or_default().merge(rows);
        }
        for (id, theirs) in std::mem::take(&mut part.events) {
            self.events.entry(id).and_modify(|ours| ours.count += theirs.count).or_insert(theirs);
        }
        let mut reasons = Vec::new();
        for ((about, kind), theirs) in
            part.groups.iter_mut().filter(|(_, theirs)| !theirs.reasons.is_empty())
        {
            let ours = self.groups.entry((*about, *kind)).or_default();
            ours.shapes.merge(&mut theirs.shapes);
            ours.rows.merge(std::mem::take(&mut theirs.rows));
            let room = EXAMPLES.saturating_sub(ours.examples.len());
            ours.examples.extend(theirs.examples.drain(..).take(room));
            let told = std::mem::take(&mut theirs.reasons).into_iter();
            reasons.extend(told.map(|(reason, tally)| (*about, *kind, reason, tally)));
        }
        part.reasons = 0;
        // In the order in which they came, so that those told apart are the same however the run
        // was divided.
        reasons.sort_unstable_by(
            |(about, kind, reason, tally), (other, other_kind, other_reason, next)| {
                (tally.first_line, about, kind, reason).cmp(&(
                    next.first_line,
                    other,
                    other_kind,
                    other_reason,
                ))
            },
        );
        for (about, kind, reason, tally) in reasons {
            let has_room = self.is_part || self.reasons < MOST_FINDINGS;
            self.reasons += usize::from(
                self.groups
                    .entry((about, kind))
                    .or_default()
                    .count_reason(&reason, tally, has_room),
            );
        }
    }

    /// Counts the rows of a batch.
    pub fn add_batch(&mut self, plan: &Plan, batch: &BatchResult<'_>) {
        let usual = (batch.len() - batch.unusual().len()) as u64;
        if usual > 0 {
            for (n, output) in self.outputs.iter_mut().enumerate() {
                let lacking = batch.lacking(n) as u64;
                if self.texts >= TextsTold::Shapes {
                    batch.count_shapes(n, &mut output.shapes);
                }
                output.filled += usual - lacking;
                output.blank += lacking;
            }
            self.cuts.iter_mut().for_each(|cut| cut.branches[0] += usual);
        }
        for (cut, branch) in batch.branches() {
            self.cuts[cut].branches[0] -= 1;
            self.cuts[cut].add(branch);
        }
        // Rows in their order, so that the first ones are kept as examples.
        let mut absent = batch.absent();
        for (row, result) in batch.unusual() {
            let (before, behind) =
                absent.split_at(absent.partition_point(|absent| absent.row < *row));
            self.add_absent(plan, batch, before);
            absent = behind;
            self.add(plan, result, batch.number(*row), batch.line(*row));
        }
        self.add_absent(plan, batch, absent);
        // Rows in their order, with those of the results that are counted already.
        for (row, event) in batch.events() {
            self.add_event(event, batch.line(*row));
        }
    }

    /// Counts something for hints.
    fn add_event(&mut self, event: &Event<'_>, line: u64) {
        let first = || EventTally { count: 0, first_line: line, text: event.text.to_owned() };
        let tally = self.events.entry(event.id).or_insert_with(first);
        tally.count += 1;
        if line < tally.first_line {
            *tally = EventTally { count: tally.count, ..first() };
        }
    }

    /// What was counted of an event, when it was seen at all.
    pub(crate) fn event(&self, id: usize) -> Option<&EventTally> {
        self.events.get(&id)
    }

    /// Counts what the rows together show to be probably wrong: one finding of a cut, which is that
    /// of no row.
    pub fn conclude(&mut self, plan: &Plan) {
        for hint in plan.hints(self, |line| format!("line {line}")) {
            let Some((reason, line)) = hint.finding else { continue };
            self.column_findings += 1;
            let group = self.groups.entry((hint.about, FindingKind::Doubtful)).or_default();
            group.is_of_column = group.reasons.is_empty();
            let tally = FindingTally { count: 1, first_line: line, rows: RowSet::default() };
            self.reasons += usize::from(group.count_reason(&reason, tally, true));
        }
    }

    /// Counts cuts that return nothing in rows that are counted already, row by row.
    fn add_absent(&mut self, plan: &Plan, batch: &BatchResult<'_>, absent: &[Absent]) {
        for absent in absent {
            let cut = &mut self.cuts[absent.cut];
            cut.branches[0] -= 1;
            cut.none += 1;
        }
        let found = absent
            .iter()
            .filter_map(|absent| Some((absent.cut, absent.row, batch.finding(*absent)?)));
        let found: Vec<(usize, usize, Finding<'_>)> = found.collect();
        let rows = found.chunk_by(|one, next| one.1 == next.1);
        self.rows_with_findings += rows
            .filter(|row| row.iter().any(|(.., finding)| !finding.kind.is_note()))
            .count() as u64;
        // Those of one cut and kind together, in the order of their rows: there are few of both.
        let mut groups: Vec<(usize, FindingKind)> = Vec::new();
        for (cut, _, Finding { kind, .. }) in &found {
            if !groups.contains(&(*cut, *kind)) {
                groups.push((*cut, *kind));
            }
        }
        groups.sort_unstable();
        for group in groups {
            let of_group = found.iter().filter(|(cut, _, finding)| (*cut, finding.kind) == group);
            self.find_all(of_group.map(|(cut, row, finding)| {
                let cell = plan.origin(*cut).map_or("", |origin| batch.source(*row, origin));
                (*finding, FindingPlace { row: batch.number(*row), line: batch.line(*row), cell })
            }));
        }
    }

    /// Counts a row: its number from 1, and the line it begins in.
    pub fn add(&mut self, plan: &Plan, result: &RowResult<'_>, row: u64, line: u64) {
        for (output, cell) in self.outputs.iter_mut().zip(result.cells) {
            output.add(cell.text, line, self.texts);
        }
        self.cuts.iter_mut().zip(result.branches).for_each(|(cut, branch)| cut.add(*branch));
        result.events.iter().for_each(|event| self.add_event(event, line));
        self.unchecked
            .iter_mut()
            .zip(result.checked)
            .filter(|(_, made)| !**made)
            .for_each(|(unchecked, _)| *unchecked += 1);
        if result.findings.is_empty() {
            return;
        }
        self.rows_with_findings += u64::from(result.has_finding());
        for (n, finding) in result.findings.iter().enumerate() {
            let failed = |finding: &Finding<'_>| {
                (finding.kind, finding.about) == (FindingKind::Check, result.findings[n].about)
            };
            if finding.kind == FindingKind::Check && !result.findings[..n].iter().any(failed) {
                self.fail(plan, finding.about);
            }
            let cell = plan
                .origin_of(finding.about)
                .and_then(|origin| result.sources.get(origin))
                .copied()
                .unwrap_or_default();
            self.find(finding, FindingPlace { row, line, cell });
        }
    }

    fn fail(&mut self, plan: &Plan, about: About) {
        if let About::Name { cut, name } = about {
            let place = plan
                .outputs()
                .iter()
                .position(|output| (output.cut, output.name_place) == (cut, name));
            place.into_iter().for_each(|place| self.outputs[place].failed += 1);
        }
    }

    /// Counts a row that could not be read: its number from 1, and the line it begins in.
    pub fn unreadable(&mut self, reason: &str, row: u64, line: u64) {
        self.rows_with_findings += 1;
        let finding = Finding {
            about: About::Row,
            kind: FindingKind::Row,
            reason,
            counted_as: None,
            value: "",
        };
        self.find(&finding, FindingPlace { row, line, cell: "" });
    }

    fn find(&mut self, finding: &Finding<'_>, place: FindingPlace<'_>) {
        self.find_all(std::iter::once((*finding, place)));
    }

    /// Counts findings of one kind about one thing, in the order of their rows.
    fn find_all<'f>(&mut self, findings: impl Iterator<Item = (Finding<'f>, FindingPlace<'f>)>) {
        let mut findings = findings.peekable();
        let Some((Finding { about, kind, .. }, _)) = findings.peek().copied() else { return };
        let (is_part, has_texts) = (self.is_part, self.texts == TextsTold::Examples);
        let group = self.groups.entry((about, kind)).or_insert_with(|| FindingGroup {
            shapes: if is_part { ShapeCounts::part() } else { ShapeCounts::default() },
            ..FindingGroup::default()
        });
        let mut rows = (!kind.is_note()).then(|| self.rows.entry(about).or_default());
        // Several with one reason one after the other are counted together.
        let mut together: Option<(&str, FindingTally)> = None;
        let reasons = &mut self.reasons;
        let mut count = |group: &mut FindingGroup, (reason, tally)| {
            let has_room = is_part || *reasons < MOST_FINDINGS;
            *reasons += usize::from(group.count_reason(reason, tally, has_room));
        };
        for (finding, FindingPlace { row, line, cell }) in findings {
            if let Some(rows) = rows.as_deref_mut() {
                rows.add(row);
            }
            group.rows.add(row);
            if has_texts {
                let text = if finding.value.is_empty() { cell } else { finding.value };
                group.shapes.add(text, line);
            }
            if has_texts && group.examples.len() < EXAMPLES {
                let (cell, value, reason) =
                    (cell.to_owned(), finding.value.to_owned(), finding.reason.to_owned());
                group.examples.push(FindingExample { row, line, cell, value, reason });
            }
            let reason = finding.counted_as.unwrap_or(finding.reason);
            if together.is_none_or(|(known, _)| known != reason) {
                together.into_iter().for_each(|before| count(group, before));
                together = Some((
                    reason,
                    FindingTally { count: 0, first_line: line, rows: RowSet::default() },
                ));
            }
            if let Some((_, tally)) = &mut together {
                tally.count += 1;
                tally.rows.add(row);
            }
        }
        together.into_iter().for_each(|last| count(group, last));
    }

    /// How many findings of a kind there are about something.
    pub fn count(&self, about: About, kind: FindingKind) -> u64 {
        self.groups.get(&(about, kind)).map_or(0, FindingGroup::count)
    }

    /// Everything findings that are no notes are about, with the number of rows that have one.
    pub fn rows(&self) -> impl Iterator<Item = (About, u64)> {
        self.rows.iter().map(|(about, rows)| (*about, rows.rows))
    }

    /// The groups of findings and notes, in the order of the cuts, then of the rest.
    pub fn groups(&self) -> Vec<(About, FindingKind, &FindingGroup)> {
        let mut all: Vec<_> =
            self.groups.iter().map(|((about, kind), group)| (*about, *kind, group)).collect();
        // What is said of a cut as a whole stands beside what is said of its names.
        all.sort_by_key(|(about, ..)| (about.cut().is_none(), about.cut()));
        all
    }

    /// The groups of findings, notes aside, those that are about cells of one column in the same
    /// rows together: one cause shows in all.
    pub fn entries(&self, plan: &Plan) -> Vec<Vec<(About, FindingKind, &FindingGroup)>> {
        let mut entries: Vec<Vec<(About, FindingKind, &FindingGroup)>> = Vec::new();
        for (about, kind, group) in self.groups().into_iter().filter(|(_, kind, _)| !kind.is_note())
        {
            let origin = plan.origin_of(about);
            let is_same = |(other, _, of): &(About, FindingKind, &FindingGroup)| {
                origin.is_some()
                    && plan.origin_of(*other) == origin
                    && of.rows.is_same(&group.rows)
                    && !of.is_of_column
                    && !group.is_of_column
            };
            match entries.iter_mut().find(|entry| entry.iter().all(is_same)) {
                Some(entry) => entry.push((about, kind, group)),
                None => entries.push(vec![(about, kind, group)]),
            }
        }
        entries
    }

    /// All findings and notes: what about, kind, reason, counts; in the order of the cuts, each
    /// with the commonest reason first.
    pub fn findings(&self) -> Vec<(About, FindingKind, &str, &FindingTally)> {
        let groups = self.groups();
        groups
            .iter()
            .flat_map(|(about, kind, group)| {
                group.reasons().into_iter().map(|(reason, tally)| (*about, *kind, reason, tally))
            })
            .collect()
    }
}

/// Where a finding was made.
#[derive(Clone, Copy)]
struct FindingPlace<'c> {
    row: u64,
    line: u64,
    cell: &'c str,
}
