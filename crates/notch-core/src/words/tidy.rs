//! White space and what cannot be seen.

use std::sync::Arc;

use unicode_normalization::{IsNormalized, UnicodeNormalization, is_nfc_quick};

use super::Args;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Word, quoted};
use crate::program::Step;
use crate::program::kernel::{Kernel, KernelRows, OnePiece};
use crate::program::span::{Change, change, narrow};
use crate::program::{Item, NOTHING_LEFT, Piece, RowContext};
use crate::text::masks::is_neat;
use crate::text::{Kind, What, characters, is_word};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "trim",
        group: Group::Tidy,
        form: "trim [(left | right)] [any of TEXT]",
        meaning: "the text without white space, or without these characters, at its ends or at one \
            of them",
        examples: &[
            Example { cell: "  R3-04415 ", cut: "trim", gives: "R3-04415" },
            Example { cell: "(Moran.)", cut: "trim any of \".()\"", gives: "Moran" },
            Example { cell: "00417", cut: "trim left any of \"0\"", gives: "417" },
            Example {
                cell: "a- -b",
                cut: "part 2 by \"-\" | trim",
                gives: "(missing: nothing left)",
            },
        ],
        guess: Guess::Makes(guess_trim),
        build: Build::Step(trim),
    },
    Word {
        name: "neaten",
        group: Group::Tidy,
        form: "neaten",
        meaning: "Unicode spaces, tabs and line breaks to plain blanks, invisible characters out, \
            letters composed (NFC), runs of blanks to one, ends trimmed",
        examples: &[
            Example { cell: "FH\u{a0}\u{200b}2019 \t BRA ", cut: "neaten", gives: "FH 2019 BRA" },
            Example { cell: "Ve\u{30c}ra", cut: "neaten | length", gives: "4" },
        ],
        guess: Guess::Makes(guess_neaten),
        build: Build::Step(|_| Ok(Step::text(neaten).with_kernel(Some(Arc::new(Neaten))))),
    },
];

fn trim(args: &mut Args<'_>) -> Result<Step, CutError> {
    let (mut left, mut right) = (true, true);
    if args.given()? {
        let on_left = args.chosen()? == 0;
        (left, right) = (on_left, !on_left);
    }
    let what = if args.given()? { What::any_of(args.needle()?) } else { What::Kind(Kind::Space) };
    let is_plain = left && right && matches!(what, What::Kind(_));
    let kept = Arc::new(move |text: &str| {
        let mut span = 0..text.len();
        while left && let Some(found) = what.at_start(&text[span.clone()]) {
            span.start += found.end;
        }
        while right && let Some(found) = what.at_end(&text[span.clone()]) {
            span.end = span.start + found.start;
        }
        span
    });
    let kernel: Arc<dyn Kernel> = if is_plain {
        Arc::new(Trim)
    } else {
        let kept = Arc::clone(&kept);
        Arc::new(OnePiece(move |text: &str| {
            let kept = kept(text);
            if kept.is_empty() { Err(0) } else { Ok(kept) }
        }))
    };
    Ok(Step::text(move |piece, context| context.narrow(piece, kept(piece.text())))
        .with_kernel(Some(kernel))
        .lacking([NOTHING_LEFT.to_owned()]))
}

/// Characters that cannot be seen and are no white space: controls, zero-width and soft-hyphen
/// characters, direction marks, BOM.
fn is_invisible(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}')
}

fn neaten<'a>(piece: Piece<'a>, context: &mut RowContext<'a>) -> Item<'a> {
    match neat(piece.text()) {
        None => Ok(piece),
        Some(neat) => {
            let made = piece.changed(context.alloc(&neat));
            context.narrow(made, 0..neat.len())
        }
    }
}

