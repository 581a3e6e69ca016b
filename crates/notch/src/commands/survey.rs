//! `notch survey`: look before cutting.

use std::path::Path;
use std::process::ExitCode;

use keen_notch_core::characters::is_blank;
use keen_notch_core::{
    ColumnOverview, ColumnSurvey, Glance, Layouts, OpenText, OverviewPart, TextSample, shape,
};
use keen_notch_table::{NewFile, Source, Table, TableError, Whereabouts, gather_columns};
use serde_json::json;

use super::files::files_differ;
use super::second_pass::second_pass;
use super::session::{say_notices, shown};
use super::tally;
use crate::cli::{Reading, Survey};
use crate::ends::interrupted;
use crate::jig::Jig;
use crate::jig::draft::draft;
use crate::pages::{PageHead, save_page, survey_page};
use crate::show::{
    MORE_OF_A_COLUMN, Problem, Surveyed, overview, page, print, print_json, say, survey_json,
    visible,
};

pub fn run(args: &Survey) -> Result<ExitCode, Problem> {
    let outputs = [
        ("the jig to be saved", args.save_jig.as_ref()),
        ("the findings file", args.findings.as_ref()),
        ("the page", args.page.file.as_ref()),
        ("the tally", args.tally.file.as_ref()),
    ];
    files_differ(&args.table, &Jig::default(), &outputs)?;
    let step = args.sample.map_or(1, |wanted| sample_step(&args.table, wanted));
    let is_whole_table = args.column.is_empty()
        && !args.json
        && args.save_jig.is_none()
        && args.findings.is_none()
        && args.page.file.is_none();
    if is_whole_table && step == 1 {
        return glance(args);
    }
    if args.tally.file.is_some() {
        return Err(Problem::said(
            "a tally of a survey is of all rows and columns at a glance: for more, a table is read \
            twice.",
            "Leave -c, --sample, --findings, --save-jig, --page and --json out, or ask them of the \
            whole table.",
        ));
    }
    let look = look(&args.table, &args.reading, &args.column, step, args.findings.as_deref())?;
    if step > 1 {
        say(format_args!(
            "Every {step}th row was looked at; the figures are those of the sample.\n"
        ));
    }
    let Look { name, columns, whereabouts, unreadable, listed } = &look;
    let values = || {
        let columns = columns.iter().map(|column| survey_json(column, whereabouts));
        let columns: Vec<_> = columns.collect();
        json!({ "version": 1, "table": name, "unreadable": unreadable, "columns": columns })
    };
    if let Some(path) = &args.page.file {
        let head = PageHead {
            title: format!("What {name} holds"),
            table: name,
            jigs: Vec::new(),
            day: args.page.day.as_deref(),
            shows_texts: !args.page.no_texts,
        };
        save_page(path, &survey_page(&head, &values()))?;
        say(format_args!("The page {} shows this to people without a terminal.\n", shown(path)));
    }
    if args.json {
        print_json(&values())?;
    } else if !args.column.is_empty() {
        let pages = columns.iter().map(|column| page(column, name, whereabouts, *unreadable));
        print(pages.collect::<Vec<_>>().join("\n"))?;
    } else {
        let seen: Vec<(String, Glance)> =
            columns.iter().map(|column| (column.name.clone(), column.survey.glance())).collect();
        print(overview(&seen, name, *unreadable) + MORE_OF_A_COLUMN)?;
    }
    if let Some(path) = &args.findings {
        let texts = if *listed == 1 { "text is" } else { "texts are" };
        say(format_args!("{listed} odd {texts} listed in {}.\n", shown(path)));
    }
    if let Some(path) = &args.save_jig {
        look.save_draft(path)?;
    }
    Ok(ExitCode::SUCCESS)
}

/// One line for each column, from one pass.
fn glance(args: &Survey) -> Result<ExitCode, Problem> {
    let source = Source::from_argument(&args.table);
    let table = Table::open(&source, &args.reading.options())?;
    say_notices(&table);
    let (name, names) = (table.name().to_owned(), table.columns().to_vec());
    let places: Vec<usize> = (0..names.len()).collect();
    let keeps = args.tally.file.is_some();
    let how = Gathering {
        whole: if keeps { ColumnOverview::keeping } else { ColumnOverview::default },
        part: ColumnOverview::part,
        add: |column: &mut ColumnOverview, cell: OpenText<'_>, row, line| {
            column.add(cell, row, line)
        },
        merge: ColumnOverview::merge,
    };
    let made = |seen: ColumnOverview| (seen.glance(), keeps.then(|| seen.to_part()));
    let (seen, unreadable) = gather_all((table, &source, &args.reading), &places, 1, &how, made)?;
    let (seen, parts): (Vec<Glance>, Vec<Option<OverviewPart>>) = seen.into_iter().unzip();
    let parts = parts.into_iter().flatten().collect();
    tally::write_survey(&args.tally, &name, &names, (parts, unreadable))?;
    let seen: Vec<(String, Glance)> = names.into_iter().zip(seen).collect();
    print(overview(&seen, &name, unreadable) + MORE_OF_A_COLUMN)?;
    Ok(ExitCode::SUCCESS)
}

