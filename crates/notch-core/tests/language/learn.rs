//! Learning from examples, on columns whose pieces are known.

use keen_notch_core::{Judge, Layouts, Learned, Lesson, Scratch, TextSample, Trial, learn};

use super::made::Dice;

/// The column of all cases.
const COLUMN: &str = "code";

/// What is to be learnt: templates of the column, the piece between angle quotes; how the piece is
/// written in the end; the cut, and from how many examples it is learnt.
type Case = (&'static [&'static str], fn(&str) -> String, &'static str, usize);

fn same(piece: &str) -> String {
    piece.to_owned()
}

fn title(piece: &str) -> String {
    let (first, rest) = piece.split_at(1);
    format!("{}{}", first.to_uppercase(), rest.to_lowercase())
}

const CASES: &[Case] = &[
    (&["{U2}-{d4}-{U3}-«{d5}»-{d1}"], same, "part 4 of 5 by \"-\"", 1),
    (
        &["{U2}-{d4}-{U3}-«{d2-5}»-{d1}"],
        |piece| format!("{piece:0>8}"),
        "part 4 of 5 by \"-\" | pad left 8 with \"0\"",
        1,
    ),
    (&["«{U2}»{d6}"], same, "first 2", 1),
    (&["{U1-4}«{d2-5}»"], same, "block 1 of digits", 1),
    (&["SKU-«{d4}»", "SKU-«{U2}{d3}»"], same, "after \"-\"", 1),
    (&["«{slug}».{d3}@fernhollow.example"], same, "before \".\"", 1),
    (&["/store/{path}/«seed_{d4}.csv»"], same, "after last \"/\"", 1),
    (&["«/store/{path}»/seed_{d4}.csv"], same, "before last \"/\"", 1),
    (&["{species} («{full}»)"], same, "between \"(\" and \")\"", 1),
    (&["«{species}» ({d3})"], same, "before \" (\"", 1),
    (&["box \"«{slug}»\" in {place}"], same, "between \"\\\"\" and \"\\\"\"", 1),
    (&["{last}, «{first}»"], same, "after \" \"", 1),
    (&["«{last}», {first}"], same, "before \",\"", 1),
    (
        &["{full} left {d1-2} bags, {ref} «{d5}» {place}"],
        same,
        "number after word \"ref\" ignoring case",
        1,
    ),
    (&["{place}: {d1-2} boxes, weight «{d2}.{d1}» kg"], same, "number after word \"weight\"", 1),
    (&["id={d2-4};qty=«{d1-3}»;bed={U1}{d1}"], same, "number after word \"qty\"", 1),
    (&["{species} «{d1-3}» kg"], same, "number", 1),
    (&["«{d1-3},{d2}» EUR"], |piece| piece.replace(',', "."), "number decimal \",\"", 1),
    (
        &["({d1-3}.{d2})", "{d1-3}.{d2}"],
        |piece| piece.replace('(', "-").replace(')', ""),
        "number accounting",
        1,
    ),
    (
        &["«{date}» {time}"],
        |piece| format!("{}.{}.{}", &piece[8..], &piece[5..7], &piece[..4]),
        "before \" \" | date \"YYYY-MM-DD\" to \"DD.MM.YYYY\"",
        1,
    ),
    (&["«{U4}»-{d3}"], |piece| piece.to_lowercase(), "before \"-\" | lower", 1),
    (&["{d3}-«{U4}»"], title, "after \"-\" | title", 1),
    (&["«{d1-6}»"], |piece| format!("{piece:0>6}"), "pad left 6 with \"0\"", 1),
    (&["«{d5}»"], |piece| format!("FH-{piece}"), "\"FH-{code}\"", 1),
    (&["«{U2}/{d4}/{U3}»"], |piece| piece.replace('/', "-"), "replace \"/\" with \"-\"", 1),
    (
        &["«{U2}-{d4}»-{d3}"],
        |piece| format!("{}/{}", &piece[3..], &piece[..2]),
        "\"{code | part 2 of 3 by '-'}/{code | before '-'}\"",
        1,
    ),
    (&["{U2}-«{d4}»-{U1}", "{U2}-«{d4}»"], same, "part 2 by \"-\"", 1),
    (&["X-{U2}-«{d4}»", "{U2}-«{d4}»"], same, "after last \"-\"", 1),
    (&["{U2}-«{d4}»-{d3}", "{d3}/{U2}/«{d4}»"], same, "part 2 by \"-\" else after last \"/\"", 2),
    (&["{place} «{d2}» m", "{species}"], same, "number else \"\"", 2),
];

/// Rows of a case: the cells and their pieces.
fn rows((templates, change, ..): &Case) -> Vec<(String, String)> {
    let mut dice = Dice(templates[0].len() as u64);
    (0..150)
        .map(|n| {
            let template = if n == 0 { 0 } else { dice.roll(templates.len()) };
            let text = dice.text(templates[template]);
            let cell = text.replace(['«', '»'], "");
            let piece = match (text.split_once('«'), text.contains('(')) {
                (Some((_, rest)), _) => rest.split_once('»').unwrap().0.to_owned(),
                (None, true) => cell.clone(),
                (None, false) if text.starts_with(|c: char| c.is_ascii_digit()) => cell.clone(),
                (None, false) => return (cell, String::new()),
            };
            (cell, change(&piece))
        })
        .collect()
}

fn sampled(rows: &[(String, String)]) -> (TextSample, Layouts) {
    let mut sample = TextSample::default();
    for (row, (cell, _)) in (1..).zip(rows) {
        sample.add(cell, row, row + 1);
    }
    let layouts = sample.layouts();
    (sample, layouts)
}

