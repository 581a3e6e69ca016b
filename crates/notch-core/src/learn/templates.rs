//! Templates that may have made a piece: up to four pieces of the cell, with texts between.

use super::search::{Candidate, edges, kind_of, made_of, spans, ways_to};
use crate::language::{in_braces, quoted};
use crate::text::{Span, characters, is_word};

/// A part of a piece: a text, or what is made of the cell.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Part {
    Text(String),
    Field(String),
}

/// More fields are not guessed.
const MOST_FIELDS: usize = 4;
/// The number of ways of taking each field from a place that are put together.
const WAYS: usize = 3;
/// The number of places of the cell that each is looked for at.
const MOST_PLACES: usize = 4;
/// The largest number of templates of an example.
const MOST: usize = 80;
/// Longer pieces, in bytes, are no templates.
const LONGEST: usize = 120;
/// What a template says, and each of its fields and the characters between.
const TEMPLATE: u32 = 30;
const FIELD: u32 = 14;
const SIGN: u32 = 4;
const LETTER: u32 = 12;
/// A letter or digit between that stands in the cell as well.
const CONSTANT: u32 = 40;

/// The templates with what they say, of a column of that name.
pub(super) fn templates(cell: &str, piece: &str, column: &str) -> Vec<(u32, String)> {
    // Double quotes would end the template, so single ones stand in it.
    let column = in_braces(column);
    if column.contains('\'') {
        return Vec::new();
    }
    let column = &column[1..column.len() - 1].replace('"', "'");
    // A letter or digit that stands in the cell as well may be a constant, or taken from there.
    let mut ways: Vec<Vec<Part>> =
        [LETTER, CONSTANT].iter().filter_map(|letter| parted(cell, piece, *letter)).collect();
    ways.dedup();
    ways.iter().flat_map(|parts| template(cell, parts, column)).collect()
}

/// The templates of these parts; `column` is the text in braces.
fn template(cell: &str, parts: &[Part], column: &str) -> Vec<(u32, String)> {
    let fields = parts.iter().filter(|part| matches!(part, Part::Field(_))).count();
    let literals: String = parts
        .iter()
        .map(|part| match part {
            Part::Text(text) => text.as_str(),
            Part::Field(_) => "",
        })
        .collect();
    // Zeros are filled up with `pad`.
    let is_filler = !literals.is_empty() && literals.bytes().all(|b| b == b'0');
    let goes_on = parts.windows(2).any(|pair| match pair {
        [Part::Field(field), Part::Text(text)] => {
            let kind = |c: Option<char>| c.filter(|c| is_word(*c)).map(kind_of);
            let end = kind(field.chars().next_back());
            end.is_some() && end == kind(text.chars().next())
        }
        _ => false,
    });
    // A run that goes on as a text is mistyped rather than meant.
    if !(1..=MOST_FIELDS).contains(&fields) || parts.len() < 2 || is_filler || goes_on {
        return Vec::new();
    }
    // A letter or digit that is no piece of the cell is a constant of this one row, perhaps.
    let constant = literals.chars().filter(|c| is_word(*c) && cell.contains(*c)).count();
    let words = literals.chars().filter(|c| is_word(*c)).count();
    let cost = TEMPLATE
        + SIGN * characters::count(&literals) as u32
        + (LETTER - SIGN) * words as u32
        + CONSTANT * constant as u32;
    let mut made: Vec<(u32, String)> = vec![(cost, String::new())];
    let mut only = None;
    for part in parts {
        match part {
            Part::Text(text) => {
                let Some(text) = literal(text) else { return Vec::new() };
                made.iter_mut().for_each(|(_, written)| written.push_str(&text));
            }
            Part::Field(source) => {
                let mut ways = ways(cell, source);
                ways.retain(|way| !way.cut().contains('\''));
                let mut longer = Vec::new();
                for (cost, written) in &made {
                    for way in &ways {
                        let step = way.cut().replace('"', "'");
                        let field = match step.is_empty() {
                            true => format!("{{{column}}}"),
                            false => format!("{{{column} | {step}}}"),
                        };
                        longer.push((cost + FIELD + way.cost, format!("{written}{field}")));
                    }
                }
                longer.sort();
                longer.truncate(MOST);
                made = longer;
                only = Some(ways);
            }
        }
    }
    let whole = made.into_iter().map(|(cost, written)| (cost, format!("\"{written}\"")));
    // Of one field the steps that make it stand before the template.
    match only.filter(|ways| fields == 1 && ways.iter().all(|way| !way.steps.is_empty())) {
        None => whole.collect(),
        Some(ways) => {
            let texts = parts.iter().map(|part| match part {
                Part::Text(text) => literal(text).unwrap_or_default(),
                Part::Field(_) => "{it}".to_owned(),
            });
            let template = texts.collect::<String>();
            let steps = |way: Candidate| {
                (cost + FIELD + way.cost, format!("{} | \"{template}\"", way.cut()))
            };
            ways.into_iter().map(steps).collect()
        }
    }
}

