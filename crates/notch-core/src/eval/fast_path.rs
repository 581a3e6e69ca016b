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
        for (row, (span, is_slow)) in rows.spans.iter_mut().zip(&mut *rows.is_slow).enumerate() {
            let (from, to) = span.span();
            if from != to && bytes[from].is_ascii_graphic() {
                continue;
            }
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
            // What the chains before have seen on their way to nothing is not counted.
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
mod tests {
    use proptest::prelude::*;

    use super::*;
    use std::sync::Arc;

    use crate::language::{Build, parse_cut, words};
    use crate::program::Value;
    use crate::program::span::Why;
    use crate::{Batch, EXAMPLE_LISTS, List};
    use crate::{Plan, PlanOptions, Scratch, parse_assignment};

    const STEPS: [&str; 53] = [
        "first 2",
        "first 1",
        "last 2",
        "last 1",
        "drop first 1",
        "drop last 1",
        "drop first 3",
        "chars 2..3",
        "chars 1..2",
        "chars 2 for 2",
        "part 1 by \"-\"",
        "part 2 by \"-\"",
        "part 2 of 3 by \"-\"",
        "part 1 of 1 by \",\"",
        "before \"-\"",
        "after \"-\"",
        "before last \"-\"",
        "after last \"-\"",
        "trim",
        "upper",
        "lower",
        "pad left 4 with \"0\"",
        "number",
        "number decimal \",\"",
        "number decimal either",
        "number accounting",
        "number decimal either accounting",
        "number 2",
        "number last decimal \",\" accounting",
        "number next",
        "number next decimal either accounting",
        "number after \"b\"",
        "number after word \"a\" decimal either",
        "match /[a-z]+/",
        "match /-(.*?)(\\d)?/ group 2",
        "check is digits",
        "check length 1..3 and it has no \"-\"",
        "check is upper when it has \"1\" saying \"no\"",
        "check value < {a}",
        "match /\\b[^K]\\w/i",
        "match /(\u{17f}|\\x{e9})./i",
        "as number",
        "after 1st \" \"",
        "before \" \" or end",
        "match /([a-z])1?-+A/ group 1",
        "part last by \"-\"",
        "part 1..2 by \"-\"",
        "part -2.. of 3 by \"-\"",
        "after 2nd \"-\"",
        "before 2nd last \"-\"",
        "title",
        "clip 2",
        "clip 3 ending \"…\"",
    ];

    /// Steps that are evaluated by value, or whose kernels are made of the function of the word.
    const OTHERS: [&str; 44] = [
        "chars -2..",
        "between \"-\" and \"-\"",
        "between \"-\" and \" \"",
        "through \"-\"",
        "from last \"-\"",
        "drop leading \"a\"",
        "drop trailing \"-\"",
        "word 1",
        "words",
        "block 1 of digits",
        "digits",
        "neaten",
        "keep digits",
        "replace \"-\" with \"/\"",
        "parts by \"-\" | pick 2",
        "numbers",
        "numbers | count",
        "length",
        "decimals 1",
        "pad right 3 with \".\"",
        "check is in (\"A\", \"b\")",
        "check {a} has \"-\"",
        "(part 2 by \"-\" else first 1)",
        "\"<{it}|{a | first 1}>\"",
        "if it has \"-\" else first 2",
        "else \"\"",
        "else first 2",
        "else {a} | part 2 by \"-\" | upper",
        "else number",
        "chars -3..-2",
        "remove \"-\"",
        "number 3",
        "word last",
        "block last of letters",
        "part 2 by any of \"-,\"",
        "part -1 of 2 by any of \"-,\"",
        "part 1..2 by kind",
        "parts by any of \"-,\" | pick 3",
        "blocks of digits | pick 2",
        "matches /[a-z](\\d)?/ group 1 | pick 1",
        "before word \"a\"",
        "after 2nd digit or start",
        "between word \"b\" and digit or end",
        "trim left any of \"0-\"",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(6000))]

        /// The slow, obvious twin is the evaluation by row: where the fast path returns a piece,
        /// that returns the same and finds nothing.
        #[test]
        fn the_fast_path_ends_where_evaluation_by_row_does(
            text in "([abA019E]|-| |,|\\.|\\(|\\)|'|\\+|:|é|e\u{301}|\r\n|\u{a0}|00|1,250|250|1.250,50|€|\\$|R\\$|EUR|TL|kr\\.|kr|–|−|½|\u{200d}|\u{200f}|[a-]{60}){0,9}",
            steps in prop::collection::vec(prop::sample::select([&STEPS[..], &OTHERS].concat()), 1..4),
            then in prop::option::of(prop::sample::select(&STEPS[..])),
        ) {
            let then = then.map_or(String::new(), |then| format!(" else \"x\" then {then}"));
            let cut = format!("c = {{a}} | {}{then}", steps.join(" | ")).replace("| if", "if").replace("| else", "else");
            // Some of the steps end a chain.
            prop_assume!(parse_assignment(&cut).is_ok());
            let plan = Plan::compile(&[parse_assignment(&cut).unwrap()], &["a".to_owned()], &PlanOptions::default()).unwrap();
            plan.with_run(&[&text], 0, &mut Scratch::default(), |context| {
                let path = plan.cuts[0].fast.as_ref().unwrap();
                let found = plan.searches.first().map(|searched| [search(text.as_bytes(), 0, text.len(), searched.byte)]);
                let (mut spans, mut is_slow, mut made) = ([CellSpan::new(0, text.len())], [false], text.clone());
                let sources = [vec![CellSpan::new(0, text.len())]];
                if path.start == Start::Row {
                    spans = [CellSpan::NONE];
                }
                let mut fared = Vec::new();
                path.run(&plan.cuts[0].branches, &mut FastRows {
                    spans: &mut spans,
                    others: &mut [],
                    is_slow: &mut is_slow,
                    text: &mut made,
                    found: found.as_ref().map(|found| &found[..]),
                    cells: Some(&sources[0]),
                    grouped: &mut Vec::new(),
                    sources: &sources,
                    arena: &Bump::new(),
                    cell_limit: 1 << 20,
                    branches: &mut fared,
                });
                if is_slow[0] {
                    prop_assert_eq!(spans[0], CellSpan::NONE);
                    return Ok(());
                }
                let fast = spans[0].of(&made);
                let (slow, branch) = context.branches(&plan.cuts[0].branches);
                if let (true, Some(Why::Reason(reason))) = (spans[0].is_none(), spans[0].why()) {
                    // That a cell is blank has been seen before.
                    prop_assume!(!is_blank(&text));
                    let Value::Missing(missing) = slow else { return Err(TestCaseError::fail(format!("{cut} of {text:?}: {slow:?}"))) };
                    prop_assert_eq!(missing.reason, &*path.reasons[reason], "{} of {:?}", cut, text);
                    prop_assert_eq!((context.findings.len(), branch.taken), (0, None), "{} of {:?}", cut, text);
                    return Ok(());
                }
                let caveat = RowContext::caveat_of(slow);
                prop_assert!(caveat.doubt.is_none() && caveat.note.is_none(), "{} of {:?}: {:?}", cut, text, caveat);
                prop_assert_eq!(Some(fast), context.text_of(slow), "{} of {:?}", cut, text);
                prop_assert_eq!(fared.first().map_or(USUAL, |(_, branch)| *branch), branch, "{} of {:?}", cut, text);
                prop_assert!(context.findings.is_empty() && context.blank.is_empty(), "{} of {:?}", cut, text);
                Ok(())
            })?;
        }
    }

    /// Many rows together are what each row is by itself.
    fn are_twins(plan: &Plan, cut: &str, cells: &[String]) {
        let mut block = cells.concat();
        let mut at = 0;
        let places: Vec<(usize, usize)> = cells
            .iter()
            .map(|cell| {
                at += cell.len();
                (at - cell.len(), at)
            })
            .collect();
        let mut scratch = Scratch::default();
        let mut batch = Batch::new(plan, &mut block, &mut scratch);
        batch.rows(1, 1..=cells.len() as u64);
        for source in 0..plan.sources().len() {
            let place = |_: &[u8], (from, to): (usize, usize)| {
                (from < to).then_some((from as u32, to as u32))
            };
            batch.cells(source, places.iter().copied(), place);
        }
        let together = batch.evaluate();
        let mut alone = Scratch::default();
        for (row, cell) in cells.iter().enumerate() {
            alone.at_row(row as u64 + 1);
            let sources = plan.sources().iter().map(|_| cell.as_str());
            let result = plan.evaluate(sources, &mut alone);
            let texts: Vec<&str> = result.cells.iter().map(|cell| cell.text).collect();
            let unusual = together.unusual().iter().find(|(at, _)| *at == row);
            let (findings, made): (Vec<_>, Vec<&str>) = match unusual {
                Some((_, row)) => {
                    (row.findings.to_vec(), row.cells.iter().map(|cell| cell.text).collect())
                }
                None => (
                    together.findings(row),
                    (0..texts.len()).map(|n| together.text(row, n)).collect(),
                ),
            };
            assert_eq!(findings, result.findings, "{cut} of {cell:?}");
            assert_eq!(made, texts, "{cut} of {cell:?}");
        }
    }

    /// Cuts of several names, and a cut that reads one of them.
    const SEVERAL: [&str; 13] = [
        "x, y = {a} | parts by \"-\"",
        "x, _, y = {a} | parts by \"-\"",
        "x, _, y = {a} | parts by \"-\" | pad left 2 with \"0\"",
        "_x, y = {a} | parts by any of \"-,\"",
        "x, y? = {a} | trim | parts by \"-\" | first 2",
        "x, y = {a} | halves at \"-\"",
        "x, y = {a} | before \",\" | parts by \"-\" | number",
        "x, y = {a} | numbers",
        "x, y = {a} | words | lower",
        "x, y = {a} | blocks of digits",
        "x, y = {a} | matches /[a-z]+\\d?/",
        "x, y = {a} | groups /([a-z]+)-?(\\d)?/",
        "x, y = {a} | parts by \"-\" else \"\"",
    ];

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(600))]

        #[test]
        fn cuts_of_several_names_are_twins(
            cells in prop::collection::vec("([abA019E]|-| |,|é|e\u{301}|00|a-1|b-A){0,7}", 1..5),
            cut in prop::sample::select(&SEVERAL[..]),
        ) {
            let cuts = [cut, "z = {y} | part 1 by \"1\""].map(|cut| parse_assignment(cut).unwrap());
            let plan = Plan::compile(&cuts, &["a".to_owned()], &PlanOptions::default()).unwrap();
            are_twins(&plan, cut, &cells);
        }
    }

    /// Every example of every word, and variations of its cell. The steps without a kernel are
    /// listed: they are evaluated by value.
    #[test]
    fn the_examples_of_every_word_are_twins() {
        let lists = EXAMPLE_LISTS.map(|(name, pairs)| {
            (name.to_owned(), Arc::new(List::of_pairs(pairs.iter().copied()).unwrap()))
        });
        let mut without: Vec<&str> = Vec::new();
        for word in words() {
            let mut has_kernel = false;
            for example in word.examples {
                let cut =
                    parse_assignment(example.cut).or_else(|_| parse_cut(example.cut)).unwrap();
                let options = PlanOptions {
                    start: Some("code".to_owned()),
                    lists: lists.iter().cloned().collect(),
                    ..PlanOptions::default()
                };
                let plan = Plan::compile(&[cut], &["code".to_owned()], &options).unwrap();
                let steps = plan.cuts[0].branches.chains.iter().flat_map(|chain| &chain.steps);
                has_kernel |=
                    steps.into_iter().any(|step| step.kernel.is_some() || step.items.is_some());
                let cell = example.cell;
                let cells = [
                    cell.to_owned(),
                    format!("{cell} {cell}"),
                    format!("é{cell}"),
                    format!(" {cell}-"),
                    cell.to_lowercase(),
                    cell.chars().rev().collect(),
                    String::new(),
                ];
                are_twins(&plan, example.cut, &cells);
            }
            if matches!(word.build, Build::Step(_)) && !has_kernel {
                without.push(word.name);
            }
        }
        assert_eq!(without.join(", "), WITHOUT_KERNEL);
    }

    /// Words with a kernel for none of their examples, and without kernels for the items of their
    /// list.
    const WITHOUT_KERNEL: &str = "bytes, position of, count of, numbers, grouped, digits, \
         letters, join, count, without marks, date, length, check digit of";
}
