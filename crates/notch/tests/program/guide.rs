//! Every command of the guide is run, and what it prints is what the guide shows.

use std::path::{Path, PathBuf};
use std::process::Command;

use super::support::{Folder, SECONDS};

/// What a command line prints when a shell runs it in the folder with the demo tables.
fn printed(line: &str, folder: &Path) -> String {
    let program = assert_cmd::cargo::cargo_bin("notch");
    let path = std::env::join_paths(
        [program.parent().unwrap().to_owned()]
            .into_iter()
            .chain(std::env::split_paths(&std::env::var_os("PATH").unwrap())),
    );
    let output = Command::new("sh")
        .args(["-c", &format!("{line} 2>&1")])
        .env("PATH", path.unwrap())
        .env(SECONDS.0, SECONDS.1)
        .current_dir(folder)
        .output()
        .unwrap();
    String::from_utf8(output.stdout).unwrap()
}

/// To write the outputs anew: `UPDATE_GUIDE=1 cargo test -p notch --test program guide`.
#[test]
fn the_guide_shows_what_its_commands_print() {
    let folder = Folder::demo();
    let page = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/guide.md");
    let guide = std::fs::read_to_string(&page).unwrap();
    let mut fresh = String::new();
    let mut in_console = false;
    let mut commands = 0;
    for line in guide.lines() {
        match line {
            "```console" => in_console = true,
            "```" => in_console = false,
            _ => {}
        }
        let command = line.strip_prefix("$ ").filter(|_| in_console);
        if in_console && line != "```console" && command.is_none() {
            continue;
        }
        // A blank line between one command's output and the next command.
        if command.is_some() && !fresh.ends_with("```console\n") {
            fresh.push('\n');
        }
        fresh.push_str(line);
        fresh.push('\n');
        if let Some(command) = command {
            commands += 1;
            fresh.push_str(printed(command, &folder.path("")).trim_end_matches('\n'));
            fresh.push('\n');
        }
    }
    assert!(commands > 25, "{commands} commands were found");
    if std::env::var_os("UPDATE_GUIDE").is_some() {
        std::fs::write(&page, &fresh).unwrap();
    } else {
        assert!(guide == fresh, "the guide is out of date; write it anew with UPDATE_GUIDE=1");
    }
}
