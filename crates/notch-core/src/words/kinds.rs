//! Steps that choose by kind of character.

use super::Args;
use super::items::{list_of, picked, picking};
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Word};
use crate::program::Step;
use crate::program::{Event, Item, Missing, Nothing, Piece, RowContext};
use crate::text::{Kind, Span, blocks, characters, is_letters};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "digits",
        group: Group::Kind,
        form: "digits",
        meaning: "all digits 0–9, joined, in order; zeros in front stay",
        examples: &[
            Example { cell: "Box 12, shelf 03", cut: "digits", gives: "1203" },
            Example { cell: "no box", cut: "digits", gives: "(missing: no digits)" },
        ],
        guess: Guess::Makes(guess_digits),
        build: Build::Step(|_| Ok(digits(None))),
    },
    Word {
        name: "letters",
        group: Group::Kind,
        form: "letters",
        meaning: "all letters, of any script, joined, in order",
        examples: &[
            Example { cell: "R3-04415-SOW", cut: "letters", gives: "RSOW" },
            Example { cell: "Łódź 12", cut: "letters", gives: "Łódź" },
        ],
        guess: Guess::Makes(guess_letters),
        build: Build::Step(|_| {
            Ok(Step::text(|piece, context| joined(piece, Kind::Letter, None, context)))
        }),
    },
    Word {
        name: "block",
        group: Group::Kind,
        form: "block PLACE of (digits | letters)",
        meaning: "the run of digits (letters) with that number",
        examples: &[
            Example { cell: "R3-04415-SOW", cut: "block 2 of digits", gives: "04415" },
            Example { cell: "R3-04415-SOW", cut: "block last of letters", gives: "SOW" },
            Example {
                cell: "R3-SOW",
                cut: "block 2 of digits",
                gives: "(missing: 1 block of digits)",
            },
        ],
        guess: Guess::Takes(guess_block),
        build: Build::Step(|args| {
            let reach = args.place()?;
            let kind = kind_of_blocks(args)?;
            let [none, one, many] =
                ["no", "block of", "blocks of"].map(|text| format!("{text} {}", kind.plural()));
            Ok(picking(move |text| picked(reach, || blocks(text, kind)), (&none, &one, &many)))
        }),
    },
    Word {
        name: "blocks",
        group: Group::Kind,
        form: "blocks of (digits | letters)",
        meaning: "all runs of digits (letters), as a list",
        examples: &[Example { cell: "R3-04415-SOW", cut: "blocks of digits", gives: "3; 04415" }],
        guess: Guess::None,
        build: Build::Step(|args| {
            let kind = kind_of_blocks(args)?;
            let none = format!("no {}", kind.plural());
            Ok(list_of(move |text, take| blocks(text, kind).all(take), &none))
        }),
    },
];

fn kind_of_blocks(args: &mut Args<'_>) -> Result<Kind, CutError> {
    Ok(if args.chosen()? == 0 { Kind::Digit } else { Kind::Letter })
}

/// All digits of a text; where they come of several places, that is counted as this event.
pub(crate) fn digits(event: Option<usize>) -> Step {
    Step::text(move |piece, context| joined(piece, Kind::Digit, event, context))
}

fn joined<'a>(
    piece: Piece<'a>,
    kind: Kind,
    event: Option<usize>,
    context: &mut RowContext<'a>,
) -> Item<'a> {
    let text = piece.text();
    if let (true, Kind::Digit) = (text.is_ascii(), kind)
        && let Some(joined) = digits_of_ascii(piece, event, context)
    {
        return Ok(joined);
    }
    let mut runs = characters::with_places(text).filter(|(_, character)| kind.holds(character));
    let Some((start, character)) = runs.next() else {
        let reason = context.alloc_fmt(format_args!("no {}", kind.plural()));
        return Err(Missing::new(Nothing::Empty, reason));
    };
    // As long as nothing stands between them they are a piece of the text; the first gap makes it a
    // text of its own.
    let mut end = start + character.len();
    let gap = runs.find(|(at, character)| {
        let touches = *at == end;
        if touches {
            end += character.len();
        }
        !touches
    });
    let Some((_, behind_gap)) = gap else {
        return Ok(piece.narrow(start..end));
    };
    context.events.extend(event.map(|id| Event { id, text }));
    let mut made = context.buffer(text.len());
    made.push_str(&text[start..end]);
    made.push_str(behind_gap);
    runs.for_each(|(_, character)| made.push_str(character));
    Ok(piece.changed(made.into_bump_str()))
}

/// The same of the digits of ASCII; `None` where there are none.
fn digits_of_ascii<'a>(
    piece: Piece<'a>,
    event: Option<usize>,
    context: &mut RowContext<'a>,
) -> Option<Piece<'a>> {
    let text = piece.text();
    let bytes = text.as_bytes();
    let start = bytes.iter().position(u8::is_ascii_digit)?;
    let end = bytes[start..]
        .iter()
        .position(|byte| !byte.is_ascii_digit())
        .map_or(text.len(), |length| start + length);
    if !bytes[end..].iter().any(u8::is_ascii_digit) {
        return Some(piece.narrow(start..end));
    }
    context.events.extend(event.map(|id| Event { id, text }));
    let mut made = context.buffer(text.len());
    made.push_str(&text[start..end]);
    made.extend(text[end..].chars().filter(char::is_ascii_digit));
    Some(piece.changed(made.into_bump_str()))
}

fn guess_block(guesses: &mut Guesses<'_>) {
    for kind in [Kind::Digit, Kind::Letter] {
        let runs: Vec<Span> = blocks(guesses.text, kind).collect();
        for place in guesses.places() {
            let Some(n) = runs.iter().position(|run| *run == place) else { continue };
            // Letters that no digit touches are read as a word.
            let is_digit = |c: Option<char>| c.is_some_and(|c| c.is_ascii_digit());
            let is_word = kind == Kind::Letter
                && !is_digit(guesses.text[..place.start].chars().next_back())
                && !is_digit(guesses.text[place.end..].chars().next());
            let more = if is_word { 8 } else { 0 };
            let kind = kind.plural();
            guesses.add(more + 44 + 3 * n.min(10) as u32, format!("block {} of {kind}", n + 1));
            if n > 0 {
                guesses.add(
                    match runs.len() - n {
                        1 => 46 + more,
                        n => 50 + more + 3 * n.min(10) as u32,
                    },
                    match runs.len() - n {
                        1 => format!("block last of {kind}"),
                        n => format!("block -{n} of {kind}"),
                    },
                );
            }
        }
    }
}

fn guess_digits(guesses: &mut Guesses<'_>) {
    let is_of_digits =
        !guesses.piece.is_empty() && guesses.piece.bytes().all(|b| b.is_ascii_digit());
    if is_of_digits && guesses.text.bytes().filter(u8::is_ascii_digit).eq(guesses.piece.bytes()) {
        guesses.add(45, "digits");
    }
}

fn guess_letters(guesses: &mut Guesses<'_>) {
    if is_letters(guesses.piece) && !is_letters(guesses.text) {
        guesses.add(47, "letters");
    }
}
