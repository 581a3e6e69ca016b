//! The preview: the first rows, aligned, old columns on the left of a line and new ones on its
//! right.

use std::cmp::Reverse;
use std::collections::HashMap;

use keen_notch_core::Plan;
use keen_notch_table::{Finished, OutColumn, Row, RowSink, Table, TableError};

use super::print::print;
use super::style::{self, set};
use super::width::{clipped, counted, visible, width, window};

/// No column takes more than this, in terminal columns.
const WIDEST: usize = 32;
/// The number of kinds of rows that are told apart.
const MOST_KINDS: usize = 1000;
/// Columns stand this far apart, in terminal columns.
const GAP: usize = 2;

/// Which rows are shown.
pub enum Shown {
    /// The first ones.
    First,
    /// Those with a finding.
    WithFinding,
    /// One of each kind that the cells of the column at this place are of.
    OfEachKind(usize, Box<dyn Fn(&str) -> String + Send>),
}

/// Collects the rows and prints them when all rows have been read.
pub struct Preview {
    most: usize,
    header: Vec<String>,
    rows: Vec<Vec<String>>,
    /// Whether a column is new.
    new: Vec<bool>,
    /// Whether a cut starts from a column.
    source: Vec<bool>,
    further: u64,
    which: Shown,
    /// The kinds that have been met: how many rows each has, and the place of its row.
    kinds: HashMap<String, (u64, usize)>,
}

impl Preview {
    /// A preview of at most that many rows.
    pub fn of(most: usize, which: Shown) -> Self {
        Self {
            most,
            header: Vec::new(),
            rows: Vec::new(),
            new: Vec::new(),
            source: Vec::new(),
            further: 0,
            which,
            kinds: HashMap::new(),
        }
    }

    /// Which columns have room: new ones first, then those cuts start from, then the others, from
    /// the left.
    fn shown(&self, widths: &[usize], room: usize) -> Vec<bool> {
        let mut shown = vec![false; widths.len()];
        let mut left = room;
        let rank = |n: usize| if self.new[n] { 0 } else { 2 - usize::from(self.source[n]) };
        let mut order: Vec<usize> = (0..widths.len()).collect();
        order.sort_by_key(|n| rank(*n));
        for n in order {
            let wanted = widths[n] + GAP + usize::from(self.new[n]);
            if wanted > left && shown.iter().any(|shown| *shown) {
                continue;
            }
            shown[n] = true;
            left = left.saturating_sub(wanted);
        }
        shown
    }

    /// How wide the widest cell of a column is.
    fn natural(&self, column: usize) -> usize {
        std::iter::once(&self.header)
            .chain(&self.rows)
            .map(|row| width(&row[column]))
            .max()
            .unwrap_or(0)
            .max(1)
    }

    /// Returns room that is left to columns whose cells were cut off.
    fn widened(&self, mut widths: Vec<usize>, columns: &[usize], room: usize) -> Vec<usize> {
        let used: usize =
            columns.iter().map(|n| widths[*n] + GAP + usize::from(self.new[*n])).sum();
        let mut left = room.saturating_sub(used);
        for column in columns {
            let more = (self.natural(*column) - widths[*column]).min(left);
            widths[*column] += more;
            left -= more;
        }
        widths
    }

    /// Keeps the rows of the commonest kinds, these first.
    fn keep_commonest(&mut self) {
        let mut kinds: Vec<(u64, usize)> = self.kinds.values().copied().collect();
        kinds.sort_unstable_by_key(|(rows, place)| (Reverse(*rows), *place));
        self.further += kinds.len().saturating_sub(self.most) as u64;
        kinds.truncate(self.most);
        self.rows = kinds.iter().map(|(_, place)| std::mem::take(&mut self.rows[*place])).collect();
    }

