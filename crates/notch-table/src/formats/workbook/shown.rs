//! Values of cells as a person sees them, as far as the file tells.

/// A number in its shortest exact form, without an exponent.
pub(super) fn number(value: f64) -> String {
    if value == 0.0 { "0".to_owned() } else { value.to_string() }
}

/// A whole number through a format of zeros and fixed characters, such as `00000`, `000-00`,
/// `"FH-"0000`; `None` when the format is another one or the number is not whole. Below zero the
/// format's second section says how it is shown, or else a minus stands before what the first one
/// gives (ECMA-376 Part 1, section 18.8.31).
pub(super) fn coded(value: f64, format: &str) -> Option<String> {
    if value < 0.0 {
        return match format.split(';').nth(1) {
            None | Some("") => coded(-value, format).map(|shown| format!("-{shown}")),
            Some(below) => coded(-value, below),
        };
    }
    // Whole numbers up to here are exact in 64 bits of floating point.
    if value.fract() != 0.0 || value > 9_007_199_254_740_992.0 {
        return None;
    }
    let pieces = code_format(format)?;
    let zeros = pieces.iter().filter(|piece| **piece == Piece::Zero).count();
    let digits = format!("{:0zeros$}", value as u64);
    // Digits more than zeros stand where the first zero does.
    let mut digits = digits.split_at(digits.len() - zeros);
    let mut shown = String::new();
    let mut first = true;
    for piece in pieces {
        match piece {
            Piece::Zero => {
                if std::mem::take(&mut first) {
                    shown.push_str(digits.0);
                }
                let (digit, rest) = digits.1.split_at(1);
                shown.push_str(digit);
                digits.1 = rest;
            }
            Piece::Fixed(text) => shown.push_str(&text),
        }
    }
    Some(shown)
}

#[derive(PartialEq, Eq)]
enum Piece {
    Zero,
    Fixed(String),
}

/// The format taken apart, when it is one for codes: at least two zeros, or one and a fixed
/// character, and nothing that calculates.
fn code_format(format: &str) -> Option<Vec<Piece>> {
    let mut pieces = Vec::new();
    let mut rest = format.split(';').next().unwrap_or_default().chars();
    while let Some(c) = rest.next() {
        pieces.push(match c {
            '0' => Piece::Zero,
            '\\' => Piece::Fixed(rest.next()?.to_string()),
            '"' => {
                let text: String = rest.by_ref().take_while(|c| *c != '"').collect();
                Piece::Fixed(text)
            }
            // The width of a character left blank; the fill of a column.
            '_' => Piece::Fixed(rest.next().map(|_| " ".to_owned())?),
            '-' | '/' | ' ' | '(' | ')' | ':' | '+' => Piece::Fixed(c.to_string()),
            _ => return None,
        });
    }
    let zeros = pieces.iter().filter(|piece| **piece == Piece::Zero).count();
    (zeros > 1 || (zeros == 1 && pieces.len() > 1)).then_some(pieces)
}

/// A code that a file shows instead of its value: the digits of the value, with zeros in front or
/// characters between that no grouping has.
pub(super) fn shown_code(value: f64, shown: &str) -> bool {
    if value < 0.0 {
        return shown.strip_prefix(['-', '−']).is_some_and(|shown| shown_code(-value, shown));
    }
    if value.fract() != 0.0 {
        return false;
    }
    let digits: String = shown.chars().filter(char::is_ascii_digit).collect();
    let is_value = digits.trim_start_matches('0') == number(value).trim_start_matches('0');
    let others: Vec<char> = shown.chars().filter(|c| !c.is_ascii_digit()).collect();
    let grouping = |c: &char| matches!(c, ',' | '.' | '\'' | '’') || c.is_whitespace();
    let in_front = digits.starts_with('0') && digits.len() > 1;
    let fixed = others.iter().any(|c| !grouping(c));
    let calculates =
        others.iter().any(|c| matches!(c, '%' | '$' | '€' | '£') || c.is_alphabetic() && !in_front);
    is_value && !calculates && (in_front || fixed)
}

/// A date and time in ISO 8601: `2031-05-12`, `2031-05-12T14:30:00`; the time alone when there is
/// no day.
pub(super) fn date(
    (year, month, day, hour, minute, second, milli): (u16, u8, u8, u8, u8, u8, u16),
    serial: f64,
) -> String {
    let fraction = if milli > 0 { format!(".{milli:03}") } else { String::new() };
    let time = format!("{hour:02}:{minute:02}:{second:02}{fraction}");
    let is_midnight = (hour, minute, second, milli) == (0, 0, 0, 0);
    match (serial < 1.0, is_midnight) {
        (true, _) => time,
        (false, true) => format!("{year:04}-{month:02}-{day:02}"),
        (false, false) => format!("{year:04}-{month:02}-{day:02}T{time}"),
    }
}

/// Days as a length of time: `26:30:00`.
pub(super) fn duration(days: f64) -> String {
    let seconds = (days * 86_400.0).round().abs() as u64;
    let sign = if days < 0.0 { "-" } else { "" };
    format!("{sign}{:02}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_and_codes_as_a_person_sees_them() {
        for (value, format, wanted) in [
            (417.0, "00000", Some("00417")),
            (1234567.0, "00000", Some("1234567")),
            (12345.0, "000-00", Some("123-45")),
            (45.0, "000\\-00", Some("000-45")),
            (7.0, "\"FH-\"0000", Some("FH-0007")),
            (5.0, "(000) 00;-0", Some("(000) 05")),
            (5.0, "0", None),
            (5.0, "0.00", None),
            (5.0, "#,##0", None),
            (5.0, "General", None),
            (5.5, "00000", None),
            (-5.0, "00000", Some("-00005")),
            (-7.0, "000", Some("-007")),
            (-7.0, "000;-0", Some("-7")),
            (-7.0, "000;(000)", Some("(007)")),
            (-5.5, "000", None),
            (-5.0, "0", None),
            (5.0, "[Red]000", None),
        ] {
            assert_eq!(coded(value, format).as_deref(), wanted, "{value} {format}");
        }
        for (value, wanted) in [
            (20160.0, "20160"),
            (1.23e15, "1230000000000000"),
            (0.1, "0.1"),
            (-0.0, "0"),
            (1e-7, "0.0000001"),
        ] {
            assert_eq!(number(value), wanted);
        }
        for (value, shown, wanted) in [
            (417.0, "00417", true),
            (12345.0, "123-45", true),
            (1234.0, "1,234", false),
            (1234.0, "1 234", false),
            (1234.0, "1234", false),
            (0.12, "12%", false),
            (12.0, "12 €", false),
            (12.0, "12.00", false),
            (0.0, "0", false),
            (7.0, "FH-0007", true),
            (-7.0, "-007", true),
            (-7.0, "-7", false),
            (-7.0, "007", false),
        ] {
            assert_eq!(shown_code(value, shown), wanted, "{value} {shown}");
        }
        assert_eq!(date((2031, 5, 12, 0, 0, 0, 0), 47979.0), "2031-05-12");
        assert_eq!(date((2031, 5, 12, 14, 30, 0, 0), 47979.6), "2031-05-12T14:30:00");
        assert_eq!(date((1899, 12, 31, 14, 30, 1, 250), 0.6), "14:30:01.250");
        assert_eq!(duration(1.104_166_666_7), "26:30:00");
    }
}
