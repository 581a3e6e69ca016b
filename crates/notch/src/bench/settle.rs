//! What follows from the state and is made anew after each change: the list, the lines of the
//! tally, the rows on the screen and the steps of the chosen one.

use super::app::{App, FIRST_ROWS};
use super::rows::{MadeRow, made, steps};
use super::state::{Focus, MOST_LISTED, RowList, State};
use super::tally::{self, Which};
use super::view;
use crate::show::{counted, visible};

impl App<'_> {
    /// Makes the list, the lines of the tally, and the rows on the screen anew.
    pub(super) fn settle(&mut self) {
        let state = &mut self.state;
        state.table.rows = self.any_row.rows();
        state.table.is_whole |= self.any_row.is_whole();
        if state.table.is_whole && state.said_again {
            state.said_again = false;
            state.message = Some(format!(
                "{} has changed and was read again: {}",
                visible(&state.table.name),
                counted(state.table.rows, "row")
            ));
        }
        let rows = state.table.rows;
        let place = state.place();
        let kinds = state.looked.as_ref().map(|looked| &looked.rows);
        let one_of_each = kinds.map_or(rows.min(FIRST_ROWS), |rows| rows.len() as u64);
        {
            let counted = self.counting.as_ref().map(|counting| (counting.lock(), &counting.plan));
            let known = counted.as_ref().map(|(counted, plan)| (&**counted, &***plan));
            if let Some((counted, _)) = known {
                self.told = counted.rows;
                if state.counting.is_some() {
                    let all = self.jobs.rows.bytes().max(1);
                    let percent = match state.table.is_whole {
                        true => counted.rows.saturating_mul(100) / rows.max(1),
                        false => counted.bytes.min(all).saturating_mul(50) / all,
                    };
                    state.counting = Some(u8::try_from(percent.min(99)).unwrap_or(99));
                }
                if counted.is_whole {
                    state.counting = None;
                }
            }
            state.lines = tally::lines(known, place, rows, one_of_each);
            let is_there = state.lines.iter().any(|line| line.which.as_ref() == Some(&state.which));
            if !is_there && state.counting.is_none() {
                (state.which, state.row, state.top) = (Which::OneOfEach, 0, 0);
            }
            state.list = match (&state.find, &state.which) {
                (Some((_, rows)), _) => RowList::Rows(rows.clone()),
                (None, Which::All) => RowList::First(rows.min(MOST_LISTED)),
                (None, Which::OneOfEach) => match &state.looked {
                    Some(looked) if !(state.focus == Focus::Rows && state.shows_first) => {
                        state.shows_first = false;
                        RowList::Kinds(looked.rows.clone())
                    }
                    _ => {
                        state.shows_first = true;
                        RowList::First(rows.min(FIRST_ROWS))
                    }
                },
                (None, which) => {
                    let rows = known.and_then(|(counted, _)| tally::rows(which, counted, place));
                    RowList::Rows(rows.unwrap_or_default().to_vec())
                }
            };
        }
        state.row = state.row.min(state.list.len().saturating_sub(1));
        self.make_rows();
    }

    /// What the cuts make of the rows on the screen, and the steps of the chosen one.
    fn make_rows(&mut self) {
        let Self { state, any_row, scratch, .. } = self;
        let size = state.size;
        if !view::is_enough(size) {
            return;
        }
        let plan = state.judged.plan.clone();
        let (place, column) = (state.place(), state.table.column.or_else(|| named_column(state)));
        self.steps = String::new();
        self.place = String::new();
        if let Some(row) = state.chosen()
            && let Ok(Some(there)) = any_row.row(row.number())
        {
            let places = any_row.places();
            self.place = match places.has_files() {
                true => places.line(there.line),
                false => format!("line {} of {}", there.line, visible(&state.table.name)),
            };
            let wide = usize::from(size.0) - 1;
            self.steps = steps(&there, plan.as_deref(), place, column, scratch, wide);
        }
        let below = view::below_wanted(state, &self.steps);
        let height = view::places(state, size, below).rows.1;
        // The chosen row is always in sight.
        state.top = state.top.min(state.row).max((state.row + 1).saturating_sub(height));
        let most = state.list.len().saturating_sub(height);
        state.top = state.top.min(most.max(state.row.min(most)));
        self.rows = (state.top..state.top + height)
            .map_while(|n| state.list.get(n))
            .map(|listed| match any_row.row(listed.number()) {
                Ok(Some(there)) => {
                    let mut made = made(&there, plan.as_deref(), place, column, scratch);
                    made.line = any_row.places().stood(there.line).0;
                    made
                }
                _ => MadeRow { number: listed.number(), ..MadeRow::default() },
            })
            .collect();
        let longest = self.rows.iter().map(|row| row.source.len()).max().unwrap_or(0);
        let longest = isize::try_from(longest).unwrap_or(isize::MAX);
        state.scroll = state.scroll.clamp(-longest, longest);
        // So is the chosen line of the tally.
        let chosen = state.lines.iter().position(|line| line.which.as_ref() == Some(&state.which));
        if let Some(chosen) = chosen.filter(|_| state.focus == Focus::Tally) {
            state.tally_top =
                state.tally_top.min(chosen).max((chosen + 1).saturating_sub(height.max(1)));
        }
        state.tally_top = state.tally_top.min(state.lines.len().saturating_sub(height.max(1)));
    }
}

/// The column that the text in the line names first.
fn named_column(state: &State) -> Option<usize> {
    let text = state.cut().line.text();
    let inside = text.split_once('{')?.1;
    let name = inside.split(['}', '|']).next()?.trim().trim_matches('"');
    state.table.columns.iter().position(|column| column == name)
}
