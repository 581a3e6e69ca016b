//! Whatever is read of an object quickly reads the same as by `serde_json`.

use std::io::Cursor;

use proptest::prelude::*;

use super::columns::{Found, of_lines};
use super::flat::{has_special, has_special_open};
use super::*;
use crate::cells::Kind;

/// Texts that look like JSON objects, most of which are; with line ends in them or without.
fn objects(line_ends: bool) -> impl Strategy<Value = String> {
    let blanks = if line_ends { "( {0,2}|\t|\n)?" } else { " {0,2}|\t" };
    let string = prop_oneof![
        8 => "\"[a-cé ,:{}\\[\\]0-9]{0,40}\"",
        // What looks like a name, or like none, where a text begins and in it.
        1 => "\"[: ,{}]?(\\\\\"[abc]\\\\\":|[{,]\\\\\"a\\\\\":)?\"",
        2 => "\"[a-c]{0,18}(\\\\n|\\\\\"|\\\\u00e9|\\\\ud83d\\\\ude00|\\\\x|\t)[a-c]{0,3}\"",
    ];
    let value = prop_oneof![
        8 => string.clone(),
        4 => "-?[0-9]{1,18}(\\.[0-9]{0,17})?([eE][+-]?[0-9])?",
        4 => "true|false|null|nul|tru",
        1 => "\\{\"[ab]\": *[0-9]\\}|\\[[0-9],\"x\"\\]",
    ];
    let named = |names: &'static str| {
        let name = prop_oneof![8 => names.boxed(), 1 => string.clone().boxed()];
        (blanks, name, blanks, blanks, value.clone(), blanks)
            .prop_map(|(a, name, b, c, value, d)| format!("{a}{name}{b}:{c}{value}{d}"))
    };
    let usual =
        (named("\"a\""), named("\"b\""), named("\"[cd]\"")).prop_map(|(a, b, c)| vec![a, b, c]);
    let fields = prop_oneof![2 => usual, 1 => prop::collection::vec(named("\"[a-d]\""), 0..5)];
    (fields, "\\}{12}|,\\}|", ".{0,3}").prop_map(|(fields, end, rest)| {
        let end = end.strip_prefix("}}}}}}}}}}}").unwrap_or(&end);
        format!("{{{}{end}{rest}", fields.join(","))
    })
}

/// A line that is an object, as most programs write them, or nothing.
fn lines() -> impl Strategy<Value = Vec<String>> {
    let is_whole = |line: &String| line.is_empty() || parsed(line.as_bytes()).is_ok();
    let line = objects(false).prop_map(|text| {
        let end = text.rfind('}').map_or(0, |at| at + 1);
        text[..end].to_owned()
    });
    prop::collection::vec(line.prop_filter("an object", is_whole), 1..24)
}

fn reader(text: &str) -> Box<dyn Read + Send> {
    Box::new(Cursor::new(text.to_owned().into_bytes()))
}

