//! The notation in which the table of words says how a word is written, for instance
//! `pad (left | right | both) COUNT [with CHARACTER]`.
//!
//! | notation | stands for |
//! | --- | --- |
//! | `pad`, `>=` | this word or symbol as it is |
//! | `COUNT` | a slot: what may stand there is said in [`Slot`] |
//! | `[ … ]` | this or nothing |
//! | `( a \| b )` | one of these |
//!
//! The parser interprets a form and passes what stood in it to the word's `build` as a flat list, in
//! order: for a slot its value, for `[ … ]` whether it was there and then what it held, for `( a |
//! b )` which one (from 0) and then what it held.

/// One piece of a form.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Form {
    Sequence(Vec<Form>),
    /// A word or symbol that stands as it is.
    Literal(&'static str),
    Slot(Slot),
    Optional(Box<Form>),
    Choice(Vec<Form>),
}

/// Makes [`Slot`] with its names and meanings from one list.
macro_rules! slots {
    ($($variant:ident $name:literal $meaning:literal,)*) => {
        /// A place in a form that takes more than one fixed word.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
        pub enum Slot {
            $(#[doc = $meaning] $variant,)*
        }

        impl Slot {
            /// Every slot, in the order of the documentation.
            pub const ALL: &'static [Slot] = &[$(Slot::$variant),*];

            /// The name it has in forms.
            pub fn name(self) -> &'static str {
                match self {
                    $(Slot::$variant => $name,)*
                }
            }

            /// What may stand there.
            pub fn meaning(self) -> &'static str {
                match self {
                    $(Slot::$variant => $meaning,)*
                }
            }
        }
    };
}

slots! {
    Count "COUNT" "a whole number from 1",
    Decimals "DECIMALS" "how many digits after the decimal point: a whole number from 0",
    Length "LENGTH" "a number of characters: `8`, `6..8`, `6..`, `..8`",
    Place "PLACE" "which one: `2`, `2nd`, `last`, `2nd last`, `-1`",
    Pick "PICK" "which one: `2`, `-1` or `last`, `2nd last`; several: `2..3`, `2..`, `..-2`",
    Range "RANGE" "positions, counted from 1, both ends included, negative ones from the end: `5`, \
        `5..12`, `5..`, `..3`, `-4..`, `2..-2`",
    Regex "REGEX" "a regular expression between slashes, with the flags i, s, x if wanted: \
        `/[a-z]+/i`",
    Text "TEXT" "a text in quotes: `\"-\"` or `'-'`",
    Character "CHARACTER" "one character in quotes: `\"0\"`",
    Mark "MARK" "what finds a place: `[WHICH] \"text\"`, `word \"text\"` and the other marks, \
        perhaps followed by `ignoring case`",
    Separator "SEPARATOR" "what stands between two parts: `\"text\"` and the other separators",
    Widths "WIDTHS" "numbers of characters with commas between: `2,4,3,5`",
    Kinds "KINDS" "kinds of characters, with blanks between: `digits`, `letters`, `spaces`, \
        `symbols` or the characters themselves in quotes",
    Group "GROUP" "a group of the regular expression: its number or its name",
    Texts "TEXTS" "texts in brackets: `(\"FH\", \"GR\")`",
    List "LIST" "the name of a list of the jig",
    Limits "LIMITS" "numbers: `5`, `1..99`, `..100`, `>= 5`, `< {column}`",
    Column "COLUMN" "a column in braces: `{lot}`",
    When "WHEN" "a date or a column: `\"2024-01-31\"`, `{sent}`",
    Condition "CONDITION" "tests with `and`, `or`, `not` and brackets; a test that names no \
        {column} is about the text itself",
    Scheme "SCHEME" "a check-digit scheme: `luhn`, `gtin`, `isbn`, `issn`, `iban`, `mod97`, \
        `mod11-2`, `damm`, `verhoeff`",
}

impl Form {
    /// Reads the notation.
    ///
    /// # Errors
    /// What is wrong with it; the table of words has none that fails, which a test holds.
    pub(crate) fn read(notation: &'static str) -> Result<Form, String> {
        let mut pieces = pieces(notation);
        pieces.reverse();
        let form = sequence(&mut pieces)?;
        match pieces.pop() {
            None => Ok(form),
            Some(piece) => Err(format!("{piece} is one too many in {notation}")),
        }
    }

