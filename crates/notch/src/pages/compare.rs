//! The page of `notch compare`: the groups of rows in which two cuts differ.

use keen_notch_core::shape;
use maud::{Markup, html};
use serde_json::Value;

use super::{PageHead, bar, cell, entries, heads, line, number, page, text};
use crate::show::{counted, share, visible};

/// The page; `report` is what `--json` prints, `said` whether they differ in the words of the
/// terminal.
pub fn compare_page(head: &PageHead<'_>, report: &Value, said: &str) -> String {
    let (rows, differ) = (number(report, "rows"), number(report, "different"));
    let body = html! {
        p.verdict.odd[differ > 0] { (visible(said)) }
        table {
            (heads(&["cut", "as written", "#alone blank in"]))
            tbody {
                @for name in ["first", "second"] {
                    tr {
                        th scope="row" { (name) }
                        td { code { (visible(text(report, name))) } }
                        td.figure { (counted(number(report, &format!("{name}_alone_blank")), "row")) }
                    }
                }
            }
        }
        @if differ > 0 { h2 { "Where they differ" } }
        @for of in entries(report, "shapes") { (group(of, rows, head.shows_texts)) }
    };
    page(head, &body)
}

/// Rows of one shape.
fn group(of: &Value, rows: u64, shows_texts: bool) -> Markup {
    let count = number(of, "rows");
    let as_shown = |text: &str| if shows_texts { cell(text) } else { cell(&shape(text)) };
    html! {
        details open {
            summary {
                h3 { (cell(text(of, "shape"))) }
                ": " (counted(count, "row")) " (" (share(count, rows)) " of the rows) " (bar(count, rows))
            }
            table {
                caption { "the first of them; what the two give otherwise is marked" }
                (heads(&["#row", "#line", "cell", "first", "second"]))
                tbody {
                    @for example in entries(of, "examples") {
                        @let (first, second) = (text(example, "first"), text(example, "second"));
                        tr {
                            td.figure { (number(example, "row")) }
                            td.figure { (line(example, "line")) }
                            td { (as_shown(text(example, "cell"))) }
                            @if shows_texts {
                                td { (marked(first, second)) }
                                td { (marked(second, first)) }
                            } @else {
                                td { (as_shown(first)) }
                                td { (as_shown(second)) }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// The characters that are marked at most; of longer texts nothing is.
const LONGEST: usize = 300;

/// A text with what is not the same in another one marked: all between what both begin with and
/// what both end in.
fn marked(text: &str, other: &str) -> Markup {
    let (all, others): (Vec<char>, Vec<char>) = (text.chars().collect(), other.chars().collect());
    if text.is_empty() || all.len() > LONGEST {
        return cell(text);
    }
    let same = |(one, other): &(&char, &char)| one == other;
    let begin = all.iter().zip(&others).take_while(same).count();
    let most = all.len().min(others.len()) - begin;
    let end = all.iter().rev().zip(others.iter().rev()).take_while(same).count().min(most);
    let part = |range: std::ops::Range<usize>| visible(&all[range].iter().collect::<String>());
    let middle = begin..all.len() - end;
    html! {
        bdi.cell {
            (part(0..begin))
            @if !middle.is_empty() { mark { (part(middle.clone())) } }
            (part(middle.end..all.len()))
        }
    }
}
