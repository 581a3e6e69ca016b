//! What goes on beside the keys: finding the rows, looking at the column, counting, learning,
//! finding a text, writing. Each job is broken off when another of its kind begins, and when the
//! bench is left.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::Sender;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread;
use std::time::Duration;

use keen_notch_core::{AllRows, Gathered, Plan, Scratch};
use keen_notch_table::{
    AllRowsAgain, Evaluating, RowFinder, TableError, each_row_of, evaluate_rows,
};

use super::count::{Counted, CountedPart};
use super::cuts::first_sentence;
use super::learn::{self, Asked, Sampled};
use super::look::{Looked, glance, look};
use super::ruler::Answer;
use crate::show::Problem;

/// How long a job sleeps that waits for all rows to be found.
const WAIT: Duration = Duration::from_millis(10);

/// What a job reports.
pub enum Report {
    /// All rows were found, or why not.
    Found(Option<String>),
    Looked(Looked),
    /// What each column holds, in a few words.
    Glanced(Vec<String>),
    /// A count is done: what must be known of all rows to judge one.
    Counted(Option<Arc<AllRows>>),
    Learnt(Answer),
    /// The rows that hold a text.
    FoundRows(String, Vec<u32>),
    /// The table was written, or why not.
    Wrote(Result<String, String>),
    /// A job could not be done.
    Failed(String),
}

/// A report, or a key.
pub enum Message {
    Event(crossterm::event::Event),
    /// Nothing can be read from the terminal any more.
    Lost,
    /// Of a job, with what says whether it was broken off since.
    Report(Report, Arc<AtomicBool>),
}

/// A job that is under way.
#[derive(Default)]
struct Running(Option<Arc<AtomicBool>>);

impl Running {
    /// Breaks it off, and returns what the next one is broken off by.
    fn next(&mut self) -> Arc<AtomicBool> {
        self.stop();
        let stop = Arc::new(AtomicBool::new(false));
        self.0 = Some(Arc::clone(&stop));
        stop
    }

    fn stop(&mut self) {
        if let Some(stop) = self.0.take() {
            stop.store(true, Ordering::Relaxed);
        }
    }
}

/// The counts of the cuts in force, as far as they have come.
#[derive(Clone)]
pub struct Counting {
    pub counted: Arc<Mutex<Counted>>,
    pub plan: Arc<Plan>,
}

impl Counting {
    pub fn lock(&self) -> MutexGuard<'_, Counted> {
        self.counted.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

/// The jobs.
pub struct Jobs {
    to: Sender<Message>,
    pub rows: AllRowsAgain,
    finding_rows: Running,
    looking: Running,
    glancing: Running,
    counting: Running,
    learning: Running,
    finding: Running,
    writing: Running,
    sampled: Arc<Mutex<Option<Sampled>>>,
}

impl Jobs {
    pub fn new(to: Sender<Message>, rows: AllRowsAgain) -> Self {
        Self {
            to,
            rows,
            finding_rows: Running::default(),
            looking: Running::default(),
            glancing: Running::default(),
            counting: Running::default(),
            learning: Running::default(),
            finding: Running::default(),
            writing: Running::default(),
            sampled: Arc::default(),
        }
    }

    /// Breaks off everything but what finds the rows and writes.
    pub fn stop(&mut self) {
        let Self { looking, glancing, counting, learning, finding, .. } = self;
        [looking, glancing, counting, learning, finding].into_iter().for_each(Running::stop);
    }

    /// Breaks off everything.
    pub fn stop_all(&mut self) {
        self.stop();
        self.finding_rows.stop();
        self.writing.stop();
    }

    /// The rows are others now.
    pub fn read_again(&mut self, rows: AllRowsAgain, finder: RowFinder) {
        self.stop();
        self.rows = rows;
        self.sampled = Arc::default();
        self.find_rows(finder);
    }

    /// Runs a job; what it reports is of no use once it was broken off.
    fn run(
        &self,
        stop: Arc<AtomicBool>,
        work: impl FnOnce(&AtomicBool) -> Result<Option<Report>, Problem> + Send + 'static,
    ) {
        let to = self.to.clone();
        thread::spawn(move || {
            let report = match work(&stop) {
                Ok(report) => report,
                Err(Problem::Table(TableError::Interrupted)) => None,
                Err(problem) => Some(Report::Failed(first_sentence(&problem))),
            };
            if let Some(report) = report {
                // The receiver is gone when the bench was left.
                let _ = to.send(Message::Report(report, stop));
            }
        });
    }

    /// Finds where all rows lie.
    pub fn find_rows(&mut self, finder: RowFinder) {
        let stop = self.finding_rows.next();
        self.run(stop, move |stop| {
            let problem = match finder.run(stop) {
                Err(TableError::Interrupted) => return Ok(None),
                found => found.err(),
            };
            Ok(Some(Report::Found(problem.map(|error| first_sentence(&error.into())))))
        });
    }

