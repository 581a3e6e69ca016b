//! What stands below the rows when something is asked: the ruler, saving, leaving, finding.

use keen_notch_core::characters;

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Scene, Under};
use crate::bench::field::Field;
use crate::bench::ruler::{Hand, Ruler};
use crate::bench::save::{SaveDialogue, SaveLine};
use crate::bench::state::{Open, State};
use crate::show::{counted, visible, width};

/// The width of a field.
const FIELD: usize = 28;

/// How many lines a ruler has below its title.
pub fn ruler_height(ruler: &Ruler) -> usize {
    4 + match &ruler.answer {
        Some(answer) => answer.cuts.len() + 1 + usize::from(answer.cuts.is_empty()),
        None => 1,
    }
}

pub fn below(canvas: &mut Canvas<'_>, drawn: &mut Drawn, scene: &Scene<'_>, places: Places) {
    let (top, height) = places.below;
    let width = canvas.width();
    let state = scene.state;
    let title = match &state.open {
        Open::Ruler(ruler) => format!("mark a piece in line {}", ruler.line),
        Open::Save(save) if save.asking.is_some() => "write over it?".to_owned(),
        Open::Save(_) => "save".to_owned(),
        Open::Leave(_) => "leave".to_owned(),
        Open::Find(_) => "find".to_owned(),
        _ => return,
    };
    canvas.rule(top, 0, width, &title, true);
    if places.split > 0 && super::is_whole(state.size) {
        canvas.put((places.split, top), "┴", Look::Quiet, 1);
    }
    match &state.open {
        Open::Ruler(ruler) => draw_ruler(canvas, drawn, ruler, top + 1, height),
        Open::Save(save) => draw_save(canvas, drawn, state, save, top + 1),
        Open::Leave(chosen) => draw_leave(canvas, drawn, state, *chosen, top + 1),
        Open::Find(field) => {
            let x = canvas.put((3, top + 1), "text  ", Look::Plain, width) + 3;
            draw_field(canvas, drawn, (x, top + 1), field, FIELD, true);
            let said = "in the rows of the chosen line of the tally, in any case";
            canvas.put((3, top + 2), said, Look::Quiet, width - 4);
        }
        _ => {}
    }
}

/// A field in its brackets; with the cursor in it where it has the keys.
fn draw_field(
    canvas: &mut Canvas<'_>,
    drawn: &mut Drawn,
    (x, y): (usize, usize),
    field: &Field,
    wide: usize,
    has_keys: bool,
) -> usize {
    let room = wide - 2;
    let before = visible(&field.text()[..field.cursor()]);
    let text = visible(field.text());
    // The end of what stands left of the cursor is always in the field.
    let skip = width(&before).saturating_sub(room - 1);
    let shown: String = text.chars().skip(skip).collect();
    canvas.put((x, y), "[", Look::Quiet, 1);
    canvas.put((x + 1, y), &shown, Look::Plain, room);
    canvas.put((x + wide - 1, y), "]", Look::Quiet, 1);
    if has_keys {
        let at = (x + 1 + width(&before) - skip).min(x + wide - 1);
        drawn.cursor = Some((at as u16, y as u16));
    }
    wide
}

/// Where a ruler stands, in terminal columns from the left.
const RULER: usize = 4;
/// The width of what is said beside it, in terminal columns.
const BESIDE: usize = 46;

fn draw_ruler(
    canvas: &mut Canvas<'_>,
    drawn: &mut Drawn,
    ruler: &Ruler,
    top: usize,
    height: usize,
) {
    let width = canvas.width();
    // Where the screen is narrow, what is said stands below the text and not beside it.
    let is_narrow = !super::is_whole((canvas.width() as u16, u16::MAX));
    let room = width.saturating_sub(if is_narrow { RULER } else { BESIDE } + RULER);
    let used = draw_text(canvas, drawn, ruler, top, room);
    let said = if is_narrow { 1 } else { RULER + used.max(8) + 4 };
    let (notches_at, piece_at) = if is_narrow { (top + 4, top + 4) } else { (top, top + 1) };
    let in_hand = |hand| if ruler.hand == hand { " (in hand)" } else { "" };
    let notches = format!(
        "begin {}{}   end {}{}",
        ruler.begin + 1,
        in_hand(Hand::Begin),
        ruler.end,
        in_hand(Hand::End)
    );
    let wide = canvas.put((said, notches_at), &notches, Look::Plain, width - said);
    let mut at = if is_narrow { said + wide + 3 } else { said };
    at += canvas.put((at, piece_at), "piece  ", Look::Plain, width - at);
    let wide = 20.min(width.saturating_sub(at + 8)).max(6);
    draw_field(canvas, drawn, (at, piece_at), &ruler.piece, wide, ruler.is_typing());
    if ruler.is_typed {
        let word = if ruler.piece.text().is_empty() { "blank" } else { "typed" };
        canvas.put((at + wide + 1, piece_at), word, Look::Quiet, 6);
    }
    let answer_at = top + if is_narrow { 5 } else { 4 };
    draw_answer(canvas, drawn, ruler, answer_at, (top + height).saturating_sub(1));
}

