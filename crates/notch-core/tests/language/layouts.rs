//! Layouts, on generated columns whose layouts are known.

use std::collections::BTreeMap;

use keen_notch_core::ColumnSurvey;

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

/// Numbers that look random, the same in every run.
struct Dice(u64);

impl Dice {
    fn roll(&mut self, sides: usize) -> usize {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((mixed ^ (mixed >> 31)) % sides as u64) as usize
    }

    fn one_of<'t>(&mut self, texts: &[&'t str]) -> &'t str {
        texts[self.roll(texts.len())]
    }

    fn digits(&mut self, count: usize) -> String {
        (0..count)
            .map(|n| char::from(b'0' + if n == 0 { 1 + self.roll(9) } else { self.roll(10) } as u8))
            .collect()
    }

    fn of(&mut self, letters: &str, count: usize) -> String {
        let letters: Vec<char> = letters.chars().collect();
        (0..count).map(|_| letters[self.roll(letters.len())]).collect()
    }

    /// What stands in a slot of a template.
    fn value(&mut self, slot: &str) -> String {
        const FIRST: [&str; 8] =
            ["Iris", "Tom", "Anna-Lena", "Wren", "Håkon", "Ada", "Moira", "Jo"];
        const LAST: [&str; 8] =
            ["Moran", "Ives", "O’Larkin", "Fell", "Østby", "Thorne", "Vane", "Bell"];
        const PLACES: [&str; 6] =
            ["north gate", "Fernhollow", "the old mill", "Greenrow", "south lane", "Marlow"];
        let text = match slot {
            "first" => self.one_of(&FIRST).to_owned(),
            "last" => self.one_of(&LAST).to_owned(),
            "full" => format!("{} {}", self.one_of(&FIRST), self.one_of(&LAST)),
            "place" => self.one_of(&PLACES).to_owned(),
            "year" => format!("20{}", 20 + self.roll(7)),
            "date" => format!("2026-{:02}-{:02}", 1 + self.roll(12), 1 + self.roll(28)),
            "time" => format!("{:02}:{:02}", self.roll(24), self.roll(60)),
            "phone" => format!("0{} {}", self.digits(3), self.digits(6)),
            "slug" => self.one_of(&["lots", "seed-lots", "beds", "loans-out"]).to_owned(),
            "email" => format!(
                "{}.{}@fernhollow.example",
                self.of("abcdeimnorst", 4),
                self.of("abcdeimnorst", 5)
            ),
            "n" => match self.roll(3) {
                0 => {
                    let digits = 1 + self.roll(3);
                    self.digits(digits)
                }
                1 => format!("{}.{}", self.digits(2), self.digits(2)),
                _ => format!("{},{}.{}", self.digits(1), self.digits(3), self.digits(2)),
            },
            slot => {
                let (kind, counts) = slot.split_at(if slot.starts_with("hex") { 3 } else { 1 });
                let (least, most) = counts.split_once('-').unwrap_or((counts, counts));
                let (least, most): (usize, usize) = (least.parse().unwrap(), most.parse().unwrap());
                let count = least + self.roll(most - least + 1);
                match kind {
                    "d" => self.digits(count),
                    "U" => self.of("ABCDEFGHIKLMNOPRSTVW", count),
                    "hex" => self.of("0123456789abcdef", count),
                    _ => panic!("no slot {slot}"),
                }
            }
        };
        text
    }

    fn text(&mut self, template: &str) -> String {
        let mut text = String::new();
        for piece in template.split_inclusive(['{', '}']) {
            match piece.strip_suffix('}') {
                Some(slot) => text.push_str(&self.value(slot)),
                None => text.push_str(piece.trim_end_matches('{')),
            }
        }
        text
    }
}

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
