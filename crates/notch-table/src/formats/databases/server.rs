//! The password that a database server asks for, and where a query ends.

use std::env;
use std::fs;
use std::path::PathBuf;

/// Whom a password is for.
pub(super) struct Login<'l> {
    pub host: &'l str,
    pub port: u16,
    pub database: &'l str,
    pub user: &'l str,
}

/// The password from the environment, else from the password file (PostgreSQL, The Password File).
pub(super) fn password(login: &Login<'_>) -> Option<String> {
    if let Ok(password) = env::var("PGPASSWORD") {
        return Some(password);
    }
    let path = match env::var_os("PGPASSFILE") {
        Some(path) => PathBuf::from(path),
        None => PathBuf::from(env::var_os("HOME")?).join(".pgpass"),
    };
    from_file(&fs::read_to_string(path).ok()?, login)
}

/// The password of the first line that suits: host, port, database, user, password, divided by
/// colons; `*` suits all, and a backslash takes its meaning from a colon or a backslash.
fn from_file(text: &str, login: &Login<'_>) -> Option<String> {
    let port = login.port.to_string();
    let wanted = [login.host, &port, login.database, login.user];
    text.lines().filter(|line| !line.starts_with('#')).find_map(|line| {
        let mut fields = vec![String::new()];
        let mut marks = line.chars();
        while let Some(mark) = marks.next() {
            match mark {
                ':' if fields.len() < 5 => fields.push(String::new()),
                '\\' => fields.last_mut()?.extend(marks.next()),
                mark => fields.last_mut()?.push(mark),
            }
        }
        let suits = fields.len() == 5
            && fields.iter().zip(wanted).all(|(field, wanted)| field == "*" || field == wanted);
        suits.then(|| fields.swap_remove(4))
    })
}

/// A query without what may stand after it: blanks, comments, semicolons.
pub(super) fn without_end(query: &str) -> &str {
    let bytes = query.as_bytes();
    let find = |from: usize, text: &str| {
        query[from..].find(text).map_or(query.len(), |at| from + at + text.len())
    };
    let (mut at, mut end) = (0, 0);
    while at < bytes.len() {
        let from = at;
        let rest = &bytes[at..];
        let is_part = match bytes[at] {
            mark @ (b'\'' | b'"') => {
                at = find(at + 1, if mark == b'"' { "\"" } else { "'" });
                true
            }
            b'-' if rest.starts_with(b"--") => {
                at = find(at, "\n");
                false
            }
            b'/' if rest.starts_with(b"/*") => {
                // A comment may hold others.
                let mut depth = 0;
                loop {
                    match &query.as_bytes()[at..] {
                        [b'/', b'*', ..] => (at, depth) = (at + 2, depth + 1),
                        [b'*', b'/', ..] => (at, depth) = (at + 2, depth - 1),
                        [] => break,
                        _ => at += 1,
                    }
                    if depth == 0 {
                        break;
                    }
                }
                false
            }
            // $$ or $mark$, up to the same again.
            b'$' => match rest[1..].iter().position(|byte| *byte == b'$') {
                Some(length)
                    if rest[1..=length]
                        .iter()
                        .all(|byte| byte.is_ascii_alphanumeric() || *byte == b'_') =>
                {
                    let mark = &query[at..at + length + 2];
                    at = find(at + mark.len(), mark);
                    true
                }
                _ => {
                    at += 1;
                    true
                }
            },
            byte => {
                at += 1;
                !byte.is_ascii_whitespace() && byte != b';'
            }
        };
        if is_part {
            end = at.max(from + 1);
        }
    }
    &query[..end]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_query_ends_before_its_semicolon() {
        for (query, wanted) in [
            ("select 1", "select 1"),
            ("select 1 ; ", "select 1"),
            ("select 1; -- the one;\n;", "select 1"),
            ("select ';' /* ; /* 'n */ */ ;", "select ';'"),
            ("select $a$;$$;$a$, \";--\" --", "select $a$;$$;$a$, \";--\""),
            ("select 'it''s;' -- 'x", "select 'it''s;'"),
            ("select é$1;/*", "select é$1"),
            (" ;", ""),
        ] {
            assert_eq!(without_end(query), wanted, "{query}");
        }
    }

    #[test]
    fn passwords_are_found() {
        let file = "#h:1:d:u:no\nh:1:d:u2:two\nh:1:*:u:a\\:b\\\\c:d\n*:*:*:*:last\n";
        let login = |user| Login { host: "h", port: 1, database: "d", user };
        assert_eq!(from_file(file, &login("u")).as_deref(), Some("a:b\\c:d"));
        assert_eq!(from_file(file, &login("u2")).as_deref(), Some("two"));
        assert_eq!(from_file(file, &login("x")).as_deref(), Some("last"));
        assert_eq!(from_file("h:1:d:u", &login("u")), None);
    }
}
