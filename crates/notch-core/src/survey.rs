//! What a column looks like, gathered in one pass in memory that does not grow with the rows, and
//! the cuts that suit it.

mod alike;
mod by_layout;
mod bytes;
mod kinds;
mod layout;
mod odd;
mod overview;
mod parts;
mod pieces;
mod proposal;
mod propose;
mod rows;
mod rules;
mod runs;
mod section;
mod texts;

use std::collections::BTreeMap;
use std::mem::take;

use crate::first_row::FirstRow;
use crate::layouts::{Layouts, SAMPLE, Sampled, TextSample};
use crate::schemes::SCHEMES;
use crate::shape::ShapeCounts;
use crate::text::{self, DATES, OpenText, characters};
use alike::OfShape;
pub use alike::{Alike, AlikeTexts};
use bytes::{AT, BEYOND, CONTROL, Look, RETURN, SPACE};
pub use odd::{LIKE_DIGITS, Oddities, Trouble};
pub use overview::{ColumnOverview, Glance, OverviewPart};
pub use parts::Position;
pub(crate) use parts::{Divided, PART_TEXTS, PARTS, PartSurvey, WORDS};
use parts::{positions, reach};
pub use proposal::Proposal;
pub use rows::RowSample;
use rows::{RowTexts, is_looked_at};
pub use rules::{ColumnHolds, Held};
use runs::runs_of;
pub use texts::Distinct;
use texts::Texts;

/// How many shapes are told apart.
const MOST_SHAPES: usize = 10_000;
/// That many texts of each part are asked what they are, whatever the others have been.
const SURELY: u64 = 50;
/// Texts of more characters count as such of that many.
const LONGEST: usize = 1000;
/// How many positions from either end are looked at.
const POSITIONS: usize = 120;
/// What stands at them comes from all rows up to this one, and from one in 16 after it.
const FIRST_ROWS: u64 = 65_536;

/// Texts of the first shapes of a part of a column, as many as these, are divided when the part is
/// over, all of a shape at once: one by one that took 1,100 instructions a text.
const SHAPES_TO_DIVIDE: usize = 256;
/// Longer texts, in bytes, are not.
const LONGEST_TO_DIVIDE: usize = 100;

/// The characters that may divide sections.
pub(crate) const DIVIDERS: [char; 13] =
    ['-', '/', '_', '.', ':', ';', ',', '|', '#', '~', '+', '@', ' '];
/// Those that may divide sentences.
pub(crate) const DIVIDERS_OF_PROSE: [char; 6] = [',', ';', '|', '/', '#', '~'];

/// What a column looks like, gathered in one pass and in bounded memory: shapes, lengths,
/// positions, sections and odd texts, and from them the cuts that suit it.
///
/// ```
/// # use keen_notch_core::ColumnSurvey;
/// let mut survey = ColumnSurvey::default();
/// for (row, lot) in (1..).zip(["FH-2019", "GR-2020", "ML-2021", "GR 2020"]) {
///     survey.add(lot, row, row + 1);
/// }
/// let (shapes, _) = survey.shapes();
/// assert_eq!((shapes[0].0, shapes[0].1), ("[U2]-[d4]", 3));
/// ```
pub struct ColumnSurvey {
    /// Rows, blank ones included.
    pub rows: u64,
    /// Rows with nothing or only white space.
    pub blank: u64,
    texts: Texts,
    sample: TextSample,
    /// How many texts have that many characters, by their number.
    lengths: Vec<u64>,
    shapes: ShapeCounts,
    /// What is known of the texts of each shape, in their order.
    of_shapes: Vec<OfShape>,
    /// Some of many texts on which cuts can be run, where they are kept.
    to_cut: Option<RowTexts>,
    /// What stands at each position from the left, in the texts that tell it.
    pub left: Vec<Position>,
    /// What stands at each position from the right, but in those of many words.
    pub right: Vec<Position>,
    pub(crate) divided: Vec<Divided>,
    /// In a part, how many texts of each shape, by its place, are to be divided when it is over.
    to_divide: Option<Vec<u64>>,
    troubles: Vec<Trouble>,
    /// Texts that are numbers, whole numbers, ISO dates, e-mail addresses.
    pub(crate) numbers: u64,
    pub(crate) dates: [u64; DATES.len()],
    pub(crate) emails: u64,
    /// Texts of several words.
    pub(crate) sentences: u64,
    pub(crate) schemes: [u64; SCHEMES.len()],
    /// So few texts were numbers, dates or of a scheme that the others are not asked.
    are_of_no_kind: bool,
}

/// Those of them in which day and month may be taken for each other.
pub(crate) const ALIKE: [(&str, &str); 2] =
    [("DD/MM/YYYY", "MM/DD/YYYY"), ("D/M/YYYY", "M/D/YYYY")];

