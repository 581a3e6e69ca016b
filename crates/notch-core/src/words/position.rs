//! Steps that count characters.

use std::sync::Arc;

use super::Args;
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Reach, Word};
use crate::program::Step;
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::span::narrow;
use crate::program::{Item, Nothing, Piece, RowContext};
use crate::text::What;
use crate::text::characters::{count, is_notch, notch_after, notch_before_last};
use crate::text::masks::each_its_own;
use crate::text::{ByteWidth, Span, characters, is_word};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "first",
        group: Group::Position,
        form: "first COUNT",
        meaning: "that many characters from the left; fewer, with a finding `short`, when the text \
            has fewer",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "first 2", gives: "FH" },
            Example { cell: "FH", cut: "first 3", gives: "FH (short: 2 characters, not 3)" },
        ],
        guess: Guess::Takes(guess_first),
        build: Build::Step(|args| {
            let n = args.count()?;
            Ok(Step::text(move |piece, context| first(piece, n, context))
                .with_kernel(Some(Arc::new(First(n)))))
        }),
    },
    Word {
        name: "last",
        group: Group::Position,
        form: "last COUNT",
        meaning: "that many characters from the right; fewer, with a finding `short`, when the \
            text has fewer",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "last 1", gives: "7" },
            Example { cell: "Łódź", cut: "last 3", gives: "ódź" },
        ],
        guess: Guess::Takes(guess_last),
        build: Build::Step(|args| {
            let n = args.count()?;
            Ok(Step::text(move |piece, context| last(piece, n, context))
                .with_kernel(Some(Arc::new(Last(n)))))
        }),
    },
    Word {
        name: "chars",
        group: Group::Position,
        form: "chars RANGE [for COUNT]",
        meaning: "the characters at those positions, or that many from a position on; what there \
            is, with a finding `short`, when the text ends inside",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars 4..7", gives: "2019" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars 4 for 4", gives: "2019" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars -7..-3", gives: "00417" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "chars 9..", gives: "BRA-00417-7" },
            Example { cell: "FH-20", cut: "chars 4..7", gives: "20 (short: 5 characters, not 7)" },
            Example { cell: "FH", cut: "chars 4..7", gives: "(missing: only 2 characters)" },
        ],
        guess: Guess::Takes(guess_chars),
        build: Build::Step(chars),
    },
    Word {
        name: "bytes",
        group: Group::Position,
        form: "bytes RANGE [for COUNT]",
        meaning: "the same by byte of the UTF-8 text, for byte layouts; missing when it would \
            split a character",
        examples: &[
            Example { cell: "FH2019BRA", cut: "bytes 3 for 4", gives: "2019" },
            Example {
                cell: "Žďár",
                cut: "bytes 1..3",
                gives: "(missing: would split a character)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(bytes),
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
        guess: Guess::Takes(guess_drop),
        build: Build::Step(|args| {
            let from_left = args.chosen()? == 0;
            let n = args.count()?;
            let kernel: Arc<dyn Kernel> =
                if from_left { Arc::new(DropFirst(n)) } else { Arc::new(DropLast(n)) };
            Ok(Step::text(move |piece, context| {
                let text = piece.text();
                let span = if from_left {
                    notch_after(text, n).unwrap_or(text.len())..text.len()
                } else {
                    0..notch_before_last(text, n).unwrap_or(0)
                };
                context.narrow(piece, span)
            })
            .with_kernel(Some(kernel)))
        }),
    },
    Word {
        name: "drop leading",
        group: Group::Position,
        form: "drop (leading | trailing) MARK",
        meaning: "without that mark where the text begins (ends) with it, once; unchanged \
            otherwise",
        examples: &[
            Example { cell: "no. 417", cut: "drop leading \"no. \"", gives: "417" },
            Example { cell: "417", cut: "drop leading \"no. \"", gives: "417" },
            Example { cell: "GR-2019b", cut: "drop trailing letter", gives: "GR-2019" },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let leading = args.chosen()? == 0;
            let mark = args.mark()?;
            if mark.which_said {
                return Err(
                    args.refuse("Only the mark at the end itself is dropped; leave out which one")
                );
            }
            let kernel = match &mark.what {
                What::Text(finder) if finder.needle().is_ascii() => {
                    let text = finder.needle().to_vec();
                    Some(Arc::new(DropText { text, leading }) as _)
                }
                _ => None,
            };
            Ok(Step::text(move |piece, context| {
                let text = piece.text();
                let found = if leading { mark.what.at_start(text) } else { mark.what.at_end(text) };
                match found {
                    Some(found) if leading => context.narrow(piece, found.end..text.len()),
                    Some(found) => context.narrow(piece, 0..found.start),
                    None => Ok(piece),
                }
            })
            .with_kernel(kernel))
        }),
    },
];

