//! Looking before cutting, and two cuts side by side.

use super::support::Folder;

#[test]
fn a_table_and_a_column_are_surveyed_and_the_proposed_jig_runs() {
    let mut folder = Folder::demo();
    folder.show(&["survey", "lots.csv"]);
    folder.show(&["survey", "lots.csv", "-c", "lot", "--save-jig", "proposed.toml"]);
    folder.show_file("proposed.toml");
    let (out, _, status) = folder.run(&["check", "lots.csv", "-j", "proposed.toml"], b"");
    assert_eq!(status, 1, "{}", String::from_utf8_lossy(&out));
    folder.show(&["survey", "lots.csv", "-c", "lott"]);
    folder.show(&["survey", "lots.csv", "-c", "lot", "--save-jig", "lots.csv"]);
    folder.show(&["survey", "genera.csv", "--save-jig", "all.toml"]);
    folder.show(&["carve", "genera.csv", "-j", "all.toml", "--preview", "2", "--quiet"]);
    folder.write("blank.csv", b"a,b\n");
    folder.show(&["survey", "blank.csv"]);
    folder.show(&["survey", "blank.csv", "-c", "b"]);
    let (json, _, status) = folder.run(&["survey", "keepers.csv", "--json"], b"");
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    let looks: Vec<&str> = json["columns"].as_array().unwrap().iter().map(|column| column["looks_like"].as_str().unwrap()).collect();
    assert_eq!((status, looks[2], looks[3]), (0, "e-mail address", "date DDMMYYYY"));
    insta::assert_snapshot!(folder.screen);
}

#[test]
fn two_cuts_are_compared() {
    let mut folder = Folder::demo();
    folder.show(&["compare", "lots.csv", "-c", "lot", "part 4 by \"-\"", "chars 13..17", "--all-to", "differ.csv"]);
    folder.show_file("differ.csv");
    folder.show(&["compare", "lots.csv", "{lot} | part 5 by any of \"-/\" | trim", "{digit}", "-j", "lots.toml", "--examples", "1"]);
    folder.show(&["compare", "lots.csv", "{lot}", "{lot}"]);
    folder.show(&["compare", "lots.csv", "a, b = {lot} | parts by \"-\"", "{lot}"]);
    folder.show(&["compare", "lots.csv", "{lot}", "{lto}"]);
    folder.show(&["compare", "lots.csv", "{lot}", "{shelf}", "--all-to", "lots.csv"]);
    let (json, _, status) = folder.run(&["compare", "lots.csv", "{lot} | first 2", "{lot} | first 2 | upper", "--json"], b"");
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    assert_eq!((status, &json["different"], &json["shapes"][0]["examples"][0]["second"]), (1, &2.into(), &"GR".into()));
    insta::assert_snapshot!(folder.screen);
}
