//! Cuts that follow the layouts of a column: for each piece a chain for each layout that has it,
//! joined by `else`, with a condition where a chain would take something else from another layout.
//!
//! Chains are not reasoned about but tried: what a chain returns for the texts of each layout is
//! compared with what stands in its slot, so none is proposed that takes anything else.

use std::collections::HashSet;

use super::pieces::{LayoutTexts, Piece, Place, What, pieces, texts_of};
use super::proposal::{Names, Proposal};
use crate::language::quoted;
use crate::layouts::{Layouts, Sampled};
use crate::shape::pattern_parts;
use crate::text::Span;
use crate::{Plan, Scratch};

/// The largest number of pieces that are proposed.
const MOST: usize = 16;
/// How many texts of another layout a chain is tried on.
const TRIED_ON: usize = 20;

/// The cuts of all pieces of some layouts.
pub(super) fn proposals(
    layouts: &Layouts,
    sample: &[Sampled],
    is_prose: bool,
    names: &mut Names,
) -> Vec<Proposal> {
    let (texts, odd) = texts_of(layouts, sample);
    let mut found = Vec::new();
    for piece in pieces(layouts, &texts) {
        // Words and numbers of sentences that nothing names are taken where most texts have them.
        let fits: u64 = (layouts.layouts.iter().zip(&piece.of))
            .filter(|(_, of)| of.is_some())
            .map(|(layout, _)| layout.texts)
            .sum();
        let is_named = piece.of.iter().flatten().any(|place| place.label.is_some());
        // A whole text is no piece of it.
        if piece.of.iter().flatten().all(|place| place.at_start && place.at_end) {
            continue;
        }
        let says_little = piece.what == What::Words || piece.name.starts_with("number");
        if says_little && !is_named && is_prose && fits * 2 < layouts.of {
            continue;
        }
        if let Some(cut) = cut(layouts, &texts, &odd, &piece) {
            let has_all = piece.of.iter().all(Option::is_some);
            let name = names.unused(&piece.name);
            found.push(Proposal {
                names: if has_all { name } else { format!("{name}?") },
                cut,
                fits,
            });
        }
    }
    // What most texts have comes first; else in the order of the layouts.
    found.sort_by_key(|proposal| std::cmp::Reverse(proposal.fits));
    found.truncate(MOST);
    found
}

/// What a chain did with the texts of a layout.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Did {
    /// It returned the piece, in every text.
    Right,
    /// It returned nothing.
    Nothing,
    /// It returned something else, or with a finding.
    Wrong,
}

/// A chain with what it did with the texts of each layout, and whether it leaves odd texts alone.
struct Tried {
    chain: String,
    did: Vec<Did>,
    takes_odd: bool,
}

impl Tried {
    /// Whether it returns the piece wherever it stands, and nothing elsewhere.
    fn serves_all(&self, piece: &Piece) -> bool {
        let is_served = |(of, did): (&Option<Place>, &Did)| {
            *did == if of.is_some() { Did::Right } else { Did::Nothing }
        };
        !self.takes_odd && piece.of.iter().zip(&self.did).all(is_served)
    }
}

