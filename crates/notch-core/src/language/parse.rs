//! Tokens → syntax tree. The frame of the language is here; the words are read by their forms.
//!
//! ```text
//! assignment  names "=" cut
//! cut         chain { "else" chain } [ "else" text ]
//! chain       [ source ] { "|" step } [ "if" condition ]
//! source      column | template | "it"
//! step        word of the table | "(" cut ")" | template
//! ```
//!
//! A word's form (`form.rs`) is interpreted by `slots.rs`; this file never knows a word by name.
//! Nesting is bounded, so no text can exhaust the stack. Every error has a place, and says what may
//! stand there.

use super::condition::UnsetSubject;
use super::diagnostics::{afresh_hint, same_marks_hints, then_hint};
use super::error::CutError;
use super::form::Form;
use super::parser::{DEEPEST, Parser};
use super::syntax::{
    Arg, ArgValue, Assignment, Chain, Cut, Name, Rule, Source, StepNode, WordNode,
};
use super::template::template;
use super::token::{TokenKind, is_name_character};
use super::words::{Entry, Group, Word, entries};
use crate::words::{BRACKETS, TEMPLATE};

/// Reads `name, name? = cut`.
///
/// # Errors
/// Where the text stops being a cut, what was expected there, and the nearest word.
pub fn parse_assignment(text: &str) -> Result<Assignment, CutError> {
    let mut parser = Parser::new(text)?;
    let names = parser.names()?;
    let cut = parser.cut(None)?;
    parser.end()?;
    Ok(parser.assignment(names, cut))
}

/// Reads a cut without a name; its tree has the name `piece`.
///
/// # Errors
/// As [`parse_assignment`].
pub fn parse_cut(text: &str) -> Result<Assignment, CutError> {
    let mut parser = Parser::new(text)?;
    let cut = parser.cut(None)?;
    parser.end()?;
    let name = Name { text: "piece".to_owned(), optional: false, span: 0..0 };
    Ok(parser.assignment(vec![name], cut))
}

/// Reads what a jig demands of a column: what stands after `check`; a test that names nothing is
/// about the column.
///
/// # Errors
/// As [`parse_assignment`].
pub fn parse_column_rule(text: &str) -> Result<Rule, CutError> {
    parse_rule(text, UnsetSubject::It, true)
}

/// Reads what is demanded of a row: what stands after `check`; every test says which column or cut
/// it is about.
///
/// # Errors
/// As [`parse_assignment`].
pub fn parse_row_rule(text: &str) -> Result<Rule, CutError> {
    parse_rule(text, UnsetSubject::Named(None), true)
}

/// Reads a condition that rows are chosen by: every test says which column or cut it is about.
///
/// # Errors
/// As [`parse_assignment`].
pub fn parse_row_condition(text: &str) -> Result<Rule, CutError> {
    parse_rule(text, UnsetSubject::Named(None), false)
}

/// A condition; with `check_words` perhaps `when` and `saying` after it.
fn parse_rule(text: &str, unset: UnsetSubject, check_words: bool) -> Result<Rule, CutError> {
    let mut parser = Parser::new(text)?;
    let condition = parser.condition(unset.clone())?;
    let span = 0..parser.end_of_last();
    let when =
        if check_words && parser.word("when") { Some(parser.condition(unset)?) } else { None };
    let mut saying = None;
    if check_words && parser.word("saying") {
        let token = parser.peek().clone();
        let TokenKind::Text(text) = token.kind else {
            return Err(CutError::new(token.span, "Behind `saying` a text in quotes is wanted"));
        };
        parser.advance();
        saying = Some(text);
    }
    parser.end()?;
    Ok(Rule { text: text.to_owned(), condition, span, when, saying })
}

