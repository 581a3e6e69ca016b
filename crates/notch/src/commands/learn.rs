//! `notch learn`: examples in, the cut out.
//!
//! The table is read twice: for a sample of the column and the cells of the examples; then to run
//! the cuts that were found over all rows, and to find the row in which they part.

use std::collections::HashMap;
use std::path::Path;
use std::process::ExitCode;
use std::time::Instant;

use keen_notch_core::{
    FirstRow, Judge, Judged, LEARNING_ROWS, Layouts, Lesson, Scratch, TextSample, learn,
    read_lesson,
};
use keen_notch_table::{Source, Table, each_row_of, gather_rows};

use super::files::files_differ;
use super::session::{say_notices, shown};
use super::survey::place;
use crate::cli::Learn;
use crate::ends::interrupted;
use crate::jig::save::save;
use crate::jig::{CutExample, Jig, ReadCut};
use crate::show::{
    Answer, Differs, LearntPiece, Lessons, Problem, Question, learnt_json, learnt_page, print,
    print_json, say, visible,
};

/// The name of a column that is not there.
const NO_COLUMN: &str = "text";
/// What the piece is called where nothing else is said.
const PIECE: &str = "piece";
/// At most that many examples are taken of a column that was filled in by hand.
const MOST_LIKE: usize = 200;

/// A piece that is to be learnt.
struct Wanted {
    /// Its name, with its question mark.
    name: String,
    lessons: Vec<Lesson>,
}

/// At most that many answers are offered to a question.
const MOST_ANSWERS: usize = 3;

/// What one pass over the table has seen.
#[derive(Clone, Default)]
struct Seen {
    sample: Option<TextSample>,
    rows: u64,
    filled: u64,
    /// The first row with a text.
    first: Option<FirstRow>,
    /// For each example whether its cell is there as typed, and a cell that is the same but for
    /// white space at its ends.
    exact: Vec<bool>,
    trimmed: Vec<Option<String>>,
    /// The rows that were filled in by hand, by their numbers: the line, the cell, the piece.
    like: Vec<LikeRow>,
    /// Those of the part at hand whose cells are to come.
    pieces: HashMap<u64, String>,
}

/// A row that was filled in by hand.
#[derive(Clone)]
struct LikeRow {
    row: u64,
    line: u64,
    cell: String,
    piece: String,
}

/// More rows than this that were filled in by hand are not looked at.
const MOST_FILLED: usize = 100_000;

