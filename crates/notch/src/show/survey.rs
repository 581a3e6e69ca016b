//! What `notch survey` prints: one line a column, or the page of one column.

use keen_notch_core::{
    ColumnHolds, ColumnSurvey, Distinct, FirstRow, Glance, Layout, Layouts, Position, Proposal,
    Trouble,
};
use keen_notch_table::Whereabouts;
use serde_json::{Value, json};

use super::columns::{Align, aligned};
use super::places::at;
use super::style::{self, set};
use super::trace::ruler;
use super::width::{clipped, counted, share, visible, width, window};

/// How many shapes are shown from either end.
const HEAD: usize = 8;
const TAIL: usize = 8;
/// How many shapes that occur once are shown at most.
const ONCE: usize = 200;
/// How wide a bar is at most, in terminal columns.
const BAR: usize = 40;
/// How many lengths have a bar.
const LENGTHS: usize = 12;
/// In fewer texts nothing is said of layouts that are not there.
const FEWEST: u64 = 20;
/// How wide a text is shown at most, in terminal columns.
const WIDEST: usize = 44;

/// What is known of a column.
pub struct Surveyed {
    /// Its name.
    pub name: String,
    /// Its place in the table, from 1, where its name cannot be written in a cut or is that of
    /// several columns.
    pub only_place: Option<usize>,
    /// What it looks like.
    pub survey: ColumnSurvey,
    /// The cuts that suit it.
    pub proposals: Vec<Proposal>,
    /// The rules that nearly all rows keep.
    pub holds: Vec<ColumnHolds>,
    /// The ways in which its texts are written.
    pub layouts: Layouts,
    /// On how many texts the cuts were tried.
    pub tried: u64,
    /// What does not meet the eye.
    pub troubles: Vec<Trouble>,
}

impl Surveyed {
    /// The column as a cut names it.
    pub fn source(&self) -> String {
        self.only_place
            .map_or_else(|| format!("{{{}}}", self.name), |place| format!("{{column {place}}}"))
    }
}

fn told(distinct: Distinct) -> String {
    match distinct {
        Distinct::Exactly(n) => n.to_string(),
        Distinct::About(n) => format!("about {n}"),
    }
}

/// All columns, one line each.
pub fn overview(columns: &[(String, Glance)], table: &str, unreadable: u64) -> String {
    let rows = columns.first().map_or(0, |(_, seen)| seen.rows);
    let mut text = format!(
        "{}\n",
        set(
            style::STRONG,
            visible(&format!(
                "{} of {table}, {}.",
                counted(rows, "row"),
                counted(columns.len() as u64, "column")
            ))
        )
    );
    if unreadable > 0 {
        text.push_str(&format!(
            "{} could not be read and was passed over.\n",
            counted(unreadable, "row")
        ));
    }
    let head =
        ["column", "filled", "blank", "distinct", "lengths", "commonest shape", "", "looks like"]
            .map(str::to_owned)
            .to_vec();
    let mut lines = vec![head];
    for (name, seen) in columns {
        let unique = seen.distinct == Distinct::Exactly(seen.filled()) && seen.filled() > 1;
        let lengths = match seen.lengths {
            Some((least, most)) if least != most => format!("{least}–{most}"),
            Some((only, _)) => only.to_string(),
            None => String::new(),
        };
        let (shape, of) = seen.shape.as_ref().map_or((String::new(), String::new()), |shape| {
            (clipped(&visible(&shape.shape), 30), share(shape.count, seen.filled()))
        });
        let mut looks = visible(&seen.looks_like);
        if unique {
            looks.push_str(", unique");
        }
        let name =
            if name.is_empty() { "(no name)".to_owned() } else { clipped(&visible(name), 40) };
        lines.push(vec![
            name,
            seen.filled().to_string(),
            seen.blank.to_string(),
            told(seen.distinct),
            lengths,
            shape,
            of,
            looks,
        ]);
    }
    text.push_str(&aligned(
        &lines,
        &[
            Align::Left,
            Align::Right,
            Align::Right,
            Align::Right,
            Align::Right,
            Align::Left,
            Align::Right,
            Align::Left,
        ],
    ));
    let looked_at = columns.first().map_or(0, |(_, seen)| seen.looked_at);
    if looked_at < rows {
        text.push_str(&format!("\nWhat a column looks like is told by {looked_at} of its rows, everything else by all.\n"));
    }
    text.push_str("\nMore about a column, and cuts that suit it: -c COLUMN.\n");
    text
}

