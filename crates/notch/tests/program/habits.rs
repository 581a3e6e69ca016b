//! What every command does alike: colour, pipes, exit status, where data and words go.

use std::io::{Read, Write};
use std::process::{Command, Stdio};

use super::support::Folder;

const LOTS: &str = "lot,n\nFH-1,2\nGR-2,3\n";

#[test]
fn shells_and_the_manual_know_every_command() {
    let folder = Folder::with(&[]);
    let commands = ["survey", "trace", "carve", "check", "compare", "words", "demo", "jig"];
    for shell in ["bash", "zsh", "fish", "powershell"] {
        let (script, _, status) = folder.run(&["completions", shell], b"");
        let script = String::from_utf8(script).unwrap();
        assert_eq!(status, 0, "{shell}");
        assert!(
            commands.iter().all(|command| script.contains(command)) && script.contains("findings"),
            "{shell}"
        );
        assert!(script.contains("notch column-names -- "), "{shell}");
    }
    // After -c they offer the columns of the table that is named before it.
    folder.write("lots.csv", b"lot,Berth no\nFH-1,2\n");
    assert_eq!(
        folder.run(&["column-names", "--", "carve", "no.csv", "lots.csv", "-c", ""], b"").0,
        b"lot\nBerth no\n"
    );
    assert_eq!(folder.run(&["manual", "pages/man1"], b"").2, 0);
    for command in commands {
        assert!(
            folder
                .read(&format!("pages/man1/notch-{command}.1"))
                .contains(&format!("notch\\-{command}")),
            "{command}"
        );
    }
}

#[test]
fn colour_only_where_it_is_wanted() {
    let folder = Folder::with(&[("lots.csv", LOTS)]);
    for args in [
        &["carve", "lots.csv", "a = {lot} | first 2", "--preview"][..],
        &["trace", "part 2 by \"-\"", "FH-1"],
        &["words", "part"],
        &["carve", "lots.csv", "a = {lot} | frist 2"],
    ] {
        let printed = |more: &[&str]| {
            let all: Vec<&str> = args.iter().chain(more).copied().collect();
            let (out, err, _) = folder.run(&all, b"");
            format!("{}{err}", String::from_utf8(out).unwrap())
        };
        let plain = printed(&[]);
        assert!(!plain.contains('\u{1b}'), "{args:?}");
        assert_eq!(printed(&["--color", "never"]), plain, "{args:?}");
        let coloured = printed(&["--color", "always"]);
        assert!(coloured.contains('\u{1b}'), "{args:?}");
        // Colour adds nothing but itself.
        let mut bare = String::new();
        let mut in_style = false;
        for c in coloured.chars() {
            match c {
                '\u{1b}' => in_style = true,
                'm' if in_style => in_style = false,
                c if !in_style => bare.push(c),
                _ => {}
            }
        }
        assert_eq!(bare, plain, "{args:?}");
    }
}

#[test]
fn statuses_and_streams() {
    let folder = Folder::with(&[("lots.csv", LOTS), ("broken.csv", "lot,n\nFH-1\n")]);
    for (args, status, out_is_empty, err_is_empty) in [
        (&["carve", "lots.csv", "a = {lot} | first 2"][..], 0, false, false),
        (&["carve", "lots.csv", "a = {lot} | first 2", "--quiet"], 0, false, true),
        (&["carve", "lots.csv", "a = {lot} | after \"+\"", "-q"], 0, false, true),
        (
            &["carve", "lots.csv", "a = {lot} | after 1th \"-\" else {n} | trim", "-q"],
            0,
            false,
            true,
        ),
        (&["carve", "lots.csv", "a = {lot}", "-o", "out.csv"], 0, true, false),
        (&["carve", "broken.csv", "a = {lot}"], 2, true, false),
        (&["carve", "lots.csv", "a = {lot} | frist"], 2, true, false),
        (&["carve", "lots.csv", "a = {lot}", "--onyl"], 2, true, false),
        (&["carve", "lots.csv", "a = {lot}", "--separator", "ab"], 2, true, false),
        (&["trace", "first 2", "FH-1"], 0, false, true),
        (&["trace", "first 2", "FH-1", "--json"], 0, false, true),
        (&["words"], 0, false, true),
        (&["words", "--json"], 0, false, true),
        (&["words", "xyzzy"], 2, true, false),
        (&["--version"], 0, false, true),
        (&["nonsense"], 2, true, false),
    ] {
        let (out, err, got) = folder.run(args, b"");
        assert_eq!(
            (got, out.is_empty(), err.is_empty()),
            (status, out_is_empty, err_is_empty),
            "{args:?}: {err}"
        );
    }
}

