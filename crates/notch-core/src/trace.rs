//! A cut followed step by step through one row: what each step keeps, where, and what it says.
//!
//! [`Plan::trace`] evaluates the row once more with the steps taken one at a time and writes down
//! what each of them was given and returned, as places in the cell where that is possible. It
//! decides nothing, and it allocates freely: it is meant for rows that are shown.

use crate::eval::Scratch;
use crate::finding::FindingKind;
use crate::program::Step;
use crate::program::{Branches, CompiledChain, Plan, Written};
use crate::program::{Missing, Piece, RowContext, Value};
use crate::text::{Span, characters};

/// The way of a row through a cut.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Trace {
    /// The texts pieces were taken from: the cell, then each text a step has made.
    pub bases: Vec<String>,
    /// The chains in the order they were tried; those not tried are left out.
    pub chains: Vec<ChainTrace>,
    /// The steps after `then`.
    pub then: Vec<StepTrace>,
    /// Findings and notes at the end of the cut.
    pub findings: Vec<(FindingKind, String)>,
    /// The new cells: name and text.
    pub cells: Vec<(String, String)>,
}

/// The way through one chain.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ChainTrace {
    /// The chain as written.
    pub label: String,
    /// What it starts from.
    pub start: TraceValue,
    /// Its steps, up to the one that found nothing.
    pub steps: Vec<StepTrace>,
    /// The condition as written, and whether it holds.
    pub condition: Option<(String, bool)>,
    /// Whether it yields the value; otherwise it was given up.
    pub taken: bool,
}

/// What one step did.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct StepTrace {
    /// The step as written.
    pub words: String,
    /// It counts from the end of the text.
    pub from_end: bool,
    /// What it was given.
    pub given: TraceValue,
    /// What it passes on.
    pub value: TraceValue,
    /// Findings and notes it made.
    pub findings: Vec<(FindingKind, String)>,
}

/// What a step passes on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum TraceValue {
    /// A piece of text.
    Text(TracePiece),
    /// A list; an item that went missing is its reason.
    List(Vec<Result<TracePiece, String>>),
    /// Nothing, and why.
    Missing(String),
    /// A blank on purpose.
    Blank,
}

/// A piece of one of the texts of a trace.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TracePiece {
    /// Which text, by its place in [`Trace::bases`].
    pub base: usize,
    /// Where, in bytes of that text.
    pub span: Span,
    /// The positions of its first and last character, from 1; of an empty piece the last is before
    /// the first.
    pub positions: (usize, usize),
    /// The piece itself.
    pub text: String,
}

impl Plan {
    /// Follows the last cut of the plan through one row; cells as in [`Plan::evaluate`]. `None` for
    /// a plan without cuts.
    ///
    /// ```
    /// # use keen_notch_core::{Plan, PlanOptions, Scratch, parse_assignment};
    /// let cut = parse_assignment(r#"year = {lot} | part 2 by "-" | last 2"#)?;
    /// let plan = Plan::compile(&[cut], &["lot".to_owned()], &PlanOptions::default())?;
    /// let trace = plan.trace(&["FH-2019-BRA"], &mut Scratch::default()).ok_or("no cut")?;
    /// let words: Vec<&str> = trace.chains[0].steps.iter().map(|step| &*step.words).collect();
    /// assert_eq!(words, [r#"part 2 by "-""#, "last 2"]);
    /// assert_eq!(trace.cells[0].1, "19");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn trace(&self, cells: &[&str], scratch: &mut Scratch) -> Option<Trace> {
        self.trace_cut(self.cuts.len().checked_sub(1)?, cells, scratch)
    }

    /// Follows a cut of the plan, by its place from 0, through one row; `None` where there is no
    /// such cut.
    pub fn trace_cut(&self, n: usize, cells: &[&str], scratch: &mut Scratch) -> Option<Trace> {
        let cut = self.cuts.get(n)?;
        let evaluated = self.evaluate(cells.iter().copied(), scratch);
        let outputs =
            self.outputs().iter().zip(evaluated.cells).filter(|(output, _)| output.cut == n);
        let cells_out =
            outputs.map(|(output, cell)| (output.name.clone(), cell.text.to_owned())).collect();
        let findings = evaluated
            .findings
            .iter()
            .filter(|finding| finding.about.cut().is_none_or(|of| of == n));
        let findings = findings.map(|finding| (finding.kind, finding.reason.to_owned())).collect();

        let mut tracer = Tracer { bases: Vec::new(), known: Vec::new() };
        let (chains, then) =
            self.with_run(cells, n, scratch, |context| tracer.branches(&cut.branches, context));
        Some(Trace { bases: tracer.bases, chains, then, findings, cells: cells_out })
    }
}

