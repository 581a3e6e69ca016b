//! Steps that look for a mark.

use super::{Args, Step};
use crate::evaluate::Nothing;
use crate::language::{Build, CutError, Example, Group, Word};

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "before",
        group: Group::Find,
        form: "before MARK [or end]",
        meaning: "the text before the mark, without it; `or end`: the whole text where the mark is missing",
        examples: &[
            Example { cell: "FH-2019-BRA-00417-7", cut: "before \"-\"", gives: "FH" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "before 2nd last \"-\"", gives: "FH-2019-BRA" },
            Example { cell: "Okoro", cut: "before \" \"", gives: "(missing: no \" \")" },
            Example { cell: "Okoro", cut: "before \" \" or end", gives: "Okoro" },
        ],
        build: Build::Step(|args| beside(args, |found, _| 0..found.start)),
    },
    Word {
        name: "after",
        group: Group::Find,
        form: "after MARK [or start]",
        meaning: "the text after the mark, without it; `or start`: the whole text where the mark is missing",
        examples: &[
            Example { cell: "iris.moran@fernhollow.example", cut: "after \"@\"", gives: "fernhollow.example" },
            Example { cell: "FH-2019-BRA-00417-7", cut: "after 3rd \"-\"", gives: "00417-7" },
            Example { cell: "preferred REF: 8812", cut: "after word \"ref\" ignoring case", gives: ": 8812" },
            Example { cell: "FH-2019", cut: "after 2nd \"-\"", gives: "(missing: no 2nd \"-\")" },
            Example { cell: "FH-2019-", cut: "after last \"-\"", gives: "(missing: nothing left)" },
        ],
        build: Build::Step(|args| beside(args, |found, length| found.end..length)),
    },
];

/// A step that keeps one side of a mark; with `or …` the whole text where the mark is missing.
fn beside(
    args: &mut Args<'_>,
    side: impl Fn(crate::text::Span, usize) -> crate::text::Span + Send + Sync + 'static,
) -> Result<Step, CutError> {
    let mark = args.mark()?;
    let or_all = args.given()?;
    let absent = mark.absent();
    Ok(Step::text(move |piece, run| {
        let text = piece.text();
        match mark.find(text) {
            Some(found) => run.narrow(piece, side(found, text.len())),
            None if or_all => Ok(piece),
            None => run.missing(Nothing::Absent, &absent),
        }
    }))
}
