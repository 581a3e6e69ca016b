//! A row through all cuts.

use bumpalo::Bump;

use super::run::Run;
use super::value::{Item, Missing, Nothing, Piece, Value};
use crate::finding::{About, Finding, FindingKind};
use crate::plan::{Branches, CompiledChain, CompiledCut, CompiledPiece, CompiledSource, Plan};

/// The memory a row's evaluation uses, reused from row to row. Each thread has its own.
#[derive(Debug, Default)]
pub struct Scratch {
    arena: Bump,
}

/// A new cell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cell<'a> {
    /// Its text, empty when there is none.
    pub text: &'a str,
}

/// What the cuts make of a row. It lives until the scratch is used again.
#[derive(Debug)]
pub struct RowResult<'a> {
    /// The new cells, one for each of [`Plan::outputs`], in that order.
    pub cells: &'a [Cell<'a>],
    /// Findings, in the order of the cuts, then notes.
    pub findings: &'a [Finding<'a>],
    /// For each cut the chain that yielded its value, from 0; `None` when none did.
    pub branches: &'a [Option<usize>],
}

impl RowResult<'_> {
    /// Whether there is a finding that is not a mere note.
    pub fn has_finding(&self) -> bool {
        self.findings.iter().any(|finding| !finding.kind.is_note())
    }
}

impl Plan {
    /// Evaluates all cuts for one row, given the cells of [`Plan::sources`] in their order; a cell that is not given counts as blank.
    pub fn evaluate<'a>(&self, cells: impl IntoIterator<Item = &'a str>, scratch: &'a mut Scratch) -> RowResult<'a> {
        scratch.arena.reset();
        let arena: &'a Bump = &scratch.arena;
        let mut run = Run::new(arena, cells);
        let mut written = bumpalo::collections::Vec::with_capacity_in(self.outputs().len(), arena);
        let mut branches = bumpalo::collections::Vec::with_capacity_in(self.cuts.len(), arena);
        for (n, cut) in self.cuts.iter().enumerate() {
            run.about = if cut.names.len() == 1 { About::Name { cut: n, name: 0 } } else { About::Cut(n) };
            let (value, branch) = run.branches(&cut.branches);
            branches.push(branch);
            let from = run.values.len();
            run.give_out(n, cut, value);
            for (name, value) in cut.names.iter().zip(&run.values[from..]) {
                if !name.hidden {
                    let text = match value {
                        Value::Text(piece) => piece.text(),
                        _ => "",
                    };
                    written.push(Cell { text });
                }
            }
        }
        run.note_blanks();
        RowResult {
            cells: written.into_bump_slice(),
            findings: std::mem::replace(&mut run.findings, bumpalo::collections::Vec::new_in(arena)).into_bump_slice(),
            branches: branches.into_bump_slice(),
        }
    }
}

impl<'a> Run<'a> {
    /// The first chain that is not missing, then the steps behind `then`; and which chain it was.
    fn branches(&mut self, branches: &Branches) -> (Value<'a>, Option<usize>) {
        let mut taken = (Value::Intended, None);
        for (n, chain) in branches.chains.iter().enumerate() {
            let before = self.findings.len();
            let value = self.chain(chain);
            let missing = matches!(value, Value::Missing(_));
            taken = (value, (!missing).then_some(n));
            if !missing {
                break;
            }
            if n + 1 < branches.chains.len() {
                // Only the chain that yields the value reports.
                self.findings.truncate(before);
            }
        }
        let value = branches.then.iter().fold(taken.0, |value, step| step.run(value, self));
        (value, taken.1)
    }

