//! What is said about a cut that cannot be read, as data: where, what was expected, what to write
//! instead.

use std::ops::Range;

/// A cut that cannot be read or does not suit the table.
///
/// `Display` returns the sentence alone; showing the cut with its place underlined is the
/// interface's job.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CutError {
    /// Where in the text of the cut, in bytes. An empty range points between two characters, at the
    /// end of the text for instance.
    pub span: Range<usize>,
    /// One sentence on what was expected or found there.
    pub message: String,
    /// What to write instead or where to look, one sentence each.
    pub remedies: Vec<String>,
    /// A text in quotes was wanted and the cut holds no quote at all: on a command line, the shell
    /// has probably taken them away.
    pub quotes_missing: bool,
    /// A word that is no step, which a column may be called.
    pub perhaps_column: Option<Box<str>>,
    /// What is to stand at the place instead, where one remedy says just that.
    pub instead: Option<Box<str>>,
}

impl CutError {
    pub(crate) fn new(span: Range<usize>, message: impl Into<String>) -> Self {
        Self {
            span,
            message: message.into(),
            remedies: Vec::new(),
            quotes_missing: false,
            perhaps_column: None,
            instead: None,
        }
    }

    pub(crate) fn remedy(mut self, remedy: impl Into<String>) -> Self {
        self.remedies.push(remedy.into());
        self
    }

    /// The remedy that a known word, the nearest to what stands there, is to stand instead.
    pub(crate) fn nearest(mut self, word: &str) -> Self {
        self.instead = Some(word.into());
        self.remedy(format!("The nearest is `{word}`."))
    }

    /// The same error for a text that stands `by` bytes further right in a larger one.
    pub(crate) fn moved(mut self, by: usize) -> Self {
        self.span = self.span.start + by..self.span.end + by;
        self
    }
}

impl std::fmt::Display for CutError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.message)
    }
}

impl std::error::Error for CutError {}

/// The known word most like `word`, when one is like enough to be meant.
pub fn nearest<'a>(word: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let lower = word.to_lowercase();
    let most = (word.chars().count() / 3).max(1);
    known
        .into_iter()
        .map(|candidate| (strsim::osa_distance(&lower, &candidate.to_lowercase()), candidate))
        .filter(|(distance, _)| *distance <= most && *distance < word.chars().count())
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, candidate)| candidate)
}

/// `a, b or c`: a list as it is said in a sentence.
pub(crate) fn either(items: &[String]) -> String {
    match items {
        [] => String::new(),
        [one] => one.clone(),
        [most @ .., last] => format!("{} or {last}", most.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_nearest_word_is_near() {
        let known = ["part", "parts", "pad", "before", "between", "ignoring", "a"];
        for (word, near) in [
            ("prt", Some("part")),
            ("aprt", Some("part")),
            ("PART", Some("part")),
            ("partss", Some("parts")),
            ("befor", Some("before")),
            ("betwen", Some("between")),
            ("ingoring", Some("ignoring")),
            ("xyz", None),
            ("b", None),
            ("", None),
        ] {
            assert_eq!(nearest(word, known), near, "{word}");
        }
        assert_eq!(either(&["a", "b", "c"].map(str::to_owned)), "a, b or c");
        assert_eq!(either(&["a".to_owned()]), "a");
    }
}
