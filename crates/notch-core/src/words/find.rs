//! Steps that look for a mark.

use std::sync::Arc;

use super::Args;
use super::items::items_of;
use super::mark_kernels::{Beside, Between, Kept};
use crate::language::{Build, CutError, Example, Group, Guess, GuessedMark, Guesses, Word, which};
use crate::program::kernel::{Kernel, OnePiece};
use crate::program::{Items, Step};
use crate::program::{NOTHING_LEFT, Nothing, Piece, Value};
use crate::text::{CLOSING, Mark, OPENING, Span, What, characters, is_word};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "before",
        group: Group::Find,
        form: "before MARK [or end]",
        meaning: "the text before the mark, without it; `or end`: the whole text where the mark is \
            missing",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "before \"-\"", gives: "FH" },
            Example {
                cell: "FH-2019-BRA-00417-7",
                cut: "before 2nd last \"-\"",
                gives: "FH-2019-BRA",
            },
            Example { cell: "Okoro", cut: "before \" \"", gives: "(missing: no \" \")" },
            Example { cell: "Okoro", cut: "before \" \" or end", gives: "Okoro" },
        ],
        guess: Guess::Takes(guess_before),
        build: Build::Step(|args| beside(args, Kept::Before)),
    },
    Word {
        name: "after",
        group: Group::Find,
        form: "after MARK [or start]",
        meaning: "the text after the mark, without it; `or start`: the whole text where the mark \
            is missing",
        examples: &[
            Example {
                cell: "iris.moran@fernhollow.example",
                cut: "after \"@\"",
                gives: "fernhollow.example",
            },
            Example { cell: "FH-2019-BRA-00417-7", cut: "after 3rd \"-\"", gives: "00417-7" },
            Example {
                cell: "preferred REF: 8812",
                cut: "after word \"ref\" ignoring case",
                gives: ": 8812",
            },
            Example { cell: "FH-2019", cut: "after 2nd \"-\"", gives: "(missing: no 2nd \"-\")" },
            Example { cell: "FH-2019-", cut: "after last \"-\"", gives: "(missing: nothing left)" },
        ],
        guess: Guess::Takes(guess_after),
        build: Build::Step(|args| beside(args, Kept::After)),
    },
    Word {
        name: "from",
        group: Group::Find,
        form: "from MARK [or start]",
        meaning: "the text from the mark on, with it",
        examples: &[
            Example { cell: "tray 3 INV-8812", cut: "from \"INV\"", gives: "INV-8812" },
            Example { cell: "box A 12 kg", cut: "from digit", gives: "12 kg" },
        ],
        guess: Guess::None,
        build: Build::Step(|args| beside(args, Kept::From)),
    },
    Word {
        name: "through",
        group: Group::Find,
        form: "through MARK [or end]",
        meaning: "the text up to the mark, with it",
        examples: &[Example { cell: "12.5 kg (dry)", cut: "through \"kg\"", gives: "12.5 kg" }],
        guess: Guess::None,
        build: Build::Step(|args| beside(args, Kept::Through)),
    },
    Word {
        name: "between",
        group: Group::Find,
        form: "between MARK and [matching] MARK [or end]",
        meaning: "what lies between; the second mark is looked for, and counted, after the first; \
            `matching` takes the bracket that closes it, nested ones counted; `ignoring case` at \
            the end holds for both",
        examples: &[
            Example {
                cell: "oak (kp: I. Moran)",
                cut: "between \"(KP:\" and \")\" ignoring case | trim",
                gives: "I. Moran",
            },
            Example { cell: "/seed/oak/12", cut: "between 2nd \"/\" and \"/\"", gives: "oak" },
            Example { cell: "f(a(b)c)d", cut: "between \"(\" and matching \")\"", gives: "a(b)c" },
            Example {
                cell: "oak (kp: I. Moran",
                cut: "between \"(\" and \")\"",
                gives: "(missing: no \")\" behind \"(\")",
            },
            Example {
                cell: "oak (kp: I. Moran",
                cut: "between \"(\" and \")\" or end",
                gives: "kp: I. Moran",
            },
        ],
        guess: Guess::Takes(guess_between),
        build: Build::Step(between),
    },
    Word {
        name: "halves at",
        group: Group::Find,
        form: "halves at MARK",
        meaning: "a list of two: what stands before the mark and what stands after it",
        examples: &[Example {
            cell: "2019-04-12/2019-05-03",
            cut: "sown, sent = halves at \"/\"",
            gives: "sown: 2019-04-12, sent: 2019-05-03",
        }],
        guess: Guess::None,
        build: Build::Step(|args| {
            let mark = Arc::new(args.mark()?);
            let absent = mark.absent();
            let items = halves(&mark, &absent);
            Ok(Step::list(move |piece, context| {
                let text = piece.text();
                let Some(found) = mark.find(text) else {
                    return context.missing::<Piece<'_>>(Nothing::Absent, &absent).into();
                };
                let mut items = context.items();
                items.push(Ok(piece.narrow(0..found.start)));
                items.push(Ok(piece.narrow(found.end..text.len())));
                Value::List(items.into_bump_slice())
            })
            .with_items(items))
        }),
    },
    Word {
        name: "position of",
        group: Group::Find,
        form: "position of MARK",
        meaning: "where the mark begins, counted from 1 in characters",
        examples: &[Example { cell: "FH-2019-BRA", cut: "position of 2nd \"-\"", gives: "8" }],
        guess: Guess::None,
        build: Build::Step(|args| {
            let mark = args.mark()?;
            let absent = mark.absent();
            Ok(Step::text(move |piece, context| match mark.find(piece.text()) {
                Some(found) => {
                    let place = characters::count(&piece.text()[..found.start]) + 1;
                    Ok(piece.changed(context.alloc_fmt(format_args!("{place}"))))
                }
                None => context.missing(Nothing::Absent, &absent),
            }))
        }),
    },
    Word {
        name: "count of",
        group: Group::Find,
        form: "count of MARK",
        meaning: "how often the mark occurs; 0 when it does not, and for a blank cell",
        examples: &[
            Example { cell: "FH-2019-BRA", cut: "count of \"-\"", gives: "2" },
            Example { cell: "FH2019", cut: "count of \"-\"", gives: "0" },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let mark = args.mark()?;
            if mark.which_said {
                return Err(args.refuse("All of them are counted; leave out which one"));
            }
            Ok(Step::count(move |piece, context| {
                let n = mark.what.count(piece.text());
                Ok(piece.changed(context.alloc_fmt(format_args!("{n}"))))
            }))
        }),
    },
];

