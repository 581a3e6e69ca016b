//! What `notch learn` prints.

use keen_notch_core::{FirstRow, Judged, Learned, Lesson, ShapeCount, write_lesson};
use keen_notch_table::Whereabouts;
use serde_json::{Value, json};

use super::columns::{Align, aligned};
use super::places::at;
use super::shell::shell_word;
use super::style::{self, set};
use super::summary::shapes;
use super::width::{clipped, counted, share, visible, width, window};

/// What was learnt, and from what.
#[derive(Default)]
pub struct Lessons<'l> {
    /// The table as it was named, and what it is called.
    pub table: Option<(&'l str, String)>,
    /// The column.
    pub column: &'l str,
    /// How the table is read, as typed.
    pub reading: Vec<String>,
    /// What the piece is called, where that was said.
    pub name: Option<&'l str>,
    /// All names of several pieces, as typed: those too that are passed over.
    pub names: &'l [String],
    /// The examples as typed.
    pub typed: &'l [String],
    /// The pieces.
    pub pieces: Vec<LearntPiece>,
    /// The rows of the table.
    pub rows: u64,
    /// The row in which the best cuts part.
    pub question: Option<Question>,
    /// The rows that were filled in by hand otherwise than the best cut does.
    pub differs: Vec<Differs>,
    /// The column that was filled in by hand, and in how many rows.
    pub like: Option<(&'l str, usize)>,
    /// Where rows stood.
    pub places: Option<Whereabouts>,
    /// The column in which a piece stands that is not in its cell.
    pub elsewhere: Option<String>,
    /// The pieces are whole cells, or nothing.
    pub teaches_nothing: bool,
    /// Then a row that is written otherwise, where there is one.
    pub other: Option<FirstRow>,
}

/// A piece that was to be learnt.
pub struct LearntPiece {
    /// Its name, with its question mark.
    pub name: String,
    /// What was learnt.
    pub learned: Learned,
    /// What the cuts make of all rows.
    pub judged: Option<Judged>,
    /// The examples.
    pub lessons: Vec<Lesson>,
}

/// A row in which the best cuts part.
pub struct Question {
    /// The row.
    pub row: FirstRow,
    /// What may come out of it.
    pub answers: Vec<Answer>,
}

/// One answer: a piece for each name.
pub struct Answer {
    /// The pieces.
    pub pieces: Vec<String>,
}

/// A row that was filled in otherwise than the cut does.
pub struct Differs {
    /// Its number, from 1.
    pub row: u64,
    /// The line it begins in.
    pub line: u64,
    /// The cell.
    pub cell: String,
    /// What was filled in.
    pub stands: String,
    /// What the cut gives.
    pub gives: String,
}

/// How many cuts are shown.
const SHOWN: usize = 3;
/// How many rows that differ are shown.
const DIFFERING: usize = 40;
/// How wide a text is shown at most, in terminal columns.
const WIDEST: usize = 60;

/// What is said where the examples are whole cells, or nothing.
pub const TEACHES_NOTHING: &str = "A piece that is the whole cell, or nothing, does not say what \
    is to be taken. Show one that is a part of its cell.";

/// The page of what was learnt.
pub fn learnt_page(lessons: &Lessons<'_>) -> String {
    let mut text = String::new();
    if lessons.teaches_nothing {
        text.push_str(TEACHES_NOTHING);
        text.push('\n');
        if let (Some(row), Some((table, _))) = (&lessons.other, &lessons.table) {
            let example = write_lesson(&row.text, &["PIECE".to_owned()]);
            text.push_str(&format!(
                "Line {} is written otherwise:\n  {}\n",
                row.line,
                set(style::COMMAND, learn(lessons, table, &example))
            ));
        }
        return text;
    }
    let several = lessons.pieces.len() > 1;
    let judged = lessons.pieces.iter().find_map(|piece| piece.judged.as_ref());
    if let Some(judged) = judged.filter(|judged| !judged.fits.is_empty()) {
        text.push_str(&format!(
            "Cuts that give every example, with their share of the {} of {}:\n",
            counted(judged.filled, "filled row"),
            visible(lessons.column)
        ));
    }
    for piece in &lessons.pieces {
        if several {
            text.push_str(&format!("{}\n", set(style::STRONG, visible(&piece.name))));
        }
        match &piece.learned.stopped {
            Some(_) => text.push_str(&stopped(piece, lessons.elsewhere.as_deref())),
            None => text.push_str(&found(piece)),
        }
    }
    if lessons.pieces.iter().any(|piece| !piece.learned.complete) {
        text.push_str("The search was broken off; --seconds gives it more time.\n");
    }
    text.push_str(&like(lessons));
    if lessons.pieces.iter().any(|piece| piece.learned.cuts.is_empty()) {
        return text;
    }
    if let Some((table, _)) = &lessons.table {
        match &lessons.question {
            Some(question) => text.push_str(&asked(lessons, question, table)),
            None => {
                let rows = counted(lessons.rows, "row");
                text.push_str(&format!("\nIn all {rows} these agree.\n"));
            }
        }
        text.push_str(&format!("\nTo use it:\n  {}\n", set(style::COMMAND, carve(lessons, table))));
    }
    text
}

/// The best cuts of a piece, each with its share of the rows and the shapes of its pieces.
fn found(piece: &LearntPiece) -> String {
    let mut rows: Vec<Vec<String>> = Vec::new();
    for (n, cut) in piece.learned.cuts.iter().take(SHOWN).enumerate() {
        let mut row = vec![set(style::COMMAND, visible(cut)).to_string()];
        if let Some(judged) = &piece.judged {
            row.insert(0, share(judged.fits[n], judged.filled));
            let room = window().saturating_sub(width(cut) + 16).max(30);
            row.push(shapes(&judged.shapes[n], room));
        }
        rows.push(row);
    }
    match piece.judged {
        Some(_) => aligned(&rows, &[Align::Right, Align::Left, Align::Left]),
        None => aligned(&rows, &[Align::Left]),
    }
}

/// Why nothing was found.
pub fn stopped(piece: &LearntPiece, elsewhere: Option<&str>) -> String {
    let Some(stopped) = &piece.learned.stopped else { return String::new() };
    let lesson = &piece.lessons[stopped.lesson];
    let said =
        |lesson: &Lesson| visible(&write_lesson(&lesson.cell, std::slice::from_ref(&lesson.piece)));
    let (count, all) = (stopped.most.as_ref().map_or(0, |(_, count)| *count), piece.lessons.len());
    match &stopped.most {
        Some((cut, _)) => format!(
            "No one cut gives all examples. The most, {count} of {all}, are given by\n  {}\nIt \
            does not give {}\n",
            set(style::COMMAND, visible(cut)),
            said(lesson)
        ),
        None => {
            let remedy = match (elsewhere, &stopped.nearest) {
                (Some(column), _) => format!(
                    "It stands in {0} of that row: learn from that column, -c {0}.",
                    visible(column)
                ),
                (None, Some(near)) => {
                    format!("The nearest that stands there is {}.", visible(near))
                }
                (None, None) => "A piece is made of what stands in the cell.".to_owned(),
            };
            format!("No cut makes this piece of its cell: {}\n{remedy}\n", said(lesson))
        }
    }
}

/// What was filled in by hand otherwise.
fn like(lessons: &Lessons<'_>) -> String {
    let Some((column, rows)) = lessons.like else { return String::new() };
    let same = rows - lessons.differs.len();
    let mut text = format!(
        "\n{} of {} filled in in {} are the same.\n",
        same,
        counted(rows as u64, "row"),
        visible(column)
    );
    if lessons.differs.is_empty() {
        return text;
    }
    let quoted = |text: &str| match text {
        "" => "(blank)".to_owned(),
        text => clipped(&visible(text), WIDEST),
    };
    let mut rows =
        vec![["row", "line", "cell", "stands there", "the cut gives"].map(str::to_owned).to_vec()];
    rows.extend(lessons.differs.iter().take(DIFFERING).map(|row| {
        vec![
            row.row.to_string(),
            row.line.to_string(),
            quoted(&row.cell),
            quoted(&row.stands),
            quoted(&row.gives),
        ]
    }));
    let is_found = lessons.pieces.iter().all(|piece| !piece.learned.cuts.is_empty());
    let said = if is_found { "probably mistaken" } else { "filled in otherwise" };
    text.push_str(&format!("{} {said}:\n", counted(lessons.differs.len() as u64, "row")));
    text.push_str(&aligned(
        &rows,
        &[Align::Right, Align::Right, Align::Left, Align::Left, Align::Left],
    ));
    if lessons.differs.len() > DIFFERING {
        text.push_str(&format!("  … {} more\n", lessons.differs.len() - DIFFERING));
    }
    text
}

/// The question, and the commands that answer it.
fn asked(lessons: &Lessons<'_>, question: &Question, table: &str) -> String {
    let place = match &lessons.places {
        Some(places) if places.has_files() => places.line(question.row.line),
        _ => format!("line {}", question.row.line),
    };
    let (line, marks) = underlined(&question.row.text, &question.answers);
    let mut text = format!("\nThey part in {place}:\n  {line}\n");
    if !marks.trim().is_empty() {
        text.push_str(&format!("  {}\n", set(style::FINDING, marks.trim_end())));
    }
    text.push_str("Which is right? Run it with the answer:\n");
    let rows: Vec<Vec<String>> = question
        .answers
        .iter()
        .map(|answer| {
            let shown: Vec<String> = answer
                .pieces
                .iter()
                .map(|piece| if piece.is_empty() { "(blank)".to_owned() } else { visible(piece) })
                .collect();
            let example = example(lessons, question, answer);
            vec![
                shown.join(" | "),
                set(style::COMMAND, learn(lessons, table, &example)).to_string(),
            ]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Left, Align::Left]));
    text
}

