//! What stood in the slots of a word, passed to its `build` in the order of its form.
//!
//! Each method takes the next argument and returns it in the type that the slot has; to ask for
//! another type than the form has is a mistake in the entry of the word, and comes out as an error
//! about the cut, not as a panic. [`Args::refuse`] makes an error that underlines the argument
//! taken last, or the word where none was.

use std::ops::Range;
use std::sync::Arc;

use regex::Regex;

use crate::language::{
    Arg, ArgValue, Build, ColumnRef, ConditionNode, CutError, KindItem, Limits, MarkNode, Reach,
    WordNode,
};
use crate::list::List;
use crate::program::CompiledSource;
use crate::program::Condition;
use crate::program::Watch;
use crate::schemes::Scheme;
use crate::text::ByteWidth;
use crate::text::{DatePattern, Mark, Separator, What, characters};

/// What a word may ask about the table and the jig while it is built.
pub(crate) trait Resolve {
    /// The column or cut of this name.
    fn column(
        &mut self,
        column: &ColumnRef,
        span: Range<usize>,
    ) -> Result<CompiledSource, CutError>;

    /// A list, by its name.
    fn list(&mut self, name: &str, span: Range<usize>) -> Result<Arc<List>, CutError>;

    /// A condition compiled.
    fn condition(&mut self, node: &ConditionNode) -> Result<Condition, CutError>;

    /// How many bytes a text takes where the table comes from, when that is not UTF-8.
    fn byte_width(&self) -> Option<ByteWidth>;

    /// Has something counted over all rows; returns the place of its first event.
    fn watch(&mut self, watch: Watch) -> usize;

    /// How a place of the cut is written.
    fn written(&self, span: Range<usize>) -> String;
}

/// The arguments of one word. Each method takes the next; a method that does not match the form is
/// a mistake in the table, reported as an error and held by the test that builds every word.
pub(crate) struct Args<'n> {
    args: std::slice::Iter<'n, Arg>,
    /// Where the word stands.
    span: Range<usize>,
    /// Where the argument taken last stands.
    last: Range<usize>,
    /// The date pattern taken last.
    pattern: Option<String>,
    resolver: &'n mut dyn Resolve,
}

impl<'n> Args<'n> {
    pub(crate) fn new(node: &'n WordNode, resolver: &'n mut dyn Resolve) -> Self {
        Self {
            args: node.args.iter(),
            span: node.span.clone(),
            last: node.span.clone(),
            pattern: None,
            resolver,
        }
    }

    /// How many bytes a text takes where the table comes from, when that is not UTF-8.
    pub(crate) fn byte_width(&self) -> Option<ByteWidth> {
        self.resolver.byte_width()
    }

    /// Has something counted over all rows; returns the place of its first event.
    pub(crate) fn watch(&mut self, watch: Watch) -> usize {
        self.resolver.watch(watch)
    }

    /// A refusal of the argument taken last.
    pub(crate) fn refuse(&self, message: impl Into<String>) -> CutError {
        CutError::new(self.last.clone(), message)
    }

    /// The text of the pattern taken last, in quotes, for reasons.
    pub(crate) fn last_written(&self) -> String {
        self.pattern.as_ref().map_or(String::new(), |pattern| format!("\"{pattern}\""))
    }

