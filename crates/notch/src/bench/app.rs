//! The bench at work: keys and reports in, the state on, the screen out.

use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant, SystemTime};

use clap::Parser;
use crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers, MouseEventKind};
use keen_notch_core::Scratch;
use keen_notch_table::{AnyRow, ReadOptions, RowFinder, Source, same_file};
use ratatui::layout::Rect;

use super::cuts::{Verdict, first_sentence};
use super::jobs::{Counting, Jobs, Message, Report};
use super::keys::{self, MarkableRow};
use super::learn;
use super::mouse::mouse;
use super::parting::{Parting, whole_jig};
use super::rows::{LONGEST, MadeRow, made, steps};
use super::save::{Asking, SaveDialogue, SaveLine};
use super::screen::{self, Screen};
use super::state::{Ask, Focus, MOST_LISTED, Open, RowList, State, Written};
use super::tally::{self, Which};
use super::view::{self, Drawn, Scene};
use crate::cli::{Bench, Cli, Command};
use crate::commands::carve::carve_jig;
use crate::commands::files::files_differ;
use crate::ends;
use crate::jig::file::Write;
use crate::jig::save::save;
use crate::jig::{Action, Jig};
use crate::show::{Problem, counted, visible};

/// The screen is drawn at most so often for what jobs report.
const BETWEEN: Duration = Duration::from_millis(100);
/// The exit status of a terminal that is gone: that of a hang-up.
const HUNG_UP: u8 = 129;
/// Until the layouts are found so many first rows are shown.
const FIRST_ROWS: u64 = 1000;

/// The bench at work.
pub struct App<'a> {
    state: State,
    any_row: AnyRow,
    source: Source,
    options: ReadOptions,
    args: &'a Bench,
    colors: bool,
    ascii: bool,
    jobs: Jobs,
    to: Sender<Message>,
    from: Receiver<Message>,
    counting: Option<Counting>,
    /// How many rows were counted when the lines were made last.
    told: u64,
    scratch: Scratch,
    drawn: Drawn,
    /// The rows on the screen and the steps of the chosen one.
    rows: Vec<MadeRow>,
    steps: String,
    place: String,
    /// The size and time of the file when it was read.
    stamp: Option<(u64, SystemTime)>,
    /// What is done where the program ends otherwise than by leaving.
    parting: Arc<Mutex<Parting>>,
    status: Option<u8>,
}

impl<'a> App<'a> {
    pub fn new(
        state: State,
        any_row: AnyRow,
        (source, options): (Source, ReadOptions),
        args: &'a Bench,
        colors: bool,
    ) -> Self {
        let (to, from) = channel();
        let jobs = Jobs::new(to.clone(), any_row.all());
        let stamp = stamp(&source);
        Self {
            state,
            any_row,
            source,
            options,
            args,
            colors,
            ascii: !screen::is_unicode(),
            jobs,
            to,
            from,
            counting: None,
            told: u64::MAX,
            scratch: Scratch::default(),
            drawn: Drawn::default(),
            rows: Vec::new(),
            steps: String::new(),
            place: String::new(),
            stamp,
            parting: Arc::default(),
            status: None,
        }
    }

    /// What is left of the session.
    pub fn parting(&self) -> Parting {
        Parting::of(&self.state, &self.args.reading.words())
    }

