//! The rows on the screen: what the cuts make of each.

use std::ops::Range;

use keen_notch_core::{Plan, Scratch, Trace, TraceValue};
use keen_notch_table::RowThere;

/// What the cuts make of a row.
#[derive(Debug, Clone, Default)]
pub struct MadeRow {
    pub number: u64,
    pub line: u64,
    /// The text that the cut in the line starts from.
    pub source: String,
    /// What it takes of that, in bytes; empty where it takes nothing that stands there.
    pub taken: Vec<Range<usize>>,
    /// Its piece, where it makes one.
    pub piece: Option<String>,
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
    let Some(plan) = plan else { return made };
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
    let Some(cut) = cut else { return made };
    if own.iter().any(|piece| !piece.is_empty()) {
        made.piece = Some(own.join(" · "));
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
        if made.piece.is_none() && own.is_empty() {
            made.piece = helper(&trace);
        }
    }
    made
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
