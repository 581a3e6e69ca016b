//! The workbench as built, in a pseudo-terminal: sessions as people have them, what may be odd, and
//! how it ends.
#![cfg(unix)]
#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that fails says so by panicking")]

mod ends;
mod odd;
mod sessions;
mod terminal;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use tempfile::TempDir;

/// A folder with the tables of the demo.
fn demo() -> TempDir {
    let folder = TempDir::new().unwrap();
    let tables = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    for entry in fs::read_dir(tables).unwrap() {
        let path = entry.unwrap().path();
        if path.is_file() {
            fs::copy(&path, folder.path().join(path.file_name().unwrap())).unwrap();
        }
    }
    folder
}

/// Runs a command that was printed, as a shell does.
fn run_printed(folder: &Path, command: &str) -> Output {
    let program = env!("CARGO_BIN_EXE_notch");
    let line = command.replacen("notch", program, 1);
    Command::new("sh").args(["-c", &line]).current_dir(folder).output().unwrap()
}

/// What the program makes of arguments.
fn notch(folder: &Path, args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_notch")).args(args).current_dir(folder).output().unwrap()
}
