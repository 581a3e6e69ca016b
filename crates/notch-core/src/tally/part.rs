//! Counts of a part of a table, to be written down and put together with those of other parts.
//!
//! Put together they are what one run over all parts in their order would have counted, as long as
//! no part has more shapes or reasons than are told apart: what is beyond is counted together
//! there.

use serde::{Deserialize, Serialize};

use super::{
    CutTally, EventTally, FindingExample, FindingGroup, FindingTally, OutputTally, RowSet, Tally,
    TextsTold,
};
use crate::finding::{About, FindingKind};
use crate::hash;
use crate::program::Plan;
use crate::shape::{ShapeCounts, ShapesPart};

/// By how much the lines of each part are ahead of those of the part before: more than any has.
pub const LINES_OF_PART: u64 = 1 << 40;

/// What was counted of a part of a table ([`Tally::to_part`]).
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TallyPart {
    outputs: Vec<OutputPart>,
    cuts: Vec<CutTally>,
    unchecked: Vec<u64>,
    groups: Vec<GroupPart>,
    rows: Vec<(About, RowSet)>,
    rows_with_findings: u64,
    events: Vec<(usize, EventTally)>,
}

#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct OutputPart {
    filled: u64,
    blank: u64,
    failed: u64,
    shapes: ShapesPart,
}

#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct GroupPart {
    about: About,
    kind: FindingKind,
    rows: RowSet,
    reasons: Vec<(Box<str>, FindingTally)>,
    shapes: ShapesPart,
    examples: Vec<FindingExample>,
}

impl Tally {
    /// What was counted, to be put together with that of other parts. It is taken before
    /// [`Tally::conclude`], which asks what all parts show together.
    pub fn to_part(&self) -> TallyPart {
        let output = |of: &OutputTally| OutputPart {
            filled: of.filled,
            blank: of.blank,
            failed: of.failed,
            shapes: of.shapes.to_part(),
        };
        let group = |((about, kind), of): (&(About, FindingKind), &FindingGroup)| GroupPart {
            about: *about,
            kind: *kind,
            rows: of.rows,
            reasons: of.reasons.iter().map(|(reason, tally)| (reason.clone(), *tally)).collect(),
            shapes: of.shapes.to_part(),
            examples: of.examples.clone(),
        };
        TallyPart {
            outputs: self.outputs.iter().map(output).collect(),
            cuts: self.cuts.clone(),
            unchecked: self.unchecked.clone(),
            groups: self.groups.iter().map(group).collect(),
            rows: self.rows.iter().map(|(about, rows)| (*about, *rows)).collect(),
            rows_with_findings: self.rows_with_findings,
            events: self.events.iter().map(|(id, event)| (*id, event.clone())).collect(),
        }
    }

    /// The counts of all parts of a table, in their order. The lines of each are [`LINES_OF_PART`]
    /// ahead of those of the one before. `None` where a part was counted by another plan, or holds
    /// what no run counts.
    pub fn of_parts(plan: &Plan, parts: impl IntoIterator<Item = TallyPart>) -> Option<Tally> {
        let mut whole = Tally::telling(plan, TextsTold::Examples);
        for (n, part) in (0..).zip(parts) {
            let lengths = |tally: &Tally| {
                let chains = tally.cuts.iter().map(|cut| (cut.branches.len(), cut.unmet.len()));
                (tally.outputs.len(), tally.unchecked.len(), chains.collect::<Vec<_>>())
            };
            if !part.is_of(plan) {
                return None;
            }
            let mut part = part.into_tally(n);
            if lengths(&part) != lengths(&whole) {
                return None;
            }
            whole.merge(&mut part);
        }
        Some(whole)
    }
}

impl TallyPart {
    /// Whether everything is about what the plan has, and no line or count is larger than any table
    /// makes it: a file of counts may be damaged.
    fn is_of(&self, plan: &Plan) -> bool {
        let is_known = |about: About| match about {
            About::Name { cut, name } => cut < plan.len() && name < plan.names(cut).count(),
            About::Cut(cut) => cut < plan.len(),
            About::Column(source) => source < plan.sources().len(),
            About::Check(check) => check < plan.checks().len(),
            About::Row => true,
        };
        let shapes = |of: &ShapesPart| of.figures().all(|figure| figure < LINES_OF_PART);
        let groups = self.groups.iter().all(|of| {
            let reasons = of.reasons.iter().flat_map(|(_, of)| [of.count, of.first_line]);
            let examples = of.examples.iter().map(|of| of.line);
            is_known(of.about)
                && shapes(&of.shapes)
                && reasons.chain(examples).all(|figure| figure < LINES_OF_PART)
        });
        let outputs = self.outputs.iter().all(|of| {
            shapes(&of.shapes)
                && [of.filled, of.blank, of.failed].iter().all(|count| *count < LINES_OF_PART)
        });
        let cuts = self.cuts.iter().flat_map(|of| of.branches.iter().chain(&of.unmet));
        let counts = cuts.chain(self.cuts.iter().map(|of| &of.none)).chain(&self.unchecked);
        let events = self.events.iter().flat_map(|(_, of)| [of.count, of.first_line]);
        let sets = self.rows.iter().map(|(_, of)| of).chain(self.groups.iter().map(|of| &of.rows));
        groups
            && outputs
            && self.rows.iter().all(|(about, _)| is_known(*about))
            && counts.copied().chain(events).all(|figure| figure < LINES_OF_PART)
            && sets.map(RowSet::count).all(|rows| rows < LINES_OF_PART)
            && self.rows_with_findings < LINES_OF_PART
    }

    /// The same as the counts of a part of a run, the one of that number from 0.
    fn into_tally(self, n: u64) -> Tally {
        let by = n * LINES_OF_PART;
        // Rows of one number in two parts are two rows.
        let rows = |rows: RowSet| rows.scattered(hash::of_row(n + 1) | 1);
        let output = |of: OutputPart| OutputTally {
            filled: of.filled,
            blank: of.blank,
            failed: of.failed,
            shapes: ShapeCounts::of_part(of.shapes, by),
        };
        let group = |of: GroupPart| {
            let tally = |tally: FindingTally| FindingTally {
                first_line: tally.first_line + by,
                rows: rows(tally.rows),
                ..tally
            };
            let example =
                |example: FindingExample| FindingExample { line: example.line + by, ..example };
            let reasons = of.reasons.into_iter().map(|(reason, of)| (reason, tally(of)));
            let group = FindingGroup {
                rows: rows(of.rows),
                reasons: reasons.collect(),
                shapes: ShapeCounts::of_part(of.shapes, by),
                examples: of.examples.into_iter().map(example).collect(),
                is_of_column: false,
            };
            ((of.about, of.kind), group)
        };
        let event = |(id, event): (usize, EventTally)| {
            (id, EventTally { first_line: event.first_line + by, ..event })
        };
        Tally {
            outputs: self.outputs.into_iter().map(output).collect(),
            cuts: self.cuts,
            unchecked: self.unchecked,
            groups: self.groups.into_iter().map(group).collect(),
            rows: self.rows.into_iter().map(|(about, of)| (about, rows(of))).collect(),
            is_part: true,
            texts: TextsTold::Examples,
            rows_with_findings: self.rows_with_findings,
            events: self.events.into_iter().map(event).collect(),
            ..Tally::default()
        }
    }
}
