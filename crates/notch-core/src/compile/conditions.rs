//! Conditions, and what is asked whether it is unique.

use super::cuts::{Compiler, Unique};
use crate::language::{ArgValue, Build, ConditionNode, CutError, SubjectNode};
use crate::program::{CompiledSource, Condition, Subject};
use crate::words::{Args, UNIQUE};

impl Compiler<'_> {
    pub(super) fn condition(&mut self, node: &ConditionNode) -> Result<Condition, CutError> {
        let mut all = |nodes: &[ConditionNode]| {
            nodes.iter().map(|node| self.condition(node)).collect::<Result<Vec<_>, _>>()
        };
        Ok(match node {
            ConditionNode::Any(nodes) => Condition::Any(all(nodes)?),
            ConditionNode::All(nodes) => Condition::All(all(nodes)?),
            ConditionNode::Not(node) => Condition::Not(Box::new(self.condition(node)?)),
            ConditionNode::Test { subject, test } => {
                if test.word.name == UNIQUE
                    && let Some(asked) = self.asked_unique(subject)?
                {
                    let negated = matches!(
                        test.args.first().map(|arg| &arg.value),
                        Some(ArgValue::Given(true))
                    );
                    return Ok(Condition::Unique { place: self.ask_unique(asked), negated });
                }
                let subject = match subject {
                    SubjectNode::It => Subject::It,
                    SubjectNode::Column(column, span) => {
                        Subject::Source(self.columns.resolve(column, span.clone())?.into())
                    }
                    SubjectNode::Cut(cut) => {
                        Subject::Source(CompiledSource::Cut(Box::new(self.branches(cut)?)))
                    }
                };
                let watched = self.watched(&subject, test);
                let mut args = Args::new(test, self);
                let test = match test.word.build {
                    Build::Test(build) => build(&mut args)?,
                    _ => return Err(args.refuse(format!("`{}` is not a test", test.word.name))),
                };
                Condition::Test(subject, test, watched)
            }
        })
    }

    /// What a test asks whether it is unique, where that can be asked.
    fn asked_unique(&mut self, subject: &SubjectNode) -> Result<Option<CompiledSource>, CutError> {
        Ok(match (subject, self.unique.clone()) {
            (_, Unique::Refused) | (SubjectNode::It, Unique::Named) => None,
            (SubjectNode::It, Unique::Column(column)) => Some(column.into()),
            (SubjectNode::Column(column, span), _) => {
                Some(self.columns.resolve(column, span.clone())?.into())
            }
            (SubjectNode::Cut(cut), _) => Some(CompiledSource::Cut(Box::new(self.branches(cut)?))),
        })
    }

    /// The place of something asked about among the plan's unique sources.
    pub(super) fn ask_unique(&mut self, asked: CompiledSource) -> usize {
        self.uniques.push(asked);
        self.uniques.len() - 1
    }
}
