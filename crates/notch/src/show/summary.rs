//! The summary after a run: rows, each new column with its shapes, branches, findings.
//!
//! It is made from the [`Summary`] of the run alone, so the same counts give the same text for one
//! thread and for many. `check` prints its verdict with the same parts.

use keen_notch_core::{About, FindingKind, FindingTally, Plan, ShapeCount, ShapeCounts, Tally};
use keen_notch_table::Summary;

use crate::jig::Jig;
use crate::jig::allowance::Judged;
use crate::jig::baseline::{Drift, FURTHER, USUAL_DRIFT};
use crate::jig::file::Remembered;

use super::columns::{Align, aligned};
use super::style::{self, set};
use super::width::{clipped, counted, visible, window};

/// How many kinds of finding the summary tells apart before it points to the findings file.
const MOST_FINDINGS: usize = 12;
/// How many names are listed where findings are about several.
const MOST_NAMES: usize = 6;

/// What is to be said of a run beside its counts.
pub struct Outcome {
    /// What has findings, held against what is put up with.
    pub judged: Vec<Judged>,
    /// What no longer looks as it was remembered.
    pub drifts: Vec<Drift>,
    /// How far shares may move, in points of a hundred.
    pub points: f64,
    /// Whether there are more findings than are put up with.
    pub has_findings: bool,
}

impl Outcome {
    /// Holds a run against what its jig expects; `points` is how far shares may move, where the
    /// command line says it.
    pub fn of(jig: &Jig, plan: &Plan, summary: &Summary, points: Option<f64>) -> Self {
        let judged = jig.judge(plan, &summary.tally, summary.read);
        let points = points
            .or(jig.remembered.as_ref().and_then(|remembered| remembered.drift))
            .unwrap_or(USUAL_DRIFT);
        let drift =
            |remembered: &Remembered| remembered.drift(plan, &summary.tally, summary.read, points);
        let drifts = jig.remembered.as_ref().map(drift).unwrap_or_default();
        // What is wrong with a column as a whole is in no row, so no allowance of rows is for it.
        let has_findings =
            judged.iter().any(|judged| !judged.within) || summary.tally.column_findings > 0;
        Self { has_findings, judged, drifts, points }
    }
}

/// The summary as it is printed.
pub fn summary(
    summary: &Summary,
    plan: &Plan,
    table: &str,
    went_to: &WentTo,
    outcome: &Outcome,
    lists_findings: bool,
) -> String {
    let mut text = rows(summary, table, went_to);
    summary.said.iter().for_each(|said| text.push_str(&format!("{}\n", visible(said))));
    text.push_str(&outputs(summary, plan));
    text.push_str(&branches(summary, plan));
    text.push_str(&findings(summary, plan, lists_findings));
    text.push_str(&allowed(plan, &outcome.judged));
    text.push_str(&unchecked(summary, plan));
    text.push_str(&drifted(summary, &outcome.drifts, outcome.points));
    text
}

/// The checks of whole rows that could not be made everywhere.
pub fn unchecked(summary: &Summary, plan: &Plan) -> String {
    let checks = plan.checks().zip(&summary.tally.unchecked).filter(|(_, rows)| **rows > 0);
    let said = checks.map(|(title, rows)| {
        format!(
            "Note: “{}” was not checked in {}, where what it asks about is blank or missing.\n",
            visible(title),
            counted(*rows, "row")
        )
    });
    said.collect()
}

/// Allowances that were exceeded or used, one line each.
pub fn allowed(plan: &Plan, judged: &[Judged]) -> String {
    let said = judged.iter().filter_map(|judged| {
        let allowance = judged.allowance?;
        let verdict = if judged.within { "put up with" } else { "more than is put up with" };
        Some(format!(
            "{} with findings of {}: {verdict} ({allowance}).\n",
            counted(judged.rows, "row"),
            name(plan, judged.about)
        ))
    });
    said.collect()
}

