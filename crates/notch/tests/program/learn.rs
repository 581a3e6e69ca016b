//! Showing what is to come out of a cell, and getting the cut.

use insta::assert_snapshot;

use super::support::Folder;

#[test]
fn cuts_of_the_demo_are_learnt() {
    let mut folder = Folder::demo();
    let lot = "GR-2026-TIL-43546-7";
    folder.show(&["learn", "lots.csv", "-c", "lot", &format!("{lot} => 00043546")]);
    // A question is answered, and then no row is left to ask about.
    folder.show(&[
        "learn",
        "lots.csv",
        "-c",
        "lot",
        &format!("{lot} => 00043546"),
        "FH/2019/BRA/11717/1 => ",
        "TS-2023-BET-65357 => ",
        "--name",
        "serial",
        "--save-jig",
        "lots-cuts.toml",
    ]);
    folder.show(&[
        "learn",
        "lots.csv",
        "-c",
        "lot",
        &format!("{lot} => GR | _ | TIL | \"43546\" |  "),
        "--names",
        "house, _, genus, serial, note?",
    ]);
    folder.show(&[
        "learn",
        "parcels.csv",
        "-c",
        "note",
        "Our preferred courier; REF 73692 rosa from cold room => 73692",
        "--name",
        "ref?",
        "--save-jig",
        "lots-cuts.toml",
    ]);
    folder.show_file("lots-cuts.toml");
    folder.show(&["jig", "show", "lots-cuts.toml"]);
    folder.show(&["learn", "parcels.csv", "-c", "charge", "6.084,41- EUR => -6084.41"]);
    folder.show(&["learn", "keepers.csv", "-c", "name", "Dr. Iris Moran => Moran", "--json"]);
    folder.show(&["learn", "AB-12 => 12", "CD-7 => 7"]);
    insta::assert_snapshot!(folder.screen);
}

/// Lots, of which somebody has typed some serials by hand, two of them wrongly.
fn typed_by_hand() -> String {
    let mut table = String::from("lot,mine\n");
    for n in 0..60 {
        let serial = 10_000 + n * 7919 % 90_000;
        let typed = match n {
            12 => "19999".to_owned(),
            24 => format!("{}", serial / 10),
            n if n % 3 == 0 => serial.to_string(),
            _ => String::new(),
        };
        table.push_str(&format!("FH-{}-BRA-{serial}-{},{typed}\n", 2015 + n % 9, n % 10));
    }
    table
}

