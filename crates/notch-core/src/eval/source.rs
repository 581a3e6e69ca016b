//! Where chains start: columns, cuts above, templates, brackets and lists; and the steps that are
//! templates or brackets.

use super::row::ODD;
use crate::program::{BETWEEN_ITEMS, BLANK, RowContext};
use crate::program::{Branches, CompiledPiece, CompiledSource};
use crate::program::{Caveat, Item, Missing, Nothing, Piece, Value};
use crate::text::characters::is_blank;

impl<'a> RowContext<'a> {
    pub(crate) fn source(&mut self, source: &CompiledSource) -> Value<'a> {
        match source {
            CompiledSource::Column(n) if self.odd.contains(n) => {
                Value::Missing(Missing::new(Nothing::Absent, ODD))
            }
            CompiledSource::Column(n) => {
                let cell = self.cells.get(*n).copied().unwrap_or_default();
                if is_blank(cell) {
                    if !self.blank.contains(n) {
                        self.blank.push(*n);
                    }
                    return Value::Missing(Missing::new(Nothing::Blank, BLANK));
                }
                Value::Text(Piece::whole(cell))
            }
            CompiledSource::Value { slot, name, hidden } => match self.value(*slot, *hidden) {
                Value::Missing(missing) if *hidden && missing.nothing != Nothing::Blank => {
                    Value::Missing(Missing {
                        reason: self.alloc_fmt(format_args!("{name}: {}", missing.reason)),
                        named: Some(self.alloc(name)),
                        ..missing
                    })
                }
                Value::Missing(missing) => Value::Missing(Missing { told: true, ..missing }),
                Value::Intended => {
                    Value::Missing(Missing { told: true, ..Missing::new(Nothing::Blank, BLANK) })
                }
                value => value,
            },
            CompiledSource::Template(pieces) => self.template(pieces),
            CompiledSource::Cut(branches) => self.branches(branches).0,
            CompiledSource::List(cuts) => self.list(cuts),
            CompiledSource::Missing(reason) => {
                Value::Missing(Missing::new(Nothing::Final, self.alloc(reason)))
            }
            CompiledSource::Reached => self.reached,
            CompiledSource::Blank => Value::Intended,
        }
    }

    /// A cut in brackets after a bar. What is missing or blank passes it over; `passed_over`
    /// counts that.
    pub(crate) fn in_brackets(
        &mut self,
        value: Value<'a>,
        branches: &Branches,
        passed_over: Option<usize>,
    ) -> Value<'a> {
        match value {
            Value::Missing(missing) => {
                if missing.nothing != Nothing::Blank && !missing.told {
                    self.passed_over = passed_over;
                }
                return value;
            }
            Value::Text(piece) if is_blank(piece.text()) => return value,
            Value::Intended => return value,
            Value::Text(_) | Value::List(_) => {}
        }
        let outer = std::mem::replace(&mut self.reached, value);
        let made = self.branches(branches).0;
        self.reached = outer;
        made
    }

    /// A template after a bar.
    pub(crate) fn in_template(&mut self, piece: Piece<'a>, template: &CompiledSource) -> Item<'a> {
        if is_blank(piece.text()) {
            return Ok(piece);
        }
        let outer = std::mem::replace(&mut self.reached, Value::Text(piece));
        let made = self.source(template);
        self.reached = outer;
        match made {
            Value::Text(made) => Ok(made),
            Value::Missing(missing) => Err(missing),
            Value::List(_) | Value::Intended => Ok(Piece::whole("")),
        }
    }

    /// What a cut above has returned.
    pub(super) fn value(&mut self, slot: usize, hidden: bool) -> Value<'a> {
        if hidden && !self.of_helpers.is_empty() {
            self.read_helper(slot);
        }
        self.values[slot]
    }

    /// Several cuts as a list. What is blank is a blank item, nothing more.
    pub(super) fn list(&mut self, cuts: &[Branches]) -> Value<'a> {
        let mut items = self.items();
        for cut in cuts {
            let blanks = self.blank.len();
            match self.branches(cut).0 {
                Value::Text(piece) => items.push(Ok(piece)),
                Value::List(inner) => items.extend_from_slice(inner),
                Value::Intended => items.push(Ok(Piece::whole(""))),
                Value::Missing(missing) if missing.nothing == Nothing::Blank || missing.told => {
                    items.push(Ok(Piece::whole("")))
                }
                Value::Missing(missing) => items.push(Err(missing)),
            }
            self.blank.truncate(blanks);
        }
        Value::List(items.into_bump_slice())
    }

    pub(super) fn template(&mut self, pieces: &[CompiledPiece]) -> Value<'a> {
        let mut made = self.buffer(0);
        let mut caveat = Caveat::default();
        for piece in pieces {
            match piece {
                CompiledPiece::Literal(text) => made.push_str(text),
                CompiledPiece::Field(label, source) => match self.source(source) {
                    Value::Text(piece) => {
                        caveat = caveat.and(Self::caveat_of(Value::Text(piece)));
                        if let Err(missing) =
                            self.may_make(made.len() + piece.text().len(), piece.text().len())
                        {
                            return Value::Missing(missing);
                        }
                        made.push_str(piece.text());
                    }
                    Value::List(items) => {
                        caveat = caveat.and(Self::caveat_of(Value::List(items)));
                        match self.joined(items, BETWEEN_ITEMS).and_then(|joined| {
                            self.may_make(made.len() + joined.len(), joined.len()).map(|()| joined)
                        }) {
                            Ok(joined) => made.push_str(joined),
                            Err(missing) => return Value::Missing(missing),
                        }
                    }
                    Value::Intended => {}
                    Value::Missing(missing)
                        if missing.nothing == Nothing::Blank || missing.told =>
                    {
                        return Value::Missing(missing);
                    }
                    // A helper's reason names it already.
                    Value::Missing(missing) if missing.named == Some(label.as_str()) => {
                        return Value::Missing(missing);
                    }
                    Value::Missing(missing) => {
                        let reason = self.alloc_fmt(format_args!("{label}: {}", missing.reason));
                        return Value::Missing(Missing {
                            reason,
                            named: Some(self.alloc(label)),
                            ..missing
                        });
                    }
                },
            }
        }
        let made = made.into_bump_str();
        if made.is_empty() {
            return Value::Missing(Missing::new(Nothing::Empty, "nothing left"));
        }
        Value::Text(Piece::whole(made).with_caveat(self.caveat(caveat)))
    }
}
