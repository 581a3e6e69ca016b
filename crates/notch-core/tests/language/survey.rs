//! What columns look like, what is odd in them, and whether the cuts proposed for them run and
//! hold.

use keen_notch_core::{
    ColumnOverview, ColumnSurvey, Distinct, Glance, OpenText, Plan, PlanOptions, Proposal, Scratch,
    parse_assignment,
};
use proptest::prelude::*;

fn survey(texts: &[String]) -> ColumnSurvey {
    let mut survey = ColumnSurvey::default();
    texts.iter().zip(1..).for_each(|(text, row)| survey.add(text, row, row + 1));
    survey
}

/// Texts of a block in which nothing stands between them: what follows a text is not part of it.
fn open_texts<'b>(texts: &[String], block: &'b str) -> impl Iterator<Item = OpenText<'b>> {
    let ends = texts.iter().scan(0, |end, text| {
        *end += text.len();
        Some((*end - text.len(), *end))
    });
    ends.filter_map(|(from, to)| OpenText::of(block, from, to))
}

/// All that is seen of a column.
fn seen(survey: &ColumnSurvey) -> String {
    let layouts = survey.layouts();
    let positions = survey.left.iter().chain(&survey.right);
    let positions: Vec<_> =
        positions.map(|position| (position.texts(), position.letter())).collect();
    let dividers = survey.dividers().into_iter().map(|(divider, counts, shapes)| {
        let shapes: Vec<_> = shapes.iter().map(|shapes| shapes.ranked()).collect();
        format!("{divider} {counts:?} {shapes:?}")
    });
    format!(
        "{:?}\n{positions:?}\n{:?}\n{:?}\n{:?}",
        (survey.rows, survey.blank, survey.distinct(), survey.lengths()),
        survey.proposals(&[], &layouts),
        dividers.collect::<Vec<_>>(),
        (survey.shapes(), survey.repeated(), survey.troubles(), survey.looks_like(&layouts)),
    )
}

/// The pieces that the proposals make of a text, with what they find.
fn pieces(survey: &ColumnSurvey, text: &str) -> String {
    let proposals = survey.proposals(&["c".to_owned()], &survey.layouts());
    let cuts: Vec<_> = proposals
        .iter()
        .map(|proposal| {
            parse_assignment(&format!("{} = {}", proposal.names, proposal.cut_of("{c}"))).unwrap()
        })
        .collect();
    let options = PlanOptions { start: Some("c".to_owned()), ..PlanOptions::default() };
    let plan = Plan::compile(&cuts, &["c".to_owned()], &options).unwrap();
    let mut scratch = Scratch::default();
    let result = plan.evaluate([text], &mut scratch);
    let cells = plan
        .outputs()
        .iter()
        .zip(result.cells)
        .map(|(output, cell)| format!("{}={}", output.name, cell.text));
    let findings = result
        .findings
        .iter()
        .filter(|finding| !finding.kind.is_note())
        .map(|finding| format!("[{}]", finding.reason));
    cells.chain(findings).collect::<Vec<_>>().join(" ")
}

