//! Several cuts in one row: what they hand each other, and which findings and notes a row gets.

use keen_notch_core::{About, Plan, PlanOptions, Scratch, parse_assignment};

/// A row of the columns `a`, `b` and `c` through cuts: new cells as `name=text`, then findings as
/// `[about kind: reason]`.
fn row(cells: [&str; 3], cuts: &[&str]) -> String {
    let assignments: Vec<_> = cuts
        .iter()
        .map(|cut| parse_assignment(cut).unwrap_or_else(|error| panic!("{cut}: {error}")))
        .collect();
    let columns = ["a", "b", "c"].map(str::to_owned);
    let options = PlanOptions {
        start: Some("a".to_owned()),
        replace: vec!["c".to_owned()],
        ..PlanOptions::default()
    };
    let options = if cuts.iter().any(|cut| cut.starts_with("c =")) {
        options
    } else {
        PlanOptions { replace: Vec::new(), ..options }
    };
    let plan = Plan::compile(&assignments, &columns, &options)
        .unwrap_or_else(|error| panic!("{cuts:?}: {error}"));
    let mut scratch = Scratch::default();
    let result =
        plan.evaluate(plan.sources().iter().map(|source| cells[source.index]), &mut scratch);
    let mut said: Vec<String> = plan
        .outputs()
        .iter()
        .zip(result.cells)
        .map(|(output, cell)| format!("{}={}", output.name, cell.text))
        .collect();
    for finding in result.findings {
        let about = match finding.about {
            About::Name { cut, name } => plan.names(cut).nth(name).unwrap_or_default(),
            About::Cut(cut) => plan.left_side(cut),
            About::Column(source) => &plan.sources()[source].name,
            About::Check(check) => plan.checks().nth(check).unwrap_or_default(),
            About::Row => "row",
        };
        said.push(format!("[{about} {}: {}]", finding.kind.name(), finding.reason));
    }
    said.join(" ")
}

#[test]
fn what_cuts_hand_each_other() {
    for (cells, cuts, wanted) in [
        // A written cut reports once; what starts from it stays blank without a second finding.
        (
            ["x", "", ""],
            &["d = after \"-\"", "e = {d} | upper", "f = \"{d}!\""][..],
            "d= e= f= [d missing: no \"-\"]",
        ),
        // A helper makes no finding of its own; the cut that reads it does.
        (
            ["x", "", ""],
            &["_d = after \"-\"", "e = {_d} | upper", "f = \"{_d}!\""],
            "e= f= [e missing: _d: no \"-\"] [f missing: _d: no \"-\"]",
        ),
        (["x", "", ""], &["_d = after \"-\"", "e = {_d} else \"none\""], "e=none"),
        (
            ["x", "", ""],
            &["d = after \"-\"", "e = {d} else \"none\""],
            "d= e=none [d missing: no \"-\"]",
        ),
        // A name that may stay blank, and a blank on purpose, are no finding further down either.
        (["x", "", ""], &["d? = after \"-\"", "e = {d} | upper"], "d= e="),
        (
            ["x", "", ""],
            &["d = after \"-\" else \"\"", "e = {d} | upper", "f = {d} else \"none\""],
            "d= e= f=none",
        ),
        (["x", "", ""], &["d = after \"-\" else \"\"", "e = \"[{d}]\""], "d= e="),
        // The text of a list is what the column shows.
        (["p-q", "", ""], &["d = parts by \"-\"", "e = {d} | part 2 by \"; \""], "d=p; q e=q"),
        // Replacing: the cut itself reads the old column, later cuts the new one.
        (["x", "", "old"], &["c = {c} | upper", "d = {c} | first 2"], "c=OLD d=OL"),
        (["x", "y", ""], &["d = \"{a}{b}\"", "e = \"{d}{{}}\""], "d=xy e=xy{}"),
    ] {
        assert_eq!(row(cells, cuts), wanted, "{cuts:?}");
    }
}

