//! What may happen to a run: kills, signals, full disks, closed pipes, files that are in its way.
//! Whatever happens, what was there before is there or the new file is, whole.
#![cfg(unix)]
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that fails says so by panicking")]

use std::fs::{self, File};
use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::sync::Arc;
use std::time::{Duration, Instant};

use arrow_array::types::Int32Type;
use arrow_array::{DictionaryArray, Int32Array, RecordBatch, StringArray};
use parquet::arrow::ArrowWriter;
use parquet::arrow::arrow_writer::ArrowWriterOptions;
use portable_pty::{CommandBuilder, PtySize, native_pty_system};
use rusqlite::Connection;
use tempfile::TempDir;

const FORMATS: [&str; 8] = ["csv", "csv.gz", "jsonl", "json", "xlsx", "parquet", "arrow", "db"];

/// A folder with a table of that many rows, `t.csv`.
fn folder(rows: usize) -> TempDir {
    let folder = TempDir::new().unwrap();
    let mut table = String::from("lot,n\n");
    (0..rows).for_each(|n| table.push_str(&format!("GR-{:06}-TIL,{n}\n", n * 7919 % 1_000_003)));
    fs::write(folder.path().join("t.csv"), table).unwrap();
    folder
}

fn notch(folder: &Path, args: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_notch"));
    command
        .args(args)
        .current_dir(folder)
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped());
    command
}

fn run(folder: &Path, args: &[&str]) -> (i32, String) {
    let done = notch(folder, args).output().unwrap();
    (done.status.code().unwrap_or(-1), String::from_utf8_lossy(&done.stderr).into_owned())
}

fn signal(child: &Child, name: &str) {
    Command::new("kill").args([&format!("-{name}"), &child.id().to_string()]).status().unwrap();
}

/// The parts of files that lie in a folder.
fn parts(folder: &Path) -> Vec<PathBuf> {
    let entries = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    entries
        .filter(|path| path.file_name().unwrap().to_string_lossy().starts_with(".notch-"))
        .collect()
}

/// Waits for the end, and says how long it took.
fn ended(mut child: Child) -> (Output, Duration) {
    let begun = Instant::now();
    while child.try_wait().unwrap().is_none() {
        assert!(begun.elapsed() < Duration::from_secs(20), "it goes on");
        std::thread::sleep(Duration::from_millis(5));
    }
    let took = begun.elapsed();
    (child.wait_with_output().unwrap(), took)
}

/// Killed at any instant, a run leaves the old output or the new one, whole, and the next run can
/// go on.
#[test]
fn a_kill_leaves_the_old_or_the_new() {
    let folder = folder(30_000);
    let cuts = ["a = {lot} | part 2 by \"-\"", "b = {lot} | last 3 | lower"];
    for (n, format) in FORMATS.iter().cycle().take(32).enumerate() {
        let out = format!("out.{format}");
        let whole = folder.path().join(&out);
        // What is there before: another table.
        let _ = fs::remove_file(&whole);
        let (status, said) = run(
            folder.path(),
            &[
                "carve",
                "t.csv",
                "old = {lot} | first 2",
                "--where",
                "{n} value < 9",
                "-o",
                &out,
                "--to-table",
                "old",
            ][..if *format == "db" { 9 } else { 7 }],
        );
        assert_eq!(status, 0, "{out}: {said}");
        let before = fs::read(&whole).unwrap();
        let mut child =
            notch(folder.path(), &[&["carve", "t.csv"], &cuts[..], &["-o", &out, "-q"]].concat())
                .spawn()
                .unwrap();
        // Seeded by the case, so that one that fails fails again.
        std::thread::sleep(Duration::from_micros((n as u64 * 7_919) % 60_000 * 4));
        child.kill().unwrap();
        child.wait().unwrap();
        let is_old = fs::read(&whole).unwrap() == before;
        let (status, said) = run(
            folder.path(),
            &["survey", &out, "--table-name", "t"]
                [..if *format == "db" && !is_old { 4 } else { 2 }],
        );
        assert!(status == 0 || *format == "db", "case {n}, {out}, old: {is_old}: {said}");
        if *format == "db" {
            // Whatever was begun is rolled back, and the table that was there is there.
            let (status, said) = run(folder.path(), &["survey", &out, "--table-name", "old"]);
            assert_eq!(status, 0, "case {n}: {said}");
            let (status, said) = run(
                folder.path(),
                &["carve", "t.csv", cuts[0], "-o", &out, "--replace-table", "-q"],
            );
            assert_eq!(status, 0, "case {n}: {said}");
        }
        for part in parts(folder.path()) {
            fs::remove_file(part).unwrap();
        }
    }
}

