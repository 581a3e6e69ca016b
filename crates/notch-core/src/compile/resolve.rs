//! What the arguments of words stand for: columns, lists, conditions.

use std::ops::Range;
use std::sync::Arc;

use super::columns::Resolved;
use super::cuts::Compiler;
use crate::language::{ColumnRef, ConditionNode, CutError, nearest};
use crate::list::List;
use crate::program::{CompiledSource, Condition, Watch};
use crate::text::ByteWidth;
use crate::words::Resolve;

impl Resolve for Compiler<'_> {
    fn column(
        &mut self,
        column: &ColumnRef,
        span: Range<usize>,
    ) -> Result<CompiledSource, CutError> {
        self.columns.resolve(column, span).map(CompiledSource::from)
    }

    fn byte_width(&self) -> Option<ByteWidth> {
        self.byte_width.cloned()
    }

    fn watch(&mut self, watch: Watch) -> usize {
        self.watches.add(self.cuts_so_far, watch)
    }

    fn condition(&mut self, node: &ConditionNode) -> Result<Condition, CutError> {
        Compiler::condition(self, node)
    }

    fn written(&self, span: Range<usize>) -> String {
        self.quote(&span)
    }

    fn list(&mut self, name: &str, span: Range<usize>) -> Result<Arc<List>, CutError> {
        if let Some(list) = self.lists.get(name) {
            return Ok(Arc::clone(list));
        }
        let error = CutError::new(span, format!("There is no list {name}"));
        let known: Vec<&str> = self.lists.keys().map(String::as_str).collect();
        Err(match (nearest(name, known.iter().copied()), known.as_slice()) {
            (Some(near), _) => {
                let mut error = error.remedy(format!("The nearest is {near}."));
                error.instead = Some(near.into());
                error
            }
            (None, []) => error.remedy(
                "Lists stand in a jig, under [lists]; texts may stand here in brackets: is in \
                (\"A\", \"B\").",
            ),
            (None, known) => error.remedy(format!("The lists are: {}.", known.join(", "))),
        })
    }
}

impl From<Resolved> for CompiledSource {
    fn from(resolved: Resolved) -> Self {
        match resolved {
            Resolved::Source(source) => CompiledSource::Column(source),
            Resolved::Value { slot, name, hidden } => CompiledSource::Value { slot, name, hidden },
            Resolved::Reached => CompiledSource::Reached,
        }
    }
}
