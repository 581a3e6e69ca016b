//! One pass over the syntax trees: columns are looked up, words build their steps.
//!
//! In goes what `language/` read, out comes an immutable [`Plan`]. A cut may read the cuts above it
//! and the columns of the table, so names are taken in order and there are no circles in what cuts
//! read. Everything that can be refused before a row is seen is refused here, with the place in the
//! text of the cut: an unknown column, an argument that makes no sense, a list where one text is
//! needed.
//!
//! The rest of the folder has what is asked on the way: `columns.rs` looks names up,
//! `conditions.rs` compiles what stands after `if`, `resolve.rs` says what the arguments of words
//! stand for, `rules.rs` what is demanded of columns and
//! rows, `templates.rs` texts with fields, `watched.rs` what hints need to count, `fast_path.rs`
//! whether a chain has one.

use std::ops::Range;

use super::columns::{Columns, Resolved};
use crate::finding::About;
use crate::language::{
    Arg, ArgValue, Assignment, Build, Chain, Cut, CutError, Name, Source, StepNode, nearest,
};
use crate::list::Lists;
use crate::program::{
    Branches, CELL_LIMIT, CompiledChain, CompiledCut, CompiledName, CompiledSource, NOWHERE,
    OnFinding, Output, OutputType, Plan, PlanError, PlanOptions, RulePlace, Search, Step, Watch,
    Watches, Written,
};
use crate::text::ByteWidth;
use crate::words::{Args, digits};

impl Plan {
    /// Compiles cuts for a table with these columns, in the order of the table.
    ///
    /// # Errors
    /// The first cut or option that does not suit the table, with the place and the remedy.
    pub fn compile(
        cuts: &[Assignment],
        columns: &[String],
        options: &PlanOptions,
    ) -> Result<Plan, PlanError> {
        compile(cuts, columns, options)
    }
}

fn compile(
    cuts: &[Assignment],
    columns: &[String],
    options: &PlanOptions,
) -> Result<Plan, PlanError> {
    let mut compiler = Compiler {
        columns: Columns::new(columns, cuts),
        lists: &options.lists,
        byte_width: options.byte_width.as_ref(),
        start: None,
        text: "",
        asking: None,
        unique: Unique::Refused,
        uniques: Vec::new(),
        watches: Watches::default(),
        first_origins: Vec::new(),
        searches: Vec::new(),
        fast_values: Vec::new(),
        cuts_so_far: 0,
    };
    if let Some(name) = &options.start {
        let start = compiler.columns.named(name).map_err(|error| option_error("start", error))?;
        compiler.start = Some(start);
    }
    check_replace(cuts, &compiler.columns, options)?;

    let column_rules = compiler
        .column_rules(&options.columns)
        .map_err(|(place, error)| PlanError::Rule(place, error))?;
    let mut plan = Plan {
        cuts: Vec::new(),
        searches: Vec::new(),
        sources: Vec::new(),
        outputs: Vec::new(),
        columns: column_rules,
        checks: Vec::new(),
        only_rows: None,
        uniques: Vec::new(),
        watches: Watches::default(),
        on_finding: options.on_finding,
        on_finding_of: options.on_finding_of.clone(),
        cell_limit: options.cell_limit.unwrap_or(CELL_LIMIT),
    };
    let mut slot = 0;
    for (n, cut) in cuts.iter().enumerate() {
        let compiled = compiler.cut(cut).map_err(|error| PlanError::Cut(n, error))?;
        for (name_place, name) in cut.names.iter().enumerate() {
            let replaces = compiler
                .name(cut, name_place, slot, options)
                .map_err(|error| PlanError::Cut(n, error))?;
            slot += 1;
            if !name.is_hidden() {
                plan.outputs.push(Output {
                    name: name.text.clone(),
                    cut: n,
                    name_place,
                    replaces,
                    output_type: output_type(&compiled),
                });
            }
        }
        plan.cuts.push(compiled);
    }
    plan.checks =
        compiler.checks(&options.checks).map_err(|(place, error)| PlanError::Rule(place, error))?;
    let only_rows = options.only_rows.as_ref().map(|rule| compiler.only_rows(rule)).transpose();
    plan.only_rows = only_rows.map_err(|error| PlanError::Rule(RulePlace::OnlyRows, error))?;
    plan.uniques = compiler.uniques;
    plan.watches = compiler.watches;
    plan.searches = compiler.searches;
    mark_readers(&mut plan, &compiler.columns);
    plan.sources = compiler.columns.sources;
    Ok(plan)
}

