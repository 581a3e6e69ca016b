//! `notch words`: the language, from the table of words.

use std::process::ExitCode;

use keen_notch_core::{Group, HABITS, Habit, SCHEMES, Slot, Word, habits, nearest, words};
use serde_json::json;

use crate::cli::Words;
use crate::show::style::{self, set};
use crate::show::{Align, Problem, aligned, fold, print, print_json, width};

pub fn run(args: &Words) -> Result<ExitCode, Problem> {
    if args.page {
        print(page())?;
        return Ok(ExitCode::SUCCESS);
    }
    let typed = (!args.word.is_empty()).then(|| args.word.join(" "));
    let from_habit: Vec<&Word> =
        typed.iter().flat_map(|typed| habits(typed)).filter_map(Habit::ours).collect();
    let chosen: Vec<&Word> = match &typed {
        None => words().collect(),
        Some(wanted) if from_habit.is_empty() => find(wanted)?,
        Some(wanted) => called(wanted),
    };
    if args.json {
        let from_habit = from_habit.iter().map(|word| {
            let mut object = as_json(word);
            object["habit"] = true.into();
            object
        });
        let list: Vec<_> = from_habit.chain(chosen.iter().map(|word| as_json(word))).collect();
        print_json(&json!({ "version": 1, "words": list }))?;
    } else if let Some(typed) = &typed {
        let mut text = String::new();
        for word in from_habit {
            text.push_str(&format!("What other programs call {typed} is here:\n\n{}", entry(word)));
        }
        text.extend(chosen.iter().map(|word| entry(word)));
        print(text)?;
    } else if args.all {
        print(overview())?;
    } else {
        print(most_used())?;
    }
    Ok(ExitCode::SUCCESS)
}

/// The entries meant by a word: those called so, else those whose form holds it.
fn find(wanted: &str) -> Result<Vec<&'static Word>, Problem> {
    let parts = |text: &'static str| {
        text.split(|c: char| c.is_whitespace() || "[]()|,".contains(c))
            .filter(|part| !part.is_empty())
    };
    let called = called(wanted);
    if !called.is_empty() {
        return Ok(called);
    }
    let holds = |word: &Word| {
        wanted.split_whitespace().all(|wanted| parts(word.form).any(|part| part == wanted))
    };
    let mut holding: Vec<&Word> =
        words().filter(|word| word.form == wanted || holds(word)).collect();
    if holding.is_empty() {
        // A word of the frame, as `it`, is explained where it is used.
        holding = words()
            .filter(|word| {
                word.group == Group::Joining && word.meaning.contains(&format!("`{wanted}`"))
            })
            .collect();
    }
    if !holding.is_empty() {
        return Ok(holding);
    }
    let known = words().flat_map(|word| parts(word.form));
    let near =
        nearest(wanted, known).map_or(String::new(), |near| format!("The nearest is {near}. "));
    Err(Problem::said(
        format!("the language has no word {wanted}."),
        format!("{near}`notch words` lists them all."),
    ))
}

/// The entries called so.
fn called(wanted: &str) -> Vec<&'static Word> {
    words()
        .filter(|word| word.name == wanted || word.name.split(' ').next() == Some(wanted))
        .collect()
}

/// The words that most cuts are made of, by what one wants.
const MOST_USED: [(&str, &[&str]); 5] = [
    (
        "Take a piece",
        &["part", "parts", "first", "last", "chars", "before", "after", "between", "match"],
    ),
    ("Find a number", &["number", "number after", "block"]),
    ("Bring it into form", &["trim", "neaten", "upper", "pad", "replace", "date"]),
    ("Ask and check", &["if", "has", "is \"text\"", "check"]),
    ("Where it is not there", &["else", "missing"]),
];

/// One screen: each of those words in a line.
fn most_used() -> String {
    let mut text = String::new();
    for (heading, names) in MOST_USED {
        text.push_str(&format!("{}\n", set(style::STRONG, heading)));
        for word in names.iter().filter_map(|name| words().find(|word| word.name == *name)) {
            // What fits a line; the rest stands in the word's own entry.
            let meaning = word.meaning.split([';', ':']).next().unwrap_or_default();
            let end = meaning
                .match_indices([',', '('])
                .map(|(at, _)| at)
                .rfind(|at| *at <= LINE - FORMS - 2)
                .unwrap_or(meaning.len());
            text.push_str(&line(
                word.form,
                if width(meaning) > LINE - FORMS - 2 { meaning[..end].trim_end() } else { meaning },
            ));
        }
        text.push('\n');
    }
    text.push_str(
        "Every word: notch words --all. One of them with examples: notch words part. A word of \
        another program: notch words left\n",
    );
    text
}

fn overview() -> String {
    let mut text = String::new();
    for group in Group::ALL {
        text.push_str(&format!("{}\n", set(style::STRONG, group.title())));
        for word in words().filter(|word| word.group == group) {
            text.push_str(&line(word.form, word.meaning));
        }
        text.push('\n');
    }
    text.push_str(&format!("{}\n", set(style::STRONG, "What stands in the slots")));
    for slot in Slot::ALL {
        text.push_str(&line(slot.name(), slot.meaning()));
    }
    text.push_str("\nMore about a word, with examples: notch words part\n");
    text
}