/// What `--json` prints is JSON with a version.
#[test]
fn json_is_json() {
    let folder = Folder::with(&[("lots.csv", LOTS)]);
    for args in [
        &["words", "--json"][..],
        &["words", "else", "--json"],
        &["trace", "a, b = parts by \"-\" | number", "FH-1", "--json"],
        &["trace", "number else missing \"none\"", "x", "--json"],
        &["trace", "", "FH-1", "--json"],
        &["trace", "{lot} | first 2 if {n} is \"2\" else \"\"", "-t", "lots.csv", "--json"],
    ] {
        let (out, err, _) = folder.run(args, b"");
        let value: serde_json::Value =
            serde_json::from_slice(&out).unwrap_or_else(|error| panic!("{args:?}: {error} {err}"));
        assert_eq!(value["version"], 1, "{args:?}");
    }
}

#[test]
fn a_trace_as_json() {
    let folder = Folder::with(&[("lots.csv", LOTS)]);
    let (out, _, _) = folder.run(
        &[
            "trace",
            "after \"+\" else {lot} | part 2 by \"-\" | pad left 2 with \"0\"",
            "-t",
            "lots.csv",
            "-c",
            "lot",
            "--json",
        ],
        b"",
    );
    insta::assert_snapshot!(String::from_utf8(out).unwrap());
}

/// A reader that goes away ends the program quietly.
#[test]
fn a_closed_pipe_is_no_error() {
    let rows: String = (0..200_000).map(|n| format!("FH-{n},{n}\n")).collect();
    let folder = Folder::with(&[("big.csv", &format!("lot,n\n{rows}"))]);
    for args in [&["carve", "big.csv", "a = {lot} | after \"-\""][..], &["words", "--page"]] {
        let mut child = Command::new(assert_cmd::cargo::cargo_bin("notch"))
            .args(args)
            .current_dir(folder.path(""))
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        let mut first = [0; 16];
        child.stdout.take().unwrap().read_exact(&mut first).unwrap();
        let output = child.wait_with_output().unwrap();
        let said = String::from_utf8(output.stderr).unwrap();
        assert!(
            output.status.success() && !said.contains("panic") && !said.contains("Stopped"),
            "{args:?}: {said}"
        );
    }
}

/// From a pipe to a pipe rows are passed on before all have come; the message of a late bad row
/// says so.
#[test]
fn a_pipe_is_handed_on_as_it_comes() {
    let folder = Folder::with(&[]);
    let rows: String = (0..200_000).map(|n| format!("FH-{n},{n}\n")).collect();
    let (out, err, status) = folder.run(
        &["carve", "-", "a = {lot} | after \"-\""],
        format!("lot,n\n{rows}broken\n").as_bytes(),
    );
    assert_eq!(status, 2);
    assert!(out.starts_with(b"lot,n,a\nFH-0,0,0\n"));
    assert!(
        err.contains("standard input, line 200002") && err.contains("have been written already"),
        "{err}"
    );
    // A short table appears whole or not at all.
    let (out, err, status) =
        folder.run(&["carve", "-", "a = {lot} | after \"-\""], b"lot,n\nFH-1,1\nbroken\n");
    assert_eq!((out.as_slice(), status), (&b""[..], 2));
    assert!(err.contains("Nothing was written"), "{err}");
}

/// The columns of JSON are the fields of all objects, also through a pipe.
#[test]
fn late_fields_of_a_pipe_are_columns() {
    let folder = Folder::with(&[]);
    let late = format!("{}{{\"b\":{{\"c\":\"FH-1\"}}}}\n", "{\"a\":1}\n".repeat(1000));
    let (out, err, status) = folder.run(&["carve", "-", "x = {b.c} | first 2"], late.as_bytes());
    assert_eq!(
        (status, String::from_utf8_lossy(&out).lines().last()),
        (0, Some(",FH-1,FH")),
        "{err}"
    );
    let (_, err, status) = folder.run(&["carve", "-", "x = {a}", "--from", "json"], b"[1, 2]");
    assert_eq!(status, 2);
    assert!(err.contains("object 1: there is no object, but '1'"), "{err}");
}

