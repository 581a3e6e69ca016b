//! The page of `notch survey`: the columns side by side, and of each what it is written like, what
//! is odd in it, and cuts to copy.

use keen_notch_core::shape;
use maud::{Markup, html};
use serde_json::Value;

use super::charts;
use super::{
    LARGEST, PageHead, cell, entries, figure_bar, heads, line, number, page, share_bar, text,
};
use crate::show::{counted, visible};

/// The page; `report` is what `--json` prints.
pub fn survey_page(head: &PageHead<'_>, report: &Value) -> String {
    let columns = entries(report, "columns");
    let rows = columns.first().map_or(0, |column| number(column, "rows"));
    let unreadable = number(report, "unreadable");
    let all = report["columns"].as_array().map_or(0, Vec::len);
    let mut shown = columns.len();
    loop {
        let body = html! {
            p.verdict { (counted(rows, "row")) " of " (visible(head.table)) ", " (counted(all as u64, "column")) "." }
            @if unreadable > 0 {
                p { (counted(unreadable, "row")) " could not be read and was passed over." }
            }
            @if shown < all {
                p {
                    "Of the first " (shown) " columns more is told below; of others with -c COLUMN."
                }
            }
            (overview(columns))
            @for of in &columns[..shown] { (column(of, head.shows_texts)) }
        };
        let text = page(head, &body);
        if text.len() <= LARGEST || shown == 0 {
            return text;
        }
        shown /= 2;
    }
}

fn filled(of: &Value) -> u64 {
    number(of, "rows").saturating_sub(number(of, "blank"))
}

/// A line for each column.
fn overview(columns: &[Value]) -> Markup {
    html! {
        table {
            (heads(&["column", "filled", "#blank", "distinct", "looks like"]))
            tbody {
                @for of in columns {
                    tr {
                        th scope="row" { bdi { (visible(text(of, "name"))) } }
                        td { (figure_bar(filled(of), number(of, "rows"))) }
                        td.figure { (number(of, "blank")) }
                        td { (figure_bar(number(of, "distinct"), filled(of))) }
                        td { (visible(text(of, "looks_like"))) }
                    }
                }
            }
        }
    }
}

/// What is known of a column.
fn column(of: &Value, shows_texts: bool) -> Markup {
    html! {
        section {
            h2 { bdi { (visible(text(of, "name"))) } }
            p { (filled(of)) " filled, " (number(of, "blank")) " blank, " (number(of, "distinct")) " different. " (visible(text(of, "looks_like"))) }
            (written_like(of, "layouts", "layout", "Layouts", shows_texts))
            (written_like(of, "shapes", "shape", "Shapes", shows_texts))
            (lengths(of))
            (positions(of))
            (labels(of, shows_texts))
            (troubles(of, shows_texts))
            (cuts(of))
        }
    }
}

