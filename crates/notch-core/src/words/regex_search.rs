//! Regular expressions on the fast path.
//!
//! In a text of ASCII an expression without Unicode's classes finds the same as with them, and is
//! much smaller. Many are [`ClassRuns`] of characters; most others can be followed in one pass that
//! knows where each group lies, and are tried wherever a match may begin, which the first byte
//! tells. What neither is good for goes to the expression as a whole.

use std::cell::RefCell;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use memchr::memmem::Finder;
use regex::Regex;
use regex_automata::dfa::onepass;
use regex_automata::nfa::thompson::{NFA, State};
use regex_automata::util::primitives::NonMaxUsize;
use regex_automata::util::syntax;
use regex_automata::{Anchored, Input};
use regex_syntax::hir::{Hir, HirKind};

use super::class_runs::{ClassRuns, TRIES};
use crate::program::span::{CellSpan, narrow_with};
use crate::text::Span;

/// A regular expression of which each thread has its own, with the memory it needs: one shared by
/// all would make them wait.
#[derive(Clone)]
pub(crate) struct OwnRegex {
    regex: Regex,
    quick: Option<Arc<Quick>>,
    id: usize,
}

/// What a thread has of one.
struct Own {
    regex: Regex,
    groups: regex::CaptureLocations,
    quick: Option<Arc<Quick>>,
    cache: Option<onepass::Cache>,
    slots: Vec<Option<NonMaxUsize>>,
}

thread_local! {
    static OWN: RefCell<Vec<Option<Own>>> = RefCell::default();
}

impl OwnRegex {
    pub(crate) fn new(regex: &Regex) -> Self {
        static NEXT: AtomicUsize = AtomicUsize::new(0);
        let quick = Quick::new(regex.as_str()).map(Arc::new);
        Self { regex: regex.clone(), quick, id: NEXT.fetch_add(1, Ordering::Relaxed) }
    }

    /// Narrows pieces to the group of their first match.
    pub(crate) fn find(&self, places: &mut [CellSpan], text: &str, reasons: usize, group: usize) {
        self.with_own(|own| {
            narrow_with(places, text, std::iter::repeat(()), |_, from, to, ()| {
                match own.find(&text[from..to], group) {
                    Found::At(start, end) => CellSpan::new(from + start, from + end),
                    Found::NoMatch => CellSpan::absent(reasons),
                    Found::NoGroup => CellSpan::NONE,
                }
            });
        });
    }

    /// Calls `take` with the matches in a text from left to right, as long as it returns `true`;
    /// returns whether it did to the end. For expressions of which [`is_free`] is true.
    pub(crate) fn each_match(&self, text: &str, take: &mut dyn FnMut(Span) -> bool) -> bool {
        self.with_own(|own| {
            let mut at = 0;
            while let Found::At(start, end) = own.find(&text[at..], 0) {
                if !take(at + start..at + end) {
                    return false;
                }
                at += end;
            }
            true
        })
    }

    /// Works with what this thread has of the expression.
    fn with_own<T>(&self, work: impl FnOnce(&mut Own) -> T) -> T {
        OWN.with_borrow_mut(|own| {
            if own.len() <= self.id {
                own.resize_with(self.id + 1, || None);
            }
            let own = own[self.id].get_or_insert_with(|| Own {
                regex: self.regex.clone(),
                groups: self.regex.capture_locations(),
                quick: self.quick.clone(),
                cache: self.quick.as_ref().and_then(|quick| quick.cache()),
                slots: vec![None; 2 * self.regex.captures_len()],
            });
            work(own)
        })
    }
}

/// Whether the matches of an expression depend on nothing but their own characters: after one of
/// them the rest of the text can be searched as a text of its own.
pub(crate) fn is_free(regex: &Regex) -> bool {
    regex_syntax::parse(regex.as_str()).is_ok_and(|expression| {
        let properties = expression.properties();
        properties.look_set().is_empty() && properties.minimum_len().is_some_and(|least| least > 0)
    })
}

impl Own {
    /// Looks for the group of the first match.
    fn find(&mut self, text: &str, group: usize) -> Found {
        if let Some(quick) = self.quick.as_ref().filter(|_| text.is_ascii())
            && let Some(found) = quick.search(self.cache.as_mut(), text, &mut self.slots, group)
        {
            return found;
        }
        if group == 0 {
            let found = self.regex.find(text);
            return Found::of(found.is_some(), || found.map(|found| (found.start(), found.end())));
        }
        let found = self.regex.captures_read(&mut self.groups, text).is_some();
        Found::of(found, || self.groups.get(group))
    }
}

/// What a regular expression has found.
enum Found {
    /// The group, from which byte up to which.
    At(usize, usize),
    /// A match in which the group took no part.
    NoGroup,
    NoMatch,
}

