//! What a build says of a format that it was built without, and that it has the others: run with
//! any set of features.
#![allow(clippy::unwrap_used, reason = "a test that fails says so by panicking")]

use std::fs;
use std::path::Path;

use assert_cmd::Command;

/// How a table begins that this program cannot read without a feature; what it is read as; an
/// output of the same format.
struct Case {
    feature: &'static str,
    is_built: bool,
    what: &'static str,
    /// The name of a table and its first bytes, which a build that reads it finds broken.
    table: (&'static str, &'static [u8]),
    output: Option<&'static str>,
}

const CASES: [Case; 6] = [
    Case {
        feature: "parquet",
        is_built: cfg!(feature = "parquet"),
        what: "a Parquet file",
        table: ("lots.parquet", b"PAR1 and no more"),
        output: Some("cut.parquet"),
    },
    Case {
        feature: "parquet",
        is_built: cfg!(feature = "parquet"),
        what: "an Arrow file",
        table: ("lots.arrow", b"ARROW1\0\0 and no more"),
        output: Some("cut.arrow"),
    },
    Case {
        feature: "parquet",
        is_built: cfg!(feature = "parquet"),
        what: "an Arrow stream",
        table: ("lots.arrows", b"\xFF\xFF\xFF\xFF and no more"),
        output: Some("cut.arrows"),
    },
    Case {
        feature: "workbooks",
        is_built: cfg!(feature = "workbooks"),
        what: "a workbook",
        table: ("lots.xlsx", WORKBOOK),
        output: Some("cut.xlsx"),
    },
    Case {
        feature: "sqlite",
        is_built: cfg!(feature = "sqlite"),
        what: "an SQLite file",
        table: ("lots.db", b"SQLite format 3\0 and no more"),
        output: Some("cut.db"),
    },
    Case {
        feature: "postgres",
        is_built: cfg!(feature = "postgres"),
        what: "a table of a PostgreSQL server",
        table: ("postgres://seeds@localhost:1/lots", b""),
        output: None,
    },
];

/// An archive with one empty part, `xl/workbook.xml`.
const WORKBOOK: &[u8] = b"PK\x03\x04\x14\0\0\0\0\0\0\0!\0\0\0\0\0\0\0\0\0\0\0\0\0\x0f\0\0\0xl/workbook.xml\
PK\x01\x02\x14\0\x14\0\0\0\0\0\0\0!\0\0\0\0\0\0\0\0\0\0\0\0\0\x0f\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0\0xl/workbook.xml\
PK\x05\x06\0\0\0\0\x01\0\x01\0=\0\0\0-\0\0\0\0\0";

/// Runs a cut over a table and returns the exit status and what was said.
fn carve(folder: &Path, table: &str, output: Option<&str>) -> (Option<i32>, String) {
    let mut command = Command::cargo_bin("notch").unwrap();
    command.current_dir(folder).args(["carve", table, "-c", "lot", "house = first 2"]);
    if let Some(output) = output {
        command.args(["-o", output]);
    }
    let output = command.output().unwrap();
    (output.status.code(), String::from_utf8(output.stderr).unwrap())
}

#[test]
fn a_format_that_is_switched_off_says_so_and_the_others_work() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("lots.csv"), "lot\nGR-2026-TIL\n").unwrap();
    for Case { feature, is_built, what, table: (table, bytes), output } in CASES {
        let message = format!("is {what}, which this notch was built without.");
        let remedy = format!("Use a notch built with the feature `{feature}`");
        if !bytes.is_empty() {
            fs::write(folder.path().join(table), bytes).unwrap();
        }
        let (status, said) = carve(folder.path(), table, None);
        assert_eq!(status, Some(2), "{table}: {said}");
        assert_eq!(said.contains(&message) && said.contains(&remedy), !is_built, "{table}: {said}");
        if let Some(output) = output {
            let (status, said) = carve(folder.path(), "lots.csv", Some(output));
            assert_eq!(status, Some(if is_built { 0 } else { 2 }), "{output}: {said}");
            assert_eq!(said.contains(&message), !is_built, "{output}: {said}");
            assert_eq!(folder.path().join(output).exists(), is_built, "{output}");
        }
    }
}
