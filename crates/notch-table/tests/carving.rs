//! Whole tables through compiled cuts, compared with a slow way made of well-known parts.
#![allow(clippy::unwrap_used, reason = "a test that fails says so by panicking")]

use std::fs;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};

use keen_notch_core::{OnFinding, Plan, PlanOptions, parse_assignment};
use keen_notch_table::{
    Carving, CellsOut, Format, NewFile, OutColumn, ReadOptions, RowsOut, Source, Summary, Table,
    TableError, To, carve, cell_text, encoding_of, samples, write_cell,
};
use proptest::prelude::*;
use tempfile::TempDir;

/// A table in a temporary folder, and what is made of it there.
struct Work(TempDir);

impl Work {
    fn with(table: &[u8]) -> Self {
        let work = Work(TempDir::new().unwrap());
        fs::write(work.path("in.csv"), table).unwrap();
        work
    }

    fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn open(&self) -> Result<Table, TableError> {
        Table::open(&Source::File(self.path("in.csv")), &ReadOptions::default())
    }

    fn text(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).unwrap()
    }

    /// Carves the table into `out.csv` and, if wished, `odd.csv`; all old columns stay and the new
    /// ones come after.
    fn carve(&self, cuts: &[&str], rejects: bool) -> Result<Summary, TableError> {
        self.carve_so(cuts, rejects, (None, None))
    }

    /// The same with that many threads and bytes at a time.
    fn carve_so(
        &self,
        cuts: &[&str],
        rejects: bool,
        (threads, block): (Option<usize>, Option<usize>),
    ) -> Result<Summary, TableError> {
        let options = ReadOptions { threads, ..ReadOptions::default() };
        let table = Table::open(&Source::File(self.path("in.csv")), &options)?;
        self.carve_table(table, cuts, rejects, block, "out.csv")
    }

    fn carve_table(
        &self,
        table: Table,
        cuts: &[&str],
        rejects: bool,
        block: Option<usize>,
        out: &str,
    ) -> Result<Summary, TableError> {
        let cuts: Vec<_> = cuts.iter().map(|cut| parse_assignment(cut).unwrap()).collect();
        let on_finding = if rejects { OnFinding::Reject } else { OnFinding::Keep };
        let plan = Plan::compile(
            &cuts,
            table.columns(),
            &PlanOptions { on_finding, ..PlanOptions::default() },
        )
        .unwrap();
        let columns = (0..table.columns().len())
            .map(OutColumn::Source)
            .chain((0..plan.outputs().len()).map(OutColumn::New))
            .collect();
        let rejects = rejects.then(|| self.path("odd.csv"));
        let carving = Carving {
            findings: Some(self.path("findings.csv")),
            rejects,
            block,
            ..Carving::new(&plan, columns)
        };
        let out = RowsOut::new(NewFile::create(&self.path(out))?);
        carve(table, &carving, Box::new(out))
    }
}

/// All records of a table by a well-known library.
fn records(text: &str, separator: u8) -> Vec<Vec<String>> {
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .delimiter(separator)
        .flexible(true)
        .from_reader(text.as_bytes());
    reader.records().map(|record| record.unwrap().iter().map(str::to_owned).collect()).collect()
}