#[test]
fn blanks_and_missings() {
    for (cells, cuts, wanted) in [
        // One note for the row and column, however many cuts start there.
        (
            ["", "", ""],
            &["d = first 2", "e = last 2", "f = {b} | trim"][..],
            "d= e= f= [a blank: blank] [b blank: blank]",
        ),
        // The note is made whichever chain gives the value.
        (["", "y", ""], &["d = first 2 else {b}"], "d=y [a blank: blank]"),
        (
            ["", "", ""],
            &["d = first 2 else {b} | first 1 else \"z\""],
            "d=z [a blank: blank] [b blank: blank]",
        ),
        // A template with a blank field: the note only; with one whose steps found nothing: a
        // finding that names it.
        (["", "y", ""], &["d = \"{a}-{b}\""], "d= [a blank: blank]"),
        (["x", "y", ""], &["d = \"{a | after '-'}-{b}\""], "d= [d missing: a: no '-']"),
        (["x", "y", ""], &["d = \"{a | after '-' else ''}-{b}\""], "d=-y"),
        // A list of columns: a blank one is a blank item, nothing more.
        (
            ["", "y", ""],
            &[
                "d = list ({a}, {b}, {c}) | join \"/\"",
                "e = list ({a}, {b}, {c}) | drop empty | join \"/\"",
            ],
            "d=/y/ e=y",
        ),
        (["", "y", ""], &["d = list ({a}, {b}) | count"], "d=2"),
        (
            ["x", "y", ""],
            &["d = list ({a} | after \"-\", {b}) | join \"/\""],
            "d=/y [d missing: item 1: no \"-\"]",
        ),
        // Conditions ask quietly.
        (["x", "", ""], &["d = first 1 if {b} is blank else \"no\""], "d=x"),
        (
            ["x", "", ""],
            &["d = first 1 if {b} is digits else \"no\"", "e = first 1 if not {b} is digits"],
            "d=no e=x",
        ),
        (
            ["x", "1", "2"],
            &[
                "d = first 1 if {b} value < {c} and same as {b}",
                "e = first 1 if {b} is digits and {c} is digits",
            ],
            "d=x e=x",
        ),
        (["", "1", ""], &["d = first 1 if {b} is \"2\""], "d= [a blank: blank]"),
        (["x", "1", ""], &["d = first 1 if {b} is \"2\""], "d= [d missing: condition not met]"),
        // `missing` is final; where its own condition does not hold, the next chain is tried.
        (["x", "", ""], &["d = missing \"gone\" if {a} is \"y\" else first 1"], "d=x"),
        (
            ["x", "", ""],
            &["d = after \"-\" else missing else \"z\" then upper"],
            "d= [d missing: missing]",
        ),
        (["x", "", ""], &["d? = missing \"gone\""], "d="),
        // Counting sees nothing as nothing.
        (
            ["", "", ""],
            &["d = length", "e = count of \"-\"", "f = numbers | count"],
            "d=0 e=0 f=0 [a blank: blank]",
        ),
        (
            ["x", "", ""],
            &["d = part 2 by \"-\" | length", "e = digits | length"],
            "d= e=0 [d missing: 1 part]",
        ),
    ] {
        assert_eq!(row(cells, cuts), wanted, "{cuts:?}");
    }
}

#[test]
fn findings_of_the_chain_that_counts() {
    for (cells, cuts, wanted) in [
        // What a chain given up had to say is dropped.
        (["ab", "", ""], &["d = first 5 | after \"-\" else last 1"][..], "d=b"),
        (
            ["ab", "", ""],
            &["d = first 5 | after \"-\" else first 3"],
            "d=ab [d short: 2 characters, not 3]",
        ),
        (
            ["ab", "", ""],
            &["d = first 5 | after \"-\" else first 4 | after \"+\""],
            "d= [d short: 2 characters, not 4] [d missing: no \"+\"]",
        ),
        (
            ["abcdef", "", ""],
            &["d = pad left 3", "e = pad right 3 | pad left 4"],
            "d=abcdef e=abcdef [d over: 6 characters, more than 3] [e over: 6 characters, more than 3] [e over: 6 characters, more than 4]",
        ),
        // A doubtful number is one note a cell, and none when it is only counted.
        (
            ["007 and 08", "", ""],
            &["d = numbers", "e = numbers | count", "f = number 2 else \"\""],
            "d=7; 8 e=2 f=8 [d doubtful: zeros in front were dropped] [f doubtful: zeros in front were dropped]",
        ),
        (["007", "", ""], &["d = number if it value > 9 else \"small\""], "d=small"),
        // Several names.
        (
            ["p-q-r", "", ""],
            &["d, e = parts by \"-\""],
            "d=p e=q [d, e parts: 3 parts for 2 names]",
        ),
        (
            ["p", "", ""],
            &["d, e, f? = parts by \"-\""],
            "d=p e= f= [d, e, f parts: 1 part for 3 names]",
        ),
        (["p-q", "", ""], &["d, e, f? = parts by \"-\""], "d=p e=q f="),
        (
            ["p--r", "", ""],
            &["d, e, f? = parts by \"-\"", "g, _, h = parts by \"-\""],
            "d=p e= f=r g=p h=r [e missing: part 2 is empty]",
        ),
        (
            ["p-q", "", ""],
            &[
                "d, _ = parts by \"-\"",
                "_, e = parts by \"-\"",
                "_h, f = parts by \"-\"",
                "g = {_h}",
            ],
            "d=p e=q f=q g=p",
        ),
        (["p", "", ""], &["d, e = numbers"], "d= e= [d, e missing: no number]"),
        (["p", "", ""], &["d?, e? = numbers"], "d= e="),
        (["", "", ""], &["d, e = parts by \"-\""], "d= e= [a blank: blank]"),
        (
            ["x1-y-z3", "", ""],
            &["d, e, f = parts by \"-\" | digits"],
            "d=1 e= f=3 [e missing: no digits]",
        ),
        (
            ["x1-y-z3", "", ""],
            &["d = parts by \"-\" | digits", "e = parts by \"-\" | digits | drop empty"],
            "d=1; ; 3 e=1; 3 [d missing: item 2: no digits]",
        ),
        (["2019-04-12", "", ""], &["d, e? = halves at \"/\""], "d= e= [d, e missing: no \"/\"]"),
    ] {
        assert_eq!(row(cells, cuts), wanted, "{cuts:?}");
    }
}