pub fn run(args: &Learn) -> Result<ExitCode, Problem> {
    let (table, typed) = divided(args);
    if typed.is_empty() && args.like.is_none() {
        return Err(Problem::said(
            "there is no example.",
            "Show what is to come out of a cell: notch learn lots.csv -c lot 'GR-2026-TIL => 2026'.",
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

/// The table, where the first word is no example, and the examples.
fn divided(args: &Learn) -> (Option<&str>, &[String]) {
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
fn wanted(args: &Learn, typed: &[String]) -> Result<Vec<Wanted>, Problem> {
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
fn teaches_nothing(wanted: &Wanted) -> bool {
    let says_nothing = |lesson: &Lesson| lesson.piece.is_empty() || lesson.piece == lesson.cell;
    !wanted.lessons.is_empty() && wanted.lessons.iter().all(says_nothing)
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
    let table = Table::open(&source, &args.reading.options())?;
    say_notices(&table);
    let (name, names, whereabouts) =
        (table.name().to_owned(), table.columns().to_vec(), table.whereabouts());
    let column = column(args, &names)?;
    let like = args.like.as_deref().map(|like| place(like, &names)).transpose()?;
    let cells: Vec<String> = wanted
        .first()
        .map(|wanted| wanted.lessons.iter().map(|lesson| lesson.cell.clone()).collect())
        .unwrap_or_default();
    let seen = look(table, column, like, &cells)?;
    let sample = seen.sample.unwrap_or_default();
    if seen.filled == 0 {
        return Err(Problem::said(
            format!("{} has no text in {} to learn from.", visible(&name), visible(&names[column])),
            "Name another column: -c COLUMN.",
        ));
    }
    let layouts = sample.layouts();
    for wanted in &mut *wanted {
        for (n, lesson) in wanted.lessons.iter_mut().enumerate() {
            if let (false, Some(cell)) = (seen.exact[n], &seen.trimmed[n]) {
                lesson.cell = cell.clone();
            }
        }
        wanted.lessons.extend(spread(&seen.like, &layouts));
    }
    let typed_cells = wanted.first().map(|wanted| &wanted.lessons[..cells.len()]);
    for (n, lesson) in typed_cells.unwrap_or_default().iter().enumerate() {
        let is_there = seen.exact[n] || seen.trimmed[n].is_some();
        let fits = layouts.layouts.is_empty() || layouts.place(&lesson.cell).is_some();
        if !is_there && !fits {
            say(format_args!(
                "Note: {} is no cell of {} and is written like none of them.\n",
                visible(&lesson.cell),
                visible(&names[column])
            ));
        }
    }
    if args.like.is_some() && seen.like.is_empty() {
        return Err(Problem::said(
            "nothing is filled in there to learn from.",
            "Fill in the pieces of three rows or more, or give examples: 'CELL => PIECE'.",
        ));
    }
    let is_late = is_late(args);
    if wanted.iter().any(teaches_nothing) {
        let cells: Vec<&str> =
            wanted.iter().flat_map(|of| &of.lessons).map(|one| one.cell.as_str()).collect();
        let lessons = Lessons {
            table: Some((args.words[0].as_str(), name)),
            column: &names[column],
            typed,
            rows: seen.rows,
            teaches_nothing: true,
            other: other_row(&layouts, &seen.first, &cells),
            places: Some(whereabouts),
            ..Lessons::default()
        };
        return told(args, lessons);
    }
    let mut pieces: Vec<LearntPiece> = Vec::new();
    for wanted in &*wanted {
        let learned = learn(&wanted.lessons, &names[column], &sample, &layouts, &is_late);
        pieces.push(LearntPiece {
            name: wanted.name.clone(),
            learned,
            judged: None,
            lessons: wanted.lessons.clone(),
        });
    }
    let stopped = pieces.iter().find_map(|piece| {
        let stopped = piece.learned.stopped.as_ref().filter(|stopped| stopped.most.is_none())?;
        piece.lessons.get(stopped.lesson)
    });
    let elsewhere = match stopped {
        Some(lesson) => {
            elsewhere(Table::open(&source, &args.reading.options())?, column, &names, lesson)?
        }
        None => None,
    };
    let answered = || wanted.iter().flat_map(|wanted| &wanted.lessons).map(|one| one.cell.clone());
    let judges: Vec<Option<Judge>> = pieces
        .iter()
        .map(|piece| {
            let cuts = &piece.learned.cuts;
            if cuts.is_empty() {
                return None;
            }
            Judge::new(&names[column], cuts, &layouts, answered())
        })
        .collect();
    let judged = judge(Table::open(&source, &args.reading.options())?, column, &judges)?;
    let question = question(&judges, &judged);
    let differs = differs(&seen.like, &pieces, &names[column]);
    for (piece, judged) in pieces.iter_mut().zip(judged) {
        piece.judged = Some(judged);
    }
    let lessons = Lessons {
        table: Some((args.words[0].as_str(), name)),
        column: &names[column],
        typed,
        pieces,
        rows: seen.rows,
        question,
        differs,
        like: args.like.as_deref().map(|like| (like, seen.like.len())),
        places: Some(whereabouts),
        elsewhere,
        ..Lessons::default()
    };
    told(args, lessons)
}

/// The first row of the commonest layout of which no cell is an example, else the first odd one.
fn other_row(layouts: &Layouts, first: &Option<FirstRow>, cells: &[&str]) -> Option<FirstRow> {
    let other = layouts.layouts.iter().find(|layout| !cells.iter().any(|cell| layout.fits(cell)));
    let rows = other.map(|layout| &layout.first).into_iter().chain(&layouts.odd).chain(first);
    rows.into_iter().find(|row| !cells.contains(&row.text.as_str())).cloned()
}

/// The column, beside the one that is learnt from, in which a piece stands in the row of its cell.
fn elsewhere(
    table: Table,
    column: usize,
    names: &[String],
    lesson: &Lesson,
) -> Result<Option<String>, Problem> {
    let places: Vec<usize> = (0..names.len()).collect();
    let mut found = None;
    each_row_of(table, &places, |_, _, cells| {
        let Ok(cells) = cells else { return Ok(()) };
        if found.is_none() && cells[column] == lesson.cell.as_str() {
            found = (0..cells.len())
                .find(|n| *n != column && cells[*n].contains(&lesson.piece))
                .map(|n| names[n].clone());
        }
        Ok(())
    })?;
    Ok(found)
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
            false => format!("{{{}}} | ", lessons.column),
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

/// One pass over the table: a sample of the column, the cells of the examples, what was filled in
/// by hand.
fn look(
    table: Table,
    column: usize,
    like: Option<usize>,
    cells: &[String],
) -> Result<Seen, Problem> {
    let none = || Seen {
        sample: Some(TextSample::of(LEARNING_ROWS)),
        exact: vec![false; cells.len()],
        trimmed: vec![None; cells.len()],
        ..Seen::default()
    };
    // The cells of a part come column by column: first what was filled in.
    let columns: Vec<usize> = like.into_iter().chain([column]).collect();
    let last = columns.len() - 1;
    let seen = gather_rows(
        table,
        &columns,
        Some(interrupted()),
        none(),
        none,
        |seen, place, row, line, cell| {
            let Some(cell) = cell else { return };
            let is_filled = !cell.trim_start().is_empty();
            if place < last {
                if is_filled {
                    seen.pieces.insert(row, cell.to_owned());
                }
                return;
            }
            seen.rows += 1;
            if let Some(piece) = seen.pieces.remove(&row) {
                seen.like.push(LikeRow { row, line, cell: cell.to_owned(), piece });
            }
            if !is_filled {
                return;
            }
            seen.filled += 1;
            seen.first.get_or_insert_with(|| FirstRow { row, line, text: cell.to_owned() });
            if let Some(sample) = &mut seen.sample {
                sample.add(cell, row, line);
            }
            for (n, wanted) in cells.iter().enumerate() {
                if cell == wanted {
                    seen.exact[n] = true;
                } else if seen.trimmed[n].is_none() && cell.trim() == wanted.trim() {
                    seen.trimmed[n] = Some(cell.to_owned());
                }
            }
        },
        |seen, part| {
            seen.rows += std::mem::take(&mut part.rows);
            seen.filled += std::mem::take(&mut part.filled);
            let first = part.first.take();
            seen.first = seen.first.take().or(first);
            if let (Some(sample), Some(part)) = (&mut seen.sample, &mut part.sample) {
                sample.merge(part);
            }
            for (n, exact) in part.exact.iter_mut().enumerate() {
                seen.exact[n] |= std::mem::take(exact);
            }
            for (n, trimmed) in part.trimmed.iter_mut().enumerate() {
                let trimmed = trimmed.take();
                seen.trimmed[n] = seen.trimmed[n].take().or(trimmed);
            }
            let room = MOST_FILLED.saturating_sub(seen.like.len());
            seen.like.extend(part.like.drain(..).take(room));
            Ok(())
        },
    )?;
    Ok(seen)
}

/// Examples of what was filled in by hand, spread over the layouts.
fn spread(like: &[LikeRow], layouts: &Layouts) -> Vec<Lesson> {
    let mut by_layout: Vec<Vec<&LikeRow>> = vec![Vec::new(); layouts.layouts.len() + 1];
    for row in like.iter().filter(|row| !row.cell.trim_start().is_empty()) {
        by_layout[layouts.place(&row.cell).unwrap_or(layouts.layouts.len())].push(row);
    }
    let longest = by_layout.iter().map(Vec::len).max().unwrap_or_default();
    (0..longest)
        .flat_map(|n| by_layout.iter().filter_map(move |rows| rows.get(n)))
        .take(MOST_LIKE)
        .map(|row| Lesson { cell: row.cell.clone(), piece: row.piece.clone(), binds: false })
        .collect()
}

/// Runs the cuts over all rows.
fn judge(table: Table, column: usize, judges: &[Option<Judge>]) -> Result<Vec<Judged>, Problem> {
    let none = || -> Vec<Judged> {
        judges.iter().map(|judge| judge.as_ref().map(Judge::none).unwrap_or_default()).collect()
    };
    let finish = |judged: &mut Vec<Judged>, scratch: &mut Scratch| {
        for (judge, judged) in judges.iter().zip(judged) {
            if let Some(judge) = judge {
                judge.finish(judged, scratch);
            }
        }
    };
    Ok(gather_rows(
        table,
        &[column],
        Some(interrupted()),
        none(),
        || (none(), Scratch::default()),
        |(judged, scratch), _, row, line, cell| {
            let Some(cell) = cell else { return };
            for (judge, judged) in judges.iter().zip(judged) {
                if let Some(judge) = judge {
                    judge.add(judged, cell, (row, line), scratch);
                }
            }
        },
        |all, (part, scratch)| {
            finish(part, scratch);
            all.iter_mut().zip(part).for_each(|(all, part)| all.merge(part));
            Ok(())
        },
    )?)
}

/// The row to ask about, with all answers that cuts give: one for each piece.
fn question(judges: &[Option<Judge>], judged: &[Judged]) -> Option<Question> {
    let asks = judges.iter().zip(judged).filter_map(|(judge, judged)| {
        let judge = judge.as_ref()?;
        judge.question(judged)
    });
    let row = asks.into_iter().next()?.clone();
    let pieces: Vec<Vec<String>> = judges
        .iter()
        .map(|judge| judge.as_ref().map(|judge| judge.pieces(&row.text)).unwrap_or_default())
        .collect();
    // First what the best cuts give, then what the next ones do, piece by piece.
    let distinct: Vec<Vec<String>> = pieces
        .into_iter()
        .map(|of| {
            let mut distinct: Vec<String> = Vec::new();
            of.into_iter().for_each(|piece| {
                if !distinct.contains(&piece) {
                    distinct.push(piece);
                }
            });
            distinct
        })
        .collect();
    let longest = distinct.iter().map(Vec::len).max().unwrap_or_default();
    let nth = |of: &Vec<String>, n: usize| of.get(n).or(of.last()).cloned().unwrap_or_default();
    let mut answers: Vec<Answer> = (0..longest)
        .map(|n| Answer { pieces: distinct.iter().map(|of| nth(of, n)).collect() })
        .collect();
    answers.truncate(MOST_ANSWERS);
    Some(Question { row, answers })
}

/// The rows that were filled in otherwise than the best cut does.
fn differs(like: &[LikeRow], pieces: &[LearntPiece], column: &str) -> Vec<Differs> {
    let Some(cut) = pieces.first().and_then(|piece| piece.learned.cuts.first()) else {
        return Vec::new();
    };
    let Some(trial) = keen_notch_core::Trial::new(column, [cut.as_str()]) else {
        return Vec::new();
    };
    let mut differs = Vec::new();
    trial.run(like.iter().map(|row| row.cell.as_str()), &mut Scratch::default(), |n, _, tried| {
        if tried.piece != like[n].piece {
            let LikeRow { row, line, cell, piece } = &like[n];
            differs.push(Differs {
                row: *row,
                line: *line,
                cell: cell.clone(),
                stands: piece.clone(),
                gives: tried.piece.to_owned(),
            });
        }
    });
    differs
}
