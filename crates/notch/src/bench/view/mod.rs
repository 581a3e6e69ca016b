//! The screen, drawn from the state; what can be clicked comes with it.

mod canvas;
mod dialogues;
mod line;
mod lists;
mod rows;
mod steps;
mod tally;

use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use self::canvas::{Canvas, Look};
use super::cuts::Verdict;
use super::rows::MadeRow;
use super::ruler::Hand;
use super::state::{Focus, Open, State};
use crate::show::{counted, fold, visible};

/// The smallest screen with everything, and the smallest at all.
const WHOLE: (u16, u16) = (80, 24);
const SMALLEST: (u16, u16) = (60, 15);
/// The height from which on a fault is underlined on a line of its own, and a cut may take several.
const TALL: u16 = 30;
const CUT_LINES: usize = 3;
/// The most lines of a message.
const MESSAGE_LINES: usize = 8;

/// What is under the mouse.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Under {
    /// The cut line: the byte of its text.
    Line(usize),
    Cut(usize),
    NewCut,
    Row(usize),
    Rows,
    Tally(usize),
    TallyPane,
    /// A line of the list that lies open.
    Item(usize),
    /// A character of the ruler's text, from 0.
    Notch(usize),
    Notches(Hand),
    SaveLine(usize),
    Choice(usize),
}

/// What was drawn, beside the buffer.
#[derive(Debug, Default)]
pub struct Drawn {
    pub cursor: Option<(u16, u16)>,
    pub areas: Vec<(Rect, Under)>,
    /// How many lines the rows, the tally and an open list have.
    pub heights: (usize, usize, usize),
}

impl Drawn {
    /// What is under a place, the last drawn first.
    pub fn under(&self, x: u16, y: u16) -> Option<Under> {
        let holds = |(area, _): &&(Rect, Under)| area.contains((x, y).into());
        self.areas.iter().rev().find(holds).map(|(_, under)| *under)
    }

    fn area(&mut self, (x, y): (usize, usize), wide: usize, under: Under) {
        self.areas.push((Rect::new(x as u16, y as u16, wide as u16, 1), under));
    }
}

/// What is drawn beside the state: what the cuts make of the rows on the screen.
pub struct Scene<'s> {
    pub state: &'s State,
    /// The rows from the first that is drawn, and the drawing of the chosen one's steps.
    pub rows: &'s [MadeRow],
    pub steps: &'s str,
    /// The line and file of the chosen row, as it is told.
    pub place: &'s str,
    /// The whole command.
    pub command: &'s str,
    pub ascii: bool,
    pub colors: bool,
}

/// How the lines of the screen are given out.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Places {
    /// The lines of the cut line, with the one for a fault.
    pub cut: usize,
    pub fault: bool,
    /// The first line of the rows, below their title, and how many there are.
    pub rows: (usize, usize),
    /// How wide the rows are; the tally stands right of them.
    pub split: usize,
    /// The title of what stands below the rows, and how many lines follow.
    pub below: (usize, usize),
}

/// Whether the screen has room for everything.
pub fn is_whole(size: (u16, u16)) -> bool {
    size.0 >= WHOLE.0 && size.1 >= WHOLE.1
}

/// Whether the screen has room for anything.
pub fn is_enough(size: (u16, u16)) -> bool {
    size.0 >= SMALLEST.0 && size.1 >= SMALLEST.1
}

/// How the lines are given out on a screen of this size; `below` is the number of lines that what
/// stands below the rows wants.
pub fn places(state: &State, size: (u16, u16), below: usize) -> Places {
    let (width, height) = (usize::from(size.0), usize::from(size.1));
    let is_tall = size.1 >= TALL && size.0 >= 100;
    let text = crate::show::width(state.cut().line.text()) + 2;
    let cut = if is_tall { text.div_ceil(width - 1).clamp(1, CUT_LINES) } else { 1 };
    let fault = is_tall && matches!(state.verdict(), Verdict::Wrong(_));
    let head = 2 + cut + usize::from(fault) + 2;
    let room = height - head - 1 - 2;
    if !is_whole(size) {
        let split = width;
        return Places { cut, fault, rows: (head + 1, room), split, below: (height - 2, 0) };
    }
    let asks =
        matches!(state.open, Open::Ruler(_) | Open::Save(_) | Open::Leave(_) | Open::Find(_));
    let most = if asks { room.saturating_sub(3) } else { (height / 3).saturating_sub(1) };
    let below = below.min(most);
    let rows = room - below - 1;
    let split = width - 1 - (32 + (width - 80) * 7 / 40);
    Places { cut, fault, rows: (head + 1, rows), split, below: (head + 1 + rows, below) }
}

