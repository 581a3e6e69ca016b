//! Dates in one form and out in another; the length of a text.

use super::Args;
use crate::language::{Build, CutError, Example, Group, Guess, Guesses, Word};
use crate::program::Nothing;
use crate::program::Step;
use crate::text::{DATES, DatePattern, characters};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "date",
        group: Group::Tidy,
        form: "date TEXT [to TEXT]",
        meaning: "the whole text read as a date so written, and written anew, in ISO 8601 unless \
            said: `YYYY YY MM M DD D`, `MMM` (Jan), `MMMM` (January), `Do` (3rd), `DDD` (day of \
            the year), a time of day with `HH:mm`, `HH:mm:ss` or `h:mm a` (2:05 pm), other text in \
            '…'; or `%d %m %Y %y %b %B %j %H %M %S %I %p`",
        examples: &[
            Example { cell: "12042019", cut: "date \"DDMMYYYY\"", gives: "2019-04-12" },
            Example {
                cell: "8.1.30",
                cut: "date \"D.M.YY\" to \"DD MMM YYYY\"",
                gives: "08 Jan 2030",
            },
            Example {
                cell: "31022019",
                cut: "date \"DDMMYYYY\"",
                gives: "(missing: no date \"DDMMYYYY\")",
            },
            Example { cell: "12/Apr/2019", cut: "date \"%d/%b/%Y\"", gives: "2019-04-12" },
            Example { cell: "3rd April 2019", cut: "date \"Do MMMM YYYY\"", gives: "2019-04-03" },
            Example {
                cell: "12.4.2019 2:05 pm",
                cut: "date \"D.M.YYYY h:mm a\"",
                gives: "2019-04-12T14:05",
            },
        ],
        guess: Guess::Makes(guess_date),
        build: Build::Step(date),
    },
    Word {
        name: "length",
        group: Group::Tidy,
        form: "length",
        meaning: "the number of characters, spaces included; 0 when nothing is left",
        examples: &[Example { cell: "Žďár 12", cut: "length", gives: "7" }],
        guess: Guess::None,
        build: Build::Step(|_| {
            Ok(Step::count(|piece, context| {
                let n = characters::count(piece.text());
                Ok(piece.changed(context.alloc_fmt(format_args!("{n}"))))
            }))
        }),
    },
];

fn date(args: &mut Args<'_>) -> Result<Step, CutError> {
    let pattern = args.date_pattern()?;
    let absent = format!("no date {}", args.last_written());
    let output = match args.given()? {
        true => args.date_output()?,
        false if pattern.has_time() => DatePattern::iso_with_time(&pattern),
        false => DatePattern::iso(),
    };
    if output.has_time() && !pattern.has_time() {
        return Err(args
            .refuse("No time of day is read, so none can be written")
            .remedy("Read one as well: date \"YYYY-MM-DD HH:mm\" to ….".to_owned()));
    }
    let writes_time = output.has_time();
    let step = Step::text(move |piece, context| match pattern.parse(piece.text()) {
        Some(date) => Ok(piece.changed(context.alloc(&output.write(date)))),
        None => context.missing(Nothing::Absent, &absent),
    });
    Ok(step.writing_time(writes_time))
}

/// The ways of writing a date that are guessed for what comes out.
const WRITTEN: [&str; 14] = [
    "DD.MM.YYYY",
    "DD/MM/YYYY",
    "MM/DD/YYYY",
    "YYYY/MM/DD",
    "YYYYMMDD",
    "D.M.YYYY",
    "DD-MM-YYYY",
    "D MMM YYYY",
    "DD MMM YYYY",
    "D MMMM YYYY",
    "MMM YYYY",
    "YYYY-MM",
    "YYYY",
    "MM/YYYY",
];

fn guess_date(guesses: &mut Guesses<'_>) {
    let (text, piece) = (guesses.text, guesses.piece);
    if text.len() > 40 || !text.bytes().any(|b| b.is_ascii_digit()) {
        return;
    }
    for form in DATES {
        let Some(date) = DatePattern::read(form).ok().and_then(|read| read.parse(text)) else {
            continue;
        };
        // Of two that fit the one that says the width.
        let cost = if form.contains("DD") { 0 } else { 2 };
        if DatePattern::iso().write(date) == piece {
            guesses.add(34 + cost, format!("date \"{form}\""));
        }
        for written in WRITTEN {
            if written != form && DatePattern::read(written).is_ok_and(|to| to.write(date) == piece)
            {
                guesses.add(46 + cost, format!("date \"{form}\" to \"{written}\""));
            }
        }
    }
}