/// Marks for each cut whether a cut below reads it, and in which cut it is seen in the end.
fn mark_readers(plan: &mut Plan, columns: &Columns) {
    let mut slot = 0;
    for n in 0..plan.cuts.len() {
        let is_kept = plan.on_finding(About::Cut(n)) == OnFinding::Keep;
        let cut = &mut plan.cuts[n];
        let readers = columns.read.range(slot..slot + cut.names.len());
        cut.is_read = readers.clone().next().is_some();
        cut.seen_in = if cut.names.iter().all(|name| name.hidden) {
            readers.map(|(_, reader)| *reader).min()
        } else {
            Some(n)
        };
        cut.fast.iter_mut().for_each(|path| path.may_be_missing &= is_kept && !cut.is_read);
        slot += cut.names.len();
    }
    // Helpers are read by cuts below them, which may be helpers themselves.
    for n in (0..plan.cuts.len()).rev() {
        if let Some(reader) = plan.cuts[n].seen_in.filter(|reader| *reader > n) {
            plan.cuts[n].seen_in = plan.cuts.get(reader).and_then(|reader| reader.seen_in);
        }
    }
}

fn option_error(option: &'static str, error: CutError) -> PlanError {
    PlanError::Option { option, message: error.message, remedies: error.remedies }
}

/// Every name given to be replaced must be made by a cut and stand in the table.
fn check_replace(
    cuts: &[Assignment],
    columns: &Columns<'_>,
    options: &PlanOptions,
) -> Result<(), PlanError> {
    let made = || cuts.iter().flat_map(|cut| cut.names.iter().map(|name| name.text.as_str()));
    for name in &options.replace {
        let error = if !made().any(|text| text == name) {
            let error = CutError::new(
                NOWHERE,
                format!("No cut makes a column {name}, so there is nothing to replace it with"),
            );
            match nearest(name, made()) {
                Some(near) => error.remedy(format!("The nearest is {near}.")),
                None => error,
            }
        } else if columns.places(name).is_empty() {
            CutError::new(NOWHERE, format!("The table has no column {name} that could be replaced"))
                .remedy(columns.list())
        } else {
            continue;
        };
        return Err(option_error("replace", error));
    }
    Ok(())
}

pub(super) struct Compiler<'c> {
    pub(super) columns: Columns<'c>,
    pub(super) lists: &'c Lists,
    pub(super) byte_width: Option<&'c ByteWidth>,
    pub(super) start: Option<Resolved>,
    /// The text of the current cut.
    pub(super) text: &'c str,
    /// What is after `if` is compiled: the source whose cells the chain takes a piece of, and what
    /// that column is called.
    pub(super) asking: Option<(Option<usize>, String)>,
    /// What `is unique` means at this place.
    pub(super) unique: Unique,
    /// What is asked whether it is unique, so far.
    pub(super) uniques: Vec<CompiledSource>,
    pub(super) watches: Watches,
    /// For each value so far the source it starts from in the end.
    first_origins: Vec<Option<usize>>,
    pub(super) searches: Vec<Search>,
    /// For each value so far whether the cut that makes it has a fast path.
    pub(super) fast_values: Vec<bool>,
    pub(super) cuts_so_far: usize,
}

/// What `is unique` means at a place.
#[derive(Clone)]
pub(super) enum Unique {
    /// It does not stand here.
    Refused,
    /// It is about the column or cut that the test names.
    Named,
    /// It is about this column of the table where the test names none.
    Column(Resolved),
}

