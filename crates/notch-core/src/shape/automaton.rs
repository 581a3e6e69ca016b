//! Patterns of several lengths as automata: which is the first that a text is of is told in one
//! pass over its bytes. Item by item that took 1,000 to 2,300 instructions a text and pattern in
//! surveys.
//!
//! Where an item ends can depend on what follows it: `[n]` takes all of `1,234`, and of `1, 2` only
//! the `1`. A pattern in which that matters has two expressions: one that takes none but its texts,
//! and one that takes all of them and others too. Texts that only the second takes must be asked
//! item by item.

use std::sync::Arc;

use regex_automata::hybrid::dfa::{Cache, DFA};
use regex_automata::nfa::thompson;
use regex_automata::util::pool::Pool;
use regex_automata::util::syntax;
use regex_automata::{Anchored, Input};
use regex_syntax::escape;

use super::item::Item;
use crate::text::characters;

/// Of longer runs only this many characters are counted: they would make large automata.
const LONGEST_RUN: usize = 64;
/// The bytes of memory in which a thread keeps what it has met of one automaton.
const MEMORY: usize = 1 << 18;

/// Tells which of some patterns is the first that a text is of.
#[derive(Debug, Clone)]
pub(crate) struct Automaton(Arc<Parts>);

#[derive(Debug)]
struct Parts {
    dfa: DFA,
    /// What threads have met of it.
    caches: Pool<Cache, Box<dyn Fn() -> Cache + Send + Sync>>,
    /// Of each expression the place of its pattern, and whether it takes no other texts.
    expressions: Vec<(usize, bool)>,
}

/// The first pattern that a text is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum First {
    OfNone,
    /// The one at this place.
    Surely(usize),
    /// None before the one at this place, which has to be asked, as those after it.
    Perhaps(usize),
}

impl Automaton {
    /// The automaton of patterns by their items, each with whether letters may be of either case;
    /// `None` where no plain text is of any of them.
    pub(super) fn of<'p>(patterns: impl Iterator<Item = (&'p [Item], bool)>) -> Option<Self> {
        let (mut written, mut expressions) = (Vec::new(), Vec::new());
        for (place, (items, ignoring_case)) in patterns.enumerate() {
            // Of a pattern that takes no plain text there is none.
            let Some(own) = Expressions::of(items, ignoring_case) else { continue };
            let is_exact = own.none_but_its.as_ref() == Some(&own.all_of_its);
            let wide = Some((own.all_of_its, false)).filter(|_| !is_exact);
            let sure = own.none_but_its.map(|expression| (expression, true));
            for (expression, is_sure) in sure.into_iter().chain(wide) {
                written.push(expression);
                expressions.push((place, is_sure));
            }
        }
        let dfa = DFA::builder()
            .syntax(syntax::Config::new().unicode(false).utf8(false))
            .thompson(thompson::Config::new().utf8(false))
            .configure(
                DFA::config()
                    .cache_capacity(MEMORY)
                    .skip_cache_capacity_check(true)
                    .minimum_cache_clear_count(Some(8)),
            )
            .build_many(&written)
            .ok()
            .filter(|_| !written.is_empty())?;
        let make = dfa.clone();
        let caches: Box<dyn Fn() -> Cache + Send + Sync> = Box::new(move || make.create_cache());
        Some(Self(Arc::new(Parts { dfa, caches: Pool::new(caches), expressions })))
    }

    /// The first pattern that a text is of; `None` where all of them have to be asked.
    pub(crate) fn first(&self, text: &str) -> Option<First> {
        self.first_with(&mut self.0.caches.get(), text)
    }

    /// A cache for a caller with many texts, so that none has to be borrowed for each of them.
    pub(crate) fn cache(&self) -> Cache {
        self.0.dfa.create_cache()
    }

    /// The same as [`Automaton::first`], with a cache of its own.
    pub(crate) fn first_with(&self, cache: &mut Cache, text: &str) -> Option<First> {
        let Parts { dfa, expressions, .. } = &*self.0;
        if !characters::is_plain(text) {
            return None;
        }
        let input = Input::new(text).anchored(Anchored::Yes);
        let found = dfa.try_search_fwd(cache, &input).ok()?;
        // All expressions end with the text: that of the first pattern is found.
        Some(match found.map(|found| expressions[found.pattern().as_usize()]) {
            None => First::OfNone,
            Some((place, true)) => First::Surely(place),
            Some((place, false)) => First::Perhaps(place),
        })
    }
}