/// Draws everything.
pub fn draw(scene: &Scene<'_>, buffer: &mut Buffer) -> Drawn {
    let (area, state) = (buffer.area, scene.state);
    let size = (area.width, area.height);
    let mut canvas = Canvas { buffer, ascii: scene.ascii, colors: scene.colors };
    let mut drawn = Drawn::default();
    if !is_enough(size) {
        let said = format!("needs {}x{}", SMALLEST.0, SMALLEST.1);
        canvas.put((0, 0), &said, Look::Plain, usize::from(size.0));
        return drawn;
    }
    let wanted = below_wanted(scene.state, scene.steps);
    let places = places(state, size, wanted);
    drawn.heights = (places.rows.1, places.rows.1, 0);
    title(&mut canvas, state);
    line::cuts(&mut canvas, &mut drawn, state);
    line::cut_line(&mut canvas, &mut drawn, state, places);
    let is_small = !is_whole(size);
    let asks =
        matches!(state.open, Open::Ruler(_) | Open::Save(_) | Open::Leave(_) | Open::Find(_));
    if is_small && asks {
        let places = Places { below: (places.rows.0 - 1, places.rows.1), ..places };
        dialogues::below(&mut canvas, &mut drawn, scene, places);
    } else if is_small && state.tally_shown {
        let whole = Places { split: 0, ..places };
        tally::draw(&mut canvas, &mut drawn, state, whole);
    } else {
        rows::draw(&mut canvas, &mut drawn, scene, places);
        if !is_small {
            tally::draw(&mut canvas, &mut drawn, state, places);
            if asks {
                dialogues::below(&mut canvas, &mut drawn, scene, places);
            } else {
                steps::draw(&mut canvas, scene, places);
            }
        }
    }
    lists::draw(&mut canvas, &mut drawn, scene, places);
    foot(&mut canvas, scene);
    drawn
}

/// How many lines what stands below the rows would have.
pub fn below_wanted(state: &State, steps: &str) -> usize {
    match &state.open {
        Open::Ruler(ruler) => dialogues::ruler_height(ruler),
        Open::Save(_) => 5,
        Open::Leave(_) => 3,
        Open::Find(_) => 2,
        _ => steps.lines().count(),
    }
}

/// The first line: the table, its rows, the column, and how many cuts there are.
fn title(canvas: &mut Canvas<'_>, state: &State) {
    let rows = match (state.table.rows, state.table.is_whole) {
        (0, true) => "no rows".to_owned(),
        (rows, true) => counted(rows, "row"),
        (rows, false) => format!("{} so far", counted(rows, "row")),
    };
    let mut parts = vec![visible(&state.table.name), rows];
    parts.extend(state.column_name().map(|column| format!("from {}", visible(column))));
    let cuts = counted(state.count() as u64, "cut");
    let cuts = match (state.count(), state.is_unsaved(), state.kept.is_empty()) {
        (0, false, _) => String::new(),
        (_, true, _) => format!("{cuts}, not saved"),
        (_, false, false) if !state.own_files.is_empty() => format!("{cuts}, saved"),
        _ => cuts,
    };
    let end = canvas.width() - 1;
    let right = canvas.put_right((end, 0), &cuts, Look::Plain);
    let x = canvas.put((1, 0), "notch bench", Look::Strong, end) + 4;
    canvas.put((x, 0), &parts.join(" · "), Look::Plain, right.saturating_sub(x + 2));
}

