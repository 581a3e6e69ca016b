//! The drawing of `notch trace`: a ruler, the text, and under it the span each step keeps.

use keen_notch_core::{
    ChainTrace, FindingKind, StepTrace, Trace, TracePiece, TraceValue, characters, shape,
};
use keen_notch_table::Sample;
use serde_json::{Value, json};

use super::style::{self, set};
use super::width::{clipped, visible, width, window};

/// The column of steps takes this many terminal columns at most.
const WORDS: usize = 44;
/// What stands right of the drawing takes about this many.
const RESULT: usize = 34;

/// A character as it is drawn, blanks visible, and how wide that is, in terminal columns.
pub fn drawn_character(character: &str) -> (String, usize) {
    let is_other_blank = |c: char| c.is_whitespace() && !"\t\r\n\u{a0}".contains(c);
    let shown = match character {
        " " => "␣".to_owned(),
        _ if character.chars().all(is_other_blank) => "⍽".to_owned(),
        _ => visible(character),
    };
    match width(&shown) {
        0 => ("◌".to_owned(), 1),
        wide => (shown, wide),
    }
}

/// A text as it is drawn: for each character what is shown and how wide that is.
struct Drawn {
    cells: Vec<(String, usize)>,
    /// The byte each character begins at, and the end of the text.
    starts: Vec<usize>,
}

impl Drawn {
    fn of(text: &str) -> Self {
        let mut starts = Vec::new();
        let mut at = 0;
        let cells = characters::each(text)
            .map(|character| {
                starts.push(at);
                at += character.len();
                drawn_character(character)
            })
            .collect();
        starts.push(at);
        Self { cells, starts }
    }

    /// The characters of a span of bytes.
    fn characters(&self, span: &std::ops::Range<usize>) -> std::ops::Range<usize> {
        let place =
            |byte: usize| self.starts.partition_point(|start| *start < byte).min(self.cells.len());
        place(span.start)..place(span.end)
    }

    /// Lines of the text that fit a width, as ranges of characters.
    fn lines(&self, most: usize) -> Vec<std::ops::Range<usize>> {
        let mut lines = Vec::new();
        let (mut from, mut used) = (0, 0);
        for (n, (_, wide)) in self.cells.iter().enumerate() {
            if used + wide > most && n > from {
                lines.push(from..n);
                (from, used) = (n, 0);
            }
            used += wide;
        }
        lines.push(from..self.cells.len());
        lines
    }

    fn text(&self, line: &std::ops::Range<usize>) -> String {
        self.cells[line.clone()].iter().map(|(shown, _)| shown.as_str()).collect()
    }

    fn width(&self) -> usize {
        self.cells.iter().map(|(_, wide)| wide).sum()
    }

    /// One sign a character, as wide as the character.
    fn under(&self, line: &std::ops::Range<usize>, sign: impl Fn(usize) -> char) -> String {
        let mut text = String::new();
        for n in line.clone() {
            let sign = sign(n);
            let wide = self.cells[n].1;
            // A span is drawn through under a wide character, a tick stands at its beginning.
            text.push(sign);
            text.extend(std::iter::repeat_n(
                if matches!(sign, SPAN | LOOKED) { sign } else { ' ' },
                wide - 1,
            ));
        }
        text.trim_end().to_owned()
    }

    /// A figure at every fifth place, its last digit over the place.
    fn figures(&self, line: &std::ops::Range<usize>, from_end: bool) -> String {
        let mut text = String::new();
        let mut used = 0usize;
        for n in line.clone() {
            let place = if from_end { self.cells.len() - n } else { n + 1 };
            if place.is_multiple_of(5) {
                let figure = if from_end { format!("-{place}") } else { place.to_string() };
                // The last digit stands over the place; a figure that has no room is left out.
                let taken = if text.is_empty() { 0 } else { width(&text) + 1 };
                if let Some(start) =
                    (used + 1).checked_sub(figure.len()).filter(|start| *start >= taken)
                {
                    text.push_str(&" ".repeat(start - width(&text)));
                    text.push_str(&figure);
                }
            }
            used += self.cells[n].1;
        }
        text
    }
}

/// Under the characters a step keeps.
const SPAN: char = '▔';
/// Under the characters a step looked at in vain.
const LOOKED: char = '╌';

