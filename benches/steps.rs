//! What single cuts cost a cell, in time and in allocations: `cargo bench -p notch-core`.
//!
//! The scratch is reused as in a run, so the allocations shown are those each row makes: none, as
//! long as a cut only takes pieces or writes its new text into the scratch.
#![allow(clippy::panic, reason = "a benchmark whose cut is wrong cannot go on")]

use divan::{AllocProfiler, Bencher, black_box};
use keen_notch_core::{Plan, PlanOptions, Scratch, parse_cut};

#[global_allocator]
static ALLOCATIONS: AllocProfiler = AllocProfiler::system();

fn main() {
    divan::main();
}

const LOT: &str = "FH-2019-BRA-00417-7";
const NOTE: &str = "Ref 62264, malus 3.20 kg, EUR 1,250.50 (kp: I. Moran)";
const ACCENTS: &str = "Žďár-2019-Łódź-00417-7";

const CUTS: &[(&str, &str)] = &[
    ("part 4 by \"-\" | pad left 8 with \"0\"", LOT),
    ("part 4 by \"-\" | pad left 8 with \"0\"", ACCENTS),
    ("first 2", LOT),
    ("first 2", ACCENTS),
    ("chars -7..-3", LOT),
    ("after last \"-\"", LOT),
    ("part -2 of 5 by \"-\"", LOT),
    ("parts by \"-\"", LOT),
    ("number", NOTE),
    ("after word \"ref\" ignoring case | number next", NOTE),
    ("between \"(kp:\" and \")\" | trim", NOTE),
    ("match /EUR ([0-9,.]+)/ group 1", NOTE),
    ("digits", NOTE),
    ("upper", NOTE),
    ("trim if it is shape \"[U2]-[d4]-[U3]-[d5]-[d]\" else \"\"", LOT),
];

#[divan::bench(args = 0..CUTS.len())]
fn cut(bencher: Bencher, n: usize) {
    let (cut, cell) = CUTS[n];
    let options = PlanOptions { start: Some("c".to_owned()), ..PlanOptions::default() };
    let parsed = parse_cut(cut).unwrap_or_else(|error| panic!("{cut}: {error}"));
    let plan = Plan::compile(&[parsed], &["c".to_owned()], &options)
        .unwrap_or_else(|error| panic!("{cut}: {error}"));
    let mut scratch = Scratch::default();
    // The scratch grows with the first row and is reused from then on.
    plan.evaluate([cell], &mut scratch);
    bencher.bench_local(move || {
        let result = plan.evaluate([black_box(cell)], &mut scratch);
        black_box(result.cells[0].text.len())
    });
}

#[divan::bench(args = 0..CUTS.len())]
fn parse(n: usize) -> bool {
    parse_cut(black_box(CUTS[n].0)).is_ok()
}
