//! How far the work has come, on a terminal, when it takes more than a second.

use std::io::IsTerminal;
use std::sync::Mutex;
use std::sync::PoisonError;
use std::time::{Duration, Instant};

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use keen_notch_table::{Progress, Source, Table};

/// Nothing is shown before.
const PATIENCE: Duration = Duration::from_secs(1);

/// A line that says how far the work has come.
pub struct Bar {
    begun: Instant,
    bar: Mutex<Option<ProgressBar>>,
    wanted: bool,
    /// The size of the input in bytes, where it is known.
    size: Option<u64>,
}

impl Bar {
    /// For work on a table; nothing is drawn where standard error is no terminal.
    pub fn new(source: &Source, table: &Table, quiet: bool) -> Self {
        let path = source.path().filter(|_| table.is_as_it_lies());
        let size = path
            .and_then(|path| path.metadata().ok())
            .filter(|metadata| metadata.is_file())
            .map(|metadata| metadata.len());
        Self {
            begun: Instant::now(),
            bar: Mutex::new(None),
            wanted: !quiet && std::io::stderr().is_terminal(),
            size,
        }
    }

    /// Notes what was done.
    pub fn moved(&self, done: Progress) {
        if !self.wanted {
            return;
        }
        let mut bar = self.bar.lock().unwrap_or_else(PoisonError::into_inner);
        let bar = bar.get_or_insert_with(|| {
            ProgressBar::with_draw_target(self.size, ProgressDrawTarget::hidden())
        });
        bar.inc(done.bytes);
        if bar.is_hidden() && self.begun.elapsed() >= PATIENCE {
            let form = if self.size.is_some() {
                "{msg} rows  {percent}%  {binary_bytes_per_sec}  {eta} left"
            } else {
                "{msg} rows  {bytes}  {binary_bytes_per_sec}"
            };
            if let Ok(style) = ProgressStyle::with_template(form) {
                bar.set_style(style);
            }
            bar.set_draw_target(ProgressDrawTarget::stderr());
        }
        bar.set_message(done.rows.to_string());
    }

    /// Takes the line away.
    pub fn clear(&self) {
        if let Some(bar) = self.bar.lock().unwrap_or_else(PoisonError::into_inner).take() {
            bar.finish_and_clear();
        }
    }
}
