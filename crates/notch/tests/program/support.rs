//! A folder to run the program in.

use std::fmt::Write;
use std::fs;
use std::path::PathBuf;

use assert_cmd::Command;
use tempfile::TempDir;

/// A temporary folder; what is run in it is written down as it would look on a screen.
pub struct Folder {
    folder: TempDir,
    pub screen: String,
}

/// No search is broken off because the machine has other things to do.
pub const SECONDS: (&str, &str) = ("NOTCH_SECONDS", "60");

impl Folder {
    pub fn with(files: &[(&str, &str)]) -> Self {
        let folder = Self { folder: TempDir::new().unwrap(), screen: String::new() };
        for (name, text) in files {
            folder.write(name, text.as_bytes());
        }
        folder
    }

    /// A folder with the demo tables.
    pub fn demo() -> Self {
        let folder = Self::with(&[]);
        let tables = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../demo");
        for entry in fs::read_dir(tables).unwrap() {
            let entry = entry.unwrap();
            fs::copy(entry.path(), folder.path(entry.file_name().to_str().unwrap())).unwrap();
        }
        folder
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub fn write(&self, name: &str, bytes: &[u8]) {
        fs::write(self.path(name), bytes).unwrap();
    }

    pub fn read(&self, name: &str) -> String {
        String::from_utf8(fs::read(self.path(name)).unwrap()).unwrap()
    }

    /// Runs the program: its standard output, standard error and exit status.
    pub fn run(&self, args: &[&str], input: &[u8]) -> (Vec<u8>, String, i32) {
        let output = Command::cargo_bin("notch")
            .unwrap()
            .current_dir(self.folder.path())
            .env(SECONDS.0, SECONDS.1)
            .args(args)
            .write_stdin(input)
            .output()
            .unwrap();
        (output.stdout, String::from_utf8(output.stderr).unwrap(), output.status.code().unwrap())
    }

    /// Runs the program; what it printed, and its exit status where that is not 2.
    pub fn said(&self, args: &[&str]) -> String {
        let (out, err, status) = self.run(args, b"");
        let out = String::from_utf8(out).unwrap();
        let status = if status == 2 { String::new() } else { format!("status {status}\n") };
        format!("{out}{err}{status}")
    }

    /// Runs the program and adds what it printed to the screen.
    pub fn show(&mut self, args: &[&str]) {
        let (out, err, status) = self.run(args, b"");
        let out = String::from_utf8_lossy(&out).into_owned();
        writeln!(self.screen, "$ notch {}", args.join(" ")).unwrap();
        for (name, text) in [("", out), ("said: ", err)] {
            for line in text.lines() {
                writeln!(self.screen, "{name}{line}").unwrap();
            }
        }
        writeln!(self.screen, "status {status}\n").unwrap();
    }

    /// Adds a file to the screen.
    pub fn show_file(&mut self, name: &str) {
        let text = self.read(name);
        writeln!(self.screen, "[{name}]\n{text}").unwrap();
    }
}
