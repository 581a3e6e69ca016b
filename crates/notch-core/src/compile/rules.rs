//! What is demanded of columns and rows: rules → compiled rules.

use std::ops::Range;

use super::columns::Resolved;
use super::cuts::{Compiler, Unique};
use crate::language::{
    ArgValue, ColumnRef, ConditionNode, CutError, Limits, Operand, Rule, Source, SubjectNode,
    TemplatePiece,
};
use crate::program::Condition;
use crate::program::{
    ColumnRule, CompiledCheck, CompiledColumn, CompiledSource, Demand, NOWHERE, RulePlace,
};

type RuleResult<T> = Result<T, (RulePlace, CutError)>;

impl<'c> Compiler<'c> {
    pub(super) fn column_rules(
        &mut self,
        rules: &'c [ColumnRule],
    ) -> RuleResult<Vec<CompiledColumn>> {
        let mut compiled: Vec<CompiledColumn> = Vec::new();
        for (n, rule) in rules.iter().enumerate() {
            let refused = |error| (RulePlace::ColumnName(n), error);
            let column = self.columns.named(&rule.column).map_err(refused)?;
            let Resolved::Source(source) = column else { continue };
            if compiled.iter().any(|earlier| earlier.source == source) {
                let error = CutError::new(
                    NOWHERE,
                    format!("The column {} stands twice under [columns]", rule.column),
                );
                return Err(refused(
                    error.remedy("Write all that is demanded of it in one entry."),
                ));
            }
            let unique = rule.unique.then(|| self.ask_unique(CompiledSource::Column(source)));
            self.unique = Unique::Column(column);
            let check = rule.check.as_ref().map(|rule| self.demand(rule)).transpose();
            self.unique = Unique::Refused;
            let check = check.map_err(|error| (RulePlace::ColumnCheck(n), error))?;
            let checks = rule.output_type.map(Demand::of_type).into_iter().chain(check).collect();
            compiled.push(CompiledColumn { source, required: rule.required, unique, checks });
        }
        Ok(compiled)
    }

    pub(super) fn checks(
        &mut self,
        checks: &'c [(String, Rule)],
    ) -> RuleResult<Vec<CompiledCheck>> {
        let compiled = checks.iter().enumerate().map(|(n, (title, rule))| {
            self.unique = Unique::Named;
            let compiled = self.demand(rule).and_then(|demand| Ok((demand, self.needs(rule)?)));
            self.unique = Unique::Refused;
            let (demand, needs) = compiled.map_err(|error| (RulePlace::Check(n), error))?;
            Ok(CompiledCheck { title: title.clone(), demand, needs })
        });
        compiled.collect()
    }

    pub(super) fn only_rows(&mut self, rule: &'c Rule) -> Result<Condition, CutError> {
        self.text = &rule.text;
        self.condition(&rule.condition)
    }

    fn demand(&mut self, rule: &'c Rule) -> Result<Demand, CutError> {
        self.text = &rule.text;
        let condition = self.condition(&rule.condition)?;
        let when = rule.when.as_ref().map(|when| self.condition(when)).transpose()?;
        Ok(Demand::new(condition, when, rule.saying.clone(), &rule.text[rule.span.clone()]))
    }

    /// The columns and cuts a rule cannot do without: all it names, unless it asks whether
    /// something is blank.
    fn needs(&mut self, rule: &Rule) -> Result<Vec<CompiledSource>, CutError> {
        let mut named = Vec::new();
        let asks_blank = gather(&rule.condition, &mut named)
            | rule.when.as_ref().is_some_and(|when| gather(when, &mut named));
        if asks_blank {
            return Ok(Vec::new());
        }
        named
            .into_iter()
            .map(|(column, span)| self.columns.resolve(&column, span).map(CompiledSource::from))
            .collect()
    }
}

/// The columns that a chain starts from.
fn columns_of(source: &Source) -> Vec<(ColumnRef, Range<usize>)> {
    let of_piece = |piece: &TemplatePiece| match piece {
        TemplatePiece::Field { column, cut: None, span, .. } => {
            Some((column.clone(), span.clone()))
        }
        _ => None,
    };
    match source {
        Source::Column(column, span) => vec![(column.clone(), span.clone())],
        Source::Template(pieces) => pieces.iter().filter_map(of_piece).collect(),
        _ => Vec::new(),
    }
}

/// The columns a condition names; whether it asks whether something is blank.
fn gather(node: &ConditionNode, named: &mut Vec<(ColumnRef, Range<usize>)>) -> bool {
    match node {
        ConditionNode::Any(nodes) | ConditionNode::All(nodes) => {
            nodes.iter().fold(false, |blank, node| gather(node, named) | blank)
        }
        ConditionNode::Not(node) => gather(node, named),
        ConditionNode::Test { subject, test } => {
            match subject {
                SubjectNode::Column(column, span) => named.push((column.clone(), span.clone())),
                // Where one chain alone yields the text, it cannot do without its column either.
                SubjectNode::Cut(cut) if cut.chains.len() == 1 => {
                    named.extend(columns_of(&cut.chains[0].source));
                }
                SubjectNode::Cut(_) | SubjectNode::It => {}
            }
            for arg in &test.args {
                let column = match &arg.value {
                    ArgValue::Column(column)
                    | ArgValue::Limits(Limits::Compared(_, Operand::Column(column))) => column,
                    _ => continue,
                };
                named.push((column.clone(), arg.span.clone()));
            }
            test.word.name == "is blank"
        }
    }
}