const CELL: &str = "([ab-]|\"\"|,|\n|é| |;){0,6}";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    /// Whatever stands in the cells, another reader finds the old cells as they were and the new
    /// ones beside them.
    #[test]
    fn another_reader_finds_old_and_new_cells(rows in prop::collection::vec((CELL, CELL), 1..12), line_end in "(\n|\r\n)") {
        let mut table = format!("p,q{line_end}");
        for (p, q) in &rows {
            let mut line = Vec::new();
            write_cell(p, b',', &mut line);
            line.push(b',');
            write_cell(q, b',', &mut line);
            table.push_str(std::str::from_utf8(&line).unwrap());
            table.push_str(&line_end);
        }
        let work = Work::with(table.as_bytes());
        let done = work.carve(&["x = {p} | part 1 by \"-\" else \"none\"", "y = {q} | drop first 1"], false).unwrap();
        prop_assert_eq!((done.read, done.written), (rows.len() as u64, rows.len() as u64));
        let blank = |text: &str| if text.trim().is_empty() { String::new() } else { text.to_owned() };
        let mut wanted = vec![["p", "q", "x", "y"].map(str::to_owned).to_vec()];
        for (p, q) in &rows {
            let x = if p.trim().is_empty() { "none".to_owned() } else { p.split('-').next().unwrap().to_owned() };
            let x = if x.is_empty() { "none".to_owned() } else { blank(&x) };
            let y = if q.trim().is_empty() { String::new() } else { blank(&q.chars().skip(1).collect::<String>()) };
            wanted.push(vec![p.clone(), q.clone(), x, y]);
        }
        prop_assert_eq!(records(&work.text("out.csv"), b','), wanted);
    }

    /// Rows in are rows out and rejects, each byte for byte, broken rows included.
    #[test]
    fn no_row_is_lost(rows in prop::collection::vec("([ab]|,|\"x,y\"|-){0,5}", 1..20)) {
        let table = format!("p,q\n{}\n", rows.join("\n"));
        let work = Work::with(table.as_bytes());
        let done = work.carve(&["x = {p} | part 2 by \"-\""], true).unwrap();
        let filled: Vec<&String> = rows.iter().filter(|row| !row.is_empty()).collect();
        prop_assert_eq!(done.read, filled.len() as u64);
        prop_assert_eq!(done.read, done.written + done.rejected);
        let (out, odd) = (work.text("out.csv"), work.text("odd.csv"));
        let (mut out, mut odd) = (out.lines().skip(1).peekable(), odd.lines().skip(1).peekable());
        for row in filled {
            // In order: each row is the next one here or there.
            if odd.peek() == Some(&row.as_str()) {
                odd.next();
            } else {
                prop_assert!(out.next().is_some_and(|line| line.starts_with(row.as_str())), "{row} is lost");
            }
        }
        prop_assert!(out.next().is_none() && odd.next().is_none());
    }

    /// A cell that is written is the cell that is read.
    #[test]
    fn cells_survive_writing(text in any::<String>(), separator in prop::sample::select(vec![b',', b'\t', b';', b'|'])) {
        let mut field = Vec::new();
        write_cell(&text, separator, &mut field);
        prop_assert_eq!(cell_text(std::str::from_utf8(&field).unwrap()), text);
    }
}

#[test]
fn separators_are_found_by_looking() {
    for (table, separator) in [
        ("a,b\n1,2\n", b','),
        ("a;b\n1,5;2\n3,5;4\n", b';'),
        ("a\tb\n1,2\t3\n", b'\t'),
        ("a|b|c\n1|2|3\n", b'|'),
        ("a,b;c\n1,2;3\n", b','),
        ("name;town, street;n\nx;y;1\nz;u, v;2\n", b';'),
        ("\"a;b\",c\n\"1;2\",3\n", b','),
        ("\"a,b\";c\n\"1,2\";3\n", b';'),
        ("code\nFH 1\n", b','),
        ("a,b", b','),
        ("a;b;c", b';'),
    ] {
        let found = Work::with(table.as_bytes()).open().unwrap().separator();
        assert_eq!(char::from(found), char::from(separator), "{table:?}");
    }
}

#[test]
fn headers_are_read_as_they_are() {
    for (table, columns, notices) in [
        ("\u{feff}a,b\n", &["a", "b"][..], &[][..]),
        ("\n\na,b\n", &["a", "b"], &[]),
        (" a , \"b c\" \n", &["a", "\"b c\""], &[]),
        ("\"a\nb\",\"c\"\"d\"\n", &["a\nb", "c\"d"], &[]),
        ("a,,b\n", &["a", "", "b"], &["Column 2 has no name; it is {column 2}."]),
        (
            "a,b,a\n",
            &["a", "b", "a"],
            &["Columns 1 and 3 are both called a; they are {column 1} and {column 3}."],
        ),
        (
            "a,b\n1,2,\n",
            &["a", "b", ""],
            &["Rows end in a separator; the header is taken to end in a column without a name."],
        ),
        ("a,b,\n1,2,\n", &["a", "b", ""], &["Column 3 has no name; it is {column 3}."]),
    ] {
        let read = Work::with(table.as_bytes()).open().unwrap();
        assert_eq!(
            (read.columns(), read.notices()),
            (columns.map_owned().as_slice(), notices.map_owned().as_slice()),
            "{table:?}"
        );
    }
}

