//! `"{house}/{year}"`: a string at the head of a chain, with columns or whole cuts in braces.

use std::ops::Range;

use super::error::CutError;
use super::syntax::{Cut, Source, TemplatePiece};
use super::token::{ColumnRef, column_ref, escape};

/// Reads a cut in braces: the text, where in it the cut begins, and the source it starts from when
/// it stands before that.
pub(super) type InnerCut = fn(&str, usize, Option<Source>) -> Result<Cut, CutError>;

/// Reads the string that stands at `span` of `source`, its quotes included.
///
/// After a bar and in brackets that stand there, a field may be about the text `reached`.
///
/// # Errors
/// A brace without its other half, an empty field, a field that is no cut.
pub(super) fn template(
    source: &str,
    span: Range<usize>,
    reached: bool,
    inner_cut: InnerCut,
) -> Result<Vec<TemplatePiece>, CutError> {
    let end = span.end - 1;
    let mut pieces = Vec::new();
    let mut literal = String::new();
    let mut at = span.start + 1;
    while at < end {
        let rest = &source[at..end];
        let Some(c) = rest.chars().next() else { break };
        match c {
            '{' | '}' if rest[1..].starts_with(c) => {
                literal.push(c);
                at += 2;
            }
            '}' => {
                return Err(CutError::new(at..at + 1, "This brace closes nothing")
                    .remedy("A brace that is text is doubled: }}."));
            }
            '{' => {
                let Some(length) = field_length(&rest[1..]) else {
                    let error = CutError::new(at..at + 1, "This brace is not closed");
                    // `"{from | after ", "}"`: a quote within the braces has ended the text.
                    return Err(match source[end..].find('}') {
                        Some(close) => {
                            let (quote, other) = if source[end..].starts_with('"') {
                                ('"', '\'')
                            } else {
                                ('\'', '"')
                            };
                            let field =
                                source[at..end + close + 1].replace(quote, &other.to_string());
                            error.remedy(format!(
                                "The {quote} after `{}` ends the text. Within it write the other \
                                quotes: {field}",
                                source[at..end].trim_end()
                            ))
                        }
                        None => {
                            error.remedy("A brace that is text is doubled: {{; a column is {name}.")
                        }
                    });
                };
                if !literal.is_empty() {
                    pieces.push(TemplatePiece::Literal(std::mem::take(&mut literal)));
                }
                pieces.push(field(&rest[1..1 + length], at + 1, reached, inner_cut)?);
                at += length + 2;
            }
            '\\' => {
                let (decoded, length) = escape(rest).map_err(|e| e.moved(at))?;
                literal.push(decoded);
                at += length;
            }
            _ => {
                literal.push(c);
                at += c.len_utf8();
            }
        }
    }
    if !literal.is_empty() || pieces.is_empty() {
        pieces.push(TemplatePiece::Literal(literal));
    }
    Ok(pieces)
}

/// How many bytes stand before the brace that closes a field; texts in quotes and columns in braces
/// are passed over.
fn field_length(inside: &str) -> Option<usize> {
    let mut quote = None;
    let mut escaped = false;
    let mut depth = 0;
    for (at, c) in inside.char_indices() {
        match (quote, c) {
            (_, '\\') => {
                escaped = !escaped;
                continue;
            }
            // A cut in a field may name columns itself.
            (None, '{') => depth += 1,
            (None, '}') if depth > 0 => depth -= 1,
            (None, '}') => return Some(at),
            (None, '"' | '\'') => quote = Some(c),
            (Some(open), _) if open == c && !escaped => quote = None,
            _ => {}
        }
        escaped = false;
    }
    // An apostrophe in a column's name is no quote.
    inside.find('}')
}

/// One field. Its text is a column's name, or a cut that begins with a column's name.
fn field(
    raw: &str,
    at: usize,
    reached: bool,
    inner_cut: InnerCut,
) -> Result<TemplatePiece, CutError> {
    let span = at..at + raw.len();
    // Quotes of the string's own kind are written with a backslash; then places inside are the
    // whole field's.
    let exact = !raw.contains('\\');
    let inside = if exact { raw.to_owned() } else { unescape(raw).map_err(|e| e.moved(at))? };
    let head = head_length(&inside);
    let name = inside[..head].trim();
    let unquoted = [('"', '"'), ('\'', '\'')]
        .iter()
        .find_map(|(open, close)| name.strip_prefix(*open)?.strip_suffix(*close))
        .filter(|inner| !inner.is_empty());
    let column = match unquoted {
        Some(quoted) => ColumnRef::Name(quoted.to_owned()),
        None => column_ref(name, span.clone())?,
    };
    let placed =
        |e: CutError| if exact { e.moved(at) } else { CutError { span: span.clone(), ..e } };
    let about_reached = match name {
        _ if !reached || unquoted.is_some() => None,
        IT => Some(inner_cut(&inside, head, Some(Source::Reached))),
        _ => Some(inner_cut(&inside, 0, None)),
    };
    let reached = about_reached.map(|cut| Box::new(cut.map_err(placed)));
    let cut = if head < inside.len() {
        let cut =
            inner_cut(&inside, head, Some(Source::Column(column.clone(), 0..0))).map_err(placed);
        match (cut, &reached) {
            (Ok(cut), _) => Some(Box::new(cut)),
            // What is no cut of a column may be one of the text reached.
            (Err(_), Some(reached)) if reached.is_ok() => None,
            (Err(error), _) => return Err(error),
        }
    } else {
        None
    };
    Ok(TemplatePiece::Field { inside: inside.trim().to_owned(), column, cut, reached, span })
}

/// The text reached, in braces and in conditions.
pub(crate) const IT: &str = "it";

/// How much of a field is the column's name: up to a bar or one of the words that join chains.
fn head_length(inside: &str) -> usize {
    let trimmed = inside.trim_start();
    if let Some(quote @ ('"' | '\'')) = trimmed.chars().next()
        && let Some(close) = trimmed[1..].find(quote)
    {
        return inside.len() - trimmed.len() + close + 2;
    }
    ["|", " else ", " then ", " if "]
        .iter()
        .filter_map(|joint| inside.find(joint))
        .min()
        .unwrap_or(inside.len())
}

fn unescape(raw: &str) -> Result<String, CutError> {
    let mut text = String::with_capacity(raw.len());
    let mut at = 0;
    while let Some(c) = raw[at..].chars().next() {
        let (decoded, length) = if c == '\\' {
            escape(&raw[at..]).map_err(|e| e.moved(at))?
        } else {
            (c, c.len_utf8())
        };
        text.push(decoded);
        at += length;
    }
    Ok(text)
}
