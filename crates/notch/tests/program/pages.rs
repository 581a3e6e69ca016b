//! HTML pages: what they say, that it is what `--json` says, and that no cell gets out of its
//! place.

use insta::assert_snapshot;
use serde_json::Value;

use super::support::Folder;

/// The text of a page, a line for each of its elements.
fn text_of(page: &str) -> String {
    let body = page.split_once("<body>").unwrap().1.split_once("<footer>").unwrap().0;
    let mut text = String::new();
    let mut lines = Vec::new();
    for part in body.split_inclusive('>') {
        let (said, tag) = part.split_once('<').unwrap_or((part, ""));
        text.push_str(said);
        let is_block = ["/tr>", "/p>", "/h1>", "/h2>", "/summary>", "/caption>", "/dl>"]
            .iter()
            .any(|end| tag.starts_with(end));
        if is_block {
            lines.push(text.split_whitespace().collect::<Vec<_>>().join(" "));
            text.clear();
        } else if tag.starts_with("/td") || tag.starts_with("/th") {
            text.push_str(" | ");
        }
    }
    lines.retain(|line| !line.is_empty());
    lines.join("\n")
}

/// The page of next month's lots, and every figure of `--json` on it.
#[test]
fn a_check_is_handed_on() {
    let folder = Folder::demo();
    let check = ["check", "lots-may.csv", "-j", "lots.toml"];
    let (_, said, status) =
        folder.run(&[&check[..], &["--page", "may.html", "--day", "31 May"]].concat(), b"");
    assert_eq!(status, 1, "{said}");
    let page = folder.read("may.html");
    assert_snapshot!(text_of(&page));
    let (json, ..) = folder.run(&[&check[..], &["--json"]].concat(), b"");
    let report: Value = serde_json::from_slice(&json).unwrap();
    let text = text_of(&page);
    for finding in report["findings"].as_array().unwrap() {
        let (about, count) = (finding["about"].as_str().unwrap(), &finding["count"]);
        let head = format!("{about}: {count} {}", finding["kind"].as_str().unwrap());
        assert!(text.contains(&head), "{head}");
    }
    for column in report["columns"].as_array().unwrap() {
        let row = format!(
            "{} | {} | {}",
            column["name"].as_str().unwrap(),
            column["filled"],
            column["blank"]
        );
        assert!(text.contains(&row), "{row}");
    }
    // Equal tables give equal pages, over the old one.
    folder.run(&[&check[..], &["--page", "may.html", "--day", "31 May"]].concat(), b"");
    assert_eq!(folder.read("may.html"), page);
    // Without its cells.
    folder.run(&[&check[..], &["--page", "shapes.html", "--no-texts"]].concat(), b"");
    let shapes = folder.read("shapes.html");
    assert!(!shapes.contains("HL-2030-QUE") && shapes.contains("[U2]-[d4]-[U3]-[d5]-[d]"));
    assert!(shapes.contains("the shapes of cells, and no cell"));
}

/// A survey and a comparison: what the pages say, and every figure of `--json` on them.
#[test]
fn a_survey_and_a_comparison_are_handed_on() {
    let folder = Folder::demo();
    let survey = ["survey", "lots.csv", "-c", "lot"];
    let compare = ["compare", "lots.csv", "-c", "lot", "part 4 by \"-\"", "chars 13..17"];
    let mut texts = String::new();
    for (args, name) in [(&survey[..], "survey.html"), (&compare[..], "compare.html")] {
        let (_, said, _) = folder.run(&[args, &["--page", name]].concat(), b"");
        assert!(said.contains(&format!("The page {name} shows this")), "{said}");
        texts.push_str(&format!("== {name}\n{}\n\n", text_of(&folder.read(name))));
        folder.run(&[args, &["--page", "shapes.html", "--no-texts"]].concat(), b"");
        let shapes = folder.read("shapes.html");
        assert!(!shapes.contains("FH/2019/BRA") && shapes.contains("[U2]/[d4]/[U3]/[d5]/[d]"));
    }
    assert_snapshot!(texts);
    let json = |args: &[&str]| -> Value {
        serde_json::from_slice(&folder.run(&[args, &["--json"]].concat(), b"").0).unwrap()
    };
    let notes = ["survey", "parcels.csv", "-c", "note"];
    folder.run(&[&notes[..], &["--page", "notes.html"]].concat(), b"");
    let said = text_of(&folder.read("notes.html"));
    for label in json(&notes)["columns"][0]["labels"].as_array().unwrap() {
        let row = format!(
            "{} | {} | {} |",
            label["texts"],
            label["label"].as_str().unwrap(),
            label["followed_by"].as_str().unwrap()
        );
        assert!(said.contains(&row), "{row}");
    }
    let column = &json(&survey)["columns"][0];
    for shape in column["shapes"].as_array().unwrap() {
        assert!(
            texts.contains(&format!("| {} |", shape["texts"]))
                && texts.contains(shape["shape"].as_str().unwrap())
        );
    }
    for length in column["lengths"].as_array().unwrap() {
        assert!(texts.contains(&format!("{} | {} |", length["length"], length["texts"])));
    }
    let report = json(&compare);
    assert!(texts.contains(&format!(
        "the same in {}, different in {} (",
        report["same"], report["different"]
    )));
    // The whole table, too, and one of very many columns within the bound.
    let (_, said, status) = folder.run(&["survey", "lots.csv", "--page", "all.html"], b"");
    assert_eq!(status, 0, "{said}");
    assert!(text_of(&folder.read("all.html")).contains("320 rows of lots.csv, 5 columns."));
    let names: Vec<String> = (1..=500).map(|n| format!("column_{n}")).collect();
    let row =
        |n: usize| (0..500).map(|m| format!("AB-{}-{n}-{m}", n * m)).collect::<Vec<_>>().join(",");
    let table =
        format!("{}\n{}\n", names.join(","), (1..60).map(row).collect::<Vec<_>>().join("\n"));
    folder.write("wide.csv", table.as_bytes());
    folder.run(&["survey", "wide.csv", "--page", "wide.html"], b"");
    let wide = folder.read("wide.html");
    assert!(
        wide.len() <= 2_000_000 && wide.contains("columns more is told below"),
        "{}",
        wide.len()
    );
}

