//! Regular expressions on the short way.

use std::cell::RefCell;
use std::sync::atomic::{AtomicUsize, Ordering};

use regex::{CaptureLocations, Regex};

use super::place::Place;

/// A regular expression of which each thread has its own, with the memory it needs: one shared by all would make them wait.
#[derive(Clone)]
pub(crate) struct OwnRegex {
    regex: Regex,
    id: usize,
}

thread_local! {
    static OWN: RefCell<Vec<Option<(Regex, CaptureLocations)>>> = RefCell::default();
}

impl OwnRegex {
    pub(crate) fn new(regex: &Regex) -> Self {
        static NEXT: AtomicUsize = AtomicUsize::new(0);
        Self { regex: regex.clone(), id: NEXT.fetch_add(1, Ordering::Relaxed) }
    }

    /// Narrows pieces to the group of their first match.
    pub(super) fn find(&self, places: &mut [Place], text: &str, group: usize) {
        OWN.with_borrow_mut(|own| {
            if own.len() <= self.id {
                own.resize_with(self.id + 1, || None);
            }
            let (regex, locations) = own[self.id].get_or_insert_with(|| (self.regex.clone(), self.regex.capture_locations()));
            for place in places.iter_mut().filter(|place| !place.is_none()) {
                let (piece, (start, _)) = (place.of(text), place.span());
                let found = if group == 0 {
                    regex.find(piece).map(|found| (found.start(), found.end()))
                } else {
                    regex.captures_read(locations, piece).and_then(|_| locations.get(group))
                };
                *place = found.map_or(Place::NONE, |(from, to)| Place::new(start + from, start + to));
            }
        });
    }
}
