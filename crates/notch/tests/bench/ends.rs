//! How the bench ends: the terminal is given back, nothing is lost, and the status tells.

use std::fs;
use std::process::{Command, Stdio};

use super::demo;
use super::terminal::Terminal;

/// A signal from outside: the cuts are kept, the command names them, the status is the signal's.
#[test]
fn signals_keep_the_cuts() {
    for (signal, status, file) in [
        ("HUP", 129, "lots.unsaved.toml"),
        ("INT", 130, "lots.unsaved.toml"),
        ("TERM", 143, "lots.unsaved-2.toml"),
    ] {
        let folder = demo();
        if file != "lots.unsaved.toml" {
            fs::write(folder.path().join("lots.unsaved.toml"), "mine").unwrap();
        }
        let mut bench = Terminal::open(folder.path(), &["lots.csv", "-c", "lot"], (80, 24));
        bench.type_text("y = part 2 by \"-\"");
        bench.signal(signal);
        let (ended, printed) = bench.end();
        assert_eq!(ended, status, "{printed}");
        assert!(printed.contains(&format!("The cuts were not saved; they are in {file}.")));
        assert!(printed.contains(&format!("notch carve lots.csv -c lot -j {file}")), "{printed}");
        let kept = fs::read_to_string(folder.path().join(file)).unwrap();
        assert!(kept.contains("y = 'part 2 by \"-\"'"), "{kept}");
    }
}

/// Standard output takes the command and nothing else, whatever is drawn; a table from standard
/// input leaves the keys to the terminal.
#[test]
fn standard_output_takes_the_command() {
    let folder = demo();
    let mut bench =
        Terminal::shell(folder.path(), "$NOTCH bench lots.csv -c lot > job.sh", (80, 24));
    bench
        .type_text("y = first 2 | pd")
        .press("Backspace Backspace Backspace Backspace Ctrl-Q Enter");
    assert_eq!(bench.end().0, 0);
    let job = fs::read_to_string(folder.path().join("job.sh")).unwrap();
    assert_eq!(job, "notch carve lots.csv -c lot \\\n  'y = first 2'\n");

    let mut bench =
        Terminal::shell(folder.path(), "cat lots.csv | $NOTCH bench - -c lot", (80, 24));
    bench.type_text("y = first 2").press("Ctrl-S Ctrl-U Down").type_text("out.csv").press("Enter");
    assert!(bench.shows("Wrote out.csv: 320 rows, no findings."), "{}", bench.screen());
    bench.press("Ctrl-Q");
    let (status, printed) = bench.end();
    assert_eq!(status, 0);
    assert!(
        printed.contains("notch carve - -c lot \\\n  'y = first 2' \\\n  -o out.csv"),
        "{printed}"
    );
    let lines = |name: &str| fs::read_to_string(folder.path().join(name)).unwrap().lines().count();
    assert_eq!(lines("out.csv"), lines("lots.csv"));
}

/// Without a terminal, or with one that can do nothing, there is no bench.
#[test]
fn it_needs_a_terminal() {
    let folder = demo();
    let done = Command::new(env!("CARGO_BIN_EXE_notch"))
        .args(["bench", "lots.csv"])
        .current_dir(folder.path())
        .stdin(Stdio::null())
        .output()
        .unwrap();
    let said = "bench needs a terminal; use notch carve --preview or notch trace";
    assert_eq!(done.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&done.stderr).contains(said));
    for (args, variables, wanted) in [
        (&["lots.csv"][..], &[("TERM", "dumb")][..], said),
        (&["nowhere.csv"], &[], "there is no such file"),
        (&["lots.csv", "-c", "lto"], &[], "The nearest is lot."),
    ] {
        let bench = Terminal::open_with(folder.path(), args, (80, 24), variables);
        let (status, printed) = bench.end();
        assert_eq!(status, 2);
        assert!(printed.replace('\n', " ").contains(wanted), "{printed}");
    }
}
