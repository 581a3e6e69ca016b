//! Steps that divide a text into parts.

use std::sync::Arc;

use super::Args;
use super::items::{COUNTED, counted, items_of, list_of, picked, picking, places};
use super::part_kernels::{NthPart, ReachedParts, kept, span_of};
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Reach, Word, quoted};
use crate::program::kernel::{Kernel, OnePiece};
use crate::program::{Item, Missing, Nothing, Piece, RowContext, Value};
use crate::program::{Items, Step};
use crate::text::{Separator, Span, What, characters, is_word, words};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "part",
        group: Group::Section,
        form: "part PICK [of COUNT] by SEPARATOR",
        meaning: "the part with that number, or a range of them with what stands between; `of`: \
            only where there are exactly that many",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "part 3 by \"-\"", gives: "BRA" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "part -2 by \"-\"", gives: "00417" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "part 2..3 by \"-\"", gives: "2019-BRA" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "part 4 of 5 by \"-\"", gives: "00417" },
            Example {
                cell: "FH-2019-BRA-00417",
                cut: "part 4 of 5 by \"-\"",
                gives: "(missing: 4 parts, not 5)",
            },
            Example {
                cell: "FH--BRA",
                cut: "part 2 by \"-\"",
                gives: "(missing: part 2 is empty)",
            },
            Example { cell: "FH-2019", cut: "part 3 by \"-\"", gives: "(missing: 2 parts)" },
        ],
        guess: Guess::Takes(guess_part),
        build: Build::Step(part),
    },
    Word {
        name: "parts",
        group: Group::Section,
        form: "parts by SEPARATOR",
        meaning: "all parts, as a list; several names on the left take one each",
        examples: &[
            Example {
                cell: "FH-2019-BRA",
                cut: "house, year, genus = parts by \"-\"",
                gives: "house: FH, year: 2019, genus: BRA",
            },
            Example {
                cell: "FH-2019-BRA-1",
                cut: "house, _, genus = parts by \"-\"",
                gives: "house: FH, genus: BRA (parts: 4 parts for 3 names)",
            },
            Example {
                cell: "FH-2019",
                cut: "house, year, genus? = parts by \"-\"",
                gives: "house: FH, year: 2019, genus: ",
            },
            Example { cell: "FH-2019-BRA", cut: "parts by \"-\"", gives: "FH; 2019; BRA" },
            Example {
                cell: "FH2019BR",
                cut: "parts by widths 2,4,3",
                gives: "FH; 2019; BR (short: part 3 has 2 characters, not 3)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let separator = Arc::new(args.separator()?);
            let items = items(&separator);
            let step = Step::list(move |piece, context| {
                let text = piece.text();
                let mut parts = context.items();
                for (n, span) in separator.parts(text).enumerate() {
                    check_width(&separator, n, &text[span.clone()], context);
                    if let Err(too_long) = context.push(&mut parts, Ok(piece.narrow(span))) {
                        return Value::Missing(too_long);
                    }
                }
                if parts.is_empty() {
                    return Value::Missing(Missing::new(Nothing::Empty, NO_PARTS));
                }
                Value::List(parts.into_bump_slice())
            });
            Ok(match items {
                Some(items) => step.with_items(items),
                None => step,
            })
        }),
    },
    Word {
        name: "word",
        group: Group::Section,
        form: "word PLACE",
        meaning: "the word with that number: a run of letters, digits and `_`; an apostrophe or \
            hyphen inside stays, punctuation around goes",
        examples: &[
            Example { cell: "Dr. Věra O'Dare-Ash (night)", cut: "word 3", gives: "O'Dare-Ash" },
            Example { cell: "Iris Moran", cut: "word last", gives: "Moran" },
            Example { cell: "Iris", cut: "word 2", gives: "(missing: 1 word)" },
        ],
        guess: Guess::Takes(guess_word),
        build: Build::Step(|args| {
            let reach = args.place()?;
            let find = move |text: &str| picked(reach, || words(text));
            Ok(picking(find, ("no words", "word", "words")))
        }),
    },
    Word {
        name: "words",
        group: Group::Section,
        form: "words",
        meaning: "all words, as a list",
        examples: &[Example {
            cell: "red clover, dog-rose",
            cut: "words",
            gives: "red; clover; dog-rose",
        }],
        guess: Guess::None,
        build: Build::Step(|_| Ok(list_of(|text, take| words(text).all(take), "no words"))),
    },
];

