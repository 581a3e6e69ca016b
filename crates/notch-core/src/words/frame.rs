//! The words that hold a cut together. The parser reads them itself; they stand here for the
//! documentation and their examples.

use crate::language::{Build, Example, Group, Guess, Word};

/// The entry of a step in brackets.
pub(crate) const BRACKETS: &Word = entry("| ( cut )");
/// The entry of a step that is a template.
pub(crate) const TEMPLATE: &Word = entry("| \"template\"");

/// The entry of that name.
const fn entry(name: &str) -> &'static Word {
    let mut n = 0;
    while n < WORDS.len() {
        if is_same(WORDS[n].name.as_bytes(), name.as_bytes()) {
            return &WORDS[n];
        }
        n += 1;
    }
    // No such entry: told when the program is compiled.
    &WORDS[WORDS.len()]
}

const fn is_same(a: &[u8], b: &[u8]) -> bool {
    let mut n = 0;
    while n < a.len() && n < b.len() && a[n] == b[n] {
        n += 1;
    }
    a.len() == b.len() && n == a.len()
}

pub(super) const WORDS: &[Word] = &[
    Word {
        name: "{column}",
        group: Group::Source,
        form: "{column}",
        meaning: "the cell of that column or of a cut above; `{\"odd | name\"}` for any name, \
            `{column 3}` by place",
        examples: &[
            Example { cell: "FH-2019", cut: "{code} | first 2", gives: "FH" },
            Example { cell: "FH-2019", cut: "{column 1} | last 4", gives: "2019" },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "\"template\"",
        group: Group::Source,
        form: "\"text {column} text\"",
        meaning: "the text with columns or whole cuts put in; missing when one of them is; `{{` \
            and `}}` are braces",
        examples: &[
            Example { cell: "417", cut: "\"FH/{code}\"", gives: "FH/417" },
            Example {
                cell: "417",
                cut: "\"{code | pad left 5 with '0'}-{{x}}\"",
                gives: "00417-{x}",
            },
            Example {
                cell: "417",
                cut: "\"{code}-{code | after '-'}\"",
                gives: "(missing: code: no '-')",
            },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "( cut )",
        group: Group::Source,
        form: "( cut )",
        meaning: "a whole cut in brackets, where a chain starts from its result",
        examples: &[Example {
            cell: "FH 2019",
            cut: "(before \"-\" else before \" \") | lower",
            gives: "fh",
        }],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "list",
        group: Group::Source,
        form: "list ( cut, cut )",
        meaning: "several cuts or columns as a list; a blank one is an empty item, not missing",
        examples: &[
            Example {
                cell: "FH-2019",
                cut: "list ({code} | before \"-\", {code} | after \"-\") | join \"/\"",
                gives: "FH/2019",
            },
            Example {
                cell: "FH",
                cut: "list ({code}, {code} | after \"-\" else \"\") | drop empty | join \", \"",
                gives: "FH",
            },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "missing",
        group: Group::Source,
        form: "missing [\"reason\"]",
        meaning: "nothing, for this reason; it ends the cut, and no later `else` is tried",
        examples: &[
            Example {
                cell: "FH",
                cut: "after \"-\" else missing \"an old code\"",
                gives: "(missing: an old code)",
            },
            Example {
                cell: "XX-1",
                cut: "missing \"a test\" if {code} starts with \"XX\" else before \"-\"",
                gives: "(missing: a test)",
            },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "|",
        group: Group::Joining,
        form: "source | step | step",
        meaning: "hands what is left of it to the step on its right; a chain that begins with a \
            step starts from the column given with the cut",
        examples: &[Example {
            cell: "FH-2019-417-7",
            cut: "part 3 by \"-\" | pad left 5 with \"0\"",
            gives: "00417",
        }],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "| ( cut )",
        group: Group::Joining,
        form: "chain | ( chain else chain )",
        meaning: "a cut in brackets after a bar: its chains that begin with a step start from the \
            text reached; a missing or blank text passes it over",
        examples: &[
            Example {
                cell: " FH-2019 ",
                cut: "trim | (part 2 by \"-\" else part 2 by \"/\") | pad left 6 with \"0\"",
                gives: "002019",
            },
            Example {
                cell: " FH/2019 ",
                cut: "trim | (part 2 by \"-\" else part 2 by \"/\") | pad left 6 with \"0\"",
                gives: "002019",
            },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "| \"template\"",
        group: Group::Joining,
        form: "chain | \"text {it} text\"",
        meaning: "the text put into another one: `{it}` is the text reached, `{first 2}` a cut of \
            it, `{\"it\"}` a column of that name; item by item on a list",
        examples: &[
            Example { cell: "4-417", cut: "part 2 by \"-\" | \"FH/{it}\"", gives: "FH/417" },
            Example {
                cell: "00417-BRA",
                cut: "before \"-\" | \"{last 3}-{it | first 2}\"",
                gives: "417-00",
            },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "else",
        group: Group::Joining,
        form: "chain else chain",
        meaning: "what to take instead where the chain before it is missing; a chain that begins \
            with a step starts from the same source; `else \"\"` leaves the cell blank without a \
            finding",
        examples: &[
            Example {
                cell: "Okoro",
                cut: "after last \" \" else \"(one name)\"",
                gives: "(one name)",
            },
            Example { cell: "FH/2019", cut: "part 2 by \"-\" else part 2 by \"/\"", gives: "2019" },
            Example { cell: "FH", cut: "part 2 by \"-\" else \"\"", gives: "" },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "if",
        group: Group::Joining,
        form: "chain if condition else chain",
        meaning: "takes the chain only where the condition holds: tests, with `and`, `or`, `not` \
            and brackets, of a {column}, of `it` (what the chain has reached) or of a ( cut ); a \
            test that names nothing is about the one to its left",
        examples: &[
            Example {
                cell: "GR-2019",
                cut: "\"Greenrow\" if {code} starts with \"GR\" else \"other\"",
                gives: "Greenrow",
            },
            Example {
                cell: "FH-19",
                cut: "after \"-\" if it is digits and length 4 else \"no year\"",
                gives: "no year",
            },
            Example {
                cell: "FH-19",
                cut: "after \"-\" if not (it length 4 or {code} has \"/\")",
                gives: "19",
            },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "then",
        group: Group::Joining,
        form: "chain else chain then step | step",
        meaning: "steps for whichever chain was taken",
        examples: &[Example {
            cell: "fh/417",
            cut: "part 2 by \"-\" else part 2 by \"/\" then pad left 5 with \"0\"",
            gives: "00417",
        }],
        guess: Guess::None,
        build: Build::Frame,
    },
    Word {
        name: "name, name? =",
        group: Group::Joining,
        form: "name, name?, _ = cut",
        meaning: "several names take the items of a list from the left; `?` may stay blank without \
            a finding, `_` skips one, a name that begins with `_` is for later cuts and not \
            written",
        examples: &[
            Example {
                cell: "R3-04415-SOW",
                cut: "grade, _, team = parts by \"-\"",
                gives: "grade: R3, team: SOW",
            },
            Example {
                cell: "R3",
                cut: "grade, number? = parts by \"-\"",
                gives: "grade: R3, number: ",
            },
            Example { cell: "R3", cut: "number? = part 2 by \"-\"", gives: "number: " },
        ],
        guess: Guess::None,
        build: Build::Frame,
    },
];