impl<'c> Compiler<'c> {
    fn cut(&mut self, cut: &'c Assignment) -> Result<CompiledCut, CutError> {
        self.text = &cut.text;
        let (read_before, unique_before) = (self.columns.values_read, self.uniques.len());
        let branches = self.branches(&cut.cut)?;
        let reads_no_cut =
            self.columns.values_read == read_before && self.uniques.len() == unique_before;
        let (origin, first_origin) = match branches.chains.first().map(|chain| &chain.source) {
            Some(CompiledSource::Column(source)) => (Some(*source), Some(*source)),
            Some(CompiledSource::Value { slot, .. }) => {
                (None, self.first_origins.get(*slot).copied().flatten())
            }
            _ => (None, None),
        };
        let fast = self.fast_path(&branches, &cut.names, reads_no_cut);
        let slot = self.fast_values.len();
        self.fast_values.extend(cut.names.iter().map(|name| fast.is_some() && !name.is_skip()));
        self.cuts_so_far += 1;
        self.columns.cut = self.cuts_so_far;
        self.first_origins.extend(cut.names.iter().map(|_| first_origin));
        let names = |is_named: fn(&Name) -> bool| -> String {
            let names: Vec<&str> = cut
                .names
                .iter()
                .filter(|name| is_named(name))
                .map(|name| name.text.as_str())
                .collect();
            names.join(", ")
        };
        Ok(CompiledCut {
            slot,
            left: names(|_| true),
            called: names(|name| name.is_skip() || !name.is_hidden()),
            names: cut
                .names
                .iter()
                .map(|name| CompiledName {
                    text: name.text.clone(),
                    optional: name.optional,
                    skip: name.is_skip(),
                    hidden: name.is_hidden(),
                })
                .collect(),
            branches,
            fast,
            is_read: false,
            seen_in: None,
            origin,
            first_origin,
        })
    }

    /// Enters a name of the left side; returns the column it replaces.
    fn name(
        &mut self,
        cut: &Assignment,
        place: usize,
        slot: usize,
        options: &PlanOptions,
    ) -> Result<Option<usize>, CutError> {
        let name = &cut.names[place];
        if name.is_skip() {
            return Ok(None);
        }
        if self.columns.is_made(&name.text) {
            return Err(CutError::new(
                name.span.clone(),
                format!("A cut above makes {} already", name.text),
            )
            .remedy("Two columns cannot have one name; call one of them otherwise."));
        }
        let places = self.columns.places(&name.text);
        let replaces = match places.as_slice() {
            [] => None,
            [place] if options.replace.contains(&name.text) => Some(*place),
            [_] => {
                return Err(CutError::new(
                    name.span.clone(),
                    format!("The table has a column {} already, and it stays as it is", name.text),
                )
                .remedy(format!(
                    "Choose another name, or say that it is to be replaced: --replace {}, in a jig \
                    replace = true.",
                    shell_word(&name.text)
                )));
            }
            several => {
                return Err(CutError::new(
                    name.span.clone(),
                    format!(
                        "{} columns of the table are called {} already",
                        several.len(),
                        name.text
                    ),
                )
                .remedy("Choose another name."));
            }
        };
        self.columns.made(&name.text, slot);
        Ok(replaces)
    }

    pub(super) fn branches(&mut self, cut: &Cut) -> Result<Branches, CutError> {
        let mut chains: Vec<CompiledChain> = Vec::new();
        for chain in &cut.chains {
            // A later chain that begins with a step starts from the column of the first chain that
            // names one at its head; a chain that begins with a step itself names the column that
            // all cuts start from.
            let source = match &chain.source {
                Source::UnsetSubject(_) if self.start == Some(Resolved::Reached) => {
                    CompiledSource::Reached
                }
                Source::UnsetSubject(span) => {
                    let column = cut
                        .chains
                        .iter()
                        .map(|chain| &chain.source)
                        .find(|source| source.is_column());
                    match column {
                        Some(Source::Column(..)) => self.source(column.unwrap_or(&chain.source))?,
                        _ if self.start.is_none() => {
                            return Err(self.no_start_behind_else(span.clone(), &cut.chains));
                        }
                        _ => self.source(&chain.source)?,
                    }
                }
                source => self.source(source)?,
            };
            chains.push(self.chain(chain, source)?);
        }
        let then = self.steps(&cut.then)?;
        Ok(Branches { chains, then, then_written: self.written(&cut.then) })
    }