    /// Works until it is left; returns the exit status.
    ///
    /// # Errors
    /// The terminal cannot be taken.
    pub fn run(&mut self, finder: RowFinder, asks: Vec<Ask>) -> Result<u8, Problem> {
        let io = |cause: std::io::Error| {
            Problem::said(format!("the terminal cannot be used: {cause}."), "Try another one.")
        };
        self.update_parting();
        let parting = Arc::clone(&self.parting);
        ends::watch_hang_up();
        ends::before_the_end(Some(Box::new(move || {
            screen::give_back();
            let parting = parting.lock().unwrap_or_else(PoisonError::into_inner).clone();
            let (command, said) = parting.finish(true);
            crate::show::say(said);
            // Where nobody takes it, it is in the file that was named.
            let _ = crate::show::print(command);
        })));
        let mut screen = screen::take().map_err(io)?;
        self.resize(&screen);
        self.jobs.find_rows(finder);
        self.ask(asks);
        self.count();
        self.read_keys();
        self.settle();
        let mut last_drawn = Instant::now();
        self.draw(&mut screen);
        let mut is_due = false;
        while self.status.is_none() {
            let wait = match (is_due, self.is_at_work()) {
                (true, _) => BETWEEN.saturating_sub(last_drawn.elapsed()),
                (false, true) => BETWEEN,
                (false, false) => Duration::from_secs(3600),
            };
            let mut by_key = false;
            match self.from.recv_timeout(wait) {
                Ok(message) => {
                    by_key = matches!(message, Message::Event(_));
                    self.take(message, &screen);
                    // What is there already is done before anything is drawn.
                    while let Ok(message) = self.from.try_recv() {
                        by_key |= matches!(message, Message::Event(_));
                        self.take(message, &screen);
                    }
                    is_due = true;
                }
                Err(RecvTimeoutError::Timeout) => is_due |= self.has_counted_more(),
                Err(RecvTimeoutError::Disconnected) => self.status = Some(HUNG_UP),
            }
            if by_key || is_due && last_drawn.elapsed() >= BETWEEN {
                self.settle();
                self.draw(&mut screen);
                (last_drawn, is_due) = (Instant::now(), false);
            }
        }
        self.jobs.stop_all();
        Ok(self.status.unwrap_or_default())
    }

    /// Reads keys on a thread of its own.
    fn read_keys(&self) {
        let to = self.to.clone();
        thread::spawn(move || {
            loop {
                let message = match event::read() {
                    // Where the mouse is says nothing until it is pressed.
                    Ok(Event::Mouse(event)) if event.kind == MouseEventKind::Moved => continue,
                    read => read.map_or(Message::Lost, Message::Event),
                };
                let is_lost = matches!(message, Message::Lost);
                if to.send(message).is_err() || is_lost {
                    return;
                }
            }
        });
    }

    fn is_at_work(&self) -> bool {
        !self.state.table.is_whole || self.state.counting.is_some()
    }

    /// Whether more is counted than the screen shows.
    fn has_counted_more(&self) -> bool {
        let counted = self.counting.as_ref().map(|counting| counting.lock().rows);
        counted.is_some_and(|counted| counted != self.told)
            || self.any_row.rows() != self.state.table.rows
    }

    fn resize(&mut self, screen: &Screen) {
        if let Ok(size) = screen.size() {
            self.state.size = (size.width, size.height);
        }
    }

    fn take(&mut self, message: Message, screen: &Screen) {
        match message {
            Message::Event(Event::Resize(..)) => self.resize(screen),
            Message::Event(event) => self.event(event),
            Message::Report(report) => self.report(report),
            Message::Lost => self.status = Some(HUNG_UP),
        }
    }

    /// Does what a key or the mouse says.
    fn event(&mut self, event: Event) {
        let Self { state, any_row, scratch, drawn, .. } = self;
        let is_enough = view::is_enough(state.size);
        let mut row_at = |state: &State, number| markable(state, any_row, scratch, number);
        let asks = match event {
            Event::Key(key) if key.kind == KeyEventKind::Release => return,
            // Too small a screen: nothing is done that cannot be seen.
            Event::Key(key) if !is_enough => {
                let leaves = key.modifiers.contains(KeyModifiers::CONTROL)
                    && matches!(key.code, KeyCode::Char('q' | 'c'));
                if leaves { vec![Ask::Leave] } else { Vec::new() }
            }
            Event::Key(key) => keys::key(state, key, &mut row_at),
            Event::Mouse(event) if is_enough => mouse(state, event, drawn, &mut row_at),
            Event::Paste(text) if is_enough => keys::paste(state, &text),
            _ => Vec::new(),
        };
        self.ask(asks);
        self.update_parting();
    }

    /// Has the jobs do what was asked.
    fn ask(&mut self, asks: Vec<Ask>) {
        for ask in asks {
            match ask {
                Ask::Count => self.count(),
                Ask::Look => self.look(),
                Ask::Learn => self.learn(),
                Ask::Find(text) => self.find(text),
                Ask::Save => self.save(),
                Ask::Mouse(wanted) => screen::mouse(wanted),
                Ask::Command => self.state.message = Some(self.parting().shown()),
                Ask::Leave => self.status = Some(0),
            }
        }
    }

