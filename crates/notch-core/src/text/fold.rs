//! Texts compared ignoring case.

/// A code point under Unicode simple case folding (CaseFolding.txt, status C and S), by way of its
/// upper case; letters whose mapping is more than one letter stay as they are.
fn fold(c: char) -> char {
    let one = |mut mapped: std::iter::Take<std::vec::IntoIter<char>>| match (
        mapped.next(),
        mapped.next(),
    ) {
        (Some(only), None) => Some(only),
        _ => None,
    };
    if c.is_ascii() {
        return c.to_ascii_lowercase();
    }
    match c {
        // The dotless i has an upper case of its own but no folding.
        'ı' => return c,
        // Letters encoded twice, whose upper case is several letters.
        '\u{1fd3}' => return '\u{390}',
        '\u{1fe3}' => return '\u{3b0}',
        'ﬅ' => return 'ﬆ',
        _ => {}
    }
    let upper = one(c.to_uppercase().collect::<Vec<_>>().into_iter().take(2)).unwrap_or(c);
    one(upper.to_lowercase().collect::<Vec<_>>().into_iter().take(2)).unwrap_or(upper)
}

/// A text under simple folding: two texts are the same ignoring case when theirs are the same.
pub(crate) fn folded(text: &str) -> String {
    text.chars().map(fold).collect()
}

/// Whether two texts are the same ignoring case (Unicode simple folding).
pub(crate) fn same_ignoring_case(a: &str, b: &str) -> bool {
    a.chars().map(fold).eq(b.chars().map(fold))
}

#[cfg(test)]
mod tests {
    use std::collections::{BTreeMap, BTreeSet};

    use regex_syntax::hir::{ClassUnicode, ClassUnicodeRange};

    use super::*;

    /// Letters are the same here exactly when Unicode's own table says so.
    #[test]
    fn folding_is_that_of_unicode() {
        let mut classes: BTreeMap<char, BTreeSet<char>> = BTreeMap::new();
        for c in char::MIN..=char::MAX {
            classes.entry(fold(c)).or_default().insert(c);
        }
        let mut wrong = Vec::new();
        for class in classes.values().filter(|class| {
            class.iter().any(|c| c.is_alphabetic() || c.is_lowercase() || c.is_uppercase())
        }) {
            for c in class {
                let mut unicode = ClassUnicode::new([ClassUnicodeRange::new(*c, *c)]);
                unicode.case_fold_simple();
                let unicode: BTreeSet<char> =
                    unicode.iter().flat_map(|range| range.start()..=range.end()).collect();
                // Letters younger than the table it is compared with.
                let young = matches!(c, '\u{a7ce}'..='\u{a7d5}' | '\u{16ea0}'..='\u{16ed3}');
                if unicode != *class && !young {
                    wrong.push((*c, class.clone(), unicode));
                }
            }
        }
        assert!(wrong.is_empty(), "{} of them: {:?}", wrong.len(), &wrong[..wrong.len().min(20)]);
    }
}
