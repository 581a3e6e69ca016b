//! Text to the screen, where the reader may have gone away.

use std::io::Write;

use notch_table::TableError;

/// Prints to standard output.
///
/// # Errors
/// Nobody reads it any more, or the disk it goes to is full.
pub fn print(text: impl std::fmt::Display) -> Result<(), TableError> {
    let mut out = anstream::stdout().lock();
    write!(out, "{text}").and_then(|()| out.flush()).map_err(|cause| TableError::Io {
        name: "standard output".to_owned(),
        what: "cannot be written",
        cause,
    })
}

/// Says something about the work on standard error. When nobody listens, the work is not worth less.
pub fn say(text: impl std::fmt::Display) {
    let _ = write!(anstream::stderr().lock(), "{text}");
}
