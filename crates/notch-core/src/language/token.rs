//! The text of a cut → tokens, each with its place.
//!
//! Texts are quoted by `"` or `'`, columns stand in braces, regexes between slashes. A token's
//! place is a range of bytes of the text, and errors count characters from 1. The tokens know
//! nothing of words: `first` and a column called first are the same token here.

use std::ops::Range;

use super::error::CutError;

/// A column as it is written: `{lot}`, `{"odd | name"}`, `{column 3}`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum ColumnRef {
    Name(String),
    /// By place, counted from 1.
    Place(usize),
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum TokenKind {
    /// Letters, digits and `_`.
    Word,
    /// A whole number, perhaps negative.
    Number(i64),
    /// `2.5`: kept as written.
    Decimal,
    /// `2nd`; `proper` is false for `2th`.
    Ordinal {
        n: i64,
        proper: bool,
    },
    /// A string with its escapes resolved.
    Text(String),
    Regex {
        pattern: String,
        flags: String,
    },
    Column(ColumnRef),
    /// Punctuation of the language: `|`, `(`, `)`, `,`, `=`, `?`, `..`, `<`, `<=`, `>`, `>=`.
    Symbol,
    /// A character that has no meaning outside quotes.
    Stray,
    /// After the last character.
    End,
}

#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Token {
    pub kind: TokenKind,
    pub span: Range<usize>,
}

/// Splits the text of a cut; the last token is always [`TokenKind::End`].
///
/// # Errors
/// An unclosed string, brace or regular expression, an unknown escape, a typographic quote, a
/// column reference with nothing in it.
pub(crate) fn tokens(source: &str) -> Result<Vec<Token>, CutError> {
    let mut reader = Reader { source, at: 0 };
    let mut found = Vec::new();
    loop {
        let token = reader.next()?;
        let done = token.kind == TokenKind::End;
        found.push(token);
        if done {
            return Ok(found);
        }
    }
}

const SYMBOLS: [&str; 11] = ["..", "<=", ">=", "|", "(", ")", ",", "=", "?", "<", ">"];
/// What a text stands in.
pub(crate) const QUOTES: [char; 2] = ['"', '\''];
const TYPOGRAPHIC: [(char, char); 10] = [
    ('“', '"'),
    ('”', '"'),
    ('„', '"'),
    ('‟', '"'),
    ('″', '"'),
    ('‘', '\''),
    ('’', '\''),
    ('‚', '\''),
    ('‛', '\''),
    ('′', '\''),
];

struct Reader<'s> {
    source: &'s str,
    at: usize,
}

