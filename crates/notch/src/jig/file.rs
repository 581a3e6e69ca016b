//! The file of a jig: the keys, for serde to read and schemars to describe.
//!
//! This is the one description of the keys. `notch jig schema` prints it as JSON Schema, and the
//! doc comments of the fields are the descriptions there. `mod.rs` makes a [`Jig`](super::Jig) of
//! it, `mistakes.rs` says what is wrong with a file that does not fit it.

use std::fmt;

use indexmap::IndexMap;
use keen_notch_core::OnFinding;
use schemars::JsonSchema;
use serde::de::value::MapAccessDeserializer;
use serde::de::{MapAccess, Visitor};
use serde::{Deserialize, Deserializer};
use toml::Spanned;

/// A jig of Keen Notch: cuts, lists and checks, to use again on new tables.
#[derive(Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct JigFile {
    /// What the jig is for.
    pub title: Option<String>,
    /// The column a cut starts from when it names none.
    #[schemars(with = "Option<String>")]
    pub column: Option<Spanned<String>>,
    /// What divides the columns of the table: comma, tab, semicolon, bar or one character; found by
    /// looking when not said.
    pub separator: Option<String>,
    /// Whether the first row names the columns; without names they are called 1, 2, 3.
    pub header: Option<bool>,
    /// Write only the rows for which this condition holds, such as {house} is "FH".
    #[serde(rename = "where")]
    #[schemars(with = "Option<String>")]
    pub only_rows: Option<Spanned<String>>,
    /// Write these columns, old and new, in this order; "new" for the new ones alone.
    pub write: Option<Write>,
    /// What a finding does to its row.
    pub on_finding: Option<Action>,
    /// Lists that cuts may name.
    #[schemars(with = "IndexMap<String, ListEntry>")]
    pub lists: IndexMap<Spanned<String>, Spanned<ListEntry>>,
    /// What the table itself must be like, before any cut.
    #[schemars(with = "IndexMap<String, ColumnEntry>")]
    pub columns: IndexMap<Spanned<String>, ColumnEntry>,
    /// The cuts, in the order in which they are made and written.
    #[schemars(with = "IndexMap<String, CutEntry>")]
    pub cuts: IndexMap<Spanned<String>, Spanned<CutEntry>>,
    /// What must hold for every row, each check with its title, such as "sown before sent" =
    /// "{sown} earlier than {sent}".
    #[schemars(with = "IndexMap<String, String>")]
    pub checks: IndexMap<Spanned<String>, Spanned<String>>,
    /// How many rows with findings of a cut, a check or a column are put up with: "0.5%" of the
    /// rows, or a number of rows.
    #[schemars(with = "IndexMap<String, AllowanceEntry>")]
    pub allow: IndexMap<Spanned<String>, Spanned<AllowanceEntry>>,
    /// What the new columns looked like once; written by notch check --remember.
    pub remembered: Option<Remembered>,
}

/// The JSON Schema of jigs.
pub fn schema() -> serde_json::Value {
    schemars::schema_for!(JigFile).to_value()
}

/// A cut: its text, or a table.
#[derive(Debug, JsonSchema)]
#[schemars(untagged)]
pub enum CutEntry {
    /// The cut, such as part 2 by "-".
    Text(String),
    /// The cut with more to say of it.
    Table(CutTable),
}

/// A cut with more to say of it.
#[derive(Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CutTable {
    /// The cut, such as part 2 by "-".
    #[schemars(with = "String")]
    pub cut: Spanned<String>,
    /// What it is for.
    pub about: Option<String>,
    /// It takes the place of the column of the same name.
    #[serde(default)]
    pub replace: bool,
    /// What a finding of this cut does to its row.
    pub on_finding: Option<Action>,
    /// Cells, each with the piece that must come out of it; "" for none. They are tried before any
    /// table is read.
    #[serde(default)]
    #[schemars(with = "IndexMap<String, ExampleEntry>")]
    pub examples: IndexMap<Spanned<String>, ExampleEntry>,
}