    fn count(&mut self) {
        let is_there = self.read_again_if_changed();
        self.told = u64::MAX;
        match self.state.judged.plan.clone().filter(|_| is_there) {
            Some(plan) => {
                self.counting = Some(self.jobs.count(plan, self.args.threads.map(usize::from)));
                self.state.counting = Some(0);
            }
            None => {
                self.jobs.count_nothing();
                (self.counting, self.state.counting) = (None, None);
            }
        }
    }

    fn look(&mut self) {
        match self.state.table.column {
            Some(column) => self.jobs.look(column, self.state.table.columns.clone()),
            None => self.jobs.glance(self.state.table.columns.len()),
        }
    }

    fn learn(&mut self) {
        let Open::Ruler(ruler) = &self.state.open else { return };
        let Some(asked) = learn::asked(&self.state, ruler) else { return };
        self.jobs.learn(asked);
    }

    /// Finds the rows of the list that hold a text.
    fn find(&mut self, text: String) {
        let (list, plan, place) =
            (self.state.list.clone(), self.state.judged.plan.clone(), self.state.place());
        let column = self.state.table.column;
        let mut rows = self.any_row.another();
        let wanted = text.to_lowercase();
        self.state.message = Some("looking for it…".to_owned());
        self.jobs.find(text, move |stop: &AtomicBool| {
            let (mut found, mut scratch) = (Vec::new(), Scratch::default());
            for n in 0..list.len() {
                if stop.load(Ordering::Relaxed) {
                    break;
                }
                let Some(number) = list.get(n).map(super::state::ListedRow::number) else {
                    continue;
                };
                let Ok(Some(row)) = rows.row(number) else { continue };
                let made = made(&row, plan.as_deref(), place, column, &mut scratch);
                let holds = |text: &str| text.to_lowercase().contains(&wanted);
                if holds(&made.source) || made.piece.as_deref().is_some_and(holds) {
                    found.push(u32::try_from(number).unwrap_or(u32::MAX));
                }
            }
            found
        });
    }

    fn report(&mut self, report: Report) {
        let state = &mut self.state;
        match report {
            Report::Found(problem) => {
                state.table.is_whole = true;
                if problem.is_some() {
                    state.message = problem;
                }
            }
            Report::Looked(looked) => state.looked = Some(looked),
            Report::Glanced(glances) => state.glances = glances,
            Report::Counted(all_rows) => {
                state.counting = None;
                if all_rows.is_some() {
                    self.scratch = Scratch::with_all_rows(all_rows);
                }
                self.told = u64::MAX;
            }
            Report::Learnt(mut answer) => {
                // Where the rows are a copy their own lines are known here alone.
                if let (Some(row), true) = (answer.next_row, self.jobs.rows.before > 0)
                    && let Ok(Some(there)) = self.any_row.row(row)
                    && let Some((_, rest)) = answer.said.split_once(':')
                {
                    answer.said = format!("They part in line {}:{rest}", there.line);
                }
                if let Open::Ruler(ruler) = &mut state.open {
                    (ruler.is_asked, ruler.chosen) = (false, 0);
                    ruler.answer = Some(answer);
                }
            }
            Report::FoundRows(text, rows) => {
                state.message = None;
                if rows.is_empty() {
                    state.message = Some(format!("\"{}\" is in no row here", visible(&text)));
                } else {
                    (state.find, state.row, state.top) = (Some((text, rows)), 0, 0);
                }
            }
            Report::Wrote(done) => self.wrote(done),
            Report::Failed(problem) => {
                state.message = Some(problem);
                if let Open::Ruler(ruler) = &mut state.open {
                    ruler.is_asked = false;
                }
                state.counting = None;
            }
        }
    }

