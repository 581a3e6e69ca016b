//! What `notch check` prints: the counts, then the findings by what they are about, each with
//! examples.

use keen_notch_core::{
    About, FindingExample, FindingGroup, FindingKind, Plan, ShapeCount, ShapeCounts,
};
use keen_notch_table::{Summary, Whereabouts};
use serde_json::{Value, json};

use super::columns::{Align, aligned};
use super::places::at;
use super::style::{self, set};
use super::summary::{
    Outcome, Told, allowed, count, drifted, listed, name, outputs, shapes, together, unchecked,
};
use super::width::{clipped, counted, share, visible, window};

/// How wide a text of an example may be, in terminal columns.
const WIDEST: usize = 40;
/// How many reasons of a group are shown.
const MOST_REASONS: usize = 8;

/// The report as text.
pub fn report(
    summary: &Summary,
    plan: &Plan,
    table: &str,
    outcome: &Outcome,
    lists_findings: bool,
) -> String {
    let odd = summary.tally.rows_with_findings;
    let head = counts_in_words(summary, table);
    let mut text = format!("{}\n", set(style::STRONG, visible(&head)));
    if summary.read == 0 {
        text.push_str("The table has a header and no rows.\n");
    }
    if summary.empty_lines > 0 {
        text.push_str(&format!(
            "{} with nothing in it passed over.\n",
            counted(summary.empty_lines, "line")
        ));
    }
    if !plan.outputs().is_empty() {
        text.push_str(&outputs(summary, plan));
    }
    for entry in summary.tally.entries(plan) {
        text.push_str(&entry_text(summary, plan, &entry));
    }
    let groups = summary.tally.groups();
    let notes: Vec<_> = groups.into_iter().filter(|(_, kind, _)| kind.is_note()).collect();
    if !notes.is_empty() {
        text.push_str("\nNotes, which are no findings:\n");
        let rows: Vec<Vec<String>> = notes
            .iter()
            .flat_map(|(about, kind, group)| {
                group
                    .reasons()
                    .into_iter()
                    .map(move |(reason, tally)| (*about, *kind, reason, tally))
            })
            .map(|(about, kind, reason, tally)| {
                let reason = if reason == kind.name() { String::new() } else { visible(reason) };
                let kind = kind.name().to_owned();
                vec![
                    tally.count.to_string(),
                    name(plan, about),
                    kind,
                    reason,
                    format!("first in {}", summary.places.line(tally.first_line)),
                ]
            })
            .collect();
        text.push_str(&aligned(
            &rows,
            &[Align::Right, Align::Left, Align::Left, Align::Left, Align::Left],
        ));
    }
    let said = format!("{}{}", allowed(plan, &outcome.judged), unchecked(summary, plan));
    if !said.is_empty() {
        text.push_str(&format!("\n{said}"));
    }
    text.push_str(&drifted(summary, &outcome.drifts, outcome.points));
    let verdict = verdict(outcome, odd, lists_findings);
    text.push_str(&format!("\n{}\n", set(style::STRONG, verdict)));
    text
}

/// How many rows there are, with findings and without, in one sentence.
pub fn counts_in_words(summary: &Summary, table: &str) -> String {
    let odd = summary.tally.rows_with_findings;
    match odd {
        0 => format!("{} read from {table}: no findings.", counted(summary.read, "row")),
        _ => format!(
            "{} read from {table}: {} without findings, {odd} with findings ({}).",
            counted(summary.read, "row"),
            summary.read - odd,
            share(odd, summary.read)
        ),
    }
}

/// Whether all is as expected, in one sentence; `odd` is the number of rows with findings.
pub fn verdict(outcome: &Outcome, odd: u64, lists_findings: bool) -> &'static str {
    match (outcome.has_findings, outcome.drifts.is_empty(), odd) {
        (true, ..) if lists_findings => "Not as expected.",
        (true, ..) => "Not as expected. Every finding with its row: --findings FILE.",
        (false, false, _) => {
            "The columns no longer look as they did. When that is right: --remember."
        }
        (false, true, 0) => "All as expected.",
        (false, true, _) => "As expected: the findings are put up with.",
    }
}

