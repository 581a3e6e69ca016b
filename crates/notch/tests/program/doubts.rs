//! Nothing wrong passes in silence: readings that may be wrong, and cuts that were probably meant
//! otherwise.

use super::support::Folder;

const PAID: &str =
    "lot,paid\nA,\"INV 2291 EUR 1,918.52 paid\"\nB,\"EUR 12,50\"\nC,no. 007\nD,\nE,\"1.250,5\"\n";

#[test]
fn a_doubtful_number_is_a_finding_wherever_findings_are() {
    let mut folder = Folder::with(&[
        ("t.csv", PAID),
        ("put-up.toml", "[cuts]\namount = { cut = '{paid} | number last' }\n[allow]\namount = 3\n"),
        (
            "blank.toml",
            "[cuts]\n_n = '{paid} | number last'\namount = { cut = '\"{_n} EUR\"', on_finding = \"blank\" }\ncopy = '{_n}'\n",
        ),
    ]);
    let cut = "amount = {paid} | number last decimal \",\"";
    folder.show(&["carve", "t.csv", cut, "--strict", "--findings", "f.csv", "-o", "o.csv"]);
    folder.show_file("f.csv");
    folder.show(&[
        "carve",
        "t.csv",
        "amount = {paid} | number last",
        "--rejects",
        "odd.csv",
        "--only",
    ]);
    folder.show_file("odd.csv");
    folder.show(&[
        "carve",
        "t.csv",
        "amount = {paid} | number last",
        "--on-finding",
        "stop",
        "--only",
    ]);
    folder.show(&["check", "t.csv", "-j", "put-up.toml"]);
    folder.show(&["carve", "t.csv", "-j", "blank.toml", "--only", "-q", "--findings", "f.csv"]);
    folder.show_file("f.csv");
    insta::assert_snapshot!(folder.screen);
}

/// The rows together show what none of them shows alone; in the same words for any number of
/// threads, and in one finding of no row.
#[test]
fn a_column_that_shows_the_other_decimal_mark() {
    let mut rows = String::from("lot,price\n");
    for n in 0..400 {
        rows.push_str(&format!(
            "L{n},\"{}\"\n",
            if n == 250 { "0,348".to_owned() } else { format!("{},{:03}", n % 9 + 1, n) }
        ));
    }
    let mut folder = Folder::with(&[
        ("t.csv", &rows),
        ("helper.toml", "[cuts]\n_n = '{price} | number'\nkg = '\"{_n} kg\"'\n"),
        ("allow.toml", "[cuts]\nkg = '{price} | number'\n[allow]\nkg = 400\n"),
    ]);
    let cut = "kg = {price} | number";
    folder.show(&["check", "t.csv", cut]);
    folder.show(&["check", "t.csv", "-j", "helper.toml"]);
    folder.show(&["check", "t.csv", "-j", "allow.toml"]);
    insta::assert_snapshot!(folder.screen);
    let told = |args: &[&str]| {
        folder.run(
            &[&["carve", "t.csv", cut, "--only", "-o", "o.csv", "--strict"], args].concat(),
            b"",
        )
    };
    let first = told(&["--threads", "1"]);
    assert!(first.1.contains("399 numbers like 1,000 (line 2)") && first.2 == 1, "{}", first.1);
    for args in [
        &["--threads", "3"][..],
        &["--threads", "2", "--block", "64"],
        &["--threads", "1", "--block", "100"],
    ] {
        assert_eq!(told(args), first);
    }
    assert_eq!(told(&["-q"]).1, "");
    let (_, said, status) = folder.run(
        &["carve", "t.csv", "kg = {price} | number decimal \",\"", "-o", "o.csv", "--strict"],
        b"",
    );
    assert!(status == 0 && !said.contains("Hint"), "{said}");
    // Two chains for two kinds of rows: a chain that is given up says nothing of its column.
    let two =
        "kg = {price} | number decimal \",\" if {price} starts with \"0\" else {price} | number";
    let (_, said, status) = folder.run(&["carve", "t.csv", two, "-o", "o.csv", "--strict"], b"");
    assert!(status == 0 && !said.contains("Hint"), "{said}");
}

#[test]
fn what_was_probably_meant_otherwise_is_said_once() {
    let folder = Folder::with(&[("t.csv", "text\nGR-2019-a\nFH-2020-b\npreferred 12 x3\nref 7\n")]);
    let hints = |command: &[&str]| {
        let (_, said, _) = folder.run(command, b"");
        said.lines()
            .filter(|line| line.starts_with("Hint: "))
            .map(|hint| format!("  {}\n", &hint[6..]))
            .collect::<String>()
    };
    let mut screen = String::new();
    for cut in [
        "part 2 by \"-\" if it starts with \"GR\" else \"x\"",
        "part 2 by \"-\" if it is shape \"[U2]-[d4]-[l]\" else \"x\"",
        "part 2 by \"-\" if it is /GR.*/ else \"x\"",
        "part 2 by \"-\" if it has \"GR\" else \"x\"",
        "digits | number",
        "digits | pad left 5 with \"0\"",
        "\"yes\" if {text} has \"ref\" else \"no\"",
        "part 2 by \"-\" | (first 2 else \"none\")",
        "trim | part 2 by \"-\" else part 2 by \" \"",
        "between 1st \"-\" and 2nd \"-\"",
        // Nothing is wrong with these.
        "part 2 by \"-\" if it is shape \"[d4]\" else \"x\"",
        "part 2 by \"-\" if it has no \"GR\" else \"x\"",
        "block 1 of digits | number",
        "digits",
        "\"yes\" if {text} has word \"ref\" else \"no\"",
        "part 2 by \"-\" | (first 2 else \"none\") else \"none\"",
        "trim | (part 2 by \"-\" else part 2 by \" \")",
        "between \"-\" and \"-\"",
    ] {
        screen.push_str(&format!(
            "{cut}\n{}",
            hints(&["carve", "t.csv", "-c", "text", &format!("a = {cut}"), "-o", "o.csv"])
        ));
    }
    screen.push_str(&format!(
        "compare\n{}",
        hints(&["compare", "t.csv", "-c", "text", "digits | number", "number"])
    ));
    screen.push_str(&format!("trace\n{}", hints(&["trace", "digits | number", "A1", "A1 B2"])));
    screen.push_str(&format!("trace -t\n{}", hints(&["trace", "digits | number", "-t", "t.csv"])));
    insta::assert_snapshot!(screen);
    // A word that a column bears, too.
    let (_, said, _) = Folder::with(&[("t.csv", "left\nFH\n")])
        .run(&["carve", "t.csv", "a = left | first 2"], b"");
    assert!(said.contains("first COUNT") && said.contains("{left}"), "{said}");
    let (said, _, status) = folder.run(&["words", "left", "--json"], b"");
    assert!(status == 0 && String::from_utf8(said).unwrap().contains("\"habit\": true"));
}
