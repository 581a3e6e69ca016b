//! Padding.

use std::sync::Arc;

use super::Args;
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Word, quoted};
use crate::program::Step;
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::span::{CellSpan, Change, change};
use crate::text::characters;
use crate::text::masks::{WIDE, each_its_own, wide};

pub(super) const WORDS: &[Word] = &[Word {
    name: "pad",
    group: Group::Tidy,
    form: "pad (left | right | both) COUNT [with CHARACTER]",
    meaning: "filled up to that many characters, with blanks unless said; a longer text stays, \
        with a finding `over`",
    examples: &[
        Example { cell: "417", cut: "pad left 8 with \"0\"", gives: "00000417" },
        Example { cell: "FH", cut: "pad right 4 with \".\"", gives: "FH.." },
        Example { cell: "FH", cut: "pad both 5 with \"*\"", gives: "*FH**" },
        Example {
            cell: "123456",
            cut: "pad left 5 with \"0\"",
            gives: "123456 (over: 6 characters, more than 5)",
        },
    ],
    guess: Guess::Finishes(guess_pad),
    build: Build::Step(pad),
}];

fn pad(args: &mut Args<'_>) -> Result<Step, CutError> {
    let side = args.chosen()?;
    let width = args.count()?;
    if width > WIDEST {
        return Err(args.refuse(format!("A text is padded to {WIDEST} characters at most")));
    }
    let fill = if args.given()? { args.character()?.to_owned() } else { " ".to_owned() };
    let kernel = crate::text::plain_byte(&fill).and_then(|fill| match side {
        0 => Some(Arc::new(PadLeft { fill, width }) as Arc<dyn Kernel>),
        1 => Some(Arc::new(PadRight { fill, width })),
        _ => None,
    });
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        let length = characters::count(text);
        if length > width {
            let reason = context.alloc_fmt(format_args!("{length} characters, more than {width}"));
            context.report(FindingKind::Over, reason, text);
        }
        if length >= width {
            return Ok(piece);
        }
        let missing = width - length;
        // Of an odd number to both sides the right one gets one more.
        let on_left = match side {
            0 => missing,
            1 => 0,
            _ => missing / 2,
        };
        let bytes = text.len() + missing * fill.len();
        context.may_make(bytes, bytes)?;
        let mut made = context.buffer(bytes);
        (0..on_left).for_each(|_| made.push_str(&fill));
        made.push_str(text);
        (on_left..missing).for_each(|_| made.push_str(&fill));
        Ok(piece.changed(made.into_bump_str()))
    })
    .with_kernel(kernel))
}

/// A guard against a slip of the finger that would fill the memory.
const WIDEST: usize = 100_000;

/// The kernel of `pad left`, with a fill character of one byte.
struct PadLeft {
    fill: u8,
    /// How many characters the text is to have.
    width: usize,
}

impl Kernel for PadLeft {
    fn run(&self, rows: &mut KernelRows<'_>) {
        pad_left(rows.spans, rows.text, self.fill, self.width);
    }
}

/// The kernel of `pad right`, with a fill character of one byte.
struct PadRight {
    fill: u8,
    /// How many characters the text is to have.
    width: usize,
}

impl Kernel for PadRight {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let fill = char::from(self.fill);
        change(rows.spans, rows.text, |text, from, to| {
            // Fill would make something of what is blank.
            let bytes = text.as_bytes();
            let is_plain = bytes[from].is_ascii_graphic() && each_its_own(bytes, from, to);
            match self.width.checked_sub(to - from).filter(|_| is_plain) {
                None => Change::Unusual,
                Some(0) => Change::Same,
                Some(missing) => {
                    text.extend_from_within(from..to);
                    text.extend(std::iter::repeat_n(fill, missing));
                    Change::Made
                }
            }
        });
    }
}

/// Pads pieces on the left, with a fill character of one byte, to that many characters; a piece
/// that is not plain or too long is given up.
fn pad_left(places: &mut [CellSpan], text: &mut String, fill: u8, width: usize) {
    // All of them are put together before they are made text.
    let mut made = vec![fill; places.len() * width + 2 * WIDE];
    let (bytes, behind) = (text.as_bytes(), text.len());
    if u32::try_from(behind + made.len()).is_err() {
        return places.fill(CellSpan::NONE);
    }
    let mut at = 0;
    for place in places.iter_mut().filter(|place| !place.is_none()) {
        let (from, to) = place.span();
        // Fill would make something of what is blank.
        let is_plain = bytes[from].is_ascii_graphic() && each_its_own(bytes, from, to);
        let Some(missing) = width.checked_sub(to - from).filter(|_| is_plain) else {
            *place = CellSpan::NONE;
            continue;
        };
        if width <= WIDE {
            // Copies of fixed length: what they write after the text is written over.
            let room = &mut made[at..at + 2 * WIDE];
            room[..WIDE].copy_from_slice(&[fill; WIDE]);
            room[missing..missing + WIDE].copy_from_slice(&wide(bytes, from));
        } else {
            made[at + missing..at + width].copy_from_slice(&bytes[from..to]);
        }
        *place = CellSpan::at(behind + at, behind + at + width);
        at += width;
    }
    match std::str::from_utf8(&made[..at]) {
        Ok(made) => text.push_str(made),
        // Plain characters are text.
        Err(_) => places.fill(CellSpan::NONE),
    }
}

/// A piece that begins or ends with a sign or zeros may be padded.
fn guess_pad(guesses: &mut Guesses<'_>) {
    let piece = guesses.piece;
    let length = characters::count(piece);
    let is_fill = |c: char| c == '0' || !c.is_alphanumeric();
    for (side, fill) in [("left", piece.chars().next()), ("right", piece.chars().next_back())] {
        let Some(fill) = fill.filter(|fill| is_fill(*fill)) else { continue };
        // Zeros at the right end are part of a number.
        if side == "right" && fill == '0' {
            continue;
        }
        let with = match fill {
            ' ' => String::new(),
            fill => match quoted(fill.encode_utf8(&mut [0; 4])) {
                Some(written) => format!(" with {written}"),
                None => continue,
            },
        };
        let mut of = piece;
        for _ in 0..length {
            of = match side {
                "left" => of.strip_prefix(fill).unwrap_or_default(),
                _ => of.strip_suffix(fill).unwrap_or_default(),
            };
            if of.is_empty() {
                break;
            }
            guesses.add_of(24, format!("pad {side} {length}{with}"), of);
        }
    }
}
