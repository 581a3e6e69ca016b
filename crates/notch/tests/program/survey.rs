//! Looking before cutting, and two cuts side by side.

use super::support::Folder;

/// A table of columns of many kinds, each with rows that are not as the rest.
fn many_kinds(rows: usize) -> String {
    let names = ["Penn", "Moran", "Thorne", "Lund"];
    let mut table =
        String::from("record,person,contact,path,account,amount,stamp,note,label,名前\n");
    for n in 0..rows {
        let (house, name) = (["FH", "GR", "TS"][n % 3], names[n % 4]);
        let number = n * 7919 % 100_000;
        let cells = [
            format!("{house}{number:05}{:<8}2026{:02}{:02}", name, n % 12 + 1, n % 28 + 1),
            format!("{name}, {} ({house}-{:02})", ["Iris", "Bo"][n % 2], n % 97),
            format!("{name} <{}.{n}@fernhollow.example>", name.to_lowercase()),
            format!("/store/{}/{:02}/seed_{number:04}.csv", 2020 + n % 7, n % 12 + 1),
            format!("{:03}.{:03}-{:02}", n * 31 % 1000, number % 1000, n % 100),
            format!("{}{}.{:02} EUR", ["", "1,"][n % 2], 100 + n % 900, number % 100),
            format!("2026-{:02}-{:02}T{:02}:{:02}:00Z", n % 12 + 1, n % 28 + 1, n % 24, n % 60),
            format!(
                "Sown by {name} in row {} of house {house}; {} seeds{}",
                n % 40,
                n % 300,
                if n % 5 == 0 { " (germ 80%)" } else { "" }
            ),
            format!("[{}] tray {} on bench {}", ["WARN", "INFO"][n % 2], n % 77, n % 9),
            format!("東京{}-{}", n % 10, ["é", "ñ", "ü"][n % 3]),
        ];
        let odd = |column: usize, cell: &str| match (n, column) {
            (21, 1) => "Moran Iris".to_owned(),
            (33, 4) => " 123.456-78".to_owned(),
            (45, 3) => "/store/2026/seed.csv".to_owned(),
            (57, 4) => "1O3.456-78".to_owned(),
            (69, 7) => "Sown\tby Penn\u{a0}in row 4".to_owned(),
            (81, 9) => "東京１\u{200b}-é".to_owned(),
            (93, 0) => String::new(),
            _ => cell.to_owned(),
        };
        let cells: Vec<String> = cells
            .iter()
            .enumerate()
            .map(|(column, cell)| format!("\"{}\"", odd(column, cell)))
            .collect();
        table.push_str(&format!("{}\n", cells.join(",")));
    }
    table
}

#[test]
fn columns_of_many_kinds_are_drawn_and_their_cuts_run() {
    let mut folder = Folder::with(&[("kinds.csv", &many_kinds(300))]);
    folder.show(&["survey", "kinds.csv"]);
    for column in ["record", "person", "path", "account", "note", "名前"] {
        folder.show(&["survey", "kinds.csv", "-c", column]);
    }
    folder.show(&["survey", "kinds.csv", "--save-jig", "kinds.toml"]);
    folder.show(&[
        "carve",
        "kinds.csv",
        "-j",
        "kinds.toml",
        "--only",
        "--to",
        "csv",
        "--findings",
        "odd.csv",
        "-o",
        "cut.csv",
    ]);
    let cut = folder.read("cut.csv");
    folder.screen.push_str(
        &cut.lines().step_by(20).take(8).map(|line| format!("{line}\n")).collect::<String>(),
    );
    folder.show_file("odd.csv");
    insta::assert_snapshot!(folder.screen);
}

/// The share of a proposed cut is that of the rows in which it has no finding when it is run.
#[test]
fn shares_are_those_of_the_cuts_run() {
    let folder = Folder::with(&[("kinds.csv", &many_kinds(3000))]);
    let json = |args: &[&str]| -> serde_json::Value {
        serde_json::from_slice(&folder.run(args, b"").0).unwrap()
    };
    let survey = json(&["survey", "kinds.csv", "--json"]);
    let (mut cuts, mut with_findings) = (0, 0);
    for column in survey["columns"].as_array().unwrap() {
        let name = column["name"].as_str().unwrap();
        for cut in column["cuts"].as_array().unwrap() {
            // What not all texts have does not fit those that lack it, though it is no finding.
            let names = cut["names"].as_str().unwrap();
            let names = names.strip_suffix('?').filter(|one| !one.contains(',')).unwrap_or(names);
            let written = format!("{names} = {}", cut["cut"].as_str().unwrap());
            // Blank cells are none of the texts that a cut fits or does not.
            folder.run(
                &[
                    "carve",
                    "kinds.csv",
                    "--where",
                    &format!("{{{name}}} is not blank"),
                    "x = \"\"",
                    "-o",
                    "filled.csv",
                    "-q",
                ],
                b"",
            );
            let run = json(&["check", "filled.csv", "-c", name, &written, "--json"]);
            let odd = run["rows_with_findings"].as_u64().unwrap();
            assert_eq!(cut["fits"], run["rows"].as_u64().unwrap() - odd, "{name}: {written}");
            (cuts, with_findings) = (cuts + 1, with_findings + u64::from(odd > 0));
        }
    }
    assert!(cuts > 20 && with_findings > 5, "{cuts} cuts, {with_findings} with findings");
}

