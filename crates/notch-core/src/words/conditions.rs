//! The tests of the language: `is …`, `has …`, `starts with …`, `ends with …`, `/…/`.
//!
//! They stand after `if`, after `check` and in what a jig demands of columns. Each is an entry
//! like that of any word and builds a predicate over one text; a list meets a test if every item
//! does. How tests are joined (`and`, `or`, `not`) is no word's business: `language/condition.rs`
//! reads it and `eval/condition.rs` asks.

use std::sync::Arc;

use super::value::value;
use super::{Args, number_style};
use crate::language::{Build, CutError, Example, Group, Guess, Word};
use crate::list::List;
use crate::program::Test;
use crate::shape::ShapePattern;
use crate::text::{
    DIGIT, DatePattern, Kind, LOWER, Mark, NumberStyle, SureTexts, UPPER, characters, is_letters,
    numbers, same_ignoring_case,
};

/// The test that needs all rows; the compiler of cuts handles it.
pub(crate) const UNIQUE: &str = "is unique";

pub(crate) const WORDS: &[Word] = &[
    Word {
        name: "is digits",
        group: Group::Test,
        form: "is [not] (digits | letters | upper | lower | integer | email)",
        meaning: "the whole text is: digits 0–9; letters; of upper or lower case; a whole number \
            without doubt; an e-mail address (RFC 5321 and 5322, without a name before it and \
            without an address in square brackets after the @)",
        examples: &[
            Example { cell: "00417", cut: "first 5 if it is digits else \"?\"", gives: "00417" },
            Example { cell: "0O417", cut: "first 5 if it is digits else \"?\"", gives: "?" },
            Example {
                cell: "kp@fernhollow",
                cut: "trim if it is email else \"no address\"",
                gives: "kp@fernhollow",
            },
        ],
        guess: Guess::None,
        build: Build::Test(is_kind),
    },
    Word {
        name: "is number",
        group: Group::Test,
        form: "is [not] number [decimal (either | TEXT)] [accounting]",
        meaning: "the whole text is one number without doubt, as `number` reads it with the same \
            words",
        examples: &[
            Example {
                cell: "1,250.50",
                cut: "trim if it is number and it is not integer",
                gives: "1,250.50",
            },
            Example {
                cell: "1.250,50-",
                cut: "number decimal either accounting if {code} is number decimal either \
                    accounting",
                gives: "-1250.50",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let style = number_style(args)?;
            Ok(Test::new(negated, move |text| whole_number(text, style).is_some()))
        }),
    },
    Word {
        name: "is blank",
        group: Group::Test,
        form: "is [not] blank",
        meaning: "there is nothing, or only white space",
        examples: &[Example {
            cell: "FH",
            cut: "\"none\" if (after \"-\") is blank else after \"-\"",
            gives: "none",
        }],
        guess: Guess::None,
        build: Build::Test(|args| Ok(Test::blank(args.given()?))),
    },
    Word {
        name: "is \"text\"",
        group: Group::Test,
        form: "is [not] TEXT [ignoring case]",
        meaning: "the whole text is this text",
        examples: &[
            Example {
                cell: "FH",
                cut: "\"Fernhollow\" if {code} is \"fh\" ignoring case else {code}",
                gives: "Fernhollow",
            },
            Example {
                cell: "GR",
                cut: "\"Fernhollow\" if {code} is \"FH\" else {code}",
                gives: "GR",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let wanted = args.text()?.to_owned();
            let same = sameness(args.given()?);
            Ok(Test::new(negated, move |text| same(text, &wanted)))
        }),
    },
    Word {
        name: "is /regex/",
        group: Group::Test,
        form: "is [not] REGEX",
        meaning: "the regular expression takes the whole text",
        examples: &[
            Example {
                cell: "FH-20",
                cut: "trim if it is /[A-Z]+-\\d+/ else \"?\"",
                gives: "FH-20",
            },
            Example { cell: "FH-20x", cut: "trim if it is /[A-Z]+-\\d+/ else \"?\"", gives: "?" },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let regex = args.whole_regex()?;
            Ok(Test::new(negated, move |text| regex.is_match(text)))
        }),
    },
    Word {
        name: "is shape",
        group: Group::Test,
        form: "is [not] shape TEXT [ignoring case]",
        meaning: "the whole text looks like this: `[d4]` four of a kind, `[d+]` one or more, \
            `[d3..5]` three to five, everything else as it stands; kinds: U A–Z, l a–z, L either, \
            c any other letter, d 0–9, s white space; `[w]` is a word, `[w+]` words with one blank \
            between them, `[n]` a number as `decimal either` takes it, `[x]` letters and digits in \
            any mix, `[*]` anything, also nothing, once",
        examples: &[
            Example {
                cell: "FH-2019-BRA",
                cut: "part 2 by \"-\" if {code} is shape \"FH-[d4]-[U3]\"",
                gives: "2019",
            },
            Example {
                cell: "GR-2019-Bra",
                cut: "trim if it is shape \"[U2]-[d3..5]-[L+]\" else \"?\"",
                gives: "GR-2019-Bra",
            },
            Example {
                cell: "ref 43546 - Moran sowed, 84.5 %",
                cut: "number 2 if {code} is shape \"Ref [d4..5] - [w] [w+], [n] %\" ignoring case",
                gives: "84.5",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let text = args.text()?;
            let pattern = ShapePattern::read(text).map_err(|problem| args.refuse(problem))?;
            let pattern = pattern.ignoring_case(args.given()?);
            Ok(Test::new(negated, move |text| pattern.matches(text)))
        }),
    },
    Word {
        name: "is date",
        group: Group::Test,
        form: "is [not] date TEXT",
        meaning: "the whole text is a date so written, and there is such a day",
        examples: &[
            Example {
                cell: "20240229",
                cut: "trim if it is date \"YYYYMMDD\" else \"?\"",
                gives: "20240229",
            },
            Example {
                cell: "20230229",
                cut: "trim if it is date \"YYYYMMDD\" else \"?\"",
                gives: "?",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let pattern = args.date_pattern()?;
            Ok(Test::new(negated, move |text| pattern.parse(text).is_some()))
        }),
    },
    Word {
        name: "is in",
        group: Group::Test,
        form: "is [not] in (TEXTS | LIST) [ignoring case]",
        meaning: "the whole text is one of these, or in that list of the jig",
        examples: &[
            Example {
                cell: "GR-2",
                cut: "\"ours\" if (before \"-\") is in (\"FH\", \"GR\") else \"theirs\"",
                gives: "ours",
            },
            Example {
                cell: "bra",
                cut: "\"a genus\" if {code} is in genera ignoring case else \"?\"",
                gives: "a genus",
            },
            Example {
                cell: "gr",
                cut: "\"ours\" if {code} is not in (\"FH\", \"GR\") else \"theirs\"",
                gives: "ours",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let list = if args.chosen()? == 0 {
                Arc::new(List::of_values(args.texts()?))
            } else {
                args.list()?
            };
            if !args.given()? {
                let short = list.short_texts().map(SureTexts::of_list);
                return Ok(Test::new(negated, move |text| list.has(text)).true_of(short));
            }
            let list = list.ignoring_case().map_err(|problem| args.refuse(problem))?;
            Ok(Test::new(negated, move |text| list.has(text)))
        }),
    },
    Word {
        name: "is luhn",
        group: Group::Test,
        form: "is [not] SCHEME",
        meaning: "the whole text is a number with the check digit of that scheme; blanks and \
            hyphens do not count where such numbers are printed with them",
        examples: &[
            Example {
                cell: "978-0-306-40615-7",
                cut: "trim if it is isbn else \"?\"",
                gives: "978-0-306-40615-7",
            },
            Example { cell: "6291041500214", cut: "trim if it is gtin else \"?\"", gives: "?" },
            Example {
                cell: "GB82 WEST 1234 5698 7654 32",
                cut: "first 2 if {code} is iban else \"?\"",
                gives: "GB",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let scheme = args.scheme()?;
            Ok(Test::new(negated, move |text| scheme.holds(text)))
        }),
    },
    Word {
        name: UNIQUE,
        group: Group::Test,
        form: "is [not] unique",
        meaning: "no other row has the same text; only in the [columns] and [checks] of a jig. \
            Blank cells do not count",
        examples: &[],
        guess: Guess::None,
        build: Build::Test(|args| {
            Err(args
                .refuse(
                    "`is unique` asks about all rows, which only [columns] and [checks] of a jig \
                    can",
                )
                .remedy("Write in the jig, under [columns]: name = { unique = true }."))
        }),
    },
    Word {
        name: "has",
        group: Group::Test,
        form: "has [no] MARK",
        meaning: "the mark occurs in the text",
        examples: &[
            Example {
                cell: "reseeded",
                cut: "\"seed\" if {code} has word \"seed\" else \"no seed\"",
                gives: "no seed",
            },
            Example {
                cell: "a-b",
                cut: "after \"-\" if {code} has no 2nd \"-\" else \"?\"",
                gives: "b",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let negated = args.given()?;
            let mark = args.mark()?;
            Ok(Test::new(negated, move |text| mark.find(text).is_some()))
        }),
    },
    Word {
        name: "has exactly",
        group: Group::Test,
        form: "has exactly COUNT MARK",
        meaning: "the mark occurs that many times",
        examples: &[Example {
            cell: "a-b-c",
            cut: "part 2 by \"-\" if {code} has exactly 2 \"-\" else \"?\"",
            gives: "b",
        }],
        guess: Guess::None,
        build: Build::Test(|args| {
            let count = args.count()?;
            let mark = every(args)?;
            let surely = mark.what.plain_byte().map(|byte| SureTexts::holding(byte, count));
            Ok(Test::new(false, move |text| mark.what.count(text) == count).true_of(surely))
        }),
    },
    Word {
        name: "starts with",
        group: Group::Test,
        form: "(starts | ends) with MARK",
        meaning: "the text begins (ends) with the mark",
        examples: &[
            Example {
                cell: "gr-2019",
                cut: "\"Greenrow\" if {code} starts with \"GR\" ignoring case else \"?\"",
                gives: "Greenrow",
            },
            Example {
                cell: "GR-2019b",
                cut: "drop last 1 if {code} ends with letter else {code}",
                gives: "GR-2019",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let at_start = args.chosen()? == 0;
            let mark = every(args)?;
            Ok(Test::new(false, move |text| {
                if at_start { mark.what.at_start(text) } else { mark.what.at_end(text) }.is_some()
            }))
        }),
    },
    Word {
        name: "same as",
        group: Group::Test,
        form: "same as COLUMN [ignoring case]",
        meaning: "the whole text is that column's",
        examples: &[Example {
            cell: "FH-2",
            cut: "\"same\" if (trim) same as {code} ignoring case else \"other\"",
            gives: "same",
        }],
        guess: Guess::None,
        build: Build::Test(|args| {
            let other = args.column()?;
            let same = sameness(args.given()?);
            Ok(Test::in_row(false, move |text, context| {
                context.quiet_text(&other).is_some_and(|other| same(text, other))
            }))
        }),
    },
    Word {
        name: "length",
        group: Group::Test,
        form: "length LENGTH",
        meaning: "the text has that many characters",
        examples: &[
            Example { cell: "04415", cut: "trim if it length 5 else \"?\"", gives: "04415" },
            Example { cell: "044155", cut: "trim if it length 3..5 else \"?\"", gives: "?" },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let reach = args.reach()?;
            if [reach.first, reach.last].into_iter().flatten().any(|n| n < 0) {
                return Err(args.refuse("A length is no negative number"));
            }
            let (least, most) = (reach.first.unwrap_or(0), reach.last.unwrap_or(i64::MAX));
            let test = Test::new(false, move |text| {
                i64::try_from(characters::count(text)).is_ok_and(|n| (least..=most).contains(&n))
            });
            let length = |of: i64| usize::try_from(of).unwrap_or(usize::MAX);
            Ok(test.true_of(Some(SureTexts::of_length(length(least)..=length(most)))))
        }),
    },
    Word {
        name: "value",
        group: Group::Test,
        form: "value LIMITS [decimal (either | TEXT)] [accounting]",
        meaning: "the whole text is a number within these limits, of any size, compared exactly; \
            it is read as `number` reads it with the same words",
        examples: &[
            Example { cell: "2019", cut: "trim if it value 1990..2035 else \"?\"", gives: "2019" },
            Example { cell: "1,250.50", cut: "trim if it value > 1250.5 else \"?\"", gives: "?" },
            Example { cell: "12a", cut: "trim if it value ..100 else \"?\"", gives: "?" },
            Example {
                cell: "1.250,50",
                cut: "trim if it value > 1000 decimal \",\" else \"?\"",
                gives: "1.250,50",
            },
        ],
        guess: Guess::None,
        build: Build::Test(value),
    },
    Word {
        name: "earlier than",
        group: Group::Test,
        form: "(earlier | later) than WHEN",
        meaning: "the text is an ISO date (2024-01-31) before (after) that one",
        examples: &[
            Example {
                cell: "2019-04-12",
                cut: "\"old\" if {code} earlier than \"2020-01-01\" else \"new\"",
                gives: "old",
            },
            Example {
                cell: "2019-02-30",
                cut: "\"old\" if {code} earlier than \"2020-01-01\" else \"new\"",
                gives: "new",
            },
        ],
        guess: Guess::None,
        build: Build::Test(|args| {
            let earlier = args.chosen()? == 0;
            let than = args.column_or_text()?;
            if let Err(text) = &than
                && DatePattern::iso().parse(text).is_none()
            {
                return Err(args
                    .refuse("An ISO date that exists is wanted here")
                    .remedy("Write year, month, day: \"2024-01-31\"."));
            }
            let iso = DatePattern::iso();
            Ok(Test::in_row(false, move |text, context| {
                let other = match &than {
                    Ok(column) => context.quiet_text(column),
                    Err(text) => Some(text.as_str()),
                };
                match (iso.parse(text), other.and_then(|other| iso.parse(other))) {
                    (Some(date), Some(other)) => {
                        if earlier {
                            date < other
                        } else {
                            date > other
                        }
                    }
                    _ => false,
                }
            }))
        }),
    },
];

