//! What is said when nothing fits, and what is worth saying when something does.

use super::error::{CutError, either, nearest};
use super::form::Slot;
use super::parser::Parser;
use super::syntax::{ArgValue, Chain, Cut, MarkNode, Source, StepNode};
use super::token::{QUOTES, Token, TokenKind, is_name_character, ordinal_suffix};
use super::words::{Group, entries};

impl Parser<'_> {
    pub(super) fn no_step(&self, token: &Token) -> CutError {
        let written = self.written(token);
        if let Some(error) = self.habit_of_step(self.at).or_else(|| self.added_up(self.at)) {
            return error;
        }
        let heads = || entries(Group::is_step).flat_map(|entry| entry.form.heads());
        let list = "`notch words` lists the steps.";
        match &token.kind {
            TokenKind::End => CutError::new(
                token.span.clone(),
                "A step or a source was expected here, and the cut ends",
            )
            .remedy(list),
            TokenKind::Word => {
                let error = CutError::new(token.span.clone(), format!("`{written}` is not a step"));
                let next = self.tokens.get(self.at + 1).map_or("", |next| self.written(next));
                if matches!(written, "to" | "get" | "use" | "apply" | "make")
                    && heads().any(|head| head == next)
                {
                    return error.remedy(format!("Leave it out: {next}."));
                }
                match nearest(written, heads()) {
                    Some(near) => {
                        let mut error = error.nearest(near);
                        error.perhaps_column = Some(written.into());
                        error
                    }
                    None => {
                        error.remedy(format!("A column stands in braces: {{{written}}}. {list}"))
                    }
                }
            }
            TokenKind::Column(_)
                if self.at > 0 && self.written(&self.tokens[self.at - 1]) == "|" =>
            {
                CutError::new(
                    token.span.clone(),
                    format!("Behind a bar a step is wanted, and {written} is a source"),
                )
                .remedy(
                    "A source stands at the head of a chain: {lot} | first 2 else {old_lot} | \
                    first 2.",
                )
            }
            _ if written == "|" => {
                CutError::new(token.span.clone(), "Two bars stand one after the other")
                    .remedy("Between two steps stands one bar.")
            }
            _ => CutError::new(
                token.span.clone(),
                format!("A step or a source was expected here, not {written}"),
            )
            .remedy(list),
        }
    }

    /// What is wrong at the farthest place that was reached.
    pub(super) fn unexpected(&self) -> CutError {
        let at = self.farthest.max(self.at);
        let token = &self.tokens[at];
        let habit = [self.call_of_step(at), self.range_with_hyphen(at), self.added_up(at)]
            .into_iter()
            .flatten()
            .next();
        if let Some(error) = habit {
            return error;
        }
        let written = self.written(token);
        let expected = if self.farthest >= self.at { self.expected.as_slice() } else { &[] };
        // Where a fixed word could stand as well, and what stands there is like one, no quote is
        // missing.
        let literals =
            || expected.iter().filter_map(|item| item.strip_prefix('`')?.strip_suffix('`'));
        let near = nearest(written, literals())
            .filter(|near| token.kind == TokenKind::Word && near.starts_with(is_name_character));
        let asked = if self.farthest >= self.at {
            self.asked_column(at, &literals().collect::<Vec<_>>())
        } else {
            None
        };
        let is_asked = asked.is_some();
        let remedy = match near {
            _ if is_asked => asked,
            Some(near) => Some(format!("The nearest is `{near}`.")),
            None if self.farthest >= self.at => {
                self.meant(at, &self.expected_slots, &literals().collect::<Vec<_>>())
            }
            None => None,
        };
        let takes_text = |slot: &Slot| {
            matches!(slot, Slot::Text | Slot::Character | Slot::Mark | Slot::Separator)
        };
        let quotes_missing = self.expected_slots.iter().any(takes_text)
            && !self.source().contains(QUOTES)
            && remedy.is_none();

        let is_step_head =
            entries(Group::is_step).any(|entry| entry.form.heads().contains(&written));
        if is_step_head && self.farthest > 0 && expected.iter().any(|item| item == "`|`") {
            return CutError::new(
                token.span.clone(),
                format!("Steps are chained with |, which is missing before `{written}`"),
            )
            .remedy(format!("Write … | {written} …"));
        }
        if written == "or" && expected.iter().any(|item| item == "`else`") {
            return CutError::new(token.span.clone(), "What to take instead is said with `else`")
                .remedy("Write else instead of or.");
        }
        let behind_or = self.farthest > 0 && self.written(&self.tokens[self.farthest - 1]) == "or";
        if behind_or && expected.iter().any(|item| item == "`end`" || item == "`start`") {
            return CutError::new(
                token.span.clone(),
                format!("Behind `or` stands {} here, for the whole text", either(expected)),
            )
            .remedy("Anything else to take instead is said with `else`: … else \"\".");
        }
        let found = match token.kind {
            TokenKind::End => "the cut ends".to_owned(),
            _ => format!("there stands {written}"),
        };
        let mut error = CutError::new(
            token.span.clone(),
            format!("Expected {}, but {found}", either(expected)),
        );
        error.quotes_missing = quotes_missing;
        error.instead = near.filter(|_| !is_asked).map(Into::into);
        match remedy {
            Some(remedy) => error.remedy(remedy),
            None => error,
        }
    }
}

