//! The syntax tree of a cut: what was written, with its places, before any column is looked up.
//!
//! It is made by `parse.rs` and read by `compile/`. [`Assignment::outline`] is the part of it that
//! other crates see: which columns and words a cut has and where they stand, for the drawings of
//! `notch trace` and for what a command line completes.

use std::ops::Range;

use super::error::CutError;
use super::token::ColumnRef;
use super::words::{Group, Word};
use crate::schemes::Scheme;
use crate::text::Kind;
use crate::words::UNIQUE;

/// `names = cut`, as written.
#[derive(Debug, Clone)]
pub struct Assignment {
    /// The whole text, which every place in the tree refers to, in bytes.
    pub text: String,
    /// The names on the left, in order.
    pub names: Vec<Name>,
    /// What stands after the `=`.
    pub cut: Cut,
    /// What is worth saying about a cut that works all the same, one sentence each.
    pub hints: Vec<String>,
}

/// One name on the left of a cut.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Name {
    /// The name of the new column; `_` skips a piece.
    pub text: String,
    /// Written with `?`: it may stay blank.
    pub optional: bool,
    /// Where it stands.
    pub span: Range<usize>,
}

impl Assignment {
    /// The column the cut starts from, when its first chain names one.
    pub fn first_column(&self) -> Option<&str> {
        match &self.cut.chains.first()?.source {
            Source::Column(ColumnRef::Name(name), _) => Some(name),
            _ => None,
        }
    }
}

/// A cut taken apart for a reader.
#[derive(Debug, Clone)]
pub struct Outline {
    /// Its chains, in order.
    pub chains: Vec<ChainOutline>,
    /// The steps after `then`.
    pub then: Vec<StepOutline>,
}

/// One chain of a cut.
#[derive(Debug, Clone)]
pub struct ChainOutline {
    /// What it starts from, as written; `None` when it begins with a step.
    pub source: Option<String>,
    /// Its steps.
    pub steps: Vec<StepOutline>,
    /// Its condition as written, `if` included.
    pub condition: Option<String>,
}

/// One step of a cut.
#[derive(Debug, Clone)]
pub struct StepOutline {
    /// As written.
    pub written: String,
    /// Its word in the table of words.
    pub word: &'static Word,
}

impl Assignment {
    /// The cut taken apart for a reader.
    pub fn outline(&self) -> Outline {
        let quote =
            |span: &Range<usize>| self.text.get(span.clone()).unwrap_or_default().trim().to_owned();
        let steps = |nodes: &[StepNode]| -> Vec<StepOutline> {
            nodes
                .iter()
                .map(|node| StepOutline { written: quote(&node.span), word: node.word })
                .collect()
        };
        let chain = |chain: &Chain| {
            let first = chain
                .steps
                .first()
                .map(|step| step.span.start)
                .or_else(|| Some(chain.condition_span.as_ref()?.start));
            let source = quote(&(chain.span.start..first.unwrap_or(chain.span.end)));
            ChainOutline {
                source: Some(source.trim_end_matches('|').trim_end().to_owned())
                    .filter(|_| !matches!(chain.source, Source::UnsetSubject(_))),
                steps: steps(&chain.steps),
                condition: chain.condition_span.as_ref().map(quote),
            }
        };
        Outline { chains: self.cut.chains.iter().map(chain).collect(), then: steps(&self.cut.then) }
    }
}

impl Rule {
    /// Whether it asks whether something is unique, for which all rows must be read first.
    pub fn asks_unique(&self) -> bool {
        fn asks(node: &ConditionNode) -> bool {
            match node {
                ConditionNode::Any(nodes) | ConditionNode::All(nodes) => nodes.iter().any(asks),
                ConditionNode::Not(node) => asks(node),
                ConditionNode::Test { test, .. } => test.word.name == UNIQUE,
            }
        }
        asks(&self.condition) || self.when.as_ref().is_some_and(asks)
    }
}

impl Name {
    /// Whether the piece is skipped: the name is `_`.
    pub fn is_skip(&self) -> bool {
        self.text == "_"
    }

    /// Whether the column is computed for later cuts only and not written.
    pub fn is_hidden(&self) -> bool {
        self.text.starts_with('_')
    }
}

/// Chains joined by `else`, then the steps after `then`.
#[derive(Debug, Clone)]
pub struct Cut {
    pub(crate) chains: Vec<Chain>,
    pub(crate) then: Vec<StepNode>,
}

#[derive(Debug, Clone)]
pub(crate) struct Chain {
    pub source: Source,
    pub steps: Vec<StepNode>,
    pub condition: Option<ConditionNode>,
    /// Where the condition stands, its `if` included.
    pub condition_span: Option<Range<usize>>,
    pub span: Range<usize>,
}

#[derive(Debug, Clone)]
pub(crate) enum Source {
    Column(ColumnRef, Range<usize>),
    Template(Vec<TemplatePiece>),
    Cut(Box<Cut>),
    /// `list ( cut, cut )`.
    List(Vec<Cut>),
    /// `missing "reason"`.
    Missing(String),
    /// The text that a step in brackets or in a template starts from.
    Reached,
    /// The chain begins with a step.
    UnsetSubject(Range<usize>),
}