#[test]
fn proposals_make_the_pieces_a_person_would_name() {
    /// What it looks like, its texts, and cells with the pieces proposed for it make of them.
    type Column = (&'static str, fn(u64) -> String, &'static [(&'static str, &'static str)]);
    let columns: [Column; 50] = [
        (
            "code of 3 sections by \"-\"",
            |n| {
                format!(
                    "R{}-{:05}-{}",
                    n % 9,
                    n * 7919 % 100_000,
                    ["SOW", "DRY", "FIELD", "GATE"][(n % 4) as usize]
                )
            },
            &[
                ("R3-04415-SOW", "group=R3 number=04415 group2=SOW"),
                ("R3-0441-SOW", "group=R3 number=0441 group2=SOW [fails: is digits and length 5]"),
                (
                    "R3/04415",
                    "group= number= group2= [1 part, not 3] [1 part, not 3] [1 part, not 3]",
                ),
            ],
        ),
        (
            "code of 4 sections by \"/\"",
            |n| {
                format!(
                    "{}/{}/{}{}",
                    2015 + n % 16,
                    n * 31 % 1000,
                    ["box", "tray"][(n % 2) as usize],
                    if n % 3 == 0 { "/B" } else { "" }
                )
            },
            &[
                ("2019/7/box/B", "year=2019 number=7 group=box group2=B"),
                ("2019/7/tray", "year=2019 number=7 group=tray group2="),
            ],
        ),
        (
            "steady code [U2][d5]",
            |n| format!("{}{:05}", ["FH", "GR"][(n % 2) as usize], n * 7919 % 100_000),
            &[
                ("FH00417", "letters=FH number=00417"),
                ("F000417", "letters=F0 number=00417 [fails: is letters and length 2]"),
            ],
        ),
        (
            "text",
            |n| format!("{}{}", ["A", "BC", "D"][(n % 3) as usize], n * 37 % 5000),
            &[("BC12", "letters=BC number=12")],
        ),
        (
            "e-mail address",
            |n| format!("keeper.{n}@{}.example", ["fernhollow", "seedswap"][(n % 2) as usize]),
            &[("Ada.Penn@North.example", "user=ada.penn domain=north.example")],
        ),
        (
            "date DD.MM.YYYY",
            |n| format!("{:02}.{:02}.{}", 1 + n % 28, 1 + n % 12, 2019 + n % 9),
            &[("05.11.2021", "date=2021-11-05")],
        ),
        ("number", |n| format!("{}.{}", n * 13, n % 10), &[("1,250.50", "number=1250.50")]),
        (
            "text of 4 sections by \",\"",
            |n| {
                let place = ["Fernhollow Seed Bank", "North Slope Farm"][(n % 2) as usize];
                format!(
                    "{place}, {} {} Lane, {}, AB{} {}QE",
                    1 + n % 90,
                    ["Mill", "Old Quarry"][(n % 2) as usize],
                    ["Ashby", "Great Wick"][(n / 3 % 2) as usize],
                    n % 20,
                    n % 7
                )
            },
            &[(
                "Old Mill, 3 Long Lane, Ashby, AB1 2QE",
                "group=Old Mill code=3 Long Lane group2=Ashby code2=AB1 2QE",
            )],
        ),
        (
            "text of 3 sections by \";\"",
            |n| {
                format!(
                    "Keeper {}; {}; k{n}@fernhollow.example",
                    n % 97,
                    ["head of the store", "volunteer"][(n % 2) as usize]
                )
            },
            &[(
                "Iris Moran; keeper; iris@north.example",
                "code=Iris Moran group=keeper email=iris@north.example",
            )],
        ),
        (
            "free text",
            |n| {
                format!(
                    "moved to the {} room by {}",
                    ["cold", "drying"][(n % 2) as usize],
                    ["Ada", "Tom", "Lin"][(n % 3) as usize]
                )
            },
            &[("kept in the bay window", "words= by= [no \" room\" behind \"the \"] [no \"by \"]")],
        ),
        (
            "free text",
            |n| {
                format!(
                    "{} trays of {} moved to the cold room",
                    n % 50,
                    ["rosa", "acer"][(n % 2) as usize]
                )
            },
            &[
                ("28 trays of salix moved", "trays=28 of=salix"),
                ("no trays were moved at all", "trays= of= [no number] [no \"of \"]"),
            ],
        ),
        (
            "record of 3 columns",
            |n| {
                format!(
                    "{:<8}{:<12}{:>4}",
                    ["salix", "rosa", "quercus"][(n % 3) as usize],
                    ["north slope", "cold room"][(n % 2) as usize],
                    n % 977
                )
            },
            &[("salix   cold room     28", "piece=salix piece2=cold room number=28")],
        ),
        (
            "code of 12 digits",
            |n| format!("{:012}", n * 7_654_321 % 999_999_999_989),
            &[
                ("004178881234", "number=004178881234"),
                ("4178881234", "number=4178881234 [fails: is digits and length 12]"),
            ],
        ),
        (
            "code of 8 digits",
            |n| {
                let weights = [3, 1, 3, 1, 3, 1, 3];
                let payload = format!("{:07}", n * 7919 + 12);
                let sum: u32 = payload
                    .bytes()
                    .zip(weights)
                    .map(|(digit, weight)| u32::from(digit - b'0') * weight)
                    .sum();
                format!("{payload}{}", (10 - sum % 10) % 10)
            },
            &[
                ("73513537", "number=73513537 whole=73513537"),
                ("73513536", "number=73513536 whole=73513536 [fails: is gtin]"),
            ],
        ),
        // What a date or a change of kind tells apart though nothing divides it.
        (
            "code of 14 digits",
            |n| {
                format!(
                    "{}{:02}{:02}{:06}",
                    2019 + n % 9,
                    1 + n % 12,
                    1 + n % 28,
                    n * 7919 % 1_000_000
                )
            },
            &[
                ("20210305007919", "date=2021-03-05 number=007919"),
                ("20211305007919", "date= number=007919 [no date \"YYYYMMDD\"]"),
            ],
        ),
        (
            "steady code [U][d11][U2]",
            |n| {
                format!(
                    "{}{}{:02}{:02}{:03}KG",
                    ["N", "S"][(n % 2) as usize],
                    1998 + n % 9,
                    1 + n % 12,
                    1 + n % 28,
                    n % 1000
                )
            },
            &[("N19990305007KG", "letters=N date=1999-03-05 number=007 letters2=KG")],
        ),
        (
            "record of 5 columns",
            |n| {
                let keeper = ["Nils", "Edith Moran", "Ada"][(n % 3) as usize];
                format!(
                    "{:05}{:02}{:02}{}  {:>5}kg{keeper:<14}",
                    n * 7919 % 100_000,
                    1 + n % 28,
                    1 + n % 12,
                    2019 + n % 9,
                    n * 31 % 99_999
                )
            },
            &[(
                "0041705032021     12kgNils          ",
                "number=00417 date=2021-03-05 number2=12 code=kg piece=Nils",
            )],
        ),
        (
            "steady code [U2][d4][U][d3]",
            |n| format!("FH{}{}{:03}", 2019 + n % 9, ["A", "B"][(n % 2) as usize], n % 1000),
            &[("FH2021B007", "letters=FH year=2021 letters2=B number=007")],
        ),
        (
            "record of 4 columns",
            |n| {
                let kind = ["oak", "red clover", "wild thyme"][(n % 3) as usize];
                format!(
                    "{kind:<12}{:>6}{}{:02}{:02}KG",
                    n * 31 % 9999,
                    2019 + n % 9,
                    1 + n % 12,
                    1 + n % 28
                )
            },
            &[("oak             1220210305KG", "piece=oak number=12 date=2021-03-05 code=KG")],
        ),
        (
            "code of 2 sections by \"/\"",
            |n| {
                let (year, month) = (2019 + n % 9, 1 + n % 12);
                let second = format!("/{year}-{month:02}-{:02}", 1 + (n + 9) % 28);
                format!(
                    "{year}-{month:02}-{:02}{}",
                    1 + n % 28,
                    if n % 9 == 0 { "" } else { &second }
                )
            },
            &[
                ("2019-04-12/2019-05-03", "date=2019-04-12 date2=2019-05-03"),
                ("2019-04-12", "date=2019-04-12 date2="),
            ],
        ),
        // Numbers with a point in them, brackets, and dividers that begin a text.
        (
            "code of 2 sections by \" \"",
            |n| {
                format!(
                    "{} {},{:03}.{:02}",
                    ["EUR", "GBP"][(n % 2) as usize],
                    1 + n % 9,
                    n * 31 % 1000,
                    n % 100
                )
            },
            &[("EUR 1,250.50", "group=EUR number=1250.50")],
        ),
        (
            "code of 2 sections by \" \"",
            |n| {
                format!(
                    "{} ({:05})",
                    ["Edith", "Ruth", "Ida"][(n % 3) as usize],
                    n * 7919 % 100_000
                )
            },
            &[
                ("Edith (00417)", "group=Edith number=00417"),
                ("Edith (x)", "group=Edith number=x [fails: is digits and length 5]"),
            ],
        ),
        (
            "code of 4 sections by \"/\"",
            |n| format!("/bank/{}/{}", ["oak", "elm"][(n % 2) as usize], n % 400),
            &[("/bank/elm/41", "group=elm number=41")],
        ),
        (
            "date and time",
            |n| {
                format!(
                    "{}-{:02}-{:02} {:02}:{:02}",
                    2019 + n % 9,
                    1 + n % 12,
                    1 + n % 28,
                    n % 24,
                    n % 60
                )
            },
            &[
                ("2021-03-05 14:07", "date=2021-03-05 time=14:07"),
                ("2021-03-05", "date=2021-03-05 time= [only 10 characters]"),
            ],
        ),
        (
            "code of 3 sections by \"-\"",
            |n| {
                format!(
                    "{}-{}{:02}{:02}-{:04}",
                    ["FH", "GR"][(n % 2) as usize],
                    2019 + n % 9,
                    1 + n % 12,
                    1 + n % 28,
                    n * 7919 % 10_000
                )
            },
            &[("FH-20210305-0417", "group=FH date=2021-03-05 number=0417")],
        ),
        (
            "code of 2 sections by \" \"",
            |n| format!("{}x{} mm", n % 99 + 1, n * 31 % 99 + 1),
            &[("30x40 mm", "number=30 letters=x number2=40")],
        ),
        // Several dividers in one order; numbers in sentences, beside signs, of any width after
        // letters.
        (
            "code of 3 sections by any of \"./\"",
            |n| {
                format!(
                    "{}/{}.{:04}",
                    ["KEW", "FH"][(n % 2) as usize],
                    2015 + n % 9,
                    n * 7919 % 10_000
                )
            },
            &[
                ("FH/2019.0042", "code=FH number=2019 number2=0042"),
                (
                    "FH/2019",
                    "code= number= number2= [2 parts, not 3] [2 parts, not 3] [2 parts, not 3]",
                ),
            ],
        ),
        (
            "code of 4 sections by any of \";=\"",
            |n| format!("id={};kind={}", n * 31 % 977, ["oak", "elm"][(n % 2) as usize]),
            &[("id=42;kind=elm", "code=id number=42 code2=kind code3=elm")],
        ),
        (
            "free text",
            |n| format!("Shelf {}, Row {}, Box {}", n % 30, n % 9, n * 31 % 977),
            &[("Shelf 12, Row 3, Box 41", "shelf=12 row=3 box=41")],
        ),
        (
            "amount",
            |n| format!("{}£{},{:03}", ["", "-"][(n % 2) as usize], n % 9 + 1, n * 31 % 1000),
            &[("-£1,250", "number=-1250")],
        ),
        (
            "steady code [l3][d3]",
            |n| {
                format!(
                    "{}{}",
                    ["emp", "tmp"][(n % 2) as usize],
                    if n % 12 == 0 { n % 100 } else { 100 + n % 900 }
                )
            },
            &[("emp7", "letters=emp number=7")],
        ),
        (
            "code of 2 sections by \",\"",
            |n| format!("{}.{:04},-{}.{:04}", n % 50, n * 31 % 9973, n % 170, n * 17 % 9973),
            &[("51.5074,-0.1278", "number=51.5074 number2=-0.1278")],
        ),
        (
            "percentage",
            |n| format!("{}.{} %", 10 + n % 90, n % 10),
            &[("12.5 %", "percent=12.5"), ("12.5", "percent=12.5")],
        ),
        (
            "code of 2 sections by \"-\"",
            |n| {
                format!(
                    "LOT{:04}{}",
                    n * 7919 % 10_000,
                    if n % 3 == 0 { ["-A", "-B"][(n / 3 % 2) as usize] } else { "" }
                )
            },
            &[("LOT0042-B", "code=LOT0042 group=B"), ("LOT0042", "code=LOT0042 group=")],
        ),
        (
            "code of 4 sections by \" \"",
            |n| format!("+44 20 {:04} {:04}", n * 7919 % 10_000, n * 31 % 10_000),
            &[("+44 20 0946 0958", "number=0946 number2=0958")],
        ),
        (
            "code of 4 sections by any of \" ,\"",
            |n| {
                format!(
                    "{}, {} ({}-{:02})",
                    ["Moran", "Frost", "Ek"][(n % 3) as usize],
                    ["Iris", "Bo"][(n % 2) as usize],
                    "FH",
                    n * 7 % 100
                )
            },
            &[("Moran, Iris (FH-12)", "code=Moran code2=Iris code3=FH-12")],
        ),
        (
            "name and e-mail address",
            |n| format!("{} Moran <iris.{n}@fernhollow.example>", ["Iris", "Bo"][(n % 2) as usize]),
            &[(
                "Bo Moran <bo.7@fernhollow.example>",
                "name=Bo Moran email=bo.7@fernhollow.example",
            )],
        ),
        (
            "code of 4 sections by any of \"-.\"",
            |n| {
                format!(
                    "{:03}.{:03}.{:03}-{:02}",
                    n * 7 % 1000,
                    n * 31 % 1000,
                    n * 77 % 1000,
                    n % 100
                )
            },
            &[("123.456.789-01", "number=123 number2=456 number3=789 number4=01")],
        ),
        (
            "free text",
            |n| {
                format!(
                    "[{}] bench {}: tray {}",
                    ["WARN", "INFO"][(n % 2) as usize],
                    n % 40,
                    n * 31 % 977
                )
            },
            &[("[WARN] bench 12: tray 3", "in_brackets=WARN bench=12 tray=3")],
        ),
        (
            "record of 6 columns",
            |n| {
                format!(
                    "FH{:>8}{:<2}{:<9}{:>9.2}Y",
                    n * 7919 % 1_000_000,
                    ["kg", "g"][(n % 2) as usize],
                    ["Moran", "Ek", "Thorne"][(n % 3) as usize],
                    (n * 31 % 99_999) as f64 / 7.0
                )
            },
            &[(
                "FH     417g Ek           12.50Y",
                "code=FH number=417 code2=g piece=Ek number2=12.50 code3=Y",
            )],
        ),
        (
            "code of 2 sections by \" \"",
            |n| format!("{}.{:04}N {}.{:04}E", 40 + n % 20, n * 31 % 9973, n % 20, n * 17 % 9973),
            &[("51.5074N 0.1278E", "code=51.5074N code2=0.1278E")],
        ),
        (
            "code of 2 sections by \"/\"",
            |n| {
                if n % 590 == 3 {
                    "n/a".to_owned()
                } else {
                    format!(
                        "{}/{}",
                        ["S", "M", "L"][(n % 3) as usize],
                        ["red", "blue"][(n / 3 % 2) as usize]
                    )
                }
            },
            &[
                ("M/red", "group=M group2=red"),
                (
                    "n/a",
                    "group=n group2=a [fails: is in (\"L\", \"M\", \"S\")] [fails: is in (\"blue\", \"red\")]",
                ),
            ],
        ),
        (
            "text",
            |n| ["day", "night", "on loan"][(n % 3) as usize].to_owned(),
            &[
                ("night", "group=night"),
                ("nite", "group=nite [fails: is in (\"day\", \"night\", \"on loan\")]"),
            ],
        ),
        (
            "free text",
            |n| {
                format!(
                    "gave {} g on {:02}.{:02}.2026 and {} g on 2026-{:02}-03",
                    n % 40,
                    n % 28 + 1,
                    n % 12 + 1,
                    n % 7,
                    n % 12 + 1
                )
            },
            &[(
                "gave 12 g on 05.11.2026 and 3 g on 2026-12-03",
                "gave=12 date=2026-11-05 number=3 date2=2026-12-03",
            )],
        ),
        (
            "coordinates",
            |n| format!("+{}.{:04}-{:03}.{:04}/", 40 + n % 20, n * 7919 % 10_000, n % 180, n * 31),
            &[("+48.2100-070.5500/", "latitude=+48.2100 longitude=-070.5500")],
        ),
        (
            "address of a page",
            |n| format!("https://{}.example/lots/{n}", ["seeds", "bank"][(n % 2) as usize]),
            &[
                ("https://Seeds.example/lots/9", "host=seeds.example path=lots/9"),
                ("https://bank.example", "host=bank.example path="),
            ],
        ),
        (
            "path of a file",
            |n| format!("trays/{}/{n}.csv", ["north", "south"][(n % 2) as usize]),
            &[("trays/north/box 7.CSV", "folder=trays/north file=box 7.CSV ending=csv")],
        ),
        (
            "UUID",
            |n| format!("{:08x}-{:04x}-4{:03x}-a{:03x}-{:012x}", n * 7919, n, n, n, n * 31),
            &[("00001EEF-0001-4001-A001-00000000001F", "id=00001eef-0001-4001-a001-00000000001f")],
        ),
        (
            "hexadecimal id",
            |n| format!("{:016x}", (n + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15)),
            &[("9e3779b97f4a7c15", "id=9e3779b97f4a7c15")],
        ),
        ("nothing", |_| String::new(), &[("FH", "")]),
    ];
    let mut wrong = Vec::new();
    for (looks_like, column, cells) in columns {
        let mut texts: Vec<String> = (0..600).map(column).collect();
        // One in three hundred is odd in its own way.
        if !texts[0].is_empty() {
            (texts[77], texts[277]) = ("?".to_owned(), " ".to_owned());
        }
        let survey = survey(&texts);
        if survey.looks_like(&survey.layouts()) != looks_like {
            wrong.push(format!(
                "{} looks like {}, not {looks_like}",
                texts[1],
                survey.looks_like(&survey.layouts())
            ));
        }
        for (cell, wanted) in cells {
            let given = pieces(&survey, cell);
            if given != *wanted {
                wrong.push(format!(
                    "{cell}: {given}, not {wanted}; {:?}",
                    survey.proposals(&[], &survey.layouts())
                ));
            }
        }
    }
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}