impl Parser<'_> {
    /// A bar after a condition: the chain begins at `start`, its condition lies from `condition`
    /// up to `end`.
    pub(super) fn step_behind_condition(
        &self,
        start: usize,
        condition: usize,
        end: usize,
    ) -> CutError {
        let bar = self.peek().span.clone();
        let is_end = |token: &&Token| {
            matches!(self.written(token), "else" | "then" | ")" | ",")
                || token.kind == TokenKind::End
        };
        let behind =
            self.tokens[self.at..].iter().find(is_end).map_or(bar.end, |token| token.span.start);
        let source = self.source();
        let (chain, condition) = (source[start..condition].trim(), &source[condition..end]);
        CutError::new(bar.clone(), "Behind a condition no step stands: steps come before `if`")
            .remedy(format!("Write {chain} | {} {condition}.", source[bar.end..behind].trim()))
    }
}

/// Steps that only tidy, before those of the first chain that find something, while a later chain
/// starts anew without them.
pub(super) fn afresh_hint(source: &str, cut: &Cut) -> Option<String> {
    let (first, later) = cut.chains.split_first()?;
    let only_tidies = |step: &StepNode| {
        matches!(step.word.name, "trim" | "neaten" | "upper" | "lower" | "title" | "replace")
    };
    let finds =
        |step: &StepNode| !matches!(step.word.group, Group::Tidy | Group::Check | Group::Joining);
    let tidying = first.steps.iter().take_while(|step| only_tidies(step)).count();
    if tidying == 0 || !first.steps[tidying..].iter().any(finds) {
        return None;
    }
    let written = |step: &StepNode| &source[step.span.clone()];
    let same_source = |chain: &Chain| match (&chain.source, &first.source) {
        (Source::UnsetSubject(_), _) => true,
        (Source::Column(column, _), Source::Column(other, _)) => column == other,
        _ => false,
    };
    let begins_anew = |chain: &Chain| {
        let tidies_too =
            chain.steps.first().is_some_and(|step| written(step) == written(&first.steps[0]));
        same_source(chain) && chain.steps.iter().any(finds) && !tidies_too
    };
    if !later.iter().any(begins_anew) {
        return None;
    }
    let steps_of = |chain: &Chain, from: usize| {
        let start = chain.steps.get(from).map_or(chain.span.start, |step| step.span.start);
        source[start..chain.span.end].trim().to_owned()
    };
    let chains: Vec<String> = later
        .iter()
        .map(|chain| {
            if same_source(chain) {
                steps_of(chain, 0)
            } else {
                source[chain.span.clone()].to_owned()
            }
        })
        .collect();
    let head = source[first.span.start..first.steps[tidying - 1].span.end].trim();
    let tidied: Vec<&str> = first.steps[..tidying].iter().map(written).collect();
    Some(format!(
        "`{}` works on the first chain alone; after else the text is taken as it was. For all of \
        them write: {head} | ({} else {})",
        tidied.join(" | "),
        steps_of(first, tidying),
        chains.join(" else ")
    ))
}

/// `between 1st "-" and 2nd "-"`: the second mark is counted after the first one.
pub(super) fn same_marks_hints(source: &str, cut: &Cut) -> Vec<String> {
    let steps = cut.chains.iter().flat_map(|chain| &chain.steps).chain(&cut.then);
    let hint = |step: &StepNode| {
        let mut marks = step.args.iter().filter_map(|arg| match &arg.value {
            ArgValue::Mark(mark) => Some(mark),
            _ => None,
        });
        let (first, second) = (marks.next()?, marks.next()?);
        let text = |mark: &MarkNode| source.get(mark.what.span.clone());
        let between = second.which - first.which;
        if step.word.name != "between"
            || text(first) != text(second)
            || first.which < 1
            || between < 1
        {
            return None;
        }
        let which = if between == 1 {
            String::new()
        } else {
            format!("{between}{} ", ordinal_suffix(between))
        };
        Some(format!(
            "In `{}` the second mark is counted after the first one. Up to the {} of the whole \
            text write: between {} and {which}{}",
            source.get(step.span.clone())?,
            format_args!("{}{}", second.which, ordinal_suffix(second.which)),
            first.spelled,
            text(second)?
        ))
    };
    let inner =
        cut.chains.iter().flat_map(|chain| &chain.steps).flat_map(|step| &step.args).flat_map(
            |arg| match &arg.value {
                ArgValue::Cut(cut) => same_marks_hints(source, cut),
                _ => Vec::new(),
            },
        );
    steps.filter_map(hint).chain(inner).collect()
}

/// Steps after the last `else` work on that branch alone; when they tidy, all branches were
/// probably meant.
pub(super) fn then_hint(source: &str, cut: &Cut) -> Option<String> {
    let (last, earlier) = cut.chains.split_last()?;
    if earlier.is_empty() || !cut.then.is_empty() {
        return None;
    }
    let tidying = |chain: &Chain| {
        let kept = chain
            .steps
            .iter()
            .rev()
            .take_while(|step| matches!(step.word.group, Group::Tidy | Group::Check))
            .count();
        chain.steps.len() - kept
    };
    let from = tidying(last);
    let steps = &last.steps[from..];
    let (first_step, last_step) = (steps.first()?, steps.last()?);
    if earlier.iter().any(|chain| tidying(chain) < chain.steps.len()) {
        return None;
    }
    let written = &source[first_step.span.start..last_step.span.end];
    Some(format!(
        "`{written}` works on the last branch alone. For all branches write: … else … then \
        {written}"
    ))
}