/// Owned copies of a few texts, to compare with.
trait MapOwned {
    fn map_owned(&self) -> Vec<String>;
}

impl MapOwned for [&str] {
    fn map_owned(&self) -> Vec<String> {
        self.iter().map(|text| (*text).to_owned()).collect()
    }
}

#[test]
fn rows_that_cannot_be_read_are_named_by_their_line() {
    for (table, line, reason) in [
        (&b"a,b\n1,2\n3\n"[..], 3, "too few fields: the row has 1 field, the header 2"),
        (b"a,b\n1,2,3\n", 2, "too many fields: the row has 3 fields, the header 2"),
        (b"a,b\n\"1\n1\",2\n3,\n4\n", 5, "too few fields: the row has 1 field, the header 2"),
        (b"a,b\r\n1,2\r\n\r\n3\r\n", 4, "too few fields: the row has 1 field, the header 2"),
        (
            b"a,b\n1,\"2\n3,4\n",
            2,
            "a quote is opened in this row and not closed up to the end of the file",
        ),
        (b"a,b\n1,2\nx\xFF,2\n", 3, "the bytes are not UTF-8 text at byte 2 of the row (0xFF)"),
    ] {
        let work = Work::with(table);
        let Err(TableError::Row { line: at, reason: said, .. }) = work.carve(&["x = {a}"], false)
        else {
            panic!("{table:?} can be read");
        };
        assert_eq!((at, &*said.to_string()), (line, reason), "{table:?}");
        assert!(!work.path("out.csv").exists() && !work.path("findings.csv").exists());
        // With a rejects file the run goes on, and the row stands there as it stood.
        let done = work.carve(&["x = {a}"], true).unwrap();
        assert_eq!((done.unreadable, done.read), (1, done.written + 1));
    }
}

