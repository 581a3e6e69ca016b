//! A jig as a page to read.

use keen_notch_core::{Group, Outline, StepOutline, Word, write_lesson};

use super::style::{self, set};
use super::width::{counted, fold, visible, window};
use crate::jig::file::{ListEntry, Write};
use crate::jig::{Jig, ReadCut};

/// The page.
pub fn jig_page(jig: &Jig, name: &str) -> String {
    let mut text = format!(
        "{}\n",
        strong(&jig.title.as_deref().map_or(name.to_owned(), |title| format!("{title}  ({name})")))
    );
    let mut say =
        |sentence: String| text.push_str(&format!("{}\n", fold(&visible(&sentence), width(), 2)));
    if let Some(column) = &jig.column {
        say(format!("Cuts start from {{{column}}} where they name no column."));
    }
    if let Some(rule) = &jig.only_rows {
        say(format!("Only rows are written for which {} holds.", rule.rule.text));
    }
    match &jig.write {
        Some(Write::Word(_)) => say("The new columns alone are written.".to_owned()),
        Some(Write::Columns(columns)) => {
            say(format!("These columns are written: {}.", columns.join(", ")))
        }
        None => {}
    }
    if let Some(action) = jig.on_finding {
        say(format!("What a finding does to its row: {}.", action.name()));
    }
    if let Some(separator) = &jig.separator {
        say(format!("The columns of the table are divided by {separator}."));
    }
    if jig.header == Some(false) {
        say("The table has no header; its columns are called 1, 2, 3.".to_owned());
    }
    lists(jig, &mut text);
    columns(jig, &mut text);
    section("Cuts", !jig.cuts.is_empty(), &mut text);
    jig.cuts.iter().for_each(|read| cut(read, jig, &mut text));
    section("Checks of whole rows", !jig.checks.is_empty(), &mut text);
    for (title, check) in &jig.checks {
        text.push_str(&format!("  {}\n      {}\n", strong(title), visible(&check.rule.text)));
    }
    section("Put up with", !jig.allow.is_empty(), &mut text);
    for allow in &jig.allow {
        text.push_str(&format!(
            "  {}  findings in {} of the rows\n",
            strong(&allow.name),
            allow.allowance
        ));
    }
    if let Some(remembered) = &jig.remembered {
        section("Remembered", true, &mut text);
        text.push_str(&format!(
            "  what {} looked like in {}\n",
            counted(remembered.shapes.len() as u64, "new column"),
            counted(remembered.rows, "row")
        ));
    }
    words(jig, &mut text);
    text
}

/// A text of the jig, set off; what cannot be seen in it is drawn.
fn strong(text: &str) -> String {
    set(style::STRONG, visible(text))
}

fn width() -> usize {
    window().min(110)
}

fn section(title: &str, there: bool, text: &mut String) {
    if there {
        text.push_str(&format!("\n{}\n", set(style::COMMAND, title)));
    }
}

fn lists(jig: &Jig, text: &mut String) {
    section("Lists", !jig.list_entries.is_empty(), text);
    for (name, entry) in &jig.list_entries {
        let count = jig.lists.get(name).map_or(0, |list| list.len());
        let what = match entry {
            ListEntry::Values(values) => values.join(", "),
            ListEntry::Pairs(pairs) => pairs
                .iter()
                .map(|(key, answer)| format!("{key} = {answer}"))
                .collect::<Vec<_>>()
                .join(", "),
            ListEntry::File(file) => {
                let columns = match (&file.column, &file.gives) {
                    (Some(column), Some(gives)) => format!(", {column} gives {gives}"),
                    (Some(column), None) => format!(", column {column}"),
                    (None, _) => ", one value a line".to_owned(),
                };
                format!("{}{columns}", file.file)
            }
        };
        let said = fold(&visible(&format!("{count} in it: {what}")), width().saturating_sub(6), 6);
        text.push_str(&format!("  {}  {said}\n", strong(name)));
    }
}

fn columns(jig: &Jig, text: &mut String) {
    section("What the table must be like", !jig.columns.is_empty(), text);
    for column in &jig.columns {
        let rule = &column.rule;
        let parts = [
            (!column.also.is_empty()).then(|| format!("or called {}", column.also.join(", "))),
            rule.required.then(|| "filled in every row".to_owned()),
            rule.unique.then(|| "no text twice".to_owned()),
            rule.output_type.map(|output_type| format!("written as {output_type}")),
            rule.check.as_ref().map(|check| check.text.clone()),
        ];
        let said: Vec<String> = parts.into_iter().flatten().collect();
        text.push_str(&format!("  {}  {}\n", strong(&rule.column), visible(&said.join("; "))));
    }
}

fn cut(read: &ReadCut, jig: &Jig, text: &mut String) {
    let about = read.about.as_ref().map_or(String::new(), |about| format!("  {}", visible(about)));
    text.push_str(&format!("  {}{about}\n", strong(&read.left)));
    let mut say = |sentence: String| {
        text.push_str(&format!(
            "      {}\n",
            fold(&visible(&sentence), width().saturating_sub(6), 10)
        ))
    };
    let outline = read.assignment.outline();
    let start = jig
        .column
        .as_ref()
        .map_or("the column given with -c".to_owned(), |column| format!("{{{column}}}"));
    let first = outline.chains.first().and_then(|chain| chain.source.clone()).unwrap_or(start);
    for (n, chain) in outline.chains.iter().enumerate() {
        let joint = if n == 0 { "from" } else { "else from" };
        let source = chain.source.as_deref().unwrap_or(&first);
        let condition =
            chain.condition.as_ref().map_or(String::new(), |condition| format!(", {condition}"));
        say(format!("{joint} {source}{}{condition}", steps(&chain.steps)));
    }
    if !outline.then.is_empty() {
        say(format!("then, whichever it was{}", steps(&outline.then)));
    }
    if read.replace {
        say("in place of the column of that name".to_owned());
    }
    if let Some(action) = read.on_finding {
        say(format!("what a finding of it does to its row: {}", action.name()));
    }
    for example in &read.examples {
        say(format!("for example {}", write_lesson(&example.cell, &example.pieces)));
    }
}

fn all_steps(outline: &Outline) -> impl Iterator<Item = &StepOutline> {
    outline.chains.iter().flat_map(|chain| &chain.steps).chain(&outline.then)
}

fn steps(steps: &[StepOutline]) -> String {
    steps.iter().map(|step| format!(" → {}", step.written)).collect()
}

/// The words of the steps, each once, and what they do.
fn words(jig: &Jig, text: &mut String) {
    let mut used: Vec<&Word> = Vec::new();
    for cut in &jig.cuts {
        for step in
            all_steps(&cut.assignment.outline()).filter(|step| step.word.group != Group::Check)
        {
            if !used.iter().any(|word| word.name == step.word.name) {
                used.push(step.word);
            }
        }
    }
    section("What the steps do", !used.is_empty(), text);
    let column = used.iter().map(|word| super::width(word.name)).max().unwrap_or(0) + 4;
    for word in used {
        let fill = " ".repeat(column - super::width(word.name) - 2);
        let folded = fold(word.meaning, width().saturating_sub(column), 0)
            .replace('\n', &format!("\n{}", " ".repeat(column)));
        text.push_str(&format!("  {}{fill}{folded}\n", word.name));
    }
}
