//! The fast path of a cut: which of its steps and chains kernels can do.

use std::sync::Arc;

use super::cuts::Compiler;
use crate::program::{
    Branches, CompiledPiece, CompiledSource, FastPath, Joined, KernelStep, OtherChain, Search,
    Start, Step,
};

impl Compiler<'_> {
    /// The fast path of a cut. Kernels can be used where its first chain starts from a column or
    /// from a cut above that has a fast path, and has no condition. The rest is evaluated by value
    /// where it reads no cut above.
    pub(super) fn fast_path(
        &mut self,
        branches: &Branches,
        reads_no_cut: bool,
    ) -> Option<FastPath> {
        let first = branches.chains.first()?;
        let start = match &first.source {
            _ if first.condition.is_some() => Start::Row,
            CompiledSource::Column(source) => Start::Source(*source),
            CompiledSource::Value { slot, .. } => {
                self.fast_values.get(*slot).copied().flatten().map_or(Start::Row, Start::Cut)
            }
            CompiledSource::Template(pieces) => joined(pieces).map_or(Start::Row, Start::Template),
            _ => Start::Row,
        };
        let mut reasons = Vec::new();
        let steps = || first.steps.iter().chain(&branches.then);
        let kernels = match start {
            Start::Row => Vec::new(),
            _ => kernels(steps(), &mut reasons),
        };
        let rest: Vec<Step> = match start {
            Start::Row => Vec::new(),
            _ => steps().skip(kernels.len()).cloned().collect(),
        };
        // What cuts above have returned is not at hand by value.
        if !reads_no_cut && (start == Start::Row || !rest.is_empty()) {
            return None;
        }
        // Steps after `then` have nothing to do with which chain is taken.
        let has_others = start != Start::Row && rest.is_empty() && branches.then.is_empty();
        let mut others = Vec::new();
        for chain in branches.chains.iter().skip(1).take_while(|_| has_others) {
            let CompiledSource::Column(source) = chain.source else { break };
            if chain.condition.is_some() || chain.steps.iter().any(|step| step.kernel.is_none()) {
                break;
            }
            others.push(OtherChain {
                source,
                kernels: self::kernels(chain.steps.iter(), &mut reasons),
            });
        }
        let search = match (&start, kernels.first().and_then(|step| step.kernel.search_byte())) {
            (Start::Source(source), Some(byte)) => Some(Search { source: *source, byte }),
            _ => None,
        };
        let search = search.map(|wanted| {
            self.searches.iter().position(|known| *known == wanted).unwrap_or_else(|| {
                self.searches.push(wanted);
                self.searches.len() - 1
            })
        });
        let has_one_chain = branches.chains.len() == 1;
        let is_template = matches!(start, Start::Template(_));
        let may_be_missing =
            has_one_chain && !is_template && branches.then.is_empty() && rest.is_empty();
        let may_retry = reads_no_cut;
        Some(FastPath { start, search, kernels, others, rest, may_retry, reasons, may_be_missing })
    }
}

/// The kernels of steps, up to the first one without; their reasons are added.
fn kernels<'s>(
    steps: impl Iterator<Item = &'s Step>,
    reasons: &mut Vec<Arc<str>>,
) -> Vec<KernelStep> {
    let mut kernels = Vec::new();
    for step in steps {
        let Some(kernel) = step.kernel.clone() else { break };
        kernels.push(KernelStep { kernel, reasons: reasons.len() });
        reasons.extend(step.reasons.iter().cloned());
    }
    kernels
}

/// The pieces of a template of texts and columns alone.
fn joined(pieces: &[CompiledPiece]) -> Option<Vec<Joined>> {
    let piece = |piece: &CompiledPiece| match piece {
        CompiledPiece::Literal(text) => Some(Joined::Text(text.clone())),
        CompiledPiece::Field(_, CompiledSource::Column(source)) => Some(Joined::Source(*source)),
        CompiledPiece::Field(..) => None,
    };
    pieces.iter().map(piece).collect()
}
