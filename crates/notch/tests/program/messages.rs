//! Everything that stops the work says what, where and what to do.

use super::support::Folder;

#[test]
fn cuts_that_cannot_be_read_or_used() {
    let mut folder = Folder::with(&[("t.csv", "lot,name,name,\nFH-1,a,b,c\n")]);
    for cut in [
        "part 2 by \"-\"",
        "year = {lot} | part 2 by -",
        "year = {lot} | prt 2 by \"-\"",
        "year = {lot} | part 0 by \"-\"",
        "year = {lot} | part 2 by \"\"",
        "year = {lot} | part 5 of 4 by \"-\"",
        "year = {lot} | chars 5..3",
        "year = {lot} | chars 0..3",
        "year = {lot} | chars 1..3 for 4",
        "year = {lot} | first",
        "year = {lot} | first -2",
        "year = {lot} | chars 1-3",
        "year = {lot} | date \"dd.mm.yyyy\"",
        "year = {lot} | check is \"SK\" or \"LI\"",
        "year = \"{lot | after \", \"}\"",
        "year = {lot} | pad left 8 with \"00\"",
        "year = {lot} | pad lft 8",
        "year = {lot} | after 2nd",
        "year = {lot} | before “-”",
        "year = {lot} | before \"\\d\"",
        "year = {lot} | before \"-",
        "year = {lot | first 2",
        "year = {lot} first 2",
        "year = {lot} | first 2 pad left 3",
        "year = {lot} | {name}",
        "year = {lot} | first 2 or \"x\"",
        "year = {lot} | before \"-\" or \"\"",
        "year = \"a\" if {lot} is \"A\" or \"B\"",
        "year = \"a\" if is \"A\"",
        "year = \"a\" if {lot} is odd",
        "year = {lot} | number 0",
        "year = {lot} | match /(/",
        "year = {lot} | match /a/ group 1",
        "year = {lot} | match /a/q",
        "year = {lot} | replace /(a)/ with \"$2\"",
        "year = {lot} | date \"DD.MM\"",
        "year = {lot} | date \"DD.MM.YYYY hh\"",
        "year = {lot} | clip 2 ending \"...\"",
        "year = {lot} | between \"a\" and matching \")\"",
        "year = {lot} | number decimal \";\"",
        "year = {lot} | trim if it is shape \"[x4]\"",
        "year = {lot} | trim if it value 9..3",
        "year = {lot} | trim if it later than \"2023-02-30\"",
        "year = {lot} | trim if it is in houses",
        "year = {lot} | keep vowels",
        "year = ({lot} | first 2",
        "year = lot | first 2",
        "year = part 2 by \"-\"",
        "year = {lott} | first 2",
        "year = {name} | first 2",
        "year = {column 9} | first 2",
        "year = \"{lot\" | first 2",
        "year = \"{lot | frist 2}\"",
        "year = {year} | first 2",
        "lot = {lot} | first 2",
        "a, b?, c = {lot} | parts by \"-\"",
        "a, a = {lot} | parts by \"-\"",
        "{a} = {lot}",
        "year = ",
        "year = Žďár | first 2",
        "a = {lot} | first 99999999999999999999",
    ] {
        folder.show(&["carve", "t.csv", cut]);
    }
    insta::assert_snapshot!(folder.screen.replace("$ notch carve t.csv ", "$ "));
}