/// What a killed run has left goes with a later one, unless somebody may still be writing it.
#[test]
fn parts_of_killed_runs_are_taken_away() {
    let folder = folder(10);
    let path = |name: &str| folder.path().join(name);
    for (name, hours) in [
        (".notch-999999999-a.part", 3),
        (".notch-999999999-b.part", 0),
        (".notch-1-c.part", 3),
        (".notch-mine.part", 3),
    ] {
        fs::write(path(name), "x").unwrap();
        let then = std::time::SystemTime::now() - Duration::from_secs(hours * 3600);
        File::options().write(true).open(path(name)).unwrap().set_modified(then).unwrap();
    }
    let (status, said) =
        run(folder.path(), &["carve", "t.csv", "a = {lot} | first 2", "-o", "out.csv", "-q"]);
    assert_eq!(
        (status, said.as_str()),
        (0, "./.notch-999999999-a.part was left by a run that was killed, and is taken away.\n")
    );
    assert_eq!(parts(folder.path()).len(), 3);
}

/// A signal ends every command though nothing comes in, and nothing is left after. It does so
/// within a second: the least of five runs, for a busy machine may hold up any of them.
#[test]
fn signals_end_a_run_that_waits() {
    let folder = folder(10);
    let temporary = TempDir::new().unwrap();
    for (args, (name, status)) in [
        (&["carve", "-", "a = {lot} | first 2", "-o", "out.csv"][..], ("TERM", 143)),
        (&["carve", "-", "a = {lot} | first 2", "--to", "parquet"], ("INT", 130)),
        (&["check", "-", "a = {lot} | check is unique"], ("TERM", 143)),
        (&["survey", "-", "-c", "lot"], ("INT", 130)),
        (&["compare", "-", "{lot} | first 2", "{lot} | last 2"], ("TERM", 143)),
    ] {
        for input in ["", "lot,n\nGR-1,2\nFH-2,3\n"] {
            let is_prompt = || {
                let mut command = notch(folder.path(), args);
                let mut child =
                    command.stdin(Stdio::piped()).env("TMPDIR", temporary.path()).spawn().unwrap();
                let mut stdin = child.stdin.take().unwrap();
                stdin.write_all(input.as_bytes()).unwrap();
                stdin.flush().unwrap();
                std::thread::sleep(Duration::from_millis(200));
                signal(&child, name);
                let (done, took) = ended(child);
                assert_eq!(done.status.code(), Some(status), "{args:?}: {done:?}");
                let said = String::from_utf8_lossy(&done.stderr);
                assert!(said.contains("interrupted"), "{args:?}: {done:?}");
                assert!(!folder.path().join("out.csv").exists() && parts(folder.path()).is_empty());
                assert_eq!(fs::read_dir(temporary.path()).unwrap().count(), 0, "{args:?}");
                took < Duration::from_secs(1)
            };
            assert!((0..5).any(|_| is_prompt()), "{args:?} takes more than a second");
        }
    }
}

/// Who reads only the beginning of what is written does no harm, in any format; an output that
/// takes nothing is an error.
#[test]
fn closed_pipes_are_quiet_and_full_ones_are_not() {
    let folder = folder(60_000);
    for format in ["csv", "jsonl", "json", "parquet", "arrow", "arrows", "markdown", "aligned"] {
        let mut child =
            notch(folder.path(), &["carve", "t.csv", "a = {lot} | first 2", "--to", format, "-q"])
                .spawn()
                .unwrap();
        let mut some = [0; 10];
        child.stdout.take().unwrap().read_exact(&mut some).unwrap();
        let (done, _) = ended(child);
        assert_eq!(
            (done.status.code(), String::from_utf8_lossy(&done.stderr).as_ref()),
            (Some(0), ""),
            "{format}"
        );
    }
    if Path::new("/dev/full").exists() {
        for args in [
            &["--help"][..],
            &["carve", "t.csv", "a = {lot} | first 2", "--to", "csv", "-q"],
            &["words"],
            &["survey", "t.csv"],
            &["jig", "new", "t.csv"],
        ] {
            let full = File::options().write(true).open("/dev/full").unwrap();
            let done = notch(folder.path(), args).stdout(full).output().unwrap();
            assert_eq!(done.status.code(), Some(2), "{args:?}: {done:?}");
            assert!(!done.stderr.is_empty(), "{args:?}");
        }
    }
}

