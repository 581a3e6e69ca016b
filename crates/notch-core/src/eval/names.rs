//! The end of a cut: its value goes to its names, and what is to be said of it is said.

use crate::finding::{About, Finding, FindingKind};
use crate::program::CompiledCut;
use crate::program::{BETWEEN_ITEMS, BLANK, HelperFinding, RowContext};
use crate::program::{Caveat, Item, Missing, Nothing, Value};
use crate::text::characters::is_blank;

/// A value as a cell has it: text of nothing but white space is missing.
fn whole(value: Value<'_>) -> Value<'_> {
    match value {
        Value::Text(piece) if is_blank(piece.text()) => {
            Value::Missing(Missing::new(Nothing::Empty, "only white space"))
        }
        value => value,
    }
}

impl<'a> RowContext<'a> {
    /// Returns the value of a cut to its names and makes the findings at its end.
    pub(super) fn give_out(&mut self, n: usize, cut: &CompiledCut, value: Value<'a>) {
        if let [name] = cut.names.as_slice() {
            let value = match whole(value) {
                Value::List(items) => self.end_of_list(items, name.hidden),
                value => value,
            };
            if let Value::Missing(missing) = value {
                self.report_missing(missing, name.optional || name.hidden);
            }
            let value = self.with_caveats(value, name.hidden);
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
            Value::Missing(_) | Value::Intended => {
                if let Value::Missing(missing) = value {
                    let may_lack = cut.names.iter().all(|name| name.optional || name.hidden);
                    self.report_missing(missing, may_lack);
                }
                self.values.extend(cut.names.iter().map(|_| value));
                return;
            }
        };
        self.give_items_out(n, cut, items);
    }

    /// Returns each name of several its item of a list.
    fn give_items_out(&mut self, n: usize, cut: &CompiledCut, items: &[Item<'a>]) {
        let needed = cut.names.iter().filter(|name| !name.optional).count();
        if items.len() < needed || items.len() > cut.names.len() {
            let reason = self.alloc_fmt(format_args!(
                "{} part{} for {} names",
                items.len(),
                if items.len() == 1 { "" } else { "s" },
                cut.names.len()
            ));
            self.about = About::Cut(n);
            self.report(FindingKind::Parts, reason, "");
        }
        // Of the names that may stay blank, which stand together, the last ones do where there are
        // fewer items than names.
        let lacking = (
            cut.names.len() - items.len().clamp(needed, cut.names.len()),
            cut.names.iter().rposition(|name| name.optional),
        );
        let passed = |place: usize| {
            lacking
                .1
                .map(|last| last + 1 - lacking.0..last + 1)
                .is_some_and(|blank| blank.contains(&place))
        };
        let mut next = 0_usize..;
        for (place, name) in cut.names.iter().enumerate() {
            self.about = About::Name { cut: n, name: place };
            let part = if passed(place) { None } else { next.next() };
            let value = match part.and_then(|part| Some((part, items.get(part)?))) {
                None => Value::Missing(Missing {
                    told: true,
                    ..Missing::new(
                        Nothing::Absent,
                        self.alloc_fmt(format_args!("no part {}", place + 1)),
                    )
                }),
                Some((part, Ok(piece))) if piece.text().is_empty() => Value::Missing(Missing::new(
                    Nothing::Empty,
                    self.alloc_fmt(format_args!("part {} is empty", part + 1)),
                )),
                Some((_, item)) => whole((*item).into()),
            };
            if let Value::Missing(missing) = value {
                self.report_missing(missing, name.optional || name.hidden || name.skip);
            }
            let value = if name.skip { value } else { self.with_caveats(value, name.hidden) };
            self.values.push(value);
        }
    }

    /// Reports what is to be said of a cell with this value, once; a helper keeps it for the cuts
    /// that read it.
    pub(super) fn with_caveats(&mut self, value: Value<'a>, hidden: bool) -> Value<'a> {
        let (text, of_value) = match value {
            Value::Text(piece) => (piece.text(), Self::caveat_of(value)),
            Value::Intended => ("", Caveat::default()),
            Value::List(_) | Value::Missing(_) => return value,
        };
        let caveat = of_value.and(self.asked);
        if caveat.is_empty() {
            return value;
        }
        let with = |caveat| match value {
            Value::Text(piece) => Value::Text(piece.with_caveat(caveat)),
            value => value,
        };
        if hidden {
            return with(self.caveat(caveat));
        }
        match (caveat.doubt, caveat.note) {
            (Some((reason, counted_as)), Some(note)) => {
                let counted_as = counted_as
                    .map(|_| "one mark and three digits: grouped or decimal, and zeros in front");
                self.report_as(
                    FindingKind::Doubtful,
                    (self.alloc_fmt(format_args!("{reason}; {note}")), counted_as),
                    text,
                );
            }
            (Some(doubt), None) => self.report_as(FindingKind::Doubtful, doubt, text),
            (None, Some(note)) => self.report(FindingKind::ZerosDropped, note, text),
            (None, None) => {}
        }
        self.events.extend(caveat.event);
        with(None)
    }

    /// A list at the end of a cut with one name: joined, with one finding for the items that went
    /// missing.
    pub(super) fn end_of_list(&mut self, items: &'a [Item<'a>], hidden: bool) -> Value<'a> {
        if !hidden {
            self.report_lost(items);
        }
        let joined = match self.joined_piece(items, BETWEEN_ITEMS) {
            Ok(joined) => joined,
            Err(missing) => return Value::Missing(missing),
        };
        if is_blank(joined.text()) {
            return Value::Missing(Missing::new(Nothing::Empty, "nothing left"));
        }
        Value::Text(joined)
    }

    pub(super) fn report_missing(&mut self, missing: Missing<'a>, silent: bool) {
        if !silent && !missing.told && missing.nothing != Nothing::Blank {
            let kind = if missing.nothing == Nothing::TooLong {
                FindingKind::TooLong
            } else {
                FindingKind::Missing
            };
            self.report(kind, missing.reason, "");
        }
    }

    pub(super) fn note_blanks(&mut self) {
        let blank = std::mem::replace(
            &mut self.blank,
            bumpalo::collections::Vec::new_in(self.findings.bump()),
        );
        for source in blank {
            self.about = About::Column(source);
            self.report(FindingKind::Blank, BLANK, "");
        }
    }

    /// Takes the findings of the current cut, whose values begin at `from`, back: those that read
    /// it report them.
    pub(super) fn keep_for_readers(&mut self, from: usize, origin: Option<usize>) {
        let slots = (from, self.values.len());
        let found = self.findings.split_off(self.cut_from);
        self.of_helpers.extend(found.into_iter().map(|finding| HelperFinding {
            slots,
            finding,
            origin,
            is_read: false,
        }));
    }

    /// The findings of helpers that no written cut of the row has read are about the column that
    /// these start from.
    pub(super) fn report_unread_helpers(&mut self) {
        let helpers = std::mem::replace(
            &mut self.of_helpers,
            bumpalo::collections::Vec::new_in(self.findings.bump()),
        );
        for HelperFinding { finding, origin, .. } in
            helpers.into_iter().filter(|held| !held.is_read)
        {
            self.findings
                .push(Finding { about: origin.map_or(About::Row, About::Column), ..finding });
        }
    }

    /// Takes back those values of the current cut, which begin at `from` among the values, that
    /// have a finding.
    pub(super) fn blank_found(&mut self, from: usize) {
        let nothing = Value::Missing(Missing {
            told: true,
            ..Missing::new(Nothing::Absent, "blank for a finding")
        });
        for finding in
            self.findings[self.cut_from..].iter().filter(|finding| !finding.kind.is_note())
        {
            match finding.about {
                About::Name { name, .. } => self.values[from + name] = nothing,
                _ => self.values[from..].fill(nothing),
            }
        }
    }

    /// Keeps of events that are one the first: two cells may be made of one number.
    pub(super) fn tell_events_once(&mut self) {
        for n in (0..self.events.len()).rev() {
            if self.events[..n].iter().any(|event| event.id == self.events[n].id) {
                self.events.remove(n);
            }
        }
    }
}