/// The row, and where it stood if the table has several files.
fn row_of(first: &FirstRow, places: &Whereabouts) -> String {
    if places.has_files() {
        format!("row {}, {}", first.row, places.line(first.line))
    } else {
        format!("row {}", first.row)
    }
}

/// The page of one column; of each proposal how many of the rows it fits.
pub fn page(column: &Surveyed, table: &str, places: &Whereabouts, unreadable: u64) -> String {
    let Surveyed { name, survey, proposals, troubles, .. } = column;
    let filled = survey.filled();
    let head = format!(
        "{name} of {table}: {}, {} filled, {} blank, {} distinct.",
        counted(survey.rows, "row"),
        filled,
        survey.blank,
        told(survey.distinct())
    );
    let mut text = format!(
        "{}\nIt looks like: {}.\n",
        set(style::STRONG, visible(&head)),
        visible(&survey.looks_like(&column.layouts).to_string())
    );
    if unreadable > 0 {
        text.push_str(&format!(
            "{} could not be read and was passed over.\n",
            counted(unreadable, "row")
        ));
    }
    if matches!(survey.distinct(), Distinct::About(_)) {
        text.push_str("The number of distinct texts is an estimate, right within two in a hundred nearly always.\n");
    }
    if filled == 0 {
        return text;
    }
    layouts(column, places, &mut text);
    labels(column, places, &mut text);
    duplicates(survey, &mut text);
    lengths(survey, &mut text);
    if !is_free_text(column) {
        shapes(survey, places, &mut text);
        map(survey, &mut text);
        dividers(survey, &mut text);
    }
    trouble(troubles, places, &mut text);
    section("Cuts that suit it", &mut text);
    if proposals.is_empty() {
        text.push_str("  None by its looks alone. Draw one on its texts: notch trace 'CUT' -t TABLE -c COLUMN\n");
    }
    let rests: Vec<String> = survey.rests(proposals).iter().map(|shapes| rest(shapes)).collect();
    if column.tried > 0 && column.tried < filled {
        text.push_str(&format!(
            "  Their shares are told by {} of the texts, on which they were run.\n",
            column.tried
        ));
    }
    for (n, proposal) in proposals.iter().enumerate() {
        let cut = format!("'{} = {}'", proposal.names, proposal.cut_of(&column.source()));
        let cut = visible(&cut);
        let mut lines = broken(&cut, window().saturating_sub(12).max(40)).into_iter();
        let first = lines.next().unwrap_or_default();
        text.push_str(&format!(
            "  {:>6}  {}\n",
            share(proposal.fits, filled),
            set(style::COMMAND, first)
        ));
        lines.for_each(|line| {
            text.push_str(&format!("            {}\n", set(style::COMMAND, line)))
        });
        // Said once of all that leave the same.
        if !rests[n].is_empty() && rests.get(n + 1) != Some(&rests[n]) {
            text.push_str(&format!("    the rest: {}\n", rests[n]));
        }
    }
    text
}

/// A cut as one line, or where it is wider than the window in lines that begin with `else` or `if`:
/// it may be copied so.
fn broken(cut: &str, wide: usize) -> Vec<String> {
    let mut breaks = vec![0];
    let (mut is_text, mut is_escaped) = (false, false);
    for (at, c) in cut.char_indices() {
        match c {
            '"' if !is_escaped => is_text = !is_text,
            ' ' if !is_text => {
                let starts =
                    ["else ", "if ", "or {"].iter().any(|word| cut[at + 1..].starts_with(word));
                breaks.extend(starts.then_some(at));
            }
            _ => {}
        }
        is_escaped = c == '\\' && !is_escaped;
    }
    breaks.push(cut.len());
    let mut lines = vec![String::new()];
    for piece in breaks.windows(2).map(|pair| &cut[pair[0]..pair[1]]) {
        match lines.last_mut() {
            Some(line) if line.is_empty() || width(line) + width(piece) <= wide => {
                line.push_str(piece)
            }
            _ => lines.push(piece.trim_start().to_owned()),
        }
    }
    lines
}

