//! What follows from a key: a plain function from a state to the next, and what is asked of the
//! jobs.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::actions::{Action, narrowed};
use super::cuts::{BenchCut, Verdict};
use super::field::{Edit, Field};
use super::offers::Offers;
use super::ruler::Ruler;
use super::save::SaveDialogue;
use super::state::{Ask, Document, Focus, Open, Run, State};

/// The message where Esc has nothing to close.
const LEAVES: &str = "Ctrl-Q leaves";

/// What a row shows that a piece may be marked in: its number, line, text, and what is taken of it.
pub type MarkableRow = (u64, u64, String, Option<std::ops::Range<usize>>);

/// Does what a key says. `row_at` reads a row, by its number, for the ruler.
pub fn key(
    state: &mut State,
    key: KeyEvent,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    state.message = None;
    let control = key.modifiers.contains(KeyModifiers::CONTROL);
    if control && let Some(asks) = everywhere(state, key.code) {
        return asks;
    }
    if key.code == KeyCode::F(1) {
        state.open = Open::Help(Field::default(), 0);
        return Vec::new();
    }
    match &state.open {
        Open::Nothing => {}
        Open::Offers(_) => return offers_key(state, key),
        Open::Find(_) => return find_key(state, key),
        Open::Help(..) => return help_key(state, key, row_at),
        Open::Columns { .. } => return columns_key(state, key),
        Open::Ruler(_) => return ruler_key(state, key, row_at),
        Open::Save(_) => return save_key(state, key),
        Open::Leave(_) => return leave_key(state, key),
    }
    match key.code {
        KeyCode::Esc if state.focus == Focus::Rows && state.find.take().is_some() => {
            state.row = 0;
            return Vec::new();
        }
        KeyCode::Esc if state.focus == Focus::Line => {
            state.message = Some(LEAVES.to_owned());
            return Vec::new();
        }
        KeyCode::Esc => {
            go_to(state, Focus::Line);
            return Vec::new();
        }
        KeyCode::BackTab => {
            let next = state.focus.next(true);
            go_to(state, next);
            return Vec::new();
        }
        KeyCode::Tab => {
            if state.focus == Focus::Line && state.offers().marked.is_some() {
                return take_offer(state, None);
            }
            let next = state.focus.next(false);
            go_to(state, next);
            return Vec::new();
        }
        _ => {}
    }
    match state.focus {
        Focus::Line => line_key(state, key),
        Focus::Rows => rows_key(state, key, row_at),
        Focus::Tally => tally_key(state, key),
        Focus::Cuts => cuts_key(state, key),
    }
}

/// Keys with Ctrl that mean the same wherever one is; `None` for others.
fn everywhere(state: &mut State, code: KeyCode) -> Option<Vec<Ask>> {
    let is_leaving = matches!(state.open, Open::Leave(_));
    Some(match code {
        KeyCode::Char('q' | 'c') if is_leaving => vec![Ask::Leave],
        KeyCode::Char('q' | 'c') => return Some(leave(state)),
        KeyCode::Char('z') => undo(state, false),
        KeyCode::Char('y') => undo(state, true),
        KeyCode::Char('s') => {
            open_save(state, false);
            Vec::new()
        }
        KeyCode::Char('f') => {
            state.open = Open::Find(Field::default());
            Vec::new()
        }
        _ => return None,
    })
}

/// Leaves, or asks first where something good would be lost.
pub fn leave(state: &mut State) -> Vec<Ask> {
    if !state.is_unsaved() {
        return vec![Ask::Leave];
    }
    state.open = Open::Leave(0);
    Vec::new()
}

/// Takes a change back, or makes it again.
pub fn undo(state: &mut State, again: bool) -> Vec<Ask> {
    if !state.undo(again) {
        return Vec::new();
    }
    state.open = Open::Nothing;
    go_to(state, Focus::Line);
    changed(state)
}

