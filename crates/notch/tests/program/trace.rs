use super::support::Folder;

#[test]
fn cuts_are_drawn_step_by_step() {
    let mut folder = Folder::with(&[("t.csv", "lot,n\nFH-1,2\nGR-2,3\nml/3,4\n,5\n")]);
    folder.write("jig.toml", b"[cuts]\nhouse = '{lot} | first 2'\nnum = '{lot} | number'\n");
    for args in [
        &["trace", "part 4 by \"-\" | pad left 8 with \"0\"", "FH-2019-BRA-00417-7", "FH-2019"][..],
        &["trace", "", "Žďár  日本語\u{a0}e\u{301}\t12\u{200b}"],
        &["trace", "\"lot year\" = part 2 by \"-\"", "FH-19"],
        &["trace", "\"FH\" if {text} has \"=\"", "a=b"],
        &["trace", "a, b? = parts by \"-\" | upper", "ab-cd-ef"],
        &[
            "trace",
            "after last \"-\" | chars -3.. else digits if it length 2 else \"\" then pad left 4 with \"0\"",
            "FH-2019-4",
            "FH12",
            "F1",
        ],
        &["trace", "upper | part 2 by \"-\" | trim | last 2", "aa- bcd -c"],
        &[
            "trace",
            "between \"(\" and \")\" | trim",
            "a long note that goes on and on (kp: I. Moran, who sits at the north slope and has to be wrapped) and on",
        ],
        &[
            "trace",
            "before \"-\" else missing \"no code\"",
            "-t",
            "t.csv",
            "-c",
            "lot",
            "--samples",
            "2",
        ],
        &["trace", "number", "-5", "007", "--json"],
        &["trace", "{num} | pad left 3", "-j", "jig.toml", "-t", "t.csv", "--samples", "1"],
        &["trace", "-j", "jig.toml", "-t", "t.csv", "--samples", "1"],
        &["trace", "-j", "jig.toml", "FH-1"],
        &["trace", "-j", "jig.toml", "-t", "t.csv", "--samples", "1", "--json"],
        &["trace", "prt 4", "x"],
        &["trace", "first 2"],
        &["trace", "first 2", "-t", "t.csv"],
        &["trace", "{lt} | first 2", "-t", "t.csv"],
    ] {
        folder.show(args);
    }
    insta::assert_snapshot!(folder.screen);
}
