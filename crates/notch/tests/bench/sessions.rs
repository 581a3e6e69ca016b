//! Sessions as people have them. The screens are held by snapshots.

use std::fs;

use insta::{allow_duplicates, assert_snapshot};

use super::terminal::Terminal;
use super::{demo, notch, run_printed};

/// Three cuts of the lots, from nothing: proposals, words offered, an unfinished and a wrong word,
/// the next cut; then the command makes the same table as the cuts do.
#[test]
fn three_cuts_from_nothing() {
    let folder = demo();
    let mut bench = Terminal::open(folder.path(), &["lots.csv"], (80, 24));
    assert_snapshot!("which_column", bench.screen());
    bench.type_text("lot").press("Enter");
    assert_snapshot!("first_screen", bench.screen());
    bench.type_text("house = fi").press("Tab").type_text("2").press("Enter");
    bench.press("Down");
    assert_snapshot!("proposals", bench.screen());
    bench.press("Esc").type_text("year = part 2 of 5 by");
    assert!(bench.shows(" wants   SEPARATOR"));
    bench.type_text(" \"-\"").press("Enter");
    bench.type_text("serial = part 4 of 5 by \"-\" | pd left 8");
    assert_snapshot!("wrong_word", bench.screen());
    // Enter goes to the fault. The remedy is taken, and the rest typed behind it.
    bench.press("Enter");
    assert_eq!(bench.cursor(), (31, 2));
    bench.press("Tab End").type_text(" with \"0\"");
    assert_snapshot!("three_cuts", bench.screen());
    bench.press("Ctrl-Q");
    assert!(bench.shows("› Leave"));
    bench.press("Enter");
    let (status, printed) = bench.end();
    assert_eq!(status, 0);
    assert_snapshot!("printed_command", printed);
    let done = run_printed(folder.path(), &printed);
    let cuts = [
        "house = first 2",
        "year = part 2 of 5 by \"-\"",
        "serial = part 4 of 5 by \"-\" | pad left 8 with \"0\"",
    ];
    let same = notch(folder.path(), &[&["carve", "lots.csv", "-c", "lot"][..], &cuts].concat());
    assert_eq!(done.stdout, same.stdout);
    assert!(done.status.success() && done.stdout.len() > 10_000);
}

/// A cut with findings is mended: the rows of one reason, the steps of a row, the word that is
/// changed, undo and redo.
#[test]
fn a_cut_with_findings_is_mended() {
    let folder = demo();
    let cut = "serial = part 4 of 5 by \"-\" | pad left 8 with \"0\"";
    let mut bench = Terminal::open(
        folder.path(),
        &["lots.csv", "-c", "lot", "house = first 2", cut],
        (120, 40),
    );
    bench.press("Tab Tab Down Down Down Down");
    assert_snapshot!("rows_of_a_reason", bench.screen());
    bench.press("Enter Down Down");
    assert_snapshot!("steps_of_a_row", bench.screen());
    // Sections from the right, whatever they are divided by.
    bench
        .press("Esc Ctrl-U")
        .type_text("serial = part 4 by any of \"-/\" | keep digits | pad left 8 with \"0\"");
    assert_snapshot!("mended", bench.screen());
    // What was typed is one step, and what was deleted before it another.
    bench.press("Ctrl-Z");
    assert!(bench.shows("Type NAME = CUT, or Down for proposals"), "{}", bench.screen());
    bench.press("Ctrl-Z");
    assert!(bench.shows("part 4 of 5"), "{}", bench.screen());
    bench.press("Ctrl-Z");
    assert!(bench.shows("Nothing to undo"), "{}", bench.screen());
    bench.press("Ctrl-Y Ctrl-Y");
    assert!(bench.shows("by any of"), "{}", bench.screen());
    bench.press("Ctrl-F").type_text("fag").press("Enter");
    assert_snapshot!("found", bench.screen());
    bench.press("Esc Esc Ctrl-C Ctrl-C");
    assert_eq!(bench.end().0, 0);
}