/// Where a file may not grow, or the folder for temporary files is not there, a sentence says so
/// and nothing is left.
#[test]
fn a_full_disk_is_a_sentence() {
    let folder = folder(60_000);
    for format in FORMATS {
        let out = format!("full.{format}");
        let limited = format!(
            "ulimit -f 64; exec \"$0\" carve t.csv 'a = {{lot}} | part 2 by \"-\"' 'b = {{n}} | reverse' -q -o {out}"
        );
        let limited = limited.replace(" | reverse", " | pad left 9 with \"0\"");
        let done = Command::new("sh")
            .args(["-c", &limited, env!("CARGO_BIN_EXE_notch")])
            .current_dir(folder.path())
            .output()
            .unwrap();
        let said = String::from_utf8_lossy(&done.stderr);
        assert_eq!(done.status.code(), Some(2), "{out}: {said}");
        assert!(
            said.starts_with("Stopped: ")
                && said.contains("cannot be written")
                && !said.contains("mistake of notch"),
            "{out}: {said}"
        );
        assert!(!folder.path().join(&out).exists(), "{out}");
        assert_eq!(parts(folder.path()), Vec::<PathBuf>::new(), "{out}");
    }
    let mut command =
        notch(folder.path(), &["carve", "t.csv", "a = {lot} | first 2", "-o", "out.xlsx", "-q"]);
    let done = command.env("TMPDIR", folder.path().join("not there")).output().unwrap();
    assert_eq!(done.status.code(), Some(2), "{done:?}");
    assert!(
        String::from_utf8_lossy(&done.stderr).starts_with("Stopped: out.xlsx cannot be written"),
        "{done:?}"
    );
}

/// Two runs that make one database at the same time both have their table in it, or the loser says
/// why not.
#[test]
fn two_runs_make_one_database() {
    let folder = folder(3_000);
    for (tables, wanted) in [(["one", "two"], 2), (["one", "one"], 1)] {
        for _ in 0..4 {
            let _ = fs::remove_file(folder.path().join("new.db"));
            let begin = |table| {
                notch(
                    folder.path(),
                    &[
                        "carve",
                        "t.csv",
                        "a = {lot} | first 2",
                        "-o",
                        "new.db",
                        "--to-table",
                        table,
                        "-q",
                    ],
                )
                .spawn()
                .unwrap()
            };
            let both = tables.map(begin).map(|child| ended(child).0);
            let good = both.iter().filter(|done| done.status.success()).count();
            let database = Connection::open(folder.path().join("new.db")).unwrap();
            let there: i64 = database
                .query_row("SELECT count(*) FROM sqlite_schema", [], |row| row.get(0))
                .unwrap();
            assert_eq!((good, there), (wanted, wanted as i64), "{both:?}");
            let loser = both.iter().find(|done| !done.status.success());
            assert!(
                loser.is_none_or(|done| String::from_utf8_lossy(&done.stderr)
                    .contains("has a table one already")),
                "{both:?}"
            );
        }
    }
}

