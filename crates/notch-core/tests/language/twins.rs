//! Generated input: nothing panics, and what is fast gives what is obvious.

use keen_notch_core::{
    Batch, ColumnRule, Fate, Plan, PlanOptions, Scratch, Tally, TextsTold, parse_assignment,
    parse_column_rule, parse_row_rule, shape,
};
use proptest::prelude::*;
use unicode_segmentation::UnicodeSegmentation;

/// One cut of one cell; `None` when it is missing.
fn cut(steps: &str, cell: &str) -> Option<String> {
    let assignment = parse_assignment(&format!("x = {{c}} | {steps}")).unwrap();
    let plan = Plan::compile(&[assignment], &["c".to_owned()], &PlanOptions::default()).unwrap();
    let mut scratch = Scratch::default();
    let text = plan.evaluate([cell], &mut scratch).cells[0].text;
    (!text.is_empty()).then(|| text.to_owned())
}

/// What a cut ends as when this is left.
fn left(text: String) -> Option<String> {
    (!text.trim().is_empty()).then_some(text)
}

const CELL: &str = "([ab-]|é|e\u{301}|\r\n|🇨🇿|👨‍👩‍👧){0,9}";
const CUT: &str = "(x|[a-z]{1,4}\\??|_|=|,| |\\||\\{x\\}|\\{|\\}|\"[^\"]{0,3}\"|\"|'|/|/a/i|[0-9]{1,3}|-[0-9]|\\.\\.|[0-9](st|nd|th)|first|last|chars|drop|before|after|word|ignoring case|or end|part|parts|by|of|digits|pad left|with|else|then|\\(|\\)|#|“|é|\\\\){0,14}";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(512))]

    #[test]
    fn no_text_makes_the_parser_panic(text in CUT, any in any::<String>()) {
        for text in [text, any] {
            for text in [format!("x = {{c}} | {text}"), text] {
                if let Ok(assignment) = parse_assignment(&text) {
                    let _ = Plan::compile(&[assignment], &["c".to_owned()], &PlanOptions::default());
                } else if let Err(error) = parse_assignment(&text) {
                    prop_assert!(text.get(error.span).is_some(), "{text:?}");
                }
            }
        }
    }

    #[test]
    fn positions_are_those_of_counted_characters(cell in CELL, a in 1usize..6, b in 1usize..6) {
        let characters: Vec<&str> = cell.graphemes(true).collect();
        let n = characters.len();
        let between = |from: usize, to: usize| left(characters[from.min(n)..to.clamp(from.min(n), n)].concat());
        let (low, high) = (a.min(b), a.max(b));
        if cell.trim().is_empty() {
            return Ok(());
        }
        prop_assert_eq!(cut(&format!("first {a}"), &cell), between(0, a));
        prop_assert_eq!(cut(&format!("last {a}"), &cell), between(n.saturating_sub(a), n));
        prop_assert_eq!(cut(&format!("chars {low}..{high}"), &cell), between(low - 1, high));
        prop_assert_eq!(cut(&format!("chars {a} for {b}"), &cell), between(a - 1, a - 1 + b));
        prop_assert_eq!(cut(&format!("chars -{high}..-{low}"), &cell), between(n.saturating_sub(high), (n + 1).saturating_sub(low)));
        prop_assert_eq!(cut(&format!("drop first {a} | drop last {b}"), &cell), between(a, n.saturating_sub(b)));
    }

    #[test]
    fn marks_and_parts_are_those_of_a_plain_search(cell in CELL, n in 1usize..4) {
        // One character cannot be half of another here, so a search of characters is the obvious
        // way.
        let characters: Vec<&str> = cell.graphemes(true).collect();
        let places: Vec<usize> = (0..characters.len()).filter(|at| characters[*at] == "-").collect();
        let parts: Vec<String> = characters.split(|character| *character == "-").map(<[&str]>::concat).collect();
        if cell.trim().is_empty() {
            return Ok(());
        }
        prop_assert_eq!(cut(&format!("part {n} by \"-\""), &cell), parts.get(n - 1).cloned().and_then(left));
        prop_assert_eq!(cut(&format!("part -{n} by \"-\""), &cell), parts.iter().rev().nth(n - 1).cloned().and_then(left));
        let nth = places.get(n - 1);
        prop_assert_eq!(cut(&format!("before {n}th \"-\""), &cell), nth.and_then(|at| left(characters[..*at].concat())));
        let last = places.iter().rev().nth(n - 1);
        prop_assert_eq!(cut(&format!("after {n}th last \"-\""), &cell), last.and_then(|at| left(characters[at + 1..].concat())));
    }
}