/// A cut is learnt by marking a piece; the question is answered by marking the next one.
#[test]
fn a_cut_is_learnt_by_marking() {
    let folder = demo();
    let mut bench = Terminal::open(folder.path(), &["lots.csv", "-c", "lot"], (80, 24));
    bench.type_text("serial = ").press("Tab Enter Ctrl-Right Ctrl-Right");
    assert_snapshot!("ruler", bench.screen());
    bench.type_text("00043546").press("Enter");
    assert_snapshot!("learnt", bench.screen());
    bench.press("Enter");
    assert_snapshot!("taken", bench.screen());
    // The row in which the cuts part is next, and nothing is to come out of it.
    bench.press("Enter Delete Enter");
    assert!(bench.shows("else \"\""), "{}", bench.screen());
    bench.press("Enter Ctrl-S Enter");
    assert!(bench.shows("Saved lots-cuts.toml: 1 cut."), "{}", bench.screen());
    bench.press("Ctrl-Q");
    let (status, printed) = bench.end();
    assert_eq!(status, 0);
    assert_snapshot!(
        "learnt_jig",
        fs::read_to_string(folder.path().join("lots-cuts.toml")).unwrap()
    );
    assert_snapshot!("learnt_printed", printed);
}

/// A jig is opened, changed, saved with its comments, and run by `carve`; what exists is asked for.
#[test]
fn a_jig_is_saved_and_run() {
    let folder = demo();
    let path = |name: &str| folder.path().join(name);
    fs::write(path("own.toml"), "# Kept by the seed bank.\ncolumn = \"lot\"\n\n[lists]\nhouses = [\"FH\", \"GR\", \"ML\", \"TS\"]\n\n[cuts]\n# Who has sown it.\nhouse = 'first 2 | check is in houses'\n").unwrap();
    let mut bench = Terminal::open(folder.path(), &["lots.csv", "-j", "own.toml"], (80, 24));
    bench.press("Enter").type_text("year = part 2 of 5 by \"-\"").press("Ctrl-S Down");
    bench.type_text("lots.csv").press("Enter");
    assert_snapshot!("save_refused", bench.screen());
    fs::write(path("there.csv"), "x\n").unwrap();
    bench.press("Ctrl-U").type_text("there.csv").press("Enter");
    assert!(bench.shows("there.csv exists") && bench.shows("› Back"), "{}", bench.screen());
    bench.press("Right Enter");
    assert_snapshot!("saved_and_written", bench.screen());
    bench.press("Ctrl-Q");
    let (status, printed) = bench.end();
    assert_eq!(status, 0);
    assert_snapshot!("saved_printed", printed);
    assert_snapshot!("saved_jig", fs::read_to_string(path("own.toml")).unwrap());
    let written = fs::read(path("there.csv")).unwrap();
    let carved = notch(folder.path(), &["carve", "lots.csv", "-j", "own.toml", "-o", "again.csv"]);
    assert!(carved.status.success());
    assert_eq!(written, fs::read(path("again.csv")).unwrap());
}

/// In ASCII on the smallest screen, without colours.
#[test]
fn ascii_on_a_small_screen() {
    let folder = demo();
    let ascii = [("LC_ALL", "C"), ("NO_COLOR", "1")];
    let args = ["lots.csv", "-c", "lot", "year = part 2 by \"-\""];
    let mut bench = Terminal::open_with(folder.path(), &args, (60, 15), &ascii);
    let mut screens = bench.screen();
    for keys in ["Tab Tab", "Shift-Tab Enter", "Esc Ctrl-S", "Esc F1"] {
        bench.press(keys);
        screens.push_str(&format!("\n\n== {keys}\n{}", bench.screen()));
    }
    assert_snapshot!("ascii", screens);
    let sent = String::from_utf8(bench.bytes()).unwrap();
    assert!(sent.is_ascii() && !sent.contains("[38;5;"));
    // Nothing is forgotten by a screen that is too small.
    bench.press("Esc");
    bench.resize((50, 10));
    allow_duplicates! { assert_snapshot!(bench.screen().trim(), @"needs 60x15") }
    bench.type_text("x");
    bench.resize((80, 24));
    assert_snapshot!("ascii_whole", bench.screen());
    bench.press("Ctrl-Q Enter");
    assert_eq!(bench.end().0, 0);
}
