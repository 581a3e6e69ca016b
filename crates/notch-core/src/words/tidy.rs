//! Steps that bring a text to one form without choosing a piece of it.

use std::sync::Arc;

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

use super::Args;
use super::pad_kernel::pad_left;
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, KindItem, Word};
use crate::program::Step;
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::span::{Change, change, narrow};
use crate::program::{Item, Nothing, Piece, RowContext};
use crate::text::masks::each_its_own;
use crate::text::{DatePattern, Kind, Span, What, characters};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "trim",
        group: Group::Tidy,
        form: "trim [(left | right)] [any of TEXT]",
        meaning: "the text without white space, or without these characters, at its ends or at one of them",
        examples: &[
            Example { cell: "  R3-04415 ", cut: "trim", gives: "R3-04415" },
            Example { cell: "(Moran.)", cut: "trim any of \".()\"", gives: "Moran" },
            Example { cell: "00417", cut: "trim left any of \"0\"", gives: "417" },
            Example { cell: "a- -b", cut: "part 2 by \"-\" | trim", gives: "(missing: nothing left)" },
        ],
        build: Build::Step(trim),
    },
    Word {
        name: "neaten",
        group: Group::Tidy,
        form: "neaten",
        meaning: "Unicode spaces, tabs and line breaks to plain blanks, invisible characters out, letters composed (NFC), runs of blanks to one, ends trimmed",
        examples: &[
            Example { cell: "FH\u{a0}\u{200b}2019 \t BRA ", cut: "neaten", gives: "FH 2019 BRA" },
            Example { cell: "Ve\u{30c}ra", cut: "neaten | length", gives: "4" },
        ],
        build: Build::Step(|_| Ok(Step::text(neaten))),
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
        build: Build::Step(|_| {
            Ok(Step::text(|piece, run| cased(piece, run, |b| b.is_ascii_lowercase(), str::to_uppercase)).with_kernel(Some(Arc::new(Upper))))
        }),
    },
    Word {
        name: "lower",
        group: Group::Tidy,
        form: "lower",
        meaning: "all letters lower case (Unicode's mapping, no locale)",
        examples: &[Example { cell: "Iris.Moran@FERNHOLLOW.example", cut: "lower", gives: "iris.moran@fernhollow.example" }],
        build: Build::Step(|_| {
            Ok(Step::text(|piece, run| cased(piece, run, |b| b.is_ascii_uppercase(), str::to_lowercase)).with_kernel(Some(Arc::new(Lower))))
        }),
    },
    Word {
        name: "title",
        group: Group::Tidy,
        form: "title",
        meaning: "letters upper case at the start and after a blank or a hyphen, the others lower case; behind an apostrophe at a word's start an upper one stays",
        examples: &[
            Example { cell: "IRIS smith-byrd", cut: "title", gives: "Iris Smith-Byrd" },
            Example { cell: "mina o'dare", cut: "title", gives: "Mina O'dare" },
            Example { cell: "KIT O'LARKIN", cut: "title", gives: "Kit O'Larkin" },
        ],
        build: Build::Step(|_| Ok(Step::text(title).with_kernel(Some(Arc::new(Title))))),
    },
    Word {
        name: "without marks",
        group: Group::Tidy,
        form: "without marks",
        meaning: "letters without accents and other marks (Unicode NFD, then without combining marks), and `ł ø đ ð ħ ı ß æ œ þ` as `l o d d h i ss ae oe th`",
        examples: &[
            Example { cell: "Věra Žďár", cut: "without marks", gives: "Vera Zdar" },
            Example { cell: "Łódź, Ærø", cut: "without marks", gives: "Lodz, AEro" },
        ],
        build: Build::Step(|_| Ok(Step::text(without_marks))),
    },
    Word {
        name: "keep",
        group: Group::Tidy,
        form: "(keep | remove) KINDS",
        meaning: "only the characters of these kinds, or all but these",
        examples: &[
            Example { cell: "R3 / 04415", cut: "keep digits", gives: "304415" },
            Example { cell: "+44 (0)20 7946", cut: "keep digits \"+\"", gives: "+440207946" },
            Example { cell: "Box 12*", cut: "remove symbols spaces", gives: "Box12" },
            Example { cell: "---", cut: "remove symbols", gives: "(missing: nothing left)" },
        ],
        build: Build::Step(keep),
    },
    Word {
        name: "replace",
        group: Group::Tidy,
        form: "replace MARK with TEXT",
        meaning: "every occurrence of the mark becomes this text, or the one that is said; `$1` and `${name}` stand for groups of a regular expression",
        examples: &[
            Example { cell: "FH/2019/BRA", cut: "replace \"/\" with \"-\"", gives: "FH-2019-BRA" },
            Example { cell: "FH/2019/BRA", cut: "replace last \"/\" with \"\"", gives: "FH/2019BRA" },
            Example { cell: "Moran, Iris", cut: "replace /(\\w+), (\\w+)/ with \"$2 $1\"", gives: "Iris Moran" },
        ],
        build: Build::Step(replace),
    },
    Word {
        name: "clip",
        group: Group::Tidy,
        form: "clip COUNT [ending TEXT]",
        meaning: "at most so many characters, the ending included, which shows that something was cut off; no blank is left before it",
        examples: &[
            Example { cell: "red clover from north slope", cut: "clip 10", gives: "red clover" },
            Example { cell: "red clover from north slope", cut: "clip 11 ending \"…\"", gives: "red clover…" },
            Example { cell: "oak", cut: "clip 11 ending \"…\"", gives: "oak" },
        ],
        build: Build::Step(clip),
    },
    Word {
        name: "pad",
        group: Group::Tidy,
        form: "pad (left | right | both) COUNT [with CHARACTER]",
        meaning: "filled up to that many characters, with blanks unless said; a longer text stays, with a finding `over`",
        examples: &[
            Example { cell: "417", cut: "pad left 8 with \"0\"", gives: "00000417" },
            Example { cell: "FH", cut: "pad right 4 with \".\"", gives: "FH.." },
            Example { cell: "FH", cut: "pad both 5 with \"*\"", gives: "*FH**" },
            Example { cell: "123456", cut: "pad left 5 with \"0\"", gives: "123456 (over: 6 characters, more than 5)" },
        ],
        build: Build::Step(pad),
    },
    Word {
        name: "date",
        group: Group::Tidy,
        form: "date TEXT [to TEXT]",
        meaning: "the whole text read as a date so written, and written anew, in ISO 8601 unless said: `YYYY YY MM M DD D`, `MMM` (Jan), `MMMM` (January), `Do` (3rd), `DDD` (day of the year), a time of day with `HH:mm`, `HH:mm:ss` or `h:mm a` (2:05 pm), other text in '…'; or `%d %m %Y %y %b %B %j %H %M %S %I %p`",
        examples: &[
            Example { cell: "12042019", cut: "date \"DDMMYYYY\"", gives: "2019-04-12" },
            Example { cell: "8.1.30", cut: "date \"D.M.YY\" to \"DD MMM YYYY\"", gives: "08 Jan 2030" },
            Example { cell: "31022019", cut: "date \"DDMMYYYY\"", gives: "(missing: no date \"DDMMYYYY\")" },
            Example { cell: "12/Apr/2019", cut: "date \"%d/%b/%Y\"", gives: "2019-04-12" },
            Example { cell: "3rd April 2019", cut: "date \"Do MMMM YYYY\"", gives: "2019-04-03" },
            Example { cell: "12.4.2019 2:05 pm", cut: "date \"D.M.YYYY h:mm a\"", gives: "2019-04-12T14:05" },
        ],
        build: Build::Step(date),
    },
    Word {
        name: "length",
        group: Group::Tidy,
        form: "length",
        meaning: "the number of characters, spaces included; 0 when nothing is left",
        examples: &[Example { cell: "Žďár 12", cut: "length", gives: "7" }],
        build: Build::Step(|_| {
            Ok(Step::count(|piece, run| {
                let n = characters::count(piece.text());
                Ok(piece.changed(run.say(format_args!("{n}"))))
            }))
        }),
    },
];