/// A database into which a program was writing when it was killed is rolled back by who may write
/// to it.
#[test]
fn a_database_that_was_cut_off_is_rolled_back() {
    let folder = folder(10);
    let path = |name: &str| folder.path().join(name);
    let database = Connection::open(path("source.db")).unwrap();
    database.execute_batch("PRAGMA cache_size = 5; CREATE TABLE lots (lot TEXT); BEGIN").unwrap();
    for n in 0..3000 {
        database.execute("INSERT INTO lots VALUES (?1)", [format!("GR-{n}")]).unwrap();
    }
    database.execute_batch("COMMIT; BEGIN; UPDATE lots SET lot = 'XX-' || lot; INSERT INTO lots SELECT * FROM lots").unwrap();
    let cut_off = |name: &str| {
        fs::copy(path("source.db"), path(name)).unwrap();
        fs::copy(path("source.db-journal"), path(&format!("{name}-journal"))).unwrap();
    };
    cut_off("read.db");
    let (status, said) = run(
        folder.path(),
        &["carve", "read.db", "a = {lot} | first 2 | check is \"GR\"", "-o", "out.csv", "--strict"],
    );
    assert_eq!(status, 0, "{said}");
    assert!(said.starts_with("3000 rows read"), "{said}");
    cut_off("write.db");
    let (status, said) =
        run(folder.path(), &["carve", "t.csv", "a = {lot} | first 2", "-o", "write.db", "-q"]);
    assert_eq!((status, said.as_str()), (0, ""));
    let (status, said) = run(
        folder.path(),
        &["check", "write.db", "--table-name", "lots", "a = {lot} | first 2 | check is \"GR\""],
    );
    assert_eq!(status, 0, "{said}");
}

/// No output is a file that is read, by whatever name, nor another output.
#[test]
fn nothing_is_written_over_what_is_read() {
    let folder = folder(20);
    let path = |name: &str| folder.path().join(name);
    fs::write(path("list.txt"), "GR\n").unwrap();
    fs::write(path("jig.toml"), "[lists]\nhouses = { file = 'list.txt' }\n[cuts]\na = '{lot} | first 2 | check is in houses'\n").unwrap();
    fs::hard_link(path("t.csv"), path("hard.csv")).unwrap();
    std::os::unix::fs::symlink(path("jig.toml"), path("soft.toml")).unwrap();
    let before: Vec<Vec<u8>> =
        ["t.csv", "list.txt", "jig.toml"].map(|name| fs::read(path(name)).unwrap()).to_vec();
    let with_jig = ["carve", "t.csv", "-j", "jig.toml", "-q"];
    let mut tried = 0;
    for target in ["t.csv", "./t.csv", "hard.csv", "list.txt", "jig.toml", "soft.toml"] {
        for option in ["-o", "--findings", "--rejects", "--save-jig"] {
            let more: &[&str] = if option == "-o" { &[] } else { &["-o", "out.csv"] };
            let (status, said) =
                run(folder.path(), &[&with_jig[..], &[option, target], more].concat());
            assert!(
                status == 2 && said.contains("are the same file"),
                "{option} {target}: {status} {said}"
            );
            tried += 1;
        }
        let (status, said) =
            run(folder.path(), &["check", "t.csv", "-j", "jig.toml", "--findings", target]);
        assert!(status == 2 && said.contains("are the same file"), "check {target}: {said}");
    }
    for pair in [
        ["-o", "--findings"],
        ["--findings", "--rejects"],
        ["--rejects", "--save-jig"],
        ["-o", "--save-jig"],
    ] {
        let (status, said) = run(
            folder.path(),
            &[&with_jig[..], &[pair[0], "same.csv", pair[1], "same.csv"]].concat(),
        );
        assert!(status == 2 && said.contains("are the same file"), "{pair:?}: {said}");
        tried += 1;
    }
    assert_eq!(tried, 28);
    // What comes in and goes out without a name.
    let mut command = notch(folder.path(), &["carve", "-", "a = {lot} | first 2", "-o", "t.csv"]);
    let done = command.stdin(File::open(path("t.csv")).unwrap()).output().unwrap();
    assert!(
        done.status.code() == Some(2)
            && String::from_utf8_lossy(&done.stderr)
                .contains("standard input and the output t.csv"),
        "{done:?}"
    );
    let mut command = notch(folder.path(), &["carve", "t.csv", "a = {lot} | first 2"]);
    let done =
        command.stdout(File::options().append(true).open(path("t.csv")).unwrap()).output().unwrap();
    assert!(
        done.status.code() == Some(2)
            && String::from_utf8_lossy(&done.stderr).contains("and standard output"),
        "{done:?}"
    );
    let after: Vec<Vec<u8>> =
        ["t.csv", "list.txt", "jig.toml"].map(|name| fs::read(path(name)).unwrap()).to_vec();
    assert_eq!(after, before);
}

