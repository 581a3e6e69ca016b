use insta::assert_snapshot;

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

/// What `check` says of a jig that cannot be used.
fn wrong(jig: &str) -> String {
    let folder = Folder::with(&[
        ("t.csv", "lot,n\nFH-1,2\n"),
        ("two.csv", "k,v\nA,x\nA,y\n"),
        ("empty.txt", "\n \n"),
        ("bad.toml", jig),
    ]);
    folder.said(&["check", "t.csv", "-j", "bad.toml"])
}

#[test]
fn what_is_wrong_is_shown_at_its_line() {
    assert_snapshot!(wrong("[lists]\ng = { file = \"nope.csv\" }\n"), @"
    Stopped: in bad.toml, line 2, the list g: nope.csv cannot be read: there is no such file.
    Is the name right, and the folder? The path is taken from the folder you are in.
    ");
    assert_snapshot!(wrong("[lists]\ng = { file = \"two.csv\", column = \"kk\" }\n"), @"
    Stopped: in bad.toml, line 2, the list g wants the column kk of two.csv, which is not there.
    Look at the header of the file: notch survey FILE.
    ");
    assert_snapshot!(wrong("[lists]\ng = { file = \"two.csv\", gives = \"v\" }\n"), @r#"
    Stopped: in bad.toml, line 2, the list g has the key gives without column.
    Say which column holds the keys as well: column = "…".
    "#);
    assert_snapshot!(wrong("[lists]\n\n# two answers\ng = { file = \"two.csv\", column = \"k\", gives = \"v\" }\n"), @"
    Stopped: in bad.toml, line 4, the list g says two things of one key in two.csv, the second in line 3.
    Each key stands for one thing. Take one of the two out.
    ");
    assert_snapshot!(wrong("[lists]\ng = { file = \"empty.txt\" }\n"), @"
    Stopped: in bad.toml, line 2, the list g is empty: there is no value in empty.txt.
    A list has at least one value.
    ");
    assert_snapshot!(wrong("[lists]\ng = { file = \"two.csv\", colum = \"k\" }\n"), @r#"
    Stopped: bad.toml, line 2: this jig cannot be used.

        g = { file = "two.csv", colum = "k" }
                                ‾‾‾‾‾

    The key colum means nothing here.
    The nearest is column.
    The keys that may stand here are: column, file, gives.
    "#);
    assert_snapshot!(wrong("[lists]\ng = { A = 3 }\n"), @r#"
    Stopped: bad.toml, line 2: this jig cannot be used.

        g = { A = 3 }
                  ‾

    This is no jig: invalid type: integer `3`, expected a string.
    A jig is a TOML file. Cuts stand under [cuts], each as name = 'cut'; lists under [lists], as name = ["A", "B"]
    or name = { A = "…" }.
    "#);
    assert_snapshot!(wrong("column \"lot\"\n"), @r#"
    Stopped: bad.toml, line 1: this jig cannot be used.

        column "lot"
               ‾

    This is no jig: key with no value, expected `=`.
    A jig is a TOML file. Cuts stand under [cuts], each as name = 'cut'; lists under [lists], as name = ["A", "B"]
    or name = { A = "…" }.
    "#);
    assert_snapshot!(wrong("on_finding = \"drop\"\n"), @r#"
    Stopped: bad.toml, line 1: this jig cannot be used.

        on_finding = "drop"
                     ‾‾‾‾‾‾

    drop means nothing here.
    One of these is wanted: keep, blank, reject, stop.
    "#);
    assert_snapshot!(wrong("write = \"all\"\n"), @r#"
    Stopped: bad.toml, line 1: this jig cannot be used.

        write = "all"
                ‾‾‾‾‾

    This is no jig: invalid value: string "all", expected names of columns in square brackets, or "new".
    A jig is a TOML file. Cuts stand under [cuts], each as name = 'cut'; lists under [lists], as name = ["A", "B"]
    or name = { A = "…" }.
    "#);
    assert_snapshot!(wrong("where = '{lot} is'\n[cuts]\na = 'trim'\n"), @r#"
    Stopped: bad.toml, line 1: this condition cannot be used.

        where = '{lot} is'
                         ‾

    Expected `not`, `digits`, `letters`, `upper`, `lower`, `integer`, `email`, `number`, `blank`, TEXT (a text in
    quotes: `"-"` or `'-'`), REGEX (a regular expression between slashes, with the flags i, s, x if wanted:
    `/[a-z]+/i`), `shape`, `date`, `in`, SCHEME (a check-digit scheme: `luhn`, `gtin`, `isbn`, `issn`, `iban`,
    `mod97`, `mod11-2`, `damm`, `verhoeff`) or `unique`, but the cut ends.
    "#);
    assert_snapshot!(wrong("[cuts]\na = '{b} | trim'\nb = '{lot} | trim'\n"), @"
    Stopped: bad.toml, line 2: this cut cannot be used.

        a = '{b} | trim'
             ‾‾‾

    b is not made yet at this place; a cut may use the cuts above it.
    Put the cut that makes b before this one.
    ");
    assert_snapshot!(wrong("[cuts]\na = '{a} | trim'\n"), @"
    Stopped: bad.toml, line 2: this cut cannot be used.

        a = '{a} | trim'
             ‾‾‾

    a is not made yet at this place; a cut may use the cuts above it.
    Put the cut that makes a before this one.
    ");
    assert_snapshot!(wrong("[cuts]\na = '{lot} | trim'\na = '{lot} | upper'\n"), @"
    Stopped: bad.toml, line 3: this jig cannot be used.

        a = '{lot} | upper'
        ‾

    This key stands here for the second time.
    Two columns cannot have one name; take one out, or call it otherwise.
    ");
    assert_snapshot!(wrong("[cuts]\na = '{lot} | trim'\n\"a, b\" = '{lot} | parts by \"-\"'\n"), @r#"
    Stopped: bad.toml, line 3: this cut cannot be used.

        "a, b" = '{lot} | parts by "-"'
         ‾

    A cut above makes a already.
    Two columns cannot have one name; call one of them otherwise.
    "#);
    assert_snapshot!(wrong("[cuts]\nlot = '{lot} | trim'\n"), @"
    Stopped: bad.toml, line 2: this cut cannot be used.

        lot = '{lot} | trim'
        ‾‾‾

    The table has a column lot already, and it stays as it is.
    Choose another name, or say that it is to be replaced: --replace lot, in a jig replace = true.
    ");
    assert_snapshot!(wrong("[cuts]\na = \"{lot} | part 2 by \\\"-\\\" | tirm\"\n"), @r#"
    Stopped: bad.toml, line 2: this cut cannot be used.

        a = "{lot} | part 2 by \"-\" | tirm"
            ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾

    `tirm` is not a step.
    The nearest is `trim`.
    "#);
    assert_snapshot!(wrong("[cuts]\na = '''\n{lot} |\n uper'''\n"), @"
    Stopped: bad.toml, line 4: this cut cannot be used.

         uper'''
         ‾‾‾‾

    `uper` is not a step.
    The nearest is `upper`.
    ");
    assert_snapshot!(wrong("[cuts]\na = { cut = \"{lot} | tirm\", about = 'x' }\n"), @r#"
    Stopped: bad.toml, line 2: this cut cannot be used.

        a = { cut = "{lot} | tirm", about = 'x' }
                             ‾‾‾‾

    `tirm` is not a step.
    The nearest is `trim`.
    "#);
    assert_snapshot!(wrong("[cuts]\na = { about = 'x' }\n"), @"
    Stopped: bad.toml, line 2: this jig cannot be used.

        a = { about = 'x' }
            ‾‾‾‾‾‾‾‾‾‾‾‾‾‾‾

    The key cut is missing here.
    Write cut = '…' in it.
    ");
    assert_snapshot!(wrong("[cuts]\n\"Berth no\" = '{lot}'\n"), @r#"
    Stopped: bad.toml, line 2: this cut cannot be used.

        "Berth no" = '{lot}'
               ‾‾

    A cut is written name = cut; the = is missing here.
    In a jig a name with a blank is written: '"Berth no"' = …
    "#);
    assert_snapshot!(wrong("[columns]\nlto = { required = true }\n"), @"
    Stopped: bad.toml, line 2: this column cannot be used.

        lto = { required = true }
        ‾‾‾

    There is no column lto.
    The nearest is {lot}.
    The columns are: lot, n.
    ");
    assert_snapshot!(wrong("[columns]\nlot = { check = 'is digts' }\n"), @r#"
    Stopped: bad.toml, line 2: this check cannot be used.

        lot = { check = 'is digts' }
                            ‾‾‾‾‾

    Expected `not`, `digits`, `letters`, `upper`, `lower`, `integer`, `email`, `number`, `blank`, TEXT (a text in
    quotes: `"-"` or `'-'`), REGEX (a regular expression between slashes, with the flags i, s, x if wanted:
    `/[a-z]+/i`), `shape`, `date`, `in`, SCHEME (a check-digit scheme: `luhn`, `gtin`, `isbn`, `issn`, `iban`,
    `mod97`, `mod11-2`, `damm`, `verhoeff`) or `unique`, but there stands digts.
    The nearest is `digits`.
    "#);
    assert_snapshot!(wrong("[columns]\nlot = { check = 'is in g' }\n"), @r#"
    Stopped: bad.toml, line 2: this check cannot be used.

        lot = { check = 'is in g' }
                               ‾

    There is no list g.
    Lists stand in a jig, under [lists]; texts may stand here in brackets: is in ("A", "B").
    "#);
    assert_snapshot!(wrong("[columns]\nlot = { as = 'int' }\nn = { as = 'decimal 99' }\n"), @"
    Stopped: in bad.toml, line 2: int is no type of a column.
    It is one of text, number, integer, date and decimal 2, with any figure for the 2.

    Also: in bad.toml, line 3: decimal 99 is no type of a column.
    A decimal has 0 to 37 digits after its point, such as decimal 2.
    ");
    assert_snapshot!(wrong("[columns]\nlot = { unique = true }\n\"{column 1}\" = { required = true }\n"), @r#"
    Stopped: bad.toml, line 3: this column cannot be used.

        "{column 1}" = { required = true }
         ‾‾‾‾‾‾‾‾‾‾

    The column {column 1} stands twice under [columns].
    Write all that is demanded of it in one entry.
    "#);
    assert_snapshot!(wrong("[checks]\na = 'is digits'\n"), @"
    Stopped: bad.toml, line 2: this check cannot be used.

        a = 'is digits'
             ‾‾

    The first test of a condition says what it is about.
    It is about a whole row, so each test begins with a column: {column} is ….
    ");
    assert_snapshot!(wrong("[checks]\na = '{m} is digits'\n"), @"
    Stopped: bad.toml, line 2: this check cannot be used.

        a = '{m} is digits'
             ‾‾‾

    There is no column m.
    The columns are: lot, n.
    ");
    assert_snapshot!(wrong("[allow]\nq = '3%'\n"), @"
    Stopped: there is nothing to check.
    Give a jig with cuts, columns or checks: notch check lots.csv -j lots.toml. A first one is written from what
    the table looks like by notch jig new lots.csv -o lots.toml; notch jig --help shows a short one.
    ");
    assert_snapshot!(wrong("[allow]\nlot = 'three'\n"), @r#"
    Stopped: in bad.toml, line 2: three is no share and no number of rows.
    Write a share of the rows, "0.5%", or a number of rows, 3.
    "#);
    assert_snapshot!(wrong("[cuts]\na = '{lot} | check is unique'\n"), @"
    Stopped: bad.toml, line 2: this cut cannot be used.

        a = '{lot} | check is unique'
                           ‾‾‾‾‾‾‾‾‾

    `is unique` asks about all rows, which only [columns] and [checks] of a jig can.
    Write in the jig, under [columns]: name = { unique = true }.
    ");
    // Everything that is wrong is said at once: keys, then what cannot be read, then what does
    // not suit the table.
    assert_snapshot!(wrong("colum = 'lot'\n[columns]\nlot = { chek = 'is digits' }\n"), @"
    Stopped: bad.toml, line 1: this jig cannot be used.

        colum = 'lot'
        ‾‾‾‾‾

    The key colum means nothing here.
    The nearest is column.
    The keys that may stand here are: allow, checks, column, columns, cuts, header, lists, on_finding, remembered,
    separator, title, where, write.

    Also: bad.toml, line 3: this jig cannot be used.

        lot = { chek = 'is digits' }
                ‾‾‾‾

    The key chek means nothing here.
    The nearest is check.
    The keys that may stand here are: also, as, check, required, unique.
    ");
    assert_snapshot!(wrong("colum = 'lot'\n[cut]\na = 'first 2'\nb = 'last 2'\n"), @"
    Stopped: bad.toml, line 1: this jig cannot be used.

        colum = 'lot'
        ‾‾‾‾‾

    The key colum means nothing here.
    The nearest is column.
    The keys that may stand here are: allow, checks, column, columns, cuts, header, lists, on_finding, remembered,
    separator, title, where, write.

    Also: bad.toml, line 2: this jig cannot be used.

        [cut]
         ‾‾‾

    The key cut means nothing here.
    The nearest is cuts.
    The keys that may stand here are: allow, checks, column, columns, cuts, header, lists, on_finding, remembered,
    separator, title, where, write.
    ");
    assert_snapshot!(wrong("where = '{lot} is'\n[columns]\nlot = { check = 'is digts' }\n[cuts]\na = '{lot} | frist 2'\nb = '{lot} | first 2'\nc = 'part two by \"-\"'\n[checks]\nd = 'is'\n[allow]\na = 'three'\n"), @r#"
    Stopped: bad.toml, line 1: this condition cannot be used.

        where = '{lot} is'
                         ‾

    Expected `not`, `digits`, `letters`, `upper`, `lower`, `integer`, `email`, `number`, `blank`, TEXT (a text in
    quotes: `"-"` or `'-'`), REGEX (a regular expression between slashes, with the flags i, s, x if wanted:
    `/[a-z]+/i`), `shape`, `date`, `in`, SCHEME (a check-digit scheme: `luhn`, `gtin`, `isbn`, `issn`, `iban`,
    `mod97`, `mod11-2`, `damm`, `verhoeff`) or `unique`, but the cut ends.

    Also: bad.toml, line 3: this check cannot be used.

        lot = { check = 'is digts' }
                            ‾‾‾‾‾

    Expected `not`, `digits`, `letters`, `upper`, `lower`, `integer`, `email`, `number`, `blank`, TEXT (a text in
    quotes: `"-"` or `'-'`), REGEX (a regular expression between slashes, with the flags i, s, x if wanted:
    `/[a-z]+/i`), `shape`, `date`, `in`, SCHEME (a check-digit scheme: `luhn`, `gtin`, `isbn`, `issn`, `iban`,
    `mod97`, `mod11-2`, `damm`, `verhoeff`) or `unique`, but there stands digts.
    The nearest is `digits`.

    Also: bad.toml, line 5: this cut cannot be used.

        a = '{lot} | frist 2'
                     ‾‾‾‾‾

    `frist` is not a step.
    The nearest is `first`.

    Also: bad.toml, line 7: this cut cannot be used.

        c = 'part two by "-"'
                  ‾‾‾

    Expected PICK (which one: `2`, `-1` or `last`, `2nd last`; several: `2..3`, `2..`, `..-2`), but there stands
    two.
    Write 2.

    Also: bad.toml, line 9: this check cannot be used.

        d = 'is'
             ‾‾

    The first test of a condition says what it is about.
    It is about a whole row, so each test begins with a column: {column} is ….

    Also: in bad.toml, line 11: three is no share and no number of rows.
    Write a share of the rows, "0.5%", or a number of rows, 3.
    "#);
    assert_snapshot!(wrong("[cuts]\na = '{lto} | first 2'\nb = '{a} | first 1'\n'c, d' = '{m} | parts by \"-\"'\n[checks]\ne = '{d} is \"x\"'\nf = '{q} is \"x\"'\n"), @r#"
    Stopped: bad.toml, line 2: this cut cannot be used.

        a = '{lto} | first 2'
             ‾‾‾‾‾

    There is no column lto.
    The nearest is {lot}.
    The columns are: lot, n.

    Also: bad.toml, line 4: this cut cannot be used.

        'c, d' = '{m} | parts by "-"'
                  ‾‾‾

    There is no column m.
    The columns are: lot, n.

    Also: bad.toml, line 7: this check cannot be used.

        f = '{q} is "x"'
             ‾‾‾

    There is no column q.
    The columns are: lot, n.
    "#);
}

#[test]
fn jigs_that_contradict_each_other_are_refused() {
    let folder = Folder::with(&[
        ("t.csv", "lot,n\nFH-1,2\n"),
        ("a.toml", "[lists]\ng = ['A']\n[cuts]\na = '{lot} | first 1'\n"),
        ("b.toml", "[lists]\ng = ['B']\n"),
        ("c.toml", "[cuts]\na = '{lot} | first 2'\n"),
    ]);
    let of = |other: &str| folder.said(&["check", "t.csv", "-j", "a.toml", "-j", other]);
    assert_snapshot!(of("b.toml"), @"
    Stopped: in b.toml, line 2, there is another list g in a jig before this one.
    Give one of the two another name.
    ");
    assert_snapshot!(of("c.toml"), @"
    Stopped: c.toml, line 2: this cut cannot be used.

        a = '{lot} | first 2'
        ‾

    A cut above makes a already.
    Two columns cannot have one name; call one of them otherwise.
    ");
    assert_snapshot!(folder.said(&["check", "t.csv", "-j", "a.toml", "b = {a} | lower"]), @"
    1 row read from t.csv: no findings.
      new column  filled  blank  shapes of its texts, rarest last
      a                1      0  [U] 1
      b                1      0  [l] 1

    All as expected.
    status 0
    ");
}
