//! The summary after a run: rows, each new column with its shapes, branches, findings.

use notch_core::{About, FindingKind, Plan, ShapeCounts};
use notch_table::Summary;

use super::columns::{Align, aligned};
use super::style::{self, set};
use super::width::{clipped, counted, visible, window};

/// How many kinds of finding the summary tells apart before it points to the findings file.
const MOST_FINDINGS: usize = 12;

/// The summary as it is printed.
pub fn summary(summary: &Summary, plan: &Plan, table: &str, went_to: &WentTo, lists_findings: bool) -> String {
    let mut text = rows(summary, table, went_to);
    text.push_str(&outputs(summary, plan));
    text.push_str(&branches(summary, plan));
    text.push_str(&findings(summary, plan, lists_findings));
    text
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
    let mut text = set(style::STRONG, parts.join(", "));
    text.push_str(".\n");
    if summary.read == 0 {
        text.push_str("The table has a header and no rows.\n");
    }
    if summary.empty_lines > 0 {
        text.push_str(&format!("{} with nothing in it passed over.\n", counted(summary.empty_lines, "line")));
    }
    text
}

fn outputs(summary: &Summary, plan: &Plan) -> String {
    let kinds: Vec<FindingKind> = [FindingKind::Missing, FindingKind::Short, FindingKind::Over]
        .into_iter()
        .filter(|kind| plan.outputs().iter().any(|output| summary.tally.count(about(output), *kind) > 0))
        .collect();
    let mut header = vec!["new column".to_owned(), "filled".to_owned(), "blank".to_owned()];
    header.extend(kinds.iter().map(|kind| kind.name().to_owned()));
    header.push("shapes of its texts, rarest last".to_owned());
    let mut align = vec![Align::Right; header.len()];
    (align[0], align[header.len() - 1]) = (Align::Left, Align::Left);
    let names = plan.outputs().iter().map(|output| super::width(&visible(&output.name))).max().unwrap_or(0).max(10);
    let room = window().saturating_sub(names + 24 + kinds.len() * 9).max(30);

    let mut rows = vec![header];
    for (output, tally) in plan.outputs().iter().zip(&summary.tally.outputs) {
        let mut row = vec![visible(&output.name), tally.filled.to_string(), tally.blank.to_string()];
        row.extend(kinds.iter().map(|kind| summary.tally.count(about(output), *kind).to_string()));
        row.push(shapes(&tally.shapes, room));
        rows.push(row);
    }
    aligned(&rows, &align)
}

fn about(output: &notch_core::Output) -> About {
    About::Name { cut: output.cut, name: output.name_place }
}

/// Shapes in the order of their frequency; when there are many, the commonest and the rarest.
fn shapes(shapes: &ShapeCounts, room: usize) -> String {
    let ranked = shapes.ranked();
    let said = |(shape, count): &(&str, u64)| format!("{} {count}", visible(shape));
    let all: Vec<String> = ranked.iter().map(said).collect();
    let joined = all.join(" · ");
    let beyond = if shapes.beyond() > 0 {
        format!(" · more than {} shapes, {} texts beyond", ranked.len(), shapes.beyond())
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
        if super::width(&kept.join(" · ")) + super::width(next) + super::width(&tail(kept.len())) + 3 > room {
            break;
        }
        kept.push(next.clone());
    }
    if kept.len() + 1 == all.len() { joined } else { format!("{}{}", kept.join(" · "), tail(kept.len())) }
}

fn branches(summary: &Summary, plan: &Plan) -> String {
    let mut text = String::new();
    for (cut, tally) in summary.tally.cuts.iter().enumerate().filter(|(_, tally)| tally.branches.len() > 1) {
        let mut rows: Vec<Vec<String>> = plan
            .branches(cut)
            .zip(tally.branches.iter().zip(&tally.unmet))
            .enumerate()
            .map(|(n, (label, (taken, unmet)))| {
                let joint = if n == 0 { String::new() } else { "else".to_owned() };
                let note = if *unmet > 0 { format!("(condition not met: {unmet})") } else { String::new() };
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

fn findings(summary: &Summary, plan: &Plan, lists_findings: bool) -> String {
    let all = summary.tally.findings();
    let (notes, found): (Vec<_>, Vec<_>) = all.into_iter().partition(|(_, kind, ..)| kind.is_note());
    let mut text = String::new();
    let row = |(about, kind, reason, tally): &(About, FindingKind, &str, &notch_core::FindingTally)| {
        let first = format!("first in line {}", tally.first_line);
        vec![tally.count.to_string(), name(plan, *about), kind.name().to_owned(), visible(reason), first]
    };
    let align = [Align::Right, Align::Left, Align::Left, Align::Left, Align::Left];
    if !found.is_empty() {
        let total: u64 = found.iter().map(|(.., tally)| tally.count).sum();
        let head = format!("{} in {}:", counted(total, "finding"), counted(summary.tally.rows_with_findings, "row"));
        text.push_str(&format!("\n{}\n", set(style::FINDING, head)));
        let rows: Vec<Vec<String>> = found.iter().take(MOST_FINDINGS).map(row).collect();
        text.push_str(&aligned(&rows, &align));
        if found.len() > MOST_FINDINGS {
            text.push_str(&format!("  … and {} more reasons\n", found.len() - MOST_FINDINGS));
        }
    }
    if !notes.is_empty() {
        text.push('\n');
    }
    for (about, kind, reason, tally) in &notes {
        let (name, n, first) = (name(plan, *about), tally.count, tally.first_line);
        let verb = if n == 1 { "is" } else { "are" };
        text.push_str(&match kind {
            FindingKind::Doubtful => {
                format!("Note: {} of {name} {verb} doubtful: {reason}, first in line {first}.\n", counted(n, "number"))
            }
            _ => format!("Note: {} of {name} {verb} blank, first in line {first}.\n", counted(n, "cell")),
        });
    }
    if !found.is_empty() && !lists_findings {
        text.push_str("List every finding with its row: --findings FILE. Take these rows out: --rejects FILE.\n");
    }
    text
}

fn name(plan: &Plan, about: About) -> String {
    let name = match about {
        About::Name { cut, name } => plan.names(cut).nth(name).unwrap_or_default(),
        About::Cut(cut) => plan.left_side(cut),
        About::Column(source) => plan.sources().get(source).map_or("", |source| &source.name),
        About::Row => "(row)",
    };
    visible(name)
}
