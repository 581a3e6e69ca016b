//! The page of `notch check`: the verdict, the findings by what they are about, what moved, and the
//! new columns.

use std::path::Path;

use keen_notch_core::shape;
use keen_notch_table::{ReadOptions, Source, Table, TableError, each_row_of};
use maud::{Markup, html};
use serde_json::Value;

use super::charts::small_line;
use super::{
    LARGEST, MOST, MOST_ROWS, PageHead, bar, cell, entries, figure_bar, heads, line, number, page,
    share_bar, text,
};
use crate::jig::runs::PastRun;
use crate::show::{share, visible};

/// A finding of a row, as the findings file has it.
#[derive(Debug, Default)]
pub struct ListedFinding {
    row: String,
    line: String,
    /// The file, where the rows come of several.
    file: String,
    about: String,
    kind: String,
    reason: String,
    cell: String,
    value: String,
}

/// The findings of a findings file, as many as a page lists, and how many there are.
///
/// # Errors
/// It cannot be read.
pub fn findings_of(path: &Path) -> Result<(Vec<ListedFinding>, u64), TableError> {
    let table = Table::open(&Source::File(path.to_owned()), &ReadOptions::default())?;
    let columns = table.columns().to_vec();
    let wanted = ["row", "line", "file", "cut", "column", "kind", "reason", "cell", "value"];
    let places: Vec<Option<usize>> =
        wanted.iter().map(|name| columns.iter().position(|column| column == name)).collect();
    let known: Vec<usize> = places.iter().flatten().copied().collect();
    let (mut all, mut count) = (Vec::new(), 0);
    each_row_of(table, &known, |_, _, cells| {
        count += 1;
        if let (Ok(cells), true) = (cells, all.len() < MOST_ROWS) {
            let mut cells = cells.iter();
            let mut next = |n: usize| {
                places[n].and_then(|_| cells.next()).map_or(String::new(), |cell| cell.to_string())
            };
            let [row, line, file, cut, column] = [0, 1, 2, 3, 4].map(&mut next);
            let [kind, reason, cell, value] = [5, 6, 7, 8].map(next);
            let about = if cut.is_empty() { column } else { cut };
            all.push(ListedFinding { row, line, file, about, kind, reason, cell, value });
        }
        Ok(())
    })?;
    Ok((all, count))
}

/// The findings that a page lists.
pub struct FindingsList<'f> {
    /// As many as it lists at most.
    pub all: &'f [ListedFinding],
    /// How many there are.
    pub count: u64,
    /// The file that has all of them, where one was named.
    pub file: Option<&'f str>,
}

/// The page; `report` is what `--json` prints, `said` are the counts and `verdict` whether all is
/// as expected, in the words of the terminal. Of the list of findings as many rows stand there as
/// the page has room for; `runs` are earlier ones.
pub fn check_page(
    head: &PageHead<'_>,
    report: &Value,
    (said, verdict): (&str, &str),
    list: &FindingsList<'_>,
    runs: &[PastRun],
) -> String {
    let is_expected = report["as_expected"] == true;
    let mut shown = list.all.len();
    loop {
        let body = html! {
            p.verdict.odd[!is_expected] { (verdict) }
            p { (visible(said)) }
            (findings(report, head.shows_texts))
            (rows(&list.all[..shown], list.count, list.file, head.shows_texts))
            (drift(report))
            (columns(report))
            (earlier(report, runs))
        };
        let text = page(head, &body);
        if text.len() <= LARGEST || shown == 0 {
            return text;
        }
        shown /= 2;
    }
}