/// The ruler over a text: figures and a tick at every place.
fn ticks(drawn: &Drawn, line: &std::ops::Range<usize>, from_end: bool, indent: usize) -> String {
    let ticks = drawn.under(line, |n| if (n + 1).is_multiple_of(5) { '┃' } else { '╷' });
    let right = if from_end { drawn.figures(line, true) } else { String::new() };
    [right, drawn.figures(line, false), ticks]
        .iter()
        .filter(|row| !row.is_empty())
        .map(|row| format!("{}{}\n", " ".repeat(indent), set(style::QUIET, row)))
        .collect()
}

/// The ruler alone, from both ends, as wide as the window.
pub fn ruler(text: &str) -> String {
    ruler_within(text, window())
}

/// The same, at most that many terminal columns wide.
pub fn ruler_within(text: &str, window: usize) -> String {
    let drawn = Drawn::of(text);
    let lines = drawn.lines(window.saturating_sub(4).max(20));
    lines
        .iter()
        .map(|line| {
            format!("{}  {}\n", ticks(&drawn, line, true, 2), set(style::STRONG, drawn.text(line)))
        })
        .collect()
}

/// A row of the drawing: the words on the left, spans of a text, what is said on the right.
#[derive(Default)]
struct Line {
    words: String,
    /// The text the spans are of; the text of the row above when not given.
    base: Option<usize>,
    spans: Vec<std::ops::Range<usize>>,
    said: String,
    /// It found nothing: the spans are where it looked.
    missing: bool,
    from_end: bool,
}

/// The whole drawing of a trace, as wide as the window.
pub fn drawn(trace: &Trace) -> String {
    drawn_within(trace, window())
}

/// The same, at most that many terminal columns wide.
pub fn drawn_within(trace: &Trace, window: usize) -> String {
    let chains: Vec<Vec<Line>> =
        trace.chains.iter().enumerate().map(|(n, chain)| lines(trace, chain, n)).collect();
    let words =
        chains.iter().flatten().map(|line| width(&line.words)).max().unwrap_or(0).min(WORDS);
    let mut text: String = chains.iter().map(|lines| block(trace, lines, words, window)).collect();
    for (name, cell) in &trace.cells {
        let shown = if cell.is_empty() { "(blank)".to_owned() } else { with_ends(cell) };
        text.push_str(&format!("  {} = {shown}\n", set(style::STRONG, visible(name))));
    }
    let findings: Vec<String> = trace
        .findings
        .iter()
        .filter_map(|(kind, reason)| match kind.name() {
            // A cell that is blank says so itself.
            name if name == reason => {
                let is_said = trace.cells.iter().all(|(_, cell)| cell.is_empty());
                (!is_said).then(|| format!("({name})"))
            }
            name => Some(format!("({name}: {})", visible(reason))),
        })
        .collect();
    if !findings.is_empty() {
        // Beside the cell when there is one alone.
        if trace.cells.len() == 1 {
            text.pop();
        }
        text.push_str(&format!("  {}\n", set(style::FINDING, findings.join(" "))));
    }
    text
}

/// The rows of one chain, with the steps after `then` when it was taken.
fn lines(trace: &Trace, chain: &ChainTrace, n: usize) -> Vec<Line> {
    let mut lines = vec![start(chain, n)];
    lines.extend(chain.steps.iter().map(step));
    if let Some((condition, holds)) = &chain.condition {
        let said = if *holds { "yes" } else { "no: the condition is not met" };
        lines.push(Line {
            words: condition.clone(),
            said: said.to_owned(),
            missing: !holds,
            ..Line::default()
        });
    }
    if n + 1 == trace.chains.len() {
        lines.extend(trace.then.iter().map(step));
        if let Some(first) = lines
            .iter_mut()
            .rev()
            .nth(trace.then.len().saturating_sub(1))
            .filter(|_| !trace.then.is_empty())
        {
            first.words = format!("then {}", first.words);
        }
    }
    for line in &mut lines {
        (line.words, line.said) = (visible(&line.words), visible(&line.said));
    }
    lines
}

fn start(chain: &ChainTrace, n: usize) -> Line {
    let mut line =
        Line { words: if n == 0 { String::new() } else { "else".to_owned() }, ..Line::default() };
    match &chain.start {
        TraceValue::Text(piece) => line.base = Some(piece.base),
        TraceValue::List(items) => line.said = listed(items),
        TraceValue::Missing(reason) => {
            (line.said, line.missing) = (format!("missing: {reason}"), true)
        }
        TraceValue::Blank => line.said = "blank on purpose".to_owned(),
    }
    line
}

