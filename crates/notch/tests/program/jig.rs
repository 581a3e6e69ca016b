use super::support::Folder;

#[test]
fn jigs_are_run_and_their_mistakes_named() {
    let jigs = [
        (
            "good.toml",
            "column = \"lot\"\n[lists]\nhouses = [\"FH\"]\nnames = { FH = \"Fernhollow\" }\n[cuts]\n\"house, n?\" = 'parts by \"-\"'\nn2 = { cut = '{n} | pad left 3 with \"0\" else \"\"', about = \"padded\" }\nours = '\"yes\" if {house} is in houses and {house} is in names else \"no\"'\nweight = { cut = '{weight} | number', replace = true }\n",
        ),
        ("key.toml", "titel = \"x\"\n[cuts]\na = 'first 2'\n"),
        ("cutkey.toml", "[cuts]\na = { cut = 'first 2', abuot = \"x\" }\n"),
        ("broken.toml", "[cuts]\na = 'first 2\n"),
        ("cut.toml", "column = \"lot\"\n[cuts]\na = 'frist 2'\n"),
        (
            "list.toml",
            "column = \"lot\"\n[lists]\nhouses = [\"FH\"]\n[cuts]\na = '\"x\" if {lot} is in house'\n",
        ),
        ("column.toml", "column = \"lt\"\n[cuts]\na = 'first 2'\n"),
    ];
    let mut folder = Folder::with(&jigs);
    folder.write("t.csv", b"lot,weight\nFH-1,\"1,200 g\"\nGR,5\n");
    for (name, _) in jigs {
        folder.show(&["carve", "t.csv", "-j", name]);
    }
    folder.show(&["carve", "t.csv", "-j", "none.toml"]);
    folder.show(&["carve", "t.csv", "-j", "good.toml", "last = {ours} | first 1", "--only"]);
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn a_column_is_found_under_another_of_its_names() {
    let mut folder = Folder::with(&[
        ("june.csv", "code,weight\nFH-2019,12 g\nGR-2020,7\n"),
        ("july.csv", "lot,code,weight\nFH-2019,x,12 g\n"),
        ("two.csv", "article,code,weight\nFH-2019,x,12 g\n"),
        ("none.csv", "weight\n1\n"),
        (
            "lots.toml",
            "column = 'lot'\nwrite = ['year', 'lot']\n[columns]\nlot = { also = ['code', 'article'], check = 'has \"FH\"' }\n[cuts]\nyear = 'part 2 by \"-\"'\n",
        ),
    ]);
    for args in [
        &["carve", "june.csv", "-j", "lots.toml", "--findings", "f.csv"][..],
        &["carve", "june.csv", "-j", "lots.toml", "lot = upper", "--replace", "lot", "-q"],
        &["carve", "july.csv", "-j", "lots.toml", "-q"],
        &["carve", "two.csv", "-j", "lots.toml"],
        &["carve", "none.csv", "-j", "lots.toml"],
        &["check", "june.csv", "-j", "lots.toml"],
        &["trace", "-t", "june.csv", "-j", "lots.toml", "--samples", "1"],
        &["compare", "june.csv", "-j", "lots.toml", "first 2", "part 1 by \"-\""],
        &[
            "carve",
            "june.csv",
            "-j",
            "lots.toml",
            "--save-jig",
            "saved.toml",
            "-o",
            "out.csv",
            "-q",
        ],
        &["jig", "show", "saved.toml"],
    ] {
        folder.show(args);
    }
    ["f.csv", "saved.toml"].iter().for_each(|file| folder.show_file(file));
    insta::assert_snapshot!(folder.screen);
}

/// Columns of the table are written with the types that the jig gives them, from every format; what
/// does not fit is a finding.
#[test]
fn columns_of_the_table_have_the_types_of_the_jig() {
    let mut folder = Folder::with(&[
        (
            "t.csv",
            "lot,price,day,n\nGR-1,12.50,2031-05-01,007\nGR-2,n/a,12.05.2031,8\nGR-3,,,1x\nGR-4,0.125,2031-05-02,-9\n",
        ),
        (
            "t.toml",
            "column = 'lot'\n[columns]\nprice = { as = 'decimal 2' }\nday = { as = 'date', required = true }\nn = { as = 'integer', check = 'value < 100' }\n\
             [cuts]\nhouse = 'first 2'\n",
        ),
        (
            "texts.toml",
            "[columns]\nprice = { as = 'decimal 4' }\nn = { as = 'text' }\n[cuts]\nend = '{lot} | last 1'\n",
        ),
    ]);
    folder.show(&[
        "carve",
        "t.csv",
        "-j",
        "t.toml",
        "-o",
        "t.parquet",
        "--findings",
        "f.csv",
        "--save-jig",
        "saved.toml",
    ]);
    ["f.csv", "saved.toml"].iter().for_each(|file| folder.show_file(file));
    for out in ["t.jsonl", "t.db", "t.xlsx"] {
        folder.show(&["carve", "t.csv", "-j", "t.toml", "-o", out, "-q"]);
    }
    for from in ["t.jsonl", "t.db", "t.xlsx", "t.parquet"] {
        folder.show(&["carve", from, "end = {lot} | last 1", "--to", "jsonl", "-q"]);
        folder.show(&[
            "carve",
            from,
            "-j",
            "texts.toml",
            "-o",
            "again.parquet",
            "--rejects",
            "r.csv",
            "-q",
        ]);
        folder.show(&[
            "carve",
            "again.parquet",
            "house = {lot} | first 1",
            "--replace",
            "house",
            "--to",
            "jsonl",
            "-q",
        ]);
    }
    folder.show(&[
        "carve",
        "t.xlsx",
        "why = {reason}",
        "--sheet",
        "Findings",
        "--columns",
        "row,line,column,reason",
        "--to",
        "jsonl",
        "-q",
    ]);
    insta::assert_snapshot!(folder.screen);
}

/// A first jig says of a table what nearly all its rows have in common, and why not what does not
/// hold.
#[test]
fn a_first_jig_is_written_for_a_table() {
    let mut folder = Folder::demo();
    for args in [
        &["jig", "new", "lots.csv", "-c", "lot"][..],
        &[
            "jig",
            "new",
            "parcels.csv",
            "-c",
            "parcel",
            "-c",
            "run",
            "-c",
            "charge",
            "-o",
            "new.toml",
        ],
        &["check", "parcels.csv", "-j", "new.toml"],
        &["jig", "new", "keepers.csv", "-o", "lots.toml"],
        &["jig", "new", "keepers.csv", "-c", "mail"],
        &["check", "lots.csv"],
    ] {
        folder.show(args);
    }
    folder.show_file("new.toml");
    insta::assert_snapshot!(folder.screen);
    // The one that the help shows is one, too.
    let (help, _, _) = folder.run(&["jig", "--help"], b"");
    let help = String::from_utf8(help).unwrap();
    let (_, jig) = help.split_once("A short one:\n").unwrap();
    folder.write("short.toml", jig.split_once("Written for").unwrap().0.as_bytes());
    let (out, err, status) = folder.run(&["check", "lots.csv", "-j", "short.toml"], b"");
    assert_eq!(status, 1, "{} {err}", String::from_utf8_lossy(&out));
}

/// Whatever a table holds, its first jig can be used on it, and its rules are those of at least 995
/// of 1,000 rows.
#[test]
fn first_jigs_hold() {
    let mut table =
        String::from("lot,lot,\"a}b\",\"it's \"\"so\"\"\",,column 1,Größe,day,grade,sign,e-mail\n");
    for n in 0..600_usize {
        let (house, serial) = (["FH", "GR"][n % 2], n * 7919 % 100_000);
        table.push_str(&format!(
            "{house}-{serial:05},{house}{serial:05},{house}/{},{},{serial},{n},{} cm,2031-{:02}-{:02},{},[{}]\\{},k{n}@seeds.example\n",
            n % 40,
            ["a b", "c"][n % 2],
            n % 90,
            n % 12 + 1,
            n % 28 + 1,
            ["A", "B"][n % 2],
            n % 10,
            n % 7,
        ));
    }
    table.push_str(",,,,,,,,,,\n?,?,?,?,?,?,?,?,?,?,?\n");
    let folder = Folder::with(&[("t.csv", &table), ("empty.csv", "a,b\n"), ("one.csv", "a\nx\n")]);
    let mut jigs = vec![vec!["t.csv"], vec!["empty.csv"], vec!["one.csv"]];
    let columns: Vec<String> = (1..=11).map(|n| format!("column {n}")).collect();
    jigs.extend(columns.iter().map(|column| vec!["t.csv", "-c", column]));
    for args in jigs {
        let (jig, err, status) = folder.run(&[&["jig", "new"], args.as_slice()].concat(), b"");
        assert_eq!(status, 0, "{args:?}: {err}");
        folder.write("new.toml", &jig);
        let (out, err, status) =
            folder.run(&["check", args[0], "-j", "new.toml", "x = \"\"", "--json"], b"");
        assert!(status < 2, "{args:?}: {err}\n{}", String::from_utf8_lossy(&jig));
        let out: serde_json::Value = serde_json::from_slice(&out).unwrap();
        for finding in out["findings"].as_array().unwrap() {
            let is_rule = finding["kind"] == "layout" || finding["what"] == "check";
            assert!(!is_rule || finding["count"].as_u64().unwrap() <= 3, "{args:?}: {finding}");
        }
    }
    let whole = String::from_utf8(folder.run(&["jig", "new", "t.csv"], b"").0).unwrap();
    for rule in [
        "grade = { check = \"is in grade_values\" }",
        "check = 'is shape \"[d1..2][s][l2]\"' }    # not so in 1 of 601 rows",
        "{column 1} | ",
        "day = { check = 'is date",
        "e-mail = { unique = true, check = \"is email\" }",
    ] {
        assert!(whole.contains(rule), "{rule} is not in\n{whole}");
    }
}

#[test]
fn what_is_wrong_is_shown_at_its_line() {
    let mut folder = Folder::with(&[
        ("t.csv", "lot,n\nFH-1,2\n"),
        ("two.csv", "k,v\nA,x\nA,y\n"),
        ("empty.txt", "\n \n"),
    ]);
    for jig in [
        "[lists]\ng = { file = \"nope.csv\" }\n",
        "[lists]\ng = { file = \"two.csv\", column = \"kk\" }\n",
        "[lists]\ng = { file = \"two.csv\", gives = \"v\" }\n",
        "[lists]\n\n# two answers\ng = { file = \"two.csv\", column = \"k\", gives = \"v\" }\n",
        "[lists]\ng = { file = \"empty.txt\" }\n",
        "[lists]\ng = { file = \"two.csv\", colum = \"k\" }\n",
        "[lists]\ng = { A = 3 }\n",
        "column \"lot\"\n",
        "on_finding = \"drop\"\n",
        "write = \"all\"\n",
        "where = '{lot} is'\n[cuts]\na = 'trim'\n",
        "[cuts]\na = '{b} | trim'\nb = '{lot} | trim'\n",
        "[cuts]\na = '{a} | trim'\n",
        "[cuts]\na = '{lot} | trim'\na = '{lot} | upper'\n",
        "[cuts]\na = '{lot} | trim'\n\"a, b\" = '{lot} | parts by \"-\"'\n",
        "[cuts]\nlot = '{lot} | trim'\n",
        "[cuts]\na = \"{lot} | part 2 by \\\"-\\\" | tirm\"\n",
        "[cuts]\na = '''\n{lot} |\n uper'''\n",
        "[cuts]\na = { cut = \"{lot} | tirm\", about = 'x' }\n",
        "[cuts]\na = { about = 'x' }\n",
        "[cuts]\n\"Berth no\" = '{lot}'\n",
        "[columns]\nlto = { required = true }\n",
        "[columns]\nlot = { check = 'is digts' }\n",
        "[columns]\nlot = { check = 'is in g' }\n",
        "[columns]\nlot = { as = 'int' }\nn = { as = 'decimal 99' }\n",
        "[columns]\nlot = { unique = true }\n\"{column 1}\" = { required = true }\n",
        "[checks]\na = 'is digits'\n",
        "[checks]\na = '{m} is digits'\n",
        "[allow]\nq = '3%'\n",
        "[allow]\nlot = 'three'\n",
        "[cuts]\na = '{lot} | check is unique'\n",
        // Everything that is wrong is said at once: keys, then what cannot be read, then what does
        // not suit the table.
        "colum = 'lot'\n[columns]\nlot = { chek = 'is digits' }\n",
        "colum = 'lot'\n[cut]\na = 'first 2'\nb = 'last 2'\n",
        "where = '{lot} is'\n[columns]\nlot = { check = 'is digts' }\n[cuts]\na = '{lot} | frist 2'\nb = '{lot} | first 2'\nc = 'part two by \"-\"'\n[checks]\nd = 'is'\n[allow]\na = 'three'\n",
        "[cuts]\na = '{lto} | first 2'\nb = '{a} | first 1'\n'c, d' = '{m} | parts by \"-\"'\n[checks]\ne = '{d} is \"x\"'\nf = '{q} is \"x\"'\n",
    ] {
        folder.write("bad.toml", jig.as_bytes());
        folder.show(&["check", "t.csv", "-j", "bad.toml"]);
    }
    folder.write("a.toml", b"[lists]\ng = ['A']\n[cuts]\na = '{lot} | first 1'\n");
    folder.write("b.toml", b"[lists]\ng = ['B']\n");
    folder.write("c.toml", b"[cuts]\na = '{lot} | first 2'\n");
    folder.show(&["check", "t.csv", "-j", "a.toml", "-j", "b.toml"]);
    folder.show(&["check", "t.csv", "-j", "a.toml", "-j", "c.toml"]);
    folder.show(&["check", "t.csv", "-j", "a.toml", "b = {a} | lower"]);
    insta::assert_snapshot!(folder.screen.replace("$ notch check t.csv -j bad.toml\n", ""));
}
