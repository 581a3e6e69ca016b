//! Pieces of many rows at once: where each lies in the texts of a batch.

use crate::evaluate::value::Piece;

/// A piece of the texts of a batch, in bytes: first come those of its block, behind them those that steps have made. An empty one is no
/// piece at all.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Place {
    from: u32,
    to: u32,
}

impl Place {
    /// Nowhere.
    pub(crate) const NONE: Place = Place { from: 0, to: 0 };

    /// The bytes from one place of the block up to another; nowhere when there are none, or too many to be counted.
    #[inline]
    pub fn new(from: usize, to: usize) -> Self {
        match (u32::try_from(from), u32::try_from(to)) {
            (Ok(from), Ok(to)) if from < to => Self { from, to },
            _ => Self::NONE,
        }
    }

    /// From one place to another inside of a place.
    #[inline(always)]
    fn of(span: Option<(usize, usize)>) -> Self {
        match span {
            // What lies in a place can be counted as places are.
            Some((from, to)) if from < to => Self { from: from as u32, to: to as u32 },
            _ => Self::NONE,
        }
    }

    /// The part of it from one of its bytes up to another.
    #[inline]
    pub(crate) fn part(self, from: usize, to: usize) -> Self {
        Self::new(self.from as usize + from, self.from as usize + to)
    }

    /// Whether it is nowhere.
    #[inline]
    pub(crate) fn is_none(self) -> bool {
        self.from == self.to
    }
}

/// What the pieces of a batch are pieces of.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Texts<'a> {
    pub block: &'a str,
    pub made: &'a str,
}

impl<'a> Texts<'a> {
    /// The text a piece lies in, and what is to be taken from its place to find it there.
    #[inline]
    fn text(self, place: Place) -> (&'a str, usize) {
        if (place.from as usize) < self.block.len() { (self.block, 0) } else { (self.made, self.block.len()) }
    }

    /// Whether a piece is one of the block.
    #[inline]
    pub(crate) fn is_cut(self, place: Place) -> bool {
        (place.from as usize) < self.block.len()
    }

    /// The text of a piece.
    #[inline]
    pub(crate) fn get(self, place: Place) -> &'a str {
        let (text, base) = self.text(place);
        text.get((place.from as usize).wrapping_sub(base)..(place.to as usize).wrapping_sub(base)).unwrap_or_default()
    }

    /// The text from a piece's beginning on, as bytes, and how many of them are the piece.
    #[inline]
    pub(crate) fn open(self, place: Place) -> (&'a [u8], usize) {
        let (text, base) = self.text(place);
        (text.as_bytes().get((place.from as usize).wrapping_sub(base)..).unwrap_or_default(), (place.to - place.from) as usize)
    }

    /// A piece of the block as a piece of its cell; `None` for one that was made, or lies elsewhere.
    pub(crate) fn piece(self, place: Place, cell: &'a str) -> Option<Piece<'a>> {
        let text = Some(self.get(place)).filter(|_| self.is_cut(place))?;
        let start = (text.as_ptr() as usize).checked_sub(cell.as_ptr() as usize)?;
        (start + text.len() <= cell.len()).then(|| Piece::part(cell, start..start + text.len(), None))
    }
}

/// One piece for each row.
#[derive(Debug, Default)]
pub(crate) struct Column {
    pub places: Vec<Place>,
    /// Some of them lie in texts that were made; else all lie in the block.
    pub has_made: bool,
}

impl Column {
    pub(crate) fn clear(&mut self) {
        self.places.clear();
        self.has_made = false;
    }

    /// Begins as the pieces of another column.
    pub(crate) fn begin_as(&mut self, other: &Column) {
        self.clear();
        self.places.extend_from_slice(&other.places);
        self.has_made = other.has_made;
    }

    /// Narrows pieces, each in its text, from its first byte to the byte behind its last; those that come to nothing are nowhere.
    #[inline(always)]
    pub(crate) fn narrow(&mut self, texts: Texts<'_>, mut work: impl FnMut(&[u8], usize, usize) -> Option<(usize, usize)>) {
        self.narrow_with(texts, std::iter::repeat(()), |text, from, to, ()| work(text, from, to));
    }

    /// The same; `work` is also given what stands beside each piece.
    #[inline(always)]
    pub(crate) fn narrow_with<T>(
        &mut self,
        texts: Texts<'_>,
        beside: impl IntoIterator<Item = T>,
        mut work: impl FnMut(&[u8], usize, usize, T) -> Option<(usize, usize)>,
    ) {
        let both = self.places.iter_mut().zip(beside).filter(|(place, _)| !place.is_none());
        if self.has_made {
            both.for_each(|(place, beside)| {
                let (text, base) = texts.text(*place);
                let found = work(text.as_bytes(), place.from as usize - base, place.to as usize - base, beside);
                *place = Place::of(found.map(|(from, to)| (from + base, to + base)));
            });
        } else {
            let text = texts.block.as_bytes();
            both.for_each(|(place, beside)| *place = Place::of(work(text, place.from as usize, place.to as usize, beside)));
        }
    }
}

/// What a step that may change a text does with it.
pub(crate) enum Change {
    /// It is not for the short way.
    Unusual,
    /// The text stays as it is.
    Same,
    /// The new text stands behind what was made before.
    Made,
}

/// The texts of a batch while more are made of them.
pub(crate) struct Making<'m> {
    pub block: &'m str,
    pub made: &'m mut String,
    /// Memory to work with.
    pub copy: &'m mut String,
}

impl Making<'_> {
    pub(crate) fn texts(&self) -> Texts<'_> {
        Texts { block: self.block, made: self.made }
    }

    /// Changes pieces; `work` is given each text and what it may write behind.
    pub(crate) fn change(&mut self, column: &mut Column, work: impl Fn(&str, &mut String) -> Change) {
        let places = column.places.iter_mut();
        for place in places.filter(|place| !place.is_none()) {
            let from = self.made.len();
            let change = if self.texts().is_cut(*place) {
                let text = Texts { block: self.block, made: "" }.get(*place);
                work(text, self.made)
            } else {
                // What was made before moves when more is made.
                self.copy.clear();
                self.copy.push_str(Texts { block: self.block, made: self.made }.get(*place));
                work(self.copy, self.made)
            };
            match change {
                Change::Same => {}
                Change::Made => {
                    *place = Place::new(self.block.len() + from, self.block.len() + self.made.len());
                    column.has_made = true;
                }
                Change::Unusual => *place = Place::NONE,
            }
        }
    }
}
