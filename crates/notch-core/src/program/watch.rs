//! What is counted over all rows for hints.

use crate::text::Marks;

/// What is watched while rows are evaluated.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Watch {
    /// Numbers read with this decimal mark. Two events: the mark that is none groups three digits;
    /// it cannot be grouping.
    Marks(Marks),
    /// A test of `it`, as written, whose chain starts from a column. Two events: the piece fits;
    /// only the whole text does.
    Piece { test: String, column: String },
    /// `digits` before a step of this name. One event: there are several runs of digits.
    Digits { next: String },
    /// `has "ref"`. One event: it holds, and `has word "ref"` does not.
    Word { text: String },
    /// Brackets that end in this text, after a step. One event: the step found nothing, which
    /// passes the brackets over.
    PassedOver { text: String },
}

impl Watch {
    fn events(&self) -> usize {
        match self {
            Watch::Marks(_) | Watch::Piece { .. } => 2,
            Watch::Digits { .. } | Watch::Word { .. } | Watch::PassedOver { .. } => 1,
        }
    }
}

/// Everything that is watched for a plan, with the places of its events.
#[derive(Debug, Default)]
pub(crate) struct Watches {
    pub list: Vec<WatchedCut>,
    /// How many events there are.
    events: usize,
}

#[derive(Debug)]
pub(crate) struct WatchedCut {
    /// The cut, from 0.
    pub cut: usize,
    pub watch: Watch,
    pub first_event: usize,
}

impl Watches {
    /// Adds something to be watched in a cut; returns the place of its first event.
    pub(crate) fn add(&mut self, cut: usize, watch: Watch) -> usize {
        let first_event = self.events;
        self.events += watch.events();
        self.list.push(WatchedCut { cut, watch, first_event });
        first_event
    }
}
