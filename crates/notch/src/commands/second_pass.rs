//! What a second look at the columns of a survey tells: how many texts each proposed cut fits,
//! counted by running it, and which texts are odd. The rows of a column are read again only where
//! what the first pass has kept of them does not tell it.

use std::path::Path;

use keen_notch_core::characters::is_blank;
use keen_notch_core::{
    Alike, AlikeTexts, Batch, ColumnHolds, FirstRow, LIKE_DIGITS, LabelCounts, LayoutCounts,
    Layouts, Oddities, Plan, Proposal, RowSample, Scratch, Trouble,
};
use keen_notch_table::{FindingsOut, Table, TableError, Whereabouts, gather_columns};

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
    /// In how many rows each of them stands.
    rows: Vec<u64>,
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
    fn add(&mut self, Alike { text, rows, .. }: Alike<'_>) {
        if let (Ok(from), Ok(to)) =
            (u32::try_from(self.text.len()), u32::try_from(self.text.len() + text.len()))
        {
            self.text.push_str(text);
            self.cells.push((from, to));
            self.rows.push(rows);
        }
    }

    /// Runs what is tried on the texts that wait.
    fn run(&mut self, of: &Tried, counts: &mut Fits) {
        let Self { text, cells, rows, scratch, last_odd, .. } = self;
        if let Some(plan) = &of.plan {
            let (fits, all) = (&mut counts.fits, rows.iter().sum::<u64>());
            fits.iter_mut().for_each(|fits| *fits += all);
            counts.tried += all;
            last_odd.clear();
            last_odd.resize(fits.len(), usize::MAX);
            let mut batch = Batch::new(plan, text, scratch);
            batch.rows(1, 1..=cells.len() as u64);
            batch.cells(0, cells.iter().copied(), |_, cell| Some(cell));
            let result = batch.evaluate();
            result.each_finding(|row, finding| {
                if let Some(cut) = finding
                    .about
                    .cut()
                    .filter(|cut| !finding.kind.is_note() && last_odd[*cut] != row)
                {
                    last_odd[cut] = row;
                    fits[cut] -= rows[row];
                }
            });
            // A text that lacks a piece which not all have does not fit; nothing is found of that.
            let optional = |output: &usize| of.optional[plan.outputs()[*output].cut];
            for output in (0..plan.outputs().len()).filter(optional) {
                let lacking = result.blank_rows(output).map(|row| rows[row]);
                fits[plan.outputs()[output].cut] -= lacking.sum::<u64>();
            }
        }
        text.clear();
        cells.clear();
        rows.clear();
    }
}

impl Part {
    /// Takes rows on the text of which cuts or rules are to be run.
    fn add(&mut self, what: usize, column: usize, alike: Alike<'_>, asked: &[Asked]) {
        if asked[column].runs[what].plan.is_none() {
            return;
        }
        let waiting = &self.waiting[what];
        if waiting.column != column || waiting.cells.len() == TOGETHER {
            self.run(what, asked);
        }
        let waiting = &mut self.waiting[what];
        waiting.column = column;
        waiting.add(alike);
    }

    /// Runs cuts or rules on the texts that wait for them.
    fn run(&mut self, what: usize, asked: &[Asked]) {
        let waiting = &mut self.waiting[what];
        let column = waiting.column;
        waiting.run(&asked[column].runs[what], &mut self.counts[column].runs[what]);
    }