/// What is known of columns of a table.
pub struct Look {
    /// What the table is called.
    pub name: String,
    /// The columns.
    pub columns: Vec<Surveyed>,
    whereabouts: Whereabouts,
    unreadable: u64,
    /// How many odd texts were listed.
    listed: u64,
}

impl Look {
    /// Writes a first jig for the columns into a file, and says how to go on.
    ///
    /// # Errors
    /// The file cannot be written.
    pub fn save_draft(&self, path: &Path) -> Result<(), Problem> {
        if self.columns.iter().all(|column| column.survey.filled() == 0) {
            say(format_args!(
                "There is no text to tell anything by, so {} was not written.\n",
                shown(path)
            ));
            return Ok(());
        }
        let mut file = NewFile::create(path)?;
        file.write(self.draft(&shown(path)).as_bytes())?;
        file.finish()?;
        say(format_args!(
            "The jig {0} has what nearly all rows have in common. Read it, then: notch check {1} \
            -j {0}\n",
            shown(path),
            visible(&self.name)
        ));
        Ok(())
    }

    /// A first jig for the columns, which is called `path`.
    pub fn draft(&self, path: &str) -> String {
        draft(&self.name, &self.columns, path)
    }
}

/// The number of columns of which texts are kept to try cuts on, up to 4 MB each.
const FEW: usize = 4;

/// Looks at these columns of a table, all where none is named: of every `step`th row. It must be
/// known what a column is like before its odd texts are told, and the cuts that suit it are tried:
/// where what was kept of the rows does not do for that, they are read a second time. The odd texts
/// are listed in a file if one is given.
///
/// # Errors
/// The table cannot be read, has no such column, or the file cannot be written.
pub fn look(
    table: &Path,
    reading: &Reading,
    wanted: &[String],
    step: u64,
    findings: Option<&Path>,
) -> Result<Look, Problem> {
    let source = Source::from_argument(table).to_be_read_again()?;
    let table = Table::open(&source, &reading.options())?;
    say_notices(&table);
    let (name, names, whereabouts) =
        (table.name().to_owned(), table.columns().to_vec(), table.whereabouts());
    let mut places: Vec<usize> =
        wanted.iter().map(|column| place(column, &names)).collect::<Result<_, _>>()?;
    if wanted.is_empty() {
        places = (0..names.len()).collect();
    }
    // A column that is named twice is looked at once.
    let mut seen = std::collections::BTreeSet::new();
    places.retain(|place| seen.insert(*place));
    // Of a sample all rows can be looked at closely.
    let add: fn(&mut ColumnSurvey, OpenText<'_>, u64, u64) = match step {
        1 => |column, cell, row, line| column.add(cell, row, line),
        _ => |column, cell, row, line| column.add_closely(cell, row, line),
    };
    let how = Gathering {
        // Of a sample cuts are tried on all rows.
        whole: match step {
            1 if places.len() <= FEW => ColumnSurvey::keeping_texts,
            _ => ColumnSurvey::default,
        },
        part: ColumnSurvey::part,
        add,
        merge: ColumnSurvey::merge,
    };
    let (surveys, unreadable) =
        gather_all((table, &source, reading), &places, step, &how, |survey| survey)?;
    let surveyed = |(place, survey): (&usize, ColumnSurvey)| {
        let layouts = survey.layouts();
        Surveyed {
            name: names[*place].clone(),
            only_place: needs_place(&names, *place).then_some(place + 1),
            troubles: survey.troubles(),
            proposals: survey.proposals(&names, &layouts),
            holds: survey.holds(&layouts),
            layouts,
            tried: 0,
            survey,
        }
    };
    let mut columns: Vec<Surveyed> = places.iter().zip(surveys).map(surveyed).collect();
    let open = || Table::open(&source, &reading.options());
    let listed = second_pass(open, &places, step, &mut columns, findings)?;
    Ok(Look { name, columns, whereabouts, unreadable, listed })
}

/// The layouts of the column at a place of a table, from one pass over it.
///
/// # Errors
/// The table cannot be read.
pub fn layouts_of(table: Table, place: usize) -> Result<Layouts, TableError> {
    let add = |sample: &mut TextSample, text: OpenText<'_>, row, line| {
        if !is_blank(&text) {
            sample.add(&text, row, line);
        }
    };
    let how = Gathering {
        whole: TextSample::default,
        part: TextSample::default,
        add,
        merge: TextSample::merge,
    };
    let (samples, _) = gather(table, &[place], 1, &how)?;
    Ok(samples.first().map(TextSample::layouts).unwrap_or_default())
}

