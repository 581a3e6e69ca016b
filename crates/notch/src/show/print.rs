//! Text to the screen, where the reader may have gone away.

use std::io::Write;

use keen_notch_table::TableError;

/// Prints to standard output.
///
/// # Errors
/// It is closed, or the disk it goes to is full.
pub fn print(text: impl std::fmt::Display) -> Result<(), TableError> {
    let mut out = anstream::stdout().lock();
    write!(out, "{text}").and_then(|()| out.flush()).map_err(|cause| TableError::Io {
        name: "standard output".to_owned(),
        what: "cannot be written",
        cause,
    })
}

/// Prints JSON to standard output, byte for byte: nothing in it is a sign for a terminal. What a
/// terminal might take for one is escaped.
///
/// # Errors
/// As [`print()`].
pub fn print_json(value: &serde_json::Value) -> Result<(), TableError> {
    let text = format!("{value:#}\n");
    let is_control = |c: char| c == '\u{7f}' || ('\u{80}'..='\u{9f}').contains(&c);
    let text = match text.contains(is_control) {
        true => text
            .chars()
            .map(|c| if is_control(c) { format!("\\u{:04x}", c as u32) } else { c.to_string() })
            .collect(),
        false => text,
    };
    let mut out = std::io::stdout().lock();
    let written = out.write_all(text.as_bytes()).and_then(|()| out.flush());
    written.map_err(|cause| TableError::Io {
        name: "standard output".to_owned(),
        what: "cannot be written",
        cause,
    })
}

/// Says something about the work on standard error; where that is closed, nothing.
pub fn say(text: impl std::fmt::Display) {
    let _ = write!(anstream::stderr().lock(), "{text}");
}
