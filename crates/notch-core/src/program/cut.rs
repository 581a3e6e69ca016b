//! Compiled cuts, checks and conditions.
//!
//! A condition may ask about a cut in brackets, and a cut has conditions: these types are what is
//! recursive in the language, and so they stand in one file.

use std::sync::Arc;

use super::kernel::Kernel;
use super::output_type::OutputType;
use super::row_context::RowContext;
use super::step::Step;
use crate::text::characters::is_blank;
use crate::text::{SureTexts, What};

pub(crate) struct CompiledCut {
    pub names: Vec<CompiledName>,
    /// The place of what its first name gets among the values of the plan; those of its other names
    /// come after it.
    pub slot: usize,
    /// Its left side as written, without the question marks.
    pub left: String,
    /// What findings about the whole cut call it: the same without helpers.
    pub called: String,
    pub branches: Branches,
    /// The fast path of plain cells: there is one where the first chain starts from a column, has
    /// no condition, and all steps can be done so.
    pub fast: Option<FastPath>,
    /// A later cut or check reads what it gives.
    pub is_read: bool,
    /// The cut itself where it is written, or else the first written one that reads it.
    pub seen_in: Option<usize>,
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

/// Chains joined by `else` and the steps after `then`.
pub(crate) struct Branches {
    pub chains: Vec<CompiledChain>,
    pub then: Vec<Step>,
    pub then_written: Vec<Written>,
}

pub(crate) struct CompiledChain {
    pub source: CompiledSource,
    pub steps: Vec<Step>,
    /// What stands after `if`.
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
    /// What a cut above has returned.
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
    /// The text that a step in brackets or in a template starts from.
    Reached,
    /// A literal `""`.
    Blank,
}

pub(crate) enum CompiledPiece {
    Literal(String),
    /// A field: what it is called in reasons, and where its text comes from.
    Field(String, CompiledSource),
}

type HoldsOfText = dyn Fn(&str) -> bool + Send + Sync;
type HoldsInRow = dyn for<'a> Fn(&str, &mut RowContext<'a>) -> bool + Send + Sync;

/// A compiled test of one text.
pub(crate) struct Test {
    pub negated: bool,
    /// What it says of something missing, before it is negated.
    pub of_missing: bool,
    pub holds: Holds,
    /// Texts of which it is true, before it is negated: they need not be asked one by one.
    pub surely: Option<SureTexts>,
}

pub(crate) enum Holds {
    /// It looks at nothing but the text.
    OfText(Box<HoldsOfText>),
    /// It looks at other cells of the row as well.
    InRow(Box<HoldsInRow>),
}

impl Test {
    /// A test that is false of something missing; `negated` turns it round.
    pub(crate) fn new(negated: bool, holds: impl Fn(&str) -> bool + Send + Sync + 'static) -> Self {
        let holds = Holds::OfText(Box::new(holds));
        Self { negated, of_missing: false, holds, surely: None }
    }

    /// A test that looks at other cells of the row as well.
    pub(crate) fn in_row(
        negated: bool,
        holds: impl for<'a> Fn(&str, &mut RowContext<'a>) -> bool + Send + Sync + 'static,
    ) -> Self {
        let holds = Holds::InRow(Box::new(holds));
        Self { negated, of_missing: false, holds, surely: None }
    }

    /// The same test, which is true of these texts, before it is negated.
    pub(crate) fn true_of(self, texts: Option<SureTexts>) -> Self {
        Self { surely: texts, ..self }
    }

    /// The test that is true of something missing.
    pub(crate) fn blank(negated: bool) -> Self {
        Self { of_missing: true, ..Self::new(negated, is_blank) }
    }
}

/// A compiled condition.
pub(crate) enum Condition {
    Any(Vec<Condition>),
    All(Vec<Condition>),
    Not(Box<Condition>),
    Test(Subject, Test, Vec<Watched>),
    /// Whether no other row has the text of the plan's unique source of that place.
    Unique {
        place: usize,
        negated: bool,
    },
}