/// Findings of one kind about one thing, or of several cuts of one column in the same rows.
fn entry_text(
    summary: &Summary,
    plan: &Plan,
    entry: &[(About, FindingKind, &FindingGroup)],
) -> String {
    let Some((about, kind, group)) = entry.first() else { return String::new() };
    let names: Vec<String> = entry.iter().map(|(about, ..)| name(plan, *about)).collect();
    let alike = entry.iter().all(|(_, other, of)| (other, said(of)) == (kind, said(group)));
    let (of, rows) = (share(group.rows.count(), summary.read), group.rows.count());
    let head = match entry.len() {
        1 if group.is_of_column => {
            format!("{}: {} {} (the column as a whole)", names[0], group.count(), kind.name())
        }
        1 => format!(
            "{}: {} {} ({} of the rows)",
            names[0],
            group.count(),
            kind.name(),
            share(group.count(), summary.read)
        ),
        _ if alike => format!(
            "{}: {} in the same {} ({of} of the rows)",
            listed(&names),
            kind.name(),
            counted(rows, "row")
        ),
        _ => format!("{}: the same {} ({of} of the rows)", listed(&names), counted(rows, "row")),
    };
    let mut text = format!("\n{}\n", set(style::FINDING, head));
    text.push_str(&reasons_text(summary, plan, if alike { &entry[..1] } else { entry }, !alike));
    // Of several cuts the cells are shown that gave rise to all of their findings. What a check of
    // a row asked about is several texts, which have no shape together.
    let of_cells = entry.iter().find(|(_, kind, _)| {
        entry.len() == 1 || matches!(kind, FindingKind::Missing | FindingKind::Layout)
    });
    let has_texts =
        |group: &FindingGroup| group.shapes.ranked().iter().any(|shape| !shape.shape.is_empty());
    if let Some((.., group)) =
        of_cells.filter(|(.., group)| !matches!(about, About::Check(_)) && has_texts(group))
    {
        text.push_str(&format!(
            "  shapes: {}\n",
            shapes(&group.shapes, window().saturating_sub(12).max(40))
        ));
    }
    text.push_str(&examples_text(summary, group, entry.len() > 1, alike));
    text
}

/// The first rows of a group, a line each; `is_of_several` says that it stands for several cuts,
/// `alike` that they have the same to say.
fn examples_text(
    summary: &Summary,
    group: &FindingGroup,
    is_of_several: bool,
    alike: bool,
) -> String {
    let quoted = |text: &str| match text {
        "" => String::new(),
        text => format!("“{}”", clipped(&visible(text), WIDEST)),
    };
    let reasons = group.reasons();
    let row = |example: &FindingExample| {
        let has_value = example.value != example.cell && !is_of_several;
        let says_more = reasons.first().is_none_or(|(reason, _)| *reason != example.reason);
        let has_reason = alike && (reasons.len() > 1 || says_more);
        vec![
            format!("row {}", example.row),
            summary.places.line(example.line),
            quoted(&example.cell),
            if has_value { quoted(&example.value) } else { String::new() },
            if has_reason { visible(&example.reason) } else { String::new() },
        ]
    };
    let rows: Vec<Vec<String>> = group.examples.iter().map(row).collect();
    // A column in which nothing stands takes no room.
    let columns: Vec<usize> =
        (0..5).filter(|column| rows.iter().any(|row| !row[*column].is_empty())).collect();
    let rows: Vec<Vec<String>> = rows
        .into_iter()
        .map(|row| columns.iter().map(|column| row[*column].clone()).collect())
        .collect();
    aligned(&rows, &vec![Align::Left; columns.len()])
}

/// The reasons of a group with their counts.
fn said(group: &FindingGroup) -> Vec<(&str, u64)> {
    group.reasons().into_iter().map(|(reason, tally)| (reason, tally.count)).collect()
}

/// The reasons of findings with their counts, the commonest of each first; with the names and kinds
/// they are about where those differ.
fn reasons_text(
    summary: &Summary,
    plan: &Plan,
    entry: &[(About, FindingKind, &FindingGroup)],
    with_names: bool,
) -> String {
    let each = entry.iter().flat_map(|(about, kind, group)| {
        group.reasons().into_iter().map(move |(reason, tally)| (*about, *kind, reason, tally))
    });
    let all: Vec<Told<'_>> = each.collect();
    let mut shown: Vec<Vec<String>> = together(plan, &all)
        .into_iter()
        .map(|(abouts, (_, kind, reason, tally))| {
            let names: Vec<String> = abouts.iter().map(|about| name(plan, *about)).collect();
            let about =
                if with_names { vec![listed(&names), kind.name().to_owned()] } else { Vec::new() };
            let first = format!("first in {}", summary.places.line(tally.first_line));
            [vec![tally.count.to_string()], about, vec![visible(reason), first]].concat()
        })
        .collect();
    let more = shown.len().saturating_sub(MOST_REASONS);
    shown.truncate(MOST_REASONS);
    let align = [&[Align::Right][..], &[Align::Left; 4]].concat();
    let mut text = aligned(&shown, &align[..if with_names { 5 } else { 3 }]);
    if more > 0 {
        text.push_str(&format!("  … and {more} more reasons\n"));
    }
    text
}