    /// The fixed words a text of this form can begin with; none when it begins with a slot.
    pub(crate) fn heads(&self) -> Vec<&'static str> {
        match self {
            Form::Literal(word) => vec![word],
            Form::Slot(_) | Form::Optional(_) => Vec::new(),
            Form::Sequence(items) => items.first().map(Form::heads).unwrap_or_default(),
            Form::Choice(items) => items.iter().flat_map(Form::heads).collect(),
        }
    }
}

/// The notation's pieces: words, symbols, brackets and bars.
fn pieces(notation: &'static str) -> Vec<&'static str> {
    let is_own = |c: char| "[]()|".contains(c);
    notation
        .split_whitespace()
        .flat_map(|run| {
            let mut found = Vec::new();
            let mut rest = run;
            while !rest.is_empty() {
                let length = rest.find(is_own).map_or(rest.len(), |at| at.max(1));
                found.push(&rest[..length]);
                rest = &rest[length..];
            }
            found
        })
        .collect()
}

fn sequence(pieces: &mut Vec<&'static str>) -> Result<Form, String> {
    let mut items = Vec::new();
    while let Some(&piece) = pieces.last() {
        if matches!(piece, ")" | "]" | "|") {
            break;
        }
        pieces.pop();
        items.push(match piece {
            "[" => {
                let inside = sequence(pieces)?;
                close(pieces, "]")?;
                Form::Optional(Box::new(inside))
            }
            "(" => {
                let mut choices = vec![sequence(pieces)?];
                while pieces.last() == Some(&"|") {
                    pieces.pop();
                    choices.push(sequence(pieces)?);
                }
                close(pieces, ")")?;
                Form::Choice(choices)
            }
            _ if piece.bytes().all(|b| b.is_ascii_uppercase()) => {
                let slot = Slot::ALL.iter().find(|slot| slot.name() == piece);
                Form::Slot(*slot.ok_or_else(|| format!("there is no slot {piece}"))?)
            }
            _ => Form::Literal(piece),
        });
    }
    Ok(Form::Sequence(items))
}

fn close(pieces: &mut Vec<&'static str>, bracket: &str) -> Result<(), String> {
    match pieces.pop() {
        Some(piece) if piece == bracket => Ok(()),
        other => Err(format!("{bracket} was expected, not {other:?}")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A form as it was understood, every bracket written out.
    fn said(form: &Form) -> String {
        let join = |items: &[Form], between: &str| {
            items.iter().map(said).collect::<Vec<_>>().join(between)
        };
        match form {
            Form::Sequence(items) => join(items, " "),
            Form::Literal(word) => (*word).to_owned(),
            Form::Slot(slot) => format!("<{}>", slot.name()),
            Form::Optional(inside) => format!("maybe({})", said(inside)),
            Form::Choice(items) => format!("one({})", join(items, "/")),
        }
    }

    #[test]
    fn the_notation() {
        for (notation, understood, heads) in [
            ("trim", "trim", "trim"),
            (
                "pad (left | right) COUNT [with CHARACTER]",
                "pad one(left/right) <COUNT> maybe(with <CHARACTER>)",
                "pad",
            ),
            ("(keep | remove) KINDS", "one(keep/remove) <KINDS>", "keep remove"),
            (
                "trim [(left | right)] [any of TEXT]",
                "trim maybe(one(left/right)) maybe(any of <TEXT>)",
                "trim",
            ),
            ("number [PLACE]", "number maybe(<PLACE>)", "number"),
            ("TEXT", "<TEXT>", ""),
            ("(a b|c [d])", "one(a b/c maybe(d))", "a c"),
        ] {
            let form = Form::read(notation).unwrap();
            assert_eq!(
                (said(&form).as_str(), form.heads().join(" ").as_str()),
                (understood, heads),
                "{notation}"
            );
        }
        for (notation, problem) in [
            ("pad COUNTS", "there is no slot COUNTS"),
            ("a [b", "] was expected"),
            ("a (b", ") was expected"),
            ("a ] b", "] is one too many"),
            ("a | b", "| is one too many"),
        ] {
            assert!(Form::read(notation).unwrap_err().contains(problem), "{notation}");
        }
    }
}
