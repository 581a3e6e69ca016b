//! Steps that take numbers.

use std::sync::Arc;

use super::Args;
use super::number_kernel::NumberKernel;
use super::number_rule::{NO_NUMBER, NumberRule, Which};
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Reach, Word, quoted};
use crate::program::Step;
use crate::program::Watch;
use crate::program::{Caveat, Event, Item, Missing, Nothing, Piece, RowContext, Value};
use crate::text::masks::first_digit;
use crate::text::{Decimal, Evidence, Marks, Number, NumberStyle, characters, is_word, numbers};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "number",
        group: Group::Number,
        form: "number [PLACE] [decimal (either | TEXT)] [accounting]",
        meaning: "the first number, or the one with that place, in plain form: no grouping, no \
            zeros in front, decimals as they stood after a point; `decimal \",\"` for texts with a \
            decimal comma, `decimal either` where each number shows by its own marks which it has, \
            `accounting` where a minus after it or round brackets around it mean below zero",
        examples: &[
            Example { cell: "EUR 1,250.50 for 3 trays", cut: "number", gives: "1250.50" },
            Example { cell: "EUR 1,250.50 for 3 trays", cut: "number 2", gives: "3" },
            Example { cell: "EUR 1.250,50", cut: "number decimal \",\"", gives: "1250.50" },
            Example { cell: "CHF 1'250.50", cut: "number decimal either", gives: "1250.50" },
            Example {
                cell: "1,250 kg",
                cut: "number decimal either",
                gives: "1250 (doubtful: 1250 or 1.250)",
            },
            Example { cell: "(1,250.50)", cut: "number accounting", gives: "-1250.50" },
            Example { cell: "at -12 °C in AB-7", cut: "number last", gives: "7" },
            Example { cell: "at -12 °C", cut: "number", gives: "-12" },
            Example {
                cell: "no. 007",
                cut: "number",
                gives: "7 (doubtful: zeros in front were dropped)",
            },
            Example {
                cell: "12,34",
                cut: "number 2",
                gives: "34 (doubtful: a comma or point touches it)",
            },
            Example { cell: "none", cut: "number", gives: "(missing: no number)" },
        ],
        guess: Guess::Makes(guess_number),
        build: Build::Step(|args| {
            let reach = if args.given()? { args.place()? } else { Reach::one(1) };
            let style = style(args)?;
            Ok(one(NumberRule { which: Which::Place(reach), style }, args))
        }),
    },
    Word {
        name: "number next",
        group: Group::Number,
        form: "number next [decimal (either | TEXT)] [accounting]",
        meaning: "the number that comes next: nothing but white space and `: = # .` may stand \
            before it",
        examples: &[
            Example {
                cell: "REF: 00417 of 3",
                cut: "after word \"ref\" ignoring case | number next",
                gives: "417 (doubtful: zeros in front were dropped)",
            },
            Example {
                cell: "Ref pending, 12 trays",
                cut: "after word \"Ref\" | number next",
                gives: "(missing: no number next)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let style = style(args)?;
            Ok(one(NumberRule { which: Which::Next, style }, args))
        }),
    },
    Word {
        name: "number after",
        group: Group::Number,
        form: "number after MARK [decimal (either | TEXT)] [accounting]",
        meaning: "the first number that stands right after the mark, as `number next` reads it, \
            whichever of the mark's occurrences that is",
        examples: &[
            Example {
                cell: "lamp cleaned, lamp: 401 W",
                cut: "number after word \"lamp\"",
                gives: "401",
            },
            Example {
                cell: "12 trays, lamp 401",
                cut: "number after \"tray\"",
                gives: "(missing: no number after \"tray\")",
            },
        ],
        guess: Guess::Makes(guess_number_after),
        build: Build::Step(|args| {
            let mark = args.mark()?;
            let style = style(args)?;
            Ok(one(NumberRule { which: Which::After(Box::new(mark)), style }, args))
        }),
    },
    Word {
        name: "numbers",
        group: Group::Number,
        form: "numbers [decimal (either | TEXT)] [accounting]",
        meaning: "all numbers, as a list",
        examples: &[
            Example { cell: "3 trays at 1,250.50", cut: "numbers", gives: "3; 1250.50" },
            Example {
                cell: "3 trays at 1,250.50",
                cut: "trays, price = numbers",
                gives: "trays: 3, price: 1250.50",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let style = style(args)?;
            let witness = args.watch(Watch::Marks(style.marks));
            Ok(Step::list(move |piece, context| {
                let mut items = context.items();
                for found in numbers(piece.text(), piece.char_before(), style) {
                    let item = Ok(taken(piece, &found, witness, context));
                    if let Err(too_long) = context.push(&mut items, item) {
                        return Value::Missing(too_long);
                    }
                }
                if items.is_empty() {
                    return Value::Missing(Missing::new(Nothing::Empty, NO_NUMBER));
                }
                Value::List(items.into_bump_slice())
            }))
        }),
    },
    Word {
        name: "decimals",
        group: Group::Number,
        form: "decimals DECIMALS",
        meaning: "a number as `number` writes it, with that many decimals, rounded half away from \
            zero; a finding `over` where digits other than 0 were lost",
        examples: &[
            Example { cell: "12.5 kg", cut: "number | decimals 2", gives: "12.50" },
            Example {
                cell: "0.125",
                cut: "decimals 2",
                gives: "0.13 (over: more than 2 decimals)",
            },
            Example { cell: "3.00", cut: "decimals 0", gives: "3" },
            Example { cell: "12a", cut: "decimals 2", gives: "(missing: no plain number)" },
        ],
        guess: Guess::Finishes(guess_decimals),
        build: Build::Step(|args| {
            let decimals = args.count()?;
            let lost =
                format!("more than {decimals} decimal{}", if decimals == 1 { "" } else { "s" });
            Ok(Step::text(move |piece, context| {
                let Some((text, loses)) = Decimal::rounded(piece.text(), decimals) else {
                    return context.missing(Nothing::Absent, NO_PLAIN_NUMBER);
                };
                if loses {
                    context.report(FindingKind::Over, context.alloc(&lost), piece.text());
                }
                Ok(if text == piece.text() { piece } else { piece.changed(context.alloc(&text)) })
            }))
        }),
    },
    Word {
        name: "grouped",
        group: Group::Number,
        form: "grouped [by TEXT]",
        meaning: "a number as `number` writes it, its digits before the decimal mark in threes, \
            with a comma between them unless said",
        examples: &[
            Example { cell: "1234567.5", cut: "grouped", gives: "1,234,567.5" },
            Example { cell: "-9876", cut: "grouped by \" \"", gives: "-9 876" },
        ],
        guess: Guess::Finishes(guess_grouped),
        build: Build::Step(|args| {
            let by = if args.given()? { args.needle()?.to_owned() } else { ",".to_owned() };
            Ok(Step::text(move |piece, context| match grouped(piece.text(), &by) {
                Ok(text) if text == piece.text() => Ok(piece),
                Ok(text) => Ok(piece.changed(context.alloc(&text))),
                Err(reason) => context.missing(Nothing::Absent, &reason),
            }))
        }),
    },
];

