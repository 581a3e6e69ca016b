//! What is kept, removed, replaced or clipped of a text.

use std::sync::Arc;

use memchr::memmem::Finder;

use super::Args;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, KindItem, Word, quoted};
use crate::program::Step;
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::span::{Change, change};
use crate::text::masks::each_its_own;
use crate::text::{Span, What, characters, is_word};

pub(super) const WORDS: &[Word] = &[
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
        guess: Guess::Makes(guess_keep),
        build: Build::Step(keep),
    },
    Word {
        name: "replace",
        group: Group::Tidy,
        form: "replace MARK with TEXT",
        meaning: "every occurrence of the mark becomes this text, or the one that is said; `$1` \
            and `${name}` stand for groups of a regular expression",
        examples: &[
            Example { cell: "FH/2019/BRA", cut: "replace \"/\" with \"-\"", gives: "FH-2019-BRA" },
            Example {
                cell: "FH/2019/BRA",
                cut: "replace last \"/\" with \"\"",
                gives: "FH/2019BRA",
            },
            Example {
                cell: "Moran, Iris",
                cut: "replace /(\\w+), (\\w+)/ with \"$2 $1\"",
                gives: "Iris Moran",
            },
        ],
        guess: Guess::Makes(guess_replace),
        build: Build::Step(replace),
    },
    Word {
        name: "clip",
        group: Group::Tidy,
        form: "clip COUNT [ending TEXT]",
        meaning: "at most that many characters, the ending included, which shows that something was \
            cut off; no blank is left before it",
        examples: &[
            Example { cell: "red clover from north slope", cut: "clip 10", gives: "red clover" },
            Example {
                cell: "red clover from north slope",
                cut: "clip 11 ending \"…\"",
                gives: "red clover…",
            },
            Example { cell: "oak", cut: "clip 11 ending \"…\"", gives: "oak" },
        ],
        guess: Guess::Makes(guess_clip),
        build: Build::Step(clip),
    },
];

fn keep(args: &mut Args<'_>) -> Result<Step, CutError> {
    let keeps = args.chosen()? == 0;
    let mut whats = Vec::new();
    for item in args.kinds()? {
        match item {
            KindItem::Kind(kind) => whats.push(What::Kind(*kind)),
            KindItem::These(text) if text.is_empty() => {
                return Err(args.refuse("An empty text holds no characters to keep or remove"));
            }
            KindItem::These(text) => whats.push(What::any_of(text)),
        }
    }
    // Of ASCII it is known beforehand what stays; only a carriage return and the line feed after
    // it are one character.
    let stays: [bool; 128] = std::array::from_fn(|byte| {
        whats
            .iter()
            .any(|what| what.at_start(char::from(byte as u8).encode_utf8(&mut [0; 4])).is_some())
            == keeps
    });
    let kernel = Arc::new(Keep { stays });
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        let mut made = context.buffer(text.len());
        if text.is_ascii() && !text.contains('\r') {
            made.extend(text.chars().filter(|c| stays[*c as usize]));
            if made.len() == text.len() {
                return Ok(piece);
            }
            let made = made.into_bump_str();
            return context.narrow(piece.changed(made), 0..made.len());
        }
        characters::each(text)
            .filter(|character| {
                whats.iter().any(|what| what.at_start(character).is_some()) == keeps
            })
            .for_each(|c| made.push_str(c));
        if made.len() == text.len() {
            return Ok(piece);
        }
        let made = made.into_bump_str();
        context.narrow(piece.changed(made), 0..made.len())
    })
    .with_kernel(Some(kernel)))
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
    let kernel = match &mark.what {
        What::Text(finder) if !mark.which_said && with.is_ascii() && !with.contains('\r') => {
            Some(Arc::new(ReplaceText { finder: (**finder).clone(), with: with.clone() }) as _)
        }
        _ => None,
    };
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        let (mut made, mut from, mut room) = (String::new(), 0, Ok(()));
        let groups_said = with.matches('$').count();
        let mut push = |span: Span| {
            // Each group may be all that was found.
            let more = (span.start - from) + with.len() + groups_said * (span.end - span.start);
            room = room.and_then(|()| context.may_make(made.len() + more, more));
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
        context.may_make(made.len() + text.len() - from, text.len() - from)?;
        made.push_str(&text[from..]);
        let made = context.alloc(&made);
        context.narrow(piece.changed(made), 0..made.len())
    })
    .with_kernel(kernel))
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
            None => {
                &rest[..rest
                    .find(|c: char| !c.is_ascii_alphanumeric() && c != '_')
                    .unwrap_or(rest.len())]
            }
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
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        if characters::notch_after(text, most).is_none_or(|end| end == text.len()) {
            return Ok(piece);
        }
        let head = piece.narrow(0..characters::notch_after(text, kept).unwrap_or(text.len()));
        if ending.is_empty() {
            return Ok(head);
        }
        let head = head.text().trim_end();
        let mut made = context.buffer(head.len() + ending.len());
        made.push_str(head);
        made.push_str(&ending);
        Ok(piece.changed(made.into_bump_str()))
    })
    .with_kernel(Some(Arc::new(kernel))))
}

