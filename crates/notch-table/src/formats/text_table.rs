//! Tables drawn for people: aligned columns, with bars as Markdown tables have them (GitHub
//! Flavored Markdown, section 4.10) or without.

use std::fmt::Write;

use unicode_width::UnicodeWidthStr;

use crate::cells::{CellColumn, CellWriter, OutCell, TypedRows};
use crate::error::TableError;
use crate::output::{Finished, NewFile};
use crate::shown::visible;

/// A table that is drawn when all its rows are there, since the widest cell of each column says how
/// wide it is.
pub(crate) struct Drawn {
    file: NewFile,
    bars: bool,
    /// For each column whether its cells stand at its right.
    right: Vec<bool>,
    /// The header, then the rows.
    lines: Vec<Vec<String>>,
}

impl Drawn {
    pub(crate) fn new(file: NewFile, bars: bool) -> Self {
        Self { file, bars, right: Vec::new(), lines: Vec::new() }
    }

    /// A cell on one line, with signs for what would divide the table.
    fn shown(&self, text: &str) -> String {
        if self.bars {
            let text = text
                .replace('\\', "\\\\")
                .replace('|', "\\|")
                .replace("\r\n", "<br>")
                .replace(['\n', '\r'], "<br>");
            return visible(&text);
        }
        visible(text)
    }
}

impl CellWriter for Drawn {
    fn begin(
        &mut self,
        columns: Vec<CellColumn>,
        _batches: Option<TypedRows>,
    ) -> Result<(), TableError> {
        self.right = columns.iter().map(|column| column.kind.is_bare()).collect();
        self.lines.push(columns.iter().map(|column| self.shown(&column.name)).collect());
        Ok(())
    }

    fn row<'c>(
        &mut self,
        _number: u64,
        cells: &mut dyn Iterator<Item = OutCell<'c>>,
    ) -> Result<(), TableError> {
        let cells = cells.map(|cell| self.shown(cell.as_deref().unwrap_or_default())).collect();
        self.lines.push(cells);
        Ok(())
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        // A bar and a rule need three characters to say which way a column goes.
        let least = if self.bars { 3 } else { 1 };
        let width = |n: usize| {
            self.lines
                .iter()
                .filter_map(|line| line.get(n))
                .map(|cell| cell.width())
                .max()
                .unwrap_or(0)
                .max(least)
        };
        let widths: Vec<usize> = (0..self.right.len()).map(width).collect();
        let mut text = String::new();
        for (n, line) in self.lines.iter().enumerate() {
            text.clear();
            draw(line, &widths, &self.right, self.bars, &mut text);
            if n == 0 && self.bars {
                for (width, right) in widths.iter().zip(&self.right) {
                    let _ = write!(
                        text,
                        "| {}{} ",
                        "-".repeat(width - usize::from(*right)),
                        if *right { ":" } else { "" }
                    );
                }
                text.push_str("|\n");
            }
            self.file.write(text.as_bytes())?;
        }
        Finished::file(self.file)
    }
}

fn draw(line: &[String], widths: &[usize], right: &[bool], bars: bool, into: &mut String) {
    for (n, ((cell, width), right)) in line.iter().zip(widths).zip(right).enumerate() {
        into.push_str(match (bars, n) {
            (true, _) => "| ",
            (false, 0) => "",
            (false, _) => "  ",
        });
        let space = " ".repeat(width.saturating_sub(cell.width()));
        let (before, behind) = if *right { (space.as_str(), "") } else { ("", space.as_str()) };
        let _ = write!(into, "{before}{cell}{behind}");
        if bars {
            into.push(' ');
        }
    }
    if !bars {
        into.truncate(into.trim_end().len());
    }
    into.push_str(if bars { "|\n" } else { "\n" });
}
