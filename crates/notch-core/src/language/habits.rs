//! Words that people type from habit, because spreadsheets, databases and scripts have them, and
//! what they are called here.
//!
//! One table, beside the table of words: messages answer with it, their arguments filled in, and so
//! does `notch words`.

use super::error::CutError;
use super::parse::parse_cut;
use super::parser::Parser;
use super::token::{Token, TokenKind};
use super::words::{Word, words};

/// Words that several other programs have for one thing.
#[derive(Debug)]
pub struct Habit {
    /// What is typed, in small letters and without `_`.
    pub typed: &'static [&'static str],
    /// The name of our word.
    pub word: &'static str,
    /// Our form with the arguments of a call: `$1` the text, `$2` and on what follows it. A test
    /// has no `$1`.
    filled: &'static str,
    /// It stands where a test does.
    pub is_test: bool,
}

const fn step(typed: &'static [&'static str], word: &'static str, filled: &'static str) -> Habit {
    Habit { typed, word, filled, is_test: false }
}

const fn test(typed: &'static [&'static str], word: &'static str, filled: &'static str) -> Habit {
    Habit { typed, word, filled, is_test: true }
}

/// Every habit, steps first.
pub const HABITS: &[Habit] = &[
    step(&["left", "take", "head"], "first", "$1 | first $2"),
    step(&["right", "tail"], "last", "$1 | last $2"),
    step(&["mid", "substr", "substring", "slice"], "chars", "$1 | chars $2 for $3"),
    step(&["skip"], "drop first", "$1 | drop first $2"),
    step(&["split", "explode", "splitby"], "parts", "$1 | parts by $2"),
    step(&["splitpart", "textsplit"], "part", "$1 | part $3 by $2"),
    step(&["textbefore", "substringbefore"], "before", "$1 | before $2"),
    step(&["textafter", "substringafter"], "after", "$1 | after $2"),
    step(
        &["find", "search", "instr", "indexof", "strpos", "charindex", "locate"],
        "position of",
        "$1 | position of $2",
    ),
    step(&["len", "strlen", "charlength", "size"], "length", "$1 | length"),
    step(&["uppercase", "ucase", "toupper", "upcase"], "upper", "$1 | upper"),
    step(&["lowercase", "lcase", "tolower", "downcase"], "lower", "$1 | lower"),
    step(&["proper", "initcap", "capitalize", "titlecase"], "title", "$1 | title"),
    step(&["strip"], "trim", "$1 | trim"),
    step(&["ltrim", "lstrip", "trimstart"], "trim", "$1 | trim left"),
    step(&["rtrim", "rstrip", "trimend"], "trim", "$1 | trim right"),
    step(&["clean", "normalize", "normalise", "squish"], "neaten", "$1 | neaten"),
    step(&["unaccent", "removeaccents", "stripaccents"], "without marks", "$1 | without marks"),
    step(
        &["substitute", "sub", "gsub", "replaceall", "regexreplace", "regexpreplace"],
        "replace",
        "$1 | replace $2 with $3",
    ),
    step(
        &["regex", "regexp", "regexextract", "regexpextract", "extract"],
        "match",
        "$1 | match $2",
    ),
    step(&["zfill"], "pad", "$1 | pad left $2 with \"0\""),
    step(&["lpad", "padstart", "rjust"], "pad", "$1 | pad left $2 with $3"),
    step(&["rpad", "padend", "ljust"], "pad", "$1 | pad right $2 with $3"),
    step(&["truncate", "trunc", "shorten", "ellipsis"], "clip", "$1 | clip $2"),
    step(
        &["int", "float", "tonumber", "numbervalue", "parsenumber", "cast"],
        "number",
        "$1 | number",
    ),
    step(&["round", "tofixed"], "decimals", "$1 | decimals $2"),
    step(&["todate", "datevalue", "strptime", "parsedate", "strftime"], "date", "$1 | date $2"),
    step(&["unique", "uniq", "dedupe"], "distinct", "$1 | distinct"),
    step(&["nth", "item", "get", "index", "element"], "pick", "$1 | pick $2"),
    step(&["implode", "textjoin"], "join", "$1 | join $2"),
    step(&["rev", "reversed"], "reverse", "$1 | reverse"),
    step(&["vlookup", "xlookup", "lookup"], "look up in", "$1 | look up in $2"),
    step(&["concat", "concatenate", "paste"], "\"template\"", TEMPLATE),
    step(
        &["default", "coalesce", "ifnull", "nvl", "ifna", "fillna", "iferror"],
        "else",
        "$1 else $2",
    ),
    step(&["iif", "ifelse", "case", "when", "switch"], "if", "$2 if $1 else $3"),
    test(&["contains", "includes"], "has", "has $2"),
    test(&["begins", "beginswith", "startswith"], "starts with", "starts with $2"),
    test(&["endswith"], "starts with", "ends with $2"),
    test(&["equals", "eq", "=", "=="], "is \"text\"", "is $2"),
    test(&["ne", "!=", "<>"], "is \"text\"", "is not $2"),
    test(&["like", "matches", "rlike", "~"], "is /regex/", "is $2"),
    test(&["in"], "is in", "is in ($2)"),
    test(&["between"], "value", "value $2..$3"),
    test(&[">"], "value", "value > $2"),
    test(&["<"], "value", "value < $2"),
    test(&[">="], "value", "value >= $2"),
    test(&["<="], "value", "value <= $2"),
    test(
        &["isempty", "isblank", "isnull", "isna", "empty", "null", "none", "nan"],
        "is blank",
        "is blank",
    ),
    test(&["isnumber", "isnumeric"], "is number", "is number"),
];