    fn next(&mut self) -> Option<&'n ArgValue> {
        let arg = self.args.next()?;
        self.last = arg.span.clone();
        Some(&arg.value)
    }

    fn mistaken<T>(&self, wanted: &str) -> Result<T, CutError> {
        Err(CutError::new(
            self.span.clone(),
            format!("The table of words is wrong about this word: it has no {wanted} here"),
        ))
    }

    pub(crate) fn count(&mut self) -> Result<usize, CutError> {
        match self.next() {
            Some(ArgValue::Count(n)) => Ok(*n),
            _ => self.mistaken("count"),
        }
    }

    pub(crate) fn counts(&mut self) -> Result<&'n [usize], CutError> {
        match self.next() {
            Some(ArgValue::Counts(counts)) => Ok(counts),
            _ => self.mistaken("counts"),
        }
    }

    pub(crate) fn reach(&mut self) -> Result<Reach, CutError> {
        match self.next() {
            Some(ArgValue::Reach(reach)) => Ok(*reach),
            _ => self.mistaken("range"),
        }
    }

    /// One place, as a reach.
    pub(crate) fn place(&mut self) -> Result<Reach, CutError> {
        match self.next() {
            Some(ArgValue::Place(place)) => Ok(Reach::one(*place)),
            _ => self.mistaken("place"),
        }
    }

    /// A text, which may be empty.
    pub(crate) fn text(&mut self) -> Result<&'n str, CutError> {
        match self.next() {
            Some(ArgValue::Text(text)) => Ok(text),
            _ => self.mistaken("text"),
        }
    }

    pub(crate) fn texts(&mut self) -> Result<&'n [String], CutError> {
        match self.next() {
            Some(ArgValue::Texts(texts)) => Ok(texts),
            _ => self.mistaken("texts"),
        }
    }

    pub(crate) fn kinds(&mut self) -> Result<&'n [KindItem], CutError> {
        match self.next() {
            Some(ArgValue::Kinds(kinds)) => Ok(kinds),
            _ => self.mistaken("kinds"),
        }
    }

    /// A text that may not be empty, for one that is looked for.
    pub(crate) fn needle(&mut self) -> Result<&'n str, CutError> {
        let text = self.text()?;
        if text.is_empty() {
            return Err(
                self.refuse("An empty text stands everywhere and can be no mark and no separator")
            );
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
        let Some(ArgValue::Mark(node)) = self.next() else {
            return self.mistaken("mark");
        };
        self.build_mark(node)
    }

    fn build_mark(&mut self, node: &MarkNode) -> Result<Mark, CutError> {
        let Build::Mark(build) = node.what.word.build else {
            return self.mistaken("mark");
        };
        let what: What = build(&mut Args::new(&node.what, self.resolver))?;
        Ok(Mark {
            what: if node.ignoring_case { what.ignoring_case() } else { what },
            which: node.which,
            which_said: node.which_said,
            spelled: node.spelled.clone(),
        })
    }

    /// Two marks; `ignoring case` after the second holds for both. The optional part that may
    /// stand between them comes along.
    pub(crate) fn two_marks(&mut self) -> Result<(Mark, bool, Mark), CutError> {
        let (
            Some(ArgValue::Mark(first)),
            Some(ArgValue::Given(between)),
            Some(ArgValue::Mark(second)),
        ) = (self.next(), self.next(), self.next())
        else {
            return self.mistaken("pair of marks");
        };
        let mut first = first.clone();
        first.ignoring_case |= second.ignoring_case;
        Ok((self.build_mark(&first)?, *between, self.build_mark(second)?))
    }

    pub(crate) fn separator(&mut self) -> Result<Separator, CutError> {
        let Some(ArgValue::Separator(node, ignoring_case)) = self.next() else {
            return self.mistaken("separator");
        };
        let Build::Separator(build) = node.word.build else {
            return self.mistaken("separator");
        };
        let separator = build(&mut Args::new(node, self.resolver))?;
        Ok(match separator {
            Separator::What(what) if *ignoring_case => Separator::What(what.ignoring_case()),
            verbatim => verbatim,
        })
    }

    /// A regular expression.
    pub(crate) fn regex(&mut self) -> Result<Regex, CutError> {
        let Some(ArgValue::Regex { pattern, flags }) = self.next() else {
            return self.mistaken("regular expression");
        };
        self.compile_regex(pattern, flags)
    }

    /// A regular expression that takes a text as a whole.
    pub(crate) fn whole_regex(&mut self) -> Result<Regex, CutError> {
        let Some(ArgValue::Regex { pattern, flags }) = self.next() else {
            return self.mistaken("regular expression");
        };
        // As it stands first, so that an error is about what was typed.
        self.compile_regex(pattern, flags)?;
        let line_end = if flags.contains('x') { "\n" } else { "" };
        self.compile_regex(&format!("\\A(?:{pattern}{line_end})\\z"), flags)
    }

    fn compile_regex(&self, pattern: &str, flags: &str) -> Result<Regex, CutError> {
        if let Some(unknown) = flags.chars().find(|flag| !"isx".contains(*flag)) {
            return Err(self.refuse(format!(
                "A regular expression has no flag {unknown}; the flags are i, s and x"
            )));
        }
        // The flags become part of the pattern, so that the expression says all of itself.
        let flags = if flags.is_empty() { String::new() } else { format!("(?{flags})") };
        Regex::new(&format!("{flags}{pattern}")).map_err(|error| {
            let said = error.to_string();
            let reason = said.rsplit("error: ").next().unwrap_or(&said).trim().to_owned();
            self.refuse(format!("This regular expression cannot be read: {reason}"))
        })
    }

    /// A group of a regular expression that follows as an optional part; the whole match when it is
    /// not given.
    pub(crate) fn group(&mut self, regex: &Regex) -> Result<usize, CutError> {
        if !self.given()? {
            return Ok(0);
        }
        let groups = regex.captures_len() - 1;
        let count = format!(
            "this regular expression has {groups} group{}",
            if groups == 1 { "" } else { "s" }
        );
        match self.next() {
            Some(ArgValue::Count(n)) if *n <= groups => Ok(*n),
            Some(ArgValue::Count(n)) => Err(self.refuse(format!("There is no group {n}: {count}"))),
            Some(ArgValue::Name(name)) => {
                match regex.capture_names().position(|known| known == Some(name)) {
                    Some(n) => Ok(n),
                    None => Err(self
                        .refuse(format!("There is no group called {name}: {count}"))
                        .remedy("A group gets a name so: (?<name>…).")),
                }
            }
            _ => self.mistaken("group"),
        }
    }

    /// How a date is written; it must say which day is meant.
    pub(crate) fn date_pattern(&mut self) -> Result<DatePattern, CutError> {
        let pattern = self.date_output()?;
        if !pattern.is_complete() {
            return Err(self
                .refuse("A date needs a year, a month and a day, or a year and the day of the year")
                .remedy("For instance \"DDMMYYYY\"."));
        }
        Ok(pattern)
    }

    /// How a date is to be written; it may leave parts out.
    pub(crate) fn date_output(&mut self) -> Result<DatePattern, CutError> {
        let text = self.text()?;
        self.pattern = Some(text.to_owned());
        DatePattern::read(text).map_err(|problem| {
            // `dd.mm.yyyy` from habit: days, months and years are written in capitals here.
            let capitals = [
                text.replace('y', "Y").replace('d', "D"),
                text.replace('y', "Y").replace('d', "D").replace('m', "M"),
            ];
            let meant = capitals
                .iter()
                .find(|text| DatePattern::read(text).is_ok_and(|pattern| pattern.is_complete()));
            let refused = self.refuse(problem);
            match meant {
                Some(meant) => refused.remedy(format!("Write \"{meant}\".")),
                None => refused,
            }
        })
    }

    pub(crate) fn column(&mut self) -> Result<CompiledSource, CutError> {
        match self.next() {
            Some(ArgValue::Column(column)) => self.resolve(column),
            _ => self.mistaken("column"),
        }
    }

    pub(crate) fn resolve(&mut self, column: &ColumnRef) -> Result<CompiledSource, CutError> {
        let span = self.last.clone();
        self.resolver.column(column, span)
    }

    /// A column, or else a text.
    pub(crate) fn column_or_text(&mut self) -> Result<Result<CompiledSource, String>, CutError> {
        match self.next() {
            Some(ArgValue::Column(column)) => self.resolve(column).map(Ok),
            Some(ArgValue::Text(text)) => Ok(Err(text.clone())),
            _ => self.mistaken("column or text"),
        }
    }

    /// A condition, and how it is written.
    pub(crate) fn condition(&mut self) -> Result<(Condition, String), CutError> {
        let Some(ArgValue::Condition(node)) = self.next() else {
            return self.mistaken("condition");
        };
        Ok((self.resolver.condition(node)?, self.resolver.written(self.last.clone())))
    }

    /// A condition that may be there.
    pub(crate) fn optional_condition(&mut self) -> Result<Option<Condition>, CutError> {
        if self.given()? { Ok(Some(self.condition()?.0)) } else { Ok(None) }
    }

    /// A check-digit scheme.
    pub(crate) fn scheme(&mut self) -> Result<&'static Scheme, CutError> {
        match self.next() {
            Some(ArgValue::Scheme(scheme)) => Ok(scheme),
            _ => self.mistaken("scheme"),
        }
    }

    /// How the argument taken last is written.
    pub(crate) fn written(&self) -> String {
        self.resolver.written(self.last.clone())
    }

    /// A list of the jig.
    pub(crate) fn list(&mut self) -> Result<Arc<List>, CutError> {
        let Some(ArgValue::Name(name)) = self.next() else {
            return self.mistaken("list");
        };
        let span = self.last.clone();
        self.resolver.list(name, span)
    }

    pub(crate) fn limits(&mut self) -> Result<&'n Limits, CutError> {
        match self.next() {
            Some(ArgValue::Limits(limits)) => Ok(limits),
            _ => self.mistaken("limits"),
        }
    }
}