/// A jig that is saved over another keeps the comments, and says what the new one says; it is saved
/// once the work has held.
#[test]
fn a_saved_jig_keeps_comments_and_comes_last() {
    let folder = folder(20);
    let path = folder.path().join("kept.toml");
    fs::write(&path, "# mine\ntitle = 'Lots'   # what it is\n[cuts]\n# the number\nb = \"{lot} | part 2 by '-'\"\n# gone\nc = '{lot}'\n# the house\na = '{lot} | first 3'   # of letters\n").unwrap();
    let save = [
        "carve",
        "t.csv",
        "a = {lot} | first 2",
        "b = {lot} | part 2 by '-'",
        "-o",
        "out.csv",
        "--save-jig",
        "kept.toml",
        "-q",
    ];
    assert_eq!(run(folder.path(), &save), (0, String::new()));
    let kept = fs::read_to_string(&path).unwrap();
    assert_eq!(
        kept,
        "# mine\n[cuts]\n# the house\na = \"{lot} | first 2\"   # of letters\n# the number\nb = \"{lot} | part 2 by '-'\"\n"
    );
    fs::write(folder.path().join("t.csv"), "lot,n\nGR-1\n").unwrap();
    let (status, _) = run(
        folder.path(),
        &[
            "carve",
            "t.csv",
            "z = {lot} | first 2",
            "-o",
            "out.csv",
            "--save-jig",
            "kept.toml",
            "-q",
        ],
    );
    assert_eq!((status, fs::read_to_string(&path).unwrap()), (2, kept));
}

/// The content of an ODS workbook with these rows.
fn ods(rows: &str) -> Vec<u8> {
    let names = ["office", "table", "text"]
        .map(|name| format!("xmlns:{name}=\"urn:oasis:names:tc:opendocument:xmlns:{name}:1.0\""))
        .join(" ");
    let content = format!(
        "<office:document-content {names}><office:body><office:spreadsheet><table:table table:name=\"S\">{rows}</table:table></office:spreadsheet></office:body></office:document-content>"
    );
    // A zip archive of one file that is stored as it is (PKWARE APPNOTE, sections 4.3.7, 4.3.12 and
    // 4.3.16).
    let name = b"content.xml";
    let crc = crc32(content.as_bytes()).to_le_bytes();
    let size = (content.len() as u32).to_le_bytes();
    let about = [
        &[20, 0, 0, 0, 0, 0, 0, 0, 0, 0][..],
        &crc,
        &size,
        &size,
        &(name.len() as u16).to_le_bytes(),
        &[0, 0],
    ]
    .concat();
    let local = [&b"PK\x03\x04"[..], &about, name, content.as_bytes()].concat();
    let central = [&b"PK\x01\x02\x14\x00"[..], &about, &[0; 14], name].concat();
    let end = [
        &b"PK\x05\x06\0\0\0\0\x01\0\x01\0"[..],
        &(central.len() as u32).to_le_bytes(),
        &(local.len() as u32).to_le_bytes(),
        &[0, 0],
    ]
    .concat();
    [local, central, end].concat()
}

/// The checksum of a zip archive (ISO 3309).
fn crc32(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(!0, |crc, byte| {
        (0..8).fold(crc ^ u32::from(*byte), |crc, _| {
            if crc & 1 == 1 { crc >> 1 ^ 0xEDB8_8320 } else { crc >> 1 }
        })
    })
}

/// A Parquet file in which all rows name the one text of the dictionary.
fn write_one_long_text(path: &Path, rows: usize, length: usize) {
    let texts = Arc::new(StringArray::from(vec!["G".repeat(length)]));
    let column = DictionaryArray::<Int32Type>::new(Int32Array::from(vec![0; rows]), texts);
    let batch = RecordBatch::try_from_iter([("lot", Arc::new(column) as _)]).unwrap();
    // Without the type of the column here it is one of texts.
    let options = ArrowWriterOptions::new().with_skip_arrow_metadata(true);
    let mut writer =
        ArrowWriter::try_new_with_options(File::create(path).unwrap(), batch.schema(), options)
            .unwrap();
    writer.write(&batch).unwrap();
    writer.close().unwrap();
}

