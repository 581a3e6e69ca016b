//! The cuts, the cut line, and the two lines under it.

use keen_notch_core::word_at;
use unicode_segmentation::UnicodeSegmentation;

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Under};
use crate::bench::cuts::Verdict;
use crate::bench::offers::wanted;
use crate::bench::state::{Focus, Open, State};
use crate::show::{drawn_character, visible};

/// Where the second word of the lines under the cut line begins.
const TEXT: usize = 9;

/// The line of the cuts.
pub fn cuts(canvas: &mut Canvas<'_>, drawn: &mut Drawn, state: &State) {
    let look = if state.focus == Focus::Cuts { Look::Strong } else { Look::Plain };
    canvas.put((1, 1), "cuts", look, 4);
    let at = state.document.at;
    let label = |n: usize| {
        let cut = &state.document.cuts[n];
        if cut.is_empty() {
            return "new".to_owned();
        }
        let name = visible(state.judged.names.get(n).map_or("", String::as_str));
        let is_wrong = matches!(state.judged.verdicts.get(n), Some(Verdict::Wrong(_)));
        let is_not_given = state.judged.not_given.get(n).is_some_and(Option::is_some);
        if is_wrong || is_not_given { format!("{name} !") } else { name }
    };
    let labels: Vec<String> = (0..state.document.cuts.len()).map(label).collect();
    let room = canvas.width() - 10 - 8;
    // As many cuts left of the chosen one as there is room for.
    let wide = |n: usize| canvas.wide(&labels[n]) + 3;
    let mut first = at;
    let mut used = wide(at);
    while first > 0 && used + wide(first - 1) <= room {
        first -= 1;
        used += wide(first);
    }
    let mut x = TEXT;
    if first > 0 {
        x += canvas.put((x, 1), "… ", Look::Quiet, 4);
    }
    for (n, label) in labels.iter().enumerate().skip(first) {
        let left = (canvas.width() - 9).saturating_sub(x);
        if left < 4 {
            canvas.put((x, 1), "…", Look::Quiet, 3);
            break;
        }
        let (is_chosen, begin) = (n == at, x);
        if is_chosen {
            x += canvas.put((x, 1), "›", Look::Strong, 1) + 1;
        }
        let look = match state.judged.verdicts.get(n) {
            Some(Verdict::Wrong(_)) => Look::Wrong,
            _ if is_chosen => Look::Strong,
            _ => Look::Plain,
        };
        x += canvas.put((x, 1), label, look, left);
        drawn.area((begin, 1), x - begin, Under::Cut(n));
        x += 3;
    }
    if state.document.cuts.last().is_some_and(|cut| !cut.is_empty()) {
        let wide = canvas.put((x, 1), "+ new", Look::Quiet, 5);
        drawn.area((x, 1), wide, Under::NewCut);
    }
}

/// A character of the line as it is drawn, blanks as blanks.
fn shown(canvas: &Canvas<'_>, character: &str) -> (String, usize) {
    match character {
        " " => (" ".to_owned(), 1),
        _ if canvas.ascii => canvas.character(character),
        _ => drawn_character(character),
    }
}

/// The cut line, what is underlined in it, and the two lines below.
pub fn cut_line(canvas: &mut Canvas<'_>, drawn: &mut Drawn, state: &State, places: Places) {
    let line = &state.cut().line;
    let (text, cursor) = (line.text(), line.cursor());
    let room = canvas.width() - 2;
    let characters: Vec<(usize, String, usize)> = text
        .grapheme_indices(true)
        .map(|(at, character)| {
            let (shown, wide) = shown(canvas, character);
            (at, shown, wide)
        })
        .collect();
    // The column each character begins in, as if the line had no end.
    let mut columns = Vec::with_capacity(characters.len() + 1);
    let mut column = 0;
    for (_, _, wide) in &characters {
        columns.push(column);
        column += wide;
    }
    columns.push(column);
    let place = |byte: usize| characters.partition_point(|(at, ..)| *at < byte);
    let cursor_at = columns[place(cursor)];
    let capacity = room * places.cut;
    // What stands left of the window when the line is longer than that.
    let from = if column < capacity {
        0
    } else {
        let wanted = cursor_at.saturating_sub(capacity.saturating_sub(8));
        columns.iter().copied().find(|column| *column >= wanted).unwrap_or(0)
    };
    let fault = match state.verdict() {
        Verdict::Wrong(fault) => Some(fault),
        _ => None,
    };
    let at = |column: usize| (1 + (column - from) % room, 2 + (column - from) / room);
    for (n, (byte, shown, wide)) in characters.iter().enumerate() {
        let column = columns[n];
        if column < from || column + wide > from + capacity {
            continue;
        }
        let is_fault = fault.is_some_and(|fault| fault.place.contains(byte));
        let look = match is_fault {
            true if places.fault => Look::Wrong,
            true => Look::Taken,
            false => Look::Plain,
        };
        let (x, y) = at(column);
        canvas.put((x, y), shown, look, *wide);
        drawn.area((x, y), *wide, Under::Line(*byte));
    }
    if from > 0 {
        canvas.put((0, 2), "…", Look::Quiet, 1);
    }
    if column > from + capacity {
        canvas.put((room + 1, 1 + places.cut), "…", Look::Quiet, 1);
    }
    if text.is_empty() && matches!(state.open, Open::Nothing | Open::Offers(_)) {
        canvas.put((3, 2), "Type NAME = CUT, or Down for proposals", Look::Quiet, room - 2);
    }
    let types_here = matches!(state.open, Open::Nothing | Open::Offers(_));
    if state.focus == Focus::Line && types_here && cursor_at - from <= capacity {
        let (x, y) = at(cursor_at.min(from + capacity));
        drawn.cursor = Some((x.min(room + 1) as u16, y.min(1 + places.cut) as u16));
    }
    drawn.areas.insert(
        0,
        (
            ratatui::layout::Rect::new(0, 2, canvas.width() as u16, places.cut as u16),
            Under::Line(text.len()),
        ),
    );
    let mut y = 2 + places.cut;
    if let Some(fault) = fault.filter(|_| places.fault) {
        let (first, last) = (place(fault.place.start), place(fault.place.end));
        let begin = columns[first];
        if begin >= from && begin < from + room {
            let wide = columns[last].saturating_sub(begin).clamp(1, room - (begin - from));
            canvas.put((1 + begin - from, y), &"‾".repeat(wide), Look::Wrong, wide);
        }
        y += 1;
    }
    under(canvas, state, y, places.fault);
}

