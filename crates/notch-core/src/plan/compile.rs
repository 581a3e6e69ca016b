//! One pass over the syntax trees: columns are looked up, words build their steps.

use std::ops::Range;
use std::sync::Arc;

use super::columns::{Columns, Resolved};
use super::{NOWHERE, OnFinding, Output, Plan, PlanError, PlanOptions, RulePlace};
use crate::conditions::{Condition, Subject, UNIQUE};
use crate::evaluate::{PlainStep, Search, ShortWay, Start};
use crate::finding::About;
use crate::language::{
    ArgValue, Assignment, Build, Chain, ColumnRef, ConditionNode, Cut, CutError, Source, StepNode, SubjectNode, TemplatePiece, nearest,
};
use crate::list::{List, Lists};
use crate::steps::{Args, OutputType, Resolve, Step};
use crate::text::ByteWidth;

pub(crate) struct CompiledCut {
    pub names: Vec<CompiledName>,
    /// What findings about the whole cut call it.
    pub left: String,
    pub branches: Branches,
    /// The short way of plain cells: there is one where the first chain starts from a column, has no condition, and all steps can be
    /// done so.
    pub short: Option<ShortWay>,
    /// A later cut or check reads what it gives.
    pub is_read: bool,
    /// The source the first chain starts from.
    pub origin: Option<usize>,
    /// The source it starts from in the end, by way of the cuts above.
    pub first_origin: Option<usize>,
}

pub(crate) struct CompiledName {
    pub text: String,
    pub optional: bool,
    pub skip: bool,
    pub hidden: bool,
}

/// Chains joined by `else` and the steps behind `then`.
pub(crate) struct Branches {
    pub chains: Vec<CompiledChain>,
    pub then: Vec<Step>,
    pub then_written: Vec<Written>,
}

pub(crate) struct CompiledChain {
    pub source: CompiledSource,
    pub steps: Vec<Step>,
    /// What stands behind `if`.
    pub condition: Option<Condition>,
    /// How each step is written.
    pub written: Vec<Written>,
    /// How the condition is written.
    pub condition_written: String,
    /// The chain as written.
    pub label: String,
}

/// How a step is written in the cut.
pub(crate) struct Written {
    pub words: String,
    /// It counts from the end of the text.
    pub from_end: bool,
}

pub(crate) enum CompiledSource {
    Column(usize),
    /// What a cut above has given.
    Value {
        slot: usize,
        name: String,
        hidden: bool,
    },
    Template(Vec<CompiledPiece>),
    Cut(Box<Branches>),
    List(Vec<Branches>),
    /// `missing "reason"`.
    Missing(String),
    /// A literal `""`.
    Blank,
}

pub(crate) enum CompiledPiece {
    Literal(String),
    /// A field: what it is called in reasons, and where its text comes from.
    Field(String, CompiledSource),
}

pub(super) fn compile(cuts: &[Assignment], columns: &[String], options: &PlanOptions) -> Result<Plan, PlanError> {
    let mut compiler = Compiler {
        columns: Columns::new(columns, cuts),
        lists: &options.lists,
        byte_width: options.byte_width.as_ref(),
        start: None,
        text: "",
        unique: Unique::Refused,
        uniques: Vec::new(),
        first_origins: Vec::new(),
        searches: Vec::new(),
        short_values: Vec::new(),
        cuts_so_far: 0,
    };
    if let Some(name) = &options.start {
        let start = compiler.columns.named(name).map_err(|error| option_error("start", error))?;
        compiler.start = Some(start);
    }
    check_replace(cuts, &compiler.columns, options)?;

    let column_rules = compiler.column_rules(&options.columns).map_err(|(place, error)| PlanError::Rule(place, error))?;
    let mut plan = Plan {
        cuts: Vec::new(),
        searches: Vec::new(),
        sources: Vec::new(),
        outputs: Vec::new(),
        columns: column_rules,
        checks: Vec::new(),
        only_rows: None,
        uniques: Vec::new(),
        on_finding: options.on_finding,
        on_finding_of: options.on_finding_of.clone(),
    };
    let mut slot = 0;
    for (n, cut) in cuts.iter().enumerate() {
        let compiled = compiler.cut(cut).map_err(|error| PlanError::Cut(n, error))?;
        for (name_place, name) in cut.names.iter().enumerate() {
            let replaces = compiler.name(cut, name_place, slot, options).map_err(|error| PlanError::Cut(n, error))?;
            slot += 1;
            if !name.is_hidden() {
                plan.outputs.push(Output { name: name.text.clone(), cut: n, name_place, replaces, output_type: output_type(&compiled) });
            }
        }
        plan.cuts.push(compiled);
    }
    plan.checks = compiler.checks(&options.checks).map_err(|(place, error)| PlanError::Rule(place, error))?;
    let only_rows = options.only_rows.as_ref().map(|rule| compiler.only_rows(rule)).transpose();
    plan.only_rows = only_rows.map_err(|error| PlanError::Rule(RulePlace::OnlyRows, error))?;
    plan.uniques = compiler.uniques;
    plan.searches = compiler.searches;
    let mut slot = 0;
    for n in 0..plan.cuts.len() {
        let is_kept = plan.on_finding(About::Cut(n)) == OnFinding::Keep;
        let cut = &mut plan.cuts[n];
        cut.is_read = compiler.columns.read.range(slot..slot + cut.names.len()).next().is_some();
        cut.short.iter_mut().for_each(|way| way.may_lack &= is_kept && !cut.is_read);
        slot += cut.names.len();
    }
    plan.sources = compiler.columns.sources;
    Ok(plan)
}