/// The cut of a piece; `None` where one of its layouts has none.
fn cut(
    layouts: &Layouts,
    texts: &[LayoutTexts<'_>],
    odd: &[&str],
    piece: &Piece,
) -> Option<String> {
    let mut tried: Vec<Tried> = Vec::new();
    let mut seen: HashSet<String> = HashSet::new();
    for chain in piece.of.iter().flatten().flat_map(|place| chains(place, piece.what)) {
        if !seen.insert(chain.clone()) {
            continue;
        }
        tried.extend(attempt(&chain, texts, odd, piece));
        // None that follows would be chosen before one that serves all.
        if tried.last().is_some_and(|last| last.serves_all(piece)) {
            break;
        }
    }
    let mut open: Vec<usize> = (0..piece.of.len()).filter(|n| piece.of[*n].is_some()).collect();
    let mut chosen: Vec<String> = Vec::new();
    // Chains that take nothing else from any layout, those first that serve most of them.
    while !open.is_empty() {
        let serves = |tried: &&Tried| open.iter().filter(|n| tried.did[**n] == Did::Right).count();
        let best = tried
            .iter()
            .filter(|tried| !tried.did.contains(&Did::Wrong))
            .rev()
            .max_by_key(|tried| (serves(tried), !tried.takes_odd))
            .filter(|tried| serves(tried) > 0);
        let Some(best) = best else { break };
        chosen.push(best.chain.clone());
        open.retain(|n| best.did[*n] != Did::Right);
    }
    // The others only where the text has their layout.
    let mut guarded: Vec<(&str, Vec<String>)> = Vec::new();
    for n in open {
        let layout = &layouts.layouts[n];
        let best = tried.iter().find(|tried| tried.did[n] == Did::Right)?;
        let case = if layout.ignoring_case { " ignoring case" } else { "" };
        let guard = format!("{{column}} is shape {}{case}", quoted(&layout.pattern)?);
        match guarded.iter_mut().find(|(chain, _)| *chain == best.chain) {
            Some((_, guards)) => guards.push(guard),
            None => guarded.push((&best.chain, vec![guard])),
        }
    }
    chosen.extend(guarded.iter().map(|(chain, guards)| {
        // A check may be followed by a condition of its own, `when`.
        let chain =
            if chain.contains("| check ") { format!("({chain})") } else { (*chain).to_owned() };
        format!("{chain} if {}", guards.join(" or "))
    }));
    // A later chain starts from the column as well.
    Some(chosen.join(" else "))
}

/// Tries a chain on the texts of all layouts; `None` if it cannot be read, or is right in none.
fn attempt(chain: &str, texts: &[LayoutTexts<'_>], odd: &[&str], piece: &Piece) -> Option<Tried> {
    let proposal = Proposal { names: "piece".to_owned(), cut: chain.to_owned(), fits: 0 };
    let plan = Proposal::plan(std::slice::from_ref(&proposal))?;
    let mut scratch = Scratch::default();
    // Most chains are done with here. Trying all of them on all texts took 390 million instructions
    // in a survey of notes, and takes 220 so.
    let each = piece.of.iter().zip(texts);
    if !each
        .filter_map(|(of, texts)| Some((of.as_ref()?, texts)))
        .any(|(place, texts)| may_be_right(&plan, place, &texts.texts, &mut scratch))
    {
        return None;
    }
    let mut did = Vec::new();
    for (of, texts) in piece.of.iter().zip(texts) {
        let most = if of.is_some() { usize::MAX } else { TRIED_ON };
        let (mut right, mut nothing, mut doubtful, mut all) = (0, 0, 0, 0);
        let mut is_wrong = false;
        for text in texts.texts.iter().take(most) {
            all += 1;
            match (returned(&plan, text.0, &mut scratch), of) {
                (None, _) => nothing += 1,
                (Some((got, true)), Some(place)) if got == place.wanted(text) => right += 1,
                (Some((_, false)), Some(_)) => doubtful += 1,
                (Some(_), _) => {
                    is_wrong = true;
                    break;
                }
            }
        }
        // A doubtful text among twenty is reported when the cut is run.
        did.push(match () {
            () if is_wrong || doubtful * 20 > all => Did::Wrong,
            () if right > 0 && right * 20 >= all * 19 => Did::Right,
            () if right + doubtful == 0 && nothing == all => Did::Nothing,
            () => Did::Wrong,
        });
    }
    if !did.contains(&Did::Right) {
        return None;
    }
    let takes_odd = odd.iter().any(|text| returned(&plan, text, &mut scratch).is_some());
    Some(Tried { chain: chain.to_owned(), did, takes_odd })
}

/// Whether a cut may be right for a layout, by its texts up to the first for which it is right:
/// none before that gives something else, and at most one in twenty of all gives nothing or doubt.
fn may_be_right(
    plan: &Plan,
    place: &Place,
    texts: &[(&str, Vec<Span>)],
    scratch: &mut Scratch,
) -> bool {
    for (not_right, text) in texts.iter().enumerate() {
        if not_right * 20 > texts.len() {
            return false;
        }
        match returned(plan, text.0, scratch) {
            Some((got, true)) if got == place.wanted(text) => return true,
            Some((_, true)) => return false,
            _ => {}
        }
    }
    false
}

/// What a cut returns for a text, and whether without a finding; `None` where that is nothing.
fn returned(plan: &Plan, text: &str, scratch: &mut Scratch) -> Option<(String, bool)> {
    let row = plan.evaluate([text], scratch);
    let is_sure = !row.findings.iter().any(|finding| !finding.kind.is_note());
    let got = row.cells.first().map(|cell| cell.text.to_owned()).filter(|got| !got.is_empty())?;
    Some((got, is_sure))
}

/// Chains that may take a piece from its place, those first that a colleague would rather read.
fn chains(place: &Place, what: What) -> Vec<String> {
    let mut chains = Vec::new();
    let after_label = place.label.as_deref().map(|label| format!("word \"{label}\" ignoring case"));
    match what {
        What::Number => {
            let marks = ["", " decimal \",\"", " decimal either"];
            for accounting in ["", " accounting"] {
                for marks in marks {
                    if let Some(label) = &after_label {
                        chains.push(format!("number after {label}{marks}{accounting}"));
                    }
                    chains.push(format!("number{marks}{accounting}"));
                    chains.push(format!("number last{marks}{accounting}"));
                    chains.extend((2..6).map(|n| format!("number {n}{marks}{accounting}")));
                }
            }
        }
        What::Digits => {
            if let Some(label) = &after_label {
                chains.push(format!("number after {label}"));
                chains.push(format!("after {label} | block 1 of digits"));
            }
        }
        What::Date(pattern) => {
            if let Some(regex) = regex(&place.pattern) {
                chains.push(format!("match {regex} | date \"{pattern}\" | as date"));
                chains.extend(
                    (2..4).map(|n| {
                        format!("matches {regex} | pick {n} | date \"{pattern}\" | as date")
                    }),
                );
            }
        }
        What::Code | What::Words => {}
    }
    if matches!(what, What::Digits | What::Code | What::Words) {
        let check = if what == What::Digits { " | check is digits" } else { "" };
        chains.extend(by_places(place).into_iter().map(|chain| format!("{chain}{check}")));
    }
    match what {
        What::Digits => {
            chains.extend((1..8).map(|n| format!("block {n} of digits")));
            chains.push("block last of digits".to_owned());
        }
        What::Code => {
            chains.extend(regex(&place.pattern).map(|regex| format!("match {regex}")));
        }
        What::Words => chains.extend((1..4).map(|n| format!("word {n}"))),
        _ => {}
    }
    chains
}

/// Chains by what stands on both sides of a place.
fn by_places(place: &Place) -> Vec<String> {
    let mut chains = Vec::new();
    let (left, right) = (place.left.as_str(), place.right.as_str());
    if place.at_start && place.at_end {
        chains.push("trim".to_owned());
    }
    // Sections, in codes.
    let sign = |text: &str| {
        text.chars().next().filter(|c| !c.is_alphanumeric() && text.len() == c.len_utf8())
    };
    if let Some(sign) = sign(if place.at_start { right } else { left })
        && sign != '"'
    {
        for of in 2..8 {
            chains.extend((1..=of).map(|n| format!("part {n} of {of} by \"{sign}\"")));
        }
    }
    let befores: Vec<String> = shorter_right(right).into_iter().filter_map(quoted).collect();
    let afters: Vec<String> = shorter_left(left).into_iter().filter_map(quoted).collect();
    match (place.at_start, place.at_end) {
        (true, false) => chains.extend(befores.iter().map(|before| format!("before {before}"))),
        (false, true) => {
            for after in &afters {
                chains.push(format!("after {after}"));
                chains.push(format!("after last {after}"));
                chains.push(format!("after {after} ignoring case"));
            }
        }
        (false, false) => {
            for after in &afters {
                for before in &befores {
                    chains.push(format!("between {after} and {before}"));
                    chains.push(format!("between {after} and {before} ignoring case"));
                    chains.push(format!("between last {after} and {before}"));
                }
            }
        }
        (true, true) => {}
    }
    chains
}

/// The text before a place from its last word on, and all of it.
fn shorter_left(left: &str) -> Vec<&str> {
    let word = left.trim_end();
    let start = word.rfind(char::is_whitespace).map_or(0, |at| at + 1);
    if start == 0 { vec![left] } else { vec![&left[start..], left] }
}

/// The sign or word that stands right after a place, and all that stands there.
fn shorter_right(right: &str) -> Vec<&str> {
    let blanks = right.len() - right.trim_start().len();
    let first = right[blanks..].chars().next();
    let end = match first {
        Some(c) if c.is_alphanumeric() => {
            let word = &right[blanks..];
            blanks + word.find(|c: char| !c.is_alphanumeric()).unwrap_or(word.len())
        }
        Some(c) => blanks + c.len_utf8(),
        None => right.len(),
    };
    if end == right.len() { vec![right] } else { vec![&right[..end], right] }
}

/// A regular expression for a pattern of runs and signs; `None` of one with other slots.
fn regex(pattern: &str) -> Option<String> {
    let mut regex = String::from("/");
    for (is_slot, part) in pattern_parts(pattern) {
        if !is_slot {
            for c in part.chars() {
                if !c.is_alphanumeric() && !matches!(c, '-' | '_' | ':' | ' ') {
                    regex.push('\\');
                }
                regex.push(c);
            }
            continue;
        }
        let inside = part.trim_start_matches('[').trim_end_matches(']');
        let (kind, length) = inside.split_at(1);
        regex.push_str(match kind {
            "d" => "\\d",
            "U" => "[A-Z]",
            "l" => "[a-z]",
            "x" => "[A-Za-z0-9]",
            _ => return None,
        });
        match (kind, length) {
            ("x", _) | (_, "+") => regex.push('+'),
            (_, "") => {}
            (_, length) => regex.push_str(&format!("{{{}}}", length.replace("..", ","))),
        }
    }
    regex.push('/');
    Some(regex)
}