/// A record that is shifted and a heading between pages are findings of the cuts proposed for the
/// records; so is another kind of code.
#[test]
fn proposed_cuts_find_what_is_no_record() {
    let record = |n: usize| {
        format!(
            "{}{:05}{:02}{:02}2031{:>6}{:<10}{}",
            ["FH", "GR"][n % 2],
            n * 7919 % 100_000,
            n % 28 + 1,
            n % 12 + 1,
            n * 31 % 9973,
            ["Penn", "Moran"][n % 2],
            ["A", "B"][n % 2]
        )
    };
    let code = |n: usize| {
        format!("{}-{:04}-{}", ["FH", "GR"][n % 2], n * 7919 % 10_000, ["OAK", "TIL"][n % 2])
    };
    for (column, odd) in [
        (
            &record as &dyn Fn(usize) -> String,
            &[
                " FH0041712062031   417Penn      ",
                "H0041712062031   417Penn      A ",
                "PAGE 3  FERNHOLLOW SEED BANK     ",
                "FH0041712",
            ][..],
        ),
        (
            &code,
            &[
                "FH-0417-0AK",
                "FH-O417-OAK",
                "fh-0417-OAK",
                "FH-0417",
                "0417-FH-OAK",
                "SEED BANK-3-4",
            ],
        ),
    ] {
        let texts: Vec<String> = (0..600).map(column).chain([odd[0].to_owned()]).collect();
        let survey = survey(&texts);
        let proposals = survey.proposals(&[], &survey.layouts());
        let plan = Proposal::plan(&proposals).unwrap();
        let mut scratch = Scratch::default();
        let mut has_finding = |text: &str| plan.evaluate([text], &mut scratch).has_finding();
        assert_eq!(texts.iter().filter(|text| has_finding(text)).count(), 1, "{proposals:?}");
        odd.iter().for_each(|text| assert!(has_finding(text), "{text}: {proposals:?}"));
    }
}