/// What the options of a plan refuse.
#[test]
fn options_are_checked() {
    let compile = |cuts: &[&str], start: Option<&str>, replace: &[&str]| {
        let cuts: Vec<_> = cuts.iter().map(|cut| parse_assignment(cut).unwrap()).collect();
        let replace = replace.iter().map(|name| (*name).to_owned()).collect();
        let options =
            PlanOptions { start: start.map(str::to_owned), replace, ..PlanOptions::default() };
        let columns = ["lot", "", "n", "n", "column 1"].map(str::to_owned);
        Plan::compile(&cuts, &columns, &options)
            .err()
            .map(|error| error.to_string())
            .unwrap_or_default()
    };
    for (cuts, start, replace, said) in [
        (&["x = first 2"][..], Some("lot"), &[][..], ""),
        (&["x = first 2"], Some("{lot}"), &[], ""),
        (&["x = first 2"], Some("column 2"), &[], ""),
        (&["x = first 2"], Some("column 1"), &[], ""),
        (&["x = first 2"], Some("lto"), &[], "There is no column lto"),
        (&["x = first 2"], Some("n"), &[], "2 columns are called n"),
        (&["x = first 2"], None, &[], "cut 1: This cut begins with a step"),
        (&["x = {column 2}"], None, &[], ""),
        (&["lot = {lot}"], None, &["lot"], ""),
        (&["x = {lot}"], None, &["lot"], "No cut makes a column lot"),
        (&["x = {lot}"], None, &["x"], "The table has no column x"),
        (&["n = {lot}"], None, &["n"], "cut 1: 2 columns of the table are called n"),
        (&["x = {lot}", "x = {lot}"], None, &[], "cut 2: A cut above makes x"),
        (&["_ = {lot}", "_ = {lot}"], None, &[], ""),
        (&["x = {y}", "y = {lot}"], None, &[], "cut 1: y is not made yet"),
        (&["x = \"{column 1}\""], None, &[], ""),
    ] {
        let message = compile(cuts, start, replace);
        assert!(
            if said.is_empty() { message.is_empty() } else { message.starts_with(said) },
            "{cuts:?}: {message:?}, not {said:?}"
        );
    }
}

/// A compiled plan is shared between threads; each has a scratch of its own.
#[test]
fn plans_are_shared_between_threads() {
    let cuts =
        [parse_assignment("d = {a} | part 2 by \"-\" | upper if it is shape \"[L+]\" else {b}")
            .unwrap()];
    let columns = ["a", "b"].map(str::to_owned);
    let plan = Plan::compile(&cuts, &columns, &PlanOptions::default()).unwrap();
    std::thread::scope(|scope| {
        for n in 0..4 {
            let plan = &plan;
            scope.spawn(move || {
                let mut scratch = Scratch::default();
                for row in 0..500 {
                    let (cell, other) = (format!("{n}-x{}", "y".repeat(row % 7)), format!("{row}"));
                    let given = plan.evaluate([cell.as_str(), other.as_str()], &mut scratch).cells
                        [0]
                    .text
                    .to_owned();
                    assert_eq!(given, format!("X{}", "Y".repeat(row % 7)));
                    assert_eq!(
                        plan.evaluate(["none", other.as_str()], &mut scratch).cells[0].text,
                        other
                    );
                }
            });
        }
    });
}