/// A text as it is written within a template; `None` where that is not possible on one line.
fn literal(text: &str) -> Option<String> {
    let quoted = quoted(text)?;
    Some(quoted[1..quoted.len() - 1].replace('{', "{{").replace('}', "}}"))
}

/// The ways to make a field of a cell, the cheapest of each place that it may be taken from.
fn ways(cell: &str, field: &str) -> Vec<Candidate> {
    if field == cell {
        return vec![Candidate { cost: 0, steps: Vec::new() }];
    }
    let mut ways: Vec<Candidate> = Vec::new();
    let mut seen: Vec<Span> = Vec::new();
    for (place, _) in places_of(cell) {
        let source = &cell[place.clone()];
        let may_be = source == field
            || source.to_lowercase() == field.to_lowercase()
            || source == field.trim_start_matches('0');
        if !may_be || seen.contains(&place) || seen.len() == MOST_PLACES {
            continue;
        }
        let made = if source == field { None } else { made_of(source, field) };
        if made.is_none() && source != field {
            continue;
        }
        let mut of_place = match source == cell {
            true => vec![Candidate { cost: 0, steps: Vec::new() }],
            false => ways_to(cell, &place, WAYS),
        };
        for way in &mut of_place {
            if let Some(made) = &made {
                way.cost += made.cost + 8;
                way.steps.push(made.step.clone());
            }
        }
        seen.push(place);
        ways.extend(of_place);
    }
    ways.sort();
    ways
}

