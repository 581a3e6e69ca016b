//! Marks and separators: what steps look for.

use super::Args;
use crate::language::{Build, CutError, Example, Group, Word};
use crate::text::{Separator, What};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "\"text\"",
        group: Group::Mark,
        form: "TEXT",
        meaning: "this text as it stands; `ignoring case` behind it takes upper and lower as the same",
        examples: &[
            Example { cell: "Ref: 8812", cut: "after \": \"", gives: "8812" },
            Example { cell: "Ref: 8812", cut: "after \"REF: \" ignoring case", gives: "8812" },
            Example { cell: "a-b-c-d", cut: "after 2nd \"-\"", gives: "c-d" },
            Example { cell: "a-b-c-d", cut: "before last \"-\"", gives: "a-b-c" },
        ],
        build: Build::Mark(|args| Ok(What::text(args.needle()?))),
    },
    Word {
        name: "word",
        group: Group::Mark,
        form: "word TEXT",
        meaning: "this text with no letter, digit or `_` beside it",
        examples: &[
            Example { cell: "reseeded seedling, seed of oak", cut: "after word \"seed\"", gives: " of oak" },
            Example { cell: "seedling", cut: "after word \"seed\"", gives: "(missing: no word \"seed\")" },
        ],
        build: Build::Mark(word),
    },
    Word {
        name: "\"text\"",
        group: Group::Separator,
        form: "TEXT",
        meaning: "this text between two parts; `ignoring case` behind it takes upper and lower as the same",
        examples: &[
            Example { cell: "R3-04415-SOW", cut: "part 3 by \"-\"", gives: "SOW" },
            Example { cell: "12x8X30", cut: "part 2 by \"x\" ignoring case", gives: "8" },
        ],
        build: Build::Separator(|args| Ok(Separator::What(What::text(args.needle()?)))),
    },
];

fn word(args: &mut Args<'_>) -> Result<What, CutError> {
    Ok(What::Word(Box::new(What::text(args.needle()?))))
}
