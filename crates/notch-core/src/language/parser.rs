//! The tokens of a cut, and where the parser is among them. What it reads stands by topic in files
//! of its own: the frame of the language (`parse`), conditions, the slots of words, and what is
//! said where a text stops being a cut.

use super::error::CutError;
use super::form::Slot;
use super::token::{Token, TokenKind, tokens};

/// How deep brackets and templates may stand in each other, so that no text can exhaust the stack.
pub(super) const DEEPEST: usize = 24;

pub(super) struct Parser<'s> {
    pub(super) source: &'s str,
    pub(super) tokens: Vec<Token>,
    pub(super) at: usize,
    pub(super) depth: usize,
    /// The farthest token at which something else was expected, and what.
    pub(super) farthest: usize,
    pub(super) expected: Vec<String>,
    /// Which slots are among those.
    pub(super) expected_slots: Vec<Slot>,
    /// A step or a source was expected where the text ends.
    pub(super) wants_step: bool,
    /// How many brackets stand around it that are steps.
    pub(super) brackets: usize,
    pub(super) hints: Vec<String>,
}

impl<'s> Parser<'s> {
    pub(super) fn new(source: &'s str) -> Result<Self, CutError> {
        let tokens = tokens(source)?;
        Ok(Self {
            source,
            tokens,
            at: 0,
            depth: 0,
            farthest: 0,
            expected: Vec::new(),
            expected_slots: Vec::new(),
            wants_step: false,
            brackets: 0,
            hints: Vec::new(),
        })
    }

    pub(super) fn source(&self) -> &'s str {
        self.source
    }

    pub(super) fn peek(&self) -> &Token {
        // The last token is End and `advance` never passes it.
        &self.tokens[self.at]
    }

    pub(super) fn advance(&mut self) {
        self.at = (self.at + 1).min(self.tokens.len() - 1);
    }

    pub(super) fn position(&self) -> usize {
        self.at
    }

    pub(super) fn return_to(&mut self, position: usize) {
        self.at = position;
    }

    pub(super) fn end_of_last(&self) -> usize {
        self.at.checked_sub(1).map_or(0, |last| self.tokens[last].span.end)
    }

    pub(super) fn hint(&mut self, hint: String) {
        if !self.hints.contains(&hint) {
            self.hints.push(hint);
        }
    }

    pub(super) fn written(&self, token: &Token) -> &'s str {
        &self.source[token.span.clone()]
    }

    /// Takes the word if it is the next token.
    pub(super) fn word(&mut self, word: &str) -> bool {
        self.literal(word, TokenKind::Word)
    }

    /// Takes the symbol if it is the next token.
    pub(super) fn symbol(&mut self, symbol: &str) -> bool {
        self.literal(symbol, TokenKind::Symbol)
    }

    pub(super) fn literal(&mut self, literal: &str, kind: TokenKind) -> bool {
        let token = self.peek();
        if token.kind == kind && self.written(token) == literal {
            self.advance();
            return true;
        }
        self.expect(format!("`{literal}`"));
        false
    }

    pub(super) fn expect(&mut self, what: String) {
        if self.at > self.farthest {
            self.farthest = self.at;
            self.expected.clear();
            self.expected_slots.clear();
        }
        if self.at == self.farthest && !self.expected.contains(&what) {
            self.expected.push(what);
        }
    }

    pub(super) fn expect_slot(&mut self, slot: Slot) {
        self.expect(format!("{} ({})", slot.name(), slot.meaning()));
        if self.at == self.farthest && !self.expected_slots.contains(&slot) {
            self.expected_slots.push(slot);
        }
    }

    // ---- the frame
}