/// What must come out of a cell.
#[derive(Debug, Clone, PartialEq, Eq, JsonSchema)]
#[schemars(untagged)]
pub enum ExampleEntry {
    /// The piece.
    Piece(String),
    /// The pieces of a cut of several names.
    Pieces(Vec<String>),
}

/// What must be so in a column of the table.
#[derive(Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ColumnEntry {
    /// Other names that a table may have for it: the one that is there is taken, where the column
    /// itself is not and no other of them is.
    pub also: Vec<String>,
    /// It is filled in every row.
    pub required: bool,
    /// No text stands in it twice.
    pub unique: bool,
    /// The type it is written with, where the output has types: text, number, integer, date or
    /// decimal 2. What does not fit is a finding.
    #[serde(rename = "as")]
    #[schemars(with = "Option<String>")]
    pub output_type: Option<Spanned<String>>,
    /// A condition its texts meet, such as is digits and length 5.
    #[schemars(with = "Option<String>")]
    pub check: Option<Spanned<String>>,
}

/// A list: its values, keys with what they stand for, or a file.
#[derive(Debug, Clone, JsonSchema)]
#[schemars(untagged)]
pub enum ListEntry {
    /// The values.
    Values(Vec<String>),
    /// A file beside the jig.
    File(ListFile),
    /// Keys and what they stand for.
    Pairs(IndexMap<String, String>),
}

/// A list in a file beside the jig: a text with one value a line, or columns of a table.
#[derive(Debug, Clone, PartialEq, Eq, JsonSchema)]
#[schemars(deny_unknown_fields)]
pub struct ListFile {
    /// The file, as its path from the jig's folder.
    pub file: String,
    /// The column of the values or keys, when the file is a table.
    pub column: Option<String>,
    /// The column of what the keys stand for.
    pub gives: Option<String>,
}

/// What a finding does to its row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, JsonSchema, clap::ValueEnum)]
#[serde(rename_all = "lowercase")]
pub enum Action {
    /// The row is written as it is.
    Keep,
    /// The new cells with a finding are left blank.
    Blank,
    /// The row is put into the file given with --rejects.
    Reject,
    /// The work stops and nothing is written.
    Stop,
}

impl From<Action> for OnFinding {
    fn from(action: Action) -> Self {
        match action {
            Action::Keep => OnFinding::Keep,
            Action::Blank => OnFinding::Blank,
            Action::Reject => OnFinding::Reject,
            Action::Stop => OnFinding::Stop,
        }
    }
}

impl Action {
    /// How it is written in a jig.
    pub fn name(self) -> &'static str {
        match self {
            Action::Keep => "keep",
            Action::Blank => "blank",
            Action::Reject => "reject",
            Action::Stop => "stop",
        }
    }
}

/// Which columns are written.
#[derive(Debug, Clone, PartialEq, Eq, JsonSchema)]
#[schemars(untagged)]
pub enum Write {
    /// "new": the new ones alone.
    Word(String),
    /// These, in this order.
    Columns(Vec<String>),
}

/// How many rows with findings are put up with.
#[derive(Debug, Clone, PartialEq, Eq, JsonSchema)]
#[schemars(untagged)]
pub enum AllowanceEntry {
    /// Such as "0.5%".
    Text(String),
    /// A number of rows.
    Rows(u64),
}

/// What the new columns looked like once.
#[derive(Debug, Clone, Default, PartialEq, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Remembered {
    /// How many rows were looked at.
    pub rows: u64,
    /// How far the share of a shape may move, in points of a hundred.
    pub drift: Option<f64>,
    /// For each new column its shapes, each with its share of the rows in percent; "" is a blank
    /// cell, "…" all further shapes.
    pub shapes: IndexMap<String, IndexMap<String, f64>>,
    /// For each column that cuts start from its layouts, in the order in which they are tried, each
    /// with its share of the rows in percent; "" is a blank cell, "…" texts of no layout.
    pub layouts: IndexMap<String, IndexMap<String, f64>>,
}

