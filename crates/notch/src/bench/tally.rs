//! The lines of the tally: what all rows make of the cut in the line.

use keen_notch_core::{FindingKind, Plan, ShapeCount, ShapeCounts, Tally};

use super::count::{Counted, is_about};
use crate::show::visible;

/// Which rows a line stands for.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum Which {
    All,
    #[default]
    OneOfEach,
    Filled,
    Blank,
    Findings,
    Reason(FindingKind, String),
    /// The pieces of this chain, from 0.
    Chain(usize),
    Shape(String),
    /// With a finding of any cut; two lines stand for them, so there are two of these.
    AnyFinding,
    WithFinding,
}

/// A line of the tally.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TallyLine {
    /// What it is called.
    pub label: String,
    /// How far it is indented, in terminal columns.
    pub indent: usize,
    /// Its number; a heading has none.
    pub count: Option<u64>,
    /// The rows it stands for; a heading stands for none.
    pub which: Option<Which>,
}

/// No more shapes are listed.
const MOST_SHAPES: usize = 200;

impl TallyLine {
    fn of(label: impl Into<String>, indent: usize, count: u64, which: Which) -> Self {
        Self { label: label.into(), indent, count: Some(count), which: Some(which) }
    }

    fn heading(label: String) -> Self {
        Self { label, indent: 0, count: None, which: None }
    }
}

/// The lines for a cut, by its place in the plan; for none where nothing is in force.
pub fn lines(
    counted: Option<(&Counted, &Plan)>,
    cut: Option<usize>,
    rows: u64,
    one_of_each: u64,
) -> Vec<TallyLine> {
    let mut lines = vec![
        TallyLine::of("all rows", 0, rows, Which::All),
        TallyLine::of("one of each layout", 0, one_of_each, Which::OneOfEach),
    ];
    let Some((counted, plan)) = counted else { return lines };
    if let Some(cut) = cut {
        lines.extend(of_cut(&counted.tally, plan, cut));
    }
    let found = counted.tally.findings();
    let found = found.iter().filter(|(_, kind, ..)| !kind.is_note()).map(|(.., of)| of.count).sum();
    let with_one = counted.tally.rows_with_findings;
    lines.extend([
        TallyLine::heading(String::new()),
        TallyLine::of("all cuts: findings", 0, found, Which::AnyFinding),
        TallyLine::of("all cuts: rows with one", 0, with_one, Which::WithFinding),
    ]);
    lines
}

/// The lines of a cut: filled and blank, findings with their reasons, notes, chains, shapes.
fn of_cut(tally: &Tally, plan: &Plan, cut: usize) -> Vec<TallyLine> {
    let outputs = plan.outputs().iter().zip(&tally.outputs);
    let outputs: Vec<_> = outputs.filter(|(output, _)| output.cut == cut).collect();
    // Of several columns each is told by its name.
    let named = |what: &str, name: &str| match outputs.len() {
        1 => what.to_owned(),
        _ => format!("{what}: {}", visible(name)),
    };
    let mut lines = Vec::new();
    for (output, of) in &outputs {
        lines.push(TallyLine::of(named("filled", &output.name), 0, of.filled, Which::Filled));
        lines.push(TallyLine::of(named("blank", &output.name), 0, of.blank, Which::Blank));
    }
    let about = tally.findings().into_iter().filter(|(about, ..)| is_about(plan, cut, *about));
    let (notes, found): (Vec<_>, Vec<_>) = about.partition(|(_, kind, ..)| kind.is_note());
    let count = found.iter().map(|(.., of)| of.count).sum();
    lines.push(TallyLine::of("findings", 0, count, Which::Findings));
    for (_, kind, reason, of) in found {
        let label = format!("{}: {}", kind.name(), visible(reason));
        lines.push(TallyLine::of(label, 2, of.count, Which::Reason(kind, reason.to_owned())));
    }
    for (_, kind, reason, of) in notes {
        let said = match kind {
            FindingKind::Blank => "cell is blank".to_owned(),
            _ => visible(reason),
        };
        let which = Which::Reason(kind, reason.to_owned());
        lines.push(TallyLine::of(format!("{said} (a note)"), 0, of.count, which));
    }
    // What the first chain has not given is told by the others.
    let chains = plan.branches(cut).zip(&tally.cuts[cut].branches).enumerate().skip(1);
    for (n, (label, count)) in chains {
        let label = format!("chain {}: {}", n + 1, visible(label));
        lines.push(TallyLine::of(label, 0, *count, Which::Chain(n)));
    }
    for (output, of) in &outputs {
        lines.extend(shapes(named("shapes", &output.name), &of.shapes));
    }
    lines
}

/// The shapes of a new column, the commonest first, below a heading; nothing where it has none.
fn shapes(heading: String, shapes: &ShapeCounts) -> Vec<TallyLine> {
    let ranked = shapes.ranked();
    if ranked.is_empty() {
        return Vec::new();
    }
    let line = |shape: &&ShapeCount| {
        let which = Which::Shape(shape.shape.to_string());
        TallyLine::of(visible(&shape.shape), 2, shape.count, which)
    };
    let mut lines = vec![TallyLine::heading(heading)];
    lines.extend(ranked.iter().take(MOST_SHAPES).map(line));
    let more: u64 = ranked.iter().skip(MOST_SHAPES).map(|shape| shape.count).sum();
    if more + shapes.beyond() > 0 {
        let count = Some(more + shapes.beyond());
        lines.push(TallyLine { label: "further shapes".to_owned(), indent: 2, count, which: None });
    }
    lines
}

/// The rows that a line stands for, by their numbers; `None` where they are not listed, as all rows
/// and one of each layout are not.
pub fn rows<'c>(which: &Which, counted: &'c Counted, cut: Option<usize>) -> Option<&'c [u32]> {
    let of = cut.and_then(|cut| counted.lists.cuts.get(cut));
    match which {
        Which::All | Which::OneOfEach => None,
        Which::AnyFinding | Which::WithFinding => Some(&counted.lists.with_finding),
        Which::Filled => of.map(|of| of.filled.as_slice()),
        Which::Blank => of.map(|of| of.blank.as_slice()),
        Which::Findings => of.map(|of| of.findings.as_slice()),
        Which::Reason(kind, reason) => {
            let known = of?.reasons.get(&(*kind, reason.clone()));
            Some(known.map_or(&[], Vec::as_slice))
        }
        Which::Chain(n) => of?.chains.get(*n).map(Vec::as_slice),
        Which::Shape(shape) => Some(of?.shapes.get(shape.as_str()).map_or(&[], Vec::as_slice)),
    }
}
