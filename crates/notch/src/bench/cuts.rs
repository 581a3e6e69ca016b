//! The cuts of the bench: what was typed, what of it is in force, and what is wrong with the rest.

use std::ops::Range;
use std::sync::Arc;

use keen_notch_core::{CutError, Plan, PlanError, has_names, is_unfinished, parse_assignment};

use super::field::Field;
use crate::jig::{CutExample, Jig, ReadCut, given};
use crate::show::Problem;

/// What a cut without a name is called.
const UNNAMED: &str = "piece";

/// A piece that was marked in a cell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Marked {
    /// The number of its row, where it was marked in one.
    pub row: Option<u64>,
    /// The line of the row, or where a jig gives it as an example.
    pub place: String,
    /// The cell.
    pub cell: String,
    /// What is to come out of it.
    pub piece: String,
}

/// A cut as it is being written.
#[derive(Debug, Clone, Default)]
pub struct BenchCut {
    /// What stands in the line.
    pub line: Field,
    /// The last text that was a cut of this table.
    pub good: Option<String>,
    /// The pieces that were marked for it.
    pub marks: Vec<Marked>,
    /// What a jig says of it beside its text.
    pub of_jig: Option<ReadCut>,
}

impl BenchCut {
    /// A cut of this text.
    pub fn of(text: impl Into<String>) -> Self {
        Self { line: Field::of(text), ..Self::default() }
    }

    /// A cut of a jig; its examples are marked pieces.
    pub fn of_jig(read: ReadCut) -> Self {
        let mark = |example: &CutExample| {
            let piece = example.pieces.first()?;
            (example.pieces.len() == 1).then(|| Marked {
                row: None,
                place: example.place.clone(),
                cell: example.cell.clone(),
                piece: piece.clone(),
            })
        };
        let marks = read.examples.iter().filter_map(mark).collect();
        let text = format!("{} = {}", read.left, read.cut);
        Self { marks, of_jig: Some(read), ..Self::of(text) }
    }

    /// Whether nothing was typed.
    pub fn is_empty(&self) -> bool {
        self.line.text().trim().is_empty()
    }

    /// The names on the left of a text, as far as it has any.
    pub fn left(text: &str) -> Option<&str> {
        has_names(text).then(|| text.split_once('=').map_or("", |(left, _)| left.trim()))
    }
}

/// How a text stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Verdict {
    /// Nothing was typed.
    Empty,
    /// It is in force.
    Good,
    /// Some further text typed at its end could make it a cut.
    Unfinished,
    /// It is no cut: where, in bytes of the line, and what to do.
    Wrong(Fault),
}

/// What is wrong with a cut.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fault {
    /// Where in the line, in bytes.
    pub place: Range<usize>,
    /// One sentence, with its remedy.
    pub said: String,
    /// What is to stand there instead, where one word is the remedy.
    pub instead: Option<String>,
}

/// The cuts held against the table.
#[derive(Clone, Default)]
pub struct Judged {
    /// The cuts in force, compiled; `None` where there is none.
    pub plan: Option<Arc<Plan>>,
    /// For each cut of the bench how its text stands.
    pub verdicts: Vec<Verdict>,
    /// For each its name as it is shown.
    pub names: Vec<String>,
    /// For each its place among those of the plan.
    pub places: Vec<Option<usize>>,
    /// For each the whole text that is in force, with its name.
    pub in_force: Vec<Option<String>>,
    /// For each a marked piece that it does not give, as it is told.
    pub not_given: Vec<Option<String>>,
    /// What is wrong with the rest of the jig.
    pub problem: Option<String>,
}

/// The whole text of a cut, which gets a name where it has none; and how many bytes stand before
/// what was typed.
fn whole(text: &str, taken: &mut Vec<String>) -> (String, usize) {
    if let Some(left) = BenchCut::left(text) {
        taken.extend(left.split(',').map(|name| name.trim().trim_matches('"').to_owned()));
        return (text.to_owned(), 0);
    }
    let numbered = (2..).map(|n| format!("{UNNAMED}{n}"));
    let mut names = std::iter::once(UNNAMED.to_owned()).chain(numbered);
    let name = names.find(|name| !taken.contains(name)).unwrap_or_default();
    let before = format!("{name} = ");
    taken.push(name);
    (format!("{before}{text}"), before.len())
}