/// What is counted of the answers of a test, for a hint.
pub(crate) enum Watched {
    /// In how many rows it holds of the piece, and in how many of the whole cell alone.
    Piece { source: usize, event: usize },
    /// In how many rows it holds where the mark as a word of its own does not occur.
    Word { word: What, event: usize },
}

/// What a test is about.
pub(crate) enum Subject {
    /// The text the chain has reached.
    It,
    Source(CompiledSource),
}

/// A compiled check: what must hold, when, and what is said when it does not.
pub(crate) struct Demand {
    pub condition: Condition,
    pub when: Option<Condition>,
    pub reason: String,
    /// Texts that meet it, whatever their row.
    pub surely: Option<SureTexts>,
}

impl Demand {
    pub(crate) fn new(
        condition: Condition,
        when: Option<Condition>,
        saying: Option<String>,
        written: &str,
    ) -> Self {
        let reason = saying.filter(|saying| !saying.is_empty()).unwrap_or_else(|| match written {
            "" => "fails its check".to_owned(),
            written => {
                format!("fails: {}", written.split_whitespace().collect::<Vec<_>>().join(" "))
            }
        });
        let surely = condition.surely();
        Self { condition, when, reason, surely }
    }

    /// That a text fits the type its column is written with.
    pub(crate) fn of_type(output_type: OutputType) -> Self {
        let condition = Condition::Test(
            Subject::It,
            Test::new(false, move |text| output_type.holds(text)),
            Vec::new(),
        );
        let reason = format!("no {}", output_type.said());
        Self { condition, when: None, reason, surely: None }
    }
}

/// What is demanded of a column of the table.
pub(crate) struct CompiledColumn {
    /// The column, as its place among the plan's sources.
    pub source: usize,
    pub required: bool,
    /// Its place among the plan's unique sources, when its texts must be unique.
    pub unique: Option<usize>,
    /// What must hold for its text where it is filled.
    pub checks: Vec<Demand>,
}

/// What is demanded of a row.
pub(crate) struct CompiledCheck {
    pub title: String,
    pub demand: Demand,
    /// What must be there for the check to be made.
    pub needs: Vec<CompiledSource>,
}

/// The fast path of a cut.
pub(crate) struct FastPath {
    pub start: Start,
    /// The search that its first kernel needs, by its place among those of the plan.
    pub search: Option<usize>,
    /// The kernels of its first steps.
    pub kernels: Vec<KernelStep>,
    /// Where the cut has several names the kernels that return the item of each, and do the steps
    /// after the list; none for one that is passed over. Rows in which an item is not certain are
    /// evaluated by row.
    pub items: Vec<Vec<KernelStep>>,
    /// The chains after `else` that kernels can do, up to the first one that they cannot.
    pub others: Vec<OtherChain>,
    /// The steps from the first one without a kernel on, which are evaluated by value.
    pub rest: Vec<Step>,
    /// Rows that the kernels give up are evaluated by value, all of the cut: nothing in it reads a
    /// cut above.
    pub may_retry: bool,
    /// Why steps certainly return nothing.
    pub reasons: Vec<Arc<str>>,
    /// Nothing depends on the cut, so that a row in which it certainly returns nothing need not be
    /// evaluated by row.
    pub may_be_missing: bool,
}

/// A chain after `else` that kernels can do: the source it starts from, and its steps.
pub(crate) struct OtherChain {
    pub source: usize,
    pub kernels: Vec<KernelStep>,
}

/// A step that has a kernel.
#[derive(Clone)]
pub(crate) struct KernelStep {
    pub kernel: Arc<dyn Kernel>,
    /// Where its reasons begin among those of the path.
    pub reasons: usize,
}

/// What the pieces of a cut are pieces of at first.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Start {
    /// A source.
    Source(usize),
    /// A value of a cut above, which has a fast path itself, by its place among those of the plan.
    Value(usize),
    /// A template of texts and sources.
    Template(Vec<Joined>),
    /// Nothing in particular: all of the cut is evaluated by value.
    Row,
}

/// A piece of a template.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Joined {
    Text(String),
    Source(usize),
}

/// A byte that is looked for in all cells of a source, once for all cuts that want to know.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Search {
    pub source: usize,
    pub byte: u8,
}
