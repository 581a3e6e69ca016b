//! Where what was read stands: on the command line, or in a jig at its line.

use std::ops::Range;
use std::sync::Arc;

use keen_notch_core::CutError;

use crate::show::Problem;

/// The text of a jig's file.
#[derive(Debug)]
pub(super) struct JigText {
    pub name: String,
    pub text: String,
}

/// Where a cut, a check or a condition stands.
#[derive(Debug, Clone)]
pub enum Place {
    /// On the command line.
    CommandLine,
    /// In a jig: the key on the left, if it is part of the text, and the value.
    Jig(JigPlace),
}

/// A place in a jig.
#[derive(Debug, Clone)]
pub struct JigPlace {
    pub(super) jig: Arc<JigText>,
    /// The key that is the beginning of what was read, with the text it stands for.
    pub(super) key: Option<(Range<usize>, String)>,
    pub(super) value: (Range<usize>, String),
}

impl Place {
    /// What is wrong with a text that stands here, shown where it stands.
    pub fn problem(&self, what: &'static str, text: &str, error: CutError) -> Problem {
        match self {
            Place::CommandLine => {
                Problem::Cut { what, text: text.to_owned(), place: None, error: Box::new(error) }
            }
            Place::Jig(place) => {
                let span = place.in_file(error.span.clone());
                let line =
                    place.jig.text[..span.start.min(place.jig.text.len())].matches('\n').count()
                        + 1;
                let named = format!("{}, line {line}", place.jig.name);
                Problem::Cut {
                    what,
                    text: place.jig.text.clone(),
                    place: Some(named),
                    error: Box::new(CutError { span, ..error }),
                }
            }
        }
    }
}

impl JigPlace {
    /// Where a place of what was read stands in the file; the whole key or value where escapes make
    /// it impossible to say.
    fn in_file(&self, span: Range<usize>) -> Range<usize> {
        let within = |(place, read): &(Range<usize>, String), span: Range<usize>| {
            let raw = self.jig.text.get(place.clone()).unwrap_or_default();
            match raw.find(read.as_str()) {
                Some(at) => place.start + at + span.start..place.start + at + span.end,
                None => place.clone(),
            }
        };
        match &self.key {
            Some(key) if span.end <= key.1.len() => within(key, span),
            Some(key) => {
                let shift = key.1.len() + BETWEEN.len();
                within(
                    &self.value,
                    span.start.saturating_sub(shift)..span.end.saturating_sub(shift),
                )
            }
            None => within(&self.value, span),
        }
    }
}

/// What stands between the names of a cut and the cut.
pub(super) const BETWEEN: &str = " = ";
