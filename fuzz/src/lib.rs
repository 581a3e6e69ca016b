//! What the targets of the readers have in common: bytes as a file, read as a table to its end.

use std::io::Write;
use std::path::Path;

use keen_notch_core::{Plan, PlanOptions, parse_assignment};
use keen_notch_table::{
    Carving, NewFile, OutColumn, ReadOptions, RowsOut, Source, Table, carve, samples,
};
use tempfile::NamedTempFile;

/// From now on a panic ends the program, unless the readers catch it: libFuzzer's own hook would
/// end it in any case.
pub fn catch_what_the_readers_catch() {
    drop(std::panic::take_hook());
    let usual = std::panic::take_hook();
    std::panic::set_hook(Box::new(move |panic| {
        if !keen_notch_table::is_guarded() {
            usual(panic);
            std::process::abort();
        }
    }));
}

/// Runs `work` on a file of these bytes. It lies in memory where the system has a folder for that.
pub fn with_file(bytes: &[u8], ending: &str, work: impl FnOnce(&Path)) {
    let memory = Path::new("/dev/shm");
    let folder = if memory.is_dir() { memory.to_owned() } else { std::env::temp_dir() };
    let Ok(mut file) = tempfile::Builder::new().suffix(ending).tempfile_in(folder) else { return };
    if file.write_all(bytes).is_ok() {
        work(NamedTempFile::path(&file));
    }
}

/// Reads a table to its end in both ways there are: row by row, and as blocks side by side. Both
/// must read the same number of rows, or both say that it cannot be read.
pub fn read(path: &Path, options: &ReadOptions) {
    let source = Source::File(path.to_owned());
    let Ok(table) = Table::open(&source, options) else { return };
    let _ = samples(table, 0, keen_notch_core::shape);
    let carved = |threads: usize, block: Option<usize>| {
        let options = ReadOptions { threads: Some(threads), ..options.clone() };
        let table = Table::open(&source, &options).ok()?;
        let first = table.columns().first()?.clone();
        let cut = parse_assignment("a piece of it = first 2").ok()?;
        let plan = Plan::compile(
            &[cut],
            table.columns(),
            &PlanOptions { start: Some(first), ..PlanOptions::default() },
        )
        .ok()?;
        let columns =
            (0..table.columns().len()).map(OutColumn::Source).chain([OutColumn::New(0)]).collect();
        let carving = Carving { block, lists_unreadable: true, ..Carving::new(&plan, columns) };
        let out = NewFile::create(Path::new("/dev/null")).ok()?;
        carve(table, &carving, Box::new(RowsOut::new(out)))
            .ok()
            .map(|done| (done.read, done.unreadable))
    };
    let small = carved(1, Some(64));
    let usual = carved(2, None);
    assert_eq!(small, usual, "blocks of another size");
}
