//! Steps that work on lists. A text counts as a list of one.

use super::items;
use crate::finding::FindingKind;
use crate::language::{Build, CutError, Example, Group, Guess, Reach, Word};
use crate::program::Step;
use crate::program::{Item, Missing, Nothing, Piece, RowContext, Value};
use crate::text::characters::is_blank;

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "pick",
        group: Group::List,
        form: "pick PICK",
        meaning: "the item with that number as a text, or a range of items as a list",
        examples: &[
            Example { cell: "a-b-c", cut: "parts by \"-\" | pick 2", gives: "b" },
            Example { cell: "a-b-c", cut: "parts by \"-\" | pick 2..", gives: "b; c" },
            Example { cell: "a-b", cut: "parts by \"-\" | pick 3", gives: "(missing: 2 items)" },
            Example {
                cell: "a",
                cut: "parts by \"-\" | pick 1..2",
                gives: "a (short: 1 item, not 2)",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let reach = args.reach()?;
            let step = listed(move |items, context| pick(items, reach, context))?;
            let n = reach.first.filter(|_| reach.single).and_then(|n| usize::try_from(n).ok());
            Ok(match n {
                Some(n) => step.picking(n),
                None => step,
            })
        }),
    },
    Word {
        name: "join",
        group: Group::List,
        form: "join TEXT",
        meaning: "the items as one text, with this text between them",
        examples: &[Example { cell: "12 of 30", cut: "numbers | join \"/\"", gives: "12/30" }],
        guess: Guess::None,
        build: Build::Step(|args| {
            let between = args.text()?.to_owned();
            listed(move |items, context| {
                context.report_lost(items);
                let joined = match context.joined_piece(items, &between) {
                    Ok(joined) => joined,
                    Err(missing) => return Value::Missing(missing),
                };
                if joined.text().is_empty() {
                    Value::Missing(Missing::new(Nothing::Empty, "nothing left"))
                } else {
                    Value::Text(joined)
                }
            })
        }),
    },
    Word {
        name: "count",
        group: Group::List,
        form: "count",
        meaning: "how many items there are; 0 for a blank cell or when nothing was found",
        examples: &[
            Example { cell: "3 trays, 12 boxes", cut: "numbers | count", gives: "2" },
            Example { cell: "none", cut: "numbers | count", gives: "0" },
        ],
        guess: Guess::None,
        build: Build::Step(|_| {
            Ok(Step::whole(|value, context| {
                let n = match value {
                    Value::List(items) => items.len(),
                    Value::Text(_) => 1,
                    Value::Missing(missing) if missing.counts_as_none() => 0,
                    other => return other,
                };
                Value::Text(Piece::whole(context.alloc_fmt(format_args!("{n}"))))
            }))
        }),
    },
    Word {
        name: "distinct",
        group: Group::List,
        form: "distinct",
        meaning: "the items without those that came before",
        examples: &[Example { cell: "a, b, a", cut: "parts by \", \" | distinct", gives: "a; b" }],
        guess: Guess::None,
        build: Build::Step(|_| {
            listed(|items, context| {
                let text = |item: &Item<'_>| item.map_or("", |piece| piece.text()).to_owned();
                let mut seen = hashbrown::HashSet::new();
                let mut kept = context.items();
                kept.extend(items.iter().filter(|item| seen.insert(text(item))));
                Value::List(kept.into_bump_slice())
            })
        }),
    },
    Word {
        name: "reverse",
        group: Group::List,
        form: "reverse",
        meaning: "the items in the other order, the last one first",
        examples: &[Example {
            cell: "seed/oak/12",
            cut: "parts by \"/\" | reverse | join \"<\"",
            gives: "12<oak<seed",
        }],
        guess: Guess::None,
        build: Build::Step(|_| {
            listed(|items, context| {
                let mut reversed = context.items();
                reversed.extend(items.iter().rev());
                Value::List(reversed.into_bump_slice())
            })
        }),
    },
    Word {
        name: "drop empty",
        group: Group::List,
        form: "drop empty",
        meaning: "the items without blank ones",
        examples: &[Example {
            cell: "a,,b",
            cut: "parts by \",\" | drop empty | join \"+\"",
            gives: "a+b",
        }],
        guess: Guess::None,
        build: Build::Step(|_| {
            listed(|items, context| {
                let mut kept = context.items();
                kept.extend(
                    items.iter().filter(|item| item.is_ok_and(|piece| !is_blank(piece.text()))),
                );
                if kept.is_empty() {
                    return Value::Missing(Missing::new(Nothing::Empty, "nothing left"));
                }
                Value::List(kept.into_bump_slice())
            })
        }),
    },
];

/// A step on the items of a list; a text is a list of one.
fn listed(
    work: impl for<'a> Fn(&'a [Item<'a>], &mut RowContext<'a>) -> Value<'a> + Send + Sync + 'static,
) -> Result<Step, CutError> {
    Ok(Step::whole(move |value, context| match value {
        Value::List(items) => work(items, context),
        Value::Text(piece) => {
            let mut one = context.items();
            one.push(Ok(piece));
            work(one.into_bump_slice(), context)
        }
        other => other,
    }))
}

fn pick<'a>(items: &'a [Item<'a>], reach: Reach, context: &mut RowContext<'a>) -> Value<'a> {
    let total = items.len();
    let too_few = |context: &RowContext<'a>| {
        let reason =
            context.alloc_fmt(format_args!("{total} item{}", if total == 1 { "" } else { "s" }));
        Value::Missing(Missing::new(Nothing::Absent, reason))
    };
    if reach.single {
        return match items::places(reach, total)
            .and_then(|(place, _)| Some((place, items.get(place - 1)?)))
        {
            Some((place, Ok(piece))) if piece.text().is_empty() => Value::Missing(Missing::new(
                Nothing::Empty,
                context.alloc_fmt(format_args!("item {place} is empty")),
            )),
            Some((_, item)) => (*item).into(),
            None => too_few(context),
        };
    }
    // What is there of a range is taken; what is not makes it short.
    let end = i64::try_from(total).unwrap_or(i64::MAX);
    let place = |n: i64| if n < 0 { end + 1 + n } else { n };
    let (first, last) = (reach.first.map_or(1, place), reach.last.map_or(end, place));
    let (from, to) = (first.max(1), last.min(end));
    if from > to {
        return too_few(context);
    }
    if first < 1 || last > end {
        let wanted = if first < 1 { end + 1 - first } else { last };
        let reason = context.alloc_fmt(format_args!(
            "{total} item{}, not {wanted}",
            if total == 1 { "" } else { "s" }
        ));
        context.report(FindingKind::Short, reason, "");
    }
    let index = |n: i64| usize::try_from(n).unwrap_or(0);
    Value::List(&items[index(from - 1)..index(to)])
}