/// The shapes that a cut does not fit.
fn rest(shapes: &[(&str, u64, &FirstRow)]) -> String {
    let mut said: Vec<String> = shapes
        .iter()
        .take(3)
        .map(|(shape, texts, _)| format!("{} {texts}", clipped(&visible(shape), 24)))
        .collect();
    if shapes.len() > said.len() {
        said.push(format!("… {} more", shapes.len() - said.len()));
    }
    said.join(" · ")
}

fn section(title: &str, text: &mut String) {
    text.push_str(&format!("\n{}\n", set(style::FINDING, title)));
}

/// Whether most texts are sentences, whose shapes tell nothing that their layouts do not.
fn is_free_text(column: &Surveyed) -> bool {
    column.survey.is_prose()
}

/// The layouts, each with its commonest texts' example and its slots underlined, and the odd texts.
fn layouts(column: &Surveyed, places: &Whereabouts, text: &mut String) {
    let Surveyed { survey, layouts, .. } = column;
    let filled = survey.filled();
    if layouts.layouts.is_empty() {
        // In few rows nothing is told from chance.
        let Some((largest, of)) = layouts.largest.filter(|(_, of)| *of >= FEWEST) else { return };
        section("Layouts: none", text);
        text.push_str(&format!(
            "  No layout holds more than {} of 100 rows.\n",
            (largest * 100).div_ceil(of.max(1))
        ));
        return;
    }
    let title = match layouts.layouts.len() {
        1 => "Layout: one".to_owned(),
        n => format!("Layouts: {n}"),
    };
    let odd = match layouts.odd_texts {
        0 => "which all texts have".to_owned(),
        odd => format!("which {} of {filled} texts have", filled - odd),
    };
    section(&format!("{title}, {odd}"), text);
    let wide = window().saturating_sub(4).max(40);
    let counts: Vec<Vec<String>> = layouts
        .layouts
        .iter()
        .map(|layout| vec![layout.texts.to_string(), share(layout.texts, filled)])
        .collect();
    let counts = aligned(&counts, &[Align::Right, Align::Right]);
    for (layout, count) in layouts.layouts.iter().zip(counts.lines()) {
        let case = if layout.ignoring_case { "  ignoring case" } else { "" };
        text.push_str(&format!(
            "{count}  {}{case}\n",
            set(style::STRONG, visible(&layout.pattern))
        ));
        let indent = " ".repeat(width(count) + 2);
        let (example, marks) = underlined(layout, wide.saturating_sub(indent.len() + 12));
        text.push_str(&format!("{indent}{example}  {}\n", row_of(&layout.first, places)));
        if !marks.trim().is_empty() {
            text.push_str(&format!("{indent}{}\n", set(style::FINDING, marks.trim_end())));
        }
    }
    if layouts.odd_texts > 0 {
        let shown = layouts.odd.len();
        let title = match layouts.odd_texts {
            1 => "One text has no layout".to_owned(),
            n => format!("{n} texts have no layout"),
        };
        section(&title, text);
        let rows: Vec<Vec<String>> = layouts
            .odd
            .iter()
            .map(|odd| {
                let example = clipped(&visible(&odd.text).replace(' ', "␣"), wide - 14);
                vec![row_of(odd, places), format!("“{example}”")]
            })
            .collect();
        text.push_str(&aligned(&rows, &[Align::Left, Align::Left]));
        if layouts.odd_texts > shown as u64 {
            text.push_str(&format!(
                "  … {} more; all of them: --findings FILE.\n",
                layouts.odd_texts - shown as u64
            ));
        }
    }
}

/// What stands before numbers and codes in texts with words.
fn labels(column: &Surveyed, places: &Whereabouts, text: &mut String) {
    let Surveyed { survey, layouts, .. } = column;
    if layouts.labels.is_empty() {
        return;
    }
    section("What stands before numbers and codes", text);
    let rows: Vec<Vec<String>> = layouts
        .labels
        .iter()
        .map(|label| {
            vec![
                label.texts.to_string(),
                share(label.texts, survey.filled()),
                visible(&label.label),
                clipped(&visible(&label.followed_by), WIDEST),
                format!("“{}”", clipped(&visible(&label.first.text), WIDEST)),
                row_of(&label.first, places),
            ]
        })
        .collect();
    let align = [Align::Right, Align::Right, Align::Left, Align::Left, Align::Left, Align::Left];
    text.push_str(&aligned(&rows, &align));
}

