//! Names in braces → columns of the table or cuts above.

use std::collections::HashMap;
use std::ops::Range;

use crate::language::{Assignment, ColumnRef, CutError, IT, nearest};
use crate::program::{NOWHERE, SourceColumn};

/// What a name in braces means at one place of the list of cuts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Resolved {
    /// A source, as its place in the plan's sources.
    Source(usize),
    /// What a cut above has returned, as its place among the values of the row.
    Value { slot: usize, name: String, hidden: bool },
    /// The text that a step in brackets starts from.
    Reached,
}

/// The table's columns and the cuts so far.
pub(super) struct Columns<'c> {
    columns: &'c [String],
    all: &'c [Assignment],
    /// The places of the columns by their names.
    by_name: HashMap<&'c str, Vec<usize>>,
    /// The names of the cuts so far, and their places among the values.
    made: Vec<String>,
    slots: HashMap<String, usize>,
    pub sources: Vec<SourceColumn>,
    /// The values that something reads, by their places, with the first cut that does.
    pub read: std::collections::BTreeMap<usize, usize>,
    /// How often a cut above was named so far.
    pub values_read: usize,
    /// The cut that is compiled.
    pub cut: usize,
}

/// How many columns a message lists.
const LISTED: usize = 24;

impl<'c> Columns<'c> {
    pub(super) fn new(columns: &'c [String], all: &'c [Assignment]) -> Self {
        let mut by_name: HashMap<&str, Vec<usize>> = HashMap::new();
        for (place, name) in columns.iter().enumerate() {
            by_name.entry(name).or_default().push(place);
        }
        let (made, slots) = (Vec::new(), HashMap::new());
        Self {
            columns,
            all,
            by_name,
            made,
            slots,
            sources: Vec::new(),
            read: std::collections::BTreeMap::new(),
            values_read: 0,
            cut: 0,
        }
    }

    /// From here on the name means the value at `slot`.
    pub(super) fn made(&mut self, name: &str, slot: usize) {
        self.made.push(name.to_owned());
        self.slots.entry(name.to_owned()).or_insert(slot);
    }

    /// Whether a cut above has this name.
    pub(super) fn is_made(&self, name: &str) -> bool {
        self.slots.contains_key(name)
    }

    /// The places of the table's columns of this name.
    pub(super) fn places(&self, name: &str) -> Vec<usize> {
        self.by_name.get(name).cloned().unwrap_or_default()
    }

    /// Whether a column or a cut above is called so.
    pub(super) fn knows(&self, name: &str) -> bool {
        self.is_made(name) || self.by_name.contains_key(name)
    }

    /// Looks a name up.
    ///
    /// # Errors
    /// No such column, or several.
    pub(super) fn resolve(
        &mut self,
        column: &ColumnRef,
        span: Range<usize>,
    ) -> Result<Resolved, CutError> {
        match column {
            ColumnRef::Place(place) if *place <= self.columns.len() => Ok(self.source(place - 1)),
            ColumnRef::Place(place) => Err(CutError::new(
                span,
                format!("There is no column {place}; the table has {}", self.columns.len()),
            )
            .remedy(self.list())),
            ColumnRef::Name(name) => {
                if let Some(slot) = self.slots.get(name) {
                    self.read.entry(*slot).or_insert(self.cut);
                    self.values_read += 1;
                    return Ok(Resolved::Value {
                        slot: *slot,
                        name: name.clone(),
                        hidden: name.starts_with('_'),
                    });
                }
                match self.places(name).as_slice() {
                    [place] => Ok(self.source(*place)),
                    [] => Err(self.unknown(name, span)),
                    several => {
                        let places: Vec<String> = several
                            .iter()
                            .map(|place| format!("{{column {}}}", place + 1))
                            .collect();
                        Err(CutError::new(
                            span,
                            format!("{} columns are called {name}", several.len()),
                        )
                        .remedy(format!(
                            "Take one by its place: {}.",
                            crate::language::either(&places)
                        )))
                    }
                }
            }
        }
    }

    fn source(&mut self, index: usize) -> Resolved {
        let known = self.sources.iter().position(|source| source.index == index);
        Resolved::Source(known.unwrap_or_else(|| {
            self.sources.push(SourceColumn { index, name: self.columns[index].clone() });
            self.sources.len() - 1
        }))
    }

    fn unknown(&self, name: &str, span: Range<usize>) -> CutError {
        let below = self.all.iter().flat_map(|cut| &cut.names).any(|below| below.text == name);
        if below {
            return CutError::new(
                span,
                format!("{name} is not made yet at this place; a cut may use the cuts above it"),
            )
            .remedy(format!("Put the cut that makes {name} before this one."));
        }
        if name == IT {
            return CutError::new(
                span,
                "There is no column it, and at the head of a chain no text is reached yet",
            )
            .remedy(
                "`it` is the text the chain has reached: after a bar, … | \"FH/{it}\", and in \
                conditions, … if it is digits.",
            )
            .remedy(self.list());
        }
        let error = CutError::new(span, format!("There is no column {name}"));
        let known = self.columns.iter().chain(&self.made).map(String::as_str);
        let error = match nearest(name, known) {
            Some(near) => {
                let mut error = error.remedy(format!("The nearest is {{{near}}}."));
                error.instead = Some(format!("{{{near}}}").into());
                error
            }
            None => error,
        };
        error.remedy(self.list())
    }

    /// The table's columns in one sentence.
    pub(super) fn list(&self) -> String {
        let mut names: Vec<String> = self
            .columns
            .iter()
            .enumerate()
            .map(|(place, name)| {
                if name.trim().is_empty() {
                    format!("{{column {}}}", place + 1)
                } else {
                    name.clone()
                }
            })
            .collect();
        let more = names.len().saturating_sub(LISTED);
        names.truncate(LISTED);
        let end = if more > 0 { format!(" and {more} more") } else { String::new() };
        format!("The columns are: {}{end}.", names.join(", "))
    }

    /// A column given by its name alone, outside of any cut.
    ///
    /// # Errors
    /// No such column, or several.
    pub(super) fn named(&mut self, name: &str) -> Result<Resolved, CutError> {
        // `-c 'column 3'` and `-c '{lot}'` mean what they mean in a cut.
        let inside = name.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')).unwrap_or(name);
        let column = match self.places(inside).is_empty() {
            false => ColumnRef::Name(inside.to_owned()),
            true => crate::language::column_ref(inside, NOWHERE)?,
        };
        self.resolve(&column, NOWHERE)
    }
}