proptest! {
    #[test]
    fn specials_are_met_wherever_they_stand(
        bytes in "[a-zé ]{0,40}|[a-z]{0,20}[\"\\\\\t][a-z]{0,20}|[ -~é]{0,40}",
    ) {
        let is_special = |byte: u8| byte < b' ' || matches!(byte, b'"' | b'\\');
        prop_assert_eq!(has_special(bytes.as_bytes()), bytes.bytes().any(is_special));
        for length in 0..=bytes.len() {
            let found = bytes.bytes().take(length).any(is_special);
            prop_assert_eq!(has_special_open(bytes.as_bytes(), length), found);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2000, max_local_rejects: 1_000_000, ..Default::default() })]
    #[test]
    fn flat_objects_are_read_like_all(text in objects(true)) {
        let names = ["a", "b", "c"].map(str::to_owned);
        let mut flat = FlatObject::default();
        let length = flat.read(text.as_bytes(), &names);
        // What is expected is read as that, the values alone.
        let expected = Expected::of(names.iter().map(String::as_str));
        let mut values = Vec::new();
        if let Some(expected) = expected.read(text.as_bytes(), |n, value| values.push((n, value.clone()))) {
            prop_assert_eq!(Some(expected), length, "{}", text);
            let read = flat.fields.iter().map(|field| field.value.clone()).enumerate();
            prop_assert_eq!(values, read.collect::<Vec<_>>(), "{}", text);
        }
        let Some(length) = length else { return Ok(()) };
        let object = &text[..length];
        let parsed = parsed(object.as_bytes());
        // An escape that is none is met when the text is taken.
        let texts: Result<Vec<String>, _> = flat.fields.iter().map(|field| match field.value.has_escapes {
            true => serde_json::from_str(&object[field.value.at.start - 1..field.value.end]),
            false => Ok(object[field.value.at.clone()].to_owned()),
        }).collect();
        prop_assert_eq!(texts.is_ok(), parsed.is_ok(), "{}", object);
        let (Ok(texts), Ok(parsed)) = (texts, parsed) else { return Ok(()) };
        for (field, text) in flat.fields.iter().zip(&texts) {
            let told = (field.value.has_commas, field.value.is_ascii);
            prop_assert!(field.value.has_escapes || told == (text.contains(','), text.is_ascii()), "{}", object);
        }
        let read = flat.fields.iter().map(|field| &object[field.name.clone()]).zip(&texts);
        let fields = parsed.0.iter().map(|field| (&*field.name, &field.text));
        prop_assert!(read.eq(fields), "{}", object);
        let [mut found, mut wanted] = [&names; 2].map(|names| {
            let mut found = Found::default();
            names.iter().for_each(|name| found.add(name, None));
            found
        });
        found.add_flat(object.as_bytes(), &flat);
        wanted.add_other(object.as_bytes()).unwrap();
        prop_assert_eq!(found.columns(), wanted.columns(), "{}", object);
    }

    /// Objects by lines: the same columns for every number of threads and size of a block, and rows
    /// that hold what each object does.
    #[test]
    fn lines_are_read_like_objects_one_by_one(
        lines in lines(), size in 1_usize..900, threads in 1_usize..4, end in "\n|",
    ) {
        let text = lines.join("\n") + &end;
        let wanted = columns(reader(&text)).unwrap();
        let found = of_lines(reader(&text), threads, size);
        prop_assert_eq!(found.as_ref(), Some(&wanted), "{}", text);

        let mut rows = MadeRows::default();
        for line in lines.iter().filter(|line| !line.is_empty()) {
            let mut cells = vec![""; wanted.columns.len()];
            let object = parsed(line.as_bytes()).unwrap();
            object.0.iter().for_each(|field| cells[wanted.places[&field.name]] = &field.text);
            push_row(cells.into_iter().map(|cell| Ok(cell.into())), &mut rows).unwrap();
            rows.end_row();
        }
        let (mut json, mut read) = (JsonText::new(reader(&text), wanted), MadeRows::default());
        json.next_rows(usize::MAX, &mut read).unwrap();
        prop_assert_eq!(String::from_utf8_lossy(&read.bytes), String::from_utf8_lossy(&rows.bytes), "{}", text);
        prop_assert!(read == rows, "{}", text);
    }
}

/// What is no list of whole objects by lines is left to the reading by objects.
#[test]
fn other_files_are_no_lines_of_objects() {
    for text in [
        "[{\"a\":1}]",
        "{\"a\":\n1}",
        "{\"a\":1}\n{\"b\":",
        "{\"a\":1}\nb",
        "{\"a\":1},\n",
        "{\"a\":[1]} {\"b\":2}\n",
        "{\"a\":[1]}]\n",
    ] {
        assert_eq!(of_lines(reader(text), 2, 4), None, "{text}");
    }
    let text = "{\"b\":1} {\"a\":null}\n\n{\"a\":\"x\"}\n{\"c\":{\"d\":1.5}}";
    let named = |name: &str, kind| (name.to_owned(), kind);
    let wanted =
        [named("b", Kind::Integer), named("a", Kind::Text), named("c.d", Kind::Number)].to_vec();
    assert_eq!(of_lines(reader(text), 2, 4).unwrap().columns, wanted);
}
