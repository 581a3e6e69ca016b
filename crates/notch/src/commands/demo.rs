//! `notch demo`: the tables of the Fernhollow Seed Bank, and an example run on them step by step.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::Parser;
use keen_notch_table::TableError;

use crate::cli::{Cli, Demo};
use crate::show::style::{self, set};
use crate::show::{Problem, fold, print, shell_word};

/// The demo files, carried inside the program.
const FILES: [(&str, &str); 8] = [
    ("lots.toml", include_str!("../../../../demo/lots.toml")),
    ("lots.csv", include_str!("../../../../demo/lots.csv")),
    ("lots-may.csv", include_str!("../../../../demo/lots-may.csv")),
    ("keepers.csv", include_str!("../../../../demo/keepers.csv")),
    ("parcels.csv", include_str!("../../../../demo/parcels.csv")),
    ("parcels.toml", include_str!("../../../../demo/parcels.toml")),
    ("ledger.txt", include_str!("../../../../demo/ledger.txt")),
    ("genera.csv", include_str!("../../../../demo/genera.csv")),
];

/// The example: what is said, and the command it leads to.
const STEPS: [(&str, &[&str]); 12] = [
    (
        "A lot code such as FH-2019-BRA-00417-7 is house, year, genus, serial number and check digit. Before cutting, see where the \
         notches of a cut fall: one row of each shape the column has, the commonest first.",
        &[
            "trace",
            "part 4 of 5 by \"-\" | pad left 8 with \"0\"",
            "-t",
            "lots.csv",
            "-c",
            "lot",
            "--samples",
            "3",
        ],
    ),
    (
        "Take the code apart at the hyphens. The preview shows the first rows; the summary counts them all and says which did not fit.",
        &[
            "carve",
            "lots.csv",
            "-c",
            "lot",
            "house, year, genus, serial, digit = parts by \"-\"",
            "--preview",
            "5",
        ],
    ),
    (
        "Some codes have slashes, blanks or sections too few. Say how many sections are expected, what to try else, and bring the \
         pieces to one form. The rows that still do not fit are left blank and counted, never filled with rubbish.",
        &[
            "carve",
            "lots.csv",
            "-c",
            "lot",
            "year = part 2 of 5 by \"-\" else part 2 of 5 by \"/\" then trim",
            "serial = part 4 of 5 by \"-\" else part 4 of 5 by \"/\" then trim | pad left 8 with \"0\"",
            "label = \"{year}/{serial}\"",
            "--preview",
            "5",
        ],
    ),
    (
        "The same without writing a cut: show what is to come out of one cell. The best cuts are told, and where they part.",
        &["learn", "lots.csv", "-c", "lot", "GR-2026-TIL-43546-7 => 00043546"],
    ),
    (
        "Names, addresses and badges: a single name stays whole, a domain is lower case, a badge's team is its third section.",
        &[
            "carve",
            "keepers.csv",
            "first = {name} | trim | before \" \" or end",
            "last = {name} | trim | after last \" \" else \"\"",
            "domain = {email} | after last \"@\" | lower",
            "team = {badge} | part 3 by \"-\" | trim | upper",
            "--preview",
            "5",
        ],
    ),
    (
        "Courier notes are written in eight ways. A layout is what the texts of one way have in common, with slots for what varies; the \
         odd ones follow, then what stands before numbers, and cuts that suit.",
        &["survey", "parcels.csv", "-c", "note"],
    ),
    (
        "Courier notes: the number after the label REF in any case, but not the ref inside “preferred”; where there is none, the \
         invoice number.",
        &[
            "carve",
            "parcels.csv",
            "-c",
            "note",
            "ref = number after word \"ref\" ignoring case else number after \"INV-\" ignoring case else \"none\"",
            "--columns",
            "parcel,note,ref",
            "--preview",
            "5",
        ],
    ),
    (
        "Charges as houses in three countries write them, and credits as their accounts do. Each number is read by its own marks; where \
         that leaves doubt, the value is written and the row is a finding.",
        &[
            "carve",
            "parcels.csv",
            "-j",
            "parcels.toml",
            "--columns",
            "parcel,charge,amount,currency",
            "--preview",
            "6",
        ],
    ),
    (
        "What was worth typing is worth keeping: lots.toml is a jig, a file of cuts with what is expected of the table. A lot that is not \
         five sections is one finding and yields no pieces.",
        &["carve", "lots.csv", "-j", "lots.toml", "--only", "--preview", "5"],
    ),
    (
        "Next month the same table comes again with new rows. Is everything as the jig expects? Unknown houses, slips in a number, the same \
         lot twice; and a supplier who has begun to write longer numbers, which no rule forbids: the jig remembers what was usual.",
        &["check", "lots-may.csv", "-j", "lots.toml"],
    ),
    (
        "Into a workbook: codes keep their zeros because text stays text, dates become dates, cells with a finding are tinted and say why \
         in a note, and a second sheet lists the findings. A workbook is read like any other table.",
        &[
            "carve",
            "keepers.csv",
            "-c",
            "badge",
            "number = part 2 by \"-\" | trim | check is digits and length 5",
            "joined = {since} | date \"DDMMYYYY\" | as date",
            "-o",
            "keepers.xlsx",
        ],
    ),
    (
        "For keeps: the new table, a list of all findings, and the odd rows in a file of their own, to be mended and run again.",
        &[
            "carve",
            "lots.csv",
            "-c",
            "lot",
            "house, year, genus, serial, digit = parts by \"-\"",
            "-o",
            "lots-cut.csv",
            "--findings",
            "lots-findings.csv",
            "--rejects",
            "lots-odd.csv",
        ],
    ),
];

