//! All that the bench knows, and the changes that are possible to it.
//!
//! A key or a click makes a new state (`keys.rs`); else only what the jobs report does. Drawing
//! reads it. What follows from the texts of the cuts (`judged`) is made anew whenever they change.

use std::collections::BTreeSet;
use std::path::PathBuf;

use keen_notch_core::Plan;

use super::cuts::{BenchCut, Judged, Marked, Verdict, judge};
use super::field::Field;
use super::look::{Looked, ShownRow};
use super::offers::{Known, Offers};
use super::ruler::Ruler;
use super::save::SaveDialogue;
use super::tally::{TallyLine, Which};
use crate::jig::Jig;

/// How many changes can be undone.
const MOST_UNDONE: usize = 200;
/// Of more rows than this the first ones are shown.
pub const MOST_LISTED: u64 = 100_000;

/// What keys go to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Focus {
    #[default]
    Line,
    Rows,
    Tally,
    Cuts,
}

impl Focus {
    /// The one that Tab goes to, or Shift-Tab.
    pub fn next(self, back: bool) -> Self {
        match (self, back) {
            (Focus::Line, false) | (Focus::Tally, true) => Focus::Rows,
            (Focus::Rows, false) | (Focus::Cuts, true) => Focus::Tally,
            (Focus::Tally, false) | (Focus::Line, true) => Focus::Cuts,
            (Focus::Cuts, false) | (Focus::Rows, true) => Focus::Line,
        }
    }
}

/// What can be undone: the cuts, and the one in the line.
#[derive(Debug, Clone, Default)]
pub struct Document {
    /// Never empty.
    pub cuts: Vec<BenchCut>,
    pub at: usize,
}

/// Changes that are one step to undo, as long as nothing comes between them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Run {
    Typed,
    Deleted,
}

/// The dialogue that is open over the bench.
#[derive(Debug, Default)]
pub enum Open {
    #[default]
    Nothing,
    /// The list of offers, and the one chosen.
    Offers(usize),
    Find(Field),
    /// What can be done here: the letters that narrow it, and the one chosen.
    Help(Field, usize),
    /// The columns: the letters that narrow them, the one chosen, and whether a cut is begun.
    Columns {
        typed: Field,
        chosen: usize,
        begins_cut: bool,
    },
    Ruler(Box<Ruler>),
    Save(Box<SaveDialogue>),
    /// Leave, save, or stay.
    Leave(usize),
}

/// The rows that are listed.
#[derive(Debug, Clone)]
pub enum RowList {
    /// The first rows of the table: their number.
    First(u64),
    /// One of each kind.
    Kinds(Vec<ShownRow>),
    /// These rows.
    Rows(Vec<u32>),
}

impl Default for RowList {
    fn default() -> Self {
        RowList::First(0)
    }
}

impl RowList {
    /// How many there are.
    pub fn len(&self) -> usize {
        match self {
            RowList::First(rows) => usize::try_from(*rows).unwrap_or(usize::MAX),
            RowList::Kinds(rows) => rows.len(),
            RowList::Rows(rows) => rows.len(),
        }
    }

    /// The row at a place, with what it stands for.
    pub fn get(&self, place: usize) -> Option<ListedRow> {
        match self {
            RowList::First(rows) => {
                ((place as u64) < *rows).then_some(ListedRow::Plain(place as u64 + 1))
            }
            RowList::Kinds(rows) => rows.get(place).map(|row| ListedRow::Kind(*row)),
            RowList::Rows(rows) => rows.get(place).map(|row| ListedRow::Plain(u64::from(*row))),
        }
    }
}

/// A row of a list.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ListedRow {
    Plain(u64),
    Kind(ShownRow),
}

impl ListedRow {
    /// Its number.
    pub fn number(self) -> u64 {
        match self {
            ListedRow::Plain(row) => row,
            ListedRow::Kind(shown) => shown.row,
        }
    }
}

/// What a key or a report asks for that is no change of the state.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Ask {
    /// Count anew: the cuts in force are others.
    Count,
    /// Learn from the pieces that are marked for the cut in the line.
    Learn,
    /// Find the rows of the list that hold a text.
    Find(String),
    /// Save what the dialogue says; what exists may be written over where it was asked.
    Save,
    /// Look at the column anew.
    Look,
    /// Glance at all columns, for the list to choose from.
    Glance,
    /// Take the mouse, or give it back.
    Mouse(bool),
    /// Show the whole command, to copy.
    Command,
    Leave,
}