#[test]
fn hints_are_said_and_the_work_goes_on() {
    let mut folder = Folder::with(&[("t.csv", "lot\nFH-1\n")]);
    folder.show(&[
        "carve",
        "t.csv",
        "a = {lot} | after 2th \"-\" else last 1 | pad left 3 with \"0\"",
    ]);
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn tables_and_files_that_cannot_be_used() {
    let mut folder = Folder::with(&[
        ("lots.csv", "lot,n\nFH-1,2\n"),
        ("header.csv", "lot,n\n"),
        ("empty.csv", ""),
        ("blank.csv", "\n \n"),
        ("few.csv", "lot,n\nFH-1,2\nFH-2\n"),
        ("many.csv", "lot,n\nFH-1,2,3\n"),
        ("unclosed.csv", "lot,n\nFH-1,2\n\"FH-2,3\nFH-3,4\n"),
        ("ends.csv", "lot,n\nFH-1,2,\nFH-2,3,\n"),
        ("doubled.csv", "lot,n,n,\nFH-1,2,3,4\n"),
        ("headless.csv", "FH-1,2,red\nGR-12,3,blue\n"),
        ("quote.csv", "lot,\"note\nFH-1,ok\nFH-2,ok\n"),
        ("carets.csv", "lot^keeper^box\nFH-1^Moran^3\nFH-2^Ives^4\n"),
    ]);
    folder.write("bytes.csv", b"lot,n\nFH-1,2\nFH-\xE9,3\n");
    folder.write("utf16.csv", b"\xFF\xFEl\0o\0t\0\n\0G\0R\0-\x001\0");
    folder.write("book.xlsx", b"PK\x03\x04...");
    std::fs::create_dir(folder.path("folder")).unwrap();
    let cut = "a = {lot} | first 2";
    for table in [
        "none.csv",
        "folder",
        "empty.csv",
        "blank.csv",
        "header.csv",
        "few.csv",
        "many.csv",
        "unclosed.csv",
        "bytes.csv",
        "utf16.csv",
        "book.xlsx",
        "ends.csv",
        "doubled.csv",
        "quote.csv",
        "carets.csv",
    ] {
        folder.show(&["carve", table, cut]);
    }
    folder.show(&["carve", "quote.csv", cut, "--rejects", "odd.csv"]);
    folder.show(&["check", "quote.csv", cut]);
    folder.show(&["carve", "carets.csv", "-c", "lot", "a = first 2"]);
    folder.show(&["carve", "lots.csv", "--from", "lines", "--no-header", "a = {line} | first 2"]);
    folder.show(&["carve", "headless.csv", "a = {column 1} | first 2"]);
    folder.show(&["carve", "lots.csv"]);
    folder.show(&["carve", "lots.csv", "-c", "lt", "a = first 2"]);
    folder.show(&["carve", "lots.csv", cut, "-o", "lots.csv"]);
    folder.show(&["carve", "lots.csv", cut, "-o", "x.csv", "--rejects", "./x.csv"]);
    folder.write("jig.toml", b"[cuts]\na = '{lot} | first 2'\n");
    folder.show(&["carve", "lots.csv", "-j", "jig.toml", "-o", "jig.toml"]);
    folder.show(&["carve", "lots.csv", cut, "-o", "nowhere/x.csv"]);
    folder.show(&["carve", "lots.csv", cut, "-o", "folder"]);
    folder.show(&["carve", "lots.csv", cut, "--columns", "lot,b"]);
    folder.show(&["carve", "lots.csv", cut, "--replace", "lot"]);
    folder.show(&["carve", "unclosed.csv", cut, "--rejects", "odd.csv", "--findings", "f.csv"]);
    folder.show_file("odd.csv");
    folder.show_file("f.csv");
    insta::assert_snapshot!(folder.screen);
}

/// Characters that turn a line round, start a command of the terminal or do not show are drawn
/// wherever a person reads them.
#[test]
fn nothing_unseen_reaches_the_screen() {
    const TURN: &str = "\u{202e}";
    let (file, other, column, jig) = (
        format!("a{TURN}.csv"),
        format!("a{TURN}2.csv"),
        format!("l{TURN}ot"),
        format!("jig{TURN}.toml"),
    );
    let table = format!("{column},n\nA{TURN}B-1\u{1b}[31m,2\nA\u{ad}B,3\n \u{200b}X-9,4\n");
    let folder = Folder::with(&[
        (&file, &table),
        (&other, &table),
        (
            &jig,
            &format!(
                "title = \"of{TURN}it\"\n[lists]\n\"h{TURN}\" = [\"a{TURN}b\"]\n[columns]\n\"{column}\" = {{ check = 'has no \"{TURN}\"' }}\n[cuts]\n\
                 '\"x{TURN}\"' = '{{{column}}} | after \"{TURN}\"'\n[checks]\n\"a {TURN} check\" = '{{n}} is \"{TURN}\"'\n"
            ),
        ),
    ]);
    let (many, cut) = (
        format!("a{TURN}*.csv"),
        format!("\"x{TURN}\" = {{{column}}} | after \"-\" | check has \"{TURN}\""),
    );
    for args in [
        &["survey", &file][..],
        &["survey", &file, "-c", &column],
        &["survey", &many, "-c", &column],
        &[
            "carve",
            &file,
            &cut,
            "-o",
            &format!("out{TURN}.csv"),
            "--findings",
            &format!("f{TURN}.csv"),
        ],
        &["carve", &many, &cut, "-o", "out.csv"],
        &["carve", &file, &cut, "--preview"],
        &["carve", &file, &cut, "--to", "aligned"],
        &["carve", &file, "-j", &jig, "-o", "out2.csv"],
        &["carve", &format!("none{TURN}.csv"), &cut],
        &["carve", &file, &format!("x = {{l{TURN}t}}")],
        &["carve", &file, &cut, "-o", "."],
        &["check", &file, &cut],
        &["check", &many, "-j", &jig],
        &["compare", &file, "-c", &column, "first 3", &format!("before \"{TURN}\"")],
        &["trace", "-t", &file, &cut],
        &["trace", "-t", &file, "-j", &jig],
        &["jig", "show", &jig],
        &["words", TURN],
    ] {
        let (out, err, _) = folder.run(args, b"");
        let screen = format!("{}{err}", String::from_utf8(out).unwrap());
        let unseen = screen.find(['\u{202e}', '\u{1b}', '\u{ad}', '\u{200b}']);
        assert!(!screen.is_empty() && unseen.is_none(), "{args:?}\n{screen:?}");
    }
}