    /// Reads the table anew where its file is another than it was; returns whether it is there.
    fn read_again_if_changed(&mut self) -> bool {
        let now = stamp(&self.source);
        if now.is_none() && self.source.path().is_some() {
            let name = visible(&self.state.table.name);
            self.state.message = Some(format!("{name} is gone; the cuts are kept"));
            self.stamp = now;
            return false;
        }
        if now == self.stamp {
            return true;
        }
        match AnyRow::open(&self.source, &self.options) {
            Ok((any_row, finder)) => {
                self.stamp = now;
                self.any_row = any_row;
                self.jobs.read_again(self.any_row.all(), finder);
                (self.state.table.is_whole, self.state.table.rows) = (false, 0);
                let begun = Instant::now();
                while !self.any_row.is_whole()
                    && self.any_row.rows() < FIRST_ROWS
                    && begun.elapsed() < BETWEEN
                {
                    thread::sleep(Duration::from_millis(1));
                }
                self.take_columns();
                self.state.looked = None;
                self.state.said_again = true;
                self.look();
            }
            Err(error) => {
                self.state.message = Some(first_sentence(&error.into()));
                return false;
            }
        }
        true
    }

    /// The columns may be others in a table that was read again.
    fn take_columns(&mut self) {
        let state = &mut self.state;
        let columns = state.jig.called(self.any_row.columns());
        let columns = columns.map_or_else(|_| self.any_row.columns().to_vec(), |of| of.columns);
        if columns != state.table.columns {
            let name = state.column_name().map(str::to_owned);
            let place = |name: String| columns.iter().position(|column| *column == name);
            state.table.column = name.and_then(place);
            state.table.columns = columns;
            state.judge();
        }
    }

    // ---- what follows from the state

    /// Makes the list, the lines of the tally, and the rows on the screen anew.
    fn settle(&mut self) {
        let state = &mut self.state;
        state.table.rows = self.any_row.rows();
        state.table.is_whole |= self.any_row.is_whole();
        if state.table.is_whole && state.said_again {
            state.said_again = false;
            state.message = Some(format!(
                "{} has changed and was read again: {}",
                visible(&state.table.name),
                counted(state.table.rows, "row")
            ));
        }
        let rows = state.table.rows;
        let place = state.place();
        let kinds = state.looked.as_ref().map(|looked| &looked.rows);
        let one_of_each = kinds.map_or(rows.min(FIRST_ROWS), |rows| rows.len() as u64);
        {
            let counted = self.counting.as_ref().map(|counting| (counting.lock(), &counting.plan));
            let known = counted.as_ref().map(|(counted, plan)| (&**counted, &***plan));
            if let Some((counted, _)) = known {
                self.told = counted.rows;
                if state.counting.is_some() {
                    let all = self.jobs.rows.bytes().max(1);
                    let percent = match state.table.is_whole {
                        true => counted.rows.saturating_mul(100) / rows.max(1),
                        false => counted.bytes.min(all).saturating_mul(50) / all,
                    };
                    state.counting = Some(u8::try_from(percent.min(99)).unwrap_or(99));
                }
                if counted.is_whole {
                    state.counting = None;
                }
            }
            state.lines = tally::lines(known, place, rows, one_of_each);
            let is_there = state.lines.iter().any(|line| line.which.as_ref() == Some(&state.which));
            if !is_there && state.counting.is_none() {
                (state.which, state.row, state.top) = (Which::OneOfEach, 0, 0);
            }
            state.list = match (&state.find, &state.which) {
                (Some((_, rows)), _) => RowList::Rows(rows.clone()),
                (None, Which::All) => RowList::First(rows.min(MOST_LISTED)),
                (None, Which::OneOfEach) => match &state.looked {
                    Some(looked) if !(state.focus == Focus::Rows && state.shows_first) => {
                        state.shows_first = false;
                        RowList::Kinds(looked.rows.clone())
                    }
                    _ => {
                        state.shows_first = true;
                        RowList::First(rows.min(FIRST_ROWS))
                    }
                },
                (None, which) => {
                    let rows = known.and_then(|(counted, _)| tally::rows(which, counted, place));
                    RowList::Rows(rows.unwrap_or_default().to_vec())
                }
            };
        }
        state.row = state.row.min(state.list.len().saturating_sub(1));
        self.make_rows();
    }