/// The table as it was opened.
#[derive(Debug, Clone, Default)]
pub struct OpenTable {
    /// As it was typed.
    pub path: PathBuf,
    /// What it is called.
    pub name: String,
    pub columns: Vec<String>,
    /// The column that cuts start from, by its place.
    pub column: Option<usize>,
    /// How many rows are known, and whether that is all.
    pub rows: u64,
    pub is_whole: bool,
}

impl OpenTable {
    /// What files beside it are called after: its name without its ending, and without signs that
    /// are none of a file's name.
    pub fn stem(&self) -> String {
        let stem = self.path.file_stem().unwrap_or_default().to_string_lossy();
        let is_usual = |c: &char| c.is_alphanumeric() || " -_.".contains(*c);
        let stem: String = stem.chars().filter(is_usual).collect();
        let stem = stem.trim_matches(['-', '.', ' ']);
        if stem.is_empty() { "table".to_owned() } else { stem.to_owned() }
    }
}

/// What was written last, for the command that is printed at the end.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Written {
    pub table: Option<PathBuf>,
    pub only: bool,
    pub rejects: Option<PathBuf>,
}

/// All that the bench knows.
#[derive(Default)]
pub struct State {
    pub table: OpenTable,
    /// The jig without its cuts.
    pub jig: Jig,
    /// Where it was read or written last, and its bytes then.
    pub jig_file: Option<(PathBuf, Vec<u8>)>,
    pub document: Document,
    pub judged: Judged,
    undo: Vec<Document>,
    redo: Vec<Document>,
    run: Option<Run>,
    /// The cuts in force as they were last saved or written.
    pub kept: BTreeSet<String>,
    /// Those that are in the jig's file, or were on the command line.
    pub saved: BTreeSet<String>,
    pub written: Written,
    /// Files that this session has written.
    pub own_files: BTreeSet<PathBuf>,
    /// What was saved and written, a line each.
    pub told: Vec<String>,
    pub focus: Focus,
    pub open: Open,
    pub which: Which,
    /// The text searched for, and the rows that have it.
    pub find: Option<(String, Vec<u32>)>,
    pub list: RowList,
    pub lines: Vec<TallyLine>,
    /// The place of the chosen row in the list, and of the first that is drawn.
    pub row: usize,
    pub top: usize,
    /// The first tally line that is drawn.
    pub tally_top: usize,
    /// How many characters long texts are scrolled by, to the right or to the left.
    pub scroll: isize,
    pub message: Option<String>,
    pub looked: Option<Looked>,
    /// How much of the table is counted, in percent; `None` when all is.
    pub counting: Option<u8>,
    /// How many rows and columns of the screen there are.
    pub size: (u16, u16),
    /// How many lines the rows, the tally and a list have, as last drawn.
    pub heights: (usize, usize, usize),
    /// What is told of each column where one is chosen.
    pub glances: Option<Vec<String>>,
    /// The first rows stand where one of each layout will.
    pub shows_first: bool,
    /// The table was read again, which is to be said when its rows are known.
    pub said_again: bool,
    /// The bench is left when the table is written.
    pub leaves_when_written: bool,
    /// The mouse is the terminal's own.
    pub no_mouse: bool,
    /// Which of rows and tally is drawn where there is room for one.
    pub tally_shown: bool,
}

impl State {
    /// A bench with these cuts, the last of them in the line.
    pub fn of(table: OpenTable, jig: Jig, mut cuts: Vec<BenchCut>) -> Self {
        if cuts.is_empty() {
            cuts.push(BenchCut::default());
        }
        let at = cuts.len() - 1;
        let mut state = State { table, jig, document: Document { cuts, at }, ..State::default() };
        state.jig.column = state.column_name().map(str::to_owned);
        state.judge();
        state.kept = state.in_force();
        state.saved.clone_from(&state.kept);
        state
    }

    /// The name of the column that cuts start from.
    pub fn column_name(&self) -> Option<&str> {
        self.table.column.map(|column| self.table.columns[column].as_str())
    }

    /// The cut in the line.
    pub fn cut(&self) -> &BenchCut {
        &self.document.cuts[self.document.at]
    }

    /// The same, to be changed.
    pub fn cut_mut(&mut self) -> &mut BenchCut {
        &mut self.document.cuts[self.document.at]
    }

    /// How the text in the line stands.
    pub fn verdict(&self) -> &Verdict {
        self.judged.verdicts.get(self.document.at).unwrap_or(&Verdict::Empty)
    }

