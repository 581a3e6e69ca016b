use super::support::Folder;

/// `docs/language.md` is written from the table of words: `cargo run -- words --page >
/// docs/language.md`.
#[test]
fn the_page_of_the_language_is_current() {
    let (page, _, _) = Folder::with(&[]).run(&["words", "--page"], b"");
    let written = include_str!("../../../../docs/language.md");
    assert!(
        page == written.as_bytes(),
        "docs/language.md is out of date; write it anew: cargo run -- words --page > docs/language.md"
    );
}

#[test]
fn words_can_be_looked_up() {
    let mut folder = Folder::with(&[]);
    for args in [
        &["words", "part"][..],
        &["words", "last"],
        &["words", "prt"],
        &["words", "trim", "--json"],
        &["words", "it"],
        &["words", "part", "by"],
        &["words", "split"],
        &["words"],
    ] {
        folder.show(args);
    }
    insta::assert_snapshot!(folder.screen);
}

/// What the page of the language shows of each word is what `carve` writes, for a row alone and
/// among others, and `trace` can draw it.
#[test]
fn examples_of_the_page_are_what_the_program_writes() {
    let page = include_str!("../../../../docs/language.md");
    let rows = page.lines().filter(|line| line.starts_with("| `"));
    let examples: Vec<[String; 3]> = rows
        .filter_map(|line| {
            let cells = line
                .trim_matches('|')
                .trim()
                .split(" | ")
                .map(|cell| cell.trim().trim_matches('`').replace("\\|", "|"));
            <[String; 3]>::try_from(cells.collect::<Vec<_>>()).ok()
        })
        // Lists and columns that only the tests of the words have.
        .filter(|[_, cut, _]| !cut.contains("genera") && !cut.contains("houses"))
        .collect();
    assert!(examples.len() > 180, "{}", examples.len());
    let mut wrong = Vec::new();
    for [cell, cut, gives] in &examples {
        let folder = Folder::with(&[]);
        let mut table = csv::Writer::from_writer(Vec::new());
        ["code", cell, "FH-2019-417-7", cell]
            .iter()
            .for_each(|cell| table.write_record([cell]).unwrap());
        folder.write("t.csv", &table.into_inner().unwrap());
        let named = if cut.split_once('=').is_some_and(|(names, _)| {
            names.chars().all(|c| c.is_alphanumeric() || "_?, ".contains(c))
        }) {
            cut.clone()
        } else {
            format!("x = {cut}")
        };
        let (out, err, status) = folder.run(
            &["carve", "t.csv", "-c", "code", &named, "--only", "-q", "--findings", "f.csv"],
            b"",
        );
        if status != 0 {
            wrong.push(format!("{cell}: {cut}\n{err}"));
            continue;
        }
        let mut reader = csv::Reader::from_reader(out.as_slice());
        let names = reader.headers().unwrap().clone();
        let written: Vec<csv::StringRecord> = reader.into_records().map(Result::unwrap).collect();
        let text = if names.len() == 1 && &names[0] == "x" {
            written[0][0].to_owned()
        } else {
            names
                .iter()
                .zip(&written[0])
                .map(|(name, cell)| format!("{name}: {cell}"))
                .collect::<Vec<_>>()
                .join(", ")
        };
        let findings = csv::Reader::from_path(folder.path("f.csv"))
            .unwrap()
            .into_records()
            .map(Result::unwrap);
        let findings: Vec<String> = findings
            .filter(|finding| &finding[0] == "1")
            .map(|finding| format!("{}: {}", &finding[4], &finding[5]))
            .collect();
        let shown = match (text.as_str(), findings.join("; ")) {
            ("", findings) if findings.is_empty() => "(blank)".to_owned(),
            ("", findings) => format!("({findings})"),
            (text, findings) if findings.is_empty() => text.to_owned(),
            (text, findings) => format!("{text} ({findings})"),
        };
        if shown != *gives || written[0] != written[2] {
            wrong.push(format!("{cell}: {cut}\n  {shown}, not {gives}"));
        }
        let (out, err, status) =
            folder.run(&["trace", "-t", "t.csv", "-c", "code", &named, "--samples", "1"], b"");
        if status != 0 || out.is_empty() {
            wrong.push(format!("{cell}: {cut} cannot be traced\n{err}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}\n{}", wrong.len(), examples.len(), wrong.join("\n"));
}