/// What no longer looks as it was remembered, one line each.
pub fn drifted(summary: &Summary, drifts: &[Drift], points: f64) -> String {
    if drifts.is_empty() {
        return String::new();
    }
    let rows: Vec<Vec<String>> = drifts
        .iter()
        .map(|drift| {
            let shape = match drift.shape.as_str() {
                "" => "(blank)".to_owned(),
                FURTHER => "(no layout)".to_owned(),
                shape => visible(shape),
            };
            let first = drift
                .first_line
                .map_or(String::new(), |line| format!("first in {}", summary.places.line(line)));
            let moved = match drift.before {
                None => format!("never seen before, now {}", counted(drift.rows, "row")),
                Some(before) => {
                    format!("was in {before:.1}% of the rows, now in {:.1}%", drift.now)
                }
            };
            vec![visible(&drift.column), shape, moved, first]
        })
        .collect();
    let head = format!(
        "Not as remembered (new shapes and layouts, and shares that moved by more than {points} \
        points):"
    );
    format!("\n{}\n{}", set(style::FINDING, head), aligned(&rows, &[Align::Left; 4]))
}

/// Where the rows went.
pub enum WentTo {
    /// Standard output.
    Standard,
    /// A file of this name.
    File(String),
    /// The screen, the first of them.
    Preview,
}

fn rows(summary: &Summary, table: &str, went_to: &WentTo) -> String {
    let mut parts = vec![format!("{} read from {table}", counted(summary.read, "row"))];
    match went_to {
        WentTo::Standard => parts.push(format!("{} written", summary.written)),
        WentTo::File(name) => parts.push(format!("{} written to {name}", summary.written)),
        WentTo::Preview => parts.push("none written: this is a preview".to_owned()),
    }
    if summary.rejected > 0 {
        parts.push(format!("{} rejected", summary.rejected));
    }
    if summary.left_out > 0 {
        parts.push(format!("{} left out by the condition", summary.left_out));
    }
    let mut text = set(style::STRONG, visible(&parts.join(", ")));
    text.push_str(".\n");
    if summary.read == 0 {
        text.push_str("The table has a header and no rows.\n");
    }
    if summary.empty_lines > 0 {
        text.push_str(&format!(
            "{} with nothing in it passed over.\n",
            counted(summary.empty_lines, "line")
        ));
    }
    text
}

/// Each new column with its counts and shapes.
pub fn outputs(summary: &Summary, plan: &Plan) -> String {
    let fails = summary.tally.outputs.iter().any(|output| output.failed > 0);
    let kinds: Vec<FindingKind> = [FindingKind::Missing, FindingKind::Short, FindingKind::Over]
        .into_iter()
        .filter(|kind| plan.outputs().iter().any(|output| count(summary, output, *kind) > 0))
        .collect();
    let mut header = vec!["new column".to_owned(), "filled".to_owned(), "blank".to_owned()];
    // A cell that is missing is blank, too: in brackets how many of those are.
    let of_blank = |kind: FindingKind, text: String| {
        if kind == FindingKind::Missing { format!("({text})") } else { text }
    };
    let said = |kind: &FindingKind| of_blank(*kind, kind.name().to_owned());
    header.extend(kinds.iter().map(said));
    if fails {
        header.push("failed".to_owned());
    }
    header.push("shapes of its texts, rarest last".to_owned());
    let mut align = vec![Align::Right; header.len()];
    (align[0], align[header.len() - 1]) = (Align::Left, Align::Left);
    let names = plan
        .outputs()
        .iter()
        .map(|output| super::width(&visible(&output.name)))
        .max()
        .unwrap_or(0)
        .max(10);
    let room = window()
        .saturating_sub(
            names
                + 24
                + header[3..header.len() - 1].iter().map(|title| title.len() + 2).sum::<usize>(),
        )
        .max(30);

    let mut rows = vec![header];
    for (output, tally) in plan.outputs().iter().zip(&summary.tally.outputs) {
        let mut row =
            vec![visible(&output.name), tally.filled.to_string(), tally.blank.to_string()];
        row.extend(kinds.iter().map(|kind| match count(summary, output, *kind) {
            0 if *kind == FindingKind::Missing => String::new(),
            count => of_blank(*kind, count.to_string()),
        }));
        if fails {
            row.push(tally.failed.to_string());
        }
        row.push(shapes(&tally.shapes, room));
        rows.push(row);
    }
    aligned(&rows, &align)
}

