use super::support::Folder;

const LOTS: &str = "lot,name,weight\n\
FH-2019-BRA-00417-7,\"Okoro, Ada\",12\n\
GR-2020-QUE-12-1,Iris Moran,\"a \"\"b\"\"\nc\"\n\
\n\
ml/2021, x ,5\" pot\n\
,\"\",\"3\"\n\
FH-2019--4,Žďár,\n";

#[test]
fn a_table_from_csv_to_csv_with_findings_and_rejects() {
    let mut folder = Folder::with(&[("lots.csv", LOTS)]);
    folder.show(&[
        "carve",
        "lots.csv",
        "-c",
        "lot",
        "house, year? = parts by \"-\"",
        "first = {name} | trim | before \" \" or end",
    ]);
    folder.show(&[
        "carve",
        "lots.csv",
        "-c",
        "lot",
        "serial = part 4 by \"-\" | pad left 4 with \"0\"",
        "year = first 7 | last 4",
        "_part = part 2 by \"-\"",
        "label = \"{_part}/{serial}\"",
        "--findings",
        "findings.csv",
        "--rejects",
        "odd.csv",
        "-o",
        "out.csv",
    ]);
    for file in ["out.csv", "odd.csv", "findings.csv"] {
        folder.show_file(file);
    }
    folder.show(&[
        "carve",
        "lots.csv",
        "a = {lot} | part 2 by \"-\" else part 2 by \"/\" else \"\"",
        "--preview",
        "3",
    ]);
    insta::assert_snapshot!(folder.screen);
}

/// Whatever the layout, the columns that were there come out byte for byte.
#[test]
fn untouched_columns_are_untouched() {
    let tables: [(&str, &[u8]); 8] = [
        ("comma", b"a,b\n1,2\n3,4\n"),
        ("crlf, no line end at the end", b"a,b\r\n\"1\",2\r\n3,\"\""),
        ("tab and byte order mark", b"\xEF\xBB\xBFa\tb\n1,5\t2\n"),
        ("semicolon", b"a;b\n1,5;2\n2,5;3\n"),
        ("bar", b"a|b\n1;2|3\n"),
        ("quotes inside", b"a,b\n5\" pot,\"say \"\"x\"\"\"\n\"x\"y,2\n"),
        ("line breaks inside", b"a,b\n\"1\n2\r\n3\",4\n"),
        ("cr alone", b"a,b\r1,2\r3,4\r"),
    ];
    for (what, table) in tables {
        let folder = Folder::with(&[]);
        folder.write("t.csv", table);
        let (out, err, status) =
            folder.run(&["carve", "t.csv", "n = {b} | first 1", "--columns", "a,b"], b"");
        assert_eq!(
            (String::from_utf8_lossy(&out), status),
            (String::from_utf8_lossy(table), 0),
            "{what}: {err}"
        );
        let (again, _, _) =
            folder.run(&["carve", "-", "n = {b} | first 1", "--columns", "a,b"], table);
        assert_eq!(again, table, "{what} from standard input");
    }
}

#[test]
fn columns_are_chosen_ordered_replaced_and_numbered() {
    let mut folder = Folder::with(&[
        ("t.csv", "a,b,\"c, d\"\n1;x,2,3\n"),
        ("plain.tsv", "FH-1\t7\nGR-2\t8\n"),
        ("one.csv", "code\nFH-1\n\nGR-2\n"),
    ]);
    for args in [
        &["carve", "t.csv", "n = {a} | part 1 by \";\"", "--only"][..],
        &["carve", "t.csv", "n = {a} | part 2 by \";\"", "--columns", "n,\"c, d\",a"],
        &[
            "carve",
            "t.csv",
            "a = {a} | part 1 by \";\"",
            "z = {a} | pad left 2 with \"0\"",
            "--replace",
            "a",
        ],
        &[
            "carve",
            "t.csv",
            "n = {c, d} | pad left 3",
            "m = {column 2} | pad right 3 with \",\"",
            "--only",
        ],
        &["carve", "plain.tsv", "--no-header", "house = {1} | before \"-\""],
        &["carve", "one.csv", "n = {code} | after \"-\" else \"\"", "--only"],
        &["carve", "t.csv", "--separator", "semicolon", "n = {column 1} | first 1", "--preview"],
    ] {
        folder.show(args);
    }
    insta::assert_snapshot!(folder.screen);
}