fn step(traced: &StepTrace) -> Line {
    let given = pieces(&traced.given);
    let given_base = given.first().map(|piece| piece.base);
    let mut line = Line {
        words: traced.words.clone(),
        base: given_base,
        from_end: traced.from_end,
        ..Line::default()
    };
    let kept = pieces(&traced.value);
    match &traced.value {
        TraceValue::Missing(reason) => {
            line.spans = given.iter().map(|piece| piece.span.clone()).collect();
            line.said = format!("missing: {reason}");
            line.missing = true;
        }
        TraceValue::Text(piece) => {
            if Some(piece.base) == given_base {
                line.spans = vec![piece.span.clone()];
                line.said = format!("{}  {}", place(piece), with_ends(&piece.text));
            } else {
                line.said = format!("new text  {}", with_ends(&piece.text));
            }
        }
        TraceValue::List(items) => {
            line.spans = kept
                .iter()
                .filter(|piece| Some(piece.base) == given_base)
                .map(|piece| piece.span.clone())
                .collect();
            line.said = listed(items);
        }
        TraceValue::Blank => line.said = "blank on purpose".to_owned(),
    }
    for (kind, reason) in &traced.findings {
        line.said.push_str(&format!("  ({}: {reason})", kind.name()));
    }
    line
}

/// A text with blanks at its ends made visible: they are there.
fn with_ends(text: &str) -> String {
    let inner = text.trim_matches(' ');
    let blanks = |n: usize| "␣".repeat(n);
    let leading = text.len() - text.trim_start_matches(' ').len();
    let trailing = if inner.is_empty() { 0 } else { text.len() - text.trim_end_matches(' ').len() };
    format!("{}{}{}", blanks(leading), visible(inner), blanks(trailing))
}

fn place(piece: &TracePiece) -> String {
    match piece.positions {
        (first, last) if last == first => format!("char {first}"),
        (first, last) if last < first => format!("nothing before char {first}"),
        (first, last) => format!("chars {first}..{last}"),
    }
}

fn listed(items: &[Result<TracePiece, String>]) -> String {
    let texts: Vec<String> = items
        .iter()
        .map(|item| {
            item.as_ref()
                .map_or_else(|reason| format!("({reason})"), |piece| with_ends(&piece.text))
        })
        .collect();
    format!("{} item{}  {}", items.len(), if items.len() == 1 { "" } else { "s" }, texts.join("; "))
}

fn pieces(value: &TraceValue) -> Vec<&TracePiece> {
    match value {
        TraceValue::Text(piece) => vec![piece],
        TraceValue::List(items) => items.iter().flatten().collect(),
        TraceValue::Missing(_) | TraceValue::Blank => Vec::new(),
    }
}

/// Lines on one text after the other, each text with a ruler of its own; long texts go on below.
fn block(trace: &Trace, lines: &[Line], words: usize, window: usize) -> String {
    let room = window.saturating_sub(words + 6 + RESULT).max(24);
    // What is said on the right begins in one column, whichever text stands on its left.
    let wide = trace.bases.iter().map(|base| Drawn::of(base).width()).max().unwrap_or(0).min(room);
    let mut text = String::new();
    let mut from = 0;
    while from < lines.len() {
        let base = lines[from].base;
        let to = lines[from..]
            .iter()
            .position(|line| line.base.is_some() && line.base != base)
            .map_or(lines.len(), |n| from + n);
        let here = &lines[from..to];
        let drawn =
            Drawn::of(base.and_then(|base| trace.bases.get(base)).map_or("", String::as_str));
        let parts = drawn.lines(room);
        for (n, part) in parts.iter().enumerate() {
            if !drawn.cells.is_empty() {
                // A later chain starts from the same text mostly: its ruler stands above already.
                let label =
                    if here[0].words == "else" && from == 0 && n == 0 { "else" } else { "" };
                if label.is_empty() {
                    text.push_str(&ticks(
                        &drawn,
                        part,
                        here.iter().any(|line| line.from_end),
                        words + 4,
                    ));
                }
                let gap = " ".repeat(words.saturating_sub(label.len()));
                text.push_str(&format!(
                    "  {}{gap}  {}\n",
                    set(style::COMMAND, label),
                    set(style::STRONG, drawn.text(part))
                ));
            }
            for line in here.iter().filter(|line| line.words != "else" || !line.said.is_empty()) {
                let spans: Vec<std::ops::Range<usize>> =
                    line.spans.iter().map(|span| drawn.characters(span)).collect();
                let touches = |span: &std::ops::Range<usize>| {
                    span.start < part.end && (span.end > part.start || span.start == part.start)
                };
                let is_last = n + 1 == parts.len();
                let here = spans.iter().any(touches);
                let says_something = !line.words.is_empty() || !line.said.is_empty();
                // What has no place in the text stands under its last part.
                let shown = here || (is_last && spans.is_empty() && says_something);
                if !shown {
                    continue;
                }
                let began = spans.first().is_some_and(|span| span.start < part.start);
                text.push_str(&row(line, &drawn, part, &spans, (words, wide, window), began));
            }
        }
        from = to.max(from + 1);
    }
    text
}

