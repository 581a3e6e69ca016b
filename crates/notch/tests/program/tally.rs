//! Tables in parts: each counted by itself, and told as the whole table would be.

use insta::assert_snapshot;

use crate::support::Folder;

/// Writes a table in parts that end before these rows and after the last one; returns their names.
fn in_parts(folder: &Folder, name: &str, table: &str, ends: &[usize]) -> Vec<String> {
    let (head, rows) = table.split_once('\n').unwrap();
    let rows: Vec<&str> = rows.lines().collect();
    let places: Vec<usize> = [&[0], ends, &[rows.len()]].concat();
    let written = places.windows(2).enumerate().map(|(n, part)| {
        let csv = format!("{name}-{n}.csv");
        let text = format!("{head}\n{}\n", rows[part[0]..part[1]].join("\n"));
        folder.write(&csv, text.trim_end().as_bytes());
        csv
    });
    written.collect()
}

/// Runs a command on each part with a tally, and puts them together.
fn put_together(folder: &Folder, parts: &[String], command: &[&str]) -> String {
    let mut tally = vec!["tally".to_owned()];
    for csv in parts {
        let json = csv.replace(".csv", ".json");
        let args = [&command[..1], &[csv.as_str()], &command[1..], &["--tally", &json]].concat();
        folder.run(&args, b"");
        tally.push(json);
    }
    let (out, err, status) = folder.run(&tally.iter().map(String::as_str).collect::<Vec<_>>(), b"");
    assert!(status < 2, "{err}");
    String::from_utf8(out).unwrap()
}

/// A table in parts, each counted by itself, is told as the whole table would be: in any order, each
/// part once.
#[test]
fn parts_of_a_table_are_put_together() {
    let folder = Folder::demo();
    let table = folder.read("lots-may.csv");
    // What only all rows tell is asked of none of them.
    let jig = folder.read("lots.toml").replace(", unique = true", "");
    folder.write("parts.toml", jig.as_bytes());
    let mut names = Vec::new();
    for csv in in_parts(&folder, "may", &table, &[50, 57, 57]) {
        let tally = csv.replace(".csv", ".json");
        folder.run(&["check", &csv, "-j", "parts.toml", "--tally", &tally], b"");
        names.push(tally);
    }
    let json = |args: &[&str]| -> serde_json::Value {
        let (out, err, status) = folder.run(&[args, &["--json"]].concat(), b"");
        assert_eq!(status, 1, "{err}");
        let mut report: serde_json::Value = serde_json::from_slice(&out).unwrap();
        strip(&mut report);
        report
    };
    let names: Vec<&str> = names.iter().map(String::as_str).collect();
    let backwards: Vec<&str> = names.iter().rev().copied().collect();
    let whole = json(&["check", "lots-may.csv", "-j", "parts.toml"]);
    assert!(whole["findings"].as_array().unwrap().len() > 4);
    assert_eq!(json(&[&["tally"], &names[..]].concat()), whole);
    assert_eq!(json(&[&["tally"], &backwards[..]].concat()), whole);
    let (out, ..) = folder.run(&[&["tally"], &backwards[..]].concat(), b"");
    assert_snapshot!(String::from_utf8(out).unwrap());
    // A damaged file is told as such.
    let damage = [
        ("\"cut\":0", "\"cut\":99"),
        ("\"first_line\":13", "\"first_line\":18446744073709551615"),
        ("\"filled\":49", "\"filled\":18446744073709551615"),
        ("\"read\":50", "\"read\":18446744073709551615"),
    ];
    let good = folder.read(names[0]);
    for (right, wrong) in damage {
        assert!(good.contains(right), "{right}");
        folder.write("damaged.json", good.replace(right, wrong).as_bytes());
        let (_, said, status) = folder.run(&["tally", "damaged.json"], b"");
        assert!(status == 2 && said.contains("damaged.json is no tally: "), "{wrong}: {said}");
    }
    // What cannot be put together.
    folder.run(&["survey", "lots-may.csv", "--tally", "glance.json", "--part", "a"], b"");
    for (args, wanted) in [
        (vec!["tally", names[0], names[1], names[0]], "are both of the part may-0.csv."),
        (vec!["tally", "lots.toml"], "lots.toml is no tally"),
        (vec!["tally", "nope.json"], "nope.json cannot be read"),
        (
            vec!["check", "lots-may.csv", "-j", "lots.toml", "--tally", "u.json"],
            "is known of all rows only",
        ),
        (
            vec!["check", "lots-may.csv", "-j", "parts.toml", "--gather", "u.txt"],
            "asks nowhere whether a text is unique",
        ),
        (
            vec!["check", "lots-may.csv", "-j", "lots.toml", "--twice", "parts.toml"],
            "line 1 of parts.toml was not written by --gather for this jig.",
        ),
        (vec!["survey", "lots-may.csv", "-c", "lot", "--tally", "u.json"], "at a glance"),
        (vec!["tally", "glance.json", names[0]], "glance.json is of notch survey"),
        (vec!["tally", "glance.json", "--drift", "1"], "these are tallies of a survey"),
    ] {
        let (_, said, status) = folder.run(&args, b"");
        assert!(status == 2 && said.contains(wanted), "{said}");
    }
    let other = ["check", "may-1.csv", "-c", "lot", "a = first 2", "--tally", "other.json"];
    folder.run(&other, b"");
    let (_, said, status) = folder.run(&["tally", names[0], "other.json"], b"");
    assert!(status == 2 && said.contains("by different jigs"), "{said}");
}

