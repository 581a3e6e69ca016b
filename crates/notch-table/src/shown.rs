//! Names, paths and texts as a person is shown them: without control characters, without passwords,
//! without end.

use std::path::Path;

use keen_notch_core::{characters, is_format};

/// The text with signs for what cannot be seen: line ends `↵`, tabs `→`, blanks that are no plain
/// ones `⍽`, controls `¤`, and characters without a width of their own, as direction marks and
/// zero-width blanks, `◌`. Joiners of characters that can be joined stay.
pub fn visible(text: &str) -> String {
    if text.bytes().all(|b| matches!(b, b' '..=b'~')) {
        return text.to_owned();
    }
    let mut seen = String::with_capacity(text.len());
    for character in characters::each(text) {
        if character == "\r\n" {
            seen.push('↵');
            continue;
        }
        // After ASCII and after what cannot be seen there is nothing to join.
        let mut can_join = false;
        seen.extend(character.chars().map(|c| {
            let joins = can_join && matches!(c, '\u{200c}' | '\u{200d}');
            can_join = !c.is_ascii() && !c.is_control() && !is_format(c);
            match c {
                '\n' | '\r' | '\u{85}' | '\u{2028}' | '\u{2029}' => '↵',
                '\t' => '→',
                ' ' => ' ',
                c if c.is_whitespace() => '⍽',
                c if c.is_control() => '¤',
                c if is_format(c) && !joins => '◌',
                c => c,
            }
        }));
    }
    seen
}

/// A path as it is called in messages: one that is or may be meant to be the address of a server is
/// shown without its password.
pub fn shown_path(path: &Path) -> String {
    let text = path.display().to_string();
    let is_address = text.contains("://") || text.to_lowercase().starts_with("postgres");
    if is_address { without_password(&text) } else { text }
}

/// The address of a server without what may be a password. Of the options none is shown but
/// `sslmode`: others may hold one in any spelling.
pub(crate) fn without_password(url: &str) -> String {
    let (scheme, rest) = match url.find("://") {
        Some(at) => url.split_at(at + 3),
        None => url.split_at(url.find([':', '/']).unwrap_or(url.len())),
    };
    // A password may hold any sign that should have been written otherwise, so it ends at the last
    // @.
    let (user, place) = match rest.rsplit_once('@') {
        Some((user, place)) => (user.split([':', '/', '?']).next(), place),
        None => (None, rest),
    };
    let (host, options) = place.split_once('?').unwrap_or((place, ""));
    let mode = options.split('&').find(|option| option.starts_with("sslmode="));
    let user = user.map_or(String::new(), |user| format!("{user}@"));
    format!("{scheme}{user}{host}{}", mode.map_or(String::new(), |mode| format!("?{mode}")))
}

/// How many files of an archive a message lists.
const LISTED: usize = 12;

pub(crate) fn listed(files: &[String]) -> String {
    let more = files.len().saturating_sub(LISTED);
    let end = if more > 0 { format!(" and {more} more") } else { String::new() };
    format!("{}{end}", files[..files.len().min(LISTED)].join(", "))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn passwords_are_never_shown() {
        for (url, shown) in [
            (
                "postgres://anna:s3@cr@et@h:5432/seeds?sslmode=require&password=s3cret",
                "postgres://anna@h:5432/seeds?sslmode=require",
            ),
            ("postgresql://h/seeds?password=x", "postgresql://h/seeds"),
            ("postgres://anna@h/seeds", "postgres://anna@h/seeds"),
            (
                "postgres://anna:s3?cr/et@h/seeds?sslmode=disable",
                "postgres://anna@h/seeds?sslmode=disable",
            ),
            ("postgres://anna:s3cret@", "postgres://anna@"),
            (
                "postgres://h/seeds?PASSWORD=s3cret&p%61ssword=s3cret&sslpassword=s3cret&passfile=x",
                "postgres://h/seeds",
            ),
            ("postgre://anna:s3cret@h/seeds", "postgre://anna@h/seeds"),
            ("postgresql:anna:s3cret@h/seeds", "postgresql@h/seeds"),
            ("Postgres:/anna:s3cret@h/seeds?user=anna&password=s3cret", "Postgres@h/seeds"),
        ] {
            let said = shown_path(Path::new(url));
            assert!(!said.contains("s3") && !said.contains("cret"), "{said}");
            assert_eq!(said, shown);
        }
    }
}
