//! Numbers as they are written in many countries: what is read, and what leaves doubt.

use crate::check;

const JOINT: &str = "a comma or point touches it";
const MINUS: &str = "a minus stands behind it";
const NO_SIGN: &str = "a minus before it is no sign there";
const BRACKETS: &str = "brackets close around it";
const ZEROS: &str = "zeros in front were dropped";
const APOSTROPHE: &str = "an apostrophe touches it";
const BLANK: &str = "a blank may divide it";
const DASH: &str = "a dash stands where a sign could";
const CURRENCY: &str = "a minus stands between a currency and it";
const MINUS_BLANK: &str = "a minus and a blank stand before it";
const MINUS_WORD: &str = "a minus and a word stand before it";
const FIGURE: &str = "a figure other than 0-9 touches it";
const EXPONENT: &str = "an exponent stands behind it";
const UNSEEN: &str = "a character that cannot be seen divides it";
const SIGNS: &str = "two signs";
const THREES: &str = "not grouped in threes";
const DAY: &str = "not grouped in threes; a date is read with `date`";
const ALTERNATE: &str = "its marks alternate";

/// Cases of one cut: a cell, the number, and why it is doubtful, if it is.
fn of(cut: &str, cases: &[(&'static str, &str, &str)]) {
    let cut: &'static str = cut.to_owned().leak();
    let gives = |number: &str, why: &str| match why {
        "" => number.to_owned(),
        why => format!("{number} (doubtful: {why})"),
    };
    let cases = cases.iter().map(|(cell, number, why)| (*cell, cut, &*gives(number, why).leak()));
    check(&cases.collect::<Vec<_>>());
}

#[test]
fn a_point_is_the_decimal_mark() {
    of(
        "number",
        &[
            ("INV 2291, EUR 1,918.52 paid", "2291", ""),
            ("($272.96)", "272.96", BRACKETS),
            ("( $ 272.96 )", "272.96", BRACKETS),
            ("$(272.96)", "272.96", BRACKETS),
            ("(EUR 5)", "5", BRACKETS),
            ("(5 EUR)", "5", BRACKETS),
            ("(12 kg)", "12", ""),
            ("tray (lot 5)", "5", ""),
            ("434'659", "434", APOSTROPHE),
            ("434’659", "434", APOSTROPHE),
            ("the '19 harvest", "19", ""),
            ("88 722,07", "88", BLANK),
            ("88 722.07", "88", BLANK),
            ("1 234 567.89", "1", BLANK),
            ("88\u{a0}722", "88", BLANK),
            ("88\u{202f}722", "88", BLANK),
            ("88\u{a0}72", "88", ""),
            ("3 400", "3", ""),
            ("2031 234.50", "2031", ""),
            ("0 234.50", "0", ""),
            ("–5", "5", DASH),
            ("7 –5", "7", ""),
            ("‑5", "5", DASH),
            ("▲1,234", "1234", DASH),
            ("lamp–5", "5", ""),
            ("CHF-850.90", "850.90", CURRENCY),
            ("CHF -850.90", "-850.90", ""),
            ("CHF - 850.90", "850.90", CURRENCY),
            ("kr-5", "5", CURRENCY),
            ("AB-12", "12", ""),
            ("ABC-12", "12", ""),
            ("XCHF-12", "12", ""),
            ("kr.-5", "5", NO_SIGN),
            ("CHF–5", "5", CURRENCY),
            ("TL-5", "5", ""),
            ("5-kr", "5", MINUS),
            ("5-kg", "5", ""),
            ("5 EUR-", "5", MINUS),
            ("(Rs. 5)", "5", BRACKETS),
            ("(no. 5)", "5", ""),
            ("1 234 567", "1", BLANK),
            ("- 5", "5", MINUS_BLANK),
            ("  - 5", "5", MINUS_BLANK),
            ("(- 5)", "5", MINUS_BLANK),
            ("t = - 5", "5", MINUS_BLANK),
            ("balance: - 5", "5", MINUS_BLANK),
            ("- € 5", "5", MINUS_BLANK),
            ("lamp - 5", "5", ""),
            ("-kr 5", "5", MINUS_WORD),
            ("-Rs. 5", "5", MINUS_WORD),
            ("-EUR 5", "5", MINUS_WORD),
            ("–Rs. 5", "5", MINUS_WORD),
            ("- USD 5", "5", MINUS_WORD),
            ("- box 5", "5", ""),
            ("– 5", "5", MINUS_BLANK),
            ("a -kr 5", "5", ""),
            ("-R$ 1,428.21", "-1428.21", ""),
            ("-€ 5", "-5", ""),
            ("-US$5", "-5", ""),
            ("R$ -5", "-5", ""),
            ("R$-5", "-5", ""),
            ("abcd$-5", "-5", ""),
            ("\u{200e}-5", "-5", ""),
            ("-\u{200f}5", "-5", ""),
            ("\u{200f}−5", "-5", ""),
            ("1,250\u{200f}-", "1250", MINUS),
            ("5€-", "5", MINUS),
            ("5 €-", "5", MINUS),
            ("5 € - 3", "5", ""),
            ("12\u{200b}34", "12", UNSEEN),
            ("5½", "5", FIGURE),
            ("12٣", "12", FIGURE),
            ("50 m²", "50", ""),
            ("1.5E+05", "1.5", EXPONENT),
            ("8.01235E12", "8.01235", EXPONENT),
            ("12E-05", "12", ""),
            ("1e5", "1", ""),
            ("5,-", "5", ""),
            ("5.-", "5", ""),
            ("5.–", "5", ""),
            ("1٬234٫50", "1", JOINT),
            ("-05-", "-5", "a minus stands behind it; zeros in front were dropped"),
        ],
    );
    of(
        "number last",
        &[
            ("434'659", "659", APOSTROPHE),
            ("88 722.07", "722.07", BLANK),
            ("88\u{a0}722", "722", BLANK),
            ("5-3", "3", ""),
        ],
    );
    // The worst case there was: what was read is nothing like what was meant, and it is said.
    of("number last decimal \",\"", &[("INV 2291 EUR 1,918.52 paid", "52", JOINT)]);
    of(
        "number decimal \",\"",
        &[
            ("88 722,07", "88722.07", ""),
            ("88 722", "88722", ""),
            ("1'234,50", "1", APOSTROPHE),
            ("2031\u{a0}234", "2031", BLANK),
        ],
    );
}

#[test]
fn each_number_by_its_own_marks() {
    of(
        "number decimal either",
        &[
            ("1,918.52", "1918.52", ""),
            ("1.918,52", "1918.52", ""),
            ("1.234.567", "1234567", ""),
            ("1,234,567", "1234567", ""),
            ("12,5", "12.5", ""),
            ("12.50", "12.50", ""),
            ("12,3456", "12.3456", ""),
            ("1,234", "1234", "1234 or 1.234"),
            ("-1.234", "-1234", "-1234 or -1.234"),
            ("0,125", "0.125", ""),
            ("0.125", "0.125", ""),
            (",500", "0.500", ""),
            (".500", "0.500", ""),
            ("-,5", "-0.5", ""),
            ("1234,567", "1234.567", "1234.567 or 1234567"),
            ("1,23,456.78", "123456.78", THREES),
            ("1234,567.8", "1234567.8", THREES),
            ("1.23.456", "123456", THREES),
            ("31.12.2031", "31122031", DAY),
            ("2031.12.31", "20311231", DAY),
            ("1,234.567,89", "1234567.89", ALTERNATE),
            ("88\u{a0}722,07", "88722.07", ""),
            ("88\u{202f}722", "88722", ""),
            ("1 234,50", "1234.50", ""),
            ("1 234 567.8", "1234567.8", ""),
            ("1 234,500", "1234.500", ""),
            ("3 400", "3", BLANK),
            ("3 trays", "3", ""),
            ("434'659.77", "434659.77", ""),
            ("434’659", "434659", ""),
            ("1'234'567,8", "1234567.8", ""),
            ("5'12", "5", APOSTROPHE),
            ("4346'592", "4346592", THREES),
            ("lot 5, 6 trays", "5", ""),
            ("12.", "12", ""),
            ("007,5", "7.5", ZEROS),
            ("(1.234,50)", "1234.50", BRACKETS),
            ("CHF 1'250.50", "1250.50", ""),
        ],
    );
    of("number 2 decimal either", &[("3 400", "400", "")]);
    check(&[
        ("1,5 and 2.5 of 1.000,0", "numbers decimal either", "1.5; 2.5; 1000.0"),
        ("total: 1.250,50 EUR", "after word \"total\" | number next decimal either", "1250.50"),
    ]);
}

#[test]
fn accounts() {
    of(
        "number accounting",
        &[
            ("125.00-", "-125.00", ""),
            ("(125.00)", "-125.00", ""),
            ("( 125.00 )", "-125.00", ""),
            ("-€5", "-5", ""),
            ("€-5", "-5", ""),
            ("( €5 )", "-5", ""),
            ("(5€)", "-5", ""),
            ("€(5)", "-5", ""),
            ("$ (5)", "-5", ""),
            ("[5]", "5", BRACKETS),
            ("(5 EUR)", "5", BRACKETS),
            ("(EUR 5)", "5", BRACKETS),
            ("(12 kg)", "12", ""),
            ("(-5)", "-5", SIGNS),
            ("-5-", "-5", SIGNS),
            ("-(5)", "-5", SIGNS),
            ("-€(5)", "-5", SIGNS),
            ("5 -", "5", MINUS),
            ("5 - 3", "5", ""),
            ("5,-", "5", ""),
            ("5.-", "5", ""),
            ("(0.00)", "0.00", ""),
            ("0-", "0", ""),
            ("(.50)", "-0.50", ""),
            ("5-3", "5", ""),
            ("(5", "5", ""),
            ("125.00-\u{200f}", "-125.00", ""),
        ],
    );
    of("number decimal \",\" accounting", &[("6.084,41-", "-6084.41", "")]);
    of(
        "number last decimal either accounting",
        &[("3 of (6.084,41)", "-6084.41", ""), ("3 of 6'084.41-", "-6084.41", "")],
    );
    check(&[
        ("due: (125.00)", "after \"due\" | number next accounting", "-125.00"),
        ("due: €125.00", "after \"due\" | number next accounting", "125.00"),
        ("due: (12 kg)", "after \"due\" | number next accounting", "12"),
        ("due: €125.00", "after \"due\" | number next", "(missing: no number next)"),
        // A bracket before the piece is none of its own.
        (
            "due (125.00)",
            "after \"(\" | number accounting",
            "125.00 (doubtful: brackets close around it)",
        ),
        ("(1,250.00) and 3-", "numbers accounting", "-1250.00; -3"),
        ("lamp (3): lamp (12.5)", "number after \"lamp \" accounting", "-3"),
        ("lamp cleaned, Lamp: 401 W", "number after word \"lamp\" ignoring case", "401"),
        ("lamp 1, lamp 2", "number after 2nd \"lamp\"", "2"),
        ("lamp 1, lamp x", "number after 2nd \"lamp\"", "(missing: no number after 2nd \"lamp\")"),
        ("ref 1.234,5", "number after \"ref\" decimal either", "1234.5"),
        ("(125.00)", "trim if it is number accounting", "(125.00)"),
        ("(125.00)", "trim if it is number else \"?\"", "?"),
        ("1,234", "trim if it is number decimal either else \"?\"", "?"),
        ("(125.00)", "trim if it value < 0 accounting else \"?\"", "(125.00)"),
        ("1.250,50", "trim if it value 1250.50 decimal either else \"?\"", "1.250,50"),
    ]);
}

#[test]
fn numbers_are_rounded_and_grouped() {
    check(&[
        ("2.345", "decimals 2", "2.35 (over: more than 2 decimals)"),
        ("-2.345", "decimals 2", "-2.35 (over: more than 2 decimals)"),
        ("9.995", "decimals 2", "10.00 (over: more than 2 decimals)"),
        ("-0.004", "decimals 2", "0.00 (over: more than 2 decimals)"),
        ("2.300", "decimals 1", "2.3"),
        ("7", "decimals 3", "7.000"),
        ("0.5", "decimals 0", "1 (over: more than 0 decimals)"),
        (
            "99999999999999999999.5",
            "decimals 0",
            "100000000000000000000 (over: more than 0 decimals)",
        ),
        ("1,250", "decimals 2", "(missing: no plain number)"),
        ("123", "grouped", "123"),
        ("1234", "grouped", "1,234"),
        ("-123456.789", "grouped by \"'\"", "-123'456.789"),
        ("1234,5", "grouped by \".\"", "1.234,5"),
        ("1234.5", "grouped by \".\"", "(missing: its decimal mark is \".\" as well)"),
        ("12a", "grouped", "(missing: no plain number)"),
    ]);
}

/// A doubt goes with what is made of the number, to the cell it ends up in.
#[test]
fn doubts_go_with_the_number() {
    let joint = |name: &str| format!("{name} (doubtful: {JOINT})");
    let cases = [
        ("12,34 x", "number | pad left 5 with \"0\"", joint("00012")),
        ("12,34 x", "\"no. {code | number}\"", joint("no. 12")),
        ("12,34 x", "(number) | last 1", joint("2")),
        ("12,34 x", "list ({code} | number, {code} | number last) | join \"/\"", joint("12/34")),
        ("12,34 x", "numbers | reverse", joint("34; 12")),
        ("12,34 x", "number if {code} has \"q\" else last 1", "x".to_owned()),
        ("12,34 x", "\"big\" if (number) value > 5 else \"small\"", joint("big")),
        ("12,34 x", "\"none\" if (number) is blank else last 1", "x".to_owned()),
        ("12,34 x", "numbers | count", "2".to_owned()),
        (
            "12,34 5",
            "a, b, c = numbers",
            format!("a: 12, b: 34, c: 5 (a, doubtful: {JOINT}) (b, doubtful: {JOINT})"),
        ),
    ];
    check(
        &cases
            .iter()
            .map(|(cell, cut, gives)| (*cell, *cut, &*gives.clone().leak()))
            .collect::<Vec<_>>(),
    );
}

#[test]
fn brackets_and_templates_behind_a_bar() {
    check(&[
        (
            "FH-12-x",
            "trim | (part 2 of 3 by \"-\" else part 1 of 3 by \".\") | pad left 6 with \"0\"",
            "000012",
        ),
        (
            "9.b.c",
            "trim | (part 2 of 3 by \"-\" else part 1 of 3 by \".\") | pad left 6 with \"0\"",
            "000009",
        ),
        ("417", "trim | \"FH/{it}\"", "FH/417"),
        ("417", "trim | (first 2 if it has \"9\" else \"<{it}>\")", "<417>"),
        ("417", "trim else \"x\" then \"FH/{it}\" | (last 2 else \"\")", "17"),
        ("a-bc", "parts by \"-\" | \"<{it}>\"", "<a>; <bc>"),
        ("a--bc", "parts by \"-\" | \"<{it}>\"", "<a>; ; <bc>"),
        ("a-bc", "parts by \"-\" | (pick 2 else \"x\")", "bc"),
        ("417", "after \"-\" | \"FH/{it}\"", "(missing: no \"-\")"),
        ("417", "after \"-\" | (first 1 else \"none\")", "(missing: no \"-\")"),
        ("417", "trim | (after \"-\" else \"\") else \"outer\"", ""),
        (
            "417",
            "trim | (after \"-\" else missing \"no dash\") else \"outer\"",
            "(missing: no dash)",
        ),
        ("417", "trim | (after \"-\") else \"outer\"", "outer"),
        ("417-8", "trim | (before \"-\" | \"{it | last 1}{first 2}{code}\")", "741417-8"),
        (" 417", "trim | ({code} | length else first 1)", "4"),
        (" x417", "trim | (after \"-\" else {code} | length else first 1)", "5"),
        (
            "12-7",
            "part 2 by \"-\" | \"{first 2 | pad left 3 with '0'}\"",
            "007 (short: 1 character, not 2)",
        ),
        ("ab", "upper | (lower if it is \"ab\" else trim) | \"{it}{it}\"", "abab"),
    ]);
}

#[test]
fn names_that_may_be_blank_stand_anywhere() {
    check(&[
        (
            "2, High St, York, Y1",
            "flat?, street, town, post = parts by \", \"",
            "flat: 2, street: High St, town: York, post: Y1",
        ),
        (
            "High St, York, Y1",
            "flat?, street, town, post = parts by \", \"",
            "flat: , street: High St, town: York, post: Y1",
        ),
        ("a-b-z", "a, b?, c?, z = parts by \"-\"", "a: a, b: b, c: , z: z"),
        ("a-z", "a, b?, c?, z = parts by \"-\"", "a: a, b: , c: , z: z"),
        ("a", "a, b?, z = parts by \"-\"", "a: a, b: , z:  (parts: 1 part for 3 names)"),
        ("a-b-c-d", "a, b?, z = parts by \"-\"", "a: a, b: b, z: c (parts: 4 parts for 3 names)"),
    ]);
}

#[test]
fn words_that_tidy() {
    check(&[
        ("Ångström Łódź", "without marks", "Angstrom Lodz"),
        ("한국 ñ", "without marks", "한국 n"),
        ("straße", "without marks", "strasse"),
        ("\u{301}", "without marks", "(missing: nothing left)"),
        ("MINA O'DARE", "title", "Mina O'Dare"),
        ("D’ANGELO'S IT'S", "title", "D’Angelo's It's"),
        ("'TWAS", "title", "'Twas"),
        ("red clover x", "clip 5 ending \"…\"", "red…"),
        ("a-b-c", "parts by \"-\" | reverse", "c; b; a"),
        ("abc", "reverse", "abc"),
        (
            "2031-01-05 23:59",
            "date \"YYYY-MM-DD HH:mm\" to \"Do MMMM YYYY, h:mm a\"",
            "5th January 2031, 11:59 pm",
        ),
        ("2031-01-05 23:59", "date \"YYYY-MM-DD HH:mm\" to \"YYYY-MM-DD\"", "2031-01-05"),
    ]);
}

/// How amounts are written in a country: what groups, the decimal mark, a currency before and
/// after, and the words that read them.
const COUNTRIES: [(&str, &str, &str, &str, &str); 16] = [
    (",", ".", "$", "", "number accounting"),
    (",", ".", "USD ", "", "number"),
    (",", ".", "£", "", "number decimal either accounting"),
    (".", ",", "", " €", "number decimal \",\""),
    (".", ",", "", " EUR", "number decimal \",\" accounting"),
    ("\u{202f}", ",", "", "\u{a0}€", "number decimal \",\""),
    (" ", ",", "", " €", "number decimal either"),
    ("'", ".", "CHF ", "", "number decimal either accounting"),
    ("’", ".", "Fr. ", "", "number decimal either"),
    (".", ",", "R$ ", "", "number decimal either accounting"),
    (",", ".", "Rs. ", "", "number"),
    (",", ".", "د.إ.\u{200f} ", "", "number accounting"),
    ("\u{a0}", ",", "", " zł", "number decimal \",\""),
    (".", ",", "kr. ", "", "number decimal \",\" accounting"),
    ("\u{a0}", ",", "", "kr", "number decimal \",\""),
    (",", ".", "￥", "", "number accounting"),
];

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig::with_cases(4000))]

    /// Whichever way an amount below zero is written: what is read is right, or it is a finding.
    #[test]
    fn no_amount_is_wrong_in_silence(
        country in 0usize..COUNTRIES.len(), whole in 0u64..90_000_000, cents in proptest::option::of(0u8..100), sign in 0usize..12,
        minus in proptest::sample::select(vec!["-", "−", "–"]),
    ) {
        let (group, mark, before, behind, words) = COUNTRIES[country];
        let digits = whole.to_string();
        let threes: Vec<&str> = digits.as_bytes().rchunks(3).rev().map(|three| std::str::from_utf8(three).unwrap()).collect();
        let decimals = cents.map_or(String::new(), |cents| format!("{mark}{cents:02}"));
        let number = format!("{}{decimals}", threes.join(group));
        let amount = format!("{before}{number}{behind}");
        let text = match sign {
            0..=2 => amount,
            3 => format!("{minus}{amount}"),
            4 => format!("{before}{minus}{number}{behind}"),
            5 => format!("{before}{number}{}{behind}", minus.replace('–', "-")),
            6 => format!("({amount})"),
            7 => format!("{before}({number}){behind}"),
            8 => format!("{minus} {amount}"),
            9 => format!("\u{200e}{minus}{amount}"),
            10 => format!("{before}\u{200f}{minus}\u{200f}{number}{behind}"),
            _ => format!("( {amount} )"),
        };
        let is_negative = sign > 2 && (whole > 0 || cents.is_some_and(|cents| cents > 0));
        let right = format!("{}{whole}{}", if is_negative { "-" } else { "" }, decimals.replace(',', "."));
        let assignment = keen_notch_core::parse_assignment(&format!("x = {{c}} | {words}")).unwrap();
        let plan = keen_notch_core::Plan::compile(&[assignment], &["c".to_owned()], &Default::default()).unwrap();
        let mut scratch = keen_notch_core::Scratch::default();
        let result = plan.evaluate([text.as_str()], &mut scratch);
        let given = result.cells[0].text;
        let is_zero = given.trim_start_matches('-') == right && !is_negative;
        proptest::prop_assert!(given == right || is_zero || result.has_finding(), "{words} of {text:?}: {given}");
        let is_plain = sign <= 2 && cents.is_some();
        proptest::prop_assert!(!is_plain || (given == right && !result.has_finding()), "{words} of {text:?}: {given}");
    }
}
