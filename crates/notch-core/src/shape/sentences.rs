//! Shapes of sentences: the runs of letters and digits of a shape as the words and numbers that a
//! person reads, so that texts that differ in nothing but the lengths of their words are counted
//! together.

/// A piece of a shape as a reader sees it.
#[derive(Debug, Clone, PartialEq, Eq)]
enum Seen {
    Word,
    /// That many words with single blanks between, two or more.
    Words(usize),
    Number,
    /// Letters and digits mixed.
    Mixed,
    /// White space, that many characters.
    Space(String),
    Sign(String),
}

/// A shape in the slots of `is shape` that stand for words and numbers:
/// `[U][l4][s][l2][s][d2]` is `[w+] [n]`.
pub(super) fn in_words(shape: &str) -> String {
    let mut seen: Vec<Seen> = Vec::new();
    let mut rest = shape;
    while let Some(first) = rest.chars().next() {
        let run = rest.strip_prefix('[').filter(|run| !run.starts_with('[')).and_then(|run| {
            let (inside, behind) = run.split_once(']')?;
            Some((inside, behind))
        });
        let (next, behind) = match run {
            Some((inside, behind)) => (
                match inside.chars().next() {
                    Some('d') => Seen::Number,
                    Some('s') => Seen::Space(inside[1..].to_owned()),
                    _ => Seen::Word,
                },
                behind,
            ),
            None if rest.starts_with("[[]") => (Seen::Sign("[[]".to_owned()), &rest[3..]),
            None => (Seen::Sign(first.to_string()), &rest[first.len_utf8()..]),
        };
        rest = behind;
        push(&mut seen, next);
    }
    seen.iter()
        .map(|seen| match seen {
            Seen::Word => "[w]",
            Seen::Words(_) => "[w+]",
            Seen::Number => "[n]",
            Seen::Mixed => "[x]",
            Seen::Space(count) if count.is_empty() => " ",
            Seen::Space(_) => "[s+]",
            Seen::Sign(sign) => sign,
        })
        .collect()
}

/// One piece more, put together with those before it where a reader sees one thing.
fn push(seen: &mut Vec<Seen>, next: Seen) {
    let joins = |sign: &Seen, signs: &[&str]| match sign {
        Seen::Sign(sign) => signs.contains(&sign.as_str()),
        _ => false,
    };
    let is_blank = |space: &Seen| matches!(space, Seen::Space(count) if count.is_empty());
    // How many of the pieces before it, and what stands for them together with it.
    let (last, together) = match (&seen[..], &next) {
        ([.., Seen::Words(2)], Seen::Number) => {
            seen.pop();
            seen.extend([Seen::Word, Seen::Space(String::new()), Seen::Mixed]);
            return;
        }
        ([.., Seen::Words(count)], Seen::Number) => {
            let words = Seen::Words(count - 1);
            seen.pop();
            seen.extend([words, Seen::Space(String::new()), Seen::Mixed]);
            return;
        }
        ([.., last @ (Seen::Word | Seen::Words(_))], Seen::Word) => (1, last.clone()),
        ([.., Seen::Mixed], Seen::Word | Seen::Number) => (1, Seen::Mixed),
        ([.., Seen::Word], Seen::Number) | ([.., Seen::Number], Seen::Word) => (1, Seen::Mixed),
        ([.., last @ (Seen::Word | Seen::Words(_)), sign], Seen::Word)
            if joins(sign, &["-", "'", "’"]) =>
        {
            (2, last.clone())
        }
        ([.., Seen::Number, sign], Seen::Number) if joins(sign, &[".", ","]) => (2, Seen::Number),
        ([.., Seen::Word, space], Seen::Word) if is_blank(space) => (2, Seen::Words(2)),
        ([.., Seen::Words(count), space], Seen::Word) if is_blank(space) => {
            (2, Seen::Words(count + 1))
        }
        _ => (0, next),
    };
    seen.truncate(seen.len() - last);
    seen.push(together);
}

/// Whether a shape is that of a sentence: it has three blanks or more, and letters.
pub(super) fn is_sentence(shape: &str) -> bool {
    shape.matches("[s").nth(2).is_some() && ["[U", "[l", "[c"].iter().any(|run| shape.contains(run))
}

#[cfg(test)]
mod tests {
    use super::super::shape;
    use super::*;

    #[test]
    fn words_and_numbers_are_what_a_reader_sees() {
        for (text, wanted) in [
            ("Lot 12, beds 3 and 4", "[w] [n], [w] [n] [w] [n]"),
            ("north-facing bed of Věra's", "[w+]"),
            ("paid 1,250.50 for R3  [late]", "[w] [n] [w] [x][s+][[][w]]"),
            ("FH-2019", "[w]-[n]"),
            ("a-1-b", "[w]-[n]-[w]"),
            ("three of them in bed7b", "[w+] [x]"),
            ("", ""),
        ] {
            assert_eq!(in_words(&shape(text)), wanted, "{text}");
        }
    }
}
