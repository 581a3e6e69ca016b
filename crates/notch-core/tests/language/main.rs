//! What cuts give, case by case: a cell, a cut, the result as the examples of the table of words
//! write it.
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that fails says so by panicking")]

mod layouts;
mod learn;
mod made;
mod numbers;
mod refusals;
mod rows;
mod rules;
mod survey;
mod twins;
mod words;

use keen_notch_core::{Example, evaluate_example};

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
        (
            "twelve chars",
            "first 40",
            "twelve chars (short: 12 characters, not 40 (at most 40: clip 40))",
        ),
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

#[test]
fn numbers() {
    let doubtful = |why: &str| format!("(doubtful: {why})");
    let (joint, minus, brackets, zeros) = (
        "a comma or point touches it",
        "a minus stands behind it",
        "brackets close around it",
        "zeros in front were dropped",
    );
    let cases: Vec<(&'static str, &'static str, String)> = vec![
        ("12,34", "numbers", format!("12; 34 {}", doubtful(joint))),
        ("1,2500", "numbers", format!("1; 2500 {}", doubtful(joint))),
        ("0,125", "numbers", format!("0; 125 {}", doubtful(joint))),
        (
            "12.05.2031",
            "numbers",
            format!("12; 5; 2031 {}", doubtful(&format!("{joint}; {zeros}"))),
        ),
        ("1,250.50 and 1,234,567", "numbers", "1250.50; 1234567".into()),
        ("1,234,56", "numbers", format!("1; 234; 56 {}", doubtful(joint))),
        ("12,3456,789", "numbers", format!("12; 3456; 789 {}", doubtful(joint))),
        ("1.5, 2.5", "numbers", "1.5; 2.5".into()),
        ("1.250,50", "number", format!("1.250 {}", doubtful(joint))),
        ("1.250,50", "number decimal \",\"", "1250.50".into()),
        ("1 250,5 und 12 345", "numbers decimal \",\"", "1250.5; 12345".into()),
        ("AB-12", "number", "12".into()),
        ("at -12 °C", "number", "-12".into()),
        ("at −12 °C", "number", "-12".into()),
        ("-€5", "number", "-5".into()),
        ("€-5", "number", "-5".into()),
        ("+44 x", "number", "44".into()),
        ("t=-3", "number", "-3".into()),
        ("(-3 below)", "number", "-3".into()),
        ("5-3", "numbers", "5; 3".into()),
        (".5 l", "number", "0.5".into()),
        ("-.5", "number", "-0.5".into()),
        ("no.7", "number", "7".into()),
        ("1e5", "numbers", "1; 5".into()),
        ("123456789012345678901234567890.10", "number", "123456789012345678901234567890.10".into()),
        ("5-", "number", format!("5 {}", doubtful(minus))),
        ("5-a", "number", "5".into()),
        (
            "51.5,-0.1",
            "part 2 by \",\" | number",
            format!("0.1 {}", doubtful("a minus before it is no sign there")),
        ),
        ("5;-3", "number 2", format!("3 {}", doubtful("a minus before it is no sign there"))),
        ("51.5,-0.1", "part 2 by \",\" | as number", "-0.1".into()),
        ("(125)", "number", format!("125 {}", doubtful(brackets))),
        ("007", "number", format!("7 {}", doubtful(zeros))),
        ("0", "number", "0".into()),
        ("0.5", "number", "0.5".into()),
        ("000", "number", format!("0 {}", doubtful(zeros))),
        ("007 and 008", "numbers | count", "2".into()),
        ("gauge-12", "after \"gauge\" | number", "12".into()),
        ("gauge -12", "after \"gauge\" | number", "-12".into()),
        ("gauge-12", "after \"gauge\" | upper | number", "12".into()),
        ("gauge-12", "after \"gauge\" | number next", "(missing: no number next)".into()),
        ("no.7", "after \"no\" | number next", "7".into()),
        ("no .5", "after \"no\" | number next", "0.5".into()),
        ("ref = # 12", "after \"ref\" | number next", "12".into()),
        ("x-.5", "after \"-\" | number", "5".into()),
        ("x −.02.30", "after \"−\" | numbers", format!("2.30 {}", doubtful(zeros))),
        ("(-.5 x)", "after \"(\" | number", "-0.5".into()),
        ("€.5", "number", "0.5".into()),
        ("€-.5", "after \"€\" | number", "-0.5".into()),
        ("5€.5", "numbers", "5; 0.5".into()),
        ("a 1 b 2", "number -1", "2".into()),
        ("a 1 b 2", "number 2nd last", "1".into()),
        ("a 1", "number 2", "(missing: 1 number)".into()),
        ("", "numbers | count", "0 (blank: blank)".into()),
        ("x", "number else \"\"", String::new()),
    ];
    check(
        &cases
            .iter()
            .map(|(cell, cut, gives)| (*cell, *cut, &*gives.clone().leak()))
            .collect::<Vec<_>>(),
    );
}

