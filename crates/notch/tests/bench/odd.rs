//! Tables that are odd: drawn, bounded, said in the view.

use std::fs;
use std::io::Write;

use insta::assert_snapshot;

use super::terminal::Terminal;
use super::{demo, notch};

/// What the first lines say of odd tables and tables of other formats.
#[test]
fn odd_tables() {
    let folder = demo();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("empty.csv"), "lot,x\n").unwrap();
    fs::write(path("one.csv"), "lot\nGR-1\n").unwrap();
    fs::write(
        path("long.csv"),
        format!("lot,x\n{}-{},1\nGR-1,2\n", "A".repeat(5_000_000), "B".repeat(5_000_000)),
    )
    .unwrap();
    fs::write(
        path("controls.csv"),
        "lot,x\n\"GR\u{1b}[31m-\u{7}a\u{202e}b\u{9f}c\td\",2\n\"x\ny\",3\n",
    )
    .unwrap();
    fs::write(path("broken.csv"), "lot,x\nGR-1,2\nGR-2\nGR-3,4\n").unwrap();
    let wide: Vec<String> = (1..=200).map(|n| format!("column_{n}")).collect();
    fs::write(path("wide.csv"), format!("{}\n{}\n", wide.join(","), vec!["A-1"; 200].join(",")))
        .unwrap();
    notch(folder.path(), &["carve", "lots.csv", "-c", "lot", "house = first 2", "-o", "lots.xlsx"]);
    notch(
        folder.path(),
        &["carve", "lots.csv", "-c", "lot", "house = first 2", "-o", "lots.csv.gz"],
    );
    let mut screens = String::new();
    for args in [
        &["empty.csv", "-c", "lot"][..],
        &["one.csv"],
        &["long.csv", "-c", "lot"],
        &["controls.csv", "-c", "lot"],
        &["broken.csv", "-c", "lot"],
        &["wide.csv", "-c", "column_200"],
        &["lots.xlsx", "-c", "lot"],
        &["lots.csv.gz", "-c", "lot"],
    ] {
        let mut bench = Terminal::open(folder.path(), args, (80, 24));
        bench.type_text("p = part 2 by \"-\"");
        let screen = bench.screen();
        let lines: Vec<&str> = screen
            .lines()
            .enumerate()
            .filter(|(n, _)| *n == 0 || (5..13).contains(n))
            .map(|(_, line)| line)
            .collect();
        screens.push_str(&format!("== {}\n{}\n\n", args.join(" "), lines.join("\n")));
        // The control characters of cells never reach the terminal.
        let sent = String::from_utf8(bench.bytes()).unwrap();
        assert!(!sent.contains(['\u{7}', '\u{9f}', '\t']) && !sent.contains("GR\u{1b}[31m"));
        bench.press("Ctrl-Q Enter");
        assert_eq!(bench.end().0, 0);
    }
    assert_snapshot!("odd_tables", screens);
}

/// A table that changes is read again, and the cuts outlive one that goes.
#[test]
fn a_table_changes_and_goes() {
    let folder = demo();
    let table = folder.path().join("lots.csv");
    let mut bench =
        Terminal::open(folder.path(), &["lots.csv", "-c", "lot", "y = part 2 by \"-\""], (80, 24));
    fs::OpenOptions::new()
        .append(true)
        .open(&table)
        .unwrap()
        .write_all(b"FH-2020-AAA-11111-1,,5,A1-1,\n")
        .unwrap();
    bench.type_text(" ");
    bench.type_text("|");
    bench.type_text(" upper");
    assert!(
        bench.shows("lots.csv · 321 rows") && bench.shows("all 321 rows: y"),
        "{}",
        bench.screen()
    );
    fs::remove_file(&table).unwrap();
    bench
        .press("Backspace Backspace Backspace Backspace Backspace")
        .type_text("l")
        .type_text("ower");
    assert!(bench.shows("lots.csv is gone; the cuts are kept"), "{}", bench.screen());
    bench.press("Ctrl-Q Enter");
    let (status, printed) = bench.end();
    assert_eq!((status, printed.contains("y = part 2 by \"-\" | lower")), (0, true), "{printed}");
}

/// Jigs with mistakes open all the same.
#[test]
fn jigs_with_mistakes_open() {
    let folder = demo();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("bad.toml"), "column = \"lot\"\n[cuts]\nhouse = \"first 2\"\nyear = \"prt 2\"\nx = { cut = \"last 1\", examples = { \"AB-1\" = \"9\" } }\n[checks]\n\"no such\" = '{nothing} is \"1\"'\n").unwrap();
    fs::write(path("none.toml"), "cuts = [\n").unwrap();
    let mut bench = Terminal::open(folder.path(), &["lots.csv", "-j", "bad.toml"], (80, 24));
    assert_snapshot!("bad_jig", bench.screen());
    bench.press("Ctrl-S Enter");
    assert!(bench.shows("year is wrong: `prt` is not a step."), "{}", bench.screen());
    bench.press("Esc Shift-Tab Left Enter Tab");
    assert!(bench.shows("year = part 2"), "{}", bench.screen());
    bench.press("Ctrl-Q");
    bench.end();
    let mut bench = Terminal::open(
        folder.path(),
        &["lots.csv", "-c", "lot", "-j", "none.toml", "a = first 2"],
        (80, 24),
    );
    assert!(bench.shows("none.toml"), "{}", bench.screen());
    bench.press("Ctrl-S Enter");
    assert!(bench.shows("lots-cuts.toml"), "{}", bench.screen());
    bench.press("Ctrl-Q Ctrl-Q");
    bench.end();
    // One that is not there yet is where it is saved.
    let mut bench = Terminal::open(
        folder.path(),
        &["lots.csv", "-c", "lot", "-j", "new.toml", "a = first 2"],
        (80, 24),
    );
    bench.press("Ctrl-S Enter Ctrl-Q");
    let (status, printed) = bench.end();
    assert_eq!(status, 0);
    assert_snapshot!(printed, @"
    Saved new.toml: 1 cut.
    notch carve lots.csv -c lot -j new.toml
    ");
}
