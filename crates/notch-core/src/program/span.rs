//! Pieces of many rows at once: where each lies in the text of a batch.

use super::value::Piece;

/// A piece of the text of a batch, in bytes: first comes the block, after it what steps have made
/// of it. An empty one is no piece at all; its place then tells what is known of that.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct CellSpan {
    from: u32,
    to: u32,
}

impl From<(u32, u32)> for CellSpan {
    #[inline(always)]
    fn from((from, to): (u32, u32)) -> Self {
        Self { from, to }
    }
}

impl CellSpan {
    /// Nowhere, and the slow path is to say why.
    pub(crate) const NONE: CellSpan = CellSpan { from: 0, to: 0 };

    /// Nowhere, for the cell is blank.
    pub(crate) const BLANK: CellSpan = CellSpan { from: 1, to: 1 };

    /// From one byte up to another, which are known to lie in the text of a batch, the first before
    /// the second.
    #[inline(always)]
    pub(crate) fn at(from: usize, to: usize) -> Self {
        Self { from: from as u32, to: to as u32 }
    }

    /// Nowhere, for the reason of that number among those of the cut's fast path.
    #[inline(always)]
    pub(crate) fn absent(reason: usize) -> Self {
        let code = reason as u32 + 2;
        Self { from: code, to: code }
    }

    /// Why it is nowhere, where that is certain; it is nowhere.
    #[inline(always)]
    pub(crate) fn why(self) -> Option<Why> {
        match self.from {
            0 => None,
            1 => Some(Why::Blank),
            code => Some(Why::Reason(code as usize - 2)),
        }
    }

    /// From one byte up to another; nowhere when there are none, or too many to be counted.
    #[inline]
    pub(crate) fn new(from: usize, to: usize) -> Self {
        match (u32::try_from(from), u32::try_from(to)) {
            (Ok(from), Ok(to)) if from < to => Self { from, to },
            _ => Self::NONE,
        }
    }

    /// Whether it is nowhere.
    #[inline(always)]
    pub(crate) fn is_none(self) -> bool {
        self.from == self.to
    }

    /// Its first byte and the byte after its last.
    #[inline(always)]
    pub(crate) fn span(self) -> (usize, usize) {
        (self.from as usize, self.to as usize)
    }

    /// Its text.
    #[inline]
    pub(crate) fn of(self, text: &str) -> &str {
        text.get(self.from as usize..self.to as usize).unwrap_or_default()
    }

    /// The same as a piece of a cell; `None` when it does not lie in it.
    pub(crate) fn piece<'a>(self, text: &'a str, cell: &'a str) -> Option<Piece<'a>> {
        let start = (self.of(text).as_ptr() as usize).checked_sub(cell.as_ptr() as usize)?;
        let end = start + (self.to - self.from) as usize;
        (end <= cell.len()).then(|| Piece::part(cell, start..end, None))
    }
}

/// Why a cut certainly returns nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Why {
    /// The cell it starts from is blank.
    Blank,
    /// The reason of that number among those of its fast path.
    Reason(usize),
}

/// Narrows pieces of a text, each from its first byte to the byte after its last. `work` is also
/// given what stands beside each piece.
#[inline(always)]
pub(crate) fn narrow_with<T>(
    places: &mut [CellSpan],
    text: &str,
    beside: impl IntoIterator<Item = T>,
    mut work: impl FnMut(&[u8], usize, usize, T) -> CellSpan,
) {
    let text = text.as_bytes();
    for (place, beside) in places.iter_mut().zip(beside).filter(|(place, _)| !place.is_none()) {
        *place = work(text, place.from as usize, place.to as usize, beside);
    }
}

/// The same with nothing beside the pieces; what comes to nothing is nowhere.
#[inline(always)]
pub(crate) fn narrow(
    places: &mut [CellSpan],
    text: &str,
    mut work: impl FnMut(&[u8], usize, usize) -> Option<(usize, usize)>,
) {
    narrow_with(places, text, std::iter::repeat(()), |text, from, to, ()| {
        match work(text, from, to) {
            Some((from, to)) if from < to => CellSpan::at(from, to),
            _ => CellSpan::NONE,
        }
    });
}

/// What a step that may change a piece does with it.
pub(crate) enum Change {
    /// It is not for the fast path.
    Unusual,
    /// The piece stays as it is.
    Same,
    /// The new text stands after what was there before.
    Made,
}

/// Changes pieces; `work` is given the text, to write after it, and where each piece lies.
#[inline(always)]
pub(crate) fn change(
    places: &mut [CellSpan],
    text: &mut String,
    mut work: impl FnMut(&mut String, usize, usize) -> Change,
) {
    for place in places.iter_mut().filter(|place| !place.is_none()) {
        let from = text.len();
        match work(text, place.from as usize, place.to as usize) {
            Change::Same => {}
            Change::Made => *place = CellSpan::new(from, text.len()),
            Change::Unusual => *place = CellSpan::NONE,
        }
    }
}