#[test]
fn lists_and_regular_expressions() {
    check(&[
        ("a;b", "parts by \";\" | pick last", "b"),
        ("a;;b", "parts by \";\" | pick 2", "(missing: item 2 is empty)"),
        ("a", "pick 1", "a"),
        ("a1,b,c3", "parts by \",\" | digits | join \"+\"", "1++3 (missing: item 2: no digits)"),
        ("a1,b,c3", "parts by \",\" | digits | drop empty | join \"+\"", "1+3"),
        ("a1,b,c3", "parts by \",\" | digits | pick 2 else \"?\"", "?"),
        ("b-a b", "parts by /[- ]/ | distinct | count", "2"),
        ("x", "parts by \",\" | count", "1"),
        ("", "length", "0 (blank: blank)"),
        ("ab", "after \"-\" | length", "(missing: no \"-\")"),
        ("a-", "after \"-\" | length", "0"),
        ("no", "digits | length", "0"),
        ("ab12cd", "match /(?i)[A-Z]+(?<n>\\d+)(x)?/ group 2", "(missing: group 2 took no part)"),
        ("AB", "match /b/i", "B"),
        ("a\nb", "match /a.b/s", "a\nb"),
        ("abc", "before /x*/ or end", "abc"),
        ("a1b22", "after last /\\d+/ or start | upper", "(missing: nothing left)"),
        ("a1b22c", "parts by /\\d+/", "a; b; c"),
        (
            "a b",
            "list ({code} | before \" \", {code} | after \"-\" else \"\", \"z\") | join \",\"",
            "a,,z",
        ),
        (
            "a b",
            "list ({code} | after \"-\", \"z\") | join \",\"",
            ",z (missing: item 1: no \"-\")",
        ),
        ("", "list ({code}, {code}) | drop empty | join \",\" else \"-\"", "-"),
        ("FH2019", "parts by widths 2,4,3", "FH; 2019"),
        ("FH2019BRAxx", "parts by widths 2,4,3", "FH; 2019; BRA; xx"),
        ("  a  b ", "parts by spaces", "a; b"),
        ("a1b", "part -1 by kind", "b"),
        ("o'dare-x 'y'", "words", "o'dare-x; y"),
    ]);
}

#[test]
fn changes() {
    check(&[
        ("31.04.2020", "date \"DD.MM.YYYY\"", "(missing: no date \"DD.MM.YYYY\")"),
        ("1.2.69", "date \"D.M.YY\"", "1969-02-01"),
        ("1.2.68", "date \"D.M.YY\"", "2068-02-01"),
        ("2024060", "date \"YYYYDDD\" to \"D.M.YYYY\"", "29.2.2024"),
        ("2023366", "date \"YYYYDDD\"", "(missing: no date \"YYYYDDD\")"),
        ("3 of mar 2020", "date \"D 'of' MMM YYYY\" to \"%j/%y\"", "063/20"),
        ("01022020 ", "date \"DDMMYYYY\"", "(missing: no date \"DDMMYYYY\")"),
        ("ß-ab ǆ", "title", "Ss-Ab ǅ"),
        ("ab\u{200d}", "neaten", "ab"),
        ("👨\u{200d}👩 x", "neaten", "👨\u{200d}👩 x"),
        ("\u{feff}a\r\n\tb\u{ad}", "neaten", "a b"),
        ("a-b", "replace \"-\" with \"\"", "ab"),
        ("-", "replace \"-\" with \"\"", "(missing: nothing left)"),
        ("a-b-c", "replace 2nd \"-\" with \"+\"", "a-b+c"),
        ("ab", "replace /(?<x>a)/ with \"${x}$x-\"", "aa-b"),
        ("$1", "replace \"1\" with \"$1\"", "$$1"),
        ("abc", "pad both 6 with \"-\"", "-abc--"),
        ("äbcdef", "clip 3 ending \"..\"", "ä.."),
        ("a1 é!", "keep letters \"!\"", "aé!"),
        ("0012", "drop leading \"0\"", "012"),
        ("xaa", "drop trailing \"aa\"", "x"),
        ("(a(b)", "between \"(\" and matching \")\"", "(missing: no \")\" behind \"(\")"),
        ("a|b|c", "between \"|\" and \"|\"", "b"),
        ("a|b|c|d", "between \"|\" and 2nd \"|\"", "b|c"),
        ("a=1;b=2", "between last \"=\" and \";\" or end", "2"),
        ("é1", "bytes 3", "1"),
        ("é1", "bytes 1", "(missing: would split a character)"),
        ("abc", "bytes 2 for 5", "bc (short: 3 bytes, not 6)"),
    ]);
}

