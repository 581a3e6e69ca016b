//! Numbers on the short way.

use super::place::Change;
use crate::text::masks::{WIDE, digits_from, equal, lowest, wide};

/// The first number of a span, whose first digit is at `start`, where it leaves no doubt, and whether commas group it: no sign, bracket or
/// letter beyond ASCII beside it, no other comma or point that could belong to it.
#[inline]
pub(super) fn number(text: &[u8], from: usize, to: usize, start: usize) -> Option<((usize, usize), bool)> {
    let byte = |at: usize| (at < to).then(|| text[at]);
    let digits = |at: usize| digits_from(text, at, to);
    // A sign, an opening bracket, a point or a comma before it may matter, and a dash that does not join it to a word.
    let is_free = |at: usize| match text[at] {
        b'-' => at > from && text[at - 1].is_ascii_alphanumeric(),
        byte => byte.is_ascii() && !matches!(byte, b'+' | b'.' | b',' | b'$' | b'(' | b'[' | b'{' | b'<'),
    };
    if start > from && !is_free(start - 1) {
        return None;
    }
    let count = digits(start);
    if count > 1 && text[start] == b'0' {
        return None;
    }
    let (mut end, mut grouped, mut pointed) = (start + count, false, false);
    loop {
        match (byte(end), byte(end + 1)) {
            (Some(b','), Some(b'0'..=b'9')) => {
                let fits = count <= 3 && text[start] != b'0' && digits(end + 1) == 3 && !pointed;
                if !fits {
                    return None;
                }
                (end, grouped) = (end + 4, true);
            }
            (Some(b'.'), Some(b'0'..=b'9')) => {
                if pointed {
                    return None;
                }
                (end, pointed) = (end + 1 + digits(end + 1), true);
            }
            (Some(b','), Some(b' ') | None) | (Some(b'.'), Some(b' ') | None) | (None, _) => break,
            (Some(b'-'), Some(next)) if next.is_ascii_alphanumeric() => break,
            (Some(b',' | b'.' | b'-'), _) => return None,
            // Nothing opens before it that a bracket behind it would close.
            (Some(after), _) if after.is_ascii() => break,
            _ => return None,
        }
    }
    Some(((start, end), grouped))
}

/// A number without the commas that group it.
pub(super) fn without_groups(text: &mut String, from: usize, to: usize) -> Change {
    let commas = |text: &String, from: usize| equal(&wide(text.as_bytes(), from), b',') & lowest(to - from);
    let (mut from, mut is_same) = (from, true);
    while from < to {
        let length = match commas(text, from) {
            0 if is_same && to - from <= WIDE => return Change::Same,
            0 => WIDE.min(to - from),
            found => found.trailing_zeros() as usize,
        };
        is_same = false;
        text.extend_from_within(from..from + length);
        from += length + usize::from(text.as_bytes().get(from + length) == Some(&b','));
    }
    Change::Made
}