    fn draw(&self) -> String {
        let lines = std::iter::once(&self.header).chain(&self.rows);
        let widths: Vec<usize> =
            (0..self.header.len()).map(|n| self.natural(n).min(WIDEST)).collect();
        let room = window().saturating_sub(2);
        let shown = self.shown(&widths, room);
        let columns: Vec<usize> = (0..widths.len()).filter(|n| shown[*n]).collect();
        let widths = self.widened(widths, &columns, room);
        // A line stands wherever old and new meet.
        let edge =
            |place: usize| place > 0 && self.new[columns[place]] != self.new[columns[place - 1]];
        let mut text = String::new();
        for (n, row) in lines.enumerate() {
            let mut line = String::new();
            for (place, column) in columns.iter().enumerate() {
                line.push_str(if edge(place) { " │ " } else { "  " });
                let cell = clipped(&row[*column], widths[*column]);
                let fill = " ".repeat(widths[*column] - width(&cell));
                line.push_str(&if n == 0 { set(style::STRONG, &cell) } else { cell });
                line.push_str(&fill);
            }
            text.push_str(line.trim_end());
            text.push('\n');
            if n == 0 {
                let rule: String = columns
                    .iter()
                    .enumerate()
                    .map(|(place, column)| {
                        format!(
                            "{}{}",
                            if place == 0 {
                                "  "
                            } else if edge(place) {
                                "─┼─"
                            } else {
                                "──"
                            },
                            "─".repeat(widths[*column])
                        )
                    })
                    .collect();
                text.push_str(&format!("{}\n", set(style::QUIET, rule)));
            }
        }
        let mut hidden = Vec::new();
        if self.further > 0 {
            hidden.push(counted(self.further, "further row"));
        }
        if columns.len() < widths.len() {
            hidden.push(counted((widths.len() - columns.len()) as u64, "further column"));
        }
        if !hidden.is_empty() {
            text.push_str(&format!(
                "  {} not shown; write the table with -o FILE.\n",
                hidden.join(" and ")
            ));
        }
        text
    }
}

impl RowSink for Preview {
    fn begin(
        &mut self,
        table: &Table,
        plan: &Plan,
        columns: &[OutColumn],
    ) -> Result<(), TableError> {
        for column in columns {
            let (name, new, source) = match column {
                OutColumn::Source(n) => (
                    table.columns()[*n].as_str(),
                    false,
                    plan.sources().iter().any(|source| source.index == *n),
                ),
                OutColumn::New(n) => (plan.outputs()[*n].name.as_str(), true, false),
            };
            self.header.push(visible(name));
            self.new.push(new);
            self.source.push(source);
        }
        Ok(())
    }

    fn row(&mut self, row: &Row<'_>, _: &Plan, columns: &[OutColumn]) -> Result<(), TableError> {
        let is_shown = match &self.which {
            Shown::First => self.rows.len() < self.most,
            Shown::WithFinding => self.rows.len() < self.most && row.has_finding(),
            Shown::OfEachKind(column, kind_of) => {
                let kind = kind_of(&row.source_cell(*column));
                let (next, has_room) = (self.rows.len(), self.kinds.len() < MOST_KINDS);
                match self.kinds.get_mut(&kind) {
                    Some((rows, _)) => {
                        *rows += 1;
                        false
                    }
                    None if has_room => {
                        self.kinds.insert(kind, (1, next));
                        true
                    }
                    None => false,
                }
            }
        };
        if !is_shown {
            self.further += 1;
            return Ok(());
        }
        let cell = |column: &OutColumn| match column {
            OutColumn::Source(n) => visible(&row.source_cell(*n)),
            OutColumn::New(n) => visible(row.new_cell(*n)),
        };
        self.rows.push(columns.iter().map(cell).collect());
        Ok(())
    }

    fn finish(mut self: Box<Self>) -> Result<Finished, TableError> {
        if let Shown::OfEachKind(..) = self.which {
            self.keep_commonest();
        }
        print(format_args!("{}\n", self.draw()))?;
        Ok(Finished::default())
    }
}
