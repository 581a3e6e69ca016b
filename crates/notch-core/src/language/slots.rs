//! What may stand in the slots of a form.

use super::condition::UnsetSubject;
use super::error::CutError;
use super::form::Slot;
use super::parser::Parser;
use super::syntax::{ArgValue, Comparison, KindItem, Limits, MarkNode, Operand, Reach};
use super::token::{ColumnRef, TokenKind, ordinal_suffix};
use super::words::Group;
use crate::schemes::Scheme;
use crate::text::{Decimal, Kind};

/// More decimals are a slip of the finger.
const MOST_DECIMALS: i64 = 100;

/// A count beyond this is a slip of the finger.
const LARGEST: i64 = 1_000_000_000;

impl Parser<'_> {
    /// Reads what stands in a slot; `None`, with the place where it was, when nothing fit does.
    ///
    /// # Errors
    /// What can be nothing else but is wrong in itself: a count of 0, a range running backwards, an
    /// empty text where none makes sense.
    pub(super) fn slot(&mut self, slot: Slot) -> Result<Option<ArgValue>, CutError> {
        let value = match slot {
            Slot::Count => self.count()?.map(ArgValue::Count),
            Slot::Decimals => self.decimals()?.map(ArgValue::Count),
            Slot::Pick => self.pick()?.map(ArgValue::Reach),
            Slot::Range => self.range(1)?.map(ArgValue::Reach),
            Slot::Length => self.range(0)?.map(ArgValue::Reach),
            Slot::Place => self.place()?.map(ArgValue::Place),
            Slot::Regex => self.regex(),
            Slot::Text | Slot::Character => self.text().map(ArgValue::Text),
            Slot::Mark => self.mark()?.map(ArgValue::Mark),
            Slot::Separator => self.separator()?,
            Slot::Widths => self.widths()?.map(ArgValue::Counts),
            Slot::Kinds => self.kinds().map(ArgValue::Kinds),
            Slot::Group => match self.count()? {
                Some(n) => Some(ArgValue::Count(n)),
                None => self.name().map(ArgValue::Name),
            },
            Slot::Texts => self.texts()?.map(ArgValue::Texts),
            Slot::List => self.name().map(ArgValue::Name),
            Slot::Limits => self.limits()?.map(ArgValue::Limits),
            Slot::Column => self.column().map(ArgValue::Column),
            Slot::When => match self.column() {
                Some(column) => Some(ArgValue::Column(column)),
                None => self.text().map(ArgValue::Text),
            },
            Slot::Condition => {
                Some(ArgValue::Condition(Box::new(self.condition(UnsetSubject::It)?)))
            }
            Slot::Scheme => self.scheme().map(ArgValue::Scheme),
        };
        Ok(value)
    }

    fn number(&mut self) -> Option<i64> {
        match self.peek().kind {
            TokenKind::Number(n) => {
                self.advance();
                Some(n)
            }
            _ => None,
        }
    }

    fn count(&mut self) -> Result<Option<usize>, CutError> {
        let span = self.peek().span.clone();
        match self.number() {
            None => Ok(None),
            Some(0) => {
                Err(CutError::new(span, "Counts start at 1; 0 of something cannot be asked for"))
            }
            Some(n) if n < 0 => {
                let error =
                    CutError::new(span, "A count from 1 is wanted here, not a negative one");
                let written = |back: usize| {
                    self.at.checked_sub(back).map_or("", |at| self.written(&self.tokens[at]))
                };
                // The token before the number, which has been taken.
                Err(match (written(2), written(3)) {
                    ("first", "drop") | ("last", "drop") => error,
                    ("first", _) => error.remedy(format!(
                        "Without the last ones: drop last {0}; only those: last {0}.",
                        -n
                    )),
                    ("last", _) => error.remedy(format!(
                        "Without the first ones: drop first {0}; only those: first {0}.",
                        -n
                    )),
                    _ => error,
                })
            }
            Some(n) if n > LARGEST => {
                Err(CutError::new(span, "No text has that many characters or parts"))
            }
            Some(n) => Ok(usize::try_from(n).ok()),
        }
    }

    /// A number of decimals, which may be 0.
    fn decimals(&mut self) -> Result<Option<usize>, CutError> {
        let span = self.peek().span.clone();
        match self.number() {
            Some(n) if !(0..=MOST_DECIMALS).contains(&n) => Err(CutError::new(
                span,
                format!("A number is written with 0 to {MOST_DECIMALS} decimals"),
            )),
            n => Ok(n.and_then(|n| usize::try_from(n).ok())),
        }
    }

    fn text(&mut self) -> Option<String> {
        let TokenKind::Text(text) = &self.peek().kind else {
            return None;
        };
        let text = text.clone();
        self.advance();
        Some(text)
    }

    /// `2..3`, `2..`, `..3`, `2`: numbers with or without `..`.
    fn range(&mut self, least: i64) -> Result<Option<Reach>, CutError> {
        let start = self.peek().span.start;
        let first = self.number();
        let ranged = self.symbol("..");
        let last = if ranged { self.number() } else { first };
        if first.is_none() && last.is_none() {
            // `..` alone keeps everything, which is no cut.
            return Ok(None);
        }
        let span = start..self.end_of_last();
        if least > 0 && (first == Some(0) || last == Some(0)) {
            return Err(CutError::new(span, "Positions start at 1; there is no position 0"));
        }
        if let (Some(a), Some(b)) = (first, last)
            && a.signum() == b.signum()
            && a > b
        {
            let remedy = if a > 0 {
                format!(
                    "For {b} of them from the {a}{} on: {a} for {b}. Otherwise the smaller first: \
                    {b}..{a}.",
                    ordinal_suffix(a)
                )
            } else {
                format!("Counted from the end, the farther one stands first: {b}..{a}.")
            };
            return Err(CutError::new(span, format!("{a}..{b} runs backwards")).remedy(remedy));
        }
        Ok(Some(Reach { first, last, single: !ranged }))
    }

    /// A range, or `last`, `2nd`, `2nd last`.
    fn pick(&mut self) -> Result<Option<Reach>, CutError> {
        match self.which()? {
            Some(place) => Ok(Some(Reach::one(place))),
            None => self.range(1),
        }
    }

    /// `1st`, `2nd`, …, `first`, `last`, `2nd last`: 1 is the first, -1 the last.
    fn which(&mut self) -> Result<Option<i64>, CutError> {
        if self.word("first") {
            return Ok(Some(1));
        }
        if self.word("last") {
            return Ok(Some(-1));
        }
        let TokenKind::Ordinal { n, proper } = self.peek().kind else {
            return Ok(None);
        };
        let span = self.peek().span.clone();
        if n == 0 {
            return Err(CutError::new(span, "Occurrences are counted from 1: 1st, 2nd, …"));
        }
        if !proper {
            self.hint(format!("{} was read as {n}{}.", &self.source()[span], ordinal_suffix(n)));
        }
        self.advance();
        Ok(Some(if self.word("last") { -n } else { n }))
    }

    /// One place: a number that is not 0, or `last` and the like.
    fn place(&mut self) -> Result<Option<i64>, CutError> {
        if let Some(place) = self.which()? {
            return Ok(Some(place));
        }
        let span = self.peek().span.clone();
        match self.number() {
            Some(0) => Err(CutError::new(span, "Counts start at 1; there is no 0th")),
            place => Ok(place),
        }
    }

    fn regex(&mut self) -> Option<ArgValue> {
        let TokenKind::Regex { pattern, flags } = self.peek().kind.clone() else {
            return None;
        };
        self.advance();
        Some(ArgValue::Regex { pattern, flags })
    }

    fn column(&mut self) -> Option<ColumnRef> {
        let TokenKind::Column(column) = self.peek().kind.clone() else {
            return None;
        };
        self.advance();
        Some(column)
    }

    fn name(&mut self) -> Option<String> {
        if self.peek().kind != TokenKind::Word {
            return None;
        }
        let name = self.source()[self.peek().span.clone()].to_owned();
        self.advance();
        Some(name)
    }

    /// A scheme's name, which may end in a hyphen and a figure: `mod11-2`.
    fn scheme(&mut self) -> Option<&'static Scheme> {
        let start = self.peek().span.start;
        self.name()?;
        if self.peek().span.start == self.end_of_last() {
            self.number();
        }
        Scheme::named(&self.source()[start..self.end_of_last()])
    }

    fn widths(&mut self) -> Result<Option<Vec<usize>>, CutError> {
        let Some(first) = self.count()? else {
            return Ok(None);
        };
        let mut widths = vec![first];
        while self.symbol(",") {
            match self.count()? {
                Some(width) => widths.push(width),
                None => return Ok(None),
            }
        }
        Ok(Some(widths))
    }

    fn kinds(&mut self) -> Option<Vec<KindItem>> {
        const NAMES: [(&str, Kind); 4] = [
            ("digits", Kind::Digit),
            ("letters", Kind::Letter),
            ("spaces", Kind::Space),
            ("symbols", Kind::Symbol),
        ];
        let mut kinds = Vec::new();
        loop {
            if let Some((_, kind)) = NAMES.iter().find(|(name, _)| self.word(name)) {
                kinds.push(KindItem::Kind(*kind));
            } else if let Some(text) = self.text() {
                kinds.push(KindItem::These(text));
            } else {
                return (!kinds.is_empty()).then_some(kinds);
            }
        }
    }

    fn texts(&mut self) -> Result<Option<Vec<String>>, CutError> {
        if !self.symbol("(") {
            return Ok(None);
        }
        let mut texts = Vec::new();
        loop {
            match self.text() {
                Some(text) => texts.push(text),
                None => return Ok(None),
            }
            if self.symbol(")") {
                return Ok(Some(texts));
            }
            if !self.symbol(",") {
                return Ok(None);
            }
        }
    }

    /// A number as it is written, with a point.
    fn figure(&mut self) -> Option<String> {
        if !matches!(self.peek().kind, TokenKind::Number(_) | TokenKind::Decimal) {
            return None;
        }
        let figure = self.source()[self.peek().span.clone()].to_owned();
        self.advance();
        Some(figure)
    }

    fn limits(&mut self) -> Result<Option<Limits>, CutError> {
        const COMPARISONS: [(&str, Comparison); 4] = [
            ("<=", Comparison::AtMost),
            (">=", Comparison::AtLeast),
            ("<", Comparison::Less),
            (">", Comparison::More),
        ];
        if let Some((_, comparison)) = COMPARISONS.iter().find(|(symbol, _)| self.symbol(symbol)) {
            let operand = match self.column() {
                Some(column) => Some(Operand::Column(column)),
                None => self.figure().map(Operand::Text),
            };
            return Ok(operand.map(|operand| Limits::Compared(*comparison, operand)));
        }
        let start = self.peek().span.start;
        let first = self.figure();
        let last = if self.symbol("..") { self.figure() } else { first.clone() };
        if let (Some(a), Some(b)) =
            (first.as_deref().and_then(Decimal::plain), last.as_deref().and_then(Decimal::plain))
            && a > b
        {
            let span = start..self.end_of_last();
            return Err(CutError::new(span, "These limits run backwards")
                .remedy("The smaller number stands first."));
        }
        Ok((first.is_some() || last.is_some()).then_some(Limits::Between(first, last)))
    }

    fn mark(&mut self) -> Result<Option<MarkNode>, CutError> {
        let start = self.peek().span.start;
        let which = self.which()?;
        let Some(what) = self.one_of(Group::Mark)? else {
            return Ok(None);
        };
        let spelled = self.source()[start..self.end_of_last()].to_owned();
        let ignoring_case = self.ignoring_case();
        Ok(Some(MarkNode {
            which: which.unwrap_or(1),
            which_said: which.is_some(),
            what,
            ignoring_case,
            spelled,
        }))
    }

    fn separator(&mut self) -> Result<Option<ArgValue>, CutError> {
        let Some(node) = self.one_of(Group::Separator)? else {
            return Ok(None);
        };
        let ignoring_case = self.ignoring_case();
        Ok(Some(ArgValue::Separator(node, ignoring_case)))
    }

    pub(super) fn ignoring_case(&mut self) -> bool {
        let start = self.position();
        if self.word("ignoring") && self.word("case") {
            return true;
        }
        self.return_to(start);
        false
    }
}
