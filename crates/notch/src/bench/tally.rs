//! The lines of the tally: what all rows make of the cut in the line.

use keen_notch_core::{FindingKind, Plan};

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

/// The lines for a cut, by its place in the plan; for none where nothing is in force.
pub fn lines(
    counted: Option<(&Counted, &Plan)>,
    cut: Option<usize>,
    rows: u64,
    one_of_each: u64,
) -> Vec<TallyLine> {
    let line = |label: &str, indent, count, which| TallyLine {
        label: label.to_owned(),
        indent,
        count: Some(count),
        which: Some(which),
    };
    let mut lines = vec![
        line("all rows", 0, rows, Which::All),
        line("one of each layout", 0, one_of_each, Which::OneOfEach),
    ];
    let Some((counted, plan)) = counted else { return lines };
    let tally = &counted.tally;
    if let Some(cut) = cut {
        let outputs: Vec<_> = plan
            .outputs()
            .iter()
            .zip(&tally.outputs)
            .filter(|(output, _)| output.cut == cut)
            .collect();
        // Of several columns each is told by its name.
        let named = |what: &str, name: &str| match outputs.len() {
            1 => what.to_owned(),
            _ => format!("{what}: {}", visible(name)),
        };
        for (output, of) in &outputs {
            lines.push(line(&named("filled", &output.name), 0, of.filled, Which::Filled));
            lines.push(line(&named("blank", &output.name), 0, of.blank, Which::Blank));
        }
        let about: Vec<_> = tally
            .findings()
            .into_iter()
            .filter(|(about, ..)| is_about(plan, cut, *about))
            .collect();
        let found: u64 =
            about.iter().filter(|(_, kind, ..)| !kind.is_note()).map(|(.., of)| of.count).sum();
        lines.push(line("findings", 0, found, Which::Findings));
        for is_note in [false, true] {
            for (_, kind, reason, of) in
                about.iter().filter(|(_, kind, ..)| kind.is_note() == is_note)
            {
                let label = match is_note {
                    true if *kind == FindingKind::Blank => "cell is blank (a note)".to_owned(),
                    true => format!("{} (a note)", visible(reason)),
                    false => format!("{}: {}", kind.name(), visible(reason)),
                };
                let which = Which::Reason(*kind, (*reason).to_owned());
                lines.push(line(&label, if is_note { 0 } else { 2 }, of.count, which));
            }
        }
        let chains = &tally.cuts[cut].branches;
        if chains.len() > 1 {
            // What the first one has not given is told by the others.
            for (n, (label, count)) in plan.branches(cut).zip(chains).enumerate().skip(1) {
                let label = format!("chain {}: {}", n + 1, visible(label));
                lines.push(line(&label, 0, *count, Which::Chain(n)));
            }
        }
        for (output, of) in &outputs {
            let ranked = of.shapes.ranked();
            if ranked.is_empty() {
                continue;
            }
            lines.push(TallyLine {
                label: named("shapes", &output.name),
                indent: 0,
                count: None,
                which: None,
            });
            for shape in ranked.iter().take(MOST_SHAPES) {
                let which = Which::Shape(shape.shape.to_string());
                lines.push(line(&visible(&shape.shape), 2, shape.count, which));
            }
            let more = ranked.len().saturating_sub(MOST_SHAPES);
            if more > 0 || of.shapes.beyond() > 0 {
                let beyond: u64 = ranked.iter().skip(MOST_SHAPES).map(|shape| shape.count).sum();
                lines.push(TallyLine {
                    label: "further shapes".to_owned(),
                    indent: 2,
                    count: Some(beyond + of.shapes.beyond()),
                    which: None,
                });
            }
        }
    }
    lines.push(TallyLine { label: String::new(), indent: 0, count: None, which: None });
    let all: u64 = tally
        .findings()
        .iter()
        .filter(|(_, kind, ..)| !kind.is_note())
        .map(|(.., of)| of.count)
        .sum();
    lines.push(TallyLine {
        label: "all cuts: findings".to_owned(),
        indent: 0,
        count: Some(all),
        which: Some(Which::AnyFinding),
    });
    lines.push(line("all cuts: rows with one", 0, tally.rows_with_findings, Which::WithFinding));
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