/// Writes the tables and runs the steps, each by `run_command`.
pub fn run(
    args: &Demo,
    run_command: fn(&Cli) -> Result<ExitCode, Problem>,
) -> Result<ExitCode, Problem> {
    let written = write_files(&args.folder, args.force)?;
    let folder = args.folder.display();
    print(format_args!(
        "{}\n",
        set(style::STRONG, "Fernhollow Seed Bank: a demonstration of Keen Notch")
    ))?;
    let done = match written {
        0 => format!("The demo files are in {folder} already."),
        n => format!("{n} demo files were written to {folder}."),
    };
    print(format_args!(
        "{done} The commands below run in that folder; try them there, and change them.\n\n"
    ))?;
    std::env::set_current_dir(&args.folder).map_err(|cause| failed(&args.folder, cause))?;
    for (n, (said, command)) in STEPS.iter().enumerate() {
        print(format_args!("{}. {}\n\n", n + 1, fold(said, 100, 3)))?;
        print(format_args!("{}\n\n", set(style::COMMAND, typed(command))))?;
        let parsed = Cli::try_parse_from(std::iter::once(&"notch").chain(*command))
            .map_err(|error| Problem::said(error.to_string(), "This is a mistake in the demo."))?;
        // Exit status 1 of a check belongs to the example.
        run_command(&parsed)?;
        print("\n")?;
    }
    print(format_args!("The files are in {folder}. All steps of the language: notch words\n"))?;
    let lots = shell_word(&args.folder.join("lots.csv").display().to_string());
    print(format_args!("Type cuts of your own and see what comes out: notch bench {lots}\n"))?;
    Ok(ExitCode::SUCCESS)
}

/// Writes the files that are not there yet; returns how many.
fn write_files(folder: &Path, force: bool) -> Result<usize, Problem> {
    fs::create_dir_all(folder).map_err(|cause| failed(folder, cause))?;
    let mut missing: Vec<(PathBuf, &str)> = Vec::new();
    let mut changed = Vec::new();
    for (name, text) in FILES {
        let path = folder.join(name);
        match fs::read(&path) {
            Ok(there) if there == text.as_bytes() => {}
            Ok(_) if !force => changed.push(name),
            Ok(_) => missing.push((path, text)),
            Err(cause) if cause.kind() == std::io::ErrorKind::NotFound => {
                missing.push((path, text))
            }
            Err(cause) => return Err(failed(&path, cause)),
        }
    }
    if !changed.is_empty() {
        return Err(Problem::said(
            format!(
                "in {} these demo files have been changed: {}.",
                folder.display(),
                changed.join(", ")
            ),
            "Nothing was written. Overwrite them with --force, or name another folder: notch demo FOLDER.",
        ));
    }
    for (path, text) in &missing {
        let mut file = keen_notch_table::NewFile::create(path)?;
        file.write(text.as_bytes())?;
        file.finish()?;
    }
    Ok(missing.len())
}

fn failed(path: &Path, cause: std::io::Error) -> Problem {
    TableError::Io { name: path.display().to_string(), what: "cannot be used", cause }.into()
}

/// A command as it is typed; a long one with each cut and each later option on a line of its own.
fn typed(command: &[&str]) -> String {
    let words: Vec<String> =
        std::iter::once("notch").chain(command.iter().copied()).map(shell_word).collect();
    let line = words.join(" ");
    if line.len() <= 100 {
        return line;
    }
    let mut lines = String::new();
    let mut broken = false;
    for (n, word) in words.iter().enumerate() {
        broken |= word.starts_with('\'');
        let opens = word.starts_with('\'') || (broken && word.starts_with('-'));
        lines.push_str(if n == 0 {
            ""
        } else if opens {
            " \\\n    "
        } else {
            " "
        });
        lines.push_str(word);
    }
    lines
}
