//! `notch learn`: examples in, the cut out.
//!
//! The table is read twice: for a sample of the column and the cells of the examples; then to run
//! the cuts that were found over all rows, and to find the row in which they part.

pub mod judge;
pub mod look;
mod wanted;

use std::path::Path;
use std::process::ExitCode;
use std::time::Instant;

use keen_notch_core::{Judge, Layouts, Lesson, TextSample, in_braces, learn};
use keen_notch_table::{Source, Table};

use self::judge::{differs, judge, question};
use self::look::{Seen, elsewhere, look, other_row, spread};
use self::wanted::{Wanted, divided, teaches_nothing, wanted};
use super::files::files_differ;
use super::session::{say_notices, shown};
use super::survey::place;
use crate::cli::Learn;
use crate::ends::interrupted;
use crate::jig::save::save;
use crate::jig::{CutExample, Jig, ReadCut};
use crate::show::{
    LearntPiece, Lessons, Problem, Question, learnt_json, learnt_page, print, print_json, say,
    visible,
};

/// The name of a column that is not there.
const NO_COLUMN: &str = "text";

pub fn run(args: &Learn) -> Result<ExitCode, Problem> {
    let (table, typed) = divided(args);
    if typed.is_empty() && args.like.is_none() {
        return Err(Problem::said(
            "there is no example.",
            "Show what is to come out of a cell: notch learn lots.csv -c lot 'GR-2026-TIL => \
            2026'.",
        ));
    }
    let mut wanted = wanted(args, typed)?;
    match table {
        Some(table) => of_table(args, Path::new(table), typed, &mut wanted),
        None if args.like.is_some() || args.save_jig.is_some() => Err(Problem::said(
            "--like and --save-jig need a table.",
            "Name it before the examples: notch learn lots.csv -c lot 'GR-2026-TIL => 2026'.",
        )),
        None => of_examples(args, typed, &wanted),
    }
}

/// Examples alone: the simplest cuts.
fn of_examples(args: &Learn, typed: &[String], wanted: &[Wanted]) -> Result<ExitCode, Problem> {
    let column = args.column.as_deref().unwrap_or(NO_COLUMN);
    let (sample, layouts) = (TextSample::default(), Layouts::default());
    let is_late = is_late(args);
    if wanted.iter().any(teaches_nothing) {
        let lessons = Lessons { column, typed, teaches_nothing: true, ..Lessons::default() };
        return told(args, lessons);
    }
    let pieces = wanted
        .iter()
        .map(|wanted| LearntPiece {
            name: wanted.name.clone(),
            learned: learn(&wanted.lessons, column, &sample, &layouts, &is_late),
            judged: None,
            lessons: wanted.lessons.clone(),
        })
        .collect();
    told(args, Lessons { table: None, column, typed, pieces, ..Lessons::default() })
}

fn of_table(
    args: &Learn,
    path: &Path,
    typed: &[String],
    wanted: &mut [Wanted],
) -> Result<ExitCode, Problem> {
    files_differ(path, &Jig::default(), &[("the jig to be saved", args.save_jig.as_ref())])?;
    let source = Source::from_argument(path).to_be_read_again()?;
    let open = || Table::open(&source, &args.reading.options());
    let table = open()?;
    say_notices(&table);
    let (name, names, whereabouts) =
        (table.name().to_owned(), table.columns().to_vec(), table.whereabouts());
    let column = column(args, &names)?;
    let like = args.like.as_deref().map(|like| place(like, &names)).transpose()?;
    let typed_cells: Vec<String> = wanted
        .first()
        .map(|wanted| wanted.lessons.iter().map(|lesson| lesson.cell.clone()).collect())
        .unwrap_or_default();
    let mut seen = look(table, column, like, &typed_cells, interrupted())?;
    if seen.filled == 0 {
        return Err(Problem::said(
            format!("{} has no text in {} to learn from.", visible(&name), visible(&names[column])),
            "Name another column: -c COLUMN.",
        ));
    }
    let sample = seen.sample.take().unwrap_or_default();
    let layouts = sample.layouts();
    take_cells_of_table(wanted, &seen, &layouts);
    note_strange_cells(wanted, &seen, &layouts, &names[column]);
    if args.like.is_some() && seen.like.is_empty() {
        return Err(Problem::said(
            "nothing is filled in there to learn from.",
            "Fill in the pieces of three rows or more, or give examples: 'CELL => PIECE'.",
        ));
    }
    let lessons = Lessons {
        table: Some((args.words[0].as_str(), name)),
        column: &names[column],
        reading: args.reading.words(),
        name: args.name.as_deref(),
        names: &args.names,
        typed,
        rows: seen.rows,
        places: Some(whereabouts),
        ..Lessons::default()
    };
    if wanted.iter().any(teaches_nothing) {
        let cells: Vec<&str> =
            wanted.iter().flat_map(|of| &of.lessons).map(|one| one.cell.as_str()).collect();
        let other = other_row(&layouts, &seen.first, &cells);
        return told(args, Lessons { teaches_nothing: true, other, ..lessons });
    }
    let is_late = is_late(args);
    let piece = |wanted: &Wanted| LearntPiece {
        name: wanted.name.clone(),
        learned: learn(&wanted.lessons, &names[column], &sample, &layouts, &is_late),
        judged: None,
        lessons: wanted.lessons.clone(),
    };
    let mut pieces: Vec<LearntPiece> = wanted.iter().map(piece).collect();
    let stopped = pieces.iter().find_map(|piece| {
        let stopped = piece.learned.stopped.as_ref().filter(|stopped| stopped.most.is_none())?;
        piece.lessons.get(stopped.lesson)
    });
    let elsewhere = match stopped {
        Some(lesson) => elsewhere(open()?, column, &names, lesson)?,
        None => None,
    };
    let differs = differs(&seen.like, &pieces, &names[column]);
    let question = judge_over_all_rows(open()?, (column, &names[column]), &layouts, &mut pieces)?;
    let like = args.like.as_deref().map(|like| (like, seen.like.len()));
    told(args, Lessons { pieces, question, differs, like, elsewhere, ..lessons })
}

