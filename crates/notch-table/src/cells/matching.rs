//! The columns of one table found in another.

/// Where each of these columns stands in a table with those.
///
/// # Errors
/// How the columns differ, as a clause.
pub(crate) fn matching<'c>(
    columns: impl Iterator<Item = &'c str> + Clone,
    table: &[String],
) -> Result<Vec<usize>, String> {
    // What has no name, or the name of another, is found by its place.
    if table.iter().map(String::as_str).eq(columns.clone()) {
        return Ok((0..table.len()).collect());
    }
    let found: Option<Vec<usize>> =
        columns.clone().map(|name| table.iter().position(|column| column == name)).collect();
    let lacks: Vec<&str> =
        columns.clone().filter(|name| !table.iter().any(|column| column == name)).collect();
    let has: Vec<&str> = table
        .iter()
        .map(String::as_str)
        .filter(|name| !columns.clone().any(|column| column == *name))
        .collect();
    let listed = |names: &[&str]| {
        names
            .iter()
            .map(|name| if name.is_empty() { "a column without a name" } else { name })
            .collect::<Vec<_>>()
            .join(", ")
    };
    let mut said = Vec::new();
    if !lacks.is_empty() {
        said.push(format!("it lacks {}", listed(&lacks)));
    }
    if !has.is_empty() {
        said.push(format!("it has {} that the other lacks", listed(&has)));
    }
    match found {
        Some(found) if said.is_empty() && found.len() == table.len() => Ok(found),
        _ if said.is_empty() => Err("names stand in it more than once".to_owned()),
        _ => Err(said.join(", and ")),
    }
}