/// A small file or a short cut never takes the machine: within a gigabyte and a half of address
/// space each ends in a finding or a sentence.
#[test]
fn small_things_stay_small() {
    let folder = folder(2);
    let path = |name: &str| folder.path().join(name);
    let doubling: String =
        (1..=30).map(|n| format!("_x{n} = '\"{{_x{}}}{{_x{}}}\"'\n", n - 1, n - 1)).collect();
    fs::write(
        path("doubling.toml"),
        format!("[cuts]\n_x0 = '{{lot}}'\n{doubling}end = '{{_x30}} | last 3'\n"),
    )
    .unwrap();
    let tenfold = " | replace \"G\" with \"GGGGGGGGGG\"".repeat(9);
    fs::write(path("tenfold.toml"), format!("[cuts]\nend = '{{lot}}{tenfold} | last 3'\n"))
        .unwrap();
    fs::write(
        path("endless.toml"),
        "[lists]\na = { file = '/dev/zero' }\n[cuts]\nend = '{lot} | check is in a'\n",
    )
    .unwrap();
    fs::write(path("deep.jsonl"), format!("{}1{}", "{\"a\":".repeat(20_000), "}".repeat(20_000)))
        .unwrap();
    let cell = |text: &str, times: u32| {
        format!(
            "<table:table-cell table:number-columns-repeated=\"{times}\" office:value-type=\"string\"><text:p>{text}</text:p></table:table-cell>"
        )
    };
    let row = |cells: String, times: u32| {
        format!("<table:table-row table:number-rows-repeated=\"{times}\">{cells}</table:table-row>")
    };
    let header = row(cell("lot", 1), 1);
    fs::write(
        path("wide.ods"),
        ods(&[&*header, &row(cell("GR-1", 1_048_576), 1_048_576)].concat()),
    )
    .unwrap();
    fs::write(
        path("tall.ods"),
        ods(&[&*header, &row(cell("GR-1", 1) + &cell("x", 1000), 1_048_576)].concat()),
    )
    .unwrap();
    fs::write(
        path("long.ods"),
        ods(&[&*header, &row(cell(&"G".repeat(30_000), 16_000), 1_000_000)].concat()),
    )
    .unwrap();
    fs::write(path("long.json"), format!("{{\"lot\":\"{}\"}}", "x".repeat(10_000_000))).unwrap();
    fs::write(path("row.csv"), format!("lot,n\nGR-1,{}\n", "7".repeat(140_000_000))).unwrap();
    write_one_long_text(&path("named.parquet"), 5_000, 300_000);
    for (args, status, wanted) in [
        (
            &[
                "carve",
                "named.parquet",
                "a = {lot} | first 2",
                "-o",
                "o.csv",
                "--unpack-limit",
                "50",
            ][..],
            2,
            "unpacks to more than 50 MB",
        ),
        (&["carve", "t.csv", "-j", "doubling.toml", "--strict"], 1, "2  end  too long"),
        (&["carve", "t.csv", "-j", "tenfold.toml", "--strict"], 1, "2  end  too long"),
        (&["carve", "t.csv", "a = \"{lot}{lot}\" | pad left 100000", "--strict"], 0, ""),
        (&["carve", "t.csv", "-j", "endless.toml"], 2, "which is more than a list has"),
        (
            &["carve", "long.json", "a = {lot} | matches /x/ | count", "-o", "o.csv", "--strict"],
            1,
            "a  too long",
        ),
        (&["survey", "row.csv"], 2, "the row that begins in line 2 is longer than 128 MiB"),
        (&["survey", "deep.jsonl"], 2, "it is nested more than 128 deep"),
        (&["survey", "wide.ods"], 2, "has a cell behind column XFD"),
        (&["survey", "tall.ods"], 2, "would fill the memory"),
        (&["survey", "long.ods"], 2, "would fill the memory"),
    ] {
        let limited = "ulimit -v 1500000; exec \"$0\" \"$@\"";
        let mut command = Command::new("sh");
        command
            .args(["-c", limited, env!("CARGO_BIN_EXE_notch")])
            .args(args)
            .args(["--threads", "2"].iter().filter(|_| args[0] == "carve"));
        let done = command.current_dir(folder.path()).output().unwrap();
        let said = String::from_utf8_lossy(&done.stderr).replace('\n', " ");
        assert_eq!(done.status.code(), Some(status), "{args:?}: {said}");
        assert!(said.contains(wanted), "{args:?}: {said}");
    }
}

