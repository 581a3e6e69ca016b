//! Marked pieces → the cut: what is asked of learning, and what becomes of its answer.

use std::sync::atomic::AtomicBool;
use std::time::{Duration, Instant};

use keen_notch_core::{Judge, Layouts, Lesson, TextSample, in_braces, learn};
use keen_notch_table::AllRowsAgain;

use super::cuts::Marked;
use super::ruler::{Answer, AnsweredCut, Ruler};
use super::state::{RowList, State};
use super::tally::Which;
use crate::commands::learn::judge::{judge, question};
use crate::commands::learn::look::look;
use crate::show::{
    LearntPiece, Problem, TEACHES_NOTHING, counted, plain, shapes, share, stopped, visible,
};

/// How long a search may take.
const LONGEST: Duration = Duration::from_secs(2);
/// How many cuts are offered.
const OFFERED: usize = 3;
/// How wide the shapes of pieces are shown, in terminal columns.
const SHAPES: usize = 30;

/// What is asked: pieces of cells of a column.
pub struct Asked {
    /// The place of the column.
    pub column: usize,
    pub name: String,
    pub lessons: Vec<Lesson>,
    pub rows: u64,
}

/// A sample of a column, with its layouts, kept from one question to the next.
pub struct Sampled {
    column: usize,
    sample: TextSample,
    layouts: Layouts,
}

/// The piece that a ruler marks.
pub fn mark(ruler: &Ruler) -> Marked {
    Marked {
        row: Some(ruler.row),
        place: format!("line {}", ruler.line),
        cell: ruler.text.clone(),
        piece: ruler.piece.text().to_owned(),
    }
}

/// The column that pieces are marked in for the cut in the line: the one that it starts from, else
/// the one that all start from.
pub fn column(state: &State) -> Option<usize> {
    let of_cut = || {
        let plan = state.plan()?;
        Some(plan.sources()[plan.origin(state.place()?)?].index)
    };
    of_cut().or(state.table.column)
}

/// A cut that was learnt, as it is written where its column is not the one that all start from.
pub fn with_source(state: &State, cut: &str) -> String {
    match column(state) {
        Some(column) if Some(column) != state.table.column && !cut.starts_with('"') => {
            format!("{} | {cut}", in_braces(&state.table.columns[column]))
        }
        _ => cut.to_owned(),
    }
}

/// What is asked with the piece of the ruler and all that are marked for the cut.
pub fn asked(state: &State, ruler: &Ruler) -> Option<Asked> {
    let column = column(state)?;
    let own = mark(ruler);
    let others = state.cut().marks.iter().filter(|mark| mark.cell != own.cell);
    let lesson =
        |mark: &Marked| Lesson { cell: mark.cell.clone(), piece: mark.piece.clone(), binds: true };
    let lessons = others.map(lesson).chain([lesson(&own)]).collect();
    let name = state.table.columns[column].clone();
    Some(Asked { column, name, lessons, rows: state.table.rows })
}

/// Makes a row the chosen one: in the list that is shown where it is there, else among all rows.
pub fn show_row(state: &mut State, row: u64) {
    let place = (0..state.list.len())
        .find(|n| state.list.get(*n).is_some_and(|listed| listed.number() == row));
    match place {
        Some(place) => state.row = place,
        None => {
            (state.which, state.find) = (Which::All, None);
            state.list = RowList::First(state.table.rows);
            state.row = usize::try_from(row).unwrap_or(1).saturating_sub(1);
        }
    }
}

/// Learns the cut.
///
/// # Errors
/// The table cannot be read, or it was broken off.
pub fn answer(
    asked: &Asked,
    rows: &AllRowsAgain,
    known: &mut Option<Sampled>,
    stop: &AtomicBool,
) -> Result<Answer, Problem> {
    let teaches_nothing = |lesson: &Lesson| lesson.piece.is_empty() || lesson.piece == lesson.cell;
    if asked.lessons.iter().all(teaches_nothing) {
        return Ok(Answer { said: TEACHES_NOTHING.to_owned(), ..Answer::default() });
    }
    let place = asked.column + rows.before;
    if known.as_ref().is_none_or(|known| known.column != asked.column) {
        let Some(table) = rows.open()? else { return Ok(Answer::default()) };
        let sample = look(table, place, None, &[], stop)?.sample.unwrap_or_default();
        let layouts = sample.layouts();
        *known = Some(Sampled { column: asked.column, sample, layouts });
    }
    let Some(Sampled { sample, layouts, .. }) = &*known else { return Ok(Answer::default()) };
    let begun = Instant::now();
    let is_late = || begun.elapsed() >= LONGEST || stop.load(std::sync::atomic::Ordering::Relaxed);
    let learned = learn(&asked.lessons, &asked.name, sample, layouts, &is_late);
    let mut piece =
        LearntPiece { name: String::new(), learned, judged: None, lessons: asked.lessons.clone() };
    if piece.learned.cuts.is_empty() {
        let said = plain(&stopped(&piece, None)).replace('\n', " ");
        return Ok(Answer { said: said.trim().to_owned(), ..Answer::default() });
    }
    let answered = asked.lessons.iter().map(|lesson| lesson.cell.clone());
    let judges = [Judge::new(&asked.name, &piece.learned.cuts, layouts, answered)];
    let Some(table) = rows.open()? else { return Ok(Answer::default()) };
    let mut judged = judge(table, place, &judges, stop)?;
    let question = question(&judges, &judged);
    let judged = judged.pop().unwrap_or_default();
    let cuts = std::mem::take(&mut piece.learned.cuts);
    let kept = judged.different();
    let cuts = kept
        .into_iter()
        .take(OFFERED)
        .map(|n| AnsweredCut {
            share: share(judged.fits[n], judged.filled),
            cut: cuts[n].clone(),
            shapes: plain(&shapes(&judged.shapes[n], SHAPES)),
        })
        .collect();
    let said = match &question {
        Some(question) => {
            let row = &question.row;
            let pieces: Vec<String> = question
                .answers
                .iter()
                .map(|answer| match answer.pieces.first().map(String::as_str) {
                    None | Some("") => "(blank)".to_owned(),
                    Some(piece) => visible(piece),
                })
                .collect();
            format!(
                "They part in line {}: {}. After Enter that row is next.",
                row.line,
                pieces.join(" or ")
            )
        }
        None => format!("in all {} these agree", counted(asked.rows, "row")),
    };
    Ok(Answer { cuts, said, next_row: question.map(|question| question.row.row) })
}
