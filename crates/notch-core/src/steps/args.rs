//! What stood in the slots of a word, handed to its `build` in the order of its form.

use std::ops::Range;

use crate::language::{Arg, ArgValue, Build, CutError, MarkNode, Reach, WordNode};
use crate::text::{Mark, Separator, What, characters};

/// The arguments of one word. Each method takes the next; a method that does not match the form is a mistake in the table,
/// reported as an error and held by the test that builds every word.
pub(crate) struct Args<'n> {
    args: std::slice::Iter<'n, Arg>,
    /// Where the word stands.
    span: Range<usize>,
    /// Where the argument taken last stands.
    last: Range<usize>,
}

impl<'n> Args<'n> {
    pub(crate) fn new(node: &'n WordNode) -> Self {
        Self { args: node.args.iter(), span: node.span.clone(), last: node.span.clone() }
    }

    /// A refusal of the argument taken last.
    pub(crate) fn refuse(&self, message: impl Into<String>) -> CutError {
        CutError::new(self.last.clone(), message)
    }

    fn next(&mut self) -> Option<&'n ArgValue> {
        let arg = self.args.next()?;
        self.last = arg.span.clone();
        Some(&arg.value)
    }

    fn mistaken<T>(&self, wanted: &str) -> Result<T, CutError> {
        Err(CutError::new(self.span.clone(), format!("The table of words is wrong about this word: it has no {wanted} here")))
    }

    pub(crate) fn count(&mut self) -> Result<usize, CutError> {
        match self.next() {
            Some(ArgValue::Count(n)) => Ok(*n),
            _ => self.mistaken("count"),
        }
    }

    pub(crate) fn reach(&mut self) -> Result<Reach, CutError> {
        match self.next() {
            Some(ArgValue::Reach(reach)) => Ok(*reach),
            _ => self.mistaken("range"),
        }
    }

    /// A text, which may be empty.
    pub(crate) fn text(&mut self) -> Result<&'n str, CutError> {
        match self.next() {
            Some(ArgValue::Text(text)) => Ok(text),
            _ => self.mistaken("text"),
        }
    }

    /// A text that may not be empty, for one that is looked for.
    pub(crate) fn needle(&mut self) -> Result<&'n str, CutError> {
        let text = self.text()?;
        if text.is_empty() {
            return Err(self.refuse("An empty text stands everywhere and can be no mark and no separator"));
        }
        Ok(text)
    }

    /// A text that is one character.
    pub(crate) fn character(&mut self) -> Result<&'n str, CutError> {
        let text = self.text()?;
        match characters::count(text) {
            1 => Ok(text),
            0 => Err(self.refuse("One character is wanted here, and the text is empty")),
            n => Err(self.refuse(format!("One character is wanted here, and \"{text}\" has {n}"))),
        }
    }

    /// Whether an optional part of the form was there.
    pub(crate) fn given(&mut self) -> Result<bool, CutError> {
        match self.next() {
            Some(ArgValue::Given(given)) => Ok(*given),
            _ => self.mistaken("optional part"),
        }
    }

    /// Which choice of the form it was, from 0.
    pub(crate) fn chosen(&mut self) -> Result<usize, CutError> {
        match self.next() {
            Some(ArgValue::Chosen(n)) => Ok(*n),
            _ => self.mistaken("choice"),
        }
    }

    pub(crate) fn mark(&mut self) -> Result<Mark, CutError> {
        match self.next() {
            Some(ArgValue::Mark(node)) => mark(node),
            _ => self.mistaken("mark"),
        }
    }

    pub(crate) fn separator(&mut self) -> Result<Separator, CutError> {
        let Some(ArgValue::Separator(node, ignoring_case)) = self.next() else {
            return self.mistaken("separator");
        };
        let Build::Separator(build) = node.word.build else {
            return self.mistaken("separator");
        };
        let separator = build(&mut Args::new(node))?;
        Ok(match separator {
            Separator::What(what) if *ignoring_case => Separator::What(what.ignoring_case()),
            as_it_stands @ Separator::What(_) => as_it_stands,
        })
    }
}

fn mark(node: &MarkNode) -> Result<Mark, CutError> {
    let mut args = Args::new(&node.what);
    let Build::Mark(build) = node.what.word.build else {
        return args.mistaken("mark");
    };
    let what: What = build(&mut args)?;
    Ok(Mark { what: if node.ignoring_case { what.ignoring_case() } else { what }, which: node.which, spelled: node.spelled.clone() })
}
