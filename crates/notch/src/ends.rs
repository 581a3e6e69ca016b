//! How the program ends otherwise than well: by a signal, a panic, or a standard output that is
//! closed.

use std::io::Write;
use std::panic::PanicHookInfo;
use std::sync::atomic::{AtomicBool, AtomicI32, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::thread;
use std::time::Duration;

use keen_notch_table::{TableError, is_guarded, remove_parts};
use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM, SIGXFSZ};
use signal_hook::flag;
use signal_hook::iterator::{Handle, Signals};

use crate::show::{self, Problem};

/// The work is to stop.
static INTERRUPTED: AtomicBool = AtomicBool::new(false);
/// The signal that said so.
static SIGNAL: AtomicI32 = AtomicI32::new(SIGINT);
/// The time the work has to stop tidily, which it cannot do while it waits for input.
const PATIENCE: Duration = Duration::from_millis(350);
/// The exit status of a mistake of the program itself (as Rust's runtime has it).
const PANICKED: i32 = 101;
/// The same where something was kept before the end.
const PANICKED_AT_BENCH: i32 = 2;
/// The signals that are handled.
static SIGNALS: OnceLock<Handle> = OnceLock::new();

/// Has a lost terminal handled as the other signals.
pub fn watch_hang_up() {
    if let Some(handle) = SIGNALS.get() {
        // Where that cannot be done it ends the program at once, as it always did.
        let _ = handle.add_signal(SIGHUP);
    }
}

/// What is to be done before the program ends by a signal or a panic.
static LAST: Mutex<Option<Box<dyn FnOnce() + Send>>> = Mutex::new(None);

/// Has something done before the program ends by a signal or a panic, which it then does at once;
/// `None` takes that back.
pub fn before_the_end(last: Option<Box<dyn FnOnce() + Send>>) {
    *LAST.lock().unwrap_or_else(PoisonError::into_inner) = last;
}

/// Does what is to be done before the end; returns whether there was something.
fn do_last() -> bool {
    // The thread that holds the lock is about to end the program as well.
    let last = LAST.try_lock().ok().and_then(|mut last| last.take());
    last.map(|last| last()).is_some()
}

/// From now on a signal lets the work stop tidily, and ends the program where it does not, or at a
/// second signal. Parts of files are taken away in any case.
pub fn watch() {
    std::panic::set_hook(Box::new(panicked));
    // A file that grows beyond its limit is an error of writing, not the end.
    let _ = flag::register(SIGXFSZ, Arc::new(AtomicBool::new(false)));
    // Where no handler can be set a signal ends the program at once, as it always did.
    let Ok(mut signals) = Signals::new([SIGINT, SIGTERM]) else { return };
    let handle = signals.handle();
    drop(SIGNALS.set(handle));
    thread::spawn(move || {
        for signal in signals.forever() {
            SIGNAL.store(signal, Ordering::Relaxed);
            if do_last() {
                remove_parts();
                std::process::exit(interrupted_status().into());
            }
            if INTERRUPTED.swap(true, Ordering::Relaxed) {
                end();
            }
            thread::spawn(|| {
                thread::sleep(PATIENCE);
                end();
            });
        }
    });
}

/// Becomes true when the work is to stop.
pub fn interrupted() -> &'static AtomicBool {
    &INTERRUPTED
}

/// The exit status of a program that was ended by a signal: 128 and its number.
pub fn interrupted_status() -> u8 {
    u8::try_from(128 + SIGNAL.load(Ordering::Relaxed)).unwrap_or(130)
}

/// Ends the program without the work, unless all of it is done by now.
fn end() {
    if remove_parts() {
        show::say(Problem::from(TableError::Interrupted));
        std::process::exit(interrupted_status().into());
    }
}

/// Says of a panic what it means, and ends the program.
fn panicked(info: &PanicHookInfo<'_>) {
    // What a library does with a broken file is told as that.
    if is_guarded() {
        return;
    }
    // The folder in which the program was built is left out.
    let file = |path: &str| {
        path.rsplit(['/', '\\'])
            .take(3)
            .collect::<Vec<_>>()
            .into_iter()
            .rev()
            .collect::<Vec<_>>()
            .join("/")
    };
    let place = info
        .location()
        .map_or(String::new(), |place| format!(" ({}:{})", file(place.file()), place.line()));
    let payload = info.payload();
    let said = payload.downcast_ref::<String>().map(String::as_str);
    let said = said.or(payload.downcast_ref::<&str>().copied());
    let was_at_work = do_last();
    remove_parts();
    let mut err = std::io::stderr();
    let _ = writeln!(
        err,
        "Stopped: a mistake of notch itself{place}: {}.\nNothing was written, and what was there \
        before is as it was. Please report it with the command and the first rows of the table.",
        said.unwrap_or("no more is known").trim_end_matches('.')
    );
    std::process::exit(if was_at_work { PANICKED_AT_BENCH } else { PANICKED });
}
