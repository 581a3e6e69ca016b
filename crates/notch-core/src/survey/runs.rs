//! The runs of a shape, and what they say of the texts that have it.

use super::PARTS;

/// Shapes of days, how they are read, and the regular expression that finds one.
pub(super) const DAYS: [(&str, &str, &str); 2] = [
    ("[d4]-[d2]-[d2]", "YYYY-MM-DD", r"/\d{4}-\d{2}-\d{2}/"),
    ("[d2].[d2].[d4]", "DD.MM.YYYY", r"/\d{2}\.\d{2}\.\d{4}/"),
];

/// What figures in texts of many words are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Figures {
    /// A number, as the step `number` takes it.
    Number,
    /// A day, which would be three numbers: how it is read, and the regular expression that finds
    /// one.
    Day(&'static str, &'static str),
}

/// The characters that may divide texts of a shape, in their order, and the shapes between them;
/// `None` where blanks or a day stand in it, which are more than divided parts. The points divide
/// even between figures; others do not where few figures or a unit follow. What stands in brackets
/// is one part where it can be.
pub(super) fn divided_shape(shape: &str, points: &str) -> Option<(String, Vec<String>)> {
    if DAYS.iter().any(|(day, ..)| shape.contains(day)) {
        return None;
    }
    let runs = runs_of(shape);
    let kind =
        |n: Option<usize>| n.and_then(|n| runs.get(n)).map(|(kind, length)| (*kind, *length));
    let is_divider = |n: usize| {
        let of = runs[n].0;
        let in_a_number = || match (kind(n.checked_sub(1)), kind(Some(n + 1)), kind(Some(n + 2))) {
            _ if !matches!(of, '.' | ',') || points.contains(of) => false,
            (Some(('d', _)), Some(('d', behind)), unit) => {
                behind < 4 || matches!(unit, Some(('U' | 'l', _)))
            }
            _ => false,
        };
        of == 's' || of.is_ascii_punctuation() && !"()[]<>{}\"'".contains(of) && !in_a_number()
    };
    let is_in_brackets = |n: usize| {
        BRACKETS.iter().any(|(open, close)| {
            let place = |of: &str, runs: &[(char, usize)]| {
                runs.iter().rposition(|(kind, _)| of.starts_with(*kind))
            };
            place(open, &runs[..n]) > place(close, &runs[..n])
                && runs[n..].iter().any(|(kind, _)| close.starts_with(*kind))
        })
    };
    let (inside, outside): (Vec<usize>, Vec<usize>) =
        (0..runs.len()).filter(|n| is_divider(*n)).partition(|n| is_in_brackets(*n));
    // A cut divides wherever one of its characters stands.
    let are_whole = inside.iter().all(|n| outside.iter().all(|other| runs[*other].0 != runs[*n].0));
    let (mut dividers, mut parts, mut from) = (String::new(), Vec::new(), 0);
    for (n, (of, length)) in runs.iter().enumerate() {
        if outside.contains(&n) || (!are_whole && inside.contains(&n)) {
            if *of == 's' && *length > 1 {
                return None;
            }
            dividers.push(if *of == 's' { ' ' } else { *of });
            parts.push(written(&runs[from..n]));
            from = n + 1;
        }
    }
    parts.push(written(&runs[from..]));
    (parts.len() <= PARTS).then_some((dividers, parts))
}

/// The numbers and days in a text of these runs; `days` says how days look.
pub(super) fn figures_of(
    mut runs: &[(char, usize)],
    days: &[(Vec<(char, usize)>, Figures)],
) -> Vec<Figures> {
    // How many runs of digits are joined to one before them by a point or comma.
    let joined = |behind: &[(char, usize)]| {
        behind.chunks_exact(2).take_while(|pair| matches!(pair, [('.' | ',', 1), ('d', _)])).count()
    };
    let mut figures = Vec::new();
    while let [(kind, _), rest @ ..] = runs {
        let day = days
            .iter()
            .find(|(day, _)| runs.strip_prefix(&day[..]).is_some_and(|behind| joined(behind) == 0));
        if let Some((day, is)) = day {
            figures.push(*is);
            runs = &runs[day.len()..];
            continue;
        }
        runs = rest;
        if *kind == 'd' {
            // They are one number, but those with several points.
            let (further, behind) = rest.split_at(2 * joined(rest));
            let points = further.iter().filter(|(kind, _)| *kind == '.').count();
            figures.extend(std::iter::repeat_n(
                Figures::Number,
                if points > 1 { 1 + further.len() / 2 } else { 1 },
            ));
            runs = behind;
        }
    }
    figures
}

/// The shape of these runs.
pub(super) fn written(runs: &[(char, usize)]) -> String {
    let mut shape = String::new();
    for (of, length) in runs {
        match "Ulcds".contains(*of) {
            true if *length == 1 => shape.push_str(&format!("[{of}]")),
            true => shape.push_str(&format!("[{of}{length}]")),
            false if *of == '[' => shape.push_str("[[]"),
            false => shape.push(*of),
        }
    }
    shape
}

/// Whether brackets are opened or closed in a shape that are not closed or opened there.
pub(super) fn has_open_brackets(shape: &str) -> bool {
    let runs = runs_of(shape);
    let count = |of: &str| runs.iter().filter(|(kind, _)| of.starts_with(*kind)).count();
    BRACKETS.iter().any(|(open, close)| count(open) != count(close))
}

/// What may stand around a section.
pub(super) const BRACKETS: [(&str, &str); 3] = [("(", ")"), ("[", "]"), ("<", ">")];

/// Whether a shape is that of a number with decimals after this character; a unit may follow.
pub(super) fn is_decimal(shape: &str, point: char) -> bool {
    let unsigned = shape.trim_start_matches(['-', '+']);
    matches!(runs_of(unsigned)[..], [('d', _), (between, 1), ('d', _)] | [('d', _), (between, 1), ('d', _), ('U' | 'l', _)] if between == point)
}

pub(super) fn ends_in_digits(shape: &str) -> bool {
    shape.rfind('[').is_some_and(|at| shape[at..].starts_with("[d") && shape.ends_with(']'))
}

/// The kinds and lengths of the runs of a shape; what stands for itself comes with its own
/// character.
pub(super) fn runs_of(shape: &str) -> Vec<(char, usize)> {
    let mut runs = Vec::new();
    let mut rest = shape;
    while let Some(c) = rest.chars().next() {
        if let Some(behind) = rest.strip_prefix("[[]") {
            runs.push((c, 1));
            rest = behind;
        } else if let Some((inside, behind)) =
            rest.strip_prefix('[').and_then(|inside| inside.split_once(']'))
        {
            let kind = inside.chars().next().unwrap_or('?');
            runs.push((kind, inside[kind.len_utf8()..].parse().unwrap_or(1)));
            rest = behind;
        } else {
            runs.push((c, 1));
            rest = &rest[c.len_utf8()..];
        }
    }
    runs
}
