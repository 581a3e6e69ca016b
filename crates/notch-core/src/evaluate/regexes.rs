//! Regular expressions on the short way.
//!
//! In a text of ASCII an expression without Unicode's classes finds the same as with them, and is much smaller. Most such expressions can
//! be followed in one pass that knows where each group lies; it is tried wherever a match may begin, which its first byte tells. What
//! this is not good for goes to the expression as a whole.

use std::cell::RefCell;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use regex::Regex;
use regex_automata::dfa::onepass;
use regex_automata::nfa::thompson::{NFA, State};
use regex_automata::util::primitives::NonMaxUsize;
use regex_automata::util::syntax;
use regex_automata::{Anchored, Input};

use super::place::Place;

/// A regular expression of which each thread has its own, with the memory it needs: one shared by all would make them wait.
#[derive(Clone)]
pub(crate) struct OwnRegex {
    regex: Regex,
    one_pass: Option<Arc<OnePass>>,
    id: usize,
}

/// What a thread has of one.
struct Own {
    regex: Regex,
    groups: regex::CaptureLocations,
    one_pass: Option<(Arc<OnePass>, onepass::Cache)>,
    slots: Vec<Option<NonMaxUsize>>,
}

thread_local! {
    static OWN: RefCell<Vec<Option<Own>>> = RefCell::default();
}

impl OwnRegex {
    pub(crate) fn new(regex: &Regex) -> Self {
        static NEXT: AtomicUsize = AtomicUsize::new(0);
        let one_pass = OnePass::new(regex.as_str()).map(Arc::new);
        Self { regex: regex.clone(), one_pass, id: NEXT.fetch_add(1, Ordering::Relaxed) }
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
                one_pass: self.one_pass.as_ref().map(|one_pass| (Arc::clone(one_pass), one_pass.dfa.create_cache())),
                slots: vec![None; 2 * self.regex.captures_len()],
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
        if let Some((one_pass, cache)) = self.one_pass.as_mut().filter(|_| text.is_ascii())
            && let Some(found) = one_pass.search(cache, text, &mut self.slots)
        {
            let slot = |n: usize| self.slots.get(n).copied().flatten().map(NonMaxUsize::get);
            return slot(2 * group).zip(slot(2 * group + 1)).filter(|_| found);
        }
        if group == 0 {
            return self.regex.find(text).map(|found| (found.start(), found.end()));
        }
        self.regex.captures_read(&mut self.groups, text)?;
        self.groups.get(group)
    }
}

/// An expression for texts of ASCII that can be followed in one pass.
struct OnePass {
    dfa: onepass::DFA,
    /// The bytes a match can begin with.
    first: Box<[bool; 256]>,
}

/// So often it is tried in a text; then the expression as a whole goes on, whose time does not grow with the tries.
const TRIES: usize = 16;

impl OnePass {
    /// `None` where the expression is none of these.
    fn new(pattern: &str) -> Option<Self> {
        // A letter beyond ASCII may be one of ASCII in another case.
        let is_plain = pattern.is_ascii() && !["\\u", "\\U", "\\x"].iter().any(|escape| pattern.contains(escape));
        let syntax = syntax::Config::new().unicode(false).utf8(false);
        let nfa = is_plain.then(|| NFA::compiler().syntax(syntax).build(pattern).ok())??;
        let first = first_bytes(&nfa)?;
        let config = onepass::Config::new().size_limit(Some(1 << 20));
        Some(Self { dfa: onepass::Builder::new().configure(config).build_from_nfa(nfa).ok()?, first })
    }

    /// Whether there is a match, whose groups lie in the slots then; `None` when that was not found out.
    fn search(&self, cache: &mut onepass::Cache, text: &str, slots: &mut [Option<NonMaxUsize>]) -> Option<bool> {
        let mut starts = text.bytes().enumerate().filter(|(_, byte)| self.first[usize::from(*byte)]).map(|(at, _)| at);
        for start in starts.by_ref().take(TRIES) {
            let input = Input::new(text).span(start..text.len()).anchored(Anchored::Yes);
            if self.dfa.try_search_slots(cache, &input, slots).ok()?.is_some() {
                return Some(true);
            }
        }
        starts.next().is_none().then_some(false)
    }
}

/// The bytes a match can begin with; `None` where it can be empty.
fn first_bytes(nfa: &NFA) -> Option<Box<[bool; 256]>> {
    let mut first = Box::new([false; 256]);
    let mut add = |from: u8, to: u8| (from..=to).for_each(|byte| first[usize::from(byte)] = true);
    let mut seen = vec![false; nfa.states().len()];
    let mut open = vec![nfa.start_anchored()];
    while let Some(id) = open.pop() {
        if std::mem::replace(&mut seen[id.as_usize()], true) {
            continue;
        }
        match nfa.state(id) {
            State::ByteRange { trans } => add(trans.start, trans.end),
            State::Sparse(sparse) => sparse.transitions.iter().for_each(|trans| add(trans.start, trans.end)),
            State::Dense(dense) => (0..=u8::MAX).filter(|byte| dense.matches_byte(*byte).is_some()).for_each(|byte| add(byte, byte)),
            State::Look { next, .. } | State::Capture { next, .. } => open.push(*next),
            State::Union { alternates } => open.extend(alternates.iter().copied()),
            State::BinaryUnion { alt1, alt2 } => open.extend([*alt1, *alt2]),
            State::Fail => {}
            State::Match { .. } => return None,
        }
    }
    Some(first)
}
