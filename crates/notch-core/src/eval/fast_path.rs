//! The fast path of a cut: many rows together, by kernels as far as its steps have them, by value
//! from there on.
//!
//! What a fast path returns is what evaluation by row returns, without a finding; a row of which
//! that is not certain is given up, and is evaluated by row ([`super::row`]), which alone decides
//! what is unusual and what is said of it.

use bumpalo::Bump;

use super::result::{Branch, USUAL};
use crate::program::Branches;
use crate::program::kernel::{Found, Grouped, KernelRows, search};
use crate::program::span::{CellSpan, Why};
use crate::program::{BETWEEN_ITEMS, RowContext};
use crate::program::{FastPath, KernelStep, Start};
use crate::program::{Piece, Value};
use crate::text::characters::is_blank;

/// Rows on the fast path of a cut.
pub(crate) struct FastRows<'f> {
    pub spans: &'f mut [CellSpan],
    /// What the other names of the cut get.
    pub others: &'f mut [Vec<CellSpan>],
    /// The rows that are to be evaluated by row.
    pub is_slow: &'f mut [bool],
    pub text: &'f mut String,
    /// What the search for the first kernel has found.
    pub found: Option<&'f [Found]>,
    /// The cells that the pieces are pieces of, where they start from a column.
    pub cells: Option<&'f [CellSpan]>,
    /// Takes the numbers whose mark groups.
    pub grouped: &'f mut Vec<Grouped>,
    /// The cells of all sources of the plan.
    pub sources: &'f [Vec<CellSpan>],
    pub arena: &'f Bump,
    pub cell_limit: usize,
    /// Takes the rows in which another chain than the first one has returned the piece, and how the
    /// chains fared.
    pub branches: &'f mut Vec<(usize, Branch)>,
}

impl FastPath {
    /// Takes the pieces of all rows through the cut. Returns whether there are rows that are no
    /// slow ones though the cut is missing in them.
    pub(crate) fn run(&self, branches: &Branches, rows: &mut FastRows<'_>) -> bool {
        let seen_before = rows.grouped.len();
        self.run_kernels(rows);
        if !self.items.is_empty() {
            self.run_items(rows);
            return false;
        }
        self.run_others(rows, seen_before);
        if !self.rest.is_empty() {
            self.run_rest(rows);
        }
        let mut lacks = false;
        let mut given_up = Vec::new();
        let bytes = rows.text.as_bytes();
        // It is something, and begins with something that can be seen.
        let is_filled_for_certain = |span: CellSpan| {
            let (from, to) = span.span();
            bytes.get(from).is_some_and(u8::is_ascii_graphic) && from != to
        };
        // Mostly all are: this loop takes ten instructions a row, the other one seventeen.
        if !rows.spans.iter().all(|span| is_filled_for_certain(*span)) {
            let rows = rows.spans.iter_mut().zip(&mut *rows.is_slow).enumerate();
            for (row, (span, is_slow)) in rows {
                if is_filled_for_certain(*span) {
                    continue;
                }
                let (from, to) = span.span();
                if from == to && self.may_be_missing && span.why().is_some() {
                    lacks = true;
                // What is of white space only is for the evaluation by row to say.
                } else if from == to || !is_filled(&bytes[from..to]) {
                    if self.may_retry && !*is_slow {
                        given_up.push(row);
                    }
                    (*span, *is_slow) = (CellSpan::NONE, true);
                }
            }
        }
        if !given_up.is_empty() {
            rows.branches.retain(|(row, _)| given_up.binary_search(row).is_err());
            self.retry(&given_up, branches, rows);
            rows.branches.sort_unstable_by_key(|(row, _)| *row);
        }
        // A number that no cell is made of says nothing of its column.
        let mut n = 0;
        let spans = &*rows.spans;
        rows.grouped.retain(|seen| {
            n += 1;
            n <= seen_before || !spans[seen.row].is_none()
        });
        lacks
    }

    fn run_kernels(&self, rows: &mut FastRows<'_>) {
        let FastRows { spans, text, cells, grouped, found, .. } = rows;
        run_kernels(
            &self.kernels,
            *found,
            KernelRows { spans, text, reasons: 0, found: &[], cells: *cells, grouped },
        );
    }

