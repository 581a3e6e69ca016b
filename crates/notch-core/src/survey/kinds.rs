//! Kinds of columns that are told by what every text is like as a whole: addresses of pages, paths,
//! coordinates, ids. Each has the cuts that people take of it.

use std::sync::LazyLock;

use regex::Regex;

use super::bytes::{BEYOND, CONTROL, DIGIT, LETTER};
use super::proposal::{Names, Proposal};
use super::{ColumnSurvey, SURELY};
use crate::layouts::Sampled;
use crate::schemes::SCHEMES;
use crate::text::{DATES, DatePattern, Decimal, NumberStyle};

/// A kind of text.
struct Kind {
    /// What is said of the column.
    looks_like: &'static str,
    /// Whether a text may be of it. Expressions are compiled only where one may: all six took 8
    /// million instructions.
    may_be: fn(&str) -> bool,
    /// What every text of it is like.
    expression: LazyLock<Option<Regex>>,
    /// The cuts: a name, and what starts from the column.
    cuts: &'static [(&'static str, &'static str)],
}

/// Of a hundred texts this number have to be of a kind.
const NEARLY_ALL: usize = 95;
/// In fewer texts nothing is told from chance.
const FEWEST: usize = 3;

static KINDS: [Kind; 6] = [
    Kind {
        // Two signed figures one after the other (ISO 6709, annex H).
        looks_like: "coordinates",
        may_be: |text| text.starts_with(['+', '-']),
        expression: LazyLock::new(|| {
            Regex::new(r"^[+-]\d{2,7}(\.\d+)?[+-]\d{3,8}(\.\d+)?/?$").ok()
        }),
        cuts: &[
            ("latitude", "match /[+-][\\d.]+/"),
            ("longitude", "matches /[+-][\\d.]+/ | pick 2"),
        ],
    },
    Kind {
        // RFC 3986, section 3.
        looks_like: "address of a page",
        may_be: |text| text.contains("://"),
        expression: LazyLock::new(|| Regex::new(r"^[a-z][a-z0-9+.-]*://[^\s/]+(/\S*)?$").ok()),
        cuts: &[("host", "between \"//\" and \"/\" or end | lower"), ("path?", "after 3rd \"/\"")],
    },
    Kind {
        looks_like: "path of a file",
        may_be: |text| text.contains('/'),
        expression: LazyLock::new(|| {
            Regex::new(r"^[^\s:]*/[^/\s]+\.[A-Za-z][A-Za-z0-9]{0,4}$").ok()
        }),
        cuts: &[
            ("folder", "before last \"/\""),
            ("file", "after last \"/\""),
            ("ending", "after last \".\" | lower"),
        ],
    },
    Kind {
        // RFC 9562, section 4.
        looks_like: "UUID",
        may_be: |text| text.len() == 36,
        expression: LazyLock::new(|| {
            Regex::new(r"^[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}$").ok()
        }),
        cuts: &[("id", "trim | lower | check is /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/")],
    },
    Kind {
        looks_like: "hexadecimal id",
        may_be: |text| text.bytes().all(|byte| byte.is_ascii_hexdigit()),
        expression: LazyLock::new(|| Regex::new(r"^([0-9a-f]{8,64}|[0-9A-F]{8,64})$").ok()),
        cuts: &[("id", "trim | check is /^([0-9a-f]{8,64}|[0-9A-F]{8,64})$/")],
    },
    Kind {
        // RFC 5322, section 3.4.
        looks_like: "name and e-mail address",
        may_be: |text| text.ends_with('>'),
        expression: LazyLock::new(|| {
            Regex::new(r"^[^<>]*[^<>\s][^<>]*<[^<>@\s]+@[^<>@\s]+>$").ok()
        }),
        cuts: &[
            ("name", "before \"<\" | trim"),
            ("email", "between \"<\" and \">\" | lower | check is email"),
        ],
    },
];

impl Kind {
    fn fits(&self, text: &str) -> bool {
        (self.may_be)(text) && self.expression.as_ref().is_some_and(|of| of.is_match(text))
    }
}

