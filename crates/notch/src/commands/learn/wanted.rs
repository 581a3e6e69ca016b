//! The examples of the command line: which pieces are wanted, and what is shown of each.

use std::collections::HashMap;
use std::path::Path;

use keen_notch_core::{Lesson, read_lesson};

use crate::cli::Learn;
use crate::show::{Problem, say, visible};

/// What the piece is called where nothing else is said.
const PIECE: &str = "piece";

/// A piece that is to be learnt.
pub(super) struct Wanted {
    /// Its name, with its question mark.
    pub name: String,
    pub lessons: Vec<Lesson>,
}

/// The table, where the first word is no example, and the examples.
pub(super) fn divided(args: &Learn) -> (Option<&str>, &[String]) {
    match args.words.split_first() {
        Some((first, rest)) if !first.contains("=>") || Path::new(first).exists() => {
            (Some(first), rest)
        }
        _ => (None, &args.words),
    }
}

/// The pieces, each with its examples.
///
/// # Errors
/// An example cannot be read, or two of them contradict each other.
pub(super) fn wanted(args: &Learn, typed: &[String]) -> Result<Vec<Wanted>, Problem> {
    let names = match args.names.as_slice() {
        [] => vec![args.name.clone().unwrap_or_else(|| PIECE.to_owned())],
        names => names.iter().map(|name| name.trim().to_owned()).collect(),
    };
    let mut wanted: Vec<Wanted> =
        names.into_iter().map(|name| Wanted { name, lessons: Vec::new() }).collect();
    let mut known: HashMap<String, (usize, Vec<String>)> = HashMap::new();
    for (n, text) in typed.iter().enumerate() {
        let (cell, pieces) = read_lesson(text, wanted.len()).map_err(|error| Problem::Cut {
            what: "example",
            text: text.clone(),
            place: None,
            error: Box::new(error),
        })?;
        match known.get(&cell) {
            Some((_, same)) if *same == pieces => continue,
            Some((other, _)) => {
                return Err(Problem::said(
                    format!(
                        "two examples contradict each other: {} and {}.",
                        visible(&typed[*other]),
                        visible(text)
                    ),
                    "One cell has one piece; take one of them out.",
                ));
            }
            None => {}
        }
        for (wanted, piece) in wanted.iter_mut().zip(&pieces) {
            wanted.lessons.push(Lesson { cell: cell.clone(), piece: piece.clone(), binds: true });
        }
        known.insert(cell, (n, pieces));
    }
    wanted.retain(|wanted| wanted.name != "_");
    // A piece that no example has cannot be learnt; the others can.
    if !wanted.iter().all(teaches_nothing) {
        wanted.retain(|wanted| {
            let is_learnt = !teaches_nothing(wanted) || !wanted.name.ends_with('?');
            if !is_learnt {
                say(format_args!(
                    "Note: no example has a piece for {} yet; it is left out.\n",
                    visible(&wanted.name)
                ));
            }
            is_learnt
        });
    }
    Ok(wanted)
}

/// Whether the examples of a piece are whole cells, or nothing.
pub(super) fn teaches_nothing(wanted: &Wanted) -> bool {
    let says_nothing = |lesson: &Lesson| lesson.piece.is_empty() || lesson.piece == lesson.cell;
    !wanted.lessons.is_empty() && wanted.lessons.iter().all(says_nothing)
}