/// A step as it is written, and the obvious way to do it on a list of characters.
type Twin = (String, Box<dyn Fn(&[String]) -> Option<Vec<String>>>);

/// Steps whose obvious way is short.
fn twins(n: usize, m: usize) -> Vec<Twin> {
    fn twin(
        steps: impl Into<String>,
        work: impl Fn(&[String]) -> Option<Vec<String>> + 'static,
    ) -> Twin {
        (steps.into(), Box::new(work))
    }
    let is = |wanted: fn(char) -> bool| {
        move |c: &&String| c.chars().count() == 1 && c.chars().all(wanted)
    };
    let lone = |text: &str| text.to_owned();
    let place = move |c: &[String], what: &str| c.iter().position(|one| one == what);
    let digit = is(|c| c.is_ascii_digit());
    vec![
        twin(format!("first {n}"), move |c| Some(c[..n.min(c.len())].to_vec())),
        twin(format!("drop first {n}"), move |c| Some(c[n.min(c.len())..].to_vec())),
        twin(format!("drop last {n}"), move |c| Some(c[..c.len().saturating_sub(n)].to_vec())),
        twin(format!("clip {n}"), move |c| Some(c[..n.min(c.len())].to_vec())),
        twin(format!("pad left {m} with \"x\""), move |c| {
            Some(vec![lone("x"); m.saturating_sub(c.len())].into_iter().chain(c.to_vec()).collect())
        }),
        twin(format!("pad right {m} with \"é\""), move |c| {
            Some(c.iter().cloned().chain(vec!["é".to_owned(); m.saturating_sub(c.len())]).collect())
        }),
        twin("before \"-\"", move |c| place(c, "-").map(|at| c[..at].to_vec())),
        twin("after \"-\"", move |c| place(c, "-").map(|at| c[at + 1..].to_vec())),
        twin("through \"-\"", move |c| place(c, "-").map(|at| c[..=at].to_vec())),
        twin("from \"-\" or start", move |c| Some(c[place(c, "-").unwrap_or(0)..].to_vec())),
        twin("keep digits", move |c| Some(c.iter().filter(digit).cloned().collect())),
        twin("remove digits", move |c| Some(c.iter().filter(|c| !digit(c)).cloned().collect())),
        twin("replace \"-\" with \"+\"", |c| {
            Some(c.iter().map(|c| if c == "-" { "+".to_owned() } else { c.clone() }).collect())
        }),
        twin("drop leading \"a\"", |c| {
            Some(if c[0] == "a" { c[1..].to_vec() } else { c.to_vec() })
        }),
        twin("drop trailing digit", move |c| {
            c.split_last().map(|(last, rest)| if digit(&last) { rest.to_vec() } else { c.to_vec() })
        }),
        twin("from digit", move |c| c.iter().position(|c| digit(&c)).map(|at| c[at..].to_vec())),
        twin("part last by \"-\"", |c| c.split(|c| c == "-").next_back().map(<[String]>::to_vec)),
        twin(format!("part {n} by any of \"-a\""), move |c| {
            c.split(|c| c == "-" || c == "a").nth(n - 1).map(<[String]>::to_vec)
        }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2000))]

    /// Three steps in a chain give what three obvious steps give one after the other.
    #[test]
    fn chains_are_those_of_the_obvious_steps(
        cell in "([ab7-]|é|e\u{301}|7\u{301}|🇨🇿|日){1,12}", picks in prop::array::uniform3(0usize..18), n in 1usize..5, m in 1usize..9,
    ) {
        let table = twins(n, m);
        let steps: Vec<&str> = picks.iter().map(|pick| table[*pick].0.as_str()).collect();
        let start: Vec<String> = cell.graphemes(true).map(str::to_owned).collect();
        let obvious = picks.iter().try_fold(start, |characters, pick| {
            // Between steps characters are counted anew: what stands side by side now may be one.
            let characters: Vec<String> = characters.concat().graphemes(true).map(str::to_owned).collect();
            table[*pick].1(&characters).filter(|left| !left.is_empty())
        });
        prop_assert_eq!(cut(&steps.join(" | "), &cell), obvious.map(|left| left.concat()), "{:?}", steps);
    }

    /// Digits with commas and points between them, parsed by a slow twin.
    #[test]
    fn numbers_are_those_of_a_plain_reading(cell in "(x|[0-9]{1,4}|,|\\.){1,9}") {
        let cell = format!("x{cell}x");
        let mut obvious = Vec::new();
        let runs = cell.split(|c: char| !c.is_ascii_digit() && c != ',' && c != '.');
        for run in runs {
            let mut rest = run.trim_matches([',', '.']).to_owned();
            let figures = |text: &str| text.chars().take_while(char::is_ascii_digit).collect::<String>();
            let (mut loose, mut whole_only) = (0, 0);
            while !rest.is_empty() {
                if !rest.starts_with(|c: char| c.is_ascii_digit()) {
                    rest.remove(0);
                    (loose, whole_only) = (loose.max(1) - 1, whole_only.max(1) - 1);
                    continue;
                }
                let first = figures(&rest);
                // Comma groups from here on, as far as digits go on after each comma.
                let mut groups = vec![first.clone()];
                let mut behind = rest[first.len()..].to_owned();
                while behind.starts_with(',') && !figures(&behind[1..]).is_empty() {
                    groups.push(figures(&behind[1..]));
                    behind = behind[1 + groups[groups.len() - 1].len()..].to_owned();
                }
                let grouped = groups.len() > 1 && loose == 0 && first.len() <= 3 && first != "0" && groups[1..].iter().all(|group| group.len() == 3);
                let whole = if grouped { groups.concat() } else { first.clone() };
                let taken = if grouped { groups.join(",").len() } else { first.len() };
                if !grouped && loose == 0 && groups.len() > 1 {
                    loose = groups.join(",").len();
                }
                let after = rest[taken..].to_owned();
                let mut points = Vec::new();
                let mut tail = after.as_str();
                while tail.starts_with('.') && !figures(&tail[1..]).is_empty() {
                    points.push(figures(&tail[1..]));
                    tail = &tail[1 + points[points.len() - 1].len()..];
                }
                let decimal = points.len() == 1 && whole_only == 0;
                if points.len() > 1 && whole_only == 0 {
                    whole_only = taken + points.iter().map(|point| point.len() + 1).sum::<usize>();
                }
                let used = taken + if decimal { points[0].len() + 1 } else { 0 };
                let plain = whole.trim_start_matches('0');
                let plain = if plain.is_empty() { "0" } else { plain };
                obvious.push(if decimal { format!("{plain}.{}", points[0]) } else { plain.to_owned() });
                rest = rest[used..].to_owned();
                (loose, whole_only) = (loose.saturating_sub(used), whole_only.saturating_sub(used));
            }
        }
        let obvious = (!obvious.is_empty()).then(|| obvious.join("; "));
        prop_assert_eq!(cut("numbers", &cell), obvious, "{}", cell);
    }

    /// Digits with marks between them, each read by its own marks as the rules are told.
    #[test]
    fn numbers_by_their_own_marks_are_those_of_the_rules(run in "[0-9]{1,4}([.,][0-9]{1,4}){0,3}") {
        let marks: Vec<char> = run.chars().filter(|c| !c.is_ascii_digit()).collect();
        let parts: Vec<&str> = run.split(['.', ',']).collect();
        let last = parts[parts.len() - 1];
        let two_kinds = marks.contains(&'.') && marks.contains(&',');
        let is_decimal = match marks.len() {
            0 => false,
            1 => last.len() != 3 || parts[0] == "0" || parts[0].len() > 3,
            _ => two_kinds,
        };
        let groups = if is_decimal { &parts[..parts.len() - 1] } else { &parts[..] };
        let grouped_well = groups.len() == 1 || (groups[0].len() <= 3 && groups[0] != "0" && groups[1..].iter().all(|group| group.len() == 3));
        let repeats = two_kinds && marks[..marks.len() - 1].contains(&marks[marks.len() - 1]);
        let two_readings = marks.len() == 1 && last.len() == 3 && parts[0] != "0";
        let doubtful = !grouped_well || repeats || two_readings;
        let whole = groups.concat();
        let plain = whole.trim_start_matches('0');
        let plain = if plain.is_empty() { "0" } else { plain };
        let obvious = if is_decimal { format!("{plain}.{last}") } else { plain.to_owned() };
        let assignment = parse_assignment("x = {c} | number decimal either").unwrap();
        let plan = Plan::compile(&[assignment], &["c".to_owned()], &PlanOptions::default()).unwrap();
        let mut scratch = Scratch::default();
        let result = plan.evaluate([run.as_str()], &mut scratch);
        prop_assert_eq!((result.cells[0].text, result.has_finding()), (obvious.as_str(), doubtful), "{}", run);
    }

    /// A shape says of each character what it is, one by one.
    #[test]
    fn shapes_are_runs_of_kinds(text in "([A-C]|[a-c]|[0-9]| |\\[|\\]|-|é|e\u{301}|日){0,12}") {
        let kind = |c: &str| match c {
            "[" => "[[]".to_owned(),
            _ if c.len() == 1 && c.chars().all(char::is_uppercase) => "U".to_owned(),
            _ if c.len() == 1 && c.chars().all(char::is_lowercase) => "l".to_owned(),
            _ if c.len() == 1 && c.chars().all(char::is_numeric) => "d".to_owned(),
            " " => "s".to_owned(),
            "]" | "-" => c.to_owned(),
            _ => "c".to_owned(),
        };
        let kinds: Vec<String> = text.graphemes(true).map(kind).collect();
        let mut obvious = String::new();
        for run in kinds.chunk_by(|a, b| a == b) {
            match (run[0].as_str(), run.len()) {
                (kind @ ("U" | "l" | "d" | "s" | "c"), 1) => obvious.push_str(&format!("[{kind}]")),
                (kind @ ("U" | "l" | "d" | "s" | "c"), n) => obvious.push_str(&format!("[{kind}{n}]")),
                (literal, n) => obvious.push_str(&literal.repeat(n)),
            }
        }
        prop_assert_eq!(shape(&text), obvious.clone());
        // A text is of its own shape.
        if !text.trim().is_empty() {
            prop_assert_eq!(cut(&format!("trim if {{c}} is shape \"{obvious}\""), &text), Some(text.trim().to_owned()));
        }
    }

    /// Signs, currency signs, brackets and joints in any order, in a cell and in a piece of it:
    /// digits come out in order, none made up.
    #[test]
    fn numbers_are_made_of_the_digits_there_are(cell in "[-−+.,€$() 0-9:=x]{0,14}", style in prop::sample::select(vec!["", " decimal \",\"", " decimal either", " accounting", " decimal either accounting"])) {
        for piece in ["", "after any of \"-−.,€x\" | ", "before last any of \"-.,€x\" | "] {
            let Some(found) = cut(&format!("{piece}numbers{style} | join \"\""), &cell) else { continue };
            let digits = |text: &str| text.chars().filter(|c| c.is_ascii_digit() && *c != '0').collect::<String>();
            let kept = cut(&format!("{piece}digits"), &cell).unwrap_or_default();
            prop_assert_eq!(digits(&found), digits(&kept), "{}", piece);
            let numbers = cut(&format!("{piece}numbers{style}"), &cell).unwrap_or_default();
            for number in numbers.split("; ") {
                prop_assert!(number.trim_start_matches('-').starts_with(|c: char| c.is_ascii_digit()), "{}", number);
                prop_assert!(number.matches('.').count() <= 1 && number.matches('-').count() <= 1, "{}", number);
            }
        }
    }
}

