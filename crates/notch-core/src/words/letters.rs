//! Letter case, and letters without their marks.

use std::sync::Arc;

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

use crate::language::{Build, Example, Group, Guess, Guesses, Word};
use crate::program::Step;
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::span::{Change, change};
use crate::program::{Item, Piece, RowContext};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "upper",
        group: Group::Tidy,
        form: "upper",
        meaning: "all letters upper case (Unicode's mapping, no locale)",
        examples: &[
            Example { cell: "fh-2019", cut: "upper", gives: "FH-2019" },
            Example { cell: "straße", cut: "upper", gives: "STRASSE" },
        ],
        guess: Guess::Makes(|g| guess_case(g, "upper")),
        build: Build::Step(|_| {
            Ok(Step::text(|piece, context| {
                cased(piece, context, |b| b.is_ascii_lowercase(), str::to_uppercase)
            })
            .with_kernel(Some(Arc::new(Upper))))
        }),
    },
    Word {
        name: "lower",
        group: Group::Tidy,
        form: "lower",
        meaning: "all letters lower case (Unicode's mapping, no locale)",
        examples: &[Example {
            cell: "Iris.Moran@FERNHOLLOW.example",
            cut: "lower",
            gives: "iris.moran@fernhollow.example",
        }],
        guess: Guess::Makes(|g| guess_case(g, "lower")),
        build: Build::Step(|_| {
            Ok(Step::text(|piece, context| {
                cased(piece, context, |b| b.is_ascii_uppercase(), str::to_lowercase)
            })
            .with_kernel(Some(Arc::new(Lower))))
        }),
    },
    Word {
        name: "title",
        group: Group::Tidy,
        form: "title",
        meaning: "letters upper case at the start and after a blank or a hyphen, the others lower \
            case; after an apostrophe at a word's start an upper one stays",
        examples: &[
            Example { cell: "IRIS smith-byrd", cut: "title", gives: "Iris Smith-Byrd" },
            Example { cell: "mina o'dare", cut: "title", gives: "Mina O'dare" },
            Example { cell: "KIT O'LARKIN", cut: "title", gives: "Kit O'Larkin" },
        ],
        guess: Guess::Makes(|g| guess_case(g, "title")),
        build: Build::Step(|_| Ok(Step::text(title).with_kernel(Some(Arc::new(Title))))),
    },
    Word {
        name: "without marks",
        group: Group::Tidy,
        form: "without marks",
        meaning: "letters without accents and other marks (Unicode NFD, then without combining \
            marks), and `ł ø đ ð ħ ı ß æ œ þ` as `l o d d h i ss ae oe th`",
        examples: &[
            Example { cell: "Věra Žďár", cut: "without marks", gives: "Vera Zdar" },
            Example { cell: "Łódź, Ærø", cut: "without marks", gives: "Lodz, AEro" },
        ],
        guess: Guess::Makes(guess_without_marks),
        build: Build::Step(|_| Ok(Step::text(without_marks))),
    },
];

/// Maps letter case; a text the mapping leaves alone stays the slice it is.
fn cased<'a>(
    piece: Piece<'a>,
    context: &mut RowContext<'a>,
    changes: fn(&u8) -> bool,
    map: fn(&str) -> String,
) -> Item<'a> {
    let text = piece.text();
    if text.is_ascii() {
        if !text.as_bytes().iter().any(changes) {
            return Ok(piece);
        }
        let mut made = context.buffer(text.len());
        made.extend(text.bytes().map(|b| char::from(if changes(&b) { b ^ 0x20 } else { b })));
        return Ok(piece.changed(made.into_bump_str()));
    }
    let mapped = map(text);
    if mapped == text {
        return Ok(piece);
    }
    Ok(piece.changed(context.alloc(&mapped)))
}

fn title<'a>(piece: Piece<'a>, context: &mut RowContext<'a>) -> Item<'a> {
    let text = piece.text();
    if text.is_ascii() {
        return Ok(title_of_ascii(piece, context));
    }
    let mut made = String::with_capacity(text.len());
    let (mut begins, mut first_letter, mut behind_apostrophe) = (true, false, false);
    // The final sigma of lower case depends on its place in the word, so words are mapped whole.
    let lower = |made: &mut String, word: &str| made.push_str(&word.to_lowercase());
    let mut word = String::new();
    for c in text.chars() {
        let stays = std::mem::take(&mut behind_apostrophe) && c.is_uppercase();
        if c.is_whitespace() || c == '-' {
            lower(&mut made, &std::mem::take(&mut word));
            made.push(c);
            (begins, first_letter) = (true, false);
        } else if matches!(c, '\'' | '’') && (first_letter || begins) {
            // At a word's start, or after its first letter: `O'`.
            made.push(c);
            (begins, first_letter, behind_apostrophe) = (false, false, true);
        } else if stays {
            made.push(c);
        } else if begins && c.is_alphabetic() {
            first_letter = true;
            push_title(&mut made, c);
            begins = false;
        } else {
            (begins, first_letter) = (false, false);
            word.push(c);
        }
    }
    lower(&mut made, &word);
    if made == text { Ok(piece) } else { Ok(piece.changed(context.alloc(&made))) }
}