#[test]
fn whatever_is_rare_is_found_with_its_row() {
    let mut texts: Vec<String> = (0..100_000).map(|n| format!("FH-{n:06}")).collect();
    texts[70_000] = "FН-070000".to_owned();
    texts[80_000] = "FH-080000\u{200b}".to_owned();
    texts[90_000] = "FH-90000".to_owned();
    texts[95_000] = " FH-095000".to_owned();
    texts[95_500] = "FH-095500\t".to_owned();
    texts[96_000] = "FH\u{a0}-09600".to_owned();
    texts[96_500] = "FH\u{2013}096500".to_owned();
    texts[96_600] = "FH\u{2011}096600".to_owned();
    texts[97_000] = String::new();
    texts[98_000] = "FH-O98000".to_owned();
    let survey = survey(&texts);
    let mut troubles: Vec<String> = survey
        .troubles()
        .iter()
        .map(|trouble| format!("{} {} row {}", trouble.texts, trouble.what, trouble.first.row))
        .collect();
    let oddities = survey.oddities();
    troubles.extend(
        texts
            .iter()
            .zip(1..)
            .filter(|(text, _)| oddities.has_like_digits(text))
            .map(|(_, row)| format!("O, I or l row {row}")),
    );
    assert_eq!(
        troubles,
        [
            "1 a letter of another alphabet that looks like a plain one row 70001",
            "1 a character that cannot be seen row 80001",
            "1 white space in front row 95001",
            "1 white space at the end row 95501",
            "1 a tab, line end or other control character row 95501",
            "1 a no-break or other unusual blank row 96001",
            "2 another dash where nearly all have a hyphen row 96501",
            "O, I or l row 98001",
        ]
    );
    let (shapes, more) = survey.shapes();
    let rare: Vec<u64> =
        shapes.iter().filter(|(_, count, _)| *count == 1).map(|(_, _, first)| first.row).collect();
    assert_eq!(
        (rare, more, survey.blank),
        (vec![70_001, 80_001, 90_001, 95_001, 95_501, 96_001, 96_501, 96_601, 98_001], 0, 1)
    );
    // Too many to count one by one, so estimated.
    let Distinct::About(distinct) = survey.distinct() else {
        unreachable!("{:?}", survey.distinct())
    };
    assert!((98_000..102_000).contains(&distinct), "{distinct}");
    assert_eq!(
        survey.left.iter().take(9).map(keen_notch_core::Position::letter).collect::<String>(),
        "====ddddd"
    );
    // What stands where comes from the first 65,536 rows and one in 16 after them, but of a sample
    // by all.
    assert!((67_000..68_000).contains(&survey.placed()), "{}", survey.placed());
    let mut sample = ColumnSurvey::default();
    (1_000_000..1_000_160).for_each(|row| sample.add_closely("FH-1", row, row));
    assert_eq!(sample.placed(), 160);
}