/// A file that is there stays as it was when the run stops, and nothing is left beside it.
#[test]
fn nothing_half_written() {
    let folder = Folder::with(&[("t.csv", "a,b\n1,2\n3\n"), ("out.csv", "old")]);
    let (_, _, status) = folder
        .run(&["carve", "t.csv", "n = {a} | first 1", "-o", "out.csv", "--findings", "f.csv"], b"");
    assert_eq!((status, folder.read("out.csv").as_str()), (2, "old"));
    let names = || {
        let mut names: Vec<_> = std::fs::read_dir(folder.path(""))
            .unwrap()
            .map(|entry| entry.unwrap().file_name())
            .collect();
        names.sort();
        names
    };
    assert_eq!(names(), ["out.csv", "t.csv"]);
    let (_, _, status) = folder.run(
        &["carve", "t.csv", "n = {a} | first 1", "-o", "out.csv", "--rejects", "odd.csv"],
        b"",
    );
    assert_eq!(
        (status, folder.read("out.csv").as_str(), folder.read("odd.csv").as_str()),
        (0, "a,b,n\n1,2,1\n", "a,b\n3\n")
    );
}

/// Rows in are rows out and rejects, byte for byte, whatever the rows look like.
#[test]
fn a_long_table_in_little_memory_keeps_every_row() {
    let mut table = "code,note\n".to_owned();
    for n in 0..30_000 {
        let note = if n % 7 == 0 { "\"two\nlines\"" } else { "plain" };
        let broken = if n % 1000 == 3 { ",more" } else { "" };
        table.push_str(&format!("FH-{n},{note}{broken}\n"));
    }
    let folder = Folder::with(&[("t.csv", &table)]);
    let (_, err, status) = folder.run(
        &[
            "carve",
            "t.csv",
            "n = {code} | part 2 by \"-\"",
            "-o",
            "out.csv",
            "--rejects",
            "odd.csv",
        ],
        b"",
    );
    assert_eq!(status, 0, "{err}");
    assert!(
        err.starts_with("30000 rows read from t.csv, 29970 written to out.csv, 30 rejected."),
        "{err}"
    );
    let (out, odd) = (folder.read("out.csv"), folder.read("odd.csv"));
    assert_eq!(odd.matches(",more\n").count(), 30);
    assert!(out.contains("\nFH-29999,plain,29999\n") && odd.contains("\nFH-29003,plain,more\n"));
}

#[test]
fn formulas_are_guarded_and_workbooks_come_back() {
    let mut folder =
        Folder::with(&[("t.csv", "code,=n\n00417,=1+1\n-5,\"@x, \"\"y\"\"\"\nGR-1,+4\n")]);
    let cut = "rest = {code} | after \"G\" else {code}";
    folder.show(&["carve", "t.csv", cut, "--guard-formulas", "-o", "guarded.csv"]);
    folder.write(
        "run.csv",
        "code,n\n=1+1,1\n\"\n=cmd\",2\n＝A1,3\n\tx,4\n\" -5\",5\nplain-1,6\n+,\n".as_bytes(),
    );
    folder.show(&[
        "carve",
        "run.csv",
        "x = {code} | check is \"no\"",
        "--guard-formulas",
        "-o",
        "run-out.csv",
        "--findings",
        "run-f.csv",
        "--rejects",
        "run-r.csv",
        "-q",
    ]);
    ["run-f.csv", "run-r.csv"].iter().for_each(|file| folder.show_file(file));
    folder.show(&["carve", "run.csv", "x = {code}", "--guard-formulas", "-o", "run.xlsx"]);
    folder.show_file("guarded.csv");
    folder.show(&["carve", "t.csv", cut, "-o", "t.tsv", "--quiet"]);
    folder.show_file("t.tsv");
    folder.show(&["carve", "t.csv", cut, "check = {code} | check is digits", "-o", "t.xlsx"]);
    folder.show(&["carve", "t.xlsx", "back = {code}"]);
    folder.show(&[
        "carve",
        "t.xlsx",
        "back = {row}",
        "--sheet",
        "Findings",
        "--columns",
        "line,cut,reason,value",
    ]);
    let book = std::fs::read(folder.path("t.xlsx")).unwrap();
    let (out, _, status) = folder.run(&["carve", "-", "b = {code}", "--only"], &book);
    assert_eq!((String::from_utf8(out).unwrap().as_str(), status), ("b\n00417\n-5\nGR-1\n", 0));
    insta::assert_snapshot!(folder.screen);
}