/// Opens the dialogue that saves.
pub fn open_save(state: &mut State, leaves: bool) {
    let stem = state.table.path.file_stem().map_or("table".into(), |stem| stem.to_string_lossy());
    let proposed = format!("{}-cuts.toml", if stem == "-" { "table".into() } else { stem });
    let jig = state.jig_file.as_ref().map_or(proposed, |(path, _)| path.display().to_string());
    let shown = |path: &Option<std::path::PathBuf>| {
        Field::of(path.as_ref().map_or(String::new(), |path| path.display().to_string()))
    };
    state.open = Open::Save(Box::new(SaveDialogue {
        jig: Field::of(jig),
        table: shown(&state.written.table),
        rejects: shown(&state.written.rejects),
        only: state.written.only,
        leaves,
        ..SaveDialogue::default()
    }));
}

/// Gives the keys to another part of the screen.
pub fn go_to(state: &mut State, focus: Focus) {
    state.end_run();
    match focus {
        Focus::Rows => state.tally_shown = false,
        Focus::Tally => state.tally_shown = true,
        Focus::Line | Focus::Cuts => {}
    }
    state.focus = focus;
}

/// What a change of the cuts asks for.
pub fn changed(state: &mut State) -> Vec<Ask> {
    if state.judge() { vec![Ask::Count] } else { Vec::new() }
}

/// The way of the keys that edit a text.
pub fn edit_of(key: KeyEvent) -> Option<Edit> {
    let control = key.modifiers.contains(KeyModifiers::CONTROL);
    Some(match key.code {
        KeyCode::Left if control => Edit::WordLeft,
        KeyCode::Right if control => Edit::WordRight,
        KeyCode::Left => Edit::Left,
        KeyCode::Right => Edit::Right,
        KeyCode::Home => Edit::Home,
        KeyCode::End => Edit::End,
        KeyCode::Backspace => Edit::Back,
        KeyCode::Delete => Edit::Delete,
        KeyCode::Char('h') if control => Edit::Back,
        KeyCode::Char('w') if control => Edit::BackWord,
        KeyCode::Char('u') if control => Edit::BackAll,
        _ => return None,
    })
}

/// The character that a key types.
fn typed(key: KeyEvent) -> Option<char> {
    let modified = key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT);
    match key.code {
        KeyCode::Char(c) if !modified => Some(c),
        _ => None,
    }
}

/// Types a text where texts are typed.
pub fn paste(state: &mut State, text: &str) -> Vec<Ask> {
    state.message = None;
    match &mut state.open {
        Open::Find(field) | Open::Help(field, _) | Open::Columns { typed: field, .. } => {
            field.insert(text);
            Vec::new()
        }
        Open::Save(save) => {
            save.insert(text);
            Vec::new()
        }
        Open::Ruler(ruler) => {
            ruler.type_piece(text);
            Vec::new()
        }
        Open::Leave(_) => Vec::new(),
        Open::Nothing | Open::Offers(_) => {
            go_to(state, Focus::Line);
            state.remember(None);
            state.cut_mut().line.insert(text);
            changed(state)
        }
    }
}

fn type_into_line(state: &mut State, c: char) -> Vec<Ask> {
    if state.focus != Focus::Line {
        go_to(state, Focus::Line);
    }
    state.remember(Some(Run::Typed));
    state.cut_mut().line.insert(c.encode_utf8(&mut [0; 4]));
    changed(state)
}

fn edit_line(state: &mut State, edit: Edit) -> Vec<Ask> {
    if !edit.deletes() {
        state.end_run();
        state.cut_mut().line.edit(edit);
        return Vec::new();
    }
    let mut tried = state.cut().line.clone();
    if !tried.edit(edit) {
        return Vec::new();
    }
    state.remember(Some(Run::Deleted));
    state.cut_mut().line = tried;
    changed(state)
}

fn line_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    match key.code {
        KeyCode::Down => {
            let offers = state.offers();
            if !offers.offers.is_empty() {
                state.open = Open::Offers(0);
            }
            Vec::new()
        }
        KeyCode::Enter => end_cut(state),
        _ => match (edit_of(key), typed(key)) {
            (Some(edit), _) => edit_line(state, edit),
            (None, Some(c)) => type_into_line(state, c),
            (None, None) => Vec::new(),
        },
    }
}

