//! Checks, check digits, and lists that say what a text stands for.

use std::sync::Arc;

use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Guess, Word};
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::span::CellSpan;
use crate::program::{Item, Missing, Nothing, Piece, RowContext, Value};

use super::Args;
use crate::program::{Demand, Step};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "check digit of",
        group: Group::Tidy,
        form: "check digit of SCHEME",
        meaning: "the check digit that scheme gives for the text; both digits for `mod97`, and for \
            `iban`, which takes a number with 00 in their places",
        examples: &[
            Example { cell: "7992739871", cut: "check digit of luhn", gives: "3" },
            Example {
                cell: "629104150021",
                cut: "\"{code}{code | check digit of gtin}\"",
                gives: "6291041500213",
            },
            Example { cell: "08044 2957", cut: "check digit of isbn", gives: "X" },
            Example {
                cell: "572x",
                cut: "check digit of damm",
                gives: "(missing: not what damm takes: digits)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let scheme = args.scheme()?;
            let reason = format!("not what {} takes: {}", scheme.name, scheme.payload);
            Ok(Step::text(move |piece, context| match scheme.digit(piece.text()) {
                Some(digit) => Ok(piece.changed(context.alloc(&digit))),
                None => context.missing(Nothing::Absent, &reason),
            }))
        }),
    },
    Word {
        name: "look up in",
        group: Group::Tidy,
        form: "look up in LIST [ignoring case]",
        meaning: "what a two-column list of the jig says for the whole text; missing when the text \
            is not in it",
        examples: &[
            Example {
                cell: "FH-BRA",
                cut: "part 2 by \"-\" | look up in genera",
                gives: "Brassica",
            },
            Example { cell: "ros", cut: "look up in genera ignoring case", gives: "Rosa" },
            Example {
                cell: "FH-XYZ",
                cut: "part 2 by \"-\" | look up in genera",
                gives: "(missing: not in genera)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(look_up),
    },
    Word {
        name: "check",
        group: Group::Check,
        form: "check CONDITION [when CONDITION] [saying TEXT]",
        meaning: "a finding of the kind `check` where the condition does not hold; the text stays \
            as it is. With `when` only in rows where that holds; with `saying` in these words",
        examples: &[
            Example {
                cell: "GR-19",
                cut: "after \"-\" | check length 4",
                gives: "19 (check: fails: length 4)",
            },
            Example {
                cell: "GR-2019",
                cut: "after \"-\" | check is digits and length 4",
                gives: "2019",
            },
            Example {
                cell: "GR-2019",
                cut: "first 2 | check is in (\"FH\", \"ML\") when {code} has \"-\" saying \"not \
                    our house\"",
                gives: "GR (check: not our house)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(check),
    },
];

fn look_up(args: &mut Args<'_>) -> Result<Step, CutError> {
    let list = args.list()?;
    let name = args.written();
    if !list.has_answers() {
        return Err(args
            .refuse(format!(
                "The list {name} has one column, so there is nothing it could say for a text"
            ))
            .remedy(
                "Whether a text is in it: check is in …; a list of two columns: { A = \"…\" }, or \
                file, column and gives.",
            ));
    }
    if args.given()? {
        let folded = list.ignoring_case().map_err(|problem| args.refuse(problem))?;
        return Ok(Step::text(move |piece, context| {
            answered(folded.answer(piece.text()), &name, piece, context)
        }));
    }
    Ok(Step::text(move |piece, context| answered(list.answer(piece.text()), &name, piece, context)))
}

/// What a list says for a piece, as a piece that stands where that stood.
fn answered<'a>(
    answer: Option<&str>,
    list: &str,
    piece: Piece<'a>,
    context: &mut RowContext<'a>,
) -> Item<'a> {
    match answer {
        Some("") => {
            Err(Missing::new(Nothing::Empty, context.alloc_fmt(format_args!("blank in {list}"))))
        }
        Some(answer) => Ok(piece.changed(context.alloc(answer))),
        None => {
            Err(Missing::new(Nothing::Absent, context.alloc_fmt(format_args!("not in {list}"))))
        }
    }
}

fn check(args: &mut Args<'_>) -> Result<Step, CutError> {
    let (condition, written) = args.condition()?;
    let when = args.optional_condition()?;
    let saying = if args.given()? { Some(args.text()?.to_owned()) } else { None };
    let demand = Arc::new(Demand::new(condition, when, saying, &written));
    let kernel = Arc::new(Met(Arc::clone(&demand)));
    Ok(Step::whole(move |value, context| {
        match value {
            Value::Text(piece) => {
                if let Some(reason) = demand.broken(value, context) {
                    context.report(FindingKind::Check, context.alloc(reason), piece.text());
                }
            }
            Value::List(items) => {
                let mut broken = None;
                for (n, item) in items.iter().enumerate() {
                    let Ok(piece) = item else { continue };
                    if let Some(reason) = demand.broken(Value::Text(*piece), context) {
                        broken.get_or_insert(((n + 1, reason, *piece), 0_usize)).1 += 1;
                    }
                }
                if let Some(((n, reason, piece), count)) = broken {
                    let reason = match count {
                        1 => context.alloc_fmt(format_args!("item {n}: {reason}")),
                        _ => context
                            .alloc_fmt(format_args!("item {n}: {reason} (and {} more)", count - 1)),
                    };
                    context.report(FindingKind::Check, reason, piece.text());
                }
            }
            Value::Missing(_) | Value::Intended => {}
        }
        value
    })
    .with_kernel(Some(kernel)))
}

/// The kernel of `check`: a text stays as it is where what is demanded of it can be told from the
/// text and is met.
struct Met(Arc<Demand>);

impl Kernel for Met {
    fn run(&self, rows: &mut KernelRows<'_>) {
        let text = &**rows.text;
        let spans = rows.spans.iter_mut().filter(|span| !span.is_none());
        self.0.find_unsure(text, spans.map(|span| (*span, span)), |span| {
            if !self.0.is_met_by(Some(span.of(text)), &|_| None) {
                *span = CellSpan::NONE;
            }
        });
    }
}