/// A cell, and marks under what the answers take of it.
fn underlined(cell: &str, answers: &[Answer]) -> (String, String) {
    let mut marked = vec![false; cell.len()];
    for piece in answers.iter().flat_map(|answer| &answer.pieces).filter(|piece| !piece.is_empty())
    {
        // What was filled up or written in another case stands there otherwise.
        let lower = cell.to_lowercase();
        let found = [piece.as_str(), piece.trim_start_matches('0')]
            .into_iter()
            .filter(|piece| !piece.is_empty())
            .find_map(|piece| {
                let same_length = lower.len() == cell.len();
                let folded = || lower.find(&piece.to_lowercase()).filter(|_| same_length);
                Some((cell.find(piece).or_else(folded)?, piece.len()))
            });
        if let Some((at, length)) = found {
            marked[at..(at + length).min(cell.len())].fill(true);
        }
    }
    let (mut line, mut marks) = (String::new(), String::new());
    for (at, c) in cell.char_indices() {
        let shown = visible(c.encode_utf8(&mut [0; 4]));
        marks.push_str(&if marked[at] { "‾" } else { " " }.repeat(width(&shown)));
        line.push_str(&shown);
    }
    let most = window().saturating_sub(4).max(40);
    (clipped(&line, most), marks.chars().take(most).collect())
}

