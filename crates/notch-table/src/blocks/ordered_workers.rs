//! Blocks worked on side by side, what becomes of them taken in their order.
//!
//! Each worker reads the next block, works on it, and returns a part. The worker that returns the
//! part whose turn it is writes it, and all that follow and are ready, while the others go on with
//! further blocks. Finding the records of a block is part of taking it: it costs little beside
//! reading, and so every worker knows at once which row and line its block begins with.

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError};
use std::thread;

use super::reader::{Block, Blocks};
use crate::activity::during;
use crate::error::TableError;

/// How many workers there are when nothing is said: one for each core.
pub(crate) fn usual_threads() -> usize {
    thread::available_parallelism().map_or(1, std::num::NonZero::get)
}

/// How the work is done.
pub(crate) struct SideBySide<'w> {
    pub threads: usize,
    /// The name of the table.
    pub name: &'w str,
    /// Becomes true when the work is to stop.
    pub interrupt: Option<&'w AtomicBool>,
}

/// What the workers share. A part is what becomes of a block; the memory of parts that were taken
/// is used again.
struct Shared<P, T> {
    blocks: Mutex<Blocks>,
    parts: Mutex<Parts<P>>,
    /// A part has become free, or the work stops.
    moved: Condvar,
    /// The number of the part that is taken next, and who takes it.
    taker: Mutex<(u64, T)>,
    /// The first thing that went wrong, in the order of the blocks.
    error: Mutex<Option<TableError>>,
    stopped: AtomicBool,
}

struct Parts<P> {
    free: Vec<P>,
    /// Those that wait for their turn, by the number of their block; an error where the block could
    /// not be read.
    ready: BTreeMap<u64, Result<P, TableError>>,
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl SideBySide<'_> {
    /// Works through all blocks: `begin` makes what each worker has of its own, `part` an empty
    /// part, `work` makes a part of a block, and `take` takes the parts in order and leaves them
    /// empty.
    ///
    /// # Errors
    /// The first thing that went wrong, in the order of the blocks: a block that cannot be read, or
    /// what `take` gives.
    pub(crate) fn run<P: Send, T: Send, W>(
        &self,
        blocks: Blocks,
        taker: T,
        part: impl Fn() -> P,
        begin: impl Fn() -> W + Sync,
        work: impl Fn(&mut W, &mut Block, &mut P) + Sync,
        take: impl Fn(&mut T, &mut P) -> Result<(), TableError> + Sync,
    ) -> Result<T, TableError> {
        let shared = Shared {
            blocks: Mutex::new(blocks),
            // With more parts than workers none of them waits long for the slowest block, or for
            // one that writes several parts.
            parts: Mutex::new(Parts {
                free: (0..2 * self.threads + 2).map(|_| part()).collect(),
                ready: BTreeMap::new(),
            }),
            moved: Condvar::new(),
            taker: Mutex::new((0, taker)),
            error: Mutex::new(None),
            stopped: AtomicBool::new(false),
        };
        thread::scope(|scope| {
            let worker = || {
                let _stop = StopOnPanic(&shared);
                self.each_block(&shared, begin(), &work, &take);
            };
            for _ in 1..self.threads {
                scope.spawn(worker);
            }
            worker();
        });
        match shared.error.into_inner().unwrap_or_else(PoisonError::into_inner) {
            Some(error) => Err(error),
            None => Ok(shared.taker.into_inner().unwrap_or_else(PoisonError::into_inner).1),
        }
    }

    fn each_block<P, T, W>(
        &self,
        shared: &Shared<P, T>,
        mut own: W,
        work: &impl Fn(&mut W, &mut Block, &mut P),
        take: &impl Fn(&mut T, &mut P) -> Result<(), TableError>,
    ) {
        let mut block = Block::default();
        // A block is taken only by who has a part for it: so the block whose turn it is never waits
        // for one.
        while let Some(mut part) = shared.free_part() {
            let read = {
                let mut blocks = lock(&shared.blocks);
                if self.interrupt.is_some_and(|interrupt| interrupt.load(Ordering::Relaxed)) {
                    drop(blocks);
                    return shared.stop(TableError::Interrupted);
                }
                during("reading the table", || blocks.next(&mut block))
            };
            let number = block.number;
            let part = match read {
                Ok(true) => {
                    during("working on its rows", || work(&mut own, &mut block, &mut part));
                    Ok(part)
                }
                Ok(false) => return,
                Err(cause) => Err(TableError::io(self.name, "cannot be read", cause)),
            };
            shared.hand_in(number, part, take);
        }
    }
}

impl<P, T> Shared<P, T> {
    /// A free part; `None` when the work has stopped.
    fn free_part(&self) -> Option<P> {
        let mut parts = lock(&self.parts);
        loop {
            if self.stopped.load(Ordering::Acquire) {
                return None;
            }
            match parts.free.pop() {
                Some(part) => return Some(part),
                None => parts = self.moved.wait(parts).unwrap_or_else(PoisonError::into_inner),
            }
        }
    }

    /// Hands in a part, and takes those whose turn it is unless another worker does already.
    fn hand_in(
        &self,
        n: u64,
        part: Result<P, TableError>,
        take: &impl Fn(&mut T, &mut P) -> Result<(), TableError>,
    ) {
        lock(&self.parts).ready.insert(n, part);
        while let Ok(mut taker) = self.taker.try_lock() {
            let ready = lock(&self.parts).ready.remove(&taker.0);
            let taken = match ready {
                None => {
                    let next = taker.0;
                    drop(taker);
                    // A part that came in before the lock was released would stay there.
                    if lock(&self.parts).ready.contains_key(&next) {
                        continue;
                    }
                    return;
                }
                Some(Ok(mut part)) => {
                    during("writing", || take(&mut taker.1, &mut part)).map(|()| part)
                }
                Some(Err(error)) => Err(error),
            };
            match taken {
                Ok(part) => {
                    taker.0 += 1;
                    lock(&self.parts).free.push(part);
                    self.moved.notify_one();
                }
                Err(error) => return self.stop(error),
            }
        }
    }

    fn stop(&self, error: TableError) {
        lock(&self.error).get_or_insert(error);
        self.stopped.store(true, Ordering::Release);
        // A worker holds the lock until it waits, so none misses the call.
        drop(lock(&self.parts));
        self.moved.notify_all();
    }
}

/// Stops all workers when one of them panics: the others would wait for its block.
struct StopOnPanic<'s, P, T>(&'s Shared<P, T>);

impl<P, T> Drop for StopOnPanic<'_, P, T> {
    fn drop(&mut self) {
        if thread::panicking() {
            self.0.stop(TableError::Interrupted);
        }
    }
}