/// What stands before a mark and what stands after it, as kernels.
fn halves(mark: &Arc<Mark>, absent: &str) -> Items {
    let mark = Arc::clone(mark);
    let find = move |text: &str, take: &mut dyn FnMut(Span) -> bool| match mark.find(text) {
        Some(found) => take(0..found.start) && take(found.end..text.len()),
        None => true,
    };
    items_of(Arc::new(find), absent)
}

/// A step that keeps one side of a mark; with `or …` the whole text where the mark is missing.
fn beside(args: &mut Args<'_>, kept: Kept) -> Result<Step, CutError> {
    let mark = args.mark()?;
    let or_all = args.given()?;
    let absent = mark.absent();
    let reasons = [absent.clone(), NOTHING_LEFT.to_owned()];
    let byte = mark.what.plain_byte();
    let mark = Arc::new(mark);
    let kernel: Arc<dyn Kernel> = match byte {
        Some(byte) => Arc::new(Beside { byte, which: mark.which, kept, or_all }),
        None => {
            let mark = Arc::clone(&mark);
            Arc::new(OnePiece(move |text: &str| match mark.find(text) {
                Some(found) => {
                    let kept = kept.span(found, 0, text.len());
                    if kept.is_empty() { Err(1) } else { Ok(kept) }
                }
                None if or_all => Ok(0..text.len()),
                None => Err(0),
            }))
        }
    };
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        match mark.find(text) {
            Some(found) => context.narrow(piece, kept.span(found, 0, text.len())),
            None if or_all => Ok(piece),
            None => context.missing(Nothing::Absent, &absent),
        }
    })
    .with_kernel(Some(kernel))
    .lacking(reasons))
}

fn between(args: &mut Args<'_>) -> Result<Step, CutError> {
    let (first, matching, second) = args.two_marks()?;
    let brackets = if matching { Some(bracket_pair(args, &first, &second)?) } else { None };
    let or_end = args.given()?;
    let no_first = first.absent();
    let no_second = format!("no {} behind {}", second.spelled, first.spelled);
    let is_plain = !matching && !or_end && first.which == 1 && second.which == 1;
    let bytes = first.what.plain_byte().zip(second.what.plain_byte()).filter(|_| is_plain);
    let reasons = [no_first, no_second, NOTHING_LEFT.to_owned()];
    let kept = Arc::new(move |text: &str| {
        let found = first.find(text).ok_or(0_usize)?;
        let rest = &text[found.end..];
        let length = match brackets {
            Some((open, close)) => closing(rest, open, close),
            None => second.find(rest).map(|behind| behind.start),
        };
        let length = length.or(or_end.then_some(rest.len())).ok_or(1_usize)?;
        if length == 0 { Err(2) } else { Ok(found.end..found.end + length) }
    });
    let kernel: Arc<dyn Kernel> = match bytes {
        Some((first, second)) => Arc::new(Between { first, second }),
        None => {
            let kept = Arc::clone(&kept);
            Arc::new(OnePiece(move |text: &str| kept(text)))
        }
    };
    let said = reasons.clone();
    Ok(Step::text(move |piece, context| match kept(piece.text()) {
        Ok(span) => Ok(piece.narrow(span)),
        Err(n @ 2) => context.missing(Nothing::Empty, &said[n]),
        Err(n) => context.missing(Nothing::Absent, &said[n]),
    })
    .with_kernel(Some(kernel))
    .lacking(reasons))
}

