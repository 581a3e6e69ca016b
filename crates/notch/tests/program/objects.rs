//! Objects of JSON: however a program writes them they are the same table, and one that is broken is
//! named.

use serde_json::to_string;

use super::support::Folder;

/// The names and values of the fields of an object, as JSON.
type Object = Vec<(&'static str, String)>;

/// More objects than one block has, of which most have the same fields in the same order.
fn objects() -> Vec<Object> {
    let notes = [
        "split, \"late\"",
        ": see \"lot\": on the back",
        "",
        " two\nlines",
        "{\"lot\":\"none\"}",
        "dried at 15 °C 😀",
        "C:\\trays\\",
        "kept",
    ];
    let object = |n: usize| {
        let text = |text: &str| to_string(text).unwrap();
        let mut fields = vec![
            ("lot", text(&format!("FH-2019-{n:05}"))),
            ("note", text(notes[n % notes.len()])),
            ("qty", if n % 7 == 3 { "null".to_owned() } else { (3 * n).to_string() }),
            ("größe, in mm", text(&format!("{}", n % 12))),
            ("a name that is longer than sixteen bytes", format!("{}.5", n % 3)),
            ("dry", n.is_multiple_of(2).to_string()),
        ];
        match n % 500 {
            20 => drop(fields.remove(0)),
            40 => fields.reverse(),
            60 => fields.truncate(2),
            80 => fields.push(("tray", text("T-80"))),
            100 => fields[1].1 = "{\"by\":\"Iris\",\"text\":\"late\"}".to_owned(),
            120 => fields[1].1 = "[1,\"a\"]".to_owned(),
            140 => fields[2].1 = "2.5e1".to_owned(),
            160 => fields.clear(),
            _ => {}
        }
        fields
    };
    (0..5000).map(object).collect()
}

/// Objects as a program may write them.
struct Writing {
    name: &'static str,
    comma: &'static str,
    colon: &'static str,
    /// What stands before the first name and after the last value.
    inside: [&'static str; 2],
    /// What stands before the first object, between two, and after the last.
    outside: [&'static str; 3],
    only_ascii: bool,
}

const LINES: Writing = Writing {
    name: "lines.jsonl",
    comma: ",",
    colon: ":",
    inside: ["", ""],
    outside: ["", "\n", "\n"],
    only_ascii: false,
};

const WRITINGS: &[Writing] = &[
    Writing { name: "blanks.jsonl", comma: ", ", colon: ": ", ..LINES },
    Writing { name: "many-blanks.jsonl", comma: " , ", colon: " :  ", inside: [" ", " "], ..LINES },
    Writing { name: "escapes.jsonl", only_ascii: true, ..LINES },
    Writing { name: "crlf.jsonl", outside: ["", "\r\n", ""], ..LINES },
    Writing { name: "side-by-side.jsonl", outside: ["", " ", "\n"], ..LINES },
    Writing { name: "blank-lines.jsonl", outside: ["\n", "\n\n", "\n\n"], ..LINES },
    Writing { name: "array.json", outside: ["[", ",", "]"], ..LINES },
    Writing {
        name: "indented.json",
        comma: ",\n    ",
        colon: ": ",
        inside: ["\n    ", "\n  "],
        outside: ["[\n  ", ",\n  ", "\n]\n"],
        only_ascii: false,
    },
];

impl Writing {
    fn text(&self, objects: &[Object]) -> String {
        let escaped = |text: String| match self.only_ascii {
            false => text,
            true => text.chars().fold(String::new(), |mut text, c| {
                match c.is_ascii() {
                    true => text.push(c),
                    false => c
                        .encode_utf16(&mut [0; 2])
                        .iter()
                        .for_each(|unit| text.push_str(&format!("\\u{unit:04x}"))),
                }
                text
            }),
        };
        let field =
            |(name, value): &(&str, String)| escaped(to_string(name).unwrap() + self.colon + value);
        let object = |object: &Object| {
            let fields: Vec<_> = object.iter().map(field).collect();
            let [before, after] = self.inside;
            format!("{{{before}{}{after}}}", fields.join(self.comma))
        };
        let [first, between, last] = self.outside;
        let objects: Vec<_> = objects.iter().map(object).collect();
        format!("{first}{}{last}", objects.join(between))
    }
}

/// All ways to write the same objects make the same rows and the same types of columns.
#[test]
fn objects_are_one_table_however_they_are_written() {
    let objects = objects();
    let cuts = ["serial = {lot} | after last \"-\"", "back = {note} | after \":\""];
    let made = |writing: &Writing| {
        let folder = Folder::with(&[(writing.name, &writing.text(&objects))]);
        [("1.csv", "1"), ("2.csv", "2"), ("2.json", "2")].map(|(out, threads)| {
            let args =
                ["carve", writing.name, cuts[0], cuts[1], "-o", out, "-q", "--threads", threads];
            let (_, err, status) = folder.run(&args, b"");
            assert_eq!((&*err, status), ("", 0), "{}", writing.name);
            folder.read(out)
        })
    };
    let wanted = made(&LINES);
    assert!(wanted[0] == wanted[1]);
    for writing in WRITINGS {
        assert!(made(writing) == wanted, "{}", writing.name);
    }
    // Among the rows those of which something is odd, and usual ones beside them.
    let [rows, _, read_again] = wanted;
    let odd = |n: usize| [0, 3, 4, 20, 40, 60, 80, 100, 120, 140, 160].contains(&n);
    let mut records = csv::ReaderBuilder::new().has_headers(false).from_reader(rows.as_bytes());
    let mut shown = String::new();
    for (n, record) in records.records().enumerate() {
        if n == 0 || odd(n - 1) {
            shown += &format!("{:?}\n", record.unwrap().iter().collect::<Vec<_>>());
        }
    }
    insta::assert_snapshot!(shown);
    // What goes out as objects has all rows, and says what was text and what was not.
    let read_again: Vec<serde_json::Value> = serde_json::from_str(&read_again).unwrap();
    assert_eq!(read_again.len(), objects.len());
    let is_number = |object: &serde_json::Value| object["dry"].is_boolean();
    assert!(read_again.iter().filter(|object| is_number(object)).count() > 4_900);
}

/// Of what is no object, or no whole one, it is said which it is and what is wrong; nothing is
/// written.
#[test]
fn broken_objects_are_named() {
    let broken = [
        ("ends.jsonl", "{\"lot\":\"FH-1\"}\n{\"lot\":\"FH-2\"\n"),
        ("goes-on.jsonl", "{\"lot\":\"FH-1\"\n{\"lot\":\"FH-2\"}\n"),
        ("text.jsonl", "{\"lot\":\"FH-1\"}\nFH-2\n{\"lot\":\"FH-3\"}\n"),
        ("word.jsonl", "{\"lot\":\"FH-1\"}\n{\"lot\":tru}\n"),
        ("no-colon.jsonl", "{\"lot\":\"FH-1\",\"qty\" \"2\"}\n"),
        ("no-comma.jsonl", "{\"lot\":\"FH-1\" \"qty\":2}\n"),
        ("tab.jsonl", "{\"lot\":\"FH-1\"}\n{\"lot\":\"FH\t2\"}\n"),
        ("escape.jsonl", "{\"lot\":\"FH-1\"}\n{\"lot\":\"FH\\x2\"}\n"),
        ("zero.jsonl", "{\"lot\":\"FH-1\",\"qty\":007}\n"),
        ("open.json", "[{\"lot\":\"FH-1\"},\n{\"lot\":\"FH-2\"}\n"),
        ("behind.json", "[{\"lot\":\"FH-1\"}]\n{\"lot\":\"FH-2\"}\n"),
        ("commas.jsonl", "{\"lot\":\"FH-1\"},\n{\"lot\":\"FH-2\"}\n"),
    ];
    let mut folder = Folder::with(&broken);
    folder.write("latin.jsonl", b"{\"lot\":\"FH-1\"}\n{\"lot\":\"caf\xe9\"}\n");
    for (name, _) in broken.iter().chain(&[("latin.jsonl", "")]) {
        folder.show(&["carve", name, "house = {lot} | first 2", "-o", "out.csv", "-q"]);
        assert!(!folder.path("out.csv").exists(), "{name}");
    }
    insta::assert_snapshot!(folder.screen);
}