/// An answer as an example: a piece for each name, nothing for those that are not learnt.
fn example(lessons: &Lessons<'_>, question: &Question, answer: &Answer) -> String {
    let piece = |name: &String| {
        let learnt = lessons.pieces.iter().position(|piece| piece.name == name.trim());
        learnt.and_then(|n| answer.pieces.get(n)).cloned().unwrap_or_default()
    };
    match lessons.names {
        [] => write_lesson(&question.row.text, &answer.pieces),
        names => write_lesson(&question.row.text, &names.iter().map(piece).collect::<Vec<_>>()),
    }
}

/// The command that asks again, with one example more.
fn learn(lessons: &Lessons<'_>, table: &str, example: &str) -> String {
    let mut words = vec!["notch".to_owned(), "learn".to_owned(), shell_word(table)];
    words.extend(lessons.reading.iter().map(|word| shell_word(word)));
    words.extend(["-c".to_owned(), shell_word(lessons.column)]);
    if let Some((like, _)) = lessons.like {
        words.extend(["--like".to_owned(), shell_word(like)]);
    }
    if let Some(name) = lessons.name {
        words.extend(["--name".to_owned(), shell_word(name)]);
    }
    words.extend(lessons.typed.iter().map(|typed| shell_word(typed)));
    words.push(shell_word(example));
    if !lessons.names.is_empty() {
        words.extend(["--names".to_owned(), shell_word(&lessons.names.join(","))]);
    }
    visible(&words.join(" "))
}

/// The command that cuts so.
fn carve(lessons: &Lessons<'_>, table: &str) -> String {
    let mut words = vec!["notch".to_owned(), "carve".to_owned(), shell_word(table)];
    words.extend(lessons.reading.iter().map(|word| shell_word(word)));
    words.extend(["-c".to_owned(), shell_word(lessons.column)]);
    words.extend(named(lessons).iter().map(|cut| shell_word(cut)));
    visible(&words.join(" "))
}

/// The best cut of each piece, with its name.
fn named(lessons: &Lessons<'_>) -> Vec<String> {
    let best = |piece: &LearntPiece| {
        piece.learned.cuts.first().map(|cut| format!("{} = {cut}", piece.name))
    };
    lessons.pieces.iter().filter_map(best).collect()
}