#[test]
fn tables_are_read_as_they_lie_and_written_as_their_ending_says() {
    let table = "a,b\nJosé,München\nあ,\"x,y\"\n";
    let gzip = |text: &[u8]| {
        let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        packed.write_all(text).unwrap();
        packed.finish().unwrap()
    };
    let zstd = |text: &[u8]| zstd::encode_all(text, 1).unwrap();
    let skipped: &[u8] = b"\x50\x2A\x4D\x18\x03\x00\x00\x00abc";
    let utf16 = |text: &str, big: bool| -> Vec<u8> {
        let units = std::iter::once(0xFEFF).chain(text.encode_utf16());
        units.flat_map(|unit| if big { unit.to_be_bytes() } else { unit.to_le_bytes() }).collect()
    };
    let bzip2 = |text: &[u8]| {
        let mut packed = Vec::new();
        bzip2::read::BzEncoder::new(text, bzip2::Compression::fast())
            .read_to_end(&mut packed)
            .unwrap();
        packed
    };
    let latin = b"a,b\nJos\xE9,M\xFCnchen\n";
    let of = |label: &str| ReadOptions {
        encoding: Some(encoding_of(label).unwrap()),
        ..ReadOptions::default()
    };
    let whole = "a,b,x\nJosé,München,Jo\nあ,\"x,y\",あ\n";
    let cases: [(Vec<u8>, ReadOptions, &[u8]); 11] = [
        (table.as_bytes().to_vec(), ReadOptions::default(), whole.as_bytes()),
        (gzip(table.as_bytes()), ReadOptions::default(), whole.as_bytes()),
        // Several packed files one after the other are one.
        (
            [gzip(b"a,b\nJos"), gzip("é,München\nあ,\"x,y\"\n".as_bytes())].concat(),
            ReadOptions::default(),
            whole.as_bytes(),
        ),
        (zstd(table.as_bytes()), ReadOptions::default(), whole.as_bytes()),
        // A frame of other data may stand before and between (RFC 8878, section 3.1.2).
        (
            [skipped, &zstd(b"a,b\nJos"), skipped, &zstd("é,München\nあ,\"x,y\"\n".as_bytes())]
                .concat(),
            ReadOptions::default(),
            whole.as_bytes(),
        ),
        (bzip2(table.as_bytes()), ReadOptions::default(), whole.as_bytes()),
        // What was another encoding is written as it was.
        (utf16(table, false), ReadOptions::default(), &utf16(whole, false)),
        (utf16(table, true), ReadOptions::default(), &utf16(whole, true)),
        (gzip(&utf16(table, false)), ReadOptions::default(), &utf16(whole, false)),
        (latin.to_vec(), of("windows-1252"), b"a,b,x\nJos\xE9,M\xFCnchen,Jo\n"),
        (
            b"a\n\x82\xA0\x82\xA2\n".to_vec(),
            of("shift_jis"),
            b"a,x\n\x82\xA0\x82\xA2,\x82\xA0\x82\xA2\n",
        ),
    ];
    for (bytes, options, wanted) in cases {
        for name in ["out.csv", "out.csv.gz", "out.csv.zst"] {
            let work = Work::with(&bytes);
            let read = Table::open(&Source::File(work.path("in.csv")), &options).unwrap();
            work.carve_table(read, &["x = {a} | first 2"], false, None, name).unwrap();
            let written = fs::read(work.path(name)).unwrap();
            let mut text = Vec::new();
            match name.rsplit('.').next() {
                Some("gz") => {
                    flate2::read::GzDecoder::new(&*written).read_to_end(&mut text).unwrap()
                }
                Some("zst") => {
                    zstd::Decoder::new(&*written).unwrap().read_to_end(&mut text).unwrap()
                }
                _ => (&*written).read_to_end(&mut text).unwrap(),
            };
            assert_eq!(text, wanted, "{name} of {bytes:?}");
        }
    }
    // Bytes that are no text of the encoding make a row that cannot be read; an archive cut short,
    // or one too large, stops the work.
    let cut = gzip(table.as_bytes());
    for (bytes, options, wanted) in [
        (
            b"a\nb\n\x82\n".to_vec(),
            of("shift_jis"),
            "line 3: the bytes are no text of the encoding behind \"\" (0x82)",
        ),
        (cut[..cut.len() / 2].to_vec(), ReadOptions::default(), "cannot be read"),
        (
            gzip(&[b'x'; 5000]),
            ReadOptions { unpack_limit: Some(1000), ..ReadOptions::default() },
            "it unpacks to more than 1 MB; raise the limit",
        ),
    ] {
        let work = Work::with(&bytes);
        let done = Table::open(&Source::File(work.path("in.csv")), &options);
        let done = done.and_then(|table| {
            work.carve_table(table, &["n = {column 1} | first 1"], false, None, "out.csv")
        });
        let said = done.map(|_| ()).unwrap_err().to_string();
        assert!(said.contains(wanted), "{said}");
        assert!(!work.path("out.csv").exists());
    }
}

