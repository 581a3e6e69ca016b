//! Steps that count characters.

use super::{Args, Step};
use crate::evaluate::{Item, Nothing, Piece, Run};
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Reach, Word};
use crate::text::characters::{count, notch_after, notch_before_last};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "first",
        group: Group::Position,
        form: "first COUNT",
        meaning: "that many characters from the left; fewer, with a finding `short`, when the text has fewer",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "first 2", gives: "FH" },
            Example { cell: "FH", cut: "first 3", gives: "FH (short: 2 characters, not 3)" },
        ],
        build: Build::Step(|args| {
            let n = args.count()?;
            Ok(Step::text(move |piece, run| first(piece, n, run)))
        }),
    },
    Word {
        name: "last",
        group: Group::Position,
        form: "last COUNT",
        meaning: "that many characters from the right; fewer, with a finding `short`, when the text has fewer",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "last 1", gives: "7" },
            Example { cell: "Łódź", cut: "last 3", gives: "ódź" },
        ],
        build: Build::Step(|args| {
            let n = args.count()?;
            Ok(Step::text(move |piece, run| last(piece, n, run)))
        }),
    },
    Word {
        name: "chars",
        group: Group::Position,
        form: "chars RANGE [for COUNT]",
        meaning: "the characters at those positions, or that many from a position on; what there is, with a finding `short`, when the text ends inside",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars 4..7", gives: "2019" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars 4 for 4", gives: "2019" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars -7..-3", gives: "00417" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars 9..", gives: "BRA-00417-7" },
            Example { cell: "FH-20", cut: "chars 4..7", gives: "20 (short: 5 characters, not 7)" },
            Example { cell: "FH", cut: "chars 4..7", gives: "(missing: only 2 characters)" },
        ],
        build: Build::Step(chars),
    },
    Word {
        name: "drop first",
        group: Group::Position,
        form: "drop (first | last) COUNT",
        meaning: "the text without that many characters at its left or right end",
        examples: &[
            Example { cell: "FH-2019-BRA", cut: "drop first 3", gives: "2019-BRA" },
            Example { cell: "FH-2019-BRA", cut: "drop last 4", gives: "FH-2019" },
            Example { cell: "FH", cut: "drop first 2", gives: "(missing: nothing left)" },
        ],
        build: Build::Step(|args| {
            let from_left = args.chosen()? == 0;
            let n = args.count()?;
            Ok(Step::text(move |piece, run| {
                let text = piece.text();
                let span = if from_left {
                    notch_after(text, n).unwrap_or(text.len())..text.len()
                } else {
                    0..notch_before_last(text, n).unwrap_or(0)
                };
                run.narrow(piece, span)
            }))
        }),
    },
];

/// From where on a width asked for looks more like "at most" than like a part of a code.
const LONG: usize = 20;

fn short<'a>(run: &mut Run<'a>, text: &'a str, has: usize, wanted: usize) {
    let reason = if wanted >= LONG {
        run.say(format_args!("{has} characters, not {wanted} (at most {wanted}: clip {wanted})"))
    } else {
        run.say(format_args!("{has} character{}, not {wanted}", if has == 1 { "" } else { "s" }))
    };
    run.find(FindingKind::Short, reason, text);
}

fn first<'a>(piece: Piece<'a>, n: usize, run: &mut Run<'a>) -> Item<'a> {
    let text = piece.text();
    let end = notch_after(text, n).unwrap_or_else(|| {
        short(run, text, count(text), n);
        text.len()
    });
    run.narrow(piece, 0..end)
}

fn last<'a>(piece: Piece<'a>, n: usize, run: &mut Run<'a>) -> Item<'a> {
    let text = piece.text();
    let start = notch_before_last(text, n).unwrap_or_else(|| {
        short(run, text, count(text), n);
        0
    });
    run.narrow(piece, start..text.len())
}

fn chars(args: &mut Args<'_>) -> Result<Step, CutError> {
    let reach = args.reach()?;
    if args.given()? {
        if !reach.single {
            return Err(args
                .refuse("`for` says how many characters follow one position, and a range says so already")
                .remedy("Write chars 5..12 or chars 5 for 8."));
        }
        let n = i64::try_from(args.count()?).unwrap_or(i64::MAX);
        let start = reach.first.unwrap_or(1);
        return Ok(Step::text(move |piece, run| for_count(piece, start, n, run)));
    }
    Ok(Step::text(move |piece, run| range(piece, reach, run)))
}

/// The characters at a range of positions.
fn range<'a>(piece: Piece<'a>, reach: Reach, run: &mut Run<'a>) -> Item<'a> {
    let text = piece.text();
    // The way of most cuts: closed, from the left, and the text is long enough.
    if let (Some(first @ 1..), Some(last @ 1..)) = (reach.first, reach.last)
        && let Some(end) = notch_after(text, clamp(last))
    {
        let start = notch_after(text, clamp(first - 1)).unwrap_or(end);
        return run.narrow(piece, start..end);
    }
    let length = count(text);
    let place = |n: i64| if n < 0 { i64::try_from(length).unwrap_or(i64::MAX) + 1 + n } else { n };
    let first = reach.first.map_or(1, place);
    let last = reach.last.map_or(i64::MAX, place);
    positions(piece, first, last, reach.last.is_none(), length, run)
}

/// That many characters from a position on.
fn for_count<'a>(piece: Piece<'a>, start: i64, n: i64, run: &mut Run<'a>) -> Item<'a> {
    let length = count(piece.text());
    let first = if start < 0 { i64::try_from(length).unwrap_or(i64::MAX) + 1 + start } else { start };
    positions(piece, first, first.saturating_add(n - 1), false, length, run)
}

/// The characters at positions that may lie outside the text on either side: what is there, with a finding when part is not.
fn positions<'a>(piece: Piece<'a>, first: i64, last: i64, open: bool, length: usize, run: &mut Run<'a>) -> Item<'a> {
    let text = piece.text();
    let end = i64::try_from(length).unwrap_or(i64::MAX);
    let (from, to) = (first.max(1), last.min(end));
    if from > to {
        let reason = run.say(format_args!("only {length} character{}", if length == 1 { "" } else { "s" }));
        return run.missing(Nothing::Absent, reason);
    }
    if first < 1 || (last > end && !open) {
        let wanted = if first < 1 { length + clamp(1 - first) } else { clamp(last) };
        short(run, text, length, wanted);
    }
    let start = notch_after(text, clamp(from - 1)).unwrap_or(0);
    let end = notch_after(text, clamp(to)).unwrap_or(text.len());
    run.narrow(piece, start..end)
}

fn clamp(n: i64) -> usize {
    usize::try_from(n).unwrap_or(if n < 0 { 0 } else { usize::MAX })
}