struct Tracer {
    bases: Vec<String>,
    /// Where each base stands in memory while the row is evaluated: two equal texts may be two.
    known: Vec<*const u8>,
}

impl Tracer {
    fn branches(
        &mut self,
        branches: &Branches,
        context: &mut RowContext<'_>,
    ) -> (Vec<ChainTrace>, Vec<StepTrace>) {
        let mut chains = Vec::new();
        let mut value = Value::Intended;
        for chain in &branches.chains {
            let (traced, reached) = self.chain(chain, context);
            value = reached;
            let done = traced.taken
                || matches!(value, Value::Missing(missing) if missing.nothing.is_final());
            chains.push(traced);
            if done {
                break;
            }
        }
        let mut then = Vec::new();
        self.steps(&branches.then, &branches.then_written, value, context, &mut then);
        (chains, then)
    }

    fn chain<'a>(
        &mut self,
        chain: &CompiledChain,
        context: &mut RowContext<'a>,
    ) -> (ChainTrace, Value<'a>) {
        let source = context.source(&chain.source);
        let start = self.value(source);
        let mut steps = Vec::new();
        let reached = self.steps(&chain.steps, &chain.written, source, context, &mut steps);
        let value = context.conditioned(chain, reached);
        let held = chain.condition.as_ref().map(|condition| condition.holds(reached, context));
        let condition = held.map(|held| (chain.condition_written.clone(), held));
        (
            ChainTrace {
                label: chain.label.clone(),
                start,
                steps,
                condition,
                taken: !matches!(value, Value::Missing(_)),
            },
            value,
        )
    }

    fn steps<'a>(
        &mut self,
        steps: &[Step],
        written: &[Written],
        start: Value<'a>,
        context: &mut RowContext<'a>,
        traced: &mut Vec<StepTrace>,
    ) -> Value<'a> {
        let mut value = start;
        for (step, written) in steps.iter().zip(written) {
            let found = context.findings.len();
            let next = step.run(value, context);
            if matches!(
                (value, next),
                (Value::Missing(_), Value::Missing(_)) | (Value::Intended, _)
            ) {
                // Nothing came and nothing goes on: the step had nothing to do.
                break;
            }
            let findings = context
                .findings
                .get(found..)
                .unwrap_or_default()
                .iter()
                .map(|finding| (finding.kind, finding.reason.to_owned()));
            // What a step leaves in doubt is reported at the end of the cut; here it is shown where
            // it comes up.
            let (before, after) = (RowContext::caveat_of(value), RowContext::caveat_of(next));
            let doubt = after
                .doubt
                .filter(|_| before.doubt.is_none())
                .map(|(reason, _)| (FindingKind::Doubtful, reason.to_owned()));
            let note = after
                .note
                .filter(|_| before.note.is_none())
                .map(|note| (FindingKind::ZerosDropped, note.to_owned()));
            traced.push(StepTrace {
                words: written.words.clone(),
                from_end: written.from_end,
                findings: findings.chain(doubt).chain(note).collect(),
                given: self.value(value),
                value: self.value(next),
            });
            value = next;
        }
        value
    }

    fn value(&mut self, value: Value<'_>) -> TraceValue {
        match value {
            Value::Text(piece) => TraceValue::Text(self.piece(piece)),
            Value::List(items) => TraceValue::List(
                items
                    .iter()
                    .map(|item| {
                        item.map(|piece| self.piece(piece))
                            .map_err(|missing| missing.reason.to_owned())
                    })
                    .collect(),
            ),
            Value::Missing(Missing { reason, .. }) => TraceValue::Missing(reason.to_owned()),
            Value::Intended => TraceValue::Blank,
        }
    }

    fn piece(&mut self, piece: Piece<'_>) -> TracePiece {
        let (text, span) = piece.place();
        let known = self
            .known
            .iter()
            .zip(&self.bases)
            .position(|(at, base)| *at == text.as_ptr() && base == text);
        let base = known.unwrap_or_else(|| {
            self.known.push(text.as_ptr());
            self.bases.push(text.to_owned());
            self.bases.len() - 1
        });
        let before = characters::count(&text[..span.start]);
        let positions = (before + 1, before + characters::count(&text[span.clone()]));
        TracePiece { base, positions, text: text[span.clone()].to_owned(), span }
    }
}