fn option_error(option: &'static str, error: CutError) -> PlanError {
    PlanError::Option { option, message: error.message, remedies: error.remedies }
}

/// Every name given to be replaced must be made by a cut and stand in the table.
fn check_replace(cuts: &[Assignment], columns: &Columns<'_>, options: &PlanOptions) -> Result<(), PlanError> {
    let made = || cuts.iter().flat_map(|cut| cut.names.iter().map(|name| name.text.as_str()));
    for name in &options.replace {
        let error = if !made().any(|text| text == name) {
            let error = CutError::new(NOWHERE, format!("No cut makes a column {name}, so there is nothing to replace it with"));
            match nearest(name, made()) {
                Some(near) => error.remedy(format!("The nearest is {near}.")),
                None => error,
            }
        } else if columns.places(name).is_empty() {
            CutError::new(NOWHERE, format!("The table has no column {name} that could be replaced")).remedy(columns.list())
        } else {
            continue;
        };
        return Err(option_error("replace", error));
    }
    Ok(())
}

pub(super) struct Compiler<'c> {
    pub(super) columns: Columns<'c>,
    lists: &'c Lists,
    byte_width: Option<&'c ByteWidth>,
    start: Option<Resolved>,
    /// The text of the cut at hand.
    pub(super) text: &'c str,
    /// What `is unique` means at this place.
    pub(super) unique: Unique,
    /// What is asked whether it is unique, so far.
    uniques: Vec<CompiledSource>,
    /// For each value so far the source it starts from in the end.
    first_origins: Vec<Option<usize>>,
    searches: Vec<Search>,
    /// For each value so far the cut that makes it, where that has a short way.
    short_values: Vec<Option<usize>>,
    cuts_so_far: usize,
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
        let branches = self.branches(&cut.cut)?;
        let (origin, first_origin) = match branches.chains.first().map(|chain| &chain.source) {
            Some(CompiledSource::Column(source)) => (Some(*source), Some(*source)),
            Some(CompiledSource::Value { slot, .. }) => (None, self.first_origins.get(*slot).copied().flatten()),
            _ => (None, None),
        };
        let short = self.short_way(&branches).filter(|_| cut.names.len() == 1);
        let made_short = short.as_ref().map(|_| self.cuts_so_far);
        self.short_values.extend(cut.names.iter().map(|_| made_short));
        self.cuts_so_far += 1;
        self.first_origins.extend(cut.names.iter().map(|_| first_origin));
        let names: Vec<&str> = cut.names.iter().map(|name| name.text.as_str()).collect();
        Ok(CompiledCut {
            left: names.join(", "),
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
            short,
            is_read: false,
            origin,
            first_origin,
        })
    }

    /// The short way of a cut whose first chain has one.
    fn short_way(&mut self, branches: &Branches) -> Option<ShortWay> {
        let first = branches.chains.first().filter(|chain| chain.condition.is_none())?;
        let start = match first.source {
            CompiledSource::Column(source) => Start::Source(source),
            CompiledSource::Value { slot, .. } => Start::Cut(self.short_values.get(slot).copied().flatten()?),
            _ => return None,
        };
        let mut reasons = Vec::new();
        let mut steps = Vec::new();
        for step in first.steps.iter().chain(&branches.then) {
            steps.push(PlainStep { plain: step.plain.clone()?, reasons: reasons.len() });
            reasons.extend(step.reasons.iter().cloned());
        }
        let search = match (start, steps.first().and_then(|step| step.plain.searched())) {
            (Start::Source(source), Some(byte)) => Some(Search { source, byte }),
            _ => None,
        };
        let search = search.map(|wanted| {
            self.searches.iter().position(|known| *known == wanted).unwrap_or_else(|| {
                self.searches.push(wanted);
                self.searches.len() - 1
            })
        });
        Some(ShortWay { start, search, steps, reasons, may_lack: branches.chains.len() == 1 && branches.then.is_empty() })
    }

    /// Enters a name of the left side; gives the column it replaces.
    fn name(&mut self, cut: &Assignment, place: usize, slot: usize, options: &PlanOptions) -> Result<Option<usize>, CutError> {
        let name = &cut.names[place];
        if name.is_skip() {
            return Ok(None);
        }
        if self.columns.is_made(&name.text) {
            return Err(CutError::new(name.span.clone(), format!("A cut above makes {} already", name.text))
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
                    "Choose another name, or say that it is to be replaced: --replace {}, in a jig replace = true.",
                    shell_word(&name.text)
                )));
            }
            several => {
                return Err(CutError::new(
                    name.span.clone(),
                    format!("{} columns of the table are called {} already", several.len(), name.text),
                )
                .remedy("Choose another name."));
            }
        };
        self.columns.made(&name.text, slot);
        Ok(replaces)
    }

    fn branches(&mut self, cut: &Cut) -> Result<Branches, CutError> {
        let mut chains: Vec<CompiledChain> = Vec::new();
        for chain in &cut.chains {
            // A later chain that begins with a step starts where the first one does that starts from data.
            let source = match &chain.source {
                Source::Unsaid(_) => {
                    let first = cut.chains.iter().map(|chain| &chain.source).find(|source| source.is_data());
                    self.source(first.unwrap_or(&chain.source))?
                }
                source => self.source(source)?,
            };
            chains.push(self.chain(chain, source)?);
        }
        let then = self.steps(&cut.then)?;
        Ok(Branches { chains, then, then_written: self.written(&cut.then) })
    }

    fn chain(&mut self, chain: &Chain, source: CompiledSource) -> Result<CompiledChain, CutError> {
        Ok(CompiledChain {
            source,
            steps: self.steps(&chain.steps)?,
            condition: chain.condition.as_ref().map(|condition| self.condition(condition)).transpose()?,
            written: self.written(&chain.steps),
            condition_written: chain.condition_span.as_ref().map_or(String::new(), |span| self.quote(span)),
            label: self.quote(&chain.span),
        })
    }

    /// A piece of the cut's text. Cuts in the braces of a template have no text of their own here.
    fn quote(&self, span: &Range<usize>) -> String {
        self.text.get(span.clone()).unwrap_or_default().to_owned()
    }

    fn written(&self, nodes: &[StepNode]) -> Vec<Written> {
        nodes.iter().map(|node| Written { words: self.quote(&node.span), from_end: node.counts_from_end() }).collect()
    }

    fn steps(&mut self, nodes: &[StepNode]) -> Result<Vec<Step>, CutError> {
        nodes
            .iter()
            .map(|node| {
                let mut args = Args::new(node, self);
                match node.word.build {
                    Build::Step(build) => build(&mut args),
                    _ => Err(args.refuse(format!("`{}` is not a step", node.word.name))),
                }
            })
            .collect()
    }

    pub(super) fn condition(&mut self, node: &ConditionNode) -> Result<Condition, CutError> {
        let mut all = |nodes: &[ConditionNode]| nodes.iter().map(|node| self.condition(node)).collect::<Result<Vec<_>, _>>();
        Ok(match node {
            ConditionNode::Any(nodes) => Condition::Any(all(nodes)?),
            ConditionNode::All(nodes) => Condition::All(all(nodes)?),
            ConditionNode::Not(node) => Condition::Not(Box::new(self.condition(node)?)),
            ConditionNode::Test { subject, test } => {
                if test.word.name == UNIQUE
                    && let Some(asked) = self.asked_unique(subject)?
                {
                    let negated = matches!(test.args.first().map(|arg| &arg.value), Some(ArgValue::Given(true)));
                    return Ok(Condition::Unique { place: self.ask_unique(asked), negated });
                }
                let subject = match subject {
                    SubjectNode::It => Subject::It,
                    SubjectNode::Column(column, span) => Subject::Source(self.columns.resolve(column, span.clone())?.into()),
                    SubjectNode::Cut(cut) => Subject::Source(CompiledSource::Cut(Box::new(self.branches(cut)?))),
                };
                let mut args = Args::new(test, self);
                let test = match test.word.build {
                    Build::Test(build) => build(&mut args)?,
                    _ => return Err(args.refuse(format!("`{}` is not a test", test.word.name))),
                };
                Condition::Test(subject, test)
            }
        })
    }

    /// What a test asks whether it is unique, where that can be asked.
    fn asked_unique(&mut self, subject: &SubjectNode) -> Result<Option<CompiledSource>, CutError> {
        Ok(match (subject, self.unique.clone()) {
            (_, Unique::Refused) | (SubjectNode::It, Unique::Named) => None,
            (SubjectNode::It, Unique::Column(column)) => Some(column.into()),
            (SubjectNode::Column(column, span), _) => Some(self.columns.resolve(column, span.clone())?.into()),
            (SubjectNode::Cut(cut), _) => Some(CompiledSource::Cut(Box::new(self.branches(cut)?))),
        })
    }

    /// The place of something asked about among the plan's unique sources.
    pub(super) fn ask_unique(&mut self, asked: CompiledSource) -> usize {
        self.uniques.push(asked);
        self.uniques.len() - 1
    }

    pub(super) fn source(&mut self, source: &Source) -> Result<CompiledSource, CutError> {
        match source {
            Source::Column(column, span) => self.columns.resolve(column, span.clone()).map(CompiledSource::from),
            Source::Cut(cut) => Ok(CompiledSource::Cut(Box::new(self.branches(cut)?))),
            Source::Template(pieces) => self.template(pieces),
            Source::List(cuts) => Ok(CompiledSource::List(cuts.iter().map(|cut| self.branches(cut)).collect::<Result<_, _>>()?)),
            Source::Missing(reason) => Ok(CompiledSource::Missing(reason.clone())),
            Source::Unsaid(span) => match &self.start {
                Some(start) => Ok(start.clone().into()),
                None => Err(self.no_start(span.clone())),
            },
        }
    }

    fn no_start(&self, span: Range<usize>) -> CutError {
        let step = &self.text[span.clone()];
        CutError::new(span, "This cut begins with a step, and no column is given for it to start from")
            .remedy(format!("Begin with a column, {{name}} | {step}, or give one for all cuts: -c name."))
            .remedy(self.columns.list())
    }

    fn template(&mut self, pieces: &[TemplatePiece]) -> Result<CompiledSource, CutError> {
        if let [TemplatePiece::Literal(text)] = pieces
            && text.is_empty()
        {
            return Ok(CompiledSource::Blank);
        }
        let compiled = pieces.iter().map(|piece| match piece {
            TemplatePiece::Literal(text) => Ok(CompiledPiece::Literal(text.clone())),
            TemplatePiece::Field { inside, column, cut, span } => {
                let label = match column {
                    ColumnRef::Name(name) => name.clone(),
                    ColumnRef::Place(place) => format!("column {place}"),
                };
                let source = match cut {
                    Some(cut) if !self.columns.knows(inside) => {
                        let outer = self.text;
                        self.text = "";
                        let branches = self.branches(cut).map_err(|error| CutError { span: span.clone(), ..error });
                        self.text = outer;
                        CompiledSource::Cut(Box::new(branches?))
                    }
                    Some(_) => self.columns.resolve(&ColumnRef::Name(inside.clone()), span.clone())?.into(),
                    None => self.columns.resolve(column, span.clone())?.into(),
                };
                Ok(CompiledPiece::Field(label, source))
            }
        });
        Ok(CompiledSource::Template(compiled.collect::<Result<_, CutError>>()?))
    }
}