    /// Looks at the column at a place.
    pub fn look(&mut self, column: usize, names: Vec<String>) {
        let (stop, rows) = (self.looking.next(), self.rows.clone());
        self.run(stop, move |stop| {
            wait(&rows, stop)?;
            let Some((first, second)) = rows.open()?.zip(rows.open()?) else {
                return Ok(Some(Report::Looked(Looked::default())));
            };
            let looked = look((first, second), column + rows.before, &names, stop)?;
            Ok(Some(Report::Looked(looked)))
        });
    }

    /// Glances at all columns, for the list to choose from.
    pub fn glance(&mut self, columns: usize) {
        let (stop, rows) = (self.glancing.next(), self.rows.clone());
        self.run(stop, move |stop| {
            wait(&rows, stop)?;
            let Some(table) = rows.open()? else {
                return Ok(Some(Report::Glanced(Vec::new())));
            };
            Ok(Some(Report::Glanced(glance(table, rows.before, columns, stop)?)))
        });
    }

    /// Counts what all rows make of the cuts; the counts so far can be read at any time.
    pub fn count(&mut self, plan: Arc<Plan>) -> Counting {
        let (stop, rows) = (self.counting.next(), self.rows.clone());
        let counting =
            Counting { counted: Arc::new(Mutex::new(Counted::of(&plan))), plan: Arc::clone(&plan) };
        let shared = counting.clone();
        self.run(stop, move |stop| {
            wait(&rows, stop)?;
            let all_rows = gathered(&rows, &plan, stop)?;
            if let Some(table) = rows.open()? {
                let how = Evaluating {
                    plan: &plan,
                    before: rows.before,
                    all_rows: all_rows.clone(),
                    interrupt: stop,
                };
                let merge = |(): &mut (), part: &mut CountedPart| shared.lock().merge(part);
                evaluate_rows(table, &how, (), || CountedPart::of(&plan), merge)?;
            }
            let mut counted = shared.lock();
            counted.tally.conclude(&plan);
            counted.is_whole = true;
            drop(counted);
            Ok(Some(Report::Counted(all_rows)))
        });
        counting
    }

    /// Nothing is in force that could be counted.
    pub fn count_nothing(&mut self) {
        self.counting.stop();
    }

    /// Learns from marked pieces.
    pub fn learn(&mut self, asked: Asked) {
        let (stop, rows) = (self.learning.next(), self.rows.clone());
        let sampled = Arc::clone(&self.sampled);
        self.run(stop, move |stop| {
            wait(&rows, stop)?;
            let mut sampled = sampled.lock().unwrap_or_else(PoisonError::into_inner);
            let answer = learn::answer(&asked, &rows, &mut sampled, stop)?;
            Ok(Some(Report::Learnt(answer)))
        });
    }

    /// Finds the rows for which `holds` says so; `at` reads a row.
    pub fn find(
        &mut self,
        text: String,
        mut holds: impl FnMut(&AtomicBool) -> Vec<u32> + Send + 'static,
    ) {
        let stop = self.finding.next();
        self.run(stop, move |stop| {
            let rows = holds(stop);
            Ok(Some(Report::FoundRows(text, rows)))
        });
    }

    /// Writes.
    pub fn write(
        &mut self,
        work: impl FnOnce(&AtomicBool) -> Result<String, Problem> + Send + 'static,
    ) {
        let stop = self.writing.next();
        self.run(stop, move |stop| {
            Ok(Some(Report::Wrote(work(stop).map_err(|problem| first_sentence(&problem)))))
        });
    }
}

impl Drop for Jobs {
    fn drop(&mut self) {
        self.stop_all();
    }
}

/// Waits until all rows were found where a pass over them must.
fn wait(rows: &AllRowsAgain, stop: &AtomicBool) -> Result<(), TableError> {
    while rows.must_wait() {
        if stop.load(Ordering::Relaxed) {
            return Err(TableError::Interrupted);
        }
        thread::sleep(WAIT);
    }
    Ok(())
}

/// What must be known of all rows before one is judged; `None` where nothing must.
fn gathered(
    rows: &AllRowsAgain,
    plan: &Plan,
    stop: &AtomicBool,
) -> Result<Option<Arc<AllRows>>, TableError> {
    let Some(table) = plan.needs_all_rows().then(|| rows.open()).transpose()?.flatten() else {
        return Ok(None);
    };
    let (mut gathered, mut scratch) = (Gathered::default(), Scratch::default());
    let columns: Vec<usize> =
        plan.sources().iter().map(|source| source.index + rows.before).collect();
    each_row_of(table, &columns, |row, _, cells| {
        if stop.load(Ordering::Relaxed) {
            return Err(TableError::Interrupted);
        }
        if let Ok(cells) = cells {
            plan.gather(cells.iter().map(AsRef::as_ref), row, &mut scratch, &mut gathered);
        }
        Ok(())
    })?;
    Ok(Some(Arc::new(gathered.finish())))
}