/// Enter in the cut line: the next cut, or the cursor at what is wrong with this one.
fn end_cut(state: &mut State) -> Vec<Ask> {
    match state.verdict().clone() {
        Verdict::Empty => Vec::new(),
        Verdict::Good => begin_cut(state, ""),
        Verdict::Unfinished => {
            state.cut_mut().line.edit(Edit::End);
            Vec::new()
        }
        Verdict::Wrong(fault) => {
            state.cut_mut().line.move_to(fault.place.start);
            Vec::new()
        }
    }
}

/// Begins a cut behind the last one.
pub fn begin_cut(state: &mut State, text: &str) -> Vec<Ask> {
    let last = state.document.cuts.len() - 1;
    if !state.document.cuts[last].is_empty() {
        state.remember(None);
        state.document.cuts.push(BenchCut::default());
    }
    state.go_to_cut(usize::MAX);
    if !text.is_empty() {
        state.cut_mut().line = Field::of(text);
    }
    go_to(state, Focus::Line);
    changed(state)
}

/// Takes an offer: the one of that place, else the marked one.
pub fn take_offer(state: &mut State, n: Option<usize>) -> Vec<Ask> {
    let offers: Offers = state.offers();
    state.open = Open::Nothing;
    let Some(n) = n.or(offers.marked) else { return Vec::new() };
    let Some((place, text)) = offers.taken(n, state.cut().line.text()) else { return Vec::new() };
    state.remember(None);
    let line = &mut state.cut_mut().line;
    line.replace(place, &text);
    if line.text()[line.cursor()..].starts_with(' ') {
        line.edit(Edit::Right);
    }
    go_to(state, Focus::Line);
    changed(state)
}

fn offers_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Offers(chosen) = state.open else { return Vec::new() };
    let count = state.offers().offers.len();
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter | KeyCode::Tab => return take_offer(state, Some(chosen)),
        KeyCode::Up if chosen == 0 => state.open = Open::Nothing,
        code => {
            if let Some(to) = moved(code, chosen, count, state.heights.2) {
                state.open = Open::Offers(to);
                return Vec::new();
            }
            let asks = line_key(state, key);
            // Typing narrows the list, as long as there is a word to go on with.
            state.open = match state.offers().marked {
                None => Open::Nothing,
                Some(marked) => Open::Offers(marked),
            };
            return asks;
        }
    }
    Vec::new()
}

/// Where a key goes in a list of so many lines of which so many are drawn; `None` for other keys.
fn moved(code: KeyCode, at: usize, count: usize, page: usize) -> Option<usize> {
    let last = count.saturating_sub(1);
    Some(match code {
        KeyCode::Up => at.saturating_sub(1),
        KeyCode::Down => (at + 1).min(last),
        KeyCode::PageUp => at.saturating_sub(page.max(1)),
        KeyCode::PageDown => (at + page.max(1)).min(last),
        KeyCode::Home => 0,
        KeyCode::End => last,
        _ => return None,
    })
}

fn find_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Find(field) = &mut state.open else { return Vec::new() };
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter => {
            let text = field.text().to_owned();
            state.open = Open::Nothing;
            if !text.is_empty() {
                go_to(state, Focus::Rows);
                return vec![Ask::Find(text)];
            }
            state.find = None;
        }
        _ => edit_field(field, key),
    }
    Vec::new()
}

fn edit_field(field: &mut Field, key: KeyEvent) {
    match (edit_of(key), typed(key)) {
        (Some(edit), _) => drop(field.edit(edit)),
        (None, Some(c)) => field.insert(c.encode_utf8(&mut [0; 4])),
        (None, None) => {}
    }
}