#[test]
fn conditions() {
    // Each is true of the cell, and its opposite is false.
    for (cell, test) in [
        ("12", "is digits"),
        ("1٣", "is not digits"),
        ("Łó", "is letters"),
        ("AB1", "is upper"),
        ("12", "is not upper"),
        ("ab", "is lower"),
        ("-1,250.50", "is number"),
        ("007", "is not number"),
        ("12 ", "is not number"),
        ("12.0", "is not integer"),
        ("12", "is integer"),
        ("a.b@fernhollow.example", "is email"),
        ("a@@b.example", "is not email"),
        ("Ash <a@b.example>", "is not email"),
        ("x", "is not blank"),
        ("Ab", "is \"aB\" ignoring case"),
        ("b", "is not in (\"a\", \"c\")"),
        ("ab", "is not /a/"),
        ("FH-20", "is shape \"[U2]-[d+]\""),
        ("Fh", "is shape \"[L2]\""),
        ("ＦH", "is not shape \"[U2]\""),
        ("[a", "is shape \"[[][l]\""),
        ("aab", "is shape \"[l+]b\""),
        ("2024-02-29", "is date \"YYYY-MM-DD\""),
        ("2023-02-29", "is not date \"YYYY-MM-DD\""),
        ("seedling", "has no word \"seed\""),
        ("a-b", "has exactly 1 \"-\""),
        ("FH-1", "starts with upper"),
        ("kg 5kg", "ends with \"KG\" ignoring case"),
        ("abc", "length 3"),
        ("abc", "length ..3"),
        ("7", "value 1..99"),
        ("007", "value 7"),
        ("-3", "value < -2.5"),
        ("10", "value > 9"),
        ("1,000", "value >= 1000"),
        ("99999999999999999999.1", "value > 99999999999999999999"),
        ("2024-01-30", "earlier than \"2024-01-31\""),
        ("x", "same as {code}"),
    ] {
        let yes = format!("\"yes\" if {{code}} {test} else \"no\"").leak();
        let no = format!("\"yes\" if not ({{code}} {test}) else \"no\"").leak();
        check(&[(cell, yes, "yes"), (cell, no, "no")]);
    }
    check(&[
        ("", "\"yes\" if {code} is blank else \"no\"", "yes"),
        ("", "\"yes\" if {code} is not \"a\" else \"no\"", "yes"),
        ("", "\"yes\" if {code} length 0 else \"no\"", "no"),
        ("a-1", "after \"-\" if it is digits and {code} has \"a\" else \"no\"", "1"),
        ("a-1", "after \"-\" if it is letters or is digits else \"no\"", "1"),
        ("a-1", "after \"-\" if (before \"-\") is \"b\"", "(missing: condition not met)"),
        ("a-1", "after \"+\" if it is digits", "(missing: no \"+\")"),
        ("a-1", "missing \"x\" if {code} has \"+\" else missing \"y\" else \"z\"", "(missing: y)"),
    ]);
}