    /// Gives each name its item of the lists that the pieces hold.
    fn run_items(&self, rows: &mut FastRows<'_>) {
        let FastRows { spans, others, is_slow, text, cells, grouped, .. } = rows;
        let pieces = spans.to_vec();
        let mut known = Vec::new();
        for (name, kernels) in self.items.iter().enumerate() {
            let places = match name.checked_sub(1) {
                None => &mut **spans,
                Some(other) => {
                    others[other].clear();
                    others[other].extend_from_slice(&pieces);
                    &mut others[other]
                }
            };
            let Some(item) = kernels.first() else { continue };
            let searched = item.kernel.search_byte();
            // One search serves all names.
            if let Some(byte) = searched.filter(|_| known.is_empty()) {
                let bytes = text.as_bytes();
                known.extend(pieces.iter().map(|piece| {
                    let (from, to) = piece.span();
                    search(bytes, from, to, byte)
                }));
            }
            run_kernels(
                kernels,
                searched.map(|_| &*known),
                KernelRows { spans: places, text, reasons: 0, found: &[], cells: *cells, grouped },
            );
            for (place, is_slow) in places.iter_mut().zip(&mut **is_slow) {
                *is_slow |= place.is_none() || !is_filled(place.of(text).as_bytes());
            }
        }
    }

    /// Tries the other chains in the rows in which those before certainly return nothing.
    fn run_others(&self, rows: &mut FastRows<'_>, first_seen: usize) {
        let FastRows { spans, is_slow, text, cells, sources, grouped, branches, .. } = rows;
        for (n, chain) in self.others.iter().enumerate() {
            // That a cell is blank is noted by the evaluation by row.
            let is_filled = |row: usize| cells.is_none_or(|cells| !is_blank(cells[row].of(text)));
            let is_open = |row: &usize| {
                let is_absent = matches!(spans[*row].why(), Some(Why::Reason(_)));
                spans[*row].is_none() && is_absent && !is_slow[*row] && is_filled(*row)
            };
            let open: Vec<usize> = (0..spans.len()).filter(is_open).collect();
            if open.is_empty() {
                return;
            }
            // Findings of chains before this one, which returned nothing, are not counted.
            let mut at = 0;
            grouped.retain(|seen| {
                at += 1;
                at <= first_seen || open.binary_search(&seen.row).is_err()
            });
            let others: Vec<CellSpan> =
                open.iter().map(|row| sources[chain.source][*row]).collect();
            let mut tried = others.clone();
            for span in &mut tried {
                if is_blank(span.of(text)) {
                    *span = CellSpan::NONE;
                }
            }
            let seen_before = grouped.len();
            run_kernels(
                &chain.kernels,
                None,
                KernelRows {
                    spans: &mut tried,
                    text,
                    reasons: 0,
                    found: &[],
                    cells: Some(&others),
                    grouped,
                },
            );
            grouped[seen_before..].iter_mut().for_each(|seen| seen.row = open[seen.row]);
            for (row, span) in open.into_iter().zip(tried) {
                spans[row] = span;
                if !span.is_none() {
                    branches.push((row, Branch { taken: Some(n + 1), unmet: 0 }));
                }
            }
        }
        branches.sort_unstable_by_key(|(row, _)| *row);
    }

    /// Evaluates the steps without kernels, row by row. One that needs to know what stood before
    /// the piece gives up where a step has made a new text, for the text of a batch does not tell
    /// that.
    fn run_rest(&self, rows: &mut FastRows<'_>) {
        let reads_before = self.rest.iter().any(|step| step.reads_before);
        let FastRows { spans, text, cells, sources, arena, cell_limit, .. } = rows;
        let mut made = Made::default();
        for (row, span) in spans.iter_mut().enumerate().filter(|(_, span)| !span.is_none()) {
            let cell = cells.map_or("", |cells| cells[row].of(text));
            // A blank cell is missing, whatever the steps would make of it.
            if cells.is_some() && is_blank(cell) {
                *span = CellSpan::NONE;
                continue;
            }
            let piece = match span.piece(text, cell) {
                Some(piece) => piece,
                None if reads_before => {
                    *span = CellSpan::NONE;
                    continue;
                }
                None => Piece::whole(span.of(text)),
            };
            let mut context = RowContext::new(
                arena,
                *cell_limit,
                sources.iter().map(|cells| cells[row].of(text)),
            );
            let value = self
                .rest
                .iter()
                .fold(Value::Text(piece), |value, step| step.run(value, &mut context));
            *span = made.span(value, &context, text);
        }
        made.append(text);
    }