/// Earlier runs, the earliest first, and this one: rows with findings, and findings by what they
/// are about, each as a small line with its figures.
fn earlier(report: &Value, runs: &[PastRun]) -> Markup {
    if runs.is_empty() {
        return html! {};
    }
    let now = PastRun::of(report, None);
    let all: Vec<&PastRun> = runs.iter().chain([&now]).collect();
    let mut names: Vec<&str> = Vec::new();
    for name in all.iter().flat_map(|run| run.findings.keys()) {
        if !names.contains(&name.as_str()) && names.len() < MOST {
            names.push(name);
        }
    }
    let counts = |name: &str| -> Vec<u64> {
        all.iter().map(|run| run.findings.get(name).copied().unwrap_or(0)).collect()
    };
    let with: Vec<u64> = all.iter().map(|run| run.rows_with_findings).collect();
    html! {
        h2 { "Earlier runs, and this one" }
        table {
            caption { "the earliest first, this one last" }
            (heads(&["findings of", "so far", "figures"]))
            tbody {
                tr { th scope="row" { "rows with a finding" } td { (small_line(&with)) } td { (figures(&with)) } }
                @for name in names {
                    @let of = counts(name);
                    tr { th scope="row" { bdi { (visible(name)) } } td { (small_line(&of)) } td { (figures(&of)) } }
                }
            }
        }
    }
}

fn figures(counts: &[u64]) -> String {
    counts.iter().map(u64::to_string).collect::<Vec<_>>().join(" · ")
}

/// The columns of the list of findings.
const FINDING: [&str; 7] = ["#row", "#line", "about", "kind", "reason", "cell", "value"];
/// The same where no text of a cell may be shown: a reason may repeat one.
const FINDING_WITHOUT_REASON: [&str; 6] = ["#row", "#line", "about", "kind", "cell", "value"];

/// Every finding with its row.
fn rows(list: &[ListedFinding], count: u64, file: Option<&str>, shows_texts: bool) -> Markup {
    let as_shown = |text: &str| if shows_texts { cell(text) } else { cell(&shape(text)) };
    let is_all = list.len() as u64 == count;
    html! {
        @if !list.is_empty() {
            h2 { "Every finding with its row" }
            @if !is_all {
                p {
                    "The first " (list.len()) " of " (count)
                    @if let Some(file) = file { "; all of them are in " bdi { (visible(file)) } }
                    @else { "; all of them: --findings FILE" }
                    "."
                }
            }
            table.long {
                @let shown = if shows_texts { &FINDING[..] } else { &FINDING_WITHOUT_REASON[..] };
                (heads(shown))
                tbody {
                    @for of in list {
                        tr {
                            td.figure { (visible(&of.row)) }
                            td.figure { (visible(&of.line)) @if !of.file.is_empty() { " of " bdi { (visible(&of.file)) } } }
                            td { bdi { (visible(&of.about)) } }
                            td { (visible(&of.kind)) }
                            // A reason may repeat what stands in its cell.
                            @if shows_texts { td { (visible(&of.reason)) } }
                            td { (as_shown(&of.cell)) }
                            td { (as_shown(&of.value)) }
                        }
                    }
                }
            }
        }
    }
}

fn findings(report: &Value, shows_texts: bool) -> Markup {
    let rows = number(report, "rows");
    let (notes, found): (Vec<&Value>, Vec<&Value>) =
        entries(report, "findings").iter().partition(|of| of["is_note"] == true);
    html! {
        @if !found.is_empty() {
            h2 { "Findings" }
            @for of in found { (finding(of, rows, shows_texts)) }
        }
        @if !notes.is_empty() {
            h2 { "Notes, which are no findings" }
            @for of in notes { (finding(of, rows, shows_texts)) }
        }
    }
}

/// What one cut, check or column has findings of, with its reasons and the first rows.
fn finding(of: &Value, rows: u64, shows_texts: bool) -> Markup {
    let count = number(of, "count");
    html! {
        details open {
            summary {
                h3 { bdi { (visible(text(of, "about"))) } }
                ": " (count) " " (text(of, "kind")) " (" (share(count, rows)) " of the rows) "
                (bar(count, rows))
            }
            table {
                caption { "reasons" }
                (heads(&["#rows", "reason", "#first in line"]))
                tbody {
                    @for reason in entries(of, "reasons") {
                        tr {
                            td.figure { (number(reason, "count")) }
                            td { (visible(text(reason, "reason"))) }
                            td.figure { (line(reason, "first_line")) }
                        }
                    }
                }
            }
            (ways_of_writing(of))
            @if shows_texts { (examples(of)) }
        }
    }
}