#[test]
fn objects_are_rows_and_rows_are_objects() {
    let lines = concat!(
        r#"{"a":"FH-007","n":1234567890123456789,"in":{"x":"é\n\"","y":true},"l":[1, "b"]}"#,
        "\n\n",
        r#"{"n":null,"a":"","in":{"x":null}}"#,
        "\r\n",
        r#"{"a":"GR-1","n":-0.10,"late":"😀"}"#,
    );
    let columns = ["a", "n", "in.x", "in.y", "l", "late"];
    let rows = [
        ["FH-007", "1234567890123456789", "é\n\"", "true", "[1, \"b\"]", ""],
        [""; 6],
        ["GR-1", "-0.10", "", "", "", "😀"],
    ];
    let array = format!(
        "[{}]",
        lines.lines().filter(|line| !line.is_empty()).collect::<Vec<_>>().join(" ,\n")
    );
    for text in [lines, &array] {
        let work = Work::with(text.as_bytes());
        fs::rename(work.path("in.csv"), work.path("in")).unwrap();
        let open = || Table::open(&Source::File(work.path("in")), &ReadOptions::default()).unwrap();
        assert_eq!(open().columns(), columns.map_owned());
        work.carve_table(open(), &["x = {a} | part 2 by \"-\""], true, Some(1), "out.csv").unwrap();
        let mut read = records(&work.text("out.csv"), b',');
        read.retain(|row| row[6] != "x");
        assert_eq!(
            read,
            [(rows[0], "007"), (rows[1], ""), (rows[2], "1")].map(|(row, x)| [
                row.to_vec(),
                vec![x]
            ]
            .concat()
            .map_owned())
        );
        assert!(!work.text("findings.csv").contains("missing"), "a blank is a note");

        // What is written is read again as it was, with what were numbers still numbers.
        let plan = Plan::compile(
            &[parse_assignment("x = {n} | as number").unwrap()],
            &columns.map_owned(),
            &PlanOptions::default(),
        )
        .unwrap();
        let all = || (0..6).map(OutColumn::Source).chain([OutColumn::New(0)]).collect();
        for (name, in_array) in [("out.json", true), ("out.jsonl", false)] {
            let carving = Carving::new(&plan, all());
            let path = work.path(name);
            let out = CellsOut::create(To::File(&path), Format::Json { in_array }, "Rows", false)
                .unwrap()
                .unwrap();
            carve(open(), &carving, Box::new(out)).unwrap();
            let written = work.text(name);
            assert!(
                written.contains(
                    r#""n":-0.10,"in.x":null,"in.y":null,"l":null,"late":"😀","x":-0.10}"#
                ),
                "{written}"
            );
            let values: Vec<serde_json::Value> = match in_array {
                true => serde_json::from_str(&written).unwrap(),
                false => written.lines().map(|line| serde_json::from_str(line).unwrap()).collect(),
            };
            assert_eq!(
                (values.len(), &values[0]["in.x"], &values[0]["in.y"]),
                (3, &"é\n\"".into(), &true.into())
            );
            let again =
                Table::open(&Source::File(work.path(name)), &ReadOptions::default()).unwrap();
            assert_eq!(again.columns()[..6], columns.map_owned());
        }
    }
    for (text, wanted) in [
        ("{\"a\":1}\nx", "object 2: there is no object, but 'x'"),
        ("{\"a\":1}\n{\"a\":", "object 2: the file ends in the middle of it"),
        ("[{\"a\":1}", "object 2: the file ends before the array is closed"),
        ("{\"a\":01}", "object 1: "),
        ("[]", "holds no object with a field"),
    ] {
        let work = Work::with(text.as_bytes());
        fs::rename(work.path("in.csv"), work.path("in.jsonl")).unwrap();
        let done = Table::open(&Source::File(work.path("in.jsonl")), &ReadOptions::default());
        let done = done
            .and_then(|table| work.carve_table(table, &["x = {column 1}"], false, None, "out.csv"));
        let said = done.map(|_| ()).unwrap_err().to_string();
        assert!(said.contains(wanted), "{said}");
        assert!(!work.path("out.csv").exists());
    }
    let late = format!("{}{{\"b\":1}}\n", "{\"a\":1}\n".repeat(1000));
    let work = Work::with(late.as_bytes());
    fs::rename(work.path("in.csv"), work.path("in.jsonl")).unwrap();
    let table = Table::open(&Source::File(work.path("in.jsonl")), &ReadOptions::default()).unwrap();
    work.carve_table(table, &["x = {b}"], false, None, "out.csv").unwrap();
    assert!(
        work.text("out.csv").starts_with("a,b,x\n1,,\n")
            && work.text("out.csv").ends_with("1,,\n,1,1\n"),
        "{}",
        work.text("out.csv")
    );
}

#[test]
fn a_file_appears_whole_or_not_at_all() {
    let work = Work::with(b"");
    let names = |work: &Work| fs::read_dir(work.path("")).unwrap().count();
    let path = work.path("new.txt");
    let mut file = NewFile::create(&path).unwrap();
    file.write(b"half").unwrap();
    assert!(!path.exists() && names(&work) == 2);
    drop(file);
    assert_eq!(names(&work), 1, "what was begun is taken away");
    let mut file = NewFile::create(&path).unwrap();
    file.write(b"whole").unwrap();
    file.finish().unwrap();
    assert_eq!((fs::read(&path).unwrap(), names(&work)), (b"whole".to_vec(), 2));
    assert!(
        NewFile::create(&work.path("none/x")).is_err() && NewFile::create(&work.path("")).is_err()
    );
}