/// The last two lines: the command or a message, and the keys of the moment.
fn foot(canvas: &mut Canvas<'_>, scene: &Scene<'_>) {
    let (state, height, width) = (scene.state, canvas.height(), canvas.width());
    match &state.message {
        // A long message takes more lines from what stands above.
        Some(message) => {
            let folded = fold(&visible(message), width - 3, 0);
            let lines: Vec<&str> = folded.lines().take(MESSAGE_LINES).collect();
            let top = height - 1 - lines.len();
            for (n, line) in lines.iter().enumerate() {
                canvas.put((0, top + n), &" ".repeat(width), Look::Plain, width);
                canvas.put((1, top + n), line, Look::Strong, width - 2);
            }
        }
        None => {
            canvas.put((1, height - 2), &visible(scene.command), Look::Quiet, width - 2);
        }
    }
    let mut keys = keys(state);
    // Where they do not fit, those of the middle go: help tells them all.
    while keys.len() > 3 && canvas.wide(&keys.join("   ")) > width - 2 {
        let undo =
            keys.iter().rposition(|key| key.starts_with("Ctrl-Y") || key.starts_with("Ctrl-Z"));
        keys.remove(undo.unwrap_or(keys.len() - 3));
    }
    canvas.put((1, height - 1), &keys.join("   "), Look::Plain, width - 2);
}

/// The keys of the moment; those on the left matter most.
fn keys(state: &State) -> Vec<String> {
    let said = |keys: &[&str]| keys.iter().map(|key| (*key).to_owned()).collect();
    match &state.open {
        Open::Offers(_) => said(&["Enter takes", "Up, Down choose", "typing narrows", "Esc back"]),
        Open::Help(..) => said(&["Enter does it", "Up, Down choose", "typing narrows", "Esc back"]),
        Open::Columns { begins_cut: false, .. } => {
            said(&["Enter takes", "Up, Down choose", "typing narrows", "Esc takes none"])
        }
        Open::Columns { .. } => {
            said(&["Enter takes", "Up, Down choose", "typing narrows", "Esc back"])
        }
        Open::Find(_) => said(&["Enter finds", "Esc back"]),
        Open::Save(save) if save.asking.is_some() => {
            said(&["Enter", "Left, Right choose", "Esc back"])
        }
        Open::Save(_) => said(&["Enter saves", "Up, Down", "Ctrl-U empties", "Esc back"]),
        Open::Leave(_) => said(&["Enter", "Left, Right choose", "Esc stays"]),
        Open::Ruler(ruler) if ruler.answer.as_ref().is_some_and(|of| !of.cuts.is_empty()) => {
            said(&["Enter takes", "Up, Down choose", "Esc back to the ruler"])
        }
        Open::Ruler(ruler) => match ruler.hand {
            Hand::Begin => said(&[
                "Enter learns",
                "Left, Right move",
                "Tab end",
                "Up, Down rows",
                "Delete blank",
                "Esc back",
            ]),
            Hand::End => said(&[
                "Enter learns",
                "Left, Right move",
                "Tab piece",
                "Up, Down rows",
                "Delete blank",
                "Esc back",
            ]),
            Hand::Piece => {
                said(&["Enter learns", "Tab begin", "Up, Down rows", "Delete blank", "Esc back"])
            }
        },
        Open::Nothing => {
            let mut keys: Vec<String> = match state.focus {
                Focus::Line => {
                    let offers = state.offers();
                    let tab = match offers.marked.and_then(|n| offers.offers.get(n)) {
                        Some(offer) => format!("Tab puts {}", visible(&offer.text)),
                        None => "Tab rows".to_owned(),
                    };
                    let is_empty = state.cut().is_empty();
                    let enter = match state.verdict() {
                        Verdict::Wrong(_) | Verdict::Unfinished => "Enter to the fault",
                        _ => "Enter next cut",
                    };
                    let first = if is_empty { "Down proposals" } else { enter };
                    let mut keys = vec![first.to_owned(), tab];
                    if state.size.0 >= 100 {
                        keys.push("Shift-Tab cuts".to_owned());
                    }
                    keys
                }
                Focus::Rows => said(&["Enter mark a piece", "Up, Down", "Tab tally"]),
                Focus::Tally => said(&["Up, Down choose rows", "Enter rows", "Tab cuts"]),
                Focus::Cuts => said(&["Enter edit", "Left, Right", "Delete", "Tab cut line"]),
            };
            if state.size.0 >= 100 {
                keys.extend(said(&["Ctrl-Z undo", "Ctrl-Y redo"]));
            } else if state.focus == Focus::Line && state.size.0 >= WHOLE.0 {
                keys.push("Ctrl-Z undo".to_owned());
            }
            keys.extend(said(&["Ctrl-S save", "F1 help", "Ctrl-Q leave"]));
            keys
        }
    }
}