/// The kind that nearly all texts of a sample are of, if there is one.
fn kind_of(sample: &[Sampled]) -> Option<&'static Kind> {
    let are = |kind: &Kind| {
        let (mut fit, mut not) = (0, 0);
        for sampled in sample {
            match kind.fits(sampled.text.trim()) {
                true => fit += 1,
                false => not += 1,
            }
            // Most columns are told to be of no kind by their first texts.
            if not * 100 > sample.len() * (100 - NEARLY_ALL) {
                return false;
            }
        }
        fit >= FEWEST
    };
    // An id of digits alone is told elsewhere.
    let has_letters = |kind: &Kind| {
        kind.looks_like != "hexadecimal id"
            || sample.iter().filter(|of| of.text.bytes().any(|b| b.is_ascii_alphabetic())).count()
                * 2
                > sample.len()
    };
    KINDS.iter().find(|kind| are(kind) && has_letters(kind))
}

/// What is said of a column of such a kind.
pub(super) fn looks_like(sample: &[Sampled]) -> Option<&'static str> {
    kind_of(sample).map(|kind| kind.looks_like)
}

/// The cuts of such a kind.
pub(super) fn proposals(sample: &[Sampled], names: &mut Names) -> Vec<Proposal> {
    let Some(kind) = kind_of(sample) else { return Vec::new() };
    kind.cuts
        .iter()
        .map(|(name, cut)| {
            let (name, may_lack) = match name.strip_suffix('?') {
                Some(name) => (name, "?"),
                None => (*name, ""),
            };
            Proposal {
                names: format!("{}{may_lack}", names.unused(name)),
                cut: (*cut).to_owned(),
                fits: sample.len() as u64,
            }
        })
        .collect()
}

impl ColumnSurvey {
    /// Counts what a text without white space at its ends is as a whole: a number, a day, of a
    /// scheme, a sentence.
    pub(super) fn count_kinds(&mut self, trimmed: &str, seen: u32, words: usize) {
        let filled = self.filled();
        // What so far holds for few is not asked of every text that follows.
        let likely = |count: u64| filled < SURELY || count * 10 > filled * 7;
        let has_four_words = if seen & CONTROL == 0 {
            words > 3
        } else {
            trimmed.split_whitespace().nth(3).is_some()
        };
        self.sentences += u64::from(has_four_words && seen & (LETTER | BEYOND) != 0);
        if seen & DIGIT != 0 && !self.are_of_no_kind {
            if likely(self.numbers) {
                self.numbers += u64::from(Decimal::is_text(trimmed, NumberStyle::PLAIN));
            }
            if (6..=18).contains(&trimmed.len()) {
                for (pattern, count) in
                    date_patterns().iter().zip(&mut self.dates).filter(|(_, count)| likely(**count))
                {
                    *count += u64::from(pattern.parse(trimmed).is_some());
                }
            }
            if !self.schemes.iter().any(|count| likely(*count)) {
                let is_likely = likely(self.numbers) || self.dates.iter().any(|of| likely(*of));
                self.are_of_no_kind = !is_likely;
                return;
            }
            let digits: String =
                trimmed.chars().filter(|c| !matches!(c, '-' | '/' | ' ' | '.')).collect();
            let figures: String = digits.chars().filter(char::is_ascii_digit).collect();
            for (scheme, count) in
                SCHEMES.iter().zip(&mut self.schemes).filter(|(_, count)| likely(**count))
            {
                let own = if matches!(scheme.name, "iban" | "mod97") { &digits } else { &figures };
                *count += u64::from(own.len() > 4 && scheme.holds(own));
            }
        }
    }
}

fn date_patterns() -> &'static [DatePattern] {
    static PATTERNS: LazyLock<Vec<DatePattern>> = LazyLock::new(|| {
        DATES.iter().filter_map(|pattern| DatePattern::read(pattern).ok()).collect()
    });
    &PATTERNS
}
