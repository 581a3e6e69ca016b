//! What a second pass over the rows of a survey tells: how many texts each proposed cut fits,
//! counted by running it, and which texts are odd.

use std::path::Path;

use keen_notch_core::characters::is_blank;
use keen_notch_core::{
    Batch, ColumnHolds, FirstRow, LIKE_DIGITS, LabelCounts, LayoutCounts, Layouts, Oddities, Plan,
    Proposal, RowSample, Scratch, Trouble,
};
use keen_notch_table::{FindingsOut, Table, TableError, Whereabouts, gather_rows};

use crate::ends::interrupted;
use crate::show::Surveyed;

/// How many texts one batch holds: they stay in a core's nearest cache.
const TOGETHER: usize = 128;

/// What is asked of each column.
struct Asked {
    name: String,
    /// The cuts that are proposed for it, and its rules as checks: cuts are run on some of many
    /// rows, rules on all.
    runs: [Tried; 2],
    oddities: Oddities,
    layouts: Layouts,
}

const CUTS: usize = 0;
const RULES: usize = 1;

/// What is run on texts.
struct Tried {
    plan: Option<Plan>,
    /// For each of its cuts whether it takes a piece that not all texts have.
    optional: Vec<bool>,
}

/// What is counted of a part of the table.
struct Part {
    counts: Vec<Counts>,
    /// The texts that wait for the cuts, and for the rules.
    waiting: [Waiting; 2],
    /// The odd rows, where they are listed.
    odd: Vec<Odd>,
}

/// Texts of one column that wait until they are enough.
#[derive(Default)]
struct Waiting {
    /// One after the other.
    text: String,
    /// From which byte up to which each of them lies.
    cells: Vec<(u32, u32)>,
    /// Their column, by its place among those that are surveyed.
    column: usize,
    scratch: Scratch,
    /// For each cut the last text with a finding, by its place among those run together.
    last_odd: Vec<usize>,
}

/// What is counted of a column.
#[derive(Clone)]
struct Counts {
    /// Of the cuts, and of the rules.
    runs: [Fits; 2],
    /// The texts with a letter where a digit belongs, and the first of them.
    like_digits: (u64, Option<FirstRow>),
    layouts: LayoutCounts,
    labels: LabelCounts,
}

/// How often what was run fits.
#[derive(Clone)]
struct Fits {
    /// For each cut the texts that are cut without a finding.
    fits: Vec<u64>,
    /// On how many texts they were run.
    tried: u64,
}

/// An odd cell; a row that cannot be read has none.
struct Odd {
    row: u64,
    line: u64,
    column: usize,
    cell: Option<String>,
    reason: String,
}

impl Waiting {
    /// Takes a text, if it can wait: one of 4 GB and more cannot, and so does not count as one that
    /// fits.
    fn add(&mut self, text: &str) {
        if let (Ok(from), Ok(to)) =
            (u32::try_from(self.text.len()), u32::try_from(self.text.len() + text.len()))
        {
            self.text.push_str(text);
            self.cells.push((from, to));
        }
    }

    /// Runs what is tried on the texts that wait.
    fn run(&mut self, of: &Tried, counts: &mut Fits) {
        let Self { text, cells, scratch, last_odd, .. } = self;
        if let Some(plan) = &of.plan {
            let fits = &mut counts.fits;
            fits.iter_mut().for_each(|fits| *fits += cells.len() as u64);
            counts.tried += cells.len() as u64;
            last_odd.clear();
            last_odd.resize(fits.len(), usize::MAX);
            let mut batch = Batch::new(plan, text, scratch);
            batch.rows(1, 1..=cells.len() as u64);
            batch.cells(0, cells.iter(), |_, cell| Some(*cell));
            let result = batch.evaluate();
            result.each_finding(|row, finding| {
                if let Some(cut) = finding
                    .about
                    .cut()
                    .filter(|cut| !finding.kind.is_note() && last_odd[*cut] != row)
                {
                    last_odd[cut] = row;
                    fits[cut] -= 1;
                }
            });
            // A text that lacks a piece which not all have does not fit; nothing is found of that.
            let optional = |output: &usize| of.optional[plan.outputs()[*output].cut];
            for output in (0..plan.outputs().len()).filter(optional) {
                fits[plan.outputs()[output].cut] -= result.blank(output) as u64;
            }
        }
        text.clear();
        cells.clear();
    }
}