    fn chain(&mut self, chain: &Chain, source: CompiledSource) -> Result<CompiledChain, CutError> {
        let steps = self.steps(&chain.steps)?;
        // A piece of a column's cell may be told from the whole cell.
        let asked = match source {
            CompiledSource::Column(n) if !steps.is_empty() => Some(n),
            _ => None,
        };
        let column = asked.map_or(String::new(), |n| self.columns.sources[n].name.clone());
        let outer = self.asking.replace((asked, column));
        let condition =
            chain.condition.as_ref().map(|condition| self.condition(condition)).transpose();
        self.asking = outer;
        Ok(CompiledChain {
            source,
            steps,
            condition: condition?,
            written: self.written(&chain.steps),
            condition_written: chain
                .condition_span
                .as_ref()
                .map_or(String::new(), |span| self.quote(span)),
            label: self.quote(&chain.span),
        })
    }

    /// A piece of the cut's text. Cuts in the braces of a template have no text of their own here.
    pub(super) fn quote(&self, span: &Range<usize>) -> String {
        self.text.get(span.clone()).unwrap_or_default().to_owned()
    }

    fn written(&self, nodes: &[StepNode]) -> Vec<Written> {
        nodes
            .iter()
            .map(|node| Written { words: self.quote(&node.span), from_end: node.counts_from_end() })
            .collect()
    }

    fn steps(&mut self, nodes: &[StepNode]) -> Result<Vec<Step>, CutError> {
        nodes
            .iter()
            .enumerate()
            .map(|(n, node)| {
                if node.word.name == "digits"
                    && let Some(next @ ("number" | "pad")) =
                        nodes.get(n + 1).map(|next| next.word.name)
                {
                    let event =
                        self.watches.add(self.cuts_so_far, Watch::Digits { next: next.to_owned() });
                    return Ok(digits(Some(event)));
                }
                match node.args.as_slice() {
                    [Arg { value: ArgValue::Cut(cut), .. }] => return self.brackets(cut),
                    [Arg { value: ArgValue::Template(pieces), span }] => {
                        return self.template_step(pieces, span.clone());
                    }
                    _ => {}
                }
                let mut args = Args::new(node, self);
                match node.word.build {
                    Build::Step(build) => build(&mut args),
                    _ => Err(args.refuse(format!("`{}` is not a step", node.word.name))),
                }
            })
            .collect()
    }

    pub(super) fn source(&mut self, source: &Source) -> Result<CompiledSource, CutError> {
        match source {
            Source::Column(column, span) => {
                self.columns.resolve(column, span.clone()).map(CompiledSource::from)
            }
            Source::Cut(cut) => Ok(CompiledSource::Cut(Box::new(self.branches(cut)?))),
            Source::Template(pieces) => self.template(pieces, false),
            Source::List(cuts) => Ok(CompiledSource::List(
                cuts.iter().map(|cut| self.branches(cut)).collect::<Result<_, _>>()?,
            )),
            Source::Missing(reason) => Ok(CompiledSource::Missing(reason.clone())),
            Source::Reached => Ok(CompiledSource::Reached),
            Source::UnsetSubject(span) => match &self.start {
                Some(start) => Ok(start.clone().into()),
                None => Err(self.no_start(span.clone())),
            },
        }
    }

    pub(super) fn no_start(&self, span: Range<usize>) -> CutError {
        let step = &self.text[span.clone()];
        CutError::new(
            span,
            "This cut begins with a step, and no column is given for it to start from",
        )
        .remedy(format!(
            "Begin with a column, {{name}} | {step}, or give one for all cuts: -c name."
        ))
        .remedy(self.columns.list())
    }
}

/// The type said last, after `then` or else in the first chain.
fn output_type(cut: &CompiledCut) -> OutputType {
    let said = |steps: &[Step]| steps.iter().rev().find_map(Step::output_type);
    let first = cut.branches.chains.first().map_or(&[][..], |chain| &chain.steps);
    match said(&cut.branches.then).or_else(|| said(first)).unwrap_or_default() {
        // A column of days has no room for a time of day.
        OutputType::Date if first.iter().chain(&cut.branches.then).any(|step| step.writes_time) => {
            OutputType::Text
        }
        said => said,
    }
}

fn shell_word(name: &str) -> String {
    if name.chars().all(|c| c.is_alphanumeric() || c == '_') {
        name.to_owned()
    } else {
        format!("'{name}'")
    }
}