/// The same of a text of ASCII, whose letters are mapped one by one.
fn title_of_ascii<'a>(piece: Piece<'a>, context: &mut RowContext<'a>) -> Piece<'a> {
    let text = piece.text();
    let mut made = context.buffer(text.len());
    let (mut begins, mut first_letter, mut behind_apostrophe) = (true, false, false);
    made.extend(text.chars().map(|c| {
        let stays = std::mem::take(&mut behind_apostrophe) && c.is_ascii_uppercase();
        match c {
            c if c.is_whitespace() || c == '-' => {
                (begins, first_letter) = (true, false);
                c
            }
            '\'' if first_letter || begins => {
                (begins, first_letter, behind_apostrophe) = (false, false, true);
                c
            }
            c if stays => c,
            c if begins && c.is_ascii_alphabetic() => {
                (begins, first_letter) = (false, true);
                c.to_ascii_uppercase()
            }
            c => {
                (begins, first_letter) = (false, false);
                c.to_ascii_lowercase()
            }
        }
    }));
    if made.as_str() == text { piece } else { piece.changed(made.into_bump_str()) }
}

/// A letter as the first of a word: of a letter with a longer upper case only the beginning is
/// upper.
fn push_title(made: &mut String, c: char) {
    let special = match c {
        'Ǆ' | 'ǅ' | 'ǆ' => Some('ǅ'),
        'Ǉ' | 'ǈ' | 'ǉ' => Some('ǈ'),
        'Ǌ' | 'ǋ' | 'ǌ' => Some('ǋ'),
        'Ǳ' | 'ǲ' | 'ǳ' => Some('ǲ'),
        _ => None,
    };
    if let Some(c) = special {
        made.push(c);
        return;
    }
    let mut upper = c.to_uppercase();
    made.extend(upper.next());
    upper.for_each(|c| made.extend(c.to_lowercase()));
}

/// Letters that have no decomposition, and what is written for them without marks.
const UNDECOMPOSED: [(char, &str); 19] = [
    ('ł', "l"),
    ('Ł', "L"),
    ('ø', "o"),
    ('Ø', "O"),
    ('đ', "d"),
    ('Đ', "D"),
    ('ð', "d"),
    ('Ð', "D"),
    ('ħ', "h"),
    ('Ħ', "H"),
    ('ı', "i"),
    ('ß', "ss"),
    ('ẞ', "SS"),
    ('æ', "ae"),
    ('Æ', "AE"),
    ('œ', "oe"),
    ('Œ', "OE"),
    ('þ', "th"),
    ('Þ', "TH"),
];

fn without_marks<'a>(piece: Piece<'a>, context: &mut RowContext<'a>) -> Item<'a> {
    let text = piece.text();
    if text.is_ascii() {
        return Ok(piece);
    }
    let mut made = String::with_capacity(text.len());
    for c in text.nfd().filter(|c| !is_combining_mark(*c)) {
        match UNDECOMPOSED.iter().find(|(letter, _)| *letter == c) {
            Some((_, plain)) => made.push_str(plain),
            None => made.push(c),
        }
    }
    // What was taken apart and has kept all its parts, as Korean syllables, is put together again.
    let made: String = made.nfc().collect();
    if made == text {
        return Ok(piece);
    }
    context.narrow(piece.changed(context.alloc(&made)), 0..made.len())
}

struct Upper;

impl Kernel for Upper {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| {
            cased_in(text, from, to, u8::is_ascii_lowercase, str::make_ascii_uppercase)
        });
    }
}

struct Lower;

impl Kernel for Lower {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| {
            cased_in(text, from, to, u8::is_ascii_uppercase, str::make_ascii_lowercase)
        });
    }
}

/// The kernel of `title`: of ASCII without apostrophes.
struct Title;

impl Kernel for Title {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| {
            let bytes = &text.as_bytes()[from..to];
            if !bytes.is_ascii() || bytes.contains(&b'\'') {
                return Change::Unusual;
            }
            let made = text.len();
            text.extend_from_within(from..to);
            text[made..].make_ascii_lowercase();
            let mut begins = true;
            for at in made..text.len() {
                let byte = text.as_bytes()[at];
                if begins && byte.is_ascii_lowercase() {
                    text[at..=at].make_ascii_uppercase();
                }
                begins = byte == b'-' || char::from(byte).is_whitespace();
            }
            Change::Made
        });
    }
}

fn cased_in(
    text: &mut String,
    from: usize,
    to: usize,
    is_other: fn(&u8) -> bool,
    change: fn(&mut str),
) -> Change {
    let bytes = &text.as_bytes()[from..to];
    if !bytes.is_ascii() {
        return Change::Unusual;
    }
    if !bytes.iter().any(is_other) {
        return Change::Same;
    }
    let made = text.len();
    text.extend_from_within(from..to);
    change(&mut text[made..]);
    Change::Made
}

/// The case words are guessed where nothing but the case differs.
fn guess_case(guesses: &mut Guesses<'_>, word: &str) {
    let (text, piece) = (guesses.text, guesses.piece);
    if text != piece && text.to_lowercase() == piece.to_lowercase() {
        guesses.add(20, word);
    }
    // What stands in the text in another case may be a part of what the piece is made of.
    let of = match word {
        "upper" if piece == piece.to_uppercase() => piece.to_lowercase(),
        "lower" if piece == piece.to_lowercase() => piece.to_uppercase(),
        "title" if piece.starts_with(char::is_uppercase) => piece.to_lowercase(),
        _ => return,
    };
    if of != piece {
        guesses.add_of(22, word, of);
    }
}

fn guess_without_marks(guesses: &mut Guesses<'_>) {
    if !guesses.text.is_ascii() && guesses.piece.is_ascii() {
        guesses.add(20, "without marks");
    }
}