#[test]
fn typing_errors_are_told_where_a_column_was_filled_in() {
    let folder = Folder::with(&[("lots.csv", &typed_by_hand())]);
    assert_snapshot!(folder.said(&["learn", "lots.csv", "-c", "lot", "--like", "mine"]), @r#"
    Cuts that give every example, with their share of the 60 filled rows of lot:
      100.0%  part 4 of 5 by "-"  [d5] 60

    18 of 20 rows filled in in mine are the same.
    2 rows probably mistaken:
      row  line  cell                 stands there  the cut gives
       13    14  FH-2018-BRA-15028-2  19999         15028
       25    26  FH-2021-BRA-20056-4  2005          20056

    In all 60 rows these agree.

    To use it:
      notch carve lots.csv -c lot 'piece = part 4 of 5 by "-"'
    status 0
    "#);
    let (out, _, status) =
        folder.run(&["learn", "lots.csv", "-c", "lot", "--like", "mine", "--json"], b"");
    let told: serde_json::Value = serde_json::from_slice(&out).unwrap();
    assert_eq!(status, 0);
    assert_eq!(told["like"]["filled"], 20);
    assert_eq!(told["like"]["same"], 18);
    assert_eq!(told["like"]["differ"][1]["gives"], "20056");
    assert_eq!(told["cuts"][0]["fits"], 60);
}

#[test]
fn wrong_questions_are_told_from_those_without_an_answer() {
    let folder = Folder::with(&[
        (
            "lots.csv",
            "lot,house\nGR-2026-TIL,Greenrow\nFH-2019-BRA,Fernhollow\nML-2020-ACE,Millow\n",
        ),
        ("blank.csv", "lot\n"),
    ]);
    let learn =
        |examples: &[&str]| folder.said(&[&["learn", "lots.csv", "-c", "lot"], examples].concat());
    assert_snapshot!(learn(&[]), @"
    Stopped: there is no example.
    Show what is to come out of a cell: notch learn lots.csv -c lot 'GR-2026-TIL => 2026'.
    ");
    assert_snapshot!(learn(&["GR-2026-TIL"]), @"
    Stopped: this example cannot be used.

        GR-2026-TIL
        ‾‾‾‾‾‾‾‾‾‾‾

    There is no `=>` in this example.
    An example is 'CELL => PIECE', for instance 'GR-2026-TIL => 2026'.
    ");
    assert_snapshot!(learn(&["GR-2026-TIL => 2026 => GR"]), @r#"
    Stopped: this example cannot be used.

        GR-2026-TIL => 2026 => GR
                            ‾‾

    There are two `=>` in this example, so it is not clear what the cell is.
    Put the side that holds one in quotes: '"a => b" => a'.
    "#);
    assert_snapshot!(learn(&["\"GR-2026-TIL => 2026"]), @r#"
    Stopped: this example cannot be used.

        "GR-2026-TIL => 2026
        ‾

    The quote " is left open.
    Close it; a quote that belongs to the text is written within the other kind, or as \".
    "#);
    assert_snapshot!(learn(&["GR-2026-TIL => 2026", "GR-2026-TIL => GR"]), @"
    Stopped: two examples contradict each other: GR-2026-TIL => 2026 and GR-2026-TIL => GR.
    One cell has one piece; take one of them out.
    ");
    assert_snapshot!(learn(&["GR-2026-TIL => GR", "--names", "house,year"]), @"
    Stopped: this example cannot be used.

        GR-2026-TIL => GR
                    ‾‾‾‾‾

    There is one piece for 2 names.
    Divide them by bars: 'GR-2026 => GR | 2026'. A bar that is text stands in quotes.
    ");
    assert_snapshot!(learn(&["GR-2026-TIL => 2062"]), @"
    No cut makes this piece of its cell: GR-2026-TIL => 2062
    The nearest that stands there is 2026.
    status 1
    ");
    assert_snapshot!(learn(&["GR-2026-TIL => Greenrow"]), @"
    No cut makes this piece of its cell: GR-2026-TIL => Greenrow
    It stands in house of that row: learn from that column, -c house.
    status 1
    ");
    assert_snapshot!(learn(&["GR-2026-TIL => 2026", "FH-2019-BRA => FH", "ML-2020-ACE => 2020"]), @r#"
    No one cut gives all examples. The most, 2 of 3, are given by
      part 2 of 3 by "-"
    It does not give FH-2019-BRA => FH
    status 1
    "#);
    assert_snapshot!(learn(&["GR-2026-TIL => GR-2026-TIL"]), @"
    A piece that is the whole cell, or nothing, does not say what is to be taken. Show one that is a part of its cell.
    status 1
    ");
    assert_snapshot!(learn(&["XX/99 => 99"]), @"
    Cuts that give every example, with their share of the 3 filled rows of lot:
      100.0%  block 1 of digits  [d4] 3
      100.0%  word last          [U2]-[d4]-[U3] 3
      100.0%  part last by kind  [U3] 3

    They part in line 2:
      GR-2026-TIL
      ‾‾‾‾‾‾‾‾‾‾‾
    Which is right? Run it with the answer:
      2026         notch learn lots.csv -c lot 'XX/99 => 99' 'GR-2026-TIL => 2026'
      GR-2026-TIL  notch learn lots.csv -c lot 'XX/99 => 99' 'GR-2026-TIL => GR-2026-TIL'
      TIL          notch learn lots.csv -c lot 'XX/99 => 99' 'GR-2026-TIL => TIL'

    To use it:
      notch carve lots.csv -c lot 'piece = block 1 of digits'
    Note: XX/99 is no cell of lot and is written like none of them.
    status 0
    ");
    assert_snapshot!(folder.said(&["learn", "lots.csv", "GR-2026-TIL => 2026"]), @"
    Stopped: it is not said which column the cells stand in.
    Name it: -c COLUMN. The columns are: lot, house.
    ");
    assert_snapshot!(folder.said(&["learn", "lots.csv", "-c", "lto", "GR-2026-TIL => 2026"]), @"
    Stopped: there is no column lto.
    The nearest is lot. The columns are: lot, house.
    ");
    assert_snapshot!(folder.said(&["learn", "blank.csv", "GR-2026-TIL => 2026"]), @"
    Stopped: blank.csv has no text in lot to learn from.
    Name another column: -c COLUMN.
    ");
    assert_snapshot!(folder.said(&["learn", "lots.csv", "-c", "lot", "--like", "lot2"]), @"
    Stopped: there is no column lot2.
    The nearest is lot. The columns are: lot, house.
    ");
    assert_snapshot!(folder.said(&["learn", "GR => "]), @"
    A piece that is the whole cell, or nothing, does not say what is to be taken. Show one that is a part of its cell.
    status 1
    ");
}

/// Examples of a jig are tried before any table is read.
#[test]
fn examples_of_jigs_must_come_out() {
    let folder = Folder::with(&[
        ("lots.csv", "lot\nGR-2026-TIL\n"),
        (
            "good.toml",
            "column = \"lot\"\n[cuts]\n_code = '{lot} | trim'\n\
             house = { cut = '{_code} | first 2', examples = { \" GR-2026\" = \"GR\", \" \" = \"\" } }\n\
             \"year, genus\" = { cut = 'groups /-(\\d+)-(\\w+)/', examples = { \"GR-2026-TIL\" = [\"2026\", \"TIL\"] } }\n\
             label = { cut = '\"{lot | first 2}/{lot | last 3}\" else \"\"', examples = { \"GR-2026-TIL\" = \"GR/TIL\" } }\n",
        ),
        (
            "bad.toml",
            "column = \"lot\"\n[cuts]\nhouse = { cut = 'first 2', examples = { \"GR-2026\" = \"G\",\n  \"FH-2019\" = \"\" } }\n",
        ),
        (
            "odd.toml",
            "column = \"lot\"\n[cuts]\nhouse = { cut = 'first 2', examples = { GR-2026 = 7 } }\n",
        ),
    ]);
    assert_snapshot!(folder.said(&["carve", "lots.csv", "-j", "good.toml", "-q"]), @"
    lot,house,year,genus,label
    GR-2026-TIL,GR,2026,TIL,GR/TIL
    status 0
    ");
    assert_snapshot!(folder.said(&["carve", "none.csv", "-j", "bad.toml"]), @"
    Stopped: in bad.toml, line 3: of “GR-2026” house gives “GR”, and the example says “G”.
    Mend the cut, or the example where it is out of date.

    Also: in bad.toml, line 4: of “FH-2019” house gives “FH”, and the example says nothing.
    Mend the cut, or the example where it is out of date.
    ");
    assert_snapshot!(folder.said(&["check", "lots.csv", "-j", "odd.toml"]), @r#"
    Stopped: odd.toml, line 3: this jig cannot be used.

        house = { cut = 'first 2', examples = { GR-2026 = 7 } }
                                                          ‾

    This is no jig: invalid type: integer `7`, expected the piece in quotes, or several in square brackets.
    A jig is a TOML file. Cuts stand under [cuts], each as name = 'cut'; lists under [lists], as name = ["A", "B"]
    or name = { A = "…" }.
    "#);
}

/// An example may begin with a minus, and stand before or behind options.
#[test]
fn examples_may_begin_with_a_minus() {
    let folder = Folder::with(&[("lots.csv", "at\n\"-31.2, 128.1\"\n\"12.5, -3.25\"\n")]);
    let (out, _, status) =
        folder.run(&["learn", "lots.csv", "-31.2, 128.1 => 128.1", "-c", "at", "--json"], b"");
    let told: serde_json::Value = serde_json::from_slice(&out).unwrap();
    assert_eq!((status, told["cuts"][0]["cut"].as_str()), (0, Some("after \" \"")));
}

/// The commands that are told read the table in the same way.
#[test]
fn commands_that_are_told_can_be_run() {
    let folder = Folder::with(&[("t.txt", "FH-1;a 12\nGR-22;b 7\nML/3;c 55\n")]);
    let reading = ["--separator", ";", "--no-header"];
    let learn = [&["learn", "t.txt", "-c", "1", "--name", "no", "GR-22 => 22"], &reading[..]];
    let said = folder.said(&learn.concat());
    let told = "notch carve t.txt --no-header --separator ';' -c 1 'no = ";
    assert!(said.contains(told), "{said}");
    assert!(
        said.contains("notch learn t.txt --no-header --separator ';' -c 1 --name no"),
        "{said}"
    );
    // Names that are passed over stay where examples have a piece for them.
    let table = "lot\nGR-2026-TIL\nML-2018-ACE\nFH/2019/BRA\n";
    let folder = Folder::with(&[("lots.csv", table)]);
    let names = ["--names", "house, _, genus", "--json"];
    let first = "GR-2026-TIL => GR | 2026 | TIL";
    let learn = [&["learn", "lots.csv", "-c", "lot", first], &names[..]].concat();
    let told: serde_json::Value = serde_json::from_slice(&folder.run(&learn, b"").0).unwrap();
    let answer = told["ask"][0]["examples"][0].as_str().unwrap();
    let again = [&["learn", "lots.csv", "-c", "lot", first, answer], &names[..]].concat();
    assert_eq!(folder.run(&again, b"").2, 0, "{answer}");
}

/// A column that is called like the place of another is read as itself, in a template too.
#[test]
fn a_column_called_like_a_place_is_read_as_itself() {
    let table = "key,column 1\nA-1,FH-2019-BRA\nA-2,GR-2020-TIL\n";
    let folder = Folder::with(&[("t.csv", table)]);
    let (json, _, status) =
        folder.run(&["learn", "t.csv", "-c", "column 1", "FH-2019-BRA => BRA/2019", "--json"], b"");
    assert_eq!(status, 0);
    let found: serde_json::Value = serde_json::from_slice(&json).unwrap();
    let cut = format!("x = {}", found["cuts"][0]["cut"].as_str().unwrap());
    let (made, ..) = folder.run(&["carve", "t.csv", "-c", "column 1", &cut, "-o", "-"], b"");
    assert_eq!(
        String::from_utf8(made).unwrap(),
        "key,column 1,x\nA-1,FH-2019-BRA,BRA/2019\nA-2,GR-2020-TIL,TIL/2020\n"
    );
}