/// A letter that stands for a digit is told from one in a word, at its position or in its section,
/// wherever the sections begin.
#[test]
fn letters_are_taken_for_digits_where_digits_are() {
    type Column = fn(usize) -> String;
    let steady: Column = |n| format!("FH-{:05}-{}", n * 7919 % 100_000, n % 10);
    // The sections begin at other places in nearly every text.
    let shifting: Column = |n| {
        format!(
            "{}-{}-{}",
            ["GR", "FOXGLOVE", "OAK"][n % 3],
            n * 7919 % 1_000_000,
            ["A", "OIL"][n % 2]
        )
    };
    let undivided: Column =
        |n| format!("{}{}", ["LOT", "BED", "OILSEED"][n % 3], n * 7919 % 1_000_000);
    for (column, odd, is_told) in [
        (steady, "FH-1O234-5", true),
        (steady, "FH-12345-O", true),
        (steady, "FH-lO345-1", true),
        (steady, "é-1O2345-1", true),
        (steady, "FH12O34--5", true),
        (steady, "FH ROSA1-5", false),
        (steady, "FHxIris-1", false),
        (steady, "FH-Ol--1-5", true),
        (shifting, "FOXGLOVE-4O217-A", true),
        (shifting, "GR-O-A", true),
        (shifting, "GR-l2I7-OIL", true),
        (shifting, "FOXGLOVE-GR-OIL", false),
        (shifting, "OI-417-OIL", false),
        (shifting, "GR-ROSE-A", false),
        (undivided, "OILSEED4O7", true),
        // Such a text may be as it should be.
        (undivided, "LOTO17", false),
        (undivided, "OLD LOT 17", false),
    ] {
        let mut texts: Vec<String> = (0..240).map(column).collect();
        texts.push(odd.to_owned());
        let oddities = survey(&texts).oddities();
        let told: Vec<&String> =
            texts.iter().filter(|text| oddities.has_like_digits(text)).collect();
        assert_eq!(told, if is_told { vec![odd] } else { Vec::new() }, "{odd}");
    }
}

