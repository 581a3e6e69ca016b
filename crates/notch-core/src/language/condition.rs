//! What stands after `if` and `check`: tests, with `and`, `or`, `not` and brackets.

use super::error::CutError;
use super::parser::{DEEPEST, Parser};
use super::syntax::{ConditionNode, SubjectNode};
use super::token::TokenKind;
use super::words::Group;

/// What a test is about that names nothing.
#[derive(Debug, Clone)]
pub(super) enum UnsetSubject {
    /// The text the chain has reached, or the column whose check it is.
    It,
    /// What the test to its left is about; the first one must say it.
    Carried(Option<SubjectNode>),
    /// Nothing: every test must say it, or carry on the one to its left.
    Named(Option<SubjectNode>),
}

impl UnsetSubject {
    fn subject(&self) -> Option<SubjectNode> {
        match self {
            UnsetSubject::It => Some(SubjectNode::It),
            UnsetSubject::Carried(subject) | UnsetSubject::Named(subject) => subject.clone(),
        }
    }
}

impl Parser<'_> {
    /// A condition; `unset` is the subject of tests that name none.
    pub(super) fn condition(&mut self, mut unset: UnsetSubject) -> Result<ConditionNode, CutError> {
        self.any(&mut unset)
    }

    /// Tests joined by `or`.
    fn any(&mut self, subject: &mut UnsetSubject) -> Result<ConditionNode, CutError> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(CutError::new(
                self.peek().span.clone(),
                "Brackets stand too deep in each other here",
            ));
        }
        let mut tests = vec![self.all(subject)?];
        while self.word("or") {
            let token = self.peek().clone();
            if matches!(token.kind, TokenKind::Text(_)) {
                return Err(self.texts_joined_by_or(token.span));
            }
            tests.push(self.all(subject)?);
        }
        self.depth -= 1;
        Ok(one_or(tests, ConditionNode::Any))
    }

    /// `is "SK" or "LI"`: the texts in the form they have here.
    fn texts_joined_by_or(&self, span: std::ops::Range<usize>) -> CutError {
        let is_text = |at: usize| {
            self.tokens.get(at).is_some_and(|token| matches!(token.kind, TokenKind::Text(_)))
        };
        let is_or =
            |at: usize| self.tokens.get(at).is_some_and(|token| self.written(token) == "or");
        let mut from = self.at;
        while from >= 2 && is_or(from - 1) && is_text(from - 2) {
            from -= 2;
        }
        let places =
            (from..).step_by(2).take_while(|at| is_text(*at) && (*at == from || is_or(at - 1)));
        let texts: Vec<&str> = places.map(|at| self.written(&self.tokens[at])).collect();
        let error = CutError::new(span, "Behind `or` a whole test is wanted, not a text alone");
        match texts.len() {
            0 | 1 => error.remedy("One of several texts is written: is in (\"A\", \"B\")."),
            _ => error
                .remedy(format!("One of several texts is written: is in ({}).", texts.join(", "))),
        }
    }

    fn all(&mut self, subject: &mut UnsetSubject) -> Result<ConditionNode, CutError> {
        let mut tests = vec![self.not(subject)?];
        while self.word("and") {
            tests.push(self.not(subject)?);
        }
        Ok(one_or(tests, ConditionNode::All))
    }

    fn not(&mut self, subject: &mut UnsetSubject) -> Result<ConditionNode, CutError> {
        if self.word("not") {
            self.depth += 1;
            if self.depth > DEEPEST {
                return Err(CutError::new(
                    self.peek().span.clone(),
                    "There are too many `not` here",
                ));
            }
            let inner = self.not(subject)?;
            self.depth -= 1;
            return Ok(ConditionNode::Not(Box::new(inner)));
        }
        let start = self.position();
        if self.symbol("(") {
            // A bracket holds a condition, or the cut a test is about: whichever can be read.
            let (depth, known) = (self.depth, subject.clone());
            let inner = self.any(subject).and_then(|inner| {
                if self.symbol(")") { Ok(inner) } else { Err(self.unexpected()) }
            });
            match inner {
                Ok(inner) => return Ok(inner),
                Err(error) => {
                    self.return_to(start);
                    self.depth = depth;
                    *subject = known;
                    let tried = self.test(subject);
                    return tried.map_err(|other| {
                        if other.span.start >= error.span.start { other } else { error }
                    });
                }
            }
        }
        self.test(subject)
    }

    fn test(&mut self, subject: &mut UnsetSubject) -> Result<ConditionNode, CutError> {
        let token = self.peek().clone();
        let named = match &token.kind {
            TokenKind::Column(column) => {
                self.advance();
                Some(SubjectNode::Column(column.clone(), token.span.clone()))
            }
            TokenKind::Word if !matches!(subject, UnsetSubject::Named(_)) && self.word("it") => {
                Some(SubjectNode::It)
            }
            TokenKind::Symbol if self.symbol("(") => {
                let cut = self.cut(None)?;
                if !self.symbol(")") {
                    return Err(self.unexpected());
                }
                Some(SubjectNode::Cut(Box::new(cut)))
            }
            _ => None,
        };
        let Some(subject_of_test) = named.or_else(|| subject.subject()) else {
            let error =
                CutError::new(token.span, "The first test of a condition says what it is about");
            return Err(match subject {
                UnsetSubject::Named(_) => error.remedy(
                    "It is about a whole row, so each test begins with a column: {column} is ….",
                ),
                _ => error
                    .remedy("Write if {column} …, or if it … for the text the chain has reached."),
            });
        };
        let start = self.position();
        let Some(test) = self.one_of(Group::Test)? else {
            let farthest = self.farthest.max(start);
            let habit = self.habit_of_test(start).or_else(|| self.habit_of_test(farthest));
            return Err(habit.unwrap_or_else(|| self.unexpected()));
        };
        match subject {
            UnsetSubject::It => {}
            UnsetSubject::Carried(subject) | UnsetSubject::Named(subject) => {
                *subject = Some(subject_of_test.clone())
            }
        }
        Ok(ConditionNode::Test { subject: subject_of_test, test })
    }
}

fn one_or(
    mut tests: Vec<ConditionNode>,
    many: fn(Vec<ConditionNode>) -> ConditionNode,
) -> ConditionNode {
    match (tests.len(), tests.pop()) {
        (1, Some(one)) => one,
        (_, last) => {
            tests.extend(last);
            many(tests)
        }
    }
}
