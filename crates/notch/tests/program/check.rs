//! Jigs with expectations: `notch check`, what findings do to rows, and what a jig remembers.

use insta::assert_snapshot;

use super::support::Folder;

const JIG: &str = r#"column = "lot"
[lists]
houses = ["FH", "GR"]
genera = { file = "genera.csv", column = "code", gives = "name" }
old = { file = "old.txt" }
[columns]
lot = { required = true, unique = true, check = 'has exactly 3 "-"' }
[cuts]
house = 'part 1 by "-" | check is in houses'
genus = 'part 2 by "-" | look up in genera'
number = { cut = 'part 3 by "-" | check is digits and length 3', on_finding = "blank" }
"n, d?" = '{lot} | part 3..4 by "-" | parts by "-"'
label = '"{house}{number}"'
[checks]
"digit holds" = '("{number}{d}") is luhn'
"not taken" = '{label} is not in old'
"one of a kind" = '{label} is unique'
[allow]
house = "25%"
"#;

/// Only rows 1 and 10 are as they should be.
const TABLE: &str = "lot,n2\nFH-BRA-417-6,1\nGR-ROS-123-0,2\nFH-BRA-018-2,3\nXX-BRA-026-5,4\nFH-XYZ-034-9,5\nFH-BRA-04O-6,6\n,7\nFH-BRA-059\nGR-ROS-123-0,9\n\
                     FH-BRA-067-9,10\nFH-BRA-0759-1,11\nFHBRA083-6,12\nFH-ROS-018-2,13\nGR-BRA-091-9,14\n";

fn folder() -> Folder {
    Folder::with(&[
        ("jig.toml", JIG),
        ("t.csv", TABLE),
        ("genera.csv", "name,code\nBrassica,BRA\nRosa, ROS \nRosa,ROS\n"),
        ("old.txt", "\u{feff}FH777\n\n GR091 \n"),
    ])
}