/// How wide the forms' column is, in terminal columns.
const FORMS: usize = 36;
/// How wide a line of the overview is.
const LINE: usize = 118;

fn line(form: &str, meaning: &str) -> String {
    let fill = FORMS.checked_sub(width(form) + 1);
    let meaning =
        fold(meaning, LINE - FORMS - 2, 0).replace('\n', &format!("\n{}", " ".repeat(FORMS + 2)));
    match fill {
        Some(fill) => format!("  {}{} {meaning}\n", set(style::COMMAND, form), " ".repeat(fill)),
        None => format!("  {}\n{}{meaning}\n", set(style::COMMAND, form), " ".repeat(FORMS + 2)),
    }
}

fn entry(word: &Word) -> String {
    let mut text =
        format!("{}\n  {}\n", set(style::COMMAND, word.form), fold(word.meaning, LINE, 2));
    for slot in Slot::ALL.iter().filter(|slot| {
        word.form.split(|c: char| !c.is_ascii_uppercase()).any(|part| part == slot.name())
    }) {
        text.push_str(&format!("  {} is {}\n", slot.name(), slot.meaning().replace('`', "")));
    }
    if word.form.contains(Slot::Scheme.name()) {
        let schemes = SCHEMES.iter().map(|scheme| {
            vec![
                scheme.name.to_owned(),
                scheme.standard.to_owned(),
                format!("of {}", scheme.payload),
            ]
        });
        text.push_str(&aligned(&schemes.collect::<Vec<_>>(), &[Align::Left; 3]));
    }
    if word.examples.is_empty() {
        text.push('\n');
        return text;
    }
    let rows: Vec<Vec<String>> = word
        .examples
        .iter()
        .map(|example| {
            vec![example.cell.to_owned(), example.cut.to_owned(), example.gives.to_owned()]
        })
        .collect();
    let mut header = vec![vec!["a cell".to_owned(), "the cut".to_owned(), "gives".to_owned()]];
    header.extend(rows);
    text.push_str(&aligned(&header, &[Align::Left; 3]));
    text.push('\n');
    text
}

fn as_json(word: &Word) -> serde_json::Value {
    let examples: Vec<_> = word
        .examples
        .iter()
        .map(|example| json!({ "cell": example.cell, "cut": example.cut, "gives": example.gives }))
        .collect();
    json!({
        "name": word.name,
        "group": word.group.title(),
        "form": word.form,
        "meaning": word.meaning,
        "examples": examples,
    })
}

/// `docs/language.md`: what is written by hand, then the table of words.
fn page() -> String {
    let mut text = include_str!("language.md").to_owned();
    for group in Group::ALL {
        text.push_str(&format!("\n## {}\n", group.title()));
        for word in words().filter(|word| word.group == group) {
            text.push_str(&format!("\n### `{}`\n\n{}.\n\n", word.form, capitalized(word.meaning)));
            if word.examples.is_empty() {
                continue;
            }
            text.push_str("| a cell | the cut | gives |\n| --- | --- | --- |\n");
            for example in word.examples {
                let cells = [example.cell, example.cut, example.gives].map(code);
                text.push_str(&format!("| {} |\n", cells.join(" | ")));
            }
        }
    }
    text.push_str("\n## What stands in the slots\n\n| slot | what |\n| --- | --- |\n");
    for slot in Slot::ALL {
        text.push_str(&format!("| {} | {} |\n", slot.name(), slot.meaning().replace('|', "\\|")));
    }
    text.push_str(
        "\n## Words of other programs\n\nWhat is typed from habit, and the word for it here; \
        messages and `notch words` answer with it.\n\n",
    );
    text.push_str("| typed | here |\n| --- | --- |\n");
    for habit in HABITS {
        let typed: Vec<String> = habit.typed.iter().map(|typed| code(typed)).collect();
        let ours = habit.ours().map_or("", |word| word.form);
        text.push_str(&format!("| {} | {} |\n", typed.join(", "), code(ours)));
    }
    text.push_str(
        "\n## Check-digit schemes\n\n| scheme | its standard | its check digit is made of | \
        printed between characters |\n| --- | --- | --- | --- |\n",
    );
    for scheme in &SCHEMES {
        let printed = match scheme.printed_with {
            [] => "nothing",
            [_] => "blanks",
            _ => "blanks, hyphens",
        };
        text.push_str(&format!(
            "| `{}` | {} | {} | {printed} |\n",
            scheme.name, scheme.standard, scheme.payload
        ));
    }
    text
}

/// A text as code in a cell of a Markdown table.
fn code(text: &str) -> String {
    if text.is_empty() { "(blank)".to_owned() } else { format!("`{}`", text.replace('|', "\\|")) }
}

fn capitalized(text: &str) -> String {
    let mut characters = text.chars();
    characters
        .next()
        .map_or(String::new(), |first| first.to_uppercase().chain(characters).collect())
}