/// The output may be a device or a pipe with a name; then it is written directly.
#[cfg(unix)]
#[test]
fn devices_are_written_to() {
    let folder = Folder::with(&[("lots.csv", LOTS)]);
    let (_, err, status) = folder.run(
        &["carve", "lots.csv", "a = {lot}", "-o", "/dev/null", "--findings", "/dev/null"],
        b"",
    );
    assert_eq!(status, 0, "{err}");
    assert!(std::fs::metadata("/dev/null").unwrap().len() == 0);
    let made = Command::new("mkfifo").arg(folder.path("pipe")).status().unwrap();
    assert!(made.success());
    let path = folder.path("pipe");
    let reader = std::thread::spawn(move || std::fs::read_to_string(path).unwrap());
    let (_, err, status) =
        folder.run(&["carve", "lots.csv", "a = {lot} | first 2", "-o", "pipe", "-q"], b"");
    assert_eq!(
        (status, reader.join().unwrap().as_str()),
        (0, "lot,n,a\nFH-1,2,FH\nGR-2,3,GR\n"),
        "{err}"
    );
}

/// Cells with everything in them that a terminal could trip over are shown in one line each,
/// aligned.
#[test]
fn the_preview_shows_what_cannot_be_seen() {
    let table = "code,note,a very long name of a column that goes on\n\
        日本-1,\"two\nlines\",x\n\
        e\u{301}-22,\u{a0}tab\there,y\n\
        \u{1b}[31m-3,\"wide 👨‍👩‍👧 family\",a text that is much longer than a column of the preview may ever be wide\n";
    let mut folder = Folder::with(&[("t.csv", table)]);
    folder.show(&[
        "carve",
        "t.csv",
        "n = {code} | after \"-\"",
        "\"a b\" = {note} | first 3",
        "--preview",
    ]);
    assert!(
        !folder.screen.contains('\u{1b}'),
        "nothing from a table reaches the terminal as a command"
    );
    let header = "c1,c2,c3,c4,c5,c6,c7,c8,c9,c10,c11,c12,c13,c14,c15,c16,c17,c18,c19,c20,c21,c22";
    folder.write("wide.csv", format!("{header}\n{}\n", header.replace('c', "cell")).as_bytes());
    folder.show(&["carve", "wide.csv", "n = {c21} | last 2", "--preview"]);
    folder.show(&["carve", "t.csv", "n = {code} | after \"-\"", "--preview", "0"]);
    // A preview writes nothing, so a jig that rejects needs no file to reject to.
    folder.write("reject.toml", b"on_finding = 'reject'\n[cuts]\nn = '{code} | after \"-\"'\n");
    folder.show(&["carve", "t.csv", "-j", "reject.toml", "--preview"]);
    folder.show(&["carve", "t.csv", "-j", "reject.toml"]);
    insta::assert_snapshot!(folder.screen);
}

/// What the program says of itself.
#[test]
fn every_command_explains_itself() {
    let mut folder = Folder::with(&[]);
    folder.show(&["--help"]);
    folder.show(&["carve", "--help"]);
    for command in ["survey", "trace", "check", "compare", "words", "demo"] {
        folder.show(&[command, "-h"]);
    }
    folder.show(&["crave", "t.csv"]);
    folder.show(&["carve"]);
    folder.show(&["carve", "t.csv", "--colum", "lot"]);
    folder.show(&["survey", "t.csv", "--sample", "many"]);
    insta::assert_snapshot!(folder.screen);
}

/// Standard input is read once, from wherever it comes.
#[test]
fn standard_input_is_a_table() {
    let folder = Folder::with(&[]);
    let mut child = Command::new(assert_cmd::cargo::cargo_bin("notch"))
        .args(["trace", "part 2 by \"-\"", "-t", "-", "-c", "lot", "--samples", "1"])
        .current_dir(folder.path(""))
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(LOTS.as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    let drawn = String::from_utf8(output.stdout).unwrap();
    assert!(
        drawn.starts_with("2 rows like line 2, [U2]-[d]\n") && drawn.contains("char 4  1"),
        "{drawn}"
    );
}
