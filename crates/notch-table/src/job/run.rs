//! A job from the beginning of its outputs until they have their names.

use keen_notch_core::{Scratch, Tally};

use super::carving::{Carving, Summary};
use super::driver::{self, Job, Outputs, Way};
use super::findings::FindingsFile;
use super::rejects::Rejects;
use super::row::OutColumn;
use super::sinks::{RowSink, WhichCells};
use crate::blocks::BLOCK;
use crate::error::TableError;
use crate::output::Whole;
use crate::table::Table;

/// Runs the cuts over all rows of the table.
///
/// # Errors
/// A row that cannot be read when there is no rejects file, or an output that cannot be written;
/// files are then left as they were.
pub fn carve(
    table: Table,
    carving: &Carving<'_>,
    sink: Box<dyn RowSink + '_>,
) -> Result<Summary, TableError> {
    let in_file = table.in_file();
    let mut summary = carve_rows(table, carving, sink).map_err(in_file)?;
    summary.part = carving.keeps_part.then(|| summary.tally.to_part());
    summary.tally.conclude(carving.plan);
    Ok(summary)
}

fn carve_rows<'o>(
    mut table: Table,
    carving: &'o Carving<'o>,
    mut sink: Box<dyn RowSink + 'o>,
) -> Result<Summary, TableError> {
    let plan = carving.plan;
    let findings = carving
        .findings
        .as_deref()
        .map(|path| FindingsFile::create(path, plan, &table, carving))
        .transpose()?;
    let rejects = carving
        .rejects
        .as_deref()
        .map(|path| Rejects::create(path, &table, carving))
        .transpose()?;
    sink.on_threads(table.threads());
    sink.begin(&table, plan, &carving.columns)?;
    if let Some(which) = sink
        .row_format()
        .filter(|_| rejects.is_none())
        .and_then(|row_format| row_format.needed_cells())
    {
        let written = carving.columns.iter().filter_map(|column| match column {
            OutColumn::Source(n) if which == WhichCells::All => Some(*n),
            _ => None,
        });
        table.needs_only(plan.sources().iter().map(|source| source.index).chain(written).collect());
    }
    let summary = Summary {
        tally: Tally::telling(plan, carving.texts),
        places: table.whereabouts(),
        ..Summary::default()
    };
    let (name, width) = (table.name().to_owned(), table.columns().len());
    let (has_rejects, places) = (rejects.is_some(), table.places());
    let way = way(carving, &*sink, findings.as_ref(), rejects.as_ref());
    // Typed columns keep one more at work.
    let threads = if sink.row_format().is_some() { table.workers() } else { table.threads() };
    let job = Job { carving, name: &name, width, way, threads, has_rejects, places };
    let outputs = Outputs {
        sink,
        findings,
        rejects,
        summary,
        scratch: Scratch::with_all_rows(carving.all_rows.clone()),
    };
    let blocks = table.into_blocks(carving.block.unwrap_or(BLOCK));
    finish(driver::run(&job, blocks, outputs)?)
}

/// How rows come to the outputs: encoded where all of them take text or cells.
fn way(
    carving: &Carving<'_>,
    sink: &dyn RowSink,
    findings: Option<&FindingsFile<'_>>,
    rejects: Option<&Rejects>,
) -> Way {
    let separator = findings.map(FindingsFile::separator);
    // Cells that are looked at one by one are written one by one.
    let is_guarded = carving.guard_formulas && (findings.is_some() || rejects.is_some());
    let text_only = !is_guarded && separator != Some(None) && rejects.is_none_or(Rejects::is_text);
    match sink.row_format() {
        Some(row_format) if text_only => Way::Encoded { row_format, findings: separator.flatten() },
        _ => Way::OneByOne { longest: sink.longest_text() },
    }
}

/// Makes whole what was written, and returns it its names: nothing is seen of any of it before all
/// of it is whole.
fn finish(outputs: Outputs<'_>) -> Result<Summary, TableError> {
    let mut summary = outputs.summary;
    let table = outputs.sink.finish()?;
    let rejects = outputs.rejects.map(Rejects::finish).transpose()?;
    let findings = outputs.findings.map(FindingsFile::finish).transpose()?;
    summary.said = table.said;
    // The table last: who waits for it finds the others.
    let others = [findings, rejects].into_iter().flatten().filter_map(|finished| finished.whole);
    Whole::publish_all(others.chain(table.whole))?;
    Ok(summary)
}