fn help_key(
    state: &mut State,
    key: KeyEvent,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    let page = state.heights.2;
    let Open::Help(field, chosen) = &mut state.open else { return Vec::new() };
    let list = narrowed(field.text());
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter => {
            let action = list.get(*chosen).map(|item| item.action);
            state.open = Open::Nothing;
            return action.map(|action| act(state, action, row_at)).unwrap_or_default();
        }
        KeyCode::Home | KeyCode::End => edit_field(field, key),
        code => match moved(code, *chosen, list.len(), page) {
            Some(to) => *chosen = to,
            None => {
                edit_field(field, key);
                *chosen = 0;
            }
        },
    }
    Vec::new()
}

/// Does what was chosen from the list of everything that can be done.
fn act(
    state: &mut State,
    action: Action,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    match action {
        Action::NextCut => end_cut(state),
        Action::Offers => {
            go_to(state, Focus::Line);
            state.open = Open::Offers(0);
            Vec::new()
        }
        Action::Go(focus) => {
            go_to(state, focus);
            Vec::new()
        }
        Action::Mark => open_ruler(state, row_at),
        Action::Unmark => unmark(state, row_at),
        Action::Column => {
            state.open = Open::Columns { typed: Field::default(), chosen: 0, begins_cut: true };
            Vec::new()
        }
        Action::MoveCut(back) => move_cut(state, back),
        Action::DeleteCut => delete_cut(state),
        Action::Find => {
            state.open = Open::Find(Field::default());
            Vec::new()
        }
        Action::Undo(again) => undo(state, again),
        Action::Save => {
            open_save(state, false);
            Vec::new()
        }
        Action::Command => vec![Ask::Command],
        Action::Mouse => {
            state.no_mouse = !state.no_mouse;
            vec![Ask::Mouse(!state.no_mouse)]
        }
        Action::Leave => leave(state),
    }
}

fn columns_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let page = state.heights.2;
    let columns = state.table.columns.clone();
    let Open::Columns { typed, chosen, begins_cut } = &mut state.open else { return Vec::new() };
    let fits = columns_like(&columns, typed.text());
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter | KeyCode::Tab => {
            let Some(place) = fits.get(*chosen).copied() else { return Vec::new() };
            let begins_cut = *begins_cut;
            state.open = Open::Nothing;
            if begins_cut {
                return begin_cut(state, &format!("{} | ", in_braces(&columns[place])));
            }
            return take_column(state, Some(place));
        }
        KeyCode::Home | KeyCode::End => edit_field(typed, key),
        code => match moved(code, *chosen, fits.len(), page) {
            Some(to) => *chosen = to,
            None => {
                edit_field(typed, key);
                *chosen = 0;
            }
        },
    }
    Vec::new()
}

/// Takes a column, by its place, as the one that cuts start from.
pub fn take_column(state: &mut State, place: Option<usize>) -> Vec<Ask> {
    state.table.column = place;
    state.jig.column = state.column_name().map(str::to_owned);
    state.looked = None;
    let mut asks = changed(state);
    asks.push(Ask::Look);
    asks
}

/// The columns, by their places, whose names hold what was typed, in any case.
pub fn columns_like(columns: &[String], typed: &str) -> Vec<usize> {
    let typed = typed.to_lowercase();
    (0..columns.len()).filter(|n| columns[*n].to_lowercase().contains(&typed)).collect()
}

/// A column as it stands in a cut.
fn in_braces(name: &str) -> String {
    let quoted = name.contains(['{', '}', '|', '"']) || name.trim() != name || name.is_empty();
    if quoted { format!("{{\"{name}\"}}") } else { format!("{{{name}}}") }
}

fn rows_key(
    state: &mut State,
    key: KeyEvent,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    if let Some(to) = moved(key.code, state.row, state.list.len(), state.heights.0) {
        state.row = to;
        return Vec::new();
    }
    match key.code {
        KeyCode::Left => state.scroll = state.scroll.saturating_sub(STEP),
        KeyCode::Right => state.scroll += STEP,
        KeyCode::Enter => return open_ruler(state, row_at),
        KeyCode::Delete => return unmark(state, row_at),
        _ => return other_character(state, key),
    }
    Vec::new()
}