impl Part {
    /// Takes a cell on which cuts or rules are to be run.
    fn add(&mut self, what: usize, column: usize, cell: &str, asked: &[Asked]) {
        if asked[column].runs[what].plan.is_none() {
            return;
        }
        let waiting = &self.waiting[what];
        if waiting.column != column || waiting.cells.len() == TOGETHER {
            self.run(what, asked);
        }
        let waiting = &mut self.waiting[what];
        waiting.column = column;
        waiting.add(cell);
    }

    /// Runs cuts or rules on the texts that wait for them.
    fn run(&mut self, what: usize, asked: &[Asked]) {
        let waiting = &mut self.waiting[what];
        let column = waiting.column;
        waiting.run(&asked[column].runs[what], &mut self.counts[column].runs[what]);
    }

    /// Looks whether a cell is odd, and how if its row is to be listed.
    fn look_at(
        &mut self,
        column: usize,
        (row, line): (u64, u64),
        cell: &str,
        asked: &[Asked],
        are_listed: bool,
    ) {
        let oddities = &asked[column].oddities;
        if oddities.has_like_digits(cell) {
            let (texts, first) = &mut self.counts[column].like_digits;
            *texts += 1;
            first.get_or_insert_with(|| FirstRow { row, line, text: cell.to_owned() });
        }
        let layouts = &asked[column].layouts;
        let has_layout = layouts.layouts.is_empty()
            || is_blank(cell)
            || self.counts[column].layouts.add(cell, row, line);
        if !has_layout || layouts.layouts.is_empty() {
            self.counts[column].labels.add(&layouts.labels, cell, row, line);
        }
        if are_listed {
            let mut reasons = oddities.of(cell, row);
            if !has_layout {
                reasons.push(of_no_layout(layouts.layouts.len()));
            }
            let reason = reasons.join("; ");
            self.odd.extend((!reason.is_empty()).then(|| Odd {
                row,
                line,
                column,
                cell: Some(cell.to_owned()),
                reason,
            }));
        }
    }
}

impl Counts {
    fn merge(&mut self, part: &mut Counts) {
        for (ours, theirs) in self.runs.iter_mut().zip(&mut part.runs) {
            let fits = ours.fits.iter_mut().zip(&mut theirs.fits);
            fits.for_each(|(ours, theirs)| *ours += std::mem::take(theirs));
            ours.tried += std::mem::take(&mut theirs.tried);
        }
        self.layouts.merge(&mut part.layouts);
        self.labels.merge(&mut part.labels);
        self.like_digits.0 += std::mem::take(&mut part.like_digits.0);
        let first = part.like_digits.1.take();
        self.like_digits.1 = self.like_digits.1.take().or(first);
    }
}

/// What is said of a text of none of that many layouts.
fn of_no_layout(layouts: usize) -> String {
    match layouts {
        1 => "not of the layout of the others".to_owned(),
        _ => format!("of none of the {layouts} layouts"),
    }
}

/// The findings file, where there is one, and what it takes to list rows in it.
struct List<'l> {
    out: Option<FindingsOut>,
    asked: &'l [Asked],
    places: Whereabouts,
}

impl List<'_> {
    /// Lists odd rows, in the order of rows and columns.
    fn take(&mut self, odd: &mut Vec<Odd>) -> Result<(), TableError> {
        let Some(out) = &mut self.out else { return Ok(()) };
        odd.sort_by_key(|odd| (odd.row, odd.column));
        odd.drain(..).try_for_each(|odd| match &odd.cell {
            Some(cell) => out.odd(
                (odd.row, odd.line),
                (&self.asked[odd.column].name, cell),
                &odd.reason,
                &self.places,
            ),
            None => out.unreadable((odd.row, odd.line), &odd.reason, &self.places),
        })
    }
}

/// What is run on the texts of a column: the cuts proposed, and its rules as checks.
fn tried(of: &Surveyed) -> [Vec<Proposal>; 2] {
    let conditions = of.holds.iter().filter_map(ColumnHolds::condition).zip(1..);
    let rules = conditions.map(|(condition, n)| Proposal {
        names: format!("\"rule {n}\""),
        cut: format!("check {condition}"),
        fits: 0,
    });
    [of.proposals.clone(), rules.collect()]
}

impl Asked {
    fn of(column: &Surveyed) -> Self {
        let run = |tried: Vec<Proposal>| Tried {
            plan: if tried.is_empty() { None } else { Proposal::plan(&tried) },
            optional: tried.iter().map(Proposal::is_optional).collect(),
        };
        Self {
            name: column.name.clone(),
            runs: tried(column).map(run),
            oddities: column.survey.oddities(),
            layouts: column.layouts.clone(),
        }
    }
}

