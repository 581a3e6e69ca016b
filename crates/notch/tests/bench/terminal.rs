//! The built program in a pseudo-terminal, and the screen as a person sees it.

use std::io::{Read, Write};
use std::num::NonZero;
use std::path::Path;
use std::sync::{Arc, Mutex, MutexGuard};
use std::thread;
use std::time::{Duration, Instant};

use portable_pty::{Child, CommandBuilder, MasterPty, PtySize, native_pty_system};

/// A screen that has not changed for so long, and says of no job that it is under way, is done.
const QUIET: Duration = Duration::from_millis(120);
/// A key is answered within this time, or not at all.
const ANSWER: Duration = Duration::from_secs(3);
/// No answer takes longer, on however slow a machine.
const LONGEST: Duration = Duration::from_secs(60);
/// What the screen says while a job is under way.
const AT_WORK: [&str; 6] =
    ["counting", "so far", "learning", "writing", "looking", "rows: the first"];

/// What has come from the program.
struct Sent {
    parser: vt100::Parser,
    bytes: Vec<u8>,
    last: Instant,
}

/// The bench in a terminal.
pub struct Terminal {
    sent: Arc<Mutex<Sent>>,
    keys: Box<dyn Write + Send>,
    master: Box<dyn MasterPty + Send>,
    child: Box<dyn Child + Send + Sync>,
}

impl Terminal {
    /// Opens `notch bench` with these arguments in a folder.
    pub fn open(folder: &Path, args: &[&str], size: (u16, u16)) -> Self {
        Self::open_with(folder, args, size, &[])
    }

    /// The same with variables of the environment.
    pub fn open_with(
        folder: &Path,
        args: &[&str],
        (cols, rows): (u16, u16),
        variables: &[(&str, &str)],
    ) -> Self {
        let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_notch"));
        command.arg("bench");
        command.args(args);
        Self::run(command, folder, (cols, rows), variables)
    }

    /// Runs a command line in a shell, `NOTCH` being the program.
    pub fn shell(folder: &Path, line: &str, size: (u16, u16)) -> Self {
        let mut command = CommandBuilder::new("sh");
        command.args(["-c", line]);
        command.env("NOTCH", env!("CARGO_BIN_EXE_notch"));
        Self::run(command, folder, size, &[])
    }

    fn run(
        mut command: CommandBuilder,
        folder: &Path,
        (cols, rows): (u16, u16),
        variables: &[(&str, &str)],
    ) -> Self {
        let size = PtySize { rows, cols, ..PtySize::default() };
        let terminal = native_pty_system().openpty(size).unwrap();
        command.cwd(folder);
        command.env("TERM", "xterm-256color");
        command.env("LC_ALL", "C.UTF-8");
        command.env_remove("NO_COLOR");
        variables.iter().for_each(|(name, value)| command.env(name, value));
        let child = terminal.slave.spawn_command(command).unwrap();
        drop(terminal.slave);
        let sent = Arc::new(Mutex::new(Sent {
            parser: vt100::Parser::new(size_of(rows), size_of(cols), 0),
            bytes: Vec::new(),
            last: Instant::now(),
        }));
        let (mut reader, to) = (terminal.master.try_clone_reader().unwrap(), Arc::clone(&sent));
        thread::spawn(move || {
            let mut buffer = [0; 1 << 16];
            // On Linux the end of a terminal is told as an error.
            while let Ok(length @ 1..) = reader.read(&mut buffer) {
                let mut sent = to.lock().unwrap();
                sent.parser.process(&buffer[..length]);
                sent.bytes.extend_from_slice(&buffer[..length]);
                sent.last = Instant::now();
            }
        });
        let keys = terminal.master.take_writer().unwrap();
        let mut this = Self { sent, keys, master: terminal.master, child };
        this.settle();
        this
    }