const NO_PLAIN_NUMBER: &str = "no plain number";

/// A plain number with its digits before the decimal mark in threes; a decimal comma is taken as
/// well.
///
/// # Errors
/// Why it cannot be done.
fn grouped(text: &str, by: &str) -> Result<String, String> {
    let digits = text.strip_prefix('-').unwrap_or(text);
    let whole = digits.split(['.', ',']).next().unwrap_or_default();
    let mark = digits.chars().nth(whole.len());
    let all_digits = |text: &str| !text.is_empty() && text.bytes().all(|b| b.is_ascii_digit());
    if !all_digits(whole)
        || !mark.is_none_or(|mark| all_digits(&digits[whole.len() + mark.len_utf8()..]))
    {
        return Err(NO_PLAIN_NUMBER.to_owned());
    }
    if let Some(mark) = mark.filter(|mark| by.contains(*mark)) {
        return Err(format!("its decimal mark is \"{mark}\" as well"));
    }
    let mut made = text[..text.len() - digits.len()].to_owned();
    for (n, digit) in whole.chars().enumerate() {
        if n > 0 && (whole.len() - n).is_multiple_of(3) {
            made.push_str(by);
        }
        made.push(digit);
    }
    made.push_str(&digits[whole.len()..]);
    Ok(made)
}

