//! The few ways text is set apart. Each only repeats what the words or the layout say already.

use anstyle::{AnsiColor, Style};

/// What the eye should find first: names of new columns, the place of an error.
pub const STRONG: Style = Style::new().bold();
/// A command to type.
pub const COMMAND: Style = AnsiColor::Cyan.on_default();
/// What stopped the work.
pub const WRONG: Style = AnsiColor::Red.on_default().bold();
/// Findings.
pub const FINDING: Style = AnsiColor::Yellow.on_default();
/// What may be passed over.
pub const QUIET: Style = Style::new().dimmed();

/// A text in a style.
pub fn set(style: Style, text: impl std::fmt::Display) -> String {
    format!("{style}{text}{style:#}")
}

/// A printed text without what sets it apart.
pub fn plain(printed: &str) -> String {
    anstream::adapter::strip_str(printed).to_string()
}