    fn sent(&self) -> MutexGuard<'_, Sent> {
        self.sent.lock().unwrap()
    }

    /// Waits until the screen is done.
    pub fn settle(&mut self) {
        let begun = Instant::now();
        loop {
            thread::sleep(Duration::from_millis(20));
            let (quiet, text) = {
                let sent = self.sent();
                (sent.last.elapsed(), sent.parser.screen().contents())
            };
            let is_at_work = text.is_empty() || AT_WORK.iter().any(|said| text.contains(said));
            let has_ended = self.child.try_wait().unwrap().is_some();
            if quiet >= QUIET && (!is_at_work || has_ended) {
                return;
            }
            assert!(begun.elapsed() < LONGEST, "the screen is not done:\n{text}");
        }
    }

    /// Types a text.
    pub fn type_text(&mut self, text: &str) -> &mut Self {
        self.send(text.as_bytes());
        self
    }

    /// Presses keys by their names, divided by blanks.
    pub fn press(&mut self, names: &str) -> &mut Self {
        for name in names.split_whitespace() {
            let bytes = key(name);
            self.send(bytes.as_bytes());
        }
        self
    }

    /// Sends bytes, and waits until the screen is done.
    pub fn send(&mut self, bytes: &[u8]) {
        let before = self.sent().bytes.len();
        self.keys.write_all(bytes).unwrap();
        self.keys.flush().unwrap();
        // Every key is answered, if only by the cursor; a program that is gone answers no more.
        let begun = Instant::now();
        while self.sent().bytes.len() == before && begun.elapsed() < ANSWER {
            thread::sleep(Duration::from_millis(5));
        }
        self.settle();
    }

    /// The screen, without blanks at the ends of lines, and where the cursor stands.
    pub fn screen(&self) -> String {
        let sent = self.sent();
        let screen = sent.parser.screen();
        let text = screen.contents();
        text.lines().map(str::trim_end).collect::<Vec<_>>().join("\n")
    }

    /// Whether a text stands on the screen.
    pub fn shows(&self, text: &str) -> bool {
        self.screen().contains(text)
    }

    /// Where the cursor stands: the column and the line, from 0.
    pub fn cursor(&self) -> (u16, u16) {
        let (line, column) = self.sent().parser.screen().cursor_position();
        (column, line)
    }

    /// All bytes that came.
    pub fn bytes(&self) -> Vec<u8> {
        self.sent().bytes.clone()
    }

    /// Makes the terminal another size.
    pub fn resize(&mut self, (cols, rows): (u16, u16)) {
        {
            let mut sent = self.sent();
            sent.parser.screen_mut().set_size(size_of(rows), size_of(cols));
            sent.last = Instant::now();
        }
        self.master.resize(PtySize { rows, cols, ..PtySize::default() }).unwrap();
        self.settle();
    }

    /// Sends a signal to the program.
    pub fn signal(&self, name: &str) {
        let pid = self.child.process_id().unwrap().to_string();
        std::process::Command::new("kill").args([&format!("-{name}"), &pid]).status().unwrap();
    }

    /// Waits for the end: the exit status, and what the screen of before shows then.
    pub fn end(mut self) -> (u32, String) {
        let begun = Instant::now();
        let status = loop {
            if let Some(status) = self.child.try_wait().unwrap() {
                break status;
            }
            assert!(begun.elapsed() < LONGEST, "it does not end:\n{}", self.screen());
            thread::sleep(Duration::from_millis(10));
        };
        thread::sleep(Duration::from_millis(50));
        let screen = self.sent();
        assert!(!screen.parser.screen().alternate_screen(), "the terminal was not given back");
        assert!(!screen.parser.screen().hide_cursor(), "the cursor was not given back");
        let text: Vec<String> = screen
            .parser
            .screen()
            .contents()
            .lines()
            .map(|line| line.trim_end().to_owned())
            .collect();
        (status.exit_code(), text.join("\n").trim().to_owned())
    }
}

fn size_of(count: u16) -> NonZero<u16> {
    NonZero::new(count).unwrap()
}

/// The bytes that a terminal of the kind of xterm sends for a key.
fn key(name: &str) -> String {
    let plain = match name {
        "Enter" => "\r",
        "Tab" => "\t",
        "Shift-Tab" => "\x1b[Z",
        "Esc" => "\x1b",
        "Up" => "\x1b[A",
        "Down" => "\x1b[B",
        "Right" => "\x1b[C",
        "Left" => "\x1b[D",
        "Home" => "\x1b[H",
        "End" => "\x1b[F",
        "PageUp" => "\x1b[5~",
        "PageDown" => "\x1b[6~",
        "Delete" => "\x1b[3~",
        "Backspace" => "\x7f",
        "F1" => "\x1bOP",
        "Ctrl-Left" => "\x1b[1;5D",
        "Ctrl-Right" => "\x1b[1;5C",
        "Alt-Left" => "\x1b[1;3D",
        "Alt-Right" => "\x1b[1;3C",
        _ => "",
    };
    match name.strip_prefix("Ctrl-").filter(|letter| letter.len() == 1 && plain.is_empty()) {
        Some(letter) => {
            let letter = letter.to_ascii_lowercase().as_bytes()[0];
            char::from(letter - b'a' + 1).to_string()
        }
        None => {
            assert!(!plain.is_empty(), "there is no key {name}");
            plain.to_owned()
        }
    }
}