/// `[decimal (either | TEXT)] [accounting]`.
pub(crate) fn style(args: &mut Args<'_>) -> Result<NumberStyle, CutError> {
    let mut marks = Marks::Point;
    if args.given()? {
        marks = match args.chosen()? {
            0 => Marks::Either,
            _ => match args.text()? {
                "." => Marks::Point,
                "," => Marks::Comma,
                _ => {
                    return Err(args.refuse(
                        "A decimal sign is \",\" or \".\"; `decimal either` takes each number by \
                        its own marks",
                    ));
                }
            },
        };
    }
    Ok(NumberStyle { marks, accounting: args.given()? })
}

/// A step that takes one number.
fn one(rule: NumberRule, args: &mut Args<'_>) -> Step {
    let witness = args.watch(Watch::Marks(rule.style.marks));
    let rule = Arc::new(rule);
    let (kernel, reasons) =
        (NumberKernel { rule: Arc::clone(&rule), event: witness }, rule.reasons());
    let is_placed = matches!(rule.which, Which::Place(_));
    let step = Step::text(move |piece: Piece<'_>, context: &mut RowContext<'_>| -> Item<'_> {
        let text = piece.text();
        // Many texts have no number in them, and no digit.
        if is_placed && first_digit(text.as_bytes(), 0, text.len()).is_none() {
            return context.missing(Nothing::Empty, NO_NUMBER);
        }
        let sought = rule.find(text, piece.char_before());
        match sought.found {
            Some(found) => {
                Ok(taken(piece.narrow(sought.from..text.len()), &found, witness, context))
            }
            None => {
                let (nothing, reason) = rule.absent(text);
                context.missing(nothing, &reason)
            }
        }
    });
    step.reading_before().with_kernel(Some(Arc::new(kernel))).lacking(reasons)
}

/// A number in plain form, with what is to be said of the cell it ends up in. Events are counted
/// from `witness` on: numbers whose mark groups, and numbers that show that it does not.
fn taken<'a>(
    piece: Piece<'a>,
    found: &Number,
    witness: usize,
    context: &mut RowContext<'a>,
) -> Piece<'a> {
    let text = piece.text();
    let reason = found.reason(text);
    let counted_as = found
        .doubt
        .filter(|doubt| reason.as_deref() != Some(doubt.reason()))
        .map(|doubt| doubt.reason());
    let event = found.evidence.as_ref().map(|evidence| match evidence {
        Evidence::Grouped => Event { id: witness, text: &text[found.span.clone()] },
        Evidence::OtherMark(span) => Event { id: witness + 1, text: &text[span.clone()] },
    });
    let caveat = Caveat {
        doubt: reason.map(|reason| (context.alloc(&reason), counted_as)),
        note: found.drops_zeros.then_some("zeros in front were dropped"),
        event,
    };
    let made = match found.verbatim(text) {
        Some(span) => piece.narrow(span),
        None => piece.changed(context.alloc(&found.written(text))),
    };
    made.with_caveat(context.caveat(caveat.and(piece.caveat().copied().unwrap_or_default())))
}

/// The ways of reading numbers that are guessed, as they are written, each with how much it says.
const STYLES: [(Marks, bool, &str, u32); 6] = [
    (Marks::Point, false, "", 0),
    (Marks::Comma, false, " decimal \",\"", 6),
    (Marks::Either, false, " decimal either", 8),
    (Marks::Point, true, " accounting", 10),
    (Marks::Comma, true, " decimal \",\" accounting", 16),
    (Marks::Either, true, " decimal either accounting", 18),
];

