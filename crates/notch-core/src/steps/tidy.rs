//! Steps that bring a text to one form without choosing a piece of it.

use super::{Args, Step};
use crate::evaluate::{Item, Piece, Run};
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Word};
use crate::text::characters;

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "trim",
        group: Group::Tidy,
        form: "trim",
        meaning: "the text without white space at its ends",
        examples: &[
            Example { cell: "  R3-04415 ", cut: "trim", gives: "R3-04415" },
            Example { cell: "a- -b", cut: "part 2 by \"-\" | trim", gives: "(missing: nothing left)" },
        ],
        build: Build::Step(|_| {
            Ok(Step::text(|piece, run| {
                let text = piece.text();
                let start = text.len() - text.trim_start().len();
                run.narrow(piece, start..start.max(text.trim_end().len()))
            }))
        }),
    },
    Word {
        name: "upper",
        group: Group::Tidy,
        form: "upper",
        meaning: "all letters upper case (Unicode's mapping, no locale)",
        examples: &[
            Example { cell: "fh-2019", cut: "upper", gives: "FH-2019" },
            Example { cell: "straße", cut: "upper", gives: "STRASSE" },
        ],
        build: Build::Step(|_| Ok(Step::text(|piece, run| cased(piece, run, |b| b.is_ascii_lowercase(), str::to_uppercase)))),
    },
    Word {
        name: "lower",
        group: Group::Tidy,
        form: "lower",
        meaning: "all letters lower case (Unicode's mapping, no locale)",
        examples: &[Example { cell: "Iris.Moran@FERNHOLLOW.example", cut: "lower", gives: "iris.moran@fernhollow.example" }],
        build: Build::Step(|_| Ok(Step::text(|piece, run| cased(piece, run, |b| b.is_ascii_uppercase(), str::to_lowercase)))),
    },
    Word {
        name: "pad",
        group: Group::Tidy,
        form: "pad (left | right) COUNT [with CHARACTER]",
        meaning: "filled up to that many characters, with blanks unless said; a longer text stays, with a finding `over`",
        examples: &[
            Example { cell: "417", cut: "pad left 8 with \"0\"", gives: "00000417" },
            Example { cell: "FH", cut: "pad right 4 with \".\"", gives: "FH.." },
            Example { cell: "123456", cut: "pad left 5 with \"0\"", gives: "123456 (over: 6 characters, more than 5)" },
        ],
        build: Build::Step(pad),
    },
];

/// Maps letter case; a text the mapping leaves alone stays the slice it is.
fn cased<'a>(piece: Piece<'a>, run: &mut Run<'a>, changes: fn(&u8) -> bool, map: fn(&str) -> String) -> Item<'a> {
    let text = piece.text();
    if text.is_ascii() {
        if !text.as_bytes().iter().any(changes) {
            return Ok(piece);
        }
        let mut made = run.buffer(text.len());
        made.extend(text.bytes().map(|b| char::from(if changes(&b) { b ^ 0x20 } else { b })));
        return Ok(Piece::whole(made.into_bump_str()));
    }
    let mapped = map(text);
    if mapped == text {
        return Ok(piece);
    }
    Ok(Piece::whole(run.keep(&mapped)))
}

fn pad(args: &mut Args<'_>) -> Result<Step, CutError> {
    let on_left = args.chosen()? == 0;
    let width = args.count()?;
    if width > WIDEST {
        return Err(args.refuse(format!("A text is padded to {WIDEST} characters at most")));
    }
    let fill = if args.given()? { args.character()?.to_owned() } else { " ".to_owned() };
    Ok(Step::text(move |piece, run| {
        let text = piece.text();
        let length = characters::count(text);
        if length > width {
            let reason = run.say(format_args!("{length} characters, more than {width}"));
            run.find(FindingKind::Over, reason, text);
        }
        if length >= width {
            return Ok(piece);
        }
        let missing = width - length;
        let mut made = run.buffer(text.len() + missing * fill.len());
        if !on_left {
            made.push_str(text);
        }
        (0..missing).for_each(|_| made.push_str(&fill));
        if on_left {
            made.push_str(text);
        }
        Ok(Piece::whole(made.into_bump_str()))
    }))
}

/// A guard against a slip of the finger that would fill the memory.
const WIDEST: usize = 100_000;
