//! What stopped the work, said in full: what, where, what to do.

use std::fmt;

use keen_notch_core::CutError;
use keen_notch_table::TableError;

use super::style::{self, set};
use super::width::{fold, visible, width, window};

/// Something that stopped the work.
#[derive(Debug)]
pub enum Problem {
    /// A cut or condition cannot be read or does not suit the table, or a jig cannot be read.
    Cut {
        /// What it is: `cut`, `check`.
        what: &'static str,
        /// The text it stands in: what was typed, or the whole jig.
        text: String,
        /// The jig and the line it stands in; `None` for the command line.
        place: Option<String>,
        /// What is wrong, with its place in the text.
        error: Box<CutError>,
    },
    /// A table, or a file that was to be written.
    Table(TableError),
    /// Anything else: what, and what to do.
    Said {
        /// One sentence.
        message: String,
        /// What to do, one sentence each.
        remedies: Vec<String>,
    },
    /// Several things that are wrong with the jigs or the cuts, none of them this one.
    Several(Vec<Problem>),
}

impl Problem {
    /// The exit status.
    pub fn status(&self) -> u8 {
        match self {
            Problem::Table(TableError::Interrupted) => crate::ends::interrupted_status(),
            _ => 2,
        }
    }

    /// A problem in a sentence and its remedy.
    pub fn said(message: impl Into<String>, remedy: impl Into<String>) -> Self {
        Problem::Said { message: message.into(), remedies: vec![remedy.into()] }
    }

    /// All of them as one.
    pub fn of_all(problems: Vec<Problem>) -> Self {
        match <[Problem; 1]>::try_from(problems) {
            Ok([one]) => one,
            Err(several) => Problem::Several(several),
        }
    }

    /// Works on a problem, or on each of several.
    pub fn map(self, change: &mut impl FnMut(Problem) -> Problem) -> Self {
        match self {
            Problem::Several(problems) => {
                Problem::Several(problems.into_iter().map(|problem| problem.map(change)).collect())
            }
            one => change(one),
        }
    }

    /// Whether it is a cut of the command line, or several, that cannot be used.
    pub fn is_of_typed_cut(&self) -> bool {
        match self {
            Problem::Several(problems) => problems.iter().all(Problem::is_of_typed_cut),
            problem => matches!(problem, Problem::Cut { what: "cut", place: None, .. }),
        }
    }

    /// Whether the reader of our output has gone away, which is nothing to complain of.
    pub fn is_closed_pipe(&self) -> bool {
        matches!(self, Problem::Table(error) if error.is_closed_pipe())
    }
}

impl From<TableError> for Problem {
    fn from(error: TableError) -> Self {
        Problem::Table(error)
    }
}

impl fmt::Display for Problem {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.written(f, "Stopped:")
    }
}

impl Problem {
    fn written(&self, f: &mut fmt::Formatter<'_>, head: &str) -> fmt::Result {
        let first = head;
        let head = set(style::WRONG, head);
        // Names of columns and files, and texts of servers, may hold anything.
        let line = |text: &str| fold(&visible(text), window().min(110), 0);
        match self {
            Problem::Several(problems) => {
                for (n, problem) in problems.iter().enumerate() {
                    if n > 0 {
                        writeln!(f)?;
                    }
                    problem.written(f, if n == 0 { first } else { "Also:" })?;
                }
            }
            Problem::Table(error) => {
                writeln!(f, "{head} {}", line(&error.to_string()))?;
                if !error.remedy().is_empty() {
                    writeln!(f, "{}", line(error.remedy()))?;
                }
            }
            Problem::Said { message, remedies } => {
                writeln!(f, "{head} {}", line(message))?;
                for remedy in remedies {
                    writeln!(f, "{}", line(remedy))?;
                }
            }
            Problem::Cut { what, text, place, error } => {
                match place {
                    Some(place) => {
                        writeln!(f, "{head} {}: this {what} cannot be used.\n", visible(place))?
                    }
                    None => writeln!(f, "{head} this {what} cannot be used.\n")?,
                }
                f.write_str(&underlined(text, error.span.clone()))?;
                writeln!(f, "\n{}.", line(error.message.trim_end_matches('.')))?;
                for remedy in &error.remedies {
                    writeln!(f, "{}", line(remedy))?;
                }
                if error.quotes_missing && place.is_none() {
                    f.write_str(QUOTES)?;
                }
            }
        }
        Ok(())
    }
}

/// What to say when the shell has probably taken the quotes away.
const QUOTES: &str = "There is no quote in the cut at all: the shell has probably taken them. Put \
    the whole cut in single quotes.
  bash, zsh:   'year = part 2 by \"-\"'
  PowerShell:  'year = part 2 by ''-'''
";

/// The line of the text that holds the place, and under it a stroke under each character of the
/// place.
fn underlined(text: &str, span: std::ops::Range<usize>) -> String {
    let at = |byte: usize| {
        (0..=byte.min(text.len())).rev().find(|byte| text.is_char_boundary(*byte)).unwrap_or(0)
    };
    let (start, end) = (at(span.start), at(span.end));
    let from = text[..start].rfind('\n').map_or(0, |newline| newline + 1);
    let to = text[start..].find('\n').map_or(text.len(), |newline| start + newline);
    let before = visible(&text[from..start]);
    let marked = visible(&text[start..end.min(to)]);
    let stroke = "‾".repeat(width(&marked).max(1));
    format!(
        "    {before}{}{}\n    {}{}\n",
        set(style::STRONG, &marked),
        visible(&text[end.min(to)..to]),
        " ".repeat(width(&before)),
        set(style::WRONG, stroke)
    )
}
