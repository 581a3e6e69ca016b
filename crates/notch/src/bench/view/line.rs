//! The cuts, the cut line, and the two lines under it.

use keen_notch_core::word_at;
use ratatui::layout::Rect;
use unicode_segmentation::UnicodeSegmentation;

use super::canvas::{Canvas, Look};
use super::{Drawn, Places, Under};
use crate::bench::cuts::{Fault, Verdict};
use crate::bench::offers::wanted;
use crate::bench::state::{Focus, Open, State};
use crate::show::{drawn_character, visible};

/// The first line of the cut line on the screen.
const TOP: usize = 2;
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

/// How the text of the cut line lies on the screen.
struct Lying {
    /// The byte that each character begins at, how it is shown, and how wide that is.
    characters: Vec<(usize, String, usize)>,
    /// The column that each character begins in, and the text ends in, as if a line had no end.
    columns: Vec<usize>,
    /// How wide a line is, and how many there are.
    room: usize,
    lines: usize,
    /// The first column that is drawn.
    from: usize,
}

impl Lying {
    fn of(canvas: &Canvas<'_>, text: &str, cursor: usize, lines: usize) -> Self {
        let mut characters = Vec::new();
        let (mut columns, mut column) = (vec![0], 0);
        for (at, character) in text.grapheme_indices(true) {
            let (shown, wide) = shown(canvas, character);
            column += wide;
            columns.push(column);
            characters.push((at, shown, wide));
        }
        let mut lying = Self { characters, columns, room: canvas.width() - 2, lines, from: 0 };
        // Of a longer text the part with the cursor is drawn.
        if column >= lying.room * lines {
            let wanted = lying.column(cursor).saturating_sub(lying.room * lines - 8);
            let first = lying.columns.iter().copied().find(|column| *column >= wanted);
            lying.from = first.unwrap_or(0);
        }
        lying
    }

    /// The column of the character at a byte.
    fn column(&self, byte: usize) -> usize {
        self.columns[self.characters.partition_point(|(at, ..)| *at < byte)]
    }

    /// The column after the last one that is drawn.
    fn end(&self) -> usize {
        self.from + self.room * self.lines
    }

    /// Where a column is on the screen.
    fn place(&self, column: usize) -> (usize, usize) {
        let at = column - self.from;
        let line = (at / self.room).min(self.lines - 1);
        (1 + at - line * self.room, TOP + line)
    }

    /// Where a fault is underlined, and how wide: below the last line, its place in that.
    fn fault(&self, fault: &Fault) -> Option<(usize, usize)> {
        let begin = self.column(fault.place.start);
        let last = self.end() - self.room;
        if begin < last || begin >= self.end() {
            return None;
        }
        let wide = self.column(fault.place.end).saturating_sub(begin);
        Some((1 + begin - last, wide.clamp(1, self.end() - begin)))
    }
}

/// The cut line, what is underlined in it, and the two lines below.
pub fn cut_line(canvas: &mut Canvas<'_>, drawn: &mut Drawn, state: &State, places: Places) {
    let line = &state.cut().line;
    let text = line.text();
    let lying = Lying::of(canvas, text, line.cursor(), places.cut);
    let fault = match state.verdict() {
        Verdict::Wrong(fault) => Some(fault),
        _ => None,
    };
    let stroke = fault.filter(|_| places.fault).and_then(|fault| lying.fault(fault));
    let area = Rect::new(0, TOP as u16, canvas.width() as u16, places.cut as u16);
    drawn.areas.insert(0, (area, Under::Line(text.len())));
    for ((byte, shown, wide), column) in lying.characters.iter().zip(&lying.columns) {
        if *column < lying.from || column + wide > lying.end() {
            continue;
        }
        let look = match fault.is_some_and(|fault| fault.place.contains(byte)) {
            true if stroke.is_some() => Look::Wrong,
            true => Look::Taken,
            false => Look::Plain,
        };
        let place = lying.place(*column);
        canvas.put(place, shown, look, *wide);
        drawn.area(place, *wide, Under::Line(*byte));
    }
    let length = lying.columns.last().copied().unwrap_or(0);
    if lying.from > 0 {
        canvas.put((0, TOP), "…", Look::Quiet, 1);
    }
    if length > lying.end() {
        canvas.put((lying.room + 1, TOP + places.cut - 1), "…", Look::Quiet, 1);
    }
    let types_here = matches!(state.open, Open::Nothing | Open::Offers(_));
    if text.is_empty() && types_here {
        canvas.put((3, TOP), "Type NAME = CUT, or Down for proposals", Look::Quiet, lying.room - 2);
    }
    if state.focus == Focus::Line && types_here {
        let (x, y) = lying.place(lying.column(line.cursor()).clamp(lying.from, lying.end()));
        drawn.cursor = Some((x.min(lying.room + 1) as u16, y as u16));
    }
    let below = TOP + places.cut;
    if let Some((x, wide)) = stroke {
        canvas.put((x, below), &"‾".repeat(wide), Look::Wrong, wide);
    }
    under(canvas, state, below + usize::from(places.fault), stroke.is_some());
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