impl Resolve for Compiler<'_> {
    fn column(&mut self, column: &ColumnRef, span: Range<usize>) -> Result<CompiledSource, CutError> {
        self.columns.resolve(column, span).map(CompiledSource::from)
    }

    fn byte_width(&self) -> Option<ByteWidth> {
        self.byte_width.cloned()
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
            (Some(near), _) => error.remedy(format!("The nearest is {near}.")),
            (None, []) => error.remedy("Lists stand in a jig, under [lists]; texts may stand here in brackets: is in (\"A\", \"B\")."),
            (None, known) => error.remedy(format!("The lists are: {}.", known.join(", "))),
        })
    }
}

impl From<Resolved> for CompiledSource {
    fn from(resolved: Resolved) -> Self {
        match resolved {
            Resolved::Source(source) => CompiledSource::Column(source),
            Resolved::Value { slot, name, hidden } => CompiledSource::Value { slot, name, hidden },
        }
    }
}

/// The type said last, behind `then` or else in the first chain.
fn output_type(cut: &CompiledCut) -> OutputType {
    let said = |steps: &[Step]| steps.iter().rev().find_map(Step::output_type);
    said(&cut.branches.then).or_else(|| said(&cut.branches.chains.first()?.steps)).unwrap_or_default()
}

fn shell_word(name: &str) -> String {
    if name.chars().all(|c| c.is_alphanumeric() || c == '_') { name.to_owned() } else { format!("'{name}'") }
}