/// How many characters a long text is scrolled by.
const STEP: usize = 8;

/// A printable character where no text is typed: `?` is for help, others go to the cut line.
fn other_character(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    match typed(key) {
        Some('?') => {
            state.open = Open::Help(Field::default(), 0);
            Vec::new()
        }
        Some(c) => type_into_line(state, c),
        None => Vec::new(),
    }
}

fn open_ruler(
    state: &mut State,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    let Some(row) = state.chosen() else { return Vec::new() };
    if let Some((number, line, text, taken)) = row_at(state, row.number()) {
        let mut ruler = Ruler::over(number, line, text.clone(), taken);
        if let Some(mark) = state.mark_of(&text) {
            let piece = mark.piece.clone();
            match text.find(&piece).filter(|_| !piece.is_empty()) {
                Some(at) => {
                    ruler = Ruler::over(number, line, text.clone(), Some(at..at + piece.len()));
                }
                None => {
                    ruler.empty_piece();
                    ruler.piece.insert(&piece);
                }
            }
        }
        state.focus = Focus::Rows;
        state.open = Open::Ruler(Box::new(ruler));
    }
    Vec::new()
}

fn unmark(
    state: &mut State,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    let Some((.., text, _)) = state.chosen().and_then(|row| row_at(state, row.number())) else {
        return Vec::new();
    };
    if state.mark_of(&text).is_some() {
        state.remember(None);
        state.cut_mut().marks.retain(|mark| mark.cell != text);
    }
    Vec::new()
}

fn ruler_key(
    state: &mut State,
    key: KeyEvent,
    row_at: &mut dyn FnMut(&State, u64) -> Option<MarkableRow>,
) -> Vec<Ask> {
    let rows = state.list.len();
    let Open::Ruler(ruler) = &mut state.open else { return Vec::new() };
    if let Some(answer) = &ruler.answer
        && !answer.cuts.is_empty()
    {
        match key.code {
            KeyCode::Up => ruler.chosen = ruler.chosen.saturating_sub(1),
            KeyCode::Down => ruler.chosen = (ruler.chosen + 1).min(answer.cuts.len() - 1),
            KeyCode::Esc => ruler.answer = None,
            KeyCode::Enter => return take_answer(state),
            _ => {}
        }
        return Vec::new();
    }
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Tab => ruler.next_hand(false),
        KeyCode::BackTab => ruler.next_hand(true),
        KeyCode::Enter if ruler.is_asked => {}
        KeyCode::Enter => {
            ruler.is_asked = true;
            return vec![Ask::Learn];
        }
        KeyCode::Up | KeyCode::Down => {
            if let Some(to) = moved(key.code, state.row, rows, 1) {
                state.row = to;
                return open_ruler(state, row_at);
            }
        }
        KeyCode::Delete => ruler.empty_piece(),
        _ => match (edit_of(key), typed(key)) {
            (Some(edit), _) => ruler.shift(edit),
            (None, Some(c)) => ruler.type_piece(c.encode_utf8(&mut [0; 4])),
            (None, None) => {}
        },
    }
    Vec::new()
}

/// Takes the cut that learning has answered with; the piece stays marked, and the row that the
/// question is about is next.
fn take_answer(state: &mut State) -> Vec<Ask> {
    let Open::Ruler(ruler) = std::mem::take(&mut state.open) else { return Vec::new() };
    let Some(answer) = ruler.answer.clone() else { return Vec::new() };
    let Some(taken) = answer.cuts.get(ruler.chosen) else { return Vec::new() };
    state.remember(None);
    let mark = super::learn::mark(&ruler);
    let left = BenchCut::left(state.cut().line.text()).map(str::to_owned);
    let named = left.filter(|left| !left.is_empty());
    let cut = super::learn::with_source(state, &taken.cut);
    let text = named.map_or(cut.clone(), |left| format!("{left} = {cut}"));
    let line = state.cut_mut();
    line.line = Field::of(text);
    line.marks.retain(|known| known.cell != mark.cell);
    line.marks.push(mark);
    if let Some(row) = answer.next_row {
        super::learn::show_row(state, row);
    }
    changed(state)
}

