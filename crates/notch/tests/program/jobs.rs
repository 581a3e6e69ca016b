//! An analyst's jobs on the demo tables, each one cut: what comes out of rows worth knowing.

use super::support::Folder;

/// The first new cell of the rows whose first column is one of these, as the program writes them.
fn cells(table: &str, cut: &str, rows: &[&str]) -> Vec<String> {
    let folder = Folder::demo();
    let (out, err, status) = folder.run(&["carve", table, cut], b"");
    assert_eq!(status, 0, "{cut}: {err}");
    let mut reader = csv::Reader::from_reader(out.as_slice());
    let records: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    let cell = |row: &&str| {
        let record = records
            .iter()
            .find(|record| record[0] == **row)
            .unwrap_or_else(|| panic!("{row} is not in {table}"));
        record[record.len() - 1].to_owned()
    };
    rows.iter().map(cell).collect()
}

#[test]
fn odd_rows_are_answered_as_the_cut_says() {
    // Rows of lots.csv that are written otherwise than the rest.
    let lots = [
        "GR-2026-TIL-43546-7",
        "FH/2019/BRA/11717/1",
        "gr-2027-ros-67705-9",
        "TS-2023-BET-65357",
        "ML-2019-BET-77422-9-B",
    ];
    for (cut, wanted) in [
        ("x = {lot} | first 2", ["GR", "FH", "gr", "TS", "ML"]),
        ("x = {lot} | part 4 by \"-\"", ["43546", "", "67705", "65357", "77422"]),
        ("x = {lot} | part 4 of 5 by \"-\"", ["43546", "", "67705", "", ""]),
        ("x = {lot} | part 4 of 5 by any of \"-/\"", ["43546", "11717", "67705", "", ""]),
        (
            "x = {lot} | part 4 of 5 by \"-\" else part 4 of 5 by \"/\" else \"?\"",
            ["43546", "11717", "67705", "?", "?"],
        ),
        ("x = {lot} | block 2 of digits", ["43546", "11717", "67705", "65357", "77422"]),
        (
            "x = {lot} | after 2nd any of \"-/\" | first 3 | upper",
            ["TIL", "BRA", "ROS", "BET", "BET"],
        ),
        ("x = {lot} | count of \"-\"", ["4", "0", "4", "3", "5"]),
        (
            "x = {lot} | match /[A-Z]{2}(?<y>\\d{4})|-(\\d{4})-/ group 2",
            ["2026", "", "2027", "2023", "2019"],
        ),
        (
            "x = \"old\" if {lot} is not shape \"[L2]-[d4]-[L3]-[d5]-[d]\" else \"ok\"",
            ["ok", "old", "ok", "old", "old"],
        ),
        (
            "x = {shelf} if {lot} starts with \"GR\" ignoring case else {seeds}",
            ["E1-4", "00861", "C24-9", "307", "53"],
        ),
        (
            "x = {dates} | after \"/\" | date \"YYYY-MM-DD\" to \"D MMM\" else \"not sent\"",
            ["18 Sep", "11 Aug", "1 Mar", "17 Jul", "not sent"],
        ),
    ] {
        assert_eq!(cells("lots.csv", cut, &lots), wanted, "{cut}");
    }
}

#[test]
fn notes_are_read_as_a_person_reads_them() {
    let parcels = ["P0001", "P0002", "P0003", "P0004", "P0006", "P0008"];
    for (cut, wanted) in [
        (
            "x? = {note} | after word \"ref\" ignoring case | number next",
            ["", "28300", "73692", "", "", "26315"],
        ),
        ("x? = {note} | before word \"kg\" | number last", ["", "4.9", "", "1.84", "", "28.67"]),
        ("x? = {note} | after last \"EUR\" | number", ["", "", "", "", "45.50", "2538.24"]),
        (
            "x? = {note} | between \"(kp:\" and \")\" ignoring case | trim",
            ["", "Mina Thorne", "", "", "", "M. Penn"],
        ),
        ("x? = {note} | between \"[\" and \"]\"", ["Okoro", "", "", "", "", ""]),
        ("x = {note} | numbers | count", ["3", "2", "1", "2", "3", "3"]),
        ("x = {note} | words | pick last", ["Okoro", "Thorne", "room", "boxes", "50", "Penn"]),
        ("x = {note} | clip 12 ending \"…\" | length", ["11", "11", "12", "12", "11", "11"]),
        ("x = \"seed\" if {note} has word \"seed\" else \"\"", ["", "", "", "", "seed", ""]),
    ] {
        assert_eq!(cells("parcels.csv", cut, &parcels), wanted, "{cut}");
    }
}