/// From where on a width asked for looks more like "at most" than like a part of a code.
const LONG: usize = 20;

fn short<'a>(context: &mut RowContext<'a>, text: &'a str, has: usize, wanted: usize) {
    let reason = if wanted >= LONG {
        context.alloc_fmt(format_args!(
            "{has} characters, not {wanted} (at most {wanted}: clip {wanted})"
        ))
    } else {
        context.alloc_fmt(format_args!(
            "{has} character{}, not {wanted}",
            if has == 1 { "" } else { "s" }
        ))
    };
    context.report(FindingKind::Short, reason, text);
}

fn first<'a>(piece: Piece<'a>, n: usize, context: &mut RowContext<'a>) -> Item<'a> {
    let text = piece.text();
    let end = notch_after(text, n).unwrap_or_else(|| {
        short(context, text, count(text), n);
        text.len()
    });
    context.narrow(piece, 0..end)
}

fn last<'a>(piece: Piece<'a>, n: usize, context: &mut RowContext<'a>) -> Item<'a> {
    let text = piece.text();
    let start = notch_before_last(text, n).unwrap_or_else(|| {
        short(context, text, count(text), n);
        0
    });
    context.narrow(piece, start..text.len())
}

/// `RANGE [for COUNT]`: the range, and the count when there is one.
fn start_and_count(args: &mut Args<'_>, word: &str) -> Result<(Reach, Option<usize>), CutError> {
    let reach = args.reach()?;
    if !args.given()? {
        return Ok((reach, None));
    }
    if !reach.single {
        return Err(args
            .refuse("`for` says how many follow one position, and a range says so already")
            .remedy(format!("Write {word} 5..12 or {word} 5 for 8.")));
    }
    Ok((reach, Some(args.count()?)))
}

fn chars(args: &mut Args<'_>) -> Result<Step, CutError> {
    let (reach, n) = start_and_count(args, "chars")?;
    // The way of most cuts: closed, from the left, and the text is long enough.
    let plain = match (reach.first, reach.last, n) {
        (Some(first @ 1..), _, Some(n)) => Some((clamp(first - 1), clamp(first - 1) + n)),
        (Some(first @ 1..), Some(last @ 1..), None) => Some((clamp(first - 1), clamp(last))),
        _ => None,
    };
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        if let Some((from, to)) = plain
            && let Some(end) = notch_after(text, to)
        {
            return context.narrow(piece, notch_after(text, from).unwrap_or(end)..end);
        }
        let length = count(text);
        let span = match extent(reach, n, length) {
            Extent::Whole(span) => span,
            Extent::Short(span, wanted) => {
                short(context, text, length, wanted);
                span
            }
            Extent::Nothing => {
                let reason = context.alloc_fmt(format_args!(
                    "only {length} character{}",
                    if length == 1 { "" } else { "s" }
                ));
                return context.missing(Nothing::Absent, reason);
            }
        };
        let start = notch_after(text, span.start).unwrap_or(0);
        context.narrow(piece, start..notch_after(text, span.end).unwrap_or(text.len()))
    })
    .with_kernel(Some(match plain {
        Some((from, to)) => Arc::new(Chars(from, to - from)),
        None => Arc::new(Reached { reach, n }) as Arc<dyn Kernel>,
    })))
}

/// What positions, which may lie outside a text on either side, take of it.
enum Extent {
    /// All that was asked for.
    Whole(Span),
    /// What is there, and how long the text should have been.
    Short(Span, usize),
    Nothing,
}