fn tally_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let lines: Vec<usize> =
        (0..state.lines.len()).filter(|n| state.lines[*n].which.is_some()).collect();
    let at = lines.iter().position(|n| state.lines[*n].which.as_ref() == Some(&state.which));
    if let Some(to) = moved(key.code, at.unwrap_or(0), lines.len(), state.heights.1)
        && let Some(which) = lines.get(to).and_then(|n| state.lines[*n].which.clone())
    {
        choose_rows(state, which);
        return Vec::new();
    }
    match key.code {
        KeyCode::Enter => go_to(state, Focus::Rows),
        _ => return other_character(state, key),
    }
    Vec::new()
}

/// Shows the rows of another line of the tally.
pub fn choose_rows(state: &mut State, which: super::tally::Which) {
    if state.which != which {
        (state.which, state.row, state.top, state.find) = (which, 0, 0, None);
    }
}

fn cuts_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let alt = key.modifiers.contains(KeyModifiers::ALT);
    match key.code {
        KeyCode::Left if alt => return move_cut(state, true),
        KeyCode::Right if alt => return move_cut(state, false),
        KeyCode::Left => {
            let to = state.document.at.saturating_sub(1);
            state.go_to_cut(to);
            return changed(state);
        }
        KeyCode::Right if state.document.at + 1 >= state.document.cuts.len() => {
            if !state.cut().is_empty() {
                let asks = begin_cut(state, "");
                state.focus = Focus::Cuts;
                return asks;
            }
        }
        KeyCode::Right => {
            let to = state.document.at + 1;
            state.go_to_cut(to);
            return changed(state);
        }
        KeyCode::Home => {
            state.go_to_cut(0);
            return changed(state);
        }
        KeyCode::End => {
            state.go_to_cut(usize::MAX);
            return changed(state);
        }
        KeyCode::Enter => go_to(state, Focus::Line),
        KeyCode::Delete => return delete_cut(state),
        _ => return other_character(state, key),
    }
    Vec::new()
}

/// Moves the cut in the line to the left or the right of its neighbour.
fn move_cut(state: &mut State, back: bool) -> Vec<Ask> {
    let (at, last) = (state.document.at, state.document.cuts.len() - 1);
    let to = if back { at.checked_sub(1) } else { (at < last).then_some(at + 1) };
    let Some(to) = to else { return Vec::new() };
    state.remember(None);
    state.document.cuts.swap(at, to);
    state.document.at = to;
    changed(state)
}

fn delete_cut(state: &mut State) -> Vec<Ask> {
    if state.cut().is_empty() && state.document.cuts.len() == 1 {
        return Vec::new();
    }
    state.remember(None);
    let name = state.judged.names.get(state.document.at).cloned().unwrap_or_default();
    let Document { cuts, at } = &mut state.document;
    cuts.remove(*at);
    if cuts.is_empty() {
        cuts.push(BenchCut::default());
    }
    *at = (*at).min(cuts.len() - 1);
    state.message = Some(format!("{name} deleted; Ctrl-Z brings it back"));
    let asks = changed(state);
    state.go_to_cut(state.document.at);
    asks
}

fn save_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Save(save) = &mut state.open else { return Vec::new() };
    if let Some(asking) = &mut save.asking {
        match key.code {
            KeyCode::Left | KeyCode::Right | KeyCode::Tab | KeyCode::BackTab => {
                asking.overwrite = !asking.overwrite;
            }
            KeyCode::Enter if asking.overwrite => {
                save.agreed.insert(asking.path.clone());
                save.asking = None;
                return vec![Ask::Save];
            }
            KeyCode::Enter | KeyCode::Esc => save.asking = None,
            _ => {}
        }
        return Vec::new();
    }
    match key.code {
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Up | KeyCode::BackTab => save.step(true),
        KeyCode::Down | KeyCode::Tab => save.step(false),
        KeyCode::Enter => return vec![Ask::Save],
        _ => match (edit_of(key), typed(key)) {
            (Some(edit), _) => save.edit(edit),
            (None, Some(c)) => save.insert(c.encode_utf8(&mut [0; 4])),
            (None, None) => {}
        },
    }
    Vec::new()
}