/// The report as JSON, documented in docs/json.md.
pub fn report_json(summary: &Summary, plan: &Plan, table: &str, outcome: &Outcome) -> Value {
    let columns = plan.outputs().iter().zip(&summary.tally.outputs).map(|(output, tally)| {
        json!({
            "name": output.name,
            "filled": tally.filled,
            "blank": tally.blank,
            "missing": count(summary, output, FindingKind::Missing),
            "failed": tally.failed,
            "shapes": shapes_json(&summary.places, &tally.shapes),
            "layouts": layouts_json(&tally.shapes),
            "more_shapes": tally.shapes.beyond(),
        })
    });
    let allowed = outcome.judged.iter().filter_map(|judged| {
        Some(json!({
            "about": label(plan, judged.about),
            "rows": judged.rows,
            "allowed": judged.allowance?.to_string(),
            "within": judged.within,
        }))
    });
    let drift = outcome.drifts.iter().map(|drift| {
        let object = json!({
            "column": drift.column,
            "shape": drift.shape,
            "before": drift.before,
            "now": drift.now,
            "rows": drift.rows,
            "first_line": drift.first_line,
        });
        match drift.first_line {
            Some(line) => at(&summary.places, "first_line", line, object),
            None => object,
        }
    });
    let unchecked = plan
        .checks()
        .zip(&summary.tally.unchecked)
        .map(|(title, rows)| json!({ "check": title, "rows": rows }));
    json!({
        "version": 1,
        "table": table,
        "rows": summary.read,
        "unreadable": summary.unreadable,
        "empty_lines": summary.empty_lines,
        "rows_with_findings": summary.tally.rows_with_findings,
        "as_expected": !outcome.has_findings && outcome.drifts.is_empty(),
        "columns": columns.collect::<Vec<_>>(),
        "findings": findings_json(summary, plan),
        "allowed": allowed.collect::<Vec<_>>(),
        "not_checked": unchecked.collect::<Vec<_>>(),
        "drift": drift.collect::<Vec<_>>(),
    })
}

/// Each group of findings, with the entry of the report that it is part of.
fn findings_json(summary: &Summary, plan: &Plan) -> Vec<Value> {
    let at = |key: &str, line: u64, object: Value| at(&summary.places, key, line, object);
    let (groups, entries) = (summary.tally.groups(), summary.tally.entries(plan));
    let entry_of = |wanted: (About, FindingKind)| {
        entries
            .iter()
            .position(|entry| entry.iter().any(|(about, kind, _)| (*about, *kind) == wanted))
            .map(|place| place + 1)
    };
    let finding = |(about, kind, group): &(About, FindingKind, &FindingGroup)| {
        let reasons = group.reasons().into_iter().map(|(reason, tally)| {
            at("first_line", tally.first_line, json!({ "reason": reason, "count": tally.count }))
        });
        let examples = group.examples.iter().map(|example| {
            let object = json!({
                "row": example.row,
                "line": 0,
                "cell": example.cell,
                "value": example.value,
                "reason": example.reason,
            });
            at("line", example.line, object)
        });
        json!({
            "about": label(plan, *about),
            "what": match about {
                About::Name { .. } => "column made",
                About::Cut(_) => "cut",
                About::Column(_) => "column",
                About::Check(_) => "check",
                About::Row => "row",
            },
            "kind": kind.name(),
            "is_note": kind.is_note(),
            "count": group.count(),
            "entry": entry_of((*about, *kind)),
            "reasons": reasons.collect::<Vec<_>>(),
            "shapes": shapes_json(&summary.places, &group.shapes),
            "layouts": layouts_json(&group.shapes),
            "examples": examples.collect::<Vec<_>>(),
        })
    };
    groups.iter().map(finding).collect()
}

/// What something is called that findings are about: a column of the table by its name.
fn label(plan: &Plan, about: About) -> &str {
    match about {
        About::Column(source) => plan.sources().get(source).map_or("", |source| &source.name),
        about => plan.called(about),
    }
}

fn shapes_json(places: &Whereabouts, shapes: &ShapeCounts) -> Vec<Value> {
    let shape = |shape: &ShapeCount| {
        let object = json!({ "shape": shape.shape, "rows": shape.count });
        at(places, "first_line", shape.first_line, object)
    };
    shapes.ranked().into_iter().map(shape).collect()
}

/// Sentences have nearly as many shapes as they are: told in words they are few.
fn layouts_json(shapes: &ShapeCounts) -> Option<Vec<Value>> {
    let layouts = shapes.in_words()?.into_iter();
    Some(layouts.map(|(layout, rows)| json!({ "layout": layout, "rows": rows })).collect())
}