/// Maps letter case; a text the mapping leaves alone stays the slice it is.
fn cased<'a>(piece: Piece<'a>, run: &mut RowContext<'a>, changes: fn(&u8) -> bool, map: fn(&str) -> String) -> Item<'a> {
    let text = piece.text();
    if text.is_ascii() {
        if !text.as_bytes().iter().any(changes) {
            return Ok(piece);
        }
        let mut made = run.buffer(text.len());
        made.extend(text.bytes().map(|b| char::from(if changes(&b) { b ^ 0x20 } else { b })));
        return Ok(piece.changed(made.into_bump_str()));
    }
    let mapped = map(text);
    if mapped == text {
        return Ok(piece);
    }
    Ok(piece.changed(run.keep(&mapped)))
}

fn trim(args: &mut Args<'_>) -> Result<Step, CutError> {
    let (mut left, mut right) = (true, true);
    if args.given()? {
        let on_left = args.chosen()? == 0;
        (left, right) = (on_left, !on_left);
    }
    let what = if args.given()? { What::any_of(args.needle()?) } else { What::Kind(Kind::Space) };
    let plain = (left && right && matches!(what, What::Kind(_))).then(|| Arc::new(Trim) as _);
    Ok(Step::text(move |piece, run| {
        let text = piece.text();
        let mut span = 0..text.len();
        while left && let Some(found) = what.at_start(&text[span.clone()]) {
            span.start += found.end;
        }
        while right && let Some(found) = what.at_end(&text[span.clone()]) {
            span.end = span.start + found.start;
        }
        run.narrow(piece, span)
    })
    .with_kernel(plain))
}