/// Takes away what a part cannot know: lines, the rows of examples, the name of the table, and the
/// drift of layouts, for which the table is read again.
fn strip(of: &mut serde_json::Value) {
    match of {
        serde_json::Value::Object(object) => {
            for key in ["first_line", "file", "line", "row", "table", "drift", "reason_line"] {
                object.remove(key);
            }
            object.values_mut().for_each(strip);
        }
        serde_json::Value::Array(array) => array.iter_mut().for_each(strip),
        _ => {}
    }
}

/// The summary of what carve has done is that of one run, but for the places of lines.
#[test]
fn what_carve_has_written_is_put_together() {
    let folder = Folder::demo();
    let parts = in_parts(&folder, "may", &folder.read("lots-may.csv"), &[20, 60]);
    let jig = folder.read("lots.toml").replace(", unique = true", "");
    folder.write("parts.toml", jig.as_bytes());
    let command = ["carve", "-j", "parts.toml", "-o", "out.csv", "--rejects", "odd.csv"];
    assert_snapshot!(put_together(&folder, &parts, &command));
}

/// The overview of parts is that of the whole: counts of all texts, also where they are too many to
/// be counted one by one, and what it looks like by those of the first rows.
#[test]
fn surveys_of_parts_are_put_together() {
    let folder = Folder::demo();
    let many: String = (0..60_000).fold("id,code,note\n".to_owned(), |table, n| {
        table + &format!("{n},GR-{}-{:05},{}\n", 2000 + n % 30, n % 7919, ["", "dry", "wet"][n % 3])
    });
    folder.write("many.csv", many.as_bytes());
    for (name, ends) in
        [("lots-may", vec![7, 50, 50]), ("keepers", vec![100]), ("many", vec![20_000, 59_000])]
    {
        let parts = in_parts(&folder, name, &folder.read(&format!("{name}.csv")), &ends);
        let together = put_together(&folder, &parts, &["survey"]);
        let (whole, ..) = folder.run(&["survey", &format!("{name}.csv")], b"");
        let whole = String::from_utf8(whole).unwrap();
        let together = together.replace(&format!("{} parts", parts.len()), &format!("{name}.csv"));
        // Of long parts more rows are looked at.
        let counts = |text: &str| -> Vec<String> {
            let lines = text.lines().map(str::trim_end).filter(|line| {
                !line.is_empty() && !line.contains("is told by") && !line.starts_with("More about")
            });
            lines.map(str::to_owned).collect()
        };
        assert_eq!(counts(&together), counts(&whole));
    }
    folder.run(&["survey", "lots-may-1.csv", "--tally", "one.json"], b"");
    assert_snapshot!(folder.said(&["tally", "one.json", "--json"]));
    let damaged = folder.read("one.json").replace("\"blank\":0", "\"blank\":999");
    folder.write("damaged.json", damaged.as_bytes());
    let (_, said, status) = folder.run(&["tally", "damaged.json"], b"");
    assert!(status == 2 && said.contains("damaged.json is no tally: "), "{said}");
}

/// What is unique in all parts together is found by gathering their texts first.
#[test]
fn parts_are_asked_what_is_unique_in_all_of_them() {
    let folder = Folder::demo();
    let table = folder.read("lots-may.csv");
    let parts = in_parts(&folder, "may", &table, &[20, 60]);
    let mut lines = Vec::new();
    for csv in &parts {
        let gathered = csv.replace(".csv", ".txt");
        let said = folder.said(&["check", csv, "-j", "lots.toml", "--gather", &gathered]);
        assert!(said.contains("that must be unique") && said.ends_with("status 0\n"), "{said}");
        lines.extend(folder.read(&gathered).lines().map(str::to_owned));
    }
    lines.sort();
    let twice: Vec<&str> =
        lines.windows(2).filter(|pair| pair[0] == pair[1]).map(|pair| &*pair[0]).collect();
    assert!(!twice.is_empty());
    folder.write("twice.txt", format!("{}\n", twice.join("\n")).as_bytes());
    let together =
        put_together(&folder, &parts, &["check", "-j", "lots.toml", "--twice", "twice.txt"]);
    let (whole, ..) = folder.run(&["check", "lots-may.csv", "-j", "lots.toml"], b"");
    // Rows and lines are those of their part: the figures are compared, and every reason.
    let figures = |text: &str| -> Vec<String> {
        let text = text.replace(" Every finding with its row: --findings FILE.", "");
        let lines = text.lines().filter(|line| !line.contains("line ") && !line.contains("row "));
        lines.map(|line| line.replace("3 parts", "lots-may.csv")).collect()
    };
    assert_eq!(figures(&together), figures(&String::from_utf8(whole).unwrap()));
    assert!(together.contains("same as another row"), "{together}");
}