/// Whether a piece may be a number: digits, with no zero in front that a number would lose.
fn may_be_number(piece: &str) -> bool {
    let digits = piece.trim_start_matches('-');
    let is_plain = digits.bytes().all(|b| b.is_ascii_digit() || b == b'.');
    let has_zero = digits.len() > 1 && digits.starts_with('0') && !digits.starts_with("0.");
    is_plain && !has_zero && digits.bytes().any(|b| b.is_ascii_digit())
}

fn guess_number(guesses: &mut Guesses<'_>) {
    if !may_be_number(guesses.piece) {
        return;
    }
    for (marks, accounting, said, cost) in STYLES {
        let style = NumberStyle { marks, accounting };
        let found: Vec<(String, u32)> = numbers(guesses.text, None, style)
            .map(|number| {
                // A number within a code is a section of it.
                let before = guesses.text[..number.span.start].chars().next_back();
                let in_code = before.is_some_and(|c| is_word(c) || matches!(c, '-' | '/' | '.'));
                (number.written(guesses.text), if in_code { 14 } else { 0 })
            })
            .collect();
        let piece = guesses.piece;
        for n in (0..found.len()).filter(|n| found[*n].0 == piece) {
            let cost = cost + found[n].1;
            match n {
                0 => guesses.add(36 + cost, format!("number{said}")),
                n => guesses.add(46 + 2 * n as u32 + cost, format!("number {}{said}", n + 1)),
            }
            if n > 0 && n + 1 == found.len() {
                guesses.add(44 + cost, format!("number last{said}"));
            }
        }
    }
}

fn guess_number_after(guesses: &mut Guesses<'_>) {
    if !may_be_number(guesses.piece) {
        return;
    }
    for (marks, accounting, said, cost) in STYLES {
        let style = NumberStyle { marks, accounting };
        for number in numbers(guesses.text, None, style) {
            if number.written(guesses.text) != guesses.piece {
                continue;
            }
            let passed = |c: char| c.is_whitespace() || matches!(c, ':' | '=' | '#' | '.');
            let label = guesses.text[..number.span.start].trim_end_matches(passed);
            let word = &label[label.trim_end_matches(is_word).len()..];
            if word.is_empty() || word.bytes().any(|b| b.is_ascii_digit()) {
                let sign =
                    characters::each(label).next_back().filter(|sign| !sign.chars().all(is_word));
                if let Some(written) = sign.and_then(quoted) {
                    guesses.add(56 + cost, format!("number after {written}{said}"));
                }
                continue;
            }
            let Some(written) = quoted(word) else { continue };
            guesses.add(38 + cost, format!("number after word {written}{said}"));
            guesses.add(41 + cost, format!("number after word {written} ignoring case{said}"));
        }
    }
}

fn guess_decimals(guesses: &mut Guesses<'_>) {
    let Some((whole, decimals)) = guesses.piece.split_once('.') else { return };
    if !may_be_number(guesses.piece) {
        return;
    }
    let count = decimals.len();
    let step = format!("decimals {count}");
    for kept in decimals.trim_end_matches('0').len()..count {
        let of = match kept {
            0 => whole.to_owned(),
            kept => format!("{whole}.{}", &decimals[..kept]),
        };
        guesses.add_of(24, step.clone(), of);
    }
    // What has as many decimals already stays.
    guesses.add_of(30, step, guesses.piece);
}

fn guess_grouped(guesses: &mut Guesses<'_>) {
    for (sign, written) in [(',', ""), (' ', " by \" \""), ('.', " by \".\""), ('\'', " by \"'\"")]
    {
        if guesses.piece.contains(sign) {
            let of: String = guesses.piece.chars().filter(|c| *c != sign).collect();
            if may_be_number(&of) {
                guesses.add_of(24, format!("grouped{written}"), of);
            }
        }
    }
}