/// Reads `text` from byte `from` on as the rest of a cut that starts from `first`, or as a whole
/// cut.
fn parse_inner_cut(text: &str, from: usize, first: Option<Source>) -> Result<Cut, CutError> {
    let mut parser = Parser::new(&text[from..]).map_err(|e| e.moved(from))?;
    parser.depth = DEEPEST / 2;
    parser.cut(first).and_then(|cut| parser.end().map(|()| cut)).map_err(|e| e.moved(from))
}

impl<'s> Parser<'s> {
    fn assignment(self, names: Vec<Name>, cut: Cut) -> Assignment {
        let mut hints = self.hints;
        hints.extend(then_hint(self.source, &cut));
        hints.extend(afresh_hint(self.source, &cut));
        hints.extend(same_marks_hints(self.source, &cut));
        hints.dedup();
        Assignment { text: self.source.to_owned(), names, cut, hints }
    }

    // ---- moving about

    pub(super) fn names(&mut self) -> Result<Vec<Name>, CutError> {
        let mut names: Vec<Name> = Vec::new();
        loop {
            let token = self.peek().clone();
            let text = match &token.kind {
                TokenKind::Text(text) => text.clone(),
                _ if !token.span.is_empty()
                    && self.written(&token).chars().all(is_name_character) =>
                {
                    self.written(&token).to_owned()
                }
                TokenKind::Column(_) => {
                    return Err(CutError::new(
                        token.span,
                        "The name of a new column stands without braces",
                    )
                    .remedy("Write name = {column} | step."));
                }
                _ => {
                    return Err(CutError::new(
                        token.span,
                        "The name of a new column was expected here",
                    )
                    .remedy("Write name = cut."));
                }
            };
            self.advance();
            if text.trim().is_empty() {
                return Err(CutError::new(token.span, "A new column needs a name"));
            }
            let optional = self.symbol("?");
            if text != "_" && names.iter().any(|earlier| earlier.text == text) {
                return Err(CutError::new(token.span, format!("{text} stands twice on the left"))
                    .remedy("A piece is skipped with _."));
            }
            let earlier = names.iter().rposition(|earlier| earlier.optional);
            if let Some(earlier) = earlier.filter(|earlier| optional && earlier + 1 < names.len()) {
                return Err(CutError::new(
                    token.span,
                    format!(
                        "{text} may be blank, and so may {}; names that may be blank stand \
                        together",
                        names[earlier].text
                    ),
                )
                .remedy(format!(
                    "Write {}? as well, or leave out one of the two question marks.",
                    names[earlier + 1].text
                )));
            }
            names.push(Name { text, optional, span: token.span });
            if self.symbol(",") {
                continue;
            }
            if self.symbol("=") {
                return Ok(names);
            }
            let found = self.peek().span.clone();
            return Err(CutError::new(found, "A cut is written name = cut; the = is missing here")
                .remedy("A name with blanks stands in quotes: \"lot year\" = …"));
        }
    }