/// Before a run takes more memory than it may it ends with a sentence, and leaves nothing after.
#[test]
fn a_budget_of_memory_is_kept() {
    let folder = folder(2);
    fs::write(
        folder.path().join("long.json"),
        format!("[{{\"lot\":\"{}\"}}]", "G".repeat(90_000_000)),
    )
    .unwrap();
    let (status, said) = run(
        folder.path(),
        &["carve", "long.json", "a = {lot} | first 2", "--memory", "64", "-o", "o.csv"],
    );
    let said = said.replace('\n', " ");
    assert_eq!(status, 2, "{said}");
    assert!(said.starts_with("Stopped: this takes more than 64 MB of memory: reading the table took more than was left"), "{said}");
    assert!(said.contains("--memory 256"), "{said}");
    assert!(parts(folder.path()).is_empty() && !folder.path().join("o.csv").exists());
    // What cuts make is bounded by itself, and the bound can be moved.
    let tenfold =
        format!("a = {{lot}}{} | last 3", " | replace \"G\" with \"GGGGGGGGGG\"".repeat(7));
    for (limit, status) in [("16", 0), ("2", 1)] {
        let (ended, said) =
            run(folder.path(), &["check", "t.csv", &tenfold, "--cell-limit", limit]);
        assert_eq!(ended, status, "{limit}: {said}");
    }
}

/// Every small file that fuzzing is begun with, and every one it has found, is read or refused in a
/// sentence.
#[test]
fn the_corpus_is_read_or_refused() {
    let corpus = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/corpus");
    let mut files = 0;
    for target in ["csv", "json", "workbook", "columnar", "jig"] {
        for entry in fs::read_dir(corpus.join(target)).unwrap() {
            let path = entry.unwrap().path();
            let file = path.to_str().unwrap();
            let args: &[&str] = match target {
                "jig" => &["jig", "show", file],
                "json" => &["survey", file, "--from", "json"],
                _ => &["survey", file],
            };
            let (status, said) = run(&corpus, args);
            assert!(
                status == 0 || status == 2 && said.starts_with("Stopped: "),
                "{file}: {status} {said}"
            );
            files += 1;
        }
    }
    assert!(files >= 12, "{files} files");
}

/// Files of typed columns with a few bytes that are others are read, or refused in a sentence.
#[test]
fn broken_files_are_told_as_such() {
    let folder = folder(300);
    for format in ["parquet", "arrow", "arrows", "db", "xlsx"] {
        let whole = format!("whole.{format}");
        let (status, said) =
            run(folder.path(), &["carve", "t.csv", "a = {lot} | first 2", "-o", &whole, "-q"]);
        assert_eq!(status, 0, "{said}");
        let bytes = fs::read(folder.path().join(&whole)).unwrap();
        let mut read = 0;
        for case in 0..40_usize {
            let mut broken = bytes.clone();
            for n in 0..=case % 4 {
                // Scattered, and the same at every run.
                let at = (case * 7_919 + n * 104_729) % broken.len();
                broken[at] = broken[at].wrapping_add((1 + case * 37) as u8);
            }
            if case % 8 == 7 {
                broken.truncate(broken.len() * case / 41);
            }
            let name = format!("broken.{format}");
            fs::write(folder.path().join(&name), &broken).unwrap();
            let (status, said) = run(folder.path(), &["survey", &name]);
            assert!(
                status == 0
                    || status == 2
                        && said.starts_with("Stopped: broken.")
                        && !said.contains("mistake of notch"),
                "{format}, case {case}: {status} {said}"
            );
            read += usize::from(status == 0);
        }
        assert!(read < 40, "{format}: nothing was broken");
    }
}

/// What a terminal of 100 by 30 is sent by a run.
fn in_terminal(folder: &Path, args: &[&str]) -> String {
    let size = PtySize { rows: 30, cols: 100, ..PtySize::default() };
    let terminal = native_pty_system().openpty(size).unwrap();
    let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_notch"));
    command.args(args);
    command.cwd(folder);
    command.env("TERM", "xterm-256color");
    command.env_remove("NO_COLOR");
    let mut child = terminal.slave.spawn_command(command).unwrap();
    drop(terminal.slave);
    let mut sent = Vec::new();
    // On Linux the end of a terminal is told as an error.
    let _ = terminal.master.try_clone_reader().unwrap().read_to_end(&mut sent);
    child.wait().unwrap();
    String::from_utf8(sent).unwrap()
}