/// Whatever the cut, rows in are rows out, and the summary's counts add up.
#[test]
fn counts_add_up() {
    let folder = Folder::demo();
    for (table, rows, cut) in [
        ("lots.csv", 320, "x = {lot} | part 4 of 5 by \"-\""),
        ("lots.csv", 320, "x = {old_ref} | number"),
        ("keepers.csv", 260, "x = {email} | after \"@\" else \"none\""),
        ("parcels.csv", 240, "x = {note} | number 3"),
        ("genera.csv", 16, "x = {name} | first 3 | upper if {code} is upper"),
    ] {
        let (out, err, status) = folder.run(&["carve", table, cut, "--findings", "f.csv"], b"");
        assert_eq!(status, 0, "{err}");
        assert_eq!(csv::Reader::from_reader(out.as_slice()).records().count(), rows, "{cut}");
        let line = err.lines().find(|line| line.starts_with("  x ")).unwrap();
        // In brackets stands how many of the blank cells are missing.
        let figures: Vec<usize> = line
            .split_whitespace()
            .skip(1)
            .map_while(|word| word.trim_matches(['(', ')']).parse().ok())
            .collect();
        assert_eq!(figures[0] + figures[1], rows, "{cut}: filled and blank");
        let findings = csv::Reader::from_path(folder.path("f.csv"))
            .unwrap()
            .into_records()
            .map(Result::unwrap)
            .collect::<Vec<_>>();
        let missing = findings.iter().filter(|finding| &finding[4] == "missing").count();
        assert_eq!(missing, figures.get(2).copied().unwrap_or(0), "{cut}: missing");
        let noted = findings.iter().filter(|finding| &finding[4] == "blank").count();
        assert!(
            missing + noted >= figures[1] || cut.contains("else"),
            "{cut}: every blank cell has a finding or a note"
        );
        for finding in &findings {
            let (row, line): (usize, usize) =
                (finding[0].parse().unwrap(), finding[1].parse().unwrap());
            assert!(row >= 1 && row <= rows && line > row, "{cut}");
        }
    }
}