/// Every mark from both ends, with every step that takes one.
#[test]
fn marks_of_every_kind() {
    check(&[
        ("a1b22c333", "before digit", "a"),
        ("a1b22c333", "after digit", "b22c333"),
        ("a1b22c333", "after 2nd digit", "2c333"),
        ("a1b22c333", "from last letter", "c333"),
        ("a1b22c333", "through 2nd last letter", "a1b"),
        ("aBc", "before upper", "a"),
        ("ABc", "from lower", "c"),
        ("a\u{a0}b c", "before space", "a"),
        ("a\u{a0}b c", "after last space", "c"),
        ("a1 _b", "from symbol", "_b"),
        ("Ž1", "before digit", "Ž"),
        ("e\u{301}1", "before letter or end", "(missing: nothing left)"),
        ("1️⃣2", "before digit", "1️⃣"),
        ("abc", "after 2nd character", "c"),
        ("a.b;c", "after 2nd any of \".;\"", "c"),
        ("a.b;c", "before last any of \".;\"", "a.b"),
        ("aXbxc", "after 2nd any of \"x\" ignoring case", "c"),
        ("FH12GR3", "after /[0-9]+/", "GR3"),
        ("FH12GR3", "before last /[A-Z]+/", "FH12"),
        ("FH12GR3", "from /gr/i", "GR3"),
        ("FH12GR3", "from /gr/ ignoring case", "GR3"),
        ("ref Ref REF", "after 2nd word \"ref\" ignoring case", " REF"),
        ("ref_1 ref-2", "after word \"ref\"", "-2"),
        ("x=1; y=2", "between last \"=\" and \";\" or end", "2"),
        ("<a><b>", "between \"<\" and \">\"", "a"),
        ("<a><b>", "between 2nd \"<\" and \">\"", "b"),
        ("<a><b>", "between \"<\" and last \">\"", "a><b"),
        ("[a[b]c]d]", "between \"[\" and matching \"]\"", "a[b]c"),
        ("«a «b» c» d", "between \"«\" and matching \"»\"", "a «b» c"),
        ("k: v", "between word \"k\" and \"v\"", ": "),
        ("kg 5 KG", "between \"KG\" and \"kg\" ignoring case | trim", "5"),
        ("no brackets", "between \"(\" and \")\"", "(missing: no \"(\")"),
        ("()", "between \"(\" and \")\"", "(missing: nothing left)"),
        ("a@b@c", "x, y = halves at last \"@\"", "x: a@b, y: c"),
        ("@c", "x, y = halves at \"@\"", "x: , y: c (x, missing: part 1 is empty)"),
        ("@c", "x?, y? = halves at \"@\"", "x: , y: c"),
        ("日本-x", "position of \"-\"", "3"),
        ("a-b", "position of 2nd \"-\"", "(missing: no 2nd \"-\")"),
        ("aaa", "count of \"aa\"", "1"),
        ("a1b2", "count of letter", "2"),
        ("", "count of \"a\"", "0 (blank: blank)"),
        ("  x", "drop leading space", " x"),
        ("x--", "drop trailing \"-\"", "x-"),
        ("x", "drop leading \"x\"", "(missing: nothing left)"),
        ("Xx", "drop leading \"x\" ignoring case", "x"),
        ("kgkg", "drop trailing word \"kg\"", "kgkg"),
        ("12 kg", "drop trailing word \"kg\" | trim", "12"),
        ("a12", "drop trailing /[0-9]+/", "a"),
    ]);
}

/// Every separator, one part and several, from both ends.
#[test]
fn separators_of_every_kind() {
    check(&[
        ("a;b,c", "part 2 by any of \";,\"", "b"),
        ("a;b,c", "part 2..3 by any of \";,\"", "b,c"),
        ("aXbxc", "parts by \"x\" ignoring case", "a; b; c"),
        ("a - b-c", "parts by / ?- ?/", "a; b; c"),
        ("a--b", "parts by /-*/", "a; b"),
        (" a  b\u{2003}c ", "part -1 by spaces", "c"),
        (" a  b c ", "part 2.. by spaces", "b c"),
        ("a", "part 1 of 1 by spaces", "a"),
        ("FH-2019/BRA", "part 3 by kind", "BRA"),
        ("FH-2019/BRA", "part 2..3 by kind", "2019/BRA"),
        ("--", "part 1 by kind", "(missing: 0 parts)"),
        ("--", "parts by kind", "(missing: no parts)"),
        ("Łódź12", "parts by kind", "Łódź; 12"),
        ("FH2019BRA", "part 2 by widths 2,4,3", "2019"),
        ("FH2019BRA", "part 4 by widths 2,4,3", "(missing: 3 parts)"),
        ("FH20", "part 2 by widths 2,4", "20 (short: part 2 has 2 characters, not 4)"),
        ("FH20", "part 2 of 2 by widths 2,4", "20 (short: part 2 has 2 characters, not 4)"),
        ("日本語ab", "x, y = parts by widths 3,2", "x: 日本語, y: ab"),
        ("FH2019BRAxy", "part last by widths 2,4,3", "xy"),
        ("a-b-c", "part 2 of 3 by \"-\"", "b"),
        ("a-b", "part 2 of 3 by \"-\"", "(missing: 2 parts, not 3)"),
        ("a-b-c-d", "part last of 3 by \"-\"", "(missing: 4 parts, not 3)"),
        ("a", "part 1 of 2 by \"-\"", "(missing: 1 part, not 2)"),
        ("a-b-c-d", "part 2..-2 by \"-\"", "b-c"),
        ("a-b", "part 2..-2 by \"-\"", "(missing: 2 parts)"),
        ("a-b-c", "part ..-2 by \"-\"", "a-b"),
        ("a-b-c", "part 2nd by \"-\"", "b"),
        ("a-b-c", "part first by \"-\"", "a"),
        ("one two-three", "word 2", "two-three"),
        ("'quoted' word", "word 1", "quoted"),
        ("d'Arc it’s", "words", "d'Arc; it’s"),
        ("a- -b", "words", "a; b"),
        ("x_1 (y)", "word -1", "y"),
        ("...", "word 1", "(missing: no words)"),
        ("...", "words", "(missing: no words)"),
        ("a b", "word 3", "(missing: 2 words)"),
        ("a1b22", "block last of digits", "22"),
        ("a1b22", "block 3 of digits", "(missing: 2 blocks of digits)"),
        ("12", "block 1 of letters", "(missing: no letters)"),
        ("é1ß", "blocks of letters", "é; ß"),
    ]);
}