/// The two lines under the cut line: what may stand next, and the word or what is wrong.
fn under(canvas: &mut Canvas<'_>, state: &State, y: usize, is_underlined: bool) {
    let room = canvas.width() - 1 - TEXT;
    let text = state.cut().line.text();
    let said = match state.verdict() {
        Verdict::Wrong(fault) => {
            let before = &text[..fault.place.start];
            let at = before.graphemes(true).count() + 1;
            let said = visible(&fault.said);
            let said = if is_underlined { said } else { format!("at {at}: {said}") };
            Some(("wrong", said, Look::Wrong))
        }
        Verdict::Unfinished => Some(("wants", visible(&wanted(text)), Look::Plain)),
        _ => state.not_given().map(|said| ("marked", visible(said), Look::Wrong)),
    };
    let is_wrong = matches!(state.verdict(), Verdict::Wrong(_));
    let (next_line, said_line) = if is_wrong { (y + 1, y) } else { (y, y + 1) };
    match said {
        Some((word, said, look)) => {
            canvas.put((1, said_line), word, look, TEXT - 2);
            let good = state.judged.in_force.get(state.document.at).and_then(Option::as_ref);
            let good = good.filter(|good| good.as_str() != text);
            let in_force = good.map(|good| format!("In force: {}", visible(good)));
            // What is wrong comes first, and what is in force is told in any case.
            let left = room.saturating_sub(canvas.wide(&said)).max(room / 4);
            let kept = in_force.as_ref().map_or(0, |text| (canvas.wide(text) + 3).min(left));
            let wide = canvas.put((TEXT, said_line), &said, Look::Plain, room - kept);
            if let Some(in_force) = in_force {
                let x = TEXT + wide + 3;
                canvas.put((x, said_line), &in_force, Look::Quiet, (room + TEXT).saturating_sub(x));
            }
        }
        None => {
            if let Some(word) = word_at(text, state.cut().line.cursor()) {
                let wide = canvas.put((1, said_line), word.form, Look::Word, room + TEXT - 1);
                let meaning = format!(": {}", word.meaning);
                canvas.put((1 + wide, said_line), &meaning, Look::Plain, room + TEXT - 1 - wide);
            }
        }
    }
    next(canvas, state, next_line, room);
}

/// What may stand next; of a remedy the whole word.
fn next(canvas: &mut Canvas<'_>, state: &State, y: usize, room: usize) {
    let offers = state.offers();
    canvas.put((1, y), "next", Look::Quiet, 4);
    if let (Verdict::Wrong(fault), [offer]) = (state.verdict(), offers.offers.as_slice())
        && fault.instead.is_some()
    {
        let said = match word_at(&offer.text, 0) {
            Some(word) => format!("{}: {}", word.form, word.meaning),
            None => visible(&offer.text),
        };
        canvas.put((TEXT, y), &said, Look::Plain, room);
        return;
    }
    let mut x = TEXT;
    let slots = offers.slots.iter().map(|slot| ((*slot).to_owned(), false));
    let words = offers.offers.iter().enumerate();
    let words = words.map(|(n, offer)| (visible(&offer.text), offers.marked == Some(n)));
    for (word, is_marked) in slots.chain(words) {
        let left = (TEXT + room).saturating_sub(x);
        let wide = canvas.wide(&word) + usize::from(is_marked);
        if wide > left {
            canvas.put((x.min(TEXT + room - 1), y), "…", Look::Quiet, 1);
            break;
        }
        if is_marked {
            x += canvas.put((x, y), "›", Look::Strong, 1);
        }
        let look = if is_marked { Look::Strong } else { Look::Plain };
        x += canvas.put((x, y), &word, look, left) + 3;
    }
}