fn row(
    line: &Line,
    drawn: &Drawn,
    part: &std::ops::Range<usize>,
    spans: &[std::ops::Range<usize>],
    (words, wide, window): (usize, usize, usize),
    began: bool,
) -> String {
    let many = spans.len() > 1;
    let sign = |n: usize| {
        let item = spans.iter().position(|span| span.contains(&n));
        match item {
            Some(_) if line.missing => LOOKED,
            // The items of a list begin with their number.
            Some(item) if many && spans[item].start == n => {
                char::from_digit(((item + 1) % 10) as u32, 10).unwrap_or(SPAN)
            }
            Some(_) => SPAN,
            None => ' ',
        }
    };
    let under = drawn.under(part, sign);
    let fill = " ".repeat(wide.saturating_sub(width(&under)));
    let label = if began { String::new() } else { clipped(&line.words, words) };
    let beside = window.saturating_sub(words + wide + 6).max(30);
    let said = if began { String::new() } else { clipped(&line.said, beside) };
    let said = if line.missing { set(style::FINDING, said) } else { said };
    let gap = " ".repeat(words.saturating_sub(width(&label)));
    let row = format!("  {}{gap}  {under}{fill}  {said}", set(style::COMMAND, label));
    format!("{}\n", row.trim_end())
}

/// The same as the drawing, for programs.
pub fn trace_json(text: &str, sample: Option<&Sample>, trace: Option<&Trace>) -> Value {
    let mut object = json!({ "text": text });
    if let Some(sample) = sample {
        object["line"] = json!(sample.line);
        object["shape"] = json!(shape(text));
        object["kind"] = json!(sample.kind);
        object["rows"] = json!(sample.rows);
    }
    if let Some(trace) = trace {
        object["texts"] = json!(trace.bases);
        object["chains"] = trace.chains.iter().map(chain_json).collect();
        object["then"] = trace.then.iter().map(step_json).collect();
        object["cells"] =
            trace.cells.iter().map(|(name, cell)| json!({ "name": name, "text": cell })).collect();
        object["findings"] = trace.findings.iter().map(finding_json).collect();
    }
    object
}

fn chain_json(chain: &ChainTrace) -> Value {
    let condition = chain.condition.as_ref();
    let condition = condition.map(|(written, holds)| json!({ "written": written, "holds": holds }));
    json!({
        "written": chain.label,
        "start": value_json(&chain.start),
        "steps": chain.steps.iter().map(step_json).collect::<Vec<_>>(),
        "condition": condition,
        "taken": chain.taken,
    })
}

fn finding_json((kind, reason): &(FindingKind, String)) -> Value {
    json!({ "kind": kind.name(), "reason": reason })
}

fn step_json(step: &StepTrace) -> Value {
    let findings: Vec<_> = step.findings.iter().map(finding_json).collect();
    json!({ "written": step.words, "gives": value_json(&step.value), "findings": findings })
}

fn value_json(value: &TraceValue) -> Value {
    let piece = |piece: &TracePiece| {
        let (first, last) = piece.positions;
        json!({ "text": piece.text, "of": piece.base, "first": first, "last": last })
    };
    let missing = |reason: &_| json!({ "missing": reason });
    match value {
        TraceValue::Text(text) => piece(text),
        TraceValue::List(items) => {
            let items = items.iter().map(|item| item.as_ref().map_or_else(missing, piece));
            json!({ "items": items.collect::<Vec<_>>() })
        }
        TraceValue::Missing(reason) => missing(reason),
        TraceValue::Blank => json!({ "blank": true }),
    }
}
