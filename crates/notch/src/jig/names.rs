//! Columns that a table may have under another name.

use super::Jig;
use crate::show::Problem;

/// The columns of a table as a jig calls them.
#[derive(Debug)]
pub struct Called {
    /// Their names, in the order of the table.
    pub columns: Vec<String>,
    /// What is to be said of those that the table calls otherwise, one sentence each.
    pub said: Vec<String>,
}

impl Jig {
    /// The columns of a table by the names that the cuts know: a column that is not there under its
    /// own name is the one that has another of its names, if just one does. Nothing is written
    /// under another name for it.
    ///
    /// # Errors
    /// Several columns have names that may be meant.
    pub fn called(&self, columns: &[String]) -> Result<Called, Problem> {
        let mut called = Called { columns: columns.to_vec(), said: Vec::new() };
        for column in self.columns.iter().filter(|column| !columns.contains(&column.rule.column)) {
            let name = &column.rule.column;
            let there: Vec<usize> =
                (0..columns.len()).filter(|place| column.also.contains(&columns[*place])).collect();
            match there.as_slice() {
                [] => {}
                [place] => {
                    called.said.push(format!(
                        "The column {name} is called {} in this table.",
                        columns[*place]
                    ));
                    called.columns[*place].clone_from(name);
                }
                several => {
                    let names: Vec<String> =
                        several.iter().map(|place| columns[*place].clone()).collect();
                    return Err(Problem::said(
                        format!(
                            "there is no column {name}, and several that it may be: {}.",
                            names.join(", ")
                        ),
                        format!(
                            "Leave the ones that are not meant out of `also` of {name} in the jig, \
                            or rename one in the table."
                        ),
                    ));
                }
            }
        }
        Ok(called)
    }
}
