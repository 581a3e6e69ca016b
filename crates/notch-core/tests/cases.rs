//! What cuts give, case by case: a cell, a cut, the result as the examples of the table of words write it.

use notch_core::{Example, evaluate_example};

fn check(cases: &[(&'static str, &'static str, &'static str)]) {
    let wrong: Vec<String> = cases
        .iter()
        .filter_map(|(cell, cut, gives)| match evaluate_example(&Example { cell, cut, gives }) {
            Ok(given) if given == *gives => None,
            Ok(given) => Some(format!("{cut} of {cell:?}: {given:?}, not {gives:?}")),
            Err(error) => Some(format!("{cut}: {error}")),
        })
        .collect();
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}

#[test]
fn positions() {
    check(&[
        ("abcdef", "chars 2", "b"),
        ("abcdef", "chars 7", "(missing: only 6 characters)"),
        ("abcdef", "chars 2..3", "bc"),
        ("abcdef", "chars 5..9", "ef (short: 6 characters, not 9)"),
        ("abcdef", "chars 5..", "ef"),
        ("abcdef", "chars 7..", "(missing: only 6 characters)"),
        ("abcdef", "chars ..3", "abc"),
        ("ab", "chars ..3", "ab (short: 2 characters, not 3)"),
        ("abcdef", "chars -4..", "cdef"),
        ("abc", "chars -4..", "abc (short: 3 characters, not 4)"),
        ("abcdef", "chars 2..-2", "bcde"),
        ("abcdef", "chars -3..-2", "de"),
        ("ab", "chars -3..-2", "a (short: 2 characters, not 3)"),
        ("a", "chars -3..-2", "(missing: only 1 character)"),
        ("abcdef", "chars -1", "f"),
        ("abcdef", "chars -2 for 5", "ef (short: 6 characters, not 9)"),
        ("abcdef", "chars 2 for 3", "bcd"),
        ("abc", "chars 3..-2", "(missing: only 3 characters)"),
        ("abcdef", "drop first 2 | drop last 2", "cd"),
        ("ab", "drop last 5", "(missing: nothing left)"),
        ("twelve chars", "first 40", "twelve chars (short: 12 characters, not 40 (at most 40: clip 40))"),
        // What a person counts: letters with their marks, flags, families, a line end of two.
        ("e\u{301}te\u{301}", "first 1", "e\u{301}"),
        ("👨‍👩‍👧🇨🇿x", "chars 2..3", "🇨🇿x"),
        ("👨‍👩‍👧🇨🇿x", "last 2", "🇨🇿x"),
        ("a\r\nb", "chars 3", "b"),
        ("नमस्ते", "first 2", "नम"),
    ]);
}

#[test]
fn marks() {
    check(&[
        ("a-b-c-d", "before 1st \"-\"", "a"),
        ("a-b-c-d", "after 2nd \"-\"", "c-d"),
        ("a-b-c-d", "before 3rd last \"-\"", "a"),
        ("a-b-c-d", "after first \"-\"", "b-c-d"),
        ("a-b", "before 4th \"-\"", "(missing: no 4th \"-\")"),
        ("a-b", "before 2nd last \"-\" or end", "a-b"),
        ("-a", "before \"-\"", "(missing: nothing left)"),
        ("-a", "before \"-\" or end", "(missing: nothing left)"),
        ("aaaa", "after last \"aa\"", "(missing: nothing left)"),
        ("aaa", "before last \"aa\"", "(missing: nothing left)"),
        ("ab--cd", "after \"--\"", "cd"),
        ("STRASSE ẞ9", "after \"ß\" ignoring case", "9"),
        ("ſum 4", "after \"SUM \" ignoring case", "4"),
        // Half a character is no match.
        ("e\u{301}e", "before \"e\" or end", "e\u{301}"),
        ("a\u{301}-b", "before \"-\"", "a\u{301}"),
        ("x_ref ref1 (ref)", "after word \"ref\"", ")"),
        ("préref refs", "after word \"ref\" or start", "préref refs"),
        ("Ref. 1 REF. 2", "after 2nd word \"ref\" ignoring case", ". 2"),
    ]);
}

#[test]
fn parts() {
    check(&[
        ("a-b-c", "part last by \"-\"", "c"),
        ("a-b-c", "part 2nd last by \"-\"", "b"),
        ("a-b-c", "part 2.. by \"-\"", "b-c"),
        ("a-b-c", "part ..2 by \"-\"", "a-b"),
        ("a-b-c", "part -2.. by \"-\"", "b-c"),
        ("a-b", "part 2..3 by \"-\"", "(missing: 2 parts)"),
        ("a", "part -2 by \"-\"", "(missing: 1 part)"),
        ("a", "part 1 by \"-\"", "a"),
        ("a-b-c-d", "part 2..3 of 4 by \"-\"", "b-c"),
        ("a-b-", "part 3 by \"-\"", "(missing: part 3 is empty)"),
        ("a-b-", "part last by \"-\"", "(missing: part -1 is empty)"),
        ("a--", "part 2..3 by \"-\"", "-"),
        ("a, b", "parts by \", \" | upper", "A; B"),
        ("a,,b", "parts by \",\" | upper", "A; ; B"),
        ("a,-,b", "parts by \",\" | letters", "a; ; b (missing: item 2: no letters)"),
        ("a,,b", "x, y, z = parts by \",\"", "x: a, y: , z: b (y, missing: part 2 is empty)"),
        ("a", "x, y?, z? = parts by \"-\"", "x: a, y: , z: "),
        ("a-b-c-d", "x, y? = parts by \"-\"", "x: a, y: b (parts: 4 parts for 2 names)"),
        ("  ", "x, y = parts by \"-\"", "x: , y:  (blank: blank)"),
        ("a- ", "x, y = parts by \"-\"", "x: a, y:  (y, missing: only white space)"),
        ("a-b-c", "x, _, y = parts by \"-\" | upper", "x: A, y: C"),
        ("a-b-c", "_x, y, z = parts by \"-\"", "y: b, z: c"),
        ("ab", "x, y = first 1", "x: a, y:  (parts: 1 part for 2 names)"),
    ]);
}

#[test]
fn chains_and_kinds() {
    check(&[
        ("", "first 2", "(blank: blank)"),
        (" \t", "first 2 else \"none\"", "none (blank: blank)"),
        ("ab", "after \"-\" else \"\" then pad left 3 with \"0\"", ""),
        ("ab", "after \"-\" else first 5 else \"x\"", "ab (short: 2 characters, not 5)"),
        ("ab", "first 5 | after \"-\" else \"x\"", "x"),
        ("ab", "first 5 | after \"-\"", "(short: 2 characters, not 5) (missing: no \"-\")"),
        ("a b", "after \"a\"", " b"),
        ("a  ", "after \"a\"", "(missing: only white space)"),
        ("ab-1", "{code} | letters else {code} | digits", "ab"),
        ("x1y22", "digits", "122"),
        ("1٣2", "digits", "12"),
        ("a\u{301}1Ⅷ", "letters", "a\u{301}"),
        ("ǆ", "upper", "Ǆ"),
        ("ΟΔΟΣ", "lower", "οδος"),
        ("\u{a0}x\u{2003}", "trim", "x"),
        ("é", "pad left 3 with \"ß\"", "ßßé"),
        ("ab", "pad right 4", "ab  "),
        ("a", "\"{code}{code}\" | upper", "AA"),
        ("a", "'{{{code}}}'", "{a}"),
        ("a", "\"{code | after '-' else 'x'}/{code}\"", "x/a"),
    ]);
}