impl<'s> Reader<'s> {
    fn rest(&self) -> &'s str {
        &self.source[self.at..]
    }

    fn next(&mut self) -> Result<Token, CutError> {
        self.skip_blanks_and_comments();
        let start = self.at;
        let Some(first) = self.rest().chars().next() else {
            return Ok(Token { kind: TokenKind::End, span: start..start });
        };
        let kind = match first {
            '"' | '\'' => self.text(first)?,
            '{' => self.column()?,
            '/' => self.regex()?,
            _ if is_name_character(first) => self.word_or_number(false),
            '-' if self.rest()[1..].starts_with(|c: char| c.is_ascii_digit()) => {
                self.at += 1;
                self.word_or_number(true)
            }
            _ => {
                if let Some(symbol) =
                    SYMBOLS.iter().find(|symbol| self.rest().starts_with(**symbol))
                {
                    self.at += symbol.len();
                    TokenKind::Symbol
                } else if let Some((_, straight)) =
                    TYPOGRAPHIC.iter().find(|(typographic, _)| *typographic == first)
                {
                    return Err(self.typographic(first, *straight));
                } else {
                    self.at += first.len_utf8();
                    TokenKind::Stray
                }
            }
        };
        Ok(Token { kind, span: start..self.at })
    }

    fn skip_blanks_and_comments(&mut self) {
        loop {
            let rest = self.rest();
            let trimmed = rest.trim_start();
            self.at += rest.len() - trimmed.len();
            if !trimmed.starts_with('#') {
                return;
            }
            self.at += trimmed.find('\n').unwrap_or(trimmed.len());
        }
    }

    fn word_or_number(&mut self, negative: bool) -> TokenKind {
        let rest = self.rest();
        let length = rest.find(|c| !is_name_character(c)).unwrap_or(rest.len());
        let word = &rest[..length];
        self.at += length;
        let figures = word.len() - word.trim_start_matches(|c: char| c.is_ascii_digit()).len();
        if figures == 0 {
            return TokenKind::Word;
        }
        // A figure too large for any table stays a number: the step that takes it says what it
        // wants.
        let n: i64 = word[..figures].parse().unwrap_or(i64::MAX);
        let n = if negative { -n } else { n };
        if figures == word.len() {
            let fraction = rest[length..].strip_prefix('.').map_or(0, |behind| {
                behind.len() - behind.trim_start_matches(|c: char| c.is_ascii_digit()).len()
            });
            if fraction > 0 {
                self.at += 1 + fraction;
                return TokenKind::Decimal;
            }
            return TokenKind::Number(n);
        }
        match &word[figures..] {
            suffix @ ("st" | "nd" | "rd" | "th") if !negative => {
                TokenKind::Ordinal { n, proper: suffix == ordinal_suffix(n) }
            }
            _ => TokenKind::Word,
        }
    }

    fn text(&mut self, quote: char) -> Result<TokenKind, CutError> {
        let start = self.at;
        let mut text = String::new();
        let mut characters = self.rest().char_indices().skip(1).peekable();
        while let Some((at, c)) = characters.next() {
            if c == quote {
                self.at += at + 1;
                return Ok(TokenKind::Text(text));
            }
            if c != '\\' {
                text.push(c);
                continue;
            }
            let (decoded, length) = escape(&self.rest()[at..]).map_err(|e| e.moved(start + at))?;
            text.push(decoded);
            while characters.next_if(|(next, _)| *next < at + length).is_some() {}
        }
        let error =
            CutError::new(start..self.source.len(), format!("This text has no closing {quote}"));
        Err(error.remedy(format!(
            "Put one after it, or take the one before it out: {}{quote}",
            &self.source[start..]
        )))
    }

    fn regex(&mut self) -> Result<TokenKind, CutError> {
        let start = self.at;
        let mut pattern = String::new();
        let mut characters = self.rest().char_indices().skip(1);
        while let Some((at, c)) = characters.next() {
            match c {
                '/' => {
                    let behind = &self.rest()[at + 1..];
                    let length = behind.find(|c| !is_name_character(c)).unwrap_or(behind.len());
                    let flags = behind[..length].to_owned();
                    self.at += at + 1 + length;
                    return Ok(TokenKind::Regex { pattern, flags });
                }
                '\\' => match characters.next() {
                    Some((_, '/')) => pattern.push('/'),
                    Some((_, other)) => pattern.extend(['\\', other]),
                    None => break,
                },
                _ => pattern.push(c),
            }
        }
        let error =
            CutError::new(start..self.source.len(), "This regular expression has no closing /")
                .remedy("A plain text stands in quotes: \"/\".");
        Err(CutError { quotes_missing: !self.source.contains(QUOTES), ..error })
    }

    fn column(&mut self) -> Result<TokenKind, CutError> {
        let start = self.at;
        let inside = &self.rest()[1..];
        let leading = inside.len() - inside.trim_start().len();
        if let Some(quote @ ('"' | '\'')) = inside[leading..].chars().next() {
            self.at += 1 + leading;
            let TokenKind::Text(name) = self.text(quote)? else {
                return Err(CutError::new(start..self.at, "A column's name was expected here"));
            };
            let rest = self.rest();
            self.at += rest.len() - rest.trim_start().len();
            if !self.rest().starts_with('}') {
                return Err(CutError::new(
                    start..self.at,
                    "The brace of this column is not closed",
                )
                .remedy("Write {\"name\"}."));
            }
            self.at += 1;
            return Ok(TokenKind::Column(ColumnRef::Name(name)));
        }
        let Some(end) = inside.find('}') else {
            return Err(CutError::new(
                start..self.source.len(),
                "The brace of this column is not closed",
            )
            .remedy("Write {name}."));
        };
        self.at += end + 2;
        column_ref(&inside[..end], start..self.at).map(TokenKind::Column)
    }

    fn typographic(&self, found: char, straight: char) -> CutError {
        let corrected: String = self
            .source
            .chars()
            .map(|c| {
                TYPOGRAPHIC.iter().find(|(typographic, _)| *typographic == c).map_or(c, |(_, s)| *s)
            })
            .collect();
        CutError::new(
            self.at..self.at + found.len_utf8(),
            format!("{found} is a typographic quote; a text stands in straight ones: {straight}"),
        )
        .remedy(format!("With straight quotes: {corrected}"))
    }
}

