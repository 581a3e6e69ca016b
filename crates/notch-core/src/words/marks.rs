//! Marks and separators: what steps look for.

use super::Args;
use crate::language::{Build, CutError, Example, Group, Guess, Word};
use crate::text::{Kind, Separator, What};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "\"text\"",
        group: Group::Mark,
        form: "TEXT",
        meaning: "this text as it stands; `ignoring case` after it takes upper and lower as the \
            same",
        examples: &[
            Example { cell: "Ref: 8812", cut: "after \": \"", gives: "8812" },
            Example { cell: "Ref: 8812", cut: "after \"REF: \" ignoring case", gives: "8812" },
            Example { cell: "a-b-c-d", cut: "after 2nd \"-\"", gives: "c-d" },
            Example { cell: "a-b-c-d", cut: "before last \"-\"", gives: "a-b-c" },
        ],
        guess: Guess::None,
        build: Build::Mark(|args| Ok(What::text(args.needle()?))),
    },
    Word {
        name: "word",
        group: Group::Mark,
        form: "word TEXT",
        meaning: "this text with no letter, digit or `_` beside it",
        examples: &[
            Example {
                cell: "reseeded seedling, seed of oak",
                cut: "after word \"seed\"",
                gives: " of oak",
            },
            Example {
                cell: "seedling",
                cut: "after word \"seed\"",
                gives: "(missing: no word \"seed\")",
            },
        ],
        guess: Guess::None,
        build: Build::Mark(|args| Ok(What::Word(Box::new(What::text(args.needle()?))))),
    },
    Word {
        name: "/regex/",
        group: Group::Mark,
        form: "REGEX",
        meaning: "what the regular expression matches, where that is not empty",
        examples: &[Example { cell: "oak12kg", cut: "before /\\d+ ?kg/", gives: "oak" }],
        guess: Guess::None,
        build: Build::Mark(|args| Ok(What::Regex(Box::new(args.regex()?)))),
    },
    Word {
        name: "any of",
        group: Group::Mark,
        form: "any of TEXT",
        meaning: "one of these characters",
        examples: &[Example { cell: "FH/2019-BRA", cut: "before any of \"-/\"", gives: "FH" }],
        guess: Guess::None,
        build: Build::Mark(any_of),
    },
    Word {
        name: "digit",
        group: Group::Mark,
        form: "(digit | letter | upper | lower | space | symbol | character)",
        meaning: "a character of this kind: 0–9; a letter of any script, or of upper or lower \
            case; white space; neither of these; any",
        examples: &[
            Example { cell: "box A12", cut: "before digit", gives: "box A" },
            Example { cell: "box A12", cut: "from upper", gives: "A12" },
            Example { cell: "FH*2019", cut: "before symbol", gives: "FH" },
        ],
        guess: Guess::None,
        build: Build::Mark(|args| {
            Ok(What::Kind(match args.chosen()? {
                0 => Kind::Digit,
                1 => Kind::Letter,
                2 => Kind::Upper,
                3 => Kind::Lower,
                4 => Kind::Space,
                5 => Kind::Symbol,
                _ => Kind::Character,
            }))
        }),
    },
    Word {
        name: "\"text\"",
        group: Group::Separator,
        form: "TEXT",
        meaning: "this text between two parts; `ignoring case` after it takes upper and lower as \
            the same",
        examples: &[
            Example { cell: "R3-04415-SOW", cut: "part 3 by \"-\"", gives: "SOW" },
            Example { cell: "12x8X30", cut: "part 2 by \"x\" ignoring case", gives: "8" },
        ],
        guess: Guess::None,
        build: Build::Separator(|args| Ok(Separator::What(What::text(args.needle()?)))),
    },
    Word {
        name: "any of",
        group: Group::Separator,
        form: "any of TEXT",
        meaning: "one of these characters between two parts",
        examples: &[Example { cell: "FH/2019-BRA", cut: "part 2 by any of \"-/\"", gives: "2019" }],
        guess: Guess::None,
        build: Build::Separator(|args| any_of(args).map(Separator::What)),
    },
    Word {
        name: "/regex/",
        group: Group::Separator,
        form: "REGEX",
        meaning: "what the regular expression matches between two parts",
        examples: &[Example { cell: "FH - 2019 -BRA", cut: "part 2 by / *- */", gives: "2019" }],
        guess: Guess::None,
        build: Build::Separator(|args| Ok(Separator::What(What::Regex(Box::new(args.regex()?))))),
    },
    Word {
        name: "spaces",
        group: Group::Separator,
        form: "spaces",
        meaning: "runs of white space; at the ends of the text there are none",
        examples: &[Example {
            cell: "  Iris   Moran ",
            cut: "part 2 of 2 by spaces",
            gives: "Moran",
        }],
        guess: Guess::None,
        build: Build::Separator(|_| Ok(Separator::Spaces)),
    },
    Word {
        name: "kind",
        group: Group::Separator,
        form: "kind",
        meaning: "the parts are the runs of letters and the runs of digits; what is neither only \
            separates",
        examples: &[Example {
            cell: "FH2019BRA-417",
            cut: "parts by kind",
            gives: "FH; 2019; BRA; 417",
        }],
        guess: Guess::None,
        build: Build::Separator(|_| Ok(Separator::Kind)),
    },
    Word {
        name: "widths",
        group: Group::Separator,
        form: "widths WIDTHS",
        meaning: "parts of these numbers of characters, what is left over is one more; a part cut \
            off by the end is `short`",
        examples: &[Example {
            cell: "FH2019BRA00417",
            cut: "part 3 by widths 2,4,3,5",
            gives: "BRA",
        }],
        guess: Guess::None,
        build: Build::Separator(|args| Ok(Separator::Widths(args.counts()?.to_vec()))),
    },
];

fn any_of(args: &mut Args<'_>) -> Result<What, CutError> {
    Ok(What::any_of(args.needle()?))
}