/// What kind a text is of, for views that show one row of each: its layout, else its shape. None of
/// a blank one.
pub fn kind_of(layouts: &Layouts, text: &str) -> String {
    if is_blank(text) {
        return String::new();
    }
    match layouts.place(text) {
        _ if !layouts.say_more_than_shapes() => shape(text),
        Some(n) => layouts.layouts[n].pattern.clone(),
        None => format!("of no layout, {}", shape(text)),
    }
}

/// What is gathered of a column: an empty whole, an empty part, how a cell is added to one, and a
/// part to the whole.
struct Gathering<G, A> {
    whole: fn() -> G,
    part: fn() -> G,
    add: A,
    merge: fn(&mut G, &mut G),
}

/// The number of columns that are gathered at a time, which bounds the memory: each takes up to a
/// megabyte while it is gathered, most of it its sample.
const TOGETHER: usize = 250;

/// Gathers what is to be known of the columns at these places, in several passes where they are
/// many and the table can be read again, and makes of each what `made` gives.
fn gather_all<G: Send, A: Fn(&mut G, OpenText<'_>, u64, u64) + Sync, R>(
    (table, source, reading): (Table, &Source, &Reading),
    places: &[usize],
    step: u64,
    how: &Gathering<G, A>,
    made: impl Fn(G) -> R,
) -> Result<(Vec<R>, u64), TableError> {
    let together = if source.can_be_read_again() { TOGETHER } else { places.len().max(1) };
    let (mut all, mut unreadable, mut first) = (Vec::new(), 0, Some(table));
    for places in places.chunks(together) {
        let table = match first.take() {
            Some(table) => table,
            None => Table::open(source, &reading.options())?,
        };
        let (some, not_read) = gather(table, places, step, how)?;
        all.extend(some.into_iter().map(&made));
        unreadable = not_read;
    }
    Ok((all, unreadable))
}

/// Gathers what is to be known of the columns at these places, of every `step`th row; returns how
/// many rows cannot be read.
fn gather<G: Send, A: Fn(&mut G, OpenText<'_>, u64, u64) + Sync>(
    table: Table,
    places: &[usize],
    step: u64,
    how: &Gathering<G, A>,
) -> Result<(Vec<G>, u64), TableError> {
    let each = |begin: fn() -> G| (places.iter().map(|_| begin()).collect::<Vec<G>>(), 0);
    gather_columns(
        (table, places),
        Some(interrupted()),
        each(how.whole),
        || each(how.part),
        |(columns, _), cells| {
            let column = &mut columns[cells.column];
            // Divisions are slow, and mostly there is no sample.
            cells.each(|row, line, cell| {
                if step == 1 || (row - 1) % step == 0 {
                    (how.add)(column, cell, row, line);
                }
            });
        },
        |(_, unreadable), _, _| *unreadable += 1,
        |(all, all_unreadable), (columns, unreadable)| {
            *all_unreadable += std::mem::take(unreadable);
            all.iter_mut().zip(columns).for_each(|(column, part)| (how.merge)(column, part));
            Ok(())
        },
    )
}

/// Whether a column, by its place from 0, cannot be told by its name.
fn needs_place(names: &[String], place: usize) -> bool {
    let name = &names[place];
    let is_odd = name.is_empty()
        || name.starts_with("column ")
        || name.contains(|c: char| matches!(c, '{' | '}' | '"' | '\\' | '|') || c.is_control());
    is_odd || names.iter().filter(|other| *other == name).count() > 1
}

/// The column of this name, or of this place.
pub fn place(column: &str, names: &[String]) -> Result<usize, Problem> {
    let inside = column.trim_start_matches('{').trim_end_matches('}');
    let by_place = inside
        .strip_prefix("column ")
        .and_then(|figure| figure.trim().parse::<usize>().ok())
        .map(|place| place.wrapping_sub(1));
    names
        .iter()
        .position(|name| name == inside)
        .or(by_place.filter(|place| *place < names.len()))
        .ok_or_else(|| {
            let near = keen_notch_core::nearest(inside, names.iter().map(String::as_str))
                .map_or(String::new(), |near| format!("The nearest is {near}. "));
            Problem::said(
                format!("there is no column {inside}."),
                format!("{near}The columns are: {}.", names.join(", ")),
            )
        })
}

/// Every how many rows one is looked at, so that about as many as wanted are; a file says its size,
/// a row is taken to have a hundred bytes.
fn sample_step(path: &Path, wanted: u64) -> u64 {
    let bytes = path.metadata().map_or(0, |metadata| metadata.len());
    (bytes / 100 / wanted.max(1)).max(1)
}
