//! Files that are not whole yet: written under a name of their own, and gone when the work ends
//! otherwise than well.
//!
//! A part is called `.notch-PID-…` after the process that writes it. The names of all parts of this
//! process are kept, so that a signal or a panic can take them away; what a killed process has left
//! is taken away by a later one that writes into the same folder.

use std::cell::Cell;
use std::fs::{self, File};
use std::io;
use std::ops::Deref;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use tempfile::{NamedTempFile, TempPath};

/// How the name of every part begins.
const BEGINNING: &str = ".notch-";
/// A part that was not written to for so long may be removed.
const ABANDONED: Duration = Duration::from_secs(60 * 60);

static PARTS: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());
static PUBLISHING: Mutex<()> = Mutex::new(());
static PUBLISHED: AtomicBool = AtomicBool::new(false);
static UNSYNCED: AtomicBool = AtomicBool::new(false);

/// From now on files are given their names without waiting until they are on the disk.
pub fn do_not_sync() {
    UNSYNCED.store(true, Ordering::Relaxed);
}

/// A part; it is removed when it is dropped.
#[derive(Debug)]
pub struct Part(Option<TempPath>);

impl Part {
    /// A new part in a folder, opened.
    ///
    /// # Errors
    /// It cannot be made there.
    pub(crate) fn create_in(
        folder: &Path,
        permissions: Option<fs::Permissions>,
    ) -> io::Result<(File, Part)> {
        let beginning = format!("{BEGINNING}{}-", std::process::id());
        let mut builder = tempfile::Builder::new();
        builder.prefix(&beginning).suffix(".part");
        if let Some(permissions) = permissions {
            builder.permissions(permissions);
        }
        // No signal comes between making a part and keeping its name.
        let mut parts = lock(&PARTS);
        let (file, path) = builder.tempfile_in(folder).map(NamedTempFile::into_parts)?;
        parts.push(path.to_path_buf());
        Ok((file, Part(Some(path))))
    }

    /// The same in the folder for temporary files.
    ///
    /// # Errors
    /// It cannot be made there.
    pub fn temporary() -> io::Result<(File, Part)> {
        Self::create_in(&std::env::temp_dir(), None)
    }

    /// Returns it its name; what had the name is replaced where that is allowed.
    ///
    /// # Errors
    /// The name cannot be taken.
    pub(crate) fn publish(mut self, target: &Path, may_replace: bool) -> io::Result<Published> {
        let Some(path) = self.0.take() else { return Ok(Published::Yes) };
        let part = path.to_path_buf();
        let persisted =
            if may_replace { path.persist(target) } else { path.persist_noclobber(target) };
        match persisted {
            Ok(()) => {
                forget(&part);
                sync_folder(target).map(|()| Published::Yes)
            }
            Err(error) => {
                self.0 = Some(error.path);
                let is_taken = !may_replace && error.error.kind() == io::ErrorKind::AlreadyExists;
                if is_taken { Ok(Published::NameIsTaken(self)) } else { Err(error.error) }
            }
        }
    }
}

/// Whether a part was given its name.
pub(crate) enum Published {
    Yes,
    /// Something has the name that may not be replaced.
    NameIsTaken(Part),
}

impl Deref for Part {
    type Target = Path;

    fn deref(&self) -> &Path {
        self.0.as_deref().unwrap_or(Path::new(""))
    }
}

impl Drop for Part {
    fn drop(&mut self) {
        if let Some(path) = self.0.take() {
            let name = path.to_path_buf();
            drop(path);
            forget(&name);
        }
    }
}

/// Whether files are to be on the disk before they are given their names.
pub(crate) fn syncs() -> bool {
    !UNSYNCED.load(Ordering::Relaxed)
}

/// Waits until a file is on the disk, but where that is not wanted.
///
/// # Errors
/// It cannot be brought there.
pub(crate) fn sync(file: &File) -> io::Result<()> {
    if syncs() { file.sync_all() } else { Ok(()) }
}

/// Waits until the name of a file is on the disk.
fn sync_folder(file: &Path) -> io::Result<()> {
    let folder =
        file.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    // Other systems than Unix open no folders.
    if cfg!(unix) && syncs() { File::open(folder)?.sync_all() } else { Ok(()) }
}

/// Locks while files are renamed to their final names, or a database that exists is written; the
/// handler of signals waits for it.
pub(crate) fn publishing() -> MutexGuard<'static, ()> {
    lock(&PUBLISHING)
}

/// Takes away all parts of this process, before it ends at once. Waits for files that are given
/// their names; `false` where those of a whole run were, so that there is nothing left to be ended.
pub fn remove_parts() -> bool {
    let _publishing = publishing();
    for part in lock(&PARTS).drain(..) {
        let _ = fs::remove_file(part);
    }
    !PUBLISHED.load(Ordering::Relaxed)
}

/// Takes note that all outputs of a run have their names.
pub(crate) fn all_published() {
    PUBLISHED.store(true, Ordering::Relaxed);
}

thread_local! {
    static GUARDED: Cell<bool> = const { Cell::new(false) };
}

/// Runs what a library may panic at, as some do with broken files.
///
/// # Errors
/// What it said when it panicked.
pub(crate) fn guarded<T>(work: impl FnOnce() -> T) -> Result<T, String> {
    let before = GUARDED.replace(true);
    let done = catch_unwind(AssertUnwindSafe(work));
    GUARDED.set(before);
    done.map_err(|said| {
        let text = said
            .downcast_ref::<String>()
            .map(String::as_str)
            .or(said.downcast_ref::<&str>().copied());
        text.unwrap_or("no more is known").to_owned()
    })
}

/// Whether this thread runs what may panic, which is then told as an error.
pub fn is_guarded() -> bool {
    GUARDED.get()
}

/// Removes the parts that ended processes have left in a folder: those that were not written to for
/// an hour. Returns their names.
pub fn sweep(folder: &Path) -> Vec<PathBuf> {
    let entries = fs::read_dir(folder).into_iter().flatten().filter_map(Result::ok);
    let abandoned = entries.filter(|entry| {
        let name = entry.file_name();
        let process = name.to_str().and_then(|name| {
            name.strip_prefix(BEGINNING)?
                .strip_suffix(".part")?
                .split('-')
                .next()?
                .parse::<u32>()
                .ok()
        });
        let is_old = || {
            entry
                .metadata()
                .and_then(|metadata| metadata.modified())
                .is_ok_and(|at| at.elapsed().is_ok_and(|age| age >= ABANDONED))
        };
        process.is_some_and(is_dead) && is_old()
    });
    abandoned.map(|entry| entry.path()).filter(|path| fs::remove_file(path).is_ok()).collect()
}

/// Whether there is no process of this number any more, where that can be told.
fn is_dead(process: u32) -> bool {
    let processes = Path::new("/proc");
    processes.join("self").exists() && !processes.join(process.to_string()).exists()
}

fn forget(part: &Path) {
    lock(&PARTS).retain(|known| known != part);
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}
