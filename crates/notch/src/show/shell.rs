//! Commands as they are typed.

/// A word as it is typed in a shell of the POSIX family (POSIX.1-2017, Shell Command Language,
/// section 2.2.2: within single quotes every character stands for itself).
pub fn shell_word(word: &str) -> String {
    let is_plain =
        !word.is_empty() && word.chars().all(|c| c.is_ascii_alphanumeric() || "-_.,/:".contains(c));
    if is_plain { word.to_owned() } else { format!("'{}'", word.replace('\'', "'\\''")) }
}