/// Templates, lists and nested cuts.
#[test]
fn cuts_in_cuts() {
    check(&[
        ("a-b", "\"<{code}>\"", "<a-b>"),
        ("a-b", "\"{code | before '-'}{code | after '-'}\"", "ab"),
        ("a-b", "\"{code | after \\\"-\\\"}\"", "b"),
        ("a-b", "\"{code | after '+' else 'none'}\"", "none"),
        ("a-b", "\"{code | after '+' else ''}x\"", "x"),
        ("a-b", "\"{code | parts by '-'}\"", "a; b"),
        ("a-b", "\"{code if {code} has '+' else 'no'}\"", "no"),
        ("a-b", "\"{code if {code} has '+' else {code}}}}\"", "a-b}"),
        ("a-b", "\"\\u{1F331}{code}\\t\" | trim", "🌱a-b"),
        ("a-b", "\"{{{code}}}\"", "{a-b}"),
        ("a-b", "\"{column 1}\"", "a-b"),
        ("a-b", "\"{'code'}\"", "a-b"),
        ("a-b", "(after \"-\") | upper", "B"),
        ("a-b", "((after \"-\") | upper else \"x\") | lower", "b"),
        ("a-b", "(after \"+\" else after \"-\") | upper else \"x\"", "B"),
        ("a-b", "list (before \"-\", after \"-\") | pick 2", "b"),
        ("a-b", "x, y = list (after \"-\", before \"-\")", "x: b, y: a"),
        ("a-b", "list (parts by \"-\", \"c\") | join \"\"", "abc"),
        ("a-b", "list (\"\", \"\") | join \"\" else \"x\"", "x"),
        ("a-b", "parts by \"-\" | upper | join \"+\" | replace \"+\" with \"/\"", "A/B"),
        ("b-a-b", "parts by \"-\" | distinct | join \"\"", "ba"),
        ("a-b # c", "after \"#\" # the rest", " c"),
    ]);
}

/// What a person would call the same stays the same, and what changes changes whole characters.
#[test]
fn texts_of_every_script() {
    check(&[
        ("ǅungla", "upper", "ǄUNGLA"),
        ("İ", "lower", "i\u{307}"),
        ("ὈΔΥΣΣΕΎΣ", "title", "Ὀδυσσεύς"),
        ("ıŞ", "upper", "IŞ"),
        ("éa e\u{301}b", "title", "Éa E\u{301}b"),
        ("한국어-1", "first 2", "한국"),
        ("हिन्दी", "last 1", "न्दी"),
        ("👩‍🔬🧪x", "chars 2", "🧪"),
        ("🇨🇿🇩🇪", "pad left 4 with \"·\"", "··🇨🇿🇩🇪"),
        ("a\r\nb\r\nc", "part 2 by \"\\n\" else \"half a line end\"", "half a line end"),
        ("a\u{200b}b", "neaten", "ab"),
        ("\u{202e}abc", "neaten | length", "3"),
        ("ﬁn", "neaten", "ﬁn"),
        ("A\u{30a}", "neaten", "Å"),
        ("Ⅷ 8 ٨", "keep digits", "8"),
        ("Ⅷ x", "letters", "x"),
        ("１２", "digits", "(missing: no digits)"),
        ("x\u{301}1", "keep letters", "x\u{301}"),
        ("日本 語", "words", "日本; 語"),
        ("ÀB", "before \"b\" ignoring case", "À"),
        ("Maße", "after \"MASSE\" ignoring case", "(missing: no \"MASSE\")"),
        ("Maße", "before \"ẞ\" ignoring case", "Ma"),
    ]);
}