/// A cut in one of its texts.
struct Tried {
    /// Its place in the bench.
    of: usize,
    read: ReadCut,
    /// It is what stands in the line, not the last good text.
    is_line: bool,
    /// How many bytes stand before what was typed.
    before: usize,
}

/// Holds the cuts against a table with these columns; `jig` has everything but the cuts. What is
/// good becomes the last good text of its cut.
pub fn judge(cuts: &mut [BenchCut], jig: &Jig, columns: &[String]) -> Judged {
    let mut judged = Judged {
        verdicts: vec![Verdict::Empty; cuts.len()],
        places: vec![None; cuts.len()],
        in_force: vec![None; cuts.len()],
        ..Judged::default()
    };
    let mut tried = judged.parse(cuts, columns);
    judged.plan = judged.compile(cuts, &mut tried, jig, columns).map(Arc::new);
    for (place, tried) in tried.iter().enumerate() {
        let text = tried.read.assignment.text.trim();
        judged.places[tried.of] = Some(place);
        judged.in_force[tried.of] = Some(text.to_owned());
        if tried.is_line {
            judged.verdicts[tried.of] = Verdict::Good;
            cuts[tried.of].good = Some(text.to_owned());
        }
    }
    judged.not_given = (0..cuts.len()).map(|n| judged.not_given_by(n, &cuts[n])).collect();
    judged
}

impl Judged {
    /// Parses what stands in the lines; a cut whose text is none is tried in its last good one.
    fn parse(&mut self, cuts: &[BenchCut], columns: &[String]) -> Vec<Tried> {
        let mut taken: Vec<String> = columns.to_vec();
        // Names that were given come before those that are made up.
        for cut in cuts {
            let left = BenchCut::left(cut.line.text()).into_iter();
            taken.extend(left.flat_map(|left| left.split(',')).map(|name| name.trim().to_owned()));
        }
        let mut tried: Vec<Tried> = Vec::new();
        for (of, cut) in cuts.iter().enumerate() {
            let (text, before) = whole(cut.line.text(), &mut taken);
            self.names.push(BenchCut::left(&text).unwrap_or_default().to_owned());
            if cut.is_empty() {
                continue;
            }
            match read(&text, cut) {
                Ok(read) => tried.push(Tried { of, read, is_line: true, before }),
                Err(error) => {
                    let (text, error) = (cut.line.text(), shifted(&error, before));
                    let is_wrong = match is_unfinished(text, before == 0, &error) {
                        true => unknown_column(text, &taken, columns),
                        false => Some(error),
                    };
                    self.verdicts[of] = match is_wrong {
                        Some(error) => Verdict::Wrong(fault(&error, text)),
                        None => Verdict::Unfinished,
                    };
                    tried.extend(last_good(of, cut));
                }
            }
        }
        tried
    }

    /// Compiles the cuts for the table. One that does not suit it is tried in its last good text,
    /// else left out; a rule of the jig that does not suit is left out and told.
    fn compile(
        &mut self,
        cuts: &[BenchCut],
        tried: &mut Vec<Tried>,
        jig: &Jig,
        columns: &[String],
    ) -> Option<Plan> {
        let mut jig = jig.clone();
        loop {
            jig.cuts = tried.iter().map(|tried| tried.read.clone()).collect();
            let options = jig.plan_options(columns);
            let error = match Plan::compile(&jig.assignments(), columns, &options) {
                Ok(plan) => return (!tried.is_empty()).then_some(plan),
                Err(error) => error,
            };
            match error {
                PlanError::Cut(n, error) if n < tried.len() => {
                    let wrong = tried.remove(n);
                    if !wrong.is_line {
                        continue;
                    }
                    let cut = &cuts[wrong.of];
                    let (text, error) = (cut.line.text(), shifted(&error, wrong.before));
                    self.verdicts[wrong.of] = match begins_list(text, &error, &jig) {
                        true => Verdict::Unfinished,
                        false => Verdict::Wrong(fault(&error, text)),
                    };
                    if let Some(good) = last_good(wrong.of, cut) {
                        tried.insert(n, good);
                    }
                }
                error => {
                    let place = match &error {
                        PlanError::Rule(place, _) => Some(*place),
                        _ => None,
                    };
                    self.problem.get_or_insert_with(|| first_sentence(&jig.problem(error)));
                    if !jig.leave_out(place) {
                        return None;
                    }
                }
            }
        }
    }

