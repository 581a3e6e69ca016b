//! Pages for people without a terminal: what a command tells, as one HTML file.
//!
//! A page is made from the values that `--json` prints, so that the two cannot disagree. It asks
//! nothing of a network, which a content policy in it forbids, and needs no script to be read: the
//! one in it filters and sorts long tables. All text is escaped by the templates; cells stand in
//! `bdi`, with control and format characters drawn as on a terminal, so that none of them changes
//! what stands around it.

mod charts;
mod check;
mod compare;
mod survey;

use std::fs;
use std::path::Path;

use keen_notch_core::characters;
use keen_notch_table::NewFile;
use maud::{DOCTYPE, Markup, PreEscaped, html};
use serde_json::Value;

pub use self::check::{FindingsList, check_page, findings_of};
pub use self::compare::compare_page;
pub use self::survey::survey_page;
use crate::show::{Problem, share, visible};

/// What a page is about.
pub struct PageHead<'h> {
    /// What the command is asked, as a heading.
    pub title: String,
    /// What the table and the jigs are called.
    pub table: &'h str,
    pub jigs: Vec<String>,
    /// The day, as it was given.
    pub day: Option<&'h str>,
    /// Cells are shown, and not only their shapes.
    pub shows_texts: bool,
}

/// What every page of this kind has in its head, by which one is told from other files.
const MARK: &str = "Keen Notch, page 1";
/// Where that stands at the latest, in bytes.
const HEAD: usize = 1024;
/// No page is larger, in bytes.
const LARGEST: usize = 2_000_000;

/// The largest number of entries that are told of each list of values.
const MOST: usize = 500;
/// The number of characters that are shown of a cell.
const LONGEST: usize = 300;
/// The largest number of rows that are listed.
const MOST_ROWS: usize = 5000;

/// How pages look: the system's fonts and its light or dark scheme; on paper black on white, table
/// heads repeated on each sheet.
const STYLE: &str = include_str!("page.css");

/// What filters and sorts long tables, and its hash, by which the policy lets it run and nothing
/// else (W3C, Content Security Policy Level 3, section 2.3.1); it is printed by
/// `openssl dgst -sha256 -binary page.js | base64`.
const SCRIPT: &str = include_str!("page.js");
const SCRIPT_HASH: &str = "sha256-la7+HOS10K0v1hszflF8urtZxVR+BogBZciOv/p9zVA=";

/// A whole page.
pub fn page(head: &PageHead<'_>, body: &Markup) -> String {
    let policy = format!(
        "default-src 'none'; style-src 'unsafe-inline'; script-src '{SCRIPT_HASH}'; base-uri \
        'none'; form-action 'none'"
    );
    let markup = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta name="generator" content=(MARK);
                meta http-equiv="Content-Security-Policy" content=(policy);
                meta name="viewport" content="width=device-width, initial-scale=1";
                title { (visible(&head.title)) }
                style { (PreEscaped(STYLE)) }
            }
            body {
                header {
                    h1 { (visible(&head.title)) }
                    dl.about {
                        dt { "table" } dd { bdi { (visible(head.table)) } }
                        @if !head.jigs.is_empty() {
                            dt { "jig" } dd { bdi { (visible(&head.jigs.join(", "))) } }
                        }
                        @if let Some(day) = head.day { dt { "day" } dd { bdi { (visible(day)) } } }
                        dt { "shows" }
                        dd {
                            @if head.shows_texts { "cells of the table" }
                            @else { "the shapes of cells, and no cell" }
                        }
                    }
                }
                main { (body) }
                footer { p { "Made by " code { "notch" } ". It opens without a network." } }
                script { (PreEscaped(SCRIPT)) }
            }
        }
    };
    markup.into_string()
}

/// Writes a page; what is written over must be one.
///
/// # Errors
/// Something else has that name, or it cannot be written.
pub fn save_page(path: &Path, text: &str) -> Result<(), Problem> {
    let shown = visible(&path.display().to_string());
    let is_page =
        |bytes: Vec<u8>| String::from_utf8_lossy(&bytes[..bytes.len().min(HEAD)]).contains(MARK);
    if path.is_file() && !fs::read(path).is_ok_and(is_page) {
        return Err(Problem::said(
            format!("{shown} exists and is no page of notch, so it is not written over."),
            "Name another file, or take that one away.",
        ));
    }
    let mut file = NewFile::create(path)?;
    file.write(text.as_bytes())?;
    Ok(file.finish()?)
}

/// A bar as long as its share of a whole; the figure stands beside it in words.
fn bar(part: u64, whole: u64) -> Markup {
    let wide = part as f64 * 100.0 / whole.max(1) as f64;
    html! {
        svg.bar viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true" {
            rect.whole width="100" height="8" {}
            rect.part width=(format!("{:.2}", wide.clamp(0.0, 100.0))) height="8" {}
        }
    }
}

/// A bar with its figure.
fn figure_bar(part: u64, whole: u64) -> Markup {
    html! { (bar(part, whole)) " " (part) }
}

/// A bar with its share in percent.
fn share_bar(part: u64, whole: u64) -> Markup {
    html! { (bar(part, whole)) " " (share(part, whole)) }
}

/// The head of a table; columns of figures have a `#` before their names.
fn heads(columns: &[&str]) -> Markup {
    html! {
        thead {
            tr {
                @for column in columns {
                    @match column.strip_prefix('#') {
                        Some(name) => { th.figure scope="col" { (name) } }
                        None => { th scope="col" { (column) } }
                    }
                }
            }
        }
    }
}

/// A cell as it is shown, of a long one its beginning and how long it is.
fn cell(text: &str) -> Markup {
    let beginning: String = text.chars().take(LONGEST).collect();
    let is_whole = beginning.len() == text.len();
    html! {
        @if text.is_empty() { span.quiet { "(blank)" } }
        @else { bdi.cell { (visible(&beginning)) } }
        @if !is_whole { span.quiet { "… (" (characters::count(text)) " characters)" } }
    }
}

/// The entries of a list of the report, as many as are told.
fn entries<'r>(report: &'r Value, key: &str) -> &'r [Value] {
    let all = report[key].as_array().map_or(&[][..], Vec::as_slice);
    &all[..all.len().min(MOST)]
}

fn text<'v>(of: &'v Value, key: &str) -> &'v str {
    of[key].as_str().unwrap_or_default()
}

fn number(of: &Value, key: &str) -> u64 {
    of[key].as_u64().unwrap_or_default()
}

/// A line of the table, with its file where there are several.
fn line(of: &Value, key: &str) -> String {
    match of["file"].as_str() {
        Some(file) => format!("{} of {}", number(of, key), visible(file)),
        None => number(of, key).to_string(),
    }
}
