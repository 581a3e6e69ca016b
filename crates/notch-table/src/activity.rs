//! What a thread is at, for the message of a budget that is exceeded.

use std::cell::Cell;

thread_local! {
    static ACTIVITY: Cell<&'static str> = const { Cell::new("the work") };
}

/// What this thread is at, as the subject of a sentence: `reading the table`.
pub fn activity() -> &'static str {
    ACTIVITY.get()
}

/// Does the work under that name, and returns what it returns.
pub(crate) fn during<T>(activity: &'static str, work: impl FnOnce() -> T) -> T {
    let before = ACTIVITY.replace(activity);
    let done = work();
    ACTIVITY.set(before);
    done
}
