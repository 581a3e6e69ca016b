//! The terminal: taken when the bench opens, and given back as it was however it ends.

use std::io::{self, BufWriter, IsTerminal, Write};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, MutexGuard, PoisonError, TryLockError};
use std::thread;
use std::time::Duration;

use crossterm::event::{
    DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture,
};
use crossterm::terminal::{self, EnterAlternateScreen, LeaveAlternateScreen};
use crossterm::{cursor, execute};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;

/// Held while something is drawn: what restores the terminal waits for it a while.
static DRAWING: Mutex<()> = Mutex::new(());
/// The terminal is taken.
static TAKEN: AtomicBool = AtomicBool::new(false);
/// It is the one behind standard error.
static ON_ERROR: AtomicBool = AtomicBool::new(false);
/// How often and how long the end waits for a drawing.
const WAITS: (u32, Duration) = (30, Duration::from_millis(10));

/// The terminal as it is drawn on.
pub type Screen = Terminal<CrosstermBackend<BufWriter<Out>>>;

/// Standard output or standard error, whichever is the terminal.
pub struct Out;

impl Write for Out {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match ON_ERROR.load(Ordering::Relaxed) {
            true => io::stderr().write(bytes),
            false => io::stdout().write(bytes),
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        match ON_ERROR.load(Ordering::Relaxed) {
            true => io::stderr().flush(),
            false => io::stdout().flush(),
        }
    }
}

/// Whether there is a terminal to draw on and to read keys from.
pub fn is_there(table_is_standard_input: bool) -> bool {
    let is_dumb = std::env::var_os("TERM").is_some_and(|term| term == "dumb");
    let draws = io::stdout().is_terminal() || io::stderr().is_terminal();
    let reads = io::stdin().is_terminal()
        || table_is_standard_input && std::fs::File::open("/dev/tty").is_ok();
    draws && reads && !is_dumb
}

/// Takes the terminal.
///
/// # Errors
/// It cannot be written to.
pub fn take() -> io::Result<Screen> {
    ON_ERROR.store(!io::stdout().is_terminal(), Ordering::Relaxed);
    terminal::enable_raw_mode()?;
    TAKEN.store(true, Ordering::Relaxed);
    execute!(Out, EnterAlternateScreen, EnableBracketedPaste, EnableMouseCapture)?;
    Terminal::new(CrosstermBackend::new(BufWriter::with_capacity(1 << 16, Out)))
}

/// Takes the mouse, or gives it back.
pub fn mouse(wanted: bool) {
    let _ = match wanted {
        true => execute!(Out, EnableMouseCapture),
        false => execute!(Out, DisableMouseCapture),
    };
}

/// While this is held nothing gives the terminal back.
pub fn drawing() -> MutexGuard<'static, ()> {
    DRAWING.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Gives the terminal back as it was; nothing is drawn afterwards. Once is enough.
pub fn give_back() {
    let mut held = None;
    for _ in 0..WAITS.0 {
        match DRAWING.try_lock() {
            Ok(lock) => held = Some(lock),
            Err(TryLockError::Poisoned(lock)) => held = Some(lock.into_inner()),
            Err(TryLockError::WouldBlock) => {
                thread::sleep(WAITS.1);
                continue;
            }
        }
        break;
    }
    if !TAKEN.swap(false, Ordering::Relaxed) {
        return;
    }
    // A terminal that is gone takes nothing back.
    let _ = execute!(
        Out,
        DisableMouseCapture,
        DisableBracketedPaste,
        LeaveAlternateScreen,
        cursor::Show
    );
    let _ = terminal::disable_raw_mode();
    // What still wants to draw waits until the program has ended.
    std::mem::forget(held);
}

/// Whether the terminal shows more than ASCII: what the locale says, as POSIX orders its variables
/// (POSIX.1-2017, Base Definitions, section 8.2).
pub fn is_unicode() -> bool {
    let said = ["LC_ALL", "LC_CTYPE", "LANG"]
        .into_iter()
        .filter_map(|name| std::env::var(name).ok())
        .find(|value| !value.is_empty());
    match said {
        Some(locale) => {
            let locale = locale.to_uppercase();
            locale.contains("UTF-8") || locale.contains("UTF8")
        }
        None => false,
    }
}