    /// What the cuts make of the rows on the screen, and the steps of the chosen one.
    fn make_rows(&mut self) {
        let Self { state, any_row, scratch, .. } = self;
        let size = state.size;
        if !view::is_enough(size) {
            return;
        }
        let plan = state.judged.plan.clone();
        let (place, column) = (state.place(), state.table.column.or_else(|| named_column(state)));
        self.steps = String::new();
        self.place = String::new();
        if let Some(row) = state.chosen()
            && let Ok(Some(there)) = any_row.row(row.number())
        {
            self.place = format!("line {} of {}", there.line, visible(&state.table.name));
            let wide = usize::from(size.0) - 1;
            self.steps = steps(&there, plan.as_deref(), place, column, scratch, wide);
        }
        let below = match &state.open {
            Open::Ruler(ruler) => view::ruler_height(ruler),
            Open::Save(_) => 5,
            Open::Leave(_) => 3,
            Open::Find(_) => 2,
            _ => self.steps.lines().count(),
        };
        let height = view::places(state, size, below).rows.1;
        // The chosen row is always in sight.
        state.top = state.top.min(state.row).max((state.row + 1).saturating_sub(height));
        let most = state.list.len().saturating_sub(height);
        state.top = state.top.min(most.max(state.row.min(most)));
        self.rows = (state.top..state.top + height)
            .map_while(|n| state.list.get(n))
            .map(|listed| match any_row.row(listed.number()) {
                Ok(Some(there)) => made(&there, plan.as_deref(), place, column, scratch),
                _ => MadeRow { number: listed.number(), ..MadeRow::default() },
            })
            .collect();
        // So is the chosen line of the tally.
        let chosen = state.lines.iter().position(|line| line.which.as_ref() == Some(&state.which));
        if let Some(chosen) = chosen.filter(|_| state.focus == Focus::Tally) {
            state.tally_top =
                state.tally_top.min(chosen).max((chosen + 1).saturating_sub(height.max(1)));
        }
        state.tally_top = state.tally_top.min(state.lines.len().saturating_sub(height.max(1)));
    }

    fn draw(&mut self, screen: &mut Screen) {
        let command = self.parting().shown();
        let scene = Scene {
            state: &self.state,
            rows: &self.rows,
            steps: &self.steps,
            place: &self.place,
            command: &command,
            ascii: self.ascii,
            colors: self.colors,
        };
        let _held = screen::drawing();
        let mut drawn = Drawn::default();
        let done = screen.draw(|frame| {
            let area = frame.area();
            if (area.width, area.height) == self.state.size {
                drawn = view::draw(&scene, frame.buffer_mut());
                if let Some(cursor) = drawn.cursor {
                    frame.set_cursor_position(cursor);
                }
            }
        });
        if done.is_err() {
            self.status = Some(HUNG_UP);
        }
        self.state.heights = drawn.heights;
        self.drawn = drawn;
        if let Ok(size) = screen.size()
            && (size.width, size.height) != self.state.size
        {
            self.resize(screen);
            self.settle();
            let _ = screen.resize(Rect::new(0, 0, size.width, size.height));
        }
    }

    /// Keeps what a signal would have to keep.
    fn update_parting(&mut self) {
        let parting = self.parting();
        *self.parting.lock().unwrap_or_else(PoisonError::into_inner) = parting;
    }

    // ---- saving

    /// Saves what the dialogue says, or says why not, or asks.
    fn save(&mut self) {
        let Open::Save(dialogue) = &mut self.state.open else { return };
        let dialogue = dialogue.clone();
        match self.checked(&dialogue) {
            Err(refused) => self.refuse(refused),
            Ok(Some(asking)) => {
                if let Open::Save(dialogue) = &mut self.state.open {
                    dialogue.asking = Some(asking);
                }
            }
            Ok(None) => {
                if let Err(problem) = self.save_all(&dialogue) {
                    self.refuse(first_sentence(&problem));
                }
            }
        }
    }

    fn refuse(&mut self, why: String) {
        if let Open::Save(dialogue) = &mut self.state.open {
            dialogue.refused = Some(why);
        }
    }

