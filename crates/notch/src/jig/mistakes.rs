//! What is wrong with a jig as TOML.

use keen_notch_core::{CutError, nearest};

use super::file::JigFile;
use crate::show::Problem;

/// The line of a place in a text, counted from 1.
pub fn line_of(text: &str, at: usize) -> usize {
    text[..at.min(text.len())].matches('\n').count() + 1
}

/// What is wrong with the file as TOML, or with its keys: of keys that mean nothing, all.
pub fn not_a_jig(name: &str, text: &str, error: toml::de::Error) -> Problem {
    let (mut wrong, mut rest, mut error) = (Vec::new(), text.to_owned(), error);
    loop {
        wrong.push(wrong_toml(name, text, &error));
        let Some(span) = error.span().filter(|_| error.message().starts_with("unknown field"))
        else {
            break;
        };
        // The line becomes a comment of the same length, so that the places of what follows stay.
        let start = rest[..span.start].rfind('\n').map_or(0, |newline| newline + 1);
        // Without its heading what stands in a section would be taken for a part of the one above.
        if rest[start..].trim_start().starts_with('[') {
            break;
        }
        let end = rest[start..].find('\n').map_or(rest.len(), |newline| start + newline);
        rest.replace_range(start..end, &"#".repeat(end - start));
        match toml::from_str::<JigFile>(&rest) {
            Err(next) if next.message().starts_with("unknown field") => error = next,
            _ => break,
        }
    }
    Problem::of_all(wrong)
}

fn wrong_toml(name: &str, text: &str, error: &toml::de::Error) -> Problem {
    let message =
        error.message().trim_end_matches('.').lines().next().unwrap_or_default().to_owned();
    let span = error.span().unwrap_or(0..0);
    // Serde names the unknown key and the known ones in backticks.
    let mut quoted = message.split('`').skip(1).step_by(2);
    let (said, remedies) = match quoted.next() {
        Some(unknown) if message.starts_with("unknown field") => {
            let known: Vec<&str> = quoted.collect();
            let mut remedies: Vec<String> = nearest(unknown, known.iter().copied())
                .map(|near| format!("The nearest is {near}."))
                .into_iter()
                .collect();
            remedies.push(format!("The keys that may stand here are: {}.", known.join(", ")));
            (format!("The key {unknown} means nothing here"), remedies)
        }
        Some(unknown) if message.starts_with("unknown variant") => {
            let known: Vec<&str> = quoted.collect();
            (
                format!("{unknown} means nothing here"),
                vec![format!("One of these is wanted: {}.", known.join(", "))],
            )
        }
        _ if message.starts_with("duplicate key") => (
            "This key stands here for the second time".to_owned(),
            vec![
                "Two columns cannot have one name; take one out, or call it otherwise.".to_owned(),
            ],
        ),
        _ if message.starts_with("missing field `cut`") => {
            ("This cut has no key cut".to_owned(), vec!["Write name = { cut = '…' }.".to_owned()])
        }
        _ => {
            let remedy = "A jig is a TOML file. Cuts stand under [cuts], each as name = 'cut'; lists under [lists], as name = [\"A\", \"B\"] or \
                          name = { A = \"…\" }.";
            (format!("This is no jig: {message}"), vec![remedy.to_owned()])
        }
    };
    let error = CutError {
        span: span.clone(),
        message: said,
        remedies,
        quotes_missing: false,
        perhaps_column: None,
        instead: None,
    };
    let place = format!("{name}, line {}", line_of(text, span.start));
    Problem::Cut { what: "jig", text: text.to_owned(), place: Some(place), error: Box::new(error) }
}