impl Found {
    fn of(is_match: bool, group: impl FnOnce() -> Option<(usize, usize)>) -> Self {
        match is_match {
            false => Found::NoMatch,
            true => group().map_or(Found::NoGroup, |(from, to)| Found::At(from, to)),
        }
    }
}

/// A quick way through texts of ASCII.
struct Quick {
    way: Way,
    /// What stands in every match: a text without it need not be tried.
    part: Option<Finder<'static>>,
}

enum Way {
    ClassRuns(ClassRuns),
    /// One pass, and the bytes a match can begin with.
    OnePass(Box<onepass::DFA>, Box<[bool; 256]>),
}

impl Quick {
    /// `None` where there is none for the expression.
    fn new(pattern: &str) -> Option<Self> {
        // A letter beyond ASCII may be one of ASCII in another case.
        let is_plain = pattern.is_ascii()
            && !["\\u", "\\U", "\\x"].iter().any(|escape| pattern.contains(escape));
        let syntax = syntax::Config::new().unicode(false).utf8(false);
        let expression = is_plain.then(|| syntax::parse_with(pattern, &syntax).ok())??;
        let part = needed(&expression)
            .filter(|part| part.len() > 1)
            .map(|part| Finder::new(part).into_owned());
        if let Some(runs) = ClassRuns::new(&expression) {
            return Some(Self { way: Way::ClassRuns(runs), part });
        }
        let nfa = NFA::compiler().syntax(syntax).build_from_hir(&expression).ok()?;
        let first = first_bytes(&nfa)?;
        let config = onepass::Config::new().size_limit(Some(1 << 20));
        let dfa = onepass::Builder::new().configure(config).build_from_nfa(nfa).ok()?;
        Some(Self { way: Way::OnePass(Box::new(dfa), first), part })
    }

    /// Memory for its search.
    fn cache(&self) -> Option<onepass::Cache> {
        match &self.way {
            Way::ClassRuns(_) => None,
            Way::OnePass(dfa, _) => Some(dfa.create_cache()),
        }
    }

    /// The group of the first match; `None` when that was not found out.
    fn search(
        &self,
        cache: Option<&mut onepass::Cache>,
        text: &str,
        slots: &mut [Option<NonMaxUsize>],
        group: usize,
    ) -> Option<Found> {
        if self.part.as_ref().is_some_and(|part| part.find(text.as_bytes()).is_none()) {
            return Some(Found::NoMatch);
        }
        let (dfa, first, cache) = match (&self.way, cache) {
            (Way::ClassRuns(runs), _) => {
                let found = runs.search(text.as_bytes(), group as u32)?;
                return Some(found.map_or(Found::NoMatch, |(from, to)| Found::At(from, to)));
            }
            (Way::OnePass(dfa, first), Some(cache)) => (dfa, first, cache),
            (Way::OnePass(..), None) => return None,
        };
        let mut starts = text
            .bytes()
            .enumerate()
            .filter(|(_, byte)| first[usize::from(*byte)])
            .map(|(at, _)| at);
        for start in starts.by_ref().take(TRIES) {
            let input = Input::new(text).span(start..text.len()).anchored(Anchored::Yes);
            if dfa.try_search_slots(cache, &input, slots).ok()?.is_some() {
                let slot = |n: usize| slots.get(n).copied().flatten().map(NonMaxUsize::get);
                return Some(Found::of(true, || slot(2 * group).zip(slot(2 * group + 1))));
            }
        }
        starts.next().is_none().then_some(Found::NoMatch)
    }
}

/// The longest text that stands as it is in every match.
fn needed(expression: &Hir) -> Option<&[u8]> {
    match expression.kind() {
        HirKind::Literal(literal) => Some(&literal.0),
        HirKind::Capture(group) => needed(&group.sub),
        HirKind::Repetition(repeated) if repeated.min > 0 => needed(&repeated.sub),
        HirKind::Concat(parts) => parts.iter().filter_map(needed).max_by_key(|part| part.len()),
        _ => None,
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
            State::Sparse(sparse) => {
                sparse.transitions.iter().for_each(|trans| add(trans.start, trans.end))
            }
            State::Dense(dense) => (0..=u8::MAX)
                .filter(|byte| dense.matches_byte(*byte).is_some())
                .for_each(|byte| add(byte, byte)),
            State::Look { next, .. } | State::Capture { next, .. } => open.push(*next),
            State::Union { alternates } => open.extend(alternates.iter().copied()),
            State::BinaryUnion { alt1, alt2 } => open.extend([*alt1, *alt2]),
            State::Fail => {}
            State::Match { .. } => return None,
        }
    }
    Some(first)
}