proptest::proptest! {
    /// Whatever stands in a column, the cuts proposed for it can be read.
    #[test]
    fn proposals_can_be_read(
        one in "([\\[\\]{}\"'|#/ ,:@.-]|[A-C]|[0-2]|é|b\u{301}){0,6}", other in "([\\[\\]-]|[A-C]|[0-2]){0,6}", times in 1_usize..60,
    ) {
        let mut texts = vec![one; times];
        texts.push(other);
        let survey = survey(&texts);
        for proposal in survey.proposals(&["c".to_owned()], &survey.layouts()) {
            let cut = format!("{} = {}", proposal.names, proposal.cut);
            proptest::prop_assert!(parse_assignment(&cut).is_ok(), "{}", cut);
        }
    }
}

/// However a column is divided into parts, what is put together is what is seen in one piece.
#[test]
fn parts_of_a_column_put_together_are_the_column() {
    let odd = |n: u64| match n {
        77 => " FH-2019-BRA-00417".to_owned(),
        123 => "FH-2019-BRА-0O417".to_owned(),
        200 => String::new(),
        _ => format!(
            "{}-{}-{}-{:05}",
            ["FH", "GR"][(n % 2) as usize],
            2015 + n % 9,
            ["BRA", "QUE", "Ace"][(n % 3) as usize],
            n * 7919 % 100_000
        ),
    };
    let texts: Vec<String> = (0..1200).map(odd).collect();
    // Names, some with blanks to spare, and a few sentences among them.
    let name = |n: u64| match n % 20 {
        3 => " Iris  Moran".to_owned(),
        7 => format!("see the note on the back of tray {n}"),
        11 => "Bo\tLund".to_owned(),
        _ => format!(
            "{} {}",
            ["Iris", "Bo", "Ada"][(n % 3) as usize],
            ["Penn", "Moran"][(n % 2) as usize]
        ),
    };
    let names: Vec<String> = (0..1200).map(name).collect();
    // What stands where comes from some of the rows from 65,536 on.
    let first_row = 65_000;
    for texts in [&texts, &names] {
        let mut whole = ColumnSurvey::default();
        texts.iter().zip(first_row..).for_each(|(text, row)| whole.add(text, row, row + 1));
        assert!((1..whole.filled()).contains(&whole.placed()) && !whole.dividers().is_empty());
        for size in [1, 7, 400, 5000] {
            let mut together = ColumnSurvey::default();
            // Several take turns, as threads do.
            let mut parts = [ColumnSurvey::part(), ColumnSurvey::part(), ColumnSurvey::part()];
            for (n, chunk) in texts.chunks(size).enumerate() {
                let part = &mut parts[n * n % 3];
                let block = chunk.concat();
                let rows = (n * size) as u64 + first_row..;
                for (text, row) in open_texts(chunk, &block).zip(rows) {
                    part.add(text, row, row + 1);
                }
                together.merge(part);
            }
            assert_eq!(seen(&together), seen(&whole), "{size}");
        }
    }
    // At a glance it is the same, though not all rows are looked at closely.
    for (texts, size) in
        [(&texts, 7), (&(0..60_000).map(odd).chain((0..9000).map(odd)).collect(), 1000)]
    {
        let mut overview = ColumnOverview::default();
        let mut parts = [ColumnOverview::part(), ColumnOverview::part()];
        for (n, chunk) in texts.chunks(size).enumerate() {
            let part = &mut parts[n % 2];
            let block = chunk.concat();
            for (text, row) in open_texts(chunk, &block).zip((n * size) as u64 + 1..) {
                part.add(text, row, row + 1);
            }
            overview.merge(part);
        }
        let (glance, whole) = (overview.glance(), survey(texts).glance());
        assert!(
            glance.looked_at == glance.rows || (4_900..5_500).contains(&glance.looked_at),
            "{}",
            glance.looked_at
        );
        assert_eq!(glance, Glance { looked_at: glance.looked_at, ..whole });
    }
    // Of too many texts to count, hashes are enough.
    let mut together = ColumnSurvey::default();
    let mut whole = ColumnSurvey::default();
    let mut parts = [ColumnSurvey::part(), ColumnSurvey::part()];
    for part_of in 0..60 {
        let part = &mut parts[part_of as usize % 2];
        for n in part_of * 1000..(part_of + 1) * 1000 {
            part.add(&n.to_string(), n + 1, n + 2);
            whole.add(&n.to_string(), n + 1, n + 2);
        }
        together.merge(part);
    }
    assert_eq!(
        (together.distinct(), matches!(whole.distinct(), Distinct::About(59_000..61_000))),
        (whole.distinct(), true)
    );
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// What was learned of one text of a shape is true of the others: the slow twin surveys each
    /// text by itself.
    #[test]
    fn what_is_learned_of_a_shape_holds(
        texts in prop::collection::vec(
            prop_oneof![
                "[OIla1]{1,2}[ \t-]{1,2}[b2]{1,2}",
                "[aO1]{1,2}@[bI]{1,2}[.]{1,2}[al]",
                "[ \t]{0,2}[A-C]{1,2}[ \t\r\n\u{1}é]{0,2}",
                "[a1]{1,2} [b2] [c3] [d4]",
            ],
            2..48,
        ),
    ) {
        let mut alone = ColumnSurvey::default();
        for (text, row) in texts.iter().zip(1..) {
            let mut part = ColumnSurvey::part();
            part.add(text, row, row + 1);
            alone.merge(&mut part);
        }
        prop_assert_eq!(seen(&survey(&texts)), seen(&alone));
    }

    /// Whatever a column holds, what is proposed for it can be read and run.
    #[test]
    fn proposals_can_be_used(
        shape in prop::collection::vec(prop::sample::select(vec!["a", "B", "1", "20", " ", "          ", "-", "--", "/", ".", ",", "\\", "(", ")", "[", "é", "2031-05-12", "20310512"]), 1..16),
        odd in prop::collection::vec("[aB1 /.-]{0,30}", 0..3),
        more in prop::sample::select(vec!["", "-x", " 12"]),
    ) {
        let text = |n: usize| format!("{}{}", shape.concat().replace('1', &(n % 90 + 10).to_string()), if n.is_multiple_of(8) { more } else { "" });
        let texts: Vec<String> = (0..40).map(text).chain(odd).collect();
        let survey = survey(&texts);
        prop_assert!(!survey.looks_like(&survey.layouts()).is_empty() && survey.dividers().len() < 14);
        for proposal in survey.proposals(&[], &survey.layouts()) {
            let cut = format!("{} = {{c}} | {}", proposal.names, proposal.cut_of("{c}"));
            let parsed = parse_assignment(&cut).map_err(|error| TestCaseError::fail(format!("{cut}: {error:?}")))?;
            let plan = Plan::compile(&[parsed], &["c".to_owned()], &PlanOptions::default());
            let plan = plan.map_err(|error| TestCaseError::fail(format!("{cut}: {error:?}")))?;
            for text in &texts {
                prop_assert_eq!(plan.evaluate([text.as_str()], &mut Scratch::default()).cells.len(), plan.outputs().len(), "{}", cut);
            }
        }
    }
}
