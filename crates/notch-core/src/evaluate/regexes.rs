//! Regular expressions on the short way.

use std::cell::RefCell;
use std::sync::atomic::{AtomicUsize, Ordering};

use regex::{Regex, bytes};

use super::place::Place;

/// A regular expression of which each thread has its own, with the memory it needs: one shared by all would make them wait.
#[derive(Clone)]
pub(crate) struct OwnRegex {
    regex: Regex,
    /// The same for texts of ASCII alone, in which it finds the same: without Unicode's classes it is much smaller, and quicker.
    ascii: Option<bytes::Regex>,
    id: usize,
}

/// What a thread has of one.
struct Own {
    regex: Regex,
    groups: regex::CaptureLocations,
    ascii: Option<(bytes::Regex, bytes::CaptureLocations)>,
}

thread_local! {
    static OWN: RefCell<Vec<Option<Own>>> = RefCell::default();
}

impl OwnRegex {
    pub(crate) fn new(regex: &Regex) -> Self {
        static NEXT: AtomicUsize = AtomicUsize::new(0);
        // A letter beyond ASCII may be one of ASCII in another case; an expression that asks for Unicode's classes by name has none.
        let pattern = regex.as_str();
        let is_plain = pattern.is_ascii() && !["\\u", "\\U", "\\x"].iter().any(|escape| pattern.contains(escape));
        let ascii = is_plain.then(|| bytes::RegexBuilder::new(pattern).unicode(false).build().ok()).flatten();
        Self { regex: regex.clone(), ascii, id: NEXT.fetch_add(1, Ordering::Relaxed) }
    }

    /// Narrows pieces to the group of their first match.
    pub(super) fn find(&self, places: &mut [Place], text: &str, group: usize) {
        OWN.with_borrow_mut(|own| {
            if own.len() <= self.id {
                own.resize_with(self.id + 1, || None);
            }
            let own = own[self.id].get_or_insert_with(|| Own {
                regex: self.regex.clone(),
                groups: self.regex.capture_locations(),
                ascii: self.ascii.as_ref().map(|ascii| (ascii.clone(), ascii.capture_locations())),
            });
            for place in places.iter_mut().filter(|place| !place.is_none()) {
                let (start, _) = place.span();
                *place = own.find(place.of(text), group).map_or(Place::NONE, |(from, to)| Place::new(start + from, start + to));
            }
        });
    }
}

impl Own {
    /// Where the group of the first match lies.
    fn find(&mut self, text: &str, group: usize) -> Option<(usize, usize)> {
        match &mut self.ascii {
            Some((ascii, _)) if group == 0 && text.is_ascii() => ascii.find(text.as_bytes()).map(|found| (found.start(), found.end())),
            Some((ascii, groups)) if text.is_ascii() => {
                ascii.captures_read(groups, text.as_bytes())?;
                groups.get(group)
            }
            _ if group == 0 => self.regex.find(text).map(|found| (found.start(), found.end())),
            _ => {
                self.regex.captures_read(&mut self.groups, text)?;
                self.groups.get(group)
            }
        }
    }
}