/// Characters that cannot be seen and are no white space: controls, zero-width and soft-hyphen characters, direction marks, BOM.
fn is_invisible(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}')
}

fn neaten<'a>(piece: Piece<'a>, run: &mut RowContext<'a>) -> Item<'a> {
    let text = piece.text();
    // Most texts are neat already: ASCII that can be seen, with single blanks between.
    let bytes = text.as_bytes();
    let is_neat = |pair: &[u8]| pair.iter().all(|byte| matches!(byte, b' '..=b'~')) && pair != b"  ";
    if bytes.first() != Some(&b' ') && bytes.last() != Some(&b' ') && bytes.len() > 1 && bytes.windows(2).all(is_neat) {
        return Ok(piece);
    }
    let mut made = run.buffer(text.len());
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
    if composed == text {
        return Ok(piece);
    }
    let made = piece.changed(run.keep(&composed));
    run.narrow(made, 0..composed.len())
}

fn title<'a>(piece: Piece<'a>, run: &mut RowContext<'a>) -> Item<'a> {
    let text = piece.text();
    if text.is_ascii() {
        return Ok(title_of_ascii(piece, run));
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
            // At a word's start, or behind its first letter: `O'`.
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
    if made == text { Ok(piece) } else { Ok(piece.changed(run.keep(&made))) }
}

/// The same of a text of ASCII, whose letters are mapped one by one.
fn title_of_ascii<'a>(piece: Piece<'a>, run: &mut RowContext<'a>) -> Piece<'a> {
    let text = piece.text();
    let mut made = run.buffer(text.len());
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

/// A letter as the first of a word: of a letter with a longer upper case only the beginning is upper.
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

fn without_marks<'a>(piece: Piece<'a>, run: &mut RowContext<'a>) -> Item<'a> {
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
    run.narrow(piece.changed(run.keep(&made)), 0..made.len())
}

fn keep(args: &mut Args<'_>) -> Result<Step, CutError> {
    let keeps = args.chosen()? == 0;
    let mut whats = Vec::new();
    for item in args.kinds()? {
        match item {
            KindItem::Kind(kind) => whats.push(What::Kind(*kind)),
            KindItem::These(text) if text.is_empty() => return Err(args.refuse("An empty text holds no characters to keep or remove")),
            KindItem::These(text) => whats.push(What::any_of(text)),
        }
    }
    // Of ASCII it is known beforehand what stays; only a carriage return and the line feed behind it are one character.
    let stays: [bool; 128] = std::array::from_fn(|byte| {
        whats.iter().any(|what| what.at_start(char::from(byte as u8).encode_utf8(&mut [0; 4])).is_some()) == keeps
    });
    Ok(Step::text(move |piece, run| {
        let text = piece.text();
        let mut made = run.buffer(text.len());
        if text.is_ascii() && !text.contains('\r') {
            made.extend(text.chars().filter(|c| stays[*c as usize]));
            if made.len() == text.len() {
                return Ok(piece);
            }
            let made = made.into_bump_str();
            return run.narrow(piece.changed(made), 0..made.len());
        }
        characters::each(text)
            .filter(|character| whats.iter().any(|what| what.at_start(character).is_some()) == keeps)
            .for_each(|c| made.push_str(c));
        if made.len() == text.len() {
            return Ok(piece);
        }
        let made = made.into_bump_str();
        run.narrow(piece.changed(made), 0..made.len())
    }))
}

fn replace(args: &mut Args<'_>) -> Result<Step, CutError> {
    let mark = args.mark()?;
    let with = args.text()?.to_owned();
    if let What::Regex(regex) = &mark.what
        && let Some(unknown) = unknown_group(&with, regex)
    {
        return Err(args
            .refuse(format!("The regular expression has no group {unknown}"))
            .remedy("A dollar sign that is text is written $$."));
    }
    Ok(Step::text(move |piece, run| {
        let text = piece.text();
        let (mut made, mut from, mut room) = (String::new(), 0, Ok(()));
        let groups_said = with.matches('$').count();
        let mut push = |span: Span| {
            // Each group may be all that was found.
            let more = (span.start - from) + with.len() + groups_said * (span.end - span.start);
            room = room.and_then(|()| run.may_make(made.len() + more, more));
            if room.is_err() {
                return;
            }
            made.push_str(&text[from..span.start]);
            match &mark.what {
                What::Regex(regex) if groups_said > 0 => {
                    if let Some(groups) = regex.captures_at(text, span.start) {
                        groups.expand(&with, &mut made);
                    }
                }
                _ => made.push_str(&with),
            }
            from = span.end;
        };
        if mark.which_said {
            mark.find(text).into_iter().for_each(&mut push);
        } else {
            mark.what.all(text).for_each(&mut push);
        }
        room?;
        if from == 0 && made.is_empty() {
            return Ok(piece);
        }
        run.may_make(made.len() + text.len() - from, text.len() - from)?;
        made.push_str(&text[from..]);
        let made = run.keep(&made);
        run.narrow(piece.changed(made), 0..made.len())
    }))
}

/// The first group a replacement names that the regular expression has not.
fn unknown_group(with: &str, regex: &regex::Regex) -> Option<String> {
    let mut rest = with;
    while let Some(at) = rest.find('$') {
        rest = &rest[at + 1..];
        if let Some(behind) = rest.strip_prefix('$') {
            rest = behind;
            continue;
        }
        let name = match rest.strip_prefix('{') {
            Some(inside) => inside.split('}').next().unwrap_or_default(),
            None => &rest[..rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '_').unwrap_or(rest.len())],
        };
        let known = match name.parse::<usize>() {
            Ok(n) => n < regex.captures_len(),
            Err(_) => name.is_empty() || regex.capture_names().any(|known| known == Some(name)),
        };
        if !known {
            return Some(name.to_owned());
        }
    }
    None
}

fn clip(args: &mut Args<'_>) -> Result<Step, CutError> {
    let most = args.count()?;
    let ending = if args.given()? { args.text()?.to_owned() } else { String::new() };
    let Some(kept) = most.checked_sub(characters::count(&ending)) else {
        return Err(args.refuse(format!("The ending alone has more than {most} characters")));
    };
    let kernel = Clip { most, kept, ending: ending.clone() };
    Ok(Step::text(move |piece, run| {
        let text = piece.text();
        if characters::notch_after(text, most).is_none_or(|end| end == text.len()) {
            return Ok(piece);
        }
        let head = piece.narrow(0..characters::notch_after(text, kept).unwrap_or(text.len()));
        if ending.is_empty() {
            return Ok(head);
        }
        let head = head.text().trim_end();
        let mut made = run.buffer(head.len() + ending.len());
        made.push_str(head);
        made.push_str(&ending);
        Ok(piece.changed(made.into_bump_str()))
    })
    .with_kernel(Some(Arc::new(kernel))))
}

fn date(args: &mut Args<'_>) -> Result<Step, CutError> {
    let pattern = args.date_pattern()?;
    let absent = format!("no date {}", args.last_written());
    let output = match args.given()? {
        true => args.date_output()?,
        false if pattern.has_time() => DatePattern::iso_with_time(&pattern),
        false => DatePattern::iso(),
    };
    if output.has_time() && !pattern.has_time() {
        return Err(args
            .refuse("No time of day is read, so none can be written")
            .remedy("Read one as well: date \"YYYY-MM-DD HH:mm\" to ….".to_owned()));
    }
    let writes_time = output.has_time();
    let step = Step::text(move |piece, run| match pattern.parse(piece.text()) {
        Some(date) => Ok(piece.changed(run.keep(&output.write(date)))),
        None => run.missing(Nothing::Absent, &absent),
    });
    Ok(step.writing_time(writes_time))
}

fn pad(args: &mut Args<'_>) -> Result<Step, CutError> {
    let side = args.chosen()?;
    let width = args.count()?;
    if width > WIDEST {
        return Err(args.refuse(format!("A text is padded to {WIDEST} characters at most")));
    }
    let fill = if args.given()? { args.character()?.to_owned() } else { " ".to_owned() };
    let plain = crate::text::plain_byte(&fill).filter(|_| side == 0).map(|fill| Arc::new(PadLeft { fill, width }) as _);
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
        // Of an odd number to both sides the right one gets one more.
        let on_left = match side {
            0 => missing,
            1 => 0,
            _ => missing / 2,
        };
        let bytes = text.len() + missing * fill.len();
        run.may_make(bytes, bytes)?;
        let mut made = run.buffer(bytes);
        (0..on_left).for_each(|_| made.push_str(&fill));
        made.push_str(text);
        (on_left..missing).for_each(|_| made.push_str(&fill));
        Ok(piece.changed(made.into_bump_str()))
    })
    .with_kernel(plain))
}