/// Cells of any kind are text of the page; it asks for nothing and is not larger than it may be.
#[test]
fn no_cell_gets_out_of_its_place() {
    let hostile = "<script>alert(1)</script>\u{202e}\u{0}\u{1b}[31m<img src=x onerror=y>\"'&amp;";
    let mut table = format!("lot,n\n\"{}\",1\n", hostile.replace('"', "\"\""));
    table.push_str(&format!("{},2\n", "x".repeat(1_000_000)));
    (0..20_000).for_each(|n| table.push_str(&format!("bad-{n}-{},3\n", "y".repeat(300))));
    let folder = Folder::with(&[("t.csv", &table), ("other.html", "<p>mine</p>")]);
    let check = ["check", "t.csv", "-c", "lot", "<b> = part 1 by \"-\" | check is digits"];
    let named = ["check", "t.csv", "-c", "lot", "\"<b>\" = part 1 by \"-\" | check is digits"];
    assert_eq!(folder.run(&[&check[..], &["--page", "t.html"]].concat(), b"").2, 2);
    let (_, said, status) = folder.run(&[&named[..], &["--page", "t.html"]].concat(), b"");
    assert_eq!(status, 1, "{said}");
    let page = folder.read("t.html");
    assert!(page.len() <= 2_000_000, "{}", page.len());
    // The one script is that of the page itself.
    assert_eq!(page.matches("<script").count(), 1);
    for raw in ["<script>alert", "<img", "<b>", "\u{202e}", "\u{0}", "\u{1b}"] {
        assert!(!page.contains(raw), "{raw:?}");
    }
    assert!(page.contains("&lt;script&gt;") && page.contains("default-src 'none'"));
    assert!(text_of(&page).contains(" of 20002; all of them: --findings FILE."));
    // What is no page is not written over, and nothing that is read.
    let (_, said, status) = folder.run(&[&named[..], &["--page", "other.html"]].concat(), b"");
    assert_eq!((status, folder.read("other.html").as_str()), (2, "<p>mine</p>"));
    assert!(said.contains("other.html exists and is no page of notch"), "{said}");
    assert_eq!(folder.run(&[&named[..], &["--page", "t.csv"]].concat(), b"").2, 2);
    assert_eq!(folder.run(&[&named[..], &["--page", "none/t.html"]].concat(), b"").2, 2);
}

/// Runs that were remembered stand beside the jig, the last 24 of them, and on the next page.
#[test]
fn earlier_runs_are_handed_on() {
    let folder = Folder::with(&[("lots.toml", "[cuts]\ny = '{lot} | part 2 by \"-\"'\n")]);
    for n in 0..26 {
        let table: String = (0..30).map(|row| if row < n { "GR1\n" } else { "GR-1\n" }).collect();
        folder.write("lots.csv", format!("lot\n{table}").as_bytes());
        folder.run(&["check", "lots.csv", "-j", "lots.toml", "--remember"], b"");
    }
    let kept = folder.read("lots.runs.jsonl");
    assert_eq!(kept.lines().count(), 24);
    assert_eq!(
        kept.lines().next(),
        Some(r#"{"day":null,"rows":30,"rows_with_findings":2,"findings":{"y":2}}"#)
    );
    folder.run(&["check", "lots.csv", "-j", "lots.toml", "--page", "lots.html"], b"");
    let text = text_of(&folder.read("lots.html"));
    let figures: Vec<String> = (2..26).chain([25]).map(|n: u32| n.to_string()).collect();
    assert!(text.contains(&format!("y | | {}", figures.join(" · "))), "{text}");
    // What is no run is told, and stays.
    folder.write("lots.runs.jsonl", b"mine\n");
    let (_, said, status) =
        folder.run(&["check", "lots.csv", "-j", "lots.toml", "--page", "lots.html"], b"");
    assert!(
        status == 2 && said.contains("lots.runs.jsonl, line 1, is no run of notch check."),
        "{said}"
    );
    assert_eq!(folder.read("lots.runs.jsonl"), "mine\n");
}