/// Positions counted from 1 → places counted from 0, in a text of that length.
fn extent(reach: Reach, n: Option<usize>, length: usize) -> Extent {
    let end = i64::try_from(length).unwrap_or(i64::MAX);
    let place = |n: i64| if n < 0 { end + 1 + n } else { n };
    let first = reach.first.map_or(1, place);
    let last = match n {
        Some(n) => first.saturating_add(i64::try_from(n).unwrap_or(i64::MAX) - 1),
        None => reach.last.map_or(end.max(first), place),
    };
    let (from, to) = (first.max(1), last.min(end));
    if from > to {
        return Extent::Nothing;
    }
    let span = clamp(from - 1)..clamp(to);
    let open = n.is_none() && reach.last.is_none();
    match (first < 1, last > end && !open) {
        (true, _) => Extent::Short(span, length + clamp(1 - first)),
        (_, true) => Extent::Short(span, clamp(last)),
        _ => Extent::Whole(span),
    }
}

fn bytes(args: &mut Args<'_>) -> Result<Step, CutError> {
    let (reach, n) = start_and_count(args, "bytes")?;
    let width = args.byte_width();
    Ok(Step::text(move |piece, context| {
        let text = piece.text();
        let length = width.as_ref().map_or(text.len(), |width| width.0(text));
        let span = match extent(reach, n, length) {
            Extent::Whole(span) => span,
            Extent::Short(span, wanted) => {
                let reason = context.alloc_fmt(format_args!("{length} bytes, not {wanted}"));
                context.report(FindingKind::Short, reason, text);
                span
            }
            Extent::Nothing => {
                let reason = context.alloc_fmt(format_args!(
                    "only {length} byte{}",
                    if length == 1 { "" } else { "s" }
                ));
                return context.missing(Nothing::Absent, reason);
            }
        };
        let place = |at: usize| {
            width
                .as_ref()
                .map_or(Some(at), |width| place_of(text, at, width))
                .filter(|at| is_notch(text, *at))
        };
        match (place(span.start), place(span.end)) {
            (Some(from), Some(to)) => context.narrow(piece, from..to),
            _ => context.missing(Nothing::Absent, "would split a character"),
        }
    }))
}

/// The place in a text before which that many bytes of its file stand; `None` within a character.
fn place_of(text: &str, bytes: usize, width: &ByteWidth) -> Option<usize> {
    let (mut stood, mut at) = (0, 0);
    for character in text.chars() {
        if stood >= bytes {
            break;
        }
        let end = at + character.len_utf8();
        (stood, at) = (stood + width.0(&text[at..end]), end);
    }
    (stood == bytes).then_some(at)
}

fn clamp(n: i64) -> usize {
    usize::try_from(n).unwrap_or(if n < 0 { 0 } else { usize::MAX })
}

// The kernels. The character after the last one taken may still belong to it, and so may the one
// before the first one: both are looked at.

/// That many characters from the left.
struct First(usize);

impl Kernel for First {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let n = self.0;
        narrow(rows.spans, rows.text, |text, from, to| {
            (to - from >= n && each_its_own(text, from, to.min(from + n + 1)))
                .then_some((from, from + n))
        });
    }
}

/// That many characters from the right.
struct Last(usize);

impl Kernel for Last {
    fn run(&self, rows: &mut KernelRows<'_>) {
        narrow(rows.spans, rows.text, |text, from, to| {
            let start = to.checked_sub(self.0).filter(|start| *start >= from)?;
            each_its_own(text, from.max(start.saturating_sub(1)), to).then_some((start, to))
        });
    }
}

/// Without that many characters at the left.
struct DropFirst(usize);

impl Kernel for DropFirst {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let n = self.0;
        narrow(rows.spans, rows.text, |text, from, to| {
            (to - from > n && each_its_own(text, from, from + n + 1)).then_some((from + n, to))
        });
    }
}

/// Without that many characters at the right.
struct DropLast(usize);

impl Kernel for DropLast {
    fn run(&self, rows: &mut KernelRows<'_>) {
        narrow(rows.spans, rows.text, |text, from, to| {
            let end = to.checked_sub(self.0).filter(|end| *end > from)?;
            each_its_own(text, end - 1, to).then_some((from, end))
        });
    }
}

/// From the character at a place, counted from 0, that many.
struct Chars(usize, usize);

