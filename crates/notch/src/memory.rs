//! The budget of memory of a run: an allocator that counts what is held, and ends the program with
//! a sentence before more is taken.
//!
//! The machine itself would end it without one, and other programs with it. What single rows, cells
//! and files may take is bounded where they are read; the budget is for what adds up, and for what
//! a library takes on the word of a broken file.
//!
//! Each thread counts for itself and adds to the common count once it has [`SHARE`] bytes, so that
//! threads do not wait for one another: the count is wrong by that much a thread at most.
#![allow(
    unsafe_code,
    reason = "the interface of allocators is unsafe; every call is passed on with its arguments \
        unchanged"
)]

use std::alloc::{GlobalAlloc, Layout, System};
use std::cell::Cell;
use std::fs;
use std::sync::atomic::{AtomicBool, AtomicI64, Ordering};
use std::thread;
use std::time::Duration;

use keen_notch_table::{activity, remove_parts};

use crate::show::{self, Problem};

/// Counts the bytes that are held, and keeps them within the budget.
struct Counting;

#[global_allocator]
static ALLOCATOR: Counting = Counting;

/// The bytes that are held.
static HELD: AtomicI64 = AtomicI64::new(0);
/// The bytes that may be held.
static BUDGET: AtomicI64 = AtomicI64::new(i64::MAX);
/// The budget was exceeded: what the message about that takes is not held against it.
static EXCEEDED: AtomicBool = AtomicBool::new(false);
/// From that many bytes on a thread adds to the common count.
const SHARE: i64 = 256 * 1024;
/// The least budget that is taken from the size of the machine: 512 MB.
const LEAST: u64 = 512_000_000;
/// The time the message and the removal of parts may take.
const PATIENCE: Duration = Duration::from_secs(5);

thread_local! {
    /// What the thread holds more, or less, than it has added to the common count.
    static UNCOUNTED: Cell<i64> = const { Cell::new(0) };
}

/// Sets the budget in megabytes; a quarter of the machine's memory, but not below 512 MB, when
/// `None`.
pub fn set_budget(megabytes: Option<u64>) {
    let bytes = megabytes.map_or_else(
        || machine().map_or(u64::MAX, |bytes| (bytes / 4).max(LEAST)),
        |megabytes| megabytes.saturating_mul(1_000_000),
    );
    BUDGET.store(i64::try_from(bytes).unwrap_or(i64::MAX), Ordering::Relaxed);
}

/// The memory of the machine, or what its system grants this program, in bytes; `None` where that
/// is not known.
fn machine() -> Option<u64> {
    let text = |path| fs::read_to_string(path).ok();
    let total = text("/proc/meminfo").and_then(|text| {
        let line = text.lines().find(|line| line.starts_with("MemTotal:"))?;
        Some(line.split_whitespace().nth(1)?.parse::<u64>().ok()? * 1024)
    });
    let granted = text("/sys/fs/cgroup/memory.max").and_then(|text| text.trim().parse().ok());
    total.into_iter().chain(granted).min()
}

/// Counts `bytes` that are taken, or given back where it is below zero.
fn count(bytes: i64) {
    let uncounted = UNCOUNTED.get() + bytes;
    if uncounted.abs() < SHARE {
        UNCOUNTED.set(uncounted);
        return;
    }
    UNCOUNTED.set(0);
    let held = HELD.fetch_add(uncounted, Ordering::Relaxed) + uncounted;
    if uncounted > 0
        && held > BUDGET.load(Ordering::Relaxed)
        && !EXCEEDED.swap(true, Ordering::Relaxed)
    {
        exceeded(bytes);
    }
}

/// Ends the program with a sentence; in another thread, for this one may hold what that takes.
#[cold]
fn exceeded(bytes: i64) {
    let activity = activity();
    let budget = BUDGET.load(Ordering::Relaxed) / 1_000_000;
    thread::spawn(move || {
        remove_parts();
        let asked = match bytes / 1_000_000 {
            0 => String::new(),
            megabytes => format!(", and asked for {megabytes} MB at once"),
        };
        show::say(Problem::said(
            format!(
                "this takes more than {budget} MB of memory: {activity} took more than was \
                left{asked}. Nothing was written."
            ),
            format!(
                "Allow it more, in MB, where the machine has it: --memory {}.",
                budget.saturating_mul(4)
            ),
        ));
        std::process::exit(2);
    });
    thread::sleep(PATIENCE);
    std::process::exit(2);
}

fn size(layout: Layout) -> i64 {
    i64::try_from(layout.size()).unwrap_or(i64::MAX)
}

// SAFETY: all four pass their arguments on to the system's allocator unchanged and return what it
// returns.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        count(size(layout));
        unsafe { System.alloc(layout) }
    }

    unsafe fn alloc_zeroed(&self, layout: Layout) -> *mut u8 {
        count(size(layout));
        unsafe { System.alloc_zeroed(layout) }
    }

    unsafe fn dealloc(&self, pointer: *mut u8, layout: Layout) {
        count(-size(layout));
        unsafe { System.dealloc(pointer, layout) };
    }

    unsafe fn realloc(&self, pointer: *mut u8, layout: Layout, new_size: usize) -> *mut u8 {
        count(i64::try_from(new_size).unwrap_or(i64::MAX).saturating_sub(size(layout)));
        unsafe { System.realloc(pointer, layout, new_size) }
    }
}