/// A piece as pieces of a cell with texts between, so that there is as little text as can be;
/// `None` where nothing of it is of the cell. A letter that stands in the cell as well costs
/// `constant` where it is a text.
fn parted(cell: &str, piece: &str, constant: u32) -> Option<Vec<Part>> {
    if piece.len() > LONGEST {
        return None;
    }
    let texts: Vec<(&str, u32)> =
        places_of(cell).into_iter().map(|(place, more)| (&cell[place], more)).collect();
    let folded = cell.to_lowercase();
    // For each place of the piece the least that the rest of it costs, and what stands there.
    let mut best: Vec<Option<(u32, usize, bool)>> = vec![None; piece.len() + 1];
    best[piece.len()] = Some((0, piece.len(), false));
    for (at, c) in piece.char_indices().rev() {
        let rest = &piece[at..];
        let mut least: Option<(u32, usize, bool)> = None;
        let mut take = |cost: u32, length: usize, is_field: bool| {
            let Some((after, ..)) = best[at + length] else { return };
            if least.is_none_or(|(known, ..)| cost + after < known) {
                least = Some((cost + after, length, is_field));
            }
        };
        let stands = c.to_lowercase().all(|c| folded.contains(c));
        let letter = if stands { constant } else { LETTER };
        take(if is_word(c) { letter } else { SIGN }, c.len_utf8(), false);
        // Zeros in front may be filled up.
        let zeros = rest.len() - rest.trim_start_matches('0').len();
        for (text, more) in &texts {
            for (from, filled) in [(0, 0), (zeros, 6)] {
                let begins_with_digit = text.starts_with(|c: char| c.is_ascii_digit());
                if filled > 0 && (zeros == 0 || !begins_with_digit) {
                    continue;
                }
                let length = from + text.len();
                let stands = rest.get(from..length);
                let cost = match stands {
                    Some(stands) if stands == *text => 0,
                    Some(stands) if stands.to_lowercase() == text.to_lowercase() => 8,
                    _ => continue,
                };
                let within = |at: usize| is_within(piece, at);
                let cuts = u32::from(within(at)) + u32::from(within(at + length));
                take(FIELD + cost + more + filled + 7 * cuts, length, true);
            }
        }
        best[at] = least;
    }
    let mut parts: Vec<Part> = Vec::new();
    let mut at = 0;
    while at < piece.len() {
        let (_, length, is_field) = best[at]?;
        let text = &piece[at..at + length];
        match (is_field, parts.last_mut()) {
            (true, _) => parts.push(Part::Field(text.to_owned())),
            (false, Some(Part::Text(known))) => known.push_str(text),
            (false, _) => parts.push(Part::Text(text.to_owned())),
        }
        at += length;
    }
    parts.iter().any(|part| matches!(part, Part::Field(_))).then_some(parts)
}

/// Where fields may lie, with how much more they say: runs of sections, the first letter of a word,
/// the first and last few characters of a code.
fn places_of(cell: &str) -> Vec<(Span, u32)> {
    let mut places: Vec<(Span, u32)> = spans(cell)
        .into_iter()
        .filter(|span| cell[span.clone()].trim() == &cell[span.clone()])
        .map(|span| (span, 0))
        .collect();
    places.push((0..cell.len(), 0));
    for edge in edges(cell).windows(2) {
        let section = &cell[edge[0]..edge[1]];
        if !section.chars().all(is_word) {
            continue;
        }
        for n in 1..characters::count(section).min(5) {
            // One digit stands for nothing.
            if n == 1 && section.starts_with(|c: char| c.is_ascii_digit()) {
                continue;
            }
            let more = if n == 1 { 6 } else { 12 };
            if let Some(at) = characters::notch_after(section, n) {
                places.push((edge[0]..edge[0] + at, more));
            }
            if let Some(at) = characters::notch_before_last(section, n).filter(|_| n > 1) {
                places.push((edge[0] + at..edge[1], more));
            }
        }
    }
    places
}

/// Whether a place lies within a run of one kind of character.
fn is_within(text: &str, at: usize) -> bool {
    let kind = |c: Option<char>| c.filter(|c| is_word(*c)).map(kind_of);
    let before = kind(text[..at].chars().next_back());
    before.is_some() && before == kind(text[at..].chars().next())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pieces_are_parted_with_as_little_text_as_can_be() {
        let parted = |cell: &str, piece: &str| -> String {
            let parts = parted(cell, piece, CONSTANT).unwrap_or_default();
            let shown = |part: &Part| match part {
                Part::Text(text) => text.clone(),
                Part::Field(text) => format!("<{text}>"),
            };
            parts.iter().map(shown).collect()
        };
        for (cell, piece, wanted) in [
            ("GR-2026-TIL", "2026/GR", "<2026>/<GR>"),
            ("Moran, Iris", "I. Moran", "<I>. <Moran>"),
            ("iris.moran@fernhollow.example", "Iris Moran", "<Iris> <Moran>"),
            ("Iris Moran", "imoran", "<i><moran>"),
            ("LOT 966", "LOT-00966", "<LOT>-<00966>"),
            ("22415", "FH-22415", "FH-<22415>"),
            ("oak", "xyz", ""),
        ] {
            assert_eq!(parted(cell, piece), wanted, "{piece} of {cell}");
        }
    }
}