/// Takes the cells of the examples as the table has them, and what was filled in by hand.
fn take_cells_of_table(wanted: &mut [Wanted], seen: &Seen, layouts: &Layouts) {
    for wanted in wanted {
        for (n, lesson) in wanted.lessons.iter_mut().enumerate() {
            if let (false, Some(cell)) = (seen.exact[n], &seen.trimmed[n]) {
                lesson.cell = cell.clone();
            }
        }
        wanted.lessons.extend(spread(&seen.like, layouts));
    }
}

/// Says which of the examples are no cells of the table and of none of its layouts.
fn note_strange_cells(wanted: &[Wanted], seen: &Seen, layouts: &Layouts, column: &str) {
    let lessons = wanted.first().map_or(&[][..], |wanted| &wanted.lessons);
    for (lesson, (exact, trimmed)) in lessons.iter().zip(seen.exact.iter().zip(&seen.trimmed)) {
        let is_there = *exact || trimmed.is_some();
        let fits = layouts.layouts.is_empty() || layouts.place(&lesson.cell).is_some();
        if !is_there && !fits {
            say(format_args!(
                "Note: {} is no cell of {} and is written like none of them.\n",
                visible(&lesson.cell),
                visible(column)
            ));
        }
    }
}

/// Runs what was learnt over all rows, and keeps of cuts that are the same in all of them one.
/// Returns the row in which the best ones part.
fn judge_over_all_rows(
    table: Table,
    (place, column): (usize, &str),
    layouts: &Layouts,
    pieces: &mut [LearntPiece],
) -> Result<Option<Question>, Problem> {
    let answered =
        || pieces.iter().flat_map(|piece| &piece.lessons).map(|lesson| lesson.cell.clone());
    let judges: Vec<Option<Judge>> = pieces
        .iter()
        .map(|piece| match piece.learned.cuts.as_slice() {
            [] => None,
            cuts => Judge::new(column, cuts, layouts, answered()),
        })
        .collect();
    let judged = judge(table, place, &judges, interrupted())?;
    let question = question(&judges, &judged);
    for (piece, mut judged) in pieces.iter_mut().zip(judged) {
        let kept = judged.different();
        let is_kept = |n: &mut usize| {
            *n += 1;
            kept.contains(&(*n - 1))
        };
        let (mut of_cuts, mut of_fits, mut of_shapes) = (0, 0, 0);
        piece.learned.cuts.retain(|_| is_kept(&mut of_cuts));
        judged.fits.retain(|_| is_kept(&mut of_fits));
        judged.shapes.retain(|_| is_kept(&mut of_shapes));
        piece.judged = Some(judged);
    }
    Ok(question)
}

/// Tells when the search is to be broken off.
fn is_late(args: &Learn) -> impl Fn() -> bool + use<> {
    let (begun, seconds) = (Instant::now(), args.seconds);
    move || begun.elapsed().as_secs() >= seconds
}

/// Prints what was learnt, and saves it.
fn told(args: &Learn, lessons: Lessons<'_>) -> Result<ExitCode, Problem> {
    if args.json {
        print_json(&learnt_json(&lessons))?;
    } else {
        print(learnt_page(&lessons))?;
    }
    let is_found = !lessons.teaches_nothing
        && lessons.pieces.iter().all(|piece| !piece.learned.cuts.is_empty());
    if let Some(path) = args.save_jig.as_ref().filter(|_| is_found) {
        save_jig(path, &lessons)?;
        say(format_args!("The cut and its examples are in {}.\n", shown(path)));
    }
    Ok(if is_found { ExitCode::SUCCESS } else { ExitCode::from(1) })
}

/// Writes the best cuts with their examples into a jig, or into the one that is there already.
fn save_jig(path: &Path, lessons: &Lessons<'_>) -> Result<(), Problem> {
    let mut jig = match path.exists() {
        true => Jig::read(&[path.to_owned()])?,
        false => Jig { column: Some(lessons.column.to_owned()), ..Jig::default() },
    };
    let starts_there = jig.column.as_deref() == Some(lessons.column);
    for piece in &lessons.pieces {
        let Some(cut) = piece.learned.cuts.first() else { continue };
        // A template names its columns itself.
        let source = match starts_there || cut.starts_with('"') {
            true => String::new(),
            false => format!("{} | ", in_braces(lessons.column)),
        };
        let mut read = ReadCut::typed(&format!("{} = {source}{cut}", piece.name))?;
        let given = piece.lessons.iter().filter(|lesson| lesson.binds);
        let example = |lesson: &Lesson| CutExample {
            cell: lesson.cell.clone(),
            pieces: vec![lesson.piece.clone()],
            place: String::new(),
        };
        read.examples = given.map(example).collect();
        match jig.cuts.iter_mut().find(|known| known.left == read.left) {
            Some(known) => *known = read,
            None => jig.cuts.push(read),
        }
    }
    save(&jig, path)
}

/// The place of the column that examples are of.
fn column(args: &Learn, names: &[String]) -> Result<usize, Problem> {
    match &args.column {
        Some(column) => place(column, names),
        None if names.len() == 1 => Ok(0),
        None => Err(Problem::said(
            "it is not said which column the cells stand in.",
            format!("Name it: -c COLUMN. The columns are: {}.", names.join(", ")),
        )),
    }
}
