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
        let record = records.iter().find(|record| record[0] == **row).unwrap_or_else(|| panic!("{row} is not in {table}"));
        record[record.len() - 1].to_owned()
    };
    rows.iter().map(cell).collect()
}

#[test]
fn odd_rows_are_answered_as_the_cut_says() {
    // Rows of lots.csv that are written otherwise than the rest.
    let lots = ["GR-2026-TIL-43546-7", "FH/2019/BRA/11717/1", "gr-2027-ros-67705-9", "TS-2023-BET-65357", "ML-2019-BET-77422-9-B"];
    for (cut, wanted) in [
        ("x = {lot} | first 2", ["GR", "FH", "gr", "TS", "ML"]),
        ("x = {lot} | part 4 by \"-\"", ["43546", "", "67705", "65357", "77422"]),
        ("x = {lot} | part 4 of 5 by \"-\"", ["43546", "", "67705", "", ""]),
        ("x = {lot} | part 4 of 5 by any of \"-/\"", ["43546", "11717", "67705", "", ""]),
        ("x = {lot} | part 4 of 5 by \"-\" else part 4 of 5 by \"/\" else \"?\"", ["43546", "11717", "67705", "?", "?"]),
        ("x = {lot} | block 2 of digits", ["43546", "11717", "67705", "65357", "77422"]),
        ("x = {lot} | after 2nd any of \"-/\" | first 3 | upper", ["TIL", "BRA", "ROS", "BET", "BET"]),
        ("x = {lot} | count of \"-\"", ["4", "0", "4", "3", "5"]),
        ("x = {lot} | match /[A-Z]{2}(?<y>\\d{4})|-(\\d{4})-/ group 2", ["2026", "", "2027", "2023", "2019"]),
        ("x = \"old\" if {lot} is not shape \"[L2]-[d4]-[L3]-[d5]-[d]\" else \"ok\"", ["ok", "old", "ok", "old", "old"]),
        ("x = {shelf} if {lot} starts with \"GR\" ignoring case else {seeds}", ["E1-4", "00861", "C24-9", "307", "53"]),
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
        ("x? = {note} | after word \"ref\" ignoring case | number next", ["", "28300", "73692", "", "", "26315"]),
        ("x? = {note} | before word \"kg\" | number last", ["", "4.9", "", "1.84", "", "28.67"]),
        ("x? = {note} | after last \"EUR\" | number", ["", "", "", "", "45.50", "2538.24"]),
        ("x? = {note} | between \"(kp:\" and \")\" ignoring case | trim", ["", "Mina Thorne", "", "", "", "M. Penn"]),
        ("x? = {note} | between \"[\" and \"]\"", ["Okoro", "", "", "", "", ""]),
        ("x = {note} | numbers | count", ["3", "2", "1", "2", "3", "3"]),
        ("x = {note} | words | pick last", ["Okoro", "Thorne", "room", "boxes", "50", "Penn"]),
        ("x = {note} | clip 12 ending \"…\" | length", ["12", "12", "12", "12", "12", "12"]),
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
        let figures: Vec<usize> = line.split_whitespace().skip(1).map_while(|word| word.parse().ok()).collect();
        assert_eq!(figures[0] + figures[1], rows, "{cut}: filled and blank");
        let findings = csv::Reader::from_path(folder.path("f.csv")).unwrap().into_records().map(Result::unwrap).collect::<Vec<_>>();
        let missing = findings.iter().filter(|finding| &finding[4] == "missing").count();
        assert_eq!(missing, figures.get(2).copied().unwrap_or(0), "{cut}: missing");
        let noted = findings.iter().filter(|finding| &finding[4] == "blank").count();
        assert!(missing + noted >= figures[1] || cut.contains("else"), "{cut}: every blank cell has a finding or a note");
        for finding in &findings {
            let (row, line): (usize, usize) = (finding[0].parse().unwrap(), finding[1].parse().unwrap());
            assert!(row >= 1 && row <= rows && line > row, "{cut}");
        }
    }
}