impl Kernel for Chars {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let Chars(before, count) = *self;
        narrow(rows.spans, rows.text, |text, from, to| {
            let end = from.checked_add(before)?.checked_add(count).filter(|end| *end <= to)?;
            each_its_own(text, from, to.min(end + 1)).then_some((from + before, end))
        });
    }
}

/// Without a text of ASCII that the text may begin or end with.
struct DropText {
    text: Vec<u8>,
    leading: bool,
}

impl Kernel for DropText {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let length = self.text.len();
        narrow(rows.spans, rows.text, |text, from, to| {
            let piece = &text[from..to];
            if self.leading {
                // The character after it may still belong to it.
                let near = to.min(from + length + 1);
                each_its_own(text, from, near).then_some(())?;
                Some((from + if piece.starts_with(&self.text) { length } else { 0 }, to))
            } else {
                let near = from.max(to.saturating_sub(length + 1));
                each_its_own(text, near, to).then_some(())?;
                Some((from, to - if piece.ends_with(&self.text) { length } else { 0 }))
            }
        });
    }
}

/// Positions that are counted from the end, or reach to it.
struct Reached {
    reach: Reach,
    n: Option<usize>,
}

impl Kernel for Reached {
    fn run(&self, rows: &mut KernelRows<'_>) {
        narrow(rows.spans, rows.text, |text, from, to| {
            if !each_its_own(text, from, to) {
                return None;
            }
            match extent(self.reach, self.n, to - from) {
                Extent::Whole(span) => Some((from + span.start, from + span.end)),
                Extent::Short(..) | Extent::Nothing => None,
            }
        });
    }
}

/// Whether a position says too much of a place: a sign stands at a side of it, so that a section
/// would say the same and hold in longer texts; or a zero before its digits, which may be filled
/// up.
fn is_beside_sign(guesses: &Guesses<'_>, place: &Span) -> bool {
    let before = &guesses.text[..place.start];
    if before.ends_with('0')
        && guesses.text[place.start..].starts_with(|c: char| c.is_ascii_digit())
    {
        return true;
    }
    let is_sign = |c: Option<char>| c.is_some_and(|c| !is_word(c));
    let text = guesses.text;
    let at =
        |at: usize| is_sign(text[..at].chars().next_back()) || is_sign(text[at..].chars().next());
    place.start > 0 && at(place.start) || place.end < text.len() && at(place.end)
}

fn guess_first(guesses: &mut Guesses<'_>) {
    for place in guesses.places().iter().filter(|place| place.start == 0) {
        let cost = if is_beside_sign(guesses, place) { 70 } else { 32 };
        guesses.add(cost, format!("first {}", characters::count(guesses.piece)));
    }
}

fn guess_last(guesses: &mut Guesses<'_>) {
    for place in guesses.places().iter().filter(|place| place.end == guesses.text.len()) {
        let cost = if is_beside_sign(guesses, place) { 70 } else { 32 };
        guesses.add(cost, format!("last {}", characters::count(guesses.piece)));
    }
}

fn guess_chars(guesses: &mut Guesses<'_>) {
    let length = characters::count(guesses.piece);
    for place in guesses.places() {
        let before = characters::count(&guesses.text[..place.start]);
        let after = characters::count(&guesses.text[place.end..]);
        let cost = if is_beside_sign(guesses, &place) { 85 } else { 45 };
        let (first, last) = (before + 1, before + length);
        match length {
            1 => {
                guesses.add(cost, format!("chars {first}"));
                guesses.add(cost + 8, format!("chars -{}", after + 1));
            }
            _ => {
                guesses.add(cost, format!("chars {first}..{last}"));
                guesses.add(cost + 8, format!("chars -{}..-{}", after + length, after + 1));
            }
        }
        if before > 0 && after > 0 {
            guesses.add(cost + 6, format!("chars {first}..-{}", after + 1));
        }
    }
}

fn guess_drop(guesses: &mut Guesses<'_>) {
    for place in guesses.places() {
        let cost = if is_beside_sign(guesses, &place) { 75 } else { 42 };
        let before = characters::count(&guesses.text[..place.start]);
        let after = characters::count(&guesses.text[place.end..]);
        match (before, after) {
            (0, after) => guesses.add(cost, format!("drop last {after}")),
            (before, 0) => guesses.add(cost, format!("drop first {before}")),
            _ => {}
        }
    }
}