const NO_PARTS: &str = "no parts";

/// The parts of a text as kernels; `None` where one that is cut off is short.
fn items(separator: &Arc<Separator>) -> Option<Items> {
    match (separator.plain_byte(), &**separator) {
        (Some(separator), _) => Some(Items {
            none: NO_PARTS.to_owned(),
            kernel: Arc::new(move |n, of| Arc::new(NthPart { n, of, separator })),
        }),
        (None, Separator::Widths(_)) => None,
        (None, _) => {
            let separator = Arc::clone(separator);
            let find = move |text: &str, take: &mut dyn FnMut(Span) -> bool| {
                separator.parts(text).all(take)
            };
            Some(items_of(Arc::new(find), NO_PARTS))
        }
    }
}

fn part(args: &mut Args<'_>) -> Result<Step, CutError> {
    let reach = args.reach()?;
    let of = if args.given()? { Some(args.count()?) } else { None };
    if let Some(of) = of
        && let Some(beyond) =
            [reach.first, reach.last].into_iter().flatten().find(|n| n.unsigned_abs() > of as u64)
    {
        return Err(args.refuse(format!("Of {of} parts there is no part {beyond}")));
    }
    let separator = Arc::new(args.separator()?);
    let single = reach.first.filter(|_| reach.single);
    let from_start = single.and_then(|n| usize::try_from(n).ok());
    let kernel: Option<Arc<dyn Kernel>> = match (separator.plain_bytes(), &*separator) {
        (Some(bytes), _) => Some(match (from_start, bytes.as_slice()) {
            (Some(n), [separator]) => Arc::new(NthPart { n, of, separator: *separator }),
            _ => Arc::new(ReachedParts { reach, of, bytes, separator: Arc::clone(&separator) }),
        }),
        (None, Separator::Widths(_)) => None,
        (None, _) => {
            let separator = Arc::clone(&separator);
            Some(Arc::new(OnePiece(move |text: &str| kept(text, &separator, reach, of))))
        }
    };
    Ok(Step::text(move |piece, context| match (single, of) {
        (Some(n @ 1..), None) => {
            nth(piece, &separator, usize::try_from(n).unwrap_or(usize::MAX), context)
        }
        _ => reached(piece, &separator, reach, of, context),
    })
    .with_kernel(kernel)
    .lacking((1..=COUNTED).map(parts_said).chain(single.map(part_is_empty))))
}

/// The way of most cuts: one part counted from the left, and the parts after it are never looked
/// for.
fn nth<'a>(
    piece: Piece<'a>,
    separator: &Separator,
    n: usize,
    context: &mut RowContext<'a>,
) -> Item<'a> {
    let text = piece.text();
    match separator.parts(text).nth(n - 1) {
        Some(span) if !span.is_empty() => {
            check_width(separator, n - 1, &text[span.clone()], context);
            Ok(piece.narrow(span))
        }
        Some(_) => Err(Missing::new(Nothing::Empty, context.alloc(&part_is_empty(n as i64)))),
        None => Err(too_few(separator.parts(text).count(), context)),
    }
}

fn reached<'a>(
    piece: Piece<'a>,
    separator: &Separator,
    reach: Reach,
    of: Option<usize>,
    context: &mut RowContext<'a>,
) -> Item<'a> {
    let text = piece.text();
    let total = separator.parts(text).count();
    if let Some(of) = of.filter(|of| *of != total) {
        return Err(Missing::new(
            Nothing::Absent,
            context.alloc_fmt(format_args!("{}, not {of}", parts_said(total))),
        ));
    }
    let Some((first, last)) = places(reach, total) else {
        return Err(too_few(total, context));
    };
    let span = span_of(separator.parts(text), first, last);
    if span.is_empty() {
        let name = if reach.single {
            context.alloc(&part_is_empty(reach.first.unwrap_or(1)))
        } else {
            "these parts are empty"
        };
        return Err(Missing::new(Nothing::Empty, name));
    }
    if let Some(last_part) = separator.parts(text).nth(last - 1) {
        check_width(separator, last - 1, &text[last_part], context);
    }
    Ok(piece.narrow(span))
}