    /// Whether what the dialogue says can be done: a question where something is written over.
    fn checked(&self, dialogue: &SaveDialogue) -> Result<Option<Asking>, String> {
        let state = &self.state;
        for (n, cut) in state.document.cuts.iter().enumerate().filter(|(_, cut)| !cut.is_empty()) {
            let name = state.judged.names.get(n).map_or("", String::as_str);
            let name = if name.is_empty() { cut.line.text() } else { name };
            match state.judged.verdicts.get(n) {
                Some(Verdict::Wrong(fault)) => {
                    return Err(format!("{name} is wrong: {}", fault.said));
                }
                Some(Verdict::Unfinished) => return Err(format!("{name} is not finished.")),
                _ => {}
            }
            if let Some(Some(said)) = state.judged.not_given.get(n) {
                return Err(format!("{name}: {said}"));
            }
        }
        if state.plan().is_none() {
            return Err("There is no cut to save yet.".to_owned());
        }
        let (jig, table, rejects) = (
            dialogue.path(SaveLine::Jig),
            dialogue.path(SaveLine::Table),
            dialogue.path(SaveLine::Rejects),
        );
        if jig.is_none() && table.is_none() {
            return Err("Nothing is filled in that could be saved.".to_owned());
        }
        if rejects.is_some() && table.is_none() {
            return Err("Rejects are written with the table; name a table.".to_owned());
        }
        // What is read is not written over; the jig that was opened may be.
        let own = state.jig_file.as_ref().map(|(path, _)| path);
        let mut read = state.jig.clone();
        read.files.retain(|(_, path)| own.is_none_or(|own| !same_file(path, own)));
        let outputs = [
            ("the output", table.as_ref()),
            ("the rejects file", rejects.as_ref()),
            ("the jig to be saved", jig.as_ref()),
        ];
        files_differ(&self.args.table, &read, &outputs)
            .map_err(|problem| first_sentence(&problem))?;
        for path in [&jig, &table, &rejects].into_iter().flatten() {
            let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
            if let Some(folder) = folder.filter(|folder| !folder.is_dir()) {
                return Err(format!("There is no folder {}.", folder.display()));
            }
            if path.is_dir() {
                return Err(format!("{} is a folder.", path.display()));
            }
        }
        for path in [jig.as_ref(), table.as_ref(), rejects.as_ref()].into_iter().flatten() {
            if dialogue.agreed.contains(path) || !path.exists() {
                continue;
            }
            let shown = path.display();
            match state.jig_file.as_ref().filter(|(own, _)| own == path) {
                Some((_, bytes)) if std::fs::read(path).is_ok_and(|now| now == *bytes) => {}
                Some(_) => return Ok(Some(asking(path, format!("{shown} has changed")))),
                None if state.own_files.contains(path) => {}
                None => return Ok(Some(asking(path, format!("{shown} exists")))),
            }
        }
        Ok(None)
    }

    /// Saves the jig, and has the table written.
    fn save_all(&mut self, dialogue: &SaveDialogue) -> Result<(), Problem> {
        let mut said = Vec::new();
        let whole = whole_jig(&self.state);
        if let Some(path) = dialogue.path(SaveLine::Jig) {
            save(&whole, &path)?;
            let bytes = std::fs::read(&path).unwrap_or_default();
            let cuts = counted(whole.cuts.len() as u64, "cut");
            said.push(format!("Saved {}: {cuts}.", path.display()));
            self.state.own_files.insert(path.clone());
            self.state.jig_file = Some((path, bytes));
            self.state.saved = self.state.in_force();
        }
        self.state.kept = self.state.in_force();
        let leaves = dialogue.leaves;
        self.state.told.extend(said.iter().cloned());
        self.state.open = Open::Nothing;
        let Some(table) = dialogue.path(SaveLine::Table) else {
            self.state.message = Some(said.join(" "));
            if leaves {
                self.status = Some(0);
            }
            return Ok(());
        };
        let rejects = dialogue.path(SaveLine::Rejects);
        self.state.written =
            Written { table: Some(table.clone()), only: dialogue.only, rejects: rejects.clone() };
        self.state.own_files.extend([Some(table.clone()), rejects.clone()].into_iter().flatten());
        self.state.leaves_when_written = leaves;
        self.state.message =
            Some([said.join(" "), "writing…".to_owned()].join(" ").trim().to_owned());
        let (reading, source, only) =
            (self.args.reading.words(), self.source.clone(), dialogue.only);
        let from = self.args.table.clone();
        let threads = self.args.threads;
        self.jobs.write(move |stop| {
            write(&from, &reading, source, whole, (&table, rejects.as_deref(), only), threads, stop)
        });
        Ok(())
    }

