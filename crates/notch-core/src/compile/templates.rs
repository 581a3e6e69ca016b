//! Templates, at the head of a chain and after a bar, and cuts in brackets after a bar.

use std::ops::Range;

use super::columns::Resolved;
use super::cuts::Compiler;
use crate::language::{Chain, ColumnRef, Cut, CutError, Group, IT, Source, TemplatePiece, entries};
use crate::program::Step;
use crate::program::Watch;
use crate::program::{Branches, CompiledPiece, CompiledSource};

impl Compiler<'_> {
    /// A cut in brackets after a bar.
    pub(super) fn brackets(&mut self, cut: &Cut) -> Result<Step, CutError> {
        let outer = self.start.replace(Resolved::Reached);
        let branches = self.branches(cut);
        self.start = outer;
        let branches = branches?;
        // Where the step before it finds nothing, its last text was probably expected.
        let last = match cut.chains.last() {
            Some(Chain { source: Source::Template(pieces), steps, .. })
                if steps.is_empty() && cut.chains.len() > 1 =>
            {
                match pieces.as_slice() {
                    [TemplatePiece::Literal(text)] if !text.is_empty() => {
                        Some(format!("\"{text}\""))
                    }
                    _ => None,
                }
            }
            _ => None,
        };
        let passed_over =
            last.map(|text| self.watches.add(self.cuts_so_far, Watch::PassedOver { text }));
        Ok(Step::whole(move |value, run| run.in_brackets(value, &branches, passed_over)))
    }

    /// A template after a bar.
    pub(super) fn template_step(
        &mut self,
        pieces: &[TemplatePiece],
        span: Range<usize>,
    ) -> Result<Step, CutError> {
        if !pieces.iter().any(|piece| matches!(piece, TemplatePiece::Field { .. })) {
            let text = self.quote(&span);
            return Err(CutError::new(
                span,
                format!("{text} takes nothing of the text that the steps before it have reached"),
            )
            .remedy("Put the text in with {it}: … | \"FH/{it}\".")
            .remedy(format!("For a text to take where nothing is found: … else {text}.")));
        }
        let template = self.template(pieces, true)?;
        Ok(Step::text(move |piece, run| run.in_template(piece, &template)))
    }

    /// Whether a field that may be about the text reached is: `{it}`, or what names no column. At
    /// the head of a chain a column comes first.
    pub(super) fn is_about_reached(&self, column: &ColumnRef, inside: &str, is_step: bool) -> bool {
        let ColumnRef::Name(name) = column else { return false };
        let is_column = self.columns.knows(name) || self.columns.knows(inside);
        !is_column || (is_step && name == IT)
    }

    /// Whether a field begins with the word of a step.
    pub(super) fn is_step(&self, inside: &str) -> bool {
        let head = inside.split_whitespace().next().unwrap_or_default();
        entries(Group::is_step).any(|entry| entry.form.heads().contains(&head))
    }

    /// The cut in a field of a template; it has no text of its own here.
    pub(super) fn field(
        &mut self,
        cut: &Cut,
        start: Option<Resolved>,
        span: &Range<usize>,
    ) -> Result<Branches, CutError> {
        let (outer_text, outer_start) =
            (std::mem::take(&mut self.text), std::mem::replace(&mut self.start, start));
        let branches = self.branches(cut).map_err(|error| CutError { span: span.clone(), ..error });
        (self.text, self.start) = (outer_text, outer_start);
        branches
    }

    /// After `else` a chain begins with a step, and no chain before it names a column at its head.
    pub(super) fn no_start_behind_else(&self, span: Range<usize>, chains: &[Chain]) -> CutError {
        let is_first = matches!(&chains[0].source, Source::UnsetSubject(first) if *first == span);
        if is_first {
            return self.no_start(span);
        }
        let fields = chains.iter().filter_map(|chain| match &chain.source {
            Source::Template(pieces) => pieces.iter().find_map(|piece| match piece {
                TemplatePiece::Field { column: ColumnRef::Name(name), .. } => Some(name.as_str()),
                _ => None,
            }),
            _ => None,
        });
        let column = fields.into_iter().next().unwrap_or("name");
        let step = &self.text[span.clone()];
        CutError::new(
            span,
            "This chain begins with a step, and no chain before it names a column that it could \
            start from",
        )
        .remedy(format!("Say where it starts: else {{{column}}} | {step}."))
    }

    /// A template: a step, or the head of a chain.
    pub(super) fn template(
        &mut self,
        pieces: &[TemplatePiece],
        is_step: bool,
    ) -> Result<CompiledSource, CutError> {
        if let [TemplatePiece::Literal(text)] = pieces
            && text.is_empty()
        {
            return Ok(CompiledSource::Blank);
        }
        let compiled = pieces.iter().map(|piece| match piece {
            TemplatePiece::Literal(text) => Ok(CompiledPiece::Literal(text.clone())),
            TemplatePiece::Field { inside, column, cut, reached, span } => {
                let label = match column {
                    ColumnRef::Name(name) => name.clone(),
                    ColumnRef::Place(place) => format!("column {place}"),
                };
                let source = match cut {
                    // `{it}` after a bar is never a column.
                    _ if reached.is_some() && self.is_about_reached(column, inside, is_step) => {
                        let branches = match reached.as_deref() {
                            Some(Ok(cut)) => self.field(cut, Some(Resolved::Reached), span)?,
                            Some(Err(error)) if self.is_step(inside) => return Err(error.clone()),
                            _ => {
                                return Err(self
                                    .columns
                                    .resolve(column, span.clone())
                                    .err()
                                    .unwrap_or_else(|| self.no_start(span.clone())));
                            }
                        };
                        CompiledSource::Cut(Box::new(branches))
                    }
                    Some(cut) if !self.columns.knows(inside) => {
                        CompiledSource::Cut(Box::new(self.field(cut, self.start.clone(), span)?))
                    }
                    Some(_) => {
                        self.columns.resolve(&ColumnRef::Name(inside.clone()), span.clone())?.into()
                    }
                    None => self.columns.resolve(column, span.clone())?.into(),
                };
                Ok(CompiledPiece::Field(label, source))
            }
        });
        Ok(CompiledSource::Template(compiled.collect::<Result<_, CutError>>()?))
    }
}