#[test]
fn every_planted_fault_is_found_and_nothing_else() {
    let mut folder = folder();
    folder.show(&["check", "t.csv", "-j", "jig.toml", "--findings", "f.csv"]);
    folder.show_file("f.csv");
    let (json, _, status) =
        folder.run(&["check", "-", "-j", "jig.toml", "--json"], TABLE.as_bytes());
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    assert_eq!(
        (status, &json["rows"], &json["as_expected"], &json["unreadable"]),
        (1, &14.into(), &false.into(), &1.into())
    );
    // The findings file, the report and its JSON count the same.
    let listed = folder.read("f.csv").lines().count() - 1;
    let counted: u64 = json["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|group| group["count"].as_u64().unwrap())
        .sum();
    assert_eq!(counted, listed as u64);
    insta::assert_snapshot!(folder.screen);
}

/// What shows in several cuts of one column in the same rows is one entry, and what shows in others
/// is another.
#[test]
fn one_cause_is_one_entry() {
    let mut folder = Folder::with(&[(
        "t.csv",
        "lot,shelf\nFH-2019-BRA,A1\nFH2019BRA,A2\nGR-2020-ROS,B7\nGR/2020/ROS,B8\n-2021-ROS,C1\nFH-2022-TIL,D\nfh-2023-OAK,E1\nFH-2024-X-9,F1\n",
    )]);
    for cuts in [
        &[
            "house = part 1 of 3 by \"-\"",
            "year = part 2 of 3 by \"-\"",
            "genus = part 3 of 3 by \"-\"",
        ][..],
        &[
            "year = part 2 of 3 by \"-\"",
            "at = after last \"-\" | check length 3",
            "a, b, c = parts by \"-\"",
            "row = {shelf} | first 1",
            "n = {shelf} | number",
        ],
        &[
            "year = part 2 by \"-\"",
            "genus = part 3 by \"-\" | check is upper",
            "all = {lot} | check has \"-\"",
        ],
    ] {
        for command in ["check", "carve"] {
            let out = if command == "carve" { &["-o", "out.csv"][..] } else { &[] };
            folder.show(&[&[command, "t.csv", "-c", "lot"], cuts, out].concat());
        }
    }
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn rows_in_are_rows_out() {
    let mut folder = folder();
    folder.write("t.csv", TABLE.replace("FH-BRA-059\n", "FH-BRA-059-6,8\n").as_bytes());
    let base = ["carve", "t.csv", "-j", "jig.toml", "-o", "out.csv"];
    for more in [
        &["--rejects", "odd.csv"][..],
        &["--on-finding", "blank", "--only"],
        &["--on-finding", "stop"],
        &["--where", "{house} is \"GR\"", "--strict"],
        &["--where", "{house} is \"GR\"", "--rejects", "odd.csv"],
        &["--on-finding", "reject"],
        &["--on-finding", "keep", "--rejects", "odd.csv"],
        &["--where", "is \"GR\""],
        &["--where", "{hose} is \"GR\""],
        &["--allow", "hose 3%"],
        &["--allow", "house many"],
        &["--rejects", "t.csv"],
        &["--findings", "genera.csv/f.csv"],
        &["--save-jig", "jig.toml"],
    ] {
        std::fs::remove_file(folder.path("out.csv")).ok();
        folder.show(&[&base[..], more].concat());
        if folder.path("out.csv").exists() {
            folder.show_file("out.csv");
        }
    }
    folder.show_file("odd.csv");
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn what_is_typed_can_be_kept_and_does_the_same_again() {
    let mut folder = folder();
    let typed = [
        "carve",
        "t.csv",
        "-c",
        "lot",
        "house = part 1 by \"-\" | check is in (\"FH\", 'GR')",
        "\"n 2\", d? = {lot} | part 3..4 by \"-\" | parts by \"-\"",
        "n2 = {n2} | pad left 3 with \"0\"",
        "--replace",
        "n2",
        "--where",
        "{house} is not \"XX\"",
        "--columns",
        "n2,house,n 2",
        "--rejects",
        "odd.csv",
        "--separator",
        ",",
        "--allow",
        "house 2",
    ];
    let (out, ..) = folder.run(&typed, b"");
    std::fs::create_dir(folder.path("jigs")).unwrap();
    folder
        .show(&[&typed[..], &["-o", "o.csv", "--quiet", "--save-jig", "jigs/kept.toml"]].concat());
    let (again, ..) =
        folder.run(&["carve", "t.csv", "-j", "jigs/kept.toml", "--rejects", "odd.csv"], b"");
    assert_eq!(String::from_utf8(again).unwrap(), String::from_utf8(out).unwrap());
    folder.show_file("jigs/kept.toml");

    // A jig saved from a jig says the same, its lists included.
    folder.run(&["check", "t.csv", "-j", "jig.toml", "--remember"], b"");
    folder.run(
        &[
            "carve",
            "t.csv",
            "-j",
            "jig.toml",
            "-o",
            "o.csv",
            "--save-jig",
            "copy.toml",
            "--rejects",
            "odd.csv",
        ],
        b"",
    );
    assert_eq!(
        folder.run(&["check", "t.csv", "-j", "copy.toml"], b"").0,
        folder.run(&["check", "t.csv", "-j", "jig.toml"], b"").0
    );
    folder.show_file("copy.toml");
    folder.show(&["jig", "show", "copy.toml"]);
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn a_jig_remembers_and_its_comments_stay() {
    let jig = "# kept\ncolumn = \"c\"   # and this\n[cuts]\na = 'before \"-\" or end'   # too\n[remembered]\ndrift = 2   # points\n";
    let mut folder = Folder::with(&[("jig.toml", jig)]);
    let table = |odd: &str| format!("c\n{}{odd}", "AB-1\n".repeat(90) + &"C\n".repeat(10));
    folder.write("first.csv", table("").as_bytes());
    folder.write("next.csv", table("C\nABC-2\n\"\"\n").as_bytes());
    folder.show(&["check", "first.csv", "-j", "jig.toml", "--remember"]);
    folder.show_file("jig.toml");
    folder.show(&["check", "first.csv", "-j", "jig.toml"]);
    folder.show(&["check", "next.csv", "-j", "jig.toml"]);
    folder.show(&["check", "next.csv", "-j", "jig.toml", "--drift", "0.5"]);
    folder.show(&["check", "next.csv", "-j", "jig.toml", "a2 = {c}", "--remember"]);
    folder.show(&["check", "next.csv", "-j", "jig.toml", "--quiet"]);
    folder.show(&["check", "next.csv", "a2 = {c}", "--remember"]);
    folder.show(&["check", "next.csv"]);
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn the_schema_in_the_docs_is_that_of_the_program() {
    let folder = Folder::with(&[]);
    let (schema, _, status) = folder.run(&["jig", "schema"], b"");
    let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/jig.schema.json");
    if std::env::var_os("UPDATE_GUIDE").is_some() {
        std::fs::write(&kept, &schema).unwrap();
    }
    assert_eq!(
        (String::from_utf8(schema).unwrap(), status),
        (std::fs::read_to_string(kept).unwrap(), 0)
    );
}

/// A supplier who begins to write otherwise is told, though every cut still finds something.
#[test]
fn a_new_way_of_writing_is_told() {
    let table = |label: &str| -> String {
        let row = |n: usize| {
            format!("{label} {}: {} trays of acer\nbox {n} left at the gate\n", n + 100, n % 9)
        };
        format!("note\n{}", (0..40).map(row).collect::<String>())
    };
    let folder = Folder::with(&[
        ("may.csv", &table("Ref")),
        ("june.csv", &table("Ref no.")),
        ("notes.toml", "column = 'note'\n[cuts]\nnumber = 'number'\n"),
    ]);
    folder.run(&["check", "may.csv", "-j", "notes.toml", "--remember"], b"");
    assert_snapshot!(folder.read("notes.toml"), @r#"
    column = 'note'
    [cuts]
    number = 'number'

    [remembered]
    rows = 80

    [remembered.shapes]
    number = { "[d3]" = 50.0, "[d2]" = 37.5, "[d]" = 12.5 }

    [remembered.layouts]
    note = { "Ref [d3]: [d] trays of acer" = 50.0, "box [d1..2] left at the gate" = 50.0 }
    "#);
    assert_snapshot!(folder.said(&["check", "may.csv", "-j", "notes.toml"]), @"
    80 rows read from may.csv: no findings.
      new column  filled  blank  shapes of its texts, rarest last
      number          80      0  [d3] 40 · [d2] 30 · [d] 10

    All as expected.
    status 0
    ");
    assert_snapshot!(folder.said(&["check", "june.csv", "-j", "notes.toml"]), @"
    80 rows read from june.csv: no findings.
      new column  filled  blank  shapes of its texts, rarest last
      number          80      0  [d3] 40 · [d2] 30 · [d] 10

    Not as remembered (new shapes and layouts, and shares that moved by more than 10 points):
      note  Ref [d3]: [d] trays of acer      was in 50.0% of the rows, now in 0.0%
      note  Ref no. [d3]: [d] trays of acer  never seen before, now 40 rows         first in line 2

    The columns no longer look as they did. When that is right: --remember.
    status 1
    ");
}
