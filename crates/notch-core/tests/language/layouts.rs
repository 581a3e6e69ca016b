//! Layouts, on generated columns whose layouts are known.

use std::collections::BTreeMap;

use keen_notch_core::{ColumnSurvey, Plan, PlanOptions, Scratch, parse_assignment};
use proptest::prelude::*;

use super::made::Dice;

/// A column to be made: templates with how many texts each makes, and odd texts.
struct Column {
    name: &'static str,
    templates: &'static [(&'static str, usize)],
    odd: &'static [&'static str],
}

const COLUMNS: &[Column] = &[
    Column {
        name: "courier notes",
        templates: &[
            ("Reference {d4-5} - {first} reseeded, {n} % germination (kp: {full})", 90),
            ("{full} left {d1-2} bags at {place}, ref: {d5}", 80),
            ("no one at {place}; call {phone} (lot {U2}-{year}-{d3})", 70),
        ],
        odd: &["nobody there", "Reference pending", "???"],
    },
    Column {
        name: "two suppliers",
        templates: &[("{U2}-{year}-{U3}-{d5}-{d1}", 300), ("{U3}.{year}/{d5}", 180)],
        odd: &["FH-2026-TIL-4354O-7", "TIL2026/43546", "FH 2026 TIL 43546 7"],
    },
    Column {
        name: "links",
        templates: &[("https://seeds.example/{slug}/{d4} ({full})", 150), ("{email} ({full})", 60)],
        odd: &["n/a"],
    },
    Column {
        name: "equal signs",
        templates: &[
            ("seeds sown by {first}, {d2} g", 120),
            ("weighed again by {first}, {d2} g", 100),
            ("returned damp from {place}, {d2} g", 60),
        ],
        odd: &["lost, 5 kg"],
    },
    Column {
        name: "hex and serials",
        templates: &[("{hex8}-{hex4}-{hex4}", 200), ("SN{d6}", 100), ("{d6}/{U1}", 50)],
        odd: &["unknown"],
    },
    Column {
        name: "amounts",
        templates: &[("EUR {n}", 120), ("{n} kr", 90), ("({n})", 40)],
        odd: &["free"],
    },
    Column {
        name: "log",
        templates: &[
            ("{date} {time} INFO store {d1-2}: {d1-3} packets moved to {place}", 200),
            ("{date} {time} WARN store {d1-2}: temperature {n} over {n}", 60),
            ("{date} {time} ERROR badge {U1}{d4} refused", 40),
        ],
        odd: &["-- restart --"],
    },
    Column {
        name: "one code",
        templates: &[("FH-{year}-{U3}-{d5}", 400)],
        odd: &["fh-2026-TIL-00417", "FH–2026-TIL-00417", "FH-2026-TIL-417"],
    },
    Column {
        name: "names",
        templates: &[
            ("{last}, {first}", 150),
            ("{first} {last}", 120),
            ("{first} {last} <{email}>", 60),
        ],
        odd: &["(vacant)"],
    },
    Column {
        name: "deep links",
        templates: &[
            ("https://seeds.example/{path} ({full})", 200),
            ("see {full}, page {d1-3}", 60),
        ],
        odd: &["https:/seeds.example", "(none)"],
    },
    Column {
        name: "initials",
        templates: &[
            ("{person} took {d1-3} g of {species}", 200),
            ("{person} brought {d1-2} bags", 120),
        ],
        odd: &["nobody came"],
    },
    Column {
        name: "bank references",
        templates: &[
            ("TRF {U2}{d8} {FULL} INV {d4-6}", 120),
            ("CARD {d4} {date} {FULL}", 90),
            ("DD {hex8} {FULL} SUBSCRIPTION", 60),
            ("{ref} {d5}", 80),
        ],
        odd: &["CASH", "TRF pending"],
    },
    Column {
        name: "telephones",
        templates: &[
            ("+44 {d4} {d6}", 100),
            ("(0{d3}) {d6}", 80),
            ("0{d3}-{d6}", 70),
            ("ext. {d3-4}", 50),
        ],
        odd: &["none", "0171"],
    },
    Column {
        name: "species and weights",
        templates: &[("{species}, {n} g", 200), ("{species} ({n} g)", 100)],
        odd: &["mixed"],
    },
    Column {
        name: "temperatures",
        templates: &[("{signed} °C", 200), ("{signed} F", 100), ("broken since {date}", 40)],
        odd: &["hot"],
    },
    Column {
        name: "eight ways",
        templates: &[
            ("bed {d1-2}", 60),
            ("bed {d1-2}, row {d1-2}", 50),
            ("shelf {U1}{d2}", 45),
            ("drawer {d3}/{d1}", 40),
            ("{place} cold store", 35),
            ("see under {first}", 30),
            ("loan no. {d4}", 28),
            ("lot {U2}-{year}", 25),
        ],
        odd: &["gone"],
    },
];

