//! E-mail addresses.

/// Whether a text is an e-mail address by RFC 5321, section 4.1.2, and RFC 5322, section 3.4.1: no name before it, no address in
/// square brackets behind the @.
pub(crate) fn is_email(text: &str) -> bool {
    is_plain(text) || is_any(text)
}

fn is_any(text: &str) -> bool {
    let options = email_address::Options::default().without_display_text().without_domain_literal();
    email_address::EmailAddress::parse_with_options(text, options).is_ok()
}

/// Whether it is one of the plain ones that nearly all are: atoms of letters and digits with `.`, `_`, `-` and `+` between them before the @,
/// labels of letters and digits with `-` inside behind it.
fn is_plain(text: &str) -> bool {
    let bytes = text.as_bytes();
    let Some(at) = memchr::memchr(b'@', bytes) else { return false };
    let (local, domain) = (&bytes[..at], &bytes[at + 1..]);
    let is_local = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'.' | b'_' | b'-' | b'+');
    let is_domain = |byte: &u8| byte.is_ascii_alphanumeric() || matches!(byte, b'.' | b'-');
    let is_edge = |byte: Option<&u8>| byte.is_some_and(u8::is_ascii_alphanumeric);
    let has_edges = |text: &[u8]| is_edge(text.first()) && is_edge(text.last());
    (1..=64).contains(&local.len())
        && domain.len() <= 250
        && has_edges(local)
        && has_edges(domain)
        && local.iter().all(is_local)
        && domain.iter().all(is_domain)
        && !local.windows(2).any(|pair| pair == b"..")
        && domain.split(|byte| *byte == b'.').all(|label| has_edges(label) && label.len() <= 63)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(20_000))]

        #[test]
        fn plain_ones_are_addresses(text in "[aZ1._+-]{1,6}@[aZ1.-]{1,8}(\\.[a-z0-9]{1,3})?|[a.]{60,66}@b|a@([a-c]{60,64}\\.){1,5}[a-d]{1,9}|[a@.é \"-]{1,8}") {
            prop_assert!(!is_plain(&text) || is_any(&text), "{}", text);
        }
    }

    #[test]
    fn the_usual_ones_are_plain() {
        for text in ["iris.moran@fernhollow.example", "i_m-2+seeds@north.fernhollow.example", "kp@fernhollow"] {
            assert!(is_plain(text), "{text}");
        }
        for text in ["", "@", "a@", "a..b@c", ".a@c", "a@b..c", "a@-b.c", "a@b@c", "é@b.example", "\"a b\"@c.example"] {
            assert!(!is_plain(text), "{text}");
        }
    }
}