/// Whatever names and cells hold, a terminal gets text and our colours: no other control or format
/// character.
#[test]
fn nothing_steers_the_terminal() {
    let formats = "\u{ad}\u{61c}\u{200b}\u{200c}\u{200d}\u{200e}\u{202e}\u{2066}\u{feff}\u{fffb}\u{110bd}\u{13430}\u{1d173}\u{e0041}";
    let controls: String = ('\u{1}'..=' ')
        .chain('\u{7f}'..='\u{9f}')
        .filter(|c| !matches!(c, '\n' | '\r' | '\t'))
        .collect();
    let odd = &format!("lot\x1b]0;mine\x07\x1b[95m{controls}{formats}");
    let folder = TempDir::new().unwrap();
    let path = |name: &str| folder.path().join(name);
    let (table, jig, saved) =
        (&format!("t{odd}.csv"), &format!("j{odd}.toml"), &format!("s{odd}.toml"));
    fs::write(path(table), format!("{odd},n\nGR-1,1\n{odd},x\n")).unwrap();
    fs::write(path("t.jsonl"), "{\"lot\\u001b[95m\\u202e\": \"GR\\u0007\"}\n").unwrap();
    fs::write(
        path(jig),
        "title = \"T\\u001b[95m\\u202e\"\n[cuts]\n\"a\\u001b[95m\" = '{1} | check is integer'\n",
    )
    .unwrap();
    fs::write(path(saved), "nonsense = 1\n").unwrap();
    Connection::open(path("t.db"))
        .unwrap()
        .execute_batch(&format!("CREATE TABLE \"{odd}\" (n); CREATE TABLE other (n);"))
        .unwrap();
    let all: &[&[&str]] = &[
        &["survey", table],
        &["survey", table, "-c", "1"],
        &["survey", table, "-c", odd],
        &["survey", table, "-c", "no"],
        &["survey", "t.jsonl"],
        &["survey", "t.db"],
        &["survey", "t.db", "--table-name", &odd[3..]],
        &["carve", table, "a = {no}", "-q"],
        &["carve", table, &format!("{odd} = {{1}} | first 2")],
        &["carve", table, &format!("a = {{{odd}}} | frst 2")],
        &["carve", table, "a = {1} | check is integer", "-o", &format!("{odd}/o.csv")],
        &["carve", table, "a = {1} | check is integer", "-o", "o.csv"],
        &["carve", table, "a = {1} | first 5", "--to", "markdown"],
        &["carve", table, "a = {1} | first 5", "--to", "aligned"],
        &["carve", table, "a = {1}", "--to", odd],
        &["carve", table, "a = {1}", "--allow", &format!("{odd}=1")],
        &["carve", table, "a = {1}", &format!("--{odd}")],
        &["carve", &format!("postgres://u:p@{odd}/x"), "a = {1}"],
        &["check", table, "-j", jig],
        &["check", table, "-j", saved],
        &["check", table, "-j", odd],
        &["jig", "show", jig],
        &["jig", "new", table],
        &["compare", table, "{1} | first 5", "{1} | first 6"],
        &["trace", "a = {text} | first 2", odd],
        &["trace", "-t", table, "a = {1} | last 3"],
        &["words", odd],
        &[odd],
    ];
    for args in all {
        let said = in_terminal(folder.path(), args);
        assert!(!said.is_empty(), "{args:?}");
        for (at, c) in
            said.char_indices().filter(|(at, c)| *c != '\n' && !said[*at..].starts_with("\r\n"))
        {
            let is_colour = || {
                let rest = said[at..].strip_prefix("\x1b[").unwrap_or_default();
                let end = rest.trim_start_matches(|c: char| c.is_ascii_digit() || c == ';');
                end.starts_with('m') && !rest.starts_with("95m")
            };
            let is_drawn = !c.is_control() && !odd.chars().any(|odd| odd == c && !odd.is_ascii());
            assert!(
                is_drawn || c == '\x1b' && is_colour(),
                "{args:?}: {:?} in {:?}",
                c,
                said[at..].chars().take(30).collect::<String>()
            );
        }
    }
}