/// The same as JSON, documented in docs/json.md.
pub fn learnt_json(lessons: &Lessons<'_>) -> Value {
    let mut object = json!({
        "version": 1,
        "cuts": cuts_json(lessons),
        "ask": ask_json(lessons),
        "complete": lessons.pieces.iter().all(|piece| piece.learned.complete),
    });
    let stopped =
        lessons.pieces.iter().find_map(|piece| Some((piece, piece.learned.stopped.as_ref()?)));
    if let Some((piece, stopped)) = stopped {
        let lesson = &piece.lessons[stopped.lesson];
        let most = stopped.most.as_ref();
        object["stopped_by"] =
            json!({ "example": stopped.lesson + 1, "cell": lesson.cell, "piece": lesson.piece });
        object["most"] =
            json!(most.map(|(cut, examples)| json!({ "cut": cut, "examples": examples })));
    }
    if let Some((column, filled)) = lessons.like {
        let differ = lessons.differs.iter().map(|row| {
            let object = json!({
                "row": row.row,
                "cell": row.cell,
                "stands": row.stands,
                "gives": row.gives,
            });
            at_line(lessons, row.line, object)
        });
        object["like"] = json!({
            "column": column,
            "filled": filled,
            "same": filled - lessons.differs.len(),
            "differ": differ.collect::<Vec<_>>(),
        });
    }
    object
}

/// The cuts found: those of one piece, the best first, or one for each of several pieces.
fn cuts_json(lessons: &Lessons<'_>) -> Vec<Value> {
    let shapes_of = |judged: &Judged, n: usize| -> Vec<Value> {
        let shape = |shape: &ShapeCount| json!({ "shape": &*shape.shape, "texts": shape.count });
        judged.shapes[n].ranked().into_iter().take(20).map(shape).collect()
    };
    if let [piece] = lessons.pieces.as_slice() {
        let judged = piece.judged.as_ref();
        let cut = |(n, cut): (usize, &String)| {
            json!({
                "cut": cut,
                "cuts": [format!("{} = {cut}", piece.name)],
                "fits": judged.map(|judged| judged.fits[n]),
                "rows": judged.map(|judged| judged.filled),
                "shapes": judged.map(|judged| shapes_of(judged, n)),
            })
        };
        return piece.learned.cuts.iter().take(SHOWN).enumerate().map(cut).collect();
    }
    let is_learnt = |piece: &LearntPiece| !piece.learned.cuts.is_empty();
    if lessons.pieces.is_empty() || !lessons.pieces.iter().all(is_learnt) {
        return Vec::new();
    }
    let judged = || lessons.pieces.iter().map(|piece| piece.judged.as_ref());
    let shapes = judged().map(|judged| judged.map(|judged| shapes_of(judged, 0)));
    vec![json!({
        "cut": null,
        "cuts": named(lessons),
        "fits": judged().map(|judged| judged.map(|judged| judged.fits[0])).min().flatten(),
        "rows": judged().next().flatten().map(|judged| judged.filled),
        "shapes": shapes.collect::<Vec<_>>(),
    })]
}

/// The rows that would teach more: one of a layout without an example, and one in which the best
/// cuts part.
fn ask_json(lessons: &Lessons<'_>) -> Vec<Value> {
    let teaching = lessons.other.iter().map(|row| {
        let example = write_lesson(&row.text, &[String::new()]);
        let object =
            json!({ "row": row.row, "cell": row.text, "gives": [], "examples": [example] });
        at_line(lessons, row.line, object)
    });
    let dividing = lessons.question.iter().map(|question| {
        let gives = question.answers.iter().map(|answer| match answer.pieces.as_slice() {
            [piece] => json!(piece),
            pieces => json!(pieces),
        });
        let examples = question.answers.iter().map(|answer| example(lessons, question, answer));
        let object = json!({
            "row": question.row.row,
            "cell": question.row.text,
            "gives": gives.collect::<Vec<_>>(),
            "examples": examples.collect::<Vec<_>>(),
        });
        at_line(lessons, question.row.line, object)
    });
    teaching.chain(dividing).collect()
}

/// An object with the line of a row, where there is a table.
fn at_line(lessons: &Lessons<'_>, line: u64, object: Value) -> Value {
    match &lessons.places {
        Some(places) => at(places, "line", line, object),
        None => object,
    }
}