/// The ruler over the text, and the notches under it; of a long text the part with the notch in
/// hand. Returns how wide it is.
fn draw_text(
    canvas: &mut Canvas<'_>,
    drawn: &mut Drawn,
    ruler: &Ruler,
    top: usize,
    room: usize,
) -> usize {
    let each = characters::each(&ruler.text);
    let shown: Vec<(String, usize)> = each.map(|each| canvas.character(each)).collect();
    let hand = if ruler.hand == Hand::Begin { ruler.begin } else { ruler.end };
    let all: usize = shown.iter().map(|(_, wide)| wide).sum();
    let from = if all > room { hand.saturating_sub(room * 2 / 3) } else { 0 };
    let (mut figures, mut column, mut to) = (String::new(), 0, from);
    while let Some((text, wide)) = shown.get(to).filter(|(_, wide)| column + wide <= room) {
        let (n, x) = (to, RULER + column);
        if (n + 1).is_multiple_of(5) {
            let figure = (n + 1).to_string();
            let start = (column + 1).saturating_sub(figure.len());
            if start >= figures.len() + usize::from(!figures.is_empty()) {
                figures.push_str(&" ".repeat(start - figures.len()));
                figures.push_str(&figure);
            }
        }
        let tick = if (n + 1).is_multiple_of(5) { "┃" } else { "╷" };
        canvas.put((x, top + 1), tick, Look::Quiet, 1);
        canvas.put((x, top + 2), text, Look::Strong, *wide);
        drawn.area((x, top + 2), *wide, Under::Notch(n));
        if (ruler.begin..ruler.end).contains(&n) {
            let is_last = n + 1 == ruler.end;
            let sign = match n == ruler.begin {
                true => "╰",
                false if is_last => "╯",
                false => "▔",
            };
            canvas.put((x, top + 3), &format!("{sign}{}", "▔".repeat(wide - 1)), Look::Word, *wide);
            let hand = if is_last { Hand::End } else { Hand::Begin };
            drawn.area((x, top + 3), *wide, Under::Notches(hand));
        }
        (column, to) = (column + wide, to + 1);
    }
    canvas.put((RULER, top), &figures, Look::Quiet, room);
    if from > 0 {
        canvas.put((RULER - 2, top + 2), "…", Look::Quiet, 1);
    }
    if to < shown.len() {
        canvas.put((RULER + column, top + 2), "…", Look::Quiet, 1);
    }
    column
}

fn draw_answer(canvas: &mut Canvas<'_>, drawn: &mut Drawn, ruler: &Ruler, top: usize, last: usize) {
    let width = canvas.width();
    let Some(answer) = &ruler.answer else {
        let said = if ruler.is_asked {
            "learning…"
        } else {
            "Enter learns the cut from all marked pieces"
        };
        canvas.put((1, top), said, Look::Quiet, width - 2);
        return;
    };
    let mut y = top;
    let cuts: Vec<String> = answer.cuts.iter().map(|cut| visible(&cut.cut)).collect();
    let longest = cuts.iter().map(|cut| canvas.wide(cut)).max().unwrap_or(0).min(width / 2 + 6);
    for (n, (cut, of)) in cuts.iter().zip(&answer.cuts).enumerate() {
        if y >= last && n > 0 {
            break;
        }
        let is_chosen = n == ruler.chosen;
        if is_chosen {
            canvas.put((2, y), "›", Look::Strong, 1);
        }
        canvas.put_right((11, y), &of.share, Look::Plain);
        let look = if is_chosen { Look::Strong } else { Look::Word };
        canvas.put((13, y), cut, look, longest);
        let x = 13 + longest + 4;
        canvas.put((x, y), &of.shapes, Look::Quiet, width.saturating_sub(x + 1));
        drawn.area((0, y), width, Under::Item(n));
        y += 1;
    }
    if answer.cuts.is_empty() {
        // A sentence may need two lines.
        let said = crate::show::fold(&visible(&answer.said), width - 3, 0);
        for line in said.lines().take(2) {
            canvas.put((1, y), line, Look::Finding, width - 2);
            y += 1;
        }
    } else {
        canvas.put((1, y), &visible(&answer.said), Look::Plain, width - 2);
    }
}

