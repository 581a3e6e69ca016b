//! What earlier runs of `notch check --remember` found, kept beside the jig and not in it: jigs are
//! read and compared by people.
//!
//! `lots.toml` has `lots.runs.jsonl`: one JSON object a line, the last 24 runs, the earliest first.

use std::fs;
use std::path::{Path, PathBuf};

use indexmap::IndexMap;
use keen_notch_table::NewFile;
use serde::{Deserialize, Serialize};
use serde_json::Value;

use crate::show::Problem;

/// The number of runs that are kept.
const KEPT: usize = 24;

/// A run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PastRun {
    /// What it called its day.
    pub day: Option<String>,
    /// The rows of the table, and those with a finding.
    pub rows: u64,
    pub rows_with_findings: u64,
    /// The findings by what they are about, notes aside.
    pub findings: IndexMap<String, u64>,
}

impl PastRun {
    /// Of what `--json` prints.
    pub fn of(report: &Value, day: Option<&str>) -> Self {
        let number = |of: &Value, key: &str| of[key].as_u64().unwrap_or_default();
        let mut findings = IndexMap::new();
        for of in report["findings"].as_array().into_iter().flatten() {
            if of["is_note"] == false {
                let about = of["about"].as_str().unwrap_or_default().to_owned();
                *findings.entry(about).or_default() += number(of, "count");
            }
        }
        Self {
            day: day.map(str::to_owned),
            rows: number(report, "rows"),
            rows_with_findings: number(report, "rows_with_findings"),
            findings,
        }
    }
}

/// The file beside a jig.
pub fn file_of(jig: &Path) -> PathBuf {
    jig.with_extension("runs.jsonl")
}

/// The runs that are kept beside a jig, the earliest first; none where there is no file.
///
/// # Errors
/// A line of the file is no run.
pub fn read(jig: &Path) -> Result<Vec<PastRun>, Problem> {
    let path = file_of(jig);
    let Ok(text) = fs::read_to_string(&path) else { return Ok(Vec::new()) };
    let run = |(n, line): (usize, &str)| {
        serde_json::from_str(line).map_err(|_| {
            Problem::said(
                format!("{}, line {}, is no run of notch check.", path.display(), n + 1),
                "Take the line out, or the file away: runs are kept anew from then on.",
            )
        })
    };
    text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty()).map(run).collect()
}

/// Adds a run to those beside a jig.
///
/// # Errors
/// The file holds something else, or cannot be written.
pub fn add(jig: &Path, run: PastRun) -> Result<(), Problem> {
    let mut runs = read(jig)?;
    runs.push(run);
    let from = runs.len().saturating_sub(KEPT);
    let mut file = NewFile::create(&file_of(jig))?;
    for run in &runs[from..] {
        let line = serde_json::to_string(run).unwrap_or_default();
        file.write(format!("{line}\n").as_bytes())?;
    }
    Ok(file.finish()?)
}
