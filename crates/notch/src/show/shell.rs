//! Commands as they are typed.

/// What stands at the end of a line after which a command goes on: for shells of the POSIX family,
/// on Windows for PowerShell.
pub const GOES_ON: &str = if cfg!(windows) { " `\n  " } else { " \\\n  " };
/// A single quote within single quotes.
const QUOTE: &str = if cfg!(windows) { "''" } else { "'\\''" };

/// A word as it is typed in a shell of the POSIX family (POSIX.1-2017, Shell Command Language,
/// section 2.2.2: within single quotes every character stands for itself); on Windows in
/// PowerShell, where a quote within quotes is doubled.
pub fn shell_word(word: &str) -> String {
    let is_plain =
        !word.is_empty() && word.chars().all(|c| c.is_ascii_alphanumeric() || "-_.,/:".contains(c));
    if is_plain { word.to_owned() } else { format!("'{}'", word.replace('\'', QUOTE)) }
}