/// The first rows.
fn examples(of: &Value) -> Markup {
    let all = entries(of, "examples");
    html! {
        @if !all.is_empty() {
            table {
                caption {
                    @if all.len() as u64 == number(of, "count") { "every row" }
                    @else { "the first " (all.len()) " of " (number(of, "count")) " rows" }
                }
                (heads(&["#row", "#line", "cell", "value", "reason"]))
                tbody {
                    @for example in all {
                        tr {
                            td.figure { (number(example, "row")) }
                            td.figure { (line(example, "line")) }
                            td { (cell(text(example, "cell"))) }
                            td { (cell(text(example, "value"))) }
                            td { (visible(text(example, "reason"))) }
                        }
                    }
                }
            }
        }
    }
}

/// How texts are written, and how many so: their layouts where they are sentences, else their
/// shapes.
fn written(of: &Value) -> Vec<(&str, u64)> {
    let said = |key: &str, name: &str| -> Vec<(&str, u64)> {
        entries(of, key).iter().map(|of| (text(of, name), number(of, "rows"))).collect()
    };
    if of["layouts"].is_array() { said("layouts", "layout") } else { said("shapes", "shape") }
}

/// How the texts are written that gave rise to findings.
fn ways_of_writing(of: &Value) -> Markup {
    let (whole, ways) = (number(of, "count"), written(of));
    html! {
        table {
            caption { "how they are written" }
            (heads(&["#rows", "share of them", "shape or layout"]))
            tbody {
                @for (way, rows) in ways.iter().take(MOST_WAYS) {
                    tr {
                        td.figure { (rows) }
                        td { (share_bar(*rows, whole)) }
                        td { (cell(way)) }
                    }
                }
            }
        }
        @if ways.len() > MOST_WAYS {
            p.quiet { "and " (ways.len() - MOST_WAYS) " more ways of writing" }
        }
    }
}

/// How many ways of writing are shown of one kind of findings.
const MOST_WAYS: usize = 12;

/// What no longer looks as it was remembered: the shares then and now side by side.
fn drift(report: &Value) -> Markup {
    let all = entries(report, "drift");
    let percent = |of: &Value, key: &str| of[key].as_f64();
    let shown =
        |share: Option<f64>| share.map_or("never seen".to_owned(), |share| format!("{share:.1}%"));
    let drawn = |share: Option<f64>| bar((share.unwrap_or(0.0) * 100.0) as u64, 10_000);
    html! {
        @if !all.is_empty() {
            h2 { "Not as remembered" }
            table {
                (heads(&["column", "shape", "before", "now", "#rows", "#first in line"]))
                tbody {
                    @for of in all {
                        @let (before, now) = (percent(of, "before"), percent(of, "now"));
                        tr {
                            td { bdi { (visible(text(of, "column"))) } }
                            td { (cell(text(of, "shape"))) }
                            td { (drawn(before)) " " (shown(before)) }
                            td { (drawn(now)) " " (shown(now)) }
                            td.figure { (number(of, "rows")) }
                            td.figure { (line(of, "first_line")) }
                        }
                    }
                }
            }
        }
    }
}

/// Each new column with its counts and shapes.
fn columns(report: &Value) -> Markup {
    let (rows, all) = (number(report, "rows"), entries(report, "columns"));
    html! {
        @if !all.is_empty() {
            h2 { "New columns" }
            table {
                (heads(
                    &["column", "filled", "#blank", "#failed", "shapes or layouts of its texts"],
                ))
                tbody {
                    @for of in all {
                        tr {
                            td { bdi { (visible(text(of, "name"))) } }
                            td { (figure_bar(number(of, "filled"), rows)) }
                            td.figure { (number(of, "blank")) }
                            td.figure { (number(of, "failed")) }
                            td {
                                @for (n, (way, rows)) in written(of).iter().take(6).enumerate() {
                                    @if n > 0 { " · " }
                                    (cell(way)) " " (rows)
                                }
                            }
                        }
                    }
                }
            }
        }
    }
}
