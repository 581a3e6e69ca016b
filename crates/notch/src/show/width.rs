//! How wide text is on a terminal, and text made visible.

pub use keen_notch_table::visible;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

/// The width of a line when nothing says how wide the window is, in terminal columns.
const USUAL: usize = 120;

/// How wide the window after standard output or standard error is, in terminal columns.
pub fn window() -> usize {
    terminal_size::terminal_size()
        .or_else(|| terminal_size::terminal_size_of(std::io::stderr()))
        .map_or(USUAL, |(width, _)| usize::from(width.0).max(40))
}

/// How wide a text is, in terminal columns.
pub fn width(text: &str) -> usize {
    text.width()
}

/// The text cut to a width, with an ellipsis where something was cut off.
pub fn clipped(text: &str, most: usize) -> String {
    if width(text) <= most {
        return text.to_owned();
    }
    let mut kept = String::new();
    let mut used = 0;
    for character in text.graphemes(true) {
        used += width(character);
        if used + 1 > most {
            break;
        }
        kept.push_str(character);
    }
    kept.push('…');
    kept
}

/// Breaks a sentence into lines of at most `most` columns, each but the first after `indent`
/// blanks.
pub fn fold(text: &str, most: usize, indent: usize) -> String {
    let mut folded = String::new();
    let mut used = 0;
    for word in text.split(' ') {
        let wide = width(word);
        if used > 0 && used + 1 + wide > most {
            folded.push('\n');
            folded.push_str(&" ".repeat(indent));
            used = indent;
        } else if used > 0 {
            folded.push(' ');
            used += 1;
        }
        folded.push_str(word);
        used += wide;
    }
    folded
}

/// `1 row`, `2 rows`.
pub fn counted(n: u64, noun: &str) -> String {
    format!("{n} {noun}{}", if n == 1 { "" } else { "s" })
}

/// A share in percent with one figure after the point; with four where one would make it nothing
/// or all.
pub fn share(part: u64, of: u64) -> String {
    match part as f64 * 100.0 / of.max(1) as f64 {
        percent if (percent > 0.0 && percent < 0.1) || (percent > 99.9 && percent < 100.0) => {
            format!("{percent:.4}%")
        }
        percent => format!("{percent:.1}%"),
    }
}