/// A guard against a slip of the finger that would fill the memory.
const WIDEST: usize = 100_000;

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

struct Upper;

impl Kernel for Upper {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| cased_in(text, from, to, u8::is_ascii_lowercase, str::make_ascii_uppercase));
    }
}

struct Lower;

impl Kernel for Lower {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| cased_in(text, from, to, u8::is_ascii_uppercase, str::make_ascii_lowercase));
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

/// The kernel of `clip`: at most so many characters, of which so many are kept before the ending where there are more.
struct Clip {
    most: usize,
    kept: usize,
    ending: String,
}

impl Kernel for Clip {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let Clip { most, kept, ending } = self;
        change(rows.spans, rows.text, |text, from, to| {
            // The character behind the last one counted may still belong to it.
            if !each_its_own(text.as_bytes(), from, to.min(from + most + 1)) {
                return Change::Unusual;
            }
            if to - from <= *most {
                return Change::Same;
            }
            let head = &text[from..from + kept];
            let end = from + if ending.is_empty() { head.len() } else { head.trim_end().len() };
            text.extend_from_within(from..end);
            text.push_str(ending);
            Change::Made
        });
    }
}

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

fn cased_in(text: &mut String, from: usize, to: usize, is_other: fn(&u8) -> bool, change: fn(&mut str)) -> Change {
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
