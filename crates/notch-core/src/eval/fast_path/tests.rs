//! Kernels and batches against the evaluation by row: the same texts, findings and reasons.

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
        text in "([abA019E]|-| |,|\\.|\\(|\\)|'|\\+|:|é|e\u{301}|\r\n|\u{a0}|00|1,250|250|1.250,50|€|°|\\$|R\\$|EUR|TL|kr\\.|kr|–|−|½|\u{200d}|\u{200f}|[a-]{60}){0,9}",
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
        let places = places.iter().map(|(from, to)| (*from as u32, *to as u32));
        batch.cells(source, places, |_, (from, to)| (from < to).then_some((from, to)));
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
            None => {
                (together.findings(row), (0..texts.len()).map(|n| together.text(row, n)).collect())
            }
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

/// Checks that may be told from a text's bytes.
const CHECKS: [&str; 21] = [
    "is digits",
    "is not digits",
    "is letters",
    "is upper",
    "is lower",
    "length 2",
    "length 0..3",
    "is letters and is upper and length 2",
    "is digits or is upper",
    "is lower and not (length 1)",
    "is digits and it has \"0\"",
    "is letters when length 2..3",
    "is in (\"A\", \"aB\", \"09\", \"é\")",
    "is not in (\"A\", \"aB\")",
    "is in (\"A\", \"aB\", \"09\") and length 2",
    "is in (\"A\", \"a\") ignoring case",
    "value 0..9",
    "value > 5 and is digits",
    "value ..90 and value 9..",
    "has exactly 1 \"-\"",
    "has exactly 1 \"-\" and it has exactly 1 \"A\"",
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1200))]

    #[test]
    fn checks_are_twins(
        cells in prop::collection::vec("[ab]{1,4}|[AB]{1,4}|[aB0]{1,4}|[09]{1,4}|[Aa]?(é|e\u{301}|\r\n|\r)|-A?|", 1..5),
        check in prop::sample::select(&CHECKS[..]),
    ) {
        let cut = format!("x = {{a}} | check {check}");
        let parsed = parse_assignment(&cut).unwrap();
        let plan = Plan::compile(&[parsed], &["a".to_owned()], &PlanOptions::default()).unwrap();
        are_twins(&plan, &cut, &cells);
    }
}

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
            let cut = parse_assignment(example.cut).or_else(|_| parse_cut(example.cut)).unwrap();
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
