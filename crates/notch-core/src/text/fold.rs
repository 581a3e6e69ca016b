//! Texts compared ignoring case.

/// A code point under Unicode simple case folding (CaseFolding.txt, status C and S), by way of its upper case; letters whose
/// mapping is more than one letter stay as they are.
fn fold(c: char) -> char {
    let one = |mut mapped: std::iter::Take<std::vec::IntoIter<char>>| match (mapped.next(), mapped.next()) {
        (Some(only), None) => Some(only),
        _ => None,
    };
    if c.is_ascii() {
        return c.to_ascii_lowercase();
    }
    // The dotless i has an upper case of its own but no folding.
    if c == 'ı' {
        return c;
    }
    let upper = one(c.to_uppercase().collect::<Vec<_>>().into_iter().take(2)).unwrap_or(c);
    one(upper.to_lowercase().collect::<Vec<_>>().into_iter().take(2)).unwrap_or(upper)
}

/// Whether two texts are the same ignoring case (Unicode simple folding).
pub(crate) fn same_ignoring_case(a: &str, b: &str) -> bool {
    a.chars().map(fold).eq(b.chars().map(fold))
}
