//! What is wrong with a jig as TOML.
//!
//! The keys that may stand somewhere, and the words that a key takes, are those of the schema of
//! jigs: a file that cannot be read is compared with it, so that every mistake of that kind is told
//! at once. Of what is left the TOML crate says what is wrong.

use std::ops::Range;

use keen_notch_core::{CutError, nearest};
use serde_json::Value;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::file::schema;
use crate::show::Problem;

/// The line of a place in a text, counted from 1.
pub fn line_of(text: &str, at: usize) -> usize {
    text[..at.min(text.len())].matches('\n').count() + 1
}

/// What is wrong at a place of a file: where in bytes, what, and the remedies.
struct Mistake {
    span: Range<usize>,
    said: String,
    remedies: Vec<String>,
}

/// What is wrong with the file as TOML, or with its keys; `error` is why it cannot be read.
pub fn not_a_jig(name: &str, text: &str, error: &toml::de::Error) -> Problem {
    let mut mistakes = match DeTable::parse(text) {
        Ok(table) => {
            let (schema, mut mistakes) = (schema(), Vec::new());
            Comparison { schema: &schema, mistakes: &mut mistakes }.table(
                &schema,
                table.get_ref(),
                table.span(),
            );
            mistakes
        }
        Err(_) => Vec::new(),
    };
    if mistakes.is_empty() {
        mistakes.push(other(text, error));
    }
    let problem = |Mistake { span, said, remedies }: Mistake| {
        let place = format!("{name}, line {}", line_of(text, span.start));
        let error = CutError {
            span,
            message: said,
            remedies,
            quotes_missing: false,
            perhaps_column: None,
            instead: None,
        };
        let (text, error) = (text.to_owned(), Box::new(error));
        Problem::Cut { what: "jig", text, place: Some(place), error }
    };
    Problem::of_all(mistakes.into_iter().map(problem).collect())
}

/// A file that is compared with the schema.
struct Comparison<'c> {
    schema: &'c Value,
    /// What does not fit, in the order of the file.
    mistakes: &'c mut Vec<Mistake>,
}

impl<'c> Comparison<'c> {
    /// What a part of the schema says itself, or where it is said.
    fn resolved(&self, part: &'c Value) -> &'c Value {
        let place = part["$ref"].as_str().and_then(|place| place.strip_prefix('#'));
        place.and_then(|place| self.schema.pointer(place)).unwrap_or(part)
    }

    /// What a part of the schema allows, each alternative by itself.
    fn alternatives(&self, part: &'c Value) -> Vec<&'c Value> {
        let part = self.resolved(part);
        match part["anyOf"].as_array().or(part["oneOf"].as_array()) {
            Some(all) => all.iter().flat_map(|part| self.alternatives(part)).collect(),
            None => vec![part],
        }
    }

    fn value(&mut self, part: &'c Value, value: &Spanned<DeValue<'_>>) {
        let alternatives = self.alternatives(part);
        match value.get_ref() {
            DeValue::Table(table) => {
                // Of several kinds of tables the one whose keys are there.
                let has_its_keys = |part: &&&Value| {
                    let required = part["required"].as_array().into_iter().flatten();
                    required.filter_map(Value::as_str).all(|key| table.contains_key(key))
                };
                let mut tables = alternatives.iter().filter(|part| part["type"] == "object");
                let first = tables.clone().next();
                if let Some(part) = tables.find(has_its_keys).or(first) {
                    self.table(part, table, value.span());
                }
            }
            DeValue::String(said) => {
                let words: Vec<&str> =
                    alternatives.iter().filter_map(|part| part["const"].as_str()).collect();
                if !words.is_empty() && !words.contains(&&**said) {
                    let remedy = format!("One of these is wanted: {}.", words.join(", "));
                    self.mistakes.push(Mistake {
                        span: value.span(),
                        said: format!("{said} means nothing here"),
                        remedies: vec![remedy],
                    });
                }
            }
            _ => {}
        }
    }

    fn table(&mut self, part: &'c Value, table: &DeTable<'_>, span: Range<usize>) {
        let known = part["properties"].as_object();
        for (key, value) in table {
            let of_key = known.and_then(|known| known.get(&**key.get_ref()));
            match (of_key, &part["additionalProperties"]) {
                (Some(part), _) | (None, part @ Value::Object(_)) => self.value(part, value),
                (None, Value::Bool(false)) => self.strange_key(key, known),
                _ => {}
            }
        }
        let required = part["required"].as_array().into_iter().flatten();
        for key in required.filter_map(Value::as_str).filter(|key| !table.contains_key(*key)) {
            self.mistakes.push(Mistake {
                span: span.clone(),
                said: format!("The key {key} is missing here"),
                remedies: vec![format!("Write {key} = '…' in it.")],
            });
        }
    }

    fn strange_key(
        &mut self,
        key: &Spanned<impl AsRef<str>>,
        known: Option<&serde_json::Map<String, Value>>,
    ) {
        let (said, known) = (key.get_ref().as_ref(), known.into_iter().flatten());
        let known: Vec<&str> = known.map(|(key, _)| key.as_str()).collect();
        let near = nearest(said, known.iter().copied());
        let mut remedies: Vec<String> =
            near.map(|near| format!("The nearest is {near}.")).into_iter().collect();
        remedies.push(format!("The keys that may stand here are: {}.", known.join(", ")));
        let said = format!("The key {said} means nothing here");
        self.mistakes.push(Mistake { span: key.span(), said, remedies });
    }
}

/// What the TOML crate says.
fn other(text: &str, error: &toml::de::Error) -> Mistake {
    let span = error.span().unwrap_or(0..0);
    if is_there_twice(text, &span) {
        let remedy = "Two columns cannot have one name; take one out, or call it otherwise.";
        return Mistake {
            span,
            said: "This key stands here for the second time".to_owned(),
            remedies: vec![remedy.to_owned()],
        };
    }
    let message = error.message().trim_end_matches('.').lines().next().unwrap_or_default();
    let remedy = "A jig is a TOML file. Cuts stand under [cuts], each as name = 'cut'; lists under \
        [lists], as name = [\"A\", \"B\"] or name = { A = \"…\" }.";
    Mistake { span, said: format!("This is no jig: {message}"), remedies: vec![remedy.to_owned()] }
}

/// Whether nothing is wrong at a place but that a key stands there which is there already: another
/// key could stand there.
fn is_there_twice(text: &str, span: &Range<usize>) -> bool {
    let (Some(before), Some(behind)) = (text.get(..span.start), text.get(span.end..)) else {
        return false;
    };
    let other = "a_key_that_is_nowhere_else";
    !span.is_empty()
        && !text.contains(other)
        && match DeTable::parse(&format!("{before}{other}{behind}")) {
            Ok(_) => true,
            Err(error) => error.span().is_some_and(|next| next.start > span.start + other.len()),
        }
}