/// Each odd text that was put into eleven columns is listed with its row, and nothing that is as
/// the rest; however the table comes.
#[test]
fn every_odd_text_is_listed_with_its_row() {
    type Column =
        (&'static str, fn(usize) -> String, &'static [(usize, &'static str, &'static str)]);
    let columns: [Column; 11] = [
        (
            "lot",
            |n| {
                format!(
                    "{}-{}-{:05}-{}",
                    ["FH", "GR", "TS"][n % 3],
                    2015 + n % 9,
                    n * 7919 % 100_000,
                    n % 10
                )
            },
            &[
                (11, "FH-2O19-00417-5", "O, I or l"),
                (22, "FH–2019–00417-6", "another dash"),
                (33, "FH-2019-0417-5", "a rare shape"),
                (44, "fh-2019-00418-5", "small letters"),
                (55, " FH-2019-00419-5", "white space in front"),
                (66, "", "blank"),
            ],
        ),
        (
            "shelf",
            |n| format!("{}{}-{}", ["A", "B", "CC"][n % 3], n % 40, n % 9),
            &[
                (101, "A1l-3", "O, I or l"),
                (102, "cellar", "small letters"),
                (103, "B12-", "a rare shape"),
            ],
        ),
        (
            "berth",
            |n| format!("{}-{}", ["ROSE", "OAK", "FOXGLOVE"][n % 3], n * 7919 % 1_000_000),
            &[(151, "FOXGLOVE-4I217", "O, I or l"), (152, "ОAK-4217", "another alphabet")],
        ),
        (
            "serial",
            |n| format!("{:07}", n * 7919 % 10_000_000),
            &[
                (201, "79190", "7"),
                (202, "O012345", "O, I or l"),
                (203, "0007919", "same text stands in row 2"),
                (2, "0007919", "same text stands in another row"),
            ],
        ),
        (
            "badge",
            |n| {
                format!("R{}-{:05}-{}", n % 10, n * 7919 % 100_000, ["SOW", "GATE", "FIELD"][n % 3])
            },
            &[
                (251, "R1-0417-SOW", "a rare shape"),
                (252, "R7-26526-sow", "a rare shape"),
                (253, "R4 - 10246 - SOW", "a rare shape"),
            ],
        ),
        (
            "keeper",
            |n| {
                format!(
                    "{} {}",
                    ["Iris", "Bo", "Věra"][n % 3],
                    ["Penn", "Moran", "Thorne", "Lund", "Ash", "Voß", "Kovač"][n % 7]
                )
            },
            &[
                (301, "Iris  Penn", "two blanks"),
                (302, "Penn, Iris", "a rare shape"),
                (303, "Bo Lund\u{200b}", "cannot be seen"),
            ],
        ),
        (
            "email",
            |n| format!("k{n}@{}.example", ["fernhollow", "seedswap"][n % 2]),
            &[
                (351, "k351 at fernhollow.example", "a rare shape"),
                (352, "K352@FERNHOLLOW.EXAMPLE", "capitals"),
            ],
        ),
        (
            "sown",
            |n| format!("2026-{:02}-{:02}", n % 12 + 1, n % 28 + 1),
            &[
                (401, "12.05.2026", "a rare shape"),
                (402, "2026-05-12 ", "white space at the end"),
                (403, "2026-5-12", "a rare shape"),
            ],
        ),
        (
            "weight",
            |n| format!("{}.{}", n % 90 + 10, n % 10),
            &[
                (451, "12,5", "a rare shape"),
                (452, "n/a", "a rare shape"),
                (453, "1l.5", "O, I or l"),
            ],
        ),
        (
            "link",
            |n| {
                format!(
                    "/store/{}/{:02}/seed_{:05}.csv",
                    2020 + n % 7,
                    n % 12 + 1,
                    n * 7919 % 100_000
                )
            },
            &[
                (501, "/store/2020/seed_00417.csv", "a rare shape"),
                (502, "/store/2020/O1/seed_00417.csv", "O, I or l"),
            ],
        ),
        (
            "note",
            |n| {
                format!(
                    "Sown by {} in row {}, {} seeds",
                    ["Penn", "Moran", "Thorne", "Lund"][n % 4],
                    n % 40,
                    n % 300
                )
            },
            &[
                (551, "Sown\tby Penn in row 4, 12 seeds", "a tab"),
                (552, "Sown by Penn in row\u{a0}4, 12 seeds", "no-break"),
            ],
        ),
    ];
    let mut table = format!("{}\n", columns.map(|(name, ..)| name).join(","));
    for n in 0..1500 {
        let cell = |(_, usual, odd): &Column| {
            odd.iter()
                .find(|(row, ..)| *row == n + 1)
                .map_or_else(|| usual(n), |(_, text, _)| (*text).to_owned())
        };
        table.push_str(&format!(
            "{}\n",
            columns
                .iter()
                .map(|column| format!("\"{}\"", cell(column)))
                .collect::<Vec<_>>()
                .join(",")
        ));
    }
    let folder = Folder::with(&[("t.csv", &table)]);
    folder.run(&["survey", "t.csv", "--findings", "f.jsonl"], b"");
    let listed: Vec<serde_json::Value> =
        folder.read("f.jsonl").lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let mut wrong = Vec::new();
    for (name, _, odd) in &columns {
        let of_column = || listed.iter().filter(|row| row["column"] == *name);
        for (row, text, reason) in *odd {
            let found = of_column().find(|found| found["row"] == *row as u64);
            if !found.is_some_and(|found| {
                found["cell"].as_str().unwrap_or_default() == *text
                    && found["reason"].as_str().unwrap().contains(reason)
            }) {
                wrong.push(format!(
                    "{name}, row {row}, {text:?}: {reason} is not told, but {found:?}"
                ));
            }
        }
        let others =
            of_column().filter(|found| !odd.iter().any(|(row, ..)| found["row"] == *row as u64));
        wrong.extend(others.map(|other| format!("{name} is as the rest: {other}")));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    for (args, file) in [
        (&["survey", "t.csv", "-c", "lot"][..], "lot.csv"),
        (&["survey", "-", "-c", "lot"], "piped.csv"),
    ] {
        folder.run(&[args, &["--findings", file]].concat(), table.as_bytes());
    }
    folder.run(&["carve", "t.csv", "-c", "lot", "x = trim", "-o", "t.parquet", "-q"], b"");
    folder.run(&["survey", "t.parquet", "-c", "lot", "--findings", "parquet.csv"], b"");
    let reasons = |file: &str| -> Vec<String> {
        folder
            .read(file)
            .lines()
            .map(|line| line.split(',').skip(2).collect::<Vec<_>>().join(","))
            .collect()
    };
    assert_eq!(reasons("lot.csv").len(), 7);
    assert_eq!(
        (reasons("piped.csv"), reasons("parquet.csv")),
        (reasons("lot.csv"), reasons("lot.csv"))
    );
}

/// However a table comes, it looks the same.
#[test]
fn the_format_of_a_table_does_not_show() {
    let folder = Folder::with(&[("kinds.csv", &many_kinds(3000))]);
    for name in [
        "kinds.tsv",
        "kinds.jsonl",
        "kinds.parquet",
        "kinds.arrow",
        "kinds.xlsx",
        "kinds.db",
        "kinds.csv.zst",
    ] {
        let (_, err, status) =
            folder.run(&["carve", "kinds.csv", "x = {note} | number", "-o", name, "-q"], b"");
        assert_eq!(status, 0, "{name}: {err}");
    }
    let without_lines = |out: Vec<u8>, name: &str| -> String {
        String::from_utf8(out)
            .unwrap()
            .replace(name, "TABLE")
            .lines()
            .filter(|line| !line.contains("line "))
            .collect::<Vec<_>>()
            .join("\n")
    };
    for args in [
        &["survey", "-c", "note"][..],
        &["survey", "-c", "account"],
        &["compare", "{path} | part 4 by \"/\"", "{path} | chars 13..14"],
    ] {
        let seen = |name: &str| {
            let (out, err, status) = folder.run(&[&args[..1], &[name], &args[1..]].concat(), b"");
            assert_eq!(status, i32::from(args[0] == "compare"), "{name}: {err}");
            without_lines(out, name)
        };
        let direct = seen("kinds.csv");
        assert!(direct.lines().count() > 5, "{direct}");
        for name in [
            "kinds.tsv",
            "kinds.jsonl",
            "kinds.parquet",
            "kinds.arrow",
            "kinds.xlsx",
            "kinds.db",
            "kinds.csv.zst",
        ] {
            assert_eq!(seen(name), direct, "{name} {args:?}");
        }
    }
}

#[test]
fn a_table_and_a_column_are_surveyed_and_the_proposed_jig_runs() {
    let mut folder = Folder::demo();
    folder.show(&["survey", "lots.csv"]);
    folder.show(&["survey", "lots.csv", "-c", "lot", "--save-jig", "proposed.toml"]);
    folder.show_file("proposed.toml");
    let (out, _, status) = folder.run(&["check", "lots.csv", "-j", "proposed.toml"], b"");
    assert_eq!(status, 1, "{}", String::from_utf8_lossy(&out));
    folder.show(&["survey", "lots.csv", "-c", "lott"]);
    folder.show(&["survey", "keepers.csv", "-c", "email"]);
    folder.show(&["survey", "lots.csv", "-c", "lot", "--save-jig", "lots.csv"]);
    folder.show(&["survey", "keepers.csv", "--save-jig", "all.toml"]);
    folder.show(&["carve", "keepers.csv", "-j", "all.toml", "--preview", "2", "--quiet"]);
    folder.write("blank.csv", b"a,b\n");
    folder.show(&["survey", "blank.csv"]);
    folder.show(&["survey", "blank.csv", "-c", "b", "--save-jig", "none.toml"]);
    let (json, _, status) = folder.run(&["survey", "keepers.csv", "--json"], b"");
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    let looks: Vec<&str> = json["columns"]
        .as_array()
        .unwrap()
        .iter()
        .map(|column| column["looks_like"].as_str().unwrap())
        .collect();
    assert_eq!((status, looks[2], looks[3]), (0, "e-mail address", "date DDMMYYYY"));
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn two_cuts_are_compared() {
    let mut folder = Folder::demo();
    folder.show(&[
        "compare",
        "lots.csv",
        "-c",
        "lot",
        "part 4 by \"-\"",
        "chars 13..17",
        "--all-to",
        "differ.csv",
    ]);
    folder.show_file("differ.csv");
    folder.show(&[
        "compare",
        "lots.csv",
        "{lot} | part 5 by any of \"-/\" | trim",
        "{digit}",
        "-j",
        "lots.toml",
        "--examples",
        "1",
    ]);
    folder.show(&["compare", "lots.csv", "{lot}", "{lot}"]);
    folder.show(&["compare", "lots.csv", "a, b = {lot} | parts by \"-\"", "{lot}"]);
    folder.show(&["compare", "lots.csv", "{lot}", "{lto}"]);
    folder.show(&["compare", "lots.csv", "{lot}", "{shelf}", "--all-to", "lots.csv"]);
    let (json, _, status) = folder
        .run(&["compare", "lots.csv", "{lot} | first 2", "{lot} | first 2 | upper", "--json"], b"");
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    assert_eq!(
        (status, &json["different"], &json["shapes"][0]["examples"][0]["second"]),
        (1, &2.into(), &"GR".into())
    );
    insta::assert_snapshot!(folder.screen);
}

/// Of a table of more texts than are counted one by one, layouts and odd texts come from all of them,
/// the shares of proposed cuts from some; what is said of them says so, and none is above all.
#[test]
fn cuts_are_run_on_some_of_many_rows() {
    let mut table = String::from("lot\n");
    for n in 0..60_000 {
        let house = ["FH", "GR", "TS"][n % 3];
        // Odd ones stand at the end: every part of the table is as likely to be looked at.
        match n {
            54_000.. if n % 10 == 0 => table.push_str("see note\n"),
            _ => table.push_str(&format!("{house}-{:04}-{:05}\n", 2020 + n % 7, n)),
        }
    }
    let mut folder = Folder::with(&[("lots.csv", &table)]);
    folder.run(&["survey", "lots.csv", "-c", "lot", "--page", "lots.html"], b"");
    let page = folder.read("lots.html");
    let said = page.split("<p>Their shares").nth(1).and_then(|rest| rest.split("</p>").next());
    folder.screen = format!("Their shares{}\n", said.unwrap_or_default());
    folder.show(&["survey", "lots.csv", "-c", "lot"]);
    insta::assert_snapshot!(folder.screen);
}

/// What a table holds does not depend on the number of threads; what is cut out of it not on whether
/// it comes as text or as objects either, some of whose fields are first met far down.
#[test]
fn threads_do_not_show() {
    let (mut table, mut objects) = (String::from("lot,qty,note\n"), String::new());
    for n in 0..24_000 {
        let lot = format!("{}-{:05}", ["FH", "GR", "TS"][n % 3], n);
        let qty = if n % 50 == 7 { format!("{n}.5") } else { n.to_string() };
        let note = if n > 20_000 { ["checked, dry", "retest", ""][n % 3] } else { "" };
        let quote = if note.contains(',') { "\"" } else { "" };
        table.push_str(&format!("{lot},{qty},{quote}{note}{quote}\n"));
        let note = if note.is_empty() { String::new() } else { format!(",\"note\":\"{note}\"") };
        let blank = if n % 2 == 0 { " " } else { "" };
        objects.push_str(&format!("{{\"lot\":{blank}\"{lot}\",\"qty\":{qty}{note}}}\n"));
    }
    let folder = Folder::with(&[("lots.csv", &table), ("lots.jsonl", &objects)]);
    let told = |args: &[&str]| {
        let (out, err, status) = folder.run(args, b"");
        assert_eq!((status, &*err), (0, ""), "{args:?}");
        String::from_utf8(out).unwrap()
    };
    for columns in [&["-c", "lot", "-c", "note"][..], &[]] {
        let survey = |file: &str, threads: &str| {
            told(&[&["survey", file, "--json", "--threads", threads], columns].concat())
        };
        for file in ["lots.csv", "lots.jsonl"] {
            let first = survey(file, "1");
            assert!(first == survey(file, "3"), "{file}: {columns:?}");
        }
    }
    let cut = |file: &str, threads: &str| {
        told(&["carve", file, "n = {lot} | after \"-\"", "--to", "csv", "-q", "--threads", threads])
    };
    let first = cut("lots.csv", "1");
    for threads in ["1", "2", "5"] {
        assert!(first == cut("lots.jsonl", threads), "on {threads} threads");
    }
}

/// A table of columns whose texts are too many to be counted one by one: codes of one shape, and such
/// with rows that are not as the rest.
fn many_texts(rows: usize) -> String {
    let mut table = String::from("plain,rare,typos,labelled,ends,amount,accents\n");
    for n in 0..rows {
        let (house, number) = (["FH", "GR", "TS"][n % 3], n * 7919 % 1_000_003);
        let code = format!("{house}-{number:07}");
        let typo = match n % 9000 {
            77 => format!("{house}-{}O{number:05}", n % 10),
            78 => format!("{house} {number:07}"),
            79 => "none".to_owned(),
            _ => code.clone(),
        };
        let rare = if n == 4_321 { format!("{house}/{number:07}") } else { code.clone() };
        let end = if n.is_multiple_of(50) { "\t" } else { "" };
        let accent = if n == 20_000 { format!("É{number:08}") } else { code.clone() };
        table.push_str(&format!(
            "{code}-{},{rare},{typo},LOT {number:07},{code}{end},{}.{:02},{accent}\n",
            ["A", "OAK", "IVY"][n % 3],
            number % 700_000,
            n % 100
        ));
    }
    table
}

/// Most columns are told by what the first pass keeps of them. Where odd rows are listed, all rows are
/// read a second time: what is known of the columns is the same.
#[test]
fn a_column_is_the_same_read_once_or_twice() {
    let folder = Folder::demo();
    folder.write("kinds.csv", many_kinds(3_000).as_bytes());
    folder.write("texts.csv", many_texts(52_000).as_bytes());
    let told = |args: &[&str]| {
        let known = |more: &[&str]| {
            let (out, err, status) = folder.run(&[&["survey", "--json"], args, more].concat(), b"");
            assert_eq!(status, 0, "{err}");
            String::from_utf8(out).unwrap()
        };
        let (once, twice) = (known(&[]), known(&["--findings", "odd.csv"]));
        assert!(once == twice, "{args:?}: {}", first_difference(&once, &twice));
    };
    for table in ["lots.csv", "lots-may.csv", "parcels.csv", "kinds.csv"] {
        told(&[table]);
    }
    for column in ["plain", "rare", "typos", "labelled", "ends", "amount", "accents"] {
        told(&["texts.csv", "-c", column]);
    }
    told(&["texts.csv", "-c", "plain", "-c", "typos", "--sample", "5000"]);
}

/// The first lines in which two texts differ.
fn first_difference(one: &str, other: &str) -> String {
    let differ = one.lines().zip(other.lines()).find(|(one, other)| one != other);
    differ.map_or("one is longer".to_owned(), |(one, other)| format!("{one}\nand\n{other}"))
}
