//! What is said when nothing fits, and what is worth saying when something does.

use super::error::{CutError, either, nearest};
use super::parse::Parser;
use super::syntax::{Chain, Cut};
use super::token::{QUOTES, Token, TokenKind, is_name_character};
use super::words::{Group, entries};

impl Parser<'_> {
    pub(super) fn no_step(&self, token: &Token) -> CutError {
        let written = self.written(token);
        let heads = || entries(Group::is_step).flat_map(|entry| entry.form.heads());
        let list = "`notch words` lists the steps.";
        match &token.kind {
            TokenKind::End => CutError::new(token.span.clone(), "A step or a source was expected here, and the cut ends").remedy(list),
            TokenKind::Word => {
                let error = CutError::new(token.span.clone(), format!("`{written}` is not a step"));
                match nearest(written, heads()) {
                    Some(near) => error.remedy(format!("The nearest is `{near}`.")),
                    None => error.remedy(format!("A column stands in braces: {{{written}}}. {list}")),
                }
            }
            TokenKind::Column(_) | TokenKind::Text(_) if self.at > 0 && self.written(&self.tokens[self.at - 1]) == "|" => {
                CutError::new(token.span.clone(), format!("Behind a bar a step is wanted, and {written} is a source"))
                    .remedy("A source stands at the head of a chain: {lot} | first 2 else {old_lot} | first 2.")
            }
            _ => CutError::new(token.span.clone(), format!("A step or a source was expected here, not {written}")).remedy(list),
        }
    }

    /// What is wrong at the farthest place that was reached.
    pub(super) fn unexpected(&self) -> CutError {
        let token = &self.tokens[self.farthest.max(self.at)];
        let written = self.written(token);
        let expected = if self.farthest >= self.at { self.expected.as_slice() } else { &[] };
        let quotes_missing = self.text_expected && !self.source().contains(QUOTES);

        let is_step_head = entries(Group::is_step).any(|entry| entry.form.heads().contains(&written));
        if is_step_head && self.farthest > 0 && expected.iter().any(|item| item == "`|`") {
            return CutError::new(token.span.clone(), format!("Steps are chained with |, which is missing before `{written}`"))
                .remedy(format!("Write … | {written} …"));
        }
        if written == "or" && expected.iter().any(|item| item == "`else`") {
            return CutError::new(token.span.clone(), "What to take instead is said with `else`").remedy("Write else instead of or.");
        }
        let behind_or = self.farthest > 0 && self.written(&self.tokens[self.farthest - 1]) == "or";
        if behind_or && expected.iter().any(|item| item == "`end`" || item == "`start`") {
            return CutError::new(token.span.clone(), format!("Behind `or` stands {} here, for the whole text", either(expected)))
                .remedy("Anything else to take instead is said with `else`: … else \"\".");
        }
        let found = match token.kind {
            TokenKind::End => "the cut ends".to_owned(),
            _ => format!("there stands {written}"),
        };
        let mut error = CutError::new(token.span.clone(), format!("Expected {}, but {found}", either(expected)));
        error.quotes_missing = quotes_missing;
        let literals = expected.iter().filter_map(|item| item.strip_prefix('`')?.strip_suffix('`'));
        match nearest(written, literals) {
            Some(near) if token.kind == TokenKind::Word && near.starts_with(is_name_character) => {
                error.remedy(format!("The nearest is `{near}`."))
            }
            _ => error,
        }
    }
}

/// Steps behind the last `else` work on that branch alone; when they tidy, all branches were probably meant.
pub(super) fn then_hint(source: &str, cut: &Cut) -> Option<String> {
    let (last, earlier) = cut.chains.split_last()?;
    if earlier.is_empty() || !cut.then.is_empty() {
        return None;
    }
    let tidying = |chain: &Chain| {
        let kept = chain.steps.iter().rev().take_while(|step| matches!(step.word.group, Group::Tidy | Group::Check)).count();
        chain.steps.len() - kept
    };
    let from = tidying(last);
    let steps = &last.steps[from..];
    let (first_step, last_step) = (steps.first()?, steps.last()?);
    if earlier.iter().any(|chain| tidying(chain) < chain.steps.len()) {
        return None;
    }
    let written = &source[first_step.span.start..last_step.span.end];
    Some(format!("`{written}` works on the last branch alone. For all branches write: … else … then {written}"))
}
