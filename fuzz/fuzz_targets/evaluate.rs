//! No cell makes a cut panic; what is fast gives what is obvious; a trace ends where the evaluation
//! ends.
#![no_main]

use arbitrary::Arbitrary;
use keen_notch_core::{Plan, PlanOptions, Scratch, parse_cut, words};
use libfuzzer_sys::fuzz_target;
use unicode_segmentation::UnicodeSegmentation;

#[derive(Arbitrary, Debug)]
struct Input<'a> {
    cell: &'a str,
    other: &'a str,
    /// Which steps of the table's examples are chained.
    steps: [u8; 3],
    /// A cut written by the fuzzer, when it is one.
    cut: &'a str,
    n: u8,
    m: u8,
}

fn carve(cut: &str, cell: &str, other: &str) -> Option<String> {
    let parsed = parse_cut(cut).ok()?;
    let options = PlanOptions { start: Some("code".to_owned()), ..PlanOptions::default() };
    let plan = Plan::compile(&[parsed], &["code".to_owned(), "n".to_owned()], &options).ok()?;
    let mut scratch = Scratch::default();
    let cells: Vec<&str> =
        plan.sources().iter().map(|source| if source.index == 0 { cell } else { other }).collect();
    let text = plan.evaluate(cells.iter().copied(), &mut scratch).cells[0].text.to_owned();
    let traced = plan.trace(&cells, &mut scratch).map(|trace| trace.cells[0].1.clone());
    assert_eq!(traced.as_ref(), Some(&text), "{cut}");
    Some(text)
}

fuzz_target!(|input: Input<'_>| {
    carve(input.cut, input.cell, input.other);
    let examples: Vec<&str> = words()
        .flat_map(|word| word.examples)
        .map(|example| example.cut)
        .filter(|cut| !cut.contains(" = "))
        .collect();
    let chosen = |n: u8| examples[usize::from(n) % examples.len()];
    let chain: Vec<&str> = input.steps.iter().map(|n| chosen(*n)).collect();
    carve(chain[0], input.cell, input.other);
    carve(&chain.join(" | "), input.cell, input.other);
    carve(&format!("({}) | {}", chain[0], chain[1]), input.cell, input.other);
    carve(
        &format!("{} | ({} else {}) | \"<{{it}}>\"", chain[0], chain[1], chain[2]),
        input.cell,
        input.other,
    );

    // The slow, obvious twin: characters as a list.
    if input.cell.trim().is_empty() {
        return;
    }
    let characters: Vec<&str> = input.cell.graphemes(true).collect();
    let end = characters.len();
    let left = |text: String| if text.trim().is_empty() { String::new() } else { text };
    let (n, m) = (usize::from(input.n) + 1, usize::from(input.m) + 1);
    let between = |from: usize, to: usize| {
        left(characters[from.min(end)..to.clamp(from.min(end), end)].concat())
    };
    assert_eq!(carve(&format!("first {n}"), input.cell, ""), Some(between(0, n)));
    assert_eq!(
        carve(&format!("last {n}"), input.cell, ""),
        Some(between(end.saturating_sub(n), end))
    );
    assert_eq!(
        carve(&format!("chars {n} for {m}"), input.cell, ""),
        Some(between(n - 1, n - 1 + m))
    );
    let parts: Vec<String> =
        characters.split(|character| *character == "-").map(<[&str]>::concat).collect();
    let part = parts.get(n - 1).cloned().map_or(String::new(), left);
    assert_eq!(carve(&format!("part {n} by \"-\""), input.cell, ""), Some(part));
});