/// The example of a layout, clipped, and marks under its slots.
fn underlined(layout: &Layout, wide: usize) -> (String, String) {
    let text = &layout.first.text;
    let slots = layout.slots(text).unwrap_or_default();
    let (mut line, mut marks, mut at) = (String::new(), String::new(), 0);
    for slot in slots {
        let before = visible(&text[at..slot.start]);
        let inside = visible(&text[slot.clone()]);
        marks.push_str(&" ".repeat(width(&before)));
        marks.push_str(&"‾".repeat(width(&inside)));
        line.push_str(&before);
        line.push_str(&inside);
        at = slot.end;
    }
    line.push_str(&visible(&text[at..]));
    let line = clipped(&line, wide);
    let marks = marks.chars().take(width(&line)).collect();
    (line, marks)
}

fn duplicates(survey: &ColumnSurvey, text: &mut String) {
    let Some(repeated) = survey.repeated().filter(|repeated| !repeated.is_empty()) else { return };
    // A column of few values repeats them all, which says nothing.
    if (repeated.len() as u64) * 2 > survey.filled() {
        return;
    }
    section(&format!("Texts that stand in more than one row: {}", repeated.len()), text);
    let rows: Vec<Vec<String>> = repeated
        .iter()
        .take(3)
        .map(|(text, count, row)| {
            vec![count.to_string(), clipped(&visible(text), WIDEST), format!("first in row {row}")]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Left, Align::Left]));
}

fn lengths(survey: &ColumnSurvey, text: &mut String) {
    section("Lengths in characters", text);
    // Many lengths are shown in steps.
    let lengths = survey.lengths();
    let (least, longest) = (
        lengths.keys().next().copied().unwrap_or(0),
        lengths.keys().next_back().copied().unwrap_or(0),
    );
    let step = (longest - least) / LENGTHS + 1;
    let mut bins: Vec<(usize, u64)> = Vec::new();
    for (length, count) in &lengths {
        let from = least + (length - least) / step * step;
        match bins.last_mut().filter(|(known, _)| *known == from) {
            Some((_, sum)) => *sum += count,
            None => bins.push((from, *count)),
        }
    }
    let most = bins.iter().map(|(_, count)| *count).max().unwrap_or(1);
    let rows: Vec<Vec<String>> = bins
        .iter()
        .map(|(from, count)| {
            let label =
                if step == 1 { from.to_string() } else { format!("{from}–{}", from + step - 1) };
            let bar = "█".repeat(((*count as f64 / most as f64) * BAR as f64).round() as usize);
            vec![label, count.to_string(), if bar.is_empty() { "▏".to_owned() } else { bar }]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Right, Align::Left]));
}

fn shapes(survey: &ColumnSurvey, places: &Whereabouts, text: &mut String) {
    let (shapes, more) = survey.shapes();
    let mut families: std::collections::BTreeMap<String, (u64, usize)> =
        std::collections::BTreeMap::new();
    for (shape, count, _) in &shapes {
        let (texts, of) = families.entry(family(shape)).or_default();
        (*texts, *of) = (*texts + count, *of + 1);
    }
    section(
        &format!(
            "Shapes: {}, of {} but for the lengths of their runs",
            shapes.len(),
            counted(families.len() as u64, "kind")
        ),
        text,
    );
    let row = |(shape, count, first): &(&str, u64, &FirstRow)| {
        let example = clipped(&visible(&first.text).replace(' ', "␣"), WIDEST);
        vec![
            count.to_string(),
            share(*count, survey.filled()),
            clipped(&visible(shape), WIDEST),
            format!("“{example}”"),
            row_of(first, places),
        ]
    };
    let align = [Align::Right, Align::Right, Align::Left, Align::Left, Align::Left];
    // Among codes each shape that occurs once may be a mistake; where most texts have a shape of
    // their own it is none.
    let once = shapes.iter().filter(|(_, count, _)| *count == 1).count();
    let tail = if once as u64 * 10 <= survey.filled() { once.clamp(TAIL, ONCE) } else { TAIL };
    if shapes.len() <= HEAD + tail {
        text.push_str(&aligned(&shapes.iter().map(row).collect::<Vec<_>>(), &align));
        return kinds(families, survey.filled(), text);
    }
    let mut rows: Vec<Vec<String>> = shapes[..HEAD].iter().map(row).collect();
    rows.push(vec![
        "…".to_owned(),
        String::new(),
        format!("{} more shapes, all of them with --json", shapes.len() - HEAD - tail),
        String::new(),
        String::new(),
    ]);
    rows.extend(shapes[shapes.len() - tail..].iter().map(row));
    text.push_str(&aligned(&rows, &align));
    kinds(families, survey.filled(), text);
    if more > 0 {
        text.push_str(&format!(
            "  {more} texts have a shape beyond the ten thousand that are told apart.\n"
        ));
    }
}