fn leave_key(state: &mut State, key: KeyEvent) -> Vec<Ask> {
    let Open::Leave(chosen) = &mut state.open else { return Vec::new() };
    match key.code {
        KeyCode::Left | KeyCode::Up | KeyCode::BackTab => *chosen = chosen.saturating_sub(1),
        KeyCode::Right | KeyCode::Down | KeyCode::Tab => *chosen = (*chosen + 1).min(2),
        KeyCode::Esc => state.open = Open::Nothing,
        KeyCode::Enter => match chosen {
            0 => return vec![Ask::Leave],
            1 => open_save(state, true),
            _ => state.open = Open::Nothing,
        },
        _ => {}
    }
    Vec::new()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench::actions::actions;
    use crate::bench::state::OpenTable;

    fn bench() -> State {
        let columns = vec!["lot".to_owned(), "dates".to_owned()];
        let table = OpenTable { columns, column: Some(0), ..OpenTable::default() };
        State::of(table, crate::jig::Jig::default(), Vec::new())
    }

    /// Presses keys and types what is no name of one; returns what is asked of the jobs.
    fn press(state: &mut State, keys: &[&str]) -> Vec<Ask> {
        let mut asked = Vec::new();
        let mut row_at =
            |_: &State, number| Some((number, number + 1, "GR-2026-TIL".to_owned(), None));
        for keys in keys {
            let code = match *keys {
                "Enter" => KeyCode::Enter,
                "Tab" => KeyCode::Tab,
                "Shift-Tab" => KeyCode::BackTab,
                "Esc" => KeyCode::Esc,
                "Left" => KeyCode::Left,
                "Right" => KeyCode::Right,
                "Down" => KeyCode::Down,
                "Back" => KeyCode::Backspace,
                "Delete" => KeyCode::Delete,
                "End" => KeyCode::End,
                _ => KeyCode::Null,
            };
            let plain = |code| KeyEvent::new(code, KeyModifiers::NONE);
            match keys.strip_prefix("Ctrl-") {
                Some(letter) => {
                    let code = KeyCode::Char(letter.chars().next().unwrap_or_default());
                    let event = KeyEvent::new(code, KeyModifiers::CONTROL);
                    asked.extend(key(state, event, &mut row_at));
                }
                None if code != KeyCode::Null => asked.extend(key(state, plain(code), &mut row_at)),
                None => keys.chars().for_each(|c| {
                    asked.extend(key(state, plain(KeyCode::Char(c)), &mut row_at));
                }),
            }
        }
        asked
    }

    /// The cuts, the one in the line with a bar where the cursor is.
    fn shown(state: &State) -> String {
        let cut = |(n, cut): (usize, &BenchCut)| {
            let (text, cursor) = (cut.line.text(), cut.line.cursor());
            match n == state.document.at {
                true => format!("{}|{}", &text[..cursor], &text[cursor..]),
                false => text.to_owned(),
            }
        };
        state.document.cuts.iter().enumerate().map(cut).collect::<Vec<_>>().join(" ; ")
    }

    #[test]
    fn what_follows_from_keys() {
        for (keys, then) in [
            (&["house = first 2"][..], "house = first 2|"),
            (&["house = first 2", "Enter"], "house = first 2 ; |"),
            (&["house = first 2", "Enter", "Enter"], "house = first 2 ; |"),
            // Enter goes to what is wrong, and to the end of what is not finished.
            (&["house = frist 2", "Enter"], "house = |frist 2"),
            (&["house = part 2", "Left", "Left", "Enter"], "house = part 2|"),
            // Tab takes a word that is begun, a remedy, a column; else it goes on.
            (&["house = fir", "Tab"], "house = first |"),
            (&["house = frist 2", "Tab"], "house = first |2"),
            (&["{da", "Tab"], "{dates}|"),
            (&["house = first 2 ", "Tab"], "house = first 2 |"),
            // The list of offers: down, narrowed by typing, taken.
            (&["house = ", "Down", "Down", "Enter"], "house = last |"),
            (&["house = ", "Down", "dr", "Enter"], "house = drop |"),
            (&["house = ", "Down", "Esc"], "house = |"),
            // A run of typed characters is one step, and so is one of deleted ones.
            (&["house = first 2", "Back", "Back", "Ctrl-z"], "house = first 2|"),
            (&["house = first 2", "Back", "Ctrl-z", "Ctrl-z"], "|"),
            (&["house = first 2", "Ctrl-z", "Ctrl-y"], "house = first 2|"),
            (&["a = first 2", "Enter", "b = last 2", "Ctrl-z", "Ctrl-z"], "a = first 2|"),
            // Cuts are chosen, moved, deleted, and an empty one is not kept.
            (
                &["a = first 2", "Enter", "b = last 2", "Shift-Tab", "Left"],
                "a = first 2| ; b = last 2",
            ),
            (&["a = first 2", "Enter", "Shift-Tab", "Left"], "a = first 2|"),
            (&["a = first 2", "Enter", "b = last 2", "Shift-Tab", "Delete"], "a = first 2|"),
            (
                &["a = first 2", "Enter", "b = last 2", "Shift-Tab", "Delete", "Ctrl-z"],
                "a = first 2 ; b = last 2|",
            ),
            // Elsewhere letters go to the cut line; `?` is for help.
            (&["a = first ", "Tab", "2"], "a = first 2|"),
            (&["a = first 2 ", "Tab", "?", "Esc"], "a = first 2 |"),
        ] {
            let mut state = bench();
            press(&mut state, keys);
            assert_eq!(shown(&state), then, "{keys:?}");
        }
    }

    #[test]
    fn only_what_is_in_force_is_counted_and_saved() {
        let mut state = bench();
        assert_eq!(press(&mut state, &["house = firs"]), []);
        assert_eq!(press(&mut state, &["t 2"]), [Ask::Count]);
        // A wrong word leaves the last good text in force.
        assert_eq!(press(&mut state, &[" | xx"]), []);
        assert_eq!(state.judged.in_force, [Some("house = first 2".to_owned())]);
        assert!(matches!(state.verdict(), Verdict::Wrong(_)) && state.is_unsaved());
        assert_eq!(press(&mut state, &["Ctrl-q", "Ctrl-q"]), [Ask::Leave]);
        let mut state = bench();
        assert_eq!(press(&mut state, &["Ctrl-c"]), [Ask::Leave]);
        assert_eq!(press(&mut state, &["Esc"]), []);
        assert_eq!(state.message.as_deref(), Some(LEAVES));
        assert_eq!(press(&mut state, &["Ctrl-z"]), []);
        assert_eq!(state.message.as_deref(), Some("Nothing to undo"));
    }

    /// Names are made up where none is given, and two of one name are wrong in the words of `carve`.
    #[test]
    fn names() {
        let mut state = bench();
        press(&mut state, &["first 2", "Enter", "last 2", "Enter", "lot = first 3"]);
        assert_eq!(state.judged.names, ["piece", "piece2", "lot"]);
        let Verdict::Wrong(fault) = state.verdict() else { panic!("lot is a column") };
        assert!(fault.said.contains("lot"), "{}", fault.said);
    }

    #[test]
    fn what_can_be_done_is_told_once() {
        let told = actions().iter().map(|line| line.key).filter(|key| !key.is_empty());
        let mut keys: Vec<&str> = told.collect();
        let all = keys.len();
        keys.sort_unstable();
        keys.dedup();
        assert_eq!(keys.len(), all);
    }
}