    /// Evaluates the whole cut by value in rows that were given up. Of a cut of one chain with
    /// kernels alone only texts beyond ASCII can gain by it: others are given up because something
    /// is to be said of them.
    fn retry(&self, given_up: &[usize], branches: &Branches, rows: &mut FastRows<'_>) {
        let has_kernels_only =
            branches.chains.len() == 1 && self.start != Start::Row && self.rest.is_empty();
        let FastRows {
            spans,
            is_slow,
            text,
            cells,
            sources,
            arena,
            cell_limit,
            branches: fared,
            ..
        } = rows;
        let mut made = Made::default();
        for row in given_up.iter().copied() {
            if has_kernels_only && cells.is_none_or(|cells| cells[row].of(text).is_ascii()) {
                continue;
            }
            let mut context = RowContext::new(
                arena,
                *cell_limit,
                sources.iter().map(|cells| cells[row].of(text)),
            );
            let (value, branch) = context.branches(branches);
            let found = made.span(value, &context, text);
            if !found.is_none() {
                (spans[row], is_slow[row]) = (found, false);
                if branch != USUAL {
                    fared.push((row, branch));
                }
            }
        }
        made.append(text);
    }
}

/// Runs the kernels of steps one after the other; `known` is what the search for the first one has
/// found, where it was made for several cuts.
fn run_kernels(kernels: &[KernelStep], known: Option<&[Found]>, rows: KernelRows<'_>) {
    let KernelRows { spans, text, cells, grouped, .. } = rows;
    let (mut known, mut searched) = (known, Vec::new());
    for step in kernels {
        let found = match step.kernel.search_byte() {
            None => &[],
            Some(byte) => known.take().unwrap_or_else(|| {
                searched.clear();
                let bytes = text.as_bytes();
                searched.extend(spans.iter().map(|span| {
                    let (from, to) = span.span();
                    search(bytes, from, to, byte)
                }));
                &searched
            }),
        };
        let reasons = step.reasons;
        step.kernel.run(&mut KernelRows { spans, text, reasons, found, cells, grouped });
    }
}

/// Longer texts, in bytes, are left to the evaluation by row, which counts what all cuts make of a
/// row.
const LONGEST: usize = 16 * 1024;

/// New texts, kept apart while the text of the batch is read.
#[derive(Default)]
struct Made(String);

impl Made {
    /// Where a value lies in the text of the batch, or will once it is appended; none when it is no
    /// text or something is to be said of it.
    fn span(&mut self, value: Value<'_>, context: &RowContext<'_>, text: &str) -> CellSpan {
        let is_silent = context.findings.is_empty()
            && context.blank.is_empty()
            && context.events.is_empty()
            && context.asked.is_empty()
            && context.made() <= LONGEST;
        if !is_silent || !RowContext::caveat_of(value).is_empty() {
            return CellSpan::NONE;
        }
        let piece = match value {
            Value::Text(piece) => piece.text(),
            Value::List(items) if items.iter().all(Result::is_ok) => {
                match context.joined(items, BETWEEN_ITEMS) {
                    Ok(joined) => joined,
                    Err(_) => return CellSpan::NONE,
                }
            }
            _ => return CellSpan::NONE,
        };
        if is_blank(piece) || piece.len() > LONGEST {
            return CellSpan::NONE;
        }
        if let Some(from) = (piece.as_ptr() as usize)
            .checked_sub(text.as_ptr() as usize)
            .filter(|from| from + piece.len() <= text.len())
        {
            return CellSpan::new(from, from + piece.len());
        }
        let from = text.len() + self.0.len();
        self.0.push_str(piece);
        CellSpan::new(from, from + piece.len())
    }

    /// Appends what was made to the text of the batch.
    fn append(self, text: &mut String) {
        text.push_str(&self.0);
    }
}

#[cold]
fn is_filled(text: &[u8]) -> bool {
    std::str::from_utf8(text).is_ok_and(|text| !is_blank(text))
}

#[cfg(test)]
mod tests;
