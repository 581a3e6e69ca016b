//! Runs an example of the table of words.

use std::sync::Arc;

use crate::language::{CutError, Example, parse_assignment, parse_cut};
use crate::program::{Plan, PlanError, PlanOptions};
use crate::{About, List, Scratch};

/// The lists examples may name, each of keys and what they stand for.
pub const EXAMPLE_LISTS: [(&str, &[(&str, &str)]); 1] =
    [("genera", &[("BRA", "Brassica"), ("ROS", "Rosa"), ("QUE", "Quercus")])];

/// What an example gives, written in one line: the new cell, or `name: cell, name: cell` for
/// several names; then, in round brackets, each finding as `kind: reason`.
///
/// # Errors
/// The cut cannot be read or compiled.
pub fn evaluate_example(example: &Example) -> Result<String, CutError> {
    let (assignment, named) = match parse_assignment(example.cut) {
        Ok(assignment) => (assignment, true),
        Err(_) => (parse_cut(example.cut)?, false),
    };
    let lists = EXAMPLE_LISTS.map(|(name, pairs)| {
        List::of_pairs(pairs.iter().copied()).map(|list| (name.to_owned(), Arc::new(list)))
    });
    let lists = lists
        .into_iter()
        .collect::<Result<_, _>>()
        .map_err(|two| CutError::new(0..0, two.to_string()))?;
    let options = PlanOptions { start: Some("code".to_owned()), lists, ..PlanOptions::default() };
    let plan =
        Plan::compile(&[assignment], &["code".to_owned()], &options).map_err(
            |error| match error {
                PlanError::Cut(_, error) | PlanError::Rule(_, error) => error,
                PlanError::Option { message, .. } => CutError::new(0..0, message),
            },
        )?;
    let mut scratch = Scratch::default();
    let result = plan.evaluate([example.cell], &mut scratch);
    let mut said: Vec<String> =
        plan.outputs()
            .iter()
            .zip(result.cells)
            .map(|(output, cell)| {
                if named { format!("{}: {}", output.name, cell.text) } else { cell.text.to_owned() }
            })
            .collect();
    said = vec![said.join(", ")];
    for finding in result.findings {
        let name = match finding.about {
            About::Name { cut, name } if plan.names(cut).len() > 1 => {
                plan.names(cut).nth(name).map(|name| format!("{name}, "))
            }
            _ => None,
        };
        said.push(format!(
            "({}{}: {})",
            name.unwrap_or_default(),
            finding.kind.name(),
            finding.reason
        ));
    }
    said.retain(|part| !part.is_empty());
    Ok(said.join(" "))
}