/// How well two partitions of the same texts agree: 1 where they are the same, about 0 by chance
/// (Hubert and Arabie, Comparing Partitions, 1985).
fn adjusted_rand_index(a: &[usize], b: &[usize]) -> f64 {
    let pairs = |n: usize| (n * n.saturating_sub(1) / 2) as f64;
    let count = |keys: Vec<(usize, usize)>| -> f64 {
        let mut counts: BTreeMap<(usize, usize), usize> = BTreeMap::new();
        keys.into_iter().for_each(|key| *counts.entry(key).or_default() += 1);
        counts.values().map(|n| pairs(*n)).sum()
    };
    let both = count(a.iter().copied().zip(b.iter().copied()).collect());
    let (of_a, of_b) =
        (count(a.iter().map(|n| (*n, 0)).collect()), count(b.iter().map(|n| (*n, 0)).collect()));
    let expected = of_a * of_b / pairs(a.len());
    let most = (of_a + of_b) / 2.0;
    if most == expected { 1.0 } else { (both - expected) / (most - expected) }
}

#[test]
fn known_layouts_are_found() {
    let mut screen = String::new();
    let mut wrong = Vec::new();
    for Column { name, templates, odd } in COLUMNS {
        let mut dice = Dice(name.len() as u64);
        let mut texts: Vec<(usize, String)> = Vec::new();
        for (n, (template, count)) in templates.iter().enumerate() {
            texts.extend((0..*count).map(|_| (n, dice.text(template))));
        }
        texts.extend(odd.iter().enumerate().map(|(n, text)| (100 + n, (*text).to_owned())));
        for n in (1..texts.len()).rev() {
            texts.swap(n, dice.roll(n + 1));
        }
        let mut survey = ColumnSurvey::default();
        for (row, (_, text)) in (1..).zip(&texts) {
            survey.add(text, row, row + 1);
        }
        let layouts = survey.layouts();
        let known: Vec<usize> = texts.iter().map(|(n, _)| *n).collect();
        // What is of no layout is a group of its own.
        let found: Vec<usize> = texts
            .iter()
            .enumerate()
            .map(|(n, (_, text))| layouts.place(text).unwrap_or(1000 + n))
            .collect();
        let index = adjusted_rand_index(&known, &found);
        let swallowed: Vec<&str> = texts
            .iter()
            .filter(|(n, text)| {
                *n >= 100 && layouts.place(text).is_some_and(|n| layouts.layouts[n].texts > 10)
            })
            .map(|(_, text)| text.as_str())
            .collect();
        screen.push_str(&format!("{name}: {index:.3}\n"));
        for layout in &layouts.layouts {
            let case = if layout.ignoring_case { " ignoring case" } else { "" };
            screen.push_str(&format!("  {:4} {}{case}\n", layout.texts, layout.pattern));
        }
        let is_right = index >= 0.95
            && layouts.layouts.len() * 2 <= templates.len() * 3
            && swallowed.is_empty();
        if !is_right {
            wrong.push(format!(
                "{name}: {index:.3}, {} layouts, {swallowed:?}",
                layouts.layouts.len()
            ));
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}\n{screen}");
}

/// What stands in a column is laid out in the same way however its rows are parted.
#[test]
fn layouts_do_not_depend_on_how_rows_are_parted() {
    let mut dice = Dice(7);
    let templates = ["{U2}-{year}-{d5}", "{full} left {d1-2} bags at {place}", "{n} kr"];
    let texts: Vec<String> = (0..30_000)
        .map(|_| {
            let template = dice.one_of(&templates);
            dice.text(template)
        })
        .collect();
    let patterns = |parts: usize| -> Vec<(String, u64, u64)> {
        let mut whole = ColumnSurvey::default();
        let mut part = ColumnSurvey::part();
        for (row, text) in (1_u64..).zip(&texts) {
            part.add(text, row, row + 1);
            if (row as usize).is_multiple_of(texts.len() / parts) {
                whole.merge(&mut part);
            }
        }
        whole.merge(&mut part);
        let layouts = whole.layouts().layouts;
        layouts.into_iter().map(|layout| (layout.pattern, layout.texts, layout.first.row)).collect()
    };
    let once = patterns(1);
    assert_eq!(once.len(), 3, "{once:?}");
    for parts in [2, 7, 300] {
        assert_eq!(patterns(parts), once, "{parts} parts");
    }
}

/// Odd columns: bounded work, and no layout that its own texts do not fit.
#[test]
fn odd_columns_have_layouts_that_fit() {
    let long = "x y ".repeat(200_000);
    type Texts<'t> = Box<dyn Fn(usize) -> String + 't>;
    let columns: [(&str, Texts<'_>); 9] = [
        ("one text", Box::new(|_| "Fernhollow".to_owned())),
        (
            "a word each",
            Box::new(|n| {
                format!("{}{}", "abcdefghij".chars().nth(n % 10).unwrap(), "klmnop".repeat(n % 40))
            }),
        ),
        ("long texts", Box::new(|n| format!("{n}{long}"))),
        ("a layout a row", Box::new(|n| format!("{:b}", n).replace('0', "-").replace('1', "a/"))),
        ("signs", Box::new(|n| "-./:;,".repeat(n % 5 + 1))),
        ("emoji", Box::new(|n| format!("🌱{} 🌾", "🌻".repeat(n % 3)))),
        ("right to left", Box::new(|n| format!("תיבה {n} מדף"))),
        ("marks", Box::new(|n| format!("e\u{301}{n}\u{301}"))),
        ("brackets", Box::new(|n| format!("[{n}] [[x]] \"{n}\" \\"))),
    ];
    for (name, text) in columns {
        let rows = if name == "long texts" { 5 } else { 3000 };
        let mut survey = ColumnSurvey::default();
        (0..rows).for_each(|n| survey.add(&text(n), n as u64 + 1, n as u64 + 2));
        let layouts = survey.layouts();
        assert!(layouts.layouts.len() <= 64, "{name}");
        for layout in &layouts.layouts {
            assert!(layout.fits(&layout.first.text), "{name}: {}", layout.pattern);
            assert_eq!(
                layouts.place(&layout.first.text).map(|n| &layouts.layouts[n].pattern),
                Some(&layout.pattern),
                "{name}"
            );
        }
    }
}

/// Whether a text is of a shape, by trying every place where each item may end.
fn slowly(items: &[&str], text: &[char]) -> bool {
    let Some((item, items)) = items.split_first() else { return text.is_empty() };
    (0..=text.len()).any(|end| {
        let (piece, rest) = text.split_at(end);
        let next = rest.first().copied();
        let is_word = |piece: &[char]| {
            piece
                .split(|c| *c == '-')
                .all(|part| !part.is_empty() && part.iter().all(|c| c.is_alphabetic()))
        };
        let goes_on = next.is_some_and(|c| c.is_alphanumeric() || c == '_');
        let is_number = || {
            let text: String = piece.iter().collect();
            let digits = text.trim_start_matches('-');
            text.len() - digits.len() < 2
                && (digits.starts_with(|c: char| c.is_ascii_digit())
                    || digits.starts_with('.') && digits.matches('.').count() == 1)
                && digits.ends_with(|c: char| c.is_ascii_digit())
                && digits.chars().all(|c| c.is_ascii_digit() || c == '.')
                && !digits.contains("..")
                && !next.is_some_and(|c| c.is_ascii_digit())
                && !(next == Some('.') && rest.get(1).is_some_and(char::is_ascii_digit))
        };
        let fits = match *item {
            "[w]" => is_word(piece) && !goes_on,
            "[w+]" => piece.split(|c| *c == ' ').all(is_word) && !goes_on,
            "[x]" => {
                !piece.is_empty()
                    && piece.iter().all(|c| c.is_alphanumeric())
                    && !next.is_some_and(char::is_alphanumeric)
            }
            "[n]" => is_number(),
            "[d2]" => piece.len() == 2 && piece.iter().all(char::is_ascii_digit),
            "[U+]" => !piece.is_empty() && piece.iter().all(char::is_ascii_uppercase),
            "[*]" => true,
            literal => literal.chars().eq(piece.iter().copied()),
        };
        fits && slowly(items, rest)
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2_000))]

    /// A shape takes the texts that the slowest of all ways finds.
    #[test]
    fn shapes_take_what_trying_every_place_finds(
        items in prop::collection::vec(prop::sample::select(vec!["[w]", "[w+]", "[n]", "[x]", "[d2]", "[U+]", "-", " ", "a", "B", "."]), 1..6),
        seed in any::<u64>(),
        odd in "[aBé12 ._-]{0,2}",
    ) {
        // A text of that shape, or nearly.
        let mut dice = Dice(seed);
        let mut text = String::new();
        for item in &items {
            text.push_str(match *item {
                "[w]" => dice.one_of(&["a", "Bé", "a-B", "é"]),
                "[w+]" => dice.one_of(&["a", "a B", "Bé a-a é"]),
                "[n]" => dice.one_of(&["1", "-2", "1.2", "12.21", "-2.1"]),
                "[x]" => dice.one_of(&["a1", "1", "Bé", "2B1"]),
                "[d2]" => dice.one_of(&["12", "21"]),
                "[U+]" => dice.one_of(&["B", "BB"]),
                literal => literal,
            });
        }
        let at = text.char_indices().map(|(at, _)| at).nth(dice.roll(8)).unwrap_or(text.len());
        text.insert_str(at, &odd);
        let shape = items.concat();
        let cut = format!("x = \"yes\" if {{c}} is shape \"{shape}\" else \"no\"");
        let plan = Plan::compile(&[parse_assignment(&cut).unwrap()], &["c".to_owned()], &PlanOptions::default()).unwrap();
        let mut scratch = Scratch::default();
        let found = plan.evaluate([text.as_str()], &mut scratch).cells[0].text == "yes";
        // A blank cell meets no condition.
        let wanted = !text.trim().is_empty() && slowly(&items, &text.chars().collect::<Vec<_>>());
        prop_assert_eq!(found, wanted, "{} of {:?}", shape, text);
    }
}