fn learnt(lessons: &[Lesson], rows: &[(String, String)]) -> (Learned, Option<String>) {
    let (sample, layouts) = sampled(rows);
    let learned = learn(lessons, COLUMN, &sample, &layouts, &|| false);
    let answered = lessons.iter().map(|lesson| lesson.cell.clone());
    let question = Judge::new(COLUMN, &learned.cuts, &layouts, answered).and_then(|judge| {
        let (mut judged, mut scratch) = (judge.none(), Scratch::default());
        for (row, (cell, _)) in (1..).zip(rows) {
            judge.add(&mut judged, cell, (row, row + 1), &mut scratch);
        }
        judge.finish(&mut judged, &mut scratch);
        judge.question(&judged).map(|row| row.text.clone())
    });
    (learned, question)
}

fn lesson(cell: &str, piece: &str) -> Lesson {
    Lesson { cell: cell.to_owned(), piece: piece.to_owned(), binds: true }
}

/// The rows that a cut gives otherwise.
fn wrong(cut: &str, rows: &[(String, String)]) -> Vec<String> {
    let mut wrong = Vec::new();
    let trial = Trial::new(COLUMN, [cut]).unwrap();
    trial.run(rows.iter().map(|row| row.0.as_str()), &mut Scratch::default(), |n, _, tried| {
        if tried.piece != rows[n].1 {
            wrong.push(format!("{} => {}, not {}", rows[n].0, tried.piece, rows[n].1));
        }
    });
    wrong
}

/// One example, then the questions are answered: the cut is right in all rows, and the one that a
/// colleague would write.
#[test]
fn the_cut_that_is_meant_is_learnt() {
    let mut differ = Vec::new();
    for case in CASES {
        let (templates, _, wanted, most) = case;
        let rows = rows(case);
        let mut lessons = vec![lesson(&rows[0].0, &rows[0].1)];
        let (mut learned, mut question) = learnt(&lessons, &rows);
        while lessons.len() < *most {
            let Some(asked) = question.take() else { break };
            let (cell, piece) = rows.iter().find(|row| row.0 == asked).unwrap();
            lessons.push(lesson(cell, piece));
            (learned, question) = learnt(&lessons, &rows);
        }
        let best = learned.cuts.first().map_or("", String::as_str);
        let wrong = wrong(if best.is_empty() { "missing" } else { best }, &rows);
        if best != *wanted || !wrong.is_empty() {
            let cuts = &learned.cuts;
            differ.push(format!(
                "{templates:?}: {cuts:?} ({} wrong: {:?})",
                wrong.len(),
                wrong.first()
            ));
        }
    }
    assert!(differ.is_empty(), "\n{}", differ.join("\n"));
}

/// Every cut that is told gives every example exactly, and no two give the same in all rows.
#[test]
fn all_cuts_give_the_examples() {
    for case in CASES.iter().step_by(3) {
        let rows = rows(case);
        let lessons: Vec<Lesson> = rows
            .iter()
            .filter(|row| !row.1.is_empty())
            .take(3)
            .map(|(cell, piece)| lesson(cell, piece))
            .collect();
        let (learned, _) = learnt(&lessons, &rows);
        let mut given: Vec<Vec<String>> = Vec::new();
        for cut in &learned.cuts {
            let of_lessons: Vec<(String, String)> =
                lessons.iter().map(|one| (one.cell.clone(), one.piece.clone())).collect();
            assert!(wrong(cut, &of_lessons).is_empty(), "{cut}");
            given.push(wrong(cut, &rows));
        }
        for (n, one) in given.iter().enumerate() {
            assert!(!given[..n].contains(one), "{:?}", learned.cuts);
        }
    }
}

/// Examples that do not bind may be mistakes: one that no simple cut gives is told from the others.
#[test]
fn mistakes_are_put_up_with_where_examples_do_not_bind() {
    let rows = rows(&CASES[0]);
    let mut lessons: Vec<Lesson> = rows
        .iter()
        .take(30)
        .map(|(cell, piece)| Lesson { binds: false, ..lesson(cell, piece) })
        .collect();
    for (n, typo) in [(0, "99999"), (7, "4354")] {
        lessons[n].piece = typo.to_owned();
    }
    let (learned, _) = learnt(&lessons, &rows);
    assert_eq!(learned.cuts[0], "part 4 of 5 by \"-\"");
    assert!(wrong(&learned.cuts[0], &rows).is_empty());
    // Too many of them, or an example that binds, are not put up with.
    for lesson in &mut lessons[..12] {
        lesson.piece = "?".to_owned();
    }
    assert!(learnt(&lessons, &rows).0.stopped.is_some());
}

/// What cannot be learnt says which example stops it, and how far it went.
#[test]
fn what_cannot_be_learnt_says_why() {
    let rows = rows(&CASES[0]);
    let one = |cell: &str, piece: &str| learnt(&[lesson(cell, piece)], &rows).0;
    let stopped = one("GR-2026-TIL-43546-7", "2062").stopped.unwrap();
    assert_eq!((stopped.lesson, stopped.most, stopped.nearest.as_deref()), (0, None, Some("2026")));
    let lessons = [
        lesson("GR-2026-TIL-43546-7", "GR"),
        lesson("ML-2018-TIL-19640-8", "2018"),
        lesson("TS-2020-TAX-68266-5", "TS"),
    ];
    let stopped = learnt(&lessons, &rows).0.stopped.unwrap();
    assert_eq!(stopped.lesson, 1);
    assert_eq!(stopped.most.map(|(_, count)| count), Some(2));
    // Broken off at once, it has nothing, and says so.
    let (sample, layouts) = sampled(&rows);
    let learned = learn(&lessons[..1], COLUMN, &sample, &layouts, &|| true);
    assert!(learned.cuts.is_empty() && !learned.complete);
}