    /// The place in the plan of the cut in the line.
    pub fn place(&self) -> Option<usize> {
        self.judged.places.get(self.document.at).copied().flatten()
    }

    /// The cuts in force, compiled.
    pub fn plan(&self) -> Option<&Plan> {
        self.judged.plan.as_deref()
    }

    /// The texts in force.
    pub fn in_force(&self) -> BTreeSet<String> {
        self.judged.in_force.iter().flatten().cloned().collect()
    }

    /// Whether a good cut was changed since it was last saved or written.
    pub fn is_unsaved(&self) -> bool {
        self.in_force() != self.kept
    }

    /// The cuts that something was typed for.
    pub fn count(&self) -> usize {
        self.document.cuts.iter().filter(|cut| !cut.is_empty()).count()
    }

    /// Judges the cuts anew; returns whether others are in force than before.
    pub fn judge(&mut self) -> bool {
        let before = std::mem::take(&mut self.judged);
        self.judged = judge(&mut self.document.cuts, &self.jig, &self.table.columns);
        let is_other = before.in_force.iter().flatten().ne(self.judged.in_force.iter().flatten());
        if !is_other && before.plan.is_some() {
            self.judged.plan = before.plan;
        }
        is_other
    }

    /// Remembers the cuts as they are, before a change; changes of one run are one step.
    pub fn remember(&mut self, run: Option<Run>) {
        if run.is_some() && self.run == run {
            return;
        }
        self.run = run;
        self.undo.push(self.document.clone());
        if self.undo.len() > MOST_UNDONE {
            self.undo.remove(0);
        }
        self.redo.clear();
    }

    /// What comes next is a step of its own.
    pub fn end_run(&mut self) {
        self.run = None;
    }

    /// Takes the last change back, or makes it again.
    pub fn undo(&mut self, again: bool) -> bool {
        self.run = None;
        let (from, to) = match again {
            false => (&mut self.undo, &mut self.redo),
            true => (&mut self.redo, &mut self.undo),
        };
        let Some(before) = from.pop() else {
            let nothing = if again { "Nothing to do again" } else { "Nothing to undo" };
            self.message = Some(nothing.to_owned());
            return false;
        };
        to.push(std::mem::replace(&mut self.document, before));
        true
    }

    /// Puts another cut into the line, and takes away empty ones that were left.
    pub fn go_to_cut(&mut self, at: usize) {
        let cuts = &self.document.cuts;
        let at = at.min(cuts.len() - 1);
        let keep: Vec<bool> =
            cuts.iter().enumerate().map(|(n, cut)| n == at || !cut.is_empty()).collect();
        let before = keep[..at].iter().filter(|kept| **kept).count();
        let mut kept = keep.iter();
        self.document.cuts.retain(|_| kept.next().copied().unwrap_or(true));
        self.document.at = before;
        self.row_kept();
    }

    /// What the line stands for changed: the tally's lines are others.
    fn row_kept(&mut self) {
        if !matches!(
            self.which,
            Which::All | Which::OneOfEach | Which::WithFinding | Which::AnyFinding
        ) {
            self.which = Which::OneOfEach;
        }
    }

    /// What is offered at the cursor.
    pub fn offers(&self) -> Offers {
        let cut = self.cut();
        if cut.is_empty() {
            let proposals = self.looked.as_ref().map_or(&[][..], |looked| &looked.proposals);
            return Offers::of_empty_line(proposals);
        }
        let above = self.judged.names[..self.document.at.min(self.judged.names.len())].iter();
        let above = above.flat_map(|left| left.split(',')).map(str::trim);
        let known = Known {
            columns: self.table.columns.iter().map(String::as_str).chain(above).collect(),
            lists: self.jig.lists.keys().map(String::as_str).collect(),
        };
        Offers::at(cut.line.text(), cut.line.cursor(), self.verdict(), &known)
    }

    /// The row that is chosen.
    pub fn chosen(&self) -> Option<ListedRow> {
        self.list.get(self.row)
    }

    /// A marked piece that the cut in the line does not give, as it is told.
    pub fn not_given(&self) -> Option<&str> {
        self.judged.not_given.get(self.document.at)?.as_deref()
    }

    /// The piece that was marked in a cell for the cut in the line.
    pub fn mark_of(&self, cell: &str) -> Option<&Marked> {
        self.cut().marks.iter().find(|mark| mark.cell == cell)
    }
}