/// Shapes that differ in the lengths of their runs alone, taken together, where that says more than
/// the shapes do.
fn kinds(
    families: std::collections::BTreeMap<String, (u64, usize)>,
    filled: u64,
    text: &mut String,
) {
    let mut together: Vec<(String, (u64, usize))> =
        families.into_iter().filter(|(_, (_, shapes))| *shapes > 1).collect();
    together.sort_by(|a, b| b.1.0.cmp(&a.1.0).then(a.0.cmp(&b.0)));
    if together.is_empty() {
        return;
    }
    text.push_str("  Taken together, whatever the lengths:\n");
    let rows: Vec<Vec<String>> = together
        .iter()
        .take(HEAD)
        .map(|(family, (texts, shapes))| {
            vec![
                texts.to_string(),
                share(*texts, filled),
                clipped(&visible(family), WIDEST),
                counted(*shapes as u64, "shape"),
            ]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Right, Align::Left, Align::Left]));
}

/// A shape without the lengths of its runs.
fn family(shape: &str) -> String {
    let mut inside = false;
    shape
        .chars()
        .filter(|c| {
            match c {
                '[' => inside = true,
                ']' => inside = false,
                _ => {}
            }
            !(inside && c.is_ascii_digit())
        })
        .collect()
}

fn map(survey: &ColumnSurvey, text: &mut String) {
    let (shapes, _) = survey.shapes();
    let Some((_, _, typical)) = shapes.first() else { return };
    let wide = window().saturating_sub(12).max(40);
    let typical = clipped(&visible(&typical.text), wide);
    let length = keen_notch_core::characters::count(&typical);
    section("What stands at each position, under a typical text", text);
    text.push_str(&ruler(&typical));
    let letters = |positions: &[Position]| -> String {
        positions.iter().take(length).map(Position::letter).collect()
    };
    let from_right: String = letters(&survey.right).chars().rev().collect();
    let fill = " ".repeat(length.saturating_sub(width(&from_right)));
    text.push_str(&format!("  {}  from the left\n", letters(&survey.left)));
    // Of texts of many words it is not known.
    let is_known =
        survey.right.first().is_some_and(|position| position.texts() * 100 >= survey.placed() * 95);
    if survey.lengths().len() > 1 && is_known {
        text.push_str(&format!("  {fill}{from_right}  from the right\n"));
    }
    text.push_str(
        "  In 95 of 100 texts or more: = the same character; U, l, c, d, s, . one kind (. is any other sign); ? kinds are mixed.\n",
    );
    if survey.placed() < survey.filled() {
        text.push_str(&format!(
            "  This is told by {} of the texts, everything else by all.\n",
            survey.placed()
        ));
    }
}

fn dividers(survey: &ColumnSurvey, text: &mut String) {
    let dividers = survey.dividers();
    if dividers.is_empty() {
        return;
    }
    section("What divides it", text);
    for (divider, counts, parts) in dividers {
        let mut counts: Vec<(&usize, &u64)> = counts.iter().collect();
        counts.sort_by(|a, b| b.1.cmp(a.1));
        let said: Vec<String> =
            counts.iter().take(4).map(|(parts, texts)| format!("{parts} in {texts}")).collect();
        let divider = if divider == ' ' { "a blank".to_owned() } else { format!("\"{divider}\"") };
        text.push_str(&format!("  by {divider}: parts {}\n", said.join(", ")));
        let usual = counts.iter().map(|(parts, _)| **parts).find(|parts| *parts > 1).unwrap_or(0);
        let rows: Vec<Vec<String>> = parts
            .iter()
            .take(usual)
            .enumerate()
            .map(|(n, shapes)| {
                let ranked = shapes.ranked();
                let said: Vec<String> = ranked
                    .iter()
                    .take(4)
                    .map(|known| {
                        format!(
                            "{} {}",
                            if known.shape.is_empty() {
                                "(blank)".to_owned()
                            } else {
                                visible(&known.shape)
                            },
                            known.count
                        )
                    })
                    .collect();
                let more = if ranked.len() > 4 {
                    format!(" · … {} more", ranked.len() - 4)
                } else {
                    String::new()
                };
                vec![format!("  part {}", n + 1), format!("{}{more}", said.join(" · "))]
            })
            .collect();
        text.push_str(&aligned(&rows, &[Align::Left, Align::Left]));
    }
}