    /// Looks whether rows are odd, and how if they are to be listed.
    fn look_at(&mut self, column: usize, alike: Alike<'_>, asked: &[Asked], are_listed: bool) {
        let Asked { oddities, layouts, .. } = &asked[column];
        let counts = &mut self.counts[column];
        if oddities.has_like_digits(alike.text) {
            let (texts, first) = &mut counts.like_digits;
            *texts += alike.rows;
            first.get_or_insert_with(|| alike.first());
        }
        let has_layout =
            layouts.layouts.is_empty() || is_blank(alike.text) || counts.layouts.add_rows(alike);
        if !has_layout || layouts.layouts.is_empty() {
            counts.labels.add(&layouts.labels, alike);
        }
        if are_listed {
            let mut reasons = oddities.of(alike.text, alike.row);
            if !has_layout {
                reasons.push(of_no_layout(layouts.layouts.len()));
            }
            let reason = reasons.join("; ");
            self.odd.extend((!reason.is_empty()).then(|| Odd {
                row: alike.row,
                line: alike.line,
                column,
                cell: Some(alike.text.to_owned()),
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

    /// All rows of the column, by what is asked of them, where the first pass tells it.
    fn alike<'s>(&self, of: &'s Surveyed) -> Option<AlikeTexts<'s>> {
        of.survey.alike(&self.layouts, &of.holds, &self.oddities)
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

    /// Takes all rows of a column.
    fn take(&mut self, column: usize, all: &AlikeTexts<'_>, asked: &[Asked]) {
        for alike in &all.groups {
            self.add(RULES, column, *alike, asked);
            self.look_at(column, *alike, asked, false);
        }
        all.to_cut().iter().for_each(|alike| self.add(CUTS, column, *alike, asked));
        self.finish(asked);
    }

    /// Runs cuts and rules on the texts that still wait.
    fn finish(&mut self, asked: &[Asked]) {
        [CUTS, RULES].into_iter().for_each(|what| self.run(what, asked));
    }

    /// Notes a row that cannot be read.
    fn unreadable(&mut self, row: u64, line: u64) {
        let reason = "the row cannot be read".to_owned();
        self.odd.push(Odd { row, line, column: 0, cell: None, reason });
    }
}

/// Counts for each column at these places, of every `step`th row, how many texts its proposals cut
/// without a finding and how many keep its rules, and adds what the first pass did not tell to its
/// troubles. Odd rows are listed in a file if one is given; returns their number. The table is
/// opened where it has to be read again.
///
/// # Errors
/// The table cannot be read, or the file cannot be written.
pub fn second_pass(
    open: impl FnOnce() -> Result<Table, TableError>,
    places: &[usize],
    step: u64,
    columns: &mut [Surveyed],
    findings: Option<&Path>,
) -> Result<u64, TableError> {
    let asked: Vec<Asked> = columns.iter().map(Asked::of).collect();
    let none: Vec<Counts> = columns.iter().map(Counts::none).collect();
    let mut listed = 0;
    let mut told = Part::new(none.clone());
    let mut open_columns: Vec<usize> = Vec::new();
    for (n, of) in columns.iter().enumerate() {
        // Odd rows are listed one by one.
        let alike = if findings.is_some() { None } else { asked[n].alike(of) };
        match alike {
            Some(alike) => told.take(n, &alike, &asked),
            None => open_columns.push(n),
        }
    }
    let mut counts = told.counts;
    if !open_columns.is_empty() {
        let rows = columns.iter().map(|of| of.survey.rows).max().unwrap_or(0);
        let again = Again { columns: &open_columns, asked: &asked, step, rows, findings };
        let places: Vec<usize> = open_columns.iter().map(|n| places[*n]).collect();
        (counts, listed) = again.read(open()?, &places, counts, &none)?;
    }
    for ((of, counts), asked) in columns.iter_mut().zip(counts).zip(&asked) {
        take_counts(of, counts, asked);
    }
    Ok(listed)
}

/// A second reading of the rows.
struct Again<'a> {
    /// Of which columns, by their places among those that are surveyed.
    columns: &'a [usize],
    asked: &'a [Asked],
    step: u64,
    /// How many rows there are.
    rows: u64,
    findings: Option<&'a Path>,
}

impl Again<'_> {
    /// Reads the columns at these places of the table, of which nothing is counted yet; returns the
    /// counts of all columns that are surveyed, and how many odd rows were listed.
    fn read(
        &self,
        table: Table,
        places: &[usize],
        counts: Vec<Counts>,
        none: &[Counts],
    ) -> Result<(Vec<Counts>, u64), TableError> {
        let Self { columns, asked, step, findings, .. } = *self;
        let sampled = RowSample::of(self.rows);
        let where_stood = table.whereabouts();
        let out = findings
            .map(|path| FindingsOut::create(path, where_stood.has_files(), false))
            .transpose()?;
        let list = List { out, asked, places: where_stood };
        let (counts, list, listed) = gather_columns(
            (table, places),
            Some(interrupted()),
            (counts, list, 0),
            || Part::new(none.to_vec()),
            |part, cells| {
                let column = columns[cells.column];
                cells.each(|row, line, cell| {
                    if step > 1 && (row - 1) % step != 0 {
                        return;
                    }
                    let alike = Alike { text: cell.text(), rows: 1, row, line };
                    if !is_blank(alike.text) {
                        part.add(RULES, column, alike, asked);
                        // Of a sample all rows can be looked at closely.
                        if step > 1 || sampled.has(row) {
                            part.add(CUTS, column, alike, asked);
                        }
                    }
                    part.look_at(column, alike, asked, findings.is_some());
                });
            },
            |part, row, line| {
                if findings.is_some() && (step == 1 || (row - 1) % step == 0) {
                    part.unreadable(row, line);
                }
            },
            |(all, list, listed), part| {
                part.finish(asked);
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
        Ok((counts, listed))
    }
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