/// What an analyst is asked for: the cells of a column, the cuts, and for each cell what comes out,
/// with a `!` where the row has a finding.
#[test]
fn columns_of_codes_are_taken_apart() {
    type Job = (&'static [&'static str], &'static [&'static str], &'static [&'static str]);
    let jobs: &[Job] = &[
        // Product codes: every section by name, one that some lack, one that is read from after.
        (
            &["SB-1204-XL-red", "SB-77-M", "sb-1204-s-blue", "1204-XL", "SB--XL-red"],
            &[
                "kind, number, size, colour? = {v} | parts by \"-\"",
                "last = {v} | part -1 by \"-\" | upper",
            ],
            &[
                "SB|1204|XL|red|RED",
                "SB|77|M||M",
                "sb|1204|s|blue|BLUE",
                "1204|XL|||XL !",
                "SB||XL|red|RED !",
            ],
        ),
        // Prefixes and suffixes, whatever their length.
        (
            &["LOT004711-A", "LOT12", "lot00099-C", "B-LOT7"],
            &[
                "n = {v} | drop leading \"LOT\" ignoring case | before \"-\" or end | check is digits | pad left 6 with \"0\"",
            ],
            &["004711", "000012", "000099", "00000B !"],
        ),
        // Codes by position, zeros in front kept, with a check of each piece.
        (
            &["2026FH00417", "2026FH0417", "26FH00417", "2O26FH00417"],
            &[
                "year = {v} | first 4 | check is digits saying \"no year\"",
                "house = {v} | chars 5..6 | check is letters",
                "n = {v} | last 5",
            ],
            &["2026|FH|00417", "2026|FH|H0417", "26FH|00|00417 !", "2O26|FH|00417 !"],
        ),
        // Employee identifiers: a grade before a number, in any case; those of old written with a
        // slash, or the number alone.
        (
            &["R4-48008-FIELD", "r4/48008/field", "R11-00042-GATE-2", "48008"],
            &[
                "grade = {v} | part 1 by any of \"-/\" | upper if {v} has any of \"-/\" else \"R?\"",
                "id = {v} | block 2 of digits else digits",
            ],
            &["R4|48008", "R4|48008", "R11|00042", "R?|48008"],
        ),
        // E-mail addresses.
        (
            &[
                "Ada.Penn@North.fernhollow.example",
                "ada+lists@fernhollow.example",
                "ada.penn@",
                "@fernhollow.example",
                "a@b@c.example",
            ],
            &[
                "user, domain = {v} | halves at last \"@\" | lower",
                "first? = {v} | before \"@\" | before any of \".+\"",
                "top? = {v} | after last \".\"",
                "ok = \"yes\" if {v} is email else \"no\"",
            ],
            &[
                "ada.penn|north.fernhollow.example|Ada|example|yes",
                "ada+lists|fernhollow.example|ada|example|yes",
                "ada.penn||ada|penn@|no !",
                "|fernhollow.example||example|no !",
                "a@b|c.example||example|no",
            ],
        ),
        // Numbers in references: the one after a word, the last, all together; what is no number
        // of its own.
        (
            &[
                "Invoice 20417, 12 trays, EUR 1,250.50",
                "REF: 00417 (see 12)",
                "12 trays of A-7",
                "none",
            ],
            &[
                "ref? = {v} | after word \"invoice\" ignoring case | number next else {v} | after word \"ref\" ignoring case | digits",
                "last? = {v} | number last",
                "all? = {v} | numbers | join \"+\"",
            ],
            &["20417|1250.50|20417+12+1250.50", "0041712|12|417+12", "|7|12+7", "||"],
        ),
        // Texts that are one thing or another, by what they look like.
        (
            &["FH-2019-00417", "00417", "FH 2019 417", "?"],
            &[
                "n = part 3 by \"-\" if {v} is shape \"[U2]-[d4]-[d5]\" else {v} | last 5 if {v} is digits else {v} | number 2 | pad left 5 with \"0\" else missing \"no lot\"",
            ],
            &["00417", "00417", "00417", " !"],
        ),
        // What stands in brackets and quotes, nested ones too.
        (
            &["oak (kp: I. Moran (north))", "\"cold\" box", "[a][b]", "no"],
            &[
                "in = {v} | between \"(\" and matching \")\" else between \"\\\"\" and \"\\\"\" else between 2nd \"[\" and \"]\" else \"-\"",
            ],
            &["kp: I. Moran (north)", "cold", "b", "-"],
        ),
        // Characters as a person counts them.
        (
            &["Žďár-é1", "日本-2", "👩‍🌾x-3", "e\u{301}a-4"],
            &[
                "two = {v} | first 2",
                "length = {v} | length",
                "up = {v} | before \"-\" | upper | pad right 5 with \".\"",
            ],
            &["Žď|7|ŽĎÁR.", "日本|4|日本...", "👩‍🌾x|4|👩‍🌾X...", "e\u{301}a|4|E\u{301}A..."],
        ),
        // Dates of several ways of writing as one.
        (
            &["05.11.2026", "2026-11-05", "5 Nov 2026", "31.02.2026"],
            &[
                "day = {v} | date \"DD.MM.YYYY\" else date \"YYYY-MM-DD\" else date \"D MMM YYYY\" else \"\"",
            ],
            &["2026-11-05", "2026-11-05", "2026-11-05", ""],
        ),
    ];
    let mut wrong = Vec::new();
    for (cells, cuts, wanted) in jobs {
        let mut table = csv::Writer::from_writer(Vec::new());
        table.write_record(["v"]).unwrap();
        cells.iter().for_each(|cell| table.write_record([cell]).unwrap());
        let folder = Folder::with(&[]);
        folder.write("t.csv", &table.into_inner().unwrap());
        let args =
            [&["carve", "t.csv", "-c", "v", "--only", "-q", "--findings", "f.csv"], *cuts].concat();
        let (out, err, status) = folder.run(&args, b"");
        if status != 0 {
            wrong.push(format!("{cuts:?}\n  {err}"));
            continue;
        }
        let findings = csv::Reader::from_path(folder.path("f.csv"))
            .unwrap()
            .into_records()
            .map(Result::unwrap)
            .collect::<Vec<_>>();
        let has_finding = |row: usize| {
            findings.iter().any(|finding| {
                finding[0] == row.to_string() && !matches!(&finding[4], "blank" | "doubtful")
            })
        };
        let given =
            csv::Reader::from_reader(out.as_slice()).into_records().map(Result::unwrap).zip(1..);
        let given = given.map(|(record, row)| {
            record.iter().collect::<Vec<_>>().join("|") + if has_finding(row) { " !" } else { "" }
        });
        let given: Vec<String> = given.collect();
        if given != *wanted {
            wrong.push(format!("{cuts:?}\n  {given:?}\nnot\n  {wanted:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
