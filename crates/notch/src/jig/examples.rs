//! The examples of a jig's cuts: cells with the pieces that must come out of them. They are tried
//! before any table is read, so that a jig can be changed by somebody else without fear.

use keen_notch_core::{Plan, PlanOptions, Scratch, parse_cut};

use super::Jig;
use crate::show::{Problem, visible};

/// An example of a cut.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CutExample {
    /// The text of the cell that the cut starts from.
    pub cell: String,
    /// What must come out of it, one for each name on the left; nothing for a blank.
    pub pieces: Vec<String>,
    /// The jig and the line it stands in.
    pub place: String,
}

/// The name of the column that cuts start from where neither they nor the jig names one.
const UNNAMED: &str = "text";

impl Jig {
    /// Tries the examples of all cuts.
    ///
    /// # Errors
    /// One does not come out: its line, its cell, and both pieces.
    pub(super) fn try_examples(&self) -> Result<(), Problem> {
        if self.cuts.iter().all(|cut| cut.examples.is_empty()) {
            return Ok(());
        }
        // What is wrong with a cut is told for the table.
        let Some(plan) = self.plan_of_examples() else { return Ok(()) };
        let mut wrong = Vec::new();
        for (n, cut) in self.cuts.iter().enumerate() {
            for example in &cut.examples {
                let given = given(&plan, n, &example.cell);
                if given != example.pieces {
                    wrong.push(said(&cut.left, example, &given));
                }
            }
        }
        if wrong.is_empty() { Ok(()) } else { Err(Problem::of_all(wrong)) }
    }

    /// The plan of all cuts for a table that has the columns they name.
    fn plan_of_examples(&self) -> Option<Plan> {
        // A name in the braces of a template may be a cut as well.
        let is_cut = |name: &str| parse_cut(name).is_ok();
        let named = self.columns_of_cuts();
        let no_cuts = named.iter().filter(|name| !is_cut(name)).cloned().collect();
        [vec![named[0].clone()], no_cuts, named].iter().find_map(|columns| {
            let options = PlanOptions {
                start: Some(columns.first()?.clone()),
                // What is demanded of a table says nothing of an example.
                columns: Vec::new(),
                checks: Vec::new(),
                only_rows: None,
                ..self.plan_options(columns)
            };
            Plan::compile(&self.assignments(), columns, &options).ok()
        })
    }

    /// The column that cuts start from, and those that they name, as far as their texts tell.
    fn columns_of_cuts(&self) -> Vec<String> {
        let made = |name: &str| {
            self.cuts.iter().any(|cut| {
                !cut.replace && cut.assignment.names.iter().any(|made| made.text == name)
            })
        };
        let start = self.column.clone().unwrap_or_else(|| UNNAMED.to_owned());
        let mut columns = vec![start];
        let mut wanted = 1;
        for inside in self.cuts.iter().flat_map(|cut| in_braces(&cut.assignment.text)) {
            let name = inside.split('|').next().unwrap_or_default().trim();
            let name = name.trim_matches(['"', '\'']);
            if let Some(Ok(place)) = name.strip_prefix("column ").map(str::parse::<usize>) {
                wanted = wanted.max(place.min(MOST_COLUMNS));
            } else if !name.is_empty()
                && name != "it"
                && !made(name)
                && columns.iter().all(|known| known != name)
            {
                columns.push(name.to_owned());
            }
        }
        for n in columns.len()..wanted {
            columns.push(format!("({n})"));
        }
        columns
    }
}

/// A cut that names a column by a higher place has no examples.
const MOST_COLUMNS: usize = 16_384;

/// What stands in braces.
fn in_braces(text: &str) -> impl Iterator<Item = &str> {
    text.split('{').skip(1).filter_map(|rest| rest.split_once('}').map(|(inside, _)| inside))
}

/// What a cut gives for a cell of the column that it starts from.
pub fn given(plan: &Plan, cut: usize, cell: &str) -> Vec<String> {
    let origin = plan.origin(cut);
    let cells = (0..plan.sources().len()).map(|source| match origin {
        Some(origin) if origin != source => "",
        _ => cell,
    });
    let mut scratch = Scratch::default();
    let row = plan.evaluate(cells, &mut scratch);
    let outputs = plan.outputs().iter().zip(row.cells).filter(|(output, _)| output.cut == cut);
    outputs.map(|(_, cell)| cell.text.to_owned()).collect()
}

fn said(left: &str, example: &CutExample, given: &[String]) -> Problem {
    let shown = |pieces: &[String]| {
        let piece = |piece: &String| match piece.as_str() {
            "" => "nothing".to_owned(),
            text => format!("“{}”", visible(text)),
        };
        pieces.iter().map(piece).collect::<Vec<_>>().join(" | ")
    };
    Problem::said(
        format!(
            "in {}: of “{}” {} gives {}, and the example says {}.",
            example.place,
            visible(&example.cell),
            visible(left),
            shown(given),
            shown(&example.pieces)
        ),
        "Mend the cut, or the example where it is out of date.",
    )
}