/// In how many rows a new column has findings of a kind, be they about all columns of its cut.
pub fn count(summary: &Summary, output: &keen_notch_core::Output, kind: FindingKind) -> u64 {
    let own = summary.tally.count(About::Name { cut: output.cut, name: output.name_place }, kind);
    own + if kind == FindingKind::Missing {
        summary.tally.count(About::Cut(output.cut), kind)
    } else {
        0
    }
}

/// Shapes in the order of their frequency, those of sentences in words; when there are many, the
/// commonest and the rarest.
pub fn shapes(shapes: &ShapeCounts, room: usize) -> String {
    let ranked: Vec<(String, u64)> = shapes.in_words().unwrap_or_else(|| {
        let shape = |known: &ShapeCount| (known.shape.to_string(), known.count);
        shapes.ranked().into_iter().map(shape).collect()
    });
    let said = |(shape, count): &(String, u64)| {
        let shape = if shape.is_empty() { "(blank)".to_owned() } else { visible(shape) };
        format!("{shape} {count}")
    };
    let all: Vec<String> = ranked.iter().map(said).collect();
    let joined = all.join(" · ");
    let beyond = if shapes.beyond() > 0 {
        let kept = shapes.ranked().len();
        format!(" · more than {kept} shapes, {} texts beyond", shapes.beyond())
    } else {
        String::new()
    };
    if ranked.len() <= 2 || super::width(&joined) + beyond.len() <= room {
        return clipped(&format!("{joined}{beyond}"), room.max(40));
    }
    let last = &all[all.len() - 1];
    let mut kept = all[..1].to_vec();
    let tail = |kept: usize| format!(" · … {} more … · {last}{beyond}", all.len() - kept - 1);
    for next in &all[1..all.len() - 1] {
        if super::width(&kept.join(" · "))
            + super::width(next)
            + super::width(&tail(kept.len()))
            + 3
            > room
        {
            break;
        }
        kept.push(next.clone());
    }
    if kept.len() + 1 == all.len() {
        joined
    } else {
        format!("{}{}", kept.join(" · "), tail(kept.len()))
    }
}

/// Which chains the values of a cut came from, for cuts with several.
pub fn branches(summary: &Summary, plan: &Plan) -> String {
    let mut text = String::new();
    for (cut, tally) in
        summary.tally.cuts.iter().enumerate().filter(|(_, tally)| tally.branches.len() > 1)
    {
        let mut rows: Vec<Vec<String>> = plan
            .branches(cut)
            .zip(tally.branches.iter().zip(&tally.unmet))
            .enumerate()
            .map(|(n, (label, (taken, unmet)))| {
                let joint = if n == 0 { String::new() } else { "else".to_owned() };
                let note = if *unmet > 0 {
                    format!("(condition not met: {unmet})")
                } else {
                    String::new()
                };
                vec![joint, taken.to_string(), visible(label), note]
            })
            .collect();
        rows.push(vec![String::new(), tally.none.to_string(), "(none of them)".to_owned()]);
        text.push_str(&format!(
            "\nWhere {} came from:\n{}",
            visible(plan.left_side(cut)),
            aligned(&rows, &[Align::Left, Align::Right, Align::Left, Align::Left])
        ));
    }
    text
}

/// A finding that was counted: what about, its kind, reason and counts.
pub type Told<'t> = (About, FindingKind, &'t str, &'t FindingTally);