fn trouble(troubles: &[Trouble], places: &Whereabouts, text: &mut String) {
    if troubles.is_empty() {
        return;
    }
    section("What does not meet the eye", text);
    let rows: Vec<Vec<String>> = troubles
        .iter()
        .map(|trouble| {
            let example = clipped(&visible(&trouble.first.text).replace(' ', "␣"), WIDEST);
            vec![
                trouble.texts.to_string(),
                trouble.what.to_owned(),
                format!("“{example}”"),
                row_of(&trouble.first, places),
            ]
        })
        .collect();
    text.push_str(&aligned(&rows, &[Align::Right, Align::Left, Align::Left, Align::Left]));
    text.push_str("  Every odd text with its row: --findings FILE.\n");
}

/// A column as JSON, documented in docs/json.md.
pub fn survey_json(column: &Surveyed, places: &Whereabouts) -> Value {
    let Surveyed { name, survey, proposals, troubles, layouts, .. } = column;
    let (shapes, more_shapes) = survey.shapes();
    let (distinct, exact) = match survey.distinct() {
        Distinct::Exactly(n) => (n, true),
        Distinct::About(n) => (n, false),
    };
    let first = |first: &FirstRow| {
        at(places, "line", first.line, json!({ "row": first.row, "text": first.text }))
    };
    let positions = |positions: &[Position]| -> Vec<Value> {
        positions
            .iter()
            .map(|position| json!({ "texts": position.texts(), "letter": position.letter() }))
            .collect()
    };
    let repeated = survey.repeated().unwrap_or_default();
    let each_shape = |shapes: &[(&str, u64, &FirstRow)]| -> Vec<Value> {
        shapes.iter().map(|(shape, texts, row)| json!({ "shape": shape, "texts": texts, "first": first(row) })).collect()
    };
    let each_layout = |layout: &Layout| {
        let slots = layout.slots(&layout.first.text).unwrap_or_default();
        let slots: Vec<&str> = slots.into_iter().map(|slot| &layout.first.text[slot]).collect();
        json!({
            "layout": layout.pattern,
            "ignoring_case": layout.ignoring_case,
            "texts": layout.texts,
            "first": first(&layout.first),
            "slots": slots,
        })
    };
    let cuts = proposals
        .iter()
        .zip(survey.rests(proposals))
        .map(|(proposal, rest)| json!({ "names": proposal.names, "cut": proposal.cut_of(&column.source()), "fits": proposal.fits, "rest": each_shape(&rest) }));
    json!({
        "name": name,
        "rows": survey.rows,
        "blank": survey.blank,
        "distinct": distinct,
        "distinct_is_exact": exact,
        "looks_like": survey.looks_like(&column.layouts),
        "lengths": survey.lengths().iter().map(|(length, texts)| json!({ "length": length, "texts": texts })).collect::<Vec<_>>(),
        "layouts": layouts.layouts.iter().map(each_layout).collect::<Vec<_>>(),
        "odd": layouts.odd.iter().map(first).collect::<Vec<_>>(),
        "odd_texts": layouts.odd_texts,
        "labels": layouts.labels.iter().map(|label| json!({
            "label": label.label,
            "texts": label.texts,
            "followed_by": label.followed_by,
            "first": first(&label.first),
        })).collect::<Vec<_>>(),
        "shapes": each_shape(&shapes),
        "more_shapes": more_shapes,
        "repeated": repeated.iter().take(100).map(|(text, rows, row)| json!({ "text": text, "rows": rows, "first_row": row })).collect::<Vec<_>>(),
        "placed": survey.placed(),
        "from_left": positions(&survey.left),
        "from_right": positions(&survey.right),
        "troubles": troubles.iter().map(|trouble| json!({ "what": trouble.what, "texts": trouble.texts, "first": first(&trouble.first) })).collect::<Vec<_>>(),
        "cuts": cuts.collect::<Vec<_>>(),
        "tried": column.tried,
    })
}