/// All that a tally tells but the order in which shapes came.
fn counted(tally: &Tally) -> String {
    let outputs = tally.outputs.iter().map(|output| {
        format!(
            "{} {} {} {:?}\n",
            output.filled,
            output.blank,
            output.failed,
            output.shapes.ranked()
        )
    });
    let groups = tally.groups().into_iter().map(|(about, kind, group)| {
        format!(
            "{about:?} {kind:?} {:?} {:?} {:?}\n",
            group.reasons(),
            group.shapes.ranked(),
            group.examples
        )
    });
    let rows = format!(
        "{:?} {} {:?}\n",
        tally.rows().collect::<Vec<_>>(),
        tally.rows_with_findings,
        tally.unchecked
    );
    outputs.chain(groups).chain([rows, format!("{:?}", tally.cuts)]).collect()
}

const DEMANDS: [&str; 6] = [
    "is digits",
    "has \"-\" and has no \"b\"",
    "is not \"a\"",
    "same as {b}",
    "length 1..3",
    "{b} is not blank",
];
const CHECKS: [&str; 6] = [
    "not {a} same as {b}",
    "{b} is \"a\" or {a} has \"a\"",
    "{a} is blank",
    "{b} value < {a}",
    "{x} is not \"a\"",
    "not {b} starts with \"-\"",
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(512))]

    /// The slow, obvious twin of many rows together is one row after the other.
    #[test]
    fn rows_together_are_rows_by_themselves(
        rows in prop::collection::vec(("([ab1-]|é| ){0,3}", "([a1-]| |1,250|0,5|\\(2\\)|007){0,2}"), 1..12),
        demand in prop::option::of(prop::sample::select(&DEMANDS[..])),
        required in any::<bool>(),
        checks in prop::collection::vec(prop::sample::select(&CHECKS[..]), 0..3),
    ) {
        let cuts = [
            "x = {a} | first 1 | upper",
            "y = {x} | pad left 3 with \"0\" | check is not digits",
            "z? = {b} | after \"-\" | check value < {a}",
            "u = {b} | before last \"-\" or end | match /1/",
            "v = {a} | part 2 by \"-\" | number",
            "w = {a} | after \"-\"",
            "n = {b} | number",
            "_h = {b} | number accounting",
            "m = \"<{_h}>\" else \"\"",
            "k? = {_h} | pad left 4 with \"0\"",
            "o? = {b} | number last decimal \",\" | (check value > 5 else \"\") | \"{it}{a}\"",
        ];
        let cuts: Vec<_> = cuts.iter().map(|cut| parse_assignment(cut).unwrap()).collect();
        let options = PlanOptions {
            columns: vec![ColumnRule { column: "a".to_owned(), required, unique: false, check: demand.map(|demand| parse_column_rule(demand).unwrap()), output_type: None }],
            checks: checks.iter().map(|check| ((*check).to_owned(), parse_row_rule(check).unwrap())).collect(),
            ..PlanOptions::default()
        };
        let plan = Plan::compile(&cuts, &["a".to_owned(), "b".to_owned()], &options).unwrap();
        let cell = |row: &(String, String), source: usize| if plan.sources()[source].index == 0 { row.0.clone() } else { row.1.clone() };
        let (mut text, mut scratch, mut alone) = (String::new(), Scratch::default(), Scratch::default());
        let mut places = vec![Vec::new(); plan.sources().len()];
        for row in &rows {
            for (source, places) in places.iter_mut().enumerate() {
                let from = text.len() as u32;
                text.push_str(&cell(row, source));
                places.push((from, text.len() as u32));
            }
        }
        let mut batch = Batch::new(&plan, &mut text, &mut scratch);
        batch.rows(1, 2..rows.len() as u64 + 2);
        for (source, places) in places.iter().enumerate() {
            prop_assert!(batch.cells(source, places.iter().copied(), |_, place| Some(place)));
        }
        let together = batch.evaluate();
        let (mut counts, mut twin) = (
            Tally::telling(&plan, TextsTold::Examples),
            Tally::telling(&plan, TextsTold::Examples),
        );
        counts.add_batch(&plan, &together);
        for (n, row) in rows.iter().enumerate() {
            let cells: Vec<String> = (0..plan.sources().len()).map(|source| cell(row, source)).collect();
            let by_itself = plan.evaluate(cells.iter().map(String::as_str), &mut alone);
            twin.add(&plan, &by_itself, n as u64 + 1, n as u64 + 2);
            let texts: Vec<&str> = by_itself.cells.iter().map(|cell| cell.text).collect();
            match together.unusual().iter().find(|(of, _)| *of == n) {
                Some((_, result)) => {
                    prop_assert_eq!(&result.cells.iter().map(|cell| cell.text).collect::<Vec<_>>(), &texts);
                    prop_assert_eq!(format!("{:?} {:?}", result.findings, result.checked), format!("{:?} {:?}", by_itself.findings, by_itself.checked));
                }
                None => {
                    prop_assert_eq!(&(0..texts.len()).map(|output| together.text(n, output)).collect::<Vec<_>>(), &texts);
                    prop_assert_eq!(format!("{:?}", together.findings(n)), format!("{:?}", by_itself.findings));
                    prop_assert!(by_itself.fate == Fate::Write && by_itself.checked.iter().all(|made| *made));
                }
            }
        }
        counts.conclude(&plan);
        twin.conclude(&plan);
        prop_assert_eq!(plan.hints(&counts, |line| line.to_string()), plan.hints(&twin, |line| line.to_string()));
        prop_assert_eq!(counted(&counts), counted(&twin));
    }
}
