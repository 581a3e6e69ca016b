//! What is demanded of columns and rows, checks in cuts, and what findings do to a row.

use keen_notch_core::{
    About, ColumnRule, Fate, Gathered, OnFinding, Plan, PlanOptions, Scratch, parse_assignment,
    parse_column_rule, parse_row_condition, parse_row_rule,
};

/// Rows of the columns `a` and `b` through a plan: new cells, findings, checks not made and fates,
/// a line a row.
fn rows(rows: &[[&str; 2]], cuts: &[&str], options: PlanOptions) -> Vec<String> {
    let assignments: Vec<_> = cuts
        .iter()
        .map(|cut| parse_assignment(cut).unwrap_or_else(|error| panic!("{cut}: {error}")))
        .collect();
    let options = PlanOptions { start: Some("a".to_owned()), ..options };
    let plan = Plan::compile(&assignments, &["a", "b"].map(str::to_owned), &options)
        .unwrap_or_else(|error| panic!("{cuts:?}: {error}"));
    let cells = |row: &[&'static str; 2]| -> Vec<&'static str> {
        plan.sources().iter().map(|source| row[source.index]).collect()
    };
    let rows: Vec<[&'static str; 2]> =
        rows.iter().map(|row| row.map(|cell| &*cell.to_owned().leak())).collect();
    let mut gathered = Gathered::default();
    for (row, number) in rows.iter().zip(1..) {
        plan.gather(cells(row), number, &mut Scratch::default(), &mut gathered);
    }
    let mut scratch = Scratch::with_all_rows(Some(std::sync::Arc::new(gathered.finish())));
    let said = rows.iter().zip(1..).map(|(row, number)| {
        scratch.at_row(number);
        let result = plan.evaluate(cells(row), &mut scratch);
        let mut said: Vec<String> = result.cells.iter().map(|cell| cell.text.to_owned()).collect();
        said.extend(result.findings.iter().map(|finding| {
            let about = match finding.about {
                About::Column(source) => &plan.sources()[source].name,
                about => plan.called(about),
            };
            format!("[{about} {}: {}]", finding.kind.name(), finding.reason)
        }));
        said.extend(
            result.checked.iter().filter(|made| !**made).map(|_| "(not checked)".to_owned()),
        );
        if result.fate != Fate::Write {
            said.push(format!("{:?}", result.fate));
        }
        said.join(" ")
    });
    said.collect()
}

fn column(name: &str, required: bool, unique: bool, check: &str) -> ColumnRule {
    let check = (!check.is_empty())
        .then(|| parse_column_rule(check).unwrap_or_else(|error| panic!("{check}: {error}")));
    ColumnRule { column: name.to_owned(), required, unique, check, output_type: None }
}

#[test]
fn checks_leave_the_value_and_say_what_fails() {
    for (a, cut, wanted) in [
        ("FH-1", "x = before \"-\" | check is \"FH\"", "FH"),
        ("GR-1", "x = before \"-\" | check is \"FH\"", "GR [x check: fails: is \"FH\"]"),
        ("GR-1", "x = before \"-\" | check is in (\"FH\", \"GR\") | last 1", "R"),
        (
            "GR-1",
            "x = before \"-\" | check  is digits \t and length 2 | lower",
            "gr [x check: fails: is digits and length 2]",
        ),
        (
            "GR-1",
            "x = before \"-\" | check length 3 saying \"an odd house\"",
            "GR [x check: an odd house]",
        ),
        ("GR-1", "x = before \"-\" | check length 3 when {b} is \"no\"", "GR"),
        (
            "GR-1",
            "x = before \"-\" | check length 3 when {b} is \"yes\"",
            "GR [x check: fails: length 3]",
        ),
        // Whatever names no column is about the text, on both sides of `when`.
        ("GR-1", "x = before \"-\" | check {b} is \"yes\" and length 2 when is upper", "GR"),
        ("GR-1", "x = before \"-\" | check not (is lower or {b} is blank)", "GR"),
        // On a list: item by item, one finding.
        (
            "1-x-y",
            "x = parts by \"-\" | check is digits",
            "1; x; y [x check: item 2: fails: is digits (and 1 more)]",
        ),
        // Only the chain that yields the value reports; a missing after a failed check reports
        // both.
        ("GR-1", "x = check is digits | after \"+\" else last 1", "1"),
        (
            "GR-1",
            "x = check is digits | after \"+\"",
            " [x check: fails: is digits] [x missing: no \"+\"]",
        ),
        ("GR-1", "x? = after \"+\" | check is digits", ""),
        ("GR-1", "x = after \"+\" else \"\" then check is digits", ""),
        ("GR-1", "_x = check is digits", "[a check: fails: is digits]"),
    ] {
        assert_eq!(
            rows(&[[a, "yes"]], &[cut], PlanOptions::default()),
            [wanted.to_owned()],
            "{cut}"
        );
    }
}

#[test]
fn columns_are_held_against_what_is_demanded() {
    let cuts = [
        "x = first 1",
        "y, z = parts by \"-\"",
        "t = \"<{a}>\"",
        "e = {b} else {a}",
        "w = {x} | lower",
    ];
    let options = PlanOptions {
        columns: vec![column("a", true, true, "is shape \"[U]-[d+]\" saying \"odd\"")],
        ..PlanOptions::default()
    };
    let given =
        rows(&[["A-1", "b"], ["A1", ""], ["", "b"], ["A-1", "b"], ["A1", "b"]], &cuts, options);
    let double = |row| format!("[a layout: same as row {row}]");
    assert_eq!(
        given,
        [
            format!("A A 1 <A-1> b a {}", double(4)),
            // Cuts that start from the column are blank without findings of their own; elsewhere it
            // reads as missing.
            format!(
                "      [a layout: odd] {} [t missing: a: layout] [e missing: layout] [b blank: blank]",
                double(5)
            ),
            "    b  [a layout: blank] [t missing: a: layout]".to_owned(),
            format!("A A 1 <A-1> b a {}", double(1)),
            format!("    b  [a layout: odd] {} [t missing: a: layout]", double(2)),
        ]
    );
    // Without `required` a blank cell is not checked and counts for no double; it is a note as
    // ever.
    let options = PlanOptions {
        columns: vec![column("a", false, true, "is digits")],
        ..PlanOptions::default()
    };
    assert_eq!(
        rows(&[["", ""], [" ", ""]], &["x = first 1"], options),
        [" [a blank: blank]", " [a blank: blank]"]
    );
    let options = PlanOptions {
        columns: vec![column("b", false, false, "is unique or starts with \"x\"")],
        ..PlanOptions::default()
    };
    let fails = " [b layout: fails: is unique or starts with \"x\"]";
    assert_eq!(
        rows(&[["", "1"], ["", "1"], ["", "x"], ["", "x"]], &[], options),
        [&fails[1..], &fails[1..], "", ""]
    );
}

#[test]
fn rows_are_checked_as_a_whole() {
    let check = |title: &str, text: &str| {
        (title.to_owned(), parse_row_rule(text).unwrap_or_else(|error| panic!("{text}: {error}")))
    };
    let checks = vec![
        check("order", "{x} value < {y}"),
        check("twin", "{b} is unique saying \"b stands twice\""),
        check("pair", "(\"{x}{y}\") length 2 when {a} has \"-\""),
        check("blank", "{y} is blank or {x} is digits"),
    ];
    let options = PlanOptions { checks, ..PlanOptions::default() };
    assert_eq!(
        rows(
            &[["1-2", "p"], ["3-2", "q"], ["2", "q"], ["", ""], ["x-12", "r"]],
            &["x = before \"-\" or end", "y? = after \"-\" else \"\""],
            options
        ),
        [
            "1 2",
            "3 2 [order check: fails: {x} value < {y}] [twin check: b stands twice]",
            "2  [twin check: b stands twice] (not checked) (not checked)",
            "  [a blank: blank] (not checked) (not checked) (not checked)",
            "x 12 [order check: fails: {x} value < {y}] [pair check: fails: (\"{x}{y}\") length 2] [blank check: fails: {y} is blank or {x} is digits]",
        ]
    );
}

#[test]
fn findings_decide_on_the_row() {
    let cuts = ["x = first 2 | check is \"ab\"", "y = {x} | upper", "n, m = parts by \"-\""];
    let table = [["ab-1", ""], ["cd-1", ""], ["ab-1-2", ""]];
    let with = |on_finding, of_first: Option<OnFinding>| {
        let on_finding_of = of_first.map(|action| (0, action)).into_iter().collect();
        rows(&table, &cuts, PlanOptions { on_finding, on_finding_of, ..PlanOptions::default() })
    };
    let (failed, parts) = ("[x check: fails: is \"ab\"]", "[n, m parts: 3 parts for 2 names]");
    let kept =
        ["ab AB ab 1".to_owned(), format!("cd CD cd 1 {failed}"), format!("ab AB ab 1 {parts}")];
    assert_eq!(with(OnFinding::Keep, None), kept);
    // What is left blank is blank for later cuts, too, and for all names of a cut with a finding
    // about the whole of it.
    assert_eq!(
        with(OnFinding::Blank, None),
        [kept[0].clone(), format!("  cd 1 {failed}"), format!("ab AB   {parts}")]
    );
    assert_eq!(
        with(OnFinding::Reject, None),
        [kept[0].clone(), format!("{} Reject", kept[1]), format!("{} Reject", kept[2])]
    );
    assert_eq!(
        with(OnFinding::Reject, Some(OnFinding::Keep)),
        [kept[0].clone(), kept[1].clone(), format!("{} Reject", kept[2])]
    );
    assert_eq!(with(OnFinding::Keep, Some(OnFinding::Stop))[1], format!("{} Stop(0)", kept[1]));
    // A row is rejected before it can be left out.
    let only_rows = Some(parse_row_condition("{x} is \"zz\" or {m} is \"2\"").unwrap());
    let left = rows(
        &table,
        &cuts,
        PlanOptions { only_rows, on_finding: OnFinding::Reject, ..PlanOptions::default() },
    );
    assert_eq!(
        left,
        [
            "ab AB ab 1 LeaveOut".to_owned(),
            format!("{} Reject", kept[1]),
            format!("{} Reject", kept[2])
        ]
    );
}
