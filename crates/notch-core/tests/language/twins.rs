//! Generated input: nothing panics, and what is fast gives what is obvious.

use notch_core::{Plan, PlanOptions, Scratch, parse_assignment};
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
        // One character cannot be half of another here, so a search of characters is the obvious way.
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
