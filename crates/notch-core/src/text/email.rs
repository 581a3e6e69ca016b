//! E-mail addresses.

use crate::text::masks::{WIDE, digits, equal, letters, lowest, wide};

/// Whether a text is an e-mail address by RFC 5321, section 4.1.2, and RFC 5322, section 3.4.1: no
/// name before it, no address in square brackets after the @.
pub(crate) fn is_email(text: &str) -> bool {
    is_plain_email(text) || is_any(text)
}

fn is_any(text: &str) -> bool {
    let options = email_address::Options::default().without_display_text().without_domain_literal();
    email_address::EmailAddress::parse_with_options(text, options).is_ok()
}

/// Whether it is one of the plain ones that nearly all are: atoms of letters and digits with `.`,
/// `_`, `-` and `+` between them before the @, labels of letters and digits with `-` inside after
/// it; no more than 64 bytes, so that a bit each tells where what stands. Of texts of one shape all
/// are, or none.
pub(crate) fn is_plain_email(text: &str) -> bool {
    let bytes = text.as_bytes();
    if bytes.len() > 64 {
        return false;
    }
    let whole = lowest(bytes.len());
    let (mut plain, mut dots, mut hyphens, mut others, mut at) = (0, 0, 0, 0, 0);
    for from in (0..bytes.len()).step_by(WIDE) {
        // The last sixteen overlap those before them: nothing beyond the text is looked at.
        let from = from.min(bytes.len().saturating_sub(WIDE));
        let chunk = wide(bytes, from);
        plain |= (digits(&chunk) | letters(&chunk)) << from;
        dots |= equal(&chunk, b'.') << from;
        hyphens |= equal(&chunk, b'-') << from;
        others |= (equal(&chunk, b'_') | equal(&chunk, b'+')) << from;
        at |= equal(&chunk, b'@') << from;
    }
    let (local, domain) = (at.wrapping_sub(1), whole & !(at | at.wrapping_sub(1)));
    // Both begin and end with a letter or digit, and so does each label.
    let edges = 1 | at >> 1 | at << 1 | whole & !(whole >> 1);
    let inner_edges = ((dots & domain) << 1) | ((dots & domain) >> 1);
    at.is_power_of_two()
        && plain | dots | hyphens | others | at == whole
        && (edges | inner_edges) & !plain == 0
        && others & domain == 0
        && dots & (dots << 1) & local == 0
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(20_000))]

        #[test]
        fn plain_ones_are_addresses(text in "[aZ1._+-]{1,6}@[aZ1.-]{1,8}(\\.[a-z0-9]{1,3})?|[a.]{60,66}@b|a@([a-c]{60,64}\\.){1,5}[a-d]{1,9}|[a@.é \"-]{1,8}") {
            prop_assert!(!is_plain_email(&text) || is_any(&text), "{}", text);
        }
    }

    #[test]
    fn the_usual_ones_are_plain() {
        for text in [
            "iris.moran@fernhollow.example",
            "i_m-2+seeds@north.fernhollow.example",
            "kp@fernhollow",
        ] {
            assert!(is_plain_email(text), "{text}");
        }
        for text in [
            "",
            "@",
            "a@",
            "@a",
            "a..b@c",
            ".a@c",
            "a@b..c",
            "a@-b.c",
            "a@b@c",
            "é@b.example",
            "\"a b\"@c.example",
        ] {
            assert!(!is_plain_email(text), "{text}");
        }
    }
}