/// The layouts or shapes of a column, with how many texts have each and the first of them.
fn written_like(of: &Value, list: &str, key: &str, title: &str, shows_texts: bool) -> Markup {
    let (all, whole) = (entries(of, list), filled(of));
    html! {
        @if !all.is_empty() {
            details open[list == "layouts"] {
                summary { h3 { (title) } " (" (all.len()) ")" }
                table {
                    @let columns = ["#texts", "share", key, "#first in line", "text"];
                    (heads(&columns[..if shows_texts { 5 } else { 4 }]))
                    tbody {
                        @for one in all {
                            tr {
                                td.figure { (number(one, "texts")) }
                                td { (share_bar(number(one, "texts"), whole)) }
                                td { (cell(text(one, key))) }
                                td.figure { (line(&one["first"], "line")) }
                                @if shows_texts { td { (with_slots(one)) } }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// The first text of a layout with its slots underlined, as far as they are found in their order.
fn with_slots(one: &Value) -> Markup {
    let whole = text(&one["first"], "text");
    let slots = entries(one, "slots");
    if slots.is_empty() || whole.len() > 300 {
        return cell(whole);
    }
    let mut pieces: Vec<(&str, bool)> = Vec::new();
    let mut rest = whole;
    for slot in slots.iter().filter_map(Value::as_str).filter(|slot| !slot.is_empty()) {
        if let Some((before, after)) = rest.split_once(slot) {
            pieces.extend([(before, false), (slot, true)]);
            rest = after;
        }
    }
    pieces.push((rest, false));
    html! {
        bdi.cell {
            @for (piece, is_slot) in pieces {
                @if is_slot { u { (visible(piece)) } } @else { (visible(piece)) }
            }
        }
    }
}

/// How long the texts are, as bars; the figures stand in a table beside them.
fn lengths(of: &Value) -> Markup {
    let all = entries(of, "lengths");
    let most = all.iter().map(|one| number(one, "texts")).max().unwrap_or(0);
    let small = |one: &Value, key: &str| u32::try_from(number(one, key)).ok();
    let counts: Vec<(u32, u32)> =
        all.iter().filter_map(|one| Some((small(one, "length")?, small(one, "texts")?))).collect();
    html! {
        @if all.len() > 1 {
            details {
                summary { h3 { "Lengths" } " in characters" }
                (charts::lengths(&counts))
                table {
                    (heads(&["#characters", "texts"]))
                    tbody {
                        @for one in all {
                            tr { td.figure { (number(one, "length")) } td { (figure_bar(number(one, "texts"), most)) } }
                        }
                    }
                }
            }
        }
    }
}

/// What stands at each position from the left in nearly all texts.
fn positions(of: &Value) -> Markup {
    let (all, placed) = (entries(of, "from_left"), number(of, "placed"));
    let said = |letter: &str| match letter {
        "=" => "the same character",
        "U" => "a capital",
        "l" => "a small letter",
        "c" => "another letter",
        "d" => "a digit",
        "s" => "white space",
        "." => "another sign",
        _ => "kinds are mixed",
    };
    html! {
        @if !all.is_empty() {
            details {
                summary { h3 { "What stands at each position" } }
                (grid(all))
                table {
                    caption { "in 95 of 100 texts or more of those that are so long" }
                    (heads(&["#position", "what stands there", "texts that are so long"]))
                    tbody {
                        @for (n, one) in all.iter().enumerate() {
                            tr {
                                td.figure { (n + 1) }
                                td { code { (visible(text(one, "letter"))) } " " (said(text(one, "letter"))) }
                                td { (figure_bar(number(one, "texts"), placed)) }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// The positions side by side, each a letter on the colour of its kind; the table below says the
/// same.
fn grid(positions: &[Value]) -> Markup {
    let said = "What stands at each position, as letters; the table below has them in words.";
    html! {
        p.grid role="img" aria-label=(said) {
            @for one in positions {
                @let letter = text(one, "letter");
                @let kind = if letter.starts_with(char::is_alphabetic) { letter } else { "sign" };
                span class={ "kind-" (kind) } { (visible(letter)) }
            }
        }
    }
}

/// What stands before numbers and codes.
fn labels(of: &Value, shows_texts: bool) -> Markup {
    let all = entries(of, "labels");
    html! {
        @if !all.is_empty() && shows_texts {
            details {
                summary { h3 { "What stands before numbers and codes" } }
                table {
                    (heads(&["texts", "label", "followed by", "#first in line"]))
                    tbody {
                        @for one in all {
                            tr {
                                td { (figure_bar(number(one, "texts"), filled(of))) }
                                td { (cell(text(one, "label"))) }
                                td { (cell(text(one, "followed_by"))) }
                                td.figure { (line(&one["first"], "line")) }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// What does not meet the eye.
fn troubles(of: &Value, shows_texts: bool) -> Markup {
    let all = entries(of, "troubles");
    html! {
        @if !all.is_empty() {
            details open {
                summary { h3 { "What does not meet the eye" } }
                table {
                    (heads(&["#texts", "what", "#first in line", "text"]))
                    tbody {
                        @for one in all {
                            @let first = text(&one["first"], "text");
                            tr {
                                td.figure { (number(one, "texts")) }
                                td { (visible(text(one, "what"))) }
                                td.figure { (line(&one["first"], "line")) }
                                td { @if shows_texts { (cell(first)) } @else { (cell(&shape(first))) } }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// Cuts to copy.
fn cuts(of: &Value) -> Markup {
    let (all, tried) = (entries(of, "cuts"), number(of, "tried"));
    let filled = filled(of);
    html! {
        @if !all.is_empty() {
            details open {
                summary { h3 { "Cuts that suit it" } }
                @if tried < filled {
                    p {
                        "Their shares are told by " (tried) " of the texts, on which they were run."
                    }
                }
                table {
                    (heads(&["fits", "cut"]))
                    tbody {
                        @for one in all {
                            tr {
                                td { (share_bar(number(one, "fits"), filled)) }
                                td { code { (visible(text(one, "names"))) " = " (visible(text(one, "cut"))) } }
                            }
                        }
                    }
                }
            }
        }
    }
}