/// Reads what may be written in several forms, and says what is expected when it is none of them.
/// Untagged enums of serde would lose the places in the file.
macro_rules! forms {
    ($type:ty, $expected:literal, $($visit:item)*) => {
        impl<'de> Deserialize<'de> for $type {
            fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
                struct Forms;
                impl<'de> Visitor<'de> for Forms {
                    type Value = $type;
                    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                        f.write_str($expected)
                    }
                    $($visit)*
                }
                deserializer.deserialize_any(Forms)
            }
        }
    };
}

forms! { CutEntry, "a cut in quotes, or a table with the key cut",
    fn visit_str<E>(self, text: &str) -> Result<CutEntry, E> {
        Ok(CutEntry::Text(text.to_owned()))
    }
    fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<CutEntry, A::Error> {
        CutTable::deserialize(MapAccessDeserializer::new(map)).map(CutEntry::Table)
    }
}

forms! { ExampleEntry, "the piece in quotes, or several in square brackets",
    fn visit_str<E>(self, text: &str) -> Result<ExampleEntry, E> {
        Ok(ExampleEntry::Piece(text.to_owned()))
    }
    fn visit_seq<A: serde::de::SeqAccess<'de>>(self, mut values: A) -> Result<ExampleEntry, A::Error> {
        let mut pieces = Vec::new();
        while let Some(piece) = values.next_element()? {
            pieces.push(piece);
        }
        Ok(ExampleEntry::Pieces(pieces))
    }
}

forms! { ListEntry, "values in square brackets, keys with what they stand for, or a table with the \
    key file",
    fn visit_seq<A: serde::de::SeqAccess<'de>>(self, mut values: A) -> Result<ListEntry, A::Error> {
        let mut list = Vec::new();
        while let Some(value) = values.next_element()? {
            list.push(value);
        }
        Ok(ListEntry::Values(list))
    }
    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<ListEntry, A::Error> {
        let mut pairs = IndexMap::new();
        while let Some((key, answer)) = map.next_entry::<String, String>()? {
            pairs.insert(key, answer);
        }
        if !pairs.contains_key("file") {
            return Ok(ListEntry::Pairs(pairs));
        }
        const KEYS: &[&str] = &["file", "column", "gives"];
        match pairs.keys().find(|key| !KEYS.contains(&key.as_str())) {
            Some(unknown) => Err(serde::de::Error::unknown_field(unknown, KEYS)),
            None => {
                let mut take = |key: &str| pairs.shift_remove(key);
                let file = take("file").unwrap_or_default();
                Ok(ListEntry::File(ListFile { file, column: take("column"), gives: take("gives") }))
            }
        }
    }
}

forms! { Write, "names of columns in square brackets, or \"new\"",
    fn visit_str<E: serde::de::Error>(self, text: &str) -> Result<Write, E> {
        match text {
            "new" => Ok(Write::Word(text.to_owned())),
            _ => Err(E::invalid_value(serde::de::Unexpected::Str(text), &self)),
        }
    }
    fn visit_seq<A: serde::de::SeqAccess<'de>>(self, mut values: A) -> Result<Write, A::Error> {
        let mut columns = Vec::new();
        while let Some(column) = values.next_element()? {
            columns.push(column);
        }
        Ok(Write::Columns(columns))
    }
}

forms! { AllowanceEntry, "a share such as \"0.5%\" or a number of rows",
    fn visit_str<E>(self, text: &str) -> Result<AllowanceEntry, E> {
        Ok(AllowanceEntry::Text(text.to_owned()))
    }
    fn visit_i64<E: serde::de::Error>(self, rows: i64) -> Result<AllowanceEntry, E> {
        let negative = |_| E::invalid_value(serde::de::Unexpected::Signed(rows), &self);
        u64::try_from(rows).map(AllowanceEntry::Rows).map_err(negative)
    }
}