/// Texts and columns put together, as the habit of adding them up.
const TEMPLATE: &str = "\"…{column}…\"";

impl Habit {
    /// Our word.
    pub fn ours(&self) -> Option<&'static Word> {
        words().find(|word| word.name == self.word)
    }

    /// Our form with the arguments of a call, the text that is worked on first; the bare form where
    /// arguments are missing.
    fn with(&self, arguments: &[String]) -> String {
        if self.filled == TEMPLATE {
            return joined(arguments);
        }
        let mut filled = self.filled.to_owned();
        for (n, argument) in arguments.iter().enumerate() {
            // What others have in quotes stands between slashes here.
            let is_regex = n > 0 && matches!(self.word, "match" | "is /regex/");
            let argument = if is_regex {
                &format!("/{}/", argument.trim_matches(['"', '\'', '/']).replace('/', "\\/"))
            } else {
                argument
            };
            filled = filled.replace(&format!("${}", n + 1), argument);
        }
        match filled.contains('$') {
            false => filled,
            true => self.ours().map_or(filled, |word| word.form.to_owned()),
        }
    }

    /// The same for a step whose text stands before it.
    fn as_step(&self, arguments: &[String]) -> String {
        let arguments: Vec<String> =
            std::iter::once(String::new()).chain(arguments.iter().cloned()).collect();
        self.with(&arguments).trim_start_matches([' ', '|']).to_owned()
    }
}

/// The habits of a word, as it is typed.
pub fn habits(typed: &str) -> impl Iterator<Item = &'static Habit> {
    let typed = typed.to_lowercase().replace('_', "");
    HABITS.iter().filter(move |habit| habit.typed.contains(&typed.as_str()))
}

/// Texts and columns as one template.
fn joined(pieces: &[String]) -> String {
    if pieces.is_empty() {
        return TEMPLATE.to_owned();
    }
    let inside = |piece: &String| {
        let quoted =
            ['"', '\''].iter().find_map(|quote| piece.strip_prefix(*quote)?.strip_suffix(*quote));
        quoted.map_or(piece.clone(), str::to_owned)
    };
    format!("\"{}\"", pieces.iter().map(inside).collect::<String>())
}

