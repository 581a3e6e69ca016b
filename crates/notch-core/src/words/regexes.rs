//! Steps that use a regular expression.

use super::regex_search::{OwnRegex, is_free};
use std::sync::Arc;

use regex::Regex;

use super::items::items_of;
use crate::language::{Build, Example, Group, Guess, Word};
use crate::program::kernel::{Kernel, KernelRows};
use crate::program::{Items, Missing, Nothing, Step, Value};
use crate::text::Span;

/// The reason of a text in which a regular expression matches nothing.
const NO_MATCH: &str = "no match";

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "match",
        group: Group::Regex,
        form: "match REGEX [group GROUP]",
        meaning: "what the regular expression matches first, or a group of it",
        examples: &[
            Example {
                cell: "lot FH-2019 of GR-2020",
                cut: "match /[A-Z]+-\\d+/",
                gives: "FH-2019",
            },
            Example {
                cell: "lot FH-2019",
                cut: "match /([A-Z]+)-(?<year>\\d+)/ group year",
                gives: "2019",
            },
            Example { cell: "lot", cut: "match /\\d+/", gives: "(missing: no match)" },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let regex = args.regex()?;
            let group = args.group(&regex)?;
            let kernel = FirstMatch { regex: OwnRegex::new(&regex), group };
            Ok(Step::text(move |piece, context| {
                let text = piece.text();
                let span = if group == 0 {
                    regex.find(text).map(|found| Some(found.range()))
                } else {
                    regex.captures(text).map(|groups| groups.get(group).map(|found| found.range()))
                };
                match span {
                    Some(Some(span)) => context.narrow(piece, span),
                    Some(None) => {
                        context.missing(Nothing::Absent, &format!("group {group} took no part"))
                    }
                    None => context.missing(Nothing::Empty, NO_MATCH),
                }
            })
            .with_kernel(Some(Arc::new(kernel)))
            .lacking([NO_MATCH.to_owned()]))
        }),
    },
    Word {
        name: "matches",
        group: Group::Regex,
        form: "matches REGEX [group GROUP]",
        meaning: "all that it matches, or a group of each, as a list",
        examples: &[
            Example {
                cell: "FH-2019 and GR-2020",
                cut: "matches /[A-Z]+-\\d+/",
                gives: "FH-2019; GR-2020",
            },
            Example {
                cell: "FH-2019 and GR-2020",
                cut: "matches /([A-Z]+)-\\d+/ group 1",
                gives: "FH; GR",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let regex = args.regex()?;
            let group = args.group(&regex)?;
            let items = items(&regex, group);
            Ok(Step::list(move |piece, context| {
                let mut items = context.items();
                for groups in regex.captures_iter(piece.text()) {
                    let item = match groups.get(group) {
                        Some(found) => Ok(piece.narrow(found.range())),
                        None => {
                            context.missing(Nothing::Absent, &format!("group {group} took no part"))
                        }
                    };
                    if let Err(too_long) = context.push(&mut items, item) {
                        return Value::Missing(too_long);
                    }
                }
                if items.is_empty() {
                    return Value::Missing(Missing::new(Nothing::Empty, NO_MATCH));
                }
                Value::List(items.into_bump_slice())
            })
            .with_items(items))
        }),
    },
    Word {
        name: "groups",
        group: Group::Regex,
        form: "groups REGEX",
        meaning: "every group of the first match, as a list; several names on the left take them \
            in order",
        examples: &[
            Example {
                cell: "FH-2019",
                cut: "house, year = groups /([A-Z]+)-(\\d+)/",
                gives: "house: FH, year: 2019",
            },
            Example {
                cell: "FH",
                cut: "house, year? = groups /([A-Z]+)(?:-(\\d+))?/",
                gives: "house: FH, year: ",
            },
        ],
        guess: Guess::None,
        build: Build::Step(|args| {
            let regex = args.regex()?;
            if regex.captures_len() < 2 {
                return Err(args
                    .refuse("This regular expression has no group")
                    .remedy("A group stands in round brackets: /([A-Z]+)-(\\d+)/."));
            }
            let items = groups(&regex);
            Ok(Step::list(move |piece, context| {
                let Some(groups) = regex.captures(piece.text()) else {
                    return Value::Missing(Missing::new(Nothing::Empty, NO_MATCH));
                };
                let mut items = context.items();
                for (n, group) in groups.iter().enumerate().skip(1) {
                    items.push(match group {
                        Some(found) => Ok(piece.narrow(found.range())),
                        None => {
                            context.missing(Nothing::Absent, &format!("group {n} took no part"))
                        }
                    });
                }
                Value::List(items.into_bump_slice())
            })
            .with_items(items))
        }),
    },
];

/// All matches, or a group of each, as kernels; one in which the group took no part is left to the
/// evaluation by row.
fn items(regex: &Regex, group: usize) -> Items {
    if group == 0 && is_free(regex) {
        let regex = OwnRegex::new(regex);
        let find =
            move |text: &str, take: &mut dyn FnMut(Span) -> bool| regex.each_match(text, take);
        return items_of(Arc::new(find), NO_MATCH);
    }
    let regex = regex.clone();
    let find = move |text: &str, take: &mut dyn FnMut(Span) -> bool| match group {
        0 => regex.find_iter(text).all(|found| take(found.range())),
        _ => regex
            .captures_iter(text)
            .all(|groups| groups.get(group).is_some_and(|found| take(found.range()))),
    };
    items_of(Arc::new(find), NO_MATCH)
}

/// The groups of the first match as kernels.
fn groups(regex: &Regex) -> Items {
    let regex = regex.clone();
    let find = move |text: &str, take: &mut dyn FnMut(Span) -> bool| match regex.captures(text) {
        Some(groups) => {
            groups.iter().skip(1).all(|group| group.is_some_and(|found| take(found.range())))
        }
        None => true,
    };
    items_of(Arc::new(find), NO_MATCH)
}

/// The kernel of `match`: the group of the first match.
struct FirstMatch {
    regex: OwnRegex,
    group: usize,
}

impl Kernel for FirstMatch {
    fn run(&self, rows: &mut KernelRows<'_>) {
        self.regex.find(rows.spans, rows.text, rows.reasons, self.group);
    }
}