impl Counts {
    /// Nothing counted yet.
    fn none(of: &Surveyed) -> Self {
        Self {
            runs: tried(of).map(|tried| Fits { fits: vec![0; tried.len()], tried: 0 }),
            like_digits: (0, None),
            layouts: LayoutCounts::of(&of.layouts),
            labels: LabelCounts::default(),
        }
    }
}

impl Part {
    fn new(counts: Vec<Counts>) -> Self {
        Self { counts, waiting: Default::default(), odd: Vec::new() }
    }

    /// Notes a row that cannot be read.
    fn unreadable(&mut self, row: u64, line: u64) {
        let reason = "the row cannot be read".to_owned();
        self.odd.push(Odd { row, line, column: 0, cell: None, reason });
    }
}

/// Counts for each column at these places, of every `step`th row, how many texts its proposals cut
/// without a finding and how many keep its rules, and adds what the first pass did not tell to its
/// troubles. Odd rows are listed in a file if one is given; returns their number.
///
/// # Errors
/// The table cannot be read, or the file cannot be written.
pub fn second_pass(
    table: Table,
    places: &[usize],
    step: u64,
    columns: &mut [Surveyed],
    findings: Option<&Path>,
) -> Result<u64, TableError> {
    let asked: Vec<Asked> = columns.iter().map(Asked::of).collect();
    let sampled = RowSample::of(columns.iter().map(|of| of.survey.rows).max().unwrap_or(0));
    let none: Vec<Counts> = columns.iter().map(Counts::none).collect();
    let part = || Part::new(none.clone());
    let where_stood = table.whereabouts();
    let out = findings
        .map(|path| FindingsOut::create(path, where_stood.has_files(), false))
        .transpose()?;
    let list = List { out, asked: &asked, places: where_stood };
    let (counts, list, listed) = gather_rows(
        table,
        places,
        Some(interrupted()),
        (none.clone(), list, 0),
        part,
        |part, column, row, line, cell| match cell {
            _ if step > 1 && (row - 1) % step != 0 => {}
            Some(cell) => {
                let cell = cell.text();
                if !is_blank(cell) {
                    part.add(RULES, column, cell, &asked);
                    // Of a sample all rows can be looked at closely.
                    if step > 1 || sampled.has(row) {
                        part.add(CUTS, column, cell, &asked);
                    }
                }
                part.look_at(column, (row, line), cell, &asked, findings.is_some());
            }
            None if findings.is_some() => part.unreadable(row, line),
            None => {}
        },
        |(all, list, listed), part| {
            [CUTS, RULES].into_iter().for_each(|what| part.run(what, &asked));
            all.iter_mut().zip(&mut part.counts).for_each(|(all, part)| all.merge(part));
            *listed += part.odd.len() as u64;
            list.take(&mut part.odd)
        },
    )?;
    if let Some(whole) =
        list.out.map(FindingsOut::finish).transpose()?.and_then(|finished| finished.whole)
    {
        whole.publish()?;
    }
    for ((of, counts), asked) in columns.iter_mut().zip(counts).zip(&asked) {
        take_counts(of, counts, asked);
    }
    Ok(listed)
}

/// Adds to what is known of a column what was counted.
fn take_counts(of: &mut Surveyed, counts: Counts, asked: &Asked) {
    let Counts { runs: [cuts, rules], like_digits, layouts, labels } = counts;
    let filled = of.survey.filled();
    if asked.runs[RULES].plan.is_some() {
        let conditions = of.holds.iter_mut().filter(|rule| rule.condition().is_some());
        conditions.zip(rules.fits).for_each(|(rule, fits)| rule.rows = fits);
        of.holds.retain(ColumnHolds::is_rule);
    }
    if asked.runs[CUTS].plan.is_some() {
        // Of many rows the share of those tried.
        let share = |fits: u64| match cuts.tried {
            0 => 0,
            tried if tried == filled => fits,
            tried => (u128::from(fits) * u128::from(filled) / u128::from(tried)) as u64,
        };
        of.proposals.iter_mut().zip(cuts.fits).for_each(|(cut, fits)| cut.fits = share(fits));
        of.tried = cuts.tried;
        // A cut that suits hardly a text was proposed for nothing.
        of.proposals.retain(|proposal| {
            proposal.fits * if proposal.is_optional() { 50 } else { 2 } >= filled
        });
    }
    of.layouts.counted(&layouts);
    labels.put(&mut of.layouts);
    let (texts, first) = like_digits;
    of.troubles.extend(first.map(|first| Trouble { what: LIKE_DIGITS, texts, first }));
}