    fn chain(&mut self, chain: &CompiledChain) -> Value<'a> {
        let source = self.source(&chain.source);
        chain.steps.iter().fold(source, |value, step| step.run(value, self))
    }

    fn source(&mut self, source: &CompiledSource) -> Value<'a> {
        match source {
            CompiledSource::Column(n) => {
                let cell = self.cells.get(*n).copied().unwrap_or_default();
                if cell.trim_start().is_empty() {
                    if !self.blank.contains(n) {
                        self.blank.push(*n);
                    }
                    return Value::Missing(Missing::new(Nothing::Blank, "blank"));
                }
                Value::Text(Piece::whole(cell))
            }
            CompiledSource::Value { slot, name, hidden } => match self.values[*slot] {
                Value::Missing(missing) if *hidden && missing.nothing != Nothing::Blank => {
                    Value::Missing(Missing { reason: self.say(format_args!("{name}: {}", missing.reason)), ..missing })
                }
                Value::Missing(missing) => Value::Missing(Missing { told: true, ..missing }),
                Value::Intended => Value::Missing(Missing { told: true, ..Missing::new(Nothing::Blank, "blank") }),
                value => value,
            },
            CompiledSource::Template(pieces) => self.template(pieces),
            CompiledSource::Cut(branches) => self.branches(branches).0,
            CompiledSource::Blank => Value::Intended,
        }
    }

    fn template(&mut self, pieces: &[CompiledPiece]) -> Value<'a> {
        let mut made = self.buffer(0);
        for piece in pieces {
            match piece {
                CompiledPiece::Literal(text) => made.push_str(text),
                CompiledPiece::Field(label, source) => match self.source(source) {
                    Value::Text(piece) => made.push_str(piece.text()),
                    Value::List(items) => made.push_str(self.joined(items)),
                    Value::Intended => {}
                    Value::Missing(missing) if missing.nothing == Nothing::Blank || missing.told => return Value::Missing(missing),
                    // A helper's reason names it already.
                    Value::Missing(missing) if missing.reason.strip_prefix(label.as_str()).is_some_and(|rest| rest.starts_with(": ")) => {
                        return Value::Missing(missing);
                    }
                    Value::Missing(missing) => {
                        let reason = self.say(format_args!("{label}: {}", missing.reason));
                        return Value::Missing(Missing { reason, ..missing });
                    }
                },
            }
        }
        let made = made.into_bump_str();
        if made.is_empty() {
            return Value::Missing(Missing::new(Nothing::Empty, "nothing left"));
        }
        Value::Text(Piece::whole(made))
    }

    /// Gives the value of a cut to its names and makes the findings at its end.
    fn give_out(&mut self, n: usize, cut: &CompiledCut, value: Value<'a>) {
        let whole = |value| match value {
            Value::Text(piece) if piece.text().trim_start().is_empty() => Value::Missing(Missing::new(Nothing::Empty, "only white space")),
            value => value,
        };
        if let [name] = cut.names.as_slice() {
            let value = match whole(value) {
                Value::List(items) => self.end_of_list(items, name.hidden),
                value => value,
            };
            if let Value::Missing(missing) = value {
                self.report(missing, name.optional || name.hidden);
            }
            self.values.push(value);
            return;
        }
        let items = match value {
            Value::List(items) => items,
            Value::Text(piece) => {
                let mut one = self.items();
                one.push(Ok(piece));
                one.into_bump_slice()
            }
            Value::Missing(missing) => {
                self.report(missing, cut.names.iter().all(|name| name.optional || name.hidden));
                self.values.extend(cut.names.iter().map(|_| value));
                return;
            }
            Value::Intended => {
                self.values.extend(cut.names.iter().map(|_| value));
                return;
            }
        };
        let needed = cut.names.iter().filter(|name| !name.optional).count();
        if items.len() < needed || items.len() > cut.names.len() {
            let reason =
                self.say(format_args!("{} part{} for {} names", items.len(), if items.len() == 1 { "" } else { "s" }, cut.names.len()));
            self.about = About::Cut(n);
            self.find(FindingKind::Parts, reason, "");
        }
        for (place, name) in cut.names.iter().enumerate() {
            self.about = About::Name { cut: n, name: place };
            let value = match items.get(place) {
                None => {
                    Value::Missing(Missing { told: true, ..Missing::new(Nothing::Absent, self.say(format_args!("no part {}", place + 1))) })
                }
                Some(Ok(piece)) if piece.text().is_empty() => {
                    Value::Missing(Missing::new(Nothing::Empty, self.say(format_args!("part {} is empty", place + 1))))
                }
                Some(item) => whole((*item).into()),
            };
            if let Value::Missing(missing) = value {
                self.report(missing, name.optional || name.hidden || name.skip);
            }
            self.values.push(value);
        }
    }

    /// A list at the end of a cut with one name: joined, with one finding for the items that went missing.
    fn end_of_list(&mut self, items: &'a [Item<'a>], hidden: bool) -> Value<'a> {
        let mut lost = items.iter().enumerate().filter_map(|(n, item)| Some((n + 1, item.as_ref().err()?)));
        if let Some((n, missing)) = lost.next()
            && !hidden
        {
            let more = lost.count();
            let reason = match more {
                0 => self.say(format_args!("item {n}: {}", missing.reason)),
                _ => self.say(format_args!("item {n}: {} (and {more} more)", missing.reason)),
            };
            self.find(FindingKind::Missing, reason, "");
        }
        let text = self.joined(items);
        if text.trim_start().is_empty() {
            return Value::Missing(Missing::new(Nothing::Empty, "nothing left"));
        }
        Value::Text(Piece::whole(text))
    }

    fn joined(&self, items: &[Item<'a>]) -> &'a str {
        let mut text = self.buffer(0);
        for (n, item) in items.iter().enumerate() {
            if n > 0 {
                text.push_str("; ");
            }
            if let Ok(piece) = item {
                text.push_str(piece.text());
            }
        }
        text.into_bump_str()
    }

    fn report(&mut self, missing: Missing<'a>, silent: bool) {
        if !silent && !missing.told && missing.nothing != Nothing::Blank {
            self.find(FindingKind::Missing, missing.reason, "");
        }
    }

    fn note_blanks(&mut self) {
        let blank = std::mem::replace(&mut self.blank, bumpalo::collections::Vec::new_in(self.findings.bump()));
        for source in blank {
            self.about = About::Column(source);
            self.find(FindingKind::Blank, "blank", "");
        }
    }
}