#[cfg(unix)]
#[test]
fn links_and_rights_of_a_file_that_is_replaced_stay() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let work = Work::with(b"old");
    fs::set_permissions(work.path("in.csv"), fs::Permissions::from_mode(0o640)).unwrap();
    symlink(work.path("in.csv"), work.path("link.csv")).unwrap();
    assert!(keen_notch_table::same_file(&work.path("in.csv"), &work.path("link.csv")));
    assert!(keen_notch_table::same_file(&work.path("new.csv"), &work.path("./new.csv")));
    assert!(!keen_notch_table::same_file(&work.path("in.csv"), Path::new("in.csv")));
    let mut file = NewFile::create(&work.path("link.csv")).unwrap();
    file.write(b"new").unwrap();
    file.finish().unwrap();
    assert!(fs::symlink_metadata(work.path("link.csv")).unwrap().is_symlink());
    assert_eq!(work.text("in.csv"), "new");
    assert_eq!(fs::metadata(work.path("in.csv")).unwrap().permissions().mode() & 0o777, 0o640);
}

#[test]
fn samples_are_the_first_row_of_every_shape() {
    let work = Work::with(b"a,b\nFH-1,x\nGR-2,y\nbroken\nml,z\n,u\nTS-3,v\n");
    let found = samples(work.open().unwrap(), 0, keen_notch_core::shape).unwrap();
    let said: Vec<String> = found
        .iter()
        .map(|sample| {
            format!(
                "{} {} line {} {}",
                sample.kind,
                sample.rows,
                sample.line,
                sample.cells.join("/")
            )
        })
        .collect();
    assert_eq!(said, ["[U2]-[d] 3 line 2 FH-1/x", "[l2] 1 line 5 ml/z", " 1 line 6 /u"]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Neither the number of threads nor the size of a block shows in anything that comes out.
    #[test]
    fn threads_and_blocks_do_not_show(
        rows in prop::collection::vec("(([ab-]|5\"|é){0,6}|\"([ab,-]|\"\"|\n|\r\n){0,9}\"(x\"y)?)(,[0-9]{0,4})?(\n|\r\n|\r|\n\n)", 0..40),
        broken in any::<bool>(),
    ) {
        let work = Work::with(format!("a,b\n{}{}", rows.concat(), if broken { "\"open,1\nx" } else { "" }).as_bytes());
        let mut seen = Vec::new();
        for (threads, block) in [(1, 1 << 20), (1, 64), (2, 1), (3, 100), (4, 700), (64, 200)] {
            let how = (Some(threads), Some(block));
            let done = work.carve_so(&["x = {a} | part 2 by \"-\" | upper", "y? = {b} | check value 5..500 | pad left 4 with \"0\""], true, how).unwrap();
            prop_assert_eq!(done.read, done.written + done.rejected);
            seen.push((format!("{:?}", summary_of(&done)), ["out.csv", "odd.csv", "findings.csv"].map(|name| fs::read(work.path(name)).unwrap())));
        }
        for one in &seen[1..] {
            prop_assert_eq!(one, &seen[0]);
        }
    }
}

/// All that a run has counted, in an order of its own.
fn summary_of(done: &Summary) -> impl std::fmt::Debug + use<> {
    let shapes: Vec<_> = done
        .tally
        .outputs
        .iter()
        .map(|output| (output.filled, output.failed, format!("{:?}", output.shapes.ranked())))
        .collect();
    let groups: Vec<_> = done
        .tally
        .groups()
        .into_iter()
        .map(|(about, kind, group)| {
            format!(
                "{about:?} {kind:?} {:?} {:?} {:?}",
                group.reasons(),
                group.examples,
                group.shapes.ranked()
            )
        })
        .collect();
    (done.read, done.written, done.rejected, done.unreadable, done.empty_lines, shapes, groups)
}