/// What plain texts of a pattern are, as regular expressions.
struct Expressions {
    /// Takes no other texts, and maybe not all of them.
    none_but_its: Option<String>,
    /// Takes all of them, and maybe others.
    all_of_its: String,
}

impl Expressions {
    /// `None` where no plain text is of the pattern.
    fn of(items: &[Item], ignoring_case: bool) -> Option<Self> {
        let mut all_of_its = String::new();
        let mut none_but_its = Some(String::new());
        for (item, after) in items.iter().zip((1..).map(|next| &items[next..])) {
            let own;
            let (all, some) = match item {
                Item::Number => (LIKE_NUMBER, ends_number(after).then_some(NUMBER)),
                Item::Mixed => (MIXED, ends_mixed(after).then_some(MIXED)),
                _ => {
                    own = expression(item, ignoring_case)?;
                    (own.as_str(), Some(own.as_str()).filter(|_| !is_long(item)))
                }
            };
            all_of_its.push_str(all);
            none_but_its = none_but_its.zip(some).map(|(before, some)| before + some);
        }
        let whole = |expression: String| format!(r"(?:{expression})\z");
        Some(Self { none_but_its: none_but_its.map(whole), all_of_its: whole(all_of_its) })
    }
}

/// What all numbers look like, and what is one for certain.
const LIKE_NUMBER: &str = "[-+]?[0-9.,']+";
const NUMBER: &str = "[-+]?[0-9]+(?:[.,][0-9]+)?";
const MIXED: &str = "[A-Za-z0-9]+";

/// The expression of an item; that of `[n]` and `[x]`, which depends on what follows, is not made
/// here but by [`Expressions::of`]. `None` where no plain text is of it.
fn expression(item: &Item, ignoring_case: bool) -> Option<String> {
    // No word is touched by a digit or a `_`.
    let word = r"[A-Za-z]+(?:[-'][A-Za-z]+)*\b";
    Some(match item {
        Item::Literal(text) if !characters::is_plain(text) => return None,
        Item::Literal(text) if ignoring_case => format!("(?i:{})", escape(text)),
        Item::Literal(text) => escape(text),
        Item::Run(kinds, least, most) => {
            let class: String = kinds.iter().map(|kind| class(*kind, ignoring_case)).collect();
            let least = LONGEST_RUN.min(*least);
            match most {
                _ if class.is_empty() => return None,
                0..=LONGEST_RUN => format!("[{class}]{{{least},{most}}}"),
                _ => format!("[{class}]{{{least},}}"),
            }
        }
        Item::Word => word.to_owned(),
        Item::Words => format!("{word}(?: {word})*"),
        Item::Anything => "(?s:.)*".to_owned(),
        Item::Number | Item::Mixed => return None,
    })
}

/// Whether a run has a limit that its expression has not.
fn is_long(item: &Item) -> bool {
    let is_counted = |limit: &usize| *limit <= LONGEST_RUN;
    match item {
        Item::Run(_, least, most) => !is_counted(least) || !is_counted(most) && *most != usize::MAX,
        _ => false,
    }
}

/// The plain characters of a kind.
fn class(kind: char, ignoring_case: bool) -> &'static str {
    match kind {
        'U' | 'l' if ignoring_case => "A-Za-z",
        'U' => "A-Z",
        'l' => "a-z",
        'd' => "0-9",
        's' => r" \t\n\x0b\x0c",
        _ => "",
    }
}

/// Whether digits end wherever these items may begin, and no mark in front of them joins them to
/// others.
fn ends_number(after: &[Item]) -> bool {
    match after {
        [] | [Item::Word | Item::Words, ..] => true,
        [Item::Run(kinds, ..), ..] => !kinds.contains(&'d'),
        [Item::Literal(text), others @ ..] => match text.as_bytes() {
            [b'.' | b',' | b'\'', next, ..] => !next.is_ascii_digit(),
            [b'.' | b',' | b'\''] => ends_number(others),
            [first, ..] => !first.is_ascii_digit(),
            [] => false,
        },
        [Item::Number | Item::Mixed | Item::Anything, ..] => false,
    }
}

/// Whether letters and digits end wherever these items may begin.
fn ends_mixed(after: &[Item]) -> bool {
    match after {
        [] | [Item::Run(['s'], ..), ..] => true,
        [Item::Literal(text), ..] => {
            text.as_bytes().first().is_some_and(|first| !first.is_ascii_alphanumeric())
        }
        _ => false,
    }
}
