//! `notch completions` and `notch manual`: made of the same definition as the command line itself.

use std::ffi::OsString;
use std::io;
use std::path::PathBuf;
use std::process::ExitCode;

use clap::CommandFactory;
use clap_complete::Shell;
use keen_notch_table::{ReadOptions, Source, Table, TableError};

use crate::cli::{Cli, Completions, Manual};
use crate::show::{Problem, print, say};

pub fn completions(args: &Completions) -> Result<ExitCode, Problem> {
    let mut script = Vec::new();
    clap_complete::generate(args.shell, &mut Cli::command(), "notch", &mut script);
    let mut script = String::from_utf8_lossy(&script).into_owned();
    match args.shell {
        Shell::Bash => script.push_str(BASH),
        Shell::Fish => script.push_str(FISH),
        Shell::Zsh => {
            script = script.replace(":COLUMN:_default", ":COLUMN:_notch_columns");
            script = script.replacen("\n_notch() {", &format!("\n{ZSH}\n_notch() {{"), 1);
        }
        Shell::PowerShell => {
            let begins = "param($wordToComplete, $commandAst, $cursorPosition)\n";
            script = script.replacen(begins, &format!("{begins}{POWERSHELL}"), 1);
        }
        _ => {}
    }
    print(script)?;
    Ok(ExitCode::SUCCESS)
}

/// After `-c` stand the columns of the table that the command line names.
const BASH: &str = r#"
_notch_with_columns() {
    case "${COMP_WORDS[COMP_CWORD-1]}" in
        -c|--column)
            local name IFS=$'\n'
            COMPREPLY=()
            for name in $(notch column-names -- "${COMP_WORDS[@]:1}" 2>/dev/null); do
                [[ "$name" == "${COMP_WORDS[COMP_CWORD]}"* ]] && COMPREPLY+=("$(printf %q "$name")")
            done
            ;;
        *) _notch "$@" ;;
    esac
}
complete -F _notch_with_columns -o bashdefault -o default notch
"#;

const ZSH: &str = r#"_notch_columns() {
    local -a names
    names=("${(@f)$(notch column-names -- "${words[@]:1}" 2>/dev/null)}")
    compadd -a names
}
"#;

const FISH: &str = r#"
complete -c notch -s c -l column -x -a "(notch column-names -- (commandline -opc) 2>/dev/null)"
"#;

/// A name that is more than a word goes in quotes, those inside it doubled.
const POWERSHELL: &str = r#"
    $before = @($commandAst.CommandElements |
        Where-Object { $_.Extent.EndOffset -lt $cursorPosition } |
        ForEach-Object { if ($_ -is [StringConstantExpressionAst]) { $_.Value } else { $_.Extent.Text } })
    if (@('-c', '--column') -ccontains $before[-1]) {
        $begun = $wordToComplete -replace '^["'']', ''
        return notch column-names -- @($before | Select-Object -Skip 1) 2>$null |
            Where-Object { $_.StartsWith($begun) } |
            ForEach-Object {
                $text = if ($_ -match '^\w+$') { $_ } else { "'" + $_.Replace("'", "''") + "'" }
                [CompletionResult]::new($text, $_, [CompletionResultType]::ParameterValue, $_)
            }
    }
"#;

/// Prints the columns of the first table among the words of a command line.
pub fn column_names(words: &[OsString]) -> Result<ExitCode, Problem> {
    let files = words.iter().map(PathBuf::from).filter(|path| path.is_file());
    let tables = files.map(|path| Table::open(&Source::File(path), &ReadOptions::default()));
    let names = tables.flatten().next().map(|table| table.columns().to_vec()).unwrap_or_default();
    names
        .iter()
        .filter(|name| !name.contains('\n'))
        .try_for_each(|name| print(format_args!("{name}\n")))?;
    Ok(ExitCode::SUCCESS)
}

pub fn manual(args: &Manual) -> Result<ExitCode, Problem> {
    let failed = |cause: io::Error| TableError::Io {
        name: args.folder.display().to_string(),
        what: "cannot be written",
        cause,
    };
    std::fs::create_dir_all(&args.folder).map_err(failed)?;
    clap_mangen::generate_to(Cli::command(), &args.folder).map_err(failed)?;
    say(format_args!("The manual pages are in {}.\n", args.folder.display()));
    Ok(ExitCode::SUCCESS)
}