/// The brackets of `between "(" and matching ")"`.
fn bracket_pair(args: &Args<'_>, first: &Mark, second: &Mark) -> Result<(char, char), CutError> {
    let text = |mark: &Mark| match &mark.what {
        What::Text(finder) => Some(String::from_utf8_lossy(finder.needle()).into_owned()),
        _ => None,
    };
    let pair = text(second).and_then(|close| {
        let n = CLOSING.iter().position(|bracket| bracket.to_string() == close)?;
        text(first)?.contains(OPENING[n]).then_some((OPENING[n], CLOSING[n]))
    });
    pair.filter(|_| !second.which_said).ok_or_else(|| {
        args.refuse(
            "`matching` knows the brackets ( ) [ ] { } < > « », one opened by the first mark and \
            closed by the second",
        )
        .remedy("Write for instance: between \"(\" and matching \")\".")
    })
}

/// Where the bracket stands that closes one opened before the text.
fn closing(text: &str, open: char, close: char) -> Option<usize> {
    let mut depth = 1;
    for (at, c) in text.char_indices() {
        if c == open {
            depth += 1;
        } else if c == close {
            depth -= 1;
            if depth == 0 {
                return Some(at);
            }
        }
    }
    None
}

/// How a mark is written that is guessed: verbatim, and as a word of its own in any case.
fn ways(mark: &GuessedMark) -> Vec<(String, &'static str, u32)> {
    let mut ways = Vec::new();
    if mark.text.chars().all(is_word) {
        ways.push((format!("word {}", mark.written), "", mark.cost + 2));
        ways.push((format!("word {}", mark.written), " ignoring case", mark.cost + 6));
    } else {
        ways.push((mark.written.clone(), "", mark.cost));
        if mark.text.chars().any(char::is_alphabetic) {
            ways.push((mark.written.clone(), " ignoring case", mark.cost + 4));
        }
    }
    ways
}

/// Whether there is no digit in a text that may be cut off at one.
fn is_of_no_digits(text: &str) -> bool {
    !text.is_empty() && !text.bytes().any(|b| b.is_ascii_digit())
}

/// How often a mark stands in a text.
fn times(mark: &GuessedMark, text: &str) -> usize {
    text.matches(mark.text.as_str()).count()
}

fn guess_before(guesses: &mut Guesses<'_>) {
    for place in guesses.places().iter().filter(|place| place.start == 0) {
        if guesses.text[place.end..].starts_with(|c: char| c.is_ascii_digit())
            && is_of_no_digits(guesses.piece)
        {
            guesses.add(36, "before digit");
        }
        for mark in guesses.marks_after(place.end) {
            let total = times(&mark, guesses.text);
            for (which, cost) in which(times(&mark, guesses.piece) + 1, total) {
                for (written, case, more) in ways(&mark) {
                    guesses.add(34 + cost + more, format!("before {which}{written}{case}"));
                }
            }
        }
    }
}

fn guess_after(guesses: &mut Guesses<'_>) {
    for place in guesses.places().iter().filter(|place| place.end == guesses.text.len()) {
        if guesses.text[..place.start].ends_with(|c: char| c.is_ascii_digit())
            && is_of_no_digits(guesses.piece)
        {
            guesses.add(36, "after last digit");
        }
        for mark in guesses.marks_before(place.start) {
            let total = times(&mark, guesses.text);
            for (which, cost) in which(times(&mark, &guesses.text[..place.start]), total) {
                for (written, case, more) in ways(&mark) {
                    guesses.add(34 + cost + more, format!("after {which}{written}{case}"));
                }
            }
        }
    }
}

fn guess_between(guesses: &mut Guesses<'_>) {
    for place in guesses.places() {
        let (before, after) = (guesses.marks_before(place.start), guesses.marks_after(place.end));
        for (first, second) in
            before.iter().flat_map(|first| after.iter().map(move |second| (first, second)))
        {
            let are_quotes = ['"', '\'']
                .iter()
                .any(|quote| first.text.ends_with(*quote) && second.text.starts_with(*quote));
            let are_brackets = are_quotes
                || OPENING.iter().zip(CLOSING).any(|(open, close)| {
                    first.text.ends_with(*open) && second.text.starts_with(close)
                });
            let of_words = first.text.chars().all(is_word) || second.text.chars().all(is_word);
            let cost = if are_brackets { 28 } else { 50 }
                + first.cost
                + second.cost
                + if of_words { 6 } else { 0 };
            let n = times(first, &guesses.text[..place.start]);
            if times(second, guesses.piece) > 0 {
                continue;
            }
            let case = ways(first).into_iter().flat_map(|first| {
                ways(second).into_iter().map(move |second| (first.clone(), second))
            });
            for ((first, of_first, _), (second, of_second, _)) in case {
                if of_first.is_empty() != of_second.is_empty()
                    && first.chars().any(char::is_alphabetic)
                    && second.chars().any(char::is_alphabetic)
                {
                    continue;
                }
                let of_both = if of_first.is_empty() { of_second } else { of_first };
                for (which, more) in which(n, 1) {
                    let more = more + if of_both.is_empty() { 0 } else { 4 };
                    guesses
                        .add(cost + more, format!("between {which}{first} and {second}{of_both}"));
                }
            }
        }
    }
}