/// A part cut off by the end of the text is short.
fn check_width<'a>(
    separator: &Separator,
    part: usize,
    text: &'a str,
    context: &mut RowContext<'a>,
) {
    if let Some(wanted) = separator.width(part) {
        let has = characters::count(text);
        if has < wanted {
            let reason = context.alloc_fmt(format_args!(
                "part {} has {has} character{}, not {wanted}",
                part + 1,
                if has == 1 { "" } else { "s" }
            ));
            context.report(FindingKind::Short, reason, text);
        }
    }
}

/// How many parts a text has, as reasons have it.
fn parts_said(count: usize) -> String {
    counted(count, "part")
}

fn part_is_empty(n: i64) -> String {
    format!("part {n} is empty")
}

fn too_few<'a>(total: usize, context: &RowContext<'a>) -> Missing<'a> {
    Missing::new(Nothing::Absent, context.alloc(&parts_said(total)))
}

fn guess_part(guesses: &mut Guesses<'_>) {
    for place in guesses.places() {
        let mut marks = guesses.marks_before(place.start);
        marks.extend(guesses.marks_after(place.end));
        marks.retain(|mark| !mark.text.chars().any(is_word));
        let mut separators: Vec<(Separator, String, u32)> = Vec::new();
        for mark in &marks {
            if separators.iter().all(|(_, written, _)| *written != mark.written) {
                separators.push((
                    Separator::What(What::text(&mark.text)),
                    mark.written.clone(),
                    mark.cost,
                ));
            }
        }
        if marks.iter().any(|mark| mark.text.trim().is_empty()) {
            separators.push((Separator::Spaces, "spaces".to_owned(), 9));
        }
        let beside = [
            guesses.text[..place.start].chars().next_back(),
            guesses.text[place.end..].chars().next(),
        ];
        if let [Some(before), Some(after)] = beside
            && before != after
            && !is_word(before)
            && !is_word(after)
        {
            let both: String = [before, after].iter().collect();
            separators.extend(quoted(&both).map(|written| {
                (Separator::What(What::any_of(&both)), format!("any of {written}"), 14)
            }));
        }
        separators.push((Separator::Kind, "kind".to_owned(), 26));
        for (separator, written, cost) in separators {
            let parts: Vec<Span> = separator.parts(guesses.text).collect();
            let first = parts.iter().position(|part| part.start == place.start);
            let last = parts.iter().position(|part| part.end == place.end);
            let (Some(first), Some(last)) = (first, last) else { continue };
            let total = parts.len();
            if last < first || total < 2 || last - first + 1 == total {
                continue;
            }
            let number = |n: usize| 2 * n.min(10) as u32;
            let from_end = total - first;
            if first == last {
                let cost = 36 + cost + number(first);
                guesses.add(cost, format!("part {} by {written}", first + 1));
                guesses.add(
                    if total > 2 { cost - 1 } else { cost + 4 },
                    format!("part {} of {total} by {written}", first + 1),
                );
                guesses.add(
                    4 + cost + number(from_end) - number(first),
                    match from_end {
                        1 => format!("part last by {written}"),
                        n => format!("part -{n} by {written}"),
                    },
                );
            } else {
                let cost = 48 + cost + number(last - first);
                let range = match (first + 1, last + 1) {
                    (1, last) => format!("..{last}"),
                    (first, last) if last == total => format!("{first}.."),
                    (first, last) => format!("{first}..{last}"),
                };
                guesses.add(cost, format!("part {range} by {written}"));
                let range = match (from_end, total - last) {
                    (from, 1) => format!("-{from}.."),
                    (from, to) if from == total => format!("..-{to}"),
                    (from, to) => format!("-{from}..-{to}"),
                };
                guesses.add(cost + 4, format!("part {range} by {written}"));
            }
        }
    }
}

fn guess_word(guesses: &mut Guesses<'_>) {
    for place in guesses.places() {
        let words: Vec<Span> = words(guesses.text).collect();
        let Some(n) = words.iter().position(|word| *word == place) else { continue };
        guesses.add(46 + 2 * n.min(10) as u32, format!("word {}", n + 1));
        match words.len() - n {
            1 => guesses.add(44, "word last"),
            n => guesses.add(50 + 2 * n.min(10) as u32, format!("word -{n}")),
        }
    }
}