fn draw_save(
    canvas: &mut Canvas<'_>,
    drawn: &mut Drawn,
    state: &State,
    save: &SaveDialogue,
    top: usize,
) {
    let width = canvas.width();
    if let Some(asking) = &save.asking {
        canvas.put((3, top), &visible(&asking.said), Look::Strong, width - 4);
        let choice =
            |chosen: bool, word: &str| format!("{} {word}", if chosen { "›" } else { " " });
        let back = choice(!asking.overwrite, "Back");
        let x = canvas.put((1, top + 2), &back, Look::Plain, width) + 4;
        drawn.area((1, top + 2), 8, Under::Choice(0));
        canvas.put((x, top + 2), &choice(asking.overwrite, "Overwrite"), Look::Plain, width);
        drawn.area((x, top + 2), 12, Under::Choice(1));
        return;
    }
    let marks: usize = state.document.cuts.iter().map(|cut| cut.marks.len()).sum();
    let cuts = counted(state.judged.in_force.iter().flatten().count() as u64, "cut");
    for (n, (line, name)) in SaveLine::ALL.iter().enumerate() {
        let y = top + n;
        let is_at = n == save.line;
        if is_at {
            canvas.put((1, y), "›", Look::Strong, 1);
        }
        let look = if is_at { Look::Strong } else { Look::Plain };
        canvas.put((3, y), name, look, 8);
        drawn.area((0, y), width, Under::SaveLine(n));
        let is_empty = save.field(*line).is_some_and(|field| field.text().trim().is_empty());
        let said = match line {
            SaveLine::Columns => {
                let (all, new) = ("all and the new ones", "the new ones only");
                let (said, other) = if save.only { (new, all) } else { (all, new) };
                canvas.put((12, y), said, Look::Plain, 22);
                let keys = format!("‹ ›  Left, Right: {other}");
                canvas.put((41, y), &keys, Look::Quiet, width - 42);
                continue;
            }
            SaveLine::Jig if is_empty => "empty: no jig is saved".to_owned(),
            SaveLine::Jig if marks > 0 => {
                format!("{cuts}, {}", counted(marks as u64, "marked piece"))
            }
            SaveLine::Jig => cuts.clone(),
            SaveLine::Table if is_empty => "empty: no table is written".to_owned(),
            SaveLine::Rejects if is_empty => "empty: rows with findings stay".to_owned(),
            SaveLine::Rejects => "takes the rows with findings".to_owned(),
            SaveLine::Table => String::new(),
        };
        if let Some(field) = save.field(*line) {
            draw_field(canvas, drawn, (12, y), field, FIELD, is_at);
        }
        canvas.put((41, y), &said, Look::Quiet, width - 42);
    }
    match &save.refused {
        Some(refused) => canvas.put((1, top + 4), &visible(refused), Look::Wrong, width - 2),
        None => canvas.put(
            (1, top + 4),
            "Enter saves what is filled in    Esc back",
            Look::Quiet,
            width - 2,
        ),
    };
}

fn draw_leave(
    canvas: &mut Canvas<'_>,
    drawn: &mut Drawn,
    state: &State,
    chosen: usize,
    top: usize,
) {
    let width = canvas.width();
    let unsaved: Vec<&String> = state.judged.in_force.iter().flatten().collect();
    let changed = unsaved.iter().filter(|text| !state.kept.contains(**text)).count();
    let said = match changed {
        0 => "Cuts were deleted, and that is not saved.".to_owned(),
        1 => "1 cut is not saved.".to_owned(),
        n => format!("{n} cuts are not saved."),
    };
    canvas.put((3, top), &said, Look::Plain, width - 4);
    let mut x = 1;
    for (n, word) in ["Leave", "Save", "Stay"].iter().enumerate() {
        let is_chosen = n == chosen;
        if is_chosen {
            canvas.put((x, top + 2), "›", Look::Strong, 1);
        }
        let look = if is_chosen { Look::Strong } else { Look::Plain };
        let wide = canvas.put((x + 2, top + 2), word, look, width - x);
        drawn.area((x, top + 2), wide + 2, Under::Choice(n));
        x += wide + 5;
        if n < 2 {
            canvas.put((x - 2, top + 2), "·", Look::Quiet, 1);
        }
    }
}
