//! The second pass: the cuts over all rows, the row in which they part, and the rows that were
//! filled in otherwise.

use std::sync::atomic::AtomicBool;

use keen_notch_core::{Judge, Judged, Scratch, Trial};
use keen_notch_table::{Table, gather_rows};

use super::look::LikeRow;
use crate::show::{Answer, Differs, LearntPiece, Problem, Question};

/// The largest number of answers that are offered to a question.
const MOST_ANSWERS: usize = 3;

/// Runs the cuts over all rows.
pub fn judge(
    table: Table,
    column: usize,
    judges: &[Option<Judge>],
    stop: &AtomicBool,
) -> Result<Vec<Judged>, Problem> {
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
        Some(stop),
        none(),
        || (none(), Scratch::default()),
        |(judged, scratch), _, row, line, cell| {
            for (judge, judged) in judges.iter().zip(judged) {
                if let Some(judge) = judge {
                    judge.add(judged, cell.text(), (row, line), scratch);
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
pub fn question(judges: &[Option<Judge>], judged: &[Judged]) -> Option<Question> {
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

/// The rows that were filled in otherwise than the best cut does, or the one that gives most.
pub fn differs(like: &[LikeRow], pieces: &[LearntPiece], column: &str) -> Vec<Differs> {
    let Some(piece) = pieces.first() else { return Vec::new() };
    let most = piece.learned.stopped.as_ref().and_then(|stopped| stopped.most.as_ref());
    let Some(cut) = piece.learned.cuts.first().or(most.map(|(cut, _)| cut)) else {
        return Vec::new();
    };
    let Some(trial) = Trial::new(column, [cut.as_str()]) else {
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