/// The kernel of `clip`: at most that many characters, of which that many are kept before the
/// ending where there are more.
struct Clip {
    most: usize,
    kept: usize,
    ending: String,
}

impl Kernel for Clip {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let Clip { most, kept, ending } = self;
        change(rows.spans, rows.text, |text, from, to| {
            // The character after the last one counted may still belong to it.
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

/// The kernel of `keep` and `remove`: of ASCII, whose characters stay or go each by itself.
struct Keep {
    stays: [bool; 128],
}

impl Kernel for Keep {
    fn run(&self, rows: &mut KernelRows<'_>) {
        change(rows.spans, rows.text, |text, from, to| {
            let bytes = text.as_bytes();
            if !each_its_own(bytes, from, to) {
                return Change::Unusual;
            }
            let stays = |byte: &u8| self.stays[usize::from(*byte)];
            if bytes[from..to].iter().all(stays) {
                return Change::Same;
            }
            for at in from..to {
                let byte = text.as_bytes()[at];
                if stays(&byte) {
                    text.push(char::from(byte));
                }
            }
            Change::Made
        });
    }
}

/// The kernel of `replace` of a text by another of ASCII.
struct ReplaceText {
    finder: Finder<'static>,
    with: String,
}

impl Kernel for ReplaceText {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let length = self.finder.needle().len();
        let mut places = Vec::new();
        change(rows.spans, rows.text, |text, from, to| {
            let bytes = text.as_bytes();
            if !each_its_own(bytes, from, to) {
                return Change::Unusual;
            }
            places.clear();
            places.extend(self.finder.find_iter(&bytes[from..to]));
            // Many places and a long text could make more than a cell may have.
            if places.is_empty() {
                return Change::Same;
            }
            if places.len() * self.with.len() > MOST_ADDED {
                return Change::Unusual;
            }
            let mut at = from;
            for place in &places {
                text.extend_from_within(at..from + place);
                text.push_str(&self.with);
                at = from + place + length;
            }
            text.extend_from_within(at..to);
            Change::Made
        });
    }
}

/// More bytes that a replacement adds to a text are left to the evaluation by row.
const MOST_ADDED: usize = 4096;

/// Characters are guessed to be removed where the others are the piece.
fn guess_keep(guesses: &mut Guesses<'_>) {
    let (text, piece) = (guesses.text, guesses.piece);
    if piece.len() >= text.len() {
        return;
    }
    let mut removed: Vec<char> = Vec::new();
    let mut rest = piece.chars().peekable();
    for c in text.chars() {
        if rest.peek() == Some(&c) {
            rest.next();
        } else if !removed.contains(&c) {
            removed.push(c);
        }
    }
    if rest.next().is_some() || removed.is_empty() || removed.iter().any(|c| piece.contains(*c)) {
        return;
    }
    let digits = |text: &str| text.bytes().all(|b| b.is_ascii_digit());
    if digits(piece) {
        guesses.add(52, "keep digits");
    }
    if removed.iter().all(|c| !is_word(*c)) && removed.len() <= 6 {
        let signs: String = removed.iter().collect();
        if signs.trim().is_empty() {
            guesses.add(30, "remove spaces");
        } else if let Some(written) = quoted(&signs) {
            guesses.add(42 + 4 * removed.len() as u32, format!("remove {written}"));
        }
        if piece.chars().all(is_word) {
            guesses.add(54, "remove symbols spaces");
        }
    }
}

/// A sign is guessed to be replaced where text and piece differ in nothing else.
fn guess_replace(guesses: &mut Guesses<'_>) {
    let (text, piece) = (guesses.text, guesses.piece);
    let same = text
        .chars()
        .zip(piece.chars())
        .take_while(|(a, b)| a == b)
        .map(|(c, _)| c.len_utf8())
        .sum::<usize>();
    let Some(sign) = text[same..].chars().next().filter(|c| !is_word(*c)) else { return };
    // What stands in its place reaches as far as the text goes on after it.
    let after = &text[same + sign.len_utf8()..];
    let next = &after[..after.find(sign).unwrap_or(after.len())];
    let Some(end) = piece[same..].find(next).filter(|_| !next.is_empty()) else { return };
    let with = &piece[same..same + end];
    // No constants: what comes in is no part of the cell that happens to stand there.
    if with.is_empty()
        || with.chars().any(is_word)
        || characters::count(with) > 4
        || text.replace(sign, with) != piece
    {
        return;
    }
    if let (Some(mark), Some(with)) = (quoted(sign.encode_utf8(&mut [0; 4])), quoted(with)) {
        guesses.add(36, format!("replace {mark} with {with}"));
    }
}

fn guess_clip(guesses: &mut Guesses<'_>) {
    let length = characters::count(guesses.piece);
    if length >= 8
        && guesses.text.len() > guesses.piece.len()
        && guesses.text.starts_with(guesses.piece)
    {
        guesses.add(60, format!("clip {length}"));
    }
}