/// Reads what stands between the braces of a column.
///
/// # Errors
/// Nothing there, or place 0.
pub(crate) fn column_ref(inside: &str, span: Range<usize>) -> Result<ColumnRef, CutError> {
    let name = inside.trim();
    if name.is_empty() {
        return Err(CutError::new(span, "A column's name was expected between the braces")
            .remedy("A column without a name is taken by its place: {column 3}."));
    }
    let place = name
        .strip_prefix("column ")
        .map(str::trim)
        .filter(|figure| figure.bytes().all(|b| b.is_ascii_digit()))
        .and_then(|figure| figure.parse().ok());
    match place {
        Some(0) => Err(CutError::new(span, "Columns are counted from 1")),
        Some(place) => Ok(ColumnRef::Place(place)),
        None => Ok(ColumnRef::Name(name.to_owned())),
    }
}

/// Decodes the escape at the head of `text`: the character and how many bytes it took.
///
/// # Errors
/// An escape that texts do not have; places count from the backslash.
pub(crate) fn escape(text: &str) -> Result<(char, usize), CutError> {
    let mut characters = text.chars().skip(1);
    let decoded = match characters.next() {
        Some(c @ ('"' | '\'' | '\\')) => Some((c, 2)),
        Some('t') => Some(('\t', 2)),
        Some('n') => Some(('\n', 2)),
        Some('u') if text[2..].starts_with('{') => text.find('}').and_then(|end| {
            let code = u32::from_str_radix(&text[3..end], 16).ok()?;
            Some((char::from_u32(code)?, end + 1))
        }),
        _ => None,
    };
    decoded.ok_or_else(|| {
        let shown: String = text.chars().take(2).collect();
        CutError::new(
            0..shown.len(),
            format!("{shown} means nothing in a text, which knows \\\" \\' \\\\ \\t \\n \\u{{…}}"),
        )
        .remedy(format!(
            "A backslash itself is \\\\; a regular expression stands between slashes: /{shown}/."
        ))
    })
}

pub(crate) fn is_name_character(c: char) -> bool {
    c.is_alphanumeric() || c == '_' || is_combining(c)
}

/// Marks that belong to the letter before them, so that names in any script and form hold together.
fn is_combining(c: char) -> bool {
    !c.is_ascii()
        && unicode_segmentation::UnicodeSegmentation::graphemes(&*format!("a{c}"), true).count()
            == 1
}

/// The text of a string of the language, its escapes resolved.
///
/// # Errors
/// It is no string, or something stands beside it.
pub(crate) fn string(source: &str) -> Result<String, CutError> {
    let mut tokens = tokens(source)?.into_iter().map(|token| token.kind);
    match (tokens.next(), tokens.next()) {
        (Some(TokenKind::Text(text)), Some(TokenKind::End)) => Ok(text),
        _ => Err(CutError::new(0..source.len(), "This is not one text in quotes")),
    }
}

