//! A cut that is proposed for a column, and the names of the pieces.

use std::collections::BTreeMap;

use crate::{Plan, PlanOptions, parse_assignment};

/// A cut that suits a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Proposal {
    /// Its names, as the left side has them.
    pub names: String,
    /// The cut, which starts from the column; where it names it that is `{column}`.
    pub cut: String,
    /// How many texts it fits by their looks; a table's are counted with [`Proposal::plan`].
    pub fits: u64,
}

impl Proposal {
    /// The cut for a column that cuts name so: `{lot}`, `{column 3}`.
    pub fn cut_of(&self, column: &str) -> String {
        self.cut.replace("{column}", column)
    }

    /// It takes a piece that not all texts have, and says nothing of those that lack it.
    pub fn is_optional(&self) -> bool {
        self.names.ends_with('?') && !self.names.contains(',')
    }

    /// The plan of some cuts that are proposed for one column, for a table of that column alone;
    /// `None` when one cannot be read, which is so for none.
    pub fn plan(proposals: &[Proposal]) -> Option<Plan> {
        let columns = ["column".to_owned()];
        let options = PlanOptions { start: Some(columns[0].clone()), ..PlanOptions::default() };
        let cuts =
            proposals.iter().map(|of| parse_assignment(&format!("{} = {}", of.names, of.cut)));
        Plan::compile(&cuts.collect::<Result<Vec<_>, _>>().ok()?, &columns, &options).ok()
    }
}

/// Names that say what pieces hold, none of them twice.
pub(super) struct Names(pub BTreeMap<String, usize>);

impl Names {
    pub(super) fn unused(&mut self, name: &str) -> String {
        let known = self.0.entry(name.to_owned()).or_default();
        *known += 1;
        let numbered = if *known == 1 { return name.to_owned() } else { format!("{name}{known}") };
        // What is numbered may be taken as well.
        if self.0.contains_key(&numbered) { self.unused(name) } else { numbered }
    }
}