impl Parser<'_> {
    /// What is said of a word where a step is wanted that another program has, or of one of ours
    /// written as a call.
    pub(super) fn habit_of_step(&self, at: usize) -> Option<CutError> {
        let token = self.tokens.get(at)?;
        let written = self.written(token);
        let error = || CutError::new(token.span.clone(), format!("`{written}` is not a step"));
        if written == "if" {
            return self.condition_first(at).map(|remedy| error().remedy(remedy));
        }
        let habit = habits(written).next()?;
        let following =
            || self.tokens[at + 1..].iter().take_while(|token| is_argument(&token.kind));
        let following: Vec<String> =
            following().map(|token| self.written(token).to_owned()).collect();
        if habit.is_test {
            return Some(error().remedy(format!(
                "Here it is a test: … if {{column}} {}",
                habit.as_step(&following)
            )));
        }
        let remedy = match self.call(at + 1) {
            Some((arguments, _)) => habit.with(&arguments),
            None if habit.filled == TEMPLATE => TEMPLATE.to_owned(),
            None => habit.as_step(&following),
        };
        let mut error = error().remedy(format!("Here it is written {remedy}"));
        error.perhaps_column = Some(written.into());
        Some(error)
    }

    /// What is said where a test is wanted.
    pub(super) fn habit_of_test(&self, at: usize) -> Option<CutError> {
        let token = self.tokens.get(at)?;
        let mut end = at;
        let mut written = self.written(token).to_owned();
        // Signs of two characters are two tokens.
        while let Some(next) = self
            .tokens
            .get(end + 1)
            .filter(|next| next.span.start == self.tokens[end].span.end && !is_argument(&next.kind))
        {
            if !matches!(self.written(next), "=" | ">")
                || !matches!(written.as_str(), "=" | "!" | "<")
            {
                break;
            }
            written.push_str(self.written(next));
            end += 1;
        }
        let habit = habits(&written).find(|habit| habit.is_test)?;
        let with_word =
            |word: &str| self.tokens.get(end + 1).is_some_and(|next| self.written(next) == word);
        if written == "begins" && with_word("with") {
            end += 1;
        }
        let inner = if self.tokens.get(end + 1).is_some_and(|next| self.written(next) == "(") {
            end + 2
        } else {
            end + 1
        };
        let following = self.tokens[inner..]
            .iter()
            .filter(|token| self.written(token) != "and" && self.written(token) != ",");
        let arguments = following
            .take_while(|token| is_argument(&token.kind))
            .map(|token| self.written(token).to_owned());
        let arguments: Vec<String> = arguments.collect();
        let arguments = if habit.word == "is in" && arguments.len() > 1 {
            vec![arguments.join(", ")]
        } else {
            arguments
        };
        let span = token.span.start..self.tokens[end].span.end;
        Some(
            CutError::new(span, format!("`{written}` is no test"))
                .remedy(format!("Here it is written … {}", habit.as_step(&arguments))),
        )
    }

    /// A step of ours written as a call: `upper({cell})`.
    pub(super) fn call_of_step(&self, at: usize) -> Option<CutError> {
        let (word, bracket) = (self.tokens.get(at.checked_sub(1)?)?, self.tokens.get(at)?);
        if word.kind != TokenKind::Word || self.written(bracket) != "(" {
            return None;
        }
        let (arguments, _) = self.call(at)?;
        // A bracket may be meant as a mark.
        if arguments.iter().any(|argument| matches!(argument.as_str(), "and" | "")) {
            return None;
        }
        let remedy = own_call(self.written(word), &arguments)?;
        Some(
            CutError::new(
                word.span.start..bracket.span.end,
                "Steps are no functions: what they work on stands before them, and a bar between",
            )
            .remedy(format!("Write {remedy}")),
        )
    }

    /// Texts and columns with a sign between them that adds them up: `{a} & "-" & {b}`.
    pub(super) fn added_up(&self, at: usize) -> Option<CutError> {
        let sign = self.tokens.get(at)?;
        let doubled =
            at > 0 && self.written(sign) == "|" && self.tokens[at - 1].span.end == sign.span.start;
        if !matches!(self.written(sign), "&" | "+") && !doubled {
            return None;
        }
        let is_piece =
            |token: &&Token| matches!(token.kind, TokenKind::Column(_) | TokenKind::Text(_));
        let is_sign = |token: &&Token| matches!(self.written(token), "&" | "+" | "|");
        let start = self.tokens[..at]
            .iter()
            .rposition(|token| !is_piece(&token) && !is_sign(&token))
            .map_or(0, |before| before + 1);
        let pieces = self.tokens[start..]
            .iter()
            .take_while(|token| is_piece(token) || is_sign(token))
            .filter(is_piece);
        let pieces: Vec<String> = pieces.map(|token| self.written(token).to_owned()).collect();
        (pieces.len() > 1).then(|| {
            CutError::new(sign.span.clone(), "Texts are not added up; they are put into one text")
                .remedy(format!("Write {}", joined(&pieces)))
        })
    }

    /// `chars 1-3`
    pub(super) fn range_with_hyphen(&self, at: usize) -> Option<CutError> {
        let (first, last) = (self.tokens.get(at.checked_sub(1)?)?, self.tokens.get(at)?);
        match (&first.kind, &last.kind) {
            (TokenKind::Number(a), TokenKind::Number(b))
                if *b < 0 && first.span.end == last.span.start =>
            {
                Some(
                    CutError::new(
                        first.span.start..last.span.end,
                        "From one place to another is written with two points",
                    )
                    .remedy(format!("Write {a}..{}", -b)),
                )
            }
            _ => None,
        }
    }

    /// `if {a} is "x" then first 2 else last 2` in the order it has here.
    fn condition_first(&self, at: usize) -> Option<String> {
        let place = |word: &str| {
            self.tokens[at..].iter().position(|token| self.written(token) == word).map(|n| at + n)
        };
        let between = |from: usize, to: usize| {
            let (start, end) =
                (self.tokens.get(from)?.span.start, self.tokens.get(to.checked_sub(1)?)?.span.end);
            self.source().get(start..end)
        };
        let then = place("then")?;
        let end = self.tokens.len() - 1;
        let otherwise = place("else").filter(|otherwise| *otherwise > then);
        let (condition, chain) =
            (self.condition_of(at + 1, then), between(then + 1, otherwise.unwrap_or(end))?);
        let rest = otherwise
            .and_then(|otherwise| between(otherwise, end))
            .map_or(String::new(), |rest| format!(" {rest}"));
        Some(format!(
            "What is taken stands first, then its condition: {chain} if {condition}{rest}"
        ))
    }

    /// A condition as it is written here, from one token up to another.
    fn condition_of(&self, from: usize, to: usize) -> String {
        let mut written: Vec<&str> = Vec::new();
        for token in &self.tokens[from..to] {
            written.push(match (self.written(token), written.last()) {
                ("=", Some(&"is" | &"value >" | &"value <")) => continue,
                ("=", _) => "is",
                (">", before) if before != Some(&"value") => "value >",
                ("<", before) if before != Some(&"value") => "value <",
                (other, _) => other,
            });
        }
        written.join(" ")
    }

    /// An argument of a call, from one token up to another; a call itself in our order.
    fn argument(&self, from: usize, to: usize) -> String {
        let (first, last) = (&self.tokens[from], &self.tokens[to - 1]);
        let written = &self.source()[first.span.start..last.span.end];
        if first.kind == TokenKind::Word && to == from + 1 {
            // A column is often written without its braces.
            return format!("{{{written}}}");
        }
        if first.kind == TokenKind::Word
            && let Some((arguments, end)) = self.call(from + 1)
            && end + 1 == to
        {
            let name = self.written(first);
            let habit =
                habits(name).find(|habit| !habit.is_test).map(|habit| habit.with(&arguments));
            return habit
                .or_else(|| own_call(name, &arguments))
                .unwrap_or_else(|| written.to_owned());
        }
        let has_sign = self.tokens[from..to]
            .iter()
            .any(|token| matches!(self.written(token), "=" | "<" | ">"));
        if has_sign { self.condition_of(from, to) } else { written.to_owned() }
    }

    /// The arguments of a call whose bracket is the token at `at`, the text that is worked on
    /// first, and the token that closes it.
    fn call(&self, at: usize) -> Option<(Vec<String>, usize)> {
        if self.written(self.tokens.get(at)?) != "(" {
            return None;
        }
        let mut depth = 0;
        let (mut arguments, mut is_text, mut start, mut end) = (Vec::new(), Vec::new(), at + 1, at);
        for (n, token) in self.tokens.iter().enumerate().skip(at) {
            match (self.written(token), depth) {
                ("(", _) => depth += 1,
                (",", 1) | (")", 1) => {
                    if start < n {
                        arguments.push(self.argument(start, n));
                        is_text.push(matches!(
                            self.tokens[start].kind,
                            TokenKind::Column(_) | TokenKind::Word
                        ));
                    }
                    (start, end) = (n + 1, n);
                    if self.written(token) == ")" {
                        break;
                    }
                }
                (")", _) => depth -= 1,
                _ if token.kind == TokenKind::End => return None,
                _ => {}
            }
        }
        // `find("-", {cell})`: what it works on is the column.
        if let Some(column) = is_text
            .iter()
            .position(|is_text| *is_text)
            .filter(|column| *column > 0 && !is_text[0] && arguments.len() == 2)
        {
            let text = arguments.remove(column);
            arguments.insert(0, text);
        }
        Some((arguments, end))
    }
}

/// A step of ours that was written as a call, in our order; its form where the arguments do not
/// make a cut.
fn own_call(name: &str, arguments: &[String]) -> Option<String> {
    let word = words().find(|word| word.name == name)?;
    let (text, rest) = arguments.split_first()?;
    let between = if name == "replace" { " with " } else { " " };
    let written = format!("{text} | {name} {}", rest.join(between));
    Some(if parse_cut(&written).is_ok() {
        written.trim_end().to_owned()
    } else {
        format!("{text} | {}", word.form)
    })
}

fn is_argument(kind: &TokenKind) -> bool {
    matches!(
        kind,
        TokenKind::Number(_)
            | TokenKind::Decimal
            | TokenKind::Text(_)
            | TokenKind::Regex { .. }
            | TokenKind::Column(_)
    )
}