    /// The first marked piece that a cut, by its place in the bench, does not give, as it is told.
    fn not_given_by(&self, n: usize, cut: &BenchCut) -> Option<String> {
        let (plan, place) = (self.plan.as_ref()?, self.places[n]?);
        cut.marks.iter().find_map(|mark| match given(plan, place, &mark.cell).as_slice() {
            [given] if *given != mark.piece => Some(not_given(mark, given)),
            _ => None,
        })
    }
}

/// What is said of a marked piece that the cut does not give.
fn not_given(mark: &Marked, gives: &str) -> String {
    let shown =
        |piece: &str| if piece.is_empty() { "(blank)".to_owned() } else { piece.to_owned() };
    format!("{}: marked {}, gives {}", mark.place, shown(&mark.piece), shown(gives))
}

/// Whether what is wrong is the name of a list, at the end of a text, that a list begins with.
fn begins_list(text: &str, error: &CutError, jig: &Jig) -> bool {
    let typed = text.get(error.span.start..).unwrap_or_default();
    let is_begun = |list: &String| list.len() > typed.len() && list.starts_with(typed);
    !typed.is_empty() && error.span.end >= text.len() && jig.lists.keys().any(is_begun)
}

/// What is wrong with the name of a column that is being typed, where no column or cut, all of
/// which are `taken`, begins so.
fn unknown_column(text: &str, taken: &[String], columns: &[String]) -> Option<CutError> {
    let open = text.rfind('{')?;
    let typed = text[open + 1..].trim_start();
    let is_begun = |name: &str| name.starts_with(typed);
    if typed.contains(['}', '|', '"', '\''])
        || text[..open].matches('"').count() % 2 == 1
        || taken.iter().any(|name| is_begun(name))
        || is_begun("column ")
        || typed.starts_with("column ")
    {
        return None;
    }
    let alone = parse_assignment(&format!("{UNNAMED} = {{{typed}}}")).ok()?;
    match Plan::compile(&[alone], columns, &Jig::default().plan_options(columns)).err()? {
        PlanError::Cut(_, error) => Some(CutError { span: open..text.len(), ..error }),
        _ => None,
    }
}

/// Reads a whole text, with what a jig says of its cut.
fn read(text: &str, cut: &BenchCut) -> Result<ReadCut, CutError> {
    let read = ReadCut::of(parse_assignment(text)?);
    Ok(match &cut.of_jig {
        Some(of_jig) => ReadCut {
            about: of_jig.about.clone(),
            replace: of_jig.replace,
            on_finding: of_jig.on_finding,
            ..read
        },
        None => read,
    })
}

/// The last good text of a cut.
fn last_good(of: usize, cut: &BenchCut) -> Option<Tried> {
    let read = read(cut.good.as_deref()?, cut).ok()?;
    Some(Tried { of, read, is_line: false, before: 0 })
}

/// The same error for what was typed, without what stands before it.
fn shifted(error: &CutError, before: usize) -> CutError {
    let at = |byte: usize| byte.saturating_sub(before);
    CutError { span: at(error.span.start)..at(error.span.end), ..error.clone() }
}

fn fault(error: &CutError, text: &str) -> Fault {
    let message = error.message.trim_end_matches('.');
    let said = match error.remedies.first() {
        Some(remedy) => format!("{message}. {remedy}"),
        None => format!("{message}."),
    };
    let at = |byte: usize| {
        (0..=byte.min(text.len())).rev().find(|byte| text.is_char_boundary(*byte)).unwrap_or(0)
    };
    let (from, to) = (at(error.span.start), at(error.span.end));
    Fault { place: from..to.max(from), said, instead: error.instead.as_deref().map(str::to_owned) }
}

/// The first sentence of a problem, for the message line.
pub fn first_sentence(problem: &Problem) -> String {
    match problem {
        Problem::Several(problems) => problems.first().map(first_sentence).unwrap_or_default(),
        Problem::Said { message, remedies } => [Some(message), remedies.first()]
            .into_iter()
            .flatten()
            .cloned()
            .collect::<Vec<_>>()
            .join(" "),
        Problem::Table(error) => format!("{error} {}", error.remedy()).trim().to_owned(),
        Problem::Cut { place, error, text, .. } => {
            let said = fault(error, text).said;
            place.as_ref().map_or(said.clone(), |place| format!("{place}: {said}"))
        }
    }
}