/// A text made neat; `None` where it is so already.
fn neat(text: &str) -> Option<String> {
    if is_neat(text.as_bytes(), 0, text.len()) || is_neat_beyond_ascii(text) {
        return None;
    }
    let mut made = String::with_capacity(text.len());
    for character in characters::each(text) {
        let last = character.char_indices().next_back().map_or(0, |(at, _)| at);
        for (at, c) in character.char_indices() {
            let joiner_inside = matches!(c, '\u{200c}' | '\u{200d}') && at > 0 && at < last;
            if c.is_whitespace() {
                if !made.is_empty() && !made.ends_with(' ') {
                    made.push(' ');
                }
            } else if joiner_inside || !is_invisible(c) {
                made.push(c);
            }
        }
    }
    let composed: String = made.trim_end().nfc().collect();
    (composed != text).then_some(composed)
}

/// Whether a text is certainly neat: single blanks between, nothing invisible, and letters that are
/// composed.
fn is_neat_beyond_ascii(text: &str) -> bool {
    let mut is_blank = true;
    for c in text.chars() {
        let was_blank = std::mem::replace(&mut is_blank, c == ' ');
        if is_blank && was_blank || c != ' ' && c.is_whitespace() || is_invisible(c) {
            return false;
        }
    }
    !is_blank && is_nfc_quick(text.chars()) == IsNormalized::Yes
}

/// The kernel of `neaten`.
struct Neaten;

impl Kernel for Neaten {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| {
            if is_neat(text.as_bytes(), from, to) {
                return Change::Same;
            }
            let made = text.len();
            let is_plain = |byte: &u8| matches!(byte, b' '..=b'~');
            if !text.as_bytes()[from..to].iter().all(is_plain) {
                let Some(cell) = text.get(from..to) else { return Change::Unusual };
                return match neat(cell) {
                    None => Change::Same,
                    Some(neat) => {
                        text.push_str(&neat);
                        Change::Made
                    }
                };
            }
            for at in from..to {
                match text.as_bytes()[at] {
                    b' ' if text.len() == made || text.ends_with(' ') => {}
                    byte => text.push(char::from(byte)),
                }
            }
            text.truncate(made + text[made..].trim_end().len());
            Change::Made
        });
    }
}

/// The kernel of `trim`, at both ends.
struct Trim;

impl Kernel for Trim {
    fn run(&self, rows: &mut KernelRows<'_>) {
        narrow(rows.spans, rows.text, |text, from, to| {
            let is_blank = |byte: &u8| matches!(byte, b' ' | b'\t'..=b'\r');
            let start = from + text[from..to].iter().position(|byte| !is_blank(byte))?;
            let end = from + text[from..to].iter().rposition(|byte| !is_blank(byte))? + 1;
            // White space beyond ASCII may stand there, or a mark on a blank.
            (text[start].is_ascii() && text[end - 1].is_ascii()).then_some((start, end))
        });
    }
}

fn guess_trim(guesses: &mut Guesses<'_>) {
    let (text, piece) = (guesses.text, guesses.piece);
    if text.trim() == piece && text != piece {
        guesses.add(12, "trim");
    }
    if text.len() != piece.len() && text.trim_start_matches('0') == piece {
        guesses.add(26, "trim left any of \"0\"");
    }
    for place in guesses.places() {
        let mut around: Vec<char> = Vec::new();
        for c in text[..place.start].chars().chain(text[place.end..].chars()) {
            if !around.contains(&c) {
                around.push(c);
            }
        }
        let are_signs = around.iter().all(|c| !is_word(*c));
        let is_bare = !piece.starts_with(|c| around.contains(&c))
            && !piece.ends_with(|c| around.contains(&c));
        if are_signs && is_bare && around.len() <= 6 {
            let signs: String = around.iter().collect();
            if let Some(written) = quoted(&signs) {
                guesses.add(40 + 2 * around.len() as u32, format!("trim any of {written}"));
            }
        }
    }
}

fn guess_neaten(guesses: &mut Guesses<'_>) {
    if guesses.text.trim() != guesses.piece && guesses.piece.len() < guesses.text.len() {
        guesses.add(24, "neaten");
    }
}
