//! The rows on the screen: what the cuts make of each.

use std::ops::Range;

use keen_notch_core::{Plan, Scratch, Trace, TraceValue};
use keen_notch_table::RowThere;

use crate::show::{counted, drawn_within, ruler_within};

/// Of a longer text, in bytes, a part is drawn, and no ruler.
pub const LONGEST: usize = 20_000;
/// The number of bytes that are drawn before what is taken.
const BEFORE: usize = 2000;

/// What the cuts make of a row.
#[derive(Debug, Clone, Default)]
pub struct MadeRow {
    pub number: u64,
    pub line: u64,
    /// The text that the cut in the line starts from.
    pub source: String,
    /// What it takes of that, in bytes; empty where it takes nothing that stands there.
    pub taken: Vec<Range<usize>>,
    /// Its pieces, one for each of its names, where it makes any.
    pub pieces: Vec<String>,
    /// The reasons of its findings.
    pub reasons: Vec<String>,
    /// The pieces of the other cuts, in their order.
    pub others: Vec<String>,
    /// Why the row cannot be read.
    pub unreadable: Option<String>,
}

/// The cells of a row that the plan starts from.
pub fn sources<'r>(plan: &Plan, cells: &'r [String]) -> Vec<&'r str> {
    let cell = |index: usize| cells.get(index).map_or("", String::as_str);
    plan.sources().iter().map(|source| cell(source.index)).collect()
}

/// What the cuts make of a row; `cut` is the place in the plan of the cut in the line, and `column`
/// that of the column shown where it has none.
pub fn made(
    row: &RowThere,
    plan: Option<&Plan>,
    cut: Option<usize>,
    column: Option<usize>,
    scratch: &mut Scratch,
) -> MadeRow {
    let mut made = MadeRow { number: row.number, line: row.line, ..MadeRow::default() };
    let cells = match &row.cells {
        Ok(cells) => cells,
        Err(reason) => {
            made.unreadable = Some(reason.to_string());
            return made;
        }
    };
    if let Some(column) = column {
        made.source = cells.get(column).cloned().unwrap_or_default();
    }
    let Some(plan) = plan else {
        made.shorten();
        return made;
    };
    let given = sources(plan, cells);
    scratch.at_row(row.number);
    let (mut own, mut others, mut fields) = (Vec::new(), Vec::new(), None);
    {
        let result = plan.evaluate(given.iter().copied(), scratch);
        for (output, cell) in plan.outputs().iter().zip(result.cells) {
            match Some(output.cut) == cut {
                true => own.push(cell.text.to_owned()),
                false => others.push((output.cut, cell.text.to_owned())),
            }
        }
        if let Some(cut) = cut {
            fields = plan.branches(cut).next().map(|chain| {
                let of_source = plan
                    .sources()
                    .iter()
                    .map(|source| source.name.as_str())
                    .zip(given.iter().copied());
                let of_cut = plan.outputs().iter().zip(result.cells);
                let of_cut = of_cut.map(|(output, cell)| (output.name.as_str(), cell.text));
                fields_of(chain, &of_source.chain(of_cut).collect::<Vec<_>>())
            });
            let about = result
                .findings
                .iter()
                .filter(|finding| super::count::is_about(plan, cut, finding.about));
            made.reasons = about.map(|finding| finding.reason.to_owned()).collect();
        }
    }
    made.others = others.into_iter().map(|(_, text)| text).collect();
    let Some(cut) = cut else {
        made.shorten();
        return made;
    };
    if own.iter().any(|piece| !piece.is_empty()) {
        made.pieces.clone_from(&own);
    }
    if let Some(trace) = plan.trace_cut(cut, &given, scratch) {
        match plan.origin(cut) {
            Some(_) => {
                if let Some(base) = trace.bases.first() {
                    made.source.clone_from(base);
                }
                made.taken = taken(&trace);
            }
            // Of a template its fields are what it starts from.
            None => made.source = fields.unwrap_or_default(),
        }
        if own.is_empty() {
            made.pieces.extend(helper(&trace));
        }
    }
    made.shorten();
    made
}

impl MadeRow {
    /// Keeps of a very long text the part with what is taken, and of a piece its beginning.
    fn shorten(&mut self) {
        let at = |text: &str, byte: usize| {
            (0..=byte.min(text.len())).rev().find(|at| text.is_char_boundary(*at)).unwrap_or(0)
        };
        if self.source.len() > LONGEST {
            let first = self.taken.first().map_or(0, |span| span.start);
            let from = at(&self.source, first.saturating_sub(BEFORE));
            let to = at(&self.source, from + LONGEST);
            self.source = self.source[from..to].to_owned();
            self.taken.retain(|span| span.start >= from && span.start < to);
            for span in &mut self.taken {
                *span = span.start - from..span.end.min(to) - from;
            }
        }
        for text in self.pieces.iter_mut().chain(&mut self.others) {
            text.truncate(at(text, LONGEST));
        }
    }
}

/// The steps of a row, as `notch trace` draws them so wide; a ruler where no cut is in force.
pub fn steps(
    row: &RowThere,
    plan: Option<&Plan>,
    cut: Option<usize>,
    column: Option<usize>,
    scratch: &mut Scratch,
    wide: usize,
) -> String {
    let Ok(cells) = &row.cells else { return String::new() };
    let (Some(plan), Some(cut)) = (plan, cut) else {
        let cell = column.and_then(|column| cells.get(column));
        let short = cell.filter(|cell| cell.len() <= LONGEST);
        return short.map_or(String::new(), |cell| ruler_within(cell, wide));
    };
    let given = sources(plan, cells);
    scratch.at_row(row.number);
    let Some(trace) = plan.trace_cut(cut, &given, scratch) else { return String::new() };
    match trace.bases.iter().map(String::len).max() {
        Some(longest) if longest > LONGEST => {
            format!("  The text is too long to be drawn: {}.\n", counted(longest as u64, "byte"))
        }
        _ => drawn_within(&trace, wide),
    }
}

/// The texts that the braces of a template stand for, with blanks between them.
fn fields_of(chain: &str, known: &[(&str, &str)]) -> String {
    let names = chain.split('{').skip(1).filter_map(|rest| rest.split(['}', '|']).next());
    let texts = names.filter_map(|name| {
        let name = name.trim().trim_matches(['"', '\'']);
        known.iter().find(|(known, _)| *known == name).map(|(_, text)| *text)
    });
    texts.collect::<Vec<_>>().join("  ")
}

/// What a trace takes of the text it starts from: the spans of the last step that keeps a part of
/// it.
fn taken(trace: &Trace) -> Vec<Range<usize>> {
    let Some(chain) = trace.chains.iter().find(|chain| chain.taken) else { return Vec::new() };
    let values = chain.steps.iter().chain(&trace.then).map(|step| &step.value);
    let spans = |value: &TraceValue| -> Vec<Range<usize>> {
        match value {
            TraceValue::Text(piece) if piece.base == 0 => vec![piece.span.clone()],
            TraceValue::List(items) => items
                .iter()
                .flatten()
                .filter(|piece| piece.base == 0)
                .map(|piece| piece.span.clone())
                .collect(),
            _ => Vec::new(),
        }
    };
    values.map(spans).rfind(|spans| !spans.is_empty()).unwrap_or_default()
}

/// The piece of a helper column, which is not written.
fn helper(trace: &Trace) -> Option<String> {
    let chain = trace.chains.iter().find(|chain| chain.taken)?;
    match chain.steps.iter().chain(&trace.then).map(|step| &step.value).next_back()? {
        TraceValue::Text(piece) => Some(piece.text.clone()),
        _ => None,
    }
}