impl Default for ColumnSurvey {
    fn default() -> Self {
        Self {
            rows: 0,
            blank: 0,
            texts: Texts::default(),
            sample: TextSample::default(),
            lengths: Vec::new(),
            shapes: ShapeCounts::keeping(MOST_SHAPES),
            of_shapes: Vec::new(),
            to_cut: None,
            left: Vec::new(),
            right: Vec::new(),
            divided: vec![Divided::default(); DIVIDERS.len()],
            to_divide: None,
            troubles: Vec::new(),
            numbers: 0,
            dates: [0; DATES.len()],
            emails: 0,
            sentences: 0,
            schemes: [0; SCHEMES.len()],
            are_of_no_kind: false,
        }
    }
}

impl ColumnSurvey {
    /// Takes a cell of that row and line. What stands at each position comes from the first rows
    /// and some of those after.
    pub fn add<'t>(&mut self, text: impl Into<OpenText<'t>>, row: u64, line: u64) {
        self.take(text.into(), (row, line), is_looked_at(row, FIRST_ROWS, 4));
    }

    /// Takes a cell that also tells what stands at each position, whatever its row.
    pub fn add_closely<'t>(&mut self, text: impl Into<OpenText<'t>>, row: u64, line: u64) {
        self.take(text.into(), (row, line), true);
    }

    fn take(&mut self, open_text: OpenText<'_>, (row, line): (u64, u64), closely: bool) {
        let text = open_text.text();
        self.rows += 1;
        let fitting = self.shapes.add_fitting(open_text);
        if fitting.is_none() && characters::is_blank(text) {
            self.blank += 1;
            return;
        }
        self.texts.add(text, (row, line));
        self.sample.add(text, row, line);
        if let Some(texts) = &mut self.to_cut {
            texts.add(text, row);
        }
        let counted = fitting.unwrap_or_else(|| self.shapes.add_unseen(open_text, line));
        let shape = counted.place;
        if shape == Some(self.of_shapes.len()) {
            let first = FirstRow { row, line, text: text.to_owned() };
            self.of_shapes.push(OfShape::of(first));
        }
        let is_prose = self.is_prose();
        let mut of_shape = shape.and_then(|place| self.of_shapes.get_mut(place));
        // White space of one shape may be blanks or tabs, but where a pattern says which.
        let is_known =
            |look: &Look| counted.is_plain && (fitting.is_some() || look.seen & SPACE == 0);
        let known = of_shape.as_ref().and_then(|of_shape| of_shape.look).filter(is_known);
        let look = known.unwrap_or_else(|| Look::at(open_text));
        let Look { seen, words, has_two_blanks, is_email } = look;
        if let Some(of_shape) = &mut of_shape {
            of_shape.add(open_text, seen, is_prose);
            if known.is_none() {
                of_shape.look = of_shape.look.or_else(|| look.of_shape(text));
            }
        }
        self.places(text, closely, seen, words <= WORDS);
        if closely || !self.leave_for_later(text, shape, seen) {
            self.divide(text, seen, line);
        }
        let trimmed = if seen & (SPACE | BEYOND) != 0 { trim(text) } else { text };
        self.count_kinds(trimmed, seen, words);
        if seen & AT != 0 {
            // What so far holds for few is not asked of every text that follows.
            let filled = self.filled();
            if filled < SURELY || self.emails * 10 > filled * 7 {
                self.emails += u64::from(is_email || text::is_email(trimmed));
            }
        }
        if seen & (SPACE | CONTROL | BEYOND) != 0 {
            self.look_for_trouble(text, has_two_blanks, seen, (row, line));
        }
    }

    /// Leaves a text to be divided with all of its shape; returns whether it can be. What stands in
    /// its parts, beside their shapes, is then not looked at.
    fn leave_for_later(&mut self, text: &str, shape: Option<usize>, seen: u32) -> bool {
        // All white space is blanks, each byte is a character, and the shape is that of all of it.
        let is_clear = seen & (CONTROL | BEYOND) == 0 && text.len() <= LONGEST_TO_DIVIDE;
        let is_prose = self.is_prose();
        let Some((to_divide, shape)) = self.to_divide.as_mut().zip(shape) else { return false };
        if !is_clear || is_prose || shape >= SHAPES_TO_DIVIDE {
            return false;
        }
        if to_divide.len() <= shape {
            to_divide.resize(shape + 1, 0);
        }
        to_divide[shape] += 1;
        true
    }

    /// Divides the texts that were left for later.
    fn divide_shapes(&mut self) {
        let to_divide = self.to_divide.as_mut().map(take).unwrap_or_default();
        for (texts, shape) in to_divide.into_iter().zip(self.shapes.in_order()) {
            if texts == 0 {
                continue;
            }
            let runs = runs_of(&shape.shape);
            for (divided, divider) in self.divided.iter_mut().zip(DIVIDERS) {
                let kind = if divider == ' ' { 's' } else { divider };
                if runs.iter().any(|(of, _)| *of == kind) {
                    divided.add_shape(&runs, divider, (texts, shape.first_line));
                }
            }
        }
    }

    /// Divides a text by each of the dividers that are in it.
    fn divide(&mut self, text: &str, seen: u32, line: u64) {
        // Most characters are in few texts. One that divides too few to matter is only counted; of
        // those in sentences, most are.
        let (filled, mut there) = (self.filled(), seen & ((1 << DIVIDERS.len()) - 1));
        let is_prose = self.is_prose();
        let has_space = seen & (SPACE | BEYOND) != 0;
        let least = if is_prose { filled / 5 * 4 } else { filled / 20 };
        while there != 0 {
            let n = there.trailing_zeros() as usize;
            let has_parts = filled < SURELY
                || self.divided[n].texts >= least
                    && (!is_prose || DIVIDERS_OF_PROSE.contains(&DIVIDERS[n]));
            self.divided[n].add(text, DIVIDERS[n] as u8, has_space, has_parts, line);
            there &= there - 1;
        }
    }

    /// How long it is, and, looked at closely, what stands where, from the right if that is of
    /// interest.
    fn places(&mut self, text: &str, closely: bool, seen: u32, from_right: bool) {
        // Each byte is a character, but of a carriage return and a line feed that make one
        // together.
        let length = if seen & (BEYOND | RETURN) == 0 {
            let reached = text.len().min(POSITIONS);
            if closely {
                reach(&mut self.left, reached);
                self.left
                    .iter_mut()
                    .zip(text.as_bytes())
                    .for_each(|(position, byte)| position.add_plain(*byte));
            }
            if closely && from_right {
                reach(&mut self.right, reached);
                self.right
                    .iter_mut()
                    .zip(text.as_bytes().iter().rev())
                    .for_each(|(position, byte)| position.add_plain(*byte));
            }
            text.len()
        } else {
            if closely {
                positions(&mut self.left, characters::each(text));
            }
            if closely && from_right {
                positions(&mut self.right, characters::each(text).rev());
            }
            characters::count(text)
        };
        let length = length.min(LONGEST);
        if self.lengths.len() <= length {
            self.lengths.resize(length + 1, 0);
        }
        self.lengths[length] += 1;
    }

    /// The survey of a column that keeps texts to run cuts on, up to 4 MB: [`ColumnSurvey::alike`]
    /// can tell more then.
    pub fn keeping_texts() -> Self {
        Self { to_cut: Some(RowTexts::default()), ..Self::default() }
    }

    /// The survey of a part of a column, to be merged.
    pub fn part() -> Self {
        let divided = vec![Divided { is_part: true, ..Divided::default() }; DIVIDERS.len()];
        Self {
            shapes: ShapeCounts::part(),
            to_cut: Some(RowTexts::default()),
            divided,
            to_divide: Some(Vec::new()),
            ..Self::default()
        }
    }

    /// Adds the survey of the part that comes next, and empties it. Of that only what it has
    /// learned to tell quickly is left.
    pub fn merge(&mut self, part: &mut ColumnSurvey) {
        part.divide_shapes();
        self.rows += take(&mut part.rows);
        self.blank += take(&mut part.blank);
        self.texts.merge(&mut part.texts);
        self.sample.merge(&mut part.sample);
        self.lengths.resize(self.lengths.len().max(part.lengths.len()), 0);
        self.lengths
            .iter_mut()
            .zip(&mut part.lengths)
            .for_each(|(ours, theirs)| *ours += take(theirs));
        if let Some(theirs) = &mut part.to_cut {
            match &mut self.to_cut {
                Some(ours) => ours.merge(theirs),
                None => *theirs = RowTexts::default(),
            }
        }
        let of_shapes = &mut self.of_shapes;
        self.shapes.merge_and_tell(&mut part.shapes, |theirs, ours| {
            let Some(theirs) = part.of_shapes.get(theirs) else { return };
            match of_shapes.get_mut(ours) {
                Some(ours) => ours.merge(theirs),
                None => of_shapes.push(theirs.clone()),
            }
        });
        if part.shapes.in_order().is_empty() {
            part.of_shapes.clear();
        }
        for (ours, theirs) in [(&mut self.left, &mut part.left), (&mut self.right, &mut part.right)]
        {
            ours.resize_with(ours.len().max(theirs.len()), Position::default);
            ours.iter_mut().zip(theirs).for_each(|(ours, theirs)| ours.merge(theirs));
        }
        self.divided
            .iter_mut()
            .zip(&mut part.divided)
            .for_each(|(ours, theirs)| ours.merge(theirs));
        for theirs in part.troubles.drain(..) {
            match self.troubles.iter_mut().find(|ours| ours.what == theirs.what) {
                Some(ours) => ours.texts += theirs.texts,
                None => self.troubles.push(theirs),
            }
        }
        part.are_of_no_kind = false;
        self.numbers += take(&mut part.numbers);
        self.emails += take(&mut part.emails);
        self.sentences += take(&mut part.sentences);
        self.dates.iter_mut().zip(&mut part.dates).for_each(|(ours, theirs)| *ours += take(theirs));
        self.schemes
            .iter_mut()
            .zip(&mut part.schemes)
            .for_each(|(ours, theirs)| *ours += take(theirs));
    }

    fn look_for_trouble(
        &mut self,
        text: &str,
        has_two_blanks: bool,
        seen: u32,
        (row, line): (u64, u64),
    ) {
        odd::each_trouble(text, has_two_blanks, seen, |what| {
            match self.troubles.iter_mut().find(|trouble| trouble.what == what) {
                Some(trouble) => trouble.texts += 1,
                None => self.troubles.push(Trouble {
                    what,
                    texts: 1,
                    first: FirstRow { row, line, text: text.to_owned() },
                }),
            }
        });
    }

    /// How many rows have a text.
    pub fn filled(&self) -> u64 {
        self.rows - self.blank
    }

    /// Whether most texts are sentences.
    pub fn is_prose(&self) -> bool {
        self.sentences * 2 > self.filled()
    }

    /// The layouts of a sample of the texts, which has all of them where they are not many.
    pub fn layouts(&self) -> Layouts {
        Layouts::of(&self.sample.texts(SAMPLE))
    }

    pub(crate) fn sample(&self) -> Vec<Sampled> {
        self.sample.texts(SAMPLE)
    }

    /// The same by fewer texts, for a glance at many columns.
    pub(crate) fn likely_layouts(&self) -> Layouts {
        Layouts::of(&self.sample.texts(SAMPLE / 4))
    }

    /// How many texts tell what stands at each position.
    pub fn placed(&self) -> u64 {
        self.left.first().map_or(0, Position::texts)
    }

    /// How many different texts there are.
    pub fn distinct(&self) -> Distinct {
        self.texts.distinct()
    }

    /// The texts that stand in more than one row, with their counts and first rows, the commonest
    /// first; `None` when there are too many different texts to know.
    pub fn repeated(&self) -> Option<Vec<(&str, u64, u64)>> {
        self.texts.repeated()
    }

    /// How many texts have that many characters; those of more than 1,000 count as such of 1,000.
    pub fn lengths(&self) -> BTreeMap<usize, u64> {
        self.lengths.iter().copied().enumerate().filter(|(_, texts)| *texts > 0).collect()
    }

    /// The shapes with their counts and first rows, the commonest first, and how many texts have a
    /// shape that was not kept.
    pub fn shapes(&self) -> (Vec<(&str, u64, &FirstRow)>, u64) {
        let each = self.shapes.in_order().iter().zip(&self.of_shapes);
        let mut shapes: Vec<(&str, u64, &FirstRow)> =
            each.map(|(shape, of)| (&*shape.shape, shape.count, &of.first)).collect();
        shapes.sort_by(|a, b| b.1.cmp(&a.1).then(a.2.row.cmp(&b.2.row)));
        (shapes, self.shapes.beyond())
    }

    /// The characters that divide at least half of the texts, with how many texts have that many
    /// parts, and the shapes of each part but where most texts are sentences and it does not divide
    /// them all.
    pub fn dividers(&self) -> Vec<(char, BTreeMap<usize, u64>, Vec<&ShapeCounts>)> {
        let half = self.filled().div_ceil(2).max(1);
        let divides = |divided: &&Divided| {
            divided
                .counts
                .iter()
                .filter(|(parts, _)| **parts > 1)
                .map(|(_, texts)| texts)
                .sum::<u64>()
                >= half
        };
        let each = DIVIDERS.iter().zip(&self.divided).filter(|(_, divided)| divides(divided));
        let counts = |divided: &Divided| {
            let one = Some((1, divided.undivided(self.filled()))).filter(|(_, texts)| *texts > 0);
            divided.counts.clone().into_iter().chain(one).collect()
        };
        // What divides sentences has no parts worth looking at, but where it divides them all.
        let is_prose = self.is_prose();
        let own = self.divider().map(|divider| divider.character);
        each.map(|(divider, divided)| {
            let parts = divided.parts.iter().filter(|_| !is_prose || own == Some(*divider));
            (*divider, counts(divided), parts.map(|part| &part.shapes).collect())
        })
        .collect()
    }
}

/// The same as `str::trim`, quicker where there is nothing to be done.
#[inline]
fn trim(text: &str) -> &str {
    match text.as_bytes() {
        [b'!'..=b'~', .., b'!'..=b'~'] => text,
        _ => text.trim(),
    }
}
