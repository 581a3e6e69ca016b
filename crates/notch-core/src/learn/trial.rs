//! Cuts tried on texts, many together.

use crate::finding::FindingKind;
use crate::{Batch, Plan, PlanOptions, Scratch, parse_assignment};

/// How many texts one batch holds: they stay in a core's nearest cache.
const TOGETHER: usize = 128;

/// Cuts that are tried on the texts of one column.
pub struct Trial {
    plan: Plan,
}

/// What a cut makes of a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Tried<'t> {
    /// The piece; empty where there is none.
    pub piece: &'t str,
    /// There is one, and nothing is to be said of it.
    pub is_found: bool,
}

impl Trial {
    /// Cuts, without names, for texts of a column of this name; `None` where one cannot be used.
    pub fn new<'c>(column: &str, cuts: impl IntoIterator<Item = &'c str>) -> Option<Self> {
        let named = cuts.into_iter().enumerate();
        // Names that no column has.
        let cuts: Result<Vec<_>, _> = named
            .map(|(n, cut)| parse_assignment(&format!("\"{column} · {n}\" = {cut}")))
            .collect();
        let columns = [column.to_owned()];
        let options = PlanOptions { start: Some(column.to_owned()), ..PlanOptions::default() };
        Some(Self { plan: Plan::compile(&cuts.ok()?, &columns, &options).ok()? })
    }

    /// Tries the cuts on texts; `take` is given the place of each text, the place of each cut, and
    /// what it makes of it, text by text.
    pub fn run<'t>(
        &self,
        texts: impl IntoIterator<Item = &'t str>,
        scratch: &mut Scratch,
        mut take: impl FnMut(usize, usize, Tried<'_>),
    ) {
        let (mut block, mut cells, mut from) = (String::new(), Vec::new(), 0);
        let mut texts = texts.into_iter().peekable();
        while texts.peek().is_some() {
            block.clear();
            cells.clear();
            for text in texts.by_ref().take(TOGETHER) {
                cells.push((block.len(), block.len() + text.len()));
                block.push_str(text);
            }
            self.run_batch(&mut block, &cells, scratch, |row, cut, tried| {
                take(from + row, cut, tried)
            });
            from += cells.len();
        }
    }

    fn run_batch(
        &self,
        block: &mut String,
        cells: &[(usize, usize)],
        scratch: &mut Scratch,
        mut take: impl FnMut(usize, usize, Tried<'_>),
    ) {
        let mut batch = Batch::new(&self.plan, block, scratch);
        batch.rows(1, 1..=cells.len() as u64);
        for source in 0..self.plan.sources().len() {
            let place = |(from, to): &(usize, usize)| {
                Some((u32::try_from(*from).ok()?, u32::try_from(*to).ok()?))
            };
            let places = cells.iter().map(|cell| place(cell).unwrap_or_default());
            batch.cells(source, places, |_, place| Some(place));
        }
        let result = batch.evaluate();
        let mut unusual = result.unusual().iter().peekable();
        for row in 0..cells.len() {
            let odd = unusual.next_if(|(at, _)| *at == row).map(|(_, odd)| odd);
            for (n, output) in self.plan.outputs().iter().enumerate() {
                let piece = match odd {
                    Some(odd) => odd.cells.get(n).map_or("", |cell| cell.text),
                    None => result.text(row, n),
                };
                let is_wrong = odd.is_some_and(|odd| {
                    odd.findings.iter().any(|finding| {
                        finding.about.cut() == Some(output.cut)
                            && (!finding.kind.is_note()
                                || finding.kind == FindingKind::ZerosDropped)
                    })
                });
                take(row, n, Tried { piece, is_found: !piece.is_empty() && !is_wrong });
            }
        }
    }
}