fn sameness(ignoring_case: bool) -> fn(&str, &str) -> bool {
    if ignoring_case { same_ignoring_case } else { |a, b| a == b }
}

/// A mark of which it makes no sense to say which one.
fn every(args: &mut Args<'_>) -> Result<Mark, CutError> {
    let mark = args.mark()?;
    if mark.which_said {
        return Err(args.refuse("Which one makes no difference here; leave it out"));
    }
    Ok(mark)
}

fn is_kind(args: &mut Args<'_>) -> Result<Test, CutError> {
    let negated = args.given()?;
    let cased = |text: &str, wanted: Kind, other: Kind| {
        // Where every letter is a byte, no characters are looked for: 100 ns less a text.
        if text.is_ascii() {
            let any = |is: fn(&u8) -> bool| text.as_bytes().iter().any(is);
            let has = (any(u8::is_ascii_uppercase), any(u8::is_ascii_lowercase));
            return has == (wanted == Kind::Upper, wanted == Kind::Lower);
        }
        let any = |kind: Kind| characters::each(text).any(|character| kind.holds(character));
        any(wanted) && !any(other)
    };
    let is_of = |kinds: u8, test: fn(&str) -> bool| {
        Test::new(negated, test).true_of(Some(SureTexts::of(kinds)))
    };
    let is_cased = |kinds: u8, wanted: Kind, other: Kind| {
        let test = Test::new(negated, move |text| cased(text, wanted, other));
        test.true_of(Some(SureTexts::of(kinds)))
    };
    Ok(match args.chosen()? {
        0 => is_of(DIGIT, |text| !text.is_empty() && text.bytes().all(|b| b.is_ascii_digit())),
        1 => is_of(UPPER | LOWER, is_letters),
        2 => is_cased(UPPER, Kind::Upper, Kind::Lower),
        3 => is_cased(LOWER, Kind::Lower, Kind::Upper),
        4 => Test::new(negated, |text| {
            whole_number(text, NumberStyle::PLAIN).is_some_and(|number| !number.contains('.'))
        }),
        _ => Test::new(negated, crate::text::is_email),
    })
}

/// The number a text is as a whole, without any doubt, in plain form.
fn whole_number(text: &str, style: NumberStyle) -> Option<String> {
    // A few digits without a zero in front are one number, in every style.
    let are_few = (1..=15).contains(&text.len()) && !text.starts_with('0');
    if are_few && text.bytes().all(|byte| byte.is_ascii_digit()) {
        return Some(text.to_owned());
    }
    let found = numbers(text, None, style).next()?;
    (found.span == (0..text.len()) && found.doubt.is_none() && !found.drops_zeros)
        .then(|| found.written(text))
}