/// `st`, `nd`, `rd` or `th`.
pub(crate) fn ordinal_suffix(n: i64) -> &'static str {
    match (n % 10, n % 100) {
        (_, 11..=13) => "th",
        (1, _) => "st",
        (2, _) => "nd",
        (3, _) => "rd",
        _ => "th",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Tokens as they are told apart, each with its text.
    fn split(source: &str) -> String {
        let name = |token: &Token| match &token.kind {
            TokenKind::Word => "word".to_owned(),
            TokenKind::Number(n) => format!("number {n}"),
            TokenKind::Decimal => "decimal".to_owned(),
            TokenKind::Ordinal { n, proper } => format!("{n}th{}", if *proper { "" } else { "?" }),
            TokenKind::Text(text) => format!("text {text:?}"),
            TokenKind::Regex { pattern, flags } => format!("regex {pattern:?} {flags:?}"),
            TokenKind::Column(ColumnRef::Name(name)) => format!("column {name:?}"),
            TokenKind::Column(ColumnRef::Place(place)) => format!("place {place}"),
            TokenKind::Symbol => "symbol".to_owned(),
            TokenKind::Stray => "stray".to_owned(),
            TokenKind::End => "end".to_owned(),
        };
        match tokens(source) {
            Ok(found) => found
                .iter()
                .map(|token| format!("{}<{}>", name(token), &source[token.span.clone()]))
                .collect::<Vec<_>>()
                .join(" "),
            Err(error) => format!("{} at <{}>", error.message, &source[error.span]),
        }
    }

    #[test]
    fn texts_are_split_into_tokens_with_their_places() {
        for (source, wanted) in [
            ("chars 5..12", "word<chars> number 5<5> symbol<..> number 12<12> end<>"),
            ("-4..", "number -4<-4> symbol<..> end<>"),
            ("2..-2", "number 2<2> symbol<..> number -2<-2> end<>"),
            ("1.5..2", "decimal<1.5> symbol<..> number 2<2> end<>"),
            ("-0.5", "decimal<-0.5> end<>"),
            ("2nd 3th 11th 21st", "2th<2nd> 3th?<3th> 11th<11th> 21th<21st> end<>"),
            ("2nd_code 5pot", "word<2nd_code> word<5pot> end<>"),
            ("žluť数_1", "word<žluť数_1> end<>"),
            ("e\u{301}a", "word<e\u{301}a> end<>"),
            (
                "\"a\\\"b\\t\\u{e9}\" 'it\\'s'",
                "text \"a\\\"b\\té\"<\"a\\\"b\\t\\u{e9}\"> text \"it's\"<'it\\'s'> end<>",
            ),
            ("/a\\/b\\d/ix", "regex \"a/b\\\\d\" \"ix\"</a\\/b\\d/ix> end<>"),
            ("/a#b/ # c", "regex \"a#b\" \"\"</a#b/> end<>"),
            (
                "{Order #} {\"odd | }\"} { x }",
                "column \"Order #\"<{Order #}> column \"odd | }\"<{\"odd | }\"}> column \"x\"<{ x }> end<>",
            ),
            ("{column 3} {column x}", "place 3<{column 3}> column \"column x\"<{column x}> end<>"),
            ("a>=5<=b", "word<a> symbol<>=> number 5<5> symbol<<=> word<b> end<>"),
            ("@ - +", "stray<@> stray<-> stray<+> end<>"),
            ("# nothing", "end<>"),
            ("a # b\n| c", "word<a> symbol<|> word<c> end<>"),
            ("'a", "This text has no closing ' at <'a>"),
            (
                "\"a\\q\"",
                "\\q means nothing in a text, which knows \\\" \\' \\\\ \\t \\n \\u{…} at <\\q>",
            ),
            ("/a\\", "This regular expression has no closing / at </a\\>"),
            ("{a", "The brace of this column is not closed at <{a>"),
            ("99999999999999999999", "number 9223372036854775807<99999999999999999999> end<>"),
        ] {
            assert_eq!(split(source), wanted, "{source}");
        }
    }
}