    /// A cut; `first` is the source of its first chain when that is known already.
    pub(super) fn cut(&mut self, first: Option<Source>) -> Result<Cut, CutError> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(CutError::new(
                self.peek().span.clone(),
                "Brackets stand too deep in each other here",
            )
            .remedy("Make the inner cut a column of its own: _name = …"));
        }
        let mut chains = vec![self.chain(first)?];
        while self.word("else") {
            chains.push(self.chain(None)?);
        }
        let mut then = Vec::new();
        if self.word("then") {
            then.push(self.step()?);
            while self.symbol("|") {
                then.push(self.step()?);
            }
        }
        self.depth -= 1;
        Ok(Cut { chains, then })
    }

    fn chain(&mut self, source: Option<Source>) -> Result<Chain, CutError> {
        let start = self.peek().span.start;
        let mut steps = Vec::new();
        let source = match source {
            Some(source) => source,
            None => match self.source_node()? {
                Some(source) => source,
                None => {
                    steps.push(self.step()?);
                    Source::UnsetSubject(start..self.end_of_last())
                }
            },
        };
        while self.symbol("|") {
            steps.push(self.step()?);
        }
        let condition_start = self.peek().span.start;
        let condition =
            if self.word("if") { Some(self.condition(UnsetSubject::Carried(None))?) } else { None };
        let end = self.end_of_last().max(start);
        if condition.is_some() && self.written(self.peek()) == "|" {
            return Err(self.step_behind_condition(start, condition_start, end));
        }
        let condition_span = condition.as_ref().map(|_| condition_start..end);
        Ok(Chain { source, steps, condition, condition_span, span: start..end })
    }

    fn source_node(&mut self) -> Result<Option<Source>, CutError> {
        let token = self.peek().clone();
        match token.kind {
            TokenKind::Column(column) => {
                self.advance();
                Ok(Some(Source::Column(column, token.span)))
            }
            TokenKind::Text(_) => {
                self.advance();
                template(self.source, token.span, self.brackets > 0, parse_inner_cut)
                    .map(|pieces| Some(Source::Template(pieces)))
            }
            TokenKind::Symbol if self.symbol("(") => {
                let cut = self.cut(None)?;
                if !self.symbol(")") {
                    return Err(self.unexpected());
                }
                Ok(Some(Source::Cut(Box::new(cut))))
            }
            TokenKind::Word if self.word("list") => {
                if !self.symbol("(") {
                    return Err(self.unexpected());
                }
                let mut items = vec![self.cut(None)?];
                while self.symbol(",") {
                    items.push(self.cut(None)?);
                }
                if !self.symbol(")") {
                    return Err(self.unexpected());
                }
                Ok(Some(Source::List(items)))
            }
            TokenKind::Word if self.word("missing") => {
                let reason = match &self.peek().kind {
                    TokenKind::Text(reason) => Some(reason.clone()),
                    _ => None,
                };
                if reason.is_some() {
                    self.advance();
                }
                Ok(Some(Source::Missing(
                    reason
                        .filter(|reason| !reason.is_empty())
                        .unwrap_or_else(|| "missing".to_owned()),
                )))
            }
            _ => Ok(None),
        }
    }

    /// Everything must have been read.
    fn end(&mut self) -> Result<(), CutError> {
        if self.peek().kind == TokenKind::End {
            return Ok(());
        }
        self.expect("the end of the cut".to_owned());
        Err(self.unexpected())
    }

    // ---- words by their forms

    fn step(&mut self) -> Result<StepNode, CutError> {
        let token = self.peek().clone();
        self.wants_step |= token.kind == TokenKind::End;
        match token.kind {
            TokenKind::Symbol if self.symbol("(") => {
                self.brackets += 1;
                let cut = self.cut(None)?;
                if !self.symbol(")") {
                    return Err(self.unexpected());
                }
                self.brackets -= 1;
                return Ok(self.framed(BRACKETS, ArgValue::Cut(Box::new(cut)), token.span.start));
            }
            TokenKind::Text(_) => {
                self.advance();
                let pieces = template(self.source, token.span.clone(), true, parse_inner_cut)?;
                return Ok(self.framed(TEMPLATE, ArgValue::Template(pieces), token.span.start));
            }
            _ => {}
        }
        let head = self.written(&token);
        match self
            .longest(entries(Group::is_step).filter(|entry| entry.form.heads().contains(&head)))?
        {
            Some(node) if node.word.group == Group::Check && self.written(self.peek()) == "if" => {
                Err(CutError::new(
                    self.peek().span.clone(),
                    "A check is made only in some rows with `when`, not with `if`",
                )
                .remedy(
                    "Write check … when …; or put the chain in brackets when `if` is meant to \
                    choose it: ( … | check … ) if ….",
                ))
            }
            Some(node) => Ok(node),
            None if self.farthest > self.at => Err(self.unexpected()),
            None => Err(self.no_step(&token)),
        }
    }

    /// A step that is no word of the table of words: its entry there, and what stands in it.
    fn framed(&self, word: &'static Word, value: ArgValue, start: usize) -> StepNode {
        let span = start..self.end_of_last();
        StepNode { word, args: vec![Arg { value, span: span.clone() }], span }
    }

    /// A word of one group, by any of its forms.
    pub(super) fn one_of(&mut self, group: Group) -> Result<Option<WordNode>, CutError> {
        self.longest(entries(move |of| of == group))
    }

    /// The candidate that takes most of the text.
    fn longest(
        &mut self,
        candidates: impl Iterator<Item = &'static Entry>,
    ) -> Result<Option<WordNode>, CutError> {
        let start = self.position();
        let mut best: Option<(usize, WordNode)> = None;
        let mut refused: Option<CutError> = None;
        for entry in candidates {
            self.return_to(start);
            let (depth, mut args) = (self.depth, Vec::new());
            match self.form(&entry.form, &mut args) {
                Ok(true) if best.as_ref().is_none_or(|(end, _)| self.at > *end) => {
                    let span = self.tokens[start].span.start..self.end_of_last();
                    best = Some((self.at, WordNode { word: entry.word, args, span }));
                }
                Ok(_) => {}
                Err(error) => {
                    self.depth = depth;
                    refused = refused
                        .filter(|known| known.span.start >= error.span.start)
                        .or(Some(error));
                }
            }
        }
        // What one candidate finds wrong is no error where another takes the same words.
        if let Some(error) = refused
            .filter(|error| best.as_ref().is_none_or(|(_, node)| error.span.start >= node.span.end))
        {
            return Err(error);
        }
        self.return_to(best.as_ref().map_or(start, |(end, _)| *end));
        Ok(best.map(|(_, node)| node))
    }

    /// Reads what a form describes; on `false` nothing has been taken.
    pub(super) fn form(&mut self, form: &Form, args: &mut Vec<Arg>) -> Result<bool, CutError> {
        let (start, taken) = (self.at, args.len());
        let fits = match form {
            Form::Literal(word) => self.word_or_symbol(word),
            Form::Slot(slot) => {
                let from = self.peek().span.start;
                let known = if self.farthest == start { self.expected.len() } else { 0 };
                match self.slot(*slot)? {
                    Some(value) => {
                        let span = from..self.end_of_last();
                        args.push(Arg { value, span });
                        true
                    }
                    None => {
                        self.return_to(start);
                        if self.farthest == start {
                            // The slot's name says it all; what its readers tried one by one is
                            // dropped.
                            self.expected.truncate(known);
                        }
                        self.expect_slot(*slot);
                        false
                    }
                }
            }
            Form::Sequence(items) => {
                let mut fits = true;
                for item in items {
                    if !self.form(item, args)? {
                        fits = false;
                        break;
                    }
                }
                fits
            }
            Form::Optional(inside) => {
                self.mark_arg(ArgValue::Given(true), args);
                if !self.form(inside, args)? {
                    args.truncate(taken);
                    self.mark_arg(ArgValue::Given(false), args);
                }
                true
            }
            Form::Choice(choices) => {
                let mut fits = false;
                for (n, choice) in choices.iter().enumerate() {
                    self.mark_arg(ArgValue::Chosen(n), args);
                    fits = self.form(choice, args)?;
                    if fits {
                        break;
                    }
                    args.truncate(taken);
                }
                fits
            }
        };
        if !fits {
            self.return_to(start);
            args.truncate(taken);
        }
        Ok(fits)
    }

    fn mark_arg(&self, value: ArgValue, args: &mut Vec<Arg>) {
        let span = self.peek().span.clone();
        args.push(Arg { value, span });
    }

    fn word_or_symbol(&mut self, literal: &str) -> bool {
        if literal.starts_with(is_name_character) {
            self.word(literal)
        } else {
            self.symbol(literal)
        }
    }
}
