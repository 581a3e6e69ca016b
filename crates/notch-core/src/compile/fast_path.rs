//! The fast path of a cut: which of its steps and chains kernels can do.

use std::sync::Arc;

use super::cuts::Compiler;
use crate::language::Name;
use crate::program::{
    Branches, CompiledPiece, CompiledSource, FastPath, Joined, KernelStep, OtherChain, Search,
    Start, Step,
};
use crate::words::item_reasons;

impl Compiler<'_> {
    /// The fast path of a cut. Kernels can be used where its first chain starts from a column or
    /// from a cut above that has a fast path, and has no condition. The rest is evaluated by value
    /// where it reads no cut above.
    pub(super) fn fast_path(
        &mut self,
        branches: &Branches,
        names: &[Name],
        reads_no_cut: bool,
    ) -> Option<FastPath> {
        let first = branches.chains.first()?;
        let start = match &first.source {
            _ if first.condition.is_some() => Start::Row,
            CompiledSource::Column(source) => Start::Source(*source),
            CompiledSource::Value { slot, .. } => {
                let is_fast = self.fast_values.get(*slot).copied().unwrap_or_default();
                if is_fast { Start::Value(*slot) } else { Start::Row }
            }
            CompiledSource::Template(pieces) => joined(pieces).map_or(Start::Row, Start::Template),
            _ => Start::Row,
        };
        let mut reasons = Vec::new();
        let steps: Vec<&Step> = match start {
            Start::Row => Vec::new(),
            _ => first.steps.iter().chain(&branches.then).collect(),
        };
        let (kernels, done) = kernels(&steps, &mut reasons);
        let mut rest: Vec<Step> = steps[done..].iter().copied().cloned().collect();
        let mut items = Vec::new();
        if names.len() > 1 {
            let is_one_chain = branches.chains.len() == 1 && branches.then.is_empty();
            let (list, after) = rest.split_first().filter(|_| is_one_chain)?;
            items = items_of_list(list, after, names)?;
            rest.clear();
        }
        // What cuts above have returned is not known by value.
        if !reads_no_cut && (start == Start::Row || !rest.is_empty()) {
            return None;
        }
        // Steps after `then` have nothing to do with which chain is taken.
        let has_others = start != Start::Row && rest.is_empty() && branches.then.is_empty();
        let others = if has_others { other_chains(branches, &mut reasons) } else { Vec::new() };
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
        let may_be_missing = has_one_chain
            && !is_template
            && branches.then.is_empty()
            && rest.is_empty()
            && items.is_empty();
        // What several names get is not one value.
        let may_retry = reads_no_cut && items.is_empty();
        Some(FastPath {
            start,
            search,
            kernels,
            items,
            others,
            rest,
            may_retry,
            reasons,
            may_be_missing,
        })
    }
}

/// The kernels of each name of a cut of several: the item of the list that a step makes, and the
/// steps after it, which work on each item by itself. `None` where one of them has no kernel.
fn items_of_list(list: &Step, after: &[Step], names: &[Name]) -> Option<Vec<Vec<KernelStep>>> {
    let list = list.items.as_ref()?;
    let after: Vec<&Step> = after.iter().collect();
    let (then, done) = kernels(&after, &mut Vec::new());
    if done < after.len() {
        return None;
    }
    let of_name = |(n, name): (usize, &Name)| {
        let item = KernelStep { kernel: (list.kernel)(n, Some(names.len())), reasons: 0 };
        // Steps may find something in an item that is passed over.
        if name.is_skip() && after.is_empty() {
            return Vec::new();
        }
        [item].into_iter().chain(then.iter().cloned()).collect()
    };
    Some((1..).zip(names).map(of_name).collect())
}

/// The chains after the first one, up to one that kernels cannot do; their reasons are added.
fn other_chains(branches: &Branches, reasons: &mut Vec<Arc<str>>) -> Vec<OtherChain> {
    let mut others = Vec::new();
    for chain in branches.chains.iter().skip(1) {
        let CompiledSource::Column(source) = chain.source else { break };
        let steps: Vec<&Step> = chain.steps.iter().collect();
        let (kernels, done) = kernels(&steps, reasons);
        if chain.condition.is_some() || done < steps.len() {
            break;
        }
        others.push(OtherChain { source, kernels });
    }
    others
}

/// The kernels of steps, up to the first one without, and how many steps they do; their reasons
/// are added.
fn kernels(steps: &[&Step], reasons: &mut Vec<Arc<str>>) -> (Vec<KernelStep>, usize) {
    let (mut kernels, mut done) = (Vec::new(), 0);
    while let Some(step) = steps.get(done) {
        let next = steps.get(done + 1).and_then(|next| next.picks);
        let from = reasons.len();
        let kernel = match (&step.kernel, &step.items, next) {
            (Some(kernel), ..) => {
                reasons.extend(step.reasons.iter().cloned());
                done += 1;
                Arc::clone(kernel)
            }
            (None, Some(items), Some(n)) => {
                reasons.extend(item_reasons(n, &items.none).into_iter().map(Arc::from));
                done += 2;
                (items.kernel)(n, None)
            }
            _ => break,
        };
        kernels.push(KernelStep { kernel, reasons: from });
    }
    (kernels, done)
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