impl Source {
    /// Whether a later chain that begins with a step starts from the same column: one that is
    /// named, or the one that all cuts start from.
    pub(crate) fn is_column(&self) -> bool {
        matches!(self, Source::Column(..) | Source::UnsetSubject(_))
    }
}

#[derive(Debug, Clone)]
pub(crate) enum TemplatePiece {
    Literal(String),
    Field {
        /// What stands between the braces, which may be a column's name though it looks like a cut.
        inside: String,
        column: ColumnRef,
        /// The cut it is when no column is called so.
        cut: Option<Box<Cut>>,
        /// What it is about the text reached, when no column is called so: `{it}`, `{first 2}`.
        reached: Option<Box<Result<Cut, CutError>>>,
        span: Range<usize>,
    },
}

/// A word with what stood in the slots of its form.
#[derive(Debug, Clone)]
pub(crate) struct WordNode {
    pub word: &'static Word,
    pub args: Vec<Arg>,
    pub span: Range<usize>,
}

pub(crate) type StepNode = WordNode;

impl WordNode {
    /// Whether it counts characters from the end of the text.
    pub(crate) fn counts_from_end(&self) -> bool {
        let negative = |arg: &Arg| match &arg.value {
            ArgValue::Reach(reach) => {
                [reach.first, reach.last].into_iter().flatten().any(|place| place < 0)
            }
            _ => false,
        };
        let drops_last =
            |arg: &Arg| self.word.name == "drop first" && matches!(arg.value, ArgValue::Chosen(1));
        self.word.group == Group::Position
            && (self.word.name == "last"
                || self.args.iter().any(|arg| negative(arg) || drops_last(arg)))
    }
}

#[derive(Debug, Clone)]
pub(crate) struct Arg {
    pub value: ArgValue,
    pub span: Range<usize>,
}

#[derive(Debug, Clone)]
pub(crate) enum ArgValue {
    Count(usize),
    Reach(Reach),
    /// One place, counted from 1, or -1 from the end.
    Place(i64),
    Regex {
        pattern: String,
        flags: String,
    },
    /// A word that is a name: of a group, of a list.
    Name(String),
    Texts(Vec<String>),
    Counts(Vec<usize>),
    Kinds(Vec<KindItem>),
    Column(ColumnRef),
    Limits(Limits),
    Text(String),
    Condition(Box<ConditionNode>),
    Scheme(&'static Scheme),
    Mark(MarkNode),
    Separator(WordNode, bool),
    /// A step in brackets.
    Cut(Box<Cut>),
    /// A step that is a template.
    Template(Vec<TemplatePiece>),
    /// Whether an optional part of the form was there.
    Given(bool),
    /// Which choice of the form it was, from 0.
    Chosen(usize),
}

/// One place or a range of places, counted from 1, negative ones from the end; a side left open is
/// `None`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Reach {
    pub first: Option<i64>,
    pub last: Option<i64>,
    /// Written as one place, not as a range.
    pub single: bool,
}

impl Reach {
    pub(crate) fn one(place: i64) -> Self {
        Self { first: Some(place), last: Some(place), single: true }
    }
}

/// A mark: `[WHICH] WHAT [ignoring case]`.
#[derive(Debug, Clone)]
pub(crate) struct MarkNode {
    /// Which occurrence: 1 the first, -1 the last.
    pub which: i64,
    /// Whether the cut says which.
    pub which_said: bool,
    pub what: WordNode,
    pub ignoring_case: bool,
    /// As it was written, for messages.
    pub spelled: String,
}

/// One kind of characters in `keep` and `remove`.
#[derive(Debug, Clone)]
pub(crate) enum KindItem {
    Kind(Kind),
    /// The characters of a text.
    These(String),
}

/// What a number is compared with.
#[derive(Debug, Clone)]
pub(crate) enum Limits {
    /// Between two numbers, both included; a side left open is `None`.
    Between(Option<String>, Option<String>),
    /// `<`, `<=`, `>` or `>=` a number or the cell of a column.
    Compared(Comparison, Operand),
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Comparison {
    Less,
    AtMost,
    More,
    AtLeast,
}

#[derive(Debug, Clone)]
pub(crate) enum Operand {
    Text(String),
    Column(ColumnRef),
}

/// What stands after `if`.
#[derive(Debug, Clone)]
pub(crate) enum ConditionNode {
    Any(Vec<ConditionNode>),
    All(Vec<ConditionNode>),
    Not(Box<ConditionNode>),
    Test { subject: SubjectNode, test: WordNode },
}

/// What is demanded of a column or a row: what stands after `check`.
#[derive(Debug, Clone)]
pub struct Rule {
    /// The whole text, which every place in the tree refers to, in bytes.
    pub text: String,
    pub(crate) condition: ConditionNode,
    /// Where the condition stands.
    pub(crate) span: Range<usize>,
    pub(crate) when: Option<ConditionNode>,
    pub(crate) saying: Option<String>,
}

/// What a test is about.
#[derive(Debug, Clone)]
pub(crate) enum SubjectNode {
    /// The text the chain has reached.
    It,
    Column(ColumnRef, Range<usize>),
    Cut(Box<Cut>),
}