    fn wrote(&mut self, done: Result<String, String>) {
        match done {
            Ok(said) => {
                let saved =
                    self.state.told.last().filter(|told| told.starts_with("Saved ")).cloned();
                self.state.message =
                    Some(saved.into_iter().chain([said.clone()]).collect::<Vec<_>>().join(" "));
                self.state.told.push(said);
                if self.state.leaves_when_written {
                    self.status = Some(0);
                }
            }
            Err(problem) => {
                self.state.written = Written::default();
                self.state.message = Some(problem);
            }
        }
        self.state.leaves_when_written = false;
    }
}

fn asking(path: &Path, said: String) -> Asking {
    Asking { path: path.to_owned(), said, overwrite: false }
}

/// Writes the table as `carve` does, and returns what is said of it.
fn write(
    from: &Path,
    reading: &[String],
    source: Source,
    mut jig: Jig,
    (to, rejects, only): (&Path, Option<&Path>, bool),
    threads: Option<u16>,
    stop: &AtomicBool,
) -> Result<String, Problem> {
    let mut words: Vec<std::ffi::OsString> = vec!["notch".into(), "carve".into(), from.into()];
    words.extend(reading.iter().map(Into::into));
    words.extend(["-q".into(), "-o".into(), to.into()]);
    if let Some(rejects) = rejects {
        words.extend(["--rejects".into(), rejects.into()]);
        jig.on_finding = Some(Action::Reject);
    }
    if let Some(threads) = threads {
        words.extend(["--threads".into(), threads.to_string().into()]);
    }
    if only {
        jig.write = Some(Write::Word("new".to_owned()));
    }
    let cli = Cli::try_parse_from(words)
        .map_err(|error| Problem::said(error.to_string(), "Give the file another name."))?;
    let Command::Carve(args) = cli.command else {
        return Err(Problem::said("the table cannot be written.", "Leave, and use notch carve."));
    };
    let (done, _) = carve_jig(&args, jig, source, stop)?;
    let found: u64 = done
        .tally
        .findings()
        .iter()
        .filter(|(_, kind, ..)| !kind.is_note())
        .map(|(.., of)| of.count)
        .sum();
    let findings = match found {
        0 => "no findings".to_owned(),
        found => format!(
            "{} in {}",
            counted(found, "finding"),
            counted(done.tally.rows_with_findings, "row")
        ),
    };
    let rows = counted(done.written, "row");
    let rejected = match done.rejected {
        0 => String::new(),
        rejected => format!(", {rejected} rejected"),
    };
    Ok(format!("Wrote {}: {rows}{rejected}, {findings}.", to.display()))
}

/// The size and time of the file behind a table.
fn stamp(source: &Source) -> Option<(u64, SystemTime)> {
    let metadata = source.path()?.metadata().ok()?;
    Some((metadata.len(), metadata.modified().ok()?))
}

/// The column that the text in the line names first.
fn named_column(state: &State) -> Option<usize> {
    let text = state.cut().line.text();
    let inside = text.split_once('{')?.1;
    let name = inside.split(['}', '|']).next()?.trim().trim_matches('"');
    state.table.columns.iter().position(|column| column == name)
}

/// A row with the text that a piece may be marked in.
fn markable(
    state: &State,
    any_row: &mut AnyRow,
    scratch: &mut Scratch,
    number: u64,
) -> Option<MarkableRow> {
    let there = any_row.row(number).ok()??;
    let cells = there.cells.as_ref().ok()?;
    let column = learn::column(state)?;
    let text = cells.get(column).filter(|text| text.len() <= LONGEST)?.clone();
    let made = made(&there, state.plan(), state.place(), Some(column), scratch);
    // What is taken lies in the text that the cut starts from, which may be another one.
    let taken = made.taken.first().cloned().filter(|_| made.source == text);
    Some((number, there.line, text, taken))
}
