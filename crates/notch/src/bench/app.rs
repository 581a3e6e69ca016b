//! The bench at work: keys and reports in, the state on, the screen out.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant, SystemTime};

use crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers, MouseEventKind};
use keen_notch_core::Scratch;
use keen_notch_table::{AnyRow, ReadOptions, RowFinder, Source};
use ratatui::layout::Rect;

use super::cuts::first_sentence;
use super::jobs::{Counting, Jobs, Message, Report};
use super::keys::{self, MarkableRow};
use super::learn;
use super::mouse::mouse;
use super::parting::Parting;
use super::rows::{LONGEST, MadeRow, made};
use super::screen::{self, Screen};
use super::state::{Ask, Open, State};
use super::view::{self, Drawn, Scene};
use crate::cli::Bench;
use crate::ends;
use crate::show::{Problem, visible};

/// The least time between two drawings of the screen for what jobs report.
const BETWEEN: Duration = Duration::from_millis(100);
/// The exit status of a terminal that is gone: that of a hang-up.
const HUNG_UP: u8 = 129;
/// The number of first rows that are shown until the layouts are found.
pub(super) const FIRST_ROWS: u64 = 1000;

/// The bench at work.
pub struct App<'a> {
    pub(super) state: State,
    pub(super) any_row: AnyRow,
    pub(super) source: Source,
    options: ReadOptions,
    pub(super) args: &'a Bench,
    colors: bool,
    ascii: bool,
    pub(super) jobs: Jobs,
    to: Sender<Message>,
    from: Receiver<Message>,
    pub(super) counting: Option<Counting>,
    /// How many rows were counted when the lines were made last.
    pub(super) told: u64,
    pub(super) scratch: Scratch,
    drawn: Drawn,
    /// The rows on the screen and the steps of the chosen one.
    pub(super) rows: Vec<MadeRow>,
    pub(super) steps: String,
    pub(super) place: String,
    /// The size and time of the file when it was read.
    stamp: Option<(u64, SystemTime)>,
    /// What is done where the program ends otherwise than by leaving.
    parting: Arc<Mutex<Parting>>,
    pub(super) status: Option<u8>,
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
            // Where standard output is closed, it is in the file that was named.
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
            // A job may have been broken off after it had reported.
            Message::Report(_, stop) if stop.load(Ordering::Relaxed) => {}
            Message::Report(report, _) => self.report(report),
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
                Ask::Glance => self.jobs.glance(self.state.table.columns.len()),
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
                self.counting = Some(self.jobs.count(plan));
                self.state.counting = Some(0);
            }
            None => {
                self.jobs.count_nothing();
                (self.counting, self.state.counting) = (None, None);
            }
        }
    }

    fn look(&mut self) {
        if let Some(column) = self.state.table.column {
            self.jobs.look(column, self.state.table.columns.clone());
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
                if holds(&made.source) || made.pieces.iter().any(|piece| holds(piece)) {
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
            Report::Glanced(glances) => state.glances = Some(glances),
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
}

/// The size and time of the file behind a table.
fn stamp(source: &Source) -> Option<(u64, SystemTime)> {
    let metadata = source.path()?.metadata().ok()?;
    Some((metadata.len(), metadata.modified().ok()?))
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