/// Findings of one kind with one reason about cells of one column in the same rows, with all that
/// they are about.
pub fn together<'t>(plan: &Plan, found: &[Told<'t>]) -> Vec<(Vec<About>, Told<'t>)> {
    let mut all: Vec<(Vec<About>, Told<'t>)> = Vec::new();
    for told in found {
        let (about, kind, reason, tally) = told;
        let origin = plan.origin_of(*about);
        let is_same = |(_, (other, other_kind, other_reason, of)): &(Vec<About>, Told<'_>)| {
            (other_kind, other_reason) == (kind, reason)
                && origin.is_some()
                && plan.origin_of(*other) == origin
                && of.rows.count() > 0
                && of.rows.is_same(&tally.rows)
        };
        match all.iter_mut().find(|known| is_same(known)) {
            Some((abouts, _)) => abouts.push(*about),
            None => all.push((vec![*about], *told)),
        }
    }
    all
}

/// Names one after the other; of many the first ones.
pub fn listed(names: &[String]) -> String {
    let more = names.len().saturating_sub(MOST_NAMES);
    let end = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{end}", names[..names.len() - more].join(", "))
}

fn findings(summary: &Summary, plan: &Plan, lists_findings: bool) -> String {
    let all = summary.tally.findings();
    let (notes, found): (Vec<_>, Vec<_>) =
        all.into_iter().partition(|(_, kind, ..)| kind.is_note());
    let mut text = String::new();
    let row = |(abouts, (_, kind, reason, tally)): &(Vec<About>, Told<'_>)| {
        let names: Vec<String> = abouts.iter().map(|about| name(plan, *about)).collect();
        let first = format!("first in {}", summary.places.line(tally.first_line));
        vec![
            tally.count.to_string(),
            listed(&names),
            kind.name().to_owned(),
            visible(reason),
            first,
        ]
    };
    let align = [Align::Right, Align::Left, Align::Left, Align::Left, Align::Left];
    if !found.is_empty() {
        let total: u64 = found.iter().map(|(.., tally)| tally.count).sum();
        let head = format!(
            "{} in {}:",
            counted(total, "finding"),
            counted(summary.tally.rows_with_findings, "row")
        );
        text.push_str(&format!("\n{}\n", set(style::FINDING, head)));
        let together = together(plan, &found);
        let rows: Vec<Vec<String>> = together.iter().take(MOST_FINDINGS).map(row).collect();
        text.push_str(&aligned(&rows, &align));
        if together.len() > MOST_FINDINGS {
            text.push_str(&format!("  … and {} more reasons\n", together.len() - MOST_FINDINGS));
        }
    }
    if !notes.is_empty() {
        text.push('\n');
    }
    for (about, kind, reason, tally) in &notes {
        let (name, n, first) =
            (name(plan, *about), tally.count, summary.places.line(tally.first_line));
        let verb = if n == 1 { "is" } else { "are" };
        text.push_str(&match kind {
            FindingKind::ZerosDropped => {
                format!("Note: {name}: {reason} in {}, first in {first}.\n", counted(n, "row"))
            }
            _ => {
                format!("Note: {} of {name} {verb} blank, first in {first}.\n", counted(n, "cell"))
            }
        });
    }
    if !found.is_empty() && !lists_findings {
        let rejects =
            if summary.rejected == 0 { " Take these rows out: --rejects FILE." } else { "" };
        text.push_str(&format!("List every finding with its row: --findings FILE.{rejects}\n"));
    }
    text
}

/// What the rows have shown of the cuts, one sentence each.
pub fn hints(plan: &Plan, tally: &Tally, line: impl Fn(u64) -> String) -> Vec<String> {
    plan.hints(tally, line)
        .into_iter()
        .map(|hint| format!("{}: {}", name(plan, hint.about), visible(&hint.text)))
        .collect()
}

/// What a finding is about, as it is called in summaries.
pub fn name(plan: &Plan, about: About) -> String {
    let name = match about {
        About::Column(source) => plan.sources().get(source).map_or("", |source| &source.name),
        About::Row => "(row)",
        about => plan.called(about),
    };
    visible(name)
}
